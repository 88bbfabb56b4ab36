"""From a machine and its fan speeds to the links of the air network."""

from collections.abc import Iterator
from dataclasses import dataclass, field
from math import pi

from engine import constants as k
from engine.airflow import elements as el
from engine.airflow.fans import effective_speed_share, fan_element
from engine.coupled.spaces import COLUMNS, Spaces
from engine.machine import AirCooler, Card, Face, Machine, Mount, Panel, PlacedFan, PlacedRadiator, SealedCooler
from engine.units import M3H_PER_M3S

ROOM = "room"
CARD = "card"
GAP = "window_gap"
CM2 = 1e-4
OPEN_FACE_LOSS_K = 0.0
TOWER_HALF_DEPTH_MM = 70.0


@dataclass(frozen=True)
class Link:
    """One path of air from ``tail`` to ``head``; positive flow goes that way."""

    id: str
    kind: str  # fan | empty | panel | leak | vent | inside | shroud | card_in | card_out | cooler | face
    tail: str
    head: str
    source_pa: float
    resistance: el.Resistance
    area_m2: float
    mount: str | None = None
    share: float = 1.0
    radiator: PlacedRadiator | None = None
    opposed: bool = False
    breathing_m3s: float = 0.0
    filtered: bool = False
    exchange_m2: float = 0.0  # opening on which two spaces mix by turbulence


@dataclass(frozen=True)
class Speeds:
    """Speeds in % of everything that turns; ``fans`` follows the order of ``machine.fans``."""

    fans: tuple[float, ...]
    cooler: float
    card: float


@dataclass
class Builder:
    """Collects the links of one machine. Built anew for every set of speeds: cheap beside the solve."""

    machine: Machine
    speeds: Speeds
    density: float
    spaces: Spaces
    links: list[Link] = field(default_factory=list)

    def add(self, link_id: str, kind: str, tail: str, head: str, resistance: el.Resistance, area_m2: float, **more: object) -> None:
        source_pa = more.pop("source_pa", 0.0)
        self.links.append(Link(link_id, kind, tail, head, source_pa, el.regularised(resistance), area_m2, **more))  # type: ignore[arg-type]

    def opening(self, link_id: str, kind: str, tail: str, head: str, area_cm2: float, **more: object) -> None:
        """A plain sharp-edged opening; one without area is left out."""
        if area_cm2 > 0.01:
            self.add(link_id, kind, tail, head, el.orifice(area_cm2 * CM2, self.density), area_cm2 * CM2, **more)


def build_links(machine: Machine, speeds: Speeds, density: float, spaces: Spaces) -> list[Link]:
    """All links of a machine, in a stable order. ``density`` in kg/m3."""
    b = Builder(machine, speeds, density, spaces)
    _inside(b)
    if machine.shroud:
        _shroud(b)
    _panels(b)
    for mount in machine.mounts.values():
        _mount(b, mount)
    _leaks(b)
    if machine.card:
        _card(b, machine.card)
    if isinstance(machine.cooler, AirCooler):
        _cooler(b, machine.cooler)
    return b.links


def _inside(b: Builder) -> None:
    """Openings between neighbouring spaces."""
    m, s = b.machine, b.spaces
    for row in s.z_mm:
        for first, second, x_mm in zip(COLUMNS[:2], COLUMNS[1:], s.x_mm[1:3], strict=True):
            free = k.INTERIOR_FREE_SHARE * (1 - _blocked_share(m, f"{row}_{first}")) * _free_of_blocks(m, s, row, x_mm)
            area = max(s.width_mm * s.height_mm(row) * 1e-6 * free, 1e-4)
            resistance = el.orifice(area, b.density)
            b.add(f"inside:{row}_{first}|{row}_{second}", "inside", f"{row}_{first}", f"{row}_{second}", resistance, area, exchange_m2=area)
    if m.separate_card_chamber:
        return
    for column in COLUMNS:
        area = s.width_mm * s.length_mm(column) * 1e-6 * (1 - _card_cover(m, s, column))
        ids = (f"low_{column}", f"up_{column}")
        b.add(f"inside:{ids[0]}|{ids[1]}", "inside", *ids, el.orifice(area, b.density), area, exchange_m2=area)


def _blocked_share(machine: Machine, space: str) -> float:
    return min(machine.space_blocked_pct.get(space, 0.0) / 100, 0.98)


