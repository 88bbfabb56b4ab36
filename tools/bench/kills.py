"""A server that is killed again and again in the middle of its work: what was acknowledged is there, nothing is half done.

Each kill comes at a moment drawn from a seed, while a bench posts and one thing more is under way. Restoring and bringing a database up to
date are killed on folders of their own. What is counted is looked at from outside: over HTTP, and in the file by the integrity check.
"""

import json
import random
import shutil
import signal
import sqlite3
import subprocess
import sys
import threading
import time
import urllib.error
from collections import Counter
from contextlib import closing
from dataclasses import dataclass, field
from pathlib import Path
from typing import Any

from bench.busy import package_of
from bench.serving import ROOT, Serving, ask, upload
from desk.verdict.record import digest_of
from documents.runlog.writer import write_log
from instruments.sender import Sender
from instruments.standin import simulate

AT_THE_SERVER = ("save", "import", "freeze", "end of run", "package", "live logging")
ALONE = ("restore", "migration")
LONGEST_S = {"save": 0.25, "import": 4.0, "freeze": 3.0, "end of run": 2.0, "package": 9.0, "live logging": 0.5}
PACKED = 3
PROTOCOL = {"id": "soak", "held": [], "ready_s": 0, "cool_down_k": None, "limits": [], "minutes": 60, "least_minutes": 60, "end": "fixed"}


@dataclass
class Told:
    """How many kills of each kind, and everything that was lost or half done, in words."""

    kills: Counter[str] = field(default_factory=Counter)
    wrong: list[str] = field(default_factory=list)
    readings: int = 0
    in_flight: Counter[str] = field(default_factory=Counter)  # kills after which the thing under way was there, whole


