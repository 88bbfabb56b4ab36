"""A sweep of speeds and the way to a level, for the fans of a layout that are set: what else sounds, how far they may go, what to avoid."""

from collections.abc import Mapping, Sequence
from dataclasses import asdict, dataclass, replace
from math import ceil, floor

from pydantic import BaseModel

from desk.job.resolve import Resolver
from documents.job.models import LayoutDoc
from engine.coupled.forecast import fan_level_dba, inner_levels
from engine.coupled.operating_point import loaded, operating_point
from engine.errors import ImpossibleInputError
from engine.plan.microphone import floor_words
from engine.sound.levels import sum_levels_dba
from engine.sound.sweep import SpeedLevel, bad_bands, fitted, joined, next_speed, sweep_speeds

LEAST_PCT = 20.0  # common practice, no source: many fans stall or click below
SWEEP_STEPS = 15
LEAST_FOR_BANDS = 4  # readings that a law can be told from
DRAWN = 41


@dataclass(frozen=True)
class Setting:
    """``floor_dba``: the room and all that is not set; ``full_dba``: forecast of what is set at full speed."""

    mounts: tuple[str, ...]
    floor_dba: float
    full_dba: float
    low_pct: float
    high_pct: float
    avoid_pct: tuple[tuple[float, float], ...]
    full_rpm: Mapping[str, float]  # of each kind of fan that is set
    room_dba: float


def setting_of(resolver: Resolver, layout: LayoutDoc, mounts: Sequence[str], load: str = "both") -> Setting:
    """Of the fans at some mounts, of all case fans where none is named, while the machine does what ``load`` says.

    Raises ImpossibleInputError where nothing turns there.
    """
    machine = loaded(resolver.machine(layout.id), load)
    point = operating_point(machine)
    unknown = sorted(set(mounts) - {f.mount for f in machine.fans})
    if unknown:
        raise ImpossibleInputError(f"no fan stands at {unknown[0].upper()}", "mounts", "Choose among the fans of this layout.")
    wanted = set(mounts) or {f.mount for f in machine.fans}
    own = [f for f in machine.fans if f.mount in wanted and f.running]
    if not own:
        raise ImpossibleInputError("no fan turns there", "mounts", "Choose fans that run.")
    others = [
        fan_level_dba(machine, f, pct / 100)
        for f, pct in zip(machine.fans, point.speeds.fans, strict=True)
        if f.running and pct > 0 and f.mount not in wanted
    ]
    inner = [level for _, level in inner_levels(machine, point.speeds.cooler, point.speeds.card, point.speeds.pump)]
    bands = [(100 * a / f.fan.speed_max_rpm, 100 * b / f.fan.speed_max_rpm) for f in own for a, b in f.fan.avoid_rpm]
    low = LEAST_PCT
    for f in own:
        sheet = resolver.parts["fans"].get(f.fan.id)
        if sheet is not None and sheet.speed_min_rpm:
            low = max(low, 100 * sheet.speed_min_rpm / f.fan.speed_max_rpm)
    return Setting(
        tuple(sorted(wanted)),
        sum_levels_dba([machine.room.background_dba, *others, *inner]),
        sum_levels_dba([fan_level_dba(machine, f, 1.0) for f in own]),
        float(ceil(low)),
        float(floor(min(100.0, *(f.most_pct for f in own)))),
        tuple(joined(bands)),
        {f.fan.id: f.fan.speed_max_rpm for f in own},
        machine.room.background_dba,
    )


class FanAvoidOut(BaseModel):
    """Speeds of a kind of fan that lie in a band."""

    fan: str
    from_rpm: float
    to_rpm: float


class BadBandOut(BaseModel):
    avoids: list[FanAvoidOut]
    from_pct: float
    to_pct: float
    why: str


class NextSpeedOut(BaseModel):
    speed_pct: float | None
    expected_dba: float | None
    found_pct: float | None
    within: bool
    words: str


class ProcedureDoc(BaseModel):
    """``law``: (speed, level, 95 % band) as fitted to the readings; ``bands`` found in them; ``avoid``: those that the parts know.
    ``found``: those of a sweep, which the way to a level keeps out of as well.

    ``floor_words``: what the room alone means for the level asked for; empty where it is far below it.
    """

    mounts: list[str]
    low_pct: float
    high_pct: float
    floor_dba: float
    exponent_db: float | None
    exponent_band_db: float | None
    law: list[tuple[float, float, float]]
    bands: list[BadBandOut]
    avoid: list[tuple[float, float]]
    found: list[tuple[float, float]] = []
    next: NextSpeedOut
    floor_words: str = ""


