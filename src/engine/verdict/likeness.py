"""What layouts' runs were not alike in, in kelvin: power, clock, fans, the room. What it does to a difference has a sign and a size.

A part that was given less power is cooler for that reason; how much follows from its own kelvins per watt, by the forecast where one
is there, else from its measured rise, most of which is its own heat. A word is taken away only where that could turn it.
"""

from collections.abc import Sequence
from dataclasses import dataclass
from math import hypot, sqrt

import numpy as np

from engine.runs.budget import coverage_factor
from engine.verdict.candidate import Candidate

POWER_APART_SHARE = 0.03  # more than a load wanders by; common practice, no source
CLOCK_APART_SHARE = 0.02  # likewise
OWN_OF_RISE, OWN_OF_RISE_SD = 0.85, 0.09  # of a part's rise that its own heat makes; the rest is the other part's (study of the engine)
POWER_PER_CLOCK, POWER_PER_CLOCK_SD = 2.3, 0.5  # power follows the clock with about this exponent, as voltage follows too; from memory
ROOM_SHARE = 0.012  # of a rise per kelvin of the room: leakage, curves, density; from memory
ROOM_APART_K = 3.0  # common practice, no source
COLD_K, COLD_SD_K, MOST_AT_ONCE_K = 1.0, 0.6, 1.5  # beyond what sensors and a thermometer differ by; from memory
SAME_HOUR_H, NEIGHBOURS_APART_K = 2.0, 1.2  # common practice, no source
LEAST_K = 0.05  # less is not worth saying
PARTS = ("cpu", "card", "coolant")


@dataclass(frozen=True)
class Worth:
    """What something unlike adds to b less a, in K, with one sigma; ``words`` name it."""

    words: str
    kelvin: float
    standard: float

    @property
    def said(self) -> str:
        band = coverage_factor(float("inf")) * self.standard
        return f"{self.words}, worth {self.kelvin:+.1f} ± {band:.1f} K".replace("-", "\N{MINUS SIGN}")


def worths(a: Candidate, b: Candidate, channel: str) -> list[Worth]:
    """All that is known to lie between two layouts beside the layouts; temperatures only."""
    part = channel.split("_")[0]
    if not channel.endswith("_c") or a.at_limit(part) or b.at_limit(part):
        return []
    found = [*_power(a, b, channel), *_rooms(a, b, channel), *_cold_starts(a, b), *_neighbours(a, b)]
    for sign, side in ((-1, a), (1, b)):
        for deviation in side.deviations:
            if channel in deviation.adds_k:
                kelvin, standard = deviation.adds_k[channel]
                found.append(Worth(f"{side.name}: {deviation.words}", sign * kelvin, standard))
    return [x for x in found if abs(x.kelvin) >= LEAST_K or x.standard >= LEAST_K]


def together(found: Sequence[Worth]) -> tuple[float, float]:
    """Their sum with one sigma."""
    return sum(x.kelvin for x in found), hypot(*(x.standard for x in found)) if found else 0.0


def _power(a: Candidate, b: Candidate, channel: str) -> list[Worth]:
    """By power where it was read of both, else by clock."""
    part = channel.split("_")[0]
    if part not in PARTS:
        return []
    own = "card" if part == "card" else "cpu"
    if any(a.named.get(x) != b.named.get(x) for x in (f"{own}_power", "card" if own == "card" else "processor")):
        return []  # another part, or another power, was what was asked for
    slopes = [x for side in (a, b) if (x := k_per_w(side, channel, f"{own}_power_w")) is not None]
    powers = [side.values(f"{own}_power_w") for side in (a, b)]
    if all(powers) and slopes:
        one, two = (float(np.mean(x)) for x in powers)
        if abs(one - two) <= POWER_APART_SHARE * max(one, two):
            return []
        slope, standard = (float(np.mean([x[i] for x in slopes])) for i in (0, 1))
        return [Worth(f"unlike load: {one:.0f} W against {two:.0f} W", slope * (two - one), standard * abs(two - one))]
    words, rises = clocks_apart(a, b, channel), [side.values(channel) for side in (a, b)]
    if not words or not all(rises):
        return []
    one, two = (float(np.mean(side.values(f"{own}_clock_mhz"))) for side in (a, b))
    ways = float(np.mean([np.mean(x) for x in rises])) * OWN_OF_RISE * (two - one) / ((one + two) / 2)
    return [Worth(words, POWER_PER_CLOCK * ways, POWER_PER_CLOCK_SD * abs(ways))]


