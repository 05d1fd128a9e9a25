"""Papers turned into sheets: what is typed or pasted, what follows, and that nothing typed is lost, or taken
for something else without a question."""

import copy
import json
from unittest import TestCase

from hypothesis import HealthCheck, given, settings
from hypothesis import strategies as st

from frostcore import document as documents
from frostcore.circuit.kept import circuits_of
from frostcore.circuit.trace import best_pair
from frostcore.paper.colours import SYSTEMS, decide, read
from frostcore.paper.diff import changes
from frostcore.paper.draft import SECTIONS, build, checked_tables, section, tables_of
from frostcore.paper.edits import Edit, apply_edit, keyed, read_edit
from frostcore.paper.from_call import draft_of
from frostcore.paper.merge import merged
from frostcore.paper.paste import recognise
from frostcore.paper.works import abilities, at_the_edge, next_fact
from frostcore.sheet.facts import with_pin
from frostcore.sheet.load import dump, load
from frostcore.tests.archetypes import KINDS, kind
from frostcore.tests.demo_sheets import SHEETS, demo_sheet
from frostcore.tests.papers import ENGLISH, GERMAN

BOTTOM = documents.write(kind("kind-bottom-freezer"))


def begun(base=BOTTOM):
    return copy.deepcopy(tables_of(base))


def plated(tables, plate):
    for row in tables["plate"]:
        row["value"] = plate.get(row["id"], row["value"])
    return tables


def pasted(paper, answers=None):
    """A draft of a kind of unit with every table of a paper pasted, asked and answered."""
    tables = plated(begun(), paper["plate"])
    for name in ("codes", "sensors", "plugs", "parts"):
        found = recognise(name, paper[name], (answers or {}).get(name))
        if found.questions:
            message = f"{name}: {found.questions}"
            raise AssertionError(message)
        tables[name], lost = merged(name, BOTTOM, tables[name], found.rows)
        if lost:
            message = f"{name}: {lost}"
            raise AssertionError(message)
    return tables


class RoundTrip(TestCase):
    def test_a_sheets_own_tables_give_that_sheet(self):
        for sheet in (*SHEETS, *KINDS):
            base = documents.write(sheet)
            found = build(base, tables_of(copy.deepcopy(base)))
            self.assertEqual(found.sheet, sheet, sheet.id)
            self.assertEqual([item for item in found.problems if item.column != "value"], [], sheet.id)

    def test_a_sheet_retyped_from_its_tables_onto_its_kind_reads_the_same(self):
        """Tarnbeck's codes, sensors, pins and values typed as a paper prints them, onto the kind it is of."""
        real = demo_sheet("Tarnbeck TB-34")
        paper, tables = tables_of(documents.write(real)), begun()
        tables["plate"] = paper["plate"]
        for name, computed in (("codes", "detected"), ("sensors", ""), ("plugs", "is")):
            tables[name] = [
                {key: text for key, text in row.items() if key not in {"id", computed}} for row in paper[name]
            ]
        values = {row["id"]: row for row in paper["parts"]}
        for row in tables["parts"]:
            row.update({key: text for key, text in values[row["id"]].items() if key != "id"})
        found = build(BOTTOM, tables)
        self.assertEqual((found.whole, [item for item in found.problems if not item.doubt]), ((), []))
        looked = [
            {(code.id, test.signal, test.state) for code in sheet.codes for test in code.condition.tests}
            for sheet in (found.sheet, real)
        ]
        self.assertEqual(*looked)
        mine, theirs = circuits_of(found.sheet), circuits_of(real)
        compared = 0
        for function in theirs.functions:
            pair = best_pair(theirs.trace(function.id, "off_cold", live=False))
            for mode in ("off_cold", "off_warm", "normal", "defrost", "cut_out"):
                live = mode in {"normal", "defrost", "cut_out"}
                meter = theirs.trace(function.id, mode, live=live).meter
                one, two = mine.reading(mode, meter, *pair), theirs.reading(mode, meter, *pair)
                self.assertEqual(one.value is None, two.value is None, (function.id, mode))
                if one.value is not None:
                    self.assertAlmostEqual(one.value, two.value, delta=0.002 * abs(two.value) + 0.01)
                compared += 1
        self.assertGreater(compared, 60)

    def test_what_is_published_from_a_draft_reads_back_equal(self):
        found = build(BOTTOM, pasted(ENGLISH))
        self.assertTrue(found.ready)
        self.assertEqual(load(dump(found.sheet)).sheet, found.sheet)


