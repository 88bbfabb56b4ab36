"""Care and practice in the browser: something done and its next date, a symptom's checks, a machine answered, a fan told."""

from typing import ClassVar

from django.test import tag

from tests.browser.base import BrowserCase


@tag("browser")
class CareTest(BrowserCase):
    def test_what_was_done_moves_its_date_and_a_symptom_has_its_checks(self) -> None:
        self.open_demo("care")
        self.page.wait_for_selector("[data-care]")
        self.page.get_by_text("say when it was built").wait_for()
        self.page.get_by_label("Built on").fill("2020-01-02")
        self.page.get_by_label("Built on").blur()
        self.page.wait_for_selector("[data-due=filters][data-state=overdue]")
        self.page.locator("[data-due=filters]").get_by_role("button", name="done today").click()
        self.page.wait_for_selector("[data-due=filters][data-state=fine]")
        self.page.wait_for_selector("[data-entry=filters]")
        self.page.get_by_label("What it does").select_option("hot_load")
        self.page.wait_for_selector("[data-symptom=hot_load] li")
        with self.page.expect_download() as ics:
            self.page.get_by_role("link", name="all of it as a calendar").click()
        self.assertTrue(ics.value.suggested_filename.endswith("-care.ics"))


@tag("browser")
class PracticeTest(BrowserCase):
    size: ClassVar[tuple[int, int]] = (1280, 900)

    def test_a_machine_is_looked_at_answered_and_explained(self) -> None:
        self.open("/")
        self.page.get_by_role("link", name="Practise").click()
        self.page.wait_for_selector("[data-exercise]", timeout=60_000)
        self.page.get_by_text("m³/h").first.wait_for()
        self.page.get_by_role("button", name="A hint").click()
        self.page.wait_for_selector("[data-hint]")
        self.page.get_by_label("Fault").select_option("negative")
        self.page.get_by_role("button", name="Mark it").click()
        self.page.get_by_role("button", name="That is all").click()
        self.page.wait_for_selector("[data-score]")
        self.page.locator("[data-explained]").first.wait_for()
        self.page.get_by_role("button", name="which way does it blow").click()
        self.page.get_by_role("button", name="away from you").click()
        self.page.wait_for_selector("[data-right]")
        self.page.get_by_role("button", name="Next fan").click()
        self.page.wait_for_selector("[data-drill='2']")
