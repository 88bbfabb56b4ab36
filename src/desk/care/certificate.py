"""The certificate of one unit: what it is made of, what it was held against, every figure of its run as analysed, limits, signature."""

from collections.abc import Iterator
from datetime import datetime
from html import escape

from desk.care.commission import CommissioningDoc
from desk.job.resolve import Resolver
from desk.paper.page import page, table
from desk.paper.pdf import pdf_of
from desk.together.wiring import fans_used
from desk.words.chance import chance_words
from desk.words.channels import channel_words
from desk.words.faults import VERDICTS, WORDS
from desk.words.measures import System, said
from documents.job.models import JobDoc

_STYLE = """
.seal { border: 0.4mm solid #000; padding: 2mm 3mm; break-inside: avoid; }
.sign { border-bottom: 0.2mm solid #000; height: 10mm; width: 70mm; }
"""
_PARTS = {
    "processor": ("cpu", "cpus"),
    "card": ("card", "cards"),
    "board": ("board", "boards"),
    "memory": ("memory", "memory"),
    "power supply": ("supply", "supplies"),
}


def html(
    doc: JobDoc, serial: str, made_at: datetime, signed_by: str, result: CommissioningDoc, decided: str = "", units: System = "metric"
) -> str:
    """``decided``: the frozen decision that the layout rests on, in words."""
    return page(serial, (said(part, units) for part in _body(doc, serial, made_at, signed_by, result, decided)), _STYLE)


def pdf(
    doc: JobDoc, serial: str, made_at: datetime, signed_by: str, result: CommissioningDoc, decided: str = "", units: System = "metric"
) -> bytes:
    """Raises NoPdfError or TooHeavyError."""
    return pdf_of(html(doc, serial, made_at, signed_by, result, decided, units))


def _body(doc: JobDoc, serial: str, made_at: datetime, signed_by: str, r: CommissioningDoc, decided: str) -> Iterator[str]:
    resolver = Resolver(doc)
    layout = resolver.layout(r.layout)
    case = f", {escape(doc.case.name)}" if doc.case.name else ""
    yield f'<p class="small"><span class="job">{escape(doc.name)}, {escape(serial)}</span>{case} · {made_at:%d %B %Y, %H:%M}</p>'
    yield f"<h1>Unit {escape(serial)}: {VERDICTS[r.verdict]}</h1>"
    yield f'<div class="seal"><p>Built as layout <strong>{escape(layout.id)}</strong> {escape(layout.name)}. {escape(decided)}</p>'
    yield f"<p>A run of {r.minutes:.0f} minutes under load {escape(r.load)}, held against {escape(', '.join(r.runs))}, at the same minute, "
    yield f"over the room of each. A difference under {doc.practice.margin_k:g} K does not matter here.</p></div>"
    yield "<h2>Every figure</h2>"
    yield table(
        ((channel_words(c.name), _signed(c.difference_k, c.unit), f"±{c.allowed_k:.1f} {c.unit}", WORDS[c.word]) for c in r.channels),
        ("what", "unit less reference", "allowed", ""),
    )
    yield "<h2>What is likely</h2>"
    yield table(((chance_words(d.chance_pct / 100), d.words, d.look) for d in r.diagnosis), ("chance", "what", "where to look"))
    yield f"<p>{escape(r.tell)}</p>" if r.tell else ""
    yield from (f'<p class="small">{escape(n[0].upper() + n[1:])}.</p>' for n in r.notes)
    yield f"<h2>Hardware</h2>{table(_hardware(resolver, r.layout))}"
    if doc.points:
        places = (
            (p.name or p.id, f"{p.at_mm.x:.0f} mm from the front, {p.at_mm.y:.0f} mm from the board, {p.at_mm.z:.0f} mm up")
            for p in doc.points
        )
        yield f"<h2>Probes</h2>{table(places)}"
    yield f'<h2>Signed</h2><p>{escape(signed_by) or "Not signed."}</p><div class="sign"></div>'
    yield f'<p class="small">Engine {escape(r.engine)}; measurements of this case behind the forecast of faults: {r.learned or 0}. '
    yield "A short run tells what it can see; it replaces no safety test, and the makers' manuals and local rules come first.</p>"


def _signed(value: float | None, unit: str) -> str:
    return "not read" if value is None else f"{value:+.1f} {unit}".replace("-", "−")


def _hardware(resolver: Resolver, layout_id: str) -> list[tuple[str, str]]:
    layout = resolver.layout(layout_id)
    found = [(words, part.name or part.id) for words, at in _PARTS.items() if (part := resolver.part(layout, *at)) is not None]
    cooler = resolver.cpu_cooler(layout)
    if cooler:
        found.append(("cooler", cooler.name or cooler.id))
    for loop in resolver.loops(layout):
        found += [("radiator", resolver.parts["radiators"][r.radiator].name or r.radiator) for r in loop.radiators]
    return found + [(f"{n} fans", resolver.parts["fans"][fan].name or fan) for fan, n in fans_used(resolver, layout).items()]
