"""A call whose sheet this version can't read: its tape as it stands and why, in place of any of its pages."""

import uuid
from collections.abc import Callable
from functools import wraps
from typing import Any

from django.http import HttpRequest, HttpResponse
from django.shortcuts import render

from frostcore.errors import SheetError
from frostline.calls import pages
from frostline.calls.tapes import call_or_404, tape_of

View = Callable[..., HttpResponse]


def reads_sheet(view: View) -> View:
    """A view of a call that replays its tape; where the sheet can't be read, the tape as it stands."""

    @wraps(view)
    def shown(request: HttpRequest, pk: uuid.UUID, *arguments: Any, **named: Any) -> HttpResponse:
        try:
            return view(request, pk, *arguments, **named)
        except SheetError as error:
            call = call_or_404(pk)
            context = {"call": call, "problems": error.problems, "entries": pages.plain_tape(tape_of(call))}
            return render(request, "calls/unreadable.html", context)

    return shown
