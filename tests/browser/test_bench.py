"""A board on the mat, from the mains pin to the last rail: by itself on a phone, on a call on a tablet."""

import re

from playwright.sync_api import expect

from tests.browser.harness import PHONE, TABLET
from tests.browser.test_pages import PagesCase, settled


class Bench(PagesCase):
    data_of = "bench"

    def take(self, page, typed):
        page.get_by_label("The meter shows").fill(typed)
        page.get_by_role("button", name="Take it").click()
        settled(page)

    def opened(self, page):
        page.get_by_role("button", name="OL", exact=True).click()
        settled(page)

    def see(self, page, rung, reading):
        """Open a reading of a rung."""
        settled(page)
        row = page.locator(".chain-rung").filter(has=page.get_by_role("heading", name=rung))
        row.locator("summary").click()
        row.get_by_role("link", name=re.compile(reading)).first.click()
        settled(page)
        expect(page.locator(".probe-name")).to_contain_text(reading)

    def test_a_blown_fuse_leads_to_what_blew_it_on_a_phone(self):
        page = self.open(PHONE)
        page.goto("/")
        page.get_by_role("link", name="Board on the mat").click()
        page.get_by_label("Supply").select_option(label="Flyback behind a bridge")
        page.get_by_label("Mains at the bench").fill("228 V")
        page.get_by_role("button", name="To the ladder").click()
        page.get_by_role("button", name="Nothing at all").click()
        expect(page.locator(".chain")).to_contain_text("nothing at all")
        self.see(page, "Mains in", "across fuse F1")
        self.opened(page)
        expect(page.locator(".chain-first_bad")).to_contain_text("Mains in")
        expect(page.get_by_text("No power yet")).to_be_visible()
        self.see(page, "Switcher and transformer", "switcher U1, red on its source")
        self.take(page, "0.01")
        self.see(page, "Switcher and transformer", "across sense resistor R3")
        self.opened(page)
        self.see(page, "Bulk capacitor", "across bulk capacitor C1")
        self.opened(page)
        expect(page.locator(".ladder-finding")).to_contain_text("Switcher U1: shorted")
        expect(page.get_by_text("Change together with it: fuse F1 and sense resistor R3.")).to_be_visible()
        self.assertEqual(self.findings(page), [])

    def test_a_wrong_figure_says_why_and_keeps_what_was_read(self):
        page = self.open(TABLET)
        page.goto("/bench/ladder/?kind=linear&mains=229+V&esr=on&at=said%3Ddead&see=vdc%3Abp-bm")
        expect(page.locator(".chain")).to_be_visible()
        self.take(page, "9 kV")
        expect(page.get_by_role("alert")).to_contain_text("up to 600 V")
        expect(page.get_by_label("The meter shows")).to_have_value("9 kV")
        expect(page.locator(".chain")).to_contain_text("nothing at all")
        self.assertEqual(self.findings(page), [])

    def test_a_calls_board_is_read_mended_and_put_back(self):
        page = self.open(TABLET)
        base = self.call_of(page)
        page.goto(f"{base}close/")
        page.get_by_role("link", name="Board on the mat").click()
        page.get_by_label("Mains at the bench").fill("231 V")
        page.get_by_role("button", name="It is on the mat").click()
        page.get_by_role("button", name="Tries again and again").click()
        settled(page)
        expect(page.locator(".slips")).to_contain_text("tries again and again")
        self.see(page, "The controller’s own supply", "ESR: the controller’s capacitor C2")
        self.take(page, "19")
        expect(page.locator(".chain-first_bad")).to_contain_text("The controller’s own supply")
        expect(page.locator(".slips")).to_contain_text("19.0 Ω")
        page.get_by_label("What was changed on it").fill("C2 changed, 22 µF 50 V low ESR")
        page.get_by_role("button", name="The board is mended").click()
        expect(page.locator(".slips")).to_contain_text("C2 changed, 22 µF 50 V low ESR")
        page.get_by_role("button", name="It is back in its unit").click()
        expect(page.get_by_role("heading", name="Take the board out")).to_be_visible()
        expect(page.locator(".slips")).to_contain_text("Board back in its unit")
        self.assertEqual(self.findings(page), [])
