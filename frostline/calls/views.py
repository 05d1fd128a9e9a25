"""Pages of calls: parse, call an action or the core, render."""

import uuid
from typing import Any

from django.http import Http404, HttpRequest, HttpResponse, JsonResponse
from django.shortcuts import get_object_or_404, redirect, render
from django.urls import reverse
from django.views.decorators.http import require_http_methods, require_safe

from frostcore.circuit.element import CircuitError
from frostcore.circuit.kept import circuits_of
from frostcore.diagnosis.guide import STAGE_OF_KIND, Stage, next_step
from frostcore.errors import TapeError
from frostcore.report.handover import handover as handover_report
from frostcore.sheet.model import Sensor
from frostcore.tape.entries import Body, MeterRead, PlugMoved, PowerSet, body_to_document
from frostcore.tape.standing import Standing, question_id, questions_about
from frostcore.verdict import Question
from frostline.calls import forms, pages, tracing
from frostline.calls.actions.open_call import open_call
from frostline.calls.actions.record_slip import record_slip
from frostline.calls.models import Call, calls_with_tapes
from frostline.calls.slip_form import answered


@require_safe
def calls(request: HttpRequest) -> HttpResponse:
    """Every call, newest first."""
    rows = pages.call_rows()
    return render(
        request,
        "calls/calls.html",
        {
            "open_rows": [row for row in rows if not row["standing"].outcome],
            "closed_rows": [row for row in rows if row["standing"].outcome],
        },
    )


@require_http_methods(["GET", "HEAD", "POST"])
def new(request: HttpRequest) -> HttpResponse:
    """Take a new call."""
    form = forms.NewCallForm(request.POST or None)
    if request.method == "POST" and form.is_valid():
        call = open_call(
            form.cleaned_data["slip_id"],
            form.revisions[form.cleaned_data["revision"]],
            form.to_body(),
            request.user,
        )
        return redirect("calls:stage", call.pk, Stage.CALL)
    return render(request, "calls/new.html", {"form": form}, status=422 if form.errors else 200)


@require_safe
def call_page(request: HttpRequest, pk: uuid.UUID) -> HttpResponse:
    """A call, at the stage where there is something to do."""
    call = _call(pk)
    return redirect("calls:stage", call.pk, next_step(call.standing()).stage)


@require_http_methods(["GET", "HEAD", "POST"])
def stage(request: HttpRequest, pk: uuid.UUID, name: str) -> HttpResponse:
    """One stage of a call; what is posted there goes on the tape."""
    if name not in set(Stage):
        raise Http404
    call, here = _call(pk), Stage(name)
    standing = call.standing()
    form, extra = None, {}
    if request.method == "POST":
        form = _form_of(request, standing)
        if form.is_valid():
            done, extra = _take(request, call, standing, form)
            if done:
                return redirect(_after(request, call, here, form))
    context = (
        pages.frame(call, standing, here)
        | pages.stage_context(here, standing, request.GET, form)
        | {"loose_errors": pages.loose_errors(standing, form)}
        | extra
    )
    return render(
        request, f"calls/stage_{here}.html", context, status=422 if request.method == "POST" else 200
    )


@require_http_methods(["GET", "HEAD", "POST"])
def correct(request: HttpRequest, pk: uuid.UUID, slip_id: uuid.UUID) -> HttpResponse:
    """Correct a slip, or take it back: a new slip that supersedes it."""
    call = _call(pk)
    standing = call.standing()
    slip = next((slip for slip in standing.slips if slip.entry.id == str(slip_id)), None)
    if slip is None or not slip.standing:
        raise Http404
    form_class, initial = (
        forms.FORMS[slip.entry.body.kind],
        forms.FORMS[slip.entry.body.kind].initial_of(slip.entry.body),
    )
    withdrawing = request.POST.get("kind") == "withdrawn"
    form = form_class(
        request.POST if request.method == "POST" and not withdrawing else None,
        initial=initial,
        sheet=standing.sheet,
    )
    withdraw_form = forms.WithdrawForm(request.POST if withdrawing else None, sheet=standing.sheet)
    posted, extra = (withdraw_form if withdrawing else form), {}
    if request.method == "POST" and posted.is_valid():
        done, extra = _take(request, call, standing, posted, supersedes=slip_id)
        if done:
            return redirect("calls:stage", call.pk, STAGE_OF_KIND[slip.entry.body.kind])
    line = next(line for line in pages.tape_lines(standing) if line.slip is slip)
    context = (
        pages.frame(call, standing, None)
        | {"form": form, "withdraw_form": withdraw_form, "line": line}
        | extra
    )
    return render(request, "calls/correct.html", context, status=422 if request.method == "POST" else 200)


@require_safe
def candidates(request: HttpRequest, pk: uuid.UUID) -> HttpResponse:
    """The codes that may be what is being typed (a fragment)."""
    call = _call(pk)
    return render(
        request,
        "calls/candidates.html",
        {"call": call, **pages.candidates([call.revision.content], request.GET)},
    )


@require_safe
def settle(request: HttpRequest, pk: uuid.UUID, sensor: str) -> HttpResponse:
    """What an ice bath's readings settle on, as they are typed (a fragment)."""
    call = _call(pk)
    chosen = _sensor(call, sensor)
    return render(
        request,
        "calls/settled.html",
        {
            "call": call,
            "chosen": chosen,
            **pages.settling(request.GET.get("readings", ""), chosen.working_tolerance),
        },
    )


@require_safe
def curve_svg(request: HttpRequest, pk: uuid.UUID, sensor: str) -> HttpResponse:
    """A sensor's curve with this call's readings, as an SVG file."""
    call = _call(pk)
    chosen = _sensor(call, sensor)
    context = {
        "picture": pages.sensor_picture(call.standing(), chosen),
        "name": call.revision.content.sensor_name(chosen),
    }
    response = render(request, "calls/curve.svg", context, content_type="image/svg+xml")
    return _attached(response, call, f"{sensor}.svg")


