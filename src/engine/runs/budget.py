"""Uncertainty budgets in the manner of the GUM (JCGM 100): every contribution by name, combined, and expanded to 95 %."""

from collections.abc import Iterable, Sequence
from dataclasses import dataclass
from math import inf, isfinite, sqrt
from typing import Literal

CONFIDENCE = 0.95  # usual in reports of measurement (GUM)
# Half-widths of a sensor's own error, the same in every run with that sensor. From memory, to be replaced by a data sheet's.
OWN_ERROR = {
    "cpu": 2.0,
    "card": 2.0,
    "board": 3.0,
    "vrm": 3.0,
    "coolant": 0.5,
    "air": 1.0,
    "sound": 1.4,
}
# Half-widths of a sound meter's own error by its class, and of a phone or a meter without one: acceptance limits of IEC 61672-1 at 1 kHz
# with the test's own uncertainty, from memory; the last is common practice, no source.
METER_ERROR_DB = {"class_1": 1.1, "class_2": 1.4, "unclassed": 4.0}
METER_WORDS = {"class_1": "class 1", "class_2": "class 2", "unclassed": "without a class"}
LEAST_SAID_K = 0.005  # numerical
ROOM_OWN_ERROR_K = 0.5  # calibration of a common room thermometer, half-width; from memory
ROOM_PLACING_K = 0.3  # where it hangs and what it drifts between two runs, half-width; from memory


@dataclass(frozen=True)
class BudgetLine:
    """One contribution. ``standard`` in the figure's unit; ``freedom`` None where unlimited; ``common``: the same in every run
    with the same sensors, so that it leaves a difference alone. ``shared``: the same in all runs of that name, and in no others."""

    what: str
    standard: float
    kind: Literal["A", "B"] = "B"
    freedom: float | None = None
    common: bool = False
    shared: str = ""


@dataclass(frozen=True)
class Budget:
    """A figure with its contributions. ``expanded`` = ``factor`` times ``standard``, at 95 %. ``spent``: variance squared over its
    degrees of freedom, where that is not the sum over the lines."""

    value: float
    lines: tuple[BudgetLine, ...]
    standard: float
    freedom: float | None
    factor: float
    expanded: float
    spent: float | None = None

    @property
    def among_alike(self) -> float:
        """Standard uncertainty among figures of the same sensors: without what they share."""
        return combined(x for x in self.lines if not x.common)[0]

    @property
    def drawn(self) -> float:
        """The same as the width of a normal distribution with Student's 95 % interval, for draws."""
        standard, freedom = combined((x for x in self.lines if not x.common), self.spent)
        return standard * coverage_factor(freedom) / coverage_factor(inf)


def rectangular(half_width: float) -> float:
    """Standard uncertainty of a value known to lie within ± half_width (source: gum, 4.3.7)."""
    return half_width / sqrt(3)


def combined(lines: Iterable[BudgetLine], spent: float | None = None) -> tuple[float, float]:
    """(standard uncertainty, effective degrees of freedom) by Welch and Satterthwaite (source: gum, G.4.1).

    ``spent``: variance squared over its degrees of freedom, where lines share an estimate and must not be counted one by one.
    """
    used = [x for x in lines if x.standard > 0]
    variance = sum(x.standard**2 for x in used)
    if spent is None:
        spent = sum(x.standard**4 / x.freedom for x in used if x.freedom is not None)
    return sqrt(variance), inf if spent <= 0 else variance**2 / spent


def coverage_factor(freedom: float, confidence: float = CONFIDENCE) -> float:
    """Student's t for an interval on both sides (source: gum, table G.2)."""
    return t_quantile(0.5 + confidence / 2, freedom)


def t_quantile(p: float, freedom: float) -> float:
    """Student's t below which a share ``p`` lies; the normal one for unlimited freedom."""
    from scipy import special  # here: it takes a quarter of a second, and a forecast does not ask for it

    return float(special.stdtrit(freedom, p) if isfinite(freedom) else special.ndtri(p))


def t_above(t: float, freedom: float) -> float:
    """Probability of a Student's t above ``t``."""
    from scipy import special

    return float(special.stdtr(freedom, -t) if isfinite(freedom) else special.ndtr(-t))


def budget(value: float, lines: Sequence[BudgetLine], spent: float | None = None) -> Budget:
    """All contributions of a figure, combined and expanded."""
    standard, freedom = combined(lines, spent)
    factor = coverage_factor(freedom)
    return Budget(value, tuple(lines), standard, freedom if isfinite(freedom) else None, factor, factor * standard, spent)


def mean_of_runs(runs: Sequence[Sequence[BudgetLine]]) -> list[BudgetLine]:
    """Contributions to the mean of several runs' figures: a run's own ones average out, common ones stay."""
    n, found = len(runs), dict[tuple[str, bool, str], list[BudgetLine]]()
    for line in (x for lines in runs for x in lines):
        found.setdefault((line.what, line.common, line.shared), []).append(line)
    merged = []
    for (what, common, shared), parts in found.items():
        if common:
            standard, freedom = max(x.standard for x in parts), None
        elif shared:
            standard, freedom = sum(x.standard for x in parts) / n, None
        else:
            total, effective = combined(parts)
            standard, freedom = total / n, effective if isfinite(effective) else None
        merged.append(BudgetLine(what, standard, parts[0].kind, freedom, common, shared))
    return merged


def sensor_error(channel: str, meter: str = "") -> BudgetLine | None:
    """What a channel's own sensor may be off by, in every run alike; None where nothing is stated. ``meter``: class of a sound meter."""
    if channel == "sound_dba" and meter in METER_ERROR_DB:
        return BudgetLine(f"the meter's own error, {METER_WORDS[meter]}", rectangular(METER_ERROR_DB[meter]), common=True)
    half_width = OWN_ERROR.get(channel.split("_")[0]) if channel.endswith(("_c", "_dba")) else None
    return BudgetLine("the sensor's own error", rectangular(half_width), common=True) if half_width else None


def room_lines(unseen_k: float = 0.0) -> tuple[BudgetLine, ...]:
    """What taking the room away adds. ``unseen_k``: by a probe that reads in steps."""
    steps = (BudgetLine("the room thermometer's steps", unseen_k),) if unseen_k > LEAST_SAID_K else ()
    return (
        *steps,
        BudgetLine("the room thermometer from one run to the next", rectangular(ROOM_PLACING_K)),
        BudgetLine("the room thermometer's own error", rectangular(ROOM_OWN_ERROR_K), common=True),
    )
