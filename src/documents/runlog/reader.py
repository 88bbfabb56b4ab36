"""Reads a logger's text file: a table, its times, its columns as channels.

Nothing is half imported: either a whole log comes back, with notes on what was passed over, or an UnreadableLogError.
"""

import re
from collections import Counter
from collections.abc import Callable
from dataclasses import dataclass, replace
from datetime import datetime

import numpy as np

from documents.runlog.mapping import CHANNEL_NAME, TIME, Column, guess_channel, known_channel, unit_of
from documents.runlog.table import EMPTY, Table, decode, numbers, read_table, unit_in_cells
from documents.runlog.times import began, elapsed
from engine.errors import UnreadableLogError
from engine.runs.series import Floats, RunLog
from engine.units import fahrenheit_to_celsius

__all__ = ["CHANNEL_NAME", "ImportedLog", "decode", "read_log", "read_table"]
MOST_LOST = 3  # rows named one by one
KELVIN = 273.15
LONGEST_S = 31 * 86400.0  # of one run
LARGEST_READING = 1e9


@dataclass(frozen=True)
class ImportedLog:
    log: RunLog
    columns: list[Column]
    notes: list[str]
    questions: list[str]
    headings: list[str]
    began: datetime | None = None  # by the log's own clock, where it holds dates


Mapping = dict[str, str | None]


Units = dict[str, str]


def read_log(
    data: bytes, mapping: Mapping | Callable[[list[str]], Mapping] | None = None, lenient: bool = False, units: Units | None = None
) -> ImportedLog:
    """A whole run from a file. ``mapping`` gives channels for headings and overrides the guess, or is asked for with the headings;
    ``units`` gives units for headings and overrides what they say.

    ``lenient``: a file without a recognised temperature comes back with a question instead of an error, so that it can be mapped.
    """
    table = read_table(data)
    at = [i for i, h in enumerate(table.headings) if TIME.match(h.strip())]
    if not at:
        at = _time_by_content(table)
    seconds, notes = elapsed([table.columns[i] for i in at], [table.headings[i] for i in at], table.decimal)
    said = mapping(table.headings) if callable(mapping) else mapping or {}
    columns, questions = _columns(table, set(at), said, units or {})
    seconds, wild = _within_reach(seconds)
    order, passed = _order(seconds)
    read = [(c, _readings(table, c)) for c in columns if c.channel is not None]
    channels = {str(c.channel): _converted(values, c.unit)[order] for c, values in read}
    if not any(c.endswith("_c") for c in channels):
        if not lenient:
            raise UnreadableLogError("no temperature column recognised", "header row", "Say which column is which.")
        questions.append("No column is surely a temperature: say which is which.")
    notes = [*table.notes, *notes]
    if table.skipped:
        notes.append(f"{table.skipped} rows that hold no readings were passed over")
    if passed:
        rows = ", ".join(str(r + 1) for r in passed[:MOST_LOST]) + (" …" if len(passed) > MOST_LOST else "")
        notes.append(f"{len(passed)} rows with no or a repeated time were passed over (data rows {rows})")
    notes += [*wild, *_unread(table, read)]
    times = seconds[order]
    if len(times) < 2:
        raise UnreadableLogError("no two rows have different times", "time column", "Look whether the right column holds the times.")
    moment = began([table.columns[i] for i in at], [table.headings[i] for i in at])
    return ImportedLog(RunLog(times - times[0], channels), columns, notes, questions, table.headings, moment)


def described(data: bytes, columns: list[Column]) -> list[Column]:
    """The same columns with their first cells and their range, for a person to recognise them by."""
    table = read_table(data)
    found = []
    for c in columns:
        values = numbers(table.columns[c.index], table.decimal)
        good = values[np.isfinite(values)]
        low, high = (float(good.min()), float(good.max())) if len(good) else (None, None)
        found.append(replace(c, first=tuple(table.columns[c.index][:3]), low=low, high=high))
    return found


def _time_by_content(table: Table) -> list[int]:
    """The column that holds dates or clocks though its heading does not say so. Bare numbers are never guessed to be times."""
    middle = table.rows // 2
    for i, column in enumerate(table.columns):
        if re.match(r"^\d{1,4}[-./]\d{1,2}[-./]\d{1,4}[ T]\d|^\d{1,2}:\d{2}", column[middle]):
            return [i]
    raise UnreadableLogError("no column of times", "header row", 'Name one column "elapsed_s" or "time".')


