import os
import subprocess
import sys
import tempfile

from django.conf import settings
from django.test import TestCase, override_settings
from django.urls import get_resolver, reverse

from frostline.accounts.models import User
from frostline.demo.actions import load_demo
from frostline.tests import fixtures


class Access(TestCase):
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
            ({}, "Set FROSTLINE_SECRET_KEY"),
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
