"""The door's commands about the circuit: expect, netlist, trace, modes, faults, load."""

import contextlib
import io
import json
import re
import tempfile
import unittest
from pathlib import Path

from frostcore.door import main
from frostcore.tests import ngspice
from frostcore.tests.demo_sheets import PATHS, SHEETS

TB = str(next(path for path in PATHS if path.stem == "tarnbeck-tb-34"))
ONDREL = str(next(path for path in PATHS if path.stem == "ondrel-or-620"))


def ask(*arguments):
    out, err = io.StringIO(), io.StringIO()
    with contextlib.redirect_stdout(out), contextlib.redirect_stderr(err):
        code = main(arguments)
    return code, out.getvalue(), err.getvalue()


def answer(*arguments):
    code, out, err = ask(*arguments)
    if code:
        raise AssertionError(err)
    return json.loads(out)


def expected(sheet, mode, red, black, function, *more):
    return answer(
        "expect",
        "--sheet",
        sheet,
        "--mode",
        mode,
        "--red",
        red,
        "--black",
        black,
        "--function",
        function,
        *more,
    )


class Expect(unittest.TestCase):
    def test_it_gives_value_unit_band_and_words(self):
        found = expected(TB, "off_cold", "CN2.5", "CN2.6", "ohm", "--pull", "CN2")
        self.assertEqual((found["unit"], found["text"]), ("Ω", "240 Ω (221 Ω to 260 Ω)"))
        self.assertTrue(found["low"] < found["value"] < found["high"])

    def test_over_limit_is_no_number(self):
        found = expected(TB, "off_warm", "CN2.5", "CN2.6", "ohm", "--pull", "CN2")
        self.assertEqual((found["value"], found["high"]), (None, None))
        self.assertIn("OL", found["text"])

    def test_a_phantom_is_called_one(self):
        found = expected(TB, "normal", "CN2.5", "CN2.6", "vac", "--fault", "thermal_fuse:open")
        self.assertIn("phantom", found["text"])
        self.assertLess(
            expected(TB, "normal", "CN2.5", "CN2.6", "vac_loz", "--fault", "thermal_fuse:open")["value"], 0.5
        )

    def test_what_never_settles_has_a_span_and_a_rhythm(self):
        found = expected(TB, "normal", "CN4.1", "CN4.2", "vdc", "--fault", "evaporator_fan:short")
        self.assertEqual((found["firm"], found["span"][0]), (False, 0.0))
        self.assertAlmostEqual(found["every_seconds"], 1.17, places=2)
        self.assertEqual(found["tripped"], ["The 12 V rail is overloaded"])
        drawn = answer("load", "plug", "--sheet", TB, "--mode", "normal", "--fault", "compressor:seized")
        self.assertEqual(len(drawn["phases"]), 4)
        self.assertGreater(drawn["phases"][0]["amperes"], 1.8 * drawn["phases"][1]["amperes"])
        self.assertAlmostEqual(
            drawn["every_seconds"], sum(each["seconds"] for each in drawn["phases"]), places=6
        )

    def test_temperatures_of_places_are_typed(self):
        found = expected(TB, "off_warm", "CN2.5", "CN2.6", "ohm", "--celsius", "evaporator=2C")
        self.assertEqual([way["stands"] for way in found["ways"]], ["defrost bimetal open"])
        self.assertFalse(found["firm"])
        setup = ["--sheet", TB, "--mode", "off_warm", "--red", "CN2.5", "--black", "CN2.6", "--range", "ohm"]
        code, _, err = ask("expect", *setup, "--celsius", "evaporator")
        self.assertEqual((code, "write it like evaporator=18C" in err), (2, True), err)

    def test_hertz_are_told_where_something_pulses(self):
        om = TB.replace("tarnbeck-tb-34", "ossmere-om-58")
        found = expected(om, "normal", "CN5.4", "CN5.2", "hz")
        self.assertEqual((found["value"], found["unit"], found["duty"]), (400, "Hz", 0.78))

    def test_faults_tell_their_kind_and_what_would_be_fitted(self):
        known = {item["id"]: item for item in answer("faults", "--sheet", TB)}
        self.assertEqual(known["unit:condenser_dirty"]["kind"], "plain")
        self.assertEqual(known["board:welded:k_defrost"]["unit"], "board")
        self.assertEqual(known["fridge_sensor:drift"]["spread"], [1.2, 2.0])

    def test_check_sheet_lists_what_stays_silent(self):
        found = answer("check-sheet", TB, "--silent")
        self.assertTrue(all("moisture" in item["fault"] for item in found["silent"]), found["silent"])
        self.assertIn("unit:room", [item["fault"] for item in found["seen_otherwise"]])

    def test_faults_add_up(self):
        one = expected(TB, "off_cold", "CN2.5", "CN2.6", "ohm", "--fault", "defrost_heater:drift")["value"]
        both = expected(
            TB,
            "off_cold",
            "CN2.5",
            "CN2.6",
            "ohm",
            "--fault",
            "defrost_heater:drift",
            "--fault",
            "harness:joint_high_resistance:CN2.5",
        )["value"]
        self.assertAlmostEqual(both - one, 8, delta=0.01)

    def test_bad_input_is_one_line_that_names_it(self):
        setup = ["--sheet", TB, "--mode", "normal", "--red", "CN2.5", "--black", "CN2.6", "--function", "vac"]
        for change, told in (
            ({5: "CN2.9"}, "There is no point “CN2.9”"),
            ({5: "nowhere"}, "There is no point “nowhere”"),
            ({5: "CN2.5/side"}, "names no side of a pin"),
            ({5: "live/wire"}, "is no pin"),
            ({3: "nomal"}, "There is no mode “nomal”"),
            ({9: "amps"}, "invalid choice: 'amps'"),
            ({1: "nothing.json"}, "cannot be read"),
        ):
            given = [change.get(place, item) for place, item in enumerate(setup)]
            code, out, err = ask("expect", *given)
            self.assertEqual((code, out, err.count("\n")), (2, "", 1))
            self.assertIn(told, err)
        for extra, told in (
            (["--pull", "CN77"], "There is no connector “CN77”"),
            (["--fault", "defrost_heater:soggy"], "known are defrost_heater:open"),
        ):
            code, _, err = ask("expect", *setup, *extra)
            self.assertEqual((code, err.count("\n")), (2, 1))
            self.assertIn(told, err)


