"""Rectifiers and their capacitors against ngspice's transients with real diodes, and a rail that hangs on
one."""

import json
import math
from unittest import TestCase

from hypothesis import given, settings
from hypothesis import strategies as st

from frostcore.circuit.element import Analysis
from frostcore.circuit.meter import MeterRange, expect, points
from frostcore.errors import SheetError
from frostcore.faults.known import broken, fault
from frostcore.sheet.load import load
from frostcore.supply.bus import Charging, Load, as_source, at_rest
from frostcore.tests.demo_sheets import PATHS, demo_sheet
from frostcore.tests.spice_board import transient

LW = demo_sheet("Lintwick LW-12")
DRY = "board:dry_capacitor:rail_24v"

SUPPLIES = [
    (Charging(math.sqrt(2) * volts, hertz, 1.5, ohms, farads, esr), Load(amperes))
    for volts, hertz, ohms in ((19.2, 50, 16.0), (14.0, 60, 4.0), (230.0, 50, 10.0))
    for farads, esr in ((330e-6, 0.5), (33e-6, 12.0), (100e-6, 3.0))
    for amperes in (0.01, 0.05)
]


class AtRest(TestCase):
    def test_against_transients(self):
        """Mean within 2 %, ripple and peak to peak within 10 %, the charging current within 12 %."""
        for charging, taken in SUPPLIES:
            with self.subTest(charging=charging, load=taken):
                found, told = transient(charging, taken), at_rest(charging, taken)
                self.assertAlmostEqual(told.mean, found["mean"], delta=0.02 * found["mean"])
                self.assertAlmostEqual(told.ripple, found["ripple"], delta=0.1 * found["ripple"] + 2e-3)
                self.assertAlmostEqual(told.peak_to_peak, found["pp"], delta=0.1 * found["pp"] + 2e-3)
                self.assertAlmostEqual(told.amperes_rms, found["irms"], delta=0.12 * found["irms"])

    def test_the_capacitors_own_ohms_see_the_charging_pulse(self):
        """60 Ω at 230 V, 6 W: 313 V and 12 V from peak to peak, where I/2fC + I·ESR gives 321 V and 5 V."""
        found = at_rest(Charging(math.sqrt(2) * 230, 50, 1.6, 10.0, 47e-6, 60.0), Load(watts=6, stops=60))
        self.assertAlmostEqual(found.mean, 313.3, delta=1)
        self.assertAlmostEqual(found.peak_to_peak, 12.1, delta=0.4)

    def test_with_half_the_waves_the_ripple_doubles_and_the_mean_hardly_moves(self):
        both = Charging(math.sqrt(2) * 230, 50, 1.4, 10.0, 22e-6, 2.0)
        half = Charging(math.sqrt(2) * 230, 50, 1.4, 10.0, 22e-6, 2.0, halves=True)
        one, other = (at_rest(each, Load(watts=2.4, stops=60)) for each in (both, half))
        self.assertAlmostEqual(other.ripple / one.ripple, 2.05, delta=0.1)
        self.assertLess(abs(other.mean / one.mean - 1), 0.01)

    def test_without_a_load_it_stands_at_the_crest(self):
        found = at_rest(Charging(100.0, 50, 1.4, 5.0, 100e-6, 0.5), Load())
        self.assertAlmostEqual(found.mean, 98.6, delta=0.01)
        self.assertLess(found.ripple, 1e-3)

    @settings(max_examples=30, deadline=None)
    @given(st.floats(5, 400), st.floats(0.2, 60), st.floats(1e-6, 5e-3), st.floats(0, 60), st.floats(0, 1))
    def test_current_in_is_current_out(self, peak, ohms, farads, esr, share):
        """Whatever the parts: the valley is under the mean under the crest, and it ends."""
        load = Load(share * 0.3 * peak / (ohms + esr + 20))
        found = at_rest(Charging(peak, 50, 1.4, ohms, farads, esr), load)
        self.assertLessEqual(found.valley, found.mean + 1e-9)
        self.assertLess(found.mean, peak)
        self.assertLessEqual(found.ripple, found.peak_to_peak + 1e-9)
        if found.valley > 0:
            rest = 2e-7 * peak * farads * 100  # what a cycle may end away from where it began
            self.assertGreaterEqual(found.amperes_rms + rest, load.amperes)

    def test_what_is_no_rectifier(self):
        for wrong in ({"peak": 0}, {"farads": 0}, {"ohms": -1}, {"esr": -1}):
            with self.assertRaises(ValueError):
                Charging(
                    **({"peak": 20, "hertz": 50, "drop": 1, "ohms": 1, "farads": 1e-4, "esr": 1} | wrong)
                )

    def test_a_load_of_watts_lets_go(self):
        load = Load(watts=10, stops=50)
        self.assertEqual(load.at(100), 0.1)
        self.assertEqual(load.at(49), 0)
        self.assertEqual(Load(0.2).at(-1), 0)


class AsASource(TestCase):
    def test_the_line_runs_through_both_ends(self):
        charging = SUPPLIES[0][0]
        line = as_source(charging, 0.06)
        for amperes in (0.012, 0.06):
            told = at_rest(charging, Load(amperes)).mean
            self.assertAlmostEqual(line.volts - amperes * line.ohms, told, places=6)
            ripple = at_rest(charging, Load(amperes)).ripple
            self.assertLessEqual(abs(ripple / line.ripple - 1), line.ripple_share + 1e-9)


class OnTheUnit(TestCase):
    def read(self, meter, *damage, mode="normal"):
        settled = broken(LW, mode, list(damage))
        return expect(settled, points(LW, settled.circuit, "p24", "ground", meter), meter)

    def test_a_rail_of_a_transformer_follows_its_load(self):
        on, off = (self.read(MeterRange.VDC, mode=mode).value for mode in ("normal", "cut_out"))
        self.assertGreater(off - on, 0.5)
        settled = broken(LW, "normal", [])
        amperes = -settled.amperes("board.rail_24v", Analysis.DC).real
        made = LW.boards[0].rails[0].transformer
        charging = Charging(
            math.sqrt(2) * made.winding_volts, 50, 1.5, made.winding_ohms, made.farads, made.esr_ohms
        )
        self.assertAlmostEqual(on, at_rest(charging, Load(amperes)).mean, delta=0.4)

    def test_a_dried_capacitor_shows_in_ac_volts(self):
        sound, dried = self.read(MeterRange.VAC), self.read(MeterRange.VAC, DRY)
        self.assertLess(sound.high, dried.value)
        self.assertGreater(dried.value, 5 * sound.value)
        volts = [self.read(MeterRange.VDC, *each).value for each in ((), (DRY,))]
        self.assertLess(abs(volts[1] / volts[0] - 1), 0.06)

    def test_where_a_regulator_holds_the_volts_nothing_shows_and_it_is_said(self):
        hidden = fault(demo_sheet("Pellworth PW-27"), "board:dry_capacitor:rail_12v")
        self.assertEqual(hidden.acts, ())
        self.assertIn("ESR", hidden.seen_by)

    def test_what_no_sheet_can_say(self):
        path = next(path for path in PATHS if path.stem == "lintwick-lw-12")
        for change, said in (
            (
                {"transformer": {"winding_volts": 0, "winding_ohms": 1, "farads": 1e-4, "esr_ohms": 1}},
                "winding_volts",
            ),
            ({"fed_by": "rail_5v"}, "not from both"),
        ):
            document = json.loads(path.read_text(encoding="utf-8"))
            document["boards"][0]["rails"][0] |= change
            with self.assertRaises(SheetError) as caught:
                load(json.dumps(document))
            self.assertIn(said, str(caught.exception))
