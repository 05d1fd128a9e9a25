"""The parts' electrical figures where no sheet gives them, as the field has them, on the circuits built."""

import math
import unittest
from dataclasses import replace

from frostcore.circuit.build import build
from frostcore.circuit.meter import MeterRange
from frostcore.circuit.parts import PARTS, Scene
from frostcore.sheet.model import ComponentKind, Nominal
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
            wire = circuit.branches[circuit.branch_index[stretch.id]].states[""]
            self.assertAlmostEqual(wire.ohms, 0.035 * stretch.metres, places=9)
            if stretch.connector:
                joint = circuit.branches[circuit.branch_index[stretch.joint]].states["joined"]
                self.assertEqual(joint.ohms, 0.01)
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

    def test_a_heater_leaks_to_the_chassis_from_kilohms_to_megohms(self):
        for mode, ohms in (("leak_earth", 4e3), ("leak_earth_damp", 25e3), ("leak_earth_slight", 450e3)):
            self.check(f"defrost_heater:{mode}", "defrost_heater.1", "earth", ohms)

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
        rated = 110 / (230 * 0.75)
        (rises,) = [s.rises for s in senses if s.branch == "compressor.start"]
        self.assertAlmostEqual(rises, 0.3 * rated, places=9)

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


class Table(Case):
    """Figures that no sheet gives, on the built circuits: (unit, branch, state, ohms, tolerance, and of a
    source how far its volts may be off)."""

    IMPEDANCES = (
        ("Tarnbeck TB-34", "wall", "in", 0.35, 0.5, 0.06),
        ("Tarnbeck TB-34", "wall.bond", "in", 0.4, 0.5, 0.0),
        ("Tarnbeck TB-34", "plug.l", "closed", 0.08, 0.5, 0.0),
        ("Tarnbeck TB-34", "board.ground", "", 1e6, 0.2, 0.0),
        ("Tarnbeck TB-34", "board.feed", "off", 680e3, 0.3, 0.0),
        ("Tarnbeck TB-34", "board.pullup_fridge", "", 10e3, 0.01, 0.0),
        ("Calvane CV-24", "power_supply.input", "off", 680e3, 0.3, 0.0),
        ("Calvane CV-24", "power_supply.input", "on", 230**2 / 2.0, 0.3, 0.0),
        ("Calvane CV-24", "power_supply.output", "off", 1e3, 0.5, 0.0),
        ("Calvane CV-24", "power_supply.output", "on", 0.06, 0.5, 0.04),
        ("Calvane CV-24", "display", "", 5**2 / 0.4, 0.3, 0.0),
        ("Calvane CV-24", "display.data", "", 100e3, 0.3, 0.0),
        ("Calvane CV-24", "cabinet_lamp", "dark", 22e3, 0.4, 0.0),
        ("Calvane CV-24", "cabinet_lamp", "lit", 144.0, 0.1, 0.0),
        ("Calvane CV-24", "upper_zone_fan", "at rest", 33e3, 0.6, 0.0),
        ("Calvane CV-24", "upper_zone_fan", "turning", 120.0, 0.2, 0.0),
        ("Calvane CV-24", "upper_zone_fan", "seized", 120 / 2.2, 0.3, 0.0),
        ("Calvane CV-24", "upper_board.q_lamp", "closed", 0.12, 0.5, 0.0),
        ("Calvane CV-24", "upper_board.upper_5v.rest", "", 4.7e3, 0.5, 0.0),
        ("Fennick FK-18", "fridge_lamp", "dark", 230**2 / 15 / 10, 0.4, 0.0),
        ("Fennick FK-18", "fridge_lamp", "lit", 230**2 / 15, 0.1, 0.0),
        ("Fennick FK-18", "left_pot.wiper", "", 5.0, 0.5, 0.0),
        ("Fennick FK-18", "start_ptc", "hot", 15e3, 0.4, 0.0),
        ("Ondrel OR-620", "inverter.supply", "off", 470e3, 0.3, 0.0),
        ("Ondrel OR-620", "inverter.supply", "on", 120**2 / 2.5, 0.3, 0.0),
        ("Ondrel OR-620", "inverter.drive", "on", 120**2 / 95, 0.4, 0.0),
        ("Ondrel OR-620", "inverter.command", "", 1.5e3, 0.2, 0.0),
        ("Ondrel OR-620", "inverter.bus", "", 220e3, 0.3, 0.0),
        ("Ondrel OR-620", "inverter.u", "off", 1e6, 0.5, 0.0),
        ("Ondrel OR-620", "inverter.u", "on", 0.4, 0.5, 0.4),
        ("Ondrel OR-620", "fridge_fan.speed", "", 47e3, 0.3, 0.0),
        ("Ondrel OR-620", "fridge_fan.tach", "pulses", 10e3, 0.2, 0.0),
        ("Ondrel OR-620", "board.inverter_pulses", "on", 330.0, 0.1, 0.1),
    )
    SENSES = (
        ("Calvane CV-24", "power_supply.input", 0, 0.6 * 230, 0.5 * 230),
        ("Calvane CV-24", "upper_module", 0, 0.3 * 12, 0.3 * 12),
        ("Calvane CV-24", "cabinet_lamp", 0, 0.6 * 12, 0.4 * 12),
        ("Calvane CV-24", "upper_board.upper_5v", 0, 5 + 1.0, 5 + 0.7),
        ("Calvane CV-24", "upper_board.q_lamp", 0, 0.85 * 5, 0.80 * 5),
        ("Fennick FK-18", "compressor.run", 0, 0.8 * 230, 0.55 * 230),
        ("Fennick FK-18", "compressor.run", 1, 0.3 * 125 / (230 * 0.75), 0.0),
        ("Fennick FK-18", "start_ptc", 0, 25, 25),
        ("Fennick FK-18", "evaporator_fan", 0, 0.6 * 230, 0.4 * 230),
        ("Fennick FK-18", "zone_board.feed", 0, 0.6 * 230, 0.5 * 230),
        ("Ondrel OR-620", "inverter.supply", 0, 0.7 * 120, 0.6 * 120),
        ("Ondrel OR-620", "inverter.u", 1, 2.2, 1.8),
        ("Ondrel OR-620", "fridge_fan", 0, 0.6 * 13, 0.5 * 13),
        ("Ondrel OR-620", "fridge_fan", 1, 1.0, 0.8),
        ("Ondrel OR-620", "board.k_defrost", 1, 0.7 * 13, 0.65 * 13),
    )

    def test_ohms_and_how_far_they_may_be_off(self):
        for title, name, state, ohms, tolerance, source in self.IMPEDANCES:
            with self.subTest(unit=title, branch=name, state=state):
                found = self.branch(demo_sheet(title), name).states[state]
                self.assertAlmostEqual(found.ohms / ohms, 1, places=9)
                self.assertEqual((found.tolerance, found.source_tolerance), (tolerance, source))

    def test_what_starts_and_stops_them(self):
        for title, name, number, rises, holds in self.SENSES:
            with self.subTest(unit=title, branch=name, sense=number):
                found = self.branch(demo_sheet(title), name).control.senses[number]
                self.assertAlmostEqual(found.rises, rises, places=9)
                self.assertAlmostEqual(found.holds, holds, places=9)

    def test_one_phase_of_an_inverters_compressor_has_35_ohms_of_reactance(self):
        self.assertAlmostEqual(self.z(OR, "compressor.u", "").imag, 35.0, places=9)


