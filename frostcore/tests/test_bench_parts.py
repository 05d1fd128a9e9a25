"""Capacitors by what is read, what stands in for a board's part, two boards side by side."""

import contextlib
import io
import json
import math
import tempfile
from dataclasses import replace
from pathlib import Path
from unittest import TestCase

from hypothesis import given
from hypothesis import strategies as st

from frostcore.door import main
from frostcore.errors import FrostError, SheetError
from frostcore.parts.capacitor import (
    Family,
    Health,
    Look,
    Rating,
    Seen,
    high_ohms,
    judge_capacitor,
    limit_ohms,
    tan_delta,
    warmth,
)
from frostcore.parts.drawer import part_of, place_of, read_drawer, write_drawer
from frostcore.parts.substitute import (
    NAMES,
    Answer,
    Kind,
    Place,
    SmallPart,
    asked_of,
    substitutes,
)
from frostcore.parts.twin import differences, read_twin

ROOT = Path(__file__).resolve().parents[2]
RAIL = Rating(470e-6, 25.0, Family.LOW)
BULK = Rating(22e-6, 400.0)


class Capacitor(TestCase):
    def test_limits_by_hand(self):
        # tan δ 0.15 at 120 Hz: 0.15/(2π·120·470 µF) = 0.423 Ω; 22 µF and 400 V: 0.22/(2π·120·22 µF) = 13.3 Ω.
        self.assertAlmostEqual(tan_delta(RAIL), 0.15)
        self.assertAlmostEqual(limit_ohms(RAIL, Family.LOW, 120.0), 0.4233, places=3)
        self.assertAlmostEqual(limit_ohms(BULK, Family.STANDARD, 120.0), 13.26, places=2)
        self.assertAlmostEqual(tan_delta(Rating(4700e-6, 16.0)), 0.18 + 0.02 * 3.7)
        # 10 × 16 mm are 1.257 cm³: 0.063·1.257^−1.14 = 0.0486 Ω; four times that of a standard family.
        can = replace(RAIL, diameter_mm=10, height_mm=16)
        self.assertAlmostEqual(high_ohms(can, Family.LOW), 0.04856, places=4)
        self.assertAlmostEqual(high_ohms(can, Family.STANDARD), 0.1942, places=4)
        self.assertAlmostEqual(high_ohms(BULK, Family.LOW), 3.0)

    def test_the_two_resistances_are_never_mixed(self):
        for rating in (RAIL, BULK, Rating(100e-6, 35.0)):
            line, high = (limit_ohms(rating, Family.LOW, hertz) for hertz in (120.0, 100e3))
            self.assertGreater(line, high)
        self.assertIs(judge_capacitor(BULK, Seen(9.0, 120.0)).health, Health.GOOD)
        self.assertIs(judge_capacitor(BULK, Seen(9.0, 100e3)).health, Health.TIRED)

    def test_an_electrolyte_over_temperature_stays_within_what_is_known_of_it(self):
        for celsius, low, high in ((-20, 2.9, 4.7), (0, 1.7, 2.2), (60, 0.40, 0.53)):
            self.assertTrue(low <= warmth(celsius) <= high, celsius)
        self.assertAlmostEqual(warmth(25), 1.0)

    def test_health_by_ohms(self):
        big = Rating(100e-6, 35.0, Family.LOW)
        limit = high_ohms(big, Family.LOW)
        for times, health in ((0.55, Health.GOOD), (2.2, Health.TIRED), (8.0, Health.BAD)):
            self.assertIs(judge_capacitor(big, Seen(times * limit)).health, health, times)

    def test_under_a_tenth_of_an_ohm_a_tired_one_can_t_be_told(self):
        found = judge_capacitor(RAIL, Seen(0.03))
        self.assertIs(found.health, Health.UNCLEAR)
        self.assertIn("can’t tell", found.findings[0].text)
        self.assertIs(judge_capacitor(RAIL, Seen(1.9)).health, Health.BAD)

    def test_of_an_unknown_family_what_lies_between_is_said_to(self):
        found = judge_capacitor(Rating(100e-6, 35.0), Seen(0.5))
        self.assertIs(found.health, Health.UNCLEAR)
        self.assertIn("Where the board wants low impedance", found.findings[0].text)

    def test_farads_look_and_warmth(self):
        for seen, health in (
            (Seen(farads=300e-6), Health.BAD),
            (Seen(farads=360e-6), Health.TIRED),
            (Seen(farads=470e-6), Health.UNCLEAR),  # farads alone clear nothing
            (Seen(farads=900e-6, in_circuit=True), Health.UNCLEAR),
            (Seen(look=Look.FLAT), Health.UNCLEAR),
            (Seen(look=Look.VENTED), Health.BAD),
        ):
            self.assertIs(judge_capacitor(RAIL, seen).health, health, seen)
        halved = judge_capacitor(BULK, Seen(6.0, other_ohms=3.0, other_celsius=60.0)).findings[-1].text
        self.assertIn("it is the electrolyte", halved)
        risen = judge_capacitor(BULK, Seen(6.0, other_ohms=12.0, other_celsius=60.0)).findings[-1].text
        self.assertIn("not the electrolyte", risen)

    def test_in_circuit_others_hide_it(self):
        text = judge_capacitor(Rating(100e-6, 35.0, Family.LOW), Seen(0.08, in_circuit=True)).findings[0].text
        self.assertIn("Lift a leg", text)

    def test_nonsense_is_refused(self):
        for act, told in (
            (lambda: Rating(22.0, 25.0), "with its unit"),
            (lambda: Rating(22e-6, -1.0), "no capacitor’s rating"),
            (lambda: Rating(22e-6, 25.0, diameter_mm=0.1, height_mm=9), "can of 0.1 mm"),
            (lambda: Seen(1.0, hertz=3.0), "frequency"),
            (lambda: Seen(1.0, celsius=400.0), "judged from"),
            (lambda: Seen(1.0, other_ohms=2.0), "type both"),
            (lambda: judge_capacitor(RAIL, Seen()), "Nothing measured"),
        ):
            with self.assertRaisesRegex(FrostError, told):
                act()


