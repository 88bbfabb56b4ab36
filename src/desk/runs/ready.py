"""A log made ready to be stored: read, its figures reckoned, its readings compressed. Plain values, so that a process apart can do it."""

import hashlib
import zlib
from collections.abc import Mapping, Sequence
from dataclasses import dataclass, field, replace
from datetime import datetime
from typing import Any

import numpy as np
from numpy.typing import NDArray
from pydantic import TypeAdapter

from documents.runlog.mapping import Column
from documents.runlog.reader import ImportedLog, Units, described, read_log
from engine.runs.analysis import RunAnalysis, analyse
from engine.runs.plausible import Implausible, implausible
from engine.runs.series import RunLog

ANALYSIS = TypeAdapter(RunAnalysis)
BLOCK_ROWS = 7200  # two hours at 1 Hz
TIMES = "elapsed_s"
VALUE_KIND, TIME_KIND = "<f4", "<f8"  # the second of times that single precision would run together

Said = Mapping[str, str | None]
Remembered = Sequence[tuple[str, str, str]]  # (source, heading, channel)


@dataclass(frozen=True)
class Block:
    """Readings of one channel, zlib-compressed, in row order."""

    channel: str
    first_row: int
    count: int
    data: bytes


def background_dba(before: float | None, after: float | None, room: float | None) -> float | None:
    """The background of a run: the louder of what was read before and after it, else the room's."""
    return max((v for v in (before, after) if v is not None), default=room)


@dataclass(frozen=True)
class Basis:
    """What decides the figures of a run besides its readings. ``by_hand``: readings typed at the bench."""

    typed_room_c: float | None = None
    window_s: float | None = None
    background_dba: float | None = None
    by_hand: tuple[dict[str, Any], ...] = ()
    dropped: tuple[tuple[float, float], ...] = ()
    stood_still: bool = False  # as its person says of typed figures
    meter: str = ""  # class of the sound meter

    def figures(self, log: RunLog) -> dict[str, Any]:
        """The analysis of a run's stored readings, as it is stored."""
        whole = complete(log, self.by_hand, self.typed_room_c)
        found: dict[str, Any] = ANALYSIS.dump_python(
            analyse(whole, self.window_s, self.background_dba, self.dropped, self.stood_still, self.meter), mode="json"
        )
        return found


@dataclass(frozen=True)
class Ready:
    """What is stored of a log; the last six of one that came as text."""

    duration_s: float
    rows: int
    blocks: list[Block]
    analysis: dict[str, Any]
    columns: list[Column] = field(default_factory=list)
    notes: list[str] = field(default_factory=list)
    questions: list[str] = field(default_factory=list)
    headings: list[str] = field(default_factory=list)
    began: datetime | None = None
    doubts: list[Implausible] = field(default_factory=list)


def ready(log: RunLog, basis: Basis, read: ImportedLog | None = None) -> Ready:
    """Figures and compressed readings of a log."""
    told = (read.columns, read.notes, read.questions, read.headings, read.began) if read else ([], [], [], [], None)
    doubts = implausible(complete(log, basis.by_hand, basis.typed_room_c))
    return Ready(log.duration_s, len(log.elapsed_s), blocks_of(log), basis.figures(as_stored(log)), *told, doubts)


def ready_text(
    text: bytes, basis: Basis, known: Remembered = (), said: Said | None = None, lenient: bool = False, units: Units | None = None
) -> Ready:
    """The same of a file. Raises UnreadableLogError."""
    read = read_as(text, known, said, lenient, units)
    return ready(read.log, basis, read)


def read_as(text: bytes, known: Remembered = (), said: Said | None = None, lenient: bool = True, units: Units | None = None) -> ImportedLog:
    """A file's log, its columns as people said before and say now."""
    return read_log(text, lambda headings: channels_for(headings, known, said), lenient, units)


def seen(text: bytes, known: Remembered, said: Said | None, units: Units | None) -> tuple[ImportedLog, list[Implausible]]:
    """What a file would become, its columns with first cells and range, and what is odd about it."""
    found = read_as(text, known, said, True, units)
    return replace(found, columns=described(text, found.columns)), implausible(found.log)


def source_of(headings: Sequence[str]) -> str:
    """A logger is known by the headings it writes."""
    return hashlib.sha256("\n".join(sorted(headings)).encode()).hexdigest()


def channels_for(headings: Sequence[str], known: Remembered, said: Said | None) -> dict[str, str | None]:
    """What was said of this source's headings before, overridden by what is said now."""
    own = source_of(headings)
    rows = sorted((source, heading, channel) for source, heading, channel in known if source in ("", own))
    return {heading: channel or None for _, heading, channel in rows} | dict(said or {})


def blocks_of(log: RunLog) -> list[Block]:
    """Every channel in blocks of rows."""
    blocks = []
    for channel, values in {TIMES: log.elapsed_s, **log.channels}.items():
        kind = TIME_KIND if channel == TIMES and not _rising(values.astype(VALUE_KIND)) else VALUE_KIND
        for first in range(0, len(values), BLOCK_ROWS):
            part = values[first : first + BLOCK_ROWS].astype(kind)
            blocks.append(Block(channel, first, len(part), zlib.compress(part.tobytes(), 1)))
    return blocks


def values_in(data: bytes, count: int) -> NDArray[np.float64]:
    """The readings of a block. Raises ValueError for one that is damaged."""
    try:
        raw = zlib.decompress(data)
        values = np.frombuffer(raw, TIME_KIND if len(raw) == 8 * count else VALUE_KIND).astype(np.float64)
    except (zlib.error, TypeError) as error:
        raise ValueError(str(error)) from error
    if len(values) != count:
        raise ValueError("some readings are missing")
    return values


def as_stored(log: RunLog) -> RunLog:
    """The log as it will be read again: single precision, so that figures made before storing are those made after."""
    times = log.elapsed_s.astype(VALUE_KIND).astype(np.float64)
    kept = times if _rising(times) else log.elapsed_s
    return RunLog(kept, {n: v.astype(VALUE_KIND).astype(np.float64) for n, v in log.channels.items()})


def _rising(values: NDArray[Any]) -> bool:
    return bool(np.all(np.diff(values) > 0))


def complete(log: RunLog, by_hand: Sequence[Mapping[str, Any]], room_c: float | None) -> RunLog:
    """A log with readings taken by hand, each on the nearest row, and a typed room; a channel that was logged as well keeps its log."""
    channels = dict(log.channels)
    for reading in by_hand:
        name = reading["channel"]
        if name in log.channels or reading.get("state") in ("rising", "struck"):
            continue
        values = channels.setdefault(name, np.full(len(log.elapsed_s), np.nan))
        free = np.flatnonzero(~np.isfinite(values))
        if len(free):
            values[free[int(np.argmin(np.abs(log.elapsed_s[free] - reading["at_s"])))]] = reading["value"]
    log = RunLog(log.elapsed_s, channels)
    return log if room_c is None else log.with_room(room_c)
