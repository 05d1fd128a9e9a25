"""A bench reading as it is typed, and as a meter's screen says it."""

import math

from frostcore.bench.judge import BenchJudgement
from frostcore.bench.ranges import BenchRange
from frostcore.bench.weigh import BenchReading
from frostcore.errors import FrostError, QuantityError
from frostcore.quantity import Dimension, Quantity, State, format_ohms, format_value, parse
from frostcore.rows import quantity


def shown_value(which: BenchRange, value: float | None) -> str:
    """A value as a meter's screen says it."""
    if value is None or math.isinf(value):
        return "OL"
    if which in {BenchRange.OHM, BenchRange.ESR}:
        return format_ohms(value) if value >= MILLI else f"{value:.2f} Ω"
    if which is BenchRange.FARADS:
        return format_value(value, Dimension.CAPACITANCE)
    if which is BenchRange.DIODE or abs(value) < 1:
        return f"{value:.2f} V"
    return format_value(value, Dimension.VOLTAGE)


MILLI = 1.0


def reading_from(judgement: BenchJudgement, probe_id: str, typed: str) -> tuple[BenchReading, str]:
    """A reading as typed at a probe, and how it is understood; FrostError for a probe the board has not, an
    answer there is none of, a value no meter shows there."""
    table = judgement.table
    if probe_id not in table.row:
        some = ", ".join(probe.id for probe in table.probes[:4])
        raise FrostError(f"There is no reading “{probe_id}” on this board; there are {some} and others.")
    probe = table.probes[table.row[probe_id]]
    answers = probe.range.answers
    if answers:
        word = typed.strip().lower()
        if word not in answers:
            options = " or ".join(answers)
            raise FrostError(f"{probe.name}: “{typed.strip()}” is no answer; write {options}.")
        return BenchReading(probe_id, answer=word), answers[word]
    dimension = probe.range.dimension
    assert dimension is not None  # noqa: S101 -- what is no answer is a figure
    if _is_open(typed):
        if probe.live:
            raise FrostError(f"{probe.name}: volts are never OL; type what the meter shows, such as 12.1 V.")
        return BenchReading(probe_id), "OL"
    found: Quantity = quantity(probe.name, typed, dimension)
    value = 0.0 if found.state is State.SHORT else abs(found.number)
    most = probe.range.row.most
    if value > most:
        raise FrostError(f"{probe.name}: {found.text} is none; up to {shown_value(probe.range, most)}.")
    return BenchReading(probe_id, value), shown_value(probe.range, value)


def _is_open(typed: str) -> bool:
    """Whether OL was typed, which a diode test and a capacitance meter show too."""
    try:
        found = parse(typed, Dimension.RESISTANCE)
    except QuantityError:
        return False
    return isinstance(found, Quantity) and found.state is State.OPEN
