"""What is set while a run goes on: no cycle spans it, each stretch is judged by itself, a forced defrost
tells; runs in figures, beside another, and how one will go on."""

from dataclasses import replace
from tempfile import NamedTemporaryFile
from unittest import TestCase

import numpy as np
from hypothesis import given, settings
from hypothesis import strategies as st

from frostcore.errors import FrostError
from frostcore.tests.test_door_circuit import TB, answer
from frostcore.tests.test_thermal_runs import COILS, ROOMS, SINGLE, run_of, text_of
from frostcore.thermal.calibration import calibrate
from frostcore.thermal.control import DAY, HOUR, Act, openings
from frostcore.thermal.defrosts import defrosts_of
from frostcore.thermal.faults import Broken, broken
from frostcore.thermal.figures import acts_of, figures, sound, stretches
from frostcore.thermal.forecast import ensemble, forecast
from frostcore.thermal.log import Log, read_log
from frostcore.thermal.logged import logged
from frostcore.thermal.picture import RIGHT, run_picture
from frostcore.thermal.setting import WORDS, Setting, moment_of, plant_with, set_to, setting_of
from frostcore.thermal.simulate import simulate
from frostcore.thermal.usual import USUAL
from frostcore.thermal.verdicts import Judged

COLDER = set_to(24 * HOUR, "knob", "-21 C", "freezer")


def log_of(acts=(), by=None, days=3.0, since=DAY, leave=()):
    plant = broken(SINGLE, by) if by else SINGLE
    run = simulate(plant, days, acts=(*openings(plant, days), *acts))
    log = logged(run).as_log(since=since)
    kept = [n for n, column in enumerate(log.columns) if column.where not in leave]
    columns = tuple(log.columns[n] for n in kept)
    return Log(log.begins, log.seconds - log.seconds[0], columns, log.values[kept])


def told(judged):
    return {(each.kind, each.of): each for each in judged.verdicts}


class Typed(TestCase):
    def test_moments_of_a_run(self):
        for text, seconds in (
            ("3.5 h", 12600),
            ("3,5h", 12600),
            ("40 min", 2400),
            ("12:30", 45000),
            ("2 d", 172800),
        ):
            self.assertEqual(moment_of(text), seconds)
        for text in ("", "noon", "-3 h", "3 weeks", "1e9 h", "9999 d"):
            with self.assertRaisesRegex(FrostError, "moment|after the end"):
                moment_of(text)

    def test_what_is_typed_at_the_door(self):
        self.assertEqual(setting_of("3.5h=defrost", SINGLE), Setting(12600, "defrost"))
        self.assertEqual(
            setting_of("6h=knob:4@freezer", SINGLE), Setting(21600, "knob", "4", None, "freezer")
        )
        cold = setting_of("12h=knob:-22C@freezer", SINGLE)
        self.assertEqual((cold.celsius, cold.place, cold.words), (-22.0, "freezer", "Control set: −22 °C"))
        self.assertAlmostEqual(set_to(0, "knob", "-8 F", "freezer").celsius, -22.2, delta=0.05)
        for text in ("3h", "3h=juggle", "3h=knob:-22C", "3h=knob:4@cellar", "x=defrost"):
            with self.assertRaises(FrostError):
                setting_of(text, SINGLE)

    @settings(max_examples=60, deadline=None)
    @given(st.text(max_size=40))
    def test_whatever_is_typed_ends_in_a_setting_or_a_sentence(self, text):
        try:
            found = setting_of(text, SINGLE)
        except FrostError as error:
            self.assertTrue(str(error))
        else:
            self.assertIn(found.what, WORDS)

    def test_a_level_that_is_set_moves_its_loops_by_as_much(self):
        before = {loop.senses: (loop.cut_in, loop.cut_out) for loop in SINGLE.loops}
        after = {loop.senses: (loop.cut_in, loop.cut_out) for loop in plant_with(SINGLE, [COLDER]).loops}
        self.assertAlmostEqual(sum(after["sensor:freezer"]) / 2, -21.0)
        wide = [one - other for one, other in (before["sensor:freezer"], after["sensor:freezer"])]
        self.assertAlmostEqual(wide[0], wide[1])
        self.assertEqual(before["sensor:fridge"], after["sensor:fridge"])


