import copy
import dataclasses
import json
import typing
from pathlib import Path
from unittest import TestCase

import jsonschema

from frostcore.circuit.build import build
from frostcore.circuit.faulted import with_fault
from frostcore.circuit.kept import circuits_of
from frostcore.circuit.meter import MeterRange, expect, points
from frostcore.circuit.settle import settle
from frostcore.display.seen import match_seen
from frostcore.errors import SheetError
from frostcore.faults.edits import damage
from frostcore.faults.known import fault
from frostcore.sheet.load import dump, load, schema
from frostcore.sheet.model import Sheet

DOCS = Path(__file__).resolve().parents[2] / "docs"
SHEETS = Path(__file__).resolve().parents[2] / "demo" / "sheets"
TEXTS = {path.stem: path.read_text(encoding="utf-8") for path in sorted(SHEETS.glob("*.json"))}
TARNBECK = json.loads(TEXTS["tarnbeck-tb-34"])


def problems(change):
    document = copy.deepcopy(TARNBECK)
    change(document)
    try:
        load(json.dumps(document))
    except SheetError as error:
        return [str(problem) for problem in error.problems]
    return []


class DemoSheets(TestCase):
    def test_all_eight_units_load_without_a_remark(self):
        self.assertEqual(len(TEXTS), 8)
        for name, text in TEXTS.items():
            with self.subTest(name):
                self.assertEqual(load(text).remarks, ())

    def test_each_names_at_least_one_code_whose_every_cause_is_a_part_with_a_reason(self):
        for text in TEXTS.values():
            sheet = load(text).sheet
            self.assertTrue(sheet.codes)
            for code in sheet.codes:
                self.assertTrue(
                    all(sheet.component(cause.component) and cause.why for cause in code.implicates)
                )

    def test_written_and_read_again_a_sheet_is_the_same(self):
        for text in TEXTS.values():
            sheet = load(text).sheet
            self.assertEqual(load(dump(sheet)).sheet, sheet)

    def test_no_two_kinds_of_object_share_a_name_in_the_schema(self):
        met, left = dict[str, type](), [Sheet]
        while left:
            kind = left.pop()
            if typing.get_origin(kind):
                left += [each for each in typing.get_args(kind) if each is not ...]
            elif dataclasses.is_dataclass(kind):
                self.assertIs(met.setdefault(kind.__name__, kind), kind, kind.__name__)
                hints = typing.get_type_hints(kind)
                left += [hints[field.name] for field in dataclasses.fields(kind)]

    def test_the_published_schema_takes_every_sheet(self):
        jsonschema.Draft202012Validator.check_schema(schema())
        for text in TEXTS.values():
            jsonschema.validate(json.loads(text), schema())


SPLICED = (("CN2.3", "joint"), ("joint", "frame_heater.1"))


class FirstSheet(TestCase):
    """docs/first-sheet.json: everything its page says of it."""

    sheet = load((DOCS / "first-sheet.json").read_text(encoding="utf-8")).sheet

    def expected(self, mode, meter, fault_id="", pulled=()):
        settled = settle(build(self.sheet, mode, pulled=pulled))
        if fault_id:
            settled = with_fault(settled, damage(settled.circuit, fault(self.sheet, fault_id).acts))
        return expect(settled, points(self.sheet, settled.circuit, "CN2.3", "CN2.4", meter), meter)

    def test_it_loads_without_a_remark_and_its_heater_is_fed_and_reads_what_it_must(self):
        self.assertEqual(load(dump(self.sheet)).remarks, ())
        self.assertAlmostEqual(self.expected("normal", MeterRange.VAC).value, 230, delta=0.2)
        self.assertAlmostEqual(self.expected("off", MeterRange.OHM, pulled=("CN2",)).value, 2645, delta=0.5)

    def test_a_broken_heater_still_has_mains_and_reads_open(self):
        self.assertAlmostEqual(
            self.expected("normal", MeterRange.VAC, "frame_heater:open").value, 230, delta=0.2
        )
        self.assertIsNone(self.expected("off", MeterRange.OHM, "frame_heater:open", ("CN2",)).value)

    def test_a_splice_joins_at_least_two_wires(self):
        document = json.loads(dump(self.sheet))
        rest = [run for run in document["harness"] if run["points"][0] != "CN2.3"]
        first, second = ({"points": list(ends), "colours": ["red"]} for ends in SPLICED)
        load(json.dumps(document | {"harness": [*rest, first, second]}))
        with self.assertRaisesRegex(SheetError, "joins only one wire"):
            load(json.dumps(document | {"harness": [*rest, first]}))

    def test_without_board_and_harness_it_still_decodes(self):
        document = json.loads(dump(self.sheet))
        for part in ("boards", "harness"):
            del document[part]
        sheet = load(json.dumps(document)).sheet
        for given in (self.sheet, sheet):
            found = match_seen([given], "", "", "0,0.5,3,3.5,6,6.5").matches
            self.assertEqual([match.code.id for match in found if match.exact], ["B2"])
        self.assertEqual(circuits_of(sheet).functions, ())


