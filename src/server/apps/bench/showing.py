"""The live run that the demo shows on its first start: a made-up machine soaking on the stand-in bench."""

import time
import urllib.error
import urllib.request

from django.db import connection

from documents.job.planned import from_template
from server.apps.bench import live, players, watching
from server.apps.bench.models import Bench, Run
from server.apps.jobs.models import Job

DEMO_JOB = "Watch-room plotter"
LAYOUT, RATE, SEED = "D", 10.0, 302  # a made-up machine much like the one whose logs are in
PATIENCE_S = 60.0


def show_live_run(url: str) -> None:
    """Waits for the server to answer, then starts the machine and its run, once in the life of a data folder."""
    try:
        job = Job.objects.filter(name=DEMO_JOB).first()
        if job is None or Bench.objects.filter(name=players.STANDIN).exists() or not _answers(url):
            return
        bench = players.start_standin(job.pk, LAYOUT, url, RATE, SEED)
        protocol = from_template("soak")
        run = live.prepare_run(bench.pk, job.pk, LAYOUT, protocol, "both", _planned(job))
        run = live.set_up(run.pk, {"held": {h.what: watching.asked(run).known.get(h.what, "as set") for h in protocol.held}})
        _begin(run)
    finally:
        connection.close()  # this thread's own


def _planned(job: Job) -> str:
    """The id of the planned run this is, where the job has a plan."""
    plan = job.more.get("plan") or {}
    return next((r["id"] for r in plan.get("runs", []) if r["layout"] == LAYOUT), "")


def _begin(run: Run) -> None:
    until = time.monotonic() + PATIENCE_S
    while time.monotonic() < until:
        step, _ = watching.step_of(run)
        if step.may_start:
            live.start_run(run.pk)
            return
        time.sleep(1.0)


def _answers(url: str) -> bool:
    until = time.monotonic() + PATIENCE_S
    while time.monotonic() < until:
        try:
            urllib.request.urlopen(url + "api/health", timeout=2).close()
            return True
        except (urllib.error.URLError, OSError):
            time.sleep(0.3)
    return False
