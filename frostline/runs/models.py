"""Runs that go on: rows as an agent posts them, until the run ends and becomes a file that counts."""

import uuid

from django.conf import settings
from django.db import models

from frostline.calls.models import Call
from frostline.ui.immutable import ImmutableModel


class LiveRun(models.Model):
    """A run read live: what its columns are of, what was set on its way, and the hash of its token. What
    opens it is known to the agent alone."""

    id = models.UUIDField(primary_key=True, default=uuid.uuid4, editable=False)
    call = models.ForeignKey(Call, on_delete=models.PROTECT, related_name="live_runs")
    places = models.JSONField()
    room = models.JSONField(null=True)
    full = models.CharField(max_length=8, blank=True)
    marked = models.JSONField(default=list)
    """What was set on its way."""
    token_hash = models.CharField(max_length=64)
    expires_at = models.DateTimeField()
    begun_at = models.DateTimeField()
    begun_by = models.ForeignKey(settings.AUTH_USER_MODEL, on_delete=models.PROTECT, related_name="+")
    ended_at = models.DateTimeField(null=True, blank=True)
    digest = models.CharField(max_length=64, blank=True)

    class Meta:
        ordering = ["begun_at"]

    def __str__(self) -> str:
        return f"{self.call}, live since {self.begun_at:%Y-%m-%d %H:%M}"


class LiveBatch(ImmutableModel):
    """Rows as they came: the first's number in its agent's count, each row (Unix seconds, a value a place);
    by how much the agent's clock was behind the server's (s)."""

    run = models.ForeignKey(LiveRun, on_delete=models.PROTECT, related_name="batches")
    agent = models.CharField(max_length=40)
    first = models.PositiveIntegerField()
    count = models.PositiveIntegerField()
    rows = models.JSONField()
    behind = models.FloatField()
    at = models.DateTimeField()

    class Meta:
        ordering = ["pk"]
        constraints = [models.UniqueConstraint(fields=["run", "agent", "first"], name="live_batch_once")]

    def __str__(self) -> str:
        return f"{self.run}, rows {self.first} to {self.first + self.count - 1}"
