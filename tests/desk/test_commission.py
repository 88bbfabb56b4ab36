"""Units held against the reference: good ones pass, planted faults are named, what is told agrees with what was read."""

import io
import json
from contextlib import redirect_stdout
from dataclasses import replace
from datetime import UTC, datetime
from pathlib import Path
from tempfile import TemporaryDirectory
from typing import ClassVar

import numpy as np
from django.test import SimpleTestCase
from pypdf import PdfReader
from scipy.stats import multivariate_normal

from cli.__main__ import main
from desk.care import certificate
from desk.care.batch import LEAST_UNITS, batch_of
from desk.care.commission import CommissioningDoc, Reference, commission, reference_of
from desk.forecast.document import Oracle, Question
from desk.words.faults import CAUSES, LOOKS
from documents.errors import DocumentError
from documents.job.reader import check_job
from documents.package.document import Package, PackedRun, write_package
from documents.runlog.writer import write_log
from engine.coupled.operating_point import loaded
from engine.coupled.transient import run
from engine.learn.faults import CAUSES as ALL
from engine.learn.faults import Pattern, Signatures, diagnose, faults_of, signatures
from engine.learn.units import from_load, read_at
from engine.machine import Machine
from engine.parameters import COUNT, DEFAULT
from engine.runs.series import RunLog
from instruments.standin import read_off
from tests.machines import demo_raw, machine

MINUTES = 12.0
LAYOUT = "A"


def log(m: Machine, seed: int, minutes: float = MINUTES, stopped: tuple[str, ...] = ()) -> RunLog:
    """A run of the stand-in's instruments on this very machine."""
    rows = run(m, minutes, 6.0)
    found = read_off(m, rows, 6.0, np.random.default_rng(seed))
    channels = {c: np.zeros_like(v) if c in stopped else v for c, v in found.channels.items()}
    return RunLog(found.elapsed_s, channels)


def with_fan(m: Machine, mount: str, **changes: object) -> Machine:
    fans = tuple(replace(f, **changes) if f.mount == mount else f for f in m.fans)  # type: ignore[arg-type]  # fields of its own
    return replace(m, fans=fans)


class CommissionCase(SimpleTestCase):
    plain: ClassVar[Machine]
    reference: ClassVar[Reference]

    @classmethod
    def setUpClass(cls) -> None:
        super().setUpClass()
        cls.plain = loaded(machine(layout_id=LAYOUT), "both")
        logs = {f"run {n}": log(cls.plain, n, 30.0) for n in range(3)}
        cls.reference = reference_of(check_job(demo_raw()).doc, LAYOUT, {"both": logs}, None)

    def told(self, m: Machine, seed: int = 50, stopped: tuple[str, ...] = ()) -> CommissioningDoc:
        return commission(self.reference, log(m, seed, stopped=stopped))


