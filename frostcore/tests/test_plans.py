"""Changes to the wiring: proposed ones are sound and agree with ngspice, each refusal is provoked, nothing a
plan joins is idle."""

import json
from dataclasses import replace
from datetime import UTC, datetime, timedelta
from functools import cache
from pathlib import Path
from unittest import TestCase

from hypothesis import given, settings
from hypothesis import strategies as some

from frostcore.circuit.element import Analysis
from frostcore.circuit.kept import circuits_of
from frostcore.circuit.meter import MeterRange
from frostcore.circuit.spice import deck, names
from frostcore.diagnosis.evidence import Read
from frostcore.diagnosis.from_tape import evidence_from, judgement_of
from frostcore.document import write
from frostcore.errors import FrostError, SheetError, TapeError
from frostcore.faults.known import faults
from frostcore.quantity import Dimension, parse
from frostcore.remedy.plans.doing import work_of
from frostcore.remedy.plans.proposed import proposals
from frostcore.remedy.plans.proved import RULES, Proof
from frostcore.sheet.load import load
from frostcore.sheet.model import ComponentKind
from frostcore.sheet.plan import RunWire, read_plan, write_plan
from frostcore.sheet.points import point_name
from frostcore.sheet.rewired import PASSING, Unfit, boards_out, changed, reached
from frostcore.tape.entries import CallTaken, Entry, PlugMoved, PowerSet, ReadingTaken, Rewired
from frostcore.tape.kinds import kind_of
from frostcore.tape.learned import ValueLearned
from frostcore.tape.standing import stand
from frostcore.tape.take import Offered, take
from frostcore.tests import ngspice
from frostcore.tests.demo_sheets import SHEETS, demo_sheet
from frostcore.tests.test_against_ngspice import FLOOR_VOLTS, RELATIVE

K = ComponentKind
KINDS = [
    load(path.read_text(encoding="utf-8")).sheet
    for path in sorted(Path(__file__).resolve().parents[2].glob("archetypes/*.json"))
]
TARNBECK, FENNICK, LINTWICK = (
    demo_sheet(name) for name in ("Tarnbeck TB-34", "Fennick FK-18", "Lintwick LW-12")
)
DAY = "2026-12-24"
START = datetime(2026, 11, 2, 9, tzinfo=UTC)
CALL = CallTaken("call_taken", "It does not cool")
BOARD = ("CN1", "CN2", "CN5", "CN4")


def proposed(sheet):
    return proposals(sheet, [part.id for part in sheet.components], DAY)


PROPOSED = [(sheet, plan) for sheet in (*SHEETS, *KINDS) for plan in proposed(sheet).plans]


@cache
def proof_at(place):
    """The proof of a proposed plan, worked out once for every test."""
    return Proof(*PROPOSED[place])


def plan_of(*acts, keeps=("compressor",), **more):
    return read_plan(
        {"format": "frostline-plan-1", "title": "tried", "keeps": list(keeps), "acts": list(acts)} | more
    )


def part(name, kind, place="machine_bay", **nominal):
    component = {"id": name, "kind": kind, "name": name, "place": place, "nominal": nominal}
    return {"act": "add", "component": component}


def run(*points, **more):
    return {"act": "run", "points": list(points)} | more


def cut(a, b, at):
    return {"act": "cut", "wire": [a, b], "at": at}


