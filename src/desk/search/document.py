"""A search: every distinct layout solved, those that none beats, and what each would bring over the machine as it stands."""

from dataclasses import dataclass
from functools import cached_property

import numpy as np

from desk.forecast.document import Oracle, PointMemory, Question
from desk.job.difference import changes
from desk.learn.document import Figures, Learning
from desk.search.buildable import OF_THE_CASE, errors_of
from desk.search.cluster import solving
from desk.search.compared import TOLD_W, Compared, grouped, why
from desk.search.field import Search
from desk.search.looking import (
    COSTS,
    MOST_ROWS,
    SPEEDS,
    UNDER_A_LIMIT,
    Looks,
    Progress,
    Rows,
    Whole,
    every_row,
)
from desk.search.question import SearchQuestion
from desk.search.shapes import FoundLayout, SearchDoc, SearchDots, SearchStart, StoppedFan
from desk.search.sides import by_sides, speed_words
from desk.search.stopped import OneStopped, one_stopped
from desk.search.wide import Wide, wide_rows
from documents.job.models import JobDoc, LayoutDoc
from engine.coupled.bands import sound_band_db
from engine.coupled.compare import WATT_WORTH_K
from engine.coupled.operating_point import OperatingPoint
from engine.errors import OventaError
from engine.findings.rules.radiator import COOLANT_LIMIT_C
from engine.learn.case import PARTS, Case, limits_of
from engine.plan.rebuild import minutes_of
from engine.search.front import not_beaten, spread, unbeaten
from engine.search.space import EMPTY, count, counted_exactly

TOLERANCE = np.array([0.05, 0.05, 0.05, 0.01, 1.0])  # of processor K, card K, level dB, price, changes: what is kept apart
MOST_FRONT = 160  # layouts of the frontier that are written out
MOST_DOTS = 30_000  # of the map
SIDES = 6  # layouts that are tried with a speed for each side: as many as are read first
SIDES_K = 0.5  # no source: less is not worth a second speed
OVER = 1e-9  # numerical


def search(
    doc: JobDoc,
    question: SearchQuestion,
    learning: Learning | None = None,
    memory: PointMemory | None = None,
    progress: Progress | None = None,
    dots: bool = False,
) -> SearchDoc:
    """Looks at every layout there is, or at as many as can be, and keeps what none beats. Raises DocumentError for a bad question."""
    made = Search.of(doc, question, learning)
    possible = sum(count(f.space) for f in made.frames)
    series = SPEEDS if question.max_dba is None else UNDER_A_LIMIT
    speeds = next((x for x in series if possible * len(x) <= MOST_ROWS), None)
    rows = Rows()
    wide: Wide | None = None
    with solving(made, rows) as solver:
        if speeds is not None:
            total = possible * len(speeds)
            for frame, states, shares in every_row(made, speeds):
                solver.give(frame, states, shares)
                if progress:
                    progress(sum(len(x) for x in rows.frame), total, rows)
        else:
            looks = Looks(made, rows, series[0][:1], progress, solver, series[0][1:])
            wide = wide_rows(looks, MOST_ROWS)
    whole = rows.whole()
    distinct = possible if wide is None else wide.distinct
    return Answer(made, whole, memory).document(possible, distinct, wide, dots)


