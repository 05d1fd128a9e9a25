"""What was read in the cells of a picture, weighed: which text each most likely holds, and which of them want
an eye.

Each cell is read several times, from pictures that differ a little. What the readings don't agree on is
doubtful; what they agree on is held against what such a column can hold: its colours, the count of its pins,
the form of its codes, the smooth line of a sensor. A figure that nothing else on the paper bears out is said
to be so: a wrong last digit looks like a right one.
"""

import re
from collections import Counter
from collections.abc import Callable, Mapping, Sequence
from dataclasses import dataclass, replace
from itertools import pairwise

from frostcore.curves.table import TableRow, check
from frostcore.paper.colours import SYSTEMS, decide
from frostcore.paper.colours import read as colour_of
from frostcore.paper.heads import FAHRENHEIT, HEADS, NOT_KEPT, head_of
from frostcore.paper.paste import (
    DASHES,
    SUPERSCRIPTS,
    columns_of,
    heads_of,
    limit_of,
    number_of,
    thousands_of,
)
from frostcore.paper.picture.cells import WornError
from frostcore.quantity import celsius_from_fahrenheit
from frostcore.sheet.words import STEMS, folded, tokens

SURE, UNREAD = 70.0, 45.0
"""Of a hundred: below the one a reading is doubtful, below the other it is a guess."""

WORN = 0.4
"""With more of its cells guesses, a picture is too worn to be read."""

LINES = str.maketrans("—–\u2212", "---")
"""Lines of every length, read as one: which it was can't be told from a picture."""

SLIPS = str.maketrans("lIi|OoSBZ:~—−", "111100582.-–-")
"""Letters and marks that digits are taken for."""


@dataclass(frozen=True)
class Glimpse:
    """One reading of a cell, and how sure the reader was of it, from 0 to 100."""

    text: str
    sure: float


@dataclass(frozen=True)
class CellRead:
    """A cell as read: what is wrong about it in words, empty where nothing is; other texts it may hold."""

    row: int
    column: int
    text: str
    sure: float
    doubt: str = ""
    others: tuple[str, ...] = ()


@dataclass(frozen=True)
class TableRead:
    """A table as read; ``unwitnessed`` are the columns whose figures nothing else on the paper bears out,
    with their heads."""

    cells: tuple[CellRead, ...]
    unwitnessed: tuple[tuple[int, str], ...]

    def grid(self) -> list[list[str]]:
        """Its texts by row."""
        return grid_of({(each.row, each.column): each.text for each in self.cells})

    @property
    def doubtful(self) -> tuple[CellRead, ...]:
        """The cells that want an eye."""
        return tuple(each for each in self.cells if each.doubt)


Cells = dict[tuple[int, int], CellRead]


def weighed(section: str, glimpses: Mapping[tuple[int, int], Sequence[Glimpse]]) -> TableRead:
    """A section's table of what was read in each printed cell (by row and column).

    Raises WornError where too much of it is guesswork.
    """
    cells: Cells = {at: _agreed(at, seen) for at, seen in glimpses.items() if seen}
    guessed = sum(1 for each in cells.values() if each.sure < UNREAD)
    if not cells or guessed > WORN * len(cells):
        message = f"{guessed} of {len(cells)} cells can’t be read: the picture is too worn. Type the table."
        raise WornError(message)
    if section == "sensors":
        _signs(cells)
    grid = grid_of({at: each.text for at, each in cells.items()})
    heads, body = heads_of(section, grid)
    above = len(grid) - len(body)
    columns = columns_of(section, heads, body)
    beside = {at: limit_of(head) for at, head in enumerate(heads) if section == "sensors"}
    limits = {at: limit for at, limit in beside.items() if limit in {"min", "max"}}
    wanted = {at: key for at, key in enumerate(columns) if key and key not in NOT_KEPT}
    unused = {at for at, key in enumerate(columns) if key in NOT_KEPT} - set(limits)
    for place in list(cells):
        if place[0] >= above and place[1] in unused:  # what is not taken over needs no eye, and stays as read
            cells[place] = replace(_agreed(place, glimpses[place]), doubt="")
    for column, key in [*wanted.items(), *((column, "ohms") for column in limits)]:
        rule = RULES.get(key)
        if rule:
            rule(cells, [(row, column) for row in range(above, len(grid)) if (row, column) in cells])
    unwitnessed: list[tuple[int, str]] = []
    if section == "sensors":
        unwitnessed = _figures(cells, heads, wanted, limits, above, len(grid))
    return TableRead(tuple(cells[at] for at in sorted(cells)), tuple(unwitnessed))


def section_of(heads: Sequence[str]) -> str:
    """Which of a paper's tables has such heads: a draft's section, or empty where none is likely."""
    scored = [
        (len({key for key in (head_of(section, head) for head in heads) if key}), section)
        for section in HEADS
    ]
    best = max(scored, key=lambda each: each[0])
    alone = sum(1 for count, _ in scored if count == best[0]) == 1
    return best[1] if best[0] >= 2 and alone else ""


