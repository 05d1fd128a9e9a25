"""A call, its append-only tape, whose unit it is, and the index that lists and searches go by.

What follows from the tape is computed by the core, never stored. The index is the one exception: a few
columns an action keeps beside the tape and a command makes anew (docs/decisions/0008).
"""

import uuid

from django.conf import settings
from django.db import models
from django.urls import reverse

from frostline.sheets.models import Revision
from frostline.ui.immutable import ImmutableModel


class Customer(models.Model):
    """Whose unit it is: the only part of a call that can be corrected in place, and erased on request."""

    name = models.CharField(max_length=120)
    address = models.CharField(max_length=200, blank=True)
    phone = models.CharField(max_length=40, blank=True)
    erased_at = models.DateTimeField(null=True, blank=True)

    def __str__(self) -> str:
        return self.shown

    @property
    def shown(self) -> str:
        """The name, or that nobody has told it."""
        return self.name or "Customer not told"

    @property
    def erased(self) -> bool:
        """Whether it was erased on request."""
        return self.erased_at is not None


class CustomerChange(ImmutableModel):
    """That a customer's entry was corrected or erased, by whom and when; never what stood there."""

    customer = models.ForeignKey(Customer, on_delete=models.PROTECT, related_name="changes")
    what = models.CharField(max_length=20, choices=[("corrected", "corrected"), ("erased", "erased")])
    fields = models.CharField(max_length=60)
    at = models.DateTimeField()
    by = models.ForeignKey(settings.AUTH_USER_MODEL, on_delete=models.PROTECT, related_name="+")

    class Meta:
        ordering = ["at"]

    def __str__(self) -> str:
        return f"{self.customer_id} {self.what}: {self.fields}"


class Call(ImmutableModel):
    """One visit to one unit, begun with one revision of its sheet.

    A practice call is worked like any other and counts for nothing.
    """

    id = models.UUIDField(primary_key=True, default=uuid.uuid4, editable=False)
    number = models.PositiveIntegerField(unique=True)
    revision = models.ForeignKey(Revision, on_delete=models.PROTECT, related_name="calls")
    customer = models.ForeignKey(Customer, on_delete=models.PROTECT, related_name="calls")
    practice = models.BooleanField(default=False)
    opened_at = models.DateTimeField()
    opened_by = models.ForeignKey(settings.AUTH_USER_MODEL, on_delete=models.PROTECT, related_name="+")

    class Meta:
        ordering = ["-number"]

    def __str__(self) -> str:
        return f"call {self.number}"

    def get_absolute_url(self) -> str:
        return reverse("calls:call", args=[self.pk])


class Slip(ImmutableModel):
    """One entry of a tape, as it was recorded. Its id is made with the form, so that a form sent twice
    records once.

    ``at`` is when it was made, ``recorded_at`` when it got here; ``version`` is that of the body's kind.
    """

    id = models.UUIDField(primary_key=True, default=uuid.uuid4, editable=False)
    call = models.ForeignKey(Call, on_delete=models.PROTECT, related_name="slips")
    position = models.PositiveIntegerField()
    kind = models.CharField(max_length=40)
    version = models.PositiveSmallIntegerField(default=1)
    body = models.JSONField()
    at = models.DateTimeField()
    recorded_at = models.DateTimeField()
    by = models.ForeignKey(settings.AUTH_USER_MODEL, on_delete=models.PROTECT, related_name="+")
    supersedes = models.OneToOneField(
        "self", null=True, blank=True, on_delete=models.PROTECT, related_name="superseded_by"
    )

    class Meta:
        ordering = ["call", "position"]
        constraints = [models.UniqueConstraint(fields=["call", "position"], name="slip_position_once")]

    def __str__(self) -> str:
        return f"{self.call}, slip {self.position}: {self.kind}"


class CallIndex(models.Model):
    """What lists show of a call without replaying its tape.

    Kept by the action that records, made anew by ``manage.py rebuild_index``.
    """

    call = models.OneToOneField(Call, primary_key=True, on_delete=models.PROTECT, related_name="index")
    number = models.PositiveIntegerField(unique=True)
    is_open = models.BooleanField()
    unit = models.CharField(max_length=170)
    model = models.CharField(max_length=60, blank=True)
    serial = models.CharField(max_length=60, blank=True)
    complaint = models.CharField(max_length=120, blank=True)
    stage = models.CharField(max_length=12)
    act = models.CharField(max_length=120)
    suspect = models.CharField(max_length=120, blank=True, default="")
    result = models.CharField(max_length=40, blank=True)
    slips = models.PositiveIntegerField()
    last_at = models.DateTimeField()

    class Meta:
        ordering = ["-number"]
        indexes = [models.Index(fields=["is_open", "-number"], name="call_index_open")]

    def __str__(self) -> str:
        return f"call {self.number}: {self.act}"


