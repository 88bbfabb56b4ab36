"""The compiled heart: air flow, heat, limits and speed curves of many layouts to their common equilibrium.

One row of ``Variants`` at a time; a parameter vector per row. Everything here is arrays; names are in ``program.Plan``.
Nodes: 0 to n-1 air, n the room, n+1 fins or coolant, n+2 the cooler's outlet, n+3 the card's core,
n+4 the coolant of a loop of the card's own.
"""

import numpy as np
from numpy.typing import NDArray

from engine import constants as k
from engine.airflow.elements import element_ab
from engine.airflow.fans import rotor, table_rotor
from engine.airflow.network import solve_flows
from engine.compiled import compiled
from engine.coupled.program import COOLER, RADIATOR, Curves, Program, Variants
from engine.coupled.streams import STILL_M3S, assemble, carried_k, core_shares, exchange_flows, moved
from engine.heat.exchangers import card_resistance_k_w, effectiveness, finned_ua_w_k, radiator_ua_w_k
from engine.parameters import INDEX
from engine.units import KELVIN_OFFSET, M3H_PER_M3S

Floats = NDArray[np.float64]
Ints = NDArray[np.int64]

MOST_ROUNDS = 300  # numerical
RISE_TOLERANCE_K = 0.01  # numerical
SPEED_TOLERANCE = 0.0005  # share of full speed
CLOSED_B = 1e14  # numerical: no air to speak of
TURNING_M3S = 2e-3  # below this a link holds air of both its ends
STANDARD_HEAT = k.STANDARD_DENSITY_KG_M3 * k.AIR_HEAT_CAPACITY_J_KGK  # J/m3K, for which sheets and conductances hold

_INSTALLED, _UPRIGHT, _BREATH = INDEX["installed_fan"], INDEX["upright_resistance"], INDEX["breathing_share"]
_JET_ETA, _WALL = INDEX["jet_eta"], INDEX["wall_loss_w_m2k"]
_DRAWN = INDEX["drawn_fins_ua"]
_UA, _FIXED, _CPU, _CARD, _COOLER = (INDEX[n] for n in ("radiator_ua_w_k", "card_fixed_share", "cpu_path", "card_path", "cooler_ua"))


@compiled
def still_resistances(pg: Program, par: Floats, density: float, sign: Floats, a: Floats, b: Floats) -> None:
    """A and B of every link without its rotors; a covered mount without a fan is closed."""
    for i in range(len(pg.tail)):
        fan_here = False
        for r in range(pg.rotor_start[i], pg.rotor_start[i + 1]):
            fan_here = fan_here or sign[pg.rotor_slot[r]] != 0.0
        one_a, one_b = 0.0, 0.0
        for e in range(pg.element_start[i], pg.element_start[i + 1]):
            more_a, more_b = element_ab(pg.element_code[e], pg.element_x[e], pg.element_y[e], density, par, fan_here)
            one_a += more_a
            one_b += more_b
        if pg.upright[i]:
            one_a *= par[_UPRIGHT]
            one_b *= par[_UPRIGHT]
        if pg.covered[i] and not fan_here:
            one_b = CLOSED_B
        a[i], b[i] = one_a / pg.share[i], one_b / pg.share[i] ** 2


