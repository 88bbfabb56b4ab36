"""Speeds for a target level: one factor for all, or a speed for each group of fans, past bands that hum."""

from collections.abc import Mapping, Sequence
from dataclasses import dataclass, replace
from itertools import product

import numpy as np
from numpy.typing import NDArray

from engine.coupled.batch import FIGURES, settle_machines
from engine.coupled.forecast import level_dba
from engine.coupled.operating_point import PLANS
from engine.machine import Machine, PlacedFan
from engine.parameters import DEFAULT

Floats = NDArray[np.float64]

SLOWEST_PCT = 20.0  # M: slower, most fans stand still or stutter
# numerical: a first grid, refined by FINE_PCT
STEPS_PCT = (0.0, SLOWEST_PCT, 25.0, 30.0, 35.0, 40.0, 45.0, 50.0, 55.0, 60.0, 65.0, 70.0, 75.0, 80.0, 85.0, 90.0, 95.0, 100.0)
MOST_LAYOUTS = 5000  # numerical
FINE_PCT = 1.0  # numerical: finer than a fan holds


@dataclass(frozen=True)
class QuietSpeeds:
    """Speeds in % by mount at the target, with what they cost. ``reached`` is false where even rest is too loud."""

    speeds_pct: dict[str, float]
    level_dba: float
    cpu_rise_k: float
    card_rise_k: float | None
    reached: bool


def hums(fan: PlacedFan, speed_pct: float, avoid_rpm: Sequence[tuple[float, float]]) -> bool:
    """Whether a fan at a speed turns within a band to be avoided."""
    rpm = fan.fan.speed_max_rpm * speed_pct / 100
    return any(low <= rpm <= high for low, high in (*avoid_rpm, *fan.fan.avoid_rpm))


def groups_by_face(machine: Machine) -> dict[str, tuple[str, ...]]:
    """Mounts with running fans, by the face they stand on."""
    found: dict[str, list[str]] = {}
    for fan in machine.fans:
        mount = machine.mounts[fan.mount]
        found.setdefault("shroud" if mount.on_shroud else mount.face, []).append(fan.mount)
    return {face: tuple(dict.fromkeys(mounts)) for face, mounts in found.items()}


def _with_speeds(machine: Machine, by_mount: Mapping[str, float]) -> Machine:
    fans = tuple(replace(f, speed_pct=min(by_mount.get(f.mount, f.speed_pct), f.most_pct), curve=None) for f in machine.fans)
    return replace(machine, fans=fans)


def quiet_speeds(
    machine: Machine,
    target_dba: float,
    groups: Mapping[str, Sequence[str]],
    avoid_rpm: Sequence[tuple[float, float]] = (),
    parameters: Floats = DEFAULT,
) -> QuietSpeeds:
    """The coolest choice of one speed per group whose level stays at or under the target; cooler and card as they are.

    "Coolest" is the smaller sum of the processor's and the card's rises, limits counted by the power they cost. Levels are
    exact, temperatures from one batch over a grid of speeds, refined about the best in steps of 1 %.
    """
    names = list(groups)
    base = _with_speeds(machine, {})
    choices = [_allowed(base, groups[name], avoid_rpm) for name in names]
    while np.prod([len(c) for c in choices]) > MOST_LAYOUTS:
        longest = max(range(len(choices)), key=lambda i: len(choices[i]))
        choices[longest] = (
            choices[longest][::2] if choices[longest][-1] == choices[longest][::2][-1] else [*choices[longest][::2], choices[longest][-1]]
        )
    grid = [dict(zip(names, combo, strict=True)) for combo in product(*choices)]
    best = _best(base, grid, groups, target_dba, parameters)
    if best is None:
        rest = {name: choices[i][0] for i, name in enumerate(names)}
        return _answer(base, rest, groups, parameters, reached=False)
    for _ in range(12):  # climb in fine steps while the target allows it
        nearby = [
            {**best, name: round(_next(best[name], step), 1)}
            for name in names
            for step in (-5.0, -FINE_PCT, FINE_PCT, 5.0)
            if SLOWEST_PCT <= _next(best[name], step) <= 100 and not _any_hums(base, groups[name], _next(best[name], step), avoid_rpm)
        ]
        better = _best(base, [best, *nearby], groups, target_dba, parameters)
        if better is None or better == best:
            break
        best = better
    return _answer(base, best, groups, parameters, reached=True)


def _next(speed_pct: float, step_pct: float) -> float:
    """The speed a step on; from standing still the next is the slowest at which a fan turns."""
    return SLOWEST_PCT if speed_pct == 0 and step_pct > 0 else speed_pct + step_pct


def _any_hums(machine: Machine, mounts: Sequence[str], speed_pct: float, avoid_rpm: Sequence[tuple[float, float]]) -> bool:
    return any(hums(f, speed_pct, avoid_rpm) for f in machine.fans if f.mount in mounts)


def _allowed(machine: Machine, mounts: Sequence[str], avoid_rpm: Sequence[tuple[float, float]]) -> list[float]:
    return [s for s in STEPS_PCT if not _any_hums(machine, mounts, s, avoid_rpm)] or [0.0]


def _spread(speeds: Mapping[str, float], groups: Mapping[str, Sequence[str]]) -> dict[str, float]:
    return {mount: speeds[name] for name, mounts in groups.items() for mount in mounts}


def _best(
    machine: Machine, grid: list[dict[str, float]], groups: Mapping[str, Sequence[str]], target_dba: float, parameters: Floats
) -> dict[str, float] | None:
    quiet = [
        (speeds, m) for speeds, m in ((s, _with_speeds(machine, _spread(s, groups))) for s in grid) if level_dba(m) <= target_dba + 1e-9
    ]
    if not quiet:
        return None
    found = settle_machines(PLANS.plan(machine), [m for _, m in quiet], parameters)
    full = np.array([machine.cpu.power_w, machine.card.power_w if machine.card else 0.0])
    lost = (full - found.power_w).sum(axis=1)
    cost = found.figures_k[:, FIGURES.index("cpu")] + lost * 10
    if machine.card:
        cost = cost + found.figures_k[:, FIGURES.index("card")]
    return quiet[int(np.argmin(np.round(cost, 3)))][0]


def _answer(
    machine: Machine, speeds: Mapping[str, float], groups: Mapping[str, Sequence[str]], parameters: Floats, reached: bool
) -> QuietSpeeds:
    m = _with_speeds(machine, _spread(speeds, groups))
    by_mount = {f.mount: f.speed_pct for f in m.fans if f.mount in _spread(speeds, groups)}
    found = settle_machines(PLANS.plan(m), [m], parameters)
    cpu, card = (float(found.figures_k[0, FIGURES.index(x)]) for x in ("cpu", "card"))
    return QuietSpeeds(by_mount, level_dba(m), cpu, card if m.card else None, reached)
