"""Two devices on one call, one of them without a connection; a device that dies with entries in it."""

import shutil
import tempfile

from playwright.sync_api import expect

from tests.browser.hands import LOOKS, HandsCase
from tests.browser.harness import CHROMIUM, settled


class TwoDevices(HandsCase):
    def second(self):
        """The same call on a device of its own, signed in as another person."""
        own = self.page
        other = self.open()
        other.goto(f"{self.base}look/")
        settled(other)
        self.page = own
        return other

    def tap(self, page, look, answer):
        own = page.locator(f'input[name=look][value="{look}"]')
        page.locator("form.look").filter(has=own).locator(f'button[value="{answer}"]').click()

    def differ(self):
        """One device looks without a connection; the other, a moment later, sees something else."""
        self.begin()
        other = self.second()
        self.page.context.set_offline(True)
        self.tap(self.page, "evaporator_fan", "still")
        expect(self.outbox()).to_contain_text("1 entry")
        self.page.wait_for_timeout(1200)
        self.tap(other, "evaporator_fan", "runs")
        expect(other.locator("#tape")).to_contain_text("runs")
        self.page.context.set_offline(False)
        expect(self.outbox()).to_contain_text("A question first.")
        expect(self.page.locator(".ask")).to_contain_text("has recorded “Evaporator fan: runs” since")
        self.assertEqual(self.recorded(), [("evaporator_fan", "runs")])
        return other

    def standing(self):
        """What counts of the fan: the entry that was made last."""
        entries = sorted(self.entries("observed"), key=lambda entry: entry["at"])
        return entries[-1]["body"]["answer"], len(entries)

    def test_what_differs_is_asked_and_so_now_counts(self):
        other = self.differ()
        self.page.get_by_role("button", name="It is so now").click()
        expect(self.outbox()).to_be_hidden()
        self.assertEqual(self.standing(), ("still", 2))
        expect(other.locator("#tape")).to_contain_text("still")

    def test_what_was_so_then_stands_before_what_came_after(self):
        self.differ()
        self.page.get_by_role("button", name="It was so then").click()
        expect(self.outbox()).to_be_hidden()
        self.assertEqual(self.standing(), ("runs", 2))

    def test_what_both_say_alike_is_not_asked(self):
        self.begin()
        other = self.second()
        self.page.context.set_offline(True)
        self.tap(self.page, "evaporator_fan", "still")
        expect(self.outbox()).to_contain_text("1 entry")
        self.tap(other, "evaporator_fan", "still")
        expect(other.locator("#tape")).to_contain_text("still")
        self.page.context.set_offline(False)
        expect(self.outbox()).to_be_hidden()
        self.assertEqual(self.standing(), ("still", 2))

    def test_entries_sent_out_of_order_stand_in_the_order_they_were_made(self):
        """The same entry again, and an older one after a newer: as a bad connection delivers them."""
        self.begin()
        token = self.page.locator("input[name=csrfmiddlewaretoken]").first.input_value()
        ids = self.page.evaluate("[crypto.randomUUID(), crypto.randomUUID()]")
        made = self.page.evaluate("[2000, 1000].map((before) => new Date(Date.now() - before).toISOString())")
        sent = [(ids[0], made[0], LOOKS[1]), (ids[1], made[1], LOOKS[0]), (ids[0], made[0], LOOKS[1])]
        for slip_id, at, (look, answer) in (sent[1], sent[0], sent[2]):
            answered = self.page.request.post(
                f"{self.address}{self.base}look/",
                form={
                    "csrfmiddlewaretoken": token,
                    "kind": "observed",
                    "look": look,
                    "answer": answer,
                    "slip_id": slip_id,
                    "made_at": at,
                },
                headers={"Referer": self.address},
            )
            self.assertTrue(answered.ok, answered.status)
        entries = sorted(self.entries("observed"), key=lambda entry: entry["at"])
        self.assertEqual([entry["id"] for entry in entries], ids)


class FlatBattery(HandsCase):
    def test_what_waits_outlives_the_browser_that_held_it(self):
        """The process is killed with entries in it; the browser begun anew sends them."""
        self.begin()
        profile = tempfile.mkdtemp(prefix="frostline-profile-")
        self.addCleanup(shutil.rmtree, profile, ignore_errors=True)
        arguments = {"executable_path": CHROMIUM, "args": ["--no-sandbox"], "base_url": self.address}
        driver = self.browser.browser_type
        first = driver.launch_persistent_context(profile, **arguments)
        page = first.new_page()
        page.goto("/")
        page.get_by_role("button", name="Enter the demo").click()
        page.goto(f"{self.base}look/")
        settled(page)
        first.set_offline(True)
        for look, answer in LOOKS[:2]:
            own = page.locator(f'input[name=look][value="{look}"]')
            page.locator("form.look").filter(has=own).locator(f'button[value="{answer}"]').click()
        expect(page.locator("#outbox")).to_contain_text("2 entries")
        page.wait_for_timeout(800)
        cookies = first.cookies()
        session = first.new_cdp_session(page)
        self.kill(session, first)
        self.assertEqual(self.recorded(), [])
        again = driver.launch_persistent_context(profile, **arguments)
        again.add_cookies(cookies)  # a session's cookie lives as long as the browser: one signs in again
        page = again.new_page()
        page.goto(f"{self.base}look/")
        for _ in range(40):
            if self.recorded() == list(LOOKS[:2]):
                break
            page.wait_for_timeout(200)
        self.assertEqual(self.recorded(), list(LOOKS[:2]))
        again.close()

    def kill(self, session, context):
        """Kill the browser as a flat battery does: nothing is told beforehand."""
        try:
            session.send("Browser.crash")
        except Exception as error:  # noqa: BLE001 -- its connection dies with it
            self.assertIn("closed", str(error).lower())
        try:
            context.close()
        except Exception as error:  # noqa: BLE001 -- nor can it be closed any more
            self.assertIn("closed", str(error).lower())
