"""Conservation, limits, direction of effects at the common equilibrium."""

import copy
from dataclasses import replace
from itertools import pairwise

import numpy as np
from django.test import SimpleTestCase

from engine.coupled import streams
from engine.coupled.forecast import at_target_level, differences, forecast, forecast_of
from engine.coupled.links import CARD, ROOM
from engine.coupled.operating_point import OperatingPoint, loaded, operating_point
from engine.coupled.program import SPECIAL
from engine.coupled.spaces import Spaces
from engine.coupled.tracer import Transport, flow_picture, release, unused_shares
from engine.coupled.transient import Event, Profile, Settling, advised_minutes, run, settle_times, warm_up
from engine.errors import ImpossibleInputError
from engine.parameters import INDEX
from tests.machines import demo_raw, fan_raw, layout_raw, machine


def heat_out_w(point: OperatingPoint) -> float:
    """Heat that leaves: enthalpy of streams to the room, walls, exchanges with the room."""
    heat = point.density * 1007.0
    total = 0.0
    hot = point.rises_k[point.cooler_node]
    for i, (link, q) in enumerate(zip(point.links, point.flow_m3s.tolist(), strict=True)):
        if (link.head if q >= 0 else link.tail) == ROOM:
            carried = float(point.carried_k[i])
            total += heat * abs(q) * (carried + point.effectiveness[i] * (hot - carried))
    for e, flow in zip(point.plan.exchanges, Transport(point).exchange_m3s, strict=True):
        if ROOM in (e.first, e.second):
            total += heat * flow * point.rises_k[e.second if e.first == ROOM else e.first]
    wall = point.parameters[INDEX["wall_loss_w_m2k"]]
    return total + float(sum(wall * point.spaces.wall_m2(s) * point.rises_k[s] for s in point.spaces.ids))


class ConservationTest(SimpleTestCase):
    def test_mass_and_heat_are_conserved_in_every_demo_layout(self) -> None:
        for layout_id in "ABCD":
            with self.subTest(layout=layout_id):
                point = operating_point(machine(layout_id=layout_id))
                self.assertTrue(point.converged)
                balance = forecast(point).balance
                self.assertAlmostEqual(balance.inflow_total_m3h / balance.outflow_total_m3h, 1.0, delta=1e-3)
                put_in = point.powers.cpu_w + point.powers.card_w + point.machine.board_power_w
                self.assertAlmostEqual(heat_out_w(point) / put_in, 1.0, delta=2e-3)

    def test_spaces_share_an_opening_whole(self) -> None:
        m = machine()
        spaces = Spaces.of(m)
        for mount in m.mounts.values():
            self.assertAlmostEqual(sum(spaces.behind_mount(mount, mount.size_mm).values()), 1.0)
        whole = sum(spaces.whole_face("window").values())
        self.assertAlmostEqual(whole, m.depth_mm * m.height_mm * 1e-6)

    def test_no_power_no_rise(self) -> None:
        raw = demo_raw()
        raw["parts"]["board_power_w"] = 0
        layout_raw(raw, "A").update({"cpu_power_w": 0, "card_power_w": 0})
        f = forecast_of(machine(raw))
        self.assertAlmostEqual(f.cpu.rise_k, 0, places=6)
        self.assertAlmostEqual(f.air.rear_c, 22, places=6)


