"""What the hands do to a graph besides wiring it: history, numbers, colours, lists, marks, motifs, reading."""

from typing import Any

import cv2
import numpy as np
from playwright.sync_api import Locator

from tests.browser.bench_page import WorkbenchCase
from tests.support.browser import lit, wait_until


class CraftCase(WorkbenchCase):
    def middle_of(self, locator: Locator) -> tuple[float, float]:
        box = locator.bounding_box()
        assert box
        return box["x"] + box["width"] / 2, box["y"] + box["height"] / 2

    def carry(self, start: Locator, to: tuple[float, float]) -> None:
        start.scroll_into_view_if_needed()
        self.page.mouse.move(*self.middle_of(start))
        self.page.mouse.down()
        self.page.mouse.move(to[0] - 6, to[1] - 6, steps=4)
        self.page.mouse.move(*to, steps=2)
        self.page.locator(".carried").wait_for()
        self.page.mouse.up()

    def parameter(self, name: str) -> dict[str, Any]:
        return next(p for p in self.state("document")["parameters"] if p["name"] == name)

    def label(self, name: str) -> Locator:
        return self.page.get_by_role("button", name=f"Edit parameter {name}", exact=True)

    def fit(self) -> None:
        self.page.get_by_role("button", name="Fit", exact=True).click()


class History(CraftCase):
    def test_steps_are_jumped_to_versions_compared_and_restored(self) -> None:
        self.open("Basin shimmer")
        page = self.page
        page.locator("#graph-pane").focus()
        page.keyboard.press("h")
        panel = page.get_by_role("complementary", name="History")
        panel.get_by_label("Name of the version").fill("Calm")
        panel.get_by_role("button", name="Keep version").click()
        panel.get_by_text("Calm", exact=True).wait_for()
        self.type_value("wide", "tiling", "5 5", [5, 5])
        self.select("fine_map")
        page.keyboard.press("q")
        wait_until("muted", lambda: self.nodes()["fine_map"].get("muted"))
        page.locator("#graph-pane").focus()
        added = self.add_by_search("invert")
        steps = panel.locator(".step")
        steps.filter(has_text="added Invert").wait_for()
        self.assertEqual([s.split("\n")[0] for s in steps.all_inner_texts()][:2], ["added Invert", "muted Fine map"])
        panel.get_by_role("button", name="Compare Calm").click()
        told = page.get_by_role("region", name="Comparison")
        told.get_by_text("Since “Calm”: 1 added, 2 changed").wait_for()
        self.assertIn("Wide ripples: Tiling 5 × 5, was 1.5 × 1.5", told.inner_text())
        wait_until(
            "both pictures are there",
            lambda: page.evaluate(
                "() => [...document.querySelectorAll('#comparison img')].every((i) => i.naturalWidth)"
            ),
        )
        marked = page.evaluate("() => [...document.querySelectorAll('.card.is-changed')].map((c) => c.dataset.node)")
        self.assertEqual((sorted(marked), page.locator(".card.is-added").count()), (["fine_map", "wide"], 1))
        panel.get_by_role("button", name="where it began").click()
        wait_until("all is undone", lambda: not self.state("undo"))
        told.get_by_text("nothing is different").wait_for()
        told.get_by_label("Close comparison").click()
        self.assertEqual(panel.locator(".step.undone").count(), 3)
        steps.filter(has_text="muted Fine map").click()
        wait_until("two steps are back", lambda: self.nodes()["fine_map"].get("muted"))
        self.assertNotIn(added, self.nodes())
        panel.get_by_role("button", name="Restore Calm").click()
        wait_until("the version is back", lambda: not self.nodes()["fine_map"].get("muted"))
        page.keyboard.press("Control+z")
        wait_until("what came after it is not lost", lambda: self.nodes()["fine_map"].get("muted"))
        panel.get_by_role("button", name="Remove version Calm").click()
        panel.get_by_text("None yet.").wait_for()


