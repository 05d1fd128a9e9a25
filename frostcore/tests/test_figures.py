"""The parts' electrical figures where no sheet gives them, as the field has them, on the circuits built."""

import math
import unittest
from dataclasses import replace

from frostcore.circuit.build import build
from frostcore.circuit.meter import MeterRange
from frostcore.circuit.parts import Scene
from frostcore.tests.demo_sheets import demo_sheet
from frostcore.tests.test_circuit import reading

TB, PW, OR = (demo_sheet(title) for title in ("Tarnbeck TB-34", "Pellworth PW-27", "Ondrel OR-620"))


class Case(unittest.TestCase):
    def built(self, sheet):
        return build(sheet, next(mode.id for mode in sheet.modes if mode.live))

    def branch(self, sheet, name):
        circuit = self.built(sheet)
        return circuit.branches[circuit.branch_index[name]]

    def z(self, sheet, name, state):
        impedance = self.branch(sheet, name).states[state]
        return complex(impedance.ohms, 2 * math.pi * sheet.plate.mains_hertz * impedance.henries)


class Supply(Case):
    def test_the_house_is_a_third_of_an_ohm_and_6_per_cent_of_volts(self):
        mains = self.branch(TB, "wall").states["in"]
        self.assertEqual((mains.ohms, mains.source_tolerance), (0.35, 0.06))

    def test_a_boards_ground_is_tied_to_the_chassis_by_a_megohm_and_2_2_nanofarads(self):
        self.assertEqual(self.branch(TB, "board.ground").states[""].ohms, 1e6)
        ground = TB.boards[0].ground
        self.assertEqual([s.farads for s in self.built(TB).strays if s.a == ground], [2.2e-9])

    def test_a_conductor_has_35_milliohms_and_60_picofarads_a_metre_and_10_milliohms_a_joint(self):
        circuit = self.built(TB)
        for stretch in TB.wiring.stretches:
            joined = circuit.branches[circuit.branch_index[stretch.id]].states["joined"]
            joint = 0.01 if stretch.connector else 0.0
            self.assertAlmostEqual(joined.ohms, joint + 0.035 * stretch.metres, places=9)
        farads = {s.a: s.farads for s in circuit.strays if s.b == "earth"}
        far = [stretch for stretch in TB.wiring.stretches if stretch.far in farads and stretch.metres]
        self.assertTrue(far)
        for stretch in far:
            self.assertAlmostEqual(farads[stretch.far] / (60e-12 * stretch.metres), 1, places=6)

    def test_a_place_nobody_gave_a_temperature_is_at_20_degrees(self):
        anywhere = replace(TB.components[0], place="")
        self.assertEqual(Scene(TB, TB.modes[0], frozenset()).celsius(anywhere), 20.0)


class Faults(Case):
    """As an ohmmeter reads them, the plug out; OL in a healthy unit."""

    def check(self, fault_id, red, black, ohms, pulled=()):
        healthy = reading("Tarnbeck TB-34", "off_warm", red, black, MeterRange.OHM, pull=pulled)
        faulty = reading(
            "Tarnbeck TB-34", "off_warm", red, black, MeterRange.OHM, pull=pulled, fault_id=fault_id
        )
        self.assertTrue(healthy.value is None or healthy.value > 1e6, healthy)
        self.assertAlmostEqual(faulty.value / ohms, 1, delta=0.005)

    def test_a_heater_with_a_cracked_sheath_reads_3_kilohms_to_the_chassis(self):
        self.check("defrost_heater:leak_earth", "defrost_heater.1", "earth", 3e3)

    def test_a_wet_plug_reads_30_kilohms_to_the_neighbouring_pin(self):
        self.check("harness:moisture:CN7.1-CN7.2", "CN2.5", "CN2.6", 30e3, ("CN2",))


class Switches(Case):
    def test_closed_they_have_their_ohms_and_open_their_capacitance(self):
        cases = (("k_defrost", 0.03, 220e-12), ("q_water", 0.6, 10e-9), ("q_fan", 0.12, None))
        for name, ohms, farads in cases:
            switch = next(item for item in PW.boards[0].switches if item.id == name)
            self.assertEqual(self.branch(PW, f"board.{name}").states["closed"].ohms, ohms)
            ends = (switch.from_node, switch.to_node)
            across = [s.farads for s in self.built(PW).strays if (s.a, s.b) == ends]
            self.assertEqual(across, [farads] if farads else [])

    def test_a_contact_has_50_milliohms(self):
        self.assertEqual(self.branch(TB, "bimetal").states["closed"].ohms, 0.05)


class Motors(Case):
    """P = V²·cos φ/|Z|; cos φ = R/|Z|."""

    def check(self, sheet, component, name, factor, locked):
        part = sheet.component(component)
        self.assertIsNone(part.nominal.power_factor)
        running, still = self.z(sheet, name, "running"), self.z(sheet, name, "standstill")
        volts = part.nominal.volts or sheet.plate.mains_volts
        self.assertAlmostEqual(running.real / abs(running), factor, places=6)
        self.assertAlmostEqual(volts**2 * factor / abs(running), part.nominal.watts, places=4)
        self.assertGreater(abs(running) / locked, part.nominal.ohms)
        self.assertAlmostEqual(abs(still), abs(running) / locked, places=4)

    def test_a_shaded_pole_fan(self):
        self.check(TB, "condenser_fan", "condenser_fan", 0.6, 1.6)

    def test_a_single_phase_compressor(self):
        self.check(TB, "compressor", "compressor.run", 0.75, 5.0)
        senses = self.branch(TB, "compressor.run").control.senses
        self.assertEqual([s.rises for s in senses if s.branch == "compressor.start"], [0.5])

    def test_a_geared_auger(self):
        self.check(PW, "auger_motor", "auger_motor", 0.65, 3.0)

    def test_a_hot_ptc(self):
        self.assertEqual(self.branch(TB, "start_ptc").states["hot"].ohms, 15e3)

    def test_a_brushless_fan_starts_at_60_per_cent_and_stops_under_50(self):
        fan = TB.component("evaporator_fan")
        branch = self.branch(TB, "evaporator_fan")
        sense = branch.control.senses[0]
        shares = (sense.rises / fan.nominal.volts, sense.holds / fan.nominal.volts)
        self.assertAlmostEqual(shares[0], 0.6, places=9)
        self.assertAlmostEqual(shares[1], 0.5, places=9)
        self.assertEqual(branch.states["at rest"].ohms, 33e3)

    def test_its_tachometer_and_speed_input(self):
        self.assertEqual(self.branch(OR, "fridge_fan.tach").states["pulses"].ohms, 10e3)
        self.assertEqual(self.branch(OR, "fridge_fan.speed").states[""].ohms, 47e3)

    def test_an_inverter_gives_38_volts_a_phase_a_third_of_a_turn_apart(self):
        phases = [self.branch(OR, f"inverter.{name}").states["on"].ac_volts for name in "uvw"]
        for phase in phases:
            self.assertAlmostEqual(abs(phase), 38.0, places=9)
        self.assertAlmostEqual(abs(sum(phases)), 0.0, places=9)
        self.assertAlmostEqual(abs(phases[0] - phases[1]), 38.0 * 3**0.5, places=9)


if __name__ == "__main__":
    unittest.main()
