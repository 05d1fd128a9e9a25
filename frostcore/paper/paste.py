"""A pasted table as rows of a draft: columns recognised, units from the heads, gaps of papers filled in.

The dangerous slips fail silently: kilohms taken for ohms, a dot that means thousands, °F for °C. Each is
decided by the head or the whole column, said beside the rows, and asked where it can't be told.
"""

import csv
import io
import re
from collections.abc import Sequence
from dataclasses import dataclass, field

from frostcore.paper.colours import SYSTEMS, decide, read
from frostcore.paper.heads import CELSIUS, FAHRENHEIT, KILO, LEAST, MOST, NOMINAL, NOT_KEPT, OHM, head_of
from frostcore.paper.rows import MOST_ROWS, MOST_TEXT, plain
from frostcore.sheet.facts import PIN_PARTS
from frostcore.sheet.words import folded

MOST_PASTED = 200_000
"""More letters than any table of a paper has."""

LEAST_THERMISTOR, MOST_THERMISTOR = 500.0, 5e6
"""Ohms between which the coldest row of a refrigerator's thermistor lies: one of 500 Ω at 25 °C, and one of
100 kΩ at −40 °C, are the least and the most."""

DITTO = {'"', "''", "“", "”", "„", "dto", "dto.", "do.", "ditto", "idem", "dito"}
DASHES = {"-", "–", "—", "−", ""}
SUPERSCRIPTS = str.maketrans("", "", "¹²³⁴⁵⁶⁷⁸⁹⁰*†‡")
_NUMBER = re.compile(r"[-+]?\d[\d.,\u00a0 ]*")


@dataclass(frozen=True)
class Question:
    """What has to be asked before rows count: its id, in words, and its answers (value, words)."""

    id: str
    text: str
    answers: tuple[tuple[str, str], ...]


@dataclass
class Pasted:
    """What was understood: the rows, how in words, questions still open, and lines not used with why."""

    section: str
    rows: list[dict[str, str]] = field(default_factory=list)
    understood: list[str] = field(default_factory=list)
    questions: list[Question] = field(default_factory=list)
    unused: list[tuple[str, str]] = field(default_factory=list)


def grid_of(text: str) -> list[list[str]]:
    """The cells of pasted text: by tabs, bars, semicolons, commas with quotes, or two blanks and more."""
    lines = re.split(r"\r\n|\r|\n", text[:MOST_PASTED].replace("\0", ""))
    lines = [line for line in lines if line.strip() and not re.fullmatch(r"[\s|+\-=_:]+", line)][
        : MOST_ROWS + 20
    ]
    if any("\t" in line for line in lines):
        cells = [line.split("\t") for line in lines]
    elif sum("|" in line for line in lines) * 2 > len(lines):
        cells = [line.strip().strip("|").split("|") for line in lines]
    elif sum(line.count(";") >= 1 for line in lines) * 2 > len(lines):
        cells = list(csv.reader(io.StringIO("\n".join(lines)), delimiter=";"))
    elif sum(bool(re.search(r"\S\s{2,}\S", line)) for line in lines) * 2 > len(lines):
        cells = [re.split(r"\s{2,}", line.strip()) for line in lines]
    elif sum(line.count(",") >= 1 and not re.search(r"\d,\d", line) for line in lines) * 2 > len(lines):
        cells = list(csv.reader(io.StringIO("\n".join(lines))))
    else:
        cells = [line.split() for line in lines]
    return [[_tidy(cell) for cell in row] for row in cells]


def _tidy(text: str) -> str:
    text = text.replace("\u2212", "-").replace("\u00a0", " ").strip().strip('"').strip()
    text = re.sub(r"(?<=\d)\s*[¹²³⁴⁵⁶⁷⁸⁹⁰†‡*]+$", "", text) if re.match(r"[-+]?\d", text) else text
    return text[:MOST_TEXT]


