"""What is on the shelf: its table, and what of it does for a unit's parts."""

from dataclasses import replace
from unittest import TestCase

from hypothesis import given, settings
from hypothesis import strategies as st

from frostcore.errors import SheetError
from frostcore.remedy.rates import Rates
from frostcore.remedy.stock import COLUMNS, StockItem, matches, read_stock, write_stock
from frostcore.remedy.work import Works
from frostcore.sheet.model import ComponentKind, Supply
from frostcore.tests.demo_sheets import demo_sheet

K = ComponentKind
TB = demo_sheet("Tarnbeck TB-34")
HEATER = StockItem("H-240", K.HEATER, "Heater 240 ohm", 2, 29.0, "B2", {"ohms": 245.0, "volts": 230.0})


class Tables(TestCase):
    def test_a_table_with_commas_semicolons_or_tabs(self):
        for mark in ",;\t":
            text = mark.join(("number", "Kind", "name", "count", "price", "ohms")) + "\n"
            text += mark.join(("H-240", "heater", "Heater", "2", "29.50", "0.24k")) + "\n"
            (item,) = read_stock(text)
            self.assertEqual((item.number, item.kind, item.count, item.price), ("H-240", K.HEATER, 2, 29.5))
            self.assertAlmostEqual(item.values["ohms"], 240.0)

    @given(
        st.lists(
            st.builds(
                StockItem,
                st.from_regex(r"[A-Z0-9][A-Z0-9-]{0,12}", fullmatch=True),
                st.sampled_from(list(K)),
                st.from_regex(r"[A-Za-z][A-Za-z ,;0-9]{0,20}[a-z]", fullmatch=True),
                st.integers(0, 999),
                st.none() | st.integers(0, 5000).map(float),
                st.from_regex(r"|[A-Z][0-9]{1,3}", fullmatch=True),
                st.dictionaries(
                    st.sampled_from(("ohms", "watts", "volts", "amperes")), st.integers(1, 900).map(float)
                ),
            ),
            max_size=6,
        )
    )
    @settings(max_examples=80, deadline=None)
    def test_written_and_read_back_it_is_the_same(self, items):
        self.assertEqual(read_stock(write_stock(tuple(items))), tuple(items))

    def test_what_can_t_be_read_is_told_by_its_line_all_at_once(self):
        text = (
            ",".join(COLUMNS[:7])
            + "\nH-1,heater,Heater,2,9,B2,240\nH-2,boiler,Heater,2,9,B2,240\nH-3,heater,Heater,many,9,B2,240"
            + "\nH-4,heater,Heater,2,-9,B2,240\nH-5,heater,,2,9,B2,240\nH-6,heater,Heater,2,9,B2,warm\n"
        )
        with self.assertRaises(SheetError) as found:
            read_stock(text)
        told = [str(problem) for problem in found.exception.problems]
        self.assertEqual([line.partition(":")[0] for line in told], [f"line {at}" for at in range(3, 8)])
        self.assertIn("write one of", told[0])

    def test_a_table_without_its_columns_says_which(self):
        for text, told in (("", "number, kind, name, count"), ("number,kind\nx,heater\n", "name, count")):
            with self.assertRaises(SheetError) as found:
                read_stock(text)
            self.assertIn(told, str(found.exception))


class Matching(TestCase):
    def test_the_same_number_however_it_is_spelt(self):
        sheet = replace(
            TB,
            components=tuple(
                replace(part, part_number="TB 0-99 a") if part.id == "board" else part
                for part in TB.components
            ),
        )
        board = StockItem("tb099A", K.BOARD, "Board", 1)
        self.assertEqual([match.same for match in matches(sheet, "board", (board,))], [True])
        self.assertEqual(matches(TB, "board", (board,)), ())

    def test_another_does_where_what_matters_agrees_and_not_by_its_name(self):
        self.assertEqual([match.same for match in matches(TB, "defrost_heater", (HEATER,))], [False])
        for other in (
            replace(HEATER, values={"ohms": 300.0, "volts": 230.0}),
            replace(HEATER, values={"ohms": 245.0, "volts": 120.0}),
            replace(HEATER, values={"ohms": 245.0}),
            replace(HEATER, values={}),
            replace(HEATER, kind=K.BIMETAL),
            replace(HEATER, count=0),
        ):
            self.assertEqual(matches(TB, "defrost_heater", (other,)), ())

    def test_a_sensor_by_its_curve_and_a_thermal_contact_by_where_it_opens(self):
        ohms = float(TB.curve(TB.sensor("fridge")).ohms(25.0))
        sensor = StockItem("NTC", K.THERMISTOR, "Sensor", 5, values={"at25": 1.02 * ohms})
        self.assertTrue(matches(TB, "fridge_sensor", (sensor,)))
        self.assertFalse(matches(TB, "fridge_sensor", (replace(sensor, values={"at25": 2 * ohms}),)))
        fuse = StockItem("TF", K.THERMAL_FUSE, "Thermal fuse", 1, values={"opens": 73.0})
        self.assertTrue(matches(TB, "thermal_fuse", (fuse,)))
        self.assertFalse(matches(TB, "thermal_fuse", (replace(fuse, values={"opens": 90.0}),)))

    def test_a_contact_that_opens_at_freezing_is_known_by_that(self):
        """Zero degrees is a temperature as any other."""
        at = next(place for place, part in enumerate(TB.components) if part.kind is K.THERMAL_FUSE)
        part = TB.components[at]
        cold = replace(part, nominal=replace(part.nominal, opens_celsius=0.0))
        sheet = replace(TB, components=(*TB.components[:at], cold, *TB.components[at + 1 :]))
        fuse = StockItem("TF", K.THERMAL_FUSE, "Thermal fuse", 1, values={"opens": 1.0})
        self.assertTrue(matches(sheet, part.id, (fuse,)))

    def test_what_is_on_the_shelf_is_not_ordered_and_costs_its_own_price(self):
        sheet = replace(
            TB,
            components=tuple(
                replace(part, supply=Supply.TO_ORDER, lead_days=9) if part.id == "defrost_heater" else part
                for part in TB.components
            ),
        )
        ordered, had = (Works(sheet, Rates(), None, stock).of("defrost_heater") for stock in ((), (HEATER,)))
        self.assertEqual((ordered.order, ordered.lead_days), (True, 9.0))
        self.assertEqual((had.order, had.price), (False, 29.0))
        self.assertIn("B2", had.shelf)
        gone = replace(
            sheet,
            components=tuple(replace(part, supply=Supply.NO_LONGER_MADE) for part in sheet.components),
        )
        self.assertTrue(Works(gone, Rates(), None, (HEATER,)).of("defrost_heater").had)
        self.assertFalse(Works(gone, Rates()).of("defrost_heater").had)
