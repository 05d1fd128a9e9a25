"""What was done to a board on the bench, as its slip says it, and whether it can be."""

from frostcore.errors import TapeError
from frostcore.tape.benched import BoardBack, BoardOut, BoardRead
from frostcore.tape.moment import Moment
from frostcore.tape.noticed import FEELINGS
from frostcore.tape.slip_words import SlipWords
from frostcore.tape.standing import Slip, Standing
from frostcore.verdict import Verdict


def out_words(standing: Standing, slip: Slip, body: BoardOut) -> SlipWords:
    """The board and how it is looked at."""
    meter = "" if body.esr else ", without an ESR meter"
    return SlipWords(
        "Board out, on the mat", body.board, detail=f"mains {body.mains.text} at the bench{meter}"
    )


def read_words(standing: Standing, slip: Slip, body: BoardRead) -> SlipWords:
    """The probe and what was read."""
    odd = body.verdict not in {"", Verdict.IN_BAND, Verdict.UNCLEAR}
    return SlipWords(f"On the mat: {body.name}", body.shown, body.value, odd=odd)


def back_words(standing: Standing, slip: Slip, body: BoardBack) -> SlipWords:
    """The board that is back."""
    detail = FEELINGS[body.found].words if body.found else ""
    return SlipWords("Board back in its unit", body.board, detail=detail)


def check_out(moment: Moment, body: BoardOut) -> None:
    """A board of this unit."""
    boards = [each.component for each in moment.sheet.boards]
    if body.board not in boards:
        raise TapeError(
            f"There is no board “{body.board}” on this sheet; it has {', '.join(boards) or 'none'}."
        )


def check_read(moment: Moment, body: BoardRead) -> None:
    """Something was read."""
    if not body.value:
        raise TapeError(f"{body.name}: nothing was read yet.")


def check_back(moment: Moment, body: BoardBack) -> None:
    """A board of this unit."""
    if body.board not in {each.component for each in moment.sheet.boards}:
        raise TapeError(f"There is no board “{body.board}” on this sheet.")
