"""What would explain a run that contradicts: each thing that is easily got wrong, tried on the machine, held against what was read."""

from collections.abc import Iterator, Mapping
from dataclasses import dataclass, replace

import numpy as np
from numpy.typing import NDArray

from engine.coupled.operating_point import OperatingPoint, operating_point
from engine.errors import OventaError
from engine.learn.case import Part
from engine.learn.tampered import card_slower, cooler_slower, fan_otherwise, panel_otherwise, pasted, pump_slower
from engine.machine import Machine

Floats = NDArray[np.float64]

POWER_OFF = (0.85, 1.15)  # no source: a power that much off is tried
SLOW_SHARE = 0.5  # no source: a cooler's fan or a pump that turns at half its speed
PASTE = 1.5  # no source: times the resistance from core to cooler, as bad paste makes it
ITSELF_K = 1.5  # no source: what a right cause may still be off by
HELPS = 4.0  # no source: how much the misfit must fall (chi squared) before something is called an explanation


@dataclass(frozen=True)
class Cause:
    """Something that may have been otherwise than drawn; with it the gaps between readings and forecast would be ``left_k``."""

    words: str
    code: str
    mount: str | None
    left_k: Mapping[Part, float]
    fit: float  # share of the misfit that it explains, 0 to 1


def causes(point: OperatingPoint, gaps_k: Mapping[Part, float], sigma_k: Mapping[Part, float], most: int = 3) -> list[Cause]:
    """What explains the gaps (reading less forecast, by part, in K) of one layout best, the likeliest first."""
    parts = list(gaps_k)
    gap = np.array([gaps_k[p] for p in parts])
    sigma = np.array([np.hypot(sigma_k[p], ITSELF_K) for p in parts])
    misfit = float(((gap / sigma) ** 2).sum())
    found = []
    for words, code, mount, machine in _tried(point.machine):
        try:
            other = operating_point(machine, point.parameters)
        except OventaError:
            continue
        if not other.converged:
            continue
        moved = np.array([_rise(other, p) - _rise(point, p) for p in parts])
        left = gap - moved
        rest = float(((left / sigma) ** 2).sum())
        if misfit - rest >= HELPS:
            found.append(Cause(words, code, mount, dict(zip(parts, left.tolist(), strict=True)), 1 - rest / misfit))
    return sorted(found, key=lambda c: -c.fit)[:most]


def _rise(point: OperatingPoint, part: Part) -> float:
    return point.cpu_rise_k if part == "cpu" else point.card_rise_k or 0.0


def _tried(m: Machine) -> Iterator[tuple[str, str, str | None, Machine]]:
    for i, fan in enumerate(m.fans):
        name = fan.mount.upper() + (", inner" if fan.layer == "inner" else "")
        if not fan.running:
            yield f"the fan at {name} runs", "fan_running", fan.mount, fan_otherwise(m, i, running=True)
            continue
        yield f"the fan at {name} blows the other way", "fan_reversed", fan.mount, fan_otherwise(m, i, turned=True)
        yield f"the fan at {name} stands still", "fan_stopped", fan.mount, fan_otherwise(m, i, running=False)
    for face, panel in m.panels.items():
        yield f"the {face} panel is {'on' if panel.removed else 'off'}", "panel", None, panel_otherwise(m, face)
    for share in POWER_OFF:
        words = f"{'more' if share > 1 else 'less'} power, {100 * (share - 1):+.0f} %".replace("-", "−")
        yield f"the processor draws {words}", "power", None, replace(m, cpu=replace(m.cpu, power_w=m.cpu.power_w * share))
        if m.card:
            yield f"the card draws {words}", "power", None, replace(m, card=replace(m.card, power_w=m.card.power_w * share))
    yield "poor paste on the processor", "paste", None, pasted(m, PASTE)
    slow = (
        ("the cooler's fan is slow", "cooler_slow", cooler_slower),
        ("the pump is slow", "pump_slow", pump_slower),
        ("the card's fans are slow", "card_slow", card_slower),
    )
    for words, code, made in slow:
        if (other := made(m, SLOW_SHARE)) is not None:
            yield words, code, None, other
