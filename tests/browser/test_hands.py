"""Hands that are faster than the connection, and no connection: nothing tapped is lost or recorded twice."""

from playwright.sync_api import expect

from tests.browser.hands import LOOKS, HandsCase
from tests.browser.harness import PHONE, settled


class Hands(HandsCase):
    def apart(self, milliseconds, looks):
        """Tap one after the other, so many milliseconds apart, as fast thumbs do."""
        script = """([looks, apart]) => new Promise((done) => looks.forEach(([look, answer], number) =>
            setTimeout(() => {
              const own = document.querySelector(`form.look input[name=look][value="${look}"]`);
              own.form.querySelector(`button[value="${answer}"]`).click();
              if (number === looks.length - 1) done();
            }, apart * number)))"""
        self.page.evaluate(script, [looks, milliseconds])

    def test_four_looks_fifty_milliseconds_apart_are_four_entries_in_order(self):
        self.begin()
        self.apart(50, LOOKS)
        self.sent(LOOKS)

    def test_the_same_tap_twice_is_one_entry_and_another_answer_is_another(self):
        self.begin()
        self.apart(30, [LOOKS[0], LOOKS[0], ("vent_air", "weak")])
        for _ in range(300):  # a slow machine is busy with the first one's page for long
            if len(self.recorded()) > 1:
                break
            self.page.wait_for_timeout(200)
        self.page.wait_for_timeout(1500)
        self.assertEqual(self.recorded(), [LOOKS[0], ("vent_air", "weak")])

    def test_without_a_connection_entries_wait_and_are_sent_once_when_it_is_back(self):
        self.begin(PHONE)
        self.page.context.set_offline(True)
        for look in LOOKS:
            self.button(*look).click()
        expect(self.outbox()).to_have_text(
            "No connection: 4 entries kept on this device, sent when it is back."
        )
        self.assertEqual(self.page.evaluate("document.documentElement.scrollWidth"), 390)
        self.page.context.set_offline(False)
        self.sent(LOOKS)
        self.page.reload()
        settled(self.page)
        self.assertEqual(self.recorded(), list(LOOKS))

    def test_what_waits_outlives_a_reload_and_a_new_page(self):
        self.begin()
        self.page.route(
            "**/look/", lambda route: route.abort() if route.request.method == "POST" else route.fallback()
        )
        for look in LOOKS[:2]:
            self.button(*look).click()
            expect(self.outbox()).to_contain_text("kept on this device")
        self.page.reload()
        settled(self.page)
        expect(self.outbox()).to_contain_text("2 entries")
        self.assertEqual(self.recorded(), [])
        again = self.page.context.new_page()
        self.page.close()
        again.goto(f"{self.base}look/")
        self.page = again
        self.sent(LOOKS[:2])

    def test_when_it_was_made_is_kept(self):
        self.begin()
        self.page.context.set_offline(True)
        self.button(*LOOKS[0]).click()
        expect(self.outbox()).to_contain_text("1 entry")
        made = self.page.evaluate("Date.now()") / 1000
        self.page.wait_for_timeout(2500)
        self.page.context.set_offline(False)
        self.sent(LOOKS[:1])
        told = self.page.request.get(f"{self.address}{self.base}tape.json").json()["entries"][-1]
        at = self.page.evaluate("(text) => new Date(text).getTime() / 1000", told["at"])
        self.assertAlmostEqual(at, made, delta=1.5)

    def test_what_the_server_asks_about_is_asked_and_the_rest_waits_behind_it(self):
        """A reading in ohms while LIVE, taken without a connection, and a look after it."""
        self.begin()
        self.page.goto(
            f"{self.base}trace/?function=defrost_heater&red=CN2.5&black=CN2.6&mode=off_cold&meter=ohm"
        )
        settled(self.page)
        self.page.context.set_offline(True)
        self.page.get_by_label("Meter shows", exact=True).fill("239")
        self.page.get_by_role("button", name="Record the reading").click()
        expect(self.outbox()).to_contain_text("1 entry")
        self.page.get_by_role("button", name="it stays").click()
        expect(self.outbox()).to_contain_text("2 entries")
        self.page.context.set_offline(False)
        expect(self.outbox()).to_contain_text("A question first. 1 entry waits behind it.")
        self.page.get_by_role("button", name="Yes, it was out").click()
        expect(self.outbox()).to_be_hidden()
        kinds = ["reading", "tried"]
        for _ in range(30):
            told = self.page.request.get(f"{self.address}{self.base}tape.json").json()
            found = [entry["kind"] for entry in told["entries"] if entry["kind"] in kinds]
            if found == kinds:
                break
            self.page.wait_for_timeout(200)
        self.assertEqual(found, kinds)

    def test_a_question_left_unanswered_is_neither_lost_nor_in_the_way(self):
        """Another tap and a reload leave it standing; left out, the rest is sent."""
        self.begin()
        self.page.goto(
            f"{self.base}trace/?function=defrost_heater&red=CN2.5&black=CN2.6&meter=ohm&mode=off_cold"
        )
        settled(self.page)
        self.page.context.set_offline(True)
        self.page.get_by_label("Meter shows", exact=True).fill("239")
        self.page.get_by_role("button", name="Record the reading").click()
        expect(self.outbox()).to_contain_text("1 entry")
        self.page.context.set_offline(False)
        expect(self.outbox()).to_contain_text("A question first.")
        self.page.get_by_role("button", name="it stays").click()
        expect(self.outbox()).to_contain_text("1 entry waits behind it")
        self.page.reload()
        expect(self.page.get_by_role("button", name="Yes, it was out")).to_be_visible()
        self.page.get_by_role("button", name="Leave it out").click()
        expect(self.outbox()).to_be_hidden()
        told = self.page.request.get(f"{self.address}{self.base}tape.json").json()["entries"]
        self.assertEqual(
            [entry["kind"] for entry in told if entry["kind"] in {"reading", "tried"}], ["tried"]
        )

    def test_pages_of_a_call_open_without_a_connection_as_last_seen(self):
        self.begin()
        self.page.wait_for_function(
            "navigator.serviceWorker.controller !== null || navigator.serviceWorker.ready"
        )
        self.page.evaluate("navigator.serviceWorker.ready.then(() => true)")
        for stage in ("look/", "now/"):
            self.page.goto(f"{self.base}{stage}")
            settled(self.page)
        self.page.context.set_offline(True)
        self.page.goto(f"{self.base}look/")
        expect(self.page.get_by_text("Nothing opened: what do you see?")).to_be_visible()
        expect(self.page.locator(".looks").first).to_be_visible()
        self.button(*LOOKS[0]).click()
        expect(self.outbox()).to_contain_text("1 entry")
        self.page.locator("nav.stages a", has_text="Now").click()
        expect(self.page.locator(".now-act")).to_be_visible()
        self.page.goto(f"{self.base}report/")
        expect(self.page.get_by_role("heading", name="No connection")).to_be_visible()
        self.page.context.set_offline(False)
        self.page.goto(f"{self.base}look/")
        self.sent(LOOKS[:1])

    def test_pages_kept_are_forgotten_at_signing_out(self):
        self.begin()
        self.page.evaluate("navigator.serviceWorker.ready.then(() => true)")
        self.page.goto(f"{self.base}look/")
        settled(self.page)
        kept = "caches.open('frostline-pages').then((pages) => pages.keys()).then((keys) => keys.length)"
        for _ in range(20):
            if self.page.evaluate(kept):
                break
            self.page.reload()
        self.assertGreater(self.page.evaluate(kept), 0)
        self.page.locator("summary[aria-label^=Menu]").click()
        self.page.get_by_role("button", name="Sign out").click()
        expect(self.page.get_by_role("button", name="Enter the demo")).to_be_visible()
        for _ in range(20):
            if not self.page.evaluate(kept):
                break
            self.page.wait_for_timeout(200)
        self.assertEqual(self.page.evaluate(kept), 0)
