"""Runs: what a logger's file says, what is told of it and what isn't, and a thermostat set by turns."""

from dataclasses import replace
from tempfile import NamedTemporaryFile
from unittest import TestCase

import numpy as np
from hypothesis import given, settings
from hypothesis import strategies as st

from frostcore.errors import FrostError
from frostcore.tests.test_door_circuit import TB, answer, ask
from frostcore.thermal.calibration import OF, TurnAct, calibrate
from frostcore.thermal.control import DAY, Act, openings
from frostcore.thermal.cycles import Levels, spells, turns
from frostcore.thermal.faults import Broken, broken
from frostcore.thermal.food import spoilt
from frostcore.thermal.forecast import FULL, SAID_NEVER, ensemble, forecast, varied
from frostcore.thermal.log import read_log
from frostcore.thermal.logged import logged
from frostcore.thermal.picture import run_picture
from frostcore.thermal.plant import targets
from frostcore.thermal.simulate import simulate
from frostcore.thermal.usual import USUAL
from frostcore.thermal.verdicts import Judged

ROOMS, COILS = ("fridge", "freezer"), ("evaporator",)
SINGLE = USUAL["single_evaporator"]()


def text_of(run, step=60.0, *, fahrenheit=False, first=DAY, last=2 * DAY, leave=()):
    log = logged(run, step)
    names = [name for name in log.columns if name not in leave]
    mark = "°F" if fahrenheit else "°C"
    heads = [name if name == "watts" else f"{name.replace(':', ' ')} {mark}" for name in names]
    lines = [",".join(["seconds", *heads])]
    for row in np.flatnonzero((log.seconds >= first) & (log.seconds <= last)):
        values = [float(log.columns[name][row]) for name in names]
        if fahrenheit:
            values = [v if name == "watts" else v * 1.8 + 32 for name, v in zip(names, values, strict=True)]
        lines.append(",".join([f"{log.seconds[row] - first:.0f}", *(f"{value:.1f}" for value in values)]))
    return "\n".join(lines)


def run_of(by=None, plant=SINGLE, days=2):
    real = broken(plant, by) if by else plant
    return simulate(real, days, acts=openings(real, days))


def told(text, plant=SINGLE):
    return {each.kind: each for each in Judged(plant, read_log(text, ROOMS, COILS)).verdicts}


