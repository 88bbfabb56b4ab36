"""The verdict on the screen: from runs to a frozen record and its files, what a tag argues, what each change did."""

import io
import re

from playwright.sync_api import expect
from pypdf import PdfReader

from documents.package.document import write_package
from server.apps.jobs.models import Job
from server.apps.verdicts.models import Verdict
from server.apps.verdicts.packing import pack
from tests.browser.base import BrowserCase
from tests.demo_rows import load_campaign_job


class FromRunsToRecordTest(BrowserCase):
    def setUp(self) -> None:
        super().setUp()
        self.open_demo("verdict", "D")
        expect(self.page.locator("[data-claim=D]")).to_be_visible()

    def freeze(self, reason: str) -> None:
        self.page.get_by_label("Because").fill(reason)
        self.page.get_by_label("Signed by").fill("Bench hand")
        self.page.get_by_role("button", name="Freeze this verdict").click()
        expect(self.page.locator("[data-verdict]").first).to_contain_text(reason)

    def test_a_frozen_verdict_and_a_pdf_with_the_same_figures(self) -> None:
        page = self.page
        value = float(page.locator("[data-figure='D cpu_package_c']").get_attribute("data-value") or 0)
        self.freeze("The processor is far cooler, and the sound stays under the limit.")
        record = Verdict.objects.get().record
        self.assertEqual((record["layout"], record["signed_by"]), ("D", "Bench hand"))
        self.assertLessEqual({"A", "D", "Coolest for its sound", "One change after another"}, set(record["drawings"]))
        self.assertTrue(all(d.startswith("<svg") and "class=" not in d for d in record["drawings"].values()))
        with page.expect_download(timeout=180_000) as got:
            page.get_by_role("button", name="PDF").click()
        words = "".join("".join(p.extract_text() for p in PdfReader(io.BytesIO(got.value.path().read_bytes())).pages).split())
        self.assertIn(f"{value:.1f}±", words)
        with page.context.expect_page() as opened:
            page.get_by_role("link", name="report").click()
        expect(opened.value.get_by_text(f"{value:.1f} ±").first).to_be_visible()
        self.assertEqual(opened.value.locator("script").count(), 0)

    def test_a_package_handed_over_is_read_and_opened(self) -> None:
        page = self.page
        job = Job.objects.get(name="Watch-room plotter")
        data = write_package(pack(job))
        self.open("/")
        page.get_by_label("A job document").set_input_files({"name": "evening.zip", "mimeType": "application/zip", "buffer": data})
        page.wait_for_url("**/layouts", timeout=60_000)
        page.wait_for_selector("[data-forecast]")
        made = Job.objects.exclude(pk=job.pk).get(name="Watch-room plotter")
        self.assertEqual(made.runs.count(), job.runs.count())

    def test_looking_at_a_verdict_chooses_nothing_elsewhere(self) -> None:
        page = self.page
        page.evaluate("localStorage.clear()")
        self.open_demo("layouts", "B")
        page.get_by_role("link", name="Verdict").click()
        expect(page.locator("[data-claim=D]")).to_be_visible()
        page.get_by_role("link", name="Layouts").click()
        page.wait_for_selector("[data-forecast=B]")
        page.get_by_role("link", name="Verdict").click()
        expect(page.locator("[data-claim=D]")).to_be_visible()
        self.tag("C").click()
        expect(page.locator("[data-claim=C]")).to_be_visible()
        page.get_by_role("link", name="Layouts").click()
        page.wait_for_selector("[data-forecast=C]")

    def test_a_later_edit_makes_it_stale_and_the_next_says_what_moved(self) -> None:
        page = self.page
        self.freeze("cooler")
        page.get_by_role("link", name="Layouts").click()
        page.wait_for_selector("[data-forecast=D]")
        self.mount("f1").click()
        page.keyboard.press("+")
        self.saved()
        page.get_by_role("link", name="Verdict").click()
        expect(page.locator("[data-verdict=D]")).to_have_attribute("data-stale", "true")
        expect(page.locator("[data-verdict=D]")).to_contain_text("layout D: F1 from 55 to 60 %")
        self.tag("C").click()
        expect(page.locator("[data-claim=C]")).to_be_visible()
        self.freeze("quiet and cool enough")
        expect(page.locator("[data-verdict=C]")).to_contain_text("choice: D, now C")

    def test_where_a_figure_comes_from(self) -> None:
        page = self.page
        page.locator("[data-figure='D cpu_package_c'] button").click()
        panel = page.get_by_role("region", name="Where this figure comes from")
        shared = "the sensor's own error, the same in every run"
        for words in ("from one run and rebuild to the next", shared, "D run 1", "not settled, left aside"):
            expect(panel).to_contain_text(words)
        page.keyboard.press("Escape")
        expect(panel).to_have_count(0)

    def test_limits_profiles_and_weights_choose(self) -> None:
        page = self.page
        best = page.locator("[data-best]")
        expect(page.locator("[data-failed=B]")).to_contain_text("sound")
        page.get_by_role("button", name=re.compile("^thrifty")).click()
        expect(best).to_have_attribute("data-best", "A")
        page.get_by_role("button", name=re.compile("^own")).click()
        page.locator("[data-weights]").click()
        for thing, weight in (("card", "0"), ("balance", "0"), ("cpu", "5"), ("noise", "0"), ("labour", "0"), ("cost", "0")):
            page.locator(f"[data-weight={thing}]").fill(weight)
        expect(best).to_have_attribute("data-best", "D")
        expect(page.locator("[data-claim=D]")).to_have_attribute("data-sure", "sure")
        self.saved()
        page.reload()
        expect(best).to_have_attribute("data-best", "D")
        page.get_by_role("link", name="Survey").first.click()
        page.get_by_label("Limit", exact=False).first.wait_for()

    def test_rack_and_argument_are_of_one_layout_until_a_person_chooses(self) -> None:
        page = self.page
        page.reload()  # opened anew: nobody has chosen yet
        for profile, layout in (("thrifty", "A"), ("own", "D")):
            page.get_by_role("button", name=re.compile(f"^{profile}")).click()
            expect(page.locator(f"[data-claim={layout}]")).to_be_visible()
            expect(self.tag(layout)).to_have_attribute("aria-selected", "true")
        self.tag("C").click()
        expect(page.locator("[data-claim=C]")).to_be_visible()
        page.get_by_role("button", name=re.compile("^thrifty")).click()
        expect(page.locator("[data-best]")).to_have_attribute("data-best", "A")
        expect(page.locator("[data-claim=C]")).to_be_visible()
        expect(self.tag("C")).to_have_attribute("aria-selected", "true")

    def test_by_keys_alone_and_absolute_figures(self) -> None:
        page = self.page
        page.locator("[data-keys=verdict]").focus()
        for key, words in (("c", "Side by side"), ("e", "What each change did"), ("f", "All figures"), ("p", "No probe was read with D")):
            page.keyboard.press(key)
            expect(page.get_by_role("heading", name=words, exact=True)).to_be_visible()
        page.keyboard.press("a")
        value = float(page.locator("[data-figure='D cpu_package_c']").get_attribute("data-value") or 0)
        page.get_by_title("Temperatures over room or absolute").click()
        page.locator("[data-figure='D cpu_package_c']").get_by_text(f"{22 + value:.1f}").wait_for()
        page.get_by_role("button", name="absolute").or_(page.get_by_role("button", name="in °C")).first.click()

    def test_side_by_side_tells_differences_and_doubts(self) -> None:
        page = self.page
        page.get_by_role("button", name="Side by side").click()
        page.get_by_role("button", name="C", exact=True).click()
        expect(page.locator("[data-column]")).to_have_count(3)
        expect(page.locator("[data-side='D cpu_package_c']")).to_contain_text("−16.9 ±")
        expect(page.locator("[data-done='A D']")).to_contain_text("240 mm radiator at F1, F2")
        expect(page.locator("[data-confounders='D A']")).to_contain_text("left aside")

    def test_a_doubt_plans_another_run(self) -> None:
        page = self.page
        before = len(Job.objects.get(name="Watch-room plotter").more["plan"]["runs"])
        page.get_by_role("button", name="Plan B once more").click()
        expect(page.get_by_role("heading", level=1)).to_contain_text(f"{before + 1} runs")
        self.saved()
        runs = Job.objects.get(name="Watch-room plotter").more["plan"]["runs"]
        self.assertEqual((runs[-1]["layout"], runs[-1]["role"]), ("B", "repeat"))

    def test_ties_stay_ties_in_the_sorted_table(self) -> None:
        page = self.page
        page.get_by_role("button", name="All figures").click()
        table = page.get_by_role("table", name="Sortable figures")
        table.get_by_role("button", name="sound").click()
        rows = table.locator("[data-sorted]")
        expect(rows.first).to_have_attribute("data-sorted", "A")
        self.assertIn(table.locator("[data-sorted=D]").get_attribute("data-tie"), ("no_difference", "cannot_tell"))
        best_first = [row.get_attribute("data-sorted") for row in rows.all()]
        table.get_by_role("button", name="sound").click()  # again: the other way round
        expect(table.get_by_role("columnheader", name="sound")).to_have_attribute("aria-sort", "descending")
        self.assertEqual([row.get_attribute("data-sorted") for row in rows.all()], best_first[::-1])
        expect(page.locator("[data-guess=C]")).to_contain_text("the runs say")
        with page.expect_download() as got:
            page.get_by_role("button", name="CSV").first.click()
        self.assertIn("processor", got.value.path().read_text())


