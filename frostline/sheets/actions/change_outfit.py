"""Add a part to a draft, or take one out that this unit has not."""

import json
import uuid
from dataclasses import asdict
from typing import Any

from django.db import transaction
from django.utils import timezone

from frostcore.paper import outfit
from frostcore.paper.draft import tables_of
from frostcore.paper.edits import keyed
from frostline.accounts.models import User
from frostline.sheets.actions.edit_draft import DraftClosedError
from frostline.sheets.models import Draft, DraftEdit


def add_part(pk: uuid.UUID, new: outfit.NewPart, by: User) -> Draft:
    """A draft with one part more, its rows among those of the parts. Raises OutfitError in words."""
    draft = Draft.objects.get(pk=pk)
    base = outfit.added(json.loads(draft.base), new)
    return _changed(pk, draft.base, base, {"op": "add_part", **asdict(new)}, by)


def leave_out(pk: uuid.UUID, part: str, by: User) -> Draft:
    """A draft without a part. Raises OutfitError in words."""
    draft = Draft.objects.get(pk=pk)
    base = outfit.without(json.loads(draft.base), part)
    return _changed(pk, draft.base, base, {"op": "leave_out", "part": part}, by)


@transaction.atomic
def _changed(pk: uuid.UUID, before: str, base: dict[str, Any], edit: dict[str, Any], by: User) -> Draft:
    """Put another base under a draft; what was typed stays, but for the row of a part that is gone."""
    draft = Draft.objects.select_for_update().get(pk=pk)
    if not draft.at_work:
        message = f"{draft} is {draft.state} and not changed any more."
        raise DraftClosedError(message)
    if draft.base != before:
        raise outfit.OutfitError("Somebody changed the parts meanwhile. Look at them and try again.")
    parts = {row["id"]: row for row in tables_of(base)["parts"]}
    kept = [row for row in draft.tables.get("parts", ()) if row.get("id") in parts]
    new = [row for name, row in parts.items() if name not in {row.get("id") for row in kept}]
    draft.tables["parts"] = [*kept, *keyed({"parts": new})["parts"]]
    draft.base = json.dumps(base, ensure_ascii=False)
    draft.version += 1
    draft.changed_at, draft.changed_by = timezone.now(), by
    draft.save()
    DraftEdit(draft=draft, version=draft.version, edit=edit, at=draft.changed_at, by=by).save()
    return draft
