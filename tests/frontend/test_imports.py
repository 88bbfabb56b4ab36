"""Imports of the front end go one way: the application knows its stations, a station what is shared, and no station another."""

import re
from pathlib import Path

from django.test import SimpleTestCase

from tests.machines import ROOT

SOURCE = ROOT / "frontend/src"
# From the ground up: a room may import what stands before it.
ROOMS = ("words", "units", "theme", "api", "ui", "keys", "job", "charts", "cutaway")
IMPORT = re.compile(r'(?:from|import) "(@/|\.{1,2}/)([^"]*)"')
FETCHES = re.compile(r"\bfetch\(|\bclient\.(GET|POST|PUT|PATCH|DELETE)\(|new (XMLHttpRequest|WebSocket|EventSource)")


class FrontEndTest(SimpleTestCase):
    def test_imports_go_one_way(self) -> None:
        self.assertEqual([told for path in sources() for told in upward(path)], [])

    def test_only_the_shared_api_fetches(self) -> None:
        found = [str(p.relative_to(SOURCE)) for p in sources() if FETCHES.search(p.read_text(encoding="utf-8"))]
        self.assertTrue(found)
        self.assertEqual([f for f in found if not f.startswith("shared/api/")], [])

    def test_only_the_shared_charts_draw_with_the_library_of_charts(self) -> None:
        found = [str(p.relative_to(SOURCE)) for p in sources() if '"uplot' in p.read_text(encoding="utf-8")]
        self.assertTrue(found)
        self.assertEqual([f for f in found if not f.startswith("shared/charts/")], [])

    def test_type_is_set_in_one_scale_and_colours_come_from_the_theme(self) -> None:
        loose = re.compile(r"text-\[\d|#[0-9a-fA-F]{6}\b|(?:bg|text|border|stroke|fill)-(?:red|green|blue|gray|slate|amber|white|black)\b")
        found = [
            f"{path.relative_to(SOURCE)}:{n}: {line.strip()}"
            for path in sources()
            for n, line in enumerate(path.read_text(encoding="utf-8").splitlines(), 1)
            if loose.search(line)
        ]
        self.assertEqual(found, [], "sizes and colours stand in shared/theme/theme.css")


def sources() -> list[Path]:
    return sorted(p for p in SOURCE.rglob("*.ts*") if not p.name.endswith(".d.ts"))


def upward(path: Path) -> list[str]:
    me = path.relative_to(SOURCE).parts
    told = []
    for base, name in IMPORT.findall(path.read_text(encoding="utf-8")):
        to = ((SOURCE / name) if base == "@/" else (path.parent / base / name).resolve()).relative_to(SOURCE).parts
        if not allowed(me, to):
            told.append(f"{'/'.join(me)} imports {'/'.join(to)}")
    return told


def allowed(me: tuple[str, ...], to: tuple[str, ...]) -> bool:
    if me[0] in ("main.tsx", "app"):
        return True
    if me[0] == "stations":
        return to[0] == "shared" or to[:2] == me[:2]
    return to[0] == "shared" and ROOMS.index(to[1]) <= ROOMS.index(me[1])
