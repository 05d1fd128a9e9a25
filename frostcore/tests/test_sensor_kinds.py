import math
from collections import Counter
from unittest import TestCase

import numpy as np
from hypothesis import example, given, settings
from hypothesis import strategies as st
from scipy.optimize import curve_fit
from scipy.stats import multivariate_normal

from frostcore.curves.belief import believe
from frostcore.curves.divider import Divider
from frostcore.curves.kinds import ErrorKind, explain
from frostcore.curves.known import (
    Sensitivity,
    curves_of,
    fitted,
    generic_families,
    identify,
    misfit,
)
from frostcore.curves.model import BetaCurve
from frostcore.curves.settle import settle
from frostcore.curves.verdict import Limits, SensorPoint
from frostcore.errors import CurveError
from frostcore.quantity import Dimension, Quantity, State
from frostcore.tests.test_display import SHEETS

CURVE = BetaCurve(5000, 3650)
LIMITS = Limits(0.05, 0.5, 0.01)
BETAS = (3435, 3650, 3950)
LIBRARY = generic_families()
GUIDE = (22.0, 0.0, -18.0)
share = st.floats(-0.8, 0.8)


def point(ohms, celsius):
    resistance = (
        Quantity(Dimension.RESISTANCE, None, State.OPEN)
        if ohms is None
        else Quantity(Dimension.RESISTANCE, float(ohms))
    )
    return SensorPoint(resistance, Quantity(Dimension.TEMPERATURE, float(celsius)))


def synthesised(error, noise, tolerance, curve=CURVE, temperatures=GUIDE):
    """Readings of a sensor within tolerance, its error on top, thermometer and meter off by shares of
    their limits."""
    points = []
    for celsius, (thermometer, meter) in zip(temperatures, noise, strict=True):
        own = float(curve.ohms(celsius + thermometer * LIMITS.doubt_kelvin)) * (
            1 + tolerance * LIMITS.tolerance
        )
        points.append(point(error(own) * (1 + meter * LIMITS.meter), celsius))
    return points


noises = st.tuples(*[st.tuples(share, share)] * 3)


