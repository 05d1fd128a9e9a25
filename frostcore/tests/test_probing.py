"""Meter readings on the tape: judged in their setup, questioned where it contradicts them, and asked for
again when a mode is left."""

import math
import tracemalloc
import unittest
from concurrent.futures import ThreadPoolExecutor
from dataclasses import replace
from itertools import combinations
from random import Random
from unittest.mock import patch

from frostcore.circuit.faulted import with_fault
from frostcore.circuit.kept import circuits_of
from frostcore.circuit.meter import MeterRange, expect, points
from frostcore.circuit.trace import best_pair
from frostcore.diagnosis.step import next_step
from frostcore.errors import TapeError
from frostcore.faults.edits import damage
from frostcore.faults.known import broken, faults
from frostcore.faults.table import Setup, predict, usual_pairs, usual_setups
from frostcore.quantity import Dimension, Quantity, State, parse
from frostcore.remedy.wayin import closing, left_over, way_to, ways
from frostcore.report.handover import handover
from frostcore.sheet.load import load
from frostcore.tape.entries import (
    CodeSeen,
    ModeSet,
    PlugMoved,
    Power,
    ReadingTaken,
    StepDone,
    body_from_document,
    body_to_document,
)
from frostcore.tape.kinds import words_of
from frostcore.tape.moment import Moment
from frostcore.tape.reading import fault_readings, judge_reading, segment_of, setups_at, with_fault_column
from frostcore.tape.stages import Stage
from frostcore.tape.standing import stand
from frostcore.tape.take import questions_about
from frostcore.tests.demo_sheets import PATHS, SHEETS, demo_sheet
from frostcore.tests.test_tape import CALL, LIVE, LOOKS, PLATE, UNPLUGGED, reading, record, tape
from frostcore.verdict import Verdict

TB = demo_sheet("Tarnbeck TB-34")


def read(
    typed,
    mode="normal",
    meter="vac",
    red="CN2.5",
    black="CN2.6",
    pulled=(),
    kept=(),
    function="defrost_heater",
):
    dimension = Dimension.RESISTANCE if meter == "ohm" else Dimension.VOLTAGE
    return ReadingTaken(
        "reading",
        meter,
        parse(typed, dimension),
        red,
        black,
        function=function,
        mode=mode,
        pulled=tuple(pulled),
        kept=tuple(kept),
    )


def judged(body):
    return judge_reading(Moment(TB), body)


def standing(*bodies):
    return stand(TB, tape(CALL, PLATE, *bodies))


