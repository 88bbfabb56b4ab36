"""A made-up recorder beside the made-up machine: a clip in which every sound has its place, and the truth of it.

Each fan gives broad noise and the lines of its blades; a panel of the case resonates when a line comes near it; fans that turn alike beat
about one speed; the pump sings, the supply hums. The truth is not the forecast's: its own offsets are drawn once per seed.
"""

import io
from collections.abc import Sequence
from dataclasses import dataclass

import numpy as np
import soundfile
from numpy.typing import NDArray

from engine.coupled.forecast import fan_level_dba, inner_levels
from engine.coupled.operating_point import OperatingPoint, operating_point
from engine.machine import Machine
from engine.sound.levels import sum_levels_dba
from engine.sound.weighting import a_weight_db

Floats = NDArray[np.float64]
Singles = NDArray[np.float32]

RATE_HZ = 48_000
LISTENING_DB = 66.0  # full scale of what is made to be listened to
FULL_SCALE_DB = 100.0  # the level of a mean square of one: what the recorder's gain is set to
LINES_UNDER_DB = (4.0, 11.0, 18.0)  # of blade passing and its multiples under the fan's own level
RESONANCE_GAIN_DB, RESONANCE_WIDTH = 18.0, 0.1  # at the panel's own frequency, and how far off it still sings, either way
NO_RESONANCE = 1.0  # Hz: nothing that turns comes near it
BEAT_HZ, BEAT_SWING, BEAT_WIDTH = 0.2, 0.3, 0.1  # swell of what the loudest fans that turn alike give together
BROAD_UNDER_DB = 0.6  # broad noise under the fan's own level: the rest is in its lines
PUMP_VANES = 6
PUMP_UNDER_DB, HUM_UNDER_DB = 4.0, 22.0
HUM_HZ = 100.0


@dataclass(frozen=True)
class Line:
    """A pure tone in the clip: its level unweighted, in dB."""

    of: str
    frequency_hz: float
    level_db: float


@dataclass(frozen=True)
class SoundTruth:
    """What the clip holds. ``resonance_rpm``: by fan speed at which its blades meet the panel's own frequency."""

    level_dba: float
    lines: tuple[Line, ...]
    beat_hz: float | None
    resonance_hz: float

    def resonance_rpm(self, blades: int) -> float:
        return self.resonance_hz * 60 / blades


def resonance_hz(seed: int) -> float:
    """Of the case's panel, drawn once for a machine."""
    return float(np.random.default_rng(seed + 311).uniform(135.0, 175.0))


def beat_rpm(seed: int) -> float:
    """About which fans that turn alike beat in this case."""
    return float(np.random.default_rng(seed + 613).uniform(1250.0, 1330.0))


def _offsets(names: Sequence[str], seed: int) -> dict[str, float]:
    """How far each source lies off its sheet in truth, in dB: the same for a machine in every clip."""
    return {name: float(np.random.default_rng([seed + 77, *name.encode()]).normal(0.0, 1.5)) for name in dict.fromkeys(names)}


def truth_of(machine: Machine, seed: int = 1, blades: dict[str, int] | None = None) -> SoundTruth:
    """What a clip of a machine holds, without making one."""
    return _made(machine, seed, blades or {})[0]


def _made(machine: Machine, seed: int, blades: dict[str, int]) -> tuple[SoundTruth, list["_Real"], tuple[str, ...]]:
    real, resonance = _sources(operating_point(machine), seed, blades), resonance_hz(seed)
    lines = [line for source in real for line in _lines(source, resonance)]
    lines.append(Line("supply", HUM_HZ, machine.room.background_dba - HUM_UNDER_DB + 19.1))  # 19.1 dB: what A takes off 100 Hz
    pair = _pair(real, beat_rpm(seed) / 60)
    more = 10 * float(np.log10(1 + BEAT_SWING**2 / 2))  # what a swell adds to the mean
    levels = [(s.name, s.level_dba - BROAD_UNDER_DB) for s in real]
    levels += [(x.of, x.level_db + float(a_weight_db([x.frequency_hz])[0])) for x in lines]
    level = sum_levels_dba([machine.room.background_dba, *(v + (more if name in pair else 0.0) for name, v in levels)])
    return SoundTruth(level, tuple(lines), BEAT_HZ if pair else None, resonance), real, pair


