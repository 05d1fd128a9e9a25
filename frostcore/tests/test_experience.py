"""What closed calls teach: by how much, and never too much."""

from datetime import UTC, datetime, timedelta
from types import SimpleNamespace
from unittest import TestCase

from hypothesis import given
from hypothesis import strategies as st

from frostcore.diagnosis.evidence import evidence_of
from frostcore.diagnosis.experience import CORRECTS, STRENGTH, counting, factors
from frostcore.diagnosis.judge import judge
from frostcore.tests.demo_sheets import demo_sheet

TB = demo_sheet("Tarnbeck TB-34")


class Counting(TestCase):
    def test_a_cause_corrected_within_ninety_days_does_not_count_and_an_unknown_unit_corrects_none(self):
        day = datetime(2026, 11, 2, tzinfo=UTC)
        late, near, far = day, day - CORRECTS, day - 2 * CORRECTS - timedelta(seconds=1)
        rows = [("A", late), ("", late), ("A", near), ("", near), ("B", near), ("A", far)]
        causes = [SimpleNamespace(serial=serial, closed_at=at) for serial, at in rows]
        kept = [(each.serial, each.closed_at) for each in counting(causes)]
        self.assertEqual(kept, [("A", late), ("", late), ("", near), ("B", near), ("A", far)])


class Factors(TestCase):
    def test_by_hand(self):
        """The catalogue's 40 calls, 4 of them fans; ten of ours, all fans: 14 of 50."""
        found = factors({"fan": 0.1, "heater": 0.9}, {"fan": 10})
        self.assertAlmostEqual(found["fan"] * 0.1, 14 / 50)
        self.assertAlmostEqual(found["heater"] * 0.9, 36 / 50)

    @given(
        st.dictionaries(st.sampled_from("abcdef"), st.floats(0.01, 1), min_size=1),
        st.dictionaries(st.sampled_from("abcdefgh"), st.integers(0, 500)),
    )
    def test_what_was_likely_in_all_stays_so_and_counts_decide_in_the_long_run(self, weights, counts):
        whole = sum(weights.values())
        prior = {kind: weight / whole for kind, weight in weights.items()}
        found = factors(prior, counts)
        self.assertAlmostEqual(sum(found[kind] * share for kind, share in prior.items()), 1.0)
        many = factors(prior, {kind: 10**7 * (kind == min(prior)) for kind in prior})
        self.assertAlmostEqual(many[min(prior)] * prior[min(prior)], 1.0, places=4)

    def test_ten_calls_cant_drown_the_catalogue(self):
        for share in (0.01, 0.1, 0.5):
            found = factors({"fan": share, "rest": 1 - share}, {"rest": 10})
            self.assertGreaterEqual(found["fan"], STRENGTH / (STRENGTH + 10))


class Judged(TestCase):
    E5 = ({"act": "code", "shown": "E5"},)

    def chance(self, counts, part):
        entries = [*self.E5, *([{"act": "experience", "counts": counts}] if counts else [])]
        found = judge(TB, evidence_of(TB, entries))
        units = found.weigher.known.units
        return float(found.posterior.units[units.index(part)])

    def test_what_was_often_the_cause_is_likelier_and_the_rest_less(self):
        for part, kind in (("defrost_heater", "heater"), ("bimetal", "bimetal")):
            self.assertGreater(self.chance({kind: 10}, part), self.chance({}, part))
        self.assertLess(self.chance({"bimetal": 10}, "defrost_heater"), self.chance({}, "defrost_heater"))

    def test_counts_of_what_this_unit_has_not_change_nothing(self):
        self.assertAlmostEqual(self.chance({"module": 500}, "bimetal"), self.chance({}, "bimetal"))

    def test_a_sound_unit_stays_as_likely_before_anything_is_known(self):
        for counts in ({"fan_dc": 30}, {"heater": 3, "board": 9}):
            found = judge(TB, evidence_of(TB, [{"act": "experience", "counts": counts}]))
            self.assertAlmostEqual(float(found.posterior.now[0]), float(found.weigher.prior[0]), places=9)
