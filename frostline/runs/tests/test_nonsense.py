"""Whatever is posted to a page of runs ends in a page, a redirect or a sentence."""

import uuid

from django.core.files.uploadedfile import SimpleUploadedFile
from django.urls import reverse
from hypothesis import HealthCheck, given, settings
from hypothesis import strategies as st
from hypothesis.extra.django import TestCase

from frostcore.tape.ran_words import runs_of
from frostcore.tests.test_thermal_runs import run_of, text_of
from frostline.calls.tapes import standing_of
from frostline.runs.models import LiveRun
from frostline.tests import fixtures

LIKELY = (
    "3 h",
    "1e308 h",
    "∞",
    "-1",
    "NaN",
    "24:99",
    "knob",
    "defrost",
    "-20 C",
    "9e99 K",
    "freezer",
    "\x00",
)
TYPED = st.one_of(
    st.text(max_size=30),
    st.sampled_from(LIKELY),
    st.from_regex(r"[-+]?[0-9]{1,12}(\.[0-9]{1,4})? ?(h|min|C|F|d)?", fullmatch=True),
)
TOLD = ("at_fridge", "at_freezer", "quiet", "display", "note")
ENDS = {200, 302, 404, 422}
MANY = settings(max_examples=12, deadline=None, suppress_health_check=[HealthCheck.too_slow])


def forms(*names):
    return st.fixed_dictionaries(dict.fromkeys(names, TYPED))


class Nonsense(TestCase):
    @classmethod
    def setUpTestData(cls):
        cls.technician, cls.revision = fixtures.workshop()
        cls.call = fixtures.call(cls.revision, cls.technician)
        cls.text = text_of(run_of())[:20_000].rpartition("\n")[0]

    def of(self, name):
        """An address of the call, entered."""
        self.client.force_login(self.technician)
        return reverse(f"runs:{name}", args=[self.call.pk])

    def counted(self):
        file = SimpleUploadedFile("kitchen.csv", self.text.encode(), "text/csv")
        sent = self.client.post(self.of("runs"), {"slip_id": uuid.uuid4(), "file": file, "rows": ""})
        form = self.client.get(sent.url).context["form"]
        chosen = {name: form[name].initial for name in form.names}
        return self.client.post(sent.url, chosen | {"slip_id": uuid.uuid4(), "room": "23"}).url

    def ends(self, address, data):
        self.assertIn(self.client.post(address, data).status_code, ENDS, data)

    @MANY
    @given(forms("at", "what", "to", "place", "slip_id"))
    def test_settings(self, data):
        address = self.counted()
        self.ends(address, data)
        self.ends(address, data | {"slip_id": uuid.uuid4(), "what": "knob", "place": "freezer"})
        self.assertEqual(self.client.get(address).status_code, 200)
        self.assertLessEqual(len(runs_of(standing_of(self.call))[0].settings), 1)

    @MANY
    @given(forms("places", "room"))
    def test_live_runs(self, data):
        address = self.of("live_begin")
        self.ends(address, data)
        self.ends(address, {"places": "plug", "room": "23"})
        for run in LiveRun.objects.all():
            self.assertEqual(self.client.get(reverse("runs:live", args=[run.pk])).status_code, 200)
            self.ends(reverse("runs:live", args=[run.pk]), data)

    @MANY
    @given(forms("day", "by", "places", "slip_id"))
    def test_rechecks(self, data):
        self.ends(self.of("recheck"), data)
        self.assertEqual(self.client.get(self.of("runs")).status_code, 200)

    @MANY
    @given(TYPED, TYPED)
    def test_addresses(self, digest, token):
        address = self.counted()
        self.assertIn(self.client.get(address, {"beside": digest}).status_code, ENDS)
        self.assertIn(self.client.get(f"{address}compared/", {"beside": token}).status_code, ENDS)

    @MANY
    @given(forms(*TOLD))
    def test_what_a_customer_writes(self, data):
        page = self.client.get(self.of("runs"))
        day = page.context["recheck_form"]["day"].value()
        asked = {"slip_id": uuid.uuid4(), "day": day, "by": "customer", "places": ["fridge", "freezer"]}
        page = self.client.post(self.of("recheck"), asked, follow=True)
        self.ends(page.context["recheck_link"], data)
        self.assertEqual(self.client.get(self.of("runs")).status_code, 200)
