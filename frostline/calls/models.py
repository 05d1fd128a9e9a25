"""A call and its append-only tape.

What follows from the tape is computed by the core, never stored.
"""

import uuid

from django.conf import settings
from django.db import models
from django.urls import reverse

from frostcore.tape import entries as core
from frostcore.tape.standing import Standing, stand
from frostline.sheets.models import Revision
from frostline.ui.immutable import ImmutableModel


class Call(ImmutableModel):
    """One visit to one unit, worked with one revision of its sheet."""

    id = models.UUIDField(primary_key=True, default=uuid.uuid4, editable=False)
    number = models.PositiveIntegerField(unique=True)
    revision = models.ForeignKey(Revision, on_delete=models.PROTECT, related_name="calls")
    opened_at = models.DateTimeField()
    opened_by = models.ForeignKey(settings.AUTH_USER_MODEL, on_delete=models.PROTECT, related_name="+")

    class Meta:
        ordering = ["-number"]

    def __str__(self) -> str:
        return f"call {self.number}"

    def get_absolute_url(self) -> str:
        return reverse("calls:call", args=[self.pk])

    def tape(self) -> tuple[core.Entry, ...]:
        """The tape as the core knows it, oldest first."""
        return tuple(slip.to_core() for slip in sorted(self.slips.all(), key=lambda slip: slip.position))

    def standing(self) -> Standing:
        """Where the call stands, from its tape and its sheet."""
        return stand(self.revision.content, self.tape())


class Slip(ImmutableModel):
    """One entry of a tape.

    Its id is made with the form, so that a form sent twice records once.
    """

    id = models.UUIDField(primary_key=True, default=uuid.uuid4, editable=False)
    call = models.ForeignKey(Call, on_delete=models.PROTECT, related_name="slips")
    position = models.PositiveIntegerField()
    kind = models.CharField(max_length=40)
    body = models.JSONField()
    at = models.DateTimeField()
    by = models.ForeignKey(settings.AUTH_USER_MODEL, on_delete=models.PROTECT, related_name="+")
    supersedes = models.OneToOneField(
        "self", null=True, blank=True, on_delete=models.PROTECT, related_name="superseded_by"
    )

    class Meta:
        ordering = ["call", "position"]
        constraints = [models.UniqueConstraint(fields=["call", "position"], name="slip_position_once")]

    def __str__(self) -> str:
        return f"{self.call}, slip {self.position}: {self.kind}"

    def to_core(self) -> core.Entry:
        """The entry as the core knows it."""
        return core.Entry(
            str(self.pk),
            self.at,
            self.by.shown_name,
            core.body_from_document(self.body),
            str(self.supersedes_id or ""),
        )


def calls_with_tapes() -> models.QuerySet[Call]:
    """Calls, newest first, with everything their standing needs fetched in a few queries."""
    return Call.objects.select_related("revision__sheet", "opened_by").prefetch_related(
        models.Prefetch("slips", Slip.objects.select_related("by"))
    )
