"""Drawings of a build in plain lines that print in black and white: a fan from one of its sides, and the map of the leads."""

from collections.abc import Mapping, Sequence
from html import escape
from math import cos, pi, sin
from types import MappingProxyType

from desk.build.shapes import BuildDoc, BuildFan, Side
from desk.together.wiring import fan_name
from documents.job.case import MountDoc
from documents.job.models import JobDoc

BLADES = 9  # drawn; not the part's own
INK = "#1d2b28"
SHEET = '<rect x="-20" y="-20" width="3000" height="3000" fill="#ffffff"/>'  # dark lines stay readable at night
_INK = f'stroke="{INK}" fill="none"'
_CORNERS = ((20.0, 20.0), (120.0, 20.0), (120.0, 120.0), (20.0, 120.0))
_OUT = ((-8.0, -12.0), (8.0, -12.0), (8.0, 12.0), (-8.0, 12.0))
_MIRRORED = (1, 0, 3, 2)
_FONT = 'font-family="Archivo, DejaVu Sans, sans-serif" font-size="9" fill="#1d2b28"'


def fan_svg(fan: BuildFan, inside: bool = False) -> str:
    """The fan as it is seen from outside its face, or from inside, where left and right change places.

    Struts belong to the outlet side (common practice, no source). A cross in the hub: air goes away from who looks; a dot: towards.
    """
    side = fan.side_inside if inside else fan.side_seen
    corner = _MIRRORED[fan.exit_corner] if inside else fan.exit_corner
    where = fan.inside_from if inside else fan.seen_from
    words = f"fan at {fan.mount.upper()} seen from {where}: its {side} side, lead at the corner {fan.exit}"
    right = "" if inside else escape(fan.right)
    left = escape(fan.right) if inside else ""
    return "".join(
        [
            '<svg xmlns="http://www.w3.org/2000/svg" viewBox="-5 0 150 140" width="150" height="140">',
            f"<title>{escape(words)}</title>",
            SHEET,
            f'<rect x="20" y="20" width="100" height="100" rx="9" stroke-width="2" {_INK}/>',
            f'<circle cx="70" cy="70" r="46" stroke-width="1.500" {_INK}/>',
            *(f'<circle cx="{x}" cy="{y}" r="2.500" stroke-width="1" {_INK}/>' for x, y in ((28, 28), (112, 28), (112, 112), (28, 112))),
            *_blades(side),
            *_struts(side),
            _hub(side),
            _lead(corner),
            f'<text x="70" y="13" text-anchor="middle" {_FONT}>{escape(fan.up)}</text>',
            _upright(134, 90, right),
            _upright(6, -90, left),
            "</svg>",
        ]
    )


def bare_fan_svg(side: Side, turn_deg: int, told: bool) -> str:
    """A fan by itself, turned; ``told``: with the mark in the hub that says which way the air goes."""
    hub = _hub(side) if told else f'<circle cx="70" cy="70" r="16" stroke="{INK}" stroke-width="1.500" fill="#ffffff"/>'
    parts = [
        f'<rect x="20" y="20" width="100" height="100" rx="9" stroke-width="2" {_INK}/>',
        f'<circle cx="70" cy="70" r="46" stroke-width="1.500" {_INK}/>',
        *_blades(side),
        *_struts(side),
        hub,
        _lead(2),
    ]
    body = f'<g transform="rotate({turn_deg} 70 70)">{"".join(parts)}</g>'
    return f'<svg xmlns="http://www.w3.org/2000/svg" viewBox="0 0 140 140" width="220" height="220"><title>a fan</title>{SHEET}{body}</svg>'


def _upright(x: float, turn: float, words: str) -> str:
    return f'<text transform="translate({x} 70) rotate({turn})" text-anchor="middle" {_FONT}>{words}</text>' if words else ""


def _blades(side: Side) -> list[str]:
    """Bent one way as seen from the inlet, the other way from the outlet."""
    bend = 0.5 if side == "inlet" else -0.5
    found = []
    for i in range(BLADES):
        a = 2 * pi * i / BLADES
        x1, y1 = 70 + 17 * cos(a), 70 + 17 * sin(a)
        xm, ym = 70 + 33 * cos(a + 0.5 * bend), 70 + 33 * sin(a + 0.5 * bend)
        x2, y2 = 70 + 43 * cos(a + bend), 70 + 43 * sin(a + bend)
        found.append(f'<path d="M{x1:.1f} {y1:.1f} Q{xm:.1f} {ym:.1f} {x2:.1f} {y2:.1f}" stroke-width="1.200" {_INK}/>')
    return found


def _struts(side: Side) -> list[str]:
    if side == "inlet":
        return []
    ends = [(70 + 46 * cos(a), 70 + 46 * sin(a)) for a in (pi / 4, 3 * pi / 4, 5 * pi / 4, 7 * pi / 4)]
    return [f'<line x1="70" y1="70" x2="{x:.1f}" y2="{y:.1f}" stroke-width="4" {_INK}/>' for x, y in ends]


