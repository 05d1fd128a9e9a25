"""Bodies of every version that ever landed on a tape, brought to the present one.

A stored slip never changes; reading it takes its body through the steps below, each a pure function from
one (kind, version) to the next. A new field with a default needs no step, but a default that changes its
meaning, a field that goes, and a kind that is renamed do.
"""

import json
from collections.abc import Callable
from typing import Any

from frostcore.errors import SheetError
from frostcore.tape.entries import Body, Unreadable, body_from_document

Document = dict[str, Any]
Versioned = tuple[int, Document]

WHO_FIELDS = ("customer", "address", "phone")
"""What the first version of a call's slip said of the customer, who now stands apart."""


def _call_taken_1(old: Document) -> Versioned:
    """Whose unit it is left the tape."""
    return 2, {key: value for key, value in old.items() if key not in WHO_FIELDS}


def _sensor_read_1(old: Document) -> Versioned:
    """A sensor's resistance, or the volts it was computed from, became a reading like any other."""
    volts = old.get("volts")
    new: Document = {
        "kind": "reading",
        "meter": "vdc" if volts else "ohm",
        "value": volts or old.get("resistance"),
        "accuracy": old.get("meter"),
    }
    same = ("sensor", "temperature", "doubt_kelvin", "red", "black", "kept")
    new |= {key: old[key] for key in same if key in old}
    unknown = {
        key: value for key, value in old.items() if key not in {*same, "kind", "meter", "volts", "resistance"}
    }
    if new["accuracy"] is None:
        del new["accuracy"]
    if isinstance(kept := new.get("kept"), list):
        new["kept"] = [str(name).replace(":resistance", ":value") for name in kept]
    return 1, new | unknown


def _meter_read_1(old: Document) -> Versioned:
    """A reading between two points became a reading like any other; it always told its plugs."""
    return 1, {"pulled": []} | old | {"kind": "reading"}


UPGRADES: dict[tuple[str, int], Callable[[Document], Versioned]] = {
    ("call_taken", 1): _call_taken_1,
    ("sensor_read", 1): _sensor_read_1,
    ("meter_read", 1): _meter_read_1,
}
"""From each earlier (kind, version) to the version and body that follow it."""

PRESENT = {"call_taken": 2}
"""The present version of each kind that has had more than one."""


def version_of(kind: str) -> int:
    """The version bodies of a kind are written in."""
    return PRESENT.get(kind, 1)


def read_body(kind: str, version: int, stored: Any) -> Body | Unreadable:
    """A stored body, of any version that ever landed; what can't be read comes back as such, with why."""
    try:
        return _read(kind, version, stored)
    except (SheetError, TypeError, ValueError, KeyError, AttributeError) as error:
        text = json.dumps(stored, ensure_ascii=False, indent=1, default=str)
        return Unreadable(kind, version, str(error), text)


def _read(kind: str, version: int, stored: Any) -> Body:
    body = stored
    while (step := UPGRADES.get((kind, version))) is not None:
        version, body = step(body)
        kind = body["kind"]
    if version > version_of(kind):
        message = f"it is of version {version}, and this program knows “{kind}” up to {version_of(kind)}"
        raise ValueError(message)
    return body_from_document(body)
