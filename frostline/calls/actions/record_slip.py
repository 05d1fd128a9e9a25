"""Put an entry on a call's tape, once."""

import uuid
from dataclasses import dataclass
from datetime import datetime

from django.db import transaction
from django.utils import timezone

from frostcore.errors import TapeError
from frostcore.tape.entries import Body, Entry, body_to_document
from frostcore.tape.take import NOTHING_ANSWERED, Answers, Asked, Offered, take
from frostcore.tape.versions import version_of
from frostline.accounts.models import User
from frostline.calls.actions.keep_index import keep_index
from frostline.calls.models import Call, Slip
from frostline.calls.tapes import replayed, standing_of

DECIDED_ON_TAKING = {"kept", "code"}
"""Fields that answers may change: a form sent again is the same without regard to them."""


@dataclass(frozen=True)
class NewSlip:
    """A slip as it is offered: its id, what it says, what was answered, what it corrects, when it was made
    (now, when nobody says)."""

    id: uuid.UUID
    body: Body
    answers: Answers = NOTHING_ANSWERED
    supersedes: uuid.UUID | None = None
    made_at: datetime | None = None


@dataclass(frozen=True)
class Recorded:
    """The slip, and whether this made it (a form sent twice finds the first one's slip)."""

    slip: Slip
    created: bool


@transaction.atomic
def record_slip(call: Call, new: NewSlip, by: User, *, now: datetime | None = None) -> Recorded | Asked:
    """Append an entry with what has to go before it, or say what must be asked first.

    Raises TapeError when it can't be taken, and then nothing is recorded. SQLite begins this transaction
    with the write lock held, and the tape is read under it: two people's entries both find their place.
    """
    now = now or timezone.now()
    call = Call.objects.select_related("revision__sheet", "customer").get(pk=call.pk)
    if (earlier := Slip.objects.filter(pk=new.id).first()) is not None:
        return _again(earlier, call, new.body)
    standing = standing_of(call)
    made = max(call.opened_at, min(new.made_at or now, now))
    offered = Offered(str(new.id), made, by.shown_name, new.body, str(new.supersedes or ""))
    found = take(standing, offered, new.answers)
    if isinstance(found, Asked):
        return found
    written: list[Entry] = []
    for number, body in enumerate(found.bodies, 1):
        last = number == len(found.bodies)
        slip = Slip(
            id=new.id if last else uuid.uuid5(new.id, f"before {number - 1}"),
            call=call,
            position=len(standing.tape) + number,
            kind=body.kind,
            version=version_of(body.kind),
            body=body_to_document(body),
            at=made,
            recorded_at=now,
            by=by,
            supersedes_id=new.supersedes if last else None,
        )
        slip.save()
        corrects = str(slip.supersedes_id or "")
        written.append(Entry(str(slip.id), made, by.shown_name, body, corrects, now))
    keep_index(call, replayed(call, (*standing.tape, *written)))
    return Recorded(slip, created=True)


def _again(earlier: Slip, call: Call, body: Body) -> Recorded:
    """The slip a form recorded when it was first sent; TapeError when it now says something else."""
    offered, stored = (
        {key: value for key, value in document.items() if key not in DECIDED_ON_TAKING}
        for document in (body_to_document(body), earlier.body)
    )
    if earlier.call_id != call.pk or stored != offered:
        raise TapeError(
            "This form was already recorded with other content. It is on the tape; correct it there, or"
            " reload the page to add a new slip."
        )
    return Recorded(earlier, created=False)
