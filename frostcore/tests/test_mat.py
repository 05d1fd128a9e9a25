"""A board on the mat: resistors for sensors, what is switched, codes that say nothing."""

import math
from unittest import TestCase

from hypothesis import given
from hypothesis import strategies as st

from frostcore.diagnosis.mat import E24, on_mat, standard
from frostcore.errors import FrostError
from frostcore.tests.demo_sheets import SHEETS, demo_sheet


class Resistors(TestCase):
    @given(st.floats(1.0, 9e6))
    def test_the_nearest_of_a_standard_series(self, ohms):
        found = standard(ohms)
        mantissa = found / 10 ** math.floor(math.log10(found) + 1e-9)
        self.assertTrue(any(abs(mantissa - each) < 1e-6 for each in E24), found)
        self.assertLess(abs(math.log(found / ohms)), 0.0716)  # 1.3 to 1.5 is the widest gap

    def test_none_for_nonsense(self):
        for ohms in (0.0, -1.0, math.inf):
            with self.assertRaises(FrostError):
                standard(ohms)

    def test_by_hand_on_one_unit(self):
        # The fridge is set to 5 °C: warm is 15 °C, where its curve has 7.6 kΩ; frosted is −15 °C, 33 kΩ.
        found = on_mat(demo_sheet("Tarnbeck TB-34"))
        told = [(each.sensor, each.resistor, each.where) for each in found.stands]
        self.assertIn(("Fridge sensor", "7.5 kΩ", "CN3.1 to CN3.2"), told)
        self.assertIn(("Defrost sensor", "33 kΩ", "CN3.5 to CN3.6"), told)
        self.assertEqual(found.doors, ())  # its door switch carries the lamp: the board does not see it
        self.assertEqual(found.idle_codes, ("E1", "E2", "E3", "E5", "E8"))
        two = on_mat(demo_sheet("Ondrel OR-620")).doors
        self.assertEqual(two, (("Fridge door switch", ("CN11.3", "CN11.4")),))

    def test_what_each_is_taken_for_asks_for_what_is_said(self):
        for sheet in SHEETS:
            for board in sheet.boards:
                for each in on_mat(sheet, board.component).stands:
                    sensor = next(item for item in sheet.sensors if sheet.sensor_name(item) == each.sensor)
                    self.assertAlmostEqual(
                        float(sheet.curve(sensor).ohms(each.celsius)), each.ohms, delta=each.ohms / 100
                    )
                    middle = sensor.set_point_celsius or 0.0
                    if "it should cool" in each.why:
                        self.assertGreater(each.celsius, middle + 3)
                    if "it should rest" in each.why:
                        self.assertLess(each.celsius, middle - 2)


class Outputs(TestCase):
    def test_an_output_is_read_at_its_load_and_never_at_ground(self):
        for sheet in SHEETS:
            nodes = {f"{plug.id}.{pin.number}": pin.node for plug in sheet.connectors for pin in plug.pins}
            for board in sheet.boards:
                for each in on_mat(sheet, board.component).switched:
                    self.assertNotIn(board.ground, {nodes[pin] for pin in each.pins}, each)

    def test_each_mode_switches_what_it_commands(self):
        found = on_mat(demo_sheet("Tarnbeck TB-34")).switched
        cooling = {each.output for each in found if each.mode == "Normal, cooling"}
        self.assertEqual(cooling, {"compressor relay", "condenser fan triac", "evaporator fan transistor"})
        self.assertTrue(any("defrost" in each.output for each in found if "defrost" in each.mode.lower()))

    def test_a_board_that_is_none_is_told(self):
        for title, board, told in (
            ("Calvane CV-24", "", "Which board"),
            ("Tarnbeck TB-34", "kettle", "no board “kettle”"),
        ):
            with self.assertRaisesRegex(FrostError, told):
                on_mat(demo_sheet(title), board)
