"""All words, defaults and ranges in one mapping, as the front end's file of them is generated from it."""

import re
from collections.abc import Iterator, Mapping
from typing import Annotated, Any, Literal, get_args, get_origin

from pydantic import BaseModel
from pydantic.fields import FieldInfo

from desk.job.resolve import BASE_DEFAULTS, STAND_OFF_MM, TILT_DEG
from desk.words import bench, build, care, cautions, channels, choices, faults, measures, practice, sound, verdict
from desk.words.parts import PARTS, Asked, PartWords
from desk.words.ranges import ASKED, POINT_MM, ROWS, WITHIN
from desk.words.terms import TERMS
from documents.job.case import PointDoc
from documents.job.models import JobDoc, PartsDoc
from engine.constants import CARD_BLOCK_K_W
from engine.coupled.compare import WATT_WORTH_K
from engine.fit.ledger import SOURCE_TOLERANCE_MM
from engine.plan.protocol import HELD, LOAD_WORDS, USUAL_LIMITS
from engine.plan.rebuild import MINUTES
from engine.runs.analysis import MOST_BAND_K, UNKNOWN_END
from engine.verdict.choose import STEP
from engine.verdict.compare import HIGHER_IS_BETTER
from engine.verdict.scatter import RESULTS


def rebuild_kinds() -> list[tuple[str, str, float]]:
    """Kinds of hand work in words, with the minutes that are usual."""
    return [(kind, choices.REBUILD_KINDS[kind], minutes) for kind, minutes in MINUTES.items()]


LOOKED_UP: Mapping[str, Mapping[str, str]] = {
    "CHANNEL_WORDS": channels.CHANNELS,
    "CHANNEL_UNITS": channels.KIND_BY_UNIT,
    "LOG_UNITS": bench.LOG_UNITS,
    "HELD": HELD,
    "RUN_LOADS": LOAD_WORDS,
    "PHASES": bench.PHASES,
    "SUITES": bench.SUITES,
    "ENDINGS": bench.ENDINGS,
    "OF_ITSELF": bench.OF_ITSELF,
    "MARKS": bench.MARKS,
    "FLAGS": bench.FLAGS,
    "RESTRICTS": bench.RESTRICTS,
    "CAUTIONS": cautions.CAUTIONS,
    "PAIR_WORDS": verdict.PAIR_WORDS,
    "SIGNS": verdict.SIGNS,
    "LOADS": verdict.LOADS,
    "THINGS": verdict.THINGS,
    "SEVERITIES": choices.SEVERITIES,
    "FIT": choices.FIT,
    "HEADROOM": choices.HEADROOM,
    "FORECAST_CHANNELS": choices.FORECAST_CHANNELS,
    "SPACE_ROWS": choices.SPACE_ROWS,
    "SPACE_COLUMNS": choices.SPACE_COLUMNS,
    "LOOP_LIES": choices.LOOP_LIES,
    "LOOP_ENDS": choices.LOOP_ENDS,
    "LOOP_AIR": choices.LOOP_AIR,
    "NAMED": choices.NAMED,
    "AREAS": choices.AREAS,
    "BUILD_CHAPTERS": build.CHAPTERS,
    "BUILD_OVER": build.OVER,
    "PRACTICE_PLANTED": practice.PLANTED,
    "PRACTICE_LEVELS": practice.LEVELS,
    "CARE_ITEMS": care.ITEMS,
    "UNIT_CAUSES": faults.CAUSES,
    "UNIT_VERDICTS": faults.VERDICTS,
    "UNIT_WORDS": faults.WORDS,
    "CURVE_FOLLOWS": build.FOLLOWS,
    "CLIP_FLAGS": sound.CLIP_FLAGS,
}
CHOSEN: Mapping[str, Mapping[str, str]] = {
    "EVENTS": bench.EVENTS,
    "SEEN": bench.SEEN,
    "HEARD": bench.HEARD,
    "TRAITS": bench.TRAITS,
    "STATISTICS": bench.STATISTICS,
    "DUST": care.DUST,
    "CLIP_KINDS": sound.CLIP_KINDS,
    "CLIP_TIES": sound.CLIP_TIES,
    "SOUND_SIDES": sound.SOUND_SIDES,
    "METERS": sound.METERS,
    "SOUND_LOADS": sound.SOUND_LOADS,
    "MATTERS": verdict.MATTERS,
    "FORECAST_LOADS": verdict.FORECAST_LOADS,
    "FACES": choices.FACES,
    "FINDING_KINDS": choices.FINDING_KINDS,
    "ORDERS": choices.ORDERS,
    "SHEET_ORDERS": choices.SHEET_ORDERS,
    "LESSONS": choices.LESSONS,
    "TRADES": choices.TRADES,
    "FAN_PILES": choices.FAN_PILES,
    "RUN_KINDS": choices.RUN_KINDS,
    "FACTORS": choices.FACTORS,
    "SHAPES": choices.SHAPES,
    "MISHAPS": choices.MISHAPS,
    "PHOTO_READINGS": choices.PHOTO_READINGS,
}


