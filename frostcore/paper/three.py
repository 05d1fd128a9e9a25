"""Two people's changes of one sheet put together: entry by entry, each taken from who changed it."""

from collections.abc import Iterable
from dataclasses import dataclass
from typing import Any

from frostcore.document import canonical
from frostcore.paper.rows import Document

_NOTHING = object()


@dataclass(frozen=True)
class Clash:
    """An entry both changed, each otherwise: its place, and what each has there (None where it went)."""

    place: str
    mine: Any
    theirs: Any


def merge(base: Document, mine: Document, theirs: Document) -> tuple[Document, tuple[Clash, ...]]:
    """The document with both people's changes, and the entries both changed otherwise: there mine stands."""
    clashes: list[Clash] = []
    merged = _merged((base, mine, theirs), "", clashes)
    return merged, tuple(clashes)


def _merged(three: tuple[Any, Any, Any], place: str, clashes: list[Clash]) -> Any:
    base, mine, theirs = three
    if _same(mine, theirs) or _same(base, theirs):
        return mine
    if _same(base, mine):
        return theirs
    if all(isinstance(each, dict) for each in three):
        return _objects(three, place, clashes)
    if all(_listed(each) for each in three):
        return _lists(three, place, clashes)
    clashes.append(Clash(place, *(None if each is _NOTHING else each for each in (mine, theirs))))
    return mine


def _same(one: Any, other: Any) -> bool:
    if one is _NOTHING or other is _NOTHING:
        return one is other
    return canonical(one) == canonical(other)


def _listed(data: Any) -> bool:
    """Whether a list's entries have names of their own."""
    return isinstance(data, list) and all(isinstance(each, dict) and _name(each) for each in data)


def _name(entry: dict[str, Any]) -> str:
    if "id" in entry:
        return str(entry["id"])
    if "points" in entry:
        return "–".join(map(str, entry["points"]))
    if "number" in entry:
        return str(entry["number"])
    return str(entry.get("component", ""))


def _objects(three: tuple[Any, Any, Any], place: str, clashes: list[Clash]) -> dict[str, Any]:
    found: dict[str, Any] = {}
    for key in _order(*three):
        value = _merged(
            tuple(each.get(key, _NOTHING) for each in three),
            f"{place}.{key}" if place else str(key),
            clashes,
        )
        if value is not _NOTHING:
            found[key] = value
    return found


def _lists(three: tuple[Any, Any, Any], place: str, clashes: list[Clash]) -> list[Any]:
    named = tuple({_name(entry): entry for entry in each} for each in three)
    found = []
    for name in _order(*named):
        entry = _merged(
            tuple(each.get(name, _NOTHING) for each in named),
            f"{place}[{name}]",
            clashes,
        )
        if entry is not _NOTHING:
            found.append(entry)
    return found


def _order(base: Iterable[Any], mine: Iterable[Any], theirs: Iterable[Any]) -> list[Any]:
    """Every name once: mine in their order, then what only the others have."""
    return list(dict.fromkeys((*mine, *base, *theirs)))