@compiled
def driven(
    pg: Program,
    par: Floats,
    density: float,
    room_c: float,
    va: Variants,
    row: int,
    speed: Floats,
    still_a: Floats,
    still_b: Floats,
    rise: Floats,
    q: Floats,
    e: Floats,
    a: Floats,
    b: Floats,
) -> None:
    """Pressure sources and resistances of the links at given speeds, rises and (for jets and measured curves) flows.

    ``q`` is mass over the room's density, so that mass is what balances; air ``warm`` times as large as in the room is that
    much thinner: ``dp = A warm q + B warm q|q|``, and a rotor's pressure falls with it (source: fan_laws).
    """
    kelvin = room_c + KELVIN_OFFSET
    per_mm = k.GRAVITY_M_S2 * density / kelvin * 1e-3
    thick = density / k.STANDARD_DENSITY_KG_M3
    for i in range(len(pg.tail)):
        e[i] = per_mm * (rise[pg.tail[i]] * pg.buoyancy_tail_mm[i] - rise[pg.head[i]] * pg.buoyancy_head_mm[i])
        onward = 0.5 + 0.5 * q[i] / np.sqrt(q[i] ** 2 + TURNING_M3S**2)
        warm = 1.0 + (onward * rise[pg.tail[i]] + (1 - onward) * rise[pg.head[i]]) / kelvin
        one_a, one_b, share = still_a[i] * warm, still_b[i] * warm, pg.share[i]
        for r in range(pg.rotor_start[i], pg.rotor_start[i + 1]):
            s = pg.rotor_slot[r]
            sign = va.sign[row, s]
            if sign == 0.0:
                continue
            worth = speed[s] * (par[_INSTALLED] if s <= pg.cooler_slot else 1.0)
            if va.by_table[row, s]:
                e0, a0, b0 = table_rotor(va.table[row, s], worth, va.flow_m3s[row, s], sign * q[i] * warm / share)
            else:
                e0, a0, b0 = rotor(worth, va.flow_m3s[row, s], va.pressure_pa[row, s], va.linear[row, s])
            e[i] += sign * e0 * thick / warm
            one_a += a0 * thick / share
            one_b += b0 * thick * warm / share**2
        a[i] = one_a + np.sqrt(one_b * k.LAMINAR_PRESSURE_PA)
        b[i] = one_b
    for j in range(len(pg.jet_source)):
        i, t = pg.jet_source[j], pg.jet_target[j]
        if q[i] > 0:
            e[t] += par[_JET_ETA] * pg.jet_factor[j] * density * q[i] ** 2 / (pg.area_m2[i] * pg.area_m2[t])


@compiled
def pump_worth(pg: Program, speed: Floats, sink: int) -> float:
    """What the coolant's side leaves of a radiator's conductance at the speed of the pump of its loop."""
    slot = pg.cooler_slot + (3 if sink == pg.n + 4 else 2)
    return float(k.PUMP_STILL_SHARE + (1 - k.PUMP_STILL_SHARE) * speed[slot])


@compiled
def effectivenesses(pg: Program, par: Floats, heat: float, speed: Floats, q: Floats, eps: Floats) -> None:
    """Effectiveness of the exchanger on each link, 0 where there is none; ``heat`` is density times heat capacity.

    A film follows what flows by mass (its Reynolds number), so thin air cools less than its volume says.
    """
    thick = heat / STANDARD_HEAT
    for i in range(len(q)):
        eps[i] = 0.0
        flow = abs(q[i])
        if pg.role[i] == RADIATOR:
            ua = radiator_ua_w_k(par[_UA], pg.radiator_face_cm2[i], pg.radiator_thickness_mm[i], thick * flow * M3H_PER_M3S)
            worth = pump_worth(pg, speed, pg.sink[i]) * pg.radiator_factor[i] * par[_COOLER]
            eps[i] = effectiveness(ua * worth, heat * flow)
        elif pg.role[i] == COOLER:
            ua = pg.share[i] * finned_ua_w_k(pg.ua_ref_w_k, thick * flow / pg.share[i] * M3H_PER_M3S, pg.flow_ref_m3h)
            worth = par[_COOLER] * par[_DRAWN] ** pg.drawn_fins
            eps[i] = effectiveness(ua * worth, heat * flow)


