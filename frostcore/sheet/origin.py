"""Where a sheet's values come from, and what is read on the unit itself of its plugs and wires.

No paper prints all that a sheet must say: of a unit nobody has described everything is an archetype's, and
each value read on its paper or on the unit takes that one's place.
"""

from collections.abc import Mapping
from dataclasses import dataclass
from enum import StrEnum


class Source(StrEnum):
    """Where a value comes from."""

    PRINTED = "printed"
    MEASURED = "measured"
    ARCHETYPE = "archetype"
    DERIVED = "derived"
    UNKNOWN = "unknown"

    @property
    def label(self) -> str:
        """The source in words."""
        return {
            "printed": "printed on its paper",
            "measured": "measured on the unit",
            "archetype": "usual for this kind of unit",
            "derived": "worked out from what is printed",
            "unknown": "not known",
        }[self]


@dataclass(frozen=True)
class Mark:
    """What is printed at a plug or beside a pin, where that is another than its identifier (``CON-A``,
    ``J2-3``), and the colour of the wire there."""

    printed: str = ""
    colour: str = ""


USUAL = "usual for its kind"
"""Said beside what is foretold by an archetype's values."""


def source_at(sources: Mapping[str, Source], usual: Source, place: str) -> Source:
    """The source of a value by its place, such as ``components.heater.nominal.ohms``: the nearest entry that
    holds it decides, and where there is none the sheet's own ``usual``."""
    parts = place.split(".")
    for count in range(len(parts), 0, -1):
        found = sources.get(".".join(parts[:count]))
        if found is not None:
            return found
    return usual
