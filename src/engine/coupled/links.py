"""From a machine to the links of its air network: geometry only, so that speeds and parameters can vary without a rebuild."""

from collections.abc import Iterator
from dataclasses import dataclass, field
from math import pi

from engine import constants as k
from engine.airflow import elements as el
from engine.airflow.elements import Element
from engine.coupled.spaces import COLUMNS, LEAST_SHARE, SIDE, Spaces
from engine.errors import ImpossibleInputError
from engine.machine import AirCooler, Card, Face, Machine, Mount, Panel, PlacedRadiator
from engine.parameters import DEFAULT, INDEX
from engine.units import M3H_PER_M3S

ROOM = "room"
CARD = "card"
GAP = "window_gap"
CM2 = 1e-4  # m2
LAYERS = ("outer", "inner")
FILTER_CODES = {"none": 0, "coarse": 1, "fine": 2}  # codes
OVER_COOLER_SIZES, OFF_COOLER_SIZES = 0.5, 0.9  # M: a side fan this many sizes from a downdraft feeds its gap wholly, not at all
NEAR_MESH = 0.5  # M: a mesh close before the blades, over a closed panel there
BLOCK_NEAR_MM, BLOCK_FAR_MM = 30.0, 90.0  # M: a block this near a border of two spaces narrows it wholly, this far not at all
LEAST_GAP_MM = 5.0  # M
LANE_WIDE_MM, ONE_SPACE = 50.0, 300.0  # M: a lane this wide is a space of its own; mixing this much larger leaves none
UNDER_CARD_MID_SHARE = 0.7  # M: of what a flat card draws in the mid column, the share from straight below it


@dataclass(frozen=True)
class Link:
    """One path of air from ``tail`` to ``head``; positive flow goes that way. ``rotors`` are slots of fans on it."""

    id: str
    kind: str  # mount | gap | panel | leak | vent | inside | shroud | card_in | card_out | cooler | face
    tail: str
    head: str
    elements: tuple[Element, ...]
    area_m2: float
    rotors: tuple[int, ...] = ()
    mount: str | None = None
    share: float = 1.0
    radiator: PlacedRadiator | None = None
    filtered: bool = False
    covered: bool = False  # closed where no fan is
    exchange_m2: float = 0.0  # opening on which two spaces mix by turbulence
    scale_upright: bool = False


@dataclass
class Builder:
    """Collects the links of one machine."""

    machine: Machine
    spaces: Spaces
    links: list[Link] = field(default_factory=list)

    def add(self, link_id: str, kind: str, tail: str, head: str, elements: tuple[Element, ...], area_m2: float, **more: object) -> None:
        self.links.append(Link(link_id, kind, tail, head, elements, area_m2, **more))  # type: ignore[arg-type]

    def opening(self, link_id: str, kind: str, tail: str, head: str, area_cm2: float, **more: object) -> None:
        """A plain sharp-edged opening; one without area is left out."""
        if area_cm2 > 0.01:
            self.add(link_id, kind, tail, head, (Element(el.ORIFICE, area_cm2 * CM2),), area_cm2 * CM2, **more)


def build_links(machine: Machine, spaces: Spaces) -> list[Link]:
    """All links of a machine, in a stable order."""
    b = Builder(machine, spaces)
    _inside(b)
    if machine.shroud:
        _shroud(b)
    _panels(b)
    for index, mount in enumerate(machine.mounts.values()):
        _mount(b, mount, index)
    _leaks(b)
    if machine.card_on_air:
        _card(b, machine.card_on_air)
    if isinstance(machine.cooler, AirCooler):
        _cooler(b, machine.cooler)
    return b.links


def fan_slots(machine: Machine) -> list[int]:
    """Slot of each placed fan: two per mount, outer and inner, in the order of the mounts. Raises where a third would go."""
    order = {mount: i for i, mount in enumerate(machine.mounts)}
    taken: set[int] = set()
    slots = []
    for fan in machine.fans:
        first = 2 * order[fan.mount]
        wanted = first + LAYERS.index(fan.layer)
        slot = wanted if wanted not in taken else 2 * first + 1 - wanted
        if slot in taken:
            raise ImpossibleInputError(f"three fans stand at {fan.mount}", f"fans.{fan.mount}", "A mount carries one fan per layer.")
        taken.add(slot)
        slots.append(slot)
    return slots


