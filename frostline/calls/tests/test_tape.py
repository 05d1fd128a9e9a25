import json
import uuid

from django.db import DatabaseError, connection, transaction
from django.urls import reverse

from frostcore.errors import TapeError
from frostcore.tape.entries import CallTaken, Noted, PowerSet
from frostcore.tape.take import Answers
from frostcore.tape.versions import read_body
from frostline.accounts.models import User
from frostline.calls.actions.open_call import NewCall, Who, open_call
from frostline.calls.actions.record_slip import NewSlip, record_slip
from frostline.calls.models import Call, Slip
from frostline.demo.actions import body_of
from frostline.tests import fixtures
from frostline.ui.immutable import ImmutableError


class TapeCase(fixtures.CallCase):
    def record(self, slip_id, body, **told):
        return record_slip(self.call, NewSlip(slip_id, body, **told), self.user)

    def kinds(self):
        return [slip.kind for slip in Slip.objects.filter(call=self.call)]


class Recording(TapeCase):
    def test_a_form_sent_twice_records_once(self):
        slip_id = uuid.uuid4()
        first = self.record(slip_id, PowerSet("power_set", "live"))
        again = self.record(slip_id, PowerSet("power_set", "live"))
        self.assertEqual((first.created, again.created, again.slip), (True, False, first.slip))
        self.assertEqual(self.kinds(), ["call_taken", "power_set"])

    def test_the_same_form_with_other_content_is_refused(self):
        slip_id = uuid.uuid4()
        self.record(slip_id, Noted("noted", "one"))
        with self.assertRaisesRegex(TapeError, "already recorded with other content"):
            self.record(slip_id, Noted("noted", "two"))

    def test_what_does_not_fit_leaves_nothing_behind(self):
        with self.assertRaises(TapeError), transaction.atomic():
            self.record(
                uuid.uuid4(),
                body_of({"kind": "code_seen", "shown": "E5", "code": "E99"}),
                answers=Answers(power="live"),
            )
        self.assertEqual(self.kinds(), ["call_taken"])

    def test_a_call_opened_twice_is_one_call(self):
        taken = CallTaken("call_taken", "another")
        again = open_call(NewCall(self.call.pk, self.revision, Who("Another"), taken), self.user)
        self.assertEqual((again.pk, Call.objects.count()), (self.call.pk, 1))

    def test_slips_are_kept_for_good_by_the_program_and_by_the_database(self):
        slip = self.call.slips.get()
        slip.kind = "other"
        for attempt in (
            slip.save,
            slip.delete,
            Slip.objects.all().delete,
            lambda: Slip.objects.update(kind="x"),
        ):
            with self.assertRaises(ImmutableError):
                attempt()
        for sql in (
            "UPDATE calls_slip SET kind = 'x'",
            "DELETE FROM calls_slip",
            "DELETE FROM calls_call",
            "UPDATE sheets_revision SET document = ''",
        ):
            with (
                self.subTest(sql),
                self.assertRaisesRegex(DatabaseError, "kept for good"),
                transaction.atomic(),
                connection.cursor() as cursor,
            ):
                cursor.execute(sql)


