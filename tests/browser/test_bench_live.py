"""A live run from plan to settled, with a reload in the middle; the clipboard; alarms; several logs at once."""

import time
from typing import Any

from playwright.sync_api import expect

from documents.job.planned import CriterionDoc, from_template
from instruments.scpi import logger, serve
from server.apps.bench import benches, buffer, players, watching
from server.apps.bench.models import Bench, Mark, Run
from tests.browser.base import BrowserCase
from tests.cli.test_commands import call
from tests.machines import LOGS

PNG = bytes.fromhex(
    "89504e470d0a1a0a0000000d49484452000000010000000108060000001f15c4890000000d49444154789c6360606060000000050001a5f645400000000049454e44ae426082"
)


class LiveBrowserCase(BrowserCase):
    def setUp(self) -> None:
        buffer.forget_all()
        watching.forget_all()
        super().setUp()

    def come_to_rest(self) -> None:
        for bench in Bench.objects.all():
            players.stop_standin(bench.pk)
        super().come_to_rest()

    def made_up_machine(self, rate: str = "120", fault: str = "") -> None:
        """At Bench with the stand-in's readings coming."""
        page = self.page
        page.get_by_role("button", name="Live", exact=True).click()
        if not page.get_by_label("Seed").is_visible():
            page.get_by_text("No machine at hand? A made-up one").click()
        page.get_by_label("Time", exact=True).select_option(rate)
        if fault:
            page.get_by_label("What goes wrong").select_option(fault)
        page.get_by_role("button", name="Start a made-up machine of").click()
        expect(page.get_by_text("times as fast as life")).to_be_visible(timeout=30_000)

    def ready(self) -> None:
        self.page.get_by_role("button", name="All are as the layout says").click()
        expect(self.page.get_by_role("status").get_by_text("All is ready. Start the run.")).to_be_visible(timeout=30_000)


class WholeRunTest(LiveBrowserCase):
    def test_from_the_plan_to_settled_with_a_reload_in_the_middle(self) -> None:
        self.open_demo("plan")
        page = self.page
        expect(page.get_by_role("heading", name="5 runs")).to_be_visible()
        page.get_by_label("At most, minutes").or_(page.get_by_label("Length")).first.wait_for()
        page.get_by_role("button", name="To the bench").click()
        self.made_up_machine()
        page.get_by_role("button", name="Prepare this run").click()
        expect(page.get_by_role("status").get_by_text("Tick what is held")).to_be_visible()
        expect(page.locator("[data-action=main]")).to_be_disabled()
        self.ready()
        page.locator("[data-action=main]").click()
        expect(page.get_by_role("heading", name="Soaking")).to_be_visible(timeout=20_000)
        expect(page.locator("[data-live=cpu_package_c]")).to_be_visible(timeout=20_000)
        page.get_by_role("button", name="Clipboard").click()
        page.get_by_role("button", name="panel opened").click()
        expect(page.locator("[data-mark=panel_opened]")).to_be_visible()
        page.reload()
        expect(page.locator("[data-mark=panel_opened]")).to_be_visible(timeout=20_000)
        expect(page.get_by_label("Note", exact=True)).to_be_visible()  # the face it had
        page.get_by_role("button", name="Gauge").click()
        expect(page.get_by_role("tab", name="A run 3")).to_be_visible(timeout=90_000)
        run = Run.objects.get(planned="r1")
        self.assertEqual((run.state, run.ended_why), ("valid", "settled"))
        self.assertTrue(run.analysis["settled"])
        self.assertLess(run.duration_s, 3600 + 300)
        expect(page.locator("[data-arrived=settled]")).to_be_visible()
        page.keyboard.press("4")
        expect(page.locator("[data-sheet=run][data-done=true]")).to_have_count(1)

    def test_a_second_screen_watches_the_same_run(self) -> None:
        self.open_demo("bench")
        self.made_up_machine("60")
        self.page.get_by_role("button", name="Prepare this run").click()
        self.ready()
        other = self.page.context.new_page()
        other.goto(self.page.url)
        other.get_by_role("button", name="Start without waiting").or_(other.locator("[data-action=main]")).first.wait_for()
        self.page.locator("[data-action=main]").click()
        expect(other.get_by_role("heading", name="Soaking")).to_be_visible(timeout=30_000)

    def test_a_stopped_fan_raises_an_alarm_on_screen(self) -> None:
        self.open_demo("bench")
        self.made_up_machine("120", "tach_lost")
        self.page.get_by_role("button", name="Prepare this run").click()
        self.ready()
        self.page.locator("[data-action=main]").click()
        expect(self.page.get_by_text("Alarm.")).to_be_visible(timeout=60_000)
        self.assertEqual(Mark.objects.filter(kind="alarm").count(), 1)

    def test_by_keyboard_alone(self) -> None:
        self.open_demo("bench")
        self.made_up_machine("60")
        page = self.page
        page.get_by_role("button", name="Prepare this run").focus()
        page.keyboard.press("Enter")
        page.get_by_role("button", name="All are as the layout says").focus()
        page.keyboard.press("Enter")
        expect(page.get_by_role("status").get_by_text("All is ready. Start the run.")).to_be_visible(timeout=30_000)
        page.locator("[data-action=main]").focus()
        page.keyboard.press("Space")
        expect(page.get_by_role("heading", name="Soaking")).to_be_visible(timeout=20_000)
        expect(page.locator("[data-live=cpu_package_c]")).to_be_visible(timeout=30_000)
        page.keyboard.press("n")
        expect(page.get_by_label("Note", exact=True)).to_be_visible()
        page.get_by_label("Note", exact=True).focus()
        page.keyboard.type("hums a little")
        page.get_by_role("button", name="Keep the note").focus()
        page.keyboard.press("Enter")
        expect(page.get_by_text("hums a little")).to_be_visible()
        page.locator("[data-action=second]").focus()
        page.keyboard.press("Enter")
        expect(page.get_by_role("tab", name="A run 3")).to_be_visible(timeout=30_000)
        self.assertEqual(Run.objects.get(ended_why="person").analysis["settled"], False)


