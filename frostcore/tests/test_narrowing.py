"""Which kind a unit is: by what is seen of it and what was read."""

import math
import unittest
from datetime import UTC, datetime, timedelta

from hypothesis import given
from hypothesis import strategies as st

from frostcore.diagnosis.kinds import FEATURES, MISTAKEN, likely, look_for, seen_in
from frostcore.quantity import Dimension, parse
from frostcore.tape.entries import CallTaken, Entry, ReadingTaken
from frostcore.tape.standing import stand
from frostcore.tests.archetypes import KINDS

START = datetime(2026, 11, 2, 9, tzinfo=UTC)
SHEETS = {sheet.id.removeprefix("kind-"): sheet for sheet in KINDS}
NAMES, ALL = tuple(SHEETS), tuple(SHEETS.values())


def chances(**answers):
    return {NAMES[each.place]: each.probability for each in likely(ALL, answers)}


class Narrowing(unittest.TestCase):
    def test_what_is_seen_of_a_kind_names_it_or_those_built_alike(self):
        for name, sheet in SHEETS.items():
            answers = {feature.id: feature.of(sheet) for feature in FEATURES}
            same = [other for other, its in SHEETS.items() if {f.id: f.of(its) for f in FEATURES} == answers]
            found = likely(ALL, answers)
            self.assertIn(NAMES[found[0].place], same)
            self.assertGreater(sum(each.probability for each in found[: len(same)]), 0.9)
            self.assertEqual(found[0].against, ())
            self.assertIn(name, same)

    def test_one_answer_weighs_as_often_as_it_is_mistaken(self):
        found = chances(inverter=True)
        with_one = [
            name for name, sheet in SHEETS.items() if any(c.kind == "inverter" for c in sheet.components)
        ]
        share = (1 - MISTAKEN) / (len(with_one) * (1 - MISTAKEN) + (len(NAMES) - len(with_one)) * MISTAKEN)
        self.assertAlmostEqual(found[with_one[0]], share)

    def test_what_to_look_for_parts_the_likely_kinds(self):
        # With all kinds alike, the feature that comes nearest to half of them tells most.
        apart = {f.id: abs(sum(f.of(sheet) for sheet in ALL) - len(ALL) / 2) for f in FEATURES}
        self.assertEqual(apart[look_for(ALL, {}).id], min(apart.values()))
        answers = {}
        while (feature := look_for(ALL, answers)) is not None:
            answers[feature.id] = feature.of(SHEETS["dual-evaporator"])
        self.assertLessEqual(len(answers), 6)
        self.assertEqual(max(chances(**answers), key=chances(**answers).get), "dual-evaporator")

    @given(st.dictionaries(st.sampled_from([feature.id for feature in FEATURES]), st.booleans()))
    def test_probabilities_are_a_whole_whatever_is_answered(self, answers):
        found = likely(ALL, answers)
        self.assertAlmostEqual(math.fsum(each.probability for each in found), 1.0)
        self.assertEqual(sorted(each.place for each in found), list(range(len(ALL))))


def read(kind, *readings):
    bodies = [
        ReadingTaken("reading", "ohm", parse(value, Dimension.RESISTANCE), red, black)
        for red, black, value in readings
    ]
    entries = [
        Entry(str(number), START + timedelta(minutes=number), "m", body)
        for number, body in enumerate((CallTaken("call_taken", "warm"), *bodies))
    ]
    return seen_in(stand(SHEETS[kind], entries))


class Read(unittest.TestCase):
    def test_a_part_that_was_read_is_there(self):
        self.assertEqual(
            read("bottom-freezer", ("defrost_heater.1", "defrost_heater.2", "290 Ω")), {"defrost": True}
        )
        self.assertEqual(read("bottom-freezer", ("defrost_heater.1", "defrost_heater.2", "OL")), {})

    def test_three_windings_tell_what_drives_the_compressor(self):
        pairs = (
            ("compressor.run", "compressor.common"),
            ("compressor.start", "compressor.common"),
            (
                "compressor.run",
                "compressor.start",
            ),
        )
        alike = [(*pair, f"{ohms} Ω") for pair, ohms in zip(pairs, (9.1, 9.0, 9.2), strict=True)]
        other = [(*pair, f"{ohms} Ω") for pair, ohms in zip(pairs, (12, 20, 32), strict=True)]
        self.assertEqual(read("bottom-freezer", *alike), {"inverter": True})
        self.assertEqual(read("bottom-freezer", *other), {"inverter": False})
        self.assertEqual(read("bottom-freezer", *alike[:2]), {})
        found = chances(**read("bottom-freezer", *alike))
        self.assertLess(found["bottom-freezer"], 0.05)
