"""The one thing to do next on a call, and why.

A pure function of (sheet, tape).
"""

from dataclasses import dataclass

from frostcore.circuit.kept import circuits_of
from frostcore.curves.verdict import second_point
from frostcore.diagnosis.insulation import InsulationDue, insulation_due
from frostcore.display.condition import sensors_in
from frostcore.quantity import format_celsius
from frostcore.sheet.model import ComponentKind, Sensor, Sheet
from frostcore.tape.entries import Power, ReadingTaken, StepDone
from frostcore.tape.stages import Stage
from frostcore.tape.standing import Standing, suspect_sensors
from frostcore.verdict import Verdict


@dataclass(frozen=True)
class NextStep:
    """What to do now: the stage it belongs to, the act, the reason, the sensor when it is about one, the
    function to trace when about that, and the points the leads go to when they are told."""

    stage: Stage
    act: str
    why: str
    sensor: Sensor | None = None
    trace: str = ""
    red: str = ""
    black: str = ""


LOOKS_FIRST = ("display", "evaporator_fan", "compressor", "frost")
"""The four looks that split the suspects most; the rest may wait."""

OUTSIDE = frozenset({Verdict.HIGH, Verdict.LOW, Verdict.OPEN, Verdict.SHORT})


def next_step(standing: Standing) -> NextStep:
    """The next step of a call."""
    first = _before_all(standing)
    if first:
        return first
    missing = [identifier for identifier in LOOKS_FIRST if identifier not in standing.observations]
    if missing:
        return NextStep(
            Stage.LOOK,
            "Look before you open anything",
            f"{len(missing)} of the {len(LOOKS_FIRST)} looks that tell most are still to do.",
        )
    shows_code = standing.observations["display"].answer == "code"
    if shows_code and not standing.codes:
        return NextStep(
            Stage.DECODE,
            "Type the code the display shows",
            "It names a condition the board detected, not a part.",
        )
    return _probe(standing, shows_code=shows_code)


def _before_all(standing: Standing) -> NextStep | None:
    """What comes before any searching: what the call lacks, what safety asks, what must have fallen."""
    if standing.outcome:
        return NextStep(
            Stage.HANDOVER,
            "Print the handover report",
            "The call is closed; the customer gets it in plain words.",
        )
    if standing.call is None:
        return NextStep(
            Stage.CALL, "Write down the complaint", "The customer's own words, before the unit is touched."
        )
    if standing.plate is None:
        return NextStep(
            Stage.CALL,
            "Read the rating plate",
            "Model, mains and refrigerant decide which sheet, which meter range and which cautions apply.",
        )
    if standing.power is Power.UNKNOWN:
        return NextStep(
            Stage.LOOK,
            "Say whether the plug is in",
            "Every reading is judged by the power state it was taken in.",
        )
    leak = insulation_due(standing)
    if leak:
        return _insulation(leak)
    if standing.falls_due:
        fall = standing.falls_due[0]
        mode = standing.sheet.mode(fall.mode).name.lower()
        why = (
            f"It was on in {mode}, which you have left: it must have fallen to {fall.now.text}. An output"
            " that stays on is as bad as one that stays off."
        )
        return NextStep(
            Stage.TRACE,
            f"Read {fall.reading.red} to {fall.reading.black} again",
            why,
            trace=fall.reading.function,
        )
    return None


def _insulation(due: InsulationDue) -> NextStep:
    why = (
        f"It leaks ({due.leaks}): find and mend that first, plug by plug. Plugged in, its metal may be live."
        if due.leaks
        else "After any work, before the plug goes in: live and neutral to bare metal, on the highest range."
        " Above 2 MΩ is sound; less is a leak, or a pinched wire."
    )
    act = "Don’t plug it in" if due.leaks else "Measure the plug’s live pin to the chassis"
    return NextStep(Stage.TRACE, act, why, red=due.red, black=due.black)


def stage_done(standing: Standing, stage: Stage) -> bool:
    """Whether a stage has what the next one builds on."""
    match stage:
        case Stage.CALL:
            return standing.call is not None and standing.plate is not None
        case Stage.LOOK:
            return standing.power is not Power.UNKNOWN and all(
                identifier in standing.observations for identifier in LOOKS_FIRST
            )
        case Stage.DECODE:
            return bool(standing.codes)
        case Stage.OPEN:
            return any(isinstance(body, StepDone) for body in standing.bodies)
        case Stage.PROBE:
            return any(body.temperature is not None for body in standing.all_of(ReadingTaken))
        case Stage.TRACE:
            return any(reading.function for _, reading in standing.meter_readings)
    return standing.outcome is not None and stage is Stage.CLOSE