def cooler_slot(machine: Machine) -> int:
    """Slot of the cooler's own fans; the card's and the pump's follow it."""
    return 2 * len(machine.mounts)


def pump_slot(machine: Machine) -> int:
    """Slot of the pump, after the cooler's fans and the card's; that of the card's own loop follows it."""
    return cooler_slot(machine) + 2


def draws_through_fins(cooler: AirCooler) -> bool:
    """Whether the fan stands behind its fins: blowing away from the board above them, or toward it below them."""
    return cooler.kind == "downdraft" and (cooler.direction == "away") == (cooler.fan_side == "above")


def drawn_fins(cooler: AirCooler) -> float:
    """How much of the loss by drawing applies: 0 where air is blown at the fins, 1 for tall ones, more for low ones.

    Drawn air turns in from the sides and leaves the foot of the fins, the hot end, in still air: the lower they are, the more.
    """
    if not draws_through_fins(cooler):
        return 0.0
    if cooler.height_mm is None:
        return 1.0
    fins_mm = max(cooler.height_mm - cooler.fan.thickness_mm - k.FIN_FOOT_MM, 1.0)
    return min(max(k.TALL_FINS_MM / fins_mm, 1.0), k.MOST_DRAWN)


def _inside(b: Builder) -> None:
    """Openings between neighbouring spaces."""
    m, s = b.machine, b.spaces
    for row in s.z_mm:
        height = s.height_mm(row)
        lane = s.lane_mm if row != "basement" else 0.0
        for first, second, x_mm in zip(COLUMNS[:2], COLUMNS[1:], s.x_mm[1:3], strict=True):
            free = (1 - _blocked_share(m, f"{row}_{first}")) * _free_of_blocks(m, s, row, x_mm)
            parts = [(first, second, s.width_mm - lane)]
            if lane:
                parts.append((first, SIDE, lane) if first == "front" else (SIDE, second, lane))
            for one, other, width in parts:
                _between(b, f"{row}_{one}", f"{row}_{other}", width * height, free)
        if lane:
            _between(b, f"{row}_mid", f"{row}_{SIDE}", s.length_mm("mid") * height, 1.0, narrow_lane(lane))
    if m.separate_card_chamber:
        return
    for column in COLUMNS:
        for where, open_mm2 in _past_card_mm2(m, s, column).items():
            area = max(open_mm2 * 1e-6, 1e-5)
            low, up = f"low_{where}", f"up_{where}"
            b.add(f"inside:{low}|{up}", "inside", low, up, (Element(el.ORIFICE, area),), area, exchange_m2=area)


def narrow_lane(lane_mm: float) -> float:
    """How much more a narrow lane mixes with what lies beside it: so much at the least width that it is one space with it."""
    narrow = min(max((LANE_WIDE_MM - lane_mm) / (LANE_WIDE_MM - k.LANE_LEAST_MM), 0.0), 1.0)
    return float(ONE_SPACE**narrow)


def _between(b: Builder, tail: str, head: str, section_mm2: float, free: float, mixing: float = 1.0) -> None:
    area = section_mm2 * 1e-6
    elements = (Element(el.INSIDE, area, free),)
    b.add(f"inside:{tail}|{head}", "inside", tail, head, elements, area * 0.6 * free, exchange_m2=area * 0.6 * free * mixing)


def _blocked_share(machine: Machine, space: str) -> float:
    return min(machine.space_blocked_pct.get(space, 0.0) / 100, 0.98)


