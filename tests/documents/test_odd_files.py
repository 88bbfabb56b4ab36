"""Files as people really have them: each goes in with the truth, or is refused with a remedy; never half, never guessed."""

from collections.abc import Callable
from datetime import UTC, datetime, timedelta

import numpy as np
from django.test import SimpleTestCase

from documents.runlog.reader import read_log
from engine.errors import UnreadableLogError
from engine.runs.series import Floats

N = 80
CPU: Floats = np.round(22 + 45 * (1 - np.exp(-np.arange(N) / 25)), 1)
ROOM: Floats = np.round(21 + 0.005 * np.arange(N), 1)
START = datetime(2026, 3, 4, 23, 58, 50, tzinfo=UTC)


def rows(make: Callable[[int], str]) -> list[str]:
    return [make(i) for i in range(N)]


def cells(i: int, point: str = ".") -> list[str]:
    return [f"{CPU[i]:.1f}".replace(".", point), f"{ROOM[i]:.1f}".replace(".", point)]


def line(i: int, time: str | None = None) -> str:
    """A row with commas between."""
    return ",".join([str(i) if time is None else time, *cells(i)])


def spring(i: int) -> str:
    """Twenty to two in the night in which two o'clock is left out."""
    return f"2026-03-29 01:59:{20 + i:02d}" if i < 40 else f"2026-03-29 03:00:{i - 40:02d}"


def at(i: int, seconds: float = 1.0) -> datetime:
    return START + timedelta(seconds=i * seconds)


def text(heading: str, make: Callable[[int], str], encoding: str = "utf-8", newline: str = "\n") -> bytes:
    return newline.join([heading, *rows(make)]).encode(encoding)


