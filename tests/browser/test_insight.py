"""Behind and beyond the forecast: accounts, time, quiet speeds, smoke, own load and worst room."""

from django.test import tag

from documents.job.reader import check_job
from server.apps.jobs import adapters
from server.apps.jobs.models import Job
from tests.browser.base import BrowserCase


@tag("browser")
class InsightTest(BrowserCase):
    def rise(self, row: str = "Processor") -> float:
        return float(self.page.locator(f"[data-row='{row}']").get_attribute("data-rise") or "nan")

    def test_a_figure_tells_how_it_came_about(self) -> None:
        self.open_demo(layout="B")
        self.page.locator("[data-why=Processor]").click()
        account = self.page.locator("[data-account=cpu]")
        account.get_by_text("Air that the cooler draws in, over room").wait_for()
        account.get_by_text("P / (C ε)").wait_for()
        account.get_by_text("Incropera").first.wait_for()
        self.page.get_by_role("button", name="back").click()
        self.page.locator("[data-why=Sound]").click()
        self.page.locator("[data-account=sound]").get_by_text("fan at T1").wait_for()

    def test_own_load_and_worst_room_change_the_forecast(self) -> None:
        self.open_demo()
        full = self.rise()
        load, room = self.page.get_by_label("Load"), self.page.get_by_label("Room", exact=True)
        self.forecast_after(lambda: load.select_option("own"))
        answer = self.forecast_after(lambda: self.page.get_by_label("Processor at").fill("30"))
        self.assertAlmostEqual(answer["forecast"]["layouts"][0]["cpu"]["power_w"], 37.5)
        self.page.wait_for_function("before => Number(document.querySelector(\"[data-row='Processor']\").dataset.rise) < before", arg=full)
        self.forecast_after(lambda: load.select_option("both"))
        answer = self.forecast_after(lambda: room.select_option("worst"))
        cpu = answer["forecast"]["layouts"][0]["cpu"]
        self.assertAlmostEqual(cpu["temperature_c"] - cpu["rise_k"], 29.0)  # the job's own worst room
        self.page.get_by_text("In a room of 29 °C").wait_for()
        self.page.get_by_label("Worst room temperature").fill("400")
        self.page.get_by_role("alert").get_by_text("Between").wait_for()

    def test_time_tells_how_long_to_run_and_what_a_stopped_fan_does(self) -> None:
        self.open_demo()
        self.view("over time")
        self.page.wait_for_selector("[data-time=ready] .uplot")
        self.page.locator("[data-advice]").get_by_text("minutes or more").wait_for()
        with self.page.expect_response(lambda r: "/api/forecast/time" in r.url) as got:
            self.page.get_by_label("What if").select_option("fan_stops")
        asked = got.value.request.post_data_json or {}
        self.assertEqual(asked["time"]["events"][0]["kind"], "fan_stops")
        rows = got.value.json()["rows"]
        self.assertEqual(min(rows[-1]["fans_pct"]), 0.0)
        self.page.locator("[data-advice]").wait_for(state="detached")

    def test_quiet_speeds_are_found_and_set_in_one_undoable_step(self) -> None:
        self.open_demo(layout="B")
        self.view("speeds")
        self.page.get_by_label("Level where you sit").fill("33")
        self.page.get_by_role("button", name="Find the coolest speeds").click()
        self.page.wait_for_selector("[data-quiet=reached]")
        self.page.get_by_role("button", name="Set these speeds in B").click()
        self.view("settled")
        self.page.wait_for_function("() => Number(document.querySelector('[data-row=Sound]').dataset.level) <= 33.05")
        self.mount("f1").focus()
        self.page.keyboard.press("z")
        self.page.wait_for_function("() => Number(document.querySelector('[data-row=Sound]').dataset.level) > 34")

    def test_smoke_by_click_and_by_list(self) -> None:
        self.open_demo(layout="B")
        self.view("smoke")
        self.page.wait_for_selector("[data-air=up_front]")
        self.page.get_by_text("at T3").first.wait_for()
        self.page.locator("[data-space=low_rear] rect").first.click(position={"x": 20, "y": 40})
        self.page.wait_for_selector("[data-air=low_rear]")
        self.page.get_by_label("Smoke comes out").select_option("up_rear")
        self.page.wait_for_selector("[data-air=up_rear]")
        self.page.locator("[data-space=up_rear]").get_by_text("100 %").wait_for()
        self.page.get_by_text("Breathed again").wait_for()

    def test_room_to_spare_follows_the_radiator(self) -> None:
        self.open_demo(layout="D")
        self.view("fit")
        self.page.wait_for_selector("[data-fit=D] [data-line=card_length][data-verdict=fits]")
        self.page.get_by_role("note").get_by_text("Check for leaks before power").wait_for()
        self.tag("A").click()
        self.page.wait_for_selector("[data-fit=A] [data-line=cooler_height]")

    def test_findings_by_kind(self) -> None:
        self.open_demo(layout="B")
        self.page.wait_for_selector("[data-finding=intake_leaves_unused]")
        kinds = self.page.get_by_role("group", name="Kind of finding")
        kinds.get_by_role("button", name="practice").click()
        self.page.wait_for_selector("[data-finding=intake_leaves_unused]", state="detached")
        self.page.wait_for_selector("[data-finding=negative_unfiltered]")

    def test_a_finding_is_accepted_with_a_reason_and_taken_back(self) -> None:
        self.open_demo(layout="B")
        finding = self.page.locator("[data-finding=intake_leaves_unused]")
        finding.get_by_role("button", name="Accept it").click()
        finding.get_by_label("Why it may stay").fill("the noise of T3 is wanted")
        finding.get_by_role("button", name="accept", exact=True).click()
        finding.get_by_text("Accepted: “the noise of T3 is wanted”").wait_for()
        self.saved()
        self.page.reload()
        finding.get_by_text("the noise of T3 is wanted").wait_for()
        finding.get_by_role("button", name="take back").click()
        finding.get_by_role("button", name="Accept it").wait_for()

    def test_a_duplicate_says_what_was_done_to_it(self) -> None:
        self.open_demo()
        self.tag("A").focus()
        self.page.keyboard.press("d")
        self.page.get_by_text("from A: nothing changed yet").wait_for()
        self.mount("r1").focus()
        self.page.keyboard.press("f")
        self.page.get_by_text("from A: flipped R1").wait_for()
        self.assertEqual(self.page.locator("[data-lineage]").get_attribute("data-lineage"), "1")
        self.saved()

    def test_speeds_obey_groups_and_curves_and_say_what_they_release(self) -> None:
        job = Job.objects.get(name="Watch-room plotter")
        raw = adapters.document(job)
        raw["layouts"][0]["groups"] = [{"id": "front", "name": "the front", "speed_pct": 70}]
        for place in raw["layouts"][0]["fans"]:
            if place["mount"] in ("f2", "f3"):
                place["group"] = "front"
        adapters.store(job, check_job(raw).doc)
        self.open_demo("layouts", "A")
        self.mount("f2").click()
        self.page.keyboard.press("+")
        self.saved()
        layout = adapters.document(Job.objects.get(pk=job.pk))["layouts"][0]
        self.assertEqual(layout["groups"][0]["speed_pct"], 75)
        self.view("speeds")
        self.page.get_by_role("button", name="all alike").click()
        self.page.get_by_role("button", name="Find the coolest speeds").click()
        self.page.wait_for_selector("[data-quiet=reached]")
        self.page.get_by_role("button", name="Set these speeds in A").click()
        self.saved()
        layout = adapters.document(Job.objects.get(pk=job.pk))["layouts"][0]
        speeds = {layout["groups"][0]["speed_pct"], *(f["speed_pct"] for f in layout["fans"] if not f.get("group"))}
        self.assertEqual(len(speeds), 1)

    def test_curves_for_a_load_are_tried_over_time_and_set(self) -> None:
        job = Job.objects.get(name="Watch-room plotter")
        before = [c["id"] for c in adapters.document(job).get("curves", [])]
        self.open_demo("layouts", "B")
        self.view("speeds")
        panel = self.page.locator("[data-curves]")
        panel.get_by_label("Load over time").select_option("game")
        panel.get_by_role("button", name="Find curves").click()
        quietest = panel.locator("[data-curve^=quietest]")
        quietest.wait_for(timeout=60_000)
        panel.locator("[data-judged='B as it is']").wait_for()
        self.assertIn("°C", quietest.inner_text())
        quietest.get_by_role("button", name="Set these curves in B").click()
        self.saved()
        raw = adapters.document(Job.objects.get(pk=job.pk))
        layout = next(x for x in raw["layouts"] if x["id"] == "B")
        followed = {f["curve"] for f in layout["fans"] if f.get("curve")}
        self.assertTrue(followed and followed <= {c["id"] for c in raw["curves"]})
        self.page.keyboard.press("z")
        self.saved()
        self.assertEqual([c["id"] for c in adapters.document(Job.objects.get(pk=job.pk)).get("curves", [])], before)

    def test_smoke_says_who_takes_it_and_air_by_which_way_it_came(self) -> None:
        job = Job.objects.get(name="Watch-room plotter")
        raw = adapters.document(job)
        raw["points"] = [{"id": "p1", "name": "over the card", "at_mm": {"x": 200, "y": 100, "z": 250}}]
        adapters.store(job, check_job(raw).doc)
        self.open_demo("layouts", "A")
        self.page.get_by_role("button", name="air: Where the air goes").click()
        self.page.locator("[data-taken]").get_by_text("the cooler").wait_for()
        self.page.locator("[data-enters]").get_by_text("through gaps").wait_for()
        before = self.page.locator("[data-used]").get_attribute("data-used")
        self.page.get_by_label("Smoke comes out").select_option(label="at over the card")
        self.page.wait_for_function("was => document.querySelector('[data-used]').dataset.used !== was", arg=before)
