"""A recheck after the work: what to read and how, in the customer's words, and what came of it."""

from dataclasses import dataclass

from frostcore.quantity import format_celsius
from frostcore.sentence import in_sentence, joined
from frostcore.sheet.model import Sheet
from frostcore.tape.rechecked import RecheckTold
from frostcore.thermal.of_sheet import thermal_of
from frostcore.thermal.verdicts import kept_at

SAFE = (
    "Only read the thermometer: take nothing off, and leave the plug in. If it smells burnt or hisses, pull"
    " the plug, air the room, light nothing, and call us."
)

COLDEST, WARMEST = -45.0, 45.0
"""Beyond these (°C) it is no reading of a refrigerator in a kitchen."""

_HOW = {
    "freezer": (
        "Lay a thermometer between two packs in the middle for twelve hours. Read it in the morning, before"
        " anything else, within half a minute of opening."
    ),
    "wine": "Stand a thermometer in a glass of water on the middle shelf for twelve hours. Read it there.",
}
_SUCH = {"freezer": "−18 °C", "wine": "12 °C"}
_USUAL = (
    "Stand a thermometer in a glass of water on the middle shelf overnight. Read it in the morning, before"
    " the door has been opened."
)


@dataclass(frozen=True)
class ToRead:
    """What to read: a compartment, its name, how, and such a reading."""

    place: str
    name: str
    how: str
    such: str


@dataclass(frozen=True)
class Rechecked:
    """What a compartment's reading says: whether it is as it should be, in a sentence."""

    place: str
    good: bool
    words: str


def to_read(sheet: Sheet, places: tuple[str, ...]) -> tuple[ToRead, ...]:
    """What to read in some compartments, in the customer's words."""
    return tuple(
        ToRead(room.id, room.name, _HOW.get(room.compartment, _USUAL), _SUCH.get(room.compartment, "5 °C"))
        for room in sheet.compartments
        if room.id in places
    )


def rechecked(sheet: Sheet, told: RecheckTold) -> tuple[Rechecked, ...]:
    """Each compartment's reading against what it is kept at; water and packs show its mean."""
    plant = thermal_of(sheet)
    names = {room.id: room.name for room in sheet.compartments}
    found = []
    for place, read in told.temperatures.items():
        if read.value is None or place not in names:
            continue
        kept = kept_at(plant, place)
        within = kept.least <= read.value <= kept.most
        state = "as it should be" if within else "too warm" if read.value > kept.most else "too cold"
        words = f"{names[place]} {format_celsius(round(read.value, 1))}: {state}; {kept.words}."
        found.append(Rechecked(place, within, words))
    return tuple(found)


def stands(sheet: Sheet, told: RecheckTold) -> str:
    """What a recheck comes to, in a sentence."""
    off = [each for each in rechecked(sheet, told) if not each.good]
    if off:
        names = {room.id: room.name for room in sheet.compartments}
        return (
            f"Not as it should be: {joined([in_sentence(names[each.place]) for each in off])}. Go on with it."
        )
    if told.quiet == "no":
        return "Cold, and never quiet: cold alone is not proof. Log its watts, or see it cut out."
    if not told.temperatures:
        return "No temperature was read."
    if told.quiet == "yes":
        return "It keeps its settings and is quiet at times: the recheck stands."
    return "It keeps its settings; whether it cuts out nobody has said."
