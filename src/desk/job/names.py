"""What parts are called where people read of them: as they were named in Parts, else by what they are."""

from documents.job.models import JobDoc


def fan_called(doc: JobDoc, fan: str) -> str:
    own = next((f for f in doc.parts.fans if f.id == fan), None)
    return (own.name or f"{own.size_mm:.0f} mm fan") if own else fan


def radiator_called(doc: JobDoc, radiator: str) -> str:
    return as_radiator(next((r.name for r in doc.parts.radiators if r.id == radiator and r.name), radiator))


def as_radiator(name: str) -> str:
    """Its name, which often says already what it is."""
    return name if "radiator" in name.lower() else f"radiator {name}"