class ClipboardTest(LiveBrowserCase):
    def run_that_is_in(self) -> Any:
        self.open_demo("bench")
        self.page.get_by_role("button", name="open the clipboard").click()
        return Run.objects.filter(layout_key="A").first()

    def test_a_pin_a_picture_and_a_reading(self) -> None:
        run = self.run_that_is_in()
        page = self.page
        page.locator("[data-pins] rect").click(position={"x": 80, "y": 70})
        page.get_by_label("Note", exact=True).fill("warm behind the top")
        page.locator("input[type=file]").first.set_input_files(files={"name": "p.png", "mimeType": "image/png", "buffer": PNG})
        page.get_by_role("button", name="heat felt here").click()
        expect(page.locator("[data-mark=heat_felt] img")).to_be_visible()
        mark = Mark.objects.get(tag="heat_felt")
        self.assertEqual(bytes(mark.picture or b""), PNG)
        self.assertTrue(0 < (mark.x_mm or 0) < 420 and 0 < (mark.z_mm or 0) < 450)
        page.get_by_label("What", exact=True).select_option("fps")
        page.get_by_label("Reading").fill("88")
        page.get_by_role("button", name="Keep the reading").click()
        expect(page.locator("[data-channel=fps]")).to_be_visible()
        page.get_by_label("Reading").fill("8,8")
        page.get_by_role("button", name="Keep the reading").click()
        expect(page.get_by_text("Was 88 meant?")).to_be_visible()
        run.refresh_from_db()
        self.assertEqual(len(run.by_hand), 1, "what is questioned is not kept")
        page.get_by_label("Reading").fill("88")
        page.get_by_role("button", name="Keep the reading").click()
        page.get_by_role("button", name="strike").first.click()
        expect(page.locator(".line-through")).to_have_count(1)

    def test_a_stretch_is_left_out_and_taken_in_again(self) -> None:
        run = self.run_that_is_in()
        self.page.get_by_role("button", name="window or door opened").click()
        expect(self.page.get_by_text("window or door opened, left out of the mean")).to_be_visible()
        mark = Mark.objects.get(run=run)
        self.assertTrue(mark.drop)
        self.page.get_by_label("leave it out of the mean").click()
        expect(self.page.get_by_text("left out of the mean")).to_have_count(0)
        mark.refresh_from_db()
        self.assertFalse(mark.drop)


