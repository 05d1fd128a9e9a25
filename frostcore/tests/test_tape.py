from dataclasses import replace
from datetime import UTC, datetime, timedelta
from unittest import TestCase

from frostcore.diagnosis.step import next_step
from frostcore.errors import SheetError, TapeError
from frostcore.quantity import Dimension, parse
from frostcore.report.handover import handover
from frostcore.tape.entries import (
    CallTaken,
    CodeSeen,
    Entry,
    ModeSet,
    Observed,
    Outcome,
    PlateRead,
    PlugMoved,
    Power,
    PowerSet,
    ReadingTaken,
    Result,
    StepDone,
    TemperatureTaken,
    Withdrawn,
    body_from_document,
    body_to_document,
)
from frostcore.tape.kinds import words_of
from frostcore.tape.stages import Stage
from frostcore.tape.standing import plate_differences, stand, suspect_sensors
from frostcore.tape.take import Answers, Asked, Offered, question_id, questions_about, take
from frostcore.tests.test_display import TARNBECK

START = datetime(2026, 11, 2, 9, 0, tzinfo=UTC)
CALL = CallTaken("call_taken", "It says E5", supply_history=("surge",))
PLATE = PlateRead("plate_read", "TB-34/2", "1", 230, 50, "R600a")
LOOKS = [
    Observed("observed", look, answer)
    for look, answer in (
        ("display", "code"),
        ("evaporator_fan", "runs"),
        ("compressor", "runs_hot"),
        ("frost", "even"),
    )
]
UNPLUGGED, LIVE = PowerSet("power_set", "unplugged"), PowerSet("power_set", "live")


def reading(typed="26k", temperature="0C", sensor="defrost"):
    return ReadingTaken(
        "reading",
        "ohm",
        parse(typed, Dimension.RESISTANCE),
        sensor=sensor,
        temperature=parse(temperature, Dimension.TEMPERATURE),
    )


def tape(*bodies):
    """Entries numbered from 0; a (body, n) pair supersedes entry n."""
    entries = []
    for number, given in enumerate(bodies):
        body, supersedes = given if isinstance(given, tuple) else (given, "")
        entries.append(Entry(str(number), START + timedelta(minutes=number), "Maren", body, str(supersedes)))
    return entries


def standing(*bodies):
    return stand(TARNBECK, tape(*bodies))


def record(*bodies, sheet=TARNBECK, **answers):
    """The tape after each of these was taken, one after the other; raises what the first refused raises."""
    entries = []
    for entry in tape(*bodies):
        offered = Offered(entry.id, entry.at, entry.by, entry.body, entry.supersedes)
        found = take(stand(sheet, entries), offered, Answers(**answers))
        if isinstance(found, Asked):
            return found
        entries += [replace(entry, id=f"{entry.id}<", body=body) for body in found.bodies[:-1]]
        entries.append(replace(entry, body=found.bodies[-1]))
    return stand(sheet, entries)


