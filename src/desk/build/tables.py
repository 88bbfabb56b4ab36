"""Tables of a build for other programs."""

import csv
import io

from desk.build.shapes import BuildDoc
from desk.words.build import FOLLOWS


def wiring_csv(build: BuildDoc) -> str:
    """One row a lead: where it goes, by what, how long it is and has to be; then what each header carries."""
    out = io.StringIO()
    rows = csv.writer(out, lineterminator="\n")
    rows.writerow(["what", "label", "header", "via", "length_mm", "needs_mm", "through", "sum_a", "limit_a", "verdict"])
    for f in build.fans:
        lead = f.lead
        rows.writerow(
            ["fan", f.label, lead.to or "", lead.via or "", _mm(lead.length_mm), _mm(lead.needs_mm), " ".join(lead.through), "", "", ""]
        )
    for h in build.headers:
        limit = "" if h.limit_a is None else f"{h.limit_a:.2f}"
        rows.writerow(["header", "; ".join(h.plugs), h.header, "", "", "", "", f"{h.sum_a:.2f}", limit, h.verdict])
    return out.getvalue()


def steps_csv(build: BuildDoc) -> str:
    """A plain table of steps to type into any firmware."""
    out = io.StringIO()
    rows = csv.writer(out, lineterminator="\n")
    rows.writerow(["fans", "mounts", "follows", "temperature_c", "speed_pct", "slower_below_k", "ramp_s"])
    for c in build.curves:
        for t, s in c.points:
            mounts = " ".join(m.upper() for m in c.mounts)
            told = FOLLOWS.get(c.source, c.source)
            rows.writerow([c.group, mounts, told, f"{t:g}", f"{s:g}", f"{c.hysteresis_k:g}", f"{c.delay_s:g}"])
    return out.getvalue()


def _mm(value: float | None) -> str:
    return "" if value is None else f"{value:.0f}"
