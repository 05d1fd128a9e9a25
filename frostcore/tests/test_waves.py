"""Chopped waves: closed forms, ngspice's transients with a real diode, and the table against single
readings."""

import json
import math
import re
import subprocess
from unittest import TestCase

import numpy as np
from hypothesis import given
from hypothesis import strategies as st

from frostcore.circuit.element import Wave
from frostcore.circuit.meter import MeterRange, expect, points
from frostcore.circuit.power import at_plug, draws
from frostcore.circuit.waves import energy, mean_and_square, shape
from frostcore.errors import SheetError
from frostcore.faults.known import broken, faults
from frostcore.faults.table import Setup, predict
from frostcore.sheet.load import load
from frostcore.tests.demo_sheets import PATHS, demo_sheet

OM = demo_sheet("Ossmere OM-58")
FIGURE = re.compile(r"^(mean|rms)\s*=\s*(\S+)", re.MULTILINE)
FRAME = ("CN2.5", "CN2.6")


def read(meter, red="CN2.5", black="CN2.6", mode="normal", fault="", sheet=OM):
    settled = broken(sheet, mode, [fault] if fault else [])
    return expect(settled, points(sheet, settled.circuit, red, black, meter), meter)


def written():
    return json.loads(
        next(path for path in PATHS if path.stem == "ossmere-om-58").read_text(encoding="utf-8")
    )


def cut(degrees):
    document = written()
    switch = next(item for item in document["boards"][0]["switches"] if item["id"] == "q_frame")
    switch |= {"passes": "cut", "delay_degrees": degrees}
    return load(json.dumps(document)).sheet


class Forms(TestCase):
    def test_half_waves(self):
        """Of V r.m.s.: mean √2V/π, r.m.s. V/√2, half the watts."""
        wave = Wave(half=True)
        found = shape(230.0, 0.0, wave)
        self.assertAlmostEqual(found.mean, math.sqrt(2) * 230 / math.pi, places=9)
        self.assertAlmostEqual(found.rms, 230 * math.sqrt(0.5 - 2 / math.pi**2), places=9)
        self.assertEqual(energy(wave), 0.5)
        self.assertAlmostEqual(shape(230.0, 0.0, Wave(half=True, backwards=True)).mean, -found.mean)

    def test_cut_at_the_crest(self):
        """From 90° on: no mean, half the watts, and the average meter shows V(1 + cos δ)/2 = V/2."""
        found = shape(120.0, 0.0, Wave(math.pi / 2))
        self.assertAlmostEqual(found.mean, 0.0, places=9)
        self.assertAlmostEqual(found.rms, 120 / math.sqrt(2), places=9)
        self.assertAlmostEqual(found.average, 60.0, delta=0.1)

    @given(st.floats(0, 3.1), st.booleans(), st.floats(1, 300), st.floats(0, 300), st.floats(-3, 3))
    def test_mean_and_square_against_samples(self, delay, half, on, off, angle):
        wave = Wave(delay, half=half)
        theta = (np.arange(100_000) + 0.5) * 2 * np.pi / 100_000
        conducts = (theta % np.pi >= delay) & (~np.bool_(half) | (theta < np.pi))
        turned = off * np.exp(1j * angle)
        volts = np.sqrt(2) * np.where(conducts, on * np.sin(theta), off * np.sin(theta + angle))
        mean, square = mean_and_square(np.array(on), np.array(turned), wave)
        self.assertAlmostEqual(float(mean), volts.mean(), delta=0.02 + 1e-4 * (on + off))
        self.assertAlmostEqual(float(square), (volts**2).mean(), delta=0.1 + 2e-3 * (on + off) ** 2 / 100)

    def test_whole_waves_are_themselves(self):
        mean, square = mean_and_square(np.array(100 + 50j), np.array(0), Wave())
        self.assertAlmostEqual(float(mean), 0.0, places=9)
        self.assertAlmostEqual(float(square), 100**2 + 50**2, places=6)


