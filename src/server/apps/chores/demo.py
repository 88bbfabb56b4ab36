"""The made-up jobs of the demo: their documents at once, their runs after the first page is there.

What was loaded is written down run by run in the data folder, so that a start that is cut short goes on where it was, and a job
or run that somebody removed stays away.
"""

import json
from collections.abc import Callable, Iterator
from datetime import timedelta
from functools import partial
from pathlib import Path
from typing import Any

from django.conf import settings
from django.http import Http404
from django.utils import timezone

from demo import campaign
from desk.search.question import SearchQuestion
from documents.job.models import JobDoc
from documents.job.reader import check_job, read_job
from documents.runlog.writer import write_log
from server import loading
from server.apps.bench.models import Run
from server.apps.bench.services import import_run
from server.apps.jobs import adapters
from server.apps.jobs.models import Job
from server.apps.jobs.services import create_job
from server.apps.tasks.services import ask_search

FOLDER = settings.ROOT / "demo"
MAIN = "watch-room-plotter"
FIRST_RUNS = ("a-1", "a-2", "b-1", "b-wrong-room", "c-1", "c-2", "d-1", "d-2", "d-too-short")
MORE = ("buoy-mapper", "lamp-recorder", "chart-server")
NAMES = {"d-too-short": "D run, too short", "b-wrong-room": "B run, wrong room"}
FOUND = "found"  # beside it, once a search was asked for
ALL = "all"  # the last entry of a job whose runs are all there
Step = tuple[str, Callable[[], object]]


def document(stem: str) -> JobDoc:
    return read_job((FOLDER / f"{stem}.oventa.json").read_bytes()).doc


def make_job(doc: JobDoc) -> Job | None:
    """The job, or None where one of its name is there."""
    return None if Job.objects.filter(name=doc.name).exists() else create_job(doc)


def main_runs(job: Job) -> Iterator[Step]:
    """Imports of the first job's logs, one by one."""
    for stem in FIRST_RUNS:
        letter = stem[0].upper()
        data = (FOLDER / "logs" / f"{stem}.csv").read_bytes()
        name = NAMES.get(stem, f"{letter} run {stem[-1]}")
        yield stem, partial(import_run, job.pk, letter, name, f"{stem}.csv (made up)", data, {}, None)


def campaign_runs(job: Job) -> Iterator[Step]:
    """Imports of the campaign's made-up runs, an hour apart."""
    first = timezone.now() - timedelta(hours=len(campaign.RUNS))
    for i, (made, log) in enumerate(campaign.logs(campaign.document())):
        words = f"{made.layout} run {made.nth}" + ("" if made.load == "both" else f", {made.load}")

        def take(words: str = words, made: campaign.Made = made, log: Any = log, i: int = i) -> None:
            run = import_run(job.pk, made.layout, words, "stand-in bench (made up)", write_log(log).encode(), {}, None)
            Run.objects.filter(pk=run.pk).update(load=made.load, imported_at=first + timedelta(hours=i), made_at=first + timedelta(hours=i))

        yield words, take


class Demo:
    """What a start of the demo loads."""

    def __init__(self, record: Path) -> None:
        self.record = record

    def _read(self) -> dict[str, list[str]]:
        found: dict[str, list[str]] = json.loads(self.record.read_text(encoding="utf-8")) if self.record.exists() else {}
        return found

    def _write(self, done: dict[str, list[str]]) -> None:
        new = self.record.with_suffix(".new")
        new.write_text(json.dumps(done), encoding="utf-8")
        new.replace(self.record)

    def load_jobs(self) -> None:
        """Every job's document; a matter of tenths of a second."""
        done = self._read()
        for doc in (*(document(stem) for stem in MORE), campaign.document(), document(MAIN)):
            if doc.name not in done and make_job(doc):
                done[doc.name] = []
                self._write(done)

    def load_runs(self) -> None:
        """The runs that are not there yet, of jobs that this demo made and that nobody removed."""
        for name, steps in ((document(MAIN).name, main_runs), (campaign.NAME, campaign_runs)):
            job = Job.objects.filter(name=name).first()
            if job is not None and ALL not in self._read().get(name, [ALL]):
                with loading.saying(f"The made-up runs of {name} are being loaded; they come in one by one."):
                    self._load(job, steps(job))

    def find(self) -> None:
        """A search that is there when somebody first asks what would be better; once."""
        done = self._read()
        job = Job.objects.filter(name=document(MAIN).name).first()
        if job is None or FOUND in done.get(job.name, [FOUND]):
            return
        doc = check_job(adapters.document(job)).doc
        ask_search(job, doc.model_dump(mode="json", exclude_unset=True), SearchQuestion(max_dba=doc.room.sound_limit_dba), learned=True)
        done[job.name].append(FOUND)
        self._write(done)

    def _load(self, job: Job, steps: Iterator[Step]) -> None:
        done = self._read()
        for words, take in steps:
            if words in done[job.name]:
                continue
            try:
                take()
            except Http404:  # somebody removed the job, or its layout, meanwhile: what they did stands
                return
            done[job.name].append(words)
            self._write(done)
        done[job.name].append(ALL)
        self._write(done)
