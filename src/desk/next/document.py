"""The next document: where the decision stands, which run is worth most by the hour, and the rest of the plan as it would be now."""

from collections import Counter
from collections.abc import Sequence
from dataclasses import dataclass
from functools import cached_property
from math import hypot, sqrt
from typing import Literal

import numpy as np
from pydantic import BaseModel

from desk.forecast.document import Oracle, Question
from desk.job.conditions import AS_RUN, as_it_was
from desk.learn.document import Figures, Learning
from desk.plan.runsheet import SETUP_MIN, latest, transition_minutes
from desk.verdict.facts import LayoutFacts, facts_of
from desk.verdict.study import FORECAST_LOADS
from desk.words.chance import chance_words
from documents.errors import DocumentError, Fault
from documents.job.models import LayoutDoc
from documents.job.planned import ProtocolDoc, from_template
from engine import constants as k
from engine.coupled.operating_point import operating_point
from engine.identity import ENGINE, METHOD
from engine.learn.case import PARTS, Case, Part
from engine.learn.next_run import Knowledge, State, Worth, needed, state_of
from engine.verdict.choose import MOST_OF_ONE_RUN, RESULT, STEP, weight_of
from engine.verdict.scatter import RUN_SCATTER_PRIOR_K
from engine.verdict.worth import felt_k

OVER_K_PER_DB = 5.0  # no source: what a decibel over the limit of sound costs a layout, so that it is picked only where none keeps it
OVER_K_PER_K = 3.0  # no source: the same of a kelvin over a part's limit in the worst room
LEVEL_DB = 0.5  # one sigma of a level read again, as in verdicts
SHOWN = 8
NUDGE_K = 0.25  # numerical


class NextCandidate(BaseModel):
    """A run that could be made: what it is expected to gain, in K as they matter, and by the hour. ``repeats``: as many at once."""

    layout: str
    kind: Literal["first", "repeat", "control"]
    minutes: float
    gain_k: float
    gain_k_per_h: float
    repeats: int
    fits: bool  # into the hours that are left
    why: str
    uncounted: bool = False  # it was run, and none of its runs counts: it was changed since, held at a limit, or run under other loads


class NextStand(BaseModel):
    """Where a layout stands: cost in K behind the pick with its 95 % band, and how often it was run."""

    layout: str
    behind_k: float
    band_k: float
    runs: int
    struck: bool
    why: str = ""
    uncounted: bool = False  # it was run, and none of its runs counts: it was changed since, held at a limit, or run under other loads


class NextDoc(BaseModel):
    """``within_margin_pct``: chance that the pick is no more than the margin from the best; ``needed_pct`` of it ends the campaign. Of a
    pick that was run once, neither chance is said to be more than a verdict would say of it."""

    format: Literal["oventa-next"] = "oventa-next"
    version: Literal[1] = 1
    engine: str = ENGINE.number
    method: str = METHOD.number
    load: str
    margin_k: float
    pick: str | None
    challenger: str | None
    chance_pct: float
    within_margin_pct: float
    needed_pct: float
    stop: bool
    why: str
    candidates: list[NextCandidate]
    stands: list[NextStand]
    rest: list[str]
    rest_minutes: float


