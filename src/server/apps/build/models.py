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
    step = models.CharField(max_length=120)
    key = models.CharField(max_length=12)
    words = models.CharField(max_length=300)
    state = models.CharField(max_length=10, choices=STATES)
    note = models.CharField(max_length=500, blank=True)
    at = models.DateTimeField(auto_now=True)

    class Meta:
        ordering = ["pk"]
        constraints = [models.UniqueConstraint(fields=["job", "layout_key", "start_key", "step"], name="one_tick_a_step")]

    def __str__(self) -> str:
        return f"{self.step} {self.state}"
