"""Build from the chosen layout: steps in their order at the bench with one thumb, kept through a reload; units and their words."""

from typing import ClassVar

from django.test import tag

from desk.care.commission import Cause
from documents.job.reader import check_job
from documents.runlog.writer import write_log
from instruments.units import made_up_unit
from server.apps.build import units
from server.apps.build.models import Tick
from server.apps.jobs import adapters
from server.apps.jobs.models import Job
from server.apps.jobs.services import create_job
from tests.browser.base import BrowserCase
from tests.machines import curved_raw

CAUSES: tuple[Cause, ...] = ("none", "paste")
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
        with self.page.expect_download(timeout=180_000) as sheet:  # laid out by a process that has so long
            self.page.get_by_role("link", name="Letter").click(no_wait_after=True)
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

    def test_many_units_are_handed_in_at_once_and_what_is_refused_stays(self) -> None:
        self.open_demo("build", layout="A")
        job = Job.objects.get()
        reference = units.reference_for(job, check_job(adapters.document(job)).doc, "A")
        logs = [write_log(made_up_unit(reference, cause, n)).encode() for n, cause in enumerate(CAUSES)]
        self.page.get_by_role("button", name="units", exact=True).click()
        self.page.get_by_text("Many units at once").click()
        files = [
            {"name": f"{name}.csv", "mimeType": "text/csv", "buffer": data}
            for name, data in (("K-101", logs[0]), ("K-102", logs[1]), ("K-103", b"not a log"))
        ]
        self.page.get_by_label("Their logs").set_input_files(files)  # type: ignore[arg-type]
        self.page.get_by_label("Serial number of K-102.csv").fill("K-101")
        self.page.get_by_text("K-101 stands twice").wait_for()
        self.assertTrue(self.page.get_by_role("button", name="Hold 3 against the reference").is_disabled())
        self.page.get_by_label("Serial number of K-102.csv").fill("K-102")
        self.page.get_by_role("button", name="Hold 3 against the reference").click()
        self.page.locator("[data-row=refused]").wait_for(timeout=90_000)
        self.page.get_by_role("button", name="Hold 1 against the reference").wait_for()
        self.assertEqual(self.page.locator("[data-row=in]").count(), 2)
        self.assertEqual(self.page.locator("[data-unit=K-102]").get_attribute("data-verdict"), "fail")

    def test_a_curve_is_changed_where_its_card_is_read(self) -> None:
        raw = curved_raw([[40, 30], [80, 100]])
        job = create_job(check_job(raw).doc)
        self.open(f"/jobs/{job.pk}/build")
        self.page.get_by_role("button", name="curves", exact=True).click()
        name = raw["curves"][0]["id"]
        card = self.page.locator("[data-card]").filter(has=self.page.locator(f"[data-change={name}]")).first
        card.get_by_text("change this curve").click()
        card.get_by_label("Slows down only cooler by").fill("7")
        card.get_by_text("Slower once 7 K cooler").wait_for()


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
