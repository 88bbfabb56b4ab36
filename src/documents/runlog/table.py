"""From bytes to columns of text: encoding, delimiter, header lines, decimals. Fast on clean files, patient on odd ones."""

import csv
import re
from collections import Counter
from dataclasses import dataclass, field
from itertools import islice

import numpy as np
from charset_normalizer import from_bytes
from numpy.typing import NDArray

from documents.runlog.mapping import unit_of
from engine.errors import UnreadableLogError

Floats = NDArray[np.float64]
EMPTY = frozenset({"", "-", "n/a", "na", "nan", "null", "none", "--", "---", "n.a.", "inf", "-inf", "ovld", "ol", "?"})
LEAST_ROWS = 20
MOST_CELLS, MOST_ROWS = 6_000_000, 1_500_000
MOST_KNOWN = 300_000  # texts of cells
PIECE = 20_000  # rows between two moments in which other threads may run
SAMPLE = 200
MOSTLY = 0.7  # of the cells of a row of readings are numbers, times or empty; numerical
_SPLIT = "Split the log into several runs, or leave out channels and rows that are not needed."
_CLOCK = re.compile(r"^\d{1,3}:\d{2}(:\d{2})?([.,]\d+)?$")
_NUMBER = re.compile(r"^[+-]?(\d+([.,]\d*)?|[.,]\d+)([eE][+-]?\d+)?$")
_WITH_UNIT = re.compile(r"^([+-]?[\d.,' \u00a0\u202f]*\d)\s*(°?\s?[a-zA-Z%/()]{1,6})$")
_TIME_LIKE = re.compile(
    r"^(\d{1,4}[-./]\d{1,2}[-./]\d{1,4}|\d{1,2}:\d{2}|\d{1,2}[ -][A-Za-z]{3,9}[ -]\d{2,4}|[A-Za-z]{3,9} \d{1,2},? \d{2,4})"
)


@dataclass(frozen=True)
class Table:
    """Text cells by column: one heading each, the unit row folded in, data rows only. ``decimal`` is . or ,"""

    headings: list[str]
    columns: list[list[str]]
    decimal: str
    skipped: int
    notes: list[str] = field(default_factory=list)

    @property
    def rows(self) -> int:
        return len(self.columns[0]) if self.columns else 0


def decode(data: bytes) -> str:
    """Text of a file in whatever encoding it was saved."""
    if data.startswith((b"\xff\xfe\x00\x00", b"\x00\x00\xfe\xff")):
        return data.decode("utf-32", errors="replace")
    if data.startswith((b"\xff\xfe", b"\xfe\xff")):
        return data.decode("utf-16", errors="replace")
    if data[:400].count(b"\x00") > 20 and len(data) % 2 == 0:  # two bytes a letter, without saying so
        return data.decode("utf-16-le" if data[1:2] == b"\x00" else "utf-16-be", errors="replace")
    try:
        return data.decode("utf-8-sig")
    except UnicodeDecodeError:
        best = from_bytes(data[:200_000], cp_isolation=["cp1252", "latin_1"]).best()
        return data.decode(best.encoding if best else "latin-1", errors="replace")


