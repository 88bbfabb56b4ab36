"""The door of the API: no page of another site may change, read or set to work anything here.

The application has no sign-in, so a browser that has it open would carry out what any other page asks of it. A browser says where a
request comes from (Fetch Metadata, and Origin with every request that is not a plain GET): what comes from elsewhere is refused, also
from another port of this machine. Programs other than browsers say nothing of the kind and are let through. A body must be of the type
that the operation declares, since a page may send text and forms elsewhere without being asked.
"""

import re
from collections.abc import Callable
from functools import cache
from typing import Any
from urllib.parse import urlsplit

from django.http import HttpRequest, HttpResponse, JsonResponse
from ninja.openapi.schema import BODY_CONTENT_TYPES, OpenAPISchema
from ninja.operation import Operation

SAFE = ("GET", "HEAD", "OPTIONS")
JSON = BODY_CONTENT_TYPES["body"]
MULTIPART = BODY_CONTENT_TYPES["file"]
BODILESS = ""
_NAMED = re.compile(r"<(?:\w+:)?(\w+)>")


class Guard:
    """Middleware; the address of an operation is looked up in the API's own description."""

    def __init__(self, get_response: Callable[[HttpRequest], HttpResponse]) -> None:
        self.get_response = get_response

    def __call__(self, request: HttpRequest) -> HttpResponse:
        response = self.get_response(request)
        response.headers.setdefault("Cross-Origin-Resource-Policy", "same-origin")
        return response

    def process_view(self, request: HttpRequest, _view: Any, _args: Any, _kwargs: Any) -> HttpResponse | None:
        if foreign(request):
            what = "this request was made by a page of another site"
            return _refused(403, "foreign_request", what, "Open the application itself and do it there.")
        if request.method in SAFE or not request.path.startswith("/api/"):
            return None
        match = request.resolver_match
        declared = body_types().get(("/" + _NAMED.sub(r"{\1}", match.route), str(request.method).lower())) if match else None
        if declared is None:
            return None  # no such operation: the API answers for itself
        given = (request.content_type or "").lower()
        if given in declared or (BODILESS in declared and not _has_body(request)):
            return None
        wanted = sorted(declared - {BODILESS})
        return _refused(415, "wrong_content_type", f"a body of type {given or 'none'} is not read here", f"Send {' or '.join(wanted)}.")


def foreign(request: HttpRequest) -> bool:
    """Whether a browser sent this from a page of another origin. A person may come by a link: a plain look at a file is let in."""
    own = f"{request.scheme}://{request.get_host()}"
    site = request.headers.get("Sec-Fetch-Site")
    if request.method in SAFE:
        at_large = site in ("cross-site", "same-site") and request.headers.get("Sec-Fetch-Mode") != "navigate"
        return at_large and request.path.startswith("/api/")
    if site is not None and site not in ("same-origin", "none"):
        return True
    origin = request.headers.get("Origin")
    if origin is not None:
        return origin != own
    referrer = request.headers.get("Referer")
    return referrer is not None and _origin_of(referrer) != own


def _has_body(request: HttpRequest) -> bool:
    return request.headers.get("Content-Length", "0") not in ("", "0") or "Transfer-Encoding" in request.headers


def _origin_of(url: str) -> str:
    try:
        parts = urlsplit(url)
    except ValueError:
        return ""
    return f"{parts.scheme}://{parts.netloc}"


class _Bodies(OpenAPISchema):
    """The API's description without the shapes of its bodies and answers: those take over a second, and the first pages ask at once."""

    def operation_details(self, operation: Operation) -> dict[str, Any]:
        kinds = {BODY_CONTENT_TYPES[s] for m in operation.models if (s := m.__ninja_param_source__) in BODY_CONTENT_TYPES}
        return {"requestBody": {"content": {kind: {} for kind in (kinds if len(kinds) < 2 else {MULTIPART})}}} if kinds else {}


@cache
def body_types() -> dict[tuple[str, str], frozenset[str]]:
    """(path, method) -> types of body that are read; an operation without a body may have none, or empty JSON."""
    from server.api.main import api  # which needs the settings

    found = {}
    for path, operations in _Bodies(api, api.get_root_path({}))["paths"].items():
        for method, operation in operations.items():
            declared = operation.get("requestBody", {}).get("content")
            found[path, method] = frozenset(declared) if declared else frozenset((BODILESS, JSON))
    return found


def _refused(status: int, code: str, what: str, do: str) -> HttpResponse:
    fault = {"path": "request", "what": what, "do": do}
    return JsonResponse({"code": code, "title": what, "status": status, "faults": [fault]}, status=status)
