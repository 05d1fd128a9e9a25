"""``manage.py load_many N``: N calls with a real mix of entries over 200 sheets."""

from pathlib import Path

from django.conf import settings
from django.core.management.base import BaseCommand, CommandError, CommandParser

from frostline.accounts.models import User
from frostline.calls.models import Call, Slip
from frostline.demo.many import load_many


class Command(BaseCommand):
    """Fill a demo database to see how it holds."""

    help = "Load N calls with a real mix of entries over 200 sheets, into a demo's database."

    def add_arguments(self, parser: CommandParser) -> None:
        parser.add_argument("count", type=int)

    def handle(self, *arguments: object, **options: int) -> None:
        if not settings.DEMO:
            raise CommandError(
                "Made-up calls are loaded only in demo mode. Set FROSTLINE_DEMO=1, or run bin/load."
            )
        if not 1 <= options["count"] <= 1_000_000:
            raise CommandError(f"{options['count']} calls? Give a number from 1 to 1,000,000.")
        lead = User.objects.filter(role="lead").first()
        if lead is None:
            raise CommandError("Load the demo first: manage.py load_demo.")
        load_many(options["count"], Path(settings.BASE_DIR) / "demo" / "sheets", lead, self.stdout.write)
        self.stdout.write(f"{Call.objects.count():,} calls, {Slip.objects.count():,} entries.")
