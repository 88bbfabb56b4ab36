"""One layout of a job document, resolved into the machine the engine computes with.

Applies stated defaults and lists them; whatever is missing without a stated default is a DocumentError.
"""

import math
from dataclasses import replace
from typing import Any, Literal, cast

from desk.job.places import ALONG, on_wall, outside_faults, set_back
from documents.errors import DocumentError, Fault
from documents.job.case import BlockDoc, CaseDoc, MountDoc, PanelDoc, PointDoc
from documents.job.models import PART_KINDS, CardDoc, CoolerDoc, FanDoc, FanPlaceDoc, JobDoc, LayoutDoc, LoopDoc, PanelStateDoc
from engine import constants as k
from engine.airflow.fans import linear_share_from_points
from engine.machine import (
    FACES,
    AirCooler,
    Block,
    Card,
    Cpu,
    Face,
    Fan,
    Filter,
    Machine,
    Mount,
    Panel,
    PanelKind,
    PlacedFan,
    PlacedRadiator,
    Point,
    Room,
    SealedCooler,
    Shroud,
    SpeedCurve,
    Vent,
)

SHADE_NEAR_MM, SHADE_FAR_MM = 60.0, 90.0  # M: a block this near behind a fan shades it wholly, this far not at all
BASE_DEFAULTS = {"cooler_fan_pct": 100.0, "card_fan_pct": 100.0}
# How far a panel stands off, and by how much it is tilted, where it is said that it does but not how far; common practice, no source.
STAND_OFF_MM, TILT_DEG = 10.0, 10.0