class Logs(TestCase):
    def test_columns_clock_and_units_are_recognised(self):
        text = (
            "Logger 7\nDate;Time;Fridge [°C];Freezer °F;Room;Power (W)\n"
            "05.01.2026;08:00:00;4,5;-0,4;21;95\n05.01.2026;08:01:00;4,6;-0,3;21;96\n"
            "05.01.2026;08:02:00;4,6;-0,2;21;2\n"
        )
        log = read_log(text, ROOMS, COILS)
        self.assertEqual([(c.where, c.quantity, c.fahrenheit) for c in log.columns], [
            ("fridge", "celsius", False), ("freezer", "celsius", True), ("room", "celsius", False),
            ("plug", "watts", False),
        ])  # fmt: skip
        self.assertEqual(log.seconds.tolist(), [0, 60, 120])
        self.assertEqual(log.begins.isoformat(), "2026-01-05T08:00:00")
        self.assertAlmostEqual(log.values[1][0], -18.0)

    def test_a_month_first_clock_is_known_by_a_day_beyond_twelve(self):
        text = "time,fridge\n01/13/2026 11:59 PM,4\n01/14/2026 12:01 AM,5\n"
        self.assertEqual(read_log(text, ROOMS).begins.isoformat(), "2026-01-13T23:59:00")

    def test_what_is_no_reading_is_said_with_its_row_and_left_empty(self):
        rows = [f"2026-01-05 08:{minute:02d},{4 + minute / 100:.2f}" for minute in range(30)]
        rows[3], rows[5], rows[7] = "2026-01-05 08:03,OL", "2026-01-05 08:05,9.9E37", "2026-01-05 08:07,-127"
        rows[9] = "yesterday,4"
        log = read_log("time,fridge °C\n" + "\n".join(rows), ROOMS)
        said = [each.words for each in log.said]
        self.assertEqual(len(said), 4)
        self.assertIn("Row 5: “OL” under “fridge °C” is no reading; left empty.", said)
        self.assertEqual(int(np.isnan(log.values[0]).sum()), 3)
        self.assertEqual(len(log.seconds), 29)

    def test_rows_twice_count_once_and_a_clock_that_goes_back_is_followed(self):
        rows = [f"{60 * n},{n / 10:.1f}" for n in range(40)]
        twice = read_log("seconds,fridge\n" + "\n".join([*rows[:30], *rows[20:]]), ROOMS)
        self.assertEqual(len(twice.seconds), 40)
        self.assertIn("the same row stands before; counted once", twice.said[0].words)
        back = [f"{60 * n - (1200 if n >= 25 else 0)},{n / 10:.1f}" for n in range(40)]
        late = read_log("seconds,fridge\n" + "\n".join(back), ROOMS)
        np.testing.assert_allclose(np.diff(late.seconds), 60.0)
        self.assertEqual(len(late.said), 1)

    def test_two_devices_no_clock_and_no_figures_are_refused_with_what_to_do(self):
        for text, words in (
            ("device,time,fridge\nA,2026-01-05 08:00,4\nB,2026-01-05 08:00,5\n", "2 devices"),
            ("fridge,freezer\n4,-18\n5,-19\n", "No column is a clock"),
            ("time,note\n2026-01-05 08:00,cold\n2026-01-05 08:01,warm\n", "row of heads|figures"),
            ("", "heads"),
            ("\x00\x01", "heads"),
        ):
            with self.subTest(words), self.assertRaisesRegex(FrostError, words):
                read_log(text, ROOMS)

    @given(st.text(max_size=300))
    @settings(max_examples=150, deadline=None)
    def test_whatever_is_given_ends_in_a_log_or_a_sentence(self, text):
        try:
            log = read_log(text, ROOMS, COILS)
        except FrostError as error:
            self.assertTrue(str(error))
        else:
            self.assertTrue((np.diff(log.seconds) > 0).all())

    def test_heads_of_one_name_and_without_a_name_are_told_apart(self):
        text = "time,fridge,,fridge\n2026-01-05 08:00,4,5,6\n2026-01-05 08:01,4,5,6\n"
        self.assertEqual(
            [c.head for c in read_log(text, ROOMS).columns], ["fridge", "column 3", "fridge (2)"]
        )

    @given(
        st.lists(
            st.tuples(st.integers(0, 90_000), st.floats(-60, 60), st.one_of(st.none(), st.floats(0, 400))),
            min_size=2, max_size=60,
        )
    )  # fmt: skip
    @settings(max_examples=60, deadline=None)
    def test_any_log_that_can_be_read_is_judged_and_drawn(self, rows):
        text = "seconds,freezer °C,watts\n" + "\n".join(
            f"{seconds},{celsius:.1f},{'' if watts is None else f'{watts:.1f}'}"
            for seconds, celsius, watts in rows
        )
        try:
            log = read_log(text, ROOMS)
        except FrostError:
            return
        judged = Judged(SINGLE, log)
        self.assertTrue(judged.proof)
        self.assertEqual(run_picture(judged).lines[:1] == (), log.of("celsius", "freezer") is None)
        if judged.watts is None:
            self.assertNotIn("short_cycles", judged.found)

    def test_the_order_of_columns_and_the_unit_of_temperature_change_no_verdict(self):
        run = run_of()
        one, other = told(text_of(run)), told(text_of(run, fahrenheit=True))
        self.assertEqual({k: v.stands for k, v in one.items()}, {k: v.stands for k, v in other.items()})


