"""Leads shared out among headers: never what may not be, by the least way, against every other sharing out of small cases."""

from dataclasses import replace
from itertools import permutations

import numpy as np
from django.test import SimpleTestCase

from engine.wiring.currents import HeaderBox, Plug, way_mm
from engine.wiring.sharing import EXTENSION_MM, Branch, Lead, shared

BOTH = ("3pin", "4pin")


def header(name: str, x: float = 200.0, limit: float | None = 1.0, modes: tuple[str, ...] = BOTH, pump: bool = False) -> HeaderBox:
    return HeaderBox(name, "pump" if pump else "fan", limit, modes, x, 0.0, 300.0)


def lead(name: str, x: float = 0.0, drive: str = "60 %", current: float = 0.2, connector: str = "4pin", lead_mm: float = 500.0) -> Lead:
    return Lead((name, "outer"), Plug(name, name, "fan", current, connector, lead_mm, 0.0, None, True, False, x, 100.0, 300.0), drive)


def pump(name: str = "pump") -> Lead:
    own = lead(name)
    return replace(own, plug=replace(own.plug, kind="pump", mount=None), drive=name)


SPLITTER = Branch("three", 3, 100.0, None)
HUB = Branch("hub", 8, 0.0, HeaderBox("hub", "hub", 4.0, BOTH, None, None, None))


class SharedTest(SimpleTestCase):
    def test_each_has_its_own_header_by_the_least_way_in_all(self) -> None:
        """Against every sharing out there is."""
        rng = np.random.default_rng(11)
        for seed in range(30):
            leads = [lead(f"f{i}", float(x)) for i, x in enumerate(rng.uniform(0, 600, 4))]
            headers = [header(f"h{i}", float(x)) for i, x in enumerate(rng.uniform(0, 600, 5))]
            by_id = {h.id: h for h in headers}
            found = shared(leads, headers, [])
            way = sum(way_mm(x.plug, by_id[found[x.key].header]) or 0 for x in leads)
            best = min(
                sum(way_mm(x.plug, h) or 0 for x, h in zip(leads, order, strict=True)) for order in permutations(headers, len(leads))
            )
            with self.subTest(seed=seed):
                self.assertAlmostEqual(way, best)
                self.assertEqual(len({p.header for p in found.values()}), len(leads))

    def test_a_pump_goes_on_its_own_header_and_the_coolers_fan_beside_the_processor(self) -> None:
        cooler = replace(lead("cooler", 290.0), of_cooler=True)
        headers = [header("case", 10.0), header("processor", 300.0), header("pump", 310.0, pump=True)]
        found = shared([lead("f1"), cooler, pump()], headers, [])
        self.assertEqual({k[0]: p.header for k, p in found.items()}, {"f1": "case", "cooler": "processor", "pump": "pump"})
        self.assertEqual(shared([pump()], headers[:2], [])[("pump", "outer")].header, "case")  # where there is none for it
        second = shared([pump(), pump("pump:card")], headers, [])
        self.assertEqual(len({p.header for p in second.values()}), 2)

    def test_case_fans_take_the_processors_header_last(self) -> None:
        headers = [header("processor", 10.0), header("case 1", 300.0), header("case 2", 400.0)]
        self.assertEqual({p.header for p in shared([lead("f"), lead("g")], headers, [], "processor").values()}, {"case 1", "case 2"})
        self.assertEqual(len(shared([lead(x) for x in "fgh"], headers, [], "processor")), 3)

    def test_few_headers_take_splitters_for_what_is_driven_alike(self) -> None:
        leads = [*(lead(f"f{i}", drive="front") for i in range(3)), lead("r", drive="rear")]
        found = shared(leads, [header("a"), header("b")], [SPLITTER])
        self.assertEqual({found[x.key].via for x in leads[:3]}, {"three"})
        self.assertIsNone(found[leads[3].key].via)
        self.assertEqual(len({found[x.key].header for x in leads}), 2)
        self.assertEqual({p.via for p in shared(leads, [header(x) for x in "abcd"], [SPLITTER]).values()}, {None})

    def test_what_is_driven_unlike_never_shares_a_header(self) -> None:
        leads = [lead("a", drive="50 %"), lead("b", drive="70 %"), lead("c", drive="90 %")]
        found = shared(leads, [header("x")], [SPLITTER, HUB])
        self.assertEqual(len(found), 1)  # the others are left for the person, and said to be without a header

    def test_no_header_carries_too_much(self) -> None:
        heavy = [lead(f"f{i}", current=0.45) for i in range(4)]
        found = shared(heavy, [header("a"), header("b")], [SPLITTER])
        carried: dict[str, float] = {}
        for x in heavy:
            if x.key in found:
                carried[found[x.key].header] = carried.get(found[x.key].header, 0) + 0.45
        self.assertEqual(len(found), 3)
        self.assertLessEqual(max(carried.values()), 1.0)
        self.assertEqual(shared([lead("f", current=1.5)], [header("a")], []), {})
        self.assertEqual(len(shared(heavy, [header("a")], [HUB])), 4)  # a hub brings its own current

    def test_over_many_cases_nothing_is_overloaded_shared_unlike_or_taken_twice(self) -> None:
        rng = np.random.default_rng(3)
        for seed in range(200):
            leads = [lead(f"f{i}", float(rng.uniform(0, 500)), f"{rng.integers(1, 4)}", float(rng.uniform(0.1, 0.7))) for i in range(8)]
            headers = [header(f"h{i}", float(rng.uniform(0, 500)), float(rng.uniform(0.5, 2))) for i in range(rng.integers(1, 7))]
            found = shared(leads, headers, [SPLITTER, HUB][: rng.integers(0, 3)])
            there: dict[str, list[Lead]] = {}
            for x in leads:
                if x.key in found:
                    there.setdefault(found[x.key].header, []).append(x)
            with self.subTest(seed=seed):
                for name, own in there.items():
                    via = {found[x.key].via for x in own}
                    self.assertEqual((len(via), len({x.drive for x in own})), (1, 1))
                    self.assertTrue(len(own) == 1 or via != {None})
                    limit = 4.0 if via == {"hub"} else next(h.limit_a for h in headers if h.id == name)
                    self.assertLessEqual(sum(x.plug.current_a or 0 for x in own), limit or 0)
                if len(headers) >= 8:
                    self.assertEqual(len(found), 8)

    def test_a_lead_that_does_not_reach_is_lengthened(self) -> None:
        short = lead("f", lead_mm=300.0)
        found = shared([short], [header("a")], [])[short.key]
        need = (way_mm(short.plug, header("a")) or 0) - 300
        self.assertTrue(need <= found.extension_mm < need + EXTENSION_MM)
        self.assertEqual(shared([lead("g")], [header("a")], [])[("g", "outer")].extension_mm, 0)

    def test_a_plug_that_a_header_cannot_slow_goes_elsewhere(self) -> None:
        found = shared([lead("f", connector="3pin")], [header("near", 10.0, modes=("4pin",)), header("far", 400.0)], [])
        self.assertEqual(found[("f", "outer")].header, "far")