class Judging(unittest.TestCase):
    def test_a_good_reading_is_in_band(self):
        self.assertIs(judged(read("231V", mode="defrost")).verdict, Verdict.IN_BAND)
        self.assertIs(
            judged(read("240", mode="off_cold", meter="ohm", pulled=["CN2"])).verdict,
            Verdict.IN_BAND,
        )
        self.assertIs(judged(read("OL", mode="off_warm", meter="ohm")).verdict, Verdict.IN_BAND)

    def test_electronics_at_rest_can_not_be_judged_by_ohms(self):
        """A good display shows 28 Ω to one meter, 4.7 kΩ to another, OL to a third."""
        red, black = best_pair(circuits_of(TB).trace("display", "off_warm", live=False))
        for typed in ("4k7", "OL", "28"):
            body = read(
                typed, mode="off_warm", meter="ohm", red=red, black=black, pulled=["CN6"], function=""
            )
            found = judged(body)
            self.assertIs(found.verdict, Verdict.UNCLEAR, typed)
            self.assertIn("can't be judged by ohms", found.reason)
        short = read("0.4", mode="off_warm", meter="ohm", red=red, black=black, pulled=["CN6"], function="")
        self.assertIs(judged(short).verdict, Verdict.SHORT)

    def test_a_fuse_of_megohms_is_open_and_a_heater_of_kilohms_is_asked_about(self):
        fuse = read("3.5M", mode="off_cold", meter="ohm", red="thermal_fuse.1", black="thermal_fuse.2")
        self.assertIs(judged(fuse).verdict, Verdict.OPEN)
        ondrel = demo_sheet("Ondrel OR-620")
        heater = next(item for item in ondrel.components if item.kind == "heater")
        pins = f"{heater.id}.1", f"{heater.id}.2"
        body = read("22k", "off_cold", "ohm", *pins, function=heater.id)
        (question,) = judge_reading(Moment(ondrel), body).questions
        self.assertIn("22.0 Ω", question.text)

    def test_a_phantom_is_named_with_what_it_means_and_how_to_confirm_it(self):
        found = judged(read("104V"))
        self.assertTrue(found.phantom)
        self.assertIn("loop behind it is open", found.reason)
        self.assertIn("low-impedance", found.reason)

    def test_full_mains_on_an_output_that_is_off_accuses_nobody_before_the_low_impedance_reading(self):
        found = judged(read("229V"))
        self.assertEqual((found.phantom, found.confirm), (False, True))
        self.assertEqual(found.called, "full mains or a phantom")
        self.assertIn("Read it on the low-impedance range", found.reason)
        after = judged(read("228V", meter="vac_loz"))
        self.assertEqual((after.phantom, after.confirm), (False, False))
        self.assertIn("stays on", after.reason)
        self.assertIs(judged(read("0.2V", meter="vac_loz")).verdict, Verdict.IN_BAND)

    def test_a_phantom_behind_a_triac_is_as_high_as_the_mains_and_falls_all_the_same(self):
        """10 nF of snubber at 60 Hz is 265 kΩ: 117 V of 120 on the high impedance, 1 V on the low."""
        pw = demo_sheet("Pellworth PW-27")
        names = {item.branch: item for item in circuits_of(pw).functions}
        red, black = best_pair(circuits_of(pw).trace(names["water_valve"].id, "normal"))
        settled = broken(pw, "normal", ["water_valve:open"])
        at = points(pw, settled.circuit, red, black, MeterRange.VAC)
        high, low = (expect(settled, at, meter) for meter in (MeterRange.VAC, MeterRange.VAC_LOZ))
        self.assertGreater(high.value, 115)
        self.assertTrue(high.phantom)
        self.assertAlmostEqual(low.value / 120, 3e3 / abs(3e3 + 1 / (2j * math.pi * 60 * 10e-9)), delta=0.002)
        reading = read("117V", red=red, black=black, function="")
        self.assertEqual(judge_reading(Moment(pw), reading).called, "full mains or a phantom")

    def test_the_faults_that_fit_a_phantom_are_those_that_open_the_loop(self):
        found = fault_readings(
            TB, Setup("normal", MeterRange.VAC), "CN2.5", "CN2.6", parse("104V", Dimension.VOLTAGE)
        )
        fitting = [item.fault.id for item in found if item.fits]
        self.assertEqual(fitting[:3], ["defrost_heater:open", "bimetal:stuck_open", "thermal_fuse:open"])
        self.assertNotIn("board:welded:k_defrost", fitting)
        self.assertIn("board:welded:k_defrost", [item.fault.id for item in found])

    def ohms(self, faults, red, black, *pulled):
        """What an ohmmeter shows on the Tarnbeck, cold, with these connectors pulled; None for OL."""
        settled = broken(TB, "off_cold", faults, live=False, pulled=pulled)
        found = expect(settled, points(TB, settled.circuit, red, black, MeterRange.OHM), MeterRange.OHM)
        return None if found.value is None else round(float(found.value))

    def test_a_broken_wire_reads_open_from_its_pulled_plug_and_a_bad_joint_does_not(self):
        """The heater's feed from CN2.5 to CN7.1: 240 Ω are in the loop behind CN2."""
        wire, joint, far = "harness:open:CN2.5-CN7.1", "harness:joint_open:CN2.5", "harness:joint_open:CN7.1"
        cases = (
            # (faults, the loop with all in, at CN2 pulled, along the wire with both plugs out)
            ([], 240, 240, 0),
            ([wire], None, None, None),
            ([joint], None, 240, 0),
            ([far], None, None, 0),
        )
        for known, loop, at_plug, along in cases:
            self.assertEqual(self.ohms(known, "CN2.5", "CN2.6"), loop, known)
            self.assertEqual(self.ohms(known, "CN2.5", "CN2.6", "CN2"), at_plug, known)
            self.assertEqual(self.ohms(known, "CN2.5", "CN7.1/board", "CN2", "CN7"), along, known)

    def test_wires_and_joints_that_resist_or_come_and_go_differ_too(self):
        strands, corroded = "harness:high_resistance:CN2.5-CN7.1", "harness:joint_high_resistance:CN2.5"
        self.assertEqual(self.ohms([strands], "CN2.5", "CN2.6", "CN2"), 243)
        self.assertEqual(self.ohms([corroded], "CN2.5", "CN2.6", "CN2"), 240)
        self.assertEqual(self.ohms([corroded], "CN2.5", "CN2.6"), 248)
        known = {item.id: item for item in faults(TB)}
        for name in ("harness:intermittent:CN2.5-CN7.1", "harness:joint_intermittent:CN2.5"):
            self.assertTrue(known[name].comes_and_goes)
        self.assertNotIn("harness:joint_open:bimetal.2", known)

    def test_what_never_settles_is_said_to_pulse(self):
        """A joint of 120 Ω lets the fan start only to starve it."""
        found = {
            item.fault.id: item.text
            for item in fault_readings(TB, Setup("normal", MeterRange.VDC), "CN7.3", "CN7.4")
        }
        self.assertIn("pulsing", found["harness:joint_high_resistance:CN4.1"])

    def test_a_fault_that_never_settles_shows_its_span_in_the_table_of_setups(self):
        setups = (Setup("normal", MeterRange.VDC), Setup("off_cold", MeterRange.OHM))
        name, texts = with_fault_column(TB, setups, "CN4.1", "CN4.2", "evaporator_fan:short")
        self.assertEqual(name, "Evaporator fan: shorted")
        self.assertRegex(texts[0], r"^0 V to 3\.\d+ V in turn$")
        self.assertIn("Ω", texts[1])

    def test_readings_along_a_path_name_the_segment(self):
        path = circuits_of(TB).trace("defrost_heater", "defrost")
        taken = [
            read("230V", "defrost", red="CN7.1", black="plug.n"),
            read("229V", "defrost", red="bimetal.1", black="plug.n"),
            read("1V", "defrost", red="bimetal.2", black="plug.n"),
        ]
        segment = segment_of(TB, path, taken)
        self.assertEqual(
            (segment.good, segment.bad, [branch.id for branch in segment.between]),
            ("bimetal.1", "bimetal.2", ["bimetal"]),
        )
        self.assertIsNone(segment_of(TB, path, taken[:2]))
        self.assertEqual(segment_of(TB, path, taken[2:]).good, None)


