"""Levels read at several speeds: the law between them, speeds to avoid, and the next speed on the way to a level.

Law: ``L = 10 lg(10^(floor/10) + 10^((full + exponent lg n)/10))`` with ``n`` the share of full speed; the floor is the room and what
is not being set (source: fan_laws, kinsler).
"""

from collections.abc import Sequence
from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

from engine.constants import SPEED_LEVEL_EXPONENT_DB
from engine.sound.tones import prominent_ratio_db

Floats = NDArray[np.float64]

EXPONENT_SD_DB = 7.0  # of fans' laws about the usual one; M
READ_DB = 0.4  # one sigma of a level read off a meter; common practice, no source
FLOOR_SD_DB = 1.0  # of a floor that was read, and of one that is only said of the room
FULL_SD_DB = 4.0  # of the forecast's level at full speed: its band
STANDS_OUT_DB, STANDS_OUT = 1.5, 3.0  # over the law, and so many of its scatter
BEAT_DB = 2.0  # a swell that is heard, trough to top; from memory
WITHIN_DB = 0.5  # of the level asked for: done
STEP_PCT = 1.0  # the least step of a controller
MOST_READINGS = 8  # twice what it takes (tests)


@dataclass(frozen=True)
class SpeedLevel:
    """A level at a speed, with the strongest tone and beat of the clip taken there, where one was."""

    speed_pct: float
    level_dba: float
    tone_db: float | None = None
    tone_hz: float | None = None
    beat_db: float | None = None


@dataclass(frozen=True)
class LevelLaw:
    """``scatter_db``: one sigma of the readings about it; ``sd``: of full level, exponent and floor."""

    full_dba: float
    exponent_db: float
    floor_dba: float
    scatter_db: float
    sd: tuple[float, float, float]
    covariance: tuple[tuple[float, ...], ...]

    def level_dba(self, speed_pct: float | Floats) -> Floats:
        return _level(np.array([self.full_dba, self.exponent_db, self.floor_dba]), np.asarray(speed_pct, float))

    def band_db(self, speed_pct: float) -> float:
        """Of the level at a speed, 95 %: the law's own, without the scatter of one more reading."""
        slope = _slopes(np.array([self.full_dba, self.exponent_db, self.floor_dba]), np.array([speed_pct]))[0]
        return float(1.96 * np.sqrt(slope @ np.array(self.covariance) @ slope))

    def speed_pct(self, level_dba: float) -> float | None:
        """The speed that gives a level; None where the floor is louder."""
        rest = 10 ** (level_dba / 10) - 10 ** (self.floor_dba / 10)
        if rest <= 0:
            return None
        return float(100 * 10 ** ((10 * np.log10(rest) - self.full_dba) / self.exponent_db))


@dataclass(frozen=True)
class BadBand:
    """Speeds to avoid and why, in words."""

    from_pct: float
    to_pct: float
    why: str


@dataclass(frozen=True)
class NextSpeed:
    """``speed_pct`` to set next; None when it is over. ``found_pct``: the speed to keep; ``within``: it gives the level asked for."""

    speed_pct: float | None
    expected_dba: float | None
    found_pct: float | None
    within: bool
    words: str


def _level(p: Floats, speed_pct: Floats) -> Floats:
    own = p[0] + p[1] * np.log10(np.maximum(speed_pct, 0.5) / 100)
    return np.asarray(10 * np.log10(10 ** (own / 10) + 10 ** (p[2] / 10)))


def _slopes(p: Floats, speed_pct: Floats) -> Floats:
    lg = np.log10(np.maximum(speed_pct, 0.5) / 100)
    own, floor = 10 ** ((p[0] + p[1] * lg) / 10), np.full(len(speed_pct), 10 ** (p[2] / 10))
    share = own / (own + floor)
    return np.stack([share, share * lg, 1 - share], axis=1)


