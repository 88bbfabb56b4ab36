"""A job made from nothing through all five stations, by what the screens say, in at most 60 actions."""

from math import exp

from django.test import tag

from server.apps.bench.models import Run
from server.apps.jobs.models import Job
from server.apps.verdicts.models import Verdict
from tests.browser.base import BrowserCase
from tests.machines import LOGS

MOST_ACTIONS = 60


@tag("browser")
class WholeJobTest(BrowserCase):
    with_demo = False

    def setUp(self) -> None:
        super().setUp()
        self.actions = 0

    def click(self, name: str, role: str = "button") -> None:
        self.actions += 1
        self.page.get_by_role(role, name=name, exact=False).first.click()  # type: ignore[arg-type]

    def fill(self, label: str, value: str, within: str = "body") -> None:
        self.actions += 1
        self.page.locator(within).get_by_label(label).first.fill(value)

    def choose(self, label: str, value: str, within: str = "body") -> None:
        self.actions += 1
        self.page.locator(within).get_by_label(label).first.select_option(label=value)

    def put_fan(self, mount: str, fan: str = "Tern 120") -> None:
        self.actions += 1
        self.mount(mount).click()
        self.choose("Put a fan", fan)

    def bring_in(self, file: str) -> None:
        self.click("Bring in logs")
        self.actions += 1
        self.page.get_by_label("Log file of the run").set_input_files(LOGS / file)
        self.click("Take it in as a run")
        self.page.locator("section[aria-label='Bring in a log']").wait_for(state="detached")

    def test_from_an_empty_box_to_a_verdict(self) -> None:
        self.open("/")
        self.fill("Name of the job", "Heron bench")
        self.click("Start the survey")
        self.click("Measure it piece by piece instead")
        self.fill("Name of the case", "Heron")
        self.fill("Depth, front to rear", "410")
        front, rear = "[data-face=front]", "[data-face=rear]"
        self.choose("Panel", "mesh", front)
        self.choose("Filter", "coarse", front)
        for _ in range(2):
            self.click("Add a mount at the front")
        self.click("Add a mount at the rear")
        self.click("Add a mount at the top")
        self.fill("Centre, over the floor", "350", rear)
        self.click("Next: lay the parts on the table", "link")
        self.choose("Add a processor", "plotting processor, 125 W")
        self.choose("Add a card", "render card, 220 W, open")
        self.choose("Add a cooler", "Cormorant 120 tower")
        self.choose("Add a kind of fan", "Tern 120 swift")
        self.fill("Power under load", "150", "[data-part=plot-125]")
        self.click("Next: put fans in the case", "link")
        for mount in ("f1", "f2", "r1"):
            self.put_fan(mount)
        self.page.wait_for_selector("[data-forecast=A]")
        self.click("duplicate")
        self.put_fan("t1")
        self.page.wait_for_selector("[data-forecast=B]")
        self.actions += 1
        self.tag("A").click()
        self.click("Bench", "link")
        self.bring_in("heron-a-1.csv")
        self.actions += 1
        self.tag("B").click()
        self.bring_in("heron-b-1.tsv")
        self.click("Verdict", "link")
        pair = self.page.locator("[data-against='A cpu_package_c']")
        pair.wait_for()
        self.assertEqual(pair.get_attribute("data-said"), "worse")
        self.assertNotIn(self.page.locator("[data-against='A card_core_c']").get_attribute("data-said"), ("better", "worse"))
        self.fill("Because", "B is over 3 K cooler at the processor; the card does not care.")
        self.click("Freeze this verdict: build B")
        self.page.wait_for_selector("[data-verdict=B]")
        self.assertLessEqual(self.actions, MOST_ACTIONS)
        self.page.reload()
        self.page.wait_for_selector("[data-verdict=B]")
        job = Job.objects.get(name="Heron bench")
        self.assertEqual((job.runs.count(), job.layouts.count(), Verdict.objects.filter(job=job).count()), (2, 2, 1))
        self.assertEqual(job.case.depth_mm, 410)

    def test_short_log_wrong_file_and_missing_room(self) -> None:
        self.open("/")
        self.fill("Name of the job", "Short")
        self.click("Start the survey")
        self.click("Bench", "link")
        self.click("Bring in logs")
        self.page.get_by_text("Stay with the machine while it runs at full load").first.wait_for()
        chooser = self.page.get_by_label("Log file of the run")
        chooser.set_input_files({"name": "x.csv", "mimeType": "text/csv", "buffer": b"no readings here"})
        self.page.get_by_text("Nothing was stored").wait_for()
        chooser.set_input_files(LOGS / "heron-c-limited.csv")
        self.page.get_by_text("The file has no room temperature").wait_for()
        self.click("Take it in, not comparable")
        self.page.locator("section[aria-label='Bring in a log']").wait_for(state="detached")
        self.page.get_by_role("tab", name="not comparable: no room").wait_for()
        self.fill("Room temperature during the run", "21", "aside[aria-label='The run']")
        self.page.get_by_role("tab", name="not comparable: no room").wait_for(state="detached")
        self.bring_in("heron-a-short.csv")
        self.page.get_by_role("tab", name="12 min, not settled").wait_for()
        self.page.wait_for_selector("[data-flag=too_short]")
        self.assertEqual(Run.objects.count(), 2)

    def test_two_short_runs_are_judged_by_where_they_were_going(self) -> None:
        """Ten minutes each in whole degrees, which is what most people have: the run shows the end that the verdict goes by."""
        self.open("/")
        self.fill("Name of the job", "Ten minutes")
        self.click("Start the survey")
        self.click("Bench", "link")
        for layout, rise in (("A", 50.0), ("B", 40.0)):
            if layout == "B":
                self.click("duplicate")
            rows = [
                f"{t},{round(22 + rise * (1 - 0.5 * exp(-t / 40) - 0.5 * exp(-t / 260)))},{round(60 - 36 * exp(-t / 200))},21.9"
                for t in range(0, 601, 2)
            ]
            text = "elapsed_s,cpu_package_c,card_core_c,room_c\n" + "\n".join(rows) + "\n"
            self.click("Bring in logs")
            self.page.get_by_label("Log file of the run").set_input_files(
                {"name": "x.csv", "mimeType": "text/csv", "buffer": text.encode()}
            )
            self.click("Take it in as a run")
            self.page.locator("section[aria-label='Bring in a log']").wait_for(state="detached")
            end = self.page.locator("[data-channel=cpu_package_c] [data-end]")
            end.wait_for()
            self.assertAlmostEqual(float(end.get_attribute("data-end") or 0), rise, delta=3.0)
        self.click("Verdict", "link")
        self.page.locator("[data-claim=B]").wait_for()
        self.assertEqual(self.page.locator("[data-against='A cpu_package_c']").get_attribute("data-said"), "worse")
        name = self.page.locator("[data-row=A] th").bounding_box()
        assert name
        self.assertGreater(name["width"], 110)  # the layouts' names are read, whatever is said of their figures

    def test_a_column_in_another_unit_is_asked_about_and_set_right(self) -> None:
        self.open("/")
        self.fill("Name of the job", "Units")
        self.click("Start the survey")
        self.click("Bench", "link")
        self.click("Bring in logs")
        rows = [f"{t},{30 + 40 * (1 - 0.99**t):.1f},{71.6 + t % 2 * 0.2:.1f}" for t in range(0, 600, 5)]
        text = "elapsed_s,CPU Package [°C],Room temperature\n" + "\n".join(rows) + "\n"
        self.page.get_by_label("Log file of the run").set_input_files({"name": "x.csv", "mimeType": "text/csv", "buffer": text.encode()})
        self.page.get_by_text("in °F that would be 22 °C").wait_for()
        self.page.get_by_text("71.6 to 71.8").wait_for()
        take = self.page.get_by_role("button", name="Take it in as a run of A")
        self.assertTrue(take.is_disabled())
        self.page.get_by_label("Unit of Room temperature").select_option("f")
        self.page.locator("[data-odd]").wait_for(state="detached")
        take.click()
        self.page.locator("section[aria-label='Bring in a log']").wait_for(state="detached")
        run = Run.objects.get()
        self.assertLess(next(c["mean"] for c in run.analysis["channels"] if c["name"] == "room_c"), 23)

    def test_a_mistake_is_said_on_the_spot_and_nothing_is_lost(self) -> None:
        self.open("/")
        self.click("Start the survey")
        self.click("Measure it piece by piece instead")
        depth = self.page.get_by_label("Depth, front to rear")
        depth.fill("4")
        self.page.get_by_text("Between 50 to 1500 mm").wait_for()
        depth.fill("430")
        self.saved()
        self.page.reload()
        self.click("Measure it piece by piece instead")
        self.assertEqual(self.page.get_by_label("Depth, front to rear").input_value(), "430")
        self.page.locator("footer").get_by_role("button", name="undo").wait_for()

    def test_a_file_that_is_no_job_is_refused_on_the_list(self) -> None:
        self.open("/")
        self.page.get_by_label("A job document").set_input_files({"name": "x.json", "mimeType": "application/json", "buffer": b"{}"})
        self.page.get_by_role("alert").get_by_text("this is not a job document").wait_for()
        self.assertEqual(Job.objects.count(), 0)
        self.open("/jobs/77/layouts")
        self.page.get_by_text("This job cannot be opened").wait_for()
        self.errors.clear()