def _free_of_blocks(machine: Machine, spaces: Spaces, row: str, x_mm: float) -> float:
    """Free share of the cross-section at x where blocks stand across it."""
    low, high = spaces.z_mm[row]
    free = 1.0
    for block in machine.blocks:
        away_mm = max(block.from_mm.x - x_mm, x_mm - block.to_mm.x, 0.0)
        near = min(max((BLOCK_FAR_MM - away_mm) / (BLOCK_FAR_MM - BLOCK_NEAR_MM), 0.0), 1.0)
        tall = max(0.0, min(high, block.to_mm.z) - max(low, block.from_mm.z)) / (high - low)
        wide = (block.to_mm.y - block.from_mm.y) / spaces.width_mm
        free *= 1 - near * tall * min(wide, 1.0) * (1 - block.free_pct / 100)
    return max(free, 0.02)


def card_columns(machine: Machine, spaces: Spaces) -> dict[str, float]:
    """Share of the card's length in each column."""
    if not machine.card:
        return {}
    shares = spaces.columns_over(machine.depth_mm - machine.card.length_mm, machine.depth_mm)
    total = sum(shares.values())
    return {column: share / total for column, share in shares.items()}


def _past_card_mm2(machine: Machine, spaces: Spaces, column: str) -> dict[str, float]:
    """Opening between low and up in a column that the card leaves, by the space it joins."""
    length, width = spaces.length_mm(column), spaces.width_mm
    lane = spaces.lane_mm if column == "mid" else 0.0
    covered = 0.0
    if machine.card:
        covered_mm = card_columns(machine, spaces).get(column, 0.0) * min(machine.card.length_mm, machine.depth_mm)
        covered = min(covered_mm / length, 1.0)
    share = k.CARD_BLOCK_SHARE[machine.card.orientation] if machine.card else 0.0
    if not lane:
        return {column: width * length * (1 - share * covered)}
    if machine.card and machine.card.orientation == "upright":
        return {column: (width - lane) * length, SIDE: length * max(lane - share * width * covered, 0.1 * lane)}
    return {column: (width - lane) * length * (1 - covered), SIDE: lane * length}


def _shroud(b: Builder) -> None:
    shroud = b.machine.shroud
    assert shroud is not None
    for column in COLUMNS:
        share = b.spaces.length_mm(column) / b.machine.depth_mm
        b.opening(f"shroud:roof_{column}", "shroud", f"basement_{column}", f"low_{column}", shroud.top_open_cm2 * share)
        b.opening(f"vent:basement_{column}", "vent", ROOM, f"basement_{column}", shroud.vent_cm2 * share)
    b.opening("shroud:front_cut", "shroud", "basement_front", "low_front", shroud.front_cut_cm2)


def _filter(panel: Panel, area_m2: float, code: int = el.PLAIN_FILTER) -> tuple[Element, ...]:
    return (Element(code, area_m2, FILTER_CODES[panel.filter]),) if panel.filter != "none" else ()


def has_plenum(machine: Machine, face: Face) -> bool:
    """Whether a panel makes a shared space between itself and the mounts behind it."""
    panel = machine.panels.get(face)
    return panel is not None and panel.kind != "mesh" and not panel.removed and (face != "window" or panel.kind == "slots")


def _panels(b: Builder) -> None:
    m, s = b.machine, b.spaces
    opened = set(m.open_faces) | {f for f, p in m.panels.items() if p.removed and not _has_mounts(m, f)}
    for face in FACES_IN_ORDER:
        if face in opened:
            for space, area in s.whole_face(face).items():
                b.add(f"face:{face}:{space}", "face", ROOM, space, (Element(el.ORIFICE, area),), area, exchange_m2=area)
    for face, panel in m.panels.items():
        if face in opened:
            continue
        if panel.removed:
            if panel.kind != "mesh" and face != "window":  # the gaps past the fan frames stay when the sheet before them goes
                for space in s.whole_face(face):
                    b.add(f"frame:{face}:{space}", "leak", ROOM, space, (Element(el.FRAME_LEAK),), 8e-4)
            continue
        if has_plenum(m, face):
            gap = panel.gap_area_cm2 * CM2
            elements = (Element(el.ORIFICE, gap), Element(el.TURNS, gap, panel.turns_90))
            b.add(f"panel:{face}", "panel", ROOM, f"plenum_{face}", elements, gap, filtered=panel.filter != "none")
            for space in s.whole_face(face):
                b.add(f"frame:{face}:{space}", "leak", f"plenum_{face}", space, (Element(el.FRAME_LEAK),), 8e-4)
        elif panel.kind == "mesh":
            _open_mesh(b, panel)
        else:
            b.opening(f"panel:{face}", "leak", ROOM, "up_side" if s.lane_mm else "up_mid", panel.gap_area_cm2)


