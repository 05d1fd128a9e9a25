"""A recheck as its slips say it, and whether it can be."""

from frostcore.errors import TapeError
from frostcore.sentence import joined
from frostcore.tape.moment import Moment
from frostcore.tape.rechecked import By, RecheckAsked, RecheckTold
from frostcore.tape.slip_words import SlipWords
from frostcore.tape.standing import Slip, Standing

WHO: dict[By, str] = {"customer": "by the customer", "us": "by us"}
QUIET = {"yes": "quiet at times", "no": "never quiet", "": ""}


def asked_words(standing: Standing, slip: Slip, body: RecheckAsked) -> SlipWords:
    """When, by whom, what is read."""
    names = {room.id: room.name for room in standing.sheet.compartments}
    return SlipWords(
        "Recheck asked for",
        body.day,
        detail=f"{WHO[body.by]}: {joined([names[each] for each in body.places])}",
    )


def told_words(standing: Standing, slip: Slip, body: RecheckTold) -> SlipWords:
    """What was read."""
    names = {room.id: room.name for room in standing.sheet.compartments}
    read = joined([f"{names.get(place, place)} {value.text}" for place, value in body.temperatures.items()])
    rest = [WHO[body.by], QUIET[body.quiet], body.display and f"display: {body.display}", body.note]
    return SlipWords("Recheck", read or "no temperature", detail=", ".join(each for each in rest if each))


def check_asked(moment: Moment, body: RecheckAsked) -> None:
    """Of compartments the unit has."""
    if not body.places:
        raise TapeError("Say what is to be read: at least one compartment.")
    _known(moment, body.places)


def check_told(moment: Moment, body: RecheckTold) -> None:
    """Likewise; and something is told."""
    _known(moment, tuple(body.temperatures))
    if not (body.temperatures or body.quiet or body.display or body.note):
        raise TapeError("Nothing is told: write a temperature, or what you noticed.")


def _known(moment: Moment, places: tuple[str, ...]) -> None:
    rooms = {room.id for room in moment.sheet.compartments}
    for place in places:
        if place not in rooms:
            raise TapeError(f"There is no compartment “{place}”; there are {', '.join(sorted(rooms))}.")


def asked_of(standing: Standing) -> tuple[Slip, RecheckAsked] | None:
    """The recheck that is waited for: the last that was asked for, unless it was told since."""
    for slip in reversed(standing.effective):
        match slip.entry.body:
            case RecheckTold():
                return None
            case RecheckAsked() as body:
                return slip, body
    return None
