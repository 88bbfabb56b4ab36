"""Writes what the code of the engine and of the method of judging says into ``engine/identity.py``, under a number of its own.

``python tools/identity.py`` refuses where the code changed and its number did not: a number stands for one state of the code. Every
number that was ever given, with its sources, is in ``docs/identity.json``.
"""

import ast
import hashlib
import json
import re
import sys
from pathlib import Path

ROOT = Path(__file__).resolve().parents[1]
SRC, HISTORY, OWN = ROOT / "src", ROOT / "docs" / "identity.json", ROOT / "src" / "engine" / "identity.py"
JUDGING = ("engine/runs", "engine/plan/acceptance.py", "engine/verdict", "desk/verdict")
APART = ("engine/identity.py", "engine/runs", "engine/plan", "engine/verdict")  # no part of a forecast


class Told(ast.NodeTransformer):
    """Takes away what code does not do: documentation."""

    def _told(self, node: ast.AST) -> ast.AST:
        self.generic_visit(node)
        body = getattr(node, "body", [])
        if body and isinstance(body[0], ast.Expr) and isinstance(body[0].value, ast.Constant) and isinstance(body[0].value.value, str):
            body.pop(0)
        return node

    visit_Module = visit_ClassDef = visit_FunctionDef = visit_AsyncFunctionDef = _told  # noqa: N815  (ast's own names)


def says(text: str) -> str:
    """What a module does, without comments, documentation and layout."""
    return ast.dump(Told().visit(ast.parse(text)))


def files(part: str) -> list[Path]:
    """Modules of the ``engine`` or of the ``method``."""
    if part == "method":
        places = [SRC / p for p in JUDGING]
        found = [f for p in places for f in (p.rglob("*.py") if p.is_dir() else [p])]
    else:
        found = [f for f in (SRC / "engine").rglob("*.py") if not f.relative_to(SRC).as_posix().startswith(APART)]
    return sorted(found)


def sources(part: str) -> str:
    digest = hashlib.sha256()
    for file in files(part):
        digest.update(f"{file.relative_to(SRC).as_posix()}\0{says(file.read_text(encoding='utf-8'))}\0".encode())
    return digest.hexdigest()


def given(text: str) -> dict[str, tuple[str, str]]:
    """Number and sources by part, as ``engine/identity.py`` has them."""
    found = re.findall(r'^(ENGINE|METHOD) = Identity\("([\d.]+)", "([0-9a-f]*)"\)', text, re.M)
    return {name.lower(): (number, digest) for name, number, digest in found}


def faults(now: dict[str, tuple[str, str]], history: dict[str, dict[str, str]], found: dict[str, str]) -> list[str]:
    """Parts whose code says something else than it did under the number that it has."""
    return [
        f"{part} {number} was given to other code: raise the number of {part.upper()} in engine/identity.py, then python tools/identity.py"
        for part, (number, _) in now.items()
        if history.get(part, {}).get(number, found[part]) != found[part]
    ]


def main() -> int:
    text = OWN.read_text(encoding="utf-8")
    history = json.loads(HISTORY.read_text(encoding="utf-8")) if HISTORY.exists() else {}
    now, found = given(text), {part: sources(part) for part in ("engine", "method")}
    wrong = faults(now, history, found)
    for line in wrong:
        sys.stderr.write(line + "\n")
    if wrong:
        return 1
    for part, (number, old) in now.items():
        text = text.replace(f'Identity("{number}", "{old}")', f'Identity("{number}", "{found[part]}")', 1) if old != found[part] else text
        history.setdefault(part, {})[number] = found[part]
    OWN.write_text(text, encoding="utf-8")
    HISTORY.write_text(json.dumps(history, indent=1) + "\n", encoding="utf-8")
    return 0


if __name__ == "__main__":
    sys.exit(main())
