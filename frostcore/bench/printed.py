"""What is printed on the parts of a board nobody described: typed once, and the board is judged by it."""

from collections.abc import Sequence
from dataclasses import replace

from frostcore.bench.circuit import PRINTED
from frostcore.errors import FrostError
from frostcore.quantity import Dimension, format_ohms, format_value
from frostcore.rows import quantity
from frostcore.sheet.supply import BoardPart, BoardPartKind, BoardSupply

K = BoardPartKind

PREFIX = "printed:"
"""What is printed on a part stands among the readings, by this and the part."""

_CAPACITORS = frozenset({K.ELECTROLYTIC, K.FILM_CAPACITOR})
MOST_TIMES = 1000.0
"""No part of such a supply is so many times another than usual."""


def is_printed(probe: str) -> bool:
    """Whether this is what is printed on a part, and no reading."""
    return probe.startswith(PREFIX)


def printable(supply: BoardSupply) -> tuple[BoardPart, ...]:
    """The parts whose printed value counts: of a board nobody described, capacitors and resistors."""
    if supply.source != "archetype":
        return ()
    return tuple(part for part in supply.parts if part.kind in PRINTED - {K.FUSE})


def value_of(supply: BoardSupply, probe: str, typed: str) -> tuple[BoardPart, float]:
    """The part and its printed value as typed; FrostError for a part that has none, or a value none has."""
    parts = {part.id: part for part in printable(supply)}
    part = parts.get(probe.removeprefix(PREFIX))
    if part is None:
        some = ", ".join(list(parts)[:6]) or "none: its sheet says them all"
        raise FrostError(
            f"“{probe.removeprefix(PREFIX)}” is no part with a printed value here; there are {some}."
        )
    farads = part.kind in _CAPACITORS
    found = quantity(
        f"printed on {part.title}", typed, Dimension.CAPACITANCE if farads else Dimension.RESISTANCE
    )
    value, usual = found.value or 0.0, (part.farads if farads else part.ohms) or 1.0
    if not usual / MOST_TIMES <= value <= usual * MOST_TIMES:
        raise FrostError(f"{part.title}: {found.text} is none; a usual one is {shown(part)}.")
    return part, value


def shown(part: BoardPart) -> str:
    """A part's value in words."""
    if part.kind in _CAPACITORS:
        return format_value(part.farads or 0.0, Dimension.CAPACITANCE)
    return format_ohms(part.ohms or 0.0)


def with_printed(supply: BoardSupply, pairs: Sequence[tuple[str, str]]) -> BoardSupply:
    """The supply with its parts as they are printed; a capacitor's good series ohms go against its farads."""
    parts = {part.id: part for part in supply.parts}
    for probe, typed in pairs:
        if is_printed(probe):
            part, value = value_of(supply, probe, typed)
            parts[part.id] = _of(part, value)
    return replace(supply, parts=tuple(parts.values()))


def _of(part: BoardPart, value: float) -> BoardPart:
    if part.kind not in _CAPACITORS:
        return replace(part, ohms=value)
    times = value / (part.farads or value)
    return replace(part, farads=value, esr_ohms=part.esr_ohms / times if part.esr_ohms else None)