OLD = SmallPart(
    "C7",
    Kind.ELECTROLYTIC,
    farads=470e-6,
    volts=25.0,
    celsius=105.0,
    esr_ohms=0.055,
    ripple_amperes=1.0,
    hours=3000,
    diameter_mm=10.0,
    height_mm=16.0,
    pitch_mm=5.0,
    polarised="yes",
)
AT = Place("rail", 12.1, room_height_mm=18.0)


def answers(old, new, place=None):
    if place is None:
        place = AT if old.kind is Kind.ELECTROLYTIC else Place()
    (found,) = substitutes(old, [new], place)
    return found.answer, {item.name: item for item in found.properties}


class StandIn(TestCase):
    def test_the_same_again_holds(self):
        self.assertIs(answers(OLD, replace(OLD, id="new"))[0], Answer.HOLDS)

    def test_each_property_refuses_by_itself(self):
        for change, name, told in (
            ({"farads": 220e-6}, "farads", "less lets more ripple|Less lets more ripple"),
            ({"farads": 2200e-6}, "farads", "starts slowly"),
            ({"volts": 16.0}, "volts", "less than"),
            ({"celsius": 85.0}, "celsius", "less than"),
            ({"esr_ohms": 0.2}, "esr_ohms", "runs hot"),
            ({"ripple_amperes": 0.4}, "ripple_amperes", "less than"),
            ({"diameter_mm": 12.5}, "diameter_mm", "10 mm of room"),
            ({"height_mm": 20.0}, "height_mm", "18 mm of room"),
            ({"pitch_mm": 7.5}, "pitch_mm", "5 mm apart"),
        ):
            answer, found = answers(OLD, replace(OLD, **change))
            self.assertIs(answer, Answer.REFUSES, change)
            self.assertRegex(found[name].text, told)
            refused = [item.name for item in found.values() if item.answer is Answer.REFUSES]
            self.assertEqual(refused, [name], change)

    def test_higher_volts_hold_unless_the_can_does_not_fit(self):
        self.assertIs(answers(OLD, replace(OLD, volts=35.0, height_mm=18.0))[0], Answer.HOLDS)
        self.assertIs(answers(OLD, replace(OLD, volts=35.0, height_mm=20.0))[0], Answer.REFUSES)

    def test_what_is_not_known_is_asked_and_never_holds(self):
        for name in ("farads", "volts", "celsius", "esr_ohms", "hours", "diameter_mm", "pitch_mm"):
            for old, new in ((replace(OLD, **{name: None}), OLD), (OLD, replace(OLD, **{name: None}))):
                self.assertIs(answers(old, new, Place("rail"))[0], Answer.ASKS, name)

    def test_a_bipolar_one_is_never_replaced_by_a_polarised_one(self):
        self.assertIs(answers(replace(OLD, polarised="no"), OLD)[0], Answer.REFUSES)

    def test_the_volts_that_stand_there_count_too(self):
        found = answers(OLD, OLD, replace(AT, measured_volts=24.0))[1]
        self.assertIs(found["volts"].answer, Answer.REFUSES)
        bulk = replace(OLD, farads=22e-6, volts=250.0)
        for mains, answer in ((120.0, Answer.HOLDS), (230.0, Answer.REFUSES)):
            found, told = answers(bulk, bulk, Place("bulk", mains_volts=mains))
            self.assertIs(told["volts"].answer, answer, mains)

    def test_what_sets_a_time_or_the_supply_s_current_is_the_same_value(self):
        film = SmallPart("X", Kind.FILM_CAPACITOR, farads=470e-9, volts_ac=305.0, safety="X2", pitch_mm=22.5)
        film = replace(film, diameter_mm=26.0, height_mm=19.0)
        self.assertIs(answers(film, film, Place("dropper"))[0], Answer.HOLDS)
        for change in ({"farads": 680e-9}, {"safety": "Y2"}, {"volts_ac": 275.0}):
            self.assertIs(answers(film, replace(film, **change), Place("dropper"))[0], Answer.REFUSES, change)

    def test_a_suppressor_for_another_mains_is_refused_both_ways(self):
        old = SmallPart("V1", Kind.SUPPRESSOR, volts_ac=275.0, joules=40.0, diameter_mm=10.0)
        us = replace(old, volts_ac=150.0)
        for part, mains, answer in (
            (old, 230.0, Answer.HOLDS),
            (us, 230.0, Answer.REFUSES),
            (old, 120.0, Answer.REFUSES),
            (us, 120.0, Answer.HOLDS),
        ):
            self.assertIs(answers(old, part, Place(mains_volts=mains))[0], answer, (part.volts_ac, mains))
        self.assertIs(answers(old, old, Place())[0], Answer.ASKS)

    def test_a_fuse_is_never_stronger_nor_of_another_time(self):
        old = SmallPart(
            "F1", Kind.FUSE, amperes=2.0, time_class="slow", breaking_amperes=1500.0, volts_ac=250.0
        )
        old = replace(old, diameter_mm=5.0, height_mm=20.0, pitch_mm=20.0)
        self.assertIs(answers(old, old)[0], Answer.HOLDS)
        for change in (
            {"amperes": 3.15},
            {"amperes": 1.0},
            {"time_class": "quick"},
            {"breaking_amperes": 35.0},
        ):
            self.assertIs(answers(old, replace(old, **change))[0], Answer.REFUSES, change)

    def test_an_inrush_limiter_stands_the_capacitor_s_energy(self):
        # 22 µF on 230 V: C·V² = 1.16 J.
        old = SmallPart("N1", Kind.NTC, ohms=10.0, amperes=3.0, joules=1.5)
        old = replace(old, diameter_mm=11.0, height_mm=5.0, pitch_mm=7.5)
        at = Place(mains_volts=230.0, bulk_farads=22e-6)
        self.assertIs(answers(old, old, at)[0], Answer.HOLDS)
        self.assertIs(answers(old, replace(old, joules=1.0), at)[0], Answer.REFUSES)
        self.assertIs(answers(old, replace(old, joules=None), at)[0], Answer.ASKS)
        self.assertIs(answers(old, replace(old, ohms=5.0), at)[0], Answer.REFUSES)

    def test_relays_resistors_potentiometers_and_switchers(self):
        relay = SmallPart("K1", Kind.RELAY, coil_volts=12.0, coil_ohms=360.0, contact_amperes=10.0)
        relay = replace(
            relay, contact_form="make", pinout="4", diameter_mm=15.5, height_mm=19.0, pitch_mm=12.7
        )
        burnt = SmallPart("R9", Kind.RESISTOR, ohms=0.33, watts=1.0, volts=350.0, flameproof="fusible")
        knob = SmallPart(
            "P1", Kind.POTENTIOMETER, ohms=10e3, law="linear", pinout="3", shaft_mm=20.0, watts=0.1
        )
        chip = SmallPart("U1", Kind.SWITCHER, family="SW-12")
        for part, change in (
            (relay, {"coil_volts": 24.0}),
            (relay, {"coil_ohms": 200.0}),
            (relay, {"contact_form": "change over"}),
            (burnt, {"flameproof": "no"}),
            (burnt, {"ohms": 0.47}),
            (burnt, {"watts": 0.5}),
            (knob, {"law": "logarithmic"}),
            (chip, {"family": "SW-13"}),
        ):
            self.assertIs(answers(part, part)[0], Answer.HOLDS, part.id)
            self.assertIs(answers(part, replace(part, **change))[0], Answer.REFUSES, change)

    def test_the_best_stands_first_and_none_of_another_kind(self):
        shelf = read_drawer((ROOT / "demo/bench/drawer.csv").read_text(encoding="utf-8"))
        found = substitutes(OLD, shelf, AT)
        self.assertEqual(found[0].part.id, "EL-470-25-LZ")
        self.assertEqual([each.answer for each in found][:2], [Answer.HOLDS, Answer.ASKS])
        self.assertTrue(all(each.part.kind is Kind.ELECTROLYTIC for each in found))
        gone = [replace(each, count=0) for each in shelf]
        self.assertEqual(substitutes(OLD, gone, AT), ())

    def test_every_kind_is_asked_what_its_rules_look_at(self):
        for kind in Kind:
            part, _ = asked_of(kind)
            self.assertLessEqual(set(part), set(NAMES), kind)
            empty = SmallPart("old", kind)
            (found,) = substitutes(empty, [replace(empty, id="new")], Place())
            asked = {item.name for item in found.properties if item.answer is Answer.ASKS}
            self.assertLessEqual(asked, set(part), kind)
            self.assertTrue(asked, kind)
        self.assertIn("role", asked_of(Kind.ELECTROLYTIC)[1])


