"""A table of a sensor as people have it: read from CSV text, and checked row by row.

Errors stop the table from being a curve (a resistance that turns back, two rows at one temperature);
suspicions do not (a row that stands off the smooth line of all others).
"""

import csv
import io
import math
import re
from collections.abc import Callable
from dataclasses import dataclass
from decimal import Decimal

import numpy as np
import numpy.typing as npt

from frostcore.curves.model import Floats, TableCurve
from frostcore.errors import CurveError
from frostcore.quantity import KELVIN_OFFSET, celsius_from_fahrenheit, format_celsius, format_ohms

Flags = npt.NDArray[np.bool_]

MOST_ROWS = 400
"""More rows than a maker's table has."""


@dataclass(frozen=True)
class TableRow:
    """One row as understood; ``line`` is its line in the text it came from, counted from 1."""

    celsius: float
    ohms: float
    line: int


@dataclass(frozen=True)
class RowRemark:
    """What is wrong, or suspicious, about one row, and the resistance probably meant (or None)."""

    line: int
    kind: str
    text: str
    probable_ohms: float | None = None


@dataclass(frozen=True)
class CheckedTable:
    """Rows with every remark on them.

    ``errors`` must be empty for a curve, ``suspicions`` are to be asked about.
    """

    rows: tuple[TableRow, ...]
    errors: tuple[RowRemark, ...]
    suspicions: tuple[RowRemark, ...]

    def curve(self) -> TableCurve:
        """The table's curve; raises CurveError with every error told."""
        if self.errors:
            raise CurveError("; ".join(f"line {remark.line}: {remark.text}" for remark in self.errors))
        return TableCurve(tuple((row.celsius, row.ohms) for row in self.rows))


HEADERS: dict[str, Callable[[float], float]] = {"celsius": float, "fahrenheit": celsius_from_fahrenheit}


def read_csv(text: str) -> CheckedTable:
    """A checked table from CSV text headed ``celsius,ohms`` or ``fahrenheit,ohms``.

    Raises CurveError naming the line where the text itself cannot be read.
    """
    lines = [
        (number, row)
        for number, row in enumerate(csv.reader(io.StringIO(text.lstrip("\ufeff"))), 1)
        if any(cell.strip() for cell in row)
    ]
    if not lines:
        message = "the table is empty; it needs a header line celsius,ohms and a row for each temperature"
        raise CurveError(message)
    header_line, header = lines[0][0], [cell.strip().lower() for cell in lines[0][1]]
    if len(header) != 2 or header[0] not in HEADERS or header[1] != "ohms":
        message = (
            f"line {header_line}: the header reads “{','.join(header)}”; write celsius,ohms or"
            " fahrenheit,ohms"
        )
        raise CurveError(message)
    convert = HEADERS[header[0]]
    rows = []
    for line, cells in lines[1:]:
        if len(cells) != 2:
            message = (
                f"line {line}: {len(cells)} columns where two belong (temperature, resistance); use a point"
                " as the decimal mark"
            )
            raise CurveError(message)
        try:
            temperature, ohms = (float(cell.strip()) for cell in cells)
        except ValueError:
            message = f"line {line}: “{','.join(cells)}” is not two numbers; write them like -18,28800"
            raise CurveError(message) from None
        rows.append(TableRow(convert(temperature), ohms, line))
    return check(rows)


@dataclass(frozen=True)
class RecognisedTable:
    """A pasted table as understood, to be confirmed: the units taken for its columns, and the checked
    rows."""

    checked: CheckedTable
    temperature_unit: str
    resistance_unit: str
    understood: str


_TEMPERATURE_WORDS = {
    "°C": ("celsius", "°c", "degc", "deg c", "c", "t/c", "t(c)"),
    "°F": ("fahrenheit", "°f", "degf", "deg f", "f", "t(f)"),
}
_RESISTANCE_WORDS = {"kΩ": ("kohm", "kohms", "kω", "k", "r(k)", "kiloohm"), "Ω": ("ohm", "ohms", "ω", "r")}


