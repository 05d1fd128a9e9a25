"""Jobs walked from their first words to the fault, at the door: what is asked for, what is opened, what is
named."""

import json

from frostcore.diagnosis.evidence import evidence_of
from frostcore.diagnosis.judge import judge
from frostcore.diagnosis.readings import readings_of
from frostcore.diagnosis.step import _both
from frostcore.tests.demo_sheets import PATHS, SHEETS
from frostcore.tests.test_door_diagnosis import Door
from frostcore.tests.walking import answerer, walk


def looked(look, answer):
    return {"act": "look", "look": look, "answer": answer}


def read(red, black, meter, value, mode="off_cold", *pulled):
    told = {"act": "read", "red": red, "black": black, "range": meter, "mode": mode, "value": value}
    return told | ({"pulled": list(pulled)} if pulled else {})


def fitted(component, helped="", *, before=False):
    return {"act": "fit", "component": component, "helped": helped, "before": before}


def code(shown):
    return {"act": "code", "shown": shown}


def measured(place, celsius):
    return {"act": "temperature", "place": place, "celsius": celsius}


class Jobs(Door):
    """A unit with the fault answers; the same entries at the door name the same."""

    def walked(self, title, fault, *entries):
        sheet = next(each for each in SHEETS if title in each.title)
        readings_of(sheet).prepare()
        found = walk(sheet, answerer(sheet, fault), entries)
        self.assertLess(found.asked, 30)
        path = next(str(each) for each in PATHS if each.stem == sheet.id)
        at_door = self.diagnose(found.entries, sheet=path)
        self.assertEqual(at_door["named"], found.judgement.named and found.judgement.named.unit)
        self.assertEqual(at_door["suspects"][0]["unit"], found.judgement.suspects[0].unit)
        return found

    def first(self, found):
        return found.judgement.suspects[0]

    def test_1_the_loop_is_good_and_nothing_is_opened_behind_the_cover(self):
        begun = (
            code("E5"),
            looked("frost", "cover_frozen"),
            {"act": "open", "place": "board_bay"},
            read("CN2.5", "CN2.6", "vac", "0.4", "defrost"),
            read("CN2.5", "CN2.6", "ohm", "239"),
        )
        found = self.walked("TB-34", "board:stuck_open:k_defrost", *begun)
        self.assertEqual(found.units, ("board",))
        self.assertLessEqual(found.asked, 3)
        self.assertNotIn("evaporator", found.judgement.state.opened)
        after = [*found.entries, fitted("board"), read("CN2.5", "CN2.6", "vac", "229", "defrost")]
        mended = walk(found.judgement.sheet, answerer(found.judgement.sheet, "well"), after)
        self.assertEqual(mended.units, ("well",))
        asked = [
            (entry["act"], entry.get("look", entry.get("place"))) for entry in mended.entries[len(after) :]
        ]
        self.assertIn(("ask", None), asked)
        self.assertIn(("temperature", "freezer"), asked)

    def test_2_what_comes_back_when_the_harness_is_moved_is_no_compressor(self):
        begun = (
            looked("compressor", "still_cold"),
            looked("display", "normal"),
            looked("evaporator_fan", "runs"),
            read("CN3.6", "CN3.7", "vdc", "0", "normal"),
        )
        moved = {"act": "move", "red": "CN3.6", "black": "CN3.7", "range": "vdc", "mode": "normal"}
        sheet = next(each for each in SHEETS if "PW-27" in each.title)
        loose = {}
        for changes in (True, False):
            found = judge(sheet, evidence_of(sheet, [*begun, moved | {"changes": changes}]))
            loose[changes] = found.posterior.chances[found.weigher.known.comes_and_goes].sum()
        self.assertGreater(loose[True], 5 * loose[False])
        found = self.walked("PW-27", "harness:joint_intermittent:CN3.6", *begun, moved | {"changes": True})
        self.assertIn(self.first(found).unit, {"harness:CN3", "harness:CN21"})
        self.assertLess(
            sum(each.probability for each in found.judgement.suspects if each.component == "compressor"), 0.01
        )

    def test_3_a_shorted_fan_is_named_and_the_board_s_supply_is_not(self):
        begun = (
            code("u4"),
            looked("evaporator_fan", "still"),
            fitted("board", "for_a_while", before=True),
            read("CN13.1", "CN13.4", "vdc", "0.9", "normal"),
            read("CN13.1", "CN13.4", "ohm", "11", "off_cold", "CN13"),
        )
        self.assertEqual(self.walked("OR-620", "freezer_fan:short", *begun).units, ("freezer_fan",))

    def test_3_a_fan_and_the_output_it_took_along_are_named_together_and_neither_alone_is_enough(self):
        found = self.walked("TB-34", "board:burnt_with_load:q_fan", looked("evaporator_fan", "still"))
        self.assertEqual(self.first(found).unit, "board+evaporator_fan")
        self.assertGreater(self.first(found).probability, 0.95)
        words = _both(found.judgement, self.first(found).faults[0][0])
        self.assertIn("evaporator fan and the control board", words)
        left = {}
        for parts in (["board"], ["evaporator_fan"], ["board", "evaporator_fan"]):
            entries = [*found.entries, *(fitted(part) for part in parts)]
            left[len(parts), parts[0]] = judge(TB, evidence_of(TB, entries)).suspects[0]
        self.assertEqual(left[1, "board"].faults[0][0].id, "evaporator_fan:short")
        self.assertEqual(left[1, "evaporator_fan"].faults[0][0].id, "board:stuck_open:q_fan")
        self.assertEqual(left[2, "board"].unit, "well")

    def test_3_a_new_fuse_alone_blows_again(self):
        found = self.walked("TB-34", "board_fuse:blown_by:defrost_heater", looked("display", "dead"))
        self.assertEqual(found.units, ("defrost_heater+board_fuse",))
        again = judge(TB, evidence_of(TB, [*found.entries, fitted("board_fuse")])).suspects[0]
        self.assertEqual(again.unit, "defrost_heater+board_fuse")

    def test_4_a_sound_circuit_ends_at_air_and_dust(self):
        warm = (measured("cabinet", 17), looked("display", "normal"), looked("compressor", "runs_hot"))
        for fault in ("unit:boxed_in", "unit:condenser_dirty"):
            found = self.walked("SK-48", fault, *warm, looked("frame_loop", "hot"))
            self.assertEqual(self.first(found).unit, fault)
            self.assertGreater(self.first(found).probability, 0.8)

    def test_4_and_then_at_cooling_itself(self):
        begun = (measured("cabinet", 17), looked("display", "normal"))
        found = self.walked("SK-48", "sealed_system:charge_short", *begun)
        self.assertEqual(self.first(found).unit, "sealed_system")
        self.assertGreater(self.first(found).probability, 0.7)

    def test_5_a_board_fitted_and_still_no_compressor_goes_to_the_inverter(self):
        begun = (
            code("o7"),
            read("CN20.1", "CN20.2", "vac", "120", "normal"),
            read("CN21.1", "CN21.2", "vdc", "0", "normal"),
            fitted("board"),
            read("CN21.1", "CN21.2", "vdc", "3.8", "normal"),
            looked("compressor", "still_cold"),
            read("CN22.1", "CN22.2", "ohm", "8.6", "off_cold", "CN22"),
            read("CN22.2", "CN22.3", "ohm", "8.7", "off_cold", "CN22"),
            read("CN22.1", "CN22.3", "ohm", "8.6", "off_cold", "CN22"),
        )
        before = judge(OR, evidence_of(OR, list(begun[:3])))
        self.assertEqual(before.suspects[0].unit, "board")
        found = self.walked("OR-620", "inverter:open", *begun)
        self.assertEqual(self.first(found).unit, "inverter")
        self.assertGreater(self.first(found).probability, 0.9)

    def test_6_what_was_replaced_and_did_not_last_is_not_the_likeliest(self):
        begun = (
            fitted("thermostat", "for_a_while", before=True),
            fitted("defrost_timer", "for_a_while", before=True),
            measured("freezer", -31),
            looked("compressor", "runs_hot"),
        )
        self.assertEqual(self.walked("FK-18", "thermostat:misplaced", *begun).units, ("unit:misplaced",))

    def test_7_half_a_cooler_goes_to_its_own_board(self):
        begun = (measured("lower_zone", 21), measured("upper_zone", 12), looked("display", "flickers"))
        found = self.walked("CV-24", "lower_board:dry_capacitor:lower_5v", *begun)
        self.assertEqual(self.first(found).unit, "lower_board")
        self.assertGreater(self.first(found).probability, 0.8)

    def test_a_still_fan_goes_to_that_fan_and_a_dead_unit_to_what_feeds_it(self):
        found = self.walked("TB-34", "evaporator_fan:seized", looked("evaporator_fan", "still"))
        self.assertEqual(self.first(found).unit, "evaporator_fan")
        self.assertGreater(self.first(found).probability, 0.9)
        found = self.walked("TB-34", "board_fuse:open", looked("display", "dead"))
        self.assertEqual(set(found.units), {"board_fuse", "board"})
        found = self.walked("TB-34", "plug:open", looked("display", "dead"))
        self.assertIn(self.first(found).unit, {"plug", "harness:CN1"})

    def test_what_is_asked_for_can_be_answered_in_its_own_words(self):
        """Hertz, watts, temperatures, moved: the act as printed, with its outcome, is an entry."""
        asked = set()
        for title, fault in (("TB-34", "evaporator_fan:stiff"), ("PW-27", "fridge_sensor:drift")):
            found = self.walked(title, fault, looked("vent_air", "weak"))
            asked |= {entry.get("range", entry["act"]) for entry in json.loads(json.dumps(found.entries))}
        self.assertLessEqual({"look", "ask", "hz", "plug", "ohm"}, asked)


TB = next(each for each in SHEETS if "TB-34" in each.title)
OR = next(each for each in SHEETS if "OR-620" in each.title)
