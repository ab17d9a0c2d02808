"""Making textures: every step repeats at its edges and obeys its settings; heights and normals undo each other."""

import unittest
from typing import Any

import numpy as np

from velvet_moth.core.base.errors import FileRefused, OperationRefused
from velvet_moth.core.catalogue.settings import Setting
from velvet_moth.core.making import TEXTURES, Canvas, Layer
from velvet_moth.core.making.combine import blend, metal_set, pack_channels
from velvet_moth.core.making.exchange import DEPTHS, layer_of, picture_of
from velvet_moth.core.making.height import height_from_normal, normal_from_height
from velvet_moth.core.making.layer import number_layer
from velvet_moth.core.making.noise import fractal_noise
from velvet_moth.core.making.recipe import MakingContext, Recipe, evaluate, made, recipe_from_json, recipe_to_json
from velvet_moth.core.making.step import PictureAt, PlacedTile
from velvet_moth.core.pictures.inspection import inspect, seams
from velvet_moth.core.pictures.reading import Reading
from velvet_moth.core.stacks.stack import problems
from velvet_moth.core.stacks.step import Step

CANVAS = Canvas(128, 128)
# Cards show one thing in the middle; the others are made to be repeated.
CARDS = {"leaf", "drop", "splash", "hair_strands", "ramp", "place", "chalk_mark", "atlas", "tile_palette"}


def grain(canvas: Canvas = CANVAS, seed: int = 5) -> Layer:
    found: Layer = fractal_noise(canvas, cells=4, layers=4, seed=seed)
    return found


def tile(setting: Setting, seed: int) -> PlacedTile:
    """A tile whose maps are all pictures."""

    def supply(role: str) -> PictureAt:
        return lambda size: normal_from_height(size, grain(size)) if role == "normal" else grain(size, seed)

    return PlacedTile("", {m.key: supply(m.role) for m in setting.maps})


def run(step: Step, canvas: Canvas, **given: Any) -> dict[str, Layer]:
    values = {k: s.default for k, s in step.settings.items() if s.kind not in ("picture", "tiles")}
    for key, setting in step.settings.items():
        if setting.kind == "tiles":
            values[key] = [tile(setting, seed) for seed in range(4)]
    pictures = {k: grain(canvas, 5 + i) for i, (k, s) in enumerate(step.settings.items()) if s.kind == "picture"}
    if "normal" in pictures:
        pictures["normal"] = normal_from_height(canvas, grain(canvas))
    return made(step, canvas, {**values, **pictures, **given})


def changed(setting: Any) -> Any:
    """Another value of a setting than its default."""
    low, high = setting.low, setting.high
    return {
        "number": lambda: low + (high - low) * (0.8 if setting.default < (low + high) / 2 else 0.2),
        "whole": lambda: int(low + 1 if setting.default != low + 1 else low),
        "choice": lambda: next(c for c in reversed(setting.choices) if c != setting.default),
        "colour": lambda: (0.9, 0.1, 0.3),
        "stops": lambda: (0.0, 1.0, 0.0, 0.0, 1.0, 0.0, 0.0, 1.0),
    }[setting.kind]()


