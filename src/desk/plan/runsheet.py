"""The plan as a person works through it: each run, the hand work between runs, gates, and the hours they add up to."""

import random
from collections.abc import Collection, Sequence
from typing import Literal

from pydantic import BaseModel, Field

from desk.job.difference import changes
from desk.job.resolve import Resolver
from documents.job.models import JobDoc, LayoutDoc
from documents.job.planned import PlanDoc, PlannedRunDoc, ProtocolDoc, Role
from engine.plan.protocol import LOAD_WORDS, Protocol, suggested
from engine.plan.rebuild import minutes_of

COOL_DOWN_MIN = 12.0  # common practice, no source: a loaded case back near the room, its panel off
MIDDLE_FROM = 8  # common practice, no source: with so many runs between its two the control is run half way too
ROLE_WORDS: dict[Role, str] = {
    "run": "",
    "control_start": "control at the start",
    "control_middle": "control half way",
    "control_end": "control again at the end",
    "repeat": "again",
}
SETUP_MIN = 3.0  # start, load program, checks; common practice, no source
Order = Literal["as_listed", "random", "there_and_back"]


class SheetLine(BaseModel):
    """One thing on the sheet. ``at_min`` is when it begins, counted from the first."""

    kind: Literal["rebuild", "wait", "run"]
    minutes: float
    at_min: float
    words: list[str]
    run: str | None = None
    layout: str | None = None
    done: bool = False


class SheetWarning(BaseModel):
    code: str
    what: str
    do: str


class RunSheet(BaseModel):
    lines: list[SheetLine] = Field(default_factory=list)
    minutes: float = 0
    hand_minutes: float = 0
    runs: int = 0
    next: PlannedRunDoc | None = None  # the first that has not been made
    suggested: str  # template to begin with in this job
    case_identity: str = ""  # the case in words, for somebody to confirm before the campaign
    warnings: list[SheetWarning] = Field(default_factory=list)


def latest(doc: JobDoc, ident: str) -> ProtocolDoc | None:
    """The newest version of a protocol."""
    return max((p for p in doc.protocols if p.id == ident), key=lambda p: p.version, default=None)


def run_sheet(doc: JobDoc, done: Collection[str] = ()) -> RunSheet:
    """The plan's lines in order; ``done`` are ids of planned runs that have been made."""
    plan = doc.plan
    if plan is None or not plan.runs:
        nothing = SheetWarning(code="no_runs", what="Nothing is planned yet", do="Choose which layouts to run.")
        return RunSheet(suggested=_suggested(doc), warnings=[nothing])
    layouts = {x.id: x for x in doc.layouts}
    lines: list[SheetLine] = []
    before: LayoutDoc | None = None
    for run in plan.runs:
        protocol = latest(doc, run.protocol)
        if protocol is None:
            continue
        lines += _lines(doc, before, layouts[run.layout], run, protocol.to_engine(), run.id in done)
        before = layouts[run.layout]
    at = 0.0
    for line in lines:
        line.at_min = at
        at += line.minutes
    hand = sum(x.minutes for x in lines if x.kind == "rebuild")
    return RunSheet(
        lines=lines,
        minutes=at,
        hand_minutes=hand,
        runs=len(plan.runs),
        next=next((r for r in plan.runs if r.id not in done), None),
        suggested=_suggested(doc),
        case_identity=case_identity(doc),
        warnings=_warnings(doc, plan),
    )


def _suggested(doc: JobDoc) -> str:
    """By what cools the processors and cards of the layouts."""
    resolver = Resolver(doc)
    return suggested(any(resolver.working_loops(x) for x in doc.layouts))


def _lines(doc: JobDoc, before: LayoutDoc | None, own: LayoutDoc, run: PlannedRunDoc, protocol: Protocol, done: bool) -> list[SheetLine]:
    found = []
    if before is not None and before.id != own.id:
        work = changes(doc, before, own)
        found.append(
            SheetLine(
                kind="rebuild",
                minutes=minutes_of(work, doc.practice.minutes),
                at_min=0,
                words=[c.to_do for c in work],
                layout=own.id,
                done=done,
            )
        )
    cool = 0.0 if before is None or protocol.cool_down_k is None else COOL_DOWN_MIN
    cool = max(cool - (found[0].minutes if found else 0.0), 0.0)  # it cools while hands are at work
    if cool:
        words = [f"cool down to {protocol.cool_down_k:g} K over room"]
        found.append(SheetLine(kind="wait", minutes=cool, at_min=0, words=words, layout=own.id, done=done))
    if _new_loop(doc, before, own) and protocol.purge_minutes:
        words = ["pump at full, no load, until the air is out of the loop"]
        found.append(SheetLine(kind="wait", minutes=protocol.purge_minutes, at_min=0, words=words, layout=own.id, done=done))
    role = ROLE_WORDS[run.role]
    words = [LOAD_WORDS[run.load], protocol.name or protocol.id, *([role] if role else [])]
    minutes = SETUP_MIN + protocol.minutes
    return [*found, SheetLine(kind="run", minutes=minutes, at_min=0, words=words, run=run.id, layout=own.id, done=done)]


def transition_minutes(doc: JobDoc, before: str, after: str, protocol: ProtocolDoc | None) -> float:
    """From the end of one layout's run to the start of another's: hands at work, cooling down meanwhile, air out of a new loop."""
    resolver = Resolver(doc)
    one, two = resolver.layout(before), resolver.layout(after)
    work = minutes_of(changes(doc, one, two), doc.practice.minutes) if before != after else 0.0
    cool = COOL_DOWN_MIN if protocol is not None and protocol.cool_down_k is not None else 0.0
    purge = protocol.purge_minutes if protocol is not None and _new_loop(doc, one, two) else 0.0
    return max(work, cool) + purge