def recognise(section: str, text: str, answers: dict[str, str] | None = None) -> Pasted:
    """What pasted text says as rows of a section; ``answers`` to questions asked before, by their ids."""
    given, grid = answers or {}, [row for row in grid_of(text) if any(row)]
    found = Pasted(section)
    if not grid:
        found.unused.append(("", "Nothing pasted yet."))
        return found
    heads, body = heads_of(section, grid)
    columns = columns_of(section, heads, body)
    if not any(columns):
        for row in grid[:3]:
            found.unused.append((" · ".join(row), "no column of this table was recognised"))
        return found
    for block in _blocks(columns):
        match section:
            case "sensors":
                _sensors(found, heads, body, block, given)
            case _:
                _rows(found, body, block)
    if section == "plugs":
        _pins(found)
        _colours(found, given)
    found.understood.insert(0, _said(section, heads, columns))
    return found


def _is_head(section: str, row: Sequence[str]) -> bool:
    """Whether a row is of heads: words that are heads, and few numbers."""
    words = [cell for cell in row if cell]
    numbers = sum(bool(re.fullmatch(r"[-+]?[\d.,]+", cell)) for cell in words)
    known = sum(bool(head_of(section, cell) or limit_of(cell)) for cell in words)
    return bool(words) and numbers == 0 and known * 2 >= len(words)


def limit_of(cell: str) -> str:
    """Which of least, most and usual a head says it holds; empty for none."""
    text = folded(cell)
    for name, pattern in (("nom", NOMINAL), ("min", LEAST), ("max", MOST)):
        if pattern.search(text):
            return name
    return ""


def heads_of(section: str, grid: list[list[str]]) -> tuple[list[str], list[list[str]]]:
    """The columns' heads, merged where they stand in two rows, and the rows below; none without a head."""
    at = next((index for index, row in enumerate(grid[:6]) if _is_head(section, row)), None)
    if at is None:
        return [], grid
    heads, below = list(grid[at]), at + 1
    wide = max(len(row) for row in grid)
    heads += [""] * (wide - len(heads))
    if below < len(grid) and _is_head(section, grid[below]):
        second = [*grid[below], *[""] * (wide - len(grid[below]))]
        carried, last = [], ""
        for top, under in zip(heads, second, strict=True):
            last = top or (last if under else "")
            carried.append(" ".join(part for part in (last, under) if part))
        heads, below = carried, below + 1
    return heads, grid[below:]


def columns_of(section: str, heads: list[str], body: list[list[str]]) -> list[str]:
    """What each column is: by its head, else by what stands in it."""
    if heads:
        found = []
        for head in heads:
            limit = limit_of(head)
            key = head_of(section, head)
            if section == "sensors" and limit in {"min", "max"}:
                key = ""
            elif section == "sensors" and limit == "nom":
                key = key or "ohms"
            found.append(key)
        return found
    wide = max((len(row) for row in body), default=0)
    columns = [[row[index] for row in body if index < len(row)] for index in range(wide)]
    return [_by_content(section, cells, index) for index, cells in enumerate(columns)]


def _by_content(section: str, cells: list[str], index: int) -> str:
    if section == "sensors":
        return ("celsius", "ohms")[index] if index < 2 and all(_NUMBER.match(cell) for cell in cells) else ""
    if section == "codes":
        return ("code", "meaning", "clears")[index] if index < 3 else ""
    if section == "plugs":
        order = ("plug", "pin", "colour", "goes_to")
        return order[index] if index < len(order) else ""
    if section == "parts":
        return ("number", "part", "price")[index] if index < 3 else ""
    return ""


def _blocks(columns: list[str]) -> list[dict[str, int]]:
    """Columns that stand side by side as several tables: each block with the place of its columns."""
    blocks: list[dict[str, int]] = [{}]
    for index, key in enumerate(columns):
        if not key:
            continue
        if key in blocks[-1]:
            if key == next(iter(blocks[-1])):
                blocks.append({})
            else:
                continue
        blocks[-1][key] = index
    return [block for block in blocks if block]


def _at(row: Sequence[str], block: dict[str, int], key: str) -> str:
    index = block.get(key)
    return row[index] if index is not None and index < len(row) else ""


