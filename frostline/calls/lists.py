"""Lists of calls from the index: filtered, a page at a time, found by words. No tape is replayed here."""

import re
from collections.abc import Mapping, Sequence
from typing import Any

from django.core.paginator import Page, Paginator
from django.db import connection
from django.db.models import QuerySet
from django.utils.functional import cached_property

from frostcore.sheet.model import squeezed
from frostline.calls.models import CallIndex

A_PAGE = 30
MOST_FOUND = 20
FILTERS = {"all": "All", "open": "Open", "closed": "Closed"}


def rows() -> QuerySet[CallIndex]:
    """Index rows with what a list shows of their calls."""
    return CallIndex.objects.select_related("call__customer").order_by("-number")


def open_rows() -> QuerySet[CallIndex]:
    """Open calls, newest first."""
    return rows().filter(is_open=True)


def closed_rows() -> QuerySet[CallIndex]:
    """Closed calls, newest first."""
    return rows().filter(is_open=False)


class _Pages(Paginator):
    """Pages of the index: numbers are counted and skipped alone, and only a page's rows are joined."""

    @cached_property
    def count(self) -> int:
        return self.object_list.order_by().values("number").count()

    def page(self, number: int | str) -> Page:
        number = self.validate_number(number)
        first = (number - 1) * self.per_page
        numbers = self.object_list.values_list("number", flat=True)[first : first + self.per_page]
        return self._get_page(rows().filter(number__in=list(numbers)), number, self)


def page_of_calls(query: Mapping[str, str]) -> dict[str, Any]:
    """One page of calls, all or only the open or the closed ones."""
    which = query.get("show", "all")
    which = which if which in FILTERS else "all"
    chosen = {"all": rows, "open": open_rows, "closed": closed_rows}[which]().select_related(None)
    page: Page = _Pages(chosen, A_PAGE).get_page(query.get("page"))
    return {"page": page, "rows": page.object_list, "which": which, "filters": FILTERS}


def match_of(typed: str) -> str:
    """What was typed as a full-text match: every word, each as the beginning of one.

    A model or serial number also answers without its blanks and dashes. Empty when nothing of it is a word.
    """
    words = re.findall(r"[^\W_]+", typed)
    if not words:
        return ""
    # A lone letter beside longer words tells nothing and stands everywhere.
    words = [word for word in words if len(word) > 1 or not word.isascii()] or words
    every = " AND ".join(f'"{word}"*' for word in words)
    plain = squeezed(typed)
    return f'({every}) OR (squeezed : "{plain}"*)' if plain else every


def found_rows(table: str, typed: str, most: int = MOST_FOUND) -> list[int]:
    """Row numbers that answer what was typed, best first."""
    match = match_of(typed)
    if not match:
        return []
    with connection.cursor() as cursor:
        cursor.execute(
            f"SELECT rowid FROM {table} WHERE {table} MATCH %s ORDER BY rank LIMIT %s",  # noqa: S608
            [match, most],
        )
        return [row[0] for row in cursor.fetchall()]


def found_calls(typed: str) -> Sequence[CallIndex]:
    """Calls by customer, address, model, serial, code, complaint, notes and parts, best first."""
    numbers = found_rows("calls_words", typed)
    by_number = {row.number: row for row in rows().filter(number__in=numbers)}
    return [by_number[number] for number in numbers if number in by_number]
