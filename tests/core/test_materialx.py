"""Material documents: valid by the standard's library, there and back with the same values, what ships with the standard read."""

import subprocess
import tempfile
import unittest
from collections.abc import Hashable, Iterator, Mapping
from contextlib import contextmanager
from pathlib import Path

import MaterialX
import numpy as np
from MaterialX import PyMaterialXGenGlsl, PyMaterialXGenShader

from tests.support.cases import random_texture
from tests.support.graphs import MADE, TEXTURES, checked, demo_graphs, enamel
from velvet_moth.core.base.errors import FileRefused
from velvet_moth.core.catalogue.registry import CATALOGUE, NodeType
from velvet_moth.core.document.graph import Graph
from velvet_moth.core.exporting.exported import lowered_for_export
from velvet_moth.core.language.expr import PRIMITIVES, Array, Expr, Structural, inputs_of, reached
from velvet_moth.core.language.inputs import SURFACE_INPUTS, Bindings
from velvet_moth.core.language.interpreters.evaluate import evaluate, plan_of_function
from velvet_moth.core.language.texture import Texture
from velvet_moth.core.materialx.library import new_document, standard_library
from velvet_moth.core.materialx.reading import read_document
from velvet_moth.core.materialx.spelled import INPUTS
from velvet_moth.core.materialx.surface import CHANNELS
from velvet_moth.core.materialx.writing import MaterialDocument, Picture, written
from velvet_moth.core.render.tracing.scene import stage_textures
from velvet_moth.core.render.tracing.staged import uniform_arrays
from velvet_moth.core.workbench.session import picture
from velvet_moth.demo.sketch import Sketch

POINTS = 10_000
# Groups of nodes whose values are no numbers at a point of a plain surface.
ELSEWHERE = ("Surfaces", "Motifs", "Instances", "Decals", "Blocks")


def document_of(graph: Graph) -> MaterialDocument:
    pictures: dict[Hashable, Picture] = {}
    for place, _ in graph.own_textures():
        key = str(graph.nodes[place[0]].value(place[1]))
        if key in MADE:
            pictures[place] = Picture(f"textures/{key}.png", MADE[key].picture.size, MADE[key].reading.is_colour)
    return written(lowered_for_export(graph, ""), graph.uniform_values(), pictures)


@contextmanager
def without_what_it_cannot_say() -> Iterator[None]:
    """Randoms are the standard's own and neighbours are not compared: both are the same number everywhere. Pictures are read at

    their finest level.
    """
    names = ("cell_random", "along_x", "along_y", "between_rows")
    before = {name: PRIMITIVES[name].numpy for name in (*names, "sample")}
    sample = before["sample"]
    object.__setattr__(
        PRIMITIVES["sample"], "numpy", lambda a, given: sample([a[0], a[1], np.zeros((1, 1), dtype=np.float32)], given)
    )
    for name in names:
        half = np.float32(0.5 if name == "cell_random" else 0.0)
        object.__setattr__(PRIMITIVES[name], "numpy", lambda a, _, half=half: np.full_like(np.asarray(a[0]), half))
    plan_of_function.cache_clear()
    try:
        yield
    finally:
        for name, rule in before.items():
            object.__setattr__(PRIMITIVES[name], "numpy", rule)
        plan_of_function.cache_clear()


def points() -> dict[str, Array]:
    """Random surface points, (components, 1, points), with unit directions, and a tangent square to its normal."""
    random = np.random.default_rng(4)
    found: dict[str, Array] = {}
    for name, declared in SURFACE_INPUTS.items():
        low, high = max(declared.bound.low, -2.0), min(declared.bound.high, 2.0)
        values = random.uniform(low, high, (declared.type.width, 1, POINTS)).astype(np.float32)
        if declared.bound.low == -1.0 and len(values) >= 3:
            values[:3] /= np.linalg.norm(values[:3], axis=0)
        found[name] = values[0] if len(values) == 1 else values
    found["moved_normal"], found["moved_position"] = found["normal"], found["position"]
    t = found["tangent"][:3] - found["normal"] * np.sum(found["tangent"][:3] * found["normal"], axis=0)
    found["tangent"] = np.concatenate((t / np.linalg.norm(t, axis=0), np.sign(found["tangent"][3:])))
    return found