class Netlist(unittest.TestCase):
    def deck(self, *arguments):
        code, out, err = ask("netlist", *arguments)
        self.assertEqual(code, 0, err)
        return out

    def test_a_deck_runs_by_itself_and_its_voltages_give_the_reading_expected(self):
        for function, mode, points, more in (
            ("vac", "normal", ("CN2.5", "CN2.6"), ("--fault", "defrost_heater:open")),
            ("vac_loz", "defrost", ("CN7.1", "CN7.2"), ("--pull", "CN7")),
            ("vdc", "normal", ("CN4.1", "CN4.2"), ("--fault", "evaporator_fan:short")),
            ("ohm", "off_cold", ("CN2.1", "CN2.2"), ("--pull", "CN2")),
        ):
            setup = (
                "--sheet",
                TB,
                "--mode",
                mode,
                "--red",
                points[0],
                "--black",
                points[1],
                "--function",
                function,
                *more,
            )
            deck, found = self.deck(*setup), answer("expect", *setup)["value"]
            node = {
                match[2]: match[1] for match in re.finditer(r"^\* node (\S+) = (\S+)$", deck, re.MULTILINE)
            }
            (voltages,) = ngspice.run_one(deck)
            red, black = ((voltages | {"0": 0})[node[point]] for point in points)
            volts = red - black
            value = (
                abs(volts)
                if function.startswith("vac")
                else volts.real
                if function == "vdc"
                else 1000 * volts.real / (1 - volts.real)
            )
            self.assertAlmostEqual(value, found, delta=1e-6 * abs(found) + 2e-6, msg=f"{function} {mode}")

    def test_every_node_of_the_sheet_is_told(self):
        deck = self.deck("--sheet", ONDREL, "--mode", "service")
        told = set(re.findall(r"^\* node \S+ = (\S+)$", deck, re.MULTILINE))
        for point in next(sheet for sheet in SHEETS if sheet.title == "Ondrel OR-620").wiring.pins:
            self.assertIn(point, told)
        self.assertEqual(len(ngspice.run_one(deck)), 2)

    def test_a_meter_without_points_is_refused(self):
        code, _, err = ask("netlist", "--sheet", TB, "--mode", "normal", "--function", "vac")
        self.assertEqual(code, 2)
        self.assertIn("--red and --black", err)


