import json
import logging
import os
import stat
import tempfile
import threading
import unittest
from ipaddress import ip_network
from pathlib import Path

from django.core.exceptions import ImproperlyConfigured
from django.db import connection
from django.test import RequestFactory, SimpleTestCase, override_settings

from frostline import __version__
from frostline.server.environment import MOST_HSTS, read
from frostline.server.logs import REQUEST_ID, JsonFormatter
from frostline.server.middleware import client_address, proxies
from frostline.server.reports import ReportHandler
from frostline.tests import fixtures

ROOT = Path(__file__).resolve().parents[3]


class Environments(unittest.TestCase):
    def setUp(self):
        folder = tempfile.TemporaryDirectory()
        self.addCleanup(folder.cleanup)
        self.data = Path(folder.name) / "data"
        self.good = {"FROSTLINE_DATA": str(self.data), "FROSTLINE_ALLOWED_HOSTS": "frostline.example"}

    def test_each_wrong_setting_is_told_in_a_line_that_names_it(self):
        (self.data.parent / "file").write_text("")
        for name, values in {
            "FROSTLINE_DATA": [str(self.data.parent / "file"), "/proc/none/x"],
            "FROSTLINE_SECRET_KEY": ["short", "a" * 60],
            "FROSTLINE_ALLOWED_HOSTS": ["", " , ", "*", "https://a.example", "a.example:8000", "a b"],
            "FROSTLINE_PROXIES": ["proxy", "10.0.0.300", "10.0.0.1/24"],
            "FROSTLINE_HSTS_SECONDS": ["-1", "1e3", "year", str(MOST_HSTS + 1)],
            "FROSTLINE_TIME_ZONE": ["Mars/Base", "../x"],
            "FROSTLINE_CURRENCY": ["euros", "\x07"],
            "FROSTLINE_ON_ERROR": ["/no/such/program"],
        }.items():
            for value in values:
                with self.subTest(name=name, value=value), self.assertRaises(ImproperlyConfigured) as told:
                    read(self.good | {name: value}, ROOT)
                self.assertIn(name, str(told.exception))
                self.assertEqual(len(str(told.exception).splitlines()), 1)

    def test_what_is_left_away_has_its_usual_value(self):
        found = read(self.good, ROOT)
        self.assertEqual((found.hosts, found.proxies, found.hsts_seconds), (("frostline.example",), (), 0))
        self.assertEqual((found.time_zone, found.currency, found.demo), ("UTC", "€", False))
        found = read(self.good | {"FROSTLINE_HSTS_SECONDS": str(MOST_HSTS)}, ROOT)
        self.assertEqual(found.hsts_seconds, MOST_HSTS)

    def test_the_secret_is_made_once_and_nobody_elses(self):
        first, second = read(self.good, ROOT).secret, read(self.good, ROOT).secret
        self.assertEqual(first, second)
        self.assertGreaterEqual(len(first), 50)
        self.assertEqual(stat.S_IMODE((self.data / "secret-key").stat().st_mode), 0o600)
        self.assertEqual(stat.S_IMODE(self.data.stat().st_mode), 0o700)

    def test_the_version_is_told_once(self):
        told = (ROOT / "pyproject.toml").read_text(encoding="utf-8")
        self.assertIn(f'version = "{__version__}"', told)


@override_settings(PROXIES=())
class Proxies(SimpleTestCase):
    def asked(self, address, **headers):
        seen = []
        request = RequestFactory().get("/", headers=headers, REMOTE_ADDR=address)
        proxies(seen.append)(request)
        return seen[0]

    def test_a_stranger_is_who_he_is_whatever_he_says(self):
        request = self.asked("203.0.113.9", **{"x-forwarded-for": "10.0.0.1", "x-forwarded-proto": "https"})
        self.assertEqual(client_address(request), "203.0.113.9")
        self.assertNotIn("HTTP_X_FORWARDED_PROTO", request.META)
        self.assertTrue(request.META["frostline.forwarded"])

    def test_a_named_proxy_says_who_asks(self):
        chains = {
            "203.0.113.9": "203.0.113.9",
            "1.2.3.4, 203.0.113.9": "203.0.113.9",
            "203.0.113.9, 10.0.0.3": "203.0.113.9",
            "": "10.0.0.2",
            "nonsense": "10.0.0.2",
            "203.0.113.9, nonsense": "10.0.0.2",
        }
        with override_settings(PROXIES=(ip_network("10.0.0.0/28"),)):
            for chain, client in chains.items():
                self.assertEqual(client_address(self.asked("10.0.0.2", **{"x-forwarded-for": chain})), client)


class Lines(fixtures.CommittedCase):
    def test_health_tells_the_version_and_why_it_is_not_well(self):
        answer = self.client.get("/health/")
        self.assertEqual(answer.json(), {"ok": True, "version": __version__})
        with connection.cursor() as cursor:
            cursor.execute("PRAGMA query_only = ON")
            try:
                logging.disable()
                answer = self.client.get("/health/")
            finally:
                logging.disable(logging.NOTSET)
                cursor.execute("PRAGMA query_only = OFF")
        self.assertEqual((answer.status_code, answer.json()["ok"]), (503, False))

    def test_every_answer_has_the_id_that_its_line_has(self):
        with self.assertLogs("frostline.requests", "INFO") as said:
            answer = self.client.get("/people/sign-in/?next=/calls/")
        told = said.records[0].told
        self.assertEqual((told["path"], told["status"]), ("/people/sign-in/", 200))
        self.assertNotIn("next", json.dumps(told))
        self.assertRegex(answer["X-Request-ID"], "^[0-9a-f]{32}$")


class Reports(SimpleTestCase):
    def record(self):
        try:
            int("a bad joint")
        except ValueError as error:
            trace = (type(error), error, error.__traceback__)
        return logging.LogRecord("django.request", logging.ERROR, "x.py", 1, "failed: %s", ("here",), trace)

    def test_a_line_of_the_log_is_json_with_the_requests_id(self):
        mark = REQUEST_ID.set("abc-123")
        self.addCleanup(REQUEST_ID.reset, mark)
        line = json.loads(JsonFormatter().format(self.record()))
        self.assertEqual(
            (line["level"], line["request"], line["message"]), ("error", "abc-123", "failed: here")
        )
        self.assertIn("a bad joint", line["traceback"])

    def test_the_workshops_program_gets_each_error(self):
        with tempfile.TemporaryDirectory() as folder:
            taken, program = Path(folder) / "taken", Path(folder) / "program"
            os.mkfifo(taken)
            program.write_text(f"#!/bin/sh\ncat > {taken}\n")
            program.chmod(0o700)
            with override_settings(ERROR_COMMAND=str(program)):
                ReportHandler().emit(self.record())
            report = json.loads(taken.read_text())
        self.assertEqual((report["message"], report["version"]), ("failed: here", __version__))
        self.assertIn("a bad joint", report["traceback"])

    def test_a_program_that_fails_changes_nothing(self):
        with override_settings(ERROR_COMMAND="/bin/false"), self.assertLogs("frostline.reports") as said:
            ReportHandler().emit(self.record())
            for thread in threading.enumerate():
                if thread is not threading.current_thread() and not thread.daemon:
                    thread.join(5)
        self.assertIn("did not take a report", said.output[0])
