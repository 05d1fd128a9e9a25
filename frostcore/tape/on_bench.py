"""Which board is on the mat after some entries, and what has been read on it."""

from collections.abc import Iterable
from dataclasses import dataclass

from frostcore.tape.benched import BoardBack, BoardOut, BoardRead
from frostcore.tape.entries import Body


@dataclass(frozen=True)
class OnBench:
    """The board that is out, how it was taken out, and what has been read on it since."""

    out: BoardOut
    readings: tuple[BoardRead, ...]


def on_bench(bodies: Iterable[Body]) -> OnBench | None:
    """The board that is out after these entries, oldest first; None where none is. What was read before it
    was mended is of the board as it was."""
    out, readings = None, list[BoardRead]()
    for body in bodies:
        match body:
            case BoardOut():
                out, readings = body, []
            case BoardRead() if out:
                readings.append(body)
            case BoardBack():
                out, readings = None, []
            case _ if (
                out and getattr(body, "kind", "") == "mended" and getattr(body, "unit", "") == out.board
            ):
                readings = []
    return OnBench(out, tuple(readings)) if out else None
