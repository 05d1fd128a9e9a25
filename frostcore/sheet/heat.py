"""What a sheet states of a unit over time: the levels its control keeps, its defrost, what its board takes.

All of it may be absent: then such a unit's usual figures hold, and it is said.
"""

from dataclasses import dataclass
from typing import Literal

COLDEST, WARMEST = -60.0, 40.0
LONGEST_DEFROST, MOST_HOURS, MOST_WATTS = 180.0, 1000.0, 60.0


@dataclass(frozen=True)
class LevelsStated:
    """A loop's levels, °C: of the air of a compartment (``place``), or of the thermostat's bulb where it is
    left out."""

    cut_in_celsius: float
    cut_out_celsius: float
    place: str = ""

    def __post_init__(self) -> None:
        if not COLDEST <= self.cut_out_celsius < self.cut_in_celsius <= WARMEST:
            levels = f"it cuts out at {self.cut_out_celsius:g} and in at {self.cut_in_celsius:g} °C"
            message = f"{levels}; the cut-out is the colder, both from {COLDEST:g} to {WARMEST:g}"
            raise ValueError(message)


@dataclass(frozen=True)
class DefrostStated:
    """When a defrost begins (after so many hours of running, or by the clock), at which coil temperature it
    ends, after how many minutes at the latest, how long the water drips."""

    hours: float
    counts: Literal["running", "clock"] = "running"
    ends_celsius: float | None = None
    most_minutes: float | None = None
    drips_minutes: float | None = None

    def __post_init__(self) -> None:
        if not 0 < self.hours <= MOST_HOURS:
            message = f"a defrost each {self.hours:g} h; write up to {MOST_HOURS:g} hours"
            raise ValueError(message)
        if self.ends_celsius is not None and not 0 < self.ends_celsius <= WARMEST:
            message = f"a defrost that ends at {self.ends_celsius:g} °C; write above 0, up to {WARMEST:g}"
            raise ValueError(message)
        for minutes in (self.most_minutes, self.drips_minutes):
            if minutes is not None and not 0 <= minutes <= LONGEST_DEFROST:
                message = f"{minutes:g} min of a defrost; write up to {LONGEST_DEFROST:g}"
                raise ValueError(message)


@dataclass(frozen=True)
class ThermalStated:
    """A unit over time, as its maker states it."""

    levels: tuple[LevelsStated, ...] = ()
    defrost: DefrostStated | None = None
    board_watts: float | None = None

    def __post_init__(self) -> None:
        if self.board_watts is not None and not 0 <= self.board_watts <= MOST_WATTS:
            message = f"a board of {self.board_watts:g} W; write up to {MOST_WATTS:g}"
            raise ValueError(message)
