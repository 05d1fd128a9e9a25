"""A call as one document that another installation opens: its tape as stored, whose unit it is, what was
thought of it then.

A bundle comes from anywhere: :func:`read` says what is wrong with it before anything is made of it.
"""

import json
import re
import unicodedata
import uuid
from collections.abc import Mapping, Sequence
from dataclasses import asdict, dataclass
from datetime import datetime
from typing import Any

from frostcore.errors import TapeError

FORMAT = "frostline-call-1"
MOST_CHARACTERS, MOST_ENTRIES, MOST_BODY, MOST_NAME = 20_000_000, 5000, 100_000, 200
_DIGEST = re.compile(r"[0-9a-f]{64}")


@dataclass(frozen=True)
class BundledEntry:
    """An entry as it was stored: the body in the version it was written in, who wrote it, and which earlier
    entry it corrects (an id, or empty)."""

    id: str
    kind: str
    version: int
    body: Mapping[str, Any]
    at: datetime
    recorded_at: datetime
    by: str
    supersedes: str = ""


@dataclass(frozen=True)
class Whose:
    """Whose unit it is; empty where that was erased, or left out of the bundle."""

    name: str = ""
    address: str = ""
    phone: str = ""


@dataclass(frozen=True)
class Thought:
    """A suspect when the bundle was made: the unit's key, its words, its probability."""

    unit: str
    name: str
    probability: float


@dataclass(frozen=True)
class Bundle:
    """A call: ``sheet`` is the digest of the revision it was begun with; its entries in the order they were
    recorded; ``suspects`` and ``act`` are what was thought of it when the bundle was made, ``made_at``."""

    id: str
    number: int
    sheet: str
    practice: bool
    opened_at: datetime
    opened_by: str
    made_at: datetime
    entries: tuple[BundledEntry, ...]
    whose: Whose = Whose()
    suspects: tuple[Thought, ...] = ()
    act: str = ""


def write(bundle: Bundle) -> str:
    """The bundle as JSON text; :func:`read` reads it back equal."""
    document = {"format": FORMAT, **asdict(bundle)}
    return json.dumps(document, ensure_ascii=False, indent=1, default=_told) + "\n"


def _told(value: object) -> object:
    if isinstance(value, datetime):
        return value.isoformat()
    raise TypeError(value)


def read(text: str) -> Bundle:
    """The bundle of JSON text; TapeError naming the place for what is none."""
    if len(text) > MOST_CHARACTERS:
        raise _wrong("document", f"has {len(text):,} characters; a call has at most {MOST_CHARACTERS:,}")
    try:
        data = json.loads(text, parse_constant=_no_number)
    except (ValueError, RecursionError):
        raise _wrong("document", "is no JSON") from None
    if not isinstance(data, dict) or data.get("format") != FORMAT:
        raise _wrong("format", f"is not {FORMAT}; choose the bundle that a call was saved as")
    listed = data.get("entries")
    if not isinstance(listed, list) or not 0 < len(listed) <= MOST_ENTRIES:
        raise _wrong("entries", f"must be a list of 1 to {MOST_ENTRIES:,} entries")
    opened = _time(data, "opened_at", "call")
    bundle = Bundle(
        id=_id(data, "id", "call"),
        number=_whole(data, "number", "call"),
        sheet=_digest(data),
        practice=data.get("practice") is True,
        opened_at=opened,
        opened_by=_text(data, "opened_by", "call"),
        made_at=_time(data, "made_at", "call"),
        entries=tuple(_entry(each, f"entry {number}") for number, each in enumerate(listed, 1)),
        whose=_whose(data.get("whose")),
        suspects=_suspects(data.get("suspects")),
        act=_text(data, "act", "call", needed=False),
    )
    _in_order(bundle.entries, opened)
    return bundle


def _no_number(name: str) -> float:
    raise ValueError(name)


