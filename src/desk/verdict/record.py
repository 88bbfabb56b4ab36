"""A frozen verdict: the whole argument as it stood, signed with a name and a digest, and how a later state differs from it."""

import hashlib
import json
from collections import Counter
from collections.abc import Callable, Mapping, Sequence
from datetime import datetime
from typing import Annotated, Any, Literal

from pydantic import BaseModel, Field, ValidationError

from desk.job.difference import difference_in_words
from desk.verdict.document import VerdictDoc
from desk.verdict.effects import LEADING
from desk.verdict.facts import worst_room_c
from desk.verdict.measures import FigureOut
from desk.verdict.study import Settings
from desk.words.channels import channel_words
from desk.words.verdict import PAIR_WORDS
from documents.errors import DocumentError, Fault
from documents.job.models import ExpectedDoc, JobDoc, as_built
from documents.job.planned import PlanDoc, ProtocolDoc
from documents.job.reader import path_of
from documents.json_in import parse_json
from documents.upgrades import upgraded
from engine.identity import ENGINE, METHOD, PRODUCT

RECORD_FORMAT = "oventa-verdict-record"


class RunRef(BaseModel):
    """A run as it counted. ``digest`` is of its readings as they are exported, with what decides how they are averaged."""

    id: int
    name: str
    layout: str
    load: str
    state: str
    void_reason: str = ""
    protocol: str = ""
    source: str = ""
    made_at: datetime
    duration_s: float
    room_c: float | None = None
    traits: list[str] = Field(default_factory=list)
    flags: list[str] = Field(default_factory=list)
    digest: str = ""


MOST_OBSERVED, MOST_PICTURE_TEXT = 200, 400_000


class Observation(BaseModel):
    """What a person saw, heard or did in a run that counted. ``picture``: a small copy as data, empty where there is none."""

    run: str
    layout: str
    kind: Annotated[str, Field(max_length=10)]
    words: Annotated[str, Field(max_length=600)]
    at_s: float
    until_s: float | None = None
    left_out: bool = False  # its stretch counts in no figure
    x_mm: float | None = None
    z_mm: float | None = None
    picture: Annotated[str, Field(max_length=MOST_PICTURE_TEXT, pattern=r"^(data:image/jpeg;base64,[A-Za-z0-9+/]+=*)?$")] = ""
    picture_elsewhere: bool = False  # there is one, with the run and in the package


MOST_SOUNDS = 400
Told = Annotated[str, Field(max_length=200)]


class HeardSound(BaseModel):
    """What was heard in a run that counted: its level with a 95 % band and spread, the room, the microphone, and what its clips told.

    ``l10_dba`` and ``l90_dba`` are passed in a tenth and in nine tenths of the time; ``alone_bound``: the machine alone is at most that.
    """

    run: str
    layout: str
    load: str
    level_dba: float | None
    band_db: float | None
    l10_dba: float | None
    l90_dba: float | None
    max_dba: float | None
    over_room_db: float | None
    alone_dba: float | None
    alone_bound: bool
    microphone: Annotated[str, Field(max_length=300)]
    clips: int
    told: list[Told]


class RecordDoc(BaseModel):
    """``digest`` is the SHA-256 of all the rest; ``previous`` that of the record before it."""

    format: Literal["oventa-verdict-record"] = "oventa-verdict-record"
    version: Literal[2] = 2
    product: str = PRODUCT
    engine: str = ENGINE.number  # empty in a record of version 1, which did not keep it
    method: str = METHOD.number
    job: Annotated[str, Field(max_length=200)]
    layout: Annotated[str, Field(max_length=60)]
    reason: Annotated[str, Field(max_length=4000)]
    signed_by: Annotated[str, Field(max_length=80)]
    made_at: datetime
    settings: Settings
    verdict: VerdictDoc
    document: dict[str, Any]
    runs: list[RunRef]
    drawings: dict[str, str] = Field(default_factory=dict)  # layouts and charts as SVG, as they stood on the screen
    observations: Annotated[list[Observation], Field(max_length=MOST_OBSERVED)] = Field(default_factory=list)
    sounds: Annotated[list[HeardSound], Field(max_length=MOST_SOUNDS)] = Field(default_factory=list)
    previous: str = ""
    digest: str = ""

    def sealed(self) -> "RecordDoc":
        return self.model_copy(update={"digest": self.own_digest()})

    def own_digest(self) -> str:
        return digest_of(self.model_dump(mode="json"))