class EveryStep(unittest.TestCase):
    def test_it_gives_finite_layers_of_the_canvas_the_same_each_time(self) -> None:
        for canvas in (CANVAS, Canvas(96, 64)):
            for key, step in TEXTURES.steps.items():
                with self.subTest(key, canvas=canvas):
                    first, again = run(step, canvas), run(step, canvas)
                    self.assertEqual(tuple(first), step.layers)
                    for name, layer in first.items():
                        size = canvas.shape if key != "resize" else (canvas.rows // 2, canvas.columns // 2)
                        self.assertEqual((layer.values.dtype, layer.values.shape[1:]), (np.float32, size), name)
                        self.assertTrue(np.isfinite(layer.values).all(), name)
                        np.testing.assert_array_equal(layer.values, again[name].values)

    def test_what_is_made_to_be_repeated_has_no_seam(self) -> None:
        for key, step in TEXTURES.steps.items():
            if key in CARDS:
                continue
            for name, layer in run(step, CANVAS).items():
                with self.subTest(key, layer=name):
                    self.assertEqual(seams(layer.values), () if name != "uv" else seams(layer.values))

    def test_every_setting_does_something(self) -> None:
        for key, step in TEXTURES.steps.items():
            for name, setting in step.settings.items():
                # An alpha is packed only where a picture for it is given.
                if setting.kind in ("picture", "tiles") or (key, name) in {("leaf", "notch"), ("layout", "shift")}:
                    continue
                with self.subTest(key, setting=name):
                    before, after = run(step, CANVAS), run(step, CANVAS, **{name: changed(setting)})
                    differs = [n for n in before if not np.array_equal(before[n].values, after[n].values)]
                    self.assertTrue(differs)


class Heights(unittest.TestCase):
    def test_height_to_normal_and_back(self) -> None:
        height = grain(Canvas(256, 256))
        smooth = number_layer(height.number * 0.5 + 0.25, "height")
        for wrap in ("repeats", "ends"):
            with self.subTest(wrap):
                normal = normal_from_height(Canvas(256, 256), smooth, strength=0.03, wrap=wrap)
                np.testing.assert_allclose(np.sqrt((normal.values**2).sum(axis=0)), 1, atol=1e-6)
                back = height_from_normal(Canvas(256, 256), normal, strength=0.03, wrap=wrap).number
                error = (back - back.mean()) - (smooth.number - smooth.number.mean())
                inner = error[8:-8, 8:-8] if wrap == "ends" else error
                self.assertLess(np.abs(inner).max(), 0.004 if wrap == "repeats" else 0.03)

    def test_stored_normals_keep_their_length_and_both_greens(self) -> None:
        up, down = (normal_from_height(CANVAS, grain(), green=g) for g in ("up", "down"))
        np.testing.assert_allclose(up.values[1], -down.values[1])
        stored = picture_of(up, "8 bit")
        decoded = stored.samples.astype(np.float32) / 255 * 2 - 1
        np.testing.assert_allclose(np.linalg.norm(decoded, axis=-1), 1, atol=1 / 127)
        self.assertEqual(inspect(stored, Reading("normal")).guess.reading, Reading("normal", "up"))
        self.assertEqual(inspect(picture_of(down, "8 bit"), Reading("normal")).guess.reading.green, "down")
        np.testing.assert_allclose(
            layer_of(picture_of(down, "16 bit"), Reading("normal", "down"), CANVAS).values, up.values, atol=1e-4
        )


class Exchange(unittest.TestCase):
    def test_pictures_become_layers_and_pictures_again(self) -> None:
        random = np.random.default_rng(3)
        for depth, tolerance in zip(DEPTHS, (0.5 / 255, 0.5 / 65535, 1e-3), strict=True):
            for role, channels in (("colour", 4), ("data", 1), ("normal", 3), ("flow", 3), ("height", 1)):
                values = random.random((channels, 16, 24), dtype=np.float32)
                if role in ("normal", "flow"):
                    values = values * 2 - 1
                    values /= np.sqrt((values**2).sum(axis=0))
                with self.subTest(role, depth=depth):
                    picture = picture_of(Layer(values, role), depth)
                    back = layer_of(picture, Reading(role), Canvas(24, 16))
                    # What colours lose is told in their encoding, where steps are even.
                    again = picture_of(back, depth)
                    same = np.abs(again.samples.astype(float) - picture.samples.astype(float)).max()
                    self.assertLessEqual(same, 1 if role == "normal" else 0.002)
                    self.assertLess(np.abs(back.values - values).max(), tolerance * (40 if role == "colour" else 4))


class Sets(unittest.TestCase):
    def test_a_resized_picture_keeps_its_size_and_later_steps_the_stack_s(self) -> None:
        steps = [
            {"id": "a", "step": "fractal_noise", "values": {}},
            {"id": "small", "step": "resize", "values": {"size": "a quarter", "pixels": "keep"}},
            {"id": "on", "step": "invert", "values": {}},
        ]
        made = evaluate(
            recipe_from_json(stack(steps=steps, outputs=[])), CANVAS, MakingContext(lambda key, canvas: None)
        )
        shapes = [made[key]["picture"].values.shape for key in ("a", "small", "on")]
        self.assertEqual(shapes, [(1, 128, 128), (1, 32, 32), (1, 128, 128)])
        self.assertTrue(np.isin(made["small"]["picture"].values, made["a"]["picture"].values).all())

    def test_a_metal_set_is_what_its_masks_say(self) -> None:
        base = Layer(np.full((3, 4, 4), 0.6, np.float32), "colour")
        dirt, scratch = np.zeros((4, 4), np.float32), np.zeros((4, 4), np.float32)
        dirt[0], scratch[1] = 1, 1
        colours, metallic, roughness, specular, bump = metal_set(
            CANVAS, base, number_layer(dirt), number_layer(scratch)
        )
        self.assertEqual((metallic.number[0, 0], metallic.number[2, 0]), (0, 1))
        np.testing.assert_allclose(roughness.number[:3, 0], (0.85, 0.40, 0.28), atol=1e-6)
        np.testing.assert_allclose(bump.number[:3, 0], (0.7, 0.25, 0.5), atol=1e-6)
        np.testing.assert_allclose(specular.values[0, :3, 0], (0.04, 0.6, 0.6), atol=1e-6)
        self.assertLess(colours.values[0, 0, 0], colours.values[0, 2, 0])

    def test_channels_are_packed_from_anywhere(self) -> None:
        colours = Layer(np.stack([np.full((2, 2), v, np.float32) for v in (0.1, 0.2, 0.3, 0.4)]), "colour")
        packed = pack_channels(Canvas(2, 2), red=colours, red_from="alpha", blue=colours, blue_from="green")
        np.testing.assert_allclose(packed.values[:, 0, 0], (0.4, 0, 0.2), atol=1e-6)
        laid = blend(CANVAS, number_layer(np.full((2, 2), 0.25)), number_layer(np.ones((2, 2))), amount=0.5)
        np.testing.assert_allclose(laid.number, 0.625)


def stack(**changes: Any) -> dict[str, Any]:
    return {
        "name": "Ripples",
        "size": [64, 64],
        "steps": [
            {"id": "a", "step": "fractal_noise", "values": {"cells": 4}},
            {"id": "b", "step": "levels", "values": {}},
            {"id": "c", "step": "normal_from_height", "values": {"height": {"step": "a"}}},
        ],
        "outputs": [{"id": "n", "name": "Ripple normal", "step": "c", "layer": "picture", "depth": "8 bit"}],
        **changes,
    }


class Recipes(unittest.TestCase):
    context = MakingContext(lambda key, canvas: None)

    def test_a_stack_is_read_computed_and_written_the_same(self) -> None:
        recipe = recipe_from_json(stack())
        self.assertEqual(recipe_from_json(recipe_to_json(recipe)), recipe)
        layers = evaluate(recipe, recipe.canvas, self.context)
        expected = normal_from_height(Canvas(64, 64), fractal_noise(Canvas(64, 64), cells=4))
        np.testing.assert_array_equal(layers["c"]["picture"].values, expected.values)

    def test_an_edit_computes_only_what_follows_from_it(self) -> None:
        memory: dict[Any, Any] = {}
        fresh: list[str] = []

        def remember(mark: Any, make: Any) -> Any:
            if mark not in memory:
                memory[mark] = make()
                fresh.append(mark[0])
            return memory[mark]

        context = MakingContext(lambda key, canvas: None, remember)
        evaluate(recipe_from_json(stack()), CANVAS, context)
        fresh.clear()
        steps = stack()["steps"]
        steps[1]["values"] = {"high": 0.8}
        evaluate(recipe_from_json(stack(steps=steps)), CANVAS, context)
        self.assertEqual(fresh, ["levels"])

    def test_what_cannot_be_made_says_why(self) -> None:
        steps = stack()["steps"]
        late = [steps[2], *steps[:2]]
        cases = {
            "takes a number from": stack(steps=[{"id": "a", "step": "fractal_noise", "values": {"gain": 9}}]),
            "no step": stack(steps=[{"id": "a", "step": "sorcery", "values": {}}]),
            "nothing called": stack(steps=[{"id": "a", "step": "plain", "values": {"x": 1}}]),
            "A side has": stack(size=[63, 64]),
            "A stack has at least one step": stack(steps=[]),
            "not in the stack": stack(
                outputs=[{"id": "n", "name": "x", "step": "z", "layer": "picture", "depth": "8 bit"}]
            ),
            "rise from 0 to 1": stack(
                steps=[{"id": "a", "step": "colourise", "values": {"gradient": [0.5, 0, 0, 0, 0.2, 1, 1, 1]}}]
            ),
        }
        for words, data in cases.items():
            with self.subTest(words), self.assertRaisesRegex(FileRefused, words):
                recipe_from_json(data)
        recipe: Recipe = recipe_from_json(stack(steps=late))
        self.assertIn("not above it", problems(recipe)["c"])
        for wrong, words in (
            (late, "not above it"),
            ([steps[1]], "needs before"),
            ([{**steps[1], "values": {"before": {"texture": "t1"}}}], "is gone"),
        ):
            with self.subTest(words), self.assertRaisesRegex(OperationRefused, words):
                evaluate(recipe_from_json(stack(steps=wrong, outputs=[])), CANVAS, self.context)
