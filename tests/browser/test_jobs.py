"""Jobs walked in the browser as a newcomer would: what “Next” asks for is done where it leads to, answered as
a unit with that fault answers, until the fault is named or nothing is left to ask."""

import json
import re

from playwright.sync_api import expect

from frostcore.diagnosis.evidence import (
    AtPlug,
    Changed,
    Looked,
    Measured,
    Read,
    Said,
    Sensed,
    Shown,
    Turned,
    evidence_of,
)
from frostcore.diagnosis.readings import readings_of
from frostcore.quantity import State
from frostcore.tests.demo_sheets import SHEETS
from frostcore.tests.walking import answerer
from tests.browser.harness import TABLET, BrowserCase
from tests.browser.test_slice import settled

MOST = 24


class Job(BrowserCase):
    """One job: a call on a unit, with a simulated unit beside it."""

    def begin(self, title, fault, complaint):
        self.sheet = next(each for each in SHEETS if title in each.title)
        readings_of(self.sheet).prepare()
        self.unit = answerer(self.sheet, fault)
        self.page = page = self.open(TABLET)
        page.get_by_role("link", name="New call").click()
        expect(page.get_by_label("Unit", exact=True)).to_be_visible()
        unit = page.get_by_label("Unit", exact=True)
        label = next(text for text in unit.locator("option").all_inner_texts() if title in text)
        unit.select_option(label=label)
        page.get_by_label("Customer", exact=True).fill("Ms Ottilie Brandreth")
        page.get_by_label("Complaint, in the customer’s words").fill(complaint)
        page.get_by_role("button", name="Open the call").click()
        page.get_by_role("button", name="The plate says so").click()
        expect(page.get_by_text("Agrees with the sheet.")).to_be_visible()
        settled(page)
        self.base = f"/calls/{page.url.split('/calls/')[1].split('/')[0]}/"
        self.power("in")
        self.worked_out()

    def worked_out(self):
        """Wait until the unit’s suspects are there, with good parts’ tolerances."""
        for _ in range(60):
            self.go("look/")
            text = self.page.locator(".work").inner_text()
            if "being worked out" not in text:
                return
            self.page.wait_for_timeout(500)
        self.fail(text)

    def tap(self, locator):
        """Tap something that posts or leads on, and wait for the page that comes of it."""
        self.page.evaluate("document.querySelector('.work').dataset.before = ''")
        locator.click()
        expect(self.page.locator(".work:not([data-before])")).to_be_attached()

    def power(self, side):
        button = self.page.get_by_role("button", name=f"Plug is {side}")
        if button.count():
            self.tap(button)
            expect(self.page.locator(".power-state")).to_have_text("LIVE" if side == "in" else "UNPLUGGED")

    def go(self, stage):
        self.page.goto(f"{self.base}{stage}")

    # What is put on the tape, by its own form.

    def look(self, look, answer):
        own = self.page.locator(f'input[name=look][value="{look}"]')
        row = self.page.locator("form.look").filter(has=own)
        self.tap(row.locator(f'button[value="{answer}"]'))

    def code(self, shown):
        self.go("decode/")
        self.page.get_by_label("Typed, as it stands there").fill(shown)
        self.tap(self.page.get_by_role("button", name="Seen", exact=True))

    def temperature(self, place, celsius):
        self.page.locator(f"#temperature-{place}").fill(f"{celsius:.1f}C")
        own = self.page.locator(f'input[name=place][value="{place}"]')
        self.tap(self.page.locator("form").filter(has=own).locator("button"))

    def complaint(self, answer):
        self.tap(self.page.locator(f'button[name=complaint][value="{answer}"]'))

    def watts(self, mode, watts):
        form = self.page.locator("form").filter(has=self.page.locator("input[value=watts_taken]"))
        form.locator("select").select_option(mode)
        form.get_by_label("Plug meter shows").fill(f"{watts:.0f}W")
        self.tap(self.page.get_by_role("button", name="Record the watts"))

    def reading(self, value):
        """Type what the meter shows; what is asked before it is kept is answered with yes."""
        self.page.get_by_label("Meter shows", exact=True).first.fill(value)
        self.tap(self.page.get_by_role("button", name="Record the reading"))
        for _ in range(4):
            asked = self.page.locator(".ask-buttons .button")
            if not asked.count():
                return
            power = self.page.locator(".ask-buttons .button.primary[name=set_power]")
            self.tap((power if power.count() else asked.last).first)

    def read(self, red, black, meter, value, mode="off_cold", pulled=()):
        self.power("out" if meter == "ohm" else "in")
        query = f"red={red}&black={black}&meter={meter}&mode={mode}"
        self.go(f"trace/?function={self.function}&{query}&pulled={' '.join(pulled) or 'none'}")
        self.reading(value)

    function = ""

    # What is asked for.

    def asked(self):
        """The act that “Next” asks for, in the vocabulary of evidence; None where it asks for none."""
        field = self.page.locator(".nextstep input[name=act]")
        return json.loads(field.input_value()) if field.count() else None

    def step(self):
        """Do what “Next” says, as the unit answers it; False where it has come to its end."""
        page, act = self.page, self.asked()
        words = page.locator(".nextstep-act").inner_text()
        if words == "Type the code the display shows":
            self.code(self.shown)
            return True
        if words.startswith(("Decide", "Close up")):
            return False
        if act is None:
            return self.step_by_link()
        test = evidence_of(self.sheet, [{"act": "cannot", "of": act, "why": ""}])[0].of
        if isinstance(test, Read):
            test = test.probe
        told = self.unit.answer(test)
        if isinstance(told, Read | Changed | Turned):
            live = act.get("range") in {"vac", "vdc", "vac_loz", "hz"}
            self.power("in" if live else "out")
        there = page.locator(".nextstep a.button", has_text="Go there")
        if there.count():
            self.tap(there)
        self.record(act, told)
        return True

    def record(self, act, told):
        """Put an answer on the tape, by the form that is there for it."""
        page = self.page
        if isinstance(told, Looked):
            self.look(told.look, told.answer)
        elif isinstance(told, Shown):
            self.shown = told.code
            self.look("display", "code")
        elif isinstance(told, Said):
            self.complaint(told.complaint)
        elif isinstance(told, Sensed):
            page.locator("select[id=felt-component]").select_option(told.component)
            page.locator("select[id=felt-what]").select_option(told.what)
            self.tap(page.get_by_role("button", name="Record what was heard or felt"))
        elif isinstance(told, Measured):
            self.temperature(told.place, told.celsius)
        elif isinstance(told, AtPlug):
            self.watts(told.mode, told.watts)
        elif isinstance(told, Changed):
            self.tap(page.get_by_role("button", name="it changes" if told.changes else "it stays"))
        elif isinstance(told, Turned):
            page.locator("form[aria-label^=Hertz] input[type=text]").fill(f"{told.hertz:.1f}Hz")
            self.tap(page.get_by_role("button", name="Record the hertz"))
        else:
            if act["act"] == "sensor":
                page.get_by_label("Thermometer shows", exact=True).first.fill("0C")
            self.reading(shown(told.value))

    def step_by_link(self):
        """What must come before any searching is given by its two points only."""
        words = self.page.locator(".nextstep-act").inner_text()
        points = re.search(r"live pin to the chassis", words)
        self.assertTrue(points, words)
        there = self.page.locator(".nextstep a.button", has_text="Go there")
        if there.count():
            self.tap(there)
        self.reading("OL")
        return True

    def walk(self):
        """Whatever is asked for, to the end; how many acts it took."""
        for count in range(MOST):
            if not self.step():
                return count
        return MOST

    def first(self):
        """The leading suspect and its percentage."""
        name = self.page.locator(".suspect-name").first.inner_text()
        return name, int(re.search(r"\d+", self.page.locator(".suspect-percent").first.inner_text())[0])

    def next(self):
        return self.page.locator(".nextstep-act").inner_text()


