"""A small workshop for tests, made through the actions the pages use."""

import uuid
from pathlib import Path

from django.conf import settings
from django.test import TestCase

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


class CallCase(TestCase):
    """A workshop with one call on the Tarnbeck, its technician signed in."""

    @classmethod
    def setUpTestData(cls):
        cls.user, cls.revision = workshop()
        cls.call = call(cls.revision, cls.user)

    def setUp(self):
        self.client.force_login(self.user)
