"""What closed calls teach new ones, when a lead has turned it on."""

import uuid

from django.urls import reverse

from frostcore.tape.entries import Experienced, Outcome, PlateRead, Result
from frostline.accounts.models import User
from frostline.calls.actions.keep_index import keep_index
from frostline.calls.actions.record_slip import NewSlip, record_slip
from frostline.calls.experience import experience_of
from frostline.calls.models import CallCause
from frostline.calls.tapes import standing_of
from frostline.tests import fixtures


class Learning(fixtures.PageCase):
    @classmethod
    def setUpTestData(cls):
        cls.technician, cls.revision = fixtures.workshop()
        cls.lead = User.objects.get(role="lead")

    def setUp(self):
        self.client.force_login(self.lead)

    def closed(self, cause, serial="", result=Result.REPAIRED):
        call = fixtures.call(self.revision, self.technician)
        if serial:
            record_slip(
                call, NewSlip(uuid.uuid4(), PlateRead("plate_read", "TB-34", serial)), self.technician
            )
        outcome = Outcome("outcome", result, "done", cause)
        record_slip(call, NewSlip(uuid.uuid4(), outcome), self.technician)
        return call

    def turn(self, do):
        return self.client.post(reverse("calls:experience"), {"do": do}, follow=True)

    def counts(self):
        found = experience_of(self.revision.content)
        return dict(found.counts) if found else None

    def test_off_until_a_lead_turns_it_on_and_then_on_the_tape_of_new_calls(self):
        self.closed("evaporator_fan")
        self.assertIsNone(self.counts())
        self.turn("on")
        self.assertEqual(self.counts(), {"fan_dc": 1})
        call = fixtures.call(self.revision, self.technician)
        self.assertEqual(standing_of(call).latest(Experienced).counts, (("fan_dc", 1),))
        self.closed("evaporator_fan")
        self.assertEqual(standing_of(call).latest(Experienced).counts, (("fan_dc", 1),))
        self.turn("off")
        self.assertIsNone(standing_of(fixtures.call(self.revision, self.technician)).latest(Experienced))

    def test_begun_anew_it_counts_from_today(self):
        self.closed("evaporator_fan")
        self.turn("on")
        self.turn("anew")
        self.assertIsNone(self.counts())
        self.closed("bimetal")
        self.assertEqual(self.counts(), {"bimetal": 1})
        self.assertContains(self.client.get(reverse("calls:experience")), "bimetal")

    def test_a_wrong_diagnosis_corrected_on_the_same_unit_does_not_count(self):
        self.turn("on")
        self.closed("board", "TB 1")
        self.closed("defrost_heater", "TB 1")
        self.closed("board", "TB 2")
        self.assertEqual(self.counts(), {"board": 1, "heater": 1})

    def test_what_was_not_put_right_and_what_has_no_cause_teach_nothing(self):
        self.turn("on")
        self.closed("board", result=Result.STOPPED)
        self.closed("")
        self.assertIsNone(self.counts())

    def test_the_index_makes_it_anew(self):
        call = self.closed("board")
        kept = CallCause.objects.get(call=call)
        CallCause.objects.all().delete()
        keep_index(call, standing_of(call))
        again = CallCause.objects.get(call=call)
        self.assertEqual(
            (kept.kind, kept.archetype, kept.closed_at), (again.kind, again.archetype, again.closed_at)
        )

    def test_what_is_neither_on_nor_off_changes_nothing(self):
        self.closed("evaporator_fan")
        self.assertEqual(self.turn("nonsense").status_code, 404)
        self.assertIsNone(self.counts())

    def test_a_technician_may_not(self):
        self.client.force_login(self.technician)
        self.assertEqual(self.turn("on").status_code, 403)
