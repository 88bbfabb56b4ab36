"""Everything that layouts set, in words: what all of them share, and what each sets for itself, place by place."""

from collections.abc import Sequence
from dataclasses import dataclass
from functools import cached_property

from desk.job.difference import SETTINGS, panels_in_words
from desk.job.names import radiator_called
from documents.job.models import PART_KINDS, JobDoc, LayoutDoc

SET = {
    **SETTINGS,
    "cooler_fan": "cooler's fan",
    "cooler_fans": "cooler's fans",
    "cooler_curve": "cooler's curve",
    "card_curve": "card's curve",
}


@dataclass(frozen=True)
class AsSet:
    """Some layouts of a job: a setting in which they differ is told of each of them, and of none in common."""

    doc: JobDoc
    layouts: Sequence[LayoutDoc]

    @cached_property
    def shared(self) -> list[tuple[str, str]]:
        """What all layouts have in common, and the curves they may follow."""
        base = [
            (SET[name], self._told(v)) for name in SET if name not in self._apart and (v := getattr(self.doc.base, name, None)) is not None
        ]
        curves = [(f"curve {c.id}", f"by {c.source}: " + ", ".join(f"{x:g} to {pct:g} %" for x, pct in c.points)) for c in self.doc.curves]
        return [*base, ("board and memory, W", f"{self.doc.parts.board_power_w:g}"), *curves]

    def words(self, layout: LayoutDoc) -> str:
        """Everything a layout sets, place by place."""
        groups = {g.id: g for g in layout.groups}
        places = []
        for f in layout.fans:
            led = groups.get(f.group or "", f)
            speed = f"curve {led.curve}" if led.curve else f"{led.speed_pct:g} %"
            state = "" if f.state == "running" else ", unplugged"
            side = "" if f.layer == "outer" else " inside"
            places.append(f"{f.mount.upper()}{side} {self._told(f.fan)} {'in' if f.direction == 'intake' else 'out'} at {speed}{state}")
        blocked = [f"{(o.mount or o.space or '').upper()} blocked {o.blocked_pct:g} %" for o in layout.obstructions]
        loops = [f"loop of {self._told(x.cooler)}, pump {x.pump_curve or f'{x.pump_pct:g} %'}" for x in layout.loops or []]
        radiators = [*([layout.radiator] if layout.radiator else []), *(r for loop in layout.loops or [] for r in loop.radiators)]
        fitted = [
            f"{radiator_called(self.doc, r.radiator)} at {', '.join(m.upper() for m in r.mounts)}, tubes {r.tubes}" for r in radiators
        ]
        own = [f"{SET[name]}: {self._told(v)}" for name in SET if name in self._apart and (v := self._of(layout, name))]
        bench = ["on the open bench"] if layout.open_bench else []
        return "; ".join([*bench, *own, *loops, *fitted, *places, *panels_in_words(self.doc, layout), *blocked]) or "no case fans"

    @cached_property
    def _apart(self) -> frozenset[str]:
        return frozenset(n for n in SET if any(self._of(x, n) != getattr(self.doc.base, n, None) for x in self.layouts))

    def _of(self, layout: LayoutDoc, name: str) -> object:
        """As set by the layout, else by the job."""
        return getattr(layout if name in layout.model_fields_set else self.doc.base, name, None)

    @cached_property
    def _names(self) -> dict[str, str]:
        return {p.id: p.name for kind in PART_KINDS for p in getattr(self.doc.parts, kind) if getattr(p, "name", "")}

    def _told(self, value: object) -> str:
        """A part by its name for people; any other setting as it is."""
        if isinstance(value, list):
            return ", ".join(self._told(x) for x in value)
        return self._names.get(value, value) if isinstance(value, str) else f"{value:g}" if isinstance(value, (int, float)) else str(value)
