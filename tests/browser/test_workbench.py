"""The workbench for sheets: typed with spreadsheet manners, pasted, by two people, without a connection."""

import json
import re

from playwright.sync_api import expect

from frostcore.sheet.load import load
from tests.browser import papers
from tests.browser.hands import NO_CONNECTION
from tests.browser.harness import PHONE, ROOT, TABLET, BrowserCase, settled


class Workbench(BrowserCase):
    data_of = "workbench"

    def tearDown(self):
        self.troubles = [line for line in self.troubles if not NO_CONNECTION.search(line)]
        super().tearDown()

    def begin(self, viewport=TABLET):
        self.page = page = self.open(viewport)
        self.base = papers.begun(page)
        return page

    def section(self, name):
        self.page.goto(f"{self.base}?section={name}")
        expect(self.page.locator("[data-grid]")).to_be_visible()
        settled(self.page)

    def cell(self, row, column):
        return self.page.locator("[data-grid] tbody tr").nth(row).locator(f'input[data-column="{column}"]')

    def texts(self, column):
        cells = self.page.locator(f'[data-grid] tbody input[data-column="{column}"]')
        return [cells.nth(place).input_value() for place in range(cells.count())]

    def document(self):
        told = self.page.request.get(f"{self.base}draft.json")
        return told.text()


class Papers(Workbench):
    def test_two_papers_become_sheets_by_keyboard_alone_within_ten_minutes(self):
        page = self.open()
        told = papers.counted(page)
        self.assertEqual(told, papers.TOLD.read_text(encoding="utf-8"))
        for minutes in re.findall(r"\| all \| \| \d+ \| ([\d.]+) \|", told):
            self.assertLess(float(minutes), 10)

    def test_rows_asked_for_before_a_table_was_put_in_do_not_load_the_page_anew(self):
        page = self.begin()
        self.section("sensors")
        late = []
        page.route("**/rows/**", lambda route: late.append(route))  # noqa: PLW0108 - playwright marks it
        papers.Keyboard(page).paste(papers.ENGLISH["sensors"])
        expect(page.locator('#pasted button[name="take"]')).to_be_focused()
        page.wait_for_timeout(2_500)
        self.assertTrue(late)
        page.evaluate("window.same = true")
        page.keyboard.press("Enter")
        expect(page.locator(".flash")).to_be_visible()
        for route in late:
            route.continue_()
        page.wait_for_timeout(1_500)
        self.assertTrue(page.evaluate("window.same"))
        expect(page.locator(".flash")).to_be_visible()

    def test_what_was_typed_is_the_sheet_of_the_paper(self):
        page = self.open()
        list(papers.german(page))
        self.page, self.base = page, page.url.partition("?")[0]
        sheet = load(self.document()).sheet
        self.assertEqual(sheet.title, "Halden KG 77/2")
        self.assertEqual([code.id for code in sheet.codes], ["F1", "F2", "F3", "F4"])
        self.assertAlmostEqual(sheet.curve(sheet.sensor("freezer")).ohms(25.0), 5000, delta=1)
        ends = {run.points[0]: (run.points[-1], run.colours[0]) for run in sheet.harness}
        self.assertEqual(ends["X2.5"], ("bimetal.1", "violet"))
        self.assertEqual(ends["X3.3"], ("freezer_sensor.1", "green"))
        expect(page.locator("#side")).to_contain_text("3 of 3")
        expect(page.locator("#side .trace")).to_be_visible()


