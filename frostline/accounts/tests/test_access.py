import io
import os
import subprocess
import sys
import tempfile
from ipaddress import ip_network
from unittest.mock import patch

from django.conf import settings
from django.core.exceptions import ValidationError
from django.core.management import CommandError, call_command
from django.db import IntegrityError, connection, transaction
from django.test import TestCase, override_settings
from django.urls import get_resolver, reverse

from frostline.accounts.actions.save_person import save_person
from frostline.accounts.forms import PersonForm
from frostline.accounts.models import PersonChange, User
from frostline.demo.actions import load_demo
from frostline.tests import fixtures


class Access(fixtures.PageCase):
    @classmethod
    def setUpTestData(cls):
        cls.technician, cls.revision = fixtures.workshop()
        cls.lead = User.objects.get(role="lead")

    def test_every_page_but_signing_in_wants_a_user(self):
        for address in (
            "/",
            "/calls/",
            "/calls/new/",
            "/sheets/",
            "/sheets/tarnbeck-tb-34/",
            "/people/",
            "/ui/understood/resistance/",
            "/sheets/schema.json",
        ):
            with self.subTest(address):
                response = self.client.get(address)
                self.assertEqual(
                    (response.status_code, response["Location"].split("?")[0]),
                    (302, reverse("accounts:sign_in")),
                )
        self.assertTrue(get_resolver().url_patterns)

    def test_only_leads_manage_people_and_sheets(self):
        for address in ("/people/", "/people/new/", "/sheets/publish/"):
            self.client.force_login(self.technician)
            self.assertContains(self.client.get(address), "for leads", status_code=403)
            self.client.force_login(self.lead)
            self.assertEqual(self.client.get(address).status_code, 200)

    def test_wrong_passwords_pause_signing_in(self):
        for _ in range(5):
            response = self.client.post(
                reverse("accounts:sign_in"), {"username": "maren", "password": "wrong"}
            )
        self.assertContains(response, "Signing in is paused", status_code=429)
        response = self.client.post(
            reverse("accounts:sign_in"), {"username": "maren", "password": "cold-hands-7"}
        )
        self.assertContains(response, "Signing in is paused", status_code=429)

    def test_a_right_password_signs_in_and_a_wrong_one_keeps_the_name(self):
        response = self.client.post(reverse("accounts:sign_in"), {"username": "maren", "password": "wrong"})
        self.assertContains(response, 'value="maren"')
        response = self.client.post(
            reverse("accounts:sign_in"), {"username": "maren", "password": "cold-hands-7"}
        )
        self.assertRedirects(response, "/")

    def test_the_demo_button_works_only_in_demo_mode_and_from_this_machine(self):
        User.objects.create_user("demo")
        self.assertContains(self.client.get(reverse("accounts:sign_in")), "Enter the demo")
        for extra in ({"REMOTE_ADDR": "192.0.2.7"}, {"HTTP_X_FORWARDED_FOR": "127.0.0.1"}):
            self.assertEqual(self.client.post(reverse("accounts:demo_entry"), **extra).status_code, 403)
            self.assertNotContains(self.client.get(reverse("accounts:sign_in"), **extra), "Enter the demo")
        with override_settings(DEMO=False):
            self.assertEqual(self.client.post(reverse("accounts:demo_entry")).status_code, 403)
        self.assertRedirects(self.client.post(reverse("accounts:demo_entry")), "/")

    def test_what_a_proxy_nobody_named_forwards_is_no_client_of_this_machine(self):
        User.objects.create_user("demo")
        for name in ("X-Real-IP", "X-Forwarded-Host", "X-Forwarded-Proto", "Via", "Forwarded"):
            answer = self.client.post(reverse("accounts:demo_entry"), headers={name: "127.0.0.1"})
            self.assertEqual(answer.status_code, 403, name)

    def guess(self, address, name="iver"):
        data = {"username": name, "password": "wrong"}
        return self.client.post(reverse("accounts:sign_in"), data, REMOTE_ADDR=address)

    def test_a_stranger_who_guesses_locks_nobody_else_out(self):
        for _ in range(8):
            stopped = self.guess("203.0.113.9")
        self.assertEqual(stopped.status_code, 429)
        data = {"username": "iver", "password": "deep-water-9"}
        self.assertRedirects(
            self.client.post(reverse("accounts:sign_in"), data, REMOTE_ADDR="192.0.2.4"), "/"
        )

    def test_behind_a_proxy_each_client_is_counted_for_itself(self):
        proxied = {"REMOTE_ADDR": "10.0.0.2"}
        with override_settings(PROXIES=(ip_network("10.0.0.0/28"),)):
            for _ in range(5):
                self.client.post(
                    reverse("accounts:sign_in"),
                    {"username": "iver", "password": "wrong"},
                    headers={"x-forwarded-for": "203.0.113.9"},
                    **proxied,
                )
            data = {"username": "iver", "password": "deep-water-9"}
            for client, status in (
                ("203.0.113.9", 429),
                ("6.6.6.6, 203.0.113.9", 429),
                ("203.0.113.10", 302),
            ):
                answer = self.client.post(
                    reverse("accounts:sign_in"), data, headers={"x-forwarded-for": client}, **proxied
                )
                self.assertEqual(answer.status_code, status, client)

    def test_pages_are_kept_by_no_cache_and_use_no_device_unasked(self):
        self.client.force_login(self.technician)
        for address in ("/", "/calls/", "/sheets/tarnbeck-tb-34/r1.json"):
            answer = self.client.get(address)
            self.assertIn("no-store", answer["Cache-Control"])
            self.assertIn("microphone=()", answer["Permissions-Policy"])

    def test_who_got_which_role_or_password_is_kept_and_shown(self):
        self.client.force_login(self.lead)
        page = reverse("accounts:person", args=[self.technician.pk])
        data = {"username": "maren", "role": "lead", "is_active": "on", "password": "quay-steps-4"}
        self.assertRedirects(self.client.post(page, data), reverse("accounts:people"))
        said = [(change.what, change.by) for change in PersonChange.objects.filter(person=self.technician)]
        self.assertEqual(said, [("role: technician → lead", self.lead), ("password set", self.lead)])
        self.assertContains(self.client.get(page), "role: technician → lead, iver")
        with self.assertRaises(IntegrityError), transaction.atomic(), connection.cursor() as cursor:
            cursor.execute("DELETE FROM accounts_personchange")

    def test_two_leads_who_resign_at_once_leave_one(self):
        """The other's resignation came between the form's check and the write."""
        other = User.objects.create_user("odda", role="lead")
        data = {"username": "iver", "role": "technician", "is_active": "on"}
        form = PersonForm(data, instance=User.objects.get(pk=self.lead.pk))
        self.assertTrue(form.is_valid())
        User.objects.filter(pk=other.pk).update(role="technician")
        with self.assertRaisesMessage(ValidationError, "only lead left"):
            save_person(form, self.lead)
        self.assertTrue(User.objects.get(pk=self.lead.pk).is_lead)

    def test_who_is_made_to_run_it_is_a_lead(self):
        self.assertTrue(User.objects.create_superuser("first", password="quay-steps-4").is_lead)
        with patch.dict(os.environ, {"FROSTLINE_LEAD_PASSWORD": "quay-steps-4"}):
            call_command("add_lead", "second", stdout=io.StringIO())
            with self.assertRaisesMessage(CommandError, "already exists"):
                call_command("add_lead", "second", stdout=io.StringIO())
        self.assertTrue(User.objects.get(username="second").is_lead)
        plain = patch.dict(os.environ, {"FROSTLINE_LEAD_PASSWORD": "12345678"})
        with plain, self.assertRaisesMessage(CommandError, "entirely numeric"):
            call_command("add_lead", "third", stdout=io.StringIO())
        self.assertFalse(User.objects.filter(username="third").exists())

    def test_a_password_changed_at_the_command_line_leaves_a_trace(self):
        with patch("getpass.getpass", return_value="harbour-lamp-3"):
            call_command("changepassword", "maren", stdout=io.StringIO())
        (change,) = PersonChange.objects.all()
        self.assertEqual((change.person, change.by), (self.technician, None))

    def test_a_lead_adds_people_and_the_last_lead_stays_one(self):
        self.client.force_login(self.lead)
        data = {
            "username": "odda",
            "first_name": "Odda",
            "role": "technician",
            "is_active": "on",
            "password": "quay-steps-4",
        }
        self.assertRedirects(self.client.post(reverse("accounts:add"), data), reverse("accounts:people"))
        self.assertTrue(User.objects.get(username="odda").check_password("quay-steps-4"))
        response = self.client.post(
            reverse("accounts:person", args=[self.lead.pk]),
            {"username": "iver", "role": "technician", "is_active": "on"},
        )
        self.assertContains(response, "only lead left", status_code=422)

    def test_the_content_policy_allows_no_inline_script_or_style(self):
        policy = self.client.get(reverse("accounts:sign_in"))["Content-Security-Policy"]
        self.assertIn("default-src 'none'", policy)
        self.assertNotIn("unsafe", policy)