def record(
    machine: Machine, seconds: float, seed: int = 1, blades: dict[str, int] | None = None, take: int = 0
) -> tuple[Singles, SoundTruth]:
    """A clip of a machine at rest from all but its fans' speeds: samples in shares of full scale. ``take``: another of the same."""
    truth, real, pair = _made(machine, seed, blades or {})
    rng = np.random.default_rng([seed, take])
    n = int(seconds * RATE_HZ)
    t = np.arange(n) / RATE_HZ
    swell = 1 + BEAT_SWING * np.cos(2 * np.pi * BEAT_HZ * t)
    out = _noise(rng, n, machine.room.background_dba, 300.0)
    for source in real:
        out += _noise(rng, n, source.level_dba - BROAD_UNDER_DB, source.corner_hz) * (swell if source.name in pair else 1.0)
    steady = [x for x in truth.lines if x.of not in pair]
    out += _sung(rng, steady, t) + _sung(rng, [x for x in truth.lines if x.of in pair], t) * swell
    return out.astype(np.float32), truth


def _sung(rng: np.random.Generator, lines: Sequence[Line], t: Floats) -> Floats:
    """Lines of one frequency are one: fans that turn alike are never in step, so that their energies add."""
    together: dict[float, float] = {}
    for x in lines:
        hz = round(x.frequency_hz, 2)
        together[hz] = together.get(hz, 0.0) + 10 ** ((x.level_db - FULL_SCALE_DB) / 10)
    out = np.zeros(len(t))
    for hz, square in together.items():
        out += np.sqrt(2 * square) * np.sin(2 * np.pi * hz * t + rng.uniform(0, 2 * np.pi))
    return out


def synthesised(machine: Machine, seconds: float, blades: dict[str, int], level_dba: float) -> Singles:
    """How a layout is forecast to sound: its sources' levels and lines, no resonance and no swell, of exactly the forecast's level.

    Full scale is LISTENING_DB, so that a quiet machine is heard at a usual volume and none is cut off.
    """
    real = _sources(operating_point(machine), 0, blades, as_told=True)
    lines = [line for source in real for line in _lines(source, NO_RESONANCE)]
    rng, n = np.random.default_rng(1), int(seconds * RATE_HZ)
    out = _noise(rng, n, machine.room.background_dba, 300.0) + _sung(rng, lines, np.arange(n) / RATE_HZ)
    for source in real:
        out += _noise(rng, n, source.level_dba - BROAD_UNDER_DB, source.corner_hz)
    levels = [machine.room.background_dba, *(s.level_dba - BROAD_UNDER_DB for s in real)]
    levels += [x.level_db + float(a_weight_db([x.frequency_hz])[0]) for x in lines]
    shift = level_dba - sum_levels_dba(levels) + FULL_SCALE_DB - LISTENING_DB
    return np.asarray(out * 10 ** (shift / 20)).astype(np.float32)


def room_alone(machine: Machine, seconds: float, seed: int = 1) -> Singles:
    """The same place with the machine off."""
    rng = np.random.default_rng([seed, 9])
    return _noise(rng, int(seconds * RATE_HZ), machine.room.background_dba, 300.0).astype(np.float32)


def calibrator(seconds: float = 10.0, level_db: float = 94.0, seed: int = 1) -> Singles:
    """A calibrator of 1 kHz on the recorder's microphone."""
    t = np.arange(int(seconds * RATE_HZ)) / RATE_HZ
    tone = np.sqrt(2) * 10 ** ((level_db - FULL_SCALE_DB) / 20) * np.sin(2 * np.pi * 1000.0 * t)
    return np.asarray(tone + np.random.default_rng(seed).normal(0, 1e-5, len(t))).astype(np.float32)


