"""What a call's page shows, assembled from the core's answers.

No rules of the job here.
"""

import json
from collections.abc import Mapping, Sequence
from dataclasses import dataclass, replace
from datetime import timedelta
from typing import Any

from django.http import QueryDict
from django.urls import reverse
from django.utils.http import urlencode

from frostcore import cautions
from frostcore.diagnosis.state import place_of_look
from frostcore.diagnosis.step import NextStep, stage_done
from frostcore.diagnosis.telling import Bearing
from frostcore.report.due import due_of
from frostcore.sheet.points import leads
from frostcore.tape.entries import (
    Attached,
    CallTaken,
    Complained,
    Entry,
    Outcome,
    Power,
    Unreadable,
    body_to_document,
)
from frostcore.tape.kinds import stage_of, words_of
from frostcore.tape.looks import LOOKS
from frostcore.tape.looks import look as look_named
from frostcore.tape.noticed import complaints_of
from frostcore.tape.stages import Stage
from frostcore.tape.standing import (
    Slip,
    Standing,
    plate_differences,
    thermometer_places,
)
from frostcore.tape.take import Asked, question_id
from frostcore.tape.words import SlipWords
from frostcore.verdict import Judged
from frostline.calls import forms
from frostline.calls.deciding import courses_of, what_if
from frostline.calls.decoding import candidates, code_card, pads
from frostline.calls.judging import bearings_on, judged, looks_on, step_of, untested
from frostline.calls.learning import code_to_learn
from frostline.calls.models import Call
from frostline.calls.probe_forms import BARRED_WHY
from frostline.calls.sensing import probe_context
from frostline.calls.slip_form import answered
from frostline.calls.tracing import path_drawn, trace_context
from frostline.calls.wayin import closing_context, way_context
from frostline.ui.pictures import JPEG


@dataclass(frozen=True)
class SlipLine:
    """A slip of the tape as the template shows it."""

    slip: Slip
    words: SlipWords
    verdict: Judged | None
    can_withdraw: bool
    late: bool = False
    bearing: Bearing | None = None
    of: str = ""
    """What the entry is of that a photograph shows."""

    photos: tuple[Attached, ...] = ()
    """Photographs of this entry."""

    @property
    def setup(self) -> str:
        """The plug's word when the slip was made, where the slip does not say it itself."""
        if self.slip.entry.body.kind in {"power_set", "call_taken"}:
            return ""
        return {Power.LIVE: "LIVE", Power.UNPLUGGED: "UNPLUGGED"}.get(self.slip.power, "")

    @property
    def classes(self) -> str:
        """How the slip is drawn: struck through, or marked as what a healthy unit does not show."""
        told = {"slip-gone": not self.slip.standing, "slip-odd": self.words.odd}
        return " ".join(name for name, holds in told.items() if holds)

    @property
    def typed(self) -> str:
        """What was typed, where it is not what is shown."""
        return self.words.typed if self.words.typed != self.words.figure else ""


LATE = timedelta(minutes=2)
"""An entry recorded so much later than it was made says so."""


SLIPS_SHOWN = 40
"""A tape shows its newest slips; the rest are one link away."""


