"""What is learned of a unit on a call: on its own copy of the sheet, never on the kind's."""

from datetime import UTC, datetime, timedelta
from unittest import TestCase

from frostcore.circuit.kept import circuits_of
from frostcore.circuit.meter import MeterRange
from frostcore.diagnosis.behaviour import behaviour_of
from frostcore.diagnosis.evidence import Shown
from frostcore.diagnosis.from_tape import evidence_from, judgement_of
from frostcore.errors import TapeError
from frostcore.quantity import Dimension, parse
from frostcore.sheet.code_rules import choices, guessed
from frostcore.sheet.facts import named_after, with_code
from frostcore.sheet.load import dump, load
from frostcore.sheet.origin import Source
from frostcore.sheet.points import leads, plug_name, point_name, point_named
from frostcore.tape.entries import CallTaken, CodeSeen, Entry, PlateRead, ReadingTaken
from frostcore.tape.kinds import words_of
from frostcore.tape.learned import (
    CodeLearned,
    CurveLearned,
    PartLearned,
    PinSeen,
    PinsLearned,
    StatedLearned,
    ValueLearned,
)
from frostcore.tape.standing import stand
from frostcore.tape.take import Offered, Taken, take
from frostcore.tests.archetypes import kind
from frostcore.verdict import Verdict

START = datetime(2026, 11, 2, 9, tzinfo=UTC)
KIND = kind("kind-bottom-freezer")
FEED, RETURN = "DefrostHeater.1", "DefrostHeater.2"


def ohms(text):
    return parse(text, Dimension.RESISTANCE)


def standing(*bodies):
    entries = [
        Entry(str(number), START + timedelta(minutes=number), "m", body)
        for number, body in enumerate((CallTaken("call_taken", "warm"), *bodies))
    ]
    return stand(KIND, entries)


def offered(body):
    return Offered("x", START + timedelta(hours=1), "m", body)


PINS = PinsLearned("pins_learned", (PinSeen(FEED, "CN2-5", "brown"), PinSeen(RETURN, "CN2-6", "blue")))


WATTS = ValueLearned("value_learned", "defrost_heater", "watts", parse("200 W", Dimension.POWER))


def read(text, **told):
    return ReadingTaken(
        "reading",
        "ohm",
        ohms(text),
        FEED,
        RETURN,
        function="defrost_heater",
        mode="off_cold",
        pulled=(),
        **told,
    )


class Pins(TestCase):
    def test_pins_and_their_plug_are_called_as_printed_from_then_on(self):
        now = standing(PINS).sheet
        self.assertEqual(point_name(now, FEED), "CN2-5")
        self.assertEqual(leads(now, FEED, RETURN), "CN2-5 to CN2-6")
        self.assertEqual(plug_name(now, "DefrostHeater"), "CN2")
        self.assertEqual(point_named(now, "cn2-5"), FEED)
        self.assertEqual(now.wiring.leaving[FEED].colour, "brown")
        self.assertEqual(point_name(KIND, FEED), "defrost heater’s feed at the board")

    def test_names_change_nothing_that_is_worked_out(self):
        self.assertIs(circuits_of(standing(PINS).sheet), circuits_of(KIND))

    def test_one_print_is_not_at_two_pins(self):
        twice = PinsLearned("pins_learned", (PinSeen("CondenserFan.1", "CN2-5"),))
        with self.assertRaisesRegex(TapeError, "told already as the defrost heater’s feed"):
            take(standing(PINS), offered(twice))
        both = PinsLearned("pins_learned", (PinSeen(FEED, "CN2-5"), PinSeen(RETURN, "CN2-5")))
        with self.assertRaisesRegex(TapeError, "can’t be both pins"):
            take(standing(), offered(both))

    def test_a_slip_says_what_it_was_of(self):
        where = standing(PINS)
        said = words_of(where, where.slips[1])
        self.assertEqual(said.figure, "CN2-5 · CN2-6")
        self.assertIn("defrost heater’s feed: CN2-5, brown", said.detail)


