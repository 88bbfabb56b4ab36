"""What a layout's figures belong to: the case, the parts that give off heat, and how its fans are driven."""

from formats.job.models import JobDoc
from formats.job.resolve import Resolver


def parts_of(doc: JobDoc) -> dict[str, dict[str, str]]:
    """For each layout the things that must be alike where layouts are compared, by their names for people."""
    resolver, found = Resolver(doc), {}
    case = f"{doc.case.name} {doc.case.revision}".strip()
    for layout in doc.layouts:
        own = {"case": "open bench" if layout.open_bench else case} if case else {}
        for what, setting, kind in (("processor", "cpu", "cpus"), ("card", "card", "cards")):
            part = resolver.part(layout, setting, kind)
            if part:
                own[what] = part.name or part.id
        curved = any(f.curve for f in layout.fans) or any(g.curve for g in layout.groups)
        found[layout.id] = own | {"mode of the fans": "curves" if curved else "fixed speeds"}
    return found
