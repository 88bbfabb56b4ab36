"""From an operating point to the forecast a person reads: temperatures with bands, air, sound, balance, links."""

from dataclasses import dataclass, replace
from typing import Literal

from engine import constants as k
from engine.caveats import Caveat
from engine.coupled.bands import absolute_band_k, difference_band_k, sound_band_db
from engine.coupled.links import ROOM, radiator_on
from engine.coupled.openings import Opening, passive_openings
from engine.coupled.operating_point import CARD_COOLANT, COOLANT, OperatingPoint, operating_point
from engine.machine import AirCooler, Machine, PlacedFan, SealedCooler
from engine.sound.levels import at_listener_dba, sum_levels_dba, through_panels_db
from engine.units import M3H_PER_M3S

VALID_WIDTH_MM = (80, 400)  # common practice, no source
VALID_CPU_W = (20, 400)  # likewise
HUNTING_GAIN = -1.0  # a loop of gain under -1 does not come to rest (control theory)
EVEN_SHARE, EVEN_M3H = 0.04, 3.0  # common practice, no source: fans that differ by less are called even
LEAST_REST_M3H, LEAST_PRESSURE_PA = 1.0, 0.05  # less is shown as nothing


@dataclass(frozen=True)
class PartForecast:
    """A heat source at its sustained power; ``limited`` when it gives up power to stay at its limit."""

    temperature_c: float
    rise_k: float
    band_k: float
    power_w: float
    limited: bool


@dataclass(frozen=True)
class CoolantForecast:
    temperature_c: float
    rise_k: float
    band_k: float


@dataclass(frozen=True)
class SpaceForecast:
    """Air of one space, and where it lies in the case as seen through the window side."""

    id: str
    temperature_c: float
    x_from_mm: float
    x_to_mm: float
    z_from_mm: float
    z_to_mm: float


@dataclass(frozen=True)
class AirForecast:
    front_c: float
    rear_c: float
    cpu_inlet_c: float
    card_inlet_c: float | None
    board_c: float
    spaces: tuple[SpaceForecast, ...]


@dataclass(frozen=True)
class SoundForecast:
    level_dba: float
    band_db: float


@dataclass(frozen=True)
class BalanceForecast:
    """Air through case fans and in all; ``intake_count`` and ``exhaust_count`` count running case fans.

    ``state``: of the flow through fans. ``rest``: openings by which what fans move one way more than the other leaves or comes in.
    ``pressure_against``: the mean pressure inside has the other sign than that flow.
    """

    intake_m3h: float
    exhaust_m3h: float
    inflow_total_m3h: float
    outflow_total_m3h: float
    case_pressure_pa: float
    unfiltered_inflow_pct: float
    intake_count: int
    exhaust_count: int
    state: Literal["even", "positive", "negative"]
    rest: tuple[Opening, ...]
    pressure_against: bool
    shroud_count: int = 0  # running fans on the shroud's roof: they move air within the case, from the basement up or back
    shroud_m3h: float = 0.0


OFF_PCT = 0.5  # under half a per cent a fan stands: what a curve gives below its threshold


@dataclass(frozen=True)
class FanForecast:
    """A fan at work. ``turning`` says off where it is plugged in and its curve or speed leaves it still; it is in the way all the same."""

    mount: str
    layer: str
    turning: Literal["runs", "off", "unplugged"]
    speed_pct: float
    speed_rpm: float
    flow_m3h: float
    level_dba: float


@dataclass(frozen=True)
class LinkForecast:
    """A path of air for the drawing: positive flow from ``tail`` to ``head``; ``speed_m_s`` in its opening."""

    id: str
    kind: str
    tail: str
    head: str
    mount: str | None
    flow_m3h: float
    speed_m_s: float
    rise_k: float


@dataclass(frozen=True)
class Differences:
    """This layout minus ``against``, with 95 % bands in which shared errors have cancelled."""

    against: str
    cpu_k: float
    cpu_band_k: float
    card_k: float | None
    card_band_k: float | None
    rear_k: float
    rear_band_k: float
    sound_db: float
    sound_band_db: float


