"""The report of a record: one page of HTML that needs nothing else, the same as PDF, and its figures as CSV."""

import csv
import io
import re
from collections.abc import Sequence
from dataclasses import dataclass
from typing import Any

from django.template.loader import render_to_string

from desk.job.as_set import AsSet
from desk.paper.fonts import fonts
from desk.paper.page import POLICY, svg_data
from desk.paper.pdf import pdf_of
from desk.verdict.drawing import MOST_DRAWINGS, cleaned
from desk.verdict.effects import DesignOut
from desk.verdict.measures import FigureOut
from desk.verdict.record import MOST_OBSERVED, Observation, RecordDoc
from desk.verdict.words import Quantity, kind_of, measured, plain, quantity
from desk.words.chance import chance_words
from desk.words.channels import channel_words
from documents.errors import DocumentError
from documents.job.models import JobDoc, LayoutDoc
from documents.package.document import UNITS
from engine.findings.finding import names
from engine.plan.protocol import HELD, LOAD_WORDS
from engine.sources import SOURCES
from engine.verdict.choose import WORDS as THINGS
from engine.verdict.compare import LEADING, Pair
from engine.verdict.effects import ChangeStep, between

WORD = {"better": "better", "worse": "worse", "no_difference": "no difference", "cannot_tell": "cannot tell", None: ""}
RESTS_ON = ("gum", "satterthwaite", "smyth", "holm", "tost", "grubbs", "gum_mc", "bartlett", "mann_kendall", "sen")


# Characters that turn the order of others round, or that no page should hold: nothing written may look like something else.
_DECEIVING = re.compile("[\u202a-\u202e\u2066-\u2069\x00-\x08\x0b\x0c\x0e-\x1f]")


def html(record: RecordDoc) -> str:
    """Self-contained: fonts and pictures are in it. Pictures are shown as images, in which nothing can run."""
    return _DECEIVING.sub("", render_to_string("report.html", _context(record)))


def pdf(record: RecordDoc) -> bytes:
    """The same page on A4. Raises NoPdfError or TooHeavyError."""
    return pdf_of(html(record))


def csv_text(record: RecordDoc) -> str:
    """Every figure and every pair, null results too, in one table."""
    out = io.StringIO()
    rows = csv.writer(out, lineterminator="\n")
    rows.writerow(
        ["what", "layout", "against", "channel", "value", "expanded_uncertainty", "word", "runs", "confounders", "unit", "basis", "note"]
    )
    for f in record.verdict.figures:
        rows.writerow(["figure", f.layout, "", f.channel, f"{f.value:.3f}", f"{f.band:.3f}", "", f.runs, "", *_unit(f.channel), f.how])
    for p in record.verdict.pairs:
        size = ["", ""] if p.difference_k is None else [f"{p.difference_k:.3f}", f"{p.expanded_uncertainty_k:.3f}"]
        rows.writerow(["difference", p.b, p.a, p.channel, *size, p.word, "", "; ".join(p.confounders), *_unit(p.channel), ""])
    return out.getvalue()


def _unit(channel: str) -> tuple[str, str]:
    """Unit of a figure, and what it is counted from: temperatures over the room of their own run."""
    if kind_of(channel) in ("difference", "temperature"):
        return "K", "over room"
    return UNITS.get(channel.rsplit("_", 1)[-1], ""), "as read"


@dataclass(frozen=True)
class Cell:
    value: str
    against: str


def _context(record: RecordDoc) -> dict[str, Any]:
    v, doc = record.verdict, JobDoc.model_validate(record.document)
    channels = [c for c in LEADING if any(f.channel == c for f in v.figures)]
    names = {x.id: x.name for x in doc.layouts}
    as_set = AsSet(doc, [x for x in doc.layouts if any(f.layout == x.id for f in v.figures)])
    return {
        "record": record,
        "doc": doc,
        "fonts": fonts(),
        "policy": POLICY,
        "head": plain(v.claim.head) if v.claim else "",
        "sentences": [(s.code, plain(s.parts)) for s in v.claim.sentences] if v.claim else [],
        "load": LOAD_WORDS.get(v.load, v.load),
        "channels": [channel_words(c) + (" over room" if c.endswith("_c") else "") for c in channels],
        "rows": [_row(record, x, names.get(x, ""), channels) for x in dict.fromkeys(f.layout for f in v.figures)],
        "pairs": [_pair(p) for p in v.pairs if p.channel in LEADING],
        "steps": _steps(record),
        "steps_of": "".join(channel_words(way.channel) for way in v.effects.ways[:1]),
        "designs": [_design(d) for d in v.effects.designs if d.channel in LEADING],
        "guess": _guess(record),
        "weights": [(THINGS[t].split(",")[0], w) for t, w in v.weights.items() if w],
        "doubts": [(plain(d.what), plain(d.because)) for d in v.doubts],
        "layouts": [(x, as_set.words(x), _accepted(x)) for x in as_set.layouts],
        "shared": as_set.shared,
        "protocols": [(p, [(HELD.get(h.what, h.what), h.value) for h in p.held]) for p in doc.protocols],
        "traits": sorted({t for r in record.runs if r.state == "valid" for t in r.traits}),
        "pictures": _pictures(record, names),
        "most_observed": MOST_OBSERVED,
        "observed": [(o, _when(o), _where(o)) for o in record.observations],
        "sources": [SOURCES[k] for k in RESTS_ON],
    }


