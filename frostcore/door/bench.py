"""Commands for the bench: a capacitor by what was read, what stands in for a part, two boards compared."""

import argparse
import math
from dataclasses import asdict
from typing import Any

from frostcore.diagnosis.mat import on_mat
from frostcore.door import arguments
from frostcore.door.diagnosis import json_of
from frostcore.errors import FrostError, SheetError
from frostcore.parts.capacitor import HIGH_HERTZ, Family, Look, Rating, Seen, judge_capacitor
from frostcore.parts.drawer import part_of, place_of, read_drawer
from frostcore.parts.substitute import Candidate, substitutes
from frostcore.parts.twin import Difference, differences, read_twin
from frostcore.quantity import Dimension
from frostcore.supply import foretold
from frostcore.supply.foretold import Supply


def add_commands(commands: Any) -> None:
    """Add ``capacitor``, ``substitute`` and ``twin``."""
    one = commands.add_parser("capacitor", help="an electrolytic capacitor by ohms, farads, look and warmth")
    one.add_argument("--farads", required=True, metavar="470u")
    one.add_argument("--volts", required=True, metavar="25V")
    one.add_argument("--esr", metavar="OHMS", help="what the ESR meter shows")
    one.add_argument("--hertz", default="", metavar="100kHz", help="the meter's frequency")
    one.add_argument("--measured", metavar="FARADS", help="what a capacitance meter shows")
    one.add_argument("--at", default="", metavar="25C", help="how warm it is")
    one.add_argument("--warm", metavar="OHMS@TEMPERATURE", help="its ohms warmed or chilled: 0.1@60C")
    one.add_argument("--family", default="", choices=["", "low_impedance", "standard"])
    one.add_argument("--look", default="", choices=[str(each) for each in Look])
    one.add_argument("--can", default="", metavar="DxH", help="the can in mm: 10x16")
    one.add_argument("--in-circuit", action="store_true")
    one.set_defaults(run=_capacitor)
    other = commands.add_parser("substitute", help="what on the shelf may stand in for a board's part")
    other.add_argument("--part", required=True, metavar="FILE", help='{"id": …, "kind": …, "place": {…}}')
    other.add_argument("--stock", required=True, metavar="CSV")
    other.set_defaults(run=_substitute)
    twin = commands.add_parser("twin", help="the same points on two boards, the oddest first")
    twin.add_argument("--readings", required=True, metavar="CSV", help="point,meter,here,there")
    twin.set_defaults(run=_twin)
    bus = commands.add_parser(
        "bus", help="a supply on the mat: its bus and ripple, inrush, how long it holds"
    )
    bus.add_argument("--mains", required=True, metavar="224V", help="as measured here")
    bus.add_argument("--farads", required=True, metavar="22u", help="the bulk capacitor")
    bus.add_argument("--watts", required=True, metavar="3W", help="what the board takes")
    bus.add_argument("--esr", default="1", metavar="OHMS")
    bus.add_argument(
        "--series", default="12", metavar="OHMS", help="all that charges it: limiter, choke, fuse"
    )
    bus.add_argument("--start", default="470k", metavar="OHMS", help="the start resistor")
    bus.add_argument("--hertz", metavar="50Hz", help="as is usual on such a mains, where it is not given")
    bus.add_argument("--lamp", metavar="60W", help="a lamp in series")
    bus.add_argument("--reads", metavar="318V", help="the bus as read in DC")
    bus.add_argument("--ripple", metavar="1.2V", help="and on the AC range")
    bus.set_defaults(run=_bus)
    mat = commands.add_parser(
        "mat", help="a board on the mat: what stands in for sensors, what it then switches"
    )
    mat.add_argument("--sheet", required=True, metavar="FILE")
    mat.add_argument("--board", default="", metavar="ID")
    mat.set_defaults(run=_mat)


