import math
from unittest import TestCase

from hypothesis import given
from hypothesis import strategies as st

from frostcore.curves.model import BetaCurve
from frostcore.curves.picture import draw
from frostcore.curves.verdict import Limits
from frostcore.degrees import in_degrees
from frostcore.errors import QuantityError
from frostcore.quantity import (
    Ambiguous,
    Dimension,
    Quantity,
    State,
    format_engineering,
    format_value,
    parse,
)


class TypedQuantities(TestCase):
    def test_resistances_are_understood_as_people_type_them(self):
        cases = {
            "2k7": 2700,
            "2.7k": 2700,
            "2,7k": 2700,
            "2700": 2700,
            "2.7 kΩ": 2700,
            "2.7 kohm": 2700,
            "2K7": 2700,
            "3M5": 3.5e6,
            "52": 52,
            "4R7": 4.7,
            "10 000": 10000,
            "1,000.5": 1000.5,
            "1.000,5": 1000.5,
            "0,500": 0.5,
            "12,5": 12.5,
            "1,000,000": 1e6,
        }
        for typed, ohms in cases.items():
            with self.subTest(typed):
                self.assertEqual(parse(typed, Dimension.RESISTANCE).value, ohms)

    def test_an_open_circuit_is_a_state_not_a_number(self):
        for typed in ("OL", "0L", "0.L", "ol", "open", "OPEN", "OL Ω", "∞", "no continuity"):
            with self.subTest(typed):
                understood = parse(typed, Dimension.RESISTANCE)
                self.assertEqual((understood.state, understood.value), (State.OPEN, None))

    def test_other_quantities_carry_their_units(self):
        cases = [
            ("231vac", Dimension.VOLTAGE, 231, "ac"),
            ("13.2 Vdc", Dimension.VOLTAGE, 13.2, "dc"),
            ("300mV", Dimension.VOLTAGE, 0.3, ""),
            ("-18C", Dimension.TEMPERATURE, -18, ""),
            ("41F", Dimension.TEMPERATURE, 5, ""),
            ("41 °F", Dimension.TEMPERATURE, 5, ""),
            ("−18 °C", Dimension.TEMPERATURE, -18, ""),
            ("1.8F", Dimension.TEMPERATURE_DIFFERENCE, 1, ""),
            ("10%", Dimension.FRACTION, 0.1, ""),
            ("15min", Dimension.DURATION, 900, ""),
            ("120mA", Dimension.CURRENT, 0.12, ""),
        ]
        for typed, dimension, value, kind in cases:
            with self.subTest(typed):
                understood = parse(typed, dimension)
                self.assertAlmostEqual(understood.value, value, places=12)
                self.assertEqual(understood.current_kind, kind)

    def test_what_is_ambiguous_is_asked_about_and_never_guessed(self):
        for typed, values in {
            "1,000": (1, 1000),
            "3.5m": (0.0035, 3.5e6),
            "10,000": (10, 10000),
            "1,000k": (1000, 1e6),
            "3m5": (0.0035, 3.5e6),
        }.items():
            with self.subTest(typed):
                understood = parse(typed, Dimension.RESISTANCE)
                self.assertIsInstance(understood, Ambiguous)
                self.assertEqual(tuple(choice.value for choice in understood.choices), values)
                for choice in understood.choices:
                    self.assertEqual(parse(choice.canonical, Dimension.RESISTANCE).value, choice.value)

    def test_nonsense_is_refused_with_what_to_type(self):
        for typed in ("", "banana", "2k7k", "--5", "1,2,3", "12 34", "k", "Ω", "-5", "1e5"):
            with self.subTest(typed), self.assertRaisesRegex(QuantityError, "2k7"):
                parse(typed, Dimension.RESISTANCE)

    def test_a_wrong_unit_is_named_for_what_it_is(self):
        with self.assertRaisesRegex(
            QuantityError, "“231vac” reads as a voltage; this field wants a resistance"
        ):
            parse("231vac", Dimension.RESISTANCE)

    def test_nothing_is_colder_than_absolute_zero(self):
        with self.assertRaisesRegex(QuantityError, "absolute zero"):
            parse("-300C", Dimension.TEMPERATURE)

    @given(st.integers(100, 999), st.integers(-2, 7))
    def test_what_is_formatted_is_parsed_back(self, mantissa, exponent):
        ohms = float(f"{mantissa}e{exponent - 2}")
        shown = format_engineering(ohms, "Ω")
        understood = parse(shown, Dimension.RESISTANCE)
        values = (
            [understood.value]
            if isinstance(understood, Quantity)
            else [choice.value for choice in understood.choices]
        )
        self.assertTrue(any(math.isclose(value, ohms, rel_tol=1e-12) for value in values), (shown, values))

    @given(
        st.floats(1e-6, 1e9, allow_nan=False),
        st.sampled_from([Dimension.RESISTANCE, Dimension.VOLTAGE, Dimension.POWER, Dimension.FREQUENCY]),
    )
    def test_canonical_text_is_read_back_exactly(self, value, dimension):
        self.assertEqual(parse(Quantity(dimension, value).canonical, dimension).value, value)

    @given(st.text(max_size=12))
    def test_any_text_is_understood_asked_about_or_refused(self, typed):
        for dimension in Dimension:
            try:
                understood = parse(typed, dimension)
            except QuantityError:
                continue
            self.assertIsInstance(understood, Quantity | Ambiguous)


class InFahrenheit(TestCase):
    """Where °F holds, temperatures are shown in it and a bare number is one; what is stored is the same."""

    def test_a_bare_number_is_understood_in_the_degrees_that_hold(self):
        with in_degrees("°F"):
            self.assertAlmostEqual(parse("41", Dimension.TEMPERATURE).value, 5.0)
            self.assertAlmostEqual(parse("0.9", Dimension.TEMPERATURE_DIFFERENCE).value, 0.5)
            self.assertEqual(parse("5C", Dimension.TEMPERATURE).value, 5.0)
            self.assertEqual(parse("2k7", Dimension.RESISTANCE).value, 2700)
        self.assertEqual(parse("41", Dimension.TEMPERATURE).value, 41.0)

    @given(st.floats(-60, 120))
    def test_what_is_shown_is_understood_again_as_the_same(self, celsius):
        for unit in ("°C", "°F"):
            with in_degrees(unit):
                shown = format_value(celsius, Dimension.TEMPERATURE)
                self.assertTrue(shown.endswith(unit))
                self.assertAlmostEqual(parse(shown, Dimension.TEMPERATURE).value, celsius, delta=0.06)

    def test_the_curve_s_axis_is_ticked_at_whole_tens_of_them(self):
        picture = draw(BetaCurve(5000, 3650), Limits())
        with in_degrees("°F"):
            other = draw(BetaCurve(5000, 3650), Limits())
        self.assertEqual((picture.unit, other.unit), ("°C", "°F"))
        places = {tick.label: tick.at for tick in picture.x_ticks}
        warm = {tick.label: tick.at for tick in other.x_ticks}
        self.assertIn("−40", places)
        self.assertAlmostEqual(places["−40"], warm["−40"], delta=0.1)  # where both are the same
        self.assertTrue(all(int(text.replace("−", "-")) % 20 == 0 for text in warm))
