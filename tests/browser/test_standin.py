"""A run without a machine, on the screen: made up by the stand-in bench, marked, and its mishap found."""

from django.test import tag
from playwright.sync_api import FilePayload

from documents.job.reader import check_job
from server.apps.bench.models import Run
from server.apps.jobs import adapters, services
from server.apps.jobs.models import Job
from tests.browser.base import BrowserCase


@tag("browser")
class StandInTest(BrowserCase):
    def test_a_made_up_run_with_a_mishap(self) -> None:
        self.open_demo("bench")
        self.page.get_by_role("button", name="Bring in logs").first.click()
        self.page.get_by_text("No machine at hand?").click()
        self.page.get_by_label("Minutes", exact=True).fill("40")
        self.page.get_by_label("Seed").fill("3")
        self.page.get_by_label("What goes wrong").select_option("tach_lost")
        self.page.get_by_label("At mount").select_option("r1")
        self.page.get_by_role("button", name="Make a run of A up").click()
        self.page.locator("[data-flag=tach_lost]").get_by_text("A fan shows no speed").wait_for()
        self.page.get_by_text("(made up)").first.wait_for()
        run = Run.objects.order_by("-id")[0]
        self.assertIn("seed 3", run.source_name)
        with self.page.expect_download() as got:
            self.page.get_by_role("link", name="save its readings as CSV").click()
        self.assertTrue(got.value.path().read_text(encoding="utf-8").startswith("elapsed_s,cpu_package_c"))

    def test_a_named_point_s_sensor_shows_among_the_figures(self) -> None:
        job = Job.objects.get()
        raw = adapters.document(job)
        raw["points"] = [{"id": "p1", "name": "card intake", "at_mm": {"x": 200, "y": 100, "z": 150}, "sensor": 4}]
        services.save_document(job.pk, job.revision, check_job(raw).doc)
        rows = ["elapsed_s,cpu_package_c,room_c,air_4_c"]
        rows += [f"{t},{22 + 40 * (1 - 2.718 ** (-t / 120)):.1f},22.0,{26 + (t % 3) / 10:.1f}" for t in range(0, 1800, 2)]
        self.open_demo("bench")
        self.page.get_by_role("button", name="Bring in logs").first.click()
        self.page.get_by_text("Gannet 41", exact=True).first.wait_for()
        log: FilePayload = {"name": "probe.csv", "mimeType": "text/csv", "buffer": "\n".join(rows).encode()}
        self.page.get_by_label("Log file of the run").set_input_files(log)
        self.page.get_by_role("button", name="Take it in as a run of A").click()
        row = self.page.locator("[data-channel=air_4_c]")
        row.get_by_text("card intake").wait_for()
        self.assertAlmostEqual(float(row.get_attribute("data-rise") or 0), 4.1, delta=0.1)
