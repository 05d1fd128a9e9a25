"""A way round a dead board, from the call to the label inside the unit, and back."""

import re

from playwright.sync_api import expect

from tests.browser.harness import PHONE, TABLET
from tests.browser.test_pages import PagesCase


class WaysRound(PagesCase):
    data_of = "ways round"

    def test_from_the_ways_to_the_label_and_back_as_built(self):
        page = self.open(TABLET)
        base = self.call_of(page)
        page.goto(f"{base}close/")
        page.get_by_role("link", name="Ways round it").click()
        page.get_by_label("Round which part").select_option(label="Control board")
        page.get_by_role("button", name="Show the ways").click()
        page.get_by_role("link", name="Fan with the compressor, defrost by resting").click()
        expect(page.get_by_role("heading", name="The work, in its order")).to_be_visible()
        expect(page.locator(".drawing")).to_have_count(2)
        page.get_by_role("button", name="Wired so: go on with it").click()
        expect(page.locator("input:invalid#id_agreed_by")).to_have_count(1)
        page.get_by_label("Who agreed to it").fill("A. Fell")
        page.get_by_role("button", name="Wired so: go on with it").click()
        expect(page.locator(".flash")).to_contain_text("goes on with the changed wiring")
        expect(page.locator(".slips")).to_contain_text("Wiring changed")
        page.get_by_role("link", name="Label and consent to print").click()
        expect(page.get_by_role("heading", name="THE WIRING OF THIS UNIT WAS CHANGED")).to_be_visible()
        expect(page.locator("svg.code")).to_be_visible()
        self.assertEqual(self.findings(page), [])
        page.get_by_role("link", name="Back to the call").click()
        page.get_by_role("button", name="It is put back as built").click()
        expect(page.locator(".flash")).to_contain_text("as it was built")

    def test_a_refused_plan_of_ones_own_says_why_and_offers_no_button(self):
        page = self.open(PHONE)
        base = self.call_of(page)
        page.goto(f"{base}plans/")
        page.get_by_text("A plan of your own").click()
        page.get_by_label("The plan, as JSON").fill(
            '{"format": "frostline-plan-1", "title": "Fuse bridged", "keeps": ["compressor"],'
            ' "acts": [{"act": "run", "points": ["bimetal.2", "defrost_heater.1"]}]}'
        )
        page.get_by_role("button", name="Solve it").click()
        expect(page.get_by_role("alert").first).to_contain_text("no longer protects the defrost heater")
        expect(page.get_by_role("button", name=re.compile("Wired so"))).to_have_count(0)
        self.assertEqual(self.findings(page), [])

    def test_a_quote_is_offered_accepted_and_a_link_read_by_the_customer(self):
        page = self.open(TABLET)
        base = self.call_of(page)
        page.goto(f"{base}quote/")
        page.get_by_role("button", name="Offer it").click()
        page.get_by_role("button", name="They accept this").first.click()
        expect(page.get_by_role("heading", name="Accepted")).to_be_visible()
        page.goto(f"{base}handover/")
        page.get_by_role("button", name="For 30 days").click()
        expect(page.get_by_text("Whoever has this link")).to_be_visible()
        address = page.locator("p.raw").inner_text()
        other = page.context.browser.new_context().new_page()
        other.goto(address)
        expect(other.get_by_role("heading", name="Tarnbeck TB-34")).to_be_visible()
        expect(other.get_by_role("link")).to_have_count(0)
        other.context.close()
