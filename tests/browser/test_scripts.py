"""Script modules by themselves, in the page that ships them: numbers, colours, columns, wires."""

import random
from itertools import pairwise
from typing import Any, get_args

import numpy as np

from tests.browser.bench_page import WorkbenchCase
from tests.support.browser import wait_until
from velvet_moth.core.base.ways import WAYS
from velvet_moth.core.document.tracks.pieces import pieces_of, pieces_to_json
from velvet_moth.core.document.tracks.track import Key, Outside, Track
from velvet_moth.core.language.texture import linear_to_srgb, srgb_to_linear

CALL = """async ([module, name, given]) => {
  const found = (await import(module))[name](...given);
  return found instanceof Map ? [...found] : found;
}"""
COLUMNS = """async ([boxes, docked]) =>
  [...(await import("moth/workbench/graph/places/layout.js")).columns(await import("dagre"), boxes, docked).places]"""
SETTLED = """async ([boxes, before, free, added]) => {
  const { settled } = await import("moth/workbench/graph/places/settling.js");
  return [...settled(boxes, new Map(before), new Set(free), added)];
}"""
WIRE = "[...document.querySelectorAll('.wire')].find((w) => w.querySelector('title')?.textContent === title)"


class Scripts(WorkbenchCase):
    def setUp(self) -> None:
        super().setUp()
        self.page.goto(self.live.url)

    def call(self, module: str, name: str, *arguments: Any) -> Any:
        """A function exported by one of our modules, called in the page."""
        return self.page.evaluate(CALL, [f"moth/{module}", name, list(arguments)])

    def columns(self, boxes: list[dict[str, Any]], docked: list[str]) -> Any:
        return self.page.evaluate(COLUMNS, [boxes, docked])

    def test_pieces_give_what_the_core_gives(self) -> None:
        """Bit for bit, whatever the ways, the outside, and how the numbers are read."""
        draw = random.Random(20)
        for reading, width in (("plain", 2), ("light", 3), ("hue", 3), ("stops", 8)):
            for _ in range(12):
                outside = [draw.choice(get_args(Outside)) for _ in range(2)]
                times = sorted({draw.uniform(0, 9) for _ in range(draw.choice((1, 2, 5)))})
                numbers = lambda: tuple(draw.uniform(-0.2, 2) for _ in range(width))  # noqa: E731, B023 - drawn at once
                slopes = lambda: tuple(draw.uniform(-3, 3) for _ in range(width))  # noqa: E731, B023 - drawn at once
                keys = tuple(Key(time, numbers(), draw.choice([*WAYS]), slopes(), slopes()) for time in times)
                pieces = pieces_of(Track(keys, *outside), reading, 4 if reading == "stops" else 0)
                for time in [*times, *(draw.uniform(-30, 40) for _ in range(20))]:
                    found = self.call("workbench/model/pieces.js", "valueAt", pieces_to_json(pieces), time)
                    self.assertEqual(tuple(found), pieces.at(time), (reading, time, pieces))
        texts = pieces_of(
            Track((Key(1.0, "rust", "hold"), Key(2.0, "moss", "hold"), Key(4.0, "rust", "hold"))), "plain"
        )
        for time in (0.0, 1.0, 1.999, 2.0, 3.0, 9.0):
            found = self.call("workbench/model/pieces.js", "valueAt", pieces_to_json(texts), time)
            self.assertEqual(found, texts.at(time))

    def test_a_chain_deeper_than_a_stack_is_laid_out(self) -> None:
        boxes = [{"id": f"n{i}", "height": 90, "sources": [f"n{i - 1}"] if i else []} for i in range(1500)]
        boxes += [{"id": "beside", "height": 90, "sources": ["n3"]}]
        places = dict(self.columns(boxes, []))
        across = [places[f"n{i}"][0] for i in range(1500)]
        self.assertTrue(all(after - before > 140 for before, after in pairwise(across)))
        self.assertEqual(len({tuple(place) for place in places.values()}), len(boxes))

    def test_typed_numbers(self) -> None:
        for text, width, expected in (
            ("0.5", 1, [0.5]),
            (" -2 ", 1, [-2]),
            ("1e-3", 1, [0.001]),
            ("6", 2, [6, 6]),
            ("6 × 4", 2, [6, 4]),
            ("6x4", 2, [6, 4]),
            ("0,5", 1, [0.5]),
            ("0 0 1", 3, [0, 0, 1]),
            ("", 1, None),
            ("six", 1, None),
            ("1 2 3", 2, None),
            ("1e9", 1, None),
            ("NaN", 1, None),
            ("Infinity", 1, None),
            ("1/12", 1, [1 / 12]),
            ("1 -2 3", 3, [1, -2, 3]),
            ("1 - 2", 1, [-1]),
            ("2^-1 (1+2)*3", 2, [0.5, 9]),
            ("-2^2", 1, [-4]),
            ("90deg", 1, [0.25]),
            ("pi rad", 1, [0.5]),
            ("5 cm", 1, [0.05]),
            ("2 per cm", 1, [200]),
            ("25%", 1, [0.25]),
            (".5 × −1", 2, [0.5, -1]),
            ("1/0", 1, None),
            ("(1", 1, None),
            ("1)", 1, None),
            ("2 *", 1, None),
            ("constructor", 1, None),
            ("5 miles", 1, None),
        ):
            with self.subTest(text=text):
                self.assertEqual(self.call("fields/arithmetic.js", "parseNumbers", text, width), expected)
        for value, text in ((0.5, "0.5"), (1, "1"), (0.00049, "0.0005"), (-12.346, "-12.35"), (2e6, "2e6")):
            self.assertEqual(self.call("fields/fields.js", "numberText", value), text)

    def test_colours_agree_with_the_core(self) -> None:
        draw = random.Random(4)
        for _ in range(40):
            rgb = [draw.randrange(256) for _ in range(3)]
            text = "#" + "".join(f"{c:02X}" for c in rgb)
            linear = self.call("fields/colour.js", "fromHex", text)
            np.testing.assert_allclose(linear, srgb_to_linear(np.array(rgb, np.float32) / 255), atol=2e-5)
            self.assertEqual(self.call("fields/colour.js", "toHex", linear), text)
            turned = self.call("fields/colour.js", "fromHsv", *self.call("fields/colour.js", "toHsv", linear))
            np.testing.assert_allclose(linear_to_srgb(np.array(turned)), np.array(rgb) / 255, atol=2e-3)
        self.assertEqual(
            self.call("fields/colour.js", "fromHex", "#F80"), self.call("fields/colour.js", "fromHex", "ff8800")
        )
        for wrong in ("", "#12", "#GGGGGG", "red", "#1234567"):
            self.assertIsNone(self.call("fields/colour.js", "fromHex", wrong))

    def assert_apart(self, boxes: list[dict[str, Any]], places: dict[str, list[float]], words: str) -> None:
        """No card lies on another, and wires run to the right."""
        cards = [(*places[b["id"]], b["height"]) for b in boxes]
        for index, (x, y, height) in enumerate(cards):
            for other_x, other_y, other_height in cards[:index]:
                apart = abs(x - other_x) >= 140 or y + height <= other_y or other_y + other_height <= y
                self.assertTrue(apart, words)
        for box in boxes:
            for source in box["sources"]:
                self.assertLess(places[source][0], places[box["id"]][0], words)

    def test_columns_overlap_nowhere_and_follow_the_depth(self) -> None:
        draw = random.Random(9)
        for count in (1, 10, 60, 400):
            boxes: list[dict[str, Any]] = []
            for number in range(count):
                sources = [f"n{draw.randrange(number)}" for _ in range(draw.randrange(3))] if number else []
                boxes.append({"id": f"n{number}", "height": draw.randrange(50, 220), "sources": sources})
            places = dict(self.columns(boxes, [f"n{count - 1}"]))
            self.assertEqual(len(places), count)
            self.assert_apart(boxes, places, f"{count} cards")
        placed: list[dict[str, Any]] = [{"id": "a", "height": 60, "sources": [], "place": [7, 9]}]
        kept = self.columns(placed, [])
        self.assertEqual(kept, [["a", [7, 9]]], "a hand-placed card stays")

    def test_what_is_there_stays_when_something_is_added(self) -> None:
        """Cards and wires one after the other: no card lies on another, wires run to the right, most cards stay."""
        draw = random.Random(5)
        boxes: list[dict[str, Any]] = []
        for number in range(24):
            sources = [f"n{draw.randrange(number)}" for _ in range(draw.randrange(3))] if number else []
            boxes.append({"id": f"n{number}", "height": draw.randrange(50, 220), "sources": sorted(set(sources))})
        places = dict(self.columns(boxes, []))
        stayed, kept = 0, 0
        for step in range(24):
            number = len(boxes)
            before = dict(places)
            if step % 2:
                source, reader = (boxes[at]["id"] for at in sorted(draw.sample(range(number), 2)))
                read = next(box for box in boxes if box["id"] == reader)
                read["sources"] = sorted({*read["sources"], source})
                free, added = [], [[source, reader]]
            else:
                # Into a wire: what it read reads the new one now.
                at = draw.choice([i for i, box in enumerate(boxes) if box["sources"]])
                source, *others = boxes[at]["sources"]
                boxes.insert(at, {"id": f"m{step}", "height": 120, "sources": [source]})
                boxes[at + 1]["sources"] = [*others, f"m{step}"]
                free, added = [f"m{step}"], []
            places = dict(self.page.evaluate(SETTLED, [boxes, [*before.items()], free, added]))
            stayed += sum(places[key] == at for key, at in before.items())
            kept += len(before)
            self.assert_apart(boxes, places, f"step {step}")
        self.assertGreater(stayed / kept, 0.8)


