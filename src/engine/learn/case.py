"""Learning one case from its runs: Gauss-Newton on the model's parameters, with an error of the model's own for every layout.

The priors are the engine's; a reading brings its own error, that of its build, and one that all runs of its sensor share. What
parameters cannot explain is shared by like layouts and is not by unlike ones, so that a forecast becomes sharp near what was measured
and stays as wide as it was far from it. A layout or a run that the others contradict is not averaged into them.
"""

from collections.abc import Mapping, Sequence
from dataclasses import dataclass, field
from functools import cached_property
from math import hypot, sqrt
from typing import Literal

import numpy as np
from numpy.typing import NDArray

from engine import constants as k
from engine.coupled.bands import absolute_band_k
from engine.coupled.batch import FIGURES
from engine.coupled.forecast import PartForecast
from engine.coupled.operating_point import OperatingPoint, operating_point
from engine.errors import OventaError
from engine.learn.gaussian import Asked, Told, beyond_parameters, left_out, parameters
from engine.learn.gaussian import figures as told_figures
from engine.learn.lessons import Lesson, with_lessons
from engine.learn.likeness import FanRows, Features, features, likeness, likeness_of_rows
from engine.machine import Machine
from engine.parameters import COUNT, DEFAULT, PARAMETERS, SPREADS

Floats = NDArray[np.float64]
Part = Literal["cpu", "card"]
PARTS: tuple[Part, ...] = ("cpu", "card")

LAYOUT_K = 1.5  # T: one sigma of what the model errs by from layout to layout of one case, as the facts of the trade have it
OWN_SHARE = 0.6  # no source: of the model's error of a layout, what not even the most like one shares
CONTRADICTS = 3.3  # sigmas between a reading and what all others expect of it: once in a thousand
ROUNDS, STILL = 6, 0.02  # numerical: steps of Gauss-Newton, and the largest step in sigmas that ends them
MOST_SIGMAS = 3.0  # numerical: no parameter is moved further, where the model was never held against anything
MOST_STEP = 1.5  # numerical: sigmas a parameter moves in one step
LIMIT_K = 1e-3  # numerical: a part is held only when it would be warmer than its limit by more
REACH_K = 1.0  # numerical: least reach of the error that grows with a difference


@dataclass(frozen=True)
class Case:
    """A layout's machine under a load; what its forecast is learned for."""

    layout: str
    load: str
    machine: Machine


@dataclass(frozen=True)
class Reading:
    """A run's rise over the room of one part in K. One sigma each: ``own_k`` of this run and build, ``common_k`` of its sensor."""

    run: str
    layout: str
    load: str
    part: Part
    rise_k: float
    own_k: float
    common_k: float = 0.0


@dataclass(frozen=True)
class LearnedFigure:
    """A rise in K over the room with its 95 % band, at a sustained power in W; ``parameters_k``: by the learned parameters alone.

    ``limited``: as learned it is held at its limit, which is its rise; what was learned beyond the parameters says nothing of it.
    """

    layout: str
    load: str
    part: Part
    rise_k: float
    band_k: float
    power_w: float
    parameters_k: float
    limited: bool = False


@dataclass(frozen=True)
class Contradiction:
    """A reading that all others together do not expect: ``z`` sigmas away. ``alone``: a run that its own repeats disagree with."""

    run: str
    layout: str
    load: str
    part: Part
    measured_k: float
    forecast_k: float
    sigma_k: float
    z: float
    alone: bool


@dataclass(frozen=True)
class Expected:
    """A part's mean rise in one layout, in K, and what the runs of all other layouts had led to expect of it, with 95 % bands.

    What all runs of a sensor share has cancelled: ``measured_band_k`` is of these runs alone.
    """

    layout: str
    load: str
    part: Part
    measured_k: float
    measured_band_k: float
    forecast_k: float
    forecast_band_k: float


@dataclass(frozen=True)
class LearnedParameter:
    name: str
    meaning: str
    prior: float
    prior_sd: float
    value: float
    sd: float