def _entry(data: object, place: str) -> BundledEntry:
    if not isinstance(data, dict):
        raise _wrong(place, "is no entry")
    body = data.get("body")
    if not isinstance(body, dict):
        raise _wrong(place, "has no body")
    if len(json.dumps(body)) > MOST_BODY:
        raise _wrong(place, f"is longer than {MOST_BODY:,} characters")
    return BundledEntry(
        id=_id(data, "id", place),
        kind=_text(data, "kind", place, most=40),
        version=_whole(data, "version", place, most=1000),
        body=body,
        at=_time(data, "at", place),
        recorded_at=_time(data, "recorded_at", place),
        by=_text(data, "by", place),
        supersedes=_id(data, "supersedes", place) if data.get("supersedes") else "",
    )


def _in_order(entries: Sequence[BundledEntry], opened: datetime) -> None:
    """Raise TapeError where entries can't have been recorded so."""
    seen: set[str] = set()
    corrected: set[str] = set()
    for number, entry in enumerate(entries, 1):
        place = f"entry {number}"
        if entry.id in seen:
            raise _wrong(place, "stands there twice")
        if not opened <= entry.at <= entry.recorded_at:
            raise _wrong(place, "was made before the call was opened, or after it was recorded")
        if entry.supersedes and (entry.supersedes not in seen or entry.supersedes in corrected):
            raise _wrong(place, "corrects what is not there, or was corrected before")
        corrected.add(entry.supersedes)
        seen.add(entry.id)


def _whose(data: object) -> Whose:
    if data is None:
        return Whose()
    if not isinstance(data, dict):
        raise _wrong("whose", "must have name, address, phone")
    return Whose(
        _text(data, "name", "whose", most=120, needed=False),
        _text(data, "address", "whose", needed=False),
        _text(data, "phone", "whose", most=40, needed=False),
    )


def _suspects(data: object) -> tuple[Thought, ...]:
    found = []
    for each in (data if isinstance(data, list) else [])[:10]:
        if not isinstance(each, dict):
            raise _wrong("suspects", "must be a list of suspects")
        probability = each.get("probability")
        if isinstance(probability, bool) or not isinstance(probability, int | float):
            raise _wrong("suspects", "need a probability")
        if not 0 <= probability <= 1:
            raise _wrong("suspects", "need a probability from 0 to 1")
        found.append(Thought(_text(each, "unit", "suspects"), _text(each, "name", "suspects"), probability))
    return tuple(found)


def _text(
    data: Mapping[str, Any], name: str, place: str, most: int = MOST_NAME, *, needed: bool = True
) -> str:
    value = data.get(name, "")
    if not isinstance(value, str) or len(value) > most or (needed and not value.strip()):
        raise _wrong(f"{place}, {name}", f"must be a text of at most {most} letters")
    if any(unicodedata.category(letter) in ("Cc", "Cs") for letter in value):
        raise _wrong(f"{place}, {name}", "holds what can’t be shown")
    return value


def _id(data: Mapping[str, Any], name: str, place: str) -> str:
    try:
        return str(uuid.UUID(str(data.get(name))))
    except ValueError:
        raise _wrong(f"{place}, {name}", "must be a UUID") from None


def _whole(data: Mapping[str, Any], name: str, place: str, most: int = 1_000_000_000) -> int:
    value = data.get(name)
    if isinstance(value, bool) or not isinstance(value, int) or not 1 <= value <= most:
        raise _wrong(f"{place}, {name}", f"must be a number from 1 to {most:,}")
    return value


def _digest(data: Mapping[str, Any]) -> str:
    value = data.get("sheet")
    if not isinstance(value, str) or not _DIGEST.fullmatch(value):
        raise _wrong("call, sheet", "must be the SHA-256 of its sheet")
    return value


def _time(data: Mapping[str, Any], name: str, place: str) -> datetime:
    try:
        found = datetime.fromisoformat(str(data.get(name)))
    except ValueError:
        found = None
    if found is None or found.tzinfo is None:
        raise _wrong(f"{place}, {name}", "must be a time with its zone, such as 2026-03-02T09:15:00+00:00")
    return found


def _wrong(place: str, what: str) -> TapeError:
    return TapeError(f"The bundle can’t be opened: {place} {what}.")