class Resolver:
    """Resolves layouts of one document. ``defaults_used`` collects the paths of the stated defaults applied."""

    def __init__(self, doc: JobDoc) -> None:
        self.doc = doc
        self.defaults_used: list[str] = []
        self.parts = {kind: {part.id: part for part in getattr(doc.parts, kind)} for kind in PART_KINDS}
        self.curves = {c.id: c for c in doc.curves}

    def layout(self, layout_id: str) -> LayoutDoc:
        found = next((x for x in self.doc.layouts if x.id == layout_id), None)
        if found is None:
            have = ", ".join(x.id for x in self.doc.layouts) or "none yet"
            raise DocumentError([Fault("layouts", f"there is no layout {layout_id!r}", f"Choose one of: {have}.")])
        return found

    def _default(self, path: str) -> None:
        if path not in self.defaults_used:
            self.defaults_used.append(path)

    def _missing(self, path: str, what: str, do: str) -> DocumentError:
        return DocumentError([Fault(path, what, do)])

    def setting(self, layout: LayoutDoc, name: str) -> Any:
        """What a layout takes from its own settings, else from the job's base; no default is applied."""
        return getattr(layout if name in layout.model_fields_set else self.doc.base, name)

    def part(self, layout: LayoutDoc, name: str, kind: str) -> Any:
        """The part that a layout has for a setting, or None."""
        return self.parts[kind].get(self.setting(layout, name) or "")

    def cpu_cooler(self, layout: LayoutDoc) -> CoolerDoc | None:
        """What stands on the processor: the block of the loop that takes its heat, else the chosen cooler."""
        loop = next((x for x in layout.loops or [] if "cpu" in x.heat), None)
        return self.parts["coolers"].get(loop.cooler) if loop else self.part(layout, "cooler", "coolers")

    def loops(self, layout: LayoutDoc) -> list[LoopDoc]:
        """The layout's loops, the processor's first; a sealed cooler with its radiator counts as one."""
        if layout.loops:
            return sorted(layout.loops, key=lambda x: "cpu" not in x.heat)
        cooler = self.part(layout, "cooler", "coolers")
        if cooler and cooler.kind in ("sealed", "open_loop") and layout.radiator:
            return [LoopDoc(cooler=cooler.id, radiators=[layout.radiator])]
        return []

    def working_loops(self, layout: LayoutDoc) -> list[LoopDoc]:
        """Those of ``loops`` that take heat from a part that is there: one for each of the machine's, in its order."""
        card = self.setting(layout, "card") is not None
        return [x for x in self.loops(layout) if "cpu" in x.heat or (card and "card" in x.heat)]

    def _setting(self, layout: LayoutDoc, name: str) -> Any:
        value = self.setting(layout, name)
        if name in layout.model_fields_set:
            return value
        if value is None and name in BASE_DEFAULTS:
            self._default(f"base.{name}")
            return BASE_DEFAULTS[name]
        return value

    def _chosen(self, layout: LayoutDoc, name: str, kind: str) -> Any:
        chosen = self._setting(layout, name)
        if chosen is None:
            do = f'Choose one of parts.{kind} in "base" or in the layout.'
            raise self._missing(f"layouts.{layout.id}.{name}", f"no {name} is chosen", do)
        return self.parts[kind][chosen]

    def machine(self, layout_id: str, room_c: float | None = None) -> Machine:
        """The machine of one layout; ``room_c`` overrides the room's temperature."""
        layout, case = self.layout(layout_id), self.doc.case
        if faults := outside_faults(case):
            raise DocumentError(faults)
        room = self.doc.room
        self._note_defaults("room", room, ("pressure_hpa", "humidity_pct"))
        self._note_defaults("case", case, ("board_depth_mm", "slot_cover_open_cm2", "window_gap_open_cm2"))
        card_height = case.card_height_mm
        if card_height is None:
            self._default("case.card_height_mm")
            card_height = max(case.inner_mm.height - 220, 0.3 * case.inner_mm.height)
        if case.cpu_centre_mm is None:
            self._default("case.cpu_centre_mm")
        panels, open_faces = self._panels(layout)
        cpu_doc = self._chosen(layout, "cpu", "cpus")
        cpu_power = self._setting(layout, "cpu_power_w")
        supply = case.supply
        return Machine(
            layout_id=layout.id,
            room=Room(
                room.temperature_c if room_c is None else room_c,
                room.pressure_hpa,
                room.humidity_pct,
                room.background_dba,
                room.sound_limit_dba,
                room.listener_distance_m,
                room.listener_side,
            ),
            depth_mm=case.inner_mm.depth,
            height_mm=case.inner_mm.height,
            width_mm=case.inner_mm.width,
            board_depth_mm=min(case.board_depth_mm, case.inner_mm.depth),
            cpu_x_mm=case.cpu_centre_mm.x if case.cpu_centre_mm else case.inner_mm.depth - case.board_depth_mm / 2,
            cpu_z_mm=case.cpu_centre_mm.z if case.cpu_centre_mm else (card_height + case.inner_mm.height) / 2,
            card_height_mm=card_height,
            separate_card_chamber=case.card_chamber == "separate",
            shroud=Shroud(**_fields(case.shroud, Shroud)) if case.shroud else None,
            slot_cover_open_cm2=case.slot_cover_open_cm2,
            window_gap_open_cm2=self._window_gap_cm2(layout),
            supply_heat_w=0.0 if supply is None or supply.own_duct else supply.loss_w,
            vents=tuple(Vent(v.id, v.face, on_wall(case, v.face, v.centre_mm), v.area_cm2) for v in case.vents),
            blocks=tuple(Block(b.id, _point(b.from_mm), _point(b.to_mm), b.free_pct) for b in case.blocks),
            panels=panels,
            open_faces=frozenset(open_faces),
            mounts=self._mounts(layout),
            space_blocked_pct={o.space: o.blocked_pct for o in layout.obstructions if o.space},
            board_power_w=self.doc.parts.board_power_w,
            cpu=Cpu(cpu_doc.power_w if cpu_power is None else cpu_power, cpu_doc.r_jc_k_per_w, cpu_doc.tj_max_c),
            card=self._card(layout),
            cooler=self._cooler(layout),
            fans=self._fans(layout),
            card_loop=self._card_loop(layout),
            front_back=set_back(case, "front"),
            rear_back=set_back(case, "rear"),
            card_side_mm=min(case.card_side_mm or 0.0, 0.9 * case.inner_mm.width),
            strict_loops=self.doc.practice.loop_heights == "strict",
        )

    def _window_gap_cm2(self, layout: LayoutDoc) -> float:
        """Opening round the gap between a downdraft and the window panel: as measured, else the curtain at its fan's rim."""
        case, cooler = self.doc.case, self.cpu_cooler(layout)
        if "window_gap_open_cm2" in case.model_fields_set or cooler is None or cooler.height_mm is None:
            return case.window_gap_open_cm2
        fan = self.parts["fans"].get(self._setting(layout, "cooler_fan") or cooler.fan or "")
        gap_mm = max(case.inner_mm.width - (case.card_side_mm or 0.0) - k.PROCESSOR_TOP_MM - cooler.height_mm, 1.0)
        return math.pi * (fan.size_mm if fan else k.COOLER_FAN_MM) * gap_mm / 100

    def _note_defaults(self, path: str, model: Any, names: tuple[str, ...]) -> None:
        for name in names:
            if name not in model.model_fields_set:
                self._default(f"{path}.{name}")

    def _mounts(self, layout: LayoutDoc) -> dict[str, Mount]:
        blocked = {o.mount: o.blocked_pct for o in layout.obstructions if o.mount}
        mounts = {}
        for m in self.doc.case.mounts:
            size = max(m.sizes_mm)
            centre = on_wall(self.doc.case, m.face, m.centre_mm, m.on_shroud)
            of_supply = max(_free_of_supply(self.doc.case, m, size), 0.02)
            free = math.prod(_free_of_block(b, m.face, centre, size) for b in self.doc.case.blocks) * of_supply
            closed = 100 - (100 - blocked.get(m.id, 0.0)) * max(free, 0.02)
            mounts[m.id] = Mount(
                m.id,
                m.face,
                centre,
                m.opening_mm or size,
                size,
                m.grille_open_pct,
                m.obstruction_k,
                m.cover,
                m.on_shroud,
                closed,
                of_supply,
            )
        return mounts

    def fan(self, fan: FanDoc) -> Fan:
        flow, pressure, share = fan.flow_max_m3h, fan.pressure_max_pa, k.FAN_CURVE_LINEAR_SHARE
        if fan.curve:
            flow, pressure, share = linear_share_from_points(fan.curve.flow_m3h, fan.curve.pressure_pa)
        points = tuple(zip(fan.curve.flow_m3h, fan.curve.pressure_pa, strict=True)) if fan.curve else ()
        avoid = tuple(heard_bands_rpm(fan))
        return Fan(fan.id, fan.size_mm, fan.thickness_mm, fan.speed_max_rpm, flow, pressure, fan.noise_dba, share, points, avoid)

    def _curve(self, curve_id: str | None) -> SpeedCurve | None:
        if curve_id is None:
            return None
        c = self.curves[curve_id]
        return SpeedCurve(c.id, c.source, tuple(t for t, _ in c.points), tuple(s for _, s in c.points), c.hysteresis_k, c.ramp_s)

    def _fans(self, layout: LayoutDoc) -> tuple[PlacedFan, ...]:
        placed = []
        for p in layout.fans:
            part: FanDoc = self.parts["fans"][p.fan]
            speed, curve_id = self.pace(layout, p)
            most, curve = most_pct(part), self._curve(curve_id)
            if curve:
                curve = replace(curve, speeds_pct=tuple(min(s, most) for s in curve.speeds_pct))
            placed.append(PlacedFan(p.mount, self.fan(part), p.direction, p.layer, speed, p.state == "running", curve, most))
        return tuple(placed)

    def pace(self, layout: LayoutDoc, place: FanPlaceDoc) -> tuple[float, str | None]:
        """Speed in % and curve of a fan: its group's where it is in one; never more than its owner accepts."""
        group = next((g for g in layout.groups if g.id == place.group), None)
        speed, curve = (group.speed_pct, group.curve) if group else (place.speed_pct, place.curve)
        return min(speed, most_pct(self.parts["fans"][place.fan])), curve

    def _card(self, layout: LayoutDoc) -> Card | None:
        chosen = self._setting(layout, "card")
        if chosen is None:
            return None
        card = self.parts["cards"][chosen]
        power = self._setting(layout, "card_power_w")
        figures = {name: getattr(card, name) for name in Card.__dataclass_fields__ if hasattr(card, name)}
        figures |= {"power_w": card.power_w if power is None else power, "orientation": layout.card_orientation}
        figures["block_k_per_w"] = self._block(layout, card)
        return Card(**figures, fan_pct=self._setting(layout, "card_fan_pct"), curve=self._curve(self._setting(layout, "card_curve")))

    def _block(self, layout: LayoutDoc, card: CardDoc) -> float | None:
        """Core over coolant per watt of a card that stands on a loop."""
        if self._loop(layout, "card") is None:
            return None
        if card.block_k_per_w is None:
            self._default(f"parts.cards.{card.id}.block_k_per_w")
        return card.block_k_per_w or k.CARD_BLOCK_K_W

    def _cooler(self, layout: LayoutDoc) -> AirCooler | SealedCooler:
        loop = self._loop(layout, "cpu")
        cooler: CoolerDoc = self.parts["coolers"][loop.cooler] if loop else self._chosen(layout, "cooler", "coolers")
        if cooler.kind in ("sealed", "open_loop"):
            if loop is None and layout.loops:
                do = f"Let a loop with the cooler {cooler.id!r} take the heat of the cpu, or choose a tower or downdraft."
                raise self._missing(f"layouts.{layout.id}.loops", "no loop takes the processor's heat", do)
            return self._sealed(layout, cooler, loop)
        if loop:
            do = "Name a cooler of kind sealed or open_loop."
            raise self._missing(f"layouts.{layout.id}.loops", f"the cooler {cooler.id!r} has no coolant", do)
        path = f"parts.coolers.{cooler.id}"
        for name in ("flow_ref_m3h", "fin_drop_pa", "ua_ref_w_per_k", "r_base_k_per_w"):
            if getattr(cooler, name) is None:
                raise self._missing(f"{path}.{name}", "this figure is missing", "A tower or downdraft needs it; take it from its sheet.")
        fan_id = self._setting(layout, "cooler_fan") or cooler.fan
        if fan_id is None:
            raise self._missing(f"{path}.fan", "the cooler has no fan", "Name one of parts.fans.")
        direction = layout.cooler_direction or ("rear" if cooler.kind == "tower" else "toward")
        if (direction in ("toward", "away")) != (cooler.kind == "downdraft"):
            do = "Towers blow rear, up or front; downdrafts toward or away."
            raise self._missing(f"layouts.{layout.id}.cooler_direction", f"a {cooler.kind} cannot blow {direction!r}", do)
        fans = self._setting(layout, "cooler_fans") or cooler.fans
        return AirCooler(
            cast(Literal["tower", "downdraft"], cooler.kind),
            self.fan(self.parts["fans"][fan_id]),
            fans,
            cast(float, cooler.flow_ref_m3h),
            cast(float, cooler.fin_drop_pa),
            cast(float, cooler.ua_ref_w_per_k),
            cast(float, cooler.r_base_k_per_w),
            cooler.heat_capacity_j_per_k,
            direction,
            self._setting(layout, "cooler_fan_pct"),
            self._curve(self._setting(layout, "cooler_curve")),
            layout.cooler_fan_side,
            cooler.height_mm,
        )

    def _loop(self, layout: LayoutDoc, heat: str) -> LoopDoc | None:
        """The loop that takes the heat of the processor or the card; several loops are on different parts."""
        found = [loop for loop in layout.loops or [] if heat in loop.heat]
        if len(found) > 1:
            raise self._missing(f"layouts.{layout.id}.loops", f"two loops take the heat of the {heat}", "Let one of them do so.")
        return found[0] if found else None

    def _card_loop(self, layout: LayoutDoc) -> SealedCooler | None:
        """A loop that cools the card alone."""
        loop = self._loop(layout, "card")
        if loop is None or "cpu" in loop.heat or self._setting(layout, "card") is None:
            return None
        cooler = self.parts["coolers"][loop.cooler]
        if cooler.kind not in ("sealed", "open_loop"):
            do = "Name a cooler of kind sealed or open_loop."
            raise self._missing(f"layouts.{layout.id}.loops", f"the cooler {cooler.id!r} has no coolant", do)
        return self._sealed(layout, cooler, loop)

    def _sealed(self, layout: LayoutDoc, cooler: CoolerDoc, loop: LoopDoc | None) -> SealedCooler:
        if cooler.r_plate_k_per_w is None:
            raise self._missing(f"parts.coolers.{cooler.id}.r_plate_k_per_w", "this figure is missing", "Take it from the cooler's sheet.")
        docs = loop.radiators if loop else [layout.radiator] if layout.radiator else []
        if not docs:
            do = "Place one of parts.radiators on mounts of the case."
            where = f"layouts.{layout.id}.loops" if loop else f"layouts.{layout.id}.radiator"
            raise self._missing(where, "a sealed cooler needs a radiator", do)
        placed = []
        for doc in docs:
            part = self.parts["radiators"][doc.radiator]
            face_cm2 = part.sections * part.section_mm**2 / 100
            length_mm = part.length_mm or part.sections * part.section_mm + 2 * part.end_tank_mm
            placed.append(
                PlacedRadiator(
                    part.id,
                    tuple(doc.mounts),
                    face_cm2,
                    part.thickness_mm,
                    length_mm,
                    part.ua_factor,
                    doc.gap_mm,
                    doc.tubes,
                    part.end_tank_mm,
                    part.section_mm,
                )
            )
        pump_pct = loop.pump_pct if loop else 100.0
        return SealedCooler(
            cooler.r_plate_k_per_w,
            cooler.heat_capacity_j_per_k,
            cooler.coolant_ml,
            cooler.pump,
            pump_pct,
            tuple(placed),
            self._curve(loop.pump_curve if loop else None),
            cooler.fill_pct,
            cooler.tube_mm,
            cooler.tube_material,
            loop.reservoir if loop else False,
            cooler.pump_z_mm,
            cooler.reservoir_z_mm,
        )

    def _panels(self, layout: LayoutDoc) -> tuple[dict[Face, Panel], list[Face]]:
        """Panels as they stand in the layout, and the faces that are open as a whole."""
        if self.doc.case.kind == "open_bench" or layout.open_bench:
            return {}, list(FACES)
        fitted = {p.face: p for p in self.doc.case.panels}
        panels: dict[Face, Panel] = {}
        open_faces: list[Face] = []
        for face in FACES:
            state = layout.panels.get(face, PanelStateDoc())
            doc = fitted.get(face)
            removed = state.state == "removed"
            whole = removed and (doc is None or face == "window" or doc.kind in ("solid", "glass"))
            if whole:
                open_faces.append(face)
                continue
            if doc is None and (face == "window" or state.kind):
                doc = PanelDoc(face=face, kind=state.kind or "solid")
            if doc is not None:
                panels[face] = self._panel(face, doc, state, removed)
        return panels, open_faces

    def _panel(self, face: Face, doc: PanelDoc, state: PanelStateDoc, removed: bool) -> Panel:
        names = ("kind", "width_mm", "height_mm", "open_area_pct", "gap_area_cm2", "turns_90", "filter", "insertion_loss_db")
        over = {n: getattr(state, n) for n in names if n in state.model_fields_set and getattr(state, n) is not None}
        figures = {n: over.get(n, getattr(doc, n)) for n in names}
        kind: PanelKind = figures["kind"]
        width, height = self._face_size(face)
        path = f"case.panels.{face}"
        figures["width_mm"] = figures["width_mm"] or width
        figures["height_mm"] = figures["height_mm"] or height
        if kind == "mesh" and figures["open_area_pct"] is None:
            raise self._missing(
                f"{path}.open_area_pct", "the free share of the mesh is missing", "Give it in %; common meshes have 35 to 55."
            )
        if kind == "slots" and figures["gap_area_cm2"] is None:
            raise self._missing(
                f"{path}.gap_area_cm2", "the area of the slots is missing", "Measure length times width of the gaps, in cm2."
            )
        if figures["gap_area_cm2"] is None:
            figures["gap_area_cm2"] = k.CLOSED_PANEL_GAP_CM2
            if kind != "mesh":
                self._default(f"{path}.gap_area_cm2")
        if kind == "slots" and figures["turns_90"] is None:
            self._default(f"{path}.turns_90")
        figures["turns_90"] = figures["turns_90"] if figures["turns_90"] is not None else (1.0 if kind == "slots" else 0.0)
        gap_cm2, kind = _stood_off(state, figures, kind)
        open_share = 1 - state.blocked_pct / 100
        return Panel(
            face,
            kind,
            figures["width_mm"],
            figures["height_mm"],
            max((figures["open_area_pct"] or 100) * open_share, 1.0),
            max(gap_cm2 * open_share, 0.1),
            figures["turns_90"],
            cast(Filter, figures["filter"]),
            figures["insertion_loss_db"],
            removed,
        )

    def _face_size(self, face: Face) -> tuple[float, float]:
        inner = self.doc.case.inner_mm
        if face in ("front", "rear"):
            return inner.width, inner.height
        return (inner.depth, inner.height) if face == "window" else (inner.width, inner.depth)


