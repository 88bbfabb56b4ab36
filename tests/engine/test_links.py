"""The network that is built from a case: every element where it belongs, and the direction of what it does."""

import copy
from dataclasses import replace
from itertools import pairwise
from typing import Any

from django.test import SimpleTestCase

from engine.airflow.elements import series_ab
from engine.coupled.forecast import Forecast, forecast_of
from engine.coupled.links import CARD, GAP, ROOM, Link, build_links, card_columns, has_plenum, radiator_on, through_cooler
from engine.coupled.operating_point import operating_point
from engine.coupled.spaces import Spaces
from engine.machine import Machine, Point
from engine.parameters import DEFAULT
from tests.machines import demo_raw, fan_raw, layout_raw, machine

RHO = 1.19


def links_of(m: Machine) -> dict[str, Link]:
    return {link.id: link for link in build_links(m, Spaces.of(m))}


def square(link: Link, fan_here: bool = True) -> float:
    """B of a link's elements in Pa s2/m6."""
    return series_ab(link.elements, RHO, DEFAULT, fan_here)[1]


def changed(**case: Any) -> dict[str, Any]:
    raw = demo_raw()
    raw["case"].update(case)
    return raw


def panels(kind: str, face: str = "front", **more: Any) -> dict[str, Any]:
    raw = demo_raw()
    others = [p for p in raw["case"]["panels"] if p["face"] != face]
    raw["case"]["panels"] = [*others, {"face": face, "kind": kind, "width_mm": 200, "height_mm": 440, **more}]
    return raw


def downdraft(window: dict[str, Any] | None = None, **layout: Any) -> dict[str, Any]:
    """The demo case with a downdraft cooler under a window panel."""
    raw = panels("mesh", "window", open_area_pct=40) if window is None else panels(face="window", **window)
    raw["parts"]["coolers"].append(
        {
            "id": "flat",
            "kind": "downdraft",
            "fan": "tern-120",
            "flow_ref_m3h": 42,
            "fin_drop_pa": 8,
            "ua_ref_w_per_k": 6.5,
            "r_base_k_per_w": 0.1,
            "heat_capacity_j_per_k": 400,
        }
    )
    layout_raw(raw, "A").update({"cooler": "flat", **layout})
    return raw


class SpacesTest(SimpleTestCase):
    def test_limits_follow_board_and_card(self) -> None:
        spaces = Spaces.of(machine())
        self.assertEqual(spaces.x_mm, (0.0, 176.0, 325.0, 420.0))
        self.assertEqual(spaces.z_mm, {"basement": (0.0, 96), "low": (96, 230), "up": (230, 450)})
        self.assertEqual(len(spaces.ids), 11)  # nine, and the lane along the window in two rows

    def test_without_a_shroud_there_is_no_basement(self) -> None:
        spaces = Spaces.of(machine(changed(shroud=None)))
        self.assertEqual(list(spaces.z_mm), ["low", "up"])
        self.assertEqual(spaces.z_mm["low"][0], 0.0)

    def test_columns_keep_a_least_length_in_any_case(self) -> None:
        for depth, board in ((200, 200), (250, 170), (310, 305), (600, 244)):
            spaces = Spaces.of(replace(machine(), depth_mm=depth, width_mm=200, board_depth_mm=board))
            with self.subTest(depth=depth, board=board):
                self.assertTrue(all(spaces.length_mm(c) >= 0.11 * depth for c in ("front", "mid", "rear")))

    def test_a_fan_that_straddles_is_shared_by_overlap(self) -> None:
        raw = demo_raw()
        raw["case"]["mounts"][1]["centre_mm"]["z"] = 230  # in the middle between low and up
        m = machine(raw)
        shares = Spaces.of(m).behind_mount(m.mounts["f2"], 120)
        self.assertAlmostEqual(shares["low_front"], 0.5, places=6)
        self.assertAlmostEqual(shares["up_front"], 0.5, places=6)

    def test_a_mount_beyond_the_case_still_opens_somewhere(self) -> None:
        m = machine()
        spaces, far = Spaces.of(m), Point(900, 100, 900)
        self.assertEqual(spaces.behind_mount(replace(m.mounts["f1"], centre_mm=far), 120), {"up_front": 1.0})
        self.assertEqual(spaces.behind_mount(replace(m.mounts["t1"], centre_mm=far), 120), {"up_rear": 1.0})

    def test_walls_add_up_to_the_box(self) -> None:
        m = machine()
        spaces = Spaces.of(m)
        d, h, w = m.depth_mm, m.height_mm, m.width_mm
        box = 2 * (d * h + d * w + h * w) * 1e-6
        self.assertAlmostEqual(sum(spaces.wall_m2(s) for s in spaces.ids), box, places=9)