@dataclass(frozen=True)
class _Solved:
    """Cases at one set of parameters: rises of both parts (cases, parts), their changes per sigma (cases, parts, COUNT)."""

    points: list[OperatingPoint]
    rise_k: Floats
    jacobian: Floats
    limited: NDArray[np.bool_]
    present: NDArray[np.bool_]


@dataclass(frozen=True)
class _Rows:
    """Figures, one a row: which case and part, with all that its errors hang on."""

    case: NDArray[np.int64]
    part: NDArray[np.int64]

    @classmethod
    def of(cls, pairs: Sequence[tuple[int, int]]) -> "_Rows":
        table = np.array(pairs, dtype=np.int64).reshape(-1, 2)
        return cls(table[:, 0], table[:, 1])


@dataclass
class _Errors:
    """The model's own errors: their covariance between figures."""

    cases: list[Case]
    features: list[Features]
    sheets_k: Floats  # rises by the sheets' own parameters, (cases, parts)
    centre_k: Floats  # of each part: about which the error that grows with a difference turns
    sensor_k: Floats  # one sigma of each part's sensor
    apart: dict[tuple[str, Part], float] = field(default_factory=dict)  # (layout, part) -> variance of one that contradicts

    def covariance(self, a: _Rows, b: _Rows) -> tuple[Floats, Floats]:
        """Of the model's errors, which may be larger or smaller in this case, and of what is known: sensors and contradictions."""
        same_part = (a.part[:, None] == b.part[None, :]).astype(float)
        like = self._likeness[np.ix_(a.case, b.case)]
        names_a, names_b = ([self.cases[i].layout for i in r.case] for r in (a, b))
        same = self._same[np.ix_(a.case, b.case)]
        rises, turns = (self._rise(a), self._rise(b)), (self._turn(a), self._turn(b))
        model = _model_error(like, same, rises, turns)
        known = np.outer(self.sensor_k[a.part], self.sensor_k[b.part])
        for (name, part), variance in self.apart.items():
            at = PARTS.index(part)
            mine = [np.array([x == name for x in names]) & (r.part == at) for names, r in ((names_a, a), (names_b, b))]
            known = known + variance * np.outer(mine[0], mine[1]) * like
        return same_part * model, same_part * known

    @cached_property
    def _same(self) -> Floats:
        """The very same layout, whatever its letter and under whichever load."""
        machines = [x.machine for x in self.features]
        n = len(machines)
        return np.array([[x == y for y in machines] for x in machines], dtype=np.float64).reshape(n, n)

    @cached_property
    def _likeness(self) -> Floats:
        return likeness(self.features, self.features)

    def _rise(self, rows: _Rows) -> Floats:
        return np.asarray(self.sheets_k[rows.case, rows.part])

    def _turn(self, rows: _Rows) -> Floats:
        return _turned(self._rise(rows), self.centre_k[rows.part])

    def with_rows(self, many: FanRows, rise_k: Floats, told: _Rows, part: int) -> tuple[Floats, Floats]:
        """Covariance of layouts by the thousand with figures that were told, of one part; as if none of them were one of those."""
        like = likeness_of_rows(many, self.features)[:, told.case]
        same_part = (told.part == part).astype(float)
        turns = _turned(rise_k, self.centre_k[part]), self._turn(told)
        model = _model_error(like, np.zeros_like(like), (rise_k, self._rise(told)), turns)
        return same_part * model, np.broadcast_to(same_part * self.sensor_k[part] ** 2, like.shape)


def _model_error(like: Floats, same: Floats, rises_k: tuple[Floats, Floats], turns: tuple[Floats, Floats]) -> Floats:
    layout = LAYOUT_K**2 * (OWN_SHARE * same * like + (1 - OWN_SHARE) * like)
    share = k.BAND_ABSOLUTE_SHARE**2 * np.outer(*rises_k)
    return np.asarray(layout + share + np.outer(*turns) * like)


