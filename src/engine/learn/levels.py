"""Learning levels of sound from runs and from levels read at chosen speeds: how far sources lie off their sheets, how much their paths
hold back, how they rise with speed, and the room. Layouts and speeds in which these weigh differently tell them apart.
"""

from collections.abc import Mapping, Sequence
from dataclasses import dataclass, field, replace
from math import hypot, log10
from types import MappingProxyType
from typing import Literal

import numpy as np
from numpy.typing import NDArray

from engine import constants as k
from engine.coupled.forecast import fan_level_dba, inner_levels
from engine.coupled.operating_point import OperatingPoint
from engine.machine import Machine, PlacedFan, at_speeds

Floats = NDArray[np.float64]
Kind = Literal["source", "path", "law"]
Key = tuple[Kind, str]
Side = Literal["front", "window", "rear", "above"]

SOURCE_DB = 1.6  # T: one sigma of a source's own level; with its path, its law and the layout's it makes the band of a forecast level
PATH_DB = 1.2  # T: of what a panel or a grille holds back, and of how a face is heard
LAW_DB = 7.0  # M: of how steeply a fan's level rises, per tenfold speed
LAW_FROM = 0.7  # no source: share of full speed at which most layouts run, where the law says nothing
LAYOUT_DB = 0.9  # no source: of what is the layout's own, as air that meets a blade
SPEEDS_ALIKE = 0.8  # no source: of that, what the same layout keeps at other speeds
CARRIED_DB = 0.7  # no source: one sigma of how the same fan differs from one piece and one mounting to the next
BACKGROUND_DB = 1.5  # no source: of a room's level as typed
ROUNDS = 6  # numerical: levels are sums of energies, so that the slopes move with what is learned
LEAST_SHARE = 0.05  # numerical: a fan under that is not heard
INSIDE = "inside"
BACKGROUND = "background"


@dataclass(frozen=True)
class AtSpeed:
    """What was set when a level was read: fans of ``mounts`` (all where none is named) at ``speed_pct``, heard in another room or place."""

    mounts: tuple[str, ...]
    speed_pct: float
    background_dba: float
    distance_m: float
    side: Side

    def of(self, machine: Machine) -> Machine:
        room = replace(machine.room, background_dba=self.background_dba, listener_distance_m=self.distance_m, listener_side=self.side)
        return replace(at_speeds(machine, self.mounts, self.speed_pct), room=room)


@dataclass(frozen=True)
class LevelReading:
    """A run's level in dBA, or one of a sweep (``at``). One sigma each: ``own_db`` of this reading, ``common_db`` of its meter."""

    run: str
    layout: str
    level_dba: float
    own_db: float
    common_db: float = 0.0
    at: AtSpeed | None = None


@dataclass(frozen=True)
class LearnedLevel:
    layout: str
    level_dba: float
    band_db: float


@dataclass(frozen=True)
class Offsets:
    """What is added to a voice's level, in dB: by source, by path, and per tenfold speed by law."""

    by_key: Mapping[Key, float] = field(default_factory=dict)

    def fan_db(self, machine: Machine, mount: str, model: str, share: float) -> float:
        law = self.by_key.get(("law", model), 0.0) * log10(max(share, LEAST_SHARE) / LAW_FROM)
        return self.by_key.get(("source", model), 0.0) + self.by_key.get(("path", path_of(machine, mount)), 0.0) + law

    def inner_db(self, name: str) -> float:
        own = self.by_key.get(("source", name), 0.0)
        return own if name == BACKGROUND else own + self.by_key.get(("path", INSIDE), 0.0)


NOTHING_OFF = Offsets()


