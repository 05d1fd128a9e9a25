"""The headless door: parse arguments, call the core, print JSON.

The only part of the core that reads files. Bad input ends with exit code 2 and one line on standard
error.
"""

import argparse
import json
import re
import sys
from collections.abc import Sequence
from typing import NoReturn

from frostcore.door import circuit, codes, controls, loads, sensors
from frostcore.errors import FrostError


class _Parser(argparse.ArgumentParser):
    """An argument parser whose errors are one line."""

    def error(self, message: str) -> NoReturn:
        raise FrostError(f"{message} (see {self.prog} --help)")


def parser() -> argparse.ArgumentParser:
    """The parser of every command.

    Each command's ``run`` takes the namespace and returns a JSON value, or text to print as it is.
    """
    top = _Parser(
        prog="python -m frostcore", description="Frostline's computation, without the interface: JSON out."
    )
    commands = top.add_subparsers(dest="command", required=True, metavar="COMMAND")
    for module in (sensors, codes, controls, circuit, loads):
        module.add_commands(commands)
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
        options = parser().parse_args(_below_zero(arguments))
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