class Pictures(Workbench):
    def test_a_scanned_paper_becomes_the_same_sheet_as_the_pasted_one(self):
        page = self.page = self.open()
        list(papers.english(page))
        self.base = page.url.partition("?")[0]
        pasted = load(self.document()).sheet
        self.base = address = papers.begun(page)
        keys = papers.Keyboard(page)
        papers.plate(page, keys, papers.ENGLISH)
        keys.count()
        papers.pictured(page, keys, address, "english.jpg")
        self.assertLess(keys.count(), 40)
        read = load(self.document()).sheet
        self.assertEqual(read.codes, pasted.codes)
        self.assertEqual(read.curves, pasted.curves)
        self.assertEqual(read.harness, pasted.harness)
        self.assertEqual(read.components, pasted.components)

    def test_the_paper_stays_beside_the_rows_where_it_was_left(self):
        page = self.begin()
        self.section("plugs")
        page.locator("#paper-pages").set_input_files(
            [ROOT / "tests/pictures/english.jpg", ROOT / "tests/pictures/german.jpg"]
        )
        page.get_by_role("button", name="Keep beside the rows").click()
        view = page.locator(".paper-view:visible")
        expect(view).to_be_visible()
        wide = view.locator("img").bounding_box()["width"]
        page.get_by_role("button", name="The next page").click()
        expect(page.locator("[data-paper-at]")).to_have_text("2 of 2")
        expect(view.locator("img")).to_have_attribute("alt", "german.jpg")
        for _ in range(3):
            page.get_by_role("button", name="Larger").click()
        self.assertGreater(view.locator("img").bounding_box()["width"], 1.8 * wide)
        view.evaluate("(view) => view.scrollTo(0, 120)")
        page.wait_for_function(
            """() => Object.entries(sessionStorage).some(
              ([key, kept]) => key.startsWith("frost-paper") && JSON.parse(kept).top === 120)"""
        )
        self.section("codes")
        expect(page.locator("[data-paper-at]")).to_have_text("2 of 2")
        self.assertEqual(view.evaluate("(view) => view.scrollTop"), 120)

    def test_corners_are_dragged_with_the_mouse_and_by_arrow_keys(self):
        page = self.begin()
        self.section("sensors")
        page.locator("#paper-pages").set_input_files(ROOT / "tests/pictures/german.jpg")
        page.get_by_role("button", name="Keep beside the rows").click()
        page.get_by_role("link", name="Read this table from it").click()
        expect(page.locator("[data-table]")).to_have_count(4, timeout=120_000)
        self.assert_accessible(page)
        page.get_by_text("Mark a table’s corners myself").click()
        svg = page.locator("svg[data-corners]")
        svg.scroll_into_view_if_needed()
        corners = ((104, 472), (504, 474), (499, 816), (99, 816))
        scale = svg.bounding_box()["width"] / 1800
        for number, (x, y) in enumerate(corners):
            mark = page.locator(f'[data-mark="{number}"]')
            mark.scroll_into_view_if_needed()
            box = mark.bounding_box()
            page.mouse.move(box["x"] + box["width"] / 2, box["y"] + box["height"] / 2)
            page.mouse.down()
            page.locator("h1").scroll_into_view_if_needed()
            place = svg.bounding_box()
            page.mouse.move(place["x"] + x * scale, place["y"] + y * scale, steps=4)
            page.mouse.up()
        told = page.locator("[data-dragged]").get_attribute("value")
        for (x, y), (wanted_x, wanted_y) in zip(json.loads(told), corners, strict=True):
            self.assertLess(abs(x - wanted_x) + abs(y - wanted_y), 8)
        page.locator('[data-mark="0"]').focus()
        page.keyboard.press("ArrowRight")
        moved = json.loads(page.locator("[data-dragged]").get_attribute("value"))
        self.assertAlmostEqual(moved[0][0], json.loads(told)[0][0] + 6, delta=0.2)
        page.keyboard.press("ArrowLeft")
        page.locator("[data-dragged]").click()
        expect(page.locator("[data-reading] input[name='c-2-1']")).to_have_value("88.500", timeout=120_000)
        self.assert_accessible(page)


