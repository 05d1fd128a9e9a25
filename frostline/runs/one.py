"""A run that counts: what it shows, drawn; what was set on its way; how it compares; its rows as
understood."""

import csv
import io
import math
import uuid
from collections.abc import Callable, Sequence
from dataclasses import dataclass, replace
from datetime import datetime
from typing import Any

from django.contrib import messages
from django.http import Http404, HttpRequest, HttpResponse
from django.shortcuts import redirect, render
from django.utils.http import urlencode
from django.views.decorators.http import require_http_methods, require_safe

from frostcore.diagnosis.of_run import proofs_of, worth
from frostcore.errors import FrostError
from frostcore.sentence import in_sentence, joined
from frostcore.tape.ran import RunLogged
from frostcore.tape.ran_words import runs_of
from frostcore.tape.stages import Stage
from frostcore.tape.standing import Standing
from frostcore.thermal.defrosts import defrosts_of
from frostcore.thermal.figures import Figures, Stretch, acts_of, figures, stretches
from frostcore.thermal.food import RULES, Spoilt, spoilt
from frostcore.thermal.forecast import SAID_NEVER, Forecast
from frostcore.thermal.of_sheet import stated_of
from frostcore.thermal.picture import RunPicture, run_picture
from frostcore.thermal.verdicts import Judged, Verdict
from frostline.accounts.access import signed_in
from frostline.calls import pages
from frostline.calls.actions.record_slip import NewSlip, record_slip
from frostline.calls.judging import judgement_for
from frostline.calls.models import Call
from frostline.calls.tapes import call_or_404, standing_of
from frostline.calls.unreadable import reads_sheet
from frostline.runs.ensembles import forecasts, prepared, sound_figures
from frostline.runs.forms import SettingForm
from frostline.runs.reading import StillReadingError, judged_of
from frostline.runs.tables import Held, figure_rows


@dataclass(frozen=True)
class ShownRun:
    """A run that counts: the entry, how it is judged or why it can't be."""

    entry: RunLogged
    judged: Judged | None = None
    problem: str = ""
    share: float | None = None
    """Of its file that has been read, while that goes on."""


def shown_of(run: RunLogged, standing: Standing) -> ShownRun:
    """A run, judged; or why it can't be."""
    try:
        return ShownRun(run, judged_of(run, standing.sheet))
    except StillReadingError as error:
        return ShownRun(run, problem=str(error), share=error.share)
    except FrostError as error:
        return ShownRun(run, problem=str(error))


def being_read(request: HttpRequest, call: Call, standing: Standing, name: str, share: float) -> HttpResponse:
    """The page of a long file while it is read: it asks again."""
    context = pages.frame(call, standing, Stage.CLOSE) | {"page_name": "Reading", "file_name": name}
    return render(request, "runs/reading.html", context | {"percent": round(100 * share)})


def run_of(standing: Standing, digest: str) -> RunLogged | None:
    """The run of a file, as last read; None where it does not count."""
    return next((each for each in runs_of(standing) if each.digest == digest), None)


def _or_404(standing: Standing, digest: str) -> RunLogged:
    found = run_of(standing, digest)
    if found is None:
        raise Http404
    return found


def count(request: HttpRequest, call: Call, standing: Standing, run: RunLogged, slip_id: uuid.UUID) -> None:
    """A run on the tape, with what it shows by now. FrostError where it can't be judged or kept."""
    run = replace(run, found=judged_of(run, standing.sheet).found)
    record_slip(call, NewSlip(slip_id, run), signed_in(request))


@require_http_methods(["GET", "HEAD", "POST"])
@reads_sheet
def run(request: HttpRequest, pk: uuid.UUID, digest: str) -> HttpResponse:
    """A run that counts: what it shows, drawn, beside another where asked; a setting on its way is added."""
    call = call_or_404(pk)
    standing = standing_of(call)
    entry = _or_404(standing, digest)
    shown = shown_of(entry, standing)
    if shown.share is not None:
        return being_read(request, call, standing, entry.name, shown.share)
    fresh = {"slip_id": uuid.uuid4(), "at": ""}
    form = SettingForm(sheet=standing.sheet, initial=fresh)
    if request.method == "POST" and shown.judged:
        form = SettingForm(request.POST, sheet=standing.sheet, hours=shown.judged.log.hours)
        if form.is_valid():
            changed = replace(entry, settings=(*entry.settings, form.setting))
            try:
                count(request, call, standing, changed, form.cleaned_data["slip_id"])
                return redirect("runs:run", call.pk, digest)
            except FrostError as error:
                messages.error(request, str(error))
    context = pages.frame(call, standing, Stage.CLOSE) | {
        "page_name": "A run",
        "shown": shown,
        "setting_form": form,
        "others": [each for each in runs_of(standing) if each.digest != digest],
    }
    if shown.judged:
        context |= told(standing, shown.judged) | drawn(
            standing, shown.judged, _beside(request, standing, digest)
        )
    return render(request, "runs/run.html", context, status=422 if form.errors else 200)


