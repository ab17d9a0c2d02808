"""Mesh files: what is written comes back, what others write comes in whole, and what is broken is refused in words."""

import base64
import json
import struct
import time
import tracemalloc
import unittest
from collections.abc import Iterator
from dataclasses import replace
from typing import Any

import numpy as np

from tests.support.meshes import of_another_maker, sample_mesh, validated
from velvet_moth.core.base.errors import FileRefused
from velvet_moth.core.meshes.formats import FORMATS, read_mesh
from velvet_moth.core.meshes.intake import MeshReading, taken_in
from velvet_moth.core.meshes.source import SourceMesh

PLAIN = ("positions", "triangles", "normals", "tangents", "uvs", "second_uvs", "colours", "part_of")


def read(data: bytes, name: str = "mesh", **beside: bytes) -> SourceMesh:
    return read_mesh({name: data, **beside}, name)[0]


def glb(described: dict[str, Any], binary: bytes = b"") -> bytes:
    text = json.dumps({"asset": {"version": "2.0"}, **described}).encode()
    text += b" " * (-len(text) % 4)
    binary += bytes(-len(binary) % 4)
    whole = struct.pack("<II", len(text), 0x4E4F534A) + text + struct.pack("<II", len(binary), 0x004E4942) + binary
    return struct.pack("<4sII", b"glTF", 2, 12 + len(whole)) + whole


TRIANGLE = np.array([(0, 0, 0), (1, 0, 0), (0, 1, 0)], dtype="<f4").tobytes()


def of_one_triangle(**changes: Any) -> dict[str, Any]:
    return {
        "nodes": [{"mesh": 0}],
        "meshes": [{"primitives": [{"attributes": {"POSITION": 0}}]}],
        "accessors": [{"bufferView": 0, "componentType": 5126, "count": 3, "type": "VEC3"}],
        "bufferViews": [{"buffer": 0, "byteLength": 36}],
        "buffers": [{"byteLength": 36}],
        **changes,
    }


class ThereAndBack(unittest.TestCase):
    def test_glb_keeps_every_number_and_the_validator_finds_nothing(self) -> None:
        for depth in ("8 bit", "16 bit", "float"):
            with self.subTest(depth):
                mesh = sample_mesh(depth)
                mesh = replace(mesh, second_colours=1 - mesh.positions[:, [0, 1, 2, 0]])
                # A level of detail goes along, and is not what a reader gets.
                data = FORMATS["gltf"].written(mesh, [sample_mesh("float")])
                back = read(data)
                for key in (*PLAIN, "second_colours"):
                    np.testing.assert_array_equal(getattr(back, key), getattr(mesh, key), key)
                self.assertEqual((back.depth, back.part_names, back.left_out), (depth, mesh.part_names, ()))
                np.testing.assert_array_equal(back.more["growth"], mesh.more["growth"])
                found = validated(data)
                # Random directions are not square to each other: nothing else may be found.
                self.assertEqual((found["numErrors"], found["numWarnings"]), (0, 0), found)

    def test_ply_and_obj_keep_what_they_can(self) -> None:
        second = {"second_colours"}
        for key, lost in (("ply", {"tangents", "part_of"}), ("obj", {"tangents", "second_uvs"} | second)):
            mesh = sample_mesh("16 bit")
            mesh = replace(mesh, second_colours=1 - mesh.positions[:, [0, 1, 2, 0]])
            back = read(FORMATS[key].encode(mesh))
            # OBJ may number its vertices otherwise: corners are compared.
            for part in {*PLAIN, *second} - lost - {"triangles"}:
                own, other = getattr(back, part), getattr(mesh, part)
                own, other = (own, other) if part == "part_of" else (own[back.triangles], other[mesh.triangles])
                width = 3 if (key, part) == ("obj", "colours") else own.shape[-1]
                np.testing.assert_array_equal(own[..., :width], other[..., :width], f"{key} {part}")
            self.assertTrue(all(getattr(back, part) is None for part in lost), key)

    def test_what_other_makers_write_comes_in_whole(self) -> None:
        files, corners = of_another_maker()
        for name, data in files.items():
            with self.subTest(name):
                mesh = read(data, name)
                for key, values in corners.items():
                    own = getattr(mesh, key)[mesh.triangles.reshape(-1)]
                    if key == "uvs" and "gl" in name:
                        # This maker writes its V as it is, though it runs down in glTF: it is turned when it is read.
                        own = np.stack((own[:, 0], 1 - own[:, 1]), axis=1)
                    np.testing.assert_allclose(own, values, rtol=0, atol=2e-6, err_msg=key)
                self.assertIsNotNone(mesh.colours)
                self.assertTrue(taken_in(mesh, MeshReading()).mesh.positions.size)


