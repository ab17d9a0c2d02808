"""``./moth compile GRAPH``: the shader of a graph."""

import argparse
import json
import sys
from pathlib import Path

from velvet_moth.cli.command import Command
from velvet_moth.cli.graphs import add_graph_options, read_graph, variant_of
from velvet_moth.core.base.errors import FileRefused
from velvet_moth.core.lowering.lower import lower
from velvet_moth.core.render.binding_list import ReadTexture, binding_list, instance_files
from velvet_moth.core.render.shading import drawing
from velvet_moth.core.workbench.problems import beyond_devices, find_problems


def _options(parser: argparse.ArgumentParser) -> None:
    add_graph_options(parser)
    parser.add_argument(
        "--all-values", action="store_true", help="keep every value outside, not only those that parameters open"
    )


def compile_graph(options: argparse.Namespace) -> None:
    """Writes vertex.glsl, fragment.glsl and parameters.json, which says what an engine must bind.

    Of a graph with an emitter also the shaders that work out what each of its instances knows.
    """
    file = read_graph(options.graph)
    graph, variant = file.graph, variant_of(file.graph, options.variant)
    for problem in find_problems(lower(graph, variant), {}, variant):
        if problem.severity == "error":
            raise FileRefused(problem.what, problem.where, "Open the graph on its page and mend it.")
    lowered = lower(graph, variant, folded=not options.all_values)
    shader = drawing(lowered).shader
    for problem in beyond_devices(graph, shader):
        print(f"{problem.what}\n  cards: {problem.where}", file=sys.stderr)
    textures = {key: ReadTexture(t.name, t.reading) for key, t in file.textures.items()}
    out = binding_list(graph, shader, graph.uniform_values(variant), textures, variant)
    folder = Path(options.output)
    folder.mkdir(parents=True, exist_ok=True)
    instances = {name: one.fragment for name, one in instance_files(graph.emitter).items()}
    texts = {"vertex.glsl": shader.vertex, "fragment.glsl": shader.fragment, **instances}
    texts["parameters.json"] = json.dumps(out, indent=1) + "\n"
    for name, text in texts.items():
        (folder / name).write_text(text)
    print(f"{folder}: {', '.join(texts)}")


COMPILE = Command("compile", _options, compile_graph)
