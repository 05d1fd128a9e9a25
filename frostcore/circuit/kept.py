"""A sheet's circuits, settled once and kept: the same mode is asked for by every line of a page."""

from collections import OrderedDict
from functools import cached_property
from threading import Lock
from typing import Any, Self

from frostcore.circuit.build import Builder, Warmth
from frostcore.circuit.check import check_circuit, circuit_doubts
from frostcore.circuit.damage import HEALTHY, Damage
from frostcore.circuit.element import CircuitError
from frostcore.circuit.faulted import with_fault
from frostcore.circuit.meter import MeterRange, Reading, as_stated, expect, points
from frostcore.circuit.power import draws
from frostcore.circuit.settle import Settled, settle
from frostcore.circuit.trace import FunctionName, Trace, function_named, functions, trace
from frostcore.document import Problem
from frostcore.errors import SheetError
from frostcore.sheet.doubts import doubts
from frostcore.sheet.kept import KeptBySheet
from frostcore.sheet.model import ComponentKind, Mode, Sheet

KEPT_SHEETS, KEPT_SCENES, KEPT_TRACES = 24, 64, 1000


class UnitCircuits:
    """One sheet's settled circuits by mode, power and pulled connectors, and what is read off them.

    ``kept`` is for what layers above compute from the sheet alone and want to keep as long.
    """

    def __init__(self, sheet: Sheet) -> None:
        self.sheet = sheet
        self._resting = {item.id for item in sheet.modes if not item.live}
        self._scenes: OrderedDict[tuple[str, bool, tuple[str, ...], Warmth], Settled] = OrderedDict()
        self._traces: dict[tuple[str, str, bool, tuple[str, ...], Warmth], Trace] = {}
        self.kept: dict[str, Any] = {}
        self._lock = Lock()

    def scene(
        self,
        mode: str,
        *,
        live: bool = True,
        pulled: tuple[str, ...] = (),
        damage: Damage = HEALTHY,
        celsius: Warmth = (),
    ) -> Settled:
        """The unit settled in a mode, healthy or with a fault; with ``live`` False, with the plug out.

        ``celsius`` are places' temperatures as measured. Raises CircuitError for unknown names.
        """
        if damage is not HEALTHY:
            return with_fault(self.scene(mode, live=live, pulled=pulled, celsius=celsius), damage)
        live = live and mode not in self._resting
        key = (mode, live, tuple(sorted(pulled)), celsius)
        found = self._scenes.get(key)
        if found is None:
            found = settle(self._builder.circuit(mode, live=live, pulled=key[2], celsius=celsius))
        with self._lock:
            self._scenes[key] = found
            self._scenes.move_to_end(key)
            while len(self._scenes) > KEPT_SCENES:
                self._scenes.popitem(last=False)
        return found

    @cached_property
    def _builder(self) -> Builder:
        return Builder(self.sheet)

    def reading(
        self,
        mode: str,
        meter: MeterRange,
        red: str,
        black: str,
        pulled: tuple[str, ...] = (),
        celsius: Warmth = (),
    ) -> Reading:
        """What a healthy unit reads, in the maker's band where the sheet states one.

        CircuitError for a point that is not there.
        """
        settled = self.scene(mode, live=meter.live, pulled=pulled, celsius=celsius)
        found = expect(settled, points(self.sheet, settled.circuit, red, black, meter), meter)
        return as_stated(self.sheet, found, mode, red, black, pulled)

    @cached_property
    def contact_places(self) -> tuple[tuple[str, frozenset[str]], ...]:
        """Where contacts sit that stand as their temperature says: each place, with it and all around it."""
        found = {}
        for component in self.sheet.components:
            if component.kind is ComponentKind.BIMETAL:
                place, around = component.place, [component.place]
                while place := self.sheet.place(place).inside:
                    around.append(place)
                found[component.place] = frozenset(around)
        return tuple(found.items())

    @cached_property
    def functions(self) -> tuple[FunctionName, ...]:
        """Everything that can be traced.

        Nothing on a sheet without a harness, or whose circuit lacks something (see ``problem``).
        """
        if not self.sheet.harness or not self.sheet.modes or self.problem:
            return ()
        found = self.scene(self.sheet.resting_mode, live=False)
        return tuple(item for item in functions(self.sheet, found.circuit) if self._has_path(item.id))

    @property
    def foretelling(self) -> Self:
        """These circuits, where they foretell anything; CircuitError with the reason where they don't."""
        if self.functions:
            return self
        why = (self.problem or "It has no harness lines").rstrip(".")
        message = f"Nothing is foretold of the {self.sheet.title}, so nothing can be judged of it. {why}."
        raise CircuitError(message)

    @cached_property
    def problem(self) -> str:
        """Why this sheet's circuit can't be computed, or empty."""
        try:
            check_circuit(self.sheet, self.scene)
        except SheetError as error:
            return str(error)
        return ""

    @cached_property
    def doubts(self) -> tuple[Problem, ...]:
        """What is hardly meant on this sheet, by its entries and by its circuit."""
        return (*doubts(self.sheet), *(() if self.problem else circuit_doubts(self.sheet, self.scene)))

    def _has_path(self, name: str) -> bool:
        try:
            self.trace(name, self.sheet.resting_mode, live=False)
        except CircuitError:
            return False
        return True

    def trace(
        self,
        name: str,
        mode: str,
        *,
        live: bool = True,
        pulled: tuple[str, ...] = (),
        celsius: Warmth = (),
    ) -> Trace:
        """The path of a function in a mode."""
        key = (name, mode, live, tuple(sorted(pulled)), celsius)
        found = self._traces.get(key)
        if found is None:
            settled = self.scene(mode, live=live, pulled=pulled, celsius=celsius)
            found = trace(self.sheet, settled, function_named(self.sheet, settled.circuit, name))
        with self._lock:
            if len(self._traces) >= KEPT_TRACES:
                self._traces.clear()
            self._traces[key] = found
        return found

    def working(self, mode: str, pulled: tuple[str, ...] = ()) -> frozenset[str]:
        """The branches of every path whose load has power in a mode: what runs, heats or lights then."""
        found: set[str] = set()
        settled = self.scene(mode, pulled=pulled)
        taking = {draw.branch for draw in draws(settled)}
        for item in self.functions:
            if item.branch in taking:
                found |= self.trace(item.id, mode, pulled=pulled).branches
        return frozenset(found)

    @property
    def live_modes(self) -> tuple[Mode, ...]:
        """The modes with the plug in."""
        return tuple(mode for mode in self.sheet.modes if mode.live)


_kept = KeptBySheet(UnitCircuits, KEPT_SHEETS)


def circuits_of(sheet: Sheet) -> UnitCircuits:
    """The circuits of a sheet, kept."""
    return _kept.of(sheet)