def wav(samples: Singles, subtype: str = "PCM_24", rate_hz: int = RATE_HZ) -> bytes:
    """As a recorder writes it."""
    out = io.BytesIO()
    soundfile.write(out, samples, rate_hz, format="WAV", subtype=subtype)
    return out.getvalue()


@dataclass(frozen=True)
class _Real:
    name: str
    level_dba: float
    off_db: float
    corner_hz: float
    turn_hz: float
    blades: int | None


def _sources(point: OperatingPoint, seed: int, blades: dict[str, int], as_told: bool = False) -> list[_Real]:
    """``as_told``: by the sheets, without what a real machine is off by."""
    m = point.machine
    found = []
    for i, placed in enumerate(m.fans):
        if not placed.running or placed.speed_pct <= 0:
            continue
        share = point.speeds.fans[i] / 100
        found.append((f"fan at {placed.mount.upper()}", placed, fan_level_dba(m, placed, share), placed.fan.speed_max_rpm * share / 60))
    inner = inner_levels(m, point.speeds.cooler, point.speeds.card, point.speeds.pump)
    names = [*(f.fan.id for _, f, _, _ in found), *(name for name, _ in inner)]
    off = dict.fromkeys(names, 0.0) if as_told else _offsets(names, seed)
    real = [_Real(name, level + off[f.fan.id], off[f.fan.id], 700.0, hz, blades.get(f.fan.id, 9)) for name, f, level, hz in found]
    for name, level in dict(inner).items():
        pump = "pump" in name
        turn = 2700 / 60 * (point.speeds.pump / 100 if name == "the pump" else 1.0) if pump else 0.0
        real.append(_Real(name, level + off[name], off[name], 2200.0 if pump else 900.0, turn, PUMP_VANES if pump else None))
    return [r for r in real if r.level_dba > -20]


def _lines(source: _Real, resonance: float) -> list[Line]:
    """Blade passing and its multiples, each as much under the source's level as it is; a panel lifts what comes near it."""
    if source.blades is None or source.turn_hz <= 0:
        return []
    under = (PUMP_UNDER_DB,) if "pump" in source.name else LINES_UNDER_DB
    found = []
    for k, down in enumerate(under, start=1):
        hz = source.turn_hz * source.blades * k
        lift = RESONANCE_GAIN_DB * float(np.exp(-0.5 * ((hz / resonance - 1) / (RESONANCE_WIDTH / 2)) ** 2)) if k == 1 else 0.0
        found.append(Line(source.name, hz, source.level_dba - down - float(a_weight_db([min(hz, 1000.0)])[0]) * 0.5 + lift))
    return found


def _pair(real: Sequence[_Real], at_hz: float) -> tuple[str, ...]:
    """The fans that turn as the loudest does, where it is not alone and near the speed at which this case lets them beat."""
    fans = sorted((r for r in real if r.blades is not None and "pump" not in r.name), key=lambda r: -r.level_dba)
    alike = tuple(f.name for f in fans if abs(f.turn_hz - fans[0].turn_hz) < 0.02 * fans[0].turn_hz)
    near = bool(fans) and abs(fans[0].turn_hz / at_hz - 1) < BEAT_WIDTH / 2
    return alike if len(alike) > 1 and near else ()


def _noise(rng: np.random.Generator, n: int, level_dba: float, corner_hz: float) -> Floats:
    """Broad noise that falls above a corner, of an exact A-weighted level."""
    from scipy import fft  # here: slow to load

    f = fft.rfftfreq(n, 1 / RATE_HZ)
    shape = 1 / np.sqrt(1 + (f / corner_hz) ** 2.4) * (f > 20)
    spectrum = fft.rfft(rng.normal(size=n)) * shape
    weighted = np.abs(spectrum) ** 2 * 10 ** (a_weight_db(np.maximum(f, 1.0)) / 10)
    now = 2 * float(weighted.sum()) / n**2
    return np.asarray(fft.irfft(spectrum, n) * np.sqrt(10 ** ((level_dba - FULL_SCALE_DB) / 10) / now))
