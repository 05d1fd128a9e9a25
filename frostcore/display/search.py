"""Search over all sheets: by code as shown, by the condition in words, by model as printed."""

import re
from collections.abc import Iterable
from dataclasses import dataclass

from frostcore.display.condition import describe
from frostcore.display.decode import decode, shown_text
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


@dataclass(frozen=True)
class Found:
    """A sheet, or one of its codes, that answers a search; higher scores first."""

    sheet: Sheet
    code: Code | None
    score: float
    why: str


def search(sheets: Iterable[Sheet], typed: str) -> tuple[Found, ...]:
    """What answers ``typed``, best first; empty for an empty search."""
    query = typed.strip()
    if not query:
        return ()
    found: list[Found] = []
    for sheet in sheets:
        found += _by_model(sheet, query)
        found += [
            Found(sheet, match.code, 3.0, f"shows {shown_text(match.code.shown)}")
            for match in decode(sheet, query)
            if match.exact
        ]
        found += _by_condition(sheet, query)
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


def _by_model(sheet: Sheet, query: str) -> list[Found]:
    asked = squeezed(query)
    names = [sheet.title, sheet.plate.model, sheet.plate.maker, *sheet.plate.models]
    for name in names:
        if len(asked) >= 3 and (
            asked in squeezed(name) or (len(squeezed(name)) >= 4 and squeezed(name) in asked)
        ):
            return [Found(sheet, None, 4.0, f"printed as {name}")]
    return []


def _words(text: str) -> set[str]:
    words = {word.rstrip("s") if len(word) > 3 else word for word in re.findall(r"[a-z0-9]+", text.lower())}
    return words - STOP_WORDS


def _code_words(sheet: Sheet) -> tuple[tuple[Code, str, frozenset[str]], ...]:
    """Each code with its condition, and the words both are found by."""
    found = []
    for code in sheet.codes:
        condition = describe(sheet, code.condition)
        states = " ".join(test.state.replace("_", " ") for test in code.condition.tests)
        text = f"{code.meaning} {condition} {states}"
        if any(test.state is TestState.NOT_ABOVE for test in code.condition.tests):
            text += " cold below slow"
        found.append((code, condition, frozenset(_words(text))))
    return tuple(found)


KEPT_SHEETS = 1000
_kept_words = KeptBySheet(_code_words, KEPT_SHEETS)


def _by_condition(sheet: Sheet, query: str) -> list[Found]:
    asked = _words(query)
    if not asked:
        return []
    found = []
    for code, condition, have in _kept_words.of(sheet):
        told = sum(1.0 if word in have else 0.8 if SAME_MEANING.get(word) in have else 0.0 for word in asked)
        share = told / len(asked)
        if share >= CONDITION_SHARE:
            found.append(Found(sheet, code, 2 * share, condition))
    return found


CONDITION_SHARE = 0.6
"""A condition answers a search when it says this share of its words."""
