"""Faces of the verdict: files of its drawings, what is told from what, units, small screens, and jobs with little in them."""

import csv
import io
import re
import xml.etree.ElementTree as ET
from pathlib import Path

from django.conf import settings
from playwright.sync_api import Download, expect

from documents.job.reader import check_job
from server.apps.bench.services import import_run
from server.apps.jobs.models import Job
from server.apps.jobs.services import create_job
from server.apps.verdicts.models import Verdict
from tests.browser.base import BrowserCase
from tests.machines import demo_raw

LOGS = Path(settings.ROOT) / "tests" / "reference" / "logs"
SVG = "{http://www.w3.org/2000/svg}"


class FacesTest(BrowserCase):
    def setUp(self) -> None:
        super().setUp()
        self.open_demo("verdict", "D")
        expect(self.page.locator("[data-claim=D]")).to_be_visible()

    def saved_from(self, chart: str, words: str) -> Download:
        with self.page.expect_download() as got:
            self.page.locator(f"[data-chart={chart}]").get_by_role("button", name=words, exact=True).click()
        return got.value

    def test_a_drawing_leaves_as_svg_png_and_csv(self) -> None:
        svg = self.saved_from("frontier", "SVG")
        self.assertEqual(svg.suggested_filename, "frontier.svg")
        tree = ET.parse(svg.path()).getroot()
        self.assertEqual(tree.tag, f"{SVG}svg")
        self.assertFalse([e for e in tree.iter() if e.get("class") or e.tag in (f"{SVG}animate", f"{SVG}script")])
        letters = {e.text for e in tree.iter(f"{SVG}text")}
        self.assertLessEqual({"A", "B", "C", "D", "limit"}, letters)
        png = self.saved_from("frontier", "PNG").path().read_bytes()
        self.assertTrue(png.startswith(b"\x89PNG"))
        rows = list(csv.reader(io.StringIO(self.saved_from("frontier", "CSV").path().read_text())))
        self.assertEqual([r[0] for r in rows[1:]], ["D", "C", "A", "B"])
        self.assertEqual({r[0]: r[-1] for r in rows[1:]}["B"], "")

    def test_the_table_twin_says_what_the_drawing_shows(self) -> None:
        way = self.page.locator("[data-chart=way]")
        drawn = way.locator("[data-step='A D'] text").first.text_content() or ""
        way.get_by_role("button", name="as a table").click()
        expect(way.get_by_role("table")).to_contain_text(drawn)
        expect(way.get_by_role("table")).to_contain_text("240 mm radiator at F1, F2")
        way.get_by_role("button", name="as a drawing").click()
        expect(way.locator("svg")).to_be_visible()

    def test_told_from_another_layout(self) -> None:
        self.page.get_by_label("Told from").select_option("C")
        expect(self.page.get_by_text("Against C, as it stands")).to_have_count(0)  # it is the next best, and said so
        expect(self.page.locator("[data-sentence=cost]")).to_contain_text("From C it takes")
        expect(self.page.locator("[data-row=C] td").nth(3)).to_have_text("0")

    def test_a_wider_margin_finds_no_difference(self) -> None:
        page = self.page
        expect(page.locator("[data-against='A card_core_c']")).to_have_attribute("data-said", "cannot_tell")
        page.locator("[data-weights]").click()
        field = page.get_by_label("A smaller difference does not matter to you")
        field.fill("4")
        field.press("Tab")
        expect(page.locator("[data-against='A card_core_c']")).to_have_attribute("data-said", "no_difference")
        self.saved()
        page.reload()
        expect(page.locator("[data-against='A card_core_c']")).to_have_attribute("data-said", "no_difference")

    def test_profiles_say_whom_they_choose(self) -> None:
        page = self.page
        for name in ("processor", "card", "balanced", "quiet", "thrifty", "clean"):
            chip = page.locator(f"[data-profile={name}]")
            letter = (chip.inner_text().split() or [""])[-1]
            chip.click()
            expect(chip).to_have_attribute("aria-pressed", "true")
            expect(page.locator("[data-best]")).to_have_attribute("data-best", re.compile(letter))

    def test_the_other_habit_of_units_reaches_every_sentence(self) -> None:
        page = self.page
        kelvin = float(re.search(r"processor is ([0-9.]+)", page.locator("[data-sentence=better]").first.inner_text()).group(1))  # type: ignore[union-attr]
        page.get_by_role("button", name="m³/h, mm").click()
        expect(page.locator("[data-sentence=better]").first).to_contain_text("°F cooler")
        fahrenheit = float(re.search(r"processor is ([0-9.]+)", page.locator("[data-sentence=better]").first.inner_text()).group(1))  # type: ignore[union-attr]
        self.assertAlmostEqual(fahrenheit / kelvin, 1.8, delta=0.02)
        page.get_by_role("button", name="All figures").click()
        expect(page.locator("[data-score='D cpu_package_c']")).to_be_visible()

    def test_balance_kelvin_per_watt_and_the_share_of_the_mean(self) -> None:
        page = self.page
        page.get_by_role("button", name="All figures").click()
        expect(page.locator("[data-chart=balance] [data-spot]")).to_have_count(4)
        expect(page.locator("[data-chart=kelvin-per-watt] svg")).to_be_visible()
        mean = page.locator("[data-spread=A] td").nth(2)
        before = mean.inner_text()
        page.locator("[data-share]").fill("100")
        expect(mean).not_to_have_text(before)
        expect(mean).to_have_text(f"{float(page.locator('[data-sorted=A] td').nth(1).inner_text().split()[0]):.1f}")

    def test_a_doubt_is_shown_whole_when_asked(self) -> None:
        section = self.page.locator("[data-doubts]")
        count = int(section.get_attribute("data-doubts") or 0)
        self.assertGreater(count, 4)
        section.get_by_role("button", name=re.compile(r"^\d+ more$")).click()
        expect(section.locator("[data-doubt]")).to_have_count(count)
        expect(section).to_contain_text("Not tested: a room of 29 °C")

    def test_a_decision_without_a_reason_cannot_be_frozen(self) -> None:
        expect(self.page.get_by_role("button", name="Freeze this verdict")).to_be_disabled()
        self.page.get_by_label("Because").fill("   ")
        expect(self.page.get_by_role("button", name="Freeze this verdict")).to_be_disabled()
        self.assertEqual(Verdict.objects.count(), 0)


