"""Commands about the circuit: what a meter reads, decks, traces, modes, faults."""

import argparse
from typing import Any

from frostcore.circuit.element import CircuitError
from frostcore.circuit.meter import MeterRange, Reading, as_stated, expect, points
from frostcore.circuit.netlist import netlist
from frostcore.circuit.pulses import pulses
from frostcore.circuit.settle import Settled
from frostcore.circuit.trace import Trace, function_named, functions, localise, trace
from frostcore.door import arguments
from frostcore.errors import FrostError
from frostcore.faults.known import broken, faults
from frostcore.quantity import Dimension, Quantity, format_value
from frostcore.rows import quantity
from frostcore.sheet.model import Sheet


def add_commands(commands: Any) -> None:
    """Add ``expect``, ``netlist``, ``trace``, ``modes`` and ``faults``."""
    for name, run, what in (
        (
            "expect",
            _expect,
            "what a meter reads between two points, in a mode, with connectors pulled and faults",
        ),
        ("netlist", _netlist, "the same circuit as a SPICE deck that runs by itself"),
    ):
        command = commands.add_parser(name, help=what)
        _add_setup(command)
        command.add_argument(
            "--red",
            required=name == "expect",
            default="",
            help=(
                "the red lead: a pin such as CN2.1 (CN2.1/wire or CN2.1/board when it is pulled), a terminal,"
                " a node"
            ),
        )
        command.add_argument("--black", required=name == "expect", default="", help="the black lead")
        command.add_argument(
            "--range",
            "--function",
            dest="meter",
            required=name == "expect",
            choices=[item.value for item in MeterRange] + (["hz"] if name == "expect" else []),
            help="the meter's position",
        )
        command.set_defaults(run=run)
    traced = commands.add_parser(
        "trace", help="the path of a function from source to load and back, with the reading at each point"
    )
    _add_setup(traced)
    traced.add_argument(
        "--function",
        required=True,
        help="a component, one of its parts, or a signal: defrost_heater, fan.tach, defrost",
    )
    traced.add_argument(
        "--at",
        action="append",
        default=[],
        metavar="POINT=VALUE",
        help="a reading taken along it, such as CN7.1=231V; the broken segment is named",
    )
    traced.set_defaults(run=_trace)
    modes = commands.add_parser("modes", help="the states the unit can be put in")
    modes.add_argument("--sheet", required=True, metavar="FILE")
    modes.set_defaults(
        run=lambda options: [_mode(mode) for mode in arguments.sheet_of(options.sheet).sheet.modes]
    )
    known = commands.add_parser("faults", help="every single fault of the unit, with its weight")
    known.add_argument("--sheet", required=True, metavar="FILE")
    known.set_defaults(run=_faults)


def _add_setup(command: Any) -> None:
    command.add_argument("--sheet", required=True, metavar="FILE", help="the unit sheet")
    command.add_argument("--mode", required=True, help="a mode of the sheet")
    command.add_argument(
        "--pull",
        action="append",
        default=[],
        metavar="CONNECTOR",
        help="a connector that is pulled; may be repeated",
    )
    command.add_argument(
        "--fault",
        action="append",
        default=[],
        metavar="ID",
        help="a fault of the sheet (see the command faults); may be repeated",
    )
    command.add_argument(
        "--celsius",
        action="append",
        default=[],
        metavar="PLACE=TEMPERATURE",
        help="a place's temperature as measured, such as evaporator=18C; may be repeated",
    )


def _settled(options: argparse.Namespace, sheet: Sheet, *, live: bool) -> Settled:
    pulled = tuple(dict.fromkeys(options.pull))
    celsius = tuple(_warmth(given) for given in options.celsius)
    return broken(sheet, options.mode, options.fault, live=live, pulled=pulled, celsius=celsius)


def _warmth(given: str) -> tuple[str, float]:
    place, equals, typed = given.partition("=")
    if not equals:
        message = f"--celsius: “{given}” is no temperature of a place; write it like evaporator=18C"
        raise FrostError(message)
    return place.strip(), arguments.number("--celsius", typed, Dimension.TEMPERATURE)


def _reading(reading: Reading) -> dict[str, Any]:
    return {
        "value": reading.value,
        "unit": reading.unit,
        "low": reading.low,
        "high": reading.high,
        "text": reading.words,
        "firm": not reading.settles_nothing,
        "phantom": reading.phantom,
        "span": list(reading.span) if reading.span else None,
        "every_seconds": reading.every_seconds,
        "average": reading.average,
    }


