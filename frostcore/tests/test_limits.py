"""Every limit of the job just inside and just outside.

The figures are the job's, written here on their own: a limit that moves by a twentieth fails here.
"""

import json
import math
import unittest
from dataclasses import replace
from unittest.mock import patch

import numpy as np

from frostcore import cautions
from frostcore.circuit.build import build
from frostcore.circuit.element import Analysis, Branch, BranchKind, Circuit, Impedance
from frostcore.circuit.meter import MeterRange, Points, expect, falls_to, points
from frostcore.circuit.power import AtPlug, at_plug, draws, judge_plug
from frostcore.circuit.settle import Settled, settle
from frostcore.circuit.solver import Solved, rows_of
from frostcore.circuit.trace import verdict_of
from frostcore.curves.belief import believe
from frostcore.curves.divider import Divider
from frostcore.curves.kinds import ErrorKind, explain, guide_points
from frostcore.curves.known import KnownCurve
from frostcore.curves.model import BetaCurve
from frostcore.curves.settle import settle as settle_bath
from frostcore.curves.table import TableRow, check
from frostcore.curves.verdict import Limits, SensorPoint, expected_band, judge_sensor
from frostcore.display.decode import decode, read_blinks
from frostcore.display.frames import decode_frames, read_frames
from frostcore.display.rhythm import (
    REPEAT_PAUSE,
    Rhythm,
    Tap,
    _cost,
    _letters,
    _readings,
    _without_doubles,
    find_rhythm,
)
from frostcore.display.search import search
from frostcore.display.segments import looks_apart
from frostcore.errors import CurveError, SheetError
from frostcore.faults.table import Setup
from frostcore.parts.loads import judge_heater, judge_single_phase, judge_speed, judge_three_phase
from frostcore.parts.potentiometer import judge_potentiometer
from frostcore.parts.thermostat import ContactKind, Rating, judge_contact
from frostcore.quantity import Dimension, Quantity, State, format_duration, parse
from frostcore.report.handover import handover
from frostcore.sheet.load import load
from frostcore.sheet.model import Shown
from frostcore.tape.entries import ReadingTaken, TemperatureTaken
from frostcore.tape.moment import Moment
from frostcore.tape.reading import falls_due, fault_readings, judge_reading
from frostcore.tape.standing import plate_differences, stand
from frostcore.tape.take import questions_about
from frostcore.tests.demo_sheets import PATHS, demo_sheet
from frostcore.tests.test_tape import CALL, PLATE, UNPLUGGED, tape
from frostcore.verdict import Band

TB = demo_sheet("Tarnbeck TB-34")


def ohms(value):
    return Quantity(Dimension.RESISTANCE, float(value))


def volts(value):
    return Quantity(Dimension.VOLTAGE, float(value))


def kinds(judged):
    return [question.kind for question in judged.questions]


class Loads(unittest.TestCase):
    def test_a_heater_without_a_rating_is_one_of_100_to_700_watts(self):
        """230²/700 = 75.57 Ω, 230²/100 = 529 Ω."""
        for value, verdict in ((75.0, "low"), (76.0, "in_band"), (528.0, "in_band"), (530.0, "high")):
            self.assertEqual(judge_heater(230, ohms(value)).verdict, verdict, value)

    def test_a_rated_heater_has_8_per_cent_the_meter_1_and_its_leads_a_third_of_an_ohm(self):
        """230 W at 230 V: 230 Ω, 230·0.91 − 0.3 = 209.0 Ω to 230·1.09 + 0.3 = 251.0 Ω."""
        for value, verdict in (
            (208.995, "low"),
            (209.005, "in_band"),
            (250.995, "in_band"),
            (251.005, "high"),
        ):
            self.assertEqual(judge_heater(230, ohms(value), 230).verdict, verdict, value)

    def test_a_heater_under_an_ohm_is_a_short(self):
        self.assertEqual(judge_heater(230, ohms(0.99)).verdict, "short")
        self.assertEqual(judge_heater(230, ohms(1.01)).verdict, "low")

    def test_kilohms_taken_for_ohms_are_asked_about_either_way(self):
        for value, asked in ((0.0750, False), (0.0760, True), (0.528, True), (0.530, False), (76e3, True)):
            self.assertEqual("unit_slip" in kinds(judge_heater(230, ohms(value))), asked, value)

    def test_ohms_that_fit_the_other_mains_are_asked_about(self):
        """Under 180 V the other mains is 230 V (75.6 to 529 Ω), above it 120 V (20.57 to 144 Ω)."""
        cases = [(178, 400, True), (182, 400, False), (120, 528, True), (120, 530, False)]
        cases += [(230, 20.7, True), (230, 20.4, False)]
        for mains, value, asked in cases:
            self.assertEqual("other_mains" in kinds(judge_heater(mains, ohms(value))), asked, (mains, value))

    def test_a_winding_leaks_under_2_megohms(self):
        pairs = [ohms(10.0)] * 3
        self.assertEqual(judge_three_phase(pairs, ohms(1.98e6)).verdict, "low")
        self.assertEqual(judge_three_phase(pairs, ohms(2.02e6)).verdict, "in_band")

    def test_phases_differ_by_5_per_cent_the_meters_2_and_the_leads(self):
        """10, 10 and R: R − 10 = 0.07·(20 + R)/3 + 0.3 at R = 11.0239 Ω."""
        for value, verdict in ((11.022, "in_band"), (11.026, "high")):
            self.assertEqual(judge_three_phase([ohms(10), ohms(10), ohms(value)]).verdict, verdict, value)

    def test_run_to_start_is_the_sum_within_3_per_cent_and_two_leads(self):
        """10 + 20 = 30 Ω ± (0.9 + 0.6)."""
        for value, verdict in ((28.49, "low"), (28.51, "in_band"), (31.49, "in_band"), (31.51, "high")):
            self.assertEqual(judge_single_phase(ohms(10), ohms(20), ohms(value)).verdict, verdict, value)

    def test_a_fan_turns_within_15_per_cent_of_its_rating(self):
        for rpm, verdict in ((849, "low"), (851, "in_band"), (1149, "in_band"), (1151, "high")):
            self.assertEqual(judge_speed(rpm / 30, 2, 1000).verdict, verdict, rpm)


