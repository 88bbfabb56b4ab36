"""Figures of runs: reckoned first, with no lock on the database, then written with what they rest on in one short transaction.

A bench's readings must be acknowledged at once whatever else goes on, and there is one write lock. What a figure rests on is looked at
again when it is written: if somebody changed that in the meantime, it is reckoned once more.
"""

import logging
from collections.abc import Callable, Sequence
from dataclasses import dataclass

from django.db import transaction
from django.shortcuts import get_object_or_404
from pydantic import ValidationError

from desk.runs.ready import Basis, Block, Ready, background_dba
from engine.errors import OventaError
from engine.identity import METHOD
from server.apps.bench import history
from server.apps.bench.adapters import keep_blocks, stored_log
from server.apps.bench.models import Mark, Run

LOG = logging.getLogger(__name__)
TRIES = 6


class ChangedMeanwhileError(OventaError):
    """Something changed a run again and again while its figures were reckoned."""

    code = "changed_meanwhile"


def basis_of(run: Run, marks: Sequence[Mark] | None = None) -> Basis:
    """What decides a run's figures; ``marks`` of a run that is not stored yet."""
    after = (run.microphone or {}).get("background_after_dba")
    background = background_dba(run.background_dba, after, run.job.more.get("room", {}).get("background_dba"))
    left_out = tuple(dropped(run) if marks is None else ((m.at_s, m.ends_s) for m in marks if m.drop))
    return Basis(
        run.typed_room_c, run.window_s, background, tuple(run.by_hand), left_out, run.stood_still, (run.microphone or {}).get("meter", "")
    )


def dropped(run: Run) -> list[tuple[float, float]]:
    """Stretches that marks leave out of every figure."""
    return [(m.at_s, m.ends_s) for m in run.marks.filter(drop=True).defer("picture")]


@dataclass(frozen=True)
class NewRun:
    """A run with its figures and compressed readings, ready to be written."""

    run: Run
    blocks: Sequence[Block]
    marks: Sequence[Mark]

    def write(self) -> Run:
        """Within the caller's transaction."""
        self.run.save()
        keep_blocks(self.run, self.blocks)
        for mark in self.marks:
            mark.run = self.run
        Mark.objects.bulk_create(self.marks)
        return self.run


def new_run(run: Run, made: Ready | None, marks: Sequence[Mark] = ()) -> NewRun:
    """A run that is to be stored, with what was reckoned of its log (None without readings)."""
    run.duration_s, run.rows, run.analysis = (made.duration_s, made.rows, made.analysis) if made else (0.0, 0, {})
    return NewRun(run, made.blocks if made else [], marks)


def changed_run(run_id: int, change: Callable[[Run], object]) -> Run:
    """Applies a change to a run, or to its marks, and the figures that follow from it; all or nothing.

    ``change`` is called within a transaction, more than once: first to see what the figures will rest on (and taken back), then for good.
    """
    for _ in range(TRIES):
        with transaction.atomic():
            run = _apply(run_id, change)
            if run.state == "draft" or not run.rows:
                run.save()
                return run
            basis = basis_of(run)
            transaction.set_rollback(True)
        analysis = basis.figures(stored_log(run))
        with transaction.atomic():
            run = _apply(run_id, change)
            if basis_of(run) == basis:
                run.analysis = analysis
                run.save()
                return run
            transaction.set_rollback(True)
    raise ChangedMeanwhileError("the run is being changed elsewhere at the same time", "run", "Try again in a moment.")


def _apply(run_id: int, change: Callable[[Run], object]) -> Run:
    run = get_object_or_404(Run.objects.select_related("job"), pk=run_id)
    was = history.state_of(run)
    change(run)
    history.note(run, was)
    return run


def of_older_method() -> list[int]:
    """Runs whose stored figures were made by another method of analysis than this version's."""
    return [
        pk
        for pk, analysis in Run.objects.filter(rows__gt=0).exclude(state="draft").values_list("pk", "analysis")
        if isinstance(analysis, dict) and analysis and analysis.get("method", "") != METHOD.number
    ]


def reckon_anew(run_ids: Sequence[int]) -> None:
    """The figures of stored runs by the method of this version; the readings are what they were."""
    for run_id in run_ids:
        try:
            changed_run(run_id, lambda run: None)
        except (OventaError, ValidationError) as error:  # a run that cannot be read is shown as such, and stops no other
            LOG.warning("run %s keeps its figures: %s", run_id, error)