def _free_of_blocks(machine: Machine, spaces: Spaces, row: str, x_mm: float) -> float:
    """Free share of the cross-section at x where blocks stand across it."""
    low, high = spaces.z_mm[row]
    free = 1.0
    for block in machine.blocks:
        if block.from_mm.x <= x_mm + 60 and block.to_mm.x >= x_mm - 60:
            tall = max(0.0, min(high, block.to_mm.z) - max(low, block.from_mm.z)) / (high - low)
            wide = (block.to_mm.y - block.from_mm.y) / spaces.width_mm
            free *= 1 - tall * min(wide, 1.0) * (1 - block.free_pct / 100)
    return max(free, 0.02)


def card_columns(machine: Machine, spaces: Spaces) -> dict[str, float]:
    """Share of the card's length in each column."""
    if not machine.card:
        return {}
    shares = spaces.columns_over(machine.depth_mm - machine.card.length_mm, machine.depth_mm)
    total = sum(shares.values())
    return {column: share / total for column, share in shares.items()}


def _card_cover(machine: Machine, spaces: Spaces, column: str) -> float:
    """Share of the opening between low and up that the card closes in a column."""
    if not machine.card:
        return 0.0
    covered_mm = card_columns(machine, spaces).get(column, 0.0) * min(machine.card.length_mm, machine.depth_mm)
    return k.CARD_BLOCK_SHARE[machine.card.orientation] * min(covered_mm / spaces.length_mm(column), 1.0)


def _shroud(b: Builder) -> None:
    shroud = b.machine.shroud
    assert shroud is not None
    for column in COLUMNS:
        share = b.spaces.length_mm(column) / b.machine.depth_mm
        b.opening(f"shroud:roof_{column}", "shroud", f"basement_{column}", f"low_{column}", shroud.top_open_cm2 * share)
        b.opening(f"vent:basement_{column}", "vent", ROOM, f"basement_{column}", shroud.vent_cm2 * share)
    b.opening("shroud:front_cut", "shroud", "basement_front", "low_front", shroud.front_cut_cm2)


def _filter(panel: Panel, area_m2: float) -> el.Resistance:
    return el.porous(area_m2, *k.FILTER_PA[panel.filter])


def has_plenum(machine: Machine, face: Face) -> bool:
    """Whether a panel makes a shared space between itself and the mounts behind it."""
    panel = machine.panels.get(face)
    return panel is not None and panel.kind != "mesh" and not panel.removed and (face != "window" or panel.kind == "slots")


def _panels(b: Builder) -> None:
    m, s = b.machine, b.spaces
    for face in m.open_faces:
        for space, area in s.whole_face(face).items():
            b.add(f"face:{face}:{space}", "face", ROOM, space, el.orifice(area, b.density), area, exchange_m2=area)
    for face, panel in m.panels.items():
        if panel.removed or face in m.open_faces:
            continue
        if has_plenum(m, face):
            gap = panel.gap_area_cm2 * CM2
            resistance = el.orifice(gap, b.density, panel.turns_90 * k.TURN_LOSS_K)
            b.add(f"panel:{face}", "panel", ROOM, f"plenum_{face}", resistance, gap, filtered=panel.filter != "none")
            for space in s.whole_face(face):
                b.opening(f"frame:{face}:{space}", "leak", f"plenum_{face}", space, k.PANEL_FRAME_LEAK_CM2)
        elif panel.kind == "mesh":
            _open_mesh(b, panel)
        else:
            b.opening(f"panel:{face}", "leak", ROOM, "up_mid", panel.gap_area_cm2)


def _open_mesh(b: Builder, panel: Panel) -> None:
    """Mesh with no sheet behind it: a window, or a face without mounts and vents."""
    m = b.machine
    mounts = [mount for mount in m.mounts.values() if mount.face == panel.face and not mount.on_shroud]
    if panel.face != "window" and mounts:
        return
    area = panel.width_mm * panel.height_mm * 1e-6
    free = panel.open_area_pct / 100
    area_left = max(area - sum(k.MESH_SPREAD * _face_m2(mount.size_mm) for mount in mounts), 0.05 * area)
    if panel.face == "window" and isinstance(m.cooler, AirCooler) and m.cooler.kind == "downdraft":
        to_gap = min(0.6 * area_left, k.MESH_SPREAD * _face_m2(m.cooler.fan.size_mm))
        area_left -= to_gap
        resistance = el.plate(to_gap, free, b.density) + _filter(panel, to_gap)
        b.add("mesh:window:gap", "panel", ROOM, GAP, resistance, to_gap, filtered=panel.filter != "none")
    whole = b.spaces.whole_face(panel.face)
    total = sum(whole.values())
    for space, face_area in whole.items():
        part = area_left * face_area / total
        resistance = el.plate(part, free, b.density) + _filter(panel, part)
        filtered = panel.filter != "none"
        b.add(f"mesh:{panel.face}:{space}", "panel", ROOM, space, resistance, part, filtered=filtered, exchange_m2=part * free)


