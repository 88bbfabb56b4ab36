"""Layouts of one network solved by the thousand: rows made from states of mounts, no object per layout."""

from dataclasses import dataclass, replace
from functools import cached_property

import numpy as np
from numpy.typing import NDArray

from engine import constants as k
from engine.coupled.batch import settle_variants
from engine.coupled.forecast import fan_level_dba, inner_levels
from engine.coupled.links import cooler_slot, fan_slots
from engine.coupled.program import Curves, Plan, Variants, variants
from engine.learn.levels import BACKGROUND, NOTHING_OFF, Offsets
from engine.machine import Fan, Machine, PlacedFan
from engine.search.space import EMPTY, States, is_intake, kind_of

Floats = NDArray[np.float64]
SAME_DB = 1e-9  # numerical
LOST_W = 1e-6  # numerical
ROWS = 2_000  # at a time: tables of fan curves take some kilobytes a row


@dataclass(frozen=True)
class Solved:
    """Rises in K over the room, levels in dBA, ``lost_w`` that processor and card give up at their limits, (rows, 2).

    ``settled``: an equilibrium was found. ``flow_m3s`` goes along the plan's links.
    """

    cpu_k: Floats
    card_k: Floats
    coolant_k: Floats
    level_dba: Floats
    lost_w: Floats
    settled: NDArray[np.bool_]
    flow_m3s: Floats


@dataclass(frozen=True)
class Field:
    """One case with a radiator, cooler and card in their places; only its fans vary. ``machine`` has none, ``fans`` are the kinds.

    ``off``: how far what sounds lies off its sheet, as runs have taught; ``meter_db``: what their meter adds. A sound is its energy at
    the listener, 10^(L/10), as in ``engine.learn.levels``.
    """

    machine: Machine
    fans: tuple[Fan, ...]
    most_pct: tuple[float, ...]
    mounts: tuple[str, ...]
    off: Offsets = NOTHING_OFF
    meter_db: float = 0.0

    @cached_property
    def plan(self) -> Plan:
        return Plan.of(self.machine)

    @cached_property
    def _templates(self) -> tuple[list[Variants], Curves]:
        """For each kind a row with such a fan at every mount."""
        full = [
            replace(self.machine, fans=tuple(PlacedFan(m, fan, "intake", "outer", 100.0, True) for m in self.mounts)) for fan in self.fans
        ]
        made = [variants(self.plan, [m]) for m in full]
        bare = variants(self.plan, [self.machine])
        return [bare[0], *(m[0] for m in made)], bare[1]

    @cached_property
    def _slots(self) -> NDArray[np.int64]:
        probe = replace(self.machine, fans=tuple(PlacedFan(m, self.fans[0], "intake", "outer", 100.0, True) for m in self.mounts))
        return np.array(fan_slots(probe), dtype=np.int64)

    @cached_property
    def _full_sounds(self) -> tuple[Floats, Floats]:
        """Of one fan at full speed, (mounts, kinds), and the power by which it falls with its share of speed, (kinds)."""
        found = np.zeros((len(self.mounts), len(self.fans)))
        for i, mount in enumerate(self.mounts):
            for j, fan in enumerate(self.fans):
                level = fan_level_dba(self.machine, PlacedFan(mount, fan, "intake", "outer", 100.0, True), 1.0)
                found[i, j] = 10 ** ((level + self.off.fan_db(self.machine, mount, fan.id, 1.0)) / 10)
        laws = [k.SPEED_LEVEL_EXPONENT_DB + self.off.by_key.get(("law", fan.id), 0.0) for fan in self.fans]
        return found, np.array(laws) / 10

    def inner_sound(self, cooler: Floats, card: Floats, pump: Floats) -> Floats:
        """What sounds inside, with the room's own level, by the shares of speed of cooler, card and pump."""
        shares = np.unique(np.round(np.column_stack([cooler, card, pump]), 4), axis=0, return_inverse=True)
        table = np.array([self._inner(*row) for row in shares[0]])
        return np.asarray(table[np.ravel(shares[1])])

    def _inner(self, cooler: float, card: float, pump: float) -> float:
        levels = inner_levels(self.machine, 100 * cooler, 100 * card, 100 * pump)
        own = [(BACKGROUND, self.machine.room.background_dba), *levels]
        return float(sum(10 ** ((level + self.off.inner_db(name)) / 10) for name, level in own))

    def fan_sound(self, states: States, speed: Floats) -> Floats:
        kinds = kind_of(states)
        full, laws = self._full_sounds
        own = np.where(kinds < 0, 0.0, full[np.arange(len(self.mounts)), np.maximum(kinds, 0)])
        return np.asarray((own * self._shares(kinds, speed) ** laws[np.maximum(kinds, 0)]).sum(axis=1))

    def level_dba(self, sound: Floats) -> Floats:
        return np.asarray(10 * np.log10(sound) + self.meter_db)

    def _shares(self, kinds: States, speed: Floats) -> Floats:
        """Speeds by mount as shares of full speed, no more than the owner of a fan accepts."""
        most = np.array(self.most_pct)[np.maximum(kinds, 0)] / 100
        return np.where(kinds < 0, 0.0, np.minimum(speed[:, None], most))

    def speed_for(self, states: States, level_dba: float, inner_sound: float, least: float) -> Floats:
        """The highest common speed in whole per cent with which the level is kept, as a share; 0 where not even ``least`` keeps it."""
        grid = np.arange(100, round(100 * least) - 1, -1) / 100
        found = np.zeros(len(states))
        for share in grid:
            todo = np.flatnonzero(found == 0)
            if not len(todo):
                break
            kept = self.level_dba(inner_sound + self.fan_sound(states[todo], np.full(len(todo), share))) <= level_dba + SAME_DB
            found[todo[kept]] = share
        return found

    def solve(self, states: States, speed: Floats, parameters: Floats, stopped: NDArray[np.int64] | None = None) -> Solved:
        """Every row at its common speed. ``stopped``: by row, the mount whose fan stands still."""
        cuts = [slice(i, i + ROWS) for i in range(0, len(states), ROWS)]
        parts = [self._some(states[c], speed[c], parameters, None if stopped is None else stopped[c]) for c in cuts]
        if not parts:
            none = np.zeros(0)
            return Solved(none, none, none, none, np.zeros((0, 2)), none.astype(bool), np.zeros((0, len(self.plan.links))))
        return Solved(*(np.concatenate([getattr(p, name) for p in parts]) for name in Solved.__dataclass_fields__))

    def _some(self, states: States, speed: Floats, parameters: Floats, stopped: NDArray[np.int64] | None) -> Solved:
        va, curves = self._rows(states, speed)
        if stopped is not None:
            va.speed[np.arange(len(states)), self._slots[stopped]] = 0.0
        found = settle_variants(self.plan, va, curves, parameters)
        own = cooler_slot(self.machine)
        inner = self.inner_sound(found.speed[:, own], found.speed[:, own + 1], found.speed[:, own + 2])
        level = self.level_dba(inner + self.fan_sound(states, speed))
        lost = va.power_w - found.power_w
        lost[lost < LOST_W] = 0.0
        cpu, card, coolant = found.figures_k[:, :3].T
        return Solved(cpu, card, coolant, level, lost, found.converged, found.flow_m3s)

    def _rows(self, states: States, speed: Floats) -> tuple[Variants, Curves]:
        kinds = kind_of(states)
        templates, curves = self._templates
        rows = len(states)
        bare = templates[0]
        made = {name: np.repeat(getattr(bare, name), rows, axis=0) for name in Variants._fields}
        for kind in range(len(self.fans)):
            full = templates[1 + kind]
            at_row, at_mount = np.nonzero(kinds == kind)
            slot = self._slots[at_mount]
            for name in ("pressure_pa", "flow_m3s", "linear", "by_table", "table"):
                made[name][at_row, slot] = getattr(full, name)[0, slot]
        at_row, at_mount = np.nonzero(states != EMPTY)
        slot = self._slots[at_mount]
        made["sign"][at_row, slot] = np.where(is_intake(states)[at_row, at_mount], 1.0, -1.0)
        made["speed"][at_row, slot] = self._shares(kinds, speed)[at_row, at_mount]
        return Variants(**made), curves


