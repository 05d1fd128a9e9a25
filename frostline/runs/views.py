"""Runs on a call: a logger's file taken in, shown as understood, until it counts; what was typed in
passing."""

import contextlib
import math
import uuid
from dataclasses import replace
from datetime import UTC

from django.contrib import messages
from django.http import Http404, HttpRequest, HttpResponse
from django.shortcuts import redirect, render
from django.utils import timezone
from django.views.decorators.http import require_http_methods, require_safe

from frostcore.errors import FrostError
from frostcore.quantity import format_celsius
from frostcore.remedy.passing import passing
from frostcore.tape.entries import Attached
from frostcore.tape.ran import RunLogged
from frostcore.tape.ran_words import kept_in, runs_of
from frostcore.tape.stages import Stage
from frostcore.tape.standing import Standing
from frostcore.thermal.of_sheet import thermal_of
from frostcore.thermal.verdicts import Judged
from frostline.accounts.access import signed_in
from frostline.calls import pages
from frostline.calls.actions.keep_attachment import described, keep_attachment
from frostline.calls.models import Call
from frostline.calls.tapes import call_or_404, standing_of
from frostline.calls.unreadable import reads_sheet
from frostline.runs.ensembles import classes_ahead
from frostline.runs.forms import ColumnsForm, FileForm
from frostline.runs.models import LiveRun
from frostline.runs.one import being_read, count, run_of, shown_of, told_of
from frostline.runs.reading import CSV, StillReadingError, log_of
from frostline.runs.rechecks import recheck_context


@require_http_methods(["GET", "HEAD", "POST"])
@reads_sheet
def runs(request: HttpRequest, pk: uuid.UUID) -> HttpResponse:
    """The runs of a call, and the form for another."""
    call = call_or_404(pk)
    standing = standing_of(call)
    form = FileForm(initial={"slip_id": uuid.uuid4()})
    if request.method == "POST":
        form = FileForm(request.POST, request.FILES)
        if form.is_valid():
            try:
                kept = _keep(request, call, standing, form)
                return redirect("runs:columns", call.pk, kept)
            except FrostError as error:
                form.add_error("file" if form.cleaned_data["file"] else "rows", str(error))
    context = pages.frame(call, standing, Stage.CLOSE) | {"page_name": "Proof over time", "form": form}
    context |= {
        "runs": [shown_of(run, standing) for run in runs_of(standing)],
        "live": LiveRun.objects.filter(call=call, ended_at=None),
        "waiting": _waiting(standing),
        "typed": _typed(standing),
    }
    context |= recheck_context(request, call, standing)
    return render(request, "runs/runs.html", context, status=422 if form.errors else 200)


def _keep(request: HttpRequest, call: Call, standing: Standing, form: FileForm) -> str:
    """The digest of the file, kept with the call, once it can be read as a log or is long to read."""
    upload = form.cleaned_data["file"]
    content = bytes(upload.read()) if upload else form.cleaned_data["rows"].encode()
    name = upload.name[:120] if upload else "pasted.csv"
    about = described(content, name, CSV)
    kept = kept_in(standing, about.digest)
    if kept is None:
        # Kept before it is read: nothing that was sent is lost, whatever is in it.
        keep_attachment(call, form.cleaned_data["slip_id"], content, about, signed_in(request))
    with contextlib.suppress(StillReadingError):
        log_of(about.digest, standing.sheet)
    return about.digest


def _typed(standing: Standing) -> list[tuple[str, list[str]]]:
    """What was typed in passing: each compartment's name and its readings in words."""
    log = passing(standing)
    names = {room.id: room.name for room in standing.sheet.compartments}
    if log is None:
        return []
    return [
        (
            names.get(column.where, column.where),
            [
                f"{format_celsius(value)} after {seconds / 60:.0f} min"
                for seconds, value in zip(log.seconds.tolist(), values.tolist(), strict=True)
                if not math.isnan(value)
            ],
        )
        for column, values in zip(log.columns, log.values, strict=True)
    ]


def _waiting(standing: Standing) -> list[Attached]:
    """Files that were kept and do not count yet."""
    counted = {run.digest for run in standing.all_of(RunLogged)}
    return [
        each for each in standing.all_of(Attached) if each.media_type == CSV and each.digest not in counted
    ]


@require_http_methods(["GET", "HEAD", "POST"])
@reads_sheet
def columns(request: HttpRequest, pk: uuid.UUID, digest: str) -> HttpResponse:
    """A kept file as understood: what its columns are of, what was said of its rows; then it counts."""
    call = call_or_404(pk)
    standing = standing_of(call)
    kept = kept_in(standing, digest)
    if kept is None:
        raise Http404
    context = pages.frame(call, standing, Stage.CLOSE) | {"page_name": "As understood", "file": kept}
    try:
        log = log_of(digest, standing.sheet)
    except StillReadingError as error:
        return being_read(request, call, standing, kept.name, error.share)
    except FrostError as error:
        return render(request, "runs/columns.html", context | {"problem": str(error)}, status=422)
    posted = request.POST if request.method == "POST" else None
    classes_ahead(standing.sheet)
    before = run_of(standing, digest)
    initial = {"slip_id": uuid.uuid4(), "full": before.full if before else ""}
    form = ColumnsForm(posted, log=log, sheet=standing.sheet, initial=initial)
    if posted is not None and form.is_valid():
        settings = before.settings if before else ()
        run = RunLogged(
            "run_logged", digest, kept.name, form.columns, form.cleaned_data["room"],
            settings=settings, full=form.cleaned_data["full"],
        )  # fmt: skip
        try:
            count(request, call, standing, run, form.cleaned_data["slip_id"])
            return redirect("runs:run", call.pk, digest)
        except FrostError as error:
            messages.error(request, str(error))
    return render(
        request, "runs/columns.html", context | {"form": form, "log": log}, status=422 if form.errors else 200
    )


@require_safe
@reads_sheet
def typed(request: HttpRequest, pk: uuid.UUID) -> HttpResponse:
    """The same of what was typed in passing."""
    standing = standing_of(call_or_404(pk))
    log = passing(standing)
    if log is None:
        raise Http404
    begins = timezone.localtime(log.begins.replace(tzinfo=UTC)).replace(tzinfo=None)
    judged = Judged(thermal_of(standing.sheet), replace(log, begins=begins))
    return told_of(request, standing, lambda: judged)
