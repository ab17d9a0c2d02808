"""The workbench under the hands: edits, undo, sliders, problems, two tabs, restarts, the stage's picture."""

import os
import signal

import numpy as np

from tests.browser.bench_page import WorkbenchCase
from tests.support.browser import array_of, lit, wait_until


class Editing(WorkbenchCase):
    @lit
    def test_build_see_undo_redo_and_find_it_after_a_restart(self) -> None:
        self.new_graph()
        grey = self.middle()
        self.page.locator("#graph-pane").focus()
        tint = self.add_by_search("colour")
        self.type_colour(tint, "value", "#2040C0")
        self.wire_by_mouse(tint, "colour", "dock", "base_colour")
        blue = self.middle()
        self.assertGreater(blue[2], blue[0] + 40)
        self.page.keyboard.press("Control+z")
        wait_until("the wire is undone", lambda: not self.nodes()["dock"].get("wires"))
        np.testing.assert_allclose(self.middle(), grey, atol=1)
        self.page.keyboard.press("Control+Shift+Z")
        self.expect_wire(tint, "colour", "dock", "base_colour")
        np.testing.assert_allclose(self.middle(), blue, atol=1)
        before = self.state("document")
        self.live.restart()
        self.page.reload()
        self.settle()
        # The restart cut off pictures of the search that were still on their way.
        self.said = [s for s in self.said if "ERR_CONNECTION" not in s or not s.endswith("/picture.png")]
        self.assertEqual(self.state("document"), before)
        self.page.get_by_role("button", name="Undo").click()
        wait_until("undo reaches over the restart", lambda: not self.nodes()["dock"].get("wires"))
        self.page.get_by_role("button", name="Redo").click()
        self.expect_wire(tint, "colour", "dock", "base_colour")

    def test_move_delete_and_lay_out_again(self) -> None:
        self.open("Slate step")
        head = self.card("Moss mask").locator(".swatch")
        box = head.bounding_box()
        assert box
        self.page.mouse.move(box["x"] + 5, box["y"] + 5)
        self.page.mouse.down()
        self.page.mouse.move(box["x"] + 65, box["y"] + 45, steps=5)
        self.page.mouse.up()
        wait_until("the card has a place", lambda: self.nodes()["moss_mask"].get("place"))
        self.settle()
        moved = head.bounding_box()
        assert moved
        self.assertAlmostEqual(moved["x"] - box["x"], 60, delta=8)
        self.page.locator("#graph-pane").focus()
        self.select("moss_mask")
        self.page.keyboard.press("l")
        wait_until("the card lies in its column again", lambda: not self.nodes()["moss_mask"].get("place"))
        self.page.keyboard.press("Delete")
        wait_until("the card is gone", lambda: "moss_mask" not in self.nodes())
        self.assertEqual(self.card("Moss mask").count(), 0)
        said = self.page.locator(".notice", has_text="No longer wired: Amount of Mossy slate")
        said.get_by_role("button", name="Bridge").click()
        bridged = "what it read goes to what read it"
        wait_until(bridged, lambda: self.nodes()["mossy"].get("wires", {}).get("amount", [""])[0] == "moss_noise")
        self.page.keyboard.press("Control+z")
        wait_until("the card is back", lambda: "moss_mask" in self.nodes())
        self.page.keyboard.press("Control+Shift+z")
        wait_until("and gone", lambda: "moss_mask" not in self.nodes())
        for _ in range(3):
            self.page.keyboard.press("Control+z")
        wait_until("all is back", lambda: "moss_mask" in self.nodes() and not self.state("undo"))
        self.settle()
        self.assertEqual(len(self.state("document")["parameters"]), 5)

    def test_wires_move_unplug_and_drop_on_nothing_asks_for_a_node(self) -> None:
        self.open("Quay pebbles")
        page = self.page
        page.get_by_role("button", name="Fit").click()
        self.drag(self.input("laid", "b").locator(".pin.in"), self.input("laid", "a").locator(".pin.in"))
        wait_until("the wire moved", lambda: self.nodes()["laid"]["wires"].get("a") == ["tone", "result"])
        self.settle()
        self.assertNotIn("b", self.nodes()["laid"]["wires"])
        box = self.output("gap", "result").bounding_box()
        pane = page.locator("#graph-pane").bounding_box()
        assert box and pane
        page.mouse.move(box["x"] + 10, box["y"] + 10)
        page.mouse.down()
        page.mouse.move(pane["x"] + 90, pane["y"] + pane["height"] - 20, steps=5)
        page.mouse.up()
        page.locator("dialog").get_by_role("combobox").fill("invert")
        wait_until("search answered", lambda: page.locator(".choices[data-query='invert']").count())
        page.keyboard.press("Enter")
        wait_until(
            "it came wired", lambda: self.nodes().get("invert_1", {}).get("wires") == {"value": ["gap", "result"]}
        )

    def test_a_loop_is_refused_with_a_sentence(self) -> None:
        self.open("Basin shimmer")
        self.page.get_by_role("button", name="Fit").click()
        self.drag(self.output("wide_drift", "uv"), self.input("wide", "uv").locator(".pin.in"))
        self.page.locator(".notice", has_text="would close a loop").wait_for()
        self.assertNotIn("wires", self.nodes()["wide"])
        self.expect_refusal(422)


