"""The solver against closed forms, Kirchhoff's laws and brute force; the parts against the trade's
arithmetic."""

import math
import unittest
from dataclasses import replace

import numpy as np
from hypothesis import example, given, settings
from hypothesis import strategies as st

from frostcore.circuit.bases import Ports
from frostcore.circuit.build import build
from frostcore.circuit.damage import Change, Damage, damaged
from frostcore.circuit.element import Analysis, Branch, BranchKind, Circuit, CircuitError, Impedance, Stray
from frostcore.circuit.faulted import SettledFaults, with_fault
from frostcore.circuit.meter import MeterRange, Points, expect, points
from frostcore.circuit.power import at_plug, draws, judge_plug
from frostcore.circuit.settle import Settled, settle
from frostcore.circuit.solver import Solved, assemble, between, rows_of
from frostcore.faults.edits import Bridged, Forced, InSeries, Opened, Scaled, Shorted, damage
from frostcore.faults.known import fault, faults
from frostcore.tests.demo_sheets import SHEETS, demo_sheet
from frostcore.verdict import Verdict


def branch(name, a, b, impedance, kind=BranchKind.LOAD):
    return Branch(name, a, b, kind, name, name, {"": impedance}, "")


def circuit(*branches, strays=(), hertz=50.0):
    return Circuit("test", True, hertz, 230.0, "earth", branches, tuple(strays), frozenset())


def solved(built, analysis=Analysis.DC):
    return Solved(built, analysis, rows_of(built, [""] * len(built.branches), analysis))


def reading(title, mode, red, black, meter, *, pull=(), fault_id=""):
    sheet = demo_sheet(title)
    settled = settle(build(sheet, mode, live=meter is not MeterRange.OHM, pulled=pull))
    if fault_id:
        settled = with_fault(settled, damage(settled.circuit, fault(sheet, fault_id).acts))
    return expect(settled, points(sheet, settled.circuit, red, black, meter), meter)


class ClosedForms(unittest.TestCase):
    def test_a_divider(self):
        built = circuit(
            branch("rail", "p", "earth", Impedance(2.0, dc_volts=12.0)),
            branch("upper", "p", "m", Impedance(4.0)),
            branch("lower", "m", "earth", Impedance(6.0)),
        )
        x = solved(built).x
        self.assertAlmostEqual(x[built.node_index["m"]], 6.0, places=8)
        self.assertAlmostEqual(x[built.node_index["p"]], 10.0, places=8)

    def test_a_bridge_of_five_resistors_reads_its_known_resistance(self):
        """Five resistors of 1 Ω in a Wheatstone bridge read exactly 1 Ω between its ends."""
        names = [("a", "b"), ("a", "c"), ("b", "d"), ("c", "d"), ("b", "c")]
        built = replace(circuit(*(branch(f"{p}{q}", p, q, Impedance(1.0)) for p, q in names)), live=False)
        found = expect(
            Settled(built, ("",) * 5, (), {Analysis.DC: solved(built)}),
            Points("a", "d", "a", "d"),
            MeterRange.OHM,
        )
        self.assertAlmostEqual(found.value, 1.0, places=7)

    def test_a_floating_wire_shows_the_phantom_its_capacitances_give(self):
        """V = E·Yc/(Yc + Ye + 1/Rm), Yc from the live wire, Ye to the chassis, Rm the meter."""
        omega, cross, earth = 2 * math.pi * 50, 220e-12, 120e-12
        built = circuit(
            branch("mains", "l", "earth", Impedance(0.1, ac_volts=230.0), BranchKind.SOURCE),
            strays=[Stray("l", "w", cross), Stray("w", "earth", earth)],
        )
        settled = Settled(built, ("",), (), {analysis: solved(built, analysis) for analysis in Analysis})
        for meter, ohms in ((MeterRange.VAC, 10e6), (MeterRange.VAC_LOZ, 3e3)):
            found = expect(settled, Points("w", "earth", "w", "earth"), meter)
            wanted = abs(230 * 1j * omega * cross / (1j * omega * (cross + earth) + 1 / ohms + 1e-10))
            self.assertAlmostEqual(found.value, wanted, delta=1e-5 * wanted)
        self.assertGreater(expect(settled, Points("w", "earth", "w", "earth"), MeterRange.VAC).value, 50)
        self.assertLess(expect(settled, Points("w", "earth", "w", "earth"), MeterRange.VAC_LOZ).value, 1)

    def test_a_source_shorted_by_ideal_conductors_is_named(self):
        built = circuit(
            branch("rail", "p", "earth", Impedance(0.0, dc_volts=12.0), BranchKind.SOURCE),
            branch("wire", "p", "earth", Impedance(0.0)),
        )
        with self.assertRaisesRegex(CircuitError, "rail is shorted"):
            solved(built)


