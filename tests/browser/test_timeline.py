"""Keys over time by hand: set, eased, moved, played, in a variant; films and sheets of frames of what they do."""

import io
import re
import unittest
import zipfile
from typing import Any

import numpy as np
from PIL import Image
from playwright.sync_api import Locator

from tests.browser.bench_page import WithWorker
from tests.support.browser import data_of, lit, wait_until
from tests.support.databases import graph_id
from velvet_moth.core.files.graph_json import graph_from_json

# Has every frame of what plays be noted: its time and the values that went to the shader.
NOTE = """() => {
  const { stage } = moth;
  window.noted = [];
  const draw = stage.picture.draw.bind(stage.picture);
  stage.picture.draw = (at) => { window.noted.push([stage.time, ...stage.values.value]); return draw(at); };
  window.asked = performance.getEntriesByType("resource").length;
  const gl = stage.renderer.getContext();
  window.built = 0;
  const link = gl.linkProgram.bind(gl);
  gl.linkProgram = (program) => { window.built += 1; return link(program); };
}"""


class Timeline(WithWorker):
    def row(self, name: str) -> Locator:
        return self.page.locator("#parameters li[data-parameter]").filter(
            has=self.page.get_by_role("button", name=f"Edit parameter {name}", exact=True)
        )

    def go_to(self, time: float) -> None:
        """By the ruler where there is one, else by the slider."""
        self.page.evaluate("(time) => moth.stage.setTime(time)", time)

    def tracks(self, variant: str = "") -> dict[str, Any]:
        found = self.state("document")
        if variant:
            found = next(v for v in found["variants"] if v["name"] == variant)
        return dict(found.get("tracks") or {})

    def times(self, target: str, variant: str = "") -> list[float]:
        return [key["time"] for key in self.tracks(variant).get(target, {}).get("keys", [])]

    def keys_are(self, target: str, times: list[float], variant: str = "") -> None:
        wait_until(
            f"keys of {target} at {times}",
            lambda: (
                np.shape(self.times(target, variant)) == np.shape(times)
                and np.allclose(self.times(target, variant), times, atol=1e-6)
            ),
        )
        self.settle()

    def key(self, target: str, at: int) -> Locator:
        return self.page.locator(f".key[data-target='{target}']").nth(at)

    def menu(self, opener: str, entry: str) -> None:
        self.page.locator(f"#{opener}").click()
        self.page.get_by_role("menuitem", name=entry, exact=True).click()

    def test_a_blend_is_keyed_eased_moved_and_played(self) -> None:
        self.open("Ferry enamel")
        tracks = self.page.locator("#tracks")
        self.assertFalse(tracks.is_visible(), "thin while nothing is keyed")
        self.row("Flake strength").get_by_role("button", name=re.compile("^Set a key")).click()
        self.keys_are("flake_strength", [0.0])
        tracks.wait_for()
        # The next key by changing the value at another moment; what that does is said while it is changed.
        self.go_to(2.0)
        slider = self.row("Flake strength").get_by_role("slider")
        slider.focus()
        slider.press("ArrowRight")
        wait_until("said", lambda: "sets a key at 2 s" in self.page.locator("#parameters-note").inner_text())
        self.keys_are("flake_strength", [0.0, 2.0])
        field = self.row("Flake strength").locator("input.mono")
        field.fill("0.9")
        field.press("Enter")
        wait_until("the key here has it", lambda: self.tracks()["flake_strength"]["keys"][1]["value"] == [0.9])
        self.settle()
        # Eased, by the menu of the chosen keys.
        self.key("flake_strength", 0).click()
        self.page.locator("#key-way").select_option("gather")
        wait_until("it gathers", lambda: self.tracks()["flake_strength"]["keys"][0]["way"] == "gather")
        self.settle()
        self.go_to(1.0)
        now = "() => moth.model.keys.now('flake_strength')[0]"
        self.assertAlmostEqual(self.page.evaluate(now), 0.55 + (0.9 - 0.55) / 8, places=6)
        # Moved by keys, then by the mouse; keys go to frames.
        self.key("flake_strength", 1).click()
        self.page.keyboard.press("Alt+Shift+ArrowRight")
        self.keys_are("flake_strength", [0.0, 2.0 + 10 / 30])
        start, lane = self.key("flake_strength", 1).bounding_box(), self.page.locator(".lane").first.bounding_box()
        assert start and lane
        self.page.mouse.move(start["x"] + 4, start["y"] + 8)
        self.page.mouse.down()
        self.page.mouse.move(start["x"] + 4 + lane["width"] / 10, start["y"] + 8, steps=5)
        self.page.mouse.up()
        wait_until("a second later", lambda: abs(self.times("flake_strength")[1] - 3.33) < 0.05)
        self.settle()
        at = self.times("flake_strength")[1] * 30
        self.assertAlmostEqual(at, round(at), places=6)
        # The curve by hand, from the open lane.
        self.page.get_by_role("button", name="Open the curve of Flake strength").click()
        self.page.locator(".key.on-curve").first.click()
        self.page.locator("#key-way").select_option("hand")
        slope = self.page.get_by_role("button", name=re.compile("^Slope of Flake strength after"))
        slope.focus()
        slope.press("ArrowUp")
        wait_until("it leaves faster", lambda: self.tracks()["flake_strength"]["keys"][0].get("leaving", [0])[0] > 0)
        self.settle()
        # A stretch that repeats, along the ruler.
        ruler = self.page.locator(".ruler").bounding_box()
        assert ruler
        self.page.keyboard.down("Shift")
        self.page.mouse.move(ruler["x"] + ruler["width"] * 0.2, ruler["y"] + 8)
        self.page.mouse.down()
        self.page.mouse.move(ruler["x"] + ruler["width"] * 0.5, ruler["y"] + 8, steps=5)
        self.page.mouse.up()
        self.page.keyboard.up("Shift")
        stretch = self.page.evaluate("() => [moth.stage.stretch.from, moth.stage.stretch.to]")
        np.testing.assert_allclose(stretch, (2, 5), atol=0.04)
        # Copied to the moment shown, reversed, all undone.
        self.page.get_by_role("button", name="Close the curve of Flake strength").click()
        kept = self.times("flake_strength")
        self.key("flake_strength", 0).focus()
        self.page.keyboard.press("Control+a")
        self.page.keyboard.press("Control+c")
        self.go_to(5.0)
        self.page.keyboard.press("Control+v")
        self.keys_are("flake_strength", [*kept, 5.0, 5.0 + kept[1]])
        self.page.keyboard.press("r")
        wait_until("reversed", lambda: self.tracks()["flake_strength"]["keys"][2]["value"] == [0.9])
        self.settle()
        self.page.keyboard.press("Delete")
        self.keys_are("flake_strength", kept)
        self.assert_as_reloaded()
        # A reload shows the same; the back button leaves no key behind.
        self.page.reload()
        self.settle()
        self.keys_are("flake_strength", kept)
        for _ in range(20):
            if not self.tracks():
                break
            self.page.get_by_role("button", name="Undo").click()
            self.settle()
        self.assertEqual(self.tracks(), {})
        wait_until("thin again", lambda: not tracks.is_visible())

    def test_a_variant_has_keys_of_its_own_or_stands_still(self) -> None:
        self.open("Signal lantern")
        flame = "() => moth.model.keys.now('flame')?.[0] ?? moth.model.setBy(moth.model.variant, 'flame')[0]"
        self.go_to(1.75)
        self.assertAlmostEqual(self.page.evaluate(flame), 0.22, places=6)
        self.page.get_by_role("button", name=re.compile("^Variant Steady")).click()
        wait_until("it is looked at", lambda: self.page.evaluate("() => moth.model.variant") == "steady")
        self.settle()
        self.assertEqual(self.page.evaluate(flame), 1.0)
        self.go_to(2.0)
        # Its lamp still goes with the graph's; a change makes keys of its own.
        self.assertTrue(self.page.evaluate("() => moth.model.keys.targets().includes('scene/lamp_1')"))
        self.row("Flame").get_by_role("button", name=re.compile("^Set a key")).click()
        self.keys_are("flame", [2.0], "Steady")
        self.row("Flame").get_by_role("button", name=re.compile("reset to the default")).click()
        wait_until("back to the graph's keys", lambda: not self.tracks("Steady"))
        self.settle()
        self.go_to(1.75)
        self.assertAlmostEqual(self.page.evaluate(flame), 0.22, places=6)
        for _ in range(2):
            self.page.get_by_role("button", name="Undo").click()
            self.settle()
        self.assertEqual(self.page.evaluate(flame), 1.0)

    def test_light_and_eye_are_keyed_and_a_hand_is_right_until_time_goes_on(self) -> None:
        self.open("Bronze gear")
        self.page.locator("#tracks-open").click()
        self.page.locator("#tracks", has_text="Nothing is keyed yet").wait_for()
        self.menu("tracks-add", "Light")
        self.keys_are("scene/light", [0.0])
        self.go_to(1.0)
        self.page.locator("#stage").focus()
        for _ in range(5):
            self.page.keyboard.press("Shift+ArrowRight")
        turned = self.page.evaluate("() => moth.stage.lighting.angles.turn")
        self.page.locator("[data-focus='track.scene/light.mark']").click()
        self.keys_are("scene/light", [0.0, 1.0])
        first, last = (key["value"][0] for key in self.tracks()["scene/light"]["keys"])
        self.assertAlmostEqual(last, turned)
        self.go_to(0.5)
        angle = "() => moth.stage.lighting.angles.turn"
        self.assertAlmostEqual(self.page.evaluate(angle), (first + last) / 2, places=6)
        self.page.locator("#stage").focus()
        self.page.keyboard.press("Shift+ArrowRight")
        self.assertNotAlmostEqual(self.page.evaluate(angle), (first + last) / 2, places=3)
        self.go_to(0.25)
        self.go_to(0.5)
        self.assertAlmostEqual(self.page.evaluate(angle), (first + last) / 2, places=6)
        self.page.locator("#stage").focus()

    def test_playing_asks_for_nothing_and_every_frame_has_the_cores_values(self) -> None:
        self.open("Boathouse wall")
        # Whatever is painted once the page stands is painted before.
        wait_until(
            "the variants are painted",
            lambda: (
                self.page.locator("#variants canvas[data-painted]").count()
                == self.page.locator("#variants canvas").count()
            ),
        )
        self.go_to(8.0)
        self.page.evaluate(NOTE)
        self.page.locator("#play").click()
        wait_until("it has played a second", lambda: self.page.evaluate("() => moth.stage.time > 9.1"))
        self.page.locator("#play").click()
        noted = np.array(data_of(self.page, "() => window.noted"))
        self.assertGreater(len(noted), 5)
        asked = self.page.evaluate("() => performance.getEntriesByType('resource').length - window.asked")
        self.assertEqual((asked, self.page.evaluate("() => window.built")), (0, 0), "requests, shaders built")
        graph = graph_from_json(self.state("document"))
        slots = {(node, key): (at, wide) for node, key, at, wide in self.state("shader")["slots"]}
        for time, *values in noted:
            said = graph.uniform_values("", time)
            for parameter in graph.parameters:
                at, wide = slots[parameter.node, parameter.input]
                wanted = np.array(said[parameter.node, parameter.input], dtype=np.float32)
                np.testing.assert_allclose(
                    values[at : at + wide], wanted, atol=1e-6, err_msg=f"{parameter.name} at {time}"
                )

    def test_textures_toggles_and_decals_change_without_another_shader(self) -> None:
        self.open("Lock keepers' marks")
        self.assertFalse(self.state("decals")[0].get("id"), "those of the backdrop cannot be keyed")
        edit = "async (operation) => moth.model.edit(operation)"
        self.page.evaluate(edit, {"op": "set_decals", "value": self.state("decals")})
        names = {texture["name"]: key for key, texture in self.state("textures").items()}
        chalk = names["Chalk marks"]
        of = {"id": "mark", "name": "Marks", "node": "marks", "input": "texture"}
        self.page.evaluate(edit, {"op": "add_parameter", "parameter": of})
        held = [{"time": time, "value": value, "way": "hold"} for time, value in ((0, chalk), (1, ""), (2, chalk))]
        self.page.evaluate(edit, {"op": "set_track", "target": "mark", "track": {"keys": held}})
        tint = [{"time": time, "value": [1.0, 1.0 - time, 0.0], "way": "straight"} for time in (0.0, 1.0)]
        target = f"decal/{self.state('decals')[0]['id']}/tint"
        self.page.evaluate(edit, {"op": "set_track", "target": target, "track": {"keys": tint}})
        turn = [{"time": time, "value": [0.0, 0.0, time * 90], "way": "straight"} for time in (0.0, 1.0)]
        target = f"decal/{self.state('decals')[0]['id']}/turn"
        self.page.evaluate(edit, {"op": "set_track", "target": target, "track": {"keys": turn}})
        self.settle()
        (sampler,) = (s["name"] for s in self.state("shader")["samplers"] if s["key"] == ["marks", "texture"])
        bound = "(name) => moth.stage.shown.material.uniforms[name].value.uuid"
        self.go_to(0.5)
        first = wait_until("its texture is there", lambda: self.page.evaluate(bound, sampler))
        self.page.evaluate(NOTE)
        seen = {}
        for time in (0.5, 1.5, 2.5):
            self.go_to(time)
            seen[time] = self.page.evaluate(bound, sampler)
        self.assertEqual((seen[0.5], seen[2.5]), (first, first))
        self.assertNotEqual(seen[1.5], first, "the texture of the key, not the one that is read before any is chosen")
        self.go_to(0.25)
        decal = data_of(self.page, "() => moth.stage.picture.decals.list[0]")
        self.assertEqual((decal["tint"], decal["roll"]), ([1.0, 0.75, 0.0], 22.5))
        asked = self.page.evaluate("() => performance.getEntriesByType('resource').length - window.asked")
        self.assertEqual((asked, self.page.evaluate("() => window.built")), (0, 0), "requests, shaders built")

    def film(self, **chosen: str | bool) -> bytes:
        """A film by the sheet; what the browser is given."""
        self.page.get_by_role("button", name="More", exact=True).click()
        self.page.get_by_role("menuitem", name="Save a film …").click()
        sheet = self.page.locator(".film-sheet")
        for label, value in chosen.items():
            field = sheet.locator(f"[aria-label='{label.replace('_', ' ')}']")
            if isinstance(value, bool):
                field.set_checked(value)
            elif field.evaluate("(field) => field.tagName") == "SELECT":
                field.select_option(value)
            else:
                field.fill(value)
        wait_until("it is weighed", lambda: "frames of" in sheet.get_by_role("status").inner_text())
        with self.page.expect_download() as begun:
            sheet.get_by_role("button", name="Make the film").click()
        with open(begun.value.path(), "rb") as file:
            return file.read()

    def frames_of(self, **chosen: str | bool) -> list[np.ndarray]:
        """The frames of a film that is saved as numbered PNG."""
        archive = zipfile.ZipFile(io.BytesIO(self.film(Format="png", Height="128", Shape="square", **chosen)))
        return [np.asarray(Image.open(io.BytesIO(archive.read(name)))).astype(float) for name in archive.namelist()]

    @lit
    def test_the_stage_films_each_moment_as_the_reference_does(self) -> None:
        self.open("Signal lantern")
        seen = self.frames_of(Frame_after_the_last="4", Frames_a_second="1", Clear_where_there_is_nothing=True)
        self.assertEqual(len(seen), 4)
        lit = [one[one[..., 3] > 0, 0].mean() for one in seen]
        # At two seconds the flame has sunk.
        self.assertLess(lit[2] + 5, min(lit[0], lit[1], lit[3]))
        self.assertEqual(seen[0][0, 0, 3], 0, "nothing stands behind it")
        self.assertEqual(self.page.evaluate("() => moth.stage.time"), 0, "time is where it was")
        (exact,) = self.frames_of(Drawn_by="reference", First_frame="2", Frame_after_the_last="3", Frames_a_second="1")
        # The reference has no smooth edges.
        inside = seen[2][..., 3] == 255
        self.assertLess(np.median(np.abs(exact - seen[2])[inside]), 3)

    def test_a_sheet_of_frames_is_played_by_another_graph(self) -> None:
        self.open("Signal lantern")
        frames = {"Frame_after_the_last": "4", "Frames_a_second": "2", "Height": "128", "Shape": "square"}
        sheet = Image.open(io.BytesIO(self.film(Format="sheet", Columns_of_the_sheet="4", **frames)))
        self.assertEqual(sheet.size, (512, 128))
        self.page.get_by_role("button", name="Keep as a texture").last.click()
        self.page.locator(".notice", has_text="4 × 1 frames, 2 a second").wait_for()
        self.page.get_by_role("button", name="Dismiss").last.click()
        self.new_graph()
        self.page.get_by_role("button", name="Textures", exact=True).click()
        self.page.locator("#texture-drawer .texture-tile", has_text="Signal lantern frames").click()
        node = wait_until(
            "a card plays it", lambda: [n for n in self.nodes().values() if n["type"] == "frame_sequence"]
        )[0]
        self.assertEqual((node["values"]["columns"], node["values"]["rows"], node["values"]["rate"]), ([4], [1], [2]))

    def test_a_film_is_cancelled_and_nothing_of_it_stays(self) -> None:
        self.open("Signal lantern")
        key = graph_id(self.live.engine, "Signal lantern")
        before = self.page.request.get(f"{self.live.url}/api/graphs/{key}/films").json()
        for by in ("stage", "reference"):
            self.page.get_by_role("button", name="More", exact=True).click()
            self.page.get_by_role("menuitem", name="Save a film …").click()
            sheet = self.page.locator(".film-sheet")
            sheet.locator("[aria-label='Drawn by']").select_option(by)
            sheet.get_by_role("button", name="Make the film").click()
            row = self.page.locator("#jobs .job", has_text="Film of Signal lantern")
            row.get_by_role("button").click()
            self.page.locator(".notice", has_text="Film of Signal lantern was cancelled").last.wait_for()
            wait_until("its row is gone", lambda row=row: not row.count())
            self.page.get_by_role("button", name="Dismiss").last.click()
        self.assertEqual(self.page.request.get(f"{self.live.url}/api/graphs/{key}/films").json(), before)

    def test_what_cannot_be_filmed_is_said_before_it_is_tried(self) -> None:
        self.open("Signal lantern")
        self.page.get_by_role("button", name="More", exact=True).click()
        self.page.get_by_role("menuitem", name="Save a film …").click()
        sheet = self.page.locator(".film-sheet")
        sheet.locator("[aria-label='Frame after the last']").fill("0")
        wait_until("it says why", lambda: "no frames" in sheet.get_by_role("status").inner_text())
        sheet.locator("[aria-label='Frame after the last']").fill("12")
        wait_until("and what would be", lambda: "12 frames of" in sheet.get_by_role("status").inner_text())
        sheet.get_by_role("button", name="Cancel").click()


if __name__ == "__main__":
    unittest.main()
