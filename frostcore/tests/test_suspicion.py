"""Where suspicion lies on the unit, and the fringes that show it."""

import math
from unittest import TestCase

from hypothesis import given
from hypothesis import strategies as st

from frostcore.circuit.fringe import LEAST_SHARE, LONGEST, WIRE_HALF, along, around, spans, strokes
from frostcore.circuit.kept import circuits_of
from frostcore.circuit.layout import lay_out_trace
from frostcore.diagnosis.hypotheses import ELSEWHERE, WELL
from frostcore.diagnosis.suspicion import fringes, suspicion_of
from frostcore.tests.test_judgement import DEAD_OUTPUT, E5, GOOD_LOOP, TB, come_to, looked, read


class Suspicion(TestCase):
    def test_it_is_all_of_the_probability_each_at_its_place(self):
        """But for faults of two parts, which lie on both, nothing is lost and nothing counted twice."""
        judgement = come_to(TB, E5, looked("frost", "cover_frozen"))
        found, known, now = suspicion_of(judgement), judgement.weigher.known, judgement.posterior.now
        whole = sum(sum(kept.values()) for kept in (found.wires, found.plugs, found.parts, found.stages))
        twice = sum(float(now[at]) for at, item in enumerate(known.all) if item.fault and item.fault.also)
        named = sum(float(now[at]) for at, item in enumerate(known.all) if item.unit not in {WELL, ELSEWHERE})
        self.assertAlmostEqual(whole + found.apart, named + twice, places=9)

    def test_a_dead_output_with_a_good_loop_lies_on_the_relay_and_melts_off_the_heater(self):
        before = suspicion_of(come_to(TB, E5, looked("frost", "cover_frozen")))
        after = suspicion_of(come_to(TB, E5, looked("frost", "cover_frozen"), DEAD_OUTPUT, GOOD_LOOP))
        self.assertGreater(after.stages["board.k_defrost"], 0.6)
        self.assertLess(after.parts["defrost_heater"], 0.1 * before.parts["defrost_heater"])

    def test_a_broken_wire_lies_on_its_wire(self):
        along_it = read("CN2.5", "CN7.1/board", "ohm", "OL", pulled=("CN2", "CN7"))
        found = suspicion_of(come_to(TB, E5, read("CN2.5", "CN2.6", "ohm", "OL"), along_it))
        self.assertGreater(found.wires["CN2.5-CN7.1"], 0.3)

    def test_what_stands_nowhere_on_the_unit_is_apart(self):
        found = suspicion_of(come_to(TB, looked("settings", "wrong")))
        self.assertGreater(found.apart, suspicion_of(come_to(TB)).apart)


class Fringes(TestCase):
    def picture(self, *, whole=False):
        path = circuits_of(TB).trace("defrost_heater", "defrost")
        return lay_out_trace(TB, path, whole=whole)

    def test_every_place_on_the_picture_that_is_suspect_has_one(self):
        found = suspicion_of(come_to(TB, E5, looked("frost", "cover_frozen"), DEAD_OUTPUT))
        drawn = {fringe.words: fringe for fringe in fringes(self.picture(), found)}
        self.assertEqual(max(drawn.values(), key=lambda each: each.share).words, "defrost relay")
        self.assertIn("Defrost heater", drawn)
        self.assertIn("Thermal fuse", drawn)
        shares = [fringe.share for fringe in fringes(self.picture(whole=True), found)]
        self.assertEqual(shares, sorted(shares, reverse=True))
        self.assertTrue(all(share >= LEAST_SHARE for share in shares))

    def test_there_is_more_of_it_where_more_is_suspected(self):
        little, much = (around(0, 0, 160, 120, share) for share in (0.03, 0.7))
        self.assertGreater(much.count("M"), 1.5 * little.count("M"))
        self.assertGreater(self.longest(much), 2 * self.longest(little))
        self.assertEqual(around(0, 0, 160, 120, 0.005), "")

    def longest(self, path):
        return max(math.dist(*self.ends(stroke)) for stroke in path.split("M")[1:])

    def ends(self, stroke):
        return [tuple(float(number) for number in end.split()) for end in stroke.split("L")]

    def test_a_path_is_its_lines(self):
        self.assertEqual(spans("M1 2H5V9H0"), [(1, 2, 5, 2), (5, 2, 5, 9), (5, 9, 0, 9)])

    @given(st.tuples(*[st.floats(0, 900)] * 2), st.floats(1, 600), st.booleans(), st.floats(LEAST_SHARE, 1))
    def test_strokes_are_square_to_their_line_clear_of_it_and_within_its_ends(
        self, start, length, level, share
    ):
        x, y = start
        span = (x, y, x + length, y) if level else (x, y, x, y + length)
        for from_x, from_y, to_x, to_y in strokes(span, share, both=True, clear=WIRE_HALF):
            across = (to_x - from_x) if level else (to_y - from_y)
            self.assertAlmostEqual(across, 0, places=6)
            away = abs(from_y - y) if level else abs(from_x - x)
            self.assertAlmostEqual(away, WIRE_HALF, places=6)
            self.assertLessEqual(math.dist((from_x, from_y), (to_x, to_y)), LONGEST + 1e-9)
            at = (from_x - x) if level else (from_y - y)
            self.assertTrue(0 <= at <= length)

    def test_a_wire_has_it_on_both_sides(self):
        ends = [self.ends(stroke) for stroke in along("M0 50H200", 0.4).split("M")[1:]]
        self.assertEqual({to[1] > 50 for _, to in ends}, {True, False})
