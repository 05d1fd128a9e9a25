"""A quote for the customer: made from the courses, put on the tape, answered, printed."""

import uuid
from typing import Any

from django import forms
from django.conf import settings
from django.contrib import messages
from django.http import Http404, HttpRequest, HttpResponse
from django.shortcuts import redirect, render
from django.views.decorators.http import require_http_methods, require_POST, require_safe

from frostcore.errors import FrostError
from frostcore.remedy.quote import options_of
from frostcore.tape.entries import MOST_PRICE, Quoted, QuoteOption
from frostcore.tape.standing import Standing
from frostline.accounts.access import signed_in
from frostline.calls import pages
from frostline.calls.actions.record_slip import NewSlip, record_slip
from frostline.calls.deciding import comparing_of
from frostline.calls.reports import head_now, pdf_response
from frostline.calls.tapes import call_or_404, standing_of
from frostline.calls.unreadable import reads_sheet
from frostline.ui.forms import FrostForm

MOST_OPTIONS = 6


class OptionForm(FrostForm):
    """One option as it is offered: changed here before the customer sees it."""

    offered = forms.BooleanField(label="Offer it", required=False)
    title = forms.CharField(label="What is done", max_length=200, required=False)
    price = forms.FloatField(label="Price", min_value=0, max_value=MOST_PRICE, required=False)
    when = forms.CharField(label="When", max_length=120, required=False)
    risk = forms.CharField(label="What it risks", max_length=400, required=False)

    def __init__(self, *arguments: Any, **options: Any) -> None:
        super().__init__(*arguments, **options)
        for field in self.fields.values():
            field.needed = True  # for what is offered; what is not is left out whole

    def clean(self) -> dict[str, Any]:
        found: dict[str, Any] = super().clean() or {}
        if found.get("offered") and not found.get("title"):
            self.add_error("title", "What is offered needs words.")
        if found.get("offered") and found.get("price") is None and "price" not in self.errors:
            self.add_error("price", "What is offered needs a price.")
        return found


def _forms(standing: Standing, data: Any) -> list[OptionForm]:
    """The options to choose from: of what the courses say, and one of one's own."""
    comparing = comparing_of(standing, {})
    options = options_of(comparing, comparing.compared()) if comparing else ()
    rows = [
        {
            "offered": at < OFFERED,
            "title": each.title,
            "price": int(each.price),
            "when": each.when,
            "risk": each.risk,
        }
        for at, each in enumerate(options)
    ]
    rows.append({"offered": False})
    return [OptionForm(data, prefix=f"option{at}", initial=row) for at, row in enumerate(rows[:MOST_OPTIONS])]


OFFERED = 3
"""So many are ticked at first: more is no choice but a list."""


def newest(standing: Standing) -> Quoted | None:
    """The quote as it stands."""
    return standing.latest(Quoted)


@require_http_methods(["GET", "HEAD", "POST"])
@reads_sheet
def quote(request: HttpRequest, pk: uuid.UUID) -> HttpResponse:
    """The quote of a call: made here, shown, answered."""
    call = call_or_404(pk)
    standing = standing_of(call)
    rows = _forms(standing, request.POST or None)
    problem = ""
    if request.method == "POST":
        if all(row.is_valid() for row in rows):
            given = [row.cleaned_data for row in rows if row.cleaned_data["offered"]]
            options = tuple(
                QuoteOption(each["title"], each["price"], each["when"], each["risk"]) for each in given
            )
            if options:
                return _record(request, call.pk, Quoted("quoted", "open", options))
            problem = "Nothing is offered yet: tick at least one."
        else:
            problem = "Not taken yet: see what is marked."
    context = pages.frame(call, standing, None) | {
        "page_name": "Quote",
        "rows": rows,
        "quote": newest(standing),
        "problem": problem,
        "currency": settings.CURRENCY,
        "slip_id": uuid.uuid4(),
    }
    return render(request, "calls/quote.html", context, status=422 if problem else 200)


@require_POST
@reads_sheet
def answer(request: HttpRequest, pk: uuid.UUID) -> HttpResponse:
    """What the customer said of the quote."""
    offered = newest(standing_of(call_or_404(pk)))
    if offered is None:
        raise Http404
    said = request.POST.get("said", "")
    try:
        body = (
            Quoted("quoted", "refused", offered.options)
            if said == "refused"
            else Quoted("quoted", "accepted", offered.options, int(said))
        )
    except ValueError:
        raise Http404 from None
    return _record(request, pk, body)


def _record(request: HttpRequest, pk: uuid.UUID, body: Quoted) -> HttpResponse:
    call = call_or_404(pk)
    try:
        slip_id = uuid.UUID(request.POST.get("slip_id", ""))
        record_slip(call, NewSlip(slip_id, body), signed_in(request))
    except FrostError as error:
        messages.error(request, str(error))
    except ValueError:
        raise Http404 from None
    return redirect("calls:quote", call.pk)


@require_safe
@reads_sheet
def quote_pdf(request: HttpRequest, pk: uuid.UUID) -> HttpResponse:
    """The quote as a PDF."""
    call = call_or_404(pk)
    standing = standing_of(call)
    offered = newest(standing)
    if offered is None:
        raise Http404
    context = {
        "call": call,
        "quote": offered,
        "unit": standing.unit,
        "complaint": standing.call.complaint if standing.call else "",
        "head": head_now(),
        "day": next(each for each in reversed(standing.effective) if each.entry.body is offered).entry.at,
        "currency": settings.CURRENCY,
    }
    return pdf_response(request, call, "quote", "calls/quote_body.html", context, {})
