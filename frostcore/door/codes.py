"""Commands about sheets and their codes."""

import argparse
from typing import Any

from frostcore.display.condition import describe
from frostcore.display.decode import CodeMatch, decode, shown_text
from frostcore.document import write
from frostcore.door import arguments
from frostcore.sheet.model import Sheet


def add_commands(commands: Any) -> None:
    """Add ``decode`` and ``check-sheet``."""
    decoding = commands.add_parser("decode", help="what a shown code may mean on a sheet")
    decoding.add_argument("--sheet", required=True, metavar="SHEET.json")
    decoding.add_argument("--shown", required=True, metavar="TEXT", help="what the display shows; for a lamp the blinks, such as 3 or 2-1")
    decoding.set_defaults(run=_decode)
    checking = commands.add_parser("check-sheet", help="check a unit sheet")
    checking.add_argument("sheet", metavar="SHEET.json")
    checking.set_defaults(run=_check)


def _decode(options: argparse.Namespace) -> dict[str, Any]:
    sheet = arguments.sheet_of(options.sheet).sheet
    return {"sheet": sheet.title, "shown": options.shown, "matches": [match_json(sheet, match) for match in decode(sheet, options.shown)]}


def match_json(sheet: Sheet, match: CodeMatch) -> dict[str, Any]:
    """A candidate code as plain JSON values."""
    code = match.code
    return {
        "code": code.id,
        "shown": shown_text(code.shown),
        "meaning": code.meaning,
        "condition": {**write(code.condition), "text": describe(sheet, code.condition)},
        "components": [{"id": cause.component, "name": sheet.component(cause.component).name, "why": cause.why} for cause in code.implicates],
        "distance": match.distance,
    }


def _check(options: argparse.Namespace) -> dict[str, Any]:
    loaded = arguments.sheet_of(options.sheet)
    counted = ("places", "components", "sensors", "curves", "codes", "connectors", "modes")
    return {
        "ok": True,
        "sheet": loaded.sheet.title,
        "counts": {name: len(getattr(loaded.sheet, name)) for name in counted},
        "remarks": [{"place": remark.place, "text": remark.text} for remark in loaded.remarks],
    }
