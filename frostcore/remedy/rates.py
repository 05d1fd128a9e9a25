"""What a workshop reckons with: its hour, its way, its customers' patience. Each is a setting of its own."""

import math
from collections.abc import Mapping
from dataclasses import asdict, dataclass, fields
from typing import Any

from frostcore.errors import FrostError

MOST = 1_000_000.0


SHARES = (
    "restocking",
    "mend_lasts",
    "exchange_share",
    "exchange_good",
    "used_share",
    "used_good",
)
"""Rates that are shares, from 0 to 1."""


class RatesError(FrostError):
    """A rate that is none, naming it."""


@dataclass(frozen=True)
class Rates:
    """Money an hour; for the way to the unit; minutes to set up there; money a day waited is worth; what a
    working unit of this age is worth (beyond that it is not mended); the share of a part's price lost when it
    is ordered and not needed; what a wrong part costs beside its price; minutes of a proof; minutes and price
    of mending a wire or a contact; minutes of what is put right by hand; minutes of mending a board and how
    often that lasts; what an exchanged and a used board cost as a share of a new one, and how often they are
    good (a share of nothing: this workshop does not offer it); minutes a joint of a changed wiring takes."""

    hour: float = 60.0
    travel: float = 45.0
    set_up_minutes: float = 10.0
    wait_a_day: float = 8.0
    stop: float = 700.0
    restocking: float = 0.3
    wrong_part: float = 25.0
    proof_minutes: float = 6.0
    harness_minutes: float = 15.0
    harness_price: float = 3.0
    by_hand_minutes: float = 15.0
    mend_minutes: float = 45.0
    mend_lasts: float = 0.8
    exchange_share: float = 0.0
    exchange_good: float = 0.95
    used_share: float = 0.0
    used_good: float = 0.85
    joint_minutes: float = 4.0

    def __post_init__(self) -> None:
        for name, value in asdict(self).items():
            if not 0 <= value <= MOST:
                raise RatesError(f"{name}: {value:g} is no rate. Type a figure from 0 to {MOST:,.0f}.")
        for name in SHARES:
            if getattr(self, name) > 1:
                raise RatesError(f"{name}: {getattr(self, name):g} is no share. Type one from 0 to 1.")

    def visit(self, days: float) -> float:
        """What another visit costs, so many days waited for."""
        return self.travel + self.labour(self.set_up_minutes) + self.wait_a_day * days

    def labour(self, minutes: float) -> float:
        """What minutes cost."""
        return self.hour * minutes / 60


def read_rates(data: Any) -> Rates:
    """Rates from plain data, those left out as usual; RatesError naming what is wrong."""
    if not isinstance(data, Mapping):
        raise RatesError('Rates are an object such as {"hour": 60, "travel": 45}.')
    known = [field.name for field in fields(Rates)]
    for name, value in data.items():
        if name not in known:
            raise RatesError(f"There is no rate “{name}”. There are {', '.join(known)}.")
        if isinstance(value, bool) or not isinstance(value, int | float) or not math.isfinite(value):
            raise RatesError(f"{name}: “{value}” is no figure.")
    return Rates(**{name: float(value) for name, value in data.items()})
