"""Has a channel settled? What is left of its approach, with its bound, and whether what the approach leaves over still moves.

Up to three stages are fitted on block means (engine.runs.stages). A channel has settled when at most half a kelvin is left at 95 %,
the slope of its tail is small, and neither the rank test for a trend (engine.runs.trend) in the tail nor the means of its pieces find what
the fit did not see. A swing that never ends (engine.runs.hunting) is taken out first: what counts is the mean it swings about.
"""

from collections.abc import Mapping, Sequence
from dataclasses import dataclass, replace
from math import inf
from types import MappingProxyType

import numpy as np
from numpy.typing import NDArray

from engine.runs.ahead import spread_until
from engine.runs.hunting import Hunting, columns, hunting
from engine.runs.known import OF_WAIT, Course, Known, ahead_of, course_of
from engine.runs.limits import Held, held
from engine.runs.over_room import NO_STEPS, RoomSteps, Steps, over_room, room_steps, steps_of
from engine.runs.rounding import Rounding, rounding_of, unseen_k
from engine.runs.series import Floats, RunLog, off_neighbours, scatter_of
from engine.runs.stages import LEAST_FREEDOM, MOST_STAGES, Read, Stages, stages
from engine.runs.steps import bounds, told
from engine.runs.trend import Trend, off, trend
from engine.runs.wait import NO_WAIT, Wait, last_of
from engine.runs.window import effective_count

MOST_REMAINING_K = 0.5  # the contract of FORMATS: what settled means
MOST_SLOPE_K_MIN = 0.05  # likewise
NOMINAL, NOMINAL_END = 0.86, 0.93  # hold in 95 % and more of runs (study), since most machines have fewer stages than are allowed for
UNLIKE_OF_RANGE, UNLIKE_OF_LEFT = 0.0016, 0.08  # one sigma: no machine approaches quite as stages on a grid do (study)
MISFIT = 16.0  # numerical: noise that hangs together leaves four times the error of single readings, a course that no stages are more
STEP_TURNS = (2, 2, MOST_STAGES)  # numerical: stages at the most, turn by turn, while it is found what readings in steps tell
UNSEEN_CARRIED = 2.0  # what rounding leaves of the last means goes on to the end that stages are drawn out to (study)
UNSEEN_OF_LEFT = 0.6  # of what rounding leaves of one reading: many steps were passed on the way (study)
TAIL_SHARES, LEAST_TAIL_S = (1 / 4, 1 / 3), 60.0
"""The tail is the last quarter, or the last third where noise hides the slope of so short a stretch."""
PIECES = 4  # numerical: of the tail
HALF_STEP = 3**0.5  # in sigmas of what rounding leaves unseen (even from edge to edge): so far means lie off a fit that is no fit to them
ONWARDS = 1.5  # numerical: a tail that leaves its course may go on by half as much again
SLOPE_ERROR_K_MIN = 0.01  # a fifth of the slope that is judged
FIT_FROM_SHARE, FIT_FROM_S = 0.05, 20.0  # the die's own seconds are left out
BLOCKS = 200  # numerical
LEAST_POINTS = 60  # numerical: a minute at 1 Hz
SPIKE_SIGMAS, LEAST_SPIKE_K = 5.0, 2.0  # numerical; no part moves so within a second
MORE_NOISE = 1.3  # numerical: a run is fitted anew where earlier ones were noisier by more
SWING = 0.1  # of the squared amplitude of a swing, for each second of its period (study)
POWER_LEFT_SHARE = 0.01  # of a part at its limit, when it is called settled; common practice, no source

NOTHING_KNOWN: Mapping[str, Known] = MappingProxyType({})  # of a first run


