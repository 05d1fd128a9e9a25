"""``thermal``: a unit over days, sound or with a fault, as a logger would write it."""

import argparse
import re
from datetime import datetime, timedelta
from typing import Any

from frostcore.door import arguments
from frostcore.errors import FrostError
from frostcore.faults.known import Fault
from frostcore.faults.known import faults as faults_of
from frostcore.quantity import Dimension
from frostcore.sheet.model import Sheet
from frostcore.thermal.control import HOUR, Act, openings
from frostcore.thermal.faults import broken, broken_by
from frostcore.thermal.logged import logged
from frostcore.thermal.of_sheet import thermal_of
from frostcore.thermal.simulate import simulate

MOST_DAYS = 60.0


def add_commands(commands: Any) -> None:
    """Add ``thermal``."""
    one = commands.add_parser(
        "thermal", help="a unit over days, sound or with a fault, as a logger would write it: CSV out"
    )
    one.add_argument("--sheet", required=True, metavar="FILE", help="the unit's sheet")
    one.add_argument("--fault", metavar="ID", help="what is wrong with it; nothing, where it is left out")
    one.add_argument("--days", type=float, default=1.0, metavar="N", help="how long (1)")
    one.add_argument("--room", default="25C", metavar="25C", help="how warm the room is")
    one.add_argument("--every", type=float, default=60.0, metavar="60", help="seconds between rows")
    one.add_argument(
        "--setting", action="append", default=[], metavar="HOURS=WHAT",
        help="after so many hours: defrost, unplug, plug, or a warmer (+2) or colder (-2) setting in kelvin",
    )  # fmt: skip
    one.add_argument("--seed", type=int, default=0, help="of doors and noise")
    one.add_argument(
        "--begins", default="2026-01-05 08:00", metavar="DATE", help="what its clock says at first"
    )
    one.set_defaults(run=_thermal)


def _thermal(options: argparse.Namespace) -> str:
    sheet = arguments.sheet_of(options.sheet).sheet
    if not 0 < options.days <= MOST_DAYS:
        raise FrostError(f"--days: {options.days:g} is no length of a run; give up to {MOST_DAYS:.0f}.")
    if options.every < 60 or options.every % 60:
        raise FrostError(f"--every: {options.every:g} s; give whole minutes, 60 or 300 seconds.")
    try:
        begins = datetime.fromisoformat(options.begins)
    except ValueError:
        raise FrostError(f"--begins: “{options.begins}” is no moment; write 2026-01-05 08:00.") from None
    plant = thermal_of(sheet).changed(room=arguments.number("--room", options.room, Dimension.TEMPERATURE))
    if options.fault:
        plant = broken(plant, broken_by(sheet, plant, [_fault(sheet, options.fault)])[0])
    acts = (*openings(plant, options.days, options.seed), *(_act(text) for text in options.setting))
    log = logged(simulate(plant, options.days, acts=acts), options.every, options.seed)
    lines = [",".join(["time", *(_head(name) for name in log.columns)])]
    for row, seconds in enumerate(log.seconds.tolist()):
        moment = begins + timedelta(seconds=seconds)
        lines.append(
            ",".join([moment.isoformat(" "), *(f"{values[row]:.1f}" for values in log.columns.values())])
        )
    return "\n".join(lines)


def _head(name: str) -> str:
    kind, _, place = name.partition(":")
    return f"{place} coil celsius" if kind == "coil" else f"{place} celsius" if place else "watts"


def _fault(sheet: Sheet, identifier: str) -> Fault:
    known = {fault.id: fault for fault in faults_of(sheet)}
    if identifier not in known:
        some = ", ".join(list(known)[:5])
        raise FrostError(f"There is no fault “{identifier}” on this sheet; there are {some} and others.")
    return known[identifier]


def _act(text: str) -> Act:
    hours, equals, what = text.partition("=")
    if equals and re.fullmatch(r"\d+(\.\d+)?h?", hours.strip()):
        at = float(hours.strip().rstrip("h")) * HOUR
        if what in {"defrost", "unplug", "plug"}:
            return Act(at, what)  # type: ignore[arg-type]
        if re.fullmatch(r"[+\-−]\d+(\.\d+)?", what):
            return Act(at, "shift", by=float(what.replace("−", "-")))
    raise FrostError(f"--setting: “{text}” is not understood; write 24=-2, 6=defrost, 30=unplug or 31=plug.")
