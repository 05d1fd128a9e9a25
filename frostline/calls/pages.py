"""What a call's page shows, assembled from the core's answers.

No rules of the job here.
"""

import json
from collections.abc import Mapping, Sequence
from dataclasses import dataclass
from datetime import timedelta
from functools import lru_cache
from typing import Any

from django.http import QueryDict
from django.urls import reverse
from django.utils.http import urlencode

from frostcore import cautions
from frostcore.curves.kinds import guide_points
from frostcore.curves.known import KnownCurve, curves_of, generic_families
from frostcore.curves.picture import CurvePicture, draw
from frostcore.curves.settle import settle_text
from frostcore.curves.verdict import SensorVerdict
from frostcore.diagnosis.guide import NextStep, function_to_trace, next_step, stage_done
from frostcore.display.condition import describe, rule_parts, sensors_in
from frostcore.display.decode import same_text_elsewhere, shown_text
from frostcore.display.frames import read_frames
from frostcore.display.pad import Pad, lay_out_pad
from frostcore.display.rhythm import REPEAT_PAUSE
from frostcore.display.seen import match_seen
from frostcore.errors import FrostError
from frostcore.sheet.model import Code, Sensor, Sheet
from frostcore.tape.entries import (
    CallTaken,
    Entry,
    Outcome,
    Power,
    ReadingTaken,
    Unreadable,
    body_to_document,
)
from frostcore.tape.kinds import words_of
from frostcore.tape.looks import LOOKS
from frostcore.tape.reading import divider_of, limits_of, sensor_of
from frostcore.tape.stages import Stage
from frostcore.tape.standing import (
    MOST_POINTS,
    Slip,
    Standing,
    plate_differences,
    suspect_sensors,
    thermometer_places,
)
from frostcore.tape.take import Asked, question_id
from frostcore.tape.words import SlipWords
from frostcore.verdict import Judged
from frostline.calls import forms
from frostline.calls.models import Call
from frostline.calls.slip_form import answered
from frostline.calls.tracing import trace_context
from frostline.calls.wayin import closing_context, way_context
from frostline.sheets.models import Revision, current_revisions, current_sheets

MOST_CANDIDATES = 6


@dataclass(frozen=True)
class SlipLine:
    """A slip of the tape as the template shows it."""

    slip: Slip
    words: SlipWords
    verdict: Judged | None
    can_withdraw: bool
    late: bool = False

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

MARKS_SHOWN = 6
"""Verdict marks beside a sensor's name: those of its newest readings."""

SLIPS_SHOWN = 40
"""A tape shows its newest slips; the rest are one link away."""


def frame(call: Call, standing: Standing, here: Stage | None, *, whole_tape: bool = False) -> dict[str, Any]:
    """What every page of a call has: the stages, the next step, the power state with its cautions, the
    tape."""
    step = next_step(standing)
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
        "power_forms": [
            forms.PowerForm(initial={"state": state}, sheet=standing.sheet) for state in ("unplugged", "live")
        ],
        "cautions": cautions.for_power(standing.power, flammable=bool(standing.flammable)),
        "precedence": cautions.PRECEDENCE,
        "tape": tape_lines(standing, None if whole_tape else SLIPS_SHOWN),
        "slips_hidden": 0 if whole_tape else max(0, len(standing.slips) - SLIPS_SHOWN),
    }


def _stage_classes(standing: Standing, stage: Stage, here: Stage | None, due: Stage) -> str:
    """How a stage's bead is drawn: done, here, next."""
    told = {"done": stage_done(standing, stage), "here": stage is here, "next": stage is due}
    return " ".join(name for name, holds in told.items() if holds)


def is_elsewhere(step: NextStep, here: Stage, context: Mapping[str, Any]) -> bool:
    """Whether the next step is taken on another page than this: another stage, sensor or function."""
    sensor, function = context.get("chosen"), context.get("function")
    return (
        step.stage is not here
        or bool(step.sensor and sensor and step.sensor.id != sensor.id)
        or bool(step.trace and function and step.trace != function.id)
    )


