"""Words of runs: phases, endings, what may be marked, what is wrong with a run, what makes it less general."""

from collections.abc import Mapping
from types import MappingProxyType

from engine.plan.protocol import HELD, LOAD_WORDS

PHASES: Mapping[str, str] = MappingProxyType(
    {
        "prepare": "Getting ready",
        "purge": "Purging",
        "cool": "Cooling down",
        "countdown": "Hands off",
        "soak": "Soaking",
        "window": "Averaging",
    }
)
SUITES: Mapping[str, str] = MappingProxyType(
    {
        "waits": "It waits",
        "runs": "It runs",
        "hand": "Your hand is needed",
        "done": "All planned runs are in",
        "stopped": "Stopped",
        "silent": "No readings come",
    }
)
ENDINGS: Mapping[str, str] = MappingProxyType(
    {
        "settled": "ended by itself, settled",
        "time": "ended at its planned time",
        "person": "ended by hand",
        "limit": "stopped by a limit",
    }
)
EVENTS: Mapping[str, str] = MappingProxyType(
    {
        "panel_opened": "panel opened",
        "touched": "case touched",
        "fog": "fog let go",
        "window_open": "window or door opened",
        "someone_near": "someone stood near",
    }
)
SEEN: Mapping[str, str] = MappingProxyType(
    {
        "stagnant": "air stands still here",
        "ejected_unused": "leaves unused here",
        "sucked_in": "drawn in through a gap",
        "pushed_back": "pushed back out",
        "heat_felt": "heat felt here",
    }
)
HEARD: Mapping[str, str] = MappingProxyType(
    {
        "gurgle": "gurgle",
        "trickle": "trickle",
        "whine": "whine",
        "tone": "steady tone",
        "beat": "beat",
        "rattle": "rattle",
    }
)
OF_ITSELF: Mapping[str, str] = MappingProxyType(
    {"gate_waived": "begun without waiting", "limit": "limit crossed", "tach_lost": "speed lost"}
)
MARKS: Mapping[str, str] = MappingProxyType({"event": "happened", "seen": "seen", "heard": "heard", "note": "note", "alarm": "alarm"})
FLAGS: Mapping[str, str] = MappingProxyType(
    {
        "room_missing": "No room temperature",
        "room_drift": "The room drifted",
        "room_coarse": "The room in coarse steps",
        "room_doubtful": "The room figure is doubtful",
        "too_short": "Not settled",
        "gap": "A gap in the log",
        "throttled": "Held at its limit",
        "load_changed": "The load changed",
        "at_limit": "At its limit",
        "stuck": "A sensor stands still",
        "spike": "A sensor jumps",
        "tach_lost": "A fan shows no speed",
        "speed_not_held": "A speed was not held",
        "clock_jump": "A clock changed",
        "core_apart": "One core stands apart",
        "disturbed": "Disturbed while averaging",
        "loop_not_purged": "Air is still in the loop",
        "sound_near_floor": "Sound too near the room's own",
    }
)
TRAITS: Mapping[str, str] = MappingProxyType(
    {
        "sponsored": "a part was given for the test",
        "delidded": "processor without its lid",
        "overclocked": "far over its usual clock",
        "improvised": "an improvised part",
        "prototype": "not a part on sale",
    }
)
STATISTICS: Mapping[str, str] = MappingProxyType(
    {
        "tail_mean": "mean of the window at the end",
        "tail_max": "largest in that window",
        "last_minute": "mean of the last minute",
        "core_mean": "mean of all cores in that window",
    }
)
RESTRICTS: Mapping[str, str] = MappingProxyType({"little": "little", "moderate": "moderately", "strong": "strongly"})
LOG_UNITS: Mapping[str, str] = MappingProxyType(
    {"c": "°C", "f": "°F", "k": "K", "w": "W", "mw": "mW", "mhz": "MHz", "ghz": "GHz", "rpm": "rpm", "dba": "dBA"}
)
# Kinds of instrument, how often each is read in seconds (a meter speaks several times in one), and how channels are named, if they are.
INSTRUMENTS: Mapping[str, tuple[str, float, str]] = MappingProxyType(
    {
        "logger": ("logger (SCPI over TCP)", 5, "101=air_front_c, 102=…"),
        "chamber": ("climate chamber (SCPI over TCP)", 5, ""),
        "meter": ("sound meter (lines of text)", 1, ""),
        "fans": ("fan controller (SCPI over TCP)", 5, "1=fan_f1_rpm, 2=…"),
    }
)


def held_words(what: str) -> str:
    """What is held alike in every run; the person's own where it is none of the usual."""
    return HELD.get(what, what)


def load_words(load: str) -> str:
    return LOAD_WORDS.get(load, load)
