"""The made-up recorder, controller and meter of a job's made-up machine."""

import numpy as np

from desk.job.resolve import Resolver
from desk.sound.speeds import FansAt, blades_of
from engine.coupled.forecast import forecast
from engine.coupled.operating_point import operating_point
from engine.errors import OventaError
from engine.machine import Machine
from instruments.recorder import calibrator, record, room_alone, synthesised, truth_of, wav
from server.apps.bench.models import Run
from server.apps.jobs.models import Job
from server.apps.sounds.models import Clip, LevelReading, Of
from server.apps.sounds.services import AS_ASKED, add_reading, document_of, keep_clip, listen

METER_DB = 0.25  # one sigma of a reading of the made-up meter, of ten seconds' mean
CALIBRATOR_DB = 94.0
SWEEP_S = 16.0
LISTENED_S = 6.0


def _machine(job: Job, layout: str, at: FansAt = AS_ASKED) -> tuple[Resolver, Machine]:
    resolver = Resolver(document_of(job))
    return resolver, at.of(resolver, resolver.layout(layout))


def clip_of(job: Job, layout: str, kind: str, seconds: float, seed: int, at: FansAt = AS_ASKED, run: Run | None = None) -> Clip:
    """A clip as the made-up recorder writes it. Its gain is known, so that a clip of a machine or a room is tied to a level."""
    resolver, machine = _machine(job, layout, at)
    take = Clip.objects.filter(job=job).count()
    if kind == "calibrator":
        samples = calibrator(seconds, CALIBRATOR_DB, seed)
    elif kind == "room":
        samples = room_alone(machine, seconds, seed + take)
    else:
        samples, _ = record(machine, seconds, seed, blades_of(resolver), take)
    said = {"made_up": True, "microphone": {"distance_m": machine.room.listener_distance_m, "side": machine.room.listener_side}}
    name = {"calibrator": "made-up calibrator", "room": "made-up room alone"}.get(kind, f"made-up clip of {layout}")
    clip = keep_clip(job, layout, wav(samples), name, kind, said, run, at)
    if kind != "calibrator":
        by = Clip.objects.filter(job=job, kind="calibrator", made_up=True, struck="").first() or clip_of(
            job, layout, "calibrator", 8.0, seed
        )
        clip.tie, clip.by, clip.level_db = "calibrator", by, CALIBRATOR_DB
        clip.save(update_fields=["tie", "by", "level_db"])
    return clip


def forecast_clip(job: Job, layout: str) -> bytes:
    """A few seconds of how the stored layout is forecast to sound."""
    resolver, machine = _machine(job, layout)
    level = forecast(operating_point(machine)).sound.level_dba
    return wav(synthesised(machine, LISTENED_S, blades_of(resolver), level))


def forecast_levels(job: Job) -> list[tuple[str, float]]:
    """Level of every stored layout at full load; those that cannot be forecast are left out."""
    resolver = Resolver(document_of(job))
    found = []
    for layout in resolver.doc.layouts:
        try:
            found.append((layout.id, forecast(operating_point(AS_ASKED.of(resolver, layout))).sound.level_dba))
        except OventaError:
            continue
    return found


def read_level(job: Job, of: Of, speed_pct: float, seed: int, anew: bool) -> LevelReading:
    """Sets the speed, waits (here: not) and reads; in a sweep a clip is taken as well, in which tones and beats are looked for."""
    at = FansAt(of.load, of.mounts, speed_pct)
    resolver, machine = _machine(job, of.layout, at)
    clip = None
    if of.purpose == "sweep":
        clip = clip_of(job, of.layout, "machine", SWEEP_S, seed, at)
        clip.name = f"sweep, {speed_pct:.0f} %"
        clip.save(update_fields=["name"])
        for new in (clip.by, clip):  # the calibrator's too, the first time
            if new is not None and new.state == "waiting":
                listen(new.pk)
        clip.refresh_from_db()
    count = LevelReading.objects.filter(job=job).count()
    level = truth_of(machine, seed, blades_of(resolver)).level_dba + float(np.random.default_rng([seed, count]).normal(0, METER_DB))
    return add_reading(job, of, speed_pct, round(level, 1), anew, clip, made_up=True)
