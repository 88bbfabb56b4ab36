"""Air collects at the highest point of a sealed loop; a pump must not be there."""

from collections.abc import Iterator

from engine.findings.finding import Finding, Situation
from engine.machine import PlacedRadiator, SealedCooler


def _top_mm(s: Situation, radiator: PlacedRadiator) -> float:
    """Height of the radiator's highest point over the floor."""
    mounts = [s.machine.mounts[m] for m in radiator.mounts]
    middle = sum(m.centre_mm.z for m in mounts) / len(mounts)
    upright = mounts[0].face in ("front", "rear", "window") and max(m.centre_mm.z for m in mounts) - min(m.centre_mm.z for m in mounts) > 1
    return middle + (radiator.length_mm / 2 if upright else 0.0)


def pump_at_top(s: Situation) -> Iterator[Finding]:
    cooler = s.machine.cooler
    if not isinstance(cooler, SealedCooler):
        return
    tops = [(_top_mm(s, r), r) for r in cooler.radiators]
    top, radiator = max(tops, key=lambda t: t[0])
    face = s.machine.mounts[radiator.mounts[0]].face
    if cooler.pump == "radiator":
        pump_mm = top if face == "top" or radiator.tubes == "top" else top - radiator.length_mm
        place = "in the radiator"
    else:
        pump_mm, place = s.machine.cpu_z_mm, "on the processor" if cooler.pump == "block" else "in the tube"
    above = pump_mm - top
    if cooler.pump == "radiator" and face == "top":
        above = max(above, 0.0)
    elif above < 0:
        return
    yield Finding(
        code="pump_at_top",
        severity="error" if above > 20 else "warning",
        kind="practice",
        mounts=radiator.mounts,
        what="The pump sits at the top of the loop",
        because=f"The pump {place} stands {above:.0f} mm above the highest point of the radiator; the air that every sealed loop "
        "holds collects there, which is loud and wears the pump.",
        do="Place the radiator so that its upper end is above the pump: at the top, or in front with its upper end higher. "
        "Gurgling or a hot idle is a reason to stop and check.",
    )
