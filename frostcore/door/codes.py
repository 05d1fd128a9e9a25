"""Commands about sheets and their codes."""

import argparse
from typing import Any

from frostcore.circuit.check import check_circuit, circuit_doubts
from frostcore.diagnosis.causes import unlike
from frostcore.display.condition import describe
from frostcore.display.decode import CodeMatch, decode, shown_text
from frostcore.display.frames import decode_frames, nearest_text, read_frames
from frostcore.display.rhythm import find_rhythm, read_taps
from frostcore.document import write
from frostcore.door import arguments
from frostcore.errors import FrostError, SheetError
from frostcore.faults.silent import silent
from frostcore.sheet.load import schema
from frostcore.sheet.model import Sheet


def add_commands(commands: Any) -> None:
    """Add ``decode``, ``check-sheet`` and ``schema``."""
    decoding = commands.add_parser("decode", help="what a shown code may mean on a sheet")
    decoding.add_argument("--sheet", required=True, metavar="SHEET.json")
    seen = decoding.add_mutually_exclusive_group(required=True)
    seen.add_argument(
        "--frames",
        metavar="FRAMES",
        help="segments as seen: [adefg][acdfg], characters too; / between frames that alternate",
    )
    seen.add_argument(
        "--taps",
        metavar="SECONDS",
        help="a blinking lamp tapped along: 0.0,0.4,0.8, held taps as 0.0-0.2,0.6-1.4",
    )
    seen.add_argument(
        "--shown", metavar="TEXT", help="what the display shows; for a lamp the blinks, such as 3 or 2-1"
    )
    decoding.set_defaults(run=_decode)
    checking = commands.add_parser("check-sheet", help="check a unit sheet")
    checking.add_argument("sheet", metavar="SHEET.json")
    checking.add_argument(
        "--silent",
        action="store_true",
        help="also the faults that no reading at the unit's points shows, with the reason",
    )
    checking.set_defaults(run=_check)
    commands.add_parser("schema", help="the JSON Schema of sheets").set_defaults(run=lambda _: schema())


def _decode(options: argparse.Namespace) -> dict[str, Any]:
    sheet = arguments.sheet_of(options.sheet).sheet
    if options.frames is not None:
        found = decode_frames(sheet, read_frames(options.frames))
        matches = [
            {
                **match_json(sheet, CodeMatch(match.code, match.distance)),
                "dead": [list(item) for item in match.dead],
                "stuck": [list(item) for item in match.stuck],
                "display_suspect": match.display_suspect,
            }
            for match in found
        ]
        return {"sheet": sheet.title, "shown": nearest_text(read_frames(options.frames)), "matches": matches}
    if options.taps is not None:
        rhythm = find_rhythm(read_taps(options.taps))
        matches = [match_json(sheet, match) for match in decode(sheet, rhythm.typed)]
        return {
            "sheet": sheet.title,
            "groups": list(rhythm.groups),
            "repeats": rhythm.repeats,
            "agreeing": rhythm.agreeing,
            "shown": rhythm.typed,
            "matches": matches,
        }
    return {
        "sheet": sheet.title,
        "shown": options.shown,
        "matches": [match_json(sheet, match) for match in decode(sheet, options.shown)],
    }


def match_json(sheet: Sheet, match: CodeMatch) -> dict[str, Any]:
    """A candidate code as plain JSON values."""
    code = match.code
    return {
        "code": code.id,
        "shown": shown_text(code.shown),
        "meaning": code.meaning,
        "condition": {**write(code.condition), "text": describe(sheet, code.condition)},
        "components": [
            {"id": cause.component, "name": sheet.component(cause.component).name, "why": cause.why}
            for cause in code.implicates
        ],
        "distance": match.distance,
    }


def _check(options: argparse.Namespace) -> dict[str, Any]:
    loaded = arguments.sheet_of(options.sheet)
    try:
        check_circuit(loaded.sheet)
    except SheetError as error:
        message = f"{options.sheet}: {error}"
        raise FrostError(message) from None
    counted = ("places", "components", "sensors", "curves", "codes", "connectors", "modes")
    return {
        "ok": True,
        "sheet": loaded.sheet.title,
        "counts": {name: len(getattr(loaded.sheet, name)) for name in counted},
        "remarks": [
            {"place": remark.place, "text": remark.text}
            for remark in (*loaded.remarks, *circuit_doubts(loaded.sheet))
        ],
        "causes_not_computed": [
            {"code": item.code, "component": item.component, "why": item.why} for item in unlike(loaded.sheet)
        ],
        **(_silent(loaded.sheet) if options.silent else {}),
    }


def _silent(sheet: Sheet) -> dict[str, Any]:
    """What no reading shows: what nothing at all here does, and what a look or another instrument does."""
    found = silent(sheet)
    return {
        name: [
            {
                "fault": item.fault.id,
                "name": item.fault.name,
                "weight": item.fault.weight,
                "reason": item.reason,
            }
            for item in found
            if bool(item.fault.seen_by) is looked
        ]
        for name, looked in (("silent", False), ("seen_otherwise", True))
    }
