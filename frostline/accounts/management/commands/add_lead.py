"""``manage.py add_lead NAME``: someone who may add people and publish sheets."""

import getpass
import os
import sys

from django.contrib.auth.password_validation import validate_password
from django.core.exceptions import ValidationError
from django.core.management.base import BaseCommand, CommandError, CommandParser
from django.db import transaction

from frostline.accounts.actions.save_person import note
from frostline.accounts.models import User


class Command(BaseCommand):
    """Add a lead; the workshop's first account is one."""

    help = "Add a lead: someone who may add people and publish sheets. Asks for a password."

    def add_arguments(self, parser: CommandParser) -> None:
        parser.add_argument("name", help="the name to sign in with")

    def handle(self, *arguments: object, **options: object) -> None:
        name = str(options["name"])
        person = User(username=name)
        try:
            person.full_clean(exclude=["password"])
            password = _password()
            validate_password(password, person)
        except ValidationError as error:
            raise CommandError(" ".join(error.messages)) from None
        with transaction.atomic():
            person = User.objects.create_superuser(name, password=password)
            note(person, "added at the command line, as lead", None)
        self.stdout.write(f"{name} is a lead and may sign in.")


def _password() -> str:
    """The password, typed twice; from FROSTLINE_LEAD_PASSWORD where nobody can type."""
    if given := os.environ.get("FROSTLINE_LEAD_PASSWORD"):
        return given
    if not sys.stdin.isatty():
        raise CommandError(
            "Nobody is there to type a password; set FROSTLINE_LEAD_PASSWORD for this command."
        )
    typed = getpass.getpass("Password: ")
    if typed != getpass.getpass("Once more: "):
        raise CommandError("The two passwords differ; nothing was changed.")
    return typed