FACES_IN_ORDER: tuple[Face, ...] = ("front", "top", "bottom", "window", "rear")


def _has_mounts(machine: Machine, face: Face) -> bool:
    """Whether a sheet with mounts stands behind a face's panel; without one the panel itself is the wall."""
    return any(mount.face == face and not mount.on_shroud for mount in machine.mounts.values())


def _open_mesh(b: Builder, panel: Panel) -> None:
    """Mesh with no sheet behind it: a window, or a face without mounts and vents."""
    m = b.machine
    mounts = [mount for mount in m.mounts.values() if mount.face == panel.face and not mount.on_shroud]
    if panel.face != "window" and mounts:
        return  # there it acts mount by mount
    area = panel.width_mm * panel.height_mm * 1e-6
    free = panel.open_area_pct / 100
    area_left = max(area - sum(1.5 * _face_m2(mount.size_mm) for mount in mounts), 0.05 * area)
    filtered = panel.filter != "none"

    def mesh(part: float) -> tuple[Element, ...]:
        return (Element(el.PLATE, part, free), *_filter(panel, part))

    if panel.face == "window" and isinstance(m.cooler, AirCooler) and m.cooler.kind == "downdraft":
        to_gap = min(0.6 * area_left, 1.5 * _face_m2(m.cooler.fan.size_mm))
        area_left -= to_gap
        b.add("mesh:window:gap", "panel", ROOM, GAP, mesh(to_gap), to_gap, filtered=filtered)
    whole = b.spaces.whole_face(panel.face)
    total = sum(whole.values())
    for space, face_area in whole.items():
        part = area_left * face_area / total
        b.add(f"mesh:{panel.face}:{space}", "panel", ROOM, space, mesh(part), part, filtered=filtered, exchange_m2=part * free)


def _face_m2(size_mm: float) -> float:
    return pi / 4 * size_mm**2 * 1e-6


def radiator_on(machine: Machine, mount_id: str) -> PlacedRadiator | None:
    """The radiator that stands on a mount, if any."""
    return next((r for loop in machine.loops for r in loop.radiators if mount_id in r.mounts), None)


def _mount(b: Builder, mount: Mount, index: int) -> None:
    """A mount with all that may stand on it in series: panel share, grille, outer fan, radiator, inner fan."""
    m = b.machine
    radiator = radiator_on(m, mount.id)
    if mount.face == "window" and mount.face in m.open_faces and not radiator:
        return  # a side fan comes off with its panel; on other faces the frame stays
    hole = _face_m2(mount.opening_mm)
    outside = _outside_of_mount(b, mount, mount.size_mm)
    if mount.obstruction_k > 0:
        outside += (Element(el.LOSS, hole, mount.obstruction_k),)
    if mount.grille_open_pct < 100:
        outside += (Element(el.PLATE, hole, mount.grille_open_pct / 100),)
    if mount.blocked_pct > 0:
        outside += (Element(el.PLATE, hole, 1 - mount.blocked_pct / 100),)
    guard = (Element(el.GUARD, hole, _nearness(m, mount)),)
    fins: tuple[Element, ...] = ()
    if radiator:
        face = radiator.face_cm2 * CM2 / len(radiator.mounts)
        fins = (Element(el.FINS, face, radiator.thickness_mm / k.RADIATOR_REFERENCE_MM),)
    else:
        outside += (Element(el.EMPTY, _face_m2(mount.size_mm)),)
    panel = m.panels.get(mount.face)
    filtered = panel is not None and not panel.removed and panel.filter != "none"
    spaces = _inner_nodes(b, mount, mount.size_mm)
    outer_fan, inner_fan = 2 * index, 2 * index + 1
    placed = {layer for fan, layer in ((f, f.layer) for f in m.fans) if fan.mount == mount.id}
    outer_space = _outer_node(m, mount)
    if radiator and radiator.gap_mm >= 1:
        _mount_with_gap(b, mount, (outside + guard, fins), radiator, (outer_fan, inner_fan), "outer" in placed, filtered)
        return
    for space, weight in spaces.items():
        tail = outer_space if not mount.on_shroud else _below(space)
        b.add(
            f"{mount.id}:{space}",
            "mount",
            tail,
            space,
            outside + guard + fins,
            hole * weight,
            rotors=(outer_fan, inner_fan),
            mount=mount.id,
            share=weight,
            radiator=radiator,
            filtered=filtered,
            covered=mount.cover and not radiator,
        )