class Problems(WorkbenchCase):
    def test_a_mismatch_offers_mends_and_one_press_mends_it(self) -> None:
        self.new_graph()
        self.page.locator("#graph-pane").focus()
        pair = self.add_by_search("pair")
        self.wire_by_mouse(pair, "vector", "dock", "normal")
        bar = self.page.locator("#problems")
        bar.get_by_text("takes three numbers; the wire carries two numbers").wait_for()
        self.assertEqual(self.page.locator(".wire.wrong").count(), 1)
        bar.get_by_role("button", name="Add a third number").click()
        extended = ["extend_pair_1", "vector"]
        wait_until("a card stands between", lambda: self.nodes()["dock"]["wires"]["normal"] == extended)
        self.settle()
        self.assertEqual(self.page.locator(".wire.wrong").count(), 0)

    def test_a_wire_takes_a_part_says_so_and_can_take_another(self) -> None:
        self.new_graph()
        self.page.locator("#graph-pane").focus()
        tint = self.add_by_search("colour")
        self.page.get_by_role("button", name="Fit").click()
        self.drag(self.output(tint, "colour"), self.input("dock", "roughness").locator(".pin.in"))
        self.expect_wire(tint, "colour", "dock", "roughness", "luminance")
        note = self.page.locator(".wire-note")
        self.assertEqual(note.text_content(), "luminance")
        self.assertEqual(self.page.locator(".wire.wrong").count(), 0)
        box = note.bounding_box()
        assert box
        self.page.mouse.click(box["x"] + box["width"] / 2, box["y"] + box["height"] + 1)
        self.page.get_by_role("dialog", name="Wire: Colour to Roughness").get_by_label("Takes").select_option("z")
        self.expect_wire(tint, "colour", "dock", "roughness", "z")
        self.assertEqual(note.text_content(), "blue")
        self.page.keyboard.press("Control+z")
        self.expect_wire(tint, "colour", "dock", "roughness", "luminance")

    def test_wrong_numbers_are_marked_and_nothing_is_lost(self) -> None:
        self.open("Ferry enamel")
        field = self.page.locator("#parameters [data-focus='parameter.rim_width']")
        field.fill("about three")
        field.press("Enter")
        self.assertEqual(field.get_attribute("aria-invalid"), "true")
        field.press("Escape")
        self.assertEqual(field.input_value(), "3")
        self.assertEqual(self.state("undo"), "")
        field.fill("4")
        field.press("Enter")
        wait_until("it is kept", lambda: self.state("undo") == "set Rim width to 4")
        self.settle()
        self.page.keyboard.press("Control+z")
        wait_until("undo works from the field", lambda: self.state("redo") == "set Rim width to 4")


