"""Readings judged: by the sensor's curve where a temperature is known, against the healthy unit in the
setup they were taken in, with the phantom named and the faults they fit."""

from collections.abc import Iterable, Iterator, Sequence
from dataclasses import dataclass, replace

import numpy as np

from frostcore.circuit.build import Warmth
from frostcore.circuit.faulted import with_fault
from frostcore.circuit.kept import circuits_of
from frostcore.circuit.meter import FALLS_SHARE, METER_FLOOR, MeterRange, Reading, expect, points, show
from frostcore.circuit.trace import Segment, Trace, localise, verdict_of
from frostcore.curves.divider import Divider
from frostcore.curves.verdict import Limits, SensorPoint, SensorVerdict, judge_sensor
from frostcore.faults.edits import damage
from frostcore.faults.known import Fault, broken, faults
from frostcore.faults.known import fault as known_fault
from frostcore.faults.table import Prediction, Setup, predict
from frostcore.parts.loads import judge_heater
from frostcore.quantity import Dimension, Quantity, State, format_ohms, format_value
from frostcore.sheet.model import Component, ComponentKind, Sensor, Sheet
from frostcore.sheet.points import plug_name, plugs_said
from frostcore.tape.entries import ReadingTaken
from frostcore.tape.moment import Moment
from frostcore.verdict import Band, Judged, Question, Verdict

LIVE_SHARE = 0.5
"""No output that is on shows less than this share of the mains."""

FIT_SHARE = 0.1
"""A fault explains a reading that lies within this share of its own (and the meter's floor)."""


@dataclass(frozen=True, kw_only=True)
class JudgedReading(Judged):
    """A reading's verdict: by the sensor's curve where that can be asked, else by the unit's circuit.

    ``expected`` is what the healthy circuit reads there, where it was the one to decide;
    :func:`by_circuit` asks it of any reading.
    """

    reading: ReadingTaken
    by_curve: SensorVerdict | None = None
    expected: Reading | None = None
    phantom: bool = False
    confirm: bool = False
    """Whether only the low-impedance range can tell what it is: a phantom has to be shown to be one, and full
    mains not to be one."""

    @property
    def called(self) -> str:
        """The verdict in a word or two, the same wherever it is told."""
        if self.confirm:
            return "phantom voltage" if self.phantom else "full mains or a phantom"
        return self.verdict.label


def sensor_of(sheet: Sheet, reading: ReadingTaken) -> Sensor | None:
    """The sensor a reading is about: the one it names, else the one whose pins the leads are on."""
    ends = {reading.red, reading.black}
    return next(
        (item for item in sheet.sensors if item.id == reading.sensor),
        next((item for item in sheet.sensors if item.pins and set(item.pins) == ends), None),
    )


def divider_of(sheet: Sheet, sensor: str) -> Divider | None:
    """The pull-up divider the board reads a sensor through, or None when the sheet does not tell."""
    for board in sheet.boards:
        for channel in board.sensor_inputs:
            if channel.sensor == sensor:
                return Divider(channel.reference_volts, channel.pullup_ohms)
    return None


def setup_of(reading: ReadingTaken, moment: Moment) -> Setup:
    """The setup a reading was taken in: as told with it, else as the call then stood.

    Ohms of which nobody said how the plugs stand were taken with the lead's own plug pulled: that is how a
    sensor is measured from the board.
    """
    sheet, meter = moment.sheet, MeterRange(reading.meter)
    mode, celsius = reading.mode or moment.mode or sheet.resting_mode, _warmth(moment, reading)
    if reading.pulled is not None:
        return Setup(mode, meter, reading.pulled, celsius)
    own = sheet.pin(reading.red) if meter is MeterRange.OHM else None
    pulled = (*moment.pulled, own[0].id) if own and own[0].id not in moment.pulled else moment.pulled
    return Setup(mode, meter, pulled, celsius)


def contact_warmth(moment: Moment) -> Warmth:
    """The temperatures measured so far that say how a contact stands (bimetals), in whole degrees."""
    telling = frozenset[str]().union(*(around for _, around in circuits_of(moment.sheet).contact_places))
    return tuple((place, float(round(celsius))) for place, celsius in moment.celsius if place in telling)