class ElementsOfACaseTest(SimpleTestCase):
    def test_every_opening_is_there(self) -> None:
        found = links_of(machine())
        for link_id in (
            "shroud:front_cut",
            "leak:slot_covers",
            "leak:seam_up_mid",
            "card:bracket",
            "cooler:up_mid|up_rear",
            "t1:up_rear",
            "vent:basement_mid",
        ):
            self.assertIn(link_id, found)
        self.assertEqual({m for link in found.values() if (m := link.mount)}, set(machine().mounts))

    def test_a_covered_empty_mount_is_closed(self) -> None:
        raw = demo_raw()
        raw["case"]["mounts"][3]["cover"] = True
        self.assertTrue(links_of(machine(raw))["t1:up_rear"].covered)
        point = operating_point(machine(raw))
        flows = {link.id: q for link, q in zip(point.links, point.flow_m3s, strict=True)}
        self.assertLess(abs(flows["t1:up_rear"]) * 3600, 1e-3)

    def test_slotted_panels_share_a_space_and_mesh_does_not(self) -> None:
        slotted = machine(panels("slots", gap_area_cm2=80, turns_90=2))
        self.assertTrue(has_plenum(slotted, "front"))
        found = links_of(slotted)
        self.assertEqual((found["panel:front"].tail, found["panel:front"].head), (ROOM, "plenum_front"))
        self.assertTrue(all(link.tail == "plenum_front" for link in found.values() if link.mount in ("f1", "f2", "f3")))
        self.assertTrue(all(link.tail == ROOM for link in links_of(machine()).values() if link.mount in ("f1", "f2", "f3")))

    def test_each_turn_costs(self) -> None:
        resistances = [square(links_of(machine(panels("slots", gap_area_cm2=80, turns_90=n)))["panel:front"]) for n in range(4)]
        steps = [b - a for a, b in pairwise(resistances)]
        self.assertTrue(all(abs(s / steps[0] - 1) < 1e-9 for s in steps))
        self.assertGreater(steps[0], 0)

    def test_a_separate_card_chamber_closes_the_rows_off(self) -> None:
        found = links_of(machine(changed(card_chamber="separate")))
        self.assertNotIn("inside:low_mid|up_mid", found)
        self.assertEqual(found["card:up_mid"].head, "low_mid")

    def test_the_card_closes_part_of_the_way_up(self) -> None:
        raw = demo_raw()
        with_card = links_of(machine(raw))["inside:low_rear|up_rear"].area_m2
        layout_raw(raw, "A")["card_orientation"] = "upright"
        upright = links_of(machine(raw))["inside:low_rear|up_rear"].area_m2
        layout_raw(raw, "A")["card"] = None
        without = links_of(machine(raw))["inside:low_rear|up_rear"].area_m2
        self.assertTrue(with_card < upright < without)

    def test_card_columns_follow_its_length(self) -> None:
        raw = demo_raw()
        m = machine(raw)
        self.assertAlmostEqual(sum(card_columns(m, Spaces.of(m)).values()), 1)
        raw["parts"]["cards"][0]["length_mm"] = 90
        m = machine(raw)
        self.assertEqual(card_columns(m, Spaces.of(m)), {"rear": 1.0})

    def test_obstructed_spaces_and_mounts_resist_more(self) -> None:
        plain = links_of(machine())
        raw = demo_raw()
        layout_raw(raw, "A")["obstructions"] = [{"space": "low_front", "blocked_pct": 50}, {"mount": "f3", "blocked_pct": 50}]
        blocked = links_of(machine(raw))
        inside = "inside:low_front|low_mid"
        self.assertAlmostEqual(blocked[inside].area_m2 / plain[inside].area_m2, 0.5)
        self.assertGreater(square(blocked["f3:low_front"]), square(plain["f3:low_front"]))

    def test_a_cage_stands_in_the_way(self) -> None:
        cage = {"id": "cage", "from_mm": {"x": 100, "y": 0, "z": 96}, "to_mm": {"x": 200, "y": 215, "z": 230}, "free_pct": 30}
        plain, caged = links_of(machine()), links_of(machine(changed(blocks=[cage])))
        self.assertAlmostEqual(caged["inside:low_front|low_mid"].area_m2 / plain["inside:low_front|low_mid"].area_m2, 0.3, places=6)
        self.assertEqual(caged["inside:up_front|up_mid"].area_m2, plain["inside:up_front|up_mid"].area_m2)

    def test_mounts_on_the_shroud_lift_air_from_the_basement(self) -> None:
        raw = demo_raw()
        raw["case"]["mounts"].append(
            {"id": "s1", "face": "bottom", "centre_mm": {"x": 80, "y": 108, "z": 96}, "sizes_mm": [120], "on_shroud": True}
        )
        layout_raw(raw, "A")["fans"].append(fan_raw("s1", "intake"))
        link = links_of(machine(raw))["s1:low_front"]
        self.assertEqual((link.tail, link.head), ("basement_front", "low_front"))
        f = forecast_of(machine(raw))
        self.assertEqual(f.balance.intake_count, 2)  # a mount on the shroud is left out of the balance
        self.assertGreater(next(x for x in f.fans if x.mount == "s1").flow_m3h, 5)

    def test_an_opened_window_opens_every_space_but_not_its_plenum(self) -> None:
        raw = demo_raw()
        layout_raw(raw, "A")["panels"] = {"window": {"state": "removed"}}
        found = links_of(machine(raw))
        self.assertEqual(sum(link.kind == "face" for link in found.values()), 9)  # every column of every row
        self.assertTrue(all(link.exchange_m2 > 0 for link in found.values() if link.kind == "face"))

    def test_vents_open_where_they_are(self) -> None:
        vent = {"id": "v1", "face": "rear", "centre_mm": {"x": 420, "y": 100, "z": 400}, "area_cm2": 60}
        found = links_of(machine(changed(vents=[vent])))
        self.assertEqual(found["vent:v1:up_rear"].head, "up_rear")

    def test_radiator_is_found_by_its_mounts(self) -> None:
        m = machine(layout_id="D")
        self.assertIsNotNone(radiator_on(m, "f1"))
        self.assertIsNone(radiator_on(m, "t1"))
        self.assertIsNone(radiator_on(machine(), "f1"))


