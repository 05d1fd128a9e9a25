"""A recheck of a unit after the work, asked for and told: as entries."""

from dataclasses import dataclass, field
from datetime import date
from typing import Literal

from frostcore.quantity import Quantity

By = Literal["customer", "us"]


@dataclass(frozen=True)
class RecheckAsked:
    """That a unit is to be looked at again: on which day (ISO), by whom, in which compartments."""

    kind: Literal["recheck_asked"]
    day: str
    by: By
    places: tuple[str, ...]

    def __post_init__(self) -> None:
        try:
            date.fromisoformat(self.day)
        except ValueError:
            message = f"“{self.day[:20]}” is no day; write it as 2026-02-27"
            raise ValueError(message) from None


@dataclass(frozen=True)
class RecheckTold:
    """What a recheck found: a temperature a compartment, whether the unit is quiet at times, what its display
    shows, a remark."""

    kind: Literal["recheck_told"]
    by: By
    temperatures: dict[str, Quantity] = field(default_factory=dict)
    quiet: Literal["", "yes", "no"] = ""
    display: str = ""
    note: str = ""