@dataclass(frozen=True)
class Approach:
    """Fitted end value with its 95 % band, what is left at the end of the log, and the tail's trend."""

    final: float
    final_band: float
    remaining: float
    remaining_bound: float
    slope_k_min: float
    trend: Trend | None  # of what the fit leaves over; looked at only where nothing else keeps the channel from being settled
    wait: Wait  # until no more than half a kelvin is left; nothing where it is so
    lasted_s: float  # of the readings that were fitted
    hunting: Hunting | None = None
    runs_known: int = 0  # earlier runs of the machine that the wait was told from, beside this one
    leaves_k: float = 0.0  # how far the tail goes apart from its fit, where a part of it surely lies off that by over half a kelvin

    @property
    def minutes_left(self) -> float:
        return self.wait.about_s / 60

    @property
    def one_number(self) -> bool:
        return self.wait.one_number(self.seen_s)

    @property
    def seen_s(self) -> float:
        """How long a wait may be to be told as one number: what was seen of this run, without end where earlier ones came to rest."""
        return inf if self.runs_known else self.lasted_s

    @property
    def more(self) -> str:
        """How much longer, for a person; empty where it is settled."""
        return self.wait.words(self.seen_s) or {"slope": "nearly there", "trend": "still moves"}.get(self.why_not, "")

    @property
    def apart_k(self) -> float:
        """How far it may still be from where it ends."""
        return max(self.remaining_bound, self.final_band if self.leaves_k else 0.0)

    @property
    def settled(self) -> bool:
        return not self.why_not

    @property
    def why_not(self) -> str:
        """What keeps it from being called settled; empty where nothing does."""
        return _why_not(self.remaining_bound, self.slope_k_min, self.trend, self.leaves_k)

    @property
    def words(self) -> str:
        """The same for a person."""
        return {
            "": "",
            "left": f"{abs(self.remaining):.1f} K still to {'come' if self.remaining >= 0 else 'fall'}, up to {self.remaining_bound:.1f} K",
            "slope": f"still moves by {self.slope_k_min:+.2f} K/min",
            "trend": "leaves its course in the tail of the run",
        }[self.why_not]


def longest(fits: Sequence[Approach]) -> str:
    """How much longer until the last of them has come to rest, for a person."""
    words = last_of([f.wait for f in fits]).words(min((f.seen_s for f in fits), default=0.0))
    return words or next((f.more for f in fits if f.more), "")


def from_runs(fits: Sequence[Approach]) -> str:
    """What the wait of the one that takes longest was told from beside its own run; empty where that alone tells it."""
    last = max(fits, key=lambda f: f.wait.most_s, default=None)
    runs = last.runs_known if last and last.wait.most_s else 0
    return f"as this machine came to rest in {runs} earlier run{'s' if runs > 1 else ''}" if runs else ""


def turning(fits: Mapping[str, Approach | None]) -> tuple[str, Hunting] | None:
    """The channel that swings most, with its swing."""
    found = [(name, fit.hunting) for name, fit in fits.items() if fit and fit.hunting]
    return max(found, key=lambda x: x[1].amplitude_k, default=None)


def approach(elapsed_s: Floats, values: Floats, known: Known | None = None, steps: Steps | None = None) -> Approach | None:
    """Fit to the readings up to the last; None when there are too few. ``known``: how this channel came to rest in earlier runs of
    the machine, which tell the wait and nothing else. ``steps``: of the sensor and its room, where ``values`` are not as it reads."""
    fitted = _fitted(elapsed_s, values, steps.own if steps else None)
    if fitted is None:
        return None
    room = steps.room if steps else NO_STEPS
    rest = fitted.rest(room)
    found, tells = rest.tells.found, rest.tells
    slope, moves, leaves = fitted.tail(rest)
    by = fitted.means if known and room.hides(fitted.rounding.step) else tells
    return Approach(
        final=found.end_mean,
        final_band=found.end_band(float(np.linalg.norm([tells.unseen_k, room.at_end_k, rest.unlike_k])), NOMINAL_END) + ONWARDS * leaves,
        remaining=found.left_mean,
        remaining_bound=rest.bound_k,
        slope_k_min=slope,
        trend=moves,
        wait=NO_WAIT if rest.near else fitted.until(by, float(np.hypot(rest.unlike_k, room.wait_k)), known).uncalled(),
        lasted_s=float(fitted.blocks.t[-1]),
        hunting=fitted.swing,
        runs_known=known.runs if known else 0,
        leaves_k=leaves,
    )