@dataclass(frozen=True)
class Forecast:
    id: str
    converged: bool
    cpu: PartForecast
    card: PartForecast | None
    coolant: CoolantForecast | None
    card_coolant: CoolantForecast | None  # of a loop of the card's own, beside the processor's
    air: AirForecast
    sound: SoundForecast
    balance: BalanceForecast
    fans: tuple[FanForecast, ...]
    links: tuple[LinkForecast, ...]
    caveats: tuple[Caveat, ...]


def forecast(point: OperatingPoint) -> Forecast:
    """The forecast of a solved operating point."""
    m = point.machine
    card_rise, coolant_rise = point.card_rise_k, point.rises_k.get(COOLANT)
    fans = _fans(point)
    return Forecast(
        id=m.layout_id,
        converged=point.converged,
        cpu=_part(point, "cpu", point.cpu_rise_k, point.powers.cpu_w, point.powers.cpu_limited),
        card=None if card_rise is None else _part(point, "card", card_rise, point.powers.card_w, point.powers.card_limited),
        coolant=None if coolant_rise is None else _coolant(point, coolant_rise),
        card_coolant=_coolant(point, point.rises_k[CARD_COOLANT]) if len(m.loops) > 1 else None,
        air=_air(point),
        sound=SoundForecast(_sound_dba(point, fans), sound_band_db()),
        balance=_balance(point),
        fans=fans,
        links=_links(point),
        caveats=tuple(_caveats(point)),
    )


def forecast_of(machine: Machine) -> Forecast:
    """Solves and reports in one step."""
    return forecast(operating_point(machine))


def differences(of: OperatingPoint, against: OperatingPoint) -> Differences:
    """``of`` minus ``against``: temperatures over room, so that unlike rooms do not show."""
    cpu = of.cpu_rise_k - against.cpu_rise_k
    card = of.card_rise_k - against.card_rise_k if of.card_rise_k is not None and against.card_rise_k is not None else None
    rear = of.rear_rise_k - against.rear_rise_k
    return Differences(
        against.machine.layout_id,
        cpu,
        difference_band_k(of, against, "cpu", cpu),
        card,
        None if card is None else difference_band_k(of, against, "card", card),
        rear,
        difference_band_k(of, against, "rear", rear),
        _sound_dba(of, _fans(of)) - _sound_dba(against, _fans(against)),
        sound_band_db() / 2,
    )


def at_target_level(machine: Machine, target_dba: float) -> tuple[Machine, bool]:
    """The machine with one factor, at most 1, on every case fan for a target level, and whether it is reached.

    Curves are off; cooler and card fans stay. Bisection on the level, which rises with the factor.
    """

    def scaled(factor: float) -> Machine:
        return replace(machine, fans=tuple(replace(f, speed_pct=f.speed_pct * factor, curve=None) for f in machine.fans))

    def level(factor: float) -> float:
        point = operating_point(scaled(factor))
        return _sound_dba(point, _fans(point))

    low, high = 0.0, 1.0
    if level(high) <= target_dba:
        return scaled(1.0), True
    if level(low) > target_dba:
        return scaled(0.0), False
    for _ in range(30):
        middle = (low + high) / 2
        low, high = (middle, high) if level(middle) <= target_dba else (low, middle)
    return scaled(low), True


def _part(point: OperatingPoint, figure: str, rise_k: float, power_w: float, limited: bool) -> PartForecast:
    room_c = point.machine.room.temperature_c
    return PartForecast(room_c + rise_k, rise_k, absolute_band_k(point, figure, rise_k), power_w, limited)


def _coolant(point: OperatingPoint, rise_k: float) -> CoolantForecast:
    return CoolantForecast(point.machine.room.temperature_c + rise_k, rise_k, absolute_band_k(point, "coolant", rise_k))