class Proposed(TestCase):
    def test_there_are_some_for_every_unit_that_can_and_a_reason_for_every_other(self):
        for sheet in (*SHEETS, *KINDS):
            found = proposed(sheet)
            self.assertTrue(found.plans or found.impossible, sheet.title)
        self.assertIn("three phases", " ".join(proposed(demo_sheet("Pellworth PW-27")).impossible))
        self.assertIn("thermoelectric", " ".join(proposed(demo_sheet("Calvane CV-24")).impossible))
        self.assertIn("valve", " ".join(proposed(demo_sheet("Ossmere OM-58")).impossible))

    def test_no_board_is_out_as_built_and_a_converted_one_is_no_suspect(self):
        for sheet in (*SHEETS, *KINDS):
            self.assertEqual(boards_out(sheet), (), sheet.title)
        plan = next(each for each in proposed(TARNBECK).plans if "in place of" in each.title)
        self.assertTrue(any(fault.unit == "board" for fault in faults(TARNBECK)))
        self.assertFalse(any(fault.unit == "board" for fault in faults(changed(TARNBECK, plan))))

    def test_none_is_refused_and_what_it_keeps_runs(self):
        for place, (sheet, plan) in enumerate(PROPOSED):
            proof = proof_at(place)
            self.assertEqual(proof.refusals, (), f"{sheet.title}: {plan.title}, {plan.school}")
            self.assertLessEqual(set(plan.keeps), proof.running.parts_running)

    def test_both_schools_of_the_fan_and_of_defrosting(self):
        schools = [plan.school for plan in proposed(TARNBECK).plans]
        for school in (
            "fan with the compressor",
            "fan always on",
            "fan with the compressor, defrost by resting",
            "fan with the compressor, defrost by timer",
            "fan always on, defrost by resting",
            "fan always on, defrost by timer",
        ):
            self.assertIn(school, schools)

    def test_a_clock_or_a_coil_joins_no_live_to_a_neutral(self):
        """What moves a contact lies across the mains and lets nothing pass from one to the other."""
        moved = 0
        for sheet, plan in PROPOSED:
            if any(part.kind in {K.DEFROST_TIMER, K.CYCLE_TIMER, K.RELAY} for part in plan.added):
                moved += 1
                made = changed(sheet, plan)
                both = reached(made, "l", PASSING) & reached(made, "n", PASSING)
                self.assertEqual(both, set(), f"{sheet.title}: {plan.title}, {plan.school}")
        self.assertGreater(moved, 3)

    def test_a_fan_that_blows_on_the_heater_is_told_where_it_is_new(self):
        told = {plan.school: " ".join(Proof(TARNBECK, plan).warnings) for plan in proposed(TARNBECK).plans}
        words = "fan blows while the heater"
        self.assertIn(words, told["fan always on, defrost by timer"])
        self.assertNotIn(words, told["fan with the compressor, defrost by timer"])
        self.assertNotIn(words, told["fan always on, defrost by resting"])
        made = changed(
            TARNBECK,
            next(
                p for p in proposed(TARNBECK).plans if p.school.startswith("fan always on, defrost by timer")
            ),
        )
        label = plan_of({"act": "label", "text": "as found", "place": "machine_bay"}, keeps=())
        self.assertNotIn(words, " ".join(Proof(made, label).warnings))

    def test_every_wire_is_needed(self):
        """Each wire of each plan left out in turn is refused, or can't be."""
        some_of = {"Generic two doors, one coil, mains fans, no damper", *(sheet.title for sheet in SHEETS)}
        for sheet, plan in PROPOSED:
            for index, act in enumerate(plan.acts if sheet.title in some_of else ()):
                if not isinstance(act, RunWire):
                    continue
                fewer = replace(plan, acts=plan.acts[:index] + plan.acts[index + 1 :])
                with self.subTest(f"{sheet.title}: {plan.title}, {plan.school} without {act.points}"):
                    try:
                        self.assertTrue(Proof(sheet, fewer).refused)
                    except Unfit:
                        continue

    def test_what_it_makes_is_traced_in_every_mode_and_drawn_as_a_deck(self):
        for sheet, plan in PROPOSED:
            circuits = circuits_of(changed(sheet, plan))
            self.assertEqual(circuits.problem, "", f"{sheet.title}: {plan.title}")
            for name in plan.keeps:
                functions = [item.id for item in circuits.functions if item.component == name]
                self.assertTrue(functions, f"{sheet.title}: {plan.title}: {name}")
                for mode in circuits.live_modes:
                    self.assertTrue(circuits.trace(functions[0], mode.id).points)

    def test_a_fan_on_the_always_live_wire_runs_in_every_state_and_costs_eleven_watts_by_rest(self):
        plan = next(each for each in proposed(TARNBECK).plans if each.school == "fan always on")
        proof = Proof(TARNBECK, plan)
        self.assertTrue(all("condenser_fan" in ran.parts for ran in proof.runs))
        (_, resting), (_, now) = proof.watts
        self.assertAlmostEqual(now - resting, 11.0, delta=0.1)
        self.assertAlmostEqual(proof.yearly(0.4), 8.76 * 0.6 * 11, delta=0.5)

    def test_the_always_live_wire_is_tapped_inside_at_the_boards_own_plug(self):
        plan = next(each for each in proposed(TARNBECK).plans if each.school == "fan always on")
        work = work_of(Proof(TARNBECK, plan))
        self.assertNotIn("Outside", {row.place for row in work.table})
        tapped = next(row for row in work.table if row.start.startswith("the wire of CN1.1"))
        self.assertIn("(brown)", tapped.start)
        sheet = changed(TARNBECK, plan)
        self.assertIn(("CN1.1/old", "live_terminal.1"), {run.points for run in sheet.harness})
        self.assertEqual(point_name(sheet, "CN1.1/old"), "CN1.1’s free wire")
        thin = [replace(act, mm2=0.05) if isinstance(act, RunWire) else act for act in plan.acts]
        self.assertEqual(Proof(TARNBECK, replace(plan, acts=tuple(thin))).refusals[0].rule, "wire")

    def test_resting_and_running_follow_the_thermostat(self):
        plan = next(each for each in proposed(LINTWICK).plans if each.school.startswith("fan with"))
        proof = Proof(LINTWICK, plan)
        for ran in proof.runs:
            self.assertEqual("compressor" in ran.parts, "thermostat closed" in ran.state)
            self.assertEqual("cabinet_fan" in ran.parts, "thermostat closed" in ran.state)
            self.assertEqual("cabinet_lamp" in ran.parts, "Door open" in ran.state)