def has_settled(elapsed_s: Floats, values: Floats, steps: Steps | None = None) -> bool:
    """What ``approach`` says of the readings up to the last, without where they go and when."""
    fitted = _fitted(elapsed_s, values, steps.own if steps else None)
    if fitted is None:
        return False
    rest = fitted.rest(steps.room if steps else NO_STEPS)
    return rest.near and not _why_not(rest.bound_k, *fitted.tail(rest))


def course(elapsed_s: Floats, values: Floats, steps: Steps | None = None) -> Course | None:
    """How a channel came to rest in a run that did; None where too little was read or hardly anything moved."""
    fitted = _fitted(elapsed_s, values, steps.own if steps else None, from_share=0.0)
    if fitted is None:
        return None
    tells = fitted.means if steps and steps.room.hides(fitted.rounding.step) else fitted.tells()
    return course_of(tells.found, fitted.from_s, fitted.found.variance * fitted.block_s, fitted.swing_k2s)


def courses_in(log: RunLog, settled: Sequence[str]) -> dict[str, Course]:
    """How the channels of a run that had ``settled`` came to rest; a part that was held at its limit shows nothing of it."""
    free = [n for n in settled if n in log.loaded and held(log, n.split("_")[0]) is None]
    room = room_steps(log)
    found = {name: course(log.elapsed_s, over_room(log, name), steps_of(log, name, room)) for name in free}
    return {name: own for name, own in found.items() if own is not None}


def _why_not(bound_k: float, slope_k_min: float, moves: Trend | None, leaves_k: float) -> str:
    if bound_k > MOST_REMAINING_K:
        return "left"
    if abs(slope_k_min) >= MOST_SLOPE_K_MIN:
        return "slope"
    return "trend" if leaves_k or (moves and moves.moves(MOST_SLOPE_K_MIN)) else ""


def _tail(t: Floats, blocks: Stages, found: Stages, stairs: bool) -> tuple[NDArray[np.bool_], float]:
    """The shortest tail that shows its slope, and that slope in K/min; independent blocks are assumed for its error.

    As far as noise hides the slope of the readings, that of the fit counts, which knows the whole run; on ``stairs`` it alone: one step of
    the sensor in a tail of minutes is steeper than what is judged. Whether the tail leaves the fit is for its trend and its pieces.
    """
    for share in TAIL_SHARES:
        last = _end_of(t, share)
        spread = float(np.sqrt(np.sum((t[last] - t[last].mean()) ** 2)))
        error = 60 * float(np.std(blocks.residual[last])) / max(spread, 1e-9)
        if error <= SLOPE_ERROR_K_MIN:
            break
    shown = 0.0 if stairs else min((SLOPE_ERROR_K_MIN / max(error, 1e-9)) ** 2, 1.0)
    seen = shown * blocks.course[last] + (1 - shown) * found.fitted(t[last] - t[-1])
    return last, float(np.polyfit(t[last], seen, 1)[0]) * 60


def _leaves_k(t: Floats, left_over: Floats, most_k: float) -> float:
    """How far pieces of the tail and the last minute lie apart, where any of them surely lies off the fit by more than ``most_k``."""
    pieces = [*np.array_split(left_over[_end_of(t, TAIL_SHARES[0])], PIECES), left_over[_end_of(t, 0.0)]]
    means, noise = [float(piece.mean()) for piece in pieces if len(piece)], float(np.std(left_over))
    return max(*means, 0.0) - min(*means, 0.0) if any(off(piece, most_k, noise) for piece in pieces) else 0.0


