"""Parts at their limit: a temperature that stands while power falls, whether the limit is known or not.

A part that is held gives up power so that its temperature stays; what it would otherwise do, cool by the share of power that is lost,
does not happen. A power limit of the firmware looks unlike: the power falls and the temperature with it.
"""

from dataclasses import dataclass
from math import sqrt

import numpy as np

from engine.runs.names import channel_words
from engine.runs.series import Floats, RunLog, medians, resolution

LEAST_SHARE, LEAST_W = 0.02, 2.0  # of power lost from its first minute to the end
STANDS_K = 1.0  # beside the sensor's step: how far a held temperature moves
FOLLOWS_SHARE = 0.35  # of the cooling that the lost power would bring: a temperature that did no more than this was held
LATE_BLOCKS = 1.5  # of the median readings, by which standing still may seem to begin later than it does
BLOCKS = 60  # numerical: a minute of an hour
NOISE_SIGMAS = 4.0  # a false alarm in 16,000 (normal distribution)
FIRST_S = (3.0, 60.0)  # after the load came on: the first minute


@dataclass(frozen=True)
class Held:
    """From ``since_s`` on a part stood at ``at_c`` and its power fell; clock in MHz where it was logged."""

    part: str
    channel: str
    since_s: float
    at_c: float
    from_w: float
    to_w: float
    from_mhz: float | None = None
    to_mhz: float | None = None

    @property
    def lost_share(self) -> float:
        return 1 - self.to_w / self.from_w

    @property
    def words(self) -> str:
        clock = f", its clock from {self.from_mhz:.0f} to {self.to_mhz:.0f} MHz" if self.from_mhz and self.to_mhz else ""
        lost = f"{self.from_w - self.to_w:.0f} W or {100 * self.lost_share:.0f} % lost"
        fell = f"{channel_words(f'{self.part}_power_w')} fell from {self.from_w:.0f} W to {self.to_w:.0f} W ({lost}){clock}"
        return f"{fell} while it stood at {self.at_c:.0f} °C from {self.since_s / 60:.1f} min on"


def held(log: RunLog, part: str) -> Held | None:
    """The part's channel that was held, the longest one; None where its power stayed, fell by itself, or was not logged."""
    power = log.channels.get(f"{part}_power_w")
    if power is None or np.isfinite(power).sum() < BLOCKS:
        return None
    found = [x for name in log.loaded if name.startswith(f"{part}_") and (x := _held(log, part, name, power)) is not None]
    return min(found, key=lambda x: x.since_s, default=None)


def _held(log: RunLog, part: str, name: str, power: Floats) -> Held | None:
    rows = max(len(power) // BLOCKS, 1)
    t, warm, watts = (medians(x, rows) for x in (log.elapsed_s, log.channels[name], power))
    known = np.isfinite(warm) & np.isfinite(watts)
    if known.sum() < BLOCKS // 2:
        return None
    t, warm, watts = t[known], warm[known], watts[known]
    last = max(len(t) // 5, 3)
    top, to_w, step = float(np.median(warm[-last:])), float(np.median(watts[-last:])), resolution(log.channels[name])
    near = STANDS_K + step
    below = np.flatnonzero(warm < top - near)
    first = int(below[-1]) + 1 if len(below) else 0  # the first block from which on it stands
    if first >= len(t) - last or float(warm[first:].max()) > top + near:
        return None
    from_w = _first_minute(log, power, power)
    scatter = float(np.median(np.abs(np.diff(watts[-2 * last :]))))
    if from_w - to_w < max(LEAST_SHARE * from_w, LEAST_W, NOISE_SIGMAS * scatter / sqrt(last)):
        return None
    # It stood before half of that was lost: what falls earlier, or while it still climbs, is a limit of power and not of temperature.
    half = float(t[int(np.argmax(watts < (from_w + to_w) / 2))])
    room = float(log.room_c[-1]) if log.room_c is not None else float(np.nanmin(log.channels[name]))
    would_k, did_k = (top - room) * (from_w - to_w) / from_w, float(warm[first : first + last].max()) - top
    if t[first] > half + LATE_BLOCKS * (t[1] - t[0]) or did_k > max(FOLLOWS_SHARE * would_k, 0.2 * step):
        return None
    clock = log.channels.get(f"{part}_clock_mhz")
    pair = (None, None) if clock is None else (_first_minute(log, clock, power), float(np.nanmedian(clock[-len(clock) // 5 :])))
    return Held(part, name, float(t[first] - t[0]), top, from_w, to_w, *pair)


def _first_minute(log: RunLog, values: Floats, power: Floats) -> float:
    """Median over the first minute of load, which begins when the power passes half of what it is later."""
    on = np.flatnonzero(power > 0.5 * float(np.nanmedian(power)))
    begun = float(log.elapsed_s[on[0]]) if len(on) else float(log.elapsed_s[0])
    use = (log.elapsed_s >= begun + FIRST_S[0]) & (log.elapsed_s <= begun + FIRST_S[1]) & np.isfinite(values)
    return float(np.median(values[use])) if use.any() else float(np.nanmedian(values))