def _hub(side: Side) -> str:
    hub = '<circle cx="70" cy="70" r="16" stroke="#1d2b28" stroke-width="1.500" fill="#ffffff"/>'
    if side == "outlet":
        return hub + '<circle cx="70" cy="70" r="4" fill="#1d2b28"/>'
    return hub + f'<path d="M62 62 L78 78 M78 62 L62 78" stroke-width="2" {_INK}/>'


def _lead(corner: int) -> str:
    (x, y), (dx, dy) = _CORNERS[corner], _OUT[corner]
    return f'<path d="M{x} {y} q{dx / 2} {dy / 2} {dx} {dy}" stroke-width="3" {_INK}/>'


def wiring_svg(build: BuildDoc) -> str:
    """Every header with what hangs on it, its amperes and the plugs it can slow, what has no header yet, and the chain of lights."""
    headers, fans = build.headers, build.fans
    rows: list[tuple[str, str, list[str]]] = []
    vias = {fan_name(f.mount, f.layer): f.lead for f in fans}
    for h in headers:
        limit = "limit not known" if h.limit_a is None else f"of {h.limit_a:.2f} A"
        plugs = []
        for p in h.plugs:
            lead = vias.get(p)
            way = "" if lead is None or lead.needs_mm is None else f", {lead.needs_mm:.0f} of {lead.length_mm or 0:.0f} mm"
            way += f", behind by {' and '.join(lead.through)}" if lead and lead.through else ""
            plugs.append(p + (f" by {lead.via}" if lead and lead.via else "") + way)
        mark = " TOO MUCH" if h.verdict == "overloaded" else ""
        slows = f" ({', '.join(x.replace('pin', '-pin') for x in h.modes)})" if h.modes else ""
        rows.append((h.header + slows, f"{h.sum_a:.2f} A {limit}{mark}" if h.plugs else "free", plugs))
    if build.loose:
        rows.append(("no header chosen yet", "write it down", [f"{x.name}: on {x.proposed or ''} ____________" for x in build.loose]))
    if build.lights:
        rows.append(("lights, in a chain", "one after the other", [f"{n}. {x}" for n, x in enumerate(build.lights, start=1)]))
    y, out = 10.0, []
    for name, amperes, plugs in rows:
        high = max(34.0, 16.0 * len(plugs) + 6)
        out.append(f'<rect x="10" y="{y:.0f}" width="150" height="{high:.0f}" rx="4" stroke-width="1.500" {_INK}/>')
        out.append(f'<text x="18" y="{y + 14:.0f}" {_FONT} font-weight="bold">{escape(name)}</text>')
        out.append(f'<text x="18" y="{y + 27:.0f}" {_FONT}>{escape(amperes)}</text>')
        for i, p in enumerate(plugs):
            at = y + 11 + 16 * i
            mid = y + high / 2
            out.append(f'<path d="M160 {mid:.0f} C190 {mid:.0f} 190 {at:.0f} 220 {at:.0f}" stroke-width="1.200" {_INK}/>')
            out.append(f'<text x="226" y="{at + 3:.0f}" {_FONT}>{escape(p)}</text>')
        y += high + 12
    head = f'<svg xmlns="http://www.w3.org/2000/svg" viewBox="0 0 520 {y:.0f}" width="520" height="{y:.0f}">'
    return f"{head}<title>map of the leads</title>{SHEET}{''.join(out)}</svg>"


def case_svg(doc: JobDoc, build: BuildDoc) -> str:
    """The case from its window side with every mount named; a filled bar carries a fan, its arrow the way of the air; a barred block
    is a radiator."""
    inner, scale = doc.case.inner_mm, 0.55
    wide, high = inner.depth * scale, inner.height * scale
    front_right = doc.case.window_side == "left"
    by_mount: dict[str, list[BuildFan]] = {}
    for f in build.fans:
        by_mount.setdefault(f.mount, []).append(f)

    def at(x_mm: float, z_mm: float) -> tuple[float, float]:
        across = inner.depth - x_mm if front_right else x_mm
        return 60 + across * scale, 40 + (inner.height - z_mm) * scale

    out = [f'<rect x="60" y="40" width="{wide:.1f}" height="{high:.1f}" stroke-width="2" {_INK}/>']
    if doc.case.shroud:
        (x1, y), (x2, _) = at(0, doc.case.shroud.height_mm), at(inner.depth, 0)
        out.append(f'<line x1="{x1:.1f}" y1="{y:.1f}" x2="{x2:.1f}" y2="{y:.1f}" stroke-width="1.500" {_INK}/>')
    for m in doc.case.mounts:
        x, y = at(m.centre_mm.x, m.centre_mm.z)
        half = max(m.sizes_mm) * scale / 2
        fans = by_mount.get(m.id, [])
        if fans and all(f.layer == "inner" for f in fans) and m.face in _INWARD:  # behind the radiator, which hangs on the wall
            dx, dy = _inward(m.face, front_right)
            out.append(_mount(m, x, y, half, [], front_right))
            out.append(_mount(m, x + 28 * dx, y + 28 * dy, half, fans, front_right, named=False))
        else:
            out.append(_mount(m, x, y, half, fans, front_right))
    mounts = {m.id: m for m in doc.case.mounts}
    for r in build.radiators:
        here = [mounts[m] for m in r.mounts]
        if here[0].face in _INWARD:
            spots = [(*at(m.centre_mm.x, m.centre_mm.z), max(m.sizes_mm) * scale / 2) for m in here]
            out.append(_radiator(here[0].face, spots, front_right, any(f.layer == "outer" for m in r.mounts for f in by_mount.get(m, []))))
    words = ("rear", "front") if front_right else ("front", "rear")
    out.append(f'<text x="56" y="{52 + high:.1f}" {_FONT}>{words[0]}</text>')
    out.append(f'<text x="{64 + wide:.1f}" y="{52 + high:.1f}" text-anchor="end" {_FONT}>{words[1]}</text>')
    size = f"{wide + 120:.0f}", f"{high + 80:.0f}"
    head = f'<svg xmlns="http://www.w3.org/2000/svg" viewBox="0 0 {size[0]} {size[1]}" width="{size[0]}" height="{size[1]}">'
    return f"{head}<title>the case from its window side</title>{''.join(out)}</svg>"