class Cycles(TestCase):
    def test_the_turns_of_a_temperature_are_the_compressors(self):
        run = run_of()
        log = read_log(text_of(run), ROOMS, COILS)
        found = turns(log.seconds, log.of("celsius", "freezer"))
        tops = [turn.at for turn in found if turn.top]
        true = np.array([at - DAY for at in run.when("starts") if DAY < at < 2 * DAY])
        self.assertAlmostEqual(len(tops), len(true), delta=2)
        period = np.median(np.diff(tops))
        self.assertAlmostEqual(period, np.median(np.diff(true)), delta=0.1 * period)

    def test_a_line_with_noise_does_not_turn(self):
        chance = np.random.default_rng(2)
        seconds = np.arange(0, DAY, 60.0)
        self.assertEqual(turns(seconds, 4 + 0.05 * chance.normal(size=len(seconds))), ())

    def test_a_log_that_never_stops_is_on_all_the_time(self):
        seconds = np.arange(0, 36000, 60.0)
        found = spells(seconds, np.full(600, 100.0), Levels(40.0, 160.0), ())
        self.assertEqual([each.state for each in found], ["runs"])

    def test_what_happens_in_a_gap_is_unknown(self):
        seconds = np.concatenate([np.arange(0, 6000, 60.0), np.arange(12000, 18000, 60.0)])
        watts = np.where(seconds < 6000, 100.0, 3.0)
        found = spells(seconds, watts, Levels(40.0, 160.0), ((5940.0, 12000.0),))
        self.assertEqual([each.state for each in found], ["runs", "?", "off"])


class Verdicts(TestCase):
    def test_a_sound_unit_is_proved(self):
        found = told(text_of(run_of()))
        self.assertTrue(all(each.good for each in found.values()), found)

    def test_one_that_never_stops_by_watts_and_by_air(self):
        text = text_of(run_of(Broken(runs_on=frozenset({"compressor"}))))
        by_watts = told(text)["cuts_out"]
        self.assertEqual(by_watts.stands, "no")
        self.assertIn("it never cuts out", by_watts.words)
        air = text_of(run_of(Broken(runs_on=frozenset({"compressor"}))), leave=("watts", "coil:evaporator"))
        self.assertEqual(told(air)["cuts_out"].stands, "no")

    def test_a_thermostat_that_never_opens_by_air_alone_and_a_weak_compressor_that_is_not_told(self):
        plant = USUAL["mechanical"]()
        for by, stands in (
            (Broken(runs_on=frozenset({"compressor"})), "no"),
            (Broken(changes=("weak",)), "cannot_tell"),
        ):
            text = text_of(run_of(by, plant), leave=("watts", "coil:evaporator"))
            found = {each.kind: each for each in Judged(plant, read_log(text, ROOMS)).verdicts}
            self.assertEqual(found["cuts_out"].stands, stands, by)
        self.assertEqual(found["holds"].stands, "yes")

    def test_a_pulled_plug_is_no_cut_out(self):
        real = broken(SINGLE, Broken(runs_on=frozenset({"compressor"})))
        run = simulate(real, 2, acts=(Act(30 * 3600, "unplug"), Act(31 * 3600, "plug")))
        judged = Judged(SINGLE, read_log(text_of(run), ROOMS, COILS))
        self.assertEqual(judged.stops, ())
        self.assertIn("out", {each.state for each in judged.spells})
        self.assertIn("it does not cut out", judged.proof)

    def test_the_proof_in_a_sentence(self):
        run = run_of()
        whole = Judged(SINGLE, read_log(text_of(run), ROOMS, COILS)).proof
        self.assertTrue(whole.startswith("Proved:"), whole)
        air = Judged(SINGLE, read_log(text_of(run, leave=("watts", "coil:evaporator")), ROOMS, COILS)).proof
        self.assertIn("it wants coil and watts", air)

    def test_a_defrost_is_no_cut_out(self):
        judged = Judged(
            SINGLE, read_log(text_of(run_of(Broken(runs_on=frozenset({"compressor"})))), ROOMS, COILS)
        )
        self.assertEqual(judged.stops, ())
        self.assertGreater(len(judged.defrosts), 1)

    def test_short_cycles_need_watts_every_minute(self):
        run = run_of(Broken(changes=("limps",)))
        self.assertEqual(told(text_of(run))["short_cycles"].stands, "yes")
        seldom = told(text_of(run, 300.0))["short_cycles"]
        self.assertEqual(seldom.stands, "cannot_tell")
        self.assertIn("5 min shows no short cycles", seldom.words)
        self.assertEqual(told(text_of(run, leave=("watts",)))["short_cycles"].stands, "cannot_tell")

    def test_a_defrost_that_failed_was_due_else_it_is_not_seen_yet(self):
        run = run_of(Broken(stands=frozenset({"defrost_heater"})))
        self.assertEqual(told(text_of(run))["defrosts"].stands, "no")
        half = told(text_of(run, last=1.4 * DAY))["defrosts"]
        self.assertEqual(half.stands, "not_seen")
        self.assertGreater(half.until, 9)
        # The same hours with a gap in the middle are not whole.
        lines = text_of(run).splitlines()
        holed = "\n".join([*lines[:700], *lines[800:]])
        self.assertEqual(told(holed)["defrosts"].stands, "not_seen")

    def test_by_air_alone_no_defrost_is_told_and_a_coils_thermometer_tells_it(self):
        run = run_of()
        air = told(text_of(run, leave=("watts", "coil:evaporator")))["defrosts"]
        self.assertEqual((air.stands, air.needs), ("cannot_tell", ("watts", "coil")))
        self.assertEqual(told(text_of(run, leave=("watts",)))["defrosts"].stands, "yes")

    def test_a_heater_that_goes_on(self):
        real = SINGLE.changed(defrost=replace(SINGLE.defrost, ends=1e3, most=120.0, fuse=1e3))
        run = simulate(real, 2, acts=openings(real, 2))
        self.assertEqual(told(text_of(run))["defrost_endless"].stands, "yes")

    def test_a_compartment_too_warm_and_one_still_falling(self):
        warm = told(text_of(run_of(Broken(off=(("fridge", -6.0),)))))
        self.assertEqual(warm["cuts_out"].stands, "yes")
        log = read_log(text_of(run_of(), first=0, last=2 * 3600), ROOMS, COILS)
        falling = {each.of: each for each in Judged(SINGLE, log).verdicts if each.kind == "holds"}
        self.assertEqual(falling["freezer"].stands, "running")


