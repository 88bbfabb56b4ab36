"""The demo's rows for tests: worked out once a process, then put back as they were. Its runs take seconds to analyse."""

import io
from collections.abc import Callable
from typing import Any

from django.apps import apps
from django.core.management import call_command
from django.db import transaction
from django.db.models import Model

from demo import campaign
from server.apps.chores.management.commands.load_demo import load_campaign
from server.apps.jobs.models import Job

APPS = ("library", "jobs", "bench", "verdicts")
_rows: dict[str, list[tuple[type[Model], list[dict[str, Any]]]]] = {}


def load_demo(with_demo: bool = True) -> None:
    """The library and, where wanted, the demo job with its runs, into empty tables."""

    def make() -> None:
        call_command("load_library")
        if with_demo:
            call_command("load_demo", stderr=io.StringIO())

    _load("demo" if with_demo else "library", make)


def load_campaign_job() -> Job:
    """The campaign alone with its forty-eight runs, into empty tables."""
    _load("campaign", load_campaign)
    return Job.objects.get(name=campaign.NAME)


def _load(key: str, make: Callable[[], object]) -> None:
    known = _rows.get(key)
    if known is None:
        make()
        models = [m for label in APPS for m in apps.get_app_config(label).get_models()]
        _rows[key] = [(m, list(m._default_manager.values())) for m in _in_order(models)]
        return
    with transaction.atomic():
        for model, rows in known:
            model._default_manager.bulk_create([model(**row) for row in rows])


def _in_order(models: list[type[Model]]) -> list[type[Model]]:
    """What others point at comes first."""
    done: list[type[Model]] = []
    while models:
        for model in list(models):
            needs = {f.related_model for f in model._meta.fields if f.related_model and f.related_model is not model}
            if needs <= set(done) | {None}:
                done.append(model)
                models.remove(model)
    return done