class BatchMatesTest(SimpleTestCase):
    """A reference of two temperatures alone: what it lacks is said, and once three units passed they stand for it."""

    reference: ClassVar[Reference]
    plain: ClassVar[Machine]

    @classmethod
    def setUpClass(cls) -> None:
        super().setUpClass()
        doc = check_job(demo_raw()).doc
        cls.plain = loaded(machine(layout_id=LAYOUT), "both")
        few = ("cpu_package_c", "card_core_c", "cpu_power_w", "card_power_w", "room_c")
        logs = {}
        for n in (1, 2):
            whole = log(cls.plain, n)
            logs[f"A {n}"] = RunLog(whole.elapsed_s, {c: whole.channels[c] for c in few})
        cls.reference = reference_of(doc, LAYOUT, {"both": logs}, None)

    def test_what_the_reference_lacks_is_said_and_kept(self) -> None:
        found = commission(self.reference, log(self.plain, 20))
        self.assertNotIn("air_rear_c", {c.name for c in found.channels})
        self.assertIn("air_rear_c", found.beyond)
        self.assertTrue(any(n.startswith("not compared") and "air_rear_c" in n for n in found.notes))

    def test_units_that_passed_stand_for_it_and_name_what_temperatures_alone_do_not(self) -> None:
        good = [commission(self.reference, log(self.plain, 30 + n)) for n in range(4)]
        self.assertEqual({d.verdict for d in good}, {"pass"})
        unit = log(with_fan(self.plain, "r1", direction="intake"), 40)
        alone, told = commission(self.reference, unit), commission(self.reference, unit, good)
        first = [d.chance_pct for x in (alone, told) for d in x.diagnosis if (d.cause, d.mount) == ("fan_reversed", "r1")]
        self.assertEqual((told.diagnosis[0].cause, told.diagnosis[0].mount), ("fan_reversed", "r1"))
        self.assertGreater(first[-1], 90)
        self.assertTrue(any(n.startswith("held against 4 units") for n in told.notes))
        again = commission(self.reference, log(self.plain, 50), good)
        self.assertEqual(again.verdict, "pass")

    def test_two_are_too_few_one_that_did_not_pass_and_one_of_another_length_do_not_count(self) -> None:
        good = commission(self.reference, log(self.plain, 60))
        longer, looked = good.model_copy(update={"minutes": good.minutes + 5}), good.model_copy(update={"verdict": "look"})
        for batch in ([good, good], [good, good, longer], [good, good, looked]):
            found = commission(self.reference, log(self.plain, 61), batch)
            self.assertNotIn("air_rear_c", {c.name for c in found.channels})
        self.assertIn("air_rear_c", {c.name for c in commission(self.reference, log(self.plain, 61), [good] * 3).channels})


