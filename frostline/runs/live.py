"""A run read live: begun on a call, filled by an agent that has its token, judged as it goes on, ended as a
file that counts."""

import json
import secrets
import uuid
from dataclasses import asdict
from datetime import timedelta
from typing import Any, Literal, cast

from django.contrib import messages
from django.contrib.auth.decorators import login_not_required
from django.http import Http404, HttpRequest, HttpResponse, JsonResponse
from django.shortcuts import get_object_or_404, redirect, render
from django.urls import reverse
from django.utils import timezone
from django.views.decorators.csrf import csrf_exempt
from django.views.decorators.http import require_GET, require_http_methods, require_POST

from frostcore.errors import FrostError
from frostcore.quantity import Quantity
from frostcore.tape.ran import RunLogged
from frostcore.tape.stages import Stage
from frostcore.tape.standing import Standing
from frostcore.thermal.live import csv_of, head_of
from frostcore.thermal.of_sheet import thermal_of
from frostcore.thermal.setting import Setting
from frostcore.thermal.verdicts import Judged
from frostline.accounts.access import signed_in
from frostline.calls import pages
from frostline.calls.actions.keep_attachment import described, keep_attachment
from frostline.calls.tapes import call_or_404, standing_of
from frostline.calls.unreadable import reads_sheet
from frostline.runs.actions.take_rows import RefusedError, check_token, hash_of, read_sent, take_rows
from frostline.runs.ensembles import forecasts
from frostline.runs.forms import LiveForm, SettingForm
from frostline.runs.models import LiveRun
from frostline.runs.one import count, drawn, foretold, told
from frostline.runs.reading import CSV, log_in

DAYS = 30
"""So long a run takes rows."""

LARGEST_POST = 400_000
"""Bytes."""

LEAST_ROWS = 2


@require_http_methods(["GET", "HEAD", "POST"])
@reads_sheet
def begin(request: HttpRequest, pk: uuid.UUID) -> HttpResponse:
    """Begin one: what is read, and what the agent is told; its token is shown this once."""
    call = call_or_404(pk)
    standing = standing_of(call)
    form = LiveForm(request.POST or None, sheet=standing.sheet)
    context = pages.frame(call, standing, Stage.CLOSE) | {"page_name": "Read it live", "form": form}
    if request.method == "POST" and form.is_valid():
        token, room = secrets.token_urlsafe(32), form.cleaned_data["room"]
        run = LiveRun(
            call=call,
            places=form.cleaned_data["places"],
            room=None if room is None else {"typed": room.typed, "number": room.number},
            full=form.cleaned_data["full"],
            token_hash=hash_of(token),
            expires_at=timezone.now() + timedelta(days=DAYS),
            begun_at=timezone.now(),
            begun_by=signed_in(request),
        )
        run.save()
        return _begun(request, context, run, token)
    return render(request, "runs/live_begin.html", context, status=422 if form.errors else 200)


def _begun(request: HttpRequest, context: dict[str, Any], run: LiveRun, token: str) -> HttpResponse:
    feed = request.build_absolute_uri(reverse("runs:feed", args=[run.pk]))
    channels = [(number, head_of(place)) for number, place in enumerate(run.places, 1)]
    context |= {"live": run, "token": token, "feed": feed, "channels": channels}
    return render(request, "runs/live_begun.html", context)


@require_POST
@reads_sheet
def renew(request: HttpRequest, pk: uuid.UUID) -> HttpResponse:
    """Another token in the place of the one there was."""
    run = _going_on(pk)
    standing = standing_of(run.call)
    token = secrets.token_urlsafe(32)
    run.token_hash, run.expires_at = hash_of(token), timezone.now() + timedelta(days=DAYS)
    run.save()
    context = pages.frame(run.call, standing, Stage.CLOSE) | {"page_name": "Read it live"}
    return _begun(request, context, run, token)


@login_not_required
@csrf_exempt
@require_POST
def feed(request: HttpRequest, pk: uuid.UUID) -> JsonResponse:
    """Rows from the agent; what is wanted next."""
    try:
        return JsonResponse({"next": _taken(request, pk)})
    except RefusedError as error:
        return JsonResponse({"problem": str(error)}, status=error.status)


def _taken(request: HttpRequest, pk: uuid.UUID) -> int:
    """A post's rows kept; what is wanted next. RefusedError for what is not taken."""
    kind, _, token = request.headers.get("Authorization", "").partition(" ")
    run = LiveRun.objects.filter(pk=pk).first()
    if run is None or kind != "Bearer" or not token.isascii():
        raise RefusedError(401, "The token is not this run’s; its page makes another.")
    check_token(run, token)
    if len(request.body) > LARGEST_POST:
        raise RefusedError(413, f"A post is {LARGEST_POST:,} bytes at most.")
    try:
        data = json.loads(request.body)
    except (ValueError, RecursionError):
        raise RefusedError(422, "A post is JSON.") from None
    heads = data.get("heads") if isinstance(data, dict) else None
    if heads is not None and heads != [head_of(place) for place in run.places]:
        raise RefusedError(422, f"This run’s columns are {', '.join(map(head_of, run.places))}.")
    return take_rows(run, read_sent(data, len(run.places)))


