"""Codes as they are seen, sensors at several points, quick checks: by touch and by keyboard."""

import re
import time

from playwright.sync_api import Page, expect

from tests.browser.harness import PHONE, TABLET, BrowserCase, curve_of, settled


def call_of(page: Page, customer: str, stage: str) -> str:
    """Open a demo call's stage; returns the call's address."""
    page.get_by_text(customer).first.click()
    page.wait_for_url("**/calls/*/*/")
    address = "/calls/" + page.url.split("/calls/")[1].split("/")[0]
    page.goto(f"{address}/{stage}/")
    settled(page)
    return address


class ThePad(BrowserCase):
    E5 = ("a", "d", "e", "f", "g"), ("a", "c", "d", "f", "g")

    def segment(self, page, digit, letter, frame=0):
        return (
            page.locator(".pad-frame")
            .nth(frame)
            .locator(f'.pad-segment[data-digit="{digit}"][data-letter="{letter}"]')
        )

    def test_tapped_by_thumb_it_finds_the_code_and_puts_it_on_the_tape(self):
        page = self.open(PHONE, has_touch=True)
        call_of(page, "Mrs Aud Fennel", "decode")
        for digit, letters in enumerate(self.E5, 1):
            for letter in letters:
                self.segment(page, digit, letter).tap()
        first = page.locator("#candidates .candidate").first
        expect(first).to_contain_text("Defrost does not warm up")
        expect(first).to_contain_text("exactly this")
        first.tap()
        expect(page.locator(".slip").first).to_contain_text("E5")

    def test_by_keyboard_with_a_dead_segment_the_display_is_a_suspect(self):
        page = self.open()
        call_of(page, "Mrs Aud Fennel", "decode")
        for digit, letters in enumerate((self.E5[0], ("a", "c", "f", "g")), 1):
            for letter in letters:
                self.segment(page, digit, letter).focus()
                page.keyboard.press("Space")
        expect(self.segment(page, 1, "a")).to_have_attribute("aria-checked", "true")
        expect(page.locator("#candidates")).to_contain_text("segment d of digit 2 looks dead")

    def test_frames_that_alternate_belong_together(self):
        page = self.open()
        page.goto("/check/code/?sheet=ondrel-or-620")
        settled(page)
        for digit, letters in enumerate((("c", "d", "e"), ("a", "c", "d", "e", "f", "g")), 1):
            for letter in letters:
                self.segment(page, digit, letter).click()
        page.get_by_role("button", name="It alternates: another frame").click()
        for digit in (1, 2):
            self.segment(page, digit, "g", frame=1).click()
        expect(page.locator("#candidates .candidate").first).to_contain_text("Freezer defrost not finished")
        expect(page.locator("#candidates .candidate").first).to_contain_text("exactly this")

    def test_the_rule_behind_a_code_says_what_raises_it_and_what_cannot(self):
        page = self.open()
        call_of(page, "Mrs Aud Fennel", "decode")
        expect(page.locator("table.rule").first).to_contain_text("does not rise above 8 °C")
        expect(page.get_by_text("What can’t: fridge sensor, freezer sensor.").first).to_be_visible()
        page.get_by_text("List the stored codes: service mode").first.click()
        expect(page.get_by_text("Hold ▲ and ▼ together").first).to_be_visible()


class TappingAlong(BrowserCase):
    def tap(self, page, pattern, down, up):
        for _ in range(3):
            for letter in pattern:
                down()
                time.sleep(0.7 if letter == "l" else 0.2)
                up()
                time.sleep(0.25)
            time.sleep(0.9)

    def test_by_thumb_short_blinks_are_counted_and_replayed(self):
        page = self.open(PHONE)
        call_of(page, "Noss Cottage", "decode")
        box = page.locator("[data-tap]").bounding_box()
        page.locator("[data-tap]").scroll_into_view_if_needed()
        box = page.locator("[data-tap]").bounding_box()
        page.mouse.move(box["x"] + box["width"] / 2, box["y"] + box["height"] / 2)
        self.tap(page, "sss", page.mouse.down, page.mouse.up)
        expect(page.locator(".rhythm")).to_contain_text("3 blinks")
        expect(page.locator(".replay-lamp.on")).to_have_count(1)
        expect(page.locator("#candidates .candidate").first).to_contain_text("Coil sensor fault")

    def test_by_space_bar_long_is_told_from_short(self):
        page = self.open(TABLET)
        call_of(page, "Noss Cottage", "decode")
        page.locator("[data-tap]").focus()
        self.tap(page, "ll", lambda: page.keyboard.down("Space"), lambda: page.keyboard.up("Space"))
        expect(page.locator(".rhythm")).to_contain_text("2 long")
        expect(page.locator("#candidates .candidate").first).to_contain_text("Low mains")
        page.get_by_role("button", name="Start over").click()
        expect(page.locator(".rhythm")).to_have_count(0)


