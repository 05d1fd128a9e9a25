"""A board on the mat: its supply as a chain, what a meter shows of it, what is judged, how it is named."""

import math
from dataclasses import replace
from unittest import TestCase

import numpy as np
from hypothesis import given, settings
from hypothesis import strategies as st

from frostcore.bench.circuit import damage, drawn, plugged, unplugged
from frostcore.bench.faults import faults_of
from frostcore.bench.judge import LIVE_SHORT, BenchJudgement, judge_board
from frostcore.bench.known_good import KeptReading, beside, to_keep
from frostcore.bench.ladder import Ladder
from frostcore.bench.live import read_live, watts_of
from frostcore.bench.probes import probes_of
from frostcore.bench.ranges import BenchRange
from frostcore.bench.rehearse import described, figures, rehearse
from frostcore.bench.supplies import supply_of
from frostcore.bench.table import table_of
from frostcore.bench.telling import Telling
from frostcore.bench.typed import reading_from
from frostcore.bench.unplugged import esr_shown, farads_shown, read_unplugged
from frostcore.bench.usual import USUAL
from frostcore.bench.weigh import BenchReading, BenchWeigher
from frostcore.circuit.element import Analysis, CircuitError
from frostcore.circuit.faulted import SettledFaults, with_fault
from frostcore.circuit.settle import settle
from frostcore.errors import FrostError
from frostcore.faults.draws import Draw
from frostcore.sheet.supply import BoardPart, BoardPartKind
from frostcore.tests.demo_sheets import demo_sheet

FLYBACK = described(USUAL["flyback"](230.0))
MIDDLE = Draw(0, 1)
PROBES = {probe.id: probe for probe in probes_of(FLYBACK)}


class Nominal(Draw):
    """Parts as written, amounts in their middle."""

    def off(self, name):
        return 0.0

    def share(self, name):
        return 0.5


AS_WRITTEN = Nominal(0, 1)
FAULTS = {fault.id: fault.at(AS_WRITTEN) for fault in faults_of(FLYBACK)}


def shown(*probe_ids, fault=None, supply=FLYBACK):
    found = read_unplugged(supply, [PROBES[each] for each in probe_ids], [FAULTS[fault] if fault else {}])
    return found.values[:, 0].tolist()


def live(*probe_ids, fault=None, supply=FLYBACK, mains=230.0):
    probes = {probe.id: probe for probe in probes_of(supply)}
    conditions = {each.id: each.at(AS_WRITTEN) for each in faults_of(supply)}
    found = read_live(
        [supply], [probes[each] for each in probe_ids], [[conditions[fault] if fault else {}]], mains
    )
    return found.values[0, :, 0].tolist()


class Documents(TestCase):
    def test_every_usual_supply_is_whole_on_either_mains(self):
        for kind, make in USUAL.items():
            for mains in (120.0, 230.0):
                with self.subTest(kind, mains=mains):
                    supply = make(mains)
                    self.assertEqual({part.stage for part in supply.parts}, {s.id for s in supply.stages})

    def test_what_leads_nowhere_is_told(self):
        first = FLYBACK.parts[0]
        cases = (
            ({"parts": (*FLYBACK.parts, replace(first, stage="attic", id="X"))}, "stage “attic”"),
            ({"parts": (*FLYBACK.parts, first)}, "has the part F1 twice"),
            ({"line": "nowhere"}, "no part of supply flyback is at the node nowhere"),
            ({"switchers": (replace(FLYBACK.switchers[0], switch="U9"),)}, "switch names U9"),
            ({"switchers": (replace(FLYBACK.switchers[0], output="p24"),)}, "output is at p24"),
        )
        for changes, told in cases:
            with self.subTest(told), self.assertRaisesRegex(ValueError, told):
                replace(FLYBACK, **changes)

    def test_a_part_that_makes_volts_is_of_its_kind(self):
        rectifier = FLYBACK.rectifiers[0]
        cases = (
            ({"rectifiers": (replace(rectifier, bulk="R1"),)}, "bulk R1 is resistor, not electrolytic"),
            ({"rectifiers": (replace(rectifier, diodes=("D1", "F1")),)}, "diodes F1 is fuse"),
            ({"rectifiers": (replace(rectifier, diodes=()),)}, "has no diodes"),
            ({"rectifiers": (replace(rectifier, winding="T1s"),)}, "no transformer’s secondary"),
            ({"parts": tuple(replace(p, c="") for p in FLYBACK.parts)}, "regulator U2 needs its ground"),
        )
        for changes, told in cases:
            with self.subTest(told), self.assertRaisesRegex(ValueError, told):
                replace(FLYBACK, **changes)

    def test_a_part_says_what_must_be_known_of_it(self):
        with self.assertRaisesRegex(ValueError, "electrolytic C1 needs its farads, above nothing"):
            BoardPart("C1", BoardPartKind.ELECTROLYTIC, "a", "b", "bulk")
        with self.assertRaisesRegex(ValueError, "both ends at a"):
            BoardPart("R1", BoardPartKind.RESISTOR, "a", "a", "bulk", ohms=1.0)

    def test_three_sheets_describe_theirs_and_the_others_are_asked_for_the_kind(self):
        for title in ("Tarnbeck TB-34", "Ondrel OR-620", "Lintwick LW-12"):
            self.assertEqual(supply_of(demo_sheet(title), "board", None, 230.0).source, "sheet")
        with self.assertRaisesRegex(FrostError, "choose its kind, flyback"):
            supply_of(demo_sheet("Skerrow SK-48"), "board", None, 230.0)
        with self.assertRaisesRegex(FrostError, "There is no board “bored”"):
            supply_of(demo_sheet("Tarnbeck TB-34"), "bored", None, 230.0)


