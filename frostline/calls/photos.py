"""Photographs on a call: made anew as they come, kept on its tape, shown there."""

import io
import uuid

from django import forms
from django.contrib import messages
from django.http import FileResponse, Http404, HttpRequest, HttpResponse
from django.shortcuts import redirect
from django.urls import reverse
from django.views.decorators.http import require_POST, require_safe
from PIL import Image

from frostcore.errors import FrostError
from frostcore.tape.entries import Attached
from frostline.accounts.access import signed_in
from frostline.calls.actions.keep_attachment import described, keep_attachment
from frostline.calls.tapes import call_or_404, tape_of
from frostline.ui.forms import FrostForm
from frostline.ui.pictures import JPEG, clean, upload_of
from frostline.ui.stored import for_good, path_of, served

SMALL = 480
"""Points of a picture's longer side as the tape shows it."""


class PhotoForm(FrostForm):
    """A photograph, and what it shows."""

    slip_id = forms.UUIDField(widget=forms.HiddenInput)
    photo = forms.FileField(label="Photograph")
    caption = forms.CharField(label="What it shows", max_length=200, required=False)
    report = forms.BooleanField(label="In the report", required=False)
    of = forms.CharField(label="Of", max_length=64, required=False)


@require_POST
def add(request: HttpRequest, pk: uuid.UUID) -> HttpResponse:
    """Keep a photograph with a call: upright, of a bounded size, without where and when it was taken."""
    call = call_or_404(pk)
    form = PhotoForm(request.POST, request.FILES)
    if not form.is_valid():
        messages.error(request, "No photograph was chosen.")
        return redirect(_back(request, pk))
    upload = form.cleaned_data["photo"]
    try:
        made = clean(upload_of(upload), f"“{upload.name}”")
        about = described(made.content, f"{upload.name.rpartition('.')[0] or 'photo'}.jpg"[:120], JPEG)
        caption, shown = form.cleaned_data["caption"].strip(), form.cleaned_data["report"]
        of = form.cleaned_data["of"]
        said = Attached("attached", about.digest, about.name, JPEG, about.size, caption, shown, of)
        keep_attachment(call, form.cleaned_data["slip_id"], made.content, said, signed_in(request))
    except FrostError as error:
        messages.error(request, str(error))
    return redirect(_back(request, pk))


def _back(request: HttpRequest, pk: uuid.UUID) -> str:
    """The page of the call it was added on."""
    whole, back = reverse("calls:call", args=[pk]), request.POST.get("back", "")
    return back if back.startswith(whole) and "//" not in back else f"{whole}now/"


@require_safe
def photo(request: HttpRequest, pk: uuid.UUID, digest: str) -> HttpResponse | FileResponse:
    """A photograph of this call, small where ``small`` is asked for; only what was made anew is shown."""
    call = call_or_404(pk)
    bodies = (entry.body for entry in tape_of(call))
    mine = (body for body in bodies if isinstance(body, Attached) and body.digest == digest)
    kept = next((body for body in mine if body.media_type == JPEG), None)
    if kept is None:
        raise Http404
    if not request.GET.get("small"):
        return served(digest, JPEG)
    response = HttpResponse(_small(digest), content_type=JPEG)
    for_good(response)
    return response


def _small(digest: str) -> bytes:
    """A picture made small; Http404 for a file that is none after all."""
    try:
        with Image.open(path_of(digest), formats=("JPEG",)) as opened:
            opened.draft("RGB", (SMALL, SMALL))
            opened.thumbnail((SMALL, SMALL))
            out = io.BytesIO()
            opened.save(out, "JPEG", quality=82)
    except Exception:  # noqa: BLE001 - a bundle's file may be anything
        raise Http404 from None
    return out.getvalue()
