"""Reports on a page, as PDF, behind links that end; what is due, on the front page and in calendars."""

import builtins
import io
import sys
import uuid
from datetime import date, timedelta
from unittest import mock

import pypdfium2
from django.core import signing
from django.test import override_settings
from django.urls import reverse
from django.utils import timezone
from icalendar import Calendar
from PIL import Image
from pypdfium2 import raw

from frostcore.diagnosis.readings import readings_of
from frostcore.quantity import Dimension, parse
from frostcore.tape.entries import (
    Awaited,
    Mended,
    Outcome,
    PartFitted,
    PowerSet,
    Quoted,
    QuoteOption,
    ReadingTaken,
    Result,
)
from frostline.accounts.models import User
from frostline.calls.actions.record_slip import NewSlip, record_slip
from frostline.calls.models import CalendarFeed, CallDue
from frostline.calls.reports import SALT
from frostline.calls.tapes import standing_of
from frostline.tests import fixtures


def ohms(text):
    value = parse(text, Dimension.RESISTANCE)
    return ReadingTaken("reading", "ohm", value, "CN2.5", "CN2.6", mode="off_cold")


class Reports(fixtures.CallCase):
    def put(self, *bodies):
        for body in bodies:
            record_slip(self.call, NewSlip(uuid.uuid4(), body), self.user)

    def at(self, name, *more):
        return reverse(f"calls:{name}", args=[self.call.pk, *more])

    def close(self, **more):
        self.put(Outcome("outcome", Result.REPAIRED, "Heater changed.", **more))

    def link(self, days="30"):
        self.client.post(self.at("link"), {"days": days})
        return self.client.get(reverse("calls:stage", args=[self.call.pk, "handover"])).context["link"][0]

    def text_of(self, response):
        self.assertEqual(response["Content-Type"], "application/pdf", response.content[:200])
        document = pypdfium2.PdfDocument(io.BytesIO(response.content))
        self.assertTrue(raw.FPDFCatalog_IsTagged(document))
        pages = [document[at].get_textpage().get_text_range() for at in range(len(document))]
        return " ".join(" ".join(pages).split())

    def test_before_and_after_the_work_stand_apart(self):
        self.put(PowerSet("power_set", "unplugged"), ohms("OL"), PartFitted("part_fitted", "defrost_heater"))
        self.put(ohms("239"))
        self.close(price=184.5)
        page = self.client.get(self.at("report"))
        report = page.context["report"]
        self.assertEqual([len(report.before), len(report.after)], [1, 1])
        self.assertContains(page, "We measured, before the work")
        self.assertContains(page, "We measured, after the work")
        self.assertContains(page, "184.50")

    def test_what_was_done_is_told_in_its_own_words_and_in_its_order(self):
        self.put(Mended("mended", "harness:CN7", "plug CN7", "two contacts bent back", how="joint"))
        self.put(PartFitted("part_fitted", "defrost_heater"))
        done = self.client.get(self.at("report")).context["report"].done
        self.assertEqual(done[0], "Joint or wire mended: plug CN7 (two contacts bent back).")
        self.assertEqual(done[1], "Fitted: Defrost heater.")

    def test_the_pdf_says_what_the_page_says_and_is_tagged(self):
        self.put(PowerSet("power_set", "unplugged"), ohms("OL"))
        self.close(recheck_days=14)
        response = self.client.get(self.at("report_pdf"))
        text = self.text_of(response)
        for words in ("Service report", "It says E5", "Heater changed.", "Mrs Fennel", "OL", "Ω"):
            self.assertIn(words, text)
        self.assertIn("The whole tape", self.text_of(self.client.get(self.at("technician_pdf"))))

    def test_the_technicians_report_has_every_slip_and_the_reasons(self):
        self.put(PowerSet("power_set", "unplugged"), ohms("OL"))
        page = self.client.get(self.at("technician"))
        self.assertContains(page, "The whole tape")
        self.assertEqual(len(page.context["lines"]), 3)
        self.assertTrue(page.context["judged"].suspects)

    def test_the_workshops_own_head_is_a_leads_to_say(self):
        head = {"name": "Fell & Daughter, cold repairs", "lines": "3 Quay Street\n40 12"}
        self.assertEqual(self.client.post(reverse("calls:head"), head).status_code, 403)
        self.client.force_login(User.objects.get(role="lead"))
        self.client.post(reverse("calls:head"), head)
        self.assertContains(self.client.get(self.at("report")), "Fell &amp; Daughter, cold repairs")
        self.assertIn("3 Quay Street", self.text_of(self.client.get(self.at("report_pdf"))))

    def test_a_link_shows_the_report_to_anyone_until_its_day_and_nothing_else(self):
        self.close()
        address = self.link()
        self.client.logout()
        page = self.client.get(address)
        self.assertContains(page, "Heater changed.")
        self.assertContains(page, "noindex")
        self.assertNotContains(page, "Back to the call")
        self.assertEqual(self.client.post(address).status_code, 405)
        token = address.rstrip("/").rpartition("/")[2]
        self.assertEqual(self.client.get(address.replace(token, f"{token[:-1]}x")).status_code, 404)
        over = signing.dumps(
            {"call": str(self.call.pk), "until": int((timezone.now() - timedelta(minutes=1)).timestamp())},
            salt=SALT,
            compress=True,
        )
        self.assertEqual(self.client.get(reverse("calls:shared", args=[over])).status_code, 404)
        with override_settings(SECRET_KEY="another"):
            self.assertEqual(self.client.get(address).status_code, 404)

    def test_a_link_for_other_days_is_none(self):
        self.assertEqual(self.client.post(self.at("link"), {"days": "36500"}).status_code, 404)

    def test_photographs_are_in_the_report_where_chosen_and_behind_the_link_only_those(self):
        for caption, chosen in (("the old heater", "on"), ("my kitchen", "")):
            out = io.BytesIO()
            Image.new("RGB", (40, 30), (200, 20 if chosen else 90, 20)).save(out, "JPEG")
            out.seek(0)
            out.name = "photo.jpg"
            told = {"slip_id": uuid.uuid4(), "photo": out, "caption": caption}
            told |= {"report": chosen} if chosen else {}
            self.client.post(self.at("photo_add"), told)
        page = self.client.get(self.at("report"))
        self.assertContains(page, "the old heater")
        self.assertNotContains(page, "my kitchen")
        shown = page.context["pictures"][0]
        address = self.link()
        self.client.logout()
        behind = self.client.get(address).context["pictures"][0].address
        self.assertEqual(self.client.get(behind).status_code, 200)
        other = next(
            slip.body["digest"]
            for slip in self.call.slips.filter(kind="attached")
            if slip.body["digest"] != shown.digest
        )
        self.assertEqual(self.client.get(behind.replace(shown.digest, other)).status_code, 404)
        self.client.force_login(self.user)
        self.assertIn(b"/Image", self.client.get(self.at("report_pdf")).content)


