"""What a stranger sends: refused with a status and a sentence, and the pages of everybody else go on."""

import json
import uuid

from django.urls import reverse

from frostline.accounts.models import User
from frostline.sheets.models import Revision
from frostline.tests import fixtures


class Hostile(fixtures.CallCase):
    def publish(self, text):
        self.client.force_login(User.objects.get(role="lead"))
        return self.client.post(reverse("sheets:upload"), {"document": text})

    def changed(self, *path, value):
        document = json.loads(fixtures.document("tarnbeck-tb-34"))
        place = document
        for key in path[:-1]:
            place = place[key]
        place[path[-1]] = value
        return json.dumps(document)

    def test_each_sheet_that_would_break_pages_is_refused_with_the_place(self):
        command = "k\n.control\nshell touch owned\n.endc"
        cases = (
            (("boards", 0, "switches", 0, "id"), command, "boards[0].switches[0].id"),
            (("sensors", 0, "id"), "a/b", "sensors[0].id"),
            (("plate", "model"), "TB\ud800", "plate.model"),
            (("plate", "appliance"), "x\x00", "plate.appliance"),
            (("plate", "mains_volts"), 10**400, "plate.mains_volts"),
            (("boards", 0, "sensor_inputs", 0, "pullup_ohms"), 0, "pullup_ohms"),
            (("modes", 0, "timeout_minutes"), 1e12, "modes[0].timeout_minutes"),
            (("modes", 0, "signals"), ["nothing"], "modes[0].signals[0]"),
            (("components", 0, "name"), " ", "components[0].name"),
        )
        for path, value, place in cases:
            with self.subTest(place):
                self.assertContains(self.publish(self.changed(*path, value=value)), place, status_code=422)
        for text in ("[" * 90_000, '{"a":' * 9000, "9" * 5000, "1e999", "null"):
            self.assertEqual(self.publish(text).status_code, 422, text[:10])
        self.assertEqual(Revision.objects.count(), 1)
        for address in ("/", "/sheets/", "/search/?q=E5", "/calls/"):
            self.assertEqual(self.client.get(address).status_code, 200)

    def test_forms_that_are_none(self):
        theme = self.client.post(reverse("ui:choose"), {"theme": "dark", "back": "x"})
        self.assertRedirects(theme, "/")
        for back in ("https://elsewhere.example/", "//elsewhere.example", "javascript:alert(1)", "\\\\x"):
            answer = self.client.post(reverse("ui:choose"), {"theme": "dark", "back": back})
            self.assertEqual(answer["Location"], "/", back)
        for kind in ("checked", "call_taken", "unreadable", "x", ""):
            answer = self.client.post(
                reverse("calls:stage", args=[self.call.pk, "close"]),
                {"kind": kind, "slip_id": str(uuid.uuid4()), "text": "x"},
            )
            self.assertIn(answer.status_code, {404, 422}, kind)

    def test_what_is_typed_with_a_per_cent_sign_is_asked_about_as_typed(self):
        page = self.client.get(reverse("desk:check", args=["sensor"]), {"ohms1": "1,000", "celsius1": "5%d"})
        self.assertEqual(page.status_code, 200)
        page = self.client.get(reverse("desk:check", args=["heater"]), {"mains": "230V", "ohms": "4,100"})
        self.assertContains(page, "can mean")

    def test_addresses_with_numbers_no_database_has(self):
        for address in ("/sheets/tarnbeck-tb-34/r99999999999999999999/", "/people/99999999999999999999/"):
            self.client.force_login(User.objects.get(role="lead"))
            self.assertEqual(self.client.get(address).status_code, 404)
        self.assertEqual(self.client.get("/calls/?page=99999999999999999999").status_code, 200)
