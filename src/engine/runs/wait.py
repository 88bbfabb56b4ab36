"""How long until a channel has come to rest: a range that holds in four of five runs and more, and what a person is told of it."""

from collections.abc import Sequence
from dataclasses import dataclass
from math import ceil

SOONEST_S, SURELY_S = 30.0, 120.0  # ours, held by the study: what is not called yet is not called sooner, nor surely
LEAST_TOLD_S = 60.0  # shorter is not told as one number
ONE_NUMBER = 1.5**2  # a range that is no wider is one number, right within a factor of 1.5
MOST_TOLD_MIN = 90.0  # beyond, a range tells nobody when to come back
TOO_EARLY = "too early to say"


@dataclass(frozen=True)
class Wait:
    """Seconds until no more than a given rest is left: the likeliest, and its range; all nought where it is so already."""

    least_s: float
    about_s: float
    most_s: float

    def one_number(self, lasted_s: float) -> bool:
        """It is known well enough for one number: the range no wider than the factor, and the wait no longer than what was seen."""
        return self.least_s >= LEAST_TOLD_S and self.most_s <= ONE_NUMBER * self.least_s and self.about_s <= lasted_s

    def words(self, lasted_s: float) -> str:
        """A range, or one number where it is known so well; empty where there is no wait."""
        least, most = self.least_s / 60, self.most_s / 60
        if self.one_number(lasted_s):
            return f"about {self.about_s / 60:.0f} min more"
        if most > MOST_TOLD_MIN:
            return f"at least {least:.0f} min more" if least >= 1 else TOO_EARLY
        if least >= 1:
            return f"{least:.0f} to {most:.0f} min more"
        return f"up to {ceil(most)} min more" if most else ""

    def uncalled(self) -> "Wait":
        """The same of what is not called settled yet, which it will not be at once."""
        least, most = max(self.least_s, SOONEST_S), max(self.most_s, SURELY_S)
        return Wait(least, min(max(self.about_s, least), most), most)


NO_WAIT = Wait(0.0, 0.0, 0.0)  # it has come to rest


def last_of(waits: Sequence[Wait]) -> Wait:
    """Until the last of them has come to rest."""
    if not waits:
        return NO_WAIT
    return Wait(max(w.least_s for w in waits), max(w.about_s for w in waits), max(w.most_s for w in waits))