def _expect(options: argparse.Namespace) -> dict[str, Any]:
    sheet = arguments.sheet_of(options.sheet).sheet
    if options.meter == "hz":
        return _hertz(options, sheet)
    meter = MeterRange(options.meter)
    settled = _settled(options, sheet, live=meter.live)
    reading = expect(settled, points(sheet, settled.circuit, options.red, options.black, meter), meter)
    if not options.fault:
        reading = as_stated(sheet, reading, options.mode, options.red, options.black, tuple(options.pull))
    told = {
        "why": reading.why,
        "leak": reading.leak,
        "ways": [{"stands": way.words, **_reading(way.reading)} for way in reading.ways],
    }
    return {
        **_reading(reading),
        **told,
        "unsettled": list(settled.unsettled),
        "tripped": list(settled.tripped),
    }


def _hertz(options: argparse.Namespace, sheet: Sheet) -> dict[str, Any]:
    settled = _settled(options, sheet, live=True)
    where = points(sheet, settled.circuit, options.red, options.black, MeterRange.VDC)
    found = pulses(sheet, settled, where)
    return {
        "value": found.hertz,
        "unit": "Hz",
        "low": found.low,
        "high": found.high,
        "text": format_value(found.hertz, Dimension.FREQUENCY),
        "duty": found.duty,
        "shows": {"vdc": found.vdc, "vac_average": found.vac_average, "vac_rms": found.vac_rms},
    }


def _netlist(options: argparse.Namespace) -> str:
    sheet = arguments.sheet_of(options.sheet).sheet
    meter = MeterRange(options.meter) if options.meter else None
    if meter and not (options.red and options.black):
        message = (
            "--range puts a meter in: say where with --red and --black, or leave all three out for the"
            " bare circuit"
        )
        raise FrostError(message)
    settled = _settled(options, sheet, live=meter is None or meter.live)
    title = f"{sheet.title}, {options.mode}" + "".join(
        f", {item}" for item in (*options.fault, *(f"{name} pulled" for name in options.pull))
    )
    where = points(sheet, settled.circuit, options.red, options.black, meter) if meter else None
    return netlist(sheet, settled, title, where, meter)


def _trace(options: argparse.Namespace) -> dict[str, Any]:
    sheet = arguments.sheet_of(options.sheet).sheet
    settled = _settled(options, sheet, live=True)
    path = trace(sheet, settled, function_named(sheet, settled.circuit, options.function))
    readings = dict(_at(path, given) for given in options.at)
    segment = localise(sheet, path, readings)
    return {
        "function": path.function.id,
        "mode": path.mode,
        "meter": path.meter.value,
        "black": path.black,
        "points": [
            {
                "point": point.label,
                "node": point.node,
                **_reading(point.reading),
                "onward": (
                    {"kind": str(point.onward.kind), "id": point.onward.id, "name": point.onward.name}
                    if point.onward
                    else None
                ),
            }
            for point in path.points
        ],
        "segment": (
            {
                "good": segment.good,
                "bad": segment.bad,
                "between": [branch.id for branch in segment.between],
                "text": segment.text,
            }
            if segment
            else None
        ),
        "functions": [item.id for item in functions(sheet, settled.circuit)],
    }


def _at(path: Trace, given: str) -> tuple[str, Quantity]:
    label, equals, value = given.partition("=")
    known = [point.label for point in path.points]
    if not equals or label not in known:
        message = (
            f"--at: “{given}” is no reading on this path; write POINT=VALUE with one of {', '.join(known)}"
        )
        raise CircuitError(message)
    return label, quantity("--at", value, path.meter.dimension)


def _mode(mode: Any) -> dict[str, Any]:
    return {
        "id": mode.id,
        "name": mode.name,
        "live": mode.live,
        "enter": list(mode.enter),
        "leave": list(mode.leave),
        "timeout_minutes": mode.timeout_minutes,
        "signals": list(mode.signals),
        "celsius": mode.celsius or {},
        "positions": mode.positions or {},
    }


def _faults(options: argparse.Namespace) -> list[dict[str, Any]]:
    return [
        {
            "id": item.id,
            "component": item.component,
            "mode": item.mode,
            "weight": item.weight,
            "name": item.name,
            "why": item.why,
            "kind": item.kind,
            "unit": item.unit,
            "spread": list(item.spread) if item.spread else None,
            "comes_and_goes": item.comes_and_goes,
            "seen_by": item.seen_by,
        }
        for item in faults(arguments.sheet_of(options.sheet).sheet)
    ]
