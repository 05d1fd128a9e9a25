"""Plain documents (parsed JSON) to frozen dataclasses and back, and the JSON Schema those classes imply.

The dataclass is the only description of a document: reading, writing and the published schema all follow
from its fields. Every problem names its place, such as ``components[3].price``.

An object may hold entries named ``x-…`` of anyone's own: they are left alone, and no part of the value.

Understood field types: str, int, float, bool, StrEnum, ``X | None``, ``tuple[X, ...]``, ``tuple[X, Y]``,
``dict[str, X]``, dataclasses, and unions of dataclasses told apart by a ``kind: Literal[...]`` field (or an
``act`` one).
"""

import contextlib
import dataclasses
import difflib
import functools
import hashlib
import json
import math
import types
import typing
from collections.abc import Callable, Iterable
from dataclasses import MISSING, dataclass
from enum import StrEnum
from typing import Any, Literal, TypeVar, Union

from frostcore.errors import SheetError

T = TypeVar("T")


@dataclass(frozen=True)
class Problem:
    """One thing wrong in a document, and where."""

    place: str
    text: str

    def __str__(self) -> str:
        return f"{self.place or 'document'}: {self.text}"


class _Reading(list[Problem]):
    """The problems of one reading, and whether a class's own rules are asked."""

    def __init__(self, *, rules: bool) -> None:
        super().__init__()
        self.rules = rules

    def noted(self, path: "Path", text: str) -> "_Broken":
        """Note a problem; raise what comes back where nothing can be read."""
        self.append(Problem(said(path), text))
        return _Broken()


class _Broken(Exception):  # noqa: N818 - never leaves this module
    """A value whose problems are already noted."""


def read(cls: type[T], data: Any, place: str = "", *, rules: bool = True) -> T:
    """A ``cls`` from parsed JSON; raises SheetError with every problem found.

    Without ``rules`` only structure is read: what a class asks of its own values is not asked again.
    """
    problems = _Reading(rules=rules)
    try:
        value: Any = _reader(typing.cast(Any, cls))(data, (place,) if place else (), problems)
    except _Broken:
        value = None
    if problems:
        raise SheetError(problems)
    return typing.cast(T, value)


def write(value: Any) -> Any:
    """The plain document of a dataclass value; fields at their default are left out.

    Inverse of :func:`read`.
    """
    if dataclasses.is_dataclass(value):
        return {
            field.name: write(getattr(value, field.name))
            for field in dataclasses.fields(value)
            if field.name == "kind"
            or _default(field) is MISSING
            or getattr(value, field.name) != _default(field)
        }
    if isinstance(value, dict):
        return {key: write(item) for key, item in value.items()}
    if isinstance(value, tuple):
        return [write(item) for item in value]
    return str(value) if isinstance(value, StrEnum) else value


def canonical(data: Any) -> str:
    """A plain document as text that says its content and nothing of how it was laid out."""
    return json.dumps(data, ensure_ascii=True, sort_keys=True, separators=(",", ":"))


def digest(data: Any) -> str:
    """The SHA-256 of a plain document's content, in hexadecimal."""
    return hashlib.sha256(canonical(data).encode("ascii")).hexdigest()


def json_schema(cls: type, *, title: str, identifier: str) -> dict[str, Any]:
    """The JSON Schema (2020-12) of the documents :func:`read` takes for ``cls``, by structure."""
    definitions: dict[str, Any] = {}
    root = _schema(cls, definitions)
    return {
        "$schema": "https://json-schema.org/draft/2020-12/schema",
        "$id": identifier,
        "title": title,
        **root,
        "$defs": dict(sorted(definitions.items())),
    }


def _default(field: dataclasses.Field[Any]) -> Any:
    return field.default_factory() if field.default_factory is not MISSING else field.default


@functools.cache
def _fields(cls: type) -> dict[str, tuple[Any, Any]]:
    """Name -> (type, default or MISSING); worked out once a class."""
    hints = typing.get_type_hints(cls)
    return {field.name: (hints[field.name], _default(field)) for field in dataclasses.fields(cls)}


TAGS = ("kind", "act")
"""The fields by which the dataclasses of a union are told apart."""

OWN = "x-"
"""How entries begin that are not the format's."""

Path = tuple[Any, ...]
"""Where a value stands: names and numbers from the root, said only when something is wrong there."""

Reader = Callable[[Any, Path, "_Reading"], Any]
"""A value of one type from plain data; raises _Broken with its problems noted."""


