"""The courses of a call, compared by what the workshop reckons with."""

from collections.abc import Collection, Mapping
from dataclasses import replace
from typing import Any

from django import forms
from django.conf import settings
from django.contrib import messages
from django.http import HttpRequest, HttpResponse
from django.shortcuts import redirect, render
from django.utils import timezone
from django.views.decorators.http import require_http_methods

from frostcore.errors import FrostError
from frostcore.remedy.courses import Comparing
from frostcore.remedy.ending import questions_of_ending
from frostcore.remedy.plans.cases import around
from frostcore.remedy.rates import MOST, SHARES, Rates, read_rates
from frostcore.remedy.together import questions_of_fit
from frostcore.remedy.words import ComparedWords, words_of
from frostcore.tape.entries import Body, Outcome, PartFitted
from frostcore.tape.standing import Standing
from frostcore.tape.take import question_id
from frostcore.verdict import Question
from frostline.accounts.access import lead_required, signed_in
from frostline.calls.judging import judgement_for
from frostline.calls.memory import questions_of_memory
from frostline.calls.models import Call, WorkshopRates
from frostline.calls.stock import stock_now
from frostline.calls.tapes import standing_of
from frostline.ui.forms import FrostForm

FIELDS: tuple[tuple[str, str], ...] = (
    ("hour", "An hour’s work"),
    ("travel", "The way to the unit and back"),
    ("set_up_minutes", "Minutes to set up there"),
    ("wait_a_day", "A day the customer waits"),
    ("stop", "What a working unit of this age is worth"),
    ("restocking", "Share of a price lost when a part goes back (0 to 1)"),
    ("wrong_part", "A wrong part, beside its price"),
    ("proof_minutes", "Minutes of a proof"),
    ("harness_minutes", "Minutes to mend a wire or contact"),
    ("harness_price", "Material for it"),
    ("by_hand_minutes", "Minutes of what is put right by hand"),
    ("mend_minutes", "Minutes to mend a board"),
    ("mend_lasts", "How often a mended board lasts (0 to 1)"),
    ("exchange_share", "An exchanged board, of a new one’s price (0: not offered)"),
    ("exchange_good", "How often an exchanged board is good (0 to 1)"),
    ("used_share", "A used board, of a new one’s price (0: not offered)"),
    ("used_good", "How often a used board is good (0 to 1)"),
    ("joint_minutes", "Minutes a joint of a changed wiring takes"),
)


class RatesForm(FrostForm):
    """What a workshop reckons with."""

    def __init__(self, *arguments: Any, **options: Any) -> None:
        super().__init__(*arguments, **options)
        for name, label in FIELDS:
            most = 1 if name in SHARES else MOST
            self.fields[name] = forms.FloatField(label=label, min_value=0, max_value=most, localize=False)

    def rates(self) -> Rates:
        """The rates as typed."""
        return read_rates({name: self.cleaned_data[name] for name, _ in FIELDS})


def rates_now() -> Rates:
    """What the workshop reckons with now; as is usual until somebody has said."""
    last = WorkshopRates.objects.order_by("-pk").first()
    if last is None:
        return Rates()
    try:
        return read_rates(last.rates)
    except FrostError:  # kept by another version
        return Rates()


def courses_of(standing: Standing, query: Mapping[str, str]) -> ComparedWords | None:
    """The courses of a call, by what was said for it; None where nothing can be judged, or not yet."""
    comparing = comparing_of(standing, query)
    return words_of(comparing, comparing.compared(), settings.CURRENCY) if comparing else None


def comparing_of(standing: Standing, query: Mapping[str, str]) -> Comparing | None:
    """What compares the courses of an open call; None where nothing can be judged, or not yet."""
    judgement = judgement_for(standing)
    if judgement is None or standing.outcome:
        return None
    return Comparing(judgement, rates_here(query), plans=around(judgement), stock=stock_now())


class WhatIfForm(FrostForm):
    """What this customer and this day make other: nothing of it is kept."""

    stop = forms.FloatField(label="A working unit of this age", required=False, min_value=0, max_value=MOST)
    hour = forms.FloatField(label="An hour’s work", required=False, min_value=0, max_value=MOST)
    travel = forms.FloatField(label="The way there", required=False, min_value=0, max_value=MOST)
    wait_a_day = forms.FloatField(label="A day’s waiting", required=False, min_value=0, max_value=MOST)


def what_if(query: Mapping[str, str]) -> WhatIfForm:
    """The form as it was asked, else with what the workshop reckons with."""
    asked = any(query.get(name) for name in WhatIfForm.base_fields)
    now = rates_now()
    return WhatIfForm(
        query if asked else None, initial={name: getattr(now, name) for name in WhatIfForm.base_fields}
    )


def rates_here(query: Mapping[str, str]) -> Rates:
    """The workshop's rates with what was said for this call; as they are where that is none."""
    form = what_if(query)
    if not form.is_bound or not form.is_valid():
        return rates_now()
    said = {name: value for name, value in form.cleaned_data.items() if value is not None}
    return replace(rates_now(), **said)


def asked_before(call: Call, body: Body, kept: Collection[str]) -> tuple[Question, ...]:
    """What the judgement has to ask before an entry is on the tape, but for what was answered."""
    match body:
        case PartFitted():
            questions = questions_of_fit(standing := standing_of(call), body, judgement_for(standing))
            questions += questions_of_memory(call, standing, body)
        case Outcome():
            questions = questions_of_ending(standing := standing_of(call), body, judgement_for(standing))
        case _:
            return ()
    return tuple(each for each in questions if question_id(each) not in kept)


@lead_required
@require_http_methods(["GET", "HEAD", "POST"])
def rates(request: HttpRequest) -> HttpResponse:
    """What the workshop reckons with: shown, and said anew."""
    now = rates_now()
    form = RatesForm(request.POST or None, initial={name: getattr(now, name) for name, _ in FIELDS})
    if request.method == "POST" and form.is_valid():
        told = {name: form.cleaned_data[name] for name, _ in FIELDS}
        WorkshopRates(rates=told, at=timezone.now(), by=signed_in(request)).save()
        messages.success(request, "From now on courses are compared by these.")
        return redirect("calls:rates")
    context = {"form": form, "last": WorkshopRates.objects.select_related("by").order_by("-pk").first()}
    return render(request, "calls/rates.html", context, status=422 if form.errors else 200)