def grid_of(texts: Mapping[tuple[int, int], str]) -> list[list[str]]:
    """Texts by row and column as rows of equal length."""
    high = max((row for row, _ in texts), default=-1) + 1
    wide = max((column for _, column in texts), default=-1) + 1
    return [[texts.get((row, column), "") for column in range(wide)] for row in range(high)]


def _tidy(text: str) -> str:
    """A reading without what frames and specks are read as."""
    plain = text.translate(LINES).strip()
    return " ".join(plain.strip("|_“”‘’\"'`°¢ ").split()) or plain


def _agreed(at: tuple[int, int], seen: Sequence[Glimpse]) -> CellRead:
    """The text most readings give, the surest first; doubtful where they differ, or none is sure."""
    weight = dict[str, float]()
    for each in seen:
        text = _tidy(each.text)
        weight[text] = weight.get(text, 0.0) + 1 + max(each.sure, 0.0) / 100
    best = max(weight, key=lambda text: (weight[text], text))
    # Dots and rings over letters are lost in reading, never gained.
    best = max((text for text in weight if folded(text) == folded(best)), key=_beyond_ascii, default=best)
    sure = max((each.sure for each in seen if _tidy(each.text) == best), default=0.0)
    others = tuple(
        text
        for text in sorted(weight, key=weight.__getitem__, reverse=True)
        if not _alike(text, best) and (text == "-" or any(letter.isalnum() for letter in text))
    )
    doubt = ""
    if not best:
        doubt = "couldn’t be read"
    elif others:
        doubt = f"also read as {', '.join(f'“{text}”' for text in others)}"
    elif len({text for text in weight if not _alike(text, best)}) > 0 or sure < SURE:
        doubt = "hardly read"
    return CellRead(*at, best, sure, doubt, others)


def _beyond_ascii(text: str) -> int:
    return sum(ord(letter) > 127 for letter in text)


def _alike(one: str, other: str) -> bool:
    return one.casefold() == other.casefold()


def _mark(cells: Cells, at: tuple[int, int], doubt: str, *others: str) -> None:
    """Doubt a cell, and offer what it may hold instead."""
    mine = cells[at]
    offered = dict.fromkeys([*others, *mine.others])
    cells[at] = replace(
        mine, doubt=mine.doubt or doubt, others=tuple(text for text in offered if text and text != mine.text)
    )


def _put(cells: Cells, at: tuple[int, int], text: str, doubt: str) -> None:
    """Take another text for a cell than was read, and say so."""
    mine = cells[at]
    if text != mine.text:
        others = tuple(dict.fromkeys([mine.text, *(each for each in mine.others if each != text)]))
        cells[at] = replace(mine, text=text, doubt=doubt, others=others)


def _signs(cells: Cells) -> None:
    """Heads of a sensor table: Ω and ° are read as letters that look like them."""
    for at, each in list(cells.items()):
        if at[0] > 2:
            continue
        text = re.sub(r"(?i)\bk\s?[qoa0f9n]\b", "kΩ", each.text)
        text = re.sub(r"^[QN]$|\b[Qq]\b", "Ω", text)
        text = re.sub(r"^\W?[^\w\s]?[*'‘’“\"?3]?([CF])$", r"°\1", text)
        text = re.sub(r"\([^\w]*([CF])\)", r"(°\1)", text)
        _put(cells, at, text, f"read as “{each.text}”")


NUMBER = re.compile(r"[-+\u2212]?\d+(?:[.,]\d+)*")


def _numbers(cells: Cells, places: Sequence[tuple[int, int]]) -> None:
    """Figures: whatever is none is put right where it looks like one, and doubtful either way."""
    for at in places:
        mine = cells[at]
        text = re.sub(r"[*¹²³⁴†‡+]+$", "", mine.text).translate(SUPERSCRIPTS).strip()
        if text in DASHES or NUMBER.fullmatch(text):
            if text != mine.text:
                _put(cells, at, text, f"read as “{mine.text}”: is that a footnote’s mark?")
            continue
        readings = (text, *mine.others)
        tries = [re.sub(r"(?<=\d)\D+$", "", each).translate(SLIPS) for each in readings]
        found = next((each for each in tries if NUMBER.fullmatch(each.strip())), None)
        if found:
            _put(cells, at, found.strip(), f"read as “{mine.text}”, which is no figure")
        else:
            _mark(cells, at, "is no figure")


def _marks_lost(cells: Cells, places: Sequence[tuple[int, int]]) -> None:
    """A figure without a decimal mark among such as have one: the mark is what is lost first."""
    dotted = [at for at in places if re.search(r"\d[.,]\d", cells[at].text)]
    for at in places:
        if dotted and re.fullmatch(r"[-+\u2212]?\d{2,}", cells[at].text):
            _mark(cells, at, "has no decimal mark, as others have")


