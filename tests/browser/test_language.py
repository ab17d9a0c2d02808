"""Motifs, toggles, gradients, cost and the node reference, as a person uses them."""

import numpy as np

from tests.browser.bench_page import WorkbenchCase
from tests.support.browser import lit, wait_until


class Language(WorkbenchCase):
    @lit
    def test_a_motif_made_reused_edited_and_unpacked(self) -> None:
        self.open("Ferry enamel")
        before = self.pixels(64).astype(int)
        for node in ("gloss_fall", "gloss_scale", "gloss_range"):
            self.page.locator(f".card[data-node='{node}'] h3").click(modifiers=["Shift"])
        self.page.keyboard.press("m")
        self.page.get_by_role("textbox", name="New motif").fill("Gloss by rim")
        self.page.keyboard.press("Enter")
        wait_until("the use is there", lambda: self.card("Gloss by rim").count())
        self.settle()
        self.assertLess(int(np.abs(self.pixels(64) - before).max()), 6)
        used = self.add_by_search("gloss by rim")
        self.assertTrue(self.nodes()[used]["type"].startswith("motif_"))
        self.open_slip("motif_use_1").get_by_role("link", name="Open motif").click()
        self.page.wait_for_url("**/graphs/*")
        self.settle()
        self.assertIn("used in", self.page.locator(".bench-head").inner_text())
        self.type_value("gloss_fall", "power", "0", [0])
        self.page.go_back()
        self.settle()
        self.assertGreater(int(np.abs(self.pixels(64) - before).max()), 12, "edited once, changed here")
        self.open_slip("motif_use_1").get_by_role("button", name="Unpack").click()
        wait_until("it is unpacked", lambda: "motif_use_1" not in self.nodes())
        self.page.keyboard.press("Control+z")
        wait_until("undo brings the use back", lambda: "motif_use_1" in self.nodes())

    def test_a_motif_of_nothing_is_explained(self) -> None:
        self.new_graph()
        self.page.locator("#graph-pane").focus()
        self.page.keyboard.press("m")
        self.page.get_by_text("Select the nodes that belong together").wait_for()

    @lit
    def test_a_variant_with_another_toggle_shows_in_its_picture_and_on_the_stage(self) -> None:
        self.open("Silt splash")
        painted = "(id) => document.querySelector(`canvas[data-variant='${id}']`)?.dataset.painted === 'true'"
        read = (
            "(id) => [...document.querySelector(`canvas[data-variant='${id}']`).getContext('2d')"
            ".getImageData(0, 0, 224, 124).data]"
        )
        for variant in ("", "hard_edge"):
            wait_until(f"picture of {variant}", lambda v=variant: self.page.evaluate(painted, v), 60)
        soft, hard = (np.array(self.page.evaluate(read, v)).reshape(124, 224, 4) for v in ("", "hard_edge"))
        self.assertGreater(int((np.abs(soft - hard).max(axis=2) > 20).sum()), 300)
        first = self.pixels(64).astype(int)
        self.page.get_by_role("button", name="Variant Hard edge, 1 differ from the defaults").click()
        wait_until("the variant is shown", lambda: self.state("variant") == "hard_edge")
        shown = self.pixels(64).astype(int)
        self.assertGreater(int((np.abs(shown - first).max(axis=2) > 20).sum()), 60)
        self.page.locator("[data-focus='parameter.soft_edge']").check()
        wait_until(
            "the override is kept", lambda: self.state("document")["variants"][0]["values"] == {"soft_edge": [1]}
        )
        self.assertLess(int((np.abs(self.pixels(64).astype(int) - first).max(axis=2) > 20).sum()), 20)

    def test_a_gradient_is_edited_in_place_and_undone(self) -> None:
        self.open("Boathouse tiles")
        before = self.nodes()["glaze"]["values"]["stops"]
        self.page.locator("[data-focus='parameter.glazes']").click()
        panel = self.page.get_by_role("dialog", name="Glazes")
        self.assertEqual(panel.locator(".stop").count(), 4)
        self.page.keyboard.press("ArrowRight")
        wait_until("the stop moved", lambda: self.nodes()["glaze"]["values"]["stops"][0] == 0.01)
        panel.locator(".stops-board").click(position={"x": 60, "y": 10})
        wait_until("a stop was added", lambda: len(self.nodes()["glaze"]["values"]["stops"]) == 20)
        self.settle()
        panel.get_by_role("button", name="Remove").click()
        wait_until("it was removed", lambda: len(self.nodes()["glaze"]["values"]["stops"]) == 16)
        self.page.keyboard.press("Escape")
        for _ in range(3):
            self.page.keyboard.press("Control+z")
        wait_until("all is undone", lambda: self.nodes()["glaze"]["values"]["stops"] == before)

    def test_a_card_tells_range_and_cost_and_the_sheet_tells_all(self) -> None:
        self.open("Basin water")
        told = self.open_slip("swell").locator(".analysis[data-ready]")
        told.wait_for()
        words = told.inner_text()
        for part in ("proved", "for each vertex or pixel", "ops", "without it"):
            self.assertIn(part, words)
        self.page.locator("#cost").click()
        sheet = self.page.locator("dialog.cost-sheet")
        sheet.wait_for()
        for part in ("For each vertex", "By channel", "Foam grain", "never beyond"):
            self.assertIn(part, sheet.inner_text())

    def test_the_form_belongs_to_the_graph(self) -> None:
        self.open("Quay pebbles")
        self.page.locator("#form").select_option("sphere")
        wait_until("it is kept", lambda: self.state("document")["form"] == "sphere")
        self.page.reload()
        self.settle()
        self.assertEqual(self.page.locator("#form").input_value(), "sphere")
        self.page.keyboard.press("Control+z")
        wait_until("undone", lambda: self.page.locator("#form").input_value() == "mooring")

    def test_from_the_reference_to_a_graph(self) -> None:
        self.page.goto(f"{self.live.url}/nodes")
        self.page.get_by_role("searchbox", name="Search nodes").fill("make it two-sided")
        self.page.keyboard.press("Enter")
        self.page.get_by_role("link", name="Mirror back").click()
        self.page.get_by_role("button", name="Open the example as a graph").click()
        self.page.wait_for_url("**/graphs/*")
        self.settle()
        self.assertEqual(self.state("document")["title"], "Mirror back: example")

    def test_parameters_have_groups_order_and_help(self) -> None:
        self.open("Slate step")
        names = lambda: [p["name"] for p in self.state("document")["parameters"]]  # noqa: E731 - asked twice
        first, second = names()[:2]
        self.page.get_by_role("button", name=f"Edit parameter {second}").click()
        sheet = self.page.get_by_role("dialog", name="Parameter")
        sheet.get_by_role("button", name="Up").click()
        wait_until("it moved up", lambda: names()[:2] == [second, first])
        sheet.get_by_label("Group").fill("Stone")
        sheet.get_by_label("Help").fill("The lighter of its two greys.")
        sheet.get_by_role("button", name="Keep").click()
        self.page.locator(".parameter-group", has_text="Stone").wait_for()
        told = self.page.get_by_role("button", name=f"Edit parameter {second}").get_attribute("title") or ""
        self.assertTrue(told.startswith("The lighter of its two greys.\nFeeds B of"), told)
        self.page.get_by_role("button", name=f"Edit parameter {second}").click()
        sheet.get_by_label("Group").fill("x" * 41)
        self.assertEqual(len(sheet.get_by_label("Group").input_value()), 40, "no more than fits can be typed")
        sheet.get_by_role("button", name="Cancel").click()
        for _ in range(2):
            self.page.keyboard.press("Control+z")
        wait_until("all is undone", lambda: names()[:2] == [first, second])

    @lit
    def test_a_variant_with_another_texture_shows_it(self) -> None:
        self.open("Basin water")
        self.page.get_by_role("button", name="Variant Peat brown, 2 differ").click()
        wait_until("the variant is shown", lambda: self.state("variant") == "peat_brown")
        before = self.pixels(64).astype(int)
        self.page.locator("[data-focus='parameter.ripple_map']").click()
        self.page.locator("#texture-drawer .texture-tile", has_text="Flake normal").click()
        wait_until(
            "it is the variant's own",
            lambda: "ripple_map" in self.state("document")["variants"][0]["values"],
        )
        self.assertGreater(int((np.abs(self.pixels(64).astype(int) - before).max(axis=2) > 3).sum()), 60)
        self.assertNotIn("ripple_map", self.state("document")["variants"][1]["values"])
        self.page.get_by_role("button", name="Ripple map is overridden: reset to the default").click()
        wait_until("it is reset", lambda: "ripple_map" not in self.state("document")["variants"][0]["values"])

    def test_what_is_per_pixel_on_the_offset_is_told_and_mended(self) -> None:
        self.new_graph()
        push = self.add_by_search("along normal")
        depth = self.add_by_search("depth behind")
        self.wire_by_keyboard(push, "offset of dock", "dock", "offset", "offset")
        self.wire_by_keyboard(depth, "height of along", push, "height", "depth")
        self.page.get_by_text("The form is moved vertex by vertex").first.wait_for()
        self.page.get_by_role("button", name="Remove the wire").first.click()
        wait_until("it is mended", lambda: not self.errors())