class Asking(unittest.TestCase):
    def kinds(self, state, body):
        return [question.kind for question in questions_about(state.now, body)]

    def test_volts_with_the_plug_out_and_ohms_in_live_are_questioned(self):
        self.assertIn("volts_unplugged", self.kinds(standing(UNPLUGGED), read("230V", mode="defrost")))
        self.assertIn("ohms_live", self.kinds(standing(LIVE), read("240", mode="off_cold", meter="ohm")))
        self.assertEqual(self.kinds(standing(LIVE), read("230V", mode="defrost")), [])
        self.assertEqual(self.kinds(standing(UNPLUGGED), read("240", mode="off_cold", meter="ohm")), [])

    def test_no_volts_with_the_plug_out_contradict_nothing(self):
        self.assertEqual(self.kinds(standing(UNPLUGGED), read("0.0V", mode="normal")), [])

    def test_a_reading_that_fits_a_pulled_plug_is_questioned(self):
        """The sensor alone is 49.4 kΩ; with its plug in, the board's pull-up lies across it."""
        body = read("49.4k", mode="off_cold", meter="ohm", red="CN3.5", black="CN3.6")
        (question,) = questions_about(standing(UNPLUGGED).now, body)
        self.assertEqual((question.kind, question.field, question.meant), ("pulled", "pulled", "CN3"))
        self.assertIn("fits CN3 pulled", question.text)
        self.assertEqual(
            questions_about(
                standing(UNPLUGGED).now,
                read("49.4k", "off_cold", "ohm", "CN3.5", "CN3.6", kept=["pulled:pulled"]),
            ),
            (),
        )

    def test_ohms_taken_for_kilohms_are_questioned(self):
        (question,) = questions_about(standing(UNPLUGGED).now, read("240k", mode="off_cold", meter="ohm"))
        self.assertEqual((question.kind, question.field, question.meant), ("unit_slip", "value", "240 Ω"))


