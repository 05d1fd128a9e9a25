"""Correct whose unit it is, or erase it on request; the technical record stays whole."""

from django.db import transaction
from django.utils import timezone

from frostcore.errors import SheetError
from frostline.accounts.models import User
from frostline.calls.actions.keep_index import keep_words
from frostline.calls.actions.open_call import Who
from frostline.calls.models import Customer, CustomerChange
from frostline.calls.tapes import standing_of

ERASED_NAME = "erased on request"


@transaction.atomic
def correct_customer(customer: Customer, who: Who, by: User) -> bool:
    """Write name, address and telephone as they should be; returns whether anything was.

    What was erased meanwhile stays erased.
    """
    customer = Customer.objects.get(pk=customer.pk)
    if customer.erased:
        return False
    given = {"name": who.name, "address": who.address, "phone": who.phone}
    changed = [name for name, value in given.items() if getattr(customer, name) != value]
    if changed:
        _write(customer, given, CustomerChange(what="corrected", fields=" ".join(changed)), by)
    return bool(changed)


@transaction.atomic
def erase_customer(customer: Customer, by: User) -> None:
    """Take name, address and telephone out of every call of theirs; who did it and when is kept."""
    customer = Customer.objects.get(pk=customer.pk)
    if customer.erased:
        return
    customer.erased_at = timezone.now()
    given = {"name": ERASED_NAME, "address": "", "phone": ""}
    _write(customer, given, CustomerChange(what="erased", fields="name address phone"), by)


def _write(customer: Customer, given: dict[str, str], change: CustomerChange, by: User) -> None:
    for name, value in given.items():
        setattr(customer, name, value)
    customer.save()
    change.customer, change.at, change.by = customer, timezone.now(), by
    change.save()
    for call in customer.calls.select_related("revision__sheet", "customer"):
        try:
            keep_words(call, standing_of(call))
        except SheetError:
            keep_words(call, None)
