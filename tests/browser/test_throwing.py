"""Throwing by hand, the rule that follows a curve, judging, playing and filming what was thrown; ribbons by their numbers."""

import io
import unittest
import zipfile
from typing import Any

import numpy as np
from PIL import Image

from tests.browser.bench_page import WithWorker
from tests.support.browser import data_of, lit, wait_until

SEEN_AT = "async (place) => (await import('moth/stage/eye.js')).seenAt(moth.stage, place)"


class ThrowCase(WithWorker):
    def tab(self, name: str) -> None:
        self.page.get_by_role("tab", name=name, exact=True).click()

    def splashes(self) -> list[dict[str, Any]]:
        return list(data_of(self.page, "() => moth.decals.thrown.splashes"))

    def begin(self) -> None:
        self.open("Thrown at the quay")
        wait_until("the quay is there", lambda: self.page.evaluate("() => !!moth.stage.backdrop.loaded"))
        self.tab("Throw")
        self.page.get_by_role("button", name="Throw by hand").click()

    def throw(self, place: list[float], across: int = 0, down: int = 0) -> dict[str, Any]:
        """Presses where a place of the world is seen, and drags so many pixels."""
        return self.throw_at(self.page.evaluate(SEEN_AT, place), across, down)

    def throw_at(self, pixel: dict[str, float], across: int = 0, down: int = 0) -> dict[str, Any]:
        """As ``throw``, at a pixel of the stage."""
        count, box = len(self.splashes()), self.page.locator("#stage").bounding_box()
        assert box is not None
        x, y = box["x"] + pixel["x"], box["y"] + pixel["y"]
        self.page.mouse.move(x, y)
        self.page.mouse.down()
        self.page.mouse.move(x + across, y + down, steps=3)
        self.page.mouse.up()
        return dict(wait_until("it has landed", lambda: self.splashes()[count:])[-1])


class ByHand(ThrowCase):
    def test_thrown_in_the_open_and_at_a_wall_and_a_curve_is_followed(self) -> None:
        self.begin()
        open_ = self.throw([-0.2, -0.8, 0.25], 60, -20)
        self.assertIn("Nothing stands near", open_["words"][0])
        self.assertAlmostEqual(open_["throw"]["strength"], np.hypot(60, 20) / 180, delta=0.02)
        np.testing.assert_allclose(open_["decals"][0]["place"], (-0.2, -0.8, 0.25), atol=0.03)
        wall = self.throw([0.9, -0.8, -1.3])
        self.assertIn("it is tilted by", wall["words"][0])
        self.page.locator(".throw-words", has_text="wall at").wait_for()
        self.page.get_by_role("row", name="Tilt at a wall").wait_for()
        # Lower the first point of the tilt by keys: the splash lies flatter at once, and stands up again by undo.
        self.tab("Rule")
        field = self.page.locator("[data-focus='rule.part.tilt']")
        field.click()
        knob = self.page.get_by_role("button", name="Stop 2 at")
        knob.focus()
        for _ in range(3):
            knob.press("Shift+ArrowDown")
        self.page.keyboard.press("Escape")
        tilt = lambda: self.splashes()[1]["decals"][0]["tilt"]  # noqa: E731 - asked again and again
        wait_until("it is flatter", lambda: tilt() > wall["decals"][0]["tilt"] + 3)
        undo = self.page.get_by_role("button", name="Undo in the rule")
        while undo.is_enabled():
            undo.click()
            self.page.wait_for_function("() => !moth.decals.rule.waiting")
        wait_until("as it was", lambda: tilt() == wall["decals"][0]["tilt"])
        # Wrong moves: into the sky, then all cleared and brought back; kept, they are decals that undo takes away.
        self.tab("Throw")
        self.page.get_by_role("button", name="Throw by hand").click()
        self.throw_at({"x": 60, "y": 12})
        self.page.locator(".notice", has_text="It hits nothing.").wait_for()
        self.page.get_by_role("button", name="Clear").click()
        self.page.get_by_role("button", name="Bring them back").click()
        wait_until("they are back", lambda: len(self.splashes()) == 3)
        self.page.keyboard.press("Escape")
        self.page.locator("#stage").click(position=self.page.evaluate(SEEN_AT, open_["decals"][0]["place"]))
        self.page.get_by_text("1 of 3", exact=True).wait_for()
        self.assertEqual(self.page.locator("#pins li").count(), 0)
        before = len(self.state("decals"))
        more = sum(len(one["decals"]) for one in self.splashes())
        self.page.get_by_role("button", name="Keep", exact=True).click()
        wait_until("they are kept", lambda: len(self.state("decals")) == before + more and not self.splashes())
        self.settle()
        self.assert_as_reloaded()
        self.page.get_by_role("button", name="Undo", exact=True).click()
        wait_until("and gone again", lambda: len(self.state("decals")) == before)

    def test_a_row_by_the_keyboard_alone(self) -> None:
        self.begin()
        self.page.keyboard.press("Escape")
        self.page.get_by_role("button", name="A row, one each second").press("Enter")
        found = wait_until("a row is there", lambda: len(self.splashes()) > 4 and self.splashes())
        moments = [one["throw"]["moment"] for one in found]
        np.testing.assert_allclose(np.diff(moments), 1.0)
        self.assertEqual(len({one["throw"]["seed"] for one in found}), len(found))
        self.page.get_by_label("The same seed again").check()
        self.page.get_by_role("button", name="Throw again").press("Enter")
        wait_until("one more", lambda: len(self.splashes()) == len(found) + 1)
        # Played, what was thrown for later comes in its turn.
        self.page.evaluate("() => moth.stage.setTime(0)")
        self.page.get_by_role("button", name="Play time").click()
        self.page.wait_for_function("() => moth.stage.time > 0.3")
        self.page.get_by_role("button", name="Pause time").click()
        self.page.get_by_role("button", name="Throw again").press("Enter")
        wait_until("and once more", lambda: len(self.splashes()) == len(found) + 2)
        one, other = self.splashes()[-2:]
        self.assertEqual(*([decal["reach"] for decal in thrown["decals"]] for thrown in (one, other)))

    def test_many_are_judged_and_one_is_shown(self) -> None:
        self.begin()
        self.page.get_by_label("How many are judged").fill("30")
        self.page.get_by_label("How many are judged").press("Enter")
        self.page.get_by_role("button", name="Judge many …").click()
        dialog = self.page.get_by_role("dialog", name="30 throws by Splashes on the quay")
        dialog.wait_for()
        self.assertIn("hangs in the air", dialog.locator(".judged-verdicts").inner_text())
        picture = dialog.locator("img")
        wait_until("its sheet is there", lambda: picture.evaluate("image => image.naturalWidth") == 800)
        self.page.keyboard.press("ArrowDown")
        self.page.keyboard.press("ArrowLeft")
        wait_until("one is chosen", lambda: "Throw 25," in dialog.get_by_role("status").inner_text())
        dialog.get_by_role("button", name="Show this one on the stage").click()
        wait_until("it is on the stage", lambda: len(self.splashes()) == 1)