class SmallScreenTest(BrowserCase):
    size = (820, 1180)

    def test_nothing_is_wider_than_a_tablet(self) -> None:
        self.open_demo("verdict", "D")
        page = self.page
        expect(page.locator("[data-claim=D]")).to_be_visible()
        for face in ("Argument", "Side by side", "Effects", "All figures"):
            page.get_by_role("button", name=face, exact=True).click()
            page.wait_for_timeout(300)
            wide = page.evaluate("document.querySelector('#work').scrollWidth - document.querySelector('#work').clientWidth")
            self.assertLessEqual(wide, 2, face)
        page.get_by_label("Because").fill("cooler")
        page.get_by_role("button", name="Freeze this verdict").click()
        expect(page.locator("[data-verdict=D]")).to_be_visible()


class LittleInItTest(BrowserCase):
    with_demo = False

    def job(self, **logs: tuple[str, ...]) -> Job:
        raw = demo_raw() | {"name": "Heron bench"}
        job = create_job(check_job(raw).doc)
        for layout, files in logs.items():
            for file in files:
                import_run(job.pk, layout, file, file, (LOGS / file).read_bytes(), {}, None)
        return job

    def test_no_run_and_one_layout_say_what_to_do(self) -> None:
        job = self.job()
        self.open(f"/jobs/{job.pk}/verdict")
        expect(self.page.get_by_text("None has been run.")).to_be_visible()
        expect(self.page.locator("[data-order]")).to_be_visible()
        import_run(job.pk, "A", "a", "a", (LOGS / "heron-a-1.csv").read_bytes(), {}, None)
        self.page.reload()
        expect(self.page.get_by_text("A has been run; run one more.")).to_be_visible()
        self.page.get_by_role("link", name="Go to Bench").click()
        expect(self.page).to_have_url(re.compile("/bench$"))

    def test_a_part_at_its_limit_is_hatched_and_judged_by_power(self) -> None:
        job = self.job(A=("heron-a-1.csv", "heron-a-2.csv"), B=("heron-b-1.tsv", "heron-b-2.csv"), C=("heron-c-limited.csv",))
        self.open(f"/jobs/{job.pk}/verdict")
        self.tag("B").click()
        page = self.page
        expect(page.locator("[data-at-limit='C cpu_package_c']")).to_be_visible()
        expect(page.locator("[data-row=C]")).to_contain_text("no room temperature")
        expect(page.locator("[data-against='C cpu_power_w']")).to_have_attribute("data-said", "worse")
        expect(page.locator("[data-doubt=left_out]")).to_contain_text("Not chosen among: C")
        expect(page.locator("[data-against='A cpu_package_c']")).to_have_attribute("data-said", "worse")
        self.tag("C").click()
        expect(page.locator("[data-claim=C] h1")).to_contain_text("cannot be judged")

    def test_an_old_verdict_without_a_record_is_still_told(self) -> None:
        job = self.job(A=("heron-a-1.csv",), B=("heron-b-1.tsv",))
        Verdict.objects.create(job=job, layout_key="A", reason="it was there", margin_k=1.5)
        self.open(f"/jobs/{job.pk}/verdict")
        expect(self.page.locator("[data-verdict=A]")).to_contain_text("Given before records were kept.")
        expect(self.page.locator("[data-verdict=A]").get_by_role("link")).to_have_count(0)
        expect(self.page.get_by_role("link", name="Verdict")).to_contain_text("A decided")