def frame(call: Call, standing: Standing, here: Stage | None, *, whole_tape: bool = False) -> dict[str, Any]:
    """What every page of a call has: the stages, the next step, the power state with its cautions, the
    tape."""
    step, bears = step_of(standing), bearings_on(standing)
    return {
        "call": call,
        "standing": standing,
        "sheet": standing.sheet,
        "stages": [
            {
                "stage": stage,
                "done": stage_done(standing, stage),
                "here": stage is here,
                "next": stage is step.stage,
                "classes": _stage_classes(standing, stage, here, step.stage),
            }
            for stage in Stage
        ],
        "here": here,
        "step": step,
        "step_address": _address_of(call, step),
        "barred_form": forms.BarredForm(initial={"act": step.asks, "name": step.act}, sheet=standing.sheet),
        "barred_why": BARRED_WHY,
        "judged": judged(standing),
        "power_forms": [
            forms.PowerForm(initial={"state": state}, sheet=standing.sheet) for state in ("unplugged", "live")
        ],
        "cautions": cautions.for_power(standing.power, flammable=bool(standing.flammable)),
        "precedence": cautions.PRECEDENCE,
        "power_as": [
            (state, cautions.for_power(state, flammable=bool(standing.flammable)))
            for state in (Power.UNPLUGGED, Power.LIVE)
        ],
        "page_name": here.label if here else step.act,
        "tape": tape_lines(standing, None if whole_tape else SLIPS_SHOWN, bears),
        "bearings": _of_stage(standing, here, bears),
        "slips_hidden": 0 if whole_tape else max(0, len(standing.slips) - SLIPS_SHOWN),
    }


def map_of(call: Call, standing: Standing, step: NextStep) -> dict[str, Any] | None:
    """The path of a reading to be taken, with where the leads go and where the fault may lie; None for any
    other act."""
    if not step.red or not step.trace:
        return None
    address = _address_of(call, replace(step, stage=Stage.TRACE))
    found = path_drawn(standing, QueryDict(address.partition("?")[2]))
    base = reverse("calls:stage", args=[call.pk, Stage.TRACE])
    return {"choice": found[0], "drawn": found[1], "base": base, "address": address} if found else None


def _stage_classes(standing: Standing, stage: Stage, here: Stage | None, due: Stage) -> str:
    """How a stage's bead is drawn: done, here, next."""
    told = {"done": stage_done(standing, stage), "here": stage is here, "next": stage is due}
    return " ".join(name for name, holds in told.items() if holds)


def is_elsewhere(step: NextStep, here: Stage, context: Mapping[str, Any]) -> bool:
    """Whether the next step is taken on another page than this: another stage or sensor, another function or
    points, or the same in another setup."""
    sensor, trace = context.get("chosen"), context.get("trace")
    if step.stage is not here or (step.sensor and sensor and step.sensor.id != sensor.id):
        return True
    if trace is None:
        return False
    choice = trace.choice
    if step.trace and step.trace != choice.function.id:
        return True
    points = {choice.red, choice.black} != {step.red, step.black}
    setup = (choice.meter.value, choice.mode.id, set(choice.pulled)) != (
        step.meter,
        step.mode,
        set(step.pulled),
    )
    return bool(step.red) and (points or bool(step.asks and setup))


ALL_IN = "none"


def _address_of(call: Call, step: NextStep) -> str:
    """Where the next step is taken."""
    address = reverse("calls:stage", args=[call.pk, step.stage])
    if step.sensor and step.stage is Stage.PROBE:
        return f"{address}?{urlencode({'sensor': step.sensor.id})}"
    asked = {
        "function": step.trace,
        "red": step.red,
        "black": step.black,
        "meter": step.meter,
        "mode": step.mode,
    }
    if step.asks and step.red:  # as the plugs stand for it, which the reading then says too
        asked["pulled"] = " ".join(step.pulled) or ALL_IN
    query = urlencode({name: value for name, value in asked.items() if value})
    return f"{address}?{query}" if query else address


def _of_stage(standing: Standing, here: Stage | None, bears: Mapping[str, Bearing]) -> list[SlipLine]:
    """What was recorded at a stage and moved the suspects most, the most first."""
    mine = [
        slip
        for slip in standing.slips
        if slip.standing
        and here is not None
        and stage_of(slip.entry.body) is here
        and slip.entry.id in bears
        and bears[slip.entry.id].moves
    ]
    mine.sort(key=lambda slip: -abs(bears[slip.entry.id].bits))
    return [slip_line(standing, slip, bears.get(slip.entry.id)) for slip in mine[:MOST_BEARINGS]]


MOST_BEARINGS = 3


