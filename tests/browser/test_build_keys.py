"""The views of building by keyboard alone, narrow and at night, and what bad input there does."""

from typing import ClassVar

from django.test import tag

from server.apps.jobs import adapters
from server.apps.jobs.models import Job
from tests.browser.base import BrowserCase

VIEWS = ("fit", "leads", "loop", "as found", "later")
SIDEWAYS = "document.documentElement.scrollWidth - document.documentElement.clientWidth"


@tag("browser")
class KeyboardTest(BrowserCase):
    def focus(self, words: str, most: int = 160) -> None:
        """Tab until what is focused says these words."""
        told = "(document.activeElement.getAttribute('aria-label') || document.activeElement.innerText || '').trim()"
        labelled = "[...(document.activeElement.labels ?? [])].map(l => l.innerText.trim()).join(' ')"
        for _ in range(most):
            self.page.keyboard.press("Tab")
            if words in (self.page.evaluate(told), self.page.evaluate(labelled)):
                return
        self.fail(f"nothing called {words!r} can be reached by Tab")

    def test_an_audit_by_keyboard_alone(self) -> None:
        self.open_demo()
        self.focus("as found: The machine as it stands")
        self.page.keyboard.press("Enter")
        self.focus("Start: all as meant")
        self.page.keyboard.press("Enter")
        self.focus("F2 blows")
        self.page.keyboard.press("o")  # a list jumps to the choice that begins so
        self.page.locator("[data-deviation=reversed]").wait_for()

    def test_a_school_s_layout_by_keyboard_alone(self) -> None:
        self.open_demo()
        self.focus("from a school")
        self.page.keyboard.press("Enter")
        self.page.locator("[data-school=chimney]").wait_for()
        self.focus("chimney", 12)
        self.page.keyboard.press("Enter")
        self.page.wait_for_selector("[data-forecast=E]")
        self.saved()
        self.assertEqual(Job.objects.get().layouts.get(key="E").more["cooler_direction"], "up")

    def test_a_list_of_the_survey_by_keyboard_alone_and_back(self) -> None:
        self.open_demo("survey")
        self.focus("Add a point", 400)
        self.page.keyboard.press("Enter")
        self.page.locator("[data-row=p1]").wait_for()
        self.page.locator("[data-keys=drawing] [tabindex='0']").first.focus()
        self.page.keyboard.press("z")
        self.page.locator("[data-row=p1]").wait_for(state="detached")

    def test_the_guide_opens_and_closes_by_key(self) -> None:
        self.open_demo()
        self.mount("f2").click()
        self.focus("which way does it blow?")
        self.page.keyboard.press("Enter")
        self.page.get_by_role("dialog").wait_for()
        self.page.keyboard.press("Escape")
        self.page.get_by_role("dialog").wait_for(state="detached")

    def test_things_of_the_drawing_are_chosen_by_keyboard_and_dialogs_give_the_focus_back(self) -> None:
        self.open_demo()
        for thing, label in (("card", "Card stands"), ("panels", "front panel"), ("cooler", "Cooler blows")):
            self.page.locator(f"[data-thing={thing}]").focus()
            self.page.keyboard.press("Enter")
            self.page.locator(f"[data-tray={thing}]").get_by_label(label).wait_for()
        place = self.place(self.page.locator("[data-outline]"))
        self.mount("f2").click()
        self.page.get_by_label("Fan at F2", exact=True).wait_for()
        self.assertEqual(self.place(self.page.locator("[data-outline]")), place, "the drawing moved under the hand")
        opener = self.page.get_by_role("button", name="which way does it blow?")
        opener.focus()
        self.page.keyboard.press("Enter")
        self.page.get_by_role("dialog").get_by_text("Arrows on the frame").wait_for()
        self.page.keyboard.press("Escape")
        self.page.get_by_role("dialog").wait_for(state="detached")
        self.assertTrue(opener.evaluate("e => e === document.activeElement"))
        self.page.keyboard.press("?")
        self.page.get_by_role("dialog", name="Keys and words").wait_for()
        self.page.keyboard.press("Escape")
        self.page.get_by_role("dialog").wait_for(state="detached")

    def test_a_run_s_drawing_has_its_table(self) -> None:
        self.open_demo("bench")
        twin = self.page.locator("[data-twin]").first
        twin.get_by_text("as a table").click()
        self.assertIn("processor", twin.locator("th").nth(1).inner_text())
        self.assertGreater(twin.locator("tbody tr").count(), 20)