@compiled
def breathing(pg: Program, par: Floats, heat: float, va: Variants, row: int, speed: Floats, q: Floats, out: Floats) -> None:
    """Conductance in W/K from fins to the air on either side that no through flow carries.

    Between opposed layers a breathing flow; anywhere the little that still air takes, so that no fins stand in nothing.
    """
    for i in range(len(out)):
        out[i] = 0.0
        if pg.role[i] == RADIATOR or pg.role[i] == COOLER:
            out[i] = k.STILL_FINS_W_K * pg.share[i] / (1 + (q[i] / STILL_M3S) ** 2)
        if pg.role[i] != RADIATOR or pg.rotor_start[i + 1] - pg.rotor_start[i] < 2:
            continue
        s1, s2 = pg.rotor_slot[pg.rotor_start[i]], pg.rotor_slot[pg.rotor_start[i] + 1]
        if va.sign[row, s1] * va.sign[row, s2] >= 0:
            continue
        free = min(speed[s1] * va.flow_m3s[row, s1], speed[s2] * va.flow_m3s[row, s2]) * pg.share[i]
        flow = par[_BREATH] * free
        ua = radiator_ua_w_k(par[_UA], pg.radiator_face_cm2[i], pg.radiator_thickness_mm[i], heat / STANDARD_HEAT * flow * M3H_PER_M3S)
        ua *= pump_worth(pg, speed, pg.sink[i]) * pg.radiator_factor[i] * par[_COOLER]
        out[i] += effectiveness(ua, heat * flow) * heat * flow * k.FRESH_BREATH_SHARE / 2


@compiled
def eliminate(m: Floats, x: Floats) -> None:
    """Solves ``m x = x`` in place, by Gauss with row exchange; ``m`` (n, n) is spent, ``x`` (n, columns) becomes the solution."""
    n, columns = len(m), x.shape[1]
    for j in range(n):
        best = j
        for i in range(j + 1, n):
            if abs(m[i, j]) > abs(m[best, j]):
                best = i
        if best != j:
            for c in range(j, n):
                m[j, c], m[best, c] = m[best, c], m[j, c]
            for c in range(columns):
                x[j, c], x[best, c] = x[best, c], x[j, c]
        for i in range(j + 1, n):
            share = m[i, j] / m[j, j]
            if share == 0.0:
                continue
            for c in range(j + 1, n):
                m[i, c] -= share * m[j, c]
            for c in range(columns):
                x[i, c] -= share * x[j, c]
    for i in range(n - 1, -1, -1):
        for c in range(columns):
            s = x[i, c]
            for t in range(i + 1, n):
                s -= m[i, t] * x[t, c]
            x[i, c] = s / m[i, i]


@compiled
def responses(pg: Program, g: Floats, fixed_w: Floats) -> Floats:
    """Rises (nodes, 3) by the fixed heat, per watt of the processor, per watt of the card; ``g`` is spent."""
    rhs = np.zeros((pg.n + 5, 3))
    rhs[:, 0] = fixed_w
    rhs[pg.n + 1, 1] = 1.0
    if pg.card >= 0:
        rhs[pg.n + 3, 2] = 1.0
    eliminate(g, rhs)
    return rhs


@compiled
def within_limits(pg: Program, response: Floats, cpu_above: float, full: Floats, limit: Floats, power: Floats, rise: Floats) -> None:
    """Powers that keep both parts at or under their limits, and the rises with them.

    Rises are linear in both powers, so each set of held parts is one small linear system; the first that fits is taken.
    """
    x, core = pg.n + 1, pg.n + 3
    b0, c0, d0 = response[x, 0], response[x, 1] + cpu_above, response[x, 2]
    b1, c1, d1 = response[core, 0], response[core, 1], response[core, 2]
    cpu, card = full[0], full[1]
    cpu_over = b0 + c0 * cpu + d0 * card > limit[0] + 1e-9
    card_over = pg.card >= 0 and b1 + c1 * cpu + d1 * card > limit[1] + 1e-9
    if cpu_over or card_over:
        held_cpu = min(max((limit[0] - b0 - d0 * card) / c0, 0.0), cpu)
        if pg.card < 0 or (cpu_over and b1 + c1 * held_cpu + d1 * card <= limit[1] + 1e-9):
            cpu = held_cpu
        else:
            held_card = min(max((limit[1] - b1 - c1 * cpu) / d1, 0.0), card)
            if card_over and b0 + c0 * cpu + d0 * held_card <= limit[0] + 1e-9:
                card = held_card
            else:
                det = c0 * d1 - d0 * c1
                one, two = limit[0] - b0, limit[1] - b1
                cpu = min(max((one * d1 - two * d0) / det, 0.0), full[0])
                card = min(max((two - c1 * cpu) / d1, 0.0), full[1])
                cpu = min(max((one - d0 * card) / c0, 0.0), full[0])
    power[0], power[1] = cpu, card
    for z in range(pg.n + 5):
        rise[z] = response[z, 0] + response[z, 1] * cpu + response[z, 2] * card


