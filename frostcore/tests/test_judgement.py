"""The judgement: exact on small problems, the same whatever the order, outlived, explained; and its jobs."""

import math
from fractions import Fraction
from types import SimpleNamespace
from unittest import TestCase

import numpy as np
from hypothesis import given, settings
from hypothesis import strategies as st

from frostcore.circuit.meter import MeterRange
from frostcore.diagnosis.acts import document, instruction
from frostcore.diagnosis.belief import Belief, information
from frostcore.diagnosis.evidence import Looked, evidence_of
from frostcore.diagnosis.judge import NAMED, judge
from frostcore.diagnosis.likelihood import SLIP
from frostcore.diagnosis.optimum import (
    Problem,
    bits,
    by_rate,
    drawn,
    expected_minutes,
    least_minutes,
    two_ahead,
)
from frostcore.diagnosis.probes import Probe
from frostcore.diagnosis.readings import probe_of, readings_of
from frostcore.diagnosis.rehearse import rehearse
from frostcore.diagnosis.rehearse_pairs import rehearse_pairs
from frostcore.diagnosis.state import state_of, to_open
from frostcore.diagnosis.weigh import weigher_of
from frostcore.faults.table import Setup
from frostcore.tests.demo_sheets import SHEETS, demo_sheet
from frostcore.tests.walking import answerer

TB = demo_sheet("Tarnbeck TB-34")


def looked(look, answer):
    return {"act": "look", "look": look, "answer": answer}


def read(red, black, meter, value, mode="off_cold", pulled=()):
    told = {"act": "read", "red": red, "black": black, "range": meter, "mode": mode, "value": value}
    return told | ({"pulled": list(pulled)} if pulled else {})


def come_to(sheet, *entries, strike=None):
    readings_of(sheet).prepare()
    return judge(sheet, evidence_of(sheet, list(entries)), strike)


def chance(judgement, unit):
    return next((each.probability for each in judgement.suspects if each.unit == unit), 0.0)


E5 = {"act": "code", "shown": "E5"}
DEAD_OUTPUT = read("CN2.5", "CN2.6", "vac", "0.4", "defrost")
GOOD_LOOP = read("CN2.5", "CN2.6", "ohm", "239")


class Exactly(TestCase):
    @settings(max_examples=40, deadline=None)
    @given(
        st.lists(st.integers(1, 9), min_size=3, max_size=8),
        st.lists(st.integers(0, 3), min_size=8, max_size=8),
        st.lists(st.integers(0, 2), min_size=8, max_size=8),
    )
    def test_bits_against_enumeration_in_fractions(self, weights, classes, units):
        """Hypotheses with weights, one test whose outcome each foretells, a repair unit for each."""
        count = len(weights)
        prior = [Fraction(weight, sum(weights)) for weight in weights]
        known = SimpleNamespace(
            unit=np.array(units[:count]),
            units=("a", "b", "c"),
            comes_and_goes=np.zeros(count, bool),
        )
        posterior = SimpleNamespace(
            weigher=SimpleNamespace(known=known),
            by_draw=np.array([[float(each) for each in prior]]),
            fitted=(),
        )
        belief = Belief.of(posterior)
        outcomes = 4
        found = belief.of_classes(
            np.array([[classes[:count]]], np.int8), np.array([outcomes]), np.zeros((1, len(weights)), bool)
        )[0]
        slip = Fraction(SLIP).limit_denominator(1000)
        joint, unit_mass = {}, {}
        for place, mass in enumerate(prior):
            unit = units[place]
            unit_mass[unit] = unit_mass.get(unit, 0) + mass
            for outcome in range(outcomes):
                share = (1 - slip) * (outcome == classes[place]) + slip / outcomes
                joint[outcome, unit] = joint.get((outcome, unit), 0) + mass * share
        seen = {outcome: sum(v for (o, _), v in joint.items() if o == outcome) for outcome in range(outcomes)}
        bits = sum(
            float(mass) * math.log2(float(mass / (seen[outcome] * unit_mass[unit])))
            for (outcome, unit), mass in joint.items()
            if mass
        )
        self.assertAlmostEqual(found, bits, places=9)

    @settings(max_examples=60, deadline=None)
    @given(st.lists(st.lists(st.floats(0, 1), min_size=4, max_size=4), min_size=2, max_size=5))
    def test_information_is_neither_negative_nor_above_the_entropy(self, rows):
        joint = np.array(rows) + 1e-9
        joint /= joint.sum()
        units = joint.sum(axis=0)
        bits = float(information(joint[None], units)[0])
        entropy = float(-(units * np.log2(units)).sum())
        self.assertTrue(-1e-9 <= bits <= entropy + 1e-9)


