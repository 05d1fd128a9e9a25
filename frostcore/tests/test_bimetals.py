"""A bimetal has one physics: the quick check, the meter foretold, the trace and the tape tell the same."""

from unittest import TestCase

from hypothesis import given
from hypothesis import strategies as st

from frostcore.circuit.element import CircuitError
from frostcore.circuit.kept import circuits_of
from frostcore.circuit.meter import MeterRange
from frostcore.circuit.trace import verdict_of
from frostcore.faults.known import broken
from frostcore.parts.thermostat import ContactKind, Rating, judge_contact
from frostcore.quantity import Dimension, parse
from frostcore.sheet.load import load
from frostcore.tape.entries import ReadingTaken, TemperatureTaken
from frostcore.tape.moment import Moment
from frostcore.tape.reading import judge_reading
from frostcore.tests.demo_sheets import PATHS

SHEET = load(next(path for path in PATHS if path.stem == "tarnbeck-tb-34").read_text(encoding="utf-8")).sheet
"""Its bimetal opens at 12 °C and closes at −5 °C; the heater's loop from CN2.5 to CN2.6 has 240 Ω."""

LOOP = ("CN2.5", "CN2.6")


def ohms(text):
    return parse(text, Dimension.RESISTANCE)


def foretold(celsius, mode="off_cold", meter=MeterRange.OHM):
    return circuits_of(SHEET).reading(mode, meter, *LOOP, celsius=(("evaporator", celsius),))


class Bimetals(TestCase):
    @given(st.integers(-40, 60))
    def test_the_circuit_stands_as_the_quick_check_says(self, celsius):
        expected = judge_contact(ContactKind.BIMETAL, Rating(12, 17, "°C"), celsius, ohms("0.2")).expected
        reading = foretold(celsius)
        found = "either" if reading.ways else "open" if reading.value is None else "closed"
        self.assertEqual(found, expected)

    def test_between_its_temperatures_either_reading_fits_and_only_the_open_one_proves_nothing(self):
        reading = foretold(0)
        self.assertEqual(reading.words, "240 Ω (221 Ω to 260 Ω) or OL (defrost bimetal open)")
        self.assertIn("may stand open or closed", reading.why)
        for shown, verdict in (("240", "in_band"), ("OL", "unclear"), ("120", "low"), ("400", "high")):
            self.assertEqual(verdict_of(reading, ohms(shown)), verdict, shown)

    def test_what_the_thermometer_says_decides_before_what_the_mode_says(self):
        self.assertEqual(verdict_of(foretold(-22), ohms("OL")), "open")
        self.assertEqual(verdict_of(foretold(20), ohms("OL")), "in_band")
        self.assertEqual(verdict_of(foretold(20), ohms("240")), "low")

    def test_a_bimetal_that_is_stuck_stands_one_way(self):
        for fault, value in (("bimetal:stuck_open", None), ("bimetal:welded", 240)):
            settled = broken(SHEET, "off_warm", [fault], live=False, celsius=(("evaporator", 0.0),))
            self.assertEqual(settled.others, (), fault)
            self.assertEqual(settled.circuit.branch("bimetal").start, "open" if value is None else "closed")

    def test_live_too_it_may_stand_either_way(self):
        live = foretold(0, "defrost", MeterRange.VAC)
        self.assertEqual([way.words for way in live.ways], [])  # the board's output is live either way
        path = circuits_of(SHEET).trace("defrost_heater", "defrost", celsius=(("evaporator", 0.0),))
        told = {point.label: [way.words for way in point.reading.ways] for point in path.points}
        beyond = next(label for label in told if label.startswith("defrost_heater.") or told[label])
        self.assertTrue(told[beyond], told)

    def test_a_place_the_sheet_has_not_is_refused(self):
        with self.assertRaisesRegex(CircuitError, "no place “attic”"):
            circuits_of(SHEET).scene("off_cold", live=False, celsius=(("attic", 3.0),))


class OnTheTape(TestCase):
    def judged(self, celsius, shown, place="freezer", **also):
        moment = Moment(SHEET, power="unplugged", mode="off_cold")
        if celsius:
            taken = TemperatureTaken("temperature_taken", place, parse(celsius, Dimension.TEMPERATURE))
            moment = moment.after(taken, {})
        reading = ReadingTaken("reading", "ohm", ohms(shown), *LOOP, pulled=("CN2",), **also)
        return judge_reading(moment, reading)

    def test_a_good_bimetal_is_not_condemned_in_a_warm_unit(self):
        """Said to be cold, the unit would have a bimetal that is closed; the thermometer says otherwise."""
        self.assertEqual(self.judged("", "OL").verdict, "open")
        self.assertEqual(self.judged("24C", "OL").verdict, "in_band")
        doubtful = self.judged("14C", "OL")
        self.assertEqual(doubtful.verdict, "unclear")
        self.assertIn("chill it", doubtful.reason)
        self.assertEqual(self.judged("14C", "240").verdict, "in_band")
        self.assertEqual(self.judged("-18C", "OL").verdict, "open")

    def test_the_temperature_typed_with_the_reading_counts_most(self):
        warm = parse("21C", Dimension.TEMPERATURE)
        self.assertEqual(self.judged("-18C", "OL", temperature=warm).verdict, "in_band")
        self.assertEqual(self.judged("-18C", "OL", place="fridge").verdict, "open")
