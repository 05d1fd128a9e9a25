"""The most basic test of safety: mains on the chassis, measured after any work, before the plug goes in."""

from dataclasses import dataclass

from frostcore.circuit.element import CircuitError
from frostcore.circuit.kept import circuits_of
from frostcore.circuit.meter import MeterRange, node_of
from frostcore.circuit.reach import mains_nodes
from frostcore.parts.loads import LEAK_OHMS
from frostcore.sheet.electrical import EARTH
from frostcore.sheet.model import ComponentKind, Sheet
from frostcore.tape.entries import PartFitted, Power, ReadingTaken, StepDone
from frostcore.tape.standing import Standing


@dataclass(frozen=True)
class InsulationDue:
    """Two points to measure in ohms before the plug goes in; ``leaks`` is what the last such reading
    showed where that was too little, else empty."""

    red: str
    black: str
    leaks: str = ""


def insulation_due(standing: Standing) -> InsulationDue | None:
    """Whether mains to the chassis must be measured now.

    With the plug out, once a part has been fitted or a place closed again since it last was, and while it
    leaks. None without a plug on the sheet.
    """
    sheet = standing.sheet
    red = next((f"{item.id}.l" for item in sheet.components if item.kind is ComponentKind.PLUG), "")
    if standing.power is not Power.UNPLUGGED or not red or not sheet.harness or not sheet.modes:
        return None
    worked, last = False, None
    for slip in reversed(standing.effective):
        body = slip.entry.body
        if isinstance(body, PartFitted) or (isinstance(body, StepDone) and body.state == "closed"):
            worked = True
        elif isinstance(body, ReadingTaken) and is_to_chassis(sheet, body):
            pulled = slip.moment.pulled if body.pulled is None else body.pulled
            if leaks(body) or not pulled:  # sound with a plug pulled says nothing of what hangs on it
                last = body
                break
    if last is not None and leaks(last):
        return InsulationDue(last.red, last.black, last.value.text)
    return InsulationDue(red, EARTH) if worked else None


def leaks(reading: ReadingTaken) -> bool:
    """Whether a reading of mains to the chassis is too low."""
    return reading.value.value is not None and reading.value.number < LEAK_OHMS


def is_to_chassis(sheet: Sheet, reading: ReadingTaken) -> bool:
    """Whether a reading is of mains to the chassis, in ohms; asked of a long tape, and so kept by its
    points."""
    if reading.meter != "ohm":
        return False
    known = circuits_of(sheet).kept.setdefault("to the chassis", {})
    pair = (reading.red, reading.black)
    if pair not in known:
        known[pair] = _is_to_chassis(sheet, pair)
    return bool(known[pair])


def _is_to_chassis(sheet: Sheet, pair: tuple[str, str]) -> bool:
    try:
        circuit = circuits_of(sheet).scene(sheet.resting_mode, live=False).circuit
        ends = {node_of(sheet, circuit, point, MeterRange.VAC) for point in pair}
    except CircuitError:
        return False
    return EARTH in ends and bool(ends & mains_nodes(circuit))