def _warmth(moment: Moment, reading: ReadingTaken) -> Warmth:
    """The same at a reading: what the thermometer shows there counts for its sensor's place, and without a
    sensor for where the contacts are, for then that was asked."""
    found = dict(contact_warmth(moment))
    if reading.temperature is not None and reading.temperature.value is not None:
        sensor = sensor_of(moment.sheet, reading)
        places = (
            [moment.sheet.component(sensor.component).place]
            if sensor
            else [place for place, _ in circuits_of(moment.sheet).contact_places]
        )
        found |= dict.fromkeys(places, reading.temperature.value)
    return tuple(sorted(found.items()))


def judge_reading(moment: Moment, reading: ReadingTaken) -> JudgedReading:
    """The verdict on a reading at its moment.

    Raises CircuitError, CurveError or KeyError for points, modes, sensors or temperatures the sheet has
    nothing on.
    """
    by_curve = _by_curve(moment, reading)
    if by_curve is None:
        return by_circuit(moment, reading)
    return JudgedReading(
        verdict=by_curve.verdict,
        band=by_curve.band,
        reason=by_curve.reason,
        questions=() if reading.meter == "vdc" else by_curve.questions,
        reading=reading,
        by_curve=by_curve,
    )


def by_circuit(moment: Moment, reading: ReadingTaken) -> JudgedReading:
    """The verdict on a reading by the unit's circuit, its sensor at the temperature measured.

    Raises as :func:`judge_reading` does.
    """
    expected = _expected(moment, reading)
    if expected is None:
        return JudgedReading(verdict=Verdict.UNCLEAR, reason=NO_TEMPERATURE, reading=reading)
    verdict = verdict_of(expected, reading.value)
    reason, phantom, confirm = _circuit_words(moment, reading, expected, verdict)
    return JudgedReading(
        verdict=verdict,
        band=_band(expected),
        reason=reason,
        questions=_setup_questions(moment, reading, expected, verdict),
        reading=reading,
        expected=expected,
        phantom=phantom,
        confirm=confirm,
    )


NO_TEMPERATURE = (
    "A sensor can't be judged without its temperature, and no points are told to judge the circuit by."
    " Correct the slip and add what the thermometer shows."
)


def _by_curve(moment: Moment, reading: ReadingTaken) -> SensorVerdict | None:
    """The verdict of the sensor's curve; None without a sensor, a temperature, or ohms that are its own."""
    sensor = sensor_of(moment.sheet, reading)
    if sensor is None or reading.temperature is None:
        return None
    ohms = _sensor_ohms(moment, reading, sensor)
    if ohms is None:
        return None
    point = SensorPoint(ohms, reading.temperature)
    limits = limits_of(moment.sheet, sensor, reading)
    return judge_sensor(moment.sheet.curve(sensor), point, limits, sensor.role)


def _sensor_ohms(moment: Moment, reading: ReadingTaken, sensor: Sensor) -> Quantity | None:
    """The sensor's own resistance: volts at the board through its pull-up, or ohms with nothing beside it."""
    if reading.meter == "vdc":
        divider = divider_of(moment.sheet, sensor.id)
        volts = reading.value.value
        return divider.resistance(volts) if divider and volts is not None else None
    if reading.meter != "ohm":
        return None
    plugs = [pin[0].id for pin in (moment.sheet.pin(point) for point in sensor.pins) if pin]
    alone = not (reading.red or reading.black) or any(
        plug in setup_of(reading, moment).pulled for plug in plugs
    )
    return reading.value if alone or not plugs else None


def limits_of(sheet: Sheet, sensor: Sensor, reading: ReadingTaken) -> Limits:
    """What may move a sensor's reading; one in volts has the pull-up's tolerance in its meter's share."""
    limits = Limits(sensor.working_tolerance, reading.doubt_kelvin, reading.accuracy)
    divider = divider_of(sheet, sensor.id) if reading.meter == "vdc" else None
    if divider is None or reading.value.value is None:
        return limits
    return divider.widened(limits, reading.value.value)


