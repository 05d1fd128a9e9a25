"""Stored data outlives the program: what it can't read shows on its own page and nowhere else."""

import json
import re
import tempfile
import uuid
from datetime import timedelta

from django.core.management import call_command
from django.db import connection
from django.test import TestCase
from django.test.utils import CaptureQueriesContext
from django.urls import reverse
from django.utils import timezone

from frostcore.errors import SheetError, TapeError
from frostcore.tape.entries import (
    CodeSeen,
    Noted,
    Outcome,
    PartFitted,
    PlateRead,
    PowerSet,
    Result,
    SheetTaken,
)
from frostcore.tape.take import Answers
from frostline.accounts.models import User
from frostline.calls.actions.change_customer import correct_customer, erase_customer
from frostline.calls.actions.keep_attachment import described, keep_attachment
from frostline.calls.actions.open_call import NewCall, Who, open_call
from frostline.calls.actions.record_slip import NewSlip, record_slip
from frostline.calls.lists import found_calls, match_of
from frostline.calls.models import Attachment, Call, CallIndex, CustomerChange, Slip
from frostline.calls.tapes import standing_of
from frostline.calls.tests.test_tape import TapeCase
from frostline.sheets.actions.publish_revision import publish_revision
from frostline.sheets.models import Revision, Sheet
from frostline.tests import fixtures
from frostline.ui.stored import path_of


class Stored(TapeCase):
    def pages(self, call):
        stages = ("call", "look", "decode", "open", "probe", "trace", "close", "handover")
        yield reverse("desk:home")
        yield reverse("calls:calls")
        yield reverse("calls:new")
        yield reverse("sheets:library")
        yield reverse("desk:search") + "?q=E5"
        yield from (reverse("desk:check", args=[name]) for name in ("code", "sensor", "plug"))
        yield from (reverse("calls:stage", args=[call.pk, stage]) for stage in stages)
        yield reverse("calls:report", args=[call.pk])
        yield reverse("calls:tape", args=[call.pk])

    def assert_pages_open(self, call):
        for address in self.pages(call):
            self.assertEqual(self.client.get(address).status_code, 200, address)

    def store(self, **changes):
        """A slip as another version may have left it."""
        now = timezone.now()
        row = {"call": self.call, "position": 2, "kind": "noted", "body": {}, "at": now, "recorded_at": now}
        Slip(id=uuid.uuid4(), by=self.user, **(row | changes)).save()

    def test_a_slip_from_a_later_version_is_shown_with_its_text_on_its_call_only(self):
        self.store(kind="dreamt", body={"kind": "dreamt", "of": "a warm van"}, version=4)
        self.assert_pages_open(self.call)
        page = self.client.get(reverse("calls:stage", args=[self.call.pk, "look"]))
        self.assertContains(page, "Unreadable: dreamt")
        self.assertContains(page, "a warm van")
        tape = json.loads(self.client.get(reverse("calls:tape", args=[self.call.pk])).content)
        self.assertIn("a warm van", tape["entries"][1]["unreadable"])
        self.record(uuid.uuid4(), Noted("noted", "the call goes on"))

    def test_a_sheet_that_can_not_be_read_any_more_takes_down_nothing_but_its_own_call(self):
        data = json.loads(self.revision.document)
        del data["plate"]["maker"]
        lead = User.objects.get(role="lead")
        broken = Revision(
            sheet=self.revision.sheet,
            number=2,
            document=json.dumps(data),
            digest="f" * 64,
            created_at=timezone.now(),
            created_by=lead,
        )
        broken.save()
        Sheet.objects.filter(pk=self.revision.sheet_id).update(newest=broken)
        call = Call(
            number=500,
            revision=broken,
            customer=self.call.customer,
            opened_at=timezone.now(),
            opened_by=self.user,
        )
        call.save()
        self.assert_pages_open(self.call)
        first = self.client.get(reverse("calls:tape", args=[call.pk]))
        self.assertEqual(first.status_code, 200)
        for name, *more in (
            ("now",),
            ("stage", "look"),
            ("stage", "trace"),
            ("correct", uuid.uuid4()),
            ("report",),
            ("candidates",),
            ("settle", "defrost"),
            ("curve", "defrost"),
            ("trace_svg",),
            ("trace_deck",),
        ):
            page = self.client.get(reverse(f"calls:{name}", args=[call.pk, *more]))
            self.assertContains(page, "plate.maker: is missing", msg_prefix=name)
        self.assertContains(
            self.client.get(self.revision.sheet.get_absolute_url()), "can’t read this revision"
        )
        call_command("rebuild_index", verbosity=0)
        self.assertContains(self.client.get(reverse("desk:home")), "can’t be read by this version")

    def test_rules_that_came_later_do_not_touch_what_is_stored(self):
        data = json.loads(self.revision.document)
        data["components"][0]["place"] = "attic"
        data["plate"]["mains_volts"] = 23
        with self.assertRaises(SheetError):
            publish_revision(json.dumps(data), self.user)
        stored = Revision(sheet=self.revision.sheet, number=2, document=json.dumps(data), digest="e" * 64)
        stored.created_at, stored.created_by = timezone.now(), self.user
        stored.save()
        self.assertEqual(stored.content.plate.mains_volts, 23)

    def test_a_call_moves_to_another_sheet_from_here_on(self):
        data = json.loads(self.revision.document) | {"revision_note": "wider"}
        for sensor in data["sensors"]:
            sensor["tolerance"] = 0.5
        better = publish_revision(json.dumps(data), User.objects.get(role="lead")).revision
        moved = SheetTaken("sheet_taken", better.sheet.slug, better.number, better.digest)
        self.record(uuid.uuid4(), moved)
        standing = standing_of(self.call)
        self.assertEqual(standing.sheet.revision_note, "wider")
        self.assertIs(standing.slips[0].moment.sheet, self.revision.content)


