"""Pages of calls: parse, call an action or the core, render."""

import uuid
from typing import Any, cast

from django.contrib import messages
from django.http import Http404, HttpRequest, HttpResponse, JsonResponse
from django.shortcuts import redirect, render
from django.urls import reverse
from django.views.decorators.http import require_http_methods, require_POST, require_safe

from frostcore.errors import TapeError
from frostcore.tape.entries import CallTaken
from frostcore.tape.kinds import stage_of
from frostcore.tape.stages import Stage
from frostcore.tape.standing import Standing
from frostcore.tape.take import Asked
from frostline.accounts.access import lead_required, signed_in
from frostline.calls import decoding, forms, lists, pages, reports, sensing
from frostline.calls.actions.change_customer import correct_customer, erase_customer
from frostline.calls.actions.open_call import NewCall, open_call
from frostline.calls.actions.record_slip import NewSlip, Recorded, record_slip
from frostline.calls.deciding import asked_before
from frostline.calls.judging import untested
from frostline.calls.memory import remembered
from frostline.calls.models import Call
from frostline.calls.tapes import call_or_404, newest_slip, sensor_or_404, standing_of
from frostline.calls.unreadable import reads_sheet
from frostline.calls.working import typed_branch, working
from frostline.ui.forward import go


@require_safe
def calls(request: HttpRequest) -> HttpResponse:
    """Calls, newest first, a page at a time."""
    return render(request, "calls/calls.html", lists.page_of_calls(request.GET))


@require_http_methods(["GET", "HEAD", "POST"])
def new(request: HttpRequest) -> HttpResponse:
    """Take a new call."""
    form = forms.NewCallForm(request.POST or None)
    if request.method == "POST" and form.is_valid():
        data = form.cleaned_data
        revision = form.revisions[data["revision"]]
        told = cast(CallTaken, form.to_body())
        taken = NewCall(data["slip_id"], revision, form.who(), told, data["practice"])
        return go(request, reverse("calls:stage", args=[open_call(taken, signed_in(request)).pk, Stage.CALL]))
    return render(request, "calls/new.html", {"form": form}, status=422 if form.errors else 200)


@require_safe
@reads_sheet
def call_page(request: HttpRequest, pk: uuid.UUID) -> HttpResponse:
    """A call, at what is to be done now."""
    call = call_or_404(pk)
    return redirect("calls:now", call.pk)


@require_safe
def newest(request: HttpRequest, pk: uuid.UUID) -> JsonResponse:
    """A call's newest slip, by which a page learns that another has recorded something."""
    return JsonResponse({"newest": newest_slip(pk)})


@require_http_methods(["GET", "HEAD", "POST"])
@reads_sheet
def now(request: HttpRequest, pk: uuid.UUID) -> HttpResponse:
    """What to do now; what is posted there goes on the tape, and the next act stands there."""
    call = call_or_404(pk)
    standing = standing_of(call)
    form, extra = _posted(request, call, standing)
    if form and extra is None:
        return go(request, reverse("calls:now", args=[call.pk]))
    found = working(standing, request.GET, form)
    context = (
        pages.frame(call, standing, None, whole_tape="tape" in request.GET)
        | {"working": found, "here": "now", "untested": untested(standing)}
        | {"loose": pages.loose(standing, form, found.form)}
        | {"map": pages.map_of(call, standing, found.now.step)}
        | (extra or {})
    )
    return render(request, "calls/now.html", context, status=422 if request.method == "POST" else 200)


@require_safe
@reads_sheet
def branch(request: HttpRequest, pk: uuid.UUID) -> JsonResponse:
    """The branch that what is being typed would take."""
    return JsonResponse(typed_branch(standing_of(call_or_404(pk)), request.GET))


@require_http_methods(["GET", "HEAD", "POST"])
@reads_sheet
def stage(request: HttpRequest, pk: uuid.UUID, name: str) -> HttpResponse:
    """One stage of a call; what is posted there goes on the tape."""
    if name not in set(Stage):
        raise Http404
    call, here = call_or_404(pk), Stage(name)
    standing = standing_of(call)
    form, extra = _posted(request, call, standing)
    if form and extra is None:
        return go(request, _after(request, call, here, form))
    context = (
        pages.frame(call, standing, here, whole_tape="tape" in request.GET)
        | pages.stage_context(here, standing, request.GET, form)
        | {"loose": pages.loose(standing, form, None)}
        | (extra or {})
    )
    if here is Stage.HANDOVER:
        context["link"] = reports.link_of(request, call)
    if here is Stage.CALL:
        context["remembered"] = remembered(call, standing)
    context["step_elsewhere"] = pages.is_elsewhere(context["step"], here, context)
    return render(
        request, f"calls/stage_{here}.html", context, status=422 if request.method == "POST" else 200
    )