class CoolerPlacesTest(SimpleTestCase):
    def paths(self, raw: dict[str, Any], direction: str | None = None) -> dict[tuple[str, str], float]:
        """Shares of the cooler's flow by the spaces it joins."""
        if direction:
            layout_raw(raw, "A")["cooler_direction"] = direction
        m = machine(raw)
        return {(p.tail, p.head): p.share for p in through_cooler(m, Spaces.of(m))}

    def main(self, paths: dict[tuple[str, str], float]) -> tuple[str, str]:
        self.assertAlmostEqual(sum(paths.values()), 1.0)
        return max(paths, key=lambda p: paths[p])

    def test_towers(self) -> None:
        self.assertEqual(self.main(self.paths(demo_raw(), "rear")), ("up_mid", "up_rear"))
        self.assertEqual(self.main(self.paths(demo_raw(), "front")), ("up_rear", "up_mid"))
        self.assertEqual(self.main(self.paths(demo_raw(), "up")), ("up_mid", "up_mid"))

    def test_a_tower_near_the_rear_wall_still_blows_from_one_column_to_the_next(self) -> None:
        self.assertEqual(self.main(self.paths(changed(cpu_centre_mm={"x": 345, "z": 340}))), ("up_mid", "up_rear"))

    def test_a_millimetre_moves_a_cooler_by_its_share_of_a_millimetre(self) -> None:
        # Source: geometry. A fan of 120 mm that moves by 1 mm has 1/120 of itself in another column, whatever stands on the border.
        for direction in ("rear", "front", "up"):
            before = self.paths(changed(cpu_centre_mm={"x": 300, "z": 340}), direction)
            for x in range(301, 400):
                now = self.paths(changed(cpu_centre_mm={"x": x, "z": 340}), direction)
                step = max(abs(now.get(p, 0.0) - before.get(p, 0.0)) for p in {*now, *before})
                self.assertLess(step, 2 / 120 + 0.021, (direction, x))
                before = now

    def test_downdraft_draws_from_the_window_gap(self) -> None:
        m = machine(downdraft())
        self.assertEqual(self.main(self.paths(downdraft())), (GAP, "up_mid"))
        found = links_of(m)
        self.assertEqual((found["mesh:window:gap"].tail, found["window_gap:up_mid"].tail), (ROOM, GAP))
        self.assertEqual(self.main(self.paths(downdraft(cooler_direction="away"))), ("up_mid", GAP))

    def test_a_window_fan_over_a_downdraft_feeds_it(self) -> None:
        raw = downdraft()
        raw["case"]["mounts"].append({"id": "w1", "face": "window", "centre_mm": {"x": 298, "y": 215, "z": 340}, "sizes_mm": [120]})
        without = forecast_of(machine(raw))
        layout_raw(raw, "A")["fans"].append(fan_raw("w1", "intake"))
        self.assertEqual(links_of(machine(raw))["w1:window_gap"].head, GAP)
        self.assertLess(forecast_of(machine(raw)).cpu.rise_k, without.cpu.rise_k)

    def test_a_closed_window_starves_a_downdraft(self) -> None:
        # Common practice, no source.
        self.assertGreater(forecast_of(machine(downdraft({"kind": "glass"}))).cpu.rise_k, forecast_of(machine(downdraft())).cpu.rise_k)


