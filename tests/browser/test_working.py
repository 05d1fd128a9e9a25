"""The working place under hands: what is typed lights its branch, the way to an act is recorded where it is,
a long list is found in by first letters, the picture comes first."""

from playwright.sync_api import expect

from tests.browser.hands import HandsCase
from tests.browser.harness import PHONE, settled


class Working(HandsCase):
    def asked_to_read(self):
        """A call that asks for a reading, with a way to it."""
        self.begin()
        for look, answer in (("display", "code"), ("frost", "cover_frozen")):
            self.button(look, answer).click()
            expect(self.button(look, answer)).to_have_attribute("aria-pressed", "true")
        self.page.goto(f"{self.base}now/")
        self.page.locator(".now [data-focus]").fill("E5")
        self.page.keyboard.press("Enter")
        expect(self.page.locator("#tape")).to_contain_text("E5")
        for _ in range(60):
            self.page.goto(f"{self.base}now/")
            settled(self.page)
            if self.page.locator(".now-form[data-fork]").count():
                return
            cannot = self.page.locator(".now summary", has_text="I can’t")
            if not cannot.count():  # its suspects are still being worked out
                self.page.wait_for_timeout(500)
                continue
            cannot.click()
            self.page.get_by_role("button", name="no way to reach it").click()
            settled(self.page)
        self.fail(self.page.locator(".now").inner_text())

    def test_the_branch_of_what_is_typed_is_lit_and_the_others_fade(self):
        self.asked_to_read()
        field = self.page.locator(".now-typed input[type=text]").first
        expect(field).to_be_focused()
        field.press_sequentially("OL")
        lit = self.page.locator(".branch-taken")
        expect(lit).to_have_count(1)
        expect(lit).to_contain_text("OL")
        expect(lit.locator(".branch-leaves")).to_contain_text("%")
        others = self.page.locator("li.branch").count() - 1
        expect(self.page.locator(".branch-fades")).to_have_count(others)
        field.fill("")
        expect(self.page.locator(".branch-fades")).to_have_count(0)

    def test_the_steps_on_the_way_are_taps_with_their_counts(self):
        self.asked_to_read()
        steps = self.page.locator(".now-how li")
        expect(steps.first).to_contain_text("Pull the mains plug")
        steps.first.get_by_role("button").click()
        expect(self.page.locator(".power-state")).to_contain_text("UNPLUGGED")
        expect(steps.first).not_to_contain_text("Pull the mains plug")
        done = self.page.locator(".now-how").get_by_role("button", name="Done").first
        done.click()
        expect(self.page.locator("#tape")).to_contain_text("Opened")
        self.assertEqual(len(self.entries("step_done")), 1)
        self.assertGreater(self.entries("step_done")[0]["body"]["counted"], 0)

    def test_the_path_of_the_reading_stands_below_it_with_its_leads_and_frost(self):
        self.asked_to_read()
        path = self.page.locator(".now-map svg.trace")
        expect(path.locator(".port-lead-red")).to_have_count(1)
        expect(path.locator(".port-lead-black")).to_have_count(1)
        self.assertGreater(path.locator(".frost").count(), 0)

    def test_a_function_and_a_look_are_found_by_first_letters(self):
        self.begin()
        find = self.page.locator(".looks").first.locator("xpath=preceding-sibling::input")
        find.press_sequentially("comp")
        expect(self.page.locator("form.look:visible").first).to_contain_text("Compressor")
        self.assertLess(self.page.locator("form.look:visible").count(), 5)
        self.page.goto(f"{self.base}trace/")
        settled(self.page)
        find = self.page.locator(".trace-choose .find").first
        find.press_sequentially("evap")
        find.press("Enter")
        self.page.wait_for_url("**function=evaporator_fan**")
        expect(self.page.get_by_label("Meter shows", exact=True)).to_be_focused()

    def test_the_picture_comes_first_the_field_stays_in_sight_and_what_goes_on_says_so(self):
        self.begin(PHONE)
        self.page.goto(f"{self.base}trace/")
        settled(self.page)
        picture = self.page.locator("svg.trace").bounding_box()
        field = self.page.get_by_label("Meter shows", exact=True).bounding_box()
        self.assertLess(picture["y"], 844 / 1.25)
        self.assertLess(field["y"] + field["height"], 844)
        expect(self.page.locator(".trace-frame")).to_have_attribute("data-more", "right")
        self.page.goto(f"{self.base}probe/")
        settled(self.page)
        field = self.page.get_by_label("Meter shows", exact=True).first.bounding_box()
        self.assertLess(field["y"] + field["height"], 844)
