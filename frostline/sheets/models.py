"""Sheets and their immutable revisions; drafts on their way to one."""

import uuid

from django.conf import settings
from django.db import models
from django.urls import reverse

from frostcore.errors import SheetError
from frostcore.sheet import model as core
from frostcore.sheet.load import read
from frostline.ui.immutable import ImmutableModel
from frostline.ui.kept import Kept

KEPT_SHEETS = 1000
"""Sheets read and kept in a process: what a workshop has, with room to spare. Each takes some 150 kB."""


_sheets: Kept[core.Sheet | SheetError] = Kept(KEPT_SHEETS)
"""By the digest of their content: as read, or why they can't be."""


class Sheet(models.Model):
    """One unit's sheet, through all its revisions.

    ``slug`` is the document's own identifier and the sheet's address. The rest is what lists show, as the
    newest revision has it; ``generic`` says that it is of a kind of unit and of none in particular.
    """

    slug = models.SlugField(max_length=60, unique=True)
    maker = models.CharField(max_length=80)
    model = models.CharField(max_length=80)
    appliance = models.CharField(max_length=120, blank=True)
    generic = models.BooleanField(default=False)
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
    created_by = models.ForeignKey(
        settings.AUTH_USER_MODEL, null=True, blank=True, on_delete=models.PROTECT, related_name="+"
    )
    """Who published it; nobody where it ships with Frostline."""

    class Meta:
        ordering = ["sheet__maker", "sheet__model", "-number"]
        constraints = [models.UniqueConstraint(fields=["sheet", "number"], name="revision_number_once")]

    def __str__(self) -> str:
        return f"{self.sheet} r{self.number}"

    @property
    def content(self) -> core.Sheet:
        """The sheet as the core knows it; raises SheetError when this version can't read it."""
        found = self._as_read
        if isinstance(found, SheetError):
            raise found
        return found

    @property
    def picture(self) -> str:
        """The template of a kind's picture: what one sees of it from the front and the back."""
        return f"calls/kinds/{self.sheet.slug}.svg"

    @property
    def unreadable(self) -> SheetError | None:
        """Why this version can't read it, or None."""
        found = self._as_read
        return found if isinstance(found, SheetError) else None

    @property
    def _as_read(self) -> core.Sheet | SheetError:
        """The document, read once in each process."""
        kept = _sheets.get(self.digest)
        if kept is not None:
            return kept
        try:
            return _sheets.keep(self.digest, read(self.document))
        except SheetError as error:
            return _sheets.keep(self.digest, error)


def current_revisions(*, generic: bool = False) -> list[Revision]:
    """The newest revision of every sheet, by maker and model; those of kinds of unit where ``generic``.

    Documents come only where they are not kept as read.
    """
    current = Revision.objects.filter(newest_of__isnull=False, sheet__generic=generic)
    newest = list(current.select_related("sheet").defer("document").order_by("sheet__maker", "sheet__model"))
    wanted = {revision.pk: revision for revision in newest if _sheets.get(revision.digest) is None}
    for pk, document in current.filter(pk__in=wanted).values_list("pk", "document"):
        wanted[pk].document = document
    return newest


def current_digests() -> tuple[str, ...]:
    """The digests of the newest revisions, in the same order."""
    current = Revision.objects.filter(newest_of__isnull=False, sheet__generic=False)
    return tuple(current.order_by("sheet__maker", "sheet__model").values_list("digest", flat=True))


def current_sheets() -> list[core.Sheet]:
    """The newest revision's content of every sheet that can be read."""
    return [revision.content for revision in current_revisions() if not revision.unreadable]


class Draft(models.Model):
    """A sheet on its way: what it began from and the tables typed since, autosaved.

    ``base`` is the document it began from, ``tables`` the texts as typed. ``version`` counts its changes.
    """

    id = models.UUIDField(primary_key=True, default=uuid.uuid4, editable=False)
    title = models.CharField(max_length=170)
    base = models.TextField()
    tables = models.JSONField()
    version = models.PositiveIntegerField(default=0)
    state = models.CharField(
        max_length=12,
        default="open",
        choices=[
            ("open", "open"),
            ("proposed", "proposed"),
            ("published", "published"),
            ("dropped", "dropped"),
        ],
    )
    note = models.CharField(max_length=200, blank=True)
    based_on = models.ForeignKey(
        Revision, null=True, blank=True, on_delete=models.PROTECT, related_name="drafts"
    )
    published = models.ForeignKey(
        Revision, null=True, blank=True, on_delete=models.PROTECT, related_name="from_drafts"
    )
    created_at = models.DateTimeField()
    created_by = models.ForeignKey(settings.AUTH_USER_MODEL, on_delete=models.PROTECT, related_name="+")
    changed_at = models.DateTimeField()
    changed_by = models.ForeignKey(settings.AUTH_USER_MODEL, on_delete=models.PROTECT, related_name="+")

    class Meta:
        ordering = ["-changed_at"]

    def __str__(self) -> str:
        return self.title

    def get_absolute_url(self) -> str:
        return reverse("sheets:draft", args=[self.pk])

    @property
    def at_work(self) -> bool:
        """Whether it can still be changed."""
        return self.state in {"open", "proposed"}


