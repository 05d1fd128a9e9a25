"""Add a person to the workshop, or change one; what changed, by whom and when is kept."""

from django.core.exceptions import ValidationError
from django.db import transaction
from django.utils import timezone

from frostline.accounts.forms import PersonForm
from frostline.accounts.models import PersonChange, Role, User

ONLY_LEAD = "This is the only lead left. Make someone else a lead first."
SAID = {"username": "name to sign in with", "first_name": "first name", "last_name": "last name"}


@transaction.atomic
def save_person(form: PersonForm, by: User | None) -> User:
    """Save a valid form; a typed password becomes the person's.

    Raises ValidationError where it would leave the workshop without a lead: asked under the lock, for two
    leads may resign at once.
    """
    before = User.objects.filter(pk=form.instance.pk).first()
    person = form.save(commit=False)
    password = form.cleaned_data["password"]
    if password:
        person.set_password(password)
    if before is not None and _leads(before) and not _leads(person):
        others = User.objects.filter(role=Role.LEAD, is_active=True).exclude(pk=person.pk)
        if not others.exists():
            raise ValidationError(ONLY_LEAD)
    person.save()
    for what in _changed(before, person, password=bool(password)):
        note(person, what, by)
    return person


def note(person: User, what: str, by: User | None) -> None:
    """Keep that a person was changed."""
    PersonChange(person=person, what=what[:200], at=timezone.now(), by=by).save()


def _leads(person: User) -> bool:
    return person.is_lead and person.is_active


def _changed(before: User | None, after: User, *, password: bool) -> list[str]:
    if before is None:
        return [f"added, as {after.role}"]
    said = [
        f"{word}: {getattr(before, name) or 'none'} → {getattr(after, name) or 'none'}"
        for name, word in SAID.items()
        if getattr(before, name) != getattr(after, name)
    ]
    if before.role != after.role:
        said.append(f"role: {before.role} → {after.role}")
    if before.is_active != after.is_active:
        said.append("may sign in again" if after.is_active else "may no longer sign in")
    return [*said, *(["password set"] if password else [])]
