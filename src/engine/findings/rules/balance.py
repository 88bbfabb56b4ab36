"""More air out than in: the rest comes through openings without a filter."""

from collections.abc import Iterator

from engine.coupled.openings import passive_openings
from engine.findings.finding import Finding, Situation

WORTH_SAYING_M3H = 5.0  # less is not worth saying; common practice, no source


def negative_unfiltered(s: Situation) -> Iterator[Finding]:
    b = s.forecast.balance
    drawn = b.exhaust_m3h - b.intake_m3h
    unfiltered = b.unfiltered_inflow_pct / 100 * b.inflow_total_m3h
    if drawn <= WORTH_SAYING_M3H or unfiltered <= WORTH_SAYING_M3H or s.machine.open_faces:
        return
    places = [o.words for o in passive_openings(s.point) if o.out_m3h < -1.0][:3] or ["small gaps"]
    yield Finding(
        code="negative_unfiltered",
        severity="note",
        kind="practice",
        mounts=tuple(f.mount for f in s.running("exhaust")),
        what="More air is blown out than in",
        because=f"{drawn:.0f} m³/h more go out than in; {unfiltered:.0f} m³/h come in unfiltered, mostly through {', '.join(places)}, "
        "and bring dust.",
        do="Slow an exhaust, add a filtered intake, or close the gaps.",
    )
