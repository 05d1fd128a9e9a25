"""The judgement at the door: its document, its tape, its manners."""

import io
import json
import tempfile
from contextlib import redirect_stderr, redirect_stdout
from pathlib import Path
from unittest import TestCase

from frostcore.door import main
from frostcore.tests.demo_sheets import PATHS

TB = next(str(path) for path in PATHS if path.stem == "tarnbeck-tb-34")
SK = next(str(path) for path in PATHS if path.stem == "skerrow-sk-48")
E5 = {"act": "code", "shown": "E5"}
FROST = {"act": "look", "look": "frost", "answer": "cover_frozen"}
LOOP = {"act": "read", "red": "CN2.5", "black": "CN2.6", "range": "ohm", "value": "239"}

MOVED = {"act": "move", "red": "CN2.5", "black": "CN2.6", "range": "ohm"}


class Door(TestCase):
    def run_door(self, *arguments):
        out, err = io.StringIO(), io.StringIO()
        with redirect_stdout(out), redirect_stderr(err):
            code = main(arguments)
        return code, out.getvalue(), err.getvalue()

    def file(self, content):
        kept = tempfile.NamedTemporaryFile("w", suffix=".json", delete=False, encoding="utf-8")  # noqa: SIM115
        self.addCleanup(Path(kept.name).unlink)
        with kept:
            kept.write(content if isinstance(content, str) else json.dumps(content))
        return kept.name

    def diagnose(self, evidence, *more, sheet=TB):
        code, out, err = self.run_door("diagnose", "--sheet", sheet, "--evidence", self.file(evidence), *more)
        self.assertEqual(code, 0, err)
        return json.loads(out)


class Diagnose(Door):
    def test_suspects_with_their_bits_and_the_next_act_in_the_same_vocabulary(self):
        found = self.diagnose([E5, FROST])
        chances = [each["probability"] for each in found["suspects"]]
        self.assertEqual(chances, sorted(chances, reverse=True))
        self.assertLessEqual(sum(chances), 1 + 1e-9)
        self.assertEqual(set(found["suspects"][0]["bits"]), {"0", "1"})
        self.assertIsNone(found["named"])
        step = found["next"]
        self.assertGreater(step["minutes"], 0)
        self.assertTrue(step["words"] and step["leaves"])
        answered = {key: step[key] for key in ("act", "red", "black", "range", "mode")} | {"value": "OL"}
        if "pulled" in step:
            answered["pulled"] = step["pulled"]
        after = self.diagnose([E5, FROST, answered])
        self.assertNotEqual(after["next"], step)

    def test_an_entry_struck(self):
        whole, struck = self.diagnose([E5, FROST, LOOP]), self.diagnose([E5, FROST, LOOP], "--strike", "2")
        without = self.diagnose([E5, FROST])
        self.assertEqual(struck["suspects"][0]["probability"], without["suspects"][0]["probability"])
        self.assertNotEqual(whole["suspects"], struck["suspects"])

    def test_every_act_is_understood(self):
        every = [
            {"act": "power", "state": "live"},
            {"act": "enter", "mode": "normal"},
            {"act": "open", "place": "board_bay"},
            {"act": "mains", "volts": 224},
            {"act": "history", "of": "surge"},
            {"act": "experience", "counts": {"fan_dc": 6, "heater": 2}},
            {"act": "fit", "component": "board", "helped": "for_a_while", "before": True},
            {"act": "temperature", "place": "freezer", "celsius": "-7C"},
            {"act": "plug", "mode": "defrost", "watts": 5},
            {"act": "sensor", "sensor": "defrost", "celsius": "0C", "value": "15k3"},
            {"act": "move", "red": "CN2.5", "black": "CN2.6", "range": "ohm", "changes": False},
            {"act": "warm", "red": "CN2.5", "black": "CN2.6", "range": "ohm", "changes": False},
            {"act": "bridge", "component": "defrost_heater", "runs": True},
            {"act": "cannot", "of": {"act": "look", "look": "water"}, "why": "built in"},
            {"act": "code", "shown": ""},
            LOOP,
        ]
        found = self.diagnose(every)
        self.assertTrue(found["suspects"])
        self.assertNotEqual(found["next"].get("look"), "water")

    def test_an_exported_tape_is_judged_as_the_call_is(self):
        tape = {
            "format": "frostline-tape-2",
            "entries": [
                self.entry("1", {"kind": "call_taken", "complaint": "warm"}, 2),
                self.entry("2", {"kind": "power_set", "state": "unplugged"}),
                self.entry("3", {"kind": "code_seen", "shown": "E5", "code": "E5"}),
                self.entry("4", {"kind": "observed", "look": "frost", "answer": "cover_frozen"}),
            ],
        }
        code, out, err = self.run_door("diagnose", "--sheet", TB, "--tape", self.file(tape))
        self.assertEqual(code, 0, err)
        wanted = self.diagnose([{"act": "power", "state": "unplugged"}, E5, FROST])
        self.assertEqual(
            [each["unit"] for each in json.loads(out)["suspects"]],
            [each["unit"] for each in wanted["suspects"]],
        )

    @staticmethod
    def entry(identifier, body, version=1):
        at = f"2026-11-20T09:0{identifier}:00+00:00"
        told = {"id": identifier, "at": at, "by": "x", "supersedes": None}
        return told | {"kind": body["kind"], "version": version, "body": body}

    def test_bad_input_gets_one_line_that_says_which_entry_and_what_to_write(self):
        for evidence, said in (
            ("no json", "not JSON"),
            ({}, "list of entries"),
            ([3], "entry 0"),
            ([{"act": "sing"}], "known are read"),
            ([E5, {"act": "look", "look": "moon", "answer": "full"}], "entry 1"),
            ([{"act": "look", "look": "frost", "answer": "blue"}], "known are none"),
            ([{"act": "read", "red": "CN2.5", "black": "CN9.9", "range": "ohm", "value": "1"}], "CN9.9"),
            ([{"act": "read", "red": "CN2.5", "black": "CN2.5", "range": "ohm", "value": "1"}], "one point"),
            ([LOOP | {"value": "two hundred"}], "entry 0"),
            ([LOOP | {"range": "amps"}], "known are ohm"),
            ([LOOP | {"pulled": ["CN99"]}], "known are CN1"),
            ([{"act": "mains", "volts": "12 V"}], "no mains"),
            ([{"act": "temperature", "place": "moon", "celsius": -7}], "moon"),
            ([{"act": "cannot", "of": {"act": "sing"}, "why": ""}], "left out"),
            ([{"act": "fit", "component": "board", "helped": "maybe"}], "for_a_while"),
            (
                [{"act": "move", **{key: LOOP[key] for key in ("red", "black", "range")}, "changes": "yes"}],
                "true or false",
            ),
        ):
            code, out, err = self.run_door("diagnose", "--sheet", TB, "--evidence", self.file(evidence))
            self.assertEqual((code, out), (2, ""), evidence)
            self.assertIn(said, err, evidence)
            self.assertEqual(err.count("\n"), 1)
        code, _, err = self.run_door(
            "diagnose", "--sheet", TB, "--evidence", self.file([E5]), "--strike", "4"
        )
        self.assertEqual(code, 2)
        self.assertIn("numbered from 0", err)
        for tape in ("[]", "{}", '{"entries": [{"id": 1}]}'):
            code, _, err = self.run_door("diagnose", "--sheet", TB, "--tape", self.file(tape))
            self.assertEqual(code, 2, tape)