def shown(value):
    """A reading as it is typed off a meter."""
    return "OL" if value.state is not State.VALUE else value.canonical


class Jobs(Job):
    def test_1_the_loop_is_good(self):
        self.begin("TB-34", "board:stuck_open:k_defrost", "Shows E5, ice at the back")
        self.look("display", "code")
        self.code("E5")
        self.go("look/")
        self.look("frost", "cover_frozen")
        self.function = "defrost_heater"
        self.read("CN2.5", "CN2.6", "vac", "0.4V", "defrost")
        self.read("CN2.5", "CN2.6", "ohm", "239")
        self.assertLessEqual(self.walk(), 4)
        self.assertEqual(self.next(), "Decide on control board")
        self.assertEqual(self.first()[0], "Control board")

    def test_3_the_fan_that_took_its_output_along(self):
        self.begin("TB-34", "board:burnt_with_load:q_fan", "Warm above, no wind to be heard")
        self.look("evaporator_fan", "still")
        self.assertLess(self.walk(), MOST)
        self.assertEqual(self.first()[0], "Control board and evaporator fan")

    def test_4_nothing_wrong_with_the_circuit(self):
        self.begin("SK-48", "unit:boxed_in", "Never stops, not cold enough")
        self.temperature("cabinet", 17)
        self.look("display", "normal")
        self.look("compressor", "runs_hot")
        self.look("frame_loop", "hot")
        self.walk()
        self.assertEqual(self.first()[0], "No room to breathe")

    def test_2_what_is_moved_and_changes(self):
        self.begin("PW-27", "harness:joint_intermittent:CN3.6", "Nothing cools; it ran this morning")
        self.look("compressor", "still_cold")
        self.look("display", "normal")
        self.look("evaporator_fan", "runs")
        self.function = "inverter.command"
        self.read("CN3.6", "CN3.7", "vdc", "0V", "normal")
        board = self.first()
        self.assertEqual(board[0], "Main board")
        self.tap(self.page.get_by_role("button", name="it changes"))
        self.assertLess(self.first()[1], board[1])
        self.walk()
        self.assertRegex(self.first()[0], r"Plug CN(3|21), a contact in it|Wire, CN")

    def test_5_the_second_visit(self):
        self.begin("OR-620", "inverter:open", "A code, and nothing cools")
        self.look("display", "code")
        self.code("o7")
        self.function = "inverter.command"
        self.read("CN20.1", "CN20.2", "vac", "120V", "normal")
        self.read("CN21.1", "CN21.2", "vdc", "0V", "normal")
        self.assertEqual(self.first()[0], "Main board")
        self.go("close/")
        self.page.locator("#part_fitted-component").select_option(label="Main board")
        self.tap(self.page.get_by_role("button", name="Put it on the tape").first)
        self.power("out")
        self.assertIn("live pin to the chassis", self.next())
        self.step()
        self.read("CN21.1", "CN21.2", "vdc", "3.8V", "normal")
        self.go("look/")
        self.look("compressor", "still_cold")
        for pair in (("CN22.1", "CN22.2"), ("CN22.2", "CN22.3"), ("CN22.1", "CN22.3")):
            self.read(*pair, "ohm", "8.6", pulled=("CN22",))
        self.walk()
        self.assertEqual(self.first()[0], "Inverter board")

    def test_6_replaced_and_replaced_again(self):
        self.begin("FK-18", "thermostat:misplaced", "Drawers frozen solid, never stops")
        self.temperature("freezer", -31)
        self.look("compressor", "runs_hot")
        self.walk()
        self.assertIn("bulb", self.first()[0])
        self.assertIn("Decide", self.next())

    def test_7_half_a_wine_cooler(self):
        self.begin("CV-24", "lower_board:dry_capacitor:lower_5v", "Lower half warm, display flickers")
        self.temperature("lower_zone", 21)
        self.temperature("upper_zone", 12)
        self.look("display", "flickers")
        self.walk()
        self.assertEqual(self.first()[0], "Lower zone board")
