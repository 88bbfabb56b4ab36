"""Eight benches of 24 channels at 5 Hz for minutes, one post per bench and second, each looked at by a screen a second.

Lost = acknowledged and absent. Posts are numbered and sent again until they are acknowledged, as any sender does.
"""

import statistics
import threading
import time
from collections.abc import Iterator
from contextlib import contextmanager
from dataclasses import dataclass, field

from bench.serving import ROOT, Serving, ask, upload
from instruments.sender import Sender

BENCHES, CHANNELS, RATE_HZ = 8, 24, 5
UNSURE_S = 2  # at the start: a sender's clock is placed on the bench's by when its posts come
NAMES = [f"probe_{i}_c" for i in range(CHANNELS - 2)] + ["cpu_package_c", "room_c"]
PROTOCOL = {"id": "soak", "held": [], "ready_s": 0, "cool_down_k": None, "limits": [], "minutes": 60, "least_minutes": 60}


@dataclass
class Told:
    """What a soak found; times in ms."""

    rows: int = 0
    lost: int = 0
    unsent: int = 0
    post_ms: list[float] = field(default_factory=list)
    look_ms: list[float] = field(default_factory=list)

    def figures(self) -> dict[str, float]:
        return {
            "soak_rows": float(self.rows),
            "soak_lost_rows": float(self.lost),
            "soak_unacknowledged_posts": float(self.unsent),
            "soak_post_p50_ms": statistics.median(self.post_ms),
            "soak_post_p95_ms": statistics.quantiles(self.post_ms, n=20)[18],
            "soak_screen_p50_ms": statistics.median(self.look_ms),
            "soak_screen_p95_ms": statistics.quantiles(self.look_ms, n=20)[18],
        }


# Gaps between frames of the page, in ms, kept by the page itself.
_FRAMES = """() => {
  window.gaps = [];
  let last = performance.now();
  const tick = (now) => { window.gaps.push(now - last); last = now; requestAnimationFrame(tick); };
  requestAnimationFrame(tick);
}"""
OPEN_AFTER_S = 8.0


@contextmanager
def watching(server: Serving, chromium: str | None) -> Iterator[dict[str, float]]:
    """A real page at the first bench while the soak goes on; what it gives is filled in at the end."""
    found: dict[str, float] = {}
    if not chromium:
        yield found
        return
    stop = threading.Event()
    thread = threading.Thread(target=_watch, args=(server, chromium, stop, found))
    thread.start()
    try:
        yield found
    finally:
        stop.set()
        thread.join(60)


def _watch(server: Serving, chromium: str, stop: threading.Event, found: dict[str, float]) -> None:
    from playwright.sync_api import sync_playwright

    stop.wait(OPEN_AFTER_S)  # until there are benches and runs
    with sync_playwright() as play:
        browser = play.chromium.launch(executable_path=chromium, args=["--no-sandbox", "--disable-gpu"])
        page = browser.new_page(viewport={"width": 1280, "height": 800})
        page.goto(f"{server.url}/jobs/{ask(f'{server.url}/api/jobs')[0]['id']}/bench")
        page.wait_for_selector("[data-live]", timeout=60_000)
        page.evaluate(_FRAMES)
        while not stop.is_set():
            page.wait_for_timeout(500)
        gaps = sorted(page.evaluate("() => window.gaps"))
        browser.close()
    if gaps:
        found["soak_frame_p50_ms"] = gaps[len(gaps) // 2]
        found["soak_frame_p95_ms"] = gaps[int(0.95 * (len(gaps) - 1))]
        found["soak_frame_longest_ms"] = gaps[-1]


def value(second: int, k: int) -> float:
    """A reading that tells when it was sent."""
    return round(20.0 + second * 0.1 + k * 0.02, 2)


def add_second(sender: Sender, second: int) -> None:
    readings = {n: [22.0 if n == "room_c" else value(second, k) for k in range(RATE_HZ)] for n in NAMES}
    sender.add([second + k / RATE_HZ for k in range(RATE_HZ)], readings)


def soak(server: Serving, seconds: int) -> Told:
    """Feeds and watches a running server; ends the runs and looks for every acknowledged reading in them."""
    job = upload(f"{server.url}/api/jobs/import", "job.json", (ROOT / "demo/watch-room-plotter.oventa.json").read_bytes())["id"]
    made = [ask(f"{server.url}/api/benches", {"name": f"bench {i}"}) for i in range(BENCHES)]
    senders = [Sender(f"{server.url}/api/benches/{b['id']}", b["token"]) for b in made]
    started = time.monotonic()
    for sender in senders:
        add_second(sender, 0)
        sender.flush(20)
    runs = [begun(server, job, b["id"]) for b in made]
    told, stop = Told(), threading.Event()
    first = int(time.monotonic() - started) + 1  # a sender's clock goes on while the runs are begun
    wanted = range(first + UNSURE_S, first + seconds)

    def feed(sender: Sender) -> None:
        for second in range(first, first + seconds):
            add_second(sender, second)
            at = time.monotonic()
            sender.flush()
            told.post_ms.append(1000 * (time.monotonic() - at))
            time.sleep(max(started + second - time.monotonic(), 0))
        sender.flush(30)

    def look(bench: int) -> None:
        while not stop.is_set():
            at = time.monotonic()
            ask(f"{server.url}/api/benches/{bench}/live")
            told.look_ms.append(1000 * (time.monotonic() - at))
            stop.wait(max(1 - (time.monotonic() - at), 0.05))

    feeders = [threading.Thread(target=feed, args=(s,)) for s in senders]
    lookers = [threading.Thread(target=look, args=(b["id"],)) for b in made]
    for thread in (*feeders, *lookers):
        thread.start()
    for thread in feeders:
        thread.join()
    stop.set()
    for thread in lookers:
        thread.join()
    told.unsent = sum(len(s.waiting) for s in senders)
    for run in runs:
        rows, lost = _missing(server, run, wanted)
        told.rows += rows
        told.lost += lost
    return told


def begun(server: Serving, job: int, bench: int) -> int:
    draft = ask(f"{server.url}/api/jobs/{job}/live", {"bench": bench, "layout": "A", "protocol": PROTOCOL})
    ask(f"{server.url}/api/live/{draft['id']}/start", {})
    return int(draft["id"])


def _missing(server: Serving, run: int, seconds: range) -> tuple[int, int]:
    """Rows of these seconds that should be there, and how many are not."""
    ask(f"{server.url}/api/live/{run}/end", {})
    trace = ask(f"{server.url}/api/runs/{run}/trace?points=10000000")
    got = {round(v, 2) for v in next(c["values"] for c in trace["channels"] if c["name"] == "cpu_package_c") if v is not None}
    wanted = {value(second, k) for second in seconds for k in range(RATE_HZ)}
    return len(wanted), len(wanted - got)
