"""Protocols and the plan in the job document."""

from dataclasses import asdict
from typing import Annotated, Any, Literal

from pydantic import Field

from documents.job.base import Doc, Id, NotNegative, Temperature
from engine.plan.protocol import TEMPLATES, Criterion, Ending, Limit, Load, Protocol, RoomRule, Statistic

Minutes = Annotated[float, Field(gt=0, le=1440)]
Channel = Annotated[str, Field(pattern=r"^[a-z0-9_]+$", max_length=60)]
Role = Literal["run", "control_start", "control_middle", "control_end", "repeat"]


class LimitDoc(Doc):
    """A channel that must not go above (or below) a value; ``stop`` ends the run and tells the bench to take the load off."""

    channel: Channel
    value: float
    act: Literal["alarm", "stop"] = "stop"
    below: bool = False
    hold_s: NotNegative = 5
    set_by: Annotated[str, Field(max_length=80)] = ""


class CriterionDoc(Doc):
    channel: Channel
    most_k: NotNegative | None = None
    most_c: Temperature | None = None
    steady_k_min: NotNegative | None = None
    critical: bool = False


class HeldDoc(Doc):
    """Something that stays the same in every run; ``value`` as it is set, where there is one."""

    what: Annotated[str, Field(min_length=1, max_length=60)]
    value: Annotated[str, Field(max_length=80)] = ""


class ProtocolDoc(Doc):
    """One version of a way to make runs. A version that runs were made with stays; a change makes the next one."""

    id: Id
    version: Annotated[int, Field(ge=1)] = 1
    name: Annotated[str, Field(max_length=120)] = ""
    purpose: Annotated[str, Field(max_length=500)] = ""
    template: str = "own"
    loads: Annotated[list[Load], Field(min_length=1)] = ["both"]
    minutes: Minutes = 30
    least_minutes: NotNegative = 5
    end: Ending = "settled"
    statistic: Statistic = "tail_mean"
    window_s: Annotated[float, Field(ge=10, le=3600)] = 300
    room: RoomRule = "logged"
    cool_down_k: NotNegative | None = 4
    purge_minutes: NotNegative = 15
    ready_s: Annotated[float, Field(ge=0, le=120)] = 10
    held: list[HeldDoc] = []
    limits: list[LimitDoc] = []
    criteria: list[CriterionDoc] = []
    cautions: list[str] = []
    microphone_m: Annotated[float, Field(gt=0, le=20)] | None = None
    microphone_place: Annotated[str, Field(max_length=200)] = ""
    background: bool = False

    @property
    def key(self) -> str:
        return f"{self.id} v{self.version}"

    def to_engine(self) -> Protocol:
        return Protocol(
            id=self.id,
            name=self.name,
            purpose=self.purpose,
            version=self.version,
            loads=tuple(self.loads),
            minutes=self.minutes,
            least_minutes=min(self.least_minutes, self.minutes),
            end=self.end,
            statistic=self.statistic,
            window_s=self.window_s,
            room=self.room,
            cool_down_k=self.cool_down_k,
            purge_minutes=self.purge_minutes,
            ready_s=self.ready_s,
            held=tuple(h.what for h in self.held),
            limits=tuple(Limit(**x.model_dump(include={"channel", "value", "act", "below", "hold_s", "set_by"})) for x in self.limits),
            criteria=tuple(
                Criterion(**x.model_dump(include={"channel", "most_k", "most_c", "steady_k_min", "critical"})) for x in self.criteria
            ),
            cautions=tuple(self.cautions),
            microphone_m=self.microphone_m,
            background=self.background,
        )


def templates() -> list[ProtocolDoc]:
    """A first version of every template."""
    return [from_template(key) for key in TEMPLATES]


def from_template(template: str, ident: str | None = None) -> ProtocolDoc:
    """A first version of a template, to be changed as the person likes. Raises KeyError for an unknown one."""
    given = TEMPLATES[template]
    raw: dict[str, Any] = asdict(given)
    raw |= {"id": ident or given.id, "template": template, "held": [{"what": w} for w in given.held]}
    return ProtocolDoc.model_validate(raw)


class PlannedRunDoc(Doc):
    id: Id
    layout: Id
    protocol: Id
    load: Load = "both"
    role: Role = "run"
    nth: Annotated[int, Field(ge=1)] = 1


class GuessDoc(Doc):
    """What the person expects before the first run."""

    best: Id | None = None
    over: Id | None = None  # the layout that it is compared with: the control where nothing is said
    cpu_k: Annotated[float, Field(ge=-100, le=100)] | None = None  # how much warmer the best's processor will be, negative: cooler
    card_k: Annotated[float, Field(ge=-100, le=100)] | None = None
    words: Annotated[str, Field(max_length=500)] = ""


class PlanDoc(Doc):
    """Which runs, in which order. ``control`` is the layout that is run first and again at the end."""

    protocol: Id
    control: Id | None = None
    repeats: Annotated[int, Field(ge=1, le=10)] = 1
    runs: list[PlannedRunDoc] = []
    guess: GuessDoc = GuessDoc()
    case_confirmed: Annotated[str, Field(max_length=400)] = ""  # the case as somebody confirmed it before the campaign, in words
    note: Annotated[str, Field(max_length=1000)] = ""
