"""Commands about controls: potentiometers, thermostats and fuses."""

import argparse
from dataclasses import asdict
from typing import Any

from frostcore.door import arguments
from frostcore.parts.potentiometer import Against, judge_potentiometer
from frostcore.parts.thermostat import ContactKind, agreed, judge_stamp, read_stamp
from frostcore.quantity import Dimension, Quantity
from frostcore.rows import quantity
from frostcore.verdict import Verdict


def add_commands(commands: Any) -> None:
    """Add ``pot`` and ``thermostat``."""
    pot = commands.add_parser("pot", help="judge a user potentiometer")
    pot.add_argument("--nominal", required=True, help="the value stamped on it, such as 10k")
    pot.add_argument("--ends", required=True, help="end to end as measured, such as 9k6")
    pot.add_argument(
        "--stop",
        action="append",
        default=[],
        help="the wiper at a stop, against an end; give one for each stop",
    )
    pot.add_argument(
        "--against",
        choices=[each.value for each in Against if each],
        default="",
        help="which end the stops were read against: at each the nearer, or at both the same",
    )
    pot.add_argument(
        "--sweep",
        default="",
        metavar="OHMS;OHMS;…",
        help="the wiper along the turn, such as 0.1k;2k5;5k;7k5;9k6",
    )
    pot.add_argument("--tolerance", default="20%", help="its tolerance (20%%)")
    pot.set_defaults(run=_pot)
    thermostat = commands.add_parser(
        "thermostat", help="judge a bimetal, a mechanical thermostat or a thermal fuse"
    )
    thermostat.add_argument("--kind", choices=[kind.value for kind in ContactKind], default="bimetal")
    thermostat.add_argument(
        "--opens",
        required=True,
        help=(
            "the opening temperature as stamped: 13, 13C or 55F, or both numbers of a stamp such as 60-40;"
            " what it leaves open is tried both ways"
        ),
    )
    thermostat.add_argument(
        "--differential", default="", help="the differential as stamped, in the same unit, such as 18"
    )
    thermostat.add_argument("--at", required=True, help="its temperature now, such as -12C")
    thermostat.add_argument(
        "--reads", required=True, help="what the meter shows across it, such as 0.2 or OL"
    )
    thermostat.add_argument("--doubt", default="1K", help="how far the thermometer may be off (1K)")
    thermostat.set_defaults(run=_thermostat)


def _pot(options: argparse.Namespace) -> dict[str, Any]:
    def ohms(option: str, typed: str) -> Quantity:
        return quantity(option, typed, Dimension.RESISTANCE)

    verdict = judge_potentiometer(
        arguments.number("--nominal", options.nominal, Dimension.RESISTANCE) or 0.0,
        ohms("--ends", options.ends),
        [ohms("--stop", typed) for typed in options.stop],
        [ohms("--sweep", typed) for typed in options.sweep.split(";") if typed.strip()],
        arguments.number("--tolerance", options.tolerance, Dimension.FRACTION),
        Against(options.against),
    )
    return {
        "verdict": str(verdict.verdict),
        "expected_ohms": asdict(verdict.band),
        "parts": [{"part": part, "verdict": str(found), "text": text} for part, found, text in verdict.parts],
        "questions": [question.text for question in verdict.questions],
    }


def _thermostat(options: argparse.Namespace) -> dict[str, Any]:
    verdicts = judge_stamp(
        ContactKind(options.kind),
        read_stamp(options.opens, options.differential),
        arguments.number("--at", options.at, Dimension.TEMPERATURE),
        quantity("--reads", options.reads, Dimension.RESISTANCE),
        arguments.number("--doubt", options.doubt, Dimension.TEMPERATURE_DIFFERENCE),
    )
    return {
        "verdict": str(agreed(verdicts)),
        "can_judge": agreed(verdicts) is not Verdict.UNCLEAR,
        "readings": [
            {
                "unit": verdict.rating.unit,
                "read_as": verdict.rating.named,
                "implausible": verdict.implausible,
                "opens_celsius": verdict.opens_celsius,
                "closes_celsius": verdict.closes_celsius,
                "expected": verdict.expected,
                "can_judge": verdict.can_judge,
                "verdict": str(verdict.verdict),
                "text": verdict.reason,
            }
            for verdict in verdicts
        ],
    }
