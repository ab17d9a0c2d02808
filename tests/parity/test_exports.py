"""Exports of the demo's graphs and of random ones: accepted by compilers, executed against NumPy, as many operations in each language."""

import json
import unittest
from collections.abc import Sequence
from dataclasses import replace
from functools import cache
from pathlib import Path
from tempfile import TemporaryDirectory

import numpy as np
from hypothesis import HealthCheck, Phase, given, seed, settings

from tests.support.compiling import compiled, operations
from tests.support.executing import VISIBLE, bindings, differences
from tests.support.gpu import whole
from tests.support.graphs import demo_graphs, enamel
from tests.support.native import EXECUTED, device
from tests.support.random_graphs import graphs
from velvet_moth.cli.__main__ import main
from velvet_moth.core.base.errors import OperationRefused
from velvet_moth.core.catalogue.registry import CATALOGUE
from velvet_moth.core.document.graph import Graph, empty_graph
from velvet_moth.core.exporting.bound import BOUND
from velvet_moth.core.exporting.choices import Choices
from velvet_moth.core.exporting.exported import exported, lowered_for_export
from velvet_moth.core.exporting.proof import proofs
from velvet_moth.core.exporting.shapes import SHAPES
from velvet_moth.core.files.graph_json import GraphFile, write_graph_file
from velvet_moth.core.language.dialects import DIALECTS
from velvet_moth.core.language.interpreters.evaluate import evaluate
from velvet_moth.core.language.types import P_BOOL
from velvet_moth.core.meshes.bringing import brought

SHARE = 0.97
HOSTILE = (
    "*/ void main(){} //\"'",
    "line\u2028end",
    "\u202eelbat",
    "discard",
    "float",
    "x" * 80,
    "texture2D sampler fn struct",
)
LANGUAGES = tuple(one for one in DIALECTS if one != "wgsl")
EMPTY_MAIN = {
    **dict.fromkeys(DIALECTS, "void main() {}"),
    "hlsl": "float4 moth_pixel_shader() : SV_Target0 { return float4(0, 0, 0, 0); }",
    "wgsl": "",
}


def text_of(graph: Graph, choices: Choices) -> str:
    """The export of a graph as a whole shader for pixels."""
    return exported(graph, replace(choices, entry=True), {}).text


def with_all(language: str, shape: str) -> Choices:
    """All that can be asked of a text in a language."""
    return Choices(language, shape, switches=True, entry=True, reduced=DIALECTS[language].reduced is not None)


@cache
def random_graphs() -> Sequence[Graph]:
    """200 graphs by chance, the same every time."""
    found: list[Graph] = []

    @seed(5)
    @settings(
        max_examples=200,
        database=None,
        deadline=None,
        suppress_health_check=list(HealthCheck),
        phases=(Phase.generate,),
    )
    @given(graphs())
    def every(graph: Graph) -> None:
        found.append(graph)

    every()
    return found


def texts_together(made: Sequence[Graph], language: str) -> str:
    """Many graphs as one text: each has names of its own by its prefix."""
    dialect = DIALECTS[language]
    before = "\n".join(dialect.before)
    parts = [exported(graph, Choices(language, prefix=f"g{n}_"), {}).text for n, graph in enumerate(made)]
    return "\n".join([before, *(part.removeprefix(before) for part in parts), EMPTY_MAIN[language]])


class Compiled(unittest.TestCase):
    def check(self, shape: str, language: str) -> None:
        for graph in demo_graphs():
            with self.subTest(graph.title):
                made = exported(graph, with_all(language, shape), {})
                compiled(made.text, DIALECTS[language])

    def test_wgsl_of_the_demo(self) -> None:
        for graph in demo_graphs():
            for shape in SHAPES:
                with self.subTest(graph.title, shape=shape):
                    device().create_shader_module(code=exported(graph, with_all("wgsl", shape), {}).text)

    def test_as_many_operations_in_every_language(self) -> None:
        """Over a third of the demo; in no graph more than a few that a language's own compiler adds."""
        languages = ("glsl", "glsl_vulkan", "hlsl")
        whole_demo = dict.fromkeys(languages, 0)
        for graph in demo_graphs()[::3]:
            counts = {
                language: operations(compiled(text_of(graph, Choices(language)), DIALECTS[language]))
                for language in languages
            }
            for language, count in counts.items():
                whole_demo[language] += count
                with self.subTest(graph.title, language=language):
                    self.assertLess(count / counts["glsl"], 1.05, f"{count} against {counts['glsl']}")
        for language, count in whole_demo.items():
            self.assertLess(abs(count / whole_demo["glsl"] - 1), 0.03, language)


