"""A job as something to be searched: which fans, at which mounts, with the radiator, cooler and card in which places."""

from collections.abc import Iterator, Sequence
from dataclasses import dataclass, replace
from functools import cached_property
from itertools import combinations, product
from math import hypot

import numpy as np

from desk.forecast.scenario import grown
from desk.job.difference import changes
from desk.job.resolve import Resolver, heard_bands_rpm, most_pct
from desk.learn.document import Learning
from desk.search.places import coolers_ways, radiator_places
from desk.search.question import SearchQuestion
from desk.together.wiring import fans_used
from documents.errors import DocumentError, Fault
from documents.job.models import FanDoc, FanPlaceDoc, JobDoc, LayoutDoc, RadiatorPlaceDoc
from engine.coupled.operating_point import loaded, operating_point
from engine.learn.case import held_k, limits_of, unheld_k
from engine.learn.levels import NOTHING_OFF, LearnedLevels
from engine.learn.likeness import fan_rows
from engine.machine import PlacedFan
from engine.parameters import DEFAULT
from engine.plan.rebuild import Change, Kind, minutes_of
from engine.search.batch import Field, Solved, alike_mounts
from engine.search.space import EMPTY, Space, States, is_intake, kind_of

COOLING = (
    "cooler",
    "cooler_fan",
    "cooler_fans",
    "cooler_fan_pct",
    "cooler_curve",
    "cooler_direction",
    "cooler_fan_side",
    "radiator",
    "loops",
)
OVERLAP_MM = 2.0  # no source: openings of two mounts that lie this far into each other cannot both carry a fan


@dataclass(frozen=True)
class Frame:
    """Radiator, cooler and card in one place each; the fans vary. ``steps``: what is done by hand to have these so."""

    layout: LayoutDoc  # without fans
    field: Field
    space: Space
    steps: tuple[Change, ...]
    inner_sound: float  # of what sounds inside with the start's fans, as ``Field`` has sounds

    @property
    def moved(self) -> int:
        """How many of radiator, cooler and card are otherwise than now."""
        return sum(c.count for c in self.steps)


@dataclass
class Pile:
    """The fans there are: kinds, how many of each may be used, and how many of those are on hand."""

    fans: list[FanDoc]
    count: list[int]
    on_hand: list[int]

    @cached_property
    def bands(self) -> list[tuple[int, float, float]]:
        """(kind, from, to) of speeds to avoid, as shares of full speed, the quickest first."""
        found = [(t, low / f.speed_max_rpm, high / f.speed_max_rpm) for t, f in enumerate(self.fans) for low, high in heard_bands_rpm(f)]
        return sorted(found, key=lambda b: -b[1])

    def cost(self, states: States) -> np.ndarray:
        """What has to be bought, by row; a fan without a price costs nothing here, and is told."""
        kinds = kind_of(states)
        total = np.zeros(len(states))
        for t, fan in enumerate(self.fans):
            more = np.maximum((kinds == t).sum(axis=1) - self.on_hand[t], 0)
            total += more * (fan.price or 0.0)
        return total

    def unpriced(self, states: States) -> np.ndarray:
        """Rows that need a fan nobody knows the price of."""
        kinds = kind_of(states)
        found = np.zeros(len(states), dtype=bool)
        for t, fan in enumerate(self.fans):
            if fan.price is None:
                found |= (kinds == t).sum(axis=1) > self.on_hand[t]
        return found


