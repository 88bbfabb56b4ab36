"""Streams of solved flows, compiled: what moves where unmixed, what the card's fins meet, and the balance of heat they make.

Arrays as in ``program.Program``; see ``kernel`` for the special nodes.
"""

import numpy as np
from numpy.typing import NDArray

from engine.compiled import compiled
from engine.coupled.directed import JET, PLUME_CHIMNEY, PLUME_COOLER, PLUME_SWEEP, PLUME_TOP, PUSH_BACK, RECIRCULATION
from engine.coupled.program import CARD_IN, CARD_OUT, COOLER, Program
from engine.parameters import INDEX

Floats = NDArray[np.float64]

STILL_M3S = 5e-4  # flows below this are still air
FULLEST_SHARE = 0.95  # of a link's flow that may be directed air
_WEIGHT, _LIMIT = INDEX["cross_flow_weight"], INDEX["plume_limit"]


@compiled
def exchange_flows(pg: Program, par: Floats, q: Floats, x: Floats) -> None:
    """Flow in m3/s that each exchange moves both ways."""
    for j in range(len(pg.exchange_a)):
        x[j] = par[pg.exchange_par[j]] * pg.exchange_factor[j]
        if pg.exchange_link[j] >= 0:
            x[j] *= max(q[pg.exchange_link[j]], 0.0)


@compiled
def cross_flow_ratio(pg: Program, par: Floats, q: Floats) -> float:
    """Who wins above the card: 0 the jet from the front, 1 the air rising past it."""
    across, past, top, bottom = 0.0, 0.0, 0.0, 0.0
    for i in pg.across:
        across += max(q[i], 0.0)
    for i in pg.edge:
        past += max(q[i], 0.0)
    for i in pg.top:
        top += max(-q[i], 0.0)
    for i in pg.bottom:
        bottom += max(q[i], 0.0)
    rising = par[_WEIGHT] * ((top + bottom) / 2 + past) ** 2 + STILL_M3S**2  # warm air rises where nothing crosses it
    return float(rising / (rising + across**2))


@compiled
def moved(pg: Program, par: Floats, q: Floats, x: Floats, t: Floats) -> float:
    """Flow in m3/s of every move, kept within what its links carry; returns the cross-flow ratio."""
    links = len(q)
    plume, top_in, sweeping = 0.0, 0.0, 0.0
    for i in range(links):
        if pg.rises_up[i]:
            plume += max(q[i], 0.0)
    for i in pg.sweeping:
        sweeping += abs(q[i])
    for j in range(len(x)):
        if pg.exchange_a[j] == pg.n:
            sweeping += x[j]
    ratio = cross_flow_ratio(pg, par, q)
    for i in pg.top:
        top_in += max(q[i], 0.0)
    through = 0.0
    for i in range(links):
        if pg.role[i] == COOLER:
            through += max(q[i], 0.0)
    given, taken, chained = np.zeros(links), np.zeros(links), np.zeros(links)
    for m in range(len(t)):
        s, c, ch, kind = pg.move_source[m], pg.move_to[m], pg.move_chain[m], pg.move_kind[m]
        t[m] = 0.0
        p = par[pg.move_par[m]] * pg.move_factor[m]
        source = q[s] * pg.move_source_sign[m]
        to = q[c] * pg.move_to_sign[m] if pg.move_to_sign[m] != 0.0 else abs(q[c])
        if source <= 1e-9 or (to <= 1e-9 and kind != PLUME_SWEEP) or (ch >= 0 and q[ch] <= 1e-9 and kind != RECIRCULATION):
            continue
        if kind == JET:
            t[m] = p * min(source * pg.move_part[m], to)
        elif kind == RECIRCULATION:
            fed = max(q[ch], 0.0) * to / through if ch >= 0 else 0.0
            t[m] = p * max(min(source, to) - fed - given[s], 0.0) * through / (through + sweeping)
        elif kind == PLUME_COOLER:
            t[m] = min(p * ratio, par[_LIMIT]) * to * source / plume
        elif kind == PLUME_CHIMNEY:
            t[m] = par[_LIMIT] * to * source / plume
        elif kind == PLUME_TOP:
            t[m] = p * to * source / plume
        elif kind == PUSH_BACK:
            t[m] = p * to * top_in / (top_in + plume) * source / plume
        elif kind == PLUME_SWEEP:
            t[m] = p * (1 - ratio) * source
        given[s] += t[m]
        if kind != PLUME_SWEEP:
            taken[c] += t[m]
        if ch >= 0 and kind == JET:
            chained[ch] += t[m]
    for m in range(len(t)):
        if t[m] > 0.0:
            s, c, ch = pg.move_source[m], pg.move_to[m], pg.move_chain[m]
            scale = min(1.0, FULLEST_SHARE * abs(q[s]) / given[s])
            if taken[c] > 0.0:
                scale = min(scale, FULLEST_SHARE * abs(q[c]) / taken[c])
            if ch >= 0 and chained[ch] > 0.0:
                scale = min(scale, FULLEST_SHARE * q[ch] / chained[ch])
            t[m] *= scale
    return ratio


