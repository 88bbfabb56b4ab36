"""Between stored blocks and the engine's run log."""

import zlib
from collections.abc import Sequence
from typing import Any

import numpy as np

from engine.errors import ImpossibleInputError
from engine.runs.series import RunLog
from server.apps.bench.models import ReadingBlock, Run

BLOCK_ROWS = 7200
TIMES = "elapsed_s"


def store_log(run: Run, log: RunLog) -> None:
    """Writes every channel in blocks of at most two hours at 1 Hz."""
    blocks = []
    for channel, values in {TIMES: log.elapsed_s, **log.channels}.items():
        for first in range(0, len(values), BLOCK_ROWS):
            part = values[first : first + BLOCK_ROWS].astype("<f4")
            blocks.append(ReadingBlock(run=run, channel=channel, first_row=first, count=len(part), data=zlib.compress(part.tobytes(), 1)))
    ReadingBlock.objects.bulk_create(blocks)


def load_log(run: Run, from_s: float | None = None, to_s: float | None = None) -> RunLog:
    """The run with readings by hand and the typed room; only the blocks that reach into a stretch, where one is named."""
    log = with_by_hand(stored_log(run, from_s, to_s), run.by_hand)
    return log if run.typed_room_c is None else log.with_room(run.typed_room_c)


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
    return np.frombuffer(zlib.decompress(block.data), "<f4").astype(np.float64)


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
