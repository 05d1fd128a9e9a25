"""What is told beside the suspects: what would settle one, why no test parts the last, what an entry did."""

import math
from unittest import TestCase

from frostcore.diagnosis.acts import document
from frostcore.diagnosis.step import CHANCES, in_words
from frostcore.diagnosis.telling import SETTLES, STRONG_BITS, Bearing, alike, bearings, settling
from frostcore.diagnosis.weigh import weigher_of
from frostcore.tests.test_judgement import DEAD_OUTPUT, E5, GOOD_LOOP, TB, come_to, looked, read

OPEN_LOOP = (E5, looked("frost", "cover_frozen"), read("CN2.5", "CN2.6", "ohm", "OL"))
HEATER = read("defrost_heater.1", "defrost_heater.2", "ohm", "OL")


class Steps(TestCase):
    def test_the_steps_of_all_entries_lead_from_the_prior_to_what_is_known(self):
        for entries in ((E5, DEAD_OUTPUT, GOOD_LOOP), OPEN_LOOP):
            found = come_to(TB, *entries)
            known = weigher_of(TB).known
            for suspect in found.suspects[:4]:
                prior = float(weigher_of(TB).prior[known.of_unit(suspect.unit)].sum())
                odds = [math.log2(chance / (1 - chance)) for chance in (prior, suspect.probability)]
                self.assertAlmostEqual(sum(found.steps(suspect).values()), odds[1] - odds[0], places=6)

    def test_two_entries_that_say_the_same_each_have_their_step_though_neither_would_be_missed(self):
        found = come_to(TB, E5, read("CN2.5", "CN2.6", "vac", "104", "normal"))
        heater = next(each for each in found.suspects if each.unit == "defrost_heater")
        self.assertGreater(found.steps(heater)[0], 2.0)

    def test_an_entry_is_told_of_by_the_suspect_it_moved_most(self):
        told = bearings(come_to(TB, E5, DEAD_OUTPUT, GOOD_LOOP))
        self.assertEqual(told[1].text, "strongly for control board")
        self.assertEqual(Bearing("fan", 0.1).text, "moves no suspect")
        self.assertEqual(Bearing("fan", -STRONG_BITS).text, "strongly against fan")
        self.assertEqual(Bearing("fan", STRONG_BITS - 0.1).text, "for fan")


class InWords(TestCase):
    def test_each_word_begins_at_its_chance(self):
        for number, (least, words) in enumerate(CHANCES):
            self.assertEqual(in_words(least), words)
            below = CHANCES[number + 1][1] if number + 1 < len(CHANCES) else "hardly"
            self.assertEqual(in_words(least - 1e-9), below)


class Settles(TestCase):
    def test_the_outcome_told_makes_the_suspect_as_likely_as_was_said(self):
        before = come_to(TB, *OPEN_LOOP)
        told = settling(before, before.suspects)["defrost_heater"]
        self.assertIn("defrost heater, 1 to 2", told.act)
        self.assertEqual(told.outcome, "OL")
        after = next(
            each for each in come_to(TB, *OPEN_LOOP, HEATER).suspects if each.unit == "defrost_heater"
        )
        self.assertAlmostEqual(told.chance, after.probability, delta=0.02)

    def test_only_what_makes_it_likelier_is_told(self):
        before = come_to(TB, *OPEN_LOOP)
        found = settling(before, before.suspects)
        shares = {each.unit: each.probability for each in before.suspects}
        for unit, told in found.items():
            self.assertGreaterEqual(told.chance, shares[unit] + SETTLES)
        named = come_to(TB, *OPEN_LOOP, HEATER, read("bimetal.1", "bimetal.2", "ohm", "0.2"))
        self.assertIsNotNone(named.named)
        self.assertEqual(settling(named, named.suspects), {})


class Alike(TestCase):
    def test_what_was_put_off_is_said_to_be_what_parts_them(self):
        entries = list(OPEN_LOOP)
        for _ in range(40):
            found = come_to(TB, *entries)
            if found.next is None:
                break
            entries.append({"act": "cannot", "of": document(TB, found.next.test), "why": "frozen in"})
        self.assertIsNone(found.next)
        self.assertIn("would part the defrost heater, the defrost bimetal and the thermal fuse", alike(found))
        self.assertIn("put off", alike(found))

    def test_nothing_is_said_while_a_test_still_parts_them(self):
        self.assertEqual(alike(come_to(TB, *OPEN_LOOP)), "")
