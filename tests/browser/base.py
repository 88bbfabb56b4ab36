"""One chromium per test class, one fresh context per test, against Django's live server."""

import os
import re
import shutil
from typing import Any, ClassVar, Literal, cast

from django.contrib.staticfiles.testing import StaticLiveServerTestCase
from playwright.sync_api import Browser, Locator, Page, Playwright, expect, sync_playwright

from server.apps.jobs.models import Job
from tests.demo_rows import load_demo

expect.set_options(timeout=30_000)  # slow machines are not faults
FLAGS = ["--no-sandbox", "--disable-gpu", "--disable-background-networking", "--disable-component-update", "--disable-sync"]


VIEWS = {
    "heat, sound": ("settled", "over time", "speeds", "learned"),
    "air": ("smoke",),
    "build": ("fit", "leads", "loop"),
    "as found": ("as found",),
    "what next": ("find", "changes", "later"),
}


class BrowserCase(StaticLiveServerTestCase):
    """``self.page`` is a fresh page; a console or page error fails the test that caused it."""

    playwright: ClassVar[Playwright]
    browser: ClassVar[Browser]
    with_demo = True
    size: ClassVar[tuple[int, int]] = (1280, 800)
    motion: ClassVar[Literal["reduce", "no-preference"]] = "reduce"  # moving air is drawn sixteen times a second by the processor

    @classmethod
    def setUpClass(cls) -> None:
        os.environ["DJANGO_ALLOW_ASYNC_UNSAFE"] = "true"  # playwright runs a loop in this thread; the ORM is used beside it
        super().setUpClass()
        cls.playwright = sync_playwright().start()
        path = os.environ.get("OVENTA_CHROMIUM") or shutil.which("chromium-headless-shell") or shutil.which("chromium")
        cls.browser = cls.playwright.chromium.launch(executable_path=path, args=[*FLAGS, *cls.more_flags()])

    @classmethod
    def tearDownClass(cls) -> None:
        cls.browser.close()
        cls.playwright.stop()
        os.environ.pop("DJANGO_ALLOW_ASYNC_UNSAFE", None)
        super().tearDownClass()

    @classmethod
    def more_flags(cls) -> list[str]:
        """Of the browser, for a class that needs them."""
        return []

    def setUp(self) -> None:
        self.load()
        context = self.browser.new_context(
            viewport={"width": self.size[0], "height": self.size[1]}, accept_downloads=True, reduced_motion=self.motion
        )
        self.addCleanup(context.close)
        self.addCleanup(self.come_to_rest)
        self.page: Page = context.new_page()
        self.page.set_default_timeout(45_000)  # slow machines are not faults
        self.errors: list[str] = []
        self.page.on(
            "console", lambda m: self.errors.append(m.text) if m.type == "error" and "409" not in m.text and "422" not in m.text else None
        )
        self.page.on("pageerror", lambda e: self.errors.append(str(e)))
        self.addCleanup(lambda: self.assertEqual(self.errors, []))

    def __getstate__(self) -> dict[str, Any]:
        """What a parallel run tells of a failed subtest: a page cannot be sent between processes."""
        state = cast(dict[str, Any], super().__getstate__())
        return {name: value for name, value in state.items() if not type(value).__module__.startswith("playwright")}

    def load(self) -> None:
        """The rows a test begins with."""
        load_demo(self.with_demo)

    def come_to_rest(self) -> None:
        """Lets the last save and forecast end, so that no request of this test meets the next one's database."""
        for page in self.page.context.pages:
            if not page.is_closed() and page.url.startswith("http"):
                page.unroute_all(behavior="ignoreErrors")
                page.goto("about:blank")
        self.page.wait_for_timeout(150)

    def open(self, path: str) -> None:
        self.page.goto(f"{self.live_server_url}{path}")

    def open_demo(self, station: str = "layouts", layout: str | None = None, by: str = "sheets") -> None:
        """The demo job at a station, with a layout chosen where one is named; forecasts from sheets alone, or as its runs have taught."""
        job = Job.objects.get(name="Watch-room plotter")
        self.open(f"/jobs/{job.pk}/{station}" + ("?by=sheets" if by == "sheets" else ""))
        if layout:
            self.tag(layout).click()
        if station == "layouts":
            self.page.wait_for_selector(f"[data-forecast={layout or 'A'}]")

    def tag(self, layout: str) -> Locator:
        return self.page.get_by_role("option").filter(has=self.page.get_by_text(layout, exact=True))

    def mount(self, name: str) -> Locator:
        return self.page.locator(f"[data-mount={name}]")

    def place(self, what: Locator) -> dict[str, float]:
        """Where something is drawn, once it stands still: a click by coordinates hits what was measured."""
        last = None
        for _ in range(100):
            box = what.bounding_box()
            if box and box == last:
                return {"x": box["x"], "y": box["y"], "width": box["width"], "height": box["height"]}
            last = box
            self.page.wait_for_timeout(120)
        raise AssertionError(f"{what} never stood still")

    def tray(self, thing: str) -> None:
        """The settings of a thing in the tray under the drawing, by its name in the bar."""
        self.page.get_by_label("What is set").get_by_role("button", name=thing, exact=True).click()

    def view(self, name: str) -> None:
        """A view of Layouts: its question first, where it is one of several."""
        question = next(q for q, views in VIEWS.items() if name in views)
        panel = self.page.get_by_label("Forecast and findings")
        panel.get_by_role("button", name=re.compile(f"^{question}: ")).click()
        if len(VIEWS[question]) > 1:
            panel.locator("fieldset").get_by_role("button", name=name, exact=True).click()

    def saved(self) -> None:
        """Waits until the screen says that all is saved."""
        self.page.wait_for_selector("[data-save=saved]")

    def forecast_after(self, act: Any) -> dict[str, Any]:
        """Does something and returns the forecast answer it led to, once earlier questions have been answered."""
        self.page.wait_for_selector("[data-answered=yes]")
        with self.page.expect_response(
            lambda r: "/api/forecast" in r.url and bool((r.request.post_data_json or {}).get("with_findings"))
        ) as got:
            act()
        answer: dict[str, Any] = got.value.json()
        return answer
