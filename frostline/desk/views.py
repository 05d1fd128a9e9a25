"""The front page, quick checks and the search over all sheets."""

import json
import uuid
from typing import Any

from django.contrib import messages
from django.http import Http404, HttpRequest, HttpResponse, QueryDict
from django.shortcuts import redirect, render
from django.urls import reverse
from django.utils import timezone
from django.views.decorators.http import require_POST, require_safe

from frostcore.curves.table import recognise, write_csv
from frostcore.diagnosis.checked import CheckTold, acts_of
from frostcore.display.decode import shown_text
from frostcore.errors import FrostError
from frostcore.tape.entries import Checked
from frostline.accounts.access import signed_in
from frostline.calls import decoding, lists
from frostline.calls.actions.record_slip import NewSlip, record_slip
from frostline.calls.due import due_soon
from frostline.calls.models import Call
from frostline.calls.tapes import call_or_404, standing_of
from frostline.desk.checks import CHECKS, HINTS
from frostline.desk.search import found_on_sheets

MOST_OPEN, MOST_CLOSED, MOST_FOUND, MOST_TO_FILE, MOST_DUE = 12, 5, 30, 100, 20


@require_safe
def home(request: HttpRequest) -> HttpResponse:
    """Open calls with their next steps, quick checks, and the last closed calls."""
    open_rows = lists.open_rows()
    context = {
        "dues": due_soon()[:MOST_DUE],
        "today": timezone.localdate(),
        "open_count": open_rows.count(),
        "open_rows": open_rows[:MOST_OPEN],
        "closed_rows": lists.closed_rows()[:MOST_CLOSED],
        "checks": [
            {"name": name, "title": form.title, "hint": HINTS.get(name, "")} for name, form in CHECKS.items()
        ],
    }
    return render(request, "desk/home.html", context)


@require_safe
def search(request: HttpRequest) -> HttpResponse:
    """Calls by who, where, which unit, code, complaint and parts; sheets by code, condition, part, model."""
    typed = request.GET.get("q", "")[:100]
    found = [
        {
            "item": item,
            "title": item.code.meaning if item.code else item.sheet.title,
            "shown": shown_text(item.code.shown) if item.code else "",
        }
        for item in found_on_sheets(typed)[:MOST_FOUND]
    ]
    return render(
        request, "desk/search.html", {"typed": typed, "found": found, "calls": lists.found_calls(typed)}
    )


@require_safe
def check(request: HttpRequest, name: str) -> HttpResponse:
    """A quick check; its query is what was typed, so the address keeps the result."""
    form, result, problem = _run(name, request.GET)
    context: dict[str, Any] = {
        "form": form,
        "problem": problem,
        "query": request.GET.urlencode(),
        "slip_id": uuid.uuid4(),
        **form.extra(),
        **result,
    }
    if result.get("filed"):
        context["open_calls"] = lists.open_rows()[:MOST_TO_FILE]
    return render(request, form.template, context)


@require_safe
def code_candidates(request: HttpRequest) -> HttpResponse:
    """The codes of all sheets, or of the one chosen, that may be what is being typed or tapped (a
    fragment)."""
    form = CHECKS["code"](request.GET)
    return render(
        request, "calls/candidates.html", {"quick": True, **decoding.candidates(form.sheets(), request.GET)}
    )


@require_safe
def table_csv(request: HttpRequest) -> HttpResponse:
    """A pasted table as the CSV that every part of Frostline reads."""
    try:
        table = recognise(
            request.GET.get("table", ""),
            request.GET.get("temperature_unit", ""),
            request.GET.get("resistance_unit", ""),
        )
        table.checked.curve()
    except FrostError:
        raise Http404 from None
    response = HttpResponse(
        write_csv(tuple((row.celsius, row.ohms) for row in table.checked.rows)),
        content_type="text/csv; charset=utf-8",
    )
    response["Content-Disposition"] = 'attachment; filename="curve.csv"'
    return response


@require_POST
def file_check(request: HttpRequest, name: str) -> HttpResponse:
    """Put a check's result on a call's tape.

    The result is computed anew from the check's query.
    """
    query = QueryDict(request.POST.get("query", ""))
    form, result, _ = _run(name, query)
    filed = result.get("filed")
    if filed is None:
        raise Http404
    try:
        call = call_or_404(uuid.UUID(request.POST.get("call", "")))
        slip_id = uuid.UUID(request.POST.get("slip_id", ""))
    except ValueError:
        raise Http404 from None
    body = Checked(
        "checked",
        form.title.lower(),
        filed.figure,
        filed.verdict,
        filed.detail,
        f"{reverse('desk:check', args=[name])}?{query.urlencode()}",
        _acts(call, filed.told),
    )
    try:
        record_slip(call, NewSlip(slip_id, body), signed_in(request))
    except FrostError as error:
        messages.error(request, str(error))
    return redirect(call)


def _acts(call: Call, told: CheckTold | None) -> str:
    """A check as the call's judgement reads it, empty where it is of no one part of its unit."""
    acts = acts_of(standing_of(call).sheet, told) if told else []
    return json.dumps(acts, ensure_ascii=False) if acts else ""


def _run(name: str, query: QueryDict) -> tuple[Any, dict[str, Any], str]:
    """(form, answer, problem) of a check for what was typed; the answer is empty before anything was."""
    if name not in CHECKS:
        raise Http404
    form = CHECKS[name](query or None)
    if not form.is_bound:
        form.data = query
        return form, {}, ""
    if not form.is_valid():
        return form, {}, ""
    try:
        return form, form.answer(), ""
    except FrostError as error:
        return form, {}, str(error)