@compiled
def curve_speed(cv: Curves, curve: int, temperature_c: float) -> float:
    """Speed share that a curve asks for."""
    first, last = cv.start[curve], cv.start[curve + 1] - 1
    if temperature_c <= cv.temperature_c[first]:
        return float(cv.speed[first])
    for p in range(first, last):
        t0, t1 = cv.temperature_c[p], cv.temperature_c[p + 1]
        if temperature_c <= t1:
            share = (temperature_c - t0) / (t1 - t0) if t1 > t0 else 1.0
            return float(cv.speed[p] + share * (cv.speed[p + 1] - cv.speed[p]))
    return float(cv.speed[last])


@compiled
def coolant_k(pg: Program, rise: Floats) -> float:
    """Rise of the coolant: the processor's loop, or the card's where that is the only one; else of the fins."""
    return float(rise[pg.n + 4] if pg.air_cooler and pg.card_sink == pg.n + 4 else rise[pg.n + 1])


@compiled
def rear_rise_k(pg: Program, rise: Floats, carried: Floats) -> float:
    """Mean of the air above the card just ahead of the cooler and behind it."""
    front, shares = 0.0, 0.0
    for i in pg.cooler_ahead:
        front += pg.share[i] * carried[i]
        shares += pg.share[i]
    front = front / shares if shares > 0 else rise[pg.ahead]
    return float((front + rise[pg.behind]) / 2)


@compiled
def sensed(pg: Program, rise: Floats, carried: Floats, cpu_k: float, out: Floats) -> None:
    """Rises that curves can follow, in the order of ``program.SOURCES``."""
    card = rise[pg.n + 3] if pg.card >= 0 else cpu_k
    board = 0.0
    for z in pg.board:
        board += rise[z] / len(pg.board)
    out[0], out[1], out[2] = cpu_k, card, max(cpu_k, card)
    out[3] = coolant_k(pg, rise) if not pg.air_cooler or pg.card_sink >= 0 else cpu_k
    out[4], out[5] = board, rear_rise_k(pg, rise, carried)


@compiled
def heat_balance(
    pg: Program, par: Floats, heat: float, va: Variants, row: int, speed: Floats, q: Floats, t: Floats, eps: Floats, wall: float, g: Floats
) -> tuple[float, float]:
    """Fills moves ``t``, effectivenesses ``eps`` and the balance ``g`` for solved flows; ``wall`` in W/m2K.

    Returns the cross-flow ratio and the conductance in W/K from the card's core to the air it draws in.
    """
    links = len(q)
    x, core, still, breath = np.empty(len(pg.exchange_a)), np.empty(links), np.empty(links), np.empty(links)
    exchange_flows(pg, par, q, x)
    ratio = moved(pg, par, q, x, t)
    effectivenesses(pg, par, heat, speed, q, eps)
    into = core_shares(pg, q, core, still)
    core_w_k = 0.0
    if pg.card_sink >= 0:
        core_w_k = pg.card_block_w_k / par[_CARD]
    elif pg.card >= 0:
        flow = heat / STANDARD_HEAT * into * M3H_PER_M3S
        core_w_k = 1 / (par[_CARD] * card_resistance_k_w(pg.card_r_k_w, flow, pg.card_reference_m3h, par[_FIXED]))
    breathing(pg, par, heat, va, row, speed, q, breath)
    assemble(pg, q, heat, eps, t, x, core, still, core_w_k, breath, wall, g)
    return ratio, core_w_k


