"""From a column of times to seconds since the first row: numbers, clocks, dates in local formats, summer time, midnight."""

import re
from collections.abc import Sequence
from datetime import UTC, datetime, timedelta
from functools import lru_cache

import numpy as np
from dateutil import parser as dates
from numpy.typing import NDArray

from documents.runlog.table import numbers
from engine.errors import UnreadableLogError

Floats = NDArray[np.float64]
DAY_S, HOUR_S = 86400.0, 3600.0
UNITS_S = ((r"\bms\b|_ms$|milli", 0.001), (r"\bmin\b|_min$|minutes?", 60.0), (r"\bh\b|_h$|hours?", HOUR_S), (r"\bdays?\b", DAY_S))
_NUMBERS = re.compile(r"^[+-]?\d+([.,]\d+)?([eE][+-]?\d+)?$")
_CLOCK = re.compile(r"^(\d{1,3}):(\d{2})(?::(\d{2}))?(?:[.,](\d+))?\s*([AaPp][Mm])?$")
_DATE = re.compile(
    r"^(\d{1,4})[-./](\d{1,2})[-./](\d{1,4})[ T,]+(\d{1,2}):(\d{2})(?::(\d{2})(?:[.,:](\d+))?)?"
    r"\s*([AaPp]\.?[Mm]\.?)?\s*(Z|[+-]\d{2}:?\d{2})?$"
)
EPOCH_S = 1e9  # 2001: a number of seconds beyond it is a date
EPOCH_MS, EPOCH_DAY_LOW, EPOCH_DAY_HIGH = 1e11, 20_000.0, 80_000.0


def elapsed(columns: Sequence[list[str]], headings: Sequence[str], decimal: str) -> tuple[Floats, list[str]]:
    """Seconds since the first row, with notes on what was done. Raises UnreadableLogError for times that cannot be read."""
    if len(columns) == 1 or all(_NUMBERS.match(c) for c in columns[0][:5]):
        texts = columns[0]
        if _NUMBERS.match(texts[0]) and _NUMBERS.match(texts[-1]):
            return _numeric(texts, headings[0], decimal)
    texts = [" ".join(parts) for parts in zip(*columns, strict=True)] if len(columns) > 1 else columns[0]
    if _CLOCK.match(texts[0]):
        return _clocks(texts)
    return _dates(texts)


def began(columns: Sequence[list[str]], headings: Sequence[str]) -> datetime | None:
    """When a log was begun by its own clock, without a zone where it says none; None for clocks without a date and elapsed seconds."""
    texts = [" ".join(parts) for parts in zip(*columns, strict=True)] if len(columns) > 1 else columns[0]
    if _NUMBERS.match(texts[0]):
        value = float(texts[0].replace(",", "."))
        seconds = value / 1000.0 if value > EPOCH_MS else value
        late = EPOCH_S < seconds < 4 * EPOCH_S and not any(
            re.search(words, headings[0].lower()) for words, factor in UNITS_S if factor != 0.001
        )
        return datetime.fromtimestamp(seconds, UTC) if late else None
    if _CLOCK.match(texts[0]):
        return None
    try:
        return datetime.fromisoformat(texts[0].replace(",", "."))
    except ValueError:
        pass
    matched = [m for m in (_DATE.match(t) for t in texts) if m]
    if not matched:
        return None
    try:
        return datetime(1, 1, 1) + timedelta(seconds=_first_stamp(matched) - DAY_S)
    except (UnreadableLogError, OverflowError, ValueError):
        return None


def _numeric(texts: list[str], heading: str, decimal: str) -> tuple[Floats, list[str]]:
    values = numbers(texts, decimal)
    first = float(values[np.isfinite(values)][0]) if np.isfinite(values).any() else 0.0
    low = heading.lower()
    for words, factor in UNITS_S:
        if re.search(words, low):
            return values * factor, []
    steps = np.diff(values[np.isfinite(values)])
    step = float(np.median(steps)) if len(steps) else 1.0
    if first > EPOCH_MS:
        return values / 1000.0, ["the times are in milliseconds"]
    if EPOCH_DAY_LOW < first < EPOCH_DAY_HIGH and step < 0.01:
        return values * DAY_S, ["the times are in days, as a spreadsheet counts them"]
    return values, []


def _clocks(texts: list[str]) -> tuple[Floats, list[str]]:
    out = np.empty(len(texts))
    for i, text in enumerate(texts):
        found = _CLOCK.match(text)
        if not found:
            out[i] = np.nan
            continue
        a, b, c, fraction, half = found.groups()
        seconds = int(a) * 60 + int(b) if c is None else int(a) * 3600 + int(b) * 60 + int(c)
        if half:
            seconds += (12 if half.lower() == "pm" else 0) * 3600 - (12 * 3600 if int(a) == 12 else 0)
        out[i] = seconds + (float(f"0.{fraction}") if fraction else 0.0)
    return _risen(out)


