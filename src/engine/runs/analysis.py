"""From a run to figures: window, mean over room, settle call, flags."""

from collections.abc import Sequence
from dataclasses import dataclass, replace
from math import exp, hypot, sqrt
from math import log as natural_log

import numpy as np

from engine.errors import MissingFigureError
from engine.identity import METHOD
from engine.runs.budget import ROOM_PLACING_K, BudgetLine, combined, rectangular, room_lines, sensor_error
from engine.runs.flag import Flag
from engine.runs.flags import hunting_flags, run_flags, unmarked
from engine.runs.hunting import columns
from engine.runs.names import channel_words
from engine.runs.over_room import over_room
from engine.runs.room_level import without_room
from engine.runs.rounding import rounding_of
from engine.runs.series import ROOM_CHANNEL, Floats, RunLog
from engine.runs.settle import Judged, all_settled_at_s, judged_of, longest, turning
from engine.runs.window import inside, tail, window_mean

MOST_BY_HAND = 12  # more rows than a person reads off
START_ROWS = 5  # numerical
LEAST_SPREAD = 20  # readings that tell what was passed in a tenth of the time
UNKNOWN_END = "typed; how it settled is not known"
LEVEL_FLUCTUATES_DB = 0.6  # half-width of the middle that the eye takes of a level that moves; common practice, no source
ACCURACY_BY_UNIT = {"c": 0.5, "dba": 1.0}  # one sigma of a reading by hand; from memory
# Of a rise, what comes slowly, and its time: what a figure may lack that was typed; common practice, no source.
SLOW_SHARE, SLOW_S = 0.28, 420.0
OWN_OF_LACK = 0.3  # of that, what differs from layout to layout
MOST_BAND_K = 12.0  # an end that is known no better is no figure
SCORE_SHARE = 0.007  # run-to-run scatter of scores, frames and job times; common practice, no source


@dataclass(frozen=True)
class GoingTo:
    """The end of a temperature that has not settled: in °C, over the room (K) where that is known, and its band (K)."""

    at_c: float
    rise_k: float | None
    band_k: float


@dataclass(frozen=True)
class ChannelAnalysis:
    """One channel over the window. ``rise_k`` is its mean over room, with ``rise_standard_error`` beside it."""

    name: str
    mean: float
    sd: float
    standard_error: float
    max: float
    rise_k: float | None
    rise_standard_error: float | None
    window_s: tuple[float, float]
    final_estimate: float | None
    final_band: float | None
    settled: bool | None
    minutes_left: float | None
    flags: tuple[str, ...]
    slope_k_min: float | None = None  # of the tail, loaded temperatures only
    max_rise_k: float | None = None  # the largest over room
    above_background_db: float | None = None  # of a level, where the room's own is known
    alone_dba: float | None = None  # of the machine without the room; with ``alone_bound`` no more than the most it can be
    alone_bound: bool = False
    alone_words: str = ""
    l10_dba: float | None = None  # of a logged level: passed in a tenth of the window's time, and in nine tenths
    l90_dba: float | None = None
    readings: int = 0  # 1 to 3: taken by hand, with a stated accuracy instead of a scatter
    hunts_s: float | None = None  # it swings without end: the time of a turn, and how far either way
    hunts_k: float | None = None
    held_s: float | None = None  # how long its part stood at its limit, which says nothing of the layout
    why: str = ""  # what keeps a loaded temperature from being called settled
    minutes_least: float | None = None  # the range of ``minutes_left``
    minutes_most: float | None = None
    more: str = ""  # how much longer, for a person
    budget: tuple[BudgetLine, ...] = ()  # of the rise over room where there is one, else of the mean
    going: GoingTo | None = None  # where it has not settled and its end is known to ``MOST_BAND_K``: the figure that is compared


def going_to(c: ChannelAnalysis) -> GoingTo | None:
    """The end of a temperature that has not settled; None where it has, or its end is not known to ``MOST_BAND_K``."""
    if (
        not c.name.endswith("_c")
        or c.settled is not False
        or c.final_estimate is None
        or c.final_band is None
        or c.final_band > MOST_BAND_K
    ):
        return None
    return GoingTo(c.final_estimate, None if c.rise_k is None else c.rise_k + c.final_estimate - c.mean, c.final_band)


@dataclass(frozen=True)
class RunAnalysis:
    duration_s: float
    settled: bool
    settled_at_s: float | None
    channels: tuple[ChannelAnalysis, ...]
    flags: tuple[Flag, ...]
    core_spread_k: float | None = None  # between the means of the warmest and the coolest core
    start_k: float | None = None  # of the coolest part over the room in the first readings: about nothing where the machine was cold
    method: str = ""  # number of the method that made it (engine/identity); empty before that was kept

    def channel(self, name: str) -> ChannelAnalysis | None:
        return next((c for c in self.channels if c.name == name), None)

    def has(self, code: str, part: str = "") -> bool:
        return any(f.code == code and f.of.startswith(part) for f in self.flags)


