"""Changes to the wiring: proposed for a call, shown with everything a plan needs, put on the tape, undone."""

import json
import uuid
from collections.abc import Mapping
from dataclasses import dataclass
from datetime import timedelta
from typing import Any

from django import forms
from django.contrib import messages
from django.http import Http404, HttpRequest, HttpResponse
from django.shortcuts import redirect, render
from django.urls import reverse
from django.utils import timezone
from django.views.decorators.http import require_http_methods, require_POST, require_safe

from frostcore.circuit.element import CircuitError
from frostcore.circuit.kept import circuits_of
from frostcore.circuit.layout import lay_out_trace
from frostcore.circuit.picture import TracePicture
from frostcore.document import digest
from frostcore.errors import FrostError
from frostcore.remedy.plans.cases import suspected
from frostcore.remedy.plans.doing import Work, work_of
from frostcore.remedy.plans.proposed import MAKERS, Proposals, proposals
from frostcore.remedy.plans.proved import Proof
from frostcore.sentence import in_sentence
from frostcore.sheet.load import parsed
from frostcore.sheet.model import Sheet
from frostcore.sheet.plan import Plan, read_plan, write_plan
from frostcore.sheet.rewired import key_of as sheet_and_plan
from frostcore.tape.entries import Rewired
from frostcore.tape.stages import Stage
from frostcore.tape.standing import Standing
from frostline.accounts.access import signed_in
from frostline.calls import pages
from frostline.calls.actions.record_slip import NewSlip, record_slip
from frostline.calls.judging import judgement_for
from frostline.calls.models import Call
from frostline.calls.tapes import call_or_404, standing_of
from frostline.calls.unreadable import reads_sheet
from frostline.sheets.workbench import frame_of
from frostline.ui.codes import code_of
from frostline.ui.forms import FrostForm
from frostline.ui.forward import go
from frostline.ui.kept import Kept

STOP_GAP_DAYS = 14
"""A stop-gap is proposed for so long; the day can be said otherwise."""

LONGEST_PLAN = 60_000
_proofs: Kept[Proof] = Kept(24)
KEY = 16


class OwnPlanForm(FrostForm):
    """A plan of one's own, pasted."""

    plan = forms.CharField(
        label="The plan, as JSON",
        max_length=LONGEST_PLAN,
        widget=forms.Textarea(attrs={"rows": 6, "spellcheck": "false", "autocapitalize": "off"}),
    )


class DoneForm(FrostForm):
    """That a plan was carried out, and who agreed to it."""

    slip_id = forms.UUIDField(widget=forms.HiddenInput, initial=uuid.uuid4)
    plan = forms.CharField(max_length=LONGEST_PLAN, widget=forms.HiddenInput)
    agreed_by = forms.CharField(
        label="Who agreed to it",
        max_length=120,
        error_messages={"required": "Nobody has agreed to it yet. Show what is lost, and type who agreed."},
    )
    until = forms.DateField(label="To be undone by", required=False, widget=forms.DateInput({"type": "date"}))


class DutyForm(FrostForm):
    """How much of the time the compressor runs here."""

    duty = forms.FloatField(label="Of the time the compressor runs, in %", min_value=0, max_value=100)


@dataclass(frozen=True)
class Option:
    """A plan in a list: its key, what it is, what it loses, watts by rest and cooling more than before."""

    key: str
    plan: Plan
    lost: tuple[str, ...]
    refused: bool
    cooling: str
    resting: str


@dataclass(frozen=True)
class Drawn:
    """One path before and after, as pictures."""

    name: str
    before: TracePicture | None
    after: TracePicture | None
    frames: tuple[Any, Any]


def key_of(plan: Plan) -> str:
    """A plan's own address on a call: what it does, whatever the day it is undone by."""
    return digest(write_plan(plan) | {"stop_gap_until": ""})[:KEY]


def _until() -> str:
    return (timezone.localdate() + timedelta(days=STOP_GAP_DAYS)).isoformat()


def _proposed(standing: Standing, query: Mapping[str, str]) -> Proposals:
    """The plans for what the call suspects, and for a part that was asked for."""
    judgement = judgement_for(standing)
    parts = [query["part"]] if query.get("part") else []
    parts += suspected(judgement) if judgement else ()
    return proposals(standing.now.unchanged, parts, _until())


def _solved(sheet: Sheet, plan: Plan) -> Proof:
    """A plan looked at whole; FrostError for one that can't be solved: a part without what it is rated for, a
    loop of supplies."""
    key = sheet_and_plan(sheet, plan)
    found = _proofs.get(key)
    if found is None:
        found = Proof(sheet, plan)
        _ = found.refusals, found.warnings, found.runs, found.watts, work_of(found)
        _proofs.keep(key, found)
    return found