def _expected(moment: Moment, reading: ReadingTaken) -> Reading | None:
    """What the healthy circuit reads there, its sensor at the temperature measured; None without points."""
    if not (reading.red and reading.black) or not moment.sheet.harness or not moment.sheet.modes:
        return None
    return expected_in(moment.sheet, setup_of(reading, moment), reading.red, reading.black)


def expected_in(sheet: Sheet, setup: Setup, red: str, black: str) -> Reading:
    """What a healthy unit reads between two points in a setup; CircuitError for points that are not there."""
    return circuits_of(sheet).reading(setup.mode, setup.meter, red, black, setup.pulled, setup.celsius)


def _band(expected: Reading) -> Band | None:
    if expected.value is None or expected.low is None or expected.high is None:
        return None
    low, high = min(expected.low, expected.value), max(expected.high, expected.value)
    return Band(low, expected.value, high)


def _circuit_words(
    moment: Moment, reading: ReadingTaken, expected: Reading, verdict: Verdict
) -> tuple[str, bool, bool]:
    """(what the verdict by the circuit means, whether it is a phantom voltage, whether to confirm it)."""
    meter, value = MeterRange(reading.meter), reading.value.value
    off = (expected.value or 0.0) < METER_FLOOR[meter]
    if verdict is Verdict.HIGH and off and value is not None:
        shown = show(meter, value)
        if meter is MeterRange.VAC_LOZ:
            return STAYS_ON_WORDS.format(shown=shown), False, False
        if meter is MeterRange.VAC:
            phantom = not _may_be_live(moment, reading, value)
            return (PHANTOM_WORDS if phantom else EITHER_WORDS).format(shown=shown), phantom, True
    usual = moment.sheet.usual(reading.function.partition(".")[0])
    foretold = f"{expected.words}, {usual}" if usual else expected.words
    words = {
        Verdict.IN_BAND: f"As it should be: {foretold}.",
        Verdict.OPEN: f"Open; it should read {foretold}. Before you believe it, touch the leads together.",
        Verdict.SHORT: f"A dead short; it should read {foretold}.",
        Verdict.HIGH: f"Too high; it should read {foretold}.",
        Verdict.LOW: f"Too low; it should read {foretold}.",
        Verdict.UNCLEAR: expected.why,
    }
    return words[verdict] + _heats(moment.sheet, reading), False, False


def _may_be_live(moment: Moment, reading: ReadingTaken, volts: float) -> bool:
    """Whether volts where the healthy unit shows none can be an output that is on.

    They can when they are near full mains, or when some fault foretells just these and would hold them on the
    low-impedance range too. What it would let fall there is a phantom.
    """
    sheet, setup = moment.sheet, setup_of(reading, moment)
    if volts >= LIVE_SHARE * sheet.plate.mains_volts:
        return True
    high, low = _both_ranges(sheet, setup, reading.red, reading.black)
    fits = np.abs(high - volts) <= FIT_SHARE * np.maximum(high, volts) + METER_FLOOR[MeterRange.VAC]
    return bool((fits & (low >= FALLS_SHARE * high)).any())


def _both_ranges(sheet: Sheet, setup: Setup, red: str, black: str) -> tuple[np.ndarray, np.ndarray]:
    """What every fault would show between two points on the high and on the low impedance (F each); kept for
    the pair asked last, for a tape asks it again and again."""
    key = ("both ranges", setup.mode, setup.pulled, setup.celsius, red, black)
    kept = circuits_of(sheet).kept
    if kept.get("both ranges of") != key:
        setups = [replace(setup, meter=meter) for meter in (MeterRange.VAC, MeterRange.VAC_LOZ)]
        table = predict(sheet, setups, ((red, black),), _known(sheet))
        kept["both ranges"] = (table.values[0, 1:, 0], table.values[1, 1:, 0])
        kept["both ranges of"] = key
    found: tuple[np.ndarray, np.ndarray] = kept["both ranges"]
    return found


PHANTOM_WORDS = (
    "A phantom voltage: {shown} where a healthy load would pull the wire to 0 V. The output is off, and the"
    " loop behind it is open. Confirm it with the low-impedance range: it must fall to about 0 V. Then unplug"
    " and measure the loop in ohms."
)
EITHER_WORDS = (
    "Full mains or a phantom: {shown} where nothing should be. Read it on the low-impedance range before you"
    " accuse the board: a phantom falls to about 0 V there, an output that stays on does not."
)
STAYS_ON_WORDS = (
    "Should be off, and is live ({shown}): an output that stays on is as bad as one that stays off."
)


