"""Steady flow in a network of links ``D = p_i - p_j + E = A Q + B Q|Q|``."""

from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

Floats = NDArray[np.float64]
Ints = NDArray[np.int64]
ROOM = -1
MASS_TOLERANCE_M3S = 1e-9
MOST_STEPS = 60


@dataclass(frozen=True)
class Flows:
    """Solution: ``flow_m3s`` per link (positive from ``tail`` to ``head``), ``pressure_pa`` per node over the room."""

    flow_m3s: Floats
    pressure_pa: Floats
    residual_m3s: float
    converged: bool


def link_flow(driving_pa: Floats, a: Floats, b: Floats) -> tuple[Floats, Floats]:
    """Flow in m3/s and its slope for a driving pressure: ``Q = 2 D / (A + sqrt(A^2 + 4 B |D|))``."""
    root = np.sqrt(a * a + 4 * b * np.abs(driving_pa))
    return 2 * driving_pa / (a + root), 1 / root


def solve_flows(node_count: int, tail: Ints, head: Ints, source_pa: Floats, a: Floats, b: Floats, start_pa: Floats | None = None) -> Flows:
    """Newton on the mass balance with step halving; the room is node ``ROOM`` at 0 Pa.

    Arrays have one entry per link. A link from a node to itself flows by its own source. The Jacobian is symmetric
    positive definite, the solution unique (source: contam). Nodes without links keep 0 Pa.
    """
    # One more column for the room, cut off before solving, spares a case distinction per link.
    incidence = np.zeros((len(tail), node_count + 1))
    rows = np.arange(len(tail))
    np.add.at(incidence, (rows, tail), 1.0)
    np.add.at(incidence, (rows, head), -1.0)
    n = incidence[:, :node_count]
    idle = np.abs(n).sum(axis=0) == 0
    pressure = np.zeros(node_count) if start_pa is None else start_pa.copy()

    def balance(p: Floats) -> tuple[Floats, Floats, Floats]:
        flow, slope = link_flow(n @ p + source_pa, a, b)
        return n.T @ flow, flow, slope

    net, flow, slope = balance(pressure)
    size = float(np.abs(net).max(initial=0.0))
    for _ in range(MOST_STEPS):
        if size < MASS_TOLERANCE_M3S:
            break
        jacobian = (n.T * slope) @ n
        jacobian[idle, idle] = 1.0
        step = np.linalg.solve(jacobian, -net)
        share = 1.0
        while True:
            trial_net, trial_flow, trial_slope = balance(pressure + share * step)
            trial_size = float(np.abs(trial_net).max())
            if trial_size < size or share < 1e-4:
                break
            share /= 2
        pressure = pressure + share * step
        net, flow, slope, size = trial_net, trial_flow, trial_slope, trial_size
    return Flows(flow, pressure, size, size < 1e-7)
