"""A recheck after the work: asked for with a day, read by the customer behind a link or by us, told once."""

import uuid
from datetime import date, timedelta
from typing import Any

from django.contrib import messages
from django.contrib.auth.decorators import login_not_required
from django.core import signing
from django.http import Http404, HttpRequest, HttpResponse
from django.shortcuts import redirect, render
from django.urls import reverse
from django.utils import timezone
from django.views.decorators.http import require_http_methods, require_POST

from frostcore.errors import FrostError
from frostcore.remedy.recheck import SAFE, rechecked, stands, to_read
from frostcore.tape.rechecked import RecheckAsked, RecheckTold
from frostcore.tape.rechecked_words import asked_of
from frostcore.tape.standing import Standing
from frostcore.thermal.food import RULES
from frostline.accounts.access import signed_in
from frostline.accounts.models import User
from frostline.calls.actions.record_slip import NewSlip, record_slip
from frostline.calls.models import Call, Slip
from frostline.calls.reports import head_now
from frostline.calls.tapes import call_or_404, standing_of
from frostline.calls.unreadable import reads_sheet
from frostline.runs.forms import RecheckForm, ToldForm

SALT = "frostline.recheck"
AFTER = 14
"""So many days after its day a recheck can still be told behind its link."""


def recheck_context(request: HttpRequest, call: Call, standing: Standing) -> dict[str, Any]:
    """What a call's page shows of its recheck: the form for one, the one that is waited for, what came."""
    waits = asked_of(standing)
    told = standing.latest(RecheckTold)
    context: dict[str, Any] = {
        "recheck_form": RecheckForm(sheet=standing.sheet, initial={"slip_id": uuid.uuid4()}),
        "recheck": waits[1] if waits else None,
    }
    if waits:
        context["recheck_day"] = date.fromisoformat(waits[1].day)
        context["recheck_link"] = request.build_absolute_uri(_link(waits[0].entry.id))
        context["recheck_late"] = waits[1].day < timezone.localdate().isoformat()
    if told:
        context["recheck_told"] = (stands(standing.sheet, told), rechecked(standing.sheet, told))
    return context


def _link(slip: str) -> str:
    return reverse("runs:check", args=[signing.dumps(slip, salt=SALT)])


@require_POST
@reads_sheet
def ask(request: HttpRequest, pk: uuid.UUID) -> HttpResponse:
    """Ask for one."""
    call = call_or_404(pk)
    standing = standing_of(call)
    form = RecheckForm(request.POST, sheet=standing.sheet)
    if not form.is_valid():
        for errors in form.errors.values():
            messages.error(request, str(errors[0]))
        return redirect("runs:runs", call.pk)
    day, by = form.cleaned_data["day"].isoformat(), form.cleaned_data["by"]
    body = RecheckAsked("recheck_asked", day, by, tuple(form.cleaned_data["places"]))
    try:
        record_slip(call, NewSlip(form.cleaned_data["slip_id"], body), signed_in(request))
    except FrostError as error:
        messages.error(request, str(error))
    return redirect("runs:runs", call.pk)


@login_not_required
@require_http_methods(["GET", "HEAD", "POST"])
def check(request: HttpRequest, token: str) -> HttpResponse:
    """What to read, and where to write it: for whoever has the link, until it is told."""
    slip = _slip_of(token)
    standing = standing_of(slip.call)
    waits = asked_of(standing)
    mine = waits is not None and waits[0].entry.id == str(slip.pk)
    asked = waits[1] if waits and mine else None
    if asked and timezone.localdate() > _last(asked):
        raise Http404
    sent = request.POST if request.method == "POST" else None
    form = ToldForm(sent, read=to_read(standing.sheet, asked.places)) if asked else None
    context = {
        "call": slip.call,
        "head": head_now(),
        "asked": asked,
        "day": asked and date.fromisoformat(asked.day),
        "safe": SAFE,
        "rules": RULES,
        "form": form,
    }
    if form and sent is not None and form.is_valid():
        body = RecheckTold("recheck_told", asked.by if asked else "customer", **form.told)
        try:
            _record(slip, body)
            return redirect("runs:check", token)
        except FrostError as error:
            form.add_error(None, str(error))
    response = render(request, "runs/check.html", context, status=422 if form and form.errors else 200)
    response["X-Robots-Tag"] = "noindex, nofollow"
    response["Cache-Control"] = "private, no-store"
    return response


def _record(slip: Slip, body: RecheckTold) -> None:
    """Told once, however often it is sent; under the name of who asked."""
    by: User = slip.by
    record_slip(slip.call, NewSlip(uuid.uuid5(slip.pk, "told"), body), by)


def _slip_of(token: str) -> Slip:
    """The slip a link is of; Http404 for any other."""
    try:
        return Slip.objects.select_related("call", "by").get(pk=uuid.UUID(signing.loads(token, salt=SALT)))
    except (signing.BadSignature, ValueError, TypeError, AttributeError, Slip.DoesNotExist):
        raise Http404 from None


def _last(asked: RecheckAsked) -> date:
    return date.fromisoformat(asked.day) + timedelta(days=AFTER)
