"""Build from the chosen layout: steps in their order at the bench with one thumb, kept through a reload; units and their words."""

from typing import ClassVar

from django.test import tag

from server.apps.build.models import Tick
from tests.browser.base import BrowserCase

FIRST = ("mains_off", "kit", "panels_off", "manuals")


@tag("browser")
class BuildTest(BrowserCase):
    def tick(self, step: str) -> None:
        self.page.locator(f"[data-step={step}] input[type=checkbox]").check()
        self.page.wait_for_selector(f"[data-step={step}][data-state=done]")

    def test_steps_wait_for_each_other_and_what_is_ticked_stays(self) -> None:
        self.open_demo("build", layout="D")
        self.page.wait_for_selector("[data-build=D]")
        self.assertTrue(self.page.locator("[data-step=kit] input[type=checkbox]").is_disabled())
        for step in FIRST:
            self.tick(step)
        self.page.get_by_role("button", name="Fan Tern 120 at R1").click()
        picture = self.page.locator("[data-step=fan_r1_outer] img")
        self.assertIn("outlet side", picture.get_attribute("alt") or "")
        self.page.locator("[data-step=fan_r1_outer]").get_by_role("button", name="seen from inside the case").click()
        self.assertIn("inlet side", picture.get_attribute("alt") or "")
        self.page.get_by_label("what is otherwise at step").fill("the other kind of screws")
        self.page.get_by_role("button", name="done otherwise").click()
        self.page.wait_for_selector("[data-step=fan_r1_outer][data-state=otherwise]")
        self.page.reload()
        self.page.wait_for_selector("[data-ticked='5']")
        self.page.get_by_text("the other kind of screws").first.wait_for()
        self.page.locator("[data-step=kit] input[type=checkbox]").uncheck()
        self.page.wait_for_selector("[data-ticked='2']")
        self.assertEqual(set(Tick.objects.values_list("step", flat=True)), {"mains_off", "panels_off"})

    def test_a_rebuild_takes_out_first_and_the_sheet_prints(self) -> None:
        self.open_demo("build", layout="D")
        self.page.get_by_label("From").select_option("B")
        self.page.wait_for_selector("[data-step=out_cooler]")
        with self.page.expect_download() as sheet:
            self.page.get_by_role("link", name="Letter").click()
        self.assertTrue(sheet.value.suggested_filename.endswith("-build.pdf"))
        self.page.get_by_role("button", name="fans", exact=True).click()
        self.assertEqual(self.page.locator("[data-fan]").count(), 5)
        for view, words in (("leads", "Map of the leads"), ("curves", "No fan of this layout follows a curve"), ("parts", "To be had")):
            self.page.get_by_role("button", name=view, exact=True).click()
            self.page.get_by_text(words).first.wait_for()

    def test_a_made_up_unit_with_bad_paste_is_told(self) -> None:
        self.open_demo("build", layout="A")
        self.page.get_by_role("button", name="units", exact=True).click()
        self.page.get_by_text("Try it with a made-up unit").click()
        self.page.get_by_label("What is wrong with it").select_option("paste")
        self.page.get_by_role("button", name="Make one up and run it").click()
        self.page.wait_for_selector("[data-result=fail]", timeout=60_000)
        self.assertEqual(self.page.locator("[data-cause]").first.get_attribute("data-cause"), "paste")
        self.page.get_by_role("link", name="certificate").wait_for()


@tag("browser")
class PhoneTest(BrowserCase):
    size: ClassVar[tuple[int, int]] = (390, 800)

    def test_the_sheet_fits_a_phone_and_takes_a_thumb(self) -> None:
        self.open_demo("build", layout="D")
        self.page.wait_for_selector("[data-build=D]")
        wide = self.page.evaluate("document.querySelector('main').scrollWidth - document.querySelector('main').clientWidth")
        self.assertLessEqual(wide, 1)
        box = self.page.locator("[data-step=mains_off] input[type=checkbox]")
        size = box.bounding_box()
        assert size
        self.assertGreaterEqual(min(size["width"], size["height"]), 24)
        box.check()
        self.page.wait_for_selector("[data-step=mains_off][data-state=done]")
