"""The database can't take a write: full, read-only or locked. What was typed comes back, reading goes on."""

import html
import logging
import re
import sqlite3
import tempfile
import uuid
from pathlib import Path

from django.db import OperationalError, connection
from django.test import RequestFactory, SimpleTestCase
from django.urls import reverse

from frostline.calls.models import Slip
from frostline.settings import DATABASES
from frostline.tests import fixtures
from frostline.ui.unavailable import reason_of, unavailable

TYPED = "frost on the back wall\nas thick as a thumb"


class CannotWrite(fixtures.CommittedCase):
    def setUp(self):
        self.user, revision = fixtures.workshop()
        self.call = fixtures.call(revision, self.user)
        self.client.force_login(self.user)
        self.client.raise_request_exception = False
        logging.disable()  # each of these errors is logged, as it should be
        self.addCleanup(logging.disable, logging.NOTSET)
        self.slip_id = uuid.uuid4()

    def pragma(self, sql):
        with connection.cursor() as cursor:
            cursor.execute(f"PRAGMA {sql}")
            return cursor.fetchone()

    def read_only(self):
        self.pragma("query_only = ON")
        self.addCleanup(self.pragma, "query_only = OFF")

    def full(self):
        """No page more than there are, and those full of words."""
        (pages,) = self.pragma("page_count")
        self.pragma(f"max_page_count = {pages}")
        self.addCleanup(self.pragma, "max_page_count = 1073741823")

    def post(self, **data):
        address = reverse("calls:stage", args=[self.call.pk, "close"])
        return self.client.post(
            address, {"kind": "noted", "slip_id": str(self.slip_id), "text": TYPED, **data}
        )

    def sent_again(self, page):
        """What the page's form sends, as a browser reads it."""
        found = re.findall(r'<textarea name="([^"]+)" hidden>\n(.*?)</textarea>', page, re.DOTALL)
        return {html.unescape(name): html.unescape(value) for name, value in found}

    def test_a_read_only_database_gives_the_form_back_and_takes_it_again(self):
        self.read_only()
        answer = self.post()
        self.assertEqual(answer.status_code, 503)
        self.assertIn("Retry-After", answer.headers)
        self.assertContains(answer, "may only be read", status_code=503)
        self.assertContains(answer, "as thick as a thumb", status_code=503)
        for name in ("look", "probe", "close"):
            page = self.client.get(reverse("calls:stage", args=[self.call.pk, name]))
            self.assertEqual(page.status_code, 200)
        self.pragma("query_only = OFF")
        again = self.sent_again(answer.content.decode())
        self.assertEqual(again["slip_id"], str(self.slip_id))
        self.assertEqual(self.post(**again).status_code, 302)
        self.assertEqual(Slip.objects.get(pk=self.slip_id).body["text"].replace("\r", ""), TYPED)

    def test_a_full_database_says_so(self):
        self.full()
        answer = next(
            found
            for found in (self.post(slip_id=str(uuid.uuid4()), text="x" * 900) for _ in range(400))
            if found.status_code != 302
        )
        self.assertContains(answer, "is full", status_code=503)
        self.assertContains(answer, "x" * 900, status_code=503)
        self.assertEqual(self.client.get(reverse("desk:home")).status_code, 200)

    def test_signing_in_says_so_and_sends_no_password_back(self):
        self.client.logout()
        self.read_only()
        data = {"username": "maren", "password": "cold-hands-7"}
        answer = self.client.post(reverse("accounts:sign_in"), data)
        self.assertContains(answer, "may only be read", status_code=503)
        self.assertNotContains(answer, "cold-hands-7", status_code=503)

    def test_a_new_call_and_its_boosted_page_too(self):
        self.read_only()
        data = {"slip_id": str(self.slip_id), "revision": self.call.revision_id, "customer": "Aud Fennel"}
        answer = self.client.post(
            reverse("calls:new"), {**data, "complaint": "warm"}, headers={"hx-request": "true"}
        )
        self.assertContains(answer, "Aud Fennel", status_code=503)
        self.assertContains(answer, 'id="page"', status_code=503)
        self.assertNotContains(answer, "<html", status_code=503)


class Locked(SimpleTestCase):
    """What SQLite itself says when another writer holds the lock, and the page made of it."""

    def test_a_lock_held_too_long_is_told(self):
        with tempfile.TemporaryDirectory() as folder:
            path = Path(folder) / "locked.sqlite3"
            holder, other = (sqlite3.connect(path, isolation_level=None, timeout=0.01) for _ in range(2))
            holder.execute("PRAGMA journal_mode=WAL")
            holder.execute("CREATE TABLE t (a)")
            holder.execute("BEGIN IMMEDIATE")
            with self.assertRaises(sqlite3.OperationalError) as said:
                other.execute("BEGIN IMMEDIATE")
            other.execute("SELECT * FROM t")
            holder.close()
            other.close()
        sentence = reason_of(OperationalError(str(said.exception)))
        self.assertIn("Send it again", sentence)
        request = RequestFactory().post("/calls/new/", {"customer": "Aud Fennel", "slip_id": "1"})
        answer = unavailable(request, sentence)
        self.assertEqual(answer.status_code, 503)
        self.assertIn("Aud Fennel", answer.content.decode())

    def test_an_error_of_the_program_is_no_passing_one(self):
        self.assertIsNone(reason_of(OperationalError("no such column: x")))
        self.assertIsNone(reason_of(ValueError("locked")))

    def test_what_is_acknowledged_is_on_the_disk(self):
        """The commands every connection begins with, on a database of its own: 2 is FULL."""
        with tempfile.TemporaryDirectory() as folder:
            database = sqlite3.connect(Path(folder) / "own.sqlite3")
            for command in DATABASES["default"]["OPTIONS"]["init_command"].split(";"):
                database.execute(command)
            self.assertEqual(database.execute("PRAGMA synchronous").fetchone(), (2,))
            self.assertEqual(database.execute("PRAGMA journal_mode").fetchone(), ("wal",))
            database.close()
