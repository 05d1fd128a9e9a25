"""Every page as anybody may have it: by any reader, in any colours, narrow, with long words, on paper."""

from playwright.sync_api import expect

from frostcore.tests.test_thermal_runs import run_of, text_of
from tests.browser.harness import LEAD_PASSWORD, PHONE, ROOT, TABLET, BrowserCase, settled

STAGES = (
    "now",
    "call",
    "look",
    "decode",
    "open",
    "probe",
    "trace",
    "close",
    "handover",
    "report",
    "report/technician",
    "plans",
    "quote",
    "customer",
)
PAGES = (
    "/",
    "/calls/",
    "/calls/new/",
    "/search/?q=E5",
    "/sheets/",
    "/sheets/tarnbeck-tb-34/",
    "/sheets/calvane-cv-24/mat/?board=lower_board",
    "/sheets/tarnbeck-tb-34/compare/?from=1&to=1",
    "/sheets/drafts/",
    "/calls/new/kind/",
    "/calls/bundle/",
    "/calls/calendar/",
    "/check/sensor/",
    "/check/heater/",
    "/check/code/",
    "/check/plug/",
    "/check/thermostat/",
    "/check/windings/",
    "/check/capacitor/?farads=100u&volts=35V&esr=2",
    "/check/substitute/?kind=electrolytic&farads=470u&volts=25V&esr_ohms=0.055",
    "/check/bus/?mains=230V&watts=3W&farads=22u&reads=320V&ripple=1.9V",
    "/check/relay/?volts=12V&ohms=360&coil=365&pull=8.6V",
    "/bench/",
    "/bench/ladder/?kind=flyback&mains=229+V&esr=on&at=said%3Ddead&at=ohm%3Al-lf%3DOL&at=ohm%3Alf-n%3D2.1",
    "/check/calibration/?target=-24&turns_0=0&seen_0=-19+-19.8+-20+-20.1&turns_1=0.5&seen_1=-21+-22+-22.2+-22.1",
    "/check/twin/?readings=point,meter,here,there%0Afan,diode,0.02,0.55%0Arail,esr,1.9,0.07",
)
RUN = text_of(run_of(days=1), step=300.0, first=0, last=3 * 3600)
KIND = "two doors, one coil behind the freezer, damper to the fridge"
SECTIONS = ("plate", "codes", "sensors", "plugs", "modes", "settings", "parts", "places")
LEAD_PAGES = (
    "/people/",
    "/people/new/",
    "/sheets/publish/",
    "/calls/rates/",
    "/calls/head/",
    "/calls/stock/",
    "/calls/stock/small/",
    "/calls/experience/",
)

SMALL = """() => [...document.querySelectorAll("a[href], button, input, select, textarea, summary")]
    .filter((each) => each.type !== "hidden")
    .filter((each) => each.checkVisibility({ visibilityProperty: true }) && !each.matches(".sr-only, .skip"))
    .map((each) => {
      const box = (/^(checkbox|radio)$/.test(each.type) && each.closest("label")) || each;
      const { width, height } = box.getBoundingClientRect();
      return { width, height, what: each.outerHTML.slice(0, 90) };
    })
    .filter(({ width, height }) => width > 0 && Math.min(width, height) < 43.5)
    .map(({ width, height, what }) => `${width.toFixed(0)} × ${height.toFixed(0)}: ${what}`)"""

SHIFTED = """() => new Promise((done) => {
  let shifted = 0;
  new PerformanceObserver((list) => {
    for (const entry of list.getEntries()) if (!entry.hadRecentInput) shifted += entry.value;
  }).observe({ type: "layout-shift", buffered: true });
  setTimeout(() => done(shifted), 60);
})"""
"""How far what is on the page has moved while it came."""

WIDER = "document.documentElement.scrollWidth - document.documentElement.clientWidth"

LONG = "Donaudampfschifffahrtselektrizitätenhauptbetriebswerkbauunterbeamtengesellschaft"
RIGHT_TO_LEFT = "مؤسسة الشمال للتبريد"