class Forecasts(TestCase):
    """When it will be cold: by units like it, from where it began."""

    @classmethod
    def setUpClass(cls):
        super().setUpClass()
        cls.members = ensemble(SINGLE, {"fridge": 25.0, "freezer": 25.0}, members=90, faulty=20, seed=4)

    def seen(self, plant, share, place="freezer"):
        """What a quarter say of a pull-down shows, and when it truly is there (min)."""
        run = simulate(plant, 1)
        when = float(np.flatnonzero(run.of(f"hung:{place}") <= targets(SINGLE)[place])[0])
        log = read_log(text_of(run, first=0, last=share * when * 60, leave=("watts",)), ROOMS, COILS)
        return forecast(self.members, log, place), when

    def test_units_of_none_of_its_members_are_foretold_at_a_third(self):
        chance = np.random.default_rng(77)
        near = 0
        for _ in range(8):
            found, when = self.seen(varied(SINGLE, chance), 0.33)
            near += abs(found.median - when) <= 0.15 * when
            self.assertLess(found.never, SAID_NEVER)
            self.assertLess(found.low, found.median)
            self.assertLess(found.median, found.high)
        self.assertGreaterEqual(near, 7)

    def test_it_narrows_as_more_is_seen(self):
        wide, _ = self.seen(SINGLE, 0.2)
        narrow, when = self.seen(SINGLE, 0.8)
        self.assertLess(narrow.high - narrow.low, wide.high - wide.low)
        self.assertAlmostEqual(narrow.median, when, delta=0.08 * when)

    def test_one_said_to_be_full_is_foretold_later_than_one_said_to_be_empty(self):
        """And each with less doubt than where nobody said."""
        first = {"fridge": 25.0, "freezer": 25.0}
        log = logged(simulate(SINGLE, 0.2)).as_log(until=45 * 60.0)
        found = {
            full: forecast(ensemble(SINGLE, first, members=60, faulty=10, full=full), log, "freezer")
            for full in FULL
        }
        self.assertLess(found["empty"].median, found["full"].median)
        wide = {full: each.high - each.low for full, each in found.items()}
        self.assertLess(wide["half"], wide[""])

    def test_one_without_charge_will_never(self):
        real = broken(SINGLE, Broken(changes=("charge_lost",)))
        run = simulate(real, 0.5)
        log = read_log(text_of(run, first=0, last=5 * 3600, leave=("watts",)), ROOMS, COILS)
        found = forecast(self.members, log, "freezer")
        self.assertGreater(found.never, SAID_NEVER)
        self.assertIn("it will not come to its setting", found.words)

    def test_one_that_is_there_says_when(self):
        found, when = self.seen(SINGLE, 1.1)
        self.assertTrue(found.there)
        self.assertAlmostEqual(found.median, when, delta=10)
        self.assertIn("It was at its setting after", found.words)

    def test_too_little_and_no_thermometer_say_nothing(self):
        run = simulate(SINGLE, 0.1)
        little = read_log(text_of(run, first=0, last=600), ROOMS, COILS)
        self.assertIsNone(forecast(self.members, little, "freezer"))
        without = read_log(text_of(run, first=0, last=7000, leave=("celsius:freezer",)), ROOMS, COILS)
        self.assertIsNone(forecast(self.members, without, "freezer"))


