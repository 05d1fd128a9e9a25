"""What to do now: the act with its branches, what else could be done, and what was chosen instead."""

import json
from unittest import TestCase

from frostcore.diagnosis.acts import document
from frostcore.diagnosis.evidence import Measured
from frostcore.diagnosis.from_tape import judgement_of
from frostcore.diagnosis.now import branches_of, dimension_of, looks_in_order, now_of, taken_branch
from frostcore.diagnosis.planner import Proposal
from frostcore.diagnosis.probes import Probe
from frostcore.diagnosis.readings import readings_of
from frostcore.diagnosis.step import percent
from frostcore.quantity import Dimension, parse
from frostcore.report.handover import handover
from frostcore.tape.entries import CodeSeen, Complained, Mended, Observed, PartFitted, PartTried, ReadingTaken
from frostcore.tape.looks import look
from frostcore.tape.standing import stand
from frostcore.tests.test_display import TARNBECK
from frostcore.tests.test_tape import CALL, LIVE, PLATE, UNPLUGGED, tape
from frostcore.verdict import Verdict


def standing(*bodies):
    readings_of(TARNBECK).prepare()
    return stand(TARNBECK, tape(CALL, PLATE, *bodies))


STILL = (LIVE, Observed("observed", "display", "normal"), Observed("observed", "evaporator_fan", "still"))


class Acts(TestCase):
    def test_what_comes_before_any_searching_has_no_branches(self):
        found = now_of(standing())
        self.assertEqual(found.step.act, "Say whether the plug is in")
        self.assertEqual((found.test, found.branches, found.others), (None, (), ()))

    def test_a_look_has_all_its_answers_each_with_what_it_would_leave(self):
        found = now_of(standing(LIVE))
        self.assertEqual(found.step.act, "Look: display")
        answers = [branch.answer for branch in found.branches]
        self.assertEqual(answers, [answer.id for answer in look("display").answers])
        code = found.branches[answers.index("code")]
        self.assertRegex(code.text, r"^shows a code, such as E\d$")
        self.assertTrue(all(branch.likely and branch.leaves for branch in found.branches))
        dead = found.branches[answers.index("dead")]
        self.assertEqual(dead.leaves[0][0], "Control board")

    def test_an_outcome_leaves_what_the_judgement_comes_to_after_it(self):
        """Told beforehand, and then it is so."""
        before = now_of(standing(*STILL))
        for branch in before.branches:
            if not branch.likely:
                continue
            taken = Observed("observed", before.test.look, branch.answer)
            after = judgement_of(standing(*STILL, taken)).suspects[0]
            said = float(branch.leaves[0][1].strip("> %"))
            self.assertAlmostEqual(said, 100 * after.probability, delta=6)

    def test_a_figure_s_branches_stand_to_the_line(self):
        judgement = judgement_of(standing(*STILL))
        fan = next(
            test
            for test in judgement.planner.outcomes.probes
            if set(test.pair) == {"CN4.1", "CN4.2"} and test.setup.meter.live and test.setup.mode == "normal"
        )
        branches = branches_of(judgement, Proposal(fan, 1.0, 1.0, 1.0))
        marks = [branch.mark for branch in branches]
        self.assertIn(Verdict.IN_BAND, marks)
        self.assertEqual(marks, sorted(marks, key=[Verdict.LOW, Verdict.IN_BAND, Verdict.HIGH].index))
        low = next(branch for branch in branches if branch.mark is Verdict.LOW)
        self.assertEqual(low.leaves[0][0], "Control board")

    def test_ol_breaks_the_line_and_too_warm_stands_above_it(self):
        judgement = judgement_of(standing(UNPLUGGED))
        tests = judgement.planner.outcomes.tests
        loop = next(
            test
            for test in tests
            if isinstance(test, Probe) and test.pair == ("CN2.5", "CN2.6") and not test.setup.meter.live
        )
        marks = {branch.text: branch.mark for branch in branches_of(judgement, Proposal(loop, 1, 1, 1))}
        self.assertEqual(marks["OL"], Verdict.OPEN)
        warm = next(test for test in tests if getattr(test, "place", "") == "freezer")
        marks = {branch.text: branch.mark for branch in branches_of(judgement, Proposal(warm, 1, 1, 1))}
        self.assertEqual((marks["too warm"], marks["right"]), (Verdict.HIGH, Verdict.IN_BAND))


MORE = (
    *STILL,
    Observed("observed", "light", "on"),
    Observed("observed", "vent_air", "moves"),
    Observed("observed", "frame_loop", "normal"),
)