class Evidence(TestCase):
    ENTRIES = (E5, looked("frost", "cover_frozen"), DEAD_OUTPUT, GOOD_LOOP)

    def test_the_order_of_entries_does_not_matter(self):
        one = come_to(TB, *self.ENTRIES).posterior.chances
        other = come_to(TB, *reversed(self.ENTRIES)).posterior.chances
        np.testing.assert_allclose(one, other, atol=1e-12)

    def test_a_struck_entry_is_one_never_made(self):
        for number in range(len(self.ENTRIES)):
            without = [entry for place, entry in enumerate(self.ENTRIES) if place != number]
            struck = come_to(TB, *self.ENTRIES, strike=number).posterior.chances
            np.testing.assert_allclose(struck, come_to(TB, *without).posterior.chances, atol=1e-12)

    def test_a_repeat_counts_once_and_the_newest_counts(self):
        once = come_to(TB, *self.ENTRIES).posterior.chances
        again = come_to(TB, *self.ENTRIES, GOOD_LOOP).posterior.chances
        np.testing.assert_allclose(once, again, atol=1e-12)
        outlived = come_to(TB, read("CN2.5", "CN2.6", "ohm", "OL"), *self.ENTRIES).posterior.chances
        np.testing.assert_allclose(once, outlived, atol=1e-12)

    def test_bits_are_what_striking_takes_away(self):
        found = come_to(TB, *self.ENTRIES)
        board = next(each for each in found.suspects if each.unit == "board")
        for number, moved in found.bits(board).items():
            without = chance(come_to(TB, *self.ENTRIES, strike=number), "board")
            odds = [math.log2(each / (1 - each)) for each in (board.probability, without)]
            self.assertAlmostEqual(moved, odds[0] - odds[1], places=6)

    def test_no_evidence_is_the_prior(self):
        found = come_to(TB)
        np.testing.assert_allclose(found.posterior.chances, weigher_of(TB).prior, atol=1e-9)
        self.assertIsNone(found.named)

    def test_with_mains_low_all_mains_readings_err_together(self):
        """204 V at an output reads low of 230 V, and right where the outlet gives 205 V."""
        entries = (read("CN2.5", "CN2.6", "vac", "204", "defrost"),)
        blind, told = come_to(TB, *entries), come_to(TB, {"act": "mains", "volts": 205}, *entries)
        sound = (weigher_of(TB).known.place["well"],)
        self.assertGreater(told.posterior.chances[sound], blind.posterior.chances[sound])

    def test_a_part_fitted_and_the_reading_good_again_ends_the_accusation(self):
        before = (E5, looked("frost", "cover_frozen"), read("CN2.5", "CN2.6", "ohm", "OL"))
        part = read("defrost_heater.1", "defrost_heater.2", "ohm", "OL")
        found = come_to(TB, *before, part)
        self.assertGreater(chance(found, "defrost_heater"), 0.9)
        fitted = {"act": "fit", "component": "defrost_heater"}
        after = come_to(TB, *before, part, fitted, GOOD_LOOP, read("CN2.5", "CN2.6", "vac", "229", "defrost"))
        self.assertLess(chance(after, "defrost_heater"), 0.01)
        self.assertGreater(chance(after, "well"), 0.8)

    def test_a_part_fitted_that_did_not_help_was_not_the_fault(self):
        told = {"act": "fit", "component": "board", "helped": "no", "before": True}
        self.assertLess(chance(come_to(TB, E5, told), "board"), 0.3 * chance(come_to(TB, E5), "board"))

    def test_what_fits_nothing_is_read_again_and_the_neighbour_told(self):
        found = come_to(TB, E5, looked("frost", "cover_frozen"), read("CN2.5", "CN2.6", "ohm", "61"))
        self.assertIsNotNone(found.doubt)
        self.assertEqual(found.doubt.entry, 2)
        self.assertIsNone(come_to(TB, E5, GOOD_LOOP).doubt)