def _turned(rise_k: Floats, centre_k: Floats) -> Floats:
    """An error that grows with the difference to what was measured, up to what an absolute rise may err by."""
    reach = np.maximum(k.BAND_ABSOLUTE_SHARE * rise_k, REACH_K)
    return np.asarray(reach * np.tanh(k.BAND_DIFFERENCE_SHARE * (rise_k - centre_k) / reach))


@dataclass(frozen=True)
class Learned:
    """What the runs taught. ``at``: parameters in sigmas of their priors, with their covariance."""

    readings: list[Reading]
    cases: list[Case]
    at: Floats
    spread: Floats
    told: Told
    rows: _Rows
    errors: _Errors
    contradictions: list[Contradiction]
    left_aside: list[tuple[Reading, str]]
    lessons: tuple[Lesson, ...] = ()

    @property
    def vector(self) -> Floats:
        return _vector(self.at)

    @property
    def model_size(self) -> float:
        """The model's own error in this case over its stated one."""
        return self.told.size

    @cached_property
    def parameters(self) -> list[LearnedParameter]:
        """Every parameter with prior and what became of it, those that learned most first."""
        sds = np.sqrt(np.diag(self.spread))
        order = np.argsort(sds - 0.05 * np.abs(self.at))
        found = []
        for i in order:
            p = PARAMETERS[i]
            sigma = float(np.log(p.spread))
            value = p.value * float(np.exp(sigma * self.at[i]))
            found.append(LearnedParameter(p.name, p.meaning, p.value, p.value * sigma, value, value * sigma * float(sds[i])))
        return found

    def expected(self) -> list[Expected]:
        """Every layout's measured rises against what the others alone lead to expect; none where no other was run."""
        found = []
        for layout in dict.fromkeys(r.layout for r in self.readings):
            own = [i for i, r in enumerate(self.readings) if r.layout == layout]
            if len(own) == len(self.readings):
                return []
            gaps, covariance = left_out(self.told, own, self.told.without(own).size)
            for load, part in dict.fromkeys((self.readings[i].load, self.readings[i].part) for i in own):
                at = [n for n, i in enumerate(own) if (self.readings[i].load, self.readings[i].part) == (load, part)]
                rows = [self.readings[own[n]] for n in at]
                mean, gap = _mean([r.rise_k for r in rows]), float(gaps[at].mean())
                noise = sum(r.own_k**2 for r in rows) / len(rows) ** 2
                apart = self.errors.apart.get((layout, part), 0.0)
                left = max(float(covariance[np.ix_(at, at)].mean()) - noise - apart, 0.0)
                bands = k.COVERAGE_FACTOR * sqrt(noise), k.COVERAGE_FACTOR * sqrt(left)
                found.append(Expected(layout, load, part, mean, bands[0], mean - gap, bands[1]))
        return found

    def beyond_k(self, many: FanRows, rise_k: Floats) -> Floats:
        """What the runs say of layouts by the thousand beyond the parameters, in K to be added to ``rise_k``, (rows, parts).

        For looking through them: likeness by the flows given, and to a layout that was run as if it were only near it. ``of`` is exact.
        """
        parts = [self.errors.with_rows(many, rise_k[:, j], self.rows, j) for j in range(len(PARTS))]
        return np.column_stack([beyond_parameters(self.told, *map(self._and_lessons, p)) for p in parts])

    def _and_lessons(self, across: Floats) -> Floats:
        """Covariances with the readings, and with the lessons after them, of which there is none."""
        return np.pad(across, ((0, 0), (0, len(self.told.residual) - across.shape[1])))

    def of(self, cases: Sequence[Case]) -> tuple[list[LearnedFigure], Floats]:
        """Figures of any cases, processor and card where there is one, and their covariance (one row per figure).

        Figures are told as if nothing were held at its limit, and then are: such a part has no covariance, and any forecast's band.
        """
        solved = _solve(cases, self.vector)
        sheets = _sheets(cases)
        pairs = [(i, j) for i in range(len(cases)) for j in range(len(PARTS)) if solved.present[i, j]]
        rows = _Rows.of(pairs)
        errors = _Errors(
            [*self.cases, *cases],
            [*self.errors.features, *(features(p, c.load) for p, c in zip(sheets.points, cases, strict=True))],
            np.vstack([self.errors.sheets_k, sheets.rise_k]),
            self.errors.centre_k,
            self.errors.sensor_k,
            self.errors.apart,
        )
        own = _Rows(rows.case + len(self.cases), rows.part)
        model, known = errors.covariance(own, own)
        cross_model, cross_known = errors.covariance(own, self.rows)
        powers = [((c.machine.cpu, p.powers.cpu_w), (c.machine.card, p.powers.card_w)) for c, p in zip(cases, solved.points, strict=True)]
        asked_w = np.array([own.power_w if own else 0.0 for i, j in pairs for own in (powers[i][j][0],)])
        held_w = np.array([powers[i][j][1] for i, j in pairs])
        parameters_k = unheld_k(solved.rise_k[rows.case, rows.part], asked_w, held_w)
        across = self._and_lessons(cross_model), self._and_lessons(cross_known)
        asked = Asked(parameters_k, solved.jacobian[rows.case, rows.part], model, known, *across)
        mean, covariance = told_figures(self.told, asked, self.at)
        limits_k = np.array([limits_of(c.machine) for c in cases]).reshape(-1, 2)[rows.case, rows.part]
        rises, given_up_w = held_k(mean, limits_k, asked_w)
        limited = given_up_w > 0
        covariance[limited, :] = covariance[:, limited] = 0.0
        figures = []
        for row, (i, j) in enumerate(pairs):
            rise = float(rises[row])
            band = k.COVERAGE_FACTOR * sqrt(max(float(covariance[row, row]), 0.0))
            if limited[row]:  # nothing that was taught holds here: any forecast's own band
                band = absolute_band_k(solved.points[i], PARTS[j], rise)
            elif not self.readings:  # the same, with what is known of the parts
                open_k = sqrt(max(float(asked.jacobian[row] @ self.spread @ asked.jacobian[row]), 0.0))
                band = k.COVERAGE_FACTOR * hypot(open_k, k.BAND_MODEL_K, k.BAND_ABSOLUTE_SHARE * rise)
            watts, plain = float(asked_w[row] - given_up_w[row]), min(float(parameters_k[row]), float(limits_k[row]))
            figures.append(LearnedFigure(cases[i].layout, cases[i].load, PARTS[j], rise, band, watts, plain, bool(limited[row])))
        return figures, covariance


