"""Textures of a package: put together with the same values, smaller with the same mean, under names by a pattern."""

import json
import unittest
from dataclasses import replace

import numpy as np

from tests.support.compiling import compiled
from tests.support.executing import bindings
from tests.support.graphs import MADE, demo_graphs
from velvet_moth.core.base.errors import FileRefused
from velvet_moth.core.document.graph import Graph, Node, Variant
from velvet_moth.core.exporting.choices import Choices
from velvet_moth.core.exporting.exported import exported, lowered_for_export
from velvet_moth.core.exporting.package import Beside, packaged
from velvet_moth.core.exporting.packing import packing_of
from velvet_moth.core.language.dialects import DIALECTS
from velvet_moth.core.language.interpreters.evaluate import evaluate
from velvet_moth.core.pictures.convert import within
from velvet_moth.core.pictures.formats import Picture, read_picture
from velvet_moth.core.pictures.levels import read_texture
from velvet_moth.core.pictures.library import NamedPicture
from velvet_moth.core.pictures.reading import Reading


def without(graph: Graph, node: str) -> dict[str, Node]:
    """The nodes with one that reads no texture."""
    return {**graph.nodes, node: replace(graph.nodes[node], values={**graph.nodes[node].values, "texture": ""})}


PACKED = ("Bronze gear", "Ferrywoman's braid", "Lock-keeper's house")


class Packing(unittest.TestCase):
    def test_values_are_the_same_to_the_bit_and_fewer_textures_are_bound(self) -> None:
        for graph in demo_graphs():
            packing = packing_of(graph, MADE)
            self.assertEqual(bool(packing.places), graph.title in (*PACKED, "Block lantern"), graph.title)
            if graph.title not in PACKED:
                continue
            plain = lowered_for_export(graph, "")
            apart, together = (one.surface.channels for one in (plain, packing.applied(plain)))
            around = bindings(graph)
            held = {key: read_texture(one.picture, one.reading) for key, one in packing.pictures.items()}
            textures = {**around.textures, **{places[0]: held[key] for key, places in packing.members.items()}}
            before = evaluate(list(apart.values()), around)
            after = evaluate(list(together.values()), replace(around, textures=textures))
            for key, one, other in zip(apart, before, after, strict=True):
                np.testing.assert_array_equal(one, other, f"{key} of {graph.title}")
            for language in DIALECTS:
                made = exported(graph, Choices(language, packed=True, entry=True), {}, packing=packing)
                fewer = len(exported(graph, Choices(language), {}).module.samplers) - len(made.module.samplers)
                self.assertEqual(fewer, sum(len(places) - 1 for places in packing.members.values()))
                if language != "wgsl":
                    compiled(made.text, DIALECTS[language])

    def test_what_a_parameter_opens_stays_by_itself(self) -> None:
        gear = next(one for one in demo_graphs() if one.title == "Bronze gear")
        opened = replace(gear.parameters[0], id="p_metal", node="metallic", input="texture")
        self.assertFalse(packing_of(replace(gear, parameters=(*gear.parameters, opened)), MADE).places)

    def test_what_a_variant_puts_in_place_stays_by_itself_and_goes_along(self) -> None:
        gear = next(one for one in demo_graphs() if one.title == "Bronze gear")
        opened = replace(gear.parameters[0], id="p_base", node="base", input="texture")
        variants = (*gear.variants, Variant("v_other", "Other", {"p_base": "gear_roughness"}))
        other = replace(gear, parameters=(*gear.parameters, opened), variants=variants)
        self.assertFalse(packing_of(other, MADE).places)
        files = packaged(replace(other, nodes=without(other, "roughness")), Choices(packed=True), Beside(MADE))
        self.assertIn(json.loads(files["parameters.json"])["files"]["gear_roughness"], str(list(files)))


class Files(unittest.TestCase):
    def test_a_package_has_small_packed_textures_by_the_names_that_are_asked_for(self) -> None:
        gear = next(one for one in demo_graphs() if one.title == "Bronze gear")
        beside = Beside(MADE, most=128, names="{role}-{name}-{width}")
        files = packaged(gear, Choices("hlsl", packed=True), beside)
        bound = json.loads(files["parameters.json"])
        (one,) = (t for t in bound["textures"] if "channels" in t)
        self.assertEqual(list(one["channels"]), ["red", "green"])
        self.assertEqual(one["file"], "data-gear-metallic-gear-roughness-128.png")
        self.assertNotIn("gear_roughness", {t["texture"] for t in bound["textures"]})
        picture = read_picture(files[f"textures/{one['file']}"], one["file"])[0]
        self.assertEqual(picture.size, (128, 128))
        for at, key in enumerate(("gear_metallic", "gear_roughness")):
            full = MADE[key].picture.samples.astype(float).mean()
            self.assertAlmostEqual(picture.samples[..., at].mean(), full, delta=0.5)

    def test_a_smaller_texture_has_the_mean_light_of_the_whole_in_every_depth(self) -> None:
        chance = np.random.default_rng(3)
        for dtype, most in ((np.uint8, 255), (np.uint16, 65535)):
            samples = chance.integers(0, most + 1, (8, 16, 3)).astype(dtype)
            made = within(NamedPicture("a", Reading("colour"), Picture(samples)), 1).picture
            self.assertEqual((made.samples.shape, made.samples.dtype), ((1, 1, 3), dtype))
            v = samples / most
            light = np.where(v <= 0.04045, v / 12.92, ((v + 0.055) / 1.055) ** 2.4).mean(axis=(0, 1))
            seen = np.where(light <= 0.0031308, light * 12.92, 1.055 * light ** (1 / 2.4) - 0.055)
            np.testing.assert_allclose(made.samples[0, 0] / most, seen, atol=1.5 / 255 if most == 255 else 2e-4)

    def test_a_pattern_that_cannot_be_is_refused(self) -> None:
        with self.assertRaises(FileRefused):
            packaged(demo_graphs()[0], Choices(), Beside(MADE, names="{colour}"))
