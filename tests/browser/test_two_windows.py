"""Two windows, lost answers, a server that is away: nothing typed disappears without a question."""

import json
import re
from typing import Any

from playwright.sync_api import Page, Route, expect

from server.apps.jobs.models import Job
from tests.browser.base import BrowserCase


class WindowsCase(BrowserCase):
    def setUp(self) -> None:
        super().setUp()
        self.job = Job.objects.get(name="Watch-room plotter")

    def survey(self, page: Page | None = None) -> Page:
        page = page or self.page
        page.goto(f"{self.live_server_url}/jobs/{self.job.pk}/survey")
        page.get_by_label("Depth, front to rear").wait_for()
        return page

    def another(self) -> Page:
        page = self.page.context.new_page()
        page.set_default_timeout(45_000)
        return self.survey(page)

    def depth(self, page: Page, value: str) -> None:
        page.get_by_label("Depth, front to rear").fill(value)
        page.get_by_label("Depth, front to rear").press("Tab")

    def height(self, page: Page, value: str) -> None:
        page.get_by_label("Height, floor to top").fill(value)
        page.get_by_label("Height, floor to top").press("Tab")

    def stored(self) -> tuple[float, float]:
        case = Job.objects.get(pk=self.job.pk).case
        return case.depth_mm, case.height_mm

    def rests(self, page: Page, state: str = "saved") -> None:
        page.wait_for_selector(f"footer [data-save={state}]")

    def first_stored(self, *pages: Page) -> Page:
        """Which of several windows that try again by themselves was the first to be stored."""
        for _ in range(450):
            for page in pages:
                if page.locator("footer [data-save=saved]").count():
                    return page
            self.page.wait_for_timeout(100)
        raise AssertionError("none of the windows was stored again")

    def choice(self, page: Page) -> Any:
        return page.get_by_role("alert", name="Two states of this job")