def tape_lines(
    standing: Standing, most: int | None = None, bears: Mapping[str, Bearing] | None = None
) -> list[SlipLine]:
    """The tape's slips, newest first."""
    newest = standing.slips if most is None else standing.slips[-most:]
    return [slip_line(standing, slip, (bears or {}).get(slip.entry.id)) for slip in reversed(newest)]


def slip_line(standing: Standing, slip: Slip, bearing: Bearing | None = None) -> SlipLine:
    """One slip as the template shows it."""
    can_withdraw = slip.standing and not isinstance(slip.entry.body, CallTaken)
    recorded = slip.entry.recorded
    late = recorded is not None and recorded - slip.entry.at > LATE
    line = SlipLine(slip, words_of(standing, slip), standing.judged(slip), can_withdraw, late, bearing)
    return replace(line, of=_shown(standing, slip), photos=_photos(standing, slip))


def _shown(standing: Standing, slip: Slip) -> str:
    """The entry that a photograph shows, in a few words."""
    of = standing.slip(slip.entry.body.of) if isinstance(slip.entry.body, Attached) else None
    return in_short(standing, of) if of else ""


def in_short(standing: Standing, slip: Slip) -> str:
    """An entry in a few words."""
    words = words_of(standing, slip)
    return " ".join(each for each in (words.title, words.figure) if each)


def _photos(standing: Standing, slip: Slip) -> tuple[Attached, ...]:
    """The pictures that show an entry, where it still stands."""
    files = standing.photographs_of(slip) if slip.standing else ()
    return tuple(body for body in files if body.media_type == JPEG)


def plain_tape(tape: Sequence[Entry]) -> list[dict[str, Any]]:
    """A tape without its sheet, newest first: each entry's kind, who and when, and its text as stored."""
    return [
        {
            "entry": entry,
            "text": entry.body.text
            if isinstance(entry.body, Unreadable)
            else json.dumps(body_to_document(entry.body), ensure_ascii=False, indent=1),
        }
        for entry in reversed(tape)
    ]


def asked(found: Asked, form: forms.SlipForm) -> dict[str, Any]:
    """What a page shows of what must be asked before an entry is kept."""
    if found.which_code:
        return {"asked": True, **candidates([form.sheet], form.data)}
    return {
        "questions": [
            {
                "question": question,
                "id": question_id(question),
                "field": "set_power" if question.field == "power" else question.field,
            }
            for question in found.questions
        ],
        "answered": " ".join(answered(form.data)),
        "power_answered": form.cleaned_data.get("set_power"),
    }


def stage_context(
    stage: Stage, standing: Standing, query: QueryDict, posted: forms.SlipForm | None
) -> dict[str, Any]:
    """What one stage shows; a ``posted`` form with errors takes the place of its fresh one."""

    def form(kind: str, **initial: Any) -> forms.SlipForm:
        return (
            posted
            if posted is not None and posted.kind == kind
            else forms.FORMS[kind](initial=initial, sheet=standing.sheet)
        )

    match stage:
        case Stage.CALL:
            plate = form("plate_read", **forms.PlateForm.initial_of_sheet(standing.sheet))
            return {"plate_form": plate, "plate_differences": plate_differences(standing)}
        case Stage.LOOK:
            return _look_context(standing, query, posted, form)
        case Stage.DECODE:
            code_form = form("code_seen")
            data = code_form.data if code_form.is_bound else {}
            decoded = [code_card(standing, code) for code in standing.known_codes]
            return {
                "code_form": code_form,
                "pads": pads(standing.sheet.display.digits, data.get("frames", "")),
                "decoded": decoded,
                "code_learn": code_to_learn(standing, posted),
                **candidates([standing.sheet], data),
            }
        case Stage.PROBE:
            return probe_context(standing, query, form, posted)
        case Stage.OPEN:
            return way_context(standing, query, posted)
        case Stage.TRACE:
            return trace_context(standing, query, posted)
        case Stage.CLOSE:
            return closing_context(standing) | {
                "untested": untested(standing),
                "courses": courses_of(standing, query),
                "what_if": what_if(query),
                "part_form": form("part_fitted"),
                "tried_form": form("part_tried"),
                "mended_form": form("mended"),
                "programmed_form": form("programmed"),
                "awaited_form": form("awaited"),
                "note_form": form("noted"),
                "outcome_form": form("outcome", cause=_likely_cause(standing)),
                "bypass": cautions.BYPASS,
            }
    return {
        "dues": due_of(standing),
        "outcome_slip": next(
            (slip for slip in reversed(standing.effective) if isinstance(slip.entry.body, Outcome)), None
        ),
    }


