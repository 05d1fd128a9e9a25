from unittest import TestCase

from hypothesis import given
from hypothesis import strategies as st

from frostcore.errors import FrostError
from frostcore.parts.potentiometer import HIGH, WIDE, Against, draw_sweep, judge_potentiometer
from frostcore.parts.thermostat import ContactKind, Rating, agreed, judge_contact, judge_stamp, read_stamp
from frostcore.quantity import Dimension, parse


def ohms(*typed):
    return [parse(text, Dimension.RESISTANCE) for text in typed]


class Potentiometers(TestCase):
    def judge(self, ends="9k8", stops=("12", "30"), sweep=("100", "2k5", "5k", "7k4", "9k7"), against=""):
        return judge_potentiometer(10000, *ohms(ends), ohms(*stops), ohms(*sweep), against=Against(against))

    def test_which_end_a_stop_was_read_against_is_asked(self):
        """Against one end a good one reads nothing at one stop and its whole track at the other."""
        for stops, against, verdict, asked in (
            (("12", "9k8"), "", "in_band", "against the same end"),
            (("12", "9k8"), "same", "in_band", ""),
            (("9k7", "9k8"), "", "in_band", "on the far end"),
            (("12", "30"), "", "in_band", ""),
            (("12", "9k8"), "nearer", "in_band", ""),
            (("12", "5k"), "", "high", ""),
        ):
            found = self.judge(stops=stops, against=against)
            self.assertEqual(found.verdict, verdict, (stops, against))
            self.assertEqual(bool(found.questions), bool(asked), (stops, against))
            if asked:
                self.assertIn(asked, found.questions[0].text)
        nearer = self.judge(stops=("12", "9k8"), against="nearer")
        self.assertEqual([verdict for name, verdict, _ in nearer.parts if name == "stop_2"], ["unclear"])
        self.assertIn("lead is on the other end", nearer.reason)

    def test_a_good_one_is_in_band_in_every_part(self):
        self.assertEqual({verdict for _, verdict, _ in self.judge().parts}, {"in_band"})
        self.assertEqual(self.judge().verdict, "in_band")

    def test_each_fault_is_named_where_it_is(self):
        cases = [
            ({"ends": "OL"}, "open", "track is broken"),
            ({"ends": "14k"}, "high", "End to end"),
            ({"ends": "3"}, "short", "shorted"),
            ({"stops": ("900",)}, "high", "Stop 1"),
            ({"stops": ("12", "30"), "against": "same"}, "low", "does not travel"),
            ({"stops": ("9k8", "9k7"), "against": "same"}, "high", "does not travel"),
            ({"sweep": ("100", "2k5", "OL", "7k4", "9k7")}, "open", "place 3 of 5"),
            ({"sweep": ("100", "2k5", "1k2", "7k4", "9k7")}, "low", "Between places 2 and 3"),
            ({"sweep": ("100", "2k5", "5k", "9k6", "9k7")}, "high", "jumps by 4.60 kΩ"),
            ({"sweep": ("100", "2k5", "15k", "15k1")}, "high", "more than the whole track"),
        ]
        for change, verdict, words in cases:
            with self.subTest(words):
                found = self.judge(**change)
                self.assertEqual(found.verdict, verdict)
                self.assertIn(words, found.reason)

    def test_turned_the_other_way_it_is_as_good(self):
        self.assertEqual(self.judge(sweep=("9k7", "7k4", "5k", "2k5", "100")).verdict, "in_band")

    def test_without_a_sweep_nothing_is_proven(self):
        self.assertEqual(self.judge(sweep=()).verdict, "unclear")

    def test_a_nominal_of_nothing_is_refused(self):
        with self.assertRaises(FrostError):
            judge_potentiometer(0, *ohms("1k"), [], [])


class Sweeps(TestCase):
    """A sweep as a picture."""

    def test_a_smooth_one_lies_in_its_band_and_nothing_is_odd(self):
        drawn = draw_sweep(ohms("100", "2k5", "5k", "7k4", "9k7"), ohms("9k8")[0])
        self.assertFalse(any(dot.odd for dot in drawn.dots))
        self.assertTrue(all(0 < dot.x < WIDE and 0 < dot.y < HIGH for dot in drawn.dots))
        self.assertEqual([dot.x for dot in drawn.dots], sorted(dot.x for dot in drawn.dots))
        self.assertEqual([dot.y for dot in drawn.dots], sorted((dot.y for dot in drawn.dots), reverse=True))
        self.assertEqual(drawn.line.count("M"), 1)

    def test_what_the_verdict_names_is_marked_where_it_is(self):
        for sweep, odd in (
            (("100", "2k5", "1k2", "7k", "9k7"), {2, 3}),  # goes back, and jumps after it
            (("100", "2k5", "OL", "7k", "9k7"), {2}),
            (("100", "2k5", "5k", "14k", "9k7"), {3, 4}),  # lifts off, and comes back
            (("100", "300", "500", "9k", "9k7"), {3}),
        ):
            drawn = draw_sweep(ohms(*sweep), ohms("9k8")[0])
            self.assertEqual({place for place, dot in enumerate(drawn.dots) if dot.odd}, odd, sweep)

    def test_the_line_is_parted_where_the_wiper_is_open(self):
        drawn = draw_sweep(ohms("100", "2k5", "OL", "7k", "9k7"), ohms("9k8")[0])
        self.assertEqual(drawn.line.count("M"), 2)
        self.assertIn("OL", drawn.summary)

    def test_nothing_to_draw_is_said(self):
        for sweep, whole in ((("100",), "9k8"), (("100", "200"), "OL")):
            with self.assertRaises(FrostError):
                draw_sweep(ohms(*sweep), ohms(whole)[0])