_INWARD: Mapping[str, tuple[int, int]] = MappingProxyType({"top": (0, 1), "bottom": (0, -1), "front": (1, 0), "rear": (-1, 0)})


def _inward(face: str, front_right: bool) -> tuple[int, int]:
    dx, dy = _INWARD[face]
    return (-dx if front_right else dx), dy


def _radiator(face: str, spots: Sequence[tuple[float, float, float]], front_right: bool, behind_fans: bool) -> str:
    """A barred block along the places it takes: behind the fans on the wall, or at the wall itself. ``spots``: x, y, half a place."""
    dx, dy = _inward(face, front_right)
    away = 24.0 if behind_fans else 13.0
    low = min((y if dx else x) - half for x, y, half in spots)
    high = max((y if dx else x) + half for x, y, half in spots)
    x, y = spots[0][:2]
    middle = (low + high) / 2
    box = _box(x + dx * away, middle, 14, high - low, _INK) if dx else _box(middle, y + dy * away, high - low, 14, _INK)
    bars = []
    for i in range(1, int((high - low) / 6)):
        a = low + 6 * i
        ends = (x + dx * away - 7, a, x + dx * away + 7, a) if dx else (a, y + dy * away - 7, a, y + dy * away + 7)
        bars.append("M{:.1f} {:.1f} L{:.1f} {:.1f}".format(*ends))
    return f'<g>{box}<path d="{" ".join(bars)}" stroke-width="0.700" {_INK}/></g>'


def _mount(m: MountDoc, x: float, y: float, half: float, fans: Sequence[BuildFan], front_right: bool, named: bool = True) -> str:
    filled = 'stroke="#1d2b28" fill="#c9c9c9"' if fans else f'{_INK} stroke-dasharray="3 3"'
    name = 'font-family="Archivo, DejaVu Sans, sans-serif" font-size="11" font-weight="bold" fill="#1d2b28" text-anchor="middle"'
    if m.face == "window":
        box = _box(x, y, 2 * half, 2 * half, filled)
        sign = ({"intake": " in", "exhaust": " out"}[fans[0].blows]) if fans else ""
        return f'{box}<text x="{x:.1f}" y="{y + 4:.1f}" {name}>{escape(m.id.upper())}{sign}</text>'
    flat = m.face in ("top", "bottom") or m.on_shroud
    w, h = (2 * half, 10.0) if flat else (10.0, 2 * half)
    box = _box(x, y, w, h, filled)
    dx, dy = (0, -1) if m.on_shroud else _inward(m.face, front_right)
    text = ""
    if named:
        text = f'<text x="{x - 26 * dx:.1f}" y="{y - 24 * dy + 4:.1f}" {name}>{escape(m.id.upper())}</text>'
    if not fans:
        return box + text
    way = 1 if fans[0].blows == "intake" else -1
    ux, uy = dx * way, dy * way
    x2, y2 = x + 13 * ux, y + 13 * uy
    barbs = [(x2 - 7 * ux - 5 * uy, y2 - 7 * uy + 5 * ux), (x2 - 7 * ux + 5 * uy, y2 - 7 * uy - 5 * ux)]
    tip = " ".join(f"M{x2:.1f} {y2:.1f} L{bx:.1f} {by:.1f}" for bx, by in barbs)
    arrow = f'<path d="M{x - 13 * ux:.1f} {y - 13 * uy:.1f} L{x2:.1f} {y2:.1f} {tip}" stroke-width="2.500" {_INK}/>'
    return box + arrow + text


def _box(x: float, y: float, wide: float, high: float, how: str) -> str:
    return f'<rect x="{x - wide / 2:.1f}" y="{y - high / 2:.1f}" width="{wide:.1f}" height="{high:.1f}" rx="2" stroke-width="1.500" {how}/>'
