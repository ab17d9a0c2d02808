"""The ferry enamel from an empty graph to a kept variant, by mouse alone and by keyboard alone."""

from tests.browser.bench_page import WithWorker
from tests.support.browser import wait_until

COLOURS = {"Face tint": "#C83C28", "Side tint": "#A83058", "Rim shade": "#301020"}


class Enamel(WithWorker):
    def setUp(self) -> None:
        super().setUp()
        self.new_graph()
        self.ids: dict[str, str] = {}

    def check_enamel(self) -> None:
        """The stage shows a red flake paint, and everything is found again after a reload."""
        with self.in_true_light():
            red, green, blue = self.middle()
        self.assertGreater(red, green + 40)
        self.assertGreater(red, blue + 20)
        self.assertEqual(self.errors(), [])
        before = self.state("document")
        self.page.reload()
        self.settle()
        self.assertEqual(self.state("document"), before)

    def test_by_mouse(self) -> None:
        page = self.page

        def add(query: str, label: str) -> str:
            before = set(self.nodes())
            page.get_by_role("button", name="Add node").click()
            page.locator("dialog").get_by_role("combobox").fill(query)
            wait_until("search answered", lambda: page.locator(f".choices[data-query='{query}']").count())
            page.locator(".choices li").first.click()
            wait_until(f"{query} was added", lambda: set(self.nodes()) - before)
            self.settle()
            node = (set(self.nodes()) - before).pop()
            self.ids[label] = node
            self.rename(node, label)
            page.mouse.click(*self.empty_place())
            return node

        flake_tile = add("tile", "Flake tiling")
        flake_map = add("normal map", "Flake map")
        self.make_flakes_in_the_room(flake_map)
        flake_height = add("read a picture", "Flake height")
        self.choose_texture(flake_height, "Silver flake height")
        self.wire_by_mouse(flake_tile, "uv", flake_map, "uv")
        self.wire_by_mouse(flake_tile, "uv", flake_height, "uv")
        for name, colour in COLOURS.items():
            self.type_colour(add("colour", name), "value", colour)
        turning, rim = add("view falloff", "Turning away"), add("fresnel", "Rim")
        two, three = add("mix", "Two tints"), add("mix", "Three colours")
        self.wire_by_mouse(self.ids["Face tint"], "colour", two, "a")
        self.wire_by_mouse(self.ids["Side tint"], "colour", two, "b")
        self.wire_by_mouse(turning, "value", two, "amount")
        self.wire_by_mouse(two, "result", three, "a")
        self.wire_by_mouse(self.ids["Rim shade"], "colour", three, "b")
        self.wire_by_mouse(rim, "value", three, "amount")
        coat = add("surface", "Flake coat")
        self.wire_by_mouse(three, "result", coat, "base_colour")
        self.wire_by_mouse(flake_map, "normal", coat, "normal")
        self.type_value(coat, "metallic", "1", [1])
        scale, gloss = add("multiply", "Gloss roughness"), add("material", "Clear gloss")
        self.wire_by_mouse(turning, "value", scale, "a")
        self.type_value(scale, "b", "0.35", [0.35])
        self.wire_by_mouse(scale, "result", gloss, "roughness")
        self.wire_by_mouse(two, "result", gloss, "base_colour")
        face_on, mask = add("invert", "Face-on"), add("multiply", "Flakes face-on")
        self.wire_by_mouse(rim, "value", face_on, "value")
        self.wire_by_mouse(face_on, "result", mask, "a")
        self.wire_by_mouse(flake_height, "red", mask, "b")
        # Each mask is looked at on its own on the way.
        self.open_slip(mask).get_by_role("button", name="Show on stage", exact=True).click()
        wait_until("the mask is on stage", lambda: self.state("shown") == f"{mask}.result")
        with self.in_true_light():
            red, green, blue = self.middle()
        self.assertLess(max(red, green, blue) - min(red, green, blue), 1.5, "a mask is grey")
        page.get_by_role("button", name="Back to lit").click()
        wait_until("lit again", lambda: self.state("shown") == "")
        layers = add("mix surfaces", "Layers")
        self.wire_by_mouse(gloss, "surface", layers, "a")
        self.wire_by_mouse(coat, "surface", layers, "b")
        self.wire_by_mouse(mask, "result", layers, "amount")
        self.wire_by_mouse(layers, "surface", "dock", "surface")
        self.assertGreater(len(self.nodes()), 16)
        tint = self.make_parameter(self.ids["Face tint"], "value")
        rough = self.make_parameter(scale, "b")
        self.keep_a_variant(tint, rough)
        self.check_enamel()

    def make_flakes_in_the_room(self, node: str) -> None:
        page = self.page
        self.select(node)
        page.locator(f".card [data-focus='{node}.texture']").click()
        with page.expect_popup() as opened:
            page.get_by_role("link", name="Make a texture").click()
        room = opened.value
        room.get_by_role("menuitem", name="Flakes").click()
        room.locator(".step-name", has_text="Flakes").click()
        for step, name in (("Flakes", "Silver flake height"), ("Normal from height", "Silver flake normal")):
            room.locator(".step-name", has_text=step).click()
            field = room.get_by_label("Name of the texture of picture")
            field.fill(name)
            field.press("Enter")
        room.get_by_role("button", name="Make textures").click()
        room.locator(".notice", has_text="Made 2 textures").wait_for()
        room.close()
        page.evaluate("() => dispatchEvent(new Event('focus'))")
        page.locator("#texture-drawer .texture-tile", has_text="Silver flake normal").click()
        wait_until("the flake map was chosen", lambda: self.nodes()[node].get("values", {}).get("texture"))
        self.settle()

    def keep_a_variant(self, tint: str, rough: str) -> None:
        """A second variant with another colour and an extreme, even negative, roughness number."""
        page = self.page
        page.get_by_role("button", name="New variant").click()
        page.get_by_role("textbox", name="New variant").fill("Night ferry")
        page.get_by_role("button", name="Add", exact=True).click()
        wait_until("the variant is current", lambda: self.state("variant") != "")
        self.settle()
        page.locator(f"[data-focus='parameter.{tint}']").click()
        page.locator(".colour-panel input[maxlength='7']").fill("#1E5AA0")
        page.keyboard.press("Enter")
        field = page.locator(f"#parameters [data-focus='parameter.{rough}']")
        field.fill("-2")
        field.press("Enter")
        variants = lambda: self.state("document")["variants"]  # noqa: E731 - asked until it holds
        wait_until("both are overridden", lambda: len(variants()[0]["values"]) == 2)
        self.settle()
        self.assertEqual(page.locator("#parameters li.overridden").count(), 2)
        with self.in_true_light():
            red, _, blue = self.middle()
        self.assertGreater(blue, red)
        page.get_by_role("button", name="Variant Defaults").click()
        wait_until("the defaults are current", lambda: self.state("variant") == "")

    def test_by_keyboard(self) -> None:
        page = self.page
        page.locator("#graph-pane").focus()

        def add(query: str, label: str = "") -> str:
            node = self.add_by_search(query)
            if label:
                page.keyboard.press("Enter")
                field = page.locator(f"[data-focus='{node}.label']")
                for _ in range(24):
                    if field.evaluate("e => e === document.activeElement"):
                        break
                    page.keyboard.press("Shift+Tab")
                page.keyboard.type(label)
                page.keyboard.press("Enter")
                wait_until(f"{node} is named {label}", lambda: self.nodes()[node].get("label") == label)
                self.settle()
                page.keyboard.press("Escape")
                self.select(node)
            return node

        def join(source: str, words: str, node: str, key: str, output: str) -> None:
            self.wire_by_keyboard(source, words, node, key, output)

        tints = {name: add("colour", name) for name in COLOURS}
        for name, node in tints.items():
            self.select(node)
            page.keyboard.press("Enter")
            page.keyboard.press("Enter")
            page.keyboard.type(COLOURS[name])
            page.keyboard.press("Enter")
            wait_until(f"{name} has its colour", lambda n=node: self.nodes()[n].get("values"))
            page.keyboard.press("Escape")
            page.keyboard.press("Escape")
            self.settle()
        turning, rim = add("view falloff", "Turning away"), add("fresnel", "Rim")
        two, three = add("mix", "Two tints"), add("mix", "Three colours")
        join(tints["Face tint"], "a of two tints", two, "a", "colour")
        join(tints["Side tint"], "b of two tints", two, "b", "colour")
        join(turning, "amount of two", two, "amount", "value")
        join(two, "a of three", three, "a", "result")
        join(tints["Rim shade"], "b of three", three, "b", "colour")
        join(rim, "amount of three", three, "amount", "value")
        flakes = add("cell noise", "Flakes")
        coat, gloss = add("surface", "Flake coat"), add("surface", "Clear gloss")
        join(three, "base colour of flake coat", coat, "base_colour", "result")
        scale = add("multiply", "Gloss roughness")
        join(turning, "a of gloss roughness", scale, "a", "value")
        join(scale, "roughness of clear gloss", gloss, "roughness", "result")
        join(two, "base colour of clear gloss", gloss, "base_colour", "result")
        face_on, mask = add("complement", "Face-on"), add("multiply", "Flakes face-on")
        join(rim, "value of face-on", face_on, "value", "value")
        join(face_on, "a of flakes face-on", mask, "a", "result")
        join(flakes, "random b of flakes face-on", mask, "b", "random")
        layers = add("mix surfaces", "Layers")
        join(gloss, "a of layers", layers, "a", "surface")
        join(coat, "b of layers", layers, "b", "surface")
        join(mask, "amount of layers", layers, "amount", "result")
        join(layers, "surface of dock", "dock", "surface", "surface")
        self.select(mask)
        page.keyboard.press("s")
        wait_until("the mask is on stage", lambda: self.state("shown") == f"{mask}.result")
        self.select(mask)
        page.keyboard.press("s")
        wait_until("lit again", lambda: self.state("shown") == "")
        self.check_enamel()
