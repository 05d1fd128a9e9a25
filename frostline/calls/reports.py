"""Reports: for customers on a page, behind a link that ends, as a PDF; for technicians the whole tape."""

import uuid
from dataclasses import dataclass
from datetime import datetime, timedelta
from typing import Any

from django import forms
from django.conf import settings
from django.contrib import messages
from django.contrib.auth.decorators import login_not_required
from django.core import signing
from django.http import Http404, HttpRequest, HttpResponse
from django.shortcuts import redirect, render
from django.template.loader import render_to_string
from django.urls import reverse
from django.utils import timezone
from django.views.decorators.http import require_http_methods, require_POST, require_safe

from frostcore.errors import FrostError
from frostcore.report.handover import handover
from frostcore.tape.entries import Attached
from frostcore.tape.stages import Stage
from frostcore.tape.standing import Standing
from frostline.accounts.access import lead_required, signed_in
from frostline.calls import pages
from frostline.calls.downloads import as_file
from frostline.calls.judging import judged, judgement_for
from frostline.calls.models import Call, WorkshopHead
from frostline.calls.tapes import call_or_404, standing_of
from frostline.calls.unreadable import reads_sheet
from frostline.ui.forms import FrostForm
from frostline.ui.pdf import pdf_of
from frostline.ui.pictures import JPEG
from frostline.ui.stored import path_of, served

SALT = "frostline report link"
LINK_DAYS = (7, 30, 90)


@dataclass(frozen=True)
class Picture:
    """A photograph of a report: its address there, and what it shows."""

    address: str
    caption: str
    digest: str


class HeadForm(FrostForm):
    """What stands at the head of reports."""

    name = forms.CharField(label="The workshop’s name", max_length=120)
    lines = forms.CharField(
        label="Address, telephone, licence: a line each",
        max_length=600,
        required=False,
        widget=forms.Textarea(attrs={"rows": 4}),
    )


def head_now() -> WorkshopHead | None:
    """What stands at the head of reports now."""
    return WorkshopHead.objects.order_by("-pk").first()


def _context(call: Call, standing: Standing, address: str) -> dict[str, Any]:
    """What a report shows; ``address`` is a picture's, with a place for its digest."""
    report = handover(standing, judgement_for(standing))
    pictures = [
        Picture(address.format(digest=each.digest), _caption(standing, each), each.digest)
        for each in report.pictures
        if each.media_type == JPEG and path_of(each.digest).exists()
    ]
    return {
        "call": call,
        "report": report,
        "head": head_now(),
        "pictures": pictures,
        "currency": settings.CURRENCY,
    }


def _caption(standing: Standing, picture: Attached) -> str:
    """What a photograph shows: the entry it is of, and what was written to it."""
    of = standing.slip(picture.of)
    return ": ".join(each for each in (pages.in_short(standing, of) if of else "", picture.caption) if each)


@require_safe
@reads_sheet
def report(request: HttpRequest, pk: uuid.UUID) -> HttpResponse:
    """The handover report, for print."""
    call = call_or_404(pk)
    address = reverse("calls:photo", args=[call.pk, "digest"]).replace("digest", "{digest}")
    return render(request, "calls/handover.html", _context(call, standing_of(call), address))


@require_safe
@reads_sheet
def report_pdf(request: HttpRequest, pk: uuid.UUID) -> HttpResponse:
    """The handover report as a PDF."""
    call = call_or_404(pk)
    context = _context(call, standing_of(call), "picture:{digest}")
    files = {each.address: path_of(each.digest).read_bytes() for each in context["pictures"]}
    return pdf_response(request, call, "report", "calls/report_body.html", context, files)


@require_safe
@reads_sheet
def technician(request: HttpRequest, pk: uuid.UUID) -> HttpResponse:
    """The technician's report: the whole tape, and the judgement's reasons."""
    call = call_or_404(pk)
    return render(request, "calls/technician.html", _technician(call, standing_of(call)))


@require_safe
@reads_sheet
def technician_pdf(request: HttpRequest, pk: uuid.UUID) -> HttpResponse:
    """The technician's report as a PDF."""
    call = call_or_404(pk)
    context = _technician(call, standing_of(call))
    return pdf_response(request, call, "technician", "calls/technician_body.html", context, {})


