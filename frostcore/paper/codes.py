"""The code list: what shows, what the paper says of it, what the board detected."""

import re
from collections.abc import Sequence
from typing import Any

from frostcore import document as documents
from frostcore.display.decode import shown_text
from frostcore.paper.rows import Column, Document, Notes, Row, Section, cell, empty, sourced
from frostcore.sheet.code_rules import RULES, choices, guessed, rule_named, with_figures
from frostcore.sheet.model import Code, Sheet, Shown

AS_IT_IS = "as it is"
"""Of a condition that no rule of the list says: left as the sheet has it."""


def write(document: Document) -> list[dict[str, str]]:
    """The codes' rows."""
    sheet = documents.read(Sheet, document, rules=False)
    rules = dict(choices(sheet))
    found = []
    for data, code in zip(document.get("codes", []), sheet.codes, strict=True):
        rule = next((words for name, words in rules.items() if _same(sheet, name, code)), AS_IT_IS)
        found.append(
            {
                "id": code.id,
                "code": shown_text(code.shown),
                "meaning": data.get("meaning", ""),
                "detected": rule,
                "clears": data.get("clears", ""),
            }
        )
    return found


def _same(sheet: Sheet, name: str, code: Code) -> bool:
    rule, _, of = name.partition(":")
    mine, theirs = rule_named(rule).condition(sheet, of), code.condition
    looked = [(test.signal, test.state) for test in mine.tests]
    return mine.join == theirs.join and looked == [(test.signal, test.state) for test in theirs.tests]


def apply(document: Document, rows: Sequence[Row], note: Notes) -> None:
    """Put the codes' rows into a document; those that can't be understood are left out of it."""
    sheet = documents.read(Sheet, document, rules=False)
    old = {code["id"]: code for code in document.get("codes", [])}
    by_words = {_folded(words): name for name, words in choices(sheet)}
    found: list[dict[str, Any]] = []
    taken: dict[str, int] = {}
    for index, row in enumerate(rows):
        if empty(row, CODES):
            continue
        text, meaning = cell(row, "code"), cell(row, "meaning")
        if not text:
            note(index, "code", "What does the display show? Type it as printed, such as E5.")
            continue
        before = old.get(row.get("id", ""))
        shown = _shown(text, before)
        if shown is None:
            note(index, "code", f"“{text}” is too long for a display; a code has up to 8 characters.")
            continue
        look = str(shown).casefold()
        if look in taken:
            note(index, "code", f"shown just as row {taken[look] + 1}: nobody can tell them apart")
            continue
        condition = _condition(sheet, row, before, by_words, meaning)
        if condition is not None and not cell(row, "detected"):
            note.taken[index, "detected"] = dict(choices(sheet)).get(guessed(sheet, meaning), AS_IT_IS)
        if condition is None:
            told = (
                f"“{meaning}” does not say what the board detected"
                if meaning
                else "What did the board detect?"
            )
            note(index, "detected", f"{told}. Choose it.", *_likely(sheet, meaning))
            continue
        taken[look] = index
        identifier = before["id"] if before else _identifier(text, found, old)
        data = dict(before or {}) | {"id": identifier, "shown": shown, "meaning": meaning or text}
        data |= {"condition": condition}
        data.setdefault("implicates", [])
        if cell(row, "clears"):
            data["clears"] = cell(row, "clears")
        else:
            data.pop("clears", None)
        found.append(data)
        if before is None:
            sourced(document, {f"codes.{identifier}": "printed"})
    document["codes"] = found


def _condition(
    sheet: Sheet, row: Row, before: Any, by_words: dict[str, str], meaning: str
) -> dict[str, Any] | None:
    asked = cell(row, "detected")
    if before is not None and (asked == AS_IT_IS or not asked):
        kept: dict[str, Any] = before["condition"]
        return kept
    name = by_words.get(_folded(asked), "") if asked else guessed(sheet, meaning)
    if not name:
        return None
    rule, _, of = name.partition(":")
    if before is not None:
        was = documents.read(Sheet, {**documents.write(sheet), "codes": [before]}, rules=False).codes[0]
        if _same(sheet, name, was):
            return dict(before["condition"])
    condition = with_figures(rule_named(rule).condition(sheet, of), meaning)
    written: dict[str, Any] = documents.write(condition)
    return written


def _likely(sheet: Sheet, meaning: str) -> list[str]:
    """The rules whose words are nearest to a paper's."""
    cued = {rule.id for rule in RULES if rule.cues.search(meaning)}
    named = [words for name, words in choices(sheet) if name.partition(":")[0] in cued]
    return named[:4]


def _shown(text: str, before: Any) -> dict[str, Any] | None:
    if before is not None and shown_text(documents.read(Shown, before["shown"])) == text:
        kept: dict[str, Any] = before["shown"]
        return kept
    if blinks := _blinks(text):
        return {"kind": "blinks", "groups": blinks}
    if re.fullmatch(r"(?:[sl]+)(?:[ -][sl]+)*", text):
        return {"kind": "blinks", "groups": re.split(r"[ -]", text)}
    frames = [part.strip() for part in text.split("/")]
    if len(frames) > 1 and all(frames) and all(len(part) <= LONGEST_CODE for part in frames):
        return {"kind": "frames", "frames": frames}
    return {"kind": "digits", "text": text} if len(text) <= LONGEST_CODE else None


def _blinks(text: str) -> list[str]:
    """Groups of blinks told in words, as :func:`shown_text` says them; none for any other text."""
    groups = []
    for part in re.split(r",\s*pause,\s*|;", text.casefold()):
        runs = re.findall(r"(\d{1,2})\s*(short|long|x|times|blinks?|blinkt?)", part)
        rest = re.sub(r"(\d{1,2})\s*(short|long|x|times|blinks?|blinkt?)", "", part).strip(" ,")
        if not runs or rest:
            return []
        groups.append("".join(("l" if kind == "long" else "s") * int(count) for count, kind in runs))
    return groups


LONGEST_CODE = 8


def _identifier(text: str, found: list[dict[str, Any]], old: dict[str, Any]) -> str:
    plain = re.sub(r"[^A-Za-z0-9]", "", text) or "code"
    taken, name, count = {code["id"] for code in found} | set(old), plain, 2
    while name in taken:
        name, count = f"{plain}_{count}", count + 1
    return name


def _folded(text: str) -> str:
    return " ".join(text.casefold().split())


CODES = Section(
    "codes",
    "Codes",
    "As the paper lists them. What the board detected is read from its words, or chosen.",
    (
        Column("code", "Code", "E5"),
        Column("meaning", "What the paper says", "Defrost sensor open or short"),
        Column("detected", "So the board detected", "", listed=True),
        Column("clears", "Clears", "Plug out and in"),
    ),
    write,
    apply,
)
