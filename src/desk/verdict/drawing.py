"""Drawings of a record: SVG that can be shown and printed without running, fetching or unfolding anything.

A drawing made here holds plain shapes and words. Everything else (scripts, styles, links, pictures, references that repeat other parts) is
cut out when a decision is frozen, refused when a record comes from elsewhere, and never reaches the page or the printer.
"""

import re
from collections.abc import Mapping
from xml.etree.ElementTree import Element, ParseError, tostring

from defusedxml import DefusedXmlException
from defusedxml.ElementTree import fromstring

from documents.errors import DocumentError, Fault

LARGEST_DRAWING = 600_000
MOST_DRAWINGS = 40
MOST_ELEMENTS = 20_000
DEEPEST = 40
SVG = "{http://www.w3.org/2000/svg}"
SHAPES = frozenset(("svg", "g", "path", "rect", "circle", "ellipse", "line", "polyline", "polygon", "text", "tspan", "title", "desc"))
_PLACE = ("x", "y", "x1", "y1", "x2", "y2", "dx", "dy", "cx", "cy", "r", "rx", "ry", "width", "height", "viewBox", "d", "points")
_LINES = ("stroke", "stroke-width", "stroke-opacity", "stroke-dasharray", "stroke-linecap", "stroke-linejoin", "opacity")
_FILLS = ("fill", "fill-opacity", "fill-rule", "display", "visibility", "transform", "preserveAspectRatio")
_WORDS = ("font-family", "font-size", "font-weight", "font-style", "text-anchor", "dominant-baseline", "rotate")
ATTRIBUTES = frozenset((*_PLACE, *_LINES, *_FILLS, *_WORDS))
_PLAIN = re.compile(r"[\w\s.,()#%+\-'\"]*")  # numbers, colours, names; no addresses
_CONTROL = re.compile("[\x00-\x08\x0b\x0c\x0e-\x1f\ufffe\uffff]")  # what XML cannot hold
_DO = "Leave it out; the record stands without it."


def cleaned(text: str, where: str) -> tuple[str, list[str]]:
    """The drawing with its shapes and words alone, and the names of elements that were cut out.

    Raises DocumentError for what is no SVG, or is larger than any drawing of a case.
    """
    if len(text) > LARGEST_DRAWING:
        raise DocumentError([Fault(where, f"the drawing has more than {LARGEST_DRAWING // 1000} kB", _DO)])
    try:
        root = fromstring(_CONTROL.sub("", text), forbid_dtd=True)
    except (ParseError, DefusedXmlException, ValueError) as error:
        raise DocumentError([Fault(where, "this is no SVG picture", _DO)]) from error
    if root.tag not in (f"{SVG}svg", "svg"):
        raise DocumentError([Fault(where, "this is no SVG picture", _DO)])
    cut: list[str] = []
    copy = Element("svg", {"xmlns": SVG[1:-1], **_attributes(root)})
    copy.text = root.text
    stack, count = [(root, copy, 1)], 0
    while stack:
        source, target, depth = stack.pop()
        for child in source:
            count += 1
            name = child.tag.removeprefix(SVG) if isinstance(child.tag, str) else "instruction"
            if count > MOST_ELEMENTS or depth > DEEPEST:
                raise DocumentError([Fault(where, "the drawing has too many parts", _DO)])
            if name not in SHAPES:
                cut.append(name)
                continue
            made = Element(name, _attributes(child))
            made.text, made.tail = child.text, child.tail
            target.append(made)
            stack.append((child, made, depth + 1))
    return tostring(copy, encoding="unicode"), sorted(set(cut))


def _attributes(element: Element) -> dict[str, str]:
    return {k: v for k, v in element.attrib.items() if k in ATTRIBUTES and _PLAIN.fullmatch(v) and "url" not in v.lower()}


def drawings_to_keep(drawings: Mapping[str, str]) -> dict[str, str]:
    """Drawings of a decision that is being frozen, cleaned; one that is too large is left out, as the page would find it slow too."""
    if len(drawings) > MOST_DRAWINGS:
        raise DocumentError([Fault("drawings", f"more than {MOST_DRAWINGS} drawings", "Leave some out.")])
    return {name[:60]: cleaned(text, f"drawings.{name[:60]}")[0] for name, text in drawings.items() if len(text) <= LARGEST_DRAWING}


def check_drawings(drawings: Mapping[str, str]) -> None:
    """Raises DocumentError for drawings of a record from elsewhere that hold more than shapes and words."""
    if len(drawings) > MOST_DRAWINGS:
        raise DocumentError([Fault("drawings", f"more than {MOST_DRAWINGS} drawings", "Use the record as it was saved here.")])
    for name, text in drawings.items():
        _, cut = cleaned(text, f"drawings.{name[:60]}")
        if cut:
            what = f"the drawing holds more than shapes and words ({', '.join(cut[:4])})"
            raise DocumentError([Fault(f"drawings.{name[:60]}", what, "Use the record as it was saved here.")])
