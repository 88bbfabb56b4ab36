"""The present readings of a bench in memory: a view of its stored batches that reads on where it left off."""

import json
import threading
import zlib
from array import array
from dataclasses import dataclass, field

import numpy as np
from numpy.typing import NDArray

from engine.runs.series import RunLog
from server.apps.bench.models import Batch

Floats = NDArray[np.float64]
NAN = float("nan")
KEEP_BEFORE_S = 900.0  # of a bench at rest
JOIN_SHARE = 1.5  # a slower source's reading joins the row within this share of the step


@dataclass
class _Source:
    """Rows of one session; ragged channels are filled up with NaN. Plain arrays: hours at 5 Hz stay small and are read in one go."""

    times: "array[float]" = field(default_factory=lambda: array("d"))
    channels: "dict[str, array[float]]" = field(default_factory=dict)
    sorted: bool = True

    def add(self, times: list[float], channels: dict[str, list[float | None]]) -> None:
        rows = len(self.times)
        self.sorted = self.sorted and (not self.times or not times or times[0] > self.times[-1])
        self.times.extend(times)
        for name, values in channels.items():
            own = self.channels.setdefault(name, array("d"))
            own.extend([NAN] * (rows - len(own)))
            own.extend(NAN if v is None else v for v in values)
        for own in self.channels.values():
            own.extend([NAN] * (len(self.times) - len(own)))

    def forget(self, before_s: float) -> None:
        if self.times and self.times[0] < before_s - KEEP_BEFORE_S:
            cut = int(np.searchsorted(np.frombuffer(self.times), before_s))
            self.times = self.times[cut:]
            self.channels = {n: v[cut:] for n, v in self.channels.items()}

    def between(self, from_s: float, to_s: float) -> tuple[Floats, dict[str, Floats]]:
        """Copies, since the arrays go on growing."""
        t = np.frombuffer(self.times)
        pick = np.flatnonzero((t >= from_s) & (t <= to_s))
        order = pick if self.sorted else pick[np.argsort(t[pick], kind="stable")]
        return t[order], {n: np.frombuffer(v)[order] for n, v in self.channels.items()}


class BenchBuffer:
    """One bench's readings since a moment. Any process may have one; stored batches are the truth."""

    def __init__(self, bench_id: int) -> None:
        self.bench_id = bench_id
        self.lock = threading.RLock()
        self.last_id = 0
        self.from_s = -np.inf
        self.sources: dict[int, _Source] = {}
        self.last_s: float | None = None

    def read_on(self, from_s: float) -> None:
        """Takes in what was stored since the last call; starts over when an earlier moment is asked for."""
        with self.lock:
            if from_s < self.from_s:
                self.last_id, self.sources, self.from_s = 0, {}, from_s
            if self.last_id == 0:
                self.from_s = from_s
            rows = Batch.objects.filter(bench_id=self.bench_id, id__gt=self.last_id, last_s__gte=from_s).order_by("id")
            for batch in rows.iterator(chunk_size=500):
                body = json.loads(zlib.decompress(batch.data))
                self.sources.setdefault(batch.session_id, _Source()).add(body["t"], body["c"])
                self.last_id = batch.pk
                self.last_s = batch.last_s if self.last_s is None else max(self.last_s, batch.last_s)

    def forget(self, before_s: float) -> None:
        with self.lock:
            for source in self.sources.values():
                source.forget(before_s)
            self.from_s = max(self.from_s, before_s)

    def reads(self, channel: str) -> bool:
        """Some source of this view has the channel."""
        with self.lock:
            return any(channel in s.channels for s in self.sources.values())

    def log(self, from_s: float, to_s: float = np.inf) -> RunLog | None:
        """All sources on the rows of the one with most readings, times from ``from_s``; None with fewer than two rows."""
        with self.lock:
            parts = [p for p in (s.between(from_s, to_s) for s in self.sources.values()) if len(p[0])]
        if not parts:
            return None
        parts.sort(key=lambda p: -len(p[0]))
        base, *others = parts
        times, channels = base
        keep = np.concatenate([[True], np.diff(times) > 0])
        times, channels = times[keep], {n: v[keep] for n, v in channels.items()}
        for other in others:
            times, channels = _joined(times, channels, *other)
        if len(times) < 2:
            return None
        return RunLog(times - from_s, channels)


def _joined(times: Floats, channels: dict[str, Floats], t: Floats, more: dict[str, Floats]) -> tuple[Floats, dict[str, Floats]]:
    """A slower source on the rows of the first: each reading on the nearest row, or on one of its own where none is near."""
    step = float(np.median(np.diff(times))) if len(times) > 2 else 1.0
    right = np.searchsorted(times, t).clip(1, max(len(times) - 1, 1))
    near = np.where(np.abs(times[right - 1] - t) <= np.abs(times[right.clip(max=len(times) - 1)] - t), right - 1, right)
    far = np.abs(times[near.clip(max=len(times) - 1)] - t) > JOIN_SHARE * step
    if far.any():
        extra = np.setdiff1d(t[far], times)
        merged = np.concatenate([times, extra])
        order = np.argsort(merged, kind="stable")
        channels = {n: np.concatenate([v, np.full(len(extra), np.nan)])[order] for n, v in channels.items()}
        times = merged[order]
        right = np.searchsorted(times, t).clip(1, max(len(times) - 1, 1))
        near = np.where(np.abs(times[right - 1] - t) <= np.abs(times[right] - t), right - 1, right)
    out = dict(channels)
    for name, values in more.items():
        good = np.isfinite(values)
        own = out[name].copy() if name in out else np.full(len(times), np.nan)
        own[near[good]] = values[good]
        out[name] = own
    return times, out


_buffers: dict[int, BenchBuffer] = {}
_lock = threading.Lock()


def buffer_of(bench_id: int) -> BenchBuffer:
    with _lock:
        return _buffers.setdefault(bench_id, BenchBuffer(bench_id))


def forget_all() -> None:
    """Empties every view, as a restart would."""
    with _lock:
        _buffers.clear()
