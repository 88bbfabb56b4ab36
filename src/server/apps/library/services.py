"""Changes to the library."""

from django.db import transaction
from django.utils.text import slugify

from documents.parts.files import CaseFile
from server.apps.library.models import LibraryCase


@transaction.atomic
def add_case(file: CaseFile) -> LibraryCase:
    """A new case; what is there stays, a key that is taken gets a number."""
    case = file.case
    name = " ".join(x for x in (case.name or "case", case.revision) if x)[:110]
    stem = key = slugify(name)[:50] or "case"
    number = 1
    while LibraryCase.objects.filter(key=key).exists():
        number += 1
        key = f"{stem}-{number}"
    inner = case.inner_mm
    litres = inner.depth * inner.height * inner.width / 1e6
    return LibraryCase.objects.create(
        key=key,
        name=name if number == 1 else f"{name} ({number})",
        summary=(file.summary or f"from a file, {litres:.0f} litres")[:200],
        document=case.model_dump(mode="json", exclude_unset=True),
        order=1000 + LibraryCase.objects.count(),
    )