def analyse(
    log: RunLog,
    window_s: float | None = None,
    background_dba: float | None = None,
    disturbed_s: Sequence[tuple[float, float]] = (),
    stood_still: bool = False,
    meter: str = "",
) -> RunAnalysis:
    """All channels of a run over its tail window; ``window_s`` overrides the default length.

    ``background_dba`` is the room's level with the machine off, where it is known; readings within ``disturbed_s`` (stretches a
    person has marked) are left out of every figure. ``stood_still``: a person who typed all figures says that they did not move any more.
    ``meter``: class of the sound meter, where it is known.
    """
    whole, log = log, log.without(disturbed_s)
    judged = judged_of(log)
    swing = turning(judged.fits)
    window = tail(log, window_s, swing[1].period_s if swing else None)
    seen = _Seen(judged, window, swing[1].period_s if swing else None)
    channels = tuple(_of_level(c, log, background_dba, meter) for name in log.channels if (c := _channel(log, name, seen)) is not None)
    if not stood_still and len(log.elapsed_s) <= MOST_BY_HAND and all("by_hand" in c.flags for c in channels if c.name != ROOM_CHANNEL):
        channels = tuple(_of_unknown_end(c, log.duration_s) for c in channels)
    loaded = [c for c in channels if c.settled is not None]
    settled = bool(loaded) and all(c.settled for c in loaded)
    at = all_settled_at_s(log, judged) if settled else None
    more = longest([fit for fit in judged.fits.values() if fit])
    told = run_flags(whole, settled, window, background_dba, _why(loaded), more)
    flags = unmarked([*told, *hunting_flags(log, swing)], disturbed_s)
    cores = [c.mean for c in channels if c.name.startswith("cpu_core_")]
    spread = max(cores) - min(cores) if len(cores) > 1 else None
    return RunAnalysis(
        duration_s=log.duration_s,
        settled=settled,
        settled_at_s=at,
        channels=channels,
        flags=tuple(flags),
        core_spread_k=spread,
        start_k=_start_k(log),
        method=METHOD.number,
    )


def _start_k(log: RunLog) -> float | None:
    """Nothing in a machine is colder than the room it stands in: what starts below it tells of the room's thermometer."""
    if log.room_c is None or len(log.elapsed_s) < 2 * START_ROWS:
        return None
    first = slice(0, START_ROWS)  # few, since loads warm at once
    starts = [float(np.nanmedian(over_room(log, n)[first])) for n in log.temperatures if np.isfinite(log.channels[n][first]).any()]
    return min(starts, default=None)


def _of_level(channel: ChannelAnalysis, log: RunLog, background_dba: float | None, meter: str) -> ChannelAnalysis:
    """What is said of a level beside its mean: how it is spread over the window, what the machine gives without the room, its meter."""
    if channel.name != "sound_dba":
        return channel
    usual, own = sensor_error(channel.name), sensor_error(channel.name, meter)
    channel = replace(channel, budget=tuple(own if x == usual and own else x for x in channel.budget))
    values = log.channels[channel.name][inside(log, channel.window_s)]
    values = values[np.isfinite(values)]
    if len(values) >= LEAST_SPREAD:
        channel = replace(channel, l10_dba=float(np.percentile(values, 90)), l90_dba=float(np.percentile(values, 10)))
    if background_dba is None:
        return channel
    alone = without_room(channel.mean, background_dba)
    return replace(channel, above_background_db=alone.gap_db, alone_dba=alone.level_dba, alone_bound=alone.bound, alone_words=alone.words)


@dataclass(frozen=True)
class _Seen:
    """What is known of a run before its channels are averaged."""

    judged: Judged
    window: tuple[float, float]
    turn_s: float | None


def _why(loaded: Sequence[ChannelAnalysis]) -> str:
    """Which channels have not settled and why, the one that is furthest first."""
    open_ones = sorted((c for c in loaded if not c.settled), key=lambda c: -(c.minutes_left or 0))
    return "; ".join(f"{channel_words(c.name)}: {c.why}" for c in open_ones[:3])