class Values(CraftCase):
    def test_numbers_turn_under_the_pointer_and_reckon(self) -> None:
        self.open("Slate step")
        self.type_value("moss_noise", "gain", "1/8 * 2", [0.25])
        self.page.keyboard.press("Escape")
        turned = lambda: self.nodes()["moss_noise"]["values"]["gain"][0]  # noqa: E731 - asked three times
        field = self.page.locator(".card [data-focus='moss_noise.gain']")
        for keys, wanted in (([], 0.6), (["Shift"], 0.634)):
            x, y = self.middle_of(field)
            for key in keys:
                self.page.keyboard.down(key)
            self.page.mouse.move(x, y)
            self.page.mouse.down()
            self.page.mouse.move(x + 35, y, steps=7)
            self.page.mouse.up()
            for key in keys:
                self.page.keyboard.up(key)
            wait_until(f"turned to {wanted}", lambda w=wanted: abs(turned() - w) < 0.002)
            self.settle()
        for text, value in (("90deg", 0.25), ("5 cm", 0.05), ("2 per cm", 200), ("-.5e-1", -0.05), ("(1+2)^2", 9)):
            field = self.page.locator(".card [data-focus='moss_noise.gain']")
            field.fill(text)
            field.press("Enter")
            wait_until(text, lambda v=value: abs(turned() - v) < 1e-6)
            self.settle()
        field = self.page.locator(".card [data-focus='moss_noise.gain']")
        field.fill("1/0")
        field.press("Enter")
        self.assertEqual(field.get_attribute("aria-invalid"), "true")

    @lit
    def test_a_colour_is_picked_from_the_stage_and_from_a_reference(self) -> None:
        self.open("Ferry enamel")
        page = self.page
        _, png = cv2.imencode(".png", np.full((40, 60, 3), (200, 120, 30), np.uint8))
        page.locator("input[aria-label='Reference picture']").set_input_files(
            {"name": "canal.png", "mimeType": "image/png", "buffer": png.tobytes()}
        )
        reference = page.locator("#reference img")
        reference.wait_for()
        colour = lambda: self.nodes()["side_tint"]["values"]["value"]  # noqa: E731 - asked twice
        before = colour()
        page.locator("[data-focus='parameter.side_tint']").click()
        page.get_by_role("button", name="Pick from the stage").click()
        page.locator(".eyedropper-tag").wait_for()
        page.mouse.move(*self.middle_of(reference))
        page.mouse.down()
        page.mouse.up()
        wait_until("the colour came over", lambda: colour() != before)
        np.testing.assert_allclose(colour(), [0.013, 0.188, 0.578], atol=0.02)
        page.reload()
        self.settle()
        reference.wait_for()
        page.locator("[data-focus='parameter.side_tint']").click()
        page.get_by_role("button", name="Pick from the stage").click()
        page.locator(".eyedropper-tag").wait_for()
        box = page.locator("#stage").bounding_box()
        assert box
        view = self.page.evaluate("() => moth.stage.camera.position.toArray()")
        # The stage's own grey, in its lower left corner.
        page.mouse.click(box["x"] + 6, box["y"] + box["height"] - 60)
        wait_until("the grey came over", lambda: max(colour()) - min(colour()) < 0.02)
        self.assertEqual(self.page.evaluate("() => moth.stage.camera.position.toArray()"), view, "no orbit")
        page.keyboard.press("Escape")
        whole = box["width"]
        width = lambda: self.page.evaluate("() => moth.stage.canvas.clientWidth")  # noqa: E731 - asked again
        where = page.get_by_label("Where the reference stands")
        where.select_option("beside")
        wait_until("the stage makes room", lambda: abs(width() - whole / 2) < 2)
        where.select_option("over")
        wait_until("the stage is whole again", lambda: abs(width() - whole) < 2)
        page.get_by_label("Opacity of the reference").fill("0.25")
        self.assertEqual(reference.evaluate("(image) => image.style.opacity"), "0.25")
        page.mouse.move(box["x"] + 60, box["y"] + 200)
        page.mouse.down()
        page.mouse.move(box["x"] + 120, box["y"] + 200, steps=3)
        page.mouse.up()
        turned = self.page.evaluate("() => moth.stage.camera.position.toArray()")
        self.assertNotEqual(turned, view, "the stage turns below the picture")
        page.get_by_role("button", name="Take the reference away").click()
        self.assertFalse(reference.is_visible())


