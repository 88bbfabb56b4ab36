"""Measured figures beside the comparison: spreads, normalised rises, room to the limits, forecasts and guesses scored, loads."""

from collections.abc import Iterator, Sequence
from math import hypot
from typing import Literal

from pydantic import BaseModel

from desk.verdict.facts import worst_room_c
from desk.verdict.options import CHANNEL_OF
from desk.verdict.study import Study
from engine.coupled.forecast import Forecast
from engine.errors import OventaError
from engine.runs.analysis import UNKNOWN_END
from engine.runs.budget import Budget
from engine.verdict.candidate import Candidate
from engine.verdict.choose import Choice, Surprise, scored
from engine.verdict.compare import LEADING, Pair, Word, compare, judged_channels, layout_budget
from engine.verdict.effects import between
from engine.verdict.worth import Headroom, headroom, worth_words


class FigureOut(BaseModel):
    """Mean of a layout's runs. ``band``: 95 % among layouts measured with the same sensors; the budget holds the sensors' own too."""

    layout: str
    channel: str
    value: float
    band: float
    runs: int
    settled: bool
    at_limit: bool
    at_w: float | None = None  # what its part drew in these runs, where that was read
    how: str = ""  # what its runs are that did not settle by themselves: typed, or judged by the end they were going to
    budget: Budget


def figures(s: Study) -> list[FigureOut]:
    rows = []
    limited = dict.fromkeys(p.channel for p in s.pairs if p.channel.endswith(("_power_w", "_clock_mhz")))
    for c in s.candidates:
        for channel in dict.fromkeys([*judged_channels(c), *limited]):
            found = s.budget(c.name, channel)
            if found is None:
                continue
            rows.append(
                FigureOut(
                    layout=c.name,
                    channel=channel,
                    value=found.value,
                    band=found.factor * found.among_alike,
                    runs=len(c.figures(channel)),
                    settled=all(run.settled for run in c.judged),
                    at_limit=channel.endswith("_c") and c.at_limit(channel.split("_")[0]),
                    at_w=_power_at(c, channel),
                    how=_how(c, channel),
                    budget=found,
                )
            )
    return rows


def _power_at(c: Candidate, channel: str) -> float | None:
    """The power beside a part's temperature: a figure is only as good as the watts it was made at."""
    part = channel.split("_")[0]
    return _mean(c, f"{part}_power_w") if channel.endswith("_c") and part in ("cpu", "card") else None


def _how(c: Candidate, channel: str) -> str:
    """What a reader should know of how a temperature came to its end; empty where its runs settled."""
    own = [x for run in c.judged if (x := run.channel(channel)) is not None]
    if not channel.endswith("_c") or c.at_limit(channel.split("_")[0]):
        return ""
    if any("end_unknown" in x.flags for x in own):
        return UNKNOWN_END
    if all("by_hand" in x.flags for x in own):
        return "typed"
    return "not settled: the end it was going to" if any("reckoned" in x.flags or x.settled is False for x in own) else ""


class MissingOut(BaseModel):
    """A leading figure that a layout that was run does not have, and why."""

    layout: str
    channel: str
    why: Literal["at_limit", "no_room", "not_logged"]


def missing(s: Study) -> list[MissingOut]:
    """Of every layout: leading figures that others have."""
    leading = [c for c in LEADING if any(s.budget(x.name, c) for x in s.candidates)]
    return [MissingOut(layout=c.name, channel=x, why=_why(c, x)) for c in s.candidates for x in leading if s.budget(c.name, x) is None]


def _why(c: Candidate, channel: str) -> Literal["at_limit", "no_room", "not_logged"]:
    if all(run.channel(channel) is None for run in c.runs):
        return "not_logged"
    return "at_limit" if c.at_limit(channel.split("_")[0]) else "no_room"


class Spread(BaseModel):
    """How even a layout is, and its rises by watt and by the air that is moved. None where something was not read."""

    layout: str
    front_rear_k: float | None
    cores_k: float | None
    gap_k: float | None
    mean_k: float | None
    cpu_k_per_w: float | None
    card_k_per_w: float | None
    cpu_k_m3h_per_w: float | None  # rise times the air through the case by watt; flow from the forecast
    air_m3h: float | None
    cpu_worth: str
    card_worth: str
    cpu_headroom: Headroom | None
    card_headroom: Headroom | None


