"""``./moth render GRAPH``: pictures and films of a graph, by NumPy."""

import argparse
import math
import sys
from dataclasses import replace
from pathlib import Path

from velvet_moth.cli import films
from velvet_moth.cli.command import Command
from velvet_moth.cli.graphs import add_graph_options, meshes_of, others_of, read_graph, textures_of, variant_of
from velvet_moth.core.baking.levels import MOST_LEVELS
from velvet_moth.core.forms import FORMS
from velvet_moth.core.lighting.rigs import RIGS
from velvet_moth.core.pictures.formats import write_png
from velvet_moth.core.render.tracing.scene import Scene
from velvet_moth.core.workbench.filming import beside
from velvet_moth.core.workbench.session import picture


def _options(parser: argparse.ArgumentParser) -> None:
    add_graph_options(parser)
    parser.add_argument("--size", type=_size, default=(256, 256), metavar="512 or 640x360")
    parser.add_argument("--time", type=float, default=0.0, help="the moment that is shown, in seconds")
    films.add_options(parser)
    parser.add_argument(
        "--form", default="", help=f"{', '.join(FORMS)}; plane:24 of 24 cells (default: the graph's own)"
    )
    parser.add_argument("--rig", default="", choices=list(RIGS), help="the light (default: the graph's own)")
    parser.add_argument(
        "--level",
        type=int,
        default=0,
        choices=range(MOST_LEVELS + 1),
        help="of detail of its mesh (default: 0, the full one)",
    )
    parser.add_argument("--sheet", action="store_true", help="the defaults and every variant, side by side")


def _size(text: str) -> tuple[int, int]:
    """Width and height of a picture, from "512" or "640x360"."""
    wide, by, high = text.lower().partition("x")
    size = int(wide), int(high if by else wide)
    if not all(16 <= side <= 4096 for side in size):
        raise argparse.ArgumentTypeError("a side has 16 to 4096 pixels")
    return size


def render_graph(options: argparse.Namespace) -> None:
    """Writes the NumPy reference picture as PNG with alpha; or all variants side by side; or a film."""
    file = read_graph(options.graph)
    graph, textures = file.graph, textures_of(file)
    meshes = meshes_of(file, options.level)
    stood = replace(graph, form=options.form or graph.form, mesh="" if options.form else graph.mesh)
    stood = replace(stood, rig=options.rig or graph.rig)
    keys = ["", *(v.id for v in graph.variants)] if options.sheet else [variant_of(graph, options.variant)]
    size, others = options.size, others_of(file, textures)
    if options.frames:
        film = films.film_of(options, stood, size, tuple(keys))
        return films.write(options, film, stood, textures, others, meshes)
    pictures = []
    for at, key in enumerate(keys, start=1):
        # Apart from what the command answers: a picture of a thousand pixels takes most of a minute.
        print(f"drawing {at} of {len(keys)}, {size[0]} x {size[1]}", file=sys.stderr, flush=True)
        scene = Scene.of_graph(stood, meshes(stood.mesh), key, options.time)
        pictures.append(picture(stood, size, textures, key, scene, others, meshes))
    whole = beside(pictures, math.ceil(math.sqrt(len(pictures))))
    Path(options.output).write_bytes(write_png(whole))
    names = ["defaults", *(v.name for v in graph.variants)] if options.sheet else []
    print(f"{options.output}: {whole.shape[1]} x {whole.shape[0]}{': ' if names else ''}{', '.join(names)}")


RENDER = Command("render", _options, render_graph)