class AgainstNgspice(TestCase):
    def test_every_proposed_plan_in_every_position_and_both_polarities(self):
        jobs = []
        for place, (sheet, plan) in enumerate(PROPOSED):
            running = proof_at(place).running
            named = f"{sheet.title}: {plan.title}, {plan.school}"
            jobs += [
                (f"{named}, {state.name}", state.settled) for state in (*running.states, *running.turned)
            ]
        self.assertGreater(len(jobs), 100)
        answers = ngspice.run([deck(settled, label) for label, settled in jobs])
        for (label, settled), analyses in zip(jobs, answers, strict=True):
            spice = names(settled.circuit)
            for analysis, theirs in zip(Analysis, analyses, strict=True):
                for place, node in enumerate(settled.circuit.nodes):
                    mine, reference = complex(settled.solved[analysis].x[place]), theirs[spice[node]]
                    bound = RELATIVE * abs(reference) + FLOOR_VOLTS
                    self.assertLessEqual(abs(mine - reference), bound, f"{label}, {node}: {mine} {reference}")


def converted(*more, without=(), **changes):
    """The Tarnbeck's board replaced by a thermostat, with acts added, left out or changed."""
    plan = next(
        each
        for each in proposed(TARNBECK).plans
        if each.school.endswith("with the compressor, defrost by timer")
    )
    acts = [
        act
        for act in write_plan(plan)["acts"]
        if not any(point in str(act.get("points", act.get("component", {}).get("id"))) for point in without)
    ]
    for act in acts:
        component = act.get("component")
        if component and component["id"] in changes:
            component["nominal"] = component["nominal"] | changes[component["id"]]
    return plan_of(*acts, *more, keeps=plan.keeps)