class UnitTest(CommissionCase):
    def test_good_units_pass_and_nothing_is_likely_wrong(self) -> None:
        for seed in range(60, 72):
            doc = self.told(self.plain, seed)
            self.assertEqual((doc.verdict, doc.passed), ("pass", True), seed)
            self.assertEqual(doc.diagnosis[0].cause, "none")
            self.assertTrue(all(c.word == "within" for c in doc.channels))

    def test_planted_faults_are_named_first_with_their_place(self) -> None:
        m = self.plain
        cpu = m.cpu
        planted = {
            ("fan_reversed", "r1"): (with_fan(m, "r1", direction="intake"), ()),
            ("fan_unplugged", "f2"): (with_fan(m, "f2", running=False), ("fan_f2_rpm",)),
            ("fan_slow", "f3"): (with_fan(m, "f3", speed_pct=40.0), ()),
            ("paste", None): (replace(m, cpu=replace(cpu, r_jc_k_per_w=1.6 * cpu.r_jc_k_per_w)), ()),
            ("panel", "window"): (replace(m, panels={**m.panels, "window": replace(m.panels["window"], removed=True)}), ()),
        }
        for (cause, mount), (other, stopped) in planted.items():
            doc = self.told(other, 51, stopped)
            first = doc.diagnosis[0]
            with self.subTest(cause=cause):
                self.assertEqual((first.cause, first.mount), (cause, mount))
                self.assertEqual(doc.verdict, "fail")
                self.assertGreater(first.chance_pct, 60)
                self.assertIn((mount or "").upper() if cause.startswith("fan") else "", first.look)

    def test_a_room_probe_in_the_exhaust_makes_everything_seem_cool(self) -> None:
        own = log(self.plain, 52)
        channels = dict(own.channels)
        channels["room_c"] = channels["room_c"] + 0.8 * (channels["air_rear_c"] - channels["room_c"])
        doc = commission(self.reference, RunLog(own.elapsed_s, channels))
        self.assertEqual(doc.diagnosis[0].cause, "room_probe")

    def test_differences_are_those_of_the_logs_at_the_same_minute(self) -> None:
        own = log(self.plain, 53)
        doc = commission(self.reference, own)
        refs = [read_at(x, MINUTES) for x in self.reference.logs.values()]
        for c in doc.channels:
            if c.name in ("cpu_package_c", "card_core_c") or c.difference_k is None:
                continue  # put to the reference's power
            by_hand = read_at(own, MINUTES)[c.name] - float(np.mean([r[c.name] for r in refs]))
            self.assertAlmostEqual(c.difference_k, by_hand, delta=0.3 if c.unit != "rpm" else 8, msg=c.name)

    def test_the_forecast_of_that_minute_stands_beside(self) -> None:
        doc = self.told(self.plain, 59)
        cpu = next(c for c in doc.channels if c.name == "cpu_package_c")
        own = read_at(log(self.plain, 59), MINUTES)["cpu_package_c"]
        then = run(self.plain, MINUTES, 20.0)[-1]
        self.assertAlmostEqual(cpu.from_forecast_k or 0.0, own - then.cpu_k, delta=0.3)
        told = Oracle(self.reference.doc, Question(layouts=[LAYOUT])).forecast(LAYOUT)
        self.assertAlmostEqual(cpu.forecast_band_k or 0.0, told.cpu.band_k)

    def test_chances_add_up_and_each_tells_where_to_look(self) -> None:
        doc = self.told(with_fan(self.plain, "r1", direction="intake"), 54)
        self.assertLessEqual(sum(d.chance_pct for d in doc.diagnosis), 100.001)
        self.assertGreater(sum(d.chance_pct for d in doc.diagnosis), 90)
        self.assertTrue(all(d.words and d.look for d in doc.diagnosis))
        self.assertEqual(set(CAUSES), {*ALL, "none"})
        self.assertEqual(set(LOOKS), set(CAUSES))

    def test_fans_that_the_reference_did_not_read_are_held_against_what_is_asked(self) -> None:
        bare = {
            n: RunLog(x.elapsed_s, {c: v for c, v in x.channels.items() if not c.startswith("fan_")})
            for n, x in self.reference.logs.items()
        }
        reference = replace(self.reference, logs=bare)
        doc = commission(reference, log(with_fan(self.plain, "f2", running=False), 55, stopped=("fan_f2_rpm",)))
        self.assertEqual((doc.diagnosis[0].cause, doc.diagnosis[0].mount), ("fan_unplugged", "f2"))
        self.assertTrue(any("what the layout asks" in n for n in doc.notes))
        self.assertEqual(commission(reference, log(self.plain, 56)).verdict, "pass")

    def test_a_load_that_comes_on_later_is_where_the_clock_starts(self) -> None:
        own = log(self.plain, 57)
        idle = 30
        t = np.concatenate([np.arange(idle) * 6.0, idle * 6.0 + own.elapsed_s])
        channels = {
            c: np.concatenate([np.full(idle, v[0] if c == "room_c" else 0.05 * v[-1] if c.endswith("_w") else v[0]), v])
            for c, v in own.channels.items()
        }
        late = RunLog(t, channels)
        self.assertAlmostEqual(from_load(late).duration_s, own.duration_s, delta=12)
        self.assertEqual(commission(self.reference, late).verdict, "pass")

    def test_what_says_too_little_is_refused_with_what_to_do(self) -> None:
        own = log(self.plain, 58)
        bare = RunLog(own.elapsed_s, {c: v for c, v in own.channels.items() if c != "room_c"})
        short = RunLog(own.elapsed_s[:10], {c: v[:10] for c, v in own.channels.items()})
        no_heat = RunLog(own.elapsed_s, {c: v for c, v in own.channels.items() if not c.endswith("_c") or c == "room_c"})
        for bad in (bare, short, no_heat):
            with self.assertRaises(DocumentError) as caught:
                commission(self.reference, bad)
            self.assertTrue(caught.exception.faults[0].do)
        with self.assertRaises(DocumentError):
            reference_of(self.reference.doc, LAYOUT, {}, None)

    def test_two_that_look_alike_get_a_short_run_or_a_look_that_tells(self) -> None:
        told = [self.told(with_fan(self.plain, "f2", direction="exhaust"), s) for s in range(80, 84)]
        for doc in told:
            wrong = [d for d in doc.diagnosis if d.cause != "none"]
            if doc.verdict != "pass" and len(wrong) > 1 and wrong[0].chance_pct < 3 * wrong[1].chance_pct:
                self.assertTrue(doc.tell)


