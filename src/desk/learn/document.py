"""The learning document: what a job's runs taught of its case, and every layout's forecast with it, those never run too."""

from collections.abc import Sequence
from dataclasses import dataclass, field, replace
from functools import cached_property
from itertools import combinations
from math import sqrt
from typing import Literal

import numpy as np
from pydantic import BaseModel

from desk.forecast.document import ForecastDoc, Oracle, PointMemory, Question
from desk.job.resolve import Resolver
from desk.learn.account import with_level, with_rise
from desk.learn.lessons import NOTHING_KNOWN, Known, ToKeep, known, to_keep
from desk.learn.readings import LeftAside, Readings
from desk.verdict.study import FORECAST_LOADS
from documents.errors import DocumentError, Fault
from documents.job.models import JobDoc
from engine import constants as k
from engine.coupled.explain import Account
from engine.coupled.forecast import Differences, Forecast, forecast
from engine.coupled.operating_point import OperatingPoint, loaded, operating_point
from engine.errors import OventaError
from engine.identity import ENGINE, METHOD
from engine.learn.case import PARTS, Case, Learned, LearnedFigure, Part, as_part, learn
from engine.learn.causes import Cause, causes
from engine.learn.levels import AtSpeed, Key, LearnedLevel, LearnedLevels, Offsets, learn_levels, prior_db
from engine.verdict.choose import Surprise, scored

UNITS = {"cm2": "cm2", "pa": "Pa", "k": "1", "w_k": "W/K", "m2k": "W/m2K", "m_s": "m/s"}
# In the order in which they are worth learning; those that the runs narrowed beyond these are listed after them.
LEADING = ("cpu_path", "card_path", "installed_fan", "seam_leak_cm2", "cooler_ua", "radiator_ua_w_k", "card_stirring", "plume_capture")
NARROWED = 0.9  # a parameter whose spread fell below this share of its prior's has learned something worth a line


class LearnedRise(BaseModel):
    """A rise in K over the room with its 95 % band."""

    rise_k: float
    band_k: float


class LearnedLevelOut(BaseModel):
    level_dba: float
    band_db: float


class BySheets(BaseModel):
    """The same layout by its parts' sheets alone."""

    cpu: LearnedRise
    card: LearnedRise | None
    sound: LearnedLevelOut


class LearnedMeasured(BaseModel):
    cpu_rise_k: float | None = None
    card_rise_k: float | None = None
    level_dba: float | None = None
    expanded_k: float | None = None  # of the processor's, or the card's where only that was read
    runs: int = 0


class LearnedLayout(BaseModel):
    """``residual_k``: what was measured less what is learned, by part; None where it was never run under this load."""

    id: str
    cpu: LearnedRise
    card: LearnedRise | None
    sound: LearnedLevelOut
    unlearned: BySheets
    measured: LearnedMeasured | None
    residual_k: dict[Part, float] = {}


class LearnedParameterOut(BaseModel):
    name: str
    meaning: str
    unit: str
    prior: float
    prior_sd: float
    value: float
    sd: float


class LearnedSource(BaseModel):
    """What became of a figure of sound, in dB: how far a source lies off its sheet, how much more a way out lets through, how much
    more a fan's level rises per tenfold speed. ``prior_sd_db`` before anything was heard."""

    kind: Literal["source", "path", "law"]
    name: str
    offset_db: float
    sd_db: float
    prior_sd_db: float


class LearnedDifference(BaseModel):
    """``b`` less ``a``, with 95 % bands in which what both share has cancelled."""

    a: str
    b: str
    cpu_k: float
    cpu_band_k: float
    card_k: float | None
    card_band_k: float | None
    sound_db: float
    sound_band_db: float


class LikelyCause(BaseModel):
    """Something that may have been otherwise than drawn, and the share of the misfit in % that it would explain."""

    words: str
    code: str
    mount: str | None
    explains_pct: float


class LearnedContradiction(BaseModel):
    run: str
    layout: str
    load: str
    channel: str
    measured_k: float
    forecast_k: float
    z: float
    alone: bool  # the run's own repeats disagree with it too
    causes: list[LikelyCause]


