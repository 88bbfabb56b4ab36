"""Which layout to build: limits first, then those not beaten by any other, then what matters to the person; ties keep the simplest."""

from collections.abc import Mapping, Sequence
from dataclasses import dataclass, field
from math import inf
from types import MappingProxyType

import numpy as np
from numpy.typing import NDArray

from engine.runs.budget import coverage_factor
from engine.verdict.worth import felt_k

# What counts as one step of each thing: common practice, no source. A weight times these steps is a layout's burden. Of a result 1.5 %
# is the same to its user as 1.5 K are (RESULT_MARGIN_SHARE).
STEP: Mapping[str, float] = MappingProxyType(
    {"cpu": 5.0, "card": 5.0, "result": 5.0, "noise": 3.0, "balance": 5.0, "cost": 25.0, "looks": 1.0, "dust": 20.0, "labour": 30.0}
)
WORDS: Mapping[str, str] = MappingProxyType(
    {
        "cpu": "processor, K over room",
        "card": "card, K over room",
        "result": "score, frames or time, % short of the best",
        "noise": "sound, dBA",
        "balance": "the gap between both, K",
        "cost": "cost",
        "looks": "looks, steps short of the best",
        "dust": "unfiltered air, %",
        "labour": "work, minutes",
    }
)
RESULT = "result"  # is weighed by what the parts are worth, and has no weight of its own
MEASURED = ("cpu", "card", "result", "noise", "balance")
PROFILES: Mapping[str, Mapping[str, float]] = MappingProxyType(
    {
        "processor": MappingProxyType({"cpu": 5, "card": 1, "noise": 1, "balance": 0, "cost": 0, "looks": 0, "dust": 0, "labour": 0}),
        "card": MappingProxyType({"cpu": 1, "card": 5, "noise": 1, "balance": 0, "cost": 0, "looks": 0, "dust": 0, "labour": 0}),
        "balanced": MappingProxyType({"cpu": 2, "card": 2, "noise": 2, "balance": 4, "cost": 0, "looks": 0, "dust": 1, "labour": 0}),
        "quiet": MappingProxyType({"cpu": 1, "card": 1, "noise": 5, "balance": 0, "cost": 0, "looks": 0, "dust": 0, "labour": 0}),
        "thrifty": MappingProxyType({"cpu": 1, "card": 1, "noise": 1, "balance": 0, "cost": 5, "looks": 0, "dust": 1, "labour": 3}),
        "clean": MappingProxyType({"cpu": 1, "card": 1, "noise": 1, "balance": 0, "cost": 0, "looks": 0, "dust": 5, "labour": 1}),
    }
)
DRAWS = 4000  # numerical: chances to a per cent
SURE, LIKELY = 0.95, 0.8  # chances of being the best that are called so
MOST_OF_ONE_RUN = 0.94  # of a layout that was run once: how far its next run would lie from it nobody knows
WEIGHT_SPREAD = 0.5  # of the logarithm of each weight: most draws lie within a factor of two


@dataclass(frozen=True)
class Requirement:
    """One requirement against a layout's measured figure; ``margin`` negative where it fails. ``standard``: of the margin."""

    what: str
    margin: float
    standard: float
    kind: str  # of quantity, for units: "difference" or "level"

    @property
    def passed(self) -> bool:
        return self.margin >= 0

    @property
    def sure(self) -> bool:
        """Whether the margin is larger than its expanded uncertainty."""
        return abs(self.margin) > coverage_factor(inf) * self.standard


@dataclass(frozen=True)
class Option:
    """A layout as it is chosen by. ``values``: (value, standard uncertainty) of each thing, less is better; 0 where it is known.

    ``limit_rise_k``: the rises at which processor and card reach their limits in the worst room. ``parts``: fans and coolers.
    """

    layout: str
    values: Mapping[str, tuple[float, float]]
    parts: int = 0
    limits: tuple[Requirement, ...] = ()
    limit_rise_k: Mapping[str, float] = field(default_factory=dict)
    runs: int | None = None  # that carry its measured values; None where nothing was measured

    @property
    def passed(self) -> bool:
        return all(x.passed for x in self.limits)