def _channel(log: RunLog, name: str, seen: _Seen) -> ChannelAnalysis | None:
    window, use = seen.window, inside(log, seen.window)
    rounding = rounding_of(log.channels[name])
    swing = columns(log.elapsed_s[use], seen.turn_s, np.ones(int(use.sum()))) if seen.turn_s else None
    try:
        stats = window_mean(log.channels[name][use], rounding, swing)
    except MissingFigureError:
        return _by_hand(log, name, window)
    why, fit = "", None
    rise = rise_error = final = band = slope = None
    settled, lines = None, stats.lines
    if name in log.temperatures and log.room_c is not None:
        over = window_mean(over_room(log, name)[use], rounding, swing)
        # The step is the sensor's, not that of its difference to the room.
        lines = (over.lines[0], stats.lines[1], *room_lines(seen.judged.room.unseen_k))
        rise, rise_error = over.mean, combined(x for x in lines if not x.common)[0]
    judged = seen.judged
    if name in judged.fits:
        fit, scale = judged.fits[name], judged.scales.get(name, 1.0)
        settled, why = bool(fit and fit.settled), judged.words(name)
        if fit:
            room = log.room_c if name.endswith("_c") else None
            shift = float(np.nanmean(room[use])) if room is not None else 0.0
            final, band = fit.final / scale + shift, fit.final_band / scale
            slope = fit.slope_k_min if name.endswith("_c") else None
    part = name.split("_")[0]
    coarse = stats.step >= 0.5 and name.endswith("_c") and name != ROOM_CHANNEL
    flags = (*(("integer_resolution",) if coarse else ()), *(("held",) if judged.at_limit(name) else ()))
    made = ChannelAnalysis(
        name=name,
        mean=stats.mean,
        sd=stats.sd,
        standard_error=stats.standard_error,
        max=stats.maximum,
        rise_k=rise,
        rise_standard_error=rise_error,
        window_s=window,
        final_estimate=final,
        final_band=band,
        settled=settled,
        minutes_left=fit.minutes_left if fit else None,
        minutes_least=fit.wait.least_s / 60 if fit else None,
        minutes_most=fit.wait.most_s / 60 if fit else None,
        more=fit.more if fit else "",
        flags=flags,
        slope_k_min=slope,
        max_rise_k=None if rise is None else rise + stats.maximum - stats.mean,
        readings=stats.count,
        budget=_with_sensor(name, lines),
        held_s=log.duration_s - judged.held[part].since_s if judged.at_limit(name) else None,
        why=why,
        hunts_s=fit.hunting.period_s if fit and fit.hunting else None,
        hunts_k=fit.hunting.amplitude_k if fit and fit.hunting else None,
    )
    return replace(made, going=going_to(made))


def _by_hand(log: RunLog, name: str, window: tuple[float, float]) -> ChannelAnalysis | None:
    """A channel of a few readings taken by hand: their mean wherever in the run they were taken, with a stated accuracy."""
    good = np.flatnonzero(np.isfinite(log.channels[name]))
    if not 1 <= len(good) <= MOST_BY_HAND:
        return None
    values = log.channels[name][good]
    mean = float(values.mean())
    unit = name.rsplit("_", 1)[-1]
    own = ACCURACY_BY_UNIT.get(unit, SCORE_SHARE * abs(mean))
    sd = float(values.std(ddof=1)) if len(values) > 1 else 0.0
    scatter = sd / sqrt(len(values))
    rise = rise_error = None
    lines: tuple[BudgetLine, ...] = (BudgetLine("read by a person", own),)
    if unit == "dba":
        lines = _level_read(values)
    error = hypot(*(x.standard for x in lines), scatter)
    if scatter:
        lines = (*lines, BudgetLine("scatter of the readings", scatter, "A", len(values) - 1.0))
    if name in log.temperatures and log.room_c is not None:
        rise, rise_error = float((values - log.room_c[good]).mean()), hypot(error, rectangular(ROOM_PLACING_K))
        lines = (*lines, *room_lines())
    return ChannelAnalysis(
        name=name,
        mean=mean,
        sd=sd,
        standard_error=error,
        max=float(values.max()),
        rise_k=rise,
        rise_standard_error=rise_error,
        window_s=window,
        final_estimate=None,
        final_band=None,
        settled=None,
        minutes_left=None,
        flags=("by_hand",),
        readings=len(values),
        budget=_with_sensor(name, lines),
    )


def _level_read(values: Floats) -> tuple[BudgetLine, ...]:
    """What differs between levels that a person reads off one meter at one place: not the meter, whose error both share.

    The meter's own error is the sensor's, common to all runs; whether it was moved is for the conditions of the runs to say.
    """
    step = 1.0 if bool((values == np.round(values)).all()) else 0.1
    return (
        BudgetLine("the level's fluctuation, read by eye", rectangular(LEVEL_FLUCTUATES_DB) / sqrt(len(values))),
        BudgetLine("the last digit", rectangular(step / 2)),
    )


def _of_unknown_end(c: ChannelAnalysis, duration_s: float) -> ChannelAnalysis:
    """A typed temperature may have been on its way still: how much it lacks is alike in runs of one length."""
    if c.rise_k is None:
        return c
    lack = SLOW_SHARE * abs(c.rise_k) * exp(-duration_s / SLOW_S)
    label = f"typed {c.name} {natural_log(max(duration_s, 1.0)):.1f}"
    lines = (BudgetLine(UNKNOWN_END, lack, shared=label), BudgetLine("the same, from layout to layout", OWN_OF_LACK * lack))
    return replace(c, flags=(*c.flags, "end_unknown"), budget=(*c.budget, *lines))


def _with_sensor(channel: str, lines: tuple[BudgetLine, ...]) -> tuple[BudgetLine, ...]:
    own = sensor_error(channel)
    return (*lines, own) if own else lines
