"""What each change did, read from the layouts that were run: way, ladders, designs, named pairs, prices, equal noise."""

from collections.abc import Iterable, Sequence
from dataclasses import asdict
from math import inf
from typing import TypeVar

from pydantic import BaseModel

from desk.verdict.chains import Design, NamedPair, designs, families, ladders, named_pairs
from desk.verdict.study import Study
from engine.plan.acceptance import rating
from engine.plan.rebuild import minutes_of
from engine.runs.budget import coverage_factor
from engine.verdict.compare import Word
from engine.verdict.effects import ChangeStep, FactorEffect, Ladder, Price, between, factorial, ladder, price, steps, way
from engine.verdict.equal_noise import AtLevel, SpeedPoint, at_level, common_levels, told_apart

T = TypeVar("T")
LEADING = ("cpu_package_c", "card_core_c")
SOUND = "sound_dba"


class Way(BaseModel):
    """From the reference to a layout, one measured step after another."""

    channel: str
    start_value: float
    end_value: float
    steps: list[ChangeStep]


class Rung(BaseModel):
    layout: str
    value: float
    band: float


class LadderOut(BaseModel):
    """A ladder with its absolute figures, and the sound that each added rung brought (dB), where it was read."""

    ladder: Ladder
    rungs: list[Rung]
    noise: list[float | None]


class DesignOut(BaseModel):
    channel: str
    names: list[str]
    layouts: list[str]
    values: list[float]
    parts: list[list[str]] = []  # what each of the names consists of, where it does not say so; older records lack it
    effects: list[FactorEffect]


class NamedOut(BaseModel):
    """One named thing: what it brings (negative is cooler), with the rating of a panel."""

    kind: str
    words: str
    without: str
    with_it: str
    channel: str
    difference_k: float
    expanded_k: float
    word: Word
    noise_db: float | None
    share_pct: float | None
    rating: str
    price: Price | None


class Speeds(BaseModel):
    """One run point of a family: layouts that differ in speeds alone."""

    family: str
    layout: str
    level_dba: float
    level_standard_db: float
    rise_k: float
    rise_standard_k: float
    rise_band_k: float


class EqualNoise(BaseModel):
    """``levels``: the range that every family was run over. Only families within their own curve are told apart."""

    channel: str
    level_dba: float
    levels: tuple[float, float] | None
    one_speed: bool = False  # no layout was run at several speeds
    points: list[Speeds]
    rows: list[AtLevel]
    pairs: list[ChangeStep]


class Effects(BaseModel):
    ways: list[Way]
    ladders: list[LadderOut]
    designs: list[DesignOut]
    named: list[NamedOut]
    prices: list[Price]
    equal_noise: list[EqualNoise]


def effects(s: Study) -> Effects:
    """Everything that the layouts run under this load allow to be said; ways belong to the layout that is argued for.

    A temperature that stood at its limit says nothing of a change: where one did, only the way is told, by the part's power.
    """
    return Effects(
        ways=[],
        ladders=_there(_ladder(s, row, c) for row in ladders(s.names, s.differ) for c in LEADING),
        designs=_there(_design(s, d, c) for d in designs(s.names, s.differ) for c in LEADING),
        named=_there(_named(s, pair, c) for pair in named_pairs(s.doc, s.names, s.differ) for c in LEADING),
        prices=_there(_price(s, s.reference, name, c) for name in s.names if name != s.reference for c in LEADING),
        equal_noise=_there(_equal_noise(s, c) for c in LEADING),
    )


def _there(found: Iterable[T | None]) -> list[T]:
    return [x for x in found if x is not None]


def ways(s: Study, chosen: str) -> list[Way]:
    """From the reference to a layout, for each leading figure that was read all along; of a part at its limit its power."""
    if chosen == s.reference or chosen not in s.names or s.reference not in s.names:
        return []
    counts = {pair: len(done) for pair, done in s.differ.items() if set(pair) <= set(s.names)}
    path = way(counts, s.reference, chosen)
    words = {pair: tuple(c.words for c in done) for pair, done in s.differ.items()}
    found = []
    for channel in (*(s.told_by(c, path) for c in LEADING), SOUND):
        ends = [s.figure(x, channel) for x in (path[0], path[-1])]
        done = steps(path, words, s.pairs, channel)
        if ends[0] and ends[1] and len(done) == len(path) - 1:
            found.append(Way(channel=channel, start_value=ends[0][0], end_value=ends[1][0], steps=done))
    return found


