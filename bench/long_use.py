"""What a long session costs in memory. Run: .venv/bin/python -m bench.long_use [minutes]

A page is used without pause: orbiting, turning the light, editing values, wiring, switching variants, forms and looks,
undoing. The script heap (after its garbage is collected), what the stage holds on the GPU and the server's memory are
compared between the end of the first fifth, when everything has been seen that is kept and the browser has compiled what
it uses often, and the end; 10 % more is too much.
"""

import sys
import time
from pathlib import Path
from typing import Any

from playwright.sync_api import CDPSession, Page, sync_playwright

from bench.serving import served
from tests.support.browser import ARGUMENTS, CHROMIUM

MINUTES = 20.0
GROWTH = 1.10
# After so many rounds every form and look has been seen; what is kept of them is no growth.
MET = 6
WORKS = ("Ferry enamel", "Basin water", "Ferrywoman's braid")
READY = "() => window.moth?.stage.isReady && !moth.stage.isBusy"
# One round of use inside the page, each step waited for.
ROUND = """async (round) => {
    const { model, stage } = moth;
    const rest = () => new Promise((done) => {
        const look = () => (stage.isReady && !stage.isBusy ? done() : setTimeout(look, 20));
        setTimeout(look, 20);
    });
    for (let i = 0; i < 6; i += 1) { stage.hands.orbit(10, i % 2 ? 3 : -3, 1); await rest(); }
    stage.lighting.turn(15, 0); await rest();
    const { variants, parameters } = model.state.document;
    const numbers = parameters.filter(({ node, input }) => model.defaultValue(node, input).length === 1);
    const { node, input, low, high } = numbers[round % numbers.length];
    const value = [low + ((round * 0.137) % 1) * (high - low)];
    await model.edit({ op: "set_value", node, input, value }); await rest();
    await model.setVariant(round % 2 && variants.length ? variants[round % variants.length].id : ""); await rest();
    await model.setShown(round % 3 ? "" : "stage.normals"); await rest();
    await model.setShown(""); await rest();
    await model.undo(); await rest();
    await model.edit({ op: "set_form", value: ["sphere", "mooring", "box"][round % 3] }); await rest();
    await model.undo(); await rest();
}"""


def held(page: Page, session: CDPSession, server: int) -> dict[str, float]:
    """Megabytes of the script heap and of the server; textures, geometries and programs on the GPU."""
    session.send("HeapProfiler.collectGarbage")
    heap = session.send("Runtime.getHeapUsage")["usedSize"] / 1e6
    info: Any = page.evaluate(
        "() => { const { memory, programs } = moth.stage.renderer.info; return { ...memory, programs: programs.length } }"
    )
    pages = int(Path(f"/proc/{server}/statm").read_text().split()[1])
    return {"heap": heap, "server": pages * 4096 / 1e6, **{key: float(value) for key, value in info.items()}}


def main() -> None:
    seconds = 60 * (float(sys.argv[1]) if len(sys.argv) > 1 else MINUTES) / len(WORKS)
    with served() as live, sync_playwright() as playwright:
        browser = playwright.chromium.launch(executable_path=CHROMIUM, args=ARGUMENTS)
        for title in WORKS:
            page = browser.new_page(viewport={"width": 1280, "height": 800})
            page.goto(live.url)
            page.get_by_role("link", name=f"Open {title}").click()
            page.wait_for_function(READY, timeout=60_000)
            session = page.context.new_cdp_session(page)
            began, rounds, first = time.monotonic(), 0, None
            while time.monotonic() - began < seconds:
                page.evaluate(ROUND, rounds)
                rounds += 1
                if first is None and rounds >= MET and time.monotonic() - began > seconds / 5:
                    first = held(page, session, live.process.pid or 0)
            last = held(page, session, live.process.pid or 0)
            assert first is not None, "too short for this machine: give it more minutes"
            print(f"{title}: {rounds} rounds in {seconds:.0f} s")
            for key, value in last.items():
                grown = value / max(first[key], 1e-9)
                print(
                    f"  {key}: {first[key]:.1f} to {value:.1f} ({grown:.2f}) {'kept' if grown <= GROWTH else 'MISSED'}"
                )
            page.close()
        browser.close()


if __name__ == "__main__":
    main()