class EffectsTest(SimpleTestCase):
    def test_rises_hardly_depend_on_the_room(self) -> None:
        cold, warm = (forecast_of(machine(room_c=t)) for t in (18, 30))
        self.assertAlmostEqual(cold.cpu.rise_k, warm.cpu.rise_k, delta=2.0)
        self.assertAlmostEqual(warm.cpu.temperature_c - warm.cpu.rise_k, 30)

    def test_a_limited_part_sits_at_its_limit_and_gives_up_power(self) -> None:
        raw = demo_raw()
        layout_raw(raw, "A").update({"cpu_power_w": 320, "panels": {"front": {"kind": "solid"}}})
        f = forecast_of(machine(raw))
        self.assertTrue(f.cpu.limited)
        self.assertAlmostEqual(f.cpu.temperature_c, 100, places=4)
        self.assertLess(f.cpu.power_w, 320)
        self.assertIn("cpu_limited", [c.code for c in f.caveats])

    def test_both_parts_limited_together(self) -> None:
        raw = demo_raw()
        layout_raw(raw, "A").update({"cpu_power_w": 350, "card_power_w": 600, "fans": []})
        f = forecast_of(machine(raw))
        assert f.card is not None
        self.assertTrue(f.cpu.limited and f.card.limited)
        self.assertAlmostEqual(f.card.temperature_c, 90, places=4)

    def test_opposed_layers_are_far_worse_than_one(self) -> None:
        raw = demo_raw()
        both = layout_raw(raw, "C")
        both["fans"] += [fan_raw("t1", "intake", 52, "skua-120"), fan_raw("t2", "intake", 52, "skua-120")]
        opposed, single = forecast_of(machine(raw, "C")), forecast_of(machine(layout_id="C"))
        self.assertGreater(opposed.cpu.rise_k - single.cpu.rise_k, 3)
        self.assertLess(abs(opposed.fans[-1].flow_m3h), 0.35 * abs(single.fans[-1].flow_m3h))

    def test_opposed_layers_are_the_worst_of_all_arrangements(self) -> None:
        from tests.engine.test_trade import resolver

        rises = {x.id: forecast_of(resolver("radiator-layers").machine(x.id)).cpu.rise_k for x in resolver("radiator-layers").doc.layouts}
        self.assertEqual(max(rises, key=lambda x: rises[x]), "opposed")

    def test_a_downdraft_s_fan_below_its_fins_turns_the_matter_round(self) -> None:
        # Fins that air is blown at carry more than fins it is drawn through: above is better toward the board, below away from it.
        from engine.coupled.links import draws_through_fins
        from engine.machine import AirCooler
        from tests.engine.test_trade import resolver

        for layout, better in (("cpu_toward", "above"), ("cpu_away", "below")):
            m = resolver("cube-downdraft").machine(layout)
            assert isinstance(m.cooler, AirCooler)
            above, below = replace(m.cooler, fan_side="above"), replace(m.cooler, fan_side="below")
            rises = [operating_point(replace(m, cooler=c)).cpu_rise_k for c in (above, below)]
            self.assertEqual(rises[0] < rises[1], better == "above")
            self.assertEqual(draws_through_fins(above), better == "below")

    def test_push_pull_moves_more_than_one_layer(self) -> None:
        raw = demo_raw()
        layout_raw(raw, "C")["fans"] += [fan_raw("t1", "exhaust", 52, "skua-120"), fan_raw("t2", "exhaust", 52, "skua-120")]
        double, single = forecast_of(machine(raw, "C")), forecast_of(machine(layout_id="C"))
        flows = [{f.mount: f.flow_m3h for f in x.fans}["t1"] for x in (double, single)]
        self.assertGreater(flows[0], 1.1 * flows[1])
        self.assertLess(double.cpu.rise_k, single.cpu.rise_k)

    def test_an_unplugged_fan_is_neither_empty_nor_running(self) -> None:
        raw = demo_raw()
        layout_raw(raw, "A")["fans"][0]["state"] = "unplugged"
        f = forecast_of(machine(raw))
        own = next(x for x in f.fans if x.mount == "f2")
        self.assertEqual(own.speed_rpm, 0)
        self.assertEqual(f.balance.intake_count, 1)
        self.assertNotAlmostEqual(own.flow_m3h, 0, places=1)

    def test_blower_card_spares_the_case(self) -> None:
        raw = demo_raw()
        raw["parts"]["cards"][0]["shroud"] = "blower"
        self.assertLess(forecast_of(machine(raw)).air.rear_c, forecast_of(machine()).air.rear_c)

    def test_loads(self) -> None:
        rises = {load: forecast_of(loaded(machine(), load)).cpu.rise_k for load in ("idle", "cpu", "card", "both")}
        self.assertLess(rises["idle"], rises["card"])
        self.assertLess(rises["card"], rises["cpu"])
        self.assertLess(rises["cpu"], rises["both"])

    def test_speed_curves_meet_their_own_temperature(self) -> None:
        raw = demo_raw()
        raw["curves"] = [{"id": "warm", "source": "cpu", "points": [[40, 30], [90, 100]]}]
        for place in layout_raw(raw, "A")["fans"]:
            place["curve"] = "warm"
        f = forecast_of(machine(raw))
        self.assertTrue(f.converged)
        expected = 30 + 70 * (f.cpu.temperature_c - 40) / 50
        self.assertAlmostEqual(f.fans[0].speed_pct, expected, delta=0.3)

    def test_a_fan_below_its_curve_s_threshold_is_off_and_still_in_the_way(self) -> None:
        raw = demo_raw()
        raw["curves"] = [{"id": "late", "source": "cpu", "points": [[0, 0], [90, 0], [95, 100]]}]
        late, out, *rest = layout_raw(raw, "A")["fans"]
        late["curve"], out["state"] = "late", "unplugged"
        f = forecast_of(loaded(machine(raw), "idle"))
        self.assertEqual([x.turning for x in f.fans], ["off", "unplugged", *("runs" for _ in rest)])
        self.assertEqual((f.fans[0].speed_rpm, f.fans[1].speed_rpm), (0, 0))
        layout_raw(raw, "A")["fans"] = rest
        self.assertNotAlmostEqual(f.cpu.rise_k, forecast_of(loaded(machine(raw), "idle")).cpu.rise_k, delta=0.01)

    def test_target_level(self) -> None:
        m, reached = at_target_level(machine(layout_id="B"), 33.0)
        self.assertTrue(reached)
        self.assertAlmostEqual(forecast_of(m).sound.level_dba, 33.0, delta=0.05)
        _, never = at_target_level(machine(layout_id="B"), 20.0)
        self.assertFalse(never)

    def test_difference_is_narrower_than_the_figures(self) -> None:
        b, a = operating_point(machine(layout_id="B")), operating_point(machine(layout_id="A"))
        d = differences(b, a)
        self.assertAlmostEqual(d.cpu_k, b.cpu_rise_k - a.cpu_rise_k)
        self.assertLess(d.cpu_band_k, forecast(b).cpu.band_k)

    def test_taking_the_front_panel_off_a_closed_case_helps(self) -> None:
        raw = demo_raw()
        front = raw["case"]["panels"][0]
        front.update({"kind": "slots", "gap_area_cm2": 60, "turns_90": 2})
        closed = forecast_of(machine(raw))
        opened = copy.deepcopy(raw)
        layout_raw(opened, "A")["panels"] = {"front": {"state": "removed"}}
        after = forecast_of(machine(opened))
        self.assertGreater(after.balance.intake_m3h, 1.1 * closed.balance.intake_m3h)
        self.assertLess(after.cpu.rise_k, closed.cpu.rise_k)

    def test_tracer_adds_up(self) -> None:
        point = operating_point(machine(layout_id="B"))
        shares = unused_shares(point, "f1")
        self.assertTrue(all(0 <= u.share <= 1 for u in shares))
        self.assertLessEqual(sum(u.share for u in shares), 1.0 + 1e-6)
        self.assertEqual(unused_shares(point, "r1"), [])
        self.assertEqual(shares[0].mount, "t3")

    def test_every_card_stream_is_there(self) -> None:
        kinds = {link.kind for link in operating_point(machine()).links if CARD in (link.tail, link.head)}
        self.assertEqual(kinds, {"card_in", "card_out"})


