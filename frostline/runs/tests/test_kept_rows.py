"""A file's rows kept beside it: the same as read, made anew where they are gone or spoilt; long files are
waited for."""

import threading
import uuid
from unittest import TestCase
from unittest.mock import patch

import numpy as np
from django.core.files.uploadedfile import SimpleUploadedFile
from django.urls import reverse
from hypothesis import given, settings
from hypothesis import strategies as st

from frostcore.tests.test_thermal_runs import run_of, text_of
from frostcore.thermal.log import Column, Log, Said, read_log
from frostcore.thermal.logged import BEGINS
from frostline.calls.judging import in_background
from frostline.runs import kept_rows, reading
from frostline.tests import fixtures

CELSIUS, WATTS = st.none() | st.integers(-8000, 15000), st.none() | st.integers(0, 300_000)
"""In hundredths."""


class Packed(TestCase):
    @settings(max_examples=60, deadline=None)
    @given(st.lists(st.tuples(st.floats(0.01, 5000), CELSIUS, WATTS), min_size=2, max_size=40))
    def test_rows_packed_are_the_rows(self, rows):
        seconds = np.cumsum([row[0] for row in rows])
        values = np.array([[np.nan if row[n] is None else row[n] / 100 for row in rows] for n in (1, 2)])
        columns = (Column("Freezer °F", "celsius", True), Column("W", "watts", False))
        log = Log(BEGINS, seconds, columns, values, (Said(3, "“x” is no reading", "left empty"),))
        again = kept_rows.unpacked(kept_rows.packed(log))
        np.testing.assert_allclose(again.seconds, seconds, rtol=1e-12)
        np.testing.assert_array_equal(again.values, values)
        self.assertEqual((again.columns, again.said, again.begins), (columns, log.said, BEGINS))

    def test_a_week_takes_a_few_bytes_a_row(self):
        text = text_of(run_of(days=2))
        log = read_log(text)
        self.assertLess(len(kept_rows.packed(log)), 0.2 * len(text))

    @settings(max_examples=40, deadline=None)
    @given(st.binary(max_size=300))
    def test_what_is_no_pack_is_refused(self, content):
        with self.assertRaises(ValueError):
            kept_rows.unpacked(content)


class Waited(fixtures.PageCase):
    @classmethod
    def setUpTestData(cls):
        cls.technician, cls.revision = fixtures.workshop()
        cls.call = fixtures.call(cls.revision, cls.technician)
        cls.text = text_of(run_of())

    def setUp(self):
        self.client.force_login(self.technician)
        self.address = reverse("runs:runs", args=[self.call.pk])
        reading._files._ready.clear()

    def send(self):
        file = SimpleUploadedFile("kitchen.csv", self.text.encode(), "text/csv")
        return self.client.post(self.address, {"slip_id": uuid.uuid4(), "file": file, "rows": ""})

    def test_a_file_is_read_once_and_then_its_rows(self):
        sent = self.send()
        digest = sent.url.split("/")[-3]
        reading._files._ready.clear()
        with patch("frostline.runs.reading.read_log", side_effect=AssertionError):
            self.assertContains(self.client.get(sent.url), "1441 rows over 24.0 hours")
        kept_rows._path(digest).write_bytes(b"spoilt")
        reading._files._ready.clear()
        self.assertContains(self.client.get(sent.url), "1441 rows over 24.0 hours")
        self.assertGreater(len(kept_rows._path(digest).read_bytes()), 1000)

    def test_a_long_file_is_waited_for_with_how_far_it_is(self):
        go, real = threading.Event(), read_log

        def slow(text, **options):
            options["told"](0.42)
            go.wait(20)
            return real(text, **options)

        in_background.set()
        self.addCleanup(in_background.clear)
        with patch("frostline.runs.reading.read_log", slow):
            sent = self.send()
            page = self.client.get(sent.url)
            self.assertContains(page, "its rows are being read: 42 %")
            go.set()
            for thread in list(reading._files._working.values()):
                thread.join()
        self.assertContains(self.client.get(sent.url), "1441 rows over 24.0 hours")

    def test_a_file_whose_bytes_are_gone_is_told(self):
        sent = self.send()
        digest = sent.url.split("/")[-3]
        reading._files._ready.clear()
        kept_rows._path(digest).unlink()
        reading.path_of(digest).unlink()
        self.assertContains(self.client.get(sent.url), "not beside the database any more", status_code=422)
        reading._files._failed.clear()
