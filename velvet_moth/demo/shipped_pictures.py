"""Small pictures of the demo's graphs, so that a first library has them at once. ``./moth pictures`` makes them.

Each says what it was made from; one of another demo does not stand in.
"""

import hashlib
import io
import json
from collections.abc import Iterator
from functools import cache
from pathlib import Path

from PIL import Image
from PIL.PngImagePlugin import PngInfo

from velvet_moth.core.document.graph import Graph
from velvet_moth.core.files.graph_json import graph_to_json
from velvet_moth.core.forms import Mesh
from velvet_moth.core.language.texture import Texture
from velvet_moth.core.pictures.levels import read_texture
from velvet_moth.core.workbench.session import TextureSource, picture
from velvet_moth.demo.contents import demo_textures, named_graphs
from velvet_moth.demo.meshes import DEMO_MESHES
from velvet_moth.demo.textures import STACKS

FOLDER = Path(__file__).parent / "pictures"
SIZE = (320, 200)
COLOURS = 256
# What a picture that came with the program is kept as made by.
BY = "shipped"
_MADE_FROM = "made-from"


def made_from(name: str) -> str:
    """Tells every state of a graph of the demo, and of what it reads, apart."""
    graphs = named_graphs()
    every = [graphs[name], *(graphs[key] for key in sorted(graphs[name].referred("graph")))]
    stacks = {f"mesh_{key}": mesh.stack for key, mesh in DEMO_MESHES.items()}
    on = {key: stacks[key] for key in graphs[name].referred("mesh")}
    text = json.dumps([[graph_to_json(graph) for graph in every], STACKS, *([on] if on else [])], sort_keys=True)
    return hashlib.sha256(text.encode()).hexdigest()


def shipped(name: str) -> bytes | None:
    """The PNG of a graph; None where there is none of the graph as it is now."""
    path = FOLDER / f"{name}.png"
    if not path.is_file():
        return None
    data = path.read_bytes()
    with Image.open(io.BytesIO(data)) as found:
        return data if found.info.get(_MADE_FROM) == made_from(name) else None


@cache
def demo_mesh(key: str) -> Mesh | None:
    """A mesh of the demo as it is baked, by what graphs call it; None where there is none."""
    found = DEMO_MESHES.get(key.removeprefix("mesh_"))
    return found.baked() if found else None


def make() -> Iterator[str]:
    """Paints what is missing or old, and gives the names of the graphs that were painted."""
    textures: dict[str, Texture] = {}

    def others(key: str) -> tuple[Graph, TextureSource]:
        return named_graphs()[key], textures.get

    for name, graph in named_graphs().items():
        if shipped(name) is not None:
            continue
        textures = textures or {key: read_texture(t.picture, t.reading) for key, t in demo_textures().items()}
        pixels = picture(graph, SIZE, textures.get, graphs=others, meshes=demo_mesh)
        # A quarter of the size, and hardly seen: it stands in for half a minute.
        image = Image.fromarray(pixels[::-1, :, :3]).quantize(COLOURS, dither=Image.Dither.FLOYDSTEINBERG)
        info = PngInfo()
        info.add_text(_MADE_FROM, made_from(name))
        image.save(FOLDER / f"{name}.png", optimize=True, pnginfo=info)
        yield name


if __name__ == "__main__":
    for name in make():
        print(f"painted {name}", flush=True)