class Refused(TestCase):
    def rules(self, plan, sheet=TARNBECK):
        return {refusal.rule: refusal for refusal in Proof(sheet, plan).refusals}

    def provoked(self, rule, plan, of="", sheet=TARNBECK):
        found = self.rules(plan, sheet)
        self.assertIn(rule, found)
        if of:
            self.assertEqual(found[rule].of, of)

    def test_a_thermal_fuse_bridged(self):
        self.provoked("protector", plan_of(run("bimetal.2", "defrost_heater.1")), "thermal_fuse")

    def test_a_bimetal_bridged(self):
        self.provoked("protector", plan_of(run("bimetal.1", "bimetal.2")), "bimetal")

    def test_an_overload_bridged(self):
        self.provoked("protector", plan_of(run("compressor.common", "overload.2")), "overload")

    def test_a_load_past_its_fuse(self):
        plan = plan_of(cut("CN2.3", "condenser_fan.1", "condenser_fan.1"), run("plug.l", "condenser_fan.1"))
        self.provoked("protector", plan, "board_fuse")

    def test_a_fuse_too_strong(self):
        plan = plan_of(
            cut("CN2.3", "condenser_fan.1", "condenser_fan.1"),
            part("fan_fuse", "fuse", amperes=16),
            run("plug.l", "fan_fuse.1"),
            run("fan_fuse.2", "condenser_fan.1"),
        )
        self.provoked("protector", plan, "board_fuse")

    def test_a_fuse_moved_within_its_path_is_not_refused(self):
        plan = plan_of(
            cut("CN2.3", "condenser_fan.1", "condenser_fan.1"),
            part("fan_fuse", "fuse", amperes=1),
            run("plug.l", "fan_fuse.1"),
            run("fan_fuse.2", "condenser_fan.1"),
        )
        self.assertEqual(self.rules(plan), {})

    def test_every_protector_of_every_unit_bridged(self):
        for sheet in (*SHEETS, *KINDS):
            for each in sheet.components:
                if each.kind not in {K.THERMAL_FUSE, K.BIMETAL, K.OVERLOAD}:
                    continue
                named = each.terminals or {}
                ends = [named.get(end, f"{each.id}.{end}") for end in ("1", "2")]
                known = {point for line in sheet.harness for point in line.points} | set(ends)
                self.assertLessEqual(set(ends), known)
                self.provoked("protector", plan_of(run(*ends), keeps=()), each.id, sheet)

    def test_earth_as_a_conductor_found_by_turning_the_plug(self):
        plan = plan_of(cut("CN2.4", "condenser_fan.2", "condenser_fan.2"), run("condenser_fan.2", "earth"))
        self.provoked("earth", plan)
        self.provoked("earth", plan_of(run("plug.n", "earth")))

    def test_a_heater_that_nothing_ends(self):
        plan = converted(run("CN2.5/wire", "line_fuse.2"))
        self.assertNotIn("heater", self.rules(plan))  # its bimetal ends it
        bridged = converted(run("bimetal.1", "bimetal.2"))
        self.provoked("heater", bridged, "defrost_heater")

    def test_volts_a_load_is_not_made_for(self):
        self.provoked("volts", converted(low_supply={"volts": 24}), "fridge_lamp")

    def test_mains_on_wires_laid_for_low_volts(self):
        plan = plan_of({"act": "park", "connector": "CN5"}, run("plug.l", "CN5.1/wire"))
        self.provoked("low_wires", plan, "CN5.1/wire-fridge_lamp.plus")

    def test_contacts_beyond_what_they_carry(self):
        self.provoked("contact", converted(mech_stat={"amperes": 0.3}), "mech_stat")
        self.provoked("start", converted(mech_stat={"amperes": 1, "start_amperes": 2}), "mech_stat")
        plan = plan_of(
            cut("CN2.3", "condenser_fan.1", "condenser_fan.1"),
            part("hand", "switch"),
            run("compressor.run", "hand.1"),
            run("hand.2", "condenser_fan.1"),
        )
        self.provoked("contact", plan, "hand")

    def test_a_wire_too_thin(self):
        plan = next(each for each in proposed(TARNBECK).plans if each.school.endswith("timer"))
        acts = [
            act | {"mm2": 0.1} if act.get("points", [""])[0] == "CN1.1/wire" else act
            for act in write_plan(plan)["acts"]
        ]
        self.provoked("wire", plan_of(*acts, keeps=plan.keeps), "CN1.1/wire")

    def test_a_compressor_that_no_temperature_stops(self):
        acts = [
            {"act": "park", "connector": "CN1"},
            {"act": "park", "connector": "CN2"},
            part("line", "fuse", "board_bay", amperes=5),
            run("CN1.1/wire", "line.1"),
            run("line.2", "CN2.1/wire"),
            run("CN1.2/wire", "CN2.2/wire"),
        ]
        self.provoked("undecided", plan_of(*acts), "compressor")
        self.assertEqual(self.rules(plan_of(*acts, stop_gap_until=DAY)), {})
        timer = next(plan for plan in proposed(FENNICK).plans)
        self.provoked("undecided", replace(timer, stop_gap_until=""), "compressor", FENNICK)

    def test_a_forgotten_neutral_loses_what_is_kept(self):
        self.provoked("keeps", converted(without=("CN2.2/wire",)), "compressor")

    def test_a_joint_where_water_stands(self):
        plan = plan_of(part("hand", "switch", amperes=6), run("hand.1", "evaporator_fan.plus"))
        self.provoked("wet", plan, "evaporator_fan.plus")

    def test_a_short(self):
        self.provoked("trips", plan_of(run("plug.l", "plug.n"), keeps=()))

    def test_a_clock_without_power_and_a_contact_that_carries_nothing(self):
        self.provoked("idle", converted(without=("defrost_timer_2.motor",)), "defrost_timer_2")
        self.provoked("idle", plan_of(part("hand", "switch", amperes=6), run("plug.l", "hand.1")), "hand")

    def test_a_load_with_no_fuse_at_all(self):
        plan = plan_of(
            part("night", "lamp", volts=230, watts=5), run("plug.l", "night.1"), run("plug.n", "night.2")
        )
        self.provoked("fuse", plan, "night")

    def test_every_rule_has_been_provoked(self):
        """Each rule's own words stand in one of the tests above."""
        known = {"protector", "fuse", "heater", "earth", "trips", "volts", "low_wires", "contact", "start"}
        known |= {"idle", "wire", "undecided", "keeps", "wet"}
        source = Path(__file__).read_text(encoding="utf-8")
        self.assertEqual(len(RULES), 13)
        for rule in known:
            self.assertIn(f'provoked("{rule}"', source)

    def test_a_thermostat_in_the_neutral_is_a_warning(self):
        plan = plan_of(
            {"act": "park", "connector": "CN1"},
            {"act": "park", "connector": "CN2"},
            part("line", "fuse", "board_bay", amperes=5),
            part("stat", "thermostat", "board_bay", amperes=6, start_amperes=20, opens_celsius=-24),
            run("CN1.1/wire", "line.1"),
            run("line.2", "CN2.1/wire"),
            run("CN2.2/wire", "stat.1"),
            run("stat.2", "CN1.2/wire"),
        )
        proof = Proof(TARNBECK, plan)
        self.assertEqual(proof.refusals, ())
        self.assertTrue(any("in the neutral" in each for each in proof.warnings))

    def test_a_parked_wire_beside_a_live_one_is_a_phantom(self):
        sheet = changed(TARNBECK, plan_of({"act": "park", "connector": "CN2"}, keeps=()))
        reading = circuits_of(sheet).reading("normal", MeterRange.VAC, "condenser_fan.1", "earth")
        self.assertLess(reading.value or 0.0, 60)


