"""Atlases: numbers and places agree for every grid, nothing of a neighbour is read, maps lie in step."""

import unittest
from functools import partial

import numpy as np

from velvet_moth.core.base.errors import OperationRefused
from velvet_moth.core.language.expr import biased, constant, sampler, uniform
from velvet_moth.core.language.inputs import Bindings
from velvet_moth.core.language.interpreters.evaluate import evaluate
from velvet_moth.core.language.texture import Texture
from velvet_moth.core.language.types import NUMBER, VEC2
from velvet_moth.core.making import Canvas, Layer
from velvet_moth.core.making.atlas import atlas, tile_palette
from velvet_moth.core.making.exchange import picture_of
from velvet_moth.core.making.layer import number_layer
from velvet_moth.core.making.recipe import MakingContext, recipe_from_json, recipe_to_json
from velvet_moth.core.making.recipe import evaluate as evaluate_recipe
from velvet_moth.core.making.step import PlacedTile
from velvet_moth.core.nodes.textures import atlas_read, cell_of
from velvet_moth.core.pictures.atlas import MOST_SIDE, Grid
from velvet_moth.core.pictures.levels import read_texture
from velvet_moth.core.pictures.reading import Reading
from velvet_moth.core.stacks.stack import problems

GRIDS = [Grid(columns, rows) for columns in range(1, MOST_SIDE + 1) for rows in range(1, MOST_SIDE + 1)]


def plain(*light: float) -> PlacedTile:
    layer = Layer(np.array(light, dtype=np.float32)[:, None, None], "colour")
    return PlacedTile(
        "", {"picture": lambda size: Layer(np.broadcast_to(layer.values, (len(light), *size.shape)), "colour")}
    )


def read(texture: Texture, grid: Grid, index: int, uv: np.ndarray, level: float) -> np.ndarray:
    """What the node reads, (4, n), with the level forced by a bias of the texture."""
    at = uniform("at", VEC2)
    found = atlas_read(
        biased(sampler("t"), constant(level)),
        at,
        constant(index),
        constant(grid.columns),
        constant(grid.rows),
        constant(grid.padding),
    )
    # The same place all over each 2x2 pixels: no difference between neighbours, so that the bias alone is the level.
    quads = np.repeat(np.repeat(uv[:, None, :], 2, axis=1), 2, axis=2).astype(np.float32)
    return evaluate([found], Bindings({}, {"at": quads}, {"t": texture}))[0][:, 0, ::2]


