"""The first visit on a slow telephone link: ``python -m tests.browser.slow`` prints, page by page, when the
first content stands there, how far it has shifted since, and what came. Read off, never asserted.
"""

from tests.browser.harness import PHONE, chromium, server, settled

LATENCY_MS, BYTES_A_SECOND = 400, 50_000
GOAL_MS, GOAL_SHIFT = 3500, 0.1
SEEN = """() => new Promise((done) => {
  let shifted = 0;
  new PerformanceObserver((list) => {
    for (const entry of list.getEntries()) if (!entry.hadRecentInput) shifted += entry.value;
  }).observe({ type: "layout-shift", buffered: true });
  setTimeout(() => {
    const first = performance.getEntriesByName("first-contentful-paint")[0].startTime;
    const [page] = performance.getEntriesByType("navigation");
    done([first, shifted, page.transferSize]);
  }, 500);
})"""


def main() -> None:
    """Measure the pages one opens first, each without anything kept."""
    link = {
        "offline": False,
        "latency": LATENCY_MS,
        "downloadThroughput": BYTES_A_SECOND,
        "uploadThroughput": BYTES_A_SECOND,
    }
    with chromium() as browser:
        page = browser.new_page(base_url=server())
        page.goto("/")
        page.get_by_role("button", name="Enter the demo").click()
        settled(page)
        page.get_by_text("Ferry Keepers").first.click()
        page.wait_for_url("**/now/")
        settled(page)
        base = page.url.removesuffix("now/")
        cookies = page.context.cookies()
        for address in ("/people/sign-in/", "/", *(f"{base}{stage}/" for stage in ("now", "look", "trace"))):
            page.goto(address)  # once on a quick link: the unit's suspects are worked out
            fresh = browser.new_context(viewport=PHONE, base_url=server(), service_workers="block")
            if address != "/people/sign-in/":
                fresh.add_cookies(cookies)
            slow = fresh.new_page()
            session = fresh.new_cdp_session(slow)
            session.send("Network.enable")
            session.send("Network.emulateNetworkConditions", link)
            slow.goto(address)
            first, shifted, size = slow.evaluate(SEEN)
            held = "held" if first <= GOAL_MS and shifted < GOAL_SHIFT else "NOT HELD"
            name = address.removeprefix(base).strip("/") or "front"
            print(f"{name:16} {first:5.0f} ms  shift {shifted:.3f}  {size:6} bytes  {held}")
            fresh.close()


if __name__ == "__main__":
    main()