class Quotes(fixtures.CallCase):
    @classmethod
    def setUpTestData(cls):
        super().setUpTestData()
        readings_of(cls.revision.content).prepare()

    def at(self, name):
        return reverse(f"calls:{name}", args=[self.call.pk])

    def offered(self, **more):
        told = {"slip_id": uuid.uuid4(), "option0-offered": "on", "option0-title": "A new heater"}
        told |= {"option0-price": "180", "option0-when": "at once", "option0-risk": "none"} | more
        return self.client.post(self.at("quote"), told, follow=True)

    def quote(self):
        return standing_of(self.call).latest(Quoted)

    def test_the_courses_are_offered_in_plain_words_with_a_price_and_can_be_changed(self):
        page = self.client.get(self.at("quote"))
        first = page.context["rows"][0].initial
        self.assertTrue(first["title"] and first["price"] > 0 and first["when"])
        self.offered()
        self.assertEqual(self.quote().options[0], QuoteOption("A new heater", 180.0, "at once", "none"))
        self.assertEqual(self.quote().state, "open")
        text = pypdfium2.PdfDocument(io.BytesIO(self.client.get(self.at("quote_pdf")).content))[0]
        self.assertIn("A new heater", text.get_textpage().get_text_range())

    def test_accepted_and_refused_are_entries(self):
        self.offered()
        self.client.post(self.at("quote_answer"), {"slip_id": uuid.uuid4(), "said": "0"})
        self.assertEqual((self.quote().state, self.quote().chosen), ("accepted", 0))
        self.client.post(self.at("quote_answer"), {"slip_id": uuid.uuid4(), "said": "refused"})
        self.assertEqual((self.quote().state, self.quote().chosen), ("refused", None))
        for said in ("7", "-1", "x", ""):
            told = {"slip_id": uuid.uuid4(), "said": said}
            self.assertEqual(self.client.post(self.at("quote_answer"), told).status_code, 404)

    def test_a_price_that_is_none_and_an_empty_offer_are_told_and_record_nothing(self):
        for more in (
            {"option0-price": "-3"},
            {"option0-price": "x"},
            {"option0-price": ""},
            {"option0-title": ""},
            {"option0-offered": ""},
        ):
            self.assertEqual(self.offered(**more).status_code, 422)
        self.assertIsNone(self.quote())


