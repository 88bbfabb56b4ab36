"""Fits the engine's parameters, all together, to facts of the trade from one half of their documents.

Run: ``PYTHONPATH=src:. .venv/bin/python tools/study/fit.py``. It prints what
it would change and changes nothing. The other half of the documents is only scored here; docs/model.md, section 8, says how it
was looked at all the same.

Cost: for each fact how far it lies outside its range less a tenth at either end, in sixths of the range, times WEIGHT, taken as
a square up to 1 and linearly beyond (a fact that the model cannot meet may not bend all others); plus the square of every
parameter's distance from its prior in sigmas. Gauss-Newton with damping; derivatives from one batch per layout.
"""

import sys
from typing import Any

import numpy as np
from numpy.typing import NDArray

from engine.parameters import COUNT, PARAMETERS, SPREADS
from tests.engine.test_trade import FACTS, FITTED_ON, _in_rows, _met_in_rows, _Rows, limits

Floats = NDArray[np.float64]
WEIGHT, MARGIN, NUDGE = 6.0, 0.1, 0.03
PRIOR = np.log(np.array([p.prior for p in PARAMETERS]))
SIGMA = np.log(SPREADS)
# Handbook figures stay; what a person's own parts decide is calibrated later, by their own runs.
FREE = [i for i, p in enumerate(PARAMETERS) if p.name not in ("discharge_coefficient", "turn_loss_k", "cpu_path", "card_path", "cooler_ua")]
FITTED = [f for f in FACTS if _in_rows(f) and f["document"] in FITTED_ON]


def _outside(fact: dict[str, Any], rows: _Rows) -> Floats:
    """Distance of a fact from the inside of its range, per row of parameters."""
    name, quantity = fact["document"], fact["quantity"]
    if fact["type"] == "falls_along":
        values = np.array([rows.figure(name, x, quantity) for x in fact["layouts"]])
        rises = np.maximum(np.diff(values, axis=0) - fact["slack"] / 2, 0).sum(axis=0)
        return np.asarray(3 * (rises + np.maximum(1.1 * fact["min_total_fall"] - (values[0] - values[-1]), 0)))
    value = rows.figure(name, fact["layout"], quantity)
    if fact["type"] == "difference":
        value = value - rows.figure(fact.get("against_document", name), fact["against"], quantity)
    low, high = limits(fact)
    width = high - low
    off = np.minimum(value - low - MARGIN * width, 0) + np.maximum(value - high + MARGIN * width, 0)
    return np.asarray(off / np.clip(width / 6, 0.3, 1.5))


def residuals(logs: Floats) -> Floats:
    """(facts, rows) of weighted, softened distances."""
    _Rows.known.clear()
    rows = _Rows(np.exp(logs))
    off = WEIGHT * np.array([_outside(f, rows) for f in FITTED])
    return np.asarray(np.where(np.abs(off) > 1, np.sign(off) * np.sqrt(np.maximum(2 * np.abs(off) - 1, 0)), off))


def cost(x: Floats, r: Floats) -> float:
    return float((r**2).sum() + (((x - PRIOR) / SIGMA)[FREE] ** 2).sum())


def fit() -> Floats:
    x = PRIOR.copy()
    for turn in range(14):
        found = residuals(np.vstack([x, x + NUDGE * np.eye(COUNT)[FREE]]))
        r, jacobian = found[:, 0], (found[:, 1:] - found[:, :1]) / NUDGE
        hessian, slope = jacobian.T @ jacobian, jacobian.T @ r + ((x - PRIOR) / SIGMA**2)[FREE]
        trials = []
        for damping in (0.1, 1.0, 5.0, 20.0):
            step = np.linalg.solve(hessian + np.diag((1 + damping) / SIGMA[FREE] ** 2), -slope)
            trials.append(x.copy())
            trials[-1][FREE] += step
        costs = [cost(t, c) for t, c in zip(trials, residuals(np.array(trials)).T, strict=True)]
        before, best = cost(x, r), int(np.argmin(costs))
        print(f"{turn:3} cost {before:8.2f} -> {costs[best]:8.2f}", file=sys.stderr)
        if costs[best] > before - 1e-3:
            break
        x = trials[best]
    return np.asarray(np.exp(x))


def main() -> None:
    values = fit()
    _Rows.known.clear()
    scores = {half: [0, 0] for half in ("fitted on", "the others")}
    for fact in FACTS:
        if _in_rows(fact):
            score = scores["fitted on" if fact["document"] in FITTED_ON else "the others"]
            score[0] += bool(_met_in_rows(fact, values[None, :])[0])
            score[1] += 1
    for p, value in zip(PARAMETERS, values, strict=True):
        sigmas = np.log(value / p.prior) / np.log(p.spread)
        print(f"{p.name:<28}{p.prior:10.4g}{value:10.4g}{sigmas:8.2f} sigma   in use {p.value:.4g}")
    print(", ".join(f"{met} of {count} {half}" for half, (met, count) in scores.items()))


if __name__ == "__main__":
    main()