class KindsOfError(TestCase):
    @settings(max_examples=25, deadline=None)
    @given(noises, share)
    def test_a_good_sensor_is_named_good(self, noise, tolerance):
        self.assertIs(
            explain(CURVE, synthesised(lambda r: r, noise, tolerance), LIMITS, LIBRARY).kind, ErrorKind.NONE
        )

    @settings(max_examples=25, deadline=None)
    @given(noises, share, st.floats(2000, 20000))
    def test_a_joint_in_series_is_named_and_sized(self, noise, tolerance, extra):
        found = explain(CURVE, synthesised(lambda r: r + extra, noise, tolerance), LIMITS, LIBRARY)
        self.assertIn(found.kind, {ErrorKind.SERIES_RESISTANCE, ErrorKind.CANNOT_TELL})
        series = next(fit for fit in found.kinds if fit.kind is ErrorKind.SERIES_RESISTANCE)
        self.assertLess(abs(math.log(series.parameters["series_ohms"] / extra)), 0.5)

    @settings(max_examples=25, deadline=None)
    @given(noises, share, st.floats(4000, 40000))
    def test_moisture_in_parallel_is_named_and_sized(self, noise, tolerance, leak):
        found = explain(
            CURVE, synthesised(lambda r: r * leak / (r + leak), noise, tolerance), LIMITS, LIBRARY
        )
        self.assertIs(found.kind, ErrorKind.PARALLEL_LEAKAGE)
        self.assertLess(abs(math.log(found.kinds[0].parameters["parallel_ohms"] / leak)), 0.5)

    @settings(max_examples=25, deadline=None)
    @given(noises, share)
    def test_a_wrong_part_is_named_with_its_curve(self, noise, tolerance):
        found = explain(
            CURVE, synthesised(lambda r: r, noise, tolerance, BetaCurve(10000, 3950)), LIMITS, LIBRARY
        )
        self.assertIs(found.kind, ErrorKind.SHIFTED_CURVE)
        self.assertEqual(found.kinds[0].parameters["curve"], "NTC 10.0 kΩ at 25 °C, B 3950 K")

    @settings(max_examples=25, deadline=None)
    @given(noises, share, st.sampled_from([0.75, 1.35, 1.7]))
    def test_a_scale_error_is_named_or_left_open_but_never_taken_for_a_joint_or_moisture(
        self, noise, tolerance, factor
    ):
        found = explain(CURVE, synthesised(lambda r: r * factor, noise, tolerance), LIMITS, LIBRARY)
        self.assertIn(found.kind, {ErrorKind.SCALE, ErrorKind.SHIFTED_CURVE, ErrorKind.CANNOT_TELL})

    def test_an_exact_scale_error_is_named(self):
        found = explain(CURVE, [point(float(CURVE.ohms(t)) * 1.35, t) for t in GUIDE], LIMITS, LIBRARY)
        self.assertIs(found.kind, ErrorKind.SCALE)
        self.assertAlmostEqual(found.kinds[0].parameters["factor"], 1.35, places=3)

    def test_a_break_that_comes_and_goes_is_named(self):
        good = [point(float(CURVE.ohms(t)), t) for t in (22, 0)]
        for stray in (point(None, 22), point(900_000, 0)):
            self.assertIs(explain(CURVE, [*good, stray], LIMITS, LIBRARY).kind, ErrorKind.INTERMITTENT)

    def test_one_point_off_cannot_tell_and_names_the_point_that_would(self):
        found = explain(CURVE, [point(float(CURVE.ohms(22)) * 1.5, 22)], LIMITS, LIBRARY)
        self.assertIs(found.kind, ErrorKind.CANNOT_TELL)
        self.assertIn(found.next_celsius, {-18.0, 0.0})
        self.assertIn("Measure it in", found.next_text)

    def test_the_point_named_does_tell(self):
        def joint(celsius):
            return point(float(CURVE.ohms(celsius)) + 2500, celsius)

        found = explain(CURVE, [joint(22)], LIMITS, LIBRARY)
        self.assertIs(
            explain(CURVE, [joint(22), joint(found.next_celsius)], LIMITS, LIBRARY).kind,
            ErrorKind.SERIES_RESISTANCE,
        )

    def test_open_at_every_point_is_no_kind_but_a_break(self):
        found = explain(CURVE, [point(None, 22), point(None, 0)], LIMITS, LIBRARY)
        self.assertEqual((found.kind, found.kinds), (ErrorKind.CANNOT_TELL, ()))
        self.assertIn("break", found.text)

    @settings(max_examples=60, deadline=None)
    @given(st.lists(st.tuples(st.floats(-40, 60), st.floats(-7, 7)), min_size=1, max_size=6))
    def test_whatever_was_read_is_answered(self, readings):
        """Strays of a thousandth and a thousandfold among them: no three points raise an error."""
        points = [point(float(CURVE.ohms(celsius)) * math.exp(off), celsius) for celsius, off in readings]
        found = explain(CURVE, points, LIMITS, LIBRARY)
        self.assertAlmostEqual(sum(fit.weight for fit in found.kinds), 1)

    def test_weights_sum_to_one(self):
        found = explain(CURVE, [point(7000, 22), point(20000, 0)], LIMITS, LIBRARY)
        self.assertAlmostEqual(sum(fit.weight for fit in found.kinds), 1, places=12)


class Identifying(TestCase):
    def test_a_demo_sheets_curve_is_found_among_all(self):
        sheet = SHEETS["pellworth-pw-27"]
        curve = sheet.curve(sheet.sensor("fridge"))
        found = identify(
            [point(float(curve.ohms(t)), t) for t in (20, 0)], (*curves_of(SHEETS.values()), *LIBRARY), LIMITS
        )
        self.assertIn("Pellworth PW-27", found[0].known.name)
        self.assertAlmostEqual(sum(item.weight for item in found), 1, places=12)

    def test_two_points_fix_a_beta_curve_and_near_ones_do_not(self):
        free = fitted([point(float(CURVE.ohms(t)), t) for t in (25, 0)])
        self.assertAlmostEqual(free.beta_kelvin, 3650, places=6)
        self.assertIsNone(fitted([point(5000, 25), point(4900, 25.4)]))

    def test_nothing_but_open_readings_is_an_error(self):
        with self.assertRaisesRegex(CurveError, "open or short"):
            identify([point(None, 0)], LIBRARY, LIMITS)


