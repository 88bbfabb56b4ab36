"""Ticks of a build sheet."""

from typing import ClassVar

from django.db import models

from server.apps.jobs.models import Job


class Tick(models.Model):
    """A step that is over: done, done otherwise (``note`` says how), or left out (``note`` says why).

    ``key`` is what the step asked for when it was ticked: where the sheet asks for something else by now, the step is open again.
    """

    STATES: ClassVar = [(x, x) for x in ("done", "otherwise", "skipped")]

    job = models.ForeignKey(Job, on_delete=models.CASCADE, related_name="ticks")
    layout_key = models.CharField(max_length=60)
    start_key = models.CharField(max_length=60, blank=True)  # the layout that was rebuilt; empty: from an empty case
    unit = models.CharField(max_length=80, blank=True)  # serial number of one of a batch; empty: the one machine of this job
    step = models.CharField(max_length=120)
    key = models.CharField(max_length=12)
    words = models.CharField(max_length=300)
    state = models.CharField(max_length=10, choices=STATES)
    note = models.CharField(max_length=500, blank=True)
    at = models.DateTimeField(auto_now=True)

    class Meta:
        ordering = ["pk"]
        constraints = [models.UniqueConstraint(fields=["job", "layout_key", "start_key", "unit", "step"], name="one_tick_a_step")]

    def __str__(self) -> str:
        return f"{self.step} {self.state}"


class UnitRun(models.Model):
    """A short run of one unit, held against the reference runs of its layout. The latest of a serial number counts; none is removed."""

    job = models.ForeignKey(Job, on_delete=models.CASCADE, related_name="unit_runs")
    layout_key = models.CharField(max_length=60)
    serial = models.CharField(max_length=80)
    name = models.CharField(max_length=255)
    log = models.BinaryField()  # the file as it was read in, zlib-compressed
    typed_room_c = models.FloatField(null=True)
    result = models.JSONField()  # desk.care.commission.CommissioningDoc
    document = models.JSONField(default=dict)  # the job as it stood then: what the certificate is about
    signed_by = models.CharField(max_length=80, blank=True)
    at = models.DateTimeField(auto_now_add=True)

    class Meta:
        ordering = ["pk"]

    def __str__(self) -> str:
        return self.serial


class Practised(models.Model):
    """An exercise that was answered."""

    seed = models.PositiveIntegerField()
    level = models.PositiveSmallIntegerField()
    hints = models.PositiveSmallIntegerField(default=0)
    score = models.FloatField()
    solved = models.BooleanField()
    at = models.DateTimeField(auto_now_add=True)

    class Meta:
        ordering = ["-pk"]

    def __str__(self) -> str:
        return f"{self.seed} at level {self.level}: {self.score:.0f}"


class Care(models.Model):
    """How a machine is kept: the layout that stands, the day it was built, the dust of its room."""

    job = models.OneToOneField(Job, on_delete=models.CASCADE, related_name="care")
    layout_key = models.CharField(max_length=60, blank=True)
    built_on = models.DateField(null=True)
    dust = models.CharField(max_length=10, default="usual")

    def __str__(self) -> str:
        return f"care of job {self.job_id}"


class CareEntry(models.Model):
    """Something that was done to a machine. Entries are struck out, never removed."""

    job = models.ForeignKey(Job, on_delete=models.CASCADE, related_name="care_entries")
    item = models.CharField(max_length=20)
    done_on = models.DateField()
    minutes = models.FloatField(null=True)
    note = models.CharField(max_length=500, blank=True)
    struck = models.BooleanField(default=False)
    at = models.DateTimeField(auto_now_add=True)

    class Meta:
        ordering = ["-done_on", "-pk"]

    def __str__(self) -> str:
        return f"{self.item} on {self.done_on}"
