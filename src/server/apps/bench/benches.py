"""Benches: their tokens and their clocks."""

import hashlib
import math
import secrets
from dataclasses import dataclass

from django.db import transaction
from django.db.models import Count, Max, QuerySet, Sum
from django.db.models.functions import Length
from django.shortcuts import get_object_or_404

from engine.errors import ImpossibleInputError, OventaError
from server.apps.bench.clock import since_heard_s
from server.apps.bench.models import Batch, Bench, Run, Session

SILENT_S = 10.0
KEPT_BEFORE_S = 3600.0  # of readings before a run that is under way


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
    """The bench's clock: its newest reading, gone on with real time since; at most SILENT_S of it unless ``whole``.

    A bench that has fallen silent stands still: nothing is known of the time since. A sender that begins anew counts all of it.
    """
    latest = Session.objects.filter(bench_id=bench_id).order_by("-last_s").first()
    if latest is None:
        return 0.0
    since = since_heard_s(latest)
    if math.isinf(since):  # the wall's clock was set back while nothing ran: how long is not known
        since = 0.0
    return latest.last_s + (since if whole else min(since, SILENT_S)) * latest.rate


_told: dict[int, float] = {}
POSTS_AHEAD = 1.5  # of the time between its last two posts: so far may a clock be read on before the next one comes


def told_s(bench_id: int) -> float:
    """The bench's clock as it is told to people: never further on than the next post can bring it, and never running back.

    It is read on between posts; where a sender turns out slower than it seemed, it waits until its readings have caught up.
    """
    ends = list(Batch.objects.filter(bench_id=bench_id).order_by("-last_s").values_list("last_s", flat=True)[:2])
    at = now_s(bench_id)
    if len(ends) == 2:
        at = min(at, ends[0] + max(POSTS_AHEAD * (ends[0] - ends[1]), 1.0))
    before = _told.get(bench_id, at)
    if at < before < at + SILENT_S * max(rate_of(bench_id), 1.0):
        return before
    _told[bench_id] = at
    return at


def rate_of(bench_id: int) -> float:
    """How fast the bench's clock runs: that of its newest source."""
    heard = _lately(bench_id)
    return heard[0][1].rate if heard and heard[0][0] < SILENT_S else 1.0


def silent(bench_id: int) -> bool:
    """No source has been heard for a while."""
    heard = _lately(bench_id)
    return not heard or heard[0][0] > SILENT_S


def puts_on(bench_id: int, load: str) -> bool:
    """Whether a sender that is heard puts a load on by itself."""
    return any(load in session.loads for since_s, session in _lately(bench_id) if since_s < SILENT_S)


def _lately(bench_id: int) -> list[tuple[float, Session]]:
    """Seconds since each of the latest senders was heard, the newest first."""
    found = [(since_heard_s(s), s) for s in Session.objects.filter(bench_id=bench_id).order_by("-heard_at", "-id")[:20]]
    return sorted(found, key=lambda x: (x[0], -x[1].pk))


def sources(bench_id: int, within_s: float = 60.0) -> list[tuple[float, Session]]:
    """Who has sent readings lately, with the seconds since."""
    return [(since, s) for since, s in _lately(bench_id) if since <= within_s][:8]


@dataclass(frozen=True)
class Stored:
    """Readings of a bench that belong to no run under way: whether they may go is for a person to say."""

    posts: int
    megabytes: float
    older_posts: int


def stored(bench_id: int, older_than_h: float) -> Stored:
    whole = Batch.objects.filter(bench_id=bench_id).aggregate(n=Count("pk"), size=Sum(Length("data")))
    return Stored(whole["n"], (whole["size"] or 0) / 1e6, _older(bench_id, older_than_h).count())


def clear_readings(bench_id: int, older_than_h: float) -> int:
    """Removes posts of a bench older than some hours of its clock, because a person says so; those of a run under way stay."""
    with transaction.atomic():
        get_object_or_404(Bench, pk=bench_id)
        return _older(bench_id, older_than_h).delete()[0]


def _older(bench_id: int, older_than_h: float) -> QuerySet[Batch]:
    newest = Batch.objects.filter(bench_id=bench_id).aggregate(at=Max("last_s"))["at"] or 0.0
    before = newest - older_than_h * 3600
    live = Run.objects.filter(bench_id=bench_id, state="draft").values_list("started_s", flat=True).first()
    return Batch.objects.filter(bench_id=bench_id, last_s__lt=before if live is None else min(before, live - KEPT_BEFORE_S))
