"""What speaks against the verdict, what was not tested, and what would settle it."""

from collections.abc import Sequence
from typing import Literal

from pydantic import BaseModel

from desk.job.conditions import drawn_alike
from desk.verdict.facts import worst_room_c
from desk.verdict.options import CHANNEL_OF
from desk.verdict.study import FORECAST_LOADS, Study
from desk.verdict.words import Part, Quantity, listed
from desk.words.channels import channel_words
from engine.plan.protocol import LOAD_WORDS
from engine.runs.budget import CONFIDENCE
from engine.verdict.candidate import spoilt
from engine.verdict.choose import Choice
from engine.verdict.compare import LEADING
from engine.verdict.scatter import RESULTS, OddRun

Weight = Literal["blocks", "doubt", "untested"]
SUSPECTED = 0.2  # a control that moved by more than it does in one of five campaigns without drift
NO_FIGURE = "No figure over room is there that others could be held against."


class Doubt(BaseModel):
    """``plan``: the layouts to be run once more, where that would help."""

    code: str
    weight: Weight
    what: list[Part]
    because: list[Part]
    plan: list[str]


def doubts(s: Study, choice: Choice, odd: Sequence[OddRun], chosen: str | None) -> list[Doubt]:
    """Ties that could be told first, then odd runs, confounders, traits, and what was not tested."""
    return [
        *_changed(s),
        *_drawn_alike(s),
        *_open_pairs(s, choice),
        *_left_out(s, choice),
        *_odd(odd),
        *_confounders(s),
        *_drift(s),
        *_mixed(s),
        *untested(s, chosen),
    ]


def _changed(s: Study) -> list[Doubt]:
    """Layouts that are another now than when they were run: their figures are of then."""
    found = []
    for layout in s.names:
        if what := s.runs.changed.get(layout):
            because = f"{'; '.join(what)}. Its figures are of then; what it would do now is not measured."
            found.append(_doubt("changed_since", f"{layout} was changed after its runs", because, [layout]))
    return found


def _drawn_alike(s: Study) -> list[Doubt]:
    """Layouts that were run as different ones and differ in nothing that is drawn."""
    because = "What differs between them is not drawn, or it is one layout, and their difference is scatter. Draw it in Layouts."
    groups = drawn_alike([layout for name, layout in s.layouts.items() if name in s.names])
    return [_doubt("drawn_alike", f"{listed(names)} are drawn alike", because, []) for names in groups]


def _open_pairs(s: Study, choice: Choice) -> list[Doubt]:
    """The best against the next: what it would take to tell them apart."""
    order = [p.layout for p in choice.placed if p.passed]
    if choice.best is None or len(order) < 2:
        return []
    other = next(x for x in order if x != choice.best)
    found = []
    for p in s.pairs:
        if {p.a, p.b} != {choice.best, other} or p.channel not in LEADING or p.word != "cannot_tell":
            continue
        if p.tell is None and p.confounders:
            continue  # what stands in the way is said by itself
        what: list[Part] = [f"{channel_words(p.channel).capitalize()}: {choice.best} and {other} are too close to call"]
        if p.tell is None:
            because: list[Part] = ["Twenty runs of each would hardly tell: the gap lies close to what matters to you."]
        else:
            minutes = _minutes(s, p.tell.repeats, (p.a, p.b))
            told = {"better": "a difference", "worse": "a difference", "no_difference": "that there is none"}[p.tell.word]
            because = [
                f"{p.tell.repeats} runs of each in all would probably show {told}: about ",
                Quantity(kind="minutes", value=minutes),
                ".",
            ]
        found.append(Doubt(code="open", weight="doubt", what=what, because=because, plan=[p.a, p.b] if p.tell else []))
    return found


def _left_out(s: Study, choice: Choice) -> list[Doubt]:
    """Layouts that cannot be chosen among, and things that cannot count because not every layout has them."""
    judged = [p.layout for p in choice.placed]
    missing = [x for x in s.names if x not in judged]
    found = []
    if missing and judged:
        found.append(_doubt("left_out", f"Not chosen among: {', '.join(missing)}", NO_FIGURE, missing))
    counted = {share.thing for p in choice.placed for share in p.shares}
    dropped = [t for t in CHANNEL_OF if s.weights.get(t, 0) > 0 and t not in counted]
    for thing in dropped if judged else ():
        without = [x for x in s.names if x in judged and s.budget(x, CHANNEL_OF[thing]) is None]
        words = channel_words(CHANNEL_OF[thing])
        found.append(_doubt("dropped", f"{words.capitalize()} does not count here", f"It was not read for {', '.join(without)}.", without))
    for channel in RESULTS:
        without = [x for x in s.names if x in judged and s.budget(x, channel) is None]
        if 0 < len(without) < len(judged):
            words = channel_words(channel)
            found.append(
                _doubt("dropped", f"{words.capitalize()} does not count here", f"It was not read for {', '.join(without)}.", without)
            )
    return found


def _doubt(code: str, what: str, because: str, plan: list[str]) -> Doubt:
    return Doubt(code=code, weight="doubt", what=[what], because=[because], plan=plan)


def _minutes(s: Study, repeats: int, layouts: tuple[str, str]) -> float:
    """Bench time of the further runs, at the length of those that were made."""
    total = 0.0
    for name in layouts:
        runs = s.candidate(name).judged
        each = sum(run.duration_s for run in runs) / len(runs) / 60
        total += max(repeats - len(runs), 0) * each
    return total