class Drawer(TestCase):
    TEXT = st.text("abcXYZ-0123 é", max_size=12).map(str.strip)
    FIGURE = st.one_of(st.none(), st.floats(1e-9, 1e6))

    @given(TEXT.filter(bool), st.sampled_from(list(Kind)), FIGURE, FIGURE, FIGURE, TEXT)
    def test_what_is_written_is_read_back(self, name, kind, farads, volts, size, family):
        part = SmallPart(name, kind, family=family, farads=farads, volts=volts, diameter_mm=size)
        (back,) = read_drawer(write_drawer((part,)))
        self.assertEqual((back.id, back.kind, back.family), (part.id, part.kind, part.family))
        for was, now in ((farads, back.farads), (volts, back.volts), (size, back.diameter_mm)):
            self.assertTrue((was is None and now is None) or math.isclose(was, now, rel_tol=1e-9))

    def test_what_can_t_be_read_is_told_by_its_line(self):
        for text, told in (
            ("id,kind\n,fuse\n", "line 2.*needs its id"),
            ("id,kind\nF1,fuze\n", "line 2.*kind: “fuze”"),
            ("id,kind,volts\nF1,fuse,lots\n", "line 2.*volts"),
            ("id,kind,count\nF1,fuse,-1\n", "line 2.*count"),
            ("id,kind,diameter_mm\nF1,fuse,big\n", "line 2.*diameter_mm"),
            ("id,kind,sort\nF1,fuse,x\n", "line 1.*“sort”"),
            ("", "line 1"),
        ):
            with self.assertRaisesRegex(SheetError, told):
                read_drawer(text)

    @given(st.text(max_size=300))
    def test_no_text_breaks_it(self, text):
        try:
            found = read_drawer(text)
        except SheetError:
            return
        self.assertTrue(all(part.id for part in found))

    def test_a_part_and_a_place_as_documents(self):
        self.assertEqual(part_of({"id": "a", "kind": "fuse", "amperes": 2}).amperes, 2.0)
        self.assertEqual(place_of({"role": "rail", "measured_volts": "12V"}), Place("rail", 12.0))
        for act in (
            lambda: part_of({"id": "a", "kind": "fuse", "amperes": True}),
            lambda: part_of({"id": "a", "kind": "fuse", "colour": "red"}),
            lambda: place_of({"role": "roof"}),
            lambda: place_of({"where": 1}),
            lambda: substitutes(OLD, [OLD], Place("roof")),
        ):
            with self.assertRaises(FrostError):
                act()
        self.assertIn("esr_ohms", NAMES)


