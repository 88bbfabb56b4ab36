"""Clips and readings of level; the sound itself lies in files beside the database."""

from dataclasses import dataclass
from typing import ClassVar

from django.db import models

from server.apps.bench.models import Run
from server.apps.jobs.models import Job


class Clip(models.Model):
    """A recording. ``tie``: what ties it to dBA; ``by`` the calibrator's clip. ``gain_moves``: the browser kept its gain control on.

    ``speeds``: what the layout asked of its fans when it was recorded, in rpm by mount. Struck clips stay, and count for nothing.
    """

    KINDS: ClassVar = [(x, x) for x in ("machine", "room", "calibrator")]
    TIES: ClassVar = [(x, x) for x in ("none", "calibrator", "meter")]
    STATES: ClassVar = [(x, x) for x in ("waiting", "done", "failed")]

    job = models.ForeignKey(Job, on_delete=models.CASCADE, related_name="clips")
    layout_key = models.CharField(max_length=60)
    run = models.ForeignKey(Run, on_delete=models.SET_NULL, null=True, related_name="clips")
    kind = models.CharField(max_length=12, choices=KINDS, default="machine")
    name = models.CharField(max_length=120)
    file = models.CharField(max_length=60)
    digest = models.CharField(max_length=64)
    seconds = models.FloatField()
    recorded_at = models.DateTimeField(auto_now_add=True)
    microphone = models.JSONField(default=dict)
    speeds = models.JSONField(default=dict)
    sources = models.JSONField(default=list)  # what turned: name, rpm, blades
    tie = models.CharField(max_length=12, choices=TIES, default="none")
    by = models.ForeignKey("self", on_delete=models.SET_NULL, null=True, related_name="ties")
    level_db = models.FloatField(null=True)  # of the calibrator, or the meter's reading in dBA
    gain_moves = models.BooleanField(default=False)
    made_up = models.BooleanField(default=False)
    struck = models.CharField(max_length=200, blank=True)  # why
    state = models.CharField(max_length=10, choices=STATES, default="waiting")
    share = models.FloatField(default=0.0)  # of it that has been listened to
    fault = models.JSONField(null=True, default=None)
    result = models.JSONField(null=True, default=None)
    pictures = models.JSONField(null=True, default=None)

    class Meta:
        ordering = ["pk"]

    def __str__(self) -> str:
        return self.name


class LevelReading(models.Model):
    """One level of a layout at chosen speeds. ``purpose``: sweep or equal; ``round`` parts one procedure from the next.

    ``load``: idle or both, what the machine did meanwhile. ``drawn``: the layout as it was, ``made_with`` its parts, ``heard`` the room and
    the place of the ear.
    """

    job = models.ForeignKey(Job, on_delete=models.CASCADE, related_name="level_readings")
    layout_key = models.CharField(max_length=60)
    purpose = models.CharField(max_length=8)
    round = models.PositiveIntegerField(default=1)
    load = models.CharField(max_length=8, default="both")
    mounts = models.JSONField(default=list)  # of the fans that were set; empty: all
    speed_pct = models.FloatField()
    level_dba = models.FloatField()
    clip = models.ForeignKey(Clip, on_delete=models.SET_NULL, null=True, related_name="readings")
    tone_db = models.FloatField(null=True)  # tone-to-noise ratio of its strongest tone
    tone_hz = models.FloatField(null=True)
    beat_db = models.FloatField(null=True)
    drawn = models.JSONField(default=dict)
    made_with = models.JSONField(default=dict)
    heard = models.JSONField(default=dict)
    made_up = models.BooleanField(default=False)
    struck = models.BooleanField(default=False)
    at = models.DateTimeField(auto_now_add=True)

    class Meta:
        ordering = ["pk"]

    def __str__(self) -> str:
        return f"{self.level_dba:.1f} dBA at {self.speed_pct:.0f} %"


@dataclass(frozen=True)
class Of:
    """What a procedure is of: fans at some mounts of a layout (all where none is named), under a load."""

    layout: str
    purpose: str
    mounts: tuple[str, ...] = ()
    load: str = "both"
