"""A mains supply on the mat: bus, ripple, inrush, what is left after unplugging, a lamp in series."""

import math
from dataclasses import replace
from unittest import TestCase

import numpy as np
from hypothesis import given
from hypothesis import strategies as st
from scipy.integrate import solve_ivp

from frostcore.errors import FrostError
from frostcore.supply.foretold import (
    Supply,
    after_unplugging,
    bulk_open,
    bus,
    in_series,
    inrush,
    judge_bus,
    lamp_told,
    one_diode_open,
    told,
)
from frostcore.verdict import Verdict

BOARD = Supply(230.0, 2.4, 22e-6)


class Bus(TestCase):
    def test_a_light_load_leaves_the_crest_less_two_diodes(self):
        light = bus(replace(BOARD, watts=0.3))
        self.assertAlmostEqual(light.mean, math.sqrt(2) * 230 - 1.4, delta=0.01 * light.mean)

    def test_the_mains_says_its_hertz(self):
        self.assertEqual((BOARD.hertz, Supply(120.0, 3.0, 22e-6).hertz), (50.0, 60.0))
        self.assertEqual(Supply(120.0, 3.0, 22e-6, hertz=50.0).hertz, 50.0)

    def test_the_series_resistance_sees_the_charging_pulse(self):
        # 47 µF with 60 Ω at 6 W: 313.6 V with 12.2 V of ripple, where I/2fC + I·ESR would say 5 V.
        found = bus(Supply(230.0, 6.0, 47e-6, esr_ohms=60.0))
        self.assertAlmostEqual(found.mean, 313.6, delta=0.005 * 313.6)
        self.assertAlmostEqual(found.peak_to_peak, 12.2, delta=0.1 * 12.2)
        current = 6.0 / found.mean
        self.assertGreater(found.peak_to_peak, 2 * (current / (100 * 47e-6) + current * 60.0))

    def test_one_diode_open_doubles_the_ripple_and_hides_in_dc(self):
        sound, half = bus(BOARD), one_diode_open(BOARD)
        self.assertAlmostEqual(half.ripple / sound.ripple, 2.05, delta=0.15)
        self.assertLess(1 - half.mean / sound.mean, 0.01)

    def test_without_its_capacitor_it_is_the_rectified_mains(self):
        for mains, mean, ripple in ((230.0, 206.0, 100.0), (120.0, 107.0, 52.0)):
            found = bulk_open(replace(BOARD, mains_volts=mains))
            self.assertAlmostEqual(found[0], mean, delta=1.0)
            self.assertAlmostEqual(found[1], ripple, delta=0.6)
        # By the mean of |sin| itself.
        wave = 230 * math.sqrt(2) * np.abs(np.sin(np.linspace(0, np.pi, 20_001)))
        self.assertAlmostEqual(bulk_open(BOARD)[0], wave.mean() - 1.4, delta=0.05)
        self.assertAlmostEqual(bulk_open(BOARD)[1], wave.std(), delta=0.05)

    @given(st.floats(200, 250), st.floats(0.5, 30), st.floats(10e-6, 200e-6))
    def test_more_capacitor_never_ripples_more(self, mains, watts, farads):
        some = Supply(mains, watts, farads)
        self.assertLessEqual(bus(replace(some, farads=1.5 * farads)).ripple, bus(some).ripple * 1.001)