class Values(TestCase):
    def test_a_reading_is_judged_by_what_is_printed_once_that_is_known(self):
        usual = standing(read("330")).judged(standing(read("330")).slips[1])
        self.assertIs(usual.verdict, Verdict.IN_BAND)
        self.assertIn("usual for its kind", usual.reason)
        told = standing(
            WATTS,
            read("330"),
        )
        found = told.judged(told.slips[2])
        self.assertIs(found.verdict, Verdict.HIGH)
        self.assertNotIn("usual", found.reason)

    def test_ohms_follow_from_watts_and_mains(self):
        plate = PlateRead("plate_read", "NX", mains_volts=120.0, mains_hertz=60.0)
        sheet = standing(plate, WATTS).sheet
        self.assertAlmostEqual(sheet.component("defrost_heater").nominal.ohms, 72.0)
        self.assertIs(sheet.source_of("components.defrost_heater.nominal.ohms"), Source.DERIVED)
        self.assertIs(sheet.source_of("components.defrost_heater.nominal.watts"), Source.PRINTED)

    def test_a_value_that_is_none_is_refused(self):
        with self.assertRaisesRegex(TapeError, "no value of a sound part"):
            take(standing(), offered(ValueLearned("value_learned", "defrost_heater", "ohms", ohms("OL"))))
        with self.assertRaisesRegex(TapeError, "no part"):
            take(standing(), offered(PartLearned("part_learned", "nothing", "1")))

    def test_a_sensors_curve_takes_the_place_of_the_usual_one(self):
        sheet = standing(CurveLearned("curve_learned", "fridge", ohms("5k"), 3900.0)).sheet
        self.assertAlmostEqual(sheet.curve(sheet.sensor("freezer")).ohms(25.0), 5000.0)
        self.assertLess(sheet.sensor("freezer").working_tolerance, 0.2)
        self.assertEqual(set(sheet.curves), {"as_read"})

    def test_a_stated_reading_beats_the_usual_one(self):
        stated = StatedLearned("stated_learned", FEED, RETURN, "ohm", ohms("200"), ohms("210"), "off_cold")
        where = standing(stated, read("240"))
        self.assertIs(where.judged(where.slips[2]).verdict, Verdict.HIGH)


class Codes(TestCase):
    def test_a_code_added_counts_as_seen_before(self):
        seen = CodeSeen("code_seen", "d3")
        where = standing(seen)
        self.assertEqual([item for item, _ in evidence_from(where)], [Shown(None)])
        code = CodeLearned("code_learned", "d3", "Defrost sensor open", "sensor_lost", "defrost")
        self.assertIsInstance(take(where, offered(code)), Taken)
        after = standing(seen, code)
        self.assertEqual([item for item, _ in evidence_from(after)], [Shown("d3")])
        self.assertEqual(judgement_of(after).suspects[0].unit, "defrost_sensor")

    def test_every_rule_raises_something_on_the_kinds_it_can_be_of(self):
        for identifier in ("kind-bottom-freezer", "kind-dual-evaporator"):
            sheet = kind(identifier)
            for number, (name, _) in enumerate(choices(sheet)):
                rule, _, of = name.partition(":")
                sheet = with_code(sheet, f"z{number}", "words", rule, of)
            for code, chance in behaviour_of(sheet).rules.items():
                self.assertGreater(chance.max(), 0.3, (identifier, code))

    def test_a_papers_words_tell_the_rule(self):
        dual = kind("kind-dual-evaporator")
        told = {
            "Freezer fan: no speed signal": "no_speed:freezer_fan",
            "Fridge sensor open or short circuit": "sensor_lost:fridge",
            "Kühlraumfühler Unterbrechung": "sensor_lost:fridge",
            "Verbindung zum Inverter: keine Antwort": "no_answer:inverter",
            "The weather": "",
        }
        for words, rule in told.items():
            self.assertEqual(guessed(dual, words), rule, words)
        self.assertEqual(guessed(KIND, "Defrost did not end in time"), "defrost_by_time:defrost")
        self.assertEqual(guessed(KIND, "Defrost sensor open"), "sensor_lost:defrost")


class Kept(TestCase):
    def test_what_was_learned_makes_a_sheet_that_can_be_published(self):
        learned = standing(
            PlateRead("plate_read", "Norwick NX-300", mains_volts=120.0, mains_hertz=60.0),
            PINS,
            WATTS,
            CodeLearned("code_learned", "d3", "Defrost sensor open", "sensor_lost", "defrost"),
            CurveLearned("curve_learned", "fridge", ohms("5k")),
        ).sheet
        mine = named_after(learned, "norwick-nx-300", "Norwick", "NX-300")
        self.assertFalse(mine.generic)
        self.assertEqual(mine.title, "Norwick NX-300")
        back = load(dump(mine)).sheet
        self.assertEqual(back, mine)
        self.assertEqual(point_name(back, FEED), "CN2-5")
        self.assertEqual(back.usual("compressor"), "usual for its kind")
        self.assertEqual(back.usual("defrost_heater"), "")
        reading = circuits_of(back).reading("off_cold", MeterRange.OHM, FEED, RETURN)
        self.assertAlmostEqual(reading.value, 72.0, delta=0.5)
