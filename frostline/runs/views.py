"""Runs on a call: a logger's file taken in, shown as understood, and judged once it counts."""

import math
import uuid
from collections.abc import Callable
from dataclasses import dataclass, replace

from django.contrib import messages
from django.http import Http404, HttpRequest, HttpResponse
from django.shortcuts import redirect, render
from django.views.decorators.http import require_http_methods, require_safe

from frostcore.errors import FrostError
from frostcore.quantity import format_celsius
from frostcore.remedy.passing import passing
from frostcore.sentence import in_sentence
from frostcore.tape.entries import Attached
from frostcore.tape.ran import RunLogged
from frostcore.tape.ran_words import kept_in
from frostcore.tape.stages import Stage
from frostcore.tape.standing import Standing
from frostcore.thermal.food import RULES, Spoilt, spoilt
from frostcore.thermal.of_sheet import thermal_of
from frostcore.thermal.picture import RunPicture, run_picture
from frostcore.thermal.verdicts import Judged, Verdict
from frostline.accounts.access import signed_in
from frostline.calls import pages
from frostline.calls.actions.keep_attachment import described, keep_attachment
from frostline.calls.actions.record_slip import NewSlip, record_slip
from frostline.calls.models import Call
from frostline.calls.tapes import call_or_404, standing_of
from frostline.calls.unreadable import reads_sheet
from frostline.runs.ensembles import classes_ahead, forecasts
from frostline.runs.forms import ColumnsForm, FileForm
from frostline.runs.reading import judged_of, log_of

CSV = "text/csv"


@dataclass(frozen=True)
class ShownRun:
    """A run that counts: the entry, how it is judged or why it can't be."""

    entry: RunLogged
    judged: Judged | None = None
    problem: str = ""


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
                return redirect("runs:columns", call.pk, kept.digest)
            except FrostError as error:
                form.add_error("file" if form.cleaned_data["file"] else "rows", str(error))
    context = pages.frame(call, standing, Stage.CLOSE) | {"page_name": "Proof over time", "form": form}
    context |= {
        "runs": [_shown(run, standing) for run in standing.all_of(RunLogged)],
        "waiting": _waiting(standing),
        "typed": _typed(standing),
    }
    return render(request, "runs/runs.html", context, status=422 if form.errors else 200)


def _keep(request: HttpRequest, call: Call, standing: Standing, form: FileForm) -> Attached:
    """The file kept with the call, once it can be read as a log."""
    upload = form.cleaned_data["file"]
    content = bytes(upload.read()) if upload else form.cleaned_data["rows"].encode()
    name = upload.name[:120] if upload else "pasted.csv"
    about = described(content, name, CSV)
    kept = kept_in(standing, about.digest)
    if kept is None:
        # Kept before it is read: nothing that was sent is lost, whatever is in it.
        keep_attachment(call, form.cleaned_data["slip_id"], content, about, signed_in(request))
    log_of(about.digest, standing.sheet)
    return about


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


def _shown(run: RunLogged, standing: Standing) -> ShownRun:
    try:
        return ShownRun(run, judged_of(run, standing.sheet))
    except FrostError as error:
        return ShownRun(run, problem=str(error))


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
    except FrostError as error:
        return render(request, "runs/columns.html", context | {"problem": str(error)}, status=422)
    posted = request.POST if request.method == "POST" else None
    classes_ahead(standing.sheet)
    form = ColumnsForm(posted, log=log, sheet=standing.sheet, initial={"slip_id": uuid.uuid4()})
    if posted is not None and form.is_valid():
        run = RunLogged("run_logged", digest, kept.name, form.columns, form.cleaned_data["room"])
        try:
            run = replace(run, found=judged_of(run, standing.sheet).found)
            record_slip(call, NewSlip(form.cleaned_data["slip_id"], run), signed_in(request))
            return redirect("runs:run", call.pk, digest)
        except FrostError as error:
            messages.error(request, str(error))
    return render(
        request, "runs/columns.html", context | {"form": form, "log": log}, status=422 if form.errors else 200
    )


@require_safe
@reads_sheet
def run(request: HttpRequest, pk: uuid.UUID, digest: str) -> HttpResponse:
    """A run that counts: what it shows, drawn."""
    call = call_or_404(pk)
    standing = standing_of(call)
    entry = next((each for each in reversed(standing.all_of(RunLogged)) if each.digest == digest), None)
    if entry is None:
        raise Http404
    shown = _shown(entry, standing)
    context = pages.frame(call, standing, Stage.CLOSE) | {
        "page_name": "A run",
        "shown": shown,
    }
    if shown.judged:
        picture: RunPicture = run_picture(shown.judged)
        names = {room.id: room.name for room in standing.sheet.compartments}
        context |= {
            "picture": picture,
            "legend": [(line, _named(line.where, names)) for line in picture.lines],
            "verdicts": [(_titled(each, names), each) for each in shown.judged.in_order],
            "log": shown.judged.log,
            "food": [(names.get(each.place, each.place), each) for each in _food(standing, shown.judged)],
            "food_rules": RULES,
            "falling": shown.judged.falling,
        }
    return render(request, "runs/run.html", context)


@require_safe
@reads_sheet
def coming(request: HttpRequest, pk: uuid.UUID, digest: str) -> HttpResponse:
    """When what is not at its setting yet will be: a fragment that asks again while that is worked out."""
    standing = standing_of(call_or_404(pk))
    entry = next((each for each in reversed(standing.all_of(RunLogged)) if each.digest == digest), None)
    if entry is None:
        raise Http404
    return _coming(request, standing, lambda: judged_of(entry, standing.sheet))


@require_safe
@reads_sheet
def typed(request: HttpRequest, pk: uuid.UUID) -> HttpResponse:
    """The same of what was typed in passing."""
    standing = standing_of(call_or_404(pk))
    log = passing(standing)
    if log is None:
        raise Http404
    return _coming(request, standing, lambda: Judged(thermal_of(standing.sheet), log))


def _coming(request: HttpRequest, standing: Standing, judged: Callable[[], Judged]) -> HttpResponse:
    names = {room.id: room.name for room in standing.sheet.compartments}
    context: dict[str, object] = {}
    try:
        found = forecasts(judged())
        context = {"working": found is None}
        context["forecasts"] = [(names.get(each.place, each.place), each) for each in found or ()]
    except FrostError as error:
        context = {"problem": str(error)}
    return render(request, "runs/coming.html", context)


def _food(standing: Standing, judged: Judged) -> tuple[Spoilt, ...]:
    return spoilt(judged.log, {room.id: room.compartment for room in standing.sheet.compartments})


def _named(where: str, names: dict[str, str]) -> str:
    if where.startswith("coil:"):
        return f"On the coil ({where.removeprefix('coil:').replace('_', ' ')})"
    return names.get(where, "The room" if where == "room" else where)


def _titled(verdict: Verdict, names: dict[str, str]) -> str:
    name = names.get(verdict.of, verdict.of)
    return f"{name}: {in_sentence(verdict.title)}" if name else verdict.title
