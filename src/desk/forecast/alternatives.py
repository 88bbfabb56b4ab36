"""Fans on the table that would do better where one is held back: named in the finding, with what they move there."""

from dataclasses import replace

from desk.job.resolve import Resolver
from engine.coupled.operating_point import OperatingPoint
from engine.coupled.system_line import other_fan
from engine.findings.finding import Finding

BETTER = 1.15  # common practice, no source: less more air than this is not worth a purchase


def with_alternative(finding: Finding, resolver: Resolver, layout_id: str, point: OperatingPoint) -> Finding:
    """A choked fan's finding with the best other fan of its size named, where one on the table moves clearly more there."""
    if finding.code != "fan_choked":
        return finding
    here = next((f for f in point.machine.fans if f.mount == finding.mounts[0] and f.running), None)
    if here is None:
        return finding
    own = next(p for p in resolver.layout(layout_id).fans if p.mount == here.mount and p.layer == here.layer)
    now = other_fan(point, here.mount, here.layer, here.fan)
    others = [f for f in resolver.doc.parts.fans if f.size_mm == here.fan.size_mm and f.id != own.fan]
    found = [(other_fan(point, here.mount, here.layer, resolver.fan(f)), f.name or f.id) for f in others]
    flow, name = max(found, default=(0.0, ""))
    if flow < BETTER * now:
        return finding
    return replace(finding, do=f"{finding.do} {name} would move {flow:.0f} m³/h there at the same share of its speed, this one {now:.0f}.")
