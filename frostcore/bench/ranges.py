"""A meter's positions at the bench, and what is asked without one: a row each."""

from dataclasses import dataclass, field
from enum import StrEnum

from frostcore.circuit.meter import METER_FLOOR, MeterRange
from frostcore.parts.twin import DIMENSIONS, Meter
from frostcore.quantity import Dimension

BAD, GOOD = "bad", "good"
DEAD, TRIES, ALIVE = "dead", "tries", "alive"
HELPS, WORSENS, NOTHING = "helps", "worsens", "nothing"
CHANGES, STAYS = "changes", "stays"
SWITCHES, IDLE = "switches", "idle"


class BenchRange(StrEnum):
    """A meter's position at the bench; eyes; or what is known of how the board worked."""

    OHM = "ohm"
    DIODE = "diode"
    ESR = "esr"
    FARADS = "farads"
    VAC = "vac"
    VDC = "vdc"
    LOOK = "look"
    SAID = "said"
    BESIDE = "beside"
    WARMED = "warmed"
    MOVED = "moved"
    DRIVEN = "driven"

    @property
    def row(self) -> "Position":
        """What there is to say of it."""
        return _ROWS[self]

    @property
    def dimension(self) -> Dimension | None:
        """What it measures; None of what is no figure."""
        return DIMENSIONS[self.row.meter] if self.row.meter else None

    @property
    def answers(self) -> dict[str, str]:
        """The answers there are with their words, where it is no figure; none else."""
        return self.row.answers


@dataclass(frozen=True)
class Position:
    """A position in words; the minutes it takes, of a live one with all that comes before it; whether the
    board is on the mains then.

    Of one that shows figures: what two boards' table calls it, the meter's own error as a share and at least
    (leads zeroed, contact, the last digits), within what its scale is linear (y = asinh(value/unit)), the
    most that is shown there, and under what a reading that should be OL is a short. Of others the answers,
    and the one a sound part gives (``clears``)."""

    label: str
    minutes: float
    live: bool = False
    meter: Meter | None = None
    share: float = 0.0
    floor: float = 0.0
    unit: float = 1.0
    most: float = 0.0
    short: float = 0.0
    answers: dict[str, str] = field(default_factory=dict)
    clears: str = ""


_ROWS: dict[BenchRange, Position] = {
    BenchRange.OHM: Position(
        "ohms", 1.0, meter=Meter.OHM, share=0.01, floor=METER_FLOOR[MeterRange.OHM] / 3, most=1e9, short=5.0
    ),
    BenchRange.DIODE: Position(
        "diode test", 1.0, meter=Meter.DIODE, share=0.02, floor=0.01, unit=0.1, most=5.0, short=0.05
    ),
    BenchRange.ESR: Position(
        "ESR", 1.3, meter=Meter.ESR, share=0.05, floor=0.02, unit=0.05, most=1e5, short=0.01
    ),
    BenchRange.FARADS: Position(
        "capacitance", 1.6, meter=Meter.FARAD, share=0.05, floor=2e-9, unit=1e-9, most=0.1
    ),
    BenchRange.VAC: Position(
        "AC volts", 2.5, live=True, meter=Meter.VAC, share=0.015, floor=0.05, unit=0.1, most=500.0
    ),
    BenchRange.VDC: Position(
        "DC volts",
        2.5,
        live=True,
        meter=Meter.VDC,
        share=0.005,
        floor=METER_FLOOR[MeterRange.VDC],
        most=600.0,
    ),
    BenchRange.LOOK: Position(
        "a look", 0.5, answers={BAD: "domed, cracked or burnt", GOOD: "looks good"}, clears=GOOD
    ),
    BenchRange.SAID: Position(
        "what it did",
        0.3,
        answers={
            DEAD: "nothing at all",
            TRIES: "tries again and again",
            ALIVE: "lives, but something is missing",
        },
    ),
    BenchRange.BESIDE: Position(
        "and powered again",
        6.0,
        live=True,
        answers={HELPS: "it works, or works better", NOTHING: "nothing changes"},
        clears=NOTHING,
    ),
    BenchRange.WARMED: Position(
        "while it works",
        4.0,
        live=True,
        answers={
            HELPS: "it works, or works better",
            WORSENS: "it fails, or fails more",
            NOTHING: "nothing changes",
        },
        clears=NOTHING,
    ),
    BenchRange.MOVED: Position(
        "while it works",
        1.5,
        live=True,
        answers={CHANGES: "it changes", STAYS: "it stays as it is"},
        clears=STAYS,
    ),
    BenchRange.DRIVEN: Position(
        "while it works",
        2.5,
        live=True,
        answers={SWITCHES: "it switches", IDLE: "nothing happens"},
        clears=SWITCHES,
    ),
}
