"""Clips and readings of level out with a package and in again."""

import hashlib
from collections.abc import Iterator, Sequence
from contextlib import contextmanager
from dataclasses import dataclass
from typing import Any

from desk.learn.packaged import drawn_of
from documents.errors import DocumentError, Fault
from documents.package.document import Opened
from documents.soundclip.reader import open_clip
from server.apps.jobs.models import Job
from server.apps.sounds.files import remove_clip, write_clip
from server.apps.sounds.models import Clip, LevelReading
from server.config.paths import CLIPS

CLIP_KEPT = ("kind", "name", "microphone", "speeds", "sources", "tie", "level_db", "gain_moves", "made_up", "struck")
LEVEL_KEPT = (
    *("purpose", "load", "round", "mounts", "speed_pct", "level_dba", "tone_db", "tone_hz", "beat_db"),
    *("drawn", "made_with", "heard", "made_up", "struck"),
)
_AGAIN = "Save the package again where it came from."


def packed_sound(job: Job, runs: Sequence[int]) -> tuple[list[tuple[dict[str, Any], bytes]], list[dict[str, Any]]]:
    """Clips with their files, and levels, as a package says them; runs and clips are named by their numbers in it."""
    clips = [c for c in job.clips.defer("result", "pictures") if (CLIPS / c.file).is_file()]
    at = {c.pk: i for i, c in enumerate(clips)}
    run_at = {pk: i for i, pk in enumerate(runs)}
    found = []
    for c in clips:
        said = {"layout": c.layout_key, "recorded_at": c.recorded_at.isoformat()} | {n: getattr(c, n) for n in CLIP_KEPT}
        said |= {"by": at[c.by_id]} if c.by_id in at else {}
        said |= {"run": run_at[c.run_id]} if c.run_id in run_at else {}
        found.append((said, (CLIPS / c.file).read_bytes()))
    levels = [
        {"layout": r.layout_key} | {n: getattr(r, n) for n in LEVEL_KEPT} | ({"clip": at[r.clip_id]} if r.clip_id in at else {})
        for r in LevelReading.objects.filter(job=job)
    ]
    return found, levels


@dataclass(frozen=True)
class Written:
    """A clip of a package, in its file already."""

    file: str
    digest: str
    seconds: float


@contextmanager
def written_sound(opened: Opened) -> Iterator[list[Written]]:
    """Every clip of a package in a file of its own, one in memory at a time; what goes wrong until the end takes them away again.

    Raises DocumentError for a file that is no clip and for numbers that name none.
    """
    _check_numbers(opened)
    found: list[Written] = []
    try:
        for i, said in enumerate(opened.clips):
            data = opened.clip(said)
            try:
                clip = open_clip(data, said.file)
            except DocumentError as error:
                raise DocumentError([Fault(f"clips[{i}].file", error.faults[0].what, _AGAIN)]) from error
            found.append(Written(write_clip(data), hashlib.sha256(data).hexdigest(), clip.seconds))
            clip.close()
        yield found
    except BaseException:
        for x in found:
            remove_clip(x.file)
        raise


def _check_numbers(opened: Opened) -> None:
    clips, runs = opened.clips, opened.said
    for i, said in enumerate(clips):
        if said.by is not None and (said.by >= len(clips) or clips[said.by].kind != "calibrator"):
            raise DocumentError([Fault(f"clips[{i}].by", "no calibrator's clip has this number", _AGAIN)])
        if said.run is not None and said.run >= len(runs):
            raise DocumentError([Fault(f"clips[{i}].run", "no run has this number", _AGAIN)])
    for i, level in enumerate(opened.levels):
        if level.clip is not None and level.clip >= len(clips):
            raise DocumentError([Fault(f"levels[{i}].clip", "no clip has this number", _AGAIN)])


def unpack_sound(job: Job, opened: Opened, files: Sequence[Written], runs: Sequence[int]) -> None:
    """Rows of a package's clips and levels; the clips wait to be listened to."""
    made: list[Clip] = []
    for said, file in zip(opened.clips, files, strict=True):
        kept = said.model_dump(mode="json", include=set(CLIP_KEPT), exclude_none=True)
        run = runs[said.run] if said.run is not None else None
        clip = Clip(job=job, run_id=run, layout_key=said.layout, file=file.file, digest=file.digest, seconds=file.seconds, **kept)
        clip.save()
        if said.recorded_at:
            Clip.objects.filter(pk=clip.pk).update(recorded_at=said.recorded_at)
        made.append(clip)
    for clip, said in zip(made, opened.clips, strict=True):
        if said.by is not None:
            clip.by = made[said.by]
            clip.save(update_fields=["by"])
    for level in opened.levels:
        kept = level.model_dump(mode="json", include=set(LEVEL_KEPT))
        kept |= {"drawn": drawn_of(level), "heard": kept["heard"] or {}}
        own = made[level.clip] if level.clip is not None else None
        LevelReading.objects.create(job=job, layout_key=level.layout, clip=own, **kept)