class Moments(TestCase):
    def test_inrush_against_an_independent_integration(self):
        for ohms, henries, farads in ((4.9, 300e-6, 22e-6), (15.0, 300e-6, 47e-6), (2.0, 2e-3, 100e-6)):
            some = replace(BOARD, ohms=ohms, esr_ohms=0.0, henries=henries, farads=farads)

            def rate(_, state, ohms=ohms, henries=henries, farads=farads, peak=some.peak):
                current, volts = state
                return [(peak - volts - ohms * current) / henries, current / farads]

            end = 12 * max(ohms * farads, henries / ohms)
            found = solve_ivp(rate, (0, end), [0.0, 0.0], rtol=1e-9, atol=1e-9, max_step=end / 4000)
            crest, energy = inrush(some)
            self.assertAlmostEqual(crest / found.y[0].max(), 1.0, delta=2e-3)
            self.assertAlmostEqual(energy / np.trapezoid(found.y[0] ** 2, found.t), 1.0, delta=5e-3)

    def test_a_choke_keeps_the_inrush_under_volts_by_ohms(self):
        some = replace(BOARD, ohms=4.9, esr_ohms=0.0)
        self.assertLess(inrush(some)[0], 0.7 * some.peak / 4.9)

    def test_how_long_it_holds_by_hand(self):
        # 470 kΩ · 22 µF · ln(323.9/50) = 19.3 s; one that ran empties it to a third first.
        left = after_unplugging(BOARD)
        self.assertAlmostEqual(left.dead, 470e3 * 22e-6 * math.log(323.87 / 50), places=1)
        self.assertLess(left.ran, left.dead)
        self.assertEqual(after_unplugging(replace(BOARD, watts=0.0)).ran, left.dead)

    def test_a_lamp_in_series(self):
        for watts, lamp, low, high in ((5, 60, 0.0, 0.03), (8, 60, 0.0, 0.03), (20, 60, 0.10, 0.20)):
            found = in_series(Supply(230.0, watts, 47e-6), lamp)
            self.assertTrue(low <= found.share <= high, (watts, lamp, found))
        for lamp in (40, 45, 25):
            self.assertIn("too weak", in_series(Supply(230.0, 20.0, 47e-6), lamp).text)
        self.assertIsNone(in_series(Supply(230.0, 20.0, 47e-6), 25).share)
        self.assertIn("60 W at least", lamp_told(replace(BOARD, watts=12.0)))


class Judged(TestCase):
    def test_dc_alone_never_clears_the_capacitor(self):
        found = judge_bus(BOARD, bus(BOARD).mean, None)
        self.assertIs(found.verdict, Verdict.IN_BAND)
        self.assertIn("says little of bridge and capacitor", found.reason)

    def test_the_ac_range_is_the_witness(self):
        sound = bus(BOARD)
        for times, verdict, words in (
            (1.0, Verdict.IN_BAND, "do their work"),
            (2.05, Verdict.HIGH, "diode test parts them"),
            (9.0, Verdict.HIGH, "2.44 µF were left"),
        ):
            found = judge_bus(BOARD, sound.mean, times * sound.ripple)
            self.assertIs(found.verdict, verdict)
            self.assertIn(words, found.reason)

    def test_nothing_on_the_bus_names_no_fuse(self):
        found = judge_bus(BOARD, 0.4, None)
        self.assertIs(found.verdict, Verdict.LOW)
        self.assertIn("A blown fuse is an effect", found.reason)

    def test_a_missing_capacitor_is_named_by_the_volts(self):
        self.assertIn("capacitor is open", judge_bus(BOARD, 207.0, None).reason)

    def test_the_mains_measured_here_moves_the_band(self):
        low = replace(BOARD, mains_volts=214.0)
        self.assertIs(judge_bus(low, bus(low).mean, None).verdict, Verdict.IN_BAND)
        self.assertIs(judge_bus(BOARD, bus(low).mean, None).verdict, Verdict.LOW)
        self.assertIs(judge_bus(low, bus(BOARD).mean, None).verdict, Verdict.HIGH)

    def test_nonsense_is_refused_and_every_rung_has_its_figure(self):
        for act in (
            lambda: Supply(12.0, 3.0, 22e-6),
            lambda: Supply(230.0, -1.0, 22e-6),
            lambda: Supply(230.0, 3.0, 22.0),
            lambda: in_series(BOARD, 0.0),
            lambda: judge_bus(BOARD, None, None),
        ):
            with self.assertRaises(FrostError):
                act()
        rungs = told(BOARD)
        self.assertEqual(len(rungs), 6)
        self.assertTrue(all(figure and words for _, figure, words in rungs))
        self.assertIn("spikes", told(replace(BOARD, esr_ohms=40.0))[1][2])