class Replay(TestCase):
    def test_a_call_is_taken_once_and_its_correction_stands_where_it_was_made(self):
        with self.assertRaisesRegex(TapeError, "taken already"):
            record(CALL, UNPLUGGED, replace(CALL, complaint="It is warm"))
        where = standing(CALL, UNPLUGGED, (replace(CALL, complaint="It is warm"), "0"))
        self.assertEqual([slip.entry.id for slip in where.slips], ["0", "1", "2"])
        self.assertEqual(where.call.complaint, "It is warm")

    def test_a_correction_supersedes_and_the_old_slip_stays_to_be_seen(self):
        where = standing(CALL, UNPLUGGED, reading("26"), (reading("26k"), 2))
        self.assertEqual(len(where.slips), 4)
        self.assertEqual(where.slips[2].superseded_by, "3")
        self.assertEqual(
            [verdict.verdict for _, verdict in where.readings_of(TARNBECK.sensor("defrost"))], ["high"]
        )

    def test_a_corrected_power_state_counts_from_where_the_wrong_one_stood(self):
        where = standing(CALL, LIVE, reading(), (UNPLUGGED, 1))
        self.assertIs(where.slips[2].power, Power.UNPLUGGED)

    def test_what_is_taken_back_no_longer_counts(self):
        where = standing(CALL, CodeSeen("code_seen", "E5", "E5"), (Withdrawn("withdrawn", "misread"), 1))
        self.assertEqual(where.codes, ())
        self.assertEqual(len(where.slips), 3)

    def test_slips_that_do_not_fit_are_refused(self):
        cases = {
            "not on this call's tape": [CALL, (reading(), 5)],
            "newest version": [CALL, reading("26k"), (reading("26.1k"), 1), (reading("27k"), 1)],
            "of its own kind": [CALL, reading(), (UNPLUGGED, 1)],
            "can't be taken back": [CALL, (Withdrawn("withdrawn", "x"), 0)],
            "call is closed": [CALL, Outcome("outcome", Result.STOPPED, ""), UNPLUGGED],
            "no part “ghost”": [CALL, Outcome("outcome", Result.STOPPED, "", "ghost")],
            "There is no 'attic'": [
                CALL,
                TemperatureTaken("temperature_taken", "attic", parse("4C", Dimension.TEMPERATURE)),
            ],
            "There is no 'ghost'": [CALL, reading(sensor="ghost")],
        }
        for text, bodies in cases.items():
            with self.subTest(text), self.assertRaisesRegex(TapeError, text):
                record(*bodies, power="unplugged")
        with self.assertRaisesRegex(TapeError, "already on the tape"):
            take(standing(CALL), Offered("0", START, "m", UNPLUGGED))

    def test_taking_back_the_outcome_opens_the_call_again(self):
        where = standing(
            CALL, Outcome("outcome", Result.STOPPED, ""), (Withdrawn("withdrawn", "goes on"), 1), UNPLUGGED
        )
        self.assertIsNone(where.outcome)

    def test_every_kind_of_body_survives_its_document(self):
        for body in (
            CALL,
            PLATE,
            UNPLUGGED,
            *LOOKS,
            CodeSeen("code_seen", "E5"),
            reading("OL"),
            reading(),
            Outcome("outcome", Result.REPAIRED, "done", "board", ("cycled_off",), 14),
        ):
            self.assertEqual(body_from_document(body_to_document(body)), body)
        with self.assertRaisesRegex(SheetError, "body.kind"):
            body_from_document({"kind": "wish"})


class Questions(TestCase):
    def ids(self, *bodies, body):
        return [question_id(question) for question in questions_about(standing(*bodies).now, body)]

    def test_ohms_in_a_live_unit_are_questioned(self):
        self.assertEqual(self.ids(CALL, LIVE, body=reading("15k3")), ["ohms_live:power"])
        self.assertEqual(self.ids(CALL, body=reading("15k3")), ["ohms_power_unknown:power"])
        self.assertEqual(self.ids(CALL, UNPLUGGED, body=reading("15k3")), [])

    def test_acts_against_the_plug_are_questioned(self):
        """A mode that runs while the plug is out, a cover or a connector while it is in, the plug put in with
        a place open; what goes with the plug is not, nor drawers, nor what is answered already."""
        off, out = StepDone("step_done", "board_bay", 1, "opened"), PlugMoved("plug_moved", "CN7", "pulled")
        drawers = StepDone("step_done", "evaporator", 0, "opened")
        back = StepDone("step_done", "board_bay", 1, "closed")
        defrost, cold = (ModeSet("mode_set", name) for name in ("defrost", "off_cold"))
        left = ModeSet("mode_set", "defrost", "left")
        for taken, body, asked in (
            ((UNPLUGGED,), defrost, "mode_unplugged:power"),
            ((), defrost, "mode_unplugged:power"),
            ((LIVE,), defrost, ""),
            ((UNPLUGGED,), left, ""),
            ((UNPLUGGED,), cold, ""),
            ((LIVE,), off, "open_live:power"),
            ((), off, "open_power_unknown:power"),
            ((UNPLUGGED,), off, ""),
            ((LIVE,), drawers, ""),
            ((LIVE,), back, ""),
            ((LIVE,), out, "plug_live:power"),
            ((LIVE,), replace(out, state="plugged"), "plug_live:power"),
            ((UNPLUGGED,), out, ""),
            ((UNPLUGGED, off), LIVE, "live_open"),
            ((UNPLUGGED, drawers), LIVE, ""),
            ((UNPLUGGED, off, back), LIVE, ""),
            ((UNPLUGGED, off), UNPLUGGED, ""),
        ):
            with self.subTest(taken=taken, body=body):
                self.assertEqual(self.ids(CALL, *taken, body=body), [asked] if asked else [])
                where = standing(CALL, *taken)
                self.assertEqual(questions_about(where.now, body, (asked,)), ())

    def test_what_arrives_after_another_of_the_same_thing_was_made_is_asked_about(self):
        """Made before it and saying something else; not where it says the same, is of another thing, or is
        the later one."""
        fan = Observed("observed", "evaporator_fan", "runs")
        where = standing(CALL, UNPLUGGED, fan)
        for body, minutes, asked in (
            (replace(fan, answer="still"), -1, True),
            (replace(fan, answer="still"), 30, False),
            (fan, -1, False),
            (replace(fan, look="compressor", answer="still_cold"), -1, False),
            (LIVE, -2, True),
            (UNPLUGGED, -2, False),
        ):
            with self.subTest(body=body, minutes=minutes):
                at = where.tape[-1].at + timedelta(minutes=minutes)
                offered = Offered("late", at, "n", body)
                found = take(where, offered)
                self.assertEqual(isinstance(found, Asked), asked)
                if asked:
                    self.assertEqual([question_id(each) for each in found.questions], ["meanwhile:made_at"])
                    kept = Answers(kept=("meanwhile:made_at",))
                    self.assertNotIsInstance(take(where, offered, kept), Asked)

    def test_a_unit_slip_is_asked_once(self):
        where = standing(CALL, UNPLUGGED)
        (question,) = questions_about(where.now, reading("15.3"))
        self.assertEqual(
            questions_about(where.now, replace(reading("15.3"), kept=(question_id(question),))), ()
        )


