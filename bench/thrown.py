"""Two hundred splashes and five thousand instances on the stage, beside drawing the scene alone; and what throwing costs in the core.

Run: .venv/bin/python -m bench.thrown
"""

import statistics
import time
from collections.abc import Callable
from dataclasses import asdict, replace
from itertools import islice

import numpy as np
from playwright.sync_api import Page, sync_playwright

from bench.serving import served
from tests.support.browser import ARGUMENTS, CHROMIUM
from tests.support.databases import graph_id
from velvet_moth.core.emitting.spurting import sources_of
from velvet_moth.core.forms import form
from velvet_moth.core.render.tracing.instancing import instanced
from velvet_moth.core.scenery.backdrops import backdrop
from velvet_moth.core.throwing.placing import Splash, aimed, thrown
from velvet_moth.core.throwing.sowing import sown
from velvet_moth.core.throwing.surroundings import surroundings_of
from velvet_moth.demo.thrown import QUAY_RULE, splash_drops

SPLASHES, INSTANCES, FRAMES, BUDGET = 200, 5000, 12, 60
# A frame at full resolution, and the share of the resolution that keeps up once time has run for a while.
FRAME = """async ([frames, step]) => {
  const { stage } = moth, times = [];
  for (let i = 0; i < frames; i += 1) {
    stage.time += step;
    const at = performance.now();
    await stage.snapshot(stage.canvas.clientWidth, stage.canvas.clientHeight);
    times.push(performance.now() - at);
  }
  return times;
}"""
SHOW = """async ([decals, sources]) => {
  moth.stage.setDecals([]);
  moth.stage.setThrown(decals, sources);
}"""
# All at once, slowed until they hover where they can be seen.
EMIT = """(burst) => {
  const { emitter } = moth.stage.spurt.drawn;
  emitter.slots = burst;
  Object.assign(emitter.inputs, {
    emitter_slots: [burst], emitter_births: [0, burst, 0],
    emitter_life: [60, 60, 0.03, 0.08], emitter_forces: [0, 2, 0, 0],
  });
}"""
# The same instances, as cards of two triangles.
CARDS = """async () => {
  const { formGeometry } = await import("moth/stage/forms.js");
  moth.stage.spurt.instances.setForm(await formGeometry("card", false));
}"""
PLAYED = """async (seconds) => {
  const { stage } = moth, times = [];
  const note = () => times.push(stage.frameTime);
  stage.setPlaying(true);
  await new Promise((go) => setTimeout(go, seconds * 1000));
  stage.addEventListener("drawn", note);
  await new Promise((go) => setTimeout(go, seconds * 1000));
  stage.removeEventListener("drawn", note);
  stage.setPlaying(false);
  times.sort((a, b) => a - b);
  return [times[times.length >> 1], stage.resolution.scale];
}"""


def timed(work: Callable[[], object], times: int = 5) -> float:
    """The median of some runs, seconds."""
    found = []
    for _ in range(times):
        start = time.perf_counter()
        work()
        found.append(time.perf_counter() - start)
    return statistics.median(found)


def splashes() -> list[Splash]:
    """Throws all over the quay, those that leave something."""
    around = surroundings_of("quay_corner")
    assert around is not None
    aims = sown(backdrop("quay_corner").view, SPLASHES * 4, 5)
    every = (thrown(around, QUAY_RULE, aimed(around, aim)) for aim in aims)
    return list(islice((one for one in every if one.decals), SPLASHES))


def in_the_core(made: list[Splash]) -> None:
    around = surroundings_of("quay_corner")
    assert around is not None
    first = [one.throw for one in made[:40]]
    each = timed(lambda: [thrown(around, QUAY_RULE, one) for one in first], 3) / len(first)
    rays = np.random.default_rng(1).normal(size=(5000, 3))
    rays /= np.linalg.norm(rays, axis=1, keepdims=True)
    raw = timed(lambda: around.meet(np.zeros((5000, 3)), rays))
    print(f"one throw: {each * 1e3:.1f} ms; 5,000 raw rays at the same scene: {raw * 1e3:.1f} ms, {each / raw:.1f}x")
    drops = splash_drops({}).emitter
    sources = [one for splash in made for one in sources_of(splash.decals)]
    many = replace(drops, burst=float(INSTANCES // len(sources)), life=(2.0, 2.0))
    source = [replace(one, born=0.0) for one in sources]
    card = form("card")
    eye = np.array((2.0, 1.0, 4.0))
    whole = timed(lambda: instanced(card, many, source, 0.3, eye))
    place, way, age = np.zeros((INSTANCES, 3)), np.ones((INSTANCES, 3)), np.full((INSTANCES, 1), 0.3)

    def by_hand() -> object:
        middle = place + way * (1 - np.exp(-0.8 * age)) / 0.8
        middle[:, 1:2] -= 7.0 * (age - (1 - np.exp(-0.8 * age)) / 0.8) / 0.8
        ahead = eye - middle
        ahead /= np.linalg.norm(ahead, axis=1, keepdims=True)
        right = np.cross((0.0, 1.0, 0.0), ahead)
        up = np.cross(ahead, right)
        axes = np.stack((right, up, ahead), axis=1)
        return [np.einsum("vi,nij->nvj", of, axes) for of in (card.positions, card.normals, card.tangents[:, :3])]

    hand = timed(by_hand)
    print(
        f"{len(source) * int(many.burst)} instances at a moment, as a mesh: {whole * 1e3:.0f} ms, {whole / hand:.1f}x by hand in NumPy"
    )


def measured(page: Page, words: str, alone: float) -> float:
    spent = float(statistics.median(page.evaluate(FRAME, [FRAMES, 1 / 30])[2:]))
    frame, share = page.evaluate(PLAYED, 4)
    beside = f", {spent / alone:.2f}x the scene alone" if alone else ""
    print(
        f"{words}: {spent:.0f} ms whole{beside}; played {frame:.0f} ms at {share:.0%} of the resolution (budget {BUDGET} ms)"
    )
    return spent


def on_the_stage(made: list[Splash]) -> None:
    with served() as live, sync_playwright() as playwright:
        browser = playwright.chromium.launch(executable_path=CHROMIUM, args=ARGUMENTS)
        page = browser.new_page(viewport={"width": 1280, "height": 800}, device_scale_factor=1)
        page.set_default_timeout(300_000)
        page.goto(f"{live.url}/graphs/{graph_id(live.engine, 'Thrown at the quay')}")
        page.wait_for_function(
            "() => globalThis.moth?.stage.isReady && moth.stage.backdrop.loaded && moth.stage.spurt.drawn"
        )
        page.evaluate("() => moth.stage.setTime(1)")
        page.evaluate(SHOW, [[], []])
        alone = measured(page, "the scene alone", 0.0)
        decals = [asdict(replace(one, born=0.0)) for splash in made for one in splash.decals][:SPLASHES]
        sources = [asdict(replace(one, born=1.0)) for splash in made for one in sources_of(splash.decals)]
        page.evaluate(EMIT, INSTANCES // len(sources))
        page.evaluate(SHOW, [[], sources])
        measured(page, f"with {INSTANCES} drops", alone)
        page.evaluate(CARDS)
        page.evaluate(SHOW, [[], sources])
        measured(page, f"with {INSTANCES} cards", alone)
        page.evaluate(SHOW, [decals, []])
        measured(page, f"with {len(decals)} splashes", alone)
        page.evaluate(SHOW, [decals, sources])
        measured(page, "with splashes and cards", alone)
        browser.close()


def main() -> None:
    made = splashes()
    in_the_core(made)
    on_the_stage(made)


if __name__ == "__main__":
    main()