def spreads(s: Study) -> list[Spread]:
    return [_spread(s, c) for c in s.own]


def _spread(s: Study, c: Candidate) -> Spread:
    cpu, card = (_mean(c, CHANNEL_OF[x]) for x in ("cpu", "card"))
    watts = {part: _mean(c, f"{part}_power_w") for part in ("cpu", "card")}
    limits, air = s.facts[c.name].limit_rise_k, _air(s, c.name)
    cores = [run.core_spread_k for run in c.judged if run.core_spread_k is not None]
    share = s.settings.cpu_share
    return Spread(
        layout=c.name,
        front_rear_k=_front_rear(c),
        cores_k=_average(cores),
        gap_k=abs(cpu - card) if cpu is not None and card is not None else None,
        mean_k=share * cpu + (1 - share) * card if cpu is not None and card is not None else None,
        cpu_k_per_w=_per(cpu, watts["cpu"]),
        card_k_per_w=_per(card, watts["card"]),
        cpu_k_m3h_per_w=_per(cpu * air if cpu is not None and air is not None else None, watts["cpu"]),
        air_m3h=air,
        cpu_worth=worth_words(cpu, limits.get("cpu")) if cpu is not None else "",
        card_worth=worth_words(card, limits.get("card")) if card is not None else "",
        cpu_headroom=_headroom(s, c, "cpu", cpu, watts["cpu"]),
        card_headroom=_headroom(s, c, "card", card, watts["card"]),
    )


def _mean(c: Candidate, channel: str) -> float | None:
    return _average(c.values(channel))


def _average(values: Sequence[float]) -> float | None:
    return sum(values) / len(values) if values else None


def _per(value: float | None, by: float | None) -> float | None:
    return value / by if value is not None and by else None


def _front_rear(c: Candidate) -> float | None:
    """Rear less front where both were read; else the widest gap among the readings of air."""
    front, rear = _mean(c, "air_front_c"), _mean(c, "air_rear_c")
    if front is not None and rear is not None:
        return rear - front
    names = dict.fromkeys(x.name for run in c.judged for x in run.channels if x.name.startswith("air_") and x.name.endswith("_c"))
    values = [v for n in names if (v := _mean(c, n)) is not None]
    return max(values) - min(values) if len(values) > 1 else None


def _air(s: Study, layout: str) -> float | None:
    found = _forecast(s, layout)
    return found.balance.inflow_total_m3h if found else None


def _forecast(s: Study, layout: str) -> Forecast | None:
    try:
        return s.oracle.forecast(layout)
    except OventaError:
        return None


def _headroom(s: Study, c: Candidate, part: str, rise: float | None, watts: float | None) -> Headroom | None:
    limit = s.facts[c.name].limit_rise_k.get(part)
    if rise is None or watts is None or limit is None:
        return None
    room = worst_room_c(s.doc)
    return headroom(rise, watts, limit + room, room, _mean(c, f"{part}_clock_mhz"))


class GuessError(BaseModel):
    """A guessed difference of two layouts against the measured one, in K, with its 95 % band; ``off_k`` is guess minus measured."""

    channel: str
    layout: str
    over: str
    guessed_k: float
    measured_k: float
    expanded_k: float
    off_k: float


class Scores(BaseModel):
    """Forecasts against measurements, surprises first; and the person's own guess."""

    rows: list[Surprise]
    guess_errors: list[GuessError] = []
    guess: str | None
    guess_words: str
    guess_says: str


def scores(s: Study, choice: Choice) -> Scores:
    rows = []
    for c in s.own:
        forecast = _forecast(s, c.name)
        if forecast is None:
            continue
        expected = {"cpu_package_c": (forecast.cpu.rise_k, forecast.cpu.band_k)}
        expected["sound_dba"] = (forecast.sound.level_dba, forecast.sound.band_db)
        if forecast.card:
            expected["card_core_c"] = (forecast.card.rise_k, forecast.card.band_k)
        if forecast.coolant:
            expected["coolant_c"] = (forecast.coolant.rise_k, forecast.coolant.band_k)
        for channel, values in expected.items():
            found = s.budget(c.name, channel)
            if found and not c.at_limit(channel.split("_")[0]):
                rows.append(scored(c.name, channel, values, (found.value, found.expanded)))
    guess = s.doc.plan.guess if s.doc.plan else None
    best = guess.best if guess else None
    return Scores(
        rows=sorted(rows, key=lambda r: -abs(r.z)),
        guess=best,
        guess_errors=list(_guess_errors(s)),
        guess_words=guess.words if guess else "",
        guess_says=_guess_says(best, choice, s.names),
    )


