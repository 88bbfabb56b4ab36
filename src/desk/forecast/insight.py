"""Questions beyond the forecast of settled layouts: the account behind a figure, time, quiet speeds, where air goes."""

from collections.abc import Sequence
from dataclasses import dataclass, replace
from typing import Annotated, Literal

from pydantic import AfterValidator, BaseModel, Field

from desk.forecast.document import Oracle
from desk.forecast.taught import rises_beyond, speeds_as_taught
from documents.job.case import PointDoc
from engine.coupled.explain import Account
from engine.coupled.operating_point import OperatingPoint
from engine.coupled.quiet import QuietSpeeds, groups_by_face
from engine.coupled.system_line import FanAtWork, fan_at_work, other_fan
from engine.coupled.tracer import FlowPicture, Tracer, flow_picture, release
from engine.coupled.transient import Event, Moment, Profile, Settling, advised_minutes, run, settle_times
from engine.errors import ImpossibleInputError
from engine.machine import Point
from engine.plan.watch import LOST_HOLD_S, LOST_SHARE


class ProfileIn(BaseModel):
    """How the load goes over time; see ``engine.coupled.transient.Profile``."""

    shape: Literal["step", "burst", "game", "gaps"] = "step"
    period_s: Annotated[float, Field(gt=0, le=86_400)] = 600
    on_s: Annotated[float, Field(gt=0, le=86_400)] = 120


class EventIn(BaseModel):
    """Something that changes on the way: for ``pump_slows`` ``amount`` is % of full speed, for ``room_warms`` K."""

    minutes: Annotated[float, Field(ge=0, le=1440)]
    kind: Literal["fan_stops", "pump_slows", "filter_clogs", "room_warms"]
    mount: str | None = None
    amount: Annotated[float, Field(ge=-40, le=100)] = 0


class TimeQuestion(BaseModel):
    minutes: Annotated[float, Field(gt=0, le=1440)] = 60
    every_s: Annotated[float, Field(ge=1, le=3600)] = 30
    profile: ProfileIn = ProfileIn()
    events: list[EventIn] = []
    warm: bool = False


Band = Annotated[tuple[float, float], AfterValidator(lambda ends: (min(ends), max(ends)))]  # rpm, in whichever order it is typed


class QuietQuestion(BaseModel):
    target_dba: Annotated[float, Field(gt=0, le=120)]
    together: bool = False
    avoid_rpm: list[Band] = []


@dataclass(frozen=True)
class TimeRow:
    """Temperatures in deg C, powers in W, speeds in % of case fans in the layout's order, then the cooler's and the card's."""

    minutes: float
    cpu_c: float
    card_c: float | None
    coolant_c: float | None
    air_rear_c: float
    cpu_w: float
    card_w: float
    fans_pct: tuple[float, ...]


@dataclass(frozen=True)
class TimeAnswer:
    rows: tuple[TimeRow, ...]
    settles: tuple[Settling, ...]
    advised_minutes: float | None
    mishap: "Mishap | None" = None


@dataclass(frozen=True)
class BeforeAfter:
    """A channel in deg C just before something went wrong and at the end of the run."""

    channel: str
    before_c: float
    after_c: float


@dataclass(frozen=True)
class Mishap:
    """What went wrong, what it did, and what would tell of it. ``limit_minutes``: until a part gives up power, none where it never does."""

    at_minutes: float
    channels: tuple[BeforeAfter, ...]
    limit_minutes: float | None
    limited: str
    alarm: str


PUFF_MM = 20.0  # no source: half the size of a puff


@dataclass(frozen=True)
class AirAnswer:
    """The flow picture, and smoke let out in one space if one was named."""

    picture: FlowPicture
    tracer: Tracer | None


@dataclass(frozen=True)
class QuietAnswer:
    speeds: QuietSpeeds
    cpu_c: float
    card_c: float | None
    groups: dict[str, tuple[str, ...]]
    learned: int | None = None  # how many runs the figures rest on beside the parts' sheets


