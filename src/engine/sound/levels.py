"""Sound levels in dB(A): speed, distance, energy sum, path."""

import math
from collections.abc import Iterable

from engine import constants as k

# Where the listener sits decides which face radiates straight at the ear.
_TURNED_DB = {
    "front": k.FACE_WEIGHT_DB,
    "window": {**k.FACE_WEIGHT_DB, "window": 0.0, "front": 1.0, "rear": 1.0},
    "rear": {**k.FACE_WEIGHT_DB, "rear": 0.0, "front": -3.0},
    "above": {**k.FACE_WEIGHT_DB, "front": -1.0, "rear": -1.0, "window": -1.0},
}


def sum_levels_dba(levels_dba: Iterable[float]) -> float:
    """Energy sum of incoherent sources: ``10 log10(sum 10^(L/10))`` (source: kinsler)."""
    total = sum(10 ** (level / 10) for level in levels_dba)
    return 10 * math.log10(total) if total > 0 else -math.inf


def speed_change_db(speed_share: float) -> float:
    """Change of level with fan speed: 50 log10 of the speed ratio (source: fan_laws, sound power ~ n^5)."""
    return k.SPEED_LEVEL_EXPONENT_DB * math.log10(speed_share) if speed_share > 0 else -math.inf


def at_listener_dba(
    level_1m_dba: float, speed_share: float, face: str, listener_side: str, panel_loss_db: float, distance_m: float
) -> float:
    """Level of one fan at the listener, from its rated level at 1 m and full speed (source: kinsler; face weights: trade)."""
    weight_db = _TURNED_DB[listener_side][face]
    return level_1m_dba + speed_change_db(speed_share) + weight_db - panel_loss_db - 20 * math.log10(distance_m)
