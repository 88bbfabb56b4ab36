"""Comparison and verdict over HTTP."""

from datetime import datetime
from typing import Annotated, Any

from django.http import HttpRequest
from ninja import Router, Schema, Status
from pydantic import Field

from engine.verdict.compare import Pair
from server.apps.bench import selectors
from server.apps.verdicts import services
from server.apps.verdicts.models import Verdict

router = Router()


class LayoutFigure(Schema):
    """Measured figure of a layout: mean of its runs, with a 95 % half-width."""

    layout: str
    channel: str
    value: float
    band: float
    runs: int
    settled: bool


class ComparisonOut(Schema):
    margin_k: float
    figures: list[LayoutFigure]
    pairs: list[Pair]


class VerdictIn(Schema):
    layout: str
    reason: str = Field(min_length=1, max_length=4000)
    margin_k: float = Field(default=1.5, gt=0, le=20)


class VerdictOut(Schema):
    id: int
    layout: str
    reason: str
    margin_k: float
    made_at: datetime


def _out(v: Verdict) -> dict[str, Any]:
    return {"id": v.pk, "layout": v.layout_key, "reason": v.reason, "margin_k": v.margin_k, "made_at": v.made_at}


@router.get("/jobs/{job_id}/comparison", response=ComparisonOut, operation_id="comparison")
def comparison(request: HttpRequest, job_id: int, margin_k: Annotated[float, Field(gt=0, le=20)] = 1.5) -> Any:
    return {
        "margin_k": margin_k,
        "figures": services.figures(selectors.candidates(job_id)),
        "pairs": selectors.comparison(job_id, margin_k),
    }


@router.get("/jobs/{job_id}/verdicts", response=list[VerdictOut], operation_id="list_verdicts")
def list_verdicts(request: HttpRequest, job_id: int) -> Any:
    return [_out(v) for v in Verdict.objects.filter(job_id=job_id)]


@router.post("/jobs/{job_id}/verdicts", response={201: VerdictOut}, operation_id="give_verdict")
def give_verdict(request: HttpRequest, job_id: int, data: VerdictIn) -> Any:
    return Status(201, _out(services.give_verdict(job_id, data.layout, data.reason, data.margin_k)))
