"""Draws the map of the code in docs/architecture.md from the code: every package, what it says of itself, what it imports.

``python tools/map.py`` writes it; a test fails when the page says otherwise.
"""

import ast
from collections.abc import Iterator
from pathlib import Path

ROOT = Path(__file__).resolve().parents[1]
SRC, PAGE = ROOT / "src", ROOT / "docs" / "architecture.md"
BEGIN, END = "<!-- map: written by tools/map.py -->", "<!-- end of map -->"
TOP = ("engine", "documents", "desk", "instruments", "cli", "server")


def packages() -> list[Path]:
    """Packages in the order of their layers, each before what is in it."""
    found = [p.parent for p in SRC.rglob("__init__.py") if not {"migrations", "management"} & set(p.relative_to(SRC).parts)]
    return sorted(found, key=lambda p: (TOP.index(p.relative_to(SRC).parts[0]), p.relative_to(SRC).parts))


def modules(package: Path) -> list[str]:
    return sorted(p.stem for p in package.glob("*.py") if p.stem != "__init__")


def said(package: Path) -> str:
    text = ast.get_docstring(ast.parse((package / "__init__.py").read_text(encoding="utf-8"))) or ""
    return text.splitlines()[0] if text else ""


def imports(package: Path) -> list[str]:
    """Other packages of ours that a package's own modules import; of its own layer by their name inside it."""
    layer = package.relative_to(SRC).parts[0]
    own = ".".join(package.relative_to(SRC).parts)
    found = set()
    for file in package.glob("*.py"):
        for name in _imported(ast.parse(file.read_text(encoding="utf-8"))):
            place = _package_of(name)
            if place and place != own:
                found.add(place.removeprefix(f"{layer}.") if place.split(".")[0] == layer else place.split(".")[0])
    return sorted(found)


def _imported(tree: ast.AST) -> Iterator[str]:
    for node in ast.walk(tree):
        if isinstance(node, ast.ImportFrom) and node.module and node.level == 0:
            for alias in node.names:
                yield f"{node.module}.{alias.name}"
        elif isinstance(node, ast.Import):
            yield from (alias.name for alias in node.names)


def _package_of(name: str) -> str:
    """The innermost package that a dotted name lies in; empty where it is none of ours."""
    parts = name.split(".")
    while parts:
        if (SRC.joinpath(*parts) / "__init__.py").is_file():
            return ".".join(parts)
        parts.pop()
    return ""


def drawn() -> str:
    rows = ["| package | what | modules | imports |", "|---|---|---|---|"]
    for p in packages():
        path = p.relative_to(SRC).as_posix()
        rows.append(f"| `{path}` | {said(p)} | {' '.join(modules(p)) or '-'} | {' '.join(imports(p)) or '-'} |")
    return "\n".join([BEGIN, *rows, END])


def written(page: str) -> str:
    """The page with the map as it is now."""
    before, rest = page.split(BEGIN)
    return before + drawn() + rest.split(END)[1]


if __name__ == "__main__":
    PAGE.write_text(written(PAGE.read_text(encoding="utf-8")), encoding="utf-8")