class Contacts(TestCase):
    def judge(self, kind, celsius, reading, rating=None):
        return judge_contact(ContactKind(kind), rating or Rating(13, 18, "°C"), celsius, *ohms(reading))

    def test_a_warm_bimetal_that_reads_open_is_not_judged(self):
        found = self.judge("bimetal", 21, "OL")
        self.assertEqual((found.verdict, found.can_judge), ("unclear", False))
        self.assertIn("not a fault", found.reason)

    def test_a_cold_one_must_be_closed_and_a_warm_one_must_not(self):
        self.assertEqual(self.judge("bimetal", -18, "0.2").verdict, "in_band")
        self.assertEqual(self.judge("bimetal", -18, "OL").verdict, "open")
        self.assertEqual(self.judge("bimetal", 25, "0.2").verdict, "short")

    @given(st.floats(-4, 12), st.sampled_from(["0.2", "OL"]))
    def test_between_its_two_temperatures_neither_proves_anything(self, celsius, reading):
        self.assertEqual(self.judge("bimetal", celsius, reading).verdict, "unclear")

    def test_a_thermostat_is_the_other_way_round(self):
        rating = Rating(-24, 8, "°C")
        self.assertEqual(self.judge("thermostat", 20, "0.1", rating).verdict, "in_band")
        self.assertEqual(self.judge("thermostat", 20, "OL", rating).verdict, "open")
        self.assertEqual(self.judge("thermostat", -30, "0.1", rating).verdict, "short")

    def test_a_thermal_fuse_never_resets_whatever_the_temperature(self):
        for celsius in (-20, 20, 60):
            self.assertEqual(self.judge("thermal_fuse", celsius, "OL", Rating(72, 0, "°C")).verdict, "open")
        self.assertEqual(self.judge("thermal_fuse", 20, "0.1", Rating(72, 0, "°C")).verdict, "in_band")

    def test_a_resistance_in_a_contact_is_neither(self):
        self.assertEqual(self.judge("bimetal", -18, "40").verdict, "high")

    def test_an_unmarked_stamp_is_read_both_ways_and_judged_only_where_they_agree(self):
        found = self.stamped("25", "10", 20, "OL")
        self.assertEqual(
            [(item.rating.unit, item.verdict) for item in found], [("°C", "unclear"), ("°F", "unclear")]
        )
        self.assertEqual((found[0].expected, found[1].expected), ("either", "open"))
        self.assertAlmostEqual(found[1].opens_celsius, -3.8889, places=4)
        self.assertAlmostEqual(found[1].closes_celsius, -9.4444, places=4)
        self.assertEqual(agreed(self.stamped("55", "30", -30, "OL")), "open")

    def stamped(self, opens, differential, celsius, reading):
        return judge_stamp(ContactKind.BIMETAL, read_stamp(opens, differential), celsius, *ohms(reading))

    def test_a_stamp_no_defrost_bimetal_has_is_said_to_be_implausible_and_does_not_vote(self):
        found = self.stamped("55", "30", 20, "OL")
        self.assertEqual(
            [(item.rating.unit, bool(item.implausible)) for item in found], [("°F", False), ("°C", True)]
        )
        self.assertIn("it would open at 55", found[1].implausible)
        self.assertEqual(found[1].questions[0].kind, "stamp")
        # Judged by what it says, a part that opens at 55 °C would be condemned for standing open at 20 °C.
        self.assertEqual((found[1].verdict, agreed(found)), ("open", "unclear"))
        self.assertEqual(agreed(self.stamped("80C", "", 20, "OL")), "unclear")

    def test_a_stamp_of_two_numbers_is_read_both_ways(self):
        found = self.stamped("60-40", "", -30, "0.2")
        closes = {item.rating.named: round(item.closes_celsius, 1) for item in found}
        self.assertEqual(
            closes,
            {
                "°F, 40 the differential": -6.7,
                "°F, closes at 40": 4.4,
                "°C, 40 the differential": 20.0,
                "°C, closes at 40": 40.0,
            },
        )
        self.assertEqual(agreed(found), "in_band")
        # Closed at 0 °C by one way to read it, either by the other.
        self.assertEqual(
            [item.expected for item in self.stamped("L60-40F", "", 0, "0.2")], ["either", "closed"]
        )
        self.assertEqual(
            [item.rating.named for item in self.stamped("40-60F", "", 0, "OL")], ["°F, 60 the differential"]
        )

    def test_a_stamp_that_cannot_be_read_says_what_to_type(self):
        for opens, differential, words in (
            ("warm", "", "60-40 or just 13"),
            ("60-40", "18", "differential stands apart as well"),
            ("13C", "18F", "different units"),
        ):
            with self.subTest(opens), self.assertRaisesRegex(FrostError, words):
                read_stamp(opens, differential)