class Due(fixtures.CallCase):
    def put(self, *bodies):
        for body in bodies:
            record_slip(self.call, NewSlip(uuid.uuid4(), body), self.user)

    def home(self):
        return self.client.get(reverse("desk:home"))

    def test_a_part_looked_for_is_due_until_it_is_fitted(self):
        day = timezone.localdate() + timedelta(days=3)
        self.put(Awaited("awaited", "board", day.isoformat()))
        self.assertContains(self.home(), "Part looked for: control board")
        self.put(PartFitted("part_fitted", "board"))
        self.assertNotContains(self.home(), "Part looked for")

    def test_a_recheck_is_due_until_it_is_seen_to(self):
        self.put(Outcome("outcome", Result.REPAIRED, "x", recheck_days=2))
        self.assertContains(self.home(), "Recheck")
        due = CallDue.objects.get(call=self.call)
        done = reverse("calls:due_done", args=[self.call.pk])
        self.client.post(done, {"kind": due.kind, "day": due.day.isoformat()})
        self.client.post(done, {"kind": due.kind, "day": due.day.isoformat()})
        self.home()  # its words of what was seen to
        self.assertNotContains(self.home(), "Recheck")
        for kind, day in (("recheck", "soon"), ("recheck", "1999-01-01"), ("x", due.day.isoformat())):
            self.assertEqual(self.client.post(done, {"kind": kind, "day": day}).status_code, 404)

    def test_what_is_far_off_waits(self):
        self.put(Awaited("awaited", "board", (timezone.localdate() + timedelta(days=60)).isoformat()))
        self.assertNotContains(self.home(), "Part looked for")

    def test_a_calls_days_are_a_calendar_with_alarms_and_no_names(self):
        self.put(Awaited("awaited", "board", "2099-03-01"))
        answer = self.client.get(reverse("calls:due_ics", args=[self.call.pk]))
        (event,) = Calendar.from_ical(answer.content).walk("VEVENT")
        self.assertEqual(event["dtstart"].dt, date(2099, 3, 1))
        self.assertEqual(len(event.walk("VALARM")), 1)
        self.assertNotIn(b"Fennel", answer.content)

    def test_a_feed_is_a_persons_own_secret_and_can_be_taken_away(self):
        self.put(Awaited("awaited", "board", "2099-03-01"))
        page = reverse("calls:feed_mine")
        self.client.post(page, {"do": "make"})
        first = CalendarFeed.objects.get(user=self.user).secret
        self.client.post(page, {"do": "make"})
        secret = CalendarFeed.objects.get(user=self.user).secret
        self.assertNotEqual(first, secret)
        self.client.logout()
        answer = self.client.get(reverse("calls:feed", args=[secret]))
        self.assertContains(answer, "control board")
        self.assertEqual(self.client.get(reverse("calls:feed", args=[first])).status_code, 404)
        self.client.force_login(self.user)
        self.client.post(page, {"do": "revoke"})
        self.assertEqual(self.client.get(reverse("calls:feed", args=[secret])).status_code, 404)


class WithoutPango(fixtures.CallCase):
    def test_where_no_pdf_can_be_made_the_page_says_so_and_stays(self):
        with (
            mock.patch.dict(sys.modules, {"weasyprint": None}),
            mock.patch("builtins.__import__", side_effect=refusing),
        ):
            answer = self.client.get(reverse("calls:report_pdf", args=[self.call.pk]), follow=True)
        self.assertContains(answer, "Pango is not installed")
        self.assertContains(answer, "Open the report to print")


REAL = builtins.__import__


def refusing(name, *arguments, **options):
    """As a machine without Pango imports WeasyPrint."""
    if name == "weasyprint":
        message = "cannot load library 'libgobject-2.0-0'"
        raise OSError(message)
    return REAL(name, *arguments, **options)
