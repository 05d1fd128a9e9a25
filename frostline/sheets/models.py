"""Sheets and their immutable revisions."""

from functools import lru_cache

from django.conf import settings
from django.db import models
from django.urls import reverse

from frostcore.errors import SheetError
from frostcore.sheet import model as core
from frostcore.sheet.load import read
from frostline.ui.immutable import ImmutableModel

KEPT_SHEETS = 1000
"""Sheets read and kept in a process: what a workshop has, with room to spare. Each takes some 150 kB."""


@lru_cache(maxsize=KEPT_SHEETS)
def _read(digest: str, document: str) -> core.Sheet | SheetError:
    """A stored document, read once in each process, or why it can't be; the digest makes a cheap key."""
    try:
        return read(document)
    except SheetError as error:
        return error


class Sheet(models.Model):
    """One unit's sheet, through all its revisions.

    ``slug`` is the document's own identifier and the sheet's address. The rest is what lists show, as the
    newest revision has it.
    """

    slug = models.SlugField(max_length=60, unique=True)
    maker = models.CharField(max_length=80)
    model = models.CharField(max_length=80)
    appliance = models.CharField(max_length=120, blank=True)
    newest = models.ForeignKey(
        "Revision", null=True, blank=True, on_delete=models.PROTECT, related_name="newest_of"
    )

    class Meta:
        ordering = ["maker", "model"]

    def __str__(self) -> str:
        return f"{self.maker} {self.model}"

    def get_absolute_url(self) -> str:
        return reverse("sheets:sheet", args=[self.slug])


class Revision(ImmutableModel):
    """One immutable revision of a sheet; a call keeps the one it was worked with."""

    sheet = models.ForeignKey(Sheet, on_delete=models.PROTECT, related_name="revisions")
    number = models.PositiveIntegerField()
    document = models.TextField()
    digest = models.CharField(max_length=64, db_index=True)
    note = models.CharField(max_length=200, blank=True)
    created_at = models.DateTimeField()
    created_by = models.ForeignKey(settings.AUTH_USER_MODEL, on_delete=models.PROTECT, related_name="+")

    class Meta:
        ordering = ["sheet__maker", "sheet__model", "-number"]
        constraints = [models.UniqueConstraint(fields=["sheet", "number"], name="revision_number_once")]

    def __str__(self) -> str:
        return f"{self.sheet} r{self.number}"

    @property
    def content(self) -> core.Sheet:
        """The sheet as the core knows it; raises SheetError when this version can't read it."""
        found = _read(self.digest, self.document)
        if isinstance(found, SheetError):
            raise found
        return found

    @property
    def unreadable(self) -> SheetError | None:
        """Why this version can't read it, or None."""
        found = _read(self.digest, self.document)
        return found if isinstance(found, SheetError) else None


def current_revisions() -> list[Revision]:
    """The newest revision of every sheet, by maker and model."""
    newest = Revision.objects.select_related("sheet").filter(newest_of__isnull=False)
    return list(newest.order_by("sheet__maker", "sheet__model"))


def current_sheets() -> list[core.Sheet]:
    """The newest revision's content of every sheet that can be read."""
    return [revision.content for revision in current_revisions() if not revision.unreadable]
