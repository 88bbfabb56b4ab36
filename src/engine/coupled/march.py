"""Time: the same balance with heat capacities, stepped by implicit Euler with live flows and speed curves. Compiled."""

from typing import NamedTuple

import numpy as np
from numpy.typing import NDArray

from engine import constants as k
from engine.airflow.network import solve_flows
from engine.compiled import compiled
from engine.coupled.kernel import (
    coolant_k,
    curve_speed,
    driven,
    heat_balance,
    rear_rise_k,
    responses,
    sensed,
    still_resistances,
    within_limits,
)
from engine.coupled.program import Curves, Program, Variants
from engine.coupled.streams import carried_k
from engine.parameters import INDEX

Floats = NDArray[np.float64]

_WALL, _CPU = INDEX["wall_loss_w_m2k"], INDEX["cpu_path"]
COLUMNS = 6  # of a row: processor K, card K, fins or coolant K, rear air K, processor W, card W


class State(NamedTuple):
    """What a machine remembers from one moment to the next; changed in place by ``march``."""

    rise: Floats  # per node, K over the reference room
    wall: Floats  # per node, the wall behind it
    pressure_pa: Floats
    flow_m3s: Floats
    speed: Floats
    held_c: Floats  # per slot: the temperature that its curve acts on, held back by hysteresis


@compiled
def march(
    pg: Program,
    cv: Curves,
    va: Variants,
    row: int,
    par: Floats,
    capacity_j_k: Floats,
    state: State,
    step_s: float,
    load_w: Floats,
    room_k: Floats,
    out: Floats,
    speeds: Floats,
) -> None:
    """Steps variant ``row`` through ``load_w`` (steps, 2) and ``room_k`` (steps).

    Fills ``out`` (steps, COLUMNS) and ``speeds`` (steps, slots). ``room_k`` is the room over the reference room. Flows follow speeds
    and buoyancy at every step; walls are eliminated from the step's linear system exactly.
    """
    links, n, size = len(pg.tail), pg.n, pg.n + 5
    density, room_c = va.density[row], va.room_c[row]
    heat = density * k.AIR_HEAT_CAPACITY_J_KGK
    still_a, still_b = np.empty(links), np.empty(links)
    e, a, b, carried = np.empty(links), np.empty(links), np.empty(links), np.empty(links)
    g, fixed, hot = np.empty((size, size)), np.empty(size), np.empty(6)
    t, eps, power, new = np.empty(len(pg.move_kind)), np.empty(links), np.zeros(2), np.empty(size)
    above = pg.cpu_above_k_w * par[_CPU]
    still_resistances(pg, par, density, va.sign[row], still_a, still_b)
    rise, wall, speed = state.rise, state.wall, state.speed
    for m in range(len(load_w)):
        driven(pg, par, density, room_c, va, row, speed, still_a, still_b, rise, state.flow_m3s, e, a, b)
        solve_flows(n, pg.tail, pg.head, e, a, b, state.pressure_pa, state.flow_m3s)
        heat_balance(pg, par, heat, va, row, speed, state.flow_m3s, t, eps, 0.0, g)
        fixed[:] = pg.fixed_w
        for z in range(size):
            g[z, z] += capacity_j_k[z] / step_s
            fixed[z] += capacity_j_k[z] / step_s * rise[z]
        for z in range(n):
            film = 2 * par[_WALL] * pg.wall_m2[z]
            if film > 0:
                held = k.STRUCTURE_CAPACITY_J_M2K * pg.wall_m2[z] / step_s
                whole = held + 2 * film
                g[z, z] += film - film * film / whole
                fixed[z] += film * (held * wall[z] + film * room_k[m]) / whole
        fixed[n] = room_k[m]
        within_limits(pg, responses(pg, g, fixed), above, load_w[m], va.limit_k[row], power, new)
        for z in range(n):
            film = 2 * par[_WALL] * pg.wall_m2[z]
            if film > 0:
                held = k.STRUCTURE_CAPACITY_J_M2K * pg.wall_m2[z] / step_s
                wall[z] = (held * wall[z] + film * (new[z] + room_k[m])) / (held + 2 * film)
        rise[:] = new
        carried_k(pg, state.flow_m3s, eps, t, rise, carried)
        cpu_k = rise[n + 1] + power[0] * above
        sensed(pg, rise, carried, cpu_k, hot)
        for s in range(len(speed)):
            c = va.curve[row, s]
            if c < 0:
                continue
            reading = room_c + hot[cv.source[c]]
            if reading > state.held_c[s]:
                state.held_c[s] = reading
            elif reading < state.held_c[s] - cv.hysteresis_k[c]:
                state.held_c[s] = reading + cv.hysteresis_k[c]
            gap = curve_speed(cv, c, state.held_c[s]) - speed[s]
            most = step_s / max(cv.ramp_s[c], 1e-6)
            speed[s] += min(max(gap, -most), most)
        out[m, 0], out[m, 1], out[m, 2] = cpu_k, rise[n + 3], coolant_k(pg, rise)
        out[m, 3], out[m, 4], out[m, 5] = rear_rise_k(pg, rise, carried), power[0], power[1]
        speeds[m] = speed