class DirectionsTest(SimpleTestCase):
    """Common practice, no source: the sign of an effect, not its size."""

    def rise(self, raw: dict[str, Any], layout: str = "A") -> Forecast:
        f = forecast_of(machine(raw, layout))
        self.assertTrue(f.converged)
        return f

    def test_warm_air_leaves_at_the_top_when_nothing_blows(self) -> None:
        raw = demo_raw()
        layout_raw(raw, "A").update({"fans": [], "cooler_fan_pct": 5, "card_fan_pct": 5})
        point = operating_point(machine(raw))
        flows = {link.id: q for link, q in zip(point.links, point.flow_m3s, strict=True)}
        self.assertLess(flows["t1:up_rear"], 0)
        self.assertGreater(flows["f3:low_front"], 0)

    def test_each_restriction_costs_flow(self) -> None:
        flows = [
            self.rise(raw).balance.intake_m3h
            for raw in (
                panels("mesh", open_area_pct=60, filter="none"),
                panels("mesh", open_area_pct=40, filter="none"),
                panels("mesh", open_area_pct=40, filter="coarse"),
                panels("mesh", open_area_pct=40, filter="fine"),
                panels("slots", gap_area_cm2=60, turns_90=2, filter="fine"),
                panels("solid"),
            )
        ]
        self.assertEqual(flows, sorted(flows, reverse=True))

    def test_faster_fans_cool_more_and_are_louder(self) -> None:
        before: Forecast | None = None
        for speed in (40, 60, 80, 100):
            raw = demo_raw()
            for place in layout_raw(raw, "A")["fans"]:
                place["speed_pct"] = speed
            f = self.rise(raw)
            if before is not None:
                self.assertLess(f.cpu.rise_k, before.cpu.rise_k)
                self.assertGreater(f.sound.level_dba, before.sound.level_dba)
            before = f

    def test_a_larger_radiator_cools_more(self) -> None:
        raw = demo_raw()
        small = self.rise(raw, "D").cpu.rise_k
        raw["parts"]["radiators"][0]["thickness_mm"] = 40
        thick = self.rise(raw, "D")
        raw = demo_raw()
        raw["parts"]["radiators"][0]["ua_factor"] = 1.3
        self.assertLess(self.rise(raw, "D").cpu.rise_k, small)
        self.assertLess(thick.cpu.rise_k, small + 0.5)

    def test_stood_off_and_angled_panels_breathe(self) -> None:
        raw = panels("solid")
        closed = self.rise(raw).balance.intake_m3h
        for state in ({"state": "stood_off", "stand_off_mm": 15}, {"state": "angled", "angle_deg": 20}):
            again = copy.deepcopy(raw)
            layout_raw(again, "A")["panels"] = {"front": state}
            self.assertGreater(self.rise(again).balance.intake_m3h, closed)

    def test_a_chimney_over_an_open_card_is_hotter(self) -> None:
        raw = demo_raw()
        layout_raw(raw, "A")["cooler_direction"] = "up"
        self.assertGreater(self.rise(raw).cpu.rise_k, self.rise(demo_raw()).cpu.rise_k)

    def test_supply_heat_counts_only_without_its_own_duct(self) -> None:
        raw = demo_raw()
        ducted = self.rise(raw)
        raw["case"]["supply"]["own_duct"] = False
        self.assertGreater(self.rise(raw).air.spaces[2].temperature_c, ducted.air.spaces[2].temperature_c + 1)

    def test_more_air_without_a_card(self) -> None:
        raw = demo_raw()
        layout_raw(raw, "A")["card"] = None
        f = self.rise(raw)
        self.assertIsNone(f.card)
        self.assertIsNone(f.air.card_inlet_c)
        self.assertNotIn(CARD, {x.tail for x in f.links})

    def test_any_shipped_sort_of_case_converges_in_many_states(self) -> None:
        for height, depth, width, chamber in ((160, 300, 120, "shared"), (320, 250, 100, "separate"), (700, 600, 300, "shared")):
            raw = changed(inner_mm={"depth": depth, "height": height, "width": width}, card_chamber=chamber, shroud=None, rails=[])
            raw["case"]["card_height_mm"] = height * 0.4
            for mount in raw["case"]["mounts"]:
                c = mount["centre_mm"]
                c.update({"x": c["x"] / 420 * depth, "y": width / 2, "z": c["z"] / 450 * height})
            for layout in "ABCD":
                with self.subTest(height=height, layout=layout):
                    f = self.rise(raw, layout)
                    self.assertLess(f.cpu.rise_k, 79)
                    self.assertAlmostEqual(
                        f.balance.inflow_total_m3h, f.balance.outflow_total_m3h, delta=0.001 * f.balance.inflow_total_m3h
                    )
