"""From dropping a large picture on the room of textures to seeing it. Run: .venv/bin/python -m bench.first_view

A 4096x4096 PNG is given to the page. The clock stops when it is first drawn, as the browser reads it, against 4 s and
1.5 times the baseline of the same process: decoding and halving by the library alone, as in bench/textures.py. It stops
again when what is drawn are the core's own levels, kept in the database, and when what is found out about it is told.
"""

import tempfile
import time
from pathlib import Path

from playwright.sync_api import Page, sync_playwright

from bench.serving import served
from bench.textures import ROUNDS, large_file, least, raw_import, verdict
from tests.support.browser import ARGUMENTS, CHROMIUM

BUDGET = 4.0
RATIO = 1.5
SEEN = "() => room.viewer.levels?.whole[0] === 4096 && room.viewer.pictures.size"
KEPT = "() => room.viewer.levels?.whole[0] === 4096 && !room.viewer.levels.isGlimpse && room.viewer.pictures.size"
TOLD = "() => document.querySelector('.verdicts, .well') && !document.getElementById('progress').textContent"


def seen(page: Page, url: str, path: Path) -> list[float]:
    """Seconds until the picture is drawn, until its levels are, and until what is found out about it is told."""
    page.goto(f"{url}/textures")
    page.locator("#tiles .texture-tile").first.wait_for()
    page.wait_for_function("() => room.viewer.levels")
    times, began = [], time.perf_counter()
    page.locator("#import-files").set_input_files(path)
    for state in (SEEN, KEPT, TOLD):
        page.wait_for_function(state, timeout=60_000)
        times.append(time.perf_counter() - began)
    return times


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
    first, kept, told = (min(column) for column in zip(*times, strict=True))
    print(f"import of 4096x4096 to first view: {first:.2f} s, budget {BUDGET:.0f} s {verdict(first, BUDGET)}")
    print(f"ratio to the raw calls ({raw:.2f} s): {first / raw:.2f}, budget {RATIO} {verdict(first / raw, RATIO)}")
    print(
        f"its levels kept and drawn after {kept:.2f} s ({kept / raw:.2f}), what is found out about it after {told:.2f} s"
    )


if __name__ == "__main__":
    main()
