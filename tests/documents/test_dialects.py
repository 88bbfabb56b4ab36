"""The same run written by many imaginary loggers reads back as the same run."""

from collections.abc import Callable
from datetime import UTC, datetime, timedelta
from itertools import product

import numpy as np
from django.test import SimpleTestCase

from documents.runlog.reader import read_log
from engine.runs.series import Floats

N = 90
RNG = np.random.default_rng(6)
CPU: Floats = np.round(21 + 40 * (1 - np.exp(-np.arange(N) / 30)) + RNG.normal(0, 0.2, N), 1)
ROOM: Floats = np.full(N, 21.4)
START = datetime(2026, 11, 24, 9, 58, 30, tzinfo=UTC)

TIMES: dict[str, tuple[str, Callable[[int], str]]] = {
    "seconds": ("elapsed_s", lambda i: str(2 * i)),
    "seconds with a point": ("Elapsed (s)", lambda i: f"{2 * i:.1f}"),
    "clock": ("Elapsed", lambda i: f"{2 * i // 60:02d}:{2 * i % 60:02d}"),
    "long clock": ("Time", lambda i: f"00:{2 * i // 60:02d}:{2 * i % 60:02d}"),
    "ISO": ("time", lambda i: _at(i).strftime("%Y-%m-%dT%H:%M:%SZ")),
    "ISO with a blank": ("Timestamp", lambda i: _at(i).strftime("%Y-%m-%d %H:%M:%S")),
    "dots, day first": ("Datum", lambda i: _at(i).strftime("%d.%m.%Y %H:%M:%S")),
    "slashes, month first": ("Date", lambda i: _at(i).strftime("%m/%d/%Y %I:%M:%S %p")),
    "slashes, day first": ("Date", lambda i: _at(i).strftime("%d/%m/%Y %H:%M:%S")),
}


def _at(i: int) -> datetime:
    return START + timedelta(seconds=2 * i)


def written(time: str, delimiter: str, decimal: str, encoding: str, newline: str = "\n", above: tuple[str, ...] = ()) -> bytes:
    heading, stamp = TIMES[time]
    rows = [*above, delimiter.join([heading, "CPU package [°C]", "Room [°C]"])]
    for i in range(N):
        rows.append(delimiter.join([stamp(i), *(f"{v:.1f}".replace(".", decimal) for v in (CPU[i], ROOM[i]))]))
    return newline.join(rows).encode(encoding)


class DialectsTest(SimpleTestCase):
    def assert_same(self, data: bytes) -> None:
        log = read_log(data).log
        self.assertEqual(len(log.elapsed_s), N)
        np.testing.assert_allclose(log.elapsed_s, 2.0 * np.arange(N), atol=1e-6)
        np.testing.assert_allclose(log.channels["cpu_package_c"], CPU, atol=1e-9)
        np.testing.assert_allclose(log.channels["room_c"], ROOM, atol=1e-9)

    def test_every_time_in_every_table(self) -> None:
        tables = ((",", "."), (";", ","), (";", "."), ("\t", "."), ("\t", ","), ("|", "."))
        for time, (delimiter, decimal), encoding in product(TIMES, tables, ("utf-8", "utf-8-sig", "utf-16", "cp1252")):
            with self.subTest(time=time, delimiter=delimiter, decimal=decimal, encoding=encoding):
                self.assert_same(written(time, delimiter, decimal, encoding))

    def test_line_ends_and_junk_above(self) -> None:
        junk = ("Logger report", "made by nobody;;", "channels;2;")
        for newline, above in product(("\n", "\r\n"), ((), junk)):
            with self.subTest(newline=repr(newline), junk=bool(above)):
                self.assert_same(written("seconds", ";", ",", "utf-8", newline, above))

    def test_fahrenheit_in_headings_and_in_a_unit_line(self) -> None:
        fahrenheit = CPU * 1.8 + 32
        for heading in ("time,CPU (°F),Room (°F)", "time,cpu_package_f,room_f", "time,CPU,Room\ns,deg F,deg F"):
            rows = [f"{2 * i},{fahrenheit[i]:.4f},{ROOM[i] * 1.8 + 32:.4f}" for i in range(N)]
            with self.subTest(heading=heading):
                log = read_log("\n".join([heading, *rows]).encode()).log
                np.testing.assert_allclose(log.channels["cpu_package_c"], CPU, atol=1e-3)
                np.testing.assert_allclose(log.channels["room_c"], ROOM, atol=1e-3)

    def test_quoted_cells_with_the_delimiter_in_them(self) -> None:
        rows = [f'{2 * i},"{CPU[i]:.1f}",{ROOM[i]:.1f}' for i in range(N)]
        self.assert_same("\n".join(['elapsed_s,"CPU, package (C)",Room (C)', *rows]).encode())

    def test_a_header_that_comes_again_and_changes_nothing(self) -> None:
        lines = written("seconds", ",", ".", "utf-8").decode().splitlines()
        self.assert_same("\n".join([*lines[:40], lines[0], *lines[40:]]).encode())

    def test_gaps_in_cells_written_in_many_ways(self) -> None:
        lines = written("seconds", ",", ".", "utf-8").decode().splitlines()
        for k, gap in enumerate(("", "-", "N/A", "nan", "NULL", "--")):
            cells = lines[10 + k].split(",")
            lines[10 + k] = ",".join([cells[0], gap, cells[2]])
        log = read_log("\n".join(lines).encode()).log
        self.assertEqual(int(np.isnan(log.channels["cpu_package_c"]).sum()), 6)
        self.assertEqual(len(log.elapsed_s), N)

    def test_an_hour_that_comes_twice_and_midnight(self) -> None:
        back = [f"25.10.2026 02:{(59 * 60 + 2 * i) // 60 % 60:02d}:{2 * i % 60:02d}" for i in range(N)]
        rows = [f"{t};{v:.1f};21.4" for t, v in zip(back, CPU, strict=True)]
        found = read_log("\n".join(["Zeit;CPU [°C];Raum [°C]", *rows]).encode())
        np.testing.assert_allclose(found.log.elapsed_s, 2.0 * np.arange(N), atol=1e-6)
        self.assertIn("set back", " ".join(found.notes))
        late = datetime(2026, 11, 24, 23, 59, 0, tzinfo=UTC)
        rows = [f"{(late + timedelta(seconds=2 * i)):%Y-%m-%d %H:%M:%S},{CPU[i]:.1f},21.4" for i in range(N)]
        self.assertEqual(read_log("\n".join(["time,CPU (C),Room (C)", *rows]).encode()).log.duration_s, 2 * (N - 1))

    def test_many_columns(self) -> None:
        names = ",".join(f"probe {i} (C)" for i in range(400))
        rows = [",".join([str(2 * i), f"{CPU[i]:.1f}", f"{ROOM[i]:.1f}", *["22.0"] * 400]) for i in range(N)]
        log = read_log("\n".join([f"elapsed_s,CPU (C),Room (C),{names}", *rows]).encode()).log
        self.assertIn("air_399_c", log.channels)
        np.testing.assert_allclose(log.channels["cpu_package_c"], CPU, atol=1e-9)
