"""The trace laid out: everything on the path is drawn, nothing overlaps, connectors stand as they sit."""

import re
import unittest
from itertools import combinations, pairwise

from frostcore.circuit.kept import circuits_of
from frostcore.circuit.layout import lay_out_trace
from frostcore.tests.demo_sheets import SHEETS, demo_sheet


def pictures():
    for sheet in SHEETS:
        circuits = circuits_of(sheet)
        for function in circuits.functions:
            path = circuits.trace(function.id, circuits.live_modes[0].id)
            yield sheet, path, lay_out_trace(sheet, path)
        yield sheet, path, lay_out_trace(sheet, path, whole=True)


class Layout(unittest.TestCase):
    def test_every_point_of_every_path_can_be_touched(self):
        for sheet, path, picture in pictures():
            drawn = {port.point for box in picture.boxes for port in box.ports if port.lit} | {
                spot.point for inside in picture.insides for spot in inside.spots
            }
            touched = {sheet.wiring.near(point) for point in drawn}
            for point in path.points:
                self.assertTrue(
                    point.label in drawn or point.node in touched,
                    f"{sheet.title} {path.function.id}: {point.label}",
                )

    def test_boxes_do_not_overlap_and_lie_in_the_picture(self):
        for sheet, path, picture in pictures():
            for box in picture.boxes:
                self.assertTrue(
                    box.x >= 0
                    and box.y >= 0
                    and box.x + box.width <= picture.width
                    and box.y + box.height <= picture.height,
                    box.id,
                )
            for one, other in combinations(picture.boxes, 2):
                apart = (
                    one.x + one.width <= other.x
                    or other.x + other.width <= one.x
                    or one.y + one.height <= other.y
                    or other.y + other.height <= one.y
                )
                self.assertTrue(apart, f"{sheet.title} {path.function.id}: {one.id} over {other.id}")

    def test_targets_are_large_enough_for_a_cold_thumb(self):
        for _, _, picture in pictures():
            for box in picture.boxes:
                for one, other in pairwise(box.ports):
                    self.assertGreaterEqual(other.y - one.y, 44)

    def test_the_lit_wires_are_the_paths_own(self):
        for _, path, picture in pictures():
            lit = {wire.id for wire in picture.wires if wire.lit and wire.colour != "joined"}
            self.assertEqual(lit, path.branches & {wire.id for wire in picture.wires})

    def test_a_boards_connectors_show_all_pins_in_their_order(self):
        sheet = demo_sheet("Tarnbeck TB-34")
        picture = lay_out_trace(sheet, circuits_of(sheet).trace("defrost_heater", "defrost"))
        (power,) = (box for box in picture.boxes if box.id == "CN2")
        self.assertEqual([port.label for port in power.ports], ["1", "2", "3", "4", "5", "6"])
        self.assertEqual([port.note for port in power.ports if port.lit], ["HTR", "N"])

    def test_every_wire_runs_level_and_upright_from_pin_to_pin(self):
        for _, _, picture in pictures():
            spots = {(round(port.x, 1), round(port.y, 1)) for box in picture.boxes for port in box.ports} | {
                (round(port.x + port.width, 1), round(port.y, 1))
                for box in picture.boxes
                for port in box.ports
            }
            for wire in picture.wires:
                self.assertRegex(wire.path, r"^[MHV0-9. -]+$")
                xs = [float(part) for part in re.findall(r"[MH](-?[\d.]+)", wire.path)]
                self.assertTrue(all(0 <= x <= picture.width for x in xs), wire.id)
                start = tuple(float(part) for part in re.match(r"M([\d.-]+) ([\d.-]+)", wire.path).groups())
                self.assertIn(start, spots, wire.id)

    def test_the_whole_unit_shows_every_stretch(self):
        for sheet in SHEETS:
            circuits = circuits_of(sheet)
            picture = lay_out_trace(
                sheet, circuits.trace(circuits.functions[0].id, circuits.live_modes[0].id), whole=True
            )
            self.assertEqual(
                {wire.id for wire in picture.wires if wire.colour != "joined"},
                {stretch.id for stretch in sheet.wiring.stretches},
            )
