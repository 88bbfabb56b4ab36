"""What parts bring along from other jobs, and what a job's runs could leave with its parts.

A lesson is of a part only where every layout has that one part of its kind: else nobody knows which of them taught it.
"""

from collections.abc import Iterator, Sequence
from dataclasses import dataclass
from typing import Any, Literal

from pydantic import BaseModel

from desk.job.resolve import Resolver
from desk.together.wiring import fans_used
from desk.words.counted import counted
from documents.job.models import JobDoc, LayoutDoc, LevelLessonDoc, PathLessonDoc
from engine.learn.case import Learned
from engine.learn.lessons import Lesson
from engine.learn.levels import SOURCE_DB

Kind = Literal["coolers", "radiators", "cards", "fans"]
SWEPT = ("sweep of ", "way to a level of ")  # how levels read at chosen speeds are called
Where = Literal["lessons", "level_lessons"]
TAUGHT_BY: dict[Kind, tuple[str, ...]] = {
    "coolers": ("cpu_path", "cooler_ua"),
    "radiators": ("radiator_ua_w_k",),
    "cards": ("card_path",),
    "fans": ("installed_fan",),
}
NEWS = 0.75  # no source: of what was open before, what is still open; a part keeps only what got so much narrower


@dataclass(frozen=True)
class Known:
    """Lessons that the parts of a job bring along; ``said`` in words, ``runs`` how many taught them."""

    paths: tuple[Lesson, ...]
    levels: dict[str, tuple[float, float]]
    said: tuple[str, ...]
    runs: int


NOTHING_KNOWN = Known((), {}, (), 0)


class ToKeep(BaseModel):
    """What a part could take along. ``lessons``: all that its ``field`` would hold then, as the document writes it.

    A newer lesson of this job stands for an older one of the same; those of other jobs stay. ``kept``: it has them already.
    """

    kind: Kind
    part: str
    field: Where
    words: list[str]
    lessons: list[dict[str, Any]]
    kept: bool


def known(doc: JobDoc, run_names: Sequence[str]) -> Known:
    """Of the parts that the job's layouts have. What this very job taught, by its name or by its runs, is not told twice."""
    resolver, own = Resolver(doc), set(run_names)
    paths: list[Lesson] = []
    levels: dict[str, tuple[float, float]] = {}
    said: list[str] = []
    taught: set[tuple[str, str]] = set()

    def elsewhere(x: PathLessonDoc | LevelLessonDoc) -> bool:
        return x.job != doc.name and not set(x.runs) <= own  # a job under another name still has all of those runs

    for kind, part in _single(resolver):
        for x in filter(elsewhere, getattr(resolver.parts[kind][part], "lessons", [])):
            if x.parameter in TAUGHT_BY[kind]:
                paths.append(Lesson(x.parameter, x.ratio, x.ratio_sd, len(x.runs)))
                said.append(_words(_name(resolver, kind, part), f"{_param(x.parameter)} × {x.ratio:.2f} ± {2 * x.ratio_sd:.2f}", x))
                taught |= {(x.job, r) for r in x.runs}
    for part in _fans(resolver):
        heard = [x for x in resolver.parts["fans"][part].level_lessons if elsewhere(x)]
        if heard:
            x = min(heard, key=lambda h: h.off_db_sd)
            levels[part] = x.off_db, x.off_db_sd
            said.append(_words(_name(resolver, "fans", part), f"{x.off_db:+.1f} ± {2 * x.off_db_sd:.1f} dB over its sheet", x))
            taught |= {(x.job, r) for r in x.runs}
    return Known(tuple(paths), levels, tuple(said), len(taught))


