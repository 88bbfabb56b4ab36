"""Words that explain themselves, the tray of parts, and what each fan is worth, as people meet them."""

from django.test import tag
from playwright.sync_api import expect

from server.apps.jobs import adapters
from server.apps.jobs.models import Job
from tests.browser.base import BrowserCase


@tag("browser")
class WordsAndTrayTest(BrowserCase):
    def test_a_word_explains_itself_to_pointer_and_keyboard(self) -> None:
        self.open_demo("layouts")
        word = self.page.locator("[data-term=settled]").first
        word.hover()
        expect(self.page.get_by_role("tooltip")).to_contain_text("Warm all through")
        self.page.mouse.move(5, 5)
        expect(self.page.get_by_role("tooltip")).to_have_count(0)
        word.focus()
        expect(self.page.get_by_role("tooltip")).to_be_visible()
        self.page.keyboard.press("Escape")
        expect(self.page.get_by_role("tooltip")).to_have_count(0)
        self.page.get_by_role("button", name="all keys").click()
        self.page.get_by_text("Words as they are meant here").click()
        self.assertGreater(int(self.page.locator("[data-glossary]").get_attribute("data-glossary") or 0), 15)

    def test_the_tray_says_what_fits_and_a_click_takes_it(self) -> None:
        self.open_demo("parts")
        self.page.locator("[data-kind=fans] summary").first.click()
        card = self.page.locator("[data-tray=fans] [data-verdict=fits]").first
        expect(card).to_contain_text("m³/h")
        before = self.page.locator("[data-kind=fans] [data-part]").count()
        card.click()
        expect(self.page.locator("[data-kind=fans] [data-part]")).to_have_count(before + 1)
        self.page.locator("[data-kind=radiators] summary").first.click()
        expect(self.page.locator("[data-tray=radiators] [data-verdict=does_not_fit]").first).to_contain_text("does not fit")

    def test_the_ladder_of_fans_and_a_free_change_that_becomes_a_layout(self) -> None:
        self.open_demo("layouts")
        self.view("changes")
        self.page.wait_for_selector("[data-worth]")
        self.assertGreater(self.page.locator("[data-rung]").count(), 1)
        singles = [x.get_attribute("data-single") for x in self.page.locator("[data-single]").all()]
        order = {"free": 0, "work": 1, "money": 2}
        self.assertEqual(singles, sorted(singles, key=lambda s: order[s or ""]))
        before = Job.objects.get(name="Watch-room plotter").layouts.count()
        self.page.locator("[data-single=free]").first.get_by_role("button", name="try it").click()
        self.saved()
        job = Job.objects.get(name="Watch-room plotter")
        self.assertEqual(job.layouts.count(), before + 1)
        self.assertTrue(adapters.document(job)["layouts"][-1]["parent"])
        self.view("settled")  # it stands on its own, and is forecast
        expect(self.page.locator(f'[data-forecast="{adapters.document(job)["layouts"][-1]["id"]}"]')).to_be_visible()

    def test_a_stopped_fan_is_told_in_words(self) -> None:
        self.open_demo("layouts")
        self.view("over time")
        self.page.get_by_label("What if").select_option("fan_stops")
        told = self.page.locator("[data-mishap]")
        expect(told).to_contain_text("tachometer")
        expect(told.locator("[data-change=cpu]")).to_contain_text("K")

    def test_the_case_is_confirmed_before_a_campaign_and_a_guess_has_a_number(self) -> None:
        self.open_demo("plan")
        warning = self.page.locator("[data-warning=case_not_confirmed]")
        expect(warning).to_contain_text("420 by 450 by 215 mm")
        warning.get_by_role("button", name="Yes, this is the case").click()
        expect(warning).to_have_count(0)
        self.page.get_by_label("its processor differs by").fill("-3")
        self.saved()
        plan = adapters.document(Job.objects.get(name="Watch-room plotter"))["plan"]
        self.assertEqual(plan["guess"]["cpu_k"], -3)
        self.assertIn("420 by 450", plan["case_confirmed"])

    def test_jobs_are_searched_and_duplicated_from_the_first_page(self) -> None:
        self.open("/")
        for _ in range(4):
            self.page.get_by_role("button", name="Duplicate Watch-room plotter", exact=True).click()
            self.page.wait_for_timeout(300)
        self.page.get_by_label("Search the jobs").fill("plotter copy 2")
        expect(self.page.locator("[data-job]")).to_have_count(1)
        self.page.get_by_label("Search the jobs").fill("nothing of the kind")
        expect(self.page.get_by_text("No job here is called so.")).to_be_visible()
        copy = Job.objects.get(name="Watch-room plotter, copy")
        self.assertEqual(copy.runs.count(), 0)