class Late(TapeCase):
    def test_an_entry_made_out_of_reach_stands_where_it_was_made_and_says_when_it_came(self):
        opened = self.call.opened_at
        live = record_slip(
            self.call,
            NewSlip(uuid.uuid4(), PowerSet("power_set", "live"), made_at=opened + timedelta(minutes=9)),
            self.user,
            now=opened + timedelta(minutes=9),
        )
        note = NewSlip(uuid.uuid4(), Noted("noted", "from the cellar"), made_at=opened + timedelta(minutes=5))
        late = record_slip(self.call, note, self.user, now=opened + timedelta(minutes=30))
        standing = standing_of(self.call)
        self.assertEqual(
            [slip.entry.id for slip in standing.slips[1:]], [str(late.slip.pk), str(live.slip.pk)]
        )
        page = self.client.get(reverse("calls:stage", args=[self.call.pk, "look"]))
        self.assertContains(page, ", recorded ")

    def test_a_clock_that_runs_ahead_or_far_behind_is_held_to_the_call(self):
        opened, now = self.call.opened_at, self.call.opened_at + timedelta(minutes=3)
        for told, kept in ((now + timedelta(days=9), now), (opened - timedelta(days=9), opened)):
            new = NewSlip(uuid.uuid4(), Noted("noted", "x"), made_at=told)
            self.assertEqual(record_slip(self.call, new, self.user, now=now).slip.at, kept)

    def test_what_was_made_before_the_call_was_closed_still_comes_in_and_what_came_after_does_not(self):
        opened = self.call.opened_at
        closing = NewSlip(
            uuid.uuid4(), Outcome("outcome", Result.NO_FAULT, ""), made_at=opened + timedelta(minutes=10)
        )
        now = opened + timedelta(minutes=20)
        record_slip(self.call, closing, self.user, now=now)
        before, after = (
            NewSlip(uuid.uuid4(), Noted("noted", "x"), made_at=opened + timedelta(minutes=minutes))
            for minutes in (5, 15)
        )
        record_slip(self.call, before, self.user, now=now)
        with self.assertRaisesRegex(TapeError, "closed"):
            record_slip(self.call, after, self.user, now=now)