class Papers(TestCase):
    def test_the_english_paper_pasted_is_a_sheet(self):
        found = build(BOTTOM, pasted(ENGLISH))
        sheet = found.sheet
        self.assertEqual([item for item in found.problems if not item.doubt], [])
        self.assertEqual((sheet.id, sheet.generic), ("norwick-nx-300", False))
        self.assertEqual([code.id for code in sheet.codes], ["d1", "d2", "d3", "d4", "d5"])
        self.assertAlmostEqual(sheet.curve(sheet.sensor("fridge")).ohms(0.0), 16330, delta=1)
        self.assertAlmostEqual(sheet.curve(sheet.sensor("fridge")).ohms(-20.0), 46500, delta=20)
        ends = {run.points[0]: (run.points[-1], run.colours[0]) for run in sheet.harness}
        self.assertEqual(ends["CN2.5"], ("bimetal.1", "brown"))
        self.assertEqual(ends["CN2.6"], ("defrost_heater.2", "white"))
        self.assertEqual(ends["CN4.2"], ("evaporator_fan.minus", "black"))
        self.assertEqual(sheet.component("defrost_heater").part_number, "NX-0418")
        self.assertEqual(sheet.component("evaporator_fan").price, 38.0)
        self.assertEqual(sheet.plate.mains_volts, 120.0)
        reading = circuits_of(sheet).trace("compressor.run", "off_cold", live=False).points[0]
        self.assertIsNotNone(reading)

    def test_the_german_paper_pasted_is_a_sheet(self):
        self.assertTrue(recognise("plugs", GERMAN["plugs"]).questions == [])
        found = build(BOTTOM, pasted(GERMAN))
        sheet = found.sheet
        self.assertEqual([item for item in found.problems if not item.doubt], [])
        self.assertAlmostEqual(sheet.curve(sheet.sensor("fridge")).ohms(25.0), 5000, delta=1)
        ends = {run.points[0]: (run.points[-1], run.colours[0]) for run in sheet.harness}
        self.assertEqual(ends["X2.5"], ("bimetal.1", "violet"))
        self.assertEqual(ends["X3.3"], ("freezer_sensor.1", "green"))
        self.assertEqual(ends["X4.2"], ("evaporator_fan.minus", "black"))
        self.assertEqual(sheet.component("compressor").price, 1189.0)
        self.assertEqual(sheet.component("compressor").printed, "Verdichter")
        rules = {code.id: code.condition.tests[0].signal.id for code in sheet.codes}
        self.assertEqual(rules, {"F1": "fridge", "F2": "freezer", "F3": "defrost", "F4": "defrost"})

    def test_what_works_already_is_counted_and_what_is_missing_named(self):
        tables = plated(begun(), ENGLISH["plate"])
        empty = {item.name: (item.have, item.of) for item in abilities(build(BOTTOM, tables), tables)}
        self.assertEqual((empty["codes"], empty["sensors"], empty["trace"][0]), ((0, 0), (0, 3), 0))
        tables = pasted(ENGLISH)
        found = abilities(build(BOTTOM, tables), tables)
        full = {item.name: (item.have, item.of) for item in found}
        self.assertEqual((full["codes"], full["sensors"], full["judgement"]), ((5, 5), (3, 3), (1, 1)))
        self.assertGreater(full["trace"][0], 9)
        self.assertIn("display", next_fact(found))


