"""What a search finds on sheets: the core ranks, over the sheets that can answer at all."""

from django.db import connection

from frostcore.display.search import Found, search
from frostline.calls.lists import match_of
from frostline.sheets.models import Revision, current_sheets

MOST_SHEETS = 40
"""Sheets ranked for a search in words."""

SHOWN_ON_A_DISPLAY = 5
"""What is so short, and has a digit or two letters at most, may be a code as shown; those are looked for on
every sheet."""

BARELY = 0.5


def found_on_sheets(typed: str) -> tuple[Found, ...]:
    """What answers ``typed`` on any sheet, best first; then sheets that say it anywhere: a part, a fuse, a
    setting."""
    saying = _saying(typed)
    by_key = {
        revision.sheet_id: revision
        for revision in Revision.objects.filter(newest_of__pk__in=saying).select_related("sheet")
        if not revision.unreadable
    }
    worded = [by_key[key].content for key in saying if key in by_key]
    shown = typed.strip()
    may_be_code = len(shown) <= SHOWN_ON_A_DISPLAY and (len(shown) <= 2 or not shown.isalpha())
    everywhere = may_be_code or not worded
    found = search(current_sheets() if everywhere else worded, typed)
    told = {item.sheet.id for item in found}
    rest = (
        Found(by_key[key].content, None, BARELY, f"its sheet says: {words}")
        for key, words in saying.items()
        if key in by_key and by_key[key].content.id not in told
    )
    return (*found, *rest)


def _saying(typed: str) -> dict[int, str]:
    """Sheets (by key) on which every word stands, best first, each with the words around it."""
    match = match_of(typed)
    if not match:
        return {}
    with connection.cursor() as cursor:
        cursor.execute(
            "SELECT rowid, snippet(sheets_words, -1, '', '', '…', 10) FROM sheets_words"
            " WHERE sheets_words MATCH %s ORDER BY rank LIMIT %s",
            [match, MOST_SHEETS],
        )
        return dict(cursor.fetchall())
