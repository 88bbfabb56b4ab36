"""What people add to a run: marks, pictures, readings taken by hand, runs without a log."""

from collections.abc import Sequence
from dataclasses import dataclass
from typing import Any

import numpy as np
from django.db import transaction
from django.shortcuts import get_object_or_404

from desk.job.conditions import as_drawn, made_with
from desk.runs.ready import ready
from documents.job.planned import ProtocolDoc
from documents.job.reader import check_job
from engine.errors import ImpossibleInputError
from engine.runs.names import channel_words
from engine.runs.series import ROOM_CHANNEL, RunLog
from engine.runs.slip import Question, question
from server.apps.bench import watching
from server.apps.bench.benches import told_s
from server.apps.bench.figures import basis_of, changed_run, new_run
from server.apps.bench.models import Mark, Run
from server.apps.bench.services import checked_room, run_name
from server.apps.jobs.adapters import document
from server.apps.jobs.models import Layout

MOST_PICTURE_BYTES = 8 * 1024 * 1024
PICTURES = {b"\x89PNG": "image/png", b"\xff\xd8\xff": "image/jpeg"}


def moment_of(run: Run) -> float:
    """Seconds of the run now; 0 before logging has begun, its end once it is over."""
    if run.state != "draft" or run.bench_id is None:
        return run.duration_s
    return 0.0 if run.started_s is None else max(told_s(run.bench_id) - run.started_s, 0.0)


@dataclass(frozen=True)
class MarkData:
    kind: str
    tag: str = ""
    text: str = ""
    at_s: float | None = None
    until_s: float | None = None
    drop: bool = False
    x_mm: float | None = None
    z_mm: float | None = None


def add_mark(run_id: int, data: MarkData, picture: bytes | None = None) -> Mark:
    """A mark at a moment of a run, now where none is given. Raises ImpossibleInputError for an empty one or a picture that is none."""
    run = get_object_or_404(Run, pk=run_id)
    if not (data.tag or data.text.strip() or picture):
        raise ImpossibleInputError("the mark is empty", "text", "Choose a word, write one, or add a picture.")
    kind = checked_picture(picture) if picture else ""
    at = moment_of(run) if data.at_s is None else data.at_s
    until = data.until_s if data.until_s is not None and data.until_s > at else None
    made: list[Mark] = []

    def add(run: Run) -> None:
        mark = Mark.objects.create(
            run=run,
            kind=data.kind,
            tag=data.tag[:40],
            text=data.text.strip()[:500],
            at_s=at,
            until_s=until,
            drop=data.drop,
            x_mm=data.x_mm,
            z_mm=data.z_mm,
            picture=picture,
            picture_type=kind,
        )
        made.append(mark)

    if data.drop and run.state != "draft":
        changed_run(run_id, add)
    else:
        add(run)
    return made[-1]


def checked_picture(picture: bytes) -> str:
    if len(picture) > MOST_PICTURE_BYTES:
        raise ImpossibleInputError(f"the picture has {len(picture) / 1e6:.0f} MB", "picture", "Make it smaller than 8 MB.")
    found = next((kind for start, kind in PICTURES.items() if picture.startswith(start)), None)
    if found is None:
        raise ImpossibleInputError("this is neither a PNG nor a JPEG picture", "picture", "Save it as one of the two.")
    return found


def change_mark(mark_id: int, changes: dict[str, Any]) -> Mark:
    """Its words, its stretch, or whether the stretch is left out of the figures."""
    found = get_object_or_404(Mark.objects.defer("picture"), pk=mark_id)

    def change(_run: Run) -> None:
        Mark.objects.filter(pk=mark_id).update(**{n: changes[n] for n in ("text", "until_s", "drop") if n in changes})

    if changes:
        changed_run(found.run_id, change)
    found.refresh_from_db()
    return found


@dataclass(frozen=True)
class Stored:
    """A typed reading as stored, or the question that has to be answered first (then nothing is stored)."""

    stored: bool
    state: str
    question: Question | None


