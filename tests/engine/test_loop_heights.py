"""Heights of a loop in every orientation by hand, its ageing against the closed form, and what findings say of both."""

from dataclasses import replace
from typing import Any

from django.test import SimpleTestCase

from engine.coupled.forecast import forecast
from engine.coupled.operating_point import operating_point
from engine.findings.finding import Finding
from engine.findings.registry import findings
from engine.loop.ageing import RATE_ML_YEAR_M, ageing, rate_ml_year, year_reaching
from engine.loop.heights import LoopHeights, loop_heights
from engine.machine import SealedCooler
from tests.machines import fan_raw, machine

CPU_Z = 360.0
PLACES = {
    "top": (["t1", "t2"], "rear"),
    "bottom": (["b1", "b2"], "rear"),
    "front, tubes down": (["f1", "f2"], "bottom"),
    "front, tubes up": (["f1", "f2"], "top"),
    "side, on edge": (["s1", "s2"], "rear"),
    "rear, one section": (["r1"], "bottom"),
}


def raw(place: str, pump: str = "block", **more: Any) -> dict[str, Any]:
    """A case with mounts on every face and one sealed loop; 240 mm radiator of 280 mm with tanks, the rear one of 160 mm."""
    mounts, tubes = PLACES[place]
    at = {
        "t1": ("top", 300, 450), "t2": ("top", 180, 450), "b1": ("bottom", 300, 0), "b2": ("bottom", 180, 0), "f1": ("front", 0, 310),
        "f2": ("front", 0, 190), "s1": ("window", 260, 300), "s2": ("window", 140, 300), "r1": ("rear", 420, 360),
    }  # fmt: skip
    part = "r240" if len(mounts) == 2 else "r120"
    layout = {
        "id": "A",
        "radiator": {"radiator": part, "mounts": mounts, "tubes": tubes},
        "fans": [fan_raw(m, "exhaust", 80, "tern") for m in mounts],
    }
    layout["fans"] += [] if "front" in place else [fan_raw("f1", "intake", 80, "tern")]  # type: ignore[operator]
    made = {
        "format": "oventa-job", "version": 1, "name": "every way up", "room": {"temperature_c": 22},
        "case": {
            "inner_mm": {"depth": 420, "height": 450, "width": 215}, "cpu_centre_mm": {"x": 300, "z": CPU_Z},
            "panels": [{"face": "front", "kind": "mesh", "open_area_pct": 50}],
            "mounts": [
                {"id": i, "face": f, "centre_mm": {"x": x, "y": 215 if f == "window" else 107, "z": z}, "sizes_mm": [120]}
                for i, (f, x, z) in at.items()
            ],
        },
        "parts": {
            "cpus": [{"id": "c", "power_w": 125, "r_jc_k_per_w": 0.15}],
            "coolers": [{"id": "l", "kind": "sealed", "r_plate_k_per_w": 0.05, "pump": pump, "coolant_ml": 100, "tube_mm": 400, **more}],
            "radiators": [{"id": "r240", "sections": 2, "section_mm": 120}, {"id": "r120", "sections": 1, "section_mm": 120}],
            "fans": [{"id": "tern", "size_mm": 120, "speed_max_rpm": 1500, "flow_max_m3h": 90, "pressure_max_pa": 18, "noise_dba": 27}],
        },
        "base": {"cpu": "c", "cooler": "l"},
        "layouts": [layout],
    }  # fmt: skip
    return made


def heights(document: dict[str, Any]) -> LoopHeights:
    made = machine(document)
    assert isinstance(made.cooler, SealedCooler)
    return loop_heights(made, made.cooler)


def found(document: dict[str, Any]) -> dict[str, Finding]:
    point = operating_point(machine(document))
    return {f.code: f for f in findings(point, forecast(point))}


class HeightsTest(SimpleTestCase):
    def test_six_orientations_by_hand(self) -> None:
        # place: lies, highest point, barbs' height, highest point over the pump. Radiator 27 thick, 280 long, tanks of 20.
        table = {
            "top": ("flat", 450, 450 - 13.5, 450 - CPU_Z),
            "bottom": ("flat", 27, 13.5, 27 - CPU_Z),
            "front, tubes down": ("upright", 250 + 140, 250 - 130, 390 - CPU_Z),
            "front, tubes up": ("upright", 390, 250 + 130, 390 - CPU_Z),
            "side, on edge": ("on_edge", 360, 330, 0),
            "rear, one section": ("upright", 440, 360 - 70, 440 - CPU_Z),
        }
        for place, (lies, high, barb, over) in table.items():
            with self.subTest(place=place):
                h = heights(raw(place))
                r = h.top_radiator
                self.assertEqual((r.lies, r.high_mm, r.barb_mm), (lies, high, barb))
                self.assertAlmostEqual(h.over_pump_mm, over)
                self.assertEqual(r.sides, ("bottom", "top") if lies == "upright" else ("rear", "front"))
                self.assertIn(r.tubes, r.sides)
                self.assertIn("upper" if "tubes up" in place else "lower" if lies == "upright" else "rear", r.end)

    def test_where_the_air_collects(self) -> None:
        self.assertEqual(heights(raw("top")).pocket_in, "radiator")
        self.assertEqual(heights(raw("bottom")).pocket_in, "pump")
        self.assertEqual(heights(raw("bottom", pump="radiator")).pocket_in, "block")
        self.assertEqual(heights(raw("front, tubes up", pump="radiator")).pocket_in, "pump")
        self.assertEqual(heights(raw("front, tubes down", pump="radiator")).pocket_in, "radiator")

    def test_volumes_by_hand(self) -> None:
        # Tank 20 x 120 x 27 mm, eight tenths of it coolant: 51.84 ml; flat tubes 12 % of 240 x 120 x 27 mm: 93.3 ml.
        r = heights(raw("front, tubes down")).top_radiator
        self.assertAlmostEqual(r.tank_ml, 20 * 120 * 27 * 0.8 / 1000)
        self.assertAlmostEqual(r.channels_ml, 0.12 * 240 * 120 * 27 / 1000)
        self.assertAlmostEqual(r.above_ml(r.high_mm), 0)
        self.assertAlmostEqual(r.above_ml(r.low_mm), 2 * r.tank_ml + r.channels_ml)
        self.assertGreater(r.above_barb_ml, heights(raw("front, tubes up")).top_radiator.above_barb_ml)

    def test_a_reservoir_on_top_takes_the_air(self) -> None:
        document = raw("front, tubes down", reservoir_z_mm=420)
        document["parts"]["coolers"][0]["kind"] = "open_loop"
        place = document["layouts"][0].pop("radiator")
        document["layouts"][0]["loops"] = [{"cooler": "l", "reservoir": True, "radiators": [place]}]
        self.assertEqual(heights(document).pocket_in, "reservoir")
        self.assertNotIn("reservoir_low", found(document))
        document["parts"]["coolers"][0]["reservoir_z_mm"] = 200
        self.assertIn("reservoir_low", found(document))