class Typed(TestCase):
    def proposed(self, before, kind):
        """The first proposal of a kind, as it is asked for, with what it then is."""
        judgement = judgement_of(before)
        test = next(each.test for each in judgement.proposals if isinstance(each.test, kind))
        asks = json.dumps(document(judgement.sheet, test))
        return asks, now_of(before, asks)

    def test_a_figure_takes_the_branch_it_lies_in_and_leaves_what_it_then_does(self):
        code, frost = (CodeSeen("code_seen", "E5", code="E5"), Observed("observed", "frost", "cover_frozen"))
        before = standing(UNPLUGGED, code, frost)
        asks, now = self.proposed(before, Probe)
        probe, meter = now.test, now.test.setup.meter
        for branch in now.branches:
            first = branch.text.split(" to ")[0]
            value = parse(first, dimension_of(probe))
            taken = taken_branch(before, value, asks)
            self.assertEqual(taken.number, branch.number, branch)
            read = ReadingTaken(
                "reading",
                meter.value,
                value,
                red=probe.red,
                black=probe.black,
                mode=probe.setup.mode,
                pulled=probe.setup.pulled,
            )
            after = judgement_of(standing(UNPLUGGED, code, frost, read)).suspects[0]
            self.assertEqual(taken.leaves[0][1], percent(after.probability))

    def test_temperatures_take_theirs(self):
        before = standing(*MORE)
        asks, now = self.proposed(before, Measured)
        words = {branch.number: branch.text for branch in now.branches}
        hot = taken_branch(before, parse("26C", Dimension.TEMPERATURE), asks)
        self.assertEqual(words[hot.number], "too warm")
        cold = taken_branch(before, parse("-35C", Dimension.TEMPERATURE), asks)
        self.assertEqual(words[cold.number], "too cold")

    def test_what_is_no_figure_of_it_takes_none(self):
        before = standing(*MORE)
        asks, _ = self.proposed(before, Measured)
        self.assertIsNone(taken_branch(before, parse("OL", Dimension.RESISTANCE), asks))
        self.assertIsNone(taken_branch(standing(), parse("4C", Dimension.TEMPERATURE)))


class Instead(TestCase):
    def test_the_others_are_other_tests_and_can_be_chosen(self):
        first = now_of(standing(*STILL))
        self.assertEqual(len(first.others), 2)
        other = first.others[0]
        chosen = now_of(standing(*STILL), other.asks)
        self.assertEqual(chosen.step.act, other.act)
        self.assertEqual(json.loads(chosen.step.asks), json.loads(other.asks))
        self.assertTrue(chosen.branches)
        self.assertIn(first.step.act, [each.act for each in chosen.others])

    def test_nonsense_and_what_cannot_be_asked_for_change_nothing(self):
        first = now_of(standing(*STILL))
        for instead in ("", "no json", "[]", '{"act": "sing"}', '{"act": "look", "look": "moon"}', "null"):
            self.assertEqual(now_of(standing(*STILL), instead), first, instead)
        done = json.dumps({"act": "look", "look": "display"})
        self.assertEqual(now_of(standing(*STILL), done), first)

    def test_asking_what_the_customer_notices_offers_all_complaints(self):
        found = now_of(standing(*STILL), json.dumps({"act": "ask"}))
        self.assertIn("warm fridge", [branch.answer for branch in found.branches])
        again = now_of(standing(*STILL, Complained("complained", "warm fridge")), json.dumps({"act": "ask"}))
        self.assertNotIn("Ask", again.step.act)


class Looks(TestCase):
    def test_the_looks_stand_by_what_they_would_tell_and_do_not_move_while_they_are_made(self):
        order = looks_in_order(standing(LIVE))
        self.assertEqual(order[0], "display")
        self.assertEqual(set(order[-2:]), {"coil", "board_label"})
        self.assertLess(order.index("evaporator_fan"), order.index("bulbs"))
        self.assertEqual(looks_in_order(standing(*STILL)), order)

    def test_what_the_complaint_says_already_a_look_tells_less_of(self):
        before = looks_in_order(standing(LIVE)).index("light")
        after = looks_in_order(standing(LIVE, Complained("complained", "light"))).index("light")
        self.assertGreater(after, before)

    def test_a_unit_without_the_part_is_not_asked_about_it(self):
        self.assertNotIn("timer_shaft", looks_in_order(standing(LIVE)))
        self.assertNotIn("dispenser_dip", looks_in_order(standing(LIVE)))


class Report(TestCase):
    def test_it_says_what_the_judgement_of_the_unit_as_it_came_comes_to(self):
        entries = (UNPLUGGED, Observed("observed", "evaporator_fan", "still"))
        entries += (Observed("observed", "vent_air", "none"), Observed("observed", "display", "normal"))
        taken = standing(*entries)
        line = next(line for line in handover(taken, judgement_of(taken)).found if "By all that" in line)
        self.assertIn("likeliest, Evaporator fan", line)
        fitted = standing(*entries, PartFitted("part_fitted", "evaporator_fan"))
        self.assertIn(line, handover(fitted, judgement_of(fitted)).found)
        self.assertNotIn(line, handover(taken).found)

    def test_what_was_mended_and_what_was_only_tried_stand_in_it(self):
        tried, mended = (
            PartTried("part_tried", "board", "no"),
            Mended("mended", "harness:CN2", "Plug CN2", "reseated"),
        )
        done = handover(standing(UNPLUGGED, tried, mended)).done
        self.assertIn("Mended or put right: Plug CN2 (reseated).", done)
        self.assertIn("Tried and taken out again: Control board.", done)