class CampaignTest(BrowserCase):
    def load(self) -> None:
        self.job = load_campaign_job()

    def test_what_each_change_did_and_layouts_at_the_same_level(self) -> None:
        page = self.page
        self.open(f"/jobs/{self.job.pk}/verdict")
        self.tag("E").click()
        expect(page.locator("[data-claim=E]")).to_be_visible()
        page.get_by_role("button", name="Effects").click()
        ladder = page.locator("[data-ladder=ABCDE]")
        expect(ladder).to_contain_text("The knee is at")
        self.assertIn("B", ladder.get_attribute("data-negative") or "")
        expect(page.locator("[data-effect='front panel removed']").first).to_be_visible()
        expect(page.locator("[data-named=push_pull]")).to_be_visible()
        expect(page.locator("[data-at-level=C]")).to_have_attribute("data-place", "between")
        page.get_by_label("Level, dBA").fill("45")
        page.get_by_label("Level, dBA").press("Enter")
        expect(page.locator("[data-at-level=C]")).to_have_attribute("data-place", "beyond")
        expect(page.locator("[data-level-pair]")).to_have_count(0)
        expect(page.locator("[data-not-worth]")).to_contain_text("B (it is warmer)")
        page.get_by_role("button", name="All figures").click()
        expect(page.locator("[data-load='idle A cpu_package_c']")).to_contain_text("±")
        expect(page.locator("[data-spread=A]")).to_contain_text("MHz")
        page.get_by_role("button", name="Probes").click()
        expect(page.locator("[data-probe=air_rear_c]")).to_contain_text("±")
        expect(page.locator("[data-point=rear]")).to_contain_text("at the rear")
        page.get_by_role("button", name="idle", exact=True).click()
        expect(page.get_by_role("heading", name="Measured air, E")).to_have_count(0)