def is_said(expr: Expr) -> bool:
    """Whether a document has all that an expression reads. Normals of the form itself are read back as those in the world."""
    stage = any(e.operator is Structural.SAMPLER and isinstance(e.attributes[0], str) for e in reached([expr]))
    return not stage and inputs_of([expr]) <= INPUTS.keys() - {"object_normal"}


def bound(graph: Graph, textures: Mapping[str, Texture]) -> tuple[dict[Hashable, Array], dict[Hashable, Texture]]:
    found: dict[Hashable, Texture] = {**stage_textures()}
    for place, _ in graph.own_textures():
        found[place] = textures.get(str(graph.nodes[place[0]].value(place[1])), random_texture())
    return uniform_arrays(graph.uniform_values()), found


class ThereAndBack(unittest.TestCase):
    def check(self, graph: Graph) -> int:
        """The same values in every channel that the document has; so many were compared."""
        document = document_of(graph)
        back = read_document(document.text, "a.mtlx")
        self.assertFalse([words for words in back.words if "placeholder" in words])
        opened = {one.name: one for one in graph.parameters}
        for one in back.graph.parameters:
            was = opened[one.name.removesuffix(f" {one.name[-1]}") if one.name not in opened else one.name]
            self.assertEqual((one.group, one.help), (was.group, was.help))
        first, second = (lowered_for_export(one, "").surface for one in (graph, back.graph))
        keys = [k for k in (*CHANNELS, "offset") if not first.is_default(k) and is_said(first[k])]
        if graph.kind == "unlit":
            keys = [k for k in keys if k == "opacity"]
        read = {key: TEXTURES[Path(path).stem] for key, (path, _) in back.files.items()}
        with without_what_it_cannot_say():
            around = points()
            wanted = evaluate([first[key] for key in keys], Bindings(around, *bound(graph, TEXTURES)))
            found = evaluate([second[key] for key in keys], Bindings(around, *bound(back.graph, read)))
        for key, a, b in zip(keys, wanted, found, strict=True):
            far = np.abs(a - b) / np.maximum(1.0, np.abs(a))
            # Where there are steps, a rounding decides.
            self.assertLess(float((far > 1e-3).mean()), 0.002, f"{key} of {graph.title}: {far.max()}")
            self.assertLess(float(np.median(far)), 1e-5, f"{key} of {graph.title}")
        return len(keys)

    def demo(self, part: int) -> None:
        compared = 0
        for graph in demo_graphs()[part::3]:
            with self.subTest(graph.title):
                compared += self.check(graph)
        self.assertGreater(compared, 20)

    def nodes(self, part: int) -> None:
        """Every output that gives a number or three, of every third node."""
        kinds = [kind for kind in CATALOGUE.values() if kind.group not in ELSEWHERE]
        self.assertGreater(sum(self.node(kind) for kind in kinds[part::3]), 30)

    def node(self, kind: NodeType) -> int:
        textures = {key: "flake_normal" for key, one in kind.inputs.items() if one.type.name == "texture"}
        compared = 0
        for key, output in kind.outputs.items():
            channel = {1: "roughness", 3: "base_colour"}.get(output.type.value.width if output.type.value else 1)
            if channel is None or output.type.name == "bool":
                continue
            s = Sketch(kind.name)
            s.add("n", kind.key, "", None, **textures)
            s.dock(**{"normal" if key == "normal" else channel: f"@n.{key}"})
            with self.subTest(kind.name, output=key):
                compared += self.check(checked(s.graph()))
        return compared


