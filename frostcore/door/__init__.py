"""The headless door: parse arguments, call the core, print JSON.

The only part of the core that reads files. Bad input ends with exit code 2 and one line on standard
error.
"""

import argparse
import importlib
import json
import re
import sys
from collections.abc import Sequence
from typing import NoReturn

from frostcore.errors import FrostError


class _Parser(argparse.ArgumentParser):
    """An argument parser whose errors are one line."""

    def error(self, message: str) -> NoReturn:
        raise FrostError(f"{message} (see {self.prog} --help)")


MODULES: dict[str, tuple[str, ...]] = {
    "sensors": ("sensor", "settle", "identify", "divider"),
    "codes": ("decode", "check-sheet", "schema"),
    "controls": ("pot", "thermostat"),
    "circuit": ("expect", "netlist", "trace", "modes", "faults"),
    "loads": ("load",),
    "diagnosis": ("diagnose", "behave", "rehearse"),
    "remedy": ("decide", "workaround", "plans"),
    "papers": ("sheet",),
    "bench": ("capacitor", "substitute", "twin", "bus", "mat"),
    "ladder": ("ladder",),
    "thermal": ("thermal",),
    "run": ("run",),
    "calibrate": ("calibrate",),
}
"""The commands of each module: one question loads only what answers it."""


def parser(command: str = "") -> argparse.ArgumentParser:
    """The parser of the command asked for, or of every command where that is none of them.

    Each command's ``run`` takes the namespace and returns a JSON value, or text to print as it is.
    """
    top = _Parser(
        prog="python -m frostcore", description="Frostline's computation, without the interface: JSON out."
    )
    commands = top.add_subparsers(dest="command", required=True, metavar="COMMAND")
    own = [module for module, names in MODULES.items() if command in names]
    for module in own or MODULES:
        importlib.import_module(f"frostcore.door.{module}").add_commands(commands)
    return top


def _below_zero(arguments: Sequence[str]) -> list[str]:
    """Arguments with ``--at -12C`` written as ``--at=-12C``: argparse takes what begins with a minus for
    an option."""
    joined: list[str] = []
    for argument in arguments:
        if joined and re.fullmatch(r"--[a-z]+", joined[-1]) and re.match(r"[-−]\s*[0-9.,]", argument):
            joined[-1] += f"={argument}"
        else:
            joined.append(argument)
    return joined


def main(arguments: Sequence[str]) -> int:
    """Run one command; returns the exit code."""
    try:
        options = parser(arguments[0] if arguments else "").parse_args(_below_zero(arguments))
        result = options.run(options)
    except FrostError as error:
        print("frostcore: " + " ".join(str(error).split()), file=sys.stderr)
        return 2
    # A deck is text for another program; everything else is JSON.
    print(
        (
            result
            if isinstance(result, str)
            else json.dumps(result, ensure_ascii=False, indent=2, allow_nan=False)
        ),
        end="" if isinstance(result, str) else "\n",
    )
    return 0