class Unplugged(TestCase):
    """By hand: what a meter finds on the drawing."""

    def test_ohms_without_junctions_are_the_parts(self):
        fuse, limiter, sense, primary = shown("ohm:l-lf", "ohm:la-a", "ohm:sh-bm", "ohm:bp-d")
        for found, own in ((fuse, 0.08), (limiter, 10.0), (sense, 1.2), (primary, 4.5)):
            self.assertAlmostEqual(found, own, delta=1e-6 * own + 1e-9)
        # 2.2 kΩ of bleeder beside 9 kΩ of the regulator's inside.
        self.assertAlmostEqual(shown("ohm:p12-g")[0], 1 / (1 / 2200 + 1 / 9000), delta=0.01)

    def test_a_diode_shows_its_knee_one_way_and_nothing_the_other(self):
        forward, back = shown("diode:a-bp", "diode:bp-a")
        self.assertAlmostEqual(forward, 0.55, delta=0.005)
        self.assertEqual(back, math.inf)
        self.assertEqual(shown("diode:a-bp", fault="D1:open"), [math.inf])
        for found in shown("diode:a-bp", "diode:bp-a", fault="D1:short"):
            self.assertLess(found, 0.01)

    def test_two_in_series_show_both_knees(self):
        # Red on minus, black on plus: two diodes one after the other, and the same beside them.
        probe = replace(PROBES["diode:a-bp"], red="bm", black="bp")
        found = read_unplugged(FLYBACK, [probe], [{}, FAULTS["D1:open"]]).values[0]
        # Through the switcher's own diode and the primary there is a shorter way than through the bridge.
        self.assertAlmostEqual(found[0], 0.5, delta=0.02)
        cut = read_unplugged(FLYBACK, [probe], [FAULTS["T1p:open"]]).values[0, 0]
        # Half the meter's current each way: 2 × (0.52 V + 30 Ω × 0.39 mA).
        self.assertAlmostEqual(cut, 2 * (0.52 + 30 * 0.5 * (3 - cut) / 2500), delta=0.001)
        self.assertAlmostEqual(cut, 1.063, delta=0.001)

    def test_swapping_the_leads_mirrors_what_has_no_junction(self):
        for name, probe in PROBES.items():
            if probe.range is BenchRange.OHM:
                with self.subTest(name):
                    ends = replace(probe, red=probe.black, black=probe.red)
                    found = read_unplugged(FLYBACK, [probe, ends], [{}])
                    if (found.values == found.other).all():
                        self.assertAlmostEqual(*found.values[:, 0], delta=1e-6 * found.values[0, 0])

    def test_what_electronics_and_first_microamperes_move_is_no_firm_figure(self):
        logic = read_unplugged(FLYBACK, [PROBES["ohm:p5-g"], PROBES["ohm:la-a"]], [{}])
        self.assertLess(logic.other[0, 0], 0.8 * logic.values[0, 0])
        self.assertEqual(logic.other[1, 0], logic.values[1, 0])

    def test_every_batched_fault_reads_as_the_same_written_anew(self):
        base = settle(unplugged(FLYBACK))
        meter = PROBES["diode:sh-d"]
        for name, conditions in FAULTS.items():
            with self.subTest(name):
                harm = replace(damage(FLYBACK, conditions), bridges=())
                anew = with_fault(base, harm)
                batched = SettledFaults([base], [[harm]]).edited(Analysis.DC).x[0]
                np.testing.assert_allclose(batched, anew.solved[Analysis.DC].x, atol=1e-6)
        self.assertIn(meter.red, FLYBACK.nodes)

    def test_esr_and_farads_are_of_all_that_lies_there(self):
        probe = PROBES["esr:p12-g"]
        twin = replace(FLYBACK, parts=(*FLYBACK.parts, replace(FLYBACK.part("C3"), id="C9")))
        self.assertAlmostEqual(esr_shown(FLYBACK, probe, {}), 0.06)
        self.assertAlmostEqual(esr_shown(twin, probe, {}), 0.03)
        self.assertAlmostEqual(farads_shown(twin, probe, {}), 940e-6)
        self.assertAlmostEqual(esr_shown(FLYBACK, probe, FAULTS["C3:short"]), FAULTS["C3:short"]["C3"].ohms)
        self.assertEqual(farads_shown(FLYBACK, probe, FAULTS["C3:short"]), math.inf)


