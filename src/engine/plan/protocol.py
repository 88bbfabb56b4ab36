"""How a run is made so that it can be compared: load, length, window, what is held, gates, limits and criteria.

Lengths and gates are common practice, no source; each can be changed by the person, and a change makes a new version.
"""

from dataclasses import dataclass, field
from types import MappingProxyType
from typing import Literal

Load = Literal["idle", "cpu", "card", "both", "game", "job"]
Statistic = Literal["tail_mean", "tail_max", "last_minute", "core_mean"]
Ending = Literal["settled", "fixed"]
RoomRule = Literal["logged", "both_ends"]
Act = Literal["alarm", "stop"]

LOAD_WORDS = MappingProxyType(
    {
        "idle": "idle",
        "cpu": "processor loaded",
        "card": "card loaded",
        "both": "both parts loaded",
        "game": "like a game",
        "job": "timing a job",
    }
)

# What must not change between runs that are compared; the words of the checklist.
HELD = MappingProxyType(
    {
        "cpu_limit": "processor's power limit or fixed clock",
        "card_fans": "card's fans, %",
        "pump": "pump, %",
        "curves": "fan curves or fixed speeds",
        "room": "same room and place",
        "panels": "panels as the layout says",
        "room_fan": "no room fan, window or air conditioning",
        "load": "same load program and version",
    }
)

LAST_MINUTE_S = 60.0  # as its name says

# What a new limit starts from, by channel; common practice, no source. The person sets their own.
USUAL_LIMITS = MappingProxyType(
    {
        "cpu_package_c": 95.0,
        "card_core_c": 90.0,
        "card_hotspot_c": 105.0,
        "card_memory_c": 100.0,
        "vrm_c": 100.0,
        "coolant_c": 60.0,
        "air_rear_c": 55.0,
        "pump_rpm": 600.0,
    }
)

# Acknowledged before the run may start; the words are the interface's cautions.
CAUTIONS = ("fog", "solvent", "panel_off", "chamber", "cap_raised", "blocked_vents", "long_load")


@dataclass(frozen=True)
class Limit:
    """A channel that must not go ``above`` (or, a pump or fan, ``below``) a value for ``hold_s``; who set it is kept."""

    channel: str
    value: float
    act: Act = "stop"
    below: bool = False
    hold_s: float = 5.0
    set_by: str = ""

    def crossed(self, value: float) -> bool:
        return value < self.value if self.below else value > self.value


@dataclass(frozen=True)
class Criterion:
    """Acceptance of one channel: at most ``most_k`` over room, or ``most_c``; steady to ``steady_k_min`` where given."""

    channel: str
    most_k: float | None = None
    most_c: float | None = None
    steady_k_min: float | None = None
    critical: bool = False


@dataclass(frozen=True)
class Protocol:
    """One version of one way to make a run."""

    id: str
    name: str
    purpose: str
    version: int = 1
    loads: tuple[Load, ...] = ("both",)
    minutes: float = 30.0  # the most a run takes; with ``end`` settled it may end earlier
    least_minutes: float = 5.0
    end: Ending = "settled"
    statistic: Statistic = "tail_mean"
    window_s: float = 300.0
    room: RoomRule = "logged"
    cool_down_k: float | None = 4.0  # parts at most this far over room before the next run
    purge_minutes: float = 15.0  # a new or refilled loop runs this long before it is judged
    ready_s: float = 10.0  # hands off: counted down before logging begins
    held: tuple[str, ...] = ("cpu_limit", "card_fans", "curves", "room", "panels", "room_fan", "load")
    limits: tuple[Limit, ...] = ()
    criteria: tuple[Criterion, ...] = ()
    cautions: tuple[str, ...] = ()
    microphone_m: float | None = None
    background: bool = False  # the room's own level before and after

    @property
    def averaged_s(self) -> float:
        """Length of the window at the end that the statistic is taken over."""
        return LAST_MINUTE_S if self.statistic == "last_minute" else self.window_s


_STOP_CPU = Limit("cpu_package_c", 105.0)  # above what parts throttle at; common practice, no source
_STOP_CARD = Limit("card_core_c", 100.0)  # common practice, no source
_HOT_LIQUID = Limit("coolant_c", 60.0)  # what pumps and tubes are mostly rated to; common practice, no source

TEMPLATES: MappingProxyType[str, Protocol] = MappingProxyType(
    {
        p.id: p
        for p in (
            Protocol(
                "short",
                "Short comparison",
                "Layouts of one case against each other on air, as short as is honest.",
                limits=(_STOP_CPU, _STOP_CARD),
            ),
            Protocol(
                "soak",
                "Coolant soak",
                "A liquid loop, until the coolant has settled too.",
                minutes=60,
                least_minutes=15,
                held=("cpu_limit", "card_fans", "pump", "curves", "room", "panels", "room_fan", "load"),
                limits=(_STOP_CPU, _STOP_CARD, _HOT_LIQUID, Limit("pump_rpm", 600.0, below=True)),
            ),
            Protocol(
                "acceptance",
                "Full-load acceptance",
                "Proof against limits over room in named places, an hour or more.",
                minutes=75,
                least_minutes=60,
                window_s=600,
                statistic="tail_max",
                limits=(_STOP_CPU, _STOP_CARD, _HOT_LIQUID),
                criteria=(
                    Criterion("cpu_package_c", most_k=65, steady_k_min=0.1, critical=True),
                    Criterion("card_core_c", most_k=60, steady_k_min=0.1, critical=True),
                    Criterion("vrm_c", most_k=60),
                ),
                cautions=("long_load",),
            ),
            Protocol(
                "noise",
                "Noise-normalised",
                "Each layout at the speeds that give the same level at the listener's place.",
                microphone_m=0.8,
                background=True,
                limits=(_STOP_CPU, _STOP_CARD),
            ),
            Protocol(
                "restriction",
                "Panel-off restriction test",
                "The same layout with a panel fitted and off: what the panel costs.",
                cautions=("panel_off",),
                limits=(_STOP_CPU, _STOP_CARD),
            ),
            Protocol(
                "open_bench",
                "Open-bench control",
                "The same parts without the case's walls: the zero line.",
                cautions=("panel_off",),
                limits=(_STOP_CPU, _STOP_CARD),
            ),
            Protocol(
                "before_after",
                "Before and after",
                "As it stands now, then changed, then as it stood again.",
                limits=(_STOP_CPU, _STOP_CARD),
            ),
            Protocol(
                "real_work",
                "Real work",
                "Idle, processor, card and both, then a job by the clock: four runs and a time for each layout.",
                loads=("idle", "cpu", "card", "both", "job"),
                limits=(_STOP_CPU, _STOP_CARD),
            ),
        )
    }
)


def suggested(liquid: bool) -> str:
    """The template to begin with: a loop takes its time."""
    return "soak" if liquid else "short"


@dataclass(frozen=True)
class CriterionResult:
    """One criterion against a run: how much is left, negative where it failed; None where the channel was not read."""

    channel: str
    limit: float
    over_room: bool
    value: float | None
    margin_k: float | None
    passed: bool
    critical: bool
    words: str


@dataclass(frozen=True)
class Acceptance:
    """All criteria of a protocol against one run. ``worst`` is the channel with the least margin."""

    passed: bool
    margin_k: float | None
    worst: str | None
    lines: tuple[CriterionResult, ...] = field(default=())
    why: str = ""  # what speaks against it whatever its figures say: it did not settle, a limit ended it
