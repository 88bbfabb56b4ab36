"""Clips handed in, listened to, tied to a level and struck; levels read at chosen speeds."""

import hashlib
from collections.abc import Callable, Mapping
from dataclasses import asdict
from typing import Any

from django.db import transaction

from desk.job.conditions import as_drawn, made_with
from desk.job.resolve import Resolver
from desk.learn.swept import Heard
from desk.sound.document import loudness_of, pictures_of, sound_document, sound_of
from desk.sound.speeds import FansAt, blades_of, sources_of, speeds_of
from documents.job.models import JobDoc
from documents.job.reader import check_job
from documents.soundclip.reader import Clip as Opened
from documents.soundclip.reader import open_clip
from engine.coupled.operating_point import operating_point
from engine.errors import ImpossibleInputError, OventaError
from engine.runs.room_level import OwnLevel, without_room
from engine.sound.clip import with_loudness
from engine.sound.tones import Source
from server.apps.bench.models import Run
from server.apps.jobs import adapters
from server.apps.jobs.models import Job
from server.apps.sounds.files import remove_clip, write_clip
from server.apps.sounds.models import Clip, LevelReading, Of
from server.config.paths import CLIPS

MOST_CLIPS = 400
AS_ASKED = FansAt()


def document_of(job: Job) -> JobDoc:
    return check_job(adapters.document(job)).doc


def keep_clip(
    job: Job,
    layout: str,
    data: bytes,
    name: str,
    kind: str,
    said: Mapping[str, Any] | None = None,
    run: Run | None = None,
    at: FansAt = AS_ASKED,
) -> Clip:
    """Stores a clip; it is listened to later. ``at``: what turned meanwhile, by which its tones are named.

    Raises DocumentError for what is no clip, ImpossibleInputError for an unknown layout.
    """
    opened = open_clip(data, name)
    seconds = opened.seconds
    opened.close()
    if Clip.objects.filter(job=job).count() >= MOST_CLIPS:
        raise ImpossibleInputError(f"{MOST_CLIPS} clips are as many as a job holds", "clip", "Begin another job, or export this one first.")
    resolver = Resolver(document_of(job))
    found = resolver.layout(layout)
    point = operating_point(at.of(resolver, found)) if kind == "machine" else None
    file = write_clip(data)
    clip = Clip(
        job=job,
        layout_key=layout,
        run=run,
        kind=kind,
        name=name[:120] or "clip",
        file=file,
        digest=hashlib.sha256(data).hexdigest(),
        seconds=seconds,
        speeds=speeds_of(point) if point else {},
        sources=[[s.name, s.speed_rpm, s.blades] for s in sources_of(point, blades_of(resolver))] if point else [],
    )
    for field, value in (said or {}).items():
        setattr(clip, field, value)
    try:
        with transaction.atomic():
            clip.save()
    except Exception:
        remove_clip(file)
        raise
    return clip


def opened_clip(clip: Clip) -> Opened:
    return open_clip(CLIPS / clip.file, clip.name)


def tied(clip: Clip) -> tuple[tuple[Opened, float] | None, float | None]:
    """What ties a clip: a calibrator's clip with its level, or a meter's reading. A gain that moves ties nothing."""
    if clip.gain_moves or clip.level_db is None:
        return None, None
    if clip.tie == "calibrator" and clip.by is not None and not clip.by.struck:
        return (opened_clip(clip.by), clip.level_db), None
    return (None, clip.level_db) if clip.tie == "meter" else (None, None)


def listen(clip_id: int, progress: Callable[[float], None] | None = None) -> None:
    """Works out a clip's figures and keeps them; what goes wrong is kept with it in words."""
    clip = Clip.objects.select_related("by").get(pk=clip_id)
    values: dict[str, Any] = {"state": "done", "fault": None}
    try:
        opened = opened_clip(clip)
        calibration, reading = tied(clip)
        sources = [Source(*s) for s in clip.sources]
        found = sound_of(opened, calibration, reading, sources=sources, progress=progress)
        if found.calibrated:
            found = with_loudness(found, loudness_of(opened, found))
        values |= {
            "result": sound_document(found).model_dump(mode="json"),
            "pictures": pictures_of(found).model_dump(mode="json"),
            "share": 1.0,
        }
    except OventaError as error:
        values = {"state": "failed", "fault": {"title": error.what, "do": error.do}}
    Clip.objects.filter(pk=clip_id).update(**values)