def worst_of(limits: Sequence[Requirement]) -> Requirement | None:
    """The limit with the least margin, a kelvin and a decibel weighed by their steps."""
    return min(limits, key=lambda x: x.margin / STEP["noise" if x.kind == "level" else "cpu"], default=None)


@dataclass(frozen=True)
class Share:
    """One thing's part in a burden: its value, and what it adds over the best layout."""

    thing: str
    words: str
    value: float
    adds: float


@dataclass(frozen=True)
class Placed:
    """A layout among the others. ``burden``: 0 for one that is best in all that matters. ``chance``: of being the best under the
    measurement's uncertainty; ``over_weights``: share of weight draws in which it is the best."""

    layout: str
    burden: float
    shares: tuple[Share, ...]
    beaten_by: str | None
    passed: bool
    chance: float
    over_weights: float


@dataclass(frozen=True)
class Choice:
    """``best`` is None where no layout passes. ``tied``: layouts of which nothing shows that they are worse.

    ``shown``: something measured is shown between the best and every other layout that passes.
    """

    best: str | None
    least_burden: str | None
    tied: tuple[str, ...]
    tie_reason: tuple[str, ...]
    placed: tuple[Placed, ...]
    seed: int
    shown: bool = False

    @property
    def first(self) -> str | None:
        """The best, or, where no layout passes, the one with the least burden all the same; None where there is none."""
        return self.best or next((p.layout for p in self.placed), None)

    @property
    def sure(self) -> str:
        """How sure the best is the best: ``tied``, or by its chance; ``sure`` only where single words do not hold back."""
        if self.tied:
            return "tied"
        if self.chance >= SURE and self.shown:
            return "sure"
        return "likely" if self.chance >= LIKELY else "open"

    @property
    def chance(self) -> float:
        """Of the best, under the measurement's uncertainty."""
        return next((p.chance for p in self.placed if p.layout == self.best), 0.0)


def things_of(options: Sequence[Option], weights: Mapping[str, float]) -> list[str]:
    """Things that matter and are known of every layout."""
    return [t for t in STEP if options and weight_of(t, weights) > 0 and all(t in o.values for o in options)]


def weight_of(thing: str, weights: Mapping[str, float]) -> float:
    """What a person gave it; a result counts like the part that matters more, since for it parts are cooled."""
    return max(weights.get("cpu", 0.0), weights.get("card", 0.0)) if thing == RESULT else weights.get(thing, 0.0)


def felt(option: Option, thing: str) -> float:
    """A value as it counts: kelvins of a part by their distance from its limit."""
    value = option.values[thing][0]
    return float(felt_k(np.asarray(value), option.limit_rise_k.get(thing))) if thing in ("cpu", "card") else value


def burdens(options: Sequence[Option], weights: Mapping[str, float]) -> dict[str, tuple[Share, ...]]:
    """For each thing its weight times the steps by which a layout is worse than the best one."""
    things = things_of(options, weights)
    best = {t: min(felt(o, t) for o in options) for t in things}
    return {
        o.layout: tuple(Share(t, WORDS[t], o.values[t][0], weight_of(t, weights) * (felt(o, t) - best[t]) / STEP[t]) for t in things)
        for o in options
    }


def least_burden(options: Sequence[Option], weights: Mapping[str, float]) -> str | None:
    """The layout that passes with the least burden; None where none passes."""
    shares = burdens(options, weights)
    best = min((o for o in options if o.passed), key=lambda o: sum(s.adds for s in shares[o.layout]), default=None)
    return best.layout if best else None