def _end_of(t: Floats, share: float) -> NDArray[np.bool_]:
    return np.asarray(t >= t[-1] - max(share * t[-1], LEAST_TAIL_S))


@dataclass(frozen=True)
class _Tells:
    """What readings tell of the approach: the stages ``found`` in ``of``, and one sigma of what rounding leaves unseen."""

    of: Read
    found: Stages
    unseen_k: float
    in_steps: bool = False


@dataclass(frozen=True)
class _Rest:
    """What the readings tell of what is left: its bound at 95 %, and one sigma of how unlike stages on a grid a machine is."""

    tells: _Tells
    unlike_k: float
    bound_k: float

    @property
    def near(self) -> bool:
        return self.bound_k <= MOST_REMAINING_K


@dataclass(frozen=True)
class _Fitted:
    """Readings ``read`` at ``since`` (s from where the fit begins, ``from_s`` into the run), their ``blocks`` of means, what was fitted to
    these, and the swing about it where there is one."""

    from_s: float
    since: Floats
    read: Floats
    blocks: Read
    rounding: Rounding
    found: Stages
    averaged: int  # readings in a block, where their noise wears off within it
    swing: Hunting | None = None

    @property
    def block_s(self) -> float:
        return float(np.median(np.diff(self.blocks.t)))

    @property
    def swing_k2s(self) -> float:
        """What the swing is as noise to a run that is too short to show it: variance of one reading a second."""
        return SWING * self.swing.amplitude_k**2 * self.swing.period_s if self.swing else 0.0

    @property
    def as_swing(self) -> float:
        """Variance of a block where what hangs together does not wear off: a swing looks so until the run is long enough to show it, and
        stages seen through it would tell too sure a wait."""
        away = self.found.residual
        return float(away @ away) / max(effective_count(away) - MOST_STAGES - 1, LEAST_FREEDOM) if self.averaged > 1 else 0.0

    @property
    def means(self) -> _Tells:
        return _Tells(self.blocks, self.found, UNSEEN_CARRIED * unseen_k(self.rounding.step, self.rounding.noise))

    def tells(self) -> _Tells:
        """By what each reading of a sensor in whole steps tells, and else, or where that is not to be had, by the means of blocks."""
        means = self.means
        if self.swing or not self.rounding.stairs:
            return means
        found, t, size = self.found, self.blocks.t, _per_block(len(self.read))
        for most in STEP_TURNS:
            own = told(self.read, found.fitted(self.since - t[-1]), self.rounding, size)
            within = bounds(self.read, self.rounding, own.noise) if most == MOST_STAGES else None
            of = Read(t, own.y, precision=own.precision, within=within)
            found = stages(of, least_variance=1.0, most=most)
        apart = abs(found.end_mean - self.found.end_mean) > found.end_band() + self.found.end_band() + means.unseen_k
        return means if apart or found.variance > MISFIT else _Tells(of, found, own.unseen_k(self.rounding.step), in_steps=True)

    def rest(self, room: RoomSteps) -> _Rest:
        tells = self.tells()
        unlike = float(np.hypot(UNLIKE_OF_RANGE * tells.found.scale, UNLIKE_OF_LEFT * tells.found.left_mean))
        further = float(np.hypot(unlike, UNSEEN_OF_LEFT * np.hypot(tells.unseen_k, room.moving_k)))
        return _Rest(tells, unlike, tells.found.left_bound(further, NOMINAL))

    def tail(self, rest: _Rest) -> tuple[float, Trend | None, float]:
        """Slope of the tail in K/min, the trend of what the fit leaves over there (looked at only where nothing else keeps the channel
        from being settled), and how far it goes apart from the fit."""
        t, found, in_steps = self.blocks.t, rest.tells.found, rest.tells.in_steps
        last, slope = _tail(t, self.found, found, stairs=self.rounding.stairs)
        left_over = self.blocks.y - found.fitted(t - t[-1]) if in_steps else self.found.residual
        near = rest.near and abs(slope) < MOST_SLOPE_K_MIN
        moves = trend(t[last], self.found.residual[last]) if near and not in_steps else None
        surely = moves is not None and moves.moves(MOST_SLOPE_K_MIN)
        shown = MOST_REMAINING_K + (HALF_STEP if in_steps else 1.0) * unseen_k(self.rounding.step, self.rounding.noise)
        return slope, moves, _leaves_k(t, left_over, 0.0 if surely else shown)

    def until(self, tells: _Tells, unlike_k: float, known: Known | None) -> Wait:
        """The wait, by the readings alone or with how earlier runs of the machine came to rest."""
        unseen_swing = known.swing_k2s if known and not self.swing else 0.0
        if unseen_swing or not tells.in_steps:
            noise = max((known.noise_k2s + unseen_swing) / self.block_s if known else 0.0, self.as_swing)
            noisier = noise > MORE_NOISE * self.found.variance
            tells = replace(self.means, found=stages(self.blocks, least_variance=noise) if noisier else self.found)
        if known is None:
            return tells.found.until(MOST_REMAINING_K, unlike_k)
        ahead = ahead_of(replace(tells.of, t=self.from_s + tells.of.t), tells.found, known)
        return spread_until(ahead, MOST_REMAINING_K, unlike_k, OF_WAIT)


