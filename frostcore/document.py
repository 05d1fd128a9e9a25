"""Plain documents (parsed JSON) to frozen dataclasses and back, and the JSON Schema those classes imply.

The dataclass is the only description of a document: reading, writing and the published schema all follow
from its fields. Every problem names its place, such as ``components[3].price``.

Understood field types: str, int, float, bool, StrEnum, ``X | None``, ``tuple[X, ...]``, ``tuple[X, Y]``,
``dict[str, X]``, dataclasses, and unions of dataclasses told apart by a ``kind: Literal[...]`` field.
"""

import dataclasses
import difflib
import functools
import hashlib
import json
import math
import types
import typing
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


class _Broken(Exception):  # noqa: N818 - never leaves this module
    """A value whose problems are already noted."""


def read(cls: type[T], data: Any, place: str = "", *, rules: bool = True) -> T:
    """A ``cls`` from parsed JSON; raises SheetError with every problem found.

    Without ``rules`` only structure is read: what a class asks of its own values is not asked again.
    """
    problems = _Reading(rules=rules)
    try:
        value = _read(cls, data, place, problems)
    except _Broken:
        value = None
    if problems:
        raise SheetError(problems)
    return value


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


def _default(field: dataclasses.Field) -> Any:
    return field.default_factory() if field.default_factory is not MISSING else field.default


@functools.cache
def _fields(cls: type) -> dict[str, tuple[Any, Any]]:
    """Name -> (type, default or MISSING); worked out once a class."""
    hints = typing.get_type_hints(cls)
    return {field.name: (hints[field.name], _default(field)) for field in dataclasses.fields(cls)}


def _read(kind: Any, data: Any, place: str, problems: _Reading) -> Any:
    origin, arguments = typing.get_origin(kind), typing.get_args(kind)
    if origin in {Union, types.UnionType}:
        return _read_union(arguments, data, place, problems)
    if origin is Literal:
        if data not in arguments:
            raise _noted(problems, place, f"{_shown(data)} is not allowed; write {_either(arguments)}")
        return data
    if origin is tuple:
        return _read_list(arguments, data, place, problems)
    if origin is dict:
        if not isinstance(data, dict):
            raise _noted(problems, place, f"{_shown(data)}; an object with named entries belongs here")
        return _all(
            ((key, arguments[1], item, _join(place, key)) for key, item in data.items()), problems, dict
        )
    if dataclasses.is_dataclass(kind):
        return _read_object(kind, data, place, problems)
    if isinstance(kind, type) and issubclass(kind, StrEnum):
        if data not in [member.value for member in kind]:
            near = difflib.get_close_matches(str(data), [member.value for member in kind], 1)
            hint = (
                f"did you mean “{near[0]}”?"
                if near
                else f"write {_either([member.value for member in kind])}"
            )
            raise _noted(problems, place, f"{_shown(data)} is not allowed; {hint}")
        return kind(data)
    return _read_scalar(kind, data, place, problems)


def _read_scalar(kind: Any, data: Any, place: str, problems: _Reading) -> Any:
    number = isinstance(data, int | float) and not isinstance(data, bool)
    if kind is str and isinstance(data, str):
        return data
    if kind is bool and isinstance(data, bool):
        return data
    if kind is float and number and math.isfinite(data):
        return float(data)
    if kind is int and number and float(data).is_integer():
        return int(data)
    wanted = {str: "text", bool: "true or false", float: "a number", int: "a whole number"}[kind]
    raise _noted(problems, place, f"{_shown(data)}; {wanted} belongs here")


def _read_union(arguments: tuple, data: Any, place: str, problems: _Reading) -> Any:
    if data is None and type(None) in arguments:
        return None
    choices = [choice for choice in arguments if choice is not type(None)]
    if len(choices) == 1:
        return _read(choices[0], data, place, problems)
    kinds = {typing.get_args(_fields(choice)["kind"][0])[0]: choice for choice in choices}
    if not isinstance(data, dict) or str(data.get("kind")) not in kinds:
        raise _noted(
            problems,
            _join(place, "kind"),
            f"{_shown(data.get('kind') if isinstance(data, dict) else data)}; write {_either(kinds)}",
        )
    return _read(kinds[data["kind"]], data, place, problems)


def _read_list(arguments: tuple, data: Any, place: str, problems: _Reading) -> tuple:
    if not isinstance(data, list):
        raise _noted(problems, place, f"{_shown(data)}; a list belongs here")
    if arguments[-1] is Ellipsis:
        items = [(index, arguments[0], item, f"{place}[{index}]") for index, item in enumerate(data)]
    else:
        if len(data) != len(arguments):
            raise _noted(problems, place, f"a list of {len(data)}; exactly {len(arguments)} belong here")
        items = [
            (index, kind, item, f"{place}[{index}]")
            for index, (kind, item) in enumerate(zip(arguments, data, strict=True))
        ]
    return tuple(_all(items, problems, dict).values())


def _read_object(cls: type, data: Any, place: str, problems: _Reading) -> Any:
    if not isinstance(data, dict):
        raise _noted(
            problems, place, f"{_shown(data)}; an object with {_either(_fields(cls), 'and')} belongs here"
        )
    fields, before = _fields(cls), len(problems)
    for key in data.keys() - fields.keys():
        near = difflib.get_close_matches(str(key), list(fields), 1)
        problems.append(
            Problem(
                _join(place, key),
                f"no such entry; {f'did you mean “{near[0]}”?' if near else f'known are {_either(fields)}'}",
            )
        )
    for name, (_, default) in fields.items():
        if name not in data and default is MISSING:
            problems.append(Problem(_join(place, name), "is missing"))
    values = _all(
        ((name, kind, data[name], _join(place, name)) for name, (kind, _) in fields.items() if name in data),
        problems,
        dict,
        stop=False,
    )
    if len(problems) > before:
        raise _Broken
    if not problems.rules:
        return _as_it_stands(cls, values)
    try:
        return cls(**values)
    except ValueError as error:
        raise _noted(problems, place, str(error)) from None


def _as_it_stands(cls: type, values: dict[str, Any]) -> Any:
    """A ``cls`` of these values without its own rules, as one stored before they were."""
    made = object.__new__(cls)
    for name, (_, default) in _fields(cls).items():
        object.__setattr__(made, name, values.get(name, default))
    return made


def _all(items: Any, problems: _Reading, into: type, *, stop: bool = True) -> Any:
    """Read every (key, type, data, place), so that all problems are found, not only the first."""
    values, broken = into(), False
    for key, kind, item, place in items:
        try:
            values[key] = _read(kind, item, place, problems)
        except _Broken:
            broken = True
    if broken and stop:
        raise _Broken
    return values


def _noted(problems: _Reading, place: str, text: str) -> _Broken:
    problems.append(Problem(place, text))
    return _Broken()


def _join(place: str, name: Any) -> str:
    return f"{place}.{name}" if place else str(name)


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
    if dataclasses.is_dataclass(kind):
        if kind.__name__ not in definitions:
            definitions[kind.__name__] = {}
            fields = _fields(kind)
            definitions[kind.__name__] = {
                "description": " ".join((kind.__doc__ or "").split()),
                "type": "object",
                "properties": {name: _schema(hint, definitions) for name, (hint, _) in fields.items()},
                "required": [name for name, (_, default) in fields.items() if default is MISSING],
                "additionalProperties": False,
            }
        return {"$ref": f"#/$defs/{kind.__name__}"}
    if isinstance(kind, type) and issubclass(kind, StrEnum):
        return {"enum": [member.value for member in kind]}
    return {"type": {str: "string", bool: "boolean", float: "number", int: "integer"}[kind]}
