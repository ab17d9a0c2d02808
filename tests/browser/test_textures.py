"""The room of textures, and the classic mistakes of reading one: made by hand, told, mended by one press."""

import re

import numpy as np
from playwright.sync_api import Route

from tests.browser.bench_page import WithWorker, WorkbenchCase
from tests.support.browser import lit, wait_until
from velvet_moth.core.making import Canvas, Layer
from velvet_moth.core.making.exchange import picture_of
from velvet_moth.core.making.height import normal_from_height
from velvet_moth.core.making.noise import fractal_noise
from velvet_moth.core.pictures.formats import Picture, write_png

CANVAS = Canvas(64, 64)
STACK = re.compile(r"/api/recipes/\d+$")
PREVIEW = "**/api/recipes/preview"
READING = re.compile(r"/api/textures/\w+/reading$")
HILLS = fractal_noise(CANVAS, cells=3)


def file_of(name: str, picture: Picture) -> dict[str, object]:
    return {"name": f"{name}.png", "mimeType": "image/png", "buffer": write_png(picture.samples)}


def dents() -> Picture:
    return picture_of(normal_from_height(CANVAS, HILLS, strength=0.15, green="down"), "8 bit")


def patches() -> Picture:
    """Colours with an alpha that is 1 everywhere; red carries a mask."""
    mask = (HILLS.number > 0.5).astype(np.float32)
    return picture_of(Layer(np.stack((mask, HILLS.number, mask * 0.3, np.ones_like(mask))), "colour"), "8 bit")


