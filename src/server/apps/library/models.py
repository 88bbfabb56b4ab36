"""The shipped library: invented cases and parts to start from."""

from django.db import models


class LibraryPart(models.Model):
    """A part template. ``figures`` is the part as the job document writes it."""

    kind = models.CharField(max_length=20)  # cpus | cards | coolers | radiators | fans
    key = models.CharField(max_length=60)
    name = models.CharField(max_length=120)
    figures = models.JSONField()
    order = models.PositiveIntegerField(default=0)

    class Meta:
        ordering = ["kind", "order"]
        constraints = [models.UniqueConstraint(fields=["kind", "key"], name="library_part_once")]

    def __str__(self) -> str:
        return self.name


class LibraryCase(models.Model):
    """A case template. ``document`` is the case as the job document writes it."""

    key = models.CharField(max_length=60, unique=True)
    name = models.CharField(max_length=120)
    summary = models.CharField(max_length=200)
    document = models.JSONField()
    order = models.PositiveIntegerField(default=0)

    class Meta:
        ordering = ["order"]

    def __str__(self) -> str:
        return self.name