class LearningDoc(BaseModel):
    """``model_size``: how large the model's own error is in this case, over the stated one.

    ``parts``: what parts bring along from runs of other jobs, ``parts_runs`` of them; ``to_keep``: what they could take along from here.
    ``sweeps``: levels read at chosen speeds that taught its sound. ``expected``: measured rises against what the runs of all other
    layouts had led to expect, the greatest surprise first.
    """

    format: Literal["oventa-learning"] = "oventa-learning"
    version: Literal[1] = 1
    engine: str = ENGINE.number
    method: str = METHOD.number
    load: str
    runs_used: list[str]
    sweeps: list[str] = []
    left_aside: list[LeftAside]
    parameters: list[LearnedParameterOut]
    sources: list[LearnedSource]
    model_size: float
    layouts: list[LearnedLayout]
    differences: list[LearnedDifference]
    contradictions: list[LearnedContradiction]
    expected: list[Surprise] = []
    parts: list[str] = []
    parts_runs: int = 0
    to_keep: list[ToKeep] = []


@dataclass
class Learning:
    """What the runs of a job taught, asked as often as need be."""

    doc: JobDoc
    readings: Readings
    learned: Learned
    made_in: JobDoc  # the document with the layouts as they were run
    parts: Known = NOTHING_KNOWN  # what its parts bring along
    points: dict[tuple[str, str, AtSpeed | None], OperatingPoint] = field(default_factory=dict)  # that were heard: layout, load, speed

    @classmethod
    def of(cls, doc: JobDoc, readings: Readings) -> "Learning":
        """Raises DocumentError where a layout that was run cannot be forecast."""
        resolver = Resolver(doc)
        keys = list(dict.fromkeys((r.layout, r.load) for r in readings.rises))
        cases = [Case(layout, load, loaded(resolver.machine(layout), FORECAST_LOADS[load])) for layout, load in keys]
        heard = [r.run for load in readings.levels.values() for r in load]
        parts = known(doc, [*(r.run for r in readings.rises), *heard])
        return cls(doc, readings, learn(cases, readings.rises, parts.paths), doc, parts)

    def about(self, doc: JobDoc) -> "Learning":
        """The same lessons for another state of the job: layouts drawn since."""
        if doc.case != self.doc.case:
            do = "Give the package of this very case: what one case teaches says nothing of another."
            raise DocumentError([Fault("case", "the runs were made in another case than this job's", do)])
        return self.told_of(doc)

    def told_of(self, doc: JobDoc) -> "Learning":
        """The same lessons, the same case: another state of its layouts."""
        return replace(self, doc=doc)

    @property
    def runs_used(self) -> list[str]:
        heard = [r.run for load in self.readings.levels.values() for r in load if r.at is None]
        return list(dict.fromkeys([*(r.run for r in self.learned.readings), *heard]))

    @property
    def sweeps(self) -> list[str]:
        """Levels read at chosen speeds, by procedure."""
        return list(dict.fromkeys(r.run for load in self.readings.levels.values() for r in load if r.at is not None))

    @property
    def runs(self) -> int:
        """Runs of this job, and those of others that its parts bring along."""
        return len(self.runs_used) + self.parts.runs

    @property
    def taught_by(self) -> int:
        """Runs and sweeps of this job, and runs of others that its parts bring along."""
        return self.runs + len(self.sweeps)

    @property
    def anything(self) -> bool:
        return bool(self.learned.readings) or any(self.readings.levels.values()) or self.parts.runs > 0

    def levels(self, points: Sequence[OperatingPoint], load: str) -> LearnedLevels:
        """As the runs under this load have it, and sweeps under any: fans and ways out are what they are."""
        told = [(r, own) for own, rs in self.readings.levels.items() for r in rs if own == load or r.at is not None]
        heard = [self._heard(r.layout, own, r.at) for r, own in told]
        return learn_levels(points, heard, [r for r, _ in told], self.parts.levels)

    def _heard(self, layout: str, load: str, at: AtSpeed | None) -> OperatingPoint:
        key = layout, load, at
        if key not in self.points:
            machine = loaded(Resolver(self.made_in).machine(layout), FORECAST_LOADS[load])
            self.points[key] = operating_point(at.of(machine) if at else machine)
        return self.points[key]

    def machines(self, load: str, layouts: Sequence[str] | None = None) -> list[Case]:
        resolver = Resolver(self.doc)
        ids = layouts or [x.id for x in self.doc.layouts]
        return [Case(x, load, loaded(resolver.machine(x), FORECAST_LOADS[load])) for x in ids]

    @cached_property
    def usual_load(self) -> str:
        """The load that most readings were taken under."""
        counts: dict[str, int] = {}
        for r in self.learned.readings:
            counts[r.load] = counts.get(r.load, 0) + 1
        return max(counts, key=lambda x: counts[x], default="both")

    def document(self, load: str | None = None) -> LearningDoc:
        load = load or self.usual_load
        if load not in FORECAST_LOADS:
            raise DocumentError([Fault("load", f"{load!r} is no load", f"Use one of {', '.join(FORECAST_LOADS)}.")])
        cases = self.machines(load)
        points = [operating_point(c.machine) for c in cases]
        table = Figures.of(self, cases)
        levels = self.levels(points, load)
        return LearningDoc(
            load=load,
            runs_used=self.runs_used,
            sweeps=self.sweeps,
            left_aside=[
                *(x for x in self.readings.left_aside if x.run not in self.runs_used),
                *(LeftAside(r.run, why) for r, why in self.learned.left_aside),
            ],
            parameters=self._parameters(),
            sources=[self._source(key, off) for key, off in levels.found.items()],
            model_size=self.learned.model_size,
            layouts=[self._layout(i, c, points[i], table, levels) for i, c in enumerate(cases)],
            differences=[_difference(a, b, cases, table, levels) for a, b in combinations(range(len(cases)), 2)],
            contradictions=self._contradictions(),
            expected=self._expected(load),
            parts=list(self.parts.said),
            parts_runs=self.parts.runs,
            to_keep=self._to_keep(levels),
        )

    def _source(self, key: Key, off: tuple[float, float]) -> LearnedSource:
        return LearnedSource(kind=key[0], name=key[1], offset_db=off[0], sd_db=off[1], prior_sd_db=prior_db(key, self.parts.levels))

    def _to_keep(self, levels: LearnedLevels) -> list[ToKeep]:
        runs = list(dict.fromkeys(r.run for r in self.learned.readings))
        heard = list(dict.fromkeys(r.run for told in self.readings.levels.values() for r in told))
        return to_keep(self.doc, self.learned, levels.sources, runs, heard)

    def _expected(self, load: str) -> list[Surprise]:
        rows = [
            scored(x.layout, x.part, (x.forecast_k, x.forecast_band_k), (x.measured_k, x.measured_band_k))
            for x in self.learned.expected()
            if x.load == load
        ]
        return sorted(rows, key=lambda r: -abs(r.z))

    def _parameters(self) -> list[LearnedParameterOut]:
        found = self.learned.parameters
        by_name = {p.name: p for p in found}
        narrowed = [p.name for p in found if p.sd / p.value < NARROWED * p.prior_sd / p.prior]
        return [
            LearnedParameterOut(
                name=p.name,
                meaning=p.meaning,
                unit=_unit(p.name),
                prior=p.prior,
                prior_sd=p.prior_sd,
                value=p.value,
                sd=p.sd,
            )
            for p in (by_name[x] for x in dict.fromkeys([*LEADING, *narrowed]))
        ]

    def _layout(self, i: int, case: Case, point: OperatingPoint, table: "Figures", levels: LearnedLevels) -> LearnedLayout:
        plain = forecast(point)
        cpu, card = table.figure(i, "cpu"), table.figure(i, "card")
        if cpu is None:
            raise OventaError("there is no processor", case.layout, "Choose one.")
        level = levels.levels[i]
        measured, residual = self._measured(case, {"cpu": cpu, "card": card})
        return LearnedLayout(
            id=case.layout,
            cpu=LearnedRise(rise_k=cpu.rise_k, band_k=cpu.band_k),
            card=LearnedRise(rise_k=card.rise_k, band_k=card.band_k) if card else None,
            sound=LearnedLevelOut(level_dba=level.level_dba, band_db=level.band_db),
            unlearned=BySheets(
                cpu=LearnedRise(rise_k=plain.cpu.rise_k, band_k=plain.cpu.band_k),
                card=LearnedRise(rise_k=plain.card.rise_k, band_k=plain.card.band_k) if plain.card else None,
                sound=LearnedLevelOut(level_dba=plain.sound.level_dba, band_db=plain.sound.band_db),
            ),
            measured=measured,
            residual_k=residual,
        )

    def _measured(self, case: Case, figures: dict[Part, LearnedFigure | None]) -> tuple[LearnedMeasured | None, dict[Part, float]]:
        out, runs = LearnedMeasured(), set[str]()
        residual: dict[Part, float] = {}
        for part in PARTS:
            own = [r for r in self.learned.readings if (r.layout, r.load, r.part) == (case.layout, case.load, part)]
            figure = figures[part]
            if not own or figure is None:
                continue
            mean = sum(r.rise_k for r in own) / len(own)
            setattr(out, f"{part}_rise_k", mean)
            sigma = sqrt(sum(r.own_k**2 for r in own)) / len(own)
            out.expanded_k = out.expanded_k or k.COVERAGE_FACTOR * sigma
            residual[part] = mean - figure.rise_k
            runs |= {r.run for r in own}
        heard = [r for r in self.readings.levels.get(case.load, []) if r.layout == case.layout]
        if heard:
            out.level_dba = sum(r.level_dba for r in heard) / len(heard)
            runs |= {r.run for r in heard}
        out.runs = len(runs)
        return (out if runs else None), residual

    def _contradictions(self) -> list[LearnedContradiction]:
        found = self.learned.contradictions
        told: dict[tuple[str, str], list[Cause]] = {}
        for x in found:
            key = x.layout, x.load
            if key not in told:
                alike = [c for c in found if (c.layout, c.load) == key]
                gaps = {c.part: c.measured_k - c.forecast_k for c in alike}
                sigmas = {c.part: c.sigma_k for c in alike}
                case = next(c for c in self.learned.cases if (c.layout, c.load) == key)
                if not any(c.alone for c in alike):
                    gaps, sigmas = self._quiet_parts(x.layout, x.load, gaps, sigmas)
                told[key] = causes(operating_point(case.machine, self.learned.vector), gaps, sigmas)
        return [
            LearnedContradiction(
                run=x.run,
                layout=x.layout,
                load=x.load,
                channel=x.part,
                measured_k=x.measured_k,
                forecast_k=x.forecast_k,
                z=x.z,
                alone=x.alone,
                causes=[LikelyCause(words=c.words, code=c.code, mount=c.mount, explains_pct=100 * c.fit) for c in told[x.layout, x.load]],
            )
            for x in found
        ]

    def _quiet_parts(
        self, layout: str, load: str, gaps: dict[Part, float], sigmas: dict[Part, float]
    ) -> tuple[dict[Part, float], dict[Part, float]]:
        """Parts that were read and do not contradict are part of the pattern: a cause that would move them is none."""
        for part in PARTS:
            own = [r for r in self.learned.readings if (r.layout, r.load, r.part) == (layout, load, part)]
            if part not in gaps and own:
                case = next(c for c in self.learned.cases if (c.layout, c.load) == (layout, load))
                figure = Figures.of(self, [case]).figure(0, part)
                if figure:
                    gaps[part] = sum(r.rise_k for r in own) / len(own) - figure.rise_k
                    sigmas[part] = max(figure.band_k / k.COVERAGE_FACTOR, 0.5)
        return gaps, sigmas


