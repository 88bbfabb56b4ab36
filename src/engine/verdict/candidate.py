"""A layout with its runs, and what of them can carry a judgement."""

from collections.abc import Mapping
from dataclasses import dataclass, field
from functools import cached_property

from engine.runs.analysis import RunAnalysis
from engine.runs.budget import BudgetLine
from engine.runs.series import ROOM_CHANNEL


@dataclass(frozen=True)
class RunFigure:
    """A run's figure of one channel with its contributions to the uncertainty; temperatures over room."""

    value: float
    lines: tuple[BudgetLine, ...]

    @property
    def own(self) -> list[BudgetLine]:
        """What differs from run to run."""
        return [x for x in self.lines if not x.common]


@dataclass(frozen=True)
class Candidate:
    """A layout with its runs; ``hours`` tells when each was made, where that is known. Not to be added to once it was asked."""

    name: str
    runs: list[RunAnalysis] = field(default_factory=list)
    conditions: list[Mapping[str, str]] = field(default_factory=list)  # one per run, where known: protocol, load, what was held
    hours: list[float] = field(default_factory=list)

    @cached_property
    def judged(self) -> list[RunAnalysis]:
        """The runs that can carry a judgement; all of them where none can, so that the reason is said."""
        return [run for run in self.runs if not spoilt(run)] or self.runs

    def left_aside(self) -> list[str]:
        """Why runs beside the judged ones were left aside."""
        judged = self.judged
        return [spoilt(run) for run in self.runs if not any(run is other for other in judged)]

    @cached_property
    def _found(self) -> dict[str, list[RunFigure]]:
        return {}

    def figures(self, channel: str) -> list[RunFigure]:
        """Of a channel, one per judged run that has it; temperatures over room."""
        if channel not in self._found:
            self._found[channel] = self._figures(channel)
        return self._found[channel]

    def _figures(self, channel: str) -> list[RunFigure]:
        found = []
        for run in self.judged:
            c = run.channel(channel)
            if c is None:
                continue
            lines = c.budget or (BudgetLine("standard error", c.standard_error if c.rise_k is None else c.rise_standard_error or 0.0),)
            if not channel.endswith("_c"):
                found.append(RunFigure(c.mean, lines))
            elif c.rise_k is not None:
                found.append(RunFigure(c.rise_k, lines))
        return found

    def values(self, channel: str) -> list[float]:
        return [f.value for f in self.figures(channel)]

    def at_limit(self, part: str) -> bool:
        """Whether a part held its temperature by giving up power in one of the judged runs."""
        return any(run.has("throttled", part) for run in self.judged)


def spoilt(run: RunAnalysis) -> str:
    """Why a run cannot carry a judgement of temperatures; empty when it can. A part at its limit is judged by power."""
    if run.has("room_missing"):
        return "no room temperature"
    if run.has("room_doubtful"):
        return "the room temperature is doubtful"
    if all("by_hand" in c.flags for c in run.channels if c.name != ROOM_CHANNEL):
        return ""  # figures read at its end by a person, who answers for them
    return "" if run.settled or run.has("throttled") else "not settled"
