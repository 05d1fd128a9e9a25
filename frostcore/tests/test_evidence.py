"""What is noticed, felt, measured at the plug, can't be done, was tried or mended: at the door and on the
tape the same, and what each does to the suspects; readings that say the same count once."""

import json
from unittest import TestCase

import numpy as np

from frostcore.diagnosis.checked import CheckTold, acts_of
from frostcore.diagnosis.evidence import Cannot, Fitted, Looked, Said, Sensed, evidence_of
from frostcore.diagnosis.from_tape import evidence_from
from frostcore.diagnosis.judge import judge
from frostcore.diagnosis.readings import readings_of
from frostcore.diagnosis.state import tach_pins
from frostcore.quantity import Dimension, parse
from frostcore.tape.entries import (
    AmpsTaken,
    Barred,
    Checked,
    Complained,
    Felt,
    HertzTaken,
    Mended,
    PartTried,
    ReadingTaken,
)
from frostcore.tape.standing import stand
from frostcore.tests.demo_sheets import demo_sheet
from frostcore.tests.test_judgement import TB, chance, come_to, looked, read
from frostcore.tests.test_tape import CALL, tape

LW = demo_sheet("Lintwick LW-12")
PW = demo_sheet("Pellworth PW-27")
RED, BLACK = tach_pins(PW, "evaporator_fan")
HERTZ = {"act": "read", "red": RED, "black": BLACK, "range": "hz", "mode": "normal"}
WATTS = {"act": "plug", "mode": "defrost", "watts": 5}


def felt(component, what):
    return {"act": "feel", "component": component, "what": what}


class Noticed(TestCase):
    def test_a_complaint_moves_what_brings_it_about(self):
        prior, told = come_to(TB), come_to(TB, {"act": "ask", "answer": "light"})
        self.assertGreater(chance(told, "fridge_lamp"), 5 * chance(prior, "fridge_lamp"))
        self.assertLess(chance(told, "board"), chance(prior, "board"))

    def test_a_compartment_at_room_warmth_is_too_warm_as_one_a_little_warm_is(self):
        """A freezer that died days ago reads 21 °C; what is colder than any that is too cold is too cold."""

        def board(celsius):
            return chance(
                come_to(TB, {"act": "temperature", "place": "freezer", "celsius": celsius}), "board"
            )

        prior = chance(come_to(TB), "board")
        self.assertGreater(board(-6), 1.05 * prior)
        self.assertAlmostEqual(board(21), board(-6), delta=0.002)
        self.assertAlmostEqual(board(-60), board(-40), delta=0.002)  # nor is cold ever unheard of

    def test_complaints_made_together_count_each(self):
        one = come_to(TB, {"act": "ask", "answer": "warm fridge"})
        both = come_to(TB, {"act": "ask", "answer": "warm fridge"}, {"act": "ask", "answer": "noise"})
        self.assertFalse(np.allclose(one.posterior.chances, both.posterior.chances))

    def test_what_is_felt_at_a_part_is_about_that_part(self):
        still = looked("evaporator_fan", "still")
        before = come_to(TB, still)
        seized, turns = (come_to(TB, still, felt("evaporator_fan", what)) for what in ("seized", "turns"))
        self.assertGreater(chance(seized, "evaporator_fan"), chance(before, "evaporator_fan"))
        known = before.weigher.known.place["evaporator_fan:seized"]
        self.assertLess(turns.posterior.chances[known], 0.2 * before.posterior.chances[known])
        # How it turns has one answer: the newest counts.
        changed = come_to(TB, still, felt("evaporator_fan", "turns"), felt("evaporator_fan", "seized"))
        np.testing.assert_allclose(changed.posterior.chances, seized.posterior.chances, atol=1e-12)

    def test_amperes_count_where_the_power_factor_is_known_and_watts_do_anyway(self):
        """With the defrost heater alone on, amperes are its watts; in other modes a motor's are unknown."""
        none = {"act": "plug", "mode": "defrost", "amperes": "0.02 A"}
        watts = {"act": "plug", "mode": "defrost", "watts": 5}
        by_amps, by_watts = come_to(TB, none), come_to(TB, watts)
        for found in (by_amps, by_watts):
            self.assertGreater(chance(found, "defrost_heater"), 2 * chance(come_to(TB), "defrost_heater"))

    def test_hertz_tell_a_stiff_fan_from_a_good_one(self):
        known = come_to(PW).weigher.known.place["evaporator_fan:stiff"]
        slow, good = (
            come_to(PW, looked("vent_air", "weak"), HERTZ | {"value": f"{hertz} Hz"}) for hertz in (45, 85)
        )
        self.assertGreater(slow.posterior.chances[known], 20 * good.posterior.chances[known])


