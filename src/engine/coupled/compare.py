"""Two operating points held against each other; a watt that a part gives up at its limit counts as its worth in kelvin."""

from engine.coupled.forecast import Forecast
from engine.coupled.operating_point import OperatingPoint

WATT_WORTH_K = 0.2  # M: a held part's watt is worth about its resistance in kelvin


def given_up_w(point: OperatingPoint) -> tuple[float, float]:
    """Power that processor and card give up at their limits, in W."""
    m = point.machine
    return m.cpu.power_w - point.powers.cpu_w, m.card.power_w - point.powers.card_w if m.card else 0.0


def told_change_k(before: Forecast, after: Forecast) -> tuple[float, float | None]:
    """``change_k`` of two forecasts, however they were told."""
    cpu = gain_k(after.cpu.rise_k, before.cpu.rise_k, after.cpu.power_w, before.cpu.power_w)
    if before.card is None or after.card is None:
        return cpu, None
    return cpu, gain_k(after.card.rise_k, before.card.rise_k, after.card.power_w, before.card.power_w)


def gain_k(rise_k: float, rise_before_k: float, power_w: float, power_before_w: float) -> float:
    """What a change does to one part in K: less is better, and power that it gets back counts for it."""
    return rise_k - rise_before_k - WATT_WORTH_K * (power_w - power_before_w)


def change_k(before: OperatingPoint, after: OperatingPoint) -> tuple[float, float | None]:
    """What a change does to processor and card in K; none for a card that only one of them has."""
    cpu = gain_k(after.cpu_rise_k, before.cpu_rise_k, after.powers.cpu_w, before.powers.cpu_w)
    if after.card_rise_k is None or before.card_rise_k is None:
        return cpu, None
    return cpu, gain_k(after.card_rise_k, before.card_rise_k, after.powers.card_w, before.powers.card_w)