def _readings(table: Table, column: Column) -> Floats:
    """A column's readings; what no instrument shows is none."""
    values = numbers(table.columns[column.index], table.decimal)
    return np.where(np.abs(values) <= LARGEST_READING, values, np.nan)


def _within_reach(seconds: Floats) -> tuple[Floats, list[str]]:
    """Times of one run: rows that a wrong clock puts a month away from the others are set aside. Raises for a log that is longer anyway."""
    good = np.flatnonzero(np.isfinite(seconds))
    if not len(good):
        return seconds, []
    away = np.abs(seconds - np.median(seconds[good])) > LONGEST_S
    notes = []
    if away.any():
        first = int(np.flatnonzero(away)[0])
        notes = [f"{int(away.sum())} rows whose time is out of reach of the others were set aside (the first is data row {first + 1})"]
        seconds = np.where(away, np.nan, seconds)
        good = np.flatnonzero(np.isfinite(seconds))
    if float(np.max(seconds[good]) - np.min(seconds[good])) > LONGEST_S:
        do = "Split it into runs, or correct the time that is wrong."
        raise UnreadableLogError(f"the times reach over {np.ptp(seconds[good]) / 86400:.0f} days", "time column", do)
    return seconds, notes


def _order(seconds: Floats) -> tuple[np.ndarray[tuple[int], np.dtype[np.int64]], list[int]]:
    """Rows by time, each time once; and the rows that were left out."""
    keep = np.flatnonzero(np.isfinite(seconds))
    order = keep[np.argsort(seconds[keep], kind="stable")]
    if len(order):
        order = order[np.concatenate([[True], np.diff(seconds[order]) > 0])]
    return order, sorted(set(range(len(seconds))) - set(order.tolist()))


def _converted(values: Floats, unit: str) -> Floats:
    if unit == "f":
        return np.asarray(fahrenheit_to_celsius(values), float)  # type: ignore[arg-type]  # works for arrays as for numbers
    return values - KELVIN if unit == "k" else values * {"ghz": 1000.0, "mw": 0.001}.get(unit, 1.0)


def _columns(table: Table, times: set[int], mapping: Mapping, units: Units) -> tuple[list[Column], list[str]]:
    """What each column becomes. A file of our own names is taken at its word."""
    found, questions = [], []
    others = [h for i, h in enumerate(table.headings) if i not in times]
    own = bool(others) and all(re.match(CHANNEL_NAME, h) for h in others)
    for i, heading in enumerate(table.headings):
        if i in times:
            continue
        unit = units.get(heading) or unit_of(heading) or unit_in_cells(table.columns[i])
        channel = guess_channel(heading, unit)
        if own and not known_channel(heading) and (channel is None or channel in others or not known_channel(channel)):
            channel = heading
        plain = re.sub(r" #\d+$", "", heading)
        channel = mapping[heading] if heading in mapping else mapping.get(plain, channel) if plain != heading else channel
        found.append(Column(i, heading, channel, unit))
    for name, count in Counter(c.channel for c in found if c.channel).items():
        if count > 1:
            same = [c for c in found if c.channel == name]
            best = max(same, key=lambda c: _span(table, c.index))
            questions.append(f"{' and '.join(c.heading for c in same)} could both be {name}; taken: {best.heading}, which warms up most.")
            found = [c if c.channel != name or c is best else Column(c.index, c.heading, None, c.unit) for c in found]
    return found, questions


def _span(table: Table, index: int) -> float:
    values = numbers(table.columns[index], table.decimal)
    return float(np.nanmax(values) - np.nanmin(values)) if np.isfinite(values).any() else 0.0


def _unread(table: Table, columns: list[tuple[Column, Floats]]) -> list[str]:
    """Cells of taken columns that say something but are no reading, with the first place."""
    notes = []
    for column, values in columns:
        cells = table.columns[column.index]
        bad = [i for i in np.flatnonzero(~np.isfinite(values)).tolist() if cells[i].lower() not in EMPTY]
        if bad:
            notes.append(f"{column.heading}: {len(bad)} cells are no readings, the first {cells[bad[0]]!r} in data row {bad[0] + 1}")
    return notes