class Customers(TapeCase):
    def test_a_correction_reaches_every_call_of_theirs_and_is_put_down(self):
        who = Who("Aud Fennel", "12 Netmakers’ Row", "40 112")
        first, second = (self.taken(who) for _ in range(2))
        self.assertEqual(first.customer, second.customer)
        correct_customer(first.customer, Who("Aud Fennell", who.address, who.phone), self.user)
        page = self.client.get(reverse("calls:stage", args=[second.pk, "call"]))
        self.assertContains(page, "Aud Fennell")
        change = CustomerChange.objects.get()
        self.assertEqual((change.what, change.fields, change.by), ("corrected", "name", self.user))
        self.assertEqual({row.call for row in found_calls("fennell")}, {second, first})

    def taken(self, who, practice=False):
        taken = fixtures.CallTaken("call_taken", "warm")
        new = NewCall(uuid.uuid4(), self.revision, who, taken, practice)
        return open_call(new, self.user)

    def test_two_of_the_same_bare_name_stay_two(self):
        self.assertNotEqual(self.taken(Who("Holm")).customer, self.taken(Who("Holm")).customer)

    def test_erasing_takes_the_name_from_pages_search_and_database_and_leaves_the_work(self):
        call = self.taken(Who("Gunnhild Ravnsborg", "3 Skerry Lane", "51 777"))
        record_slip(call, NewSlip(uuid.uuid4(), Noted("noted", "fan ices up")), self.user)
        erase_customer(call.customer, User.objects.get(role="lead"))
        for address in (
            reverse("calls:stage", args=[call.pk, "call"]),
            reverse("calls:report", args=[call.pk]),
            reverse("calls:tape", args=[call.pk]),
            reverse("calls:calls"),
            reverse("calls:customer", args=[call.pk]),
        ):
            page = self.client.get(address)
            self.assertEqual(page.status_code, 200)
            for word in ("Gunnhild", "Ravnsborg", "Skerry", "51 777"):
                self.assertNotContains(page, word)
        self.assertEqual(found_calls("Ravnsborg"), [])
        self.assertEqual([row.call for row in found_calls("ices")], [call])
        record_slip(call, NewSlip(uuid.uuid4(), Noted("noted", "goes on")), self.user)
        self.assertEqual(found_calls("Ravnsborg"), [])
        with connection.cursor() as cursor:
            tables = [name for name in connection.introspection.table_names(cursor) if "config" not in name]
            for table in tables:
                cursor.execute(f"SELECT * FROM {table}")
                self.assertNotIn("Ravnsborg", str(cursor.fetchall()), table)
        self.assertEqual(CustomerChange.objects.get().what, "erased")

    def test_only_a_lead_erases(self):
        self.assertEqual(self.client.post(reverse("calls:erase", args=[self.call.pk])).status_code, 403)
        self.client.force_login(User.objects.get(role="lead"))
        self.client.post(reverse("calls:erase", args=[self.call.pk]))
        self.assertEqual(Call.objects.get(pk=self.call.pk).customer.name, "erased on request")

    def test_the_page_corrects_and_a_bad_form_keeps_what_was_typed(self):
        address = reverse("calls:customer", args=[self.call.pk])
        page = self.client.post(address, {"customer": "", "address": "5 Slip Road"})
        self.assertContains(page, "5 Slip Road", status_code=422)
        self.assertEqual(
            self.client.post(address, {"customer": "Ash", "address": "5 Slip Road"}).status_code, 302
        )
        self.assertContains(self.client.get(address), "corrected (name address)")

    def test_exports_say_what_they_hold(self):
        tape = json.loads(self.client.get(reverse("calls:tape", args=[self.call.pk])).content)
        self.assertIn("stand apart and are not in this file", tape["holds"])
        self.assertNotIn("Fennel", json.dumps(tape))

    def test_a_practice_call_says_so(self):
        call = self.taken(Who("Nobody"), practice=True)
        for address in (reverse("calls:calls"), reverse("calls:stage", args=[call.pk, "look"])):
            self.assertContains(self.client.get(address), "practice")
        self.assertContains(self.client.get(reverse("calls:report", args=[call.pk])), "practice")