def _air(point: OperatingPoint) -> AirForecast:
    room_c, rises = point.machine.room.temperature_c, point.rises_k
    board = ("low_mid", "low_rear", "up_mid", "up_rear")
    card_inlet = point.card_inlet_rise_k
    return AirForecast(
        front_c=room_c + (rises["low_front"] + rises["up_front"]) / 2,
        rear_c=room_c + point.rear_rise_k,
        cpu_inlet_c=room_c + point.cpu_inlet_rise_k,
        card_inlet_c=None if card_inlet is None else room_c + card_inlet,
        board_c=room_c + sum(rises[s] for s in board) / len(board),
        spaces=tuple(SpaceForecast(s, room_c + rises[s], *point.spaces.limits_mm(s)) for s in point.spaces.ids),
    )


def mount_flow_m3h(point: OperatingPoint, mount_id: str) -> float:
    """Net flow into the case through a mount in m3/h (a mount on the shroud: up through it)."""
    flows = zip(point.links, point.flow_m3s, strict=True)
    return float(sum(q for link, q in flows if link.mount == mount_id)) * M3H_PER_M3S


def _panel_loss_db(machine: Machine, face: str) -> float:
    panel = next((p for f, p in machine.panels.items() if f == face), None)
    if panel is None or panel.removed:
        return 0.0
    return k.PANEL_LOSS_DB[panel.kind] if panel.insertion_loss_db is None else panel.insertion_loss_db


def _fans(point: OperatingPoint) -> tuple[FanForecast, ...]:
    m, found = point.machine, []
    for placed, speed_pct in zip(m.fans, point.speeds.fans, strict=True):
        flow = mount_flow_m3h(point, placed.mount)
        share = speed_pct / 100 if placed.running else 0.0
        level = fan_level_dba(m, placed, share)
        found.append(
            FanForecast(
                mount=placed.mount,
                layer=placed.layer,
                turning="unplugged" if not placed.running else "off" if speed_pct < OFF_PCT else "runs",
                speed_pct=100 * share,
                speed_rpm=placed.fan.speed_max_rpm * share,
                flow_m3h=flow if placed.direction == "intake" else -flow,
                level_dba=max(level, -99.0),
            )
        )
    return tuple(found)


def source_levels(point: OperatingPoint) -> list[tuple[str, float]]:
    """Every source of sound in words and its level in dBA at the listener, loudest first; the background is not among them."""
    found = [(f"fan at {f.mount.upper()}", f.level_dba) for f in _fans(point)]
    found += inner_levels(point.machine, point.speeds.cooler, point.speeds.card, point.speeds.pump)
    return sorted(found, key=lambda e: -e[1])


def inner_levels(m: Machine, cooler_pct: float, card_pct: float, pump_pct: float) -> list[tuple[str, float]]:
    side, distance = m.room.listener_side, m.room.listener_distance_m
    held_db = -_inside_gain_db(m)
    found: list[tuple[str, float]] = []
    if isinstance(m.cooler, AirCooler):
        own = at_listener_dba(m.cooler.fan.noise_dba, cooler_pct / 100, "inside", side, held_db, distance)
        found += [("the cooler's fan", own)] * m.cooler.fans
    if isinstance(m.cooler, SealedCooler):
        found.append(("the pump", at_listener_dba(k.PUMP_LEVEL_DBA, pump_pct / 100, "inside", side, held_db, distance)))
    if m.card_loop:
        share = m.card_loop.pump_pct / 100
        found.append(("the pump of the card's loop", at_listener_dba(k.PUMP_LEVEL_DBA, share, "inside", side, held_db, distance)))
    if m.card_on_air:
        found.append(("the card", at_listener_dba(m.card_on_air.noise_dba, card_pct / 100, "inside", side, held_db, distance)))
    return found


