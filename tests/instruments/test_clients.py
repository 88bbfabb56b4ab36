"""Clients of instruments against the stand-ins, over real sockets and a pseudo-terminal; the sender against a bench that fails."""

import json
import threading
import time
from http.server import BaseHTTPRequestHandler, ThreadingHTTPServer
from typing import Any

import numpy as np
from django.test import SimpleTestCase

from instruments.collect import collect, open_source
from instruments.livebench import PROBES, LiveStandIn, Pace, instruments_of, play
from instruments.meter import MeterClient, MeterReading, MeterStandIn, mean_level_dba, read_line
from instruments.scpi import Chamber, Device, InstrumentError, ScpiClient, fan_controller, logger, serve
from instruments.sender import BenchRefusedError, Sender
from instruments.standin import Fault
from tests.machines import machine


def served(case: SimpleTestCase, device: Device) -> str:
    """The address of a stand-in that is there as long as the test."""
    server, address = serve(device)
    case.addCleanup(server.server_close)
    case.addCleanup(server.shutdown)
    return address


class ScpiTest(SimpleTestCase):
    def connected(self, device: Any) -> ScpiClient:
        address = served(self, device)
        client = ScpiClient(address)
        self.addCleanup(client.close)
        return client

    def test_a_logger_is_scanned(self) -> None:
        client = self.connected(logger(["101", "102", "103"], lambda: [31.25, None, -4.5]))
        self.assertIn("stand-in logger", client.ask("*IDN?"))
        self.assertEqual(client.ask("*OPC?"), "1")
        self.assertEqual(client.readings(), {"101": 31.25, "102": None, "103": -4.5})

    def test_an_unknown_command_goes_into_the_error_queue(self) -> None:
        client = self.connected(logger(["1"], lambda: [1.0]))
        with self.assertRaises(InstrumentError) as caught:
            client.tell("SOUR:VOLT 5")
        self.assertIn("-113", caught.exception.what)
        self.assertTrue(client.ask("SYST:ERR?").startswith("0"), "the queue is empty again")

    def test_a_chamber_takes_a_set_point_within_its_range(self) -> None:
        client = self.connected(Chamber(23.0).device())
        client.tell("SOUR:TEMP 35")
        self.assertEqual(float(client.ask("SOUR:TEMP?")), 35)
        with self.assertRaises(InstrumentError):
            client.tell("SOUR:TEMP 400")
        values = [float(client.ask("MEAS:TEMP?")) for _ in range(40)]
        self.assertLess(max(abs(v - 35) for v in values[-8:]), 0.6)

    def test_a_fan_controller_keeps_its_least_duty(self) -> None:
        client = self.connected(fan_controller({1: 1500.0, 2: 1200.0}))
        client.tell("SOUR:FAN1:DUTY 50")
        self.assertEqual((client.ask("MEAS:FAN1:SPE?"), client.ask("MEAS:FAN2:SPE?")), ("750", "1200"))
        client.tell("SOUR:FAN1:DUTY 5")
        self.assertEqual(client.ask("SOUR:FAN1:DUTY?"), "20")

    def test_speeds_of_a_fan_controller(self) -> None:
        address = served(self, fan_controller({1: 1500.0, 2: 1200.0}))
        source = open_source("fans", address, {"1": "fan_f1_rpm", "2": "fan_r1_rpm"})
        self.assertEqual(source.read(), {"fan_f1_rpm": 1500.0, "fan_r1_rpm": 1200.0})
        source.close()
        for channels, said in (({}, "no fan is named"), ({"a": "fan_f1_rpm"}, "'a' is no number")):
            with self.assertRaises(InstrumentError) as caught:
                open_source("fans", address, channels)
            self.assertIn(said, caught.exception.what)

    def test_an_output_that_answers_no_speed_is_named(self) -> None:
        address = served(self, Device("fan controller", {"MEAS:FAN7:SPE?": lambda _text: "stalled"}))
        source = open_source("fans", address, {"7": "fan_f1_rpm"})
        with self.assertRaises(InstrumentError) as caught:
            source.read()
        self.assertIn("output 7 answers 'stalled'", caught.exception.what)
        source.close()

    def test_nobody_there(self) -> None:
        for address in ("127.0.0.1:1", "nowhere", "127.0.0.1:port"):
            with self.subTest(address), self.assertRaises(InstrumentError) as caught:
                ScpiClient(address)
            self.assertTrue(caught.exception.do)

    def test_a_channel_it_does_not_have_is_named(self) -> None:
        address = served(self, logger(["101"], lambda: [20.0]))
        source = open_source("logger", address, {"205": "air_front_c"})
        with self.assertRaises(InstrumentError) as caught:
            source.read()
        self.assertIn("205", caught.exception.what)
        source.close()