class Once(TestCase):
    """Readings of the same thing in another setup say it once."""

    LOOP = read("CN2.5", "CN2.6", "ohm", "239")
    PULLED = read("CN2.5", "CN2.6", "ohm", "239", pulled=("CN2",))

    def bits(self, found, other):
        return float(
            np.abs(np.log2(found.posterior.units + 1e-9) - np.log2(other.posterior.units + 1e-9)).max()
        )

    def test_a_loop_read_with_its_plug_in_and_out_counts_once(self):
        prior, once, twice = come_to(TB), come_to(TB, self.LOOP), come_to(TB, self.LOOP, self.PULLED)
        opened = once.weigher.known.place["defrost_heater:open"]
        none, first, both = (float(each.posterior.chances[opened]) for each in (prior, once, twice))
        self.assertLess(first, 0.1 * none)
        self.assertGreater(both, 0.5 * first)

    def test_what_the_other_setup_can_tell_it_still_tells(self):
        """With the plug out the board is out of the loop: where the two differ, both count."""
        wet = come_to(TB, self.LOOP, read("CN2.5", "CN2.6", "ohm", "1k2", pulled=("CN2",)))
        self.assertGreater(self.bits(wet, come_to(TB, self.LOOP)), 1.0)

    def test_watts_in_two_modes_that_take_the_same_count_once(self):
        one = {"act": "plug", "mode": "normal", "watts": 131}
        other = {"act": "plug", "mode": "door_open", "watts": 132}
        prior, first, both = (come_to(TB, *entries) for entries in ((), (one,), (one, other)))
        place = prior.weigher.known.place["board:stuck_open:k_compressor"]
        none, once, twice = (float(each.posterior.chances[place]) for each in (prior, first, both))
        self.assertLess(once, 0.3 * none)
        self.assertGreater(twice, 0.5 * once)

    def test_a_fault_a_reading_does_not_touch_is_told_nothing_by_it(self):
        """At a good unit's edge a reading speaks for no part draw that only untouched faults share."""
        found = come_to(TB, read("CN2.5", "CN2.6", "ohm", "251"))
        known, prior = found.weigher.known, found.weigher.prior
        untouched = [known.place[name] for name in ("fridge_lamp:open", "evaporator_fan:seized", "plug:open")]
        ratios = found.posterior.chances[untouched] / prior[untouched]
        np.testing.assert_allclose(ratios, ratios[0], rtol=0.02)


class After(TestCase):
    """After a part is fitted."""

    BEFORE = (
        {"act": "code", "shown": "E5"},
        looked("frost", "cover_frozen"),
        read("defrost_heater.1", "defrost_heater.2", "ohm", "OL"),
        {"act": "fit", "component": "defrost_heater"},
    )
    SEEN = (
        {"act": "ask", "answer": "other"},
        looked("display", "normal"),
        {"act": "temperature", "place": "fridge", "celsius": 4},
        {"act": "temperature", "place": "freezer", "celsius": -19},
        looked("frost", "even"),
    )

    def test_it_is_called_well_once_everything_has_been_seen_anew(self):
        for count in range(len(self.SEEN)):
            found = come_to(TB, *self.BEFORE, *self.SEEN[:count])
            self.assertIsNone(found.named, count)
            self.assertTrue(found.proof)
            self.assertEqual(found.next, found.proof[0])
        self.assertEqual(come_to(TB, *self.BEFORE, *self.SEEN).named.unit, "well")

    def test_what_can_t_be_seen_anew_does_not_hold_it_up(self):
        left_out = [{"act": "cannot", "of": {"act": "look", "look": "frost"}, "why": "closed up"}]
        self.assertEqual(come_to(TB, *self.BEFORE, *self.SEEN[:-1], *left_out).named.unit, "well")

    def test_what_is_still_wrong_is_another_fault(self):
        light = {"act": "ask", "answer": "light"}
        found = come_to(TB, *self.BEFORE, light, looked("display", "normal"))
        self.assertIn("fridge_lamp", [each.unit for each in found.suspects[:2]])
        self.assertNotIn("defrost_heater", [each.unit for each in found.suspects])

    def test_what_did_not_fit_the_first_fault_speaks_for_the_second(self):
        """A light that failed before the heater was fitted is not forgotten with it."""
        light = read("fridge_lamp.plus", "fridge_lamp.minus", "vdc", "12", "door_open")
        still, told = (
            come_to(TB, *more, *self.BEFORE) for more in ((), ({"act": "ask", "answer": "light"}, light))
        )
        self.assertGreater(chance(told, "fridge_lamp"), 5 * chance(still, "fridge_lamp") + 0.05)


