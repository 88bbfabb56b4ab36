"""The certificate of one unit: what it is made of, what it was held against, every figure of its run as analysed, limits, signature."""

from datetime import datetime
from html import escape

from desk.care.commission import CommissioningDoc
from desk.job.resolve import Resolver
from desk.paper.fonts import fonts
from desk.paper.pdf import pdf_of
from desk.together.wiring import fans_used
from desk.words.channels import channel_words
from desk.words.faults import VERDICTS, WORDS
from documents.job.models import JobDoc

POLICY = "default-src 'none'; style-src 'unsafe-inline'; img-src data:; font-src data:"
_STYLE = """
@page { size: A4; margin: 16mm 15mm 18mm; @bottom-right { content: counter(page) " of " counter(pages); font: 8pt Archivo, sans-serif; } }
body { font: 10pt/1.45 Archivo, "DejaVu Sans", sans-serif; color: #000; background: #fff; }
h1 { font-size: 19pt; margin: 0 0 2mm; } h2 { font-size: 12pt; margin: 6mm 0 2mm; border-bottom: 0.4mm solid #000; break-after: avoid; }
p, td, th, h1 { overflow-wrap: anywhere; } p { margin: 1mm 0; } table { border-collapse: collapse; width: 100%; font-size: 9pt; }
th, td { text-align: left; vertical-align: top; padding: 0.8mm 3mm 0.8mm 0; border-bottom: 0.15mm solid #888; } tr { break-inside: avoid; }
.n { font-family: "Spline Sans Mono", "DejaVu Sans Mono", monospace; white-space: nowrap; } .small { font-size: 8.5pt; }
.seal { border: 0.4mm solid #000; padding: 2mm 3mm; break-inside: avoid; }
.sign { border-bottom: 0.2mm solid #000; height: 10mm; width: 70mm; }
"""


def html(doc: JobDoc, serial: str, made_at: datetime, signed_by: str, result: CommissioningDoc, decided: str = "") -> str:
    """``decided``: the frozen decision that the layout rests on, in words."""
    faces = "".join(
        f'@font-face {{ font-family: "{family}"; src: url(data:font/woff2;base64,{data}) format("woff2"); font-weight: 100 900; }}'
        for family, data in fonts()
    )
    resolver = Resolver(doc)
    layout = resolver.layout(result.layout)
    rows = "".join(
        f"<tr><td>{escape(channel_words(c.name))}</td><td class=n>{_signed(c.difference_k)} {escape(c.unit)}</td>"
        f"<td class=n>±{c.allowed_k:.1f} {escape(c.unit)}</td><td>{WORDS[c.word]}</td></tr>"
        for c in result.channels
    )
    told = "".join(
        f"<tr><td class=n>{d.chance_pct:.0f} %</td><td>{escape(d.words)}</td><td>{escape(d.look)}</td></tr>" for d in result.diagnosis
    )
    hardware = "".join(f"<tr><td>{escape(what)}</td><td>{escape(name)}</td></tr>" for what, name in _hardware(resolver, result.layout))
    probes = "".join(
        f"<tr><td>{escape(p.name or p.id)}</td><td class=n>{p.at_mm.x:.0f}, {p.at_mm.y:.0f}, {p.at_mm.z:.0f} mm</td></tr>"
        for p in doc.points
    )
    margin = f"{doc.practice.margin_k:g} K"
    return "".join(
        [
            '<!doctype html><html lang="en"><head><meta charset="utf-8">',
            f'<meta http-equiv="Content-Security-Policy" content="{POLICY}"><title>{escape(serial)}</title>',
            f"<style>{faces}{_STYLE}</style></head><body>",
            f'<p class="small">{escape(doc.name)}{f", {escape(doc.case.name)}" if doc.case.name else ""} · {made_at:%d %B %Y, %H:%M}</p>',
            f"<h1>Unit {escape(serial)}: {VERDICTS[result.verdict]}</h1>",
            f'<div class="seal"><p>Built as layout <strong>{escape(layout.id)}</strong> {escape(layout.name)}. {escape(decided)}</p>',
            f"<p>A run of {result.minutes:.0f} minutes under load {escape(result.load)}, held against {escape(', '.join(result.runs))}",
            f", at the same minute, over the room of each. A difference under {margin} does not matter here.</p></div>",
            "<h2>Every figure</h2><table><tr><th>what</th><th>unit less reference</th><th>allowed</th><th></th></tr>",
            f"{rows}</table>",
            "<h2>What is likely</h2><table><tr><th>chance</th><th>what</th><th>where to look</th></tr>",
            f"{told}</table>",
            f"<p>{escape(result.tell)}</p>" if result.tell else "",
            "".join(f'<p class="small">{escape(n[0].upper() + n[1:])}.</p>' for n in result.notes),
            f"<h2>Hardware</h2><table>{hardware}</table>",
            f"<h2>Probes</h2><table>{probes}</table>" if probes else "",
            f'<h2>Signed</h2><p>{escape(signed_by) or "Not signed."}</p><div class="sign"></div>',
            f'<p class="small">Engine {escape(result.engine)}; {result.learned or 0} runs of this case have taught the forecast of faults. '
            "A short run tells what it can see; it replaces no safety test, and the makers' manuals and local rules come first.</p>",
            "</body></html>",
        ]
    )


def pdf(doc: JobDoc, serial: str, made_at: datetime, signed_by: str, result: CommissioningDoc, decided: str = "") -> bytes:
    """Raises NoPdfError or TooHeavyError."""
    return pdf_of(html(doc, serial, made_at, signed_by, result, decided))


def _signed(value: float | None) -> str:
    return "not read" if value is None else f"{value:+.1f}".replace("-", "−")


def _hardware(resolver: Resolver, layout_id: str) -> list[tuple[str, str]]:
    layout = resolver.layout(layout_id)
    kinds = {"cpu": "cpus", "card": "cards", "board": "boards", "memory": "memory", "supply": "supplies"}
    words = {"cpu": "processor", "card": "card", "board": "board", "memory": "memory", "supply": "power supply"}
    found = [(words[s], part.name or part.id) for s, kind in kinds.items() if (part := resolver.part(layout, s, kind)) is not None]
    cooler = resolver.cpu_cooler(layout)
    if cooler:
        found.append(("cooler", cooler.name or cooler.id))
    for loop in resolver.loops(layout):
        found += [("radiator", resolver.parts["radiators"][r.radiator].name or r.radiator) for r in loop.radiators]
    return found + [(f"{n} fans", resolver.parts["fans"][fan].name or fan) for fan, n in fans_used(resolver, layout).items()]
