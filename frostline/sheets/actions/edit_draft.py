"""Change a draft, cell by cell: several people at once, each edit once."""

import json
import uuid
from collections.abc import Sequence
from dataclasses import asdict, dataclass

from django.db import transaction
from django.utils import timezone

from frostcore.paper.draft import Built, build
from frostcore.paper.edits import Conflict, Edit, apply_edit
from frostline.accounts.models import User
from frostline.sheets.models import Draft, DraftEdit


class DraftClosedError(RuntimeError):
    """A draft that was published or dropped is not changed any more."""


@dataclass(frozen=True)
class Edited:
    """The draft after its edits, and the cells somebody else had changed meanwhile."""

    draft: Draft
    conflicts: tuple[Conflict, ...]


@transaction.atomic
def edit_draft(pk: uuid.UUID, edits: Sequence[tuple[uuid.UUID, Edit]], by: User) -> Edited:
    """Make edits, each once however often it is sent; ValueError for one that can't be made."""
    draft = Draft.objects.select_for_update().get(pk=pk)
    if not draft.at_work:
        message = f"{draft} is {draft.state} and not changed any more."
        raise DraftClosedError(message)
    known = set(DraftEdit.objects.filter(pk__in=[number for number, _ in edits]).values_list("pk", flat=True))
    conflicts, now = list[Conflict](), timezone.now()
    for number, edit in edits:
        if number in known:
            continue
        conflict = apply_edit(draft.tables, edit)
        if conflict:
            conflicts.append(conflict)
            continue
        draft.version += 1
        DraftEdit(id=number, draft=draft, version=draft.version, edit=asdict(edit), at=now, by=by).save()
    if not known.issuperset(number for number, _ in edits):
        draft.title = title_of(draft)[:170]
        draft.changed_at, draft.changed_by = now, by
        draft.save()
    return Edited(draft, tuple(conflicts))


def title_of(draft: Draft) -> str:
    """Maker and model as far as they are typed, else what it began from."""
    typed = {row.get("id"): row.get("value", "") for row in draft.tables.get("plate", ())}
    return " ".join(part for part in (typed.get("maker"), typed.get("model")) if part) or draft.title


def built(draft: Draft) -> Built:
    """What follows from a draft."""
    return build(json.loads(draft.base), draft.tables)
