"""The map in docs/architecture.md is the one that the code draws."""

from django.test import SimpleTestCase

import tests.tools_path  # noqa: F401  (tools are no part of the application)
from map import PAGE, packages, said, written


class MapTest(SimpleTestCase):
    def test_the_page_shows_the_code_as_it_is(self) -> None:
        page = PAGE.read_text(encoding="utf-8")
        self.assertEqual(written(page), page, "run: python tools/map.py")

    def test_every_package_says_what_it_is(self) -> None:
        self.assertEqual([str(p) for p in packages() if not said(p)], [])
