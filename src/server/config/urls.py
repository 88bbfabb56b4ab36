"""Addresses: the API, and the one page for everything else."""

from django.http import HttpRequest, HttpResponse
from django.template.loader import get_template
from django.urls import path, re_path
from django.views.decorators.http import require_safe

from server.api.main import api


@require_safe
def page(_request: HttpRequest) -> HttpResponse:
    """The single page; its routes are the front end's."""
    return HttpResponse(get_template("index.html").render())


urlpatterns = [path("api/", api.urls), re_path(r"^(?!api/|static/).*$", page)]