def sweep_of(setting: Setting, readings: Sequence[SpeedLevel]) -> ProcedureDoc:
    """How far a sweep is, the law through what was read, and the speeds to avoid."""
    speeds = sweep_speeds(setting.low_pct, setting.high_pct, SWEEP_STEPS)
    left = [s for s in speeds if not any(abs(r.speed_pct - s) < 1 for r in readings)]
    found = _bad(setting, readings) if len(readings) >= LEAST_FOR_BANDS else []
    count = f"{len(found) or 'no'} band{'' if len(found) == 1 else 's'} to avoid"
    words = f"set {left[0]:.0f} %, {len(left)} to go" if left else f"the sweep is whole: {count}"
    step = NextSpeedOut(speed_pct=left[0] if left else None, expected_dba=None, found_pct=None, within=False, words=words)
    return _document(setting, readings, step, found)


@dataclass(frozen=True)
class Elsewhere:
    """A sweep of the same fans while the machine does something else: what is set and sings is the same, the rest is not."""

    setting: Setting
    swept: Sequence[SpeedLevel]


def equal_of(
    setting: Setting,
    readings: Sequence[SpeedLevel],
    target_dba: float,
    swept: Sequence[SpeedLevel] = (),
    elsewhere: Elsewhere | None = None,
) -> ProcedureDoc:
    """The next speed on the way to a level, or the speed that gives it. ``swept``: of a sweep of the same fans: its law is where to
    begin, and the bands that it found are kept out of; of one ``elsewhere`` the bands, and what the fans alone give at full speed."""
    bands = _bad(setting, swept) if len(swept) >= LEAST_FOR_BANDS else []
    if elsewhere and len(elsewhere.swept) >= LEAST_FOR_BANDS:
        bands += _bad(elsewhere.setting, elsewhere.swept)
        if not swept:
            setting = replace(setting, full_dba=fitted(elsewhere.swept, elsewhere.setting.floor_dba, elsewhere.setting.full_dba).full_dba)
    found = joined([(b.from_pct, b.to_pct) for b in bands])
    out_of = joined([*setting.avoid_pct, *found])
    step = next_speed(readings, target_dba, setting.floor_dba, setting.full_dba, setting.low_pct, setting.high_pct, out_of, swept)
    document = _document(setting, [*swept, *readings], NextSpeedOut(**asdict(step)), [])
    return document.model_copy(update={"floor_words": floor_words(setting.room_dba, target_dba), "found": found})


def _bad(setting: Setting, readings: Sequence[SpeedLevel]) -> list[BadBandOut]:
    """Each with what to write to the fans that were set."""
    law = fitted(readings, setting.floor_dba, setting.full_dba)
    return [
        BadBandOut(
            from_pct=round(b.from_pct, 1),
            to_pct=round(b.to_pct, 1),
            why=b.why,
            avoids=[
                FanAvoidOut(fan=fan, from_rpm=round(b.from_pct * full / 100), to_rpm=round(b.to_pct * full / 100))
                for fan, full in setting.full_rpm.items()
            ],
        )
        for b in bad_bands(readings, law)
    ]


def _document(setting: Setting, readings: Sequence[SpeedLevel], step: NextSpeedOut, bands: list[BadBandOut]) -> ProcedureDoc:
    law = fitted(readings, setting.floor_dba, setting.full_dba)
    span = [setting.low_pct + (setting.high_pct - setting.low_pct) * i / (DRAWN - 1) for i in range(DRAWN)]
    return ProcedureDoc(
        mounts=list(setting.mounts),
        low_pct=setting.low_pct,
        high_pct=setting.high_pct,
        floor_dba=round(law.floor_dba, 2),
        exponent_db=round(law.exponent_db, 1) if readings else None,
        exponent_band_db=round(1.96 * law.sd[1], 1) if readings else None,
        law=[(round(p, 2), round(float(law.level_dba(p)), 2), round(law.band_db(p), 2)) for p in span],
        bands=bands,
        avoid=[(round(a, 1), round(b, 1)) for a, b in setting.avoid_pct],
        next=step,
    )
