"""Taking a call for a unit nobody has described."""

from typing import cast

from django.http import HttpRequest, HttpResponse
from django.shortcuts import render
from django.urls import reverse
from django.views.decorators.http import require_http_methods, require_safe

from frostcore.sheet.plate import read_plate
from frostcore.tape.entries import CallTaken
from frostline.accounts.access import signed_in
from frostline.calls.actions.open_call import NewCall, open_call
from frostline.calls.kind_form import KindCallForm
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