class OtherBetas(TestCase):
    """Parts of the right resistance at 25 °C and another Beta, read with the thermometer and meter of the
    trade; a good part's own Beta is anywhere within a hundredth."""

    GRID = [(r25, own, other) for r25 in (2700, 5000, 10000, 30000) for own in BETAS for other in BETAS]

    def readings(self, random, curve, at):
        return [
            point(float(curve.ohms(celsius + doubt)) * random.uniform(0.99, 1.01), celsius)
            for celsius, doubt in zip(at, random.uniform(-0.5, 0.5, len(at)), strict=True)
        ]

    def named(self, at, seed):
        """What wrong parts are named, and good ones."""
        random, wrong, good = np.random.default_rng(seed), Counter(), Counter()
        for r25, own, other in self.GRID:
            real = BetaCurve(r25 * random.uniform(0.95, 1.05), other * random.uniform(0.99, 1.01))
            found = explain(BetaCurve(r25, own), self.readings(random, real, at), LIMITS, generic_families())
            (good if own == other else wrong)[found.kind] += 1
        return wrong, good

    def test_they_are_hardly_ever_named_moisture_and_good_ones_are_good(self):
        for at in ((0, 22), (-18, 22), (-18, 0, 22)):
            wrong, good = (
                sum((self.named(at, seed)[side] for seed in range(4)), Counter()) for side in (0, 1)
            )
            joints = wrong[ErrorKind.PARALLEL_LEAKAGE] + wrong[ErrorKind.SERIES_RESISTANCE]
            self.assertLessEqual(joints / wrong.total(), 0.03, (at, wrong))
            self.assertGreaterEqual(good[ErrorKind.NONE] / good.total(), 0.9, (at, good))

    def test_a_part_named_good_is_as_good_as_is_said(self):
        """Where a wrong part passes, its error is within what the words leave room for, 19 times in 20."""
        within, told = 0, 0
        random = np.random.default_rng(3)
        for _ in range(8):
            for r25, own, other in self.GRID:
                curve = BetaCurve(r25, own)
                real = BetaCurve(r25 * random.uniform(0.95, 1.05), other * random.uniform(0.99, 1.01))
                found = explain(curve, self.readings(random, real, (0, 22)), LIMITS, generic_families())
                if found.kind is ErrorKind.NONE:
                    told += 1
                    believed = float(curve.celsius(float(real.ohms(found.misses.celsius))))
                    within += abs(believed - found.misses.celsius) <= found.misses.kelvin
        self.assertGreater(told, 100)
        self.assertGreaterEqual(within / told, 0.95)

    def test_one_point_leaves_more_room_than_two_and_two_far_apart_least(self):
        curve = BetaCurve(5000, 3650)

        def room(*at):
            points = [point(float(curve.ohms(celsius)), celsius) for celsius in at]
            return explain(curve, points, LIMITS).misses.kelvin

        self.assertGreater(room(0), 2 * room(0, 22))
        self.assertGreater(room(0, 22), room(-18, 0, 22))
        self.assertLess(room(-18, 0, 22), 1.2)
        text = explain(curve, [point(float(curve.ohms(0)), 0)], LIMITS).text
        self.assertRegex(text, r"An error of up to \d+(\.\d)? K at (25|−20) °C would still be missed")

    def test_the_misfit_is_that_of_the_whole_covariance(self):
        """Against SciPy's multivariate normal with Σ written out."""
        curve, at = BetaCurve(5000, 3650), np.array([-18.0, 0.0, 22.0, 35.0])
        moves, residuals = Sensitivity.of(curve, at), np.array([0.02, -0.01, 0.03, 0.0])
        lever = (BetaCurve(5000, 3650 * 1.0001), BetaCurve(5000, 3650 * 0.9999))
        slope = np.log(lever[0].ohms(at) / lever[1].ohms(at)) / 0.0002
        np.testing.assert_allclose(moves.levers, slope, rtol=1e-6)
        own = ((moves.alphas * LIMITS.doubt_kelvin) ** 2 + LIMITS.meter**2) / 3
        shared = LIMITS.tolerance**2 / 3 + np.outer(slope, slope) * 0.01**2 / 3
        whole = multivariate_normal(np.zeros(4), np.diag(own) + shared)
        wanted = -2 * whole.logpdf(residuals) - 4 * math.log(2 * math.pi)
        self.assertAlmostEqual(misfit(residuals, moves, np.ones(4), LIMITS), wanted, places=8)