class Controls(unittest.TestCase):
    def pot(self, ends=10e3, stops=(), sweep=(100, 2500, 5000, 7400, 9700)):
        return judge_potentiometer(10e3, ohms(ends), [ohms(x) for x in stops], [ohms(x) for x in sweep])

    def test_end_to_end_within_a_fifth(self):
        for ends, verdict in ((7990, "low"), (8010, "in_band"), (11990, "in_band"), (12010, "high")):
            self.assertEqual(self.pot(ends, sweep=()).parts[0][1], verdict, ends)

    def test_end_to_end_under_2_per_cent_is_a_short(self):
        self.assertEqual(self.pot(199, sweep=()).verdict, "short")
        self.assertEqual(self.pot(201, sweep=()).verdict, "low")

    def test_a_stop_reads_at_most_3_per_cent(self):
        self.assertEqual(self.pot(stops=[299]).verdict, "in_band")
        self.assertEqual(self.pot(stops=[301]).verdict, "high")

    def test_a_wiper_5_per_cent_above_the_track_has_lifted(self):
        self.assertNotIn("more than the whole", self.pot(sweep=(100, 3500, 7000, 10499)).reason)
        self.assertIn("more than the whole", self.pot(sweep=(100, 3500, 7000, 10501)).reason)

    def test_a_wiper_may_go_back_by_1_per_cent(self):
        self.assertEqual(self.pot(sweep=(100, 2500, 5000, 4901, 7400, 9700)).verdict, "in_band")
        self.assertIn("goes back", self.pot(sweep=(100, 2500, 5000, 4899, 7400, 9700)).reason)

    def test_a_sweep_has_four_places(self):
        self.assertEqual(self.pot(sweep=(100, 5000, 9700)).verdict, "unclear")
        self.assertEqual(self.pot(sweep=(100, 3300, 6500, 9700)).verdict, "in_band")
        self.assertIn("jumps", self.pot(sweep=(100, 1600, 3100, 9700)).reason)

    def test_a_jump_is_1_7_times_the_usual_step_and_a_quarter_of_the_track(self):
        for step, jumps in ((2540, False), (2560, True)):
            self.assertEqual("jumps" in self.pot(sweep=np.cumsum([1, 1500, 1500, step, 1500])).reason, jumps)
        for step, jumps in ((2490, False), (2510, True)):
            self.assertEqual("jumps" in self.pot(sweep=np.cumsum([1, 1000, 1000, step, 1000])).reason, jumps)

    def test_a_contact_is_closed_up_to_2_ohms(self):
        fuse = Rating(72, 0, "°C")
        self.assertEqual(judge_contact(ContactKind.THERMAL_FUSE, fuse, 20, ohms(1.98)).verdict, "in_band")
        self.assertEqual(judge_contact(ContactKind.THERMAL_FUSE, fuse, 20, ohms(2.02)).verdict, "high")

    def test_a_stamp_is_held_to_3_kelvin_and_the_thermometer_to_1(self):
        """Opens at 13 °C, closes at −5 °C: judged below −9 °C and above 17 °C."""
        rating = Rating(13, 18, "°C")
        for celsius, expected in ((-9.02, "closed"), (-8.98, "either"), (16.98, "either"), (17.02, "open")):
            found = judge_contact(ContactKind.BIMETAL, rating, celsius, ohms(0.4))
            self.assertEqual(found.expected, expected, celsius)


class Sensors(unittest.TestCase):
    curve = BetaCurve(5000, 3950, 25.0)

    def test_a_divider_ends_1_per_cent_before_its_rails_and_refuses_5_per_cent_beyond(self):
        divider = Divider(5.0, 10e3)
        for value, state in ((0.0495, "short"), (0.0505, "value"), (4.9495, "value"), (4.9505, "open")):
            self.assertEqual(divider.resistance(value).state, state, value)
        for value in (-0.24, 5.24):
            divider.resistance(value)
        for value in (-0.26, 5.26):
            with self.assertRaises(CurveError):
                divider.resistance(value)

    def test_a_pull_up_is_held_to_1_per_cent(self):
        self.assertAlmostEqual(Divider(5.0, 10e3).doubt_share(2.5, 0.0), 0.01, places=9)

    def test_a_sensor_has_10_per_cent_its_thermometer_half_a_kelvin_its_meter_1_per_cent(self):
        """The three multiply: R(T ∓ 0.5 K)·(1 ± 0.1)·(1 ± 0.01)."""
        at = [5000 * math.exp(3950 * (1 / (273.15 + t) - 1 / 298.15)) for t in (-0.5, 0.5)]
        band = expected_band(self.curve, 0.0, Limits())
        self.assertAlmostEqual(band.high / (at[0] * 1.1 * 1.01), 1, places=9)
        self.assertAlmostEqual(band.low / (at[1] * 0.9 * 0.99), 1, places=9)

    def test_a_short_is_under_2_per_cent_of_the_least_a_curve_has(self):
        """The curve's least is at 100 °C; at 0 °C the band is far above it."""
        least = 0.02 * 5000 * math.exp(3950 * (1 / 373.15 - 1 / 298.15))
        cold = Quantity(Dimension.TEMPERATURE, 0.0)
        for share, verdict in ((0.99, "short"), (1.01, "low")):
            found = judge_sensor(self.curve, SensorPoint(ohms(least * share), cold), Limits())
            self.assertEqual(found.verdict, verdict)

    def test_a_cabinet_within_3_kelvin_is_explained_by_its_sensor(self):
        """Set to 4 °C with an error of −6 K, the cabinet settles at 10 °C."""
        for found, explains in ((7.02, True), (6.98, False), (12.98, True), (13.02, False)):
            self.assertIs(believe(4.0, -6.0, found).explains, explains, found)
        self.assertIn("at its setting all the same", believe(4.0, -6.0, 6.98).text)
        self.assertIn("look further", believe(4.0, -6.0, 0.98).text)

    def test_an_ice_bath_needs_three_readings_to_estimate_and_four_to_judge(self):
        self.assertIsNone(settle_bath([0, 1e4], [16e3] * 2).settled_ohms)
        self.assertIsNotNone(settle_bath([0, 1e4, 2e4], [16e3] * 3).settled_ohms)
        self.assertFalse(settle_bath([0, 1e4, 2e4], [16e3] * 3).ready)
        self.assertTrue(settle_bath([0, 1e4, 2e4, 3e4], [16e3] * 4).ready)

    def test_it_has_settled_when_the_doubt_is_a_quarter_of_the_tolerance(self):
        """Long past every time constant, n readings of one value leave 0.2 %/√(n − 1) of doubt: here
        0.1 %, which is a quarter of 0.4 %."""
        flat = ([0, 1e4, 2e4, 3e4, 4e4], [16e3] * 5)
        self.assertAlmostEqual(settle_bath(*flat).doubt_ohms, 16.0, delta=0.1)
        self.assertTrue(settle_bath(*flat, tolerance=0.00405).ready)
        self.assertFalse(settle_bath(*flat, tolerance=0.00395).ready)

    def test_it_waits_15_seconds_to_5_minutes(self):
        fast = settle_bath([0, 60, 120], [40e3, 16e3, 16e3])
        times = [0, 400, 800]
        slow = settle_bath(times, [16e3 + 20e3 * math.exp(-t / 600) for t in times])
        self.assertEqual((fast.wait_seconds, slow.wait_seconds), (15.0, 300.0))


