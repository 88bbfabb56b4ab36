"""``./oventa bench``: how long a forecast takes in the engine, and a flip in the browser with the demo job."""

import argparse
import json
import os
import shutil
import statistics
import sys
import time
import urllib.request
from pathlib import Path
from typing import Any

from demo import campaign
from desk.job.resolve import Resolver
from desk.verdict.document import judge
from desk.verdict.study import Runs, Settings
from documents.job.reader import read_job
from documents.runlog.reader import read_log
from engine.coupled.forecast import forecast
from engine.coupled.operating_point import operating_point
from engine.coupled.transient import warm_up
from engine.findings.registry import findings
from engine.runs.analysis import analyse
from engine.verdict.candidate import Candidate

ROOT = Path(__file__).resolve().parents[2]
sys.path.insert(0, str(ROOT / "tools"))

from bench import batch, busy, records, soak  # noqa: E402  (the folder of tools is no package of the product)
from bench.serving import Serving  # noqa: E402

FLIPS = 24


def _median_ms(act: Any, times: int) -> float:
    act()
    taken = []
    for _ in range(times):
        started = time.perf_counter()
        act()
        taken.append((time.perf_counter() - started) * 1000)
    return statistics.median(taken)


def engine_figures() -> dict[str, float]:
    """One layout warm, with and without findings; an hour's run; one run's analysis."""
    resolver = Resolver(read_job((ROOT / "demo/watch-room-plotter.oventa.json").read_bytes()).doc)
    machine = resolver.machine("B")
    log = read_log((ROOT / "demo/logs/a-1.csv").read_bytes()).log

    def whole() -> None:
        point = operating_point(machine)
        findings(point, forecast(point))

    return {
        "forecast_one_ms": _median_ms(lambda: operating_point(machine), 40),
        "forecast_with_findings_ms": _median_ms(whole, 40),
        "one_hour_in_time_ms": _median_ms(lambda: warm_up(machine, 60, 60), 10),
        "analyse_run_ms": _median_ms(lambda: analyse(log), 5),
        **verdict_figures(),
        **batch.figures(machine),
    }


def verdict_figures() -> dict[str, float]:
    """Thirteen layouts of two runs each: the whole judgement, and another layout argued for."""
    doc = campaign.document()
    own = campaign.benches(doc)
    found = []
    for i, layout in enumerate(doc.layouts):
        runs = [analyse(own[layout.id, "both"].log(100 * i + k)) for k in range(2)]
        found.append(Candidate(layout.id, runs))
    runs_of = Runs({"both": found})
    judged = judge(doc, runs_of, Settings())
    return {
        "verdict_thirteen_layouts_ms": _median_ms(lambda: judge(doc, runs_of, Settings()), 5),
        "verdict_another_layout_ms": _median_ms(lambda: judged.of("E"), 10),
    }


def flip_figures() -> dict[str, float]:
    """From the key press to the new figures on screen, in the browser, server and browser on this machine."""
    chromium = os.environ.get("OVENTA_CHROMIUM") or shutil.which("chromium")
    if not chromium:
        return {}
    server = Serving()
    try:
        for command in (("migrate", "-v0"), ("load_library",), ("load_demo",)):
            server.manage(*command)
        server.start()
        taken = _flips(chromium, server.url)
    finally:
        server.stop()
    return {"flip_p50_ms": statistics.median(taken), "flip_p95_ms": statistics.quantiles(taken, n=20)[18]}


# Measured inside the page: from the key event to the end of the first frame that shows the new figure. A message posted in
# a frame's callback arrives once that frame has been drawn.
_FLIP = """() => new Promise(done => {
  const figure = () => document.querySelector("[data-row='Processor']").dataset.rise;
  const before = figure(), start = performance.now();
  const look = () => {
    if (figure() === before) return requestAnimationFrame(look);
    const drawn = new MessageChannel();
    drawn.port1.onmessage = () => done(performance.now() - start);
    drawn.port2.postMessage(0);
  };
  document.activeElement.dispatchEvent(new KeyboardEvent("keydown", {key: "f", bubbles: true}));
  look();
})"""


def _flips(chromium: str, base: str) -> list[float]:
    from playwright.sync_api import sync_playwright

    with sync_playwright() as play:
        browser = play.chromium.launch(executable_path=chromium, args=["--no-sandbox", "--disable-gpu"])
        page = browser.new_page(viewport={"width": 1280, "height": 800})
        job = json.load(urllib.request.urlopen(f"{base}/api/jobs"))[0]["id"]
        page.goto(f"{base}/jobs/{job}/layouts")
        page.wait_for_selector("[data-forecast]")
        page.get_by_text("three over the top").click()
        page.wait_for_selector("[data-forecast=B]")
        taken = []
        for i in range(FLIPS):
            page.locator(f"[data-mount={('t3', 'r1', 'f1', 't2')[i % 4]}]").focus()
            page.wait_for_timeout(900)  # a person's pause: saving and the rack's tags come to rest
            page.keyboard.press("-")  # another speed makes every flip a question that was not asked before
            page.wait_for_timeout(900)
            taken.append(float(page.evaluate(_FLIP)))
        browser.close()
    return taken


def soak_figures(minutes: float) -> dict[str, float]:
    """Eight benches and their screens, and how smoothly a page of one of them is drawn meanwhile."""
    server = Serving()
    try:
        server.manage("migrate", "-v0")
        server.manage("load_library")
        server.start()
        chromium = os.environ.get("OVENTA_CHROMIUM") or shutil.which("chromium")
        with soak.watching(server, chromium) as frames:
            told = soak.soak(server, int(minutes * 60))
        return told.figures() | frames
    finally:
        server.stop()


def busy_figures() -> dict[str, float]:
    """How long posts wait for their answer while a package, a freeze and a large import go on."""
    server = Serving().prepare().start()
    try:
        return busy.busy(server).figures()
    finally:
        server.stop()


def _served() -> dict[str, float]:
    """What needs a server, and a browser where there is one."""
    return records.figures() | flip_figures()


def options() -> argparse.ArgumentParser:
    parser = argparse.ArgumentParser(prog="oventa bench")
    parser.add_argument("--json", action="store_true")
    parser.add_argument("--all", action="store_true", help="also imports, records and a flip on the screen: some two minutes more")
    parser.add_argument("--soak", action="store_true", help="eight live benches instead of the rest")
    parser.add_argument("--minutes", type=float, default=10.0, help="of the soak")
    parser.add_argument("--busy", action="store_true", help="a bench's posts while everything heavy goes on, instead of the rest")
    return parser


def main() -> int:
    """Prints the figures, as JSON with ``--json``."""
    args = options().parse_args()
    if args.busy:
        figures = busy_figures()
    else:
        figures = soak_figures(args.minutes) if args.soak else engine_figures() | (_served() if args.all else {})
    if args.json:
        results = [{"name": name, "value": round(value, 3)} for name, value in figures.items()]
        print(json.dumps({"format": "oventa-bench", "version": 1, "results": results}, indent=1))
    else:
        for name, value in figures.items():
            print(f"{name:<28}{value:10.1f}")
    return 0


if __name__ == "__main__":
    sys.exit(main())
