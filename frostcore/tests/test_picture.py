"""Tables in pictures: laid straight, their grid found, their cells cut and what was read in them weighed."""

import math
import unittest

import numpy as np
from hypothesis import example, given, settings
from hypothesis import strategies as st
from hypothesis.extra.numpy import arrays
from scipy import ndimage

from frostcore.paper.picture.cells import WornError, cut
from frostcore.paper.picture.grid import tables_on
from frostcore.paper.picture.ink import contrast, ink_of, levelled
from frostcore.paper.picture.straight import back, flat, lean_of, turned
from frostcore.paper.picture.weigh import Glimpse, section_of, weighed

HIGH, WIDE = 900, 1200
ROWS, COLUMNS = [100, 150, 200, 250, 300], [100, 300, 460, 900]


def drawn(rows=ROWS, columns=COLUMNS, *, lines=True, ink=20.0, paper=240.0, merged=()):
    """A page with one table, a block of strokes in each cell; ``merged`` are edges left out (row, column)."""
    page = np.full((HIGH, WIDE), paper)
    if lines:
        for at in rows:
            page[at : at + 3, columns[0] : columns[-1] + 3] = ink
        for at in columns:
            page[rows[0] : rows[-1] + 3, at : at + 3] = ink
    for row, column in merged:  # the line above this cell
        page[rows[row] : rows[row] + 3, columns[column] + 4 : columns[column + 1]] = paper
    for top, high in zip(rows[:-1], np.diff(rows), strict=True):
        for left in columns[:-1]:
            for stroke in range(4):
                x = left + 20 + 14 * stroke
                page[top + round(0.32 * high) : top + round(0.72 * high), x : x + 4] = ink
    return page


def leant(page, degrees):
    return ndimage.rotate(page, degrees, order=1, reshape=False, mode="constant", cval=240.0)


class Straight(unittest.TestCase):
    def test_the_lean_of_a_page_is_found(self):
        for degrees in (-4.0, -1.3, 0.0, 0.7, 5.0):
            found = lean_of(ink_of(levelled(leant(drawn(), degrees))))
            self.assertAlmostEqual(found, degrees, delta=0.2)

    def test_a_point_of_the_turned_page_goes_back_to_where_it_was(self):
        page = np.full((300, 400), 255.0)
        page[100:104, 50:54] = 0
        for degrees in (5.0, -3.0):
            straight = turned(page, degrees)
            down, across = ndimage.center_of_mass(straight < 200)
            x, y = back((across + 0.5, down + 0.5), degrees, page.shape, straight.shape)
            self.assertAlmostEqual(x, 52, delta=0.5)
            self.assertAlmostEqual(y, 102, delta=0.5)

    def test_four_corners_seen_aslant_become_a_rectangle(self):
        # A projective map of its own: a checkerboard seen aslant comes back square.
        corners = [(40.0, 30.0), (360.0, 60.0), (330.0, 280.0), (20.0, 250.0)]
        one, two, three, four = (np.array(each) for each in corners)
        page = np.full((320, 400), 255.0)
        # The diagonals of the rectangle meet where those of its picture do.
        t = np.linalg.solve(np.column_stack([three - one, two - four]), two - one)[0]
        x, y = one + t * (three - one)
        page[round(y) - 2 : round(y) + 3, round(x) - 2 : round(x) + 3] = 0
        square = flat(page, corners)
        down, across = ndimage.center_of_mass(square < 128)
        self.assertAlmostEqual(down, square.shape[0] / 2, delta=1.5)
        self.assertAlmostEqual(across, square.shape[1] / 2, delta=1.5)

    def test_corners_that_cross_or_hold_nothing_are_refused(self):
        page = np.full((100, 100), 255.0)
        for corners in (
            [(10, 10), (10, 90), (90, 10), (90, 90)],
            [(10, 10), (12, 10), (12, 12), (10, 12)],
            [(0, 0), (90, 0), (10, 5), (0, 90)],
        ):
            with self.assertRaises(ValueError):
                flat(page, corners)


