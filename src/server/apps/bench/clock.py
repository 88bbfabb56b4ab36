"""How long ago a sender was heard: by a clock that nobody can set, as far back as this process has been running."""

import time

from django.utils import timezone

from server.apps.bench.models import Session

_heard: dict[int, float] = {}


def heard(session_id: int) -> None:
    """A post of this sender has just been taken."""
    _heard[session_id] = time.monotonic()


def since_heard_s(session: Session) -> float:
    """Seconds since a sender was heard.

    The wall's clock may be set back (then it says nothing, and a sender would seem alive for ever) or ahead; it is asked beside the
    monotonic one, and alone for what was heard before this process began. A moment that lies ahead of now is as good as never.
    """
    wall = (timezone.now() - session.heard_at).total_seconds()
    known = _heard.get(session.pk)
    if known is None:
        return wall if wall >= -1.0 else float("inf")
    return max(time.monotonic() - known, wall, 0.0)


def forget_all() -> None:
    """As a restart would."""
    _heard.clear()
