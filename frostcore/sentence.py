"""Names in sentences."""

from collections.abc import Sequence
from datetime import date


def in_sentence(name: str) -> str:
    """A name as it stands within a sentence: small at its head, but for what is written in capitals."""
    return name[:1].lower() + name[1:] if name[1:2].islower() else name


def day_said(iso: str) -> str:
    """A day written as 2026-12-24 in words: 24 December 2026."""
    day = date.fromisoformat(iso)
    return f"{day.day} {MONTHS[day.month - 1]} {day.year}"


MONTHS = (
    "January",
    "February",
    "March",
    "April",
    "May",
    "June",
    "July",
    "August",
    "September",
    "October",
    "November",
    "December",
)


def joined(names: Sequence[str]) -> str:
    """Several in a row: ``a, b and c``."""
    return " and ".join([", ".join(names[:-1]), names[-1]] if len(names) > 1 else names)