@tag("browser")
class NarrowTest(BrowserCase):
    size: ClassVar[tuple[int, int]] = (820, 1180)

    def test_nothing_runs_off_the_side(self) -> None:
        self.open_demo(layout="C")
        for view in VIEWS:
            self.view(view)
            self.page.wait_for_timeout(200)
            with self.subTest(view=view):
                self.assertLessEqual(self.page.evaluate(SIDEWAYS), 0)
        for thing in ("cooler, loop", "card", "panels", "board, supply", "fan groups", "notes"):
            self.tray(thing)
            with self.subTest(thing=thing):
                self.assertLessEqual(self.page.evaluate(SIDEWAYS), 0)
        for station in ("survey", "parts", "verdict"):
            self.open_demo(station)
            self.page.locator("h1, [data-order]").first.wait_for()
            with self.subTest(station=station):
                self.assertLessEqual(self.page.evaluate(SIDEWAYS), 0)

    def test_every_view_at_night(self) -> None:
        self.open_demo(layout="C")
        self.page.get_by_role("button", name="night bench").click()
        paper = "getComputedStyle(document.querySelector('aside[aria-label=\"Forecast and findings\"]')).backgroundColor"
        self.assertNotIn("255, 255, 255", self.page.evaluate(paper))
        for view in VIEWS:
            self.view(view)
            self.page.locator("aside[aria-label='Forecast and findings'] h2").first.wait_for()


@tag("browser")
class BadInputTest(BrowserCase):
    def test_lists_refuse_what_makes_no_sense_and_keep_the_rest(self) -> None:
        self.open_demo("survey")
        self.page.get_by_role("button", name="Add a later load").click()
        row = self.page.locator("[data-rows=scenarios] [data-row=s1]")
        row.get_by_label("Card, more").fill("many")
        row.get_by_text("Type a number.").wait_for()
        row.get_by_label("Card, more").fill("99999")
        row.get_by_text("Between 0 to 900").wait_for()
        row.get_by_label("Card, more").fill("200")
        self.saved()
        self.assertEqual(adapters.document(Job.objects.get())["scenarios"][0]["card_add_w"], 200)

    def test_an_empty_reason_is_told_and_nothing_is_lost(self) -> None:
        self.open_demo("survey")
        self.page.get_by_role("button", name="Add an either-or").click()
        self.page.get_by_label("because").fill("")
        self.page.locator("[data-save=refused]").wait_for()
        self.page.get_by_label("because").fill("they stand in one place")
        self.saved()
        self.assertEqual(adapters.document(Job.objects.get())["case"]["exclusions"][0]["why"], "they stand in one place")

    def test_a_mount_that_leaves_takes_its_leads_and_looks_along(self) -> None:
        self.open_demo()
        self.view("as found")
        self.page.get_by_role("button", name="Start: all as meant").click()
        self.saved()
        self.page.get_by_role("link", name="Survey").first.click()
        self.page.get_by_role("button", name="remove F2").click()
        self.saved()
        raw = adapters.document(Job.objects.get())
        self.assertNotIn("f2", [s["mount"] for x in raw["layouts"] for s in x.get("as_found", [])])

    def test_a_group_a_drive_and_a_layout_that_leave_are_named_nowhere(self) -> None:
        self.open_demo()
        self.tray("fan groups")
        self.page.get_by_role("button", name="Add a group").click()
        self.mount("f2").click()
        self.page.get_by_label("Group of the fan at F2").select_option(index=1)
        self.tray("fan groups")
        self.page.locator("[data-rows$=groups]").get_by_role("button", name="remove").click()
        self.saved()
        self.view("later")
        self.page.get_by_role("button", name="Add an idea").click()
        self.page.get_by_role("button", name="make it a layout from A").click()
        self.page.get_by_role("button", name="remove E").click()
        self.saved()
        self.page.get_by_role("link", name="Survey").first.click()
        self.page.get_by_role("button", name="Add a drive place").click()
        self.page.locator("[data-survey-mount=f1]").get_by_label("drive place").check()
        self.page.locator("[data-rows='case.drives']").get_by_role("button", name="remove").click()
        self.saved()
        raw = adapters.document(Job.objects.get())
        self.assertEqual([f.get("group") for f in raw["layouts"][0]["fans"]], [None, None, None])
        self.assertEqual([i.get("layout") for i in raw["ideas"]], [None])
        self.assertEqual([m.get("takes_drives", []) for m in raw["case"]["mounts"] if m["id"] == "f1"], [[]])

    def test_a_part_that_leaves_is_not_still_counted(self) -> None:
        self.open_demo("parts")
        self.page.get_by_label("Add a kind of fan").select_option(label="Gull 200")
        self.page.locator("[data-part=gull-200]").get_by_label("On hand").fill("3")
        self.saved()
        self.page.locator("[data-part=gull-200]").get_by_role("button", name="take off").click()
        self.saved()
        self.assertNotIn("gull-200", adapters.document(Job.objects.get()).get("stock", {}).get("fans", {}))
