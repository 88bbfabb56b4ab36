"""Sends readings to a bench over HTTP, each post numbered and kept until it is acknowledged.

What is posted is docs/formats/readings.md. A post that fails is sent again with the same number; the bench takes a number once.
"""

import json
import time
import urllib.error
import urllib.request
import uuid
from collections import deque
from collections.abc import Mapping, Sequence
from dataclasses import dataclass
from typing import Any

from engine.errors import OventaError

TIMEOUT_S = 5.0
FIRST_PAUSE_S, LONGEST_PAUSE_S = 0.3, 5.0
MOST_WAITING = 20_000  # posts kept while the bench does not answer: hours at one a second


class BenchRefusedError(OventaError):
    """The bench understood the post and will not have it; sending it again would not help."""

    code = "bench_refused"


@dataclass(frozen=True)
class Answer:
    """``phase`` is what the bench asks of the machine: rest, load or stop; ``load`` which parts."""

    acknowledged: int
    phase: str
    load: str


class Sender:
    """One session of posts to one bench."""

    def __init__(self, url: str, token: str, rate: float = 1.0, source: str = "logger", loads: Sequence[str] = ()) -> None:
        """``url`` is the bench's address, such as http://host:port/api/benches/1; ``loads`` those that the sender puts on itself."""
        self.address = url.rstrip("/") + "/readings"
        self.token, self.rate, self.source, self.loads = token, rate, source, list(loads)
        self.session = uuid.uuid4().hex
        self.next_seq = 1
        self.waiting: deque[dict[str, Any]] = deque()
        self.acknowledged = 0
        self.last: Answer | None = None

    def add(self, elapsed_s: Sequence[float], channels: Mapping[str, Sequence[float | None]]) -> None:
        """Queues rows; ``elapsed_s`` counts from the session's start, None is no reading."""
        if len(self.waiting) >= MOST_WAITING:
            raise BenchRefusedError("the bench has not answered for too long", self.address, "Start it again, then this.")
        body = {"session": self.session, "seq": self.next_seq, "rate": self.rate, "source": self.source}
        body |= {"loads": self.loads} if self.loads else {}
        self.waiting.append(body | {"elapsed_s": list(elapsed_s), "channels": {n: list(v) for n, v in channels.items()}})
        self.next_seq += 1

    def flush(self, patience_s: float = 0.0) -> bool:
        """Sends what waits, oldest first; tries again for ``patience_s``. True when nothing waits any more."""
        pause, until = FIRST_PAUSE_S, time.monotonic() + patience_s
        while self.waiting:
            try:
                self.last = self._post(self.waiting[0])
            except (urllib.error.URLError, OSError, TimeoutError):
                if time.monotonic() + pause > until:
                    return False
                time.sleep(pause)
                pause = min(2 * pause, LONGEST_PAUSE_S)
                continue
            pause = FIRST_PAUSE_S
            self.acknowledged += 1
            self.waiting.popleft()
        return True

    def _post(self, body: dict[str, Any]) -> Answer:
        request = urllib.request.Request(self.address, json.dumps(body).encode(), method="POST")
        request.add_header("Content-Type", "application/json")
        request.add_header("Authorization", f"Bearer {self.token}")
        try:
            with urllib.request.urlopen(request, timeout=TIMEOUT_S) as reply:
                given = json.load(reply)
        except urllib.error.HTTPError as error:
            if error.code in (401, 403, 404, 410, 422):
                raise BenchRefusedError(_words(error), self.address, "Check the address, the token and the channel names.") from error
            raise
        return Answer(int(given["acknowledged"]), str(given["phase"]), str(given["load"]))


def _words(error: urllib.error.HTTPError) -> str:
    try:
        problem = json.loads(error.read())
        return "; ".join(f["what"] for f in problem["faults"]) or f"answer {error.code}"
    except (ValueError, KeyError, TypeError):
        return f"answer {error.code}"