class Naming(TestCase):
    def test_a_dead_output_and_then_a_good_loop_accuse_the_board_and_nothing_is_opened(self):
        opened = {"act": "open", "place": "board_bay"}
        dead = come_to(TB, E5, looked("frost", "cover_frozen"), opened, DEAD_OUTPUT)
        found = come_to(TB, E5, looked("frost", "cover_frozen"), opened, DEAD_OUTPUT, GOOD_LOOP)
        self.assertGreater(chance(found, "board"), chance(dead, "board"))
        self.assertEqual(found.suspects[0].unit, "board")
        evidence, steps, unit = list(found.evidence), 0, answerer(TB, "board:stuck_open:k_defrost")
        while found.next and steps < 6:
            probe = found.next.test
            if isinstance(probe, Probe):
                self.assertNotIn("evaporator", to_open(TB, found.state, probe))
            evidence.append(unit.answer(probe))
            found, steps = judge(TB, evidence), steps + 1
        self.assertEqual(found.named.unit, "board")
        self.assertGreaterEqual(found.named.probability, NAMED)

    def test_three_good_resistances_do_not_name_a_seized_fan(self):
        entries = [
            read(*pair, "ohm", value, pulled=(pair[0].split(".")[0],))
            for pair, value in (
                (("CN3.1", "CN3.2"), "9k4"),
                (("CN2.5", "CN2.6"), "239"),
                (("CN2.1", "CN2.2"), "12"),
            )
        ]
        found = come_to(TB, looked("evaporator_fan", "still"), *entries)
        self.assertIsNone(found.named)

    def test_a_still_fan_goes_to_that_fan(self):
        found = come_to(
            TB, looked("evaporator_fan", "still"), looked("vent_air", "none"), looked("display", "normal")
        )
        self.assertEqual(found.suspects[0].unit, "evaporator_fan")

    def test_a_dead_display_goes_to_what_feeds_it(self):
        dead = come_to(
            TB,
            looked("display", "dead"),
            looked("compressor", "still_cold"),
            looked("evaporator_fan", "still"),
        )
        feeding = {"board", "board_fuse", "plug"} | {
            each.unit for each in dead.suspects if "CN1" in each.unit
        }
        self.assertGreater(sum(each.probability for each in dead.suspects if each.unit in feeding), 0.7)

    def test_a_blocked_condenser_goes_to_cleaning(self):
        found = come_to(
            demo_sheet("Skerrow SK-48"),
            looked("condenser_dust", "blocked"),
            looked("frame_loop", "hot"),
            looked("condenser_fan", "runs"),
            looked("evaporator_fan", "runs"),
            looked("compressor", "runs_hot"),
            looked("display", "normal"),
            {"act": "temperature", "place": "cabinet", "celsius": 17},
        )
        self.assertEqual(found.suspects[0].unit, "unit:condenser_dirty")

    def test_an_intermittent_joint_is_found_by_moving_it(self):
        still = come_to(TB, looked("compressor", "still_cold"), looked("display", "normal"))
        moved = {
            "act": "move",
            "red": "CN2.1",
            "black": "CN2.2",
            "range": "ohm",
            "mode": "off_cold",
            "changes": True,
        }
        found = come_to(TB, looked("compressor", "still_cold"), looked("display", "normal"), moved)

        def loose(judgement):
            known = judgement.weigher.known
            return float(judgement.posterior.chances[known.comes_and_goes].sum())

        self.assertGreater(loose(found), 0.6)
        self.assertGreater(loose(found), 4 * loose(still))

    def test_what_is_named_has_something_that_speaks_for_it(self):
        """Rehearsed: nothing is named by absence alone, and no name is far from the truth."""
        known = weigher_of(TB).known
        places = [
            known.place[name]
            for name in (
                "defrost_heater:open",
                "thermal_fuse:open",
                "evaporator_fan:open",
                "board:stuck_open:k_defrost",
                "harness:open:CN2.5-CN7.1",
                "freezer_sensor:open",
                "start_ptc:open",
                "display:open",
            )
        ]
        found = rehearse(TB, places)
        self.assertEqual([each.fault for each in found.ended if each.sure_and_wrong], [])
        self.assertGreaterEqual(found.share(lambda each: each.right), 7 / 8, found.ended)


