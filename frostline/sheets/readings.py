"""A table read from a picture, as it is looked over: which cells still want an eye."""

from collections.abc import Mapping
from dataclasses import dataclass

from frostcore.paper.picture.weigh import grid_of
from frostcore.paper.rows import MOST_TEXT
from frostline.sheets.models import Reading

SHOWN = 0.5
"""How large a cell's picture is shown, of what it was enlarged to for reading."""


@dataclass(frozen=True)
class SeenCell:
    """A cell: its text now, why it wants an eye (empty where it doesn't, or has had one), what else it may
    hold, and its piece of the picture."""

    key: str
    label: str
    text: str
    doubt: str
    seen: bool
    others: tuple[str, ...]
    box: str
    width: int
    height: int

    @property
    def name(self) -> str:
        """Its field's name."""
        return f"c-{self.key}"

    @property
    def open(self) -> bool:
        """Whether it still has to be looked at."""
        return bool(self.doubt) and not self.seen


@dataclass(frozen=True)
class Column:
    """A column of figures that nothing else on the paper bears out: compared digit by digit, or not yet."""

    name: str
    head: str
    compared: bool


@dataclass(frozen=True)
class Seen:
    """The table by rows, a cell or None where nothing is printed; ``columns`` still to be compared."""

    rows: tuple[tuple[SeenCell | None, ...], ...]
    columns: tuple[Column, ...]
    text: str

    @property
    def doubtful(self) -> int:
        """How many cells were doubtful when they were read."""
        return sum(1 for row in self.rows for cell in row if cell and cell.doubt)

    @property
    def left(self) -> int:
        """How many cells and columns are still to be looked at."""
        cells = sum(1 for row in self.rows for cell in row if cell and cell.open)
        return cells + sum(1 for column in self.columns if not column.compared)


def looked_over(reading: Reading, given: Mapping[str, str] | None) -> Seen:
    """The table with what was typed and ticked so far; None for nothing yet."""
    typed = given or {}
    cells = {(int(each["row"]), int(each["column"])): each for each in reading.cells}
    found, texts = dict[tuple[int, int], SeenCell](), dict[tuple[int, int], str]()
    for (row, column), each in cells.items():
        key = f"{row}-{column}"
        text = " ".join(typed.get(f"c-{key}", each["text"]).split())[:MOST_TEXT]
        left, top, right, bottom = each["box"]
        found[row, column] = SeenCell(
            key,
            f"row {row + 1}, column {column + 1}",
            text,
            each["doubt"],
            f"ok-{key}" in typed or text != each["text"],
            tuple(other for other in each["others"] if other != text)[:4],
            f"{left} {top} {max(1, right - left)} {max(1, bottom - top)}",
            round((right - left) * SHOWN),
            round((bottom - top) * SHOWN),
        )
        texts[row, column] = text
    high, wide = (max((at[axis] for at in found), default=-1) + 1 for axis in (0, 1))
    return Seen(
        tuple(tuple(found.get((row, column)) for column in range(wide)) for row in range(high)),
        tuple(
            Column(f"compared-{column}", head, f"compared-{column}" in typed)
            for column, head in reading.unwitnessed
        ),
        "\n".join("\t".join(row) for row in grid_of(texts)),
    )
