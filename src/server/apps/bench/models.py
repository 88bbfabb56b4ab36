"""Logged runs. Readings lie in compressed columns: one block per run, channel and stretch of rows."""

from django.db import models

from server.apps.jobs.models import Job, Layout


class Run(models.Model):
    """One run of one layout. A run is never deleted: ``state`` void keeps it out of comparisons, with a reason."""

    STATES = [("valid", "valid"), ("void", "void")]

    job = models.ForeignKey(Job, on_delete=models.CASCADE, related_name="runs")
    layout = models.ForeignKey(Layout, null=True, on_delete=models.SET_NULL, related_name="runs")
    layout_key = models.CharField(max_length=60)
    name = models.CharField(max_length=200)
    source_name = models.CharField(max_length=255)
    imported_at = models.DateTimeField(auto_now_add=True)
    duration_s = models.FloatField()
    rows = models.PositiveIntegerField()
    typed_room_c = models.FloatField(null=True)
    window_s = models.FloatField(null=True)
    state = models.CharField(max_length=10, choices=STATES, default="valid")
    void_reason = models.CharField(max_length=300, blank=True)
    columns = models.JSONField(default=list)
    notes = models.JSONField(default=list)
    analysis = models.JSONField(default=dict)

    class Meta:
        ordering = ["layout_key", "id"]

    def __str__(self) -> str:
        return self.name


class ReadingBlock(models.Model):
    """Readings of one channel as zlib-compressed little-endian float32, in row order; channel ``elapsed_s`` holds the times."""

    run = models.ForeignKey(Run, on_delete=models.CASCADE, related_name="blocks")
    channel = models.CharField(max_length=60)
    first_row = models.PositiveIntegerField()
    count = models.PositiveIntegerField()
    data = models.BinaryField()

    class Meta:
        ordering = ["channel", "first_row"]
        constraints = [models.UniqueConstraint(fields=["run", "channel", "first_row"], name="block_once")]

    def __str__(self) -> str:
        return f"{self.run_id} {self.channel}"


class ColumnMemory(models.Model):
    """What a column heading meant the last time a person said so."""

    heading = models.CharField(max_length=200, unique=True)
    channel = models.CharField(max_length=60, blank=True)

    def __str__(self) -> str:
        return self.heading
