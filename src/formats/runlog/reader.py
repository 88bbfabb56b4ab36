"""Reads a logger's text file: encoding, delimiter, header lines, decimals, times, units; then channels.

Nothing is half imported: either a whole log comes back, with notes on what was skipped, or an UnreadableLogError.
"""

import csv
import io
import re
from collections import Counter
from dataclasses import dataclass, field
from datetime import datetime, timedelta

import numpy as np
from charset_normalizer import from_bytes
from dateutil import parser as dates

from engine.errors import UnreadableLogError
from engine.runs.series import RunLog
from engine.units import fahrenheit_to_celsius
from formats.runlog.mapping import TIME, Column, guess_channel, unit_of

CHANNEL_NAME = r"^[a-z][a-z0-9_]*_(c|w|rpm|mhz|dba|pct|s|v|m3h|pa)$|^(score|fps)$"
EMPTY = {"", "-", "n/a", "na", "nan", "null", "none", "--"}
LEAST_ROWS = 20
_CLOCK = re.compile(r"^\d{1,3}:\d{2}(:\d{2})?([.,]\d+)?$")
_NUMBER = re.compile(r"^[+-]?\d+([.,]\d+)?([eE][+-]?\d+)?$")


@dataclass(frozen=True)
class Table:
    """Text cells of a file: one heading per column, the unit row folded in, data rows only."""

    headings: list[str]
    rows: list[list[str]]
    decimal: str
    skipped: int
    notes: list[str] = field(default_factory=list)


@dataclass(frozen=True)
class ImportedLog:
    log: RunLog
    columns: list[Column]
    notes: list[str]
    questions: list[str]


def decode(data: bytes) -> str:
    """Text of a file in whatever encoding it was saved."""
    if data.startswith((b"\xff\xfe", b"\xfe\xff")):
        return data.decode("utf-16")
    try:
        return data.decode("utf-8-sig")
    except UnicodeDecodeError:
        best = from_bytes(data[:200_000], cp_isolation=["cp1252", "latin_1"]).best()
        return data.decode(best.encoding if best else "latin-1", errors="replace")


