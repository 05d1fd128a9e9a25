"""The cabinet over time: closed forms, energy, an independent integration, and what faults do."""

import math
from dataclasses import replace
from unittest import TestCase

import numpy as np
from hypothesis import given, settings
from hypothesis import strategies as st
from scipy.integrate import solve_ivp

from frostcore.faults.known import faults
from frostcore.sheet.checks import problems_of
from frostcore.sheet.heat import DefrostStated, LevelsStated, ThermalStated
from frostcore.tests.demo_sheets import SHEETS, demo_sheet
from frostcore.thermal.control import DAY, HOUR, Act, Control, openings
from frostcore.thermal.faults import SOUND, Broken, broken, broken_by
from frostcore.thermal.map import BREAKS, CompressorMap
from frostcore.thermal.of_sheet import kind_of, stated_of, thermal_of
from frostcore.thermal.plant import Compartment, Evaporator, Loop, Module, Thermal
from frostcore.thermal.simulate import Plant, _Run, simulate
from frostcore.thermal.step import Stepping, first_below
from frostcore.thermal.usual import USUAL

LONE = Compartment("box", 1e4, 1e-3, 1e-3, 1e-6, 1e-6, 0.0, seal=2.0, leak_vapour=0.0)


def tarnbeck():
    return demo_sheet("Tarnbeck TB-34")


