"""Layouts against each other from their runs: difference, expanded uncertainty, one of four words."""

from collections.abc import Mapping
from dataclasses import dataclass, field
from itertools import combinations
from math import sqrt
from typing import Literal

import numpy as np
from scipy import stats

from engine.runs.analysis import SCORE_SHARE, RunAnalysis
from engine.runs.series import ROOM_CHANNEL

Word = Literal["better", "worse", "no_difference", "cannot_tell"]
RUN_SCATTER_PRIOR_K = 0.5  # one sigma, stated prior when there are no repeats
CONFIDENCE = 0.95
ROOM_APART_K = 3.0
POWER_APART_SHARE = 0.03
RESULTS = ("score", "fps", "job_s")
RESULT_MARGIN_SHARE = 0.015  # common practice, no source: a result within 1.5 % is the same to its user
HIGHER_IS_BETTER = ("score", "fps", "cpu_clock_mhz", "card_clock_mhz")


@dataclass(frozen=True)
class Candidate:
    """A layout with its runs."""

    name: str
    runs: list[RunAnalysis] = field(default_factory=list)
    conditions: list[Mapping[str, str]] = field(default_factory=list)  # one per run, where known: protocol, load, what was held

    @property
    def judged(self) -> list[RunAnalysis]:
        """The runs that can carry a judgement; all of them where none can, so that the reason is said."""
        return [run for run in self.runs if not _spoilt(run)] or self.runs

    def left_aside(self) -> list[str]:
        """Why runs beside the judged ones were left aside."""
        judged = self.judged
        return [_spoilt(run) for run in self.runs if not any(run is other for other in judged)]

    def figures(self, channel: str) -> list[tuple[float, float]]:
        """(value, standard error) of a channel per judged run; temperatures over room."""
        found = []
        for run in self.judged:
            c = run.channel(channel)
            if c is None:
                continue
            if channel.endswith("_c"):
                if c.rise_k is not None and c.rise_standard_error is not None:
                    found.append((c.rise_k, c.rise_standard_error))
            else:
                found.append((c.mean, c.standard_error))
        return found


def _spoilt(run: RunAnalysis) -> str:
    """Why a run cannot carry a judgement of temperatures; empty when it can. A part at its limit is judged by power."""
    if run.has("room_missing"):
        return "no room temperature"
    if run.has("room_doubtful"):
        return "the room temperature is doubtful"
    if all("by_hand" in c.flags for c in run.channels if c.name != ROOM_CHANNEL):
        return ""  # figures read at its end by a person, who answers for them
    return "" if run.settled or run.has("throttled") else "not settled"


@dataclass(frozen=True)
class Pair:
    """``difference_k`` is b minus a (None when it cannot be formed); the word is said of b."""

    a: str
    b: str
    channel: str
    difference_k: float | None
    expanded_uncertainty_k: float | None
    confidence_pct: float
    word: Word
    confounders: tuple[str, ...]
    scatter: str


@dataclass(frozen=True)
class _Test:
    difference: float
    standard: float
    freedom: float

    @property
    def p_differs(self) -> float:
        return float(2 * stats.t.sf(abs(self.difference) / self.standard, self.freedom))

    def p_equivalent(self, margin: float) -> float:
        """Two one-sided tests: the larger p of lying outside either margin (source: tost)."""
        return float(stats.t.sf((margin - abs(self.difference)) / self.standard, self.freedom))

    @property
    def expanded(self) -> float:
        return float(stats.t.ppf(0.5 + CONFIDENCE / 2, self.freedom)) * self.standard


def holm(p_values: list[float]) -> list[float]:
    """Adjusted p values, sequentially rejective (source: holm)."""
    order = np.argsort(p_values)
    adjusted, running = [0.0] * len(p_values), 0.0
    for rank, i in enumerate(order):
        running = max(running, min(1.0, (len(p_values) - rank) * p_values[i]))
        adjusted[i] = running
    return adjusted


