"""Speed curves proposed for a layout and a load, ready to be put into the document."""

import re
from collections.abc import Iterator, Mapping, Sequence
from dataclasses import replace
from typing import Annotated, Literal

from pydantic import BaseModel, Field

from desk.forecast.document import Oracle
from desk.forecast.insight import Band, ProfileIn
from desk.forecast.taught import speeds_as_taught, warmer_as_taught
from desk.job.edits import WrittenCurve, WrittenLayout, written
from desk.words.build import FOLLOWS
from documents.job.models import CurveDoc, LayoutDoc
from engine.coupled.curves import GroupCurve, Judged, Proposal, propose
from engine.coupled.quiet import groups_by_face
from engine.coupled.transient import Profile
from engine.errors import OventaError

NARROW = "\u00a0"  # figure and unit stay on one line
WHY = {"quiet": "quietest on average", "steady": "steadiest", "cool": "coolest"}


class CurvesQuestion(BaseModel):
    """``groups``: a curve for each side, or one for all case fans."""

    target_dba: Annotated[float, Field(gt=0, le=120)]
    profile: ProfileIn = ProfileIn(shape="burst")
    minutes: Annotated[float, Field(ge=5, le=240)] = 40
    groups: Literal["sides", "together"] = "sides"
    avoid_rpm: list[Band] = []


class CurvesProposed(BaseModel):
    """``curves`` and ``layout`` as the document writes them; ``releases``: groups that part with it, in words."""

    why: list[str]
    words: list[str]
    judged: Judged
    curves: list[WrittenCurve]
    layout: WrittenLayout
    releases: list[str]


class CurvesAnswer(BaseModel):
    """``now``: the layout as it is; ``fixed``: at the fastest that keeps the level, all the time."""

    proposals: list[CurvesProposed]
    now: Judged
    fixed: Judged
    reached: bool
    tried: int
    learned: int | None = None  # how many runs the figures rest on beside the parts' sheets


def proposed_curves(oracle: Oracle, layout_id: str, q: CurvesQuestion) -> CurvesAnswer:
    """Raises OventaError for a layout without fans that turn."""
    machine = oracle.machine(layout_id)
    faces = groups_by_face(machine)
    groups = {"all": tuple(m for mounts in faces.values() for m in mounts)} if q.groups == "together" else faces
    if not any(f.running for f in machine.fans):
        raise OventaError("no fan turns in this layout", layout_id, "Put one first.")
    profile = Profile(q.profile.shape, q.profile.period_s, q.profile.on_s)
    told = speeds_as_taught(oracle, layout_id, q.target_dba, groups, q.avoid_rpm)
    idle_w, own = oracle.idle_w(layout_id), oracle.parameters
    found = propose(machine, q.target_dba, groups, profile, q.minutes, q.avoid_rpm, idle_w, told.speeds, own, told.louder_db)

    def warmer(j: Judged) -> Judged:
        cpu_c, card_c = warmer_as_taught(oracle, layout_id, j.cpu_c, j.card_c)
        return replace(j, cpu_c=cpu_c, card_c=card_c)

    layout = oracle.resolver.layout(layout_id)
    taken = [c.id for c in oracle.doc.curves]
    return CurvesAnswer(
        proposals=[_proposed(layout, taken, p, found.still, warmer(p.judged)) for p in found.proposals],
        now=warmer(found.now),
        fixed=warmer(found.fixed),
        reached=found.reached,
        tried=found.tried,
        learned=oracle.taught_by or None,
    )


def _proposed(layout: LayoutDoc, taken: Sequence[str], p: Proposal, still: Mapping[str, float], told: Judged) -> CurvesProposed:
    names = {c.group: _free(f"{layout.id}-{c.group}", taken) for c in p.curves}
    docs = [_curve_doc(names[c.group], c) for c in p.curves]
    by_mount = {m: names[c.group] for c in p.curves for m in c.mounts}
    own = {g.id: {by_mount.get(f.mount) for f in layout.fans if f.group == g.id} for g in layout.groups}
    kept = {name: next(iter(curves)) for name, curves in own.items() if len(curves) == 1 and None not in curves}
    groups = [g.model_copy(update={"curve": kept[g.id]}) if g.id in kept else g for g in layout.groups]
    fans = []
    for f in layout.fans:
        if f.mount in still:
            fans.append(f.model_copy(update={"curve": None, "group": None, "speed_pct": still[f.mount]}))
        elif f.mount in by_mount and f.group not in kept:
            fans.append(f.model_copy(update={"curve": by_mount[f.mount], "group": None}))
        else:
            fans.append(f)
    parted = [g.name or g.id for g in layout.groups if g.id not in kept and own[g.id] - {None}]
    return CurvesProposed(
        why=[WHY[w] for w in p.why],
        words=[*_words(p.curves), *_at_rest(still)],
        judged=told,
        curves=docs,
        layout=written(layout.model_copy(update={"fans": fans, "groups": groups})),
        releases=[f"group {name} parts" for name in parted],
    )


def _curve_doc(name: str, c: GroupCurve) -> CurveDoc:
    return CurveDoc(id=name, source=c.source, points=list(c.points), hysteresis_k=c.hysteresis_k, ramp_s=c.ramp_s)


def _words(curves: Sequence[GroupCurve]) -> Iterator[str]:
    """Steps that can be typed into any controller."""
    for c in curves:
        rest = f"at rest under {c.at_rest_c:.0f}{NARROW}°C, " if c.at_rest_c is not None else ""
        steps = [(t, s) for t, s in c.points if s > 0]
        said = ", ".join(f"{t:.0f}{NARROW}°C {s:.0f}{NARROW}%" for t, s in steps)
        mounts = ", ".join(m.upper() for m in c.mounts)
        calm = f"slower once {c.hysteresis_k:.0f}{NARROW}K cooler, {c.ramp_s:.0f}{NARROW}s through the whole range"
        yield f"{mounts} by {FOLLOWS[c.source]}: {rest}{said}; {calm}"


def _at_rest(still: Mapping[str, float]) -> Iterator[str]:
    by_speed: dict[float, list[str]] = {}
    for mount, pct in still.items():
        by_speed.setdefault(pct, []).append(mount.upper())
    for pct, mounts in by_speed.items():
        yield f"{', '.join(mounts)} {'at rest' if pct == 0 else f'at {pct:.0f} %'}"


def _free(name: str, taken: Sequence[str]) -> str:
    base = re.sub(r"[^A-Za-z0-9_-]+", "-", name)[:50]
    found, n = base, 1
    while found in taken:
        n += 1
        found = f"{base}-{n}"
    return found