@require_http_methods(["POST"])
@reads_sheet
def unset(request: HttpRequest, pk: uuid.UUID, digest: str, number: int) -> HttpResponse:
    """A setting taken off a run again."""
    call = call_or_404(pk)
    standing = standing_of(call)
    entry = _or_404(standing, digest)
    shown = shown_of(entry, standing)
    if not shown.judged or not 1 <= number <= len(shown.judged.settings):
        raise Http404
    left = tuple(each for at, each in enumerate(shown.judged.settings, 1) if at != number)
    try:
        count(request, call, standing, replace(entry, settings=left), uuid.uuid4())
    except FrostError as error:
        messages.error(request, str(error))
    return redirect("runs:run", call.pk, digest)


def _beside(request: HttpRequest, standing: Standing, digest: str) -> RunLogged | None:
    asked = request.GET.get("beside", "")
    return run_of(standing, asked) if asked != digest else None


def told(standing: Standing, judged: Judged) -> dict[str, Any]:
    """What a judged run says: its verdicts, its food, what still falls."""
    names = {room.id: room.name for room in standing.sheet.compartments}
    return {
        "verdicts": [(_titled(each, names), each, _until(each, judged)) for each in judged.in_order],
        "log": judged.log,
        "food": [(names.get(each.place, each.place), each) for each in _food(standing, judged)],
        "food_rules": RULES,
        "falling": judged.falling,
        "defrosts": defrosts_of(judged),
        "names": names,
        "by_turns": _by_turns(judged),
        "stated": joined(stated_of(standing.sheet)),
    }


def drawn(
    standing: Standing, judged: Judged, other: RunLogged | None = None, coming: tuple[Forecast, ...] = ()
) -> dict[str, Any]:
    """The picture and its legend, beside another run where one is asked for."""
    beside = shown_of(other, standing).judged if other else None
    picture: RunPicture = run_picture(judged, coming=coming, beside=beside)
    names = {room.id: room.name for room in standing.sheet.compartments}
    legend = [(line, named(line.where, names)) for line in picture.lines]
    return {"picture": picture, "legend": legend, "beside": other}


@require_safe
@reads_sheet
def coming(request: HttpRequest, pk: uuid.UUID, digest: str) -> HttpResponse:
    """When what is not at its setting yet will be: a fragment that asks again while that is worked out."""
    standing = standing_of(call_or_404(pk))
    entry = _or_404(standing, digest)

    def with_fan(judged: Judged, found: tuple[Forecast, ...]) -> dict[str, Any]:
        return drawn(standing, judged, _beside(request, standing, digest), found)

    return told_of(request, standing, lambda: judged_of(entry, standing.sheet), with_fan, entry.full)


def told_of(
    request: HttpRequest,
    standing: Standing,
    judged: Callable[[], Judged],
    picture: Callable[[Judged, tuple[Forecast, ...]], dict[str, Any]] | None = None,
    full: str = "",
) -> HttpResponse:
    """When a run's compartments will be at their settings, as a fragment; with its picture where it has
    one."""
    names = {room.id: room.name for room in standing.sheet.compartments}
    context: dict[str, Any] = {}
    try:
        of = judged()
        found = forecasts(of, full)
        context = {"working": found is None}
        context["forecasts"] = foretold(of, found or (), names)
        if found and picture:
            context |= picture(of, found)
    except FrostError as error:
        context = {"problem": str(error)}
    return render(request, "runs/coming.html", context)


@require_safe
@reads_sheet
def compared(request: HttpRequest, pk: uuid.UUID, digest: str) -> HttpResponse:
    """The run in figures, by its stretches, beside another run's and a sound unit's: a fragment that asks
    again while that is worked out."""
    standing = standing_of(call_or_404(pk))
    entry = _or_404(standing, digest)
    context: dict[str, Any] = {}
    try:
        judged = judged_of(entry, standing.sheet)
        usual = sound_figures(judged.plant)
        context["working"] = usual is None
        if usual is not None:
            parts = stretches(judged)
            columns: list[tuple[str, Figures, Held]] = [
                (_stretch_name(each, len(parts)), each.figures, each.holds) for each in parts
            ]
            other = _beside(request, standing, digest)
            beside = shown_of(other, standing).judged if other else None
            if other and beside:
                columns.insert(0, (other.name, figures(beside), ()))
            columns.append(("A sound one", usual, ()))
            names = {room.id: room.name for room in standing.sheet.compartments}
            context["heads"] = [name for name, _, _ in columns]
            context["groups"] = figure_rows([(found, held) for _, found, held in columns], names)
            context["wide"] = len(columns) + 1
    except FrostError as error:
        context = {"problem": str(error)}
    return render(request, "runs/compared.html", context)


