import math
from itertools import combinations
from unittest import TestCase

import numpy as np
from hypothesis import given
from hypothesis import strategies as st
from scipy.optimize import brentq

from frostcore.curves.fit import fit_beta, fit_steinhart_hart
from frostcore.curves.model import BetaCurve, Curve, SteinhartHartCurve, TableCurve
from frostcore.curves.table import (
    MOST_ROWS,
    TableRow,
    _left_out,
    _longest_run,
    check,
    read_csv,
    recognise,
    write_csv,
)
from frostcore.errors import CurveError

BETA = BetaCurve(5000, 3650)
STEINHART = SteinhartHartCurve(1.129148e-3, 2.34125e-4, 8.76741e-8)
TABLE = TableCurve(tuple((float(t), float(BETA.ohms(t))) for t in range(-40, 61, 5)))
PTC = TableCurve(
    tuple((float(t), 1000 * (1 + 0.00786 * (t - 25) + 1.9e-5 * (t - 25) ** 2)) for t in range(-40, 61, 10))
)
CURVES = (BETA, STEINHART, TABLE, PTC, BetaCurve(1000, -900), SteinhartHartCurve(1.0e-3, 2.7e-4, -2e-8))


class Models(TestCase):
    def test_the_beta_model_gives_its_reference_and_closed_form_sensitivity(self):
        self.assertAlmostEqual(float(BETA.ohms(25)), 5000)
        self.assertAlmostEqual(float(BETA.ohms(0)), 5000 * math.exp(3650 * (1 / 273.15 - 1 / 298.15)))
        self.assertAlmostEqual(BETA.alpha(0), -3650 / 273.15**2)

    def test_steinhart_hart_resistance_solves_its_equation(self):
        for celsius in (-40, 0, 25, 100):
            reference = math.exp(
                brentq(
                    lambda log, t=celsius: (
                        1.129148e-3 + 2.34125e-4 * log + 8.76741e-8 * log**3 - 1 / (t + 273.15)
                    ),
                    0,
                    20,
                    xtol=1e-13,
                )
            )
            self.assertAlmostEqual(float(STEINHART.ohms(celsius)) / reference, 1, places=11)

    def test_a_tiny_cubic_term_loses_no_precision(self):
        almost_beta = SteinhartHartCurve(1.0205388479911552e-3, 2.739726027397251e-4, 1e-21)
        self.assertAlmostEqual(float(almost_beta.ohms(0)) / float(BETA.ohms(0)), 1, places=12)

    @given(st.sampled_from(CURVES), st.floats(-40, 60))
    def test_temperature_to_resistance_and_back(self, curve, celsius):
        self.assertAlmostEqual(float(curve.celsius(curve.ohms(celsius))), celsius, places=8)

    @given(st.sampled_from(CURVES[:2]), st.floats(-30, 60))
    def test_closed_form_sensitivity_agrees_with_the_difference_quotient(self, curve, celsius):
        self.assertAlmostEqual(curve.alpha(celsius), Curve.alpha(curve, celsius), places=8)

    def test_sense_tells_ntc_from_ptc(self):
        self.assertEqual([curve.sense for curve in CURVES], ["ntc", "ntc", "ntc", "ptc", "ptc", "ntc"])

    def test_between_rows_a_table_is_straight_in_log_resistance_over_inverse_temperature(self):
        table = TableCurve(((0.0, 10000.0), (10.0, 6000.0)))
        middle = 2 / (1 / 273.15 + 1 / 283.15) - 273.15
        self.assertAlmostEqual(float(table.ohms(middle)), math.sqrt(10000 * 6000), places=6)

    def test_beyond_its_rows_a_table_says_that_it_extrapolates(self):
        self.assertTrue(TABLE.extrapolates(-41))
        self.assertFalse(TABLE.extrapolates(-40))

    def test_curves_that_are_no_curves_are_refused(self):
        for build in (
            lambda: BetaCurve(-1, 3000),
            lambda: BetaCurve(1000, 0),
            lambda: TableCurve(((0.0, 1.0),)),
            lambda: TableCurve(((0.0, 5.0), (1.0, 5.0))),
            lambda: SteinhartHartCurve(1e-3, 2e-4, float("nan")),
            lambda: SteinhartHartCurve(1e-3, 2e-4, -8e-6),
        ):
            with self.assertRaises(CurveError):
                build()
        with self.assertRaises(CurveError):
            BETA.celsius(0)