class TwoWindowsTest(WindowsCase):
    def clash(self) -> tuple[Page, Page]:
        """The other window has saved a depth, this one has typed a height."""
        other = self.another()
        self.survey()
        self.depth(other, "433")
        self.rests(other)
        self.height(self.page, "466")
        self.rests(self.page, "conflict")
        expect(self.choice(self.page)).to_contain_text("changed in another window")
        expect(self.choice(self.page)).to_contain_text("the case")
        self.assertEqual(self.stored()[0], 433)
        self.assertNotEqual(self.stored()[1], 466)
        return self.page, other

    def test_mine_is_kept_and_theirs_is_one_undo_away(self) -> None:
        page, _ = self.clash()
        page.get_by_label("Width, tray to window").fill("222")  # typed while the question stands
        page.get_by_label("Width, tray to window").press("Tab")
        page.get_by_role("button", name="Keep mine", exact=True).click()
        self.rests(page)
        self.assertEqual(self.stored()[1], 466)
        self.assertEqual(Job.objects.get(pk=self.job.pk).case.width_mm, 222)
        page.locator("footer").get_by_role("button", name="undo").click()
        expect(page.get_by_label("Depth, front to rear")).to_have_value("433")
        self.rests(page)
        self.assertEqual(self.stored()[0], 433)

    def test_theirs_is_kept_and_mine_is_one_undo_away(self) -> None:
        page, _ = self.clash()
        page.get_by_role("button", name="Keep the other window's state").click()
        expect(page.get_by_label("Depth, front to rear")).to_have_value("433")
        self.rests(page)
        page.locator("footer").get_by_role("button", name="undo").click()
        expect(page.get_by_label("Height, floor to top")).to_have_value("466")
        self.rests(page)
        self.assertEqual(self.stored()[1], 466)

    def test_both_are_kept(self) -> None:
        page, _ = self.clash()
        page.get_by_role("button", name="Keep both").click()
        page.get_by_role("link", name="Open it").wait_for()
        copy = Job.objects.get(name="Watch-room plotter, my state")
        self.assertEqual((copy.case.height_mm, self.stored()[0]), (466, 433))
        page.get_by_role("link", name="Open it").click()
        page.wait_for_url(re.compile(f"/jobs/{copy.pk}/layouts([?]|$)"))

    def test_a_reload_before_choosing_loses_nothing(self) -> None:
        page, _ = self.clash()
        page.reload()
        expect(page.get_by_label("Depth, front to rear")).to_have_value("433")
        expect(self.choice(page)).to_contain_text("were not saved")
        page.get_by_role("button", name="Keep mine", exact=True).click()
        expect(page.get_by_label("Height, floor to top")).to_have_value("466")
        self.rests(page)
        self.assertEqual(self.stored()[1], 466)
        page.reload()
        page.get_by_label("Depth, front to rear").wait_for()
        expect(self.choice(page)).to_have_count(0)

    def test_what_a_closed_window_left_is_offered_to_the_next(self) -> None:
        page, other = self.clash()
        page.close()
        self.depth(other, "434")
        self.rests(other)
        self.page = self.another()
        expect(self.choice(self.page)).to_contain_text("were not saved")
        self.page.get_by_role("button", name="Keep the stored state").click()
        expect(self.choice(self.page)).to_have_count(0)
        self.page.locator("footer").get_by_role("button", name="undo").click()
        expect(self.page.get_by_label("Height, floor to top")).to_have_value("466")

    def test_two_windows_with_drafts_do_not_overwrite_each_other_s(self) -> None:
        """Both are away from the server, each keeps its own; whichever comes back first is stored, the other asks."""
        other = self.another()
        self.survey()
        self.page.context.set_offline(True)
        self.depth(other, "431")
        self.height(self.page, "461")
        self.rests(other, "offline")
        self.rests(self.page, "offline")
        self.page.context.set_offline(False)
        first = self.first_stored(other, self.page)
        late = self.page if first is other else other
        self.rests(late, "conflict")
        self.assertEqual([self.stored()[0] == 431, self.stored()[1] == 461], [first is other, first is self.page])
        late.get_by_role("button", name="Keep mine", exact=True).click()
        self.rests(late)
        self.assertEqual([self.stored()[0] == 431, self.stored()[1] == 461], [late is other, late is self.page])
        self.errors.clear()