class Room(WithWorker):
    def go(self, query: str = "") -> None:
        self.page.goto(f"{self.live.url}/textures{query}")
        self.page.locator("#tiles .texture-tile").first.wait_for()

    def tile(self, name: str):
        return self.page.locator("#tiles .texture-tile").filter(has=self.page.get_by_text(name, exact=True))

    def texture_id(self, name: str) -> str:
        found = self.page.request.get(f"{self.live.url}/api/textures").json()["textures"]
        return next(texture["id"] for texture in found if texture["name"] == name)

    def still(self) -> None:
        wait_until(
            "the preview is there", lambda: self.page.evaluate("() => !room.stack.isLooking && !!room.viewer.levels")
        )

    def value_at(self, u: float, v: float) -> str:
        return str(self.page.evaluate("([u, v]) => room.viewer.textAt(u, v)", [u, v]))

    def test_picture_facts_and_cells_change_together(self) -> None:
        self.go(f"?t={self.texture_id('Chalk marks')}")
        self.page.locator(".about-head", has_text="Chalk marks").wait_for(state="attached")
        self.still()
        held: list[Route] = []
        self.page.route(f"**/api/textures/{self.texture_id('Gear normal')}", lambda route: held.append(route))
        self.tile("Gear normal").click()
        wait_until("its facts are on their way", lambda: held or self.page.wait_for_timeout(20))
        state = """() => [room.viewer.levels.isColour, document.querySelector(".about-head h2").textContent,
            !!room.viewer.grid, document.querySelector("#tiles [aria-pressed=true]").textContent.slice(0, 11)]"""
        self.assertEqual(self.page.evaluate(state), [True, "Chalk marks", True, "Chalk marks"])
        held[0].continue_()
        self.page.locator(".about-head", has_text="Gear normal").wait_for(state="attached")
        self.assertEqual(self.page.evaluate(state), [False, "Gear normal", False, "Gear normal"])
        self.page.locator("#facts-tabs").get_by_role("button", name="About it").click()
        over = """() => { const lines = [...document.querySelectorAll("#about > *")].map((e) => e.getBoundingClientRect());
            return lines.slice(1).filter((box, i) => box.height && box.top < lines[i].bottom - 1).length; }"""
        self.assertEqual(self.page.evaluate(over), 0, "no note covers a text")

    def test_pictures_come_in_are_looked_at_and_mended(self) -> None:
        self.go()
        broken = {"name": "torn.png", "mimeType": "image/png", "buffer": write_png(dents().samples)[:200]}
        self.page.locator("#import-files").set_input_files(
            [file_of("dents", dents()), broken, file_of("patches", patches())]
        )
        self.page.locator(".notice", has_text="damaged or cut off").wait_for()
        self.expect_refusal(422)
        self.page.locator(".notice", has_text="dents is read as normal map").wait_for()
        self.tile("patches").wait_for()
        self.tile("dents").click()
        self.page.get_by_role("button", name="dents", exact=True).wait_for()
        self.page.get_by_label("Green points").select_option("up")
        self.page.locator(".verdicts", has_text="bumps look like dents").wait_for()
        self.page.get_by_role("button", name="Read as normal map, green down").click()
        self.page.get_by_text("Nothing wrong was found.").wait_for()
        self.tile("patches").click()
        self.page.get_by_role("button", name="Look at alpha").click()
        self.assertEqual(self.page.locator("[data-channel=alpha]").get_attribute("aria-pressed"), "true")
        samples = patches().samples
        wait_until("its values are read", lambda: self.value_at(0.3, 0.7).startswith("x 19 y 44 · R"))
        expected = samples[44, 19] / 255
        self.assertIn(f"R {expected[0]:g} ", self.value_at(0.3, 0.7))
        self.page.locator("#viewer").focus()
        before = self.page.evaluate("() => room.viewer.view.zoom")
        self.page.keyboard.press("+")
        self.assertGreater(self.page.evaluate("() => room.viewer.view.zoom"), before)
        self.page.locator("#level").select_option("3")
        wait_until("a level is chosen", lambda: "level 3" in self.value_at(0.5, 0.5))
        self.page.go_back()
        self.page.get_by_role("button", name="dents", exact=True).wait_for()
        self.page.reload()
        self.page.get_by_role("button", name="dents", exact=True).wait_for()

    def test_a_stack_is_made_changed_and_its_graphs_follow(self) -> None:
        self.go()
        self.page.get_by_role("button", name="Make a texture").click()
        self.page.get_by_role("menuitem", name="Pebbles").click()
        self.still()
        self.page.get_by_label("Name of the stack").fill("Quay cobbles")
        self.page.get_by_label("Name of the stack").press("Enter")
        self.page.get_by_label("Width in pixels").select_option("64")
        self.page.get_by_label("Height in pixels").select_option("64")
        self.page.get_by_role("button", name="Make textures").click()
        self.page.locator(".notice", has_text="Made 2 textures").wait_for()
        self.tile("Pebbles height").wait_for()
        self.assertIn("t=", self.page.url)
        self.still()
        self.page.locator(".step-name", has_text="Cells").click()
        self.still()
        before = self.value_at(0.41, 0.63)
        count = self.page.get_by_label("Count, typed")
        count.fill("4")
        count.press("Enter")
        wait_until("the preview follows", lambda: self.value_at(0.41, 0.63) != before)
        self.page.get_by_role("button", name="Undo").click()
        wait_until("undone", lambda: self.value_at(0.41, 0.63) == before)
        self.page.get_by_role("button", name="Redo").click()
        self.page.get_by_role("button", name="Add a step").click()
        self.page.get_by_role("menuitem", name="Adjust").click()
        self.page.get_by_role("menuitem", name="Invert").click()
        self.page.get_by_role("button", name="Move up: Invert").click()
        self.page.locator(".step-wrong", has_text="needs before").wait_for()
        # It is kept as it is edited: it can be left, and undone after a reload.
        self.tile("Braid flow").click()
        name = self.page.get_by_label("Name of the stack")
        wait_until("another stack is shown", lambda: name.input_value() == "Ferrywoman's braid")
        self.page.go_back()
        self.page.reload()
        self.page.locator(".step-wrong", has_text="needs before").wait_for()
        for _ in range(2):
            with self.page.expect_response("**/undo"):
                self.page.get_by_role("button", name="Undo").click()
        wait_until("the step is gone", lambda: not self.page.locator(".step-name", has_text="Invert").count())
        # A notice of the same words may still stand there from before.
        with self.page.expect_response("**/make"):
            self.page.get_by_role("button", name="Make textures").click()
        self.page.locator(".notice", has_text="What uses them follows").last.wait_for()
        self.page.reload()
        self.page.locator(".step-name", has_text="Cells").click()
        self.assertEqual(self.page.get_by_label("Count, typed").input_value(), "4")

    def test_a_stack_that_made_nothing_is_found_again_and_edited_from_two_pages(self) -> None:
        self.go()
        self.page.get_by_role("button", name="Make a texture").click()
        self.page.get_by_role("menuitem", name="Grain").click()
        self.still()
        self.assertFalse(self.page.locator(".draft").count(), "looking at it keeps nothing")
        name = self.page.get_by_label("Name of the stack")
        name.fill("Rope grain")
        name.press("Enter")
        self.page.locator(".draft", has_text="Rope grain").wait_for()
        self.assertIn("stack=", self.page.url)
        other = self.page.context.new_page()
        other.goto(self.page.url)
        other.get_by_label("Width in pixels").select_option("128")
        wait_until("this page follows", lambda: self.page.get_by_label("Width in pixels").input_value() == "128")
        other.close()
        self.page.get_by_role("button", name="Delete", exact=True).click()
        self.page.locator(".draft").wait_for(state="hidden")
        self.page.get_by_role("button", name="Undo").last.click()
        self.page.locator(".draft", has_text="Rope grain").wait_for()
        wait_until("it is open", lambda: self.page.get_by_label("Name of the stack").input_value() == "Rope grain")

    def test_tiles_are_put_in_order_by_hand_and_by_keys(self) -> None:
        self.go()
        self.page.get_by_role("button", name="Make a texture").click()
        self.page.get_by_role("menuitem", name="Tile palette").click()
        self.still()
        cell = self.page.locator(".tile-cell")
        wait_until("the palette is seen", lambda: self.page.get_by_text("Cells keep apart down to level").is_visible())
        clay, brass = self.value_at(0.25, 0.75), self.value_at(0.25, 0.25)
        cell.nth(2).drag_to(cell.nth(0))
        wait_until("brass lies where clay lay", lambda: self.value_at(0.25, 0.75).split("·")[1] == brass.split("·")[1])
        self.page.keyboard.press("Alt+ArrowRight")
        wait_until("clay is first again", lambda: self.value_at(0.25, 0.75) == clay)
        self.assertIn("brass", cell.nth(1).get_attribute("title"))
        self.page.get_by_label("Roughness of tile 2, value").fill("0.9")
        self.page.get_by_label("Roughness of tile 2, value").press("Enter")
        self.page.get_by_role("button", name="roughness", exact=True).click()
        wait_until("its roughness is seen", lambda: "R 0.902" in self.value_at(0.75, 0.75))
        self.page.get_by_role("button", name="Copy tile").click()
        self.page.locator(".step-wrong", has_text="5 tiles do not fit 4 cells").wait_for()
        self.page.get_by_label("Columns, typed").fill("3")
        self.page.get_by_label("Columns, typed").press("Enter")
        wait_until("they fit", lambda: self.page.locator(".tile-cell.empty").count() == 1)
        self.page.get_by_role("button", name="Swatch table").click()
        row = self.page.locator(".swatch-table tr", has_text="brass").first
        self.assertIn("0.9", row.inner_text())
        self.page.keyboard.press("Escape")

    def test_a_file_is_seen_while_it_comes_in(self) -> None:
        held: list[Route] = []
        late: list[Route] = []
        self.page.route(PREVIEW, lambda route: late.append(route), times=1)
        with self.page.expect_request(PREVIEW):
            self.go("?t=" + self.texture_id("Flake normal"))
        wait_until("a texture is shown", lambda: self.page.evaluate("() => !!room.viewer.levels"))
        self.page.route(
            "**/api/textures",
            lambda route: held.append(route) if route.request.method == "POST" else route.continue_(),
        )
        with self.page.expect_request("**/api/textures"):
            self.page.locator("#import-files").set_input_files([file_of("patches", patches())])
        self.page.wait_for_function("() => room.viewer.levels.isGlimpse")
        # An answer to what was shown before it does not cover the file.
        with self.page.expect_response(PREVIEW):
            late[0].continue_()
        self.still()
        self.assertEqual(self.value_at(0.3, 0.7), "")
        held[0].continue_()
        self.page.wait_for_function("() => !room.viewer.levels.isGlimpse")
        wait_until("its values are read", lambda: "R " in self.value_at(0.3, 0.7))

    def test_a_stack_just_begun_is_not_taken_away_by_a_late_answer(self) -> None:
        """The room shows its first texture by itself; what the artist begins meanwhile stands."""
        held: list[Route] = []
        self.page.route(STACK, lambda route: held.append(route))
        with self.page.expect_request(STACK):
            self.go("?t=" + self.texture_id("Flake normal"))
        self.page.get_by_role("button", name="Make a texture").click()
        self.page.get_by_role("menuitem", name="Tile palette").click()
        with self.page.expect_response(STACK):
            held[0].continue_()
        self.still()
        self.page.get_by_text("Cells keep apart down to level").wait_for()
        self.page.get_by_role("button", name="Make textures").wait_for()

    def test_the_reading_chosen_last_stays(self) -> None:
        self.go()
        self.page.locator("#import-files").set_input_files([file_of("dents", dents())])
        self.page.get_by_text("Nothing wrong was found.").wait_for()
        held: list[Route] = []
        self.page.route(READING, lambda route: held.append(route), times=1)
        with self.page.expect_request(READING):
            self.page.get_by_label("Read as").select_option("normal")
        self.page.get_by_label("Green points").select_option("up")
        with self.page.expect_response(lambda answer: "up" in (answer.request.post_data or "")):
            held[0].continue_()
        self.page.locator(".verdicts", has_text="bumps look like dents").wait_for()

    @lit
    def test_a_changed_texture_is_seen_on_the_stage_of_another_page(self) -> None:
        self.open("Ferry enamel")
        before = self.middle()
        other = self.page.context.new_page()
        other.goto(f"{self.live.url}/textures")
        other.locator("#tiles .texture-tile", has_text="Flake normal").click()
        other.locator(".step-name", has_text="Normal from height").wait_for()
        strength = other.get_by_label("Strength, typed")
        strength.fill("0.4")
        strength.press("Enter")
        other.get_by_role("button", name="Make textures").click()
        other.locator(".notice", has_text="What uses them follows").wait_for()
        wait_until("the stage follows", lambda: np.abs(self.middle() - before).max() > 1)
        other.close()