def read_table(data: bytes) -> Table:
    """Cells of the file. Raises UnreadableLogError when no table is found in it."""
    if data[:4] in (b"PK\x03\x04", b"\xd0\xcf\x11\xe0"):
        raise UnreadableLogError("this is a spreadsheet or an archive, not text", "file", "Save or export the log as CSV.")
    if max(data.count(b"\n"), data.count(b"\r")) > MOST_ROWS:
        raise UnreadableLogError(f"more than {MOST_ROWS / 1e6:g} million lines", "file", _SPLIT)
    text = decode(data)
    if "\x00" in text[:2000]:
        raise UnreadableLogError("this is not a text file", "file", "Export the log as CSV.")
    if not text.strip():
        raise UnreadableLogError("the file is empty", "file", "Look whether the logger was running, and export again.")
    lines = [line for line in text.splitlines() if line and not line.isspace()]
    if len(lines) < LEAST_ROWS:
        raise UnreadableLogError(f"only {len(lines)} lines", "file", "A log needs a heading and at least twenty readings.")
    lines, delimiter = _with_delimiter(lines)
    cells = _cells(lines, delimiter)
    width = _width(cells)
    first = next(i for i, row in enumerate(cells) if len(row) == width and _is_data(row))
    headings, ragged = _headings(cells[:first], width)
    body = [row for row in cells[first:] if len(row) == width]
    other = len(cells) - first - len(body)
    padded = any(f" {delimiter}" in line or line[-1] == " " for line in lines)
    columns = [[c.strip() for c in column] if padded else list(column) for column in zip(*body, strict=True)]
    body_rows = _without_words(columns, headings)
    if ragged and not any(columns[-1]):
        headings, columns = headings[:-1], columns[:-1]  # a delimiter at the end of every line
    notes = [f"{other} rows with another number of columns were passed over"] if other else []
    return Table(headings, columns, _decimal(columns, delimiter), body_rows, notes)


def _cells(lines: list[str], delimiter: str) -> list[list[str]]:
    """Rows of cells, counted while they are read. Raises UnreadableLogError for a table that is too large or a cell that never ends."""
    reader = csv.reader(iter(lines), delimiter=delimiter, skipinitialspace=True)
    found: list[list[str]] = []
    known: dict[str, str] = {}
    count = 0
    try:
        while piece := list(islice(reader, PIECE)):
            count += sum(map(len, piece))
            if count > MOST_CELLS:
                raise UnreadableLogError(f"more than {MOST_CELLS // 1_000_000} million cells", "file", _SPLIT)
            if len(known) < MOST_KNOWN:  # readings repeat: one text for each value keeps a long log small
                piece = [[known.setdefault(cell, cell) for cell in row] for row in piece]
            found += piece
    except csv.Error as error:
        do = "Look there for a quote that is not closed, and export the log again."
        raise UnreadableLogError(f"the table cannot be parted into cells ({error})", f"line {reader.line_num}", do) from error
    return found