class TransientTest(SimpleTestCase):
    def test_it_rises_to_the_settled_point(self) -> None:
        m = machine(layout_id="D")
        f = forecast_of(m)
        rows = warm_up(m, 240, 600)
        self.assertEqual(rows[0].cpu_k, 0)
        self.assertTrue(all(a.cpu_k <= b.cpu_k + 1e-6 for a, b in pairwise(rows)))
        self.assertAlmostEqual(rows[-1].cpu_k, f.cpu.rise_k, delta=0.1)
        assert f.card and rows[-1].card_k is not None
        self.assertAlmostEqual(rows[-1].card_k, f.card.rise_k, delta=0.1)

    def test_rows_come_at_the_asked_times(self) -> None:
        self.assertEqual([r.minutes for r in warm_up(machine(), 3, 60)], [0, 1, 2, 3])

    def test_coolant_is_slower_than_fins(self) -> None:
        # Common practice, no source: loops need longer than towers.
        tower, loop = (warm_up(machine(layout_id=x), 5, 300)[-1].cpu_k / forecast_of(machine(layout_id=x)).cpu.rise_k for x in "AC")
        self.assertLess(loop, tower)

    def test_a_lump_warms_as_the_closed_form_says(self) -> None:
        # Source: Incropera, lumped capacitance: T(t) = T_end (1 - exp(-t/tau)). Fins alone, in a case flooded with room air.
        raw = demo_raw()
        layout_raw(raw, "A").update({"card": None, "panels": {f: {"state": "removed"} for f in ("front", "top", "window")}})
        raw["parts"]["board_power_w"] = 0
        raw["parts"]["coolers"][0]["heat_capacity_j_per_k"] = 3000
        m = machine(raw)
        rows = run(m, 30, 5)
        end = operating_point(m).cpu_rise_k - m.cpu.power_w * operating_point(m).cpu_above_k_w
        fins = [r.cpu_k - r.cpu_w * operating_point(m).cpu_above_k_w for r in rows]
        tau_s = 3000 * end / m.cpu.power_w
        for i in range(12, 120, 12):
            expected = end * (1 - np.exp(-i * 5 / tau_s))
            self.assertAlmostEqual(fins[i] / end, expected / end, delta=0.03)

    def test_a_fan_that_stops_shows_from_that_minute_on(self) -> None:
        plain, failed = (run(machine(), 40, 60, events=e, warm=True) for e in ((), (Event(20, "fan_stops", "r1"),)))
        self.assertAlmostEqual(plain[19].cpu_k, failed[19].cpu_k, places=9)
        self.assertGreater(failed[-1].cpu_k, plain[-1].cpu_k + 0.5)
        self.assertEqual(failed[-1].fans_pct[2], 0.0)

    def test_other_failures_and_a_warming_room(self) -> None:
        steady = run(machine(layout_id="C"), 60, 600, warm=True)[-1].cpu_k
        slow = run(machine(layout_id="C"), 60, 600, events=[Event(10, "pump_slows", amount=20)], warm=True)[-1].cpu_k
        dusty = run(machine(layout_id="C"), 60, 600, events=[Event(10, "filter_clogs")], warm=True)[-1].cpu_k
        warm = run(machine(layout_id="C"), 120, 600, events=[Event(10, "room_warms", amount=5.0)], warm=True)[-1].cpu_k
        self.assertGreater(slow, steady + 0.2)
        self.assertGreater(dusty, steady)
        self.assertAlmostEqual(warm - steady, 5.0, delta=0.5)  # a hotter room raises every temperature by about as much

    def test_a_warm_start_begins_where_the_machine_had_settled(self) -> None:
        point = operating_point(machine())
        first, *_, last = run(machine(), 30, 60, warm=True)
        self.assertAlmostEqual(first.cpu_k, point.cpu_rise_k, places=9)
        self.assertEqual((first.cpu_w, first.card_w), (125.0, 220.0))
        self.assertAlmostEqual(last.cpu_k, first.cpu_k, delta=0.05)

    def test_gaps_never_fall_below_what_an_idle_part_draws(self) -> None:
        busy = run(machine(), 20, 5, Profile("gaps"))
        self.assertAlmostEqual(min(r.cpu_w for r in busy[1:]), 0.15 * 125)
        # A part that idles already keeps its idle power in the gaps: it is not made idle twice.
        resting = loaded(machine(), "cpu")
        rows = run(resting, 20, 5, Profile("gaps"), idle_w=(0.15 * 125, 0.10 * 220))
        self.assertAlmostEqual(min(r.card_w for r in rows[1:]), 22.0)
        self.assertAlmostEqual(max(r.card_w for r in rows[1:]), 22.0)

    def test_the_advised_length_is_whole_fives_past_the_slowest(self) -> None:
        self.assertEqual(advised_minutes([Settling("cpu_k", 14.0), Settling("card_k", 21.0)]), 30.0)
        self.assertEqual(advised_minutes([Settling("cpu_k", 15.0)]), 20.0)
        self.assertIsNone(advised_minutes([Settling("cpu_k", 14.0), Settling("card_k", None)]))
        self.assertIsNone(advised_minutes([]))

    def test_a_pump_follows_a_curve_like_a_fan(self) -> None:
        raw = demo_raw()
        raw["curves"] = [{"id": "own", "source": "coolant", "points": [[20, 40], [60, 100]]}]
        loop = {"cooler": "shearwater", "pump_curve": "own", "radiators": [{"radiator": "fin-240", "mounts": ["t1", "t2"]}]}
        layout_raw(raw, "C").update({"radiator": None, "loops": [loop]})
        point = operating_point(machine(raw, "C"))
        coolant_c = 22 + point.rises_k["coolant"]
        self.assertAlmostEqual(point.speeds.pump, 40 + (coolant_c - 20) / 40 * 60, delta=0.2)
        self.assertGreater(point.cpu_rise_k, operating_point(machine(layout_id="C")).cpu_rise_k)
        rows = run(machine(raw, "C"), 90, 60)
        self.assertAlmostEqual(rows[-1].cpu_k, point.cpu_rise_k, delta=0.6)  # a held-back controller runs up to 2 K fast

    def test_impossible_events_are_refused(self) -> None:
        with self.assertRaises(ImpossibleInputError):
            run(machine(), 10, 60, events=[Event(5, "fan_stops", "nowhere")])
        with self.assertRaises(ImpossibleInputError):
            run(machine(), 10, 60, events=[Event(5, "pump_slows", amount=50)])

    def test_a_panel_change_in_the_run_keeps_what_is_warm(self) -> None:
        # Another network takes over the temperatures by name: no jump in the processor at the change.
        rows = run(machine(layout_id="C"), 30, 30, events=[Event(15, "pump_slows", amount=60)], warm=True)
        steps = [abs(b.cpu_k - a.cpu_k) for a, b in pairwise(rows[2:])]
        self.assertLess(max(steps), 1.5)

    def test_load_profiles(self) -> None:
        seconds = np.arange(0.0, 1200.0, 5.0)
        self.assertTrue((Profile("step").shares(seconds) == 1).all())
        burst = Profile("burst", period_s=600, on_s=120).shares(seconds)
        self.assertAlmostEqual(float((burst[:, 0] == 1).mean()), 0.2, delta=0.01)
        game = Profile("game").shares(seconds)
        self.assertTrue((game[:, 1] == 1).all() and game[:, 0].min() > 0.3 and game[:, 0].max() < 0.8)
        with self.assertRaises(ImpossibleInputError):
            Profile("burst", period_s=0).shares(seconds)

    def test_bursts_stay_below_a_steady_load(self) -> None:
        steady = max(r.cpu_k for r in run(machine(layout_id="C"), 60, 30))
        bursts = max(r.cpu_k for r in run(machine(layout_id="C"), 60, 30, Profile("burst")))
        self.assertLess(bursts, steady - 3)

    def test_settling_is_slower_for_a_loop_and_none_when_too_short(self) -> None:
        minutes = {x: {s.channel: s.minutes for s in settle_times(run(machine(layout_id=x), 120, 60))} for x in "AC"}
        loop, tower = minutes["C"]["coolant_k"], minutes["A"]["air_rear_k"]
        assert loop is not None and tower is not None
        self.assertGreater(loop, tower)
        self.assertIsNone({s.channel: s.minutes for s in settle_times(run(machine(layout_id="C"), 6, 60))}["cpu_k"])

    def test_curves_act_during_the_run_with_ramp_and_hysteresis(self) -> None:
        raw = demo_raw()
        raw["curves"] = [{"id": "warm", "source": "cpu", "points": [[40, 30], [70, 100]]}]
        for place in layout_raw(raw, "A")["fans"]:
            place["curve"] = "warm"
        m = machine(raw)
        rows = run(m, 90, 5)
        speeds = [r.fans_pct[0] for r in rows]
        self.assertTrue(all(b - a <= 100 * 5 / 10 + 1e-6 for a, b in pairwise(speeds)))  # the ramp
        self.assertAlmostEqual(speeds[-1], operating_point(m).speeds.fans[0], delta=5)  # held up to 2 K higher by hysteresis
        self.assertGreaterEqual(speeds[-1], operating_point(m).speeds.fans[0] - 0.5)


