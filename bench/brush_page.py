"""From the pointer to what is painted in the page, on meshes of 100,000 and a million vertices, and its parts.

The time of a frame of the surface itself is left out: the page draws an unlit one.

Run: .venv/bin/python -m bench.brush_page
"""

import statistics
import tempfile
from pathlib import Path

from playwright.sync_api import Page, sync_playwright

from bench.bakes import hills
from bench.brushes import BUDGETS, SIDES
from bench.serving import served
from tests.support.browser import ARGUMENTS, CHROMIUM, UNLIT
from tests.support.workers import Worker
from velvet_moth.core.meshes.formats import FORMATS
from velvet_moth.core.meshes.intake import as_source
from velvet_moth.store.database import plain_address

MOVES, PIXELS = 60, 7
STEP = """async () => {
  await room.steps.model.edit({ op: "add_step", step: "paint", id: "wet" });
  room.steps.choose("wet");
}"""
# Moments of the last move of the pointer, of the answer to it, and of when that is on the mesh.
WATCH = """() => {
  globalThis.moments = { times: [], hits: [], puts: [] };
  const { brush } = room.painting;
  let moved = 0;
  addEventListener("pointermove", () => (moved = performance.now()), { capture: true });
  const { seen } = brush.host;
  brush.host.seen = (vertices, values) => {
    const came = performance.now();
    seen(vertices, values);
    const done = performance.now();
    moments.times.push(done - moved);
    moments.puts.push(done - came);
  };
}"""
HITS = """async () => {
  const { hitAt } = await import("moth/brush/hits.js");
  const { clientWidth, clientHeight } = room.stage.canvas;
  const at = performance.now();
  for (let i = 0; i < 100; i += 1) hitAt(room.stage, clientWidth / 2 + (i % 10), clientHeight / 2 + i / 10);
  return (performance.now() - at) / 100;
}"""


def painted(page: Page) -> dict[str, list[float]]:
    """Strokes back and forth over the middle of the mesh; what the page has noted."""
    box = page.locator("#stage").bounding_box()
    assert box is not None
    x, y = box["x"] + box["width"] / 2, box["y"] + box["height"] / 2
    page.mouse.move(x - 60, y)
    page.mouse.down()
    for at in range(MOVES):
        page.mouse.move(x - 60 + PIXELS * at % 140, y + PIXELS * (at // 20))
        # The next move comes when the last is answered, as an even hand leaves 16 ms between two.
        page.wait_for_function("() => !room.painting.brush.stroke?.isSending")
    page.mouse.up()
    page.wait_for_function("() => !room.painting.brush.underWay")
    return dict(page.evaluate("() => moments"))


def main() -> None:
    with tempfile.TemporaryDirectory() as folder, served() as live, sync_playwright() as playwright:
        worker = Worker(plain_address(live.engine))
        browser = playwright.chromium.launch(executable_path=CHROMIUM, args=ARGUMENTS)
        for side, budget in zip(SIDES, BUDGETS, strict=True):
            page = browser.new_page()
            page.add_init_script(UNLIT)
            page.set_default_timeout(300_000)
            page.goto(f"{live.url}/meshes")
            page.wait_for_function("() => globalThis.room?.stage.isReady")
            path = Path(folder) / f"hills {side}.glb"
            path.write_bytes(FORMATS["gltf"].encode(as_source(hills(side))))
            page.set_input_files("#import-files", path)
            page.wait_for_function(
                "(name) => document.querySelector('#about')?.textContent.includes(name)", arg=path.stem
            )
            page.wait_for_function("() => room.stage.isReady && !room.stage.isBusy")
            page.get_by_role("button", name="Steps").click()
            page.evaluate(STEP)
            page.wait_for_function("() => !room.steps.isLooking && room.stage.isReady && !room.stage.isBusy")
            page.get_by_role("button", name="Take the brush").click()
            page.evaluate(WATCH)
            hit = page.evaluate(HITS)
            found = painted(page)
            whole, put = (statistics.median(found[key]) for key in ("times", "puts"))
            print(
                f"{side * side:,} vertices: from the pointer to the mesh {whole:.1f} ms in {len(found['times'])} answers "
                f"(budget {budget:.0f} ms): the hit {hit:.2f} ms, put onto the mesh {put:.2f} ms, core and HTTP the rest"
            )
            page.close()
        browser.close()
        worker.stop()


if __name__ == "__main__":
    main()
