"""Loads the made-up demo job with its runs, and jobs of other cases, once; a job that is there is left alone."""

from typing import Any

from django.core.management.base import BaseCommand, CommandParser

from demo import campaign
from server.apps.chores.demo import MAIN, MORE, campaign_runs, document, main_runs, make_job
from server.apps.jobs.models import Job


class Command(BaseCommand):
    help = "Load the made-up demo job, unless it is there; with --more also those for other cases."

    def add_arguments(self, parser: CommandParser) -> None:
        parser.add_argument("--more", action="store_true", help="also a whole campaign, and jobs of three unlike cases without runs")

    def handle(self, *args: Any, **options: Any) -> None:
        if options["more"]:
            for stem in MORE:
                make_job(document(stem))
            if not Job.objects.filter(name=campaign.NAME).exists():
                load_campaign()
        if job := make_job(document(MAIN)):
            for _, take in main_runs(job):
                take()


def load_campaign() -> Job:
    """The campaign's job with its runs."""
    job = make_job(campaign.document())
    assert job is not None
    for _, take in campaign_runs(job):
        take()
    return job
