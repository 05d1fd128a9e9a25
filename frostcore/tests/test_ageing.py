"""What is stored outlives the classes it was written with."""

import json
from dataclasses import replace
from datetime import UTC, datetime, timedelta
from pathlib import Path
from typing import get_args
from unittest import TestCase
from unittest.mock import patch

from hypothesis import given, settings
from hypothesis import strategies as st

from frostcore.errors import SheetError
from frostcore.quantity import Dimension, parse
from frostcore.report.handover import handover
from frostcore.sheet.load import digest, dump, load, read
from frostcore.sheet.versions import UPGRADES as SHEET_UPGRADES
from frostcore.sheet.versions import identifier_of
from frostcore.tape import entries
from frostcore.tape.entries import CallTaken, Entry, Noted, PowerSet, ReadingTaken, SheetTaken, Unreadable
from frostcore.tape.kinds import KINDS, Evidence, words_of
from frostcore.tape.moment import Moment
from frostcore.tape.stages import Stage
from frostcore.tape.standing import stand
from frostcore.tape.take import Asked, Offered, take
from frostcore.tape.versions import PRESENT, UPGRADES, read_body, version_of
from frostcore.tests.demo_sheets import demo_sheet

KEPT = Path(__file__).parent / "kept"
SLIPS = json.loads((KEPT / "slips.json").read_text(encoding="utf-8"))
TB = demo_sheet("Tarnbeck TB-34")
START = datetime(2026, 11, 2, 9, tzinfo=UTC)
CALL = CallTaken("call_taken", "It says E5")


def entry(number, body, minutes, supersedes="", recorded=None):
    at = START + timedelta(minutes=minutes)
    late = None if recorded is None else START + timedelta(minutes=recorded)
    return Entry(str(number), at, "m", body, supersedes, late)


class StoredSlips(TestCase):
    def test_every_version_that_ever_landed_is_kept_as_an_example_and_reads_as_it_should(self):
        for kept in SLIPS:
            with self.subTest(kept["kind"], version=kept["version"]):
                body = read_body(kept["kind"], kept["version"], kept["body"])
                self.assertNotIsInstance(body, Unreadable, body)
                self.assertEqual(entries.body_to_document(body), kept["becomes"])

    def test_no_kind_version_or_step_is_without_an_example(self):
        examples = {(kept["kind"], kept["version"]) for kept in SLIPS}
        self.assertEqual({(kind, version_of(kind)) for kind in KINDS} - examples, set())
        self.assertEqual(set(UPGRADES) - examples, set())
        self.assertLessEqual(set(PRESENT), set(KINDS))

    def test_what_this_version_does_not_know_is_shown_with_its_text_and_counts_for_nothing(self):
        stored = {
            "an unknown field": ("noted", 1, {"kind": "noted", "text": "x", "mood": "grim"}),
            "an unknown kind": ("dreamt", 1, {"kind": "dreamt"}),
            "a later version": ("noted", 9, {"kind": "noted", "text": "x"}),
            "no object": ("noted", 1, ["x"]),
            "a value that is none": (
                "checked",
                1,
                {"kind": "checked", "check": "a", "figure": "", "verdict": "?"},
            ),
        }
        for name, (kind, version, body) in stored.items():
            with self.subTest(name):
                found = read_body(kind, version, body)
                self.assertIsInstance(found, Unreadable)
                where = stand(TB, [entry(0, CALL, 0), entry(1, found, 1)])
                self.assertEqual(len(where.effective), 1)
                said = words_of(where, where.slips[1])
                self.assertIn(kind, said.title)
                self.assertEqual(json.loads(said.raw), body)
                self.assertEqual(handover(where).call, CALL)

    @settings(deadline=None)
    @given(
        st.sampled_from(sorted(KINDS)),
        st.integers(0, 4),
        st.recursive(
            st.none() | st.booleans() | st.floats() | st.text(max_size=6),
            lambda inner: (
                st.lists(inner, max_size=3) | st.dictionaries(st.text(max_size=8), inner, max_size=4)
            ),
        ),
    )
    def test_reading_never_raises(self, kind, version, stored):
        read_body(kind, version, stored)

    def test_a_slip_that_names_what_its_sheet_has_not_is_shown_as_it_stands(self):
        body = entries.PlugMoved("plug_moved", "CN99", "pulled")
        reading = ReadingTaken("reading", "ohm", parse("5k", Dimension.RESISTANCE), "CN99.1", "CN99.2")
        look = entries.Observed("observed", "aura", "blue")
        where = stand(TB, [entry(0, CALL, 0), entry(1, body, 1), entry(2, reading, 2), entry(3, look, 3)])
        self.assertIn("CN99", words_of(where, where.slips[1]).raw)
        self.assertIn("can’t be judged", words_of(where, where.slips[2]).detail)
        self.assertEqual(where.judged(where.slips[2]).verdict, "unclear")
        self.assertTrue(handover(where).title)