class Stretches(TestCase):
    @classmethod
    def setUpClass(cls):
        cls.log = log_of([Act(2 * DAY, "shift", by=-5.0)])

    def test_a_unit_set_colder_is_judged_by_its_new_level(self):
        freezer = ("holds", "freezer")
        set_colder = set_to(24 * HOUR, "knob", "-23 C", "freezer")
        self.assertEqual(told(Judged(SINGLE, self.log))[freezer].found, "cold")
        self.assertEqual(told(Judged(SINGLE, self.log, [set_colder]))[freezer].stands, "yes")

    def test_of_a_position_nobody_knows_what_it_should_give(self):
        turned = told(Judged(SINGLE, self.log, [set_to(24 * HOUR, "knob", "4", "freezer")]))
        self.assertEqual(turned["holds", "freezer"].stands, "cannot_tell")
        self.assertIn("nobody has said", turned["holds", "freezer"].words)
        self.assertEqual(turned["holds", "fridge"].stands, "no")  # moved as well, and nobody said so

    def test_each_stretch_has_its_own_figures(self):
        before, after = stretches(Judged(SINGLE, self.log, [set_to(24 * HOUR, "knob", "-23 C", "freezer")]))
        self.assertEqual((before.start, before.setting, after.start), (0.0, None, 24.0))
        self.assertAlmostEqual(before.figures.room("freezer").mean, -17.6, delta=0.6)
        self.assertAlmostEqual(after.figures.room("freezer").mean, -22.6, delta=0.6)
        self.assertAlmostEqual(
            after.figures.room("freezer").cut_out, before.figures.room("freezer").cut_out - 5, delta=0.8
        )
        self.assertGreater(after.figures.duty, before.figures.duty + 0.05)
        self.assertGreater(after.figures.kwh, before.figures.kwh)

    def test_energy_and_duty_are_the_simulations_own(self):
        run = run_of()
        found = figures(Judged(SINGLE, logged(run).as_log(since=DAY)))
        electric = run.of("electric")
        self.assertAlmostEqual(found.kwh, (electric[-1] - electric[1440]) / 3.6e6, delta=0.01)
        starts = run.when("starts")
        defrosts = sum(DAY < at <= 2 * DAY for at in run.when("cools again"))
        self.assertAlmostEqual(
            found.starts, np.sum((starts > DAY) & (starts <= 2 * DAY)) - defrosts, delta=1.5
        )

    def test_a_stop_by_hand_is_no_cut_out(self):
        """A welded relay's unit is set warmer, and its plug pulled for a minute: neither is a cut-out."""
        log = log_of(by=Broken(runs_on=frozenset({"compressor"})), days=2)
        watts = log.values[-1].copy()
        at = (log.seconds >= 12 * HOUR) & (log.seconds < 12 * HOUR + 1200)
        watts[at] = 3.0
        log = Log(log.begins, log.seconds, log.columns, np.vstack([log.values[:-1], watts]))
        self.assertEqual(len(Judged(SINGLE, log).stops), 1)
        judged = Judged(SINGLE, log, [Setting(12 * HOUR, "knob", "1")])
        self.assertEqual(judged.stops, ())
        self.assertLess(judged.longest, Judged(SINGLE, replace_watts(log)).longest)

    def test_no_cycle_spans_a_setting(self):
        whole = Judged(SINGLE, self.log).turns("freezer")
        middle = [turn.at for turn in whole][len(whole) // 2]
        cut = Judged(SINGLE, self.log, [Setting(middle, "door")]).turns("freezer")
        self.assertNotIn(middle, [turn.at for turn in cut])
        cuts = np.array([turn.at for turn in cut])
        for turn in whole:
            if abs(turn.at - middle) > 4 * HOUR:
                self.assertLessEqual(np.abs(cuts - turn.at).min(), 300.0)

    def test_settings_in_any_order_and_beyond_the_last_row_change_nothing_but_what_they_say(self):
        one, other = COLDER, Setting(40 * HOUR, "defrost")
        self.assertEqual(
            [each.words for each in Judged(SINGLE, self.log, [one, other]).verdicts],
            [each.words for each in Judged(SINGLE, self.log, [other, one]).verdicts],
        )
        late = Setting(90 * HOUR, "knob", "2")
        self.assertIs((judged := Judged(SINGLE, self.log, [late])).last, judged)

    @settings(max_examples=25, deadline=None)
    @given(st.lists(st.tuples(st.floats(0, 60 * HOUR), st.sampled_from(sorted(WORDS))), max_size=6))
    def test_whatever_is_set_whenever_a_run_is_judged_drawn_and_told_in_figures(self, what):
        judged = Judged(SINGLE, self.log, [Setting(at, each, "3") for at, each in what])
        self.assertTrue(judged.verdicts)
        self.assertEqual(len(run_picture(judged).flags), len(what))
        hours = sum(each.figures.hours for each in stretches(judged))
        self.assertLessEqual(hours, self.log.hours + 1e-6)


def replace_watts(log):
    watts = np.full(len(log.seconds), 90.0)
    return Log(log.begins, log.seconds, log.columns, np.vstack([log.values[:-1], watts]))


class Forced(TestCase):
    def of(self, by=None, after=6.0, leave=(), end=None):
        log = log_of([Act(DAY + after * HOUR, "defrost")], by, days=2, leave=leave)
        log = log.between(0, end * HOUR) if end else log
        return told(Judged(SINGLE, log, [Setting(after * HOUR, "defrost")]))["defrosts", ""]

    def test_a_heater_that_answers_and_one_that_does_not_by_watts(self):
        dead = Broken(stands=frozenset({SINGLE.evaporators[0].heater}))
        self.assertEqual(self.of(end=7.0).stands, "yes")
        found = self.of(dead, end=7.0)
        self.assertEqual(found.stands, "no")
        self.assertIn("forced at 6.0 h, and its watts show no heater", found.words)

    def test_by_the_coils_thermometer(self):
        dead = Broken(stands=frozenset({SINGLE.evaporators[0].heater}))
        self.assertEqual(self.of(leave=("plug",), end=7.5).stands, "yes")
        self.assertIn("the coil stays below", self.of(dead, leave=("plug",), end=7.5).words)

    def test_too_early_and_with_nothing_that_tells(self):
        early = self.of(Broken(stands=frozenset({SINGLE.evaporators[0].heater})), end=6.1)
        self.assertEqual((early.stands, round(early.until, 1)), ("running", 6.3))
        blind = self.of(leave=("plug", "coil:evaporator"), end=8.0)
        self.assertEqual(blind.stands, "cannot_tell")


class Defrosts(TestCase):
    """Each defrost, against what the simulation did."""

    def test_when_how_long_ended_by_what_and_when_it_was_back(self):
        run = run_of(days=3)
        seen = defrosts_of(Judged(SINGLE, logged(run).as_log(since=DAY)))
        begun = run.when("defrost")
        begun = begun[begun > DAY]
        self.assertEqual(len(seen), len(begun))
        ends, cools = run.when("defrost ends"), run.when("cools again")
        for one, at in zip(seen, begun, strict=True):
            end = ends[ends > at][0]
            self.assertAlmostEqual(one.hours, (at - DAY) / HOUR, delta=0.03)
            self.assertAlmostEqual(one.minutes, (end - at) / 60, delta=1.1)
            self.assertAlmostEqual(one.wh, 200.0 * one.minutes / 60, delta=12)
            self.assertAlmostEqual(one.drips, (cools[cools > end][0] - end) / 60, delta=1.1)
            self.assertFalse(one.by_time)
            backs = {each.place: each for each in one.back}
            freezer = run.of("hung:freezer")
            first = int(at // 60)
            self.assertAlmostEqual(backs["freezer"].warmest, freezer[first : first + 260].max(), delta=0.3)
            self.assertTrue(0 <= backs["freezer"].minutes < 120)

    def test_one_that_its_time_ends_and_one_without_watts(self):
        plant = replace(SINGLE, defrost=replace(SINGLE.defrost, ends=60.0))
        run = simulate(plant, 2.0, acts=openings(plant, 2.0))
        self.assertTrue(
            all(each.by_time for each in defrosts_of(Judged(SINGLE, logged(run).as_log(since=DAY))))
        )
        self.assertEqual(defrosts_of(Judged(SINGLE, log_of(days=2, leave=("plug",)))), ())

    def test_what_a_gap_hides_of_the_way_back_is_not_told(self):
        log = log_of(days=2)
        one = defrosts_of(Judged(SINGLE, log))[0]
        end = one.hours * HOUR + one.minutes * 60
        left = (log.seconds < end + 60) | (log.seconds > end + 3 * HOUR)
        gone = Log(log.begins, log.seconds[left], log.columns, log.values[:, left])
        self.assertIsNone(defrosts_of(Judged(SINGLE, gone))[0].drips)


class Thaws(TestCase):
    """A plate that is defrosted while it stands."""

    PLATE = USUAL["cold_plate"]()

    def of(self, cut_in, leave=(), hours=24):
        loop = replace(self.PLATE.loops[0], cut_in=cut_in)
        plant = replace(self.PLATE, loops=(loop,))
        run = simulate(plant, 2.0, acts=openings(plant, 2.0))
        log = logged(run).as_log(since=DAY, until=DAY + hours * HOUR)
        kept = [n for n, column in enumerate(log.columns) if column.where not in leave]
        log = Log(log.begins, log.seconds, tuple(log.columns[n] for n in kept), log.values[kept])
        return told(Judged(self.PLATE, log))["thaws", ""]

    def test_it_has_lost_its_ice_before_it_is_cooled_again_or_not(self):
        self.assertEqual(self.of(4.5).stands, "yes")
        cold = self.of(-3.0)
        self.assertEqual(cold.stands, "no")
        self.assertIn("ice stays on it", cold.words)

    def test_without_its_thermometer_or_its_stops_it_is_not_told(self):
        self.assertEqual(self.of(4.5, leave=("coil:cold_plate",)).stands, "cannot_tell")
        self.assertEqual(self.of(4.5, hours=4).stands, "not_seen")

    def test_where_a_heater_melts_it_nobody_asks(self):
        self.assertNotIn(("thaws", ""), told(Judged(SINGLE, log_of(days=2))))


class Together(TestCase):
    """Several thermometers in one compartment, and compartments against each other."""

    def two(self, off=2.0, gone=0):
        log = log_of(days=2)
        freezer = next(n for n, column in enumerate(log.columns) if column.where == "freezer")
        other = log.values[freezer] + off
        other[:gone] = np.nan
        columns = (*log.columns, replace(log.columns[freezer], head="drawer"))
        return Log(log.begins, log.seconds, columns, np.vstack([log.values, other]))

    def test_the_mean_of_two_is_judged_and_how_far_they_are_apart_is_said(self):
        log = self.two()
        one, other = log.each("celsius", "freezer")
        np.testing.assert_allclose(log.of("celsius", "freezer"), (one + other) / 2)
        words = told(Judged(SINGLE, log))["holds", "freezer"].words
        self.assertIn("of 2 thermometers, 2.0 K apart", words)
        self.assertEqual(len(run_picture(Judged(SINGLE, log)).lines), 5)

    def test_where_one_shows_nothing_the_other_counts(self):
        log = self.two(gone=100)
        np.testing.assert_array_equal(
            log.of("celsius", "freezer")[:100], log.each("celsius", "freezer")[0][:100]
        )

    def test_one_right_and_one_off_is_no_matter_of_what_cools_both(self):
        closed = replace(SINGLE, stuck=(("damper", "closed"),))
        run = simulate(closed, 2.0, acts=openings(SINGLE, 2.0))
        judged = Judged(SINGLE, logged(run).as_log(since=DAY))
        self.assertEqual(told(judged)["holds", "freezer"].stands, "yes")
        self.assertIn("what cools them both does so", judged.apart)
        self.assertEqual(Judged(SINGLE, log_of(days=2)).apart, "")

    def test_a_freezer_too_cold_that_never_stops_is_no_matter_of_what_parts_them(self):
        log = log_of(by=Broken(runs_on=frozenset({"compressor"})), days=2)
        judged = Judged(SINGLE, log)
        self.assertEqual(told(judged)["holds", "fridge"].stands, "yes")
        self.assertEqual(judged.apart, "")


class ByTurns(TestCase):
    """A run on which a screw was turned is a calibration."""

    @classmethod
    def setUpClass(cls):
        cls.log = log_of([Act(2 * DAY, "shift", by=-2.0), Act(3 * DAY, "shift", by=-1.0)], days=4)

    def acts(self, *settings):
        return acts_of(Judged(SINGLE, self.log, settings))

    def test_its_stretches_are_acts_and_tell_what_a_turn_does(self):
        """Half a turn is 2 K colder and another quarter 1 K: 4 K a turn."""
        acts = self.acts(Setting(24 * HOUR, "range", "0.5 turn"), Setting(48 * HOUR, "range", "+0,75"))
        self.assertEqual([act.turns for act in acts], [0.0, 0.5, 0.75])
        self.assertTrue(all(len(act.cut_outs) > 10 and len(act.cut_ins) > 10 for act in acts))
        found = calibrate(acts, -24.0)
        self.assertAlmostEqual(found.slope, -4.0, delta=0.6)
        self.assertAlmostEqual(found.now, -23.0, delta=0.6)

    def test_other_screws_and_the_bulb_are_kept_apart(self):
        turned, moved = Setting(24 * HOUR, "differential", "-0.5"), Setting(48 * HOUR, "bulb", "a palm lower")
        found = [(act.turns, act.differential, act.bulb) for act in self.acts(turned, moved)]
        self.assertEqual(found, [(0, 0, 0), (0, -0.5, 0), (0, -0.5, 1)])

    def test_nothing_turned_or_no_telling_how_far_is_none(self):
        self.assertEqual(self.acts(), ())
        self.assertEqual(self.acts(Setting(24 * HOUR, "defrost")), ())
        self.assertEqual(self.acts(Setting(24 * HOUR, "range", "a little")), ())
        self.assertEqual(self.acts(COLDER), ())


class Beside(TestCase):
    def test_a_sound_one_is_as_the_plant_is_tuned(self):
        found = sound(SINGLE)
        self.assertAlmostEqual(found.room("freezer").mean, -17.6, delta=0.8)
        self.assertAlmostEqual(found.duty, 0.38, delta=0.06)
        self.assertAlmostEqual(found.kwh, 1.1, delta=0.15)

    def test_another_run_is_drawn_from_its_own_first_row(self):
        judged = Judged(SINGLE, log_of(days=2))
        other = judged.log
        shifted = Judged(SINGLE, Log(other.begins, other.seconds + 5000.0, other.columns, other.values))
        picture = run_picture(judged, beside=shifted)
        lines = {line.where: line.path for line in picture.lines}
        self.assertEqual({line.where: line.path for line in picture.before}, lines)

    def test_flags_stand_where_they_were_set(self):
        judged = Judged(SINGLE, log_of(days=2), [Setting(12 * HOUR, "defrost"), Setting(6 * HOUR, "door")])
        flags = run_picture(judged).flags
        self.assertEqual([flag.words for flag in flags], ["Door open", "Defrost forced"])
        picture = run_picture(judged)
        wide = picture.right - picture.left
        self.assertAlmostEqual((flags[1].x - picture.left) / wide, 12 / judged.log.hours, places=3)


class Fan(TestCase):
    @classmethod
    def setUpClass(cls):
        run = simulate(SINGLE, 0.5)
        cls.log = logged(run).as_log(until=2.5 * HOUR)
        cls.members = ensemble(SINGLE, {"fridge": 25.0, "freezer": 25.0}, members=80, faulty=10)

    def test_it_begins_at_what_is_shown_and_ends_at_the_setting_when_it_says(self):
        found = forecast(self.members, self.log, "freezer")
        for when in (found.low, found.median, found.high):
            way = found.way(when)
            self.assertAlmostEqual(way[0][1], found.now)
            self.assertAlmostEqual(way[-1][0], when)
            self.assertAlmostEqual(way[-1][1], found.target)
        falls = np.diff([celsius for _, celsius in found.way(found.median)])
        self.assertLess(falls[:4].max(), 0.0)

    def test_it_is_drawn_within_the_picture_and_reaches_beyond_the_last_row(self):
        judged = Judged(SINGLE, self.log)
        coming = [forecast(self.members, self.log, place) for place in ROOMS]
        picture = run_picture(judged, coming=coming)
        self.assertEqual(len(picture.fans), 2)
        xs = [float(point.split()[0]) for fan in picture.fans for point in fan.area.strip("MZ").split("L")]
        self.assertLessEqual(max(xs), RIGHT + 0.1)
        ends = max(
            float(point.split()[0]) for line in picture.lines for point in line.path.strip("MZ").split("L")
        )
        self.assertGreater(max(xs), ends + 20)

    def test_one_that_is_there_or_never_will_be_has_none(self):
        found = forecast(self.members, self.log, "freezer")
        judged = Judged(SINGLE, self.log)
        for one in (replace(found, there=True), replace(found, never=0.95)):
            self.assertEqual(run_picture(judged, coming=[one]).fans, ())


class Door(TestCase):
    def test_settings_at_the_door(self):
        with NamedTemporaryFile("w", suffix=".csv", encoding="utf-8") as file:
            file.write(text_of(run_of()))
            file.flush()
            arguments = [
                "run",
                "--log",
                file.name,
                "--sheet",
                TB,
                "--settings",
                "6h=knob:-18C@freezer",
                "12h=defrost",
            ]
            found = answer(*arguments)
        self.assertEqual([each["set"] for each in found["stretches"]], [None, "Control set: −18 °C"])
        self.assertEqual(found["stretches"][1]["from_hours"], 6.0)
        self.assertIn("cut_out", found["stretches"][1]["compartments"]["freezer"])


class Between(TestCase):
    def test_a_piece_of_a_log_is_its_rows(self):
        log = read_log(text_of(run_of()), ROOMS, COILS)
        piece = log.between(HOUR, 2 * HOUR)
        self.assertEqual((piece.seconds[0], len(piece.seconds)), (HOUR, 61))
        np.testing.assert_array_equal(piece.values, log.values[:, 60:121])