def _face_m2(size_mm: float) -> float:
    return pi / 4 * size_mm**2 * 1e-6


def _layers(machine: Machine, mount: Mount) -> list[tuple[int, PlacedFan]]:
    return [(i, fan) for i, fan in enumerate(machine.fans) if fan.mount == mount.id]


def radiator_on(machine: Machine, mount_id: str) -> PlacedRadiator | None:
    """The radiator that stands on a mount, if any."""
    if not isinstance(machine.cooler, SealedCooler):
        return None
    return next((r for r in machine.cooler.radiators if mount_id in r.mounts), None)


def _mount(b: Builder, mount: Mount) -> None:
    """A mount with all that stands on it in series: panel share, grille, outer fan, radiator, inner fan."""
    m = b.machine
    fans, radiator = _layers(m, mount), radiator_on(m, mount.id)
    if mount.face in m.open_faces or (not fans and not radiator and mount.cover):
        return
    size_mm = max([mount.size_mm, *(fan.fan.size_mm for _, fan in fans)])
    hole = _face_m2(mount.opening_mm)
    resistance = _outside_of_mount(b, mount, size_mm) + el.velocity_head_loss(mount.obstruction_k, hole, b.density)
    if mount.grille_open_pct < 100:
        resistance += el.plate(hole, mount.grille_open_pct / 100, b.density)
    if mount.blocked_pct > 0:
        resistance += el.plate(hole, 1 - mount.blocked_pct / 100, b.density)
    source, directions, free_flow = 0.0, set(), 0.0
    for index, placed in fans:
        share = effective_speed_share(b.speeds.fans[index], placed.running)
        pressure, own = fan_element(share, placed.fan.flow_max_m3h, placed.fan.pressure_max_pa, placed.fan.linear_share)
        source += pressure if placed.direction == "intake" else -pressure
        resistance += own
        if share > 0:
            directions.add(placed.direction)
            free_flow = max(free_flow, share * placed.fan.flow_max_m3h / M3H_PER_M3S)
    if fans:
        resistance += el.velocity_head_loss(k.FAN_GUARD_LOSS_K, hole, b.density)
    elif not radiator:
        resistance += el.orifice(k.EMPTY_MOUNT_OPEN_SHARE * _face_m2(mount.size_mm), b.density)
    if radiator:
        face = radiator.face_cm2 * CM2 / len(radiator.mounts)
        resistance += el.porous(face, *k.RADIATOR_PA, scale=radiator.thickness_mm / k.RADIATOR_REFERENCE_MM)
    opposed = len(directions) == 2
    panel = m.panels.get(mount.face)
    filtered = panel is not None and not panel.removed and panel.filter != "none"
    tail, kind = _outer_node(m, mount), "fan" if fans else "empty"
    for space, weight in _inner_nodes(b, mount, size_mm).items():
        outer = tail if not mount.on_shroud else space.replace("low_", "basement_")
        b.links.append(
            Link(
                f"{mount.id}:{space}",
                kind,
                outer,
                space,
                source,
                el.regularised(resistance).shared(weight),
                hole * weight,
                mount.id,
                weight,
                radiator,
                opposed,
                k.BREATHING_SHARE * free_flow * weight if opposed else 0.0,
                filtered,
            )
        )


def _outer_node(machine: Machine, mount: Mount) -> str:
    return f"plenum_{mount.face}" if has_plenum(machine, mount.face) and not mount.on_shroud else ROOM


def _inner_nodes(b: Builder, mount: Mount, size_mm: float) -> dict[str, float]:
    m = b.machine
    over_cooler = abs(mount.centre_mm.x - m.cpu_x_mm) < 0.7 * size_mm and mount.centre_mm.z > b.spaces.z_mm["up"][0]
    if mount.face == "window" and isinstance(m.cooler, AirCooler) and m.cooler.kind == "downdraft" and over_cooler:
        return {GAP: 1.0}
    return b.spaces.behind_mount(mount, size_mm)


def _outside_of_mount(b: Builder, mount: Mount, size_mm: float) -> el.Resistance:
    """What the face's panel adds to this mount: mesh and filter act mount by mount."""
    panel = b.machine.panels.get(mount.face)
    if panel is None or panel.removed or mount.on_shroud:
        return el.Resistance()
    area = k.MESH_SPREAD * _face_m2(size_mm)
    mesh = el.plate(area, panel.open_area_pct / 100, b.density) if panel.kind == "mesh" else el.Resistance()
    return mesh + _filter(panel, area)


