"""Lines of the clearance ledger from boxes alone: sums by hand, and what can never happen to them."""

from dataclasses import replace
from typing import Any

import numpy as np
from django.test import SimpleTestCase

from engine.fit.ledger import (
    REACH_FACTOR,
    SOURCE_TOLERANCE_MM,
    TOWER_HALF_DEPTH_MM,
    FanBox,
    Fitting,
    Line,
    MountBox,
    RadiatorBox,
    RailBox,
    crossed_fans,
    ledger,
)

MOUNTS = {
    "f1": MountBox("f1", "front", 0, 105, 330, (120, 140), 60),
    "f2": MountBox("f2", "front", 0, 105, 200, (120, 140), 60),
    "t1": MountBox("t1", "top", 300, 105, 450, (120,), 55),
    "r1": MountBox("r1", "rear", 420, 105, 340, (120,), 40),
    "b1": MountBox("b1", "bottom", 200, 105, 95, (120,), 40),
}


def fitting(**changes: Any) -> Fitting:
    """A mid tower of 420 mm with a tower cooler; ``changes`` are fields of ``Fitting``."""
    plain: dict[str, Any] = {
        "depth_mm": 420.0, "cpu_x_mm": 300.0, "cpu_z_mm": 340.0, "card_height_mm": 210.0, "mounts": MOUNTS, "rails": (), "fans": (),
        "radiators": (), "card_length_mm": 300.0, "card_limit_mm": 360.0, "cooler_height_mm": 155.0, "cooler_limit_mm": 165.0,
        "tower": True, "memory_to_top_mm": None,
    }  # fmt: skip
    return Fitting(**(plain | changes))


def lines(**changes: Any) -> dict[str, Line]:
    return {x.code: x for x in ledger(fitting(**changes))}


def radiator(*mounts: str, **more: Any) -> RadiatorBox:
    plain: dict[str, Any] = {"id": "r", "mounts": mounts, "length_mm": 277, "thickness_mm": 27, "nominal_mm": 240}
    return RadiatorBox(**(plain | {"gap_mm": 0, "tubes": "bottom", "tube_mm": 400} | more))


class SumsTest(SimpleTestCase):
    def test_a_card_before_a_radiator_and_its_fan(self) -> None:
        # P6: a radiator of 27 mm and a fan of 25 mm in front take 52 mm from the card.
        free = lines()["card_length"].available_mm
        f = {"fans": (FanBox("f2", 120, 25),), "radiators": (radiator("f1", "f2"),)}
        self.assertEqual(free - lines(**f)["card_length"].available_mm, 52)
        high = {"fans": (FanBox("f1", 120, 25),)}
        self.assertEqual(lines(**high)["card_length"].available_mm, free)  # it stands above the card's end

    def test_the_shorter_of_inside_and_limit_counts(self) -> None:
        self.assertEqual(lines(card_limit_mm=None)["card_length"].available_mm, 420)
        self.assertIn("limit", lines()["card_length"].parts)
        self.assertEqual(lines(card_limit_mm=500)["card_length"].available_mm, 420)

    def test_pipes_behind_a_tower(self) -> None:
        # P8: 22 mm are left where 420 - 328 - 70 mm and nothing stands out; 27 mm do not go in, 14 mm do.
        where = {"cpu_x_mm": 420 - TOWER_HALF_DEPTH_MM - 22}
        for thick, verdict in ((27, "does_not_fit"), (14, "fits"), (22, "touches")):
            with self.subTest(thick=thick):
                self.assertEqual(lines(fans=(FanBox("r1", 120, thick),), **where)["rear_fan_to_cooler"].verdict, verdict)
        self.assertEqual(lines(fans=(FanBox("r1", 120, 14),), pipes_behind_mm=10, **where)["rear_fan_to_cooler"].verdict, "does_not_fit")

    def test_a_downdraft_with_its_fan_above(self) -> None:
        # P5: 92 mm in 150 mm pass; 71 in 52 do not.
        for height, limit, verdict in ((92, 150, "fits"), (71, 52, "does_not_fit")):
            self.assertEqual(lines(tower=False, cooler_height_mm=height, cooler_limit_mm=limit)["cooler_height"].verdict, verdict)

    def test_memory_and_a_raised_fan_work_against_each_other(self) -> None:
        base = {"memory_height_mm": 46.0, "memory_clear_mm": 40.0}
        self.assertEqual(lines(**base)["memory_height"].spare_mm, -6)
        raised = lines(**base, fan_lift_mm=8.0)
        self.assertEqual((raised["memory_height"].spare_mm, raised["cooler_height"].spare_mm), (2, 2))

    def test_a_fan_on_the_shroud_under_a_card(self) -> None:
        f = {"fans": (FanBox("b1", 120, 25),), "shroud_mm": 95.0, "shroud_mounts": frozenset({"b1"}), "card_slots": 2.5}
        self.assertEqual(lines(**f)["fan_under_card"].available_mm, 210 - 95 - 25)

    def test_end_tanks_and_their_fans(self) -> None:
        rail = (RailBox("front", ("f1", "f2"), (240,), 60, 300),)
        f = {"rails": rail, "radiators": (radiator("f1", "f2", tank_height_mm=38),), "fans": (FanBox("f1", 120, 25),)}
        self.assertEqual(lines(**f)["end_tank"].spare_mm, 60 - 38 - 25)
        self.assertNotIn("end_tank", lines(rails=rail, radiators=(radiator("f1", "f2"),)))
        self.assertEqual(lines(**f)["radiator_length"].spare_mm, 300 - 277)

    def test_reach_by_hand_and_the_bend(self) -> None:
        # The lower end of a 277 mm radiator about z 265 is at 126.5; to the block 300 mm along and 213.5 mm up.
        line = lines(radiators=(radiator("f1", "f2", bend_mm=120.0),))
        self.assertAlmostEqual(line["tube_reach"].required_mm, REACH_FACTOR * float(np.hypot(300, 213.5)))
        self.assertEqual(line["tube_bend"].spare_mm, 215 - 105 - 120)
        self.assertNotIn("tube_reach", lines(radiators=(radiator("f1", "f2", tube_mm=None),)))

    def test_tolerances_by_source(self) -> None:
        for source, mm in SOURCE_TOLERANCE_MM.items():
            line = lines(loose_mm={"limits_mm.cooler_height": mm})["cooler_height"]
            with self.subTest(source=source):
                self.assertEqual(line.spare_mm - line.worst_mm, mm + 1)  # the case's own and the part's

    def test_a_tube_that_passes_a_fan(self) -> None:
        over = fitting(
            radiators=(radiator("t1", tubes="front", length_mm=157),), fans=(FanBox("f1", 120, 25),), cpu_x_mm=10.0, cpu_z_mm=330.0
        )
        self.assertEqual(crossed_fans(over), [(("t1",), "f1")])
        self.assertEqual(crossed_fans(replace(over, cpu_x_mm=300.0)), [])


