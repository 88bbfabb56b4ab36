"""A layout with its runs, and what of them can carry a judgement."""

from collections.abc import Mapping, Sequence
from dataclasses import dataclass, field
from functools import cached_property
from math import hypot, inf

from engine.runs.analysis import ChannelAnalysis, RunAnalysis, going_to
from engine.runs.budget import BudgetLine, coverage_factor
from engine.runs.series import ROOM_CHANNEL

WELL_RECKONED_K = 0.4  # one sigma of what was reckoned on: an end known as well as this counts beside those that were reached
TO_COME = "still to come when the run ended, reckoned on"
TO_COME_OWN = "the same, from layout to layout"
UNSEEN_SHARE = 0.15  # of what was left at the end of a run: stages too slow to be seen in it (study)


@dataclass(frozen=True)
class RunFigure:
    """A run's figure of one channel with its contributions to the uncertainty; temperatures over room."""

    value: float
    lines: tuple[BudgetLine, ...]
    reckoned: bool = False  # of a channel that had not settled: the end it was going to, with what that is worth

    @property
    def own(self) -> list[BudgetLine]:
        """What differs from run to run."""
        return [x for x in self.lines if not x.common]


@dataclass(frozen=True)
class Deviation:
    """One layout's runs were not as it asks; what that adds to its figures by channel: (K, one sigma)."""

    words: str
    adds_k: Mapping[str, tuple[float, float]]


@dataclass(frozen=True)
class Candidate:
    """A layout with its runs; ``hours`` tells when each was made, where that is known. Not to be added to once it was asked."""

    name: str
    runs: list[RunAnalysis] = field(default_factory=list)
    conditions: list[Mapping[str, str]] = field(default_factory=list)  # one per run, where known: protocol, load, what was held
    hours: list[float] = field(default_factory=list)
    remarks: list[str] = field(default_factory=list)  # what its runs were not as the layout asks, in words
    deviations: Sequence[Deviation] = ()  # what they were not as the layout asks, with what that adds
    k_per_w: Mapping[str, tuple[float, float]] = field(default_factory=dict)  # channel -> K per W of its part, one sigma; by the forecast
    named: Mapping[str, str] = field(default_factory=dict)  # parts and powers that the layout itself names: where they differ, on purpose
    asked: bool = True  # a layout says how fast its fans should turn; of bare logs none does
    slopes: Mapping[str, int] = field(default_factory=dict)  # channel -> degrees that a line through this layout's runs has taken

    @cached_property
    def judged(self) -> list[RunAnalysis]:
        """The runs that can carry a judgement: those whose end was reached or is well known where there are any, else those whose
        end can be reckoned; all of them where none can, so that the reason is said."""
        good = [run for run in self.runs if not spoilt(run)]
        return [run for run in good if ended(run)] or good or self.runs

    def left_aside(self) -> list[str]:
        """Why runs beside the judged ones were left aside."""
        judged = self.judged
        return [spoilt(run) or "not settled" for run in self.runs if not any(run is other for other in judged)]

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
                figure = RunFigure(c.rise_k, lines, "reckoned" in c.flags) if final(run, c) else reckoned(c)
                found += [figure] if figure else []
        return found

    def values(self, channel: str) -> list[float]:
        return [f.value for f in self.figures(channel)]

    def fitted(self, channel: str) -> int:
        """Degrees of freedom of its repeats that a fit has used up."""
        return self.slopes.get(channel, 0)

    def at_limit(self, part: str) -> bool:
        """Whether a part held its temperature by giving up power in one of the judged runs."""
        return any(at_limit(run, part) for run in self.judged)


def at_limit(run: RunAnalysis, part: str) -> bool:
    """Whether a part held its temperature by giving up power or clock, so that its temperature says nothing."""
    return run.has("throttled", part) or run.has("at_limit", part)


def final(run: RunAnalysis, channel: ChannelAnalysis) -> bool:
    """Whether a channel's figure is its end: settled by itself, never loaded, read by hand, held at its limit, or taken on to it."""
    held = at_limit(run, channel.name.split("_")[0])
    return run.settled or channel.settled is not False or held or bool({"by_hand", "reckoned"} & set(channel.flags))


def ended(run: RunAnalysis) -> bool:
    """Whether every loaded temperature of a run had come to its end, or was so near that its end is well known."""
    return all(_unknown_k(run, c) <= WELL_RECKONED_K for c in run.channels if c.settled is not None)


def _unknown_k(run: RunAnalysis, channel: ChannelAnalysis) -> float:
    """One sigma of what was reckoned on to a channel's figure: none where its end was reached, boundless where nobody knows it."""
    if final(run, channel):
        lines = channel.budget
    else:
        figure = reckoned(channel)
        if figure is None:
            return inf
        lines = figure.lines
    return hypot(*(x.standard for x in lines if x.what in (TO_COME, TO_COME_OWN)))


def reckoned(channel: ChannelAnalysis) -> RunFigure | None:
    """The rise a channel that had not settled was going to; None where its end is not known well enough (``going_to``).

    Its band is that of the fit; a share of what was left is added, since a slower stage than the run was long cannot be seen in it.
    """
    going = going_to(channel)
    if going is None or going.rise_k is None or channel.rise_k is None:
        return None
    standard = hypot(going.band_k / coverage_factor(inf), UNSEEN_SHARE * (going.rise_k - channel.rise_k))
    line = BudgetLine(TO_COME, standard, "A")
    return RunFigure(going.rise_k, (*(channel.budget or ()), line), reckoned=True)


def spoilt(run: RunAnalysis) -> str:
    """Why a run cannot carry a judgement of temperatures; empty when it can. A part at its limit is judged by power."""
    if run.has("room_missing"):
        return "no room temperature"
    if run.has("room_doubtful"):
        return "the room temperature is doubtful"
    temperatures = [c for c in run.channels if c.settled is not None]
    if run.settled or run.has("throttled") or run.has("at_limit") or any(final(run, c) or reckoned(c) for c in temperatures):
        return ""
    if all("by_hand" in c.flags for c in run.channels if c.name != ROOM_CHANNEL):
        return ""  # figures read at its end by a person, who answers for them
    return "not settled, and its end cannot be reckoned"
