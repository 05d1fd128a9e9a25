"""Search over all sheets: by code as shown, by the condition in words, by model as printed."""

import re
from collections.abc import Iterable
from dataclasses import dataclass

from frostcore.display.condition import describe
from frostcore.display.decode import LONGEST, compact, decode, read_blinks, shown_text
from frostcore.sheet.kept import KeptBySheet
from frostcore.sheet.model import Code, Sheet, TestState, squeezed

STOP_WORDS = frozenset(
    [
        "a",
        "an",
        "the",
        "is",
        "it",
        "too",
        "to",
        "of",
        "and",
        "or",
        "in",
        "on",
        "at",
        "for",
        "with",
        "does",
        "not",
        "stay",
        "stays",
        "long",
        "code",
    ]
)
SAME_MEANING = {
    "cold": "below",
    "warm": "above",
    "hot": "above",
    "broken": "open",
    "shorted": "short",
    "temperature": "sensor",
    "coil": "evaporator",
    "fridge": "refrigerator",
}


SYNONYM = 0.8
"""What a word of the same meaning counts."""


@dataclass(frozen=True)
class Found:
    """A sheet, or one of its codes, that answers a search; higher scores first."""

    sheet: Sheet
    code: Code | None
    score: float
    why: str


def search(sheets: Iterable[Sheet], typed: str) -> tuple[Found, ...]:
    """What answers ``typed``, best first; empty for an empty search."""
    query = typed.strip()[:LONGEST]
    if not query:
        return ()
    found: list[Found] = []
    blinks, plain = read_blinks(query), compact(query).lower()
    for sheet in sheets:
        known = _kept.of(sheet)
        found += _by_model(sheet, known, query)
        if plain in known.shown or (blinks and known.blinks):
            found += [
                Found(sheet, match.code, 3.0, f"shows {shown_text(match.code.shown)}")
                for match in decode(sheet, query)
                if match.exact
            ]
        found += _by_condition(sheet, known, query)
    best: dict[tuple[str, str], Found] = {}
    for item in found:
        key = (item.sheet.id, item.code.id if item.code else "")
        if key not in best or best[key].score < item.score:
            best[key] = item
    return tuple(
        sorted(
            best.values(), key=lambda item: (-item.score, item.sheet.title, item.code.id if item.code else "")
        )
    )


def _by_model(sheet: Sheet, known: "_Known", query: str) -> list[Found]:
    asked = squeezed(query)
    if len(asked) < LEAST_OF_A_MODEL:
        return []
    for name, plain in known.names:
        if asked in plain or (len(plain) > LEAST_OF_A_MODEL and plain in asked):
            return [Found(sheet, None, 4.0, f"printed as {name}")]
    return []


LEAST_OF_A_MODEL = 3
"""Fewer characters of a model name too many."""


def _words(text: str) -> set[str]:
    words = {word.rstrip("s") if len(word) > 3 else word for word in re.findall(r"[a-z0-9]+", text.lower())}
    return words - STOP_WORDS


@dataclass(frozen=True)
class _Known:
    """What a sheet is found by: names as printed and squeezed; code texts without blanks and case, and
    whether some are blinks; each code's condition with its words."""

    names: tuple[tuple[str, str], ...]
    shown: frozenset[str]
    blinks: bool
    codes: tuple[tuple[Code, str, frozenset[str]], ...]


def _known(sheet: Sheet) -> _Known:
    codes = []
    for code in sheet.codes:
        condition = describe(sheet, code.condition)
        states = " ".join(test.state.replace("_", " ") for test in code.condition.tests)
        text = f"{code.meaning} {condition} {states}"
        if any(test.state is TestState.NOT_ABOVE for test in code.condition.tests):
            text += " cold below slow"
        codes.append((code, condition, frozenset(_words(text))))
    names = (sheet.title, sheet.plate.model, sheet.plate.maker, *sheet.plate.models)
    return _Known(
        tuple((name, squeezed(name)) for name in names),
        frozenset(compact(shown_text(code.shown)).lower() for code in sheet.codes),
        any(code.shown.kind == "blinks" for code in sheet.codes),
        tuple(codes),
    )


KEPT_SHEETS = 1000
_kept = KeptBySheet(_known, KEPT_SHEETS)


def _by_condition(sheet: Sheet, known: _Known, query: str) -> list[Found]:
    asked = _words(query)
    if not asked:
        return []
    found = []
    for code, condition, have in known.codes:
        synonyms = [word for word in asked if word not in have and SAME_MEANING.get(word) in have]
        told = sum(word in have for word in asked) + SYNONYM * len(synonyms)
        share = told / len(asked)
        if share >= CONDITION_SHARE:
            found.append(Found(sheet, code, 2 * share, condition))
    return found


CONDITION_SHARE = 0.6
"""A condition answers a search when it says this share of its words."""
