"""A mark on a stretch of a run."""

from dataclasses import dataclass


@dataclass(frozen=True)
class Flag:
    """A stable ``code``, the stretch it concerns, and what it means in words."""

    code: str
    from_s: float
    to_s: float
    detail: str