def _sensors(
    found: Pasted, heads: list[str], body: list[list[str]], block: dict[str, int], given: dict[str, str]
) -> None:
    """Temperatures and ohms in the units their heads say."""
    if "celsius" not in block or "ohms" not in block:
        found.unused.append((" · ".join(heads), "a sensor table needs temperatures and ohms"))
        return
    hot = folded(heads[block["celsius"]]) if heads else ""
    ohm = folded(heads[block["ohms"]]) if heads else ""
    unit = "F" if FAHRENHEIT.search(hot) else "C" if CELSIUS.search(hot) else given.get("degrees", "")
    scale = 1000.0 if KILO.search(ohm) else 1.0 if OHM.search(ohm) else 0.0
    cells = [_at(row, block, "ohms") for row in body]
    if not unit:
        _ask(found, "degrees", "Are the temperatures in °C or °F?", (("C", "°C"), ("F", "°F")))
        return
    if not scale or (scale == 1.0 and not re.search(r"ω|ohm", ohm)):
        answer = given.get("scale", "")
        if not answer:
            _ask(found, "scale", "Are the resistances in Ω or kΩ?", (("1", "Ω"), ("1000", "kΩ")))
            return
        scale = float(answer)
    thousands = thousands_of(cells, scale)
    most = max((abs(number_of(cell, thousands=thousands) or 0.0) for cell in cells), default=0.0) * scale
    if most and not LEAST_THERMISTOR <= most <= MOST_THERMISTOR:
        if "scale" not in given:
            head = f"The head says {'kΩ' if scale > 1 else 'Ω'}, and the largest would be {plain(most)} Ω"
            _ask(
                found, "scale", f"{head}: no such sensor is made. Which is it?", (("1", "Ω"), ("1000", "kΩ"))
            )
            return
        scale = float(given["scale"])
    said = {"F": "°F", "C": "°C"}[unit]
    dots = ", the dots are thousands" if thousands else ""
    found.understood.append(f"temperatures in {said}, resistances in {'kΩ' if scale > 1 else 'Ω'}{dots}")
    sensor = ""
    for row in body:
        celsius, ohms = _at(row, block, "celsius"), _at(row, block, "ohms")
        sensor = _at(row, block, "sensor") or sensor
        if not celsius and not ohms:
            continue
        value = number_of(ohms, thousands=thousands)
        degrees = number_of(celsius)
        if value is None or degrees is None:
            found.unused.append((" · ".join(row), "no temperature and resistance"))
            continue
        shown = {"celsius": f"{plain(degrees)} °F" if unit == "F" else plain(degrees)}
        shown["ohms"] = plain(float(f"{value * scale:.10g}"))
        found.rows.append(shown | ({"sensor": sensor} if sensor and sensor not in DITTO else {}))


def _ask(found: Pasted, identifier: str, text: str, answers: tuple[tuple[str, str], ...]) -> None:
    if identifier not in {question.id for question in found.questions}:
        found.questions.append(Question(identifier, text, answers))


def thousands_of(cells: Sequence[str], scale: float) -> bool:
    """Whether a dot means thousands: every value that has one has three digits after it, and the head says
    ohms."""
    dotted = [cell for cell in cells if re.search(r"\d[.]\d", cell)]
    whole = [cell for cell in dotted if re.fullmatch(r"\d{1,3}(?:\.\d{3})+", cell)]
    return scale == 1.0 and bool(dotted) and len(whole) == len(dotted)


def number_of(text: str, *, thousands: bool = False) -> float | None:
    """A cell's number, whatever its decimal mark; None where it has none."""
    tidy = text.translate(SUPERSCRIPTS).replace(" ", "").replace("\u00a0", "")
    tidy = re.sub(r"(?:°[CF]?|kΩ|Ω|ohms?|kohm)$", "", tidy, flags=re.IGNORECASE)
    last = max(tidy.rfind("."), tidy.rfind(","))
    if thousands:
        tidy = tidy.replace(".", "").replace(",", ".")
    elif "." in tidy and "," in tidy:  # the mark that comes last is the decimal one
        tidy = re.sub(r"[.,]", "", tidy[:last]) + "." + tidy[last + 1 :]
    elif re.fullmatch(r"[-+]?\d{1,3}(?:,\d{3}){2,}", tidy):
        tidy = tidy.replace(",", "")
    else:
        tidy = tidy.replace(",", ".")
    try:
        value = float(tidy)
    except ValueError:
        return None
    return value if abs(value) < 1e12 else None