def recognise(text: str, temperature_unit: str = "", resistance_unit: str = "") -> RecognisedTable:
    """A table pasted from a spreadsheet or a CSV file, its separator, decimal mark, column order and
    units recognised.

    Units named here beat those read from the header; without either, °C is taken, and kΩ where no value
    reaches 1000. Raises CurveError naming the line that can't be read.
    """
    lines = [
        (number, line.strip())
        for number, line in enumerate(text.lstrip("\ufeff").splitlines(), 1)
        if line.strip()
    ]
    if not lines:
        message = "nothing was pasted; paste two columns, temperature and resistance"
        raise CurveError(message)
    body = "\n".join(line for _, line in lines)
    separator = next(
        (mark for mark in ("\t", ";") if mark in body),
        "," if re.search(r"\d\s*,\s*-?\d", body) and not _decimal_commas(body) else None,
    )
    rows: list[tuple[int, float, float]] = []
    header = ""
    for number, line in lines:
        cells = [cell.strip().strip('"') for cell in (line.split(separator) if separator else line.split())]
        values = [_cell(cell) for cell in cells if cell]
        first, second = (*values, None, None)[:2]
        if first is not None and second is not None:
            rows.append((number, first, second))
        elif not rows and not header:
            header = line
        else:
            message = f"line {number}: “{line[:40]}” is not two numbers"
            raise CurveError(message)
    if len(rows) < 2:
        message = (
            "fewer than two rows of numbers were found; paste temperature and resistance, a row for each"
            " temperature"
        )
        raise CurveError(message)
    words = [word.strip() for word in re.split(r"[\t;,]| {2,}", header.lower())] if header else []
    swapped = (
        bool(words)
        and _unit(words[0], _RESISTANCE_WORDS) != ""
        and len(words) > 1
        and _unit(words[1], _TEMPERATURE_WORDS) != ""
    )
    if swapped:
        rows = [(number, second, first) for number, first, second in rows]
        words.reverse()
    named = (
        _unit(words[0], _TEMPERATURE_WORDS) if words else "",
        _unit(words[1], _RESISTANCE_WORDS) if len(words) > 1 else "",
    )
    temperature = temperature_unit or named[0] or "°C"
    resistance = resistance_unit or named[1] or ("kΩ" if max(ohms for _, _, ohms in rows) < 1000 else "Ω")
    to_celsius: Callable[[float], float] = celsius_from_fahrenheit if temperature == "°F" else float
    scale = 1000 if resistance == "kΩ" else 1
    checked = check(
        [
            TableRow(to_celsius(celsius), float(Decimal(repr(ohms)) * scale), number)
            for number, celsius, ohms in rows
        ]
    )
    how = " and ".join(
        f"{unit} ({'as chosen' if chosen else 'from the header' if told else 'guessed: check it'})"
        for unit, chosen, told in (
            (temperature, temperature_unit, named[0]),
            (resistance, resistance_unit, named[1]),
        )
    )
    top, bottom = checked.rows[0], checked.rows[-1]
    return RecognisedTable(
        checked,
        temperature,
        resistance,
        f"{len(rows)} rows in {how}: {format_celsius(top.celsius)} is {format_ohms(top.ohms)},"
        f" {format_celsius(bottom.celsius)} is {format_ohms(bottom.ohms)}.",
    )


def _decimal_commas(body: str) -> bool:
    """Whether commas stand inside numbers in every row: one comma a number, two numbers a row, spaces
    between."""
    return all(
        re.fullmatch(r"[-−+]?\d+(?:,\d+)?\s+\d+(?:,\d+)?", line.strip())
        for line in body.splitlines()
        if line[:1].isdigit() or line[:1] in "-−+"
    )


def _cell(cell: str) -> float | None:
    text = cell.replace("−", "-").replace("\u00a0", "").replace(" ", "")
    if re.fullmatch(r"[-+]?\d+,\d+", text):
        text = text.replace(",", ".")
    try:
        return float(text)
    except ValueError:
        return None


def _unit(word: str, words: dict[str, tuple[str, ...]]) -> str:
    plain = word.strip().strip('"').lower()
    inside = re.findall(r"[(\[]([^)\]]+)[)\]]", plain)
    for unit, spellings in words.items():
        if (
            plain in spellings
            or any(part.strip() in spellings for part in inside)
            or any(len(spelling) > 3 and spelling in plain for spelling in spellings)
        ):
            return unit
    return ""