for _shape in SHAPES:
    for _language in LANGUAGES:
        setattr(
            Compiled,
            f"test_the_demo_in_{_language}_{_shape}",
            lambda case, shape=_shape, language=_language: case.check(shape, language),
        )


class Executed(unittest.TestCase):
    def check(self, graph: Graph, language: int) -> None:
        """Every channel, at the pixels of a square; steps and noises may differ at single pixels."""
        for key, off in differences(graph, EXECUTED[language]).items():
            self.assertLess(float((off > VISIBLE).mean()), 1 - SHARE, f"{key} of {graph.title}")

    def demo(self, language: int, part: int) -> None:
        for number, graph in enumerate(demo_graphs()):
            if number % 3 == part and not graph.used_motifs():
                with self.subTest(graph.title):
                    self.check(graph, language)


class Random(unittest.TestCase):
    def check(self, language: str) -> None:
        """200 graphs as one text."""
        made = random_graphs()
        self.assertEqual(len(made), 200)
        text = texts_together(made, language)
        if language == "wgsl":
            device().create_shader_module(code=text)
        else:
            compiled(text, DIALECTS[language])


for _language in DIALECTS:
    setattr(Random, f"test_in_{_language}", lambda case, language=_language: case.check(language))
for _number in range(len(EXECUTED)):
    for _part in range(3):
        setattr(
            Executed,
            f"test_the_demo_in_{EXECUTED[_number].key}_{_part + 1}",
            lambda case, number=_number, part=_part: case.demo(number, part),
        )


class Names(unittest.TestCase):
    def test_no_word_of_the_artists_comes_into_a_text(self) -> None:
        for language in DIALECTS:
            plain = exported(enamel(), Choices(language), {}).text
            for word in HOSTILE:
                graph = enamel()
                graph = replace(
                    graph,
                    title=word,
                    nodes={key: replace(node, label=word) for key, node in graph.nodes.items()},
                    parameters=tuple(replace(p, name=word, help=word) for p in graph.parameters),
                )
                self.assertEqual(exported(graph, Choices(language), {}).text, plain)

    def test_wrong_choices_say_what_is_right(self) -> None:
        for choices in (
            Choices("cobol"),
            Choices(shape="round"),
            Choices(prefix=""),
            Choices(prefix="a__b"),
            Choices(prefix="x; }"),
            Choices(prefix="a" * 30),
            Choices("wgsl", reduced=True),
        ):
            with self.assertRaises(OperationRefused) as caught:
                exported(enamel(), choices, {})
            self.assertTrue(caught.exception.mend)


class Stated(unittest.TestCase):
    def test_the_record_on_the_page_is_of_what_there_is_now(self) -> None:
        """Where it is not: .venv/bin/python -m tests.proof."""
        nodes = sum(not kind.hidden for kind in CATALOGUE.values())
        self.assertEqual(proofs().keys(), DIALECTS.keys())
        for key, one in proofs().items():
            self.assertEqual((one.graphs, one.random, one.nodes, one.refused), (len(demo_graphs()), 200, nodes, 0), key)
            self.assertEqual(bool(one.values), DIALECTS[key] in EXECUTED)