@functools.cache
def _reader(kind: Any) -> Reader:
    """How values of a type are read, worked out once a type."""
    origin, arguments = typing.get_origin(kind), typing.get_args(kind)
    if origin in {Union, types.UnionType}:
        return _union_reader(arguments)
    if origin is Literal:
        return _choice_reader({argument: argument for argument in arguments}, near=False)
    if origin is tuple:
        return _list_reader(arguments)
    if origin is dict:
        return _mapping_reader(arguments[1])
    if dataclasses.is_dataclass(kind):
        return _object_reader(typing.cast(type, kind))
    if isinstance(kind, type) and issubclass(kind, StrEnum):
        return _choice_reader({member.value: member for member in kind}, near=True)
    return {str: _text, bool: _truth, float: _number, int: _whole}[kind]


def _text(data: Any, path: Path, reading: "_Reading") -> str:
    if isinstance(data, str):
        return data
    raise reading.noted(path, f"{_shown(data)}; text belongs here")


def _truth(data: Any, path: Path, reading: "_Reading") -> bool:
    if isinstance(data, bool):
        return data
    raise reading.noted(path, f"{_shown(data)}; true or false belongs here")


def _number(data: Any, path: Path, reading: "_Reading") -> float:
    if isinstance(data, int | float) and not isinstance(data, bool):
        with contextlib.suppress(OverflowError):
            if math.isfinite(data):
                return float(data)
    raise reading.noted(path, f"{_shown(data)}; a number belongs here")


def _whole(data: Any, path: Path, reading: "_Reading") -> int:
    if isinstance(data, int | float) and not isinstance(data, bool):
        with contextlib.suppress(OverflowError):
            if float(data).is_integer():
                return int(data)
    raise reading.noted(path, f"{_shown(data)}; a whole number belongs here")


def _choice_reader(choices: dict[Any, Any], *, near: bool) -> Reader:
    def read_choice(data: Any, path: Path, reading: _Reading) -> Any:
        if isinstance(data, str) and data in choices:
            return choices[data]
        alike = difflib.get_close_matches(str(data), list(choices), 1) if near else []
        hint = f"did you mean “{alike[0]}”?" if alike else f"write {_either(choices)}"
        raise reading.noted(path, f"{_shown(data)} is not allowed; {hint}")

    return read_choice


def _union_reader(arguments: tuple[Any, ...]) -> Reader:
    """One of several; more than one besides null are told apart by their ``kind``."""
    nothing = type(None) in arguments
    choices = [choice for choice in arguments if choice is not type(None)]
    if len(choices) == 1:
        read_one = _reader(choices[0])
        return lambda data, path, reading: None if nothing and data is None else read_one(data, path, reading)
    tag = next(name for name in TAGS if all(name in _fields(choice) for choice in choices))
    kinds = {typing.get_args(_fields(choice)[tag][0])[0]: _reader(choice) for choice in choices}

    def read_union(data: Any, path: Path, reading: _Reading) -> Any:
        if nothing and data is None:
            return None
        kind = data.get(tag) if isinstance(data, dict) else None
        if not isinstance(kind, str) or kind not in kinds:
            told = _shown(kind if isinstance(data, dict) else data)
            raise reading.noted((*path, tag), f"{told}; write {_either(kinds)}")
        return kinds[kind](data, path, reading)

    return read_union


def _list_reader(arguments: tuple[Any, ...]) -> Reader:
    many = arguments[-1] is Ellipsis
    readers = [_reader(kind) for kind in (arguments[:1] if many else arguments)]

    def read_list(data: Any, path: Path, reading: _Reading) -> tuple[Any, ...]:
        if not isinstance(data, list):
            raise reading.noted(path, f"{_shown(data)}; a list belongs here")
        if not many and len(data) != len(readers):
            raise reading.noted(path, f"a list of {len(data)}; exactly {len(readers)} belong here")
        each = readers * len(data) if many else readers
        return tuple(
            _all(((index, each[index], item) for index, item in enumerate(data)), path, reading).values()
        )

    return read_list


def _mapping_reader(kind: Any) -> Reader:
    read_item = _reader(kind)

    def read_mapping(data: Any, path: Path, reading: _Reading) -> dict[str, Any]:
        if not isinstance(data, dict):
            raise reading.noted(path, f"{_shown(data)}; an object with named entries belongs here")
        return _all(((key, read_item, item) for key, item in data.items()), path, reading)

    return read_mapping


