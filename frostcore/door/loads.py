"""Commands about loads: heaters, windings, tachometers, watts at the plug."""

import argparse
import contextlib
from dataclasses import asdict
from typing import Any

from frostcore.circuit.power import at_plug, judge_plug
from frostcore.circuit.rhythm import rhythm
from frostcore.circuit.settle import Settled
from frostcore.door import arguments
from frostcore.errors import FrostError
from frostcore.faults.known import broken
from frostcore.parts.loads import (
    heater_by_watts,
    judge_heater,
    judge_single_phase,
    judge_speed,
    judge_three_phase,
)
from frostcore.quantity import Dimension
from frostcore.rows import quantity


def add_commands(commands: Any) -> None:
    """Add ``load`` with its kinds."""
    load = commands.add_parser("load", help="loads by arithmetic: heater, windings, tacho, plug")
    kinds = load.add_subparsers(dest="kind", required=True, metavar="KIND")
    heater = kinds.add_parser("heater", help="ohms, watts and amperes at a mains voltage")
    heater.add_argument("--mains", required=True, help="volts measured here, such as 230V")
    heater.add_argument("--ohms", help="what the meter shows, such as 41")
    heater.add_argument("--watts", help="its rating, such as 220W; alone it gives the ohms to expect")
    heater.set_defaults(run=_heater)
    windings = kinds.add_parser("windings", help="a compressor's windings: three pairs")
    windings.add_argument("--phases", type=int, choices=(1, 3), required=True)
    for name in ("ab", "bc", "ac"):
        windings.add_argument(f"--{name}", required=True, help="ohms between two terminals")
    windings.add_argument("--earth", help="ohms from any terminal to the chassis, such as OL")
    windings.set_defaults(run=_windings)
    tacho = kinds.add_parser("tacho", help="a fan's speed from its tachometer")
    tacho.add_argument("--hertz", required=True, help="what the meter shows, such as 70Hz")
    tacho.add_argument("--pulses", default="2", help="pulses a turn (2)")
    tacho.add_argument("--rpm", help="rated speed")
    tacho.set_defaults(run=_tacho)
    plug = kinds.add_parser("plug", help="watts or amperes at the plug against what the sheet adds up to")
    plug.add_argument("--sheet", required=True, metavar="FILE")
    plug.add_argument("--mode", required=True)
    plug.add_argument(
        "--fault",
        action="append",
        default=[],
        metavar="ID",
        help="a fault of the sheet, to see what it would draw; may be repeated",
    )
    plug.add_argument("--watts", help="what the plug meter shows, such as 132W")
    plug.add_argument("--amps", help="or the current, such as 0.6A")
    plug.set_defaults(run=_plug)


MOST = 1_000_000


def _number(option: str, typed: str) -> float:
    with contextlib.suppress(ValueError):
        number = float(typed.replace(",", "."))
        if 0 < number <= MOST:
            return number
    message = f"{option}: “{typed[:40]}” is no number above 0 and up to {MOST:,}; type it like 2 or 2100"
    raise FrostError(message)


def _heater(options: argparse.Namespace) -> dict[str, Any]:
    volts = arguments.number("--mains", options.mains, Dimension.VOLTAGE)
    watts = arguments.number("--watts", options.watts, Dimension.POWER) if options.watts else None
    if options.ohms is None:
        if watts is None:
            message = "give --ohms as measured, or --watts as rated"
            raise FrostError(message)
        ohms, amperes = heater_by_watts(volts, watts)
        return {"ohms": ohms, "watts": watts, "amperes": amperes, "volts": volts}
    verdict = judge_heater(volts, quantity("--ohms", options.ohms, Dimension.RESISTANCE), watts)
    return {
        "ohms": verdict.ohms,
        "watts": verdict.watts,
        "amperes": verdict.amperes,
        "volts": volts,
        "expected_ohms": asdict(verdict.band),
        "verdict": str(verdict.verdict),
        "text": verdict.reason,
        "questions": [question.text for question in verdict.questions],
    }


def _windings(options: argparse.Namespace) -> dict[str, Any]:
    ab, bc, ac = (
        quantity(f"--{name}", getattr(options, name), Dimension.RESISTANCE) for name in ("ab", "bc", "ac")
    )
    earth = quantity("--earth", options.earth, Dimension.RESISTANCE) if options.earth else None
    found = (
        judge_three_phase((ab, bc, ac), earth)
        if options.phases == 3
        else judge_single_phase(ab, bc, ac, earth)
    )
    return {
        "verdict": str(found.verdict),
        "findings": [{"verdict": str(verdict), "text": text} for verdict, text in found.findings],
        "terminals": found.terminals,
        "run_ohms": found.run_ohms,
        "start_ohms": found.start_ohms,
    }


def _tacho(options: argparse.Namespace) -> dict[str, Any]:
    found = judge_speed(
        arguments.number("--hertz", options.hertz, Dimension.FREQUENCY),
        _number("--pulses", options.pulses),
        _number("--rpm", options.rpm) if options.rpm else None,
    )
    return {
        "rpm": found.rpm,
        "verdict": str(found.verdict),
        "expected_rpm": asdict(found.band) if found.band else None,
        "text": found.reason,
    }


def _plug(options: argparse.Namespace) -> dict[str, Any]:
    sheet = arguments.sheet_of(options.sheet).sheet
    if options.fault and options.watts is None and options.amps is None:
        return _drawn(broken(sheet, options.mode, options.fault))
    if (options.watts is None) == (options.amps is None):
        message = "give either --watts or --amps, as the plug meter shows it, or a --fault alone"
        raise FrostError(message)
    settled = broken(sheet, options.mode, options.fault)
    typed = (
        ("--watts", options.watts, Dimension.POWER)
        if options.watts is not None
        else ("--amps", options.amps, Dimension.CURRENT)
    )
    found = judge_plug(settled, arguments.number(*typed), amperes=options.watts is None)
    return {
        "watts": found.watts,
        "amperes": found.amperes,
        "measured": found.measured,
        "verdict": str(found.verdict),
        "text": found.reason,
        "draws": [
            {"component": draw.component, "name": draw.name, "watts": draw.watts} for draw in found.draws
        ],
    }


def _drawn(settled: Settled) -> dict[str, Any]:
    """What a unit with a fault draws, phase by phase where it never settles."""
    plug, beat = at_plug(settled), rhythm(settled)
    phases = beat.phases if beat else ()
    return {
        "watts": plug.watts,
        "amperes": plug.amperes.nominal,
        "unsettled": list(settled.unsettled),
        "tripped": list(settled.tripped),
        "every_seconds": beat.every_seconds if beat else None,
        "phases": [
            {
                "seconds": phase.seconds,
                "watts": at_plug(phase.settled).watts,
                "amperes": at_plug(phase.settled).amperes.nominal,
                "ends": phase.ends,
            }
            for phase in phases
        ],
    }
