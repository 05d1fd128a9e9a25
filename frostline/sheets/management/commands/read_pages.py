"""``manage.py read_pages``: look for tables on papers' pages and read those that were asked for."""

import resource

from django.core.management.base import BaseCommand

from frostline.sheets.actions.read_pages import work

MOST_MEMORY, MOST_SECONDS = 6_000_000_000, 900


class Command(BaseCommand):
    """Started by the site; it may be run by hand where that was cut short."""

    help = "Look for tables on papers' pages, and read those that were asked for."

    def handle(self, *arguments: object, **options: object) -> None:
        resource.setrlimit(resource.RLIMIT_AS, (MOST_MEMORY, MOST_MEMORY))
        resource.setrlimit(resource.RLIMIT_CPU, (MOST_SECONDS, MOST_SECONDS))
        self.stdout.write(f"{work()} done.")
