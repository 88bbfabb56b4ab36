"""The picked layout with its written reason."""

from django.db import models

from server.apps.jobs.models import Job


class Verdict(models.Model):
    """One per decision; the newest counts, earlier ones stay as they were."""

    job = models.ForeignKey(Job, on_delete=models.CASCADE, related_name="verdicts")
    layout_key = models.CharField(max_length=60)
    reason = models.TextField()
    margin_k = models.FloatField()
    figures = models.JSONField(default=dict)
    made_at = models.DateTimeField(auto_now_add=True)

    class Meta:
        ordering = ["-made_at", "-id"]

    def __str__(self) -> str:
        return self.layout_key
