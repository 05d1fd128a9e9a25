"""Numbered settings of a board: on the sheet, typed from its paper, put on the tape."""

import json
from dataclasses import replace
from unittest import TestCase

from frostcore.document import write
from frostcore.errors import SheetError, TapeError
from frostcore.paper.draft import build, section, tables_of
from frostcore.sheet.checks import problems_of
from frostcore.sheet.load import load
from frostcore.sheet.model import ServiceSetting
from frostcore.tape.checks import programmed
from frostcore.tape.entries import Programmed
from frostcore.tape.moment import Moment
from frostcore.tests.demo_sheets import demo_sheet

SHEET = demo_sheet("Ondrel OR-620")
ROW = {
    "number": "s4",
    "setting": "Ice",
    "of": "",
    "values": "on / off",
    "usual": "on",
    "enter": "Hold FRIDGE / Let go",
    "shown": "s4 shows it",
}


class Known(TestCase):
    def test_one_is_found_by_number_by_name_and_by_both(self):
        interval = SHEET.settings[1]
        for text in ("s2", "S2", "defrost interval", "s2  Defrost interval"):
            self.assertEqual(SHEET.setting_named(text), interval)
        self.assertIsNone(SHEET.setting_named("s9"))

    def test_what_is_wrong_is_named(self):
        good = SHEET.settings[0]
        for wrong, told in (
            (replace(good, component="nobody"), "no component “nobody”"),
            (replace(good, component="fridge_fan"), "is no board"),
            (replace(good, number=" "), "needs its number"),
            (replace(good, usual="99"), "none of 62, 54, 70"),
            (replace(good, number="S2"), "stands twice"),
        ):
            found = problems_of(replace(SHEET, settings=(wrong, SHEET.settings[1])))[0]
            self.assertTrue(any(told in item.text for item in found), (told, found))

    def test_a_sheet_with_too_many_is_refused_before_it_is_read(self):
        document = write(SHEET)
        document["settings"] = document["settings"] * 40
        with self.assertRaisesRegex(SheetError, "settings"):
            load(json.dumps(document))


class Typed(TestCase):
    def test_rows_come_back_as_they_were_and_new_ones_are_read(self):
        document = write(SHEET)
        tables = tables_of(document)
        built = build(document, tables)
        self.assertEqual(built.sheet.settings, SHEET.settings)
        tables["settings"] = [*tables["settings"], ROW]
        new = build(document, tables).sheet.settings[-1]
        expected = ServiceSetting(
            "s4", "Ice", "board", ("on", "off"), "on", ("Hold FRIDGE", "Let go"), "s4 shows it"
        )
        self.assertEqual(new, expected)

    def test_what_can_t_be_is_told_in_its_cell(self):
        document = write(SHEET)
        keys = [column.key for column in section("settings").columns]
        for change, key, told in (
            ({"of": "The moon"}, "of", "no board “The moon”"),
            ({"number": ""}, "number", "as printed"),
            ({"setting": ""}, "setting", "as printed"),
            ({"usual": "never"}, "usual", "none of on, off"),
            ({"number": "s1"}, "number", "stands twice"),
        ):
            tables = tables_of(document)
            tables["settings"] = [*tables["settings"], ROW | change]
            found = [item for item in build(document, tables).problems if item.section == "settings"]
            self.assertEqual([(item.row, item.column) for item in found], [(3, key)], change)
            self.assertIn(told, found[0].text)
            self.assertIn(key, keys)

    def test_a_problem_of_any_list_without_identifiers_stands_at_its_row(self):
        document = write(SHEET)
        tables = tables_of(document)
        empty = {"red": ""}
        tables["settings"] = [*tables["settings"], empty, ROW | {"usual": "never"}, ROW | {"number": "s5"}]
        found = [item for item in build(document, tables).problems if item.section == "settings"]
        self.assertEqual([(item.row, item.column) for item in found], [(4, "usual")])


class OnTheTape(TestCase):
    def put(self, setting, value):
        programmed(Moment(SHEET), Programmed("programmed", "board", setting, value))

    def test_a_numbered_one_takes_its_values_alone(self):
        self.put("s2 Defrost interval", "8 h")
        self.put("Defrost interval", "By demand")
        self.put("the customer’s own", "anything")
        with self.assertRaisesRegex(TapeError, "takes by demand, 8 h, 12 h, 24 h, not “9 h”"):
            self.put("s2", "9 h")
