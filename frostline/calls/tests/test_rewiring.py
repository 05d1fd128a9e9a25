"""Changes to the wiring on a call: proposed, refused, done, labelled, undone."""

import json
import uuid

from django.urls import reverse

from frostcore.remedy.plans.proposed import proposals
from frostcore.sheet.plan import write_plan
from frostcore.tape.entries import PartFitted, PlateRead, Rewired
from frostcore.tests.demo_sheets import demo_sheet
from frostline.accounts.models import User
from frostline.calls.actions.record_slip import NewSlip, record_slip
from frostline.calls.rewiring import key_of
from frostline.calls.tapes import standing_of
from frostline.tests import fixtures

TARNBECK, FENNICK = demo_sheet("Tarnbeck TB-34"), demo_sheet("Fennick FK-18")
FAN = next(
    plan
    for plan in proposals(TARNBECK, ["board"], "2027-01-09").plans
    if plan.school == "fan with the compressor"
)
TIMER = proposals(FENNICK, ["thermostat"], "2027-01-09").plans[0]


class Rewiring(fixtures.PageCase):
    @classmethod
    def setUpTestData(cls):
        cls.technician, cls.revision = fixtures.workshop()
        cls.call = fixtures.call(cls.revision, cls.technician)

    def setUp(self):
        self.client.force_login(self.technician)

    def at(self, name, *more):
        return reverse(f"calls:{name}", args=[self.call.pk, *more])

    def done(self, plan=FAN, **more):
        told = {"slip_id": uuid.uuid4(), "plan": json.dumps(write_plan(plan)), "agreed_by": "A. Fell"} | more
        return self.client.post(self.at("plan", key_of(plan)), told, follow=True)

    def now(self):
        return standing_of(self.call).now

    def test_ways_round_a_part_are_shown_with_what_each_loses(self):
        page = self.client.get(self.at("plans"), {"part": "board"})
        self.assertContains(page, "Condenser fan on the always-live wire")
        self.assertContains(page, "Fan with the compressor, defrost by timer")
        self.assertContains(page, "Draws no more while it cools, 11 W more at rest.")
        one = self.client.get(self.at("plan", key_of(FAN)), {"part": "board", "duty": "40"})
        self.assertContains(one, "Before the plug goes in")
        self.assertContains(one, "kWh a year")

    def test_a_plan_is_done_labelled_and_undone_in_one_act(self):
        page = self.done()
        self.assertContains(page, "The call goes on with the changed wiring.")
        self.assertEqual(self.now().plan, FAN)
        label = self.client.get(self.at("label"))
        self.assertContains(label, "THE WIRING OF THIS UNIT WAS CHANGED")
        self.assertContains(label, f"testserver{reverse('calls:call', args=[self.call.pk])}")
        self.assertContains(label, "<svg")
        self.assertContains(label, "A. Fell")
        self.client.post(self.at("undo_plan"), {"slip_id": uuid.uuid4()})
        self.assertIsNone(self.now().plan)
        self.assertEqual(self.now().sheet, self.revision.content)

    def test_nobody_agreed_nothing_is_recorded(self):
        page = self.done(agreed_by=" ")
        self.assertContains(page, "Nobody has agreed to it yet", status_code=422)
        self.assertIsNone(self.now().plan)

    def test_a_refused_plan_is_shown_with_its_reason_and_never_recorded(self):
        bridged = {
            "format": "frostline-plan-1",
            "title": "Thermal fuse bridged",
            "keeps": ["compressor"],
            "acts": [{"act": "run", "points": ["bimetal.2", "defrost_heater.1"]}],
        }
        page = self.client.post(self.at("plans"), {"plan": json.dumps(bridged)})
        self.assertContains(page, "The thermal fuse no longer protects the defrost heater")
        self.assertNotContains(page, "Wired so")
        told = {"slip_id": uuid.uuid4(), "plan": json.dumps(bridged), "agreed_by": "A. Fell"}
        page = self.client.post(self.at("plan", "x"), told)
        self.assertEqual(page.status_code, 422)
        self.assertIsNone(self.now().plan)

    def test_what_is_no_plan_is_told_at_its_place_and_stays_typed(self):
        for typed, told in (
            ("{", "JSON"),
            ('{"format": "x"}', "format"),
            (
                '{"format": "frostline-plan-1", "title": "x", "acts": [{"act": "park", "connector": "CN9"}]}',
                "no connector “CN9”",
            ),
        ):
            page = self.client.post(self.at("plans"), {"plan": typed})
            self.assertContains(page, told, status_code=422)
            self.assertEqual(page.context["form"]["plan"].value(), typed)

    def test_a_plan_that_can_t_be_solved_is_told_wherever_it_is_sent(self):
        bad = write_plan(FAN)
        relay = {"id": "r", "kind": "relay", "name": "Relay", "place": "machine_bay"}
        bad["acts"].append({"act": "add", "component": relay})
        text = json.dumps(bad)
        page = self.client.post(self.at("plans"), {"plan": text})
        self.assertContains(page, "no volts", status_code=422)
        for name, more in (("plan", ("x",)), ("keep_plan", ())):
            told = {"plan": text, "slip_id": uuid.uuid4(), "agreed_by": "A", "from": "1"}
            self.assertContains(self.client.post(self.at(name, *more), told, follow=True), "no volts")
        self.assertIsNone(self.now().plan)

    def test_a_second_plan_asks_to_put_the_first_back(self):
        self.done()
        other = next(
            plan
            for plan in proposals(TARNBECK, ["board"], "2027-01-09").plans
            if plan.school == "fan always on"
        )
        self.assertContains(self.done(other), "The wiring is changed already", status_code=422)
        self.assertEqual(self.now().plan, FAN)

    def test_a_stop_gap_takes_the_day_that_is_said_and_none_that_is_over(self):
        self.call = fixtures.call(
            fixtures.publish("fennick-fk-18", User.objects.get(role="lead")), self.technician
        )
        page = self.done(TIMER, until="2020-01-01")
        self.assertContains(page, "That day is over", status_code=422)
        self.done(TIMER, until="2099-03-01")
        self.assertEqual(self.now().plan.stop_gap_until, "2099-03-01")

    def test_nothing_to_label_or_to_undo_is_said(self):
        self.assertContains(self.client.get(self.at("label"), follow=True), "nothing to label")
        page = self.client.post(self.at("undo_plan"), {"slip_id": uuid.uuid4()}, follow=True)
        self.assertContains(page, "nothing to put back")
        self.assertEqual(self.client.post(self.at("undo_plan"), {"slip_id": "x"}).status_code, 404)


