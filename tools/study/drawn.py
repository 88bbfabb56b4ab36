"""Runs drawn for the studies, by no code that the product knows: as settled figures, and as short logs of three stages."""

from dataclasses import dataclass

import numpy as np

from engine.runs.analysis import ChannelAnalysis, RunAnalysis, analyse
from engine.runs.budget import BudgetLine, rectangular, room_lines
from engine.runs.series import RunLog

CHANNEL = "cpu_package_c"
ROOM_C = 22.0


def run_of(rise_k: float, thermometer_k: float, rng: np.random.Generator) -> RunAnalysis:
    """A settled run as its figure: the room's thermometer hung somewhere, readings scatter, the window's mean is good to 0.05 K."""
    value = rise_k + rng.uniform(-thermometer_k, thermometer_k) + rng.normal(0, 0.05)
    lines = (BudgetLine("scatter within the window", 0.05, "A", 20.0), BudgetLine("the sensor's steps", rectangular(0.05)), *room_lines())
    own = ChannelAnalysis(
        CHANNEL, value + ROOM_C, 0.4, 0.05, value + ROOM_C + 1, value, 0.2, (900, 1200), value + ROOM_C, 0.1, True, 0.0, (), budget=lines
    )
    return RunAnalysis(1200.0, True, 900.0, (own,), ())


@dataclass(frozen=True)
class Stages:
    """How a machine warms: the die at once, fins and card in a minute or two, the structure in five to ten."""

    die: float
    fast: float
    fast_s: float
    slow_s: float

    @classmethod
    def drawn(cls, rng: np.random.Generator) -> "Stages":
        return cls(rng.uniform(0.35, 0.55), rng.uniform(0.15, 0.3), rng.uniform(40, 110), rng.uniform(250, 650))

    def near(self, rng: np.random.Generator) -> "Stages":
        """The same machine with another layout: every figure a few per cent off."""
        return Stages(*(float(v * (1 + rng.normal(0, 0.08))) for v in (self.die, self.fast, self.fast_s, self.slow_s)))


def log_of(rise_k: float, minutes: float, own: Stages, rng: np.random.Generator) -> RunAnalysis:
    """A log of two readings a second minute: whole degrees, a room that wanders, a steady load."""
    t = np.arange(0, minutes * 60, 2.0)
    slow = 1 - own.die - own.fast
    rise = rise_k * (1 - own.die * np.exp(-t / 3) - own.fast * np.exp(-t / own.fast_s) - slow * np.exp(-t / own.slow_s))
    room = ROOM_C + 0.15 * np.sin(2 * np.pi * t / 900 + rng.uniform(0, 6)) + rng.normal(0, 0.05, len(t))
    readings = {CHANNEL: np.round(rise + ROOM_C + rng.normal(0, 0.5, len(t))), "room_c": np.round(room, 1)}
    return analyse(RunLog(t, readings | {"cpu_power_w": 125 + rng.normal(0, 1, len(t))}))
