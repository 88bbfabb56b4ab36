"""A page that needs nothing else: its own fonts and style, nothing that could run or fetch."""

import base64
from collections.abc import Iterable
from html import escape

from desk.paper.fonts import fonts

POLICY = "default-src 'none'; style-src 'unsafe-inline'; img-src data:; font-src data:"
STYLE = """
@page { size: %s; margin: 14mm 14mm 16mm;
  @bottom-left { content: string(job); font: 8pt Archivo, sans-serif; }
  @bottom-right { content: counter(page) " of " counter(pages); font: 8pt Archivo, sans-serif; } }
body { font: 10pt/1.42 Archivo, "DejaVu Sans", sans-serif; font-kerning: none; text-rendering: geometricPrecision; }
body { color: #000; background: #fff; max-width: 190mm; margin: 0 auto; }
.job { string-set: job content(); }
h1 { font-size: 19pt; line-height: 1.15; margin: 0 0 2mm; }
h2 { font-size: 12pt; margin: 6mm 0 2mm; border-bottom: 0.4mm solid #000; break-after: avoid; }
p, li, td, th, h1 { overflow-wrap: anywhere; } p { margin: 1mm 0; } ul { margin: 0.5mm 0; padding-left: 4.5mm; }
table { border-collapse: collapse; width: 100%%; } th, td { text-align: left; vertical-align: top; padding: 0.8mm 2mm 0.8mm 0; }
.rows td, .rows th { border-bottom: 0.15mm solid #888; font-size: 9pt; } .rows tr { break-inside: avoid; }
.n { font-family: "Spline Sans Mono", "DejaVu Sans Mono", monospace; white-space: nowrap; }
.small { font-size: 8.5pt; } .words { font-weight: 600; }
"""


def page(title: str, body: Iterable[str], style: str = "", size: str = "A4") -> str:
    """``body``: HTML whose words are escaped; ``style`` beyond the usual one."""
    faces = "".join(
        f'@font-face {{ font-family: "{family}"; src: url(data:font/woff2;base64,{data}) format("woff2"); font-weight: 100 900; }}'
        for family, data in fonts()
    )
    head = (
        '<!doctype html><html lang="en"><head><meta charset="utf-8">'
        f'<meta http-equiv="Content-Security-Policy" content="{POLICY}">'
        f"<title>{escape(title)}</title><style>{faces}{STYLE % size}{style}</style></head><body>"
    )
    return head + "".join(body) + "</body></html>"


def image(svg: str, words: str) -> str:
    """A drawing as a picture, in which nothing can run."""
    return f'<img src="{svg_data(svg)}" alt="{escape(words)}">'


def svg_data(svg: str) -> str:
    return "data:image/svg+xml;base64," + base64.b64encode(svg.encode()).decode()


def table(rows: Iterable[Iterable[str]], head: Iterable[str] = ()) -> str:
    """``rows`` and ``head``: words, escaped here."""
    top = "".join(f"<th>{escape(x)}</th>" for x in head)
    lines = "".join("<tr>" + "".join(f"<td>{escape(x)}</td>" for x in row) + "</tr>" for row in rows)
    return f'<table class="rows">{f"<tr>{top}</tr>" if top else ""}{lines}</table>'
