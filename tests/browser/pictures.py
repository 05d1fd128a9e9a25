"""Pictures of the main views for the README; run by bin/screenshots."""

import re

from playwright.sync_api import Browser, Page

from frostcore.tests.papers import ENGLISH
from frostcore.tests.test_thermal_runs import run_of, text_of
from frostcore.thermal.faults import Broken
from tests.browser.harness import PHONE, ROOT, TABLET, chromium, curve_of, server, settled
from tests.browser.papers import KIND

FENNEL, NOSS, HOTEL, HOSTEL = "Mrs Aud Fennel", "Noss Cottage", "Hotel Brimsound", "Ferry Keepers’ Hostel"
READINGS = "ohms1=9k4&celsius1=22C&ohms2=19k8&celsius2=0C&ohms3=46k&celsius3=-18C"
SENSOR = f"/check/sensor/?curve={curve_of('Tarnbeck TB-34')}&{READINGS}"
LADDER = (
    "/bench/ladder/?sheet=tarnbeck-tb-34&board=board&kind=&mains=228+V&esr=on&at=said%3Ddead&at=ohm%3Al-lf%3DOL"
    "&at=ohm%3Alf-n%3D1M&at=diode%3Ash-d%3D0.01&at=ohm%3Ash-bm%3DOL"
)
NEVER = text_of(run_of(Broken(runs_on=frozenset({"compressor"}))), step=120.0, first=0)
VIEWS = [
    ("front", "/", None, TABLET, "light"),
    ("calls", "/calls/?show=all", None, TABLET, "dark"),
    ("plan", "plan", HOSTEL, TABLET, "light"),
    ("kind", "/calls/new/kind/", None, TABLET, "light"),
    ("draft", "draft", None, TABLET, "light"),
    ("reading", "reading", None, TABLET, "light"),
    ("first-look", "look/", NOSS, TABLET, "light"),
    ("decode", "decode/", FENNEL, TABLET, "dark"),
    ("probe", "probe/", FENNEL, TABLET, "light"),
    ("now", "now/", NOSS, TABLET, "light"),
    ("now-phone", "now/", NOSS, PHONE, "dark"),
    ("ladder", LADDER, None, TABLET, "light"),
    (
        "check-sensor",
        SENSOR,
        None,
        TABLET,
        "light",
    ),
    ("trace", "trace/?function=defrost_heater", HOSTEL, TABLET, "light"),
    ("run", "run", FENNEL, TABLET, "dark"),
    ("trace-phone", "trace/?function=defrost_heater", HOSTEL, PHONE, "dark"),
    ("way-in", "open/?place=evaporator", HOSTEL, TABLET, "light"),
    ("report", "report/", HOTEL, TABLET, "light"),
    ("sheet", "/sheets/tarnbeck-tb-34/", None, TABLET, "light"),
]


PATIENCE = 30
"""So many seconds are waited for a unit's suspects to be worked out."""


def main() -> None:
    """Open each view and keep its picture."""
    with chromium() as browser:
        for view in VIEWS:
            take(browser, *view)


def way_round(page: Page, base: str) -> str:
    """A mechanical thermostat in place of the board, the fan with the compressor."""
    page.goto(f"{base}plans/?part=board")
    href = page.get_by_text("Fan with the compressor, defrost by resting", exact=True).get_attribute("href")
    return str(href)


def take(
    browser: Browser, name: str, path: str, customer: str | None, viewport: dict[str, int], scheme: str
) -> None:
    """Open one view and keep its picture."""
    context = browser.new_context(viewport=viewport, color_scheme=scheme, base_url=server())
    page = context.new_page()
    page.goto("/")
    address = path
    page.get_by_role("button", name="Enter the demo").click()
    settled(page)
    if customer:
        page.get_by_text(customer).first.click()
        page.wait_for_url("**/calls/*/*/")
        address = f"/calls/{page.url.split('/calls/')[1].split('/')[0]}/{path}"
    if path == "draft":
        address = drafted(page)
    if path == "plan":
        address = way_round(page, address.removesuffix("plan"))
    if path == "reading":
        address = read_from_picture(page)
    if path == "run":
        address = a_run(page, address.split("/calls/")[1].split("/")[0])
    page.goto(address)
    settled(page)
    for _ in range(PATIENCE):
        if "worked out" not in page.locator("body").inner_text():
            break
        page.wait_for_timeout(1000)
        page.reload()
        settled(page)
    page.screenshot(path=ROOT / "docs" / "screenshots" / f"{name}.png")
    context.close()


def drafted(page: Page, sections: tuple[str, ...] = ("codes", "sensors", "plugs")) -> str:
    """A draft with some tables of a paper, its page beside; its address, at the connectors."""
    page.goto("/sheets/drafts/")
    page.locator("[name=revision]").select_option(label=KIND)
    page.get_by_role("button", name="Begin").click()
    page.wait_for_url("**/drafts/*-*/")
    address = page.url.partition("?")[0]
    for section in sections:
        page.goto(f"{address}?section={section}")
        settled(page)
        page.get_by_text("Paste a table").click()
        page.locator("[name=text]").first.fill(ENGLISH[section])
        page.get_by_role("button", name="What does it say?").click()
        page.get_by_role("button", name=re.compile("^Put .* in$")).click()
        page.get_by_text("rows are in").wait_for()
    page.goto(f"{address}?section=plugs")
    if sections:
        page.locator("#paper-pages").set_input_files(ROOT / "tests/pictures/english.jpg")
        page.get_by_role("button", name="Keep beside the rows").click()
        page.locator(".paper-view").wait_for()
    return f"{address}?section=plugs"


def a_run(page: Page, call: str) -> str:
    """Two days of a unit whose compressor never stops, counted; its address."""
    page.goto(f"/runs/call/{call}/")
    page.get_by_label("Or its rows, pasted").fill(NEVER)
    page.get_by_role("button", name="Show what it says").click()
    page.get_by_label("Room, such as").fill("24 °C")
    page.get_by_role("button", name="So it counts").click()
    page.locator(".run-picture").wait_for()
    return page.url


def read_from_picture(page: Page) -> str:
    """A table being read from the picture of a paper; its address."""
    page.goto(drafted(page, ()))
    page.locator("#paper-pages").set_input_files(ROOT / "tests/pictures/german.jpg")
    page.get_by_role("button", name="Keep beside the rows").click()
    page.get_by_role("link", name="Read this table from it").click()
    page.locator('[data-table="2"]').click(timeout=120_000)
    page.locator("[data-reading]").wait_for(timeout=120_000)
    return page.url


if __name__ == "__main__":
    main()