class LostAnswerTest(WindowsCase):
    def test_a_lost_answer_is_no_other_window(self) -> None:
        """The server has taken the save, the answer never comes; the same is sent again, then what was typed since."""
        self.survey()
        lost: list[dict[str, Any]] = []

        def lose(route: Route) -> None:
            if route.request.method == "PUT" and len(lost) < 2:
                lost.append(json.loads(route.request.post_data or "{}"))
                route.fetch()
                route.abort()
            else:
                route.continue_()

        self.page.route(f"**/api/jobs/{self.job.pk}", lose)
        self.depth(self.page, "433")
        self.rests(self.page, "offline")
        self.height(self.page, "466")
        self.rests(self.page)
        self.assertEqual(self.stored(), (433, 466))
        self.assertEqual(lost[0]["key"], lost[1]["key"])
        self.assertEqual(lost[0]["document"], lost[1]["document"])
        expect(self.choice(self.page)).to_have_count(0)
        self.errors.clear()

    def test_a_lost_answer_and_a_reload(self) -> None:
        """Edits made after a save whose answer was lost are there again after a reload, and no question is asked."""
        self.survey()

        def lose(route: Route) -> None:
            if route.request.method == "PUT":
                if not lost:
                    route.fetch()
                lost.append(1)
                route.abort()
            else:
                route.continue_()

        lost: list[int] = []
        self.page.route(f"**/api/jobs/{self.job.pk}", lose)
        self.depth(self.page, "433")
        self.rests(self.page, "offline")
        self.height(self.page, "466")
        self.page.wait_for_timeout(300)
        self.page.unroute_all(behavior="ignoreErrors")
        self.page.reload()
        expect(self.page.get_by_label("Height, floor to top")).to_have_value("466")
        self.rests(self.page)
        self.assertEqual(self.stored(), (433, 466))
        expect(self.choice(self.page)).to_have_count(0)
        self.errors.clear()

    def test_leaving_at_once_saves_what_was_typed(self) -> None:
        self.survey()
        self.depth(self.page, "437")
        self.page.get_by_role("link", name="Oventa, list of jobs").click()
        self.page.get_by_role("heading", name="Jobs on this machine").wait_for()
        for _ in range(60):  # a slow machine takes its time
            if self.stored()[0] == 437:
                break
            self.page.wait_for_timeout(200)
        self.assertEqual(self.stored()[0], 437)

    def test_a_busy_server_is_said_and_asked_again(self) -> None:
        self.survey()
        said: list[int] = []

        def busy(route: Route) -> None:
            if route.request.method == "PUT" and not said:
                said.append(1)
                fault = {"path": "database", "what": "the database is busy with something else", "do": "Try again."}
                route.fulfill(status=503, content_type="application/json", body=json.dumps({"code": "database_busy", "faults": [fault]}))
            else:
                route.continue_()

        self.page.route(f"**/api/jobs/{self.job.pk}", busy)
        self.depth(self.page, "438")
        expect(self.page.locator("footer")).to_contain_text("busy with something else")
        self.rests(self.page)
        self.assertEqual(self.stored()[0], 438)
        self.errors.clear()

    def test_a_conflict_whose_other_state_cannot_be_fetched_is_asked_for_with_pauses(self) -> None:
        other = self.another()
        self.survey()
        self.depth(other, "433")
        self.rests(other)
        sent: list[str] = []

        def away(route: Route) -> None:
            sent.append(route.request.method)
            if route.request.method == "GET":
                route.abort()
            else:
                route.continue_()

        self.page.route(f"**/api/jobs/{self.job.pk}", away)
        self.height(self.page, "466")
        self.rests(self.page, "offline")
        self.page.wait_for_timeout(2500)
        self.assertLess(sent.count("PUT"), 5)
        self.page.unroute_all(behavior="ignoreErrors")
        self.rests(self.page, "conflict")
        expect(self.choice(self.page)).to_contain_text("changed in another window")
        self.assertEqual(self.stored()[0], 433)
        self.errors.clear()

    def test_the_reason_of_a_decision_is_there_after_a_reload(self) -> None:
        self.open_demo("verdict", "D")
        self.page.get_by_label("Because").fill("quiet enough, and cool")
        self.page.reload()
        expect(self.page.get_by_label("Because")).to_have_value("quiet enough, and cool")


class BinTest(WindowsCase):
    def test_a_job_is_removed_and_put_back(self) -> None:
        self.open("/")
        runs = self.job.runs.count()
        self.page.get_by_role("button", name="Remove Watch-room plotter").click()
        self.page.get_by_text("lies in the bin").wait_for()
        self.page.reload()
        self.page.get_by_text("Bin: 1 job").click()
        self.page.get_by_role("button", name="put it back").click()
        self.page.get_by_role("button", name="Remove Watch-room plotter").wait_for()
        self.assertEqual(Job.objects.get(pk=self.job.pk).runs.count(), runs)

    def test_what_cannot_be_read_is_said(self) -> None:
        Job.objects.filter(pk=self.job.pk).update(more={"format": "oventa-job", "version": 99})
        broken = self.job.runs.order_by("pk")[0]
        type(broken).objects.filter(pk=broken.pk).update(analysis={"channels": 3})
        self.open("/")
        self.page.get_by_text("stored but cannot be opened").wait_for()
        with self.page.expect_download() as got:
            self.page.get_by_role("link", name="Export it as it is stored").click()
        self.assertIn(broken.name, got.value.path().read_text(encoding="utf-8"))
