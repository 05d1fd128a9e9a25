"""What may be wrong with a unit: every single fault of the catalogue, nothing that is modelled, or
something that is not."""

from collections.abc import Sequence
from dataclasses import dataclass
from functools import cached_property
from typing import Generic, Protocol, TypeVar

import numpy as np
import numpy.typing as npt

from frostcore.circuit.kept import circuits_of
from frostcore.faults.known import Fault, faults
from frostcore.sheet.model import Sheet

Floats = npt.NDArray[np.float64]
Places = npt.NDArray[np.intp]

WELL, ELSEWHERE = "well", "elsewhere"

WELL_SHARE, ELSEWHERE_SHARE = 0.03, 0.015
FAULTY_SHARE = 1 - WELL_SHARE - ELSEWHERE_SHARE
"""Of the units a repairer is called to, so many have nothing wrong with them, and so many something that no
catalogue has."""

_WORDS = {
    WELL: "nothing that is modelled is wrong",
    ELSEWHERE: "something that no catalogue of faults has",
}


@dataclass(frozen=True)
class Hypothesis:
    """One way the unit may be: its id, the repair unit (what would be fitted or mended), words, the fault
    (None for a unit that is well, or wrong in a way nobody models), and its probability before anything is
    known."""

    id: str
    unit: str
    name: str
    fault: Fault | None
    prior: float

    @property
    def component(self) -> str:
        """The component at fault, empty where there is none."""
        return self.fault.component if self.fault else ""

    @property
    def comes_and_goes(self) -> bool:
        """Whether its fault does."""
        return bool(self.fault and self.fault.comes_and_goes)


class Hypothetical(Protocol):
    """One way something may be: its id, what would be fitted, its probability before anything is known, and
    whether it comes and goes."""

    @property
    def id(self) -> str: ...

    @property
    def unit(self) -> str: ...

    @property
    def prior(self) -> float: ...

    @property
    def comes_and_goes(self) -> bool: ...


One = TypeVar("One", bound=Hypothetical)


class Grouped(Generic[One]):
    """Hypotheses in a fixed order, grouped by what would be fitted; what is well first, what is not modelled
    last."""

    def __init__(self, every: Sequence[One]) -> None:
        self.all: tuple[One, ...] = tuple(every)
        self.prior: Floats = np.array([item.prior for item in self.all])
        self.units = tuple(dict.fromkeys(item.unit for item in self.all))
        number = {unit: place for place, unit in enumerate(self.units)}
        self.unit: Places = np.array([number[item.unit] for item in self.all], np.intp)
        """The place of each one's repair unit."""
        self.comes_and_goes = np.array([item.comes_and_goes for item in self.all])

    def __len__(self) -> int:
        return len(self.all)

    @cached_property
    def place(self) -> dict[str, int]:
        """Where each stands, by id."""
        return {item.id: place for place, item in enumerate(self.all)}

    def of_unit(self, unit: str) -> Places:
        """The places of a repair unit's hypotheses."""
        return np.flatnonzero(self.unit == self.units.index(unit))


class Hypotheses(Grouped[Hypothesis]):
    """All of a sheet's."""

    def __init__(self, sheet: Sheet) -> None:
        known = faults(sheet)
        weight = sum(fault.weight for fault in known) or 1.0
        super().__init__(
            (
                Hypothesis(WELL, WELL, _WORDS[WELL], None, WELL_SHARE),
                *(
                    Hypothesis(
                        fault.id,
                        fault.unit or fault.component,
                        fault.name,
                        fault,
                        FAULTY_SHARE * fault.weight / weight,
                    )
                    for fault in known
                ),
                Hypothesis(ELSEWHERE, ELSEWHERE, _WORDS[ELSEWHERE], None, ELSEWHERE_SHARE),
            )
        )
        self.circuit: tuple[Fault, ...] = tuple(fault for fault in known if fault.acts)
        rows = {fault.id: row for row, fault in enumerate(self.circuit, 1)}
        self.row: Places = np.array([rows.get(item.id, 0) for item in self.all])
        """Each one's row in a table of predictions: that of a circuit, or the healthy unit's."""
        self.in_amounts = np.array([bool(item.fault and item.fault.spread) for item in self.all])


def hypotheses_of(sheet: Sheet) -> Hypotheses:
    """A sheet's, kept with its circuits."""
    kept = circuits_of(sheet).kept
    if "hypotheses" not in kept:
        kept["hypotheses"] = Hypotheses(sheet)
    found: Hypotheses = kept["hypotheses"]
    return found
