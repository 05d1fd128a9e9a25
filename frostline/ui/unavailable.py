"""What a page answers when the database can't take a write: a sentence, and the form as it was sent.

Nothing here asks the database for anything.
"""

from http import HTTPStatus

from django.db import DatabaseError
from django.http import HttpRequest, HttpResponse
from django.middleware.csrf import get_token
from django.template.loader import render_to_string

from frostline.ui.context import interface

RETRY_SECONDS = 5
NEVER_BACK = "password"
"""Fields with this in their name are not sent back."""

_WAITED = "Somebody else's entry took too long to write, so this one was not recorded. Send it again."
_TELL = "so this was not recorded. Tell your lead, then send it again. Reading goes on."
_REASONS = {
    "locked": _WAITED,
    "busy": _WAITED,
    "full": f"The disk that keeps the records is full, {_TELL}",
    "readonly": f"The records may only be read at the moment, {_TELL}",
    "disk i/o": f"The disk that keeps the records does not answer, {_TELL}",
    "unable to open": f"The records can't be opened at the moment, {_TELL}",
}
"""By a word of what SQLite says."""


def reason_of(error: BaseException | None) -> str | None:
    """A sentence for an error that passes by itself or with room on the disk; None for any other."""
    if not isinstance(error, DatabaseError):
        return None
    told = str(error).casefold()
    return next((sentence for word, sentence in _REASONS.items() if word in told), None)


def unavailable(request: HttpRequest, sentence: str) -> HttpResponse:
    """503, with every field that was typed, to be sent again just as it was (its slip's id too)."""
    posted = [
        (name, value)
        for name, values in request.POST.lists()
        for value in values
        if name != "csrfmiddlewaretoken"
    ]
    secret = any(NEVER_BACK in name for name, _ in posted)
    context = interface(request) | {
        "sentence": sentence,
        "posted": [] if secret else posted,
        "typed": [
            (name.replace("_", " "), value)
            for name, value in posted
            if value.strip() and NEVER_BACK not in name and not _machine(name)
        ],
        "files": [upload.name for upload in request.FILES.values()],
        "secret": secret,
        "sent": request.method == "POST",
        "address": request.get_full_path(),
        "csrf_token": get_token(request),
    }
    response = HttpResponse(
        render_to_string("ui/unavailable.html", context), status=HTTPStatus.SERVICE_UNAVAILABLE
    )
    response["Retry-After"] = str(RETRY_SECONDS)
    return response


def _machine(name: str) -> bool:
    """Whether a field is the form's own, not the repairer's."""
    return name in {"kind", "slip_id", "made_at", "next", "back", "theme", "revision", "call", "query"}