def told() -> dict[str, Any]:
    """By name: lists of ``{"value", "words"}`` for what is chosen, mappings for what is looked up."""
    chosen = {name: listed(words) for name, words in choices.CHOICES.items()}
    chosen["layout.cooler_direction:tower"] = [c for c in chosen["layout.cooler_direction"] if c["value"] in choices.TOWER_WAYS]
    chosen["layout.cooler_direction:downdraft"] = [c for c in chosen["layout.cooler_direction"] if c["value"] in choices.DOWNDRAFT_WAYS]
    return {
        "FIGURES": figures() | {at: dict(zip(("low", "high"), span, strict=True)) for at, span in [*ASKED.items(), *ROWS.items()]},
        "USUAL": {
            **choices.USUAL,
            "base": dict(BASE_DEFAULTS),
            "tolerance_mm": dict(SOURCE_TOLERANCE_MM),
            "stand_off_mm": STAND_OFF_MM,
            "angle_deg": TILT_DEG,
        },
        "CHOICES": chosen,
        **{name: dict(words) for name, words in LOOKED_UP.items()},
        **{name: listed(words) for name, words in CHOSEN.items()},
        "CHANNEL_PATTERNS": [list(p) for p in channels.PATTERNS],
        "MAPPED_CHANNELS": list(channels.MAPPED),
        "TYPED_CHANNELS": list(channels.TYPED),
        "HAND_CHANNELS": list(channels.BY_HAND),
        "LEADING_CHANNELS": list(channels.LEADING),
        "USUAL_LIMITS": dict(USUAL_LIMITS),
        "ENDS": {"most_band_k": MOST_BAND_K, "watt_worth_k": WATT_WORTH_K, "whole_band": measures.WHOLE_BAND, "unknown": UNKNOWN_END},
        "RESULTS": list(RESULTS),
        "HIGHER_IS_BETTER": list(HIGHER_IS_BETTER),
        "STEPS": dict(STEP),
        "TERMS": {key: list(found) for key, found in TERMS.items()},
        "TICKED": {key: {"name": name, "words": cautions.CAUTIONS[caution]} for key, (name, caution) in cautions.TICKED.items()},
        "DESIGNS": [{"value": name, "words": words, "why": why} for name, (words, why) in choices.DESIGNS.items()],
        "REBUILD_KINDS": [{"value": kind, "words": words, "minutes": minutes} for kind, words, minutes in rebuild_kinds()],
        "INSTRUMENTS": [
            {"value": name, "words": words, "every_s": every, "channels": channels}
            for name, (words, every, channels) in bench.INSTRUMENTS.items()
        ],
        "LIKES": [{"value": name, "words": words, "about": about} for name, (words, about) in choices.LIKES.items()],
        "MICROPHONE_PLACES": [
            {"value": name, "words": words, "distance_m": m, "height_m": high, "side": side}
            for name, (words, m, high, side) in sound.PLACES.items()
        ],
        "MEASURES": measures.tables(),
        "MEASURED": {"pattern": measures.PATTERN, "number": measures.NUMBER, "named_mm": list(measures.NAMED_MM)},
        "PART_KINDS": [kind(name, words) for name, words in PARTS.items()],
    }


def listed(words: Mapping[str, str]) -> list[dict[str, str]]:
    return [{"value": value, "words": said} for value, said in words.items()]


def kind(name: str, words: PartWords) -> dict[str, Any]:
    """A kind of part with what is asked of it; a field without a value falls back on its model's default."""
    given = defaults(part_model(name))
    fields = [_field(field, asked, given.get(field)) for field, asked in words.fields.items()]
    more = {"base": words.base, "caution": words.caution, "tells": [{"field": f, "as": as_} for f, as_ in (words.tells or {}).items()]}
    said = {"name": name, "words": words.words, "one": words.one, "remark": words.remark}
    return said | {key: value for key, value in more.items() if value} | {"fields": fields}


