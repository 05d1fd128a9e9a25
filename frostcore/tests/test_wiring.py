"""The harness lines of a sheet: resolved to pins and colours, and refused where they lead nowhere."""

import json
import unittest

from frostcore.errors import SheetError
from frostcore.sheet.load import load
from frostcore.tests.demo_sheets import PATHS, SHEETS, demo_sheet

TEXT = next(path for path in PATHS if path.stem == "tarnbeck-tb-34").read_text(encoding="utf-8")


class Wiring(unittest.TestCase):
    def test_a_line_says_pins_colours_and_plugs_once(self):
        sheet = demo_sheet("Tarnbeck TB-34")
        connector, pin = sheet.pin("CN7.1")
        self.assertEqual((connector.id, connector.inline, pin.colour), ("CN7", True, "red"))
        self.assertEqual(sheet.pin("CN2.5")[1].colour, "red")
        self.assertEqual(
            (sheet.wiring.near("CN2.5"), sheet.wiring.far("CN2.5")), ("heater_out", "CN2.5/wire")
        )

    def test_every_pin_of_every_unit_has_a_wire_and_a_colour(self):
        for sheet in SHEETS:
            for point, (_, pin) in sheet.wiring.pins.items():
                self.assertIn(point, sheet.wiring.leaving, f"{sheet.title} {point}")
                self.assertTrue(pin.colour)

    def broken(self, change):
        data = json.loads(TEXT)
        change(data)
        with self.assertRaises(SheetError) as caught:
            load(json.dumps(data))
        return str(caught.exception)

    def test_lines_that_lead_nowhere_are_refused_with_their_place(self):
        for points, told in (
            (["CN99.1", "bimetal.1"], "there is no connector “CN99”"),
            (["CN2.9", "bimetal.1"], "connector CN2 lists no pin 9"),
            (["CN2.5", "bimetall.1"], "there is no component “bimetall”"),
            (["bimetal.1", "CN2.5"], "write lines from the board outward"),
            (["CN2.5"], "needs two points"),
            (["CN2.5", "nowhere"], "splice “nowhere” joins only one wire"),
        ):
            self.assertIn(
                told,
                self.broken(
                    lambda data, points=points: data["harness"].append({"points": points, "colours": ["red"]})
                ),
            )

    def test_two_wires_at_a_pin_and_a_loose_inline_pin_are_refused(self):
        self.assertIn(
            "2 lines leave pin CN2.5",
            self.broken(
                lambda data: data["harness"].append(
                    {"points": ["CN2.5", "defrost_heater.2"], "colours": ["red"]}
                )
            ),
        )
        self.assertIn(
            "one wire must arrive at inline pin CN7.9",
            self.broken(
                lambda data: data["harness"].append(
                    {"points": ["CN7.9", "defrost_heater.2"], "colours": ["red"]}
                )
            ),
        )

    def test_a_mode_names_places_and_parts_that_exist(self):
        self.assertIn(
            "there is no place “attic”",
            self.broken(lambda data: data["modes"][0].update(celsius={"attic": 5})),
        )
        self.assertIn(
            "there is no component “knob”",
            self.broken(lambda data: data["modes"][0].update(positions={"knob": "open"})),
        )
