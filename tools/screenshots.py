"""Takes the pictures of docs/screenshots from the demo job of a running ``./oventa demo``.

Run: ``.venv/bin/python tools/screenshots.py http://127.0.0.1:8417``. Needs chromium and the dev packages.
"""

import json
import shutil
import sys
import urllib.request
from pathlib import Path

from playwright.sync_api import Browser, sync_playwright

FOLDER = Path(__file__).resolve().parents[1] / "docs" / "screenshots"
# name, station, layout, what must be there, theme, size; then what is clicked before the picture is taken
SHOTS = (
    ("layouts", "layouts", "C", "[data-fix]", "daybench", (1280, 800)),
    ("layouts-time", "layouts", "C", "[data-forecast=C]", "daybench", (1280, 800)),
    ("layouts-quieter", "layouts", "B", "[data-forecast=B]", "nightbench", (1280, 800)),
    ("layouts-smoke", "layouts", "B", "[data-forecast=B]", "daybench", (1280, 800)),
    ("layouts-find", "layouts", "A", "[data-forecast=A]", "daybench", (1280, 800)),
    ("plan", "plan", "A", "[data-sheet=run]", "daybench", (1280, 800)),
    ("bench-live", "bench", "D", "[data-live=coolant_c]", "nightbench", (1280, 800)),
    ("bench-clipboard", "bench", "D", "[data-live]", "daybench", (820, 1180)),
    ("bench-sound", "bench", "D", "text=Sound of D", "daybench", (1280, 1100)),
    ("bench", "bench", "D", ".uplot", "daybench", (1280, 800)),
    ("verdict", "verdict", "D", "[data-claim=D]", "daybench", (1280, 800)),
    ("verdict-effects", "verdict", "E", "[data-claim=E]", "nightbench", (1280, 800)),
    ("build", "build", "D", "[data-build=D]", "daybench", (1280, 800)),
    ("build-units", "build", "D", "[data-build=D]", "daybench", (1280, 800)),
    ("care", "care", None, "[data-care]", "daybench", (1280, 800)),
    ("practice", "/practice", None, "[data-exercise]", "daybench", (1280, 800)),
    ("survey", "survey", None, "h1", "daybench", (1280, 800)),
    ("parts", "parts", None, "[data-part]", "daybench", (1280, 800)),
    ("home", "", None, "text=Watch-room plotter", "daybench", (1280, 800)),
)


CLICKS = {
    "build": ("[data-step=fan_f3_outer] button",),
    "build-units": (
        "fieldset >> text=units",
        "text=Try it with a made-up unit",
        "text=Make one up and run it",
        "[data-units='1'] >> text=Make one up and run it",
        "[data-units='2'] >> text=Make one up and run it",
    ),
    "bench-clipboard": ("text=notes, pins, readings, pictures",),
    "bench": ("text=Runs of D",),
    "bench-sound": ("text=Sound of D", "text=Clip of the made-up machine"),
    "verdict-effects": ("text=Effects",),
    "layouts-time": ("text=over time",),
    "layouts-quieter": ("text=speeds", "text=Find the coolest speeds"),
    "layouts-smoke": ("[aria-label^='air:']",),
    "layouts-find": ("text=find a better one",),
    "survey": ("text=Draw the case anew from three questions", "text=a tower"),
    "parts": ("[data-kind=coolers] summary",),
}


# What the picture is of, where that comes late or lies below.
LAST = {"bench-sound": "[data-clip-view=done] svg", "layouts-quieter": "[data-voices]"}
JOBS = {"verdict-effects": "Fog-signal desk"}


def shot(browser: Browser, base: str, job: int, entry: tuple[str, str, str | None, str, str, tuple[int, int]]) -> None:
    """One picture of one view. Those of the live run want a demo in the first minutes of its life."""
    name, station, layout, wanted, theme, (width, height) = entry
    context = browser.new_context(viewport={"width": width, "height": height})
    page = context.new_page()
    page.add_init_script(f"localStorage.setItem('oventa-theme', '{theme}')")
    page.goto(f"{base}{station}" if station.startswith("/") else f"{base}/jobs/{job}/{station}" if station else base)
    if layout:
        page.locator("[data-keys=rack] [role=option]").filter(has=page.get_by_text(layout, exact=True)).click()
    if name == "bench":
        page.wait_for_selector("[data-phase], h1")  # a live run may stand before the runs that are in
    else:
        page.wait_for_selector(wanted)
    for n, target in enumerate(CLICKS.get(name, ())):
        if name == "build-units" and n == 3:  # the second unit has bad paste
            page.get_by_label("What is wrong with it").select_option("paste")
        page.locator(target).first.click()
        page.wait_for_timeout(800)
    if name in LAST:
        page.wait_for_selector(LAST[name], timeout=120_000)
        page.locator(LAST[name]).first.scroll_into_view_if_needed()
    page.wait_for_timeout(1500)
    page.screenshot(path=FOLDER / f"{name}.png")
    context.close()


def main(base: str) -> None:
    FOLDER.mkdir(parents=True, exist_ok=True)
    jobs = json.load(urllib.request.urlopen(f"{base}/api/jobs"))
    ids = {j["name"]: j["id"] for j in jobs}
    with sync_playwright() as play:
        browser = play.chromium.launch(executable_path=shutil.which("chromium"), args=["--no-sandbox", "--disable-gpu"])
        for entry in SHOTS:
            shot(browser, base, ids[JOBS.get(entry[0], "Watch-room plotter")], entry)
        browser.close()


if __name__ == "__main__":
    main(sys.argv[1].rstrip("/"))