def _capacitor(options: argparse.Namespace) -> dict[str, Any]:
    given = arguments.number
    diameter, height = _can(options.can)
    rating = Rating(
        given("--farads", options.farads, Dimension.CAPACITANCE),
        given("--volts", options.volts, Dimension.VOLTAGE),
        Family(options.family),
        diameter,
        height,
    )
    warm, _, at = (options.warm or "").partition("@")
    if options.warm and not at:
        raise FrostError(f"--warm: “{options.warm}” has no temperature; write it such as 0.1@60C.")
    seen = Seen(
        given("--esr", options.esr, Dimension.RESISTANCE) if options.esr else None,
        given("--hertz", options.hertz, Dimension.FREQUENCY) if options.hertz else HIGH_HERTZ,
        given("--at", options.at, Dimension.TEMPERATURE) if options.at else 25.0,
        given("--measured", options.measured, Dimension.CAPACITANCE) if options.measured else None,
        Look(options.look),
        options.in_circuit,
        given("--warm", warm, Dimension.RESISTANCE) if options.warm else None,
        given("--warm", at, Dimension.TEMPERATURE) if options.warm else None,
    )
    return asdict(judge_capacitor(rating, seen))


def _bus(options: argparse.Namespace) -> dict[str, Any]:
    given = arguments.number
    supply = Supply(
        given("--mains", options.mains, Dimension.VOLTAGE),
        given("--watts", options.watts, Dimension.POWER),
        given("--farads", options.farads, Dimension.CAPACITANCE),
        given("--esr", options.esr, Dimension.RESISTANCE),
        given("--series", options.series, Dimension.RESISTANCE),
        start_ohms=given("--start", options.start, Dimension.RESISTANCE),
        hertz=given("--hertz", options.hertz, Dimension.FREQUENCY) if options.hertz else 0.0,
    )
    found: dict[str, Any] = {
        "bus": asdict(foretold.bus(supply)),
        "one_diode_open": asdict(foretold.one_diode_open(supply)),
        "bulk_open": dict(zip(("mean", "ripple"), foretold.bulk_open(supply), strict=True)),
        "inrush": dict(zip(("amperes", "i2t"), foretold.inrush(supply), strict=True)),
        "seconds_to_50_v": asdict(foretold.after_unplugging(supply)),
    }
    if options.lamp:
        lamp = foretold.in_series(supply, given("--lamp", options.lamp, Dimension.POWER))
        found["lamp"] = asdict(lamp)
    if options.reads or options.ripple:
        volts, ripple = (
            given(name, text, Dimension.VOLTAGE) if text else None
            for name, text in (("--reads", options.reads), ("--ripple", options.ripple))
        )
        judged = foretold.judge_bus(supply, volts, ripple)
        found["judged"] = {"verdict": judged.verdict, "band": asdict(judged.band) if judged.band else None}
        found["judged"]["reason"] = judged.reason
    return found


def _mat(options: argparse.Namespace) -> dict[str, Any]:
    found = on_mat(arguments.sheet_of(options.sheet).sheet, options.board)
    return asdict(found) | {
        "stands": [asdict(each) | {"text": f"{each.resistor}: {each.text}"} for each in found.stands]
    }


def _can(text: str) -> tuple[float | None, float | None]:
    if not text:
        return None, None
    try:
        diameter, height = (float(each) for each in text.lower().split("x"))
    except ValueError:
        raise FrostError(f"--can: “{text}” is no can; write it such as 10x16.") from None
    return diameter, height


def _substitute(options: argparse.Namespace) -> dict[str, Any]:
    data = json_of(options.part)
    if not isinstance(data, dict) or not isinstance(data.get("place", {}), dict):
        raise FrostError('--part: write an object such as {"id": "C7", "kind": "electrolytic", "place": {}}.')
    place = place_of(data.get("place", {}))
    old = part_of({name: value for name, value in data.items() if name != "place"})
    try:
        shelf = read_drawer(arguments.text_of(options.stock))
    except SheetError as error:
        raise FrostError(f"{options.stock}: {error}") from None
    return {"candidates": [_candidate(each) for each in substitutes(old, shelf, place)]}


def _candidate(candidate: Candidate) -> dict[str, Any]:
    return {
        "id": candidate.part.id,
        "answer": candidate.answer,
        "properties": [asdict(each) for each in candidate.properties],
    }


def _twin(options: argparse.Namespace) -> dict[str, Any]:
    try:
        pairs = read_twin(arguments.text_of(options.readings))
    except SheetError as error:
        raise FrostError(f"{options.readings}: {error}") from None
    return {"differences": [_told(each) for each in differences(pairs)]}


def _told(difference: Difference) -> dict[str, Any]:
    pair = difference.pair
    return {
        "point": pair.point,
        "meter": pair.meter,
        "here": pair.here.text,
        "there": pair.there.text,
        "times": difference.times if math.isfinite(difference.times) else None,
        "odd": difference.odd,
        "text": difference.text,
    }