def _without_words(columns: list[list[str]], headings: list[str]) -> int:
    """Takes out rows that repeat the heading or its units; returns how many."""
    names = [h.split(" (")[0] for h in headings]
    at = next((i for i, column in enumerate(columns) if column and _TIME_LIKE.match(column[len(column) // 2])), None)
    probe = next((i for i, n in enumerate(names) if i != at and n), 0)
    first = columns[probe]
    suspects = [i for i, c in enumerate(first) if c and not (c[0].isdigit() or c[0] in "+-.,") and c.lower() not in EMPTY]
    gone = {i for i in suspects if not _is_data([column[i] for column in columns])}
    if gone:
        for k, column in enumerate(columns):
            columns[k] = [c for i, c in enumerate(column) if i not in gone]
    return len(gone)


def _with_delimiter(lines: list[str]) -> tuple[list[str], str]:
    """The lines and what parts their cells; blanks in a row are made tabs."""
    middle = len(lines) // 2
    sample = lines[middle : middle + 20]
    counts = {d: min(line.count(d) for line in sample) for d in ("\t", ";", "|", ",")}
    best = max(("\t", ";", "|"), key=lambda d: counts[d])
    if counts[best] > 0:
        return lines, best
    spaced = [re.split(r"\s{2,}|\s(?=[+-]?\d)", line.strip()) for line in sample]
    if min(len(s) for s in spaced) >= 2 and len({len(s) for s in spaced}) == 1 and counts[","] < len(spaced[0]) - 1:
        wide = [re.sub(r"\s{2,}", "\t", line.strip()) for line in lines]
        if min(line.count("\t") for line in wide[middle : middle + 20]) < 1:
            wide = [re.sub(r"\s+", "\t", line.strip()) for line in lines]
        return wide, "\t"
    if counts[","] > 0:
        return lines, ","
    raise UnreadableLogError("no columns found", "file", "Separate columns by comma, semicolon or tab.")


def _width(cells: list[list[str]]) -> int:
    """Number of columns most data rows have, told from a sample of them."""
    step = max(len(cells) // (4 * SAMPLE), 1)
    found = Counter(len(row) for row in cells[::step] if _is_data([c.strip() for c in row])).most_common(1)
    if not found:
        raise UnreadableLogError("no rows of numbers", "file", "Export the log as CSV with one row per time.")
    return found[0][0]


def _is_data(row: list[str]) -> bool:
    """A row of readings: most cells are numbers, times or empty, and at least one is a number."""
    cells = [c.strip() for c in row]
    numbers = sum(bool(_NUMBER.match(c) or _WITH_UNIT.match(c)) for c in cells)
    if numbers >= MOSTLY * len(cells):
        return numbers > 0
    other = sum(c.lower() in EMPTY or bool(_CLOCK.match(c)) or bool(_TIME_LIKE.match(c)) for c in cells)
    return numbers > 0 and numbers + other >= MOSTLY * len(cells)


def _headings(above: list[list[str]], columns: int) -> tuple[list[str], bool]:
    """Heading per column from the last lines above the data that have as many cells, each made unique; and whether the last is empty."""
    rows = [[c.strip().lstrip("#").strip() for c in row] for row in above]
    full = [row for row in rows if len(row) == columns and sum(bool(c) for c in row) >= max(1, columns - 2)]
    short = [[*row, ""] for row in rows if len(row) == columns - 1 and all(row)]
    full = full or short
    if not full:
        raise UnreadableLogError("no heading row", "file", "Put one line with the names of the columns above the readings.")
    last = full[-1]
    if len(full) > 1 and all(unit_of(f"({c})") or c.lower() in ("", "sec", "hh:mm:ss", "date", "time", "yyyy-mm-dd") for c in last):
        last = [f"{name} ({unit})" if unit else name for name, unit in zip(full[-2], last, strict=True)]
    seen: Counter[str] = Counter()
    unique = []
    for name in last:
        seen[name] += 1
        unique.append(name if seen[name] == 1 else f"{name} #{seen[name]}")
    return unique, not last[-1]


def _decimal(columns: list[list[str]], delimiter: str) -> str:
    """A comma where cells hold one and nothing says that it parts thousands."""
    middle = len(columns[0]) // 2 if columns and columns[0] else 0
    cells = [c for column in columns for c in column[middle : middle + 5]]
    commas = [c for c in cells if "," in c and _NUMBER.match(c)]
    if not commas or (delimiter == "," and not any("," in c for c in cells)):
        return "."
    points = [c for c in cells if "." in c and _NUMBER.match(c)]
    thousands = all(re.match(r"^[+-]?\d{1,3},\d{3}$", c) for c in commas)
    return "." if points and thousands else ","


def numbers(cells: list[str], decimal: str) -> Floats:
    """A column's readings, NaN where there is none; a clean column in one go."""
    try:
        if decimal == ".":
            return np.fromiter(map(float, cells), np.float64, len(cells))
    except ValueError:
        pass
    return np.array([number(c, decimal) for c in cells])


def number(cell: str, decimal: str) -> float:
    """One reading, its unit and thousands taken off; NaN where there is none."""
    text = cell
    try:
        return float(text.replace(",", ".") if decimal == "," else text)
    except ValueError:
        pass
    if text.lower() in EMPTY:
        return float("nan")
    found = _WITH_UNIT.match(text)
    text = found.group(1) if found else text
    text = re.sub(r"['\s\u00a0\u202f]", "", text)
    text = text.replace(".", "").replace(",", ".") if decimal == "," and "," in text else text
    text = text.replace(",", "") if decimal == "." else text
    try:
        return float(text)
    except ValueError:
        return float("nan")


def unit_in_cells(cells: list[str]) -> str:
    """A unit written behind the readings themselves; empty when there is none."""
    found = _WITH_UNIT.match(next((c for c in cells[:SAMPLE] if c.lower() not in EMPTY), ""))
    return unit_of(f"({found.group(2)})") if found else ""