# name: (bytes, seconds between rows); every one reads as CPU and ROOM, row by row.
GOOD: dict[str, tuple[bytes, float]] = {
    "utf-8 with a mark at its start": (text("elapsed_s,CPU (C),Room (C)", line, "utf-8-sig"), 1),
    "utf-16 with a mark": (text("elapsed_s\tCPU (C)\tRoom (C)", lambda i: "\t".join([str(i), *cells(i)]), "utf-16"), 1),
    "utf-16 without a mark": (text("elapsed_s;CPU (C);Room (C)", lambda i: ";".join([str(i), *cells(i)]), "utf-16-le"), 1),
    "utf-32": (text("elapsed_s;CPU (C);Room (C)", lambda i: ";".join([str(i), *cells(i)]), "utf-32"), 1),
    "a degree sign of another encoding": (
        text("Zeit;CPU [°C];Raum [°C]", lambda i: ";".join([f"{at(i):%d.%m.%Y %H:%M:%S}", *cells(i, ",")]), "cp1252"),
        1,
    ),
    "a bar between": (text("elapsed_s|CPU (C)|Room (C)", lambda i: "|".join([str(i), *cells(i)])), 1),
    "blanks between": (text("elapsed_s  CPU_C  room_c", lambda i: "   ".join([str(i), *cells(i)])), 1),
    "blanks around commas": (text("elapsed_s , CPU (C) , Room (C)", lambda i: " , ".join([str(i), *cells(i)])), 1),
    "a delimiter at the end of each line": (text("elapsed_s;CPU (C);Room (C);", lambda i: ";".join([str(i), *cells(i), ""])), 1),
    "quotes about everything": (text('"elapsed_s","CPU (C)","Room (C)"', lambda i: f'"{i}","{CPU[i]:.1f}","{ROOM[i]:.1f}"'), 1),
    "decimal commas in quotes, commas between": (
        text("elapsed_s,CPU (C),Room (C)", lambda i: f'{i},"{cells(i, ",")[0]}","{cells(i, ",")[1]}"'),
        1,
    ),
    "a hint for spreadsheets on top": (text("sep=;\nelapsed_s;CPU (C);Room (C)", lambda i: ";".join([str(i), *cells(i, ",")])), 1),
    "a comment sign before the heading": (
        text("# made by a logger\n# elapsed_s,CPU (C),Room (C)", line),
        1,
    ),
    "a page of words on top": (
        text("Logger report\nOperator: nobody\n\nChannels: 2\nelapsed_s,CPU (C),Room (C)", line),
        1,
    ),
    "units in a line of their own": (text("Time,CPU,Room\ns,°C,°C", line), 1),
    "units behind every reading": (text("elapsed_s;CPU;Room", lambda i: f"{i};{CPU[i]:.1f} °C;{ROOM[i]:.1f} °C"), 1),
    "kelvin": (text("elapsed_s,CPU (K),Room (K)", lambda i: f"{i},{CPU[i] + 273.15:.2f},{ROOM[i] + 273.15:.2f}"), 1),
    "Fahrenheit behind every reading": (
        text("elapsed_s,CPU,Room", lambda i: f"{i},{CPU[i] * 1.8 + 32:.3f} F,{ROOM[i] * 1.8 + 32:.3f} F"),
        1,
    ),
    "Windows line ends": (text("elapsed_s,CPU (C),Room (C)", line, newline="\r\n"), 1),
    "old line ends": (text("elapsed_s,CPU (C),Room (C)", line, newline="\r"), 1),
    "empty lines between": (text("elapsed_s,CPU (C),Room (C)", lambda i: f"{i},{','.join(cells(i))}\n"), 1),
    "the heading again every twenty rows": (
        text("elapsed_s,CPU (C),Room (C)", lambda i: ("elapsed_s,CPU (C),Room (C)\n" if i % 20 == 10 else "") + line(i)),
        1,
    ),
    "remarks of the logger between": (
        text("elapsed_s,CPU (C),Room (C)", lambda i: ("sensor reset,,\n" if i == 30 else "") + line(i)),
        1,
    ),
    "a footer": (text("elapsed_s,CPU (C),Room (C)", lambda i: line(i) + ("\nend of log" if i == N - 1 else "")), 1),
    "a row that was cut short": (
        text("elapsed_s,CPU (C),Room (C)", lambda i: line(i) + ("\n80,6" if i == N - 1 else "")),
        1,
    ),
    "minutes": (text("time (min),CPU (C),Room (C)", lambda i: f"{i / 60:.6f},{','.join(cells(i))}"), 1),
    "milliseconds": (text("elapsed_ms,CPU (C),Room (C)", lambda i: f"{i * 500},{','.join(cells(i))}"), 0.5),
    "milliseconds since 1970": (
        text("timestamp,CPU (C),Room (C)", lambda i: f"{int(START.timestamp() * 1000) + 1000 * i},{','.join(cells(i))}"),
        1,
    ),
    "days as a spreadsheet counts them": (text("Date,CPU (C),Room (C)", lambda i: f"{46085.5 + i / 86400:.9f},{','.join(cells(i))}"), 1),
    "date and time in two columns": (
        text("Date,Time,CPU (C),Room (C)", lambda i: line(i, f"{at(i):%Y-%m-%d},{at(i):%H:%M:%S}")),
        1,
    ),
    "midnight, by a clock without dates": (text("Time,CPU (C),Room (C)", lambda i: line(i, f"{at(i):%H:%M:%S}")), 1),
    "noon by a clock of twelve hours": (
        text("Time,CPU (C),Room (C)", lambda i: line(i, f"{at(i) + timedelta(hours=12):%I:%M:%S %p}")),
        1,
    ),
    "day and month that could be either, over midnight": (
        text("Date,CPU (C),Room (C)", lambda i: line(i, f"{at(i):%m/%d/%Y %H:%M:%S}")),
        1,
    ),
    "two-digit years": (text("Datum;CPU [C];Raum [C]", lambda i: ";".join([f"{at(i):%d.%m.%y %H:%M:%S}", *cells(i, ",")])), 1),
    "fractions of a second behind a comma": (
        text("Datum;CPU [C];Raum [C]", lambda i: ";".join([f"{at(i, 0.25):%d.%m.%Y %H:%M:%S},{(25 * i) % 100:02d}", *cells(i, ",")])),
        0.25,
    ),
    "the hour that is left out in spring": (
        text(
            "time,CPU (C),Room (C)",
            lambda i: (
                f"2026-03-29 0{1 if i < 40 else 3}:{(59 if i < 40 else 0):02d}:{(20 + i if i < 40 else i - 40):02d},{','.join(cells(i))}"
            ),
        ),
        1,
    ),
    "rows out of order": (text("elapsed_s,CPU (C),Room (C)", lambda i: f"{i ^ 1},{','.join(cells(i ^ 1))}"), 1),
    "names of months": (text("time;CPU (C);Room (C)", lambda i: ";".join([f"{at(i):%d %B %Y %H:%M:%S}", *cells(i)])), 1),
    "a zone behind the time": (text("time,CPU (C),Room (C)", lambda i: line(i, f"{at(i):%Y-%m-%dT%H:%M:%S}+02:00")), 1),
    "the same name twice": (
        text("elapsed_s,CPU (C),CPU (C),Room (C)", lambda i: f"{i},{cells(i)[0]},40.0,{cells(i)[1]}"),
        1,
    ),
    "five hundred columns": (
        text(
            "elapsed_s,CPU (C),Room (C)," + ",".join(f"spare {k}" for k in range(497)),
            lambda i: f"{i},{','.join(cells(i))}," + ",".join(["0"] * 497),
        ),
        1,
    ),
}