class Grid(unittest.TestCase):
    def test_a_table_is_found_where_it_stands_however_it_leans(self):
        for degrees in (0.0, 2.0, -3.5):
            (found,) = tables_on(leant(drawn(), degrees))
            self.assertEqual((found.rows, found.columns), (4, 3))
            angle = math.radians(degrees)
            for corner, (x, y) in zip(
                found.corners, ((100, 100), (903, 100), (903, 303), (100, 303)), strict=True
            ):
                across, down = x - WIDE / 2, y - HIGH / 2
                wanted = (
                    across * math.cos(angle) + down * math.sin(angle) + WIDE / 2,
                    -across * math.sin(angle) + down * math.cos(angle) + HIGH / 2,
                )
                self.assertLess(math.dist(corner, wanted), 6)

    def test_a_page_without_a_table_has_none(self):
        self.assertEqual(tables_on(np.full((HIGH, WIDE), 240.0)), [])
        self.assertEqual(tables_on(drawn(lines=False)), [])

    def test_its_cells_stand_in_rows_and_columns(self):
        page = drawn()
        table = cut(page, tables_on(page)[0].corners)
        self.assertEqual(
            {(box.row, box.column) for box in table.boxes}, {(r, c) for r in range(4) for c in range(3)}
        )
        self.assertTrue(all(table.printed))
        wide = {box.column: box.right - box.left for box in table.boxes}
        self.assertAlmostEqual(wide[1] / wide[0], 160 / 200, delta=0.05)

    def test_a_cell_over_two_rows_is_one(self):
        page = drawn(merged=[(2, 0)])
        table = cut(page, tables_on(page)[0].corners)
        self.assertNotIn((2, 0), {(box.row, box.column) for box in table.boxes})
        self.assertIn((2, 1), {(box.row, box.column) for box in table.boxes})

    def test_a_table_without_lines_is_cut_by_the_white_between(self):
        table = cut(drawn(lines=False), [(90, 90), (950, 90), (950, 310), (90, 310)])
        self.assertEqual(len(table.boxes), 12)

    def test_shadow_over_half_of_it_changes_nothing(self):
        page = drawn() * np.linspace(1.0, 0.45, WIDE)
        table = cut(page, tables_on(page)[0].corners)
        self.assertEqual(len(table.boxes), 12)

    def test_print_as_pale_as_its_paper_is_refused(self):
        page = drawn(ink=190.0)
        self.assertLess(contrast(levelled(page)), 0.28)
        with self.assertRaisesRegex(WornError, "pale"):
            cut(page, [(95, 95), (908, 95), (908, 308), (95, 308)])

    def test_print_too_small_is_refused(self):
        page = drawn(list(range(100, 200, 11)), [100, 180, 260], lines=False)
        with self.assertRaisesRegex(WornError, "too small"):
            cut(page, [(98, 98), (265, 98), (265, 202), (98, 202)])

    def test_print_out_of_focus_is_refused(self):
        page = ndimage.gaussian_filter(drawn(), 3.0)
        with self.assertRaisesRegex(WornError, "blurred"):
            cut(page, [(98, 98), (906, 98), (906, 306), (98, 306)])

    @settings(max_examples=25, deadline=None)
    @given(
        arrays(np.float64, (120, 160), elements=st.floats(0, 255)),
        st.lists(st.tuples(st.floats(-500, 500), st.floats(-500, 500)), min_size=4, max_size=4),
    )
    def test_no_picture_and_no_corners_do_more_than_be_refused(self, page, corners):
        tables_on(page)
        try:
            cut(page, corners)
        except ValueError as error:
            self.assertTrue(str(error))


def read(section, rows, sure=95.0, **others):
    """A table every reading of which agrees, but for ``others``: rRcC to what the second and third said."""
    glimpses = {}
    for r, row in enumerate(rows):
        for c, text in enumerate(row):
            if not text:
                continue  # nothing printed
            said = others.get(f"r{r}c{c}", (text, text))
            glimpses[r, c] = [Glimpse(each, sure) for each in (text, *said)]
    return weighed(section, glimpses)


def doubts(table):
    return {(each.row, each.column): each for each in table.doubtful}


PLUGS = [
    ["CON", "PIN", "WIRE", "GOES TO"],
    ["CN2", "1", "RD", "Compressor"],
    ["", "2", "WH", "Compressor"],
    ["", "3", "OG", "Condenser fan"],
    ["", "4", "VT", "Condenser fan"],
]
SENSORS = [["°C", "kΩ"], ["-20", "48.6"], ["-10", "27.7"], ["0", "16.33"], ["10", "9.95"], ["20", "6.25"]]


