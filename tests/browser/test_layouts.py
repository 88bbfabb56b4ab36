"""Layouts: flip by key, undo, streams that equal the forecast, cautions, reload, export."""

import json
import re
import time
from typing import Any

from django.test import tag
from playwright.sync_api import Route, expect

from cli.__main__ import main
from tests.browser.base import BrowserCase

WIDTH_PER_M3H = 0.26
PACE_PER_M_S = 42


def seen_links(links: list[dict[str, Any]]) -> dict[str, dict[str, Any]]:
    """Links by id as the side view shows them: the lane along the window together with the middle column."""
    found: dict[str, dict[str, Any]] = {}
    for x in links:
        link_id = x["id"].replace("_side", "_mid")
        flow, other = x["flow_m3h"], found.get(link_id)
        weight = abs(flow)
        if other:
            whole = weight + abs(other["flow_m3h"]) or 1.0
            speed = (x["speed_m_s"] * weight + other["speed_m_s"] * abs(other["flow_m3h"])) / whole
            found[link_id] = {**other, "flow_m3h": flow + other["flow_m3h"], "speed_m_s": speed}
        else:
            found[link_id] = dict(x)
    return found


@tag("browser")
class LayoutsTest(BrowserCase):
    def row(self, name: str, attribute: str) -> float:
        return float(self.page.locator(f"[data-row='{name}']").get_attribute(attribute) or "nan")

    def test_flip_by_keyboard_changes_everything_together_and_undo_brings_it_back(self) -> None:
        self.open_demo()
        before = self.row("Processor", "data-rise")
        self.mount("f2").focus()
        self.page.keyboard.press("ArrowLeft")
        for _ in range(6):
            if self.page.locator("[data-mount][aria-pressed=true]").get_attribute("data-mount") == "r1":
                break
            self.page.keyboard.press("ArrowLeft")
        self.assertEqual(self.page.locator("[data-mount][aria-pressed=true]").get_attribute("data-mount"), "r1")
        answer = self.forecast_after(lambda: self.page.keyboard.press("f"))
        self.page.wait_for_selector("[data-finding=no_exhaust]")
        layout = answer["forecast"]["layouts"][0]
        self.assertAlmostEqual(self.row("Processor", "data-rise"), layout["cpu"]["rise_k"], places=6)
        self.assertGreater(self.row("Processor", "data-rise"), before + 1)
        b = layout["balance"]
        self.assertAlmostEqual(b["inflow_total_m3h"] / b["outflow_total_m3h"], 1.0, delta=1e-3)
        self.assertIn("By count 3 in, 0 out", self.page.locator("[data-balance]").inner_text())
        self.page.keyboard.press("z")
        self.page.wait_for_selector("[data-finding=no_exhaust]", state="detached")
        self.assertAlmostEqual(self.row("Processor", "data-rise"), before, places=6)

    def test_speed_put_take_out_move_and_duplicate_by_key(self) -> None:
        self.open_demo()
        self.mount("f1").focus()
        self.page.keyboard.press("p")
        self.mount("f1").locator("[data-fan=intake]").wait_for()
        self.page.keyboard.press("-")
        self.page.get_by_text("75 %").first.wait_for()
        self.page.keyboard.press("m")
        self.mount("t1").click()
        self.mount("t1").locator("[data-fan=intake]").wait_for()
        self.page.keyboard.press("Delete")
        self.mount("t1").locator("[data-fan]").wait_for(state="detached")
        self.tag("A").focus()
        self.page.keyboard.press("d")
        self.page.wait_for_selector("[data-forecast=E]")
        self.assertEqual(self.page.locator("[data-keys=rack] [role=option]").count(), 5)

    def test_the_balance_says_by_which_openings_the_rest_goes(self) -> None:
        self.open_demo()
        words = self.page.locator("[data-openings]")
        expect(words).to_contain_text("bring in beyond that leaves")
        expect(words).to_contain_text("the basement's vents (")
        expect(words).not_to_contain_text("mean pressure")
        self.tag("B").click()
        self.page.wait_for_selector("[data-forecast=B]")
        expect(words).to_contain_text("take out beyond that comes in")
        self.tag("D").click()
        self.page.wait_for_selector("[data-forecast=D]")
        self.assertEqual(self.page.locator("[data-balance]").get_attribute("data-balance"), "about even")
        expect(words).to_have_count(0)

    def test_letters_typed_into_fields_do_nothing_else(self) -> None:
        self.open_demo()
        self.page.get_by_label("Name of the layout").fill("df z")
        self.saved()
        self.assertEqual(self.page.locator("[data-keys=rack] [role=option]").count(), 4)

    def drawn(self) -> dict[str, dict[str, float]]:
        script = """() => Object.fromEntries([...document.querySelectorAll('path[data-link]')].map(p => [p.dataset.link, {
            flow: +p.dataset.flow, pace: +p.dataset.pace, width: +p.getAttribute('stroke-width')}]))"""
        drawn: dict[str, dict[str, float]] = self.page.evaluate(script)
        return drawn

    def test_every_stream_drawn_equals_the_forecast(self) -> None:
        for layout in "BD":
            self.open_demo(layout="A")
            answer: dict[str, Any] = self.forecast_after(lambda layout=layout: self.tag(layout).click())
            self.page.wait_for_selector(f"[data-forecast={layout}]")
            links = seen_links(next(f for f in answer["forecast"]["layouts"] if f["id"] == layout)["links"])
            self.page.wait_for_function("n => document.querySelectorAll('path[data-link]').length >= n", arg=10)
            drawn = self.drawn()
            for link_id, stream in drawn.items():
                with self.subTest(layout=layout, link=link_id):
                    self.assertAlmostEqual(stream["flow"], abs(links[link_id]["flow_m3h"]), places=6)
                    self.assertAlmostEqual(stream["width"], abs(links[link_id]["flow_m3h"]) * WIDTH_PER_M3H, places=6)
                    self.assertAlmostEqual(stream["pace"], links[link_id]["speed_m_s"] * PACE_PER_M_S, places=6)
            fans = {x["id"] for x in links.values() if x["mount"] and abs(x["flow_m3h"]) > 1.5}
            self.assertLessEqual(fans, set(drawn))

    def test_cautions_at_their_steps(self) -> None:
        self.open_demo()
        self.mount("f2").click()
        self.page.get_by_text("unplug before you change a fan").wait_for()
        self.tray("panels")
        self.page.get_by_label("window panel").select_option("removed")
        self.page.get_by_text("Panel off: blades and hot parts are within reach").wait_for()
        self.assertIn("local rules", self.page.get_by_role("note").first.inner_text())

    def rises(self) -> tuple[float, float]:
        self.page.wait_for_selector("[data-answered=yes]")
        return float(self.row("Processor", "data-rise")), float(self.row("Card", "data-rise"))

    def test_a_fix_does_what_stands_on_its_button(self) -> None:
        self.open_demo(layout="C")
        before = self.rises()
        button = self.page.get_by_role("button", name="Turn R1 round")
        said = [float(x.replace("−", "-")) for x in re.findall(r"[+−][\d.]+(?= K)", button.inner_text())]
        button.click()
        self.page.wait_for_selector("[data-finding=flip_would_help]", state="detached")
        self.page.wait_for_function("r => document.querySelector(\"[data-row='Processor']\").dataset.rise !== r", arg=str(before[0]))
        after = self.rises()
        for was, now, told in zip(before, after, said, strict=True):
            self.assertAlmostEqual(now - was, told, delta=0.1)

    def test_what_would_harm_is_said_and_not_offered(self) -> None:
        self.open_demo(layout="B")
        finding = self.page.locator("[data-finding=intake_leaves_unused]")
        expect(finding).to_contain_text("Take T3 out: the processor 1.8 K cooler, the card 1.0 K warmer; so it is not offered")
        self.assertEqual(finding.locator("[data-fix]").count(), 0)

    def test_not_known_yet_is_not_none(self) -> None:
        """While findings are being worked out the panel says so; the old ones are marked and cannot be pressed."""
        self.page.route("**/api/forecast", self.slow_findings)
        self.open_demo(layout="C")
        panel = self.page.locator("[data-findings]")
        expect(panel).to_have_attribute("data-findings", "working")
        expect(panel).not_to_contain_text("Nothing an experienced builder")
        expect(panel).to_have_attribute("data-findings", "known")
        self.mount("t1").focus()
        self.page.keyboard.press("-")
        expect(panel).to_have_attribute("data-findings", "old")
        expect(panel).to_contain_text("before the last change")
        for button in panel.locator("[data-fix]").all():
            expect(button).to_be_disabled()
        self.tag("A").click()
        expect(panel).to_have_attribute("data-findings", "working")
        expect(panel).to_have_attribute("data-findings", "known")

    @staticmethod
    def slow_findings(route: Route) -> None:
        if json.loads(route.request.post_data or "{}").get("with_findings"):
            time.sleep(1.5)
        route.continue_()

    def test_reload_keeps_the_work_even_when_it_was_not_saved_yet(self) -> None:
        self.open_demo()
        self.page.route("**/api/jobs/*", lambda route: route.abort() if route.request.method == "PUT" else route.continue_())
        self.mount("r1").focus()
        self.page.keyboard.press("f")
        self.page.wait_for_selector("[data-save=offline]")
        self.errors.clear()
        self.page.unroute("**/api/jobs/*")
        self.page.reload()
        self.page.wait_for_selector("[data-finding=no_exhaust]")
        self.saved()
        self.page.reload()
        self.page.wait_for_selector("[data-finding=no_exhaust]")

    def test_a_second_window_is_not_overwritten(self) -> None:
        self.open_demo()
        other = self.page.context.new_page()
        other.goto(self.page.url)
        other.wait_for_selector("[data-forecast]")
        self.mount("r1").focus()
        self.page.keyboard.press("f")
        self.saved()
        other.locator("[data-mount=f2]").focus()
        other.keyboard.press("f")
        other.wait_for_selector("[data-save=conflict]")
        other.get_by_role("button", name="Keep the other window's state").click()
        other.wait_for_selector("[data-finding=no_exhaust]")

    def test_units_scale_and_theme(self) -> None:
        self.open_demo()
        self.page.get_by_title("Units: metric, or CFM, mmH₂O, inch, °F").click()
        self.page.get_by_text("CFM").first.wait_for()
        self.page.get_by_title("Temperatures over room or absolute").click()
        self.assertIn("°F", self.page.locator("[data-row=Processor]").inner_text())
        self.page.get_by_role("button", name="night bench").click()
        self.assertEqual(self.page.evaluate("document.documentElement.dataset.theme"), "nightbench")

    def test_command_line_prints_the_figures_of_the_screen(self) -> None:
        self.open_demo(layout="D")
        shown = self.row("Processor", "data-rise"), self.row("Sound", "data-level")
        with self.page.expect_download() as got:
            self.page.get_by_role("link", name="export").click()
        import contextlib
        import io

        out = io.StringIO()
        with contextlib.redirect_stdout(out), contextlib.redirect_stderr(io.StringIO()):
            self.assertEqual(main(["forecast", str(got.value.path()), "--layout", "D", "--json"]), 0)
        layout = json.loads(out.getvalue())["layouts"][0]
        self.assertEqual(shown, (layout["cpu"]["rise_k"], layout["sound"]["level_dba"]))


@tag("browser")
class MovingAirTest(BrowserCase):
    motion = "no-preference"

    def moment_s(self) -> float:
        return float(self.page.locator("svg[data-keys=drawing]").evaluate("svg => svg.getCurrentTime()"))

    def moves(self) -> bool:
        before = self.moment_s()
        self.page.wait_for_timeout(700)
        return self.moment_s() > before

    def test_air_moves_and_stands_for_who_wants_less_motion(self) -> None:
        self.open_demo()
        mark = self.page.locator(".moving path").first
        mark.wait_for(state="attached")
        self.assertTrue(self.moves())
        self.page.emulate_media(reduced_motion="reduce")
        self.assertFalse(self.moves())
        expect(mark).to_be_hidden()