def _object_reader(cls: type) -> Reader:
    fields = _fields(cls)
    readers = {name: _reader(kind) for name, (kind, _) in fields.items()}
    required = [name for name, (_, default) in fields.items() if default is MISSING]

    def read_object(data: Any, path: Path, reading: _Reading) -> Any:
        if not isinstance(data, dict):
            told = f"{_shown(data)}; an object with {_either(fields, 'and')} belongs here"
            raise reading.noted(path, told)
        before = len(reading)
        for key in (key for key in data.keys() - fields.keys() if not str(key).startswith(OWN)):
            alike = difflib.get_close_matches(str(key), list(fields), 1)
            hint = f"did you mean “{alike[0]}”?" if alike else f"known are {_either(fields)}"
            reading.noted((*path, key), f"no such entry; {hint}")
        for name in required:
            if name not in data:
                reading.noted((*path, name), "is missing")
        items = ((name, readers[name], data[name]) for name in readers if name in data)
        values = _all(items, path, reading, stop=False)
        if len(reading) > before:
            raise _Broken
        if not reading.rules:
            return _as_it_stands(cls, values)
        try:
            return cls(**values)
        except ValueError as error:
            raise reading.noted(path, str(error)) from None

    return read_object


def _as_it_stands(cls: type, values: dict[str, Any]) -> Any:
    """A ``cls`` of these values without its own rules, as one stored before they were."""
    made: Any = object.__new__(cls)
    for name, (_, default) in _fields(cls).items():
        object.__setattr__(made, name, values.get(name, default))
    return made


def _all(
    items: Iterable[tuple[Any, Reader, Any]], path: Path, reading: "_Reading", *, stop: bool = True
) -> dict[Any, Any]:
    """Read every (key, reader, data), so that all problems are found, not only the first."""
    values, broken = {}, False
    for key, read_item, item in items:
        try:
            values[key] = read_item(item, (*path, key), reading)
        except _Broken:
            broken = True
    if broken and stop:
        raise _Broken
    return values


def said(path: Path) -> str:
    """A path as people write it, such as ``components[3].price``."""
    text = ""
    for part in path:
        text += f"[{part}]" if isinstance(part, int) else f".{part}" if text else str(part)
    return text


def _shown(data: Any) -> str:
    match data:
        case None:
            return "nothing (null)"
        case str():
            return f"text “{data[:40]}”"
        case dict():
            return "an object"
        case list():
            return "a list"
    return f"{data}"


def _either(names: Any, word: str = "or") -> str:
    shown = [str(name) for name in names]
    return shown[0] if len(shown) == 1 else f"{', '.join(shown[:-1])} {word} {shown[-1]}"


def _schema(kind: Any, definitions: dict[str, Any]) -> dict[str, Any]:
    origin, arguments = typing.get_origin(kind), typing.get_args(kind)
    if origin in {Union, types.UnionType}:
        return {
            "anyOf": [
                {"type": "null"} if choice is type(None) else _schema(choice, definitions)
                for choice in arguments
            ]
        }
    if origin is Literal:
        return {"enum": list(arguments)}
    if origin is tuple:
        if arguments[-1] is Ellipsis:
            return {"type": "array", "items": _schema(arguments[0], definitions)}
        return {
            "type": "array",
            "prefixItems": [_schema(choice, definitions) for choice in arguments],
            "minItems": len(arguments),
            "maxItems": len(arguments),
        }
    if origin is dict:
        return {"type": "object", "additionalProperties": _schema(arguments[1], definitions)}
    if isinstance(kind, type) and dataclasses.is_dataclass(kind):
        if kind.__name__ not in definitions:
            definitions[kind.__name__] = {}
            fields = _fields(kind)
            definitions[kind.__name__] = {
                "description": " ".join((kind.__doc__ or "").split()),
                "type": "object",
                "properties": {name: _schema(hint, definitions) for name, (hint, _) in fields.items()},
                "required": [name for name, (_, default) in fields.items() if default is MISSING],
                "patternProperties": {f"^{OWN}": {}},
                "additionalProperties": False,
            }
        return {"$ref": f"#/$defs/{kind.__name__}"}
    if isinstance(kind, type) and issubclass(kind, StrEnum):
        return {"enum": [member.value for member in kind]}
    return {"type": {str: "string", bool: "boolean", float: "number", int: "integer"}[kind]}