def _stood_off(state: PanelStateDoc, figures: dict[str, Any], kind: PanelKind) -> tuple[float, PanelKind]:
    """Gap area of a panel that stands off or at an angle: its perimeter times the distance, mean for an angle."""
    gap = float(figures["gap_area_cm2"])
    width, height = figures["width_mm"], figures["height_mm"]
    if state.state == "stood_off":
        return gap + 2 * (width + height) * (state.stand_off_mm or STAND_OFF_MM) / 100, "slots"
    if state.state == "angled":
        rise = min(width * math.tan(math.radians(min(state.angle_deg or TILT_DEG, 80.0))), height)
        return gap + (2 * height * rise / 2 + width * rise) / 100, "slots"
    return gap, kind


def heard_bands_rpm(fan: FanDoc) -> list[tuple[float, float]]:
    """Speeds at which a fan hums by its owner's word, or sings or swells by a sweep."""
    band = sorted(x for x in (fan.hums_from_rpm, fan.hums_to_rpm) if x is not None)
    swept = [(min(a.from_rpm, a.to_rpm), max(a.from_rpm, a.to_rpm)) for a in fan.avoids]
    return [*([(band[0], band[1])] if len(band) == 2 else []), *swept]


def most_pct(fan: FanDoc) -> float:
    """The highest speed in % that the owner accepts, by speed and by level (50 dB per decade of speed)."""
    by_rpm = 100 * fan.limit_rpm / fan.speed_max_rpm if fan.limit_rpm else 100.0
    by_level = 100 * 10 ** ((fan.limit_dba - fan.noise_dba) / k.SPEED_LEVEL_EXPONENT_DB) if fan.limit_dba is not None else 100.0
    return min(100.0, by_rpm, by_level)


