"""``calibrate``: a thermostat set by turns."""

import argparse
from typing import Any

from frostcore.door import arguments
from frostcore.errors import FrostError
from frostcore.quantity import Dimension
from frostcore.thermal.calibration import OF, TurnAct, calibrate


def add_commands(commands: Any) -> None:
    """Add ``calibrate``."""
    one = commands.add_parser("calibrate", help="a thermostat set by turns: what a turn does, the next one")
    one.add_argument("--target", required=True, metavar="-24C", help="the cut-out that is wanted")
    one.add_argument(
        "--turn", action="append", default=[], metavar="TURNS=CUT-OUTS",
        help="where the screw stands, in turns from where it was, and the cut-outs since: 0.5=-22C,-23C;"
        " with a differential screw and cut-ins: 0.5,-0.25=-22C,-23C/4C,4.5C",
    )  # fmt: skip
    one.add_argument("--cut-in", metavar="4C", help="the cut-in that is wanted, by both screws")
    one.add_argument("--of", choices=list(OF), default="screw", help="what is turned")
    one.add_argument("--slope", type=float, metavar="K", help="kelvin a turn, where it is known")
    one.add_argument("--doubt", type=float, metavar="K", help="and its doubt")
    one.set_defaults(run=_calibrate)


def _calibrate(options: argparse.Namespace) -> dict[str, Any]:
    target = arguments.number("--target", options.target, Dimension.TEMPERATURE)
    _, slope, doubt = OF[options.of]
    wanted = arguments.number("--cut-in", options.cut_in, Dimension.TEMPERATURE) if options.cut_in else None
    found = calibrate(
        [_act(text) for text in options.turn],
        target,
        slope=slope if options.slope is None else options.slope,
        doubt=doubt if options.doubt is None else options.doubt,
        cut_in=wanted,
    )
    both = (
        {
            "cut_in_now_celsius": round(found.cut_in, 2),
            "next_differential": round(found.next_differential, 3),
        }
        if found.cut_in is not None
        else {}
    )
    return both | {
        "slope_kelvin_a_turn": round(found.slope, 2),
        "slope_doubt": round(found.slope_doubt, 2),
        "cut_out_now_celsius": round(found.now, 2),
        "doubt": round(found.now_doubt, 2),
        "within_a_kelvin": round(found.within, 3),
        "next_turn": round(found.next_turn, 3),
        "stop": found.stop,
        "told": found.words,
    }


def _act(text: str) -> TurnAct:
    turns, equals, levels = text.partition("=")
    try:
        stands, *other = (float(each) for each in turns.replace("\u2212", "-").split(","))
    except ValueError:
        equals, stands, other = "", 0.0, []
    if not equals:
        raise FrostError(f"--turn: “{text}” is not understood; write 0.5=-22C,-23C.")
    cut_outs, cut_ins = (_levels(part) for part in (*levels.split("/", 1), "")[:2])
    return TurnAct(stands, cut_outs, cut_ins, sum(other))


def _levels(text: str) -> tuple[float, ...]:
    cells = [cell for cell in text.split(",") if cell.strip()]
    return tuple(arguments.number("--turn", cell, Dimension.TEMPERATURE) for cell in cells)
