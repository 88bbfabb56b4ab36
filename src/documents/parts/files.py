"""Parts and cases as files of their own: JSON for everything, CSV as one table with a row per part.

CSV: UTF-8, header row; ``part`` (its kind) and ``id`` first, then a column per figure; a cell that is empty means "not stated". Lists and
curves stand in their cell as JSON. Read with any delimiter a spreadsheet writes, and with decimal commas.
"""

import csv
import io
import json
import re
from typing import Any

from pydantic import BaseModel, ValidationError

from documents.errors import DocumentError, Fault
from documents.job.case import CaseDoc
from documents.job.models import PART_KINDS, JobDoc, PartsDoc
from documents.job.reader import path_of
from documents.json_in import parse_json
from documents.upgrades import upgraded

Raw = dict[str, Any]
_FIRST = ("part", "id", "name")


class CaseFile(BaseModel):
    """A case on its own: ``{"format": "oventa-case", "version": 1, "summary", "case"}``."""

    summary: str = ""
    case: CaseDoc


def parts_raw(doc: JobDoc) -> dict[str, list[Raw]]:
    """Every part of a job by kind, as the document writes it."""
    whole = doc.parts.model_dump(mode="json", exclude_unset=True)
    return {kind: whole[kind] for kind in PART_KINDS if whole.get(kind)}


def parts_json(doc: JobDoc) -> str:
    return json.dumps({"format": "oventa-parts", "version": 1, "parts": parts_raw(doc)}, indent=1, ensure_ascii=False) + "\n"


def parts_csv(doc: JobDoc) -> str:
    rows = [{"part": kind, **part} for kind, parts in parts_raw(doc).items() for part in parts]
    columns = [*_FIRST, *dict.fromkeys(name for row in rows for name in row if name not in _FIRST)]
    out = io.StringIO()
    writer = csv.DictWriter(out, columns, lineterminator="\n")
    writer.writeheader()
    for row in rows:
        writer.writerow({name: _cell(row.get(name)) for name in columns})
    return out.getvalue()


def _cell(value: Any) -> str:
    if value is None:
        return ""
    return json.dumps(value) if isinstance(value, bool | list | dict) else str(value)


def read_parts(content: bytes, name: str) -> dict[str, list[Raw]]:
    """Parts from a file's bytes, checked as in a job. Raises DocumentError that names row or path."""
    text = _text(content, name)
    parts = _from_json(text, name) if text.lstrip().startswith("{") else _from_csv(text, name)
    try:
        checked = PartsDoc.model_validate(parts)
    except ValidationError as error:
        raise DocumentError([_part_fault(e, parts) for e in error.errors()]) from error
    whole = checked.model_dump(mode="json", exclude_unset=True)
    found = {kind: whole[kind] for kind in PART_KINDS if whole.get(kind)}
    if not found:
        raise DocumentError([Fault(name, "there is no part in this file", f"Name each part's kind: {', '.join(PART_KINDS)}.")])
    return found


def _text(content: bytes, name: str) -> str:
    try:
        return content.decode("utf-8-sig")
    except UnicodeDecodeError as error:
        raise DocumentError([Fault(name, "the file is not UTF-8 text", "Save it as UTF-8 CSV or JSON.")]) from error


def _from_json(text: str, name: str) -> Raw:
    raw = parse_json(text, name)
    if raw.get("format") == "oventa-job":  # a whole job serves as well
        return dict(raw.get("parts", {}))
    if raw.get("format") != "oventa-parts" or not isinstance(raw.get("parts"), dict):
        raise DocumentError([Fault("format", "this is no file of parts", 'Give "format": "oventa-parts" and "parts".')])
    return dict(upgraded({"version": 1, **raw})["parts"])


def _from_csv(text: str, name: str) -> Raw:
    header = text.splitlines()[0] if text.strip() else ""
    delimiter = max(",;\t|", key=header.count)
    rows = list(csv.DictReader(io.StringIO(text), delimiter=delimiter))
    if not rows or "part" not in rows[0] or "id" not in rows[0]:
        raise DocumentError([Fault(name, "the first row does not name the columns part and id", "Start with: part,id,name,...")])
    parts: Raw = {}
    for i, row in enumerate(rows, start=2):
        kind = (row.get("part") or "").strip()
        if kind not in PART_KINDS:
            raise DocumentError([Fault(f"{name} row {i}", f"{kind!r} is no kind of part", f"Use one of {', '.join(PART_KINDS)}.")])
        part: Raw = {}
        for column, cell in row.items():
            if column and column != "part" and isinstance(cell, str) and cell.strip():
                part[column.strip()] = _value(cell, column.strip(), f"{name} row {i}")
        parts.setdefault(kind, []).append(part)
    return parts


_NUMBER = re.compile(r"-?\d+([.,]\d+)?([eE][-+]?\d+)?")


def _value(cell: str, column: str, where: str) -> Any:
    text = cell.strip()
    if column in ("id", "name", "revision"):
        return text
    if text[0] in "[{" or text in ("true", "false"):
        return parse_json(text, f"{where}, {column}")
    return float(text.replace(",", ".")) if _NUMBER.fullmatch(text) else text


def _part_fault(error: Any, parts: Raw) -> Fault:
    at = tuple(error["loc"])
    name = ""
    if len(at) > 1 and isinstance(at[1], int):
        part = parts[at[0]][at[1]]
        name = f" ({part.get('name') or part.get('id') or 'without id'})"
    what = "this figure is missing" if error["type"] == "missing" else error["msg"][:1].lower() + error["msg"][1:]
    return Fault(path_of(at) + name, what, "Correct it; the format description gives range and unit.")


def case_json(doc: JobDoc) -> str:
    """The case of a job as a file of its own."""
    case = doc.case.model_dump(mode="json", exclude_unset=True)
    return json.dumps({"format": "oventa-case", "version": 1, "summary": "", "case": case}, indent=1, ensure_ascii=False) + "\n"


def read_case(content: bytes, name: str) -> CaseFile:
    """A case from a file of its own, or from a whole job. Raises DocumentError."""
    text = _text(content, name)
    raw = parse_json(text, name)
    if not isinstance(raw, dict) or raw.get("format") not in ("oventa-case", "oventa-job"):
        raise DocumentError([Fault("format", "this is no file of a case", 'Give "format": "oventa-case" and "case".')])
    raw = upgraded({"version": 1, **raw})
    try:
        return CaseFile.model_validate({"summary": raw.get("summary", ""), "case": raw.get("case")})
    except ValidationError as error:
        faults = [Fault(path_of(tuple(e["loc"])), e["msg"], "Correct it; the format description gives the range.") for e in error.errors()]
        raise DocumentError(faults) from error
