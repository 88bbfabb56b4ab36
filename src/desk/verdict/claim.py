"""The verdict in sentences: choice, reason, size, price, ties, confidence, scope, and what was not tested."""

from collections.abc import Sequence

from pydantic import BaseModel

from desk.verdict.facts import LayoutFacts
from desk.verdict.words import Part, Quantity, Sentence, compared, listed, measured
from desk.words.chance import chance_words
from desk.words.channels import channel_words
from engine.plan.protocol import LOAD_WORDS
from engine.runs.budget import Budget
from engine.verdict.candidate import Candidate
from engine.verdict.choose import WORDS, Choice, Placed
from engine.verdict.compare import LEADING, Pair, Word
from engine.verdict.effects import turned

ORDER = ("better", "price", "cost", "held", "same", "unsure")
SURE_WORDS = {
    "sure": "sure",
    "likely": "likely, not sure",
    "open": "open: the figures do not decide it",
    "tied": "nothing shown tells it apart from the ones it ties with",
}


class Said(BaseModel):
    """A pair as said of the layout that is argued for."""

    other: str
    channel: str
    difference_k: float | None
    expanded_k: float | None
    word: Word
    at_limit: bool
    context: bool
    like_k: float | None = None  # at like power, speeds and room, where the runs were not alike in them
    like_expanded_k: float | None = None
    budget: Budget | None = None


class Claim(BaseModel):
    """``head`` first; the sentences in the order in which they are read."""

    layout: str
    head: list[Part]
    sentences: list[Sentence]
    sure: str
    chance: float | None


def said_of(pairs: Sequence[Pair], layout: str) -> list[Said]:
    """Every pair with this layout, turned so that the word is said of it."""
    found = []
    for p in pairs:
        if layout not in (p.a, p.b):
            continue
        flip = p.a == layout
        sign = -1 if flip else 1
        difference = None if p.difference_k is None else sign * p.difference_k
        word = turned(p.word) if flip else p.word
        found.append(
            Said(
                other=p.b if flip else p.a,
                channel=p.channel,
                difference_k=difference,
                expanded_k=p.expanded_uncertainty_k,
                word=word,
                at_limit=p.at_limit,
                context=p.context,
                like_k=None if p.like_k is None else sign * p.like_k,
                like_expanded_k=p.like_expanded_k,
            )
        )
    return found


def claim(
    layout: str,
    reference: str,
    choice: Choice,
    pairs: Sequence[Pair],
    facts: dict[str, LayoutFacts],
    candidates: Sequence[Candidate],
    load: str,
    changed: bool = False,
) -> Claim:
    """What the runs say of one layout: against the next best and against the reference, its price with it."""
    placed = {p.layout: p for p in choice.placed}
    others = [p for p in choice.placed if p.layout != layout]
    own, following = placed.get(layout), next((p.layout for p in others if p.passed or choice.best is None), None)
    against = list(dict.fromkeys(x for x in (following, reference) if x is not None and x != layout))
    said = [s for s in said_of(pairs, layout) if s.channel in LEADING]
    sentences = []
    for other in against:
        role = "the next best" if other == following and layout == choice.first else "as it stands" if other == reference else ""
        sentences += _against(other, role, [s for s in said if s.other == other])
    sentences += _price(layout, reference, facts)
    sentences.sort(key=lambda x: ORDER.index(x.code))
    sentences += [_tie(choice)] if layout == choice.best and choice.tied else []
    sentences += _limits(own)
    sentences.append(_scope(candidates, load, changed))
    chance = own.chance if own else None
    sure = choice.sure if layout == choice.best else ""
    if sure:
        sentences.append(_confidence(sure, own))
    return Claim(layout=layout, head=_head(layout, choice, own, facts, pairs), sentences=sentences, sure=sure, chance=chance)


def _name(layout: str, facts: dict[str, LayoutFacts]) -> str:
    own = facts.get(layout)
    return f"{layout}, {own.name}" if own and own.name else layout


def _head(layout: str, choice: Choice, own: Placed | None, facts: dict[str, LayoutFacts], pairs: Sequence[Pair]) -> list[Part]:
    name = _name(layout, facts)
    if facts[layout].control:
        return [f"{name}: the same parts without the case. It shows what the case costs; it is not a layout to build."]
    if own is None:
        return [f"{name}: its runs cannot be judged; the doubts say why."]
    if choice.best is None:
        does = f"by your weights {name} does best" if layout == choice.first else f"this argues for {name}"
        return [f"No layout passes every limit; {does}."]
    if layout == choice.best:
        if choice.tied:
            return [f"Build {name}. {_rest([x for x in choice.tied if x != layout], layout, pairs)}"]
        if choice.sure == "open" and len(choice.placed) > 1:
            other = next(p.layout for p in choice.placed if p.layout != layout)
            return [f"A close call: {name}, before {_name(other, facts)}."]
        return [f"Build {name}{'' if choice.sure == 'sure' else ', most likely'}."]
    if not own.passed:
        return [f"{name}: does not pass its limits."]
    if layout in choice.tied:
        return [f"{name}: as good as {choice.best}, which is simpler."]
    return [f"{name}: by your weights {choice.best} is the better choice."]


def _rest(tied: Sequence[str], layout: str, pairs: Sequence[Pair]) -> str:
    """What is said of layouts in a tie: those shown to do as well, and those that no run tells apart yet, which is not the same."""
    leading = [s for s in said_of(pairs, layout) if s.channel in LEADING and not s.context]
    untold = [x for x in tied if any(s.other == x and s.word == "cannot_tell" for s in leading)]
    alike = [x for x in tied if x not in untold]
    said = [f"{' and '.join(alike)} {'does' if len(alike) == 1 else 'do'} no better."] if alike else []
    said += [f"{' and '.join(untold)} cannot be separated from it yet."] if untold else []
    return " ".join(said)


