"""A bench that posts at 5 Hz while everything heavy goes on: a package of sixty runs, a decision frozen, a million cells imported."""

import json
import threading
import time
from dataclasses import dataclass, field
from typing import Any

from bench.serving import ROOT, Serving, ask, upload
from documents.package.document import Package, PackedRun, write_package
from instruments.sender import Sender
from instruments.standin import simulate

RUNS, CELLS_ROWS, CHANNELS = 60, 42_000, 24
DEMO = ROOT / "demo" / "watch-room-plotter.oventa.json"


@dataclass
class Busy:
    """Times from post to answer in ms, and what each piece of heavy work took in s."""

    post_ms: list[float] = field(default_factory=list)
    work_s: dict[str, float] = field(default_factory=dict)
    refused: list[str] = field(default_factory=list)
    rows: int = 0

    def figures(self) -> dict[str, float]:
        ordered = sorted(self.post_ms)
        return {
            "busy_posts": float(len(ordered)),
            "busy_post_p50_ms": ordered[len(ordered) // 2],
            "busy_post_p99_ms": ordered[int(0.99 * (len(ordered) - 1))],
            "busy_post_longest_ms": ordered[-1],
            **{f"busy_{name}_s": seconds for name, seconds in self.work_s.items()},
        }


def package_of(runs: int) -> bytes:
    """A job with made-up runs of its layouts, as a data package."""
    from desk.job.resolve import Resolver
    from documents.job.reader import read_job

    doc = read_job(DEMO.read_bytes()).doc
    resolver = Resolver(doc)
    letters = [x.id for x in doc.layouts]
    logs = {x: simulate(resolver.machine(x), 40, 7, 2.0) for x in letters}
    packed = []
    for i in range(runs):
        letter = letters[i % len(letters)]
        meta = {"layout": letter, "name": f"{letter} run {i}", "state": "valid", "marks": []}
        packed.append(PackedRun(meta, logs[letter]))
    return write_package(Package(json.loads(DEMO.read_bytes()), packed, []))


def million_cells() -> bytes:
    """A log of a million cells that warms up."""
    heads = "elapsed_s," + ",".join([f"air_p{i}_c" for i in range(CHANNELS - 2)] + ["cpu_package_c", "room_c"])
    lines = [heads]
    for t in range(CELLS_ROWS):
        rise = 30.0 * (1 - 2.718 ** (-t / 600))
        lines.append(f"{t}," + ",".join(f"{22 + rise * (i + 1) / CHANNELS:.2f}" for i in range(CHANNELS - 1)) + ",22.0")
    return ("\n".join(lines) + "\n").encode()


def busy(server: Serving, rate_hz: float = 5.0) -> Busy:
    """Posts from the first piece of heavy work to the end of the last; each post is waited for, as a sender does."""
    found = Busy()
    package, log = package_of(RUNS), million_cells()
    url = server.url
    job = upload(f"{url}/api/jobs/import", "job.zip", package_of(8))["id"]
    made = ask(f"{url}/api/benches", {"name": "busy"})
    sender = Sender(f"{url}/api/benches/{made['id']}", made["token"])

    def take(name: str, work: Any) -> None:
        at = time.monotonic()
        try:
            work()
        except OSError as error:
            found.refused.append(f"{name}: {error}")
        found.work_s[name] = time.monotonic() - at

    heavy = {
        "package": lambda: upload(f"{url}/api/jobs/import", "job.zip", package),
        "freeze": lambda: ask(f"{url}/api/jobs/{job}/verdicts", {"layout": "A", "reason": "so it is"}),
        "million_cells": lambda: upload(f"{url}/api/jobs/{job}/runs", "log.csv", log, layout="B"),
    }
    threads = [threading.Thread(target=take, args=(name, work)) for name, work in heavy.items()]
    begun = time.monotonic()
    count = 0
    sender.add([0.0], {"cpu_package_c": [30.0], "room_c": [22.0]})
    sender.flush(20)
    for thread in threads:
        thread.start()
    while any(t.is_alive() for t in threads) or count < 25:
        count += 1
        sender.add(
            [count / rate_hz], {f"probe_{i}_c": [30.0 + i] for i in range(CHANNELS - 2)} | {"cpu_package_c": [30.0], "room_c": [22.0]}
        )
        at = time.monotonic()
        if not sender.flush(0.0):
            found.refused.append(f"post {count}")
        found.post_ms.append(1000 * (time.monotonic() - at))
        time.sleep(max(begun + count / rate_hz - time.monotonic(), 0))
    for thread in threads:
        thread.join()
    found.rows = count + 1
    return found
