"""Every kind of one-click fix, from a layout made wrong on purpose to its finding gone."""

import json
import tempfile
from pathlib import Path
from typing import Any

from django.test import tag
from playwright.sync_api import expect

from tests.browser.base import BrowserCase
from tests.machines import demo_raw, fan_raw, layout_raw


@tag("browser")
class FixesTest(BrowserCase):
    def open_with(self, layout: str = "A", **more: Any) -> None:
        """A job from a file, as somebody else's would arrive, at one of its layouts."""
        raw = demo_raw()
        raw["name"] = "made wrong"
        layout_raw(raw, layout).update(more)
        raw["layouts"] = [layout_raw(raw, layout)]
        self.open("/")
        with tempfile.TemporaryDirectory() as folder:
            file = Path(folder) / "job.oventa.json"
            file.write_text(json.dumps(raw), encoding="utf-8")
            self.page.locator("input[type=file]").set_input_files(file)
            self.page.wait_for_selector(f"[data-forecast={layout}]")
        self.page.wait_for_selector("[data-answered=yes]")

    def fixed(self, code: str, button: str) -> None:
        self.page.locator(f"[data-finding={code}]").first.get_by_role("button", name=button).click()
        self.page.wait_for_selector(f"[data-finding={code}]", state="detached")
        self.saved()

    def test_plug_in(self) -> None:
        self.open_with(fans=[{**fan_raw("f1", "intake"), "state": "unplugged"}, fan_raw("f2", "intake"), fan_raw("r1", "exhaust")])
        self.fixed("fan_unplugged", "Plug F1 in")

    def test_turn_the_tower(self) -> None:
        self.open_with(cooler_direction="up")
        self.fixed("chimney_over_card", "Turn the tower to the rear")

    def test_lay_the_card_flat(self) -> None:
        self.open_with(card_orientation="upright")
        self.fixed("upright_near_window", "Lay the card flat")

    def test_fit_the_panel_again(self) -> None:
        self.open_with(panels={"top": {"state": "removed"}})
        self.fixed("panel_off", "Fit the top panel again")

    def test_a_panel_that_costs_kelvins_is_no_button(self) -> None:
        self.open_with(panels={"window": {"state": "removed"}})
        finding = self.page.locator("[data-finding=panel_off]")
        expect(finding).to_contain_text(
            "Fit the window panel again: the processor 6.1 K warmer, the card 2.3 K warmer; so it is not offered"
        )
        self.assertEqual(finding.locator("[data-fix]").count(), 0)

    def test_two_findings_on_one_mount_come_and_go(self) -> None:
        """Both layers of a mount are unplugged: the same code on the same mount twice. After a fix and an undo there are two again."""
        idle = {**fan_raw("f1", "intake"), "state": "unplugged"}
        self.open_with(fans=[idle, {**idle, "layer": "inner"}, fan_raw("f2", "intake"), fan_raw("r1", "exhaust")])
        found = self.page.locator("[data-finding=fan_unplugged]")
        total = self.page.locator("[data-finding]").count()
        expect(found).to_have_count(2)
        for _ in range(3):
            found.first.locator("[data-fix]").first.click()
            expect(found).to_have_count(1)
            self.page.locator("footer").get_by_role("button", name="undo").click()
            expect(found).to_have_count(2)
            self.page.wait_for_selector("[data-findings=known]")
            self.assertEqual(self.page.locator("[data-finding]").count(), total)
        numbers = self.page.locator("[data-finding] > span").all_inner_texts()
        self.assertEqual(numbers, [str(i + 1) for i in range(total)])

    def test_what_does_not_fit_is_said_first_and_gone_with_another_part(self) -> None:
        raw = demo_raw()
        self.open_with("D", card=None)
        self.assertEqual(self.page.locator("[data-finding=does_not_fit]").count(), 0)
        wide = [{**fan_raw("f1", "intake"), "fan": "tern-140"}]
        raw["parts"]["fans"].append({**raw["parts"]["fans"][0], "id": "tern-140", "size_mm": 140})
        layout_raw(raw, "A")["fans"] = wide
        raw["case"]["mounts"][0]["sizes_mm"] = [120]
        self.open("/")
        with tempfile.TemporaryDirectory() as folder:
            file = Path(folder) / "wide.oventa.json"
            file.write_text(json.dumps(raw), encoding="utf-8")
            self.page.locator("input[type=file]").set_input_files(file)
            self.page.wait_for_selector("[data-finding=does_not_fit]")
        self.assertEqual(self.page.locator("[data-finding]").first.get_attribute("data-finding"), "does_not_fit")
        self.mount("f1").click()
        self.page.get_by_label("Fan at F1", exact=True).select_option("tern-120")
        self.page.wait_for_selector("[data-finding=does_not_fit]", state="detached")
        self.saved()
