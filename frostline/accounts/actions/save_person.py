"""Add a person to the workshop, or change one."""

from django.db import transaction

from frostline.accounts.forms import PersonForm
from frostline.accounts.models import User


@transaction.atomic
def save_person(form: PersonForm) -> User:
    """Save a valid form; a typed password becomes the person's."""
    person = form.save(commit=False)
    if form.cleaned_data["password"]:
        person.set_password(form.cleaned_data["password"])
    person.save()
    return person