class Attachments(TapeCase):
    def keep(self, content=b"\x89PNG", name="plate.png"):
        with self.settings(ATTACHMENTS=self.folder()):
            about = described(content, name, "image/png", "the plate")
            return keep_attachment(self.call, uuid.uuid4(), content, about, self.user), about

    def folder(self):
        if not hasattr(self, "_folder"):
            self._folder = self.enterContext(tempfile.TemporaryDirectory())
        return self._folder

    def test_bytes_stand_under_their_digest_once_and_are_saved_from_the_tape(self):
        _, about = self.keep()
        self.keep()
        self.assertEqual(Attachment.objects.count(), 1)
        with self.settings(ATTACHMENTS=self.folder()):
            path = path_of(about.digest)
            self.assertEqual((path.read_bytes(), path.stat().st_mode & 0o777), (b"\x89PNG", 0o600))
            answer = self.client.get(reverse("calls:attachment", args=[self.call.pk, about.digest]))
            self.assertEqual(b"".join(answer.streaming_content), b"\x89PNG")
            self.assertIn("attachment", answer["Content-Disposition"])
            self.assertEqual(answer["Content-Type"], "application/octet-stream")
            other = reverse("calls:attachment", args=[self.call.pk, "0" * 64])
            self.assertEqual(self.client.get(other).status_code, 404)
        self.assertContains(self.client.get(reverse("calls:stage", args=[self.call.pk, "look"])), "plate.png")

    def test_a_file_that_is_not_what_was_told_or_too_large_is_refused(self):
        about = described(b"one", "a", "text/plain")
        with self.settings(ATTACHMENTS=self.folder()):
            for content in (b"two", b"", b"x" * 16_000_001):
                with self.assertRaises(TapeError):
                    keep_attachment(self.call, uuid.uuid4(), content, about, self.user)
        self.assertEqual(Attachment.objects.count(), 0)


class TheIndex(TapeCase):
    def test_what_the_action_keeps_is_what_the_command_makes_anew(self):
        kept_answers = Answers(code="-")
        for body in (
            PlateRead("plate_read", "TB-34/2", "TB 0934417"),
            CodeSeen("code_seen", "E5", "E5"),
            PartFitted("part_fitted", "defrost_sensor", "bead under ice"),
            Noted("noted", "Ærøskøbing gasket"),
            Outcome("outcome", Result.NO_FAULT, "cleaned"),
        ):
            answers = Answers() if isinstance(body, CodeSeen) else kept_answers
            self.record(uuid.uuid4(), body, answers=answers)
        kept, words = self.rows()
        self.assertEqual((kept["is_open"], kept["serial"], kept["slips"]), (False, "TB 0934417", 6))
        CallIndex.objects.all().delete()
        with connection.cursor() as cursor:
            cursor.execute("DELETE FROM calls_words")
            cursor.execute("DELETE FROM sheets_words")
        call_command("rebuild_index", verbosity=0)
        self.assertEqual(self.rows(), (kept, words))
        call_command("rebuild_index", if_needed=True, verbosity=0)
        self.assertEqual(self.rows(), (kept, words))

    def test_it_is_made_anew_by_itself_only_where_a_call_or_the_sheets_have_none(self):
        with CaptureQueriesContext(connection) as quiet:
            call_command("rebuild_index", if_needed=True, verbosity=0)
        self.assertLessEqual(len(quiet), 3)
        wanted = self.rows()
        CallIndex.objects.all().delete()
        call_command("rebuild_index", if_needed=True, verbosity=0)
        self.assertEqual(self.rows(), wanted)
        with connection.cursor() as cursor:
            cursor.execute("DELETE FROM sheets_words")
        call_command("rebuild_index", if_needed=True, verbosity=0)
        self.assertEqual(self.rows(), wanted)

    def rows(self):
        with connection.cursor() as cursor:
            cursor.execute("SELECT * FROM calls_words")
            calls = cursor.fetchall()
            cursor.execute("SELECT * FROM sheets_words")
            return CallIndex.objects.values().get(), (calls, cursor.fetchall())

    def test_every_kind_of_word_finds_the_call_with_or_without_accents_dashes_and_in_any_script(self):
        self.record(uuid.uuid4(), PlateRead("plate_read", "TB-34/2", "TB 0934417"))
        self.record(uuid.uuid4(), Noted("noted", "Ærøskøbing Größe Мороз 冷泉"))
        self.record(uuid.uuid4(), CodeSeen("code_seen", "E5", "E5"))
        self.record(uuid.uuid4(), PartFitted("part_fitted", "defrost_sensor"))
        for typed in (
            "fennel",
            "FENN",
            "tb34",
            "TB 34/2",
            "0934417",
            "tb-0934",
            "Grosse",
            "grö",
            "мороз",
            "冷泉",
            "e5",
            "defrost sensor",
            "says",
        ):
            found = [row.call for row in found_calls(typed)]
            self.assertEqual(found, [] if typed == "Grosse" else [self.call], typed)
        for typed in (
            "",
            "  ",
            "–",
            '"',
            "NEAR(",
            "a AND",
            "x*y",
            "';--",
            "nothing like it",
            "\x00",
            "(" * 99,
        ):
            self.assertEqual(list(found_calls(typed)), [], typed)

    def test_lists_replay_no_tape_and_ask_no_more_for_more_calls(self):
        few = self.queries()
        for _ in range(12):
            fixtures.call(self.revision, self.user)
        self.assertEqual(self.queries(), few)

    def queries(self):
        counts = []
        for address in (reverse("desk:home"), reverse("calls:calls"), reverse("desk:search") + "?q=fennel"):
            with CaptureQueriesContext(connection) as captured:
                self.client.get(address)
            self.assertFalse([one for one in captured if "calls_slip" in one["sql"]], address)
            counts.append(len(captured))
        return counts

    def test_calls_come_in_pages_newest_first_and_filtered(self):
        for _ in range(35):
            fixtures.call(self.revision, self.user)
        self.record(uuid.uuid4(), Outcome("outcome", Result.NO_FAULT, ""))
        first = self.client.get(reverse("calls:calls")).content.decode()
        numbers = [int(text) for text in re.findall(r'row-number">(\d+)', first)]
        self.assertEqual(numbers, list(range(136, 106, -1)))
        self.assertIn("Page 1 of 2", first)
        self.assertContains(self.client.get(reverse("calls:calls") + "?page=2"), 'row-number">101<')
        closed = self.client.get(reverse("calls:calls") + "?show=closed")
        self.assertContains(closed, 'row-number">101<')
        self.assertNotContains(closed, 'row-number">102<')
        for odd in ("?page=zero", "?page=-4", "?page=99999999999", "?show=%00", "?show=x&page="):
            self.assertEqual(self.client.get(reverse("calls:calls") + odd).status_code, 200)

    def test_a_long_tape_shows_its_last_slips_and_the_way_to_the_rest(self):
        for number in range(45):
            self.record(uuid.uuid4(), Noted("noted", f"note {number}."))
        address = reverse("calls:stage", args=[self.call.pk, "look"])
        page = self.client.get(address)
        self.assertContains(page, "6 older slips")
        self.assertNotContains(page, "note 4.")
        self.assertContains(self.client.get(address + "?tape=all"), "note 4.")


