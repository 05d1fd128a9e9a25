"""The product as its users get it: gunicorn with the demo data, driven in headless Chromium."""

import os
import re
import shutil
import socket
import subprocess
import sys
import tempfile
import time
import unittest
import urllib.request
from collections.abc import Iterator
from contextlib import contextmanager
from functools import cache
from multiprocessing.util import Finalize
from pathlib import Path

from axe_playwright_python.sync_playwright import Axe
from playwright.sync_api import Browser, Error, Page, expect, sync_playwright

from frostcore.curves.known import curves_of
from frostcore.tests.demo_sheets import SHEETS

ROOT = Path(__file__).resolve().parents[2]
CHROMIUM = "/usr/bin/chromium"
TABLET, PHONE = {"width": 1280, "height": 800}, {"width": 390, "height": 844}
LEAD_PASSWORD = "harbour-lamp-3"
expect.set_options(timeout=30_000)


@cache
def server(data_of: str = "") -> str:
    """Start the server once for all browser tests that share their data; returns its address."""
    data = tempfile.mkdtemp(prefix=f"frostline-browser-{data_of}")
    environment = {**os.environ, "FROSTLINE_DEMO": "1", "FROSTLINE_DATA": data}
    for command in (
        ["migrate", "--verbosity", "0"],
        ["load_demo", "--lead-password", LEAD_PASSWORD],
        ["prepare", "--verbosity", "0"],
    ):
        subprocess.run(
            [sys.executable, "manage.py", *command],
            cwd=ROOT,
            env=environment,
            check=True,
            stdout=subprocess.DEVNULL,
        )
    with socket.socket() as probe:
        probe.bind(("127.0.0.1", 0))
        port = probe.getsockname()[1]
    command = [
        sys.executable,
        "-m",
        "gunicorn",
        "frostline.wsgi",
        "--bind",
        f"127.0.0.1:{port}",
        "--config",
        "python:frostline.server.gunicorn",
    ]
    process = subprocess.Popen(command, cwd=ROOT, env=environment)

    def stop() -> None:
        process.terminate()
        process.wait(10)
        shutil.rmtree(data, ignore_errors=True)

    # Not atexit: tests side by side run in processes that leave by multiprocessing's own door.
    Finalize(None, stop, exitpriority=10)
    address = f"http://127.0.0.1:{port}"
    for _ in range(200):
        try:
            with urllib.request.urlopen(f"{address}/people/sign-in/", timeout=2):
                return address
        except OSError:
            time.sleep(0.1)
    message = "the server did not start"
    raise RuntimeError(message)


def curve_of(title: str) -> str:
    """What a quick check's address calls the first curve of a demo unit."""
    return next(known.id for known in curves_of(SHEETS) if known.source == title)


@contextmanager
def chromium() -> Iterator[Browser]:
    """Chromium for as long as it is needed: the driver keeps an event loop running, which Django's
    database refuses to share."""
    arguments = [
        "--no-sandbox",
        "--disable-gpu",
        "--disable-quic",
        "--no-first-run",
        "--disable-background-networking",
        "--disable-component-update",
        "--disable-sync",
    ]
    with sync_playwright() as driver:
        started = driver.chromium.launch(executable_path=CHROMIUM, args=arguments)
        yield started
        started.close()


EXPECTED = re.compile(r"status of 4|Status Error Code 4|htmx:(?:sendAbort|afterRequest)")
"""Console lines that are no trouble: refused forms, and requests that a newer keystroke replaced."""


QUIET = """() => new Promise((done) => {
  let quiet = 0;
  const look = setInterval(() => {
    const asked = document.querySelector(".htmx-request, .htmx-swapping, .htmx-settling, .htmx-added");
    quiet = asked || document.readyState !== "complete" ? 0 : quiet + 1;
    if (quiet > 7) done(clearInterval(look));
  }, 50);
})"""


def settled(page: Page) -> None:
    """Wait until htmx has swapped what it asked for, and for a moment nothing more is asked."""
    for _ in range(20):
        page.wait_for_load_state()
        try:
            page.evaluate(QUIET)
        except Error as error:
            if "context was destroyed" not in str(error):
                raise
        else:
            return


class BrowserCase(unittest.TestCase):
    """A test with a page of its own; fails on any error the page reports. Those of one ``data_of`` share a
    server and its data: tests that take many calls have one of their own."""

    data_of = ""

    @classmethod
    def setUpClass(cls):
        cls.browser = cls.enterClassContext(chromium())

    def setUp(self):
        self.address = server(self.data_of)
        self.troubles = []

    def open(self, viewport=TABLET, scheme="light", enter=True, **options) -> Page:
        context = self.browser.new_context(
            viewport=viewport, color_scheme=scheme, base_url=self.address, **options
        )
        self.addCleanup(context.close)
        page = context.new_page()
        page.on("pageerror", lambda error: self.troubles.append(str(error)))
        page.on(
            "console",
            lambda message: (
                self.troubles.append(message.text)
                if message.type == "error" and not EXPECTED.search(message.text)
                else None
            ),
        )
        page.goto("/")
        if enter:
            page.get_by_role("button", name="Enter the demo").click()
            expect(page.get_by_role("link", name="New call")).to_be_visible()
        return page

    def tearDown(self):
        self.assertEqual(self.troubles, [])

    def findings(self, page: Page) -> list[tuple[str, list[str]]]:
        """What axe-core finds at every level: the rule, and where."""
        found = Axe().run(page).response["violations"]
        return [(item["id"], [node["html"][:140] for node in item["nodes"]][:3]) for item in found]

    def assert_accessible(self, page: Page) -> None:
        """No finding of axe-core at any level, and nothing wider than the screen."""
        self.assertEqual(self.findings(page), [], page.url)
        self.assertLessEqual(
            page.evaluate("document.documentElement.scrollWidth - document.documentElement.clientWidth"),
            0,
            page.url,
        )
