"""What a layout asks of the person before a run of it: values it states already, cautions to be read, speeds to be seen."""

from collections.abc import Sequence

from desk.job.difference import panels_in_words
from desk.job.resolve import Resolver
from documents.job.asked import Asked
from documents.job.models import JobDoc, LayoutDoc
from engine.errors import OventaError
from engine.machine import Machine

RAISED = ("delidded", "overclocked")


def asked_of(doc: JobDoc, layout_id: str) -> Asked:
    """A layout whose parts are not all known yet can be run too; then fewer values are known."""
    resolver = Resolver(doc)
    layout = resolver.layout(layout_id)
    try:
        machine = resolver.machine(layout_id)
    except OventaError:
        machine = None
    return Asked(
        known=_known(resolver, layout) | (_known_of(machine) if machine else {}),
        cautions=_cautions(doc, layout),
        speeds_rpm=speeds_rpm(machine) if machine else {},
        sound_limit_dba=doc.room.sound_limit_dba,
    )


def _known(resolver: Resolver, layout: LayoutDoc) -> dict[str, str]:
    pumps = ", ".join(f"{loop.pump_pct:g} %" for loop in resolver.working_loops(layout))
    return {
        "pump": pumps or "no pump",
        "room": "chamber" if resolver.doc.room.kind == "chamber" else "this room",
        "panels": "; ".join(panels_in_words(resolver.doc, layout)) or "all fitted",
        "room_fan": "none",
        "load": "the same",
    }


def _known_of(machine: Machine) -> dict[str, str]:
    curved = sum(f.curve is not None for f in machine.fans)
    card = machine.card
    return {
        "cpu_limit": f"{machine.cpu.power_w:g} W",
        "card_fans": "no fans of its own" if machine.card_on_air is None or card is None else f"{card.fan_pct:g} %",
        "curves": f"{curved} fans on curves" if curved else "fixed speeds",
    }


def _cautions(doc: JobDoc, layout: LayoutDoc) -> list[str]:
    states = layout.panels.values()
    found = []
    if layout.open_bench or any(p.state == "removed" for p in states):
        found.append("panel_off")
    if layout.obstructions or any(p.improvised or p.blocked_pct for p in states):
        found.append("blocked_vents")
    return [*found, *(["chamber"] if doc.room.kind == "chamber" else [])]


def cautions_of_traits(traits: Sequence[str]) -> list[str]:
    """What the machine's own state asks to be read."""
    return ["cap_raised"] if any(t in RAISED for t in traits) else []


def speeds_rpm(machine: Machine) -> dict[str, float]:
    """What the tachometers of fans at a fixed speed should read."""
    return {fan.channel: fan.fan.speed_max_rpm * fan.speed_pct / 100 for fan in machine.fans if fan.running and fan.curve is None}