class ManyLogsTest(LiveBrowserCase):
    with_demo = True

    def test_several_at_once_and_all_taken_back(self) -> None:
        self.open_demo("bench", "B")
        page = self.page
        before = Run.objects.count()
        page.get_by_role("button", name="Bring in logs").click()
        page.get_by_label("Log file of the run").set_input_files([LOGS / "heron-a-1.csv", LOGS / "heron-b-2.csv"])
        page.get_by_role("tab", name="heron-b-2.csv").click()
        page.get_by_label("It is a run of layout").select_option("C")
        page.get_by_role("button", name="Take in 2 logs").click()
        expect(page.get_by_role("button", name="Take all of them back")).to_be_visible()
        self.assertEqual(Run.objects.count(), before + 2)
        self.assertEqual(Run.objects.get(source_name="heron-b-2.csv").layout_key, "C")
        page.get_by_role("button", name="Take all of them back").click()
        expect(page.get_by_role("region", name="Bring in a log")).to_have_count(0)
        self.assertEqual(Run.objects.filter(state="void", void_reason__startswith="taken back").count(), 2)

    def test_results_without_a_log(self) -> None:
        self.open_demo("bench", "D")
        page = self.page
        page.get_by_role("button", name="Type results").click()
        page.get_by_label("What", exact=True).select_option("score")
        page.get_by_label("Figure", exact=True).fill("10432")
        page.get_by_label("Figure", exact=True).press("Enter")
        page.get_by_role("button", name="Keep them as a run of D").click()
        expect(page.locator("[data-channel=score]")).to_be_visible()
        self.assertEqual(Run.objects.get(source_name="by hand").analysis["channels"][0]["mean"], 10432)

    def test_what_is_typed_is_in_the_readers_units(self) -> None:
        self.open_demo("bench", "D")
        page = self.page
        page.get_by_role("button", name="m³/h, mm").click()
        page.get_by_role("button", name="Type results").click()
        form = page.get_by_role("region", name="Type results")
        expect(form.get_by_text("°F").first).to_be_visible()
        form.get_by_label("Figure", exact=True).fill("167")
        form.get_by_role("button", name="Another figure").click()
        form.get_by_label("What", exact=True).nth(1).select_option("job_s")
        form.get_by_label("Figure", exact=True).nth(1).fill("176")
        expect(form.get_by_text("s", exact=True)).to_be_visible()
        form.get_by_label("What", exact=True).nth(1).select_option("card_core_c")  # what stands in the field is what was typed
        expect(form.get_by_label("Figure", exact=True).nth(1)).to_have_value("176")
        form.get_by_label("Room temperature").fill("71.6")
        form.get_by_label("Room temperature").press("Enter")
        form.get_by_role("button", name="Keep them as a run of D").click()
        expect(form).to_have_count(0)
        expect(page.locator("[data-channel=cpu_package_c]")).to_contain_text("°F")
        run = Run.objects.get(source_name="by hand")
        means = {c["name"]: round(c["mean"], 3) for c in run.analysis["channels"]}
        self.assertEqual((means["cpu_package_c"], means["card_core_c"]), (75.0, 80.0))
        self.assertAlmostEqual(run.typed_room_c or 0, 22.0, places=6)
        page.locator("[data-flag=end_unknown]").wait_for()
        page.get_by_label("It stood still when it was read").click()
        expect(page.locator("[data-flag=end_unknown]")).to_have_count(0)
        run.refresh_from_db()
        self.assertTrue(run.stood_still)


class SuiteOnScreenTest(LiveBrowserCase):
    def test_the_plan_runs_by_itself_from_one_press_and_a_page_calls(self) -> None:
        self.open_demo("bench")
        page = self.page
        self.made_up_machine()
        page.get_by_role("button", name="Run the plan by itself").click()
        bar = page.locator("[data-suite]")
        expect(bar).to_have_attribute("data-suite", "hand")
        expect(bar).to_contain_text("5 runs are left")
        with page.context.expect_page() as opened:
            bar.get_by_role("link", name="page that calls you").click()
        call_page = opened.value
        expect(call_page.locator("[data-call=hand]")).to_contain_text("Tick what is held")
        call_page.get_by_role("button", name="Call me by sound").click()
        page.get_by_role("button", name="All are as the layout says").click()
        expect(bar).to_have_attribute("data-suite", "runs", timeout=30_000)
        expect(call_page.locator("[data-call=runs]")).to_be_visible()
        expect(page.locator("[data-action=main]")).to_contain_text("Ends when all bars touch the mark", timeout=30_000)
        expect(call_page.locator("[data-call=hand]")).to_contain_text("Build layout B", timeout=120_000)
        expect(call_page.get_by_role("list")).to_contain_text("put Tern 120 at F1, in")
        expect(call_page.locator("main")).to_contain_text("switch off at the wall")
        run = Run.objects.get(state="valid", bench__isnull=False)
        self.assertEqual((run.ended_why, run.planned != ""), ("settled", True))
        expect(bar).to_contain_text("Build layout B")
        bar.get_by_role("button", name="It stands built: go on").click()
        expect(bar).to_contain_text("Tick what is held")
        bar.get_by_role("button", name="go on by hand").click()
        expect(bar).to_have_attribute("data-suite", "stopped")
        call_page.close()


