"""The workbench as a person uses it: pointer, keyboard, eyes. Shared by the browser tests."""

from collections.abc import Iterator
from contextlib import contextmanager
from typing import Any

import numpy as np
from playwright.sync_api import Locator

from tests.support.browser import BrowserCase, array_of, data_of, wait_until
from tests.support.databases import graph_id
from tests.support.live import LiveCase
from tests.support.workers import Worker


class WorkbenchCase(BrowserCase, LiveCase):
    """A live server with the demo, and hands for the workbench."""

    @classmethod
    def site(cls) -> str:
        return f"{cls.live.url}/api/caches"

    # Going places

    def open(self, title: str) -> None:
        self.page.goto(f"{self.live.url}/graphs/{graph_id(self.live.engine, title)}")
        self.settle()

    def new_graph(self) -> None:
        self.page.goto(self.live.url)
        self.page.get_by_role("button", name="Empty graph").click()
        self.page.wait_for_url("**/graphs/*")
        self.settle()

    def settle(self) -> None:
        """Until no edit is on its way and the stage shows the newest shader."""
        ask = "() => !!window.moth?.model.state && moth.model.waiting === 0 && moth.stage.isReady && moth.pane.placing.isSettled"
        self.page.wait_for_function(ask)

    # Reading

    def state(self, part: str) -> Any:
        """One part of what the page knows; the whole takes long to hand over."""
        return data_of(self.page, "(part) => moth.model.state[part]", part)

    def errors(self) -> list[dict[str, Any]]:
        return [p for found in self.state("problems").values() for p in found if p["severity"] == "error"]

    def assert_as_reloaded(self) -> None:
        """What the page has put together from differences is what the server tells a page that knows nothing."""
        mine = data_of(self.page, "() => moth.model.state")
        whole = data_of(
            self.page,
            "async () => (await fetch(`${moth.model.url}?${new URLSearchParams({ variant: moth.model.variant })}`)).json()",
        )
        for part in ("document", "types", "input_types", "rates", "kinds", "problems", "swatches", "names", "revision"):
            self.assertEqual(mine[part], whole[part], part)

    def nodes(self) -> dict[str, dict[str, Any]]:
        return {n["id"]: n for n in self.state("document")["nodes"]}

    @contextmanager
    def in_true_light(self) -> Iterator[None]:
        """For a test that looks at pixels once only: the stage has its true shader meanwhile."""
        build = """async (isUnlit) => {
            const { stage, model } = moth;
            window.isUnlit = isUnlit;
            // While its material is there, a program of the same text is used again.
            for (const { material } of stage.materials.kept.values()) material.dispose();
            stage.materials.kept.clear();
            await stage.setShader(model.state.shader, stage.values.value);
        }"""
        self.settle()
        self.page.evaluate(build, False)
        self.is_lit = True
        yield
        self.is_lit = False
        self.page.evaluate(build, True)

    def pixels(self, size: int = 48) -> np.ndarray:
        """The stage's picture, (rows, columns, 4), row 0 at the bottom."""
        self.assertTrue(self.is_lit, "a test that looks at pixels is marked @lit")
        self.settle()
        return array_of(self.page, "(n) => moth.stage.snapshot(n, n)", size).reshape(size, size, 4)

    def middle(self) -> np.ndarray:
        """The mean colour in the middle of the stage's picture."""
        return self.pixels()[14:34, 14:34, :3].reshape(-1, 3).mean(axis=0)

    def card(self, name: str) -> Locator:
        return self.page.locator(".card").filter(has=self.page.get_by_role("heading", name=name, exact=True))

    def expect_refusal(self, status: int) -> None:
        """The browser writes a line of its own for every refused request; the test caused this one."""
        self.assertTrue(any(str(status) in s for s in self.said), self.said)
        self.said = [s for s in self.said if f"status of {status}" not in s]

    # Hands

    def add_by_search(self, query: str) -> str:
        """Space, typing, Enter; returns the new node's id."""
        before = set(self.nodes())
        self.page.keyboard.press("Space")
        self.page.locator("dialog").get_by_role("combobox").fill(query)
        wait_until("search answered", lambda: self.page.locator(f".choices[data-query='{query}']").count())
        self.page.keyboard.press("Enter")
        wait_until(f"{query} was added", lambda: set(self.nodes()) - before)
        self.settle()
        return (set(self.nodes()) - before).pop()

    def drag(self, start: Locator, end: Locator) -> None:
        """By the mouse from the middle of one element to the middle of another, in steps."""
        a, b = start.bounding_box(), end.bounding_box()
        assert a and b
        self.page.mouse.move(a["x"] + a["width"] / 2, a["y"] + a["height"] / 2)
        self.page.mouse.down()
        self.page.mouse.move(b["x"] + b["width"] / 2 - 8, b["y"] + b["height"] / 2, steps=4)
        self.page.mouse.move(b["x"] + b["width"] / 2, b["y"] + b["height"] / 2, steps=2)
        self.page.mouse.up()

    def output(self, node: str, key: str) -> Locator:
        return self.page.locator(f".pin.out[data-node='{node}'][data-output='{key}']")

    def input(self, node: str, key: str) -> Locator:
        return self.page.locator(f"li[data-node='{node}'][data-input='{key}']")

    def wire_by_mouse(self, source: str, output: str, node: str, key: str) -> None:
        self.page.get_by_role("button", name="Fit").click()
        # From far there are no pins: then one goes nearer to the two cards.
        nearer = """([a, b]) => {
            const { view, layer, places } = moth.pane;
            if (view.isFar) view.fit(layer.box(places, [a, b]));
            if (view.isFar) view.zoomBy(0.51 / view.zoom);
        }"""
        self.page.evaluate(nearer, [source, node if node != "dock" else source])
        self.close_slip()
        self.drag(self.output(source, output), self.input(node, key).locator(".pin.in"))
        self.expect_wire(source, output, node, key)

    def empty_place(self) -> tuple[float, float]:
        """A point of the window where the graph's ground is, with nothing on it."""
        ask = """() => {
            const box = document.getElementById("graph-pane").getBoundingClientRect();
            for (let y = box.bottom - 8; y > box.top; y -= 14) for (let x = box.left + 8; x < box.right; x += 14)
                if (document.elementFromPoint(x, y)?.id === "graph-pane") return [x, y];
        }"""
        x, y = self.page.evaluate(ask)
        return x, y

    def select(self, node: str) -> None:
        self.page.locator(f".card[data-node='{node}']").focus()

    def open_slip(self, node: str) -> Locator:
        """Enter on a card: its slip is there, and has the keyboard."""
        self.select(node)
        self.page.keyboard.press("Enter")
        slip = self.page.locator(f".slip[data-node='{node}']")
        slip.wait_for()
        return slip

    def close_slip(self) -> None:
        """Whatever slip is open: it may cover what is wanted next."""
        for close in self.page.get_by_role("button", name="Close slip").all():
            close.click()

    def wire_by_keyboard(self, source: str, words: str, node: str, key: str, output: str) -> None:
        self.select(source)
        self.page.keyboard.press("w")
        self.page.locator("dialog").get_by_role("combobox").fill(words)
        self.page.keyboard.press("Enter")
        self.expect_wire(source, output, node, key)

    def expect_wire(self, source: str, output: str, node: str, key: str, part: str = "") -> None:
        ends = [source, output, *([part] if part else [])]
        wired = lambda: (self.nodes()[node].get("wires") or {}).get(key)  # noqa: E731 - asked twice
        wait_until(f"{source}.{output} wired to {node}.{key}", lambda: wired() == ends)
        self.settle()

    def rename(self, node: str, label: str) -> None:
        field = self.open_slip(node).locator(f"[data-focus='{node}.label']")
        field.fill(label)
        field.press("Enter")
        wait_until(f"{node} named {label}", lambda: self.nodes()[node].get("label") == label)
        self.settle()
        self.close_slip()

    def type_value(self, node: str, key: str, text: str, value: list[float]) -> None:
        """Into the field on a card."""
        self.select(node)
        field = self.page.locator(f".card [data-focus='{node}.{key}']")
        field.fill(text)
        field.press("Enter")
        wait_until(f"{node}.{key} is {text}", lambda: self.nodes()[node].get("values", {}).get(key) == value)
        self.settle()

    def type_colour(self, node: str, key: str, hex_text: str) -> None:
        """Through the colour panel, by its hex field."""
        before = self.nodes()[node].get("values", {}).get(key)
        self.select(node)
        self.page.locator(f".card [data-focus='{node}.{key}']").click()
        field = self.page.locator(".colour-panel input[maxlength='7']")
        field.fill(hex_text)
        field.press("Enter")
        wait_until("the colour was kept", lambda: self.nodes()[node].get("values", {}).get(key) != before)
        self.page.keyboard.press("Escape")
        self.settle()

    def make_parameter(self, node: str, key: str) -> str:
        """Makes a value a parameter by the mark beside it; returns the parameter's id."""
        self.open_slip(node).locator(f"[data-focus='{node}.{key}.parameter']").click()
        found = wait_until(
            "the parameter is there",
            lambda: [p["id"] for p in self.state("document")["parameters"] if (p["node"], p["input"]) == (node, key)],
        )
        self.settle()
        self.close_slip()
        return str(found[0])

    def choose_texture(self, node: str, name: str) -> None:
        self.select(node)
        self.page.locator(f".card [data-focus='{node}.texture']").click()
        self.page.locator("#texture-drawer .texture-tile", has_text=name).click()
        wait_until("the texture was chosen", lambda: self.nodes()[node].get("values", {}).get("texture"))
        self.settle()


class WithWorker(WorkbenchCase):
    """With a worker beside the server, as ``./moth up`` has one: long work is done."""

    @classmethod
    def setUpClass(cls) -> None:
        super().setUpClass()
        worker = Worker(cls.live.address)
        cls.addClassCleanup(worker.stop)