for _part in range(3):
    setattr(ThereAndBack, f"test_demo_{_part}", lambda case, part=_part: case.demo(part))
    setattr(ThereAndBack, f"test_nodes_{_part}", lambda case, part=_part: case.nodes(part))


class OfTheStandard(unittest.TestCase):
    def one(self, category: str, kind: str, channel: str, **inputs: tuple[str, str]) -> Array:
        """What a document of one node gives at points, once it is read."""
        document = MaterialX.createDocument()
        inside = document.addNodeGraph("inside")
        node = inside.addNode(category, "node", kind)
        for name, (type_, value) in inputs.items():
            node.addInput(name, type_).setValueString(value)
        if kind == "vector2":
            inside.addNode("convert", "wide", "vector3").addInput("in", kind).setNodeName("node")
        inside.addOutput("out", kind).setNodeName("wide" if kind == "vector2" else "node")
        shader = document.addNode("gltf_pbr", "made", "surfaceshader")
        end = shader.addInput(CHANNELS[channel].input, kind)
        end.setNodeGraphString("inside")
        end.setOutputString("out")
        document.addNode("surfacematerial", "m", "material").addInput("surfaceshader", "surfaceshader").setNodeName(
            "made"
        )
        back = read_document(MaterialX.writeToXmlString(document), "a.mtlx")
        self.assertFalse([words for words in back.words if "placeholder" in words])
        around = Bindings(points(), *bound(back.graph, {}))
        return evaluate([lowered_for_export(back.graph, "").surface[channel]], around)[0]

    def test_single_nodes_are_what_the_standard_says(self) -> None:
        """Held against its formulas, for what turns, compares, and goes by angles."""
        cases = (
            ("rotate2d", "vector2", {"in": ("vector2", "1, 0"), "amount": ("float", "90")}, (0.0, -1.0)),
            (
                "rotate3d",
                "vector3",
                {"in": ("vector3", "1, 0, 0"), "amount": ("float", "90"), "axis": ("vector3", "0, 0, 1")},
                (0.0, -1.0, 0.0),
            ),
            ("atan2", "float", {"iny": ("float", "1"), "inx": ("float", "-1")}, (2.3561945,)),
            ("asin", "float", {"in": ("float", "0.5")}, (0.5235988,)),
            ("tan", "float", {"in": ("float", "0.6")}, (0.6841368,)),
            (
                "ifgreatereq",
                "float",
                {
                    "value1": ("float", "2"),
                    "value2": ("float", "2"),
                    "in1": ("float", "0.25"),
                    "in2": ("float", "0.75"),
                },
                (0.25,),
            ),
            (
                "ifequal",
                "float",
                {
                    "value1": ("float", "2"),
                    "value2": ("float", "3"),
                    "in1": ("float", "0.25"),
                    "in2": ("float", "0.75"),
                },
                (0.75,),
            ),
            (
                "remap",
                "float",
                {
                    "in": ("float", "0.25"),
                    "inlow": ("float", "0"),
                    "inhigh": ("float", "0.5"),
                    "outlow": ("float", "2"),
                    "outhigh": ("float", "4"),
                },
                (3.0,),
            ),
            ("screen", "float", {"fg": ("float", "0.5"), "bg": ("float", "0.5"), "mix": ("float", "0.5")}, (0.625,)),
            ("hsvtorgb", "color3", {"in": ("color3", "0.333333343, 1, 0.5")}, (0.0, 0.5, 0.0)),
            (
                "contrast",
                "float",
                {"in": ("float", "0.75"), "amount": ("float", "2"), "pivot": ("float", "0.5")},
                (1.0,),
            ),
            ("reflect", "vector3", {"in": ("vector3", "1, -1, 0"), "normal": ("vector3", "0, 1, 0")}, (1.0, 1.0, 0.0)),
        )
        for category, kind, inputs, wanted in cases:
            with self.subTest(category):
                channel = "roughness" if len(wanted) == 1 else "base_colour"
                found = np.broadcast_to(
                    self.one(category, kind, channel, **inputs), (1 if len(wanted) == 1 else 3, 1, POINTS)
                )
                np.testing.assert_allclose(found[: len(wanted), 0, 0], wanted, atol=2e-5)

    def test_other_surfaces_are_read_as_the_standard_says_them(self) -> None:
        named = {
            "standard_surface": ("base_color", "metalness", "specular_roughness"),
            "UsdPreviewSurface": ("diffuseColor", "metallic", "roughness"),
        }
        for category, names in named.items():
            with self.subTest(category):
                document = MaterialX.createDocument()
                shader = document.addNode(category, "made", "surfaceshader")
                for name, value in zip(names, ("0.8, 0.2, 0.1", "1", "0.3"), strict=True):
                    shader.addInput(name, "color3" if "," in value else "float").setValueString(value)
                if category == "standard_surface":
                    shader.addInput("base", "float").setValueString("1")
                material = document.addNode("surfacematerial", "m", "material")
                material.addInput("surfaceshader", "surfaceshader").setNodeName("made")
                back = read_document(MaterialX.writeToXmlString(document), "a.mtlx")
                self.assertFalse([words for words in back.words if "placeholder" in words])
                surface = lowered_for_export(back.graph, "").surface
                keys = ("base_colour", "metallic", "roughness", "clear_coat", "opacity")
                found = evaluate([surface[key] for key in keys], Bindings(points()))
                for one, wanted in zip(found, ((0.8, 0.2, 0.1), (1.0,), (0.3,), (0.0,), (1.0,)), strict=True):
                    held = np.broadcast_to(one, (len(wanted), 1, POINTS))[:, 0, 0]
                    np.testing.assert_allclose(held, wanted, atol=1e-5)

    def test_what_ships_with_it_is_read_and_rendered(self) -> None:
        """Twelve of the graphs in its own documents, each as a material: no placeholders, and there is something to see."""
        shipped = (
            *("checkerboard", "line", "circle", "cloverleaf", "hexagon", "grid", "crosshatch", "tiledcircles"),
            *("tiledhexagons", "ramp4", "unifiednoise3d", "randomcolor"),
        )
        for category in shipped:
            with self.subTest(category):
                kind = standard_library().getMatchingNodeDefs(category)[0].getType()
                back = read_document(_material_of(category, kind), "a.mtlx")
                self.assertFalse([words for words in back.words if "placeholder" in words], back.words)
                seen = picture(checked(back.graph), (48, 48), TEXTURES.get)
                self.assertGreater(np.ptp(seen[seen[..., 3] > 0][:, :3]), 20)

    def test_its_generator_makes_glsl_that_is_accepted(self) -> None:
        generator = PyMaterialXGenGlsl.GlslShaderGenerator.create()
        stages = {PyMaterialXGenShader.VERTEX_STAGE: "vert", PyMaterialXGenShader.PIXEL_STAGE: "frag"}
        for graph in demo_graphs()[::3]:
            with self.subTest(graph.title), tempfile.TemporaryDirectory() as folder:
                made = new_document()
                MaterialX.readFromXmlString(made, document_of(graph).text)
                made.importLibrary(standard_library())
                context = PyMaterialXGenShader.GenContext(generator)
                context.registerSourceCodeSearchPath(MaterialX.getDefaultDataSearchPath())
                shader = generator.generate("made", made.getMaterialNodes()[0], context)
                for stage, suffix in stages.items():
                    file = Path(folder, f"a.{suffix}")
                    file.write_text(shader.getSourceCode(stage))
                    subprocess.run(["glslangValidator", str(file)], check=True, capture_output=True)


