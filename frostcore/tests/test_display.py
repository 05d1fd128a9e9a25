from unittest import TestCase

from hypothesis import given
from hypothesis import strategies as st

from frostcore.display.condition import describe
from frostcore.display.decode import decode, read_blinks, same_text_elsewhere
from frostcore.display.segments import CHARACTERS, looks_apart
from frostcore.errors import FrostError
from frostcore.sheet.load import load
from frostcore.tests.test_sheet import TEXTS

SHEETS = {name: load(text).sheet for name, text in TEXTS.items()}
TARNBECK, SKERROW, ONDREL = SHEETS["tarnbeck-tb-34"], SHEETS["skerrow-sk-48"], SHEETS["ondrel-or-620"]


def found(sheet, typed):
    return [(match.code.id, match.exact) for match in decode(sheet, typed)]


class Decoding(TestCase):
    def test_a_code_is_found_exactly_with_what_stands_near_it_behind(self):
        matches = decode(TARNBECK, "E5")
        self.assertEqual((matches[0].code.id, matches[0].distance), ("E5", 0))
        self.assertTrue(all(match.distance > 0 for match in matches[1:]))

    def test_case_and_spaces_do_not_hide_a_code(self):
        for typed in ("e5", " E 5 ", "E.5"):
            self.assertEqual(found(TARNBECK, typed)[0], ("E5", True))

    def test_a_misread_character_still_finds_its_code_by_the_segments_it_shares(self):
        self.assertEqual(
            found(TARNBECK, "E6")[0][0], "E8" if looks_apart("8", "6") < looks_apart("5", "6") else "E5"
        )
        self.assertEqual(found(TARNBECK, "ES")[0], ("E5", False))
        self.assertEqual(found(ONDREL, "07")[0], ("o7", False))

    def test_nothing_like_it_finds_nothing_and_nothing_typed_is_an_error(self):
        self.assertEqual(found(TARNBECK, "77777"), [])
        with self.assertRaisesRegex(FrostError, "Type what the display shows"):
            decode(TARNBECK, "  ")

    def test_blinks_are_counted_or_spelled(self):
        for typed, code in {
            "3": "B3",
            "3 blinks": "B3",
            "2-1": "B21",
            "2 long": "L2",
            "ll": "L2",
            "sss": "B3",
        }.items():
            with self.subTest(typed):
                self.assertEqual(found(SKERROW, typed)[0], (code, True))

    def test_a_count_that_is_one_off_is_only_a_near_match(self):
        self.assertIn(("B4", False), found(SKERROW, "3"))

    def test_a_bare_count_takes_short_blinks_before_long(self):
        self.assertEqual(found(SKERROW, "2")[:2], [("B2", True), ("L2", False)])

    def test_frames_that_alternate_are_one_code(self):
        self.assertEqual(found(ONDREL, "u6 --")[0], ("u6", True))

    def test_the_same_text_on_other_units_is_told(self):
        others = same_text_elsewhere(SHEETS.values(), SHEETS["calvane-cv-24"], "2")
        self.assertIn(("Skerrow SK-48", "B2"), [(sheet.title, code.id) for sheet, code in others])

    @given(st.text(max_size=8))
    def test_any_text_gives_matches_in_order_of_distance(self, typed):
        for sheet in SHEETS.values():
            try:
                distances = [match.distance for match in decode(sheet, typed)]
            except FrostError:
                continue
            self.assertEqual(distances, sorted(distances))

    @given(st.sampled_from(sorted(CHARACTERS)), st.sampled_from(sorted(CHARACTERS)))
    def test_looking_apart_is_symmetric_and_zero_only_for_itself(self, one, other):
        self.assertEqual(looks_apart(one, other), looks_apart(other, one))
        self.assertEqual(looks_apart(one, other) == 0, one == other)

    def test_unreadable_blinks_are_none(self):
        self.assertIsNone(read_blinks("E4"))
        self.assertIsNone(read_blinks("0"))


class Conditions(TestCase):
    def test_the_structured_rule_is_told_in_words(self):
        self.assertEqual(
            describe(TARNBECK, TARNBECK.code("E5").condition),
            "defrost sensor does not rise above 8 °C within 40 min, in forced defrost",
        )
        self.assertEqual(
            describe(TARNBECK, TARNBECK.code("E1").condition),
            "fridge sensor reads open or fridge sensor reads short",
        )
        self.assertEqual(
            describe(SKERROW, SKERROW.code("B21").condition), "cabinet fan stays above 0.35 A for 3 s"
        )