def beaten_by(option: Option, options: Sequence[Option], things: Sequence[str], alike: Mapping[tuple[str, str, str], bool]) -> str | None:
    """A layout that is no worse in anything that matters and better in something.

    ``alike[one, other, thing]``: nothing shows that they differ; such a thing neither beats nor saves. Without it, by the values.
    """
    for other in options:
        if other.layout == option.layout:
            continue
        differ = [t for t in things if not alike.get((option.layout, other.layout, t), False)]
        gaps = [option.values[t][0] - other.values[t][0] for t in differ]
        if gaps and min(gaps) >= -1e-9 and max(gaps) > 1e-9:
            return other.layout
    return None


def choose(
    options: Sequence[Option],
    weights: Mapping[str, float],
    alike: Mapping[tuple[str, str, str], bool] | None = None,
    seed: int = 1,
) -> Choice:
    """Limits, then burden, then ties. ``alike`` says of which pairs and measured things nothing is shown."""
    alike = alike or {}
    things = things_of(options, weights)
    shares = burdens(options, weights)
    total = {name: sum(s.adds for s in found) for name, found in shares.items()}
    passing = [o for o in options if o.passed]
    least = min(passing, key=lambda o: total[o.layout], default=None)
    chance, over = chances(options, weights, seed), weight_stability(options, weights, seed)
    chance |= {o.layout: min(chance[o.layout], MOST_OF_ONE_RUN) for o in options if o.runs == 1}
    placed = [
        Placed(
            o.layout, total[o.layout], shares[o.layout], beaten_by(o, options, things, alike), o.passed, chance[o.layout], over[o.layout]
        )
        for o in options
    ]
    placed.sort(key=lambda p: (not p.passed, p.burden))
    if least is None:
        return Choice(None, None, (), (), tuple(placed), seed)
    measured = [t for t in things if t in MEASURED]

    unsaid = [o for o in passing if o is not least and all(alike.get((o.layout, least.layout, t), False) for t in measured)]
    # Single words are stricter than all draws together: what is hardly ever the best ties with nothing.
    tied = [o for o in passing if o is least or (measured and o in unsaid and chance[o.layout] >= 1 - SURE)]
    best = min(tied, key=lambda o: _simplest(o, shares[o.layout]))
    return Choice(
        best=best.layout,
        least_burden=least.layout,
        tied=tuple(o.layout for o in tied) if len(tied) > 1 else (),
        tie_reason=_why(best, [o for o in tied if o is not best]),
        placed=tuple(placed),
        seed=seed,
        shown=not unsaid,
    )


def _simplest(option: Option, shares: Sequence[Share]) -> tuple[float, ...]:
    """Order among ties: what is known and matters, then fewest parts, cheapest, quietest, easiest to clean, least work."""
    known = round(sum(s.adds for s in shares if s.thing not in MEASURED), 1)
    rest = (option.values.get(t, (0.0, 0.0))[0] for t in ("cost", "noise", "dust", "labour"))
    return (known, float(option.parts), *rest)


def _why(best: Option, others: Sequence[Option]) -> tuple[str, ...]:
    found = []
    for other in others:
        said = [f"{best.parts} fans and coolers instead of {other.parts}"] if best.parts < other.parts else []
        for thing, words, digits, unit in (
            ("cost", "cost", 2, ""),
            ("noise", "sound", 1, " dBA"),
            ("dust", "unfiltered air", 0, " %"),
            ("labour", "work", 0, " min"),
            ("looks", "looks short of the best by", 0, ""),
        ):
            one, two = (o.values.get(thing, (0.0, 0.0))[0] for o in (best, other))
            if two - one > 0.5 * 10**-digits:
                said.append(f"{words} {round(one, digits):g} instead of {round(two, digits):g}{unit}")
        found.append(f"against {other.layout}: {'; '.join(said) if said else 'nothing tells them apart'}")
    return tuple(found)