class KindsOfError(unittest.TestCase):
    """Costs are in χ²: twice the logarithm of how much likelier another kind is that fits as well."""

    curve = BetaCurve(5000, 3650)
    limits = Limits(0.05, 0.5, 0.01)

    def points(self, *at, curve=None, series=0.0):
        return [self.point(celsius, (curve or self.curve).ohms(celsius) + series) for celsius in at]

    def point(self, celsius, value=None):
        resistance = ohms(value) if value else Quantity(Dimension.RESISTANCE, None, State.OPEN)
        return SensorPoint(resistance, Quantity(Dimension.TEMPERATURE, float(celsius)))

    def cost(self, points, kind, than=ErrorKind.NONE, library=()):
        weights = {fit.kind: fit.weight for fit in explain(self.curve, points, self.limits, library).kinds}
        return 2 * math.log(weights[than] / weights[kind])

    def test_each_kinds_freedom_has_its_cost_where_all_fit(self):
        on = self.points(22, 0, -18)
        self.assertAlmostEqual(self.cost(on, ErrorKind.SERIES_RESISTANCE), 4, delta=0.01)
        self.assertAlmostEqual(self.cost(on, ErrorKind.PARALLEL_LEAKAGE), 4, delta=0.01)
        self.assertAlmostEqual(self.cost(on, ErrorKind.SCALE), 8, delta=0.01)

    def test_a_curve_that_is_another_costs_4_a_generic_one_2_more_one_nobody_knows_10_more(self):
        """On a curve 1.3 times its own both a scale error (8) and another curve fit to the last digit."""
        other = BetaCurve(6500, 3650)
        readings = self.points(22, 0, -18, curve=other)
        found = self.cost(readings, ErrorKind.SCALE, ErrorKind.SHIFTED_CURVE)
        self.assertAlmostEqual(found, 8 - 14, delta=0.01)
        for source, cost in (("Another unit", 4), ("generic", 6)):
            known = KnownCurve("other", "other", other, source)
            found = self.cost(readings, ErrorKind.SCALE, ErrorKind.SHIFTED_CURVE, (known,))
            self.assertAlmostEqual(found, 8 - cost, delta=0.01, msg=source)

    def test_another_beta_costs_what_a_known_curve_does(self):
        """Of 5 kΩ at 25 °C and a Beta in the grid, another Beta and a known curve fit alike."""
        other = BetaCurve(5000, 3000)
        readings = self.points(22, 0, -18, curve=other)
        known = KnownCurve("other", "other", other, "Another unit")
        with_it, without = (
            self.cost(readings, ErrorKind.SHIFTED_CURVE, ErrorKind.PARALLEL_LEAKAGE, library)
            for library in ((known,), ())
        )
        self.assertAlmostEqual(without - with_it, 0, delta=0.01)

    def test_an_intermittent_joint_costs_6_and_6_for_each_stray_and_an_open_reading_costs_others_30(self):
        """A stray's own width, ln(σ²) of a reading at 0 °C, is added to each."""
        alpha = 3650 / 273.15**2
        width = math.log(0.01**2 / 3 + (alpha * 0.5) ** 2 / 3)
        for lost in (1, 2):
            points = [*self.points(22, -18), *[self.point(0)] * lost]
            found = self.cost(points, ErrorKind.INTERMITTENT)
            # Of the two readings that fit, both kinds have the same misfit.
            self.assertAlmostEqual(found, 6 + lost * (6 + width - 30), delta=0.05, msg=str(lost))

    def test_a_kind_is_named_from_a_weight_of_four_fifths(self):
        """The weight of series resistance rises with it; until then all readings fit their band."""
        for wanted, named in ((0.79, ErrorKind.NONE), (0.81, ErrorKind.SERIES_RESISTANCE)):
            low, high = 10.0, 1e4
            for _ in range(40):
                series = (low + high) / 2
                found = explain(self.curve, self.points(22, 0, -18, series=series), self.limits)
                weights = {fit.kind: fit.weight for fit in found.kinds}
                above = weights[ErrorKind.SERIES_RESISTANCE] > wanted
                low, high = (low, series) if above else (series, high)
            self.assertAlmostEqual(weights[ErrorKind.SERIES_RESISTANCE], wanted, delta=0.005)
            self.assertEqual(found.kind, named)

    def test_a_meter_tells_no_better_than_3_parts_in_a_thousand(self):
        for meter, tells in ((0.0, 0.003), (0.0029, 0.003), (0.0031, 0.0031)):
            self.assertEqual(Limits(0.05, 0.5, meter).meter_tells, tells)

    def test_curves_within_2_per_cent_are_one_however_good_the_sensor(self):
        limits = Limits(0.005, 0.5, 0.01)
        for apart, other in ((1.0199, False), (1.0204, True)):
            known = KnownCurve("near", "near", BetaCurve(5000 * apart, 3650), "Another unit")
            found = explain(self.curve, self.points(22), limits, (known,))
            self.assertIs(ErrorKind.SHIFTED_CURVE in {fit.kind for fit in found.kinds}, other)

    def test_a_curve_nobody_knows_has_a_beta_of_1500_to_6000(self):
        for beta, likely in ((1490, False), (1510, True), (5990, True), (6010, False)):
            readings = self.points(22, 0, -18, curve=BetaCurve(6500, beta))
            found = explain(self.curve, readings, self.limits)
            fit = next(fit for fit in found.kinds if fit.kind is ErrorKind.SHIFTED_CURVE)
            self.assertIs(abs(fit.parameters["r25_ohms"] - 6500) < 1, likely, beta)

    def test_near_the_reference_the_doubt_about_ohms_stops_at_nine_tenths(self):
        """5 V through 10 kΩ: at 4.944 V 1 % of volts is 89 % of ohms, and the pull-up 1 %."""
        divider, limits = Divider(5.0, 10e3), Limits(0.05, 0.5, 0.01)
        for volts, meter in ((4.0, 0.06), (4.9435, 0.895), (4.944, 0.9)):
            self.assertAlmostEqual(divider.widened(limits, volts).meter, meter, places=3)

    def test_an_error_of_a_twentieth_of_a_kelvin_is_told(self):
        for error, told in ((0.049, False), (0.051, True)):
            self.assertIs("colder than set" in believe(4.0, error).text, told)

    def test_a_row_is_mistyped_by_how_far_it_is_off_the_others(self):
        """15 % of ln R on a straight line of four rows, 6 % of five, 3 % of six and more."""
        for count, floor in ((4, 0.15), (5, 0.06), (6, 0.03), (9, 0.03)):
            for times, found in ((0.99, False), (1.01, True)):
                rows = [TableRow(10.0 * line, 0.0, line) for line in range(count)]
                rows = [replace(row, ohms=float(self.curve.ohms(row.celsius))) for row in rows]
                rows[1] = replace(rows[1], ohms=rows[1].ohms * math.exp(floor * times))
                said = [remark for remark in check(rows).suspicions if remark.kind == "mistyped"]
                self.assertEqual(bool(said), found, (count, times))

    def test_a_row_is_mistyped_when_six_times_as_far_off_as_the_others(self):
        scatter = [0.01, -0.01, 0.0, 0.01, -0.01, 0.01, -0.01, 0.0, 0.01, -0.01]
        rows = [TableRow(10.0 * line - 20, 0.0, line) for line in range(len(scatter))]
        rows = [
            replace(row, ohms=float(self.curve.ohms(row.celsius)) * math.exp(off))
            for row, off in zip(rows, scatter, strict=True)
        ]
        low, high = 0.0, 0.3
        for _ in range(40):
            off = (low + high) / 2
            tried = [*rows[:4], replace(rows[4], ohms=rows[4].ohms * math.exp(off)), *rows[5:]]
            said = any(remark.kind == "mistyped" for remark in check(tried).suspicions)
            low, high = (low, off) if said else (off, high)
        times = 1 / (273.15 + np.array([row.celsius for row in rows]))
        powers = np.vander((times - times.mean()) / np.ptp(times), 4)
        others = np.arange(len(rows)) != 4
        logs = np.log([row.ohms for row in tried])
        line, *_ = np.linalg.lstsq(powers[others], logs[others], rcond=None)
        left = np.sqrt(np.mean((logs[others] - powers[others] @ line) ** 2))
        self.assertAlmostEqual(abs(logs[4] - powers[4] @ line) / left, 6, places=3)

    def test_no_reading_stands_for_a_temperature_no_refrigerator_has(self):
        for celsius, told in ((-60.1, False), (-59.9, True), (99.9, True), (100.1, False)):
            point = self.point(25, self.curve.ohms(celsius))
            found = judge_sensor(self.curve, point, self.limits)
            self.assertEqual(found.implied_celsius is not None, told, celsius)
            self.assertIs("the wrong kind of sensor" in found.reason, not told)

    def test_at_most_two_curves_are_named_that_a_far_reading_is_right_for(self):
        """15 Ω at 25 °C is nothing of a 5 kΩ sensor; three known curves have it, those of sheets first."""
        curves = [
            KnownCurve(name, name, BetaCurve(15, beta), source)
            for name, beta, source in (("g1", 3435, "generic"), ("s1", 3500, "A 1"), ("s2", 3600, "B 2"))
        ]
        found = explain(self.curve, [self.point(25, 15)], self.limits, curves)
        self.assertIn("It would be right for s1 or s2.", found.text)
        none = explain(self.curve, [self.point(25, 15)], self.limits, ())
        self.assertIn("No curve that is known here reads so", none.text)
        near = explain(self.curve, [self.point(25, 4000)], self.limits, curves)
        self.assertNotIn("would be right", near.text)

    def test_two_temperatures_are_5_kelvin_apart(self):
        for warm, apart in ((4.9, False), (5.1, True)):
            found = explain(self.curve, self.points(0, warm, series=9e3), self.limits)
            self.assertIs(found.borne_out, apart)

    def test_a_reading_within_8_kelvin_of_a_guide_point_is_taken_there(self):
        """The points are the freezer at −18 °C, an ice bath at 0 °C, the room at 22 °C."""
        cases = [(-25.9, -18), (-26.1, None), (-10.1, -18), (-9.9, None), (7.9, 0), (8.1, None)]
        for celsius, at in (*cases, (13.9, None), (14.1, 22), (29.9, 22), (30.1, None)):
            point = SensorPoint(ohms(5e3), Quantity(Dimension.TEMPERATURE, celsius))
            taken = [
                where
                for where, _, found in guide_points([judge_sensor(self.curve, point, self.limits)])
                if found
            ]
            self.assertEqual(taken, [] if at is None else [at], celsius)

    def test_the_guide_goes_where_kinds_part_most_and_nothing_is_taken_yet(self):
        """The hand at 35 °C is left when freezer, ice and room are taken; taken too, the joints are moved."""
        for hand, asked in ((26.9, 35.0), (27.1, None)):
            other = BetaCurve(5400, 3650)
            points = self.points(-18, 0, 22, hand, curve=other, series=200)
            found = explain(self.curve, points, self.limits)
            self.assertEqual(found.kind, ErrorKind.CANNOT_TELL)
            self.assertEqual(found.next_celsius, asked, hand)


