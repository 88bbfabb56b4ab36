"""A job in rows: the case with its panels and mounts, parts, layouts, fan placements.

``more`` holds the fields of the open document that have no column of their own, exactly as they were written.
"""

from typing import ClassVar

from django.db import models


class JobsInUse(models.Manager["Job"]):
    """Every job but those in the bin, which only the bin itself looks at."""

    def get_queryset(self) -> models.QuerySet["Job"]:
        return super().get_queryset().filter(removed_at__isnull=True)


class Job(models.Model):
    """The unit of work. ``revision`` rises with every saved change, so that two screens do not overwrite each other."""

    name = models.CharField(max_length=200)
    revision = models.PositiveIntegerField(default=1)
    room_temperature_c = models.FloatField(null=True)
    more = models.JSONField(default=dict)
    created_at = models.DateTimeField(auto_now_add=True)
    changed_at = models.DateTimeField(auto_now=True)
    removed_at = models.DateTimeField(null=True)  # in the bin since

    objects: ClassVar[JobsInUse] = JobsInUse()
    everything: ClassVar["models.Manager[Job]"] = models.Manager()

    class Meta:
        ordering = ["-changed_at"]

    def __str__(self) -> str:
        return self.name


class Save(models.Model):
    """A change that was saved, by the key its screen gave it: one whose answer was lost is sent again and taken for what it is."""

    job = models.ForeignKey(Job, on_delete=models.CASCADE, related_name="saves")
    key = models.CharField(max_length=64)
    revision = models.PositiveIntegerField()

    class Meta:
        ordering = ["-id"]
        constraints = [models.UniqueConstraint(fields=["job", "key"], name="save_once")]

    def __str__(self) -> str:
        return f"{self.job_id} {self.revision}"


class Case(models.Model):
    job = models.OneToOneField(Job, on_delete=models.CASCADE, related_name="case")
    name = models.CharField(max_length=200, blank=True)
    depth_mm = models.FloatField()
    height_mm = models.FloatField()
    width_mm = models.FloatField()
    more = models.JSONField(default=dict)

    def __str__(self) -> str:
        return self.name


class Panel(models.Model):
    case = models.ForeignKey(Case, on_delete=models.CASCADE, related_name="panels")
    order = models.PositiveIntegerField()
    face = models.CharField(max_length=10)
    kind = models.CharField(max_length=10)
    more = models.JSONField(default=dict)

    class Meta:
        ordering = ["order"]
        constraints = [models.UniqueConstraint(fields=["case", "face"], name="panel_once_per_face")]

    def __str__(self) -> str:
        return f"{self.face} {self.kind}"


class Mount(models.Model):
    case = models.ForeignKey(Case, on_delete=models.CASCADE, related_name="mounts")
    order = models.PositiveIntegerField()
    key = models.CharField(max_length=60)
    face = models.CharField(max_length=10)
    x_mm = models.FloatField()
    y_mm = models.FloatField()
    z_mm = models.FloatField()
    more = models.JSONField(default=dict)

    class Meta:
        ordering = ["order"]
        constraints = [models.UniqueConstraint(fields=["case", "key"], name="mount_once")]

    def __str__(self) -> str:
        return self.key


class Part(models.Model):
    job = models.ForeignKey(Job, on_delete=models.CASCADE, related_name="parts")
    order = models.PositiveIntegerField()
    kind = models.CharField(max_length=20)
    key = models.CharField(max_length=60)
    figures = models.JSONField(default=dict)

    class Meta:
        ordering = ["order"]
        constraints = [models.UniqueConstraint(fields=["job", "kind", "key"], name="part_once")]

    def __str__(self) -> str:
        return self.key


class Layout(models.Model):
    job = models.ForeignKey(Job, on_delete=models.CASCADE, related_name="layouts")
    order = models.PositiveIntegerField()
    key = models.CharField(max_length=60)
    name = models.CharField(max_length=200, blank=True)
    more = models.JSONField(default=dict)

    class Meta:
        ordering = ["order"]
        constraints = [models.UniqueConstraint(fields=["job", "key"], name="layout_once")]

    def __str__(self) -> str:
        return self.key


class FanPlacement(models.Model):
    layout = models.ForeignKey(Layout, on_delete=models.CASCADE, related_name="placements")
    order = models.PositiveIntegerField()
    mount = models.ForeignKey(Mount, on_delete=models.CASCADE, related_name="placements")
    fan = models.ForeignKey(Part, on_delete=models.CASCADE, related_name="placements")
    direction = models.CharField(max_length=10)
    more = models.JSONField(default=dict)

    class Meta:
        ordering = ["order"]

    def __str__(self) -> str:
        return f"{self.mount_id} {self.direction}"