class OnTheUnit(TestCase):
    def test_against_a_transient_with_a_real_diode(self):
        deck = """half waves
V1 l 0 SIN(0 325.269 50)
R0 l a 0.5
D1 a h DX
C1 a h 10n
R1 h 0 1470
.model DX D(IS=1e-12 RS=0.05)
.control
tran 5u 0.2 0.1
meas tran mean AVG v(h) from=0.1 to=0.2
meas tran rms RMS v(h) from=0.1 to=0.2
.endc
.end
"""
        run = subprocess.run(
            ["ngspice", "-b"], check=False, input=deck, capture_output=True, text=True, timeout=60
        )
        found = {name: float(value) for name, value in FIGURE.findall(run.stdout)}
        self.assertAlmostEqual(read(MeterRange.VDC).value, found["mean"], delta=0.01 * found["mean"])
        ac = math.sqrt(found["rms"] ** 2 - found["mean"] ** 2)
        self.assertAlmostEqual(read(MeterRange.VAC).value, ac, delta=0.01 * ac)

    def test_it_is_said_what_each_meter_shows(self):
        found = read(MeterRange.VAC)
        self.assertIn("true-r.m.s. meter", found.words)
        self.assertTrue(
            found.low < min(found.value, found.average) and max(found.value, found.average) < found.high
        )
        self.assertLess(found.high - found.low, 40)
        whole = read(MeterRange.VAC, fault="main_board:welded:q_frame")
        self.assertIsNone(whole.average)
        self.assertTrue(whole.low < 230 < whole.high)
        self.assertLess(read(MeterRange.VAC, mode="door_open").value, 3)

    def test_elsewhere_waves_are_whole(self):
        found = read(MeterRange.VAC, "CN1.1", "CN1.2")
        self.assertIsNone(found.average)
        self.assertAlmostEqual(found.value, 230, delta=2)

    def test_across_the_triac_the_other_halves_are_left(self):
        found = read(MeterRange.VAC, "CN2.5", "CN1.1")
        self.assertAlmostEqual(found.value, 125, delta=2)

    def test_a_cut_wave_on_the_unit(self):
        sheet = cut(90)
        found = read(MeterRange.VAC, sheet=sheet)
        self.assertAlmostEqual(found.value, 230 / math.sqrt(2), delta=2)
        self.assertAlmostEqual(found.average, 115, delta=2)
        self.assertAlmostEqual(read(MeterRange.VDC, sheet=sheet).value, 0, delta=0.2)

    def test_a_load_gets_its_share_of_the_watts(self):
        for sheet, share in ((OM, 0.5), (cut(60), 1 - 1 / 3 + math.sin(2 * math.pi / 3) / (2 * math.pi))):
            settled = broken(sheet, "cut_out", [])
            heater = next(draw for draw in draws(settled) if draw.component == "frame_heater")
            self.assertAlmostEqual(heater.watts, share * 230**2 / 1470, delta=0.1)
            without = at_plug(broken(sheet, "cut_out", ["main_board:stuck_open:q_frame"])).watts
            self.assertAlmostEqual(at_plug(settled).watts - without, heater.watts, delta=0.1)

    def test_the_table_says_what_single_readings_say(self):
        setups = [Setup("normal", meter) for meter in (MeterRange.VAC, MeterRange.VAC_LOZ, MeterRange.VDC)]
        pairs = (FRAME, ("CN2.5", "CN1.1"), ("CN2.1", "CN2.2"))
        chosen = [item for item in faults(OM) if item.component == "frame_heater" or "q_frame" in item.id]
        self.assertGreater(len(chosen), 5)
        table = predict(OM, setups, pairs, chosen)
        for setup in setups:
            for pair in pairs:
                for name in ("", *(item.id for item in chosen)):
                    alone = read(setup.meter, *pair, fault=name)
                    self.assertAlmostEqual(
                        table.of(setup, pair, name), alone.value, delta=0.01, msg=(setup, pair, name)
                    )


class Sheets(TestCase):
    def test_outputs_that_chop_alike_or_not(self):
        document = written()
        switches = document["boards"][0]["switches"]
        frame = next(item for item in switches if item["id"] == "q_frame")
        twin = frame | {"id": "q_twin", "passes": "cut", "delay_degrees": 40}
        switches.append(twin)
        with self.assertRaises(SheetError) as caught:
            load(json.dumps(document))
        self.assertIn("q_twin", str(caught.exception))
        twin |= {"passes": "half", "delay_degrees": 0}
        self.assertTrue(load(json.dumps(document)).sheet)

    def test_what_no_output_can_do(self):
        for given_, said in (
            ({"passes": "cut"}, "cut for 0°"),
            ({"passes": "half", "delay_degrees": 30}, "delay belongs"),
            ({"passes": "half", "kind": "relay"}, "whole waves"),
        ):
            document = written()
            switch = next(item for item in document["boards"][0]["switches"] if item["id"] == "q_frame")
            del switch["passes"]
            switch |= given_
            with self.assertRaises(SheetError) as caught:
                load(json.dumps(document))
            self.assertIn(said, str(caught.exception))
