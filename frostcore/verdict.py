"""The family of verdicts, the same for every quantity: where a reading stands against its line."""

from dataclasses import dataclass
from enum import StrEnum


class Verdict(StrEnum):
    """Where a reading stands: on the line, above, below, broken, pinned down, or not to be judged."""

    IN_BAND = "in_band"
    HIGH = "high"
    LOW = "low"
    OPEN = "open"
    SHORT = "short"
    UNCLEAR = "unclear"

    @property
    def label(self) -> str:
        """The verdict in a word or two."""
        return LABELS[self]


LABELS = {
    Verdict.IN_BAND: "in band",
    Verdict.HIGH: "high",
    Verdict.LOW: "low",
    Verdict.OPEN: "open",
    Verdict.SHORT: "short",
    Verdict.UNCLEAR: "can't judge",
}


@dataclass(frozen=True)
class Band:
    """Where a healthy reading lies: ``low`` ≤ ``nominal`` ≤ ``high``, all in one SI unit."""

    low: float
    nominal: float
    high: float

    def __post_init__(self) -> None:
        if not self.low <= self.nominal <= self.high:
            message = f"A band needs low ≤ nominal ≤ high, not {self.low:g}, {self.nominal:g}, {self.high:g}."
            raise ValueError(message)

    def verdict(self, value: float) -> Verdict:
        """Where a finite value stands against the band."""
        return Verdict.LOW if value < self.low else Verdict.HIGH if value > self.high else Verdict.IN_BAND


@dataclass(frozen=True)
class Question:
    """Something to ask before a reading is believed.

    ``kind`` is a stable id; ``text`` asks; ``meant`` is the value as it would then be typed, and
    ``field`` says which typed value it replaces (empty when the question has no single answer to offer);
    ``yes`` and ``no`` are the answers in words.
    """

    kind: str
    text: str
    field: str = ""
    meant: str = ""
    then: Verdict | None = None
    yes: str = "Yes"
    no: str = "No, keep it as typed"


@dataclass(frozen=True, kw_only=True)
class Judged:
    """What every check comes to: where the reading stands, the band it was judged by (None where there is
    none), the reason in words, and what to ask before it is believed."""

    verdict: Verdict
    band: Band | None = None
    reason: str = ""
    questions: tuple[Question, ...] = ()