def _heater(sheet: Sheet, reading: ReadingTaken) -> Component | None:
    """The heater whose loop a reading in ohms is of."""
    if reading.meter != "ohm" or not reading.value.value:
        return None
    named = (item for item in sheet.components if item.id == reading.function)
    return next((item for item in named if item.kind is ComponentKind.HEATER), None)


def _heats(sheet: Sheet, reading: ReadingTaken) -> str:
    """What a heater's loop would heat with at these ohms, for a reading of one."""
    heater = _heater(sheet, reading)
    if heater is None:
        return ""
    volts = heater.nominal.volts or sheet.plate.mains_volts
    found = judge_heater(volts, reading.value, heater.nominal.watts)
    if found.watts is None:
        return ""
    rated = f" (rated {format_value(heater.nominal.watts, Dimension.POWER)})" if heater.nominal.watts else ""
    return (
        f" At {format_value(volts, Dimension.VOLTAGE)} that heats with"
        f" {format_value(found.watts, Dimension.POWER)}{rated}."
    )


def _setup_questions(
    moment: Moment, reading: ReadingTaken, expected: Reading, verdict: Verdict
) -> tuple[Question, ...]:
    """What to ask about a reading's setup: a connector that seems to stand otherwise than the tape says,
    ohms taken for kilohms."""
    if verdict is Verdict.IN_BAND:
        return ()
    asked = (*_plug_questions(moment, reading, expected), *_unit_questions(reading, expected))
    return asked or _heater_questions(moment.sheet, reading)


def _plug_questions(moment: Moment, reading: ReadingTaken, expected: Reading) -> Iterator[Question]:
    pulled_now = setup_of(reading, moment).pulled
    for connector, pulled in _otherwise(moment.sheet, reading, pulled_now):
        told = replace(reading, pulled=pulled)
        other = _expected(moment, told)
        if other and verdict_of(other, reading.value) is Verdict.IN_BAND and not other.phantom:
            now, then = ("pulled", "plugged in") if connector in pulled_now else ("plugged in", "pulled")
            called = plug_name(moment.sheet, connector)
            text = (
                f"With {called} {now}, as the tape says, this should read {expected.text};"
                f" {reading.value.text} fits {called} {then}. Is it {then}?"
            )
            yield Question("pulled", text, "pulled", " ".join(pulled))
            return


def _unit_questions(reading: ReadingTaken, expected: Reading) -> Iterator[Question]:
    value = reading.value.value
    if reading.meter != "ohm" or not value:
        return
    for factor in (1000.0, 0.001):
        if verdict_of(expected, replace(reading.value, value=value * factor)) is Verdict.IN_BAND:
            meant = format_ohms(value * factor)
            text = (
                f"{reading.value.text} is a thousand times off what it should be. Did the meter show {meant}?"
            )
            yield Question("unit_slip", text, "value", meant)


def _heater_questions(sheet: Sheet, reading: ReadingTaken) -> tuple[Question, ...]:
    """What the quick check of a heater asks, of a reading of one."""
    heater = _heater(sheet, reading)
    if heater is None:
        return ()
    asked = judge_heater(heater.nominal.volts or sheet.plate.mains_volts, reading.value).questions
    return tuple(replace(each, field="value" if each.field == "ohms" else each.field) for each in asked)


def _otherwise(
    sheet: Sheet, reading: ReadingTaken, pulled: tuple[str, ...]
) -> Iterable[tuple[str, tuple[str, ...]]]:
    """Connectors worth doubting, with the pulled ones if each stood otherwise: those at the points, and
    those that are pulled."""
    at_points = [pin[0].id for pin in (sheet.pin(reading.red), sheet.pin(reading.black)) if pin]
    for connector in dict.fromkeys((*at_points, *pulled)):
        out = connector in pulled
        yield connector, tuple(name for name in pulled if name != connector) if out else (*pulled, connector)


