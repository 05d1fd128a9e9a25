"""What was recorded with one sheet, on another: the same points by what they are for.

A call begun on a kind of unit, or on an older sheet, moves to a better one; its readings move with it where
the new sheet has their points: by name, else by the part and terminal their wire leads to.
"""

from collections.abc import Iterable
from dataclasses import dataclass, replace
from functools import lru_cache

from frostcore.sheet.model import Component, Sheet
from frostcore.tape.entries import Body, PlugMoved, ReadingTaken, Tried, Unreadable


class Counterparts:
    """The points, plugs and parts of one sheet as another has them."""

    def __init__(self, old: Sheet, new: Sheet) -> None:
        self._old, self._new = old, new
        self._parts = dict(_parts(old, new))
        self._ends = {run.points[-1]: run.points for run in new.harness}

    def part(self, name: str) -> str:
        """A part; empty where the new sheet has none like it."""
        return self._parts.get(name, "")

    def point(self, name: str) -> str:
        """A point; empty where the new sheet has none like it."""
        base, slash, side = name.partition("/")
        if self._old.pin(base) is None:
            owner, dot, terminal = base.partition(".")
            return f"{self.part(owner)}{dot}{terminal}" if self.part(owner) else self._named(base)
        run = next((run.points for run in self._old.harness if base in run.points), None)
        if run is None:
            return self._named(base)
        owner, dot, terminal = run[-1].partition(".")
        end = f"{self.part(owner)}{dot}{terminal}" if dot and self.part(owner) else run[-1]
        points = self._ends.get(end)
        if points is None:
            return self._named(base)
        pins = [point for point in points if self._new.pin(point)]
        if base in pins:
            return name
        if not pins:
            return ""
        found = pins[0] if base == run[0] or len(pins) == 1 else pins[-1]
        return f"{found}{slash}{side}"

    def _named(self, name: str) -> str:
        """A point the new sheet has by the same name: earth, a node of the board."""
        nodes = {pin.node for connector in self._new.connectors for pin in connector.pins}
        return name if name == "earth" or name in nodes or self._new.pin(name) else ""

    def plug(self, name: str) -> str:
        """A connector; empty where the new sheet has none like it."""
        pins = [point for point, _ in self._old.wiring.pins_of.get(name, ())]
        for pin in pins:
            there = self._new.pin(self.point(pin))
            if there:
                return there[0].id
        return name if any(item.id == name for item in self._new.connectors) else ""


def _parts(old: Sheet, new: Sheet) -> Iterable[tuple[str, str]]:
    """Parts that are the same: by identifier and kind, else the only ones of their kind left in both."""
    same = {part.id: part for part in new.components}
    for part in old.components:
        if part.id in same and same[part.id].kind is part.kind:
            yield part.id, part.id
    taken = {part.id for part in old.components if part.id in same and same[part.id].kind is part.kind}
    left, free = _by_kind(old, taken), _by_kind(new, taken)
    for kind, parts in left.items():
        others = free.get(kind, [])
        if len(parts) == len(others) == 1:
            yield parts[0].id, others[0].id


def _by_kind(sheet: Sheet, without: set[str]) -> dict[str, list[Component]]:
    found: dict[str, list[Component]] = {}
    for part in sheet.components:
        if part.id not in without:
            found.setdefault(part.kind, []).append(part)
    return found


@dataclass(frozen=True)
class _Pair:
    """Two sheets, told apart by what is computed from them."""

    old: Sheet
    new: Sheet

    def __hash__(self) -> int:
        return hash((self.old.content_key, self.new.content_key))

    def __eq__(self, other: object) -> bool:
        return isinstance(other, _Pair) and hash(self) == hash(other)


@lru_cache(maxsize=64)
def _counterparts(pair: _Pair) -> Counterparts:
    return Counterparts(pair.old, pair.new)


def counterparts(old: Sheet, new: Sheet) -> Counterparts | None:
    """The points of one sheet as another has them; None where the two have the same."""
    if old is new or old.content_key == new.content_key:
        return None
    return _counterparts(_Pair(old, new))


def carried(body: Body | Unreadable, old: Sheet, new: Sheet) -> Body | Unreadable | None:
    """An entry as it stands on another sheet; None where that has not what it is about."""
    there = counterparts(old, new)
    if there is None:
        return body
    match body:
        case ReadingTaken() | Tried():
            return _carried_reading(body, there)
        case PlugMoved(connector=connector):
            plug = there.plug(connector)
            return replace(body, connector=plug) if plug else None
    return body


def _carried_reading(body: ReadingTaken | Tried, there: Counterparts) -> ReadingTaken | Tried | None:
    red, black = (there.point(point) if point else "" for point in (body.red, body.black))
    if (body.red and not red) or (body.black and not black):
        return None
    pulled = body.pulled
    if pulled is not None:
        pulled = tuple(plug for name in pulled if (plug := there.plug(name)))
    moved = replace(body, red=red, black=black, pulled=pulled)
    if isinstance(moved, ReadingTaken) and moved.function:
        owner, dot, rest = moved.function.partition(".")
        moved = replace(moved, function=f"{there.part(owner)}{dot}{rest}" if there.part(owner) else "")
    return moved
