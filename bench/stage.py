"""The stage while the eye moves, in this machine's own renderer. Run: .venv/bin/python -m bench.stage

Every graph of the demo is orbited for a while; the resolution gives way so that a frame stays under 60 ms. Told for each:
the median and the slowest tenth of its frames, the share of the resolution that is kept, and how long the whole picture takes
once it is still.
"""

import statistics
from typing import Any

from playwright.sync_api import Page, sync_playwright
from sqlalchemy.orm import Session

from bench.serving import served
from bench.textures import verdict
from tests.support.browser import ARGUMENTS, CHROMIUM, wait_until
from velvet_moth.store import listing, projects

BUDGET = 60.0
FRAMES = 45
# The first frames teach the resolution.
LEARNING = 15
READY = (
    "() => moth.model.waiting === 0 && moth.stage.isReady && !moth.stage.isBusy && moth.stage.isAtBest"
    " && (!moth.model.state.document.backdrop || !!moth.stage.backdrop.loaded)"
    # Server, pictures of variants and stage share this machine's processors; the stage is what is measured.
    " && !document.querySelector('canvas[data-variant]:not([data-painted])')"
)
ORBIT = """async (frames) => {
    const { stage } = moth;
    const drawn = () => new Promise((done) => stage.addEventListener("drawn", done, { once: true }));
    const found = [];
    for (let i = 0; i < frames; i += 1) {
        stage.hands.orbit(4, 0, 1);
        await drawn();
        found.push([stage.frameTime, stage.resolution.current]);
    }
    const began = performance.now();
    while (stage.resolution.isMoving || stage.isBusy || stage.isDirty) await new Promise((done) => setTimeout(done, 20));
    return { found, still: stage.frameTime };
}"""


def orbited(page: Page, url: str) -> tuple[float, float, float, float]:
    """Median and ninth tenth of the frames (ms), the resolution kept, and the whole picture's time (ms)."""
    page.goto(url)
    wait_until("the stage is ready", lambda: page.evaluate(READY), 120)
    told: dict[str, Any] = page.evaluate(ORBIT, FRAMES)
    frames = [f[0] for f in told["found"][LEARNING:]]
    share = statistics.median(f[1] for f in told["found"][LEARNING:])
    return statistics.median(frames), statistics.quantiles(frames, n=10)[8], share, told["still"]


def main() -> None:
    with served() as live:
        with Session(live.engine) as session:
            kept = listing.tiles(session, projects.first(session).id)
            known = {k.title: k.id for k in kept}
        print(f"{len(known)} graphs, budget {BUDGET:.0f} ms a frame while the eye moves")
        with sync_playwright() as playwright:
            browser = playwright.chromium.launch(executable_path=CHROMIUM, args=list(ARGUMENTS))
            page = browser.new_page(viewport={"width": 1280, "height": 800})
            for title, key in sorted(known.items()):
                middle, slow, share, still = orbited(page, f"{live.url}/graphs/{key}")
                print(
                    f"{title:22} {middle:5.0f} ms, slowest tenth {slow:5.0f} ms, at {share:4.0%} of the resolution;"
                    f" whole {still:6.0f} ms  {verdict(middle, BUDGET)}"
                )
            browser.close()


if __name__ == "__main__":
    main()