def _probe(standing: Standing, *, shows_code: bool) -> NextStep:
    phantom = _unconfirmed(standing)
    if phantom:
        why = (
            "An output that is off shows volts. A phantom, behind which the loop is open, falls to about 0 V"
            " on the low-impedance range; an output that stays on does not."
        )
        return NextStep(
            Stage.TRACE,
            f"Confirm {phantom.red} to {phantom.black} on low impedance",
            why,
            trace=phantom.function,
        )
    bad = _bad_function(standing)
    if bad:
        return bad
    loose, told_by_code = _untraced(standing), _sensors_by_code(standing)
    for sensor, why in suspect_sensors(standing):
        name = standing.sheet.sensor_name(sensor).lower()
        readings = standing.readings_of(sensor)
        taken = [verdict.verdict for _, verdict in readings]
        if any(verdict in OUTSIDE for verdict in taken):
            return NextStep(
                Stage.CLOSE,
                f"Decide on the {name}",
                "Its reading is outside its band: check plug and harness, then fit, quote or work around it.",
                sensor,
            )
        if not taken and loose and sensor.id not in told_by_code:
            break  # what a code implicates comes before sensors that it does not look at
        if not taken:
            pins = f" at {' and '.join(sensor.pins)}" if sensor.pins else ""
            first = "Pull the plug, then measure" if standing.power is Power.LIVE else "Measure"
            return NextStep(
                Stage.PROBE,
                f"{first} the {name}{pins}",
                f"Why: {why}. Unplugged, from the board, nothing opened.",
                sensor,
            )
        if len(taken) == 1 and (standing.known_codes or taken[0] is Verdict.UNCLEAR):
            celsius, where = second_point(readings[0][1].point.temperature.number)
            return NextStep(
                Stage.PROBE,
                f"Measure the {name} again, {where}",
                f"One point is weak evidence; a second at about {format_celsius(celsius)} makes it firm.",
                sensor,
            )
    if loose:
        component, function, why = loose
        return NextStep(
            Stage.TRACE,
            f"Trace the {component.lower()}",
            f"{why} From the board first, nothing opened.",
            trace=function,
        )
    if not standing.codes and not shows_code:
        return NextStep(
            Stage.CLOSE,
            "Decide",
            "All sensors are measured and in band, and no code is shown: the fault lies elsewhere.",
        )
    return NextStep(
        Stage.CLOSE,
        "Decide",
        "Every sensor is measured and in band; the code's other causes remain untested.",
    )


def function_to_trace(sheet: Sheet, component: str) -> str:
    """The function that tells most about a component, empty for sensors (they have a stage of their own)
    and parts without a circuit."""
    if sheet.component(component).kind is ComponentKind.THERMISTOR:
        return ""
    return next((item.id for item in circuits_of(sheet).functions if item.component == component), "")


def _sensors_by_code(standing: Standing) -> set[str]:
    """Sensors that a code seen looks at or implicates."""
    watched = {
        sensor.id for code in standing.known_codes for sensor in sensors_in(standing.sheet, code.condition)
    }
    implicated = {cause.component for code in standing.known_codes for cause in code.implicates}
    return watched | {sensor.id for sensor in standing.sheet.sensors if sensor.component in implicated}


def _unconfirmed(standing: Standing) -> ReadingTaken | None:
    """The newest reading that may be a phantom and that no reading on the low-impedance range has
    followed."""
    readings = standing.meter_readings
    for place, (identifier, reading) in reversed(list(enumerate(readings))):
        if (found := standing.reading_verdict(identifier)) and found.confirm:
            later = (other for _, other in readings[place + 1 :])
            return (
                None
                if any(
                    (other.red, other.black, other.meter) == (reading.red, reading.black, "vac_loz")
                    for other in later
                )
                else reading
            )
    return None


def _bad_function(standing: Standing) -> NextStep | None:
    """What to do about the newest function that reads wrong: its loop in ohms first, then decide."""
    for identifier, reading in reversed(standing.meter_readings):
        found = standing.reading_verdict(identifier) if reading.function else None
        if found and found.verdict in OUTSIDE:
            function = next(
                (item for item in circuits_of(standing.sheet).functions if item.id == reading.function), None
            )
            if function is None:
                continue
            if any(
                other.function == reading.function and other.meter == "ohm"
                for _, other in standing.meter_readings
            ):
                return NextStep(
                    Stage.CLOSE,
                    f"Decide on the {function.name.lower()}",
                    "Its loop reads wrong: open it at its plugs until the part at fault stands alone, then"
                    " fit, quote or work around it.",
                )
            first = "Pull the plug, then measure" if standing.power is Power.LIVE else "Measure"
            why = (
                "It read wrong live. Unplugged, from the board, the loop in ohms tells load and harness from"
                " the board."
            )
            return NextStep(
                Stage.TRACE, f"{first} the {function.name.lower()}’s loop in ohms", why, trace=function.id
            )
    return None


def _untraced(standing: Standing) -> tuple[str, str, str] | None:
    """(component, function, why) of the first load a code implicates that no reading has touched yet."""
    parts = {function.id: function.component for function in circuits_of(standing.sheet).functions}
    traced = {parts.get(reading.function, reading.function) for _, reading in standing.meter_readings}
    for code in standing.known_codes:
        for implicated in code.implicates:
            function = function_to_trace(standing.sheet, implicated.component)
            if function and implicated.component not in traced:
                return (
                    standing.sheet.component(implicated.component).name,
                    function,
                    f"Code {code.id}: {implicated.why}.",
                )
    return None
