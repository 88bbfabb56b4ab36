"""Between stored blocks and the engine's run log."""

import zlib
from collections.abc import Sequence
from typing import Any

import numpy as np

from engine.errors import ImpossibleInputError, OventaError
from engine.runs.series import RunLog
from server.apps.bench.models import ReadingBlock, Run

BLOCK_ROWS = 7200
_DAMAGED = "Restore a copy of the database that holds them, or remove the run."


class UnreadableReadingsError(OventaError):
    """What is stored of a run cannot be read any more."""

    code = "unreadable_readings"


TIMES = "elapsed_s"
TIME_KIND = "<f8"  # of times that single precision would run together


def blocks_of(log: RunLog) -> list[ReadingBlock]:
    """Every channel in blocks of at most two hours at 1 Hz, of no run yet: compressing takes time that no write lock should."""
    blocks = []
    for channel, values in {TIMES: log.elapsed_s, **log.channels}.items():
        kind = TIME_KIND if channel == TIMES and not _rising(values.astype("<f4")) else "<f4"
        for first in range(0, len(values), BLOCK_ROWS):
            part = values[first : first + BLOCK_ROWS].astype(kind)
            blocks.append(ReadingBlock(channel=channel, first_row=first, count=len(part), data=zlib.compress(part.tobytes(), 1)))
    return blocks


def keep_blocks(run: Run, blocks: list[ReadingBlock]) -> None:
    """Stores blocks as those of a run."""
    for block in blocks:
        block.run = run
    ReadingBlock.objects.bulk_create(blocks, batch_size=200)


def as_stored(log: RunLog) -> RunLog:
    """The log as it will be read again: single precision, so that figures made before storing are those made after."""
    times = log.elapsed_s.astype("<f4").astype(np.float64)
    kept = times if _rising(times) else log.elapsed_s
    return RunLog(kept, {n: v.astype("<f4").astype(np.float64) for n, v in log.channels.items()})


def _rising(values: "np.ndarray[tuple[int], np.dtype[Any]]") -> bool:
    return bool(np.all(np.diff(values) > 0))


def load_log(run: Run, from_s: float | None = None, to_s: float | None = None) -> RunLog:
    """The run with readings by hand and the typed room; only the blocks that reach into a stretch, where one is named."""
    return complete(stored_log(run, from_s, to_s), run.by_hand, run.typed_room_c)


def complete(log: RunLog, by_hand: Sequence[dict[str, Any]], room_c: float | None) -> RunLog:
    """A log with readings taken by hand and a typed room."""
    log = with_by_hand(log, by_hand)
    return log if room_c is None else log.with_room(room_c)


def stored_log(run: Run, from_s: float | None = None, to_s: float | None = None) -> RunLog:
    """The run as it was logged, nothing added."""
    wanted = run.blocks.all() if from_s is None and to_s is None else _within(run, from_s, to_s)
    parts: dict[str, list[np.ndarray[tuple[int], np.dtype[np.float64]]]] = {}
    for block in wanted:
        parts.setdefault(block.channel, []).append(_values(block))
    if TIMES not in parts:
        raise ImpossibleInputError("this run has no readings", run.name, "It was discarded before any came; make the run again.")
    channels = {name: np.concatenate(values) for name, values in parts.items()}
    times = channels.pop(TIMES)
    order = {c["channel"]: i for i, c in enumerate(run.columns)}
    return RunLog(times, dict(sorted(channels.items(), key=lambda item: order.get(item[0], len(order)))))


def _values(block: ReadingBlock) -> "np.ndarray[tuple[int], np.dtype[np.float64]]":
    """Raises UnreadableReadingsError for a block that is damaged."""
    try:
        raw = zlib.decompress(block.data)
        values = np.frombuffer(raw, TIME_KIND if len(raw) == 8 * block.count else "<f4").astype(np.float64)
    except (zlib.error, ValueError, TypeError) as error:
        raise UnreadableReadingsError(f"the readings are damaged ({error})", block.channel, _DAMAGED) from error
    if len(values) != block.count:
        raise UnreadableReadingsError("some readings are missing", block.channel, _DAMAGED)
    return values


def _within(run: Run, from_s: float | None, to_s: float | None) -> list[ReadingBlock]:
    """Blocks of all channels whose rows reach into the stretch."""
    low, high = -np.inf if from_s is None else from_s, np.inf if to_s is None else to_s
    firsts = []
    for block in run.blocks.filter(channel=TIMES):
        times = _values(block)
        if times[-1] >= low and times[0] <= high:
            firsts.append(block.first_row)
    return list(run.blocks.filter(first_row__in=firsts or [0]))


def with_by_hand(log: RunLog, readings: Sequence[dict[str, Any]]) -> RunLog:
    """The log with readings typed at the bench, each on the nearest row; a channel that was logged as well keeps its log."""
    channels = dict(log.channels)
    for reading in readings:
        name = reading["channel"]
        if name in log.channels or reading.get("state") in ("rising", "struck"):
            continue
        values = channels.setdefault(name, np.full(len(log.elapsed_s), np.nan))
        free = np.flatnonzero(~np.isfinite(values))
        if len(free):
            values[free[int(np.argmin(np.abs(log.elapsed_s[free] - reading["at_s"])))]] = reading["value"]
    return RunLog(log.elapsed_s, channels)
