"""The lane along the window, what a panel does to the mounts behind it, gaps, and measured fans in a whole machine."""

from dataclasses import replace
from itertools import product
from typing import Any

from django.test import SimpleTestCase

from engine.airflow import elements as el
from engine.coupled.forecast import forecast, forecast_of
from engine.coupled.links import ROOM, Link, build_links, cooler_slot, fan_slots, pump_slot
from engine.coupled.operating_point import PLANS, PlanMemory, operating_point
from engine.coupled.program import Plan
from engine.coupled.spaces import Spaces
from engine.errors import ImpossibleInputError
from engine.machine import Fan, Shroud
from tests.machines import demo_raw, fan_raw, layout_raw, machine, resized


def spaces_of(**inner: Any) -> Spaces:
    return Spaces.of(machine(resized(demo_raw(), **inner)))


def links_of(raw: dict[str, Any], layout: str = "A") -> dict[str, Link]:
    m = machine(raw, layout)
    return {x.id: x for x in build_links(m, Spaces.of(m))}


class SmallestTest(SimpleTestCase):
    def test_every_space_has_room_whatever_the_sizes(self) -> None:
        """A case shorter than its rear column, boards of a hair, and a shroud as high as the case."""
        for depth, board, shroud, card in product((1, 40, 95, 108, 420), (0.01, 100, 244), (0, 90, 450, 2000), (0.1, 200, 2000)):
            raw = resized(demo_raw(), depth=depth)
            raw["case"] |= {"board_depth_mm": board, "card_height_mm": card}
            m = machine(raw)
            if shroud:
                m = replace(m, shroud=Shroud(shroud, 20, 10, 40))
            s = Spaces.of(m)
            self.assertTrue(all(s.volume_m3(x) > 0 for x in s.ids), (depth, board, shroud, card))
            self.assertTrue(build_links(m, s))

    def test_a_short_case_is_forecast(self) -> None:
        raw = resized(demo_raw(), depth=95 / 0.88)  # where the front column was once of no length at all
        self.assertGreater(forecast_of(machine(raw)).sound.level_dba, 0)


class LaneTest(SimpleTestCase):
    def test_a_wide_case_has_a_lane_and_a_narrow_one_has_none(self) -> None:
        self.assertIn("up_side", spaces_of(width=215).ids)
        self.assertAlmostEqual(spaces_of(width=215).lane_mm, 0.36 * 215)
        self.assertNotIn("up_side", spaces_of(width=90).ids)

    def test_lane_and_board_side_make_up_the_column(self) -> None:
        s = spaces_of()
        d, h, w = 420, 450, 215
        self.assertAlmostEqual(sum(s.volume_m3(x) for x in s.ids), d * h * w * 1e-9)
        self.assertAlmostEqual(s.volume_m3("up_side") / (s.volume_m3("up_side") + s.volume_m3("up_mid")), 0.36)

    def test_a_mount_over_both_is_shared_by_its_width(self) -> None:
        s = spaces_of()
        m = machine()
        middle = s.behind_mount(m.mounts["t2"], 120)
        self.assertGreater(middle["up_mid"], middle["up_side"])
        moved = replace(m.mounts["t2"], centre_mm=replace(m.mounts["t2"].centre_mm, y=160.0))
        self.assertGreater(s.behind_mount(moved, 120)["up_side"], middle["up_side"])
        self.assertAlmostEqual(sum(s.behind_mount(moved, 120).values()), 1.0)

    def test_the_window_looks_into_the_lane(self) -> None:
        s = spaces_of()
        faces = s.whole_face("window")
        self.assertIn("up_side", faces)
        self.assertNotIn("up_mid", faces)

    def test_an_upright_card_draws_from_the_lane(self) -> None:
        raw = demo_raw()
        layout_raw(raw, "A")["card_orientation"] = "upright"
        tails = {x.tail for x in links_of(raw).values() if x.kind == "card_in"}
        self.assertTrue({"low_side", "up_side"} <= tails)
        self.assertNotIn("low_mid", tails)
        self.assertIn("low_mid", {x.tail for x in links_of(demo_raw()).values() if x.kind == "card_in"})


