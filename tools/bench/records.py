"""How long it takes to bring in a million readings and to open the trace of ten hours of 24 channels, over HTTP."""

import statistics
import time

import numpy as np

from bench.serving import ROOT, Serving, ask, upload

HOURS, CHANNELS = 10, 24
ROWS = HOURS * 3600
MILLION_ROWS = 1_000_000 // CHANNELS + 1
TIMES = 7


def log_text(rows: int) -> bytes:
    """A log of 24 temperatures at 1 Hz with dates in a local format, as a logger writes it."""
    rng = np.random.default_rng(3)
    t = np.arange(rows)
    warm = 1 - np.exp(-t / 400)
    columns = [np.round(22 + (20 + i) * warm + rng.normal(0, 0.3, rows), 1).astype(str) for i in range(CHANNELS - 2)]
    columns.append(np.full(rows, "22.0"))
    seconds = np.datetime64("2026-11-24T08:00:00") + t
    stamps = [f"{s[8:10]}.{s[5:7]}.{s[:4]} {s[11:]}" for s in seconds.astype(str).tolist()]
    names = ["cpu_package_c", *(f"cpu_core_{i}_c" for i in range(1, CHANNELS - 2)), "room_c"]
    lines = [";".join(row) for row in zip(stamps, *(c.tolist() for c in columns), strict=True)]
    return "\n".join([";".join(["time", *names]), *lines]).encode()


def figures() -> dict[str, float]:
    server = Serving()
    try:
        server.manage("migrate", "-v0")
        server.start()
        job = upload(f"{server.url}/api/jobs/import", "job.json", (ROOT / "demo/watch-room-plotter.oventa.json").read_bytes())["id"]
        text = log_text(MILLION_ROWS)
        taken = []
        for _ in range(3):
            started = time.perf_counter()
            upload(f"{server.url}/api/jobs/{job}/runs", "million.csv", text, layout="A")
            taken.append(time.perf_counter() - started)
        run = upload(f"{server.url}/api/jobs/{job}/runs", "hours.csv", log_text(ROWS), layout="B")["id"]
        return {
            "import_million_cells_s": statistics.median(taken),
            "trace_ten_hours_ms": _median_ms(f"{server.url}/api/runs/{run}/trace?points=1400"),
            "trace_zoom_ms": _median_ms(f"{server.url}/api/runs/{run}/trace?points=1400&from_s=17000&to_s=18000"),
        }
    finally:
        server.stop()


def _median_ms(url: str) -> float:
    ask(url)
    taken = []
    for _ in range(TIMES):
        started = time.perf_counter()
        ask(url)
        taken.append(1000 * (time.perf_counter() - started))
    return statistics.median(taken)