def _address_of(call: Call, step: NextStep) -> str:
    """Where the next step is taken."""
    address = reverse("calls:stage", args=[call.pk, step.stage])
    if step.sensor and step.stage is Stage.PROBE:
        return f"{address}?{urlencode({'sensor': step.sensor.id})}"
    return f"{address}?{urlencode({'function': step.trace})}" if step.trace else address


def tape_lines(standing: Standing, most: int | None = None) -> list[SlipLine]:
    """The tape's slips, newest first."""
    newest = standing.slips if most is None else standing.slips[-most:]
    return [slip_line(standing, slip) for slip in reversed(newest)]


def slip_line(standing: Standing, slip: Slip) -> SlipLine:
    """One slip as the template shows it."""
    can_withdraw = slip.standing and not isinstance(slip.entry.body, CallTaken)
    recorded = slip.entry.recorded
    late = recorded is not None and recorded - slip.entry.at > LATE
    return SlipLine(slip, words_of(standing, slip), standing.judged(slip), can_withdraw, late)


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
        "questions": [{"question": question, "id": question_id(question)} for question in found.questions],
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
            return _look_context(standing, posted, form)
        case Stage.DECODE:
            code_form = form("code_seen")
            data = code_form.data if code_form.is_bound else {}
            decoded = [code_card(standing, code) for code in standing.known_codes]
            return {
                "code_form": code_form,
                "pads": pads(standing.sheet.display.digits, data.get("frames", "")),
                "decoded": decoded,
                **candidates([standing.sheet], data),
            }
        case Stage.PROBE:
            return _probe_context(standing, query, form, posted)
        case Stage.OPEN:
            return way_context(standing, query, posted)
        case Stage.TRACE:
            return trace_context(standing, query, posted)
        case Stage.CLOSE:
            return closing_context(standing) | {
                "part_form": form("part_fitted"),
                "note_form": form("noted"),
                "outcome_form": form("outcome", cause=_likely_cause(standing)),
                "bypass": cautions.BYPASS,
            }
    return {
        "outcome_slip": next(
            (slip for slip in reversed(standing.effective) if isinstance(slip.entry.body, Outcome)), None
        )
    }


def loose_errors(standing: Standing, posted: forms.SlipForm | None) -> list[str]:
    """Errors of a posted form that the page has no place for: a one-button form, or any form on a closed
    call."""
    if posted is None or not (
        standing.outcome or posted.kind in {"power_set", "observed", "mode_set", "plug_moved", "step_done"}
    ):
        return []
    return [str(message) for messages in posted.errors.values() for message in messages]