def _ohms(cells: Cells, places: Sequence[tuple[int, int]]) -> None:
    _numbers(cells, places)
    _marks_lost(cells, places)


def _pins(cells: Cells, places: Sequence[tuple[int, int]]) -> None:
    """Pins count on from the one above; one that doesn't is doubtful."""
    last: tuple[str, int] | None = None
    for at in places:
        mine = cells[at]
        match = re.fullmatch(r"(.*?)(\d{1,3})", mine.text)
        expected = None if last is None else f"{last[0]}{last[1] + 1}"
        if match is None:
            guess = mine.text.translate(SLIPS).rstrip(".,-–")
            options = [text for text in (expected, "1", guess) if text]
            known = [each for each in (*mine.others, guess) if each in options]
            if mine.text in DASHES:
                last = None
                continue
            if known:
                _put(cells, at, known[0], f"read as “{mine.text}”, which is no pin")
            else:
                _mark(cells, at, "is no pin", *options)
            match = re.fullmatch(r"(.*?)(\d{1,3})", cells[at].text)
        elif mine.text != expected and int(match[2]) != 1:
            if expected in mine.others:
                _put(cells, at, str(expected), f"read as “{mine.text}”, which does not count on")
            else:
                _mark(cells, at, f"does not count on: {expected or 1} would", expected or "1")
            match = re.fullmatch(r"(.*?)(\d{1,3})", cells[at].text)
        last = (match[1], int(match[2])) if match else None


def _colours(cells: Cells, places: Sequence[tuple[int, int]]) -> None:
    """Colours in the one system most of the column is in; what is none there is doubtful."""
    texts = [cells[at].text for at in places if cells[at].text not in DASHES]
    if not texts:
        return
    system = decide(texts).system or _most(texts)
    table = SYSTEMS[system][1]
    for at in places:
        mine = cells[at]
        if mine.text in DASHES or colour_of(mine.text, table):
            continue
        known = [text for text in mine.others if colour_of(text, table)]
        near = [name.upper() if mine.text.isupper() else name for name in table if _near(name, mine.text)]
        if known:
            _put(cells, at, known[0], f"read as “{mine.text}”, which is no colour here")
        elif "-" in mine.others:
            _put(cells, at, "-", f"read as “{mine.text}”, which is no colour here")
        else:
            _mark(cells, at, "is no colour here", *near[:3])


def _most(texts: Sequence[str]) -> str:
    """The system that reads most of a column."""
    return max(SYSTEMS, key=lambda name: sum(1 for text in texts if colour_of(text, SYSTEMS[name][1])))


def _near(one: str, other: str) -> bool:
    """Whether two short texts differ by one letter."""
    one, other = folded(one), folded(other)
    if len(one) == len(other):
        return sum(a != b for a, b in zip(one, other, strict=True)) == 1
    short, long = sorted((one, other), key=len)
    return len(long) - len(short) == 1 and any(long[:at] + long[at + 1 :] == short for at in range(len(long)))


def _form(text: str) -> str:
    """Of which kind each of its letters is: A letter, 9 digit, others as they are."""
    return re.sub(r"\d", "9", re.sub(r"[^\W\d_]", "A", text))


SAME_SHAPE = set("cikopsuvwxz")
"""Letters whose capitals are their own shape, larger."""


def _case(cells: Cells, places: Sequence[tuple[int, int]]) -> None:
    """Names that all begin with capitals do: a lone small letter of the same shape is misread."""
    capital = sum(cells[at].text[:1].isupper() for at in places)
    for at in places:
        text = cells[at].text
        if capital * 2 > len(places) and text[:1] in SAME_SHAPE:
            _put(cells, at, text[0].upper() + text[1:], f"read as “{text}”; the others are in capitals")


def _codes(cells: Cells, places: Sequence[tuple[int, int]]) -> None:
    """Codes have one form, mostly; one that is of another is put into it where letters look like digits."""
    forms = Counter(_form(cells[at].text) for at in places)
    if not forms:
        return
    usual = forms.most_common(1)[0][0]
    for at in places:
        text = cells[at].text
        if _form(text) == usual or len(places) < 3:
            continue
        if len(text) == len(usual):
            made = "".join(
                letter.translate(SLIPS) if kind == "9" else letter
                for letter, kind in zip(text, usual, strict=True)
            )
            if _form(made) == usual:
                _put(cells, at, made, f"read as “{text}”; the others have a digit there")
                continue
        _mark(cells, at, "is not of the form of the others")
    repeated = Counter(cells[at].text for at in places)
    for at in places:
        if repeated[cells[at].text] > 1:
            _mark(cells, at, "stands there twice")


