"""Meter readings judged: against the healthy unit in the setup they were taken in, with the phantom named
and the faults they fit."""

from collections.abc import Iterable, Sequence
from dataclasses import dataclass, replace

import numpy as np

from frostcore.circuit.element import CircuitError
from frostcore.circuit.kept import circuits_of
from frostcore.circuit.meter import METER_FLOOR, MeterRange, Reading, show
from frostcore.circuit.trace import Segment, Trace, localise, verdict_of
from frostcore.faults.known import Fault, faults
from frostcore.faults.known import fault as known_fault
from frostcore.faults.table import Prediction, Setup, predict
from frostcore.parts.loads import judge_heater
from frostcore.quantity import Dimension, Quantity, State, format_ohms, format_value
from frostcore.sheet.model import ComponentKind, Sheet
from frostcore.tape.entries import MeterRead
from frostcore.verdict import Question, Verdict

PHANTOM_SHARE = (0.03, 0.8)
"""A high-impedance reading between these shares of the mains, where nothing should be, is a phantom until
shown otherwise."""

FIT_SHARE = 0.1
"""A fault explains a reading that lies within this share of its own (and the meter's floor)."""


@dataclass(frozen=True)
class MeterVerdict:
    """A reading against what it should be: the expected reading, the verdict, what it means, and whether
    it is a phantom voltage."""

    reading: MeterRead
    expected: Reading
    verdict: Verdict
    text: str
    phantom: bool = False


def judge_reading(sheet: Sheet, reading: MeterRead) -> MeterVerdict:
    """The verdict on a meter reading.

    Raises CircuitError for points or modes the sheet has not.
    """
    meter = MeterRange(reading.meter)
    expected = circuits_of(sheet).reading(reading.mode, meter, reading.red, reading.black, reading.pulled)
    verdict = verdict_of(expected, reading.value)
    mains = sheet.plate.mains_volts
    value = reading.value.value
    if (
        meter is MeterRange.VAC
        and verdict is Verdict.HIGH
        and (expected.value or 0.0) < METER_FLOOR[meter]
        and value is not None
    ):
        if PHANTOM_SHARE[0] * mains <= value <= PHANTOM_SHARE[1] * mains:
            text = (
                f"A phantom voltage: {show(meter, value)} where a healthy load would pull the wire to 0 V."
                " The output is off, and the loop behind it is open. Confirm it with the low-impedance"
                " range: it must fall to about 0 V. Then unplug and measure the loop in ohms."
            )
            return MeterVerdict(reading, expected, verdict, text, phantom=True)
        return MeterVerdict(
            reading,
            expected,
            verdict,
            f"Should be off, and is live ({show(meter, value)}): an output that stays on is as bad as one"
            " that stays off.",
        )
    words = {
        Verdict.IN_BAND: f"As it should be: {expected.words}.",
        Verdict.OPEN: (
            f"Open; it should read {expected.words}. Before you believe it, touch the leads together."
        ),
        Verdict.SHORT: f"A dead short; it should read {expected.words}.",
        Verdict.HIGH: f"Too high; it should read {expected.words}.",
        Verdict.LOW: f"Too low; it should read {expected.words}.",
    }
    return MeterVerdict(reading, expected, verdict, words[verdict] + _heats(sheet, reading))


def _heats(sheet: Sheet, reading: MeterRead) -> str:
    """What a heater's loop would heat with at these ohms, for a reading of one."""
    heater = next(
        (
            item
            for item in sheet.components
            if item.id == reading.function and item.kind is ComponentKind.HEATER
        ),
        None,
    )
    if heater is None or reading.meter != "ohm" or not reading.value.value:
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


def setup_questions(sheet: Sheet, reading: MeterRead) -> tuple[Question, ...]:
    """What to ask about a reading's setup: a connector that seems to stand otherwise than the tape says,
    ohms taken for kilohms."""
    try:
        found = judge_reading(sheet, reading)
    except CircuitError:
        return ()
    if found.verdict is Verdict.IN_BAND:
        return ()
    questions = []
    for connector, pulled in _otherwise(sheet, reading):
        other = judge_reading(sheet, replace(reading, pulled=pulled))
        if other.verdict is Verdict.IN_BAND and not other.expected.phantom:
            now, then = ("pulled", "plugged in") if connector in reading.pulled else ("plugged in", "pulled")
            text = (
                f"With {connector} {now}, as the tape says, this should read {found.expected.text};"
                f" {reading.value.text} fits {connector} {then}. Is it {then}?"
            )
            questions.append(Question("pulled", text, "pulled", " ".join(pulled)))
            break
    value = reading.value.value
    if reading.meter == "ohm" and value:
        for factor in (1000.0, 0.001):
            slipped = replace(reading, value=replace(reading.value, value=value * factor))
            if verdict_of(found.expected, slipped.value) is Verdict.IN_BAND:
                meant = format_ohms(value * factor)
                questions.append(
                    Question(
                        "unit_slip",
                        f"{reading.value.text} is a thousand times off what it should be. Did the meter show"
                        f" {meant}?",
                        "value",
                        meant,
                    )
                )
    return tuple(questions)