class PublishedSchema(TestCase):
    def test_the_schema_in_docs_is_the_one_the_dataclasses_imply(self):
        published = json.loads((SHEETS.parents[1] / "docs" / "sheet.schema.json").read_text(encoding="utf-8"))
        self.assertEqual(
            published, schema(), "write it anew: python -m frostcore schema > docs/sheet.schema.json"
        )


class WrongSheets(TestCase):
    def test_structure_errors_name_their_place_and_the_schema_refuses_them_too(self):
        cases = [
            (
                lambda d: d["components"][3].update(price="dear"),
                "components[3].price: text “dear”; a number belongs here",
            ),
            (lambda d: d["components"][0].update(colour="red"), "components[0].colour: no such entry"),
            (lambda d: d["components"][0].pop("name"), "components[0].name: is missing"),
            (
                lambda d: d["components"][0].update(kind="plugg"),
                "components[0].kind: text “plugg” is not allowed; did you mean “plug”?",
            ),
            (
                lambda d: d["curves"]["ntc_5k"].update(kind="spline"),
                "curves.ntc_5k.kind: text “spline”; write table, beta or steinhart_hart",
            ),
            (
                lambda d: d["curves"]["ntc_5k"]["rows"][2].append(4),
                "curves.ntc_5k.rows[2]: a list of 3; exactly 2 belong here",
            ),
            (lambda d: d.update(format="other-1"), "format: text “other-1” is not allowed"),
            (
                lambda d: d["sensors"][1].update(tolerance=True),
                "sensors[1].tolerance: True; a number belongs here",
            ),
        ]
        for change, expected in cases:
            with self.subTest(expected):
                self.assertTrue(any(expected in problem for problem in problems(change)), problems(change))
                document = copy.deepcopy(TARNBECK)
                change(document)
                self.assertFalse(jsonschema.Draft202012Validator(schema()).is_valid(document))

    def test_names_that_lead_nowhere_are_named(self):
        cases = [
            (
                lambda d: d["components"][2].update(place="attic"),
                "components[2].place: there is no place “attic”",
            ),
            (
                lambda d: d["sensors"][0].update(curve="ntc_9k"),
                "sensors[0].curve: there is no curve “ntc_9k”",
            ),
            (
                lambda d: d["sensors"][0].update(component="plug"),
                "sensors[0].component: “plug” is a plug, not a thermistor",
            ),
            (lambda d: d["sensors"][0].update(pins=["CN3.9"]), "sensors[0].pins: there is no pin “CN3.9”"),
            (
                lambda d: d["codes"][0]["implicates"][0].update(component="ghost"),
                "codes[0].implicates[0].component: there is no component “ghost”",
            ),
            (
                lambda d: d["codes"][0]["condition"]["tests"][0].update(
                    signal={"kind": "sensor", "id": "ghost"}
                ),
                "codes[0].condition.tests[0].signal: there is no sensor “ghost”",
            ),
            (
                lambda d: d["codes"][3]["condition"]["tests"][0].pop("threshold"),
                "codes[3].condition.tests[0].threshold: a test for “not_above” needs a threshold",
            ),
            (lambda d: d["components"].append(d["components"][0]), "“plug” stands twice"),
            (
                lambda d: d["places"][1].update(inside="fridge"),
                "places[1].inside: “fridge” would lie inside itself",
            ),
            (lambda d: d["curves"]["ntc_5k"]["rows"][3].__setitem__(1, 9), "curves.ntc_5k.rows[3]: 9.00 Ω"),
        ]
        for change, expected in cases:
            with self.subTest(expected):
                self.assertTrue(any(expected in problem for problem in problems(change)), problems(change))

    def test_every_problem_is_told_at_once(self):
        def change(document):
            document["components"][0].pop("name")
            document["sensors"][1]["tolerance"] = "tight"

        self.assertEqual(len(problems(change)), 2)

    def test_a_row_that_looks_mistyped_is_remarked_on_but_does_not_stop_the_sheet(self):
        document = copy.deepcopy(TARNBECK)
        document["curves"]["ntc_5k"]["rows"][8][1] = 17330.0
        (remark,) = load(json.dumps(document)).remarks
        self.assertEqual(remark.place, "curves.ntc_5k.rows[8]")

    def test_text_that_is_not_json_is_refused_with_its_line(self):
        with self.assertRaisesRegex(SheetError, "line 2: not a JSON document"):
            load('{\n"format" 1}')
        with self.assertRaisesRegex(SheetError, "NaN is not a number"):
            load('{"format": NaN}')