@require_safe
def trace_svg(request: HttpRequest, pk: uuid.UUID) -> HttpResponse:
    """A function's path with its expected readings, or the whole unit, as an SVG file."""
    call = _call(pk)
    context = tracing.trace_context(call.standing(), request.GET, None)
    if context["picture"] is None:
        raise Http404
    response = render(request, "calls/trace.svg", context, content_type="image/svg+xml")
    return _attached(response, call, f"{context['function'].id}.svg")


@require_safe
def trace_deck(request: HttpRequest, pk: uuid.UUID) -> HttpResponse:
    """The circuit as the trace shows it, as a SPICE deck."""
    call = _call(pk)
    standing = call.standing()
    if not circuits_of(standing.sheet).functions:
        raise Http404
    try:
        name, deck = tracing.deck_of(standing, request.GET)
    except CircuitError:
        raise Http404 from None
    response = HttpResponse(deck, content_type="text/plain; charset=utf-8")
    return _attached(response, call, f"{name}.cir")


@require_safe
def handover(request: HttpRequest, pk: uuid.UUID) -> HttpResponse:
    """The handover report, for print."""
    call = _call(pk)
    return render(request, "calls/handover.html", {"call": call, "report": handover_report(call.standing())})


@require_safe
def tape_document(request: HttpRequest, pk: uuid.UUID) -> HttpResponse:
    """The whole tape as a plain document: what was typed, when, by whom, nothing left out."""
    call = _call(pk)
    entries = [
        {
            "id": entry.id,
            "at": entry.at.isoformat(),
            "by": entry.by,
            "supersedes": entry.supersedes or None,
            "body": body_to_document(entry.body),
        }
        for entry in call.tape()
    ]
    tape = {
        "format": "frostline-tape-1",
        "call": call.number,
        "sheet": str(call.revision),
        "sheet_digest": call.revision.digest,
        "entries": entries,
    }
    response = JsonResponse(tape, json_dumps_params={"indent": 2, "ensure_ascii": False})
    return _attached(response, call, "tape.json")


def _attached(response: HttpResponse, call: Call, name: str) -> HttpResponse:
    """The response as a file of the call's."""
    response["Content-Disposition"] = f'attachment; filename="call-{call.number}-{name}"'
    return response


def _call(pk: uuid.UUID) -> Call:
    return get_object_or_404(calls_with_tapes(), pk=pk)


def _sensor(call: Call, sensor: str) -> Sensor:
    try:
        return call.revision.content.sensor(sensor)
    except KeyError:
        raise Http404 from None


def _form_of(request: HttpRequest, standing: Standing) -> forms.SlipForm:
    form_class = forms.FORMS.get(request.POST.get("kind", ""))
    if form_class is None:
        raise Http404
    return form_class(request.POST, sheet=standing.sheet)


def _take(
    request: HttpRequest,
    call: Call,
    standing: Standing,
    form: forms.SlipForm,
    supersedes: uuid.UUID | None = None,
) -> tuple[bool, dict[str, Any]]:
    """Record a valid form.

    Returns whether it is done, and what to ask when it is not.
    """
    if isinstance(form, forms.CodeForm) and not form.chosen and not _settle_code(form):
        return False, {"asked": True, **pages.candidates([standing.sheet], form.data)}
    body, power = form.to_body(), form.cleaned_data.get("set_power")
    slip = next((slip for slip in standing.slips if slip.entry.id == str(supersedes)), None)
    questions = [
        question
        for question in questions_about(standing, body, slip.power if slip else None)
        if not (power and question.field == "power")
    ]
    if questions:
        return False, {
            "questions": [_asked(question) for question in questions],
            "answered": " ".join(answered(form.data)),
            "power_answered": power,
        }
    try:
        first: list[Body] = [PowerSet("power_set", power)] if power else []
        if isinstance(body, MeterRead) and not supersedes:
            first += _plugs_moved(standing, body)
        record_slip(
            call, form.cleaned_data["slip_id"], body, request.user, supersedes=supersedes, first=first
        )
    except TapeError as error:
        form.add_error(None, str(error))
        return False, {}
    return True, {}


def _plugs_moved(standing: Standing, body: MeterRead) -> list[Body]:
    """The plugs whose state a reading was told with, where the tape has them otherwise."""
    return [
        *(PlugMoved("plug_moved", name, "plugged") for name in standing.pulled if name not in body.pulled),
        *(PlugMoved("plug_moved", name, "pulled") for name in body.pulled if name not in standing.pulled),
    ]


def _asked(question: Question) -> dict[str, Any]:
    return {"question": question, "id": question_id(question)}


def _settle_code(form: forms.CodeForm) -> bool:
    """Take the code without asking when the display showed exactly one of the sheet's."""
    matches = [match for match in form.seen.matches if match.exact]
    if len(matches) != 1:
        return False
    form.cleaned_data["code"] = matches[0].code.id
    return True


def _after(request: HttpRequest, call: Call, here: Stage, form: forms.SlipForm) -> str:
    """Where to go once a form is on the tape: stay, with the address's choices, but hand over after
    closing."""
    if form.kind == "outcome":
        return reverse("calls:stage", args=[call.pk, Stage.HANDOVER])
    address = reverse("calls:stage", args=[call.pk, here])
    if here in {Stage.TRACE, Stage.OPEN}:
        choices = request.GET.copy()
        choices.pop("faults", None)
        return f"{address}?{choices.urlencode()}" if choices else address
    return f"{address}?sensor={form.cleaned_data['sensor']}" if form.kind == "sensor_read" else address
