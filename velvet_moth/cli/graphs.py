"""Graph files as commands take them, with the textures, meshes and other graphs that come with them."""

import argparse
from collections.abc import Callable
from pathlib import Path

from velvet_moth.core.baking.levels import levels_of
from velvet_moth.core.baking.stack import EMPTY, baked, mesh_stack_from_json
from velvet_moth.core.baking.step import BakingContext
from velvet_moth.core.base.errors import FileRefused
from velvet_moth.core.document.graph import Graph
from velvet_moth.core.files.graph_json import GraphFile, read_graph_file
from velvet_moth.core.forms import Mesh
from velvet_moth.core.language.texture import Texture
from velvet_moth.core.making.exchange import layer_of
from velvet_moth.core.making.layer import Canvas, Layer
from velvet_moth.core.materialx.package import is_material, read_material
from velvet_moth.core.meshes.bringing import brought
from velvet_moth.core.pictures.formats import FORMATS, read_picture
from velvet_moth.core.pictures.levels import read_texture
from velvet_moth.core.workbench.session import GraphSource, MeshSource, TextureSource

PICTURE_SUFFIXES = frozenset(suffix for one in FORMATS.values() for suffix in one.suffixes)


def add_graph_options(parser: argparse.ArgumentParser) -> None:
    """The graph, one of its variants, and where to write."""
    parser.add_argument("graph", help="a graph file exported from a graph page, or a document of MaterialX")
    parser.add_argument("-o", dest="output", required=True, help="where to write")
    parser.add_argument("--variant", default="", help="a variant by name (default: the graph's defaults)")


def read_graph(path: str) -> GraphFile:
    """A graph file; FileRefused where it is none."""
    try:
        data = Path(path).read_bytes()
        if is_material(data, path):
            return read_material(data, Path(path).name, _beside(Path(path)))
        return read_graph_file(data, path)
    except OSError as error:
        raise FileRefused(f"The file cannot be read: {error.strerror}.", path, "Check the path.") from error


def _beside(path: Path) -> dict[str, bytes]:
    """The pictures in the folder of a document and in those right below it, by their paths from there."""
    found = [one for pattern in ("*", "*/*") for one in path.parent.glob(pattern) if one.is_file()]
    pictures = [one for one in found if one.suffix.lower() in PICTURE_SUFFIXES]
    return {one.relative_to(path.parent).as_posix(): one.read_bytes() for one in pictures}


def variant_of(graph: Graph, name: str) -> str:
    """The id of a variant by its id or name; "" for none."""
    if not name:
        return ""
    found = next((v.id for v in graph.variants if name in (v.id, v.name)), None)
    if found is None:
        known = ", ".join(v.name for v in graph.variants) or "none"
        raise FileRefused(f"There is no variant {name!r}.", graph.title, f"It has: {known}.")
    return found


def textures_of(file: GraphFile) -> TextureSource:
    """The textures that come with a file."""
    decoded: dict[str, Texture] = {}
    for key, texture in file.textures.items():
        decoded[key] = read_texture(read_picture(texture.file, texture.name)[0], texture.reading)
    return decoded.get


def meshes_of(file: GraphFile, number: int) -> MeshSource:
    """The meshes that come with a file, by their ids there, as their steps make them; of each the level of that number."""

    def layer(key: str) -> tuple[str, Callable[[], Layer]] | None:
        texture = file.textures.get(key)
        if texture is None:
            return None
        picture_, _ = read_picture(texture.file, texture.name)
        return key, lambda: layer_of(picture_, texture.reading, Canvas(*picture_.size))

    found: dict[str, Mesh] = {}
    if number and not file.graph.mesh:
        raise FileRefused("The graph stands on a form, which has no levels.", "--level", "Choose a mesh on its page.")
    for key in file.graph.referred("mesh") & file.meshes.keys():
        one = file.meshes[key]
        stack = mesh_stack_from_json(one.stack, f"meshes/{key}/stack") if one.stack is not None else EMPTY
        if number > len(stack.levels):
            what = f"The mesh {one.name} has no level {number}."
            raise FileRefused(what, f"meshes/{key}", f"It has {len(stack.levels)} beside the full one, which is 0.")
        mesh = baked(stack, brought({one.name: one.file}, one.name).mesh, key, BakingContext(layer))
        found[key] = levels_of(mesh, stack.levels[:number], stack.weights)[-1].mesh if number else mesh
    return found.get


def others_of(file: GraphFile, textures: TextureSource) -> GraphSource:
    """The graphs that come with a file for its backdrop to wear."""
    return lambda key: (file.graphs[key], textures) if key in file.graphs else None
