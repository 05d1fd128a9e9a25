"""A call as one file and back: what is in the file, and how large it may be."""

import io
import uuid
import zipfile

from django import forms
from django.contrib import messages
from django.http import HttpRequest, HttpResponse
from django.shortcuts import redirect, render
from django.utils import timezone
from django.views.decorators.http import require_http_methods, require_safe

from frostcore.diagnosis.from_tape import judgement_of
from frostcore.diagnosis.step import name_of, next_step
from frostcore.errors import SheetError, TapeError
from frostcore.tape import bundle as core
from frostcore.tape.entries import Attached
from frostcore.tape.standing import Standing, sheets_wanted
from frostline.accounts.access import signed_in
from frostline.calls.actions.take_bundle import Files, take_bundle
from frostline.calls.models import Call, Slip
from frostline.calls.tapes import call_or_404, standing_of
from frostline.calls.unreadable import reads_sheet
from frostline.sheets.models import Revision
from frostline.ui.forms import FrostForm
from frostline.ui.packed import DamagedError, opened
from frostline.ui.stored import path_of

LARGEST_BYTES, MOST_UNPACKED, MOST_FILES, MOST_SHEETS = 40_000_000, 120_000_000, 400, 20
SUSPECTS = 10
CALL, SHEETS, KEPT = "call.json", "sheets/", "files/"


@require_safe
@reads_sheet
def save(request: HttpRequest, pk: uuid.UUID) -> HttpResponse:
    """The call as one file; without whose it is where ``whose`` is 0."""
    call = call_or_404(pk)
    standing = standing_of(call)
    told = bundle_of(call, standing, whose=request.GET.get("whose") != "0")
    out = io.BytesIO()
    with zipfile.ZipFile(out, "w", zipfile.ZIP_DEFLATED) as packed:
        packed.writestr(CALL, core.write(told))
        wanted = {call.revision.digest, *sheets_wanted(standing.tape)}
        for revision in Revision.objects.filter(digest__in=wanted).order_by("pk"):
            if f"{SHEETS}{revision.digest}.json" not in packed.namelist():
                packed.writestr(f"{SHEETS}{revision.digest}.json", revision.document)
        for digest in sorted({e.body.digest for e in standing.tape if isinstance(e.body, Attached)}):
            packed.write(path_of(digest), f"{KEPT}{digest}")
    response = HttpResponse(out.getvalue(), content_type="application/zip")
    response["Content-Disposition"] = f'attachment; filename="call-{call.number}.zip"'
    return response


def bundle_of(call: Call, standing: Standing, *, whose: bool = True) -> core.Bundle:
    """The call as the core writes it, with what is thought of it now."""
    judgement, who = judgement_of(standing), call.customer
    rows = Slip.objects.filter(call=call).select_related("by").order_by("position")
    return core.Bundle(
        id=str(call.pk),
        number=call.number,
        sheet=call.revision.digest,
        practice=call.practice,
        opened_at=call.opened_at,
        opened_by=call.opened_by.shown_name,
        made_at=timezone.now(),
        entries=tuple(
            core.BundledEntry(
                id=str(row.pk),
                kind=row.kind,
                version=row.version,
                body=row.body,
                at=row.at,
                recorded_at=row.recorded_at,
                by=row.by.shown_name,
                supersedes=str(row.supersedes_id or ""),
            )
            for row in rows
        ),
        whose=core.Whose(who.name, who.address, who.phone) if whose else core.Whose(),
        suspects=tuple(
            core.Thought(each.unit, name_of(judgement, each), each.probability)
            for each in judgement.suspects[:SUSPECTS]
        ),
        act=next_step(standing).act[:200],
    )


class BundleForm(FrostForm):
    """A call's bundle, as a file."""

    file = forms.FileField(label="The call’s file (.zip)")

    def clean_file(self) -> tuple[core.Bundle, Files]:
        """What is in it; refused where it is too large or none."""
        upload = self.cleaned_data["file"]
        if upload.size > LARGEST_BYTES:
            message = (
                f"The file has {upload.size / 1e6:.0f} MB; a call’s has at most {LARGEST_BYTES / 1e6:.0f}."
            )
            raise forms.ValidationError(message)
        try:
            return unpacked(upload.read())
        except TapeError as error:
            raise forms.ValidationError(str(error)) from None


def unpacked(data: bytes) -> tuple[core.Bundle, Files]:
    """A bundle and what comes with it, read in memory by name; TapeError for any other file."""
    try:
        with opened(data) as packed:
            return _opened(packed)
    except DamagedError:
        raise TapeError("The file is damaged, or no call’s. Save the call again, choose its .zip.") from None


def _opened(packed: zipfile.ZipFile) -> tuple[core.Bundle, Files]:
    inside = packed.infolist()
    if len(inside) > MOST_FILES or sum(item.file_size for item in inside) > MOST_UNPACKED:
        raise TapeError("The file unpacks to more than any call has.")
    names = [item.filename for item in inside]
    if names.count(CALL) != 1:
        raise TapeError("There is no call in this file. Choose one that a call was saved as.")
    sheets = [name for name in names if name.startswith(SHEETS)]
    if len(sheets) > MOST_SHEETS:
        raise TapeError("The file has more sheets than any call.")
    return core.read(packed.read(CALL).decode("utf-8")), Files(
        {_digest_of(name): packed.read(name).decode("utf-8") for name in sheets},
        {_digest_of(name): packed.read(name) for name in names if name.startswith(KEPT)},
    )


def _digest_of(name: str) -> str:
    return name.rpartition("/")[2].removesuffix(".json")


@require_http_methods(["GET", "HEAD", "POST"])
def take(request: HttpRequest) -> HttpResponse:
    """Open a call that was saved elsewhere."""
    form = BundleForm(request.POST or None, request.FILES or None)
    problems: tuple[object, ...] = ()
    if request.method == "POST" and form.is_valid():
        bundle, files = form.cleaned_data["file"]
        try:
            found = take_bundle(bundle, files, signed_in(request))
        except TapeError as error:
            form.add_error("file", str(error))
        except SheetError as error:
            form.add_error("file", "A sheet in the bundle can’t be used here:")
            problems = error.problems
        else:
            if not found.created:
                messages.success(request, "This call is here already.")
            return redirect("calls:stage", found.call.pk, "call")
    context = {"form": form, "problems": problems}
    return render(request, "calls/bundle.html", context, status=422 if form.errors else 200)