def by_hand(*branches, live=True):
    built = Circuit("test", live, 50.0, 230.0, "earth", branches, (), frozenset())
    rows = {part: Solved(built, part, rows_of(built, [""] * len(branches), part)) for part in Analysis}
    return Settled(built, ("",) * len(branches), (), rows)


def branch(name, a, b, impedance, kind=BranchKind.LOAD):
    return Branch(name, a, b, kind, name, name, {"": impedance}, "")


def read_across(meter, *branches, a="a"):
    return expect(by_hand(*branches, live=meter.live), Points(a, "earth", a, "earth"), meter)


class Meter(unittest.TestCase):
    """A source of 100 V behind R, read between its end and the chassis; 10 GΩ of insulation beside."""

    def source(self, meter, behind):
        emf = {"dc_volts": 100.0} if meter is MeterRange.VDC else {"ac_volts": 100.0}
        return read_across(meter, branch("s", "a", "earth", Impedance(behind, **emf)))

    def test_it_loads_with_10_megohms_and_with_3_kilohms_on_the_low_impedance_range(self):
        for meter, shunt in ((MeterRange.VAC, 10e6), (MeterRange.VDC, 10e6), (MeterRange.VAC_LOZ, 3e3)):
            found = self.source(meter, 1e5)
            self.assertAlmostEqual(found.value, 100 / (1 + 1e5 / shunt + 1e5 / 1e10), delta=1e-4)

    def test_its_band_is_1_per_cent_and_its_floor(self):
        for meter, floor in ((MeterRange.VAC, 0.3), (MeterRange.VDC, 0.05), (MeterRange.VAC_LOZ, 0.5)):
            found = self.source(meter, 0.1)
            self.assertAlmostEqual(found.high - found.value, 0.01 * found.value + floor, places=6)
        found = read_across(MeterRange.OHM, branch("r", "a", "earth", Impedance(200.0)))
        self.assertAlmostEqual(found.high - found.value, 2.0 + 0.3, places=4)

    def test_electronics_are_firm_up_to_a_tenth_of_what_is_measured(self):
        """110 Ω of 1,110 is 9.9 %, 112 of 1,112 is 10.1 %."""
        for ohms, firm in ((110.0, True), (112.0, False)):
            loose = branch("loose", "b", "earth", Impedance(ohms, firm=False))
            found = read_across(MeterRange.OHM, branch("r", "a", "b", Impedance(1000.0)), loose)
            self.assertEqual((found.firm, bool(found.why), bool(found.band)), (firm, not firm, firm), ohms)

    def test_below_25_ohms_even_electronics_are_shorted(self):
        loose = read_across(MeterRange.OHM, branch("r", "a", "earth", Impedance(500.0, firm=False)))
        for value, verdict in (
            (11.0, "short"),
            (24.9, "short"),
            (25.1, "unclear"),
            (500.0, "unclear"),
            (3e6, "unclear"),
        ):
            self.assertEqual(verdict_of(loose, ohms(value)), verdict, value)
        opened = Quantity(Dimension.RESISTANCE, None, State.OPEN)
        self.assertEqual(verdict_of(loose, opened), "unclear")

    def test_a_loop_above_a_megohm_is_open(self):
        for value, verdict in ((0.99e6, "high"), (1.01e6, "open")):
            loop = read_across(MeterRange.OHM, branch("r", "a", "earth", Impedance(240.0)))
            self.assertEqual(verdict_of(loop, ohms(value)), verdict, value)
        for of, verdict in ((98e3, "open"), (100e3, "high")):  # its band ends 1 % and 0.3 Ω above
            loop = read_across(MeterRange.OHM, branch("r", "a", "earth", Impedance(of)))
            self.assertEqual(verdict_of(loop, ohms(2e6)), verdict, of)

    def test_from_100_kilohms_electronics_may_as_well_show_ol(self):
        """Behind an open thermostat only the clock's and the board's inputs are left: 680 kΩ, or OL."""
        fk, opened = demo_sheet("Fennick FK-18"), Quantity(Dimension.RESISTANCE, None, State.OPEN)
        setup = Setup(fk.resting_mode, MeterRange.OHM)
        found = {item.fault.id: item for item in fault_readings(fk, setup, "plug.l", "plug.n", opened)}
        loose = [item for item in found.values() if item.text.endswith("or OL")]
        self.assertTrue(loose)
        for item in loose:
            self.assertGreaterEqual(item.value, 100e3)
            self.assertTrue(item.fits)
        self.assertTrue(found["thermostat:stuck_open"].fits, found["thermostat:stuck_open"])
        board = fk.boards[0]
        for off, fits in ((99e3, False), (101e3, True)):
            feed = replace(board.feed, off_ohms=off)
            unit = replace(fk, boards=(replace(board, feed=feed),))
            known = fault_readings(unit, setup, "plug.l", "plug.n", opened)
            stuck = next(item for item in known if item.fault.id == "thermostat:stuck_open")
            self.assertIs(stuck.fits, fits, off)

    def test_above_40_megohms_it_is_open(self):
        """R beside 10 GΩ of insulation."""
        for value, opened in ((39.8e6, False), (40.4e6, True)):
            found = read_across(MeterRange.OHM, branch("r", "a", "earth", Impedance(value)))
            self.assertEqual(found.value is None, opened, value)

    def across(self, *branches):
        return read_across(MeterRange.VAC, *branches)

    def stray(self, ohms, volts=100.0):
        """A source behind so many ohms of capacitance at 50 Hz."""
        farads = 1 / (2 * math.pi * 50 * ohms)
        return branch("s", "a", "earth", Impedance(0.0, farads=farads, ac_volts=volts))

    def test_a_phantom_falls_below_three_fifths_on_the_low_impedance_range(self):
        """3 kΩ beside jX: 3/√(3² + X²) = 0.6 at X = 4 kΩ."""
        for ohms, phantom in ((3.95e3, False), (4.05e3, True), (265e3, True)):
            self.assertEqual(self.across(self.stray(ohms)).phantom, phantom, ohms)
            share = 3 / math.hypot(3, ohms / 1e3)
            self.assertAlmostEqual(falls_to(-1j * ohms), share, places=3)

    def test_a_phantom_has_over_3_volts_and_is_known_to_a_factor_of_3(self):
        for volts, phantom in ((2.97, False), (3.03, True)):
            self.assertEqual(self.across(self.stray(1e4, volts)).phantom, phantom, volts)
        found = self.across(self.stray(1e6, 30.0))
        error = 0.01 * found.value + 0.3
        self.assertAlmostEqual(found.high, 3 * found.value + error, places=6)
        self.assertAlmostEqual(found.low, found.value / 3 - error, places=6)

    def test_what_conducts_below_100_kilohms_leaks_and_is_no_phantom(self):
        for ohms, leaks in ((99e3, True), (101e3, False)):
            found = self.across(self.stray(265e3), branch("load", "a", "earth", Impedance(ohms)))
            self.assertEqual((found.leak, found.phantom), (leaks, not leaks), ohms)
        small = self.across(self.stray(265e3), branch("load", "a", "earth", Impedance(9e3)))
        self.assertIn("a leak through an output that is off", small.words)

    def test_a_rail_draws_a_quarter_more_at_the_plug_than_it_gives(self):
        """12 V into 12 Ω: 12 W, 15 W at the plug through a supply of 80 %."""
        settled = by_hand(
            branch("wall", "l", "earth", Impedance(0.0, ac_volts=230.0), BranchKind.SOURCE),
            branch("rail", "a", "earth", Impedance(0.0, dc_volts=12.0), BranchKind.SOURCE),
            branch("fan", "a", "earth", Impedance(12.0)),
        )
        self.assertAlmostEqual(at_plug(settled).watts, 15.0, places=3)
        self.assertAlmostEqual(draws(settled)[0].watts, 15.0, places=3)

    def test_amperes_are_judged_while_a_tenth_of_the_watts_has_no_known_power_factor(self):
        for unknown, tells in ((0.099, True), (0.101, False)):
            self.assertIs(AtPlug(100.0, Band(0.4, 0.5, 0.6), unknown).tells_amperes, tells)

    def test_a_rectifiers_pulses_add_to_its_watts(self):
        """60 W at a power factor of 0.6 take 60/(230·0.6) A, beside 100 W of heat (160/230)² + (60/230)²·
        (1/0.36 − 1)."""
        wall = branch("wall", "l", "earth", Impedance(0.0, ac_volts=230.0), BranchKind.SOURCE)
        bridge = branch("bridge", "l", "earth", Impedance(230**2 / 60, power_factor=(0.6, 0.6)))
        heater = branch("heater", "l", "earth", Impedance(230**2 / 100))
        for loads, amperes in (
            ((bridge,), 60 / (230 * 0.6)),
            ((bridge, heater), math.hypot(160 / 230, 60 / 230 * math.sqrt(1 / 0.36 - 1))),
        ):
            found = at_plug(by_hand(wall, *loads))
            self.assertAlmostEqual(found.amperes.nominal, amperes, places=4)
            self.assertEqual((found.unknown, found.tells_amperes), (0.0, True))

    def test_amperes_of_unknown_power_factor_are_not_judged_and_nothing_drawn_is_a_proof(self):
        ondrel = demo_sheet("Ondrel OR-620")
        found = judge_plug(settle(build(ondrel, "normal")), 2.0, amperes=True)
        self.assertEqual(found.verdict, "unclear")
        self.assertIn("power factor", found.reason)
        self.assertLess(found.band.low, found.band.high / 1.3)
        nothing = judge_plug(settle(build(demo_sheet("Fennick FK-18"), "cut_out")), 0.0)
        self.assertEqual(nothing.verdict, "in_band", nothing)
        self.assertIn("nothing draws", nothing.reason)

    def test_what_takes_a_tenth_of_a_watt_is_listed(self):
        for ohms, listed in ((10.1, 0), (9.9, 1)):  # 1 V: 99 mW and 101 mW
            settled = by_hand(
                branch("wall", "l", "earth", Impedance(0.0, ac_volts=1.0), BranchKind.SOURCE),
                branch("load", "l", "earth", Impedance(ohms)),
            )
            self.assertEqual(len(draws(settled)), listed)

    def test_the_plug_is_read_to_12_per_cent_and_3_watts(self):
        settled = settle(build(TB, "defrost"))
        watts = at_plug(settled).watts
        for edge, inside in ((1.12 * watts + 3, -0.05), (0.88 * watts - 3, 0.05)):
            self.assertEqual(judge_plug(settled, edge + inside).verdict, "in_band")
            self.assertNotEqual(judge_plug(settled, edge - inside).verdict, "in_band")


