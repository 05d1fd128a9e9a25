"""The trace, the way in, and the loads: by touch, by keyboard, without scripts."""

import re

from playwright.sync_api import expect

from tests.browser.harness import PHONE, TABLET, BrowserCase, settled
from tests.browser.test_seen_and_sensors import call_of

HOSTEL = "Ferry Keepers’ Hostel"


class TheTrace(BrowserCase):
    def set_power(self, page, state):
        """Put the call in a power state, whatever another journey left it in."""
        button = page.get_by_role("button", name="Plug is in" if state == "LIVE" else "Plug is out")
        if page.locator(".power-state").inner_text().strip() != state:
            button.click()
        expect(page.locator(".power-state")).to_have_text(state)
        settled(page)

    def test_from_a_lit_path_to_a_phantom_to_the_broken_loop(self):
        page = self.open(TABLET)
        call_of(page, HOSTEL, "trace")
        self.set_power(page, "LIVE")
        page.get_by_label("Function").select_option("defrost_heater")
        settled(page)
        page.get_by_label("Shown in mode").select_option("normal")
        settled(page)
        for wire in ("red", "blue", "white", "brown"):
            expect(page.locator("svg.trace .wire-name", has_text=wire).first).to_be_visible()
        page.get_by_role("link", name="CN7.1, should read").click()
        expect(page.locator(".leads")).to_contain_text("CN7.1")
        settled(page)
        page.get_by_role("link", name="CN7.2, should read").click()
        expect(page.locator(".leads")).to_contain_text("CN7.2")
        row = page.locator(".setups tr", has_text="Plug out, still cold, CN7 pulled")
        expect(row).to_contain_text("240 Ω")
        settled(page)
        field = page.get_by_label("Meter shows")
        field.press_sequentially("98vac")
        expect(page.get_by_text("= 98.0 V ac")).to_be_visible()
        field.press("Enter")
        expect(page.locator(".verdict-word")).to_have_text("phantom voltage")
        expect(page.locator(".verdict")).to_contain_text("the loop behind it is open")
        expect(page.locator(".slip").first).to_contain_text("phantom voltage")
        expect(page.locator("svg.trace .mark-on-line").first).to_be_visible()
        page.get_by_role("link", name="Now the low-impedance reading").click()
        settled(page)
        page.get_by_label("Meter shows").fill("0.1")
        page.get_by_role("button", name="Record the reading").click()
        expect(page.locator(".slip").first).to_contain_text("low impedance")
        self.set_power(page, "UNPLUGGED")
        page.goto(
            re.sub(r"\?.*", "", page.url) + "?function=defrost_heater&mode=off_cold&red=CN2.5&black=CN2.6"
        )
        page.get_by_role("button", name=re.compile(r"CN2 \(power plug\): in, pull it")).click()
        expect(page.get_by_role("button", name=re.compile(r"CN2 \(power plug\): pulled"))).to_be_visible()
        settled(page)
        page.get_by_label("Meter shows").fill("OL")
        page.get_by_role("button", name="Record the reading").click()
        expect(page.locator(".verdict-word")).to_have_text("open")
        expect(page.locator(".fits")).to_contain_text("Defrost heater: burnt through")
        page.get_by_role("button", name=re.compile(r"CN2 \(power plug\): pulled")).click()
        expect(page.get_by_role("button", name=re.compile(r"CN2 \(power plug\): in"))).to_be_visible()

    def test_volts_with_the_plug_out_are_questioned_and_nothing_is_lost(self):
        page = self.open(TABLET)
        address = call_of(page, HOSTEL, "trace")
        self.set_power(page, "UNPLUGGED")
        page.goto(f"{address}/trace/?function=condenser_fan&mode=normal")
        page.get_by_label("Meter shows").fill("229V")
        page.get_by_role("button", name="Record the reading").click()
        expect(page.get_by_text("Was the plug in?")).to_be_visible()
        expect(page.get_by_label("Meter shows")).to_have_value("229V")
        page.get_by_role("button", name="Yes, it was in").click()
        expect(page.locator(".power-state")).to_have_text("LIVE")
        expect(page.locator(".verdict-word")).to_have_text("in band")

    def test_a_mode_counts_down_and_its_output_is_asked_for_again(self):
        page = self.open(TABLET)
        address = call_of(page, HOSTEL, "trace")
        self.set_power(page, "LIVE")
        page.goto(f"{address}/trace/?function=defrost_heater&mode=defrost")
        page.get_by_role("button", name="The unit is in it now").click()
        expect(page.locator(".countdown")).to_have_text(re.compile(r"^(20:00|19:\d\d)$"))
        settled(page)
        page.get_by_label("Meter shows").fill("230V")
        page.get_by_role("button", name="Record the reading").click()
        expect(page.locator(".verdict-word")).to_have_text("in band")
        page.get_by_role("button", name="I have left it").click()
        expect(page.get_by_text("Read CN2.5 to CN2.6 again.", exact=True)).to_be_visible()
        settled(page)
        page.get_by_role("link", name="Do it now").click()
        expect(page.locator(".expected")).to_contain_text("0 V")
        settled(page)
        page.get_by_label("Meter shows").fill("0V")
        page.get_by_role("button", name="Record the reading").click()
        expect(page.locator(".slip").first).to_contain_text("0 V")
        expect(page.get_by_text("Read CN2.5 to CN2.6 again.", exact=True)).to_have_count(0)

    def test_on_a_phone_the_picture_pans_and_the_page_does_not(self):
        page = self.open(PHONE, has_touch=True)
        call_of(page, HOSTEL, "trace")
        pan = page.locator(".trace-pan")
        self.assertGreater(pan.evaluate("node => node.scrollWidth - node.clientWidth"), 100)
        self.assertLessEqual(
            page.evaluate("document.documentElement.scrollWidth - document.documentElement.clientWidth"), 0
        )
        page.locator("svg.trace a").first.tap()
        expect(page.locator(".leads")).to_be_visible()

    def test_with_the_keyboard_alone_a_lead_is_placed(self):
        page = self.open(TABLET)
        call_of(page, HOSTEL, "trace")
        link = page.get_by_role("link", name=re.compile("^CN2.3"))
        link.focus()
        page.keyboard.press("Enter")
        expect(page.locator(".leads")).to_contain_text("CN2.3")

    def test_without_scripts_the_trace_still_works(self):
        page = self.open(TABLET, java_script_enabled=False)
        page.get_by_text(HOSTEL).first.click()
        page.goto("/calls/" + page.url.split("/calls/")[1].split("/")[0] + "/trace/")
        page.get_by_label("Function").select_option("condenser_fan")
        page.get_by_role("button", name="Show").click()
        self.assertIn("function=condenser_fan", page.url)
        page.get_by_role("link", name=re.compile("^CN2.3")).click()
        self.assertIn("red=CN2.3", page.url)
        expect(page.locator(".setups")).to_be_visible()

    def test_the_picture_is_exported_and_every_unit_fits_its_frame(self):
        page = self.open(TABLET)
        call_of(page, HOSTEL, "trace")
        with page.expect_download() as download:
            page.get_by_role("link", name="as SVG").click()
        self.assertTrue(download.value.suggested_filename.endswith(".svg"))
        page.get_by_role("link", name="Whole unit").click()
        expect(page.get_by_role("link", name="Only the path")).to_be_visible()

    def test_neither_scheme_has_a_serious_accessibility_finding(self):
        for viewport, scheme in ((TABLET, "light"), (PHONE, "dark")):
            page = self.open(viewport, scheme)
            address = call_of(page, HOSTEL, "trace")
            self.assert_accessible(page)
            page.goto(f"{address}/open/?place=evaporator")
            settled(page)
            self.assert_accessible(page)