class Obj(unittest.TestCase):
    def test_colours_beside_uvs_parts_and_backward_indices(self) -> None:
        mesh = read(
            b"# made by hand\r\nmtllib a.mtl\no Post\nv 0 0 0 1 0 0\nv 1 0 0 0 1 0\nv 1 1 0 0 0 1\nv 0 1 0 .5 .5 .5\n"
            b"vt 0 0\nvt 1 0\nvt 1 1\nvt 0 1\nusemtl red\nf 1/1 2/2 3/3 4/4\n"
            b"g Cap\nf -4/-4 -3/-3 \\\n-2/-2\n"
        )
        self.assertEqual(len(mesh.triangles), 3)
        np.testing.assert_array_equal(mesh.part_of, (0, 0, 1))
        self.assertEqual(mesh.part_names, ("Post", "Cap"))
        assert mesh.colours is not None and mesh.uvs is not None
        np.testing.assert_array_equal(mesh.colours[mesh.triangles[2], :3], np.eye(3))
        np.testing.assert_array_equal(mesh.uvs[mesh.triangles[2]], ((0, 0), (1, 0), (1, 1)))
        self.assertEqual(mesh.left_out, ("Its materials are left out.",))

    def test_faces_that_bend_inwards_keep_their_area(self) -> None:
        """An arrow head of four corners and a star of ten, against the areas of their outlines."""
        turns = np.arange(10) * np.pi / 5
        reach = np.where(np.arange(10) % 2, 0.35, 1.0)
        star = np.stack((np.cos(turns) * reach, np.sin(turns) * reach, 0 * turns), axis=1)
        for outline in (
            np.array([(0, 0, 0), (1, -1, 0), (0, 2, 0), (-1, -1, 0)], float),
            star,
            star[::-1],
            star[:, (2, 0, 1)],
        ):
            for start in range(len(outline)):
                rolled = np.roll(outline, start, axis=0)
                text = "".join(f"v {x} {y} {z}\n" for x, y, z in rolled)
                mesh = read(f"{text}f {' '.join(str(i + 1) for i in range(len(rolled)))}\n".encode())
                corners = mesh.positions[mesh.triangles].astype(float)
                across = np.cross(corners[:, 1] - corners[:, 0], corners[:, 2] - corners[:, 0]) / 2
                expected = np.cross(outline, np.roll(outline, -1, axis=0)).sum(axis=0) / 2
                np.testing.assert_allclose(across.sum(axis=0), expected, atol=1e-5)
                self.assertAlmostEqual(np.linalg.norm(across, axis=1).sum(), np.linalg.norm(expected), places=5)