class Sheets(TestCase):
    def test_makers_that_read_alike_never_share_a_sheet(self):
        _, revision = fixtures.workshop()
        lead = User.objects.get(role="lead")
        data = json.loads(revision.document)
        data["plate"] |= {"maker": "Other", "model": "X"}
        with self.assertRaisesRegex(SheetError, "an identifier of its own"):
            publish_revision(json.dumps(data), lead)
        old = data | {"format": "frostline-sheet-1"}
        del old["id"]
        for code in old["codes"]:
            for test in code["condition"]["tests"]:
                test["signal"] = f"{test['signal']['kind']}:{test['signal']['id']}"
        made = []
        for maker, model in (
            ("Tarn beck", "TB-34"),
            ("Tarn-beck", "TB 34"),
            ("Мороз", "Х-1"),
            ("冷泉", "二号"),
        ):
            old["plate"] = old["plate"] | {"maker": maker, "model": model}
            made.append(publish_revision(json.dumps(old, ensure_ascii=False), lead).revision)
        self.assertEqual(len({item.sheet_id for item in made}), 4)
        user = User.objects.get(role="technician")
        self.client.force_login(user)
        for item in made:
            self.assertEqual(self.client.get(item.sheet.get_absolute_url()).status_code, 200)
        self.assertContains(self.client.get(reverse("desk:search"), {"q": "мороз"}), made[2].sheet.slug)
        self.assertContains(self.client.get(reverse("desk:search"), {"q": "冷泉"}), made[3].sheet.slug)

    def test_a_match_is_only_ever_words(self):
        self.assertEqual(match_of('fan" OR b*'), '("fan"* AND "OR"*) OR (squeezed : "FANORB"*)')
        self.assertEqual(match_of("!?"), "")