class StoredSheets(TestCase):
    def test_a_sheet_of_the_first_version_is_the_sheet_of_today(self):
        old = (KEPT / "sheet-1-tarnbeck.json").read_text(encoding="utf-8")
        # Supplies of boards came later, as a field of their own.
        self.assertEqual(read(old), replace(TB, supplies=()))
        self.assertEqual(load(old).sheet, replace(TB, supplies=()))
        self.assertEqual(set(SHEET_UPGRADES), {"frostline-sheet-1"})

    def test_rules_are_asked_when_published_and_not_when_read(self):
        data = json.loads(dump(TB))
        data["components"][0]["place"] = "attic"
        data["plate"]["mains_volts"] = 23
        text = json.dumps(data)
        with self.assertRaises(SheetError):
            load(text)
        self.assertEqual(read(text).plate.mains_volts, 23)
        data["components"][0]["wish"] = 1
        with self.assertRaisesRegex(SheetError, "wish"):
            read(json.dumps(data))

    def test_sheets_whose_names_read_alike_have_identifiers_of_their_own(self):
        alike = [
            ("Tarn", "beck TB-34"),
            ("Tarn beck", "TB-34"),
            ("Tarn-beck", "TB 34"),
            ("Tarn beck", "TB_34"),
        ]
        self.assertEqual(len({identifier_of(*pair) for pair in alike}), len(alike))
        self.assertEqual(identifier_of("Tarnbeck", "TB-34"), "tarnbeck-tb-34")
        for pair in (("Мороз", "Х-1"), ("冷泉", "二号"), ("", ""), ("É" * 200, "x" * 200), *alike):
            data = json.loads(dump(TB)) | {"id": identifier_of(*pair)}
            self.assertEqual(load(json.dumps(data)).sheet.id, data["id"])

    def test_an_identifier_that_makes_no_address_is_refused(self):
        for wrong in ("", "Tarn", "a b", "a/b", "publish", "x" * 61, "-a"):
            with self.assertRaisesRegex(SheetError, "identifier"):
                load(json.dumps(json.loads(dump(TB)) | {"id": wrong}))

    def test_the_digest_is_of_the_content(self):
        text = dump(TB)
        data = json.loads(text)
        reordered = json.dumps(dict(reversed(data.items())), indent=7).replace("\n", "\r\n")
        self.assertEqual(digest(text), digest(reordered))
        self.assertNotEqual(digest(text), digest(json.dumps(data | {"papers": "elsewhere"})))