def check(rows: list[TableRow]) -> CheckedTable:
    """Check rows for finite and positive values, order, duplicates, a turn in the curve, and a mistyped
    row."""
    errors: list[RowRemark] = []
    if len(rows) > MOST_ROWS:
        told = f"{len(rows):,} rows; at most {MOST_ROWS}"
        return CheckedTable((), (RowRemark(rows[MOST_ROWS].line, "too_many", told),), ())
    for row in rows:
        if not np.isfinite(row.celsius) or row.celsius <= -KELVIN_OFFSET:
            errors.append(RowRemark(row.line, "temperature", f"{row.celsius:g} °C is not a temperature"))
        elif not np.isfinite(row.ohms) or row.ohms <= 0:
            errors.append(
                RowRemark(
                    row.line,
                    "resistance",
                    f"{row.ohms:g} Ω at {format_celsius(row.celsius)}: a resistance must be a number above"
                    " zero",
                )
            )
    if len(rows) < 2:
        errors.append(RowRemark(rows[0].line if rows else 1, "too_few", "a table needs at least two rows"))
    if errors:
        return CheckedTable(tuple(rows), tuple(errors), ())
    errors += _order_errors(rows)
    suspicions = [] if errors else _mistyped(rows)
    if not errors and (turn := _turn(rows)):
        blamed = next((remark for remark in suspicions), None)
        errors.append(
            RowRemark(
                blamed.line,
                "turns_back",
                f"{blamed.text}, and the resistance turns back there",
                blamed.probable_ohms,
            )
            if blamed
            else turn
        )
        suspicions = []
    return CheckedTable(tuple(rows), tuple(errors), tuple(suspicions))


def _order_errors(rows: list[TableRow]) -> list[RowRemark]:
    seen: dict[float, int] = {}
    errors = []
    for row in rows:
        if row.celsius in seen:
            errors.append(
                RowRemark(
                    row.line,
                    "duplicate",
                    f"{format_celsius(row.celsius)} stands already on line {seen[row.celsius]}",
                )
            )
        seen.setdefault(row.celsius, row.line)
    if errors:
        return errors
    rising, falling = (
        _longest_run([row.celsius for row in rows]),
        _longest_run([-row.celsius for row in rows]),
    )
    in_order, way = (rising, "rise") if len(rising) >= len(falling) else (falling, "fall")
    return [
        RowRemark(
            row.line,
            "order",
            f"{format_celsius(row.celsius)} is out of order; temperatures must {way} from row to row",
        )
        for index, row in enumerate(rows)
        if index not in in_order
    ]


def _longest_run(values: list[float]) -> set[int]:
    """Indices of a longest rising subsequence: what is not in it is what stands out of order."""
    lengths, before = [1] * len(values), [-1] * len(values)
    for index, value in enumerate(values):
        for earlier in range(index):
            if values[earlier] < value and lengths[earlier] >= lengths[index]:
                lengths[index], before[index] = lengths[earlier] + 1, earlier
    run, place = set(), max(range(len(values)), key=lengths.__getitem__)
    while place >= 0:
        run.add(place)
        place = before[place]
    return run


def _turn(rows: list[TableRow]) -> RowRemark | None:
    """The first row at which the resistance stops going the way most of the table goes."""
    changes = np.diff([row.ohms for row in rows])
    way = np.sign(np.sum(np.sign(changes))) or 1
    for change, row, before in zip(changes, rows[1:], rows, strict=False):
        if change * way <= 0:
            return RowRemark(
                row.line,
                "turns_back",
                f"{format_ohms(row.ohms)} at {format_celsius(row.celsius)} turns back against"
                f" {format_ohms(before.ohms)} a row before",
            )
    return None


MISTYPED = {1: 0.15, 2: 0.06, 3: 0.03}
"""A row this far (ln R) off the line of the others stands off it, by the line's degree."""

MISTYPED_TIMES = 6.0
"""And so many times as far as the others do."""


LOG_LIMITS = (math.log(1e-3), math.log(1e11))
"""What rows far apart put another at is anything: no resistance is beyond these, in ln of ohms."""


