"""What the sensors' stage shows: the verdict, the curve, the guide through its points, the forms.

No rules of the job here.
"""

from functools import lru_cache
from typing import Any

from django.http import QueryDict

from frostcore import cautions
from frostcore.curves.kinds import guide_points
from frostcore.curves.known import KnownCurve, curves_of, generic_families
from frostcore.curves.picture import CurvePicture, draw
from frostcore.curves.settle import settle_text
from frostcore.curves.verdict import SensorVerdict
from frostcore.errors import FrostError
from frostcore.sheet.model import Sensor, Sheet
from frostcore.sheet.points import plug_full
from frostcore.tape.entries import (
    ReadingTaken,
)
from frostcore.tape.reading import divider_of, limits_of, sensor_of
from frostcore.tape.standing import (
    MOST_POINTS,
    Slip,
    Standing,
    suspect_sensors,
)
from frostline.calls import forms
from frostline.calls.judging import step_of
from frostline.calls.learning import curve_to_learn
from frostline.calls.probe_forms import focused
from frostline.sheets.models import current_digests, current_sheets

MARKS_SHOWN = 6
"""Verdict marks beside a sensor's name: those of its newest readings."""


def _marks(standing: Standing, sensor: Sensor) -> list[SensorVerdict]:
    """The verdicts on a sensor's newest readings."""
    return [verdict for _, verdict in standing.readings_of(sensor, MARKS_SHOWN)]


def probe_context(
    standing: Standing, query: QueryDict, form: Any, posted: forms.SlipForm | None
) -> dict[str, Any]:
    """The sensors' stage: the one chosen, its verdict and picture, the forms for ohms and for volts."""
    sheet, step = standing.sheet, step_of(standing)
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
        "pins": [(point, pin[1]) for point in chosen.pins if (pin := sheet.pin(point))],
        "pulls": _plug_of(sheet, chosen),
        "curve_learn": curve_to_learn(standing, chosen.id, posted),
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
    return focused(form("reading", meter="ohm", **initial, **settled))


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
    return _known_curves(current_digests())


@lru_cache(maxsize=2)
def _known_curves(digests: tuple[str, ...]) -> tuple[KnownCurve, ...]:
    """``digests`` name the library as it stands, so that an answer is kept as long as that is the same."""
    return (*curves_of(current_sheets()), *generic_families())


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


def _plug_of(sheet: Sheet, sensor: Sensor) -> str:
    """The plug a sensor is read at from its board, empty where the sheet does not say."""
    pin = sheet.pin(sensor.pins[0]) if sensor.pins else None
    return plug_full(sheet, pin[0].id) if pin else ""
