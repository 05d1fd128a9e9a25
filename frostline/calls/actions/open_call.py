"""Open a call for a unit, once."""

import uuid
from datetime import datetime

from django.db import transaction
from django.db.models import Max
from django.utils import timezone

from frostcore.tape.entries import CallTaken
from frostline.accounts.models import User
from frostline.calls.actions.record_slip import record_slip
from frostline.calls.models import Call
from frostline.sheets.models import Revision


@transaction.atomic
def open_call(
    call_id: uuid.UUID, revision: Revision, taken: CallTaken, by: User, at: datetime | None = None
) -> Call:
    """A new call with its first slip; the same id again gives the call that was opened with it."""
    if (earlier := Call.objects.filter(pk=call_id).first()) is not None:
        return earlier
    at = at or timezone.now()
    number = (Call.objects.aggregate(last=Max("number"))["last"] or 100) + 1
    call = Call(id=call_id, number=number, revision=revision, opened_at=at, opened_by=by)
    call.save()
    record_slip(call, uuid.uuid5(call_id, "call"), taken, by, at=at)
    return call
