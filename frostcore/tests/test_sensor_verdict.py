import math
from unittest import TestCase

from hypothesis import given
from hypothesis import strategies as st

from frostcore.curves.model import BetaCurve, TableCurve
from frostcore.curves.picture import BOTTOM, TOP, draw
from frostcore.curves.verdict import Limits, Role, SensorPoint, expected_band, judge_all, judge_sensor
from frostcore.errors import CurveError
from frostcore.line import BAND_HEIGHT, height
from frostcore.quantity import Dimension, parse
from frostcore.verdict import Verdict

NTC = BetaCurve(5000, 3650)
PTC = TableCurve(((-40.0, 570.0), (0.0, 815.0), (25.0, 1000.0), (60.0, 1299.0)))


def point(resistance, temperature="0C"):
    return SensorPoint(parse(resistance, Dimension.RESISTANCE), parse(temperature, Dimension.TEMPERATURE))


def verdict(resistance, temperature="0C", curve=NTC, role=Role.CABINET, **limits):
    return judge_sensor(curve, point(resistance, temperature), Limits(**limits), role)


class TheBand(TestCase):
    def test_tolerance_doubt_and_meter_each_widen_it_by_the_stated_formula(self):
        band = expected_band(NTC, 0, Limits(0.05, 0.5, 0.01))
        self.assertAlmostEqual(band.low, float(NTC.ohms(0.5)) * 0.95 * 0.99)
        self.assertAlmostEqual(band.high, float(NTC.ohms(-0.5)) * 1.05 * 1.01)
        self.assertAlmostEqual(band.nominal, float(NTC.ohms(0)))

    def test_without_doubt_it_is_the_sensors_tolerance_alone(self):
        band = expected_band(NTC, 0, Limits(0.1, 0, 0))
        self.assertAlmostEqual(band.low / band.nominal, 0.9)
        self.assertAlmostEqual(band.high / band.nominal, 1.1)

    @given(st.floats(-30, 50), st.floats(0.01, 0.2), st.floats(0, 2), st.floats(0, 0.05))
    def test_more_doubt_never_narrows_it(self, celsius, tolerance, doubt, meter):
        narrow, wide = (
            expected_band(NTC, celsius, Limits(tolerance, doubt, meter)),
            expected_band(NTC, celsius, Limits(tolerance, doubt + 0.3, meter + 0.01)),
        )
        self.assertLess(wide.low, narrow.low)
        self.assertGreater(wide.high, narrow.high)

    def test_limits_that_make_no_band_are_refused(self):
        for limits in ({"tolerance": 1.5}, {"doubt_kelvin": -1}, {"meter": math.nan}):
            with self.assertRaises(CurveError):
                Limits(**limits)


class VerdictsOnReadings(TestCase):
    def test_inside_outside_broken_and_pinned(self):
        for typed, expected in {
            "15k3": "in_band",
            "24k": "high",
            "9k": "low",
            "OL": "open",
            "4": "short",
            "short": "short",
        }.items():
            with self.subTest(typed):
                self.assertEqual(verdict(typed).verdict, expected)

    def test_a_point_whose_doubt_alone_is_wider_than_the_tolerance_cannot_judge(self):
        self.assertIs(verdict("16k", tolerance=0.03, doubt_kelvin=1).verdict, Verdict.UNCLEAR)

    def test_but_what_no_doubt_explains_is_still_outside(self):
        self.assertIs(verdict("40k", tolerance=0.03, doubt_kelvin=1).verdict, Verdict.HIGH)

    def test_the_error_is_positive_when_the_board_believes_warmer(self):
        cold, warm = verdict("24k"), verdict("9k")
        self.assertLess(cold.error_kelvin, 0)
        self.assertIn("undercools: the cabinet settles about 8.9 K too warm", cold.reason)
        self.assertGreater(warm.error_kelvin, 0)
        self.assertIn("overcools", warm.reason)
        self.assertAlmostEqual(float(NTC.ohms(warm.implied_celsius)), 9000, places=6)

    def test_a_ptc_sensor_errs_the_other_way(self):
        self.assertGreater(verdict("1000", curve=PTC, tolerance=0.03).error_kelvin, 0)
        self.assertIn("far too warm", verdict("OL", curve=PTC).reason)
        self.assertIn("far too cold", verdict("OL").reason)

    def test_a_defrost_sensor_that_reads_cold_ends_defrost_late(self):
        self.assertIn("too late", verdict("24k", role=Role.DEFROST_END).reason)

    def test_a_reading_in_kilohms_typed_without_the_k_is_asked_about(self):
        (question,) = verdict("15.3").questions
        self.assertEqual((question.kind, question.field, question.then), ("unit_slip", "value", "in_band"))
        self.assertEqual(parse(question.meant, Dimension.RESISTANCE).value, 15300)

    def test_fahrenheit_taken_for_celsius_is_asked_about_both_ways(self):
        (question,) = verdict("15k3", "32C").questions
        self.assertEqual(
            (question.field, parse(question.meant, Dimension.TEMPERATURE).value), ("temperature", 0)
        )
        (question,) = verdict("15k3", "0F").questions
        self.assertEqual(parse(question.meant, Dimension.TEMPERATURE).value, 0)

    def test_a_reading_on_the_bands_very_edge_is_in_it(self):
        for typed in ("5000", "4500", "5500"):
            self.assertIs(
                verdict(typed, "25C", tolerance=0.1, doubt_kelvin=0, meter=0).verdict, Verdict.IN_BAND
            )

    def test_nothing_is_asked_about_a_reading_in_band(self):
        self.assertEqual(verdict("15k3").questions, ())

    @given(st.floats(-35, 45), st.floats(-0.999, 0.999))
    def test_every_reading_a_good_sensor_can_give_is_in_band(self, celsius, share):
        ohms = float(NTC.ohms(celsius + 0.5 * share)) * (1 + 0.1 * share) * (1 + 0.01 * share)
        self.assertIs(verdict(f"{ohms:.6f}", f"{celsius:.6f}C").verdict, Verdict.IN_BAND)

    def test_of_several_points_the_farthest_outside_decides(self):
        deciding, all_points = judge_all(NTC, [point("5k", "25C"), point("24k"), point("18k")], Limits())
        self.assertEqual(deciding.point.resistance.value, 24000)
        self.assertEqual([item.verdict for item in all_points], ["in_band", "high", "high"])


class TheLine(TestCase):
    def test_a_band_limit_lies_at_the_bands_edge_and_far_readings_stay_on_the_picture(self):
        band = expected_band(NTC, 0, Limits())
        self.assertAlmostEqual(height(band.high, band), BAND_HEIGHT)
        self.assertAlmostEqual(height(band.low, band), -BAND_HEIGHT)
        self.assertEqual(height(band.nominal, band), 0)
        self.assertTrue(BAND_HEIGHT < height(band.high * 2, band) < height(band.high * 50, band) <= 1)

    def test_the_curve_picture_puts_open_at_the_top_edge_and_a_reading_at_its_place(self):
        drawn = draw(NTC, Limits(), (verdict("OL"), verdict("24k")))
        self.assertEqual(drawn.crosses[0].y, TOP)
        self.assertTrue(TOP < drawn.crosses[1].y < drawn.crosses[1].expected_y < BOTTOM)
        self.assertLess(drawn.crosses[1].believed_x, drawn.crosses[1].x)
        self.assertNotIn("nan", drawn.line + drawn.band)
