"""Sheets that come from anywhere: each is refused by the place where it is out of bounds, in no time; a deck
says words only, whatever a sheet that was stored says."""

import copy
import json
import subprocess
import unittest

from frostcore.circuit.build import build
from frostcore.circuit.netlist import netlist
from frostcore.circuit.settle import settle
from frostcore.errors import SheetError
from frostcore.sheet.bounds import (
    MOST_CHARACTERS,
    MOST_DEEP,
    MOST_DIGITS,
    MOST_IN_ALL,
    MOST_LISTED,
    MOST_OF,
    MOST_TEXT,
    MOST_TOLD,
    MOST_WORD,
    RANGES,
    problems_of_data,
)
from frostcore.sheet.load import dump, load, read
from frostcore.tests.demo_sheets import PATHS, SHEETS

TEXT = next(path for path in PATHS if "tarnbeck" in path.name).read_text(encoding="utf-8")


class Case(unittest.TestCase):
    def changed(self, *path, value):
        """The Tarnbeck's document with one value changed."""
        document = json.loads(TEXT)
        place = document
        for key in path[:-1]:
            place = place[key]
        place[path[-1]] = value
        return json.dumps(document)

    def refused(self, text, words):
        with self.assertRaises(SheetError) as found:
            load(text)
        told = str(found.exception)
        self.assertIn(words, told)
        told.encode("utf-8")
        return found.exception.problems


class Refused(Case):
    """Each sheet by the name of what is wrong with it."""

    def test_a_switch_whose_identifier_runs_a_command(self):
        command = "k\n.control\nshell touch owned\n.endc"
        self.refused(
            self.changed("boards", 0, "switches", 0, "id", value=command), "boards[0].switches[0].id"
        )

    def test_identifiers_that_break_addresses(self):
        for name in (
            "a b",
            "a/b",
            "../up",
            "?x",
            "#",
            "%2e",
            "a.b",
            "é",
            "-x",
            "x" * (MOST_WORD + 1),
            "a\u202eb",
        ):
            for path in (
                ("sensors", 0, "id"),
                ("components", 0, "id"),
                ("modes", 0, "id"),
                ("places", 0, "id"),
            ):
                self.refused(self.changed(*path, value=name), "is no identifier")

    def test_names_of_curves_and_places_inside_them(self):
        document = json.loads(TEXT)
        document["curves"]["a/b"] = next(iter(document["curves"].values()))
        self.refused(json.dumps(document), "curves: the entry “a/b”")
        document = json.loads(TEXT)
        document["modes"][0]["celsius"] = {"a\nb": 5}
        self.refused(json.dumps(document), "modes[0].celsius: the entry “a�b”")

    def test_characters_that_can_not_be_printed(self):
        for odd in ("\x00", "\x1b[2J", "\ud800", "\u202e", "\u2028", "a\nb", "\t"):
            self.refused(self.changed("plate", "appliance", value=f"fridge{odd}"), "plate.appliance")

    def test_blank_names(self):
        for path in (("plate", "maker"), ("components", 0, "name"), ("codes", 0, "meaning")):
            self.refused(self.changed(*path, value="  "), "is blank")

    def test_numbers_that_are_none(self):
        for text in ("1e999", "-1e999", "NaN", "Infinity", "1" * 1000, "9" * 5000):
            document = TEXT.replace('"mains_volts": 230', f'"mains_volts": {text}')
            self.assertNotEqual(document, TEXT)
            with self.assertRaises(SheetError):
                load(document)

    def test_numbers_out_of_every_range(self):
        for (low, high), path in (
            (RANGES["pullup_ohms"], ("boards", 0, "sensor_inputs", 0, "pullup_ohms")),
            (RANGES["timeout_minutes"], ("modes", 0, "timeout_minutes")),
            (RANGES["celsius"], ("modes", 0, "celsius", "cabinet")),
            (RANGES["price"], ("components", 0, "price")),
            (RANGES["mains_volts"], ("plate", "mains_volts")),
        ):
            for value in (low - 1e-3 - abs(low) * 1e-3, high * 1.001 + 1e-3):
                self.refused(self.changed(*path, value=value), "is out of range")
            for value in (low, high):
                document = json.loads(self.changed(*path, value=value))
                self.assertEqual(problems_of_data(document), [], (path, value))

    def test_a_zero_pull_up_and_a_mode_without_end(self):
        self.refused(self.changed("boards", 0, "sensor_inputs", 0, "pullup_ohms", value=0), "pullup_ohms")
        self.refused(self.changed("modes", 0, "timeout_minutes", value=0), "timeout_minutes")
        self.refused(self.changed("modes", 0, "timeout_minutes", value=1e9), "timeout_minutes")

    def test_a_mode_that_drives_nothing(self):
        self.refused(self.changed("modes", 0, "signals", value=["warp"]), "no output of a board")

    def test_parts_put_where_they_can_not_stand(self):
        self.refused(
            self.changed("modes", 0, "positions", value={"fridge_door_switch": "ajar"}),
            "stands open or closed",
        )
        fennick = json.loads(
            next(path for path in PATHS if "fennick" in path.name).read_text(encoding="utf-8")
        )
        for name, position, words in (
            ("left_pot", "2", "a share of its turn"),
            ("left_pot", "1e5", "a share of its turn"),
            ("defrost_timer", "open", "cool or defrost"),
        ):
            worse = copy.deepcopy(fennick)
            worse["modes"][0]["positions"] = {name: position}
            self.refused(json.dumps(worse), words)

    def test_curves_without_a_sensible_resistance(self):
        for beta in (20_000, -20_000):
            curve = {"kind": "beta", "reference_ohms": 5000, "beta_kelvin": beta}
            name = next(iter(json.loads(TEXT)["curves"]))
            self.refused(self.changed("curves", name, value=curve), "over its range")


