from dataclasses import dataclass
from enum import StrEnum
from typing import Literal
from unittest import TestCase

import jsonschema
from hypothesis import given
from hypothesis import strategies as st

from frostcore import document
from frostcore.errors import SheetError


class Colour(StrEnum):
    RED = "red"
    BLUE = "blue"


@dataclass(frozen=True)
class Wire:
    kind: Literal["wire"]
    colour: Colour
    ohms: float = 0.0


@dataclass(frozen=True)
class Plug:
    kind: Literal["plug"]
    pins: tuple[int, ...]

    def __post_init__(self):
        if len(set(self.pins)) != len(self.pins):
            message = "a pin stands twice"
            raise ValueError(message)


@dataclass(frozen=True)
class Loom:
    name: str
    parts: tuple[Wire | Plug, ...]
    labels: dict[str, str] | None = None
    span: tuple[float, float] = (0.0, 1.0)
    tested: bool = False


wires = st.builds(Wire, st.just("wire"), st.sampled_from(Colour), st.floats(0, 1e6))
plugs = st.builds(Plug, st.just("plug"), st.lists(st.integers(1, 20), unique=True).map(tuple))
looms = st.builds(
    Loom,
    st.text(),
    st.lists(wires | plugs, max_size=4).map(tuple),
    st.none() | st.dictionaries(st.text(min_size=1), st.text()),
    st.tuples(st.floats(0, 9), st.floats(0, 9)),
    st.booleans(),
)


class Documents(TestCase):
    def problems(self, data):
        with self.assertRaises(SheetError) as caught:
            document.read(Loom, data)
        return [str(problem) for problem in caught.exception.problems]

    @given(looms)
    def test_what_is_written_is_read_back_equal_and_fits_the_schema(self, loom):
        written = document.write(loom)
        self.assertEqual(document.read(Loom, written), loom)
        jsonschema.validate(written, document.json_schema(Loom, title="Loom", identifier="urn:test:loom"))

    def test_defaults_are_left_out_but_what_tells_a_union_apart_stays(self):
        self.assertEqual(
            document.write(Loom("x", (Wire("wire", Colour.RED),))),
            {"name": "x", "parts": [{"kind": "wire", "colour": "red"}]},
        )

    def test_every_problem_is_told_with_its_place(self):
        data = {
            "name": 4,
            "parts": [
                {"kind": "wire", "colour": "rod"},
                {"kind": "plug", "pins": [1, "two"]},
                {"kind": "glue"},
            ],
            "span": [1],
            "labels": {"a": 3},
            "tested": "yes",
            "length": 2,
        }
        self.assertEqual(
            self.problems(data),
            [
                "length: no such entry; known are name, parts, labels, span or tested",
                "name: 4; text belongs here",
                "parts[0].colour: text “rod” is not allowed; did you mean “red”?",
                "parts[1].pins[1]: text “two”; a whole number belongs here",
                "parts[2].kind: text “glue”; write wire or plug",
                "labels.a: 3; text belongs here",
                "span: a list of 1; exactly 2 belong here",
                "tested: text “yes”; true or false belongs here",
            ],
        )

    def test_a_value_that_checks_itself_is_told_at_its_place(self):
        self.assertEqual(
            self.problems({"name": "x", "parts": [{"kind": "plug", "pins": [1, 1]}]}),
            ["parts[0]: a pin stands twice"],
        )

    def test_what_is_no_object_or_list_is_said_plainly(self):
        self.assertEqual(
            self.problems([]),
            ["document: a list; an object with name, parts, labels, span and tested belongs here"],
        )
        self.assertEqual(self.problems({"name": "x", "parts": {}}), ["parts: an object; a list belongs here"])
        self.assertEqual(self.problems({"name": "x"}), ["parts: is missing"])

    def test_infinite_numbers_and_truth_values_are_no_numbers(self):
        for value in (float("inf"), float("nan"), True):
            self.assertIn(
                "a number belongs here",
                self.problems({"name": "x", "parts": [{"kind": "wire", "colour": "red", "ohms": value}]})[0],
            )