def _dates(texts: list[str]) -> tuple[Floats, list[str]]:
    plain = _iso(texts)
    if plain is not None:
        return _risen(*plain)
    matched = [_DATE.match(t) for t in texts]
    if sum(m is not None for m in matched) >= 0.9 * len(texts):
        return _risen(*_from_parts(matched))
    try:
        moments = [dates.parse(t).replace(tzinfo=None) for t in texts]
    except (ValueError, OverflowError) as error:
        raise UnreadableLogError(f"the time {texts[0]!r} cannot be read", "time column", "Use ISO 8601 or elapsed seconds.") from error
    return _risen(np.array([(m - moments[0]).total_seconds() for m in moments]), _day_s(moments[0]))


def _day_s(moment: datetime) -> float:
    return moment.hour * HOUR_S + moment.minute * 60 + moment.second


def _iso(texts: list[str]) -> tuple[Floats, float] | None:
    """All of them as ISO 8601, by the standard library's fast reader; None when one is not."""
    try:
        moments = [datetime.fromisoformat(t.replace(",", ".")) for t in texts]
    except ValueError:
        return None
    if moments[0].tzinfo is None:
        moments = [m.replace(tzinfo=None) for m in moments]
    first = moments[0]
    try:
        return np.array([(m - first).total_seconds() for m in moments]), _day_s(first)
    except TypeError:
        return None


def _from_parts(matched: Sequence["re.Match[str] | None"]) -> tuple[Floats, float]:
    """Seconds from parts of dates, and the second of the day they begin at."""
    values = _stamps(matched)
    begin = float(values[np.isfinite(values)][0])
    return values - begin, begin % DAY_S


def _first_stamp(matched: Sequence["re.Match[str] | None"]) -> float:
    values = _stamps(matched)
    return float(values[np.isfinite(values)][0])


def _stamps(matched: Sequence["re.Match[str] | None"]) -> Floats:
    """Seconds since the year 1; day or month first as fits all rows, and where both fit, as makes the shorter run."""
    found = {}
    for order in ("ymd", "dmy", "mdy"):
        try:
            found[order] = np.array([np.nan if m is None else _stamp(m, order) for m in matched])
        except ValueError:
            continue
    if not found:
        first = next(m for m in matched if m is not None)
        raise UnreadableLogError(f"the time {first.group(0)!r} cannot be read", "time column", "Use ISO 8601 or elapsed seconds.")
    dots = "." in next(m for m in matched if m is not None).group(0)[:6]
    best = min(found, key=lambda o: (round(float(np.nanmax(found[o]) - np.nanmin(found[o]))), o != ("dmy" if dots else "mdy")))
    return found[best]


def _stamp(m: "re.Match[str]", order: str) -> float:
    a, b, c, hour, minute, second, fraction, half, _zone = m.groups()
    hours = int(hour) % 12 + (12 if half.lower().startswith("p") else 0) if half else int(hour)
    seconds = hours * HOUR_S + int(minute) * 60 + int(second or 0) + (float(f"0.{fraction}") if fraction else 0.0)
    return _days(a, b, c, order) * DAY_S + seconds


@lru_cache(maxsize=64)
def _days(a: str, b: str, c: str, order: str) -> int:
    """Number of a day from its three parts. Raises ValueError where they cannot be in this order."""
    if (len(a) == 4) != (order == "ymd"):
        raise ValueError
    year, month, day = (a, b, c) if order == "ymd" else (c, b, a) if order == "dmy" else (c, a, b)
    return datetime(int(year) + (2000 if len(year) == 2 else 0), int(month), int(day)).toordinal()


def _risen(seconds: Floats, start_s: float = 0.0) -> tuple[Floats, list[str]]:
    """The same times without the jumps of clocks: summer time, midnight of a clock without dates.

    ``start_s`` is the first row's time of day.
    """
    notes: list[str] = []
    good = np.flatnonzero(np.isfinite(seconds))
    if len(good) < 2:
        return seconds, notes
    steps = np.diff(seconds[good])
    usual = float(np.median(steps[steps > 0])) if (steps > 0).any() else 1.0
    out = seconds.copy()
    shift = np.zeros(len(seconds))
    for k in np.flatnonzero((steps < -1800) | (np.abs(steps - HOUR_S) < max(3 * usual, 5.0))):
        i, step = int(good[k + 1]), float(steps[k])
        if -4200 < step < -3000:
            shift[i:] += HOUR_S
            notes.append(f"the clock was set back one hour at row {i + 1}; the run goes on without a gap")
        elif step < -0.9 * DAY_S:
            shift[i:] += DAY_S
            notes.append(f"midnight passed at row {i + 1}")
        elif step > 0 and usual < 60 and (start_s + seconds[i]) % HOUR_S < max(3 * usual, 5.0):
            shift[i:] -= HOUR_S
            notes.append(f"the clock was set forward one hour at row {i + 1}; the run goes on without a gap")
    return out + shift, notes
