"""The working place: what is posted there goes on the tape as asked for, and the next act stands there."""

import json
import re
import uuid
from html import unescape

from django.urls import reverse

from frostcore.diagnosis.readings import readings_of
from frostcore.tape.entries import Observed, PlateRead, PowerSet
from frostline.calls.tests.test_trace import TraceCase


class NowCase(TraceCase):
    def setUp(self):
        super().setUp()
        readings_of(self.call.revision.content).prepare(0)
        self.address = reverse("calls:now", args=[self.call.pk])

    def begun(self, *bodies):
        self.put(PlateRead("plate_read", "TB-34/2", "1", 230, 50, "R600a"))
        self.put(PowerSet("power_set", "live"))
        for body in bodies:
            self.put(body)

    def send(self, **data):
        return self.client.post(self.address, {"slip_id": str(uuid.uuid4()), **data})

    def hidden(self, page):
        """The hidden fields of the act's own form."""
        form = page.content.decode().split('class="now-form"')[1].split("</form>")[0]
        return dict(re.findall(r'<input type="hidden" name="(\w+)" value="([^"]*)"', form))


class Now(NowCase):
    def test_a_call_opens_on_what_to_do_now(self):
        self.assertRedirects(self.client.get(f"/calls/{self.call.pk}/"), self.address)
        page = self.client.get(self.address)
        self.assertContains(page, "<h1", 1)

    def test_the_plug_is_one_tap(self):
        self.put(PlateRead("plate_read", "TB-34/2", "1", 230, 50, "R600a"))
        page = self.client.get(self.address)
        self.assertContains(page, 'name="state" value="live"', 2)
        self.assertRedirects(self.send(kind="power_set", state="unplugged"), self.address)
        self.assertEqual([body.state for body in self.bodies("power_set")], ["unplugged"])

    def test_a_look_is_one_tap_and_the_next_act_stands_there(self):
        self.begun()
        page = self.client.get(self.address)
        self.assertContains(page, "Look: display")
        self.assertContains(page, 'class="branch"')
        self.assertEqual(self.hidden(page)["look"], "display")
        after = self.client.post(
            self.address, self.hidden(page) | {"answer": "normal", "slip_id": str(uuid.uuid4())}, follow=True
        )
        self.assertNotContains(after, "Look: display")
        self.assertEqual([body.answer for body in self.bodies("observed")], ["normal"])

    def asked_for_a_reading(self):
        """The page that asks for a reading, whatever else it would rather have, and the act."""
        self.begun(Observed("observed", "evaporator_fan", "still"), Observed("observed", "display", "normal"))
        page, act = self.client.get(self.address), {}
        for _ in range(20):
            act = json.loads(unescape(re.search(r'name="act" value="([^"]*)"', page.content.decode())[1]))
            if act["act"] == "read":
                break
            self.send(kind="barred", act=json.dumps(act), name="x", why="no way to reach it")
            page = self.client.get(self.address)
        self.assertEqual(act["act"], "read")
        return page, act

    def test_a_reading_asked_for_is_kept_in_the_setup_it_was_asked_for_in(self):
        page, act = self.asked_for_a_reading()
        hidden = self.hidden(page)
        self.assertEqual((hidden["red"], hidden["black"]), (act["red"], act["black"]))
        self.assertContains(page, "data-focus")
        self.assertContains(page, "Kept as: plug ")
        typed = "OL" if act["range"] == "ohm" else "0V"
        self.assertRedirects(
            self.send(**hidden | {"value": typed, "slip_id": str(uuid.uuid4())}), self.address
        )
        kept = self.bodies("reading")[-1]
        self.assertEqual(
            (kept.red, kept.black, kept.meter, kept.mode),
            (act["red"], act["black"], act["range"], act["mode"]),
        )
        self.assertEqual(list(kept.pulled), act.get("pulled", []))
        states = [body.state for body in self.bodies("power_set")]
        self.assertEqual(states[-1], "unplugged" if act["range"] == "ohm" else "live")

    def test_what_can_t_be_read_stays_in_its_field(self):
        page, _ = self.asked_for_a_reading()
        answer = self.send(**self.hidden(page) | {"value": "two hundred", "slip_id": str(uuid.uuid4())})
        self.assertEqual(answer.status_code, 422)
        self.assertContains(answer, 'value="two hundred"', status_code=422)
        self.assertEqual(self.bodies("reading"), [])

    def test_something_else_can_be_chosen_and_nonsense_is_not(self):
        self.begun(Observed("observed", "display", "normal"))
        first = self.client.get(self.address)
        other = re.search(r'<a href="(\?act=[^"]+)"', first.content.decode())[1]
        self.assertNotEqual(self.hidden(self.client.get(self.address + other)), self.hidden(first))
        same = self.client.get(self.address, {"act": "{[nonsense"})
        self.assertEqual(self.hidden(same)["kind"], self.hidden(first)["kind"])

    def test_what_can_t_be_done_is_gone_round(self):
        self.begun()
        act = json.dumps({"act": "look", "look": "display"})
        self.assertRedirects(
            self.send(kind="barred", act=act, name="Look: display", why="frozen in"), self.address
        )
        self.assertNotContains(self.client.get(self.address), 'class="now-act">Look: display')

    def test_the_code_the_display_shows_is_typed_there(self):
        self.begun(Observed("observed", "display", "code"))
        page = self.client.get(self.address)
        self.assertEqual(self.hidden(page)["kind"], "code_seen")
        self.assertRedirects(self.send(kind="code_seen", shown="E5"), self.address)
        near = self.send(kind="code_seen", shown="5")
        self.assertContains(near, "Which of these was it?", status_code=422)

    def test_suspects_stand_beside_every_page_with_what_moved(self):
        self.begun(Observed("observed", "evaporator_fan", "still"))
        for stage in ("look", "trace", "close"):
            self.assertContains(self.page(stage), 'id="suspects"', 1)
        page = self.client.get(self.address)
        self.assertContains(page, "others together")
        self.assertContains(page, "rung-tail")
        self.assertRegex(page.content.decode(), r'suspect-was">up \d+')
