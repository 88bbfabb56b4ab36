"""Layouts as they are chosen by: measured figures with their uncertainty, what is known, and the limits they must pass."""

from dataclasses import replace
from itertools import permutations
from math import hypot, inf

from desk.verdict.study import Study
from desk.words.channels import channel_words
from engine.coupled.compare import WATT_WORTH_K
from engine.runs.budget import coverage_factor
from engine.verdict.candidate import Candidate
from engine.verdict.choose import RESULT, Option, Requirement
from engine.verdict.results import short_of_best
from engine.verdict.scatter import RESULTS

CHANNEL_OF = {"cpu": "cpu_package_c", "card": "card_core_c", "noise": "sound_dba"}


def options(s: Study) -> list[Option]:
    """Of every layout of this job that was run under the load and can be judged.

    Left out: what has no figure of the leading part, and the open bench, which nobody can build into the case.
    """
    found = [_option(s, c) for c in s.own if not s.facts[c.name].control]
    lead = next((t for t in ("cpu", "card", "noise") if any(t in o.values for o in found)), None)
    found = [o for o in found if lead is None or lead in o.values]
    judged = [o.layout for o in found]
    short = short_of_best({c: {x: b for x in judged if (b := s.budget(x, c))} for c in RESULTS}, judged)
    return [replace(o, values={**o.values, RESULT: short[o.layout]}) if o.layout in short else o for o in found]


def alike(s: Study, found: list[Option]) -> dict[tuple[str, str, str], bool]:
    """Of which pairs and measured things nothing is shown."""
    table = {}
    for one, other in permutations(found, 2):
        for thing, channel in CHANNEL_OF.items():
            table[one.layout, other.layout, thing] = s.unsaid(one.layout, other.layout, channel)
        table[one.layout, other.layout, RESULT] = all(s.unsaid(one.layout, other.layout, c) for c in RESULTS)
        gaps = [o.values.get("balance") for o in (one, other)]
        if gaps[0] and gaps[1]:
            allowed = coverage_factor(inf) * hypot(gaps[0][1], gaps[1][1])
            table[one.layout, other.layout, "balance"] = abs(gaps[0][0] - gaps[1][0]) <= allowed
    return table


def _option(s: Study, c: Candidate) -> Option:
    values = {thing: found for thing, channel in CHANNEL_OF.items() if (found := _measured(s, c, thing, channel)) is not None}
    if "cpu" in values and "card" in values:
        (cpu, cpu_u), (card, card_u) = values["cpu"], values["card"]
        values["balance"] = (abs(cpu - card), hypot(cpu_u, card_u))
    facts = s.facts[c.name]
    values |= {"cost": (facts.cost, 0.0), "labour": (facts.labour_min, 0.0)}
    values |= {} if facts.dust_pct is None else {"dust": (facts.dust_pct, 0.0)}
    values |= {} if facts.looks_short is None else {"looks": (facts.looks_short, 0.0)}
    return Option(c.name, values, facts.parts, tuple(_limits(s, c)), facts.limit_rise_k, len(c.judged))


def _measured(s: Study, c: Candidate, thing: str, channel: str) -> tuple[float, float] | None:
    """Mean and standard uncertainty among layouts with the same sensors; a part at its limit is charged with the watts it gave up."""
    found = s.budget(c.name, channel)
    if found is None:
        return None
    if not c.at_limit(thing):
        return found.value, found.drawn
    power = s.budget(c.name, f"{thing}_power_w")
    if power is None:
        return found.value, found.drawn
    lost = _whole_w(s, c, thing) - power.value
    return found.value + WATT_WORTH_K * lost, hypot(found.drawn, WATT_WORTH_K * power.drawn)


def _whole_w(s: Study, c: Candidate, thing: str) -> float:
    """What a part would draw without its limit: as it is named, or the most that a layout with the same part let it draw, where that is
    more or nobody said which part it is."""
    named = s.facts[c.name].nominal_w.get(thing)
    same = (x.name for x in s.own if s.facts[x.name].nominal_w.get(thing) == named)
    drawn = [found.value for x in same if (found := s.budget(x, f"{thing}_power_w"))]
    return max([named or 0.0, *drawn])


def _limits(s: Study, c: Candidate) -> list[Requirement]:
    """Of the room's sound, of the parts in the worst room, and of the protocol's criteria: the run with the least margin counts."""
    found = []
    noise = s.budget(c.name, "sound_dba")
    if noise and s.doc.room.sound_limit_dba is not None:
        found.append(Requirement("sound", s.doc.room.sound_limit_dba - noise.value, noise.standard, "level"))
    for part, limit in s.facts[c.name].limit_rise_k.items():
        own, words = s.budget(c.name, CHANNEL_OF[part]), channel_words(CHANNEL_OF[part])
        if c.at_limit(part):
            found.append(Requirement(f"{words} gives up power at its limit", -0.1, 0.0, "difference"))
        elif own:
            found.append(Requirement(f"{words} in the worst room", limit - own.value, own.standard, "difference"))
    lines = [line for a in s.runs.acceptance.get(c.name, ()) for line in a.lines]
    for channel in dict.fromkeys(line.channel for line in lines):
        mine = [line for line in lines if line.channel == channel]
        worst = min(mine, key=lambda line: line.margin_k if line.margin_k is not None else -1e9)
        own = s.budget(c.name, channel)
        what = f"{channel_words(channel)}, criterion: {worst.words}"
        margin = worst.margin_k if worst.margin_k is not None and (worst.passed or worst.margin_k < 0) else -0.1
        found.append(Requirement(what, margin, own.standard if own else 0.0, "difference"))
    return found