def fitted(readings: Sequence[SpeedLevel], floor_dba: float, full_dba: float | None = None, floor_sd_db: float = FLOOR_SD_DB) -> LevelLaw:
    """The law through readings, by Gauss and Newton with the prior, readings far off it counted less (source: gum for the bands).

    ``full_dba``: the forecast's level at full speed of what is set. Raises ValueError without a reading and without a forecast.
    """
    if not readings and full_dba is None:
        raise ValueError("there is neither a reading nor a forecast")
    x = np.array([r.speed_pct for r in readings], float)
    y = np.array([r.level_dba for r in readings], float)
    loudest = readings[int(np.argmax(y))] if readings else None
    start = loudest.level_dba - SPEED_LEVEL_EXPONENT_DB * np.log10(max(loudest.speed_pct, 1) / 100) if loudest else 0.0
    prior = np.array([start if full_dba is None else full_dba, SPEED_LEVEL_EXPONENT_DB, floor_dba])
    tight = np.array([1 / (30.0 if full_dba is None else FULL_SD_DB) ** 2, 1 / EXPONENT_SD_DB**2, 1 / floor_sd_db**2])
    p, weight = prior.copy(), np.ones(len(x))
    for _ in range(40):
        slopes, off = _slopes(p, x), y - _level(p, x) if len(x) else y
        matrix = (slopes * (weight / READ_DB**2)[:, None]).T @ slopes + np.diag(tight)
        step = np.linalg.solve(matrix, slopes.T @ (weight / READ_DB**2 * off) + tight * (prior - p))
        p = p + np.clip(step, -6, 6)
        # Huber's weights: a resonance must not bend the law (textbook).
        away = np.abs(y - _level(p, x)) / READ_DB if len(x) else y
        weight = np.minimum(1.0, 1.5 / np.maximum(away, 1e-9))
        if float(np.abs(step).max()) < 1e-7:
            break
    slopes = _slopes(p, x)
    covariance = np.linalg.inv((slopes * (weight / READ_DB**2)[:, None]).T @ slopes + np.diag(tight))
    off = np.abs(y - _level(p, x)) if len(x) else y
    scatter = max(1.4826 * float(np.median(off)), READ_DB) if len(x) > 3 else READ_DB
    sd = np.sqrt(np.diag(covariance))
    return LevelLaw(
        float(p[0]),
        float(p[1]),
        float(p[2]),
        scatter,
        (float(sd[0]), float(sd[1]), float(sd[2])),
        tuple(tuple(row) for row in covariance.tolist()),
    )


def bad_bands(readings: Sequence[SpeedLevel], law: LevelLaw) -> list[BadBand]:
    """Speeds at which something sings, swells or is louder than the law says; each reaches half way to the next good reading."""
    ordered = sorted(readings, key=lambda r: r.speed_pct)
    why = [_why(r, law) for r in ordered]
    found: list[BadBand] = []
    i = 0
    while i < len(ordered):
        if not why[i]:
            i += 1
            continue
        j = i
        while j + 1 < len(ordered) and why[j + 1]:
            j += 1
        low = ordered[i].speed_pct if i == 0 else (ordered[i - 1].speed_pct + ordered[i].speed_pct) / 2
        high = ordered[j].speed_pct if j + 1 == len(ordered) else (ordered[j].speed_pct + ordered[j + 1].speed_pct) / 2
        # Of each reason the strongest case.
        of_kind: dict[str, tuple[float, str]] = {}
        for kind, size, words in (w for k in range(i, j + 1) for w in why[k]):
            of_kind[kind] = max(of_kind.get(kind, (-1.0, "")), (size, words))
        found.append(BadBand(max(low, 0.0), min(high, 100.0), ", ".join(words for _, words in of_kind.values())))
        i = j + 1
    return found


def _why(r: SpeedLevel, law: LevelLaw) -> list[tuple[str, float, str]]:
    over = r.level_dba - float(law.level_dba(r.speed_pct))
    found = []
    if over > max(STANDS_OUT_DB, STANDS_OUT * law.scatter_db):
        found.append(("loud", over, f"{over:.1f} dB louder than its speed explains"))
    if r.tone_db is not None and r.tone_hz is not None and r.tone_db >= prominent_ratio_db(r.tone_hz):
        found.append(("tone", r.tone_db, f"a tone at {r.tone_hz:.0f} Hz, {r.tone_db:.0f} dB out of its noise"))
    if r.beat_db is not None and r.beat_db >= BEAT_DB:
        found.append(("beat", r.beat_db, f"it swells by {r.beat_db:.1f} dB"))
    return found


def sweep_speeds(low_pct: float, high_pct: float, steps: int) -> list[float]:
    """Speeds of a sweep, evenly spaced, rising; whole percents."""
    return list(dict.fromkeys(float(round(v)) for v in np.linspace(low_pct, high_pct, max(steps, 2))))