def _technician(call: Call, standing: Standing) -> dict[str, Any]:
    return {
        "call": call,
        "standing": standing,
        "lines": [pages.slip_line(standing, slip) for slip in standing.slips],
        "judged": judged(standing),
        "head": head_now(),
    }


def pdf_response(
    request: HttpRequest, call: Call, name: str, body: str, context: dict[str, Any], files: dict[str, bytes]
) -> HttpResponse:
    """A report's body as a PDF; where none can be made, why not."""
    title = f"Service report {call.number}"
    context |= {"body_template": body, "title": title}
    try:
        content = pdf_of(render_to_string("calls/report_document.html", context), files)
    except FrostError as error:
        messages.error(request, str(error))
        return redirect("calls:stage", call.pk, Stage.HANDOVER)
    return as_file(HttpResponse(content, content_type="application/pdf"), call, f"{name}.pdf")


# Links that end.


@require_POST
def link(request: HttpRequest, pk: uuid.UUID) -> HttpResponse:
    """A link to a call's report that can be read by whoever has it, for some days."""
    call = call_or_404(pk)
    days = request.POST.get("days", "")
    if days not in {str(each) for each in LINK_DAYS}:
        raise Http404
    until = timezone.now() + timedelta(days=int(days))
    token = signing.dumps({"call": str(call.pk), "until": int(until.timestamp())}, salt=SALT, compress=True)
    address = request.build_absolute_uri(reverse("calls:shared", args=[token]))
    request.session[f"link {call.pk}"] = [address, until.isoformat()]
    return redirect("calls:stage", call.pk, Stage.HANDOVER)


def link_of(request: HttpRequest, call: Call) -> tuple[str, datetime] | None:
    """The link made last for a call in this session."""
    kept = request.session.get(f"link {call.pk}")
    return (kept[0], datetime.fromisoformat(kept[1])) if kept else None


def _shared_call(token: str) -> tuple[Call, datetime]:
    """The call of a link that still holds; Http404 for any other."""
    try:
        told = signing.loads(token, salt=SALT)
        until = datetime.fromtimestamp(told["until"], tz=timezone.get_current_timezone())
        call = call_or_404(uuid.UUID(told["call"]))
    except (signing.BadSignature, KeyError, TypeError, ValueError):
        raise Http404 from None
    if until < timezone.now():
        raise Http404
    return call, until


@login_not_required
@require_safe
def shared(request: HttpRequest, token: str) -> HttpResponse:
    """A report behind its link: read-only, and nothing else."""
    call, until = _shared_call(token)
    address = reverse("calls:shared_photo", args=[token, "digest"]).replace("/digest/", "/{digest}/")
    try:
        context = _context(call, standing_of(call), address)
    except FrostError:
        raise Http404 from None
    response = render(request, "calls/shared.html", context | {"until": until})
    response["X-Robots-Tag"] = "noindex, nofollow"
    response["Cache-Control"] = "private, no-store"
    return response


@login_not_required
@require_safe
def shared_photo(request: HttpRequest, token: str, digest: str) -> Any:
    """A photograph of a report behind its link; only those chosen for it."""
    call, _ = _shared_call(token)
    try:
        chosen = handover(standing_of(call)).pictures
    except FrostError:
        raise Http404 from None
    if not any(each.digest == digest and each.media_type == JPEG for each in chosen):
        raise Http404
    return served(digest, JPEG)


@lead_required
@require_http_methods(["GET", "HEAD", "POST"])
def head(request: HttpRequest) -> HttpResponse:
    """What stands at the head of reports: shown, and said anew."""
    last = head_now()
    form = HeadForm(request.POST or None, initial={"name": last.name, "lines": last.lines} if last else None)
    if request.method == "POST" and form.is_valid():
        told = {name: form.cleaned_data[name].strip() for name in ("name", "lines")}
        WorkshopHead(**told, at=timezone.now(), by=signed_in(request)).save()
        messages.success(request, "From now on it stands on every report.")
        return redirect("calls:head")
    return render(
        request, "calls/head.html", {"form": form, "last": last}, status=422 if form.errors else 200
    )