def limits_of(machine: Machine) -> tuple[float, float]:
    """Rises in K over the room at which processor and card give up power."""
    room_c = machine.room.temperature_c
    return machine.cpu.tj_max_c - room_c, machine.card.t_limit_c - room_c if machine.card else np.inf


def unheld_k(rise_k: Floats, power_w: Floats, held_w: Floats) -> Floats:
    """What parts would rise to at the powers asked of them, if nothing held them: in proportion, from those at which they are held."""
    return np.asarray(rise_k * np.divide(power_w, held_w, out=np.ones_like(rise_k), where=held_w > 0))


def held_k(rise_k: Floats, limit_k: Floats, power_w: Floats) -> tuple[Floats, Floats]:
    """Rises of parts that stay at their limits, and the power that they give up for it in W, likewise in proportion."""
    over = rise_k > limit_k + LIMIT_K
    share = np.divide(limit_k, rise_k, out=np.ones_like(rise_k), where=over)
    return np.where(over, limit_k, rise_k), np.where(over, power_w * (1 - share), 0.0)


def learn(cases: Sequence[Case], readings: Sequence[Reading], lessons: Sequence[Lesson] = ()) -> Learned:
    """Fits the parameters to the readings of some cases, and to what is known of their parts from elsewhere.

    Raises OventaError for a reading of a case that is not among them.
    """
    at_case = {(c.layout, c.load): i for i, c in enumerate(cases)}
    for r in readings:
        if (r.layout, r.load) not in at_case:
            raise OventaError("this run's layout is not among those given", r.run, "Give every layout that was run.")
    sheets = _sheets(cases)
    kept, aside = [], []
    for r in readings:
        i, j = at_case[r.layout, r.load], PARTS.index(r.part)
        if not sheets.present[i, j]:
            aside.append((r, "the layout has no such part"))
        elif sheets.limited[i, j]:
            aside.append((r, "by the forecast the part is held at its limit, where its temperature says nothing"))
        else:
            kept.append(r)
    rows = _Rows.of([(at_case[r.layout, r.load], PARTS.index(r.part)) for r in kept])
    y = np.array([r.rise_k for r in kept])
    own = np.array([r.own_k for r in kept])
    errors = _Errors(
        list(cases),
        [features(p, c.load) for p, c in zip(sheets.points, cases, strict=True)],
        sheets.rise_k,
        np.array([_mean([sheets.rise_k[i, j] for i, p in zip(rows.case, rows.part, strict=True) if p == j]) for j in range(len(PARTS))]),
        np.array([sqrt(_mean([r.common_k**2 for r in kept if r.part == p])) for p in PARTS]),
    )
    at, solved = np.zeros(COUNT), sheets
    odd: dict[int, float] = {}
    told = with_lessons(_told(y, own, rows, errors, solved, at, odd), lessons)
    for _ in range(ROUNDS):
        told = _apart(told, kept, y, own, rows, errors, solved, at, odd, lessons)
        wanted, _spread = parameters(told, COUNT)
        step = np.clip(np.clip(wanted, -MOST_SIGMAS, MOST_SIGMAS) - at, -MOST_STEP, MOST_STEP)
        at = at + step
        if not len(told.residual) or float(np.max(np.abs(step))) < STILL:
            break
        solved = _solve(cases, _vector(at))
        told = with_lessons(_told(y, own, rows, errors, solved, at, odd), lessons)
    _, spread = parameters(told, COUNT)
    found = [*_contradictions(told, kept, y, odd, errors)]
    return Learned(kept, list(cases), at, spread, told, rows, errors, found, aside, tuple(lessons))


