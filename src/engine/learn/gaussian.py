"""Unknowns and errors together as one normal distribution, told more by every reading (source: rasmussen).

A reading is ``y = f + S (z - z0) + e + n``: z the parameters in their priors' sigmas, e the model's own error with covariance C, n
the reading's. How large C truly is in this case is not known: a few sizes are weighed by how well each explains the readings.
"""

from collections.abc import Sequence
from dataclasses import dataclass
from functools import cached_property

import numpy as np
from numpy.typing import NDArray

Floats = NDArray[np.float64]

SIZES = np.array([0.5, 0.71, 1.0, 1.41, 2.0, 2.83])  # numerical: sizes of the model's error over its stated one
SIZE_SPREAD = 0.4  # no source: one sigma of the logarithm of that size, from case to case


@dataclass(frozen=True)
class Told:
    """Readings with all they say. ``residual`` is y - f + S z0, ``jacobian`` S, ``error`` C and ``noise`` covariances of the rows."""

    residual: Floats
    jacobian: Floats
    error: Floats
    noise: Floats

    def covariance(self, size: float) -> Floats:
        return self.jacobian @ self.jacobian.T + size**2 * self.error + self.noise

    @cached_property
    def inverses(self) -> dict[float, Floats]:
        """Of the covariance, by size, as they were asked for."""
        return {}

    @cached_property
    def weights(self) -> Floats:
        """Of each of ``SIZES``: how well it explains the readings, times its prior."""
        logs = -((np.log(SIZES) / SIZE_SPREAD) ** 2) / 2
        if len(self.residual):
            logs = logs + np.array([self._log_evidence(s) for s in SIZES])
        found = np.exp(logs - logs.max())
        return np.asarray(found / found.sum())

    def _log_evidence(self, size: float) -> float:
        lower = np.linalg.cholesky(self.covariance(size))
        white = np.linalg.solve(lower, self.residual)
        return float(-white @ white / 2 - np.log(np.diag(lower)).sum())

    @cached_property
    def size(self) -> float:
        """The model's error over its stated one, as the readings have it."""
        return float(np.exp(self.weights @ np.log(SIZES)))

    def without(self, rows: Sequence[int]) -> "Told":
        rest = np.setdiff1d(np.arange(len(self.residual)), rows)
        at = np.ix_(rest, rest)
        return Told(self.residual[rest], self.jacobian[rest], self.error[at], self.noise[at])


@dataclass(frozen=True)
class Asked:
    """Figures to be told: ``mean`` at the parameters z0, ``jacobian`` about them; of the model's error and of what errs by a known
    amount (sensors) the covariance of the figures, and that with the rows told."""

    mean: Floats
    jacobian: Floats
    error: Floats
    known: Floats
    cross_error: Floats
    cross_known: Floats


def parameters(told: Told, count: int) -> tuple[Floats, Floats]:
    """Mean and covariance of z after the readings: (count,), (count, count)."""
    if not len(told.residual):
        return np.zeros(count), np.eye(count)
    means, parts = [], []
    for size in SIZES:
        gain = np.linalg.solve(told.covariance(size), told.jacobian).T
        means.append(gain @ told.residual)
        parts.append(np.eye(count) - gain @ told.jacobian)
    return _mixed(told.weights, means, parts)


def figures(told: Told, asked: Asked, around: Floats) -> tuple[Floats, Floats]:
    """Mean and covariance of what is asked; ``around`` is z0, about which both were made linear."""
    prior = asked.mean - asked.jacobian @ around
    own = asked.jacobian @ asked.jacobian.T
    means, parts = [], []
    for size in SIZES:
        whole = own + size**2 * asked.error + asked.known
        if len(told.residual):
            across = asked.jacobian @ told.jacobian.T + size**2 * asked.cross_error + asked.cross_known
            gain = np.linalg.solve(told.covariance(size), across.T).T
            means.append(prior + gain @ told.residual)
            parts.append(whole - gain @ across.T)
        else:
            means.append(prior)
            parts.append(whole)
    return _mixed(told.weights, means, parts)


def beyond_parameters(told: Told, cross_error: Floats, cross_known: Floats) -> Floats:
    """Mean of what the parameters do not say, of figures with these covariances with the rows told; as ``figures`` has it."""
    if not len(told.residual):
        return np.zeros(len(cross_error))
    found = np.zeros(len(cross_error))
    for weight, size in zip(told.weights, SIZES, strict=True):
        found += weight * ((size**2 * cross_error + cross_known) @ np.linalg.solve(told.covariance(size), told.residual))
    return found


def _mixed(weights: Floats, means: list[Floats], parts: list[Floats]) -> tuple[Floats, Floats]:
    """Mean and covariance of a mixture."""
    mean = sum((w * m for w, m in zip(weights, means, strict=True)), np.zeros_like(means[0]))
    whole = np.zeros_like(parts[0])
    for w, m, part in zip(weights, means, parts, strict=True):
        whole += w * (part + np.outer(m - mean, m - mean))
    return np.asarray(mean), np.asarray((whole + whole.T) / 2)


def left_out(told: Told, rows: list[int], size: float) -> tuple[Floats, Floats]:
    """What some rows say less what all the others expect of them, and the covariance of that, for one size of the model's error.

    Their own block of the inverse gives it without solving anew (source: rasmussen, 5.4.2).
    """
    inverse = _inverse(told, size)
    own = np.linalg.inv(inverse[np.ix_(rows, rows)])
    return np.asarray(own @ (inverse[rows] @ told.residual)), np.asarray(own)


def _inverse(told: Told, size: float) -> Floats:
    if size not in told.inverses:
        told.inverses[size] = np.asarray(np.linalg.inv(told.covariance(size)), dtype=np.float64)
    return told.inverses[size]