class Wires(WorkbenchCase):
    def test_strands_follow_the_type_and_take_the_mean_colour(self) -> None:
        self.open("Ferry enamel")
        for title, name, strands in (
            ("Turning away to Amount of Two tints", "strand", 1),
            ("Flake tiling to UV of Flake map", "strand", 2),
            ("Face tint to A of Two tints", "strand", 3),
            ("Clear gloss to A of Gloss under flakes", "braid", 1),
        ):
            found = self.page.evaluate(f"(title) => {WIRE}.querySelectorAll('.{name}').length", title)
            self.assertEqual(found, strands, title)
        stroke = f"(title) => {WIRE}.querySelector('.strand').style.stroke"
        red, green, blue = self.state("swatches")["face_tint.colour"]["mean"]
        dyed = self.page.evaluate(stroke, "Face tint to A of Two tints")
        self.assertEqual(dyed, f"rgb({red}, {green}, {blue})")

    def test_wires_to_the_dock_follow_its_rows(self) -> None:
        self.open("Ferrywoman's braid")
        self.page.locator("#dock").get_by_role("button", name="more channels").click()
        off = """() => {
            const ends = [...document.querySelectorAll('.wire[data-end^="dock."]')].map((wire) => {
                const path = wire.querySelector("path"), at = path.getPointAtLength(path.getTotalLength());
                const place = path.getScreenCTM(), row = document.querySelector(`.channel[data-input="${wire.dataset.end.slice(5)}"]`);
                const { top, height } = row.getBoundingClientRect();
                return Math.abs(at.y * place.d + place.f - top - height / 2);
            });
            return ends.length === 5 ? Math.max(...ends) : 999;
        }"""
        for down in (0, 200, 400, 60):
            self.page.evaluate("(y) => document.getElementById('dock').scrollTo(0, y)", down)
            wait_until(f"they end at their rows, {down} px down", lambda: self.page.evaluate(off) < 2)

    def test_a_wired_input_is_unplugged_by_its_button(self) -> None:
        self.open("Basin shimmer")
        self.open_slip("water").get_by_role("button", name="Unwire Amount of Water colour").press("Enter")
        wait_until("the wire is off", lambda: "amount" not in self.nodes()["water"]["wires"])
        self.settle()
        self.close_slip()
        self.type_value("water", "amount", "0.25", [0.25])
        self.page.get_by_role("button", name="Unwire Normal of Dock").click()
        wait_until("the dock is free", lambda: "normal" not in self.nodes()["dock"]["wires"])

    def test_each_number_of_a_pair_has_its_slider(self) -> None:
        self.open("Ferry enamel")
        second = self.page.locator("[data-focus='parameter.flake_tiling.slider.1']")
        held = lambda: next(n["values"]["tiling"] for n in self.nodes().values() if n["type"] == "tile")  # noqa: E731 - short
        second.fill("9")
        wait_until("both are equal, and go together", lambda: held() == [9, 9])
        self.page.get_by_role("button", name="Move all numbers of Flake tiling together").click()
        second.fill("12")
        wait_until("one moves alone", lambda: held() == [9, 12])
        for _ in range(2):
            self.page.keyboard.press("Control+z")
        wait_until("as it was", lambda: held() == [6, 6])

    def test_parameters_are_edited_closed_and_marked_without_effect(self) -> None:
        self.open("Basin shimmer")
        page = self.page

        def swell() -> Any:
            return next((p for p in self.state("document")["parameters"] if p["name"] == "Swell"), None)

        page.get_by_role("button", name="Edit parameter Wide strength").click()
        page.get_by_label("Name", exact=True).fill("Swell")
        page.get_by_label("High end").fill("4")
        page.get_by_role("button", name="Keep").click()
        wait_until("the parameter changed", swell)
        self.assertEqual(swell()["high"], 4)
        self.settle()
        page.get_by_role("button", name="Edit parameter Swell").click()
        page.get_by_label("Low end").fill("9")
        page.get_by_role("button", name="Keep").click()
        page.locator(".notice", has_text="low end lies below its high end").wait_for()
        self.expect_refusal(422)
        self.wire_by_keyboard("grazing", "strength of wide map", "wide_map", "strength", "value")
        self.assertEqual(page.locator("#parameters li.idle").count(), 1)
        # What it was before is asked for while it is there.
        with page.expect_response("**/history/*"):
            page.get_by_role("button", name="Edit parameter Swell").click()
        page.get_by_role("button", name="Make it a plain value").click()
        wait_until("it is closed", lambda: swell() is None)