class Live(TestCase):
    def test_a_sound_board_has_its_bus_and_its_rails(self):
        bus, twelve, five = live("vdc:bp-bm", "vdc:p12-g", "vdc:p5-g")
        self.assertAlmostEqual(bus, math.sqrt(2) * 230 - 1.4, delta=3.0)
        self.assertAlmostEqual(twelve, 12.0, delta=0.01)
        self.assertAlmostEqual(five, 5.0, delta=0.01)

    def test_dead_supplies_part_by_the_controllers_own_volts(self):
        own = "vdc:own-bm"
        self.assertAlmostEqual(live(own, fault="R1:open")[0], 0.0, delta=0.1)
        self.assertAlmostEqual(live(own, fault="U1:dead")[0], 20.0, delta=0.3)
        self.assertAlmostEqual(live(own, fault="T1s:open")[0], 12.5, delta=0.3)
        for fault in ("R1:open", "U1:dead", "T1s:open"):
            bus, rail = live("vdc:bp-bm", "vdc:p12-g", fault=fault)
            self.assertGreater(bus, 315)
            self.assertLess(rail, 0.1)

    def test_an_open_fuse_choke_or_limiter_shows_the_mains_across_itself_and_none_behind(self):
        for fault, across in (("F1:open", "vac:l-lf"), ("L1a:open", "vac:lf-la"), ("NT1:open", "vac:la-a")):
            with self.subTest(fault):
                mains, bridge, bus = live(across, "vac:a-b", "vdc:bp-bm", fault=fault)
                self.assertAlmostEqual(mains, 230.0, delta=1.0)
                self.assertLess(bridge, 1.0)
                self.assertLess(bus, 0.1)

    def test_one_diode_open_is_seen_on_the_ac_range_and_hardly_in_dc(self):
        (dc, ac), (dc_open, ac_open) = (live("vdc:bp-bm", "vac:bp-bm", fault=f) for f in (None, "D1:open"))
        self.assertLess(abs(dc_open / dc - 1), 0.01)
        self.assertAlmostEqual(ac_open / ac, 2.0, delta=0.2)

    def test_a_dried_rail_capacitor_changes_no_volts(self):
        self.assertEqual(live("vdc:p12-g", "vdc:p5-g", fault="C3:worn"), live("vdc:p12-g", "vdc:p5-g"))

    def test_a_shorted_rail_pulls_the_supply_into_its_rhythm(self):
        rail, logic = live("vdc:p12-g", "vdc:p5-g", fault="C3:short")
        self.assertLess(rail, 2.5)
        self.assertLess(logic, 1.0)

    def test_a_short_on_the_logic_stays_behind_the_regulators_limit(self):
        twelve, five = live("vdc:p12-g", "vdc:p5-g", fault="U3:short")
        self.assertAlmostEqual(twelve, 12.0, delta=0.1)
        self.assertLess(five, 2.5)

    def test_half_the_series_capacitor_leaves_too_little_for_a_relay(self):
        supply = described(USUAL["dropper"](230.0))
        rail, with_relay = live("vdc:bp-bm", "vdc:bp-bm+relay", fault="CX1:worn", supply=supply)
        self.assertAlmostEqual(rail, 24.0, delta=0.2)
        self.assertLess(with_relay, 15.0)
        self.assertAlmostEqual(live("vdc:bp-bm+relay", supply=supply)[0], 24.0, delta=0.2)

    def test_a_linear_supply_gives_its_bus_by_its_windings_ohms(self):
        supply = described(USUAL["linear"](230.0))
        bus, relay = live("vdc:bp-bm", "vdc:bp-bm+relay", supply=supply)
        self.assertLess(bus, math.sqrt(2) * 16.5 - 1.4)
        self.assertLess(relay, bus)
        self.assertAlmostEqual(live("vdc:p12-bm", supply=supply)[0], 12.0, delta=0.01)

    def test_watts_are_what_the_loads_take_through_the_switcher(self):
        # 60 mA of logic and the regulators' own, 12 V of bleeder: (12.7 V × (60 + 5.5) mA)/0.78 + 0.3 W.
        self.assertAlmostEqual(
            watts_of(FLYBACK, 230.0), 12.7 * 0.0655 / 0.78 + 0.3 + 322 * 309 / 470e3, delta=0.02
        )

    def test_nothing_is_singular_whatever_fails(self):
        for kind, make in USUAL.items():
            supply = described(make(120.0))
            base = settle(plugged(supply, 120.0))
            for fault in faults_of(supply):
                with self.subTest(kind, fault=fault.id):
                    try:
                        with_fault(base, damage(supply, fault.at(MIDDLE)))
                    except CircuitError as error:
                        self.fail(str(error))


