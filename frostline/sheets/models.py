"""Sheets and their immutable revisions."""

from functools import lru_cache

from django.conf import settings
from django.db import models
from django.urls import reverse

from frostcore.sheet import model as core
from frostcore.sheet.load import LoadedSheet, load
from frostline.ui.immutable import ImmutableModel


@lru_cache(maxsize=64)
def _loaded(digest: str, document: str) -> LoadedSheet:
    """A stored document, read once in each process; the digest makes a cheap key."""
    return load(document)


class Sheet(models.Model):
    """One unit's sheet, through all its revisions."""

    slug = models.SlugField(max_length=80, unique=True)
    maker = models.CharField(max_length=80)
    model = models.CharField(max_length=80)

    class Meta:
        ordering = ["maker", "model"]

    def __str__(self) -> str:
        return f"{self.maker} {self.model}"

    def get_absolute_url(self) -> str:
        return reverse("sheets:sheet", args=[self.slug])

    @property
    def current(self) -> "Revision":
        """The newest revision."""
        return self.revisions.order_by("-number").first()


class Revision(ImmutableModel):
    """One immutable revision of a sheet; a call keeps the one it was worked with."""

    sheet = models.ForeignKey(Sheet, on_delete=models.PROTECT, related_name="revisions")
    number = models.PositiveIntegerField()
    document = models.TextField()
    digest = models.CharField(max_length=64)
    note = models.CharField(max_length=200, blank=True)
    created_at = models.DateTimeField()
    created_by = models.ForeignKey(settings.AUTH_USER_MODEL, on_delete=models.PROTECT, related_name="+")

    class Meta:
        ordering = ["sheet__maker", "sheet__model", "-number"]
        constraints = [models.UniqueConstraint(fields=["sheet", "number"], name="revision_number_once")]

    def __str__(self) -> str:
        return f"{self.sheet} r{self.number}"

    @property
    def loaded(self) -> LoadedSheet:
        """The checked sheet with its remarks."""
        return _loaded(self.digest, self.document)

    @property
    def content(self) -> core.Sheet:
        """The sheet as the core knows it."""
        return self.loaded.sheet


def current_revisions() -> list[Revision]:
    """The newest revision of every sheet, by maker and model."""
    newest = models.Subquery(
        Revision.objects.filter(sheet=models.OuterRef("sheet")).order_by("-number").values("pk")[:1]
    )
    return list(
        Revision.objects.select_related("sheet").filter(pk=newest).order_by("sheet__maker", "sheet__model")
    )