@require_http_methods(["GET", "HEAD", "POST"])
@reads_sheet
def correct(request: HttpRequest, pk: uuid.UUID, slip_id: uuid.UUID) -> HttpResponse:
    """Correct a slip, or take it back: a new slip that supersedes it."""
    call = call_or_404(pk)
    standing = standing_of(call)
    slip = standing.slip(str(slip_id))
    if slip is None or not (slip.standing or slip.superseded_by):
        raise Http404
    if request.method != "POST" and slip.superseded_by:
        messages.info(request, "That slip was corrected already. The tape shows what stands now.")
        return redirect("calls:stage", call.pk, stage_of(slip.entry.body))
    sheet, body, withdrawing = slip.moment.sheet, slip.entry.body, request.POST.get("kind") == "withdrawn"
    form_class = forms.FORMS.get(body.kind)
    posted_here = request.POST if request.method == "POST" and not withdrawing else None
    form = form_class(posted_here, initial=form_class.initial_of(body), sheet=sheet) if form_class else None
    withdraw_form = forms.WithdrawForm(request.POST if withdrawing else None, sheet=sheet)
    posted, extra = (withdraw_form if withdrawing else form), {}
    if request.method == "POST" and posted and posted.is_valid():
        asked = _take(request, call, posted, supersedes=slip_id)
        if asked is None:
            return go(request, reverse("calls:stage", args=[call.pk, stage_of(body)]))
        extra = asked
    context = (
        pages.frame(call, standing, None)
        | {"form": form, "withdraw_form": withdraw_form, "line": pages.slip_line(standing, slip)}
        | {"page_name": "Correct a slip"}
        | extra
    )
    return render(request, "calls/correct.html", context, status=422 if request.method == "POST" else 200)


@require_http_methods(["GET", "HEAD", "POST"])
def customer(request: HttpRequest, pk: uuid.UUID) -> HttpResponse:
    """Whose unit it is: corrected here, apart from the tape, for every call of theirs."""
    call = call_or_404(pk)
    form = (
        forms.CustomerForm(request.POST) if request.method == "POST" else forms.CustomerForm.of(call.customer)
    )
    if request.method == "POST" and not call.customer.erased and form.is_valid():
        if correct_customer(call.customer, form.who(), signed_in(request)):
            messages.success(request, "Corrected, on every call of theirs.")
        return redirect("calls:stage", call.pk, Stage.CALL)
    context = {
        "call": call,
        "form": form,
        "calls": call.customer.calls.count(),
        "changes": call.customer.changes.select_related("by"),
    }
    return render(request, "calls/customer.html", context, status=422 if form.errors else 200)


@lead_required
@require_POST
def erase(request: HttpRequest, pk: uuid.UUID) -> HttpResponse:
    """Erase whose unit it is, on request."""
    call = call_or_404(pk)
    erase_customer(call.customer, signed_in(request))
    messages.success(request, "Name, address and telephone are erased. The technical record stays.")
    return redirect("calls:customer", call.pk)


@require_safe
@reads_sheet
def candidates(request: HttpRequest, pk: uuid.UUID) -> HttpResponse:
    """The codes that may be what is being typed (a fragment)."""
    call = call_or_404(pk)
    found = decoding.candidates([standing_of(call).sheet], request.GET)
    return render(request, "calls/candidates.html", {"call": call, **found})


@require_safe
@reads_sheet
def settle(request: HttpRequest, pk: uuid.UUID, sensor: str) -> HttpResponse:
    """What an ice bath's readings settle on, as they are typed (a fragment)."""
    call = call_or_404(pk)
    chosen = sensor_or_404(standing_of(call).sheet, sensor)
    found = sensing.settling(request.GET.get("readings", ""), chosen.working_tolerance)
    return render(request, "calls/settled.html", {"call": call, "chosen": chosen, **found})


def _posted(
    request: HttpRequest, call: Call, standing: Standing
) -> tuple[forms.SlipForm | None, dict[str, Any] | None]:
    """The form that was sent, None where none was; and what the page shows of what must be asked first, None
    once it is on the tape."""
    if request.method != "POST":
        return None, {}
    form = _form_of(request, standing)
    return form, _take(request, call, form) if form.is_valid() else {}


def _form_of(request: HttpRequest, standing: Standing) -> forms.SlipForm:
    form_class = forms.FORMS.get(request.POST.get("kind", ""))
    if form_class is None:
        raise Http404
    return form_class(request.POST, sheet=standing.sheet)


def _take(
    request: HttpRequest, call: Call, form: forms.SlipForm, supersedes: uuid.UUID | None = None
) -> dict[str, Any] | None:
    """Record a valid form. Returns None when that is done, else what the page shows of what is asked."""
    data = form.cleaned_data
    new = NewSlip(data["slip_id"], form.to_body(), form.answers(), supersedes, data.get("made_at"))
    asked = asked_before(call, new.body, new.answers.kept) if supersedes is None else ()
    if asked:
        return pages.asked(Asked(asked), form)
    try:
        found = record_slip(call, new, signed_in(request))
    except TapeError as error:
        form.add_error(None, str(error))
        return {}
    if isinstance(found, Recorded):
        return None
    return pages.asked(found, form)


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
    sensor = form.cleaned_data.get("sensor")
    return f"{address}?sensor={sensor}" if sensor else address