def _vector(at: Floats) -> Floats:
    return np.asarray(DEFAULT * SPREADS**at)


def _mean(values: Sequence[float]) -> float:
    return sum(values) / len(values) if values else 0.0


def _sheets(cases: Sequence[Case]) -> _Solved:
    return _solve(cases, DEFAULT)


def _solve(cases: Sequence[Case], vector: Floats) -> _Solved:
    points = [operating_point(c.machine, vector) for c in cases]
    rise = np.array([[p.cpu_rise_k, 0.0 if p.card_rise_k is None else p.card_rise_k] for p in points]).reshape(-1, 2)
    at = [FIGURES.index(x) for x in PARTS]
    jacobian = np.array([p.sensitivity_k[at] for p in points]).reshape(-1, 2, COUNT)
    limited = np.array([[p.powers.cpu_limited, p.powers.card_limited] for p in points], dtype=bool).reshape(-1, 2)
    present = np.array([[True, p.card_rise_k is not None] for p in points], dtype=bool).reshape(-1, 2)
    return _Solved(points, rise, jacobian, limited, present)


def _told(y: Floats, own: Floats, rows: _Rows, errors: _Errors, solved: _Solved, at: Floats, odd: Mapping[int, float]) -> Told:
    jacobian = solved.jacobian[rows.case, rows.part]
    model, known = errors.covariance(rows, rows)
    noise = np.diag(own**2 + np.array([odd.get(i, 0.0) for i in range(len(y))])) + known
    return Told(y - solved.rise_k[rows.case, rows.part] + jacobian @ at, jacobian, model, noise)