def _guess_errors(s: Study) -> Iterator[GuessError]:
    plan = s.doc.plan
    if plan is None or plan.guess.best is None:
        return
    over = plan.guess.over or plan.control or s.reference
    for channel, guessed in (("cpu_package_c", plan.guess.cpu_k), ("card_core_c", plan.guess.card_k)):
        told = between(s.pairs, over, plan.guess.best, channel) if guessed is not None else None
        if told is not None and guessed is not None:
            yield GuessError(
                channel=channel,
                layout=plan.guess.best,
                over=over,
                guessed_k=guessed,
                measured_k=told[0],
                expanded_k=told[1],
                off_k=guessed - told[0],
            )


def _guess_says(best: str | None, choice: Choice, names: Sequence[str]) -> str:
    if best is None:
        return ""
    if best not in names:
        return f"You guessed {best}; it was not run."
    if best == choice.best:
        return f"You guessed {best}: right."
    if best in choice.tied:
        return f"You guessed {best}: as good as {choice.best}."
    return f"You guessed {best}; the runs say {choice.best}." if choice.best else f"You guessed {best}; no layout passes."


class LoadRow(BaseModel):
    layout: str
    channel: str
    value: float
    band: float
    difference_k: float | None
    expanded_k: float | None
    word: Word | None


class LoadSummary(BaseModel):
    """One load by itself: figures of every layout, told from the reference; ``best`` by channel where one is shown to be the best."""

    load: str
    runs: int
    rows: list[LoadRow]
    best: dict[str, str]


def load_summaries(s: Study) -> list[LoadSummary]:
    found = []
    for load, candidates in s.runs.by_load.items():
        own = s.own if load == s.load else [c for c in candidates if c.name in s.layouts]
        pairs = s.pairs if load == s.load else compare(own, s.margin_k)
        channels = [c for c in LEADING if any(c in judged_channels(x) for x in own)]
        rows = [row for c in own for channel in channels if (row := _load_row(s, own, pairs, c, channel))]
        best = {channel: name for channel in channels if (name := best_shown(pairs, [c.name for c in own], channel))}
        found.append(LoadSummary(load=load, runs=sum(len(c.judged) for c in own), rows=rows, best=best))
    return found


def best_shown(pairs: Sequence[Pair], names: Sequence[str], channel: str) -> str | None:
    """The layout that is shown to be better than every other; None for a tie."""
    for name in names:
        others = [between(pairs, other, name, channel) for other in names if other != name]
        if others and all(found is not None and found[2] == "better" for found in others):
            return name
    return None


def _load_row(s: Study, own: Sequence[Candidate], pairs: Sequence[Pair], c: Candidate, channel: str) -> LoadRow | None:
    found = layout_budget(own, c, channel)
    if found is None:
        return None
    told = between(pairs, s.reference, c.name, channel)
    return LoadRow(
        layout=c.name,
        channel=channel,
        value=found.value,
        band=found.factor * found.among_alike,
        difference_k=told[0] if told else None,
        expanded_k=told[1] if told else None,
        word=told[2] if told else None,
    )


class Checked(BaseModel):
    """A check number of the original against what was measured here; ``within`` None where it was not run."""

    layout: str
    channel: str
    expected: float
    expected_band: float
    value: float | None
    band: float | None
    within: bool | None


def checked(s: Study) -> list[Checked]:
    """Whether a repetition agrees with its original: the gap within both expanded uncertainties together."""
    rows = []
    for x in s.doc.expected:
        own = next((c for c in s.own if c.name == x.layout), None) if x.load == s.load else None
        found = s.budget(own.name, x.channel) if own else None
        gap = abs(found.value - x.value) if found else None
        rows.append(
            Checked(
                layout=x.layout,
                channel=x.channel,
                expected=x.value,
                expected_band=x.band,
                value=found.value if found else None,
                band=found.expanded if found else None,
                within=gap <= hypot(found.expanded, x.band) if found and gap is not None else None,
            )
        )
    return rows