def _nearness(machine: Machine, mount: Mount) -> float:
    """How much of the inlet beside a fan a panel takes away: a closed one all that a near wall can, mesh some of it."""
    panel = machine.panels.get(mount.face)
    if panel is None or panel.removed or mount.on_shroud:
        return 0.0
    return 1.0 if has_plenum(machine, mount.face) else NEAR_MESH


def _below(space: str) -> str:
    """The space under the shroud below a space of the low row."""
    return f"basement_{space.split('_')[1].replace(SIDE, 'mid')}"


def _mount_with_gap(
    b: Builder,
    mount: Mount,
    parts: tuple[tuple[Element, ...], tuple[Element, ...]],
    radiator: PlacedRadiator,
    slots: tuple[int, int],
    outer_fan: bool,
    filtered: bool,
) -> None:
    """Fan and radiator a gap apart: what the fan moves may pass the radiator by through the gap."""
    node, hole = f"gap_{mount.id}", _face_m2(mount.opening_mm)
    first, second = (parts[0], parts[1]) if outer_fan else (parts[0] + parts[1], ())
    rotors = ((slots[0],), (slots[1],))
    spaces = _inner_nodes(b, mount, mount.size_mm)
    tail = _below(next(iter(spaces))) if mount.on_shroud else _outer_node(b.machine, mount)
    near = None if outer_fan else radiator
    b.add(f"{mount.id}:gap", "mount", tail, node, first, hole, rotors=rotors[0], mount=mount.id, radiator=near, filtered=filtered)
    far = radiator if outer_fan else None
    gap_m2 = pi * mount.size_mm * radiator.gap_mm * 1e-6
    for space, weight in spaces.items():
        open_end = second or (Element(el.LOSS, hole, 0.1),)
        b.add(f"{mount.id}:{space}", "gap", node, space, open_end, hole * weight, rotors=rotors[1], share=weight, radiator=far)
        b.add(f"{mount.id}:past:{space}", "gap", node, space, (Element(el.ORIFICE, gap_m2 * weight),), gap_m2 * weight)


def _outer_node(machine: Machine, mount: Mount) -> str:
    return f"plenum_{mount.face}" if has_plenum(machine, mount.face) and not mount.on_shroud else ROOM


def _inner_nodes(b: Builder, mount: Mount, size_mm: float) -> dict[str, float]:
    m, behind = b.machine, b.spaces.behind_mount(mount, size_mm)
    if mount.face != "window" or not isinstance(m.cooler, AirCooler) or m.cooler.kind != "downdraft":
        return behind
    half = size_mm / 2
    high = b.spaces.rows_over(mount.centre_mm.z - half, mount.centre_mm.z + half).get("up", 0.0)
    apart = abs(mount.centre_mm.x - m.cpu_x_mm) / size_mm
    over_cooler = high * min(max((OFF_COOLER_SIZES - apart) / (OFF_COOLER_SIZES - OVER_COOLER_SIZES), 0.0), 1.0)
    shares = {space: (1 - over_cooler) * share for space, share in behind.items()} | {GAP: over_cooler}
    return {space: share for space, share in shares.items() if share > LEAST_SHARE}