class Traces(unittest.TestCase):
    def test_the_defrost_path_goes_from_the_plug_through_relay_fuses_and_heater_back(self):
        found = answer("trace", "--sheet", TB, "--mode", "defrost", "--function", "defrost")
        labels = [point["point"] for point in found["points"]]
        wanted = [
            "plug.l",
            "CN1.1",
            "live",
            "CN2.5",
            "CN7.1",
            "bimetal.1",
            "bimetal.2",
            "thermal_fuse.1",
            "defrost_heater.1",
            "defrost_heater.2",
            "CN7.2",
            "CN2.6",
            "plug.n",
        ]
        self.assertEqual(labels, wanted)
        self.assertAlmostEqual(found["points"][labels.index("bimetal.2")]["value"], 230, delta=3)
        self.assertLess(found["points"][labels.index("CN7.2")]["value"], 0.5)

    def test_readings_along_it_name_the_broken_segment(self):
        found = answer(
            "trace",
            "--sheet",
            TB,
            "--mode",
            "defrost",
            "--function",
            "defrost_heater",
            "--at",
            "CN7.1=231V",
            "--at",
            "thermal_fuse.1=230V",
            "--at",
            "defrost_heater.1=2V",
        )
        self.assertEqual(
            (found["segment"]["good"], found["segment"]["bad"], found["segment"]["between"]),
            ("thermal_fuse.1", "defrost_heater.1", ["thermal_fuse"]),
        )

    def test_every_function_of_every_unit_has_a_path(self):
        for path in PATHS:
            mode = "normal"
            named = answer("trace", "--sheet", str(path), "--mode", mode, "--function", _sensor(path))[
                "functions"
            ]
            for function in named:
                found = answer("trace", "--sheet", str(path), "--mode", mode, "--function", function)
                self.assertGreaterEqual(len(found["points"]), 3, function)
                self.assertTrue(all(point["value"] is not None for point in found["points"]))

    def test_an_unknown_function_is_told_what_there_is(self):
        code, _, err = ask("trace", "--sheet", TB, "--mode", "normal", "--function", "toaster")
        self.assertEqual((code, err.count("\n")), (2, 1))
        self.assertIn("it has display,", err)


def _sensor(path):
    """A function that every sheet of the demo has."""
    return next(
        component.id for component in SHEETS[PATHS.index(path)].components if component.kind == "thermistor"
    )


class Lists(unittest.TestCase):
    def test_modes_and_faults(self):
        modes = {mode["id"]: mode for mode in answer("modes", "--sheet", TB)}
        self.assertFalse(modes["off_cold"]["live"])
        self.assertEqual(modes["defrost"]["timeout_minutes"], 20)
        known = answer("faults", "--sheet", TB)
        self.assertTrue({"id", "component", "mode", "weight"} <= known[0].keys())
        self.assertIn("defrost_heater:open", {item["id"] for item in known})