class Order(TestCase):
    LIVE, UNPLUGGED = PowerSet("power_set", "live"), PowerSet("power_set", "unplugged")

    def test_an_entry_that_arrives_late_stands_where_it_was_made(self):
        note = Noted("noted", "made at the back of the fridge")
        tape = [
            entry(0, CALL, 0),
            entry(1, self.LIVE, 5),
            entry(2, self.UNPLUGGED, 20),
            entry(3, note, 10, recorded=30),
        ]
        where = stand(TB, tape)
        self.assertEqual([slip.entry.id for slip in where.slips], ["0", "1", "3", "2"])
        self.assertEqual((where.slips[2].power, where.power), ("live", "unplugged"))

    def test_the_call_comes_first_whatever_a_clock_said(self):
        where = stand(TB, [entry(0, CALL, 5), entry(1, self.LIVE, 1)])
        self.assertEqual([slip.entry.id for slip in where.slips], ["0", "1"])

    def test_a_late_reading_is_asked_about_the_moment_it_was_made_in(self):
        ohms = ReadingTaken(
            "reading", "ohm", parse("240", Dimension.RESISTANCE), "CN2.5", "CN2.6", pulled=("CN2",)
        )
        where = stand(TB, [entry(0, CALL, 0), entry(1, self.UNPLUGGED, 5), entry(2, self.LIVE, 20)])
        at = START + timedelta(minutes=10)
        self.assertNotIsInstance(take(where, Offered("9", at, "m", ohms)), Asked)
        later = START + timedelta(minutes=30)
        self.assertEqual(take(where, Offered("9", later, "m", ohms)).questions[0].kind, "ohms_live")

    def test_replay_folds_each_entry_once(self):
        tape = [entry(0, CALL, 0), *(entry(n, Noted("noted", "x"), n) for n in range(1, 400))]
        with patch.object(Moment, "after", autospec=True, side_effect=Moment.after) as after:
            stand(TB, tape)
        self.assertEqual(after.call_count, 400)

    def test_each_entry_is_judged_on_the_sheet_of_its_moment(self):
        other = replace(TB, sensors=tuple(replace(item, tolerance=0.4) for item in TB.sensors))
        moved = SheetTaken("sheet_taken", TB.id, 2, "ab" * 32)
        high = ReadingTaken(
            "reading",
            "ohm",
            parse("20k", Dimension.RESISTANCE),
            sensor="defrost",
            temperature=parse("0C", Dimension.TEMPERATURE),
        )
        tape = [entry(0, CALL, 0), entry(1, high, 1), entry(2, moved, 2), entry(3, high, 3)]
        where = stand(TB, tape, {moved.digest: other})
        self.assertIs(where.sheet, other)
        self.assertEqual([where.judged(where.slip(name)).verdict for name in "13"], ["high", "in_band"])
        self.assertIs(stand(TB, tape).sheet, TB)


class TheTableOfKinds(TestCase):
    def test_every_kind_of_body_has_a_row_with_words_check_stage_and_evidence(self):
        self.assertEqual({row.body for row in KINDS.values()}, set(get_args(entries.Body)))
        for kind, row in KINDS.items():
            with self.subTest(kind):
                self.assertIsInstance(row.stage, Stage)
                self.assertIsInstance(row.evidence, Evidence)
                self.assertTrue(row.words.__doc__ and row.check.__doc__)

    def test_every_example_has_words(self):
        for kept in SLIPS:
            body = read_body(kept["kind"], kept["version"], kept["body"])
            where = stand(TB, [entry(0, CALL, 0), entry(1, body, 1)])
            self.assertTrue(words_of(where, where.slips[-1]).title)


class OneReading(TestCase):
    """Ohms between a sensor's pins are one kind of entry, wherever they were typed."""

    def judged(self, **told):
        told = {"red": "CN3.5", "black": "CN3.6", **told}
        body = ReadingTaken("reading", "ohm", parse("26k", Dimension.RESISTANCE), **told)
        where = stand(TB, [entry(0, CALL, 0), entry(1, body, 1)])
        return where, where.judged_reading(where.slips[1])

    def test_with_a_temperature_the_sensors_curve_judges_it_and_it_counts_for_the_sensor(self):
        celsius = parse("0C", Dimension.TEMPERATURE)
        for told in ({"sensor": "defrost"}, {}, {"mode": "off_cold", "pulled": ("CN3",)}):
            where, judged = self.judged(temperature=celsius, **told)
            self.assertEqual((judged.verdict, judged.by_curve.verdict), ("high", "high"))
            self.assertEqual(len(where.readings_of(TB.sensor("defrost"))), 1)

    def test_without_one_or_with_the_boards_pull_up_beside_it_the_circuit_does(self):
        for told in ({"mode": "off_cold", "pulled": ()}, {"mode": "off_cold", "pulled": ("CN3",)}):
            _, judged = self.judged(**told)
            self.assertIsNone(judged.by_curve)
            self.assertIsNotNone(judged.expected)
        _, judged = self.judged(temperature=parse("0C", Dimension.TEMPERATURE), mode="off_cold", pulled=())
        self.assertIsNone(judged.by_curve)

    def test_the_circuit_is_asked_at_the_temperature_measured(self):
        warm, cold = (
            self.judged(temperature=parse(typed, Dimension.TEMPERATURE), mode="off_cold", pulled=())[
                1
            ].expected
            for typed in ("25C", "-20C")
        )
        self.assertLess(warm.value, cold.value)

    def test_a_sensor_named_without_points_or_temperature_is_not_judged(self):
        _, judged = self.judged(red="", black="", sensor="defrost")
        self.assertEqual(judged.verdict, "unclear")
        self.assertIn("temperature", judged.reason)
