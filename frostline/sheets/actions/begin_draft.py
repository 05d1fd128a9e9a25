"""Begin a draft of a sheet: from a kind of unit, another sheet, a file, or what was learned on a call."""

import json
from collections.abc import Sequence
from typing import Any

from django.db import transaction
from django.utils import timezone

from frostcore import document as documents
from frostcore.paper.draft import tables_of
from frostcore.paper.edits import keyed
from frostcore.sheet.load import bounded
from frostcore.sheet.model import Sheet
from frostline.accounts.models import User
from frostline.sheets.actions.edit_draft import title_of
from frostline.sheets.actions.keep_pages import add_pages, copy_pages
from frostline.sheets.models import Draft, Revision
from frostline.ui.pictures import Clean


def begin_draft(
    document: str,
    by: User,
    based_on: Revision | None = None,
    tables: dict[str, list[dict[str, str]]] | None = None,
    pages: Sequence[tuple[str, Clean]] = (),
) -> Draft:
    """A draft that begins with a document, with ``tables`` where those are typed already, and with ``pages``
    of its paper; raises SheetError where it can't be read as a sheet.

    Rules are not asked: a draft is where they are met.
    """
    base: dict[str, Any] = bounded(document)
    sheet = documents.read(Sheet, base, rules=False)
    now = timezone.now()
    draft = Draft(
        title=(sheet.plate.model if sheet.generic else sheet.title)[:170],
        base=json.dumps(base, ensure_ascii=False),
        tables=keyed(tables or tables_of(base)),
        based_on=based_on,
        created_at=now,
        created_by=by,
        changed_at=now,
        changed_by=by,
    )
    draft.title = title_of(draft)[:170]
    with transaction.atomic():
        draft.save(force_insert=True)
        if based_on:
            copy_pages(based_on, draft)
        add_pages(draft, pages, by)
    return draft
