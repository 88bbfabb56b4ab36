"""A machine's own level out of what was read with the room around it."""

from dataclasses import dataclass
from math import log10

NO_CORRECTION_DB = 15.0  # from here on the room adds nothing worth taking off (source: iso_3744)
ENGINEERING_DB = 6.0  # least gap of the engineering grade (source: iso_3744)
SURVEY_DB = 3.0  # least gap of the survey grade; below it the most that is taken off is 3 dB (source: iso_3746)
MOST_DB = 3.0  # the most that is taken off (source: iso_3746)


@dataclass(frozen=True)
class OwnLevel:
    """``level_dba`` of the machine alone. ``bound``: the room is so loud that this is the most it can be, not what it is."""

    level_dba: float
    taken_off_db: float
    gap_db: float
    grade: str
    bound: bool

    @property
    def words(self) -> str:
        if self.bound:
            return f"only {max(self.gap_db, 0):.1f} dB over the room: the machine alone is at most {self.level_dba:.1f} dBA"
        if not self.taken_off_db:
            return "the room adds nothing worth taking off"
        return f"{self.taken_off_db:.1f} dB taken off for the room, {self.gap_db:.1f} dB under it ({self.grade})"


def without_room(level_dba: float, background_dba: float) -> OwnLevel:
    """What a machine gives without the room: ``K1 = -10 lg(1 - 10^(-0.1 gap))`` (source: iso_3744, iso_3746)."""
    gap = level_dba - background_dba
    if gap >= NO_CORRECTION_DB:
        return OwnLevel(level_dba, 0.0, gap, "engineering grade", False)
    if gap < SURVEY_DB:
        return OwnLevel(
            level_dba - MOST_DB if gap > 0 else level_dba, MOST_DB if gap > 0 else 0.0, gap, "too near the room's own level", True
        )
    off = -10 * log10(1 - 10 ** (-gap / 10))
    return OwnLevel(level_dba - off, off, gap, "engineering grade" if gap >= ENGINEERING_DB else "survey grade", False)
