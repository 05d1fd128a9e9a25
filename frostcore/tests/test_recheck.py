"""A recheck: what is read, what it comes to, what is due."""

from dataclasses import replace
from datetime import timedelta
from unittest import TestCase

from frostcore.diagnosis.evidence import Measured
from frostcore.diagnosis.from_tape import evidence_from
from frostcore.errors import TapeError
from frostcore.quantity import Dimension, parse
from frostcore.remedy.recheck import rechecked, stands, to_read
from frostcore.report.due import DueKind, due_of
from frostcore.tape.entries import Outcome, Result
from frostcore.tape.rechecked import RecheckAsked, RecheckTold
from frostcore.tape.rechecked_words import asked_of, check_asked, check_told
from frostcore.tests.test_display import TARNBECK as SHEET
from frostcore.tests.test_tape import standing as standing_with

ASKED = RecheckAsked("recheck_asked", "2026-03-05", "customer", ("fridge", "freezer"))


def told(quiet="", note="", **celsius):
    read = {place: parse(text, Dimension.TEMPERATURE) for place, text in celsius.items()}
    return RecheckTold("recheck_told", "customer", read, quiet, note=note)


class Rechecks(TestCase):
    def test_each_compartment_is_read_as_it_should_be(self):
        found = {each.place: each.how for each in to_read(SHEET, ("fridge", "freezer"))}
        self.assertIn("glass of water", found["fridge"])
        self.assertIn("between two packs", found["freezer"])
        self.assertEqual([each.place for each in to_read(SHEET, ("freezer",))], ["freezer"])

    def test_readings_against_what_the_sheets_control_keeps(self):
        by = {each.place: each for each in rechecked(SHEET, told(fridge="5 C", freezer="-6 C"))}
        self.assertTrue(by["fridge"].good)
        self.assertFalse(by["freezer"].good)
        self.assertIn("too warm", by["freezer"].words)
        self.assertIn("too cold", rechecked(SHEET, told(fridge="-3 C"))[0].words)

    def test_what_it_comes_to(self):
        good = {"fridge": "5 C", "freezer": "-18 C"}
        self.assertIn("the recheck stands", stands(SHEET, told("yes", **good)))
        self.assertIn("cold alone is not proof", stands(SHEET, told("no", **good)))
        self.assertIn("nobody has said", stands(SHEET, told("", **good)))
        self.assertIn("freezer compartment", stands(SHEET, told("yes", freezer="-3 C")))
        self.assertIn("No temperature", stands(SHEET, told("yes")))

    def test_a_day_that_is_none_is_refused(self):
        for day in ("soon", "2026-02-30", ""):
            with self.assertRaises(ValueError):
                replace(ASKED, day=day)

    def test_what_the_unit_has_not_is_refused(self):
        moment = standing_with().now
        check_asked(moment, ASKED)
        for body in (replace(ASKED, places=("cellar",)), replace(ASKED, places=())):
            with self.assertRaises(TapeError):
                check_asked(moment, body)
        for body in (told(), told(cellar="5 C")):
            with self.assertRaises(TapeError):
                check_told(moment, body)

    def test_it_is_due_until_it_is_told(self):
        asked = standing_with(ASKED)
        due = due_of(asked)[0]
        self.assertEqual((due.kind, due.day.isoformat()), (DueKind.RECHECK, "2026-03-05"))
        self.assertEqual(due.text, "Recheck by the customer")
        self.assertEqual(asked_of(asked)[1], ASKED)
        done = standing_with(ASKED, told(fridge="5 C"))
        self.assertEqual((due_of(done), asked_of(done)), ((), None))
        again = standing_with(ASKED, told(fridge="5 C"), replace(ASKED, day="2026-04-01"))
        self.assertEqual([each.day.isoformat() for each in due_of(again)], ["2026-04-01"])

    def test_one_said_when_the_call_ended_is_seen_to_by_a_recheck_told_since(self):
        end = Outcome("outcome", Result.REPAIRED, "Mended.", recheck_days=7)
        ended = standing_with(end)
        self.assertEqual([each.kind for each in due_of(ended)], [DueKind.RECHECK])
        self.assertEqual(due_of(ended)[0].day, (ended.effective[-1].entry.at + timedelta(days=7)).date())
        self.assertEqual(due_of(standing_with(end, told(fridge="5 C"))), ())
        self.assertEqual(len(due_of(standing_with(told(fridge="5 C"), end))), 1)

    def test_what_it_read_is_evidence(self):
        found = [item for item, _ in evidence_from(standing_with(told(freezer="-4 C")))]
        self.assertIn(Measured("freezer", -4.0), found)