class TheWayIn(BrowserCase):
    def test_it_comes_apart_with_counts_and_goes_back_with_nothing_left_over(self):
        page = self.open(PHONE, has_touch=True)
        address = call_of(page, "Café Drifter", "open")
        page.goto(f"{address}/open/?place=drawer_panel")
        page.get_by_role("button", name="Done: Slide both drawers out").tap()
        expect(page.get_by_role("button", name="Put back: Slide both drawers out")).to_be_visible()
        settled(page)
        page.get_by_label("Fasteners counted: Undo the panel").fill("2")
        page.get_by_role("button", name="Done: Undo the panel").tap()
        page.get_by_role("button", name="Yes, it was out").tap()
        back = page.locator('section[aria-label="Way out"] .way')
        expect(back.first).to_contain_text("Reverse: undo the panel")
        expect(back.first).to_contain_text("plug CN2 in")
        settled(page)
        page.get_by_label("Fasteners put back: Undo the panel").fill("1")
        page.get_by_role("button", name="Put back: Undo the panel").tap()
        expect(page.get_by_text("1 left over")).to_be_visible()
        settled(page)
        page.get_by_role("button", name="Put back: Slide both drawers out").tap()
        expect(page.get_by_text("Nothing is open and every plug is in")).to_be_visible()


class Loads(BrowserCase):
    def test_a_heater_and_the_plug_from_the_front_page(self):
        page = self.open()
        page.get_by_role("link", name=re.compile("^Heater")).click()
        settled(page)
        page.get_by_label("Meter shows").fill("240")
        page.get_by_label("Rated").fill("220W")
        page.get_by_label("Mains here").fill("230V")
        page.get_by_role("button", name="Check the heater").click()
        expect(page.locator(".verdict-word")).to_have_text("in band")
        expect(page.locator(".verdict")).to_contain_text("220 W")
        page.goto("/check/plug/?sheet=tarnbeck-tb-34&mode=defrost&watts=5W")
        expect(page.locator(".consequence")).to_contain_text("defrost heater")
