"""What a person wants, held against the forecast: the band of pressure, and layouts ordered by what matters to them."""

from collections.abc import Sequence
from dataclasses import dataclass

from documents.job.models import LayoutDoc, PracticeDoc, PrioritiesDoc
from engine.coupled.compare import WATT_WORTH_K
from engine.coupled.forecast import Forecast
from engine.findings.finding import Finding
from engine.verdict.choose import Option, Share, beaten_by, burdens, things_of


@dataclass(frozen=True)
class Ranked:
    """A layout in the order of burden, least first; ``burden`` is 0 for one that is best in everything that matters."""

    layout: str
    burden: float
    shares: tuple[Share, ...]
    beaten_by: str | None  # a layout that is no worse in anything that matters and better in something


@dataclass(frozen=True)
class Candidate:
    layout: str
    values: dict[str, float]


def candidate(layout: LayoutDoc, forecast: Forecast, lost_w: tuple[float, float], cost: float) -> Candidate:
    """A layout's values of everything that can matter; ``lost_w`` is the power that processor and card give up."""
    values = {
        "cpu": forecast.cpu.rise_k + WATT_WORTH_K * lost_w[0],
        "noise": forecast.sound.level_dba,
        "cost": cost,
        "dust": forecast.balance.unfiltered_inflow_pct,
        "labour": layout.labour_min or 0.0,
    }
    if layout.looks_score is not None:
        values["looks"] = float(5 - layout.looks_score)
    if forecast.card:
        values["card"] = forecast.card.rise_k + WATT_WORTH_K * lost_w[1]
        values["balance"] = abs(values["cpu"] - values["card"])
    return Candidate(layout.id, values)


def ranked(candidates: Sequence[Candidate], weights: PrioritiesDoc) -> list[Ranked]:
    """Layouts by burden: for each thing its weight times the steps by which a layout is worse than the best one."""
    given: dict[str, float] = weights.model_dump()
    options = [Option(c.layout, {t: (v, 0.0) for t, v in c.values.items()}) for c in candidates]
    things, shares = things_of(options, given), burdens(options, given)
    rows = [Ranked(o.layout, sum(s.adds for s in shares[o.layout]), shares[o.layout], beaten_by(o, options, things, {})) for o in options]
    return sorted(rows, key=lambda r: r.burden)


def pressure_finding(practice: PracticeDoc, forecast: Forecast) -> Finding | None:
    """A balance outside of the band that the person set; none where no band was set."""
    if not practice.model_fields_set & {"pressure_low_m3h", "pressure_high_m3h"}:
        return None
    over = forecast.balance.intake_m3h - forecast.balance.exhaust_m3h
    low, high = practice.pressure_low_m3h, practice.pressure_high_m3h
    if over >= low and (high is None or over <= high):
        return None
    wanted = f"at least {low:.0f}" if over < low else f"at most {high:.0f}"
    return Finding(
        code="pressure_outside_band",
        severity="note",
        kind="taste",
        mounts=(),
        what="The balance is outside of the band you set",
        because=f"Intakes move {over:+.0f} m³/h over the exhausts; you want {wanted} m³/h.",
        do="Slow an exhaust or add an intake." if over < low else "Slow an intake or add an exhaust.",
    )
