"""Layouts found against the start and each other: differences with their bands, groups that cannot be told apart, reasons in words."""

from collections.abc import Sequence
from dataclasses import dataclass

from desk.learn.document import Figures
from desk.search.shapes import FoundLayout
from engine.coupled.bands import absolute_band_k, difference_band_k
from engine.coupled.compare import given_up_w
from engine.coupled.operating_point import OperatingPoint
from engine.learn.case import PARTS, Part

TOLD_W = 0.5  # no source: less given up than that is not worth a word
SAME_DB = 0.5  # no source: levels nearer than this are heard as one


@dataclass(frozen=True)
class Compared:
    """The start (0) and the layouts found, by sheets or as learned."""

    points: list[OperatingPoint]
    table: Figures | None
    levels: list[tuple[float, float]]

    def rise(self, i: int, part: Part) -> tuple[float, float] | None:
        if self.table:
            figure = self.table.figure(i, part)
            return (figure.rise_k, figure.band_k) if figure else None
        rise = self.points[i].cpu_rise_k if part == "cpu" else self.points[i].card_rise_k
        return None if rise is None else (rise, absolute_band_k(self.points[i], part, rise))

    def lost_w(self, i: int) -> float:
        """Power that its parts give up at their limits."""
        p = self.points[i]
        if self.table is None:
            return sum(given_up_w(p))
        asked = {"cpu": p.machine.cpu.power_w, "card": p.machine.card.power_w if p.machine.card else 0.0}
        return sum(asked[part] - figure.power_w for part in PARTS if (figure := self.table.figure(i, part)))

    def difference(self, a: int, b: int, part: Part) -> tuple[float, float] | None:
        """The second less the first, and its 95 % band."""
        if self.table:
            return self.table.difference(a, b, part)
        one, two = self.rise(a, part), self.rise(b, part)
        if one is None or two is None:
            return None
        gap = two[0] - one[0]
        return gap, difference_band_k(self.points[b], self.points[a], part, gap)

    def only(self, which: Sequence[int]) -> "Compared":
        """Some of them, in the order given."""
        table = self.table.only(which) if self.table else None
        return Compared([self.points[i] for i in which], table, [self.levels[i] for i in which])

    def told_apart(self, a: int, b: int) -> bool:
        """Whether the forecast can tell two layouts apart in any figure."""
        if abs(self.levels[a][0] - self.levels[b][0]) > SAME_DB:
            return True
        found = [x for part in PARTS if (x := self.difference(a, b, part)) is not None]
        return any(abs(gap) > band for gap, band in found)


def grouped(found: list[FoundLayout], figures: Compared) -> list[FoundLayout]:
    """Groups led by the simplest: fewest changes, then the least price, then the fewest fans. Ordered by how warm the leader is."""
    order = sorted(range(len(found)), key=lambda i: (found[i].changes, found[i].price or 0.0, found[i].fans, found[i].cpu_rise_k))
    leaders: list[int] = []
    group: dict[int, int] = {}
    for i in order:
        own = next((g for g, lead in enumerate(leaders) if not figures.told_apart(lead + 1, i + 1)), None)
        if own is None:
            own = len(leaders)
            leaders.append(i)
        group[i] = own
    ranks = sorted(range(len(leaders)), key=lambda g: _warmth(found[leaders[g]]))
    number = {g: n for n, g in enumerate(ranks, start=1)}
    told = [x.model_copy(update={"group": number[group[i]], "simplest": i in leaders}) for i, x in enumerate(found)]
    return sorted(told, key=lambda x: (x.group, not x.simplest, x.changes, _warmth(x)))


def _warmth(x: FoundLayout) -> float:
    return x.cpu_rise_k + (x.card_rise_k or 0.0)


def why(x: FoundLayout) -> list[str]:
    """What it brings over the start, in words: what the forecast can tell first, what it costs last."""
    told = []
    for name, gain, band in (("processor", x.cpu_gain_k, x.cpu_gain_band_k), ("card", x.card_gain_k, x.card_gain_band_k)):
        if gain is None or band is None:
            continue
        if abs(gain) > band:
            told.append(f"{name} {'cooler' if gain < 0 else 'warmer'} by {abs(gain):.1f} ± {band:.1f} K")
        else:
            told.append(f"{name} {gain:+.1f} ± {band:.1f} K, too close to call".replace("-", "−", 1))
    if abs(x.level_gain_db) > SAME_DB:
        told.append(f"{abs(x.level_gain_db):.1f} dB {'quieter' if x.level_gain_db < 0 else 'louder'}")
    if x.stopped:
        card = f" and {x.stopped.card_rise_k:.0f}" if x.stopped.card_rise_k is not None else ""
        told.append(f"should {x.stopped.mount.upper()} stop, {x.stopped.cpu_rise_k:.0f}{card} K over room")
    if x.lost_w > TOLD_W:
        told.append(f"{x.lost_w:.0f} W given up at a limit")
    if x.price:
        told.append(f"fans for {x.price:g}")
    return told
