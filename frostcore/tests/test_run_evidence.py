"""What a run found as evidence: by the simulation of every thermal class of the sheet."""

import math
from unittest import TestCase

import numpy as np

from frostcore.diagnosis.evidence import EvidenceError, Ran, evidence_of
from frostcore.diagnosis.judge import judge
from frostcore.diagnosis.weigh import weigher_of
from frostcore.errors import FrostError
from frostcore.tests.demo_sheets import demo_sheet
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