class Pages(TapeCase):
    def post(self, stage, expected=302, **data):
        data.setdefault("slip_id", str(uuid.uuid4()))
        response = self.client.post(reverse("calls:stage", args=[self.call.pk, stage]), data)
        self.assertEqual(
            response.status_code, expected, response.content.decode()[:3000] if expected == 302 else ""
        )
        return response

    def reading(self, expected=302, **data):
        values = {
            "kind": "reading",
            "meter": "ohm",
            "sensor": "defrost",
            "value": "26k",
            "temperature": "0C",
            "doubt": "0.5K",
            "accuracy": "1%",
            "red": "CN3.5",
            "black": "CN3.6",
        }
        return self.post("probe", expected, **(values | data))

    def test_ohms_in_a_live_unit_are_questioned_and_the_answer_is_on_the_tape(self):
        self.post("look", kind="power_set", state="live")
        self.assertContains(self.reading(422), "Was the plug out?", status_code=422)
        self.assertNotIn("reading", self.kinds())
        self.reading(set_power="unplugged")
        self.assertEqual(self.kinds()[-2:], ["power_set", "reading"])

    def test_a_reading_kept_as_typed_remembers_the_question(self):
        self.post("look", kind="power_set", state="unplugged")
        self.assertContains(self.reading(422, value="15.3"), "Was it 15.3 kΩ, not 15.3 Ω?", status_code=422)
        self.reading(value="15.3", keep="unit_slip:value")
        self.assertEqual(Slip.objects.get(kind="reading").body["kept"], ["unit_slip:value"])

    def test_what_cannot_be_read_stays_in_its_field_with_what_to_type(self):
        response = self.reading(422, value="banana")
        self.assertContains(response, 'value="banana"', status_code=422)
        self.assertContains(response, "Type it like 2k7", status_code=422)
        self.assertEqual(self.kinds(), ["call_taken"])

    def test_what_is_ambiguous_is_offered_as_buttons(self):
        response = self.reading(422, value="15,300")
        self.assertContains(response, 'name="value" value="15300 Ω"', status_code=422)

    def test_an_exact_code_is_taken_and_a_near_one_asked_about(self):
        self.post("decode", kind="code_seen", shown="e5")
        self.assertEqual(Slip.objects.get(kind="code_seen").body["code"], "E5")
        self.assertContains(
            self.post("decode", 422, kind="code_seen", shown="ES"), "Which of these was it?", status_code=422
        )
        self.post("decode", kind="code_seen", shown="ES", code="-")
        self.assertEqual(Slip.objects.filter(kind="code_seen").last().body.get("code", ""), "")

    def test_a_correction_supersedes_through_the_page(self):
        self.post("look", kind="power_set", state="unplugged")
        self.reading()
        wrong = Slip.objects.get(kind="reading")
        address = reverse("calls:correct", args=[self.call.pk, wrong.pk])
        self.assertContains(self.client.get(address), "Correct this slip")
        data = {
            "kind": "reading",
            "slip_id": str(uuid.uuid4()),
            "sensor": "defrost",
            "value": "15k3",
            "meter": "ohm",
            "temperature": "0C",
            "doubt": "0.5K",
            "accuracy": "1%",
        }
        self.assertEqual(self.client.post(address, data).status_code, 302)
        self.assertEqual(Slip.objects.get(supersedes=wrong).body["value"]["typed"], "15k3")
        self.assertContains(self.client.get(address, follow=True), "was corrected already")
        second = data | {"slip_id": str(uuid.uuid4()), "value": "15k4"}
        refused = self.client.post(address, second)
        self.assertContains(refused, "That slip was corrected already", status_code=422)
        self.assertContains(refused, "15k4", status_code=422)
        taken_back = {"kind": "withdrawn", "slip_id": str(uuid.uuid4()), "why": "mistyped"}
        self.assertContains(self.client.post(address, taken_back), "corrected already", status_code=422)
        self.assertEqual(Slip.objects.filter(supersedes=wrong).count(), 1)

    def test_a_closed_call_takes_nothing_until_its_outcome_is_taken_back(self):
        self.assertContains(
            self.post("close", 422, kind="outcome", result="repaired"),
            "Say in a line what was done",
            status_code=422,
        )
        self.post("close", kind="outcome", result="no_fault", cause="")
        self.assertContains(
            self.post("close", 422, kind="noted", text="late"), "This call is closed", status_code=422
        )
        outcome = Slip.objects.get(kind="outcome")
        self.client.post(
            reverse("calls:correct", args=[self.call.pk, outcome.pk]),
            {"kind": "withdrawn", "slip_id": str(uuid.uuid4()), "why": "goes on"},
        )
        self.post("close", kind="noted", text="goes on")

    def test_the_tape_goes_out_as_a_plain_document(self):
        tape = json.loads(self.client.get(reverse("calls:tape", args=[self.call.pk])).content)
        self.assertEqual(
            (tape["format"], tape["entries"][0]["body"]["kind"]), ("frostline-tape-2", "call_taken")
        )

    def test_htmx_gets_the_part_and_a_plain_browser_the_page_from_one_template(self):
        address = reverse("calls:stage", args=[self.call.pk, "look"])
        whole, part = self.client.get(address), self.client.get(address, headers={"HX-Request": "true"})
        self.assertContains(whole, "<!doctype html>")
        self.assertNotContains(part, "<!doctype html>")
        self.assertContains(part, '<div id="page"')

    def test_unknown_stages_kinds_and_calls_are_not_found(self):
        self.assertEqual(self.client.get(f"/calls/{self.call.pk}/dance/").status_code, 404)
        self.post("look", 404, kind="wish")
        self.assertEqual(self.client.get(f"/calls/{uuid.uuid4()}/look/").status_code, 404)

    def test_every_stage_of_every_demo_unit_opens(self):
        for revision in fixtures.all_revisions(User.objects.get(role="lead")):
            call = fixtures.call(revision, self.user)
            for stage in ("call", "look", "decode", "probe", "close", "handover"):
                self.assertEqual(
                    self.client.get(reverse("calls:stage", args=[call.pk, stage])).status_code, 200
                )
            self.assertEqual(
                self.client.get(reverse("sheets:sheet", args=[revision.sheet.slug])).status_code, 200
            )


class Degrees(fixtures.CallCase):
    """°F as somebody's choice, or the workshop's: shown and understood so, stored as ever."""

    def address(self, stage):
        return reverse("calls:stage", args=[self.call.pk, stage])

    def hung(self, typed):
        slip = {"slip_id": str(uuid.uuid4()), "kind": "temperature_taken", "place": "freezer"}
        self.client.post(self.address("look"), slip | {"temperature": typed})
        return read_body(
            *Slip.objects.filter(kind="temperature_taken").values_list("kind", "version", "body").last()
        )

    def test_who_chose_fahrenheit_types_and_reads_it(self):
        self.client.post(reverse("ui:choose"), {"degrees": "F", "back": "/"})
        self.assertAlmostEqual(self.hung("0").temperature.value, -17.78, delta=0.01)
        page = self.client.get(self.address("look"))
        self.assertContains(page, "0 °F")
        self.assertNotContains(page, "17.8")
        probe = self.client.get(self.address("probe"))
        self.assertContains(probe, "32 °F")
        self.assertNotContains(probe, ">0 °C")
        del self.client.cookies["degrees"]
        self.assertContains(self.client.get(self.address("look")), "−17.8 °C")
        with self.settings(DEGREES="F"):
            self.assertContains(self.client.get(self.address("look")), "0 °F")
        self.assertEqual(self.hung("5").temperature.value, 5.0)

    def test_what_was_typed_in_other_degrees_is_corrected_as_what_it_was(self):
        self.client.post(reverse("ui:choose"), {"degrees": "F", "back": "/"})
        self.hung("0")
        slip = Slip.objects.get(kind="temperature_taken")
        address = reverse("calls:correct", args=[self.call.pk, slip.pk])
        self.assertContains(self.client.get(address), 'name="temperature" value="0"')
        del self.client.cookies["degrees"]
        self.assertContains(self.client.get(address), "-17.7777777777777")