class Trial:
    """One server and what it has acknowledged."""

    def __init__(self, seed: int) -> None:
        self.rng = random.Random(seed)
        self.told = Told()
        self.server = Serving().prepare().start()
        url = self.server.url
        self.job = int(upload(f"{url}/api/jobs/import", "job.zip", package_of(PACKED))["id"])
        made = ask(f"{url}/api/benches", {"name": "one"})
        self.bench, self.sender = int(made["id"]), Sender(f"{url}/api/benches/{made['id']}", made["token"])
        self.log = _log()
        self.package = package_of(PACKED)
        self.sent = 0
        self.acknowledged = 0
        self.saved, self.try_save = 0, 0
        self.runs, self.verdicts, self.jobs = PACKED, 0, 1
        self.ended: set[int] = set()
        self.live: int | None = None
        self.stop = threading.Event()

    # -- what goes on ---------------------------------------------------------------------------------------------

    def posting(self) -> None:
        """Twenty posts a second until told to stop; a post counts once it is acknowledged."""
        while not self.stop.is_set():
            self.sender.add([self.sent * 0.05], {"cpu_package_c": [float(self.sent % 1000)], "room_c": [22.0]})
            self.sent += 1
            self.sender.flush(0.0)
            self.acknowledged = self.sender.acknowledged
            self.stop.wait(0.05)

    def act(self, kind: str) -> None:
        """One thing under way; what it acknowledges is written down. It may be cut off anywhere."""
        url, job = self.server.url, self.job
        try:
            if kind == "save":
                while not self.stop.is_set():
                    got = ask(f"{url}/api/jobs/{job}")
                    self.try_save += 1
                    document = got["document"] | {"note": f"n{self.try_save}"}
                    body = {"revision": got["revision"], "document": document, "key": f"k{self.try_save}"}
                    ask(f"{url}/api/jobs/{job}", body, "PUT")
                    self.saved = self.try_save
            elif kind == "import":
                upload(f"{url}/api/jobs/{job}/runs", "log.csv", self.log, layout="A")
                self.runs += 1
            elif kind == "freeze":
                ask(f"{url}/api/jobs/{job}/verdicts", {"layout": "A", "reason": "so it is"})
                self.verdicts += 1
            elif kind == "end of run" and self.live is not None:
                ask(f"{url}/api/live/{self.live}/end", {})
                self.ended.add(self.live)
            elif kind == "package":
                upload(f"{url}/api/jobs/import", "job.zip", self.package)
                self.jobs += 1
        except (OSError, urllib.error.URLError, ValueError, ConnectionError):
            return

    def begin_run(self) -> None:
        """A run that has been logging for a moment, to be ended."""
        url = self.server.url
        body = {"bench": self.bench, "layout": "A", "protocol": PROTOCOL, "load": "both"}
        run = int(ask(f"{url}/api/jobs/{self.job}/live", body)["id"])
        ask(f"{url}/api/live/{run}", {"room_c": 22.0, "armed": False}, "PATCH")
        ask(f"{url}/api/live/{run}/start", {"waive": True})
        self.live = run
        time.sleep(1.5)

    def kill_during(self, kind: str) -> None:
        self.stop.clear()
        poster = threading.Thread(target=self.posting)
        poster.start()
        if kind == "end of run":
            time.sleep(0.5)
            self.begin_run()
        actor = threading.Thread(target=self.act, args=(kind,))
        actor.start()
        time.sleep(self.rng.uniform(0.0, LONGEST_S[kind]))
        self.server.kill()
        self.stop.set()
        actor.join(120)
        poster.join(20)
        self.told.kills[kind] += 1
        self.server.prepare().start()
        self.sender.flush(20)
        self.acknowledged = self.sender.acknowledged
        self.look(kind)

    # -- what is there --------------------------------------------------------------------------------------------

    def wrong(self, kind: str, words: str) -> None:
        self.told.wrong.append(f"kill {sum(self.told.kills.values())}, {kind}: {words}")

    def look(self, kind: str) -> None:
        url, job = self.server.url, self.job
        whole(self.server.folder.name, lambda words: self.wrong(kind, words))
        with closing(sqlite3.connect(Path(self.server.folder.name) / "oventa.sqlite3")) as db:
            stored = db.execute("SELECT count(*) FROM bench_batch").fetchone()[0]
        if stored != self.acknowledged:
            self.wrong(kind, f"{self.acknowledged} posts acknowledged, {stored} stored")
        self.told.readings = self.acknowledged
        note = ask(f"{url}/api/jobs/{job}")["document"].get("note", "")
        saved = int(note[1:]) if note[1:].isdigit() else 0  # before the first save the job's own words stand there
        if saved not in (self.saved, self.try_save):
            self.wrong(kind, f"save {saved} is there, acknowledged {self.saved}, tried {self.try_save}")
        self.saved = saved
        runs = ask(f"{url}/api/jobs/{job}/runs")
        if ask(f"{url}/api/jobs/{job}/runs/unreadable"):
            self.wrong(kind, "a run that cannot be read")
        imported = [r for r in runs if not r["source_name"].startswith("live")]
        self.runs = self.counted(kind, "runs", len(imported), self.runs)
        for run in runs:
            trace = ask(f"{url}/api/runs/{run['id']}/trace?points=20")
            if not trace["elapsed_s"] or not run["analysis"]["channels"]:
                self.wrong(kind, f"run {run['name']} without readings or figures")
        verdicts = ask(f"{url}/api/jobs/{job}/verdicts")
        self.verdicts = self.counted(kind, "verdicts", len(verdicts), self.verdicts)
        for v in verdicts[:2]:
            record = ask(f"{url}/api/verdicts/{v['id']}/record.json")
            if record["digest"] != digest_of(record):
                self.wrong(kind, "a record that is not intact")
        jobs = ask(f"{url}/api/jobs")
        self.jobs = self.counted(kind, "jobs", len(jobs), self.jobs)
        for row in jobs:
            if row["id"] != job and (row["runs"] != PACKED or row["unreadable"]):
                self.wrong(kind, f"a job with {row['runs']} of {PACKED} runs")
        self.look_live(kind, {r["id"]: r for r in runs})

    def counted(self, kind: str, what: str, there: int, acknowledged: int) -> int:
        """All that was acknowledged, and at most the one under way."""
        if there not in (acknowledged, acknowledged + 1):
            self.wrong(kind, f"{acknowledged} {what} acknowledged, {there} there")
        self.told.in_flight[what] += there - acknowledged
        return there

    def look_live(self, kind: str, over: dict[int, Any]) -> None:
        """A run that was being ended is either live still, with all its readings to come, or over and whole."""
        if self.live is None:
            return
        draft = ask(f"{self.server.url}/api/benches/{self.bench}/live")["run"]
        live = draft["id"] if draft else None
        if live != self.live and self.live not in over:
            self.wrong(kind, "a run that was begun is neither live nor over")
        if self.live in self.ended and live == self.live:
            self.wrong(kind, "a run whose end was acknowledged is live again")
        if live is not None:
            ask(f"{self.server.url}/api/live/{live}/end", {})
        self.live = None


def _log() -> bytes:
    from desk.job.resolve import Resolver
    from documents.job.reader import read_job

    doc = read_job((ROOT / "demo/watch-room-plotter.oventa.json").read_bytes()).doc
    return write_log(simulate(Resolver(doc).machine("A"), 20, 3, 2.0)).encode()


def whole(folder: str, wrong: Any) -> None:
    """The file as a database: every page, every reference."""
    with closing(sqlite3.connect(Path(folder) / "oventa.sqlite3")) as db:
        if [r[0] for r in db.execute("PRAGMA integrity_check")] != ["ok"]:
            wrong("the integrity check fails")
        if list(db.execute("PRAGMA foreign_key_check")):
            wrong("rows point at what is not there")


