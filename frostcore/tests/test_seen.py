import random
from unittest import TestCase

from hypothesis import given
from hypothesis import strategies as st

from frostcore.display.frames import decode_frames, nearest_text, read_frames
from frostcore.display.pad import lay_out_pad
from frostcore.display.rhythm import Tap, find_rhythm, read_taps
from frostcore.display.search import search
from frostcore.errors import FrostError
from frostcore.tests.test_display import ONDREL, SHEETS, TARNBECK


def taps(pattern, repeats=3, jitter=0.1, missed=None, doubled=None, held=False, seed=0):
    """A lamp's blinks tapped along: each start off by up to ``jitter`` of a short blink's period, each
    length by half that."""
    rng, now, times = random.Random(seed), 0.0, []
    for _ in range(repeats):
        for group in pattern:
            for letter in group:
                lit = 0.8 if letter == "l" else 0.25
                start = now + rng.uniform(-1, 1) * jitter * 0.55
                times.append((start, start + lit * (1 + rng.uniform(-1, 1) * jitter / 2)))
                now += lit + 0.3
            now += 0.6
        now += 1.4
    if missed is not None:
        times.pop(missed)
    if doubled is not None:
        times.insert(doubled + 1, (times[doubled][0] + 0.08, times[doubled][1] + 0.02))
    return tuple(Tap(start, end if held else None) for start, end in times)


def write_frames(frames):
    """Frames as the pad writes them."""
    return " / ".join("".join(f"[{''.join(sorted(digit))}]" for digit in frame) for frame in frames)


class Frames(TestCase):
    def first(self, sheet, text):
        return decode_frames(sheet, read_frames(text))[0]

    def test_segments_as_seen_give_the_code(self):
        self.assertEqual(
            (self.first(TARNBECK, "[adefg][acdfg]").code.id, self.first(TARNBECK, "E5").distance), ("E5", 0)
        )

    def test_a_segment_dark_in_every_frame_is_probably_dead_and_the_display_a_suspect(self):
        match = self.first(TARNBECK, "E[acfg] / E[acfg]")
        self.assertEqual((match.code.id, match.dead, match.stuck), ("E5", ((2, "d"),), ()))
        self.assertIn("segment d of digit 2 looks dead", match.display_suspect)

    def test_a_segment_that_lights_in_another_frame_is_not_dead(self):
        one, other = (self.first(TARNBECK, text) for text in ("E[acfg]", "E[acfg] / --"))
        self.assertEqual(one.code.id, "E5")
        self.assertEqual(other.dead, ((2, "d"),))
        self.assertGreater(
            decode_frames(TARNBECK, read_frames("E[acfg] / 8[abcdefg]"))[0].distance, one.distance
        )

    def test_a_dead_segment_makes_an_eight_a_nine_and_both_are_offered(self):
        self.assertIn("E8", [match.code.id for match in decode_frames(TARNBECK, read_frames("E[abcdfg]"))])

    def test_frames_that_belong_together_are_one_code_and_a_missing_one_costs(self):
        both, half = self.first(ONDREL, "u6 / --"), self.first(ONDREL, "u6")
        self.assertEqual((both.code.id, both.distance), ("u6", 0))
        self.assertEqual(half.code.id, "u6")
        self.assertGreater(half.distance, 0)

    def test_a_code_that_alternates_with_the_temperature_is_still_found(self):
        self.assertEqual(self.first(TARNBECK, "E5 / 4").code.id, "E5")

    @given(
        st.lists(
            st.lists(st.sets(st.sampled_from("abcdefg")), min_size=1, max_size=3), min_size=1, max_size=3
        )
    )
    def test_any_frames_are_written_read_and_matched_in_order(self, drawn):
        frames = tuple(tuple(frozenset(digit) for digit in frame) for frame in drawn)
        self.assertEqual(read_frames(write_frames(frames)), frames)
        for sheet in SHEETS.values():
            distances = [match.distance for match in decode_frames(sheet, frames)]
            self.assertEqual(distances, sorted(distances))

    def test_the_tape_gets_the_nearest_characters(self):
        self.assertEqual(nearest_text(read_frames("[adefg][acdfg] / [g][g]")), "E5 / --")

    def test_what_is_no_frame_is_refused(self):
        for text in ("", " / ", "[xyz]", "E[ab", "Ж"):
            with self.subTest(text), self.assertRaises(FrostError):
                read_frames(text)


