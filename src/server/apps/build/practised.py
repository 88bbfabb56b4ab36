"""Exercises that were answered, and those that are asked just now."""

from functools import lru_cache
from typing import Any

from django.db.models import Avg, Count, Q

from desk.practice.exercise import Mark, Scored, exercise
from server.apps.build.models import Practised

made = lru_cache(maxsize=16)(exercise)  # looked at, hinted and answered one after the other


def answer(seed: int, level: int, marks: list[Mark], hints: int) -> Scored:
    """The score, kept."""
    scored = made(seed, level).score(marks, hints)
    Practised.objects.create(seed=seed, level=level, hints=hints, score=scored.score, solved=scored.solved)
    return scored


def record() -> list[Any]:
    """By level how many were answered and solved, and their mean score."""
    rows = Practised.objects.order_by("level").values("level")
    return list(rows.annotate(done=Count("pk"), solved=Count("pk", filter=Q(solved=True)), mean_score=Avg("score")))