@dataclass(frozen=True)
class LearnedLevels:
    """Levels of all layouts asked about, their covariance in their order, and what became of each figure: (dB, one sigma).

    A source lies off its sheet, a path lets through more, a law rises by more per tenfold speed.
    ``meter_db``: what the meter reads too much; levels are what it would read.
    """

    levels: list[LearnedLevel]
    covariance: Floats
    found: dict[Key, tuple[float, float]]
    meter_db: float = 0.0

    @property
    def sources(self) -> dict[str, tuple[float, float]]:
        return {name: x for (kind, name), x in self.found.items() if kind == "source"}

    @property
    def offsets(self) -> Offsets:
        return Offsets({key: off for key, (off, _) in self.found.items()})

    def difference(self, a: int, b: int) -> tuple[float, float]:
        """The second less the first in dB, and its 95 % band."""
        variance = self.covariance[a, a] + self.covariance[b, b] - 2 * self.covariance[a, b]
        return self.levels[b].level_dba - self.levels[a].level_dba, k.COVERAGE_FACTOR * float(np.sqrt(max(variance, 0.0)))


@dataclass(frozen=True)
class Voice:
    """Something that sounds: its level in dBA at the listener by its sheet, and by how much each key moves it."""

    name: str
    level_dba: float
    moves: Mapping[Key, float]
    mount: str | None = None


def voices(point: OperatingPoint) -> list[Voice]:
    """All that is heard of a layout, the room with it."""
    m, speeds = point.machine, point.speeds
    found = [Voice("the room", m.room.background_dba, {("source", BACKGROUND): 1.0})]
    for fan, pct in zip(m.fans, speeds.fans, strict=True):
        if fan.running and pct > 0:
            name = f"fan at {fan.mount.upper()}" + (" inner" if fan.layer == "inner" else "")
            found.append(Voice(name, fan_level_dba(m, fan, pct / 100), _moves(m, fan, pct / 100), fan.mount))
    for name, level in inner_levels(m, speeds.cooler, speeds.card, speeds.pump):
        found.append(Voice(name, level, {("source", name): 1.0, ("path", INSIDE): 1.0}))
    return [v for v in found if np.isfinite(v.level_dba)]


def heard_voices(point: OperatingPoint, off: Offsets) -> list[Voice]:
    """The same at the levels that were learned."""
    return [replace(v, level_dba=v.level_dba + sum(off.by_key.get(key, 0.0) * by for key, by in v.moves.items())) for v in voices(point)]


def _moves(m: Machine, fan: PlacedFan, share: float) -> dict[Key, float]:
    model = fan.fan.id
    return {("source", model): 1.0, ("path", path_of(m, fan.mount)): 1.0, ("law", model): log10(max(share, LEAST_SHARE) / LAW_FROM)}


def path_of(m: Machine, mount: str) -> str:
    """The way out of a case, in words: a face with its panel as it stands."""
    face = m.mounts[mount].face
    panel = next((p for f, p in m.panels.items() if f == face), None)
    return face if panel is None else f"{face}, {'panel off' if panel.removed else panel.kind}"


@dataclass
class _Heard:
    """Levels of some points as the keys move them: ``at`` in dB, in the order of ``keys``."""

    keys: list[Key]
    rows: list[tuple[Floats, Floats]] = field(default_factory=list)  # of a point: levels of its voices, their moves (voices, keys)

    def level_dba(self, at: Floats) -> Floats:
        return np.array([10 * np.log10(_energy(own, moves, at).sum()) for own, moves in self.rows])

    def slopes(self, at: Floats) -> Floats:
        """(points, keys): a level moves with each voice by that voice's share of the energy."""
        found = np.zeros((len(self.rows), len(self.keys)))
        for i, (own, moves) in enumerate(self.rows):
            energy = _energy(own, moves, at)
            found[i] = energy @ moves / energy.sum()
        return found


def _energy(own: Floats, moves: Floats, at: Floats) -> Floats:
    return np.asarray(10 ** ((own + moves @ at) / 10))


