"""``manage.py changepassword NAME``: Django's own, which leaves a trace here."""

from typing import Any

from django.contrib.auth.management.commands import changepassword

from frostline.accounts.actions.save_person import note
from frostline.accounts.models import User


class Command(changepassword.Command):
    """Change a password at the command line; that it was is kept."""

    def handle(self, *arguments: Any, **options: Any) -> str | None:
        told = super().handle(*arguments, **options)
        person = User.objects.filter(username=options["username"]).first()
        if person is not None:
            note(person, "password set at the command line", None)
        return told
