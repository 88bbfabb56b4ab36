"""Speed curves from nothing: made in Parts, followed in Layouts, told when they hunt, taken off again."""

from django.test import tag

from tests.browser.base import BrowserCase


@tag("browser")
class CurvesTest(BrowserCase):
    def test_a_curve_is_made_followed_and_taken_off(self) -> None:
        self.open_demo("parts")
        self.page.get_by_role("button", name="Add a speed curve").click()
        row = self.page.locator("[data-curve=curve]")
        row.get_by_label("It follows").select_option("cpu")
        row.get_by_label("runs at").nth(2).fill("90")
        self.saved()
        self.open_demo()
        self.mount("r1").click()
        answer = self.forecast_after(lambda: self.page.get_by_label("What the fan at R1 follows").select_option("curve"))
        layout = answer["forecast"]["layouts"][0]
        speed = next(f["speed_pct"] for f in layout["fans"] if f["mount"] == "r1")
        cpu = layout["cpu"]["temperature_c"]
        self.assertAlmostEqual(speed, 50 + (cpu - 60) / 20 * 40, delta=0.5)
        self.saved()
        self.open_demo("parts")
        self.page.locator("[data-curve=curve]").get_by_role("button", name="take off").click()
        self.page.wait_for_selector("[data-curve=curve]", state="detached")
        self.saved()
        self.open_demo()
        self.mount("r1").click()
        self.assertEqual(self.page.get_by_label("What the fan at R1 follows").input_value(), "")

    def test_card_and_cooler_follow_the_demo_s_curve(self) -> None:
        self.open_demo()
        self.tray("card")
        answer = self.forecast_after(lambda: self.page.get_by_label("Card fans run at").select_option("night"))
        self.assertTrue(answer["forecast"]["layouts"][0]["converged"])
        self.tray("cooler, loop")
        answer = self.forecast_after(lambda: self.page.get_by_label("Cooler fan runs at").select_option("night"))
        self.assertTrue(answer["forecast"]["layouts"][0]["converged"])

    def test_a_gap_behind_the_radiator_is_told_and_closed(self) -> None:
        self.open_demo(layout="C")
        self.tray("cooler, loop")
        self.forecast_after(lambda: self.page.get_by_label("Gap to its fans").fill("15"))
        self.page.locator("[data-finding=radiator_gap]").get_by_role("button", name="Close the gap").click()
        self.page.wait_for_selector("[data-finding=radiator_gap]", state="detached")