class Documents(TestCase):
    def test_a_plan_is_written_and_read_back(self):
        for _, plan in PROPOSED:
            self.assertEqual(read_plan(json.loads(json.dumps(write_plan(plan)))), plan)

    def test_nothing_of_the_sheet_is_touched(self):
        for sheet, plan in PROPOSED:
            before = write(sheet)
            changed(sheet, plan)
            self.assertEqual(write(sheet), before)

    def test_a_plan_that_leads_nowhere_is_told_at_its_place(self):
        for act, place, told in (
            ({"act": "park", "connector": "CN9"}, "acts[0]", "no connector “CN9”"),
            ({"act": "park", "connector": "CN7"}, "acts[0]", "joins two harnesses"),
            (cut("CN2.1", "condenser_fan.1", "CN2.1"), "acts[0]", "no wire runs"),
            (run("CN2.1/wire", "plug.l"), "acts[0].points", "no free end"),
            (run("CN2.1", "plug.l"), "acts[0].points", "leaves CN2.1 already"),
            (run("CN2.99", "plug.l"), "acts[0].points", "no pin CN2.99"),
            (run("nothing.1", "plug.l"), "acts[0].points", "no part “nothing”"),
            (part("compressor", "switch"), "acts[0]", "already"),
            (part("hand", "switch", "attic"), "acts[0]", "no place “attic”"),
            ({"act": "label", "place": "attic", "text": "x"}, "acts[0].place", "no place “attic”"),
        ):
            with self.assertRaises(Unfit) as found:
                changed(TARNBECK, plan_of(act))
            self.assertIn(told, str(found.exception))
            self.assertTrue(str(found.exception).startswith(place), str(found.exception))

    def test_contacts_that_stand_in_too_many_ways_together_are_refused_before_they_are_solved(self):
        with self.assertRaises(Unfit) as found:
            changed(TARNBECK, plan_of(*(part(f"s{at}", "switch") for at in range(20)), keeps=()))
        self.assertIn("3 at most", str(found.exception))

    def test_a_part_without_what_it_needs_is_named(self):
        proof = Proof(TARNBECK, plan_of(part("r", "relay"), run("plug.l", "r.coil_1"), keeps=()))
        with self.assertRaises(FrostError) as found:
            _ = proof.refusals
        self.assertIn("no volts", str(found.exception))

    def test_a_document_that_is_no_plan_is_told_at_its_place(self):
        good = {"format": "frostline-plan-1", "title": "x", "acts": [run("a", "b")]}
        for change, told in (
            ({"format": "x"}, "format"),
            ({"acts": []}, "1 to 60"),
            ({"acts": [{"act": "burn"}]}, "acts[0].act"),
            ({"acts": [run("a")]}, "two points"),
            ({"acts": [run("a", "b", mm2=400)]}, "acts[0].mm2"),
            ({"acts": [run("a", "b", joint="chewing gum")]}, "joint"),
            ({"acts": [cut("a", "b", "c")]}, "acts[0]"),
            ({"stop_gap_until": "soon"}, "no day"),
            ({"stop_gap_until": "2026-02-31"}, "calendar"),
            ({"title": " "}, "title"),
            ({"acts": [part("r", "heater", ohms=0)]}, "out of range"),
            ({"acts": [part("r", "heater", ohms=1e300)]}, "out of range"),
            ({"acts": [part("R 1", "heater")]}, "no identifier"),
            ({"acts": [run("a;b", "c")]}, "no identifier"),
        ):
            with self.assertRaises(SheetError) as found:
                read_plan(good | change)
            self.assertIn(told, str(found.exception))

    @given(some.data())
    @settings(max_examples=60)
    def test_whatever_is_joined_is_solved_or_refused_in_words(self, data):
        points = [
            "plug.l",
            "plug.n",
            "earth",
            "compressor.run",
            "overload.2",
            "condenser_fan.1",
            "CN2.1/wire",
        ]
        points += ["CN5.1/wire", "fridge_lamp.plus", "CN2.5/wire", "hand.1", "hand.2", "nowhere", "CN3.1"]
        acts = [{"act": "park", "connector": name} for name in data.draw(some.sets(some.sampled_from(BOARD)))]
        acts.append(part("hand", "switch", amperes=6))
        pairs = data.draw(
            some.lists(some.lists(some.sampled_from(points), min_size=2, max_size=3), max_size=4)
        )
        acts += [run(*pair) for pair in pairs]
        try:
            proof = Proof(TARNBECK, plan_of(*acts, keeps=()))
        except SheetError as error:
            self.assertTrue(str(error))
            return
        for refusal in proof.refusals:
            self.assertTrue(refusal.text)
        self.assertTrue(proof.runs)


