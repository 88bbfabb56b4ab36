"""A temperature over the room, and what the room's own thermometer leaves unseen of it."""

from dataclasses import dataclass

from engine.runs.rounding import noise_of, unseen_k
from engine.runs.series import ROOM_CHANNEL, Floats, RunLog, resolution

ROOM_CARRIED = 2.5  # a room that passes from step to step looks like a stage: what that goes on to at the end (study)


@dataclass(frozen=True)
class RoomSteps:
    """One sigma of what the room's probe leaves unseen; one that ``moves`` passes from step to step in the midst of the run."""

    unseen_k: float
    moves: bool

    @property
    def moving_k(self) -> float:
        """One sigma of what it does to what is still left: nothing where it stands at one step."""
        return self.unseen_k if self.moves else 0.0

    @property
    def at_end_k(self) -> float:
        """One sigma of what it does to the end that the run goes to."""
        return ROOM_CARRIED * self.unseen_k if self.moves else self.unseen_k


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
