"""Publish a sheet document as a new revision."""

from collections.abc import Sequence
from dataclasses import dataclass
from datetime import datetime

from django.db import transaction
from django.db.models import Max
from django.utils import timezone

from frostcore.circuit.check import check_circuit
from frostcore.document import Problem
from frostcore.errors import SheetError
from frostcore.sheet import model as core
from frostcore.sheet.load import digest, load
from frostline.accounts.models import User
from frostline.sheets.actions.keep_pages import keep_picture, publish_pages
from frostline.sheets.actions.keep_words import keep_words
from frostline.sheets.models import Revision, Sheet
from frostline.ui.pictures import Clean


@dataclass(frozen=True)
class Published:
    """The revision, and whether it is new (the same content twice makes one revision)."""

    revision: Revision
    created: bool


def publish_revision(
    document: str, by: User | None, at: datetime | None = None, pages: Sequence[tuple[str, Clean]] = ()
) -> Published:
    """Check a document and keep it, by somebody or as it ships, with ``pages`` of its paper (somebody's);
    raises SheetError with every problem.

    The same content as the newest revision is not kept again, however it is laid out. Checking comes before
    the transaction: nobody else waits for it.
    """
    content = load(document).sheet
    check_circuit(content)
    with transaction.atomic():
        published = keep_revision(document, content, by, at or timezone.now())
        if by and published.created:
            publish_pages(published.revision, [(name, keep_picture(each, by)) for name, each in pages])
    return published


@transaction.atomic
def keep_revision(document: str, content: core.Sheet, by: User | None, at: datetime) -> Published:
    """Keep a document that was checked; raises SheetError where its identifier is another maker's."""
    sheet, _ = Sheet.objects.get_or_create(slug=content.id, defaults={"maker": "", "model": ""})
    newest, mark = sheet.newest, digest(document)
    if newest and newest.digest == mark:
        return Published(newest, created=False)
    if sheet.revisions.exists() and not _same_maker(sheet, content):
        told = (
            f"“{content.id}” is the sheet of the {sheet}, and this one is of the {content.title}."
            " Give it an identifier of its own."
        )
        raise SheetError([Problem("id", told)])
    revision = Revision(
        sheet=sheet,
        number=(sheet.revisions.aggregate(last=Max("number"))["last"] or 0) + 1,
        document=document,
        digest=mark,
        note=content.revision_note[:200],
        created_at=at,
        created_by=by,
    )
    revision.save()
    sheet.maker, sheet.model = content.plate.maker[:80], content.plate.model[:80]
    sheet.appliance, sheet.newest = content.plate.appliance[:120], revision
    sheet.generic = content.generic
    sheet.save()
    keep_words(sheet, content)
    return Published(revision, created=True)


def _same_maker(sheet: Sheet, content: core.Sheet) -> bool:
    """Whether a new revision is of the same maker; a model's spelling may be mended, a maker's case too."""
    return sheet.maker.casefold() == content.plate.maker[:80].casefold()