WORDS = {word for _, words in STEMS for word in words.split()}
"""Words that papers have for parts, as they are brought to one."""


def _words(cells: Cells, places: Sequence[tuple[int, int]]) -> None:
    """Words that are like one another but for a letter: one of them is likely misread."""
    known = Counter(cells[at].text for at in places if len(cells[at].text) > 5)
    for at in places:
        text = cells[at].text
        like = [other for other in known if other != text and len(text) > 5 and _near(other, text)]
        more = [other for other in like if known[other] >= known[text] and not _digits_apart(other, text)]
        if more:
            _mark(cells, at, f"stands as “{more[0]}” elsewhere", *more)
        for word in tokens(text) - WORDS:
            like = [known for known in WORDS if len(known) > 4 and _near(known, word)]
            if like:
                _mark(cells, at, f"“{word}” is no word of a paper; “{like[0]}” is")


def _digits_apart(one: str, other: str) -> bool:
    """Whether two texts differ by a digit alone, as “fan 1” and “fan 2” do."""
    return re.sub(r"\d", "", one) == re.sub(r"\d", "", other)


RULES: dict[str, Callable[[Cells, Sequence[tuple[int, int]]], None]] = {
    "celsius": _numbers,
    "ohms": _ohms,
    "pin": _pins,
    "colour": _colours,
    "code": _codes,
    "plug": _case,
    "goes_to": _words,
    "part": _words,
}


def _figures(
    cells: Cells,
    heads: Sequence[str],
    wanted: Mapping[int, str],
    limits: Mapping[int, str],
    above: int,
    high: int,
) -> list[tuple[int, str]]:
    """Hold a sensor's figures against each other: on a smooth line, and between their least and most.

    Returns the columns of figures that nothing bears out.
    """
    bare = []
    keys = [(at, key) for at, key in wanted.items() if at not in limits]
    for place, (at, key) in enumerate(keys):
        if key != "ohms":
            continue
        hot = next((other for other, name in reversed(keys[:place]) if name == "celsius"), None)
        if hot is not None:
            _on_a_line(cells, heads, (hot, at), above, high)
        if not _witnessed(cells, at, limits, above, high):
            bare.append((at, heads[at] if at < len(heads) and heads[at] else f"column {at + 1}"))
    bare += [
        (at, heads[at] if at < len(heads) and heads[at] else f"column {at + 1}")
        for at, key in keys
        if key == "celsius" and not _even(cells, at, above, high)
    ]
    return sorted(bare)


def _values(cells: Cells, column: int, above: int, high: int) -> dict[int, float]:
    """The figures of a column, by row."""
    texts = {row: cells[row, column].text for row in range(above, high) if (row, column) in cells}
    thousands = thousands_of(list(texts.values()), 1.0)
    found = {row: number_of(text, thousands=thousands) for row, text in texts.items()}
    return {row: value for row, value in found.items() if value is not None}


def _on_a_line(cells: Cells, heads: Sequence[str], columns: tuple[int, int], above: int, high: int) -> None:
    """Doubt what stands off the smooth line of the others."""
    hot, ohms = (_values(cells, at, above, high) for at in columns)
    warm = columns[0] < len(heads) and bool(FAHRENHEIT.search(folded(heads[columns[0]])))
    rows = [
        TableRow(celsius_from_fahrenheit(hot[row]) if warm else hot[row], ohms[row], row)
        for row in hot
        if row in ohms and ohms[row] > 0
    ]
    checked = check(sorted(rows, key=lambda each: each.celsius))
    for remark in (*checked.errors, *checked.suspicions):
        if (remark.line, columns[1]) in cells:
            likely = () if remark.probable_ohms is None else (f"{remark.probable_ohms:g}",)
            _mark(cells, (remark.line, columns[1]), remark.text, *likely)


def _witnessed(cells: Cells, column: int, limits: Mapping[int, str], above: int, high: int) -> bool:
    """Whether least and most stand beside every figure, at the same share of it; doubt those they don't."""
    own = _values(cells, column, above, high)
    beside = [at for at in limits if abs(at - column) <= 2]
    if len(beside) < 2 or not own:
        return False
    for at in beside:
        other = _values(cells, at, above, high)
        shares = sorted(other[row] / own[row] for row in own if row in other and own[row])
        if len(shares) < len(own):
            return False
        middle = shares[len(shares) // 2]
        for row, value in own.items():
            if value and abs(other[row] / value / middle - 1) > 0.02:
                _mark(cells, (row, column), "does not go with its least and most")
    return True


def _even(cells: Cells, column: int, above: int, high: int) -> bool:
    """Whether temperatures go on in even steps, which bears them out."""
    values = list(_values(cells, column, above, high).values())
    steps = {round(two - one, 6) for one, two in pairwise(values)}
    return len(values) > 2 and len(steps) == 1