def pooled_scatter(candidates: list[Candidate], channel: str) -> tuple[float, float, str]:
    """Run-to-run standard deviation, degrees of freedom, and where it comes from."""
    squares, freedom = 0.0, 0
    for candidate in candidates:
        values = [v for v, _ in candidate.figures(channel)]
        if len(values) > 1:
            squares += float(np.var(values, ddof=1)) * (len(values) - 1)
            freedom += len(values) - 1
    prior = _prior(candidates, channel)
    if freedom < 1:
        return prior, np.inf, f"prior of {prior:.3g} {_unit(channel)} (no repeats)"
    # Few repeats say little: the prior keeps a small pooled value from being believed too early (weight of two runs).
    prior_weight = 2.0
    variance = (squares + prior_weight * prior**2) / (freedom + prior_weight)
    return sqrt(variance), freedom + 10.0, f"pooled from repeats ({freedom} degrees of freedom) and the prior"


def _prior(candidates: list[Candidate], channel: str) -> float:
    """One sigma between runs where repeats do not tell: in K or dB, or a share of a result's own size."""
    if channel not in RESULTS:
        return RUN_SCATTER_PRIOR_K
    return SCORE_SHARE * float(np.mean([abs(v) for c in candidates for v, _ in c.figures(channel)] or [0.0]))


def _unit(channel: str) -> str:
    return {"c": "K", "dba": "dB", "w": "W", "s": "s"}.get(channel.rsplit("_", 1)[-1], "")


def margin_of(channel: str, margin_k: float, sizes: list[float]) -> float:
    """What counts as no difference: the person's margin in K (or dB), a share of a result's own size."""
    return RESULT_MARGIN_SHARE * float(np.mean(np.abs(sizes))) if channel in RESULTS and sizes else margin_k


def compare(candidates: list[Candidate], margin_k: float = 1.5) -> list[Pair]:
    """Every pair once in the given order, every shared channel, corrected for several comparisons."""
    drafts: list[tuple[Candidate, Candidate, str, _Test | None, tuple[str, ...], str]] = []
    for a, b in combinations(candidates, 2):
        for channel in judged_channels(a, b):
            scatter, freedom, origin = pooled_scatter(candidates, channel)
            test = _test(a.figures(channel), b.figures(channel), scatter, freedom)
            drafts.append((a, b, channel, test, _confounders(a, b, channel), origin))
    tested = [d[3] for d in drafts if d[3] is not None]
    differs = iter(holm([t.p_differs for t in tested]))
    margins = [margin_of(c, margin_k, [v for side in (a, b) for v, _ in side.figures(c)]) for a, b, c, t, _, _ in drafts if t is not None]
    equal = iter(holm([t.p_equivalent(m) for t, m in zip(tested, margins, strict=True)]))
    pairs = []
    for a, b, channel, test, confounders, origin in drafts:
        if test is None:
            pairs.append(Pair(a.name, b.name, channel, None, None, 100 * CONFIDENCE, "cannot_tell", confounders, origin))
            continue
        p_differs, p_equal = next(differs), next(equal)
        word = _word(channel, test, p_differs, p_equal, blocked=_blocked(confounders))
        pairs.append(Pair(a.name, b.name, channel, test.difference, test.expanded, 100 * CONFIDENCE, word, confounders, origin))
    return pairs


def judged_channels(*candidates: Candidate) -> list[str]:
    """Channels all runs share that can be judged: temperatures of parts and air, sound, results; power of a limited part."""
    runs = [run for candidate in candidates for run in candidate.judged]
    every = dict.fromkeys(c.name for run in runs for c in run.channels)
    names = [n for n in every if all(any(run.channel(n) for run in candidate.judged) for candidate in candidates)]
    limited = {part for part in ("cpu", "card") for run in runs if run.has("throttled", part)}
    judged = [n for n in names if (n.endswith("_c") and n != "room_c") or n in ("sound_dba", *RESULTS)]
    return judged + [f"{part}_power_w" for part in sorted(limited) if f"{part}_power_w" in names]


