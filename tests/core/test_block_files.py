"""Blocks sent out and taken back: GLB with its palette, blocks of meshes against their volumes, entries by colours and parts."""

import io
import unittest
import zipfile
from dataclasses import replace

import numpy as np

from tests.core.test_blocks import random_blocks
from tests.support.meshes import validated
from velvet_moth.core.base.errors import FileRefused, OperationRefused
from velvet_moth.core.blocks.cells import Blocks, changed_chunks
from velvet_moth.core.blocks.formats import BLOCK_FORMATS, Asked, read_blocks
from velvet_moth.core.blocks.model import BlockModel, Settings
from velvet_moth.core.blocks.of_mesh import blocks_of_mesh, nearest_entries
from velvet_moth.core.blocks.tiled import tiled_surface
from velvet_moth.core.forms import form
from velvet_moth.core.forms.mesh import Mesh
from velvet_moth.core.making.layer import Canvas, Layer
from velvet_moth.core.making.palette_material import palette_material, palette_pictures
from velvet_moth.core.meshes.bringing import brought
from velvet_moth.core.meshes.formats import FORMATS
from velvet_moth.core.pictures.atlas import Grid
from velvet_moth.core.pictures.formats import write_png
from velvet_moth.demo.keepers_house import LANTERN

NOTHING = np.zeros((0, 3))


def maps(side: int) -> dict[str, Layer]:
    flat = np.full((1, side, side), 0.5, dtype=np.float32)
    up = np.zeros((3, side, side), dtype=np.float32)
    up[2] = 1
    return {
        "base_colour": Layer(np.repeat(flat, 3, axis=0), "colour"),
        "roughness": Layer(flat),
        "metallic": Layer(flat),
        "normal": Layer(up, "normal"),
        "emission": Layer(flat),
    }


def sent_and_back(model: BlockModel, format_: str, grid: Grid) -> Mesh:
    canvas = Canvas(64, 64)
    source = replace(
        tiled_surface(model, grid), looks=palette_material(model.name, palette_pictures(maps(canvas.columns)))
    )
    data = FORMATS[format_].written(source)
    if format_ == "gltf":
        assert validated(data)["numErrors"] == 0
    name = f"a{FORMATS[format_].suffixes[0]}"
    return brought({name: data}, name).mesh


class OutAndBack(unittest.TestCase):
    def test_what_is_seen_comes_back_as_it_was(self) -> None:
        """Every block that shows a face; of those that show none the file knows nothing."""
        for blocks in (random_blocks(11, 14, 0.3), LANTERN.blocks):
            model = BlockModel(Settings("Lamp", 0.25), blocks)
            back = blocks_of_mesh(sent_and_back(model, "gltf", Grid(8, 8, 0.0625)), 1.0, "one", NOTHING)
            again = blocks_of_mesh(sent_and_back(replace(model, blocks=back), "gltf", Grid(8, 8)), 1.0, "one", NOTHING)
            self.assertFalse(changed_chunks(back, again))
            places = blocks.places()
            beside = np.stack(
                [blocks.at(places + step) for step in np.concatenate((np.eye(3), -np.eye(3))).astype(int)]
            )
            seen = (beside == 0).any(axis=0)
            np.testing.assert_array_equal(back.at(places)[seen], blocks.at(places)[seen])
            self.assertEqual(back.count, blocks.count, "what is inside is filled, and no room is")

    def test_every_face_reads_inside_its_own_tile(self) -> None:
        grid = Grid(4, 2, 0.1)
        blocks = Blocks().with_cells(np.array([[0, 0, 0], [2, 0, 0], [4, 0, 0]]), np.array([1, 6, 8], dtype=np.uint16))
        mesh = sent_and_back(BlockModel(Settings("Three"), blocks), "gltf", grid)
        assert mesh.second is not None
        for entry in (1, 6, 8):
            own = mesh.uvs[np.round(mesh.second[:, 0]) == entry]
            low, high = own.min(axis=0), own.max(axis=0)
            np.testing.assert_allclose((*low, *high), grid.box(entry), atol=1e-6)
        for format_ in ("obj", "ply"):
            self.assertEqual(len(sent_and_back(BlockModel(Settings("Three"), blocks), format_, grid).triangles), 36)
        with self.assertRaisesRegex(OperationRefused, "no blocks"):
            tiled_surface(BlockModel(Settings("Empty")), grid)


