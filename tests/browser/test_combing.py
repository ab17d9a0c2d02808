"""Heron Lock's painted surfaces by hand: the quay, the estuary and the stream at the weir, over a restart of the server."""

import re
import unittest

import numpy as np
from playwright.sync_api import Route

from tests.browser.bench_page import WithWorker, WorkbenchCase
from tests.browser.test_meshes_room import InTheRoom
from tests.support.browser import array_of, wait_until


class Restarted(WorkbenchCase):
    """Cases whose server is killed and comes back, as pages see it."""

    def restart(self) -> None:
        self.live.kill()
        self.live.start()

    def tearDown(self) -> None:
        # The browser has a line of its own, sooner or later, for what it asked for meanwhile.
        self.said = [s for s in self.said if "ERR_" not in s]
        super().tearDown()


class Stream(Restarted, WithWorker, InTheRoom):
    def directions(self) -> np.ndarray:
        """Along U, along V and the speed at each vertex, as they are seen."""
        ask = "() => room.painting.looking.flow.numbers ?? new Float32Array(0)"
        return array_of(self.page, ask, dtype=np.float32).reshape(-1, 3)

    def same_as(self, before: np.ndarray) -> None:
        def is_same() -> bool:
            now = self.directions()
            return now.shape == before.shape and bool(np.abs(now - before).max() < 1e-5)

        wait_until("the directions are as they were", is_same)

    def counted(self, words: str) -> None:
        wait_until(words, lambda: words in self.page.locator(".brush-panel [role=status]").inner_text())

    def to_step(self, name: str) -> None:
        self.is_shown("Weir stream")
        self.page.get_by_role("button", name=re.compile("^Steps")).click()
        self.page.locator(".step-name", has_text=name).click()
        wait_until("its directions are seen", lambda: len(self.directions()))
        self.at_rest()

    def flows(self) -> dict[str, int]:
        """The flow maps of the project, with their revisions."""
        found = self.page.request.get(f"{self.live.url}/api/textures").json()["textures"]
        return {t["name"]: t["revision"] for t in found if t["role"] == "flow" and t["mesh"]}

    def test_it_is_combed_by_pointer_and_keys_and_undone_after_a_restart(self) -> None:
        self.go()
        self.tile("Weir stream").click()
        self.to_step("Comb")
        self.counted("30 strokes")
        wait_until("hair lines", lambda: self.page.evaluate("() => !!room.painting.looking.flow.lines.segments.parent"))
        before = self.directions()
        self.page.get_by_role("button", name="Take the brush").click()
        self.page.locator(".brush-panel").get_by_label("Speed").fill("0.5")
        box = self.page.locator("#stage").bounding_box()
        assert box is not None
        x, y = box["x"] + box["width"] / 2, box["y"] + box["height"] / 2
        self.page.mouse.move(x - 60, y)
        self.page.mouse.down()
        self.page.mouse.move(x + 10, y, steps=8)
        wait_until("it runs before the hand is lifted", lambda: (self.directions() != before).any())
        self.page.mouse.up()
        self.at_rest()
        self.counted("31 strokes")
        new = (before[:, 2] == 0) & (self.directions()[:, 2] > 0.45)
        self.assertGreater(new.sum(), 5)
        self.assertLess(self.directions()[new, 2].max(), 0.5001)
        # The same by keys: a line between two places.
        self.page.locator("#stage").focus()
        self.page.keyboard.press("Enter")
        for _ in range(4):
            self.page.keyboard.press("ArrowDown")
        self.page.keyboard.press("Enter")
        self.counted("32 strokes")
        self.at_rest()
        kept = self.directions()
        self.restart()
        self.page.reload()
        self.to_step("Comb")
        self.same_as(kept)
        for count in (31, 30):
            self.page.get_by_role("button", name="Undo").click()
            self.counted(f"{count} strokes")
        self.same_as(before)

    def test_its_flow_is_seen_in_every_way_and_flow_maps_follow_it(self) -> None:
        self.go()
        self.tile("Weir stream").click()
        self.to_step("Relaxed")
        for way in ("streamlines", "heading", "moved"):
            self.page.get_by_label("Directions are seen").select_option(way)
            wait_until(f"seen as {way}", lambda w=way: self.page.evaluate("() => room.painting.looking.flow.way") == w)
        self.page.get_by_role("button", name="Play").click()
        wait_until("it moves", lambda: self.page.evaluate("() => room.stage.time > 0.02"))
        self.page.get_by_role("button", name="Stop").click()
        self.assertGreater((self.directions()[:, 2] > 0).mean(), 0.5)
        self.page.get_by_role("button", name="To a texture …").click()
        self.page.get_by_role("dialog").get_by_label("Name").fill("Eddy flow")
        self.page.get_by_label("Size in pixels").select_option("64")
        self.page.get_by_role("dialog").get_by_role("button", name="Bake").click()
        self.page.locator(".notice", has_text="Eddy flow is among the textures").wait_for()
        before_bake = self.flows()
        self.assertEqual(set(before_bake), {"Eddy flow", "Weir stream flow"})
        # Another way of relaxing is another flow.
        self.page.get_by_label("Rim", exact=True).select_option("free")
        self.at_rest()
        self.page.get_by_role("button", name="Bake", exact=True).click()
        self.page.locator(".notice", has_text="Baked Weir stream").wait_for()
        wait_until("both flow maps follow", lambda: all(self.flows()[key] > had for key, had in before_bake.items()))
        self.open("Weir stream")
        read = {sampler["revision"] for sampler in self.state("shader")["samplers"]}
        self.assertIn(self.flows()["Weir stream flow"], read)


