"""Commands about sensors."""

import argparse
from dataclasses import asdict
from typing import Any

from frostcore.curves.verdict import Limits, SensorVerdict, judge_all
from frostcore.door import arguments
from frostcore.quantity import Dimension
from frostcore.verdict import Question


def add_commands(commands: Any) -> None:
    """Add ``sensor``."""
    sensor = commands.add_parser("sensor", help="judge thermistor readings against a curve")
    sensor.add_argument("--curve", required=True, metavar="FILE.csv", help="table headed celsius,ohms or fahrenheit,ohms")
    sensor.add_argument("--point", required=True, action="append", metavar="OHMS@TEMPERATURE", help="a reading such as 24k@0C; repeat for more")
    _add_limits(sensor)
    sensor.set_defaults(run=_sensor)


def _add_limits(command: argparse.ArgumentParser) -> None:
    command.add_argument("--tolerance", default="10%", help="the sensor's own tolerance (10%%)")
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
    deciding, verdicts = judge_all(curve, [arguments.point(typed) for typed in options.point], _limits(options))
    rows = [{"kind": "table_row", "line": remark.line, "text": remark.text, "would_be": remark.probable_ohms} for remark in checked.suspicions]
    result = verdict_json(deciding)
    result["questions"] += rows
    if len(verdicts) > 1:
        result["points"] = [verdict_json(verdict) for verdict in verdicts]
    return result


def verdict_json(verdict: SensorVerdict) -> dict[str, Any]:
    """A verdict as plain JSON values."""
    return {
        "point": {"ohms": verdict.point.resistance.value, "state": str(verdict.point.resistance.state), "celsius": verdict.point.temperature.value},
        "verdict": str(verdict.verdict),
        "expected_ohms": asdict(verdict.band),
        "implied_celsius": verdict.implied_celsius,
        "error_kelvin": verdict.error_kelvin,
        "extrapolated": verdict.extrapolated,
        "consequence": verdict.consequence,
        "reasons": list(verdict.reasons),
        "questions": [question_json(question) for question in verdict.questions],
    }


def question_json(question: Question) -> dict[str, Any]:
    """A question as plain JSON values: ``would_be`` is the value as then typed, ``then`` the verdict it would get."""
    return {"kind": question.kind, "text": question.text, "field": question.field, "would_be": question.meant, "then": question.then and str(question.then)}