class PositionsTest(SimpleTestCase):
    def test_five_positions_have_words_and_severities_of_their_own(self) -> None:
        low = raw("front, tubes down")
        for m in low["case"]["mounts"]:
            if m["face"] == "front":
                m["centre_mm"]["z"] -= 60  # the upper end is now 30 mm below the pump
        near = raw("front, tubes down")
        for m in near["case"]["mounts"]:
            if m["face"] == "front":
                m["centre_mm"]["z"] -= 20
        table = {
            "bottom": (raw("bottom"), "pump_at_top", "error"),
            "in front, too low": (low, "pump_at_top", "error"),
            "in front, just above": (near, "pump_at_top", "warning"),
            "tubes up": (raw("front, tubes up"), "tubes_at_top", "note"),
            "pump in the upper tank": (raw("front, tubes up", pump="radiator"), "pump_at_top", "error"),
            "pump in a radiator below": (raw("bottom", pump="radiator"), "pump_in_radiator", "note"),
        }
        words = set()
        for name, (document, code, severity) in table.items():
            with self.subTest(position=name):
                finding = found(document)[code]
                self.assertEqual((finding.severity, finding.kind), (severity, "practice"))
                words.add(finding.what)
        self.assertEqual(len(words), len(table))
        self.assertFalse({"pump_at_top", "tubes_at_top"} & set(found(raw("top"))))

    def test_the_strict_school_is_graver(self) -> None:
        for place, code in (("front, tubes up", "tubes_at_top"), ("bottom", "pump_at_top")):
            document = raw(place)
            practical = found(document)[code].severity
            document["practice"] = {"loop_heights": "strict"}
            strict = found(document)[code].severity
            with self.subTest(place=place):
                self.assertEqual((practical, strict), ("note", "warning") if code == "tubes_at_top" else ("error", "error"))


class AgeingTest(SimpleTestCase):
    """Rates are common practice, no source; what is checked is the closed form, and that causes act the right way."""

    def age(self, coolant_c: float = 40.0, **changes: Any) -> Any:
        made = machine(raw("front, tubes up"))
        assert isinstance(made.cooler, SealedCooler)
        cooler = replace(made.cooler, **changes)
        return ageing(cooler, loop_heights(made, cooler), coolant_c)

    def test_closed_form(self) -> None:
        # 3 % of 100 ml is air when new; two tubes of 0.4 m lose 2 x 0.4 x 1.2 ml a year at 40 deg C; half a tank is 25.92 ml.
        found = self.age()
        self.assertAlmostEqual(found.first_ml, 3.0)
        self.assertAlmostEqual(found.rate_ml_year, 0.96)
        self.assertAlmostEqual(found.barb_year, (25.92 - 3.0) / 0.96, places=6)
        self.assertAlmostEqual(found.air_ml(found.barb_year), 25.92, places=6)

    def test_causes(self) -> None:
        self.assertGreater(RATE_ML_YEAR_M["epdm"], RATE_ML_YEAR_M["fluoropolymer"])
        self.assertAlmostEqual(rate_ml_year("epdm", 400, 52), 2 * rate_ml_year("epdm", 400, 40))
        self.assertAlmostEqual(rate_ml_year("epdm", 800, 40), 2 * rate_ml_year("epdm", 400, 40))
        self.assertLess(self.age(coolant_c=55).barb_year, self.age().barb_year)
        self.assertLess(self.age(fill_pct=90.0).barb_year, self.age().barb_year)
        self.assertIsNone(self.age(tube_material="fluoropolymer").barb_year)  # beyond thirty years
        self.assertFalse(self.age(tube_material="moss").known_material)

    def test_ends(self) -> None:
        self.assertEqual(year_reaching(5, 6, 1), 0)
        self.assertIsNone(year_reaching(5, 1, 0))
        self.assertIsNone(self.age(reservoir=True).barb_year)

    def test_a_short_life_is_said_and_a_long_one_is_not(self) -> None:
        self.assertIn("loop_ages", found(raw("front, tubes up", tube_material="pvc", fill_pct=80)))
        self.assertNotIn("loop_ages", found(raw("front, tubes down")))