class Lists(CraftCase):
    def test_parameters_are_carried_to_inputs_places_and_the_ground(self) -> None:
        self.open("Basin shimmer")
        names = lambda: [p["name"] for p in self.state("document")["parameters"]]  # noqa: E731 - asked often
        first, second, third = names()[:3]
        x, y = self.middle_of(self.label(first))
        self.carry(self.label(third), (x, y - 8))
        wait_until("it moved up", lambda: names()[:3] == [third, first, second])
        self.settle()
        self.fit()
        self.carry(self.label("Wide strength"), self.middle_of(self.input("fine_map", "strength")))
        wait_until("both read it", lambda: "strength" in (self.nodes()["fine_map"].get("wires") or {}))
        shared = self.parameter("Wide strength")["node"]
        self.assertEqual(self.nodes()["wide_map"]["wires"]["strength"][0], shared)
        self.settle()
        self.label("Wide strength").click()
        sheet = self.page.get_by_role("dialog", name="Parameter")
        sheet.get_by_role("button", name="Strength of Wide map").wait_for()
        sheet.get_by_label("Name").fill("Swell")
        sheet.get_by_role("button", name="Keep").click()
        wait_until("the card is renamed too", lambda: self.nodes()[shared]["label"] == "Swell")
        self.settle()
        self.fit()
        self.carry(self.label("Roughness"), self.empty_place())
        wait_until("it has a card", lambda: self.parameter("Roughness")["node"] != "dock")
        self.settle()
        self.page.locator("#rename-everywhere").click()
        self.page.get_by_label("Replace", exact=True).fill("ripples")
        self.page.get_by_label("with", exact=True).fill("waves")
        self.page.locator(".renaming", has_text="Wide ripples → Wide waves").wait_for()
        self.page.get_by_role("button", name="Rename", exact=True).click()
        wait_until("renamed", lambda: self.nodes()["wide"]["label"] == "Wide waves")
        while self.state("undo"):
            self.page.keyboard.press("Control+z")
            self.settle()
        self.assertEqual(names()[:3], [first, second, third])

    def test_textures_are_carried_onto_cards_and_the_ground(self) -> None:
        self.open("Ferry enamel")
        page = self.page
        page.locator("#graph-pane").focus()
        page.keyboard.press("g")
        drawer = page.get_by_role("complementary", name="Textures")
        tile = drawer.locator(".texture-tile", has_text="Ripple normal")
        old = self.nodes()["flake_map"]["values"]["texture"]
        self.fit()
        self.carry(tile, self.middle_of(page.locator(".card[data-node='flake_map']")))
        wait_until("the card reads it", lambda: self.nodes()["flake_map"]["values"]["texture"] != old)
        self.settle()
        count = len(self.nodes())
        self.carry(drawer.locator(".texture-tile", has_text="Flake height"), self.empty_place())
        wait_until("a card came", lambda: len(self.nodes()) == count + 1)
        self.assertEqual(self.nodes()["texture_1"]["label"], "Flake height")
        self.settle()
        drawer.locator(".texture-tile", has_text="Ripple height").focus()
        page.keyboard.press("Enter")
        wait_until("another by keyboard", lambda: len(self.nodes()) == count + 2)
        self.settle()
        # It is also where a field gets its texture, and is up to date with what other pages bring.
        self.open_slip("flake_map").locator("[data-focus='slip.flake_map.texture']").click()
        drawer.get_by_text("Press one for Texture of Flake map").wait_for()
        self.assertEqual(page.locator("dialog[open]").count(), 0)
        _, png = cv2.imencode(".png", np.full((8, 8, 3), (255, 130, 120), np.uint8))
        file = {"name": "dock_rope_normal.png", "mimeType": "image/png", "buffer": png.tobytes()}
        token = page.locator("meta[name=csrf]").get_attribute("content") or ""
        page.request.post(f"{self.live.url}/api/textures", multipart={"file": file}, headers={"X-CSRFToken": token})
        drawer.get_by_role("searchbox").fill("rope")
        before = self.nodes()["flake_map"]["values"]["texture"]
        drawer.locator(".texture-tile", has_text="dock_rope").click()
        wait_until("it is chosen", lambda: self.nodes()["flake_map"]["values"]["texture"] != before)
        self.settle()
        self.assertEqual(page.evaluate("() => document.activeElement.dataset.focus"), "slip.flake_map.texture")


