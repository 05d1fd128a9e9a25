"""Whether a sheet's circuit can be built and solved in every mode, told place by place before anybody
works with it."""

from collections.abc import Callable, Iterator

from frostcore.circuit.build import build
from frostcore.circuit.element import Branch, BranchKind, CircuitError
from frostcore.circuit.meter import MeterRange, expect, points, show
from frostcore.circuit.reach import contacts_of, load_of
from frostcore.circuit.settle import Settled, settle
from frostcore.document import Problem
from frostcore.errors import SheetError
from frostcore.sheet.model import Sheet


def check_circuit(sheet: Sheet, scene: Callable[[str], Settled] | None = None) -> None:
    """Raise SheetError with what is wrong in each mode; a sheet with no harness has no circuit to check.

    ``scene`` settles a mode; by default anew.
    """
    found = (
        list(_problems(sheet, scene or (lambda mode: settle(build(sheet, mode))))) if sheet.harness else []
    )
    if found:
        raise SheetError(found)


def _stated(sheet: Sheet, scene: Callable[[str], Settled]) -> Iterator[Problem]:
    """Stated readings whose points, mode or connectors the sheet has not."""
    known = {connector.id for connector in sheet.connectors}
    for index, given in enumerate(sheet.stated_readings):
        place = f"stated_readings[{index}]"
        for name in given.pulled:
            if name not in known:
                yield Problem(f"{place}.pulled", f"there is no connector “{name}” on this sheet")
        if given.meter not in set(MeterRange):
            continue  # hertz are not the circuit's
        try:
            settled = scene(given.mode or sheet.modes[0].id)
            points(sheet, settled.circuit, given.red, given.black, MeterRange(given.meter))
        except CircuitError as error:
            yield Problem(place, str(error))


def _problems(sheet: Sheet, scene: Callable[[str], Settled]) -> Iterator[Problem]:
    told = set()
    for index, mode in enumerate(sheet.modes):
        try:
            settled = scene(mode.id)
        except (CircuitError, ValueError) as error:
            if str(error) not in told:
                told.add(str(error))
                yield Problem(f"modes[{index}]", str(error))
            continue
        if settled.unsettled:
            yield Problem(
                f"modes[{index}]",
                f"In {mode.name.lower()} this never settles: {', '.join(settled.unsettled)}. Look at the rail"
                " that feeds it, and at what it needs.",
            )
    if not told:
        yield from _stated(sheet, scene)


def circuit_doubts(sheet: Sheet, scene: Callable[[str], Settled] | None = None) -> tuple[Problem, ...]:
    """What a sheet's circuit says against the sheet: loads a mode switches on that don't run, protection
    that acts in a healthy unit, stated readings that are not what the circuit gives.

    For a sheet that passed :func:`check_circuit`.
    """
    if not sheet.harness:
        return ()
    settle_mode = scene or (lambda mode: settle(build(sheet, mode)))
    return (*_stand_still(sheet, settle_mode), *_against_stated(sheet, settle_mode))


LEAST_VOLTS = 1.0
"""With less across it no load of a refrigerator runs."""


def _stand_still(sheet: Sheet, scene: Callable[[str], Settled]) -> Iterator[Problem]:
    """Loads that are switched on in a mode and get nothing, and healthy units whose protection acts."""
    for index, mode in enumerate(sheet.modes):
        if not mode.live:
            continue
        settled = scene(mode.id)
        for words in settled.tripped:
            yield Problem(f"modes[{index}]", f"{words} in the healthy unit. Look for a short, or its limit")
        for branch in settled.circuit.branches:
            control = branch.control
            if control is None or control.signal not in mode.signals or branch.kind is not BranchKind.SWITCH:
                continue
            if settled.states[settled.circuit.branch_index[branch.id]] != control.on:
                told = f"{branch.name} is switched on and does not close: its board has no supply there"
                yield Problem(f"modes[{index}].signals", f"{told}. Look at the feed and the rails")
                continue
            load = load_of(settled.circuit, branch)
            if load and not _runs(settled, load):
                told = f"{load.name} is switched on and gets nothing: its loop is not closed on the sheet"
                yield Problem(f"modes[{index}].signals", f"{told}. Follow its wires from the board and back")


def _runs(settled: Settled, load: Branch) -> bool:
    """Whether a load has volts, or a contact in its own loop is open by right."""
    a, b = settled.circuit.topology.rows_of([load.a, load.b])
    across = max(abs(solved.x[a] - solved.x[b]) for solved in settled.solved.values())
    open_by_right = any(
        branch.may or settled.states[settled.circuit.branch_index[branch.id]] == "open"
        for branch in contacts_of(settled.circuit, load)
    )
    return bool(across > LEAST_VOLTS) or open_by_right


def _against_stated(sheet: Sheet, scene: Callable[[str], Settled]) -> Iterator[Problem]:
    """Stated readings the circuit contradicts: they beat it, so one of the two is wrong."""
    for index, given in enumerate(sheet.stated_readings):
        if given.meter not in set(MeterRange):
            continue
        meter, mode = MeterRange(given.meter), given.mode or sheet.modes[0].id
        settled = settle(build(sheet, mode, live=meter.live, pulled=given.pulled))
        reading = expect(settled, points(sheet, settled.circuit, given.red, given.black, meter), meter)
        if reading.value is None or not reading.firm or reading.phantom or reading.ways:
            continue
        low, high = (limit if limit is not None else reading.value for limit in (reading.low, reading.high))
        if high < given.low or low > given.high:
            told = f"stated {show(meter, given.low)} to {show(meter, given.high)}, and the circuit gives"
            cure = (
                "Which is right: the value typed, the parts it lies across, or the plugs said to be pulled?"
            )
            yield Problem(f"stated_readings[{index}]", f"{told} {reading.words}. {cure}")