class Tuning(WorkbenchCase):
    @lit
    def test_a_slider_drag_asks_the_server_nothing_until_it_is_let_go(self) -> None:
        self.open("Ferry enamel")
        page = self.page
        asked: list[str] = []
        page.on("request", lambda r: asked.append(r.url) if "/api/" in r.url else None)
        before = self.pixels()
        slider = page.locator("[data-focus='parameter.flake_strength.slider']")
        box = slider.bounding_box()
        assert box
        page.mouse.move(box["x"] + box["width"] * 0.3, box["y"] + box["height"] / 2)
        page.mouse.down()
        for share in (0.5, 0.7, 0.9, 0.95):
            page.mouse.move(box["x"] + box["width"] * share, box["y"] + box["height"] / 2, steps=3)
        dragged = page.evaluate("() => moth.model.live.get('flake_map.strength')?.[0]")
        self.assertGreater(dragged, 1.5)
        during = array_of(page, "() => moth.stage.snapshot(48, 48)").reshape(48, 48, 4)
        self.assertGreater(np.abs(during.astype(int) - before).mean(), 0.1, "the picture moved with the hand")
        self.assertEqual(asked, [])
        page.mouse.up()
        wait_until("the value was kept", lambda: self.nodes()["flake_map"]["values"]["strength"] == [dragged])
        self.settle()
        self.assertEqual([u.rsplit("/", 1)[1] for u in asked], ["operations"])

    @lit
    def test_variants_override_reset_rename_duplicate_delete(self) -> None:
        self.open("Ferry enamel")
        page = self.page
        page.get_by_role("button", name="Variant Night ferry, 3").click()
        wait_until("it is current", lambda: self.state("variant") == "night_ferry")
        self.settle()
        self.assertEqual(page.locator("#parameters-note").inner_text(), "3 differ from the defaults")
        blue = self.middle()
        self.assertGreater(blue[2], blue[0])
        page.get_by_role("button", name="Face tint is overridden").click()
        variant = lambda: {v["name"]: v for v in self.state("document")["variants"]}  # noqa: E731 - asked until it holds
        wait_until("it is reset", lambda: "face_tint" not in variant()["Night ferry"]["values"])
        self.assertEqual(self.nodes()["face_tint"]["values"]["value"], [0.52, 0.045, 0.022], "the default is untouched")
        for action, answer in (("Rename", "Moonlit"), ("Duplicate", "Moonlit twin")):
            page.get_by_role("button", name="Actions for variant").first.click()
            page.get_by_role("menuitem", name=action).click()
            page.locator("dialog input").fill(answer)
            page.keyboard.press("Enter")
            wait_until(answer, lambda a=answer: a in variant())
            self.settle()
        self.assertEqual(variant()["Moonlit twin"]["values"], variant()["Moonlit"]["values"])
        page.get_by_role("button", name="Actions for variant Moonlit twin").click()
        page.get_by_role("menuitem", name="Delete").click()
        wait_until("the copy is gone", lambda: "Moonlit twin" not in variant())
        ready = lambda: page.locator("#variants canvas[data-painted]").count()  # noqa: E731 - asked until it holds
        wait_until("every variant has its picture", lambda: ready() == 5)

    @lit
    def test_time_moves_the_water_only_while_it_plays(self) -> None:
        self.open("Basin shimmer")
        still = self.pixels()
        np.testing.assert_array_equal(self.pixels(), still)
        self.page.get_by_role("button", name="Play time").click()
        wait_until("time went on", lambda: self.page.evaluate("() => moth.stage.time > 0.3"))
        self.page.get_by_role("button", name="Pause time").click()
        self.assertGreater(np.abs(self.pixels().astype(int) - still).mean(), 0.3)
        self.assertIn("paused", self.page.locator("#timeline-clock").inner_text())


@lit
class Stage(WorkbenchCase):
    def test_orbit_light_and_forms_change_the_picture(self) -> None:
        self.open("Ferry enamel")
        page = self.page
        first = self.pixels().astype(int)
        box = page.locator("#stage").bounding_box()
        assert box
        middle = (box["x"] + box["width"] / 2, box["y"] + box["height"] / 2)
        for button in ("left", "right"):
            page.mouse.move(*middle)
            page.mouse.down(button=button)
            page.mouse.move(middle[0] + 90, middle[1] + 20, steps=5)
            page.mouse.up(button=button)
            now = self.pixels().astype(int)
            self.assertGreater(np.abs(now - first).mean(), 1.0, button)
            first = now
        page.locator("#stage").focus()
        page.keyboard.press("Shift+ArrowRight")
        self.assertGreater(np.abs(self.pixels().astype(int) - first).mean(), 0.1)
        count = lambda: page.evaluate("() => moth.stage.mesh.geometry.getAttribute('position').count")  # noqa: E731 - asked again
        own = count()
        page.locator("#form").select_option("sphere")
        wait_until("the sphere is there", lambda: np.abs(self.pixels().astype(int) - first).mean() > 3)
        page.locator("#form").select_option("plane")
        wait_until("as fine as it is by itself", lambda: count() == 97 * 97)
        cells = page.get_by_role("spinbutton", name="Cells along a side")
        for told, stays in (("3", "3"), ("1000", "3")):
            cells.fill(told)
            cells.press("Enter")
            wait_until("of three cells", lambda: count() == 16)
            wait_until("the field tells it", lambda want=stays: cells.input_value() == want)
        self.expect_refusal(422)
        page.keyboard.press("Control+z")
        wait_until("as before", lambda: count() == 97 * 97 and cells.input_value() == "96")
        page.keyboard.press("Control+z")
        page.keyboard.press("Control+z")
        wait_until("on the first form", lambda: count() == own and not cells.is_visible())
        wait_until(
            "the stage is sharp when still",
            lambda: page.evaluate("() => moth.stage.renderer.getPixelRatio() === devicePixelRatio"),
        )

    def test_a_shader_the_gpu_refuses_leaves_the_last_good_picture(self) -> None:
        self.open("Slate step")
        before = self.pixels()
        broken = (
            "() => moth.stage.setShader({ ...moth.model.state.shader, hash: 'broken', samplers: [],"
            " fragment: '#version 300 es\\nvoid main() { nonsense; }' }, new Float32Array(moth.model.state.shader.floats))"
        )
        self.page.evaluate(broken)
        self.page.locator(".notice", has_text="The last good picture stays").wait_for()
        np.testing.assert_array_equal(self.pixels(), before)
        at_a_card = (
            "() => { const { shader } = moth.model.state;"
            " const fragment = shader.fragment.replace(/ = ([^\\n]*\\/\\/ Mix)/, ' = nonsense + $1');"
            " return moth.stage.setShader({ ...shader, hash: 'worse', fragment }, new Float32Array(shader.floats)); }"
        )
        self.page.evaluate(at_a_card)
        self.page.locator(".notice", has_text="The fault lies at Stone colour").get_by_role("button").first.click()
        np.testing.assert_array_equal(self.pixels(), before)