class TheNextStep(TestCase):
    def test_it_follows_the_order_of_work(self):
        """The call, the plate, the plug; then what the judgement asks for, looks first, opened last."""
        bodies = [CALL]
        for body, stage in ((PLATE, Stage.CALL), (UNPLUGGED, Stage.LOOK)):
            self.assertIs(next_step(standing(*bodies)).stage, stage)
            bodies.append(body)
        self.assertIs(next_step(standing(*bodies)).stage, Stage.LOOK)
        bodies += LOOKS
        self.assertIs(next_step(standing(*bodies)).stage, Stage.DECODE)
        bodies.append(CodeSeen("code_seen", "E5", "E5"))
        step = next_step(standing(*bodies))
        self.assertTrue(step.act and step.why and step.minutes, step)
        closed = next_step(standing(*bodies, Outcome("outcome", Result.STOPPED, "")))
        self.assertIs(closed.stage, Stage.HANDOVER)

    def test_a_sensor_that_reads_open_is_told_apart_from_its_lead(self):
        """Open at the board: sensor, lead or plug; the act parts them, each outcome named."""
        bodies = (CALL, PLATE, UNPLUGGED, *LOOKS, CodeSeen("code_seen", "E3", "E3"), reading("OL"))
        step = next_step(standing(*bodies))
        self.assertIs(step.stage, Stage.TRACE)
        self.assertIn("defrost sensor", f"{step.act} {step.why}".lower())
        self.assertTrue(any("Open: " in line for line in step.how), step)

    def test_the_sensor_a_code_watches_comes_first(self):
        self.assertEqual(
            suspect_sensors(standing(CALL, CodeSeen("code_seen", "E2", "E2")))[0][0].id, "freezer"
        )


class PlateAndReport(TestCase):
    def test_a_plate_that_differs_from_the_sheet_is_told(self):
        self.assertEqual(plate_differences(standing(CALL, PLATE)), ())
        found = plate_differences(standing(CALL, PlateRead("plate_read", "XX-9", "", 120, 60, "R134a")))
        self.assertEqual(
            [line.split(":")[0] for line in found], ["mains", "frequency", "refrigerant", "model"]
        )

    def test_the_report_says_what_was_found_done_and_not_proven(self):
        warm = TemperatureTaken("temperature_taken", "freezer", parse("-5C", Dimension.TEMPERATURE))
        report = handover(
            standing(
                CALL,
                PLATE,
                UNPLUGGED,
                *LOOKS,
                warm,
                CodeSeen("code_seen", "E5", "E5"),
                reading(),
                Outcome("outcome", Result.REPAIRED, "Sensor replaced.", "defrost_sensor", (), 14),
            )
        )
        self.assertTrue(any("defrost sensor does not rise above 8 °C" in line for line in report.found))
        self.assertIn("Cause: Defrost sensor.", report.found)
        self.assertIn("cycle off", report.unproven)
        self.assertTrue(any("discarded" in line for line in report.advice))
        self.assertEqual([item.verdict for item in report.readings], ["high"])
        self.assertEqual(report.recheck.date(), (START + timedelta(days=14)).date())

    def test_every_slip_has_words(self):
        where = standing(
            CALL,
            PLATE,
            UNPLUGGED,
            *LOOKS,
            CodeSeen("code_seen", "E5", "E5"),
            reading("OL"),
            (Withdrawn("withdrawn", "wrong pin"), 8),
        )
        for slip in where.slips:
            self.assertTrue(words_of(where, slip).title)
