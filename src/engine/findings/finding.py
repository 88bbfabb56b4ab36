"""What a finding is, what a rule sees, and small helpers that rules share."""

from collections.abc import Iterable
from dataclasses import dataclass, replace
from functools import cached_property
from typing import Literal

from engine.coupled.batch import FIGURES, settle_machines
from engine.coupled.compare import gain_k
from engine.coupled.explain import drawn_in
from engine.coupled.forecast import Forecast, level_dba
from engine.coupled.operating_point import OperatingPoint, operating_point
from engine.coupled.tracer import FlowPicture, UnusedShare, flow_picture, unused_shares
from engine.machine import Machine, Mount, PlacedFan, SealedCooler

GRAVEST_FIRST = ("error", "warning", "note")


@dataclass(frozen=True)
class Fix:
    """A change that can be made for the person with one click, said in ``label``."""

    label: str
    action: Literal["flip", "take_out", "set_speed", "plug_in", "turn_cooler", "close_gap", "lay_card_flat", "fit_panel"]
    mount: str | None = None
    layer: str | None = None
    speed_pct: float | None = None
    to: str | None = None


@dataclass(frozen=True)
class Finding:
    """What, where (``mounts``), because, do. ``kind`` says whether it rests on physics, practice or taste."""

    code: str
    severity: Literal["error", "warning", "note"]
    kind: Literal["physics", "practice", "taste"]
    mounts: tuple[str, ...]
    what: str
    because: str
    do: str
    fixes: tuple[Fix, ...] = ()
    accepted: str | None = None  # the reason for which the person accepts it
    may_accept: bool = True  # not where nothing can be forecast while it holds


@dataclass(frozen=True)
class WhatIf:
    """What a change would do: this layout changed, minus as it is. Limited parts by the power they get back, at 0.2 K a watt."""

    cpu_k: float
    card_k: float
    sound_db: float

    @property
    def warmest_k(self) -> float:
        """The change of whichever part suffers most or gains least."""
        return max(self.cpu_k, self.card_k)


@dataclass(frozen=True)
class Situation:
    """The layout at its operating point, with what several rules need."""

    point: OperatingPoint
    forecast: Forecast

    @property
    def machine(self) -> Machine:
        return self.point.machine

    def running(self, direction: str) -> list[PlacedFan]:
        return [f for f in self.machine.fans if f.running and f.direction == direction and f.speed_pct > 0]

    @property
    def turning(self) -> list[PlacedFan]:
        return [f for f in self.machine.fans if f.running and f.speed_pct > 0]

    def mount(self, fan: PlacedFan) -> Mount:
        return self.machine.mounts[fan.mount]

    def flow_m3h(self, fan: PlacedFan) -> float:
        """A fan's flow in its own direction."""
        return next(f.flow_m3h for f in self.forecast.fans if f.mount == fan.mount and f.layer == fan.layer)

    def on_radiator(self, fan: PlacedFan) -> bool:
        return fan.mount in self.cooled

    @cached_property
    def cooled(self) -> frozenset[str]:
        """Mounts that carry a radiator."""
        return frozenset(link.mount for link in self.point.links if link.radiator and link.mount)

    @property
    def cools_card_only(self) -> bool:
        """The only loop is the card's."""
        return bool(self.machine.loops) and not isinstance(self.machine.cooler, SealedCooler)

    @property
    def into_loop_w(self) -> float:
        """Heat into the loop whose coolant the forecast names."""
        shared = self.machine.card is not None and self.machine.card.block_k_per_w is not None and self.machine.card_loop is None
        cpu = 0.0 if self.cools_card_only else self.point.powers.cpu_w
        return cpu + (self.point.powers.card_w if shared or self.cools_card_only else 0.0)

    @cached_property
    def unused(self) -> dict[str, list[UnusedShare]]:
        """For each mount with a running intake, where its air leaves unused; air through a radiator has been used."""
        mounts = dict.fromkeys(f.mount for f in self.running("intake") if not self.mount(f).on_shroud and f.mount not in self.cooled)
        return {mount: unused_shares(self.point, mount) for mount in mounts}

    @cached_property
    def picture(self) -> FlowPicture:
        return flow_picture(self.point)

    def drawn(self, *roles: int) -> dict[str, float]:
        """Share of each kind of air in what the links of some roles draw in, by its words."""
        return {words: share for words, share, _ in drawn_in(self.point, roles)}

    @cached_property
    def fan_changes(self) -> dict[tuple[str, str, str], WhatIf]:
        """Every running fan flipped, and every one taken out, worked out in one batch: (mount, layer, "flip" or "take_out")."""
        m = self.machine
        changed: dict[tuple[str, str, str], Machine] = {}
        for i, fan in enumerate(m.fans):
            if not fan.running or fan.speed_pct <= 0:
                continue
            other = "exhaust" if fan.direction == "intake" else "intake"
            before, after = m.fans[:i], m.fans[i + 1 :]
            changed[fan.mount, fan.layer, "flip"] = replace(m, fans=(*before, replace(fan, direction=other), *after))  # type: ignore[arg-type]
            changed[fan.mount, fan.layer, "take_out"] = replace(m, fans=(*before, *after))
        if not changed or any(link.id.endswith(":gap") for link in self.point.links):
            return {}  # a gap's network depends on which layer holds a fan
        found = settle_machines(self.point.plan, list(changed.values()), self.point.parameters, self.point.near)
        level = self.forecast.sound.level_dba
        return {
            key: self._against(found.figures_k[i], found.power_w[i], level_dba(machine) - level)
            for i, (key, machine) in enumerate(changed.items())
        }

    def _against(self, figures_k: Iterable[float], power_w: Iterable[float], sound_db: float) -> WhatIf:
        now, rises = self.point, dict(zip(FIGURES, figures_k, strict=True))
        cpu_w, card_w = power_w
        cpu = gain_k(rises["cpu"], now.cpu_rise_k, cpu_w, now.powers.cpu_w)
        card = 0.0 if now.card_rise_k is None else gain_k(rises["card"], now.card_rise_k, card_w, now.powers.card_w)
        return WhatIf(float(cpu), float(card), sound_db)

    def if_machine(self, machine: Machine) -> WhatIf:
        """What another machine of the same parts would do."""
        other = operating_point(machine, self.point.parameters)
        figures = (other.cpu_rise_k, other.card_rise_k or 0.0, 0.0, 0.0)
        return self._against(figures, (other.powers.cpu_w, other.powers.card_w), level_dba(machine) - self.forecast.sound.level_dba)


def gap_mm(one: Mount, other: Mount) -> float:
    """Distance between the centres of two mounts."""
    a, b = one.centre_mm, other.centre_mm
    return float(((a.x - b.x) ** 2 + (a.y - b.y) ** 2 + (a.z - b.z) ** 2) ** 0.5)


def names(mounts: list[str] | tuple[str, ...]) -> str:
    """``t1``, ``t1 and t2``, ``t1, t2 and t3`` in capitals, as the drawing writes them."""
    upper = [m.upper() for m in dict.fromkeys(mounts)]
    return upper[0] if len(upper) == 1 else f"{', '.join(upper[:-1])} and {upper[-1]}"


def kelvin(change_k: float) -> str:
    """``2.1 K cooler``, ``0.8 K warmer``."""
    return f"{abs(change_k):.1f} K {'cooler' if change_k < 0 else 'warmer'}"
