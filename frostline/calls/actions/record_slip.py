"""Put an entry on a call's tape, once."""

import uuid
from collections.abc import Sequence
from dataclasses import dataclass
from datetime import datetime

from django.db import transaction
from django.utils import timezone

from frostcore.errors import TapeError
from frostcore.tape.entries import Body, Entry, body_to_document
from frostcore.tape.standing import stand
from frostline.accounts.models import User
from frostline.calls.models import Call, Slip


@dataclass(frozen=True)
class Recorded:
    """The slip, and whether this made it (a form sent twice finds the first one's slip)."""

    slip: Slip
    created: bool


@transaction.atomic
def record_slip(
    call: Call,
    slip_id: uuid.UUID,
    body: Body,
    by: User,
    *,
    supersedes: uuid.UUID | None = None,
    first: Sequence[Body] = (),
    at: datetime | None = None,
) -> Recorded:
    """Append one entry; raises TapeError when it does not fit, and then nothing is recorded.

    ``first`` is recorded just before it: a power state or plugs moved, as answered to a question about
    the reading. SQLite begins this transaction with the write lock held, so positions can't collide.
    """
    at = at or timezone.now()
    if (earlier := Slip.objects.filter(pk=slip_id).first()) is not None:
        if earlier.call_id != call.pk or earlier.body != body_to_document(body):
            raise TapeError(
                "This form was already recorded with other content. It is on the tape; correct it there, or"
                " reload the page to add a new slip."
            )
        return Recorded(earlier, created=False)
    tape = list(call.tape())
    for number, before in enumerate(first):
        _append(call, tape, uuid.uuid5(slip_id, f"before {number}"), before, by, None, at)
    return Recorded(_append(call, tape, slip_id, body, by, supersedes, at), created=True)


def _append(
    call: Call,
    tape: list[Entry],
    slip_id: uuid.UUID,
    body: Body,
    by: User,
    supersedes: uuid.UUID | None,
    at: datetime,
) -> Slip:
    entry = Entry(str(slip_id), at, by.shown_name, body, str(supersedes or ""))
    stand(call.revision.content, [*tape, entry])
    tape.append(entry)
    slip = Slip(
        id=slip_id,
        call=call,
        position=len(tape),
        kind=body.kind,
        body=body_to_document(body),
        at=at,
        by=by,
        supersedes_id=supersedes,
    )
    slip.save()
    return slip
