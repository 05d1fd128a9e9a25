"""A logged run as its slip says it, and whether it can be."""

from frostcore.errors import TapeError
from frostcore.sentence import joined
from frostcore.tape.entries import Attached
from frostcore.tape.moment import Moment
from frostcore.tape.ran import RunLogged
from frostcore.tape.slip_words import SlipWords
from frostcore.tape.standing import Slip, Standing


def run_words(standing: Standing, slip: Slip, body: RunLogged) -> SlipWords:
    """The file and what it is of."""
    rooms = {room.id: room.name for room in standing.sheet.compartments}
    of = [
        "watts" if place == "plug" else "coil" if place.startswith("coil:") else rooms.get(place, place)
        for place in body.columns.values()
        if place != "-"
    ]
    room = f"room {body.room.text}" if body.room else ""
    return SlipWords(
        "A run logged", body.name, detail=", ".join([joined(of), room] if room else [joined(of)])
    )


def check_run(moment: Moment, body: RunLogged) -> None:
    """At least one column is of something."""
    if not any(place != "-" for place in body.columns.values()):
        raise TapeError("Say what at least one column is of: a compartment, the coil, the room, watts.")


def kept_in(standing: Standing, digest: str) -> Attached | None:
    """The file of a run; None where the call has none of that digest."""
    return next((body for body in standing.all_of(Attached) if body.digest == digest), None)
