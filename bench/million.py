"""A mesh of a million vertices from file to bake: seconds, memory, and whether the page stays alive.

Run: .venv/bin/python -m bench.million
"""

import tempfile
import threading
import time
from collections.abc import Iterator
from contextlib import contextmanager
from pathlib import Path

from playwright.sync_api import Page, sync_playwright

from bench.bakes import hills
from bench.serving import served
from tests.support.browser import ARGUMENTS, CHROMIUM, UNLIT
from tests.support.workers import Worker
from velvet_moth.core.meshes.formats import FORMATS
from velvet_moth.core.meshes.intake import as_source
from velvet_moth.store.database import plain_address

SIDE = 1000
RAYS = 16
# The longest that the page's own thread was at work without a break, and the longest between two of its frames; ms.
WATCH = """() => {
  globalThis.longest = { task: 0, frame: 0 };
  new PerformanceObserver((list) => {
    for (const { duration } of list.getEntries()) longest.task = Math.max(longest.task, duration);
  }).observe({ type: "longtask" });
  let last = performance.now();
  const step = (now) => {
    longest.frame = Math.max(longest.frame, now - last);
    last = now;
    requestAnimationFrame(step);
  };
  requestAnimationFrame(step);
}"""
TAKE = "() => { const found = { ...longest }; longest.task = longest.frame = 0; return found; }"
BAKE = """async (rays) => {
  await room.steps.model.edit({ op: "add_step", step: "occlusion", id: "hidden", values: { rays } });
  await room.steps.model.edit({ op: "add_output", step: "hidden", layer: "values", id: "red", name: "Open sky" });
}"""


class Memory(threading.Thread):
    """The most memory that any process below one has, looked at often; bytes."""

    def __init__(self, root: int) -> None:
        super().__init__(daemon=True)
        self.root, self.most, self.stopped = root, 0, threading.Event()
        self.start()

    def run(self) -> None:
        while not self.stopped.wait(0.05):
            for process in self._below():
                self.most = max(self.most, _memory(process))

    def _below(self) -> list[int]:
        found, todo = [], [self.root]
        while todo:
            found.append(todo.pop())
            for children in Path(f"/proc/{found[-1]}/task").glob("*/children"):
                try:
                    todo += [int(child) for child in children.read_text().split()]
                except OSError:
                    continue
        return found


def _memory(process: int) -> int:
    """The memory that a process has, bytes; 0 where it has ended."""
    try:
        lines = Path(f"/proc/{process}/status").read_text().splitlines()
    except OSError:
        return 0
    return next((int(line.split()[1]) << 10 for line in lines if line.startswith("VmRSS")), 0)


@contextmanager
def timed(page: Page, what: str, server: Memory, worker: Memory) -> Iterator[None]:
    server.most = worker.most = 0
    page.evaluate(TAKE)
    at = time.perf_counter()
    yield
    found = page.evaluate(TAKE)
    print(
        f"{what:36} {time.perf_counter() - at:6.1f} s   memory: server {server.most / 2**30:.2f} GB, "
        f"worker {worker.most / 2**30:.2f} GB   page: longest task {found['task']:.0f} ms, longest frame {found['frame']:.0f} ms"
    )


def main() -> None:
    mesh = as_source(hills(SIDE))
    with tempfile.TemporaryDirectory() as folder, served() as live, sync_playwright() as playwright:
        worker = Worker(plain_address(live.engine))
        assert live.process.pid is not None
        memories = Memory(live.process.pid), Memory(worker.process.pid)
        browser = playwright.chromium.launch(executable_path=CHROMIUM, args=ARGUMENTS)
        page = browser.new_page()
        # A frame of two million triangles takes seconds in software: it is the page's own work that is looked at.
        page.add_init_script(UNLIT)
        page.set_default_timeout(300_000)
        page.goto(f"{live.url}/meshes")
        page.wait_for_function("() => globalThis.room?.stage.isReady")
        page.evaluate(WATCH)
        for key in ("gltf", "ply", "obj"):
            path = Path(folder) / f"hills {key}{FORMATS[key].suffixes[0]}"
            path.write_bytes(FORMATS[key].encode(mesh))
            with timed(page, f"{path.name}, {path.stat().st_size >> 20} MB: brought in", *memories):
                page.set_input_files("#import-files", path)
                page.wait_for_function(
                    "(name) => document.querySelector('#about')?.textContent.includes(name)", arg=path.stem
                )
                page.wait_for_function("() => room.stage.isReady && !room.stage.isBusy")
        with timed(page, "a step seen at once", *memories):
            page.evaluate(BAKE, RAYS)
            page.wait_for_function("() => !room.steps.model.waiting")
            page.get_by_role("button", name="Steps").click()
            page.wait_for_function("() => room.stage.isReady && !room.stage.isBusy")
        with timed(page, f"baked with {RAYS} rays", *memories):
            page.get_by_role("button", name="Bake").click()
            page.get_by_text("What stands on it follows").wait_for()
        for memory in memories:
            memory.stopped.set()
        browser.close()
        worker.stop()


if __name__ == "__main__":
    main()