def _leaks(b: Builder) -> None:
    m = b.machine
    for vent in m.vents:
        for space, share in b.spaces.behind(vent.face, vent.centre_mm, vent.area_cm2**0.5 * 10).items():
            b.opening(f"vent:{vent.id}:{space}", "vent", ROOM, space, vent.area_cm2 * share)
    b.opening("leak:slot_covers", "leak", ROOM, "low_rear", m.slot_cover_open_cm2)
    for space in ("low_front", "low_rear", "up_front", "up_rear", "up_mid"):
        b.opening(f"leak:seam_{space}", "leak", ROOM, space, k.SEAM_LEAK_CM2)


def _card(b: Builder, card: Card) -> None:
    """The card draws from below along its length and blows up, down and out of its bracket."""
    m = b.machine
    share = effective_speed_share(b.speeds.card, True) / k.INSTALLED_FAN_FACTOR
    source, fan = fan_element(share, card.fan_flow_max_m3h, card.fan_pressure_max_pa, k.FAN_CURVE_LINEAR_SHARE)
    resistance = fan + el.fin_stack(card.fan_flow_max_m3h / 2 / M3H_PER_M3S, card.fin_drop_pa)
    if card.orientation == "upright":
        factor = k.UPRIGHT_CARD_RESISTANCE
        resistance = el.Resistance(resistance.a * factor, resistance.b * factor)
    up_cm2, low_cm2, bracket_cm2 = k.CARD_OUTLET_CM2[card.shroud]
    length = card.length_mm / k.CARD_REFERENCE_LENGTH_MM
    upper = "low" if m.separate_card_chamber else "up"
    inlet_m2 = card.fan_flow_max_m3h / M3H_PER_M3S / 5.0
    for column, weight in card_columns(m, b.spaces).items():
        part = el.regularised(resistance).shared(weight)
        b.links.append(Link(f"card:in_{column}", "card_in", f"low_{column}", CARD, source, part, inlet_m2 * weight, share=weight))
        b.opening(f"card:up_{column}", "card_out", CARD, f"{upper}_{column}", up_cm2 * length * weight)
        b.opening(f"card:low_{column}", "card_out", CARD, f"low_{column}", low_cm2 * length * weight)
    b.opening("card:bracket", "card_out", CARD, ROOM, bracket_cm2)


def cooler_nodes(machine: Machine, spaces: Spaces) -> tuple[str, str]:
    """Where an air cooler draws from and where it blows to."""
    cooler, x_mm = machine.cooler, machine.cpu_x_mm
    assert isinstance(cooler, AirCooler)
    here = f"up_{spaces.column_at(x_mm)}"
    if cooler.kind == "downdraft":
        return (here, GAP) if cooler.direction == "away" else (GAP, here)
    if cooler.direction == "up":
        return here, here
    ahead, behind = spaces.column_at(x_mm - TOWER_HALF_DEPTH_MM), spaces.column_at(x_mm + TOWER_HALF_DEPTH_MM)
    if ahead == behind:
        ahead = COLUMNS[max(COLUMNS.index(behind) - 1, 0)]
    return (f"up_{behind}", f"up_{ahead}") if cooler.direction == "front" else (f"up_{ahead}", f"up_{behind}")


def _cooler(b: Builder, cooler: AirCooler) -> None:
    share = effective_speed_share(b.speeds.cooler, True)
    fan = cooler.fan
    source, rotor = fan_element(share, fan.flow_max_m3h, fan.pressure_max_pa, fan.linear_share)
    fins = el.fin_stack(cooler.flow_ref_m3h / M3H_PER_M3S, cooler.fin_drop_pa)
    resistance = el.Resistance(rotor.a * cooler.fans, rotor.b * cooler.fans) + fins
    tail, head = cooler_nodes(b.machine, b.spaces)
    area = _face_m2(fan.size_mm)
    b.add("cooler", "cooler", tail, head, resistance, area, source_pa=source * cooler.fans)
    if cooler.kind == "downdraft":
        main = head if tail == GAP else tail
        b.opening("window_gap", "inside", GAP, main, b.machine.window_gap_open_cm2, exchange_m2=b.machine.window_gap_open_cm2 * CM2)


def node_names(links: list[Link]) -> Iterator[str]:
    """Every node that a link touches, once, without the room."""
    seen: dict[str, None] = {}
    for link in links:
        seen.setdefault(link.tail)
        seen.setdefault(link.head)
    return (name for name in seen if name != ROOM)