def _outside_of_mount(b: Builder, mount: Mount, size_mm: float) -> tuple[Element, ...]:
    """What the face's panel adds to this mount: mesh and filter act mount by mount."""
    panel = b.machine.panels.get(mount.face)
    if panel is None or panel.removed or mount.on_shroud:
        return ()
    face = _face_m2(size_mm)
    mesh = (Element(el.SPREAD_PLATE, face, panel.open_area_pct / 100),) if panel.kind == "mesh" else ()
    return mesh + _filter(panel, face, el.FILTER)


def _leaks(b: Builder) -> None:
    m = b.machine
    for vent in m.vents:
        for space, share in b.spaces.behind(vent.face, vent.centre_mm, vent.area_cm2**0.5 * 10).items():
            b.opening(f"vent:{vent.id}:{space}", "vent", ROOM, space, vent.area_cm2 * share)
    b.opening("leak:slot_covers", "leak", ROOM, "low_rear", m.slot_cover_open_cm2)
    for space in ("low_front", "low_rear", "up_front", "up_rear", "up_mid"):
        b.add(f"leak:seam_{space}", "leak", ROOM, space, (Element(el.SEAM),), 12e-4)


def _card(b: Builder, card: Card) -> None:
    """The card draws along its length and blows up, down and out of its bracket; upright it draws from the window's side."""
    m, s = b.machine, b.spaces
    stack = Element(el.STACK, card.fan_flow_max_m3h / 2 / M3H_PER_M3S, card.fin_drop_pa)
    upright = card.orientation == "upright"
    outlet = el.CARD_OUTLET if card.shroud == "open" else el.BLOWER_OUTLET
    length = card.length_mm / k.CARD_REFERENCE_LENGTH_MM
    upper = "low" if m.separate_card_chamber else "up"
    inlet_m2 = card.fan_flow_max_m3h / M3H_PER_M3S / 5.0
    slot = (cooler_slot(m) + 1,)
    for column, weight in card_columns(m, s).items():
        for space, part in _card_inlets(s, column, upright).items():
            share = weight * part
            name = "card:in_" + space.removeprefix("low_")
            b.add(name, "card_in", space, CARD, (stack,), inlet_m2 * share, rotors=slot, share=share, scale_upright=upright)
        lane = bool(s.lane_mm) and column == "mid"
        to_side = 0.0 if not lane or upright else k.CARD_UP_SIDE_SHARE
        for where, part in ((column, 1 - to_side), (SIDE, to_side)):
            if part > 0:
                for index, (way, row) in enumerate((("up", upper), ("low", "low"))):
                    head = ROOM if where == SIDE and "window" in m.open_faces else f"{row}_{where}"
                    _card_out(b, f"card:{way}_{where}", head, Element(outlet, length * weight * part, index))
    _card_out(b, "card:bracket", ROOM, Element(outlet, 1.0, 2))


def _card_inlets(spaces: Spaces, column: str, upright: bool) -> dict[str, float]:
    if column != "mid" or not spaces.lane_mm:
        return {f"low_{column}": 1.0}
    if upright:
        return {f"low_{SIDE}": 0.6, f"up_{SIDE}": 0.4}
    return {"low_mid": UNDER_CARD_MID_SHARE, f"low_{SIDE}": 1 - UNDER_CARD_MID_SHARE}


# Of an open card at its reference length, as fitted: up, low, bracket.
CARD_OUTLET_CM2 = tuple(float(DEFAULT[INDEX[name]]) for name in ("card_up_cm2", "card_low_cm2", "card_bracket_cm2"))


def _card_out(b: Builder, name: str, head: str, element: Element) -> None:
    cm2 = k.BLOWER_OUTLET_CM2[int(element.y)] if element.code == el.BLOWER_OUTLET else CARD_OUTLET_CM2[int(element.y)]
    b.add(name, "card_out", CARD, head, (element,), cm2 * element.x * CM2)


@dataclass(frozen=True)
class Through:
    """A share of an air cooler: the space it draws from and the one it blows to."""

    tail: str
    head: str
    share: float


