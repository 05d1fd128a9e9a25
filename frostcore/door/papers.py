"""Sheets at the door: begun from a kind, checked, compared, merged, as CSV and back."""

import argparse
import copy
from typing import Any

from frostcore import document as documents
from frostcore.door import arguments
from frostcore.errors import FrostError, SheetError
from frostcore.paper.csvs import NAMES, from_csv, to_csv
from frostcore.paper.diff import changes
from frostcore.paper.draft import build, tables_of
from frostcore.paper.merge import merged
from frostcore.paper.paste import recognise
from frostcore.paper.three import merge
from frostcore.paper.works import abilities, next_fact
from frostcore.sheet.load import bounded
from frostcore.sheet.model import Sheet
from frostcore.sheet.plate import read_plate

PASTED = ("codes", "sensors", "plugs", "parts", "stated")


def add_commands(commands: Any) -> None:
    """Add ``sheet`` with what it does."""
    sheet = commands.add_parser("sheet", help="begin, check, compare, merge a sheet; its tables as CSV")
    does = sheet.add_subparsers(dest="does", required=True, metavar="new|check|diff|merge|to-csv|from-csv")
    new = does.add_parser("new", help="a sheet begun from a kind of unit, its tables read from files")
    new.add_argument(
        "--kind", required=True, help="the kind's file, such as archetypes/kind-simple-cabinet.json"
    )
    new.add_argument("--plate", required=True, help="the rating plate's text, maker first")
    new.add_argument(
        "--paste", action="append", default=[], metavar="TABLE=FILE", help=f"one of {', '.join(PASTED)}"
    )
    new.add_argument("--answer", action="append", default=[], metavar="QUESTION=ANSWER")
    new.set_defaults(run=_new)
    check = does.add_parser("check", help="what works already, what is missing, what is wrong at its row")
    check.add_argument("sheet")
    check.set_defaults(run=_check)
    diff = does.add_parser("diff", help="two sheets compared in words")
    diff.add_argument("old")
    diff.add_argument("new")
    diff.set_defaults(run=_diff)
    three = does.add_parser("merge", help="two people's changes of one sheet put together")
    for name in ("base", "mine", "theirs"):
        three.add_argument(name)
    three.set_defaults(run=_merge)
    out = does.add_parser("to-csv", help="one table of a sheet as CSV")
    out.add_argument("sheet")
    out.add_argument("--table", required=True, choices=NAMES)
    out.set_defaults(run=_to_csv)
    back = does.add_parser("from-csv", help="a sheet with one table as a CSV has it")
    back.add_argument("sheet")
    back.add_argument("csv")
    back.add_argument("--table", required=True, choices=NAMES)
    back.set_defaults(run=_from_csv)


def _document(path: str) -> dict[str, Any]:
    """A sheet's plain document, in bounds and of sound structure."""
    try:
        data: dict[str, Any] = bounded(arguments.text_of(path))
        documents.read(Sheet, data, rules=False)
    except SheetError as error:
        message = f"{path}: {error}"
        raise FrostError(message) from None
    return data


def _new(options: argparse.Namespace) -> dict[str, Any]:
    base = _document(options.kind)
    tables = tables_of(copy.deepcopy(base))
    read = read_plate(options.plate)
    maker, _, model = read.model.partition(" ")
    typed = {
        "maker": maker,
        "model": model,
        "mains_volts": read.mains_volts,
        "mains_hertz": read.mains_hertz,
        "refrigerant": read.refrigerant,
        "charge_grams": read.charge_grams,
        "defrost_heater_watts": read.defrost_heater_watts,
    }
    for row in tables["plate"]:
        value = typed.get(row["id"])
        if value:
            row["value"] = value if isinstance(value, str) else f"{value:g}"
    answers = dict(_pair(text, "--answer") for text in options.answer)
    lost: list[str] = []
    for text in options.paste:
        name, path = _pair(text, "--paste")
        if name not in PASTED:
            message = f"--paste: there is no table “{name}”; there are {', '.join(PASTED)}"
            raise FrostError(message)
        found = recognise(name, arguments.text_of(path), answers)
        if found.questions:
            asked = found.questions[0]
            words = " or ".join(f"--answer {asked.id}={value} ({told})" for value, told in asked.answers)
            message = f"{path}: {asked.text} Say {words}"
            raise FrostError(message)
        tables[name], without = merged(name, base, tables[name], found.rows)
        lost += without
    built = build(base, tables)
    return {
        "sheet": built.document,
        "ready": built.ready,
        "problems": _problems(built.problems),
        "not_placed": lost,
    }


def _problems(found: Any) -> list[dict[str, Any]]:
    return [
        {
            "table": item.section,
            "row": item.row + 1,
            "column": item.column,
            "text": item.text,
            "cures": list(item.cures),
            "doubt": item.doubt,
        }
        for item in found
    ]


def _pair(text: str, option: str) -> tuple[str, str]:
    name, equals, value = text.partition("=")
    if not equals:
        message = f"{option}: “{text}” has no =; write NAME=VALUE"
        raise FrostError(message)
    return name, value


def _check(options: argparse.Namespace) -> dict[str, Any]:
    base = _document(options.sheet)
    tables = tables_of(copy.deepcopy(base))
    built = build(base, tables)
    works = abilities(built, tables)
    return {
        "ready": built.ready,
        "works": {item.name: {"have": item.have, "of": item.of, "missing": item.missing} for item in works},
        "next": next_fact(works),
        "problems": _problems(built.problems),
        "whole": [str(problem) for problem in built.whole],
    }


def _diff(options: argparse.Namespace) -> dict[str, Any]:
    found = changes(_document(options.old), _document(options.new))
    return {"changes": [{"table": change.section, "words": change.words} for change in found]}


def _merge(options: argparse.Namespace) -> dict[str, Any]:
    merged_, clashes = merge(*(_document(path) for path in (options.base, options.mine, options.theirs)))
    return {
        "sheet": merged_,
        "clashes": [{"place": each.place, "mine": each.mine, "theirs": each.theirs} for each in clashes],
    }


def _to_csv(options: argparse.Namespace) -> str:
    return to_csv(_document(options.sheet), options.table)


def _from_csv(options: argparse.Namespace) -> dict[str, Any]:
    text = arguments.text_of(options.csv)
    try:
        new = from_csv(_document(options.sheet), options.table, text.removeprefix("\ufeff"))
        documents.read(Sheet, new, rules=False)
    except SheetError as error:
        message = f"{options.csv}: {error}"
        raise FrostError(message) from None
    return new
