"""A board taken out and read on the bench, as entries."""

from dataclasses import dataclass
from typing import Literal

from frostcore.quantity import Quantity
from frostcore.verdict import Verdict


@dataclass(frozen=True)
class BoardOut:
    """A board out of its unit, on the mat: which, the kind of its supply (empty where the sheet describes
    it), the mains at the bench, whether there is an ESR meter."""

    kind: Literal["board_out"]
    board: str
    mains: Quantity
    supply: str = ""
    esr: bool = True


@dataclass(frozen=True)
class BoardRead:
    """A reading on it: the probe and its name in words, what was read (text as one types it, or an answer),
    how it was understood and where it stands."""

    kind: Literal["board_read"]
    probe: str
    name: str
    value: str
    shown: str
    verdict: str = ""

    def __post_init__(self) -> None:
        if self.verdict and self.verdict not in set(Verdict):
            message = f"“{self.verdict}” is no verdict"
            raise ValueError(message)


@dataclass(frozen=True)
class BoardBack:
    """The board back in its unit; what was read before is of the board as it was. ``found`` is what the
    bench made of its supply, where that is sure."""

    kind: Literal["board_back"]
    board: str
    found: Literal["", "bench_sound", "bench_bad"] = ""