class Twin(TestCase):
    def told(self, *lines):
        return {
            each.pair.point: each
            for each in differences(read_twin("point,meter,here,there\n" + "\n".join(lines)))
        }

    def test_the_oddest_first_and_the_alike_last(self):
        text = (ROOT / "demo/bench/twin.csv").read_text(encoding="utf-8")
        found = differences(read_twin(text))
        self.assertEqual([each.pair.point for each in found[:2]], ["fan output", "12 V rail"])
        self.assertEqual([each.odd for each in found], [True, True] + [False] * (len(found) - 2))

    def test_readings_of_one_s_own(self):
        found = self.told(
            "short,diode,0.01,0.55",
            "open,ohm,OL,12",
            "high,ohm,OL,410k",
            "same,ohm,4.2k,4.4k",
            "both,ohm,OL,OL",
            "leak,diode,0.31,0.55",
            "dry,esr,1.9,0.07",
            "fed,vdc,8.1,12",
            "close,vdc,11.9,12",
        )
        odd = {point for point, each in found.items() if each.odd}
        self.assertEqual(odd, {"short", "open", "leak", "dry", "fed"})
        self.assertIn("dried", found["dry"].text)
        self.assertIn("electronics", found["high"].text)
        self.assertIn("one stage back", found["fed"].text)

    def test_swapping_the_boards_finds_the_same_points(self):
        lines = ("a,ohm,5,50", "b,vdc,12,8", "c,diode,0.5,0.55", "d,ohm,0.2,300", "e,diode,OL,0.6")
        swapped = [f"{p},{m},{there},{here}" for p, m, here, there in (line.split(",") for line in lines)]
        one, other = self.told(*lines), self.told(*swapped)
        self.assertEqual({p: each.odd for p, each in one.items()}, {p: each.odd for p, each in other.items()})

    def test_what_can_t_be_read_is_told_by_its_line(self):
        for text, told in (
            ("point,meter,here\n", "there"),
            ("point,meter,here,there\n,ohm,1,2\n", "line 2: point"),
            ("point,meter,here,there\na,smell,1,2\n", "line 2: meter"),
            ("point,meter,here,there\na,ohm,soup,2\n", "line 2: here"),
            ("point,meter,here,there\na,ohm,5m,2\n", "line 2: here: .*can mean"),
        ):
            with self.assertRaisesRegex(SheetError, told):
                read_twin(text)

    @given(st.text(max_size=300))
    def test_no_text_breaks_it(self, text):
        try:
            differences(read_twin(text))
        except SheetError:
            return