def to_keep(
    doc: JobDoc, learned: Learned, sources: dict[str, tuple[float, float]], runs: Sequence[str], heard: Sequence[str]
) -> list[ToKeep]:
    """What got so much narrower by this job's own runs that its parts could take it along."""
    resolver = Resolver(doc)
    by_name = {p.name: p for p in learned.parameters}
    found = []
    for kind, part in _single(resolver) if runs else ():
        news, words = [], []
        for name in TAUGHT_BY[kind]:
            p = by_name[name]
            ratio, sd = p.value / p.prior, p.sd / p.prior
            if sd / ratio > NEWS * p.prior_sd / p.prior:
                continue
            sizes = {"ratio": round(ratio, 4), "ratio_sd": round(max(sd, 1e-3), 4)}
            news.append(PathLessonDoc(job=doc.name, runs=list(runs), parameter=name, **sizes))
            words.append(f"{_name(resolver, kind, part)}: {_param(name)} × {ratio:.2f} ± {2 * sd:.2f}")
        if news:
            taught = {x.parameter for x in news}
            before = resolver.parts[kind][part].lessons
            rest = [x for x in before if x.job != doc.name or x.parameter not in taught]
            found.append(_kept(kind, part, "lessons", words, before, [*rest, *news]))
    for part in _fans(resolver) if heard else ():
        off = sources.get(part)
        if off is not None and off[1] < NEWS * SOURCE_DB:
            level = LevelLessonDoc(job=doc.name, runs=list(heard), off_db=round(off[0], 2), off_db_sd=round(max(off[1], 0.05), 2))
            said = f"{_name(resolver, 'fans', part)}: {off[0]:+.1f} ± {2 * off[1]:.1f} dB over its sheet"
            before = resolver.parts["fans"][part].level_lessons
            found.append(_kept("fans", part, "level_lessons", [said], before, [*(x for x in before if x.job != doc.name), level]))
    return found


def _kept(
    kind: Kind,
    part: str,
    field: Where,
    words: list[str],
    before: Sequence[BaseModel],
    after: Sequence[BaseModel],
) -> ToKeep:
    was, now = ([x.model_dump(mode="json") for x in of] for of in (before, after))
    return ToKeep(kind=kind, part=part, field=field, words=words, lessons=now, kept=was == now)


def _single(resolver: Resolver) -> Iterator[tuple[Kind, str]]:
    """Of each kind the one part that all layouts have, where there is but one."""
    layouts = [x for x in resolver.doc.layouts if not x.open_bench]
    for kind, of in (("coolers", _coolers), ("radiators", _radiators), ("cards", _cards)):
        used = {part for x in layouts for part in of(resolver, x)}
        if len(used) == 1:
            yield kind, used.pop()  # type: ignore[misc]  # the names of the tuple above
    fans = _fans(resolver)
    if len(fans) == 1:
        yield "fans", fans[0]


def _coolers(resolver: Resolver, layout: LayoutDoc) -> list[str]:
    cooler = resolver.cpu_cooler(layout)
    return [cooler.id] if cooler else []


def _radiators(resolver: Resolver, layout: LayoutDoc) -> list[str]:
    return [r.radiator for loop in resolver.working_loops(layout) for r in loop.radiators]


def _cards(resolver: Resolver, layout: LayoutDoc) -> list[str]:
    card = resolver.setting(layout, "card")
    return [card] if card else []


def _fans(resolver: Resolver) -> list[str]:
    return sorted({name for x in resolver.doc.layouts for name in fans_used(resolver, x.model_copy(update={"cooler_fan": None}))})


def _name(resolver: Resolver, kind: Kind, part: str) -> str:
    return resolver.parts[kind][part].name or part


def _param(name: str) -> str:
    return {
        "cpu_path": "path resistance",
        "cooler_ua": "conductance of its fins",
        "radiator_ua_w_k": "conductance",
        "card_path": "path resistance",
        "installed_fan": "speed it is worth",
    }[name]


def _words(name: str, what: str, x: PathLessonDoc | LevelLessonDoc) -> str:
    swept = sum(r.startswith(SWEPT) for r in x.runs)
    runs = len(x.runs) - swept
    said = [counted(n, of) for n, of in ((runs, "run"), (swept, "sweep")) if n]
    return f"{name}: {what}, from {' and '.join(said)} of {x.job}"
