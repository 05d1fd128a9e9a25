"""A call moves to a better sheet: its readings go with it by what their points are for."""

from datetime import UTC, datetime, timedelta
from unittest import TestCase

from frostcore.circuit.meter import MeterRange
from frostcore.diagnosis.evidence import Read
from frostcore.diagnosis.from_tape import evidence_from, judgement_of
from frostcore.quantity import parse
from frostcore.sheet.load import digest, dump
from frostcore.tape.carried import Counterparts, carried, counterparts
from frostcore.tape.entries import CallTaken, Entry, PlugMoved, PowerSet, ReadingTaken, SheetTaken
from frostcore.tape.standing import stand
from frostcore.tests.archetypes import kind
from frostcore.tests.demo_sheets import demo_sheet

START = datetime(2026, 11, 2, 9, tzinfo=UTC)
KIND, TB = kind("kind-bottom-freezer"), demo_sheet("Tarnbeck TB-34")


def read(value, red, black, meter="ohm", mode="off_cold", **told):
    dimension = MeterRange(meter).dimension
    return ReadingTaken("reading", meter, parse(value, dimension), red, black, mode=mode, **told)


class Carried(TestCase):
    def test_every_point_of_a_kind_is_where_its_wire_leads_on_the_sheet(self):
        there = Counterparts(KIND, TB)
        self.assertEqual(there.point("DefrostHeater.1"), "CN2.5")
        self.assertEqual(there.point("DefrostHeater.2"), "CN2.6")
        self.assertEqual(there.point("PlugBeforeTheCoil.1"), "CN7.1")
        self.assertEqual(there.point("evaporator_fan.plus"), "evaporator_fan.plus")
        self.assertEqual(there.point("earth"), "earth")
        self.assertEqual(there.plug("DefrostHeater"), "CN2")
        ends = {run.points[-1] for run in TB.harness}
        for run in KIND.harness:
            if KIND.pin(run.points[0]) and run.points[-1] in ends:
                self.assertTrue(there.point(run.points[0]), run.points)

    def test_the_same_sheet_changes_nothing(self):
        self.assertIsNone(counterparts(TB, TB))
        body = read("240", "CN2.5", "CN2.6")
        self.assertIs(carried(body, TB, TB), body)

    def test_what_the_other_sheet_has_not_is_left_out(self):
        wine = kind("kind-wine-compressor")
        self.assertIsNone(carried(read("240", "DefrostHeater.1", "DefrostHeater.2"), KIND, wine))

    def test_readings_are_judged_by_the_sheet_the_call_moves_to(self):
        taken = digest(dump(TB))
        bodies = [
            CallTaken("call_taken", "frost over the cover"),
            PowerSet("power_set", "unplugged"),
            PlugMoved("plug_moved", "DefrostHeater", "pulled"),
            read(
                "OL",
                "DefrostHeater.1",
                "DefrostHeater.2",
                function="defrost_heater",
                pulled=("DefrostHeater",),
            ),
            SheetTaken("sheet_taken", TB.id, 1, taken),
        ]
        entries = [
            Entry(str(number), START + timedelta(minutes=number), "m", body)
            for number, body in enumerate(bodies)
        ]
        before = stand(KIND, entries[:-1])
        after = stand(KIND, entries, {taken: TB})
        self.assertEqual(after.sheet, TB)
        self.assertEqual(after.pulled, ("CN2",))
        (told,) = [item for item, _ in evidence_from(after) if isinstance(item, Read)]
        self.assertEqual((told.probe.pair, told.probe.setup.pulled), (("CN2.5", "CN2.6"), ("CN2",)))
        loop = {"defrost_heater", "bimetal", "thermal_fuse", "harness:CN2", "harness:CN7"}
        for standing in (before, after):
            first = judgement_of(standing).suspects[0]
            self.assertIn(first.unit, loop)
