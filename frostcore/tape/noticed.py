"""What is noticed without a meter: what a customer calls for, and what is heard, felt or smelt at a part.

Ids and words; what brings each about is in the causal table of the judgement.
"""

from dataclasses import dataclass
from typing import Literal

from frostcore.sheet.model import Component, ComponentKind, Sheet

COMPLAINTS: dict[str, str] = {
    "warm {zone}": "{zone} not cold enough",
    "cold {zone}": "{zone} too cold, freezes food",
    "code": "a code on the display",
    "dead": "dead, or its display is dark",
    "resets": "blinks, clicks or resets in rhythm",
    "light": "the light",
    "dispenser": "water, ice or the dispenser fails",
    "ice": "ice or frost where none belongs",
    "water": "water inside or on the floor",
    "noise": "a noise that is new",
    "never_rests": "never stops, or gets hot",
    "trips": "trips the house’s breaker",
    "door": "the door does not close well",
    "other": "something else, or nothing",
}
"""Complaints by id, in the order they are asked; ``{zone}`` stands for each compartment."""


def complaints_of(sheet: Sheet) -> dict[str, str]:
    """What may be complained of a unit, by id: words."""
    found = {}
    for name, words in COMPLAINTS.items():
        if "{zone}" not in name:
            found[name] = words
            continue
        for zone in sheet.compartments:
            found[name.format(zone=zone.id)] = words.format(zone=zone.name)
    return found


@dataclass(frozen=True)
class Feeling:
    """Something heard, felt or smelt: its words, and the kinds of parts it can be of (any where empty);
    ``sound`` where a good part is so."""

    words: str
    of: frozenset[ComponentKind] = frozenset()
    sound: bool = False


_K = ComponentKind
_TURNS = frozenset({_K.FAN_AC, _K.FAN_DC})
_BOARDS = frozenset({_K.BOARD})
_STARTS = frozenset({_K.FAN_AC, _K.FAN_DC, _K.COMPRESSOR, _K.VALVE, _K.FLAP_MOTOR})

BENCH_SOUND: Literal["bench_sound"] = "bench_sound"
BENCH_BAD: Literal["bench_bad"] = "bench_bad"
"""What the bench found of a board's supply."""

FEELINGS: dict[str, Feeling] = {
    "turns": Feeling("turns freely by hand", _TURNS, sound=True),
    "drags": Feeling("turns stiffly by hand", _TURNS),
    "seized": Feeling("does not turn by hand", _TURNS),
    "hums": Feeling("hums and does not move", _STARTS),
    "clicks": Feeling("clicks again and again"),
    "hot": Feeling("hotter than it should be"),
    "burnt": Feeling("burnt, melted, or smells so"),
    "wet": Feeling("wet, green or rusty"),
    BENCH_SOUND: Feeling("its supply was sound on the bench", _BOARDS, sound=True),
    BENCH_BAD: Feeling("its supply was at fault on the bench", _BOARDS),
    "hisses": Feeling("hisses where nothing should", frozenset({_K.SEALED_SYSTEM})),
}
"""What is heard, felt or smelt, by id."""


BY_HAND = ("turns", "drags", "seized")
"""How a part turns by hand: one of these."""


def feelings_of(part: Component) -> dict[str, str]:
    """What can be heard or felt of a part, by id: words."""
    return {
        name: feeling.words for name, feeling in FEELINGS.items() if not feeling.of or part.kind in feeling.of
    }
