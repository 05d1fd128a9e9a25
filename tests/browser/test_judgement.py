"""The judgement on the pages, as jobs are walked: what is suspected, what is asked for next, and why."""

from playwright.sync_api import expect

from tests.browser.harness import PHONE, TABLET, BrowserCase, settled

LOOP = "trace/?function=defrost_heater&red=CN2.5&black=CN2.6"


class TheGoodLoop(BrowserCase):
    """A dead output and then a good loop accuse the board, with nothing opened behind the cover."""

    def begin(self, page):
        page.get_by_role("link", name="New call").click()
        page.get_by_label("Unit", exact=True).select_option(
            label="Tarnbeck TB-34: two-door refrigerator, freezer below"
        )
        page.get_by_label("Customer", exact=True).fill("Mr Anders Vik")
        page.get_by_label("Complaint, in the customer’s words").fill("Shows E5, ice at the back")
        page.get_by_role("button", name="Open the call").click()
        page.get_by_role("button", name="The plate says so").click()
        expect(page.get_by_text("Agrees with the sheet.")).to_be_visible()
        settled(page)
        page.get_by_role("button", name="Plug is in").click()
        expect(page.locator(".power-state")).to_have_text("LIVE")
        call = page.url.split("/calls/")[1].split("/")[0]
        return f"/calls/{call}/"

    def look(self, page, look, answer):
        row = page.locator("form.look").filter(has=page.get_by_text(look, exact=True))
        row.get_by_role("button", name=answer, exact=True).click()
        expect(row.get_by_role("button", name=answer, exact=True)).to_have_attribute("aria-pressed", "true")

    def read(self, page, address, value):
        page.goto(address)
        settled(page)
        page.get_by_label("Meter shows", exact=True).fill(value)
        page.get_by_role("button", name="Record the reading").click()
        settled(page)

    def walk(self, viewport):
        page = self.open(viewport)
        base = self.begin(page)
        page.goto(f"{base}look/")
        settled(page)
        for look, answer in (("Display", "shows a code"), ("Frost", "cover frozen in")):
            self.look(page, look, answer)
        expect(page.locator(".nextstep-act")).to_have_text("Type the code the display shows")
        page.goto(f"{base}decode/")
        settled(page)
        page.get_by_label("Typed, as it stands there").fill("E5")
        page.get_by_role("button", name="Seen", exact=True).click()
        settled(page)
        causes = page.locator(".causes li")
        expect(causes.filter(has_text="Defrost heater")).to_contain_text("%")
        first = page.locator(".suspect-name").first
        expect(first).to_contain_text("efrost")  # heater, bimetal: what the code is about
        self.read(page, f"{base}{LOOP}&mode=defrost&meter=vac", "0.4V")
        expect(first).to_have_text("Control board")
        page.get_by_role("button", name="Plug is out").click()
        settled(page)
        self.read(page, f"{base}{LOOP}&mode=off_cold&meter=ohm", "239")
        expect(first).to_have_text("Control board")
        self.assertGreater(int(page.locator(".suspect-percent").first.inner_text().strip("> %")), 75)
        page.locator(".suspect-list summary").first.click()
        expect(page.locator(".suspect-why").first).to_contain_text("bits for")
        self.assertNotIn("freezer back", page.locator(".nextstep").inner_text().lower())
        return page, base

    def test_on_a_tablet(self):
        page, base = self.walk(TABLET)
        page.goto(f"{base}close/")
        settled(page)
        expect(page.get_by_label("What it comes to")).to_be_visible()
        page.locator("form").filter(has_text="Part fitted").get_by_label("Part", exact=True)
        page.locator("#part_fitted-component").select_option(label="Control board")
        page.get_by_role("button", name="Put it on the tape").first.click()
        settled(page)
        # Work was done, and the plug is out: mains to the chassis before anything else.
        expect(page.locator(".nextstep-act")).to_have_text("Measure the plug’s live pin to the chassis")

    def test_on_a_phone(self):
        page, _ = self.walk(PHONE)
        self.assertLessEqual(page.evaluate("document.documentElement.scrollWidth"), 390)


class MovedAndMeasured(BrowserCase):
    def test_what_changes_when_the_harness_is_moved_goes_on_the_tape_with_one_tap(self):
        page = self.open(TABLET)
        walk = TheGoodLoop.begin(self, page)
        page.goto(f"{walk}{LOOP}&mode=off_cold&meter=ohm")
        settled(page)
        page.get_by_role("button", name="it changes").click()
        settled(page)
        expect(page.locator(".slip").first).to_contain_text("Harness moved")
        expect(page.locator(".slip").first).to_contain_text("it changes")

    def test_mains_and_watts_go_on_the_tape_with_one_field(self):
        page = self.open(TABLET)
        base = TheGoodLoop.begin(self, page)
        page.goto(f"{base}look/")
        settled(page)
        page.get_by_label("Outlet gives").fill("224V")
        page.get_by_role("button", name="Record the mains").click()
        settled(page)
        expect(page.locator(".slip").first).to_contain_text("224 V")
        page.get_by_label("Plug meter shows").fill("5W")
        page.get_by_role("button", name="Record the watts").click()
        settled(page)
        expect(page.locator(".slip").first).to_contain_text("Watts at the plug")
        page.get_by_label("Outlet gives").fill("12V")
        page.get_by_role("button", name="Record the mains").click()
        settled(page)
        expect(page.get_by_text("is no mains").first).to_be_visible()
        expect(page.get_by_label("Outlet gives")).to_have_value("12V")
