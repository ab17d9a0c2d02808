"""Graphs baked for other programs: closed forms over the UVs, the standard's validator, and what is said of the difference."""

import io
import json
import struct
import unittest
from dataclasses import replace
from typing import Any

import numpy as np
from PIL import Image

from tests.support.graphs import TEXTURES, built, checked, demo_graphs, enamel
from tests.support.meshes import validated
from velvet_moth.core.base.errors import OperationRefused
from velvet_moth.core.document.graph import Graph
from velvet_moth.core.exporting.baked.difference import difference
from velvet_moth.core.exporting.baked.glb import BakeChoices, BakedFile, baked_glb
from velvet_moth.core.exporting.exported import lowered_for_export
from velvet_moth.core.lighting.rigs import lamps_of
from velvet_moth.core.meshes.bringing import brought
from velvet_moth.core.meshes.source import Materials
from velvet_moth.core.render.shading import shown_look
from velvet_moth.core.render.tracing.scene import Scene, first_moment
from velvet_moth.core.workbench.session import textures_of
from velvet_moth.demo.sketch import Sketch

SIZE, SIDE = 128, 40


def demo(title: str) -> Graph:
    return replace(next(graph for graph in demo_graphs() if graph.title == title), mesh="")


def baked(graph: Graph, **choices: Any) -> BakedFile:
    return baked_glb(
        graph, BakeChoices(**{"size": SIZE, "has_variants": False, "compared": SIDE, **choices}), TEXTURES.get
    )


def read_back(data: bytes) -> tuple[dict[str, Any], tuple[bytes, ...]]:
    """The description in a GLB, and its pictures."""
    (length,) = struct.unpack_from("<I", data, 12)
    described: dict[str, Any] = json.loads(data[20 : 20 + length])
    binary = data[28 + length :]
    views = [described["bufferViews"][image["bufferView"]] for image in described.get("images", ())]
    return described, tuple(binary[v["byteOffset"] : v["byteOffset"] + v["byteLength"]] for v in views)


def pixels(data: bytes) -> np.ndarray:
    """A picture (rows, columns, channels) in 0..1, row 0 at the bottom."""
    return np.asarray(Image.open(io.BytesIO(data)))[::-1].astype(np.float64) / 255


class ClosedForms(unittest.TestCase):
    def test_a_colour_over_the_uvs_is_that_of_each_pixel(self) -> None:
        s = Sketch("ramp")
        s.add("uv", "uv")
        s.dock(roughness="@uv.uv.x", metallic="@uv.uv.y", occlusion=0.5)
        described, pictures = read_back(baked(checked(replace(s.graph(), form="plane"))).data)
        material = described["materials"][0]
        surface = pixels(pictures[material["pbrMetallicRoughness"]["metallicRoughnessTexture"]["index"]])
        u, v = np.meshgrid((np.arange(SIZE) + 0.5) / SIZE, (np.arange(SIZE) + 0.5) / SIZE)
        np.testing.assert_allclose(surface[..., 1], u, atol=1 / 255)
        np.testing.assert_allclose(surface[..., 2], v, atol=1 / 255)
        self.assertEqual(material["occlusionTexture"], material["pbrMetallicRoughness"]["metallicRoughnessTexture"])
        np.testing.assert_allclose(surface[..., 0], 0.5, atol=1 / 255)
        self.assertNotIn("normalTexture", material)

    def test_a_moved_plane_has_the_heights_and_normals_of_its_wave(self) -> None:
        """y = a sin(2 pi f x): what is sent lies there, and its normals with the baked ones on them are those of the wave."""
        amount, waves = 0.05, 1.5
        s = Sketch("wave")
        s.add("place", "position")
        s.add("sine", "sine", value="@place.position.x", frequency=waves)
        s.add("height", "multiply", a="@sine.result", b=amount)
        s.add("up", "combine_three", y="@height.result")
        s.dock(offset="@up.vector", base_colour=(0.2, 0.3, 0.4))
        data = baked(checked(replace(s.graph(), form="plane"))).data
        mesh = brought({"wave.glb": data}, "wave.glb").mesh
        x, y, _ = mesh.positions.T.astype(np.float64)
        turn = 2 * np.pi * waves
        np.testing.assert_allclose(y, amount * np.sin(turn * x), atol=1e-5)
        described, pictures = read_back(data)
        held = pixels(pictures[described["materials"][0]["normalTexture"]["index"]]) * 2 - 1
        at = np.clip((mesh.uvs * SIZE).astype(int), 0, SIZE - 1)
        inside = ((mesh.uvs > 0.05) & (mesh.uvs < 0.95)).all(axis=1)
        t, n = mesh.tangents[:, :3].astype(np.float64), mesh.normals.astype(np.float64)
        side = np.cross(n, t) * mesh.tangents[:, 3:]
        own = held[at[:, 1], at[:, 0]]
        found = t * own[:, :1] + side * own[:, 1:2] + n * own[:, 2:]
        slope = amount * turn * np.cos(turn * x)
        wanted = np.stack((-slope, np.ones_like(slope), np.zeros_like(slope)), axis=1)
        wanted /= np.linalg.norm(wanted, axis=1, keepdims=True)
        angle = np.degrees(np.arccos(np.clip(np.sum(found * wanted, axis=1), -1, 1)))[inside]
        self.assertLess(float(np.percentile(angle, 99)), 2.5)


