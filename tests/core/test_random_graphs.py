"""Whole graphs drawn at random: what must hold for every graph, without a GPU."""

import json
import unittest
from dataclasses import replace
from itertools import pairwise

import numpy as np
from hypothesis import HealthCheck, given, seed, settings
from hypothesis import strategies as st

from tests.support.cases import smooth_texture
from tests.support.random_graphs import graphs
from velvet_moth.core.base.errors import OperationRefused
from velvet_moth.core.document.graph import Graph, Node, Source
from velvet_moth.core.document.stand_ins import stand_ins
from velvet_moth.core.editing.extraction import extract, unpacked
from velvet_moth.core.files.graph_json import (
    GraphFile,
    graph_from_json,
    graph_to_json,
    read_graph_file,
    write_graph_file,
)
from velvet_moth.core.language.expr import Expr
from velvet_moth.core.language.interpreters.evaluate import evaluate
from velvet_moth.core.language.interpreters.glsl import emit
from velvet_moth.core.lighting.channels import default_surface
from velvet_moth.core.lighting.shown import appearance
from velvet_moth.core.lowering.lower import lower
from velvet_moth.core.lowering.motifs import resolved
from velvet_moth.core.render.shading import values_array
from velvet_moth.core.render.tracing.reference import points_of
from velvet_moth.core.render.tracing.scene import Scene
from velvet_moth.core.workbench.analysis import own_cost, saved_when_muted, spent
from velvet_moth.core.workbench.problems import bounds_of, find_problems

SEED = 5
drawn = settings(max_examples=100, database=None, deadline=None, suppress_health_check=list(HealthCheck))


def values_of(graph: Graph, form: str = "mooring", size: int = 24) -> dict[Source, np.ndarray]:
    """Every output of a graph that is a number or vector, at the points of a form that are seen."""
    lowered = lower(graph)
    textures = dict.fromkeys(stand_ins(graph), smooth_texture())
    stage = points_of(Scene.of(form), PLAIN, graph.uniform_values(), textures, (size, size))
    wanted = {s: e for s, e in lowered.outputs.items() if isinstance(e, Expr) and e.type.base == "float"}
    found = evaluate(list(wanted.values()), stage.bindings)
    whole = {s: np.broadcast_to(v, (*np.shape(v)[:-2], size, size)) for s, v in zip(wanted, found, strict=True)}
    return {s: v[..., stage.hit] for s, v in whole.items()}


PLAIN = appearance(default_surface())


class EveryGraph(unittest.TestCase):
    def test_no_value_is_born_that_is_none_and_ranges_enclose_all(self) -> None:
        @seed(SEED)
        @drawn
        @given(graphs(), st.sampled_from(["mooring", "plane", "reeds"]))
        def every(graph: Graph, form: str) -> None:
            lowered = lower(graph)
            values = values_of(graph, form)
            for source, interval in zip(values, bounds_of(lowered).of(lowered.outputs[s] for s in values), strict=True):
                sampled = values[source]
                self.assertTrue(np.isfinite(sampled).all(), source)
                slack = 1e-3 * max(1.0, float(np.abs(sampled).max(initial=0.0)))
                self.assertGreaterEqual(float(sampled.min(initial=np.inf)), interval.low - slack, source)
                self.assertLessEqual(float(sampled.max(initial=-np.inf)), interval.high + slack, source)

        every()

    def test_files_keep_it_to_the_letter(self) -> None:
        @seed(SEED)
        @drawn
        @given(graphs())
        def every(graph: Graph) -> None:
            data = graph_to_json(graph)
            self.assertEqual(graph_from_json(json.loads(json.dumps(data))), graph)
            text = write_graph_file(GraphFile(graph))
            self.assertEqual(write_graph_file(read_graph_file(text.encode())), text)

        every()

    def test_the_text_depends_on_the_graph_alone(self) -> None:
        """Not on values; every value has its place."""

        @seed(SEED)
        @drawn
        @given(graphs())
        def every(graph: Graph) -> None:
            last = Source(list(graph.nodes)[-1], next(iter(graph.nodes[list(graph.nodes)[-1]].kind.outputs)))
            made = lower(graph).outputs[last]
            if not isinstance(made, Expr) or made.type.base != "float":
                return
            shader = emit(made)
            again = lower(graph).outputs[last]
            self.assertIs(again, made)
            values = graph.uniform_values()
            packed = values_array(shader, values)
            for slot in shader.slots:
                self.assertEqual(packed[slot.offset : slot.offset + slot.width], list(values[slot.key]))
                self.assertLessEqual(slot.offset % 4 + slot.width, 4)
            used = sorted((s.offset, s.offset + s.width) for s in shader.slots)
            self.assertTrue(all(a[1] <= b[0] for a, b in pairwise(used)), "no two share a place")

        every()

    def test_costs_add_up_and_muting_never_breaks(self) -> None:
        @seed(SEED)
        @drawn
        @given(graphs())
        def every(graph: Graph) -> None:
            last = list(graph.nodes)[-1]
            output = next(iter(graph.nodes[last].kind.outputs))
            if lower(graph).types[Source(last, output)].name not in ("number", "colour"):
                return
            docked = graph.with_node(Node("dock", "dock", wires={"base_colour": Source(last, output)}))
            lowered = lower(docked)
            whole = spent(lowered).pixel
            summed = sum(own_cost(lowered, n).operations for n in docked.nodes.values())
            self.assertLessEqual(whole.operations, summed)
            for key in docked.nodes:
                if key != "dock":
                    saved_when_muted(docked, key)
            find_problems(lowered, {})

        every()

    def test_a_motif_of_any_part_paints_the_same(self) -> None:
        @seed(SEED)
        @drawn
        @given(graphs(), st.data())
        def every(graph: Graph, data: st.DataObject) -> None:
            keys = [k for k in graph.nodes if k != "dock"]
            chosen = data.draw(st.lists(st.sampled_from(keys), min_size=1, max_size=5, unique=True))
            try:
                made = extract(graph, chosen, "Part", "motif_part")
            except OperationRefused:
                return
            after, undo = made.operation.apply(replace(graph, motifs=resolved({"motif_part": made.motif})))
            before = values_of(graph)
            for source, value in values_of(after).items():
                if source in before:
                    np.testing.assert_allclose(value, before[source], rtol=1e-4, atol=1e-4)
            self.assertEqual(undo.apply(after)[0], graph)
            apart, _ = unpacked(after, "motif_use_1").apply(after)
            for source, value in values_of(apart).items():
                if source in before:
                    np.testing.assert_allclose(value, before[source], rtol=1e-4, atol=1e-4)

        every()
