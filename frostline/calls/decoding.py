"""What the decoding stage shows: candidates for what was seen, the pad, a code with its rule.

No rules of the job here.
"""

from collections.abc import Mapping, Sequence
from typing import Any

from frostcore import cautions
from frostcore.diagnosis.causes import Cause, causes_of, stated
from frostcore.diagnosis.step import function_to_trace, percent
from frostcore.display.condition import describe, rule_parts, sensors_in
from frostcore.display.decode import same_text_elsewhere, shown_text
from frostcore.display.frames import read_frames
from frostcore.display.pad import Pad, lay_out_pad
from frostcore.display.rhythm import REPEAT_PAUSE
from frostcore.display.seen import match_seen
from frostcore.errors import FrostError
from frostcore.sheet.model import Code, Sensor, Sheet
from frostcore.tape.standing import (
    Standing,
)
from frostline.calls.judging import ready
from frostline.calls.sensing import MARKS_SHOWN
from frostline.sheets.models import current_sheets

MOST_CANDIDATES = 6


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


def _cause(standing: Standing, cause: Cause, sensor: Sensor | None) -> dict[str, Any]:
    """A component that can raise a code, with what was measured of it."""
    sheet = standing.sheet
    return {
        "component": sheet.component(cause.component),
        "why": cause.why,
        "chance": None if cause.probability is None else percent(cause.probability),
        "sensor": sensor,
        "trace": function_to_trace(sheet, cause.component),
        "verdicts": [verdict for _, verdict in standing.readings_of(sensor, MARKS_SHOWN)] if sensor else [],
    }


def code_card(standing: Standing, code: Code) -> dict[str, Any]:
    """A code with its rule, each component that can cause it (why, price, what was measured), what can't,
    and how stored codes are listed."""
    sheet = standing.sheet
    by_component = {sensor.component: sensor for sensor in sheet.sensors}
    causes = causes_of(standing, code) if ready(sheet) else stated(code)
    implicated = {cause.component for cause in causes}
    watched = sensors_in(sheet, code.condition)
    return {
        "code": code,
        "shown": shown_text(code.shown),
        "condition": describe(sheet, code.condition),
        "join": code.condition.join,
        "tests": [rule_parts(sheet, test) for test in code.condition.tests],
        "causes": [_cause(standing, cause, by_component.get(cause.component)) for cause in causes],
        "others": [
            sheet.sensor_name(sensor).lower()
            for sensor in sheet.sensors
            if sensor not in watched and sensor.component not in implicated
        ],
        "listing": next((mode for mode in sheet.modes if mode.lists_codes), None),
        "live_caution": cautions.LIVE,
    }
