"""Writes the committed contracts anew: OpenAPI document and JSON Schemas. A test fails when they differ."""

import json
from pathlib import Path
from typing import Any

from django.conf import settings
from django.core.management.base import BaseCommand
from pydantic import BaseModel

from desk.forecast.document import FindingsDoc, ForecastDoc
from desk.runs.document import AnalysisDoc, ComparisonDoc
from desk.verdict.document import VerdictDoc
from desk.verdict.record import RecordDoc
from documents.job.models import JobDoc

SCHEMAS: dict[str, type[BaseModel]] = {
    "job": JobDoc,
    "forecast": ForecastDoc,
    "findings": FindingsDoc,
    "analysis": AnalysisDoc,
    "comparison": ComparisonDoc,
    "verdict": VerdictDoc,
    "verdict-record": RecordDoc,
}


def contracts() -> dict[Path, str]:
    """Path and text of every committed contract."""
    from server.api.benches import ReadingsIn
    from server.api.main import api

    docs = settings.ROOT / "docs"
    found = {docs / "formats" / f"{name}.schema.json": model.model_json_schema() for name, model in SCHEMAS.items()}
    found[docs / "formats" / "readings.schema.json"] = ReadingsIn.model_json_schema()
    found[docs / "api" / "openapi.json"] = api.get_openapi_schema()
    return {path: json.dumps(content, indent=1, ensure_ascii=False, default=str) + "\n" for path, content in found.items()}


class Command(BaseCommand):
    help = "Write docs/api/openapi.json and docs/formats/*.schema.json."

    def handle(self, *args: Any, **options: Any) -> None:
        for path, text in contracts().items():
            path.parent.mkdir(parents=True, exist_ok=True)
            path.write_text(text, encoding="utf-8")
