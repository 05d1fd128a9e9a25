"""A small workshop for tests, made through the actions the pages use."""

import copy
import re
import uuid
from pathlib import Path

from django.conf import settings
from django.db import connection
from django.test import TestCase, TransactionTestCase

from frostcore.tape.entries import CallTaken
from frostline.accounts.models import User
from frostline.calls.actions.open_call import NewCall, Who, open_call
from frostline.sheets.actions.publish_revision import publish_revision

SHEETS = Path(settings.BASE_DIR) / "demo" / "sheets"


def workshop():
    """A technician and the Tarnbeck's sheet, published by a lead."""
    lead = User.objects.create_user("iver", password="deep-water-9", role="lead")
    technician = User.objects.create_user("maren", password="cold-hands-7", role="technician")
    return technician, publish("tarnbeck-tb-34", lead)


def document(name):
    return (SHEETS / f"{name}.json").read_text(encoding="utf-8")


def publish(name, lead):
    return publish_revision(document(name), lead).revision


def all_revisions(lead):
    return [publish(path.stem, lead) for path in sorted(SHEETS.glob("*.json"))]


def call(revision, by):
    taken = CallTaken("call_taken", "It says E5")
    return open_call(NewCall(uuid.uuid4(), revision, Who("Mrs Fennel"), taken), by)


class AsShown:
    """Pages are compared as a browser shows them: any run of white space is one blank."""

    def assertContains(self, response, text, *arguments, **options):
        super().assertContains(shown(response), text, *arguments, **options)

    def assertNotContains(self, response, text, *arguments, **options):
        super().assertNotContains(shown(response), text, *arguments, **options)


class PageCase(AsShown, TestCase):
    """A test of pages."""


class CommittedCase(AsShown, TransactionTestCase):
    """A test whose requests commit for themselves, as a server's do. Its rows go afterwards, kept for good or
    not."""

    def _fixture_teardown(self):
        with connection.cursor() as cursor:
            cursor.execute("SELECT name, sql FROM sqlite_master WHERE type = 'trigger'")
            guards = cursor.fetchall()
            for name, _ in guards:
                cursor.execute(f"DROP TRIGGER {name}")
            for table in ("calls_words", "sheets_words"):
                cursor.execute(f"DELETE FROM {table}")
            super()._fixture_teardown()
            for _, guard in guards:
                cursor.execute(guard)


def shown(response):
    """The same answer with every run of white space as one blank, and none at the edge of a tag."""
    if response.streaming:
        return response
    text = re.sub(r"\s+", " ", response.content.decode())
    text = re.sub(r"(<[a-z][^>]*>) | (?=</)", r"\1", text)
    seen = copy.copy(response)
    seen.content = text.encode()
    return seen


class CallCase(PageCase):
    """A workshop with one call on the Tarnbeck, its technician signed in."""

    @classmethod
    def setUpTestData(cls):
        cls.user, cls.revision = workshop()
        cls.call = call(cls.revision, cls.user)

    def setUp(self):
        self.client.force_login(self.user)