class Work(TestCase):
    def test_the_table_is_in_the_order_of_doing_with_colour_ends_and_insulation(self):
        plan = next(
            each
            for each in proposed(TARNBECK).plans
            if each.school.endswith("compressor, defrost by resting")
        )
        work = work_of(Proof(TARNBECK, plan))
        order = ["park", "cut", "add", "join", "label"]
        self.assertEqual(
            [row.do for row in work.table], sorted((row.do for row in work.table), key=order.index)
        )
        joint = next(row for row in work.table if "CN2.1" in row.end)
        self.assertIn("compressor’s run (black)", joint.end)
        self.assertIn("0.75 mm²", joint.wire)
        self.assertEqual(joint.insulated, "crimped and sleeved")
        self.assertEqual(joint.place, "Board bay, top rear")

    def test_before_the_plug_the_ohms_by_hand(self):
        """Windings 16.5 ∥ (21.5 + 22), the overload, half a dozen wires; the fan beside them."""
        plan = next(
            each
            for each in proposed(TARNBECK).plans
            if each.school.endswith("compressor, defrost by resting")
        )
        work = work_of(Proof(TARNBECK, plan))
        windings = 1 / (1 / 16.5 + 1 / (21.5 + 22)) + 0.4
        by_hand = 1 / (1 / windings + 1 / 310)
        closed = next(row for row in work.before_plug if "l to n" in row.points and "closed" in row.stands)
        self.assertAlmostEqual(float(closed.reads.split()[0]), by_hand, delta=0.5)
        metal = [row for row in work.before_plug if "chassis" in row.points]
        self.assertEqual({row.reads for row in metal}, {"OL"})

    def test_what_proves_it_is_read_running_and_at_rest(self):
        plan = next(
            each
            for each in proposed(TARNBECK).plans
            if each.school.endswith("compressor, defrost by resting")
        )
        work = work_of(Proof(TARNBECK, plan))
        for name in ("Compressor", "Condenser fan", "Evaporator fan", "Fridge lamp"):
            reads = [row.reads for row in work.proofs if row.points.startswith(name)]
            self.assertEqual(len(reads), 2, name)
            self.assertGreater(float(reads[0].split()[0]), 10)
            self.assertEqual(float(reads[1].split()[0]), 0)

    def test_label_and_consent_say_what_is_lost_and_until_when(self):
        work = work_of(Proof(FENNICK, proposed(FENNICK).plans[0]))
        self.assertIn("A STOP-GAP. Undo it by 24 December 2026", work.label)
        self.assertTrue(any("24 December 2026" in line for line in work.consent))