def setups_at(sheet: Sheet, path: Trace, red: str, black: str, here: Setup) -> tuple[tuple[str, Setup], ...]:
    """The setups in which two points of a path are worth reading, each in words.

    Every live mode, with the low-impedance range in the present one where mains is read; each state with
    the plug out, with the plugs as they stand, with all in, and with those at the points pulled. ``here`` is
    among them.
    """
    circuits = circuits_of(sheet)
    live = (
        path.meter if path.meter.live else circuits.trace(path.function.id, circuits.live_modes[0].id).meter
    )
    found: list[tuple[str, Setup]] = []
    for mode in circuits.live_modes:
        found.append((mode.name, replace(here, mode=mode.id, meter=live)))
        if live is MeterRange.VAC and mode.id == here.mode:
            found.append((f"{mode.name}, low impedance", replace(here, meter=MeterRange.VAC_LOZ)))
    own = [pin[0].id for pin in (sheet.pin(red), sheet.pin(black)) if pin]
    for mode in (mode for mode in sheet.modes if not mode.live):
        for pulled in dict.fromkeys((here.pulled, (), *((name,) for name in own))):
            out = f"{plugs_said(sheet, pulled)} pulled" if pulled else "all plugs in"
            words = f"{mode.name}, {out}"
            found.append((words, replace(here, mode=mode.id, meter=MeterRange.OHM, pulled=pulled)))
    if here not in [setup for _, setup in found]:
        found.insert(0, (f"{sheet.mode(here.mode).name}, {here.meter.label}", here))
    return tuple(found)


ALONE = {ComponentKind.POTENTIOMETER, ComponentKind.THERMISTOR}
"""What an ohmmeter tells nothing sure of while the board lies across it."""


def plugs_to_pull(sheet: Sheet, function: str, setup: Setup, red: str, black: str) -> tuple[str, ...]:
    """The connectors to pull before ohms between two points of a function tell its part alone: those its
    leads are on, where it is a potentiometer or a sensor; none where they are out, or volts are read."""
    component = next((item for item in sheet.components if item.id == function.partition(".")[0]), None)
    if setup.meter is not MeterRange.OHM or component is None or component.kind not in ALONE:
        return ()
    own = [pin[0].id for pin in (sheet.pin(red), sheet.pin(black)) if pin]
    return tuple(name for name in dict.fromkeys(own) if name not in setup.pulled)


@dataclass(frozen=True)
class FaultReading:
    """What a fault would make the meter show at the chosen points, and whether a reading taken fits
    it."""

    fault: Fault
    value: float | None
    text: str
    fits: bool = False


def fault_readings(
    sheet: Sheet, setup: Setup, red: str, black: str, taken: Quantity | None = None
) -> tuple[FaultReading, ...]:
    """Every fault that shows at these points in this setup, likeliest first.

    Those that fit a reading taken before the rest.
    """
    known = _known(sheet)
    opened = setup.meter is MeterRange.OHM and taken is not None and taken.state is State.OPEN
    healthy = expected_in(sheet, setup, red, black)
    table = _foretold(sheet, setup, red, black, known)
    found = []
    for fault, value in zip(known, table.values[0, 1:, 0], strict=True):
        shown = None if np.isinf(value) else float(value)
        quantity = Quantity(setup.meter.dimension, shown, State.OPEN if shown is None else State.VALUE)
        pulses = (setup.mode, fault.id) in table.unsettled
        alike = verdict_of(healthy, quantity) in {Verdict.IN_BAND, Verdict.UNCLEAR}
        if alike and not pulses:
            continue
        text = show(setup.meter, shown) + (", pulsing" if pulses else "")
        fits = taken is not None and _fits(setup.meter, shown, taken)
        if (
            opened
            and shown is not None
            and shown >= LOOSE_OHMS
            and _is_loose(sheet, setup, red, black, fault)
        ):
            text, fits = f"{text} or OL", True
        found.append(FaultReading(fault, shown, text, fits))
    return tuple(sorted(found, key=lambda item: (not item.fits, -item.fault.weight)))


