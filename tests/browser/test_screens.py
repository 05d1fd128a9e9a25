"""What is half typed stays; two screens on one call; the word about the plug; keys that record nothing."""

from playwright.sync_api import expect

from tests.browser.hands import LOOKS, HandsCase
from tests.browser.harness import settled

BUSY = 6000
"""A page asks every second and a half; a machine that does much else is given more, in milliseconds."""

TRACE = "trace/?function=defrost_heater&red=CN2.5&black=CN2.6&meter=ohm&mode={}"


class HalfTyped(HandsCase):
    def test_what_is_half_typed_outlives_another_act_another_mode_and_a_reload(self):
        self.begin()
        self.page.goto(self.base + TRACE.format("off_cold"))
        settled(self.page)
        shows = self.page.get_by_label("Meter shows", exact=True)
        shows.fill("23")
        self.page.get_by_role("button", name="it stays").click()
        expect(self.page.locator("#tape")).to_contain_text("moved")
        expect(shows).to_have_value("23")
        self.page.get_by_label("Shown in mode").select_option("defrost")
        self.page.wait_for_url("**mode=defrost**")
        expect(shows).to_have_value("23")
        self.page.reload()
        expect(shows).to_have_value("23")
        self.page.goto(self.base + TRACE.format("off_cold").replace("CN2.6", "CN2.1"))
        settled(self.page)
        expect(shows).to_have_value("")

    def test_once_recorded_it_is_gone(self):
        self.begin()
        outlet = self.page.get_by_label("Outlet gives", exact=True)
        outlet.fill("224")
        self.button(*LOOKS[0]).click()
        expect(self.button(*LOOKS[0])).to_have_attribute("aria-pressed", "true")
        expect(outlet).to_have_value("224")
        self.page.get_by_role("button", name="Record the mains").click()
        expect(self.page.locator("#tape")).to_contain_text("224 V")
        self.page.reload()
        settled(self.page)
        expect(outlet).to_have_value("")

    def test_the_focus_stays_and_what_was_recorded_is_said(self):
        self.begin()
        self.button(*LOOKS[1]).focus()
        self.page.keyboard.press("Enter")
        expect(self.page.locator("#told")).to_have_text("Recorded. Evaporator fan: still")
        expect(self.button(*LOOKS[1])).to_be_focused()

    def test_a_page_that_a_form_goes_to_begins_at_its_top(self):
        self.begin()
        self.page.goto("/calls/new/")
        self.page.get_by_label("Unit", exact=True).select_option(index=3)
        self.page.get_by_label("Customer", exact=True).fill("Ann Orrey")
        self.page.get_by_label("Complaint, in the customer’s words").fill("Warm")
        self.page.get_by_role("button", name="Open the call").scroll_into_view_if_needed()
        self.page.set_viewport_size({"width": 390, "height": 400})
        self.page.get_by_role("button", name="Open the call").click()
        expect(self.page.get_by_role("button", name="The plate says so")).to_be_attached()
        self.assertEqual(self.page.evaluate("scrollY"), 0)


class TwoScreens(HandsCase):
    def second(self):
        other = self.page.context.new_page()
        other.goto(f"{self.base}look/")
        settled(other)
        return other

    def test_another_screen_learns_of_a_slip_within_two_seconds(self):
        self.begin()
        other = self.second()
        self.page.bring_to_front()
        self.button(*LOOKS[0]).click()
        expect(other.locator("#tape")).to_contain_text("Air at the vent", timeout=BUSY)
        expect(other.locator("#told")).to_contain_text("From another screen.")

    def test_the_word_about_the_plug_follows_and_what_is_being_typed_is_left_alone(self):
        self.begin()
        other = self.second()
        outlet = other.get_by_label("Outlet gives", exact=True)
        outlet.fill("22")
        self.page.locator(".power-buttons button").click()
        expect(other.locator(".power-state")).to_contain_text("UNPLUGGED", timeout=BUSY)
        expect(outlet).to_have_value("22")
        other.get_by_role("button", name="Show what follows").click()
        expect(other.locator(".elsewhere")).to_be_hidden()
        expect(outlet).to_have_value("22")

    def test_without_a_connection_the_plug_is_as_it_was_tapped_and_says_so(self):
        self.begin()
        self.page.context.set_offline(True)
        self.page.locator(".power-buttons button").click()
        expect(self.page.locator(".power-state")).to_contain_text("UNPLUGGED")
        expect(self.page.locator(".power-seen")).to_have_text("not sent yet")
        self.page.context.set_offline(False)
        expect(self.page.locator(".power-seen")).to_be_hidden()
        self.assertEqual([entry["body"]["state"] for entry in self.entries("power_set")][-1], "unplugged")

    def test_a_word_that_can_not_be_asked_for_says_how_old_it_is(self):
        self.begin()
        self.page.route("**/newest/", lambda route: route.abort())
        expect(self.page.locator(".power-seen")).to_contain_text("as last seen", timeout=9000)
        self.page.unroute("**/newest/")
        expect(self.page.locator(".power-seen")).to_be_hidden()


class Keys(HandsCase):
    def test_single_keys_record_nothing_and_can_be_switched_off(self):
        self.begin()
        before = self.page.request.get(f"{self.address}{self.base}tape.json").json()["entries"]
        for key in "pusrlnhx0123456789?":
            self.page.goto(f"{self.base}look/")
            settled(self.page)
            self.page.keyboard.press(key)
            settled(self.page)
        self.assertEqual(
            self.page.request.get(f"{self.address}{self.base}tape.json").json()["entries"], before
        )
        self.page.get_by_role("button", name="Switch shortcuts off").click()
        settled(self.page)
        self.page.goto(f"{self.base}look/")
        self.page.keyboard.press("n")
        self.page.keyboard.press("?")
        settled(self.page)
        self.assertTrue(self.page.url.endswith("/look/"))
        expect(self.page.get_by_role("dialog")).to_be_hidden()
