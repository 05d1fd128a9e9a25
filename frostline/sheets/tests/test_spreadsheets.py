"""Tables out of spreadsheet files, and files that mean harm."""

import io
import zipfile
from unittest import TestCase

from hypothesis import given
from hypothesis import strategies as st
from openpyxl import Workbook

from frostcore.errors import FrostError
from frostcore.paper.paste import recognise
from frostcore.tests.papers import ENGLISH, GERMAN
from frostline.sheets.spreadsheets import MOST_UNPACKED, is_spreadsheet, text_of


def workbook(text, numbers=False):
    """A spreadsheet's file with a text's rows."""
    book = Workbook()
    table = book.active
    for line in text.split("\n"):
        table.append([_value(cell) if numbers else cell for cell in line.split("\t")])
    return saved(book)


def _value(cell):
    try:
        return float(cell.replace("−", "-"))
    except ValueError:
        return cell


def saved(book):
    out = io.BytesIO()
    book.save(out)
    return out.getvalue()


class Spreadsheets(TestCase):
    def test_the_tables_of_both_papers_say_what_they_say_when_pasted(self):
        for paper in (ENGLISH, GERMAN):
            for section in ("codes", "sensors", "plugs", "parts"):
                for numbers in (False, True) if paper is ENGLISH else (False,):
                    with self.subTest(section=section, numbers=numbers):
                        data = workbook(paper[section], numbers)
                        self.assertTrue(is_spreadsheet(data))
                        pasted, read = (
                            recognise(section, text, {}) for text in (paper[section], text_of(data))
                        )
                        self.assertEqual(read.rows, pasted.rows)
                        self.assertEqual(read.questions, pasted.questions)

    def test_the_first_table_that_has_rows_is_read_and_a_cell_is_one_line(self):
        book = Workbook()
        second = book.create_sheet()
        second.append(["Code", "Meaning"])
        second.append(["E1", "two\nlines", None, True])
        self.assertEqual(text_of(saved(book)), "Code\tMeaning\nE1\ttwo lines\t\tyes")

    def test_what_is_empty_damaged_or_a_bomb_is_told(self):
        with self.assertRaisesRegex(FrostError, "no rows"):
            text_of(saved(Workbook()))
        with self.assertRaisesRegex(FrostError, "damaged"):
            text_of(workbook("a\tb")[:400])
        with self.assertRaisesRegex(FrostError, "can’t be read"):
            text_of(packed("xl/workbook.xml", b"<a/>"))
        with self.assertRaisesRegex(FrostError, "Unpacked the file has"):
            text_of(packed("xl/worksheets/sheet1.xml", b"0" * (MOST_UNPACKED + 1)))

    def test_a_million_rows_end_where_tables_end(self):
        book = Workbook()
        for number in range(3000):
            book.active.append([number])
        self.assertLess(text_of(saved(book)).count("\n"), 2500)

    @given(st.binary(max_size=300), st.integers(0, 4000))
    def test_no_file_makes_it_fail_in_another_way(self, noise, at):
        whole = workbook("Code\tMeaning\nE1\tfan")
        at %= len(whole)
        try:
            text_of(whole[:at] + noise + whole[at + len(noise) :])
        except FrostError as error:
            self.assertTrue(str(error))


def packed(name, content):
    out = io.BytesIO()
    with zipfile.ZipFile(out, "w", zipfile.ZIP_DEFLATED) as archive:
        archive.writestr(name, content)
    return out.getvalue()
