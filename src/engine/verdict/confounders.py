"""What else differs between two layouts' runs, so that a difference may not be the layouts' own."""

from dataclasses import dataclass
from typing import Literal

import numpy as np

from engine.runs.names import PARTS, channel_words, fan_name
from engine.verdict.candidate import Candidate, at_limit, final, reckoned
from engine.verdict.likeness import POWER_APART_SHARE, Worth, clocks_apart, worths

SPEED_APART_SHARE = 0.05  # more than a fan wanders by; common practice, no source
Weight = Literal["blocks", "context", "doubt"]
# Conditions that make a comparison one of unlike things: shown as context, never judged.
CONTEXT = ("processor", "card", "load", "statistic")
# Between jobs these must be known to be the same; a case may differ, which is then what is compared.
JOB = "job"
MICROPHONE = "microphone"  # how conditions about it begin
ACROSS = ("processor", "card", "protocol")


@dataclass(frozen=True)
class Confounder:
    """``blocks``: no word can be given; ``context``: unlike things beside each other; ``doubt``: said, and judged all the same."""

    words: str
    weight: Weight = "doubt"
    worth: Worth | None = None  # what it adds to the difference, where that is known


def confounders(a: Candidate, b: Candidate, channel: str) -> list[Confounder]:
    """All that is found for one channel, each once."""
    temperature, part = channel.endswith("_c"), channel.split("_")[0]
    found: list[Confounder] = []
    for side in (a, b):
        found += [Confounder(f"{side.name}: a run was left aside, {reason}") for reason in side.left_aside()]
        if temperature:
            found += _of_temperatures(side, channel, part)
            found += _among_repeats(side)
        known = [d.words for d in side.deviations] if temperature else []
        found += [Confounder(f"{side.name}: {words}") for words in side.remarks if not any(words.startswith(x) for x in known)]
    if (temperature or channel.endswith("_dba")) and not (a.asked and b.asked):
        found += _speeds_apart(a, b)
    unlike = worths(a, b, channel)
    found += [Confounder(x.said, worth=x) for x in unlike]
    held = a.at_limit(part) or b.at_limit(part)
    if temperature and not held and (clocks := clocks_apart(a, b, channel)) and not any(clocks in x.words for x in unlike):
        found.append(Confounder(clocks))
    return list(dict.fromkeys([*found, *_conditions(a, b, channel)]))


def _of_temperatures(side: Candidate, channel: str, part: str) -> list[Confounder]:
    found = []
    for run in side.judged:
        own = run.channel(channel)
        if own is None:
            continue
        if "by_hand" in own.flags:
            found.append(Confounder(f"{side.name}: read by hand"))
        elif "reckoned" in own.flags:
            found.append(Confounder(f"{side.name}: not settled; judged by the end it was going to"))
        elif not final(run, own):
            band = reckoned(own)
            words = f"{side.name}: not settled; judged by the end it was going to" if band else f"{side.name}: its run is not settled"
            found.append(Confounder(words, "doubt" if band else "blocks"))
        if at_limit(run, part):
            found.append(Confounder(f"{side.name}: the {PARTS.get(part, part)} is at its limit; compare by power", "blocks"))
        if run.has("room_missing"):
            found.append(Confounder(f"{side.name}: no room temperature", "blocks"))
        if run.has("room_doubtful"):
            found.append(Confounder(f"{side.name}: the room temperature is doubtful", "blocks"))
    return found


def _among_repeats(side: Candidate) -> list[Confounder]:
    """A run that was given other power than its repeats, or whose fans turned otherwise."""
    found = []
    names = dict.fromkeys(c.name for run in side.judged for c in run.channels if c.name.endswith(("_power_w", "_rpm")))
    for name in names:
        means = [(i, c.mean) for i, run in enumerate(side.judged, 1) if (c := run.channel(name))]
        if len(means) < 2:
            continue
        middle = float(np.median([m for _, m in means])) if len(means) > 2 else max(m for _, m in means)
        what = f"speed of {fan_name(name)}" if name.endswith("_rpm") else channel_words(name)
        share = POWER_APART_SHARE if name.endswith("_w") else SPEED_APART_SHARE
        for i, mean in means:
            if middle > 0 and abs(mean - middle) > share * middle:
                apart = f"{100 * (mean / middle - 1):+.0f}".replace("-", "\N{MINUS SIGN}")
                found.append(Confounder(f"{side.name}: run {i} of {len(means)} had {apart} % {what} against its repeats"))
    return found


def _speeds_apart(a: Candidate, b: Candidate) -> list[Confounder]:
    """Fans that turned otherwise on one side than on the other, where no layout says whether that was meant."""
    found = []
    for name in dict.fromkeys(c.name for run in a.judged for c in run.channels if c.name.endswith("_rpm")):
        sides = [[c.mean for run in side.judged if (c := run.channel(name))] for side in (a, b)]
        if not all(sides):
            continue
        one, other = (float(np.mean(means)) for means in sides)
        if abs(other - one) > SPEED_APART_SHARE * max(one, other):
            turned = f"{fan_name(name)} turned at {round(one)} in {a.name} and at {round(other)} rpm in {b.name}"
            found.append(Confounder(f"{turned}: meant so, or another curve?"))
    return found


def _conditions(a: Candidate, b: Candidate, channel: str) -> list[Confounder]:
    """Things that should have been the same in all runs and were not. A microphone that was moved is nothing to a temperature, and
    leaves nothing of a level: some decibels by the place alone."""
    sides = [_seen(side) for side in (a, b)]
    across = {JOB in side for side in sides} == {True, False} or (JOB in sides[0] and sides[0][JOB] != sides[1][JOB])
    found = [Confounder(f"{what} not known of both", "context") for what in ACROSS if across and not all(what in side for side in sides)]
    for what in dict.fromkeys([*sides[0], *sides[1]]):
        values = list(dict.fromkeys([*sides[0].get(what, ()), *sides[1].get(what, ())]))
        if what.startswith(MICROPHONE):
            if channel.endswith("_dba") and len(values) > 1:
                found.append(
                    Confounder(
                        f"unlike {what}: {' against '.join(values)}; levels of one meter at one place alone can be compared", "blocks"
                    )
                )
            continue
        if what != JOB and len(values) > 1:
            if not across and _on_purpose(a, b, what):
                found.append(Confounder(f"another {what}, on purpose: {' against '.join(values)}"))
                continue
            context = what in CONTEXT or (across and what in ACROSS)
            found.append(Confounder(f"unlike {what}: {' against '.join(values)}", "context" if context else "doubt"))
    return found


def _on_purpose(a: Candidate, b: Candidate, what: str) -> bool:
    """Whether two layouts of one job name unlike parts, and their runs were made with what they name: that is what is compared."""
    named = a.named.get(what) and b.named.get(what) and a.named[what] != b.named[what]
    return bool(named) and all(
        values == [side.named[what]] for side in (a, b) if (values := list(dict.fromkeys(_seen(side).get(what, []))))
    )


def _seen(side: Candidate) -> dict[str, list[str]]:
    seen: dict[str, list[str]] = {}
    for condition in side.conditions:
        for what, value in condition.items():
            seen.setdefault(what, []).append(value)
    return seen