class Food(TestCase):
    KINDS = {"fridge": "fridge", "freezer": "freezer"}

    def log(self, fridge, freezer):
        lines = ["seconds,fridge °C,freezer °C"]
        lines += [f"{60 * n},{fridge(n / 60):.1f},{freezer(n / 60):.1f}" for n in range(24 * 60)]
        return read_log("\n".join(lines), ROOMS)

    def test_just_inside_and_just_outside_of_each_limit(self):
        def warm(above, hours, usual):
            return lambda now: above + 0.5 if 5 <= now < 5 + hours else usual

        for fridge, freezer, told in (
            (warm(8, 3.9, 4), lambda _: -18, []),
            (warm(8, 4.1, 4), lambda _: -18, [("fridge", 8.0)]),
            (lambda _: 4, warm(0, 1.9, -18), []),
            (lambda _: 4, warm(0, 2.1, -18), [("freezer", 0.0)]),
            (lambda _: 4, warm(-9, 11.9, -18), []),
            (lambda _: 4, warm(-9, 12.1, -18), [("freezer", -9.0)]),
        ):
            found = spoilt(self.log(fridge, freezer), self.KINDS)
            self.assertEqual([(each.place, each.above) for each in found], told)

    def test_an_empty_unit_that_comes_down_spoils_nothing_and_one_that_never_gets_cold_neither(self):
        log = self.log(lambda now: max(4, 25 - 2 * now), lambda now: max(-18, 25 - 3 * now))
        self.assertEqual(spoilt(log, self.KINDS), ())
        self.assertEqual(spoilt(self.log(lambda _: 20, lambda _: 20), self.KINDS), ())


