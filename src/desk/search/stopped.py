"""What becomes of layouts when any one of their case fans stands still."""

from dataclasses import dataclass

import numpy as np

from desk.search.field import Search
from desk.search.looking import Whole
from engine.search.space import EMPTY


@dataclass(frozen=True)
class OneStopped:
    """A layout with one fan at rest, one a line: its row, the mount, rises of processor and card in K, W given up in all."""

    row: np.ndarray
    mount: np.ndarray
    rise_k: np.ndarray
    lost_w: np.ndarray

    def strain(self, limits_k: np.ndarray) -> np.ndarray:
        """How near the nearer part is to its limit then, power given up over it; ``limits_k`` by line and part."""
        return np.asarray((self.rise_k / limits_k).max(axis=1) + self.lost_w)


def one_stopped(made: Search, whole: Whole, rows: np.ndarray) -> OneStopped:
    """Every layout of some rows with each of its fans in turn at rest; what has no fan has no line."""
    parts = []
    for at, frame in enumerate(made.frames):
        own = rows[whole.frame[rows] == at]
        line, mount = np.nonzero(whole.states[own] != EMPTY)
        states, speed = whole.states[own][line], whole.speed[own][line]
        rises, lost_w = made.rises_k(frame, frame.field.solve(states, speed, made.parameters, mount))
        parts.append((own[line], mount, rises, lost_w.sum(axis=1)))
    return OneStopped(*(np.concatenate(x) for x in zip(*parts, strict=True)))
