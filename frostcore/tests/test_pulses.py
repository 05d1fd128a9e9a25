"""Hertz of tachometers and commands, and what meters make of pulses, against a square wave sampled."""

import json
from unittest import TestCase

import numpy as np
from hypothesis import given
from hypothesis import strategies as st

from frostcore.circuit.element import CircuitError
from frostcore.circuit.meter import MeterRange, points
from frostcore.circuit.pulses import _square, pulses
from frostcore.errors import SheetError
from frostcore.faults.known import broken
from frostcore.sheet.load import load
from frostcore.tests.demo_sheets import PATHS, demo_sheet

OM = demo_sheet("Ossmere OM-58")


def between(red, black, mode="normal", fault=""):
    settled = broken(OM, mode, [fault] if fault else [])
    return pulses(OM, settled, points(OM, settled.circuit, red, black, MeterRange.VDC))


class Square(TestCase):
    @given(st.floats(0.05, 0.95), st.floats(1, 15))
    def test_what_meters_show_of_a_square_wave(self, duty, volts):
        samples = 200_000
        wave = np.where(np.arange(samples) < duty * samples, volts, 0.0)
        found, share = _square(100.0, 0.01, duty, volts), np.arange(samples) / samples
        sine = np.sin(2 * np.pi * share)
        form = np.sqrt(np.mean(sine**2)) / np.mean(np.abs(sine))
        self.assertAlmostEqual(found.vdc, wave.mean(), delta=1e-3 * volts)
        self.assertAlmostEqual(found.vac_rms, wave.std(), delta=1e-3 * volts)
        deviation = np.mean(np.abs(wave - wave.mean()))
        self.assertAlmostEqual(found.vac_average, form * deviation, delta=1e-3 * volts)

    def test_faster_than_a_meter_follows_only_its_mean_is_told(self):
        for hertz, told in ((990.0, True), (1010.0, False)):
            found = _square(hertz, 0.01, 0.5, 5.0)
            self.assertIs(found.vac_rms is not None, told)
            self.assertEqual(found.vdc, 2.5)


class OnTheUnit(TestCase):
    def test_a_fans_tachometer_gives_its_speed(self):
        """2200 rpm, two pulses a turn, and as much less as its volts are under 12."""
        found = between("CN5.3", "CN5.2")
        self.assertTrue(0.95 * 2200 * 2 / 60 < found.hertz <= 2200 * 2 / 60, found)
        self.assertAlmostEqual(found.low / found.hertz, 0.85, places=9)
        for mode, fault in (
            ("cut_out", ""),
            ("normal", "freezer_fan:seized"),
            ("normal", "freezer_fan:open"),
        ):
            self.assertEqual(between("CN5.3", "CN5.2", mode, fault).hertz, 0.0, (mode, fault))

    def test_a_command_of_pulses_has_its_hertz_and_duty(self):
        found = between("CN5.4", "CN5.2")
        self.assertEqual((found.hertz, found.duty), (400, 3.9 / 5))
        self.assertAlmostEqual(found.vdc, 3.9, places=9)
        self.assertEqual(between("CN5.4", "CN5.2", "cut_out").hertz, 0.0)

    def test_where_nothing_pulses_is_said(self):
        with self.assertRaisesRegex(CircuitError, "Nothing pulses"):
            between("CN2.1", "CN2.2")

    def test_pulses_do_not_rise_less_than_their_mean(self):
        data = json.loads(
            next(path for path in PATHS if path.stem == "ossmere-om-58").read_text(encoding="utf-8")
        )
        data["boards"][0]["drives"][0]["high_volts"] = 3
        with self.assertRaisesRegex(SheetError, "have no mean of"):
            load(json.dumps(data))


class NewUnits(TestCase):
    def test_a_capacitor_starts_the_ossmeres_compressor_and_a_dried_one_does_not(self):
        for fault, state in (
            ("", "running"),
            ("run_capacitor:drift", "standstill"),
            ("run_capacitor:open", "standstill"),
        ):
            settled = broken(OM, "normal", [fault] if fault else [])
            place = settled.circuit.branch_index["compressor.run"]
            self.assertEqual(settled.states[place], state, fault)

    def test_the_valve_stands_as_the_compartment_asks(self):
        for mode, volts in (
            ("normal", {"valve_freezer": 12, "valve_fridge": 0}),
            ("cool_fridge", {"valve_freezer": 0, "valve_fridge": 12}),
        ):
            settled = broken(OM, mode, [])
            for coil, wanted in volts.items():
                self.assertAlmostEqual(self.across(settled, coil), wanted, delta=0.9, msg=(mode, coil))

    def test_two_boards_on_a_bus(self):
        """The door board has its own 5 V from the 12 V of the cable; with the cable broken it is dead."""
        settled = broken(OM, "normal", [])
        self.assertAlmostEqual(self.across(settled, "display"), 5, delta=0.2)
        self.assertAlmostEqual(
            self.across(broken(OM, "normal", ["harness:open:CN10.1-CN33.1"]), "display"), 0, delta=0.1
        )

    def test_the_lintwicks_fan_never_stops_and_its_lamp_follows_the_door(self):
        sheet = demo_sheet("Lintwick LW-12")
        for mode, lamp in (("normal", "dark"), ("cut_out", "dark"), ("door_open", "lit")):
            settled = broken(sheet, mode, [])
            states = dict(
                zip((branch.id for branch in settled.circuit.branches), settled.states, strict=True)
            )
            self.assertEqual((states["cabinet_fan"], states["cabinet_lamp"]), ("running", lamp), mode)

    def across(self, settled, name):
        branch = settled.circuit.branch(name)
        a, b = settled.circuit.topology.rows_of([branch.a, branch.b])
        x = next(iter(each.x for kind, each in settled.solved.items() if kind == "dc"))
        return float((x[a] - x[b]).real)
