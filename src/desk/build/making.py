"""What the steps of a build are written from, and where they are written down.

Minutes are common practice, no source, where they are not the person's own.
"""

from collections.abc import Iterable, Mapping, Sequence
from dataclasses import dataclass, field
from hashlib import sha256
from types import MappingProxyType

from desk.build.shapes import BuildFan, BuildHeader, BuildLoose, BuildPump, BuildRadiator, BuildStep, Chapter
from desk.job.resolve import Resolver
from documents.job.models import CoolerDoc, LayoutDoc
from engine.plan.rebuild import MINUTES, Kind

PART_MIN: Mapping[str, float] = MappingProxyType({"power supply": 12.0, "board": 15.0, "memory": 2.0})  # never touched between two layouts


@dataclass
class Sheet:
    """Steps as they are written, with the one that everything in a chapter waits for."""

    steps: list[BuildStep] = field(default_factory=list)

    def add(
        self,
        ident: str,
        chapter: Chapter,
        words: str,
        minutes: float,
        after: Iterable[str] = (),
        details: Iterable[str] = (),
        caution: str | None = None,
        gate: bool = False,
        sight: bool = False,
        fan: BuildFan | None = None,
    ) -> str:
        own = [x for x in dict.fromkeys(after) if x]
        lines = [x for x in details if x]
        key = sha256("\n".join([words, *lines]).encode()).hexdigest()[:12]
        self.steps.append(
            BuildStep(
                id=ident,
                chapter=chapter,
                words=words,
                details=lines,
                after=own,
                minutes=minutes,
                caution=caution,
                gate=gate,
                sight=sight,
                key=key,
                mount=fan.mount if fan else None,
                layer=fan.layer if fan else None,
            )
        )
        return ident


@dataclass(frozen=True)
class Making:
    """What the steps are written from. ``start``: the layout that stands now, None for an empty case."""

    resolver: Resolver
    layout: LayoutDoc
    start: LayoutDoc | None
    fans: Sequence[BuildFan]
    radiators: Sequence[BuildRadiator]
    headers: Sequence[BuildHeader]
    loose: Sequence[BuildLoose]
    curves: bool
    lights: Sequence[str]
    pumps: Sequence[BuildPump]

    def minutes(self, kind: Kind) -> float:
        return self.resolver.doc.practice.minutes.get(kind, MINUTES[kind])

    @property
    def cooler(self) -> CoolerDoc | None:
        return self.resolver.cpu_cooler(self.layout)

    @property
    def loops(self) -> bool:
        return bool(self.resolver.loops(self.layout))

    @property
    def open_loop(self) -> bool:
        return any(self.resolver.parts["coolers"][x.cooler].kind == "open_loop" for x in self.resolver.loops(self.layout))


def filters_of(m: Making) -> list[str]:
    return [f"{p.face} ({p.filter})" for p in m.resolver.doc.case.panels if p.filter != "none"]


def part_caution(name: str, m: Making, out: bool = False) -> str | None:
    if name.startswith("fan"):
        return "fan"
    if name.startswith("radiator"):
        return "radiator"
    if name == "cooler":
        return "hot" if out else "cooler"
    return {"power supply": "supply", "board": "static", "memory": "static", "card": "cardStrain"}.get(name)


def part_minutes(m: Making, name: str, out: bool = False) -> float:
    if name.startswith("fan"):
        return m.minutes("take_out" if out else "put")
    if name.startswith("radiator"):
        return m.minutes("radiator") / (2 if out else 1)
    if name in ("cooler", "card"):
        return m.minutes("cooler" if name == "cooler" else "card") / (2 if out else 1)
    return PART_MIN[name] / (2 if out else 1)


def slug(name: str) -> str:
    return "".join(c if c.isalnum() else "_" for c in name.lower()).strip("_")
