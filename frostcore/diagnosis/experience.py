"""What a workshop's own closed calls teach: how often each kind of part was the cause on units of a kind.

The catalogue stands for so many calls of its own (Dirichlet counts), so that a handful can't drown it:
P(kind) becomes (STRENGTH · p + count) / (STRENGTH + all counts), and every fault of a kind moves with it.
"""

from collections.abc import Iterable, Iterator, Mapping
from datetime import datetime, timedelta
from typing import Protocol, TypeVar

STRENGTH = 40.0
"""So many calls the catalogue stands for."""

CORRECTS = timedelta(days=90)
"""A cause found on the same unit within so long says that the one before was wrong."""


class Cause(Protocol):
    """The cause a closed call found: on which unit (empty where its serial number is not known), and when."""

    serial: str
    closed_at: datetime


C = TypeVar("C", bound=Cause)


def counting(causes: Iterable[C]) -> Iterator[C]:
    """The causes that count, of causes with the latest first: not one that was corrected on the same unit."""
    later: dict[str, datetime] = {}
    for cause in causes:
        newer = later.get(cause.serial) if cause.serial else None
        later[cause.serial] = cause.closed_at
        if newer is None or newer - cause.closed_at > CORRECTS:
            yield cause


def factors(prior: Mapping[str, float], counts: Mapping[str, int]) -> dict[str, float]:
    """By what each kind's chance is to be multiplied; ``prior`` sums to one, counts of kinds that it has not
    say nothing."""
    known = {kind: counts.get(kind, 0) for kind in prior}
    whole = sum(known.values())
    return {
        kind: (STRENGTH * share + known[kind]) / ((STRENGTH + whole) * share)
        for kind, share in prior.items()
        if share > 0
    }
