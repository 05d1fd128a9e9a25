"""Calls for units nobody has described: taking them, keeping what was learned, moving to a better sheet."""

import json
import uuid
from typing import cast

from django.contrib import messages
from django.http import Http404, HttpRequest, HttpResponse
from django.shortcuts import redirect, render
from django.urls import reverse
from django.views.decorators.http import require_http_methods, require_POST, require_safe

from frostcore.errors import TapeError
from frostcore.paper.from_call import draft_of
from frostcore.sheet.plate import read_plate
from frostcore.tape.entries import CallTaken, SheetTaken
from frostline.accounts.access import signed_in
from frostline.calls import pages
from frostline.calls.actions.open_call import NewCall, open_call
from frostline.calls.actions.record_slip import NewSlip, record_slip
from frostline.calls.kind_form import KindCallForm
from frostline.calls.moving import narrowed, tried_with
from frostline.calls.tapes import call_or_404, standing_of
from frostline.calls.unreadable import reads_sheet
from frostline.sheets.actions.begin_draft import begin_draft
from frostline.sheets.models import current_revisions
from frostline.ui.forward import go


@require_http_methods(["GET", "HEAD", "POST"])
def new_kind(request: HttpRequest) -> HttpResponse:
    """Take a call on a kind of unit."""
    form = KindCallForm(request.POST or None, initial={"revision": request.GET.get("kind", "")})
    if request.method == "POST" and form.is_valid():
        data, told = form.cleaned_data, cast(CallTaken, form.to_body())
        taken = NewCall(data["slip_id"], form.chosen(), form.who(), told, data["practice"], form.plate_read())
        return go(request, reverse("calls:now", args=[open_call(taken, signed_in(request)).pk]))
    return render(request, "calls/new_kind.html", {"form": form}, status=422 if form.errors else 200)


@require_safe
def plate(request: HttpRequest) -> HttpResponse:
    """What is understood of a plate as it is being typed (a fragment)."""
    found = read_plate(request.GET.get("plate", "")[:400])
    return render(request, "calls/plate_understood.html", {"plate": found})


@require_POST
@reads_sheet
def keep(request: HttpRequest, pk: uuid.UUID) -> HttpResponse:
    """Begin a draft with what is known of this unit, for the next one of its model."""
    call = call_or_404(pk)
    standing = standing_of(call)
    read = standing.plate.model if standing.plate else ""
    base, tables = draft_of(standing.sheet, read)
    text = json.dumps(base, ensure_ascii=False)
    return redirect(begin_draft(text, signed_in(request), call.revision, tables))


@require_http_methods(["GET", "HEAD", "POST"])
@reads_sheet
def move(request: HttpRequest, pk: uuid.UUID) -> HttpResponse:
    """Work on with another sheet: first what that would change, then it counts."""
    call = call_or_404(pk)
    standing = standing_of(call)
    known = {str(item.pk): item for item in (*current_revisions(), *current_revisions(generic=True))}
    chosen = known.get(request.POST.get("to") or request.GET.get("to", ""))
    if chosen is None or chosen.unreadable:
        context = pages.frame(call, standing, None) | {"page_name": "Another sheet", "known": known.values()}
        if standing.sheet.generic:
            kinds = [item for item in current_revisions(generic=True) if not item.unreadable]
            context |= {"narrowed": narrowed(standing, kinds, request.GET), "begun": call.revision.sheet_id}
        return render(request, "calls/move.html", context)
    body = SheetTaken("sheet_taken", chosen.sheet.slug, chosen.number, chosen.digest)
    if request.method == "POST":
        try:
            record_slip(call, NewSlip(uuid.UUID(request.POST.get("slip_id", "")), body), signed_in(request))
        except ValueError:
            raise Http404 from None
        except TapeError as error:
            messages.error(request, str(error))
        return go(request, reverse("calls:now", args=[call.pk]))
    context = pages.frame(call, standing, None) | {
        "page_name": "Another sheet",
        "chosen": chosen,
        "tried": tried_with(call, standing, body),
        "slip_id": uuid.uuid4(),
    }
    return render(request, "calls/move.html", context)
