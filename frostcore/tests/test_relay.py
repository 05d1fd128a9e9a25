"""A board's relay: coil, drive, contact."""

from unittest import TestCase

from frostcore.errors import FrostError
from frostcore.parts.relay import Relay, judge_coil, judge_contact, judge_pull
from frostcore.quantity import Dimension, parse
from frostcore.verdict import Verdict

COIL = Relay(12.0, 360.0)


def ohms(text):
    return parse(text, Dimension.RESISTANCE)


class Coil(TestCase):
    def test_just_inside_and_just_outside(self):
        for text, verdict in (
            ("325", Verdict.IN_BAND),
            ("323", Verdict.LOW),
            ("395", Verdict.IN_BAND),
            ("397", Verdict.HIGH),
            ("35", Verdict.SHORT),
            ("OL", Verdict.OPEN),
        ):
            self.assertIs(judge_coil(COIL, ohms(text)).verdict, verdict, text)

    def test_copper_grows_with_warmth(self):
        # 360 Ω at 20 °C are 416 Ω at 60 °C.
        self.assertAlmostEqual(COIL.at(60.0), 416.16)
        self.assertIs(judge_coil(COIL, ohms("420"), 60.0).verdict, Verdict.IN_BAND)
        self.assertIs(judge_coil(COIL, ohms("420")).verdict, Verdict.HIGH)


class Drive(TestCase):
    def test_what_the_volts_do(self):
        for volts, verdict, told in (
            (12.0, Verdict.IN_BAND, "it must pull in"),
            (9.0, Verdict.IN_BAND, "it must pull in"),
            (8.6, Verdict.LOW, "hold, not to pull in"),
            (2.0, Verdict.LOW, "too much for off"),
            (0.1, Verdict.LOW, "not driven"),
            (15.0, Verdict.HIGH, "it must pull in"),
        ):
            found = judge_pull(COIL, volts)
            self.assertIs(found.verdict, verdict, volts)
            self.assertIn(told, found.reason)

    def test_a_warm_coil_wants_more(self):
        self.assertIs(judge_pull(COIL, 9.5).verdict, Verdict.IN_BAND)
        self.assertIs(judge_pull(COIL, 9.5, 60.0).verdict, Verdict.LOW)


class Contact(TestCase):
    def test_millivolts_by_amperes(self):
        for volts, amperes, verdict in (
            (0.09, 1.0, Verdict.IN_BAND),
            (0.11, 1.0, Verdict.HIGH),
            (0.11, 2.0, Verdict.IN_BAND),
            (230.0, 1.0, Verdict.OPEN),
        ):
            self.assertIs(judge_contact(volts, amperes).verdict, verdict, (volts, amperes))
        self.assertIn("On its way", judge_contact(0.06, 1.0).reason)

    def test_nonsense_is_refused(self):
        for act in (
            lambda: judge_contact(0.1, 0.001),
            lambda: judge_contact(-0.1, 1.0),
            lambda: Relay(0.1, 360.0),
            lambda: Relay(12.0, 0.1),
            lambda: judge_coil(COIL, ohms("360"), 900.0),
        ):
            with self.assertRaises(FrostError):
                act()
