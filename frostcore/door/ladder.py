"""``ladder``: a board out of its unit, from the mains pin to the last rail."""

import argparse
from typing import Any

from frostcore.bench.judge import BenchJudgement, judge_board
from frostcore.bench.ladder import Ladder
from frostcore.bench.printed import is_printed, with_printed
from frostcore.bench.supplies import kinds, mains_of, supply_of
from frostcore.bench.table import table_of
from frostcore.bench.telling import Telling
from frostcore.bench.typed import reading_from, shown_value
from frostcore.door import arguments
from frostcore.errors import FrostError
from frostcore.quantity import Dimension
from frostcore.sheet.supply import BoardSupply


def add_commands(commands: Any) -> None:
    """Add ``ladder``."""
    one = commands.add_parser(
        "ladder", help="a board on the mat, stage by stage: what to read, what it means"
    )
    one.add_argument("--sheet", metavar="FILE", help="the unit's sheet")
    one.add_argument("--board", default="", metavar="ID", help="which board, where it has several")
    one.add_argument("--kind", choices=kinds(), help="the kind of supply, where no sheet describes it")
    one.add_argument("--mains", required=True, metavar="224V", help="as measured here")
    one.add_argument("--at", action="append", default=[], metavar="POINT=VALUE", help="a reading; any number")
    one.add_argument("--no-esr", action="store_true", help="there is no ESR meter")
    one.add_argument("--fault", metavar="ID", help="what each point shows with this fault")
    one.set_defaults(run=_ladder)


def _ladder(options: argparse.Namespace) -> dict[str, Any]:
    mains = arguments.number("--mains", options.mains, Dimension.VOLTAGE)
    sheet = arguments.sheet_of(options.sheet).sheet if options.sheet else None
    supply = supply_of(sheet, options.board, options.kind, mains)
    pairs = [_pair(text) for text in options.at]
    supply = with_printed(supply, pairs)
    if options.fault:
        return {"supply": supply.name, "fault": options.fault, "shows": _shows(supply, mains, options.fault)}
    judgement = judge_board(supply, (), mains_of(mains), measured=mains, esr=not options.no_esr)
    readings = [reading_from(judgement, *pair)[0] for pair in pairs if not is_printed(pair[0])]
    return _told(Ladder(BenchJudgement(judgement.weigher, readings)))


def _pair(text: str) -> tuple[str, str]:
    point, equals, typed = text.partition("=")
    if not equals:
        raise FrostError(f"--at: “{text}” has no value; write it such as vdc:bp-bm=318V or said=dead.")
    return point, typed


def _shows(supply: BoardSupply, mains: float, fault: str) -> list[dict[str, Any]]:
    table = table_of(supply, mains_of(mains))
    if fault not in table.known.place:
        some = ", ".join(each.id for each in table.known.all[1:6])
        raise FrostError(f"There is no fault “{fault}” on this board; there are {some} and others.")
    place = table.known.place[fault]
    found = []
    for row, probe in enumerate(table.probes):
        if row not in table.answers:
            values = table.values[:, row, place]
            low, high = (shown_value(probe.range, float(each)) for each in (values.min(), values.max()))
            shown = low if low == high else f"{low} to {high}"
            found.append({"point": probe.id, "name": probe.name, "shows": shown})
    return found


def _told(ladder: Ladder) -> dict[str, Any]:
    judgement, telling = ladder.judgement, Telling(ladder)
    following = judgement.next
    return {
        "supply": ladder.supply.name,
        "values": "usual ones" if ladder.supply.source == "archetype" else "the sheet’s",
        "rungs": [
            {
                "stage": rung.id,
                "name": rung.name,
                "state": rung.state,
                "chance": round(rung.chance, 4),
                "readings": [
                    {
                        "point": each.probe.id,
                        "name": each.probe.name,
                        "expected": each.expected,
                        "read": each.shown,
                        "verdict": each.verdict,
                    }
                    for each in rung.readings
                ],
            }
            for rung in ladder.rungs
        ],
        "suspects": [
            {"unit": each.unit, "probability": round(each.probability, 4), "fault": each.faults[0][0].id}
            for each in judgement.suspects
        ],
        "named": judgement.named.unit if judgement.named else None,
        "group": [each.unit for each in judgement.group],
        "next": {"point": following.probe.id, "name": following.probe.name} if following else None,
        "told": list(telling.told),
        "power": list(telling.power),
        "cautions": list(telling.cautions),
    }
