"""A logged run as its slip says it, and whether it can be."""

from collections.abc import Iterable, Iterator
from dataclasses import replace

from frostcore.errors import TapeError
from frostcore.sentence import in_sentence, joined
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
    set_to = in_sentence(joined([each.words for each in body.settings])) if body.settings else ""
    return SlipWords(
        "A run logged", body.name, detail=", ".join(each for each in (joined(of), room, set_to) if each)
    )


def runs_as_read(slips: Iterable[Slip]) -> Iterator[Slip]:
    """Slips with each run once: where it was first counted, as it was last read."""
    slips = list(slips)
    runs = (slip.entry.body for slip in slips)
    newest = {body.digest: body for body in runs if isinstance(body, RunLogged)}
    for slip in slips:
        body = slip.entry.body
        if not isinstance(body, RunLogged):
            yield slip
        elif body.digest in newest:
            yield replace(slip, entry=replace(slip.entry, body=newest.pop(body.digest)))


def runs_of(standing: Standing) -> tuple[RunLogged, ...]:
    """The runs of a call, as last read, the first counted first."""
    bodies = (slip.entry.body for slip in runs_as_read(standing.effective))
    return tuple(body for body in bodies if isinstance(body, RunLogged))


def check_run(moment: Moment, body: RunLogged) -> None:
    """At least one column is of something."""
    if not any(place != "-" for place in body.columns.values()):
        raise TapeError("Say what at least one column is of: a compartment, the coil, the room, watts.")


def kept_in(standing: Standing, digest: str) -> Attached | None:
    """The file of a run; None where the call has none of that digest."""
    return next((body for body in standing.all_of(Attached) if body.digest == digest), None)