class MeterTest(SimpleTestCase):
    def test_lines(self) -> None:
        cases = {
            "LAF 34.2 dB": MeterReading(34.2, "A", "F"),
            "34,2": MeterReading(34.2),
            "LAS=33.8 dB(A)": MeterReading(33.8, "A", "S"),
            "C 61.0 dB": MeterReading(61.0, "C"),
            "<28.0": MeterReading(28.0, below_range=True),
            "calibrated 2026-01-01": None,
            "": None,
            "LAF 999 dB": None,
        }
        for line, wanted in cases.items():
            with self.subTest(line):
                self.assertEqual(read_line(line), wanted)

    def test_only_a_weighted_levels_in_range_count(self) -> None:
        mixed = [MeterReading(34.0, "A"), MeterReading(80.0, "C"), MeterReading(28.0, "A", below_range=True)]
        self.assertAlmostEqual(mean_level_dba(mixed) or 0, 34.0)
        self.assertIsNone(mean_level_dba(mixed[1:]))

    def test_levels_are_averaged_by_energy(self) -> None:
        """Two sources of 40 and 50 dB in turn: 47.4 dB (energy mean; Kinsler, Fundamentals of Acoustics)."""
        self.assertAlmostEqual(mean_level_dba([MeterReading(40.0), MeterReading(50.0)]) or 0, 47.404, places=3)

    def test_over_tcp_and_over_a_terminal(self) -> None:
        standin = MeterStandIn(lambda: 33.0, per_second=50)
        self.addCleanup(standin.stop.set)
        for address in (standin.serve(), standin.terminal()):
            client = MeterClient(address)
            got: list[MeterReading] = []
            until = time.monotonic() + 5
            while len(got) < 12 and time.monotonic() < until:
                got += client.take()
                time.sleep(0.05)
            client.close()
            with self.subTest(address):
                self.assertGreaterEqual(len(got), 12)
                self.assertAlmostEqual(float(np.mean([r.level_db for r in got])), 33.0, delta=1.0)

    def test_no_meter(self) -> None:
        for address in ("127.0.0.1:1", "/dev/no-such-port"):
            with self.subTest(address), self.assertRaises(InstrumentError):
                MeterClient(address)


class FakeBench(ThreadingHTTPServer):
    """Answers with the codes it is given, then with 200; remembers what it took."""

    def __init__(self, codes: list[int]) -> None:
        self.codes, self.taken, self.phase = codes, [], "rest"  # type: ignore[var-annotated]
        super().__init__(("127.0.0.1", 0), Handler)
        threading.Thread(target=self.serve_forever, daemon=True).start()

    @property
    def url(self) -> str:
        return f"http://127.0.0.1:{self.server_address[1]}/api/benches/1"


class Handler(BaseHTTPRequestHandler):
    server: FakeBench

    def do_POST(self) -> None:
        body = json.loads(self.rfile.read(int(self.headers["Content-Length"])))
        code = self.server.codes.pop(0) if self.server.codes else 200
        said: dict[str, Any] = {"faults": [{"what": "no"}]}
        if code == 200:
            self.server.taken.append(body)
            said = {"acknowledged": body["seq"], "phase": self.server.phase, "load": "both"}
        self.send_response(code)
        self.end_headers()
        self.wfile.write(json.dumps(said).encode())

    def log_message(self, *args: Any) -> None:
        pass


class SenderTest(SimpleTestCase):
    def bench(self, *codes: int) -> FakeBench:
        bench = FakeBench(list(codes))
        self.addCleanup(bench.server_close)
        self.addCleanup(bench.shutdown)
        return bench

    def test_a_post_is_sent_again_with_its_number_until_it_is_acknowledged(self) -> None:
        bench = self.bench(500, 503)
        sender = Sender(bench.url, "t")
        sender.add([0.0], {"cpu_package_c": [30.0]})
        sender.add([1.0], {"cpu_package_c": [None]})
        self.assertTrue(sender.flush(10))
        self.assertEqual([b["seq"] for b in bench.taken], [1, 2])
        self.assertEqual(sender.acknowledged, 2)
        self.assertEqual(len({b["session"] for b in bench.taken}), 1)

    def test_without_a_bench_it_waits_and_keeps(self) -> None:
        sender = Sender("http://127.0.0.1:1/api/benches/1", "t")
        sender.add([0.0], {})
        self.assertFalse(sender.flush())
        self.assertEqual(len(sender.waiting), 1)

    def test_a_refusal_is_not_repeated(self) -> None:
        for code in (401, 404, 422):
            bench = self.bench(code)
            sender = Sender(bench.url, "t")
            sender.add([0.0], {})
            with self.subTest(code), self.assertRaises(BenchRefusedError):
                sender.flush(5)
            self.assertEqual(bench.taken, [])

    def test_collected_readings_arrive(self) -> None:
        address = served(self, logger(["101", "102"], lambda: [25.0, None]))
        bench, stop = self.bench(), threading.Event()
        thread = threading.Thread(
            target=collect, args=("logger", address, {"101": "air_front_c"}, Sender(bench.url, "t"), 0.05, stop), daemon=True
        )
        thread.start()
        until = time.monotonic() + 5
        while len(bench.taken) < 3 and time.monotonic() < until:
            time.sleep(0.05)
        stop.set()
        thread.join(5)
        self.assertGreaterEqual(len(bench.taken), 3)
        self.assertEqual(bench.taken[0]["channels"], {"air_front_c": [25.0]})


