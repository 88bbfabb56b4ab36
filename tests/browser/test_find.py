"""Asking for something better: from a measured job to a lettered layout with learned bands; what was learned, what to run next."""

from django.test import tag

from documents.job.reader import check_job
from server.apps.bench.models import Run
from server.apps.jobs import adapters
from server.apps.jobs.models import Job
from server.apps.jobs.services import create_job
from tests.browser.base import BrowserCase

MOST_ACTIONS = 10


@tag("browser")
class FindTest(BrowserCase):
    def test_a_newcomer_with_one_measured_layout_gets_a_quieter_one_in_a_few_actions(self) -> None:
        Run.objects.exclude(layout_key="A").update(state="void")
        job = Job.objects.get(name="Watch-room plotter")
        self.open(f"/jobs/{job.pk}/layouts")
        actions = 0

        def act(step: object) -> None:
            nonlocal actions
            actions += 1
            step()  # type: ignore[operator]

        act(self.page.get_by_role("link", name="find a better one").click)
        act(lambda: self.page.get_by_label("No louder than").fill("31"))
        act(self.page.get_by_text("Mounts, fans, and what may be moved").click)
        act(lambda: self.page.get_by_label("No more fans than").fill("3"))  # fewer to look at, so that the test is short
        act(self.page.get_by_role("button", name="Look at every layout").click)
        self.page.wait_for_selector("[data-find=done]", timeout=120_000)
        self.page.get_by_role("heading", name="layouts looked at").wait_for()
        self.page.get_by_text("counted").first.wait_for()
        best = self.page.locator("[data-found]").first
        best.get_by_text("Against A").wait_for()
        act(best.get_by_role("button", name="make it E").click)
        self.assertLessEqual(actions, MOST_ACTIONS)
        self.page.wait_for_selector("[data-forecast=E]")
        learned = self.page.locator("[data-forecast=E] [data-learned]")
        learned.wait_for()
        self.assertEqual(learned.get_attribute("data-learned"), "2")
        level = float(self.page.locator("[data-row=Sound]").get_attribute("data-level") or "nan")
        self.assertLessEqual(level, 31.05)
        self.page.keyboard.press("z")
        self.tag("E").wait_for(state="detached")

    def test_the_map_can_be_brushed_and_survives_a_reload(self) -> None:
        self.open_demo(by="learned")
        self.page.get_by_role("link", name="find a better one").click()
        self.page.get_by_text("Mounts, fans, and what may be moved").click()
        self.page.get_by_label("No more fans than").fill("2")
        self.page.get_by_role("button", name="Look at every layout").click()
        self.page.wait_for_selector("[data-find=done]", timeout=120_000)
        cloud = self.page.locator("svg[data-dots]")
        every = int(cloud.get_attribute("data-dots") or "0")
        self.page.get_by_label("Only layouts with nothing at").select_option("r1")
        self.page.wait_for_function("all => Number(document.querySelector('svg[data-dots]').dataset.dots) < all", arg=every)
        self.page.reload()
        self.page.wait_for_selector("[data-found]")
        front = self.page.locator("[data-front]")
        ringed = front.count()
        self.page.get_by_label("sound up to").press("Home")  # all the way to the quietest
        self.page.wait_for_function("all => document.querySelectorAll('[data-front]').length < all", arg=ringed)
        self.page.get_by_label("sound up to").press("End")
        self.page.wait_for_function("all => document.querySelectorAll('[data-front]').length === all", arg=ringed)
        self.page.get_by_role("button", name="as a table").click()
        self.page.get_by_role("columnheader", name="what is done").wait_for()
        self.page.get_by_label("No louder than").fill("20")
        self.page.get_by_role("button", name="Look again").click()
        self.page.get_by_role("alert").get_by_text("No layout is under").wait_for(timeout=120_000)

    def test_what_was_learned_is_shown_beside_sheets_and_measured(self) -> None:
        self.open_demo(by="learned")
        self.page.locator("[data-learned]").wait_for()
        learned = float(self.page.locator("[data-row=Processor]").get_attribute("data-rise") or "nan")
        self.page.get_by_label("What the forecast rests on").select_option("sheets")
        self.page.locator("[data-learned]").wait_for(state="detached")
        sheets = float(self.page.locator("[data-row=Processor]").get_attribute("data-rise") or "nan")
        self.assertGreater(abs(learned - sheets), 0.5)
        self.view("learned")
        row = self.page.locator("[data-learned-row='A processor']")
        row.wait_for()
        self.assertIn(f"{learned:.1f}", row.inner_text())
        self.assertIn(f"{sheets:.1f}", row.inner_text())
        self.page.get_by_text("No run contradicts the others").wait_for()

    def test_a_part_takes_along_what_its_runs_taught(self) -> None:
        """Kept with the part here; in a job without runs that has the same part it stands beside every figure, with its count."""
        job = Job.objects.get(name="Watch-room plotter")
        self.open_demo(by="learned")
        self.view("learned")
        panel = self.page.locator("[data-of-parts]")
        panel.locator("[data-keep]").first.wait_for()
        panel.get_by_role("button", name="keep with the parts").click()
        self.saved()
        panel.get_by_role("button", name="kept with the parts").wait_for()
        self.page.reload()
        panel.get_by_role("button", name="kept with the parts").wait_for()
        raw = adapters.document(Job.objects.get(pk=job.pk))
        self.assertTrue(any(p.get("lessons") for kind in ("coolers", "cards", "radiators") for p in raw["parts"][kind]))
        raw["name"] = "another case"
        raw["case"]["name"] = "another"
        other = create_job(check_job(raw).doc)
        self.open(f"/jobs/{other.pk}/layouts?by=learned")
        self.page.locator("[data-forecast] [data-learned]").first.wait_for()
        self.view("learned")
        self.page.locator("[data-of-parts]").get_by_text("of Watch-room plotter").first.wait_for()
        self.page.get_by_text("From what the parts bring along").wait_for()

    def test_the_next_run_stands_at_the_head_of_plan_and_ends_the_verdict(self) -> None:
        self.open_demo("plan", by="learned")
        self.page.locator("[data-next=stop]").get_by_text("Enough: D").wait_for()
        orders = self.page.locator("[data-orders]")
        orders.get_by_text("none takes less").wait_for()
        before = [x.inner_text() for x in self.page.locator("[data-order=listed] td").all()][1]
        orders.locator("[data-order=least]").get_by_role("button", name="take it").click()
        self.page.wait_for_function("was => document.querySelectorAll('[data-order=listed] td')[1].innerText !== was", arg=before)
        self.open_demo("verdict", by="learned")
        self.page.locator("[data-next-line=stop]").get_by_text("unlikely to change the pick").wait_for()
