"""Survey and Parts: the drawing follows the numbers, parts are edited in place, what is in use stays."""

import re

from django.test import tag

from server.apps.jobs.models import Job
from tests.browser.base import BrowserCase


@tag("browser")
class SurveyTest(BrowserCase):
    def box(self, name: str) -> dict[str, float]:
        found = self.mount(name).locator("rect").first.bounding_box()
        assert found is not None
        return {"x": found["x"], "y": found["y"]}

    def test_the_drawing_follows_the_numbers_and_undo(self) -> None:
        self.open_demo("survey")
        before = self.box("f1")["y"]
        top = "document.querySelector('[data-mount=f1] rect').getBoundingClientRect().y"
        self.page.locator("[data-survey-mount=f1]").get_by_label("Centre, over the floor").fill("200")
        self.page.wait_for_function(f"y => {top} > y + 50", arg=before)
        self.page.locator("footer").get_by_role("button", name="undo").click()
        self.page.wait_for_function(f"y => Math.abs({top} - y) < 2", arg=before)

    def test_the_face_asked_for_is_lit_and_a_click_finds_the_figures(self) -> None:
        self.open_demo("survey")
        self.page.get_by_label("Height, floor to top").focus()
        self.page.locator("path[stroke='var(--color-accent)']").wait_for(state="attached")
        self.mount("r1").click()
        self.assertIn("border-base-content", self.page.locator("[data-survey-mount=r1]").get_attribute("class") or "")

    def test_panel_kinds_ask_for_their_own_figures(self) -> None:
        self.open_demo("survey")
        front = self.page.locator("[data-face=front]")
        front.get_by_label("Panel").select_option("slots")
        front.get_by_label("Slots in all").fill("75")
        front.get_by_label("Right-angle turns").fill("1")
        front.get_by_label("Panel").select_option("glass")
        front.get_by_label("Slots in all").wait_for(state="detached")
        front.get_by_label("Panel").select_option("")
        self.saved()
        self.assertEqual(sorted(Job.objects.get().case.panels.values_list("face", flat=True)), ["top", "window"])

    def test_a_removed_mount_takes_its_fans_and_radiators_along_and_comes_back(self) -> None:
        self.open_demo("survey")
        self.page.get_by_role("button", name="remove F1").click()
        self.saved()
        job = Job.objects.get()
        self.assertFalse(job.layouts.get(key="D").more["radiator"])
        self.page.locator("footer").get_by_role("button", name="undo").click()
        self.saved()
        self.assertEqual(job.layouts.get(key="D").more["radiator"]["mounts"], ["f1", "f2"])

    def test_shroud_and_mounts_on_it(self) -> None:
        self.open_demo("survey")
        self.page.get_by_role("button", name="Add a mount at the bottom").click()
        self.page.get_by_label("on the shroud's roof").check()
        self.page.get_by_label("A shroud covers the supply").uncheck()
        self.page.get_by_label("on the shroud's roof").wait_for(state="detached")
        self.saved()

    def test_inches_are_stored_as_millimetres(self) -> None:
        self.open_demo("survey")
        self.page.get_by_title("Units: metric, or CFM, mmH₂O, inch, °F").click()
        self.page.get_by_label("Depth, front to rear").fill("17")
        self.saved()
        self.assertAlmostEqual(Job.objects.get().case.depth_mm, 431.8)

    def test_words_where_a_number_belongs(self) -> None:
        self.open_demo("survey")
        width = self.page.get_by_label("Width, tray to window")
        width.fill("wide")
        self.page.get_by_text("Type a number.").wait_for()
        width.fill("")
        self.page.get_by_text("A figure is needed here.").wait_for()
        self.assertEqual(Job.objects.get().case.width_mm, 215)


