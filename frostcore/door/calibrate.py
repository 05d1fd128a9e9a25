"""``calibrate``: a thermostat set by turns."""

import argparse
from typing import Any

from frostcore.door import arguments
from frostcore.errors import FrostError
from frostcore.quantity import Dimension
from frostcore.thermal.calibration import SLOPE, SLOPE_DOUBT, TurnAct, calibrate


def add_commands(commands: Any) -> None:
    """Add ``calibrate``."""
    one = commands.add_parser("calibrate", help="a thermostat set by turns: what a turn does, the next one")
    one.add_argument("--target", required=True, metavar="-24C", help="the cut-out that is wanted")
    one.add_argument(
        "--turn", action="append", default=[], metavar="TURNS=CUT-OUTS",
        help="where the screw stands, in turns from where it was, and the cut-outs since: 0.5=-22C,-23C",
    )  # fmt: skip
    one.add_argument(
        "--slope", type=float, default=SLOPE, metavar="K", help="kelvin a turn, where it is known"
    )
    one.add_argument("--doubt", type=float, default=SLOPE_DOUBT, metavar="K", help="and its doubt")
    one.set_defaults(run=_calibrate)


def _calibrate(options: argparse.Namespace) -> dict[str, Any]:
    target = arguments.number("--target", options.target, Dimension.TEMPERATURE)
    found = calibrate([_act(text) for text in options.turn], target, slope=options.slope, doubt=options.doubt)
    return {
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
    turns, equals, cut_outs = text.partition("=")
    try:
        stands = float(turns.replace("\u2212", "-"))
    except ValueError:
        equals = ""
    if not equals:
        raise FrostError(f"--turn: “{text}” is not understood; write 0.5=-22C,-23C.")
    cells = [cell for cell in cut_outs.split(",") if cell.strip()]
    return TurnAct(stands, tuple(arguments.number("--turn", cell, Dimension.TEMPERATURE) for cell in cells))