class LiveStandInTest(SimpleTestCase):
    def test_the_same_seed_gives_the_same_day(self) -> None:
        def day() -> list[Any]:
            made = LiveStandIn(machine(), 5)
            first = made.advance(60)
            made.set_load("both")
            return [first, made.advance(120), made.advance(30)]

        self.assertEqual(day(), day())
        self.assertNotEqual(day(), [LiveStandIn(machine(), 6).advance(60)])

    def test_it_warms_under_load_and_cools_without(self) -> None:
        made = LiveStandIn(machine(), 5)
        rest = made.advance(60)[1]["cpu_package_c"][-1] or 0
        made.set_load("both")
        hot = made.advance(900)[1]["cpu_package_c"][-1] or 0
        made.set_load("idle")
        cool = made.advance(900)[1]["cpu_package_c"][-1] or 0
        self.assertGreater(hot, rest + 30)
        self.assertLess(cool, hot - 25)

    def test_times_go_on_without_a_break_when_the_load_changes(self) -> None:
        made = LiveStandIn(machine(), 5)
        times = made.advance(10)[0]
        made.set_load("cpu")
        times += made.advance(10)[0]
        self.assertEqual(times, [float(i) for i in range(20)])

    def test_a_fault_counts_from_the_load(self) -> None:
        mount = machine().fans[0].mount
        made = LiveStandIn(machine(), 5, faults=[Fault("tach_lost", 2.0, mount)])
        made.advance(300)
        made.set_load("both")
        speeds = made.advance(300)[1][f"fan_{mount}_rpm"]
        self.assertGreater(speeds[100] or 0, 500)
        self.assertEqual(speeds[130], 0.0)

    def test_the_load_follows_what_the_bench_answers(self) -> None:
        bench = FakeBench([])
        self.addCleanup(bench.server_close)
        self.addCleanup(bench.shutdown)
        bench.phase = "load"
        made, stop = LiveStandIn(machine(), 5), threading.Event()
        thread = threading.Thread(target=play, args=(made, Sender(bench.url, "t", 120), Pace(120.0), stop), daemon=True)
        thread.start()
        until = time.monotonic() + 20
        while made.now_s < 400 and time.monotonic() < until:
            time.sleep(0.1)
        bench.phase = "rest"
        time.sleep(1.0)
        stop.set()
        thread.join(10)
        self.assertEqual([s[1:] for s in made.steps][:3], [(0.0, 0.0), (1.0, 1.0), (0.0, 0.0)])

    def test_it_stands_still_while_it_is_paused_and_takes_another_time(self) -> None:
        bench = FakeBench([])
        self.addCleanup(bench.server_close)
        self.addCleanup(bench.shutdown)
        made, stop, pace = LiveStandIn(machine(), 5), threading.Event(), Pace(60.0, paused=True)
        thread = threading.Thread(target=play, args=(made, Sender(bench.url, "t", 60), pace, stop), daemon=True)
        thread.start()
        time.sleep(0.6)
        self.assertEqual(made.now_s, 0)
        pace.rate, pace.paused = 10.0, False
        until = time.monotonic() + 20
        while made.now_s < 20 and time.monotonic() < until:
            time.sleep(0.05)
        stop.set()
        thread.join(10)
        self.assertGreaterEqual(made.now_s, 20)
        self.assertEqual({b["rate"] for b in bench.taken}, {10.0})

    def test_instruments_beside_it_read_the_same_machine(self) -> None:
        made = LiveStandIn(machine(), 5)
        made.advance(60)
        beside = instruments_of(made)
        self.addCleanup(beside.stop)
        client = ScpiClient(beside.logger)
        found = client.readings()
        client.close()
        self.assertEqual(list(found), list(PROBES))
        self.assertAlmostEqual(found["101"] or 0, made.present("air_rear_c") or 0, delta=1.0)
        self.assertIsNone(found["105"], "a tower has no coolant: an open thermocouple")