def _against(other: str, role: str, said: Sequence[Said]) -> list[Sentence]:
    """Shown differences, shown equality, and what cannot be told, each as one sentence."""
    whom = f"{other}, {role}," if role else other
    found = []
    for code, word in (("better", "better"), ("price", "worse")):
        items = [s for s in said if s.word == word and s.difference_k is not None]
        if items:
            start: list[Part] = [f"Against {whom} " if code == "better" else f"The price against {whom} is that "]
            found.append(Sentence(code=code, parts=[*start, *_joined([_size(s) for s in items]), "."]))
    same = [channel_words(s.channel) for s in said if s.word == "no_difference"]
    if same:
        found.append(Sentence(code="same", parts=[f"No difference to {whom.rstrip(',')}: {listed(same)}."]))
    held = [channel_words(s.channel) for s in said if s.at_limit]
    if held:
        where = f"The {listed(held)} stood at {'its' if len(held) == 1 else 'their'} limit, here or in {other}"
        found.append(Sentence(code="held", parts=[f"{where}: such a temperature tells nothing; power, clock and score do."]))
    open_ones = [s for s in said if s.word == "cannot_tell" and not s.context and not s.at_limit and s.difference_k is not None]
    if open_ones:
        parts = [_open(s) for s in open_ones]
        found.append(Sentence(code="unsure", parts=[f"Cannot tell from {whom.rstrip(',')}: ", *_joined(parts), "."]))
    return found


def _size(s: Said) -> list[Part]:
    difference = s.difference_k or 0.0
    size = measured(s.channel, abs(difference), s.expanded_k)
    return [f"the {channel_words(s.channel)} is ", size, f" {compared(s.channel, difference)}", *_alike(s)]


def _open(s: Said) -> list[Part]:
    size = measured(s.channel, s.difference_k or 0.0, s.expanded_k)
    return [f"{channel_words(s.channel)} (", size, *_alike(s), ")"]


def _alike(s: Said) -> list[Part]:
    """What is left of a difference at like power, speeds and room, where the runs were not alike in them."""
    if s.like_k is None:
        return []
    size = measured(s.channel, abs(s.like_k), s.like_expanded_k)
    return [" (at like conditions ", size, f" {compared(s.channel, s.like_k)})"]


def _joined(items: Sequence[list[Part]]) -> list[Part]:
    found: list[Part] = []
    for i, item in enumerate(items):
        found += [", " if i < len(items) - 1 else " and "] if i else []
        found += item
    return found


def _price(layout: str, reference: str, facts: dict[str, LayoutFacts]) -> list[Sentence]:
    own = facts.get(layout)
    if own is None or layout == reference:
        return []
    parts: list[Part] = [f"From {reference} it takes "]
    parts.append(Quantity(kind="minutes", value=own.labour_min))
    parts.append(" of work and ")
    parts += [Quantity(kind="money", value=own.cost), " more in parts."] if own.cost > 0 else ["no more parts."]
    return [Sentence(code="cost", parts=parts)]


def _tie(choice: Choice) -> Sentence:
    kept = f"kept is the simplest ({'; '.join(choice.tie_reason)})"
    return Sentence(code="tie", parts=[f"Nothing shown separates {listed(choice.tied)}; {kept}."])


def _limits(own: Placed | None) -> list[Sentence]:
    if own is None or own.passed:
        return []
    return [Sentence(code="limits", parts=["It does not pass every limit; see the limits."])]


def _confidence(sure: str, own: Placed | None) -> Sentence:
    if own is None or sure == "tied":
        return Sentence(code="confidence", parts=[f"Confidence: {SURE_WORDS[sure]}."])
    return Sentence(
        code="confidence",
        parts=[
            f"Confidence: {SURE_WORDS[sure]}; the best with a chance of ",
            chance_words(own.chance),
            ", and under ",
            over_words(own.over_weights),
            " of the weights drawn about yours.",
        ],
    )


def over_words(share: float) -> str:
    """Under how many of the weights a layout leads; a share of all draws is no certainty, and is not written like one."""
    return "all" if share > 0.995 else f"{100 * share:.0f} %"


def _scope(candidates: Sequence[Candidate], load: str, changed: bool) -> Sentence:
    runs = [run for c in candidates for run in c.judged]
    each = sorted({len(c.judged) for c in candidates})
    rooms = [room.mean for run in runs if (room := run.channel("room_c"))]
    repeats = f"{each[0]} of each" if len(each) == 1 else f"{each[0]} to {each[-1]} of each"
    parts: list[Part] = [f"{len(runs)} runs, {repeats}"] if runs else ["No runs"]
    if rooms:
        parts += [", room ", Quantity(kind="temperature", value=min(rooms), digits=1)]
        if max(rooms) - min(rooms) >= 0.1:  # as many digits as are shown
            parts += [" to ", Quantity(kind="temperature", value=max(rooms), digits=1)]
    own = "the parts and settings they were made with, which have changed since" if changed else "these parts"
    parts.append(f". Holds for this case, {own}, {LOAD_WORDS.get(load, load)}, and rooms like these.")
    return Sentence(code="scope", parts=parts)


def why_placed(placed: Placed, limit_words: dict[str, str]) -> list[str]:
    """What a layout is charged with, most first, with what a kelvin is worth there."""
    found = []
    for s in sorted(placed.shares, key=lambda s: -s.adds):
        if s.adds > 0.05:
            reason = f" ({limit_words[s.thing]})" if s.thing in limit_words else ""
            found.append(f"{WORDS[s.thing].split(',')[0]} adds {s.adds:.1f}{reason}")
    return found
