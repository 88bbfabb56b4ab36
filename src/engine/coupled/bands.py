"""95 % half-widths of forecast figures: parameters' priors carried through the model, and the model's own error.

The part from parameters is linear: sensitivities of the operating point per one sigma of each prior (checked against Monte
Carlo). Between two layouts of one case the same parameters act on both, so what they share cancels. The model error is
stated, from the spread of the facts of the trade about the forecast (docs/model.md).
"""

from math import hypot

import numpy as np

from engine import constants as k
from engine.coupled.batch import FIGURES
from engine.coupled.operating_point import OperatingPoint
from engine.parameters import PARAMETERS


def absolute_band_k(point: OperatingPoint, figure: str, rise_k: float) -> float:
    """Band of one figure of one layout: mostly what the parts' own sheets leave open."""
    spread = float(np.linalg.norm(point.sensitivity_k[FIGURES.index(figure)]))
    return k.COVERAGE_FACTOR * hypot(spread, k.BAND_MODEL_K, k.BAND_ABSOLUTE_SHARE * rise_k)


def difference_band_k(point: OperatingPoint, against: OperatingPoint, figure: str, difference_k: float) -> float:
    """Band of a difference between two layouts of one case: shared errors cancel."""
    at = FIGURES.index(figure)
    spread = float(np.linalg.norm(point.sensitivity_k[at] - against.sensitivity_k[at]))
    return k.COVERAGE_FACTOR * hypot(spread, k.BAND_MODEL_K, k.BAND_DIFFERENCE_SHARE * difference_k)


def largest_causes(point: OperatingPoint, figure: str, most: int = 4) -> list[tuple[str, float]]:
    """What the band's part from parameters comes from: meaning and K per sigma, largest first."""
    moves = point.sensitivity_k[FIGURES.index(figure)]
    order = np.argsort(-np.abs(moves))[:most]
    return [(PARAMETERS[i].meaning, float(moves[i])) for i in order if abs(moves[i]) > 0.05]


def least_apart_k() -> float:
    """The narrowest band that a difference can have: two layouts no farther apart are never told apart."""
    return k.COVERAGE_FACTOR * k.BAND_MODEL_K


def sound_band_db() -> float:
    return k.COVERAGE_FACTOR * k.BAND_SOUND_DB
