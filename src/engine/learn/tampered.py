"""A machine with one thing otherwise than drawn: what a person easily gets wrong, made in one place for all who try it."""

from dataclasses import replace
from typing import Literal, cast

from engine.machine import AirCooler, Face, Machine, SealedCooler, SpeedCurve


def fan_otherwise(m: Machine, at: int, turned: bool = False, running: bool = True, share: float = 1.0) -> Machine:
    """The case fan in a place of the machine's list turned round, at rest, or at a share of whatever speed it would turn at."""
    f = m.fans[at]
    way = {"intake": "exhaust", "exhaust": "intake"}[f.direction] if turned else f.direction
    other = replace(
        f,
        direction=cast(Literal["intake", "exhaust"], way),
        running=running,
        speed_pct=f.speed_pct * share,
        curve=_slower(f.curve, share),
    )
    return replace(m, fans=(*m.fans[:at], other, *m.fans[at + 1 :]))


def fan_name(m: Machine, at: int) -> str:
    """The mount, and the layer where it is the inner one."""
    f = m.fans[at]
    return f.mount if f.layer == "outer" else f"{f.mount} inner"


def pasted(m: Machine, times: float) -> Machine:
    """The resistance from core to cooler so many times as large."""
    return replace(m, cpu=replace(m.cpu, r_jc_k_per_w=m.cpu.r_jc_k_per_w * times))


def cooler_slower(m: Machine, share: float) -> Machine | None:
    """Cooler's fans at a share of their speed; None where it has none."""
    if not isinstance(m.cooler, AirCooler):
        return None
    return replace(m, cooler=replace(m.cooler, fan_pct=m.cooler.fan_pct * share, curve=_slower(m.cooler.curve, share)))


def pump_slower(m: Machine, share: float) -> Machine | None:
    """The pump of the processor's loop at a share of its speed; None where there is none."""
    if not isinstance(m.cooler, SealedCooler):
        return None
    return replace(m, cooler=replace(m.cooler, pump_pct=m.cooler.pump_pct * share, pump_curve=_slower(m.cooler.pump_curve, share)))


def card_slower(m: Machine, share: float) -> Machine | None:
    """The card's own fans at a share of their speed; None where air does not cool it."""
    card = m.card_on_air
    return None if card is None else replace(m, card=replace(card, fan_pct=card.fan_pct * share, curve=_slower(card.curve, share)))


def panel_otherwise(m: Machine, face: Face) -> Machine:
    """The panel off where it is on, and the other way."""
    panel = m.panels[face]
    return replace(m, panels={**m.panels, face: replace(panel, removed=not panel.removed)})


def filtered(m: Machine) -> bool:
    return any(p.filter != "none" and not p.removed for p in m.panels.values())


def _slower(curve: SpeedCurve | None, share: float) -> SpeedCurve | None:
    return curve and replace(curve, speeds_pct=tuple(s * share for s in curve.speeds_pct))