@lit
class Living(ThrowCase):
    def thrown_and_drawn_in(self) -> None:
        """One splash at 4 s, whose life takes two seconds, beside one of the demo's."""
        self.begin()
        # One of those the demo has, and nothing that spurts: a picture takes as long as there are decals.
        few = "async () => { const { model } = moth; await model.edit({ op: 'set_spurt', value: '' });"
        few += " await model.edit({ op: 'set_decals', value: model.state.decals.slice(0, 1) }); }"
        self.page.evaluate(few)
        self.page.evaluate("() => moth.stage.setTime(4)")
        self.throw([-0.2, -0.8, 0.25], 90, 0)
        self.tab("Life")
        for label, text in (("Then stays for, s", "0.5"), ("Takes for that, s", "0.5"), ("Spreads by, m/s", "2")):
            self.page.get_by_label(label).fill(text)
            self.page.get_by_label(label).press("Enter")
            self.settle()
        self.page.get_by_label("In the end").select_option("draw_in")
        wait_until("it is set", lambda: self.state("document")["spread"]["ending"] == "draw_in")
        self.settle()

    def test_a_splash_spreads_and_is_drawn_in(self) -> None:
        self.thrown_and_drawn_in()

        def changed(time: float) -> int:
            self.page.evaluate("time => moth.stage.setTime(time)", time)
            return int((np.abs(self.pixels().astype(int) - empty).max(axis=-1) > 8).sum())

        # What the demo has thrown is drawn in by then, too.
        self.page.evaluate("() => moth.stage.setTime(9.9)")
        empty = self.pixels().astype(int)
        small, large, gone = changed(4.02), changed(4.6), changed(6.5)
        self.assertLess(small, large)
        self.assertEqual(gone, 0)

    def test_what_is_thrown_is_filmed(self) -> None:
        self.thrown_and_drawn_in()
        frames = {"First frame": "8", "Frame after the last": "10", "Frames a second": "2"}
        self.page.get_by_role("button", name="More", exact=True).click()
        self.page.get_by_role("menuitem", name="Save a film …").click()
        sheet = self.page.locator(".film-sheet")
        sheet.locator("[aria-label='Format']").select_option("png")
        sheet.locator("[aria-label='Height']").select_option("128")
        for label, text in frames.items():
            sheet.locator(f"[aria-label='{label}']").fill(text)
        with self.page.expect_download() as download:
            sheet.get_by_role("button", name="Make the film").click()
        archive = zipfile.ZipFile(io.BytesIO(download.value.path().read_bytes()))
        seen = [np.asarray(Image.open(io.BytesIO(archive.read(name)))).astype(int) for name in archive.namelist()]
        self.assertEqual(len(seen), 2)
        self.assertGreater(np.abs(seen[0] - seen[1]).mean(), 0.05)

    def test_a_ribbon_is_trimmed_by_its_numbers(self) -> None:
        self.open("Steam ribbon")
        wait_until("the deck is there", lambda: self.page.evaluate("() => !!moth.stage.backdrop.loaded"))
        steam = self.pixels(96).astype(int)
        # The number that says where ribbons end: at 0 there is nothing of them.
        field = self.page.get_by_role("button", name="Ends over life")
        field.click()
        for number in (1, 2, 3):
            self.page.get_by_role("button", name=f"Stop {number} at").focus()
            height = self.page.get_by_role("dialog", name="Ends over life").get_by_label("Ends")
            height.fill("0")
            height.press("Enter")
            self.settle()
        self.page.keyboard.press("Escape")
        points = lambda: self.state("document")["emitter"]["numbers"][2]["points"]  # noqa: E731 - asked again
        wait_until("they are set", lambda: [y for _, y in points()] == [0, 0, 0])
        self.settle()
        trimmed = self.pixels(96).astype(int)
        self.page.get_by_role("button", name="Draw the form once").click()
        wait_until("there is no emitter", lambda: self.state("emitter") is None)
        self.page.get_by_role("button", name="Undo", exact=True).click()
        wait_until("there is one again", lambda: self.state("emitter") is not None)
        above = np.abs(steam - trimmed).max(axis=-1) > 8
        self.assertGreater(int(above.sum()), 150, "the steam is gone")
        self.assertLess(np.abs(trimmed[60:, :] - trimmed[-1, 0]).max(), 12, "nothing is left of it above the funnel")


if __name__ == "__main__":
    unittest.main()
