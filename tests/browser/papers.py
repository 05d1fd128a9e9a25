"""Two papers turned into sheets by keyboard alone, counted: keystrokes, and the minutes they take.

``python -m tests.browser.papers`` writes docs/papers.md anew; a test holds it to what is counted.
"""

from collections.abc import Iterator
from dataclasses import dataclass

from playwright.sync_api import Page, expect

from frostcore.tests.papers import ENGLISH, GERMAN
from tests.browser.harness import ROOT, TABLET, chromium, server, settled

TOLD = ROOT / "docs" / "papers.md"
KIND = "two doors, one coil behind the freezer, damper to the fridge"
STROKES_A_SECOND = 2.5
SECTIONS = ("codes", "sensors", "plugs", "parts")
COPIED = 4
"""Strokes to copy a table from where it is and paste it: two keys each."""


@dataclass(frozen=True)
class Count:
    """One table of a paper: cells it has, strokes it took."""

    table: str
    cells: int
    strokes: int


class Keyboard:
    """A keyboard whose strokes are counted; nothing else is touched."""

    def __init__(self, page: Page) -> None:
        self.page, self.strokes = page, 0

    def type(self, text: str) -> None:
        """Letters where the focus is."""
        self.page.keyboard.type(text)
        self.strokes += len(text)

    def press(self, key: str, times: int = 1) -> None:
        """A key with a name."""
        for _ in range(times):
            self.page.keyboard.press(key)
            self.strokes += 1

    def paste(self, text: str) -> None:
        """A table copied elsewhere, into the cell that has the focus."""
        self.page.evaluate(
            """(text) => {
              const data = new DataTransfer();
              data.setData("text/plain", text);
              const pasting = { clipboardData: data, bubbles: true, cancelable: true };
              document.activeElement.dispatchEvent(new ClipboardEvent("paste", pasting));
            }""",
            text,
        )
        self.strokes += COPIED

    def count(self) -> int:
        """Strokes since the last."""
        found, self.strokes = self.strokes, 0
        return found


def begun(page: Page) -> str:
    """A draft from the kind; its address."""
    page.goto("/sheets/drafts/")
    page.locator("[name=revision]").select_option(label=KIND)
    page.get_by_role("button", name="Begin").click()
    expect(page.locator("[data-grid]")).to_be_visible()
    return page.url.partition("?")[0]


def plate(page: Page, keys: Keyboard, paper: dict) -> Count:
    """The rating plate typed, field by field."""
    rows = page.locator("[data-grid] tbody tr")
    expect(page.locator("[data-grid] input").first).to_be_focused()
    fields = ("maker", "model", "", "", "mains_volts", "mains_hertz", "refrigerant", "charge_grams", "")
    for name in (*fields, "defrost_heater_watts"):
        if name:
            keys.type(paper["plate"][name])
        keys.press("Enter")
    kept(page)
    return Count("rating plate", rows.count(), keys.count())


def kept(page: Page) -> None:
    """Wait until everything typed is on the server."""
    expect(page.locator("[data-grid-state]")).to_have_text("kept", timeout=20_000)


def pasted(page: Page, keys: Keyboard, address: str, section: str, table: str) -> Count:
    """A table pasted whole: what was understood is looked at, and taken."""
    page.goto(f"{address}?section={section}")
    expect(page.locator("[data-grid] tbody input:focus")).to_be_attached()
    settled(page)
    keys.count()
    keys.paste(table)
    expect(page.locator('#pasted button[name="take"]')).to_be_focused()
    keys.press("Enter")
    expect(page.locator(".flash")).to_be_visible()
    settled(page)
    return Count(section, len(cells(table)), keys.count())


BACK, SAME = "<back>", "<same>"
"""A cell gone back to, because what counted on is other there; a cell filled from the one above."""


def typed(page: Page, keys: Keyboard, address: str, section: str, rows: list[list[str]]) -> Count:
    """A table typed row by row: pins and temperatures count on by themselves, a plug is said once."""
    page.goto(f"{address}?section={section}")
    expect(page.locator("[data-grid] tbody input").first).to_be_focused()
    keys.count()
    for number, row in enumerate(rows):
        texts = [text for text in row if text != BACK]
        keys.press("Shift+Tab", times=row.count(BACK))
        for place, text in enumerate(texts):
            if place:
                keys.press("Tab")
            if text == SAME:
                keys.press("Control+d")
            else:
                keys.type(text)
        if number < len(rows) - 1:
            keys.press("Enter")
    keys.press("Tab")
    kept(page)
    return Count(section, len(cells(GERMAN[section])), keys.count())


def cells(table: str) -> list[str]:
    """The cells of a table that have anything in them."""
    return [cell for line in table.split("\n")[1:] for cell in line.split("\t") if cell]


