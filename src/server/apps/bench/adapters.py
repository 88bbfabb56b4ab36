"""Between stored blocks and the engine's run log."""

import zlib

import numpy as np

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
            blocks.append(ReadingBlock(run=run, channel=channel, first_row=first, count=len(part), data=zlib.compress(part.tobytes(), 6)))
    ReadingBlock.objects.bulk_create(blocks)


def load_log(run: Run) -> RunLog:
    """The run as logged, with the typed room temperature where one was given."""
    parts: dict[str, list[np.ndarray[tuple[int], np.dtype[np.float64]]]] = {}
    for block in run.blocks.all():
        values = np.frombuffer(zlib.decompress(block.data), "<f4").astype(np.float64)
        parts.setdefault(block.channel, []).append(values)
    channels = {name: np.concatenate(values) for name, values in parts.items()}
    times = channels.pop(TIMES)
    order = [c["channel"] for c in run.columns]
    log = RunLog(times, dict(sorted(channels.items(), key=lambda item: order.index(item[0]) if item[0] in order else len(order))))
    return log if run.typed_room_c is None else log.with_room(run.typed_room_c)
