"""Commands about sensors."""

import argparse
from dataclasses import asdict
from typing import Any

from frostcore.curves.divider import Divider
from frostcore.curves.kinds import ErrorKinds, explain
from frostcore.curves.known import KnownCurve, curves_of, fitted, generic_families, identify
from frostcore.curves.model import Curve
from frostcore.curves.settle import settle_text
from frostcore.curves.verdict import Limits, SensorPoint, SensorVerdict, judge_all, judge_sensor
from frostcore.door import arguments
from frostcore.errors import FrostError
from frostcore.quantity import Dimension, Quantity, State
from frostcore.rows import quantity
from frostcore.verdict import Question


def add_commands(commands: Any) -> None:
    """Add ``sensor``."""
    sensor = commands.add_parser("sensor", help="judge thermistor readings against a curve")
    sensor.add_argument(
        "--curve", required=True, metavar="FILE.csv", help="table headed celsius,ohms or fahrenheit,ohms"
    )
    sensor.add_argument(
        "--point",
        required=True,
        action="append",
        metavar="OHMS@TEMPERATURE",
        help="a reading such as 24k@0C; repeat for more",
    )
    _add_limits(sensor)
    sensor.add_argument(
        "--library",
        action="append",
        default=[],
        dest="sheets",
        metavar="SHEET.json",
        help="sheets whose curves are tried for a wrong part; repeat for more",
    )
    sensor.set_defaults(run=_sensor)
    settling = commands.add_parser("settle", help="the value a sensor in an ice bath settles on")
    settling.add_argument(
        "--reading",
        required=True,
        action="append",
        metavar="TIME=OHMS",
        help="a timed reading such as 30s=27k; repeat",
    )
    settling.add_argument("--tolerance", default="10%", help="the sensor's own tolerance (10%%)")
    settling.set_defaults(run=_settle)
    identifying = commands.add_parser("identify", help="which known curve fits measured points")
    identifying.add_argument("--point", required=True, action="append", metavar="OHMS@TEMPERATURE")
    identifying.add_argument(
        "--library",
        action="append",
        default=[],
        dest="sheets",
        metavar="SHEET.json",
        help="sheets whose curves are tried beside the generic ones",
    )
    identifying.add_argument("--most", type=int, default=10, help="how many curves to list (10)")
    _add_limits(identifying, tolerance="5%")
    identifying.set_defaults(run=_identify)
    dividing = commands.add_parser(
        "divider", help="a sensor read live at the board: volts to ohms to temperature, and back"
    )
    dividing.add_argument("--reference", default="5V", help="volts behind the pull-up (5V)")
    dividing.add_argument("--pullup", required=True, help="the pull-up, such as 10k")
    known = dividing.add_mutually_exclusive_group(required=True)
    known.add_argument("--volts", help="DC volts at the sensor pin")
    known.add_argument("--ohms", help="the sensor's resistance, to get the volts")
    known.add_argument("--celsius", help="the sensor's temperature, to get the volts (needs --curve)")
    dividing.add_argument("--curve", metavar="FILE.csv", help="the sensor's table, for its temperature")
    dividing.add_argument(
        "--at", metavar="TEMPERATURE", help="the true temperature, for a verdict (needs --curve)"
    )
    _add_limits(dividing)
    dividing.set_defaults(run=_divider)


def _add_limits(command: argparse.ArgumentParser, tolerance: str = "10%") -> None:
    command.add_argument("--tolerance", default=tolerance, help=f"the sensor's own tolerance ({tolerance}%)")
    command.add_argument("--doubt", default="0.5K", help="how far the thermometer may be off (0.5K)")
    command.add_argument("--meter", default="1%", help="the meter's accuracy (1%%)")


def _limits(options: argparse.Namespace) -> Limits:
    return Limits(
        arguments.number("--tolerance", options.tolerance, Dimension.FRACTION),
        arguments.number("--doubt", options.doubt, Dimension.TEMPERATURE_DIFFERENCE),
        arguments.number("--meter", options.meter, Dimension.FRACTION),
    )


def _sensor(options: argparse.Namespace) -> dict[str, Any]:
    checked, curve = arguments.table_of(options.curve)
    points, limits = [arguments.point(typed) for typed in options.point], _limits(options)
    deciding, verdicts = judge_all(curve, points, limits)
    rows = [
        {"kind": "table_row", "line": remark.line, "text": remark.text, "would_be": remark.probable_ohms}
        for remark in checked.suspicions
    ]
    result = verdict_json(deciding)
    result["questions"] += rows
    if len(verdicts) > 1:
        result["points"] = [verdict_json(verdict) for verdict in verdicts]
        result |= kinds_json(explain(curve, points, limits, _library(options)))
    return result


