"""The whole slice as a new user walks it: sign in to handover report."""

import re

from playwright.sync_api import expect

from tests.browser.harness import PHONE, TABLET, BrowserCase, settled


class TheSlice(BrowserCase):
    def take_call(self, page):
        page.get_by_role("link", name="New call").click()
        page.get_by_label("Unit", exact=True).select_option(
            label="Tarnbeck TB-34: two-door refrigerator, freezer below"
        )
        page.get_by_label("Customer", exact=True).fill("Mr Hallbjorn Quill")
        page.get_by_label("Complaint, in the customer’s words").fill("Ice at the back, shows E5")
        page.get_by_text("a loose or worn plug").click()
        page.get_by_role("button", name="Open the call").click()
        expect(page.get_by_text("Read the rating plate")).to_be_visible()

    def walk(self, viewport):
        page = self.open(viewport)
        self.take_call(page)
        page.get_by_label("Serial number").fill("TB 77")
        page.get_by_role("button", name="The plate says so").click()
        expect(page.get_by_text("Agrees with the sheet.")).to_be_visible()
        page.get_by_role("button", name="Plug is in").click()
        expect(page.locator(".power-state")).to_have_text("LIVE")
        page.get_by_role("link", name="Go there").click()
        for look, answer in (
            ("Display", "shows a code"),
            ("Evaporator fan", "runs"),
            ("Compressor", "vibrating, warm"),
            ("Frost", "whole face, even"),
        ):
            row = page.locator("form.look").filter(has=page.get_by_text(look, exact=True))
            row.get_by_role("button", name=answer, exact=True).click()
            expect(row.get_by_role("button", name=answer, exact=True)).to_have_attribute(
                "aria-pressed", "true"
            )
        page.get_by_label("Freezer compartment", exact=True).fill("19F")
        page.get_by_role("button", name="Record freezer compartment temperature").click()
        expect(page.locator(".taken")).to_have_text("−7.2 °C")
        page.get_by_role("link", name="Go there").click()
        expect(page.get_by_label("Typed, as it stands there")).to_be_visible()
        settled(page)
        page.get_by_label("Typed, as it stands there").press_sequentially("E5")
        expect(page.locator(".candidate").first).to_contain_text("Defrost does not warm up")
        page.get_by_role("button", name="Seen", exact=True).click()
        expect(page.get_by_text("defrost sensor does not rise above 8 °C within 40 min")).to_be_visible()
        page.get_by_role("link", name="Measure it").click()
        expect(page.get_by_text("CN3.5", exact=True)).to_be_visible()
        settled(page)
        field = page.get_by_label("Meter shows", exact=True)
        field.press_sequentially("26k")
        expect(page.get_by_text("= 26.0 kΩ")).to_be_visible()
        page.locator("#reading-form").get_by_label("Thermometer shows").fill("32F")
        field.press("Enter")
        expect(page.get_by_text("Was the plug out?")).to_be_visible()
        page.get_by_role("button", name="Yes, it was out").click()
        expect(page.locator(".verdict-word")).to_have_text("high")
        expect(page.locator(".power-state")).to_have_text("UNPLUGGED")
        expect(page.locator("svg.curve .cross")).to_have_count(1)
        expect(page.locator(".verdict .consequence")).to_contain_text("too late")
        expect(page.locator(".slip").first).to_contain_text("typed “26k”")
        page.get_by_role("link", name="Decide & close").click()
        expect(page.get_by_label("What it comes to")).to_be_visible()
        page.get_by_label("repaired", exact=True).check()
        page.get_by_label("What was at fault").select_option(label="Defrost sensor")
        page.get_by_label("What was done, for the customer").fill("Defrost sensor replaced.")
        page.get_by_label("the code stayed away").check()
        page.get_by_label("Recheck in days").fill("14")
        page.get_by_role("button", name="Close the call").click()
        expect(page.locator(".ask")).to_contain_text("Nothing is on the tape as fitted")
        page.get_by_role("button", name="Close it all the same").click()
        page.get_by_role("link", name="Open the report to print").click()
        report = page.locator("article.report")
        for text in (
            "Mr Hallbjorn Quill",
            "“Ice at the back, shows E5”",
            "26.0 kΩ",
            "Cause: Defrost sensor.",
            "not yet seen to reach its set-point",
            "Recheck",
        ):
            expect(report).to_contain_text(text)
        page.emulate_media(media="print")
        expect(page.locator(".topbar")).to_be_hidden()
        expect(report).to_be_visible()

    def test_on_a_tablet(self):
        self.walk(TABLET)

    def test_on_a_phone(self):
        self.walk(PHONE)

    def test_a_double_tap_records_once(self):
        page = self.open()
        self.take_call(page)
        page.evaluate(
            """() => { const form = document.querySelector('.power form'); const data = new FormData(form);
            data.set('state', 'live');
            const send = () => fetch(form.action, { method: 'POST', body: new URLSearchParams(data) });
            return Promise.all([1, 2, 3].map(send)); }"""
        )
        page.reload()
        expect(page.locator(".slip-title", has_text="Power")).to_have_count(1)

    def test_a_correction_keeps_the_old_slip(self):
        page = self.open()
        self.take_call(page)
        page.get_by_role("button", name="Plug is in").click()
        page.get_by_role("link", name=re.compile("Correct: Power")).click()
        page.get_by_label("UNPLUGGED").check()
        page.get_by_role("button", name="Record the correction").click()
        expect(page.locator(".power-state")).to_have_text("UNPLUGGED")
        expect(page.locator(".slip-gone")).to_contain_text("LIVE")
        expect(page.locator(".slip-gone")).to_contain_text("superseded")

    def test_without_scripts_the_forms_still_post(self):
        page = self.open(java_script_enabled=False)
        self.take_call(page)
        page.get_by_role("button", name="Plug is out").click()
        expect(page.locator(".power-state")).to_have_text("UNPLUGGED")
        page.get_by_role("link", name="Decode").click()
        page.get_by_label("Typed, as it stands there").fill("E5")
        page.get_by_role("button", name="Seen", exact=True).click()
        expect(page.get_by_text("A condition, not a part.")).to_be_visible()
        page.get_by_role("link", name="Sensors").click()
        page.get_by_label("Meter shows", exact=True).fill("26k")
        page.locator("#reading-form").get_by_label("Thermometer shows").fill("0C")
        page.get_by_role("button", name="Record the reading").click()
        expect(page.locator(".verdict-word")).to_have_text("high")

    def test_what_was_typed_stays_when_it_is_refused(self):
        page = self.open()
        self.take_call(page)
        page.goto(page.url.replace("/call/", "/probe/"))
        settled(page)
        page.get_by_label("Meter shows", exact=True).fill("banana")
        page.locator("#reading-form").get_by_label("Thermometer shows").fill("4C")
        page.get_by_role("button", name="Record the reading").click()
        expect(page.locator(".error")).to_contain_text("“banana” can't be read as a resistance")
        expect(page.get_by_label("Meter shows", exact=True)).to_have_value("banana")
        expect(page.locator("#reading-form").get_by_label("Thermometer shows")).to_have_value("4C")
        page.get_by_label("Meter shows", exact=True).fill("15,300")
        page.get_by_role("button", name="Record the reading").click()
        page.get_by_role("button", name="15.3 kΩ").click()
        expect(page.get_by_text("Ohms need the plug out. Was it out?")).to_be_visible()


