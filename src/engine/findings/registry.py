"""All rules of good practice, in the order findings are shown within one severity."""

from collections.abc import Callable, Iterator

from engine.coupled.forecast import Forecast
from engine.coupled.operating_point import OperatingPoint
from engine.findings.finding import GRAVEST_FIRST, Finding, Situation
from engine.findings.rules import air, balance, curves, exhaust, fans, loop, neighbours, opposed, parts, radiator, short_circuit, sound

Rule = Callable[[Situation], Iterator[Finding]]

RULES: tuple[Rule, ...] = (
    opposed.radiator_fans_opposed,
    neighbours.neighbours_fight,
    *loop.RULES,
    short_circuit.intake_leaves_unused,
    exhaust.no_exhaust,
    exhaust.single_exhaust,
    sound.over_sound_limit,
    *parts.RULES,
    *radiator.RULES,
    *fans.RULES,
    *curves.RULES,
    balance.negative_unfiltered,
    *air.RULES,
)


def findings(point: OperatingPoint, forecast: Forecast) -> list[Finding]:
    """Every finding of a layout, gravest first."""
    situation = Situation(point, forecast)
    found = [finding for rule in RULES for finding in rule(situation)]
    return sorted(found, key=lambda f: GRAVEST_FIRST.index(f.severity))
