"""The forecast document (version 1) and the findings document, made from a job."""

from collections import OrderedDict
from collections.abc import Callable
from dataclasses import dataclass, fields, replace
from threading import Lock
from typing import Generic, Literal, TypeVar

import numpy as np
from pydantic import BaseModel, Field

from desk.forecast.alternatives import with_alternative
from desk.forecast.fixes import Found, Offers
from desk.forecast.rules import About, found
from desk.forecast.scenario import grown
from desk.forecast.zones import ZoneForecast, zones
from desk.job.places import outside
from desk.job.resolve import Resolver
from documents.errors import DocumentError, Fault
from documents.job.models import JobDoc
from engine.caveats import Caveat
from engine.coupled.bands import least_apart_k
from engine.coupled.explain import Account, account
from engine.coupled.forecast import Differences, Forecast, at_target_level, differences, forecast
from engine.coupled.operating_point import LOADS, OperatingPoint, loaded, operating_point
from engine.coupled.transient import warm_up
from engine.findings.finding import GRAVEST_FIRST, Finding
from engine.identity import ENGINE
from engine.learn.levels import NOTHING_OFF, Offsets
from engine.machine import Machine
from engine.parameters import DEFAULT

Load = Literal["idle", "cpu", "card", "both", "own"]


@dataclass(frozen=True)
class TransientRow:
    minutes: float
    cpu_c: float
    card_c: float | None
    coolant_c: float | None
    air_rear_c: float


@dataclass(frozen=True)
class LayoutForecast(Forecast):
    """A layout's forecast with what was asked for beside it."""

    differences: Differences | None = None
    transient: tuple[TransientRow, ...] | None = None
    zones: tuple[ZoneForecast, ...] = ()


class ForecastDoc(BaseModel):
    format: Literal["oventa-forecast"] = "oventa-forecast"
    version: Literal[1] = 1
    engine: str = ENGINE.number
    load: Load
    least_apart_k: float = least_apart_k()  # differences up to this are not told apart
    learned: int | None = None  # how many runs the figures were learned from; None: from sheets alone
    defaults_used: list[str]
    layouts: list[LayoutForecast]


@dataclass(frozen=True)
class LayoutFindings:
    id: str
    findings: tuple[Found, ...]


class FindingsDoc(BaseModel):
    format: Literal["oventa-findings"] = "oventa-findings"
    version: Literal[1] = 1
    engine: str = ENGINE.number
    layouts: list[LayoutFindings]


class Question(BaseModel):
    """What is asked of the engine about a job."""

    layouts: list[str] | None = None
    load: Load = "both"
    cpu_load_pct: float = Field(default=100, ge=0, le=100)  # with load "own"
    card_load_pct: float = Field(default=100, ge=0, le=100)
    room_c: float | None = Field(default=None, ge=-20, le=60)
    scenario: str | None = None  # heat that may come later, one of the job's
    against: str | None = None
    minutes: float | None = Field(default=None, gt=0, le=1440)
    every_s: float = Field(default=60.0, ge=1, le=3600)
    target_dba: float | None = Field(default=None, gt=0, le=120)


T = TypeVar("T")


class Memory(Generic[T]):
    """Keeps the latest answers by their questions; the one that was not asked for longest goes first."""

    def __init__(self, most: int = 128) -> None:
        self._most = most
        self._kept: OrderedDict[str, T] = OrderedDict()
        self._lock = Lock()
        self._making = [Lock() for _ in range(16)]

    def made(self, key: str, make: Callable[[], T]) -> T:
        """The answer that is kept, or a new one; who asks the same while it is made waits for it."""
        found = self.get(key)
        if found is None:
            with self._making[hash(key) % len(self._making)]:
                found = self.get(key)
                if found is None:
                    found = make()
                    self.put(key, found)
        return found

    def get(self, key: str) -> T | None:
        with self._lock:
            if key in self._kept:
                self._kept.move_to_end(key)
            return self._kept.get(key)

    def put(self, key: str, answer: T) -> None:
        with self._lock:
            self._kept[key] = answer
            while len(self._kept) > self._most:
                self._kept.popitem(last=False)


class PointMemory(Memory[OperatingPoint]):
    """Operating points, so that a reference or an undone step is not solved again."""


