"""A call as one file: opened elsewhere without loss, and refused whole where anything is wrong with it."""

import io
import json
import uuid
import zipfile
from dataclasses import replace

from django.core.files.uploadedfile import SimpleUploadedFile
from django.db import transaction
from django.urls import reverse

from frostcore.errors import SheetError, TapeError
from frostcore.tape import bundle as core
from frostcore.tape.entries import Noted, PlateRead, Power, PowerSet, SheetTaken, Withdrawn
from frostline.accounts.models import User
from frostline.calls.actions.keep_attachment import described, keep_attachment
from frostline.calls.actions.take_bundle import take_bundle
from frostline.calls.bundles import bundle_of, unpacked
from frostline.calls.models import Attachment, Call, Customer, Received, Slip
from frostline.calls.tapes import standing_of
from frostline.calls.tests.test_tape import TapeCase
from frostline.demo.actions import body_of
from frostline.sheets.models import Revision, Sheet, current_sheets
from frostline.tests import fixtures
from frostline.ui.stored import path_of

PICTURE = b"\x89PNG not really"
ROW = ("id", "position", "kind", "version", "body", "at", "recorded_at", "supersedes_id")


class BundleCase(TapeCase):
    def setUp(self):
        super().setUp()
        self.client.force_login(self.user)

    def written(self):
        """The call with something of every sort, on a sheet that the other installation has not."""
        self.record(uuid.uuid4(), PlateRead("plate_read", "TB-34", serial="S-1"))
        wrong, note = uuid.uuid4(), uuid.uuid4()
        self.record(wrong, Noted("noted", "one"))
        self.record(note, Noted("noted", "two"), supersedes=wrong)
        self.record(uuid.uuid4(), Withdrawn("withdrawn", "a slip"), supersedes=note)
        self.record(uuid.uuid4(), PowerSet("power_set", Power.LIVE))
        code = body_of({"kind": "code_seen", "shown": "E5", "code": "E5"})
        self.record(uuid.uuid4(), code)
        about = described(PICTURE, "plate.png", "image/png", "the plate")
        keep_attachment(self.call, uuid.uuid4(), PICTURE, about, self.user)
        lead = User.objects.get(role="lead")
        other = fixtures.publish("skerrow-sk-48", lead)
        self.record(uuid.uuid4(), SheetTaken("sheet_taken", other.sheet.slug, other.number, other.digest))

    def elsewhere(self, whose="", change=None):
        """The call's file, and the database of an installation that never heard of it."""
        with transaction.atomic():
            self.written()
            before = list(Slip.objects.filter(call=self.call).values_list(*ROW))
            data = self.client.get(reverse("calls:bundle", args=[self.call.pk]) + whose).content
            transaction.set_rollback(True)
        return before, data

    def moved(self, data):
        """The bundle under ids of its own: this installation has its call already."""
        bundle, files = unpacked(data)
        ids = {entry.id: str(uuid.uuid4()) for entry in bundle.entries}
        entries = tuple(
            replace(entry, id=ids[entry.id], supersedes=ids.get(entry.supersedes, ""))
            for entry in bundle.entries
        )
        return replace(bundle, id=str(uuid.uuid4()), entries=entries), files