BAD: dict[str, bytes] = {
    "empty": b"",
    "only blanks": b"  \n \n",
    "a spreadsheet": b"PK\x03\x04" + bytes(4000),
    "a picture": b"\x89PNG\r\n\x1a\n" + bytes(range(256)) * 8,
    "prose": ("It was warm in there. " * 40 + "\n").encode() * 30,
    "a heading and nothing else": b"elapsed_s,cpu_package_c\n" * 3,
    "no times": text("sample name,CPU (C),Room (C)", lambda i: f"x{i},{','.join(cells(i))}"),
    "one time throughout": text("elapsed_s,CPU (C),Room (C)", lambda i: f"5,{','.join(cells(i))}"),
    "impossible dates": text("time,CPU (C),Room (C)", lambda i: f"2026-02-31 10:00:{i % 60:02d},{','.join(cells(i))}"),
    "no temperature": text("elapsed_s,apples,pears", lambda i: f"{i},{i},{i}"),
    "no heading": "\n".join(rows(line)).encode(),
    "one column": "\n".join(["CPU (C)", *rows(lambda i: cells(i)[0])]).encode(),
}


class OddFilesTest(SimpleTestCase):
    def test_there_are_enough_of_them(self) -> None:
        self.assertGreaterEqual(len(GOOD) + len(BAD), 40)

    def test_each_good_one_gives_the_truth(self) -> None:
        for name, (data, step) in GOOD.items():
            with self.subTest(name):
                found = read_log(data)
                np.testing.assert_allclose(found.log.channels["cpu_package_c"], CPU, atol=0.006)
                np.testing.assert_allclose(found.log.channels["room_c"], ROOM, atol=0.006)
                np.testing.assert_allclose(found.log.elapsed_s, step * np.arange(N), atol=0.02)
                self.assertLessEqual(len(found.questions), 1)

    def test_each_bad_one_is_refused_with_a_remedy(self) -> None:
        for name, data in BAD.items():
            with self.subTest(name):
                with self.assertRaises(UnreadableLogError) as caught:
                    read_log(data)
                self.assertTrue(caught.exception.what)
                self.assertTrue(caught.exception.do)

    def test_cells_that_are_no_readings_are_named(self) -> None:
        data = text("elapsed_s,CPU (C),Room (C)", lambda i: f"{i},{'hot' if i == 12 else cells(i)[0]},{cells(i)[1]}")
        found = read_log(data)
        self.assertIn("'hot' in data row 13", " ".join(found.notes))
        self.assertTrue(np.isnan(found.log.channels["cpu_package_c"][12]))

    def test_a_mapping_that_depends_on_the_headings(self) -> None:
        data = text("elapsed_s,T1,T2", line)
        with self.assertRaises(UnreadableLogError):
            read_log(data)
        self.assertTrue(read_log(data, lenient=True).questions)
        found = read_log(data, lambda headings: {headings[1]: "cpu_package_c", headings[2]: "room_c"})
        np.testing.assert_allclose(found.log.channels["room_c"], ROOM)

    def test_gigahertz_and_milliwatts(self) -> None:
        data = text("elapsed_s,CPU (C),CPU clock (GHz),CPU (mW)", lambda i: f"{i},{cells(i)[0]},4.7,125000")
        channels = read_log(data).log.channels
        self.assertAlmostEqual(float(channels["cpu_clock_mhz"][0]), 4700)
        self.assertAlmostEqual(float(channels["cpu_power_w"][0]), 125)

    def test_another_number_of_columns_is_said(self) -> None:
        head = ["elapsed_s,CPU (C),Room (C)", *rows(line)]
        more = ["elapsed_s,CPU (C),Room (C),New (C)", *[f"{N + i},60,21,30" for i in range(10)]]
        found = read_log("\n".join([*head, *more]).encode())
        self.assertEqual(len(found.log.elapsed_s), N)
        self.assertIn("another number of columns", " ".join(found.notes))