class OnTheTape(unittest.TestCase):
    def test_the_mode_follows_power_and_what_was_entered(self):
        self.assertEqual(standing().mode, "")
        self.assertEqual(standing(UNPLUGGED).mode, "off_cold")
        self.assertEqual(standing(LIVE).mode, "normal")
        entered = ModeSet("mode_set", "defrost")
        self.assertEqual(standing(LIVE, entered).mode, "defrost")
        self.assertEqual(standing(LIVE, entered, ModeSet("mode_set", "defrost", "left")).mode, "normal")
        self.assertEqual(standing(LIVE, entered, UNPLUGGED).mode, "off_cold")
        self.assertEqual(standing(UNPLUGGED, ModeSet("mode_set", "off_warm")).mode, "off_warm")

    def test_pulled_plugs_follow_what_was_moved_and_what_was_opened(self):
        pull, back = (PlugMoved("plug_moved", "CN2", state) for state in ("pulled", "plugged"))
        opened, closed = (StepDone("step_done", "evaporator", 2, state) for state in ("opened", "closed"))
        self.assertEqual(standing(pull).pulled, ("CN2",))
        self.assertEqual(standing(pull, opened).pulled, ("CN2", "CN7"))
        self.assertEqual(standing(pull, opened, back, closed).pulled, ())

    def test_an_output_read_in_a_mode_must_be_read_again_when_it_is_left(self):
        on = read("230V", mode="defrost")
        entered, left = ModeSet("mode_set", "defrost"), ModeSet("mode_set", "defrost", "left")
        self.assertEqual(standing(LIVE, entered, on).falls_due, ())
        (fall,) = standing(LIVE, entered, on, left).falls_due
        self.assertEqual((fall.reading, fall.now.text, fall.mode), (on, "0 V", "defrost"))
        self.assertEqual(standing(LIVE, entered, on, left, read("0.1V")).falls_due, ())
        self.assertEqual(standing(LIVE, entered, on, UNPLUGGED).falls_due, ())
        step = next_step(standing(LIVE, entered, on, left))
        self.assertEqual((step.stage, step.act), (Stage.TRACE, "Read CN2.5 to CN2.6 again"))

    def test_the_next_step_traces_what_a_code_implicates_once_its_sensor_is_good(self):
        known = (
            UNPLUGGED,
            *LOOKS,
            CodeSeen("code_seen", "E5", "E5"),
            reading("15.3k", "0C"),
            reading("6.2k", "20C"),
        )
        step = next_step(standing(*known))
        self.assertEqual((step.stage, step.trace), (Stage.TRACE, "defrost_heater"))
        step = next_step(standing(*known, LIVE, read("104V")))
        self.assertEqual(step.act, "Confirm CN2.5 to CN2.6 on low impedance")
        confirmed = (*known, LIVE, read("104V"), read("0.1V", meter="vac_loz"))
        step = next_step(standing(*confirmed))
        self.assertIs(step.stage, Stage.TRACE)
        self.assertIn("in ohms", step.act)
        self.assertEqual(step.trace, "defrost_heater")
        self.assertIn("Pull the mains plug.", step.how)
        step = next_step(standing(*confirmed, UNPLUGGED, read("OL", "off_cold", "ohm", pulled=["CN2"])))
        self.assertIs(step.stage, Stage.TRACE)
        self.assertTrue(
            any("Open: " in line for line in step.how), step
        )  # the loop is open: behind its cover

    def test_names_that_lead_nowhere_are_refused(self):
        for body, told in (
            (read("1V", red="CN2.9"), "no point “CN2.9”"),
            (read("1V", mode="sleep"), "no mode “sleep”"),
            (ModeSet("mode_set", "sleep"), "sleep"),
            (PlugMoved("plug_moved", "CN99", "pulled"), "CN99"),
            (StepDone("step_done", "evaporator", 9, "opened"), "no step 10"),
        ):
            with self.assertRaisesRegex(TapeError, told):
                record(CALL, PLATE, LIVE, body)

    def test_slips_say_points_setup_and_verdict_and_reach_the_report(self):
        body = read("104V", pulled=[])
        state = standing(LIVE, body)
        line = words_of(state, state.slips[-1])
        self.assertEqual(
            (line.title, line.figure, line.points), ("CN2.5 to CN2.6", "104 V", "AC volts, normal, cooling")
        )
        self.assertIn("phantom voltage", line.detail)
        (row,) = handover(state).readings
        self.assertEqual((row.verdict, row.text), (Verdict.HIGH, "104 V"))
        self.assertIn("CN2.5 to CN2.6", row.name)

    def test_new_entries_go_to_documents_and_back(self):
        for body in (
            read("OL", "off_cold", "ohm", pulled=["CN2"]),
            ModeSet("mode_set", "defrost"),
            PlugMoved("plug_moved", "CN2", "pulled"),
            StepDone("step_done", "evaporator", 1, "opened", 4),
        ):
            self.assertEqual(body_from_document(body_to_document(body)), body)