def _material_of(category: str, kind: str) -> str:
    """A document whose base colour is one of the standard's own graphs, as it stands."""
    document = MaterialX.createDocument()
    inside = document.addNodeGraph("inside")
    inside.addNode(category, "node", kind)
    last = "node"
    if kind != "color3":
        inside.addNode("convert", "colour", "color3").addInput("in", kind).setNodeName("node")
        last = "colour"
    inside.addOutput("out", "color3").setNodeName(last)
    shader = document.addNode("gltf_pbr", "made", "surfaceshader")
    end = shader.addInput("base_color", "color3")
    end.setNodeGraphString("inside")
    end.setOutputString("out")
    document.addNode("surfacematerial", "m", "material").addInput("surfaceshader", "surfaceshader").setNodeName("made")
    return str(MaterialX.writeToXmlString(document))


class Reading(unittest.TestCase):
    def test_long_chains_fronts_and_greens_that_point_down(self) -> None:
        s = Sketch("chain")
        s.add("side", "face_side")
        s.add("step_0", "multiply", a="@side.front", b=1.0)
        for number in range(1, 900):
            s.add(f"step_{number}", "sine", value=f"@step_{number - 1}.result", frequency=0.1)
        s.add("map", "texture", texture="flake_normal")
        s.dock(roughness="@side.front", metallic="@step_899.result", occlusion="@map.green")
        graph = checked(s.graph())
        pictures: dict[Hashable, Picture] = {("map", "texture"): Picture("textures/a.png", (512, 512), False, True)}
        document = written(lowered_for_export(graph, ""), graph.uniform_values(), pictures)
        back = lowered_for_export(read_document(document.text, "a.mtlx").graph, "").surface
        with without_what_it_cannot_say():
            around, one = Bindings(points(), {}, {}), np.float32(1)
            self.assertEqual(np.ravel(evaluate([back["roughness"]], around)[0])[0], one)
            texture = TEXTURES["flake_normal"]
            key = next(e.attributes[0] for e in reached([back["occlusion"]]) if e.operator is Structural.SAMPLER)
            found = evaluate([back["occlusion"]], Bindings(points(), {}, {key: texture}))[0]
            wanted = 1 - texture.sample(points()["uv"], np.zeros((1, 1), dtype=np.float32))[1]
            np.testing.assert_allclose(found, wanted, atol=1e-5)


