"""Learning levels of sound: an offset for each model of fan and each source inside, told by layouts in which they weigh differently."""

from collections.abc import Mapping, Sequence
from dataclasses import dataclass, replace
from math import hypot
from types import MappingProxyType

import numpy as np
from numpy.typing import NDArray

from engine import constants as k
from engine.coupled.forecast import forecast, source_levels
from engine.coupled.operating_point import OperatingPoint

Floats = NDArray[np.float64]

SOURCE_DB = 1.8  # T: one sigma of a source's own level and path; with the layout's it makes the band of a forecast level
LAYOUT_DB = 0.9  # no source: of what is the layout's own, as air that meets a blade
CARRIED_DB = 0.7  # no source: one sigma of how the same fan differs from one piece and one mounting to the next
BACKGROUND_DB = 1.5  # no source: of a room's level as typed


@dataclass(frozen=True)
class LevelReading:
    """A run's level in dBA. One sigma each: ``own_db`` of this run, ``common_db`` of its meter."""

    run: str
    layout: str
    level_dba: float
    own_db: float
    common_db: float = 0.0


@dataclass(frozen=True)
class LearnedLevel:
    layout: str
    level_dba: float
    band_db: float


@dataclass(frozen=True)
class LearnedLevels:
    """Levels of all layouts asked about, their covariance in their order, and how far each source lies off its sheet in dB.

    ``meter_db``: what the meter reads too much; levels are what it would read.
    """

    levels: list[LearnedLevel]
    covariance: Floats
    sources: dict[str, tuple[float, float]]
    meter_db: float = 0.0

    def difference(self, a: int, b: int) -> tuple[float, float]:
        """The second less the first in dB, and its 95 % band."""
        variance = self.covariance[a, a] + self.covariance[b, b] - 2 * self.covariance[a, b]
        return self.levels[b].level_dba - self.levels[a].level_dba, k.COVERAGE_FACTOR * float(np.sqrt(max(variance, 0.0)))


def learn_levels(
    asked: Sequence[OperatingPoint],
    heard: Sequence[OperatingPoint],
    readings: Sequence[LevelReading],
    known: Mapping[str, tuple[float, float]] = MappingProxyType({}),
) -> LearnedLevels:
    """Levels of what is asked after some layouts were read: ``heard`` holds a point for each of ``readings``, in their order.

    A level moves with each source by that source's share of the energy. ``known``: how far a source lies off its sheet in dB, with one
    sigma, as runs elsewhere have it.
    """
    points = [*asked, *heard]
    shares = [_shares(p) for p in points]
    sources = list(dict.fromkeys(x for own in shares for x in own))
    weight = np.array([[own.get(x, 0.0) for x in sources] for own in shares]).reshape(len(points), len(sources))
    usual = {x: BACKGROUND_DB if x == "background" else SOURCE_DB for x in sources}
    prior = np.array([min(hypot(known[x][1], CARRIED_DB), usual[x]) if x in known else usual[x] for x in sources]) ** 2
    off = np.array([known[x][0] if x in known else 0.0 for x in sources])
    sheets = np.array([forecast(p).sound.level_dba for p in points]) + weight @ off
    machines = [repr(replace(p.machine, layout_id="")) for p in points]
    same = np.array([[x == y for y in machines] for x in machines], dtype=np.float64).reshape(len(points), len(points))
    common = max((r.common_db for r in readings), default=0.0) ** 2
    whole = (weight * prior) @ weight.T + LAYOUT_DB**2 * same + common
    n = len(asked)
    names = [p.machine.layout_id for p in asked]
    if not readings:
        of_parts = {x: (float(off[i]), float(np.sqrt(prior[i]))) for i, x in enumerate(sources) if x in known}
        return LearnedLevels(_levels(names, sheets, whole), whole, of_parts)
    told = whole[n:, n:] + np.diag([r.own_db**2 for r in readings])
    residual = np.array([r.level_dba for r in readings]) - sheets[n:]
    gain = np.linalg.solve(told, whole[n:, :n]).T
    mean, covariance = sheets[:n] + gain @ residual, whole[:n, :n] - gain @ whole[n:, :n]
    across = prior[:, None] * weight[n:].T
    offset = across @ np.linalg.solve(told, residual)
    left = np.diag(prior) - across @ np.linalg.solve(told, across.T)
    taught = {x: (float(off[i] + offset[i]), float(np.sqrt(max(left[i, i], 0.0)))) for i, x in enumerate(sources)}
    return LearnedLevels(_levels(names, mean, covariance), covariance, taught, float(common * np.linalg.solve(told, residual).sum()))


def _levels(names: list[str], mean: Floats, covariance: Floats) -> list[LearnedLevel]:
    return [LearnedLevel(n, float(mean[i]), k.COVERAGE_FACTOR * float(np.sqrt(max(covariance[i, i], 0.0)))) for i, n in enumerate(names)]


def _shares(point: OperatingPoint) -> dict[str, float]:
    """Share of the energy at the listener by source: fans by their model, what sounds inside by name, the room."""
    models = {f"fan at {f.mount.upper()}": f.fan.id for f in point.machine.fans}
    energy = {"background": 10 ** (point.machine.room.background_dba / 10)}
    for name, level in source_levels(point):
        source = models.get(name, name)
        energy[source] = energy.get(source, 0.0) + 10 ** (level / 10)
    whole = sum(energy.values())
    return {x: e / whole for x, e in energy.items()}
