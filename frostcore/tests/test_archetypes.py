"""Kinds of unit: what they say of a unit nobody has described, and what they leave open."""

import math
import re
from dataclasses import replace
from unittest import TestCase

from hypothesis import given
from hypothesis import strategies as st

from frostcore.circuit.check import check_circuit
from frostcore.circuit.kept import circuits_of
from frostcore.circuit.meter import MeterRange
from frostcore.circuit.power import at_plug
from frostcore.circuit.trace import best_pair
from frostcore.diagnosis.acts import instruction
from frostcore.diagnosis.evidence import evidence_of
from frostcore.diagnosis.judge import judge
from frostcore.diagnosis.readings import readings_of
from frostcore.remedy.wayin import way_to
from frostcore.sheet.archetypes import fitted, for_mains
from frostcore.sheet.doubts import doubts
from frostcore.sheet.origin import Source
from frostcore.sheet.plate import read_plate
from frostcore.sheet.points import leads, plug_name, point_name, point_named, printed_pin
from frostcore.tests.archetypes import KINDS, kind
from frostcore.tests.demo_sheets import SHEETS
from frostcore.tests.walking import answerer, walk

PRINT = re.compile(r"\bCN\d|\b[A-Z][a-z]+[A-Z]\w*\.\d|[a-z_]+\.\d")


class Kinds(TestCase):
    def test_six_to_ten_ship_and_every_one_works_at_once(self):
        self.assertTrue(6 <= len(KINDS) <= 10)
        for sheet in KINDS:
            with self.subTest(sheet.id):
                check_circuit(sheet)
                circuits = circuits_of(sheet)
                self.assertEqual((circuits.problem, doubts(sheet), circuits.doubts), ("", (), ()))
                self.assertTrue(sheet.generic and sheet.about and not sheet.codes)
                self.assertTrue(sheet.title.startswith("Generic "))
                self.assertGreater(len(circuits.functions), 6)
                for place in sheet.places:
                    self.assertIsNotNone(way_to(sheet, place.id, ()))

    def test_nothing_that_only_one_maker_prints_stands_on_a_kind(self):
        for sheet in KINDS:
            known = {word for each in SHEETS for word in (each.plate.maker, each.plate.model)}
            text = str(sheet)
            self.assertFalse([word for word in known if word in text], sheet.id)
            for part in sheet.components:
                self.assertIsNone(part.price)
                self.assertEqual((part.weak_points, part.part_number), ((), ""))
            for run in sheet.harness:
                self.assertEqual(set(run.colours), {""})

    def test_points_are_called_by_what_they_are_for_and_each_by_another_name(self):
        for sheet in KINDS:
            names = [point_name(sheet, point) for point in sheet.wiring.pins]
            self.assertEqual(len(names), len(set(names)), sheet.id)
            for point, name in zip(sheet.wiring.pins, names, strict=True):
                self.assertEqual(printed_pin(sheet, point), "")
                self.assertNotRegex(name, PRINT, sheet.id)

    def test_acts_speak_by_function(self):
        sheet = kind("kind-bottom-freezer")
        path = circuits_of(sheet).trace("defrost_heater", "defrost")
        self.assertEqual(leads(sheet, *best_pair(path)), "defrost heater’s feed to return, at the board")
        self.assertEqual(plug_name(sheet, "DefrostHeater"), "the defrost heater’s plug at the board")
        judgement = judge(sheet, evidence_of(sheet, [{"act": "ask", "answer": "warm fridge"}]))
        acts = [instruction(sheet, judgement.state, each.test) for each in judgement.proposals]
        for act in acts:
            self.assertNotRegex(" ".join((act.act, *act.how)), PRINT)

    def test_other_makers_sensors_and_heaters_are_no_fault(self):
        sheet = kind("kind-bottom-freezer")
        reading = circuits_of(sheet).reading("off_cold", MeterRange.OHM, "DefrostHeater.1", "DefrostHeater.2")
        for ohms in (170, 240, 340):
            self.assertTrue(reading.low <= ohms <= reading.high)
        curve, tolerance = sheet.curve(sheet.sensors[0]), sheet.sensors[0].working_tolerance
        for at_25 in (2000, 2700, 5000, 10000):
            self.assertLess(abs(at_25 / curve.ohms(25.0) - 1), tolerance)