@require_safe
@reads_sheet
def further(request: HttpRequest, pk: uuid.UUID) -> HttpResponse:
    """What a run would tell of the suspects by each way of watching, and which proofs this call asks for,
    with how they stand by the newest run: a fragment that asks again while that is worked out."""
    standing = standing_of(call_or_404(pk))
    context: dict[str, Any] = {"working": True}
    try:
        judgement = judgement_for(standing)
        if prepared(standing.sheet) and judgement:
            newest = runs_of(standing)[-1:]
            judged = shown_of(newest[0], standing).judged if newest else None
            by = {each.key: each for each in judged.verdicts} if judged else {}
            context = {
                "worths": worth(judgement),
                "proofs": [(proof, by.get(proof.key)) for proof in proofs_of(standing)],
                "newest": newest[0] if newest else None,
            }
    except FrostError as error:
        context = {"problem": str(error)}
    return render(request, "runs/further.html", context)


def _stretch_name(one: Stretch, of: int) -> str:
    if one.setting is None:
        return "From its first row" if of > 1 else "This run"
    return f"From {one.start:.1f} h, {in_sentence(one.setting.words)}"


@require_safe
@reads_sheet
def rows(request: HttpRequest, pk: uuid.UUID, digest: str) -> HttpResponse:
    """A run's rows as understood: hours, °C, W, in the places they are of; as CSV."""
    standing = standing_of(call_or_404(pk))
    entry = _or_404(standing, digest)
    try:
        log = judged_of(entry, standing.sheet).log
    except FrostError as error:
        return HttpResponse(str(error), status=422, content_type="text/plain; charset=utf-8")
    out = io.StringIO()
    writer = csv.writer(out)
    units = {"celsius": "°C", "watts": "W"}
    writer.writerow(
        ["seconds", *(f"{each.where or each.head} {units[each.quantity]}" for each in log.columns)]
    )
    for second, values in zip(log.seconds.tolist(), log.values.T.tolist(), strict=True):
        writer.writerow([f"{second:g}", *("" if value != value else f"{value:.2f}" for value in values)])  # noqa: PLR0124
    response = HttpResponse(out.getvalue(), content_type="text/csv; charset=utf-8")
    response["Content-Disposition"] = 'attachment; filename="run.csv"'
    return response


MOST_ACTS, MOST_SEEN = 4, 8
"""So many acts the thermostat's page has room for, and so many cut-outs of each."""


def _by_turns(judged: Judged) -> str:
    """The query of the thermostat's page with what the run's turns gave; nothing where nothing was turned."""
    acts = acts_of(judged)[-MOST_ACTS:]
    if not acts or judged.main is None:
        return ""
    query: dict[str, str] = {"target": f"{judged.main[0].cut_out:g}"}
    for number, act in enumerate(acts):
        query |= {
            f"turns_{number}": f"{act.turns:g}",
            f"seen_{number}": " ".join(f"{each:.1f}" for each in act.cut_outs[:MOST_SEEN]),
            f"screw_{number}": f"{act.differential:g}",
            f"ins_{number}": " ".join(f"{each:.1f}" for each in act.cut_ins[:MOST_SEEN]),
        }
        if number and act.bulb > acts[number - 1].bulb:
            query[f"bulb_{number}"] = "on"
    return urlencode(query)


def _until(verdict: Verdict, judged: Judged) -> datetime | None:
    """Until when one that is open is to be watched, by the log's clock; None where that is not so."""
    if verdict.until is None or verdict.mark != "open":
        return None
    return judged.clock(verdict.until)


def foretold(judged: Judged, found: Sequence[Forecast], names: dict[str, str]) -> list[Any]:
    """Forecasts with the compartment's name and, where it will be there, the moments: likely and latest."""
    begun = float(judged.last.log.seconds[0]) / 3600.0
    rows = []
    for each in found:
        sure = not each.there and each.never < SAID_NEVER and math.isfinite(each.high)
        moments = (
            [judged.clock(begun + minutes / 60.0) for minutes in (each.median, each.high)] if sure else []
        )
        rows.append((names.get(each.place, each.place), each, moments))
    return rows


def _food(standing: Standing, judged: Judged) -> tuple[Spoilt, ...]:
    return spoilt(judged.log, {room.id: room.compartment for room in standing.sheet.compartments})


def named(where: str, names: dict[str, str]) -> str:
    """A column's place, as it is called."""
    if where.startswith("coil:"):
        return f"On the coil ({where.removeprefix('coil:').replace('_', ' ')})"
    return names.get(where, "The room" if where == "room" else where)


def _titled(verdict: Verdict, names: dict[str, str]) -> str:
    name = names.get(verdict.of, verdict.of)
    return f"{name}: {in_sentence(verdict.title)}" if name else verdict.title
