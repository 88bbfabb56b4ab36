"""The only HTTP surface: typed routes, errors as problem documents with a stable code."""

import errno
import logging
import os
from typing import Any

from django.db import DatabaseError
from django.http import Http404, HttpRequest, HttpResponse
from ninja import NinjaAPI, Schema
from ninja.errors import HttpError, ValidationError

from documents.errors import DocumentError
from documents.job.reader import path_of
from engine.errors import OventaError
from server import loading
from server.api import bench, benches, build, care, clipboard, jobs, library, live, plan, practice, propose, sounds, tasks, units, verdicts
from server.api.door import door
from server.api.schema import StrictParser
from server.database import database_words

# Of errors by their code; all others are 422: the request is understood and cannot be done.
STATUS = {"stale_revision": 409, "bench_busy": 409, "changed_meanwhile": 409, "bad_token": 401, "too_large": 413}
LOG = logging.getLogger("oventa.api")
api = NinjaAPI(title="Oventa", version="1", docs_url=None, urls_namespace="api", parser=StrictParser(), auth=door)
api.add_router("/", library.router)
api.add_router("/", jobs.router)
api.add_router("/", bench.router)
api.add_router("/", benches.router)
api.add_router("/", live.router)
api.add_router("/", clipboard.router)
api.add_router("/", plan.router)
api.add_router("/", propose.router)
api.add_router("/", build.router)
api.add_router("/", units.router)
api.add_router("/", care.router)
api.add_router("/", practice.router)
api.add_router("/", sounds.router)
api.add_router("/", tasks.router)
api.add_router("/", verdicts.router)


def _problem(request: HttpRequest, status: int, code: str, faults: list[dict[str, str]]) -> HttpResponse:
    title = faults[0]["what"] if faults else code
    return api.create_response(request, {"code": code, "title": title, "status": status, "faults": faults}, status=status)


@api.exception_handler(DocumentError)
def _document(request: HttpRequest, error: DocumentError) -> HttpResponse:
    return _problem(request, 422, error.code, [{"path": f.path, "what": f.what, "do": f.do} for f in error.faults])


@api.exception_handler(OventaError)
def _other(request: HttpRequest, error: OventaError) -> HttpResponse:
    fault = {"path": error.where, "what": error.what, "do": error.do}
    return _problem(request, STATUS.get(error.code, 422), error.code, [fault])


@api.exception_handler(ValidationError)
def _invalid(request: HttpRequest, error: ValidationError) -> HttpResponse:
    faults: list[dict[str, str]] = []
    for e in error.errors:
        given: dict[str, Any] = e
        place = path_of(tuple(p for p in given["loc"] if p not in ("body", "data", "query", "document", "path")))
        faults.append({"path": place, "what": given["msg"], "do": "Correct this field; the API description gives its range."})
    return _problem(request, 422, "bad_request", faults)


@api.exception_handler(Http404)
def _missing(request: HttpRequest, _error: Http404) -> HttpResponse:
    fault = {"path": request.path, "what": "there is nothing at this address", "do": "Open the list of jobs and choose from there."}
    return _problem(request, 404, "not_found", [fault])


@api.exception_handler(HttpError)
def _http(request: HttpRequest, error: HttpError) -> HttpResponse:
    """A body that could not be read: what the strict reader said of it."""
    if isinstance(error.__cause__, DocumentError):
        return _document(request, error.__cause__)
    fault = {"path": "request", "what": str(error), "do": "Look the operation up in the API's description."}
    return _problem(request, error.status_code, "bad_request", [fault])


@api.exception_handler(OverflowError)
def _overflow(request: HttpRequest, _error: OverflowError) -> HttpResponse:
    fault = {"path": request.path, "what": "a number is too large to be kept", "do": "Give a smaller one."}
    return _problem(request, 422, "bad_request", [fault])


@api.exception_handler(DatabaseError)
def _database(request: HttpRequest, error: DatabaseError) -> HttpResponse:
    """A full disk and a busy database are not the person's doing: what to do is said, and that nothing was half stored."""
    status, code, what, do = database_words(error)
    if status >= 500:
        LOG.error("%s %s: %s", request.method, request.path, error)
    answer = _problem(request, status, code, [{"path": "database", "what": what, "do": do}])
    if status == 503:
        answer["Retry-After"] = "2"
    return answer


@api.exception_handler(OSError)
def _disk(request: HttpRequest, error: OSError) -> HttpResponse:
    """A file beside the database that could not be written: the same as a full database."""
    if error.errno not in (errno.ENOSPC, errno.EDQUOT, errno.EROFS, errno.EACCES):
        return _unforeseen(request, error)
    LOG.error("%s %s: %s", request.method, request.path, error)
    words = {
        "path": "data folder",
        "what": f"nothing was stored: {os.strerror(error.errno)}",
        "do": "Make room on the disk, and try again.",
    }
    return _problem(request, 507, "disk_full", [words])


@api.exception_handler(Exception)
def _unforeseen(request: HttpRequest, error: Exception) -> HttpResponse:
    LOG.exception("%s %s", request.method, request.path, exc_info=error)
    what = "something went wrong here that was not foreseen; what was stored before is as it was"
    do = "Try it once more; if it comes again, the messages of the server say where."
    return _problem(request, 500, "unforeseen", [{"path": request.path, "what": what, "do": do}])


class Health(Schema):
    """``loading``: what a start still brings in, in words; empty when all is there."""

    ready: bool
    loading: str


@api.get("/health", response=Health, operation_id="health")
def health(request: HttpRequest) -> Health:
    return Health(ready=True, loading=loading.words())
