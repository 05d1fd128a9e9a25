"""A run over time on a call: a logger's file, on a tablet and on a phone."""

import tempfile
import threading
from pathlib import Path

from playwright.sync_api import expect

from agent.__main__ import main as agent
from agent.standin import StandIn, figures_of
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

    def test_a_logger_on_the_network_is_read_live(self):
        """The page's own words are the agent's configuration; a stand-in answers; the run ends and counts."""
        page = self.open(TABLET)
        page.goto(f"{self.call_of(page)}close/")
        page.get_by_role("link", name="Proof over time").click()
        page.get_by_role("link", name="Read it live instead").click()
        for name in ("Fridge compartment", "Freezer compartment", "Watts at the plug"):
            page.get_by_label(name).check()
        page.get_by_label("Room, such as").fill("25 °C")
        self.assert_accessible(page)
        page.get_by_role("button", name="Begin").click()
        told = page.locator("#agent-config")
        expect(told).to_contain_text("token = ")
        self.assert_accessible(page)
        config = self.folder / "agent.toml"
        figures = figures_of((self.folder / "sound.csv").read_text(encoding="utf-8"), speed=1200.0)
        with StandIn(figures) as standin:
            thread = threading.Thread(target=standin.serve_forever, daemon=True)
            thread.start()
            text = told.inner_text().replace("TCPIP0::192.0.2.7::5025::SOCKET", standin.resource)
            # The stand-in's columns are those of the file: fridge, freezer, coil, room, watts.
            text = text.replace("(@3)", "(@5)").replace("every_seconds = 60", "every_seconds = 0.1")
            config.write_text(text, encoding="utf-8")
            page.get_by_role("link", name="To the run").click()
            expect(page.get_by_text("No rows yet")).to_be_visible()
            self.assertEqual(agent([str(config), "--rows", "40"]), 0)
            standin.shutdown()
        expect(page.get_by_text("40 rows over 0.0 hours")).to_be_visible(timeout=30_000)
        expect(page.get_by_role("img", name="Temperatures over")).to_be_visible()
        self.assert_accessible(page)
        page.get_by_text("Mark what was set on the way").click()
        page.get_by_label("What was done").select_option("door")
        page.get_by_role("button", name="Mark it").click()
        expect(page.get_by_text("Door open").first).to_be_visible()
        page.get_by_role("button", name="End it: it counts").click()
        expect(page.locator(".slips")).to_contain_text("A run logged")
        expect(page.get_by_text("Door open").first).to_be_visible()

    def test_what_was_set_is_marked_and_another_run_put_beside(self):
        page = self.open(TABLET)
        page.goto(f"{self.call_of(page)}close/")
        page.get_by_role("link", name="Proof over time").click()
        self.counted(page, "welded")
        page.get_by_role("link", name="Another run").click()
        self.counted(page, "sound")
        page.get_by_text("Mark what was set on the way").click()
        page.get_by_label("When, from its first row").fill("12 h")
        page.get_by_label("To what").fill("4")
        page.get_by_label("Of which compartment").select_option(label="Freezer compartment")
        page.get_by_role("button", name="Mark it").click()
        expect(page.locator(".run-flags")).to_contain_text("Control set: 4")
        expect(page.locator(".run-compared .run-table")).to_contain_text("From 12.0 h, control set: 4")
        page.get_by_label("Beside").select_option(label="welded.csv")
        page.get_by_role("button", name="Put it beside").click()
        expect(page.locator(".run-compared .run-table")).to_contain_text("welded.csv")
        expect(page.locator(".run-before").first).to_be_attached()
        self.assert_accessible(page)
        page.get_by_role("button", name="Take it off").click()
        expect(page.locator(".run-flags")).to_have_count(0)
