"""Many layouts at once, against a plain loop of scipy.optimize.root over the same equations in the same run."""

import resource
import sys
import time
from dataclasses import replace

import numpy as np
from numpy.typing import NDArray
from scipy.optimize import root

from engine import constants as k
from engine.coupled import kernel
from engine.coupled.batch import settle_variants
from engine.coupled.program import SPECIAL, Curves, Plan, Variants, variants
from engine.machine import Machine, SpeedCurve
from engine.parameters import DEFAULT, INDEX

Floats = NDArray[np.float64]
MANY, SOME, PLAIN = 4096, 1024, 24
CURVE = SpeedCurve("bench", "hotter", (40.0, 60.0, 85.0), (30.0, 60.0, 100.0))


def random_layouts(machine: Machine, count: int, curve: SpeedCurve | None = None) -> list[Machine]:
    """Layouts of one case: each mount empty or with a fan in or out at 40 to 100 %."""
    rng = np.random.default_rng(7)
    made = []
    for _ in range(count):
        fans = [
            replace(
                machine.fans[0],
                mount=mount,
                layer="outer",
                direction="intake" if rng.random() < 0.5 else "exhaust",
                speed_pct=float(rng.uniform(40, 100)),
                curve=curve,
            )
            for mount in machine.mounts
            if rng.random() < 0.75
        ]
        made.append(replace(machine, fans=tuple(fans)))
    return made


def figures(machine: Machine) -> dict[str, float]:
    plan = Plan.of(machine)
    va, curves = variants(plan, random_layouts(machine, MANY))
    curved, own = variants(plan, random_layouts(machine, SOME, CURVE))
    settle_variants(plan, *variants(plan, random_layouts(machine, 128)))
    whole = min(_seconds(plan, va, curves) for _ in range(3))
    part = min(_seconds(plan, _first(va, SOME), curves) for _ in range(3))
    with_curves = min(_seconds(plan, curved, own) for _ in range(3))
    started = time.perf_counter()
    worst = max(_plain(plan, va, row) for row in range(PLAIN))
    plain = (time.perf_counter() - started) / PLAIN
    return {
        "batch_layouts_per_s": MANY / whole,
        "batch_with_curves_layouts_per_s": SOME / with_curves,
        "batch_over_plain_ratio": plain * MANY / whole,
        "plain_scipy_root_differs_by_k": worst,
        "cost_of_4096_over_1024": whole / part,
        "peak_memory_mb": resource.getrusage(resource.RUSAGE_SELF).ru_maxrss / (1024 if sys.platform != "darwin" else 1024**2),
    }


def _first(va: Variants, rows: int) -> Variants:
    return va._replace(**{name: getattr(va, name)[:rows] for name in va._fields})


def _seconds(plan: Plan, va: Variants, curves: Curves) -> float:
    started = time.perf_counter()
    settle_variants(plan, va, curves)
    return time.perf_counter() - started


def _plain(plan: Plan, va: Variants, row: int) -> float:
    """One layout as one would write it at first: root for the pressures, numpy for the heat, round until nothing changes.

    Returns how far the processor's fins end from the kernels' answer, in K. The heat matrix is assembled by the kernels,
    which flatters the plain way.
    """
    pg, par = plan.program, DEFAULT.copy()
    links, n = len(pg.tail), pg.n
    still, made = (np.empty(links), np.empty(links)), [np.empty(links) for _ in range(3)]
    kernel.still_resistances(pg, par, va.density[row], va.sign[row], *still)
    rise, q, p = np.zeros(n + SPECIAL), np.zeros(links), np.zeros(n)
    t, eps, g = np.zeros(len(pg.move_kind)), np.zeros(links), np.zeros((n + SPECIAL, n + SPECIAL))
    power, new = np.zeros(2), np.zeros(n + SPECIAL)
    heat = va.density[row] * k.AIR_HEAT_CAPACITY_J_KGK

    def flows(pressures: Floats) -> Floats:
        every = np.append(pressures, 0.0)
        drive = every[pg.tail] - every[pg.head] + made[0]
        return np.asarray(2 * drive / (made[1] + np.sqrt(made[1] ** 2 + 4 * made[2] * np.abs(drive))))

    def balance(pressures: Floats) -> Floats:
        flow, net = flows(pressures), np.zeros(n + 1)
        np.add.at(net, pg.tail, flow)
        np.add.at(net, pg.head, -flow)
        return net[:n] * 1e3

    for _ in range(kernel.MOST_ROUNDS):
        kernel.driven(pg, par, va.density[row], va.room_c[row], va, row, va.speed[row], *still, rise, q, *made)
        p = root(balance, p, tol=1e-9).x
        q = flows(p)
        kernel.heat_balance(pg, par, heat, va, row, va.speed[row], q, t, eps, par[INDEX["wall_loss_w_m2k"]], g)
        rhs = np.zeros((n + SPECIAL, 3))
        rhs[:, 0], rhs[n + 1, 1], rhs[n + 3, 2] = pg.fixed_w, 1.0, 1.0
        rhs[n] = 0.0
        kernel.within_limits(pg, np.asarray(np.linalg.solve(g, rhs), float), pg.cpu_above_k_w, va.power_w[row], va.limit_k[row], power, new)
        change = np.abs(new - rise).max()
        rise[:] = new
        if change < kernel.RISE_TOLERANCE_K:
            break
    one = va._replace(**{name: getattr(va, name)[row : row + 1] for name in va._fields})
    none = np.zeros(0, np.int64)
    ours = settle_variants(plan, one, Curves(none, np.zeros(1, np.int64), *(np.zeros(0) for _ in range(4))))
    return float(abs(ours.rise_k[0, n + 1] - rise[n + 1]))