class Opened(BundleCase):
    def corrected(self, rows):
        """Of each entry that corrects one, the place of that one."""
        places = {row[0]: row[1] for row in rows}
        return [(row[1], places[row[7]]) for row in rows if row[7]]

    def test_a_call_is_opened_elsewhere_without_loss(self):
        before, data = self.elsewhere()
        bundle, files = self.moved(data)
        self.assertFalse(Revision.objects.filter(sheet__slug="skerrow-sk-48").exists())
        shown = current_sheets()
        call = take_bundle(bundle, files, self.user).call
        after = list(Slip.objects.filter(call=call).values_list(*ROW))
        self.assertEqual([row[1:7] for row in after], [row[1:7] for row in before])
        self.assertEqual(self.corrected(after), self.corrected(before))
        self.assertEqual({slip.by.shown_name for slip in call.slips.all()}, {self.user.shown_name})
        self.assertFalse(call.slips.first().by.is_active)
        self.assertEqual(path_of(Attachment.objects.get().pk).read_bytes(), PICTURE)
        self.assertEqual(standing_of(call).sheet.id, "skerrow-sk-48")
        self.assertEqual([sheet.id for sheet in current_sheets()], [sheet.id for sheet in shown])
        self.assertIsNone(Sheet.objects.get(slug="skerrow-sk-48").newest)
        self.assertEqual((call.customer.name, call.number), ("Mrs Fennel", self.call.number + 1))

    def test_what_was_thought_then_is_what_is_thought_now(self):
        _, data = self.elsewhere()
        bundle, files = self.moved(data)
        call = take_bundle(bundle, files, self.user).call
        self.assertGreater(len(call.received.suspects), 2)
        again = bundle_of(call, standing_of(call))
        self.assertEqual(
            [(each.unit, each.name, round(each.probability, 9)) for each in again.suspects],
            [(each["unit"], each["name"], round(each["probability"], 9)) for each in call.received.suspects],
        )
        same = {"made_at": bundle.made_at, "number": bundle.number, "suspects": bundle.suspects}
        self.assertEqual(replace(again, **same), bundle)

    def test_the_same_again_finds_the_call_and_another_tape_is_refused(self):
        _, data = self.elsewhere()
        bundle, files = self.moved(data)
        first = take_bundle(bundle, files, self.user)
        again = take_bundle(bundle, files, self.user)
        self.assertEqual((first.created, again.created, again.call), (True, False, first.call))
        other = replace(bundle.entries[1], body={"kind": "noted", "text": "else"})
        with self.assertRaisesRegex(TapeError, "says something else"):
            take_bundle(replace(bundle, entries=(bundle.entries[0], other)), files, self.user)

    def test_a_page_saves_it_without_the_customer_and_opens_it(self):
        _, data = self.elsewhere("?whose=0")
        bundle, files = self.moved(data)
        self.assertEqual(bundle.whose, core.Whose())
        out = io.BytesIO()
        with zipfile.ZipFile(out, "w") as packed:
            packed.writestr("call.json", core.write(bundle))
            for digest, text in files.sheets.items():
                packed.writestr(f"sheets/{digest}.json", text)
            for digest, content in files.attachments.items():
                packed.writestr(f"files/{digest}", content)
        upload = SimpleUploadedFile("call.zip", out.getvalue())
        answer = self.client.post(reverse("calls:take_bundle"), {"file": upload})
        call = Call.objects.get(pk=bundle.id)
        self.assertRedirects(answer, reverse("calls:stage", args=[call.pk, "call"]))
        page = self.client.get(reverse("calls:stage", args=[call.pk, "call"]))
        self.assertContains(page, f"Call {self.call.number} there")
        self.assertContains(page, "Customer not told")


class Refused(BundleCase):
    def rows(self):
        return [model.objects.count() for model in (Call, Slip, Customer, Revision, User, Attachment)]

    def assert_refused(self, bundle, files, message, error=TapeError):
        before = self.rows()
        with self.assertRaisesRegex(error, message):
            take_bundle(bundle, files, self.user)
        self.assertEqual((self.rows(), Received.objects.count()), (before, 0))

    def test_whatever_is_wrong_nothing_of_it_is_kept(self):
        _, data = self.elsewhere()
        bundle, files = self.moved(data)
        (name, text), *_ = ((name, text) for name, text in files.sheets.items() if "skerrow" in text)
        self.assert_refused(replace(bundle, sheet="0" * 64), files, "not in the bundle")
        self.assert_refused(
            bundle, replace(files, sheets={name: text.replace("Skerrow", "Skarrow")}), "not the one its name"
        )
        self.assert_refused(bundle, replace(files, sheets={name: "{"}), "", SheetError)
        self.assert_refused(bundle, replace(files, attachments={}), "is missing or was changed")
        at = next(number for number, entry in enumerate(bundle.entries) if entry.kind == "code_seen")
        body = {**bundle.entries[at].body, "code": "E99"}
        entries = list(bundle.entries)
        entries[at] = replace(entries[at], body=body)
        self.assert_refused(replace(bundle, entries=tuple(entries)), files, "does not fit the call’s sheet")
        here = str(self.call.slips.get().pk)
        entries = (replace(bundle.entries[0], id=here), *bundle.entries[1:])
        self.assert_refused(replace(bundle, entries=entries), files, "stand on another call")

    def test_a_file_that_is_no_calls_is_told(self):
        with io.BytesIO() as out:
            with zipfile.ZipFile(out, "w", zipfile.ZIP_DEFLATED) as packed:
                packed.writestr("call.json", b" " * 130_000_000)
            bomb = out.getvalue()
        for data, message in (
            (b"nonsense", "damaged"),
            (bomb, "more than any call has"),
            (self.elsewhere()[1][:900], "damaged"),
            (b"", "empty"),
        ):
            upload = SimpleUploadedFile("call.zip", data)
            answer = self.client.post(reverse("calls:take_bundle"), {"file": upload})
            self.assertContains(answer, message, status_code=422)

    def test_a_hostile_name_is_shown_as_text(self):
        _, data = self.elsewhere()
        bundle, files = self.moved(data)
        named = replace(bundle, whose=core.Whose("<script>alert(1)</script>"))
        call = take_bundle(core.read(core.write(named)), files, self.user).call
        page = self.client.get(reverse("calls:stage", args=[call.pk, "call"]))
        self.assertNotContains(page, "<script>alert(1)")
        with self.assertRaisesRegex(TapeError, "can’t be shown"):
            core.read(core.write(replace(bundle, opened_by="a\x00b")))
        self.assertNotIn("\x00", json.dumps(bundle.act))
