"""A call's document: back as it was written; any other is told with its place."""

import json
import uuid
from datetime import UTC, datetime, timedelta
from unittest import TestCase

from hypothesis import given
from hypothesis import strategies as st

from frostcore.errors import TapeError
from frostcore.tape.bundle import Bundle, BundledEntry, Thought, Whose, read, write

START = datetime(2026, 3, 2, 9, 15, tzinfo=UTC)
NAMES = st.text(st.characters(exclude_categories=("Cc", "Cs")), min_size=1, max_size=40).filter(str.strip)
JSON = st.recursive(
    st.none() | st.booleans() | st.integers() | st.floats(allow_nan=False, allow_infinity=False) | NAMES,
    lambda inner: st.lists(inner, max_size=3) | st.dictionaries(NAMES, inner, max_size=3),
    max_leaves=6,
)


def bundle(names=("Maren", "Iver"), bodies=({"text": "one"}, {"text": "two"})):
    entries = []
    for number, body in enumerate(bodies):
        at = START + timedelta(minutes=number)
        key = str(uuid.UUID(int=number + 1))
        corrects = entries[-1].id if number == 1 else ""
        entries.append(
            BundledEntry(key, "noted", 1, body, at, at + timedelta(seconds=4), names[number % 2], corrects)
        )
    return Bundle(
        str(uuid.UUID(int=99)),
        117,
        "a" * 64,
        False,
        START,
        names[0],
        START,
        tuple(entries),
        Whose("Mrs Fennel", "Quay 4", "01"),
        (Thought("fan", "Fan", 0.4),),
        "Look",
    )


class Documents(TestCase):
    @given(
        st.tuples(NAMES, NAMES), st.lists(st.dictionaries(NAMES, JSON, max_size=4), min_size=1, max_size=5)
    )
    def test_what_is_written_reads_back_equal(self, names, bodies):
        told = bundle(names, tuple(bodies))
        self.assertEqual(read(write(told)), told)

    @given(st.sampled_from(sorted(json.loads(write(bundle())))), JSON)
    def test_any_other_value_is_taken_or_told(self, name, value):
        data = json.loads(write(bundle())) | {name: value}
        self.read_or_told(data)

    @given(st.sampled_from(sorted(json.loads(write(bundle()))["entries"][0])), JSON)
    def test_any_other_entry_is_taken_or_told(self, name, value):
        data = json.loads(write(bundle()))
        data["entries"][1] |= {name: value}
        self.read_or_told(data)

    def read_or_told(self, data):
        try:
            self.assertIsInstance(read(json.dumps(data)), Bundle)
        except TapeError as error:
            self.assertIn("The bundle can’t be opened: ", str(error))

    def test_what_can_not_be_is_told_with_its_place(self):
        whole = json.loads(write(bundle()))
        first, second = whole["entries"]
        for change, message in (
            ({"format": "frostline-call-9"}, "format is not frostline-call-1"),
            ({"entries": []}, "entries must be a list"),
            ({"entries": [first, first]}, "entry 2 stands there twice"),
            ({"entries": [second]}, "entry 1 corrects what is not there"),
            ({"entries": [first | {"at": "2026-03-02T09:14:59+00:00"}]}, "before the call was opened"),
            ({"entries": [first | {"at": first["recorded_at"][:19]}]}, "a time with its zone"),
            ({"entries": [first | {"recorded_at": "2026-03-02T09:14:00+00:00"}]}, "after it was recorded"),
            ({"entries": [first | {"version": True}]}, "version must be a number"),
            ({"entries": [first | {"body": {"text": "x" * 100_001}}]}, "longer than 100,000"),
            ({"opened_by": "a\tb"}, "can’t be shown"),
            ({"opened_by": " "}, "must be a text"),
            ({"sheet": "../../etc"}, "must be the SHA-256"),
            ({"suspects": [{"unit": "a", "name": "b", "probability": 2}]}, "from 0 to 1"),
        ):
            with self.subTest(message), self.assertRaisesRegex(TapeError, message):
                read(json.dumps(whole | change))
        for text in ("", "[" * 100_000, "NaN", '{"format": "frostline-call-1", "number": Infinity}'):
            with self.subTest(text[:20]), self.assertRaises(TapeError):
                read(text)
