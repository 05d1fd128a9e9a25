"""Whether a sheet's circuit can be built and solved in every mode, told place by place before anybody
works with it."""

from collections.abc import Callable, Iterator

from frostcore.circuit.build import build
from frostcore.circuit.element import CircuitError
from frostcore.circuit.meter import MeterRange, points
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
