"""Publish a sheet document as a new revision."""

import hashlib
from dataclasses import dataclass
from datetime import datetime

from django.db import transaction
from django.utils import timezone
from django.utils.text import slugify

from frostcore.circuit.check import check_circuit
from frostcore.sheet.load import load
from frostline.accounts.models import User
from frostline.sheets.models import Revision, Sheet


@dataclass(frozen=True)
class Published:
    """The revision, and whether it is new (the same document twice makes one revision)."""

    revision: Revision
    created: bool


@transaction.atomic
def publish_revision(document: str, by: User, at: datetime | None = None) -> Published:
    """Check a document and keep it; raises SheetError with every problem.

    The same text as the newest revision is not kept again.
    """
    content = load(document).sheet
    check_circuit(content)
    digest = hashlib.sha256(document.encode()).hexdigest()
    sheet, _ = Sheet.objects.get_or_create(
        slug=slugify(content.title), defaults={"maker": content.plate.maker, "model": content.plate.model}
    )
    newest = sheet.current
    if newest and newest.digest == digest:
        return Published(newest, created=False)
    revision = Revision(
        sheet=sheet,
        number=newest.number + 1 if newest else 1,
        document=document,
        digest=digest,
        note=content.revision_note,
        created_at=at or timezone.now(),
        created_by=by,
    )
    revision.save()
    return Published(revision, created=True)