class Mistakes(WorkbenchCase):
    def take(self, name: str, picture: Picture, role: str = "") -> None:
        """Drops a picture onto the graph, which puts a card that reads it there."""
        count = len(self.nodes())
        self.page.evaluate(
            """([bytes, name]) => {
                const files = new DataTransfer();
                files.items.add(new File([new Uint8Array(bytes)], name, { type: "image/png" }));
                const at = { clientX: 200, clientY: 200, bubbles: true, dataTransfer: files };
                document.querySelector("#graph-pane").dispatchEvent(new DragEvent("drop", at));
            }""",
            [list(write_png(picture.samples)), f"{name}.png"],
        )
        wait_until("the card is there", lambda: len(self.nodes()) > count)
        self.settle()

    def node_of(self, label: str) -> str:
        return next(n["id"] for n in self.nodes().values() if n.get("label") == label)

    def told(self, words: str) -> None:
        """Turns through the problems until one of those words is seen."""

        def seen() -> bool:
            if words in self.page.locator("#problems").inner_text():
                return True
            turn = self.page.get_by_role("button", name="Next problem")
            if turn.count():
                turn.click()
            return False

        wait_until(f"told: {words}", seen)

    def codes(self) -> set[str]:
        return {p["code"] for found in self.state("problems").values() for p in found}

    def press_mend(self, words: str) -> None:
        self.page.locator("#problems").get_by_role("button", name=words).first.click()
        self.settle()

    def read_as(self, label: str, role: str, green: str = "up") -> None:
        """Makes the mistake in the room: reads a texture another way."""
        key = self.nodes()[self.node_of(label)]["values"]["texture"]
        room = self.page.context.new_page()
        room.goto(f"{self.live.url}/textures?t={key}")
        room.get_by_label("Read as").select_option(role)
        if role == "normal":
            room.get_by_label("Green points").select_option(green)
        room.locator(".verdicts").first.wait_for()
        room.close()
        self.settle()

    @lit
    def test_a_mask_from_an_alpha_that_is_white(self) -> None:
        self.new_graph()
        self.take("patches", patches())
        node = self.node_of("patches")
        self.wire_by_mouse(node, "alpha", "dock", "metallic")
        self.settle()
        self.told("Alpha is 1 everywhere: read R or luminance instead.")
        wrong = self.pixels()
        self.press_mend("Use red")
        self.expect_wire(node, "red", "dock", "metallic")
        self.assertNotIn("flat-alpha", self.codes())
        self.assertGreater(np.abs(self.pixels().astype(int) - wrong).mean(), 1)

    def test_a_mask_decoded_as_colour(self) -> None:
        self.new_graph()
        self.take("hills", picture_of(HILLS, "8 bit"))
        node = self.node_of("hills")
        self.wire_by_mouse(node, "red", "dock", "roughness")
        self.settle()
        right = self.state("swatches")["dock.roughness"]["mean"]
        self.read_as("hills", "colour")
        wait_until("it is darker", lambda: self.state("swatches")["dock.roughness"]["mean"][0] < right[0] - 9)
        self.told("0.5 is read as 0.21")
        self.press_mend("Read it as data")
        wait_until("it is right again", lambda: self.state("swatches")["dock.roughness"]["mean"] == right)

    @lit
    def test_a_normal_map_with_the_other_green(self) -> None:
        self.new_graph()
        self.take("dents", dents())
        node = self.node_of("dents")
        self.wire_by_mouse(node, "normal", "dock", "normal")
        self.settle()
        right = self.pixels()
        self.read_as("dents", "normal", "up")
        self.told("bumps look like dents")
        wait_until("the light falls wrong", lambda: np.abs(self.pixels().astype(int) - right).mean() > 0.5)
        self.press_mend("Read it as normal map, green down")
        wait_until("the light falls right", lambda: np.abs(self.pixels().astype(int) - right).mean() < 0.1)

    def test_two_noises_that_move_together(self) -> None:
        self.new_graph()
        first, second = (self.add_by_search("gradient noise") for _ in range(2))
        self.wire_by_mouse(first, "value", "dock", "roughness")
        self.wire_by_mouse(second, "value", "dock", "metallic")
        self.settle()
        self.told("show the same pattern")
        before = self.state("swatches")["dock.metallic"]["png"]
        self.press_mend("Give it seed")
        self.assertNotEqual(self.state("swatches")["dock.metallic"]["png"], before)
        self.assertNotIn("shared-seed", self.codes())
