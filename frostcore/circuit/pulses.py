"""What pulses: tachometers and commands by pulse width, in hertz, and what meters make of them in volts.

A square wave from 0 to V that is high for the share D of the time has the mean D·V, and around it the
r.m.s. V·√(D(1 − D)) and the mean deviation 2·V·D(1 − D). A meter on DC shows the mean; on AC one that
answers to the average shows π/(2√2) times the mean deviation, for it is marked for sines; one that answers
to the r.m.s. shows that.
"""

import math
from dataclasses import dataclass

from frostcore.circuit.element import Analysis, CircuitError
from frostcore.circuit.meter import METER_SHARE, Points
from frostcore.circuit.reach import joined
from frostcore.circuit.settle import Settled
from frostcore.circuit.waves import SINE_FORM
from frostcore.parts.loads import SPEED_TOLERANCE
from frostcore.sheet.electrical import Drive
from frostcore.sheet.model import Component, ComponentKind, Sheet

OPEN_COLLECTOR_DUTY = 0.5
"""A tachometer's output is open half of the time."""

MOST_HERTZ = 1000.0
"""A common meter's AC range follows so far."""


@dataclass(frozen=True)
class Pulses:
    """Pulses between two points: hertz with their band (0 where nothing pulses), the share of time they are
    high, and what meters show: DC, AC answering to the average, AC answering to the r.m.s. (None where they
    are faster than a meter's AC range follows)."""

    hertz: float
    low: float
    high: float
    duty: float
    vdc: float
    vac_average: float | None
    vac_rms: float | None


def pulses(sheet: Sheet, settled: Settled, where: Points) -> Pulses:
    """What pulses between two points.

    Raises CircuitError where nothing can pulse: neither a tachometer nor a command of pulses is there.
    """
    for lead in (where.red_node, where.black_node):
        at = joined(settled, lead)
        fan = next((part for part in sheet.components if _tach(settled, part) in at), None)
        if fan is not None:
            return _of_fan(settled, fan)
        for board in sheet.boards:
            drive = next((item for item in board.drives if item.node in at and item.hertz), None)
            if drive is not None:
                return _of_drive(settled, board.component, drive)
    message = (
        f"Nothing pulses between {where.red} and {where.black}: hertz are read at a fan’s tachometer wire or"
        " a command of pulses."
    )
    raise CircuitError(message)


def fan_at(sheet: Sheet, settled: Settled, where: Points) -> Component | None:
    """The fan whose tachometer wire one of two points is on; None where neither is on one."""
    for lead in (where.red_node, where.black_node):
        at = joined(settled, lead)
        for part in sheet.components:
            if _tach(settled, part) in at:
                return part
    return None


def _tach(settled: Settled, part: Component) -> str:
    """The node of a fan's tachometer, empty without one."""
    name = f"{part.id}.tach"
    if part.kind is not ComponentKind.FAN_DC or name not in settled.circuit.branch_index:
        return ""
    return settled.circuit.branch(name).a


def _of_fan(settled: Settled, fan: Component) -> Pulses:
    """F = n·z/60 of speed n and z pulses a turn; a brushless fan's speed goes with its volts."""
    place = settled.circuit.branch_index[f"{fan.id}.tach"]
    if settled.states[place] != "pulses":
        return Pulses(0.0, 0.0, 0.0, 0.0, 0.0, 0.0, 0.0)
    solved = settled.solved[Analysis.DC]
    supply, tach = settled.circuit.branch(fan.id), settled.circuit.branch(f"{fan.id}.tach")
    a, b = settled.circuit.topology.rows_of([supply.a, supply.b])
    share = float((solved.x[a] - solved.x[b]).real) / (fan.nominal.volts or 1.0)
    rpm = (fan.nominal.rpm or 0.0) * min(share, 1.0)
    hertz = rpm * (fan.nominal.pulses_per_revolution or 0.0) / 60
    top, bottom = settled.circuit.topology.rows_of([tach.a, tach.b])
    mean = float((solved.x[top] - solved.x[bottom]).real)
    return _square(hertz, SPEED_TOLERANCE, OPEN_COLLECTOR_DUTY, mean / OPEN_COLLECTOR_DUTY)


def _of_drive(settled: Settled, board: str, drive: Drive) -> Pulses:
    """A command by pulse width: its mean volts as a share of those it switches between."""
    place = settled.circuit.branch_index[f"{board}.{drive.id}"]
    if settled.states[place] != "on" or not drive.hertz:
        return Pulses(0.0, 0.0, 0.0, 0.0, 0.0, 0.0, 0.0)
    high = drive.high_volts or drive.volts
    return _square(drive.hertz, METER_SHARE, drive.volts / high, high)


def _square(hertz: float, tolerance: float, duty: float, volts: float) -> Pulses:
    deviation = duty * (1 - duty)
    followed = hertz <= MOST_HERTZ
    return Pulses(
        hertz,
        hertz * (1 - tolerance),
        hertz * (1 + tolerance),
        duty,
        duty * volts,
        SINE_FORM * 2 * volts * deviation if followed else None,
        volts * math.sqrt(deviation) if followed else None,
    )