class Doors(TestCase):
    def run_door(self, *arguments):
        out, err = io.StringIO(), io.StringIO()
        with contextlib.redirect_stdout(out), contextlib.redirect_stderr(err):
            code = main(arguments)
        return code, out.getvalue(), err.getvalue()

    def told(self, *arguments):
        code, out, err = self.run_door(*arguments)
        self.assertEqual((code, err), (0, ""))
        return json.loads(out)

    def test_the_three_commands(self):
        told = self.told("capacitor", "--farads", "470u", "--volts", "25V", "--esr", "40")
        self.assertEqual(told["health"], "bad")
        bench = ROOT / "demo/bench"
        told = self.told("substitute", "--part", str(bench / "c7.json"), "--stock", str(bench / "drawer.csv"))
        self.assertEqual(
            (told["candidates"][0]["id"], told["candidates"][0]["answer"]), ("EL-470-25-LZ", "holds")
        )
        sheet = str(ROOT / "demo/sheets/tarnbeck-tb-34.json")
        self.assertIn("7.5 kΩ", self.told("mat", "--sheet", sheet)["stands"][0]["text"])
        told = self.told("bus", "--mains", "230V", "--watts", "3W", "--farads", "22u", "--ripple", "2V")
        self.assertEqual(told["judged"]["verdict"], "high")
        told = self.told("twin", "--readings", str(bench / "twin.csv"))
        self.assertTrue(told["differences"][0]["odd"])

    def test_nonsense_ends_with_a_sentence(self):
        with tempfile.TemporaryDirectory() as folder:
            odd = Path(folder) / "odd.json"
            odd.write_text('["no part"]', encoding="utf-8")
            for arguments in (
                ("capacitor", "--farads", "22", "--volts", "25V", "--esr", "1"),
                ("capacitor", "--farads", "22u", "--volts", "25V", "--warm", "3"),
                ("capacitor", "--farads", "22u", "--volts", "25V", "--esr", "1", "--can", "big"),
                ("substitute", "--part", str(odd), "--stock", str(odd)),
                ("twin", "--readings", str(odd)),
            ):
                code, _, err = self.run_door(*arguments)
                self.assertEqual(code, 2, arguments)
                self.assertRegex(err, r"^frostcore: .+\n$")
