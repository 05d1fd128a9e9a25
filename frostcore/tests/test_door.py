import contextlib
import io
import json
import subprocess
import sys
import tempfile
from pathlib import Path
from unittest import TestCase

from frostcore.door import main
from frostcore.tests.test_sheet import SHEETS

CURVE = "celsius,ohms\n-20,44060\n-10,25470\n0,15330\n10,9564\n25,5000\n"


class Door(TestCase):
    def setUp(self):
        folder = tempfile.TemporaryDirectory()
        self.addCleanup(folder.cleanup)
        self.folder = Path(folder.name)
        self.curve = self.file("curve.csv", CURVE)

    def file(self, name, text):
        (self.folder / name).write_text(text, encoding="utf-8")
        return str(self.folder / name)

    def run_door(self, *arguments):
        out, err = io.StringIO(), io.StringIO()
        with contextlib.redirect_stdout(out), contextlib.redirect_stderr(err):
            code = main(arguments)
        return code, out.getvalue(), err.getvalue()

    def answer(self, *arguments):
        code, out, err = self.run_door(*arguments)
        self.assertEqual((code, err), (0, ""))
        return json.loads(out)

    def refusal(self, *arguments):
        code, out, err = self.run_door(*arguments)
        self.assertEqual((code, out, err.count("\n")), (2, "", 1))
        return err

    def test_sensor_judges_one_point(self):
        answer = self.answer("sensor", "--curve", self.curve, "--point", "24k@0C")
        self.assertEqual(answer["verdict"], "high")
        self.assertAlmostEqual(answer["expected_ohms"]["nominal"], 15330)
        self.assertAlmostEqual(answer["error_kelvin"], answer["implied_celsius"])
        self.assertNotIn("points", answer)

    def test_sensor_asks_about_slips(self):
        (question,) = self.answer("sensor", "--curve", self.curve, "--point", "15.3@0C")["questions"]
        self.assertEqual((question["kind"], question["would_be"], question["then"]), ("unit_slip", "15300 Ω", "in_band"))

    def test_several_points_are_each_judged(self):
        answer = self.answer("sensor", "--curve", self.curve, "--point", "5k@25C", "--point", "OL@0C", "--doubt", "1F", "--tolerance", "5%")
        self.assertEqual((answer["verdict"], answer["implied_celsius"]), ("open", None))
        self.assertEqual([point["verdict"] for point in answer["points"]], ["in_band", "open"])

    def test_decode_tells_condition_and_components(self):
        answer = self.answer("decode", "--sheet", str(SHEETS / "tarnbeck-tb-34.json"), "--shown", "E5")
        best = answer["matches"][0]
        self.assertEqual((best["code"], best["distance"]), ("E5", 0))
        self.assertEqual(best["condition"]["tests"][0]["threshold"], 8)
        self.assertIn("defrost_heater", [component["id"] for component in best["components"]])

    def test_check_sheet_says_yes_and_what_is_on_it(self):
        answer = self.answer("check-sheet", str(SHEETS / "ondrel-or-620.json"))
        self.assertTrue(answer["ok"])
        self.assertEqual(answer["counts"]["sensors"], 5)

    def test_bad_input_is_one_line_that_says_what_and_where(self):
        broken = self.file("broken.csv", CURVE.replace("0,15330", "0,153.3", 1))
        cases = [
            (("sensor", "--curve", self.curve, "--point", "24k"), "“24k” has no temperature"),
            (("sensor", "--curve", self.curve, "--point", "1,000@0C"), "can mean 1 Ω or 1000 Ω"),
            (("sensor", "--curve", self.curve, "--point", "x@0C"), "“x” can't be read as a resistance"),
            (("sensor", "--curve", "nowhere.csv", "--point", "24k@0C"), "nowhere.csv: cannot be read"),
            (("sensor", "--curve", broken, "--point", "24k@0C"), "line 4"),
            (("sensor", "--curve", self.curve), "--point"),
            (("sensor", "--curve", self.curve, "--point", "24k@0C", "--tolerance", "150%"), "sensor tolerance"),
            (("decode", "--sheet", self.curve, "--shown", "E5"), "not a JSON document"),
            (("decode", "--sheet", str(SHEETS / "tarnbeck-tb-34.json"), "--shown", " "), "Nothing typed"),
            (("check-sheet", self.file("s.json", "{}")), "format: is missing"),
            (("dance",), "dance"),
            ((), "COMMAND"),
        ]
        for arguments, text in cases:
            with self.subTest(text):
                self.assertIn(text, self.refusal(*arguments))

    def test_it_runs_as_a_program(self):
        done = subprocess.run([sys.executable, "-m", "frostcore", "sensor", "--curve", self.curve, "--point", "bad"], capture_output=True, text=True, check=False)
        self.assertEqual((done.returncode, done.stderr.count("\n"), done.stdout), (2, 1, ""))
        self.assertNotIn("Traceback", done.stderr)
