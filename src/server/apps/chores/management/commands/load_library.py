"""Loads the shipped library of invented cases and parts; safe to run at every start."""

from typing import Any

from django.conf import settings
from django.core.management.base import BaseCommand

from server.apps.library.services import load_shipped


class Command(BaseCommand):
    help = "Load the shipped library of invented cases and parts."

    def handle(self, *args: Any, **options: Any) -> None:
        load_shipped(settings.ROOT / "demo" / "library")