PROBES, SAME_K = 12, 1e-6  # numerical: layouts that are tried with two mounts exchanged, and what may differ then


def alike_mounts(field: Field, parameters: Floats) -> list[tuple[int, ...]]:
    """Mounts that may be exchanged without any figure changing: one beside the other across the width, where the case is even there.

    Found by trying: mounts of one face, height and depth, their fans exchanged in layouts drawn at random.
    """
    m = field.machine
    held = {x for loop in m.loops for r in loop.radiators for x in r.mounts}
    rows: dict[tuple[object, ...], list[int]] = {}
    for i, name in enumerate(field.mounts):
        own = m.mounts[name]
        if name not in held:
            place = (own.face, round(own.centre_mm.x, 3), round(own.centre_mm.z, 3), own.size_mm, own.on_shroud)
            rows.setdefault(place, []).append(i)
    found = []
    for group in rows.values():
        alike = [group[0]]
        alike += [other for other in group[1:] if _exchange(field, group[0], other, parameters)]
        if len(alike) > 1:
            found.append(tuple(alike))
    return found


def _exchange(field: Field, one: int, other: int, parameters: Floats) -> bool:
    rng = np.random.default_rng(1)
    states = rng.integers(0, 1 + 2 * len(field.fans), (PROBES, len(field.mounts))).astype(np.int8)
    states[:, one], states[:, other] = 1 + np.arange(PROBES) % 2, EMPTY
    swapped = states.copy()
    swapped[:, [one, other]] = states[:, [other, one]]
    a, b = (field.solve(s, np.full(PROBES, 0.8), parameters) for s in (states, swapped))
    level = np.abs(a.level_dba - b.level_dba).max()
    return bool(max(np.abs(a.cpu_k - b.cpu_k).max(), np.abs(a.card_k - b.card_k).max(), level) < SAME_K)
