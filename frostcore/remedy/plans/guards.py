"""What guards a load: the protectors whose opening takes its power away, and what decides that it stops.

By function, not by path: a protector guards a load when in every state the load runs in, holding that one
open stops it. So a fuse moved within its path still guards, and one bridged, by whatever way, does not.
"""

from collections.abc import Iterable
from functools import cached_property

from frostcore.circuit.figures import FUSE_AMPERES
from frostcore.remedy.plans.running import K, Running
from frostcore.sheet.model import Component
from frostcore.sheet.rewired import boards_out

PROTECTORS = {K.FUSE, K.THERMAL_FUSE, K.BIMETAL, K.OVERLOAD}
COLDER = 1.0
"""Kelvin by which another thermal protector may open later and still stand in."""


class Guards:
    """The guards of every load of a unit."""

    def __init__(self, running: Running) -> None:
        self.running = running
        self.parts = running.parts

    @cached_property
    def of(self) -> dict[str, frozenset[str]]:
        """Protectors by the load's branch; a load that never runs has no entry."""
        return self._always(self._protectors)

    @cached_property
    def deciders(self) -> dict[str, frozenset[str]]:
        """What decides by temperature that a load stops, by the load's branch: thermostats, and boards that
        still have their mains by their outputs."""
        return self._always(self._stats | self._boards)

    @cached_property
    def switched_by_board(self) -> dict[str, frozenset[str]]:
        """The boards that really switch a load, by the load's branch."""
        return self._always(self._boards)

    @cached_property
    def _protectors(self) -> dict[str, tuple[str, ...]]:
        return {part.id: (part.id,) for part in self.parts.values() if part.kind in PROTECTORS}

    @cached_property
    def _stats(self) -> dict[str, tuple[str, ...]]:
        return {part.id: (part.id,) for part in self.parts.values() if part.kind is K.THERMOSTAT}

    @cached_property
    def _boards(self) -> dict[str, tuple[str, ...]]:
        """Every output and command of each board that has its mains."""
        sheet = self.running.sheet
        out = {board.component for board in boards_out(sheet)}
        found: dict[str, tuple[str, ...]] = {}
        for board in sheet.boards:
            names = [item.id for item in board.switches] + [item.id for item in board.drives]
            if names and board.component not in out:
                found[board.component] = tuple(f"{board.component}.{name}" for name in names)
        return found

    @cached_property
    def _left(self) -> list[dict[str, frozenset[str]]]:
        """What still runs in each state with each of them held open or off: all in one go."""
        groups = self._protectors | self._stats | self._boards
        found = self.running.with_off(list(groups.values()))
        return [dict(zip(groups, each, strict=True)) for each in found]

    def _always(self, groups: Iterable[str]) -> dict[str, frozenset[str]]:
        """By load: the groups that stop it in every state it runs in."""
        found: dict[str, frozenset[str]] = {}
        for state, left in zip(self.running.states, self._left, strict=True):
            for load in state.running:
                here = frozenset(name for name in groups if load not in left[name])
                found[load] = found[load] & here if load in found else here
        return found


def stands_in(lost: Component, others: Iterable[Component]) -> bool:
    """Whether another protector does what a lost one did: a fuse of no more amperes, an overload of no more,
    what opens by heat in the same place no later."""
    for other in others:
        if other.kind is not lost.kind:
            continue
        if lost.kind in {K.FUSE, K.OVERLOAD}:
            most = lost.nominal.amperes or FUSE_AMPERES
            if other.nominal.amperes is not None and other.nominal.amperes <= most:
                return True
        elif other.place == lost.place:
            was, now = lost.nominal.opens_celsius, other.nominal.opens_celsius
            if was is not None and now is not None and now <= was + COLDER:
                return True
    return False