def _foretold(sheet: Sheet, setup: Setup, red: str, black: str, known: Sequence[Fault]) -> Prediction:
    """What every fault makes of two points in a setup; kept with the circuits, the last ones asked for."""
    kept: dict[object, Prediction] = circuits_of(sheet).kept.setdefault("foretold", {})
    key = (setup, red, black)
    if key not in kept:
        if len(kept) >= MOST_FORETOLD:
            kept.clear()
        kept[key] = predict(sheet, (setup,), ((red, black),), known)
    return kept[key]


MOST_FORETOLD = 60

LOOSE_OHMS = 100e3
"""From here on what electronics at rest show is as likely OL."""


def _is_loose(sheet: Sheet, setup: Setup, red: str, black: str, fault: Fault) -> bool:
    """Whether electronics at rest make up what a fault leaves between two points."""
    circuits = circuits_of(sheet)
    healthy = circuits.scene(setup.mode, live=False, pulled=setup.pulled, celsius=setup.celsius)
    settled = with_fault(healthy, damage(healthy.circuit, fault.acts))
    where = points(sheet, settled.circuit, red, black, setup.meter)
    return not expect(settled, where, setup.meter).firm


def with_fault_column(
    sheet: Sheet, setups: Sequence[Setup], red: str, black: str, fault: str
) -> tuple[str, tuple[str, ...]]:
    """(the fault in words, what each setup would read with it).

    CircuitError for a fault the sheet has not.
    """
    chosen = next((item for item in _known(sheet) if item.id == fault), None) or known_fault(sheet, fault)
    table = predict(sheet, setups, ((red, black),), (chosen,))
    found = []
    for setup, value in zip(setups, table.values[:, 1, 0], strict=True):
        if setup.meter.live and (setup.mode, chosen.id) in table.unsettled:
            settled = broken(sheet, setup.mode, [chosen.id], pulled=setup.pulled, celsius=setup.celsius)
            where = points(sheet, settled.circuit, red, black, setup.meter)
            found.append(expect(settled, where, setup.meter).text)
        else:
            found.append(show(setup.meter, None if np.isinf(value) else float(value)))
    return chosen.name, tuple(found)


def _known(sheet: Sheet) -> tuple[Fault, ...]:
    kept = circuits_of(sheet).kept
    if "faults" not in kept:
        kept["faults"] = faults(sheet)
    known: tuple[Fault, ...] = kept["faults"]
    return known


def _fits(meter: MeterRange, value: float | None, taken: Quantity) -> bool:
    if value is None or taken.value is None:
        return value is None and taken.state is State.OPEN
    return abs(value - taken.value) <= FIT_SHARE * max(abs(value), abs(taken.value)) + METER_FLOOR[meter]


def segment_of(sheet: Sheet, path: Trace, readings: Iterable[ReadingTaken]) -> Segment | None:
    """The broken segment of a path by the readings taken along it in its own mode, against its own
    return."""
    taken = {
        item.red: item.value
        for item in readings
        if item.mode == path.mode
        and item.meter == path.meter
        and item.black == path.black
        and not item.pulled
    }
    return localise(sheet, path, taken)


@dataclass(frozen=True)
class Fall:
    """An output read in a mode that must have fallen since the mode was left: the reading then, and what
    it must be now."""

    reading: ReadingTaken
    now: Reading
    mode: str


def falls_due(sheet: Sheet, readings: Iterable[tuple[ReadingTaken, bool]], mode: str) -> tuple[Fall, ...]:
    """Outputs to be read again.

    ``readings`` are (reading, whether its mode has been left since), oldest first; ``mode`` is the mode
    now.
    """
    if not mode or not sheet.mode(mode).live:
        return ()
    newest = {(reading.red, reading.black, reading.meter): (reading, left) for reading, left in readings}
    due = []
    for reading, left in newest.values():
        if not left or reading.meter == "ohm" or (reading.value.value or 0.0) < ON_VOLTS:
            continue
        now = circuits_of(sheet).reading(
            mode, MeterRange(reading.meter), reading.red, reading.black, reading.pulled or ()
        )
        if (now.value or 0.0) < FALLEN * reading.value.number:
            due.append(Fall(reading, now, reading.mode))
    return tuple(due)


ON_VOLTS = 3.0
FALLEN = 0.3
"""An output counts as on from so many volts, and as fallen when it should be under this share of what it
was."""
