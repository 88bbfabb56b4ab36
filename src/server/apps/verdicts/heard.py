"""What was heard in the runs that count, as a record keeps it: levels with their spread and the room, and what clips told."""

from desk.sound.told import told_of
from desk.verdict.record import MOST_SOUNDS, HeardSound
from engine import constants as k
from engine.runs.budget import METER_WORDS
from server.apps.bench.models import Run
from server.apps.bench.selectors import analysis_of
from server.apps.sounds.models import Clip

LEVEL = "sound_dba"


def sounds(job_id: int) -> list[HeardSound]:
    """Of the valid runs of a job that have a level or a clip, in their order."""
    clips: dict[int, list[Clip]] = {}
    for clip in Clip.objects.filter(run__job_id=job_id, kind="machine", state="done", struck="").defer("pictures"):
        clips.setdefault(clip.run_id or 0, []).append(clip)
    found = []
    for run in Run.objects.filter(job_id=job_id, state="valid").order_by("pk"):
        level = analysis_of(run).channel(LEVEL)
        told = [words for clip in clips.get(run.pk, []) for words in told_of(clip.result)]
        if level is None and run.pk not in clips:
            continue
        found.append(
            HeardSound(
                run=run.name,
                layout=run.layout_key,
                load=run.load,
                level_dba=level.mean if level else None,
                band_db=k.COVERAGE_FACTOR * level.standard_error if level else None,
                l10_dba=level.l10_dba if level else None,
                l90_dba=level.l90_dba if level else None,
                max_dba=level.max if level else None,
                over_room_db=level.above_background_db if level else None,
                alone_dba=level.alone_dba if level else None,
                alone_bound=bool(level and level.alone_bound),
                microphone=_microphone(run),
                clips=len(clips.get(run.pk, [])),
                told=list(dict.fromkeys(told)),
            )
        )
    return found[:MOST_SOUNDS]


def _microphone(run: Run) -> str:
    said = run.microphone
    words = [
        f"{said['distance_m']:g} m" if said.get("distance_m") else "",
        f"{said['height_m']:g} m high" if said.get("height_m") is not None else "",
        str(said.get("side") or ""),
        str(said.get("place") or ""),
        f"meter {METER_WORDS[said['meter']]}" if said.get("meter") else "",
    ]
    return ", ".join(w for w in words if w)[:300]