def entry(number, body):
    return Entry(str(number), START + timedelta(minutes=number), "m", body)


class OnTheTape(TestCase):
    PLAN = next(each for each in proposed(TARNBECK).plans if each.school == "fan with the compressor")
    BOARD_OUT = next(each for each in proposed(TARNBECK).plans if "in place of" in each.title)

    def stood(self, *bodies):
        return stand(TARNBECK, [entry(at, body) for at, body in enumerate((CALL, *bodies))])

    def done(self, plan=None):
        return Rewired("rewired", "done", plan or self.PLAN)

    def test_from_then_on_the_call_is_on_the_changed_sheet_and_undoing_gives_the_identical_one(self):
        where = self.stood(self.done())
        self.assertEqual(where.sheet, changed(TARNBECK, self.PLAN))
        self.assertEqual(where.now.unchanged, TARNBECK)
        back = self.stood(self.done(), Rewired("rewired", "undone"))
        self.assertIs(back.sheet, TARNBECK)
        self.assertIsNone(back.now.plan)

    def test_each_reading_is_judged_on_the_sheet_of_its_moment(self):
        ohms = ReadingTaken(
            "reading", "ohm", parse("16.5", Dimension.RESISTANCE), "CN2.1", "CN2.2", mode="off_warm"
        )
        where = self.stood(PowerSet("power_set", "unplugged"), ohms, self.done(self.BOARD_OUT))
        self.assertIsNotNone(where.judged_reading(where.slip("2")).expected)
        self.assertEqual(
            evidence_from(where),
            tuple(told for told in evidence_from(where) if not isinstance(told[0], Read)),
        )
        back = self.stood(
            PowerSet("power_set", "unplugged"), ohms, self.done(self.BOARD_OUT), Rewired("rewired", "undone")
        )
        self.assertTrue(any(isinstance(told, Read) for told, _ in evidence_from(back)))

    def test_a_reading_on_the_changed_wiring_counts_there(self):
        volts = ReadingTaken(
            "reading",
            "vac",
            parse("0", Dimension.VOLTAGE),
            "condenser_fan.1",
            "condenser_fan.2",
            mode="normal",
        )
        where = self.stood(self.done(), PowerSet("power_set", "live"), volts)
        self.assertEqual(where.judged_reading(where.slip("3")).expected.figure, "230 V")
        self.assertTrue(any(isinstance(told, Read) for told, _ in evidence_from(where)))
        self.assertTrue(judgement_of(where).suspects)

    def test_what_is_learned_meanwhile_stays_when_it_is_undone(self):
        learned = ValueLearned(
            "value_learned", "compressor", "ohms", parse("17", Dimension.RESISTANCE), "measured"
        )
        where = self.stood(self.done(), learned, Rewired("rewired", "undone"))
        self.assertEqual(where.sheet.component("compressor").nominal.ohms, 17)

    def test_parked_plugs_are_not_out_any_more_and_one_plan_stands_at_a_time(self):
        where = self.stood(
            PlugMoved("plug_moved", "CN2", "pulled"),
            PlugMoved("plug_moved", "CN3", "pulled"),
            self.done(self.BOARD_OUT),
        )
        self.assertEqual(where.pulled, ("CN3",))
        with self.assertRaisesMessage("changed already"):
            check(where, self.done())
        with self.assertRaisesMessage("nothing to put back"):
            check(self.stood(), Rewired("rewired", "undone"))

    def test_a_plan_that_does_not_fit_the_sheet_of_now_is_refused_as_any_slip_is(self):
        other = Offered("9", START + timedelta(minutes=9), "m", self.done(proposed(FENNICK).plans[0]))
        with self.assertRaises(TapeError):
            take(self.stood(), other)

    def assertRaisesMessage(self, words):
        return self.assertRaisesRegex(FrostError, words)


def check(where, body):
    kind_of(body).check(where.now, body)
