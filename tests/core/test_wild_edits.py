"""Whatever an operation brings, it is refused in words or it can be read back, shown, sent out and undone."""

import os
import random
import unittest
from collections import Counter
from typing import Any, ClassVar

from hypothesis import HealthCheck, Phase, given, settings
from hypothesis import strategies as st

from tests.support.edits import TEXTS, random_operation
from tests.support.graphs import enamel
from velvet_moth.core.base.errors import MothError
from velvet_moth.core.document.graph import Graph, Node, Parameter
from velvet_moth.core.document.outline import Outline, OutlinePort
from velvet_moth.core.files.graph_json import (
    GraphFile,
    graph_from_json,
    graph_to_json,
    read_graph_file,
    write_graph_file,
)
from velvet_moth.core.operations import OPERATIONS, AddNode, AddParameter, Operation
from velvet_moth.core.workbench.session import Session

# More with MOTH_EXAMPLES in the environment.
EXAMPLES = int(os.environ.get("MOTH_EXAMPLES", "500"))
# A failure is shown as it was found: making it small would take minutes.
BOUNDED: dict[str, Any] = {
    "deadline": None,
    "database": None,
    # The same ones each time, unless more are asked for.
    "derandomize": "MOTH_EXAMPLES" not in os.environ,
    "phases": [Phase.generate],
    "suppress_health_check": list(HealthCheck),
}


def lived_in() -> Graph:
    """A graph with everything that operations can change, an unknown node and a dressed backdrop among it."""
    graph, draw = enamel(), random.Random(5)
    for _ in range(200):
        operation = random_operation(graph, draw)
        if operation.op.startswith("remove"):
            continue
        try:
            graph, _ = operation.apply(graph)
        except MothError:
            continue
    newer = Outline("Newer", (OutlinePort("a", "A", "number", (0.5,)),), (OutlinePort("out", "Out", "colour"),))
    graph, _ = AddNode(Node("newer", "from_tomorrow", outline=newer, settings={"way": [1, "two"]})).apply(graph)
    return graph


class Wild(unittest.TestCase):
    graph: ClassVar[Graph] = lived_in()
    taken: ClassVar[Counter[str]] = Counter()

    def test_what_is_accepted_reads_back_and_is_undone(self) -> None:
        @settings(max_examples=EXAMPLES, **BOUNDED)
        @given(st.integers(0, 2**40), st.sampled_from([0.0, 0.0, 0.1, 0.5]))
        def holds(seed: int, wild: float) -> None:
            self.hold(self.graph, random_operation(self.graph, random.Random(seed), wild))

        holds()
        missing = {operation.op for operation in OPERATIONS} - set(self.taken)
        for seed in range(5000):
            operation = random_operation(self.graph, random.Random(seed))
            if operation.op in missing - set(self.taken):
                self.hold(self.graph, operation)
        self.assertEqual(missing - set(self.taken), set(), "drawn and refused each time")

    def hold(self, graph: Graph, operation: Operation) -> None:
        try:
            after, inverse = operation.apply(graph)
        except MothError as refused:
            self.assertTrue(refused.what and refused.what.isprintable(), operation)
            return
        self.taken.update([operation.op, inverse.op])
        self.assertTrue(operation.words(graph))
        self.assertEqual(graph_from_json(graph_to_json(after)), after, operation)
        self.assertEqual(read_graph_file(write_graph_file(GraphFile(after)).encode()).graph, after, operation)
        self.assertEqual(inverse.apply(after)[0], graph, operation)

    def test_what_the_reader_refused_and_edits_took(self) -> None:
        far = Node("far", "mix", place=(1e7, 0.0))
        newer = OutlinePort("a", "A", "number", (0.5,))
        for node in (
            far,
            Node("n", "later", outline=Outline("n" * 201, (newer,))),
            Node("n", "later", outline=Outline("N", (newer,), sentence="s" * 201)),
            Node("n", "later", outline=Outline("N", (OutlinePort("k" * 201, "A", "number", (0.5,)),))),
            Node("n", "later", outline=Outline("N", (OutlinePort("a", "A", "number", (2e6,)),))),
            Node("n", "later", outline=Outline("N", (OutlinePort("a", "A", "number", (0.5,), low=-2e6),))),
            Node("n", "later", outline=Outline("N", (OutlinePort("a", "A", "vec3", (0.5,)),))),
            Node("n", "later", outline=Outline("N", (newer, newer))),
            Node("n", "t" * 33, outline=Outline("N")),
            Node("n", "constructor", outline=Outline("N")),
            Node("n", "later", outline=Outline("N"), settings={"deep": [[[[[[[[1]]]]]]]]}),
            Node("n", "later", outline=Outline("N"), settings={"not": float("nan")}),
        ):
            with self.subTest(node=node), self.assertRaises(MothError):
                AddNode(node).apply(self.graph)
        wrong = {"night_ferry": (1.0, 2.0, 3.0, 4.0)}
        with self.assertRaises(MothError):
            AddParameter(Parameter("p", "P", "gloss", "metallic"), None, wrong).apply(enamel())