class Oracle:
    """Answers questions about one job document; operating points are solved once per layout."""

    def __init__(self, doc: JobDoc, question: Question, memory: PointMemory | None = None) -> None:
        self.doc, self.question = doc, question
        self._memory = memory
        self.resolver = Resolver(doc)
        self._points: dict[str, OperatingPoint] = {}
        self._forecasts: dict[str, Forecast] = {}
        self._unreached: set[str] = set()
        if question.load not in LOADS:
            raise DocumentError([Fault("load", f"{question.load!r} is no load", f"Use one of {', '.join(LOADS)}.")])

    @property
    def layout_ids(self) -> list[str]:
        ids = self.question.layouts or [x.id for x in self.doc.layouts]
        if not ids:
            raise DocumentError([Fault("layouts", "the job has no layout", "Add one before asking for a forecast.")])
        return ids

    def point(self, layout_id: str) -> OperatingPoint:
        if layout_id not in self._points:
            self._points[layout_id] = self._solved(layout_id)
        return self._points[layout_id]

    def machine(self, layout_id: str) -> Machine:
        """The machine of a layout under the load and in the room that are asked about."""
        q = self.question
        machine = grown(self.resolver.machine(layout_id, q.room_c), self.doc, q.scenario)
        return loaded(machine, q.load, (q.cpu_load_pct / 100, q.card_load_pct / 100))

    def idle_w(self, layout_id: str) -> tuple[float, float]:
        """What processor and card of a layout draw with nothing to do, whatever load is asked about."""
        idle = loaded(self.resolver.machine(layout_id, self.question.room_c), "idle")
        return idle.cpu.power_w, idle.card.power_w if idle.card else 0.0

    def _solved(self, layout_id: str) -> OperatingPoint:
        """The point from memory where the very same question was asked before; a target level is always searched anew."""
        machine = self.machine(layout_id)
        if self.question.target_dba is not None:
            machine, reached = at_target_level(machine, self.question.target_dba)
            if not reached:
                self._unreached.add(layout_id)
            return operating_point(machine)
        key = repr(machine)
        point = self._memory.get(key) if self._memory else None
        if point is None:
            point = operating_point(machine)
            if self._memory:
                self._memory.put(key, point)
        return point

    def forecast(self, layout_id: str) -> Forecast:
        if layout_id not in self._forecasts:
            self._forecasts[layout_id] = forecast(self.point(layout_id))
        return self._forecasts[layout_id]

    @property
    def taught_by(self) -> int:
        """How many runs the figures rest on beside the parts' sheets."""
        return 0

    @property
    def parameters(self) -> np.ndarray:
        """The model's, in which a run over time is worked out."""
        return DEFAULT

    @property
    def offsets(self) -> Offsets:
        """How far what sounds lies off its sheet."""
        return NOTHING_OFF

    def beyond(self, layout_id: str) -> tuple[float, float]:
        """By what share processor and card settle warmer than those parameters have it."""
        return 1.0, 1.0

    def given_up_w(self, layout_id: str) -> tuple[float, float]:
        """Power that processor and card of a layout give up at their limits, in W."""
        told, machine = self.forecast(layout_id), self.machine(layout_id)
        card = machine.card.power_w - told.card.power_w if machine.card and told.card else 0.0
        return machine.cpu.power_w - told.cpu.power_w, card

    def account(self, layout_id: str, figure: str) -> Account:
        """The account behind one of a layout's figures. Raises ImpossibleInputError for one it does not have."""
        return account(self.point(layout_id), figure)

    def _layout_forecast(self, layout_id: str) -> LayoutForecast:
        q, plain = self.question, self.forecast(layout_id)
        against = differences(self.point(layout_id), self.point(q.against)) if q.against else None
        values = {f.name: getattr(plain, f.name) for f in fields(Forecast)}
        if layout_id in self._unreached:
            text = f"{q.target_dba:.0f} dBA is not reached even with the case fans at rest; this is the lowest level."
            values["caveats"] = (*plain.caveats, Caveat("target_unreachable", text))
        return LayoutForecast(
            **values, differences=against, transient=self._transient(layout_id), zones=zones(self.doc, self.point(layout_id))
        )

    def _transient(self, layout_id: str) -> tuple[TransientRow, ...] | None:
        if self.question.minutes is None:
            return None
        point = self.point(layout_id)
        room = point.machine.room.temperature_c

        def absolute(rise: float | None) -> float | None:
            return None if rise is None else room + rise

        return tuple(
            TransientRow(m.minutes, room + m.cpu_k, absolute(m.card_k), absolute(m.coolant_k), room + m.air_rear_k)
            for m in warm_up(point.machine, self.question.minutes, self.question.every_s, point)
        )

    @property
    def can_forecast(self) -> bool:
        """Not while something stands outside the case; ``findings_doc`` says what."""
        return not outside(self.doc.case)

    def forecast_doc(self) -> ForecastDoc:
        layouts = [self._layout_forecast(x) for x in self.layout_ids]
        return ForecastDoc(load=self.question.load, defaults_used=self.resolver.defaults_used, layouts=layouts)

    def findings_doc(self) -> FindingsDoc:
        hanging = {x: tuple(Found.plain(f) for f in found(self.about(x), ("case",))) for x in self.layout_ids}
        if any(hanging.values()):
            return FindingsDoc(layouts=[LayoutFindings(x, own) for x, own in hanging.items()])
        return FindingsDoc(layouts=[LayoutFindings(x, self._offered(x)) for x in self.layout_ids])

    def _offered(self, layout_id: str) -> tuple[Found, ...]:
        """What holds, with what is offered against it and which fan on the table would do better."""
        own = [with_alternative(f, self.resolver, layout_id, self.point(layout_id)) for f in self.plain_findings(layout_id)]
        return Offers(self, layout_id, own).all()

    def beside(self, doc: JobDoc) -> "Oracle":
        """The same question about another document."""
        return Oracle(doc, self.question.model_copy(update={"against": None, "minutes": None}), self._memory)

    def plain_findings(self, layout_id: str) -> tuple[Finding, ...]:
        """What does not fit first, then the rules' findings; errors before all, what the person accepts last."""
        own = [self._weighed(layout_id, f) for f in found(self.about(layout_id))]
        return tuple(sorted(own, key=lambda f: (f.accepted is not None, GRAVEST_FIRST.index(f.severity))))

    def about(self, layout_id: str) -> About:
        return About(self.resolver, layout_id, lambda: (self.point(layout_id), self.forecast(layout_id)))

    def _weighed(self, layout_id: str, finding: Finding) -> Finding:
        """The finding with the reason for which it is accepted, if it is: by code and, where named, by the same mounts."""
        for a in self.resolver.layout(layout_id).accepted:
            if a.code == finding.code and (not a.mounts or set(a.mounts) == set(finding.mounts)):
                return replace(finding, accepted=a.reason)
        return finding
