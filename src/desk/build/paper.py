"""The build sheet on paper: one page of HTML that needs nothing else, black on white, for A4 or Letter."""

from collections.abc import Iterable, Iterator
from html import escape
from typing import Literal

from desk.build.drawing import case_svg, fan_svg, wiring_svg
from desk.build.shapes import BuildDoc, BuildFan, BuildStep
from desk.paper.page import image, page
from desk.paper.pdf import pdf_of
from desk.words.build import CHAPTERS, FOLLOWS
from desk.words.cautions import CAUTIONS
from desk.words.measures import System, said
from documents.job.models import JobDoc

Paper = Literal["A4", "Letter"]
_STYLE = """
/* "0 or more" keeps the layout from measuring every word for the least width of a column: half of the time that a sheet took */
.step { display: grid; grid-template-columns: 7mm 9mm minmax(0, 1fr) 18mm; padding: 1.4mm 0; }
.step { border-bottom: 0.15mm solid #888; break-inside: avoid; }
.box { width: 4.5mm; height: 4.5mm; border: 0.4mm solid #000; } .gate .box { border-width: 1mm; }
.right { text-align: right; white-space: nowrap; }
.fan th { white-space: nowrap; padding-right: 3mm; } .keep { break-after: avoid; }
.caution { border-left: 1mm solid #000; padding-left: 2mm; margin: 1mm 0; font-size: 8.6pt; }
.fans { display: grid; grid-template-columns: minmax(0, 1fr) minmax(0, 1fr); gap: 4mm; }
.fan { border: 0.3mm solid #000; border-radius: 2mm; padding: 2mm; break-inside: avoid; } .fan img { width: 41mm; }
.pics { display: grid; grid-template-columns: minmax(0, 1fr) minmax(0, 1fr); }
.whole img { width: 100%; max-height: 105mm; object-fit: contain; object-position: left; }
.line { border-bottom: 0.2mm solid #000; height: 8mm; } .rest { break-inside: avoid; }
"""


def html(build: BuildDoc, doc: JobDoc, paper: Paper = "A4", units: System = "metric") -> str:
    """Nothing in it can run or fetch: pictures are images, words are escaped. ``units``: in which the reader's measures are."""
    body = (said(part, units) for part in _body(build, doc, units))
    return page(f"{build.job}: {_title(build)}", body, _STYLE, paper)


def _title(build: BuildDoc) -> str:
    return f"{build.layout}{f', {build.name}' if build.name else ''}"


def _body(build: BuildDoc, doc: JobDoc, units: System) -> Iterator[str]:
    title = escape(_title(build))
    start = f"from {build.start} as it stands" if build.start else "from an empty case"
    case = f" · {escape(build.case)}" if build.case else ""
    yield f'<p class="small"><span class="job">{escape(build.job)}, {title}</span>{case}</p><h1>Build {title}</h1>'
    yield f"<p>{len(build.steps)} steps {escape(start)}, about {build.minutes:.0f} minutes of work and waiting. Tick a box when it is "
    yield "done; thick boxes are not left out. The part makers' manuals and local rules come first.</p>"
    yield from _impossible(build)
    yield f'<div class="whole">{image(said(case_svg(doc, build), units), "the case from its window side")}</div>'
    for part in (_steps, _fans, _radiators):
        yield from part(build)
    yield from _wiring(build, units)
    for part in (_curves, _shopping):
        yield from part(build)
    yield '<div class="rest"><h2>Built otherwise</h2><p class="small">What was done otherwise than this sheet says, and why:</p>'
    yield '<p class="line"></p>' * 3 + "</div>"


def pdf(build: BuildDoc, doc: JobDoc, paper: Paper = "A4", units: System = "metric") -> bytes:
    """Raises NoPdfError or TooHeavyError."""
    return pdf_of(html(build, doc, paper, units))


def _impossible(build: BuildDoc) -> Iterable[str]:
    if build.impossible:
        lines = "".join(f"<li>{escape(x)}</li>" for x in build.impossible)
        yield f'<p class="words">There is no order in which this goes together:</p><ul>{lines}</ul>'


def _steps(build: BuildDoc) -> Iterable[str]:
    number = {s.id: i for i, s in enumerate(build.steps, start=1)}
    told: dict[str, int] = {}
    chapter = ""
    for s in build.steps:
        if s.chapter != chapter:
            chapter = s.chapter
            yield f"<h2>{CHAPTERS[chapter]}</h2>"
        yield _step(s, number, told)
        if s.caution:
            told.setdefault(s.caution, number[s.id])


def runs_of(numbers: Iterable[int]) -> str:
    """1, 3 to 5, 8."""
    spans: list[list[int]] = []
    for n in sorted(set(numbers)):
        if spans and n == spans[-1][1] + 1:
            spans[-1][1] = n
        else:
            spans.append([n, n])
    return ", ".join(f"{a}" if a == b else f"{a}, {b}" if b == a + 1 else f"{a} to {b}" for a, b in spans)


