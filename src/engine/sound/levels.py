"""Sound levels in dB(A): speed, distance, energy sum, path."""

import math
from collections.abc import Iterable, Mapping

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


def through_panels_db(faces: Mapping[str, tuple[float, float]], listener_side: str) -> float:
    """How much of what sounds inside comes out, in dB against a case with a mesh front and all else closed.

    ``faces``: by face its area (any unit) and what its panel holds back in dB (0 where it is off). Each face passes the share of its
    area, weakened by its panel and weighed by where the listener sits; the shares add up as energies (source: kinsler).
    """
    weight = _TURNED_DB[listener_side]
    whole = sum(area for area, _ in faces.values())
    if whole <= 0:
        return 0.0
    closed, mesh = k.PANEL_LOSS_DB["solid"], k.PANEL_LOSS_DB["mesh"]

    def passed(face: str, area: float, loss_db: float) -> float:
        return area / whole * 10 ** ((weight[face] - loss_db) / 10)

    now = sum(passed(face, area, loss) for face, (area, loss) in faces.items())
    usual = sum(passed(face, area, mesh if face == "front" else closed) for face, (area, _) in faces.items())
    return 10 * math.log10(now / usual)


def at_listener_dba(
    level_1m_dba: float, speed_share: float, face: str, listener_side: str, panel_loss_db: float, distance_m: float
) -> float:
    """Level of one fan at the listener, from its rated level at 1 m and full speed (source: kinsler; face weights: trade)."""
    weight_db = _TURNED_DB[listener_side][face]
    return level_1m_dba + speed_change_db(speed_share) + weight_db - panel_loss_db - 20 * math.log10(distance_m)
