"""``manage.py load_demo``: the invented workshop, into an empty database."""

from pathlib import Path

from django.conf import settings
from django.core.management.base import BaseCommand, CommandError, CommandParser

from frostline.accounts.models import User
from frostline.demo.actions import DEMO_MARK, load_demo


class Command(BaseCommand):
    """Load the demo data; an already filled database is left as it is."""

    help = "Load the demo's people, sheets and calls into an empty database."

    def add_arguments(self, parser: CommandParser) -> None:
        parser.add_argument(
            "--lead-password", help="give the demo lead this password, to try what leads may do"
        )

    def handle(self, *arguments: object, **options: object) -> None:
        if not settings.DEMO:
            raise CommandError(
                "Demo data is loaded only in demo mode. Set FROSTLINE_DEMO=1, or run bin/demo."
            )
        passwords = {"lead": str(options["lead_password"])} if options["lead_password"] else {}
        if not User.objects.exists():
            # Before the data: a start that was cut short must not leave data that nobody dares to touch.
            mark = settings.DATA_DIR / DEMO_MARK
            mark.write_text("Invented data: bin/demo --fresh may delete it.\n", encoding="utf-8")
        loaded = load_demo(Path(settings.BASE_DIR) / "demo", passwords=passwords)
        self.stdout.write("Demo data loaded." if loaded else "There is data already; it is kept as it is.")