class Weighed(unittest.TestCase):
    def test_what_all_readings_agree_on_and_fits_is_not_doubted(self):
        self.assertEqual(doubts(read("plugs", PLUGS)), {})

    def test_readings_that_differ_are_doubtful_and_offered(self):
        cell = doubts(read("plugs", PLUGS, r3c3=("Condenser fan", "Condenser tan")))[3, 3]
        self.assertEqual((cell.text, cell.others), ("Condenser fan", ("Condenser tan",)))

    def test_a_pin_that_does_not_count_on_is_doubted_however_sure_it_was_read(self):
        rows = [list(row) for row in PLUGS]
        rows[3][1] = "2"
        cell = doubts(read("plugs", rows))[3, 1]
        self.assertIn("3", cell.others)

    def test_a_letter_among_pins_becomes_the_digit_it_looks_like(self):
        rows = [list(row) for row in PLUGS]
        rows[1][1] = "l"
        cell = doubts(read("plugs", rows))[1, 1]
        self.assertEqual(cell.text, "1")

    def test_a_colour_of_no_system_is_doubted_and_the_near_ones_are_offered(self):
        rows = [list(row) for row in PLUGS]
        rows[3][2] = "OC"
        self.assertIn("OG", doubts(read("plugs", rows))[3, 2].others)

    def test_a_lost_mark_and_a_point_off_the_line_are_doubted(self):
        rows = [list(row) for row in SENSORS]
        rows[2][1] = "277"
        rows[4][1] = "8.95"
        found = doubts(read("sensors", rows))
        self.assertIn((2, 1), found)
        self.assertIn("decimal", found[2, 1].doubt)
        rows[2][1] = "27.7"
        self.assertIn((4, 1), doubts(read("sensors", rows)))

    def test_figures_that_nothing_bears_out_are_said_to_be_so(self):
        # A wrong third digit lies on the line as well as the right one: eyes have to compare it.
        table = read("sensors", SENSORS)
        self.assertEqual([head for _, head in table.unwitnessed], ["kΩ"])
        beside = [
            ["°C", "R min kΩ", "R nom kΩ", "R max kΩ"],
            *([t, f"{float(r) * 0.95:.2f}", r, f"{float(r) * 1.05:.2f}"] for t, r in SENSORS[1:]),
        ]
        self.assertEqual(read("sensors", beside).unwitnessed, ())
        beside[3][2] = "18.33"
        self.assertIn((3, 2), doubts(read("sensors", beside)))

    def test_codes_have_one_form(self):
        rows = [["CODE", "MEANING"], ["dl", "a"], ["d2", "b"], ["d3", "c"], ["d4", "d"]]
        cell = doubts(read("codes", rows))[1, 0]
        self.assertEqual((cell.text, cell.others), ("d1", ("dl",)))
        rows[2][0] = "d3"
        self.assertIn("twice", doubts(read("codes", rows))[3, 0].doubt)

    def test_letters_that_lost_their_dots_have_them_again(self):
        table = read("plugs", PLUGS, r3c3=("Verflüssigerlüfter", "Verflussigerlufter"))
        rows = [list(row) for row in PLUGS]
        rows[3][3] = "Lufter"
        table = read("plugs", rows, r3c3=("Lüfter", "Lufter"))
        self.assertEqual(table.grid()[3][3], "Lüfter")

    def test_a_picture_of_which_most_is_guessed_is_refused(self):
        with self.assertRaisesRegex(WornError, "too worn"):
            read("plugs", PLUGS, sure=20.0)
        with self.assertRaises(WornError):
            weighed("plugs", {})

    def test_what_is_not_taken_over_needs_no_eye(self):
        rows = [["CODE", "MEANING", "CHECK"], ["d1", "a", "x"], ["d2", "b", "y"]]
        self.assertEqual(doubts(read("codes", rows, r1c2=("z", "w"))), {})

    def test_a_table_is_known_by_its_heads(self):
        for section, heads in {
            "codes": ["Anzeige", "Bedeutung"],
            "sensors": ["TEMP (°F)", "R nom"],
            "plugs": ["CONNECTOR", "PIN", "WIRE"],
            "parts": ["Pos.", "Best.-Nr.", "Benennung", "Preis"],
            "": ["One", "Two"],
        }.items():
            self.assertEqual(section_of(heads), section)

    @example(
        "sensors", {(0, 0): [Glimpse("", 45.0)], (0, 2): [Glimpse("V", 0.0)], (2, 2): [Glimpse("Q", 45.0)]}
    )
    @settings(max_examples=150, deadline=None)
    @given(
        st.sampled_from(["codes", "sensors", "plugs", "parts", "stated"]),
        st.dictionaries(
            st.tuples(st.integers(0, 8), st.integers(0, 6)),
            st.lists(st.builds(Glimpse, st.text(max_size=12), st.floats(0, 100)), min_size=1, max_size=3),
            max_size=30,
        ),
    )
    def test_whatever_was_read_is_a_table_or_refused(self, section, glimpses):
        try:
            table = weighed(section, glimpses)
        except WornError:
            return
        self.assertEqual({(each.row, each.column) for each in table.cells}, set(glimpses))
        for each in table.cells:
            # A text that no reading gave is never put in unmarked.
            if each.text not in {" ".join(g.text.split()) for g in glimpses[each.row, each.column]}:
                self.assertTrue(
                    each.doubt
                    or any(ch in "|_“”‘’\"'`°¢—–−" for g in glimpses[each.row, each.column] for ch in g.text)
                )