def _free_of_block(block: BlockDoc, face: str, centre: Point, size_mm: float) -> float:
    """Free share of a mount behind which a block stands: what of the fan it covers, by how near it is."""
    low, high = block.from_mm, block.to_mm
    gap_mm = {
        "front": low.x - centre.x,
        "rear": centre.x - high.x,
        "top": centre.z - high.z,
        "bottom": low.z - centre.z,
        "window": centre.y - high.y,
    }[face]
    near = min(max((SHADE_FAR_MM - gap_mm) / (SHADE_FAR_MM - SHADE_NEAR_MM), 0.0), 1.0) if gap_mm > -SHADE_NEAR_MM else 0.0
    covered = 1.0
    for axis in ALONG[face]:
        start, end = sorted((getattr(low, axis), getattr(high, axis)))
        covered *= _overlap(getattr(centre, axis), size_mm, (start + end) / 2, end - start)
    return 1 - near * covered * (1 - block.free_pct / 100)


def _free_of_supply(case: CaseDoc, mount: MountDoc, size_mm: float) -> float:
    """Free share of a floor or shroud mount over or under the supply: the part beside it, and the slit that is left to it.

    Air reaches the covered part through the slit between fan and supply: its height over a quarter of the fan's size, the
    ratio of a slit's area round a disc to the disc's own.
    """
    supply = case.supply
    if supply is None or supply.centre_mm is None or supply.size_mm is None or mount.face != "bottom":
        return 1.0
    c, s, at = supply.centre_mm, supply.size_mm, mount.centre_mm
    covered = _overlap(at.x, size_mm, c.x, s.x) * _overlap(at.y, size_mm, c.y, s.y)
    slit = case.shroud.height_mm - (c.z + s.z / 2) if mount.on_shroud and case.shroud else c.z - s.z / 2
    return 1 - covered * (1 - min(max(slit, 0.0) / (size_mm / 4), 1.0))


def _overlap(a: float, a_size: float, b: float, b_size: float) -> float:
    """Share of the stretch of ``a_size`` about a that lies within that of ``b_size`` about b."""
    return max(0.0, min(a + a_size / 2, b + b_size / 2) - max(a - a_size / 2, b - b_size / 2)) / a_size


def _point(doc: PointDoc) -> Point:
    return Point(doc.x, doc.y, doc.z)


def _fields(doc: Any, target: type) -> dict[str, Any]:
    return {name: getattr(doc, name) for name in target.__dataclass_fields__}  # type: ignore[attr-defined]