class Ply(unittest.TestCase):
    def test_text_and_both_orders_of_bytes_with_faces_of_many_corners(self) -> None:
        """A square, a triangle and a line beside colours of 16 bits and a property nobody knows."""
        points = [(0, 0), (1, 0), (1, 1), (0, 1), (0.5, 2)]
        faces = [(0, 1, 2, 3), (3, 2, 4), (0, 4)]
        head = (
            "ply\nformat {} 1.0\ncomment made by hand\nelement vertex 5\nproperty double x\nproperty float y\n"
            "property float z\nproperty ushort red\nproperty ushort green\nproperty ushort blue\nproperty uchar age\n"
            "element face 3\nproperty uchar tone\nproperty list uchar int vertex_index\nelement edge 0\nproperty int a\n"
            "end_header\n"
        )
        for kind, order in (("ascii", ""), ("binary_little_endian", "<"), ("binary_big_endian", ">")):
            with self.subTest(kind):
                if order:
                    body = b"".join(
                        struct.pack(f"{order}dffHHHB", x, y, 0, 65535, i, 0, i) for i, (x, y) in enumerate(points)
                    )
                    body += b"".join(struct.pack(f"{order}BB{len(f)}i", 7, len(f), *f) for f in faces)
                else:
                    rows = [f"{x} {y} 0 65535 {i} 0 {i}" for i, (x, y) in enumerate(points)]
                    body = "\n".join([*rows, *(f"7 {len(f)} {' '.join(map(str, f))}" for f in faces), ""]).encode()
                mesh = read(head.format(kind).encode() + body)
                np.testing.assert_array_equal(mesh.positions[:, :2], np.array(points, np.float32))
                np.testing.assert_array_equal(mesh.triangles, ((0, 1, 2), (0, 2, 3), (3, 2, 4)))
                assert mesh.colours is not None
                np.testing.assert_allclose(mesh.colours[3], (1.0, 3 / 65535, 0.0, 1.0))
                np.testing.assert_array_equal(mesh.more["age"], range(5))
                self.assertEqual((mesh.depth, mesh.left_out), ("16 bit", ("What it calls 'edge' is left out.",)))


class Gltf(unittest.TestCase):
    def test_places_mirrors_and_names_of_nodes(self) -> None:
        half = np.sqrt(0.5)
        nodes = [
            {"name": "Gate", "children": [1, 2], "translation": [10, 0, 0], "rotation": [0, 0, half, half]},
            {"name": "Left", "mesh": 0, "scale": [2, 2, 2]},
            {"name": "Right", "mesh": 0, "scale": [-1, 1, 1]},
        ]
        mesh = read(glb(of_one_triangle(nodes=nodes), TRIANGLE))
        self.assertEqual(mesh.part_names, ("Left", "Right"))
        np.testing.assert_allclose(mesh.positions[:3], ((10, 0, 0), (10, 2, 0), (8, 0, 0)), atol=1e-6)
        corners = mesh.positions[mesh.triangles].astype(float)
        across = np.cross(corners[:, 1] - corners[:, 0], corners[:, 2] - corners[:, 0])
        self.assertTrue((across[:, 2] > 0).all(), "what is mirrored is still seen from the front")

    def test_strips_fans_sparse_values_and_buffers_elsewhere(self) -> None:
        square = np.array([(0, 0, 0), (1, 0, 0), (0, 1, 0), (1, 1, 0)], dtype="<f4")
        for mode, order in ((5, (0, 1, 2, 3)), (6, (0, 1, 3, 2))):
            changes = {
                "meshes": [{"primitives": [{"attributes": {"POSITION": 0}, "mode": mode}]}],
                "accessors": [{"bufferView": 0, "componentType": 5126, "count": 4, "type": "VEC3"}],
                "bufferViews": [{"buffer": 0, "byteLength": 48}],
            }
            data = square[list(order)].tobytes()
            text = f"data:application/octet-stream;base64,{base64.b64encode(data).decode()}"
            for uri, beside in ((text, {}), ("square%20one.bin", {"square one.bin": data})):
                told = of_one_triangle(**changes, buffers=[{"byteLength": 48, "uri": uri}])
                whole = json.dumps({"asset": {"version": "2.0"}, **told}).encode()
                mesh = read_mesh({"a.gltf": whole, **beside}, "a.gltf")[0]
                corners = mesh.positions[mesh.triangles].astype(float)
                across = np.cross(corners[:, 1] - corners[:, 0], corners[:, 2] - corners[:, 0])
                np.testing.assert_allclose(across, ((0, 0, 1), (0, 0, 1)))
        other = np.array([(5, 6, 7)], dtype="<f4").tobytes()
        sparse = {"count": 1, "indices": {"bufferView": 1, "componentType": 5121}, "values": {"bufferView": 2}}
        told = of_one_triangle(
            accessors=[{"bufferView": 0, "componentType": 5126, "count": 3, "type": "VEC3", "sparse": sparse}],
            bufferViews=[
                {"buffer": 0, "byteLength": 36},
                {"buffer": 0, "byteOffset": 36, "byteLength": 1},
                {"buffer": 0, "byteOffset": 40, "byteLength": 12},
            ],
            buffers=[{"byteLength": 52}],
        )
        mesh = read(glb(told, TRIANGLE + b"\2\0\0\0" + other))
        np.testing.assert_array_equal(mesh.positions[2], (5, 6, 7))

    def test_what_is_left_out_is_said(self) -> None:
        told = of_one_triangle(materials=[{}], skins=[{"joints": [0]}], animations=[{}])
        self.assertEqual(
            read(glb(told, TRIANGLE)).left_out,
            ("Its materials and their textures are left out.", "Its bones are left out.", "Its animation is left out."),
        )


