"""Runs with known figures, made without readings: for tests of what is said of runs, not of how they are analysed."""

from collections.abc import Mapping, Sequence

import numpy as np

from engine.runs.analysis import ChannelAnalysis, RunAnalysis
from engine.runs.budget import BudgetLine, room_lines, sensor_error
from engine.runs.flag import Flag
from engine.verdict.candidate import Candidate

WINDOW = (2100.0, 2400.0)
ROOM_C = 22.0


def channel(name: str, value: float, error: float = 0.1) -> ChannelAnalysis:
    """A channel whose mean (over room where it is a temperature) is ``value``."""
    heat = name.endswith("_c") and name != "room_c"
    own = BudgetLine("scatter within the window", error, "A", 30.0)
    sensor = sensor_error(name)
    lines = (own, *(room_lines() if heat else ()), *((sensor,) if sensor else ()))
    return ChannelAnalysis(
        name=name,
        mean=value + ROOM_C if heat else value,
        sd=0.5,
        standard_error=error,
        max=value + (ROOM_C if heat else 0.0) + 1,
        rise_k=value if heat else None,
        rise_standard_error=error if heat else None,
        window_s=WINDOW,
        final_estimate=None,
        final_band=None,
        settled=True if heat else None,
        minutes_left=None,
        flags=(),
        budget=lines,
    )


def run(flags: Sequence[Flag] = (), /, **figures: float) -> RunAnalysis:
    """Named as channels: ``run(cpu_package_c=45, sound_dba=32)``."""
    return run_of(figures, flags)


def run_of(figures: Mapping[str, float], flags: Sequence[Flag] = (), settled: bool = True, room_c: float = ROOM_C) -> RunAnalysis:
    channels = [channel(name, value) for name, value in figures.items()]
    return RunAnalysis(2400.0, settled, 1200.0 if settled else None, (*channels, channel("room_c", room_c)), tuple(flags))


def layout(name: str, repeats: int = 2, scatter: float = 0.2, /, **figures: float) -> Candidate:
    """``layout("A", 3, cpu_package_c=50)``."""
    return layout_of(name, figures, repeats, scatter)


def layout_of(name: str, figures: Mapping[str, float], repeats: int = 2, scatter: float = 0.2) -> Candidate:
    """A layout whose runs scatter evenly about the given figures, so that their mean is exact."""
    away = np.random.default_rng(ord(name[0])).normal(0, scatter, repeats)
    away -= away.mean()
    return Candidate(name, [run_of({n: v + float(a) for n, v in figures.items()}) for a in away])
