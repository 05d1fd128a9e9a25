"""A unit nobody has described, at the phone's width: from its kind to a named suspect, what is learned of it
kept for the next one."""

from playwright.sync_api import expect

from frostcore.diagnosis.readings import readings_of
from frostcore.tests.archetypes import kind
from frostcore.tests.walking import answerer
from tests.browser.harness import PHONE, settled
from tests.browser.test_jobs import MOST, Job

LOOKS = (("vent_air", "none"), ("frost", "inlet"))


class NoSheet(Job):
    """Job 8: a side-by-side, its label worn. Fridge warm, freezer well, no code; no air at the vent."""

    viewport = PHONE

    def tearDown(self):
        self.assertEqual(self.page.evaluate("document.documentElement.scrollWidth"), 390)
        super().tearDown()

    def begin_kind(self, fault):
        self.sheet = kind("kind-side-by-side")
        readings_of(self.sheet).prepare()
        self.unit = answerer(self.sheet, fault)
        self.taps = self.keys = 0
        self.page = page = self.open(self.viewport)
        page.get_by_role("link", name="New call").click()
        page.get_by_role("link", name="start from its kind").click()
        page.get_by_text("Side by side, one coil").click()
        page.get_by_label("Rating plate, as printed").fill("Norwick 230V 50Hz")
        expect(page.locator(".understood-ok")).to_have_text("Norwick; 230 V, 50 Hz")
        page.get_by_label("Complaint, in the customer’s words").fill("Fridge warm, freezer fine, no code")
        page.get_by_role("button", name="Open the call").click()
        expect(page.locator(".now-act")).to_be_visible()
        settled(page)
        self.base = f"/calls/{page.url.split('/calls/')[1].split('/')[0]}/"
        self.tap(page.locator('.branch[value="live"]'))
        self.worked_out()

    def test_8_from_no_sheet_to_a_named_suspect(self):
        for fault, name in (("fridge_fan:seized", "Fridge fan"), ("damper:stuck", "Air damper")):
            with self.subTest(fault):
                self.begin_kind(fault)
                self.temperature("fridge", 12)
                self.temperature("freezer", -19)
                for look, answer in LOOKS:
                    self.look(look, answer)
                self.assertLess(self.walk(), MOST)
                self.assertEqual(self.first()[0], name)
                self.assertGreater(self.first()[1], 95)
                self.assertIn("Decide", self.next())
                expect(self.page.locator("#suspects")).to_contain_text("usual for its kind")

    def test_what_is_learned_of_pins_is_kept_for_the_next_one(self):
        self.begin_kind("fridge_fan:seized")
        page = self.page
        self.go("trace/?function=fridge_fan&mode=normal")
        expect(page.locator("#leads")).to_contain_text("Fridge fan’s supply at the board")
        page.get_by_text("Which pins? Which colours?").click()
        page.get_by_label("Printed at the red lead").fill("CN7-1")
        page.locator("[name=red_colour]").select_option("red")
        page.get_by_label("Printed at the black lead").fill("CN7-3")
        self.tap(page.get_by_role("button", name="So it is printed"))
        expect(page.locator("#leads")).to_contain_text("CN7-1")
        self.go("call/")
        page.get_by_role("button", name="Keep what was learned").click()
        expect(page.locator("[data-grid]")).to_be_visible()
        page.get_by_role("link", name="Connectors").click()
        pins = page.locator('[data-grid] input[data-column="pin"]')
        expect(pins.first).to_have_value("CN7-1")
        expect(page.locator('[data-grid] input[data-column="is"]').first).to_have_value("fridge fan’s supply")
