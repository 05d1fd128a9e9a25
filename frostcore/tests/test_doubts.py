"""Sheets spoilt as papers spoil them: each is told with its place, the reason and the likely cure; the demo
sheets are clean."""

import json
from unittest import TestCase

from frostcore.circuit.check import circuit_doubts
from frostcore.sheet.load import load
from frostcore.tests.demo_sheets import PATHS


def written(stem):
    return json.loads(next(path for path in PATHS if path.stem == stem).read_text(encoding="utf-8"))


def by_id(data, kind, name):
    return next(item for item in data[kind] if item["id"] == name)


def spoilt(stem, spoil):
    """(place, text) of all that is doubted on a demo sheet with one thing spoilt."""
    data = written(stem)
    spoil(data)
    loaded = load(json.dumps(data))
    return [(each.place, each.text) for each in (*loaded.remarks, *circuit_doubts(loaded.sheet))]


def heater(**nominal):
    def spoil(data):
        by_id(data, "components", "defrost_heater")["nominal"] |= nominal

    return spoil


def other_pins(data):
    fridge, freezer = by_id(data, "sensors", "fridge"), by_id(data, "sensors", "freezer")
    fridge["pins"], freezer["pins"] = freezer["pins"], fridge["pins"]


def same_pins(data):
    by_id(data, "sensors", "fridge")["pins"] = by_id(data, "sensors", "freezer")["pins"]


def no_return(data):
    data["harness"] = [run for run in data["harness"] if "evaporator_fan.minus" not in run["points"]]


def no_neutral(data):
    """The wire that should come from the plug's neutral comes from its live."""
    for run in data["harness"]:
        run["points"] = ["plug.l" if point == "plug.n" else point for point in run["points"]]


def curve(data):
    return next(item for item in data["curves"].values() if item["kind"] == "table")


def twice(data):
    for row in curve(data)["rows"]:
        row[0] = round((round(row[0] / 5) * 5 * 1.8 + 32 - 32) / 1.8, 3)
    for row in curve(data)["rows"]:
        row[0] = round((row[0] - 32) / 1.8, 2)


def dotted(data):
    """15.330 Ω by a paper whose dot means thousands."""
    for row in curve(data)["rows"]:
        row[1] /= 1000


def alike(data):
    data["codes"][1]["shown"] = data["codes"][0]["shown"]


def unraised(data):
    code = data["codes"][0]
    code["condition"] = {"tests": [{"signal": {"kind": "tach", "id": "condenser_fan"}, "state": "no_pulses"}]}


def cut_heater(data):
    """The pin its return is on is joined to nothing on the board."""
    pins = by_id(data, "connectors", "CN2")["pins"]
    next(pin for pin in pins if pin["number"] == 6)["node"] = "unused_pin"


def stated(data):
    data["stated_readings"] = [
        {"red": "CN2.5", "black": "CN2.6", "meter": "ohm", "low": 20, "high": 28, "mode": "off_cold"}
    ]


def loop_for_part(data):
    """The run winding's 16.5 Ω stated of the plug, where start winding and start device lie across it."""
    data["stated_readings"] = [
        {"red": "CN2.1", "black": "CN2.2", "meter": "ohm", "low": 15.5, "high": 17.5, "mode": "off_cold"}
    ]


CASES = (
    ("ohms against watts", heater(ohms=24, watts=220), "components[", "2.20 kW, and 220 W are stated"),
    ("watts no heater has", heater(ohms=24, watts=2204), "components[", "Is a kilo or a dot missing"),
    ("the plate against the heater", heater(ohms=480, watts=110), "plate.defrost_heater_watts", "misread"),
    (
        "a part for other mains",
        heater(volts=120, ohms=65, watts=220),
        "components[",
        "for 120 V, the unit for",
    ),
    ("a fan without a return", no_return, "components[", "has no return"),
    ("no neutral", no_neutral, "components[", "no neutral"),
    ("sensors changed", other_pins, "sensors[", "Are two rows changed?"),
    ("one sensor on another's pins", same_pins, "sensors[", "same pins as sensor"),
    ("°F converted twice", twice, "curves.", "converted twice"),
    ("a dot read as a decimal", dotted, "curves.", "a dot that means thousands"),
    ("two codes alike", alike, "codes[1].shown", "nobody can tell them apart"),
    ("a code nothing raises", unraised, "codes[0].condition.tests[0].signal", "nothing raises it"),
    ("stated against computed", stated, "stated_readings[0]", "and the circuit gives 240 Ω"),
    ("a loop's value for a part's", loop_for_part, "stated_readings[0]", "the parts it lies across"),
    (
        "a bimetal the wrong way round",
        lambda data: by_id(data, "components", "bimetal")["nominal"].update(resets_celsius=20),
        "components[",
        "Are the two changed?",
    ),
    (
        "markup as a label",
        lambda data: data["connectors"][0]["pins"][0].update(label="<b>COMP</b>"),
        "connectors[0].pins[0].label",
        "is markup",
    ),
)


class Doubts(TestCase):
    def test_the_demo_sheets_are_clean(self):
        for path in PATHS:
            self.assertEqual(spoilt(path.stem, lambda data: None), [], path.stem)

    def test_each_way_a_paper_spoils_a_sheet_is_told_where_it_is_and_what_to_do(self):
        for name, spoil, place, words in CASES:
            with self.subTest(name):
                found = spoilt("tarnbeck-tb-34", spoil)
                self.assertTrue(
                    any(at.startswith(place) and words in text for at, text in found), (name, found[:6])
                )

    def test_a_healthy_unit_that_does_not_run_is_told(self):
        found = spoilt("tarnbeck-tb-34", cut_heater)
        self.assertTrue(
            any("Defrost heater is switched on and gets nothing" in text for _, text in found), found
        )

    def test_a_short_in_the_healthy_unit_is_told(self):
        def short(data):
            data["boards"][0]["resistors"] = [
                *data["boards"][0].get("resistors", []),
                {"id": "bleed", "from_node": "p12", "to_node": "ground", "ohms": 1.0},
            ]

        found = spoilt("tarnbeck-tb-34", short)
        self.assertTrue(any("overloaded in the healthy unit" in text for _, text in found), found)