def taken(value, meter="vac", red="CN2.5", black="CN2.6", mode="normal"):
    return ReadingTaken("reading", meter, volts(value), red, black, mode=mode, pulled=())


class Tape(unittest.TestCase):
    def test_from_half_the_mains_on_an_output_may_be_on(self):
        """At 230 V: 115 V. Below, volts that no fault holds on the low-impedance range are a phantom."""
        for value, phantom in ((5.0, True), (114.0, True), (116.0, False), (229.0, False)):
            found = judge_reading(Moment(TB), taken(value))
            self.assertEqual((found.phantom, found.confirm), (phantom, True), value)

    def test_a_fault_fits_within_a_tenth_and_the_meters_floor(self):
        """|v − t| ≤ 0.1·max(v, t) + 0.3 V: the largest t is (v + 0.3)/0.9."""
        setup = Setup("normal", MeterRange.VAC)
        shown = next(
            item
            for item in fault_readings(TB, setup, "CN2.5", "CN2.6")
            if item.fault.id == "bimetal:stuck_open"
        )
        for edge, inside in (((shown.value + 0.3) / 0.9, -0.005), (0.9 * shown.value - 0.3, 0.005)):
            for step, fits in ((inside, True), (-inside, False)):
                found = fault_readings(TB, setup, "CN2.5", "CN2.6", volts(edge + step))
                self.assertIs(next(x for x in found if x.fault.id == shown.fault.id).fits, fits)

    def test_an_output_is_on_from_3_volts_and_has_fallen_under_30_per_cent(self):
        for value, due in ((2.95, 0), (3.05, 1)):
            self.assertEqual(len(falls_due(TB, [(taken(value), True)], "normal")), due, value)
        settled = settle(build(TB, "normal"))
        leads = points(TB, settled.circuit, "CN1.1", "CN1.2", MeterRange.VAC)
        mains = expect(settled, leads, MeterRange.VAC).value
        for value, due in ((mains / 0.3 - 1, 0), (mains / 0.3 + 1, 1)):
            reading = taken(value, red="CN1.1", black="CN1.2")
            self.assertEqual(len(falls_due(TB, [(reading, True)], "normal")), due)

    def test_volts_contradict_a_pulled_plug_from_1_volt(self):
        moment = Moment(TB).after(UNPLUGGED, {})
        for value, asked in ((0.98, False), (1.02, True)):
            found = [question.kind for question in questions_about(moment, taken(value))]
            self.assertEqual("volts_unplugged" in found, asked, value)

    def test_a_plate_differs_from_the_sheet_by_more_than_a_tenth(self):
        for mains, differs in ((207.5, 0), (206.5, 1), (252.5, 0), (253.5, 1)):
            found = plate_differences(stand(TB, tape(CALL, replace(PLATE, mains_volts=mains))))
            self.assertEqual(sum("mains" in line for line in found), differs, (mains, found))

    def test_food_is_in_doubt_above_8_degrees_and_in_a_freezer_above_minus_9(self):
        for place in TB.compartments:
            limit = {"fridge": 8.0, "freezer": -9.0}[place.compartment]
            for celsius, warm in ((limit - 0.1, False), (limit + 0.1, True)):
                found = TemperatureTaken(
                    "temperature_taken", place.id, Quantity(Dimension.TEMPERATURE, celsius)
                )
                advice = " ".join(handover(stand(TB, tape(CALL, found))).advice)
                self.assertEqual(cautions.FOOD in advice, warm, (place.id, celsius))

    def test_a_sensors_newest_twelve_readings_are_weighed(self):
        sensor, cold = TB.sensors[0], Quantity(Dimension.TEMPERATURE, 0.0)
        bodies = [
            ReadingTaken("reading", "ohm", ohms(16e3 + n), sensor=sensor.id, temperature=cold)
            for n in range(14)
        ]
        for count, weighed in ((11, 11), (12, 12), (14, 12)):
            with patch("frostcore.tape.standing.explain") as explain:
                stand(TB, tape(CALL, *bodies[:count])).error_kinds(sensor, ())
            points = explain.call_args.args[1]
            self.assertEqual(len(points), weighed)
            self.assertEqual(points[-1].resistance.value, 16e3 + count - 1)


