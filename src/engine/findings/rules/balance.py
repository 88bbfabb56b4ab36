"""More air out than in: the rest comes through openings without a filter."""

from collections.abc import Iterator

from engine.coupled.links import ROOM
from engine.findings.finding import Finding, Situation

WORTH_SAYING_M3H = 5.0
_WORDS = {
    "leak:slot_covers": "the slot covers",
    "leak:seam": "seams",
    "card:bracket": "the card's bracket",
    "vent:basement": "the basement's vents",
}


def negative_unfiltered(s: Situation) -> Iterator[Finding]:
    b = s.forecast.balance
    drawn = b.exhaust_m3h - b.intake_m3h
    unfiltered = b.unfiltered_inflow_pct / 100 * b.inflow_total_m3h
    if drawn <= WORTH_SAYING_M3H or unfiltered <= WORTH_SAYING_M3H or s.machine.open_faces:
        return
    entries: dict[str, float] = {}
    fitted = {f.mount for f in s.machine.fans}
    for link in s.forecast.links:
        inward = link.flow_m3h if link.tail == ROOM else -link.flow_m3h if link.head == ROOM else 0.0
        if inward > 0 and link.mount not in fitted:
            words = next((w for key, w in _WORDS.items() if link.id.startswith(key)), None)
            words = words or (f"the empty mount {link.mount.upper()}" if link.mount else "other openings")
            entries[words] = entries.get(words, 0.0) + inward
    places = [w for w, q in sorted(entries.items(), key=lambda e: -e[1]) if q > 1.0][:3] or ["small gaps"]
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