class DraftEdit(ImmutableModel):
    """One change of a draft, as it was made: nothing typed is ever lost."""

    id = models.UUIDField(primary_key=True, default=uuid.uuid4, editable=False)
    draft = models.ForeignKey(Draft, on_delete=models.PROTECT, related_name="edits")
    version = models.PositiveIntegerField()
    edit = models.JSONField()
    at = models.DateTimeField()
    by = models.ForeignKey(settings.AUTH_USER_MODEL, on_delete=models.PROTECT, related_name="+")

    class Meta:
        ordering = ["draft", "version"]
        constraints = [models.UniqueConstraint(fields=["draft", "version"], name="draft_version_once")]

    def __str__(self) -> str:
        return f"{self.draft}, change {self.version}"


class Withdrawal(ImmutableModel):
    """That a revision is not for new calls any more: who said so, when, and why."""

    revision = models.OneToOneField(Revision, on_delete=models.PROTECT, related_name="withdrawal")
    why = models.CharField(max_length=200)
    at = models.DateTimeField()
    by = models.ForeignKey(settings.AUTH_USER_MODEL, on_delete=models.PROTECT, related_name="+")

    def __str__(self) -> str:
        return f"{self.revision}, withdrawn"


class Picture(ImmutableModel):
    """A picture kept for good, under the digest of its content."""

    digest = models.CharField(max_length=64, primary_key=True)
    media_type = models.CharField(max_length=20)
    size = models.PositiveIntegerField()
    width = models.PositiveIntegerField()
    height = models.PositiveIntegerField()
    kept_at = models.DateTimeField()
    kept_by = models.ForeignKey(settings.AUTH_USER_MODEL, on_delete=models.PROTECT, related_name="+")

    def __str__(self) -> str:
        return self.digest[:12]

    def get_absolute_url(self) -> str:
        return reverse("sheets:picture", args=[self.digest])


class Page(models.Model):
    """A page of the paper that a draft is typed from.

    ``found`` are the tables on it, by their corners, once they were looked for.
    """

    id = models.UUIDField(primary_key=True, default=uuid.uuid4, editable=False)
    draft = models.ForeignKey(Draft, on_delete=models.PROTECT, related_name="pages")
    picture = models.ForeignKey(Picture, on_delete=models.PROTECT, related_name="+")
    name = models.CharField(max_length=120)
    position = models.PositiveIntegerField()
    state = models.CharField(
        max_length=10,
        default="waiting",
        choices=[(name, name) for name in ("waiting", "at work", "looked")],
    )
    tries = models.PositiveSmallIntegerField(default=0)
    found = models.JSONField(default=list)

    class Meta:
        ordering = ["draft", "position"]

    def __str__(self) -> str:
        return self.name

    @property
    def ended(self) -> bool:
        """Whether it has been looked over."""
        return self.state == "looked"


class Reading(models.Model):
    """A table being read from a page, in the background: its corners, then its cells or why there are none.

    ``cells`` are the core's, each with its box on the picture ``flat``, on which the table lies straight.
    """

    id = models.UUIDField(primary_key=True, default=uuid.uuid4, editable=False)
    page = models.ForeignKey(Page, on_delete=models.CASCADE, related_name="readings")
    section = models.CharField(max_length=20)
    corners = models.JSONField()
    state = models.CharField(
        max_length=10,
        default="waiting",
        choices=[(name, name) for name in ("waiting", "at work", "read", "refused")],
    )
    tries = models.PositiveSmallIntegerField(default=0)
    why = models.CharField(max_length=300, blank=True)
    cells = models.JSONField(default=list)
    unwitnessed = models.JSONField(default=list)
    flat = models.ForeignKey(Picture, null=True, blank=True, on_delete=models.PROTECT, related_name="+")
    at = models.DateTimeField()
    by = models.ForeignKey(settings.AUTH_USER_MODEL, on_delete=models.PROTECT, related_name="+")

    class Meta:
        ordering = ["at"]

    def __str__(self) -> str:
        return f"{self.section} of {self.page}"

    @property
    def ended(self) -> bool:
        """Whether nothing more will come of it."""
        return self.state in {"read", "refused"}


class RevisionPage(ImmutableModel):
    """A page of the paper that a revision was made from."""

    revision = models.ForeignKey(Revision, on_delete=models.PROTECT, related_name="pages")
    picture = models.ForeignKey(Picture, on_delete=models.PROTECT, related_name="+")
    name = models.CharField(max_length=120)
    position = models.PositiveIntegerField()

    class Meta:
        ordering = ["revision", "position"]
        constraints = [models.UniqueConstraint(fields=["revision", "position"], name="page_position_once")]

    def __str__(self) -> str:
        return f"{self.revision}, {self.name}"
