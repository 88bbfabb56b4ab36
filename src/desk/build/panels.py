"""A panel for every fan: which of its sides is seen from where, at which corner its lead leaves, what it is screwed with.

Screws, labels and the side of the struts are common practice, no source; the part makers' manuals come first.
"""

from collections.abc import Iterator, Mapping
from dataclasses import dataclass
from math import hypot
from types import MappingProxyType
from typing import Literal

from desk.build.shapes import BuildFan, BuildLead, BuildRadiator, Side
from desk.job.names import as_radiator
from desk.job.resolve import Resolver
from desk.together.wiring import fan_name, wiring_of
from documents.job.case import CaseDoc, MountDoc, PointDoc
from documents.job.models import FanPlaceDoc, LayoutDoc, RadiatorPlaceDoc
from engine.loop.heights import stands_upright, tube_side

OTHER: Mapping[Side, Side] = MappingProxyType({"inlet": "outlet", "outlet": "inlet"})
INTO_RADIATOR_MM = 5.0  # common practice, no source: how deep a screw goes beyond the fan; deeper it reaches the fins
HELD_BY_FANS = "held by the screws of the fans between it and the wall"
SELF_TAPPING = "4 self-tapping fan screws, from outside"
Seen = Literal["outside", "inside"]
# Right, then up, of one who looks at a face from outside; from inside right and left change places.
_AXES: Mapping[str, tuple[str, str]] = MappingProxyType(
    {
        "front": ("right", "top"),
        "rear": ("left", "top"),
        "window": ("front", "top"),
        "top": ("front", "board"),
        "bottom": ("front", "window"),
        "shroud": ("front", "board"),
    }
)
_OPPOSITE: Mapping[str, str] = MappingProxyType({"front": "rear", "rear": "front", "top": "floor", "board": "window", "window": "board"})
SAID: Mapping[str, str] = MappingProxyType(
    {"top": "upper", "floor": "lower", "board": "board side", "window": "window side", "front": "front", "rear": "rear"}
)


@dataclass(frozen=True)
class Frame:
    """How a face is looked at: where one stands, and what lies to the right and up there."""

    outside: str
    inside: str
    right: str
    up: str


def frame_of(case: CaseDoc, mount: MountDoc) -> Frame:
    """A fan on the shroud counts its chamber's side as inside; it is looked at from above first."""
    face = "shroud" if mount.on_shroud else mount.face
    right, up = _AXES[face]
    window_left = case.window_side == "left"
    if right in ("right", "left"):  # upright faces across the case: the window is at one hand of who stands before the front
        right = "board" if (right == "right") == window_left else "window"
    elif not window_left:
        right = _OPPOSITE[right]
    if mount.on_shroud:
        return Frame("above the shroud", "below the shroud", right, up)
    return Frame(f"outside the {mount.face}", "inside the case", right, up)


def sides_of(mount: MountDoc, way: str) -> tuple[Side, Side]:
    """Which side of a fan is seen from outside its face, and from inside. Over a shroud intake blows up, towards who looks from above."""
    outside: Side = "inlet" if way == "intake" else "outlet"
    if mount.on_shroud:
        outside = OTHER[outside]
    return outside, OTHER[outside]


def corners_of(frame: Frame) -> list[str]:
    """Names of the four corners of a drawing from the first side, clockwise from the upper left."""
    return [f"{SAID[up]}, {SAID[side]}" for up, side in _corner_sides(frame)]


def _corner_sides(frame: Frame) -> list[tuple[str, str]]:
    left, down = _OPPOSITE[frame.right], _OPPOSITE[frame.up]
    return [(frame.up, left), (frame.up, frame.right), (down, frame.right), (down, left)]


def _towards(name: str, case: CaseDoc) -> tuple[str, float]:
    """An axis and the place at its end, in mm."""
    inner = case.inner_mm
    ends = {
        "front": ("x", 0.0),
        "rear": ("x", inner.depth),
        "board": ("y", 0.0),
        "window": ("y", inner.width),
        "floor": ("z", 0.0),
        "top": ("z", inner.height),
    }
    return ends[name]


def exit_corner(case: CaseDoc, mount: MountDoc, size_mm: float, goal: PointDoc | None) -> int:
    """The corner nearest to where the lead goes; without a known place the one towards the board and the rear."""
    frame = frame_of(case, mount)
    goal = goal or PointDoc(x=case.inner_mm.depth, y=0, z=case.inner_mm.height / 2)
    best = []
    for i, corner in enumerate(_corner_sides(frame)):
        at = {"x": mount.centre_mm.x, "y": mount.centre_mm.y, "z": mount.centre_mm.z}
        for side in corner:
            axis, end = _towards(side, case)
            at[axis] += size_mm / 2 if end > at[axis] else -size_mm / 2
        best.append((hypot(at["x"] - goal.x, at["y"] - goal.y, at["z"] - goal.z), i))
    return min(best)[1]