def _otherwise(sheet: Sheet, reading: MeterRead) -> Iterable[tuple[str, tuple[str, ...]]]:
    """Connectors worth doubting, with the pulled ones if each stood otherwise: those at the points, and
    those that are pulled."""
    at_points = [pin[0].id for pin in (sheet.pin(reading.red), sheet.pin(reading.black)) if pin]
    for connector in dict.fromkeys((*at_points, *reading.pulled)):
        yield (
            connector,
            (
                tuple(name for name in reading.pulled if name != connector)
                if connector in reading.pulled
                else (*reading.pulled, connector)
            ),
        )


def setups_at(sheet: Sheet, path: Trace, red: str, black: str, here: Setup) -> tuple[tuple[str, Setup], ...]:
    """The setups in which two points of a path are worth reading, each in words: every live mode, with
    the low-impedance range in the present.

    one where mains is read; each state with the plug out, with the plugs as they stand, with all in, and
    with those at the points pulled. ``here`` is among them.
    """
    circuits = circuits_of(sheet)
    live = (
        path.meter if path.meter.live else circuits.trace(path.function.id, circuits.live_modes[0].id).meter
    )
    found: list[tuple[str, Setup]] = []
    for mode in circuits.live_modes:
        found.append((mode.name, Setup(mode.id, live, here.pulled)))
        if live is MeterRange.VAC and mode.id == here.mode:
            found.append((f"{mode.name}, low impedance", Setup(mode.id, MeterRange.VAC_LOZ, here.pulled)))
    own = [pin[0].id for pin in (sheet.pin(red), sheet.pin(black)) if pin]
    for mode in (mode for mode in sheet.modes if not mode.live):
        for pulled in dict.fromkeys((here.pulled, (), *((name,) for name in own))):
            words = f"{mode.name}, {' and '.join(pulled)} pulled" if pulled else f"{mode.name}, all plugs in"
            found.append((words, Setup(mode.id, MeterRange.OHM, pulled)))
    if here not in [setup for _, setup in found]:
        found.insert(0, (f"{sheet.mode(here.mode).name}, {here.meter.label}", here))
    return tuple(found)


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
    healthy = circuits_of(sheet).reading(setup.mode, setup.meter, red, black, setup.pulled)
    table: Prediction = predict(sheet, (setup,), ((red, black),), known)
    found = []
    for fault, value in zip(known, table.values[0, 1:, 0], strict=True):
        shown = None if np.isinf(value) else float(value)
        quantity = Quantity(setup.meter.dimension, shown, State.OPEN if shown is None else State.VALUE)
        pulses = (setup.mode, fault.id) in table.unsettled
        if verdict_of(healthy, quantity) is Verdict.IN_BAND and not pulses:
            continue
        text = show(setup.meter, shown) + (", pulsing" if pulses else "")
        found.append(FaultReading(fault, shown, text, taken is not None and _fits(setup.meter, shown, taken)))
    return tuple(sorted(found, key=lambda item: (not item.fits, -item.fault.weight)))


def with_fault_column(
    sheet: Sheet, setups: Sequence[Setup], red: str, black: str, fault: str
) -> tuple[str, tuple[str, ...]]:
    """(the fault in words, what each setup would read with it).

    CircuitError for a fault the sheet has not.
    """
    chosen = next((item for item in _known(sheet) if item.id == fault), None) or known_fault(sheet, fault)
    table = predict(sheet, setups, ((red, black),), (chosen,))
    return chosen.name, tuple(
        show(setup.meter, None if np.isinf(value) else float(value))
        for setup, value in zip(setups, table.values[:, 1, 0], strict=True)
    )


def _known(sheet: Sheet) -> tuple[Fault, ...]:
    kept = circuits_of(sheet).kept
    if "faults" not in kept:
        kept["faults"] = faults(sheet)
    return kept["faults"]


def _fits(meter: MeterRange, value: float | None, taken: Quantity) -> bool:
    if value is None or taken.value is None:
        return value is None and taken.state is State.OPEN
    return abs(value - taken.value) <= FIT_SHARE * max(abs(value), abs(taken.value)) + METER_FLOOR[meter]


def segment_of(path: Trace, readings: Iterable[MeterRead]) -> Segment | None:
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
    return localise(path, taken)


@dataclass(frozen=True)
class Fall:
    """An output read in a mode that must have fallen since the mode was left: the reading then, and what
    it must be now."""

    reading: MeterRead
    now: Reading
    mode: str


def falls_due(sheet: Sheet, readings: Iterable[tuple[MeterRead, bool]], mode: str) -> tuple[Fall, ...]:
    """Outputs to be read again.

    ``readings`` are (reading, whether its mode has been left since), oldest first; ``mode`` is the mode
    now.
    """
    readings = list(readings)
    if not mode or not sheet.mode(mode).live:
        return ()
    due = []
    for place, (reading, left) in enumerate(readings):
        if not left or reading.meter == "ohm" or (reading.value.value or 0.0) < ON_VOLTS:
            continue
        again = any(
            later.red == reading.red and later.black == reading.black and later.meter == reading.meter
            for later, _ in readings[place + 1 :]
        )
        now = circuits_of(sheet).reading(
            mode, MeterRange(reading.meter), reading.red, reading.black, reading.pulled
        )
        if not again and (now.value or 0.0) < FALLEN * reading.value.value:
            due.append(Fall(reading, now, reading.mode))
    return tuple(due)


ON_VOLTS = 3.0
FALLEN = 0.3
"""An output counts as on from so many volts, and as fallen when it should be under this share of what it
was."""