class Switches(unittest.TestCase):
    def test_a_switch_gives_what_the_settled_toggle_gives(self) -> None:
        found = 0
        for graph in demo_graphs():
            toggles = [
                (p.node, p.input)
                for p in graph.parameters
                if graph.nodes[p.node].kind.inputs[p.input].type is P_BOOL and p.id not in graph.tracks_of("")
            ]
            if not toggles:
                continue
            found += 1
            switched, around = lowered_for_export(graph, "", switched=True).surface.channels, bindings(graph)
            for answer in (False, True):
                settled = graph
                for node, key in toggles:
                    one = settled.nodes[node]
                    settled = settled.with_node(replace(one, values={**one.values, key: (float(answer),)}))
                plain = lowered_for_export(settled, "").surface.channels
                uniforms = {**around.uniforms, **dict.fromkeys(toggles, np.array(answer))}
                made = evaluate(list(switched.values()), replace(around, uniforms=uniforms))
                for key, one, other in zip(switched, made, evaluate(list(plain.values()), around), strict=True):
                    np.testing.assert_array_equal(whole(one), whole(other), f"{key} of {graph.title}, {answer}")
            listed = exported(graph, Choices("hlsl", switches=True), {}).bound["switches"]
            self.assertTrue(listed and all(one["parameter"] and one["name"].isupper() for one in listed))
        self.assertGreater(found, 1)


class Lines(unittest.TestCase):
    def test_a_line_is_of_the_node_that_its_comment_names(self) -> None:
        graph = enamel()
        for language in DIALECTS:
            made = exported(graph, Choices(language), {})
            lines = made.text.split("\n")
            self.assertGreater(len(made.nodes), 8)
            for number, ids in made.nodes.items():
                names = {graph.nodes[id_].kind.name for id_ in ids}
                self.assertIn(lines[number - 1].rpartition("// ")[2], names)


class Package(unittest.TestCase):
    def test_all_that_is_bound_is_listed_and_fits_its_schema(self) -> None:
        with TemporaryDirectory() as name:
            folder = Path(name)
            folder.joinpath("enamel.json").write_text(write_graph_file(GraphFile(enamel())))
            code = main(
                [
                    "export",
                    str(folder / "enamel.json"),
                    "-o",
                    str(folder / "out"),
                    "--language",
                    "hlsl",
                    "--variant",
                    "Night ferry",
                    "--mesh",
                    "--entry",
                    "--reduced",
                    "--switches",
                ]
            )
            self.assertEqual(code, 0)
            data = json.loads((folder / "out/parameters.json").read_text())
            BOUND.validate_python(data)
            mesh = brought({"a.glb": (folder / "out/ferry_enamel.glb").read_bytes()}, "a.glb").mesh
            np.testing.assert_allclose([data["bounds"]["low"], data["bounds"]["high"]], mesh.box, atol=1e-5)
            self.assertEqual(json.loads((folder / "out/parameters.schema.json").read_text())["title"], "Bound")
            text = (folder / "out/ferry_enamel.hlsl").read_text()
            for one in [*data["values"], *data["textures"]]:
                self.assertIn(one["name"], text)
            members = {member for parameter in data["parameters"] for member in parameter["members"]}
            self.assertEqual({one["name"] for one in data["values"] if one["parameter"]} - members, set())
            tint = next(p for p in data["parameters"] if p["name"] == "Face tint")
            held = {v["name"]: v["value"] for v in data["values"]}
            np.testing.assert_allclose(held[tint["members"][0]], tint["variants"]["Night ferry"], atol=1e-6)
            self.assertEqual(data["entry"]["name"], "moth_pixel_shader")
            self.assertEqual(exported(enamel(), Choices(entry=True), {}).bound["entry"]["name"], "main")
            for one in data["entry"]["given"]:
                self.assertIn(f" {one['name']} : TEXCOORD", (folder / "out/ferry_enamel.hlsl").read_text())
            held = {key for target in data["entry"]["targets"] for key in target}
            self.assertEqual(held, {*data["results"]["moth_surface"]})
            self.assertLess(max(data["precision"]["errors"].values()), 1 / 255)
            self.assertIn("Everything of the graph is carried.", (folder / "out/readme.txt").read_text())

    def test_an_empty_graph_is_a_text_too(self) -> None:
        for language in LANGUAGES:
            graph = empty_graph("Nothing")
            compiled(text_of(graph, Choices(language)), DIALECTS[language])