def _inside_gain_db(m: Machine) -> float:
    """What panels that are off, or more open or more closed than usual, add to everything that sounds inside."""
    area = {"front": m.width_mm * m.height_mm, "top": m.width_mm * m.depth_mm, "window": m.depth_mm * m.height_mm}
    area |= {"rear": area["front"], "bottom": area["top"]}
    faces = {}
    for face, mm2 in area.items():
        panel = next((p for f, p in m.panels.items() if f == face), None)
        closed = k.PANEL_LOSS_DB["solid"] if panel is None else _panel_loss_db(m, face)
        faces[face] = (mm2, 0.0 if face in m.open_faces else closed)
    return through_panels_db(faces, m.room.listener_side)


def fan_level_dba(m: Machine, placed: PlacedFan, share: float) -> float:
    face = m.mounts[placed.mount].face
    loss = _panel_loss_db(m, face) - _obstruction_db(m, placed)
    return at_listener_dba(placed.fan.noise_dba, share, face, m.room.listener_side, loss, m.room.listener_distance_m)


def level_dba(m: Machine) -> float:
    """Level at the listener of a machine whose fans all have fixed speeds; exact without solving anything."""
    fans = [fan_level_dba(m, f, f.speed_pct / 100) for f in m.fans if f.running]
    inner = inner_levels(m, getattr(m.cooler, "fan_pct", 0.0), m.card.fan_pct if m.card else 0.0, getattr(m.cooler, "pump_pct", 0.0))
    return sum_levels_dba([m.room.background_dba, *fans, *(level for _, level in inner)])


def _sound_dba(point: OperatingPoint, fans: tuple[FanForecast, ...]) -> float:
    m = point.machine
    inner = inner_levels(m, point.speeds.cooler, point.speeds.card, point.speeds.pump)
    return sum_levels_dba([m.room.background_dba, *(f.level_dba for f in fans), *(level for _, level in inner)])


def _obstruction_db(m: Machine, placed: PlacedFan) -> float:
    """What a fan gains in level by working close to a grille, a radiator or a closed panel."""
    mount = m.mounts[placed.mount]
    panel = m.panels.get(mount.face)
    gain = 0.0
    if mount.grille_open_pct < 100 or mount.blocked_pct > 0:
        gain += k.OBSTRUCTION_DB["grille"]
    if panel is not None and not panel.removed and not mount.on_shroud and panel.kind != "mesh":
        gain += k.OBSTRUCTION_DB["closed panel"]
    if radiator_on(m, mount.id):
        gain += k.OBSTRUCTION_DB["radiator"]
    return gain


def _balance(point: OperatingPoint) -> BalanceForecast:
    inflow = outflow = unfiltered = intake = exhaust = 0.0
    m = point.machine
    running = {p.mount for p in m.fans if p.running}
    plenum_filtered = {link.head for link in point.links if link.tail == ROOM and link.filtered}
    for link, q_m3s in zip(point.links, point.flow_m3s, strict=True):
        q = float(q_m3s) * M3H_PER_M3S
        if ROOM in (link.tail, link.head):
            inward = q if link.tail == ROOM else -q
            inflow += max(inward, 0.0)
            outflow += max(-inward, 0.0)
            if inward > 0 and not link.filtered and link.head not in plenum_filtered:
                unfiltered += inward
        if link.mount in running and not m.mounts[link.mount].on_shroud:
            intake += max(q, 0.0)
            exhaust += max(-q, 0.0)
    main = [i for i, s in enumerate(point.spaces.ids) if not s.startswith("basement")]
    pressure = sum(float(point.pressure_pa[i]) for i in main) / len(main)
    surplus = intake - exhaust
    even = abs(surplus) < max(EVEN_SHARE * (intake + exhaust), EVEN_M3H)
    rest = () if even else tuple(o for o in passive_openings(point) if o.out_m3h * surplus > 0 and abs(o.out_m3h) >= LEAST_REST_M3H)
    turning = [p for p, pct in zip(m.fans, point.speeds.fans, strict=True) if p.running and pct > 0]
    ways = {(p.mount, p.direction) for p in turning if not m.mounts[p.mount].on_shroud}
    on_shroud = {p.mount for p in turning if m.mounts[p.mount].on_shroud}
    return BalanceForecast(
        intake,
        exhaust,
        inflow,
        outflow,
        pressure,
        100 * unfiltered / inflow if inflow > 0 else 0.0,
        sum(1 for _, way in ways if way == "intake"),
        sum(1 for _, way in ways if way == "exhaust"),
        "even" if even else "positive" if surplus > 0 else "negative",
        rest,
        not even and abs(pressure) >= LEAST_PRESSURE_PA and pressure * surplus < 0,
        len(on_shroud),
        sum(abs(float(q)) * M3H_PER_M3S for link, q in zip(point.links, point.flow_m3s, strict=True) if link.mount in on_shroud),
    )


