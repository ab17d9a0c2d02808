"""A headless Chromium for tests; any error in a page's console fails the test."""

import time
import unittest
from collections.abc import Callable
from typing import Any, ClassVar

from playwright.sync_api import Browser, BrowserContext, Page, Playwright, sync_playwright

CHROMIUM = "/usr/bin/chromium"
ARGUMENTS = (
    "--no-sandbox",
    "--disable-quic",
    "--no-first-run",
    "--disable-background-networking",
    "--disable-component-update",
    "--disable-sync",
)
# Waiting ends with what is waited for; a test machine that stutters must not end it before.
PATIENCE = 120.0


def wait_until(what: str, condition: Callable[[], Any], patience: float = PATIENCE) -> Any:
    """Asks again and again until the condition is truthy; AssertionError with ``what`` when patience ends."""
    deadline = time.monotonic() + patience
    while True:
        found = condition()
        if found:
            return found
        if time.monotonic() > deadline:
            raise AssertionError(f"did not happen in {patience:.0f} s: {what}")
        time.sleep(0.03)


class BrowserCase(unittest.TestCase):
    """One browser for the class, one fresh page for each test."""

    playwright: ClassVar[Playwright]
    browser: ClassVar[Browser]
    context: BrowserContext
    page: Page

    @classmethod
    def setUpClass(cls) -> None:
        super().setUpClass()
        cls.playwright = sync_playwright().start()
        cls.addClassCleanup(cls.playwright.stop)
        cls.browser = cls.playwright.chromium.launch(executable_path=CHROMIUM, args=list(ARGUMENTS))
        cls.addClassCleanup(cls.browser.close)

    def setUp(self) -> None:
        self.context = self.browser.new_context(viewport={"width": 1280, "height": 800})
        self.addCleanup(self.context.close)
        self.context.set_default_timeout(PATIENCE * 1000)
        self.said: list[str] = []
        # Somebody who has seen the hints; the test of the hints begins anew.
        self.context.add_init_script("localStorage.getItem('moth.hint') ?? localStorage.setItem('moth.hint', '99')")
        self.page = self.watched(self.context.new_page())

    def watched(self, page: Page) -> Page:
        page.on("console", lambda m: self.said.append(m.text) if m.type == "error" else None)
        page.on("pageerror", lambda e: self.said.append(str(e)))
        return page

    def tearDown(self) -> None:
        self.assertEqual(self.said, [], "the console was clean")
