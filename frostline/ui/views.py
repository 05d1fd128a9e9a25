"""The colour scheme, how a typed quantity is understood, and the pages for errors."""

import sys

from django.contrib.auth.decorators import login_not_required
from django.http import Http404, HttpRequest, HttpResponse, HttpResponseRedirect
from django.shortcuts import render
from django.utils.http import url_has_allowed_host_and_scheme
from django.views.decorators.http import require_GET, require_POST

from frostcore.errors import QuantityError
from frostcore.quantity import Ambiguous, Dimension, parse
from frostline.server.logs import REQUEST_ID
from frostline.ui.context import CHOICES
from frostline.ui.unavailable import reason_of, unavailable


@login_not_required
@require_POST
def choose(request: HttpRequest) -> HttpResponse:
    """Remember what somebody chose of how pages are shown, and go back to the page it was chosen on."""
    back = request.POST.get("back", "/")
    if not back.startswith("/") or not url_has_allowed_host_and_scheme(back, {request.get_host()}):
        back = "/"
    response = HttpResponseRedirect(back)
    for name, values in CHOICES.items():
        chosen = request.POST.get(name)
        if chosen in values:
            response.set_cookie(
                name, chosen, max_age=365 * 86400, samesite="Lax", secure=request.is_secure(), httponly=True
            )
    return response


@require_GET
def understood(request: HttpRequest, dimension: str) -> HttpResponse:
    """The line under a field that says how the typed text is understood (a fragment)."""
    if dimension not in set(Dimension):
        raise Http404
    # The form's field may carry any name; the first value sent is the one being typed.
    typed = next(iter(request.GET.values()), "").strip()
    context: dict[str, object] = {"typed": typed}
    if typed:
        try:
            quantity = parse(typed, Dimension(dimension))
        except QuantityError as error:
            context["problem"] = str(error)
        else:
            context["ambiguous" if isinstance(quantity, Ambiguous) else "quantity"] = quantity
    return render(request, "ui/understood.html", context)


def _error(request: HttpRequest, status: int, heading: str, advice: str) -> HttpResponse:
    return render(
        request,
        "ui/error.html",
        {"heading": heading, "advice": advice, "base_template": "ui/base.html"},
        status=status,
    )


def bad_request(request: HttpRequest, exception: Exception | None = None) -> HttpResponse:
    """400."""
    return _error(request, 400, "That request can't be read", "Go back, reload the page and try once more.")


def forbidden(request: HttpRequest, exception: Exception | None = None) -> HttpResponse:
    """403."""
    return _error(
        request,
        403,
        "This page is for leads",
        str(exception) or "Ask a lead of your workshop to do it, or to give you the role.",
    )


def not_found(request: HttpRequest, exception: Exception | None = None) -> HttpResponse:
    """404."""
    return _error(
        request,
        404,
        "There is nothing at this address",
        "It may have been mistyped. The calls and sheets are on the front page.",
    )


def server_error(request: HttpRequest) -> HttpResponse:
    """503 with what was typed where the database can't write for the moment, else 500."""
    sentence = reason_of(sys.exception())
    if sentence:
        return unavailable(request, sentence)
    number = f" This failure's number in the log is {REQUEST_ID.get()}." if REQUEST_ID.get() else ""
    return _error(
        request,
        500,
        "Frostline failed here",
        "What was already on the tape is safe. Go back and try once more; tell the lead if it happens again."
        + number,
    )


def csrf_failure(request: HttpRequest, reason: str = "") -> HttpResponse:
    """A form whose token does not fit the session."""
    return _error(
        request,
        403,
        "This form has gone stale",
        "You may have signed in again in another tab. Go back, reload the page, and send it once more;"
        " nothing was recorded.",
    )
