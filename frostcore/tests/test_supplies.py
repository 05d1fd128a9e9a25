"""Supplies with limits, what trips, and what never settles: closed forms on the demo units."""

import json
import math
from unittest import TestCase

from frostcore.circuit.build import build
from frostcore.circuit.element import Analysis
from frostcore.circuit.kept import circuits_of
from frostcore.circuit.meter import MeterRange, expect, points
from frostcore.circuit.power import at_plug
from frostcore.circuit.rhythm import rhythm
from frostcore.circuit.settle import settle
from frostcore.faults.edits import Bridged, Opened, damage
from frostcore.faults.known import broken, faults
from frostcore.sheet.load import load
from frostcore.tests.demo_sheets import PATHS, demo_sheet

TB, CV, FK = (demo_sheet(name) for name in ("Tarnbeck TB-34", "Calvane CV-24", "Fennick FK-18"))


def changed(stem, change):
    """A demo sheet with something written otherwise."""
    data = json.loads(next(path for path in PATHS if path.stem == stem).read_text(encoding="utf-8"))
    change(data)
    return load(json.dumps(data)).sheet


def volts(settled, a, b, meter=MeterRange.VDC, sheet=TB):
    return expect(settled, points(sheet, settled.circuit, a, b, meter), meter)


def faulted(sheet, mode, *acts):
    circuits = circuits_of(sheet)
    base = circuits.scene(mode)
    return circuits.scene(mode, damage=damage(base.circuit, acts))