def tie_clip(clip: Clip, tie: str, level_db: float | None, by: Clip | None) -> Clip:
    """Ties a clip to a level, or unties it; its figures are worked out anew. Raises ImpossibleInputError for what cannot tie."""
    if tie != "none" and clip.gain_moves:
        raise ImpossibleInputError(
            "this clip's gain moved by itself while it was recorded", clip.name, "Record it again with gain control off; levels need that."
        )
    if tie != "none" and level_db is None:
        raise ImpossibleInputError("a level is missing", "level_db", "Give the calibrator's level, or what the meter read.")
    if tie == "calibrator" and (by is None or by.job_id != clip.job_id or by.kind != "calibrator"):
        raise ImpossibleInputError("no calibrator's clip is named", "by", "Record the calibrator at the same gain first.")
    clip.tie, clip.level_db, clip.by = tie, level_db if tie != "none" else None, by if tie == "calibrator" else None
    clip.state, clip.share = "waiting", 0.0
    clip.save(update_fields=["tie", "level_db", "by", "state", "share"])
    return clip


def strike(clip: Clip, why: str) -> Clip:
    """A clip that counts for nothing; it stays, and what it tied is worked out anew when it is next asked."""
    clip.struck = why.strip()[:200] or "struck"
    clip.save(update_fields=["struck"])
    return clip


def alone(clip: Clip) -> OwnLevel | None:
    """The machine without the room, by the job's latest good clip of the room alone; None without one, or where either has no level."""
    found = clip.result or {}
    if clip.kind != "machine" or not found.get("calibrated"):
        return None
    rooms = Clip.objects.filter(job=clip.job_id, kind="room", state="done", struck="").order_by("-pk")
    room = next((r.result for r in rooms.only("result") if r.result and r.result.get("calibrated")), None)
    return without_room(found["laeq_dba"], room["laeq_dba"]) if room else None


def add_reading(
    job: Job, of: Of, speed_pct: float, level_dba: float, anew: bool, clip: Clip | None = None, made_up: bool = False
) -> LevelReading:
    """A level at a speed. ``anew``: the first of a new procedure."""
    doc = document_of(job)
    Resolver(doc).layout(of.layout)
    last = max((r.round for r in _rows_of(job, of)), default=0)
    found = (clip.result or {}) if clip else {}
    tones, beats = found.get("tones") or [], found.get("beats") or []
    return LevelReading.objects.create(
        job=job,
        layout_key=of.layout,
        purpose=of.purpose,
        load=of.load,
        round=max(last, 1) if not anew else last + 1,
        mounts=sorted(of.mounts),
        speed_pct=speed_pct,
        level_dba=level_dba,
        clip=clip,
        tone_db=tones[0]["tone_to_noise_db"] if tones else None,
        tone_hz=tones[0]["frequency_hz"] if tones else None,
        beat_db=beats[0]["depth_db"] if beats else None,
        drawn=as_drawn(doc, of.layout),
        made_with=made_with(doc, of.layout),
        heard=asdict(Heard.of(doc)),
        made_up=made_up,
    )


def readings_of(job: Job, of: Of) -> list[LevelReading]:
    """Of the latest procedure."""
    rows = _rows_of(job, of)
    last = max((r.round for r in rows), default=0)
    return [r for r in rows if r.round == last]


def _rows_of(job: Job, of: Of) -> list[LevelReading]:
    rows = LevelReading.objects.filter(job=job, layout_key=of.layout, purpose=of.purpose, load=of.load)
    return [r for r in rows if tuple(r.mounts) == tuple(sorted(of.mounts))]