def _held(s: Study, layouts: Iterable[str], channel: str) -> bool:
    return s.told_by(channel, layouts) != channel


def _ladder(s: Study, row: Sequence[str], channel: str) -> LadderOut | None:
    words = {pair: tuple(c.words for c in done) for pair, done in s.differ.items()}
    done = steps(row, words, s.pairs, channel)
    figures = [s.figure(x, channel) for x in row]
    if _held(s, row, channel) or len(done) != len(row) - 1 or not all(figures):
        return None
    noise = [between(s.pairs, x.start, x.end, SOUND) for x in done]
    return LadderOut(
        ladder=ladder(done, channel, s.margin_k),
        rungs=[Rung(layout=x, value=f[0], band=coverage_factor(inf) * f[1]) for x, f in zip(row, figures, strict=True) if f],
        noise=[n[0] if n else None for n in noise],
    )


def _design(s: Study, d: Design, channel: str) -> DesignOut | None:
    found = [s.budget(x, channel) for x in d.layouts]
    results = [(b.value, b.among_alike, b.factor) for b in found if b]
    if len(results) != len(found) or _held(s, d.layouts, channel):
        return None
    return DesignOut(
        channel=channel,
        names=list(d.names),
        layouts=list(d.layouts),
        values=[v for v, _, _ in results],
        parts=[list(words) for words in d.parts],
        effects=factorial(results, d.names),
    )


def _price(s: Study, start: str, end: str, channel: str) -> Price | None:
    measured = between(s.pairs, start, end, channel)
    if measured is None or _held(s, (start, end), channel):
        return None
    difference, expanded, word = measured
    noise = between(s.pairs, start, end, SOUND)
    cost = s.facts[end].cost - s.facts[start].cost
    minutes = minutes_of(s.differ[start, end], s.doc.practice.minutes)
    return price(start, end, channel, (-difference, expanded, word), cost, noise[0] if noise else None, minutes, s.margin_k)


def _named(s: Study, pair: NamedPair, channel: str) -> NamedOut | None:
    measured, noise = between(s.pairs, pair.without, pair.with_it, channel), between(s.pairs, pair.without, pair.with_it, SOUND)
    if measured is None or _held(s, (pair.without, pair.with_it), channel):
        return None
    figures = [s.figure(x, channel) for x in (pair.with_it, pair.without)]
    told = measured[2] != "cannot_tell" and pair.kind != "push_pull"
    rated = rating(figures[0][0], figures[1][0]) if figures[0] and figures[1] and told else None
    return NamedOut(
        kind=pair.kind,
        words=pair.words,
        without=pair.without,
        with_it=pair.with_it,
        channel=channel,
        difference_k=measured[0],
        expanded_k=measured[1],
        word=measured[2],
        noise_db=noise[0] if noise else None,
        share_pct=100 * rated[0] if rated else None,
        rating=rated[1] if rated else "",
        price=_price(s, pair.without, pair.with_it, channel) if pair.kind == "push_pull" else None,
    )


def _equal_noise(s: Study, channel: str) -> EqualNoise | None:
    """At the level that is asked for, else at the highest that every family was run at, else at the room's limit."""
    rows = {}
    for row in families(s.names, s.differ):
        points = [p for x in row if (p := _speed_point(s, x, channel))]
        if points:
            rows[row[0]] = points
    if len(rows) < 2:
        return None
    curves = [points for points in rows.values() if len(points) > 1]
    levels = common_levels(curves or list(rows.values()))  # layouts of one speed each meet where all were run at one level
    middle = sum(levels) / 2 if levels else s.doc.room.sound_limit_dba
    level = s.settings.level_dba or middle or max(p.level_dba for points in rows.values() for p in points)
    found = [at_level(name, points, level) for name, points in rows.items()]
    return EqualNoise(
        channel=channel,
        level_dba=level,
        levels=levels,
        one_speed=not curves,
        points=[_speeds(name, p) for name, points in rows.items() for p in points],
        rows=found,
        pairs=[ChangeStep(a.family, b.family, (), d, u, word) for a, b, d, u, word in told_apart(found, s.margin_k)],
    )


def _speeds(family: str, p: SpeedPoint) -> Speeds:
    return Speeds(family=family, **asdict(p), rise_band_k=coverage_factor(inf) * p.rise_standard_k)


def _speed_point(s: Study, layout: str, channel: str) -> SpeedPoint | None:
    level, rise = s.figure(layout, SOUND), s.figure(layout, channel)
    return SpeedPoint(layout, *level, *rise) if level and rise and not _held(s, (layout,), channel) else None
