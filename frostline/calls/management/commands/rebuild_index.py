"""``manage.py rebuild_index``: make the index of calls and the words calls and sheets are found by anew."""

from django.core.management.base import BaseCommand, CommandParser
from django.db import connection, transaction

from frostcore.errors import SheetError
from frostcore.tape.standing import Standing
from frostline.calls.actions.keep_index import keep_index
from frostline.calls.models import Call
from frostline.calls.tapes import standing_of
from frostline.sheets.actions.keep_words import keep_words
from frostline.sheets.models import Sheet, current_revisions

BATCH = 200


class Command(BaseCommand):
    """Replay every tape and write what lists and search go by."""

    help = "Make the index of calls and the searchable words of calls and sheets anew, from the tapes."

    def add_arguments(self, parser: CommandParser) -> None:
        parser.add_argument("--if-needed", action="store_true", help="only when one is missing")

    def handle(self, *arguments: object, **options: object) -> None:
        if options["if_needed"] and not needed():
            return
        calls = Call.objects.select_related("revision__sheet", "customer").order_by("number")
        done, last = 0, 0
        while batch := list(calls.filter(number__gt=last)[:BATCH]):
            with transaction.atomic():
                for call in batch:
                    keep_index(call, _standing(call))
            done, last = done + len(batch), batch[-1].number
            if options["verbosity"] and done % (10 * BATCH) == 0:
                self.stdout.write(f"{done} calls …")
        with transaction.atomic():
            for revision in current_revisions():
                if not revision.unreadable:
                    keep_words(revision.sheet, revision.content)
        if options["verbosity"]:
            self.stdout.write(f"The index of {done} calls is made anew.")


def needed() -> bool:
    """Whether a call has no line in the index, or sheets have no words to be found by."""
    with connection.cursor() as cursor:
        cursor.execute("SELECT EXISTS (SELECT 1 FROM sheets_words)")
        worded = bool(cursor.fetchone()[0])
    return Call.objects.filter(index=None).exists() or (Sheet.objects.exists() and not worded)


def _standing(call: Call) -> Standing | None:
    try:
        return standing_of(call)
    except SheetError:
        return None
