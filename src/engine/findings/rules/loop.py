"""Heights in a loop: air collects at its highest point; pump and barbs must not be there, now or in some years."""

from collections.abc import Iterator

from engine.findings.finding import Finding, Situation
from engine.loop.ageing import ageing
from engine.loop.heights import CLEAR_MM, LoopHeights, RadiatorHeights, loop_heights
from engine.machine import SealedCooler

SOON_YEARS = 5.0  # common practice, no source: commonly the life that makers grant a sealed loop
STOP = "Gurgling or a hot idle is a reason to stop and check."


def _loops(s: Situation) -> Iterator[tuple[SealedCooler, LoopHeights]]:
    for cooler in s.machine.loops:
        yield cooler, loop_heights(s.machine, cooler)


def _height(s: Situation, heights: LoopHeights, severity: str, words: tuple[str, str, str], code: str) -> Finding:
    grave: dict[str, tuple[str, str]] = {"error": ("error", "error"), "warning": ("warning", "error"), "note": ("note", "warning")}
    level = grave[severity][1 if s.machine.strict_loops else 0]
    mounts = heights.top_radiator.mounts
    return Finding(code=code, severity=level, kind="practice", mounts=mounts, what=words[0], because=words[1], do=words[2])  # type: ignore[arg-type]


def _other_end(r: RadiatorHeights) -> str:
    """What turning the radiator would mean for the tank that holds barbs and pump."""
    if r.lies == "upright":
        return "Turn the radiator so that the tank with the pump is the lower one"
    return "Both ends of a radiator that lies flat are equally high: stand it upright in front with the pump's tank below"


def pump_at_top(s: Situation) -> Iterator[Finding]:
    """Five positions of pump and radiator, each with its own words; an open loop is judged by its reservoir."""
    for cooler, h in _loops(s):
        top, over = h.top_radiator, h.over_pump_mm
        place = {"block": "on the block", "radiator": "in the radiator", "tube": "in the tube", "free": "in the case"}[h.pump_in]
        if h.pocket_in == "reservoir":
            continue
        if cooler.reservoir:
            high = top.high_mm - (h.reservoir_mm or 0)
            words = (
                "The reservoir is not the highest point of the loop",
                f"The radiator stands {high:.0f} mm above it; air stays in the radiator until it is bled out.",
                "Tilt the case while filling until no bubbles come, or raise the reservoir.",
            )
            yield _height(s, h, "note", words, code="reservoir_low")
        elif h.pump_in == "radiator" and h.pocket_in == "pump":
            words = (
                f"The pump sits in the tank at the {h.radiators[0].end} of its radiator, where the air goes",
                f"The pump {place} stands {h.pump.z_mm:.0f} mm over the floor, at the loop's highest point, {top.high_mm:.0f} mm; the "
                "air of the loop goes straight into it.",
                f"{_other_end(h.radiators[0])}, or place it lower. {STOP}",
            )
            yield _height(s, h, "warning" if top.lies == "flat" else "error", words, code="pump_at_top")
        elif h.pump_in == "radiator":
            words = (
                "The pump sits in the radiator, low enough",
                f"It is {h.pocket.z_mm - h.pump.z_mm:.0f} mm under the highest point, where the air collects.",
                "Keep it so; a radiator under the block is no fault with such a pump.",
            )
            if h.pocket_in == "block" or over < CLEAR_MM:
                yield _height(s, h, "note", words, code="pump_in_radiator")
        elif top.lies == "flat" and over <= 0 and s.machine.mounts[top.mounts[0]].face == "bottom":
            words = (
                "The radiator lies at the bottom: the pump is the highest point",
                f"The pump {place} stands {-over:.0f} mm above the highest point of the radiator; the air that every sealed loop "
                "holds collects in it, which is loud and wears it.",
                f"Place the radiator at the top, or in front with its upper end above the pump. {STOP}",
            )
            yield _height(s, h, "error", words, code="pump_at_top")
        elif over <= 0:
            words = (
                "The pump sits at the top of the loop",
                f"The pump {place} stands {-over:.0f} mm above the highest point of the radiator; the air that every sealed loop "
                "holds collects there, which is loud and wears the pump.",
                f"Raise the radiator until its upper end is above the pump, or place it at the top. {STOP}",
            )
            yield _height(s, h, "error" if over < -CLEAR_MM else "warning", words, code="pump_at_top")
        elif over < CLEAR_MM:
            words = (
                "The upper tank is hardly above the pump",
                f"The highest point of the radiator is {over:.0f} mm above the pump {place}; a little lost coolant is enough for air to "
                "reach it.",
                f"Raise the radiator by {CLEAR_MM - over:.0f} mm or more, or place it at the top.",
            )
            yield _height(s, h, "warning", words, code="pump_at_top")


def tubes_at_top(s: Situation) -> Iterator[Finding]:
    for _, h in _loops(s):
        for r in h.radiators:
            if r.lies != "upright" or r.barb.z_mm < (r.low_mm + r.high_mm) / 2 or h.pocket_in == "reservoir":
                continue
            words = (
                "The tubes leave the radiator at its upper end",
                f"Air gathers in the upper tank, {r.high_mm - s.machine.cpu_z_mm:.0f} mm above the processor, where the tubes "
                f"can draw it in: {r.above_barb_ml:.0f} ml are enough, as the loop loses coolant over the years.",
                "Turn the radiator so that the tubes leave at its lower end, if they reach; otherwise listen for gurgling.",
            )
            yield _height(s, h, "note", words, code="tubes_at_top")


def loop_ages(s: Situation) -> Iterator[Finding]:
    """The year in which lost coolant lets air reach barb or pump, at the forecast's coolant temperature."""
    for cooler, h in _loops(s):
        coolant = s.forecast.card_coolant if cooler is s.machine.card_loop and s.forecast.card_coolant else s.forecast.coolant
        if coolant is None or h.pocket_in == "pump":
            continue
        age = ageing(cooler, h, coolant.temperature_c)
        years = [(y, what) for y, what in ((age.barb_year, "barbs"), (age.pump_year, "pump")) if y is not None]
        if not years or min(years)[0] >= SOON_YEARS:
            continue
        year, what = min(years)
        yield Finding(
            code="loop_ages",
            severity="note",
            kind="practice",
            mounts=h.top_radiator.mounts,
            what=f"Air reaches the {what} in about {max(year, 0):.0f} years",
            because=f"It holds {age.first_ml:.0f} ml of air when new and loses {age.rate_ml_year:.1f} ml a year through its "
            f"{cooler.tube_material} tubes at {coolant.temperature_c:.0f} °C.",
            do="Turn the tubes down, keep the coolant cooler, or plan its end of life; tubes of a tighter material lose less.",
        )


RULES = (pump_at_top, tubes_at_top, loop_ages)