def _mistyped(rows: list[TableRow]) -> list[RowRemark]:
    """Rows far off the smooth line of all the others: ln R as a polynomial in 1/T, each row left out in
    turn.

    With one bad row, leaving it out leaves next to no residual; the row is blamed only when its miss is
    well above both what the others leave and what rounding in a printed table explains.
    """
    count = len(rows)
    if count < 4:
        return []
    degree = min(3, count - 3)
    floor = MISTYPED[degree]
    inverse = 1 / (np.array([row.celsius for row in rows]) + KELVIN_OFFSET)
    powers = np.vander((inverse - inverse.mean()) / np.ptp(inverse), degree + 1)
    logs = np.log([row.ohms for row in rows])
    remarks: list[RowRemark] = []
    kept = np.ones(count, dtype=bool)
    while kept.sum() > max(degree + 2, 3 * count // 4):
        misses, rests = _left_out(powers, logs, kept)
        worst = int(np.argmin(rests))
        if abs(misses[worst]) < max(floor, MISTYPED_TIMES * rests[worst]):
            break
        kept[worst] = False
        expected = float(np.exp(np.clip(logs[worst] - misses[worst], *LOG_LIMITS)))
        probable = probable_number(rows[worst].ohms, expected, floor)
        meant = (
            f"; {format_ohms(probable)} was probably meant"
            if probable
            else f"; the others put it near {format_ohms(expected)}"
        )
        remarks.append(
            RowRemark(
                rows[worst].line,
                "mistyped",
                f"{format_ohms(rows[worst].ohms)} at {format_celsius(rows[worst].celsius)} stands off the"
                f" line of the other rows{meant}",
                probable,
            )
        )
    return sorted(remarks, key=lambda remark: remark.line)


def _left_out(powers: Floats, logs: Floats, kept: Flags) -> tuple[Floats, Floats]:
    """Each kept row left out in turn: its miss from the line of the others, and what that line leaves of
    them (r.m.s.); infinite for rows that are not kept.

    With Q an orthonormal basis of the kept rows, e = y − QQᵀy and h the diagonal of QQᵀ, leaving row i out
    changes its residual to eᵢ/(1 − hᵢ) and the sum of squares by −eᵢ²/(1 − hᵢ), so one factorisation does for
    all.
    """
    basis, _ = np.linalg.qr(powers[kept])
    left = logs[kept] - basis @ (basis.T @ logs[kept])
    free = np.maximum(1 - np.sum(basis**2, axis=1), np.finfo(float).eps)
    misses, rests = np.zeros(len(logs)), np.full(len(logs), np.inf)
    misses[kept] = left / free
    squares = np.maximum(left @ left - left**2 / free, 0.0)
    rests[kept] = np.sqrt(squares / (len(left) - 1))
    return misses, rests


def probable_number(typed: float, expected: float, share: float) -> float | None:
    """The number a slip of the fingers turned into ``typed``, or None when no single slip lands within
    ``share`` of ``expected``.

    Slips: a decimal point moved (also by a kilo), two neighbouring digits swapped, one digit wrong, doubled
    or dropped.
    """
    digits = f"{typed:.6g}" if 1e-3 < typed < 1e6 else f"{typed:.0f}"
    slips = {typed * 10.0**power for power in (-3, -2, -1, 1, 2, 3)}
    texts = {digits[:i] + digits[i + 1] + digits[i] + digits[i + 2 :] for i in range(len(digits) - 1)}
    texts |= {digits[:i] + digits[i + 1 :] for i in range(len(digits))}
    slips |= {float(text) for text in texts if text not in {"", "."} and text.count(".") <= 1}
    replaced = {
        float(digits[:i] + new + digits[i + 1 :])
        for i, old in enumerate(digits)
        if old != "."
        for new in "0123456789"
    }
    # A moved point or a swap is likelier than one digit hit wrong, so the plainer slips are tried first.
    for candidates in (slips, replaced):
        fitting = [value for value in candidates if value > 0 and abs(np.log(value / expected)) < share]
        if fitting:
            return float(f"{min(fitting, key=lambda value: abs(np.log(value / expected))):.6g}")
    return None


def write_csv(curve_rows: tuple[tuple[float, float], ...]) -> str:
    """Rows of (celsius, ohms) as CSV text that :func:`read_csv` reads back exactly."""
    return "".join(["celsius,ohms\n", *(f"{celsius!r},{ohms!r}\n" for celsius, ohms in curve_rows)])
