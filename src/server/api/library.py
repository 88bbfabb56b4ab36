"""The shipped library over HTTP."""

from typing import TYPE_CHECKING, Any

from django.http import HttpRequest
from ninja import File, Router, Status
from ninja.files import UploadedFile
from pydantic import create_model

from desk.forecast.shelf import ShelfRow, shelf
from desk.words.told import part_model
from documents.job.case import CaseDoc
from documents.job.models import PART_KINDS
from documents.job.reader import check_job
from documents.parts.files import read_case
from server.api.schema import MEGABYTE, Schema, content_of
from server.apps.library.models import LibraryCase, LibraryPart
from server.apps.library.services import add_case

router = Router()


class CaseTemplate(Schema):
    key: str
    name: str
    summary: str
    document: CaseDoc


def _template(kind: str) -> type[Schema]:
    """What the library holds of one kind of part: its name and its figures, such as ``FanTemplate``."""
    figures = part_model(kind)
    return create_model(
        f"{figures.__name__.removesuffix('Doc').removesuffix('Part')}Template", __base__=Schema, name=(str, ...), figures=(figures, ...)
    )


if TYPE_CHECKING:
    LibraryOut = Schema
else:
    LibraryOut = create_model(
        "LibraryOut",
        __base__=Schema,
        cases=(list[CaseTemplate], ...),
        **{kind: (list[_template(kind)], ...) for kind in PART_KINDS},
    )


@router.get("/library", response=LibraryOut, exclude_unset=True, operation_id="library")
def library(request: HttpRequest) -> Any:
    parts: dict[str, list[dict[str, Any]]] = {kind: [] for kind in PART_KINDS}
    for part in LibraryPart.objects.all():
        parts[part.kind].append({"name": part.name, "figures": part.figures})
    cases = [{"key": c.key, "name": c.name, "summary": c.summary, "document": c.document} for c in LibraryCase.objects.all()]
    return {"cases": cases, **parts}


class ShelfIn(Schema):
    document: dict[str, Any]
    layout: str


@router.post("/shelf", response=list[ShelfRow], operation_id="shelf")
def what_fits(request: HttpRequest, data: ShelfIn) -> Any:
    """Which parts of the library fit the job's case, and where they would run in one of its layouts."""
    parts: dict[str, list[dict[str, Any]]] = {kind: [] for kind in PART_KINDS}
    for part in LibraryPart.objects.all():
        parts[part.kind].append(part.figures)
    return shelf(check_job(data.document).doc, data.layout, parts)


@router.post("/library/cases", response={201: CaseTemplate}, exclude_unset=True, operation_id="add_library_case")
def add_library_case(request: HttpRequest, file: File[UploadedFile]) -> Any:
    """A case from a file into the library, beside what is there; a name that is taken gets a number."""
    made = add_case(read_case(content_of(file, 8 * MEGABYTE), file.name or "file"))
    return Status(201, {"key": made.key, "name": made.name, "summary": made.summary, "document": made.document})
