"""Units within their parts' tolerances: one value a part, spread evenly, the same in every mode."""

from unittest import TestCase

import numpy as np
from hypothesis import given
from hypothesis import strategies as st

from frostcore.circuit.build import Builder
from frostcore.circuit.meter import MeterRange
from frostcore.diagnosis.probes import Probe, candidates
from frostcore.diagnosis.readings import Readings, readings_of
from frostcore.faults.draws import DRAWS, Draw, acts_of, varied
from frostcore.faults.known import fault, faults
from frostcore.faults.table import Setup, predict
from frostcore.tests.demo_sheets import SHEETS, demo_sheet

TB = demo_sheet("Tarnbeck TB-34")


class Parts(TestCase):
    @given(st.text(min_size=1, max_size=30), st.integers(0, 5))
    def test_each_draw_takes_another_slice(self, name, seed):
        shares = sorted(Draw(number, seed=seed).share(name) for number in range(DRAWS))
        for slice_, share in enumerate(shares):
            self.assertTrue(slice_ / DRAWS <= share <= (slice_ + 1) / DRAWS)
        self.assertTrue(all(-1 <= Draw(number, seed=seed).off(name) <= 1 for number in range(DRAWS)))

    def test_a_part_has_one_value_whatever_the_mode(self):
        builder, vary = Builder(TB), varied(Draw(2))
        ohms = set()
        for mode in ("normal", "defrost", "off_cold"):
            circuit = vary(builder.circuit(mode))
            ohms.add(circuit.branch("defrost_heater").states[""].ohms)
        self.assertEqual(len(ohms), 1)
        nominal = builder.circuit("normal").branch("defrost_heater").states[""]
        self.assertNotEqual(ohms, {nominal.ohms})
        self.assertLess(abs(ohms.pop() / nominal.ohms - 1), nominal.tolerance)

    def test_the_mains_are_no_part(self):
        circuit = Builder(TB).circuit("normal")
        for number in range(DRAWS):
            self.assertEqual(
                varied(Draw(number))(circuit).branch("wall").states, circuit.branch("wall").states
            )

    def test_a_contact_nobody_knows_stands_one_way_or_the_other(self):
        circuit = Builder(TB).circuit("off_warm", celsius=(("evaporator", 5.0),))
        self.assertTrue(circuit.branch("bimetal").may)
        stands = {varied(Draw(number))(circuit).branch("bimetal").start for number in range(DRAWS)}
        self.assertEqual(stands, {"open", "closed"})
        self.assertFalse(varied(Draw(0))(circuit).branch("bimetal").may)

    def test_amounts_lie_within_their_spread(self):
        for sheet in SHEETS:
            for item in faults(sheet):
                for number in range(DRAWS):
                    acts = acts_of(item, Draw(number))
                    self.assertEqual(len(acts), len(item.acts))
                    if item.spread is None:
                        self.assertEqual(acts, item.acts)
                        continue
                    amount = next(
                        getattr(act, "factor", None) or getattr(act, "ohms", None)
                        for act, plain in zip(acts, item.acts, strict=True)
                        if act != plain or len(acts) == 1
                    )
                    self.assertTrue(item.spread[0] <= amount <= item.spread[1], (item.id, amount))


class Tables(TestCase):
    def test_before_any_draw_it_is_the_prediction_table(self):
        readings = Readings(TB)
        readings.prepare(0)
        probe = Probe(Setup("off_cold", MeterRange.OHM), "CN2.5", "CN2.6")
        table = predict(TB, (probe.setup,), (probe.pair,), readings.hypotheses.circuit)
        found = readings.of(probe)
        self.assertEqual(found.shape, (1, len(readings.hypotheses)))
        np.testing.assert_allclose(found[0, 0], table.values[0, 0, 0], rtol=1e-5)
        burnt = readings.hypotheses.place["defrost_heater:open"]
        self.assertTrue(np.isinf(found[0, burnt]))

    def test_what_is_asked_later_is_of_the_same_units(self):
        readings = readings_of(TB)
        readings.prepare()
        known = next(probe for probe in candidates(TB) if probe.setup.mode == "defrost")
        fresh = Readings(TB)
        fresh.draws = readings.draws
        np.testing.assert_allclose(fresh.of(known), readings.of(known), rtol=1e-4)

    def test_a_test_is_offered_once_and_the_leaks_with_it(self):
        for sheet in SHEETS:
            offered = candidates(sheet)
            self.assertEqual(len(offered), len(set(offered)), sheet.title)
            self.assertTrue(any("earth" in probe.pair for probe in offered), sheet.title)
        heater = fault(TB, "defrost_heater:leak_earth")
        table = predict(TB, (Setup("off_cold", MeterRange.OHM, ("CN2",)),), (("CN2.6", "earth"),), (heater,))
        self.assertLess(table.values[0, 1, 0], 1e5)