class WayIn(unittest.TestCase):
    def steps(self, *numbers, state="opened", counted=None):
        return [StepDone("step_done", "evaporator", number, state, counted) for number in numbers]

    def test_every_place_has_its_steps_from_the_outside_in(self):
        for sheet in SHEETS:
            for way in ways(sheet, ()):
                self.assertTrue(way.steps)
                self.assertFalse(way.open)
                self.assertEqual(way.next, way.steps[0])
        box = way_to(demo_sheet("Skerrow SK-48"), "board_box", ())
        self.assertEqual([step.place.id for step in box.steps], ["machine_bay", "board_box"])

    def test_the_way_out_is_the_way_in_reversed(self):
        lines = closing(TB, [*self.steps(0, 1, 2), PlugMoved("plug_moved", "CN4", "pulled")])
        self.assertEqual([line.connector or line.number for line in lines], ["CN4", 2, 1, 0])
        self.assertEqual(lines[1].plugs, ("CN7",))
        self.assertEqual(closing(TB, [*self.steps(0, 1), *self.steps(1, 0, state="closed")]), ())

    def test_counts_that_do_not_come_back_are_told(self):
        self.assertEqual(
            left_over(TB, [*self.steps(1, counted=4), *self.steps(1, state="closed", counted=4)]), ()
        )
        (line,) = left_over(TB, [*self.steps(1, counted=4), *self.steps(1, state="closed", counted=3)])
        self.assertIn("1 left over", line)


class Kept(unittest.TestCase):
    def test_threads_that_share_a_units_circuits_all_get_their_circuit(self):
        """Many sheets and setups asked for at once, more than are kept."""
        sheets = [load(path.read_text(encoding="utf-8")).sheet for path in PATHS[-2:] for _ in range(14)]

        def ask(number):
            sheet = sheets[number % len(sheets)]
            pulled = tuple(
                connector.id for place, connector in enumerate(sheet.connectors) if number >> place & 1
            )
            return circuits_of(sheet).scene("off_cold", live=False, pulled=pulled).circuit.pulled == tuple(
                sorted(pulled)
            )

        with ThreadPoolExecutor(8) as pool:
            self.assertTrue(all(pool.map(ask, range(300))))


class Setups(unittest.TestCase):
    def lines(self, here, red="CN2.5", black="CN2.6"):
        path = circuits_of(TB).trace(
            "defrost_heater", here.mode, live=TB.mode(here.mode).live, pulled=here.pulled
        )
        return [setup for _, setup in setups_at(TB, path, red, black, here)]

    def test_modes_the_low_impedance_range_and_ohms_with_the_own_plug_pulled_are_worth_a_line(
        self,
    ):
        here = Setup("normal", MeterRange.VAC)
        found = self.lines(here)
        self.assertEqual(
            [setup.mode for setup in found if setup.meter is MeterRange.VAC],
            [mode.id for mode in TB.modes if mode.live],
        )
        self.assertEqual([setup.mode for setup in found if setup.meter is MeterRange.VAC_LOZ], ["normal"])
        self.assertEqual({setup.pulled for setup in found if setup.meter is MeterRange.OHM}, {(), ("CN2",)})

    def test_the_setup_at_hand_is_always_there(self):
        for here in (
            Setup("normal", MeterRange.VDC),
            Setup("normal", MeterRange.OHM, ("CN4",)),
            Setup("off_cold", MeterRange.OHM),
        ):
            self.assertEqual(self.lines(here).count(here), 1)

    def test_a_meter_needs_the_power_its_position_is_for(self):
        self.assertIs(standing(UNPLUGGED).needs_power(MeterRange.VAC_LOZ), Power.LIVE)
        self.assertIs(standing(LIVE).needs_power(MeterRange.OHM), Power.UNPLUGGED)
        self.assertIsNone(standing(LIVE).needs_power(MeterRange.VDC))


