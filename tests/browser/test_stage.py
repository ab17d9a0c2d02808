"""The stage: what one sees and asks of it."""

from collections.abc import Callable

import cv2
import numpy as np

from tests.browser.bench_page import WorkbenchCase
from tests.support.browser import array_of, lit, wait_until
from tests.support.databases import graph_id


class StageCase(WorkbenchCase):
    def pixel(self, x: int, y: int) -> np.ndarray:
        """The stage's picture at a place of the page, from the upper left corner of the canvas."""
        ask = """async ([x, y]) => {
            const { clientWidth: w, clientHeight: h } = moth.stage.canvas;
            const data = await moth.stage.snapshot(w, h);
            return [...data.slice(((h - 1 - y) * w + x) * 4, ((h - 1 - y) * w + x) * 4 + 3)];
        }"""
        return np.array(self.page.evaluate(ask, [x, y]))

    def pins(self) -> list[str]:
        return self.page.locator("#pins li").all_inner_texts()

    def more(self, entry: str) -> None:
        self.page.locator("#stage-more").click()
        self.page.get_by_role("menuitem", name=entry).click()

    def seen(self) -> np.ndarray:
        """What the canvas itself shows, wipe and all, (rows, columns, 4) from the top."""
        self.settle()
        best = """() => {
            const { stage } = moth;
            if (!stage.isBusy && !stage.isAtBest && !stage.resolution.isMoving) stage.finish();
            return stage.isAtBest && !stage.isBusy;
        }"""
        wait_until("it is at its best", lambda: self.page.evaluate(best))
        shot = self.page.locator("#stage").screenshot()
        box = self.page.locator("#stage").bounding_box()
        found = cv2.imdecode(np.frombuffer(shot, np.uint8), cv2.IMREAD_COLOR)
        return cv2.resize(found, (round(box["width"]), round(box["height"])), interpolation=cv2.INTER_NEAREST).astype(
            int
        )