class Settings(TestCase):
    def check(self, **environment):
        base = {name: value for name, value in os.environ.items() if not name.startswith("FROSTLINE_")}
        with tempfile.TemporaryDirectory() as folder:
            done = subprocess.run(
                [sys.executable, "manage.py", "check"],
                cwd=settings.BASE_DIR,
                env=base | {"FROSTLINE_DATA": folder} | environment,
                capture_output=True,
                text=True,
                check=False,
            )
        return done.returncode, done.stderr

    def test_outside_demo_mode_the_server_refuses_to_start_without_its_own_key_and_hosts(self):
        cases = [
            ({"FROSTLINE_SECRET_KEY": "short"}, "FROSTLINE_SECRET_KEY is too short"),
            ({"FROSTLINE_SECRET_KEY": "qW3e-" * 12}, "Set FROSTLINE_ALLOWED_HOSTS"),
        ]
        for environment, text in cases:
            with self.subTest(text):
                code, output = self.check(**environment)
                self.assertNotEqual(code, 0)
                self.assertIn(text, output)
        code, output = self.check(
            FROSTLINE_SECRET_KEY="qW3e-" * 12, FROSTLINE_ALLOWED_HOSTS="frostline.example"
        )
        self.assertEqual(code, 0, output)


class Demo(TestCase):
    def test_demo_data_loads_once_and_dates_lie_in_the_past(self):
        folder = settings.BASE_DIR / "demo"
        self.assertTrue(load_demo(folder))
        self.assertFalse(load_demo(folder))
        self.client.force_login(User.objects.get(username="demo"))
        page = self.client.get("/")
        self.assertContains(page, "Mrs Aud Fennel")
        self.assertNotContains(page, "-1 days")