def _step(s: BuildStep, number: dict[str, int], told: dict[str, int]) -> str:
    lines = "".join(f"<li>{escape(x)}</li>" for x in s.details)
    caution = ""
    if s.caution in told:
        caution = f'<p class="caution">Caution as at step {told[s.caution]}.</p>'
    elif s.caution:
        caution = f'<p class="caution">{escape(CAUTIONS[s.caution])}</p>'
    before = runs_of([number[a] for a in s.after if number[a] != number[s.id] - 1])
    waits = f'<span class="small"> after {before}</span>' if before else ""
    return (
        f'<div class="step{" gate" if s.gate else ""}"><div><div class="box"></div></div><div class="n">{number[s.id]}</div>'
        f'<div><span class="words">{escape(s.words)}</span>{waits}{f"<ul class=small>{lines}</ul>" if lines else ""}{caution}</div>'
        f'<div class="n right small">{s.minutes:g} min</div></div>'
    )


def _fans(build: BuildDoc) -> Iterable[str]:
    if not build.fans:
        return
    yield "<h2>Every fan as it is seen</h2>"
    yield '<p class="small keep">Struts stand on the outlet side. A cross in the hub: air goes away from you; a dot: towards you.</p>'
    yield '<div class="fans">'
    yield from (_fan(f) for f in build.fans)
    yield "</div>"


def _fan(f: BuildFan) -> str:
    side = " inner" if f.layer == "inner" else ""
    lead = f.lead
    to = "no header named yet" if lead.to is None else f"{lead.to}{f' by {lead.via}' if lead.via else ''}"
    length = "" if lead.length_mm is None else f", {lead.length_mm:.0f} mm long"
    needs = "" if lead.needs_mm is None else f", about {lead.needs_mm:.0f} mm needed"
    speed = f"curve {f.curve}" if f.curve else f"{f.speed_pct:.0f} %, about {f.speed_rpm:.0f} rpm"
    rows = [
        ("air", "into the case" if f.blows == "intake" else "out of the case"),
        ("sides", f"{f.side_seen} {f.seen_from}, {f.side_inside} {f.inside_from}"),
        ("lead", f"out at {f.exit}; to {to}{length}{needs}"),
        ("screws", f.screws),
        ("label", f.label),
        ("speed", speed if f.running else "stays unplugged"),
    ]
    table = "".join(f"<tr><th>{a}</th><td>{escape(b)}</td></tr>" for a, b in rows)
    pictures = "".join(
        f"<div>{image(fan_svg(f, inside), '')}<br><span class=small>from {escape(f.inside_from if inside else f.seen_from)}</span></div>"
        for inside in (False, True)
    )
    return (
        f'<div class="fan"><p class="words">{escape(f.mount.upper())}{side}: {escape(f.name)}, {f.size_mm:.0f} mm</p>'
        f'<div class="pics">{pictures}</div><table class="small">{table}</table></div>'
    )


def _radiators(build: BuildDoc) -> Iterable[str]:
    for r in build.radiators:
        layers = "".join(f"<li>{escape(x)}</li>" for x in r.layers)
        yield f"<h2>{escape(r.name)} at {escape(', '.join(m.upper() for m in r.mounts))}</h2>"
        held = escape(r.screws[0].upper() + r.screws[1:])
        yield f"<p>From outside in:</p><ol>{layers}</ol><p>Tubes at the {escape(r.tubes)}. {held}.</p>"


def _wiring(build: BuildDoc, units: System) -> Iterable[str]:
    if build.headers or build.fans:
        yield '<h2>Map of the leads</h2><div class="whole">' + image(said(wiring_svg(build), units), "map of the leads") + "</div>"


def _curves(build: BuildDoc) -> Iterable[str]:
    if not build.curves:
        return
    yield '<h2>Curves to type</h2><table class="rows"><tr><th>fans</th><th>follows</th><th>steps</th><th>and</th></tr>'
    for c in build.curves:
        mounts = ", ".join(m.upper() for m in c.mounts)
        steps = ", ".join(f"{t:g} °C {s:g} %" for t, s in c.points)
        rest = f"at rest below {c.stop_below_c:g} °C; " if c.stop_below_c is not None else ""
        also = f"{rest}slower once {c.hysteresis_k:g} K cooler; {c.delay_s:g} s through the whole range"
        warns = "".join(f"<br>{escape(w)}" for w in c.warns)
        cells = [f"{escape(c.group)} {escape(mounts)}", escape(FOLLOWS.get(c.source, c.source)), steps, also + warns]
        yield "<tr>" + "".join(f"<td>{x}</td>" for x in cells) + "</tr>"
    yield "</table>"


def _shopping(build: BuildDoc) -> Iterable[str]:
    if not build.shopping and not build.left_over:
        return
    yield '<h2>To be had, and left over</h2><table class="rows"><tr><th>part</th><th>count</th><th>each</th><th>or instead</th></tr>'
    for b in build.shopping:
        price = "price not known" if b.price is None else f"{b.price:.2f}"
        yield f"<tr><td>{escape(b.name)}</td><td>{b.count}</td><td>{price}</td><td>{escape('; '.join(b.instead))}</td></tr>"
    for b in build.left_over:
        yield f"<tr><td>{escape(b.name)}</td><td>{b.count} left over</td><td></td><td></td></tr>"
    yield "</table>"