class FlowPictureTest(SimpleTestCase):
    def test_age_of_all_air_is_volume_over_flow(self) -> None:
        # Source: Sandberg, age of air: the mean age of what leaves equals volume over through flow.
        point = operating_point(machine())
        transport = Transport(point)
        volume = sum(point.spaces.volume_m3(s) for s in point.spaces.ids)
        source = np.zeros(transport.pg.n + SPECIAL)
        for s in point.spaces.ids:
            source[point.plan.at[s]] = point.spaces.volume_m3(s)
        age = transport.solve(np.zeros(len(point.links), dtype=bool), source)
        carried = np.zeros(len(point.links))
        streams.carried_k(transport.pg, point.flow_m3s, np.zeros(len(point.links)), point.moved_m3s, age, carried)
        leaving = sum(
            abs(q) * c
            for link, q, c in zip(point.links, point.flow_m3s, carried, strict=True)
            if (link.head if q >= 0 else link.tail) == ROOM
        )
        self.assertAlmostEqual(leaving / volume, 1.0, delta=0.01)

    def test_smoke_leaves_whole(self) -> None:
        for space in ("up_front", "low_rear", "up_side"):
            tracer = release(operating_point(machine(layout_id="B")), space)
            self.assertAlmostEqual(tracer.concentration[space], 1.0)
            self.assertAlmostEqual(sum(e.share for e in tracer.exits), 1.0, delta=0.05)  # small exits are left out
        with self.assertRaises(ImpossibleInputError):
            release(operating_point(machine()), "attic")

    def test_what_takes_the_smoke_first_adds_up_to_what_is_used(self) -> None:
        for layout in "ABCD":
            point = operating_point(machine(layout_id=layout))
            for space in ("up_front", "low_mid", "up_rear"):
                tracer = release(point, space)
                self.assertAlmostEqual(sum(tracer.taken_by.values()), tracer.used_share, delta=0.02)
                self.assertGreater(tracer.stays_s, 0)
                self.assertTrue(0 <= tracer.still_share <= 1)

    def test_smoke_of_two_spaces_is_the_sum_of_both(self) -> None:
        point = operating_point(machine(layout_id="B"))
        one, two = release(point, "up_front"), release(point, "low_mid")
        both = release(point, {"up_front": 0.25, "low_mid": 0.75})
        self.assertAlmostEqual(both.used_share, 0.25 * one.used_share + 0.75 * two.used_share)
        self.assertAlmostEqual(both.stays_s, 0.25 * one.stays_s + 0.75 * two.stays_s)

    def test_air_through_gaps_is_told_by_where_it_comes_in(self) -> None:
        """More blown out than in: what is missing comes through vents and gaps. The other way round next to nothing does."""
        raw = demo_raw()
        out, inward = ([{**f, "direction": way, "layer": "outer"} for f in layout_raw(raw, "A")["fans"]] for way in ("exhaust", "intake"))
        found = []
        for fans in (out, inward):
            layout_raw(raw, "A")["fans"] = fans
            picture = flow_picture(operating_point(machine(raw, "A")))
            self.assertAlmostEqual(sum(picture.enters.values()), 1.0)
            self.assertTrue(all(0 <= x <= 1 for x in picture.through_gaps.values()))
            found.append((picture.enters["gaps"], max(picture.through_gaps.values())))
        self.assertGreater(found[0][0], 0.1)
        self.assertLess(found[1][0], 0.02)
        self.assertGreater(found[0][1], 0.3)

    def test_what_of_the_smoke_works_depends_on_where_it_starts(self) -> None:
        point = operating_point(machine(layout_id="B"))
        front, rear = (release(point, space).used_share for space in ("up_front", "up_rear"))
        self.assertTrue(0 < rear < front < 1)
        raw = demo_raw()
        layout_raw(raw, "B")["fans"] = [f for f in layout_raw(raw, "B")["fans"] if f["mount"] != "t3"]
        self.assertGreater(release(operating_point(machine(raw, "B")), "up_front").used_share, front)

    def test_a_chimney_cooler_breathes_no_less_of_its_own(self) -> None:
        picture = flow_picture(operating_point(machine()))
        self.assertTrue(0 < picture.cooler_own_share < 0.5)
        assert picture.card_own_share is not None
        self.assertTrue(0 < picture.card_own_share < 0.6)
        self.assertTrue(all(v > 0 for v in picture.age_s.values()))

    def test_still_corners_are_named(self) -> None:
        raw = demo_raw()
        layout_raw(raw, "A")["fans"] = [fan_raw("f1", "intake"), fan_raw("r1", "exhaust")]
        ages = flow_picture(operating_point(machine(raw))).age_s
        self.assertGreater(ages["low_mid"], ages["up_front"])
