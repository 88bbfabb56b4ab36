"""A piece of long work: what was asked, how far it is, what came of it."""

from typing import ClassVar

from django.db import models

from server.apps.jobs.models import Job


class Task(models.Model):
    """``question`` and ``document`` are as they were when it was asked; ``partial`` what can be shown before the end.

    ``job`` is empty while a job is still being read from a file.
    """

    STATES: ClassVar = [(x, x) for x in ("waiting", "running", "done", "failed", "cancelled")]

    job = models.ForeignKey(Job, on_delete=models.CASCADE, related_name="tasks", null=True)
    kind = models.CharField(max_length=20)
    question = models.JSONField(default=dict)
    document = models.JSONField(default=dict)
    state = models.CharField(max_length=12, choices=STATES, default="waiting")
    done = models.PositiveIntegerField(default=0)
    total = models.PositiveIntegerField(default=0)
    partial = models.JSONField(null=True, default=None)
    result = models.JSONField(null=True, default=None)
    fault = models.JSONField(null=True, default=None)
    asked_at = models.DateTimeField(auto_now_add=True)
    ended_at = models.DateTimeField(null=True, default=None)

    class Meta:
        ordering = ["-pk"]

    def __str__(self) -> str:
        return f"{self.kind} of job {self.job_id or 'to come'}, {self.state}"