def _cut(data: bytes, count: int) -> Iterator[bytes]:
    for share in np.linspace(0, 0.999, count):
        yield data[: int(len(data) * share)]


def hostile() -> Iterator[bytes]:
    """Files that are cut off, lie about what they hold, or reach outwards."""
    mesh = sample_mesh()
    written = {key: made.encode(mesh) for key, made in FORMATS.items()}
    yield from _cut(written["gltf"], 30)
    yield from _cut(written["ply"], 25)
    random = np.random.default_rng(8)
    for key in ("gltf", "ply"):
        for _ in range(15):
            data = bytearray(written[key][:1500])
            for at in random.integers(8, len(data), 12):
                data[at] = random.integers(0, 256)
            yield bytes(data) + written[key][1500:1600]
    for changes in (
        {"accessors": [{"componentType": 5126, "count": 4_000_000_000, "type": "VEC3"}]},
        {"accessors": [{"bufferView": 0, "componentType": 5126, "count": 4_000_000, "type": "VEC3"}]},
        {"accessors": [{"bufferView": 0, "componentType": 5126, "count": 3, "type": "MAT4"}]},
        {"accessors": [{"bufferView": 7, "componentType": 5126, "count": 3, "type": "VEC3"}]},
        {"bufferViews": [{"buffer": 0, "byteOffset": 30, "byteLength": 36}]},
        {"bufferViews": [{"buffer": 0, "byteLength": 36, "byteStride": 200}]},
        {"bufferViews": [{"buffer": 9, "byteLength": 36}]},
        {"buffers": [{"byteLength": 360_000_000_000}]},
        {"buffers": [{"byteLength": 36, "uri": "../../../../etc/passwd"}]},
        {"buffers": [{"byteLength": 36, "uri": "file:///etc/passwd"}]},
        {"buffers": [{"byteLength": 36, "uri": "data:;base64,***"}]},
        {"nodes": [{"mesh": 0, "children": [0]}], "scenes": [{"nodes": [0]}]},
        {"nodes": [{"children": [1]}, {"children": [0]}], "scenes": [{"nodes": [0]}]},
        {"nodes": [{"mesh": 3}]},
        {"nodes": [{"mesh": 0, "matrix": [1.0] * 15}]},
        {"nodes": [{"mesh": -1}]},
        {"nodes": "all"},
        {"scenes": [{"nodes": [5]}]},
        {"extensionsRequired": ["KHR_draco_mesh_compression"]},
        {"meshes": [{"primitives": [{"attributes": {"NORMAL": 0}}]}]},
        {"meshes": [{"primitives": [{"attributes": {"POSITION": 0}, "mode": 1}]}]},
        {"meshes": [{"primitives": [{"attributes": {"POSITION": 0}, "indices": 0}]}]},
    ):
        yield glb(of_one_triangle(**changes), TRIANGLE)
    yield glb(of_one_triangle(), np.array([np.nan] * 9, "<f4").tobytes())
    yield glb(of_one_triangle(), np.array([3e38] * 9, "<f4").tobytes())
    yield b'{"asset": {"version": "2.0"}, "nodes": ' + b"[" * 200_000
    head = "ply\nformat {} 1.0\nelement vertex {}\nproperty float x\nproperty float y\nproperty float z\n"
    face = "element face {}\nproperty list uchar int vertex_indices\nend_header\n"
    for kind, vertices, faces, rest in (
        ("ascii", 9_000_000_000, 1, ""),
        ("binary_little_endian", 3, 2_000_000_000, ""),
        ("ascii", 3, 1, "0 0 0\n1 0 0\n0 1 0\n3 0 1 9\n"),
        ("ascii", 3, 1, "0 0 0\n1 0 0\n0 1 nan\n3 0 1 2\n"),
        ("ascii", 3, 1, "0 0 0\n1 0 0\n0 1 0\n2 0 1\n"),
        ("ascii", 3, 1, "0 0 0\n1 0 0\n0 1\n"),
        ("ascii", 3, 1, "0 0 0\n1 0 zero\n0 1 0\n3 0 1 2\n"),
        ("odd", 3, 1, ""),
    ):
        yield (head.format(kind, vertices) + face.format(faces) + rest).encode()
    for text in (
        "v 0 0 0\nv 1 0 0\nv 0 1 0\nf 1 2 4\n",
        "v 0 0 0\nv 1 0 0\nv 0 1 0\nf 1 2 -9\n",
        "v 0 0 0\nv 1 0 0\nv 0 1 0\nf 1 2\n",
        "v 0 0 0\nv 1 0\nv 0 1 0\nf 1 2 3\n",
        "v 0 0 0\nv 1 0 0\nv 0 1 nan\nf 1 2 3\n",
        "v 0 0 0\nv 1 0 0\nv 0 1 0\nf 1/9 2/9 3/9\n",
        "v 0 0 0\nv 1 0 0\nv 0 1 0\nf 1/1/1/1 2 3\n",
        "v 0 0 0\nv 1 0 0\nv 0 1 0\nf one two three\n",
        "v 0 0 0\nv 1 0 0\nv 0 1 0\nf 0 1 2\n",
        "v 0 0 0\nv 1 0 0\nv 0 1 0\nf 99999999999999999999 1 2\n",
        "v 0 0 0\nv 1 0 0\n",
        "f 1 2 3\n",
        "v 1e39 0 0\nv 1 0 0\nv 0 1 0\nf 1 2 3\n",
        "v a b c\nf 1 2 3\n",
    ):
        yield text.encode()
    yield from (b"", b"\0" * 4096, b"glTF", b"ply\n", b"ply\nend_header\n", b"GIF89a" * 100, b"{}")


class Broken(unittest.TestCase):
    def test_each_is_refused_in_a_sentence_soon_and_with_little_memory(self) -> None:
        files = list(hostile())
        self.assertGreaterEqual(len(files), 100)
        came_in = 0
        for number, data in enumerate(files):
            with self.subTest(number=number, begins=data[:60]):
                tracemalloc.start()
                started = time.process_time()
                try:
                    read(data)
                    came_in += 1
                except FileRefused as refused:
                    self.assertRegex(str(refused), r"^[A-Z].*\. \(file .*\) [A-Z].*\.$")
                finally:
                    _, most = tracemalloc.get_traced_memory()
                    tracemalloc.stop()
                self.assertLess(most, 512 << 20)
                self.assertLess(time.process_time() - started, 2.0)
        # Bytes that were changed at random may still be a mesh.
        self.assertLess(came_in, 12)


if __name__ == "__main__":
    unittest.main()
