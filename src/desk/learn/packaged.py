"""A data package as the desk asks of it without a database: its job, its valid runs analysed, by load and layout."""

from collections.abc import Mapping, Sequence
from dataclasses import dataclass, field
from typing import Any

from desk.job.asked import asked_of
from desk.job.conditions import AS_RUN, as_it_was, drawn_otherwise, named_of, parts_of
from desk.learn.swept import Heard, Sweep, named
from desk.runs.ready import Basis, background_dba, complete, read_as
from desk.verdict.earlier import Gap
from documents.job.models import JobDoc, LayoutDoc
from documents.job.reader import check_job
from documents.package.document import OpenedRun, open_package
from documents.package.said import GapSaid, LevelSaid, RunSaid, ends_s
from engine.plan.acceptance import judged_by
from engine.plan.watch import speeds_off_in
from engine.runs.analysis import RunAnalysis, analyse
from engine.sound.sweep import SpeedLevel
from engine.verdict.candidate import Candidate

USUAL_LOAD = "both"


@dataclass
class PackedRuns:
    """``names``: of each candidate's runs in their order, by (load, layout)."""

    doc: JobDoc
    whole: JobDoc  # with layouts as they were run, where they were redrawn since
    by_load: dict[str, list[Candidate]]
    names: Mapping[tuple[str, str], list[str]]
    not_counted: list[tuple[str, str]] = field(default_factory=list)  # (run, why)
    sweeps: list[Sweep] = field(default_factory=list)
    earlier: list[Gap] = field(default_factory=list)  # repeats of other jobs that it brings along
    by_time: list[str] = field(default_factory=list)  # layouts in the order in which their runs were made, as far as that is known


def packed_runs(data: bytes) -> PackedRuns:
    """Raises DocumentError for a package that is none, or damaged."""
    opened = open_package(data)
    doc = check_job(opened.job).doc
    layouts = [x.id for x in doc.layouts]
    parts, named = parts_of(doc), named_of(doc)
    found: dict[str, dict[str, Candidate]] = {}
    names: dict[tuple[str, str], list[str]] = {}
    speeds: dict[tuple[str, str], list[tuple[Mapping[str, float], Mapping[str, float]]]] = {}
    aside: list[tuple[str, str]] = []
    before: dict[str, LayoutDoc] = {}
    for packed in opened.runs():
        said = packed.said
        if said.state != "valid" or said.layout not in layouts:
            why = said.void_reason or "set aside" if said.state != "valid" else "its layout is not in the job"
            aside.append((said.name, why))
            continue
        run = _analysed(packed, doc)
        if run is None:
            aside.append((said.name, "it has no readings"))
            continue
        load, name = said.load or USUAL_LOAD, said.layout
        if said.drawn is not None and drawn_otherwise(doc, said.layout, drawn_of(said)):
            name = as_it_was(said.layout, AS_RUN)
            before.setdefault(name, said.drawn.model_copy(update={"id": name}))
        candidate = found.setdefault(load, {}).setdefault(name, Candidate(name, named=named.get(said.layout, {})))
        candidate.runs.append(judged_by(run, said.protocol.to_engine().statistic) if said.protocol else run)
        candidate.conditions.append(parts.get(said.layout, {}))
        wanted = said.asked.speeds_rpm if said.asked else asked_of(doc, said.layout).speeds_rpm
        speeds.setdefault((load, name), []).append((wanted, {c.name: c.mean for c in run.channels}))
        if said.made_at:
            candidate.hours.append(said.made_at.timestamp() / 3600)
        names.setdefault((load, name), []).append(said.name)
    for (load, name), of_runs in speeds.items():
        found[load][name].remarks.extend(speeds_off_in(of_runs))
    timed = sorted(((s.made_at, s.layout) for s in opened.said if s.made_at and s.state == "valid"), key=lambda x: x[0])
    whole = doc.model_copy(update={"layouts": [*doc.layouts, *before.values()]})
    by_load = {load: [own[x.id] for x in whole.layouts if x.id in own] for load, own in found.items()}
    return PackedRuns(
        doc, whole, by_load, _unlike(names), aside, _sweeps(opened.levels, doc), _gaps(opened.earlier), [layout for _, layout in timed]
    )


def _gaps(earlier: Sequence[GapSaid]) -> list[Gap]:
    return [Gap(g.channel, g.kind, g.value, g.id) for g in earlier]


def _sweeps(levels: Sequence[LevelSaid], doc: JobDoc) -> list[Sweep]:
    """Levels at chosen speeds that count, by procedure."""
    found: dict[tuple[str, str, str, int, tuple[str, ...]], list[LevelSaid]] = {}
    for x in levels:
        if not x.struck:
            found.setdefault((x.layout, x.purpose, x.load, x.round, tuple(sorted(x.mounts))), []).append(x)
    told = []
    for (layout, purpose, load, turn, mounts), own in found.items():
        last = own[-1]
        heard = Heard(**last.heard.model_dump(include=set(Heard.__dataclass_fields__))) if last.heard else Heard.of(doc)
        read = tuple(SpeedLevel(x.speed_pct, x.level_dba, x.tone_db, x.tone_hz, x.beat_db) for x in own)
        told.append(Sweep(named(purpose, layout, mounts, turn, load), layout, load, mounts, drawn_of(last), last.made_with, heard, read))
    return told


def drawn_of(said: RunSaid | LevelSaid) -> dict[str, Any]:
    """The layout as it was drawn when a run was made or a level read; empty where that is not said."""
    return said.drawn.model_dump(mode="json", exclude_unset=True) if said.drawn else {}


def _unlike(names: Mapping[tuple[str, str], list[str]]) -> dict[tuple[str, str], list[str]]:
    """Runs of one name are told apart by a number."""
    seen: dict[str, int] = {}
    told: dict[tuple[str, str], list[str]] = {}
    for key, own in names.items():
        for name in own:
            seen[name] = seen.get(name, 0) + 1
            told.setdefault(key, []).append(name if seen[name] == 1 else f"{name} ({seen[name]})")
    return told


def _analysed(packed: OpenedRun, doc: JobDoc) -> RunAnalysis | None:
    if not packed.text:
        return None
    said = packed.said
    basis = Basis(
        said.typed_room_c,
        said.window_s,
        background_dba(said.background_dba, said.microphone.background_after_dba, doc.room.background_dba),
        tuple(x.model_dump(mode="json") for x in said.by_hand),
        tuple((m.at_s, ends_s(m.at_s, m.until_s, m.drop)) for m in said.marks if m.drop),
        said.stood_still,
        said.microphone.meter,
    )
    log = complete(read_as(packed.text).log, basis.by_hand, basis.typed_room_c)
    return analyse(log, basis.window_s, basis.background_dba, basis.dropped, basis.stood_still, basis.meter)