@dataclass
class Answer:
    made: Search
    whole: Whole
    memory: PointMemory | None

    @property
    def learning(self) -> Learning | None:
        return self.made.learning

    def document(self, possible: int, distinct: int, wide: "Wide | None", dots: bool) -> SearchDoc:
        kept, ruled_out = self._kept()
        front, unbeaten_rows = self._front(kept, ruled_out)
        frontier = self._told(front) if front else []
        drawn = self._drawn()
        return SearchDoc(
            learned=self.learning.taught_by if self.learning else None,
            evaluated=len(self.whole),
            distinct=distinct,
            possible=possible,
            possible_exact=all(counted_exactly(f.space) for f in self.made.frames),
            exhaustive=wide is None,
            gap_pct=wide.gap_pct if wide else None,
            seed=self.made.question.seed,
            room_c=self.made.room_c,
            start=next(x for x in drawn if x.id == self.made.start.id),
            drawn=drawn,
            within_limits=int(kept.sum()),
            unbeaten=unbeaten_rows,
            ruled_out=ruled_out,
            why_none="" if frontier else self._why_none(),
            frontier=frontier,
            dots=self._dots(kept) if dots else None,
        )

    def _kept(self) -> tuple[np.ndarray, dict[str, int]]:
        """Rows within every limit, and how many rows each limit alone rules out."""
        f = self.figures
        kept = f[:, 6] > 0
        ruled = {"not_settled": int((~kept).sum())}
        if 0 < self._start_coolant_c < COOLANT_LIMIT_C:
            hot = f[:, 7] + self.made.room_c >= COOLANT_LIMIT_C
            ruled["coolant"] = int(hot.sum())
            kept &= ~hot
        for name, over in self._over(f).items():
            ruled[name] = int(over.sum())
            kept &= ~over
        if self.made.question.max_price is not None:
            unknown = self.made.pile.unpriced(self.whole.states)
            ruled["price_unknown"] = int(unknown.sum())
            kept &= ~unknown
        return kept, ruled

    def _over(self, f: np.ndarray) -> dict[str, np.ndarray]:
        """Of the limits that were asked for, which rows of figures go over each."""
        q, room = self.made.question, self.made.room_c
        tests = {
            "sound": (q.max_dba, f[:, 2]),
            "cpu": (q.max_cpu_c, f[:, 0] + room),
            "card": (q.max_card_c, f[:, 1] + room),
            "price": (q.max_price, f[:, 3]),
            "minutes": (q.max_minutes, f[:, 8]),
        }
        return {name: values > limit + OVER for name, (limit, values) in tests.items() if limit is not None}

    @cached_property
    def figures(self) -> np.ndarray:
        """Of all rows; those that come into the front are told exactly."""
        return self.whole.figures.copy() if self.learning else self.whole.figures

    @cached_property
    def _worst(self) -> dict[int, StoppedFan | None]:
        """By row that was looked at with each fan at rest: the worst of them."""
        return {}

    @cached_property
    def _faces(self) -> dict[str, str]:
        return {m.id: m.face for m in self.made.doc.case.mounts}

    @cached_property
    def _start_coolant_c(self) -> float:
        """0 where nothing is cooled by coolant."""
        coolant = self._oracle([]).forecast(self.made.start.id).coolant
        return coolant.temperature_c if coolant else 0.0

    def _why_none(self) -> str:
        """What stands in the way, by the nearest that there is."""
        q, f, room = self.made.question, self.figures, self.made.room_c
        if not len(f):
            sections = max((len(g) for frame in self.made.frames for g in frame.space.together), default=0)
            if sections:
                return f"there is no layout to look at: the radiator alone takes {sections} fans, one on every section"
            return "there is no layout to look at: no fan may be used"
        best = {"level": f[:, 2].min(), "cpu": f[:, 0].min() + room, "card": f[:, 1].min() + room}
        words, least_lost_w = [], f[:, 5].min()
        if least_lost_w > TOLD_W and (q.max_cpu_c is not None or q.max_card_c is not None):
            words.append(f"a part is held at its own limit everywhere, giving up {least_lost_w:.0f} W or more")
            best["cpu"] = best["card"] = 0.0  # what is held is not told in kelvins
        if q.max_dba is not None and best["level"] > q.max_dba:
            words.append(f"no layout is under {q.max_dba:g} dBA: the quietest has {best['level']:.1f} dBA")
        if q.max_cpu_c is not None and best["cpu"] > q.max_cpu_c:
            words.append(f"the processor stays at {best['cpu']:.0f} °C or above")
        if q.max_card_c is not None and best["card"] > q.max_card_c:
            words.append(f"the card stays at {best['card']:.0f} °C or above")
        coolest = f[:, 7].min() + room
        if 0 < self._start_coolant_c < COOLANT_LIMIT_C <= coolest:
            words.append(f"the coolant stays at {coolest:.0f} °C or above, where makers commonly allow {COOLANT_LIMIT_C:.0f} °C")
        return "; ".join(words) or "each limit alone can be kept, all together cannot; ease one of them"

    def _front(self, kept: np.ndarray, ruled_out: dict[str, int]) -> tuple[list[int], int]:
        """Rows that none beats among what can be built, and how many there were before the most telling were chosen.

        What comes into the front is looked at closely: what has an error finding goes, and what only it beat comes back; with what
        runs have taught its figures are told exactly, and what goes over a limit then goes too.
        """
        at = np.flatnonzero(kept)
        looked = np.zeros(len(self.whole), dtype=bool)
        while len(at):
            whole_front = at[unbeaten(self.figures[at, :COSTS], TOLERANCE)]
            if len(fallen := self._fallen(whole_front)):
                _more(ruled_out, "one_fan_stops", len(fallen))
                at = np.setdiff1d(at, fallen)
                continue
            front = spread(self.figures[whole_front, :COSTS], MOST_FRONT, np.flatnonzero(looked[whole_front]).tolist())
            rows = whole_front[front]
            new = rows[~looked[rows]]
            if not len(new):
                return [int(i) for i in rows], len(whole_front)
            looked[new] = True
            wrong = [int(i) for i in new if self._errors(int(i))]
            _more(ruled_out, "does_not_go_together", len(wrong))
            gone = np.array([*wrong, *self._told_exactly(np.setdiff1d(new, wrong), ruled_out)], dtype=np.int64)
            at = at[~np.isin(at, gone)]
            good, rest = at[looked[at]], at[~looked[at]]
            left = not_beaten(self.figures[rest, :COSTS], self.figures[good, :COSTS], TOLERANCE)
            at = np.concatenate([good, rest[left]])
        return [], 0

    def _told_exactly(self, rows: np.ndarray, ruled_out: dict[str, int]) -> list[int]:
        """Writes what runs have taught of some rows; those that go over a limit by that."""
        if self.learning is None or not len(rows):
            return []
        own = [self._layout(int(row), f"search-{n}") for n, row in enumerate(rows, start=1)]
        oracle = self._oracle(own)
        told = self._figures(oracle, [x.id for x in own], [oracle.point(x.id) for x in own])
        for n, row in enumerate(rows):
            self.figures[row, 5] = told.lost_w(n)
            lost = WATT_WORTH_K * self.figures[row, 5]
            for j, part in enumerate(PARTS):
                rise = told.rise(n, part)
                self.figures[row, j] = rise[0] + lost if rise else self.figures[row, j]
            self.figures[row, 2] = told.levels[n][0]
        gone = np.zeros(len(rows), dtype=bool)
        for name, over in self._over(self.figures[rows]).items():
            _more(ruled_out, name, int(over.sum()))
            gone |= over
        return [int(x) for x in rows[gone]]

    def _fallen(self, rows: np.ndarray) -> np.ndarray:
        """Of rows those that do not keep to what is asked of them with one fan at rest; remembers of each what is worst."""
        q, room = self.made.question, self.made.room_c
        new = np.array([r for r in rows if int(r) not in self._worst], dtype=np.int64) if q.one_fan_may_stop else rows[:0]
        if not len(new):
            return new
        found = one_stopped(self.made, self.whole, new)
        limits = np.array([limits_of(frame.field.machine) for frame in self.made.frames])[self.whole.frame[found.row]]
        strain = found.strain(limits)
        asked = np.array([np.inf if x is None else x - room for x in (q.max_cpu_c, q.max_card_c)])
        broken = (found.rise_k > asked + OVER).any(axis=1) | (found.lost_w > TOLD_W)
        for row in new:
            own = np.flatnonzero(found.row == row)
            worst = own[np.argmax(strain[own])] if len(own) else None
            self._worst[int(row)] = None if worst is None else self._stopped_fan(found, int(worst))
        return np.unique(found.row[broken])

    def _stopped_fan(self, found: OneStopped, line: int) -> StoppedFan:
        cpu_k, card_k = (float(x) for x in found.rise_k[line])
        has_card = self.made.frames[0].field.machine.card is not None
        return StoppedFan(mount=self.made.mounts[found.mount[line]], cpu_rise_k=cpu_k, card_rise_k=card_k if has_card else None)

    def _layout(self, row: int, ident: str) -> LayoutDoc:
        w = self.whole
        return self.made.layout(self.made.frames[w.frame[row]], w.states[row], float(w.speed[row]), ident)

    def _oracle(self, own: list[LayoutDoc]) -> Oracle:
        q = self.made.question
        room = self.made.room_c if q.at_worst else None
        return Oracle(self.made.with_layouts(own), Question(load=q.load, room_c=room, scenario=q.scenario), self.memory)

    def _errors(self, row: int) -> set[tuple[str, tuple[str, ...]]]:
        """Error findings that the start does not have itself."""
        own = self._layout(row, "search-1")
        return errors_of(self._oracle([own]), own.id) - self._standing

    @cached_property
    def _standing(self) -> set[tuple[str, tuple[str, ...]]]:
        """What is wrong with the case and its parts whatever the fans do."""
        found = {x for x in errors_of(self._oracle([]), self.made.start.id) if x[0] in OF_THE_CASE}
        short = {("stock_short", ())} if self.made.question.fans == "library" else set()
        return found | short

    def _drawn(self) -> list[SearchStart]:
        oracle = self._oracle([])
        ids = [x.id for x in self.made.doc.layouts]
        told = self._figures(oracle, ids, [oracle.point(x) for x in ids])
        found = []
        for n, ident in enumerate(ids):
            cpu, card = told.rise(n, "cpu"), told.rise(n, "card")
            found.append(
                SearchStart(
                    id=ident,
                    cpu_rise_k=cpu[0] if cpu else 0.0,
                    card_rise_k=card[0] if card else None,
                    level_dba=told.levels[n][0],
                    lost_k=WATT_WORTH_K * told.lost_w(n),
                )
            )
        return found

    def _case(self, oracle: Oracle, ident: str) -> Case:
        return Case(ident, self.made.question.load, oracle.machine(ident))

    def _levels(self, points: list[OperatingPoint]) -> list[tuple[float, float]]:
        if not self.learning:
            raise OventaError("nothing was learned", "learned", "Ask without it.")
        return [(x.level_dba, x.band_db) for x in self.learning.levels(points, self.made.question.load).levels]

    def _told(self, rows: list[int]) -> list[FoundLayout]:
        """The rows as found layouts; those that are read first with a speed for each side, where that beats one for all."""
        own = [self._layout(row, f"search-{n}") for n, row in enumerate(rows, start=1)]
        found, figures = self._found(rows, own)
        q = self.made.question
        sides = q.speeds == "sides" and not q.one_fan_may_stop  # with a fan at rest only common speeds were looked at
        first = [x for x in grouped(found, figures) if x.simplest][:SIDES] if sides else []
        better = self._by_sides(first)
        if not better:
            return grouped(found, figures)
        found, figures = self._found(rows, [better.get(x.id, x) for x in own])
        costs = np.array([_costs(x) for x in found])
        stays = unbeaten(costs, TOLERANCE)
        return grouped([found[i] for i in stays], figures.only([0, *(1 + stays)]))

    def _found(self, rows: list[int], own: list[LayoutDoc]) -> tuple[list[FoundLayout], Compared]:
        oracle = self._oracle(own)
        ids = [self.made.start.id, *(x.id for x in own)]
        figures = self._figures(oracle, ids, [oracle.point(x) for x in ids])
        return [self._one(n, row, own[n], oracle, figures) for n, row in enumerate(rows)], figures

    def _by_sides(self, first: list[FoundLayout]) -> dict[str, LayoutDoc]:
        """Of some found layouts those that are better with a speed for each side: nothing warmer, nothing louder, something gained."""
        oracle = self._oracle([x.layout for x in first])
        tried = [(x, other) for x in first if (other := by_sides(oracle, x.layout)) is not None]
        if not tried:
            return {}
        other_oracle = self._oracle([other for _, other in tried])
        ids = [other.id for _, other in tried]
        told = self._figures(other_oracle, ids, [other_oracle.point(x) for x in ids])
        found = {}
        for n, (x, other) in enumerate(tried):
            cpu, card = told.rise(n, "cpu"), told.rise(n, "card")
            lost = WATT_WORTH_K * (told.lost_w(n) - x.lost_w)
            gains = [x.cpu_rise_k - cpu[0] - lost if cpu else 0.0, (x.card_rise_k or 0.0) - card[0] - lost if card else 0.0]
            louder = told.levels[n][0] - min(x.level_dba, self.made.question.max_dba or x.level_dba)
            if sum(gains) >= SIDES_K and min(gains) >= -TOLERANCE[0] and louder <= TOLERANCE[2]:
                found[other.id] = other
        return found

    def _figures(self, oracle: Oracle, ids: list[str], points: list[OperatingPoint]) -> "Compared":
        if self.learning:
            learning = self.learning.about(oracle.doc)
            table = Figures.of(learning, [self._case(oracle, x) for x in ids])
            return Compared(points, table, self._levels(points))
        return Compared(points, None, [(oracle.forecast(x).sound.level_dba, sound_band_db()) for x in ids])

    def _one(self, n: int, row: int, layout: LayoutDoc, oracle: Oracle, figures: "Compared") -> FoundLayout:
        plain = oracle.forecast(layout.id)
        steps = changes(oracle.doc, self.made.start, layout)
        by_hand = [c for c in steps if c.kind != "speed"]
        speeds = [f.speed_pct for f in layout.fans]
        words = [c.words for c in by_hand]
        if speeds and any(c.kind == "speed" for c in steps):
            words.append(speed_words(layout, self._faces))
        cpu, card = figures.rise(n + 1, "cpu"), figures.rise(n + 1, "card")
        cpu_gain, card_gain = figures.difference(0, n + 1, "cpu"), figures.difference(0, n + 1, "card")
        level, band = figures.levels[n + 1]
        found = FoundLayout(
            layout=layout,
            cpu_rise_k=cpu[0] if cpu else 0.0,
            cpu_band_k=cpu[1] if cpu else 0.0,
            card_rise_k=card[0] if card else None,
            card_band_k=card[1] if card else None,
            level_dba=level,
            level_band_db=band,
            lost_w=figures.lost_w(n + 1),
            lost_k=WATT_WORTH_K * figures.lost_w(n + 1),
            price=None if self.made.pile.unpriced(self.whole.states[row : row + 1])[0] else float(self.figures[row, 3]),
            changes=sum(c.count for c in by_hand),
            minutes=minutes_of(steps, self.made.doc.practice.minutes),
            stopped=self._worst.get(row),
            group=0,
            simplest=False,
            words=words,
            why=[],
            balance=plain.balance.state,
            fans=len(layout.fans),
            speed_pct=max(speeds, default=0.0),
            cpu_gain_k=cpu_gain[0] if cpu_gain else 0.0,
            cpu_gain_band_k=cpu_gain[1] if cpu_gain else 0.0,
            card_gain_k=card_gain[0] if card_gain else None,
            card_gain_band_k=card_gain[1] if card_gain else None,
            level_gain_db=level - figures.levels[0][0],
        )
        return found.model_copy(update={"why": why(found)})

    def _dots(self, kept: np.ndarray) -> SearchDots:
        f, states = self.figures, self.whole.states
        bits = ((states != EMPTY).astype(np.int64) << np.arange(states.shape[1])).sum(axis=1) if len(states) else np.zeros(0, np.int64)
        table = np.column_stack([np.round(10 * f[:, 0]), np.round(10 * f[:, 1]), np.round(10 * f[:, 2]), bits, kept]).astype(np.int64)
        table = np.unique(table, axis=0)
        thinned = len(table) > MOST_DOTS
        if thinned:
            rng = np.random.default_rng(self.made.question.seed)
            table = table[np.sort(rng.choice(len(table), MOST_DOTS, replace=False))]
        return SearchDots(
            names=self.made.mounts,
            cpu_dk=table[:, 0].tolist(),
            card_dk=table[:, 1].tolist(),
            level_ddb=table[:, 2].tolist(),
            mounts=table[:, 3].tolist(),
            kept=[bool(x) for x in table[:, 4]],
            thinned=thinned,
        )


def _more(ruled_out: dict[str, int], name: str, n: int) -> None:
    if n:
        ruled_out[name] = ruled_out.get(name, 0) + n


def _costs(x: FoundLayout) -> list[float]:
    return [x.cpu_rise_k + x.lost_k, (x.card_rise_k or 0.0) + x.lost_k, x.level_dba, x.price or 0.0, float(x.changes)]