class Judging(TestCase):
    @classmethod
    def setUpClass(cls):
        cls.table = table_of(FLYBACK, 230.0)
        cls.weigher = BenchWeigher(cls.table)

    def judged(self, *pairs, weigher=None):
        empty = BenchJudgement(weigher or self.weigher, ())
        return BenchJudgement(empty.weigher, [reading_from(empty, *pair)[0] for pair in pairs])

    def test_probabilities_sum_to_one_and_before_any_reading_are_the_prior(self):
        judgement = self.judged()
        np.testing.assert_allclose(judgement.posterior.chances, self.table.known.prior, atol=1e-12)
        after = self.judged(("said", "dead"), ("ohm:l-lf", "OL"))
        self.assertAlmostEqual(float(after.posterior.by_draw.sum()), 1.0, places=12)

    def test_a_reading_no_fault_touches_tells_nothing_of_others(self):
        """One draw serves all: an ESR reading within good ones' spread moves only who touches it."""
        before, after = self.judged(), self.judged(("esr:p12-g", "0.06"))
        others = [each for each in self.table.known.all if not each.unit.startswith("C3") and each.fault]
        places = [self.table.known.place[each.id] for each in others]
        ratio = after.posterior.chances[places] / before.posterior.chances[places]
        self.assertLess(ratio.std() / ratio.mean(), 0.02)

    def test_a_fuse_is_never_named_before_bridge_and_bus_are_read(self):
        pairs = [("said", "dead"), ("ohm:l-lf", "OL"), ("ohm:lf-n", "1M"), ("diode:sh-d", "0.5")]
        pairs += [("look:VR1", "good"), ("look:CX1", "good"), ("vac:l-lf", "230")]
        owed = self.judged(*pairs).owed
        self.assertIn("ohm:bp-bm", [probe.id for probe in owed])
        for probe in owed[:-1]:
            pairs.append((probe.id, "OL" if probe.range is BenchRange.OHM else "0.55"))
            self.assertIsNone(self.judged(*pairs).named)
        last = owed[-1]
        pairs.append((last.id, "OL" if last.range is BenchRange.OHM else "0.55"))
        self.assertEqual(self.judged(*pairs).named.unit, "F1")

    def test_the_suppressor_and_the_capacitor_beside_it_are_named_together_where_looks_do_not_part_them(self):
        pairs = [("said", "dead"), ("ohm:l-lf", "OL"), ("ohm:lf-n", "2"), ("look:VR1", "good")]
        judgement = self.judged(*pairs, ("look:CX1", "good"), ("farads:lf-n", "OL"))
        self.assertEqual({each.unit for each in judgement.group}, {"VR1", "CX1"})

    def test_no_power_while_a_short_is_likely(self):
        risky = self.judged(("said", "dead"), ("ohm:l-lf", "OL"))
        self.assertGreater(risky.short, LIVE_SHORT)
        self.assertFalse(any(each.probe.live for each in risky.proposals))
        sound = self.judged(("ohm:l-lf", "0.08"), ("said", "dead"))
        self.assertTrue(sound.power)

    def test_good_volts_never_clear_their_capacitor(self):
        plain = self.judged(("said", "alive"))
        volts = self.judged(("said", "alive"), ("vdc:p12-g", "12.0"))
        chance = [{each.unit: each.probability for each in j.suspects}.get("C3") for j in (plain, volts)]
        self.assertGreaterEqual(chance[1], 0.99 * chance[0])

    def test_the_bus_is_judged_by_the_mains_measured_here(self):
        low = BenchWeigher(self.table, 216.0)
        ladder = Ladder(self.judged(("vdc:bp-bm", "303"), weigher=low))
        at = next(each for rung in ladder.rungs for each in rung.readings if each.probe.id == "vdc:bp-bm")
        self.assertEqual(at.verdict, "in_band")
        here = Ladder(self.judged(("vdc:bp-bm", "303")))
        at = next(each for rung in here.rungs for each in rung.readings if each.probe.id == "vdc:bp-bm")
        self.assertEqual(at.verdict, "low")

    def test_a_switcher_takes_fuse_and_sense_resistor_and_all_three_are_changed(self):
        pairs = [("said", "dead"), ("ohm:l-lf", "OL"), ("ohm:lf-n", "1M"), ("diode:sh-d", "0.01")]
        judgement = self.judged(*pairs, ("ohm:sh-bm", "OL"), ("ohm:bp-bm", "OL"))
        self.assertEqual(judgement.named.unit, "U1")
        told = " ".join(Telling(Ladder(judgement)).told)
        self.assertIn("Change together with it: fuse F1 and sense resistor R3.", told)
        self.assertIn("Before power is put on again read", told)

    def test_a_cracked_joint_is_named_by_what_pressing_it_changes_and_no_reading_clears_it(self):
        before = self.judged(("said", "alive"), ("ohm:p12-kn", "400"))
        pressed = self.judged(("said", "alive"), ("ohm:p12-kn", "400"), ("moved:K1", "changes"))
        place = self.table.known.place["K1:joint"]
        self.assertGreater(before.posterior.chances[place], 0.4 * self.table.known.prior[place])
        self.assertGreater(pressed.posterior.chances[place], 8 * before.posterior.chances[place])

    def test_a_driven_relay_that_is_silent_is_its_transistor_or_its_coil(self):
        judgement = self.judged(("said", "alive"), ("driven:Q1", "idle"), ("vdc:p12-g+relay", "12"))
        before = self.judged(("said", "alive"))
        for name in ("Q1:open", "K1:open"):
            place = self.table.known.place[name]
            self.assertGreater(judgement.posterior.chances[place], 5 * before.posterior.chances[place])

    def test_the_first_rung_that_fails_is_the_first_on_the_way_from_the_mains(self):
        ladder = Ladder(self.judged(("vdc:p12-g", "0.3"), ("vdc:bp-bm", "0")))
        self.assertEqual(ladder.first_bad.id, "bulk")
        self.assertEqual([rung.state for rung in ladder.rungs].count("first_bad"), 1)

    def test_what_can_not_be_read_is_said(self):
        empty = self.judged()
        cases = (
            ("vdc:moon-bm", "3", "There is no reading “vdc:moon-bm” on this board"),
            ("vdc:bp-bm", "OL", "volts are never OL"),
            ("vdc:bp-bm", "9 kV", "up to 600 V"),
            ("vdc:bp-bm", "lots", "lots"),
            ("look:C1", "fine", "write bad or good"),
            ("said", "", "write dead or tries or alive"),
        )
        for probe, typed, told in cases:
            with self.subTest(probe, typed=typed), self.assertRaisesRegex(FrostError, told):
                reading_from(empty, probe, typed)

    @given(st.data())
    @settings(max_examples=40, deadline=None)
    def test_whatever_is_read_something_can_be_said(self, data):
        names = sorted(self.table.row)
        chosen = data.draw(st.lists(st.sampled_from(names), max_size=8))
        readings = []
        for name in chosen:
            probe = self.table.probes[self.table.row[name]]
            if self.table.row[name] in self.table.answers:
                answer = data.draw(st.sampled_from(sorted(Ladder(self.judged())._reading(probe).answers)))
                readings.append(BenchReading(name, answer=answer))
            else:
                value = data.draw(st.none() | st.floats(0, 1e6))
                readings.append(BenchReading(name, None if probe.live else value))
        readings = [each for each in readings if each.answer or each.value is not None or ":" in each.probe]
        judgement = BenchJudgement(self.weigher, readings)
        self.assertAlmostEqual(float(judgement.posterior.by_draw.sum()), 1.0, places=9)
        self.assertEqual(len(Ladder(judgement).rungs), len(FLYBACK.stages))