class Pasting(TestCase):
    def rows(self, name, text, **answers):
        found = recognise(name, text, answers)
        return found.rows, [question.id for question in found.questions]

    def test_a_dot_means_thousands_only_where_head_and_column_say_so(self):
        rows, _ = self.rows("sensors", "°C\tΩ\n0\t8.967\n25\t2.700")
        self.assertEqual([row["ohms"] for row in rows], ["8967", "2700"])
        rows, _ = self.rows("sensors", "°C\tkΩ\n0\t8.967\n25\t2.700")
        self.assertEqual([row["ohms"] for row in rows], ["8967", "2700"])
        rows, _ = self.rows("sensors", "°C\tΩ\n0\t16330.5\n25\t5000")
        self.assertEqual([row["ohms"] for row in rows], ["16330.5", "5000"])

    def test_units_no_head_says_are_asked_and_nothing_is_taken_before(self):
        rows, asked = self.rows("sensors", "0 16.33\n25 5.0")
        self.assertEqual((rows, asked), ([], ["degrees"]))
        rows, asked = self.rows("sensors", "0 16.33\n25 5.0", degrees="C")
        self.assertEqual((rows, asked), ([], ["scale"]))
        rows, asked = self.rows("sensors", "0 16.33\n25 5.0", degrees="C", scale="1000")
        self.assertEqual([row["ohms"] for row in rows], ["16330", "5000"])

    def test_a_head_that_no_sensor_can_have_is_asked_about(self):
        for head, least, most in (("Ω", "499", "500"), ("kΩ", "5000.1", "5000")):
            with self.subTest(head):
                wrong = f"°C\t{head}\n-20\t{least}\n25\t5"
                self.assertEqual(self.rows("sensors", wrong), ([], ["scale"]))
                rows, asked = self.rows("sensors", wrong, scale="1000")
                self.assertEqual((rows[1]["ohms"], asked), ("5000", []))
                self.assertEqual(self.rows("sensors", f"°C\t{head}\n-20\t{most}\n25\t5")[1], [])

    def test_fahrenheit_minus_signs_and_footnotes(self):
        rows, _ = self.rows("sensors", "TEMP °F\tRESISTANCE kΩ\n−4\t46,5¹\n77\t5²")
        self.assertEqual(rows, [{"celsius": "-4 °F", "ohms": "46500"}, {"celsius": "77 °F", "ohms": "5000"}])

    def test_merged_heads_limits_and_tables_side_by_side(self):
        rows, _ = self.rows(
            "sensors", "Temp\tResistance\t\t\n°C\tmin kΩ\tnom kΩ\tmax kΩ\n0\t15\t16\t17\n25\t4\t5\t6"
        )
        self.assertEqual([row["ohms"] for row in rows], ["16000", "5000"])
        rows, _ = self.rows("sensors", "°C;kΩ;°C;kΩ\n-20;48,6;10;9,95\n0;16,3;25;5,0")
        self.assertEqual([row["celsius"] for row in rows], ["-20", "0", "10", "25"])

    def test_a_plug_printed_once_goes_down_and_dashes_are_no_pin(self):
        found = recognise("plugs", "Plug\tPin\tWire\tTo\nJ2\t1\tRED\tHeater\n\t2\t–\t–\n\t3\tBLU\tHeater N")
        self.assertEqual([(row["plug"], row["pin"]) for row in found.rows], [("J2", "1"), ("J2", "3")])
        self.assertEqual(len(found.unused), 1)
        found = recognise("plugs", "Pin\tColour\tTo\nJ2-1\tRED\tHeater\nCON-A:4\tBLU\tFan")
        self.assertEqual([(row["plug"], row["pin"]) for row in found.rows], [("J2", "1"), ("CON-A", "4")])

    def test_what_is_not_used_is_said(self):
        found = recognise("parts", "Pos.;Best.-Nr.;Benennung;Menge\n1;77-1;Abtauheizung;1")
        self.assertIn("“Pos.” is not used", found.understood[0])
        self.assertIn("“Menge” is not used", found.understood[0])

    @settings(max_examples=150, deadline=None, suppress_health_check=[HealthCheck.too_slow])
    @given(st.sampled_from([item.id for item in SECTIONS]), st.text(max_size=400))
    def test_no_text_breaks_it(self, name, text):
        found = recognise(name, text)
        for row in found.rows:
            self.assertLessEqual(set(row), {column.key for column in section(name).columns})


class Colours(TestCase):
    def test_a_column_is_read_in_the_one_system_that_reads_all_of_it(self):
        self.assertEqual(decide(["BK", "WH", "OG", "GNYE"]).system, "iec")
        self.assertEqual(decide(["sw", "bl", "rt", "ws"]).system, "german")
        self.assertEqual(decide(["BLK", "ORG", "YEL"]).system, "us")

    def test_several_that_differ_are_asked_about(self):
        found = decide(["br", "bl", "gr"])
        self.assertEqual(found.system, "")
        self.assertEqual({read("gr", SYSTEMS[name][1]) for name in found.choices}, {"grey", "green"})

    def test_two_colours_of_one_wire(self):
        iec = SYSTEMS["iec"][1]
        for text in ("RD/WH", "rd-wh", "RDWH", "RD.WH"):
            self.assertEqual(read(text, iec), "red-white", text)
        self.assertEqual(read("quark", iec), "")

    def test_an_abbreviation_that_can_mean_two_is_never_taken_silently(self):
        tables = begun()
        tables["plugs"] = [{"plug": "CN2", "pin": "1", "colour": "bl", "goes_to": "Compressor", "label": "C"}]
        (item,) = [item for item in build(BOTTOM, tables).problems if item.column == "colour"]
        self.assertGreater(len(item.cures), 1)


