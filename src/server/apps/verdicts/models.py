"""Verdicts: the picked layout with its written reason, and the whole argument frozen as it stood."""

from django.db import models

from server.apps.jobs.models import Job


class BroughtRepeat(models.Model):
    """A repeat of a job that was made elsewhere, which a package brought along."""

    job = models.ForeignKey(Job, on_delete=models.CASCADE, related_name="brought")
    key = models.CharField(max_length=64)
    channel = models.CharField(max_length=60)
    kind = models.CharField(max_length=10)
    value = models.FloatField()

    class Meta:
        ordering = ["pk"]

    def __str__(self) -> str:
        return f"{self.channel}: {self.value:.2f}"


class Verdict(models.Model):
    """One per decision; the newest counts, earlier ones stay as they were."""

    job = models.ForeignKey(Job, on_delete=models.CASCADE, related_name="verdicts")
    layout_key = models.CharField(max_length=60)
    reason = models.TextField()
    margin_k = models.FloatField()
    signed_by = models.CharField(max_length=80, blank=True)
    digest = models.CharField(max_length=64, blank=True)
    figures = models.JSONField(default=dict)  # of verdicts that were given before there were records
    record = models.JSONField(default=dict)
    made_at = models.DateTimeField(auto_now_add=True)

    class Meta:
        ordering = ["-made_at", "-id"]

    def __str__(self) -> str:
        return self.layout_key