class PagesCase(BrowserCase):
    data_of = "pages"

    def call_of(self, page, customer="Ferry Keepers"):
        page.goto("/")
        page.get_by_text(customer).first.click()
        page.wait_for_url("**/now/")
        settled(page)
        return page.url.removesuffix("now/")

    def all_of(self, page, lead=False):
        base = self.call_of(page)
        begun = self.draft_of(page)
        drafts = [f"{begun}?section={name}" for name in SECTIONS]
        stages = (*STAGES, "sheet")
        paper = self.paper_of(page, begun)
        shown = (*(LEAD_PAGES if lead else ()), *drafts, *paper)
        way = f"{self.way_round(page, base)}?part=board"
        runs = self.runs_of(page, base)
        return [*PAGES, *shown, way, *runs, *(f"{base}{stage}/" for stage in stages)]

    def runs_of(self, page, base):
        """A call's runs, a logger's file as understood, a run that counts."""
        address = f"/runs/call/{base.rstrip('/').rpartition('/')[2]}/"
        page.goto(address)
        page.get_by_label("Or its rows, pasted").fill(RUN)
        page.get_by_role("button", name="Show what it says").click()
        expect(page.get_by_text("rows over 3.0 hours")).to_be_visible()
        columns = page.url
        page.get_by_role("button", name="So it counts").click()
        expect(page.locator(".run-picture")).to_be_visible()
        run = page.url
        page.goto(f"{address}live/")
        page.get_by_label("Watts at the plug").check()
        page.get_by_role("button", name="Begin").click()
        page.get_by_role("link", name="To the run").click()
        expect(page.get_by_text("No rows yet")).to_be_visible()
        live = page.url
        page.goto(address)
        if page.get_by_role("button", name="Ask for it").count():
            page.get_by_role("button", name="Ask for it").click()
        return [address, columns, run, f"{address}live/", live, page.get_by_label("Its page").input_value()]

    def way_round(self, page, base):
        """The page of one way round a call's board."""
        page.goto(f"{base}plans/?part=board")
        href = page.locator(".round").last.get_attribute("href")
        return href.partition("?")[0]

    def paper_of(self, page, begun):
        """A page of a paper beside a draft: its tables as found, and one of them as read."""
        page.goto(f"{begun}?section=sensors")
        page.locator("#paper-pages").set_input_files(ROOT / "tests/pictures/german.jpg")
        page.get_by_role("button", name="Keep beside the rows").click()
        page.get_by_role("link", name="Read this table from it").click()
        expect(page.locator("[data-table]")).to_have_count(4, timeout=120_000)
        found = page.url
        page.locator('[data-table="2"]').click()
        expect(page.locator("[data-reading]")).to_be_visible(timeout=120_000)
        return [found, page.url]

    def draft_of(self, page):
        """A draft just begun from a kind of unit."""
        page.goto("/sheets/drafts/")
        page.locator("[name=revision]").select_option(label=KIND)
        page.get_by_role("button", name="Begin").click()
        page.wait_for_url("**/drafts/*-*/")
        return page.url.partition("?")[0]