def _row(record: RecordDoc, layout: str, name: str, channels: Sequence[str]) -> dict[str, Any]:
    v = record.verdict
    found = {f.channel: f for f in v.figures if f.layout == layout}
    cells = []
    for channel in channels:
        f: FigureOut | None = found.get(channel)
        told = between([p for p in v.pairs if not p.at_limit], v.reference, layout, channel)
        text = "not logged" if f is None else quantity(_figure(channel, f.value, f.band))
        notes = [
            *(["at its limit"] if f and f.at_limit else []),
            *([f.how] if f and f.how else []),
            *([f"at {f.at_w:.0f} W"] if f and f.at_w else []),
        ]
        cells.append(Cell(text + (f" ({'; '.join(notes)})" if notes else ""), WORD[told[2]] if told else ""))
    placed = next((p for p in v.placed if p.layout == layout), None)
    facts = next((x for x in v.layouts if x.layout == layout), None)
    failed = [x.what for x in placed.limits if not x.passed] if placed else []
    return {
        "layout": layout,
        "name": name,
        "cells": cells,
        "facts": facts,
        "chance": chance_words(placed.chance) if placed else "",
        "failed": failed,
        "pick": layout == record.layout,
    }


def _figure(channel: str, value: float, band: float) -> Quantity:
    return Quantity(kind="sound", value=value, band=band) if channel == "sound_dba" else measured(channel, value, band)


def _guess(record: RecordDoc) -> list[str]:
    """What the person expected before the runs, and by how much it was off."""
    scores = record.verdict.scores
    lines = [scores.guess_says + (f" “{scores.guess_words}”" if scores.guess_words else "")] if scores.guess_says else []
    for g in scores.guess_errors:
        guessed, off = (quantity(Quantity(kind="difference", value=k)) for k in (g.guessed_k, g.off_k))
        measured = quantity(Quantity(kind="difference", value=g.measured_k, band=g.expanded_k))
        lines.append(f"{channel_words(g.channel)} of {g.layout} against {g.over}: guessed {guessed}, measured {measured}, off by {off}.")
    return lines


def _pair(p: Pair) -> dict[str, str]:
    size = "" if p.difference_k is None else quantity(measured(p.channel, p.difference_k, p.expanded_uncertainty_k))
    word = "context only" if p.context else "at its limit" if p.at_limit else WORD[p.word]
    return {"b": p.b, "a": p.a, "channel": channel_words(p.channel), "size": size, "word": word, "doubts": "; ".join(p.confounders)}


def _steps(record: RecordDoc) -> list[tuple[ChangeStep, str, str]]:
    """Of the first way: each step with its size, of a part at its limit in watts, and its word."""
    return [
        (s, quantity(measured(way.channel, s.difference_k, s.expanded_k)), WORD[s.word])
        for way in record.verdict.effects.ways[:1]
        for s in way.steps
    ]


def _design(design: DesignOut) -> dict[str, Any]:
    """All combinations of some changes: each effect and what they do together beyond their sum, with what was measured."""
    told = {name: "; ".join(parts) for name, parts in zip(design.names, design.parts, strict=False) if parts}
    rows = []
    for x in design.effects:
        words = " × ".join(x.changes)
        more = f" ({told[words]})" if words in told else ""
        size = quantity(measured(design.channel, x.effect_k, x.expanded_k))
        rows.append((f"together, beyond their sum: {words}" if len(x.changes) > 1 else words + more, size, "yes" if x.shown else "no"))
    figures = [f"{x} {quantity(measured(design.channel, value))}" for x, value in zip(design.layouts, design.values, strict=True)]
    return {"of": channel_words(design.channel), "count": len(design.names), "rows": rows, "figures": ", ".join(figures)}


def _accepted(layout: LayoutDoc) -> list[str]:
    """Findings that were accepted, each with its place and the reason that was given."""
    return [f"{a.code.replace('_', ' ')}{f' at {names(a.mounts)}' if a.mounts else ''}: {a.reason}" for a in layout.accepted]


def _title(key: str, names: dict[str, str]) -> str:
    return f"{key}, {names[key]}" if key in names else key


def _pictures(record: RecordDoc, names: dict[str, str]) -> list[tuple[str, str]]:
    """Title and image of each drawing, cleaned once more; without an image where it cannot be shown."""
    found = []
    for key, text in list(record.drawings.items())[:MOST_DRAWINGS]:
        try:
            found.append((_title(key, names), svg_data(cleaned(text, key)[0])))
        except DocumentError as error:
            found.append((f"{_title(key, names)}: not shown, {error.what}", ""))
    return found


def _when(o: Observation) -> str:
    """Minutes of its run, and whether the stretch was left out."""
    span = f"{o.at_s / 60:.1f}" + ("" if o.until_s is None else f" to {o.until_s / 60:.1f}")
    return f"{span} min" + (", left out of the figures" if o.left_out else "")


def _where(o: Observation) -> str:
    return "" if o.x_mm is None or o.z_mm is None else f"{o.x_mm:.0f} mm from the front, {o.z_mm:.0f} mm over the floor"