class Marks(CraftCase):
    def test_frames_notes_and_bookmarks(self) -> None:
        self.open("Basin shimmer")
        page = self.page
        page.locator("#graph-pane").focus()
        page.evaluate("() => moth.pane.select(['wide', 'wide_drift', 'wide_map'])")
        page.keyboard.press("r")
        page.keyboard.type("Wide waves")
        page.keyboard.press("Enter")
        title = page.get_by_role("button", name="Frame Wide waves, 3 cards")
        title.wait_for()
        self.settle()
        frame = page.locator(".frame").bounding_box()
        card = self.page.locator(".card[data-node='wide_drift']").bounding_box()
        assert frame and card
        self.assertTrue(frame["x"] < card["x"] and frame["y"] < card["y"])
        title.click()
        page.get_by_role("menuitem", name="Fold into one line").click()
        page.get_by_role("button", name="Frame Wide waves, 3 cards, folded").wait_for()
        self.settle()
        self.assertFalse(page.locator(".card[data-node='wide_drift']").is_visible())
        self.assertEqual(page.locator(".wire[data-end='ripples.base']").count(), 1, "its wire goes on from the line")
        page.locator("#graph-pane").focus()
        page.keyboard.press("/")
        page.keyboard.type("wide drift")
        page.keyboard.press("Enter")
        wait_until("finding a card unfolds its frame", page.locator(".card[data-node='wide_drift']").is_visible)
        page.keyboard.press("Escape")
        page.mouse.move(*self.empty_place())
        page.keyboard.press("t")
        page.keyboard.type("Two speeds, or it reads as a still picture")
        page.keyboard.press("Control+Enter")
        page.get_by_role("note").get_by_text("Two speeds").wait_for()
        page.evaluate("() => moth.pane.focus('deep')")
        page.keyboard.press("b")
        page.keyboard.type("Colours")
        page.keyboard.press("Enter")
        wait_until("it is kept", lambda: len(self.state("document")["marks"]) == 3)
        self.settle()
        before = page.evaluate("() => moth.pane.view.x")
        page.evaluate("() => moth.pane.view.set({ x: 4000, y: 0, zoom: 0.5 })")
        page.locator("#graph-pane").focus()
        page.keyboard.press("1")
        wait_until("the view is back", lambda: abs(page.evaluate("() => moth.pane.view.x") - before) < 2)

    def test_finding_tracing_and_the_overview(self) -> None:
        self.open("Ferry enamel")
        page = self.page
        page.locator("#graph-pane").focus()
        page.keyboard.press("/")
        page.get_by_label("Find by name").fill("rim")
        page.keyboard.press("Enter")
        found = page.evaluate("() => moth.panels.finder.found")
        self.assertIn("rim", found)
        self.assertEqual(page.locator("#find-count").text_content(), f"1/{len(found)}")
        page.keyboard.press("Escape")
        page.evaluate("() => moth.pane.focus('flake_height')")
        page.keyboard.press("u")
        faded = page.evaluate("() => [...document.querySelectorAll('.card.faded')].map((c) => c.dataset.node)")
        self.assertIn("rim", faded)
        self.assertFalse({"flake_tile", "flake_height", "sparkle"} & set(faded))
        page.keyboard.press("u")
        self.assertEqual(page.locator(".card.faded").count(), 0)
        page.keyboard.press("o")
        overview = page.locator("#overview")
        before = page.evaluate("() => moth.pane.view.x")
        box = overview.bounding_box()
        assert box
        page.mouse.click(box["x"] + box["width"] * 0.8, box["y"] + box["height"] / 2)
        self.assertNotEqual(page.evaluate("() => moth.pane.view.x"), before)