def next_speed(
    readings: Sequence[SpeedLevel],
    target_dba: float,
    floor_dba: float,
    full_dba: float | None = None,
    low_pct: float = 20.0,
    high_pct: float = 100.0,
    avoid_pct: Sequence[tuple[float, float]] = (),
    before: Sequence[SpeedLevel] = (),
) -> NextSpeed:
    """The next speed on the way to a level: the law's, drawn between the two readings that hold it once there are such.

    ``before``: readings of a sweep, from which the law is known; the level itself is read all the same. Ends within WITHIN_DB, at
    an end of what may be set, at the edge of a band to avoid, or after MOST_READINGS.
    """
    good = [r for r in readings if not _inside(r.speed_pct, avoid_pct)]
    near = min(good, key=lambda r: abs(r.level_dba - target_dba), default=None)
    if near and abs(near.level_dba - target_dba) <= WITHIN_DB:
        return NextSpeed(None, None, near.speed_pct, True, f"{near.level_dba:.1f} dBA at {near.speed_pct:.0f} %: found")
    law = fitted([*before, *readings], floor_dba, full_dba)
    wanted = law.speed_pct(target_dba)
    lower = max((r for r in good if r.level_dba < target_dba), key=lambda r: r.speed_pct, default=None)
    upper = min((r for r in good if r.level_dba > target_dba), key=lambda r: r.speed_pct, default=None)
    if lower and upper and lower.speed_pct < upper.speed_pct:
        wanted = _between(lower, upper, target_dba, law.floor_dba)
        if upper.speed_pct - lower.speed_pct <= STEP_PCT:
            return NextSpeed(
                None, None, lower.speed_pct, False, f"no speed lies between {lower.level_dba:.1f} and {upper.level_dba:.1f} dBA"
            )
    speed = _allowed(low_pct if wanted is None else wanted, low_pct, high_pct, avoid_pct)
    seen = next((r for r in readings if abs(r.speed_pct - speed) < STEP_PCT), None)
    if seen is None and len(readings) < MOST_READINGS:
        return NextSpeed(speed, float(law.level_dba(speed)), None, False, f"set {speed:.0f} %, about {float(law.level_dba(speed)):.1f} dBA")
    under = [r for r in good if r.level_dba <= target_dba + WITHIN_DB]
    if under:
        best = max(under, key=lambda r: r.level_dba)
        held = (
            "a band to avoid lies there"
            if _inside_any(wanted, avoid_pct)
            else "more may not be set"
            if speed >= high_pct
            else "no step comes nearer"
        )
        return NextSpeed(
            None, None, best.speed_pct, False, f"{best.level_dba:.1f} dBA at {best.speed_pct:.0f} % is the nearest under it: {held}"
        )
    quiet = min(good, key=lambda r: r.level_dba, default=None)
    told = f"even at {quiet.speed_pct:.0f} % it is {quiet.level_dba:.1f} dBA" if quiet else "no speed outside the bands to avoid was read"
    return NextSpeed(
        None,
        None,
        None,
        False,
        f"{target_dba:.1f} dBA cannot be met: {told}, of which the room and what is not set are {law.floor_dba:.1f}",
    )


def _between(a: SpeedLevel, b: SpeedLevel, target_dba: float, floor_dba: float) -> float:
    """Between two readings, straight in the logarithms of speed and of what is over the floor."""
    least = min(floor_dba, a.level_dba - 0.3)
    low, high, goal = (10 * np.log10(10 ** (v / 10) - 10 ** (least / 10)) for v in (a.level_dba, b.level_dba, target_dba))
    share = (goal - low) / max(high - low, 1e-9)
    return float(a.speed_pct * (b.speed_pct / a.speed_pct) ** min(max(share, 0.05), 0.95))


def _inside(speed_pct: float, bands: Sequence[tuple[float, float]]) -> bool:
    return any(low <= speed_pct <= high for low, high in bands)


def _inside_any(speed_pct: float | None, bands: Sequence[tuple[float, float]]) -> bool:
    return speed_pct is not None and _inside(speed_pct, bands)


def _allowed(speed_pct: float, low_pct: float, high_pct: float, bands: Sequence[tuple[float, float]]) -> float:
    """The nearest speed at or below that is allowed, a whole percent; above the band where nothing lies below."""
    wanted = float(round(min(max(speed_pct, low_pct), high_pct)))
    for low, high in sorted(bands, reverse=True):
        if low <= wanted <= high:
            under = float(np.ceil(low) - 1)
            wanted = under if under >= low_pct else float(np.floor(high) + 1)
    return min(max(wanted, low_pct), high_pct)


def joined(bands: Sequence[tuple[float, float]]) -> list[tuple[float, float]]:
    """Bands that touch are one."""
    out: list[tuple[float, float]] = []
    for low, high in sorted(bands):
        if out and low <= out[-1][1]:
            out[-1] = (out[-1][0], max(out[-1][1], high))
        else:
            out.append((low, high))
    return out
