"""Sheets' tables as CSV and back, two people's changes put together, and both at the door."""

import contextlib
import copy
import csv
import io
import json
import tempfile
from pathlib import Path
from unittest import TestCase

from hypothesis import given
from hypothesis import strategies as st

from frostcore import document as documents
from frostcore.door import main
from frostcore.errors import SheetError
from frostcore.paper.csvs import NAMES, from_csv, to_csv
from frostcore.paper.three import merge
from frostcore.sheet.load import bounded
from frostcore.tests.archetypes import PATHS as KINDS
from frostcore.tests.demo_sheets import PATHS
from frostcore.tests.papers import GERMAN

DOCUMENTS = {path.stem: bounded(path.read_text(encoding="utf-8")) for path in (*PATHS, *KINDS)}
TB = DOCUMENTS["tarnbeck-tb-34"]
WORDS = st.text(st.characters(exclude_categories=("Cs", "Cc")), max_size=20)


class Csv(TestCase):
    def test_every_table_of_every_sheet_comes_back_exactly(self):
        for name, document in DOCUMENTS.items():
            for table in NAMES:
                back = from_csv(document, table, to_csv(document, table))
                self.assertEqual(documents.canonical(back), documents.canonical(document), (name, table))

    @given(WORDS, WORDS)
    def test_any_text_comes_back_and_none_runs_in_a_spreadsheet(self, meaning, clears):
        document = copy.deepcopy(TB)
        document["codes"][0] |= {"meaning": meaning or "x", "clears": clears or "y"}
        text = to_csv(document, "codes")
        self.assertEqual(from_csv(document, "codes", text), document)
        first = next(csv.DictReader(io.StringIO(text)))
        for cell in (first["meaning"], first["clears"]):
            self.assertFalse(cell.startswith(("=", "+", "-", "@")))

    def test_what_is_of_anyones_own_is_kept(self):
        document = copy.deepcopy(TB)
        document["codes"][0]["x-shelf"] = {"row": 3}
        self.assertEqual(from_csv(document, "codes", to_csv(document, "codes")), document)

    def test_nonsense_is_told_by_line_and_column(self):
        with self.assertRaisesRegex(SheetError, "line 2, price"):
            from_csv(TB, "parts", "id,price\nplug,{")
        with self.assertRaisesRegex(SheetError, "nothing in it"):
            from_csv(TB, "parts", "")
        with self.assertRaisesRegex(SheetError, "can’t be read"):
            from_csv(TB, "codes", 'id,condition\nE1,"' + "[" * 15000 + '"')


class Merged(TestCase):
    def changed(self, **changes):
        document = copy.deepcopy(TB)
        for part in document["components"]:
            if part["id"] in changes:
                part["price"] = changes[part["id"]]
        return document

    def test_changes_of_two_people_are_both_there(self):
        merged, clashes = merge(TB, self.changed(plug=1), self.changed(board=2))
        self.assertEqual((merged, clashes), (self.changed(plug=1, board=2), ()))

    def test_what_both_changed_otherwise_is_told(self):
        merged, (clash,) = merge(TB, self.changed(plug=1), self.changed(plug=2))
        self.assertEqual((clash.place, clash.mine, clash.theirs), ("components[plug].price", 1, 2))
        self.assertEqual(merged, self.changed(plug=1))

    def test_what_one_took_away_goes_and_what_one_added_comes(self):
        mine, theirs = copy.deepcopy(TB), copy.deepcopy(TB)
        mine["codes"].pop(0)
        theirs["codes"].append(dict(TB["codes"][1], id="new", shown={"kind": "digits", "text": "E99"}))
        merged, clashes = merge(TB, mine, theirs)
        self.assertEqual(clashes, ())
        self.assertEqual(
            [code["id"] for code in merged["codes"]], [*(c["id"] for c in TB["codes"][1:]), "new"]
        )


class Door(TestCase):
    def run_door(self, *arguments):
        out, told = io.StringIO(), io.StringIO()
        with contextlib.redirect_stdout(out), contextlib.redirect_stderr(told):
            code = main(["sheet", *arguments])
        return code, out.getvalue(), told.getvalue()

    def setUp(self):
        self.folder = Path(self.enterContext(tempfile.TemporaryDirectory()))
        self.sheet = next(str(path) for path in PATHS if path.stem == "tarnbeck-tb-34")
        self.kind = next(str(path) for path in KINDS if path.stem == "kind-bottom-freezer")

    def file(self, name, text):
        path = self.folder / name
        path.write_text(text, encoding="utf-8")
        return str(path)

    def test_a_paper_becomes_a_sheet_that_is_checked(self):
        pasted = [
            f"{name}={self.file(name, GERMAN[name])}" for name in ("codes", "sensors", "plugs", "parts")
        ]
        options = [option for paste in pasted for option in ("--paste", paste)]
        code, out, _ = self.run_door(
            "new", "--kind", self.kind, "--plate", "Halden KG 77/2 230V 50Hz", *options
        )
        told = json.loads(out)
        self.assertEqual((code, told["ready"], told["not_placed"]), (0, True, []))
        self.assertEqual(told["sheet"]["plate"]["model"], "KG 77/2")
        path = self.file("s.json", json.dumps(told["sheet"]))
        code, out, _ = self.run_door("check", path)
        self.assertEqual(json.loads(out)["works"]["codes"], {"have": 4, "of": 4, "missing": ""})

    def test_a_question_is_asked_in_one_line(self):
        table = self.file("t", "0 16.33\n25 5")
        paste = f"sensors={table}"
        code, _, told = self.run_door("new", "--kind", self.kind, "--plate", "A B", "--paste", paste)
        self.assertEqual(code, 2)
        self.assertIn("--answer degrees=C (°C) or --answer degrees=F (°F)", told)
        answers = ("--answer", "degrees=C", "--answer", "scale=1000")
        code, _out, _ = self.run_door(
            "new", "--kind", self.kind, "--plate", "A B", "--paste", paste, *answers
        )
        self.assertEqual(code, 0)

    def test_csv_out_changed_and_back_is_told_by_diff(self):
        code, table, _ = self.run_door("to-csv", self.sheet, "--table", "parts")
        self.assertEqual(code, 0)
        path = self.file("parts.csv", table.replace("Damper", "Air flap", 1))
        code, out, _ = self.run_door("from-csv", self.sheet, path, "--table", "parts")
        new = self.file("new.json", out)
        code, out, _ = self.run_door("diff", self.sheet, new)
        self.assertTrue(any("Air flap" in each["words"] for each in json.loads(out)["changes"]))
        code, out, _ = self.run_door("merge", self.sheet, new, self.sheet)
        self.assertEqual(json.loads(out)["clashes"], [])

    def test_wrong_names_end_with_a_line(self):
        for arguments in (("check", "nowhere.json"), ("to-csv", self.sheet, "--table", "spells"), ("new",)):
            code, _, told = self.run_door(*arguments)
            self.assertEqual((code, told.count("\n")), (2, 1), arguments)
        code, _, told = self.run_door("new", "--kind", self.kind, "--plate", "A B", "--paste", "spells=x")
        self.assertIn("there is no table", told)