@require_http_methods(["GET", "HEAD", "POST"])
@reads_sheet
def live(request: HttpRequest, pk: uuid.UUID) -> HttpResponse:
    """A run that goes on: what it shows by now; a setting on its way is marked."""
    run = get_object_or_404(LiveRun.objects.select_related("call"), pk=pk)
    if run.digest:
        return redirect("runs:run", run.call_id, run.digest)
    standing = standing_of(run.call)
    form = SettingForm(sheet=standing.sheet, initial={"slip_id": uuid.uuid4()}, now=True)
    if request.method == "POST":
        begun = _first_at(run)
        hours = (timezone.now().timestamp() - begun) / 3600.0 if begun else 0.0
        form = SettingForm(request.POST, sheet=standing.sheet, hours=hours, now=True)
        if form.is_valid():
            run.marked = [*run.marked, asdict(form.setting)]
            run.save()
            return redirect("runs:live", run.pk)
    context = pages.frame(run.call, standing, Stage.CLOSE) | {"page_name": "Read live", "live": run}
    context |= {"setting_form": form} | _now(request, run, standing)
    return render(request, "runs/live.html", context, status=422 if form.errors else 200)


@require_GET
@reads_sheet
def now(request: HttpRequest, pk: uuid.UUID) -> HttpResponse:
    """The same, as a fragment that is asked for again and again."""
    run = get_object_or_404(LiveRun.objects.select_related("call"), pk=pk)
    standing = standing_of(run.call)
    context = {"live": run, "call": run.call} | _now(request, run, standing)
    return render(request, "runs/live_now.html", context)


@require_POST
@reads_sheet
def end(request: HttpRequest, pk: uuid.UUID) -> HttpResponse:
    """It ends: its rows become a file of the call, and count."""
    run = _going_on(pk)
    try:
        run.digest = _counted(request, run)
    except FrostError as error:
        messages.error(request, str(error))
        return redirect("runs:live", run.pk)
    run.ended_at = timezone.now()
    run.save()
    return redirect("runs:run", run.call_id, run.digest)


def _counted(request: HttpRequest, run: LiveRun) -> str:
    """The digest of its rows as a file of the call, which counts. FrostError where there is nothing to."""
    text, rows = _text_of(run)
    if rows < LEAST_ROWS:
        raise FrostError("Fewer than two rows have come: there is nothing to count yet.")
    content = text.encode()
    about = described(content, f"live-{timezone.localtime(run.begun_at):%Y-%m-%d}.csv", CSV)
    keep_attachment(run.call, uuid.uuid5(run.pk, "file"), content, about, signed_in(request))
    columns = {head_of(place): place for place in run.places}
    entry = RunLogged(
        "run_logged", about.digest, about.name, columns, _room_of(run), settings=_settings_of(run),
        full=cast("Literal['', 'empty', 'half', 'full']", run.full),
    )  # fmt: skip
    count(request, run.call, standing_of(run.call), entry, uuid.uuid5(run.pk, "run"))
    return about.digest


def _going_on(pk: uuid.UUID) -> LiveRun:
    run = get_object_or_404(LiveRun.objects.select_related("call"), pk=pk)
    if run.ended_at is not None:
        raise Http404
    return run


def _text_of(run: LiveRun) -> tuple[str, int]:
    """The rows as a file, and how many there are."""
    rows = [row for batch in run.batches.values_list("rows", flat=True) for row in batch]
    return csv_of(run.places, rows, timezone.get_current_timezone()), len(rows)


def _first_at(run: LiveRun) -> float | None:
    first = run.batches.first()
    return float(first.rows[0][0]) if first else None


def _room_of(run: LiveRun) -> Quantity | None:
    return None if run.room is None else LiveForm.room_of(run.room["typed"])


def _settings_of(run: LiveRun) -> tuple[Setting, ...]:
    return tuple(Setting(**each) for each in run.marked)


def _now(request: HttpRequest, run: LiveRun, standing: Standing) -> dict[str, Any]:
    """What a run shows by now: its judgement and its picture; what came last, and how its clock is."""
    text, rows = _text_of(run)
    last = run.batches.last()
    context: dict[str, Any] = {"row_count": rows, "batch": last}
    if rows < LEAST_ROWS:
        return context
    try:
        plant, room = thermal_of(standing.sheet), _room_of(run)
        plant = plant.changed(room=room.value) if room else plant
        judged = Judged(plant, log_in(text, standing.sheet), _settings_of(run))
        found = forecasts(judged, run.full)
        context |= told(standing, judged) | drawn(standing, judged, coming=found or ())
        names = {one.id: one.name for one in standing.sheet.compartments}
        context |= {
            "by_now": judged,
            "working": found is None,
            "forecasts": foretold(judged, found or (), names),
        }
    except FrostError as error:
        context["problem"] = str(error)
    return context