class Rhythms(TestCase):
    @given(
        st.sampled_from([("ss",), ("sss",), ("ssss",), ("ss", "s"), ("s", "sss"), ("sssss", "ss")]),
        st.integers(0, 99),
        st.data(),
    )
    def test_ten_percent_of_jitter_and_one_missed_tap_in_three_repeats_are_read_right(
        self, pattern, seed, data
    ):
        missed = data.draw(st.none() | st.integers(0, 3 * sum(map(len, pattern)) - 1))
        found = find_rhythm(taps(pattern, missed=missed, seed=seed))
        self.assertEqual([len(group) for group in found.groups], [len(group) for group in pattern])

    @given(st.sampled_from([("ll",), ("sl",), ("ls", "s"), ("ssl", "l"), ("sss",)]), st.integers(0, 99))
    def test_held_taps_tell_short_from_long(self, pattern, seed):
        self.assertEqual(find_rhythm(taps(pattern, held=True, seed=seed)).groups, pattern)

    @given(st.sampled_from([("ss",), ("sss",), ("ss", "s")]), st.integers(0, 99), st.data())
    def test_a_doubled_tap_does_no_harm(self, pattern, seed, data):
        doubled = data.draw(st.integers(0, 3 * sum(map(len, pattern)) - 1))
        self.assertEqual(
            [len(group) for group in find_rhythm(taps(pattern, doubled=doubled, seed=seed)).groups],
            [len(group) for group in pattern],
        )

    def test_one_repeat_is_read_but_said_to_be_weak(self):
        self.assertIn("three repeats", find_rhythm(taps(("sss",), repeats=1)).text)

    def test_the_replay_shows_the_pattern_with_long_longer_than_short(self):
        times = find_rhythm(taps(("sl", "s"), held=True)).replay()
        lengths = [round(off - on, 2) for on, off in times]
        self.assertEqual(lengths, [0.25, 0.8, 0.25])
        self.assertGreater(times[2][0] - times[1][1], times[1][0] - times[0][1])

    def test_what_is_no_rhythm_is_refused(self):
        for text in ("", "a,b", "3,2,1", "nan", "0-inf,1-2", "0-nan,1-2"):
            with self.subTest(text), self.assertRaises(FrostError):
                find_rhythm(read_taps(text))


class Searching(TestCase):
    def found(self, typed):
        return [
            (item.sheet.title, item.code.id if item.code else "") for item in search(SHEETS.values(), typed)
        ]

    def test_by_code_by_condition_and_by_model_as_printed(self):
        self.assertEqual(self.found("E5")[0], ("Tarnbeck TB-34", "E5"))
        self.assertIn(("Tarnbeck TB-34", "E5"), self.found("defrost sensor stays cold too long"))
        self.assertEqual(self.found("freezer too warm")[0], ("Tarnbeck TB-34", "E8"))
        self.assertEqual(self.found("or620f")[0], ("Ondrel OR-620", ""))
        self.assertEqual(self.found("TB 34/2")[0], ("Tarnbeck TB-34", ""))

    def test_nothing_typed_or_nothing_like_it_finds_nothing(self):
        self.assertEqual((self.found(" "), self.found("zzzz qqqq")), ([], []))


class ThePad(TestCase):
    def test_every_segment_of_every_digit_is_there_once_and_on_the_pad(self):
        pad = lay_out_pad(read_frames("8[]")[0], 2)
        self.assertEqual(len({(segment.digit, segment.letter) for segment in pad.segments}), 14)
        self.assertEqual(sum(segment.lit for segment in pad.segments), 7)
        for segment in pad.segments:
            for corner in segment.points.split():
                x, y = map(float, corner.split(","))
                self.assertTrue(0 <= x <= pad.width and 0 <= y <= pad.height)
