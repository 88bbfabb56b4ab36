"""Does a channel swing to and fro without end? Fans on a curve hunt: the temperature goes round its mean once every minute or more.

One period is looked for by least squares over a grid (source: lomb) in what an approach leaves over, and is believed where it
explains much of it, in both halves alike.
"""

from dataclasses import dataclass

import numpy as np

from engine.runs.series import Floats

SHORTEST_S, LONGEST_S = 40.0, 600.0  # of fans and pumps that hunt; common practice, no source
LEAST_TURNS = 2.5  # common practice, no source
LEAST_SHARE = 0.35  # of what an approach leaves over
LEAST_AMPLITUDE_K = 0.25  # half a degree from top to bottom is not worth saying
LEAST_OF_STEP = 0.42  # of a sensor's step: what rounding alone looks like is smaller (1/pi of a step)
FINE = 6  # periods tried per turn that fits into the run
READ_PER_TURN = 4.0  # twice what sampling asks for


@dataclass(frozen=True)
class Hunting:
    """``amplitude_k``: how far the first harmonic goes either way; of a power that stands for a part at its limit in W."""

    period_s: float
    amplitude_k: float


def hunting(t: Floats, rest: Floats, step_k: float = 0.0) -> Hunting | None:
    """The swing in what an approach left over, readings or block means ``rest`` at ``t`` in s; None where there is none."""
    span = float(t[-1] - t[0])
    shortest = max(SHORTEST_S, READ_PER_TURN * float(np.median(np.diff(t))))
    longest = min(LONGEST_S, span / LEAST_TURNS)
    if longest <= shortest or len(t) < 24:
        return None
    periods = 1 / np.linspace(1 / longest, 1 / shortest, max(int(FINE * span * (1 / shortest - 1 / longest)), 8))
    away = rest - rest.mean()
    power = float(away @ away)
    half = [slice(None, len(t) // 2), slice(len(t) // 2, None)]
    least = max(LEAST_AMPLITUDE_K, LEAST_OF_STEP * step_k)
    if power <= 0 or sum(float(np.mean(np.abs(away[part]))) for part in half) < least:
        return None  # no period has a larger amplitude than twice the mean distance
    turns = 2 * np.pi * t[:, None] / periods
    explained = ((away @ np.cos(turns)) ** 2 + (away @ np.sin(turns)) ** 2) * 2 / len(t) / power
    best = int(np.argmax(explained))
    period = float(periods[best])
    halves = [_swing(t[part], away[part], period) for part in half]
    amplitude = float(np.mean([abs(x) for x in halves]))
    if explained[best] < LEAST_SHARE or amplitude < least:
        return None
    if min(abs(x) for x in halves) < 0.4 * max(abs(x) for x in halves):
        return None
    return Hunting(period, amplitude)


def columns(t: Floats, period_s: float, weight: Floats) -> Floats:
    """First and second harmonic of a period, as far as it has begun (``weight`` 0 to 1)."""
    turns = 2 * np.pi * t / period_s
    return np.column_stack([weight * f(k * turns) for k in (1, 2) for f in (np.cos, np.sin)])


def _swing(t: Floats, away: Floats, period_s: float) -> complex:
    turns = 2 * np.pi * t / period_s
    return complex(2 * np.mean(away * np.exp(-1j * turns)))
