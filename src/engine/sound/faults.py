"""What spoils a clip: samples cut off at full scale, holes, a recorder that turns its own gain, voices and knocks."""

from dataclasses import dataclass, field

import numpy as np
from numpy.typing import NDArray

from engine.sound.listening import MOST_MISSING, STEP_S, Heard, decibels
from engine.sound.weighting import OCTAVE

Floats = NDArray[np.float64]
Singles = NDArray[np.float32]

FULL = 0.9985  # of full scale; common practice, no source
CUT_SAMPLES = 3  # in a row at full scale are no peak
HOLE_S = 0.004  # of the very same value: no air is as still as that
QUIET_DB = -75.0  # mean square re full scale under which the steps of a 16-bit file are heard
JUMP_DB, AWAY = 6.0, 5.0  # a stretch louder than the clip's middle by this, and by so many of its usual scatter
STRETCH_S = 0.5  # of a knock or a syllable; no source
MOST_LOUD = 0.25  # of the clip: what lasts longer is the sound itself, such as another speed
VOICE_HZ = (300.0, 3400.0)  # range of a telephone; common practice
GAIN_DB, GAIN_ALIKE_DB = 3.0, 1.5  # all octaves move by this, and by as much as each other to that
MOST_TOLD = 20  # numerical


@dataclass(frozen=True)
class ClipFlag:
    """``code``: clipped, dropout, gain_moved, speech, disturbed, too_quiet, short."""

    code: str
    from_s: float
    to_s: float
    detail: str = ""


@dataclass
class Watch:
    """Looks at the samples themselves, block by block."""

    rate_hz: int
    _at: int = 0
    _cut: list[tuple[int, int]] = field(default_factory=list)
    _still: list[list[tuple[int, int]]] = field(default_factory=list)  # by channel

    def take(self, block: Singles) -> None:
        for c in range(block.shape[1]):
            x = block[:, c]
            self._cut += [(self._at + a, self._at + b) for a, b in _runs(np.abs(x) >= FULL, CUT_SAMPLES)]
            still = np.concatenate([[False], np.diff(x) == 0])
            if len(self._still) <= c:
                self._still.append([])
            self._still[c] += [(self._at + a - 1, self._at + b) for a, b in _runs(still, int(HOLE_S * self.rate_hz))]
        self._at += len(block)

    def _dead(self, channel: int) -> bool:
        return sum(b - a for a, b in _joined(self._still[channel], 0)) > MOST_MISSING * self._at

    def holes(self) -> list[tuple[int, int]]:
        """Where a channel stands still, in samples; a channel that does so throughout is none of them."""
        return _joined([hole for c, holes in enumerate(self._still) if not self._dead(c) for hole in holes], 0)

    def flags(self) -> list[ClipFlag]:
        whole_s = self._at / self.rate_hz
        dead = sum(map(self._dead, range(len(self._still))))
        if dead == len(self._still):
            return [ClipFlag("dropout", 0.0, whole_s, "there is nothing on it")]
        cut = _joined(self._cut, int(0.5 * self.rate_hz))
        found = [self._flag("clipped", a, b, "cut off at full scale: turn the recorder down") for a, b in cut[:MOST_TOLD]]
        if dead:
            words = f"nothing on {dead} of its {len(self._still)} channels: levels are the mean of all of them"
            found.append(ClipFlag("dropout", 0.0, whole_s, words))
        holes = _joined(self.holes(), int(0.05 * self.rate_hz))
        return found + [self._flag("dropout", a, b, "a hole, the samples stand still: left out") for a, b in holes[:MOST_TOLD]]

    def _flag(self, code: str, a: int, b: int, detail: str) -> ClipFlag:
        return ClipFlag(code, round(a / self.rate_hz, 3), round(b / self.rate_hz, 3), detail)


def _runs(on: NDArray[np.bool_], least: int) -> list[tuple[int, int]]:
    edges = np.flatnonzero(np.diff(np.concatenate([[0], on.astype(np.int8), [0]])))
    return [(int(a), int(b)) for a, b in zip(edges[::2], edges[1::2], strict=True) if b - a >= least]


def _joined(runs: list[tuple[int, int]], gap: int) -> list[tuple[int, int]]:
    out: list[tuple[int, int]] = []
    for a, b in sorted(runs):
        if out and a - out[-1][1] <= gap:
            out[-1] = (out[-1][0], max(out[-1][1], b))
        else:
            out.append((a, b))
    return out


