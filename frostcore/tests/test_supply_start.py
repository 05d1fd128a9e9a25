"""How a supply starts, hiccups, and resets in rhythm: by hand, and against an independent integration."""

import math
from dataclasses import replace
from unittest import TestCase

import numpy as np
from scipy.integrate import solve_ivp

from frostcore.supply.rhythm import Spare, by_degree, crest, slope, with_relay
from frostcore.supply.start import Own, hiccup

OWN = Own(16.0, 9.0, 22e-6, 1.0, 470e3, 60e-6, 3e-3)
SPARE = Spare(230.0, 50.0, 680e-9, 24.0, 470e-6, 0.0175, 1440.0)


class Starting(TestCase):
    def test_by_hand(self):
        # (322 − 12.5)/470 kΩ = 0.659 mA; 22 µF × 7 V = 154 µC: 66 ms at 3 − 0.659 mA, 234 ms at 0.659 mA.
        found = hiccup(OWN, 322.0)
        self.assertAlmostEqual(OWN.brings(322.0), 0.6585e-3, delta=1e-6)
        self.assertAlmostEqual(found.on_seconds, 0.0658, delta=2e-4)
        self.assertAlmostEqual(found.off_seconds, 0.2339, delta=5e-4)
        self.assertAlmostEqual(found.duty, 0.2195, delta=5e-4)

    def test_it_charges_only_where_more_arrives_than_the_controller_takes(self):
        # 60 µA at 322 V: 306/60 µA = 5.1 MΩ.
        self.assertTrue(replace(OWN, start_ohms=5.0e6).charges(322.0))
        self.assertFalse(replace(OWN, start_ohms=5.2e6).charges(322.0))

    def test_a_dry_capacitor_does_not_last(self):
        # 22 µF × (7 − 0.15)/3 mA = 50 ms.
        self.assertTrue(OWN.lasts(0.050))
        self.assertFalse(OWN.lasts(0.051))
        self.assertFalse(replace(OWN, esr_ohms=50.0).lasts(0.001))

    def test_no_rhythm_from_nothing_nor_where_the_resistor_feeds_it_alone(self):
        self.assertIsNone(hiccup(OWN, 5.0))
        self.assertIsNone(hiccup(replace(OWN, start_ohms=50e3), 322.0))

    def test_a_series_capacitors_amperes(self):
        # 4 · 50 · 0.68 µF · (325.3 − 24 − 1.4) = 40.8 mA; half waves 50 · 0.68 µF · (650.5 − 25.4) = 21.3 mA.
        for half, amperes in ((False, 40.8e-3), (True, 21.25e-3)):
            found = slope(680e-9, 50, half=half) * (crest(230, 1.4, half=half) - 24)
            self.assertAlmostEqual(found, amperes, delta=1e-4)


class Rhythms(TestCase):
    def test_a_good_capacitor_holds_its_rail_and_a_worn_one_does_by_degree(self):
        self.assertEqual(with_relay(SPARE).volts, 24.0)
        self.assertTrue(with_relay(SPARE).pulls)
        degrees = by_degree(SPARE)
        self.assertLess(degrees.resets_below, degrees.silent_below)
        at = replace(SPARE, farads=SPARE.farads * degrees.resets_below)
        above = replace(SPARE, farads=SPARE.farads * (degrees.resets_below + 0.01))
        self.assertIsNotNone(with_relay(at).every)
        self.assertIsNone(with_relay(above).every)

    def test_the_limit_by_hand(self):
        # The rail stands at its reset where a (P − 6.2) = 17.5 mA + 6.2/1440: a = 21.8 mA/317.7 V = 68.6 µS,
        # 4·50·C: 343 nF, 50 % of 680.
        self.assertAlmostEqual(by_degree(SPARE).resets_below, 0.50, delta=0.011)

    def test_a_round_against_an_integration_of_its_own(self):
        for share in (0.45, 0.47, 0.49):
            spare = replace(SPARE, farads=SPARE.farads * share)
            told = with_relay(spare).every
            with self.subTest(share=share):
                self.assertAlmostEqual(told, _integrated(spare), delta=0.03 * told)

    def test_too_little_to_begin_at_all(self):
        found = with_relay(replace(SPARE, farads=SPARE.farads * 0.05))
        self.assertFalse(found.pulls)
        self.assertIsNone(found.every)


def _integrated(spare):
    """Seconds between two resets, by stepping the rail and its logic through several rounds."""

    def slope(relay):
        def of(_, v):
            into = (
                spare.slope * (spare.crest - v[0]) - spare.amperes - (v[0] / spare.coil_ohms if relay else 0)
            )
            return [0.0 if v[0] >= spare.holds and into > 0 else into / spare.rail_farads]

        return of

    def until(relay, start, volts, direction):
        def reached(_, v):
            return v[0] - volts

        reached.terminal, reached.direction = True, direction
        found = solve_ivp(slope(relay), (0, 30), [start], events=reached, rtol=1e-8, atol=1e-8, max_step=0.01)
        return float(found.t[-1]), float(found.y[0, -1])

    v, resets, now = spare.resets, [], 0.0
    for _ in range(3):
        took, v = until(False, v, spare.runs, 1)
        now += took
        booted = solve_ivp(slope(False), (0, spare.boots), [v], rtol=1e-8, atol=1e-8, max_step=0.01)
        v, now = min(float(booted.y[0, -1]), spare.holds), now + spare.boots
        took, v = until(True, v, spare.resets, -1)
        now += took
        resets.append(now)
    rounds = np.diff(resets)
    assert math.isclose(rounds[0], rounds[1], rel_tol=1e-3)
    return float(rounds[-1])