def _library(options: argparse.Namespace) -> tuple[KnownCurve, ...]:
    return (*curves_of(arguments.sheet_of(path).sheet for path in options.sheets), *generic_families())


def kinds_json(kinds: ErrorKinds) -> dict[str, Any]:
    """The kinds of error as plain JSON values."""
    return {
        "error_kind": str(kinds.kind),
        "error_kinds": [
            {"kind": str(fit.kind), "weight": fit.weight, "parameters": fit.parameters} for fit in kinds.kinds
        ],
        "error_text": kinds.text,
        "next_point_celsius": kinds.next_celsius,
        "next_point_text": kinds.next_text,
    }


def _settle(options: argparse.Namespace) -> dict[str, Any]:
    try:
        return asdict(
            settle_text(
                " ".join(options.reading),
                arguments.number("--tolerance", options.tolerance, Dimension.FRACTION),
            )
        )
    except FrostError as error:
        message = f"--reading: {error}"
        raise FrostError(message) from None


def _identify(options: argparse.Namespace) -> dict[str, Any]:
    if options.most < 1:
        message = f"--most: {options.most} curves can't be listed; give 1 or more"
        raise FrostError(message)
    points = [arguments.point(typed) for typed in options.point]
    found = identify(points, _library(options), _limits(options))
    free = fitted(points)
    return {
        "curves": [
            {
                "name": item.known.name,
                "source": item.known.source,
                "r25_ohms": item.known.r25_ohms,
                "beta_kelvin": item.known.beta_kelvin,
                "weight": item.weight,
            }
            for item in found[: options.most]
        ],
        "fitted": free and {"r25_ohms": free.reference_ohms, "beta_kelvin": free.beta_kelvin},
    }


def _typed_resistance(options: argparse.Namespace, curve: Curve | None) -> Quantity:
    """The resistance typed, or the curve's at the temperature typed."""
    if options.ohms:
        return quantity("--ohms", options.ohms, Dimension.RESISTANCE)
    celsius = arguments.number("--celsius", options.celsius, Dimension.TEMPERATURE)
    if curve is None:
        message = "--celsius needs --curve FILE.csv, the sensor's table"
        raise FrostError(message)
    return Quantity(Dimension.RESISTANCE, float(curve.ohms(celsius)))


def _divider(options: argparse.Namespace) -> dict[str, Any]:
    divider = Divider(
        arguments.number("--reference", options.reference, Dimension.VOLTAGE),
        arguments.number("--pullup", options.pullup, Dimension.RESISTANCE),
    )
    curve = arguments.table_of(options.curve)[1] if options.curve else None
    if curve is None and (options.celsius or options.at):
        message = "--celsius and --at need --curve FILE.csv, the sensor's table"
        raise FrostError(message)
    if options.volts:
        volts = arguments.number("--volts", options.volts, Dimension.VOLTAGE)
        resistance = divider.resistance(volts)
    else:
        resistance = _typed_resistance(options, curve)
        volts = divider.reference_volts if resistance.value is None else divider.volts(resistance.value)
    known = resistance.state is State.VALUE and resistance.number > 0
    result = {
        "volts": volts,
        "ohms": resistance.value,
        "state": str(resistance.state),
        "celsius": float(curve.celsius(resistance.number)) if curve and known else None,
    }
    if options.at and curve:
        limits = _limits(options)
        wider = divider.widened(limits, volts)
        verdict = judge_sensor(
            curve,
            SensorPoint(resistance, quantity("--at", options.at, Dimension.TEMPERATURE)),
            wider,
        )
        result |= {
            key: value
            for key, value in verdict_json(verdict).items()
            if key in {"verdict", "expected_ohms", "error_kelvin"}
        }
    return result


def verdict_json(verdict: SensorVerdict) -> dict[str, Any]:
    """A verdict as plain JSON values."""
    return {
        "point": {
            "ohms": verdict.point.resistance.value,
            "state": str(verdict.point.resistance.state),
            "celsius": verdict.point.temperature.value,
        },
        "verdict": str(verdict.verdict),
        "expected_ohms": asdict(verdict.band),
        "implied_celsius": verdict.implied_celsius,
        "error_kelvin": verdict.error_kelvin,
        "extrapolated": verdict.extrapolated,
        "consequence": verdict.reason,
        "reasons": list(verdict.why),
        "questions": [question_json(question) for question in verdict.questions],
    }


def question_json(question: Question) -> dict[str, Any]:
    """A question as plain JSON values: ``would_be`` is the value as then typed, ``then`` the verdict it
    would get."""
    return {
        "kind": question.kind,
        "text": question.text,
        "field": question.field,
        "would_be": question.meant,
        "then": question.then and str(question.then),
    }
