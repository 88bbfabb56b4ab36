"""Every station at desk and tablet width: nothing runs out of its place, both themes load, empty screens say what to do."""

import re

from django.test import tag
from playwright.sync_api import Route, expect

from tests.browser.base import BrowserCase

# Pairs of neighbouring cells whose words or figures come nearer than a reader's eye can part.
TOO_NEAR = """() => {
  const words = (e) => { const r = document.createRange(); r.selectNodeContents(e); return r.getBoundingClientRect(); };
  document.querySelectorAll("details").forEach((d) => { d.open = true; });
  return [...document.querySelectorAll("tr")].flatMap((row) => {
    const cells = [...row.children].filter((c) => c.textContent.trim() && words(c).width);
    return cells.slice(1).flatMap((c, i) =>
      words(c).left - words(cells[i]).right < 6 ? [`${cells[i].textContent} | ${c.textContent}`] : []);
  });
}"""
STATIONS = ("survey", "parts", "layouts", "plan", "bench", "verdict")


@tag("browser")
class ScreensTest(BrowserCase):
    def assert_fits(self, words: str) -> None:
        wide = self.page.evaluate("document.documentElement.scrollWidth - document.documentElement.clientWidth")
        self.assertLessEqual(wide, 0, f"{words} scrolls sideways by {wide} px")

    def test_widths(self) -> None:
        for width, height in ((1280, 800), (1024, 768), (820, 1180)):
            self.page.set_viewport_size({"width": width, "height": height})
            for station in STATIONS:
                with self.subTest(station=station, width=width):
                    self.open_demo(station)
                    self.page.wait_for_selector("h1")
                    self.assert_fits(f"{station} at {width}")

    def test_words_and_figures_of_tables_stand_apart(self) -> None:
        seen = 0
        self.open_demo("verdict", "D")
        for face in ("Argument", "Side by side", "All figures", "Probes"):
            self.page.get_by_role("button", name=face, exact=True).click()
            self.page.wait_for_timeout(500)
            with self.subTest(face=face):
                self.assertEqual(self.page.evaluate(TOO_NEAR), [])
                seen += self.page.locator("td").count()
        self.open_demo("layouts", "A", by="runs")
        self.view("learned")
        self.page.wait_for_selector("[data-learned-row]")
        self.assertEqual(self.page.evaluate(TOO_NEAR), [])
        self.assertGreater(seen, 60)

    def test_digits_go_to_stations(self) -> None:
        self.open_demo()
        for digit, station in enumerate(STATIONS, start=1):
            self.page.keyboard.press(str(digit))
            self.page.wait_for_url(re.compile(f"/{station}([?]|$)"))
        self.page.keyboard.press("?")
        self.page.get_by_role("dialog", name="Keys").wait_for()

    def test_what_is_not_known_yet_is_not_said_to_be_none(self) -> None:
        """While runs and comparison are on their way the strip says so."""
        held: list[Route] = []
        for what in ("**/comparison*", "**/api/jobs/*/runs"):
            self.page.route(what, lambda route: held.append(route))
        self.open_demo("survey")
        strip = self.page.locator("nav").filter(has_text="Verdict")
        expect(strip).to_contain_text("looking …")
        expect(strip).to_contain_text("judging …")
        expect(strip).not_to_contain_text("no runs yet")
        expect(strip).not_to_contain_text("needs two runs")
        for route in held:
            route.continue_()
        expect(strip).to_contain_text("9 runs in")
        expect(strip).to_contain_text("4 to compare")

    def test_bench_and_verdict_of_the_demo_catch_the_planted_faults(self) -> None:
        self.open_demo("bench", "D")
        self.page.get_by_role("tab", name="D run, too short").click()
        self.page.wait_for_selector("[data-flag=too_short]")
        self.tag("B").click()
        self.page.get_by_role("tab", name="B run, wrong room").click()
        self.page.wait_for_selector("[data-flag=room_doubtful]")
        self.open_demo("verdict", "D")
        self.page.wait_for_selector("[data-claim=D]")
        self.page.get_by_text("B: a run was left aside, the room temperature is doubtful").first.wait_for()
        self.assertEqual(self.page.locator("[data-against='A cpu_package_c']").get_attribute("data-said"), "worse")

    def test_a_run_left_out_stays_and_is_not_compared(self) -> None:
        self.open_demo("bench", "B")
        self.page.get_by_role("tab", name="B run 1").click()
        self.page.get_by_label("To leave it out, say why").fill("door stood open")
        self.page.get_by_role("button", name="Leave it out of comparisons").click()
        self.page.get_by_text("Left out: door stood open").wait_for()
        self.page.get_by_role("button", name="Take it in again").wait_for()

    def test_headings_and_names_for_those_who_cannot_see(self) -> None:
        self.open_demo()
        self.assertEqual(self.page.locator("h1").count(), 1)
        self.assertIn("blowing in", self.mount("f2").get_attribute("aria-label") or "")
        unnamed = self.page.evaluate(
            """() => [...document.querySelectorAll('input,select,button,textarea')].filter(e => !(e.labels?.length) &&
            !e.getAttribute('aria-label') && !e.textContent.trim() && !e.title).length"""
        )
        self.assertEqual(unnamed, 0)
