"""Speed against something else at equal heat, and heat against it at an equal level: one common speed of all case fans."""

from dataclasses import dataclass, replace

import numpy as np
from numpy.typing import NDArray

from engine.coupled.batch import FIGURES, settle_machines
from engine.coupled.forecast import level_dba
from engine.coupled.operating_point import PLANS
from engine.machine import Machine
from engine.parameters import DEFAULT

Floats = NDArray[np.float64]

SLOWEST, STEP = 0.2, 0.025  # of full speed: slower, most fans stand still (common practice, no source); numerical


@dataclass(frozen=True)
class Sweep:
    """A machine at common speeds: shares of full speed, rises in K by part, levels in dBA."""

    share: tuple[float, ...]
    cpu_k: tuple[float, ...]
    card_k: tuple[float, ...]
    level_dba: tuple[float, ...]

    def as_told(self, beyond: tuple[float, float], louder_db: float) -> "Sweep":
        """Rises in proportion to what runs say beyond the model's parameters, levels by what they heard beyond the sheets."""
        cpu, card = (tuple(r * b for r in rises) for rises, b in zip((self.cpu_k, self.card_k), beyond, strict=True))
        return replace(self, cpu_k=cpu, card_k=card, level_dba=tuple(x + louder_db for x in self.level_dba))

    def share_for(self, part: str, rise_k: float) -> float | None:
        """The slowest share at which a part is no warmer; None where it is warmer even at full speed."""
        rises = self.cpu_k if part == "cpu" else self.card_k
        for i, rise in enumerate(rises):
            if rise <= rise_k:
                if i == 0:
                    return self.share[0]
                before = rises[i - 1]
                return self.share[i - 1] + (self.share[i] - self.share[i - 1]) * (before - rise_k) / (before - rise)
        return None

    def at_level(self, part: str, level_dba: float) -> float | None:
        """A part's rise at the highest share that is no louder; None where even the slowest is."""
        share = self.loudest(level_dba)
        return None if share is None else float(np.interp(share, self.share, self.cpu_k if part == "cpu" else self.card_k))

    def loudest(self, level_dba: float) -> float | None:
        if self.level_dba[0] > level_dba:
            return None
        return float(np.interp(level_dba, self.level_dba, self.share))

    def level_at(self, share: float) -> float:
        return float(np.interp(share, self.share, self.level_dba))


def sweep(machine: Machine, parameters: Floats = DEFAULT) -> Sweep:
    """Solves a machine at common speeds of its case fans, curves off, never beyond what their owner accepts."""
    shares = np.arange(round((1 - SLOWEST) / STEP) + 1) * STEP + SLOWEST
    rows = [_at(machine, float(share)) for share in shares]
    found = settle_machines(PLANS.plan(rows[0]), rows, parameters)
    levels = [level_dba(m) for m in rows]
    cpu, card = (found.figures_k[:, FIGURES.index(part)] for part in ("cpu", "card"))
    return Sweep(tuple(shares.tolist()), tuple(cpu.tolist()), tuple(card.tolist()), tuple(levels))


def _at(machine: Machine, share: float) -> Machine:
    fans = tuple(replace(f, speed_pct=min(100 * share, f.most_pct), curve=None) for f in machine.fans)
    return replace(machine, fans=fans)
