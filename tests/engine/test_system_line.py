"""A fan at work: its curve, the line it works against, and where they meet."""

from itertools import pairwise
from typing import Any

import numpy as np
from django.test import SimpleTestCase

from desk.job.resolve import Resolver
from documents.job.reader import check_job
from engine.coupled.forecast import forecast
from engine.coupled.operating_point import operating_point
from engine.coupled.system_line import curve_pa, fan_at_work, other_fan
from engine.errors import ImpossibleInputError
from engine.parameters import DEFAULT, INDEX
from tests.machines import demo_raw, layout_raw, machine


class SystemLineTest(SimpleTestCase):
    def test_curve_and_line_meet_at_the_forecast_s_flow(self) -> None:
        point = operating_point(machine(layout_id="B"))
        flows = {f.mount: f.flow_m3h for f in forecast(point).fans}
        for mount in ("f1", "r1", "t2"):
            work = fan_at_work(point, mount)
            line = sorted(work.system)
            met = float(np.interp(work.flow_m3h, [q for q, _ in line], [p for _, p in line]))
            with self.subTest(mount=mount):
                self.assertAlmostEqual(work.flow_m3h, flows[mount], places=6)
                self.assertAlmostEqual(met, work.pressure_pa, delta=0.05 * max(work.pressure_pa, 1.0))
                self.assertLess(work.share_of_free_pct, 100)

    def test_the_line_rises_and_a_plate_before_it_makes_it_steeper(self) -> None:
        raw = demo_raw()
        steep = demo_raw()
        layout_raw(steep, "A")["obstructions"] = [{"mount": "f3", "blocked_pct": 70}]
        slopes = []
        for doc in (raw, steep):
            line = sorted(fan_at_work(operating_point(machine(doc)), "f3").system)
            self.assertTrue(all(b[1] > a[1] for a, b in pairwise(line)))
            slopes.append(line[-1][1] / line[-1][0] ** 2)
        self.assertGreater(slopes[1], 1.5 * slopes[0])

    def test_an_airflow_fan_leads_in_the_open_and_loses_behind_a_cage(self) -> None:
        # Common practice, no source: the type made for air wins in a free mount, the type made for pressure behind resistance.
        free, choked = demo_raw(), demo_raw()
        for raw, blocked in ((free, 0), (choked, 75)):
            raw["parts"]["fans"].append({**raw["parts"]["fans"][0], "id": "press", "flow_max_m3h": 78, "pressure_max_pa": 40})
            own = layout_raw(raw, "A")
            own["panels"] = {"front": {"state": "removed"}} if not blocked else {}
            own["obstructions"] = [{"mount": "f3", "blocked_pct": blocked}] if blocked else []
        gain = [self._gain(raw) for raw in (free, choked)]
        self.assertLess(gain[0], gain[1])
        self.assertGreater(gain[1], 0)

    def _gain(self, raw: dict[str, Any]) -> float:
        resolver = Resolver(check_job(raw).doc)
        point = operating_point(resolver.machine("A"))
        own = fan_at_work(point, "f3").flow_m3h
        return other_fan(point, "f3", "outer", resolver.fan(resolver.parts["fans"]["press"])) - own

    def test_a_sheet_curve_is_followed_and_an_empty_mount_refused(self) -> None:
        raw = demo_raw()
        raw["parts"]["fans"][0]["curve"] = {"flow_m3h": [0, 30, 60, 92], "pressure_pa": [18, 13, 8, 0]}
        fan = Resolver(check_job(raw).doc).machine("A").fans[0].fan
        self.assertAlmostEqual(curve_pa(fan, 30, 1.0), 13, delta=0.6)
        self.assertAlmostEqual(curve_pa(fan, 15, 0.5), 13 / 4, delta=0.2)  # affinity laws
        worth = float(DEFAULT[INDEX["installed_fan"]])
        self.assertLess(curve_pa(fan, 30, 1.0, worth), curve_pa(fan, 30, 1.0))
        with self.assertRaises(ImpossibleInputError):
            fan_at_work(operating_point(machine()), "t1")