class Behave(Door):
    def test_functions_looks_codes_watts(self):
        code, out, _ = self.run_door(
            "behave", "--sheet", TB, "--mode", "defrost", "--fault", "defrost_heater:open"
        )
        found = json.loads(out)
        self.assertEqual(code, 0)
        self.assertGreater(found["functions"]["no defrost"], 0.9)
        self.assertGreater(found["codes"]["E5"], 0.8)
        self.assertLess(found["watts"], 15)
        for answers in found["looks"].values():
            self.assertAlmostEqual(sum(answers.values()), 1, delta=1e-3)
        code, out, _ = self.run_door("behave", "--sheet", TB, "--mode", "defrost")
        self.assertGreater(json.loads(out)["watts"], 200)

    def test_unknown_names(self):
        for arguments, said in (
            (("--mode", "sleep"), "it has normal"),
            (("--mode", "off_cold"), "no live mode"),
            (("--mode", "normal", "--fault", "x:y"), "no fault"),
        ):
            code, _, err = self.run_door("behave", "--sheet", TB, *arguments)
            self.assertEqual(code, 2)
            self.assertIn(said, err)


class Rehearse(Door):
    def test_a_few_faults(self):
        code, out, err = self.run_door(
            "rehearse", "--sheet", SK, "--faults", "cabinet_sensor:open", "condenser_fan:open", "--seed", "3"
        )
        self.assertEqual(code, 0, err)
        found = json.loads(out)
        self.assertEqual(found["runs"], 2)
        self.assertEqual(found["right"], 1.0, found)
        self.assertEqual(found["sure_and_wrong"], 0.0)
        self.assertGreater(found["tests"], 0)

    def test_the_same_seed_says_the_same(self):
        command = ("rehearse", "--sheet", SK, "--some", "3", "--seed", "5")
        self.assertEqual(self.run_door(*command), self.run_door(*command))

    def test_two_faults_at_once(self):
        code, out, err = self.run_door("rehearse", "--sheet", SK, "--pairs", "2", "--seed", "5")
        self.assertEqual(code, 0, err)
        found = json.loads(out)
        self.assertEqual((found["runs"], found["begun_needlessly"] or 0.0), (2, 0.0))
        self.assertEqual(len(found["missed"]), round(2 * (1 - found["both_in_turn"])))
        code, _, err = self.run_door("rehearse", "--sheet", SK, "--pairs", "-1")
        self.assertEqual((code, err.count("\n")), (2, 1))

    def test_a_sheet_without_harness_lines_is_told_so(self):
        bare = json.loads(Path(SK).read_text(encoding="utf-8"))
        bare.pop("harness")
        path = self.file(bare)
        for arguments in (("rehearse", "--sheet", path), ("behave", "--sheet", path, "--mode", "normal")):
            code, _, err = self.run_door(*arguments)
            self.assertEqual(code, 2)
            self.assertIn("It has no harness lines", err)

    def test_unknown_faults(self):
        code, _, err = self.run_door("rehearse", "--sheet", SK, "--faults", "x:y")
        self.assertEqual(code, 2)
        self.assertIn("no fault “x:y”", err)


