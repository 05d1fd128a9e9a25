"""Tapes as the core knows them, read from the rows.

Slips never change, so what was read once is kept in the process: entries by their slip, a call's standing by
the call and its newest slip. Inside a transaction nothing is kept: what it wrote may yet be undone.
"""

import uuid
from collections.abc import Hashable
from typing import Any, TypeVar

from django.db import connection
from django.http import Http404
from django.shortcuts import get_object_or_404

from frostcore.degrees import degrees
from frostcore.errors import SheetError
from frostcore.sheet.model import Sensor, Sheet
from frostcore.tape.entries import Entry
from frostcore.tape.standing import Standing, sheets_wanted, stand
from frostcore.tape.versions import read_body
from frostline.accounts.models import User
from frostline.calls.models import Call, Slip
from frostline.sheets.models import Revision
from frostline.ui.kept import Kept

KEPT_ENTRIES, KEPT_STANDINGS = 20_000, 200

Value = TypeVar("Value")


class _Committed(Kept[Value]):
    """Keeps nothing inside a transaction."""

    def keep(self, key: Hashable, value: Value) -> Value:
        return value if connection.in_atomic_block else super().keep(key, value)


_entries: Kept[Entry] = _Committed(KEPT_ENTRIES)
_standings: Kept[Standing] = _Committed(KEPT_STANDINGS)


def forget() -> None:
    """Keep nothing in the process: the next page reads everything from the rows."""
    _entries.clear()
    _standings.clear()


ROW = ("id", "kind", "version", "body", "at", "recorded_at", "by_id", "supersedes_id")


def call_or_404(pk: uuid.UUID) -> Call:
    """The call, with the sheet it was begun with and whose unit it is."""
    known = Call.objects.select_related("revision__sheet", "customer", "opened_by")
    return get_object_or_404(known, pk=pk)


def sensor_or_404(sheet: Sheet, sensor: str) -> Sensor:
    """The sensor of a sheet."""
    try:
        return sheet.sensor(sensor)
    except KeyError:
        raise Http404 from None


def tape_of(call: Call) -> tuple[Entry, ...]:
    """The tape as the core knows it, in the order it was recorded."""
    rows = list(Slip.objects.filter(call=call).order_by("position").values_list(*ROW))
    names = {user.pk: user.shown_name for user in User.objects.filter(pk__in={row[6] for row in rows})}
    return tuple(_entry(row, names[row[6]]) for row in rows)


def _entry(row: tuple[Any, ...], by: str) -> Entry:
    identifier, kind, version, body, at, recorded, _, supersedes = row
    found = _entries.get((identifier, by))
    if found is None:
        read = read_body(kind, version, body)
        found = Entry(str(identifier), at, by, read, str(supersedes or ""), recorded)
        _entries.keep((identifier, by), found)
    return found


def newest_slip(call: uuid.UUID) -> uuid.UUID | None:
    """The id of a call's newest slip; None where there is no such call."""
    return Slip.objects.filter(call=call).order_by("-position").values_list("pk", flat=True).first()


def standing_of(call: Call) -> Standing:
    """Where the call stands, from its tape and its sheets.

    Raises SheetError when the sheet it was begun with can't be read.
    """
    # Its sentences tell temperatures: one is kept for each of the degrees they are told in.
    key = (call.pk, newest_slip(call.pk), degrees())
    return _standings.get(key) or _standings.keep(key, replayed(call, tape_of(call)))


def replayed(call: Call, tape: tuple[Entry, ...]) -> Standing:
    """A tape replayed on the sheets it names; raises SheetError as :func:`standing_of` does."""
    return stand(call.revision.content, tape, _sheets(tape))


def _sheets(tape: tuple[Entry, ...]) -> dict[str, Sheet]:
    """The sheets a tape moves to, by digest; one that can't be read is left out."""
    wanted, found = sheets_wanted(tape), {}
    for revision in Revision.objects.filter(digest__in=wanted) if wanted else ():
        try:
            found[revision.digest] = revision.content
        except SheetError:
            continue
    return found
