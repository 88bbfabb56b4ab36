"""A temperature over the room, and what the room's own thermometer leaves unseen of it."""

from dataclasses import dataclass

from engine.runs.rounding import Rounding, noise_of, rounding_of, unseen_k
from engine.runs.series import ROOM_CHANNEL, Floats, RunLog, resolution

ROOM_CARRIED = 3.0  # a room that passes from step to step looks like a stage: what that goes on to at the end (study)
HIDES = 0.5  # numerical: a probe in tenths hides nothing of whole degrees, one in whole degrees does


@dataclass(frozen=True)
class RoomSteps:
    """One sigma of what the room's probe leaves unseen; one that ``moves`` passes from step to step in the midst of the run."""

    unseen_k: float = 0.0
    moves: bool = False

    @property
    def moving_k(self) -> float:
        """One sigma of what it does to what is still left: nothing where it stands at one step."""
        return self.unseen_k if self.moves else 0.0

    @property
    def wait_k(self) -> float:
        """One sigma of what it does to how long that takes."""
        return ROOM_CARRIED * self.moving_k

    @property
    def at_end_k(self) -> float:
        """One sigma of what it does to the end that the run goes to."""
        return ROOM_CARRIED * self.unseen_k if self.moves else self.unseen_k

    def hides(self, step: float) -> bool:
        """Whether it takes from readings in steps of ``step`` what each of them tells of a course that is known but for its size: also
        where it stands, the room may move by most of its step."""
        return self.unseen_k > HIDES * unseen_k(step, 0.0)


NO_STEPS = RoomSteps()


@dataclass(frozen=True)
class Steps:
    """In which steps a channel was read, and the room that was taken away from it."""

    own: Rounding
    room: RoomSteps = NO_STEPS


def over_room(log: RunLog, channel: str) -> Floats:
    """A temperature over the room where the room is known, else as it is."""
    values = log.channels[channel]
    return values if log.room_c is None or not channel.endswith("_c") else values - log.room_c


def room_steps(log: RunLog) -> RoomSteps:
    """What the room's probe leaves unseen by reading in steps: a figure that was typed, nothing."""
    values = log.channels.get(ROOM_CHANNEL)
    if values is None:
        return NO_STEPS
    return RoomSteps(unseen_k(log.room_step_k, noise_of(values)), resolution(values) > 0)


def steps_of(log: RunLog, channel: str, room: RoomSteps) -> Steps:
    return Steps(rounding_of(log.channels[channel]), room)
