"""Properties of replay: whatever is put on a tape, nothing is lost and nothing counts twice."""

from dataclasses import replace
from datetime import UTC, datetime, timedelta
from unittest import TestCase

from hypothesis import given, settings
from hypothesis import strategies as st

from frostcore.curves.known import generic_families
from frostcore.diagnosis.step import next_step, stage_done
from frostcore.errors import TapeError
from frostcore.quantity import Dimension, parse
from frostcore.report.handover import handover
from frostcore.tape.entries import (
    CallTaken,
    CodeSeen,
    Entry,
    Noted,
    Power,
    PowerSet,
    ReadingTaken,
    TemperatureTaken,
    Withdrawn,
)
from frostcore.tape.kinds import KINDS, words_of
from frostcore.tape.stages import Stage
from frostcore.tape.standing import stand
from frostcore.tape.take import Answers, Asked, Offered, questions_about, take
from frostcore.tape.versions import read_body
from frostcore.tests.test_ageing import SLIPS
from frostcore.tests.test_display import SHEETS, TARNBECK

START = datetime(2026, 11, 2, 9, tzinfo=UTC)
READING = ReadingTaken(
    "reading",
    "ohm",
    parse("11k", Dimension.RESISTANCE),
    sensor="fridge",
    temperature=parse("9C", Dimension.TEMPERATURE),
)
BETTER = replace(TARNBECK, codes=TARNBECK.codes[1:], connectors=TARNBECK.connectors[1:])
SHEETS_BY_DIGEST = {"ab" * 32: BETTER}
KEPT = [read_body(kept["kind"], kept["version"], kept["body"]) for kept in SLIPS]
"""A body of every kind, and of every version that ever landed."""

BODIES = st.sampled_from(
    [
        *KEPT,
        PowerSet("power_set", "live"),
        PowerSet("power_set", "unplugged"),
        CodeSeen("code_seen", "E5", "E5"),
        CodeSeen("code_seen", "77"),
        READING,
        Noted("noted", "x"),
        Withdrawn("withdrawn", "no"),
    ]
)


@st.composite
def tapes(draw):
    """Entries as a careless client may send them: corrections of anything by anything."""
    entries = [Entry("0", START, "m", CallTaken("call_taken", "B"))]
    for number in range(1, draw(st.integers(1, 12))):
        target = draw(st.none() | st.integers(0, number - 1))
        entries.append(
            Entry(
                str(number),
                START + timedelta(minutes=number),
                "m",
                draw(BODIES),
                "" if target is None else str(target),
            )
        )
    return entries


def accepted(entries):
    """The entries a tape takes, one after the other; the rest are refused."""
    kept, answers = [], Answers(kept=("ohms_live:power", "ohms_power_unknown:power"), code="-")
    for entry in entries:
        offered = Offered(entry.id, entry.at, entry.by, entry.body, entry.supersedes)
        try:
            found = take(stand(TARNBECK, kept, SHEETS_BY_DIGEST), offered, answers)
        except TapeError:
            continue
        if not isinstance(found, Asked):
            kept.append(replace(entry, body=found.bodies[-1]))
    return kept


class Replaying(TestCase):
    def test_tapes_are_drawn_from_every_kind(self):
        self.assertEqual({body.kind for body in KEPT}, set(KINDS))

    @settings(deadline=None)
    @given(tapes())
    def test_every_slip_stays_and_each_counts_at_most_once(self, entries):
        kept = accepted(entries)
        where = stand(TARNBECK, kept, SHEETS_BY_DIGEST)
        self.assertEqual([slip.entry for slip in where.slips], kept)
        self.assertEqual(
            {slip.entry.id for slip in where.effective},
            {slip.entry.id for slip in where.slips if slip.standing},
        )
        superseded = [slip.entry.supersedes for slip in where.slips if slip.entry.supersedes]
        self.assertEqual(len(superseded), len(set(superseded)))

    @settings(deadline=None)
    @given(tapes())
    def test_the_power_state_is_that_of_the_last_standing_entry_that_set_it(self, entries):
        where = stand(TARNBECK, accepted(entries), SHEETS_BY_DIGEST)
        states = [slip.entry.body.state for slip in where.effective if isinstance(slip.entry.body, PowerSet)]
        self.assertEqual(where.power, Power(states[-1]) if states else Power.UNKNOWN)

    @settings(deadline=None)
    @given(tapes())
    def test_every_tape_has_a_next_step_words_and_a_report(self, entries):
        where = stand(TARNBECK, accepted(entries), SHEETS_BY_DIGEST)
        self.assertTrue(next_step(where).act)
        self.assertTrue(all(words_of(where, slip).title for slip in where.slips))
        self.assertTrue(handover(where).call.complaint)
        self.assertTrue(all(isinstance(stage_done(where, stage), bool) for stage in Stage))


class ThroughTheBoard(TestCase):
    def standing(self, *bodies):
        return stand(
            TARNBECK,
            [
                Entry(str(number), START, "m", body)
                for number, body in enumerate((CallTaken("call_taken", "B"), *bodies))
            ],
        )

    def volts(self, volts="1.6V"):
        return ReadingTaken(
            "reading",
            "vdc",
            parse(volts, Dimension.VOLTAGE),
            sensor="fridge",
            temperature=parse("9C", Dimension.TEMPERATURE),
        )

    def test_volts_with_the_plug_out_are_questioned_and_ohms_are_not(self):
        unplugged, live = (
            self.standing(PowerSet("power_set", "unplugged")),
            self.standing(PowerSet("power_set", "live")),
        )
        self.assertEqual(
            [question.kind for question in questions_about(unplugged.now, self.volts())], ["volts_unplugged"]
        )
        self.assertEqual(questions_about(live.now, self.volts()), ())

    def test_the_pull_up_widens_the_band_of_a_reading_in_volts(self):
        where = self.standing(self.volts(), READING)
        in_volts, in_ohms = (where.judged(slip).band for slip in where.slips[1:])
        self.assertLess(in_volts.low, in_ohms.low)
        self.assertGreater(in_volts.high, in_ohms.high)

    def test_belief_uses_the_compartments_own_thermometer(self):
        taken = TemperatureTaken("temperature_taken", "fridge", parse("-11C", Dimension.TEMPERATURE))
        where = self.standing(taken, self.volts())
        belief = where.belief(TARNBECK.sensor("fridge"), where.reading_verdict("2").by_curve)
        self.assertAlmostEqual(belief.settles, 5 - where.reading_verdict("2").by_curve.error_kelvin)
        self.assertEqual((belief.found, belief.explains), (-11, True))
        self.assertIsNone(where.belief(TARNBECK.sensor("defrost"), where.reading_verdict("2").by_curve))

    def test_kinds_of_error_are_asked_of_all_readings_of_one_sensor(self):
        where = self.standing(READING, self.volts())
        self.assertEqual(len(where.error_kinds(TARNBECK.sensor("fridge"), generic_families()).kinds), 6)
        self.assertIsNone(where.error_kinds(TARNBECK.sensor("freezer"), ()))

    def test_every_demo_sheet_tells_how_the_board_reads_each_sensor(self):
        for sheet in SHEETS.values():
            channels = {channel.sensor for board in sheet.boards for channel in board.sensor_inputs}
            self.assertEqual(channels, {sensor.id for sensor in sheet.sensors})