class Wires(CraftCase):
    def test_cut_insert_pull_out_and_join_several(self) -> None:
        self.open("Basin shimmer")
        page = self.page
        self.fit()
        wires = lambda node: self.nodes()[node].get("wires") or {}  # noqa: E731 - asked often
        start, end = (
            self.middle_of(self.output("wide", "uv")),
            self.middle_of(self.input("wide_drift", "uv").locator(".pin")),
        )
        x, y = (start[0] + end[0]) / 2, (start[1] + end[1]) / 2
        page.keyboard.down("Alt")
        page.mouse.move(x, y - 30)
        page.mouse.down()
        page.mouse.move(x, y + 30, steps=8)
        page.mouse.up()
        page.keyboard.up("Alt")
        wait_until("the wire is cut", lambda: "uv" not in wires("wide_drift"))
        page.keyboard.press("Control+z")
        wait_until("and back", lambda: "uv" in wires("wide_drift"))
        self.settle()
        page.mouse.move(x, y)
        tile = self.add_by_search("tile")
        self.assertEqual((wires("wide_drift")["uv"][0], wires(tile)["uv"]), (tile, ["wide", "uv"]))
        page.keyboard.press("Shift+Delete")
        wait_until("pulled out", lambda: tile not in self.nodes())
        self.assertEqual(wires("wide_drift")["uv"], ["wide", "uv"])
        page.evaluate("() => moth.pane.select(['shallow', 'grazing'])")
        mix = self.add_mix()
        page.evaluate("() => moth.pane.select(['shallow', 'grazing'])")
        page.keyboard.press("w")
        page.locator("dialog").get_by_role("combobox").fill("a of mix")
        page.keyboard.press("Enter")
        wait_until("both are wired", lambda: len(wires(mix)) == 2)
        self.assertEqual(wires(mix)["a"][0], "shallow")

    def add_mix(self) -> str:
        self.page.locator("#graph-pane").focus()
        mix = self.add_by_search("mix")
        self.settle()
        self.page.locator("#graph-pane").focus()
        return mix

    def test_a_free_card_dropped_on_a_wire_goes_into_it(self) -> None:
        self.open("Basin shimmer")
        self.page.mouse.move(*self.empty_place())
        self.page.locator("#graph-pane").focus()
        tile = self.add_by_search("tile")
        self.page.keyboard.press("Escape")
        self.fit()
        self.settle()
        start = self.middle_of(self.output("fine", "uv"))
        end = self.middle_of(self.input("fine_drift", "uv").locator(".pin"))
        x, y = self.middle_of(self.page.locator(f".card[data-node='{tile}'] h3"))
        self.page.mouse.move(x, y)
        self.page.mouse.down()
        self.page.mouse.move((start[0] + end[0]) / 2 - 5, (start[1] + end[1]) / 2, steps=8)
        self.page.mouse.move((start[0] + end[0]) / 2, (start[1] + end[1]) / 2, steps=3)
        self.page.mouse.up()
        wait_until("it stands in the wire", lambda: self.nodes()["fine_drift"]["wires"]["uv"][0] == tile)
        self.assertEqual(self.nodes()[tile]["wires"]["uv"], ["fine", "uv"])

    def test_cards_are_copied_as_text_into_another_graph(self) -> None:
        self.context.grant_permissions(["clipboard-read", "clipboard-write"])
        self.open("Basin shimmer")
        self.page.locator("#graph-pane").focus()
        self.page.evaluate("() => moth.pane.select(['wide', 'wide_drift', 'wide_map'])")
        self.page.keyboard.press("Control+c")
        self.page.locator(".notice", has_text="Copied 3 cards").wait_for()
        self.new_graph()
        self.page.locator("#graph-pane").focus()
        self.page.keyboard.press("Control+v")
        wait_until("they arrived", lambda: len(self.nodes()) == 4)
        self.settle()
        labels = {n.get("label") for n in self.nodes().values()}
        self.assertLessEqual({"Wide ripples", "Wide drift", "Wide map"}, labels)
        self.assertEqual(len(self.state("document")["parameters"]), 1)


