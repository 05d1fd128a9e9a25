"""``run``: a logger's file of a unit, judged."""

import argparse
from typing import Any

import numpy as np

from frostcore.door import arguments
from frostcore.errors import FrostError
from frostcore.quantity import Dimension
from frostcore.thermal.defrosts import DefrostSeen, defrosts_of
from frostcore.thermal.figures import Stretch, stretches
from frostcore.thermal.food import spoilt
from frostcore.thermal.forecast import FULL, ensemble, forecast
from frostcore.thermal.log import Log, read_log
from frostcore.thermal.of_sheet import thermal_of
from frostcore.thermal.setting import setting_of
from frostcore.thermal.verdicts import Judged


def add_commands(commands: Any) -> None:
    """Add ``run``."""
    one = commands.add_parser("run", help="a logger's file of a unit: what it shows and what it can't")
    one.add_argument("--log", required=True, metavar="FILE", help="the logger's CSV")
    one.add_argument("--sheet", required=True, metavar="FILE", help="the unit's sheet")
    one.add_argument(
        "--column", action="append", default=[], metavar="HEAD=PLACE",
        help="what a column is of: a compartment, coil:EVAPORATOR, room, plug; - leaves it out",
    )  # fmt: skip
    one.add_argument(
        "--settings", nargs="+", default=[], metavar="WHEN=WHAT",
        help="what was set on the way: 3.5h=defrost, 6h=knob:4, 12h=knob:-22C@freezer, 30h=plug_out",
    )  # fmt: skip
    one.add_argument("--full", default="", choices=list(FULL), help="how full it is, where that is known")
    one.add_argument("--room", default="25C", metavar="25C", help="how warm the room is")
    one.add_argument(
        "--forecast", type=int, default=0, metavar="MEMBERS",
        help="when it will be at its setting, by so many simulations (120 take some seconds)",
    )  # fmt: skip
    one.set_defaults(run=_run)


def _run(options: argparse.Namespace) -> dict[str, Any]:
    sheet = arguments.sheet_of(options.sheet).sheet
    plant = thermal_of(sheet).changed(room=arguments.number("--room", options.room, Dimension.TEMPERATURE))
    places = [room.place for room in plant.compartments]
    log = read_log(arguments.text_of(options.log), places, [face.id for face in plant.evaporators])
    log = log.placed(dict(_pair(text) for text in options.column))
    judged = Judged(plant, log, [setting_of(text, plant) for text in options.settings])
    return {
        "begins": log.begins.isoformat(" "),
        "hours": round(log.hours, 2),
        "rows": len(log.seconds),
        "columns": _columns(log),
        "said": [each.words for each in log.said],
        "proof": judged.proof,
        "apart": judged.apart,
        "food": [
            {"of": each.place, "above_celsius": each.above, "hours": round(each.hours, 1), "told": each.words}
            for each in spoilt(log, {room.id: room.compartment for room in sheet.compartments})
        ],
        "verdicts": [
            {
                "kind": each.kind,
                "of": each.of,
                "stands": each.stands,
                "words": each.words,
                "needs": list(each.needs),
                **({"until_hours": round(each.until, 1)} if each.until is not None else {}),
            }
            for each in judged.verdicts
        ],
        "forecast": _forecasts(judged, options.forecast, options.full),
        "stretches": [_stretch(each) for each in stretches(judged)],
        "duty": None if judged.duty is None else round(judged.duty, 3),
        "starts": len(judged.starts),
        "cut_outs_hours": [round(at / 3600, 2) for at in judged.stops],
        "defrosts": [_defrost(each) for each in defrosts_of(judged)],
        "cycles": {
            room.place: [
                {"hours": round(turn.at / 3600, 2), "celsius": round(turn.celsius, 2), "top": turn.top}
                for turn in judged.turns(room.place)
            ]
            for room in plant.compartments
        },
    }


def _defrost(one: DefrostSeen) -> dict[str, Any]:
    """A defrost, in figures."""
    return {
        "hours": round(one.hours, 2),
        "minutes": round(one.minutes, 1),
        "ended_by": "time" if one.by_time else "temperature",
        "wh": round(one.wh, 1),
        "drips_minutes": None if one.drips is None else round(one.drips, 1),
        "back": {
            each.place: {
                "warmest": round(each.warmest, 1),
                "minutes": None if each.minutes is None else round(each.minutes),
            }
            for each in one.back
        },
    }


def _stretch(one: Stretch) -> dict[str, Any]:
    """A stretch between two settings, in figures."""

    def short(value: float | None) -> float | None:
        return None if value is None else round(value, 2)

    found = one.figures
    return {
        "from_hours": short(one.start),
        "to_hours": short(one.end),
        "set": one.setting.words if one.setting else None,
        "compartments": {
            room.place: {
                "mean": short(room.mean), "low": short(room.low), "high": short(room.high),
                "cut_in": short(room.cut_in), "cut_out": short(room.cut_out),
            }
            for room in found.rooms
        },
        "duty": short(found.duty),
        "starts_a_day": short(found.starts),
        "kwh_a_day": short(found.kwh),
        "watts_running": short(found.watts),
        "holds": {place: {"stands": stands, "told": words} for place, stands, words in one.holds},
    }  # fmt: skip


def _forecasts(judged: Judged, members: int, full: str) -> list[dict[str, Any]]:
    """When what has a thermometer and is not at its setting yet will be."""
    if members <= 0:
        return []
    if members < LEAST_MEMBERS:
        raise FrostError(f"--forecast: {members} simulations are too few; give {LEAST_MEMBERS} or more.")
    waits = judged.falling
    if not waits:
        return []
    now = judged.last
    every = ensemble(now.plant, now.first, members=members, faulty=members // 4, full=full)
    found = (forecast(every, now.log, place) for place in waits)
    return [
        {
            "of": each.place,
            "told": each.words,
            "at_hours": [
                round(when / 60, 2) if np.isfinite(when) else None
                for when in (each.low, each.median, each.high)
            ],
            "never": round(each.never, 3),
        }
        for each in found
        if each is not None
    ]


LEAST_MEMBERS = 60


def _columns(log: Log) -> list[dict[str, Any]]:
    return [
        {"head": each.head, "measures": each.quantity, "of": each.where, "was_fahrenheit": each.fahrenheit}
        for each in log.columns
    ]


def _pair(text: str) -> tuple[str, str]:
    head, equals, place = text.rpartition("=")
    if not equals:
        raise FrostError(f"--column: “{text}” says no place; write such as “Probe 1=freezer”.")
    return head, place
