"""The shipped library over HTTP."""

from typing import Any

from django.http import HttpRequest
from ninja import Router, Schema

from formats.job.models import CardDoc, CaseDoc, CoolerDoc, CpuDoc, FanDoc, RadiatorDoc
from server.apps.library.models import LibraryCase, LibraryPart

router = Router()


class CaseTemplate(Schema):
    key: str
    name: str
    summary: str
    document: CaseDoc


class FanTemplate(Schema):
    name: str
    figures: FanDoc


class CpuTemplate(Schema):
    name: str
    figures: CpuDoc


class CardTemplate(Schema):
    name: str
    figures: CardDoc


class CoolerTemplate(Schema):
    name: str
    figures: CoolerDoc


class RadiatorTemplate(Schema):
    name: str
    figures: RadiatorDoc


class LibraryOut(Schema):
    cases: list[CaseTemplate]
    cpus: list[CpuTemplate]
    cards: list[CardTemplate]
    coolers: list[CoolerTemplate]
    radiators: list[RadiatorTemplate]
    fans: list[FanTemplate]


@router.get("/library", response=LibraryOut, exclude_unset=True, operation_id="library")
def library(request: HttpRequest) -> Any:
    parts: dict[str, list[dict[str, Any]]] = {kind: [] for kind in ("cpus", "cards", "coolers", "radiators", "fans")}
    for part in LibraryPart.objects.all():
        parts[part.kind].append({"name": part.name, "figures": part.figures})
    cases = [{"key": c.key, "name": c.name, "summary": c.summary, "document": c.document} for c in LibraryCase.objects.all()]
    return {"cases": cases, **parts}