def _rows(found: Pasted, body: list[list[str]], block: dict[str, int]) -> None:
    """Rows of texts, ditto marks filled from above; what is read and not kept leaves no trace but is said."""
    before: dict[str, str] = {}
    wanted = [key for key in block if key not in NOT_KEPT]
    for row in body:
        shown = {}
        for key in wanted:
            text = _at(row, block, key)
            shown[key] = before.get(key, "") if text.casefold() in DITTO and text else text
        if not any(shown.values()):
            continue
        before = shown
        if found.section == "parts":
            shown["price"] = _price(shown.get("price", ""))
        found.rows.append({key: text for key, text in shown.items() if text})


def _price(text: str) -> str:
    number = re.search(r"\d[\d.,]*", text)
    value = number_of(number[0]) if number else None
    return "" if value is None else plain(value)


def _pins(found: Pasted) -> None:
    """A plug printed once goes down, a pin printed with its plug is parted, dashes are no pin."""
    rows, plug = list[dict[str, str]](), ""
    for row in found.rows:
        pin = row.get("pin", "")
        split = PIN_PARTS.fullmatch(pin)
        if split and not row.get("plug"):
            row, pin = row | {"plug": split["plug"], "pin": split["pin"]}, split["pin"]  # noqa: PLW2901
        plug = row.get("plug", "") or plug
        texts = [row.get(key, "") for key in ("goes_to", "label")]
        if pin in DASHES or all(text in DASHES for text in texts):
            told = " · ".join(text for text in row.values())
            if not (set(row) <= {"plug"}):
                found.unused.append((told, "no pin, or an empty one"))
            continue
        rows.append(
            {key: text for key, text in (row | {"plug": plug}).items() if text and text not in DASHES}
        )
    found.rows = rows


def _colours(found: Pasted, given: dict[str, str]) -> None:
    """The colours of the whole column in one system; asked where several read it otherwise."""
    cells = [row["colour"] for row in found.rows if row.get("colour")]
    if not cells:
        return
    decided = decide(cells)
    system = given.get("colours", "") or ("" if decided.unread else decided.system)
    if not system:
        names = decided.choices or tuple(SYSTEMS)
        answers = tuple((name, _example(name, cells)) for name in names)
        _ask(found, "colours", "Which colours are these?", (*answers, ("as typed", "leave them as they are")))
        return
    if system not in SYSTEMS:
        return
    label, table = SYSTEMS[system]
    found.understood.append(f"wire colours {label}")
    for row in found.rows:
        if row.get("colour"):
            colour = read(row["colour"], table)
            if not colour:
                found.unused.append((row["colour"], "is no colour of that system; the cell is left as it is"))
            row["colour"] = colour or row["colour"]


def _example(system: str, cells: Sequence[str]) -> str:
    label, table = SYSTEMS[system]
    shown = [f"{cell} {read(cell, table)}" for cell in list(dict.fromkeys(cells))[:4]]
    return f"{label}: {', '.join(shown)}"


NAMES = {
    "celsius": "temperature",
    "ohms": "resistance",
    "plug": "plug",
    "pin": "pin",
    "colour": "colour",
    "label": "label",
    "goes_to": "goes to",
    "code": "code",
    "meaning": "meaning",
    "clears": "clears",
    "number": "part number",
    "part": "part",
    "price": "price",
    "sensor": "sensor",
    "watts": "watts",
}


def _said(section: str, heads: list[str], columns: list[str]) -> str:
    """Which column was taken for what."""
    told = []
    for index, key in enumerate(columns):
        head = heads[index] if index < len(heads) and heads[index] else f"column {index + 1}"
        if key in NAMES:
            told.append(f"“{head}” is {NAMES[key]}")
        elif head:
            told.append(f"“{head}” is not used")
    return "; ".join(told)