class ByKeyboard(BrowserCase):
    """The whole slice without a pointer: Tab, typing, Enter, Space and the shortcuts."""

    def tab_to(self, page, text, inside="body"):
        """Tab until the focused element says ``text`` (its words, label or value) within ``inside``."""
        for _ in range(120):
            page.keyboard.press("Tab")
            said = page.evaluate(
                "([root]) => { const e = document.activeElement;"
                " const plain = (said) => said?.replace(/\\s+/g, ' ').trim(); return e.closest(root) ?"
                " [plain(e.textContent), e.getAttribute('aria-label'), e.value,"
                " plain(e.labels?.[0]?.textContent)] : [] }",
                [inside],
            )
            if text in said:
                return
        self.fail(f"Tab never reached {text!r} in {inside}")

    def press(self, page, text, inside="body", key="Enter"):
        self.tab_to(page, text, inside)
        page.keyboard.press(key)

    def test_from_signing_in_to_the_report(self):
        page = self.open(enter=False)
        self.press(page, "Enter the demo")
        expect(page.get_by_role("link", name="New call")).to_be_visible()
        page.keyboard.press("?")
        expect(page.get_by_role("dialog")).to_be_visible()
        page.keyboard.press("Escape")
        page.keyboard.press("n")
        expect(page.get_by_label("Unit", exact=True)).to_be_visible()
        settled(page)
        page.keyboard.press("r")
        page.keyboard.type("Tarnbeck")
        page.keyboard.press("Tab")
        page.keyboard.type("Ann Orrey")
        page.keyboard.press("Tab")
        page.keyboard.type("Ice; n and u typed here do nothing else")
        self.press(page, "Open the call")
        expect(page.get_by_role("button", name="The plate says so")).to_be_visible()
        self.press(page, "The plate says so")
        expect(page.get_by_text("Agrees with the sheet.")).to_be_visible()
        settled(page)
        page.keyboard.press("p")
        expect(page.locator(".power-state")).to_have_text("PLUG?")
        self.press(page, "Plug is in", ".power-buttons")
        expect(page.locator(".power-state")).to_have_text("LIVE")
        settled(page)
        page.keyboard.press("2")
        for look, answer in (
            ("Display", "shows a code"),
            ("Evaporator fan", "runs"),
            ("Compressor", "vibrating, warm"),
            ("Frost", "none"),
        ):
            row = page.locator("form.look").filter(has=page.get_by_text(look, exact=True))
            expect(row).to_be_visible()
            settled(page)
            self.press(page, answer, f"form.look:has(input[value='{look.lower().replace(' ', '_')}'])")
            expect(row.get_by_role("button", name=answer, exact=True)).to_have_attribute(
                "aria-pressed", "true"
            )
        settled(page)
        page.keyboard.press("x")
        expect(page.get_by_label("Typed, as it stands there")).to_be_visible()
        settled(page)
        page.keyboard.press("r")
        page.keyboard.type("E5")
        page.keyboard.press("Enter")
        expect(page.get_by_text("A condition, not a part.")).to_be_visible()
        settled(page)
        # The field keeps the focus for a second code; Esc leaves it, so that keys are shortcuts again.
        page.keyboard.press("Escape")
        page.keyboard.press("p")
        page.keyboard.press("Enter")
        expect(page.locator(".power-state")).to_have_text("UNPLUGGED")
        settled(page)
        page.keyboard.press("5")
        expect(page.get_by_label("Meter shows", exact=True)).to_be_visible()
        settled(page)
        expect(page.get_by_label("Meter shows", exact=True)).to_be_focused()
        page.keyboard.type("OL")
        page.keyboard.press("Tab")
        page.keyboard.type("0C")
        page.keyboard.press("Enter")
        expect(page.locator(".verdict-word")).to_have_text("open")
        settled(page)
        page.keyboard.press("Escape")
        page.keyboard.press("7")
        expect(page.get_by_role("button", name="Close the call")).to_be_visible()
        settled(page)
        self.press(page, "repaired", "main", key="Space")
        self.tab_to(page, "What was at fault optional", "main")
        page.keyboard.type("Defrost sensor")
        self.tab_to(page, "What was done, for the customer optional", "main")
        page.keyboard.type("Sensor replaced.")
        self.press(page, "Close the call", "main")
        expect(page.get_by_role("button", name="Close it all the same")).to_be_visible()
        settled(page)
        self.press(page, "Close it all the same", "main")
        expect(page.get_by_role("link", name="Open the report to print")).to_be_visible()
        settled(page)
        self.press(page, "Open the report to print", "main")
        expect(page.locator("article.report")).to_contain_text("Cause: Defrost sensor.")


class EveryPage(BrowserCase):
    def test_nothing_is_fetched_from_elsewhere(self):
        page = self.open()
        asked = []
        page.on("request", lambda request: asked.append(request.url))
        for address in ("/", "/sheets/ondrel-or-620/", "/calls/new/"):
            page.goto(address)
        self.assertTrue(asked)
        self.assertEqual([url for url in asked if not url.startswith(self.address)], [])

    def test_the_colour_scheme_is_switched_by_hand(self):
        page = self.open(scheme="light")
        page.locator("summary[aria-label^=Menu]").click()
        page.get_by_role("button", name="dark").click()
        expect(page.locator("html")).to_have_attribute("data-theme", "dark")
        self.assertEqual(
            page.evaluate("getComputedStyle(document.documentElement).backgroundColor"), "rgb(10, 19, 24)"
        )
