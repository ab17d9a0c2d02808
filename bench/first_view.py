"""From dropping a large picture on the room of textures to seeing it. Run: .venv/bin/python -m bench.first_view

A 4096x4096 PNG is given to the page; the clock stops when its pixels are drawn, against 4 s. The baseline of the same
process is decoding and halving by the library alone, as in bench/textures.py.
"""

import tempfile
import time
from pathlib import Path

from playwright.sync_api import Page, sync_playwright

from bench.serving import served
from bench.textures import ROUNDS, large_file, least, raw_import, verdict
from tests.support.browser import ARGUMENTS, CHROMIUM

BUDGET = 4.0
DRAWN = "() => room.viewer.levels?.whole[0] === 4096"
TOLD = "() => document.querySelector('.verdicts, .well') && !document.getElementById('progress').textContent"


def seen(page: Page, url: str, path: Path) -> tuple[float, float]:
    """Seconds until the picture is drawn, and until what is found out about it is told."""
    page.goto(f"{url}/textures")
    page.locator("#tiles .texture-tile").first.wait_for()
    began = time.perf_counter()
    page.locator("#import-files").set_input_files(path)
    page.wait_for_function(DRAWN, timeout=60_000)
    drawn = time.perf_counter() - began
    page.wait_for_function(TOLD, timeout=60_000)
    return drawn, time.perf_counter() - began


def main() -> None:
    data = large_file()
    raw = least(lambda: raw_import(data))
    with served() as live, sync_playwright() as playwright, tempfile.TemporaryDirectory() as folder:
        browser = playwright.chromium.launch(executable_path=CHROMIUM, args=ARGUMENTS)
        page = browser.new_page(viewport={"width": 1280, "height": 800})
        times = []
        for number in range(ROUNDS):
            path = Path(folder) / f"large {number}.png"
            # The bytes after the end make each import another file.
            path.write_bytes(data + bytes([number]))
            times.append(seen(page, live.url, path))
        browser.close()
    drawn, told = min(t for t, _ in times), min(t for _, t in times)
    print(f"import of 4096x4096 to first view: {drawn:.2f} s, budget {BUDGET:.0f} s {verdict(drawn, BUDGET)}")
    print(f"ratio to the raw calls ({raw:.2f} s) {drawn / raw:.2f}; what is found out about it told after {told:.2f} s")


if __name__ == "__main__":
    main()
