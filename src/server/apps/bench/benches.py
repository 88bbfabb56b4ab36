"""Benches: their tokens and their clocks."""

import hashlib
import secrets

from django.db.models import Max
from django.shortcuts import get_object_or_404
from django.utils import timezone

from engine.errors import ImpossibleInputError, OventaError
from server.apps.bench.models import Bench, Session

SILENT_S = 10.0


class TokenError(OventaError):
    """Readings came without the bench's token."""

    code = "bad_token"


def _hash(token: str) -> str:
    return hashlib.sha256(token.encode()).hexdigest()


def make_bench(name: str, made_up: bool = False) -> tuple[Bench, str]:
    """A bench and its token, which is shown once and kept as a hash."""
    if Bench.objects.filter(name=name).exists():
        raise ImpossibleInputError(f"there is a bench named {name!r}", "name", "Choose another name.")
    token = secrets.token_urlsafe(24)
    return Bench.objects.create(name=name, token_hash=_hash(token), made_up=made_up), token


def new_token(bench_id: int) -> tuple[Bench, str]:
    """Another token; the one before stops working."""
    bench = get_object_or_404(Bench, pk=bench_id)
    token = secrets.token_urlsafe(24)
    bench.token_hash = _hash(token)
    bench.save(update_fields=["token_hash"])
    return bench, token


def bench_for(bench_id: int, authorization: str) -> Bench:
    """The bench, when the request carries its token. Raises TokenError."""
    bench = get_object_or_404(Bench, pk=bench_id)
    scheme, _, token = authorization.partition(" ")
    if scheme.lower() != "bearer" or not secrets.compare_digest(_hash(token.strip()), bench.token_hash):
        raise TokenError("the token is missing or not this bench's", bench.name, "Copy the token shown at the bench, or make a new one.")
    return bench


def now_s(bench_id: int, whole: bool = False) -> float:
    """The bench's clock: its newest reading, gone on with the wall's time since; at most SILENT_S of it unless ``whole``.

    A bench that has fallen silent stands still: nothing is known of the time since. A sender that begins anew counts all of it.
    """
    latest = Session.objects.filter(bench_id=bench_id).order_by("-last_s").first()
    if latest is None:
        return 0.0
    since = max((timezone.now() - latest.heard_at).total_seconds(), 0.0)
    return latest.last_s + (since if whole else min(since, SILENT_S)) * latest.rate


def rate_of(bench_id: int) -> float:
    """How fast the bench's clock runs: that of its newest source."""
    latest = Session.objects.filter(bench_id=bench_id).order_by("-heard_at").first()
    return latest.rate if latest and (timezone.now() - latest.heard_at).total_seconds() < SILENT_S else 1.0


def silent(bench_id: int) -> bool:
    """No source has been heard for a while."""
    heard = Session.objects.filter(bench_id=bench_id).aggregate(at=Max("heard_at"))["at"]
    return heard is None or (timezone.now() - heard).total_seconds() > SILENT_S
