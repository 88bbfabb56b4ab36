"""Evidence: what came with the program, and a study made again, called off, and read."""

from django.test import tag

from tests.browser.base import BrowserCase


@tag("browser")
class EvidenceTest(BrowserCase):
    def test_a_study_is_read_made_again_and_called_off(self) -> None:
        self.open("/")
        self.page.get_by_role("link", name="Look, and make it again").click()
        own = self.page.locator("[data-study=practice]")
        own.get_by_text("As it came with Oventa").click()
        own.get_by_role("heading", name="Evidence: practice").wait_for()
        own.get_by_label("machines of each level").fill("1")
        own.get_by_label("Seed").fill("5")
        self.page.wait_for_timeout(700)  # a figure is taken at a pause
        own.get_by_role("button", name="Make it here").click()
        own.locator("[data-made=held]").wait_for(timeout=90_000)
        own.get_by_text("1 machines of each level, seed 5").wait_for()
        own.get_by_text("All that is wanted was reached").click()
        own.get_by_text("--practice 1 --seed 5").wait_for()