def _look_context(standing: Standing, posted: forms.SlipForm | None, form: Any) -> dict[str, Any]:
    looks = [
        {
            "look": look,
            "seen": standing.observations.get(look.id),
            "form": forms.ObservedForm(initial={"look": look.id}, sheet=standing.sheet),
        }
        for look in LOOKS
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
    return {"looks": looks, "temperature_places": places, "note_form": form("noted")}


def candidates(sheets: Sequence[Sheet], data: Mapping[str, str]) -> dict[str, Any]:
    """Codes that may be what was seen, with their conditions, the rhythm replayed, and where else the
    same text stands."""
    shown, frames, taps = (data.get(name, "").strip() for name in ("shown", "frames", "taps"))
    if not (shown or frames or taps):
        return {"seen": "", "candidates": [], "elsewhere": []}
    try:
        seen = match_seen(sheets, shown, frames, taps)
        others = current_sheets() if len(sheets) == 1 and seen.shown.strip(" /") else []
        elsewhere = same_text_elsewhere(others, sheets[0], seen.shown) if others else ()
    except FrostError as error:
        return {"seen": "", "candidates": [], "elsewhere": [], "seen_problem": str(error)}
    rows = [
        {
            "match": match,
            "shown": shown_text(match.code.shown),
            "condition": describe(match.sheet, match.code.condition),
        }
        for match in seen.matches[:MOST_CANDIDATES]
    ]
    replay = ";".join(f"{on},{off}" for on, off in seen.rhythm.replay()) if seen.rhythm else ""
    return {
        "seen": seen.shown,
        "rhythm": seen.rhythm,
        "replay": replay,
        "replay_pause": REPEAT_PAUSE,
        "candidates": rows,
        "elsewhere": elsewhere,
    }


def pads(digits: int, frames: str = "") -> list[Pad]:
    """The pad's frames as tapped so far, at least one; none for a unit without digits."""
    if not digits:
        return []
    try:
        read = read_frames(frames) if frames else ((),)
    except FrostError:
        read = ((),)
    return [lay_out_pad(frame, digits) for frame in read]


def code_card(standing: Standing, code: Code) -> dict[str, Any]:
    """A code with its rule, each component that can cause it (why, price, what was measured), what can't,
    and how stored codes are listed."""
    sheet = standing.sheet
    by_component = {sensor.component: sensor for sensor in sheet.sensors}
    implicated = {cause.component for cause in code.implicates}
    watched = sensors_in(sheet, code.condition)
    return {
        "code": code,
        "shown": shown_text(code.shown),
        "condition": describe(sheet, code.condition),
        "join": code.condition.join,
        "tests": [rule_parts(sheet, test) for test in code.condition.tests],
        "causes": [
            {
                "component": sheet.component(cause.component),
                "why": cause.why,
                "sensor": (sensor := by_component.get(cause.component)),
                "trace": function_to_trace(sheet, cause.component),
                "verdicts": [verdict for _, verdict in standing.readings_of(sensor, MARKS_SHOWN)]
                if sensor
                else [],
            }
            for cause in code.implicates
        ],
        "others": [
            sheet.sensor_name(sensor).lower()
            for sensor in sheet.sensors
            if sensor not in watched and sensor.component not in implicated
        ],
        "listing": next((mode for mode in sheet.modes if mode.lists_codes), None),
        "live_caution": cautions.LIVE,
    }


def _marks(standing: Standing, sensor: Sensor) -> list[SensorVerdict]:
    """The verdicts on a sensor's newest readings."""
    return [verdict for _, verdict in standing.readings_of(sensor, MARKS_SHOWN)]


def _probe_context(
    standing: Standing, query: QueryDict, form: Any, posted: forms.SlipForm | None
) -> dict[str, Any]:
    sheet, step = standing.sheet, next_step(standing)
    ranked = suspect_sensors(standing)
    wanted = (posted.data.get("sensor") if posted is not None else "") or query.get("sensor", "")
    chosen = (
        next((sensor for sensor, _ in ranked if sensor.id == wanted), None)
        or step.sensor
        or (ranked[0][0] if ranked else None)
    )
    if chosen is None:
        return {"sensors": [], "chosen": None}
    readings = standing.readings_of(chosen, MOST_POINTS)
    red, black = (*chosen.pins, "", "")[:2]
    return {
        "sensors": [
            {
                "sensor": sensor,
                "name": sheet.sensor_name(sensor),
                "why": why,
                "verdicts": _marks(standing, sensor),
            }
            for sensor, why in ranked
        ],
        "chosen": chosen,
        "chosen_name": sheet.sensor_name(chosen),
        "chosen_why": next(why for sensor, why in ranked if sensor is chosen),
        "pins": [sheet.pin(point) for point in chosen.pins],
        "sensor_form": _sensor_form(posted, form, query, sensor=chosen.id, red=red, black=black),
        "volts_form": _volts_form(standing, posted, sensor=chosen.id, red=red, black=black),
        "live_caution": cautions.LIVE,
        "divider": divider_of(sheet, chosen.id),
        "kinds": standing.error_kinds(chosen, known_curves()),
        "guide": _guide(sheet, chosen, [verdict for _, verdict in readings]),
        "belief": standing.belief(chosen, readings[-1][1]) if readings else None,
        **settling(query.get("readings", ""), chosen.working_tolerance),
        "picture": sensor_picture(standing, chosen),
        "latest": readings[-1][1] if readings else None,
        "readings": readings,
    }


def _guide(sheet: Sheet, sensor: Sensor, verdicts: list[SensorVerdict]) -> list[dict[str, Any]]:
    """The points that tell, each with what a good sensor reads there: ohms unplugged, volts at the
    board."""
    curve, divider = sheet.curve(sensor), divider_of(sheet, sensor.id)
    rows = []
    for celsius, where, verdict in guide_points(verdicts):
        ohms = float(curve.ohms(celsius))
        rows.append(
            {
                "celsius": celsius,
                "where": where,
                "verdict": verdict,
                "ohms": ohms,
                "volts": divider.volts(ohms) if divider else None,
            }
        )
    return rows


def _is_live(posted: forms.SlipForm | None) -> bool:
    """Whether the posted form is the live one, with volts instead of ohms."""
    return posted is not None and posted.kind == "reading" and posted.data.get("meter") == "vdc"


def _sensor_form(
    posted: forms.SlipForm | None, form: Any, query: QueryDict, **initial: Any
) -> forms.SlipForm:
    """The unplugged reading's form; values in the address (from a settled bath) fill it in."""
    if posted is not None and _is_live(posted):
        return forms.FORMS["reading"](initial=initial | {"meter": "ohm"}, sheet=posted.sheet)
    settled = {name: query[name] for name in ("value", "temperature") if name in query}
    return form("reading", meter="ohm", **initial, **settled)


def _volts_form(standing: Standing, posted: forms.SlipForm | None, **initial: Any) -> forms.SlipForm:
    """The live reading's form; its fields have ids of their own."""
    fresh = forms.FORMS["reading"](initial=initial | {"meter": "vdc"}, sheet=standing.sheet)
    shown = posted if posted is not None and _is_live(posted) else fresh
    shown.fields["value"].label = "DC volts at the pin"
    for name in ("value", "temperature", "slip_id"):
        shown.fields[name].widget.attrs["id"] = f"live-{name}"
    return shown


def known_curves() -> tuple[KnownCurve, ...]:
    """Every curve known here: the sheets', and the generic families."""
    revisions = [revision for revision in current_revisions() if not revision.unreadable]
    return _known_curves(tuple(revision.digest for revision in revisions), _Contents(revisions))


class _Contents:
    """Sheets that go with a key that names them, so that they take no part in comparing keys."""

    def __init__(self, revisions: Sequence[Revision]) -> None:
        self.sheets = [revision.content for revision in revisions]

    def __eq__(self, other: object) -> bool:
        return isinstance(other, _Contents)

    def __hash__(self) -> int:
        return 0


@lru_cache(maxsize=2)
def _known_curves(digests: tuple[str, ...], contents: _Contents) -> tuple[KnownCurve, ...]:
    return (*curves_of(contents.sheets), *generic_families())


def settling(text: str, tolerance: float) -> dict[str, Any]:
    """The ice bath's timed readings (one a line, 30s=27k) and what they settle on."""
    if not text.strip():
        return {"readings_text": "", "settled": None}
    try:
        return {"readings_text": text, "settled": settle_text(text, tolerance)}
    except FrostError as error:
        return {"readings_text": text, "settled": None, "settle_problem": str(error)}


def sensor_picture(standing: Standing, sensor: Sensor) -> CurvePicture:
    """The sensor's curve with every standing reading of it, under the newest reading's limits."""
    verdicts = tuple(verdict for _, verdict in standing.readings_of(sensor, MOST_POINTS))
    newest = next((slip for slip in reversed(standing.readings) if _is_of(slip, sensor)), None)
    body = newest.entry.body if newest else None
    limits = (
        limits_of(standing.sheet, sensor, body) if isinstance(body, ReadingTaken) else sensor.default_limits
    )
    return draw(standing.sheet.curve(sensor), limits, verdicts)


def _is_of(slip: Slip, sensor: Sensor) -> bool:
    body = slip.entry.body
    found = sensor_of(slip.moment.sheet, body) if isinstance(body, ReadingTaken) else None
    return found is not None and found.id == sensor.id


def _likely_cause(standing: Standing) -> str:
    """The component of a sensor found outside its band, to save a tap."""
    step: NextStep = next_step(standing)
    return step.sensor.component if step.stage is Stage.CLOSE and step.sensor else ""
