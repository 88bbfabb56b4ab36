"""What is offered against a finding: only changes that are forecast to clear it and to harm nothing, each with what it will do."""

from collections import Counter
from collections.abc import Sequence
from dataclasses import dataclass, fields, replace
from typing import Any, Protocol

from desk.job.edits import Edited, Place, edited, with_layout
from desk.job.resolve import Resolver
from documents.job.models import JobDoc, LayoutDoc
from engine.coupled.compare import WATT_WORTH_K
from engine.coupled.forecast import Forecast
from engine.coupled.operating_point import OperatingPoint
from engine.errors import OventaError
from engine.findings.finding import Finding, Fix, kelvin

Key = tuple[str, frozenset[str]]  # code and mounts: what makes two findings the same; several may be
HARM_K = 0.5
SLOWER_BY = range(0, 6)  # percent points: the level is met a little below what the law of speeds says


@dataclass(frozen=True)
class OfferedFix(Fix):
    """A fix with its forecast effect (after less before) and the layout as it will be.

    ``cpu_w``, ``card_w``: power that a part held at its limit gets back. ``releases``: what it takes off a curve.
    """

    cpu_k: float = 0.0
    card_k: float | None = None
    sound_db: float = 0.0
    cpu_w: float = 0.0
    card_w: float = 0.0
    releases: tuple[str, ...] = ()
    layout: dict[str, Any] | None = None

    @property
    def worth_k(self) -> float:
        """Less is better: both parts, watts at their worth, a decibel as a kelvin."""
        return self.cpu_k + (self.card_k or 0.0) - WATT_WORTH_K * (self.cpu_w + self.card_w) + self.sound_db


@dataclass(frozen=True)
class Found(Finding):
    """A finding with what is offered against it; ``about`` is the same for findings that concern one fan, empty for others."""

    fixes: tuple[OfferedFix, ...] = ()
    not_offered: tuple[str, ...] = ()  # changes that suggest themselves, and why they are not offered
    about: str = ""

    @classmethod
    def plain(cls, finding: Finding) -> "Found":
        """A finding against which nothing is offered."""
        return cls(**{f.name: getattr(finding, f.name) for f in fields(Finding)})


class Asked(Protocol):
    """What is asked of a document to weigh a change of it: its layouts, their forecasts, and the same of another document."""

    @property
    def doc(self) -> JobDoc: ...

    @property
    def resolver(self) -> Resolver: ...

    def point(self, layout_id: str) -> OperatingPoint: ...

    def forecast(self, layout_id: str) -> Forecast: ...

    def plain_findings(self, layout_id: str) -> tuple[Finding, ...]: ...

    def beside(self, doc: JobDoc) -> "Asked": ...