class Bounded(Case):
    def test_too_long_too_deep_too_many(self):
        name = next(iter(json.loads(TEXT)["curves"]))
        rows = [[step / 100, 9e5 - step] for step in range(MOST_LISTED + 1)]
        table = {"kind": "table", "rows": rows}
        self.refused(self.changed("curves", name, value=table), f"at most {MOST_LISTED}")
        self.refused(" " * (MOST_CHARACTERS + 1), "characters; a sheet has at most")
        self.refused("[" * 100_000, "nested too deep")
        deep = 0
        for _ in range(MOST_DEEP + 1):
            deep = [deep]
        self.refused(self.changed("papers", value=deep), "nested deeper")
        self.refused(self.changed("papers", value="x" * (MOST_TEXT + 1)), f"at most {MOST_TEXT:,}")
        self.refused(self.changed("codes", 0, "shown", "text", value="8" * (MOST_WORD + 1)), "at most 60")
        self.refused(self.changed("papers", value=10**MOST_DIGITS), "digits")
        many = [[0] * MOST_LISTED for _ in range(MOST_IN_ALL // MOST_LISTED + 1)]
        self.refused(self.changed("papers", value=many), "entries in all")

    def test_lists_that_cost_time_are_shorter(self):
        for name, most in MOST_OF.items():
            for count, told in ((most, []), (most + 1, [f"{name}: {most + 1} entries; at most {most}"])):
                values = {f"n{n}": 0 for n in range(count)} if name == "curves" else [0] * count
                found = [str(problem) for problem in problems_of_data({name: values})]
                self.assertEqual(found, told, name)

    def test_just_inside_they_are_taken(self):
        deep = 0
        for _ in range(MOST_DEEP - 1):
            deep = [deep]
        for value in (deep, "x" * MOST_TEXT, 10**MOST_DIGITS - 1, [0] * MOST_LISTED):
            self.assertEqual(problems_of_data({"papers": value}), [])
        self.assertEqual(problems_of_data({"id": "x" * MOST_WORD, "text": "8" * MOST_WORD}), [])
        many = [[0] * 399 for _ in range(MOST_IN_ALL // 400)]
        self.assertEqual(problems_of_data({"papers": many[:-1]}), [])

    def test_no_more_is_told_than_can_be_mended_at_once(self):
        self.assertEqual(len(problems_of_data({"id": ["a b"] * 300})), MOST_TOLD)

    def test_the_demo_sheets_are_well_inside(self):
        for sheet in SHEETS:
            self.assertEqual(problems_of_data(json.loads(dump(sheet))), [])


class Decks(unittest.TestCase):
    """A sheet that was stored before the rules is read as it stands; its deck says words all the same."""

    def test_a_deck_runs_nothing_a_sheet_says(self):
        told = ("x\n.control\nshell echo owned\n.endc\n*", "*# shell echo owned", "a; b", "a\\\\", "$(id)")
        for name in told:
            document = json.loads(TEXT)
            switch = document["boards"][0]["switches"][0]
            switch["id"], switch["name"] = name, name
            document["components"][0]["name"] = name
            document["modes"][0]["name"] = name
            sheet = read(json.dumps(document))
            settled = settle(build(sheet, sheet.modes[0].id))
            text = netlist(sheet, settled, name)
            for line in text.splitlines():
                self.assertRegex(line, r"^[A-Za-z0-9_ .,:()/+=?*-]*$")
                if line.startswith("*"):
                    self.assertTrue(line.startswith("* "), line)
            self.assertNotRegex(text, r"(?m)^\s*shell")
            done = subprocess.run(
                ["ngspice", "-b", "/dev/stdin"], input=text, capture_output=True, text=True, check=False
            )
            self.assertNotRegex(done.stdout, r"(?m)^owned")


if __name__ == "__main__":
    unittest.main()
