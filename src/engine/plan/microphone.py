"""Is the room quiet enough for what is to be measured in it?"""

LEAST_GAP_DB = 3.0  # survey grade: below it the room is most of what is heard (ISO 3746, from memory)
GOOD_GAP_DB = 6.0  # engineering grade (ISO 3744, from memory)


def floor_words(background_dba: float | None, target_dba: float | None) -> str:
    """What the room's own level means for a target level; empty where it is far below it or one of them is not known."""
    if background_dba is None or target_dba is None:
        return ""
    gap = target_dba - background_dba
    if gap < LEAST_GAP_DB:
        return f"The room alone is {gap:.1f} dB below the target: too close to it to be measured. Wait for the night, or measure nearer."
    if gap < GOOD_GAP_DB:
        return f"The room alone is only {gap:.1f} dB below the target: levels near it read up to 1 dB too high."
    return ""
