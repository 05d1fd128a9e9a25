"""A call under hands that are fast, or have no connection: what the tests of them share."""

import re

from playwright.sync_api import expect

from tests.browser import test_judgement
from tests.browser.harness import TABLET, BrowserCase, settled

LOOKS = (("vent_air", "none"), ("evaporator_fan", "still"), ("frost", "even"), ("condenser_dust", "clean"))


NO_CONNECTION = re.compile(r"ERR_INTERNET_DISCONNECTED|ERR_FAILED|htmx:sendError")
"""What the browser itself says of a connection that is not there."""


class HandsCase(BrowserCase):
    data_of = "many-calls"

    def tearDown(self):
        self.troubles = [line for line in self.troubles if not NO_CONNECTION.search(line)]
        super().tearDown()

    def begin(self, viewport=TABLET):
        self.page = page = self.open(viewport)
        self.base = test_judgement.TheGoodLoop.begin(self, page)
        page.goto(f"{self.base}look/")
        settled(page)

    def button(self, look, answer):
        own = self.page.locator(f'input[name=look][value="{look}"]')
        return self.page.locator("form.look").filter(has=own).locator(f'button[value="{answer}"]')

    def recorded(self):
        """What is on the tape of looks, oldest first."""
        told = self.page.request.get(f"{self.address}{self.base}tape.json").json()
        bodies = [entry["body"] for entry in told["entries"]]
        return [(body["look"], body["answer"]) for body in bodies if body["kind"] == "observed"]

    def outbox(self):
        return self.page.locator("#outbox")

    def entries(self, *kinds):
        """What is on the tape of these kinds, oldest first."""
        told = self.page.request.get(f"{self.address}{self.base}tape.json").json()["entries"]
        return [entry for entry in told if entry["kind"] in kinds]

    def sent(self, looks):
        """Wait until all of these are recorded, in this order, and the page shows so."""
        for _ in range(200):
            if self.recorded() == list(looks):
                break
            self.page.wait_for_timeout(200)
        self.assertEqual(self.recorded(), list(looks))
        expect(self.outbox()).to_be_hidden()
        for look, answer in looks:
            expect(self.button(look, answer)).to_have_attribute("aria-pressed", "true")