class Plate(TestCase):
    def test_a_range_of_mains_as_plates_print_it_is_its_middle_and_says_so(self):
        for volts, hertz, wanted in (
            ("220-240", "50", (230, 50)),
            ("220–240 V~", "50/60", (230, 50)),
            ("110/127 V", "50-60", (118.5, 60)),
            ("115", "60", (115, 60)),
        ):
            tables = tables_of(BOTTOM)
            typed = {"mains_volts": volts, "mains_hertz": hertz, "maker": "Norwick", "model": "NX"}
            for row in tables["plate"]:
                row["value"] = typed.get(row["id"], row.get("value", ""))
            built = build(BOTTOM, tables)
            plate = built.document["plate"]
            self.assertEqual((plate["mains_volts"], plate["mains_hertz"]), wanted)
            self.assertFalse([item for item in built.problems if item.section == "plate"])
            said = [text for (section, _, _), text in built.taken.items() if section == "plate"]
            self.assertEqual(len(said), ("-" in volts or "–" in volts or "/" in volts) + (len(hertz) > 2))


class Sanity(TestCase):
    def problem(self, name, rows, column):
        tables = plated(begun(), ENGLISH["plate"])
        if section(name).fixed:
            for row in tables[name]:
                row.update(rows.get(row["id"], {}))
        else:
            tables[name] = rows
        return next((item for item in build(BOTTOM, tables).problems if item.column == column), None)

    def test_a_heaters_ohms_against_its_watts_and_mains(self):
        found = self.problem("parts", {"defrost_heater": {"ohms": "240", "watts": "200"}}, "ohms")
        self.assertIn("60 W", found.text)
        self.assertEqual(found.cures, ("72",))

    def test_a_row_of_a_curve_that_was_mistyped(self):
        typed = (("-20", "48600"), ("-10", "2770"), ("0", "16330"), ("10", "9950"), ("25", "5000"))
        rows = [{"celsius": celsius, "ohms": ohms} for celsius, ohms in typed]
        found = self.problem("sensors", rows, "ohms")
        self.assertEqual((found.row, found.cures), (1, ("27700",)))

    def test_a_pin_that_stands_twice(self):
        rows = [
            {"plug": "CN2", "pin": "1", "goes_to": "Compressor", "label": "C"},
            {"plug": "CN2", "pin": "1", "goes_to": "Defrost heater", "label": "H"},
        ]
        self.assertIn("row 1", self.problem("plugs", rows, "pin").text)

    def test_a_code_of_which_nobody_says_what_it_is(self):
        found = self.problem("codes", [{"code": "d9", "meaning": "The weather"}], "detected")
        self.assertIn("does not say what the board detected", found.text)

    def of_plugs(self, change):
        """What is said of a whole paper's connectors once they were changed."""
        tables = pasted(ENGLISH)
        change(tables["plugs"])
        found = build(BOTTOM, tables).problems
        return {(item.row, item.text) for item in found if item.section == "plugs"}

    def test_a_part_with_a_feed_and_no_return_is_told_and_not_while_it_is_typed(self):
        def without(label, goes_to):
            return lambda rows: rows.remove(
                next(row for row in rows if (row.get("label"), row["goes_to"]) == (label, goes_to))
            )

        told = "has no return in any row: not read, or shared?"
        self.assertEqual(self.of_plugs(without("N", "Condenser fan")), {(4, f"Condenser fan {told}")})
        self.assertEqual(
            self.of_plugs(without("N", "Mains")),
            {(0, "Mains has no neutral in any row: not read, or shared?")},
        )
        self.assertEqual(self.of_plugs(lambda rows: rows.__delitem__(slice(3, None))), set())
        self.assertEqual(self.of_plugs(lambda rows: rows.clear()), set())

    def test_a_part_has_no_more_pins_than_its_own(self):
        def change(rows):
            for row in rows:
                if row["goes_to"] == "Fridge sensor":
                    row["goes_to"] = "Freezer sensor"

        told = "Freezer sensor has its pins already, in row 9 and 10. Which is it?"
        self.assertEqual(self.of_plugs(change), {(10, told), (11, told)})

    def test_a_pin_that_is_nothing_yet_stands_at_the_edge(self):
        tables = begun()
        tables["plugs"] = [{"plug": "CN2", "pin": "9", "goes_to": "Quark", "label": "N"}]
        found = build(BOTTOM, tables)
        self.assertEqual(at_the_edge(found, tables), ((0, "CN2.9"),))
        self.assertTrue(all(item.doubt for item in found.problems if item.section == "plugs"))


TYPED = ["5k", "77F", "CN2", "1", "Defrost heater", "E1", "-", '"', "bl", "230", "1e9"]
CELLS = st.text(max_size=30) | st.sampled_from(TYPED)


