"""How to hang a probe at a point of the case so that it reads the air there. Common practice, no source."""

from engine.machine import Machine, Point

NEAR_MM = 60.0  # of blades or fins; common practice, no source
WALL_MM = 25.0  # a probe nearer reads the wall; common practice, no source
BEFORE_COOLER_MM = 110.0  # what a tower draws from; common practice, no source


def advice(machine: Machine, at: Point) -> str:
    """One or two sentences: what is near, and what the probe must not touch or stand in."""
    said = []
    fan = _nearest_fan(machine, at)
    if fan:
        said.append(f"Clip it, do not hold it: the blades at {fan.upper()} are near.")
    if machine.depth_mm - at.x < NEAR_MM and at.z > machine.card_height_mm:
        said.append("In the stream that leaves at the rear: this reads exhaust air, not the case's.")
    elif machine.card and abs(at.z - machine.card_height_mm) < NEAR_MM:
        above = at.z >= machine.card_height_mm
        said.append(f"Hang it 20 to 40 mm {'above' if above else 'below'} the card, free of its shroud and its back plate.")
    elif at.z > machine.card_height_mm and at.x > machine.depth_mm - machine.board_depth_mm - BEFORE_COOLER_MM:
        said.append("Hang it before the cooler's fan, 20 mm off its frame, touching no fin, no board and no cable.")
    if min(at.x, at.z, machine.height_mm - at.z, at.y, machine.width_mm - at.y) < WALL_MM:
        said.append("Keep the tip 10 mm off the sheet metal, which reads warmer or colder than the air.")
    return " ".join(said) or "Let the tip hang free in the air, 20 mm from anything; a touch of metal reads several kelvin more."


def _nearest_fan(machine: Machine, at: Point) -> str | None:
    for fan in machine.fans:
        c = machine.mounts[fan.mount].centre_mm
        dx, dy, dz = c.x - at.x, c.y - at.y, c.z - at.z
        if (dx * dx + dy * dy + dz * dz) ** 0.5 < NEAR_MM + fan.fan.size_mm / 2:
            return fan.mount
    return None