class Manners(Workbench):
    def test_enter_goes_on_pins_count_on_and_control_z_undoes(self):
        page = self.begin()
        self.section("plugs")
        keys = page.keyboard
        for text in ("CN2", "1", "brown", "H"):
            keys.type(text)
            keys.press("Tab")
        keys.type("Defrost heater")
        keys.press("Enter")
        expect(self.cell(1, "pin")).to_have_value("2")
        expect(self.cell(1, "colour")).to_be_focused()
        expect(self.cell(0, "is")).to_have_attribute("placeholder", "defrost heater’s feed")
        keys.type("blue")
        keys.press("Tab")
        keys.press("ArrowUp")
        expect(self.cell(0, "label")).to_be_focused()
        keys.press("Control+z")
        expect(self.cell(1, "colour")).to_have_value("")
        papers.kept(page)
        page.reload()
        expect(self.cell(0, "goes_to")).to_have_value("Defrost heater")
        self.assertEqual(self.texts("pin"), ["1", "2"])

    def test_cells_pasted_without_a_head_fill_those_beside_and_below(self):
        page = self.begin()
        self.section("sensors")
        papers.Keyboard(page).paste("-20\t48600\n0\t16330\n25\t5000")
        expect(self.cell(2, "ohms")).to_have_value("5000")
        papers.kept(page)
        self.section("sensors")
        self.assertEqual(self.texts("celsius"), ["-20", "0", "25"])

    def test_a_likely_cure_is_a_button_at_the_cell(self):
        page = self.begin()
        self.section("sensors")
        papers.Keyboard(page).paste("-20\t48600\n-10\t2770\n0\t16330\n10\t9950\n25\t5000")
        cure = page.locator("[data-grid] .grid-cure")
        expect(cure).to_have_text("27700")
        cure.click()
        expect(page.locator("[data-grid] .grid-problem")).to_have_count(0)
        expect(self.cell(1, "ohms")).to_have_value("27700")

    def test_what_is_typed_without_a_connection_is_kept_and_goes_later(self):
        page = self.begin()
        page.context.set_offline(True)
        page.keyboard.type("Norwick")
        page.keyboard.press("Enter")
        expect(page.locator("[data-grid-state]")).to_contain_text("not kept yet")
        page.context.set_offline(False)
        papers.kept(page)
        page.reload()
        expect(self.cell(0, "value")).to_have_value("Norwick")

    def test_two_people_see_what_the_other_types_and_lose_nothing(self):
        page = self.begin()
        other = self.open()
        other.goto(self.base)
        theirs = other.locator("[data-grid] tbody tr").nth(1).locator("input")
        expect(theirs).to_be_visible()
        page.keyboard.type("Norwick")
        page.keyboard.press("Enter")
        expect(other.locator("[data-grid] tbody tr").nth(0).locator("input")).to_have_value("Norwick")
        # The first is in that very cell and types another: it is left alone while theirs arrives, both are
        # shown when it is left, and neither is lost.
        self.cell(1, "value").fill("NX-200")
        theirs.fill("NX-300")
        theirs.press("Enter")
        papers.kept(other)
        arrived = other.locator("[data-grid]").get_attribute("data-version")
        expect(page.locator("[data-grid]")).to_have_attribute("data-version", arrived)
        expect(self.cell(1, "value")).to_have_value("NX-200")
        self.cell(1, "value").press("Enter")
        clash = page.locator(".grid-clash")
        expect(clash).to_contain_text("NX-300")
        # What the other types elsewhere meanwhile doesn't take the question away.
        elsewhere = other.locator("[data-grid] tbody tr").nth(2).locator("input")
        elsewhere.fill("NX300")
        elsewhere.press("Enter")
        expect(self.cell(2, "value")).to_have_value("NX300")
        expect(clash).to_contain_text("NX-200")
        page.locator(".grid-clash .grid-cure").first.click()
        expect(self.cell(1, "value")).to_have_value("NX-300")
        expect(clash).to_have_count(0)

    def test_a_question_is_answered_before_rows_are_taken(self):
        page = self.begin()
        self.section("plugs")
        papers.Keyboard(page).paste("Plug\tPin\tWire\tTo\nCN2\t1\tbr\tHeater\n\t2\tgr\tFridge sensor")
        ask = page.locator("#pasted .ask button").first
        expect(ask).to_be_focused()
        page.keyboard.press("Enter")
        expect(page.locator('#pasted button[name="take"]')).to_be_focused()


class Shown(Workbench):
    def test_pages_of_the_workbench_are_accessible_wide_and_narrow(self):
        for viewport, scheme in ((TABLET, "light"), (PHONE, "dark")):
            page = self.open(viewport, scheme)
            self.page = page
            page.goto("/sheets/drafts/")
            self.assert_accessible(page)
            self.base = papers.begun(page)
            for name in ("plate", "codes", "sensors", "plugs", "modes", "stated", "parts", "places"):
                self.section(name)
                expect(page.locator("#side .abilities")).to_be_visible()
                self.assert_accessible(page)
            page.goto("/calls/new/kind/")
            settled(page)
            self.assert_accessible(page)
