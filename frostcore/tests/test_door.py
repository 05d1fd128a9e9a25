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
        self.assertEqual(
            (question["kind"], question["would_be"], question["then"]), ("unit_slip", "15300 Ω", "in_band")
        )

    def test_several_points_are_each_judged(self):
        answer = self.answer(
            "sensor",
            "--curve",
            self.curve,
            "--point",
            "5k@25C",
            "--point",
            "OL@0C",
            "--doubt",
            "1F",
            "--tolerance",
            "5%",
        )
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

    def test_several_points_get_a_kind_of_error(self):
        points = [
            part
            for ohms, celsius in ((5000, 25), (15330, 0), (44060, -20))
            for part in ("--point", f"{ohms + 6000}@{celsius}C")
        ]
        answer = self.answer(
            "sensor", "--curve", self.curve, *points, "--library", str(SHEETS / "skerrow-sk-48.json")
        )
        self.assertEqual(
            (answer["error_kind"], answer["error_kinds"][0]["kind"]),
            ("series_resistance", "series_resistance"),
        )
        self.assertAlmostEqual(answer["error_kinds"][0]["parameters"]["series_ohms"] / 6000, 1, delta=0.05)
        self.assertAlmostEqual(sum(kind["weight"] for kind in answer["error_kinds"]), 1)

    def test_settle_identify_divider_pot_and_thermostat_answer(self):
        settled = self.answer(
            "settle",
            *[
                part
                for t, r in ((30, "25k2"), (60, "27k6"), (120, "30k2"), (180, "31k2"), (300, "31k9"))
                for part in ("--reading", f"{t}s={r}")
            ],
        )
        self.assertTrue(settled["ready"])
        self.assertLess(abs(settled["settled_ohms"] - 32000), 3 * settled["doubt_ohms"] + 150)
        self.assertFalse(self.answer("settle", "--reading", "30s=27k", "--reading", "60s=29k")["ready"])
        self.assertEqual(
            self.answer("identify", "--point", "10k@25C", "--point", "33k6@0C")["curves"][0]["r25_ohms"],
            10000,
        )
        divided = self.answer(
            "divider", "--volts", "2.5V", "--pullup", "10k", "--curve", self.curve, "--at", "9C"
        )
        self.assertEqual((divided["ohms"], divided["verdict"]), (10000, "in_band"))
        self.assertAlmostEqual(self.answer("divider", "--ohms", "10k", "--pullup", "10k")["volts"], 2.5)
        self.assertEqual(
            self.answer(
                "pot", "--nominal", "10k", "--ends", "9k8", "--stop", "12", "--sweep", "100;5k;2k;7k;9k7"
            )["verdict"],
            "low",
        )
        answer = self.answer(
            "thermostat", "--opens", "55", "--differential", "30", "--at", "20C", "--reads", "OL"
        )
        self.assertEqual(
            (answer["verdict"], [reading["unit"] for reading in answer["readings"]]),
            ("unclear", ["°F", "°C"]),
        )

    def test_temperatures_below_zero_are_no_options(self):
        answer = self.answer(
            "thermostat", "--opens", "13C", "--differential", "18", "--at", "-12C", "--reads", "0.2"
        )
        self.assertEqual((answer["verdict"], answer["can_judge"]), ("in_band", True))
        self.assertGreater(
            self.answer("divider", "--celsius", "-18C", "--pullup", "10k", "--curve", self.curve)["ohms"],
            30000,
        )

    def test_decode_takes_segments_and_taps(self):
        sheet = str(SHEETS / "tarnbeck-tb-34.json")
        answer = self.answer("decode", "--sheet", sheet, "--frames", "[adefg][acfg]")
        self.assertEqual((answer["matches"][0]["code"], answer["matches"][0]["dead"]), ("E5", [[2, "d"]]))
        answer = self.answer(
            "decode", "--sheet", str(SHEETS / "skerrow-sk-48.json"), "--taps", "0,0.5,1,3,3.5,4,6,6.5,7"
        )
        self.assertEqual(
            (answer["groups"], answer["repeats"], answer["matches"][0]["code"]), (["???"], 3, "B3")
        )

    def test_bad_input_is_one_line_that_says_what_and_where(self):
        broken = self.file("broken.csv", CURVE.replace("0,15330", "0,153.3", 1))
        cases = [
            (("sensor", "--curve", self.curve, "--point", "24k"), "“24k” has no temperature"),
            (("sensor", "--curve", self.curve, "--point", "1,000@0C"), "can mean 1 Ω or 1000 Ω"),
            (("sensor", "--curve", self.curve, "--point", "x@0C"), "“x” can't be read as a resistance"),
            (("sensor", "--curve", "nowhere.csv", "--point", "24k@0C"), "nowhere.csv: cannot be read"),
            (("sensor", "--curve", broken, "--point", "24k@0C"), "line 4"),
            (("sensor", "--curve", self.curve), "--point"),
            (
                ("sensor", "--curve", self.curve, "--point", "24k@0C", "--tolerance", "150%"),
                "sensor tolerance",
            ),
            (("decode", "--sheet", self.curve, "--shown", "E5"), "not a JSON document"),
            (("decode", "--sheet", str(SHEETS / "tarnbeck-tb-34.json"), "--shown", " "), "Nothing typed"),
            (("check-sheet", self.file("s.json", "{}")), "format: is missing"),
            (("settle", "--reading", "27k"), "has no time"),
            (("settle", "--reading", "30s=OL"), "is open"),
            (("identify", "--point", "OL@0C"), "open or short"),
            (("divider", "--volts", "12V", "--pullup", "10k"), "Check the pins"),
            (("divider", "--celsius", "4C", "--pullup", "10k"), "--curve"),
            (("pot", "--nominal", "10k", "--ends", "x"), "--ends"),
            (
                ("thermostat", "--opens", "13C", "--differential", "18F", "--at", "4C", "--reads", "OL"),
                "a stamp has one, write both",
            ),
            (("thermostat", "--opens", "warm", "--at", "4C", "--reads", "OL"), "no stamped temperature"),
            (("decode", "--sheet", str(SHEETS / "tarnbeck-tb-34.json"), "--frames", "[xyz]"), "is no digit"),
            (("decode", "--sheet", str(SHEETS / "tarnbeck-tb-34.json"), "--taps", "a,b"), "is no tap"),
            (("dance",), "dance"),
            ((), "COMMAND"),
        ]
        for arguments, text in cases:
            with self.subTest(text):
                self.assertIn(text, self.refusal(*arguments))

    def test_a_reader_that_leaves_early_gets_no_traceback(self):
        sheet = Path(__file__).resolve().parents[2] / "demo" / "sheets" / "ondrel-or-620.json"
        with subprocess.Popen(
            [sys.executable, "-m", "frostcore", "faults", "--sheet", sheet],
            stdout=subprocess.PIPE,
            stderr=subprocess.PIPE,
        ) as asked:
            self.assertEqual(asked.stdout.read(1), b"[")
            asked.stdout.close()
            self.assertEqual(asked.stderr.read(), b"")

    def test_it_runs_as_a_program(self):
        done = subprocess.run(
            [sys.executable, "-m", "frostcore", "sensor", "--curve", self.curve, "--point", "bad"],
            capture_output=True,
            text=True,
            check=False,
        )
        self.assertEqual((done.returncode, done.stderr.count("\n"), done.stdout), (2, 1, ""))
        self.assertNotIn("Traceback", done.stderr)
