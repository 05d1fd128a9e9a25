"""Every fault is seen by some probe, and those that are not are told with the reason; mains on the chassis
are measured before the plug goes in."""

from dataclasses import replace
from unittest import TestCase

from frostcore.diagnosis.insulation import insulation_due
from frostcore.diagnosis.step import next_step
from frostcore.faults.known import faults
from frostcore.faults.silent import silent, telling_pairs
from frostcore.quantity import Dimension, parse
from frostcore.tape.entries import PartFitted, ReadingTaken, StepDone
from frostcore.tests.demo_sheets import SHEETS, demo_sheet
from frostcore.tests.test_probing import standing
from frostcore.tests.test_tape import LIVE, UNPLUGGED


class EveryFault(TestCase):
    @classmethod
    def setUpClass(cls):
        cls.silent = {sheet.title: silent(sheet) for sheet in SHEETS}

    def test_every_leak_and_every_short_to_the_chassis_is_seen(self):
        for sheet in SHEETS:
            unseen = [item.fault.id for item in self.silent[sheet.title] if "earth" in item.fault.mode]
            self.assertEqual(unseen, [], sheet.title)
            self.assertGreater(sum("earth" in item.mode for item in faults(sheet)), 3)

    def test_few_stay_silent_and_each_says_why(self):
        for sheet in SHEETS:
            found = [item for item in self.silent[sheet.title] if not item.fault.seen_by]
            weight = sum(item.fault.weight for item in found)
            self.assertLess(weight, 0.04 * sum(item.weight for item in faults(sheet)), sheet.title)
            self.assertLessEqual(len(found), 24, sheet.title)
            for item in found:
                self.assertRegex(item.reason, r"reading")
                self.assertLessEqual(item.share, 1)

    def test_what_no_meter_shows_says_what_does(self):
        found = {item.fault.id: item for item in self.silent["Tarnbeck TB-34"]}
        self.assertIn("hotter than the room", found["unit:condenser_dirty"].reason)
        self.assertIn("ESR", found["board:bulk_dry"].reason)
        self.assertNotIn("defrost_heater:open", found)
        self.assertNotIn("plug:earth_open", found)
        self.assertNotIn("damper:stuck", found)
        wet = found["harness:moisture:CN2.1-CN2.2"]
        self.assertIn("insulation tester", wet.reason)

    def test_pairs_are_pins_to_the_chassis_neighbours_parts_own_ends_and_wires_ends(self):
        pairs = {frozenset(pair) for pair in telling_pairs(demo_sheet("Tarnbeck TB-34"))}
        for pair in (("CN2.5", "earth"), ("CN3.1", "CN3.2"), ("bimetal.1", "bimetal.2")):
            self.assertIn(frozenset(pair), pairs)


class BeforeThePlugGoesIn(TestCase):
    FITTED = PartFitted("part_fitted", "defrost_heater")

    def reading(self, typed, red="plug.l", black="earth", meter="ohm"):
        return ReadingTaken("reading", meter, parse(typed, Dimension.RESISTANCE), red, black, mode="off_cold")

    def test_it_is_due_after_a_part_was_fitted_and_done_once_measured(self):
        self.assertIsNone(insulation_due(standing(UNPLUGGED)))
        self.assertIsNone(insulation_due(standing(LIVE, self.FITTED)))
        due = insulation_due(standing(UNPLUGGED, self.FITTED))
        self.assertEqual((due.red, due.black, due.leaks), ("plug.l", "earth", ""))
        step = next_step(standing(UNPLUGGED, self.FITTED))
        self.assertEqual((step.act, step.red), ("Measure the plug’s live pin to the chassis", "plug.l"))
        self.assertIn("before the plug goes in", step.why)
        self.assertIsNone(insulation_due(standing(UNPLUGGED, self.FITTED, self.reading("OL"))))

    def test_closing_a_place_again_is_work(self):
        opened, closed = (StepDone("step_done", "evaporator", 0, state, 2) for state in ("opened", "closed"))
        self.assertIsNone(insulation_due(standing(UNPLUGGED, opened)))
        self.assertIsNotNone(insulation_due(standing(UNPLUGGED, opened, closed)))

    def test_while_it_leaks_it_is_not_to_be_plugged_in(self):
        for typed, due in (("1.9M", True), ("2.1M", False)):
            found = insulation_due(standing(UNPLUGGED, self.FITTED, self.reading(typed)))
            self.assertIs(found is not None, due, typed)
        step = next_step(standing(UNPLUGGED, self.FITTED, self.reading("40k")))
        self.assertEqual(step.act, "Don’t plug it in")

    def test_sound_with_a_plug_pulled_is_not_enough_and_a_leak_counts_however_it_is_read(self):
        for typed, pulled, due in (("OL", ("CN2",), True), ("OL", (), False), ("40k", ("CN2",), True)):
            taken = replace(self.reading(typed, "CN2.5"), pulled=pulled)
            found = insulation_due(standing(UNPLUGGED, self.FITTED, taken))
            self.assertIs(found is not None, due, (typed, pulled))

    def test_only_mains_to_the_chassis_count(self):
        for red, black, counts in (
            ("CN2.5", "earth", True),
            ("earth", "plug.n", True),
            ("CN3.1", "earth", False),
            ("CN2.5", "CN2.6", False),
            ("nowhere", "earth", False),
        ):
            found = insulation_due(standing(UNPLUGGED, self.FITTED, self.reading("OL", red, black)))
            self.assertIs(found is None, counts, (red, black))
