"""What a run found as evidence: by the simulation of every thermal class of the sheet."""

import math
from unittest import TestCase

import numpy as np

from frostcore.diagnosis.evidence import EvidenceError, Ran, evidence_of
from frostcore.diagnosis.hypotheses import hypotheses_of
from frostcore.diagnosis.judge import judge
from frostcore.diagnosis.of_run import _bits, classes, prepare, proofs_of, worth
from frostcore.diagnosis.weigh import weigher_of
from frostcore.errors import FrostError
from frostcore.tape.entries import PartFitted
from frostcore.tape.standing import stand
from frostcore.tests.demo_sheets import demo_sheet
from frostcore.tests.test_tape import tape
from frostcore.thermal.behaviour import MOST_BITS, classes_of, shown_by
from frostcore.thermal.faults import SOUND, Broken
from frostcore.thermal.of_sheet import thermal_of

TB = demo_sheet("Tarnbeck TB-34")
NEVER = {"cuts_out": "never", "holds:freezer": "cold", "holds:fridge": "yes", "defrosts": "yes"}
SOUND_RUN = {"cuts_out": "yes", "holds:freezer": "yes", "holds:fridge": "yes", "defrosts": "yes"}


def ran(found):
    return Ran(tuple(sorted(found.items())))


class Runs(TestCase):
    @classmethod
    def setUpClass(cls):
        cls.weigher = weigher_of(TB)
        cls.known = cls.weigher.known

    def log(self, found):
        return self.weigher.log(ran(found))[0]

    def of(self, found, fault):
        return float(self.log(found)[self.known.place[fault]])

    def test_what_classes_show_is_what_their_simulation_shows(self):
        plant = thermal_of(TB)
        self.assertEqual(shown_by(plant, SOUND)["cuts_out"], "yes")
        welded = shown_by(plant, Broken(runs_on=frozenset({"compressor"})))
        self.assertEqual((welded["cuts_out"], welded["holds:freezer"]), ("never", "cold"))
        self.log(SOUND_RUN)
        self.assertEqual(classes_of(TB)[Broken(stands=frozenset({"compressor"}))]["cuts_out"], "dead")

    def test_one_that_never_cuts_out_speaks_for_what_keeps_the_compressor_on(self):
        self.assertGreater(
            self.of(NEVER, "board:welded:k_compressor"), self.of(NEVER, "compressor:run_open") + 2
        )
        self.assertGreater(
            self.of(NEVER, "board:welded:k_compressor"), self.of(NEVER, "defrost_heater:open") + 1
        )

    def test_a_wire_is_as_likely_as_the_load_behind_it(self):
        for found in (NEVER, SOUND_RUN):
            self.assertEqual(
                self.of(found, "evaporator_fan:open"), self.of(found, "harness:open:CN4.1-CN7.3")
            )

    def test_a_log_alone_never_says_more_than_six_bits(self):
        for found in (
            NEVER,
            SOUND_RUN,
            {"cuts_out": "dead", "holds:freezer": "warm", "holds:fridge": "warm"},
        ):
            log = self.log(found)
            self.assertLessEqual(float(log.max() - log.min()), MOST_BITS * math.log(2) + 1e-9)

    def test_a_failed_defrost_is_told_of_its_whole_loop(self):
        found = {"defrosts": "no", "cuts_out": "yes", "holds:freezer": "yes", "holds:fridge": "yes"}
        for fault in ("defrost_heater:open", "thermal_fuse:open", "bimetal:stuck_open"):
            self.assertGreater(self.of(found, fault), self.of(found, "condenser_fan:open"), fault)

    def test_it_moves_the_judgement_and_the_newest_run_counts(self):
        before = judge(TB, ())
        after = judge(TB, (ran(NEVER),))
        place = self.known.place["board:welded:k_compressor"]
        self.assertGreater(after.posterior.chances[place], 3 * before.posterior.chances[place])
        again = judge(TB, (ran(NEVER), ran(SOUND_RUN)))
        only = judge(TB, (ran(SOUND_RUN),))
        np.testing.assert_allclose(again.posterior.chances, only.posterior.chances, rtol=1e-9)
        self.assertAlmostEqual(float(after.posterior.chances.sum()), 1.0, places=9)

    def test_at_the_door_it_is_written_so(self):
        entry = {"act": "run", "shows": {"cuts_out": "never", "holds:freezer": "cold"}}
        self.assertEqual(evidence_of(TB, [entry]), (ran({"cuts_out": "never", "holds:freezer": "cold"}),))
        for wrong in (
            {"act": "run"},
            {"act": "run", "shows": {"cuts_out": "perhaps"}},
            {"act": "run", "shows": {"x": 1}},
        ):
            with self.assertRaises((EvidenceError, FrostError)):
                evidence_of(TB, [wrong])


class Asked(TestCase):
    """What a call asks of a run, and what a run would tell."""

    @classmethod
    def setUpClass(cls):
        prepare(TB)

    def bits(self, *evidence):
        return {each.id: each.bits for each in worth(judge(TB, evidence))}

    def test_watts_tell_more_than_air_and_a_forced_defrost_most_an_hour(self):
        found = worth(judge(TB, ()))
        by = {each.id: each for each in found}
        self.assertEqual(found[0].id, "forced")
        self.assertGreater(by["watts"].bits, by["air"].bits + 0.1)
        self.assertNotIn("coil", by)  # it tells no more than the watts do

    def test_no_way_tells_more_than_what_is_not_known_of_the_classes(self):
        judgement = judge(TB, ())
        chances = {}
        for place, item in enumerate(hypotheses_of(TB).all):
            of = classes(TB)[item.fault.id] if item.fault else SOUND
            chances[of] = chances.get(of, 0.0) + float(judgement.posterior.now[place])
        p = np.array(list(chances.values()))
        unknown = -float(np.sum(p / p.sum() * np.log2(p / p.sum())))
        self.assertTrue(all(0 < bits < unknown for bits in self.bits().values()))

    def test_what_is_known_is_told_no_more(self):
        """With one class certain nothing is left to tell; with two that show the same, likewise."""
        sure = {SOUND: 1.0}
        same = {SOUND: 0.5, Broken(changes=("dirty",)): 0.5}
        shown = {of: {"cuts_out": "yes"} for of in same}
        self.assertAlmostEqual(_bits(sure, shown), 0.0)
        self.assertAlmostEqual(_bits(same, shown), 0.0)
        apart = {of: {"cuts_out": code} for of, code in zip(same, ("yes", "never"), strict=True)}
        self.assertGreater(_bits(same, apart), 0.2)
        self.assertLessEqual(_bits(same, apart), 1.0)

    def keys(self, *bodies):
        return {each.key: each.why for each in proofs_of(stand(TB, tape(*bodies)))}

    def test_whatever_was_done_it_has_to_keep_its_settings_and_cut_out(self):
        self.assertEqual(set(self.keys()), {"cuts_out", "holds:fridge", "holds:freezer"})

    def test_a_heater_that_was_fitted_asks_for_a_defrost(self):
        found = self.keys(PartFitted("part_fitted", "defrost_heater"))
        self.assertIn("defrosts", found)
        self.assertIn("Defrost heater", found["defrosts"])
        self.assertNotIn("short_cycles", found)

    def test_a_fan_that_was_fitted_asks_for_what_its_air_cools(self):
        """With a still fan the freezer about the coil is nearly as it should be, and the fridge is not."""
        found = self.keys(PartFitted("part_fitted", "evaporator_fan"))
        self.assertIn("Evaporator fan", found["holds:fridge"])
        self.assertEqual(found["holds:freezer"], "")
