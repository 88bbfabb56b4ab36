"""Many layouts at once: rows of one plan solved by the kernels on all cores."""

import os
from collections.abc import Callable, Sequence
from concurrent.futures import ThreadPoolExecutor
from dataclasses import dataclass
from functools import cache

import numpy as np
from numpy.typing import NDArray

from engine.coupled import kernel
from engine.coupled.program import SPECIAL, Curves, Plan, Variants, variants
from engine.machine import Machine
from engine.parameters import DEFAULT

Floats = NDArray[np.float64]
FIGURES = ("cpu", "card", "coolant", "rear")
CHUNK = 64  # rows a thread takes at a time


@dataclass
class Settled:
    """Equilibria, one row each. ``rise_k`` over the room by node: air, room, fins or coolant, cooler outlet, card core, its own coolant."""

    pressure_pa: Floats
    flow_m3s: Floats
    rise_k: Floats
    speed: Floats
    power_w: Floats
    moved_m3s: Floats
    effectiveness: Floats
    told: Floats  # rounds (negative: not at rest), mass residual m3/s, cross-flow ratio, card's core W/K
    figures_k: Floats  # rises in the order of FIGURES

    @property
    def converged(self) -> NDArray[np.bool_]:
        return (self.told[:, 0] > 0) & (self.told[:, 1] < 1e-7)


@cache
def _pool() -> ThreadPoolExecutor:
    return ThreadPoolExecutor(max_workers=int(os.environ.get("OVENTA_THREADS") or os.cpu_count() or 1), thread_name_prefix="oventa-engine")


def in_chunks(rows: int, work: Callable[[int, int], None]) -> None:
    """Calls ``work(first, end)`` over all rows, on every core where there are enough of them."""
    if rows <= CHUNK:
        work(0, rows)
        return
    spans = [(i, min(i + CHUNK, rows)) for i in range(0, rows, CHUNK)]
    for done in [_pool().submit(work, *span) for span in spans]:
        done.result()


@dataclass(frozen=True)
class Start:
    """Where the search begins, one row for all: near the answer it takes half the rounds."""

    pressure_pa: Floats
    flow_m3s: Floats
    rise_k: Floats


def settle_variants(
    plan: Plan,
    va: Variants,
    curves: Curves,
    pars: Floats | None = None,
    start_speed: Floats | None = None,
    start: Start | None = None,
) -> Settled:
    """Solves every row; ``pars`` (rows or 1, COUNT) defaults to the model's values, ``start_speed`` to the rows' own speeds.

    One row of variants with many rows of parameters is one layout under many parameter vectors.
    """
    pg = plan.program
    table = np.array(DEFAULT if pars is None else pars, ndmin=2)  # a writable copy: one type for the kernels
    rows = max(len(va.room_c), len(table))
    speed = np.ascontiguousarray(np.broadcast_to(va.speed if start_speed is None else start_speed, (rows, va.speed.shape[1]))).copy()
    links = len(pg.tail)
    found = Settled(
        np.zeros((rows, pg.n + 1)),
        np.zeros((rows, links)),
        np.zeros((rows, pg.n + SPECIAL)),
        speed,
        np.zeros((rows, 2)),
        np.zeros((rows, len(pg.move_kind))),
        np.zeros((rows, links)),
        np.zeros((rows, 4)),
        np.zeros((rows, len(FIGURES))),
    )

    if start:
        found.pressure_pa[:], found.flow_m3s[:], found.rise_k[:] = start.pressure_pa, start.flow_m3s, start.rise_k

    def work(first: int, end: int) -> None:
        kernel.settle_rows(
            pg,
            curves,
            va,
            table,
            first,
            end,
            found.speed,
            found.pressure_pa,
            found.flow_m3s,
            found.rise_k,
            found.power_w,
            found.moved_m3s,
            found.effectiveness,
            found.told,
            found.figures_k,
        )

    in_chunks(rows, work)
    return found


def settle_machines(plan: Plan, machines: Sequence[Machine], pars: Floats | None = None, start: Start | None = None) -> Settled:
    """Solves machines that share a plan's network."""
    va, curves = variants(plan, machines)
    return settle_variants(plan, va, curves, pars, start=start)