@dataclass
class Search:
    """One question about one job, made ready."""

    doc: JobDoc
    question: SearchQuestion
    start: LayoutDoc
    learning: Learning | None = None

    @classmethod
    def of(cls, doc: JobDoc, question: SearchQuestion, learning: Learning | None = None) -> "Search":
        """With what runs of this case have taught, if given.

        Raises DocumentError where the job has no layout, or another is named than it has.
        """
        if not doc.layouts:
            raise DocumentError([Fault("layouts", "the job has no layout", "Draw the machine as it stands first.")])
        start = next((x for x in doc.layouts if x.id == question.start), None) if question.start else doc.layouts[0]
        if start is None:
            have = ", ".join(x.id for x in doc.layouts)
            raise DocumentError([Fault("start", f"there is no layout {question.start!r}", f"Choose one of: {have}.")])
        if start.open_bench:
            raise DocumentError([Fault("start", "the open bench has no mounts to search", "Start from a layout in the case.")])
        known = {m.id for m in doc.case.mounts}
        if missing := [m for m in question.empty if m not in known]:
            raise DocumentError([Fault("empty", f"there is no mount {missing[0]!r}", f"Choose one of: {', '.join(sorted(known))}.")])
        return cls(doc, question, start, learning)

    @cached_property
    def parameters(self) -> np.ndarray:
        return self.learning.learned.vector if self.learning else DEFAULT

    @cached_property
    def heard(self) -> LearnedLevels | None:
        """How far sources of sound lie off their sheets, as the runs have it."""
        return self.learning.levels([], self.question.load) if self.learning else None

    def rises_k(self, frame: "Frame", found: Solved) -> tuple[np.ndarray, np.ndarray]:
        """Of processor and card, (rows, 2), and what they give up in W: with what the runs say beyond the parameters."""
        rises = np.column_stack([found.cpu_k, found.card_k])
        if self.learning is None:
            return rises, found.lost_w
        m = frame.field.machine
        powers = np.array([m.cpu.power_w, m.card.power_w if m.card else 0.0])
        many = fan_rows(m, frame.field.plan.links, found.flow_m3s, self.question.load)
        free = unheld_k(rises, np.broadcast_to(powers, rises.shape), powers - found.lost_w)
        beyond = self.learning.learned.beyond_k(many, free) * np.array([True, m.card is not None])
        return held_k(free + beyond, np.broadcast_to(limits_of(m), rises.shape), np.broadcast_to(powers, rises.shape))

    @cached_property
    def room_c(self) -> float:
        room = self.doc.room
        worst = room.worst_temperature_c if self.question.at_worst else None
        return room.temperature_c if worst is None else worst

    @cached_property
    def start_fans(self) -> tuple[PlacedFan, ...]:
        return self.resolver.machine(self.start.id, self.room_c).fans

    @cached_property
    def resolver(self) -> Resolver:
        return Resolver(self.doc)

    @cached_property
    def mounts(self) -> list[str]:
        return [m.id for m in self.doc.case.mounts]

    @cached_property
    def pile(self) -> Pile:
        """On hand: as counted in the stock; where nobody has counted, what the job's layouts use at once."""
        doc, mounts = self.doc, len(self.mounts)
        used: dict[str, int] = {}
        for layout in doc.layouts:
            for name, n in fans_used(self.resolver, layout).items():
                used[name] = max(used.get(name, 0), n)
        have = doc.stock.fans if doc.stock else {}
        of_cooler = fans_used(self.resolver, self.start.model_copy(update={"fans": []}))
        fans: list[FanDoc] = []
        count: list[int] = []
        on_hand: list[int] = []
        for fan in doc.parts.fans:
            own = max(have.get(fan.id, used.get(fan.id, 0)) - of_cooler.get(fan.id, 0), 0)
            most = mounts if self.question.fans == "library" else min(own, mounts)
            if most and any(fan.size_mm in m.sizes_mm for m in doc.case.mounts):
                fans.append(fan)
                count.append(most)
                on_hand.append(own)
        return Pile(fans, count, on_hand)

    @cached_property
    def frames(self) -> list[Frame]:
        if not self.pile.fans:
            do = "Enter fans and how many are on hand, or search the library."
            raise DocumentError([Fault("parts.fans", "there is no fan that fits a mount of this case", do)])
        return list(self._frames())

    def _frames(self) -> Iterator[Frame]:
        for cooled in self._cooled():
            yield from self._frames_of(cooled)

    def _cooled(self) -> list[LayoutDoc]:
        """The start, and the start with every other cooler that a layout of the job has, with its radiator where that stands."""
        found, seen = [self.start], {self._cooling(self.start)}
        for other in self.doc.layouts if self.question.swap_cooler else ():
            if other.open_bench or self._cooling(other) in seen:
                continue
            seen.add(self._cooling(other))
            raw = self.start.model_dump(mode="json", exclude_unset=True)
            for name in COOLING:
                raw.pop(name, None)
            raw |= other.model_dump(mode="json", exclude_unset=True, include=set(COOLING))
            found.append(LayoutDoc.model_validate(raw))
        return found

    def _cooling(self, layout: LayoutDoc) -> tuple[object, ...]:
        loops = layout.loops or []
        parts = (layout.radiator.radiator if layout.radiator else None, *(tuple(r.radiator for r in x.radiators) for x in loops))
        return (self.resolver.setting(layout, "cooler"), self.resolver.setting(layout, "cooler_fan"), *parts)

    def _frames_of(self, start: LayoutDoc) -> Iterator[Frame]:
        q = self.question
        places: Sequence[RadiatorPlaceDoc | None] = [start.radiator and start.radiator.model_copy(update={"gap_mm": 0})]
        if q.move_radiator and start.radiator and not start.loops:
            places = radiator_places(self.doc, start)
        ways = coolers_ways(self.resolver, start, q.turn_cooler)
        flat = ["flat", "upright"] if q.turn_card and self.resolver.setting(start, "card") else [start.card_orientation]
        for place, way, card in product(places, ways, sorted(flat, key=lambda x: x != start.card_orientation)):
            raw = start.model_dump(mode="json", exclude_unset=True)
            raw |= {"id": "search", "fans": [], "groups": [], "wiring": [], "as_found": [], "accepted": raw.get("accepted", [])}
            raw["picture"], raw["ready"], raw["parent"] = "", False, self.start.id
            if place is not None:
                raw["radiator"] = place.model_dump(mode="json", exclude_unset=True)
            if way is not None and way != (start.cooler_direction or "rear"):
                raw["cooler_direction"] = way
            if card != start.card_orientation or "card_orientation" in raw:
                raw["card_orientation"] = card
            layout = LayoutDoc.model_validate(raw)
            doc = self.doc.model_copy(update={"layouts": [*self.doc.layouts, layout], "plan": None})
            whole = grown(Resolver(doc).machine("search", self.room_c), doc, q.scenario)
            machine = replace(loaded(whole, q.load), fans=())
            field = Field(
                machine,
                tuple(self.resolver.fan(f) for f in self.pile.fans),
                tuple(most_pct(f) for f in self.pile.fans),
                tuple(self.mounts),
                self.heard.offsets if self.heard else NOTHING_OFF,
                self.heard.meter_db if self.heard else 0.0,
            )
            same_fans = layout.model_copy(update={"fans": self.start.fans, "groups": self.start.groups})
            steps = tuple(c for c in changes(doc, self.start, same_fans) if c.kind != "speed")
            speeds = operating_point(replace(machine, fans=self.start_fans), self.parameters).speeds
            inner = float(field.inner_sound(*(np.array([x]) / 100 for x in (speeds.cooler, speeds.card, speeds.pump)))[0])
            yield Frame(layout, field, self._space(layout, field), steps, inner)

    def _space(self, layout: LayoutDoc, field: Field) -> Space:
        doc, at = self.doc, {m: i for i, m in enumerate(self.mounts)}
        kinds = [
            () if m.id in self.question.empty else tuple(t for t, f in enumerate(self.pile.fans) if f.size_mm in m.sizes_mm)
            for m in doc.case.mounts
        ]
        radiators = [r.mounts for loop in self.resolver.loops(layout) for r in loop.radiators]
        together = tuple(tuple(sorted(at[m] for m in mounts)) for mounts in radiators)
        space = Space(tuple(kinds), tuple(self.pile.count), self._apart(), together, (), self.question.most_fans)
        alike = [g for g in alike_mounts(field, self.parameters) if len({kinds[i] for i in g}) == 1]
        held = {m for pair in space.apart for m in pair} | {m for g in together for m in g}
        return replace(space, alike=tuple(g for g in alike if not held & set(g)))

    def _apart(self) -> tuple[tuple[int, int], ...]:
        """Mounts of one face whose smallest fans would lie over each other."""
        found = []
        for (i, a), (j, b) in combinations(enumerate(self.doc.case.mounts), 2):
            if a.face != b.face or a.on_shroud != b.on_shroud:
                continue
            gap = hypot(a.centre_mm.x - b.centre_mm.x, a.centre_mm.y - b.centre_mm.y, a.centre_mm.z - b.centre_mm.z)
            if gap < (min(a.sizes_mm) + min(b.sizes_mm)) / 2 - OVERLAP_MM:
                found.append((i, j))
        return tuple(found)

    @cached_property
    def start_states(self) -> tuple[np.ndarray, np.ndarray]:
        """Kind of fan and way by mount as it stands now: kind -1 where there is none (or one that is not in the pile, -2)."""
        kinds = np.full(len(self.mounts), -1, np.int8)
        intake = np.zeros(len(self.mounts), dtype=bool)
        names = [f.id for f in self.pile.fans]
        for p in self.start.fans:
            if p.layer == "outer" or kinds[self.mounts.index(p.mount)] == -1:
                kinds[self.mounts.index(p.mount)] = names.index(p.fan) if p.fan in names else -2
                intake[self.mounts.index(p.mount)] = p.direction == "intake"
        return kinds, intake

    @cached_property
    def drawn_states(self) -> States:
        """The job's own layouts as rows, those whose fans are all in the pile and stand in one layer."""
        names, at = [f.id for f in self.pile.fans], {m: i for i, m in enumerate(self.mounts)}
        found = []
        for layout in self.doc.layouts:
            row = np.zeros(len(self.mounts), np.int8)
            for p in layout.fans:
                if p.fan in names:
                    row[at[p.mount]] = 1 + 2 * names.index(p.fan) + (p.direction == "exhaust")
            if len({p.mount for p in layout.fans}) == len(layout.fans) == int((row != EMPTY).sum()):
                found.append(row)
        return np.array(found, np.int8).reshape(-1, len(self.mounts))

    def _by_hand(self, states: States) -> dict[Kind, np.ndarray]:
        """How often each thing is done to the fans from the start, by row, as ``desk.job.difference`` counts it."""
        kinds, (was, was_in) = kind_of(states), self.start_states
        none = np.zeros(len(states), dtype=np.int64)
        move, take_out, put = none.copy(), none.copy(), none.copy()
        for t in [-2, *range(len(self.pile.fans))]:
            gone = ((was == t) & (kinds == -1)).sum(axis=1)
            come = ((was == -1) & (kinds == t)).sum(axis=1)
            both = np.minimum(gone, come)
            move, take_out, put = move + both, take_out + gone - both, put + come - both
        stays = (was != -1) & (kinds != -1)
        flip = (stays & (is_intake(states) != was_in)).sum(axis=1)
        return {"move": move, "take_out": take_out, "put": put, "flip": flip, "swap": (stays & (kinds != was)).sum(axis=1)}

    def work(self, states: States, frame: Frame) -> tuple[np.ndarray, np.ndarray]:
        """How many things are done by hand from the start, and minutes for them; speeds are not among them."""
        own, counts = self.doc.practice.minutes, self._by_hand(states)
        fans = np.sum(list(counts.values()), axis=0)
        minutes = np.sum([n * minutes_of([Change(kind, "")], own, closed=True) for kind, n in counts.items()], axis=0)
        opened = Change("other", "", 0)  # opening and closing, once for everything
        around = np.where(fans > 0, minutes_of([*frame.steps, opened], own), minutes_of(frame.steps, own))
        return fans + frame.moved, minutes + around

    def layout(self, frame: Frame, states: np.ndarray, speed: float, ident: str) -> LayoutDoc:
        """One row as a layout of the document."""
        kinds, intake = kind_of(states), is_intake(states)
        fans = [
            FanPlaceDoc(
                mount=mount,
                fan=self.pile.fans[kinds[i]].id,
                direction="intake" if intake[i] else "exhaust",
                speed_pct=min(round(100 * speed, 3), round(most_pct(self.pile.fans[kinds[i]]), 3)),
            )
            for i, mount in enumerate(self.mounts)
            if states[i] != EMPTY
        ]
        raw = frame.layout.model_dump(mode="json", exclude_unset=True)
        raw |= {"id": ident, "fans": [f.model_dump(mode="json", exclude_unset=True) for f in fans]}
        return LayoutDoc.model_validate(raw)

    def with_layouts(self, layouts: Sequence[LayoutDoc]) -> JobDoc:
        return self.doc.model_copy(update={"layouts": [*self.doc.layouts, *layouts], "plan": None})