class Mains(TestCase):
    def test_a_heater_takes_its_watts_at_any_mains(self):
        for sheet in KINDS:
            for volts, hertz in ((120.0, 60.0), (100.0, 50.0)):
                other = for_mains(sheet, volts, hertz)
                self.assertEqual((other.plate.mains_volts, other.plate.mains_hertz), (volts, hertz))
                check_circuit(other)
                self.assertEqual(doubts(other), ())
                for mode in circuits_of(sheet).live_modes:
                    one = at_plug(circuits_of(sheet).scene(mode.id))
                    two = at_plug(circuits_of(other).scene(mode.id))
                    self.assertTrue(math.isclose(one.watts, two.watts, rel_tol=0.04, abs_tol=0.6), sheet.id)

    def test_mains_that_are_its_own_change_nothing(self):
        for sheet in KINDS:
            self.assertIs(for_mains(sheet, 235.0, 50.0), sheet)
            self.assertIs(fitted(sheet, None, 60.0), sheet)

    def test_there_and_back_again(self):
        for sheet in KINDS:
            back = for_mains(for_mains(sheet, 120.0, 60.0), 230.0, 50.0)
            for one, two in zip(sheet.components, back.components, strict=True):
                if one.nominal.ohms:
                    self.assertTrue(math.isclose(one.nominal.ohms, two.nominal.ohms, rel_tol=0.02), one.id)

    def test_a_sheet_of_a_unit_is_never_bent_to_a_plate(self):
        self.assertIs(fitted(SHEETS[0], 120.0, 60.0), SHEETS[0])


class Job8(TestCase):
    """Fridge warm, freezer well, no code; no air at the vent, the freezer's cover frosted at the inlet."""

    @classmethod
    def setUpClass(cls):
        cls.sheet = kind("kind-side-by-side")
        readings_of(cls.sheet).prepare()

    def walked(self, fault):
        known = [
            {"act": "temperature", "place": "fridge", "celsius": "12"},
            {"act": "temperature", "place": "freezer", "celsius": "-19"},
            {"act": "look", "look": "vent_air", "answer": "none"},
            {"act": "look", "look": "frost", "answer": "inlet"},
        ]
        return walk(self.sheet, answerer(self.sheet, fault), known)

    def test_damper_and_fan_are_parted_without_a_pin_number(self):
        for fault, unit in (("fridge_fan:seized", "fridge_fan"), ("damper:stuck", "damper")):
            found = self.walked(fault)
            self.assertEqual(found.judgement.suspects[0].unit, unit)
            self.assertGreater(found.judgement.suspects[0].probability, 0.98)
            self.assertLess(found.asked, 14)
            self.assertNotIn("evaporator", found.judgement.state.opened)

    def test_an_iced_duct_is_what_is_left(self):
        found = self.walked("damper:duct_iced")
        self.assertEqual(found.judgement.suspects[0].unit, "damper:duct_iced")
        self.assertGreater(found.judgement.suspects[0].probability, 0.7)


class Names(TestCase):
    def test_a_unit_with_a_sheet_is_called_as_it_is_printed(self):
        for sheet in SHEETS:
            for point in sheet.wiring.pins:
                self.assertEqual(point_name(sheet, point), point)
                self.assertEqual(point_named(sheet, point), point)

    def test_two_sheets_that_differ_in_names_only_share_what_is_worked_out(self):
        sheet = SHEETS[0]
        renamed = replace(sheet, author="somebody", papers="elsewhere")
        self.assertIs(circuits_of(renamed), circuits_of(sheet))
        other = replace(sheet, archetype="other")
        self.assertIsNot(circuits_of(other), circuits_of(sheet))

    def test_where_a_value_comes_from_is_told_by_the_nearest_entry(self):
        sources = {"components.a": Source.PRINTED, "components.a.nominal.ohms": Source.MEASURED}
        sheet = replace(KINDS[0], sources=sources)
        self.assertIs(sheet.source_of("components.a.nominal.ohms"), Source.MEASURED)
        self.assertIs(sheet.source_of("components.a.name"), Source.PRINTED)
        self.assertIs(sheet.source_of("components.b"), Source.ARCHETYPE)


class Plate(TestCase):
    def test_what_is_printed_is_understood_in_any_order(self):
        found = read_plate(
            "MODEL: NX-300  SERIAL No: 12-3456A 220-240V~ 50Hz 0.8A R600a 52g Defrost heater 180W"
        )
        self.assertEqual((found.model, found.serial), ("NX-300", "12-3456A"))
        self.assertEqual((found.mains_volts, found.mains_hertz, found.refrigerant), (230.0, 50.0, "R600a"))
        self.assertEqual((found.charge_grams, found.defrost_heater_watts), (52.0, 180.0))

    def test_other_languages_commas_ounces(self):
        found = read_plate(
            "Modell KG 77/2; Serien-Nr. 889912; 230 V ~ 50 Hz; R 600a 0,045 kg; Abtauheizung 160 W"
        )
        self.assertEqual((found.model, found.serial), ("KG 77/2", "889912"))
        self.assertEqual((found.charge_grams, found.defrost_heater_watts), (45.0, 160.0))
        self.assertAlmostEqual(read_plate("KX 115V 60Hz R134a 5.5 oz").charge_grams, 155.9)

    def test_what_no_house_or_unit_has_is_not_taken(self):
        found = read_plate("Halden 340 12V 75 kg 400Hz")
        self.assertEqual((found.mains_volts, found.charge_grams, found.mains_hertz), (None, None, None))

    @given(st.text(max_size=300))
    def test_no_text_breaks_it_and_the_model_fits_its_field(self, text):
        self.assertLessEqual(len(read_plate(text).model), 60)