def fan_panels(resolver: Resolver, layout: LayoutDoc) -> Iterator[BuildFan]:
    case = resolver.doc.case
    mounts = {m.id: m for m in case.mounts}
    headers = _header_places(resolver, layout)
    leads = {(x.mount, x.name): x for x in wiring_of(resolver, layout).leads}
    plugged = {(p.of, p.layer): p for p in layout.wiring}
    on_radiator = {m: place for loop in resolver.loops(layout) for place in loop.radiators for m in place.mounts}
    for place in sorted(layout.fans, key=lambda p: ([m.id for m in case.mounts].index(p.mount), p.layer == "inner")):
        mount, part = mounts[place.mount], resolver.parts["fans"][place.fan]
        own = plugged.get((place.mount, place.layer))
        hub = resolver.parts["controllers"].get(own.via or "") if own else None
        goal = headers.get(own.header) if own else None
        if hub is not None and hub.at_mm is not None:
            goal = hub.at_mm
        seen, inside = sides_of(mount, place.direction)
        frame = frame_of(case, mount)
        corner = exit_corner(case, mount, part.size_mm, goal)
        line = leads.get((place.mount, fan_name(place.mount, place.layer)))
        length = None if part.lead_mm is None else part.lead_mm + (own.extension_mm if own else 0.0) + (hub.lead_mm if hub else 0.0)
        speed, curve = resolver.pace(layout, place)
        yield BuildFan(
            mount=place.mount,
            layer=place.layer,
            fan=place.fan,
            name=part.name or place.fan,
            size_mm=part.size_mm,
            blows=place.direction,
            seen_from=frame.outside,
            side_seen=seen,
            inside_from=frame.inside,
            side_inside=inside,
            exit=corners_of(frame)[corner],
            exit_corner=corner,
            corners=corners_of(frame),
            up=SAID[frame.up],
            right=SAID[frame.right],
            screws=screws(part.thickness_mm, place, on_radiator.get(place.mount)),
            label=label(place),
            lead=BuildLead(
                to=own.header if own else None,
                via=(hub.name or hub.id) if hub else None,
                length_mm=length,
                needs_mm=line.needed_mm if line else None,
                through=list(line.through) if line else [],
                hidden_mm=line.hidden_mm if line else None,
            ),
            running=place.state == "running",
            speed_pct=speed,
            speed_rpm=part.speed_max_rpm * speed / 100,
            curve=curve,
        )


def _header_places(resolver: Resolver, layout: LayoutDoc) -> dict[str, PointDoc | None]:
    board = resolver.parts["boards"].get(resolver.setting(layout, "board") or "")
    return {h.id: h.at_mm for h in board.headers} if board else {}


def at_mount(fan: BuildFan) -> str:
    """Its mount, and which of two it is."""
    return f"{fan.mount.upper()}{' inner' if fan.layer == 'inner' else ''}"


def label(place: FanPlaceDoc) -> str:
    """What is written on the lead before it vanishes behind the board."""
    side = " inner" if place.layer == "inner" else ""
    return f"{place.mount.upper()}{side} {'in' if place.direction == 'intake' else 'out'}"


def screws(thickness_mm: float, place: FanPlaceDoc, radiator: RadiatorPlaceDoc | None) -> str:
    if radiator is None:
        return SELF_TAPPING
    length = thickness_mm + INTO_RADIATOR_MM
    through = "through the wall and the fan" if place.layer == "outer" else "through the fan"
    return f"4 machine screws of the radiator's thread × {length:.0f} mm, {through}; longer ones pierce the fins"


def radiator_panels(resolver: Resolver, layout: LayoutDoc) -> Iterator[BuildRadiator]:
    mounts = {m.id: m for m in resolver.doc.case.mounts}
    for loop in resolver.loops(layout):
        for place in loop.radiators:
            part = resolver.parts["radiators"][place.radiator]
            here = [mounts[m] for m in place.mounts]
            fans = {layer: [f for f in layout.fans if f.mount in place.mounts and f.layer == layer] for layer in ("outer", "inner")}
            layers = [f"{here[0].face} wall"]
            if fans["outer"]:
                layers.append(_fans_as_layer(fans["outer"], "outer"))
            if place.gap_mm:
                layers.append(f"a gap of {place.gap_mm:.0f} mm")
            layers.append(f"{as_radiator(part.name or part.id)}, {part.thickness_mm:.0f} mm")
            if fans["inner"]:
                layers.append(_fans_as_layer(fans["inner"], "inner"))
            upright = stands_upright(here[0].face, [m.centre_mm.x for m in here])
            own = "4 short screws of its thread a section, through the wall; too long ones pierce a channel and it leaks"
            yield BuildRadiator(
                name=part.name or part.id,
                mounts=list(place.mounts),
                layers=layers,
                tubes=tube_side(place.tubes, upright),
                screws=HELD_BY_FANS if fans["outer"] else own,
            )


def _fans_as_layer(fans: list[FanPlaceDoc], layer: str) -> str:
    """Push where a fan stands before the radiator in the way of the air, pull where behind it."""
    pushes = (fans[0].direction == "intake") == (layer == "outer")
    names = ", ".join(f.mount.upper() for f in fans)
    return f"fans {names}, {'pushing into' if pushes else 'pulling from'} the radiator, air goes {_way(fans[0])}"


def _way(fan: FanPlaceDoc) -> str:
    return "into the case" if fan.direction == "intake" else "out of the case"