def level_flags(heard: Heard) -> list[ClipFlag]:
    """What the levels over time tell: knocks and voices, a gain that moves, too little to go by."""
    found = []
    if float(decibels(heard.mean_square)) < QUIET_DB:
        words = f"{float(decibels(heard.mean_square)):.0f} dB under full scale: turn the recorder up"
        found.append(ClipFlag("too_quiet", 0.0, heard.seconds, words))
    if heard.seconds < 5:
        found.append(ClipFlag("short", 0.0, heard.seconds, "under 5 s: record ten seconds or more"))
    return [*found, *_loud(heard), *_gain(heard)]


def disturbed(heard: Heard) -> NDArray[np.bool_]:
    """Which steps of the level lie in stretches that are far louder than the clip's own middle."""
    n = max(int(STRETCH_S / STEP_S), 1)
    whole = len(heard.energy) // n
    out = np.zeros(len(heard.energy), bool)
    if whole < 6:
        return out
    blocks = decibels(heard.energy[: whole * n].reshape(whole, n).mean(axis=1))
    middle = float(np.median(blocks))
    usual = 1.4826 * float(np.median(np.abs(blocks - middle)))  # of a normal distribution (textbook)
    loud = blocks > middle + max(JUMP_DB, AWAY * usual)
    if float(loud.mean()) > MOST_LOUD:
        return out
    out[: whole * n] = np.repeat(loud, n)
    return out


def undisturbed(heard: Heard) -> NDArray[np.bool_]:
    """Which steps count for the levels: no knock and no hole; all, where none is left."""
    good = ~disturbed(heard) & ~heard.still
    return good if good.any() else np.ones(len(good), bool)


def _loud(heard: Heard) -> list[ClipFlag]:
    on = disturbed(heard)
    found = []
    for a, b in _joined(_runs(on, 1), int(1.0 / STEP_S))[:MOST_TOLD]:
        from_s, to_s = heard.begins_s + a * STEP_S, heard.begins_s + b * STEP_S
        speech = _voice(heard, from_s, to_s)
        words = "voices" if speech else "a knock, traffic or somebody moving"
        found.append(ClipFlag("speech" if speech else "disturbed", round(from_s, 2), round(to_s, 2), f"{words}: left out of the levels"))
    return found


def _voice(heard: Heard, from_s: float, to_s: float) -> bool:
    """Whether what was added lies in the band of voices and comes and goes as syllables do."""
    a, b = int(from_s / heard.column_s), max(int(np.ceil(to_s / heard.column_s)), int(from_s / heard.column_s) + 1)
    if not len(heard.columns):
        return False
    usual = np.median(heard.columns, axis=0)
    more = np.clip(heard.columns[a:b] - usual, 0, None)
    voice = (heard.column_hz >= VOICE_HZ[0]) & (heard.column_hz <= VOICE_HZ[1])
    total = float(more.sum())
    if total <= 0 or float(more[:, voice].sum()) < 0.6 * total:
        return False
    return b - a >= 4 and float(np.std(decibels(heard.columns[a:b][:, voice].sum(axis=1)))) > 2.0


def _gain(heard: Heard) -> list[ClipFlag]:
    """All octaves rise or fall together over the clip: a recorder's gain that moves by itself, or another speed."""
    if heard.seconds < 6 or len(heard.columns) < 24:
        return []
    octave = np.floor(np.log(heard.column_hz / 125.0) / np.log(OCTAVE)).astype(int)
    thirds = [part[~still] for part, still in zip(np.array_split(heard.columns, 3), np.array_split(heard.still_columns, 3), strict=True)]
    if not len(thirds[0]) or not len(thirds[-1]):
        return []
    first, last = ([float(part[:, octave == k].sum(axis=1).mean()) for k in range(6)] for part in (thirds[0], thirds[-1]))
    if min(*first, *last) <= 0:
        return []
    moves = decibels(np.array(last)) - decibels(np.array(first))
    if abs(float(moves.mean())) < GAIN_DB or float(moves.max() - moves.min()) > GAIN_ALIKE_DB:
        return []
    words = f"all octaves moved by {float(moves.mean()):+.1f} dB alike: a gain that turns itself, or other speeds"
    return [ClipFlag("gain_moved", 0.0, round(heard.seconds, 2), words)]