@lit
class Motifs(CraftCase):
    def test_a_motif_is_edited_in_its_place_and_the_outer_stage_follows(self) -> None:
        self.open("Basin shimmer")
        page = self.page
        page.locator("#graph-pane").focus()
        page.evaluate("() => moth.pane.select(['water', 'grazing'])")
        page.keyboard.press("m")
        page.keyboard.type("Depth tint")
        page.keyboard.press("Enter")
        use = wait_until("it is used", lambda: [n for n in self.nodes().values() if n["type"].startswith("motif_")])[0][
            "id"
        ]
        self.settle()
        outer = self.middle()
        page.evaluate("(id) => moth.pane.focus(id)", use)
        page.keyboard.press("i")
        page.wait_for_url("**within=*")
        self.settle()
        wait_until("the outer surface is on the stage", lambda: np.abs(self.middle() - outer).max() < 2)
        page.get_by_role("navigation", name="Way into the motif").get_by_role("link", name="Basin shimmer").wait_for()
        page.evaluate("() => moth.model.drag('grazing', 'power', [0.1])")
        wait_until("the outer stage follows while it is dragged", lambda: np.abs(self.middle() - outer).max() > 4)
        page.evaluate("() => moth.model.drag('grazing', 'power', moth.model.defaultValue('grazing', 'power'))")
        wait_until("and back", lambda: np.abs(self.middle() - outer).max() < 2)
        self.type_value("grazing", "power", "0.1", [0.1])
        wait_until("the outer stage follows", lambda: np.abs(self.middle() - outer).max() > 4)
        self.select("grazing")
        page.keyboard.press("s")
        wait_until("shown alone", lambda: self.state("shown") == "grazing.value")
        page.locator("#show-lit").click()
        page.locator("#graph-pane").focus()
        page.keyboard.press("Shift+I")
        page.wait_for_url(lambda url: "within" not in url)
        self.settle()
        self.assertEqual(self.state("document")["title"], "Basin shimmer")
        page.go_back()
        self.settle()
        self.assertEqual(self.state("document")["title"], "Depth tint")


class Help(CraftCase):
    def test_hints_come_once_and_go_for_good(self) -> None:
        self.page.goto(self.live.url)
        self.page.evaluate("() => localStorage.setItem('moth.hint', '0')")
        self.open("Slate step")
        hints = self.page.get_by_role("complementary", name="Hint")
        hints.get_by_text("adds a node where the pointer is").wait_for()
        hints.get_by_role("button", name="Next").click()
        hints.get_by_text("2/6").wait_for()
        self.page.reload()
        self.settle()
        hints.get_by_text("2/6").wait_for()
        hints.get_by_role("button", name="No more hints").click()
        self.page.reload()
        self.settle()
        self.assertEqual(hints.count(), 0)
        self.page.keyboard.press("?")
        self.page.get_by_role("dialog", name="Keys and gestures").get_by_text("Swap two inputs").wait_for()

    def test_swatches_lie_on_what_one_chooses(self) -> None:
        self.open("Slate step")
        pictures = lambda: self.page.evaluate("() => moth.model.state.swatches['dock.surface'].png")  # noqa: E731
        seen = {pictures()}
        for ground in ("plane", "sphere", "form"):
            self.page.locator("#swatch").select_option(ground)
            wait_until(f"drawn on the {ground}", lambda: pictures() not in seen)
            seen.add(pictures())
            self.settle()
        self.page.reload()
        self.settle()
        self.assertEqual(self.page.locator("#swatch").input_value(), "form")
        self.assertIn(pictures(), seen)