@dataclass
class Deciding:
    """A job's layouts as a decision. ``now``: the layout that stands on the bench, where that is known."""

    learning: Learning
    margin_k: float
    hours: float | None = None
    now: str | None = None
    kept: Sequence[str] = ()
    load: str | None = None

    def document(self) -> NextDoc:
        """Raises DocumentError for a job without a layout in its case."""
        ids = [x.id for x in self.layouts]
        if not ids:
            raise DocumentError([Fault("layouts", "there is no layout to choose", "Draw some first.")])
        state = state_of(self.known, self.margin_k, self.looks, kept=[ids.index(x) for x in self.kept if x in ids])
        ordered = self._ordered(state)
        rest = self._rest(state, ordered)
        return NextDoc(
            load=self.own_load,
            margin_k=self.margin_k,
            pick=ids[state.pick],
            challenger=None if state.challenger is None else ids[state.challenger],
            chance_pct=100 * self._told(state, state.chance),
            within_margin_pct=100 * self._told(state, state.within),
            needed_pct=100 * needed(self.looks),
            stop=state.stop,
            why=self._why(state),
            candidates=[self._candidate(state, w) for w in ordered[:SHOWN]],
            stands=[self._stand(state, i) for i in sorted(range(len(ids)), key=lambda i: self.known.mean[i])],
            rest=rest,
            rest_minutes=self.minutes_of(rest, self.now),
        )

    @cached_property
    def own_load(self) -> str:
        return self.load or (self.learning.usual_load if self.learning.learned.readings else "both")

    @cached_property
    def layouts(self) -> list[LayoutDoc]:
        """Those that can be built into the case."""
        return [x for x in self.learning.doc.layouts if not x.open_bench]

    @cached_property
    def protocol(self) -> ProtocolDoc:
        doc = self.learning.doc
        found = latest(doc, doc.plan.protocol) if doc.plan else None
        return found or (doc.protocols[-1] if doc.protocols else from_template("short"))

    @cached_property
    def runs(self) -> dict[str, int]:
        """Valid runs of each layout under the load."""
        found: dict[str, set[str]] = {x.id: set() for x in self.layouts}
        heard = [r for r in self.learning.readings.levels.get(self.own_load, []) if r.at is None]
        pairs = [(r.layout, r.run) for r in self.learning.learned.readings if r.load == self.own_load] + [(r.layout, r.run) for r in heard]
        for layout, run in pairs:
            if layout in found:
                found[layout].add(run)
        return {x: len(names) for x, names in found.items()}

    @cached_property
    def uncounted(self) -> frozenset[str]:
        """Layouts that were run, though no run of them counts for what they are now under the load."""
        ran = {x.layout for x in self.learning.learned.readings} | {x.layout for x in self.learning.readings.left_aside}
        return frozenset(x for x, n in self.runs.items() if n == 0 and ran & {x, as_it_was(x, AS_RUN)})

    def _never(self, layout: str) -> str:
        return "none of its runs counts" if layout in self.uncounted else "never run"

    @property
    def looks(self) -> int:
        """After every layout's first run each further run is another look."""
        return max(1, sum(self.runs.values()) - sum(1 for n in self.runs.values() if n) + 1)

    @cached_property
    def weights(self) -> dict[str, float]:
        """Of everything that matters to the person, per unit of it, scaled so that a kelvin of processor and card together costs one."""
        given: dict[str, float] = self.learning.doc.priorities.model_dump(include=set(STEP))
        both = given["cpu"] + given["card"]
        scale = STEP["cpu"] / both if both > 0 else 1.0
        return {thing: scale * weight_of(thing, given) / STEP[thing] for thing in (*given, RESULT)}

    @cached_property
    def known(self) -> Knowledge:
        """Costs as the verdict's burden, in kelvins: rises by their distance from the limits, level and gap between the parts as they
        are known, results by how far they lie short of the best; price, work, dust and looks as they are."""
        ids, w = [x.id for x in self.layouts], self.weights
        cases = self.learning.machines(self.own_load, ids)
        table = Figures.of(self.learning, cases)
        levels = self.learning.levels([operating_point(c.machine) for c in cases], self.own_load)
        heard = np.array([x.level_dba for x in levels.levels])
        rows, mean = np.zeros((len(ids), len(table.figures))), w["noise"] * heard
        facts = self._facts
        for i, name in enumerate(ids):
            own: dict[Part, float] = {}
            for part in PARTS:
                figure = table.figure(i, part)
                if figure is not None:
                    own[part] = figure.rise_k
                    limit = facts[name].limit_rise_k.get(part)
                    felt, slope = _felt(figure.rise_k, limit)
                    mean[i] += w[part] * felt
                    rows[i, table.at[i, part]] += w[part] * slope
            if len(own) > 1:
                gap = own["cpu"] - own["card"]
                mean[i] += w["balance"] * abs(gap)
                rows[i, table.at[i, "cpu"]] += w["balance"] * np.sign(gap)
                rows[i, table.at[i, "card"]] -= w["balance"] * np.sign(gap)
            mean[i] += self._as_they_are(facts[name])
        mean += self._over(cases, table, heard)
        short, short_sigma = self._results(ids)
        mean += w[RESULT] * short
        covariance = rows @ table.covariance @ rows.T + w["noise"] ** 2 * levels.covariance + np.diag((w[RESULT] * short_sigma) ** 2)
        of_results = w[RESULT] * short_sigma * np.sqrt([max(self.runs[x], 1) for x in ids])
        noise = np.hypot([self._noise(rows[i], table, i) for i in range(len(ids))], of_results)
        minutes = np.array([self._minutes(self.now, x) for x in ids])
        return Knowledge(mean, covariance, noise, minutes, np.array([self.runs[x] for x in ids]))

    @cached_property
    def _facts(self) -> dict[str, LayoutFacts]:
        """Price, work, dust and looks, counted from the control, else from the first layout, as in the verdict."""
        doc = self.learning.doc
        oracle = Oracle(doc, Question(load=FORECAST_LOADS[self.own_load]))
        control = doc.plan.control if doc.plan else None
        reference = next((x for x in self.layouts if x.id == control), self.layouts[0])
        return {x.id: facts_of(oracle, x, reference) for x in self.layouts}

    def _as_they_are(self, facts: LayoutFacts) -> float:
        w = self.weights
        values = {"cost": facts.cost, "labour": facts.labour_min, "dust": facts.dust_pct, "looks": facts.looks_short}
        return sum(w[thing] * value for thing, value in values.items() if value is not None)

    def _results(self, ids: Sequence[str]) -> tuple[np.ndarray, np.ndarray]:
        """How far each layout lies short of the best in its results, in %, and one sigma; one that was not run for them as those that
        were, on the average, and as far off as they lie apart."""
        known = self.learning.readings.results.get(self.own_load, {})
        values = [known[x][0] for x in ids if x in known]
        if not values:
            return np.zeros(len(ids)), np.zeros(len(ids))
        unknown = float(np.mean(values)), float(np.std(values, ddof=1)) if len(values) > 1 else 0.0
        found = np.array([known.get(x, unknown) for x in ids])
        return found[:, 0], found[:, 1]

    def _noise(self, row: np.ndarray, table: Figures, i: int) -> float:
        """Of one more run of a layout, one sigma of its cost."""
        parts = [row[table.at[i, part]] * self._scatter(part) for part in PARTS if (i, part) in table.at]
        return hypot(*parts, self.weights["noise"] * LEVEL_DB)

    def _over(self, cases: Sequence[Case], table: Figures, heard: np.ndarray) -> np.ndarray:
        """What limits cost the layouts that do not keep them."""
        room = self.learning.doc.room
        found = np.zeros(len(cases))
        if room.sound_limit_dba is not None:
            found += OVER_K_PER_DB * np.maximum(heard - room.sound_limit_dba, 0.0)
        for i, c in enumerate(cases):
            for part in PARTS:
                figure, limit = table.figure(i, part), self._facts[c.layout].limit_rise_k.get(part)
                if figure is not None and limit is not None:
                    found[i] += OVER_K_PER_K * max(figure.rise_k - limit, 0.0)
        return found

    def _scatter(self, part: str) -> float:
        own = [r.own_k for r in self.learning.learned.readings if r.part == part and r.load == self.own_load]
        return sqrt(sum(x**2 for x in own) / len(own)) if own else RUN_SCATTER_PRIOR_K

    def _minutes(self, before: str | None, after: str) -> float:
        run = (SETUP_MIN + self.protocol.minutes) * len(self.protocol.loads)
        return run + (transition_minutes(self.learning.doc, before, after, self.protocol) if before else 0.0)

    def minutes_of(self, order: Sequence[str], before: str | None) -> float:
        """Of runs in an order, with what is done and waited for between them, from the layout that stands on the bench."""
        return sum(self._minutes(a, b) for a, b in zip([before, *order], order, strict=False))

    def _ordered(self, state: State) -> list[Worth]:
        """By gain per hour. Once the campaign would else end, what was never run and is still in question comes before any repeat, and then
        a pick that was run once."""
        first = state.open if state.within >= needed(self.looks) else ()
        if state.enough and not state.stop:
            first = (state.pick,)
        return sorted(state.worths, key=lambda w: (w.layout not in first, -w.gain_k_per_h, w.minutes)) if first else list(state.worths)

    def _told(self, state: State, chance: float) -> float:
        """A chance as it may be said of the pick."""
        return chance if self.known.runs[state.pick] > 1 else min(chance, MOST_OF_ONE_RUN)

    def _candidate(self, state: State, w: Worth) -> NextCandidate:
        ids = [x.id for x in self.layouts]
        name, runs = ids[w.layout], int(self.known.runs[w.layout])
        control = self.learning.doc.plan.control if self.learning.doc.plan else None
        kind: Literal["first", "repeat", "control"] = "first" if runs == 0 else "control" if name == control else "repeat"
        return NextCandidate(
            layout=name,
            kind=kind,
            minutes=w.minutes * w.repeats,
            gain_k=w.gain_k,
            gain_k_per_h=w.gain_k_per_h,
            repeats=w.repeats,
            fits=self.hours is None or w.minutes * w.repeats <= 60 * self.hours,
            why=self._why_run(state, w.layout, runs),
            uncounted=name in self.uncounted,
        )

    def _why_run(self, state: State, i: int, runs: int) -> str:
        ids = [x.id for x in self.layouts]
        gap, band = self._gap(i, state.pick)
        pick = ids[state.pick]
        if runs == 0:
            if i == state.pick:
                return f"{self._never(ids[i])}, and by the forecast the best"
            return f"{self._never(ids[i])}: by the forecast {_signed(gap)} ± {band:.1f} K against {pick}"
        if i == state.pick:
            return f"the pick: run {runs} times so far" if runs > 1 else "the pick: run once so far"
        if i == state.challenger:
            return f"the strongest challenger: {_signed(gap)} ± {band:.1f} K against {pick}"
        return f"{_signed(gap)} ± {band:.1f} K against {pick}"

    def _gap(self, i: int, other: int) -> tuple[float, float]:
        c = self.known.covariance
        sigma = sqrt(max(float(c[i, i] + c[other, other] - 2 * c[i, other]), 0.0))
        return float(self.known.mean[i] - self.known.mean[other]), k.COVERAGE_FACTOR * sigma

    def _stand(self, state: State, i: int) -> NextStand:
        gap, band = self._gap(i, state.pick)
        struck = i in state.struck
        name = self.layouts[i].id
        why = f"put aside: {gap:.1f} ± {band:.1f} K behind by the forecast, {self._never(name)}" if struck else ""
        runs = int(self.known.runs[i])
        return NextStand(layout=name, behind_k=gap, band_k=band, runs=runs, struck=struck, why=why, uncounted=name in self.uncounted)

    def _why(self, state: State) -> str:
        ids = [x.id for x in self.layouts]
        pick, within = ids[state.pick], chance_words(self._told(state, state.within))
        if len(ids) == 1:
            return "There is one layout only: draw or find another to compare it with."
        if state.stop:
            best = f"{pick} is within that of the best with a chance of {within}"
            return f"Further runs are unlikely to change the pick by more than {self.margin_k:g} K, by your weights: {best}."
        if state.enough:
            return f"{pick} leads, and was run once: one more run of it shows how far it comes back, and ends the campaign if it does."
        ends = f"{100 * needed(self.looks):.1f} % would end it"
        leading = f"your weights {pick} leads, within {self.margin_k:g} K of the best with a chance of {within}"
        leads = f"By {leading}; {ends}."
        if state.open:
            names = ", ".join(ids[i] for i in state.open)
            if not any(self.runs.values()):
                return f"{self._why_none()} By the forecast and {leading}."
            one = len(state.open) == 1
            never = f"{'was' if one else 'were'} never run"
            if any(ids[i] in self.uncounted for i in state.open):
                never = f"{'has' if one else 'have'} no run that counts"
            open_ones = f"{names} {never} and may still be the best."
            nearer = [w.layout for w in self._ordered(state)[:1] if w.layout not in state.open]
            return f"{leads} {open_ones}" if nearer else open_ones  # the run that is proposed is another: the lead is what it is about
        return leads

    def _why_none(self) -> str:
        """What no run counts for: there is none, or those that are in are left aside."""
        aside = [x for x in self.learning.readings.left_aside if x.layout]
        if not aside and not self.uncounted:
            return "Nothing was run yet."
        why = Counter(x.why for x in aside).most_common(1)
        return f"No run that is in counts for the layouts as they are now{f': {why[0][0]}' if why else ''}."

    def _rest(self, state: State, ordered: Sequence[Worth]) -> list[str]:
        """What would be run from here as things stand: each open layout once by the least way, then challenger and pick again, or a pick
        that was run once."""
        if state.stop or not ordered:
            return []
        ids = [x.id for x in self.layouts]
        first = ordered[0].layout
        path, left = [ids[first]], [ids[i] for i in state.open if i != first]
        while left:
            following = min(left, key=lambda x: self._minutes(path[-1], x))
            left.remove(following)
            path.append(following)
        again: tuple[int | None, ...] = (state.pick,) if self.known.runs[state.pick] == 1 else ()
        if state.within < needed(self.looks):
            again = (state.challenger, state.pick)
        return path + [ids[i] for i in again if i is not None and ids[i] != path[-1]]


def _felt(rise_k: float, limit_k: float | None) -> tuple[float, float]:
    """A rise as it counts by its distance from the limit, and by how much a kelvin more counts there."""
    low, at, high = (float(felt_k(np.asarray(rise_k + d), limit_k)) for d in (-NUDGE_K, 0.0, NUDGE_K))
    return at, (high - low) / (2 * NUDGE_K)


def _signed(value: float) -> str:
    return f"{value:+.1f}".replace("-", "−")


def last_layout(learning: Learning, order: Sequence[str]) -> str | None:
    """Of the run made last, where ``order`` lists layouts of runs by time."""
    known = {x.id for x in learning.doc.layouts if not x.open_bench}
    return next((x for x in reversed(order) if x in known), None)