class Files(unittest.TestCase):
    def check(self, graph: Graph) -> None:
        """The validator finds nothing; and the file, read back and drawn beside its graph again, differs by what was said."""
        made = baked(graph)
        findings = validated(made.data)
        self.assertEqual((findings["numErrors"], findings["numWarnings"]), (0, 0), findings["messages"][:3])
        described, pictures = read_back(made.data)
        self.assertEqual(len(pictures), made.pictures)
        looks = Materials(tuple(described["materials"]), pictures)
        mesh = brought({"a.glb": made.data}, "a.glb").mesh
        bare = replace(graph, emitter=type(graph.emitter)(), backdrop="")
        moment = first_moment(bare)
        values = bare.uniform_values("", moment)
        found = difference(
            shown_look(lowered_for_export(bare, "")),
            values,
            textures_of(bare, values, TEXTURES.get)[0],
            Scene.of_graph(bare, None, "", moment),
            mesh,
            looks,
            graph.kind,
            lamps_of(graph.rig),
            SIDE,
        )
        np.testing.assert_allclose(found.sides, made.difference.sides, atol=0.05)
        self.assertLess(made.difference.mean, 25)

    def test_variants_are_materials_and_share_what_they_have_in_common(self) -> None:
        graph = replace(enamel(), form="plane")
        made = baked(graph, has_variants=True)
        described, pictures = read_back(made.data)
        names = [v["name"] for v in described["extensions"]["KHR_materials_variants"]["variants"]]
        self.assertEqual(names, ["Defaults", *(v.name for v in graph.variants)])
        self.assertEqual(len(described["materials"]), len(names))
        self.assertEqual(len(set(pictures)), len(pictures))
        self.assertEqual(validated(made.data)["numErrors"], 0)

    def test_kinds_are_alpha_modes_and_constants_are_factors(self) -> None:
        s = Sketch("glass")
        s.dock(base_colour=(0.5, 0.25, 0.125), opacity=0.5, clear_coat=0.75, ior=1.33)
        made = baked(checked(replace(s.graph(), kind="see_through", form="plane")))
        (material,) = read_back(made.data)[0]["materials"]
        self.assertEqual(made.pictures, 0)
        self.assertEqual(material["alphaMode"], "BLEND")
        np.testing.assert_allclose(material["pbrMetallicRoughness"]["baseColorFactor"], (0.5, 0.25, 0.125, 0.5))
        extensions = material["extensions"]
        self.assertEqual(extensions["KHR_materials_clearcoat"]["clearcoatFactor"], 0.75)
        self.assertAlmostEqual(extensions["KHR_materials_ior"]["ior"], 1.33, places=5)
        self.assertLess(made.difference.mean, 0.6)
        with self.assertRaises(OperationRefused):
            baked(demo("Rain seep"))
        with self.assertRaises(OperationRefused):
            baked(built(), size=100)


# Cut-outs, moved and see-through forms, unlit ones, two sides.
for _title in ("Ferry crate", "Basin water", "Steam ribbon", "Water-dock leaf"):
    _name = f"test_the_difference_said_of_{_title.lower().replace(' ', '_').replace('-', '_')}_is_that_of_the_file"
    setattr(Files, _name, lambda case, title=_title: case.check(demo(title)))


if __name__ == "__main__":
    unittest.main()