def _odd(odd: Sequence[OddRun]) -> list[Doubt]:
    return [
        Doubt(
            code="odd_run",
            weight="doubt",
            what=[f"{x.layout}: {x.words}"],
            because=[
                f"{channel_words(x.channel).capitalize()}, ",
                Quantity(kind="difference", value=x.apart),
                " apart. Look at its trace.",
            ],
            plan=[x.layout],
        )
        for x in odd
    ]


def _confounders(s: Study) -> list[Doubt]:
    """What is said of several layouts in the same words is said once."""
    pairs: dict[str, dict[str, None]] = {}
    of: dict[str, list[str]] = {}
    for p in s.pairs:
        for words in p.confounders:
            own = next((x for x in s.names if words.startswith(f"{x}: ")), None)
            said = words.removeprefix(f"{own}: ") if own else words
            pairs.setdefault(said, {})[f"{p.a} and {p.b}"] = None
            names = of.setdefault(said, [])
            names += [own] if own and own not in names else []
    every = len({(p.a, p.b) for p in s.pairs})
    found = []
    for said, concerned in pairs.items():
        names = list(concerned)
        whom = f"{', '.join(names[:3])}{f' and {len(names) - 3} more' if len(names) > 3 else ''}"
        because = f"This concerns {whom if len(names) < every or every < 4 else 'every pair'}."
        what = f"{listed(of[said])}: {said}" if of[said] else said
        again = [x for x in of[said] if any(spoilt(run) for run in s.candidate(x).runs)]
        found.append(Doubt(code="confounder", weight="doubt", what=[what], because=[because], plan=again))
    return found


def _drift(s: Study) -> list[Doubt]:
    found = []
    unknown = sum(len(c.runs) - len(c.hours) for c in s.own)
    if unknown and s.doc.plan and s.doc.plan.control in s.names:
        what = f"When {unknown} run{'s were' if unknown > 1 else ' was'} made is not known"
        because = "So no drift over the campaign can be seen; the time can be typed with the run."
        found.append(Doubt(code="times_unknown", weight="doubt", what=[what], because=[because], plan=[]))
    for d in s.drift:
        if d.corrected and d.channel in LEADING:
            size = Quantity(kind="difference", value=d.whole_k)
            because = f"Over {d.hours:.1f} hours, more than scatter explains: taken away from every figure, with its uncertainty."
            what = f"The control's {channel_words(d.channel)} moved by "
            found.append(Doubt(code="drift", weight="doubt", what=[what, size], because=[because], plan=[]))
        elif d.p < (1 - CONFIDENCE if d.known else SUSPECTED) and d.channel in LEADING:
            size = Quantity(kind="difference", value=d.whole_k)
            control = d.of or (s.doc.plan.control if s.doc.plan else None)
            seen = (
                "More than scatter explains, but no control was named" if d.known else "Two runs of it alone cannot tell drift from scatter"
            )
            because = f"Over {d.hours:.1f} hours. {seen}, so nothing was taken away: run it once more, in the middle."
            what = f"{d.of or 'The control'}'s {channel_words(d.channel)} may have drifted by "
            plan = [control] if control else []
            found.append(Doubt(code="drift_suspected", weight="doubt", what=[what, size], because=[because], plan=plan))
    return found


def _mixed(s: Study) -> list[Doubt]:
    mixed = [x for x in s.names if s.facts[x].mixed_fans]
    if not mixed or len(mixed) == len(s.names):
        return []
    because = "Fans of unlike kinds turn at unlike speeds; part of a difference may be the fans' own."
    return [Doubt(code="mixed_fans", weight="doubt", what=[f"Mixed fans in {', '.join(mixed)}"], because=[because], plan=[])]


def untested(s: Study, chosen: str | None) -> list[Doubt]:
    """Layouts and loads without runs, single runs, and the worst room with what is forecast there."""
    found = []
    missing = [x for x in s.layouts if x not in s.names]
    if missing:
        found.append(_not(f"Not run: {', '.join(missing)}", "It was not measured, so nothing can be said for or against it.", missing))
    loads = [words for load, words in LOAD_WORDS.items() if load in FORECAST_LOADS and load not in s.runs.by_load]
    if loads:
        found.append(_not(f"Not run: {', '.join(loads)}", "The order may be another there.", []))
    once = [c.name for c in s.own if len(c.judged) == 1]
    if once:
        repeated = any(len(c.judged) > 1 for c in s.own)
        why = f"Their scatter from run to run is taken from {'the repeats of others' if repeated else 'a prior of 0.5 K'}."
        found.append(_not(f"Run once only: {', '.join(once)}", why, once))
    return [*found, *_worst_room(s, chosen)]


def _not(what: str, because: str, plan: list[str]) -> Doubt:
    return Doubt(code="untested", weight="untested", what=[what], because=[because], plan=plan)


def _worst_room(s: Study, chosen: str | None) -> list[Doubt]:
    worst = worst_room_c(s.doc)
    rooms = [room.mean for c in s.own for run in c.judged if (room := run.channel("room_c"))]
    if not rooms or chosen is None or worst <= max(rooms) + 1:
        return []
    because: list[Part] = ["Measured rises over that room give "]
    for i, (words, channel) in enumerate((("processor ", "cpu_package_c"), ("card ", "card_core_c"))):
        values = s.candidate(chosen).values(channel) if chosen in s.names else []
        if values:
            because += [", " if i else "", words, Quantity(kind="temperature", value=worst + sum(values) / len(values))]
    what: list[Part] = ["Not tested: a room of ", Quantity(kind="temperature", value=worst)]
    return [Doubt(code="untested", weight="untested", what=what, because=[*because, f" with {chosen}."], plan=[])]
