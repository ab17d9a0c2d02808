"""Graph files from newer programs, damaged, or made to stall: a sentence or a placeholder, never anything else."""

import json
import unittest
from typing import Any

from tests.support.graphs import enamel
from velvet_moth.core.base.errors import FileRefused
from velvet_moth.core.document.graph import Graph, empty_graph
from velvet_moth.core.files.graph_json import graph_to_json, read_graph_file
from velvet_moth.core.lowering.motifs import MOST_NESTED
from velvet_moth.core.workbench.session import Session

NUMBER_IN = {"id": "in_1", "type": "number_in"}
BARE = graph_to_json(empty_graph("Bare"))


def file(**parts: Any) -> bytes:
    return json.dumps({**graph_to_json(enamel()), **parts}).encode()


def with_node(**node: Any) -> bytes:
    """A file with one more node, of a type that nobody knows."""
    return file(nodes=[*graph_to_json(enamel())["nodes"], {"id": "new", "type": "later", **node}])


def motif(title: str, *uses: str) -> dict[str, Any]:
    """A motif in which others stand."""
    outline = {"name": "Inside", "sentence": "", "inputs": [], "outputs": []}
    nodes = [{"id": f"use_{i}", "type": type_, "outline": outline} for i, type_ in enumerate(uses)]
    return {**BARE, "title": title, "nodes": [*BARE["nodes"], *nodes]}


def port(**parts: Any) -> dict[str, Any]:
    return {"key": "a", "name": "A", "type": "number", "default": [0.5], **parts}


def outlined(*inputs: dict[str, Any], **parts: Any) -> bytes:
    return with_node(outline={"name": "New", "sentence": "", "inputs": list(inputs), "outputs": [], **parts})


class Newer(unittest.TestCase):
    def open(self, data: bytes) -> Graph:
        """Reads a file, shows it as a page does, and reads it again as it would be written."""
        graph = read_graph_file(data).graph
        Session().show(graph, "", None, lambda key: None)
        again = read_graph_file(json.dumps(graph_to_json(graph)).encode()).graph
        self.assertEqual(again, graph)
        return graph

    def test_what_can_stand_stands_as_a_placeholder(self) -> None:
        for name, data in {
            "wired to nothing": with_node(),
            "with ports": outlined(port(), port(key="b", type="vec3", default=[1, 2, 3])),
            "with settings": with_node(settings={"way": "new", "steps": [1, {"two": 2.5}]}),
            "with a texture": outlined(port(type="texture", default=[])),
            "with a whole surface": outlined(
                port(type="surface", default=[]), outputs=[port(type="surface", default=[])]
            ),
            "with a gradient": outlined(port(type="gradient", default=[0, 0, 0, 0, 1, 1, 1, 1])),
        }.items():
            with self.subTest(name):
                self.assertIn("new", self.open(data).nodes)

    def test_what_cannot_stand_is_refused_in_words(self) -> None:
        deep: Any = 1
        for _ in range(300):
            deep = [deep]
        circle = {"motif_a": motif("A", "motif_b"), "motif_b": motif("B", "motif_a")}
        tower = {f"motif_{i}": motif(f"M{i}", f"motif_{i + 1}") for i in range(MOST_NESTED + 2)}
        tower[f"motif_{MOST_NESTED + 2}"] = motif("Last")
        variants = [
            {"id": f"v{i}", "name": f"V {i}", "values": {}, "base": f"v{i - 1}" if i else ""} for i in range(1000)
        ]
        for words, data in {
            "as many numbers": outlined(port(default=[1, 2])),
            "one number": outlined(port(default=[])),
            "same key": outlined(port(), port()),
            "port type": outlined(port(type="hologram")),
            "at most 1000000 away": with_node(place=[1e7, 0]),
            "at most 31": with_node(id="n" * 33),
            "no node type": with_node(type="t" * 33),
            "An id is": with_node(id="constructor"),
            "no node type 'constructor'": with_node(type="constructor"),
            "no node type '__proto__'": with_node(type="__proto__"),
            "more than short plain": with_node(settings={"deep": deep[0][0]}),
            "cannot have the type 'mix'": file(motifs={"mix": motif("Mix")}),
            "cannot have the type '__proto__'": file(motifs={"__proto__": motif("Odd")}),
            "stands inside itself": file(motifs=circle),
            f"More than {MOST_NESTED} motifs": file(motifs=tower),
            "At most 256 entries": file(variants=variants),
            "at most 32 graphs": file(graphs={str(i): BARE for i in range(300)}),
            "at most 4001 nodes": file(nodes=[{"id": f"n{i}", "type": "mix"} for i in range(100_000)]),
            "more than 1,000,000 values": file(nodes=[0] * 1_000_002),
            "not JSON": b"[" * 100_000,
            "not JSON.*": b'{"format": "\\ud800"}',
            "not a Velvet Moth graph": b'{"format": "other"}',
            "named fields.*": b"7",
            "named fields": file(motifs=[1, 2]),
        }.items():
            with self.subTest(words), self.assertRaisesRegex(FileRefused, words) as caught:
                read_graph_file(data, "upload")
            self.assertTrue(caught.exception.mend)