def digest_of(raw: Mapping[str, Any]) -> str:
    """SHA-256 of the canonical JSON of everything but the digest itself; of the file as it is, whatever version wrote it."""
    rest = {key: value for key, value in raw.items() if key != "digest"}
    return hashlib.sha256(json.dumps(rest, sort_keys=True, separators=(",", ":"), ensure_ascii=False).encode()).hexdigest()


def record_in(data: bytes) -> dict[str, Any] | None:
    """The parsed JSON of a record; None for anything else."""
    if RECORD_FORMAT.encode() not in data:
        return None
    try:
        raw = parse_json(data)
    except DocumentError:
        return None
    return raw if isinstance(raw, dict) and raw.get("format") == RECORD_FORMAT else None


def read_record(raw: Mapping[str, Any]) -> RecordDoc:
    """Raises DocumentError for a record that was changed after it was signed, or that this version cannot read.

    One from elsewhere also has its drawings looked at: ``desk.verdict.drawing.check_drawings``.
    """
    if raw.get("digest") != digest_of(raw):
        raise DocumentError([Fault("digest", "this record was changed after it was signed", "Use the file as it was saved.")])
    try:
        return RecordDoc.model_validate(upgraded(raw))
    except ValidationError as error:
        first = error.errors()[0]
        do = "It is whole, but was made by another version of the program: open it there, or freeze the verdict anew."
        raise DocumentError([Fault(path_of(first["loc"]), first["msg"], do)]) from error


def stale(record: RecordDoc, now: JobDoc, runs: Sequence[RunRef]) -> list[str]:
    """What has changed since the record was frozen; empty where it still stands."""
    then = JobDoc.model_validate(record.document)
    found = ["the way of judging"] if record.method != METHOD.number else []
    if as_built(then.parts) != as_built(now.parts):
        found.append("the parts")
    for words, name in (("the case", "case"), ("what all layouts share", "base"), ("curves", "curves")):
        if getattr(then, name) != getattr(now, name):
            found.append(words)
    old, new = ({x.id: x for x in doc.layouts} for doc in (then, now))
    for key in old.keys() & new.keys():
        lines = difference_in_words(now, old[key], new[key])
        found += [f"layout {key}: {'; '.join(lines)}"] if lines else []
    found += [f"layout {key} is gone" for key in old.keys() - new.keys()]
    found += [f"protocol {name}" for name in _moved(_versions(then.protocols), _versions(now.protocols))]
    found += [f"{words}: {_said(of(then))}, now {_said(of(now))}" for words, of in RESTS_ON if of(then) != of(now)]
    settings = record.settings
    if settings.margin_k is None and then.practice.margin_k != now.practice.margin_k:
        found.append(f"the margin, K: {then.practice.margin_k:g}, now {now.practice.margin_k:g}")
    if settings.weights is None and settings.profile is None and then.priorities != now.priorities:
        found.append("what matters to you")
    return found + _runs(record.runs, runs)


# What a verdict rests on in the room and in the stock, beside case, parts and layouts.
RESTS_ON: Sequence[tuple[str, Callable[[JobDoc], Any]]] = (
    ("the room, °C", lambda d: d.room.temperature_c),
    ("the warmest the room gets, °C", worst_room_c),
    ("the limit of sound, dBA", lambda d: d.room.sound_limit_dba),
    ("the background, dBA", lambda d: d.room.background_dba),
    ("the listener's distance, m", lambda d: d.room.listener_distance_m),
    ("the listener's side", lambda d: d.room.listener_side),
    ("the air pressure, hPa", lambda d: d.room.pressure_hpa),
    ("the kind of room", lambda d: d.room.kind),
    ("fans on hand", lambda d: d.stock.fans if d.stock else None),
)


def _said(value: Any) -> str:
    if isinstance(value, dict):
        return ", ".join(f"{number} {name}" for name, number in sorted(value.items())) or "none"
    return "not said" if value is None else f"{value:g}" if isinstance(value, float | int) else str(value)


def judged_anew(record: RecordDoc, now: VerdictDoc) -> list[str]:
    """What the method of today says otherwise of what a record of an older method says, or that it says the same."""
    then = record.verdict
    found = [f"it would choose {now.best or 'none'}, not {then.best or 'none'}"] if then.best != now.best else []
    words = {(p.a, p.b, p.channel): p.word for p in then.pairs}
    for p in now.pairs:
        was = words.get((p.a, p.b, p.channel))
        if was is not None and was != p.word and p.channel in LEADING:
            found.append(f"{p.a} and {p.b}, {channel_words(p.channel)}: {PAIR_WORDS[was]}, today {PAIR_WORDS[p.word]}")
    bands = {(f.layout, f.channel): (f.value, f.band) for f in then.figures}
    for f in now.figures:
        value, band = bands.get((f.layout, f.channel), (f.value, f.band))
        if f.channel in LEADING and (abs(f.value - value) >= 0.05 or abs(f.band - band) >= 0.05):
            found.append(f"{f.layout} {channel_words(f.channel)}: {value:.1f} ± {band:.1f}, today {f.value:.1f} ± {f.band:.1f}")
    return found or ["it says the same"]