def _fitted(elapsed_s: Floats, values: Floats, rounding: Rounding | None = None, from_share: float = FIT_FROM_SHARE) -> _Fitted | None:
    good = np.isfinite(values)
    t, y = elapsed_s[good], values[good]
    if len(t) < LEAST_POINTS:
        return None
    begun = t >= t[0] + max(from_share * (t[-1] - t[0]), min(FIT_FROM_S, (t[-1] - t[0]) / 10))
    rounding = rounding or rounding_of(y)
    from_s = float(t[begun][0] - t[0])
    many = _per_block(int(begun.sum()))
    since, read = t[begun] - t[begun][0], _without_spikes(y[begun])
    blocks = Read(*_blocks(since, read, many))
    averaged = 1 if rounding.stairs else many  # the teeth of stairs, as what a swing leaves, are no noise that wears off
    found = stages(blocks, averaged=averaged)
    t, y = blocks.t, blocks.y
    late = t >= 0.4 * t[-1]
    swing = hunting(t[late], found.residual[late], rounding.step)
    if swing is None:
        return _Fitted(from_s, since, read, blocks, rounding, found, averaged)
    way = np.abs(y - y[0]) / max(abs(found.end_mean - float(y[0])), 1e-9)  # it begins as the part grows warm
    growing = np.clip(2 * np.maximum.accumulate(way) - 1, 0, 1) if abs(found.end_mean - y[0]) > 5 else np.ones(len(t))
    blocks = Read(t, y, columns(t, swing.period_s, growing))
    return _Fitted(from_s, since, read, blocks, rounding, stages(blocks, swing.period_s), 1, swing)


def _without_spikes(y: Floats) -> Floats:
    """Readings far from the median of their neighbours take its place (a Hampel filter)."""
    away = off_neighbours(y)
    return np.where(np.abs(away) > max(SPIKE_SIGMAS * scatter_of(away), LEAST_SPIKE_K), y - away, y)


