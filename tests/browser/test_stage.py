"""The stage: what one sees and asks of it."""

from collections.abc import Callable

import cv2
import numpy as np

from tests.browser.bench_page import WorkbenchCase
from tests.support.browser import wait_until


class Looking(WorkbenchCase):
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

    def test_rigs_and_looks_are_other_pictures_of_the_same_surface(self) -> None:
        self.open("Ferry enamel")
        lit, text = self.pixels().astype(int), self.state()["shader"]["hash"]
        self.page.locator("#rig").select_option("night_lamps")
        wait_until("night has come", lambda: self.page.evaluate("() => moth.stage.rig") == "night_lamps")
        self.assertGreater(np.abs(self.pixels().astype(int) - lit).mean(), 8)
        self.assertEqual(self.state()["shader"]["hash"], text, "another light is no other shader")
        seen = {}
        for look in ("normals", "uv_checker", "depth", "facing_side", "texture_level", "out_of_range"):
            self.page.locator("#look").select_option(f"stage.{look}")
            wait_until(look, lambda name=look: self.state()["shown"] == f"stage.{name}")
            seen[look] = self.pixels().tobytes()
        self.assertEqual(len(set(seen.values())), 6)
        self.page.locator("#look").select_option("")
        wait_until("lit again", lambda: not self.state()["shown"])
        self.page.keyboard.press("Control+z")
        wait_until("the first light", lambda: self.page.evaluate("() => moth.stage.rig") == "open_dock")
        np.testing.assert_allclose(self.pixels().astype(int), lit, atol=1)

    def more(self, entry: str) -> None:
        self.page.locator("#stage-more").click()
        self.page.get_by_role("menuitem", name=entry).click()

    def seen(self) -> np.ndarray:
        """What the canvas itself shows, wipe and all, (rows, columns, 4) from the top."""
        self.settle()
        shot = self.page.locator("#stage").screenshot()
        return cv2.imdecode(np.frombuffer(shot, np.uint8), cv2.IMREAD_COLOR).astype(int)

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

    def test_pictures_are_saved(self) -> None:
        self.open("Basin water")
        wait_until("the basin is there", lambda: self.page.evaluate("() => !!moth.stage.backdrop.loaded"))

        def saved(act: Callable[[], None]) -> np.ndarray:
            with self.page.expect_download() as download:
                act()
            found = cv2.imread(str(download.value.path()), cv2.IMREAD_UNCHANGED)
            self.assertTrue(download.value.suggested_filename.startswith("basin-water"))
            return found

        self.more("Save picture")
        self.page.get_by_role("combobox", name="Size").select_option("512")
        self.page.get_by_role("checkbox", name="Clear where there is nothing").check()
        still = saved(lambda: self.page.get_by_role("button", name="Save", exact=True).click())
        self.assertEqual((still.shape[0], still.shape[2]), (512, 4))
        self.assertEqual((still[0, 0, 3], still[256, still.shape[1] // 2, 3]), (0, 255))
        sheet = saved(lambda: self.more("Save all variants"))
        self.assertEqual(sheet.shape[:2], (334, 3 * 480))
        tiles = [sheet[:300, i * 480 : i * 480 + 480, :3].astype(int) for i in range(3)]
        self.assertGreater(min(np.abs(tiles[0] - t).mean() for t in tiles[1:]), 1)

    def test_time_goes_by_steps_at_other_speeds_and_in_loops(self) -> None:
        self.open("Basin water")
        clock = self.page.locator("#timeline-clock")
        for _ in range(6):
            self.page.get_by_role("button", name="+ step").click()
        wait_until("six steps on", lambda: clock.inner_text() == "0:00.2 paused")
        self.page.get_by_role("button", name="− step").click()
        self.page.locator("#loop").select_option("2")
        self.page.locator("#time").fill("1.9")
        wait_until("near the end", lambda: clock.inner_text() == "0:01.9 paused")
        self.page.locator("#speed").select_option("2")
        self.page.get_by_role("button", name="Play time").click()
        wait_until("begun again", lambda: self.page.evaluate("() => moth.stage.time") < 1.5)
        self.page.get_by_role("button", name="Pause time").click()
        self.page.get_by_role("button", name="0:00").click()
        wait_until("at the start", lambda: clock.inner_text() == "0:00.0 paused")

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
        wait_until("it is see-through", lambda: self.state()["document"]["kind"] == "see_through")
        clear = self.pixels().astype(int)
        self.assertGreater(np.abs(clear - solid).mean(), 4)
        self.page.evaluate("() => ((moth.stage.mesh.visible = false), moth.stage.invalidate())")
        size = "async () => [...await moth.stage.snapshot(48, 48)]"
        bare = np.array(self.page.evaluate(size)).reshape(48, 48, 4)
        self.assertLess(np.abs(bare - clear).mean(), 1.0, "all that is seen is what lies behind")