class Rails(TestCase):
    def test_a_rail_draws_from_the_rail_that_feeds_it(self):
        """A linear 5 V takes from its 12 V what it gives: 25 Ω more at 5 V sag the 12 V by 5/25·0.6 V."""
        base, loaded = (faulted(TB, "cut_out", *acts) for acts in ((), (Bridged("p5", "ground", 25.0),)))
        five = volts(loaded, "p5", "ground").value
        sag = volts(base, "p12", "ground").value - volts(loaded, "p12", "ground").value
        self.assertAlmostEqual(sag, 0.6 * five / 25, delta=2e-3)
        drawn = loaded.amperes("board.rail_5v.draw", Analysis.DC).real
        self.assertAlmostEqual(drawn, -loaded.amperes("board.rail_5v", Analysis.DC).real, places=12)

    def test_a_switching_converter_draws_its_watts_and_losses(self):
        def switching(data):
            rail = next(item for item in data["boards"][0]["rails"] if item["id"] == "rail_5v")
            rail["converter"] = "switching"

        sheet = changed("tarnbeck-tb-34", switching)
        settled = settle(build(sheet, "cut_out"))
        given = -settled.amperes("board.rail_5v", Analysis.DC).real
        drawn = settled.amperes("board.rail_5v.draw", Analysis.DC).real
        self.assertAlmostEqual(drawn, given * 5 / (0.85 * 12), places=12)

    def test_each_watt_of_a_fed_rail_is_counted_once_at_the_plug(self):
        """40 Ω more across the 5 V, linear from 12 V: an eighth of an ampere of 12 V, through 80 %."""
        base, loaded = (faulted(TB, "cut_out", *acts) for acts in ((), (Bridged("p5", "ground", 40.0),)))
        more = base.amperes("board.rail_12v", Analysis.DC).real
        more -= loaded.amperes("board.rail_12v", Analysis.DC).real
        self.assertAlmostEqual(more, 5 / 40, delta=0.006)
        self.assertAlmostEqual(at_plug(loaded).watts - at_plug(base).watts, 12 * more / 0.8, delta=1e-6)

    def test_a_shorted_fan_brings_its_rail_down_and_the_display_with_it(self):
        settled = broken(TB, "normal", ["evaporator_fan:short"])
        self.assertEqual(settled.unsettled, ("12 V rail",))
        self.assertEqual(settled.tripped, ("The 12 V rail is overloaded",))
        for pair in (("p12", "ground"), ("p5", "ground")):
            self.assertAlmostEqual(volts(settled, *pair).value, 0.0, places=3)
        self.assertLess(at_plug(settled).watts, 5)

    def test_its_volts_jump_between_nothing_and_what_its_limit_gives(self):
        """2 A into 1.5 Ω and the wires of the fan's lead; the display's 5 V never gets there."""
        settled = broken(TB, "normal", ["evaporator_fan:short"])
        reading = volts(settled, "CN4.1", "CN4.2")
        self.assertEqual(reading.span[0], 0.0)
        lead = 1.5 + 2 * 0.035 * 2 + 0.2
        self.assertTrue(2 * 1.5 <= reading.span[1] <= 2 * lead + 0.1, reading)
        self.assertIn("in turn, a round every 1.2 s: 12 V rail never settles", reading.words)
        self.assertTrue(reading.settles_nothing)
        self.assertIn("12 V rail comes and goes", reading.why)

    def test_a_short_behind_a_regulator_leaves_what_feeds_it_up(self):
        settled = broken(TB, "normal", ["display:short"])
        self.assertEqual(settled.unsettled, ("5 V rail",))
        self.assertGreater(volts(settled, "p12", "ground").value, 11)
        beat = rhythm(settled)
        self.assertEqual([phase.seconds for phase in beat.phases], [2.0, 4.0])
        five = volts(settled, "p5", "ground")
        self.assertTrue(1.5 < five.span[1] < 2.5, five)  # 1 A into 2 Ω

    def test_what_shuts_down_stays_down(self):
        def latching(data):
            rail = next(item for item in data["boards"][0]["rails"] if item["id"] == "rail_12v")
            rail |= {"overloaded": "shuts_down", "limit_amperes": 1.2}

        sheet = changed("tarnbeck-tb-34", latching)
        settled = broken(sheet, "normal", ["evaporator_fan:short"])
        self.assertEqual((settled.unsettled, settled.tripped), ((), ("The 12 V rail is overloaded",)))
        self.assertIsNone(volts(settled, "p12", "ground", sheet=sheet).span)

    def test_a_limit_is_where_it_is_said_to_be(self):
        """2 A from 12 V: 5.2 Ω beside the unit's own loads are borne, 5 Ω with them are not."""
        base = faulted(TB, "cut_out")
        own = -base.amperes("board.rail_12v", Analysis.DC).real
        for times, tripped in ((0.98, False), (1.02, True)):
            more = 2.0 * times - own
            ohms = (12 - 0.6 * 2.0 * times) / more
            settled = faulted(TB, "cut_out", Bridged("p12", "ground", ohms))
            self.assertIs(bool(settled.tripped), tripped, times)

    def test_a_power_supply_has_a_limit_too(self):
        self.assertEqual(settle(build(CV, "normal")).tripped, ())
        settled = faulted(CV, "normal", Bridged("upper_in", "upper_ground", 0.5))
        self.assertEqual(settled.tripped, ("12 V power supply is overloaded",))
        reading = volts(settled, "upper_in", "upper_ground", sheet=CV)
        self.assertAlmostEqual(reading.span[1], 1.3 * 150 / 12 * 0.5, delta=0.5)