class PatternTest(SimpleTestCase):
    def test_chances_are_those_of_the_normal_density(self) -> None:
        """Against SciPy's multivariate normal, one fault and none, by Bayes' rule."""
        found = Signatures({"cpu_package_c": 50.0, "card_core_c": 40.0}, (Pattern("paste", None, 1.5, {"cpu_package_c": 6.0}),))
        covariance = np.array([[1.0, 0.2], [0.2, 1.5]])
        y = {"cpu_package_c": 4.0, "card_core_c": 0.5}
        told = {c.cause: c.chance for c in diagnose(y, covariance, found, 0.1)}
        d = np.array([6.0, 0.0])
        own = np.diag([0.25**2 + (0.15 * 6) ** 2, 0.25**2]) + np.outer(0.25 * d, 0.25 * d)
        with_it = 0.1 * multivariate_normal(d, covariance + own).pdf([4.0, 0.5])
        without = 0.9 * multivariate_normal([0, 0], covariance).pdf([4.0, 0.5])
        self.assertAlmostEqual(told["paste"], with_it / (with_it + without), places=9)

    def test_every_fault_moves_what_it_must(self) -> None:
        m = loaded(machine(layout_id="D"), "both")
        found = signatures(m, DEFAULT, np.zeros(COUNT), 12.0)
        by = {(p.cause, p.mount, p.severity): p.change for p in found.patterns}
        self.assertTrue(all(c["fan_r1_rpm"] == -1 for (cause, mount, _), c in by.items() if (cause, mount) == ("fan_unplugged", "r1")))
        self.assertTrue(all(c["cpu_package_c"] > 0 for (cause, _, _), c in by.items() if cause in ("paste", "pump_slow")))
        self.assertTrue(all(abs(c["card_core_c"]) < 0.5 for (cause, _, s), c in by.items() if cause == "paste" and s <= 2))
        probe = next(c for (cause, _, s), c in by.items() if (cause, s) == ("room_probe", 1.0))
        self.assertAlmostEqual(probe["cpu_package_c"], probe["card_core_c"])
        self.assertLess(probe["cpu_package_c"], -1)
        causes = {f.cause for f in faults_of(m, DEFAULT)}
        self.assertIn("pump_slow", causes)
        self.assertNotIn("pump_slow", {f.cause for f in faults_of(machine(layout_id="A"), DEFAULT)})