class Planning(TestCase):
    def test_what_is_done_or_can_t_be_is_not_asked_for(self):
        entries, asked = [E5], set()
        for _ in range(6):
            test = come_to(TB, *entries).next.test
            self.assertNotIn(test, asked)
            asked.add(test)
            of = document(TB, test)
            entries.append({"act": "cannot", "of": of, "why": "no access"})
        self.assertGreater(len(asked), 4)

    def test_the_words_say_what_is_to_be_opened_and_never_that_it_is_nothing(self):
        found = come_to(TB, E5, looked("frost", "cover_frozen"))
        probe = Probe(
            next(each.test.setup for each in found.proposals if isinstance(each.test, Probe)),
            "CN2.5",
            "CN2.6",
        )
        words = instruction(TB, found.state, probe)
        self.assertTrue(any("Open: " in line for line in words.how), words)
        opened = state_of(TB, evidence_of(TB, [{"act": "open", "place": "board_bay"}]))
        self.assertFalse(any("Open: " in line for line in instruction(TB, opened, probe).how))

    def test_minutes_fall_once_the_place_is_open(self):
        shut, opened = come_to(TB, E5), come_to(TB, E5, {"act": "open", "place": "board_bay"})

        def minutes(judgement):
            return {each.test: each.minutes for each in judgement.proposals if isinstance(each.test, Probe)}

        both = set(minutes(shut)) & set(minutes(opened))
        self.assertTrue(both)
        self.assertTrue(all(minutes(opened)[test] < minutes(shut)[test] for test in both))

    def test_each_outcome_says_what_it_would_leave(self):
        found = come_to(TB, E5, looked("frost", "cover_frozen"))
        outcomes = found.outcomes(found.next)
        self.assertAlmostEqual(sum(each.chance for each in outcomes), 1, delta=0.05)
        self.assertTrue(all(each.leaves for each in outcomes))

    def test_every_demo_unit_has_a_first_act(self):
        for sheet in SHEETS:
            readings_of(sheet).prepare(0)
            self.assertIsNotNone(judge(sheet, ()).next, sheet.title)


class Optimal(TestCase):
    """The planner's rule against small problems solved exactly."""

    def test_no_way_of_choosing_is_better_than_the_optimum(self):
        chance = np.random.default_rng(5)
        ways = (by_rate, two_ahead, lambda problem, left: problem.useful(left)[0])
        sums, least = [0.0] * len(ways), 0.0
        for _ in range(25):
            problem = drawn(chance)
            best = least_minutes(problem)
            least += best
            for at, way in enumerate(ways):
                minutes = expected_minutes(problem, way)
                self.assertGreaterEqual(minutes, best - 1e-9)
                sums[at] += minutes
        self.assertLess(sums[0], 1.1 * least)
        self.assertLess(sums[1], sums[0])
        self.assertGreater(sums[2], 1.2 * least)

    def test_the_optimum_of_a_problem_done_by_hand(self):
        """Three units alike, a test of one minute that finds the first, one of two that parts all: two
        minutes at once, or one and then two in two cases of three."""
        thirds = (1 / 3, 1 / 3, 1 / 3)
        problem = Problem(thirds, (0, 1, 2), ((1, 0, 0), (0, 1, 2)), (1.0, 2.0))
        self.assertAlmostEqual(least_minutes(problem), 2.0)
        self.assertAlmostEqual(
            expected_minutes(problem, lambda _, left: 0 if len(left) > 2 else 1), 1 + 4 / 3
        )
        self.assertAlmostEqual(bits(problem, 1, (0, 1, 2)), math.log2(3))

    def test_two_steps_ahead_propose_the_same_tests_in_another_order(self):
        found = come_to(TB, E5)
        ahead = found.planner.two_steps(found.posterior, found.state, found.evidence)
        self.assertEqual({each.test for each in ahead[:5]}, {each.test for each in found.proposals[:5]})
        self.assertEqual(sorted(ahead[:5], key=lambda each: -each.rate), list(ahead[:5]))


class Pairs(TestCase):
    def test_two_faults_are_found_in_turn_and_one_is_not_followed_by_another(self):
        found = rehearse_pairs(TB, 6, seed=4)
        self.assertEqual(len(found.both), 6)
        self.assertGreaterEqual(found.in_turn, 4 / 6)
        self.assertEqual(found.needless, 0)
        for each in found.both:
            self.assertNotEqual(*each.faults)

    def test_a_pair_shows_what_each_of_the_two_does(self):
        weigher = weigher_of(TB)
        both = answerer(TB, "fridge_lamp:open", "evaporator_fan:seized")
        seen = both.answer(Looked("evaporator_fan", ""))
        self.assertEqual(seen.answer, "still")
        lamp = probe_of(TB, Setup("off_cold", MeterRange.OHM), "CN2.5", "CN2.6")
        alone = answerer(TB, "defrost_heater:open").answer(lamp).value
        other = answerer(TB, "fridge_lamp:open", "defrost_heater:open").answer(lamp).value
        self.assertEqual(alone.state, other.state)
        shares = weigher.behaviour.watts["defrost"]
        self.assertGreater(shares[0], 100)


class RuledOut(TestCase):
    def test_what_was_suspected_is_told_with_what_ended_it(self):
        entries = (E5, looked("frost", "cover_frozen"), DEAD_OUTPUT, GOOD_LOOP)
        found = dict(come_to(TB, *entries).ruled_out)
        self.assertIn("defrost_heater", found)
        self.assertEqual(found["defrost_heater"], 3)
        self.assertNotIn("board", found)
        self.assertEqual(come_to(TB).ruled_out, ())