class Settling(TestCase):
    def bath(self, t, beta, warm, *parts):
        """A bead that comes ``warm`` into the ice bath; parts are (share, time constant)."""
        return BetaCurve(5000, beta).ohms(warm * sum(share * np.exp(-t / tau) for share, tau in parts))

    @settings(max_examples=20, deadline=None)
    @example(beta=3200.0, warm=34.0, constant=338.0, share=0.3125, tail=360.0)
    @example(beta=3200.0, warm=35.0, constant=252.0, share=0.25, tail=142.0)
    @example(beta=4103.0, warm=30.6, constant=258.0, share=0.2, tail=134.0)
    @example(beta=4172.0, warm=27.0, constant=349.0, share=0.05, tail=134.0)
    @given(st.floats(3200, 4300), st.floats(10, 35), st.floats(4, 360), st.floats(0, 0.4), st.floats(60, 360))
    def test_a_bead_is_read_to_its_end_within_its_doubt_and_never_judged_too_early(
        self, beta, warm, constant, share, tail
    ):
        """Slow beads, beads with a tail, of any usual Beta: what is called settled is settled."""
        t = np.arange(30.0, 1500, 30)
        r = self.bath(t, beta, warm, (1 - share, constant), (share, tail))
        end = float(BetaCurve(5000, beta).ohms(0))
        answers = [settle(t[:count], r[:count], 0.05) for count in range(4, len(t) + 1, 2)]
        first = next((answer for answer in answers if answer.ready), None)
        self.assertIsNotNone(first, "never settled in twenty-five minutes")
        for found in (first, answers[-1]):
            self.assertLess(abs(found.settled_ohms / end - 1), 0.025)

    def test_a_bead_with_a_tail_is_not_called_settled_by_its_fast_part(self):
        """Four fifths are there after two minutes; the rest takes six minutes a factor of e."""
        t = np.arange(30.0, 1200, 30)
        r = self.bath(t, 3977, 22, (0.8, 30), (0.2, 360))
        early = settle(t[:5], r[:5], 0.05)
        self.assertFalse(early.ready)
        self.assertLess(r[4] / BetaCurve(5000, 3977).ohms(0), 0.9)

    def test_it_agrees_with_a_general_curve_fit(self):
        t = np.array([20.0, 40, 60, 90, 120, 150, 200, 250, 300, 350])
        r = np.round(self.bath(t, 3977, 22, (1, 65)), -1)
        curve = BetaCurve(5000, 3977)
        (level, _, _), _ = curve_fit(
            lambda x, end, size, constant: curve.ohms(end + size * np.exp(-x / constant)),
            t,
            r,
            p0=(1, 20, 50),
        )
        self.assertLess(abs(settle(t, r).settled_ohms / curve.ohms(level) - 1), 0.01)

    def test_too_early_is_said_until_the_doubt_is_small(self):
        t = np.arange(10.0, 400, 20)
        r = 32000 - 18000 * np.exp(-t / 80)
        answers = [settle(t[:count], r[:count]) for count in range(1, len(t))]
        self.assertEqual([answer.ready for answer in answers[:3]], [False] * 3)
        self.assertTrue(answers[-1].ready)
        self.assertIn("Too early", answers[1].text)
        self.assertLess(answers[-1].doubt_ohms, answers[4].doubt_ohms)

    def test_unusable_readings_are_refused(self):
        for times, ohms in (([1, 1], [2, 3]), ([-1, 2], [1, 1]), ([1, 2], [0, 1]), ([1], [1, 2])):
            with self.assertRaises(CurveError):
                settle(times, ohms)
        with self.assertRaisesRegex(CurveError, "no one sensor"):
            settle([1, 2, 3], [1.0, 500, 16e3])


class AtTheBoard(TestCase):
    @given(st.floats(50, 500_000))
    def test_volts_and_ohms_go_there_and_back(self, ohms):
        divider = Divider(5, 10000)
        volts = divider.volts(ohms)
        if 0.05 < volts < 4.95:
            self.assertAlmostEqual(divider.resistance(volts).value / ohms, 1, places=9)

    def test_the_rails_are_open_and_short_and_beyond_them_is_a_wrong_pin(self):
        divider = Divider(5, 10000)
        self.assertEqual(
            (divider.resistance(4.98).state, divider.resistance(0.02).state), (State.OPEN, State.SHORT)
        )
        with self.assertRaisesRegex(CurveError, "Check the pins"):
            divider.resistance(12)

    def test_a_board_that_believes_warmer_overcools_by_that_much(self):
        belief = believe(5, 9, -3)
        self.assertEqual((belief.settles, belief.explains), (-4, True))
        self.assertFalse(believe(5, 0.2, 14).explains)
        self.assertIsNone(believe(5, 1).explains)