class Remembered(fixtures.PageCase):
    @classmethod
    def setUpTestData(cls):
        cls.technician, cls.revision = fixtures.workshop()
        cls.first = fixtures.call(cls.revision, cls.technician)
        cls.second = fixtures.call(cls.revision, cls.technician)
        for call in (cls.first, cls.second):
            cls.put(call, PlateRead("plate_read", "TB-34", "TB 77"))
        cls.put(
            cls.first, PartFitted("part_fitted", "evaporator_fan"), Rewired("rewired", "done", FAN, "A. Fell")
        )

    @classmethod
    def put(cls, call, *bodies):
        for body in bodies:
            record_slip(call, NewSlip(uuid.uuid4(), body), cls.technician)

    def setUp(self):
        self.client.force_login(self.technician)

    def page(self, call):
        return self.client.get(reverse("calls:stage", args=[call.pk, "call"]))

    def test_the_earlier_call_on_the_serial_is_shown_with_what_was_fitted(self):
        page = self.page(self.second)
        self.assertContains(page, f"Call {self.first.number},")
        self.assertContains(page, "Evaporator fan fitted")
        self.assertNotContains(self.page(self.first), "This unit was seen before")

    def test_a_wiring_left_changed_goes_on_with_one_tap(self):
        each = self.page(self.second).context["remembered"][0]
        told = {"slip_id": each.slip_id, "plan": each.written, "from": str(self.first.number)}
        self.client.post(reverse("calls:keep_plan", args=[self.second.pk]), told)
        self.assertEqual(standing_of(self.second).now.plan, FAN)
        self.assertNotContains(self.page(self.second), "It is still wired so")
        bad = {"slip_id": "x", "plan": each.written}
        self.assertEqual(
            self.client.post(reverse("calls:keep_plan", args=[self.second.pk]), bad).status_code, 404
        )

    def test_a_part_fitted_before_is_asked_about(self):
        told = {"kind": "part_fitted", "slip_id": uuid.uuid4(), "component": "evaporator_fan"}
        page = self.client.post(reverse("calls:stage", args=[self.second.pk, "close"]), told)
        self.assertContains(page, "What killed that one?", status_code=422)
        self.assertFalse(standing_of(self.second).all_of(PartFitted))

    def test_another_serial_and_a_practice_call_remember_nothing(self):
        other = fixtures.call(self.revision, self.technician)
        self.put(other, PlateRead("plate_read", "TB-34", "TB 99"))
        self.assertNotContains(self.page(other), "This unit was seen before")