@dataclass
class Figures:
    """Learned figures of some cases with their covariance, by case and part."""

    figures: list[LearnedFigure]
    covariance: np.ndarray
    at: dict[tuple[int, Part], int]

    @classmethod
    def of(cls, learning: Learning, cases: Sequence[Case]) -> "Figures":
        figures, covariance = learning.learned.of(cases)
        at: dict[tuple[int, Part], int] = {}
        row = 0
        for i, c in enumerate(cases):
            for part in PARTS:
                if part == "cpu" or c.machine.card is not None:
                    at[i, part] = row
                    row += 1
        return cls(figures, covariance, at)

    def figure(self, case: int, part: Part) -> LearnedFigure | None:
        row = self.at.get((case, part))
        return None if row is None else self.figures[row]

    def only(self, which: Sequence[int]) -> "Figures":
        """Of some cases, in the order given; their covariance stays whole."""
        at = {(n, part): row for n, i in enumerate(which) for part in PARTS if (row := self.at.get((i, part))) is not None}
        return Figures(self.figures, self.covariance, at)

    def difference(self, a: int, b: int, part: Part) -> tuple[float, float] | None:
        """The second less the first in K, and its 95 % band."""
        i, j = self.at.get((a, part)), self.at.get((b, part))
        if i is None or j is None:
            return None
        c = self.covariance
        return self.figures[j].rise_k - self.figures[i].rise_k, k.COVERAGE_FACTOR * sqrt(max(c[i, i] + c[j, j] - 2 * c[i, j], 0.0))


