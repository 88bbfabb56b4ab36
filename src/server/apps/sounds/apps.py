from typing import Any

from django.apps import AppConfig
from django.db import transaction
from django.db.models.signals import post_delete


class Config(AppConfig):
    name = "server.apps.sounds"
    label = "sounds"

    def ready(self) -> None:
        from server.apps.sounds.models import Clip

        post_delete.connect(_forget, sender=Clip, dispatch_uid="clip-file")


def _forget(instance: Any, **_more: Any) -> None:
    """The recording goes when its row is gone for good: with its job, thirty days in the bin."""
    from server.apps.sounds.files import remove_clip

    transaction.on_commit(lambda: remove_clip(instance.file))