class Table(unittest.TestCase):
    def test_memory_beside_the_table_does_not_grow_with_setups(self):
        """Setups are solved a few at a time: each more takes little beside the part of the table it fills,
        for its healthy circuit."""
        sheet = demo_sheet("Ondrel OR-620")
        pairs, known = usual_pairs(sheet), faults(sheet)
        setups = [
            Setup(sheet.resting_mode, MeterRange.OHM, (one.id, other.id))
            for one, other in combinations(sheet.connectors, 2)
        ]
        peaks = []
        with patch("frostcore.faults.table.FIGURES_AT_ONCE", 200_000):
            predict(sheet, setups[:2], pairs, known)  # what is kept of the sheet is made before counting
            for count in (12, 48):
                tracemalloc.start()
                table = predict(sheet, setups[:count], pairs, known)
                peaks.append(tracemalloc.get_traced_memory()[1] - table.values.nbytes)
                tracemalloc.stop()
        self.assertEqual(len(table.setups), 48)
        self.assertLess((peaks[1] - peaks[0]) / 36, table.values[0].nbytes / 2, peaks)

    def test_the_table_says_what_single_readings_say(self):
        setups = (
            Setup("normal", MeterRange.VAC),
            Setup("normal", MeterRange.VAC_LOZ),
            Setup("off_cold", MeterRange.OHM, ("CN2",)),
        )
        pairs = (("CN2.5", "CN2.6"), ("CN2.1", "CN2.2"))
        known = faults(TB)
        table = predict(TB, setups, pairs, known)
        for setup in setups:
            for pair in pairs:
                single = circuits_of(TB).reading(setup.mode, setup.meter, *pair, setup.pulled)
                self.assertAlmostEqual(
                    table.of(setup, pair), single.value, delta=1e-6 * abs(single.value) + 1e-9
                )
        self.assertEqual(table.of(setups[2], pairs[0], "defrost_heater:open"), float("inf"))
        self.assertGreater(table.of(setups[0], pairs[0], "defrost_heater:open"), 50)

    def test_the_table_under_faults_says_what_the_broken_circuit_solved_by_itself_says(self):
        """A few faults in every setup of every unit; among them, where a connector is pulled, breaks and
        bad joints of its own wires."""
        random = Random(5)
        for sheet in SHEETS:
            setups, pairs, known = usual_setups(sheet), usual_pairs(sheet), faults(sheet)
            table = predict(sheet, setups, pairs, known)
            for number, setup in enumerate(setups):
                base = circuits_of(sheet).scene(
                    setup.mode, live=setup.meter is not MeterRange.OHM, pulled=setup.pulled
                )
                own = [
                    fault
                    for fault in known
                    if fault.mode in {"high_resistance", "open"}
                    and any(fault.where.startswith(f"{name}.") for name in setup.pulled)
                ]
                for fault in [*random.sample(known, 2), *random.sample(own, min(2, len(own)))]:
                    broken, row = with_fault(base, damage(base.circuit, fault.acts)), 1 + known.index(fault)
                    for place, (red, black) in enumerate(pairs):
                        single = expect(
                            broken, points(sheet, broken.circuit, red, black, setup.meter), setup.meter
                        ).value
                        found = float(table.values[number, row, place])
                        near = (
                            found == float("inf")
                            if single is None
                            else abs(found - single) <= 1e-5 * abs(single) + 1e-3
                        )
                        self.assertTrue(
                            near,
                            f"{sheet.title} {setup} {fault.id} {red} {black}: {found}, by itself {single}",
                        )

    def test_modes_that_ask_the_same_of_the_unit_are_solved_once(self):
        pairs, setups = (
            (("CN2.5", "CN2.6"),),
            [Setup(mode.id, MeterRange.VAC) for mode in TB.modes if mode.live],
        )
        twin = replace(TB.mode("normal"), id="twin", name="Twin")
        sheet = replace(TB, modes=(*TB.modes, twin))
        alone = predict(sheet, setups, pairs, faults(TB))
        both = predict(sheet, [*setups, Setup("twin", MeterRange.VAC)], pairs, faults(TB))
        self.assertEqual(both.solved, alone.solved)
        self.assertTrue((both.values[-1] == both.values[setups.index(Setup("normal", MeterRange.VAC))]).all())

    def test_every_unit_has_pairs_and_no_reading_is_without_a_number(self):
        for sheet in SHEETS:
            pairs = usual_pairs(sheet)
            self.assertGreater(len(pairs), 10)
            table = predict(sheet, (Setup(sheet.modes[0].id, MeterRange.VDC),), pairs, faults(sheet))
            self.assertFalse((table.values != table.values).any())

    def test_a_reading_that_no_fault_changes_is_left_out(self):
        quantity = Quantity(Dimension.RESISTANCE, None, State.OPEN)
        found = fault_readings(TB, Setup("off_cold", MeterRange.OHM, ("CN2",)), "CN2.5", "CN2.6", quantity)
        fitting = {item.fault.component for item in found if item.fits}
        self.assertEqual(fitting, {"defrost_heater", "bimetal", "thermal_fuse", "harness"})