class OfMeshes(unittest.TestCase):
    def test_a_ball_has_its_volume_and_a_sheet_is_one_block_thick(self) -> None:
        ball = form("sphere")
        radius = float(np.linalg.norm(ball.positions, axis=1).mean())
        for size in (0.2, 0.1, 0.05):
            found = blocks_of_mesh(ball, size, "one", NOTHING)
            inner, outer = (4 / 3 * np.pi * max(radius + off * size, 0) ** 3 / size**3 for off in (-0.1, 0.9))
            self.assertTrue(inner < found.count < outer, (size, inner, found.count, outer))
            assert found.box is not None
            self.assertEqual(found.box[0][1], 0, "it stands on the ground")
        sheet = blocks_of_mesh(form("card"), 0.1, "one", NOTHING)
        self.assertEqual(sheet.count, 100)
        with self.assertRaisesRegex(OperationRefused, "Choose .* m or more"):
            blocks_of_mesh(ball, 0.001, "one", NOTHING)

    def test_entries_are_the_nearest_colours_or_the_parts(self) -> None:
        palette = np.array(((0.9, 0.05, 0.05), (0.05, 0.8, 0.05), (0.02, 0.02, 0.02)))
        near = nearest_entries(np.array(((0.7, 0.1, 0.1), (0.0, 0.4, 0.1), (0.05, 0.03, 0.04))), palette)
        np.testing.assert_array_equal(near, (1, 2, 3))
        box = form("box")
        colours = np.where(box.positions[:, :1] < 0, (0.9, 0.0, 0.0, 1.0), (0.0, 0.9, 0.0, 1.0)).astype(np.float32)
        painted = blocks_of_mesh(replace(box, colours=colours), 0.125, "colours", palette)
        self.assertEqual(set(painted.uses), {1, 2})
        parts = np.where(box.positions[box.triangles].mean(axis=1)[:, 1] > 0.4, 1, 0).astype(np.int32)
        named = replace(box, part_of=parts, part_names=("Body", "Lid"))
        self.assertEqual(set(blocks_of_mesh(named, 0.125, "parts", NOTHING).uses), {1, 2})
        with self.assertRaisesRegex(OperationRefused, "no parts"):
            blocks_of_mesh(box, 0.125, "parts", NOTHING)
        with self.assertRaisesRegex(OperationRefused, "need a palette"):
            blocks_of_mesh(box, 0.125, "colours", NOTHING)


PALETTE = np.array(((0.8, 0.02, 0.02), (0.02, 0.7, 0.02), (0.01, 0.01, 0.02), (0.6, 0.6, 0.6)))


def same(one: Blocks, other: Blocks) -> bool:
    """Whether two models are the same where they stand on the ground about the middle."""
    boxes = [blocks.box for blocks in (one, other)]
    return all(boxes) and bool(np.array_equal(*(b.dense(b.box or ((0, 0, 0), (1, 1, 1))) for b in (one, other))))