class Sensors(BrowserCase):
    def test_the_guide_leads_from_a_timed_ice_bath_to_the_kind_of_error(self):
        page = self.open()
        call_of(page, "Mrs Aud Fennel", "probe")
        if page.get_by_role("button", name="Plug is out").is_visible():
            page.get_by_role("button", name="Plug is out").click()
            expect(page.locator(".power-state")).to_have_text("UNPLUGGED")
        expect(page.get_by_label("Guide")).to_contain_text("in an ice bath: high")
        page.get_by_label("Reading now").fill("20k")
        page.get_by_label("Reading now").press("Enter")
        expect(page.get_by_label("Readings so far")).to_have_value("0s=20k")
        expect(page.locator("#settled")).to_contain_text("Too early")
        page.get_by_label("Readings so far").fill("0s=20k 60s=23k5 120s=25k 180s=25k6 240s=25k85 300s=25k95")
        expect(page.locator("#settled")).to_contain_text("Settled: 26.0 kΩ")
        page.get_by_role("link", name="Use it as the 0 °C reading").click()
        expect(page.get_by_label("Meter shows", exact=True)).to_have_value(re.compile("26"))
        page.get_by_label("Meter shows", exact=True).fill("15k6")
        page.locator("#reading-form").get_by_label("Thermometer shows").fill("25C")
        page.get_by_role("button", name="Record the reading").click()
        expect(page.get_by_label("Kind of error")).to_contain_text("Resistance in series")
        expect(page.locator("svg.curve .cross")).to_have_count(2)

    def test_live_volts_become_ohms_and_are_questioned_when_the_plug_is_out(self):
        page = self.open()
        call_of(page, "Mrs Aud Fennel", "probe")
        page.get_by_role("link", name="Fridge sensor", exact=True).click()
        expect(page.get_by_role("heading", name="Fridge sensor", exact=True)).to_be_visible()
        page.get_by_text("Live instead: DC volts at the board").click()
        page.get_by_label("DC volts at the pin").fill("1.6V")
        page.locator("#live-temperature").fill("9C")
        page.get_by_role("button", name="Record the volts").click()
        expect(page.get_by_text("Was the plug in?")).to_be_visible()
        page.get_by_role("button", name="Yes, it was in").click()
        expect(page.locator(".power-state")).to_have_text("LIVE")
        expect(page.locator(".verdict-reading")).to_contain_text("4.71 kΩ")
        expect(page.get_by_label("What the board believes")).to_contain_text("Set to 5 °C")
        expect(page.locator(".slip").first).to_contain_text("at the board")

    def test_the_curve_is_exported_as_svg(self):
        page = self.open()
        call_of(page, "Mrs Aud Fennel", "probe")
        with page.expect_download() as download:
            page.get_by_role("link", name="as SVG").click()
        drawn = download.value.path().read_text(encoding="utf-8")
        self.assertRegex(drawn, r"^<svg\s+xmlns=")
        self.assertIn("Reading 26.0 kΩ at 0 °C: high", drawn)