class Grids(unittest.TestCase):
    def test_numbers_and_places_agree_for_every_grid(self) -> None:
        for grid in GRIDS:
            numbers = np.arange(1, grid.count + 4, dtype=np.float32)
            cells = cell_of(uniform("i", NUMBER), constant(grid.columns), constant(grid.rows))
            found = evaluate([cells], Bindings({}, {"i": numbers[None]}))[0][:, 0].T
            np.testing.assert_array_equal(found, [grid.place(int(i)) for i in numbers])
            for index in range(1, grid.count + 1):
                u0, v0, u1, v1 = Grid(grid.columns, grid.rows, 0.1).box(index)
                corners = [(u0, v0), (u1, v1), ((u0 + u1) / 2 + 3, (v0 + v1) / 2 - 2)]
                self.assertEqual({grid.at(*corner) for corner in corners}, {index}, grid)

    def test_nothing_of_a_neighbour_is_read_at_any_level(self) -> None:
        """Also where the pixels of coarse levels lie across the edges of cells, with no gutter between."""
        random = np.random.default_rng(2)
        edge = np.linspace(0, 0.9999, 9)
        uv = np.stack(np.meshgrid(edge, edge)).reshape(2, -1)
        for grid, side in (
            (Grid(4, 2, 1 / 16), 256),
            (Grid(3, 5, 0.1), 240),
            (Grid(16, 16, 1 / 8), 512),
            (Grid(3, 3, 0.0), 512),
        ):
            colours = random.random((grid.count, 3)).astype(np.float32)
            made = atlas(Canvas(side, side), [plain(*c) for c in colours], grid.columns, grid.rows, grid.padding)
            # Half floats: 8 bits would round what is compared.
            texture = read_texture(picture_of(made, "half float"), Reading())
            for level in range(10):
                for index in {1, 2, grid.columns, grid.count // 2 + 1, grid.count}:
                    with self.subTest(grid, level=level, index=index):
                        found = read(texture, grid, index, uv, level)[:3]
                        np.testing.assert_allclose(
                            found, np.repeat(colours[index - 1][:, None], uv.shape[1], 1), atol=2e-3
                        )
        self.assertEqual(
            [g.clean_levels(256, 256) for g in (Grid(4, 2), Grid(4, 4, 1 / 16), Grid(3, 3, 0.1))], [0, 2, 0]
        )

    def test_a_tile_is_found_where_it_was_laid_and_repeats_without_a_seam(self) -> None:
        """Also where the edges of cells and gutters fall between pixels."""
        for grid, side in ((Grid(2, 2, 1 / 8), 128), (Grid(3, 2, 0.07), 200)):
            u, v = Canvas(512, 512).uv()
            wave = 0.5 + 0.25 * np.sin(u * 2 * np.pi) + 0.2 * np.cos(v * 2 * np.pi)
            tile = PlacedTile("", {"picture": lambda size, wave=wave: number_layer(_mean(wave, size))})
            made = atlas(Canvas(side, side), [tile] * grid.count, grid.columns, grid.rows, grid.padding, "repeat")
            place = np.random.default_rng(4).random((2, 400)) * 3 - 1
            found = read(read_texture(picture_of(made, "half float"), Reading("data")), grid, 2, place, 0)[0]
            wanted = 0.5 + 0.25 * np.sin(place[0] * 2 * np.pi) + 0.2 * np.cos(place[1] * 2 * np.pi)
            self.assertLess(np.abs(found - wanted).max(), 0.01)


def _mean(wave: np.ndarray, size: Canvas) -> np.ndarray:
    u, v = size.uv()
    return 0.5 + 0.25 * np.sin(u * 2 * np.pi) + 0.2 * np.cos(v * 2 * np.pi)


class Steps(unittest.TestCase):
    def test_what_is_clear_has_the_colour_beside_it(self) -> None:
        values = np.zeros((4, 8, 8), dtype=np.float32)
        values[:, 3:5, 3:5] = np.array((0.9, 0.4, 0.1, 1))[:, None, None]
        tile = PlacedTile("", {"picture": lambda size: Layer(values, "colour")})
        made = atlas(Canvas(32, 16), [tile], 2, 1, 0.0)
        np.testing.assert_allclose(made.values[0, :, :16], 0.9)
        self.assertEqual((made.values[3, 0, 0], made.values[3, 8, 8]), (0, 1))
        self.assertFalse(made.values[:, :, 16:].any(), "an empty cell is clear")

    def test_a_palette_holds_pictures_and_plain_values_in_step(self) -> None:
        rough = lambda size: number_layer(np.full(size.shape, 0.3))  # noqa: E731 - a picture in one line
        placed = [
            PlacedTile("brass", {"base_colour": (0.8, 0.5, 0.2), "metallic": (1.0,), "roughness": rough}),
            PlacedTile("", {}),
        ]
        base, metallic, roughness, normal, height, emission = tile_palette(Canvas(64, 64), placed, 2, 1, 0.125)
        np.testing.assert_allclose(base.values[:, 10, 10], (0.8, 0.5, 0.2))
        np.testing.assert_allclose((metallic.number[5, 5], metallic.number[5, 40]), (1, 0))
        np.testing.assert_allclose((roughness.number[5, 5], roughness.number[5, 40]), (0.3, 0.6), atol=1e-6)
        np.testing.assert_allclose(normal.values[:, 60, 60], (0, 0, 1))
        self.assertEqual((float(height.number.max()), float(emission.number.max())), (0.5, 0.0))
        self.assertEqual((base.channels, base.role, normal.role), (3, "colour", "normal"))
        with self.assertRaisesRegex(OperationRefused, "not read as a normal map"):
            tile_palette(Canvas(8, 8), [PlacedTile("", {"normal": rough})], 1, 1)

    def test_a_stack_lays_its_own_steps_and_textures(self) -> None:
        tiles = [
            {"name": f"mark {n}", "maps": {"picture": {"step": "ring"} if n % 2 else {"texture": "t1"}}}
            for n in range(3)
        ]
        data = {
            "name": "Marks",
            "size": [128, 64],
            "steps": [
                {"id": "ring", "step": "chalk_mark", "values": {"mark": "ring"}},
                {"id": "sheet", "step": "atlas", "values": {"tiles": tiles, "columns": 2, "rows": 2}},
            ],
            "outputs": [],
        }
        recipe = recipe_from_json(data)
        self.assertEqual(recipe_from_json(recipe_to_json(recipe)), recipe)
        self.assertEqual(recipe.textures(), {"t1"})
        asked: list[Canvas] = []

        def grey(key: str, canvas: Canvas) -> tuple[str, partial[Layer]]:
            asked.append(canvas)
            return key, partial(Layer, np.full((4, *canvas.shape), 0.5, np.float32), "colour")

        made = evaluate_recipe(recipe, recipe.canvas, MakingContext(grey))["sheet"]["picture"]
        self.assertEqual((made.channels, made.values.shape), (4, (4, 64, 128)))
        self.assertIn(Canvas(60, 30), asked, "textures come at the size of a cell")
        np.testing.assert_allclose(made.values[:, 40:50, 10:20], 0.5)
        data["steps"][1]["values"]["rows"] = 1
        self.assertIn("add a column or a row", problems(recipe_from_json(data))["sheet"])
        data["steps"].reverse()
        self.assertIn("not above it", problems(recipe_from_json(data))["sheet"])