def _versions(protocols: Sequence[ProtocolDoc]) -> dict[str, int]:
    found: dict[str, int] = {}
    for p in protocols:
        found[p.id] = max(found.get(p.id, 0), p.version)
    return found


def _moved(then: Mapping[str, int], now: Mapping[str, int]) -> list[str]:
    return [f"{name} is now version {now[name]}" for name, version in then.items() if name in now and now[name] != version]


def _runs(then: Sequence[RunRef], now: Sequence[RunRef]) -> list[str]:
    """Runs by what they hold, not by their numbers: a job that was saved and brought in again has the same ones."""
    left = Counter(_held(r) for r in then)
    fresh = []
    for r in now:
        if left[_held(r)]:
            left[_held(r)] -= 1
        else:
            fresh.append(r)
    known = {(r.layout, r.name) for r in then}
    changed = sorted(r.name for r in fresh if (r.layout, r.name) in known)
    added = sorted(r.name for r in fresh if (r.layout, r.name) not in known)
    found = [f"{len(added)} run{'' if len(added) == 1 else 's'} added: {', '.join(added[:4])}"] if added else []
    return found + ([f"changed: {', '.join(changed[:4])}"] if changed else [])


def _held(r: RunRef) -> tuple[str, str, str, str]:
    return r.layout, r.load, r.state, r.digest


def moved(earlier: RecordDoc, later: RecordDoc) -> list[str]:
    """The difference of two records in words: choice, reason, what counted, and figures that moved by more than both bands."""
    found = [f"choice: {earlier.layout}, now {later.layout}"] if earlier.layout != later.layout else []
    one, two = earlier.verdict, later.verdict
    for words, a, b in (("margin, K", one.margin_k, two.margin_k), ("load", one.load, two.load), ("best", one.best, two.best)):
        found += [f"{words}: {a}, now {b}"] if a != b else []
    found += ["weights"] if one.weights != two.weights else []
    old = {(f.layout, f.channel): f for f in one.figures}
    for f in two.figures:
        was = old.get((f.layout, f.channel))
        if was and abs(f.value - was.value) >= 0.05:
            found.append(f"{f.layout} {f.channel}: {was.value:.1f}, now {f.value:.1f}")
    return found + stale(earlier, JobDoc.model_validate(later.document), later.runs)


REPEATED = ("cpu_package_c", "card_core_c", "coolant_c", "sound_dba", "score", "job_s")


def replication(record: RecordDoc) -> JobDoc:
    """An empty job with the same case, layouts, protocol and plan, and the original's figures as check numbers."""
    doc = JobDoc.model_validate(record.document)
    figures = [f for f in record.verdict.figures if f.channel in REPEATED]
    run = [x.id for x in doc.layouts if any(f.layout == x.id for f in figures)]
    protocol = next((r.protocol.rsplit(" v", 1)[0] for r in record.runs if r.protocol), None)
    protocol = protocol or (doc.plan.protocol if doc.plan else None) or next((p.id for p in doc.protocols), None)
    load = record.verdict.load
    planned = [{"id": f"r{i + 1}", "layout": x, "protocol": protocol, "load": load} for i, x in enumerate(run)]
    plan = {"protocol": protocol, "control": record.verdict.reference, "runs": planned}
    again = doc.model_copy(
        update={
            "name": f"{doc.name}, repeated"[:200],
            "note": f"To repeat the verdict of {record.signed_by or 'its author'} of {record.made_at:%Y-%m-%d}. {doc.note}".strip(),
            "layouts": [x for x in doc.layouts if x.id in run],
            "plan": PlanDoc.model_validate(plan) if protocol else None,
            "expected": [_expected(f, load) for f in figures],
        }
    )
    return JobDoc.model_validate(again.model_dump(mode="json", exclude_unset=True))


def _expected(f: FigureOut, load: str) -> ExpectedDoc:
    raw = {"layout": f.layout, "load": load, "channel": f.channel, "value": round(f.value, 3), "band": round(f.budget.expanded, 3)}
    return ExpectedDoc.model_validate(raw)