def read_table(data: bytes) -> Table:
    """Cells of the file. Raises UnreadableLogError when no table is found in it."""
    text = decode(data)
    if "\x00" in text[:2000]:
        raise UnreadableLogError("this is not a text file", "file", "Export the log as CSV.")
    lines = [line for line in text.splitlines() if line.strip()]
    if len(lines) < LEAST_ROWS:
        raise UnreadableLogError(f"only {len(lines)} lines", "file", "A log needs a heading and at least twenty readings.")
    delimiter = _delimiter(lines)
    cells = [[c.strip() for c in row] for row in csv.reader(io.StringIO("\n".join(lines)), delimiter=delimiter)]
    width = Counter(len(row) for row in cells if _is_data(row)).most_common(1)
    if not width:
        raise UnreadableLogError("no rows of numbers", "file", "Export the log as CSV with one row per time.")
    columns = width[0][0]
    first = next(i for i, row in enumerate(cells) if _is_data(row) and len(row) == columns)
    headings = _headings(cells[:first], columns)
    rows = [row for row in cells[first:] if len(row) == columns and _is_data(row)]
    decimal = "," if delimiter != "," and sum("," in c for c in rows[len(rows) // 2]) > 0 else "."
    return Table(headings, rows, decimal, len(cells) - first - len(rows))


def _delimiter(lines: list[str]) -> str:
    sample = lines[len(lines) // 2 : len(lines) // 2 + 20]
    counts = {d: min(line.count(d) for line in sample) for d in ("\t", ";", "|", ",")}
    best = max(("\t", ";", "|"), key=lambda d: counts[d])
    if counts[best] > 0:
        return best
    if counts[","] > 0:
        return ","
    raise UnreadableLogError("no columns found", "file", "Separate columns by comma, semicolon or tab.")


def _is_data(row: list[str]) -> bool:
    """A row of readings: most cells are numbers, times or empty, and at least one is a number."""
    numbers = sum(bool(_NUMBER.match(c)) for c in row)
    other = sum(c.lower() in EMPTY or bool(_CLOCK.match(c)) or _looks_like_time(c) for c in row)
    return numbers > 0 and numbers + other >= 0.7 * len(row)


def _looks_like_time(cell: str) -> bool:
    return bool(re.match(r"^\d{1,4}[-./]\d{1,2}[-./]\d{1,4}", cell) or re.match(r"^\d{1,2}:\d{2}", cell))


def _headings(above: list[list[str]], columns: int) -> list[str]:
    """Heading per column from the last lines above the data that have as many cells."""
    full = [row for row in above if len(row) == columns and sum(bool(c) for c in row) >= max(2, columns - 1)]
    if not full:
        raise UnreadableLogError("no heading row", "file", "Put one line with the names of the columns above the readings.")
    last = full[-1]
    if len(full) > 1 and all(unit_of(f"({c})") or c.lower() in ("", "sec") for c in last):
        return [f"{name} ({unit})" if unit else name for name, unit in zip(full[-2], last, strict=True)]
    return last


def read_log(data: bytes, mapping: dict[str, str | None] | None = None) -> ImportedLog:
    """A whole run from a file; ``mapping`` gives channels for headings and overrides the guess."""
    table = read_table(data)
    time_columns = [i for i, h in enumerate(table.headings) if TIME.match(h.strip())]
    if not time_columns:
        raise UnreadableLogError("no column of times", "header row", 'Name one column "elapsed_s" or "time".')
    columns, questions = _columns(table, set(time_columns), mapping or {})
    elapsed, notes = _elapsed(table, time_columns)
    keep = np.isfinite(elapsed)
    order = np.flatnonzero(keep)[np.argsort(elapsed[keep], kind="stable")]
    order = order[np.concatenate([[True], np.diff(elapsed[order]) > 0])]
    channels: dict[str, np.ndarray[tuple[int], np.dtype[np.float64]]] = {}
    for column in columns:
        if column.channel is None:
            continue
        values = np.array([_number(row[column.index], table.decimal) for row in table.rows])[order]
        if column.unit == "f":
            values = fahrenheit_to_celsius(values)
        channels[column.channel] = values
    if not any(c.endswith("_c") for c in channels):
        raise UnreadableLogError("no temperature column recognised", "header row", "Say which column is which.")
    if table.skipped:
        notes.append(f"{table.skipped} rows that hold no readings were passed over")
    if len(order) < len(table.rows):
        notes.append(f"{len(table.rows) - len(order)} rows with no or a repeated time were passed over")
    times = elapsed[order]
    return ImportedLog(RunLog(times - times[0], channels), columns, notes, questions)


def _columns(table: Table, times: set[int], mapping: dict[str, str | None]) -> tuple[list[Column], list[str]]:
    found, questions = [], []
    for i, heading in enumerate(table.headings):
        if i in times:
            continue
        unit = unit_of(heading)
        channel = mapping[heading] if heading in mapping else guess_channel(heading, unit)
        found.append(Column(i, heading, channel, unit))
    for name, count in Counter(c.channel for c in found if c.channel).items():
        if count > 1:
            same = [c for c in found if c.channel == name]
            best = max(same, key=lambda c: _span(table, c.index))
            questions.append(f"{' and '.join(c.heading for c in same)} could both be {name}; taken: {best.heading}, which warms up most.")
            found = [c if c.channel != name or c is best else Column(c.index, c.heading, None, c.unit) for c in found]
    return found, questions


def _span(table: Table, index: int) -> float:
    values = np.array([_number(row[index], table.decimal) for row in table.rows])
    return float(np.nanmax(values) - np.nanmin(values)) if np.isfinite(values).any() else 0.0


def _number(cell: str, decimal: str) -> float:
    text = cell.strip()
    if text.lower() in EMPTY:
        return float("nan")
    try:
        return float(text.replace(",", ".") if decimal == "," else text)
    except ValueError:
        return float("nan")


def _elapsed(table: Table, columns: list[int]) -> tuple["np.ndarray[tuple[int], np.dtype[np.float64]]", list[str]]:
    """Seconds since the first row, from numbers, clocks or dates."""
    texts = [" ".join(row[i] for i in columns) for row in table.rows]
    if all(_NUMBER.match(t) for t in texts):
        return np.array([_number(t, table.decimal) for t in texts]), []
    if all(_CLOCK.match(t) for t in texts):
        return np.array([_clock_s(t) for t in texts]), []
    return _dates(texts)


def _clock_s(text: str) -> float:
    parts = [float(p.replace(",", ".")) for p in text.split(":")]
    return parts[0] * 60 + parts[1] if len(parts) == 2 else parts[0] * 3600 + parts[1] * 60 + parts[2]


def _dates(texts: list[str]) -> tuple["np.ndarray[tuple[int], np.dtype[np.float64]]", list[str]]:
    notes: list[str] = []
    day_first = _day_first(texts)
    try:
        moments = [_moment(t, day_first) for t in texts]
    except (ValueError, OverflowError) as error:
        raise UnreadableLogError(f"the time {texts[0]!r} cannot be read", "time column", "Use ISO 8601 or elapsed seconds.") from error
    seconds, shift = [], timedelta()
    for before, now in zip([moments[0], *moments[:-1]], moments, strict=True):
        back = before - now
        if timedelta(minutes=50) < back < timedelta(minutes=70):
            shift += timedelta(hours=1)
            notes.append(f"the clock was set back one hour at {now:%H:%M}; the run goes on without a gap")
        seconds.append((now + shift - moments[0]).total_seconds())
    return np.array(seconds), notes


def _moment(text: str, day_first: bool) -> datetime:
    return dates.parse(text, dayfirst=day_first).replace(tzinfo=None)


def _day_first(texts: list[str]) -> bool:
    """Day or month first, told by a first number above 12; dots mean day first."""
    first = [int(m.group(1)) for t in texts if (m := re.match(r"^(\d{1,2})[./-]", t))]
    second = [int(m.group(1)) for t in texts if (m := re.match(r"^\d{1,2}[./-](\d{1,2})[./-]", t))]
    if any(v > 12 for v in first):
        return True
    if any(v > 12 for v in second):
        return False
    return "." in texts[0][:3]
