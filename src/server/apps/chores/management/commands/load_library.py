"""Loads the shipped library of invented cases and parts; safe to run at every start."""

import json
from typing import Any

from django.conf import settings
from django.core.management.base import BaseCommand

from server.apps.library.models import LibraryCase, LibraryPart


class Command(BaseCommand):
    help = "Load the shipped library of invented cases and parts."

    def handle(self, *args: Any, **options: Any) -> None:
        folder = settings.ROOT / "demo" / "library"
        for order, case in enumerate(json.loads((folder / "cases.json").read_text(encoding="utf-8"))):
            key = case.pop("key")
            LibraryCase.objects.update_or_create(key=key, defaults={**case, "order": order})
        for kind, parts in json.loads((folder / "parts.json").read_text(encoding="utf-8")).items():
            for order, part in enumerate(parts):
                defaults = {"name": part["name"], "figures": part, "order": order}
                LibraryPart.objects.update_or_create(kind=kind, key=part["id"], defaults=defaults)