class Calibrating(TestCase):
    def test_one_act_by_hand(self):
        """Cut-out −20 of four cycles, −24 wanted: by the prior slope d = (−4)(−4.5)/(4.5² + 2.2²)."""
        found = calibrate([TurnAct(0.0, (-18.0, -19.2, -20.0, -20.0))], -24.0)
        self.assertAlmostEqual(found.now, -20.0, delta=0.01)
        self.assertAlmostEqual(found.next_turn, 4 * 4.5 / (4.5**2 + 2.2**2), delta=1 / 24)
        self.assertFalse(found.stop)
        self.assertIn("the first 2 do not count", found.words)

    def test_two_acts_tell_the_slope_and_where_to_stop(self):
        acts = [TurnAct(0.0, (-20.0,) * 4), TurnAct(0.5, (-23.0,) * 4)]
        found = calibrate(acts, -23.1)
        self.assertAlmostEqual(found.slope, -6.0, delta=0.4)
        self.assertTrue(found.stop)
        self.assertEqual(found.next_turn, 0.0)

    def test_too_few_cycles_are_waited_for(self):
        found = calibrate([TurnAct(0.0, (-20.0,))], -20.0)
        self.assertFalse(found.stop)
        self.assertIn("Wait for 3 more cycles", found.words)
        with self.assertRaisesRegex(FrostError, "at least one cut-out"):
            calibrate([TurnAct(0.0, ())], -20.0)

    def test_stop_says_its_true_probability(self):
        chance = np.random.default_rng(5)
        within = stopped = 0
        for _ in range(300):
            slope, level = -chance.uniform(1.5, 9), chance.uniform(-8, 8)
            stands, acts = 0.0, []
            for _ in range(4):
                now = level + slope * stands
                early = chance.normal(0, 2)
                acts.append(
                    TurnAct(stands, tuple(now + early * 0.4**k + chance.normal(0, 0.35) for k in range(4)))
                )
                found = calibrate(acts, 0.0)
                if found.stop:
                    stopped += 1
                    within += abs(now) <= 1.0
                    break
                stands += found.next_turn
        self.assertGreater(stopped, 270)
        self.assertGreater(within / stopped, 0.93)

    def test_the_differential_screw_is_turned_to_learn_and_then_back(self):
        """Cut-out right, cut-in 3 K too cold; the differential screw turns out to lower it by 6 K a turn."""
        four = (-20.0,) * 4
        first = calibrate([TurnAct(0.0, four, (1.0,) * 4)], -20.0, cut_in=4.0)
        self.assertEqual((first.next_turn, first.next_differential), (0.0, 0.5))
        self.assertIn("to learn which way it goes", first.words)
        acts = [TurnAct(0.0, four, (1.0,) * 4), TurnAct(0.0, four, (-2.0,) * 4, 0.5)]
        second = calibrate(acts, -20.0, cut_in=4.0)
        self.assertLess(second.next_differential, -0.7)
        self.assertAlmostEqual(second.cut_in, -2.0, delta=0.2)
        there = calibrate([*acts, TurnAct(0.0, four, (4.0,) * 4, -0.5)], -20.0, cut_in=4.0)
        self.assertTrue(there.stop)

    def test_the_range_screw_is_one_spring_and_moves_both(self):
        """Both 3 K too warm at 6 K a turn: half a turn of the range screw, none of the other."""
        acts = [TurnAct(0.0, (-14.0,) * 4, (10.0,) * 4), TurnAct(0.5, (-17.0,) * 4, (7.0,) * 4)]
        found = calibrate(acts, -20.0, cut_in=4.0)
        self.assertAlmostEqual(found.next_turn, 0.5, delta=0.1)
        self.assertAlmostEqual(found.next_differential, 0.0, delta=0.1)

    def test_a_bulb_that_is_moved_keeps_the_slope_and_loses_the_level(self):
        acts = [TurnAct(0.0, (-20.0,) * 4), TurnAct(1.0, (-26.0,) * 4), TurnAct(1.0, (-18.0,) * 4, bulb=1)]
        found = calibrate(acts, -24.0)
        self.assertAlmostEqual(found.slope, -6.0, delta=0.4)
        self.assertAlmostEqual(found.now, -18.0, delta=0.1)
        self.assertAlmostEqual(found.next_turn, 1.0, delta=0.1)

    def test_an_offset_is_kelvin_by_its_own_word(self):
        _, slope, doubt = OF["offset"]
        found = calibrate([TurnAct(0.0, (-15.0,) * 4)], -18.0, slope=slope, doubt=doubt)
        self.assertAlmostEqual(found.next_turn, -3.0, delta=0.1)

    def test_cut_ins_that_are_none_are_told(self):
        act = TurnAct(0.0, (-20.0,) * 4)
        with self.assertRaisesRegex(FrostError, "at least one cut-in"):
            calibrate([act], -20.0, cut_in=4.0)
        with self.assertRaisesRegex(FrostError, "cuts in warmer"):
            calibrate([replace(act, cut_ins=(3.0,))], -20.0, cut_in=-22.0)
        ice = calibrate([replace(act, cut_ins=(2.0,) * 4)], -20.0, cut_in=2.0)
        self.assertIn("keeps ice with a cut-in below 3", ice.words)

    def test_both_screws_come_to_both_levels(self):
        chance = np.random.default_rng(3)
        stopped = right = 0
        for _ in range(200):
            b = -chance.uniform(1.5, 9)
            own = chance.choice([-1, 1]) * chance.uniform(1.5, 6)
            does = np.array([[b, chance.normal(0, 0.2)], [b * chance.uniform(0.9, 1.1), own]])
            found_at = np.array([chance.uniform(-6, 6), 8 + chance.uniform(-5, 5)])
            screws, acts = np.zeros(2), []
            for _ in range(6):
                now = found_at + does @ screws + chance.normal(0, 0.25, 2)
                early = chance.normal(0, 2, 2) * 0.4 ** np.arange(4)[:, None]
                shown = now + early + chance.normal(0, 0.35, (4, 2))
                acts.append(TurnAct(screws[0], tuple(shown[:, 0]), tuple(shown[:, 1]), screws[1]))
                found = calibrate(acts, 0.0, cut_in=8.0)
                if found.stop:
                    stopped += 1
                    right += bool((np.abs(now - [0.0, 8.0]) <= 1.0).all())
                    break
                screws += np.array([found.next_turn, found.next_differential])
        self.assertGreater(stopped, 180)
        self.assertGreater(right / stopped, 0.92)


