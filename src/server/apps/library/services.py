"""Changes to the library."""

import json
from pathlib import Path
from typing import Any

from django.db import transaction
from django.utils.text import slugify

from documents.parts.files import CaseFile
from server.apps.library.models import LibraryCase, LibraryPart


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


def load_shipped(folder: Path) -> int:
    """The shipped cases and parts, as they are in this version; writes what differs and returns how many rows that were."""
    cases = json.loads((folder / "cases.json").read_text(encoding="utf-8"))
    wanted = {case.pop("key"): case | {"order": order} for order, case in enumerate(cases)}
    have = {x["key"]: x for x in LibraryCase.objects.values("key", "order", *_names(wanted.values()))}
    changed = {key: figures for key, figures in wanted.items() if have.get(key) != {"key": key, **figures}}
    parts = {}
    for kind, own in json.loads((folder / "parts.json").read_text(encoding="utf-8")).items():
        for order, part in enumerate(own):
            parts[kind, part["id"]] = {"name": part["name"], "figures": part, "order": order}
    there = {(x.kind, x.key): {"name": x.name, "figures": x.figures, "order": x.order} for x in LibraryPart.objects.all()}
    other = {at: figures for at, figures in parts.items() if there.get(at) != figures}
    with transaction.atomic():
        for key, figures in changed.items():
            LibraryCase.objects.update_or_create(key=key, defaults=figures)
        for (kind, key), figures in other.items():
            LibraryPart.objects.update_or_create(kind=kind, key=key, defaults=figures)
    return len(changed) + len(other)


def _names(rows: Any) -> set[str]:
    return {name for row in rows for name in row} - {"key", "order"}