@compiled
def core_shares(pg: Program, q: Floats, w: Floats, still: Floats) -> float:
    """Share of each link in what passes the card's fins, and in the still air that they feel before its inlets, together 1.

    Returns the flow past the fins in m3/s. Blown backwards, they meet what comes in by the outlets and leaves by the inlets.
    """
    total, shares, out_by_inlet, in_by_outlet = 0.0, 0.0, 0.0, 0.0
    for i in range(len(q)):
        w[i], still[i] = 0.0, 0.0
        if pg.role[i] == CARD_IN:
            total += max(q[i], 0.0)
            out_by_inlet += max(-q[i], 0.0)
            shares += pg.share[i]
        elif pg.role[i] == CARD_OUT:
            in_by_outlet += max(-q[i], 0.0)
    back = min(out_by_inlet, in_by_outlet)
    whole = total + back + STILL_M3S
    for i in range(len(q)):
        if pg.role[i] == CARD_IN:
            w[i], still[i] = max(q[i], 0.0) / whole, STILL_M3S * pg.share[i] / shares / whole
        elif pg.role[i] == CARD_OUT and back > 0.0:
            w[i] = back * max(-q[i], 0.0) / in_by_outlet / whole
    return total + back


@compiled
def card_inlet_k(pg: Program, q: Floats, carried: Floats, rise: Floats) -> float:
    """Rise of the air that the card's fins meet."""
    w, still = np.empty(len(q)), np.empty(len(q))
    core_shares(pg, q, w, still)
    found = 0.0
    for i in range(len(q)):
        found += w[i] * carried[i] + still[i] * rise[pg.tail[i]]
    return found


@compiled
def _deliver(pg: Program, g: Floats, i: int, to: int, node: int, c: float, eps: float, core_w_k: float, q_heat: float) -> None:
    """Air of ``node`` carried along link i with capacity ``c`` W/K; past an exchanger, and to the card's core if it feeds it."""
    g[to, node] -= c * (1 - eps)
    if eps > 0:
        g[pg.sink[i], node] -= c * eps
    if core_w_k > 0 and q_heat > 0:
        part = core_w_k * c / q_heat
        g[pg.n + 3, node] -= part
        g[pg.card, node] += part