def through_cooler(machine: Machine, spaces: Spaces) -> tuple[Through, ...]:
    """The paths of air through a cooler; it takes part in each space by how much of it lies there, so its place decides nothing at once."""
    cooler, x_mm = machine.cooler, machine.cpu_x_mm
    assert isinstance(cooler, AirCooler)
    half = cooler.fan.size_mm / 2

    def over(centre_mm: float) -> list[tuple[str, float]]:
        shares = spaces.columns_over(centre_mm - half, centre_mm + half)
        total = sum(shares.values())
        return [(f"up_{column}", share / total) for column, share in shares.items()]

    if cooler.kind == "downdraft":
        away = cooler.direction == "away"
        return tuple(Through(space, GAP, share) if away else Through(GAP, space, share) for space, share in over(x_mm))
    if cooler.direction == "up":
        return tuple(Through(space, space, share) for space, share in over(x_mm))
    way, beyond = (
        k.TOWER_HALF_DEPTH_MM,
        k.OUTLET_BEYOND * cooler.fan.size_mm,
    )  # it draws from all about its inlet and blows away from its outlet
    if cooler.direction == "front":
        way, beyond = -way, -beyond
    return tuple(_paired(over(x_mm - way), over(x_mm + way + beyond)))


def _paired(inlet: list[tuple[str, float]], outlet: list[tuple[str, float]]) -> Iterator[Through]:
    """Shares of inlet and outlet joined in their order along the case: what is drawn in foremost comes out foremost."""
    i = j = 0
    left_in, left_out = inlet[0][1], outlet[0][1]
    while True:
        share = min(left_in, left_out)
        if share > 1e-6:
            yield Through(inlet[i][0], outlet[j][0], share)
        left_in, left_out = left_in - share, left_out - share
        if left_in <= 1e-6:
            i += 1
            if i == len(inlet):
                return
            left_in = inlet[i][1]
        if left_out <= 1e-6:
            j += 1
            if j == len(outlet):
                return
            left_out = outlet[j][1]


def _before_panel(machine: Machine, cooler: AirCooler) -> tuple[Element, ...]:
    """What the side panel close before a downdraft costs: the head in the slit at its fan's rim, less where the panel is open.

    Air that is blown at the panel loses that head whole; air that is drawn in there, only what its turn costs.
    """
    panel = machine.panels.get("window")
    if cooler.kind != "downdraft" or cooler.height_mm is None or "window" in machine.open_faces or (panel and panel.removed):
        return ()
    gap_mm = max(machine.width_mm - machine.card_side_mm - k.PROCESSOR_TOP_MM - cooler.height_mm, LEAST_GAP_MM)
    closed = 1 - panel.open_area_pct / 100 if panel and panel.kind == "mesh" else 1.0
    slit = cooler.fan.size_mm / (4 * gap_mm)  # the fan's disc over the curtain at its rim
    return (Element(el.LOSS, _face_m2(cooler.fan.size_mm), closed * slit**2 * (1.0 if cooler.direction == "away" else k.INTO_SLIT)),)


def _cooler(b: Builder, cooler: AirCooler) -> None:
    face_m2 = _face_m2(cooler.fan.size_mm)
    stack = (Element(el.STACK, cooler.flow_ref_m3h / M3H_PER_M3S, cooler.fin_drop_pa), *_before_panel(b.machine, cooler))
    for path in through_cooler(b.machine, b.spaces):
        name = f"cooler:{path.tail}|{path.head}"
        b.add(name, "cooler", path.tail, path.head, stack, face_m2 * path.share, rotors=(cooler_slot(b.machine),), share=path.share)
        if cooler.kind == "downdraft":
            main, area_cm2 = path.head if path.tail == GAP else path.tail, b.machine.window_gap_open_cm2 * path.share
            b.opening(f"window_gap:{main}", "inside", GAP, main, area_cm2, exchange_m2=area_cm2 * CM2)


def node_names(links: list[Link]) -> Iterator[str]:
    """Every node that a link touches, once, without the room."""
    seen: dict[str, None] = {}
    for link in links:
        seen.setdefault(link.tail)
        seen.setdefault(link.head)
    return (name for name in seen if name != ROOM)
