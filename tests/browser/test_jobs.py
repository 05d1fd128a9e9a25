"""Jobs walked in the browser as a newcomer would: what is to be done now is done where it stands, answered as
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
from tests.browser.harness import PHONE, TABLET, BrowserCase, settled

MOST = 24


class Job(BrowserCase):
    """One job: a call on a unit, with a simulated unit beside it."""

    data_of = "many-calls"
    viewport = TABLET

    def begin(self, title, fault, complaint):
        self.sheet = next(each for each in SHEETS if title in each.title)
        readings_of(self.sheet).prepare()
        self.unit = answerer(self.sheet, fault)
        self.taps = self.keys = 0
        self.page = page = self.open(self.viewport)
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
        self.taps += 1
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
        self.tap(self.page.locator("form").filter(has=own).locator("button:not([data-types])"))

    def reading(self, value):
        """Type what the meter shows; what is asked before it is kept is answered with yes."""
        self.page.get_by_label("Meter shows", exact=True).first.fill(value)
        self.tap(self.page.get_by_role("button", name="Record the reading"))
        self.confirm()

    def read(self, red, black, meter, value, mode="off_cold", pulled=()):
        self.power("out" if meter == "ohm" else "in")
        query = f"red={red}&black={black}&meter={meter}&mode={mode}"
        self.go(f"trace/?function={self.function}&{query}&pulled={' '.join(pulled) or 'none'}")
        self.reading(value)

    function = ""

    # What is asked for, on the page that says what to do now.

    def asked(self):
        """The act that is asked for, in the vocabulary of evidence; None where it asks for none."""
        field = self.page.locator(".now input[name=act]")
        if field.count():
            return json.loads(field.input_value())
        return self.once_more() if self.next().endswith(" again") else None

    def once_more(self):
        """The reading that is to be taken again, as its form has it."""
        own = {
            name: self.page.locator(f".now input[name={name}]").first.input_value()
            for name in ("red", "black", "meter", "mode", "pulled")
        }
        return {
            "act": "read",
            "red": own["red"],
            "black": own["black"],
            "range": own["meter"],
            "mode": own["mode"],
            "pulled": own["pulled"].split(),
        }

    def step(self):
        """Do what is to be done now, as the unit answers it; False where that is to decide."""
        act, words = self.asked(), self.next()
        if words == "Type the code the display shows":
            self.type(self.shown)
        elif words.startswith(("Decide", "Close up")):
            return False
        elif act is None:
            self.assertIn("live pin to the chassis", words)
            self.type("OL")
        else:
            test = evidence_of(self.sheet, [{"act": "cannot", "of": act, "why": ""}])[0].of
            self.answer(act, self.unit.answer(test.probe if isinstance(test, Read) else test))
        return True

    def answer(self, act, told):
        """Put an answer on the tape: a figure typed, or one of the answers tapped."""
        if isinstance(told, Read):
            self.type(shown(told.value), *(["0C"] if act["act"] == "sensor" else []))
        elif isinstance(told, Shown):
            self.shown = told.code
            self.tap(self.page.locator('.branch[value="code"]'))
        elif type(told) in TYPED:
            field, unit = TYPED[type(told)]
            self.type(f"{getattr(told, field):.1f}{unit}")
        else:
            value = getattr(told, TAPPED[type(told)])
            value = {True: "yes", False: "no"}.get(value, value)
            self.tap(self.page.locator(f'.branch[value="{value}"]'))

    def type(self, *figures):
        """Type into the field that has the focus, Enter; what is asked before it is kept is answered with
        yes."""
        inputs = self.page.locator(".now-typed input[type=text]")
        expect(inputs.first).to_be_focused()
        for number, figure in enumerate(figures):
            inputs.nth(number).fill(figure)
            self.keys += len(figure) + 1  # and Tab, or Enter
        self.page.evaluate("document.querySelector('.work').dataset.before = ''")
        inputs.nth(len(figures) - 1).press("Enter")
        expect(self.page.locator(".work:not([data-before])")).to_be_attached()
        self.confirm()

    def confirm(self):
        for _ in range(4):
            asked = self.page.locator(".ask-buttons .button")
            if not asked.count():
                return
            power = self.page.locator(".ask-buttons .button.primary[name=set_power]")
            self.tap((power if power.count() else asked.last).first)

    def walk(self):
        """Whatever is asked for, to the end; how many acts it took."""
        self.go("now/")
        for count in range(MOST):
            if not self.step():
                return count
        return MOST

    def first(self):
        """The leading suspect and its percentage."""
        name = self.page.locator(".suspect-name").first.inner_text()
        return name, int(re.search(r"\d+", self.page.locator(".suspect-percent").first.inner_text())[0])

    def next(self):
        return self.page.locator(".now-act").inner_text()


def shown(value):
    """A reading as it is typed off a meter."""
    return "OL" if value.state is not State.VALUE else value.canonical


TYPED = {Measured: ("celsius", "C"), AtPlug: ("watts", "W"), Turned: ("hertz", "Hz")}
TAPPED = {Looked: "answer", Said: "complaint", Sensed: "what", Changed: "changes"}


class Jobs(Job):
    """By thumb, on a phone."""

    viewport = PHONE

    def tearDown(self):
        self.assertEqual(self.page.evaluate("document.documentElement.scrollWidth"), 390)
        super().tearDown()

    def test_1_the_loop_is_good(self):
        self.begin("TB-34", "board:stuck_open:k_defrost", "Shows E5, ice at the back")
        self.look("display", "code")
        self.code("E5")
        self.go("look/")
        self.look("frost", "cover_frozen")
        self.function = "defrost_heater"
        self.read("CN2.5", "CN2.6", "vac", "0.4V", "defrost")
        self.read("CN2.5", "CN2.6", "ohm", "239")
        self.assertLessEqual(self.walk(), 5)  # the reading that condemns the board once more among them
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
        self.go("now/")
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


class ByThumb(Job):
    """From the working place alone: an answer is a tap, a figure its own keys and Enter."""

    viewport = PHONE

    def test_every_act_is_a_tap_or_its_own_keys(self):
        for title, fault, name in (
            ("TB-34", "evaporator_fan:open", "Evaporator fan"),
            ("SK-48", "unit:boxed_in", "No room to breathe"),
        ):
            with self.subTest(fault):
                self.begin(title, fault, "Not cold enough")
                self.taps = self.keys = 0
                acts = self.walk()
                self.assertLess(acts, MOST)
                self.assertEqual(self.first()[0], name)
                self.assertLessEqual(self.taps, acts + 2)  # and what is asked about the plug
                self.assertLessEqual(self.keys, 9 * acts)


class ByKeyboard(Job):
    """On a tablet, without a pointer: whatever is tapped is reached by Tab and pressed with Enter."""

    def tap(self, locator):
        self.page.evaluate("document.querySelector('.work').dataset.before = ''")
        self.assertGreaterEqual(locator.evaluate("(each) => each.tabIndex"), 0)
        locator.focus()
        self.page.keyboard.press("Enter")
        expect(self.page.locator(".work:not([data-before])")).to_be_attached()

    def test_a_job_to_its_fault(self):
        self.begin("TB-34", "defrost_heater:open", "Shows E5, ice at the back")
        self.look("display", "code")
        self.code("E5")
        self.assertLess(self.walk(), MOST)
        self.assertEqual(self.first()[0], "Defrost heater")
        self.assertEqual(self.next(), "Decide on defrost heater")
