"""Every figure that stands as a constant of the engine says where it comes from, or that it is a matter of arithmetic."""

import ast
from pathlib import Path

from django.test import SimpleTestCase

ENGINE = Path(__file__).resolve().parents[2] / "src" / "engine"


def figures(node: ast.expr) -> bool:
    return any(isinstance(x, ast.Constant) and isinstance(x.value, int | float) and not isinstance(x.value, bool) for x in ast.walk(node))


def names(node: ast.Assign) -> list[str]:
    return [x.id for target in node.targets for x in ast.walk(target) if isinstance(x, ast.Name)]


def unsaid(path: Path) -> list[str]:
    """Constants of a module without a remark beside or over them, or a string under them."""
    text = path.read_text(encoding="utf-8")
    lines, body = text.splitlines(), ast.parse(text).body
    found = []
    for node, after in zip(body, [*body[1:], None], strict=True):
        if not isinstance(node, ast.Assign) or not all(n.isupper() for n in names(node)) or not figures(node.value):
            continue
        over = lines[node.lineno - 2] if node.lineno > 1 else ""
        own = "\n".join(lines[node.lineno - 1 : node.end_lineno])
        under = isinstance(after, ast.Expr) and isinstance(after.value, ast.Constant)
        if not (under or "#" in own or over.lstrip().startswith("#")):
            found.append(f"{path.relative_to(ENGINE)}: {', '.join(names(node))}")
    return found


class ConstantsTest(SimpleTestCase):
    def test_each_says_where_it_comes_from(self) -> None:
        modules = list(ENGINE.rglob("*.py"))
        self.assertGreater(len(modules), 60)
        self.assertEqual([x for path in modules for x in unsaid(path) if not x.endswith((": QUANTITIES", ": KEPT_IN"))], [])