class Attachment(ImmutableModel):
    """A file kept with a call: its bytes stand beside the database under their digest."""

    digest = models.CharField(max_length=64, primary_key=True)
    size = models.PositiveIntegerField()
    media_type = models.CharField(max_length=80)
    kept_at = models.DateTimeField()
    kept_by = models.ForeignKey(settings.AUTH_USER_MODEL, on_delete=models.PROTECT, related_name="+")

    def __str__(self) -> str:
        return f"{self.digest[:12]} ({self.media_type}, {self.size})"


class Received(ImmutableModel):
    """That a call came in a bundle from elsewhere: its number there, what was thought of it then."""

    call = models.OneToOneField(Call, primary_key=True, on_delete=models.PROTECT, related_name="received")
    number_there = models.PositiveIntegerField()
    made_at = models.DateTimeField()
    act = models.CharField(max_length=200, blank=True)
    suspects = models.JSONField()
    taken_at = models.DateTimeField()
    taken_by = models.ForeignKey(settings.AUTH_USER_MODEL, on_delete=models.PROTECT, related_name="+")

    def __str__(self) -> str:
        return f"{self.call}, there {self.number_there}"


class WorkshopRates(ImmutableModel):
    """What the workshop reckons with from a moment on, and who said so; the last counts."""

    rates = models.JSONField()
    at = models.DateTimeField()
    by = models.ForeignKey(settings.AUTH_USER_MODEL, on_delete=models.PROTECT, related_name="+")

    def __str__(self) -> str:
        return f"rates of {self.at:%Y-%m-%d}"


class WorkshopHead(ImmutableModel):
    """What stands at the head of reports from a moment on; the last counts."""

    name = models.CharField(max_length=120)
    lines = models.TextField(max_length=600, blank=True)
    at = models.DateTimeField()
    by = models.ForeignKey(settings.AUTH_USER_MODEL, on_delete=models.PROTECT, related_name="+")

    def __str__(self) -> str:
        return self.name


class CallDue(models.Model):
    """What is due on a call, as its tape says: a part of the index, made anew with it."""

    call = models.ForeignKey(Call, on_delete=models.PROTECT, related_name="dues")
    kind = models.CharField(max_length=12)
    day = models.DateField(db_index=True)
    text = models.CharField(max_length=160)

    class Meta:
        ordering = ["day", "call__number"]

    def __str__(self) -> str:
        return f"{self.call}, {self.day}: {self.text}"


class DueDone(ImmutableModel):
    """That what was due on a call has been seen to, by whom and when."""

    call = models.ForeignKey(Call, on_delete=models.PROTECT, related_name="seen_to")
    kind = models.CharField(max_length=12)
    day = models.DateField()
    at = models.DateTimeField()
    by = models.ForeignKey(settings.AUTH_USER_MODEL, on_delete=models.PROTECT, related_name="+")

    class Meta:
        constraints = [models.UniqueConstraint(fields=["call", "kind", "day"], name="due_done_once")]

    def __str__(self) -> str:
        return f"{self.call}, {self.kind} of {self.day}"


class CalendarFeed(models.Model):
    """The secret address of a person's calendar of what is due; without a row there is none."""

    user = models.OneToOneField(
        settings.AUTH_USER_MODEL, primary_key=True, on_delete=models.CASCADE, related_name="feed"
    )
    secret = models.CharField(max_length=64, unique=True)
    made_at = models.DateTimeField()

    def __str__(self) -> str:
        return f"feed of {self.user}"


class WorkshopTable(ImmutableModel):
    """A table of the workshop's from a moment on, and who said so; the last counts."""

    text = models.TextField()
    at = models.DateTimeField()
    by = models.ForeignKey(settings.AUTH_USER_MODEL, on_delete=models.PROTECT, related_name="+")

    class Meta:
        abstract = True


class StockList(WorkshopTable):
    """What is on the workshop's shelf."""

    def __str__(self) -> str:
        return f"stock of {self.at:%Y-%m-%d}"


class DrawerList(WorkshopTable):
    """The workshop's small parts for boards."""

    def __str__(self) -> str:
        return f"small parts of {self.at:%Y-%m-%d}"


class CallCause(models.Model):
    """What a closed call's tape names as the cause, for counting: a part of the index, made anew with it."""

    call = models.OneToOneField(Call, primary_key=True, on_delete=models.PROTECT, related_name="cause")
    archetype = models.CharField(max_length=80)
    kind = models.CharField(max_length=40)
    serial = models.CharField(max_length=60, blank=True)
    closed_at = models.DateTimeField(db_index=True)

    def __str__(self) -> str:
        return f"{self.call}: {self.kind}"


class LearningChoice(ImmutableModel):
    """Whether closed calls teach new ones, counted since when, and who said so; the last counts."""

    on = models.BooleanField()
    since = models.DateTimeField()
    at = models.DateTimeField()
    by = models.ForeignKey(settings.AUTH_USER_MODEL, on_delete=models.PROTECT, related_name="+")

    def __str__(self) -> str:
        return f"learning {'on' if self.on else 'off'}, {self.at:%Y-%m-%d}"
