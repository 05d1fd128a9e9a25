"""The one thing to do next on a call, and why. A pure function of (sheet, tape)."""

from dataclasses import dataclass
from enum import StrEnum

from frostcore.sheet.model import Sensor
from frostcore.tape.entries import Power
from frostcore.tape.standing import Standing, suspect_sensors
from frostcore.verdict import Verdict


class Stage(StrEnum):
    """Stages of a call, in the order of work."""

    CALL = "call"
    LOOK = "look"
    DECODE = "decode"
    PROBE = "probe"
    CLOSE = "close"
    HANDOVER = "handover"

    @property
    def label(self) -> str:
        """The stage in words."""
        return {"call": "Take the call", "look": "First look", "decode": "Decode", "probe": "Probe", "close": "Decide & close", "handover": "Hand over"}[self]


STAGE_OF_KIND = {
    "call_taken": Stage.CALL, "plate_read": Stage.CALL, "observed": Stage.LOOK, "temperature_taken": Stage.LOOK, "power_set": Stage.LOOK,
    "code_seen": Stage.DECODE, "sensor_read": Stage.PROBE, "part_fitted": Stage.CLOSE, "noted": Stage.CLOSE, "checked": Stage.PROBE, "outcome": Stage.CLOSE,
}  # fmt: skip
"""The stage at which an entry of each kind is made."""


@dataclass(frozen=True)
class NextStep:
    """What to do now: the stage it belongs to, the act, the reason, and the sensor when it is about one."""

    stage: Stage
    act: str
    why: str
    sensor: Sensor | None = None


LOOKS_FIRST = ("display", "evaporator_fan", "compressor", "frost")
"""The four looks that split the suspects most; the rest may wait."""

OUTSIDE = frozenset({Verdict.HIGH, Verdict.LOW, Verdict.OPEN, Verdict.SHORT})


def next_step(standing: Standing) -> NextStep:
    """The next step of a call."""
    if standing.outcome:
        return NextStep(Stage.HANDOVER, "Print the handover report", "The call is closed; the customer gets it in plain words.")
    if standing.call is None:
        return NextStep(Stage.CALL, "Write down the complaint", "The customer's own words, before the unit is touched.")
    if standing.plate is None:
        return NextStep(Stage.CALL, "Read the rating plate", "Model, mains and refrigerant decide which sheet, which meter range and which cautions apply.")
    if standing.power is Power.UNKNOWN:
        return NextStep(Stage.LOOK, "Say whether the plug is in", "Every reading is judged by the power state it was taken in.")
    missing = [identifier for identifier in LOOKS_FIRST if identifier not in standing.observations]
    if missing:
        return NextStep(Stage.LOOK, "Look before you open anything", f"{len(missing)} of the {len(LOOKS_FIRST)} looks that tell most are still to do.")
    shows_code = standing.observations["display"].answer == "code"
    if shows_code and not standing.codes:
        return NextStep(Stage.DECODE, "Type the code the display shows", "It names a condition the board detected, not a part.")
    return _probe(standing, shows_code=shows_code)


def stage_done(standing: Standing, stage: Stage) -> bool:
    """Whether a stage has what the next one builds on."""
    match stage:
        case Stage.CALL:
            return standing.call is not None and standing.plate is not None
        case Stage.LOOK:
            return standing.power is not Power.UNKNOWN and all(identifier in standing.observations for identifier in LOOKS_FIRST)
        case Stage.DECODE:
            return bool(standing.codes)
        case Stage.PROBE:
            return any(standing.readings_of(sensor) for sensor in standing.sheet.sensors)
    return standing.outcome is not None and stage is Stage.CLOSE


def _probe(standing: Standing, *, shows_code: bool) -> NextStep:
    for sensor, why in suspect_sensors(standing):
        name = standing.sheet.sensor_name(sensor).lower()
        taken = [verdict.verdict for _, verdict in standing.readings_of(sensor)]
        if any(verdict in OUTSIDE for verdict in taken):
            return NextStep(Stage.CLOSE, f"Decide on the {name}", "Its reading is outside its band: check plug and harness, then fit, quote or work around it.", sensor)
        if not taken:
            pins = f" at {' and '.join(sensor.pins)}" if sensor.pins else ""
            first = "Pull the plug, then measure" if standing.power is Power.LIVE else "Measure"
            return NextStep(Stage.PROBE, f"{first} the {name}{pins}", f"Why: {why}. Unplugged, from the board, nothing opened.", sensor)
        if len(taken) == 1 and (standing.known_codes or taken[0] is Verdict.UNCLEAR):
            return NextStep(Stage.PROBE, f"Measure the {name} again, in an ice bath", "One point is weak evidence; a second at 0 °C makes it firm.", sensor)
    if not standing.codes and not shows_code:
        return NextStep(Stage.CLOSE, "Decide", "All sensors are measured and in band, and no code is shown: the fault lies elsewhere.")
    return NextStep(Stage.CLOSE, "Decide", "Every sensor is measured and in band; the code's other causes remain untested.")