class BenchesOnScreenTest(LiveBrowserCase):
    def test_a_bench_of_ones_own_is_fed_by_a_file_and_by_an_instrument(self) -> None:
        self.open_demo("bench")
        page = self.page
        page.get_by_role("button", name="Live", exact=True).click()
        page.get_by_label("A new bench").fill("window side")
        page.get_by_role("button", name="Add the bench").click()
        page.get_by_role("button", name="Another machine").click()
        expect(page.locator("[data-command=tunnel]")).to_contain_text("ssh -N -R")
        page.get_by_role("button", name="This machine").click()
        expect(page.locator("[data-command=watch]")).to_contain_text("./oventa watch --bench")
        expect(page.locator("[data-heard='0']")).to_contain_text("No readings come now")
        page.get_by_text("A log file that another program writes").click()
        command = page.locator("[data-command=push]")
        expect(command).not_to_contain_text("…")
        words = command.inner_text().split()
        code, _, said = call("push", str(LOGS / "heron-a-1.csv"), *words[words.index("--bench") :])
        self.assertEqual(code, 0, said)
        expect(page.get_by_text("readings come").first).to_be_visible(timeout=15_000)
        expect(page.locator("[data-heard]")).to_contain_text("Readings come. processor")
        server, address = serve(logger(["101", "102"], lambda: [33.3, None]))
        self.addCleanup(server.server_close)
        self.addCleanup(server.shutdown)
        page.get_by_text("Instruments that are read from here").click()
        page.get_by_label("Address: host:port").fill(address)
        page.get_by_role("button", name="Read it from here").click()
        expect(page.get_by_text("no channel is named")).to_be_visible()
        page.get_by_label("Channels: 101=").fill("101=air_front_c")
        page.get_by_role("button", name="Read it from here").click()
        expect(page.get_by_text("read every 5 s")).to_be_visible()
        bench = Bench.objects.get(name="window side")
        until = time.monotonic() + 15
        latest: dict[str, float] = {}
        while latest.get("air_front_c") != 33.3 and time.monotonic() < until:
            latest = page.request.get(f"{self.live_server_url}/api/benches/{bench.pk}/live").json()["latest"]
        self.assertEqual(latest.get("air_front_c"), 33.3)
        page.get_by_role("button", name="remove", exact=True).click()
        expect(page.get_by_text("read every 5 s")).to_have_count(0)

    def test_a_name_that_is_taken_is_said(self) -> None:
        benches.make_bench("one")
        self.open_demo("bench")
        self.page.get_by_role("button", name="Live", exact=True).click()
        self.page.get_by_label("A new bench").fill("one")
        self.page.get_by_role("button", name="Add the bench").click()
        expect(self.page.get_by_role("alert")).to_contain_text("Choose another name")


