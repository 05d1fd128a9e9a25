"""A run over time on a call: a logger's file, on a tablet and on a phone."""

import tempfile
from pathlib import Path

from playwright.sync_api import expect

from frostcore.tests.test_thermal_runs import run_of, text_of
from frostcore.thermal.faults import Broken
from tests.browser.harness import PHONE, TABLET
from tests.browser.test_pages import PagesCase, settled


class Runs(PagesCase):
    data_of = "runs"

    @classmethod
    def setUpClass(cls):
        super().setUpClass()
        cls.folder = Path(cls.enterClassContext(tempfile.TemporaryDirectory()))
        for name, by in (("sound", None), ("welded", Broken(runs_on=frozenset({"compressor"})))):
            (cls.folder / f"{name}.csv").write_text(text_of(run_of(by)), encoding="utf-8")

    def counted(self, page, name):
        page.get_by_label("The logger’s file").set_input_files(self.folder / f"{name}.csv")
        page.get_by_role("button", name="Show what it says").click()
        expect(page.get_by_text("1441 rows over 24.0 hours")).to_be_visible()
        page.get_by_label("Room, such as").fill("24 °C")
        self.assert_accessible(page)
        page.get_by_role("button", name="So it counts").click()
        settled(page)

    def test_a_sound_run_is_proved_on_a_tablet(self):
        page = self.open(TABLET)
        page.goto(f"{self.call_of(page)}close/")
        page.get_by_role("link", name="Proof over time").click()
        self.counted(page, "sound")
        expect(page.get_by_text("Proved: it comes to its settings")).to_be_visible()
        expect(page.get_by_role("img", name="Temperatures over 24.0 hours")).to_be_visible()
        expect(page.locator(".slips")).to_contain_text("A run logged")
        self.assert_accessible(page)

    def test_one_that_never_stops_is_not_on_a_phone(self):
        page = self.open(PHONE, "dark")
        page.goto(f"{self.call_of(page)}close/")
        page.get_by_role("link", name="Proof over time").click()
        self.counted(page, "welded")
        expect(page.get_by_text("it never cuts out")).to_be_visible()
        self.assert_accessible(page)