class Writing(unittest.TestCase):
    def test_each_prefix_is_a_thousand_of_the_next(self):
        for typed, wanted in (
            ("5pV", 5e-12),
            ("5nV", 5e-9),
            ("5uV", 5e-6),
            ("5mV", 5e-3),
            ("5kV", 5e3),
            ("5MV", 5e6),
            ("5GV", 5e9),
        ):
            self.assertAlmostEqual(parse(typed, Dimension.VOLTAGE).value / wanted, 1, places=12)

    def test_a_time_keeps_its_minutes_and_seconds(self):
        for seconds, text in (
            (89, "89 s"),
            (90, "1 min 30 s"),
            (149, "2 min 29 s"),
            (300, "5 min"),
            (5399, "89 min 59 s"),
            (5400, "1 h 30 min"),
            (7265, "2 h 1 min 5 s"),
        ):
            self.assertEqual(format_duration(seconds), text)
            self.assertEqual(parse(text, Dimension.DURATION).value, seconds, text)
        self.assertEqual(parse("1h5min", Dimension.DURATION).value, 3900)

    def test_a_sheets_id_has_up_to_60_letters(self):
        document = json.loads(PATHS[0].read_text(encoding="utf-8"))
        for length, fits in ((60, True), (61, False)):
            text = json.dumps(document | {"id": "a" * length})
            if fits:
                self.assertEqual(load(text).sheet.id, "a" * length)
            else:
                with self.assertRaises(SheetError):
                    load(text)


