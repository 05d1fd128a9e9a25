"""Publish a draft as a revision, or propose it to a lead."""

import json
import uuid
from dataclasses import replace

from django.db import transaction
from django.utils import timezone

from frostcore.circuit.check import check_circuit
from frostcore.document import Problem
from frostcore.errors import SheetError
from frostline.accounts.models import User
from frostline.sheets.actions.edit_draft import DraftClosedError, built
from frostline.sheets.actions.keep_pages import publish_pages
from frostline.sheets.actions.publish_revision import Published, keep_revision
from frostline.sheets.models import Draft


def propose_draft(pk: uuid.UUID, note: str, by: User) -> Draft:
    """Put a draft before a lead."""
    draft = Draft.objects.get(pk=pk)
    if not draft.at_work:
        message = f"{draft} is {draft.state} already."
        raise DraftClosedError(message)
    draft.state, draft.note = "proposed", note[:200]
    draft.changed_at, draft.changed_by = timezone.now(), by
    draft.save()
    return draft


def publish_draft(pk: uuid.UUID, note: str, by: User) -> Published:
    """Keep a draft as a new revision; SheetError with what still has to be mended.

    What can't be understood in a cell is left out of the sheet, and so it stands in the way.
    """
    draft = Draft.objects.get(pk=pk)
    found = built(draft)
    wrong = [
        Problem(f"{item.section}, row {item.row + 1}", item.text) for item in found.problems if not item.doubt
    ]
    if wrong or found.whole or found.sheet is None:
        raise SheetError([*found.whole, *wrong])
    document = dict(found.document)
    said = {"author": str(document.get("author") or by.shown_name)}
    said |= {"revision_note": note[:200]} if note else {}
    document |= said
    sheet = replace(
        found.sheet,
        author=said["author"],
        revision_note=said.get("revision_note", found.sheet.revision_note),
    )
    check_circuit(sheet)
    text = json.dumps(document, ensure_ascii=False, indent=2) + "\n"
    with transaction.atomic():
        draft = Draft.objects.select_for_update().get(pk=pk)
        if not draft.at_work:
            message = f"{draft} is {draft.state} already."
            raise DraftClosedError(message)
        published = keep_revision(text, sheet, by, timezone.now())
        if published.created:
            pages = draft.pages.select_related("picture")
            publish_pages(published.revision, [(page.name, page.picture) for page in pages])
        draft.state, draft.published = "published", published.revision
        draft.changed_at, draft.changed_by = timezone.now(), by
        draft.save()
    return published
