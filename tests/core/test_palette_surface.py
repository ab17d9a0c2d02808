"""Graphs in the place of tiles: a block shows what the graph by itself shows, every other its tile, and what sets them comes along."""

import unittest
from dataclasses import replace

import numpy as np

from tests.support.graphs import TEXTURES, demo_graphs
from velvet_moth.core.blocks.cells import blocks_of
from velvet_moth.core.blocks.surface import surface_of
from velvet_moth.core.document.graph import Graph
from velvet_moth.core.emitting.emitter import NO_EMITTER
from velvet_moth.core.forms.mesh import Mesh
from velvet_moth.core.forms.view import Camera
from velvet_moth.core.lighting.kinds import KINDS
from velvet_moth.core.lowering.lower import lower
from velvet_moth.core.pictures.atlas import Grid
from velvet_moth.core.render.palette_surface import InPlace, palette_surface
from velvet_moth.core.render.tracing.scene import Scene
from velvet_moth.core.workbench.problems import find_problems
from velvet_moth.core.workbench.session import picture

GRID = Grid(2, 2)
NEAR = Camera(35.0, 25.0, 2.6, 30.0, (-12.6, 0.2, -12.6))


def standing(left: int, right: int) -> Mesh:
    """Two piles of blocks beside each other, each of an entry, with corners for every block."""
    cells = np.zeros((4, 3, 3), dtype=np.uint16)
    cells[:2], cells[2:] = left, right
    mesh = surface_of(blocks_of(cells), 0.1, is_merged=False)
    assert mesh is not None
    return mesh


class InPlaceOfTiles(unittest.TestCase):
    def seen(self, graph: Graph, mesh: Mesh, variant: str = "") -> np.ndarray:
        stood = replace(graph, mesh="blocks", rig="open_dock", backdrop="", emitter=NO_EMITTER)
        scene = replace(Scene.of_graph(stood, mesh, variant), camera=NEAR)
        made = picture(stood, (72, 72), TEXTURES.get, variant, scene, meshes=lambda key: mesh)
        return np.asarray(made).astype(int)

    def test_blocks_of_an_entry_show_the_graph_and_others_their_tile(self) -> None:
        tiles = palette_surface("Tiles", {}, GRID)
        mesh = standing(3, 2)
        own = self.seen(tiles, mesh)
        shown = 0
        for graph in demo_graphs():
            # Through what is cut out the far pile is seen, which is another one in each picture.
            if graph.title not in ("Ferry enamel", "Bronze gear", "Boathouse tiles"):
                continue
            variant = graph.variants[-1].id if graph.variants else ""
            whole = palette_surface("Both", {}, GRID, [InPlace(graph, variant, (2, 4))])
            both, alone = self.seen(whole, mesh), self.seen(graph, mesh, variant)
            # The piles meet in the middle of the picture, seen from a corner: each pixel is of one of them.
            off = [np.abs(both - one).max(axis=-1) <= 1 for one in (own, alone)]
            self.assertGreater(np.mean(off[0] | off[1]), 0.999, graph.title)
            drawn = own[..., 3] == 255
            self.assertGreater(np.count_nonzero(drawn & ~off[0]), 100, graph.title)
            self.assertGreater(np.count_nonzero(drawn & ~off[1]), 100, graph.title)
            shown += 1
        self.assertEqual(shown, 3)

    def test_tiles_are_tinted_by_vertex_colours_where_that_is_switched_on(self) -> None:
        tiles = palette_surface("Tiles", {"base_colour": "made"}, GRID)
        mesh = standing(1, 1)
        grey = replace(mesh, colours=np.full_like(mesh.colours, 0.25))
        (opened,) = (one for one in tiles.parameters if one.name == "Tint by vertex colours")
        node = tiles.nodes[opened.node]
        tinted = tiles.with_node(replace(node, values={**node.values, opened.input: (1.0,)}))
        plain, off, on = self.seen(tiles, mesh), self.seen(tiles, grey), self.seen(tinted, grey)
        np.testing.assert_array_equal(plain, off)
        self.assertLess(on[..., :3].mean(), plain[..., :3].mean() - 5)

    def test_parameters_come_along_under_the_title_and_the_whole_has_no_faults(self) -> None:
        for graph in demo_graphs():
            if not KINDS[graph.kind].casts:
                continue
            whole = palette_surface("Both", {}, GRID, [InPlace(graph, "", (2,)), InPlace(graph, "", (3,))])
            named = [one for one in whole.parameters if one.group == graph.title]
            of_dock = [one for one in graph.parameters if one.node == "dock"]
            self.assertGreaterEqual(len(named), 2 * (len(graph.parameters) - len(of_dock)), graph.title)
            errors = [one for one in find_problems(lower(whole), {}) if one.severity == "error"]
            self.assertEqual(errors, [], graph.title)