@tag("browser")
class PartsTest(BrowserCase):
    def test_a_part_in_use_cannot_be_taken_off_and_others_can(self) -> None:
        self.open_demo("parts")
        tern = self.page.locator("[data-part=tern-120]")
        self.assertTrue(tern.get_by_role("button", name="used by layout A").is_disabled())
        self.page.get_by_label("Add a kind of fan").select_option(label="Gull 200")
        self.page.locator("[data-part=gull-200]").get_by_role("button", name="take off").click()
        self.page.locator("[data-part=gull-200]").wait_for(state="detached")

    def test_the_same_part_twice_gets_its_own_id(self) -> None:
        self.open_demo("parts")
        self.page.get_by_label("Add a kind of fan").select_option(label="Tern 120")
        self.page.locator("[data-part=tern-1202]").wait_for()

    def test_other_processor_changes_the_forecast(self) -> None:
        self.open_demo()
        before = float(self.page.locator("[data-row=Processor]").get_attribute("data-rise") or 0)
        self.page.keyboard.press("2")
        self.page.get_by_label("Add a processor").select_option(label="rendering processor, 230 W")
        self.page.locator("[data-part=render-230]").get_by_label("in the machine").check()
        self.page.keyboard.press("Escape")
        self.page.get_by_role("link", name="Layouts").click()
        self.page.wait_for_function("k => +document.querySelector('[data-row=Processor]')?.dataset.rise > k + 15", arg=before)

    def test_a_downdraft_brings_its_fan_and_its_own_fields(self) -> None:
        self.open_demo("parts")
        self.page.get_by_label("Add a cooler").select_option(label="Puffin 47 downdraft")
        self.page.locator("[data-part=noddy-92-slim]").wait_for()
        row = self.page.locator("[data-part=puffin-47]")
        row.get_by_label("Fins to air, W/K").wait_for()
        self.assertEqual(row.get_by_label("Coolant, ml").count(), 0)
        self.assertEqual(self.page.locator("[data-part=skua-120] polyline").count(), 1)


@tag("browser")
class SettingsTest(BrowserCase):
    def test_a_sealed_cooler_with_its_radiator_in_a_layout(self) -> None:
        self.open_demo(layout="A")
        self.tray("cooler, loop")
        self.page.get_by_label("Cooler", exact=True).select_option(label="Shearwater sealed, pump on the processor")
        self.page.get_by_role("alert").get_by_text("a sealed cooler needs a radiator").wait_for()
        for name in ("T1", "T2"):
            self.page.get_by_label(name, exact=True).check()
        self.page.locator("[data-row=Coolant]").wait_for()
        self.page.get_by_text("Peel the film off the cold plate").wait_for()
        self.page.get_by_label("F1", exact=True).check()
        self.saved()
        self.assertEqual(Job.objects.get().layouts.get(key="A").more["radiator"]["mounts"], ["f1"])

    def test_load_reference_and_panel_states(self) -> None:
        self.open_demo(layout="B")
        both = float(self.page.locator("[data-row=Processor]").get_attribute("data-rise") or 0)
        self.forecast_after(lambda: self.page.get_by_label("Load").select_option("idle"))
        self.page.wait_for_function("k => +document.querySelector('[data-row=Processor]').dataset.rise < k / 2", arg=both)
        self.page.get_by_role("button", name="make B the reference").click()
        self.page.get_by_text("B is the reference").wait_for()
        self.tray("panels")
        self.page.get_by_label("front panel").select_option("stood_off")
        self.page.get_by_role("button", name="all panels on").click()
        self.page.get_by_role("button", name="all panels on", exact=True).wait_for(state="detached")
        self.tray("card")
        self.page.get_by_label("Card stands").select_option("upright")
        self.page.get_by_text("card 220 W open, upright").wait_for()

    def test_a_job_by_keyboard_alone(self) -> None:
        """From the list of jobs to a flipped fan and a duplicated layout without touching the mouse."""
        self.open("/")
        self.page.get_by_text("Watch-room plotter").wait_for()
        press = self.page.keyboard.press
        for _ in range(8):
            press("Tab")
            if "Watch-room" in self.page.evaluate("document.activeElement.textContent"):
                break
        press("Enter")
        self.page.wait_for_selector("[data-forecast]")
        press("]")
        self.page.wait_for_selector("[data-forecast=B]")
        for _ in range(60):
            press("Tab")
            if self.page.evaluate("document.activeElement.closest('[data-keys=drawing]') !== null"):
                break
        press("ArrowUp")
        press("ArrowLeft")
        self.page.wait_for_selector("[data-mount][aria-pressed=true]")
        press("f")
        self.page.locator("footer").get_by_text(": flip").wait_for()
        press("Z")
        press("z")
        press("1")
        self.page.wait_for_url(re.compile("/survey([?]|$)"))