class Refusals(unittest.TestCase):
    def test_what_is_no_material_is_refused_in_words(self) -> None:
        for text in (
            "",
            "no",
            "<a",
            "<materialx version='1.39'/>",
            "<!DOCTYPE x [<!ENTITY a 'b'>]><materialx>&a;</materialx>",
        ):
            with self.subTest(text), self.assertRaises(FileRefused) as caught:
                read_document(text, "a.mtlx")
            self.assertTrue(caught.exception.mend)

    def test_nothing_that_it_names_is_opened(self) -> None:
        text = document_of(enamel()).text
        with tempfile.NamedTemporaryFile("w", suffix=".mtlx") as file:
            file.write("<materialx version='1.39'><gltf_pbr name='stolen' type='surfaceshader'/></materialx>")
            file.flush()
            include = f"<xi:include xmlns:xi='http://www.w3.org/2001/XInclude' href='{file.name}'/>"
            back = read_document(text.replace("<nodegraph", f"{include}<nodegraph", 1), "a.mtlx")
        self.assertEqual(back.graph.title, "ferry enamel")

    def test_what_is_not_known_keeps_its_wiring(self) -> None:
        text = (
            document_of(enamel()).text.replace("<normalize ", "<unheard_of ").replace("</normalize>", "</unheard_of>")
        )
        back = read_document(text, "a.mtlx")
        stood = [node for node in back.graph.nodes.values() if node.outline and "unheard_of" in node.type]
        self.assertTrue(stood)
        read = {source.node for node in back.graph.nodes.values() for source in node.wires.values()}
        for node in stood:
            self.assertIn("in", node.wires)
            self.assertIn(node.id, read)


if __name__ == "__main__":
    unittest.main()
