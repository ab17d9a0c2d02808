"""The brush by hand: strokes by pointer and by keys, seen while they are drawn, undone after a reload."""

import re
import unittest
from dataclasses import replace

import numpy as np

from tests.browser.bench_page import WithWorker, WorkbenchCase
from tests.browser.test_meshes_room import CORK, InTheRoom, file_of
from tests.support.browser import array_of, data_of, wait_until
from velvet_moth.core.meshes.formats import FORMATS


class Painting(InTheRoom):
    def paint_on(self, name: str, size: float) -> None:
        """A mesh of that size (m) with a painted step that is open, and the brush taken."""
        mesh = replace(CORK, colours=None, positions=CORK.positions * np.float32(size))
        self.go()
        self.bring(file_of(f"{name}.glb", FORMATS["gltf"].encode(mesh)))
        self.is_shown(name)
        self.page.get_by_role("button", name=re.compile("^Steps")).click()
        self.page.get_by_role("button", name="Add a step").click()
        self.page.get_by_role("menuitem", name="By hand …").click()
        self.page.get_by_role("menuitem", name="Paint").click()
        self.page.get_by_role("button", name="Take the brush").click()
        self.at_rest()

    def painted(self) -> np.ndarray:
        """The numbers that are seen at the vertices."""
        return array_of(
            self.page,
            "() => Float32Array.from(room.stage.mesh.geometry.getAttribute('colour').array.filter((_, at) => at % 4 === 0))",
            dtype=np.float32,
        )

    def counted(self, words: str) -> None:
        wait_until(words, lambda: words in self.page.locator(".brush-panel [role=status]").inner_text())

    def middle(self) -> tuple[float, float]:
        box = self.page.locator("#stage").bounding_box()
        assert box is not None
        return box["x"] + box["width"] / 2, box["y"] + box["height"] / 2

    def test_strokes_follow_the_pointer_and_are_undone_after_a_reload(self) -> None:
        self.paint_on("Fender", 0.9)
        x, y = self.middle()
        self.page.mouse.move(x - 40, y)
        self.page.mouse.down()
        for at in range(9):
            self.page.mouse.move(x - 40 + 10 * at, y)
        wait_until("it is seen before the hand is lifted", lambda: self.painted().max() > 0.9)
        drawn = self.page.evaluate("() => room.painting.brush.stroke !== null")
        self.assertTrue(drawn)
        self.page.mouse.up()
        self.at_rest()
        self.counted("1 stroke")
        first = self.painted()
        self.assertTrue(0.001 < (first > 0).mean() < 0.2, (first > 0).mean())
        # Where the stroke is seen, its value and the stroke itself are picked; beside it there is none.
        self.page.locator(".brush-panel").get_by_label("Value").fill("0.3")
        self.page.get_by_role("button", name="a value").click()
        self.page.mouse.click(x, y)
        wait_until("it is picked", lambda: self.page.locator(".brush-panel").get_by_label("Value").input_value() == "1")
        self.page.get_by_role("button", name="a stroke").click()
        self.page.mouse.click(x, y + 60)
        self.counted("no stroke is there")
        self.page.get_by_role("button", name="a stroke").click()
        self.page.mouse.click(x, y)
        self.page.locator(".brush-strokes .pointed").wait_for()
        # Beside the mesh the eye turns, and nothing is painted.
        before = data_of(self.page, "() => room.stage.camera.position.toArray()")
        self.page.mouse.move(x, y - 300)
        self.page.mouse.down()
        self.page.mouse.move(x + 60, y - 300)
        self.page.mouse.up()
        self.at_rest()
        self.assertNotEqual(data_of(self.page, "() => room.stage.camera.position.toArray()"), before)
        self.counted("1 stroke")
        self.page.get_by_label("Does", exact=True).select_option("take away")
        self.page.get_by_label("Press", exact=True).select_option("mesh")
        self.page.mouse.click(x, y)
        self.counted("2 strokes")
        self.at_rest()
        self.assertEqual(self.painted().max(), 0.0)
        self.page.reload()
        self.is_shown("Fender")
        self.page.get_by_role("button", name=re.compile("^Steps")).click()
        self.page.get_by_role("button", name="Undo").click()
        self.counted("1 stroke")
        self.at_rest()
        np.testing.assert_allclose(self.painted(), first, atol=1e-6)
        self.page.get_by_role("button", name="Remove stroke 1").click()
        self.counted("No stroke yet")
        self.page.get_by_role("button", name="Undo").click()
        self.counted("1 stroke")

    def test_a_line_is_drawn_by_keys_and_kept_on_its_layer(self) -> None:
        self.paint_on("Bollard", 1.1)
        self.page.get_by_role("checkbox", name="green").check()
        self.page.get_by_role("checkbox", name="red").uncheck()
        self.page.locator("#stage").focus()
        self.page.keyboard.press("Enter")
        for _ in range(5):
            self.page.keyboard.press("ArrowRight")
        self.page.keyboard.press("Enter")
        self.counted("1 stroke")
        self.at_rest()
        stroke = self.page.locator(".brush-strokes li").inner_text()
        self.assertIn("green", stroke)
        self.assertNotIn("red", stroke)
        self.assertGreater(self.painted().max(), 0.9)
        self.page.keyboard.press("b")
        self.page.get_by_role("button", name="Take the brush").wait_for()


