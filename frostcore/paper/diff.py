"""Two sheets, or two revisions of one, compared in words: table by table, row by row, cell by cell."""

from collections.abc import Iterator
from dataclasses import dataclass

from frostcore.paper.draft import SECTIONS
from frostcore.paper.rows import Document, Section


@dataclass(frozen=True)
class Change:
    """One difference: the table and row it is in, and what stands there before and after; ``column`` is empty
    where a whole row came or went."""

    section: str
    row: str
    column: str
    before: str
    after: str

    @property
    def words(self) -> str:
        """The change in a line."""
        if not self.column:
            return f"{self.row}: {'new' if not self.before else 'gone'}"
        return f"{self.row}, {self.column.lower()}: {self.before or 'nothing'} → {self.after or 'nothing'}"


def changes(old: Document, new: Document) -> tuple[Change, ...]:
    """Every difference that a paper's tables tell, in a paper's order."""
    return tuple(change for section in SECTIONS for change in _of(section, old, new))


def _of(section: Section, old: Document, new: Document) -> Iterator[Change]:
    before = {_key(section, row): row for row in section.write(old)}
    after = {_key(section, row): row for row in section.write(new)}
    for key in dict.fromkeys((*before, *after)):
        name = key[-1] if key else ""
        if key not in after:
            yield Change(section.title, name, "", _told(section, before[key]), "")
        elif key not in before:
            yield Change(section.title, name, "", "", _told(section, after[key]))
        else:
            for column in section.columns:
                one, two = before[key].get(column.key, ""), after[key].get(column.key, "")
                if one != two:
                    yield Change(section.title, name, column.label, one, two)


def _key(section: Section, row: dict[str, str]) -> tuple[str, ...]:
    """What tells a row from others, and its name last."""
    match section.id:
        case "sensors":
            return row.get("id", ""), f"{row.get('celsius', '')} °C"
        case "plugs":
            return (f"{row.get('plug', '')}.{row.get('pin', '')}",)
        case "codes":
            return row.get("id", ""), row.get("code", "")
        case "places":
            return (row.get("id", "").replace(":", ", step "),)
        case "plate":
            return (row.get("id", "").replace("_", " "),)
        case "stated":
            return row.get("red", ""), row.get("mode", ""), f"{row.get('red', '')} to {row.get('black', '')}"
    return row.get("id", ""), row.get("part", row.get("mode", ""))


def _told(section: Section, row: dict[str, str]) -> str:
    return ", ".join(row[column.key] for column in section.columns if row.get(column.key)) or "a row"