def _option(sheet: Sheet, plan: Plan) -> Option:
    proof = _solved(sheet, plan)
    (cooling, resting), (cooling_now, resting_now) = proof.watts
    return Option(
        key_of(plan),
        plan,
        tuple(in_sentence(each) for each in proof.lost),
        proof.refused,
        _more(cooling_now - cooling),
        _more(resting_now - resting),
    )


def _more(watts: float) -> str:
    """Watts more or less than before, in words."""
    whole = round(watts)
    return f"{abs(whole)} W {'more' if whole > 0 else 'less'}" if whole else "no more"


@require_http_methods(["GET", "HEAD", "POST"])
@reads_sheet
def plans(request: HttpRequest, pk: uuid.UUID) -> HttpResponse:
    """What is proposed for a call; a plan of one's own is taken up here."""
    call = call_or_404(pk)
    standing = standing_of(call)
    form = OwnPlanForm(request.POST or None)
    if request.method == "POST" and form.is_valid():
        try:
            own = read_plan(parsed(form.cleaned_data["plan"]))
            _solved(standing.now.unchanged, own)
        except FrostError as error:
            form.add_error("plan", str(error))
        else:
            return _shown(request, call, standing, own)
    sheet, found = standing.now.unchanged, _proposed(standing, request.GET)
    context = pages.frame(call, standing, None) | {
        "page_name": "Ways round it",
        "options": [_option(sheet, plan) for plan in found.plans],
        "impossible": found.impossible,
        "now_plan": standing.now.plan,
        "form": form,
        "parts": [part for part in sheet.components if part.kind in MAKERS],
        "undo_id": uuid.uuid4(),
    }
    return render(request, "calls/plans.html", context, status=422 if form.errors else 200)


@require_http_methods(["GET", "HEAD", "POST"])
@reads_sheet
def plan(request: HttpRequest, pk: uuid.UUID, key: str) -> HttpResponse:
    """One plan with everything it needs; that it was carried out is put on the tape here."""
    call = call_or_404(pk)
    standing = standing_of(call)
    if request.method == "POST":
        return _done(request, call, standing)
    in_force = standing.now.plan
    found = (*((in_force,) if in_force else ()), *_proposed(standing, request.GET).plans)
    chosen = next((each for each in found if key_of(each) == key), None)
    try:
        if chosen:
            _solved(standing.now.unchanged, chosen)
    except FrostError as error:
        messages.error(request, str(error))
        return redirect("calls:plans", call.pk)
    if chosen is None:
        messages.info(request, "That way is not among those that fit what is known now.")
        return redirect("calls:plans", call.pk)
    return _shown(request, call, standing, chosen)


def _done(request: HttpRequest, call: Call, standing: Standing) -> HttpResponse:
    """Put on the tape that a plan was carried out; refused ones never are."""
    form = DoneForm(request.POST)
    try:
        told = parsed(request.POST.get("plan", "")[:LONGEST_PLAN])
        if isinstance(told, dict) and told.get("stop_gap_until") and request.POST.get("until"):
            told["stop_gap_until"] = request.POST["until"]
        chosen = read_plan(told)
        proof = _solved(standing.now.unchanged, chosen)
    except FrostError as error:
        messages.error(request, str(error))
        return redirect("calls:plans", call.pk)
    if chosen.stop_gap_until and chosen.stop_gap_until <= timezone.localdate().isoformat():
        form.add_error("until", "That day is over. Say a day to come by which it is undone.")
    if not form.is_valid() or proof.refused:
        return _shown(request, call, standing, chosen, form)
    body = Rewired("rewired", "done", chosen, form.cleaned_data["agreed_by"].strip())
    try:
        record_slip(call, NewSlip(form.cleaned_data["slip_id"], body), signed_in(request))
    except FrostError as error:
        form.add_error(None, str(error))
        return _shown(request, call, standing, chosen, form)
    messages.success(request, "The call goes on with the changed wiring. Stick the label inside the unit.")
    return go(request, reverse("calls:plan", args=[call.pk, key_of(chosen)]))


@require_POST
@reads_sheet
def keep(request: HttpRequest, pk: uuid.UUID) -> HttpResponse:
    """A unit that an earlier call left with its wiring changed is wired so still: go on with it."""
    call = call_or_404(pk)
    number = request.POST.get("from", "")
    try:
        slip_id = uuid.UUID(request.POST.get("slip_id", ""))
        chosen = read_plan(parsed(request.POST.get("plan", "")[:LONGEST_PLAN]))
        if _solved(standing_of(call).now.unchanged, chosen).refused and not chosen.stop_gap_until:
            messages.error(request, "That wiring is refused on this unit’s sheet.")
            return redirect("calls:plans", call.pk)
        agreed = f"found so, changed on call {number}" if number.isdigit() else "found so"
        record_slip(call, NewSlip(slip_id, Rewired("rewired", "done", chosen, agreed)), signed_in(request))
    except FrostError as error:
        messages.error(request, str(error))
    except ValueError:
        raise Http404 from None
    return go(request, reverse("calls:now", args=[call.pk]))