class QuickChecks(BrowserCase):
    def test_each_from_the_front_page_and_its_address_keeps_the_result(self):
        page = self.open(PHONE)
        page.get_by_role("link", name="Thermostat, bimetal, fuse").click()
        page.get_by_label("Stamped", exact=True).fill("55")
        page.get_by_label("Differential").fill("30")
        page.get_by_label("Its temperature now").fill("21C")
        page.get_by_label("Meter shows").fill("OL")
        page.get_by_role("button", name="Check it").click()
        expect(page.get_by_text("A warm bimetal that reads open is not a fault")).to_be_visible()
        expect(page.get_by_text("read as °C")).to_be_visible()
        address = page.url
        page.goto("/")
        page.goto(address)
        expect(page.get_by_text("A warm bimetal that reads open is not a fault")).to_be_visible()

    def test_a_sensor_with_no_sheet_is_identified_and_filed_into_a_call(self):
        page = self.open()
        page.locator(".check-link", has_text="which curve").click()
        expect(page.get_by_role("heading", name="Sensor", exact=True)).to_be_visible()
        for name, typed in (("ohms1", "2k7"), ("celsius1", "25C"), ("ohms2", "9k0"), ("celsius2", "0C")):
            page.locator(f"[name={name}]").fill(typed)
        page.get_by_role("button", name="Check the sensor").click()
        expect(page.locator(".weights li").first).to_contain_text("Pellworth PW-27")
        page.get_by_label("Call", exact=True).select_option(index=0)
        page.get_by_role("button", name="File it").click()
        expect(page.locator(".slip").first).to_contain_text("Quick check: sensor")
        page.get_by_role("link", name="The check", exact=True).first.click()
        expect(page.locator(".weights li").first).to_contain_text("Pellworth PW-27")

    def test_a_table_pasted_from_a_spreadsheet_is_recognised_and_exported(self):
        page = self.open()
        page.goto("/check/sensor/")
        page.get_by_text("Pasted table, tolerances").click()
        rows = "celsius,ohms\n0,15330\n25,5000\n"
        page.get_by_label("or take it from a CSV file").set_input_files(
            {"name": "curve.csv", "mimeType": "text/csv", "buffer": rows.encode()}
        )
        expect(page.get_by_label("or paste a table")).to_have_value(rows)
        page.get_by_label("or paste a table").fill(
            "T (°F)\tR (kΩ)\n-4\t44.06\n14\t25.47\n32\t15.33\n50\t9.564\n77\t5.0"
        )
        page.locator("[name=ohms1]").fill("15k1")
        page.locator("[name=celsius1]").fill("32F")
        page.get_by_role("button", name="Check the sensor").click()
        expect(page.get_by_text("5 rows in °F (from the header) and kΩ (from the header)")).to_be_visible()
        expect(page.locator(".verdict-word")).to_have_text("in band")
        with page.expect_download() as download:
            page.get_by_role("link", name="As CSV").click()
        self.assertIn("0.0,15330.0", download.value.path().read_text(encoding="utf-8"))

    def test_a_worn_potentiometer_and_a_problem_said_plainly(self):
        page = self.open()
        page.goto("/check/pot/?nominal=10k&ends=9k8&stop1=12&sweep=100+2k5+1k2+7k+9k7&tolerance=20%25")
        expect(page.get_by_text("the wiper goes back")).to_be_visible()
        page.goto("/check/pot/?nominal=10k&ends=9k8&sweep=100+x+5k")
        expect(page.get_by_text("“x” can't be read as a resistance")).to_be_visible()
        expect(page.get_by_label("Wiper along the turn")).to_have_value("100 x 5k")

    def test_search_by_condition_finds_the_code(self):
        page = self.open()
        page.get_by_role("searchbox").fill("defrost sensor stays cold too long")
        page.keyboard.press("Enter")
        expect(page.locator(".row", has=page.locator(".code-figure", has_text="E5"))).to_contain_text(
            "Defrost does not warm up"
        )

    def test_no_check_has_a_serious_accessibility_finding(self):
        addresses = [
            "/search/?q=E5",
            "/check/code/?shown=E5",
            "/check/code/?taps=0-0.2,0.5-0.7,3-3.2,3.5-3.7",
            "/check/sensor/?ohms1=10k&celsius1=25&ohms2=33k&celsius2=0",
            f"/check/sensor/?curve={curve_of('Calvane CV-24')}&ohms1=10k&celsius1=25&ohms2=x&celsius2=0",
            f"/check/sensor/?curve={curve_of('Calvane CV-24')}&ohms1=10k&celsius1=25&ohms2=33k&celsius2=0",
            "/check/pot/?nominal=10k&ends=9k8&sweep=100+2k5+5k+7k+9k7",
            "/check/thermostat/?kind=bimetal&opens=13&differential=18&at=-20C&reads=0.2",
        ]
        for scheme, viewport in (("light", PHONE), ("dark", TABLET)):
            page = self.open(viewport, scheme)
            for address in addresses:
                page.goto(address)
                self.assert_accessible(page)
