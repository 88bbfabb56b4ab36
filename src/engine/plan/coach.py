"""What the person at the bench does next: one phase, one line, one countdown, and what not to touch."""

from dataclasses import dataclass
from math import ceil
from typing import Literal

from engine.plan.protocol import Protocol

Phase = Literal["prepare", "purge", "cool", "countdown", "soak", "window"]
Cue = Literal["none", "act", "hands_off", "settled"]


@dataclass(frozen=True)
class Facts:
    """What is known at a moment; times in s on the bench's clock, ``over_room_k`` the hottest part before loading."""

    now_s: float
    logging_from_s: float | None = None  # the moment logging begins or began
    over_room_k: float | None = None
    cooling_k_min: float | None = None
    purged_minutes: float | None = None  # since the loop was filled; None when it is not new
    all_settled: bool = False
    settled_s: float | None = None  # when everything had settled
    minutes_left: float | None = None
    more: str = ""  # how much longer it soaks, for a person
    more_from: str = ""  # and what that was told from beside this run
    unticked: int = 0  # cautions and held things that nobody has ticked yet
    readings: bool = True
    room: bool = True
    room_reads: int | None = None  # by hand in this run; None where a source reads it
    load_by_itself: bool = False  # the machine puts the load on when it is asked to
    waived: bool = False  # the person starts without waiting for a gate; the run is marked


@dataclass(frozen=True)
class Step:
    """``countdown_s`` to the next phase where it can be said; ``may_start`` is False while something must be done first."""

    phase: Phase
    action: str
    countdown_s: float | None
    cue: Cue
    do_not_touch: tuple[str, ...] = ()
    may_start: bool = False
    wait: str = ""  # in the place of the countdown where that is a guess
    wait_from: str = ""  # what the guess was made from beside this run
    by_itself: bool = False  # no hand is needed for the load


HANDS_OFF = ("the case and its panels", "fan speeds and curves", "the room's door, window and fans", "probes")


def next_step(protocol: Protocol, facts: Facts) -> Step:
    """The one thing to do now."""
    if facts.logging_from_s is None:
        return _before(protocol, facts)
    if facts.now_s < facts.logging_from_s:
        left = facts.logging_from_s - facts.now_s
        words = "The load starts by itself at zero." if facts.load_by_itself else "Start the load when the count reaches zero."
        return Step("countdown", f"Hands off. {words}", left, "hands_off", HANDS_OFF, by_itself=facts.load_by_itself)
    gone = facts.now_s - facts.logging_from_s
    most_left = max(protocol.minutes * 60 - gone, 0.0)
    if protocol.end == "fixed":
        if most_left <= protocol.window_s:
            words = _room_again(protocol, facts) or "Averaging. Leave everything as it is."
            return Step("window", words, most_left, "hands_off", HANDS_OFF)
        return Step("soak", "Warming up. Leave everything as it is.", most_left - protocol.window_s, "none", HANDS_OFF)
    if facts.all_settled and gone >= protocol.least_minutes * 60:
        since = facts.now_s - (facts.settled_s if facts.settled_s is not None else facts.now_s)
        left = max(protocol.window_s - since, 0.0)
        words = "Settled. Averaging; leave everything as it is." if left > 0 else "Settled and averaged. End the run."
        return Step("window", _room_again(protocol, facts) or words, left, "settled", HANDS_OFF)
    if most_left <= 0:
        return Step("window", "The planned time is over and it has not settled: go on, or end it as too short.", 0.0, "act", HANDS_OFF)
    wait, least_left = most_left, protocol.least_minutes * 60 - gone
    told, told_from = f"at most {ceil(most_left / 60)} min more", ""
    if facts.minutes_left is not None:
        wait = min(facts.minutes_left * 60, most_left)
        by_runs = wait > least_left
        told, told_from = (facts.more, facts.more_from) if by_runs else (f"at least {ceil(least_left / 60)} min more", "")
    left = max(wait, least_left, 0.0)
    return Step("soak", "Warming up. Leave everything as it is.", left, "none", HANDS_OFF, wait=told, wait_from=told_from)


def _room_again(protocol: Protocol, facts: Facts) -> str:
    """A room that nobody logs is read at both ends."""
    again = protocol.room == "both_ends" and facts.room_reads is not None and facts.room_reads < 2
    return "Averaging. Read the room's temperature once more now." if again else ""


def _before(protocol: Protocol, facts: Facts) -> Step:
    if not facts.readings:
        return Step(
            "prepare", "No readings arrive. Start the logger or the stand-in; without either, type a result among the runs.", None, "act"
        )
    if facts.unticked:
        return Step("prepare", f"Tick what is held and what you have read: {facts.unticked} to go.", None, "act")
    if not facts.room:
        return Step("prepare", "Read the room's temperature, or start without it: the run will not be comparable.", None, "act", (), True)
    if facts.purged_minutes is not None and facts.purged_minutes < protocol.purge_minutes and not facts.waived:
        left = (protocol.purge_minutes - facts.purged_minutes) * 60
        return Step("purge", "Let the new loop run at full pump, without load, until its air is out.", left, "none", ("the pump's speed",))
    if protocol.cool_down_k is not None and facts.over_room_k is not None and not facts.waived and facts.over_room_k > protocol.cool_down_k:
        rate = facts.cooling_k_min
        wait = (facts.over_room_k - protocol.cool_down_k) / rate * 60 if rate and rate > 0.05 else None
        return Step("cool", f"Still {facts.over_room_k:.0f} K over room. Let it cool to {protocol.cool_down_k:g} K.", wait, "none")
    return Step("prepare", "All is ready. Start the run.", None, "act", (), True)