class Stepped(TestCase):
    def test_one_node_is_an_exponential(self):
        """T = T∞ + (T0 − T∞) e^{−t/τ}, τ = C/G, to 1e-9."""
        plant = Thermal(
            "box", (replace(LONE, air_contents=0.0, air_wall=0.0),), (), (), base_watts=0.0, room=30
        )
        run = simulate(plant, 1 / 6, start=5.0)
        tau = 1e4 / 2.0
        wanted = 30 + (5 - 30) * np.exp(-run.minutes * 60 / tau)
        np.testing.assert_allclose(run.of("air:box"), wanted, atol=1e-9)

    def test_a_cycle_of_one_node_is_the_closed_forms(self):
        """t = τ ln((T_0 − T_on)/(T_out − T_on)), and on the way there to 1e-8 K.

        The module only cools here, by S I (Tc + 273.15) watts with no ohms and nothing through it: its node
        goes to absolute zero with τ = C/(S I).
        """
        module = Module("module", "block", 0.02, 0.0, 0.0, 2.0, 1e5, 1e3, 1e3)
        face = Evaporator("block", 1e4, {"box": 1e-12}, takes_vapour=0.0)
        far = replace(LONE, air_contents=0.0, air_wall=0.0)
        plant = Thermal(
            "box", (far,), (face,), (Loop("metal:block", 24.0, 20.0, "module:module"),), modules=(module,),
            base_watts=0.0, room=25.0,
        )  # fmt: skip
        watts = 0.02 * 2.0
        run = simulate(plant, 0.5, start=25.0)
        net = Plant(plant).equations(_mode(plant)).net["block"]
        self.assertAlmostEqual(float(net[run.nodes.of["metal:block"]]), -watts, places=9)
        self.assertAlmostEqual(float(net[-1]), -watts * 273.15, places=9)
        tau, cold = 1e4 / watts, -273.15
        first = tau * math.log((25.0 - cold) / (20.0 - cold))
        row = int(first // 60)
        lowest = int(run.of("metal:block").argmin())
        self.assertIn(lowest, {row, row + 1})
        wanted = cold + (25.0 - cold) * math.exp(-row * 60 / tau)
        self.assertAlmostEqual(float(run.of("metal:block")[row]), wanted, places=8)

    def test_rows_and_series_agree(self):
        """Powers of the exponential and its series give the same minute."""
        chance = np.random.default_rng(1)
        m = chance.normal(size=(8, 8)) * 0.02 - 0.03 * np.eye(8)
        z = chance.normal(size=8)
        stepping = Stepping.of(m)
        np.testing.assert_allclose(stepping.rows(z, 1)[0], stepping.polynomial(z).sum(axis=0), rtol=1e-12)
        once = stepping.rows(z, 64)[63]
        np.testing.assert_allclose(once, np.linalg.matrix_power(stepping.powers[0], 64) @ z, rtol=1e-9)

    @given(st.floats(0.05, 0.95), st.floats(0.1, 5.0))
    @settings(max_examples=60, deadline=None)
    def test_the_first_root_is_found(self, root, scale):
        """Of (root − s)·scale and of a parabola that dips below nothing and comes back."""
        polynomials = np.zeros((32, 2))
        polynomials[:2, 0] = root * scale, -scale
        # (s − root)² − 1e-4: above at both ends, below about the root.
        polynomials[:3, 1] = (root**2 - 1e-4) * scale, -2 * root * scale, scale
        share, guard = first_below(polynomials, 1.0)
        self.assertEqual(guard, 1)
        self.assertAlmostEqual(share, root - 0.01, places=9)

    def test_nothing_moves_where_all_is_as_warm_as_the_room(self):
        plant = USUAL["single_evaporator"]().changed(
            never_runs=USUAL["single_evaporator"]().parts, base_watts=0.0, supply_share=1.0
        )
        run = simulate(plant, 2)
        for node in run.nodes.names:
            kind = node.partition(":")[0]
            if kind in {"air", "contents", "wall", "condenser", "shell"}:
                off = run.of(node) - plant.room
                # What damp gives off as it settles on the metal, no more.
                self.assertLess(float(np.abs(off).max()), 2.5, node)

    def test_twice_the_heat_capacities_take_twice_as_long(self):
        plant = Thermal(
            "box", (replace(LONE, air_contents=3.0, contents=2e4, air_wall=0.0),), (), (), base_watts=0
        )
        double = replace(plant.compartments[0], air=2e4, contents=4e4)
        one = simulate(plant, 0.25, start=0.0).of("air:box")
        two = simulate(plant.changed(compartments=(double,)), 0.5, start=0.0).of("air:box")
        np.testing.assert_allclose(one, two[::2], atol=1e-9)


def _mode(plant, **changes):
    whole = Plant(plant)
    run = _Run(whole, whole.start(plant.room), Control(plant))
    return run.mode


class Maps(TestCase):
    def test_pieces_meet_at_every_condensing_temperature(self):
        figures = CompressorMap(150.0, 95.0)
        for tc in (25.0, 45.0, 65.0):
            for te in BREAKS[1:]:
                below, above = figures.moved(te - 1e-10, tc), figures.moved(te, tc)
                self.assertAlmostEqual(below, above, delta=1e-7)

    def test_chords_are_near_the_exponential_and_on_either_side(self):
        figures = CompressorMap(150.0, 95.0)
        at = np.linspace(BREAKS[0], BREAKS[-1], 500)
        off = [figures.moved(te, 45.0) / figures.moved_exactly(te, 45.0) - 1 for te in at]
        self.assertLess(max(off), 0.025)
        self.assertGreater(min(off), -0.025)
        self.assertLess(min(off), max(off) > 0)


class Energy(TestCase):
    def test_it_balances_with_frost_and_drain_in_every_kind(self):
        """E_el + E_in − ΣCΔT − L·melted = 0 within 1e-9 of the electricity."""
        for kind, make in USUAL.items():
            plant = make()
            run = simulate(plant, 3, acts=openings(plant, 3))
            with self.subTest(kind):
                self.assertLess(abs(run.balance), 1e-9 * float(run.of("electric")[-1]))

    def test_without_vapour_there_is_never_frost(self):
        plant = USUAL["single_evaporator"]()
        dry = tuple(replace(room, leak_vapour=0.0, door_vapour=0.0) for room in plant.compartments)
        run = simulate(plant.changed(compartments=dry), 3, acts=openings(plant, 3))
        self.assertLess(float(run.of("frost:evaporator").max()), 1e-9)
        self.assertLess(float(run.of("melted").max()), 1e-9)

    def test_all_vapour_is_in_the_air_on_the_coil_or_in_the_drain(self):
        plant = USUAL["single_evaporator"]()
        acts = openings(plant, 2)
        run = simulate(plant, 2, acts=acts)
        opened = {room.place: 0.0 for room in plant.compartments}
        moments = {}
        for act in sorted(acts, key=lambda act: act.at):
            if act.what == "open":
                moments[act.of] = act.at
            else:
                opened[act.of] += act.at - moments.pop(act.of)
        came = sum(
            room.leak_vapour * 2 * DAY + room.door_vapour * opened[room.place] for room in plant.compartments
        )
        there = sum(float(run.of(f"vapour:{room.place}")[-1]) for room in plant.compartments)
        there += sum(float(run.of(node)[-1]) for node in ("frost:evaporator", "melted", "condensed"))
        self.assertAlmostEqual(there, came, delta=1e-6 * came)


class AgainstAnIndependentIntegration(TestCase):
    def test_every_switching_of_a_day_within_a_millisecond(self):
        """LSODA at 1e-9 with terminal events, on two kinds."""
        for kind in ("single_evaporator", "wine_cooler"):
            plant = USUAL[kind]()
            exact = simulate(plant, 1.0).events
            other = integrated(plant, DAY)
            with self.subTest(kind):
                self.assertEqual([each.what for each in exact], [each.what for each in other])
                self.assertGreater(len(exact), 15)
                worst = max(abs(a.at - b.at) for a, b in zip(exact, other, strict=True))
                self.assertLess(worst, 1e-3)


def integrated(plant, seconds):
    """The events of a plant, by LSODA instead of exponentials."""
    whole, control = Plant(plant), Control(plant)
    run = _Run(whole, whole.start(plant.room), control)
    control.clock()
    run.refresh()
    now = 0.0
    while now < seconds:
        m, until = whole.equations(run.mode).m, min(run.due, seconds)
        guards = []
        for row in run.guards:
            guards.append(lambda t, y, row=row: float(row @ y))
            guards[-1].terminal, guards[-1].direction = True, -1
        found = solve_ivp(
            lambda t, y, m=m: m @ y, (now, until), run.z, method="LSODA", rtol=1e-9, atol=1e-10,
            events=guards, jac=lambda t, y, m=m: m,
        )  # fmt: skip
        now, run.z = found.t[-1], found.y[:, -1].copy()
        control.move(now)
        if found.status == 1:
            run.happens(run.named[next(number for number, each in enumerate(found.t_events) if len(each))])
            run.refresh()
        elif now < seconds:
            control.clock()
            run.refresh()
    return control.events


class Usual(TestCase):
    def test_sound_units_hold_what_is_set_and_take_what_such_units_take(self):
        """Means about the loops' middles, 0.35 to 1.4 kWh a day, a defrost every day or so that ends warm."""
        for kind, make in USUAL.items():
            plant = make()
            run = simulate(plant, 3, acts=openings(plant, 3))
            last = slice(DAY_ROWS, None)
            with self.subTest(kind):
                for loop in plant.loops:
                    if loop.senses.startswith("sensor:"):
                        mean = float(run.of(loop.senses)[last].mean())
                        self.assertAlmostEqual(mean, (loop.cut_in + loop.cut_out) / 2, delta=1.2)
                energy = float(run.watts[last].mean()) * 24 / 1000
                self.assertTrue(0.35 < energy < 1.4, energy)
                ends = [event.of for event in run.events if event.what == "defrost ends"]
                if plant.defrost.kind != "none":
                    self.assertGreaterEqual(len(ends), 2)
                    self.assertEqual(set(ends[1:]), {"temperature"})

    def test_the_energy_a_day_rises_with_the_room(self):
        plant = USUAL["single_evaporator"]()
        watts = [
            float(simulate(plant.changed(room=room), 2).watts[1440:].mean()) for room in (18.0, 25.0, 32.0)
        ]
        self.assertTrue(watts[0] < watts[1] < watts[2], watts)


DAY_ROWS = 1440


def means(run):
    return {
        room.place: float(run.of(f"air:{room.place}")[DAY_ROWS:].mean()) for room in run.plant.compartments
    }


class Faults(TestCase):
    """What faults of a sheet do to its plant, by the circuit's own word of what still runs."""

    @classmethod
    def setUpClass(cls):
        cls.sheet = tarnbeck()
        cls.plant = thermal_of(cls.sheet)
        cls.known = {fault.id: fault for fault in faults(cls.sheet)}

    def of(self, fault, days=2):
        by = broken_by(self.sheet, self.plant, [self.known[fault]])[0]
        return simulate(broken(self.plant, by), days, acts=openings(self.plant, days))

    def test_every_demo_sheet_has_its_plant(self):
        kinds = {sheet.title: kind_of(sheet) for sheet in SHEETS}
        self.assertEqual(kinds["Tarnbeck TB-34"], "single_evaporator")
        self.assertEqual(kinds["Ondrel OR-620"], "dual_evaporator")
        self.assertEqual(kinds["Fennick FK-18"], "mechanical")
        self.assertEqual(kinds["Lintwick LW-12"], "cold_plate")
        self.assertEqual(kinds["Skerrow SK-48"], "wine_cooler")
        self.assertEqual(kinds["Calvane CV-24"], "thermoelectric")

    def test_a_thermostats_levels_and_a_bimetals_end_are_the_sheets(self):
        fennick = demo_sheet("Fennick FK-18")
        plant = thermal_of(fennick)
        self.assertEqual((plant.loops[0].cut_out, plant.loops[0].cut_in), (-24.0, -16.0))
        self.assertEqual(plant.defrost.ends, 13.0)
        # A board's sensor ends a defrost: there the bimetal is a guard, and opens later.
        self.assertNotEqual(self.plant.defrost.ends, 12.0)
        rating = replace(fennick.component("thermostat").nominal, opens_celsius=-20.0, resets_celsius=None)
        parts = tuple(
            replace(part, nominal=rating) if part.id == "thermostat" else part for part in fennick.components
        )
        loop = thermal_of(replace(fennick, components=parts)).loops[0]
        self.assertEqual((loop.cut_out, loop.cut_in), (-20.0, -11.0))

    def test_what_a_sheet_states_of_levels_and_defrost_is_its_plants(self):
        pellworth = demo_sheet("Pellworth PW-27")
        plant = thermal_of(pellworth)
        levels = {loop.senses: (loop.cut_in, loop.cut_out) for loop in plant.loops}
        self.assertEqual(levels["sensor:freezer"], (-16.0, -20.0))
        self.assertEqual((plant.defrost.hours, plant.defrost.ends, plant.defrost.most), (10, 9, 30))
        self.assertEqual(plant.base_watts, 4)
        self.assertIn("the levels its control keeps", stated_of(pellworth))
        self.assertIn("its set-points", stated_of(self.sheet))
        bulb = ThermalStated((LevelsStated(-14.0, -25.0),))
        loop = thermal_of(replace(demo_sheet("Fennick FK-18"), thermal=bulb)).loops[0]
        self.assertEqual((loop.cut_in, loop.cut_out), (-14.0, -25.0))

    def test_a_defrost_by_the_clock_comes_however_little_it_runs(self):
        """A cool room: by hours run one would be due in days, by the clock each six hours."""
        by_clock = ThermalStated(defrost=DefrostStated(6.0, "clock"))
        plant = thermal_of(replace(self.sheet, thermal=by_clock)).changed(room=12.0)
        at = simulate(plant, 1.0).when("defrost") / 3600
        self.assertEqual(len(at), 3)
        self.assertTrue(np.all(np.abs(np.diff(at) - 6.0) < 1.0))
        by_run = thermal_of(replace(self.sheet, thermal=ThermalStated(defrost=DefrostStated(6.0))))
        self.assertLess(len(simulate(by_run.changed(room=12.0), 1.0).when("defrost")), 3)

    def test_levels_and_defrosts_that_are_none_are_refused(self):
        for wrong in (
            lambda: LevelsStated(-20.0, -16.0),
            lambda: LevelsStated(90.0, -16.0),
            lambda: DefrostStated(0.0),
            lambda: DefrostStated(8.0, ends_celsius=-5.0),
            lambda: DefrostStated(8.0, most_minutes=1000.0),
            lambda: ThermalStated(board_watts=1000.0),
        ):
            with self.assertRaises(ValueError):
                wrong()
        stated = ThermalStated(
            (LevelsStated(-16.0, -20.0, "cellar"), LevelsStated(5.0, 3.0), LevelsStated(6.0, 3.0))
        )
        problems, _ = problems_of(replace(self.sheet, thermal=stated))
        told = [f"{each}" for each in problems]
        self.assertTrue(any("there is no compartment “cellar”" in each for each in told), told)
        self.assertTrue(any("stand twice" in each for each in told), told)

    def test_a_sound_fault_changes_nothing_bit_for_bit(self):
        by = broken_by(self.sheet, self.plant, [self.known["plug:earth_open"]])[0]
        self.assertEqual(by, SOUND)
        one, two = (simulate(each, 1).rows for each in (self.plant, broken(self.plant, SOUND)))
        self.assertTrue((one == two).all())

    def test_a_seized_motor_stands_though_it_takes_more(self):
        for part in ("evaporator_fan", "condenser_fan", "compressor"):
            by = broken_by(self.sheet, self.plant, [self.known[f"{part}:seized"]])[0]
            self.assertIn(part, by.stands)

    def test_a_broken_wire_does_what_its_dead_load_does(self):
        names = (
            "evaporator_fan:open",
            "harness:open:CN4.1-CN7.3",
            "defrost_heater:open",
            "thermal_fuse:open",
        )
        classes = broken_by(self.sheet, self.plant, [self.known[each] for each in names])
        self.assertEqual(classes[0], classes[1])
        self.assertEqual(classes[2], broken_by(self.sheet, self.plant, [self.known["thermal_fuse:open"]])[0])
        self.assertEqual(classes[0].stands, frozenset({"evaporator_fan"}))

    def test_marks_of_faults(self):
        sound = self.of("plug:earth_open")
        welded, fan = self.of("board:welded:k_compressor"), self.of("evaporator_fan:open")
        self.assertLess(means(welded)["freezer"], -30)
        self.assertLessEqual(len(welded.when("stops")), len(welded.when("defrost")) + 1)
        self.assertGreater(means(fan)["fridge"], means(sound)["fridge"] + 3)
        self.assertLess(
            float(fan.of("metal:evaporator").min()), float(sound.of("metal:evaporator").min()) - 5
        )
        weak, short = self.of("compressor:weak"), self.of("sealed_system:charge_short")
        running = [
            float(np.median(run.watts[(run.watts > 25) & (run.watts < 180)])) for run in (sound, weak, short)
        ]
        self.assertAlmostEqual(running[1], running[0], delta=0.1 * running[0])
        self.assertLess(running[2], 0.85 * running[0])
        cold = self.of("freezer_sensor:drift")
        self.assertGreater(means(cold)["freezer"], means(sound)["freezer"] + 3)
        self.assertAlmostEqual(means(cold)["fridge"], means(sound)["fridge"], delta=1.0)
        limping = self.of("compressor:stiff")
        self.assertGreater(len(limping.when("starts")), 5 * len(sound.when("starts")))
        dead = self.of("compressor:run_open")
        self.assertGreater(means(dead)["freezer"], 20)

    def test_a_heater_that_never_heats_leaves_its_frost(self):
        days = 8
        sound, failed = self.of("plug:earth_open", days), self.of("defrost_heater:open", days)
        self.assertLess(float(sound.of("frost:evaporator").max()), 0.25)
        self.assertGreater(float(failed.of("frost:evaporator")[-1]), 0.6)
        self.assertGreater(
            float(failed.watts[-DAY_ROWS:].mean()), 0.8 * float(sound.watts[-DAY_ROWS:].mean())
        )

    def test_melting_takes_what_it_must(self):
        """Heater on a frosted coil with nothing about it: t = (C·ΔT + L·m)/P, and what its lag adds."""
        face = Evaporator("coil", 5e3, {"box": 1e-9}, heater="heater", heater_watts=200.0, takes_vapour=0.0)
        plant = Thermal(
            "coil", (replace(LONE, seal=1e-9),), (face,), (), base_watts=0.0,
            defrost=replace(USUAL["single_evaporator"]().defrost, hours=1e9, ends=10.0, most=1e6),
        )  # fmt: skip
        whole = Plant(plant)
        z = whole.start(-20.0)
        z[whole.nodes.of["frost:coil"]] = 0.3
        run = simulate(whole, 0.2, start=z, acts=(Act(60.0, "defrost"),))
        took = run.when("defrost ends")[0] - 60.0
        wanted = (5e3 * (10 + 20) + 3.336e5 * 0.3) / 200.0
        self.assertAlmostEqual(took, wanted, delta=0.05 * wanted)
        self.assertAlmostEqual(float(run.of("melted")[-1]), 0.3, places=6)

    def test_settings_on_the_way(self):
        acts = (Act(30 * HOUR, "shift", by=-3.0), Act(31 * HOUR, "defrost"))
        run = simulate(self.plant, 3, acts=acts)
        before, after = (
            float(run.of("sensor:freezer")[part].mean()) for part in (slice(1440, 1800), slice(-900, None))
        )
        self.assertAlmostEqual(after - before, -3.0, delta=0.8)
        self.assertIn(31 * HOUR, run.when("defrost").tolist())
        off = simulate(self.plant, 2, acts=(Act(24 * HOUR, "unplug"),))
        self.assertEqual(float(off.watts[1500:].max()), 0.0)
        self.assertGreater(float(off.of("air:freezer")[-1]), 10)

    def test_math_of_a_module(self):
        """The most a module moves is at I = S·Tc/R: beyond it, it cools less."""
        best = 0.05 * (10 + 273.15) / 2.1
        temperatures = []
        for amperes in (0.6 * best, best, 1.5 * best):
            plant = USUAL["thermoelectric"]()
            modules = tuple(
                replace(each, amperes=amperes, sink_sheds=1e3, sink_holds=3e5) for each in plant.modules
            )
            run = simulate(plant.changed(modules=modules, never_stops=frozenset({"upper_module"})), 1)
            temperatures.append(float(run.of("air:upper_zone")[-1]))
        self.assertLess(temperatures[1], temperatures[0])
        self.assertLess(temperatures[1], temperatures[2])
        self.assertFalse(math.isnan(temperatures[0]))

    def test_unknown_broken_parts_are_none_of_the_plants(self):
        by = broken_by(self.sheet, self.plant, [self.known["fridge_lamp:open"]])[0]
        self.assertEqual(by, Broken())