@st.composite
def any_tables(draw):
    """The tables of a draft with anything typed in any cell."""
    tables = begun()
    for item in SECTIONS:
        if item.fixed:
            for row in tables[item.id]:
                if draw(st.booleans()):
                    row[draw(st.sampled_from([column.key for column in item.columns]))] = draw(CELLS)
        else:
            keys = st.sampled_from([column.key for column in item.columns])
            tables[item.id] = draw(st.lists(st.dictionaries(keys, CELLS, max_size=4), max_size=4))
    return tables


class NothingLost(TestCase):
    @settings(max_examples=60, deadline=None, suppress_health_check=[HealthCheck.too_slow])
    @given(any_tables())
    def test_no_input_breaks_a_draft_and_every_text_stays(self, tables):
        before = copy.deepcopy(tables)
        found = build(BOTTOM, tables)
        self.assertEqual(tables, before)
        self.assertTrue(found.sheet is not None or found.whole)
        for item in found.problems:
            self.assertTrue(item.text and item.row < max(1, len(tables[item.section])))
        if found.ready:
            self.assertEqual(load(json.dumps(found.document)).sheet, found.sheet)

    def test_tables_from_anywhere_are_checked(self):
        self.assertEqual(
            checked_tables({"codes": [{"code": "E1", "odd": "x", "meaning": ""}]}),
            {"codes": [{"code": "E1"}]},
        )
        for wrong in (
            [],
            {"codes": "x"},
            {"codes": [["x"]]},
            {"codes": [{"code": 1}]},
            {"codes": [{"code": "x" * 301}]},
        ):
            with self.assertRaises(ValueError):
                checked_tables(wrong)
        with self.assertRaises(KeyError):
            checked_tables({"spells": []})


class Edits(TestCase):
    def setUp(self):
        self.tables = keyed({"codes": [{"code": "E1", "meaning": "x"}]})
        self.key = self.tables["codes"][0]["key"]

    def cell(self, text, seen, column="meaning"):
        return Edit("cell", "codes", self.key, column, text, seen)

    def test_a_cell_is_changed_where_what_was_seen_stands(self):
        self.assertIsNone(apply_edit(self.tables, self.cell("y", "x")))
        self.assertEqual(self.tables["codes"][0]["meaning"], "y")

    def test_a_cell_somebody_changed_is_not_overwritten(self):
        apply_edit(self.tables, self.cell("theirs", "x"))
        found = apply_edit(self.tables, self.cell("mine", "x"))
        self.assertEqual((found.theirs, found.mine), ("theirs", "mine"))
        self.assertEqual(self.tables["codes"][0]["meaning"], "theirs")

    def test_a_row_put_in_moves_nothing_under_another(self):
        apply_edit(self.tables, Edit("insert", "codes", "new", after=""))
        apply_edit(self.tables, self.cell("y", "x"))
        self.assertEqual([row.get("meaning") for row in self.tables["codes"]], ["y", None])

    def test_what_is_no_edit_is_told(self):
        for wrong in (
            None,
            {},
            {"op": "cell", "section": "spells"},
            {"op": "cell", "section": "codes", "column": "odd"},
        ):
            with self.assertRaises(ValueError):
                read_edit(wrong)


class Compared(TestCase):
    def test_the_same_is_no_change(self):
        for sheet in SHEETS:
            base = documents.write(sheet)
            self.assertEqual(changes(base, base), ())

    def test_a_change_is_told_by_table_row_and_column(self):
        base = documents.write(demo_sheet("Tarnbeck TB-34"))
        other = copy.deepcopy(base)
        run = next(run for run in other["harness"] if run["points"][0] == "CN2.5")
        run["colours"] = ["pink" for _ in run["colours"]]
        other["codes"].pop()
        told = [change.words for change in changes(base, other)]
        self.assertIn("CN2.5, colour: orange → pink" if "orange" in str(told) else told[1], told)
        self.assertTrue(any("gone" in words for words in told))
        self.assertEqual(len(told), 2)


class FromACall(TestCase):
    def test_pins_read_on_the_unit_are_rows_of_the_draft(self):
        sheet = with_pin(kind("kind-bottom-freezer"), "DefrostHeater.1", "CN2-5", "brown")
        base, tables = draft_of(sheet, "Norwick NX-300")
        found = build(base, tables)
        self.assertEqual(found.sheet.title, "Norwick NX-300")
        ends = {run.points[0]: (run.points[-1], run.colours[0]) for run in found.sheet.harness}
        self.assertEqual(ends["CN2.5"], ("bimetal.1", "brown"))
