"""How graphs read textures: each use its own way, and something sensible where none is chosen."""

import unittest

import numpy as np

from tests.support.graphs import built
from velvet_moth.core.document.graph import Node, Source
from velvet_moth.core.document.stand_ins import stand_ins
from velvet_moth.core.language.inputs import Bindings
from velvet_moth.core.language.interpreters.evaluate import evaluate
from velvet_moth.core.language.texture import Texture
from velvet_moth.core.lowering.lower import lower
from velvet_moth.core.operations import AddNode, Wire
from velvet_moth.core.pictures.library import FLAT, GREY, WHITE
from velvet_moth.core.render.shading import drawing
from velvet_moth.core.workbench.problems import find_problems


class InGraphs(unittest.TestCase):
    def test_each_use_reads_a_texture_its_own_way(self) -> None:
        """Two readers of one chosen texture; the bias stays outside, so that dragging it builds no shader."""
        own = {"texture_wrap": "mirror", "texture_filter": "pixels"}
        graph = built(
            AddNode(Node("pick", "texture_choice", values={"value": "t1"})),
            AddNode(Node("first", "texture")),
            AddNode(Node("second", "triplanar", values={"texture_bias": (2.0,)}, settings=own)),
            Wire.of("first", "texture", Source("pick", "texture")),
            Wire.of("second", "texture", Source("pick", "texture")),
            Wire.of("dock", "base_colour", Source("first", "colour")),
            Wire.of("dock", "emissive", Source("second", "colour")),
        )
        drawn = drawing(lower(graph)).shader
        ways = {(s.wrap, s.filter) for s in drawn.samplers if s.key == ("pick", "value")}
        self.assertEqual(ways, {(("repeat", "repeat"), "smooth"), (("mirror", "mirror"), "pixels")})
        self.assertIn(("second", "texture_bias"), {slot.key for slot in drawn.slots})
        self.assertNotIn(("first", "texture_bias"), {slot.key for slot in drawn.slots})
        at = (np.arange(8, dtype=np.float32) + 0.5) / 8
        picture = Texture(tuple(np.full((4, 64 >> k, 64 >> k), k, np.float32) for k in range(7)))
        lowered = lower(built(AddNode(Node("map", "texture", values={"texture_bias": (2.0,)}))))
        uniforms = {("map", "texture_bias"): np.float32(2.0)}
        around = Bindings({"uv": np.stack(np.meshgrid(at, at))}, uniforms, {("map", "texture"): picture})
        found = evaluate([lowered.outputs[Source("map", "red")]], around)[0]
        np.testing.assert_allclose(found, 5.0, atol=1e-4, err_msg="level 3 and two more")

    def test_what_stands_in_is_what_is_read(self) -> None:
        """Grey for a colour, white for a mask, flat for a normal map, through a chosen texture too."""
        reader, picked = AddNode(Node("map", "texture")), AddNode(Node("pick", "texture_choice"))
        colour = Wire.of("dock", "base_colour", Source("map", "colour"))
        mask = Wire.of("dock", "roughness", Source("map", "red"))
        through = Wire.of("map", "texture", Source("pick", "texture"))
        for operations, place, expected in (
            ((reader, colour), ("map", "texture"), GREY),
            ((reader, colour, mask), ("map", "texture"), WHITE),
            ((reader, picked, through, colour), ("pick", "value"), GREY),
            ((reader, picked, through, mask), ("pick", "value"), WHITE),
            ((AddNode(Node("map", "normal_map")),), ("map", "texture"), FLAT),
        ):
            graph = built(*operations)
            self.assertEqual(stand_ins(graph)[place], expected)
            note = next(
                p for p in find_problems(lower(graph), {}) if p.code == "missing-texture" and p.node == place[0]
            )
            self.assertIn({GREY: "mid-grey", WHITE: "white", FLAT: "flat"}[expected], note.what)