class Fits(TestCase):
    def test_a_fit_through_exact_points_gives_the_curve_back(self):
        celsius = np.linspace(-30, 50, 9)
        self.assertLess(fit_beta(celsius, BETA.ohms(celsius)).worst_kelvin, 1e-9)
        fit = fit_steinhart_hart(celsius, STEINHART.ohms(celsius))
        self.assertLess(fit.worst_kelvin, 1e-8)
        self.assertAlmostEqual(fit.curve.b / STEINHART.b, 1, places=6)

    def test_beta_cannot_follow_a_steinhart_hart_curve_and_the_residual_says_so(self):
        celsius = np.linspace(-40, 60, 11)
        self.assertGreater(fit_beta(celsius, STEINHART.ohms(celsius)).worst_kelvin, 0.3)

    def test_too_few_or_misshapen_points_are_refused(self):
        with self.assertRaisesRegex(CurveError, "3 different"):
            fit_steinhart_hart([0, 25], [1, 2])
        with self.assertRaisesRegex(CurveError, "shapes"):
            fit_beta([0, 25], [1, 2, 3])


def rows(*changes):
    plain = [[float(t), float(f"{float(BETA.ohms(t)):.4g}")] for t in range(-30, 51, 5)]
    for index, column, value in changes:
        plain[index][column] = value
    return [TableRow(celsius, ohms, line) for line, (celsius, ohms) in enumerate(plain, 2)]


class Tables(TestCase):
    def test_a_good_table_raises_nothing(self):
        checked = check(rows())
        self.assertEqual((checked.errors, checked.suspicions), ((), ()))

    def test_errors_name_their_line(self):
        cases = {
            "duplicate": ((4, 0, -15.0),),
            "order": ((4, 0, 47.5),),
            "resistance": ((4, 1, -3.0),),
            "temperature": ((4, 0, float("nan")),),
        }
        for kind, changes in cases.items():
            with self.subTest(kind):
                self.assertEqual(
                    [(remark.kind, remark.line) for remark in check(rows(*changes)).errors][:1], [(kind, 6)]
                )

    def test_a_mistyped_row_is_found_with_the_value_probably_meant(self):
        true = rows()[6].ohms  # 15330 at 0 °C
        for typed in (1533.0, 153300.0, 51330.0, 15.33):
            with self.subTest(typed):
                remark = (check(rows((6, 1, typed))).errors + check(rows((6, 1, typed))).suspicions)[0]
                self.assertEqual(remark.line, 8)
                self.assertAlmostEqual(remark.probable_ohms / true, 1, places=6)

    def test_a_row_that_is_off_but_still_falls_is_only_suspicious(self):
        checked = check(rows((6, 1, 17330.0)))
        self.assertEqual(checked.errors, ())
        self.assertEqual(
            [(remark.line, remark.probable_ohms) for remark in checked.suspicions], [(8, 15330.0)]
        )

    def test_fahrenheit_rows_become_celsius(self):
        checked = read_csv("fahrenheit,ohms\n32,15330\n77,5000\n")
        self.assertEqual([row.celsius for row in checked.rows], [0.0, 25.0])

    def test_text_that_is_no_table_is_refused_with_its_line(self):
        for text, words in {
            "": "empty",
            "a,b\n1,2": "line 1: the header",
            "celsius,ohms\n0;5": "line 2",
            "celsius,ohms\nx,5": "line 2: “x,5”",
        }.items():
            with self.subTest(text), self.assertRaisesRegex(CurveError, words):
                read_csv(text)

    def test_rows_that_put_another_beyond_any_resistance_are_read_all_the_same(self):
        for table in (
            [(-2.0, 1.0), (-1.0, 30003.0), (0.0, 2.0), (0.03125, 1.0), (8.0, 1.0)],
            [(-47.0, 1.0), (-1.0, 583544.0), (0.0, 2.0), (0.0625, 1.0)],
        ):
            found = read_csv(write_csv(tuple(table))).rows
            self.assertEqual([(row.celsius, row.ohms) for row in found], table)

    @given(
        st.lists(
            st.tuples(st.floats(-50, 150), st.floats(1, 1e6)),
            min_size=2,
            max_size=20,
            unique_by=lambda row: row[0],
        )
    )
    def test_a_table_written_and_read_again_is_exactly_the_same(self, table):
        self.assertEqual([(row.celsius, row.ohms) for row in read_csv(write_csv(tuple(table))).rows], table)