class Loads(unittest.TestCase):
    def test_a_heater_by_ohms(self):
        found = answer("load", "heater", "--ohms", "240", "--mains", "230V", "--watts", "220W")
        self.assertAlmostEqual(found["watts"], 230**2 / 240)
        self.assertAlmostEqual(found["amperes"], 230 / 240)
        self.assertEqual(found["verdict"], "in_band")

    def test_a_heater_for_the_other_mains_is_asked_about(self):
        found = answer("load", "heater", "--ohms", "41", "--mains", "230V")
        self.assertEqual(found["verdict"], "low")
        self.assertIn("fits a heater for 120 V", found["questions"][0])

    def test_kilohms_for_ohms_is_asked_about(self):
        found = answer("load", "heater", "--ohms", "240k", "--mains", "230V")
        self.assertIn("240 Ω?", found["questions"][0])

    def test_a_heater_by_its_rating(self):
        self.assertAlmostEqual(answer("load", "heater", "--watts", "450W", "--mains", "120V")["ohms"], 32.0)

    def test_windings_and_tachometer_and_plug(self):
        single = answer(
            "load", "windings", "--phases", "1", "--ab", "16.5", "--bc", "38", "--ac", "21.5", "--earth", "OL"
        )
        self.assertEqual(
            (single["verdict"], single["terminals"]), ("in_band", {"common": "A", "run": "B", "start": "C"})
        )
        three = answer(
            "load", "windings", "--phases", "3", "--ab", "8.6", "--bc", "8.7", "--ac", "6.1", "--earth", "OL"
        )
        self.assertEqual(three["verdict"], "low")
        leaking = answer(
            "load",
            "windings",
            "--phases",
            "3",
            "--ab",
            "8.6",
            "--bc",
            "8.7",
            "--ac",
            "8.6",
            "--earth",
            "300k",
        )
        self.assertIn("finished", leaking["findings"][-1]["text"])
        self.assertEqual(answer("load", "tacho", "--hertz", "70Hz", "--rpm", "2100")["verdict"], "in_band")
        self.assertEqual(
            answer("load", "plug", "--sheet", TB, "--mode", "defrost", "--watts", "225W")["verdict"],
            "in_band",
        )

    def test_bad_input(self):
        for arguments, told in (
            (("load", "heater", "--mains", "230V"), "give --ohms as measured"),
            (("load", "plug", "--sheet", TB, "--mode", "defrost", "--watts", ""), "--watts: Nothing typed"),
            (("load", "heater", "--mains", "0V", "--ohms", "41"), "heats nothing"),
            (("load", "tacho", "--hertz", "70Hz", "--pulses", "0"), "no number above 0"),
            (("load", "tacho", "--hertz", "70Hz", "--rpm", "1e999"), "no number above 0"),
            (("load", "heater", "--mains", "230V", "--watts", "-5W"), "below zero"),
            (("load", "plug", "--sheet", TB, "--mode", "defrost"), "either --watts or --amps"),
        ):
            code, out, err = ask(*arguments)
            self.assertEqual((code, out, err.count("\n")), (2, "", 1))
            self.assertIn(told, err)


class CheckSheet(unittest.TestCase):
    def changed(self, change, *command):
        data = json.loads(Path(TB).read_text(encoding="utf-8"))
        change(data)
        with tempfile.NamedTemporaryFile("w", suffix=".json", encoding="utf-8") as file:
            json.dump(data, file)
            file.flush()
            return ask(*(command or ("check-sheet",)), *(("--sheet",) if command else ()), file.name)

    def test_what_the_maker_states_beats_what_is_computed(self):
        stated = {
            "red": "CN2.6",
            "black": "CN2.5",
            "meter": "ohm",
            "low": 225,
            "high": 255,
            "pulled": ["CN2"],
            "note": "service sheet, table 4",
        }
        ask_for = (
            "expect",
            "--mode",
            "off_cold",
            "--red",
            "CN2.5",
            "--black",
            "CN2.6",
            "--range",
            "ohm",
            "--pull",
            "CN2",
        )
        code, out, err = self.changed(lambda data: data.update(stated_readings=[stated]), *ask_for)
        self.assertEqual(code, 0, err)
        found = json.loads(out)
        self.assertEqual((found["low"], found["high"]), (225, 255))
        self.assertIn("service sheet, table 4", found["text"])
        code, _, err = self.changed(lambda data: data.update(stated_readings=[stated | {"red": "CN2.9"}]))
        self.assertEqual(code, 2)
        self.assertIn("stated_readings[0]: There is no point “CN2.9”", err)

    def test_a_missing_rating_and_an_unknown_rail_are_told_in_one_line(self):
        def without_watts(data):
            next(part for part in data["components"] if part["id"] == "condenser_fan")["nominal"].pop("watts")

        for change, told in (
            (without_watts, "no watts for condenser fan"),
            (
                lambda data: data["boards"][0]["sensor_inputs"][0].update(reference_volts=3.3),
                "referred to 3.3 V",
            ),
            (
                lambda data: data.update(
                    components=[part for part in data["components"] if part["id"] != "plug"],
                    harness=data["harness"][2:],
                ),
                "no plug among its components",
            ),
        ):
            code, out, err = self.changed(change)
            self.assertEqual((code, out, err.count("\n")), (2, "", 1))
            self.assertIn(told, err)