class PropertyTest(SimpleTestCase):
    """What must hold whatever the millimetres; 300 random machines each."""

    def random(self, rng: np.random.Generator) -> Fitting:
        fans = tuple(FanBox(m, 120, float(rng.choice([15, 25, 30]))) for m in MOUNTS if rng.random() < 0.5)
        there = (radiator("f1", "f2", thickness_mm=float(rng.choice([27, 40])), tank_height_mm=float(rng.uniform(20, 50))),)
        return fitting(
            fans=fans,
            radiators=there if rng.random() < 0.5 else (),
            rails=(RailBox("front", ("f1", "f2"), (240, 280), float(rng.uniform(30, 90)), float(rng.uniform(200, 400))),),
            card_length_mm=float(rng.uniform(150, 420)),
            cooler_height_mm=float(rng.uniform(40, 180)),
            memory_height_mm=float(rng.uniform(30, 60)),
            memory_clear_mm=float(rng.uniform(30, 60)),
        )

    def test_more_room_never_removes_a_fit(self) -> None:
        rng = np.random.default_rng(1)
        for _ in range(300):
            f = self.random(rng)
            larger = replace(
                f,
                depth_mm=f.depth_mm + 20,
                card_limit_mm=(f.card_limit_mm or 0) + 20,
                cooler_limit_mm=(f.cooler_limit_mm or 0) + 20,
                rails=tuple(replace(r, depth_mm=r.depth_mm + 20, length_mm=(r.length_mm or 0) + 20) for r in f.rails),
                mounts={
                    k: replace(m, depth_mm=m.depth_mm + 20, x_mm=m.x_mm + 20 if m.face == "rear" else m.x_mm) for k, m in f.mounts.items()
                },
            )
            now = {x.what: x for x in ledger(larger)}
            for line in ledger(f):
                if line.verdict == "fits":
                    self.assertEqual(now[line.what].verdict, "fits", line.what)

    def test_a_thicker_fan_never_helps_and_worst_is_never_better(self) -> None:
        rng = np.random.default_rng(2)
        for _ in range(300):
            f = self.random(rng)
            thicker = replace(f, fans=tuple(replace(x, thickness_mm=x.thickness_mm + 5) for x in f.fans))
            now = {x.what: x for x in ledger(thicker)}
            for line in ledger(f):
                self.assertLessEqual(now[line.what].spare_mm, line.spare_mm + 1e-9)
                self.assertLessEqual(line.worst_mm, line.spare_mm)
            self.assertEqual([x.spare_mm for x in ledger(f)], sorted(x.spare_mm for x in ledger(f)))