def _per_block(readings: int) -> int:
    return -(-readings // BLOCKS)


def _blocks(t: Floats, y: Floats, size: int) -> tuple[Floats, Floats]:
    """Block means of equal count: flicker within a block averages out before the fit."""
    if size == 1:
        return t, y
    cut = len(t) - len(t) % size
    skip = len(t) - cut  # the oldest odd readings go, never the newest
    return t[skip:].reshape(-1, size).mean(axis=1), y[skip:].reshape(-1, size).mean(axis=1)


@dataclass(frozen=True)
class Judged:
    """What of a run is asked whether it has settled: loaded temperatures over room and, of a part at its limit, its power in the
    place of its temperatures. ``scales``: what a unit of such a power counts, so that a hundredth of it weighs like half a kelvin."""

    fits: dict[str, Approach | None]
    held: dict[str, Held]
    scales: dict[str, float]
    room: RoomSteps

    def at_limit(self, channel: str) -> bool:
        return channel.endswith("_c") and channel.split("_")[0] in self.held

    def words(self, channel: str) -> str:
        """Why a channel has not settled."""
        fit, scale = self.fits[channel], self.scales.get(channel)
        if fit is None:
            return "too few readings to tell"
        if scale and fit.why_not:
            return f"at its limit, and its power still moves: {abs(fit.remaining) / scale:.1f} W to come"
        return fit.words


def judged_of(log: RunLog, known: Mapping[str, Known] = NOTHING_KNOWN) -> Judged:
    """Every channel that counts, fitted once; what is ``known`` of a channel from earlier runs tells its wait."""
    room = room_steps(log)
    parts = {part: own for part in ("cpu", "card") if (own := held(log, part)) is not None}
    fits = {
        name: approach(log.elapsed_s, over_room(log, name), known.get(name) or known.get(_like(name)), steps_of(log, name, room))
        for name in log.loaded
        if name.split("_")[0] not in parts
    }
    scales = {f"{part}_power_w": MOST_REMAINING_K / (POWER_LEFT_SHARE * own.to_w) for part, own in parts.items()}
    fits |= {name: _unscaled(approach(log.elapsed_s, log.channels[name] * scale), scale) for name, scale in scales.items()}
    return Judged(fits, parts, scales, room)


def _like(channel: str) -> str:
    """The channel of the same die: cores and the hot spot come to rest as it does."""
    return "cpu_package_c" if channel.startswith("cpu_core_") else "card_core_c" if channel == "card_hotspot_c" else channel


def _unscaled(fit: Approach | None, scale: float) -> Approach | None:
    """With a swing in the channel's own unit, as it is told."""
    if fit is None or fit.hunting is None:
        return fit
    return replace(fit, hunting=replace(fit.hunting, amplitude_k=fit.hunting.amplitude_k / scale))


def settled_at_s(
    log: RunLog, channel: str, scale: float = 1.0, step_s: float = 60.0, from_s: float = -np.inf, at_end: bool = False
) -> float | None:
    """Earliest time, to ``step_s`` and not before ``from_s``, by which the channel had settled; None when it had not by the end.
    ``at_end``: it is known that it had by then.

    Bisection: a channel that approaches one value, once settled, stays settled.
    """
    values = over_room(log, channel) * scale
    steps = steps_of(log, channel, room_steps(log)) if channel.endswith("_c") else None

    def settled(moment: float) -> bool:
        upto = log.elapsed_s <= moment
        return has_settled(log.elapsed_s[upto], values[upto], steps)

    low, high = max(float(log.elapsed_s[0]), from_s), float(log.elapsed_s[-1])
    if from_s > log.elapsed_s[0] and settled(low):
        return low
    if not at_end and not settled(high):
        return None
    while high - low > step_s:
        middle = (low + high) / 2
        low, high = (low, middle) if settled(middle) else (middle, high)
    return high


def all_settled_at_s(log: RunLog, judged: Judged) -> float | None:
    """When the last channel that counts had settled; None where one has not, or none counts.

    The one that is furthest from its end first: most others are asked once, whether they had settled by then.
    """
    if not judged.fits or not all(fit is not None and fit.settled for fit in judged.fits.values()):
        return None
    at: float | None = None
    for name in sorted(judged.fits, key=lambda n: -(fit.remaining_bound if (fit := judged.fits[n]) else 0.0)):
        found = settled_at_s(log, name, judged.scales.get(name, 1.0), from_s=-np.inf if at is None else at, at_end=True)
        at = found if at is None or (found is not None and found > at) else at
    return at
