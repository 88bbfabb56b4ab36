"""How alike two layouts of one case are: near layouts err alike, far ones each in its own way."""

from collections.abc import Sequence
from dataclasses import dataclass, replace

import numpy as np
from numpy.typing import NDArray

from engine.coupled.links import ROOM, Link
from engine.coupled.operating_point import OperatingPoint
from engine.machine import Machine

Floats = NDArray[np.float64]

LENGTH = 0.6  # no source: layouts this far apart share 60 % of what of their errors can be shared
LOAD_LIKENESS = 0.8  # no source: how much of a layout's error is the same under another load
SETTING = 0.3  # no source: a panel off, a cooler or a card turned, another radiator or part counts as so much distance


@dataclass(frozen=True)
class Features:
    """What of a layout its errors hang on: flow through each mount as a share of all that passes, and its settings in words.

    ``machine``: all that it is made of, apart from its letter, the room and the load: layouts that agree in that are the very same.
    """

    flows: dict[str, float]
    settings: frozenset[tuple[str, str]]
    load: str
    machine: str


@dataclass(frozen=True)
class FanRows:
    """Many layouts that differ in nothing but their fans: what ``Features`` holds of one, flows as (rows, mounts)."""

    mounts: Sequence[str]
    flows: Floats
    settings: frozenset[tuple[str, str]]
    load: str


def features(point: OperatingPoint, load: str) -> Features:
    """Of an operating point; flows are those of the sheets' own forecast, so that likeness does not move while learning."""
    own = fan_rows(point.machine, point.links, point.flow_m3s[None], load)
    return Features(dict(zip(own.mounts, own.flows[0].tolist(), strict=True)), own.settings, load, _bare(point.machine))


def fan_rows(machine: Machine, links: Sequence[Link], flow_m3s: Floats, load: str) -> FanRows:
    """From flows along the links, (rows, links), in layouts of which ``machine`` stands for all but the fans."""
    outside = np.array([ROOM in (x.tail, x.head) for x in links])
    inflow = np.abs(flow_m3s[:, outside]).sum(axis=1) / 2
    mounts = list(dict.fromkeys(x.mount for x in links if x.mount))
    through = np.array([[x.mount == m for m in mounts] for x in links], dtype=np.float64).reshape(len(links), len(mounts))
    return FanRows(mounts, flow_m3s @ through / np.maximum(inflow, 1e-6)[:, None], frozenset(_settings(machine)), load)


def _bare(m: Machine) -> str:
    card = m.card and replace(m.card, power_w=0.0)
    fields = {name: getattr(m, name) for name in m.__dataclass_fields__ if name not in ("layout_id", "room", "cpu", "card")}
    return repr((fields, replace(m.cpu, power_w=0.0), card))


def _settings(m: Machine) -> list[tuple[str, str]]:
    found = [("cpu", repr(m.cpu.r_jc_k_per_w)), ("cooler", type(m.cooler).__name__ + getattr(m.cooler, "direction", ""))]
    if m.card:
        found += [("card", f"{m.card.orientation} {m.card.r_k_per_w} {m.card.shroud}")]
    found += [(f"panel {face}", f"{p.kind} {p.removed} {round(p.gap_area_cm2, 1)}") for face, p in m.panels.items()]
    found += [("open", face) for face in m.open_faces]
    found += [(f"radiator {r.id}", " ".join(r.mounts)) for loop in m.loops for r in loop.radiators]
    return found


def distance(a: Features, b: Features) -> float:
    """0 for the same layout; a fan of six that is turned round is some 0.4 away."""
    return float(_apart(_row(a), [b])[0, 0])


def likeness(a: Sequence[Features], b: Sequence[Features]) -> Floats:
    """Correlation of errors, (len(a), len(b)): 1 for the same layout under the same load."""
    return np.vstack([np.zeros((0, len(b))), *(likeness_of_rows(_row(x), b) for x in a)])


def likeness_of_rows(a: FanRows, b: Sequence[Features]) -> Floats:
    """The same of many layouts at once, (rows, len(b))."""
    load = np.array([1.0 if a.load == y.load else LOAD_LIKENESS for y in b])
    return np.asarray(np.exp(-((_apart(a, b) / LENGTH) ** 2) / 2) * load)


def _apart(a: FanRows, b: Sequence[Features]) -> Floats:
    mounts = list(dict.fromkeys([*a.mounts, *(m for y in b for m in y.flows)]))
    own = np.zeros((len(a.flows), len(mounts)))
    own[:, : len(a.mounts)] = a.flows
    others = np.array([[y.flows.get(m, 0.0) for m in mounts] for y in b]).reshape(len(b), len(mounts))
    unlike = np.array([len({name for name, _ in a.settings ^ y.settings}) for y in b], dtype=np.float64)
    squares = ((own[:, None, :] - others[None, :, :]) ** 2).sum(axis=2)
    return np.asarray(np.sqrt(squares + unlike * SETTING**2))


def _row(x: Features) -> FanRows:
    return FanRows(list(x.flows), np.array([list(x.flows.values())]).reshape(1, len(x.flows)), x.settings, x.load)