class Killed(WorkbenchCase):
    """The server dies without warning; nothing is lost, nothing comes twice."""

    def test_edits_outlive_a_server_that_is_killed(self) -> None:
        self.new_graph()
        words = "Your edit is kept and tried again"
        # Held still, it has the edit and has not answered: then it is killed.
        os.kill(self.live.process.pid, signal.SIGSTOP)
        add = "(n) => void moth.model.edit({ op: 'add_node', node: { id: `step_${n}`, type: 'invert' } })"
        self.page.evaluate(add, 0)
        self.live.kill()
        self.page.locator(".notice", has_text=words).wait_for()
        self.live.start()
        wait_until("the edit arrived", lambda: "step_0" in self.nodes())
        # Killed right behind an edit: the answer may be lost before or after the edit was kept.
        for number in range(1, 5):
            self.page.evaluate(add, number)
            self.live.kill()
            self.live.start()
            wait_until("the edit arrived", lambda n=number: f"step_{n}" in self.nodes())
            self.settle()
        wait_until("the page is calm again", lambda: not self.page.locator(".notice", has_text=words).count())
        self.page.reload()
        self.settle()
        self.assertEqual(len(self.nodes()), 6)
        url = self.page.evaluate("() => moth.model.url")
        steps = self.page.evaluate("async (url) => (await (await fetch(`${url}/history`)).json()).steps", url)
        self.assertEqual([s["words"] for s in steps], ["added Invert"] * 5)
        self.said = [s for s in self.said if "ERR_" not in s and "Failed to load" not in s]


class Together(WorkbenchCase):
    @lit
    def test_an_undo_is_seen_though_news_of_it_come_before_its_answer(self) -> None:
        self.open("Ferry enamel")
        before = self.pixels().astype(int)
        self.type_value("base_coat", "roughness", "0.9", [0.9])
        self.page.evaluate(
            """() => {
                const { model } = moth;
                model.live.set("base_coat.roughness", [0.9]);
                void model.undo();
                model.catchUp({ graph: model.state.id, revision: 0, motif: "", words: "", texture: "" });
            }"""
        )
        wait_until("it is taken back", lambda: not self.state("undo"))
        self.settle()
        wait_until("it is seen", lambda: np.abs(self.pixels().astype(int) - before).max() <= 1)

    def test_two_pages_on_one_graph_stay_in_step_and_lose_no_edit(self) -> None:
        self.open("Quay pebbles")
        other = self.watched(self.context.new_page())
        other.goto(self.page.url)
        wait_until("the other page is ready", lambda: other.evaluate("() => window.moth?.stage.isReady"))
        self.type_value("cells", "seed", "7", [7])
        other.locator("#saved", has_text="elsewhere: set Seed of Pebbles to 7").wait_for()
        self.assertEqual(other.locator(".card [data-focus='cells.seed']").input_value(), "7")
        # News that comes late: the other page edits a state that is no longer the newest.
        other.evaluate("() => (moth.model.catchUp = () => {})")
        self.type_value("cells", "seed", "9", [9])
        other.locator(".card[data-node='gap']").focus()
        other.locator(".card [data-focus='gap.high']").fill("0.4")
        other.keyboard.press("Enter")
        other.locator(".notice", has_text="Meanwhile elsewhere: set Seed of Pebbles to 9").wait_for()
        ask = "() => Object.fromEntries(moth.model.state.document.nodes.map((n) => [n.id, n.values]))"
        wait_until("both edits are in", lambda: other.evaluate(ask)["gap"].get("high") == [0.4])
        self.assertEqual(other.evaluate(ask)["cells"]["seed"], [9])
        self.expect_refusal(409)

    def test_a_silent_server_keeps_the_edit(self) -> None:
        self.open("Slate step")
        self.live.stop()
        try:
            field = self.page.locator("#parameters [data-focus='parameter.moss_begins']")
            field.fill("0.3")
            field.press("Enter")
            self.page.locator(".notice", has_text="Your edit is kept and tried again").wait_for()
        finally:
            self.live.start()
        wait_until("the edit arrived", lambda: self.nodes()["moss_mask"]["values"]["low"] == [0.3])
        self.settle()
        self.said = [s for s in self.said if "ERR_CONNECTION" not in s and "Failed to load" not in s]