def _apart(
    told: Told,
    kept: list[Reading],
    y: Floats,
    own: Floats,
    rows: _Rows,
    errors: _Errors,
    solved: _Solved,
    at: Floats,
    odd: dict[int, float],
    lessons: Sequence[Lesson],
) -> Told:
    """Sets what contradicts apart, the worst first: a run against its repeats by an error of its own, a layout likewise."""
    for _ in range(len(kept)):
        suspects = [x for x in _judged(told, kept, odd, errors) if abs(x[1]) / x[2] >= CONTRADICTS]
        sure = [(rows, *_gap(told, rows, told.without(rows).size)) for rows, _, _ in suspects]
        worst = max(sure, key=lambda x: abs(x[1]) / x[2], default=None)
        if worst is None or abs(worst[1]) / worst[2] < CONTRADICTS:
            return told
        group, gap, _sigma = worst
        first = kept[group[0]]
        repeats = [i for i, r in enumerate(kept) if (r.layout, r.load, r.part) == (first.layout, first.load, first.part)]
        if len(group) == 1 and len(repeats) > 2:
            odd[group[0]] = gap**2
        else:
            errors.apart[first.layout, first.part] = gap**2
        told = with_lessons(_told(y, own, rows, errors, solved, at, odd), lessons)
    return told


def _judged(told: Told, kept: list[Reading], odd: Mapping[int, float], errors: _Errors) -> list[tuple[list[int], float, float]]:
    """(rows, gap to what all others expect in K, its sigma) of every layout's part, and of every run that has two repeats or more.

    By the least size of the model's error that is likely: what contradicts makes it look larger, and would hide in that.
    """
    size = min(told.size, 1.0)
    if len({r.layout for r in kept}) < 2:
        return []
    found = []
    groups: dict[tuple[str, Part], list[int]] = {}
    for i, r in enumerate(kept):
        groups.setdefault((r.layout, r.part), []).append(i)
    for (layout, part), group in groups.items():
        if (layout, part) not in errors.apart:
            rest = [i for i in group if i not in odd]
            if rest:
                found.append((rest, *_gap(told, rest, size)))
        for i in group:
            alike = [x for x in group if kept[x].load == kept[i].load]
            if i not in odd and len(alike) > 2:
                found.append(([i], *_gap(told, [i], size)))
    return found


def _gap(told: Told, rows: list[int], size: float) -> tuple[float, float]:
    gaps, covariance = left_out(told, rows, size)
    share = np.full(len(rows), 1 / len(rows))
    return float(share @ gaps), sqrt(float(share @ covariance @ share))


def _contradictions(told: Told, kept: list[Reading], y: Floats, odd: Mapping[int, float], errors: _Errors) -> list[Contradiction]:
    """Every reading that was set apart, against what all the others expect of it as if nothing were known of its contradicting."""
    found = []
    for i, r in enumerate(kept):
        alone = i in odd
        extra = odd[i] if alone else errors.apart.get((r.layout, r.part), 0.0)
        if not extra:
            continue
        group = [i] if alone else [x for x, q in enumerate(kept) if (q.layout, q.part) == (r.layout, r.part)]
        gaps, covariance = left_out(told, group, told.without(group).size)
        gap = float(gaps[group.index(i)])
        sigma = sqrt(max(float(covariance[group.index(i), group.index(i)]) - extra, 1e-6))
        found.append(Contradiction(r.run, r.layout, r.load, r.part, float(y[i]), float(y[i]) - gap, sigma, gap / sigma, alone))
    return sorted(found, key=lambda c: -abs(c.z))


def as_part(figure: LearnedFigure, room_c: float) -> PartForecast:
    """A learned figure in the forecast's own form: also whether a part is at its limit is as learned, not as its sheet has it."""
    return PartForecast(room_c + figure.rise_k, figure.rise_k, figure.band_k, figure.power_w, figure.limited)
