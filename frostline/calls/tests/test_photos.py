"""Photographs on a call."""

import io
import tempfile
import uuid
from dataclasses import replace

from django.core.files.uploadedfile import SimpleUploadedFile
from django.test import override_settings
from django.urls import reverse
from PIL import Image

from frostcore.tape.entries import Attached
from frostcore.tape.kinds import words_of
from frostline.calls.actions.record_slip import NewSlip, record_slip
from frostline.calls.tapes import standing_of
from frostline.sheets.tests.test_pages import picture
from frostline.tests import fixtures


class Photos(fixtures.PageCase):
    @classmethod
    def setUpTestData(cls):
        cls.technician, cls.revision = fixtures.workshop()
        cls.call = fixtures.call(cls.revision, cls.technician)

    def setUp(self):
        self.client.force_login(self.technician)
        self.enterContext(override_settings(ATTACHMENTS=self.enterContext(tempfile.TemporaryDirectory())))

    def add(self, data, name="plate.png", **more):
        sent = {"slip_id": uuid.uuid4(), "photo": SimpleUploadedFile(name, data), "caption": "the plate"}
        here = reverse("calls:stage", args=[self.call.pk, "close"])
        address = reverse("calls:photo_add", args=[self.call.pk])
        answer = self.client.post(address, sent | {"back": here} | more, follow=True)
        self.assertEqual(answer.redirect_chain[-1][0], here)
        return answer

    def kept(self):
        return [
            slip.entry.body for slip in standing_of(self.call).effective if slip.entry.body.kind == "attached"
        ]

    def test_it_is_made_anew_kept_once_and_shown_on_the_tape(self):
        exif = Image.Exif()
        exif[0x010F] = "Maker of cameras"
        data, number = picture((900, 600), exif=exif), uuid.uuid4()
        self.add(data, slip_id=number)
        page = self.add(data, slip_id=number)  # sent twice
        (body,) = self.kept()
        self.assertEqual((body.name, body.media_type, body.caption), ("plate.jpg", "image/jpeg", "the plate"))
        self.assertContains(page, 'class="slip-photo"')
        address = reverse("calls:photo", args=[self.call.pk, body.digest])
        whole = b"".join(self.client.get(address))
        self.assertNotIn(b"Maker of cameras", whole)
        small = self.client.get(address, {"small": "1"})
        self.assertEqual(small["Content-Type"], "image/jpeg")
        with Image.open(io.BytesIO(small.content)) as opened:
            self.assertEqual(max(opened.size), 480)

    def test_it_is_kept_with_the_entry_it_shows(self):
        from_call = standing_of(self.call).slips[0].entry.id
        page = self.add(picture(), of=from_call, report="on")
        (body,) = self.kept()
        self.assertEqual(body.of, from_call)
        words = words_of(standing_of(self.call), standing_of(self.call).slips[0])
        self.assertContains(page, f"of: {words.title}")
        self.assertContains(page, 'class="slip-photo"', count=2)  # its own slip, and the one it shows
        report = self.client.get(reverse("calls:report", args=[self.call.pk]))
        self.assertContains(report, f"{words.title}")
        self.assertContains(report, ": the plate</figcaption>")

    def taken(self):
        """The slip that says the call was taken, as it stands."""
        slips = standing_of(self.call).slips
        return next(each for each in slips if each.standing and each.entry.body.kind == "call_taken")

    def test_it_follows_its_entry_through_corrections(self):
        first = standing_of(self.call).slips[0].entry.id
        self.add(picture(), of=first)
        for complaint in ("It says E5, and E8", "It says E8"):
            last = self.taken().entry
            new = NewSlip(
                uuid.uuid4(), replace(last.body, complaint=complaint), supersedes=uuid.UUID(last.id)
            )
            record_slip(self.call, new, self.technician)
        standing, newest = standing_of(self.call), self.taken()
        self.assertNotEqual(newest.entry.id, first)
        self.assertEqual(len(standing.photographs_of(newest)), 1)
        page = self.client.get(reverse("calls:stage", args=[self.call.pk, "close"]))
        self.assertContains(page, 'class="slip-photo"', count=2)

    def test_of_an_entry_that_is_not_there_it_is_told_and_nothing_is_kept(self):
        page = self.add(picture(), of=str(uuid.uuid4()))
        self.assertContains(page, "not on this call’s tape")
        self.assertEqual(self.kept(), [])

    def test_it_leads_back_to_a_page_of_the_call_alone(self):
        for back in ("https://elsewhere.example/", "//elsewhere.example", "/people/", ""):
            sent = {"slip_id": uuid.uuid4(), "photo": SimpleUploadedFile("a.jpg", picture()), "back": back}
            answer = self.client.post(reverse("calls:photo_add", args=[self.call.pk]), sent)
            self.assertEqual(answer["Location"], f"/calls/{self.call.pk}/now/")

    def test_what_is_no_picture_is_refused_in_words(self):
        self.assertContains(self.add(b"<html>", "letter.html"), "“letter.html” is no picture")
        self.assertContains(self.add(b"", "empty.jpg"), "No photograph was chosen")
        self.assertEqual(self.kept(), [])

    def test_only_this_call_s_own_pictures_are_shown(self):
        self.add(picture())
        (body,) = self.kept()
        other = fixtures.call(self.revision, self.technician)
        for pk, digest in ((other.pk, body.digest), (self.call.pk, "a" * 64)):
            self.assertEqual(self.client.get(reverse("calls:photo", args=[pk, digest])).status_code, 404)
        self.client.logout()
        self.assertEqual(
            self.client.get(reverse("calls:photo", args=[self.call.pk, body.digest])).status_code, 302
        )

    def test_a_closed_call_takes_none(self):
        self.client.post(
            reverse("calls:stage", args=[self.call.pk, "close"]),
            {"kind": "outcome", "slip_id": uuid.uuid4(), "result": "no_fault", "done": "Well."},
        )
        self.assertContains(self.add(picture()), "closed")
        self.assertEqual(self.kept(), [])
        self.assertFalse(isinstance(standing_of(self.call).tape[-1].body, Attached))