def add_reading(run_id: int, channel: str, value: float, sure: bool = False, point: str = "") -> Stored:
    """A reading taken by hand. What looks like a slip, or is still climbing, is asked about unless ``sure``."""
    run = get_object_or_404(Run, pk=run_id)
    at = moment_of(run)
    doubt = question(channel, value, _earlier(run, channel), at, _warming(run, channel))
    if doubt and (not sure or doubt.code == "out_of_range"):
        return Stored(False, "", doubt)
    state = "rising" if doubt and doubt.code == "still_climbing" else "settled"
    reading = {"channel": channel, "at_s": round(at, 1), "value": value, "state": state, "point": point}

    def add(run: Run) -> None:
        run.by_hand = [*run.by_hand, reading]

    changed_run(run_id, add)
    return Stored(True, state, None)


def _earlier(run: Run, channel: str) -> list[tuple[float, float]]:
    typed = [(r["at_s"], r["value"]) for r in run.by_hand if r["channel"] == channel]
    if typed:
        return typed
    log = watching.run_log(run) if run.state == "draft" else None
    if log is None or channel not in log.channels:
        return []
    good = np.flatnonzero(np.isfinite(log.channels[channel]))[-5:]
    return [(float(log.elapsed_s[i]), float(log.channels[channel][i])) for i in good]


def _warming(run: Run, channel: str) -> bool:
    """The machine itself still warms up, so that no probe in it can be at rest."""
    if run.state != "draft" or run.started_s is None or channel == ROOM_CHANNEL or not channel.endswith("_c"):
        return False
    _, figures = watching.step_of(run)
    return figures is None or not figures.all_settled


def take_back_reading(run_id: int, index: int) -> Run:
    """Strikes a typed reading; it stays in the list, struck."""

    def strike(run: Run) -> None:
        if not 0 <= index < len(run.by_hand):
            raise ImpossibleInputError("there is no such reading", "index", "Reload the page.")
        run.by_hand = [{**r, "state": "struck"} if i == index else r for i, r in enumerate(run.by_hand)]

    return changed_run(run_id, strike)


def run_by_hand(
    job_id: int,
    layout_key: str,
    minutes: float,
    readings: Sequence[tuple[str, float]],
    room_c: float | None,
    protocol: ProtocolDoc | None,
    load: str,
    stood_still: bool = False,
) -> Run:
    """A run without a log: figures read at its end, such as scores, frames, a job's time, a probe or a meter."""
    layout = get_object_or_404(Layout.objects.select_related("job"), job_id=job_id, key=layout_key)
    if not readings:
        raise ImpossibleInputError("there is nothing to keep", "readings", "Give at least one figure.")
    for channel, value in readings:
        doubt = question(channel, value, [], 0.0)
        if doubt:
            raise ImpossibleInputError(doubt.words.removesuffix("."), channel_words(channel), "Correct it.")
    most = max(sum(1 for c, _ in readings if c == name) for name, _ in readings)
    times = np.linspace(0.0, max(minutes, 1.0) * 60, max(most, 2))
    channels = {name: np.full(len(times), np.nan) for name, _ in readings}
    for channel, value in readings:
        own = channels[channel]
        own[-1 - int(np.isfinite(own).sum())] = value
    doc = check_job(document(layout.job)).doc
    run = Run(
        job=layout.job,
        layout=layout,
        layout_key=layout_key,
        name=f"{run_name(job_id, layout_key)}, by hand",
        source_name="by hand",
        typed_room_c=checked_room(room_c),
        made_with=made_with(doc, layout_key),
        drawn=as_drawn(doc, layout_key),
        columns=[{"heading": n, "channel": n, "unit": n.rsplit("_", 1)[-1]} for n in channels],
        protocol=protocol.model_dump(mode="json") if protocol else {},
        load=load,
        stood_still=stood_still,
        ended_why="person",
    )
    made = new_run(run, ready(RunLog(times, channels), basis_of(run, ())))
    with transaction.atomic():
        run.layout = get_object_or_404(Layout, job_id=job_id, key=layout_key)
        return made.write()