def clocks_apart(a: Candidate, b: Candidate, channel: str) -> str:
    """Words where a part ran at another clock in one of two layouts; empty where it did not, or nobody read it."""
    part = channel.split("_")[0]
    clocks = [side.values(f"{'card' if part == 'card' else 'cpu'}_clock_mhz") for side in (a, b)] if part in PARTS else []
    if not clocks or not all(clocks):
        return ""
    one, two = (float(np.mean(x)) for x in clocks)
    apart = abs(one - two) > CLOCK_APART_SHARE * max(one, two)
    return f"unlike clock: {one:.0f} MHz against {two:.0f} MHz" if apart else ""


def k_per_w(side: Candidate, channel: str, power: str) -> tuple[float, float] | None:
    """(K per W, one sigma): as given for the layout, else from its own rise."""
    if channel in side.k_per_w:
        return side.k_per_w[channel]
    rises, watts = side.values(channel), side.values(power)
    if not rises or not watts or float(np.mean(watts)) <= 0:
        return None
    whole = float(np.mean(rises)) / float(np.mean(watts))
    return OWN_OF_RISE * whole, OWN_OF_RISE_SD * whole


def _rooms(a: Candidate, b: Candidate, channel: str) -> list[Worth]:
    """Over room corrects most of a warmer room, not what a part leaks more or a curve does."""
    rooms = [[room.mean for run in side.judged if (room := run.channel("room_c"))] for side in (a, b)]
    rises = [side.values(channel) for side in (a, b)]
    if not all(rooms) or not all(rises):
        return []
    one, two = (float(np.mean(x)) for x in rooms)
    if abs(two - one) <= ROOM_APART_K:
        return []
    adds = ROOM_SHARE * (two - one) * float(np.mean([np.mean(x) for x in rises]))
    return [Worth(f"rooms {abs(two - one):.1f} K apart", adds, abs(adds))]


def _cold_starts(a: Candidate, b: Candidate) -> list[Worth]:
    """A layout whose parts start colder than its room: the thermometer hung too warm, and every rise is too small by that."""
    starts = [[run.start_k for run in side.judged if run.start_k is not None] for side in (a, b)]
    if not all(starts):
        return []
    one, two = (float(np.mean(x)) for x in starts)
    found = []
    for sign, side, own, other in ((-1, a, one, two), (1, b, two, one)):
        if own < -COLD_K:
            # Loads warm at once: what a cold machine reads in its first seconds is what the other layout's shows, if that was cold too.
            off = own - min(max(other, 0.0), MOST_AT_ONCE_K)
            words = f"{side.name}: its parts start {-own:.1f} K colder than its room, whose thermometer may hang too warm"
            found.append(Worth(words, sign * off, COLD_SD_K))
    return found


def _neighbours(a: Candidate, b: Candidate) -> list[Worth]:
    """Runs made in the same hour whose rooms lie apart, always the same way about: the thermometer moved with the layout, or the room."""
    rooms = [_rooms_by_hour(side) for side in (a, b)]
    gaps = [
        two - one
        for at, one in rooms[0]
        for when, two in rooms[1]
        if abs(when - at) <= SAME_HOUR_H and abs(when - at) == min(abs(when - x) for x, _ in rooms[0])
    ]
    if len(gaps) < 2 or min(abs(x) for x in gaps) < NEIGHBOURS_APART_K or min(gaps) < 0 < max(gaps):
        return []
    gap = float(np.mean(gaps))
    # Between the room being so and its thermometer alone: a rectangle from nothing to the whole gap (source: gum, 4.3.7).
    return [Worth(f"rooms of neighbouring runs {abs(gap):.1f} K apart, the same way each time", -gap / 2, abs(gap) / sqrt(12))]


def _rooms_by_hour(side: Candidate) -> list[tuple[float, float]]:
    if len(side.hours) != len(side.runs):
        return []
    return [(at, room.mean) for at, run in zip(side.hours, side.runs, strict=True) if (room := run.channel("room_c"))]


def like(difference: float, standard: float, found: Sequence[Worth]) -> tuple[float, float]:
    """A difference as it would be at like conditions, with its one sigma."""
    kelvin, own = together(found)
    return difference - kelvin, sqrt(standard**2 + own**2)
