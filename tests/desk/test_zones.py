"""Zones: the air forecast in them, the probes that hang in them, and what these read."""

from dataclasses import replace

from django.test import SimpleTestCase

from desk.forecast.document import Oracle, Question
from desk.job.resolve import Resolver
from desk.job.zones import channels_of, points_in, usual_zones
from desk.plan.hanging import hanging
from desk.verdict.measures import FigureOut
from desk.verdict.zones import zones_of
from documents.errors import DocumentError
from documents.job.models import JobDoc, ZoneDoc
from documents.job.reader import check_job
from engine.machine import AirCooler
from engine.runs.budget import Budget
from tests.machines import demo_raw

NOTHING = Budget(value=0.0, lines=(), standard=0.0, freedom=None, factor=2.0, expanded=0.0)


def doc_with(**more: object) -> JobDoc:
    return check_job(demo_raw() | more).doc


def point(key: str, x: float, z: float, sensor: int | None = None) -> dict[str, object]:
    return {"id": key, "at_mm": {"x": x, "y": 90, "z": z}, "sensor": sensor}


def box(key: str, x: tuple[float, float], z: tuple[float, float]) -> dict[str, object]:
    return {"id": key, "name": key, "from_mm": {"x": x[0], "y": 0, "z": z[0]}, "to_mm": {"x": x[1], "y": 900, "z": z[1]}}


class ForecastTest(SimpleTestCase):
    def test_a_zone_within_one_space_has_that_space_s_air(self) -> None:
        plain = Oracle(doc_with(), Question(layouts=["A"])).forecast("A")
        space = next(s for s in plain.air.spaces if s.id == "up_front")
        room = plain.cpu.temperature_c - plain.cpu.rise_k
        small = box("z", (space.x_from_mm + 5, space.x_to_mm - 5), (space.z_from_mm + 5, space.z_to_mm - 5))
        found = Oracle(doc_with(zones=[small]), Question(layouts=["A"])).forecast_doc().layouts[0].zones[0]
        self.assertAlmostEqual(found.rise_k, space.temperature_c - room, places=6)
        self.assertEqual((found.coolest_k, found.warmest_k), (found.rise_k, found.rise_k))
        self.assertGreater(found.flow_m3h, 0)

    def test_a_zone_over_two_spaces_lies_between_them(self) -> None:
        plain = Oracle(doc_with(), Question(layouts=["A"])).forecast("A")
        front = next(s for s in plain.air.spaces if s.id == "up_front")
        over = box("z", (front.x_to_mm - 30, front.x_to_mm + 30), (front.z_from_mm + 5, front.z_to_mm - 5))
        found = Oracle(doc_with(zones=[over]), Question(layouts=["A"])).forecast_doc().layouts[0].zones[0]
        self.assertLess(found.coolest_k, found.rise_k)
        self.assertLess(found.rise_k, found.warmest_k)

    def test_corners_may_be_given_either_way_round(self) -> None:
        one = box("z", (20, 90), (200, 300))
        turned = one | {"from_mm": one["to_mm"], "to_mm": one["from_mm"]}
        figures = [Oracle(doc_with(zones=[z]), Question(layouts=["A"])).forecast_doc().layouts[0].zones for z in (one, turned)]
        self.assertEqual(*figures)


class UsualTest(SimpleTestCase):
    def test_four_boxes_within_the_case(self) -> None:
        doc = doc_with()
        found = usual_zones(Resolver(doc).machine("A"))
        self.assertEqual([z.id for z in found], ["cpu_intake", "card_intake", "low_front", "rear_top"])
        inner = doc.case.inner_mm
        for z in found:
            with self.subTest(z.id):
                self.assertTrue(0 <= z.from_mm.x < z.to_mm.x <= inner.depth)
                self.assertTrue(0 <= z.from_mm.z < z.to_mm.z <= inner.height)
        self.assertEqual(len(check_job(demo_raw() | {"zones": [z.model_dump() for z in found]}).doc.zones), 4)

    def test_a_tower_draws_from_behind_its_fan(self) -> None:
        machine = Resolver(doc_with()).machine("A")
        assert isinstance(machine.cooler, AirCooler)
        rear, front, up = (
            usual_zones(replace(machine, cooler=replace(machine.cooler, direction=way)))[0] for way in ("rear", "front", "up")
        )
        self.assertLess(rear.to_mm.x, machine.cpu_x_mm)
        self.assertGreater(front.from_mm.x, machine.cpu_x_mm)
        self.assertLess(up.to_mm.z, machine.cpu_z_mm)

    def test_zones_lie_in_their_own_chamber(self) -> None:
        machine = replace(Resolver(doc_with()).machine("A"), separate_card_chamber=True, card_side_mm=60.0)
        zones = {z.id: (z.from_mm.y, z.to_mm.y) for z in usual_zones(machine)}
        self.assertEqual(zones["card_intake"], (0, 60))
        self.assertEqual({zones[k] for k in ("cpu_intake", "low_front", "rear_top")}, {(60, round(machine.width_mm))})

    def test_one_id_twice_is_refused(self) -> None:
        with self.assertRaises(DocumentError) as caught:
            check_job(demo_raw() | {"zones": [box("z", (0, 9), (0, 9))] * 2})
        self.assertIn("zones[1]", str(caught.exception))


class MeasuredTest(SimpleTestCase):
    def setUp(self) -> None:
        near = [point("front", 40, 60), point("other", 60, 80, 7), point("far", 300, 300)]
        self.doc = doc_with(points=near, zones=[box("low", (0, 100), (0, 120)), box("empty", (0, 1), (0, 1))])

    def figure(self, layout: str, channel: str, value: float, band: float) -> FigureOut:
        return FigureOut(layout=layout, channel=channel, value=value, band=band, runs=1, settled=True, at_limit=False, budget=NOTHING)

    def test_which_points_and_channels(self) -> None:
        zone = self.doc.zones[0]
        self.assertIsInstance(zone, ZoneDoc)
        self.assertEqual([p.id for p in points_in(self.doc, zone)], ["front", "other"])
        self.assertEqual(channels_of(self.doc.points[1]), ["air_other_c", "air_7_c"])

    def test_a_numbered_probe_is_called_by_its_number(self) -> None:
        found = {a.point: (a.channel, a.zones) for a in hanging(self.doc, "A")}
        self.assertEqual(found, {"front": ("air_front_c", ["low"]), "other": ("air_7_c", ["low"]), "far": ("air_far_c", [])})

    def test_a_numbered_sensor_shows_in_its_zone(self) -> None:
        figures = [
            self.figure("A", "air_front_c", 4.0, 0.4),
            self.figure("A", "air_7_c", 7.0, 0.6),
            self.figure("A", "air_far_c", 20.0, 1.0),
            self.figure("B", "air_far_c", 20.0, 1.0),
            self.figure("A", "cpu_package_c", 50.0, 1.0),
        ]
        only = zones_of(self.doc, figures)
        self.assertEqual([(z.zone, z.layout, z.points) for z in only], [("low", "A", ["front", "other"])])
        self.assertEqual((only[0].mean_k, only[0].band_k), (5.5, 0.5))
        self.assertEqual((only[0].coolest_k, only[0].warmest_k, only[0].warmest_at), (4.0, 7.0, "other"))
