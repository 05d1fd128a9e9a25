"""Take a revision away from new calls; those that were worked with it keep it."""

from django.db import transaction
from django.utils import timezone

from frostline.accounts.models import User
from frostline.sheets.models import Revision, Withdrawal


@transaction.atomic
def withdraw_revision(revision: Revision, why: str, by: User) -> bool:
    """Withdraw a revision; new calls take the newest one left, if any. False where it was before."""
    if Withdrawal.objects.filter(revision=revision).exists():
        return False
    Withdrawal(revision=revision, why=why[:200], at=timezone.now(), by=by).save()
    sheet = revision.sheet
    sheet.newest = sheet.revisions.filter(withdrawal=None).order_by("-number").first()
    sheet.save()
    return True
