"""Blocks in their palette: nothing of a neighbour, no seam from block to block, bumps that turn with their tile, merged as unmerged."""

import unittest
from collections.abc import Sequence
from dataclasses import replace

import numpy as np

from velvet_moth.core.blocks.cells import SIDE, Blocks, blocks_of
from velvet_moth.core.blocks.surface import surface_of
from velvet_moth.core.document.graph import Graph
from velvet_moth.core.forms.mesh import Mesh
from velvet_moth.core.forms.view import Camera
from velvet_moth.core.language.expr import biased, constant, sampler
from velvet_moth.core.language.inputs import Bindings, surface
from velvet_moth.core.language.interpreters.evaluate import evaluate
from velvet_moth.core.language.texture import Texture
from velvet_moth.core.making.atlas import tile_palette
from velvet_moth.core.making.exchange import picture_of
from velvet_moth.core.making.layer import Canvas, Layer, number_layer, unit_length
from velvet_moth.core.making.step import PlacedTile
from velvet_moth.core.nodes.blocks import block, palette_tile
from velvet_moth.core.pictures.atlas import Grid
from velvet_moth.core.pictures.levels import read_texture
from velvet_moth.core.pictures.reading import Reading
from velvet_moth.core.render.palette_surface import palette_surface
from velvet_moth.core.render.tracing.scene import Scene
from velvet_moth.core.workbench.session import picture
from velvet_moth.demo.sketch import Sketch

# As far apart as colours can be, so that any mixture of two is seen.
PURE = [(r, g, b) for r in (0.0, 1.0) for g in (0.0, 1.0) for b in (0.0, 1.0)]
ABOVE = Camera(0.0, 89.0, 0.3, 10.0, (-12.75, 0.0, -12.75))
MAPS = ("base_colour", "metallic", "roughness", "normal", "height", "emission")


def palette(tiles: Sequence[PlacedTile], grid: Grid, side: int) -> dict[str, Texture]:
    """The textures of a palette, by their maps."""
    made = tile_palette(Canvas(side, side), tiles, grid.columns, grid.rows, grid.padding)
    return {
        key: read_texture(picture_of(layer, "half float"), Reading(layer.role))
        for key, layer in zip(MAPS, made, strict=True)
    }


def pure_palette(grid: Grid, side: int) -> dict[str, Texture]:
    return palette([PlacedTile("", {"base_colour": PURE[i % 8]}) for i in range(grid.count)], grid, side)


def unlit(surface_graph: Graph) -> Graph:
    """The base colours of a palette's surface by themselves."""
    s = Sketch("Tiles", kind="unlit")
    s.nodes.update({key: node for key, node in surface_graph.nodes.items() if key == "tile"})
    s.dock(emissive="@tile.base_colour")
    return s.graph()


def seen(graph: Graph, mesh: Mesh | None, textures: dict[str, Texture], camera: Camera, size: int = 160) -> np.ndarray:
    """The reference picture, (size, size, 4)."""
    stood = replace(graph, mesh="blocks")
    scene = replace(Scene.of_graph(stood, mesh), camera=camera)
    return np.asarray(picture(stood, (size, size), textures.get, scene=scene, meshes=lambda key: mesh))