class Injection(unittest.TestCase):
    def test_no_text_of_a_file_reaches_the_shader(self) -> None:
        evil = "Evil __ name\n discard; //"

        @settings(max_examples=60, **BOUNDED)
        @given(
            st.sampled_from([*TEXTS, evil]), st.sampled_from(["label", "outline name", "port name", "type", "title"])
        )
        def holds(text: str, place: str) -> None:
            parts = {"label": "", "outline name": "N", "port name": "P", "type": "later", "title": "T", place: text}
            port = OutlinePort("a", parts["port name"], "number", (0.5,))
            node = Node(
                "evil",
                parts["type"],
                label=parts["label"],
                outline=Outline(parts["outline name"], (port,), (OutlinePort("out", parts["port name"], "number"),)),
                muted=True,
            )
            graph = enamel()
            # Past every check, as a document kept by another version may be.
            graph = graph.with_node(node).with_node(Node("user", "mix", wires={"a": node.sources["out"]}, label=text))
            shader = Session().show(graph, "", node.sources["out"], lambda key: None).drawing.shader
            for source in (shader.fragment, shader.vertex):
                self.assertTrue(source.isascii() and "__" not in source)
                self.assertNotIn("Evil", source)
                self.assertNotIn("discard", source)

        holds()


class Mending(unittest.TestCase):
    """Documents that are kept already and that this program would not take now."""

    def test_every_part_is_kept_that_can_be(self) -> None:
        document = graph_to_json(enamel())
        nodes = {n["id"]: n for n in document["nodes"]}
        nodes["rim"]["place"] = [1e7, 0]
        nodes["gloss"]["values"] = {"metallic": [1, 2, 3]}
        document["nodes"].append(
            {"id": "later", "type": "later", "outline": {"name": "n" * 300, "inputs": [], "outputs": []}}
        )
        document["nodes"].append({"id": "broken"})
        document["parameters"][0]["low"] = -5e9
        document["variants"][0]["values"]["ghost"] = [1]
        document["variants"][0]["values"]["rim_width"] = [1, 2, 3, 4]
        document["views"] = 7
        with self.assertRaises(MothError):
            graph_from_json(document)
        mended: list[MothError] = []
        graph = graph_from_json(document, mended=mended)
        self.assertIsNone(graph.nodes["rim"].place)
        self.assertEqual(set(graph.nodes), {*enamel().nodes, "later"})
        self.assertEqual(len(graph.parameters), len(enamel().parameters))
        self.assertEqual(graph.parameters[0].low, -1e6)
        before = enamel().variants[0].values
        self.assertEqual(graph.variants[0].values, {k: v for k, v in before.items() if k != "rim_width"})
        self.assertGreaterEqual(len(mended), 7)
        self.assertEqual(graph_from_json(graph_to_json(graph)), graph)

    def test_nothing_but_another_version_is_refused(self) -> None:
        whole = graph_to_json(lived_in())
        draw = random.Random(3)
        for _ in range(300):
            document = {key: _damaged(value, draw) for key, value in whole.items()}
            graph = graph_from_json({**document, "format": whole["format"], "version": whole["version"]}, mended=[])
            self.assertEqual(graph_from_json(graph_to_json(graph)), graph)


def _damaged(data: object, draw: random.Random, chance: float = 0.004) -> object:
    """The same plain data with some of it replaced by something else."""
    if draw.random() < chance:
        return draw.choice([None, 7, 1e9, float("nan"), "wrong", "x" * 5000, [], {}, [1, 2], True])
    if isinstance(data, dict):
        return {k: _damaged(v, draw, chance) for k, v in data.items()}
    return [_damaged(v, draw, chance) for v in data] if isinstance(data, list) else data
