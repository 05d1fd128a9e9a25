"""The commonest acts as hands do them, counted: taps, keys, and what is asked of the server.

``python -m tests.browser.counted`` writes docs/hands.md anew; a test holds it to what is counted.
"""

import re
from collections.abc import Iterator
from dataclasses import dataclass

from playwright.sync_api import Locator, Page, expect

from tests.browser.harness import PHONE, ROOT, TABLET, chromium, server, settled

TOLD = ROOT / "docs" / "hands.md"
UNIT = "Tarnbeck TB-34: two-door refrigerator, freezer below"


@dataclass(frozen=True)
class Count:
    """One act: taps, keys and requests it took."""

    act: str
    taps: int
    keys: int
    requests: int


class Hands:
    """A page under hands that are counted; what the page asks by itself (scripts, other screens' news, how
    what is typed is understood) is no request of an act."""

    QUIET = re.compile(
        r"/static/|/newest/|/understood/|/branch/|/candidates/|worker\.js|\.webmanifest|/manifest"
    )

    def __init__(self, page: Page) -> None:
        self.page, self.taps, self.keys, self.requests = page, 0, 0, 0
        page.on("request", self._asked)

    def _asked(self, request: object) -> None:
        self.requests += not self.QUIET.search(request.url)

    def tap(self, where: Locator) -> None:
        """One tap, and what it brings."""
        self.taps += 1
        where.click()
        settled(self.page)

    def type(self, *texts: str) -> None:
        """Typed where the focus is: a key a character, Tab between texts, Enter at the end."""
        for number, text in enumerate(texts):
            if number:
                self.page.keyboard.press("Tab")
            self.page.keyboard.type(text)
        self.page.keyboard.press("Enter")
        self.keys += sum(len(text) for text in texts) + len(texts)
        settled(self.page)

    def count(self, act: str) -> Count:
        """What it took since the last."""
        found = Count(act, self.taps, self.keys, self.requests)
        self.taps = self.keys = self.requests = 0
        return found


def acts(page: Page) -> Iterator[Count]:
    """A call from its first tap to a reading, act by act."""
    hands, button = Hands(page), lambda name: page.get_by_role("button", name=name, exact=True)
    hands.tap(page.get_by_role("link", name="New call"))
    page.get_by_label("Unit", exact=True).select_option(label=UNIT)
    hands.taps += 2  # the list opened, the unit chosen
    for field, text in (("Customer", "A"), ("Complaint, in the customer’s words", "E")):
        page.get_by_label(field, exact=True).fill(text)
        hands.taps += 1
    hands.tap(button("Open the call"))
    yield hands.count("A new call, beside its words")
    hands.tap(button("The plate says so"))
    yield hands.count("The rating plate as the sheet has it")
    hands.tap(page.locator(".power-buttons button").first)
    yield hands.count("The plug’s state")
    base = page.url.removesuffix("call/")
    for _ in range(60):
        page.goto(f"{base}now/")
        settled(page)
        if "being worked out" not in page.locator(".work").inner_text():
            break
        page.wait_for_timeout(500)
    hands.count("")
    hands.tap(page.locator("button.branch[value=code]"))
    yield hands.count("A look, where it is asked for")
    hands.type("E5")
    expect(page.locator("#tape")).to_contain_text("E5")
    yield hands.count("A code, where it is asked for")
    page.goto(f"{base}look/")
    settled(page)
    hands.count("")
    hands.tap(page.locator('form.look:has(input[value="frost"]) button[value="cover_frozen"]'))
    yield hands.count("A look, in the list of looks")
    page.goto(f"{base}now/")
    settled(page)
    hands.count("")
    yield from readings(page, hands, base)


def readings(page: Page, hands: Hands, base: str) -> Iterator[Count]:
    """The suggested reading, and others; the way in."""
    page.locator(".now [data-focus]").wait_for()
    hands.type("239")
    while page.locator(".ask").count():
        hands.tap(page.locator(".ask button").first)
    yield hands.count("The suggested reading (three digits)")
    for _ in range(8):
        done = page.locator(".move-tap button", has_text="Done")
        if done.count():
            break
        page.goto(f"{base}open/?place=evaporator")
        settled(page)
        hands.count("")
        hands.tap(page.get_by_role("button", name="Done: Take out three drawers"))
        yield hands.count("A step of a way in, with its count")
        break
    page.goto(f"{base}now/")
    settled(page)
    hands.count("")
    hands.tap(page.locator("nav.stages a", has_text="Sensors"))
    hands.tap(page.locator(".chips a", has_text="Fridge sensor"))
    hands.type("15k5", "0C")
    yield hands.count("A sensor that was not asked for, at its temperature")
    page.goto(f"{base}now/")
    settled(page)
    hands.count("")
    hands.tap(page.locator("nav.stages a", has_text="Trace"))
    hands.tap(page.locator(".find").first)
    hands.type("com")
    expect(page.get_by_label("Meter shows", exact=True)).to_be_focused()
    hands.type("229")
    while page.locator(".ask").count():
        hands.tap(page.locator(".ask button").first)
    expect(page.locator("#tape")).to_contain_text("229")
    yield hands.count("A reading that was not asked for, of another function")


def counted() -> dict[str, tuple[Count, ...]]:
    """On a tablet and on a phone."""
    found = {}
    with chromium() as browser:
        for name, viewport in (("tablet", TABLET), ("phone", PHONE)):
            context = browser.new_context(viewport=viewport, base_url=server("many-calls"))
            page = context.new_page()
            page.goto("/")
            page.get_by_role("button", name="Enter the demo").click()
            settled(page)
            found[name] = tuple(acts(page))
            context.close()
    return found


HEAD = """# Hands

The commonest acts, done in the real page and counted (`python -m tests.browser.counted` counts anew and
writes this; a test holds it to what is counted). A tap is a finger or a click; a key is one press, Tab and
Enter too; requests are what an act asks of the server, without what the page asks by itself meanwhile.

| Act | Taps | Keys | Requests | on a phone: taps | keys | requests |
|---|---|---|---|---|---|---|
"""


def told(found: dict[str, tuple[Count, ...]]) -> str:
    """As docs/hands.md has it."""
    rows = []
    for one, two in zip(found["tablet"], found["phone"], strict=True):
        figures = (one.taps, one.keys, one.requests, two.taps, two.keys, two.requests)
        rows.append(f"| {one.act} | {' | '.join(map(str, figures))} |")
    return HEAD + "\n".join(rows) + "\n"


if __name__ == "__main__":
    TOLD.write_text(told(counted()))