class OnTheStage(Restarted, WithWorker, WorkbenchCase):
    def colours(self) -> np.ndarray:
        return array_of(
            self.page, "() => moth.stage.mesh.geometry.getAttribute('colour').array", dtype=np.float32
        ).reshape(-1, 4)

    def take_the_brush(self, step: str) -> None:
        self.page.get_by_role("button", name="More", exact=True).click()
        self.page.get_by_role("menuitem", name="Paint on the mesh").click()
        self.page.get_by_label("Painted step").select_option(label=step)
        self.page.get_by_role("button", name="Put the brush away").wait_for()

    def counted(self, words: str) -> None:
        wait_until(words, lambda: words in self.page.locator("#painting [role=status]").inner_text())

    def stroke(self, over: int) -> None:
        box = self.page.locator("#stage").bounding_box()
        assert box is not None
        x, y = box["x"] + box["width"] / 2, box["y"] + box["height"] / 2
        self.page.mouse.move(x - over, y + 10)
        self.page.mouse.down()
        self.page.mouse.move(x + over, y - 10, steps=6)
        self.page.mouse.up()

    def test_the_quay_is_painted_on_two_channels_and_other_surfaces_have_the_paint(self) -> None:
        self.open("Gravel quay patch")
        first = self.colours()
        drawn = self.state("mesh")["drawn"]
        self.take_the_brush("Puddle")
        self.page.locator("#painting").get_by_label("Does", exact=True).select_option("take away")
        self.stroke(30)
        self.counted("4 strokes")
        # Strokes go to the channels of their own step, also where the page learns late which those are.
        held: list[Route] = []
        self.page.route("**/strokes/*", lambda route: held.append(route))
        self.page.get_by_label("Painted step").select_option(label="Stain")
        self.page.locator("#painting").get_by_label("Does", exact=True).select_option("set")
        self.stroke(25)
        wait_until("the list is asked for", lambda: held)
        while held:
            held.pop().continue_()
        self.page.unroute("**/strokes/*")
        self.counted("5 strokes")
        painted = self.colours()
        self.assertLess((painted - first)[:, 2].min(), -0.3, "drier")
        self.assertGreater((painted - first)[:, 0].max(), 0.3, "stained")
        self.page.locator("#painting").get_by_role("button", name="Close").click()
        wait_until("the mesh is baked", lambda: self.state("mesh")["drawn"] != drawn)
        self.open("Planks on the quay")
        wait_until("it has the paint", lambda: np.allclose(self.colours(), painted, atol=1e-6))
        self.restart()
        self.page.reload()
        self.settle()
        self.take_the_brush("Puddle")
        self.counted("4 strokes")
        for _ in range(2):
            with self.page.expect_response("**/stack/undo"):
                self.page.get_by_role("button", name="Undo stroke").click()
        self.counted("3 strokes")
        wait_until("it is as it was", lambda: np.abs(self.colours() - first).max() < 1e-6)
        self.page.locator("#painting").get_by_role("button", name="Close").click()

    def test_the_estuary_has_shallows_where_a_line_is_drawn_by_keys(self) -> None:
        self.open("Estuary")
        first = self.colours()
        self.take_the_brush("Shallows")
        self.page.locator("#painting").get_by_label("Value").fill("0.8")
        self.page.locator("#stage").focus()
        self.page.keyboard.press("Enter")
        for key in ("ArrowRight", "ArrowRight", "ArrowDown", "ArrowDown"):
            self.page.keyboard.press(key)
        self.page.keyboard.press("Enter")
        self.counted("6 strokes")
        self.assertGreater((self.colours() - first)[:, 0].max(), 0.5)
        with self.page.expect_response("**/stack/undo"):
            self.page.get_by_role("button", name="Undo stroke").click()
        wait_until("it is deep again", lambda: np.abs(self.colours() - first).max() < 1e-6)


if __name__ == "__main__":
    unittest.main()