@lit
class Looking(StageCase):
    def test_a_pin_tells_every_card_what_is_there(self) -> None:
        self.open("Ferry enamel")
        stage = self.page.locator("#stage")
        for count, (x, y) in enumerate(((230, 150), (150, 250)), start=1):
            stage.click(position={"x": x, "y": y})
            wait_until("the pin is there", lambda n=count: len(self.pins()) == n)
            shown = self.pins()[-1].split("#")[1][:6]
            told = np.array([int(shown[i : i + 2], 16) for i in (0, 2, 4)])
            self.assertLessEqual(np.abs(told - self.pixel(x, y)).max(), 2)
        value = self.page.locator(".card[data-node='flake_map'] .card-value")
        self.assertEqual(value.get_attribute("title"), "At the pin")
        second = value.inner_text()
        self.page.get_by_role("button", name="1 #").click()
        wait_until("the other pin's value", lambda: value.inner_text() != second)
        dock = self.page.locator(".channel[data-input='roughness'] .pinned")
        before = dock.inner_text()
        self.type_value("gloss_scale", "b", "0.9", [0.9])
        wait_until("an edit is told at the pin", lambda: dock.inner_text() != before)
        stage.click(position={"x": 420, "y": 8})
        self.page.locator(".notice", has_text="no surface at this pixel").wait_for()
        stage.focus()
        self.page.keyboard.press("Enter")
        wait_until("the middle is pinned", lambda: len(self.pins()) == 3)
        for number in (3, 2, 1):
            self.page.get_by_role("button", name=f"Take pin {number} away").click()
        self.assertEqual(self.page.locator(".pinned").count(), 0)

    def test_a_picture_that_moves_by_itself_rests_on_a_faster_shader(self) -> None:
        """The same picture; a value that is dragged is back on the slower one at once."""
        self.open("Ferry enamel")
        before = self.seen()
        # What calms down after seconds may do so now.
        self.page.evaluate("() => { moth.resting.changed = -1e6; moth.stage.setTurntable('eye'); }")
        wait_until("it rests", lambda: self.page.evaluate("() => !!moth.stage.resting"))
        slots = self.page.evaluate("() => [moth.resting.shader.floats, moth.model.state.shader.floats]")
        self.assertLess(slots[0], slots[1])
        self.page.evaluate("() => { moth.stage.setTurntable(''); moth.stage.resetView(); }")
        self.assertTrue(self.page.evaluate("() => !!moth.stage.resting"))
        np.testing.assert_allclose(self.seen(), before, atol=3)
        self.type_value("gloss_scale", "b", "0.9", [0.9])
        wait_until("it is the live one", lambda: self.page.evaluate("() => !moth.stage.resting"))
        self.assertGreater(np.abs(self.seen() - before).max(), 3)
        self.page.keyboard.press("Control+z")
        wait_until("as it was", lambda: self.nodes()["gloss_scale"]["values"]["b"] != [0.9])

    def test_rigs_and_looks_are_other_pictures_of_the_same_surface(self) -> None:
        self.open("Ferry enamel")
        lit, text = self.pixels().astype(int), self.state("shader")["hash"]
        for rig, is_other in (("low_sun", False), ("night_lamps", True)):
            self.page.locator("#rig").select_option(rig)
            wait_until(rig, lambda key=rig: self.page.evaluate("() => moth.stage.lighting.rig") == key)
            self.assertGreater(np.abs(self.pixels().astype(int) - lit).mean(), 8)
            # Lamps make another shader, other surroundings and another sun do not.
            self.assertEqual(self.state("shader")["hash"] != text, is_other, rig)
        seen = {}
        for look in ("normals", "uv_checker", "depth", "facing_side", "texture_level", "out_of_range"):
            self.page.locator("#look").select_option(f"stage.{look}")
            wait_until(look, lambda name=look: self.state("shown") == f"stage.{name}")
            seen[look] = self.pixels().tobytes()
        self.assertEqual(len(set(seen.values())), 6)
        # Dark where one sheet lies, brighter where the form lies behind itself.
        self.page.locator("#look").select_option("stage.overdraw")
        wait_until("overdraw", lambda: self.state("shown") == "stage.overdraw")
        layers = np.unique(self.pixels()[16:32, 16:32, 0])
        self.assertTrue({int(v) for v in layers} <= {64, 128, 191, 255}, layers)
        self.assertGreater(len(layers), 1)
        self.page.locator("#look").select_option("")
        wait_until("lit again", lambda: not self.state("shown"))
        self.page.keyboard.press("Control+z")
        self.page.keyboard.press("Control+z")
        wait_until("the first light", lambda: self.page.evaluate("() => moth.stage.lighting.rig") == "open_dock")
        np.testing.assert_allclose(self.pixels().astype(int), lit, atol=1)

    def test_pictures_are_saved(self) -> None:
        self.open("Basin water")
        wait_until("the basin is there", lambda: self.page.evaluate("() => !!moth.stage.backdrop.loaded"))

        # It may be there for a few frames only.
        note = """() => {
          window.noted = [];
          const seen = (changes) => changes.forEach(({ addedNodes }) => addedNodes.forEach((n) => noted.push(n.textContent)));
          new MutationObserver(seen).observe(document.getElementById("notices"), { childList: true });
        }"""
        self.page.evaluate(note)

        def saved(act: Callable[[], None]) -> np.ndarray:
            before = self.page.evaluate("() => noted.length")
            with self.page.expect_download() as download:
                act()
            said = self.page.evaluate("(from) => noted.slice(from).join()", before)
            self.assertIn("being drawn", said)
            found = cv2.imread(str(download.value.path()), cv2.IMREAD_UNCHANGED)
            self.assertTrue(download.value.suggested_filename.startswith("basin-water"))
            return found

        self.more("Save picture")
        self.page.get_by_role("combobox", name="Size").select_option("512")
        self.page.get_by_role("checkbox", name="Clear where there is nothing").check()
        still = saved(lambda: self.page.get_by_role("button", name="Save", exact=True).click())
        self.assertEqual((still.shape[0], still.shape[2]), (512, 4))
        self.assertEqual((still[0, 0, 3], still[256, still.shape[1] // 2, 3]), (0, 255))
        rim = (still[..., 3] > 60) & (still[..., 3] < 200)
        inner = cv2.dilate(np.where(still[..., 3:] == 255, still[..., :3], 0), np.ones((3, 3)))
        self.assertGreater(rim.sum(), 100, "it ends within pixels")
        self.assertGreater(still[rim][:, :3].mean(), 0.6 * inner[rim].mean(), "and does not fade to black there")
        sheet = saved(lambda: self.more("Save all variants"))
        self.assertEqual(sheet.shape[:2], (334, 3 * 480))
        tiles = [sheet[:300, i * 480 : i * 480 + 480, :3].astype(int) for i in range(3)]
        self.assertGreater(min(np.abs(tiles[0] - t).mean() for t in tiles[1:]), 1)

    def test_decals_are_placed_on_what_lies_behind(self) -> None:
        self.open("Lock keepers' marks")
        loaded = "() => !!moth.stage.backdrop.loaded"
        wait_until("the wall is there", lambda: self.page.evaluate(loaded))
        before = self.pixels().astype(int)
        count = lambda: len(self.state("decals"))  # noqa: E731 - asked again and again
        self.page.get_by_role("button", name="Place a decal").click()
        self.page.locator("#stage").click(position={"x": 20, "y": 20})
        self.page.locator(".notice", has_text="Nothing lies behind this pixel").wait_for()
        self.page.locator("#stage").click(position={"x": 250, "y": 150})
        wait_until("it is placed", lambda: count() == 7)
        self.assertEqual(self.page.locator("#pins li").count(), 0, "no pin")
        self.assertGreater(np.abs(self.pixels().astype(int) - before).mean(), 0.1)
        self.page.get_by_label("Size of decal 7").fill("99 1")
        self.page.get_by_label("Size of decal 7").press("Enter")
        self.page.locator(".notice", has_text="between 1 cm and 20 m").wait_for()
        self.expect_refusal(422)
        self.page.get_by_role("button", name="Remove decal 7").click()
        wait_until("it is gone", lambda: count() == 6)
        np.testing.assert_allclose(self.pixels().astype(int), before, atol=1)
        self.page.keyboard.press("Control+z")
        wait_until("it is back", lambda: count() == 7)
        self.page.get_by_role("button", name="First places").click()
        wait_until("the first ones", lambda: count() == 6 and not self.state("document")["decals"])
        self.page.locator("#backdrop").select_option("")
        self.page.locator("#problems", has_text="nothing is seen").wait_for()

    def test_what_lies_behind_is_drawn_anew_where_it_would_differ(self) -> None:
        self.open("Basin water")
        wait_until("the basin is there", lambda: self.page.evaluate("() => !!moth.stage.backdrop.loaded"))
        self.page.evaluate("""() => {
            const { stage } = moth;
            // The canvas draws in a size of its own as soon as one waits.
            const seen = async () => {
                const taken = stage.snapshot(64, 48), { drawn } = stage.backdrop;
                return { pixels: [...await taken], drawn };
            };
            window.changed = async (change) => {
                const before = await seen();
                await change(stage);
                const after = await seen();
                stage.picture.restart();
                const fresh = await seen();
                const most = ({ pixels: a }, { pixels: b }) => Math.max(...a.map((value, at) => Math.abs(value - b[at])));
                return { isKept: before.drawn === after.drawn, stale: most(after, fresh), seen: most(after, before) };
            };
        }""")
        changes = {
            "s.setTime(1.5)": True,
            "s.setValues(s.values.value.map((v) => v * 0.7))": True,
            "s.lighting.setExposure(2)": True,
            "s.lighting.turn(70, 10)": False,
            "s.hands.orbit(25, 0, 1)": False,
            "s.setBackdrop('lock_basin', [])": False,
            "s.lighting.set('night_lamps')": False,
            "s.setForm('sphere')": False,
            "s.setBackdrop('wall_and_floor')": False,
        }
        for change, is_kept in changes.items():
            told = self.page.evaluate(f"() => changed((s) => {change})")
            with self.subTest(change):
                self.assertEqual(told["stale"], 0, "as if nothing had been kept")
                self.assertGreater(told["seen"], 2)
                self.assertEqual(told["isKept"], is_kept)

    def test_edges_are_smooth_once_it_is_still(self) -> None:
        self.open("Water-dock leaf")
        ask = "(isSmooth) => moth.stage.snapshot(160, 120, { isSmooth })"
        plain, smooth = (array_of(self.page, ask, on).reshape(120, 160, 4)[..., :3].astype(int) for on in (False, True))
        grey = np.abs(plain - plain[0, 0]).max(axis=-1) == 0
        away, near = grey.copy(), ~grey
        for axis in (0, 1):
            for by in (-1, 1):
                away &= np.roll(grey, by, axis)
                near |= np.roll(~grey, by, axis)
        mixed = np.abs(smooth - plain)[grey & near].max(axis=-1) > 4
        self.assertGreater(mixed.mean(), 0.15, "the leaf ends within pixels")
        self.assertLess(np.abs(smooth - plain)[away].max(), 2, "past it all is as it was")
        calm = "() => moth.stage.isAtBest && !moth.stage.isBusy"
        wait_until("the canvas is drawn so", lambda: self.page.evaluate(calm))
        drawn = "() => [moth.stage.picture.smooth.target.width, moth.stage.canvas.width]"
        self.assertEqual(len(set(self.page.evaluate(drawn))), 1)
        self.open("Lock keepers' marks")
        # Another test may have taken it away.
        self.page.locator("#backdrop").select_option("wall_and_floor")
        wait_until("the wall is there", lambda: self.page.evaluate("() => !!moth.stage.backdrop.loaded"))
        plain, smooth = (array_of(self.page, ask, on).reshape(120, 160, 4)[..., :3].astype(int) for on in (False, True))
        wall = np.abs(plain - plain[0, 0]).max(axis=-1) > 0
        top = (np.argmin(wall, axis=0) % 120, np.arange(160))
        ends = wall.any(axis=0) & ~wall.all(axis=0)
        off = np.abs(smooth - plain).max(axis=-1)
        beside = np.maximum(off[top], off[np.maximum(top[0] - 1, 0), top[1]])
        self.assertGreater((beside[ends] > 3).mean(), 0.3, "what lies behind ends so too")

    def test_a_backdrop_shows_through(self) -> None:
        self.new_graph()
        self.page.locator("#form").select_option("plane")
        self.page.locator("#backdrop").select_option("lock_basin")
        wait_until("the basin is there", lambda: self.page.evaluate("() => !!moth.stage.backdrop.loaded"))
        solid = self.pixels().astype(int)
        opacity = self.page.locator(".channel [data-focus='dock.opacity']")
        opacity.fill("0")
        opacity.press("Enter")
        wait_until("it is clear", lambda: self.nodes()["dock"].get("values", {}).get("opacity") == [0])
        np.testing.assert_allclose(self.pixels().astype(int), solid, atol=1, err_msg="solid hides what is behind")
        self.page.locator("#kind").select_option("see_through")
        wait_until("it is see-through", lambda: self.state("document")["kind"] == "see_through")
        clear = self.pixels().astype(int)
        self.assertGreater(np.abs(clear - solid).mean(), 4)
        self.page.evaluate("() => ((moth.stage.mesh.visible = false), moth.stage.invalidate())")
        bare = array_of(self.page, "() => moth.stage.snapshot(48, 48)").reshape(48, 48, 4)
        self.assertLess(np.abs(bare.astype(int) - clear).mean(), 1.0, "all that is seen is what lies behind")


@lit
class Comparing(StageCase):
    # What is compared is large and made the same way: few pixels say as much.
    pixel_ratio = 0.25

    def test_two_pictures_are_parted_by_an_edge(self) -> None:
        self.open("Ferry enamel")
        wait_until("it is sharp", lambda: not self.page.evaluate("() => moth.stage.isBusy"))
        red = self.seen()
        self.more("Compare with")
        self.page.get_by_role("menuitem", name="Night ferry").click()
        edge = self.page.get_by_role("slider", name="Edge between the two pictures")
        edge.wait_for()
        wait_until("night is on the left", lambda: np.abs(self.seen() - red)[60:260, 120:200].mean() > 8)
        half = self.seen().shape[1] // 2
        right = slice(half + 24, half + 110)
        np.testing.assert_allclose(self.seen()[80:240, right], red[80:240, right], atol=2)
        edge.focus()
        for _ in range(8):
            self.page.keyboard.press("ArrowRight")
        self.assertEqual(edge.get_attribute("aria-valuenow"), "66")
        wait_until("more of the night", lambda: np.abs(self.seen() - red)[80:240, half + 10 : half + 50].mean() > 4)
        self.page.get_by_role("button", name="Stop comparing").click()
        wait_until("whole again", lambda: np.abs(self.seen() - red).mean() < 1)
        self.type_value("base_coat", "roughness", "0.9", [0.9])
        self.more("Compare with")
        self.page.get_by_role("menuitem", name="Before the last edit").click()
        left = slice(100, half - 24)
        wait_until("before is on the left", lambda: np.abs(self.seen() - red)[80:240, left].mean() < 1)
        self.assertGreater(np.abs(self.seen() - red)[80:240, right].mean(), 1)
        self.page.get_by_role("button", name="Stop comparing").click()
        self.page.get_by_role("button", name="Undo").click()
        wait_until("glossy again", lambda: np.abs(self.seen() - red).mean() < 1)

    def test_versions_stand_on_either_side_of_the_edge(self) -> None:
        self.open("Ferry enamel")
        red = self.seen()
        half = red.shape[1] // 2
        left, right = slice(100, half - 24), slice(half + 24, half + 110)
        self.page.evaluate("""async () => {
            const { postJson } = await import("moth/base/api.js");
            await postJson(`${moth.model.url}/versions`, { name: "Glossy" });
            await moth.model.edit({ op: "set_value", node: "face_tint", input: "value", value: [0, 0.3, 0] });
        }""")
        wait_until("it is green", lambda: np.abs(self.seen() - red)[80:240, left].mean() > 5)
        self.more("Compare with")
        self.page.get_by_role("menuitem", name="Version: Glossy").click()
        wait_until("the version is on the left", lambda: np.abs(self.seen() - red)[80:240, left].mean() < 1)
        self.assertGreater(np.abs(self.seen() - red)[80:240, right].mean(), 5)
        self.page.get_by_role("button", name="On the right: As it is").click()
        self.page.get_by_role("menuitem", name="Version: Glossy").click()
        wait_until("one version beside another", lambda: np.abs(self.seen() - red)[80:240, right].mean() < 1)
        self.page.get_by_role("button", name="On the left: Version: Glossy").click()
        self.page.get_by_role("menuitem", name="As it is").click()
        wait_until("the graph is on the left", lambda: np.abs(self.seen() - red)[80:240, left].mean() > 5)

    def test_time_goes_by_steps_at_other_speeds_and_in_loops(self) -> None:
        self.open("Basin water")
        clock = self.page.locator("#timeline-clock")
        for _ in range(6):
            self.page.get_by_role("button", name="+1 frame").click()
        wait_until("six steps on", lambda: clock.inner_text() == "0:00.2 paused")
        self.page.get_by_role("button", name="−1 frame").click()
        self.page.locator("#timing").click()
        length = self.page.get_by_label("Length in seconds")
        length.fill("2")
        length.press("Enter")
        wait_until("two seconds long", lambda: self.page.locator("#timing").inner_text() == "2 s · 30/s")
        self.page.locator("#time").fill("1.9")
        wait_until("near the end", lambda: clock.inner_text() == "0:01.9 paused")
        self.page.locator("#speed").select_option("2")
        self.page.get_by_role("button", name="Play time").click()
        wait_until("begun again", lambda: self.page.evaluate("() => moth.stage.time") < 1.5)
        self.page.get_by_role("button", name="Pause time").click()
        self.page.get_by_role("button", name="To the start").click()
        wait_until("at the start", lambda: clock.inner_text() == "0:00.0 paused")

    def test_a_part_of_the_backdrop_has_the_surface_of_a_graph_and_follows_it(self) -> None:
        self.open("Lock keepers' marks")
        self.page.locator("#backdrop").select_option("wall_and_floor")
        wait_until("the wall is there", lambda: self.page.evaluate("() => !!moth.stage.backdrop.loaded"))

        def differs(what: str, other: np.ndarray) -> np.ndarray:
            wait_until(what, lambda: np.abs(self.pixels().astype(int) - other).mean() > 0.3)
            return self.pixels().astype(int)

        bare = self.pixels().astype(int)
        self.more("Views and turning")
        self.page.get_by_role("menuitem", name="Surfaces of the backdrop").click()
        sheet = self.page.get_by_role("dialog", name="Surfaces of the backdrop")
        sheet.get_by_label("Surface of Post").select_option(label="Ferry enamel")
        surfaced = differs("it has a surface of its own", bare)
        sheet.get_by_label("Variant of Post").select_option(label="Night ferry")
        differs("so is its variant", surfaced)
        sheet.get_by_label("Variant of Post").select_option(label="Defaults")
        wait_until("as before", lambda: np.abs(self.pixels().astype(int) - surfaced).mean() < 0.01)
        sheet.get_by_role("button", name="Close").click()
        other = self.page.context.new_page()
        other.goto(f"{self.live.url}/graphs/{graph_id(self.live.engine, 'Ferry enamel')}")
        other.wait_for_function("() => window.moth?.stage.isReady")
        other.evaluate(
            "() => moth.model.edit({ op: 'set_value', node: 'face_tint', input: 'value', value: [0, 1, 0] })"
        )
        other.close()
        differs("it follows the graph", surfaced)
        for _ in range(3):
            self.page.keyboard.press("Control+z")
        wait_until("its own again", lambda: np.abs(self.pixels().astype(int) - bare).mean() < 0.01)

    def test_a_light_beside_another_is_what_the_stage_shows_under_it(self) -> None:
        self.open("Quay pebbles")
        self.page.locator("#backdrop").select_option("wall_and_floor")
        wait_until("it is there", lambda: self.page.evaluate("() => !!moth.stage.backdrop.loaded"))
        before = self.pixels().astype(int)
        ask = """async (rig) => {
            const { litBy } = await import("moth/workbench/stage_tools/lights.js");
            return moth.stage.snapshot(48, 48, await litBy(moth.model, moth.stage, rig));
        }"""
        beside = array_of(self.page, ask, "night_lamps").reshape(48, 48, 4).astype(int)
        self.assertGreater(np.abs(beside - before).mean(), 8)
        self.assertEqual(np.abs(self.pixels().astype(int) - before).max(), 0, "the stage has its own light again")
        self.more("Show all lights")
        self.assertEqual(self.page.locator(".grid-tile").count(), self.page.locator("#rig option").count())
        self.page.locator("#light-grid").get_by_role("button", name="Night, coloured lamps").click()
        wait_until("it is chosen", lambda: self.page.evaluate("() => moth.stage.lighting.rig") == "night_lamps")
        np.testing.assert_allclose(self.pixels().astype(int), beside, atol=2)

    def test_variants_stand_side_by_side_and_take_from_one_another(self) -> None:
        self.open("Ferry enamel")
        self.more("Show all variants")
        painted = self.page.locator("#variant-grid canvas[data-painted]")
        wait_until("all are drawn", lambda: painted.count() == 5)
        self.page.locator("#variant-grid").get_by_role("button", name="Night ferry").click()
        wait_until("it is chosen", lambda: self.state("variant") == "night_ferry")
        self.assertFalse(self.page.locator("#variant-grid").is_visible())
        night = self.pixels().astype(int)

        def act(name: str) -> None:
            self.page.get_by_role("button", name="Actions for variant Salt-dulled").click()
            self.page.get_by_role("menuitem", name=name).click()

        act("Base and note")
        self.page.get_by_label("Based on").select_option("night_ferry")
        self.page.get_by_label("Note").fill("After a winter at the quay.")
        self.page.get_by_role("dialog").get_by_role("button", name="Keep").click()
        tile = self.page.locator("[data-focus='variant.salt_dulled']")
        wait_until("it is told", lambda: "After a winter at the quay." in (tile.get_attribute("title") or ""))
        tile.click()
        wait_until("it is chosen", lambda: self.state("variant") == "salt_dulled")
        self.assertGreater(self.pixels().astype(int)[..., 2].mean(), night[..., 2].mean() - 25, "blue as the night")
        act("Take values")
        self.page.get_by_role("menuitem", name="from Night ferry").click()
        wait_until("as the night", lambda: np.abs(self.pixels().astype(int) - night).mean() < 1)
        self.page.get_by_role("button", name="Edit parameter Rim width").click()
        self.page.get_by_text("Values it had").click()
        held = self.page.locator(".values-held")
        wait_until("what worked is found", lambda: "1.2" in held.inner_text())
        held.get_by_role("button", name="1.2").click()
        ask = lambda: next(v for v in self.state("document")["variants"] if v["id"] == "salt_dulled")  # noqa: E731 - short
        wait_until("it is taken again", lambda: ask()["values"]["rim_width"] == [1.2])

    def test_views_are_saved_turned_about_and_exposed(self) -> None:
        self.open("Basin water")
        wait_until("the basin is there", lambda: self.page.evaluate("() => !!moth.stage.backdrop.loaded"))

        def view(name: str) -> None:
            self.more("Views and turning")
            self.page.get_by_role("menuitem", name=name).click()

        eye = lambda: self.page.evaluate("() => moth.stage.camera.position.toArray()")  # noqa: E731 - asked often
        first = eye()
        view("Standing in the scene")
        standing = eye()
        self.assertGreater(np.abs(np.subtract(standing, first)).max(), 0.5)
        view("Save this view")
        self.page.get_by_role("textbox", name="Save this view as").fill("From the rim")
        self.page.keyboard.press("Enter")
        wait_until("it is kept", lambda: len(self.state("document")["views"]) == 1)
        view("First view")
        np.testing.assert_allclose(eye(), first, atol=1e-6)
        self.page.reload()
        self.settle()
        view("From the rim")
        np.testing.assert_allclose(eye(), standing, atol=1e-3)
        view("Turn the light round")
        light = self.page.evaluate("() => moth.stage.lighting.angles.turn")
        wait_until("it turns", lambda: abs(self.page.evaluate("() => moth.stage.lighting.angles.turn") - light) > 3)
        view("Stop turning the light")
        view("First view")
        self.settle()
        self.page.locator("#stage").click(position={"x": 220, "y": 190})
        wait_until("the pin is there", lambda: len(self.pins()) == 1)
        self.page.locator("#stage").press("f")
        target = self.page.evaluate("() => moth.stage.controls.target.toArray()")
        self.assertGreater(np.abs(np.subtract(target, (0.0, 0.0, 0.0))).max(), 0.01)
        view("Expose by what is seen")
        wait_until("it is measured", lambda: self.page.evaluate("() => moth.stage.lighting.automatic") is not None)
        view("Expose as the light says")
        self.assertEqual(self.page.evaluate("() => moth.stage.uniforms.exposure.value"), 0.72)