class DetailsTest(LiveBrowserCase):
    def test_acceptance_and_what_makes_a_run_less_general(self) -> None:
        run = Run.objects.filter(layout_key="A").first()
        assert run is not None
        run.protocol = (
            from_template("acceptance")
            .model_copy(update={"criteria": [CriterionDoc(channel="cpu_package_c", most_k=40)]})
            .model_dump(mode="json")
        )
        run.held = {"card_fans": "62 %"}
        run.save()
        self.open_demo("bench", "A")
        page = self.page
        expect(page.get_by_role("region", name="Acceptance")).to_have_attribute("data-passed", "false")
        page.get_by_text("What makes it less general").click()
        page.get_by_label("processor without its lid").click()
        expect(page.locator("[data-traits=delidded]")).to_be_visible()
        page.get_by_label("card's fans, %: as it was").fill("40 %")
        with page.expect_response(lambda r: r.request.method == "PATCH"):
            page.get_by_label("card's fans, %: as it was").press("Tab")
        page.get_by_role("link", name="Verdict").click()
        expect(page.locator("[data-traits=delidded]").first).to_be_visible()
        for face in ("Side by side", "Effects", "All figures"):
            page.get_by_role("button", name=face, exact=True).click()
            expect(page.locator("[data-traits-line=A] [data-traits=delidded]")).to_be_visible()
        run.refresh_from_db()
        self.assertEqual((run.traits, run.held), (["delidded"], {"card_fans": "40 %"}))

    def test_a_zoom_asks_for_every_reading_and_back(self) -> None:
        self.open_demo("bench", "A")
        page = self.page
        trace = page.locator("[data-trace]")
        whole = trace.get_attribute("data-trace")
        box = page.locator(".u-over").bounding_box()
        assert box is not None
        page.mouse.move(box["x"] + 200, box["y"] + 50)
        page.mouse.down()
        page.mouse.move(box["x"] + 260, box["y"] + 60, steps=4)
        page.mouse.up()
        expect(page.get_by_role("button", name="the whole run")).to_be_visible()
        expect(trace).not_to_have_attribute("data-trace", whole or "")
        page.get_by_role("button", name="the whole run").click()
        expect(trace).to_have_attribute("data-trace", whole or "")

    def test_a_run_takes_the_place_of_another(self) -> None:
        self.open_demo("bench", "A")
        page = self.page
        page.get_by_label("To leave it out, say why").fill("paste was dry")
        page.get_by_role("button", name="Another run takes its place").click()
        expect(page.get_by_role("tab", name="A run 1")).to_contain_text("replaced")
        self.assertEqual(Run.objects.get(name="A run 1").state, "superseded")
        page.get_by_role("button", name="Take it in again").click()
        expect(page.get_by_role("tab", name="A run 1")).to_contain_text("settled")


class SensorMapTest(LiveBrowserCase):
    def test_numbered_points_with_advice(self) -> None:
        job = Run.objects.filter(layout_key="A")[0].job
        places = [(30 * i + 20, 90, 40 + 17 * i) for i in range(12)]
        job.more["points"] = [
            {"id": f"p{i}", "name": f"point {i}", "sensor": 100 + i, "critical": i % 3 == 0, "at_mm": {"x": x, "y": y, "z": z}}
            for i, (x, y, z) in enumerate(places)
        ]
        job.save()
        self.open_demo("plan")
        rows = self.page.locator("[data-point-row]")
        expect(rows).to_have_count(12)
        expect(rows.nth(0)).to_contain_text("(critical)")
        expect(rows.nth(5).locator("td").nth(3)).not_to_be_empty()


class PlanStationTest(LiveBrowserCase):
    def test_a_change_of_a_used_protocol_makes_the_next_version(self) -> None:
        run = Run.objects.filter(layout_key="A").first()
        assert run is not None
        run.protocol = run.job.more["protocols"][0]
        run.save()
        self.open_demo("plan")
        expect(self.page.locator("[data-protocol='soak v1']")).to_be_visible()
        expect(self.page.get_by_text("runs were made with it")).to_be_visible()
        self.page.get_by_label("Window, s").fill("600")
        self.page.get_by_label("Window, s").press("Enter")
        expect(self.page.locator("[data-protocol='soak v2']")).to_be_visible()
        self.saved()
        run.job.refresh_from_db()
        self.assertEqual([(p["version"], p["window_s"]) for p in run.job.more["protocols"]], [(1, 300), (2, 600)])

    def test_two_by_two(self) -> None:
        self.open_demo("plan")
        page = self.page
        page.get_by_label("Design").select_option("factorial")
        page.get_by_role("button", name="Add a change").click()
        page.get_by_role("button", name="Add a change").click()
        page.get_by_label("Change 2").select_option("panel")
        page.locator("[data-factor='0']").get_by_label("Mount").select_option("f2")
        page.get_by_role("button", name="Propose the layouts").click()
        expect(page.locator("[data-effect='2']")).to_be_visible()
        page.get_by_role("button", name="Take up 3 new layouts and plan 4 runs").click()
        expect(self.tag("G")).to_be_visible()
        expect(page.locator("[data-sheet=run]")).to_have_count(5)
        page.get_by_role("button", name="take run 2 off").click()
        expect(page.locator("[data-sheet=run]")).to_have_count(4)
        page.get_by_role("button", name="run 2 later").click()
        self.saved()

    def test_a_job_from_nothing_is_planned(self) -> None:
        self.open("/")
        self.page.get_by_role("button", name="Start the survey").click()
        self.page.get_by_role("link", name="Plan").click()
        expect(self.page.get_by_text("Nothing is planned yet")).to_be_visible()
        self.page.get_by_role("button", name="Make the run sheet").click()
        expect(self.page.locator("[data-sheet=run]")).to_have_count(1)
        self.saved()