def layout_figure(candidates: list[Candidate], candidate: Candidate, channel: str) -> tuple[float, float] | None:
    """Mean of a layout's runs and its 95 % half-width, run-to-run scatter included."""
    values = candidate.figures(channel)
    if not values:
        return None
    scatter, freedom, _ = pooled_scatter(candidates, channel)
    variance = scatter**2 / len(values) + sum(e**2 for _, e in values) / len(values) ** 2
    half_width = float(stats.t.ppf(0.5 + CONFIDENCE / 2, freedom)) * sqrt(variance)
    return float(np.mean([v for v, _ in values])), half_width


def _test(a: list[tuple[float, float]], b: list[tuple[float, float]], scatter: float, freedom: float) -> _Test | None:
    """Difference of the means of runs; within-run errors and run-to-run scatter add (source: gum, satterthwaite)."""
    if not a or not b:
        return None
    variance = scatter**2 * (1 / len(a) + 1 / len(b))
    within = sum(e**2 for _, e in a) / len(a) ** 2 + sum(e**2 for _, e in b) / len(b) ** 2
    total = variance + within
    effective = freedom if np.isinf(freedom) else freedom * (total / variance) ** 2
    means = [float(np.mean([v for v, _ in side])) for side in (a, b)]
    return _Test(means[1] - means[0], sqrt(total), effective)


def _word(channel: str, test: _Test, p_differs: float, p_equal: float, blocked: bool) -> Word:
    alpha = 1 - CONFIDENCE
    if blocked:
        return "cannot_tell"
    if p_differs < alpha:
        higher_better = channel in HIGHER_IS_BETTER or channel.endswith("_power_w")
        return "better" if (test.difference > 0) == higher_better else "worse"
    return "no_difference" if p_equal < alpha / 2 else "cannot_tell"


_BLOCKING = ("not settled", "at its limit", "no room temperature", "doubtful", "unlike load")
_LEFT_ASIDE = "was left aside"


def _blocked(confounders: tuple[str, ...]) -> bool:
    return any(word in c for c in confounders if _LEFT_ASIDE not in c for word in _BLOCKING)


def _confounders(a: Candidate, b: Candidate, channel: str) -> tuple[str, ...]:
    found: list[str] = []
    temperature = channel.endswith("_c")
    part = channel.split("_")[0]
    rooms = []
    for side in (a, b):
        found += [f"{side.name}: a run {_LEFT_ASIDE}, {reason}" for reason in side.left_aside()]
        for run in (r for r in side.judged if r.channel(channel)):
            if temperature and "by_hand" in (run.channel(channel) or run.channels[0]).flags:
                found.append(f"{side.name}: read by hand")
            elif temperature and not run.settled and not run.has("throttled", part):
                found.append(f"{side.name}: its run is not settled")
            if temperature and run.has("throttled", part):
                found.append(f"{side.name}: {part} is at its limit; compare by power")
            if temperature and run.has("room_missing"):
                found.append(f"{side.name}: no room temperature")
            if temperature and run.has("room_doubtful"):
                found.append(f"{side.name}: the room temperature is doubtful")
            room = run.channel("room_c")
            if room:
                rooms.append(room.mean)
    if rooms and max(rooms) - min(rooms) > ROOM_APART_K:
        found.append(f"rooms {max(rooms) - min(rooms):.1f} K apart; over room corrects most of it, not fan curves")
    if temperature and part in ("cpu", "card", "coolant"):
        power = "card_power_w" if part == "card" else "cpu_power_w"
        means = [[v for v, _ in side.figures(power)] for side in (a, b)]
        if all(means):
            one, two = (float(np.mean(m)) for m in means)
            if abs(one - two) > POWER_APART_SHARE * max(one, two) and not any("at its limit" in f for f in found):
                found.append(f"unlike load: {one:.0f} W against {two:.0f} W")
    found += _unlike_conditions(a, b)
    return tuple(dict.fromkeys(found))


def _unlike_conditions(a: Candidate, b: Candidate) -> list[str]:
    """Things that should have been the same in all runs and were not."""
    seen: dict[str, dict[str, None]] = {}
    for side in (a, b):
        for condition in side.conditions:
            for what, value in condition.items():
                seen.setdefault(what, {})[value] = None
    return [f"unlike {what}: {' against '.join(values)}" for what, values in seen.items() if len(values) > 1]