def _difference(a: int, b: int, cases: Sequence[Case], table: Figures, levels: LearnedLevels) -> LearnedDifference:
    cpu, card = table.difference(a, b, "cpu"), table.difference(a, b, "card")
    sound = levels.difference(a, b)
    return LearnedDifference(
        a=cases[a].layout,
        b=cases[b].layout,
        cpu_k=cpu[0] if cpu else 0.0,
        cpu_band_k=cpu[1] if cpu else 0.0,
        card_k=card[0] if card else None,
        card_band_k=card[1] if card else None,
        sound_db=sound[0],
        sound_band_db=sound[1],
    )


def _unit(name: str) -> str:
    return next((unit for end, unit in sorted(UNITS.items(), key=lambda x: -len(x[0])) if name.endswith(f"_{end}")), "1")


class LearnedOracle(Oracle):
    """The same questions with temperatures and levels as learned: what a fix is said to bring is what is shown once it is made."""

    def __init__(self, learning: Learning, question: Question, memory: PointMemory | None = None) -> None:
        super().__init__(learning.doc, question, memory)
        self.learning = learning

    def forecast(self, layout_id: str) -> Forecast:
        if layout_id not in self._forecasts:
            plain, point = super().forecast(layout_id), self.point(layout_id)
            table = Figures.of(self.learning, [self._case(layout_id)])
            level = self.learning.levels([point], self.question.load).levels[0]
            self._forecasts[layout_id] = _told(plain, 0, table, level)
        return self._forecasts[layout_id]

    @property
    def taught_by(self) -> int:
        return self.learning.taught_by

    @property
    def parameters(self) -> np.ndarray:
        return self.learning.learned.vector

    @property
    def offsets(self) -> Offsets:
        return self.learning.levels([], self.question.load).offsets

    def beyond(self, layout_id: str) -> tuple[float, float]:
        found = {f.part: f for f in Figures.of(self.learning, [self._case(layout_id)]).figures}
        cpu, card = (f.rise_k / f.parameters_k if (f := found.get(p)) and f.parameters_k > 0 else 1.0 for p in PARTS)
        return cpu, card

    def account(self, layout_id: str, figure: str) -> Account:
        """By the sheets first, then what the runs add to it; air and coolant are the sheets' alone."""
        plain, point = super().account(layout_id, figure), self.point(layout_id)
        if figure == "sound":
            level = self.learning.levels([point], self.question.load).levels[0]
            return with_level(plain, forecast(point).sound.level_dba, level, self.learning.runs, len(self.learning.sweeps))
        found = next((f for f in Figures.of(self.learning, [self._case(layout_id)]).figures if f.part == figure), None)
        if found is None or not self.learning.runs:  # sweeps say nothing of a temperature
            return plain
        by_sheets_k = point.cpu_rise_k if figure == "cpu" else point.card_rise_k or 0.0
        return with_rise(plain, by_sheets_k, found, self.learning.runs)

    def _case(self, layout_id: str) -> Case:
        return Case(layout_id, self.question.load, self.machine(layout_id))

    def beside(self, doc: JobDoc) -> "LearnedOracle":
        asked = self.question.model_copy(update={"against": None, "minutes": None})
        return LearnedOracle(self.learning.told_of(doc), asked, self._memory)

    def forecast_doc(self) -> ForecastDoc:
        doc, against = super().forecast_doc(), self.question.against
        told = {"learned": self.taught_by}
        if against is None:
            return doc.model_copy(update=told)
        ids = [*(x.id for x in doc.layouts), against]
        table = Figures.of(self.learning, [self._case(x) for x in ids])
        levels = self.learning.levels([self.point(x) for x in ids], self.question.load)
        last = len(ids) - 1
        layouts = [
            replace(x, differences=_against(x.differences, last, i, table, levels)) if x.differences else x
            for i, x in enumerate(doc.layouts)
        ]
        return doc.model_copy(update=told | {"layouts": layouts})


def _told(plain: Forecast, i: int, table: Figures, level: LearnedLevel) -> Forecast:
    room_c = plain.cpu.temperature_c - plain.cpu.rise_k
    cpu, card = table.figure(i, "cpu"), table.figure(i, "card")
    return replace(
        plain,
        cpu=as_part(cpu, room_c) if cpu else plain.cpu,
        card=as_part(card, room_c) if card and plain.card else plain.card,
        sound=replace(plain.sound, level_dba=level.level_dba, band_db=level.band_db),
    )


def _against(plain: Differences, b: int, i: int, table: Figures, levels: LearnedLevels) -> Differences:
    cpu, card, sound = table.difference(b, i, "cpu"), table.difference(b, i, "card"), levels.difference(b, i)
    return replace(
        plain,
        cpu_k=cpu[0] if cpu else plain.cpu_k,
        cpu_band_k=cpu[1] if cpu else plain.cpu_band_k,
        card_k=card[0] if card else plain.card_k,
        card_band_k=card[1] if card else plain.card_band_k,
        sound_db=sound[0],
        sound_band_db=sound[1],
    )