class ForAnyone(PagesCase):
    def test_every_page_is_clean_at_every_level_has_one_heading_a_title_of_its_own_and_targets_for_a_thumb(
        self,
    ):
        for viewport, scheme in ((TABLET, "light"), (PHONE, "dark")):
            page = self.open(viewport, scheme, enter=False)
            page.get_by_label("Name to sign in with").or_(page.get_by_label("Username")).fill("lead")
            page.get_by_label("Password").fill(LEAD_PASSWORD)
            page.get_by_role("button", name="Sign in").click()
            expect(page.get_by_role("link", name="New call")).to_be_visible()
            self.assertEqual(self.findings(page), [])
            titles, wrong = {}, []
            for address in (*self.all_of(page, lead=True), "/nowhere/"):
                page.goto(address)
                settled(page)  # what is dimmed while it comes is not what is read
                found = {
                    "rules": self.findings(page),
                    "headings": page.locator("h1").count() - 1,
                    "small": page.evaluate(SMALL),
                    "wider": page.evaluate(WIDER),
                    "shifted": max(0.0, page.evaluate(SHIFTED) - 0.1),
                }
                wrong += [(address, name, each) for name, each in found.items() if each]
                titles.setdefault(page.title(), []).append(address)
            self.assertEqual(wrong, [], viewport)
            self.assertEqual([pages for pages in titles.values() if len(pages) > 1], [])
            self.asked(page)

    def asked(self, page):
        """A reading that is asked about, one that is refused, and a slip to be corrected."""
        base = self.call_of(page, "Mrs Aud Fennel")
        page.goto(f"{base}probe/")
        settled(page)
        page.get_by_label("Meter shows", exact=True).fill("15,300")
        page.locator("#reading-form").get_by_label("Thermometer shows").fill("warm")
        settled(page)  # what is understood of it stands below, and the button lower
        page.get_by_role("button", name="Record the reading").click()
        expect(page.locator(".ask")).to_be_visible()
        self.assertEqual(self.findings(page), [])
        page.locator(".slip a").first.click()
        expect(page.get_by_text("Correct this slip")).to_be_visible()
        self.assertEqual(self.findings(page), [])

    def test_narrow_with_text_twice_as_large_and_long_and_right_to_left_names(self):
        page = self.open({"width": 390, "height": 844})
        page.goto("/calls/new/")
        page.get_by_label("Unit", exact=True).select_option(index=2)
        page.get_by_label("Customer", exact=True).fill(f"{RIGHT_TO_LEFT} {LONG}")
        page.get_by_label("Complaint, in the customer’s words").fill(f"{LONG} {LONG}")
        page.get_by_role("button", name="Open the call").click()
        expect(page.get_by_role("button", name="The plate says so")).to_be_visible()
        base = page.url.removesuffix("call/")
        pages = ("/", *(f"{base}{stage}/" for stage in STAGES), *self.all_of(page))
        wrong = []
        for address in pages:
            page.goto(address)
            for width, size in ((320, 17), (390, 17), (640, 34)):
                page.set_viewport_size({"width": width, "height": 800})
                page.evaluate(f"document.documentElement.style.fontSize = '{size}px'")
                if wider := page.evaluate(WIDER):
                    wrong.append((address, width, wider))
        self.assertEqual(wrong, [])

    def test_in_forced_colours_the_state_is_still_told(self):
        page = self.open(forced_colors="active")
        base = self.call_of(page)
        for stage in ("now", "look", "trace"):
            page.goto(f"{base}{stage}/")
            settled(page)
            ink = page.evaluate("getComputedStyle(document.querySelector('.power-state')).color")
            paper = page.evaluate("getComputedStyle(document.querySelector('.power')).backgroundColor")
            self.assertNotEqual(ink, paper)
        marks = page.evaluate(
            "[...document.querySelectorAll('svg.mark path, svg.mark-small path, .rung-bar')].map((each) =>"
            " { const s = getComputedStyle(each); return s.stroke !== 'none' ? s.stroke : s.fill })"
        )
        self.assertTrue(marks)
        page.emulate_media(forced_colors="none")
        page.emulate_media(reduced_motion="reduce")
        self.assertEqual(
            page.evaluate("document.getAnimations().filter((each) => each.playState === 'running').length"), 0
        )


class OnPaper(PagesCase):
    def test_way_in_trace_sheet_and_report_are_ink_on_white_without_controls(self):
        page = self.open(scheme="dark")
        base = self.call_of(page)
        for address, kept in (
            (f"{base}open/?place=evaporator", "Take out three drawers"),
            (f"{base}trace/", "Defrost heater"),
            ("/sheets/tarnbeck-tb-34/", "Tarnbeck TB-34"),
            (f"{base}report/", "Ferry Keepers"),
        ):
            with self.subTest(address=address):
                page.emulate_media(media="screen")
                page.goto(address)
                settled(page)
                page.emulate_media(media="print", color_scheme="dark")
                self.assertEqual(
                    page.evaluate("getComputedStyle(document.documentElement).backgroundColor"),
                    "rgb(255, 255, 255)",
                )
                controls = page.evaluate(
                    "[...document.querySelectorAll('button, input, select, textarea, nav, summary')]"
                    ".filter((each) => each.checkVisibility()).map((each) => each.outerHTML.slice(0, 80))"
                )
                self.assertEqual(controls, [])
                self.assertIn(kept, page.locator("main").inner_text())
                self.assertLessEqual(page.evaluate(WIDER), 0)
