"""Units that have a part their kind has not, or lack one."""

import json
import unittest

from frostcore.circuit.kept import circuits_of
from frostcore.circuit.meter import MeterRange
from frostcore.faults.known import faults as known_of
from frostcore.paper.outfit import ADDABLE, NewPart, OutfitError, added, parts_to_leave, without
from frostcore.sheet.load import load
from frostcore.tests.archetypes import PATHS

DOCUMENTS = {path.stem.removeprefix("kind-"): json.loads(path.read_text(encoding="utf-8")) for path in PATHS}
BOTTOM = DOCUMENTS["bottom-freezer"]
BOARDLESS = {"mechanical", "wine-thermoelectric"}


def sheet_of(document):
    return load(json.dumps(document)).sheet


def volts(circuits, mode, red, black):
    """What a meter of high resistance shows between two points."""
    return circuits.reading(mode, MeterRange.VAC, red, black).value


class Added(unittest.TestCase):
    def test_whatever_is_added_can_be_judged_and_leaves_nothing_when_it_is_taken_out(self):
        for name, document in DOCUMENTS.items():
            place, mode = document["places"][0]["id"], document["modes"][0]["id"]
            for what in ADDABLE:
                with self.subTest(kind=name, what=what.id):
                    new = NewPart(what.id, "Left-hand thing 2", place, (mode,))
                    try:
                        more = added(document, new)
                    except OutfitError as error:
                        # A capacitive dropper's rail carries no fan: said by the circuit itself.
                        weak = (name, what.id) == ("simple-cabinet", "fan_dc")
                        self.assertTrue(name in BOARDLESS or weak, error)
                        continue
                    sheet = sheet_of(more)
                    self.assertIn("left_hand_thing_2", {fault.component for fault in known_of(sheet)})
                    self.assertEqual(circuits_of(sheet).problem, "")
                    again = without(more, "left_hand_thing_2")
                    self.assertEqual(sheet_of(again), sheet_of(document))

    def test_a_heater_of_100_w_takes_them_in_the_modes_it_runs_in(self):
        sheet = sheet_of(added(BOTTOM, NewPart("heater", "Drain heater", "evaporator", ("defrost",))))
        circuits = circuits_of(sheet)
        read = volts(circuits, "defrost", "DrainHeater.1", "DrainHeater.2")
        self.assertAlmostEqual(read, 230, delta=3)
        off = volts(circuits, "normal", "DrainHeater.1", "DrainHeater.2")
        self.assertLess(abs(off), 3)
        # By hand: 230² ÷ 529 = 100 W.
        self.assertAlmostEqual(230**2 / sheet.component("drain_heater").nominal.ohms, 100, delta=0.1)

    def test_names_that_are_none_and_parts_that_are_there_are_refused_in_words(self):
        for new, told in (
            (NewPart("heater", "Defrost heater", "evaporator"), "already"),
            (NewPart("heater", "  ", "evaporator"), "called"),
            (NewPart("rocket", "Rocket", "evaporator"), "what it is"),
            (NewPart("heater", "Drain heater", "attic"), "where"),
            (NewPart("heater", "Compressor", "evaporator"), "already"),
        ):
            with self.assertRaisesRegex(OutfitError, told):
                added(BOTTOM, new)


class LeftOut(unittest.TestCase):
    def test_every_part_a_unit_may_be_without_can_go(self):
        for name, document in DOCUMENTS.items():
            for part, _ in parts_to_leave(document):
                with self.subTest(kind=name, part=part):
                    sheet = sheet_of(without(document, part))
                    self.assertNotIn(part, {component.id for component in sheet.components})
                    self.assertNotIn(part, {fault.component for fault in known_of(sheet)})

    def test_what_stood_in_a_row_with_it_still_runs(self):
        whole = circuits_of(sheet_of(BOTTOM))
        less = circuits_of(sheet_of(without(without(BOTTOM, "thermal_fuse"), "bimetal")))
        for circuits in (whole, less):
            read = volts(circuits, "defrost", "defrost_heater.1", "defrost_heater.2")
            self.assertAlmostEqual(read, 230, delta=3)

    def test_what_hung_on_it_alone_goes_with_it(self):
        document = without(BOTTOM, "damper")
        self.assertNotIn("Damper", {connector["id"] for connector in document["connectors"]})
        board = document["boards"][0]
        self.assertFalse([each for each in board["switches"] if "damper" in each["signal"]])
        self.assertFalse([each for each in board["resistors"] if "damper" in each["id"]])
        self.assertFalse([mode for mode in document["modes"] if "damper_open" in mode.get("signals", ())])
        with self.assertRaisesRegex(OutfitError, "no such part"):
            without(document, "damper")
        with self.assertRaisesRegex(OutfitError, "no such part"):
            without(document, "compressor")

    def test_only_what_is_of_the_part_is_forgotten(self):
        whole = json.loads(json.dumps(BOTTOM))
        whole["sources"] = {"components.damper_2.price": "printed", "components.damper.price": "printed"}
        self.assertEqual(list(without(whole, "damper")["sources"]), ["components.damper_2.price"])
        celsius = [mode.get("celsius") for mode in BOTTOM["modes"]]
        self.assertEqual([mode.get("celsius") for mode in without(BOTTOM, "damper")["modes"]], celsius)