def learn_levels(
    asked: Sequence[OperatingPoint],
    heard: Sequence[OperatingPoint],
    readings: Sequence[LevelReading],
    known: Mapping[str, tuple[float, float]] = MappingProxyType({}),
) -> LearnedLevels:
    """Levels of what is asked after some layouts were read: ``heard`` holds a point for each of ``readings``, in their order.

    By Gauss and Newton with the priors above. ``known``: how far a source lies off its sheet in dB, with one sigma, as runs elsewhere
    have it.
    """
    points = [*asked, *heard]
    spoken = [voices(p) for p in points]
    keys = list(dict.fromkeys(key for own in spoken for v in own for key in v.moves))
    model = _Heard(keys, [_row(own, keys) for own in spoken])
    prior = np.array([prior_db(key, known) for key in keys]) ** 2
    off = np.array([known[name][0] if kind == "source" and name in known else 0.0 for kind, name in keys])
    common = max((r.common_db for r in readings), default=0.0) ** 2
    beyond = LAYOUT_DB**2 * _alike(points) + common
    n, names = len(asked), [p.machine.layout_id for p in asked]
    if not readings:
        slopes, level = model.slopes(off), model.level_dba(off)
        whole = (slopes * prior) @ slopes.T + beyond
        return LearnedLevels(_levels(names, level, whole), whole, _of_parts(known))
    read, noise = np.array([r.level_dba for r in readings]), np.diag([r.own_db**2 for r in readings])
    at = off
    for _ in range(ROUNDS):
        slopes, level = model.slopes(at), model.level_dba(at)
        across = prior[:, None] * slopes[n:].T
        told = slopes[n:] @ across + beyond[n:, n:] + noise
        residual = read - level[n:] - slopes[n:] @ (off - at)
        told_by = np.linalg.solve(told, residual)
        at = off + across @ told_by
    slopes, level = model.slopes(at), model.level_dba(at)
    whole = (slopes * prior) @ slopes.T + beyond
    gain = np.linalg.solve(whole[n:, n:] + noise, whole[n:, :n]).T
    mean = level[:n] + beyond[:n, n:] @ told_by
    covariance = whole[:n, :n] - gain @ whole[n:, :n]
    left = np.diag(prior) - across @ np.linalg.solve(told, across.T)
    taught = _of_parts(known) | {key: (float(at[i]), float(np.sqrt(max(left[i, i], 0.0)))) for i, key in enumerate(keys)}
    return LearnedLevels(_levels(names, mean, covariance), covariance, taught, float(common * told_by.sum()))


def _of_parts(known: Mapping[str, tuple[float, float]]) -> dict[Key, tuple[float, float]]:
    return {("source", name): (off, prior_db(("source", name), known)) for name, (off, _) in known.items()}


def _row(own: Sequence[Voice], keys: Sequence[Key]) -> tuple[Floats, Floats]:
    return np.array([v.level_dba for v in own]), np.array([[v.moves.get(key, 0.0) for key in keys] for v in own])


def prior_db(key: Key, known: Mapping[str, tuple[float, float]]) -> float:
    """One sigma in dB (of a law: per tenfold speed) before anything was read; ``known`` as in ``learn_levels``."""
    kind, name = key
    if kind == "law":
        return LAW_DB
    usual = PATH_DB if kind == "path" else BACKGROUND_DB if name == BACKGROUND else SOURCE_DB
    return min(hypot(known[name][1], CARRIED_DB), usual) if kind == "source" and name in known else usual


def _alike(points: Sequence[OperatingPoint]) -> Floats:
    """How much of their own error layouts share: the very same all of it, whatever their letters, and most of it at other speeds."""
    machines = [replace(p.machine, layout_id="") for p in points]
    speedless = [repr(_at_rest(m)) for m in machines]
    whole = [repr(m) for m in machines]
    n = len(points)

    def same(of: Sequence[str]) -> Floats:
        return np.array([[x == y for y in of] for x in of], dtype=np.float64).reshape(n, n)

    return np.asarray((1 - SPEEDS_ALIKE) * same(whole) + SPEEDS_ALIKE * same(speedless))


def _at_rest(m: Machine) -> Machine:
    """Without what it does: speeds and powers."""
    fans = tuple(replace(f, speed_pct=0.0, curve=None, running=True) for f in m.fans)
    return replace(m, fans=fans, cpu=replace(m.cpu, power_w=0.0), card=m.card and replace(m.card, power_w=0.0))


def _levels(names: list[str], mean: Floats, covariance: Floats) -> list[LearnedLevel]:
    return [LearnedLevel(n, float(mean[i]), k.COVERAGE_FACTOR * float(np.sqrt(max(covariance[i, i], 0.0)))) for i, n in enumerate(names)]
