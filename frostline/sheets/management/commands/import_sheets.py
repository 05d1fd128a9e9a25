"""``manage.py import_sheets FOLDER --by NAME``: publish every sheet of a folder, with a report."""

from pathlib import Path

from django.core.management.base import BaseCommand, CommandError, CommandParser

from frostline.accounts.models import Role, User
from frostline.sheets.actions.import_sheets import import_sheets

PROBLEMS_TOLD = 5


class Command(BaseCommand):
    """Each file by itself: one that is wrong keeps no other back."""

    help = "Publish every sheet (.json) of a folder, and say what became of each."

    def add_arguments(self, parser: CommandParser) -> None:
        parser.add_argument("folder", type=Path)
        parser.add_argument("--by", required=True, help="the lead who publishes them")

    def handle(self, *arguments: object, **options: object) -> None:
        folder, name = Path(str(options["folder"])), str(options["by"])
        by = User.objects.filter(username=name, role=Role.LEAD, is_active=True).first()
        if by is None:
            raise CommandError(f"There is no lead “{name}”.")
        paths = sorted(folder.glob("*.json"))
        if not paths:
            raise CommandError(f"There is no sheet (.json) in {folder}.")
        wrong = 0
        for path in paths:
            try:
                text = path.read_text(encoding="utf-8-sig")
            except (OSError, UnicodeDecodeError) as error:
                self.stdout.write(f"{path.name}: can’t be read ({type(error).__name__})")
                wrong += 1
                continue
            (found,) = import_sheets([(path.name, text)], by)
            self.stdout.write(f"{found.name} {found.said}")
            wrong += found.revision is None
            for problem in found.problems[:PROBLEMS_TOLD]:
                self.stdout.write(f"    {problem}")
            if len(found.problems) > PROBLEMS_TOLD:
                self.stdout.write(f"    and {len(found.problems) - PROBLEMS_TOLD} more")
        self.stdout.write(f"{len(paths) - wrong} kept, {wrong} not.")
        if wrong:
            raise CommandError("Mend those and run it again: sheets that are kept already stay as they are.")