def _links(point: OperatingPoint) -> tuple[LinkForecast, ...]:
    found = []
    for link, q_m3s, rise in zip(point.links, point.flow_m3s.tolist(), point.carried_k.tolist(), strict=True):
        speed = abs(q_m3s) / link.area_m2
        found.append(LinkForecast(link.id, link.kind, link.tail, link.head, link.mount, q_m3s * M3H_PER_M3S, speed, rise))
    return tuple(found)


def _caveats(point: OperatingPoint) -> list[Caveat]:
    m, found = point.machine, []
    if not point.converged:
        found.append(Caveat("not_converged", "Speeds or temperatures still moved when the solver gave up; a speed curve may hunt."))
    curving = point.curving
    if curving.loop_gain < HUNTING_GAIN:
        found.append(
            Caveat(
                "curve_hunts",
                f"Round the loop of curve and heat, 1 % of speed comes back as {-curving.loop_gain:.1f} % the other way: such fans "
                "hunt, faster and slower by turns. Make the curve flatter there.",
            )
        )
    if curving.other_cpu_rise_k is not None:
        other = m.room.temperature_c + curving.other_cpu_rise_k
        found.append(
            Caveat(
                "two_equilibria",
                f"With these curves the machine can come to rest at two temperatures; coming from full speed the processor ends at "
                f"{other:.0f} °C instead.",
            )
        )
    if point.powers.cpu_limited:
        lost = m.cpu.power_w - point.powers.cpu_w
        found.append(Caveat("cpu_limited", f"The processor is held at its limit and gives up {lost:.0f} W; compare by power."))
    if m.card and point.powers.card_limited:
        lost = m.card.power_w - point.powers.card_w
        found.append(Caveat("card_limited", f"The card is held at its limit and gives up {lost:.0f} W; compare by power."))
    if m.cpu.power_w > VALID_CPU_W[1]:
        found.append(Caveat("power_outside_range", f"Processors over {VALID_CPU_W[1]} W lie outside the range the model was checked in."))
    if not VALID_WIDTH_MM[0] <= m.width_mm <= VALID_WIDTH_MM[1]:
        found.append(Caveat("case_outside_range", "The case's width lies outside the range the model was checked in."))
    if m.card_on_air and m.card_on_air.power_w > 0 and point.speeds.card <= 0:
        found.append(Caveat("card_fans_stopped", "The card's fans stand still; its figure rests on free convection alone."))
    low = [p.mount for p in m.fans if p.running and _share_of_free_flow(point, p.mount) < 0.35]
    if low:
        found.append(
            Caveat("stall_region", f"Fans at {', '.join(dict.fromkeys(low))} run far left on their curve, where sheets are unsure.")
        )
    return found


def _share_of_free_flow(point: OperatingPoint, mount: str) -> float:
    free = [p.fan.flow_max_m3h * s / 100 for p, s in zip(point.machine.fans, point.speeds.fans, strict=True) if p.mount == mount]
    return abs(mount_flow_m3h(point, mount)) / max(*free, 1e-6) if free else 1.0
