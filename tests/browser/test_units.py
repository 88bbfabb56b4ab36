"""What the screens show in other units equals the stored figure converted by published factors."""

from django.test import tag

from tests.browser.base import BrowserCase

# Source: NIST SP 811, appendix B: 1 ft3/min = 4.719474e-4 m3/s; 1 in = 25.4 mm; 1 mmH2O (conventional) = 9.80665 Pa.
M3H_PER_CFM = 4.719474e-4 * 3600


@tag("browser")
class UnitsTest(BrowserCase):
    def trade(self) -> None:
        self.page.get_by_title("Units: metric, or CFM, mmH₂O, inch, °F").click()
        self.page.get_by_text("CFM").first.wait_for()

    def test_flow_pressure_and_difference(self) -> None:
        self.open_demo()
        answer = self.forecast_after(lambda: self.tag("B").click())
        self.page.wait_for_selector("[data-forecast=B]")
        self.trade()
        layout = answer["forecast"]["layouts"][0]
        flow = next(f["flow_m3h"] for f in layout["fans"] if f["mount"] == "f1") / M3H_PER_CFM
        self.assertEqual(self.page.locator("[data-flow-of=f1]").text_content(), f"{flow:.0f} CFM")
        pressure = layout["balance"]["case_pressure_pa"] / 9.80665
        self.page.get_by_text(f"case {pressure:.2f}".replace("-", "−")).wait_for()
        difference = layout["differences"]["cpu_k"] * 1.8
        shown = f"{abs(difference):.0f} °F"
        self.assertIn(shown, self.page.locator("[data-row=Processor]").inner_text())

    def test_absolute_temperatures(self) -> None:
        self.open_demo(layout="A")
        rise = float(self.page.locator("[data-row=Processor]").get_attribute("data-rise") or 0)
        self.page.get_by_title("Temperatures over room or absolute").click()
        self.page.locator("[data-row=Processor]").get_by_text(f"{22 + rise:.0f} °C").wait_for()
        self.trade()
        self.page.locator("[data-row=Processor]").get_by_text(f"{(22 + rise) * 1.8 + 32:.0f} °F").wait_for()

    def test_the_choice_is_remembered(self) -> None:
        self.open_demo()
        self.trade()
        self.page.reload()
        self.page.get_by_text("CFM").first.wait_for()

    def test_a_typed_room_in_fahrenheit_is_stored_in_celsius(self) -> None:
        self.open_demo("bench", "A")
        self.trade()
        field = self.page.get_by_label("Correct it, for the whole run")
        with self.page.expect_response(lambda r: r.request.method == "PATCH" and r.ok) as got:
            field.fill("70.7")
        self.assertAlmostEqual(got.value.json()["typed_room_c"], (70.7 - 32) / 1.8, places=6)
        with self.page.expect_response(lambda r: r.request.method == "PATCH" and r.ok) as got:
            field.fill("")
        self.assertIsNone(got.value.json()["typed_room_c"])

    def test_figures_of_a_run_and_a_verdict(self) -> None:
        self.open_demo("bench", "A")
        rise = float(self.page.locator("[data-channel=cpu_package_c]").get_attribute("data-rise") or 0)
        self.page.locator("[data-channel=cpu_package_c]").get_by_text(f"{rise:.1f}", exact=True).wait_for()
        self.open_demo("verdict", "D")
        value = float(self.page.locator("[data-figure='D cpu_package_c']").get_attribute("data-value") or 0)
        self.page.locator("[data-figure='D cpu_package_c']").get_by_text(f"{value:.1f}").wait_for()
        self.trade()
        self.page.locator("[data-figure='D cpu_package_c']").get_by_text(f"{value * 1.8:.1f}").wait_for()