def _drawn(options: Sequence[Option], things: Sequence[str], rng: np.random.Generator, draws: int) -> NDArray[np.float64]:
    """Steps of each thing for each draw: shape (draws, options, things), kelvins of a part as they count."""
    out = np.empty((draws, len(options), len(things)))
    rises: dict[tuple[int, str], NDArray[np.float64]] = {}
    for i, o in enumerate(options):
        for t in ("cpu", "card"):
            if t in o.values:
                rises[i, t] = o.values[t][0] + o.values[t][1] * rng.standard_normal(draws)
    for i, o in enumerate(options):
        for j, t in enumerate(things):
            if t in ("cpu", "card"):
                values = felt_k(rises[i, t], o.limit_rise_k.get(t))
            elif t == "balance" and (i, "cpu") in rises and (i, "card") in rises:
                values = np.abs(rises[i, "cpu"] - rises[i, "card"])
            else:
                values = o.values[t][0] + o.values[t][1] * rng.standard_normal(draws)
            out[:, i, j] = values / STEP[t]
    return out


def chances(options: Sequence[Option], weights: Mapping[str, float], seed: int = 1, draws: int = DRAWS) -> dict[str, float]:
    """Share of draws of all measured figures within their uncertainty in which each layout has the least burden and passes.

    Monte Carlo (source: gum_mc). A draw in which no layout passes counts for none.
    """
    things = things_of(options, weights)
    if not options or not things:
        return {o.layout: 0.0 for o in options}
    rng = np.random.default_rng(seed)
    burden = _drawn(options, things, rng, draws) @ np.array([weight_of(t, weights) for t in things])
    for i, o in enumerate(options):
        for limit in o.limits:
            burden[limit.margin + limit.standard * rng.standard_normal(draws) < 0, i] = np.inf
    best, any_passes = np.argmin(burden, axis=1), np.isfinite(burden).any(axis=1)
    return {o.layout: float(np.mean((best == i) & any_passes)) for i, o in enumerate(options)}


def weight_stability(options: Sequence[Option], weights: Mapping[str, float], seed: int = 1, draws: int = DRAWS) -> dict[str, float]:
    """Share of weight draws in which each layout that passes has the least burden, its figures as they are."""
    things = things_of(options, weights)
    passing = [o for o in options if o.passed]
    if not passing or not things:
        return {o.layout: 0.0 for o in options}
    rng = np.random.default_rng(seed + 1)
    drawn = np.array([weight_of(t, weights) for t in things]) * np.exp(WEIGHT_SPREAD * rng.standard_normal((draws, len(things))))
    steps = np.array([[felt(o, t) / STEP[t] for t in things] for o in passing])
    best = np.argmin(drawn @ steps.T, axis=1)
    share = {o.layout: float(np.mean(best == i)) for i, o in enumerate(passing)}
    return {o.layout: share.get(o.layout, 0.0) for o in options}


def frontier(points: Mapping[str, Sequence[float]]) -> list[str]:
    """Names of the points that no other is at least as good as in everything and better in something; less is better."""
    rows = {name: np.asarray(p, float) for name, p in points.items()}
    return [n for n, p in rows.items() if not any(bool((q <= p).all() and (q < p).any()) for m, q in rows.items() if m != n)]


@dataclass(frozen=True)
class Surprise:
    """A forecast against a measurement: ``z`` in standard uncertainties of their difference; a surprise beyond two."""

    layout: str
    channel: str
    forecast_k: float
    forecast_band_k: float
    measured_k: float
    measured_band_k: float
    residual_k: float
    z: float
    surprise: bool


SURPRISE_SIGMA = 2.0  # one in twenty (normal distribution)


def scored(layout: str, channel: str, forecast: tuple[float, float], measured: tuple[float, float]) -> Surprise:
    """(value, 95 % half-width) of both."""
    factor = coverage_factor(inf)
    residual = measured[0] - forecast[0]
    standard = float(np.hypot(forecast[1], measured[1])) / factor
    z = residual / standard if standard > 0 else 0.0
    return Surprise(layout, channel, *forecast, *measured, residual, z, abs(z) > SURPRISE_SIGMA)
