"""Between stored blocks and the engine's run log."""

from collections.abc import Sequence

import numpy as np
from numpy.typing import NDArray

from desk.runs.ready import TIMES, Block, complete, values_in
from engine.errors import ImpossibleInputError, OventaError
from engine.runs.series import RunLog
from server.apps.bench.models import ReadingBlock, Run

DAMAGED = "Restore a copy of the database that holds them, or remove the run."


class UnreadableReadingsError(OventaError):
    """What is stored of a run cannot be read any more."""

    code = "unreadable_readings"


def nothing_stored(run: Run) -> ImpossibleInputError:
    """Why a run has nothing to read or to judge: it is still being made, or it was discarded before any reading came."""
    if run.state == "draft":
        return ImpossibleInputError(f"{run.name} is not over yet", run.name, "End or discard it at its bench first.")
    return ImpossibleInputError("this run has no readings", run.name, "It was discarded before any came; make the run again.")


def keep_blocks(run: Run, blocks: Sequence[Block]) -> None:
    """Stores blocks as those of a run."""
    rows = [ReadingBlock(run=run, channel=b.channel, first_row=b.first_row, count=b.count, data=b.data) for b in blocks]
    ReadingBlock.objects.bulk_create(rows, batch_size=200)


def load_log(run: Run, from_s: float | None = None, to_s: float | None = None) -> RunLog:
    """The run with readings by hand and the typed room; only the blocks that reach into a stretch, where one is named."""
    return complete(stored_log(run, from_s, to_s), run.by_hand, run.typed_room_c)


def stored_log(run: Run, from_s: float | None = None, to_s: float | None = None) -> RunLog:
    """The run as it was logged, nothing added."""
    wanted = run.blocks.all() if from_s is None and to_s is None else _within(run, from_s, to_s)
    parts: dict[str, list[NDArray[np.float64]]] = {}
    for block in wanted:
        parts.setdefault(block.channel, []).append(_values(block))
    if TIMES not in parts:
        raise nothing_stored(run)
    channels = {name: np.concatenate(values) for name, values in parts.items()}
    times = channels.pop(TIMES)
    order = {c["channel"]: i for i, c in enumerate(run.columns)}
    return RunLog(times, dict(sorted(channels.items(), key=lambda item: order.get(item[0], len(order)))))


def _values(block: ReadingBlock) -> NDArray[np.float64]:
    try:
        return values_in(bytes(block.data), block.count)
    except ValueError as error:
        raise UnreadableReadingsError(f"the readings are damaged ({error})", block.channel, DAMAGED) from error


def _within(run: Run, from_s: float | None, to_s: float | None) -> list[ReadingBlock]:
    """Blocks of all channels whose rows reach into the stretch."""
    low, high = -np.inf if from_s is None else from_s, np.inf if to_s is None else to_s
    firsts = []
    for block in run.blocks.filter(channel=TIMES):
        times = _values(block)
        if times[-1] >= low and times[0] <= high:
            firsts.append(block.first_row)
    return list(run.blocks.filter(first_row__in=firsts or [0]))