@require_POST
@reads_sheet
def undo(request: HttpRequest, pk: uuid.UUID) -> HttpResponse:
    """Put the wiring back as it was built: one act."""
    call = call_or_404(pk)
    try:
        slip_id = uuid.UUID(request.POST.get("slip_id", ""))
    except ValueError:
        raise Http404 from None
    try:
        record_slip(call, NewSlip(slip_id, Rewired("rewired", "undone")), signed_in(request))
        messages.success(request, "The wiring is as it was built; the call is on its own sheet again.")
    except FrostError as error:
        messages.error(request, str(error))
    return go(request, reverse("calls:stage", args=[call.pk, Stage.CLOSE]))


def _shown(
    request: HttpRequest, call: Call, standing: Standing, chosen: Plan, form: DoneForm | None = None
) -> HttpResponse:
    """A plan's page."""
    sheet = standing.now.unchanged
    proof = _solved(sheet, chosen)
    duty = DutyForm(request.GET if "duty" in request.GET else None)
    yearly = ""
    if duty.is_bound and duty.is_valid():
        yearly = f"{proof.yearly(duty.cleaned_data['duty'] / 100):+.0f} kWh"
    written = json.dumps(write_plan(chosen), ensure_ascii=False)
    in_force = standing.now.plan is not None and standing.now.plan == chosen
    context = pages.frame(call, standing, None) | {
        "page_name": chosen.title,
        "plan": chosen,
        "key": key_of(chosen),
        "proof": proof,
        "table": _runs(proof),
        "work_sheet": work_of(proof),
        "drawn": _drawn(sheet, proof),
        "written": written,
        "done_form": form
        or DoneForm(initial={"plan": written, "until": chosen.stop_gap_until, "slip_id": uuid.uuid4()}),
        "duty": duty,
        "yearly": yearly,
        "in_force": in_force,
        "undo_id": uuid.uuid4(),
    }
    status = 422 if form is not None and (form.errors or proof.refused) else 200
    return render(request, "calls/plan.html", context, status=status)


@dataclass(frozen=True)
class RunTable:
    """What runs when: the states, and each part with a yes or no for each."""

    states: tuple[tuple[str, str], ...]
    rows: tuple[tuple[str, tuple[bool, ...]], ...]


def _runs(proof: Proof) -> RunTable:
    """States in which something else runs, each once, with its watts; parts by name."""
    seen: dict[tuple[str, ...], Any] = {}
    for ran in proof.runs:
        seen.setdefault(ran.parts, ran)
    states = list(seen.values())
    parts = [part for part in proof.sheet.components if any(part.id in ran.parts for ran in states)]
    return RunTable(
        tuple((ran.state, f"{ran.watts:.0f} W") for ran in states),
        tuple((part.name, tuple(part.id in ran.parts for ran in states)) for part in parts),
    )


def _drawn(sheet: Sheet, proof: Proof) -> Drawn | None:
    """The path of the first part that is fed otherwise, before and after."""
    for name in proof.plan.keeps:
        before, after = _path(sheet, name), _path(proof.sheet, name)
        if before is None or after is None:
            continue
        if [point.label for point in before.points] != [point.label for point in after.points]:
            pictures = lay_out_trace(sheet, before), lay_out_trace(proof.sheet, after)
            frames = (frame_of(pictures[0]), frame_of(pictures[1]))
            return Drawn(sheet.part_name(name), *pictures, frames)
    return None


def _path(sheet: Sheet, part: str) -> Any:
    circuits = circuits_of(sheet)
    function = next((item.id for item in circuits.functions if item.component == part), "")
    try:
        return circuits.trace(function, sheet.modes[0].id) if function else None
    except CircuitError:
        return None


@require_safe
@reads_sheet
def label(request: HttpRequest, pk: uuid.UUID) -> HttpResponse:
    """The label to stick inside, with a code that opens the call."""
    call = call_or_404(pk)
    standing = standing_of(call)
    if standing.now.plan is None:
        messages.info(request, "The wiring is as it was built: there is nothing to label.")
        return redirect("calls:plans", call.pk)
    try:
        work: Work = work_of(_solved(standing.now.unchanged, standing.now.plan))
    except FrostError as error:
        messages.error(request, str(error))
        return redirect("calls:plans", call.pk)
    slip = next(each for each in reversed(standing.effective) if isinstance(each.entry.body, Rewired))
    address = request.build_absolute_uri(reverse("calls:call", args=[call.pk]))
    context = {
        "call": call,
        "lines": work.label,
        "consent": work.consent,
        "code": code_of(address),
        "address": address,
        "slip": slip,
        "agreed_by": slip.entry.body.agreed_by,
    }
    return render(request, "calls/label.html", context)