class Protection(TestCase):
    def test_a_leak_to_the_chassis_trips_the_house_while_the_heater_is_live(self):
        """230 V over 3 kΩ are 77 mA; and nothing is left in the unit, not even its board."""
        settled = broken(TB, "defrost", ["defrost_heater:leak_earth"])
        self.assertEqual(settled.tripped, ("The house’s residual-current device trips",))
        self.assertEqual(at_plug(settled).watts, 0.0)
        self.assertLess(volts(settled, "p12", "ground").value, 0.01)
        self.assertEqual(broken(TB, "normal", ["defrost_heater:leak_earth"]).tripped, ())

    def test_thirty_milliamperes_trip_it(self):
        """At 230 V less what wires lose: 7.9 kΩ from live to the chassis bring 29 mA, 7.4 kΩ 31 mA."""
        for ohms, trips in ((7.9e3, False), (7.4e3, True)):
            self.assertIs(bool(faulted(TB, "normal", Bridged("live", "earth", ohms)).tripped), trips, ohms)

    def test_without_its_earth_a_leak_trips_nothing_and_the_chassis_is_live(self):
        settled = broken(TB, "defrost", ["defrost_heater:leak_earth", "plug:earth_open"])
        self.assertEqual(settled.tripped, ())
        self.assertGreater(volts(settled, "plug.n", "earth", MeterRange.VAC).value, 90)

    def test_a_shorted_load_blows_the_fuse_in_its_path_and_the_house_stays_on(self):
        settled = faulted(TB, "defrost", Bridged("heater_out", "neutral", 1.0))
        self.assertEqual(settled.tripped, ("Board fuse blows",))
        self.assertGreater(volts(settled, "plug.l", "plug.n", MeterRange.VAC).value, 220)
        self.assertEqual(settled.unsettled, ())
        self.assertAlmostEqual(at_plug(settled).watts, 0.0, delta=0.01)

    def test_without_a_fuse_in_its_path_the_breaker_lets_go(self):
        settled = faulted(TB, "normal", Bridged("plug.l", "plug.n", 1.0))
        self.assertEqual(settled.tripped, ("The house’s breaker trips",))
        house = 0.35 + 0.05 + 2 * 0.08  # the wall, its breaker, the lead's two wires
        for amperes, trips in ((22.5, False), (24.0, True)):
            found = faulted(
                TB, "off_cold" if False else "cut_out", Bridged("plug.l", "plug.n", 230 / amperes - house)
            )
            self.assertIs(bool(found.tripped), trips, amperes)

    def test_reversed_at_the_plug_everything_runs_and_what_is_off_is_live(self):
        """Its triac and relay now part the neutral: a load that is off has full mains to the chassis."""
        settled = broken(TB, "cut_out", ["plug:reversed"])
        right = circuits_of(TB).scene("cut_out")
        self.assertAlmostEqual(at_plug(settled).watts, at_plug(right).watts, delta=0.1)
        for found, live in ((settled, True), (right, False)):
            shown = volts(found, "CN2.6", "earth", MeterRange.VAC).value
            self.assertIs(shown > 200, live, shown)


class Compressors(TestCase):
    """110 W at 0.75 on 230 V are 0.638 A running; locked five times that. Its overload trips from 2.2 A."""

    def phases(self, *ids, mode="normal", sheet=TB):
        beat = rhythm(broken(sheet, mode, ids))
        own = at_plug(broken(sheet, "cut_out", [])).amperes.nominal
        return [(phase.seconds, at_plug(phase.settled).amperes.nominal - own) for phase in beat.phases]

    def test_seized_and_a_dead_start_device_differ_in_the_first_moment(self):
        seized, dead = self.phases("compressor:seized"), self.phases("start_ptc:open")
        self.assertGreater(seized[0][1], 1.8 * dead[0][1])
        self.assertLess(seized[0][0], 1.0)
        self.assertAlmostEqual(seized[1][1], dead[1][1], delta=0.02)

    def test_the_overload_trips_when_it_is_as_warm_as_its_limit_makes_it(self):
        """t = τ·ln(1/(1 − (2.2/I)²)) with τ of 30 s, I of the run winding alone."""
        settled = broken(TB, "normal", ["compressor:start_open"])
        beat = rhythm(settled)
        humming = next(phase for phase in beat.phases if phase.ends == "Overload" and phase.seconds < 100)
        amperes = abs(humming.settled.amperes("overload", Analysis.AC))
        self.assertAlmostEqual(humming.seconds, 30 * math.log(1 / (1 - (2.2 / amperes) ** 2)), places=6)
        self.assertAlmostEqual(beat.every_seconds - humming.seconds, 150.0, delta=0.5)

    def test_a_weaker_mains_hums_longer(self):
        """0.6 of the mains do not start it, and 0.6 of the current take longer to warm the overload, or
        never do."""
        self.assertEqual(settle(build(TB, "normal")).unsettled, ())
        low = changed("tarnbeck-tb-34", lambda data: self._weak(data, 28.0))
        settled = settle(build(low, "normal"))
        self.assertEqual(settled.states[settled.circuit.branch_index["compressor.run"]], "standstill")
        self.assertEqual(settled.unsettled, ("Overload",), settled.tripped)
        self.assertGreater(rhythm(settled).every_seconds, 172)

    @staticmethod
    def _weak(data, ohms):
        """The compressor's feed through a long thin lead."""
        run = next(item for item in data["harness"] if "compressor.run" in item["points"])
        run["metres"] = 20.0
        data["components"].append(
            {
                "id": "thin_lead",
                "kind": "heater",
                "name": "Thin lead",
                "place": "machine_bay",
                "nominal": {"ohms": ohms},
                "terminals": {"1": "thin_a", "2": run["points"][-1]},
            }
        )
        run["points"][-1] = "thin_a"

    def test_an_open_overload_is_silent(self):
        settled = broken(TB, "normal", ["overload:open"])
        self.assertEqual((settled.unsettled, rhythm(settled)), ((), None))
        self.assertEqual(settled.states[settled.circuit.branch_index["compressor.run"]], "standstill")

    def test_a_capacitor_starts_what_has_no_start_device(self):
        """4 µF bring 0.28 A into the start winding, above 0.3 of the rated 0.64 A; half of it
        doesn't."""

        def capacitor(data):
            part = next(item for item in data["components"] if item["id"] == "start_ptc")
            part |= {"kind": "run_capacitor", "name": "Run capacitor", "nominal": {"farads": 4e-6}}

        sheet = changed("tarnbeck-tb-34", capacitor)
        for chosen, state in (
            ((), "running"),
            (("start_ptc:drift",), "standstill"),
            (("start_ptc:open",), "standstill"),
        ):
            settled = broken(sheet, "normal", chosen)
            place = settled.circuit.branch_index["compressor.run"]
            self.assertEqual(settled.states[place], state, chosen)


