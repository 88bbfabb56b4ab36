"""A temperature over the room, and what the room's own thermometer leaves unseen of it."""

from dataclasses import dataclass

from engine.runs.rounding import noise_of, unseen_k
from engine.runs.series import ROOM_CHANNEL, Floats, RunLog, resolution


@dataclass(frozen=True)
class RoomSteps:
    """One sigma of what the room's probe leaves unseen; one that moves passes from step to step in the midst of the run."""

    unseen_k: float
    moves: bool


def over_room(log: RunLog, channel: str) -> Floats:
    """A temperature over the room where the room is known, else as it is."""
    values = log.channels[channel]
    return values if log.room_c is None or not channel.endswith("_c") else values - log.room_c


def room_steps(log: RunLog) -> RoomSteps:
    """What the room's probe leaves unseen by reading in steps: a figure that was typed, nothing."""
    values = log.channels.get(ROOM_CHANNEL)
    if values is None:
        return RoomSteps(0.0, False)
    return RoomSteps(unseen_k(log.room_step_k, noise_of(values)), resolution(values) > 0)