class Rows(TestCase):
    @given(st.lists(st.integers(0, 9), min_size=1, max_size=9))
    def test_the_longest_rising_run_is_the_longest_there_is(self, values):
        found = sorted(_longest_run([float(value) for value in values]))
        rising = [values[place] for place in found]
        self.assertEqual(rising, sorted(set(rising)))
        longer = combinations(values, len(found) + 1)
        self.assertFalse(any(list(run) == sorted(set(run)) for run in longer))

    @given(st.integers(5, 30), st.integers(1, 3), st.integers(0, 2**32 - 1))
    def test_leaving_rows_out_by_one_factorisation_is_leaving_each_out(self, count, degree, seed):
        rng = np.random.default_rng(seed)
        powers = np.vander(np.sort(rng.uniform(-1, 1, count)), degree + 1)
        logs, kept = rng.normal(size=count), np.ones(count, bool)
        kept[rng.integers(count)] = count < degree + 5
        misses, rests = _left_out(powers, logs, kept)
        for place in np.flatnonzero(kept):
            others = kept.copy()
            others[place] = False
            line, *_ = np.linalg.lstsq(powers[others], logs[others], rcond=None)
            left = np.sqrt(np.mean((logs[others] - powers[others] @ line) ** 2))
            scale = 1 + abs(misses[place])
            self.assertAlmostEqual(misses[place] / scale, (logs[place] - powers[place] @ line) / scale, 5)
            self.assertAlmostEqual(rests[place] / scale, left / scale, 5)
        self.assertTrue(np.isinf(rests[~kept]).all())

    def test_more_rows_than_a_table_has_are_refused(self):
        for count, refused in ((MOST_ROWS, False), (MOST_ROWS + 1, True)):
            rows = [TableRow(step / 10, 9e5 - step, step) for step in range(count)]
            self.assertEqual([remark.kind for remark in check(rows).errors], ["too_many"] * refused)


class Pasted(TestCase):
    def understood(self, text, *units):
        table = recognise(text, *units)
        return (
            table.temperature_unit,
            table.resistance_unit,
            [(round(row.celsius, 6), row.ohms) for row in table.checked.rows],
        )

    def test_separators_decimal_marks_and_units_are_recognised(self):
        expected = [(0.0, 15330.0), (25.0, 5000.0)]
        cases = [
            "celsius,ohms\n0,15330\n25,5000",
            "T (°C)\tR (kΩ)\n0\t15.33\n25\t5.0",
            "temp degC;R kohm\n0;15,33\n25;5",
            "0 15,33\n25 5,0",
            "32\t15330\n77\t5000",
            "Fahrenheit\tOhm\n32\t15330\n77\t5000",
            "R (kohm)\tT (°C)\n15.33\t0\n5\t25",
        ]
        for text in cases:
            units = ("°F",) if text.startswith("32") else ()
            with self.subTest(text):
                self.assertEqual(self.understood(text, *units)[2], expected)

    def test_what_is_guessed_is_said_to_be_guessed(self):
        table = recognise("0\t15.33\n25\t5.0")
        self.assertEqual((table.temperature_unit, table.resistance_unit), ("°C", "kΩ"))
        self.assertIn("guessed: check it", table.understood)

    def test_exported_and_read_again_it_is_exactly_the_same(self):
        rows = recognise("Fahrenheit\tkohm\n-4\t44.06\n14\t25.47\n32\t15.33").checked.rows
        again = read_csv(write_csv(tuple((row.celsius, row.ohms) for row in rows))).rows
        self.assertEqual(
            [(row.celsius, row.ohms) for row in again], [(row.celsius, row.ohms) for row in rows]
        )

    def test_what_is_no_table_is_refused(self):
        for text in ("", "hello", "a\tb\n1\tx\n", "0\t5\n"):
            with self.subTest(text), self.assertRaises(CurveError):
                recognise(text)
