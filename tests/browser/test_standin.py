"""A run without a machine, on the screen: made up by the stand-in bench, marked, and its mishap found."""

from django.test import tag

from server.apps.bench.models import Run
from tests.browser.base import BrowserCase


@tag("browser")
class StandInTest(BrowserCase):
    def test_a_made_up_run_with_a_mishap(self) -> None:
        self.open_demo("bench")
        self.page.get_by_role("button", name="Start a run or bring in its log").first.click()
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