class KnownGood(TestCase):
    GOOD = (
        KeptReading("esr:p12-g", "0.06"),
        KeptReading("esr:bp-bm", "1.5"),
        KeptReading("ohm:la-a", "10"),
        KeptReading("diode:a-bp", "0.55"),
        KeptReading("ohm:gone-away", "5"),
    )

    def test_another_board_beside_a_good_one_the_oddest_first(self):
        judgement = judge_board(FLYBACK, (), 230.0)
        here = [
            BenchReading("esr:p12-g", 0.9),
            BenchReading("esr:bp-bm", 1.6),
            BenchReading("ohm:la-a", None),
        ]
        found = beside(judgement, here, self.GOOD)
        self.assertEqual([each.pair.meter for each in found], ["ohm", "esr", "esr"])
        self.assertTrue(found[1].odd)
        self.assertFalse(found[2].odd)

    def test_what_names_a_fault_is_no_good_boards_and_a_few_figures_are_too_few(self):
        judgement = judge_board(FLYBACK, (), 230.0)
        pairs = [(each.probe, each.value) for each in self.GOOD[:4]]
        self.assertEqual(len(to_keep(judgement, [*pairs, ("look:C1", "good")])), 4)
        with self.assertRaisesRegex(FrostError, "3 readings: a good board is kept with 4 or more"):
            to_keep(judgement, pairs[:3])
        with self.assertRaisesRegex(FrostError, "no good board’s: 12 V capacitor C3: dried out"):
            to_keep(judgement, [*pairs[1:], ("esr:p12-g", "2.5")])


