"""A recheck on a call: asked for, read by the customer behind a link, told once, due until then."""

import uuid
from datetime import timedelta

from django.test import Client
from django.urls import reverse
from django.utils import timezone

from frostcore.tape.entries import Outcome, Result
from frostcore.tape.rechecked import RecheckAsked, RecheckTold
from frostline.calls.actions.record_slip import NewSlip, record_slip
from frostline.calls.due import open_dues
from frostline.calls.tapes import standing_of
from frostline.tests import fixtures


class Rechecks(fixtures.PageCase):
    @classmethod
    def setUpTestData(cls):
        cls.technician, cls.revision = fixtures.workshop()
        cls.call = fixtures.call(cls.revision, cls.technician)

    def setUp(self):
        self.client.force_login(self.technician)
        self.address = reverse("runs:runs", args=[self.call.pk])
        self.customer = Client()

    def asked(self, days=2, by="customer", places=("fridge", "freezer")):
        day = timezone.localdate() + timedelta(days=days)
        data = {"slip_id": uuid.uuid4(), "day": day.isoformat(), "by": by, "places": list(places)}
        page = self.client.post(reverse("runs:recheck", args=[self.call.pk]), data, follow=True)
        return page.context.get("recheck_link", ""), page

    def told(self):
        return standing_of(self.call).all_of(RecheckTold)

    def test_the_customer_reads_and_writes_and_it_counts(self):
        link, page = self.asked()
        self.assertContains(page, "Waited for")
        self.assertEqual([due.text for due in open_dues()], ["Recheck by the customer"])
        shown = self.customer.get(link)
        self.assertContains(shown, "glass of water")
        self.assertContains(shown, "leave the plug in")
        self.assertEqual(shown.headers["Cache-Control"], "private, no-store")
        for name in (self.call.customer.name, "Tarnbeck", "Suspects"):
            self.assertNotContains(shown, name)
        answers = {"at_fridge": "41 F", "at_freezer": "-18", "quiet": "yes", "display": "", "note": ""}
        done = self.customer.post(link, answers, follow=True)
        self.assertContains(done, "Thank you")
        told = self.told()[0]
        self.assertEqual((told.by, told.quiet), ("customer", "yes"))
        self.assertAlmostEqual(told.temperatures["fridge"].value, 5.0)
        self.assertContains(self.client.get(self.address), "the recheck stands")
        self.assertFalse(open_dues().exists())
        self.customer.post(link, answers | {"at_fridge": "9 C"})
        self.assertEqual(len(self.told()), 1)

    def test_it_can_be_told_after_the_call_was_closed(self):
        record_slip(
            self.call, NewSlip(uuid.uuid4(), Outcome("outcome", Result.STOPPED, "Later.")), self.technician
        )
        link, _ = self.asked()
        done = self.customer.post(link, {"at_fridge": "12 C", "quiet": "", "display": "E5", "note": ""})
        self.assertEqual(done.status_code, 302, done.content)
        self.assertEqual(self.told()[0].display, "E5")
        self.assertContains(self.client.get(self.address), "Not as it should be: fridge compartment")

    def test_what_is_no_reading_is_told_and_kept_as_typed(self):
        link, _ = self.asked()
        for value, words in (("warm", "warm"), ("180", "is no temperature in a refrigerator")):
            page = self.customer.post(link, {"at_fridge": value, "note": "it hums"})
            self.assertContains(page, words, status_code=422)
            self.assertContains(page, f'value="{value}"', status_code=422)
            self.assertContains(page, "it hums", status_code=422)
        self.assertContains(self.customer.post(link, {}), "Nothing is written yet", status_code=422)
        self.assertEqual(self.told(), ())

    def test_a_link_that_is_none_or_whose_time_is_over_opens_nothing(self):
        link, _ = self.asked(days=0)
        token = link.rstrip("/").rpartition("/")[2]
        for other in (token[:-2], f"{token}x", "x", str(uuid.uuid4())):
            self.assertEqual(self.customer.get(reverse("runs:check", args=[other])).status_code, 404)
        long_ago = (timezone.localdate() - timedelta(days=15)).isoformat()
        body = RecheckAsked("recheck_asked", long_ago, "customer", ("fridge",))
        record_slip(self.call, NewSlip(uuid.uuid4(), body), self.technician)
        late = self.client.get(self.address)
        self.assertContains(late, "It is overdue.")
        self.assertEqual(self.customer.get(late.context["recheck_link"]).status_code, 404)
        self.assertContains(self.customer.get(link), "Thank you")  # another was asked for in its place

    def test_a_day_that_has_gone_and_nothing_to_read_are_told(self):
        self.assertContains(self.asked(days=-1)[1], "A recheck lies ahead")
        self.assertContains(self.asked(places=())[1], "required")
        self.assertEqual(standing_of(self.call).all_of(RecheckAsked), ())