class Files(unittest.TestCase):
    def test_points_and_slices_come_back_as_they_were(self) -> None:
        for blocks in (random_blocks(3, 9, 0.3), LANTERN.blocks, Blocks().with_cells(np.array([[5, 5, 5]]), 256)):
            for key in ("points", "slices"):
                made = BLOCK_FORMATS[key]
                assert made.encode is not None
                data = made.encode(blocks, 0.05, PALETTE)
                self.assertTrue(same(read_blocks(data, Asked(f"a{made.suffix}", NOTHING)), blocks), key)

    def test_colours_are_found_in_the_palette(self) -> None:
        text = "ply\nformat ascii 1.0\nelement vertex 3\n" + "".join(
            f"property {kind} {name}\n"
            for kind, name in (
                ("float", "x"),
                ("float", "y"),
                ("float", "z"),
                *(("uchar", c) for c in ("red", "green", "blue")),
            )
        )
        text += "end_header\n0 0 0 240 40 30\n0.5 0 0 30 220 60\n0.5 1.5 0 20 15 25\n"
        found = read_blocks(text.encode(), Asked("a.ply", PALETTE))
        low = np.array((found.box or ((0, 0, 0), (0, 0, 0)))[0])
        self.assertEqual(
            {tuple(p - low): int(found.at(p[None])[0]) for p in found.places()},
            {(0, 0, 0): 1, (1, 0, 0): 2, (1, 3, 0): 3},
        )
        layer = np.zeros((2, 3, 4), dtype=np.uint8)
        layer[..., 3] = 255
        layer[0, 0] = (235, 30, 30, 255)
        layer[1, 2, 3] = 0
        packed = io.BytesIO()
        with zipfile.ZipFile(packed, "w") as archive:
            archive.writestr("1.png", write_png(layer))
        slices = read_blocks(packed.getvalue(), Asked("a.zip", PALETTE))
        self.assertEqual(slices.uses, {1: 1, 3: 4}, "what is clear is empty")
        front = slices.places(1)[0]
        self.assertEqual(int(front[2]), int(slices.places()[:, 2].max()), "the lower edge is in front")

    def test_heights_are_columns(self) -> None:
        u, v = np.meshgrid(np.linspace(0, 1, 30), np.linspace(0, 1, 20))
        shares = np.round((u * v) * 65535).astype(np.uint16)[..., None]
        found = read_blocks(write_png(shares), Asked("hill.png", NOTHING, high=40, entry=7))
        high = np.round(shares[..., 0] / 65535 * 40).astype(int)
        self.assertEqual((found.count, set(found.uses)), (int(high.sum()), {7}))
        box = found.box
        assert box is not None
        np.testing.assert_array_equal(
            (found.dense(box) > 0).sum(axis=1), high[::-1][high[::-1].any(axis=1)][:, high.any(axis=0)].T
        )

    def test_broken_and_boundless_files_are_refused_with_a_sentence(self) -> None:
        bomb, many, wide = io.BytesIO(), io.BytesIO(), io.BytesIO()
        with zipfile.ZipFile(bomb, "w", zipfile.ZIP_DEFLATED) as archive:
            archive.writestr("1.png", bytes(40 << 20))
        with zipfile.ZipFile(many, "w") as archive:
            for number in range(300):
                archive.writestr(f"{number}.png", b"")
        with zipfile.ZipFile(wide, "w") as archive:
            archive.writestr("1.png", write_png(np.zeros((2, 400, 1), dtype=np.uint8)))
        head = b"ply\nformat ascii 1.0\nelement vertex 1\nproperty float x\nproperty float y\nproperty float z\nproperty int entry\nend_header\n"
        cases = [
            (b"", "holds no blocks"),
            (b"PK\x03\x04nothing", "cannot be read"),
            (bomb.getvalue(), "too large"),
            (many.getvalue(), "1 to 256 pictures"),
            (wide.getvalue(), "256 pixels"),
            (head + b"0 0 0 900\n", "not 1 to 256"),
            (head + b"nan 0 0 1\n", "nowhere"),
            (head, "."),
            (write_png(np.zeros((4, 4, 1), dtype=np.uint8)), "no blocks in the file"),
        ]
        for data, words in cases:
            with self.subTest(words), self.assertRaisesRegex(FileRefused, words):
                read_blocks(data, Asked("a", NOTHING))
