"""A headless Chromium for tests; any error in a page's console fails the test."""

import atexit
import base64
import json
import time
import unittest
from collections.abc import Callable
from functools import cache
from typing import Any, ClassVar, TypeVar

import numpy as np
from playwright.sync_api import Browser, BrowserContext, Page, Playwright, sync_playwright

CHROMIUM = "/usr/bin/chromium"
ARGUMENTS = (
    "--no-sandbox",
    "--disable-quic",
    "--no-first-run",
    "--disable-background-networking",
    "--disable-component-update",
    "--disable-sync",
    # The pages of a site share a process.
    "--process-per-site",
)
# Waiting ends with what is waited for; a test machine that stutters must not end it before.
PATIENCE = 120.0

# For tests that look at no pixels: a plain shader in place of every large one, and a few triangles of each mesh. Most of a
# browser test's time would go into building and running them in software.
UNLIT = """{
  window.isUnlit = true;
  const { shaderSource, drawElements, drawElementsInstanced, drawArrays } = WebGL2RenderingContext.prototype;
  const plain = "#version 300 es\\nprecision highp float; out vec4 picture; void main() { picture = vec4(0.5); }";
  Object.assign(WebGL2RenderingContext.prototype, {
    shaderSource(shader, source) {
      const isPixels = this.getShaderParameter(shader, this.SHADER_TYPE) === this.FRAGMENT_SHADER;
      shaderSource.call(this, shader, window.isUnlit && isPixels && source.length > 2000 ? plain : source);
    },
    drawElements(mode, count, type, offset) {
      drawElements.call(this, mode, window.isUnlit ? Math.min(count, 36) : count, type, offset);
    },
    drawElementsInstanced(mode, count, type, offset, many) {
      const few = window.isUnlit ? [Math.min(count, 36), type, offset, Math.min(many, 4)] : [count, type, offset, many];
      drawElementsInstanced.call(this, mode, ...few);
    },
    drawArrays(mode, first, count) {
      drawArrays.call(this, mode, first, window.isUnlit ? Math.min(count, 36) : count);
    },
  });
}"""
Test = TypeVar("Test", bound=Callable[..., Any] | type)


def lit(test: Test) -> Test:
    """Marks a test, or all of a class, that looks at the stage's pixels: it gets the true shaders."""
    test.is_lit = True  # type: ignore[union-attr] # read by BrowserCase
    return test


def wait_until(what: str, condition: Callable[[], Any], patience: float = PATIENCE) -> Any:
    """Asks again and again until the condition is truthy; AssertionError with ``what`` when patience ends."""
    deadline = time.monotonic() + patience
    while True:
        found = condition()
        if found:
            return found
        if time.monotonic() > deadline:
            raise AssertionError(f"did not happen in {patience:.0f} s: {what}")
        time.sleep(0.015)


# Handing over a list of numbers, or a large object, takes a hundred times as long as one text.
_BYTES = """async (argument) => {
  const found = await (ASK)(argument);
  const bytes = new Uint8Array(found.buffer, found.byteOffset, found.byteLength);
  let text = "";
  for (let at = 0; at < bytes.length; at += 32768) text += String.fromCharCode(...bytes.subarray(at, at + 32768));
  return btoa(text);
}"""


def array_of(page: Page, ask: str, argument: Any = None, dtype: Any = np.uint8) -> np.ndarray:
    """What a function of the page gives as a typed array, (n,)."""
    return np.frombuffer(base64.b64decode(page.evaluate(_BYTES.replace("ASK", ask), argument)), dtype=dtype)


def data_of(page: Page, ask: str, argument: Any = None) -> Any:
    """What a function of the page gives as plain data; None for what is not there."""
    found = page.evaluate(f"async (argument) => JSON.stringify(await ({ask})(argument))", argument)
    return None if found is None else json.loads(found)


@cache
def one_browser() -> tuple[Playwright, Browser]:
    """The browser of this process, until it ends."""
    playwright = sync_playwright().start()
    browser = playwright.chromium.launch(executable_path=CHROMIUM, args=list(ARGUMENTS))
    atexit.register(playwright.stop)
    atexit.register(browser.close)
    return playwright, browser


class BrowserCase(unittest.TestCase):
    """One browser for the process, a fresh page for each test.

    The pages of a class share what the browser keeps of their site, its process too: most of the time of opening a page
    goes into that. Cookies, settings and permissions of one test are gone in the next one.
    """

    playwright: ClassVar[Playwright]
    browser: ClassVar[Browser]
    # By whether they are lit: a context, and a page of the site that keeps its process.
    contexts: ClassVar[dict[bool, tuple[BrowserContext, Page]]]
    context: BrowserContext
    page: Page
    # For tests that look at the page's own pixels; others get few.
    pixel_ratio: ClassVar[float] = 0.0
    # For tests of what moves by itself; for others it is at its place at once.
    slides: ClassVar[bool] = False

    @classmethod
    def setUpClass(cls) -> None:
        super().setUpClass()
        cls.playwright, cls.browser = one_browser()
        cls.contexts = {}

    @classmethod
    def site(cls) -> str:
        """An address of the site whose pages are opened; empty for pages of no site."""
        return ""

    def setUp(self) -> None:
        self.is_lit = any(
            getattr(marked, "is_lit", False) for marked in (type(self), getattr(self, self._testMethodName))
        )
        if self.is_lit not in self.contexts:
            self.contexts[self.is_lit] = self._new_context()
        self.context, self.kept = self.contexts[self.is_lit]
        self.said: list[str] = []
        self.page = self.watched(self.context.new_page())

    def _new_context(self) -> tuple[BrowserContext, Page]:
        # Few pixels: the page is laid out the same, and pictures of the stage are taken at sizes of their own.
        scale = self.pixel_ratio or (0.5 if self.is_lit else 0.25)
        context = self.browser.new_context(
            viewport={"width": 1280, "height": 800},
            device_scale_factor=scale,
            # Cards that slide to their places are waited for at every edit.
            reduced_motion="no-preference" if self.slides else "reduce",
        )
        self.addClassCleanup(context.close)
        context.set_default_timeout(PATIENCE * 1000)
        # Somebody who has seen the hints; the test of the hints begins anew.
        context.add_init_script("localStorage.getItem('moth.hint') ?? localStorage.setItem('moth.hint', '99')")
        if not self.is_lit:
            context.add_init_script(UNLIT)
        kept = context.new_page()
        if self.site():
            kept.goto(self.site())
        return context, kept

    def watched(self, page: Page) -> Page:
        page.on("console", lambda m: self.said.append(f"{m.text} {m.location['url']}") if m.type == "error" else None)
        page.on("pageerror", lambda e: self.said.append(str(e)))
        return page

    def tearDown(self) -> None:
        said = list(self.said)
        for page in self.context.pages:
            if page is not self.kept:
                page.close()
        self.context.clear_cookies()
        self.context.clear_permissions()
        if self.site():
            self.kept.evaluate("() => localStorage.clear()")
        self.assertEqual(said, [], "the console was clean")
