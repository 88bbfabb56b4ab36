"""Writes what is generated and committed anew: OpenAPI document, JSON Schemas, the front end's words. A test fails when they differ."""

import json
from functools import partial
from pathlib import Path
from typing import Any

from django.conf import settings
from django.core.management.base import BaseCommand
from pydantic import BaseModel

from desk.build.shapes import BuildDoc
from desk.care.commission import CommissioningDoc
from desk.forecast.document import FindingsDoc, ForecastDoc
from desk.runs.document import AnalysisDoc, ComparisonDoc
from desk.sound.document import SoundDoc
from desk.verdict.document import VerdictDoc
from desk.verdict.record import RecordDoc
from desk.words.told import told
from documents.job.models import JobDoc

SCHEMAS: dict[str, type[BaseModel]] = {
    "job": JobDoc,
    "forecast": ForecastDoc,
    "findings": FindingsDoc,
    "analysis": AnalysisDoc,
    "comparison": ComparisonDoc,
    "verdict": VerdictDoc,
    "verdict-record": RecordDoc,
    "build": BuildDoc,
    "commissioning": CommissioningDoc,
    "sound": SoundDoc,
}


def contracts() -> dict[Path, str]:
    """Path and text of every committed contract."""
    from server.api.benches import ReadingsIn
    from server.api.main import api

    docs = settings.ROOT / "docs"
    found = {docs / "formats" / f"{name}.schema.json": model.model_json_schema() for name, model in SCHEMAS.items()}
    found[docs / "formats" / "readings.schema.json"] = ReadingsIn.model_json_schema()
    found[docs / "api" / "openapi.json"] = api.get_openapi_schema()
    texts = {path: json.dumps(content, indent=1, ensure_ascii=False, default=str) + "\n" for path, content in found.items()}
    return texts | {settings.ROOT / "frontend/src/shared/words/generated.ts": words()}


def words() -> str:
    """Words, defaults and ranges as a module of the front end."""
    lines = ["// Written by `python -m django write_contracts` from src/desk/words; a word is changed there, never here."]
    lines += [f"export const {name} = {_rows(said)} as const;" for name, said in told().items()]
    return "\n".join(lines) + "\n"


def _rows(said: Any) -> str:
    """A mapping or list with a line for each of its rows."""
    line = partial(json.dumps, ensure_ascii=False)
    if isinstance(said, dict):
        return "{\n" + "".join(f"  {line(key)}: {line(value)},\n" for key, value in said.items()) + "}"
    return "[\n" + "".join(f"  {line(value)},\n" for value in said) + "]"


class Command(BaseCommand):
    help = "Write docs/api/openapi.json, docs/formats/*.schema.json and frontend/src/shared/words/generated.ts."

    def handle(self, *args: Any, **options: Any) -> None:
        for path, text in contracts().items():
            path.parent.mkdir(parents=True, exist_ok=True)
            path.write_text(text, encoding="utf-8")