def english(page: Page) -> Iterator[Count]:
    """The English paper: its plate typed, its tables pasted."""
    address, keys = begun(page), Keyboard(page)
    yield plate(page, keys, ENGLISH)
    for section in SECTIONS:
        yield pasted(page, keys, address, section, ENGLISH[section])


def german(page: Page) -> Iterator[Count]:
    """The German paper, on paper only: everything typed."""
    address, keys = begun(page), Keyboard(page)
    yield plate(page, keys, GERMAN)
    codes = [line.split("\t") for line in GERMAN["codes"].split("\n")[1:]]
    yield typed(page, keys, address, "codes", codes)
    yield typed(page, keys, address, "sensors", list(_temperatures(GERMAN["sensors"])))
    yield typed(page, keys, address, "plugs", list(_pins(GERMAN["plugs"])))


def pictured(page: Page, keys: Keyboard, address: str, name: str) -> None:
    """A paper's tables, read from its picture, looked over and taken; choosing the file is not counted."""
    page.goto(f"{address}?section=codes")
    page.locator("#paper-pages").set_input_files(ROOT / "tests/pictures" / name)
    page.get_by_role("button", name="Keep beside the rows").click()
    for section in SECTIONS:
        page.goto(f"{address}?section={section}")
        page.get_by_role("link", name="Read this table from it").focus()
        keys.press("Enter")
        expect(page.locator(".primary[data-table]")).to_be_focused(timeout=120_000)
        keys.press("Enter")
        expect(page.locator("[data-reading]")).to_be_visible(timeout=120_000)
        settled(page)
        while page.locator("input[data-open]").count():
            expect(page.locator("input[data-open]").first).to_be_focused()
            keys.press("Enter")
        while page.locator("[data-compared]:not(:checked)").count():
            expect(page.locator("[data-compared]:not(:checked)").first).to_be_focused()
            keys.press("Space")
        expect(page.locator("[data-reading-done]")).to_be_focused()
        keys.press("Enter")
        expect(page.locator('#pasted button[name="take"]')).to_be_focused()
        keys.press("Enter")
        expect(page.locator(".flash")).to_be_visible()
        settled(page)


def _temperatures(table: str) -> Iterator[list[str]]:
    """Rows as they are typed: from the third on the temperature follows from the two before it."""
    rows = [line.split("\t") for line in table.split("\n")[2:]]
    celsius = [int(row[0]) for row in rows]
    for place, (degrees, ohms) in enumerate(rows):
        plain = ohms.replace(".", "")
        if place < 2:
            yield [degrees, plain]
        elif celsius[place] == 2 * celsius[place - 1] - celsius[place - 2]:
            yield [plain]
        else:
            yield [BACK, degrees, plain]


def _pins(table: str) -> Iterator[list[str]]:
    """Rows as they are typed: the plug at its first pin, the pin where it does not count on."""
    lines = [line.split("\t") for line in table.split("\n")[1:]]
    for number, (plug, pin, colour, label, goes_to) in enumerate(lines):
        rest = [colour, label, SAME if goes_to == "dto." else goes_to]
        if plug:
            yield [*([BACK, BACK] if number else []), plug, pin, *rest]
        else:
            yield rest


def table_of(counts: list[tuple[str, Count]]) -> str:
    """The counts as the document has them."""
    lines = [
        "# A sheet from the paper at hand",
        "",
        "Two papers of our own, turned into drafts by keyboard alone, from the kind of unit they are of",
        f"(`frostcore/tests/papers.py`). Minutes at {STROKES_A_SECOND:g} strokes a second. Written by",
        "`python -m tests.browser.papers`.",
        "",
        "| Paper | Table | Cells | Strokes | Minutes |",
        "|---|---|---|---|---|",
    ]
    for paper, count in counts:
        minutes = count.strokes / STROKES_A_SECOND / 60
        lines.append(f"| {paper} | {count.table} | {count.cells} | {count.strokes} | {minutes:.1f} |")
    for paper in dict.fromkeys(paper for paper, _ in counts):
        strokes = sum(count.strokes for name, count in counts if name == paper)
        minutes = strokes / STROKES_A_SECOND / 60
        lines.append(f"| {paper} | all | | {strokes} | {minutes:.1f} |")
    return "\n".join(lines) + "\n"


def counted(page: Page) -> str:
    """Both papers, counted."""
    counts = [("English, pasted", count) for count in english(page)]
    counts += [("German, typed", count) for count in german(page)]
    return table_of(counts)


def main() -> None:
    """Count, and write the document anew."""
    address = server()
    with chromium() as browser:
        page = browser.new_context(viewport=TABLET, base_url=address).new_page()
        page.goto("/")
        page.get_by_role("button", name="Enter the demo").click()
        TOLD.write_text(counted(page), encoding="utf-8")


if __name__ == "__main__":
    main()