class Alone:
    """Restoring and bringing up to date, killed on folders of their own; the state is that before or that after, never between."""

    def __init__(self, trial: Trial) -> None:
        self.trial, self.server = trial, Serving()
        self.rng = trial.rng
        base = Path(self.server.folder.name)
        self.new = base / "new"
        self.keep("prepare", self.new)
        shutil.copytree(trial.server.folder.name, base / "full", ignore=shutil.ignore_patterns("*.log", "static"))
        for side in ("-wal", "-shm"):
            (base / f"full/oventa.sqlite3{side}").unlink(missing_ok=True)
        self.copy = base / "copy.zip"
        self.keep("backup", Path(trial.server.folder.name), self.copy)
        self.old = base / "old"
        self.keep("restore", self.old, self.copy)
        env = self.server.env | {"OVENTA_DATA": str(self.old)}
        for app, name in (("bench", "0002_live"), ("jobs", "0001_initial")):
            subprocess.run(
                [sys.executable, "-m", "django", "migrate", app, name, "-v0"], cwd=ROOT, env=env, check=True, capture_output=True
            )
        self.jobs = self.count(self.old)

    def keep(self, command: str, data: Path, *args: Path, kill_after_s: float | None = None) -> int:
        env = self.server.env | {"OVENTA_DATA": str(data)}
        process = subprocess.Popen(
            [sys.executable, "-m", "server.keep", command, *map(str, args)],
            cwd=ROOT,
            env=env,
            stdout=subprocess.DEVNULL,
            stderr=subprocess.DEVNULL,
        )
        if kill_after_s is not None:
            time.sleep(kill_after_s)
            process.send_signal(signal.SIGKILL)
        return process.wait(120)

    def count(self, data: Path) -> tuple[int, int]:
        with closing(sqlite3.connect(data / "oventa.sqlite3")) as db:
            jobs, runs = (db.execute(f"SELECT count(*) FROM {t}").fetchone()[0] for t in ("jobs_job", "bench_run"))
        return int(jobs), int(runs)

    def kill_during(self, kind: str) -> None:
        data = Path(self.server.folder.name) / "tried"
        shutil.rmtree(data, ignore_errors=True)
        shutil.copytree(self.new if kind == "restore" else self.old, data)
        before = self.count(data)
        if kind == "restore":
            self.keep("restore", data, self.copy, kill_after_s=self.rng.uniform(0.08, 0.45))
        else:
            self.keep("prepare", data, kill_after_s=self.rng.uniform(0.1, 1.8))
        self.trial.told.kills[kind] += 1
        if self.keep("prepare", data) != 0:
            self.trial.wrong(kind, "it cannot be opened after the kill")
            return
        whole(str(data), lambda words: self.trial.wrong(kind, words))
        after = self.count(data)
        allowed = {before, self.jobs} if kind == "restore" else {before}
        if after not in allowed:
            self.trial.wrong(kind, f"{before} before, {after} after")
        self.trial.told.in_flight[kind] += after == self.jobs and kind == "restore"

    def close(self) -> None:
        self.server.folder.cleanup()


def kills(count: int, seed: int, say: Any = None) -> Told:
    """``count`` kills, spread evenly over everything."""
    trial = Trial(seed)
    try:
        alone = Alone(trial)
        kinds = (*AT_THE_SERVER, *ALONE)
        for i in range(count):
            kind = kinds[i % len(kinds)]
            (alone if kind in ALONE else trial).kill_during(kind)
            if say:
                say(f"{i + 1} {kind}: {len(trial.told.wrong)} wrong")
        alone.close()
    finally:
        trial.server.stop()
    return trial.told


def report(told: Told, seed: int) -> str:
    """The evidence as Markdown."""
    rows = "\n".join(f"| {kind} | {n} |" for kind, n in told.kills.items())
    flight = json.dumps(dict(told.in_flight))
    wrong = "\n".join(f"- {w}" for w in told.wrong) or "- nothing"
    return f"""# Killed in the middle of its work

`./oventa study --kills {sum(told.kills.values())} --seed {seed}` starts a server, lets a bench post twenty times a second, begins one
thing more, and kills the process (SIGKILL) at a moment drawn from the seed; then it starts it again and looks. Every acknowledged post is
stored, once; the document is that of the last acknowledged save or the one under way, whole; runs, records and jobs are those
acknowledged and at most the one under way, each with all its readings, an intact digest and all its runs; the file passes the integrity
and the foreign key check. Restoring a copy and bringing an older database up to date are killed on folders of their own.

| killed during | kills |
|---|---|
{rows}

Posts acknowledged over all: {told.readings}. Things under way that were there whole after the kill: {flight}.

Lost or half done:
{wrong}
"""
