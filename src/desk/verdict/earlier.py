"""How far runs of one layout lay apart in a person's earlier jobs: what a campaign without repeats may rest on."""

from collections.abc import Iterable, Iterator, Mapping, Sequence
from dataclasses import dataclass
from hashlib import sha256

import numpy as np
from pydantic import BaseModel

from desk.job.difference import changes
from documents.job.models import JobDoc
from engine.runs.analysis import RunAnalysis
from engine.verdict.scatter import Prior, learned, prior_of

# What was done by hand between a run and the next of the same layout, the hardest first.
KINDS: Mapping[str, str] = {
    "cooler": "cooler taken off and put back",
    "fans": "fans or panels moved and put back",
    "same": "same build again",
}
COOLER = ("cooler", "radiator")
SHOWN = "cpu_package_c"


@dataclass(frozen=True)
class Made:
    """A run of an earlier job: its layout, its load, and its figures; in the order they were made."""

    layout: str
    load: str
    analysis: RunAnalysis
    key: str = ""  # what tells it from every other run, on whatever machine


@dataclass(frozen=True)
class Gap:
    """How far a channel's rise of a run lay from that of the run before it of the same layout, in K (or the channel's own unit)."""

    channel: str
    kind: str
    value: float
    id: str = ""  # of the two runs, where they are known by one


class EarlierOut(BaseModel):
    """One kind of repeat: how many there were, and what they scatter by, one sigma of the processor's rise."""

    kind: str
    words: str
    count: int
    sigma_k: float


def gaps_of(doc: JobDoc, runs: Sequence[Made]) -> Iterator[Gap]:
    """Of one job's runs in their order: each repeat against the run before it of the same layout and load."""
    last: dict[tuple[str, str], int] = {}
    for i, run in enumerate(runs):
        before = last.get((run.layout, run.load))
        last[run.layout, run.load] = i
        if before is None:
            continue
        kind = _kind(doc, run.layout, [x.layout for x in runs[before + 1 : i]])
        for channel in run.analysis.channels:
            one, two = channel, runs[before].analysis.channel(channel.name)
            if two is not None and one.rise_k is not None and two.rise_k is not None and one.settled and two.settled:
                ident = f"{runs[before].key}|{run.key}|{channel.name}"
                yield Gap(channel.name, kind, one.rise_k - two.rise_k, sha256(ident.encode()).hexdigest()[:24])


def once(gaps: Iterable[Gap], but: Iterable[Gap] = ()) -> list[Gap]:
    """Each repeat once, however many packages bring it; without those of ``but``, which count where they were made."""
    known = {g.id for g in but}
    found: dict[str, Gap] = {}
    for g in gaps:
        if g.id not in known:
            found.setdefault(g.id, g)
    return list(found.values())


def _kind(doc: JobDoc, layout: str, between: Sequence[str]) -> str:
    """By what was built in between: nothing, fans and panels, or something with paste under it."""
    layouts = {x.id: x for x in doc.layouts}
    others = [layouts[x] for x in dict.fromkeys(between) if x in layouts and x != layout]
    if not others or layout not in layouts:
        return "same"
    done = [c.kind for other in others for c in changes(doc, layouts[layout], other)]
    return "cooler" if any(kind in COOLER for kind in done) else "fans" if done else "same"


def priors(gaps: Sequence[Gap], candidates_sized: Mapping[str, float]) -> dict[str, Prior]:
    """By channel of ``candidates_sized`` (its mean size): what earlier repeats tell, filled up by the stated prior."""
    found = {}
    for channel, size in candidates_sized.items():
        own = [g.value for g in gaps if g.channel == channel]
        if own:
            found[channel] = learned(own, prior_of((), channel, size))
    return found


def told(gaps: Sequence[Gap]) -> list[EarlierOut]:
    """Kinds of repeats with their counts and their scatter, the hardest first."""
    rows = []
    for kind, words in KINDS.items():
        own = [g.value for g in gaps if g.kind == kind and g.channel == SHOWN]
        if own:
            rows.append(EarlierOut(kind=kind, words=words, count=len(own), sigma_k=float(np.sqrt(np.mean(np.square(own)) / 2))))
    return rows
