"""What more radiator, more fans or other fans are worth in speed: at equal heat, and in kelvins at an equal level."""

from collections.abc import Iterator, Sequence
from dataclasses import dataclass
from typing import Literal

from desk.forecast.document import Oracle
from desk.forecast.worth import ladder
from desk.job.edits import with_layout, written
from desk.search.places import rows_of
from documents.job.models import JobDoc, LayoutDoc, RadiatorDoc
from engine.coupled.forecast import forecast
from engine.coupled.trade import Sweep, sweep
from engine.errors import OventaError

Against = Literal["radiator", "fans", "size"]
MOST_SECTIONS = 4  # common practice, no source: longer ones are hardly built


@dataclass(frozen=True)
class TradeStep:
    """One choice. ``rpm``, ``level_dba``: at the speed that holds the part where it is now; None where even full speed does not.

    ``rise_k``: of the part, in K over the room, at the level as it is now; None where it cannot be as quiet.
    """

    words: str
    amount: float
    now: bool
    speed_pct: float | None
    rpm: float | None
    level_dba: float | None
    rise_k: float | None


@dataclass(frozen=True)
class TradeAnswer:
    """``held_k``: the part's rise now; ``held_dba``: the level now. Lists with fewer than two choices are left out."""

    part: str
    held_k: float
    held_dba: float
    against: dict[Against, list[TradeStep]]
    learned: int | None = None  # how many runs the figures rest on beside the parts' sheets


def trade(oracle: Oracle, layout_id: str, part: Literal["cpu", "card"] = "cpu") -> TradeAnswer:
    layout, doc = oracle.resolver.layout(layout_id), oracle.doc
    now = oracle.forecast(layout_id)
    told = now.cpu if part == "cpu" else now.card
    if told is None:
        raise OventaError("this layout has no card", layout_id, "Ask for the processor.")
    makers: dict[Against, Iterator[Choice]] = {
        "radiator": _radiators(doc, layout),
        "fans": _fans(oracle, layout),
        "size": _sizes(doc, layout),
    }
    held, held_dba = told.rise_k, now.sound.level_dba
    found: dict[Against, list[TradeStep]] = {}
    for against, choices in makers.items():
        steps = [s for c in choices if (s := _step(oracle.beside(c.doc), layout_id, c, part, held, held_dba))]
        if len(steps) > 1:
            found[against] = steps
    return TradeAnswer(part, held, held_dba, found, oracle.taught_by or None)


@dataclass(frozen=True)
class Choice:
    """``doc``: the job with the layout as it would be then."""

    words: str
    amount: float
    now: bool
    doc: JobDoc


def _step(oracle: Oracle, layout_id: str, choice: Choice, part: str, held_k: float, held_dba: float) -> TradeStep | None:
    try:
        machine = oracle.machine(layout_id)
        found = _told(oracle, layout_id)
    except OventaError:
        return None  # what cannot be forecast is no choice
    share = found.share_for(part, held_k + 1e-9)
    fastest = max((f.fan.speed_max_rpm for f in machine.fans if f.running), default=0.0)
    return TradeStep(
        choice.words,
        choice.amount,
        choice.now,
        None if share is None else 100 * share,
        None if share is None else fastest * share,
        None if share is None else found.level_at(share),
        found.at_level(part, held_dba + 1e-9),
    )


def _told(oracle: Oracle, layout_id: str) -> Sweep:
    plain = sweep(oracle.machine(layout_id), oracle.parameters)
    if not oracle.taught_by:
        return plain
    louder = oracle.forecast(layout_id).sound.level_dba - forecast(oracle.point(layout_id)).sound.level_dba
    return plain.as_told(oracle.beyond(layout_id), louder)


def _radiators(doc: JobDoc, layout: LayoutDoc) -> Iterator[Choice]:
    """The radiator's own kind with one section to four, where the face has a row of mounts for it; its fans on every section."""
    own = layout.radiator
    part = next((r for r in doc.parts.radiators if own and r.id == own.radiator), None)
    fans = [f for f in layout.fans if own and f.mount in own.mounts]
    if own is None or part is None or not fans:
        return
    face = next(m.face for m in doc.case.mounts if m.id == own.mounts[0])
    for sections in range(1, MOST_SECTIONS + 1):
        longer = part.model_copy(update={"sections": sections, "length_mm": None})
        row = _nearest_row(doc, longer, face, own.mounts)
        if row is None:
            continue
        placed = [f.model_copy(update={"mount": m}) for f in fans[:1] for m in row]
        rest = [f for f in layout.fans if f.mount not in {*own.mounts, *row}]
        parts = doc.parts.model_copy(update={"radiators": [longer if r.id == part.id else r for r in doc.parts.radiators]})
        other = _with(doc, layout, fans=[*rest, *placed], radiator=own.model_copy(update={"mounts": row, "gap_mm": 0}))
        words = f"{sections} × {part.section_mm:g} mm"
        yield Choice(words, float(sections), sections == part.sections, other.model_copy(update={"parts": parts}))


def _nearest_row(doc: JobDoc, part: RadiatorDoc, face: str, own: Sequence[str]) -> list[str] | None:
    """Of the rows on a face the one that shares most mounts with the present one."""
    faces = {m.id: m.face for m in doc.case.mounts}
    rows = [r for r in rows_of(doc, part) if faces[r[0]] == face]
    return max(rows, key=lambda r: len(set(r) & set(own)), default=None)


def _fans(oracle: Oracle, layout: LayoutDoc) -> Iterator[Choice]:
    """The layout's fans from the most useful on: one, two, and so on."""
    rungs, _ = ladder(oracle.machine(layout.id))
    for n in range(1, len(rungs) + 1):
        kept = {(r.mount, r.layer) for r in rungs[:n]}
        fans = [f for f in layout.fans if (f.mount, f.layer) in kept]
        yield Choice(f"{n} fan{'s' if n > 1 else ''}", float(n), n == len(rungs), _with(oracle.doc, layout, fans=fans))


def _sizes(doc: JobDoc, layout: LayoutDoc) -> Iterator[Choice]:
    """The same mounts with each kind of fan on the table, wherever it fits; mounts that it does not fit stay empty."""
    sizes = {m.id: m.sizes_mm for m in doc.case.mounts}
    for fan in doc.parts.fans:
        fans = [f.model_copy(update={"fan": fan.id}) for f in layout.fans if fan.size_mm in sizes[f.mount]]
        if fans:
            same = [f.fan for f in layout.fans] == [f.fan for f in fans]
            words = f"{len(fans)} × {fan.name or fan.id}, {fan.size_mm:g} mm"
            yield Choice(words, fan.size_mm, same, _with(doc, layout, fans=fans))


def _with(doc: JobDoc, layout: LayoutDoc, **changes: object) -> JobDoc:
    return with_layout(doc, written(layout.model_copy(update={**changes, "groups": [], "wiring": []})))
