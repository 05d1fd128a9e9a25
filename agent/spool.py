"""Rows on this machine's disk before they are sent: what is read is never lost, whatever the network does."""

import json
import uuid
from collections.abc import Iterator
from dataclasses import dataclass
from pathlib import Path
from typing import Any

KEPT_AFTER = 5000
"""So many rows that are there already are kept before the file is written anew without them."""


@dataclass(frozen=True)
class Row:
    """A row: its number, when (Unix seconds, UTC), a value a channel."""

    seq: int
    at: float
    values: tuple[float | None, ...]


class Spool:
    """A file of rows, one a line, under a name of its own that the other end tells its rows by."""

    def __init__(self, path: Path) -> None:
        self._path = path
        self.agent = uuid.uuid4().hex
        self.rows: list[Row] = []
        self.next = 0
        if path.exists():
            self._read()
        if not path.exists() or not self.rows:
            self._write()

    def _read(self) -> None:
        for line in self._lines():
            if "agent" in line:
                self.agent, self.next = str(line["agent"]), int(line["next"])
            else:
                row = Row(int(line["seq"]), float(line["at"]), tuple(line["values"]))
                if row.seq == self.next:
                    self.rows.append(row)
                    self.next += 1

    def _lines(self) -> Iterator[dict[str, Any]]:
        """The file's lines; a last one that was cut off while it was written is left out."""
        for line in self._path.read_text(encoding="utf-8").splitlines():
            try:
                found = json.loads(line)
            except json.JSONDecodeError:
                continue
            if isinstance(found, dict):
                yield found

    def _write(self) -> None:
        first = self.rows[0].seq if self.rows else self.next
        head = json.dumps({"agent": self.agent, "next": first})
        text = "".join(f"{line}\n" for line in (head, *(_line(row) for row in self.rows)))
        new = self._path.with_suffix(".new")
        new.write_text(text, encoding="utf-8")
        new.replace(self._path)

    def add(self, at: float, values: tuple[float | None, ...]) -> Row:
        """A row, on the disk when this returns."""
        row = Row(self.next, at, values)
        with self._path.open("a", encoding="utf-8") as file:
            file.write(_line(row) + "\n")
        self.rows.append(row)
        self.next += 1
        return row

    def since(self, wanted: int, most: int) -> list[Row]:
        """The rows from a number on."""
        return [row for row in self.rows if row.seq >= wanted][:most]

    def have(self, wanted: int) -> None:
        """That the other end has everything before a number."""
        there = sum(row.seq < wanted for row in self.rows)
        if there > KEPT_AFTER or (there and there == len(self.rows)):
            self.rows = self.rows[there:]
            self._write()


def _line(row: Row) -> str:
    return json.dumps({"seq": row.seq, "at": row.at, "values": row.values})