class Insight:
    """Deeper questions about one layout, the first that is asked about.

    A run over time is one of the learned parameters, its end that of the settled forecast where nothing changes on the way.
    """

    def __init__(self, oracle: Oracle) -> None:
        self._oracle = oracle
        self._layout = oracle.layout_ids[0]

    @property
    def point(self) -> OperatingPoint:
        return self._oracle.point(self._layout)

    def account(self, figure: str) -> Account:
        return self._oracle.account(self._layout, figure)

    def time(self, q: TimeQuestion) -> TimeAnswer:
        machine = self._oracle.machine(self._layout)
        profile = Profile(q.profile.shape, q.profile.period_s, q.profile.on_s)
        events = [Event(e.minutes, e.kind, e.mount, e.amount) for e in q.events]
        own, idle_w = self._oracle.parameters, self._oracle.idle_w(self._layout)
        rows = self._as_taught(run(machine, q.minutes, q.every_s, profile, events, q.warm, own, idle_w))
        room = machine.room.temperature_c
        shown = tuple(
            TimeRow(
                r.minutes,
                room + r.cpu_k,
                _plus(room, r.card_k),
                _plus(room, r.coolant_k),
                room + r.air_rear_k,
                r.cpu_w,
                r.card_w,
                r.fans_pct,
            )
            for r in rows
        )
        settles = tuple(settle_times(rows))
        return TimeAnswer(shown, settles, advised_minutes(settles), self._mishap(q.events, shown) if q.events else None)

    def _as_taught(self, rows: Sequence[Moment]) -> list[Moment]:
        """What the runs say beyond the parameters goes in proportion to the rise, up to a part's limit."""
        beyond, m = self._oracle.beyond(self._layout), self._oracle.machine(self._layout)
        if beyond == (1.0, 1.0):
            return list(rows)
        told = (rises_beyond(m, beyond, r.cpu_k, r.card_k) for r in rows)
        return [replace(r, cpu_k=cpu_k, card_k=card_k) for r, (cpu_k, card_k) in zip(rows, told, strict=True)]

    def _mishap(self, events: Sequence[EventIn], rows: Sequence[TimeRow]) -> Mishap | None:
        first = min(events, key=lambda e: e.minutes)
        before = [r for r in rows if r.minutes <= first.minutes]
        if not before or before[-1] is rows[-1]:
            return None
        was, now = before[-1], rows[-1]
        told = [("cpu", was.cpu_c, now.cpu_c), ("air_rear", was.air_rear_c, now.air_rear_c)]
        told += [("card", was.card_c, now.card_c)] if was.card_c is not None and now.card_c is not None else []
        told += [("coolant", was.coolant_c, now.coolant_c)] if was.coolant_c is not None and now.coolant_c is not None else []
        lost = [
            (r.minutes - first.minutes, name)
            for r in rows
            for name, watts, had in (("the processor", r.cpu_w, was.cpu_w), ("the card", r.card_w, was.card_w))
            if r.minutes > first.minutes and watts < had - 0.5
        ]
        minutes, limited = min(lost, default=(None, ""))
        return Mishap(first.minutes, tuple(BeforeAfter(*t) for t in told), minutes, limited, _alarm(first))

    def quiet(self, q: QuietQuestion) -> QuietAnswer:
        machine = self._oracle.machine(self._layout)
        faces = groups_by_face(machine)
        groups = {"all": tuple(m for mounts in faces.values() for m in mounts)} if q.together else faces
        found = speeds_as_taught(self._oracle, self._layout, q.target_dba, groups, q.avoid_rpm).speeds
        room = machine.room.temperature_c
        return QuietAnswer(found, room + found.cpu_rise_k, _plus(room, found.card_rise_k), groups, self._oracle.taught_by or None)

    def air(self, space: str | None, at_mm: PointDoc | None = None) -> AirAnswer:
        """Smoke comes out in a space, or where a point of the case is."""
        place: str | dict[str, float] | None = space
        if at_mm is not None:
            m = self.point.machine
            if not (0 <= at_mm.x <= m.depth_mm and 0 <= at_mm.y <= m.width_mm and 0 <= at_mm.z <= m.height_mm):
                do = f"Give x up to {m.depth_mm:g}, y up to {m.width_mm:g}, z up to {m.height_mm:g} mm."
                raise ImpossibleInputError("this point is not in the case", "at_mm", do)
            low, high = (Point(at_mm.x + half, at_mm.y + half, at_mm.z + half) for half in (-PUFF_MM, PUFF_MM))
            place = self.point.spaces.within(low, high)
        return AirAnswer(flow_picture(self.point), release(self.point, place) if place else None)


def _alarm(event: EventIn) -> str:
    if event.kind == "fan_stops":
        name = (event.mount or "").upper()
        return (
            f"Its tachometer tells at once: a run at the bench that logs {name} alarms {LOST_HOLD_S:.0f} s after its speed falls under "
            f"{100 * LOST_SHARE:.0f} % of the usual."
        )
    if event.kind == "pump_slows":
        return "The pump's tachometer tells at once where it is logged; without it only the coolant does, minutes later."
    if event.kind == "filter_clogs":
        return "Nothing alarms: it comes over months. A run like the first one, compared with it, shows it; so does a look at the filter."
    return "A probe in the room tells. Without one it looks like worse cooling: log the room, and compare over the room."


def _plus(room_c: float, rise_k: float | None) -> float | None:
    return None if rise_k is None else room_c + rise_k


class FanFlow(BaseModel):
    fan: str
    flow_m3h: float


class FanAtWorkOut(BaseModel):
    """A fan in its place, and what the other fans at hand would move there at the same share of speed, most first."""

    work: FanAtWork
    others: list[FanFlow]


def fan_in_place(oracle: Oracle, mount: str, layer: Literal["outer", "inner"]) -> FanAtWorkOut:
    """Of the first layout asked about. Raises ImpossibleInputError where no fan stands there."""
    point = oracle.point(oracle.layout_ids[0])
    work = fan_at_work(point, mount, layer)
    size = next(f.fan.size_mm for f in point.machine.fans if f.mount == mount and f.layer == layer)
    alike = [f for f in oracle.resolver.doc.parts.fans if f.size_mm == size]
    others = [FanFlow(fan=f.id, flow_m3h=other_fan(point, mount, layer, oracle.resolver.fan(f))) for f in alike]
    return FanAtWorkOut(work=work, others=sorted(others, key=lambda x: -x.flow_m3h))