class OnTheStage(WithWorker, WorkbenchCase):
    def colours(self) -> np.ndarray:
        ask = "() => moth.stage.mesh.geometry.getAttribute('colour').array"
        return array_of(self.page, ask, dtype=np.float32).reshape(-1, 4)

    def test_a_form_becomes_a_mesh_and_what_is_lit_follows_the_brush(self) -> None:
        self.new_graph()
        self.page.get_by_role("button", name="More", exact=True).click()
        self.page.get_by_role("menuitem", name="Paint on the mesh").click()
        self.page.get_by_role("button", name="Make the form a mesh").click()
        self.page.locator("#painting .brush-panel").wait_for()
        self.settle()
        mesh = self.state("document")["mesh"]
        self.assertTrue(mesh)
        wait_until(
            "the brush is there", lambda: self.page.get_by_role("button", name="Put the brush away").count() == 1
        )
        wait_until("it is seen without paint", lambda: self.colours()[:, 0].max() == 0.0)
        before = self.state("mesh")["drawn"]
        box = self.page.locator("#stage").bounding_box()
        assert box is not None
        x, y = box["x"] + box["width"] / 2, box["y"] + box["height"] / 2
        self.page.locator("#painting").get_by_label("Value").fill("0.25")
        self.page.mouse.move(x - 20, y)
        self.page.mouse.down()
        self.page.mouse.move(x, y, steps=4)
        wait_until("it is lit by what is painted before the hand is lifted", lambda: self.colours()[:, 0].max() > 0.2)
        self.page.mouse.up()
        wait_until("it is kept", lambda: "1 stroke" in self.page.locator("#painting [role=status]").inner_text())
        self.page.mouse.click(x, y)
        wait_until(
            "a press is a stroke", lambda: "2 strokes" in self.page.locator("#painting [role=status]").inner_text()
        )
        self.assertEqual(self.page.locator("#pins li").count(), 0, "and no pin")
        painted = self.colours()[:, 0]
        self.page.locator("#painting").get_by_role("button", name="Close").click()
        wait_until("the mesh is baked", lambda: self.state("mesh")["drawn"] != before)
        self.settle()
        self.page.reload()
        self.settle()
        wait_until("the paint is baked", lambda: np.allclose(self.colours()[:, 0], painted, atol=1e-6))
        self.assertAlmostEqual(float(painted.max()), 0.25, places=5)
        # Another surface put on the same mesh keeps the paint; the stroke is undone from there.
        self.new_graph()
        self.page.locator("#form").select_option(f"mesh {mesh}")
        self.settle()
        wait_until("it has the paint", lambda: float(self.colours()[:, 0].max()) < 0.3)
        self.page.get_by_role("button", name="More", exact=True).click()
        self.page.get_by_role("menuitem", name="Paint on the mesh").click()
        for _ in range(2):
            self.page.get_by_role("button", name="Undo stroke").click()
        wait_until("the paint is gone", lambda: self.colours()[:, 0].max() == 0.0)


if __name__ == "__main__":
    unittest.main()
