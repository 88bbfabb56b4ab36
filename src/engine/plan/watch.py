"""What must be noticed within seconds of a reading: limits crossed, a fan or pump that falls silent, a speed not held."""

from collections.abc import Mapping, Sequence
from dataclasses import dataclass, field
from typing import Literal

from engine.plan.protocol import Act, Limit
from engine.runs.names import fan_name

LOST_SHARE = 0.3  # below this share of its usual speed a fan counts as lost
LOST_HOLD_S = 3.0  # shorter is a missed pulse; common practice, no source
TURNING_RPM = 200.0  # slower than any fan that turns; common practice, no source
OFF_SHARE, OFF_RPM = 0.12, 60.0  # sheets are good to 10 %, tachometers step by 30; common practice, no source
LEARN = 20  # readings from which the usual speed is taken

Kind = Literal["limit", "tach_lost"]


@dataclass(frozen=True)
class Alarm:
    """``act`` stop asks for the load to be taken off."""

    kind: Kind
    channel: str
    at_s: float
    value: float
    limit: float
    act: Act
    words: str


@dataclass
class LiveWatch:
    """Fed with rows as they come; each thing is told once until it is over."""

    limits: Sequence[Limit]
    _since: dict[str, float] = field(default_factory=dict)
    _told: set[str] = field(default_factory=set)
    _speeds: dict[str, list[float]] = field(default_factory=dict)

    def feed(self, elapsed_s: Sequence[float], channels: Mapping[str, Sequence[float | None]]) -> list[Alarm]:
        """Alarms that begin within these rows."""
        found: list[Alarm] = []
        for limit in self.limits:
            for at, value in _readings(elapsed_s, channels.get(limit.channel, ())):
                words = f"{value:g} is {'below' if limit.below else 'above'} {limit.value:g}"
                key = f"{limit.channel}{limit.below}{limit.value}"
                if self._held(key, at, limit.crossed(value), limit.hold_s):
                    found.append(Alarm("limit", limit.channel, at, value, limit.value, limit.act, words))
        for name, values in channels.items():
            if name.endswith("_rpm"):
                found += self._tach(name, elapsed_s, values)
        return found

    def _tach(self, name: str, elapsed_s: Sequence[float], values: Sequence[float | None]) -> list[Alarm]:
        usual = self._speeds.setdefault(name, [])
        found = []
        for at, value in _readings(elapsed_s, values):
            if len(usual) < LEARN:
                usual.append(value)
                continue
            middle = sorted(usual)[len(usual) // 2]
            lost = middle > TURNING_RPM and value < LOST_SHARE * middle
            if self._held(name, at, lost, LOST_HOLD_S):
                words = f"{value:.0f} rpm where {middle:.0f} were usual: stopped, unplugged, or its signal is lost"
                found.append(Alarm("tach_lost", name, at, value, LOST_SHARE * middle, "alarm", words))
        return found

    def _held(self, key: str, at_s: float, true: bool, hold_s: float) -> bool:
        """True once, when a thing has been true for ``hold_s``."""
        if not true:
            self._since.pop(key, None)
            self._told.discard(key)
            return False
        since = self._since.setdefault(key, at_s)
        if key in self._told or at_s - since < hold_s:
            return False
        self._told.add(key)
        return True


def speeds_off(set_rpm: Mapping[str, float], read_rpm: Mapping[str, float]) -> list[str]:
    """Words for fans that do not turn as the layout says: on another curve, a preset, the wrong header."""
    found = []
    for channel, wanted in set_rpm.items():
        read = read_rpm.get(channel)
        if read is not None and abs(read - wanted) > max(OFF_SHARE * wanted, OFF_RPM):
            found.append(f"{speed_words(channel, read, wanted)}: another curve, or another header?")
    return found


def speeds_off_in(runs: Sequence[tuple[Mapping[str, float], Mapping[str, float]]]) -> list[str]:
    """Of several runs of a layout, each with its set and its read speeds: one line for a fan, and in how many of them, where not in all."""
    found = []
    for channel in dict.fromkeys(name for wanted, _ in runs for name in wanted):
        rows = [(read[channel], wanted[channel]) for wanted, read in runs if channel in wanted and channel in read]
        off = [(was, asked) for was, asked in rows if speeds_off({channel: asked}, {channel: was})]
        if off:
            was, asked = (sum(x) / len(off) for x in zip(*off, strict=True))
            words = speed_words(channel, was, asked) + (f" in {len(off)} of {len(rows)} runs" if len(off) < len(rows) else "")
            found.append(f"{words}: another curve, or another header?")
    return found


def speed_words(channel: str, read: float, wanted: float) -> str:
    return f"{fan_name(channel)} turns at {read:.0f} where {wanted:.0f} rpm are asked"


def _readings(elapsed_s: Sequence[float], values: Sequence[float | None]) -> list[tuple[float, float]]:
    return [(t, v) for t, v in zip(elapsed_s, values, strict=False) if v is not None]
