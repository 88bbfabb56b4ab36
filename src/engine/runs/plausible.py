"""Readings that no machine gives: wrong units, swapped columns, a room as hot as a processor. Asked about before a log is stored."""

from dataclasses import dataclass

import numpy as np

from engine.runs.series import ROOM_CHANNEL, Floats, RunLog

# All bounds: common practice, no source. They are wide: what is outside of them is far more often a wrong column than a strange machine.
ROOM_C, PART_C = (-10.0, 45.0), (-30.0, 130.0)
UNDER_ROOM_K = 3.0  # more than thermometers differ by; common practice, no source
ROOM_MOVES_K = 12.0  # in one run; common practice, no source
# beyond any machine on a table; common practice, no source
RANGES = {"w": (0.0, 2500.0), "rpm": (0.0, 30_000.0), "dba": (0.0, 130.0), "mhz": (0.0, 12_000.0)}
UNITS = {"w": "W", "rpm": "rpm", "dba": "dBA", "mhz": "MHz"}
PARTS = ("cpu_package_c", "card_core_c", "coolant_c", "card_hotspot_c")


@dataclass(frozen=True)
class Implausible:
    """A channel, what is odd about it, and what to do."""

    channel: str
    what: str
    do: str


def implausible(log: RunLog) -> list[Implausible]:
    """Everything that speaks for a wrong column or unit; empty for a log that can be."""
    found = _room(log)
    room = None if found else log.room_c
    for name, values in log.channels.items():
        good = values[np.isfinite(values)]
        if not len(good) or name == ROOM_CHANNEL:
            continue
        unit = name.rsplit("_", 1)[-1]
        if unit == "c":
            found += _temperature(name, values, good, room)
        elif unit in RANGES:
            low, high = RANGES[unit]
            middle = float(np.median(good))
            if not low <= middle <= high:
                do = "Look whether the column is another one, or its unit (mW, GHz)."
                found.append(Implausible(name, f"it stands at {middle:g} {UNITS[unit]}", do))
    return found


def _room(log: RunLog) -> list[Implausible]:
    values = log.channels.get(ROOM_CHANNEL)
    good = values[np.isfinite(values)] if values is not None else np.empty(0)
    if not len(good):
        return []
    middle, moves = float(np.median(good)), float(np.percentile(good, 98) - np.percentile(good, 2))
    if not ROOM_C[0] <= middle <= ROOM_C[1]:
        fahrenheit = (middle - 32) / 1.8
        hint = f"; in °F that would be {fahrenheit:.0f} °C" if ROOM_C[0] <= fahrenheit <= ROOM_C[1] else ""
        return [Implausible(ROOM_CHANNEL, f"the room is at {middle:.0f} °C{hint}", "Choose its unit, or the column that is the room's.")]
    if moves > ROOM_MOVES_K:
        do = "Look whether it is swapped with another column, or hangs in the exhaust."
        return [Implausible(ROOM_CHANNEL, f"the room moves by {moves:.0f} K during the run", do)]
    return []


def _temperature(name: str, values: Floats, good: Floats, room: Floats | None) -> list[Implausible]:
    middle = float(np.median(good))
    if not PART_C[0] <= middle <= PART_C[1]:
        return [Implausible(name, f"it stands at {middle:.0f} °C", "Choose its unit (°F, K), or another column.")]
    if room is not None and name in PARTS:
        over = float(np.nanmedian(values - room))
        if over < -UNDER_ROOM_K:
            do = "Look whether room and part are swapped, or the unit is another."
            return [Implausible(name, f"it is {-over:.0f} K under the room", do)]
    return []