class Taped(TestCase):
    """On the tape they are what they are at the door."""

    def evidence(self, *bodies, sheet=TB):
        readings_of(sheet).prepare(0)
        return [item for item, _ in evidence_from(stand(sheet, tape(CALL, *bodies)))]

    def at_door(self, *entries, sheet=TB):
        return list(evidence_of(sheet, list(entries)))

    def test_each_kind(self):
        act = {"act": "temperature", "place": "freezer"}
        for body, entry in (
            (Complained("complained", "warm fridge"), {"act": "ask", "answer": "warm fridge"}),
            (Felt("felt", "compressor", "hot"), felt("compressor", "hot")),
            (
                AmpsTaken("amps_taken", "defrost", parse("0.98 A", Dimension.CURRENT)),
                {"act": "plug", "mode": "defrost", "amperes": "0.98 A"},
            ),
            (
                PartTried("part_tried", "board", "no"),
                {"act": "fit", "component": "board", "helped": "no", "before": True},
            ),
            (Mended("mended", "harness:CN2", "Plug CN2"), {"act": "fit", "component": "harness:CN2"}),
            (
                Barred("barred", json.dumps(act), "Hang a thermometer in the freezer", "no thermometer"),
                {"act": "cannot", "of": act, "why": "no thermometer"},
            ),
            (
                Checked(
                    "checked",
                    "watts",
                    "5 W",
                    act=json.dumps([{"act": "plug", "mode": "defrost", "watts": 5}]),
                ),
                {"act": "plug", "mode": "defrost", "watts": 5},
            ),
        ):
            found = [item for item in self.evidence(body) if item in self.at_door(entry)]
            self.assertEqual(found, self.at_door(entry), body)

    def test_hertz_at_a_fan(self):
        taken = HertzTaken("hertz_taken", "evaporator_fan", parse("80 Hz", Dimension.FREQUENCY))
        found = self.evidence(taken, sheet=PW)
        self.assertEqual(found[-1:], self.at_door(HERTZ | {"value": "80"}, sheet=PW))

    def test_what_the_sheet_has_not_says_nothing(self):
        for body in (
            Complained("complained", "sings"),
            Felt("felt", "compressor", "purrs"),
            Barred("barred", "no json", "x"),
            Barred("barred", json.dumps({"act": "look", "look": "moon"}), "x"),
            Checked("checked", "watts", "5 W", act=json.dumps([{"act": "plug", "mode": "gone", "watts": 5}])),
        ):
            kinds = [type(item) for item in self.evidence(body)]
            self.assertFalse({Said, Sensed, Cannot, Looked, Fitted} & set(kinds), body)

    def test_a_mended_plug_ends_its_accusation(self):
        joint = ReadingTaken(
            "reading", "ohm", parse("OL", Dimension.RESISTANCE), red="CN2.5", black="CN2.6", mode="off_cold"
        )
        known = judge(TB, self.evidence(joint)).weigher.known
        place = known.place["harness:joint_open:CN2.5"]
        found = judge(TB, self.evidence(joint, Mended("mended", "harness:CN2", "Plug CN2")))
        self.assertGreater(found.posterior.chances[place], 0)
        self.assertEqual(found.posterior.now[place], 0)


class Checks(TestCase):
    """A quick check filed into a call counts as what it is, where there is no doubt of what."""

    def test_watts_of_this_unit_count_and_of_another_don_t(self):
        watts = parse("5 W", Dimension.POWER)
        mine = CheckTold("watts", watts, sheet=TB.id, mode="defrost")
        self.assertEqual(acts_of(TB, mine), [{"act": "plug", "mode": "defrost", "watts": "5 W"}])
        self.assertEqual(acts_of(LW, mine), [])

    def test_a_sensor_by_its_curve_where_only_one_has_it(self):
        fridge, freezer = (TB.curve(TB.sensor(name)) for name in ("fridge", "defrost"))
        told = {"figure": parse("15k3", Dimension.RESISTANCE), "celsius": parse("0 C", Dimension.TEMPERATURE)}
        shared = [item.id for item in TB.sensors if TB.curve(item) == fridge]
        found = acts_of(TB, CheckTold("sensor", curve=fridge, **told))
        self.assertEqual(len(found), 1 if len(shared) == 1 else 0)
        found = acts_of(TB, CheckTold("sensor", curve=freezer, **told))
        same = [item.id for item in TB.sensors if TB.curve(item) == freezer]
        self.assertEqual([each["sensor"] for each in found], same if len(same) == 1 else [])

    def test_a_heater_where_there_is_one(self):
        told = CheckTold("heater", parse("240", Dimension.RESISTANCE))
        heaters = {"red": "defrost_heater.1", "black": "defrost_heater.2"}
        self.assertEqual(acts_of(TB, told), [{"act": "read", "range": "ohm", "value": "240"} | heaters])
        self.assertTrue(evidence_of(TB, acts_of(TB, told)))
        self.assertEqual(acts_of(demo_sheet("Ossmere OM-58"), told), [])
