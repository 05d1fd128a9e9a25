"""Open a call for a unit, once."""

import uuid
from dataclasses import dataclass
from datetime import datetime

from django.db import transaction
from django.db.models import Max
from django.utils import timezone

from frostcore.tape.entries import CallTaken, PlateRead
from frostline.accounts.models import User
from frostline.calls.actions.record_slip import NewSlip, record_slip
from frostline.calls.experience import experience_of
from frostline.calls.models import Call, Customer
from frostline.sheets.models import Revision

FIRST_NUMBER = 101


@dataclass(frozen=True)
class Who:
    """Whose unit it is."""

    name: str
    address: str = ""
    phone: str = ""


@dataclass(frozen=True)
class NewCall:
    """A call as it is taken: its id, the unit's sheet, whose it is, what was told, whether it is practice,
    and the rating plate where it was read with it."""

    id: uuid.UUID
    revision: Revision
    who: Who
    taken: CallTaken
    practice: bool = False
    plate: PlateRead | None = None


@transaction.atomic
def open_call(new: NewCall, by: User, at: datetime | None = None) -> Call:
    """A new call with its first slip; the same id again gives the call that was opened with it."""
    if (earlier := Call.objects.filter(pk=new.id).first()) is not None:
        return earlier
    at = at or timezone.now()
    last = Call.objects.aggregate(last=Max("number"))["last"]
    call = Call(
        id=new.id,
        number=last + 1 if last else FIRST_NUMBER,
        revision=new.revision,
        customer=_customer(new.who),
        practice=new.practice,
        opened_at=at,
        opened_by=by,
    )
    call.save()
    record_slip(call, NewSlip(uuid.uuid5(new.id, "call"), new.taken, made_at=at), by, now=at)
    if new.plate:
        record_slip(call, NewSlip(uuid.uuid5(new.id, "plate"), new.plate, made_at=at), by, now=at)
    learned = None if new.practice else experience_of(new.revision.content)
    if learned:
        record_slip(call, NewSlip(uuid.uuid5(new.id, "experience"), learned, made_at=at), by, now=at)
    return call


def _customer(who: Who) -> Customer:
    """The customer of just this name, address and telephone, or a new one.

    A bare name is no proof that two are one.
    """
    given = {"name": who.name, "address": who.address, "phone": who.phone}
    known = Customer.objects.filter(**given, erased_at=None).first() if who.address or who.phone else None
    return known or Customer.objects.create(**given)