class Displays(unittest.TestCase):
    """E is segments adefg, 5 is acdfg."""

    def distance(self, seen, *, text="E5", frames=()):
        shown = Shown("frames", frames=frames) if frames else Shown("digits", text=text)
        sheet = replace(TB, codes=(replace(TB.codes[0], shown=shown),))
        found = decode_frames(sheet, read_frames(seen))
        return found[0].distance if found else None

    def test_what_a_segment_or_frame_that_differs_costs(self):
        cases = (
            ("[adefg][acdfg]", (), 0.0),
            ("[adef][acdfg]", (), 0.35),  # dark in all frames: it may be dead
            ("[adefg][acdefg]", (), 0.5),  # lit in all frames: it may be stuck
            ("[adefg][acdfg] / [adef][acdfg]", (), 1.0),  # dark in one of two: it is wrong
            ("E5", ("E5", "--"), 0.5),  # a frame not seen
            ("E5 / 88", (), 0.4),  # a screen of another kind
        )
        for seen, frames, cost in cases:
            self.assertAlmostEqual(self.distance(seen, frames=frames), cost, places=9, msg=seen)

    def test_a_code_may_differ_by_1_5_a_digit(self):
        """Four dead and three stuck segments cost 2.9, three dead and four stuck 3.05."""
        self.assertAlmostEqual(self.distance("[efgbc][dfgb]"), 2.9, places=9)
        self.assertIsNone(self.distance("[efgbc][cdfgbe]"))

    def test_what_is_typed_may_differ_by_half_a_character_each(self):
        sheet = replace(TB, codes=(replace(TB.codes[0], shown=Shown("digits", text="E5")),))
        for typed, distance in (("3S", 0.9571), ("E", 1.0), ("FF", None)):  # FF is 1.05 away
            found = [match.distance for match in decode(sheet, typed)]
            self.assertEqual([round(each, 4) for each in found], [distance] if distance else [], typed)

    def test_what_a_split_of_pauses_costs(self):
        """A class of pauses 3, a group of the pattern 3.5, a repeat that dissents 3, a stray pause 9."""
        one, two = (math.inf, math.inf), (1.0, 1.0)
        cases = (
            ("ssss", [0.5, 0.5, 0.5], one, 3 + 3.5),
            ("ssss", [0.5, 2.0, 0.5], two, 2 * 3 + 3.5),
            ("sssss", [0.5, 2.0, 0.5, 0.5], two, 2 * 3 + 3.5 + 3),
            ("ssss", [0.5, 0.5, 5.0], one, 3 + 9 + 3.5),
            ("????", [0.5, 0.5, 0.6], one, 3 + (math.log(1.2) / 0.16) ** 2 + 3.5),
            ("ssss", [0.5, 0.5, 0.6], one, 3 + (math.log(1.2) / 0.32) ** 2 + 3.5),
        )
        for letters, gaps, limits, cost in cases:
            self.assertAlmostEqual(_cost(letters, gaps, limits), cost, places=9, msg=f"{letters} {gaps}")

    def test_what_is_shown_is_told_with_up_to_200_characters(self):
        for count, groups in ((100, 100), (101, None)):  # “s ” each
            found = read_blinks("s " * (count - 1) + ("s" if groups else "ss"))
            self.assertEqual(found and len(found), groups)
        for odd in ("1" + "0" * 5000, "9" * 5000 + " long", "(" * 3000):
            self.assertIsNone(read_blinks(odd))
            self.assertEqual(len(search([TB], odd)), 0)
        self.assertIsNone(read_blinks("100 long"))

    def test_a_bounce_is_a_tap_within_two_fifths_of_the_usual_time(self):
        for bounce, kept in ((0.398, 6), (0.402, 7)):
            taps = tuple(Tap(start) for start in (0.0, 1.0, 2.0, 3.0, 4.0, 5.0, 5.0 + bounce))
            self.assertEqual(len(_without_doubles(taps)), kept)

    def test_blinks_of_one_length_are_long_from_550_milliseconds(self):
        for lit, letters in ((0.545, "ss"), (0.555, "ll")):
            self.assertEqual(_letters((Tap(0.0, lit), Tap(1.0, 1.0 + lit))), letters)

    def test_pauses_are_of_two_kinds_from_a_quarter_more(self):
        for more, ways in ((1.249, 1), (1.251, 3)):
            self.assertEqual(len(_readings("sss", [1.0, more])), ways)

    def test_the_dark_between_two_taps_is_20_milliseconds_at_least(self):
        """Held past the next one's start: the gap is as short as a gap can be."""
        taps = (Tap(0.0, 0.5), Tap(0.45, 0.9), Tap(1.4, 1.9))
        with patch("frostcore.display.rhythm._readings", side_effect=_readings) as reads:
            find_rhythm(taps)
        self.assertEqual(reads.call_args.args[1][0], 0.02)

    def test_how_far_characters_are_apart(self):
        """8 and 0 differ by one segment of seven, 1 and 7 by one of three; 1 and F by all but one of five."""
        for one, other, apart in (("b", "B", 0.05), ("8", "0", 1.5 / 7), ("1", "7", 0.5), ("O", "0", 0.1)):
            self.assertAlmostEqual(looks_apart(one, other), apart, places=9, msg=one + other)

    def test_what_blinks_cost(self):
        sheet = replace(TB, codes=(replace(TB.codes[0], shown=Shown("blinks", groups=("sl", "s"))),))
        for typed, distance in (("sl s", 0.0), ("ss s", 0.25), ("sl ss", 0.5), ("2-1", 0.1)):
            found = [match.distance for match in decode(sheet, typed)]
            self.assertEqual(found, [distance], typed)

    def test_a_word_of_the_same_meaning_counts_four_fifths(self):
        sheet = replace(TB, codes=tuple(code for code in TB.codes if code.id == "E5"))
        for typed, score in (("defrost sensor", 2.0), ("defrost temperature", 1.8)):
            self.assertAlmostEqual(search([sheet], typed)[0].score, score, msg=typed)

    def test_a_bounce_is_a_tap_within_90_milliseconds(self):
        for bounce, kept in ((0.0895, 3), (0.0905, 4)):
            taps = tuple(Tap(start) for start in (0.0, 0.2, 0.4, 0.4 + bounce))
            self.assertEqual(len(_without_doubles(taps)), kept)

    def test_a_blink_is_long_from_1_7_times_a_short_one(self):
        for times, letters in ((1.69, "ss"), (1.71, "sl")):
            self.assertEqual(_letters((Tap(0.0, 0.3), Tap(1.0, 1.0 + 0.3 * times))), letters)

    def test_the_replay_is_slow_enough_to_follow(self):
        on_off = Rhythm(("sl", "s"), 1, 1, "").replay()
        self.assertEqual(on_off, ((0.0, 0.25), (0.55, 1.35), (2.25, 2.5)))
        self.assertEqual(REPEAT_PAUSE, 2.0)

    def test_a_search_is_answered_by_three_letters_of_a_model(self):
        for typed, found in (("TB", 0), ("TB3", 1), ("TB-34", 1)):
            self.assertEqual(sum(item.code is None for item in search([TB], typed)), found, typed)

    def test_a_condition_answers_when_it_says_three_fifths_of_the_words(self):
        said = "defrost sensor rise within"
        sheet = replace(TB, codes=tuple(code for code in TB.codes if code.id == "E5"))
        words = said.split()
        self.assertEqual(len(search([sheet], " ".join([*words[:3], "zyx", "wvu"]))), 1)
        self.assertEqual(len(search([sheet], " ".join([*words, "zyx", "wvu", "tsr"]))), 0)
        self.assertEqual(len(search([sheet], said)), 1)


class Cautions(unittest.TestCase):
    def test_flammable_refrigerants_are_the_hydrocarbons_and_no_others(self):
        plate = TB.plate
        for name, flammable in (
            ("R600a", True),
            ("r290", True),
            ("R-600a", True),
            ("R134a", False),
            ("", False),
        ):
            self.assertIs(replace(plate, refrigerant=name).flammable, flammable, name)

    def test_a_unit_with_valves_has_its_water_closed_before_it_is_pulled(self):
        self.assertEqual(cautions.for_way_in(valves=False), (cautions.FINS,))
        self.assertIn("close its supply", cautions.for_way_in(valves=True)[-1])

    def test_each_power_state_has_its_own(self):
        for flammable in (False, True):
            more = (cautions.FLAMMABLE,) if flammable else ()
            self.assertEqual(cautions.for_power("live", flammable=flammable), (cautions.LIVE, *more))
            said = cautions.for_power("unplugged", flammable=flammable)
            self.assertEqual(said, (cautions.BULK_CAPACITOR, *more))
            self.assertEqual(cautions.for_power("unknown", flammable=flammable), (cautions.MAINS, *more))


if __name__ == "__main__":
    unittest.main()