OHMS = st.floats(0.02, 1e6)
AMPERES = st.sampled_from([-0.01, 1e-6, 0.02]).map(lambda amperes: Impedance(0.0, dc_amperes=amperes))
"""A source of current in a part's place."""

PLACES = [("p", "a"), ("a", "b"), ("b", "earth"), ("a", "c"), ("c", "earth"), ("b", "c")]


def mesh(ohms):
    """A rail and six parts around it (None is open); closed and open branches, inductive ones, sources of
    current, and a stray."""
    parts = []
    for number, (ends, value) in enumerate(zip(PLACES, ohms, strict=True), 1):
        part = Impedance(value, henries=value * 1e-3) if isinstance(value, float) else value
        parts.append(branch(f"r{number}", *ends, part))
    return circuit(
        branch("rail", "p", "earth", Impedance(1.0, dc_volts=12.0, ac_volts=230.0)),
        *parts,
        strays=[Stray("a", "c", 1e-9)],
    )


def standing(built):
    return Settled(
        built, ("",) * len(built.branches), (), {analysis: solved(built, analysis) for analysis in Analysis}
    )


class Edits(unittest.TestCase):
    @settings(max_examples=60, deadline=None)
    @given(
        st.lists(st.lists(st.none() | OHMS | AMPERES, min_size=6, max_size=6), min_size=1, max_size=3),
        st.lists(
            st.lists(
                st.sampled_from(["open", "change", "source", "bridge", "leave"]), min_size=6, max_size=6
            ),
            min_size=1,
            max_size=4,
        ),
        OHMS,
    )
    @example(
        [[None] * 6], [["open", "open", "change", "open", "change", "change"]], 1.0
    )  # joins what floats: gigohms less gigohms
    @example([[1.0] + [None] * 5], [["open"] * 6], 1.0)  # cuts off what then hangs on insulation alone
    @example([[None] * 6], [["bridge", "bridge", "change", "open", "change", "bridge"]], 1.0)
    @example([[None] * 6], [["change", "source", "source", "change", "change", "open"]], 1.0)
    def test_edits_of_several_circuits_at_once_give_what_solving_each_anew_gives(
        self, all_ohms, all_kinds, new
    ):
        """Opened, closed and changed branches and added bridges, alone and together, of open and closed
        branches, in DC and AC: volts everywhere, and what pairs show."""
        circuits = [mesh(ohms) for ohms in all_ohms]
        bases = [standing(built) for built in circuits]
        damages = []
        for kinds in all_kinds:
            changes, bridges = {}, []
            for number, kind in enumerate(kinds, 1):
                if kind == "bridge":
                    bridges.append((*PLACES[number - 1], Impedance(new)))
                elif kind != "leave":
                    becomes = {
                        "open": None,
                        "change": Impedance(new),
                        "source": Impedance(0.0, dc_amperes=0.003),
                    }
                    changes[f"r{number}"] = Change(states={"": becomes[kind]})
            damages.append(Damage(changes, tuple(bridges)))
        found = SettledFaults(bases, [damages] * len(bases))
        ends = np.array(
            [[circuits[0].topology.rows_of(pair) for pair in (("a", "b"), ("c", "earth"), ("p", "c"))]]
            * len(bases)
        )
        for analysis in Analysis:
            edited, ports = found.edited(analysis), Ports(found.based[analysis], ends)
            x, volts, seen = edited.x, edited.volts(ports), edited.seen(ports)
            for place, (built, damage_) in enumerate((built, each) for built in circuits for each in damages):
                fresh = solved(damaged(built, damage_), analysis)
                nodes, pairs = (
                    len(built.nodes),
                    damaged(built, damage_)
                    .topology.rows_of(["a", "b", "c", "earth", "p", "c"])
                    .reshape(3, 2),
                )
                # To a micro of the largest volts: what hangs on 10 GΩ beside 1 Ω loses ten digits of sixteen.
                # A source of current with no way but insulation makes megavolts, and where an edit takes
                # them away, what rounding does to those before it is left.
                before = np.abs(bases[place // len(damages)].solved[analysis].x).max()
                scale = max(1.0, np.abs(fresh.x[:nodes]).max(), before if before > 1e4 else 0.0)
                # Two sources that an edit brings in, each over 10 GΩ until the others carry it off: 30 MV
                # less 30 MV, of which rounding leaves up to a millivolt.
                brought = len([each for each in all_kinds[place % len(damages)] if each == "source"])
                floor = 5e-6 + 1e-6 * scale + (1e-3 if brought > 1 else 0.0)
                np.testing.assert_allclose(x[place, :nodes], fresh.x[:nodes], rtol=1e-6, atol=floor)
                np.testing.assert_allclose(
                    volts[place], fresh.x[pairs[:, 0]] - fresh.x[pairs[:, 1]], rtol=1e-6, atol=floor
                )
                wanted = between(fresh.injections(pairs), pairs)
                self.assertTrue(
                    (np.abs(seen[place] - wanted) <= 2e-3 + 1e-5 * np.abs(wanted)).all(),
                    f"{seen[place]} {wanted}",
                )
                if not damage_.changes and not damage_.bridges:
                    np.testing.assert_array_equal(x[place], bases[place // len(damages)].solved[analysis].x)

    def test_a_source_of_current_that_dies_leaves_nothing(self):
        """10 mA into 120 Ω are 1.2 V; dead, the node is at 0 V, and not where it was."""
        built = circuit(
            branch("supply", "earth", "p", Impedance(0.0, dc_amperes=0.01), BranchKind.SOURCE),
            branch("load", "p", "earth", Impedance(120.0)),
        )
        base = standing(built)
        row = built.node_index["p"]
        self.assertAlmostEqual(base.solved[Analysis.DC].x[row], 1.2, places=6)
        acts = [(Opened("supply"),), (Shorted("supply", 0.5),), (Opened("load"), Bridged("p", "earth", 60.0))]
        found = SettledFaults([base], [[damage(built, each) for each in acts]]).edited(Analysis.DC).x
        np.testing.assert_allclose(found[:, row], [0.0, 0.0, 0.6], atol=1e-9)

    def test_a_short_bridges_what_is_open_and_a_capacitor_that_dries_keeps_its_resistance(self):
        states = {"open": None, "on": Impedance(7.0, henries=0.1), "film": Impedance(0.5, farads=4e-6)}
        built = circuit(replace(branch("part", "a", "earth", None), states=states, start="open"))
        shorted = damage(built, [Shorted("part", 2.0)]).changes["part"].states
        self.assertEqual([shorted[name].ohms for name in states], [2.0, 2.0, 0.5])
        self.assertEqual([shorted[name].farads for name in states], [None] * 3)
        dried = damage(built, [Scaled("part", 0.5)]).changes["part"].states
        self.assertEqual((dried["film"].ohms, dried["film"].farads), (0.5, 2e-6))
        self.assertEqual((dried["on"].ohms, dried["on"].henries), (3.5, 0.05))

    def test_a_fault_that_leaves_what_is_already_so_changes_nothing_at_all(self):
        """An opened branch that is open, a state forced that it has."""
        base = standing(mesh([None, 5.0, 6.0, 7.0, 8.0, 9.0]))
        found = SettledFaults([base], [[Damage({"r1": Change(states={"": None}), "r2": Change(forced="")})]])
        np.testing.assert_array_equal(found.edited(Analysis.DC).x[0], base.solved[Analysis.DC].x)

    def test_the_answers_are_the_columns_of_the_inverse_read_across_the_leads(self):
        """wᵀA⁻¹e_k from one transposed solution, and from solving for every branch’s own volt."""
        settled = settle(build(demo_sheet("Tarnbeck TB-34"), "normal"))
        for item in settled.solved.values():
            right = np.zeros((item.size, item.size - item.nodes), item.x.dtype)
            right[np.arange(item.nodes, item.size), np.arange(item.size - item.nodes)] = 1
            columns = item.solve(right)
            np.testing.assert_allclose(item.answers(3, 7), columns[3] - columns[7], rtol=1e-9, atol=1e-9)

    def test_currents_sum_to_zero_at_every_node_of_every_unit(self):
        """The solution put back into its own equations, in every live mode."""
        for sheet in SHEETS:
            for mode in (mode for mode in sheet.modes if mode.live):
                settled = settle(build(sheet, mode.id))
                for analysis, item in settled.solved.items():
                    matrix, right = assemble(settled.circuit, analysis, item.rows)
                    np.testing.assert_allclose(matrix @ item.x[:-1], right, atol=1e-9)

    def test_a_reading_is_the_same_with_the_leads_swapped(self):
        for meter in (MeterRange.OHM, MeterRange.VAC):
            mode = "off_cold" if meter is MeterRange.OHM else "normal"
            there, back = (
                reading("Tarnbeck TB-34", mode, *ends, meter)
                for ends in (("CN2.1", "CN2.2"), ("CN2.2", "CN2.1"))
            )
            self.assertAlmostEqual(there.value, back.value, places=6)


class Parts(unittest.TestCase):
    def test_the_heater_loop_reads_cold_what_the_heater_is_and_open_when_thawed(self):
        cold = reading("Tarnbeck TB-34", "off_cold", "CN2.5", "CN2.6", MeterRange.OHM, pull=("CN2",))
        self.assertAlmostEqual(cold.value, 240, delta=1)
        self.assertTrue(cold.low < 240 * 0.95 < 240 * 1.05 < cold.high)
        warm = reading("Tarnbeck TB-34", "off_warm", "CN2.5", "CN2.6", MeterRange.OHM, pull=("CN2",))
        self.assertIsNone(warm.value)
        self.assertEqual(warm.text, "OL")

    def test_a_pulled_pin_is_touched_at_its_wire_for_ohms_and_at_its_board_for_volts(self):
        self.assertAlmostEqual(
            reading("Tarnbeck TB-34", "off_cold", "CN7.1", "CN7.2", MeterRange.OHM, pull=("CN7",)).value,
            240,
            delta=1,
        )
        self.assertIsNone(
            reading(
                "Tarnbeck TB-34", "off_cold", "CN7.1/board", "CN7.2/board", MeterRange.OHM, pull=("CN7",)
            ).value
        )
        self.assertAlmostEqual(
            reading("Tarnbeck TB-34", "defrost", "CN7.1", "CN7.2", MeterRange.VAC, pull=("CN7",)).value,
            230,
            delta=3,
        )
        self.assertLess(
            reading(
                "Tarnbeck TB-34", "defrost", "CN7.1/wire", "CN7.2/wire", MeterRange.VAC, pull=("CN7",)
            ).value,
            1,
        )

    def test_the_compressor_reads_its_windings_with_the_start_device_across(self):
        """16.5 Ω beside 21.5 + 22 Ω, and the overload in series."""
        wanted = 1 / (1 / 16.5 + 1 / 43.5) + 0.4
        self.assertAlmostEqual(
            reading("Tarnbeck TB-34", "off_cold", "CN2.1", "CN2.2", MeterRange.OHM, pull=("CN2",)).value,
            wanted,
            delta=0.2,
        )

    def test_three_phase_pairs_read_the_same(self):
        pairs = [
            reading("Ondrel OR-620", "off_cold", *ends, MeterRange.OHM, pull=("CN22",)).value
            for ends in (("CN22.1", "CN22.2"), ("CN22.2", "CN22.3"), ("CN22.1", "CN22.3"))
        ]
        for ohms in pairs:
            self.assertAlmostEqual(ohms, 8.6, delta=0.1)

    def test_an_output_that_is_off_reads_nothing_with_its_load_and_a_phantom_without(self):
        self.assertLess(reading("Tarnbeck TB-34", "normal", "CN2.5", "CN2.6", MeterRange.VAC).value, 0.1)
        open_loop = reading(
            "Tarnbeck TB-34", "normal", "CN2.5", "CN2.6", MeterRange.VAC, fault_id="thermal_fuse:open"
        )
        self.assertTrue(open_loop.phantom)
        self.assertGreater(open_loop.value, 20)
        self.assertLess(
            reading(
                "Tarnbeck TB-34", "normal", "CN2.5", "CN2.6", MeterRange.VAC_LOZ, fault_id="thermal_fuse:open"
            ).value,
            1,
        )

    def test_a_tachometer_shows_half_its_pull_up_while_the_fan_turns_and_all_of_it_when_still(self):
        self.assertAlmostEqual(
            reading("Ondrel OR-620", "service", "CN7.3", "CN7.4", MeterRange.VDC).value, 2.5, delta=0.1
        )
        self.assertAlmostEqual(
            reading(
                "Ondrel OR-620", "service", "CN7.3", "CN7.4", MeterRange.VDC, fault_id="freezer_fan:seized"
            ).value,
            4.9,
            delta=0.15,
        )

    def test_a_seized_fan_pulls_more_live_and_reads_as_ever_unplugged(self):
        turning, stalled = (
            reading("Tarnbeck TB-34", "normal", "p12", "ground", MeterRange.VDC, fault_id=broken).value
            for broken in ("", "evaporator_fan:seized")
        )
        self.assertGreater(turning - stalled, 0.1)
        still = [
            reading(
                "Tarnbeck TB-34", "off_cold", "CN7.3", "CN7.4", MeterRange.OHM, pull=("CN7",), fault_id=broken
            ).value
            for broken in ("", "evaporator_fan:seized")
        ]
        self.assertEqual(*still)

    def test_a_command_stuck_on_needs_its_rail_all_the_same(self):
        stuck = fault(demo_sheet("Ondrel OR-620"), "board:welded:inverter_pulses").acts
        self.assertGreater(
            reading(
                "Ondrel OR-620",
                "cut_out",
                "CN4.1",
                "CN4.2",
                MeterRange.VDC,
                fault_id="board:welded:inverter_pulses",
            ).value,
            3,
        )
        sheet = demo_sheet("Ondrel OR-620")
        base = settle(build(sheet, "cut_out"))
        both = with_fault(base, damage(base.circuit, [*stuck, *fault(sheet, "board_fuse:open").acts]))
        self.assertLess(
            abs(
                expect(
                    both, points(sheet, both.circuit, "CN4.1", "CN4.2", MeterRange.VDC), MeterRange.VDC
                ).value
            ),
            0.1,
        )

    def test_the_inverter_drives_only_with_mains_and_command(self):
        self.assertGreater(
            reading("Ondrel OR-620", "service", "inverter.u", "inverter.v", MeterRange.VAC).value, 40
        )
        for broken in (
            "harness:open:CN4.1-CN21.1",
            "harness:open:CN2.1-CN20.1",
            "board:stuck_open:inverter_pulses",
        ):
            self.assertLess(
                reading(
                    "Ondrel OR-620", "service", "inverter.u", "inverter.v", MeterRange.VAC, fault_id=broken
                ).value,
                1,
                broken,
            )

    def test_a_weak_rail_sags_only_under_load(self):
        weak = "board:weak_rail:rail_12v"
        idle, loaded = (
            reading("Pellworth PW-27", mode, "p12", "ground", MeterRange.VDC, fault_id=weak).value
            for mode in ("cut_out", "dispense_ice")
        )
        healthy = reading("Pellworth PW-27", "dispense_ice", "p12", "ground", MeterRange.VDC)
        self.assertLess(loaded, healthy.low)
        self.assertGreater(idle - loaded, 1.0)

    def test_a_compressor_without_its_start_trips_its_overload(self):
        for broken in ("compressor:start_open", "start_ptc:open", "compressor:seized"):
            sheet = demo_sheet("Tarnbeck TB-34")
            base = settle(build(sheet, "normal"))
            found = with_fault(base, damage(base.circuit, fault(sheet, broken).acts))
            self.assertEqual(found.states[found.circuit.branch_index["overload"]], "open", broken)
        self.assertEqual(base.states[base.circuit.branch_index["compressor.run"]], "running")

    def test_reading_across_a_chassis_without_earth_shows_the_tingle(self):
        self.assertLess(reading("Tarnbeck TB-34", "normal", "plug.n", "earth", MeterRange.VAC).value, 0.5)
        self.assertGreater(
            reading(
                "Tarnbeck TB-34", "normal", "plug.n", "earth", MeterRange.VAC, fault_id="plug:earth_open"
            ).value,
            20,
        )

    def test_an_element_that_never_settles_is_named_and_held_off(self):
        """A rail that its own load pulls below what the load needs: it would pulse."""
        sheet = demo_sheet("Tarnbeck TB-34")
        base = settle(build(sheet, "normal"))
        found = SettledFaults([base], [[damage(base.circuit, [InSeries("CN4.1-CN7.3", 120.0)])]])
        self.assertEqual(found.unsettled, {0: ("Evaporator fan",)})


class Plug(unittest.TestCase):
    def test_the_plug_draws_what_its_loads_do(self):
        """Watts at the plug are the loads’ and what wires, transistors and rails lose on the way."""
        for sheet in SHEETS:
            for mode in (mode for mode in sheet.modes if mode.live):
                settled = settle(build(sheet, mode.id))
                total, watts = sum(draw.watts for draw in draws(settled)), at_plug(settled).watts
                self.assertLess(abs(total - watts), 0.1 * watts + 1.2, f"{sheet.title} {mode.id}")

    def test_what_is_missing_is_named(self):
        settled = settle(build(demo_sheet("Tarnbeck TB-34"), "defrost"))
        whole = judge_plug(settled, 222)
        self.assertIs(whole.verdict, Verdict.IN_BAND)
        short = judge_plug(settled, 5)
        self.assertIs(short.verdict, Verdict.LOW)
        self.assertIn("defrost heater", short.reason)


class Catalogue(unittest.TestCase):
    def test_every_fault_of_every_unit_has_an_id_of_its_own_a_weight_and_a_reason(self):
        for sheet in SHEETS:
            known = faults(sheet)
            self.assertEqual(len({item.id for item in known}), len(known))
            self.assertTrue(all(item.weight > 0 and item.why and item.name for item in known))
            parts = {part.id for part in sheet.components}
            self.assertTrue(all(item.component in parts for item in known if item.acts))
            self.assertTrue(all(item.seen_by for item in known if item.kind == "plain"))
            self.assertTrue(all(item.unit for item in known))
            for item in known:
                low, high = item.spread or (1.0, 2.0)
                self.assertTrue(0 < low < high, item.id)

    def test_what_a_fault_would_have_fitted(self):
        units = {item.id: item.unit for item in faults(demo_sheet("Tarnbeck TB-34"))}
        self.assertEqual(units["defrost_heater:open"], "defrost_heater")
        self.assertEqual(units["board:welded:k_defrost"], "board")
        self.assertEqual(units["board_fuse:blown_by:defrost_heater"], "defrost_heater+board_fuse")
        self.assertEqual(units["board:burnt_with_load:q_fan"], "board+evaporator_fan")
        self.assertEqual(units["harness:open:CN2.5-CN7.1"], "harness:CN2.5-CN7.1")
        self.assertEqual(units["harness:joint_open:CN2.5"], "harness:CN2")
        self.assertEqual(units["harness:moisture:CN2.5-CN2.6"], "harness:CN2")
        self.assertEqual(units["unit:condenser_dirty"], "unit:condenser_dirty")

    def test_joints_resist_less_where_mains_would_make_them_glow(self):
        known = {item.id: item for item in faults(demo_sheet("Tarnbeck TB-34"))}
        for pin, ohms, spread in (("CN2.5", 8.0, (1.0, 30.0)), ("CN3.1", 120.0, (10.0, 10e3))):
            found = known[f"harness:joint_high_resistance:{pin}"]
            self.assertEqual((found.acts[0].ohms, found.spread), (ohms, spread))

    def test_an_output_burnt_by_its_load_takes_the_load_it_switches(self):
        known = {item.id: item for sheet in SHEETS for item in faults(sheet)}
        for name, load in (("q_fan", "evaporator_fan"), ("q_condenser", "condenser_fan")):
            self.assertEqual(known[f"board:burnt_with_load:{name}"].acts[1].branch, load)
        self.assertEqual(known["zone_board:burnt_with_load:q_left"].acts[1].branch, "left_flap")

    def test_a_fault_nobody_knows_names_what_is_known(self):
        with self.assertRaisesRegex(CircuitError, r"known are bimetal, board, board_fuse"):
            fault(demo_sheet("Tarnbeck TB-34"), "nope")
        with self.assertRaisesRegex(CircuitError, r"known are unit:iced_coil"):
            fault(demo_sheet("Tarnbeck TB-34"), "unit:nope")

    def test_a_known_weak_point_weighs_more(self):
        weights = {item.id: item.weight for item in faults(demo_sheet("Tarnbeck TB-34"))}
        self.assertEqual(weights["evaporator_fan:seized"], 2.5 * 70)

    def test_every_weak_point_of_the_sheets_names_a_mode_its_part_can_have(self):
        for sheet in SHEETS:
            modes = {(item.component, item.mode) for item in faults(sheet)}
            for part in sheet.components:
                for weak in part.weak_points:
                    self.assertIn((part.id, weak.fault), modes, f"{sheet.title} {part.id}")

    def test_acts_do_what_they_say(self):
        built = build(demo_sheet("Tarnbeck TB-34"), "defrost")
        found = damage(
            built, [Opened("defrost_heater"), Forced("bimetal", "open"), Bridged("live", "neutral", 5.0)]
        )
        self.assertIsNone(found.changes["defrost_heater"].states[""])
        self.assertEqual(found.changes["bimetal"].forced, "open")
        self.assertEqual(found.bridges[0][2].ohms, 5.0)
        with self.assertRaisesRegex(CircuitError, "no circuit element “heater”"):
            damage(built, [Opened("heater")])
