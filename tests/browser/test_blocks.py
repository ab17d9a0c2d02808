"""The room of blocks by hand: a small lamp from nothing, mirrored, undone, weathered, sent out as GLB and brought back; by keys."""

from typing import Any

from playwright.sync_api import Locator, Route

from tests.browser.bench_page import WorkbenchCase
from tests.support.browser import wait_until
from tests.support.meshes import validated

# Where a cell is on the page: the middle of its top face.
AT = """async ([x, y, z]) => {
  const THREE = await import("three");
  const { stage, drawing } = room;
  const place = drawing.aids.placeOf([x, y, z]).add(new THREE.Vector3(0.5, 0, 0.5).multiplyScalar(drawing.aids.size));
  stage.camera.updateMatrixWorld();
  place.project(stage.camera);
  const { left, top, width, height } = stage.canvas.getBoundingClientRect();
  return [left + ((place.x + 1) / 2) * width, top + ((1 - place.y) / 2) * height];
}"""


class Blocks(WorkbenchCase):
    def setUp(self) -> None:
        super().setUp()
        self.page.goto(f"{self.live.url}/blocks")
        self.page.wait_for_function("() => room.model()?.state && room.stage.isReady")

    def state(self) -> dict[str, Any]:
        return dict(self.page.evaluate("() => room.model().state"))

    def until(self, words: str, key: str, value: Any) -> None:
        wait_until(words, lambda: self.page.evaluate("key => room.model()?.state?.[key]", key) == value)

    def button(self, name: str) -> Locator:
        return self.page.get_by_role("button", name=name, exact=True)

    def press(self, *cells: tuple[int, int, int]) -> None:
        """Presses on the ground or on the top of a block, and drags to the other cells."""
        for number, cell in enumerate(cells):
            x, y = self.page.evaluate(AT, list(cell))
            self.page.mouse.move(x, y, steps=1 if number == 0 else 3)
            if number == 0:
                self.page.mouse.down()
        self.page.mouse.up()

    def begin(self, name: str) -> None:
        self.button("New model").click()
        self.page.get_by_role("textbox", name="New block model").fill(name)
        self.page.keyboard.press("Enter")
        self.until("it is open", "name", name)
        self.page.wait_for_function("() => room.stage.isReady")

    def test_a_lamp_is_drawn_from_nothing_mirrored_and_undone(self) -> None:
        self.begin("Small lamp")
        self.button("Box").click()
        self.page.get_by_role("option", name="iron, entry").click()
        self.press((127, 0, 127), (129, 0, 129))
        self.until("a foot", "count", 9)
        self.button("Mirror along x").click()
        self.button("Single").click()
        self.page.get_by_role("option", name="bronze, entry").click()
        self.press((127, 1, 127))
        self.until("two posts", "count", 11)
        self.button("Mirror along x").click()
        for entry, cell, count in (
            ("lamp glass", (128, 1, 128), 12),
            ("slate", (128, 2, 128), 13),
            ("rope", (128, 3, 128), 14),
        ):
            self.page.get_by_role("option", name=f"{entry}, entry").click()
            self.press(cell)
            self.until(entry, "count", count)
        used = {e["name"]: e["uses"] for e in self.state()["entries"] if e["uses"]}
        self.assertEqual(used, {"iron": 9, "bronze": 2, "lamp glass": 1, "slate": 1, "rope": 1})
        self.button("Undo").click()
        self.until("the rope is gone", "count", 13)
        self.button("Redo").click()
        self.until("it is back", "count", 14)
        self.weathered("bronze", "Bronze gear", "A winter under water")
        self.sent_and_back(used)

    def weathered(self, entry: str, graph: str, variant: str) -> None:
        """An entry shows a graph as one of its variants sets it; the stage and its picture follow."""
        before = self.page.get_by_role("option", name=f"{entry}, entry").locator("img").get_attribute("src")
        self.page.get_by_role("option", name=f"{entry}, entry").click()
        self.page.get_by_role("combobox", name="Shows").select_option(label=graph)
        self.page.get_by_role("combobox", name="Variant").select_option(label=variant)
        wait_until("it is set", lambda: any(e["variant"] for e in self.state()["entries"]))
        self.page.wait_for_function("() => room.stage.isReady")
        after = self.page.get_by_role("option", name=f"{entry}, entry").locator("img").get_attribute("src")
        self.assertNotEqual(before, after)

    def sent_and_back(self, used: dict[str, int]) -> None:
        """Out as a GLB without faults, in among the meshes, and back as the same blocks."""
        self.button("Actions for Small lamp").click()
        with self.page.expect_download() as download:
            self.page.get_by_role("menuitem", name="Save as glTF").click()
        path = download.value.path()
        self.assertEqual(validated(path.read_bytes())["numErrors"], 0)
        sent = {"file": {"name": "lamp.glb", "mimeType": "model/gltf-binary", "buffer": path.read_bytes()}}
        token = self.page.locator("meta[name=csrf]").get_attribute("content") or ""
        came = self.page.request.post(f"{self.live.url}/api/meshes", multipart=sent, headers={"X-CSRFToken": token})
        self.assertTrue(came.ok, came.text())
        self.button("New of a mesh").click()
        self.page.get_by_role("combobox", name="Mesh").select_option(label="lamp")
        self.button("Make blocks of it").click()
        self.until("it is back as blocks", "name", "lamp")
        self.assertEqual({e["name"]: e["uses"] for e in self.state()["entries"] if e["uses"]}, used)

    def test_blocks_are_seen_before_they_are_answered_and_any_step_is_gone_to(self) -> None:
        self.begin("At once")
        held: list[Route] = []
        self.page.route("**/draw", lambda route: held.append(route))
        x, y = self.page.evaluate(AT, [128, 0, 128])
        self.page.mouse.move(x, y)
        self.page.mouse.down()
        self.assertTrue(self.page.evaluate("() => room.chunks.meshes.has('proposed')"))
        with self.page.expect_request("**/draw"):
            self.page.mouse.up()
        self.assertEqual(self.page.evaluate("() => [...room.chunks.meshes.keys()]"), ["proposed"])
        wait_until("it is held back", lambda: self.page.evaluate("1") and len(held) == 1)
        held[0].continue_()
        self.page.unroute("**/draw")
        self.until("it is answered", "count", 1)
        self.page.wait_for_function("() => !room.chunks.meshes.has('proposed') && room.chunks.meshes.size === 1")
        self.press((130, 0, 128))
        self.until("two blocks", "count", 2)
        self.button("History").click()
        steps = self.page.get_by_role("list", name="Steps")
        steps.get_by_role("button", name="where it began").click()
        self.until("nothing is there", "count", 0)
        steps.locator(".undone").first.click()
        self.until("both are back", "count", 2)
        self.button("History").click()
        self.page.get_by_role("combobox", name="Shows").select_option(label="Ferry enamel")
        wait_until("the entry shows it", lambda: any(e["graph"] for e in self.state()["entries"]))
        self.page.wait_for_function("() => room.stage.isReady")
        self.button("Begin a graph on it").click()
        self.page.wait_for_url("**/graphs/*")
        self.page.get_by_role("group", name="Palette tile").wait_for()

    def test_by_keys_and_a_part_that_is_chosen(self) -> None:
        self.begin("By keys")
        self.page.locator("#stage").focus()
        for key in ("Enter", "Enter", "ArrowRight", "ArrowRight", "Enter"):
            self.page.keyboard.press(key)
        self.until("two blocks", "count", 2)
        self.page.keyboard.press("c")
        for key in ("Enter", "ArrowLeft", "ArrowLeft", "Enter"):
            self.page.keyboard.press(key)
        panel = self.page.get_by_role("region", name="Chosen part")
        self.assertIn("3 × 1 × 1", panel.inner_text())
        panel.get_by_role("button", name="A quarter turn about y").click()
        wait_until(
            "it is turned", lambda: self.state()["box"] and self.state()["box"][1][2] - self.state()["box"][0][2] == 3
        )
        panel.get_by_role("button", name="Up one block along y").click()
        wait_until("it is up", lambda: self.state()["box"][0][1] == 1)
        self.page.keyboard.press("Delete")
        self.until("taken away", "count", 0)
        self.button("Undo").click()
        self.until("it is back", "count", 2)
        self.page.reload()
        self.until("it is kept", "count", 2)
        self.page.wait_for_function("() => room.stage.isReady")
        self.button("Take away").click()
        self.press((128, 2, 130))
        self.until("one is taken away", "count", 1)
        self.page.keyboard.press("Control+z")
        self.until("and back", "count", 2)