class Offers:
    """The fixes of one layout's findings; every change is forecast once, whichever findings propose it."""

    def __init__(self, oracle: Asked, layout_id: str, found: Sequence[Finding]) -> None:
        self.oracle, self.layout_id, self.found = oracle, layout_id, found
        self.layout = oracle.resolver.layout(layout_id)
        self.now = oracle.forecast(layout_id)
        self.counts = Counter(_key(f) for f in found)
        self.errors = Counter(_key(f) for f in found if f.severity == "error")
        point = oracle.point(layout_id)
        turning = zip(point.machine.fans, point.speeds.fans, strict=True)
        self.speeds: dict[Place, float] = {(fan.mount, fan.layer): float(pct) for fan, pct in turning if fan.running}
        self._tried: dict[str, tuple[Forecast, Counter[Key], Counter[Key]] | None] = {}

    def all(self) -> tuple[Found, ...]:
        """Every finding with its fixes, the best first."""
        about = _groups(self.found)
        return tuple(self._found(f, about.get(i, "")) for i, f in enumerate(self.found))

    def _found(self, finding: Finding, about: str) -> Found:
        offered: list[OfferedFix] = []
        refused: list[str] = []
        for fix in finding.fixes:
            tried = self._tried_for(finding, fix)
            if isinstance(tried, OfferedFix):
                offered.append(tried)
            elif tried:
                refused.append(tried)
        values = {f.name: getattr(finding, f.name) for f in fields(Finding)}
        ordered = tuple(sorted(offered, key=lambda f: f.worth_k))
        return Found(**values | {"fixes": ordered, "not_offered": tuple(refused), "about": about})

    def _tried_for(self, finding: Finding, fix: Fix) -> OfferedFix | str:
        """What is offered, or why it is not; empty where there is nothing to change."""
        why = ""
        for slower in SLOWER_BY if fix.action == "set_speed" else (0,):
            trial = fix if not slower else replace(fix, speed_pct=(fix.speed_pct or 100) - slower)
            made = edited(self.layout, trial, self.speeds)
            if made is None:
                continue
            judged = self._judged(finding, trial, made)
            if isinstance(judged, OfferedFix):
                return judged
            why = why or judged
        return why

    def _judged(self, finding: Finding, fix: Fix, made: Edited) -> OfferedFix | str:
        after = self._after(made.layout)
        if after is None:
            return f"{fix.label}: no forecast comes of it"
        forecast, counts, errors = after
        more = errors - self.errors
        offer = self._offer(fix, made, forecast)
        if not harmless(self.now, forecast):
            return f"{fix.label}: {_in_words(offer)}"
        if counts[_key(finding)] >= self.counts[_key(finding)]:
            return f"{fix.label}: it would still hold"
        if more or not forecast.converged:
            return f"{fix.label}: it brings an error ({', '.join(sorted(code.replace('_', ' ') for code, _ in more))})"
        return offer

    def _after(self, layout: LayoutDoc) -> tuple[Forecast, "Counter[Key]", "Counter[Key]"] | None:
        key = layout.model_dump_json(exclude_unset=True)
        if key not in self._tried:
            other = self.oracle.beside(with_layout(self.oracle.doc, layout))
            try:
                found = other.plain_findings(self.layout_id)
                errors = Counter(_key(f) for f in found if f.severity == "error")
                self._tried[key] = other.forecast(self.layout_id), Counter(_key(f) for f in found), errors
            except OventaError:
                self._tried[key] = None
        return self._tried[key]

    def _offer(self, fix: Fix, made: Edited, after: Forecast) -> OfferedFix:
        now = self.now
        card = after.card.rise_k - now.card.rise_k if after.card and now.card else None
        values = {f.name: getattr(fix, f.name) for f in fields(Fix)}
        return OfferedFix(
            **values | {"label": fix.label if fix.action != "set_speed" else f"Slow all case fans to {fix.speed_pct:.0f} %"},
            cpu_k=after.cpu.rise_k - now.cpu.rise_k,
            card_k=card,
            sound_db=after.sound.level_dba - now.sound.level_dba,
            cpu_w=after.cpu.power_w - now.cpu.power_w,
            card_w=after.card.power_w - now.card.power_w if after.card and now.card else 0.0,
            releases=made.releases,
            layout=made.layout.model_dump(mode="json", exclude_unset=True),
        )


def harmless(before: Forecast, after: Forecast) -> bool:
    """The warmest part gets warmer by half a kelvin at most, the other by no more than that or than the warmest gains.

    A part that is held at its limit does not get warmer: it gives up watts, and may give up no more than half a kelvin's worth.
    """
    parts = [(before.cpu, after.cpu)] + ([(before.card, after.card)] if before.card and after.card else [])
    warmest = max(new.rise_k for _, new in parts) - max(old.rise_k for old, _ in parts)
    worst = max(new.rise_k - old.rise_k for old, new in parts)
    lost_w = max(old.power_w - new.power_w for old, new in parts)
    return warmest <= HARM_K and worst <= max(HARM_K, -warmest) and lost_w <= HARM_K / WATT_WORTH_K


def _key(f: Finding) -> Key:
    return f.code, frozenset(f.mounts)


def _in_words(offer: OfferedFix) -> str:
    said = [f"the processor {kelvin(offer.cpu_k)}"] if abs(offer.cpu_k) >= 0.05 else []
    said += [f"the card {kelvin(offer.card_k)}"] if offer.card_k is not None and abs(offer.card_k) >= 0.05 else []
    said += [f"the {name} {-w:.0f} W less" for name, w in (("processor", offer.cpu_w), ("card", offer.card_w)) if w <= -0.5]
    return ", ".join(said) or "it changes next to nothing"


def _groups(found: Sequence[Finding]) -> dict[int, str]:
    """Findings that ask different things of the same fan: (place in the list) -> the fan."""
    by_fan: dict[str, list[int]] = {}
    for i, f in enumerate(found):
        fans = {(x.mount, x.layer or "outer") for x in f.fixes if x.mount}
        if len(fans) == 1 and f.accepted is None:
            mount, layer = fans.pop()
            by_fan.setdefault(f"{mount}:{layer}", []).append(i)
    return {i: fan for fan, places in by_fan.items() if len(places) > 1 for i in places}
