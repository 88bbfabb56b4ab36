"""Steady flow in a network of links ``D = p_i - p_j + E = A Q + B Q|Q|``, compiled.

Nodes 0 to n-1 are spaces, node n is the room at 0 Pa. Links that start and end at the same node flow by their own source.
"""

import numpy as np
from numpy.typing import NDArray

from engine.compiled import compiled

Floats = NDArray[np.float64]
Ints = NDArray[np.int64]
MASS_TOLERANCE_M3S = 1e-9  # numerical
MOST_STEPS = 60  # numerical


@compiled
def link_flow(driving_pa: float, a: float, b: float) -> tuple[float, float]:
    """Flow in m3/s and its slope for a driving pressure: ``Q = 2 D / (A + sqrt(A^2 + 4 B |D|))``."""
    root = np.sqrt(a * a + 4 * b * abs(driving_pa))
    return 2 * driving_pa / (a + root), 1 / root


@compiled
def _flows(n: int, tail: Ints, head: Ints, e: Floats, a: Floats, b: Floats, p: Floats, q: Floats, slope: Floats, net: Floats) -> float:
    """Flows at the pressures ``p``; returns the largest mass residual of a space in m3/s."""
    net[:] = 0.0
    for i in range(len(tail)):
        d = p[tail[i]] - p[head[i]] + e[i]
        root = np.sqrt(a[i] * a[i] + 4 * b[i] * abs(d))
        q[i] = 2 * d / (a[i] + root)
        slope[i] = 1 / root
        net[tail[i]] += q[i]
        net[head[i]] -= q[i]
    worst = 0.0
    for z in range(n):
        worst = max(worst, abs(net[z]))
    return worst


@compiled
def _solve_spd(m: Floats, x: Floats, n: int) -> None:
    """Solves ``m x = x`` in place by LDL^T; only the lower triangle of ``m`` is read."""
    for j in range(n):
        d = m[j, j]
        for c in range(j):
            d -= m[j, c] * m[j, c] * m[c, c]
        m[j, j] = d
        for i in range(j + 1, n):
            s = m[i, j]
            for c in range(j):
                s -= m[i, c] * m[j, c] * m[c, c]
            m[i, j] = s / d
    for i in range(n):
        for c in range(i):
            x[i] -= m[i, c] * x[c]
    for i in range(n):
        x[i] /= m[i, i]
    for i in range(n - 1, -1, -1):
        for c in range(i + 1, n):
            x[i] -= m[c, i] * x[c]


@compiled
def solve_flows(n: int, tail: Ints, head: Ints, e: Floats, a: Floats, b: Floats, p: Floats, q: Floats) -> float:
    """Newton on the mass balance with step halving; ``p`` (n + 1) is start and result, ``q`` the flows per link.

    Returns the residual in m3/s. The Jacobian is symmetric positive definite and the solution unique (source: contam).
    Spaces without links keep their pressure.
    """
    links = len(tail)
    slope, net = np.empty(links), np.empty(n + 1)
    jac, step, trial = np.empty((n, n)), np.empty(n), np.empty(n + 1)
    p[n] = 0.0
    size = _flows(n, tail, head, e, a, b, p, q, slope, net)
    for _ in range(MOST_STEPS):
        if size < MASS_TOLERANCE_M3S:
            break
        jac[:, :] = 0.0
        for i in range(links):
            u, d, s = tail[i], head[i], slope[i]
            if u == d:
                continue
            if u < n:
                jac[u, u] += s
            if d < n:
                jac[d, d] += s
            if u < n and d < n:
                if u > d:
                    jac[u, d] -= s
                else:
                    jac[d, u] -= s
        for z in range(n):
            if jac[z, z] == 0.0:
                jac[z, z] = 1.0
            step[z] = -net[z]
        _solve_spd(jac, step, n)
        share = 1.0
        while True:
            for z in range(n):
                trial[z] = p[z] + share * step[z]
            trial[n] = 0.0
            trial_size = _flows(n, tail, head, e, a, b, trial, q, slope, net)
            if trial_size < size or share < 1e-4:
                break
            share /= 2
        p[:] = trial
        size = trial_size
    return size