@compiled
def assemble(
    pg: Program,
    q: Floats,
    heat: float,
    eps: Floats,
    t: Floats,
    x: Floats,
    core: Floats,
    still: Floats,
    core_w_k: float,
    breath_w_k: Floats,
    wall_w_m2k: float,
    g: Floats,
) -> None:
    """The balance ``g T = P`` in W/K (or m3/s for a tracer: heat 1, core 0), rises over the room.

    Conservative by construction: what a move gives one link it takes from where the source would have left it.
    """
    n, outlet = pg.n, pg.n + 2
    g[:, :] = 0.0
    for i in range(len(q)):
        fins = pg.sink[i]
        u, d = (pg.tail[i], pg.head[i]) if q[i] >= 0 else (pg.head[i], pg.tail[i])
        c = heat * abs(q[i])
        to = outlet if pg.role[i] == COOLER else d
        g[u, u] += c
        if c > 0:
            _deliver(pg, g, i, to, u, c, eps[i], core_w_k * core[i], c)
        if core_w_k > 0 and still[i] > 0:
            g[n + 3, pg.tail[i]] -= core_w_k * still[i]
            g[pg.card, pg.tail[i]] += core_w_k * still[i]
        if pg.role[i] == COOLER:
            g[outlet, outlet] += c
            g[d, outlet] -= c
        if eps[i] > 0:
            g[fins, fins] += c * eps[i]
            g[to, fins] -= c * eps[i]
        if breath_w_k[i] > 0:
            for side in (pg.tail[i], pg.head[i]):
                g[fins, fins] += breath_w_k[i]
                g[side, side] += breath_w_k[i]
                g[fins, side] -= breath_w_k[i]
                g[side, fins] -= breath_w_k[i]
    for m in range(len(t)):
        if t[m] <= 0.0:
            continue
        s, i, ch, c = pg.move_source[m], pg.move_to[m], pg.move_chain[m], heat * t[m]
        us, ds = (pg.tail[s], pg.head[s]) if q[s] >= 0 else (pg.head[s], pg.tail[s])
        if pg.move_kind[m] != JET:
            ch = -1
        u, d = (pg.tail[i], pg.head[i]) if q[i] >= 0 or pg.move_kind[m] == PLUME_SWEEP else (pg.head[i], pg.tail[i])
        feeds = core_w_k * core[i]
        whole = heat * abs(q[i])
        to, passed = (outlet if pg.role[i] == COOLER else d), eps[i]
        if pg.move_kind[m] == PLUME_SWEEP:
            passed, feeds = 0.0, 0.0
        met = u if ch < 0 else pg.tail[ch]  # whose air the source's space gets in exchange
        for part in range(2):
            node, share = us, 1 - eps[s]
            if pg.role[s] == COOLER:
                node, share = outlet, (1.0 if part == 0 else 0.0)
            elif part == 1:
                node, share = pg.sink[s], eps[s]
            if share > 0:
                _deliver(pg, g, i, to, node, c * share, passed, feeds, whole)
                g[ds, node] += c * share
        _deliver(pg, g, i, to, u, -c, passed, feeds, whole)
        g[ds, met] -= c
        if ch >= 0:
            g[pg.head[ch], met] += c
            g[pg.head[ch], u] -= c
    for j in range(len(x)):
        one, other, c = pg.exchange_a[j], pg.exchange_b[j], heat * x[j]
        g[one, one] += c
        g[one, other] -= c
        g[other, other] += c
        g[other, one] -= c
    for z in range(n):
        g[z, z] += wall_w_m2k * pg.wall_m2[z] + 1e-9
    if core_w_k > 0:
        g[n + 3, n + 3] += core_w_k
        g[pg.card, n + 3] -= core_w_k
        if pg.card_sink >= 0:
            g[n + 3, pg.card_sink] -= core_w_k
            g[pg.card_sink, pg.card_sink] += core_w_k
    for special in range(n, n + 5):
        if special == n or g[special, special] < 1e-9:
            g[special, :] = 0.0
            g[special, special] = 1.0


@compiled
def carried_k(pg: Program, q: Floats, eps: Floats, t: Floats, rise: Floats, out: Floats) -> None:
    """Rise of the air that each link draws in, directed air included."""
    for i in range(len(q)):
        out[i] = rise[pg.tail[i]] if q[i] >= 0 else rise[pg.head[i]]
    for m in range(len(t)):
        if t[m] > 0 and pg.move_kind[m] != PLUME_SWEEP:
            s, i = pg.move_source[m], pg.move_to[m]
            own = rise[pg.tail[s]] if q[s] >= 0 else rise[pg.head[s]]
            comes = rise[pg.n + 2] if pg.role[s] == COOLER else own + eps[s] * (rise[pg.sink[s]] - own)
            u = pg.tail[i] if q[i] >= 0 else pg.head[i]
            out[i] += t[m] / abs(q[i]) * (comes - rise[u])