def _field(name: str, asked: Asked, default: Any) -> dict[str, Any]:
    stated = CARD_BLOCK_K_W if name == "block_k_per_w" else None
    found = {
        "name": name,
        "words": asked.words,
        "kind": asked.unit if asked.unit != "plain" else None,
        "low": asked.low,
        "high": asked.high,
        "digits": asked.digits,
        "optional": f"{stated:g}" if stated is not None else asked.optional,
        "fallback": default if asked.way == "number" and default is not None else None,
        "choices": listed(asked.choices) if asked.choices else None,
        "only": list(asked.only) or None,
        "as": asked.way if asked.way in ("text", "tick") else None,
    }
    return {key: value for key, value in found.items() if value is not None}


def part_model(kind_name: str) -> type[BaseModel]:
    """The model of one part of a kind, by its list's name in ``parts``."""
    return next(iter(_held(PartsDoc.model_fields[kind_name].annotation)))


def models(root: type[BaseModel], seen: set[type[BaseModel]] | None = None) -> Iterator[tuple[str, type[BaseModel]]]:
    """Name and model of a document and of everything it holds: ``FanPlaceDoc`` is "fan_place"."""
    seen = set() if seen is None else seen
    if root in seen:
        return
    seen.add(root)
    yield re.sub(r"(?<!^)(?=[A-Z])", "_", root.__name__.removesuffix("Doc")).lower(), root
    for field in root.model_fields.values():
        for model in _held(field.annotation):
            yield from models(model, seen)


def _held(annotation: Any) -> Iterator[type[BaseModel]]:
    if isinstance(annotation, type) and issubclass(annotation, BaseModel):
        yield annotation
    for inner in get_args(annotation):
        yield from _held(inner)


def defaults(model: type[BaseModel]) -> dict[str, Any]:
    """Plain defaults of a model: numbers, words and ticks. What is empty until it is said has none."""
    given = {name: field.get_default() for name, field in model.model_fields.items() if not field.is_required()}
    return {name: value for name, value in given.items() if isinstance(value, bool | int | float) or (isinstance(value, str) and value)}


def figures(model: type[BaseModel] = JobDoc, place: str = "") -> dict[str, dict[str, Any]]:
    """Least and most of every number of the document and the default of every field, by place; ``*`` stands for a row or a name."""
    found: dict[str, dict[str, Any]] = {}
    for name, field in model.model_fields.items():
        at = f"{place}{name}"
        for inward, held in _places(field.annotation, at):
            found |= figures(held, f"{inward}.")
        low_high = WITHIN.get(at) or _limits(field)
        low_high = POINT_MM if model is PointDoc and at.startswith("case.") else low_high
        default = None if field.is_required() else field.get_default()
        said: dict[str, Any] = dict(zip(("low", "high"), low_high, strict=True)) if low_high else {}
        if isinstance(default, bool | int | float) or (isinstance(default, str) and default):
            said["fallback"] = default
        if said:
            found[at] = said
    return found


def _places(annotation: Any, at: str) -> Iterator[tuple[str, type[BaseModel]]]:
    """Models held by a field, each with the place it stands at."""
    if isinstance(annotation, type) and issubclass(annotation, BaseModel):
        yield at, annotation
    rows = get_origin(annotation) in (list, dict)
    for inner in get_args(annotation):
        yield from _places(inner, f"{at}.*" if rows else at)


def _limits(field: FieldInfo) -> tuple[float, float] | None:
    marks = [*field.metadata, *(m for a in _annotated(field.annotation) for m in a)]
    low = next((float(m.ge if hasattr(m, "ge") else m.gt) for m in marks if hasattr(m, "ge") or hasattr(m, "gt")), None)
    high = next((float(m.le if hasattr(m, "le") else m.lt) for m in marks if hasattr(m, "le") or hasattr(m, "lt")), None)
    return None if low is None or high is None else (low, high)


def _annotated(annotation: Any) -> Iterator[tuple[Any, ...]]:
    if get_origin(annotation) is Annotated:
        yield tuple(m for mark in annotation.__metadata__ for m in (getattr(mark, "metadata", None) or [mark]))
    for inner in get_args(annotation):
        if get_origin(annotation) is not Literal:
            yield from _annotated(inner)
