"""Leads that nobody has chosen a header for, with the one they may go to."""

from collections.abc import Iterator, Sequence

from desk.build.shapes import BuildFan, BuildLoose
from desk.job.resolve import Resolver
from desk.together.wiring import leads_of, shared_out
from documents.job.models import LayoutDoc, PlugDoc


def loose_leads(resolver: Resolver, layout: LayoutDoc, fans: Sequence[BuildFan]) -> Iterator[BuildLoose]:
    """Named as is written on a fan's lead, a pump's and the cooler's in words."""
    names: dict[tuple[str, str], str] = {(f.mount, f.layer): f.label for f in fans}
    there: dict[tuple[str, str], str] = {(p.of, p.layer): _on(resolver, p) for p in shared_out(resolver, layout)}
    for lead in leads_of(resolver, layout):
        if lead.plug.header is None:
            yield BuildLoose(
                name=names.get(lead.key, lead.plug.name), pump=lead.plug.kind == "pump", drive=lead.drive, proposed=there.get(lead.key)
            )


def _on(resolver: Resolver, plug: PlugDoc) -> str:
    via = resolver.parts["controllers"].get(plug.via or "")
    by = f" by {via.name or via.id}" if via else ""
    return f"{plug.header}{by}" + (f" with {plug.extension_mm:.0f} mm of extension" if plug.extension_mm else "")