def _new_loop(doc: JobDoc, before: LayoutDoc | None, own: LayoutDoc) -> bool:
    """A loop that was opened or filled since the run before; a sealed one keeps its liquid wherever it stands."""
    resolver = Resolver(doc)
    kinds = {c.id: c.kind for c in doc.parts.coolers}
    loops = resolver.working_loops(own)
    opened = any(x.reservoir or kinds[x.cooler] == "open_loop" or len(x.heat) > 1 or len(x.radiators) > 1 for x in loops)
    return opened and (before is None or resolver.working_loops(before) != loops)


def case_identity(doc: JobDoc) -> str:
    """The case as it can be held against the one on the table: name, revision, inside, mounts."""
    case, inner = doc.case, doc.case.inner_mm
    name = (case.name or "case without a name") + (f", revision {case.revision}" if case.revision else "")
    mounts = f"{len(case.mounts)} mount{'' if len(case.mounts) == 1 else 's'}"
    return f"{name}: {inner.depth:g} by {inner.height:g} by {inner.width:g} mm inside, {mounts}"


def _warnings(doc: JobDoc, plan: PlanDoc) -> list[SheetWarning]:
    found = []
    if plan.case_confirmed != case_identity(doc):
        changed = "The case was changed since it was confirmed" if plan.case_confirmed else "Nobody has confirmed the case yet"
        found.append(
            SheetWarning(code="case_not_confirmed", what=changed, do=f"Hold it against the one on the table: {case_identity(doc)}.")
        )
    roles = [r.role for r in plan.runs]
    several = len({r.layout for r in plan.runs}) > 1
    if several and plan.control is None:
        do = "Choose the layout that is run first and again at the end: it shows whether anything drifted."
        found.append(SheetWarning(code="no_control", what="There is no control", do=do))
    elif several and "control_end" not in roles:
        do = "Add the control once more as the last run."
        found.append(SheetWarning(code="no_end_control", what="The control is not run again at the end", do=do))
    counts = {x: sum(r.layout == x for r in plan.runs) for x in {r.layout for r in plan.runs}}
    if several and max(counts.values()) < 2:
        do = "Repeat at least one layout after a rebuild: paste and mounting alone scatter by about half a kelvin."
        found.append(SheetWarning(code="no_repeats", what="No layout is run twice", do=do))
    if several and not (plan.guess.best or plan.guess.words):
        found.append(SheetWarning(code="no_guess", what="No guess is written down", do="Write what you expect before the first run."))
    mixed = {r.protocol for r in plan.runs}
    if len(mixed) > 1:
        do = "Compare only runs of one protocol with each other."
        found.append(SheetWarning(code="mixed_protocols", what=f"{len(mixed)} protocols are mixed", do=do))
    if several:
        found += _bundles(doc, plan)
    return found


def _bundles(doc: JobDoc, plan: PlanDoc) -> list[SheetWarning]:
    """Two layouts that differ by several things say nothing about any one of them."""
    layouts = {x.id: x for x in doc.layouts}
    control = layouts.get(plan.control or "")
    if control is None or len({r.layout for r in plan.runs}) != 2:
        return []
    other = next((layouts[r.layout] for r in plan.runs if r.layout != control.id), None)
    count = len(changes(doc, control, other)) if other else 0
    if count < 2 or other is None:
        return []
    what = f"{control.id} and {other.id} differ by {count} things at once"
    return [SheetWarning(code="bundle", what=what, do="Take the bundle apart to learn which of them matters.")]


def planned_runs(
    order: Sequence[str], protocol: ProtocolDoc, control: str | None, repeats: int, shuffle: Order = "random", seed: int = 1
) -> list[PlannedRunDoc]:
    """Runs of layouts in an order: the control first and last, every layout ``repeats`` times, each load of the suite.

    With MIDDLE_FROM runs of others and more the control is run half way too: an evening may drift one way and back.
    ``random`` shuffles the middle with a seed; ``there_and_back`` goes through it and back again, so that drift cancels.
    """
    middle = [x for x in dict.fromkeys(order) if x != control]
    rounds: list[str] = []
    rng = random.Random(seed)
    for nth in range(repeats):
        part = list(middle)
        if shuffle == "random":
            rng.shuffle(part)
        elif shuffle == "there_and_back" and nth % 2:
            part.reverse()
        rounds += part
    names = [*([control] if control else []), *rounds]
    if control and middle:
        names += [control]
    half = len(names) // 2 if control and len(rounds) >= MIDDLE_FROM else None
    if control and half is not None:
        names.insert(half, control)
    found: list[PlannedRunDoc] = []
    seen: dict[str, int] = {}
    for i, name in enumerate(names):
        seen[name] = seen.get(name, 0) + 1
        first, last = i == 0, i == len(names) - 1
        role: Role = "repeat" if seen[name] > 1 else "run"
        if control and name == control and middle:
            role = "control_start" if first else "control_end" if last else "control_middle" if i == half else role
        for load in protocol.loads:
            found.append(PlannedRunDoc(id=f"r{len(found) + 1}", layout=name, protocol=protocol.id, load=load, role=role, nth=seen[name]))
    return found


class Rebuild(BaseModel):
    """What is done by hand from one layout to another, in words, and how long it takes."""

    lines: list[str]
    minutes: float


def rebuild(doc: JobDoc, before: str, after: str) -> Rebuild:
    resolver = Resolver(doc)
    done = changes(doc, resolver.layout(before), resolver.layout(after))
    return Rebuild(lines=[c.words for c in done], minutes=minutes_of(done, doc.practice.minutes))
