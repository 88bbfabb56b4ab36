"""The demo's rows for tests: worked out once for all processes of a run, then put back as they were. Its runs take seconds to analyse."""

import io
import os
import pickle
from collections.abc import Callable
from pathlib import Path
from typing import Any

from django.apps import apps
from django.core.management import call_command
from django.db import transaction
from django.db.models import Model

from demo import campaign
from server.apps.chores.management.commands.load_demo import load_campaign
from server.apps.jobs.models import Job

APPS = ("library", "jobs", "bench", "verdicts")
Rows = list[tuple[type[Model], list[dict[str, Any]]]]
_rows: dict[str, Rows] = {}


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
    known = _rows.get(key) or _kept_by_another(key)
    if known is None:
        make()
        models = [m for label in APPS for m in apps.get_app_config(label).get_models()]
        known = _rows[key] = [(m, list(m._default_manager.values())) for m in _in_order(models)]
        _keep(key, known)
        return
    _rows[key] = known
    with transaction.atomic():
        for model, rows in known:
            model._default_manager.bulk_create([model(**row) for row in rows])


def _shared(key: str) -> Path | None:
    """A file of this run of the tests alone (tests.runner makes its folder): code that changes is never met by rows of before."""
    folder = os.environ.get("OVENTA_TEST_ROWS")
    return Path(folder) / f"{key}.rows" if folder else None


def _kept_by_another(key: str) -> Rows | None:
    shared = _shared(key)
    if shared is None or not shared.is_file():
        return None
    return [(apps.get_model(label), rows) for label, rows in pickle.loads(shared.read_bytes())]


def _keep(key: str, rows: Rows) -> None:
    if shared := _shared(key):
        own = shared.with_suffix(f".{os.getpid()}")
        own.write_bytes(pickle.dumps([(model._meta.label, values) for model, values in rows]))
        own.replace(shared)


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