class Tiles(unittest.TestCase):
    def tile(
        self, textures: dict[str, Texture], grid: Grid, level: float, ways: str, at: np.ndarray, **inputs: np.ndarray
    ) -> list[np.ndarray]:
        """What the node gives at places of faces (2, n), with the level forced by a bias of the textures; entry 1."""
        maps = [biased(sampler(key), constant(level)) for key in MAPS]
        given = [constant(float(v)) for v in (grid.columns, grid.rows, grid.padding)]
        found = palette_tile(*maps, surface("uv"), *given, constant(1.0), constant(1.0), ways)
        quads = np.repeat(np.repeat(at[:, None, :], 2, axis=1), 2, axis=2).astype(np.float32)
        here = {
            "uv": quads,
            "second_uv": np.array((1.0, 1.0), np.float32).reshape(2, 1, 1),
            "object_position": np.zeros((3, 1, 1), np.float32),
            "object_normal": np.array((0, 0, 1), np.float32).reshape(3, 1, 1),
            "is_front": np.array(1.0, np.float32),
            **inputs,
        }
        return [np.asarray(v)[..., 0, ::2] for v in evaluate(list(found), Bindings(here, {}, dict(textures)))]

    def test_no_seam_from_block_to_block_at_any_level(self) -> None:
        grid, side = Grid(2, 2, 1 / 8), 256

        def wave(size: Canvas) -> Layer:
            u, v = size.uv()
            return number_layer(0.5 + 0.25 * np.sin(u * 2 * np.pi + 1.0) + 0.2 * np.cos(v * 2 * np.pi + 2.0))

        textures = palette([PlacedTile("", {"height": wave})] * 4, grid, side)
        along = np.random.default_rng(3).uniform(0.1, 0.9, 60)
        for level in np.arange(0.0, 9.0, 0.5):
            sides = [
                self.tile(textures, grid, level, "as drawn", np.stack((np.full(60, 3.0) + off, along)))[4]
                for off in (-1e-4, 1e-4)
            ]
            np.testing.assert_allclose(*sides, atol=0.012, err_msg=f"level {level}")
        (mean,) = {round(float(v), 3) for v in self.tile(textures, grid, 8.0, "as drawn", np.stack((along, along)))[4]}
        self.assertAlmostEqual(mean, 0.5, delta=0.04, msg="gutters count twice")

    def test_bumps_turn_with_their_tile(self) -> None:
        """The normal at a place is that of the heights as they are seen there, for many blocks each turned its own way."""
        grid, side, step = Grid(1, 1, 1 / 8), 512, 0.01

        def height(size: Canvas) -> Layer:
            u, v = size.uv()
            return number_layer(0.5 + 0.2 * np.sin(u * 2 * np.pi) + 0.1 * np.cos(v * 2 * np.pi + u * 2 * np.pi))

        def normal(size: Canvas) -> Layer:
            u, v = (a * 2 * np.pi for a in size.uv())
            down = -0.1 * np.sin(v + u) * 2 * np.pi
            slopes = np.stack((-(0.4 * np.pi * np.cos(u) + down), -down * np.ones_like(u), np.ones_like(u * v)))
            return Layer(unit_length(slopes.astype(np.float32)), "normal")

        textures = palette([PlacedTile("", {"height": height, "normal": normal})], grid, side)
        blocks = np.stack([np.arange(40.0) + 0.5, np.full(40, 0.5), np.ones(40)]).astype(np.float32)[:, None, :]
        place = {"object_position": np.repeat(np.repeat(blocks, 2, axis=1), 2, axis=2)}
        at = np.random.default_rng(4).uniform(0.2, 0.8, (2, 40))
        ways = set()
        for kind in ("as drawn", "mirrored", "turned", "turned and mirrored"):
            heights = {
                off: self.tile(textures, grid, 0.0, kind, at + np.array(off)[:, None], **place)[4]
                for off in ((0.0, 0.0), (step, 0.0), (-step, 0.0), (0.0, step), (0.0, -step))
            }
            found = self.tile(textures, grid, 0.0, kind, at, **place)[3]
            slope = np.stack(
                [(heights[step, 0.0] - heights[-step, 0.0]), (heights[0.0, step] - heights[0.0, -step])]
            ) / (2 * step)
            np.testing.assert_allclose(-found[:2] / found[2], slope, atol=0.06)
            ways.add(round(float(heights[0.0, 0.0].sum()), 2))
        self.assertEqual(len(ways), 4, "each way shows tiles otherwise")

    def test_a_block_has_one_number_and_one_place_all_over(self) -> None:
        mesh = surface_of(blocks_of(np.arange(1, 28, dtype=np.uint16).reshape(3, 3, 3)), 0.25)
        assert mesh is not None and mesh.second is not None
        source = np.random.default_rng(1)
        share = source.dirichlet((1, 1, 1), len(mesh.triangles)).astype(np.float32)
        corners = mesh.triangles
        mixed = {
            name: np.einsum("nk,nkc->cn", share, values[corners])[:, None]
            for name, values in (
                ("object_position", mesh.positions),
                ("object_normal", mesh.normals),
                ("second_uv", mesh.second),
            )
        }
        entry, place, random = evaluate(
            list(block(constant(1.0))), Bindings({**mixed, "is_front": np.array(1.0, np.float32)}, {}, {})
        )
        x, y, z = (place[:, 0].astype(int).T + np.array((SIDE // 2, 0, SIDE // 2))).T
        np.testing.assert_array_equal(entry[0], 1 + 9 * x + 3 * y + z)
        by_entry = {float(e): {float(r) for r in random[0][entry[0] == e]} for e in entry[0]}
        self.assertTrue(all(len(numbers) == 1 for numbers in by_entry.values()))
        self.assertEqual(len(set.union(*by_entry.values())), len(by_entry))


class Pictures(unittest.TestCase):
    def test_pure_colours_stay_pure_at_every_distance_and_angle(self) -> None:
        grid = Grid(4, 4, 1 / 16)
        textures = pure_palette(grid, 256)
        graph = unlit(palette_surface("Pure", {key: key for key in MAPS}, grid))
        source = np.random.default_rng(7)
        floor = source.integers(1, grid.count + 1, (60, 1, 60)).astype(np.uint16)
        mesh = surface_of(blocks_of(floor), 0.1)
        assert mesh is not None
        target = (-9.8, 0.0, -9.8)
        # As the stage shows each of them.
        pure = np.concatenate(
            [
                seen(graph, surface_of(Blocks().with_cells(np.array([[0, 0, 0]]), i + 1), 0.1), textures, ABOVE, 4)[
                    2, 2, None, :3
                ]
                for i in range(len(PURE))
            ]
        ).astype(float)
        self.assertGreater(min(np.abs(a - b).max() for i, a in enumerate(pure) for b in pure[:i]), 40)
        for distance, tilt in ((1.5, 60.0), (8.0, 35.0), (9.0, 4.0), (30.0, 12.0), (80.0, 45.0)):
            found = seen(graph, mesh, textures, Camera(30.0, tilt, distance, 30.0, target))
            pixels = found[found[..., 3] == 255][:, :3].astype(float)
            self.assertGreater(len(pixels), 40)
            off = np.abs(pixels[:, None] - pure).max(axis=-1).min(axis=1)
            self.assertLessEqual(off.max(), 2.0, f"{distance} m, {tilt} degrees")

    def test_the_merged_surface_is_the_unmerged_one(self) -> None:
        """To the bit; but for a pixel in ten thousand, where numbers mixed over a longer way are rounded to the next step."""
        grid = Grid(2, 2, 1 / 8)
        source = np.random.default_rng(2)

        def noise(size: Canvas) -> Layer:
            return number_layer(source.uniform(size=size.shape))

        textures = palette(
            [PlacedTile("", {"base_colour": (0.2 + 0.2 * i, 0.5, 0.3), "roughness": noise}) for i in range(4)],
            grid,
            128,
        )
        graph = palette_surface("House", {key: key for key in MAPS}, grid)
        cells = np.zeros((12, 10, 12), dtype=np.uint16)
        cells[1:11, :6, 1:11] = 1 + np.arange(10)[:, None, None] // 4
        cells[3:9, 6:9, 3:9] = 4
        blocks: Blocks = blocks_of(cells)
        pictures = []
        for is_merged in (True, False):
            mesh = surface_of(blocks, 0.1, is_merged=is_merged)
            assert mesh is not None
            pictures.append(seen(graph, mesh, textures, Camera(35.0, 25.0, 3.2, 30.0, (-12.2, 0.4, -12.2)), 128))
        self.assertGreater(int((pictures[0][..., 3] == 255).sum()), 3000)
        apart = np.abs(pictures[0].astype(int) - pictures[1])
        self.assertLessEqual((apart.max(), np.count_nonzero(apart.any(axis=-1))), (1, 2))