class Decide(Door):
    def decide(self, evidence, rates=None):
        more = ["--rates", self.file(rates)] if rates is not None else []
        return self.run_door("decide", "--sheet", TB, "--evidence", self.file(evidence), *more)

    def test_courses_stand_by_cost_each_with_what_it_is_made_of(self):
        code, out, err = self.decide([E5, FROST], {"hour": 90})
        self.assertEqual(code, 0, err)
        found = json.loads(out)
        costs = [each["expected"] for each in found["courses"]]
        self.assertEqual(costs, sorted(costs))
        self.assertEqual({each["do"] for each in found["courses"]}, {"test", "fit", "mend", "plan", "stop"})
        self.assertEqual((found["rates"]["hour"], found["rates"]["travel"]), (90.0, 45.0))
        test = next(each for each in found["courses"] if each["do"] == "test")
        self.assertIn("act", test["what"])
        self.assertEqual(
            set(test["of"]) & {"parts", "minutes", "visits", "wait_days", "wrong_parts"},
            {
                "parts",
                "minutes",
                "visits",
                "wait_days",
                "wrong_parts",
            },
        )

    def test_rates_that_are_none_are_one_line_and_no_traceback(self):
        for rates, told in (
            ({"our": 1}, "no rate"),
            ({"hour": -1}, "hour"),
            ("{", "not JSON"),
            ([1], "object"),
        ):
            code, _, err = self.decide([E5], rates)
            self.assertEqual((code, err.count("\n")), (2, 1))
            self.assertIn(told, err)


class Plans(Door):
    def test_plans_of_a_case_are_proposed_and_each_is_solved_at_the_door(self):
        case = [{"act": "fit", "component": "condenser_fan", "helped": "no", "before": True}]
        case.append({"act": "bridge", "component": "condenser_fan", "runs": True})
        code, out, err = self.run_door(
            "plans", "--sheet", TB, "--evidence", self.file(case), "--until", "2026-12-24"
        )
        self.assertEqual(code, 0, err)
        found = json.loads(out)
        self.assertTrue(found["plans"])
        for each in found["plans"]:
            self.assertEqual(each["refusals"], [])
        plan = self.file(found["plans"][0]["plan"])
        code, out, err = self.run_door("workaround", "--sheet", TB, "--plan", plan, "--duty", "0.4")
        self.assertEqual(code, 0, err)
        solved = json.loads(out)
        self.assertEqual(solved["refusals"], [])
        self.assertTrue(solved["work"]["table"] and solved["work"]["before_plug"] and solved["runs"])
        self.assertIn("kilowatt_hours_a_year_more", solved)

    def test_a_plan_that_is_none_is_one_line(self):
        park = {"act": "park", "connector": "CN9"}
        whole = {"format": "frostline-plan-1", "title": "x", "acts": [park]}
        for plan, more, told in (
            ("{", (), "not JSON"),
            ({"format": "x"}, (), "format"),
            (whole, (), "no connector “CN9”"),
            (whole, ("--duty", "3"), "no share"),
        ):
            code, _, err = self.run_door("workaround", "--sheet", TB, "--plan", self.file(plan), *more)
            self.assertEqual((code, err.count("\n")), (2, 1))
            self.assertIn(told, err)