ONE_BUTTON = {
    "power_set",
    "observed",
    "complained",
    "barred",
    "mode_set",
    "plug_moved",
    "step_done",
    "tried",
    "bridged",
}


@dataclass(frozen=True)
class Loose:
    """What was sent and not taken, where the page has no place of its own for it: its errors, and its fields
    to be sent again with an answer."""

    errors: tuple[str, ...]
    fields: tuple[tuple[str, str], ...]
    typed: str


NOT_AGAIN = {"csrfmiddlewaretoken", "kept", "keep", "set_power"}
"""Fields that answers carry anew."""


def loose(standing: Standing, posted: forms.SlipForm | None, shown: forms.SlipForm | None) -> Loose | None:
    """A posted form that the page has no place for: a one-button form, one whose act is no longer the one
    to do, any form on a closed call. ``shown`` is the form the page shows by itself, None where it may show
    several."""
    if posted is None:
        return None
    placed = posted is shown if shown is not None else posted.kind not in ONE_BUTTON
    if placed and not standing.outcome:
        return None
    errors = tuple(str(message) for messages in posted.errors.values() for message in messages)
    fields = tuple(
        (name, value)
        for name in posted.data
        if name not in NOT_AGAIN
        for value in (posted.data.getlist(name) if hasattr(posted.data, "getlist") else [posted.data[name]])
    )
    told = dict(fields)
    both = told.get("red") and told.get("black")
    points = leads(standing.sheet, told["red"], told["black"]) if both else ""
    return Loose(errors, fields, ": ".join(word for word in (points, told.get("value", "")) if word))


def _look_context(
    standing: Standing, query: QueryDict, posted: forms.SlipForm | None, form: Any
) -> dict[str, Any]:
    looks = [
        {
            "look": look_named(name),
            "seen": standing.observations.get(name),
            "form": forms.ObservedForm(initial={"look": name}, sheet=standing.sheet),
        }
        for name in looks_on(standing)
    ]
    places = []
    for identifier, name in thermometer_places(standing.sheet).items():
        bound = (
            posted
            if posted is not None
            and posted.kind == "temperature_taken"
            and posted.data.get("place") == identifier
            else None
        )
        fresh = bound or forms.TemperatureForm(initial={"place": identifier}, sheet=standing.sheet)
        fresh.fields["temperature"].widget.attrs["id"] = f"temperature-{identifier}"
        places.append(
            {"id": identifier, "name": name, "taken": standing.temperatures.get(identifier), "form": fresh}
        )
    opened = {look.id for look in LOOKS if place_of_look(standing.sheet, look.id)}
    return {
        "looks": [item for item in looks if item["look"].id not in opened],
        "looks_inside": [item for item in looks if item["look"].id in opened],
        "complaints": complaints_of(standing.sheet),
        "complained": {body.complaint for body in standing.all_of(Complained)},
        "complaint_form": form("complained"),
        "felt_form": form("felt"),
        "amps_form": form("amps_taken", mode=query.get("mode") or standing.mode),
        "temperature_places": places,
        "note_form": form("noted"),
        "mains_form": form("mains_taken"),
        "watts_form": form("watts_taken", mode=query.get("mode") or standing.mode),
    }


def _likely_cause(standing: Standing) -> str:
    """The component the judgement has named, to save a tap."""
    step: NextStep = step_of(standing)
    return step.component if step.stage is Stage.CLOSE else ""
