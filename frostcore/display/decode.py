"""From what the display was seen to show to the sheet's codes: exact first, then what it may have been
misread from."""

import re
from collections.abc import Iterable
from dataclasses import dataclass
from functools import cache

from frostcore.display.segments import looks_apart
from frostcore.errors import FrostError
from frostcore.sheet.model import Code, Sheet, Shown

NEAR_PER_CHARACTER = 0.5
"""A near match may differ by this much for each character shown."""


@dataclass(frozen=True)
class CodeMatch:
    """A code that may be what was seen; ``distance`` is 0 when it is exactly that."""

    code: Code
    distance: float

    @property
    def exact(self) -> bool:
        """Whether the display showed just this code."""
        return self.distance == 0.0


def shown_text(shown: Shown) -> str:
    """How a code appears, in one line for people."""
    match shown.kind:
        case "digits":
            return shown.text
        case "frames":
            return " / ".join(shown.frames)
    return ", pause, ".join(blink_words(group) for group in shown.groups)


def blink_words(group: str) -> str:
    """A group of blinks in words; s is short, l long, ?

    either.
    """
    if set(group) <= {"s", "?"}:
        return f"{len(group)} blink{'s' if len(group) > 1 else ''}"
    runs = [(match[0][0], len(match[0])) for match in re.finditer(r"s+|l+", group)]
    return " ".join(f"{count} {'short' if letter == 's' else 'long'}" for letter, count in runs)


def decode(sheet: Sheet, typed: str) -> tuple[CodeMatch, ...]:
    """Codes that may be what was typed, nearest first.

    Raises FrostError when nothing was typed.
    """
    seen = typed.strip()
    if not seen:
        message = (
            "Nothing typed. Type what the display shows, such as E4; for a blinking lamp the count, such as 3"
            " or 2-1."
        )
        raise FrostError(message)
    matches = []
    for code in sheet.codes:
        distance = _distance(code.shown, seen)
        if distance is not None:
            matches.append(CodeMatch(code, round(distance, 4)))
    return _settle_case(sorted(matches, key=lambda match: (match.distance, match.code.id)), seen)


def _settle_case(matches: list[CodeMatch], seen: str) -> tuple[CodeMatch, ...]:
    """A code typed in the other case is exactly meant when no code has it in the case typed and only one
    in another."""
    same = [
        match
        for match in matches
        if match.code.shown.kind != "blinks"
        and compact(shown_text(match.code.shown)).lower() == compact(seen).lower()
    ]
    if len(same) != 1 or any(match.exact for match in matches):
        return tuple(matches)
    return (CodeMatch(same[0].code, 0.0), *(match for match in matches if match is not same[0]))


def same_text_elsewhere(sheets: Iterable[Sheet], this: Sheet, typed: str) -> tuple[tuple[Sheet, Code], ...]:
    """Codes of other sheets that look exactly like what was typed: the same text means another thing
    there."""
    return tuple(
        (sheet, match.code)
        for sheet in sheets
        if sheet.title != this.title
        for match in decode(sheet, typed)
        if match.exact
    )


def _distance(shown: Shown, seen: str) -> float | None:
    """How far what was seen is from a code, or None when it is too far to be a misreading."""
    if shown.kind == "blinks":
        groups = read_blinks(seen)
        return None if groups is None else _blink_distance(shown.groups, groups)
    wanted = compact("".join(shown.frames) if shown.kind == "frames" else shown.text)
    read = compact(seen)
    limit = NEAR_PER_CHARACTER * max(len(wanted), 1)
    if abs(len(wanted) - len(read)) > limit:
        return None  # each character lost or added costs 1
    distance = _edit(wanted, read)
    return distance if distance <= limit else None


def compact(text: str) -> str:
    """Characters without the spaces, slashes and points between them; a leading or lone minus stays."""
    return re.sub(r"[\s/.,:|]+", "", text)


def _edit(wanted: str, read: str) -> float:
    """Least cost to turn one text into the other: look-alike characters are cheap, a lost or added one
    costs 1."""

    @cache
    def cost(i: int, j: int) -> float:
        if i == 0 or j == 0:
            return float(i + j)
        return min(
            cost(i - 1, j) + 1,
            cost(i, j - 1) + 1,
            cost(i - 1, j - 1) + looks_apart(wanted[i - 1], read[j - 1]),
        )

    return cost(len(wanted), len(read))


LONGEST = 200
"""Characters that what a display shows is told with at most."""


def read_blinks(typed: str) -> tuple[str, ...] | None:
    """Groups of blinks from typed counts (``3``, ``2-1``, ``2 long 1 short``, ``ssl``), or None.

    A bare count leaves short or long open and gives ``?`` for each blink.
    """
    if len(typed) > LONGEST:
        return None
    text = re.sub(r"\b(?:blinks?|flashes|flash|beeps?|times)\b", "", typed.lower()).strip()
    if re.fullmatch(r"[sl]+(?:[\s-]+[sl]+)*", text):
        return tuple(re.split(r"[\s-]+", text))
    words = re.findall(r"(\d{1,2})\s*(short|long)", text)
    if words and re.fullmatch(r"(?:\s*\d{1,2}\s*(?:short|long)\s*,?)+", text):
        return (
            ("".join(word[0] * int(count) for count, word in words),)
            if sum(int(count) for count, _ in words) <= 40
            else None
        )
    counts = re.split(r"[\s,;-]+", text)
    if all(re.fullmatch(r"\d{1,2}", count) and int(count) > 0 for count in counts):
        return tuple("?" * int(count) for count in counts)
    return None


MISCOUNT, WRONG_LENGTH, UNTOLD_LENGTH = 0.5, 0.25, 0.1
"""What a blink too many or too few costs, a short one taken for a long, and one whose length nobody told."""


def _blink_distance(wanted: tuple[str, ...], read: tuple[str, ...]) -> float | None:
    if len(wanted) != len(read):
        return None
    distance = 0.0
    for one, other in zip(wanted, read, strict=True):
        # A miscount by one is the usual slip; a short taken for a long is half as much.
        distance += abs(len(one) - len(other)) * MISCOUNT
        distance += WRONG_LENGTH * sum(b not in {"?", a} for a, b in zip(one, other, strict=False))
        if "?" in other and "l" in one:
            distance += UNTOLD_LENGTH
    return distance if distance <= NEAR_PER_CHARACTER * len(wanted) else None
