"""Loads the made-up demo job with its runs, and jobs of other cases, once; a job that is there is left alone."""

from datetime import timedelta
from typing import Any

from django.conf import settings
from django.core.management.base import BaseCommand, CommandParser
from django.utils import timezone

from demo import campaign
from documents.job.reader import read_job
from documents.runlog.writer import write_log
from server.apps.bench.models import Run
from server.apps.bench.services import import_run
from server.apps.jobs.models import Job
from server.apps.jobs.services import create_job

FIRST_RUNS = ("a-1", "a-2", "b-1", "b-wrong-room", "c-1", "c-2", "d-1", "d-2", "d-too-short")
MORE = ("buoy-mapper", "lamp-recorder", "chart-server")
NAMES = {"d-too-short": "D run, too short", "b-wrong-room": "B run, wrong room"}


class Command(BaseCommand):
    help = "Load the made-up demo job, unless it is there; with --more also those for other cases."

    def add_arguments(self, parser: CommandParser) -> None:
        parser.add_argument("--more", action="store_true", help="also a whole campaign, and jobs of three unlike cases without runs")

    def handle(self, *args: Any, **options: Any) -> None:
        folder = settings.ROOT / "demo"
        for stem in MORE if options["more"] else ():
            doc = read_job((folder / f"{stem}.oventa.json").read_bytes()).doc
            if not Job.objects.filter(name=doc.name).exists():
                create_job(doc)
        if options["more"] and not Job.objects.filter(name=campaign.NAME).exists():
            self.stderr.write("Making up a campaign of runs (some ten seconds)")
            load_campaign()
        read = read_job((folder / "watch-room-plotter.oventa.json").read_bytes())
        if Job.objects.filter(name=read.doc.name).exists():
            return
        self.stderr.write("Loading the made-up demo job")
        job = create_job(read.doc)
        for stem in FIRST_RUNS:
            letter = stem[0].upper()
            data = (folder / "logs" / f"{stem}.csv").read_bytes()
            import_run(job.pk, letter, NAMES.get(stem, f"{letter} run {stem[-1]}"), f"{stem}.csv (made up)", data, {}, None)


def load_campaign() -> Job:
    """The campaign's job with its runs, an hour apart."""
    doc = campaign.document()
    job = create_job(doc)
    first = timezone.now() - timedelta(hours=len(campaign.RUNS))
    for i, (made, log) in enumerate(campaign.logs(doc)):
        words = f"{made.layout} run {made.nth}" + ("" if made.load == "both" else f", {made.load}")
        run = import_run(job.pk, made.layout, words, "stand-in bench (made up)", write_log(log).encode(), {}, None)
        Run.objects.filter(pk=run.pk).update(load=made.load, imported_at=first + timedelta(hours=i))
    return job