class Rated(Case):
    """What a part's rating decides."""

    def made(self, component, sheet=TB):
        scene = Scene(sheet, sheet.modes[0], frozenset())
        return list(PARTS[component.kind](scene, component))

    def part(self, kind, **nominal):
        return replace(TB.component("defrost_heater"), kind=kind, nominal=Nominal(**nominal))

    def test_a_lamp_of_60_volts_is_diodes_and_of_61_a_filament(self):
        for volts, ohms in ((60, 22e3), (61, 61**2 / 15 / 10)):
            lamp = self.made(self.part(ComponentKind.LAMP, volts=volts, watts=15))[0]
            self.assertAlmostEqual(lamp.states["dark"].ohms, ohms)

    def test_a_valve_of_60_volts_is_its_resistance_and_of_61_a_coil(self):
        for volts, coil in ((60, False), (61, True)):
            valve = self.made(self.part(ComponentKind.VALVE, volts=volts, watts=10, ohms=90))[0]
            self.assertEqual(valve.states[""].henries > 0, coil)

    def test_a_part_without_a_tolerance_has_a_tenth(self):
        heater = self.made(self.part(ComponentKind.HEATER, ohms=300))[0]
        self.assertEqual(heater.states[""].tolerance, 0.1)

    def test_a_run_capacitor_has_half_an_ohm_in_series(self):
        capacitor = self.made(self.part(ComponentKind.RUN_CAPACITOR, farads=4e-6))[0]
        self.assertEqual(capacitor.states[""].ohms, 0.5)

    def test_a_display_without_a_rating_takes_0_8_watts_at_5_volts(self):
        bare = replace(self.part(ComponentKind.DISPLAY), terminals={"plus": "a", "minus": "b"})
        self.assertAlmostEqual(self.made(bare)[0].states[""].ohms, 25 / 0.8)

    def test_a_sensors_place_may_be_3_kelvin_off(self):
        sensor = next(item for item in TB.sensors if item.component == "fridge_sensor")
        part, scene = TB.component("fridge_sensor"), Scene(TB, TB.modes[0], frozenset())
        celsius = scene.celsius(part)
        ohms, colder = TB.curve(sensor).ohms([celsius, celsius - 3.0]).tolist()
        found = self.made(part)[0].states[""]
        self.assertAlmostEqual(found.tolerance, sensor.working_tolerance + colder / ohms - 1, places=9)


if __name__ == "__main__":
    unittest.main()