class Rehearsals(TestCase):
    def test_a_small_supply_is_named_nearly_always_and_never_wrongly_for_sure(self):
        supply = described(USUAL["linear"](230.0))
        found = figures(rehearse(supply, 230.0, draws=1))
        self.assertGreater(found.right, 0.95)
        self.assertLess(found.wrong, 0.01)
        self.assertLess(found.readings, 6.5)

    def test_without_an_esr_meter_a_good_capacitor_clipped_beside_finds_the_worn_one(self):
        found = figures(rehearse(described(USUAL["dropper"](230.0)), 230.0, draws=1, esr=False))
        self.assertGreater(found.right, 0.94)
        self.assertEqual(found.wrong, 0.0)
        weigher = BenchWeigher(table_of(FLYBACK, 230.0, esr=False))
        self.assertFalse([each for each in weigher.table.probes if each.range is BenchRange.ESR])
        told = [
            BenchJudgement(weigher, [BenchReading("beside:C3", answer=answer)]).posterior.units
            for answer in ("helps", "nothing")
        ]
        mine = weigher.table.known.units.index("C3")
        self.assertGreater(told[0][mine], 4 * told[1][mine])

    def test_rehearsed_boards_are_none_of_those_they_are_judged_by(self):
        judged, real = (drawn(FLYBACK, Draw(0, 8, seed)) for seed in (0, 7919))
        self.assertNotEqual(judged.part("R1").ohms, real.part("R1").ohms)