@compiled
def settle(
    pg: Program,
    cv: Curves,
    va: Variants,
    row: int,
    par: Floats,
    speed: Floats,
    p: Floats,
    q: Floats,
    rise: Floats,
    power: Floats,
    t: Floats,
    eps: Floats,
) -> tuple[int, float, float, float]:
    """One layout to its equilibrium; ``speed``, ``p``, ``q`` and ``rise`` are start and result.

    Returns rounds taken (negative if it did not come to rest), mass residual in m3/s, cross-flow ratio, core W/K.
    """
    links, size = len(pg.tail), pg.n + 5
    density, room_c = va.density[row], va.room_c[row]
    heat = density * k.AIR_HEAT_CAPACITY_J_KGK
    still_a, still_b = np.empty(links), np.empty(links)
    e, a, b, carried = np.empty(links), np.empty(links), np.empty(links), np.empty(links)
    g, new, hot = np.empty((size, size)), np.empty(size), np.empty(6)
    slots = len(speed)
    step, last = np.full(slots, 0.6), np.zeros(slots)
    still_resistances(pg, par, density, va.sign[row], still_a, still_b)
    above = pg.cpu_above_k_w * par[_CPU]
    residual, ratio, core_w_k = 0.0, 0.0, 0.0
    for turn in range(MOST_ROUNDS):
        driven(pg, par, density, room_c, va, row, speed, still_a, still_b, rise, q, e, a, b)
        residual = solve_flows(pg.n, pg.tail, pg.head, e, a, b, p, q)
        ratio, core_w_k = heat_balance(pg, par, heat, va, row, speed, q, t, eps, par[_WALL], g)
        within_limits(pg, responses(pg, g, pg.fixed_w), above, va.power_w[row], va.limit_k[row], power, new)
        change = 0.0
        blend = 1.0 if turn < 8 else (0.6 if turn < 30 else (0.3 if turn < 80 else (0.15 if turn < 160 else 0.06)))
        for z in range(size):
            change = max(change, abs(new[z] - rise[z]))
            rise[z] += blend * (new[z] - rise[z])
        carried_k(pg, q, eps, t, rise, carried)
        sensed(pg, rise, carried, rise[pg.n + 1] + power[0] * above, hot)
        moved_speed = 0.0
        for s in range(slots):
            c = va.curve[row, s]
            if c < 0:
                continue
            gap = curve_speed(cv, c, room_c + hot[cv.source[c]]) - speed[s]
            moved_speed = max(moved_speed, abs(gap))
            if gap * last[s] < 0:
                step[s] = max(0.5 * step[s], 0.01)
            elif turn > 0:
                step[s] = min(1.2 * step[s], 0.9)
            last[s] = gap
            speed[s] += step[s] * gap
        if change < RISE_TOLERANCE_K and moved_speed < SPEED_TOLERANCE:
            return turn + 1, residual, ratio, core_w_k
    return -MOST_ROUNDS, residual, ratio, core_w_k


@compiled
def settle_rows(
    pg: Program,
    cv: Curves,
    va: Variants,
    pars: Floats,
    first: int,
    end: int,
    speed: Floats,
    p: Floats,
    q: Floats,
    rise: Floats,
    power: Floats,
    t: Floats,
    eps: Floats,
    told: Floats,
    figures_k: Floats,
) -> None:
    """Rows first to end-1; ``pars`` has one row for all or one per layout.

    ``told`` takes what ``settle`` returns, ``figures_k`` the rises of processor, card, fins or coolant, and rear air.
    """
    carried = np.empty(len(pg.tail))
    for r in range(first, end):
        par = pars[r] if len(pars) > 1 else pars[0]
        row = r if len(va.room_c) > 1 else 0
        told[r, 0], told[r, 1], told[r, 2], told[r, 3] = settle(pg, cv, va, row, par, speed[r], p[r], q[r], rise[r], power[r], t[r], eps[r])
        carried_k(pg, q[r], eps[r], t[r], rise[r], carried)
        figures_k[r, 0] = rise[r, pg.n + 1] + power[r, 0] * pg.cpu_above_k_w * par[_CPU]
        figures_k[r, 1], figures_k[r, 2] = rise[r, pg.n + 3], coolant_k(pg, rise[r])
        figures_k[r, 3] = rear_rise_k(pg, rise[r], carried)