class BatchTest(CommissionCase):
    def test_a_batch_charts_its_units_and_tells_what_fell_out(self) -> None:
        told = [(f"U{n}", self.told(self.plain, 100 + n)) for n in range(LEAST_UNITS + 1)]
        told.append(("bad", self.told(replace(self.plain, cpu=replace(self.plain.cpu, r_jc_k_per_w=2 * self.plain.cpu.r_jc_k_per_w)), 120)))
        found = batch_of(told)
        self.assertEqual((found.units, found.passed, found.failed), (LEAST_UNITS + 2, LEAST_UNITS + 1, 1))
        chart = next(c for c in found.charts if c.channel == "cpu_package_c")
        good = [p.difference for p in chart.points if p.serial != "bad"]
        self.assertAlmostEqual(chart.centre or 0.0, float(np.mean(good)))
        self.assertAlmostEqual(chart.sigma or 0.0, float(np.mean(np.abs(np.diff(good))) / 1.128))
        self.assertTrue(next(p for p in chart.points if p.serial == "bad").outside)
        self.assertIsNone(batch_of(told[:3]).charts[0].sigma)

    def test_twelve_units_with_four_faults_are_certified(self) -> None:
        m = self.plain
        faulty = {
            2: ("fan_unplugged", with_fan(m, "r1", running=False), ("fan_r1_rpm",)),
            5: ("paste", replace(m, cpu=replace(m.cpu, r_jc_k_per_w=1.7 * m.cpu.r_jc_k_per_w)), ()),
            8: ("fan_reversed", with_fan(m, "r1", direction="intake"), ()),
            10: ("fan_slow", with_fan(m, "f2", speed_pct=35.0), ()),
        }
        told: list[tuple[str, CommissioningDoc]] = []
        for n in range(12):
            _, other, stopped = faulty.get(n, ("none", m, ()))
            told.append((f"SN-{n:02d}", commission(self.reference, log(other, 200 + n, stopped=stopped), [d for _, d in told])))
        for n, (serial, doc) in enumerate(told):
            cause = faulty[n][0] if n in faulty else "none"
            self.assertEqual((doc.diagnosis[0].cause, doc.verdict), (cause, "fail" if n in faulty else "pass"), serial)
        found = batch_of(told)
        self.assertEqual((found.passed, found.failed), (8, 4))
        when = datetime(2026, 5, 1, tzinfo=UTC)
        self.assertIn("did not pass", certificate.html(self.reference.doc, told[5][0], when, "", told[5][1]))

    def test_units_that_passed_narrow_what_is_allowed(self) -> None:
        own = log(self.plain, 130)
        first = commission(self.reference, own)
        later = commission(self.reference, own, [commission(self.reference, log(self.plain, 140 + n)) for n in range(8)])
        a, b = (next(c.allowed_k for c in d.channels if c.name == "cpu_package_c") for d in (first, later))
        self.assertLess(b, a)

    def test_the_certificate_holds_the_figures_of_the_analysis(self) -> None:
        doc = self.told(self.plain, 131)
        when = datetime(2026, 5, 1, 9, 30, tzinfo=UTC)
        pages = PdfReader(io.BytesIO(certificate.pdf(self.reference.doc, "SN-0042", when, "R. Tolley", doc, "Decided."))).pages
        words = " ".join(" ".join(p.extract_text() for p in pages).split())
        for part in ("SN-0042", "passed", "R. Tolley", "01 May 2026", "Decided.", "1.5 K"):
            self.assertIn(part, words)
        for c in doc.channels:
            if c.difference_k is not None:
                self.assertIn(f"{c.difference_k:+.1f}".replace("-", "−"), words)
        page = certificate.html(self.reference.doc, "<script>x</script>", when, "<b>", doc)
        self.assertNotIn("<script>", page)
        self.assertNotIn("<b>", page)

    def test_the_command_tells_a_unit_of_a_package(self) -> None:
        runs = [
            PackedRun({"name": n, "layout": LAYOUT, "state": "valid", "load": "both", "made_at": f"2026-03-01T{8 + i:02d}:00:00Z"}, x)
            for i, (n, x) in enumerate(self.reference.logs.items())
        ]
        with TemporaryDirectory() as folder:
            package, unit = Path(folder) / "ref.zip", Path(folder) / "unit.csv"
            package.write_bytes(write_package(Package(demo_raw(), runs, [])))
            unit.write_text(write_log(log(with_fan(self.plain, "f2", running=False), 132, stopped=("fan_f2_rpm",))), encoding="utf-8")
            out = io.StringIO()
            with redirect_stdout(out):
                code = main(["commission", str(package), str(unit), "--layout", LAYOUT, "--json"])
            self.assertEqual(code, 0)
            told = json.loads(out.getvalue())
            self.assertEqual((told["format"], told["version"], told["passed"]), ("oventa-commissioning", 1, False))
            self.assertEqual((told["diagnosis"][0]["cause"], told["diagnosis"][0]["mount"]), ("fan_unplugged", "f2"))
            self.assertGreater(told["learned"], 0)
            for c in told["channels"]:
                self.assertIn(c["word"], ("within", "outside", "cannot_tell"))
            self.assertEqual(main(["commission", str(package), str(unit), "--layout", "B"]), 2)
            self.assertEqual(main(["commission", str(unit), str(unit), "--layout", LAYOUT]), 2)