class Door(TestCase):
    def test_a_simulated_log_is_judged_and_names_nothing(self):
        _, log, _ = ask(
            "thermal", "--sheet", TB, "--days", "2", "--fault", "board:welded:k_compressor", "--seed", "3"
        )
        self.assertTrue(log.startswith("time,fridge celsius,freezer celsius,evaporator coil celsius"))
        with NamedTemporaryFile("w", suffix=".csv") as file:
            file.write(log)
            file.flush()
            told_of = answer("run", "--log", file.name, "--sheet", TB)
        stands = {(each["kind"], each["of"]): each["stands"] for each in told_of["verdicts"]}
        self.assertEqual(stands["cuts_out", ""], "no")
        self.assertEqual(stands["defrosts", ""], "yes")

    def test_a_thermostat_by_turns(self):
        found = answer("calibrate", "--target", "-24C", "--turn", "0=-20C,-20.2C,-19.9C,-20C")
        self.assertAlmostEqual(found["cut_out_now_celsius"], -20, delta=0.2)
        self.assertGreater(found["next_turn"], 0)

    def test_by_both_screws(self):
        out = ",".join(["-20C"] * 4)
        turns = [f"0={out}/1C,1C,1C,1C", f"0,0.5={out}/-2C,-2C,-2C,-2C"]
        asked = [each for turn in turns for each in ("--turn", turn)]
        found = answer("calibrate", "--target", "-20C", "--cut-in", "4C", *asked)
        self.assertLess(found["next_differential"], -0.7)
        self.assertAlmostEqual(found["cut_in_now_celsius"], -2.0, delta=0.2)

    def test_nonsense_ends_with_a_sentence(self):
        for arguments, words in (
            (("thermal", "--sheet", TB, "--fault", "nope"), "There is no fault"),
            (("thermal", "--sheet", TB, "--days", "0"), "is no length of a run"),
            (("thermal", "--sheet", TB, "--setting", "x"), "--setting: “x” is not understood"),
            (("run", "--sheet", TB, "--log", TB), "heads"),
            (("calibrate", "--target", "-24C", "--turn", "x=-20C"), "--turn"),
        ):
            with self.subTest(arguments[0]):
                code, _, said = ask(*arguments)
                self.assertEqual(code, 2)
                self.assertIn(words, said)