class PanelsAndMountsTest(SimpleTestCase):
    def guard(self, raw: dict[str, Any], mount: str = "f2") -> float:
        link = next(x for x in links_of(raw).values() if x.mount == mount)
        return next(e.y for e in link.elements if e.code == el.GUARD)

    def test_a_near_panel_takes_inlet_away_a_closed_one_more_than_mesh(self) -> None:
        raw = demo_raw()
        mesh = self.guard(raw)
        raw["case"]["panels"][0].update(kind="slots", gap_area_cm2=80, turns_90=1)
        slots = self.guard(raw)
        layout_raw(raw, "A")["panels"] = {"front": {"state": "removed"}}
        self.assertTrue(self.guard(raw) == 0.0 < mesh < slots == 1.0)

    def test_gaps_past_the_frames_stay_when_a_slotted_panel_goes(self) -> None:
        raw = demo_raw()
        raw["case"]["panels"][0].update(kind="slots", gap_area_cm2=80, turns_90=1)
        fitted = {x.id: x.tail for x in links_of(raw).values() if x.id.startswith("frame:front")}
        layout_raw(raw, "A")["panels"] = {"front": {"state": "removed"}}
        off = {x.id: x.tail for x in links_of(raw).values() if x.id.startswith("frame:front")}
        self.assertEqual((set(fitted.values()), set(off.values())), ({"plenum_front"}, {ROOM}))
        self.assertEqual(set(fitted), set(off))

    def test_a_mesh_without_mounts_is_the_wall_itself(self) -> None:
        raw = demo_raw()
        raw["case"]["mounts"] = [m for m in raw["case"]["mounts"] if m["face"] != "top"]
        raw["layouts"] = [layout_raw(raw, "A")]
        raw["case"]["rails"] = [r for r in raw["case"]["rails"] if r["face"] != "top"]
        self.assertTrue(any(x.id.startswith("mesh:top") for x in links_of(raw).values()))
        raw["layouts"][0]["panels"] = {"top": {"state": "removed"}}
        self.assertTrue(any(x.id.startswith("face:top") for x in links_of(raw).values()))

    def test_a_frame_stays_when_a_solid_front_goes(self) -> None:
        raw = demo_raw()
        raw["case"]["panels"][0].update(kind="solid")
        layout_raw(raw, "A")["panels"] = {"front": {"state": "removed"}}
        found = links_of(raw)
        self.assertIn("f3:low_front", found)
        self.assertTrue(any(x.id.startswith("face:front") for x in found.values()))

    def test_a_gap_lets_air_past_the_fins(self) -> None:
        raw = demo_raw()
        layout_raw(raw, "C")["radiator"]["gap_mm"] = 15
        found = links_of(raw, "C")
        self.assertIn("t1:gap", found)
        self.assertTrue(any(":past:" in x for x in found))
        flush, apart = (forecast_of(machine(r, "C")).cpu.rise_k for r in (demo_raw(), raw))
        self.assertGreater(apart, flush)

    def test_slots_of_fans_cooler_card_and_pump(self) -> None:
        m = machine(layout_id="B")
        slots = fan_slots(m)
        self.assertEqual(len(slots), len(set(slots)))
        self.assertEqual(pump_slot(m), cooler_slot(m) + 2)
        three = replace(m, fans=(m.fans[0], replace(m.fans[0], layer="inner"), m.fans[0]))
        with self.assertRaises(ImpossibleInputError):
            fan_slots(three)


class MeasuredFanTest(SimpleTestCase):
    """A fan by its points against the same fan by its parabola, in a whole machine."""

    def both(self, points: tuple[tuple[float, float], ...]) -> tuple[float, float]:
        m = machine()
        measured = tuple(replace(f, fan=replace(f.fan, points=points)) for f in m.fans)
        return tuple(operating_point(x).cpu_rise_k for x in (m, replace(m, fans=measured)))  # type: ignore[return-value]

    def test_points_of_the_parabola_itself_change_little(self) -> None:
        f: Fan = machine().fans[0].fan
        flows = [f.flow_max_m3h * i / 12 for i in range(13)]
        parabola = tuple((q, f.pressure_max_pa * (1 - 0.62 * q / f.flow_max_m3h - 0.38 * (q / f.flow_max_m3h) ** 2)) for q in flows)
        plain, by_points = self.both(parabola)
        self.assertAlmostEqual(plain, by_points, delta=0.15)

    def test_a_fan_that_holds_its_pressure_longer_moves_more(self) -> None:
        f = machine().fans[0].fan
        fuller = ((0.0, f.pressure_max_pa), (0.6 * f.flow_max_m3h, 0.8 * f.pressure_max_pa), (f.flow_max_m3h, 0.0))
        plain, stronger = self.both(fuller)
        self.assertLess(stronger, plain)

    def test_a_document_s_points_reach_the_engine(self) -> None:
        placed = machine(layout_id="C").fans[-1].fan
        self.assertGreaterEqual(len(placed.points), 3)
        self.assertTrue(operating_point(machine(layout_id="C")).converged)


class PlansTest(SimpleTestCase):
    def test_equal_frames_share_a_plan_and_others_do_not(self) -> None:
        memory = PlanMemory(most=2)
        a = memory.plan(machine())
        self.assertIs(memory.plan(machine(layout_id="B")), a)
        self.assertIsNot(memory.plan(machine(layout_id="C")), a)
        memory.plan(machine(layout_id="D"))  # the third drives the oldest out
        self.assertIsNot(memory.plan(machine()), a)
        self.assertEqual(len(PLANS.plan(machine()).program.tail), len(Plan.of(machine()).links))

    def test_a_gap_s_network_depends_on_which_layer_holds_the_fan(self) -> None:
        raw = demo_raw()
        layout_raw(raw, "C")["radiator"]["gap_mm"] = 15
        m = machine(raw, "C")
        inner = replace(m, fans=tuple(replace(f, layer="inner") for f in m.fans))
        outer = replace(m, fans=tuple(replace(f, layer="outer") for f in m.fans))
        self.assertNotEqual(Plan.frame(inner), Plan.frame(outer))


class CaveatsTest(SimpleTestCase):
    def codes(self, raw: dict[str, Any], layout: str = "A") -> set[str]:
        return {c.code for c in forecast(operating_point(machine(raw, layout))).caveats}

    def test_each_caveat_at_its_cause_and_only_there(self) -> None:
        self.assertEqual(self.codes(demo_raw()), set())
        wide = demo_raw()
        wide["case"]["inner_mm"]["width"] = 420
        self.assertIn("case_outside_range", self.codes(wide))
        hot = demo_raw()
        layout_raw(hot, "A")["cpu_power_w"] = 450
        self.assertIn("power_outside_range", self.codes(hot))
        still = demo_raw()
        layout_raw(still, "A")["card_fan_pct"] = 0
        self.assertIn("card_fans_stopped", self.codes(still))
        fought = demo_raw()
        layout_raw(fought, "A")["fans"] = [fan_raw(m, "intake", 100) for m in ("f1", "f2", "f3")]
        fought["case"]["panels"][0].update(kind="slots", gap_area_cm2=5, turns_90=3)
        self.assertIn("stall_region", self.codes(fought))
