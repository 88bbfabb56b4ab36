"""What a kelvin is worth where it falls, and what a part could still be given."""

from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

Floats = NDArray[np.float64]

NEAR_LIMIT_K, FAR_FROM_LIMIT_K = 10.0, 30.0  # common practice, no source
# A kelvin counts double close to the limit, where it costs clock, and half far below it, where it is comfort; common practice, no source.
WORTH_NEAR, WORTH_BETWEEN, WORTH_FAR = 2.0, 1.0, 0.5
CLOCK_STEP_MHZ = 100.0  # a step of the firmware, from memory
CLOCK_POWER = 3.0  # power follows the clock to this power near a part's top, voltage rising with it; common practice, no source


def felt_k(rise_k: Floats, limit_rise_k: float | None) -> Floats:
    """Rises as they count: each kelvin by its worth at its distance from the limit. Monotone; plain kelvins without a limit."""
    if limit_rise_k is None:
        return rise_k
    far, near = limit_rise_k - FAR_FROM_LIMIT_K, limit_rise_k - NEAR_LIMIT_K
    between = np.clip(rise_k, far, near) - far
    return WORTH_FAR * np.minimum(rise_k, far) + WORTH_BETWEEN * between + WORTH_NEAR * np.maximum(rise_k - near, 0.0)


def worth_words(rise_k: float, limit_rise_k: float | None) -> str:
    """Why a kelvin counts as it does at this rise."""
    if limit_rise_k is None:
        return "a kelvin counts as one: no limit is known"
    left = limit_rise_k - rise_k
    if left < NEAR_LIMIT_K:
        return f"{left:.0f} K below its limit in the worst room: a kelvin counts double, it costs clock"
    if left > FAR_FROM_LIMIT_K:
        return f"{left:.0f} K below its limit in the worst room: a kelvin counts half, it is comfort"
    return f"{left:.0f} K below its limit in the worst room: a kelvin counts as one"


@dataclass(frozen=True)
class Headroom:
    """What a part could be given until its limit: in all, and as whole steps of clock where the clock is known."""

    limit_c: float
    room_c: float
    power_w: float
    most_power_w: float
    clock_mhz: float | None
    most_clock_mhz: float | None


def headroom(rise_k: float, power_w: float, limit_c: float, room_c: float, clock_mhz: float | None = None) -> Headroom | None:
    """From a measured rise: rise in proportion to power, clock by its cube root, down to whole steps. None without a rise or power."""
    if rise_k <= 0 or power_w <= 0:
        return None
    share = (limit_c - room_c) / rise_k
    most = None
    if clock_mhz is not None and share > 0:
        most = CLOCK_STEP_MHZ * (clock_mhz * share ** (1 / CLOCK_POWER) // CLOCK_STEP_MHZ)
    return Headroom(limit_c, room_c, power_w, max(power_w * share, 0.0), clock_mhz, most)