class Contacts(TestCase):
    def test_a_changeover_door_switch_has_one_side_or_the_other(self):
        """The fan runs with the door shut, through the contact that opens when it opens."""

        def changeover(data):
            run = next(item for item in data["harness"] if item["points"][0] == "CN2.4")
            data["components"].append(
                {"id": "other_switch", "kind": "door_switch", "name": "Changeover", "place": "fridge"}
            )
            run["points"][-1:] = ["other_switch.3"]
            other = {"1": "condenser_fan.2"}
            data["components"][-1]["terminals"] = other

        sheet = changed("tarnbeck-tb-34", changeover)
        shut = settle(build(sheet, "normal"))
        self.assertEqual(self.state(shut, "other_switch"), "open")
        self.assertEqual(self.state(shut, "other_switch.back"), "closed")
        self.assertEqual(self.state(shut, "condenser_fan"), "running")
        data = next(mode for mode in sheet.modes if mode.id == "normal")
        self.assertIsNone(data.positions)

    def test_a_latching_relay_stays_without_its_rails(self):
        def latching(data):
            switch = next(item for item in data["boards"][0]["switches"] if item["id"] == "k_defrost")
            switch["kind"] = "latching"

        sheet = changed("tarnbeck-tb-34", latching)
        for chosen, state in ((TB, "open"), (sheet, "closed")):
            dead = broken(chosen, "defrost", ["board:dead_rail:rail_12v"])
            self.assertEqual(self.state(dead, "board.k_defrost"), state)

    @staticmethod
    def state(settled, name):
        return settled.states[settled.circuit.branch_index[name]]


class Rhythms(TestCase):
    def test_every_fault_that_never_settles_has_one(self):
        for title, mode in (("Skerrow SK-48", "service"), ("Fennick FK-18", "normal")):
            sheet = demo_sheet(title)
            known = [fault for fault in faults(sheet) if "short" in fault.mode or "seized" in fault.mode]
            for fault in known:
                settled = broken(sheet, mode, [fault.id])
                if settled.unsettled:
                    beat = rhythm(settled)
                    self.assertIsNotNone(beat, fault.id)
                    self.assertGreater(beat.every_seconds, 0.05, fault.id)

    def test_what_settles_has_none(self):
        self.assertIsNone(rhythm(settle(build(TB, "normal"))))
        self.assertIsNone(rhythm(broken(TB, "normal", ["defrost_heater:open"])))
        self.assertIsNone(rhythm(faulted(TB, "normal", Opened("defrost_heater"))))
