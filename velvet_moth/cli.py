"""Commands without a server: compile a graph file to GLSL, render its reference picture, make textures, convert meshes."""

import argparse
import json
import math
import sys
from collections.abc import Callable
from dataclasses import replace
from pathlib import Path
from typing import Any

import velvet_moth.core.nodes  # noqa: F401 - fills the catalogue
from velvet_moth import cli_film
from velvet_moth.core.baking.levels import MOST_LEVELS, Level, levels_of, words_of
from velvet_moth.core.baking.over_uvs import flow_over_uvs, stack_over_uvs
from velvet_moth.core.baking.stack import EMPTY, MeshStack, baked, mesh_stack_from_json
from velvet_moth.core.baking.step import BakingContext
from velvet_moth.core.base.errors import FileRefused, MothError
from velvet_moth.core.document.graph import Graph
from velvet_moth.core.files.graph_json import GraphFile, read_graph_file
from velvet_moth.core.forms import FORMS, Mesh
from velvet_moth.core.language.texture import Texture
from velvet_moth.core.lighting.rigs import RIGS
from velvet_moth.core.lowering.lower import lower
from velvet_moth.core.making.exchange import layer_of, picture_of
from velvet_moth.core.making.layer import Canvas, Layer
from velvet_moth.core.making.recipe import MakingContext, evaluate, recipe_from_json
from velvet_moth.core.meshes.bringing import brought
from velvet_moth.core.meshes.formats import FORMATS as MESH_FORMATS
from velvet_moth.core.meshes.intake import as_source
from velvet_moth.core.meshes.orient import METRES, UPS
from velvet_moth.core.meshes.source import DEPTHS, SourceMesh
from velvet_moth.core.pictures.convert import as_files, fitted, one_channel
from velvet_moth.core.pictures.formats import FORMATS, WRITABLE, read_picture, write_picture, write_png
from velvet_moth.core.pictures.levels import read_texture
from velvet_moth.core.pictures.library import NamedPicture
from velvet_moth.core.pictures.reading import Reading
from velvet_moth.core.render.binding_list import ReadTexture, binding_list, instance_files
from velvet_moth.core.render.shading import drawing
from velvet_moth.core.render.tracing.scene import Scene
from velvet_moth.core.workbench.filming import beside
from velvet_moth.core.workbench.problems import beyond_devices, find_problems
from velvet_moth.core.workbench.session import GraphSource, MeshSource, TextureSource, picture


def _read(path: str) -> GraphFile:
    try:
        return read_graph_file(Path(path).read_bytes(), path)
    except OSError as error:
        raise FileRefused(f"The file cannot be read: {error.strerror}.", path, "Check the path.") from error


def _variant(graph: Graph, name: str) -> str:
    if not name:
        return ""
    found = next((v.id for v in graph.variants if name in (v.id, v.name)), None)
    if found is None:
        known = ", ".join(v.name for v in graph.variants) or "none"
        raise FileRefused(f"There is no variant {name!r}.", graph.title, f"It has: {known}.")
    return found


def _textures(file: GraphFile) -> TextureSource:
    decoded: dict[str, Texture] = {}
    for key, texture in file.textures.items():
        decoded[key] = read_texture(read_picture(texture.file, texture.name)[0], texture.reading)
    return decoded.get


def compile_graph(options: argparse.Namespace) -> None:
    """Writes vertex.glsl, fragment.glsl and parameters.json, which says what an engine must bind.

    Of a graph with an emitter also the shaders that work out what each of its instances knows.
    """
    file = _read(options.graph)
    graph, variant = file.graph, _variant(file.graph, options.variant)
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


def render_graph(options: argparse.Namespace) -> None:
    """Writes the NumPy reference picture as PNG with alpha; or all variants side by side; or a film."""
    file = _read(options.graph)
    graph, textures = file.graph, _textures(file)
    meshes = _meshes(file, options.level)
    stood = replace(graph, form=options.form or graph.form, mesh="" if options.form else graph.mesh)
    stood = replace(stood, rig=options.rig or graph.rig)
    keys = ["", *(v.id for v in graph.variants)] if options.sheet else [_variant(graph, options.variant)]
    size, others = options.size, _others(file, textures)
    if options.frames:
        film = cli_film.film_of(options, stood, size, tuple(keys))
        return cli_film.write(options, film, stood, textures, others, meshes)
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


def _meshes(file: GraphFile, number: int) -> MeshSource:
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


def _others(file: GraphFile, textures: TextureSource) -> GraphSource:
    """The graphs that come with a file for its backdrop to wear."""
    return lambda key: (file.graphs[key], textures) if key in file.graphs else None


def _size(text: str) -> tuple[int, int]:
    """Width and height of a picture, from "512" or "640x360"."""
    wide, by, high = text.lower().partition("x")
    size = int(wide), int(high if by else wide)
    if not all(16 <= side <= 4096 for side in size):
        raise argparse.ArgumentTypeError("a side has 16 to 4096 pixels")
    return size


def _stacked(source: Path, stack: str, mesh: Mesh) -> tuple[Mesh, MeshStack]:
    """A mesh as the steps of a file make it, and these steps; the mesh itself and no steps without a file."""
    if not stack:
        return mesh, MeshStack("none")
    found = mesh_stack_from_json(_json(Path(stack)), stack)
    return baked(found, mesh, str(source), BakingContext()), found


def bake_texture(options: argparse.Namespace, source: Path, output: Path) -> None:
    """Bakes channels of a mesh, or the directions of a step, to a picture over its UVs."""
    mesh = brought(_beside(source), source.name).mesh
    stack = mesh_stack_from_json(_json(Path(options.stack)), options.stack) if options.stack else EMPTY
    key = next((k for k in WRITABLE if output.suffix.lower() in FORMATS[k].suffixes), "")
    if not key:
        raise FileRefused("Its name does not say which format to write.", options.output, f"Use {_suffixes()}.")
    channels = tuple((options.channel or "red").split(","))
    on = stack, mesh, str(source), BakingContext()
    if options.flow:
        layer = flow_over_uvs(*on, options.flow, options.size, options.padding)
    else:
        layer = stack_over_uvs(*on, channels, options.size, options.padding)
    output.write_bytes(write_picture(fitted(picture_of(layer, "16 bit" if key == "png" else "half float"), key), key))
    what = f"directions of {options.flow}, along U in red and along V in green" if options.flow else ", ".join(channels)
    print(f"{output}: {what}, {options.size} x {options.size}")


def make_textures(options: argparse.Namespace) -> None:
    """Makes the textures of a stack of steps (JSON), bakes channels of a mesh, or writes a picture in another format."""
    source = Path(options.source)
    try:
        data = source.read_bytes()
    except OSError as error:
        raise FileRefused(f"The file cannot be read: {error.strerror}.", options.source, "Check the path.") from error
    output = Path(options.output)
    if any(source.suffix.lower() in made.suffixes for made in MESH_FORMATS.values()):
        return bake_texture(options, source, output)
    if source.suffix != ".json":
        picture_, _ = read_picture(data, source.name)
        key = next((k for k in WRITABLE if output.suffix.lower() in FORMATS[k].suffixes), "")
        if not key:
            raise FileRefused("Its name does not say which format to write.", options.output, f"Use {_suffixes()}.")
        kept = one_channel(picture_, options.channel) if options.channel else picture_
        output.write_bytes(write_picture(fitted(kept, key), key))
        print(f"{output}: {FORMATS[key].name}, {kept.size[0]} x {kept.size[1]}")
        return
    recipe = recipe_from_json(_json(source), options.source)
    layers = evaluate(recipe, recipe.canvas, MakingContext(lambda key, canvas: None), {o.step for o in recipe.outputs})
    made = [
        NamedPicture(o.name, Reading(layers[o.step][o.layer].role), picture_of(layers[o.step][o.layer], o.depth))
        for o in recipe.outputs
    ]
    output.mkdir(parents=True, exist_ok=True)
    for (name, data), texture in zip(as_files(made, options.format, options.names), made, strict=True):
        (output / name).write_bytes(data)
        print(f"{output / name}: read it as {texture.reading.role}")


def _beside(source: Path) -> dict[str, bytes]:
    """A mesh's file with those it may refer to."""
    beside = [path for path in source.parent.glob("*.bin")] if source.suffix.lower() == ".gltf" else []
    try:
        return {path.name: path.read_bytes() for path in (source, *beside)}
    except OSError as error:
        raise FileRefused(f"The file cannot be read: {error.strerror}.", str(source), "Check the path.") from error


def convert_mesh(options: argparse.Namespace) -> None:
    """Reads a mesh, says what is worth knowing about it, and writes it in metres with y up where an output is named."""
    source = Path(options.source)
    files = _beside(source)
    found = brought(files, source.name)
    if options.up or options.unit:
        reading = replace(found.reading, up=options.up or found.reading.up, unit=options.unit or found.reading.unit)
        found = brought(files, source.name, reading)
    facts = found.facts
    print(f"{source}: {facts.vertices} vertices, {facts.triangles} triangles, {facts.pieces} pieces")
    for words in (*found.notes, *(verdict.words for verdict in facts.verdicts)):
        print(f"  {words}")
    if not options.output:
        return
    output = Path(options.output)
    mesh, has_uvs = found.mesh, found.has_uvs
    levels: tuple[Level, ...] = ()
    if options.stack:
        mesh, stack = _stacked(source, options.stack, mesh)
        has_uvs = bool(mesh.uvs.any())
        print(f"  {len(mesh.positions)} vertices, {len(mesh.triangles)} triangles after {len(stack.steps)} steps")
        for place, name in (mesh.carried or {}).items():
            print(f"  {place}: {name or 'as in the file'}")
        levels = levels_of(mesh, stack.levels, stack.weights) if stack.levels else ()
        for number, level in enumerate(levels):
            print(f"  level {number + 1}: {len(level.mesh.triangles)} triangles, {level.error * 1000:.2g} mm off")
            for loss in level.losses:
                words = words_of(number, loss, (mesh.carried or {}).get(loss.channel, ""))
                print(f"    {words or f'{loss.channel} loses {loss.rms:.3f}'}")
    made = next((f for f in MESH_FORMATS.values() if output.suffix.lower() in f.suffixes), None)
    if made is None:
        known = ", ".join(f.suffixes[0] for f in MESH_FORMATS.values())
        raise FileRefused("Its name does not say which format to write.", options.output, f"Use {known}.")

    def written(one: Mesh) -> SourceMesh:
        source = replace(as_source(one), depth=options.depth or found.depth or "float")
        return source if has_uvs else replace(source, uvs=None)

    output.write_bytes(made.written(written(mesh), [written(level.mesh) for level in levels]))
    print(f"{output}: {made.name}, keeps {made.keeps}")


def _json(path: Path) -> Any:
    """The plain data of a stack that was saved from a room."""
    try:
        return json.loads(path.read_bytes())
    except OSError as error:
        raise FileRefused(f"The file cannot be read: {error.strerror}.", str(path), "Check the path.") from error
    except ValueError as error:
        raise FileRefused(f"This is not JSON: {error}.", str(path), "Save the stack again.") from error


def _suffixes() -> str:
    return ", ".join(FORMATS[key].suffixes[0] for key in WRITABLE)


def main(arguments: list[str]) -> int:
    parser = argparse.ArgumentParser(prog="./moth")
    commands = parser.add_subparsers(required=True)
    compiling = commands.add_parser("compile", help=compile_graph.__doc__)
    rendering = commands.add_parser("render", help=render_graph.__doc__)
    making = commands.add_parser("texture", help=make_textures.__doc__)
    making.add_argument("source", help="a stack of steps saved from the room of textures (.json), a mesh, or a picture")
    making.add_argument("-o", dest="output", required=True, help="the folder to write to, or the picture")
    making.add_argument("--format", default="png", choices=WRITABLE, help="of the textures of a stack")
    making.add_argument(
        "--names", default="{name}_{role}", help="pattern of their file names: {name} {role} {width} {height}"
    )
    making.add_argument(
        "--channel",
        default="",
        help='only this channel of a picture: red, green, blue, alpha or grey; of a mesh up to four, as "red,second green"',
    )
    making.add_argument(
        "--stack", default="", help="steps on a mesh saved from the room of meshes (.json), baked before"
    )
    making.add_argument(
        "--flow", default="", metavar="STEP", help="the id of a step on a mesh whose directions are baked"
    )
    making.add_argument("--size", type=int, default=1024, choices=range(16, 8193), metavar="16..8192", help="of a bake")
    making.add_argument("--padding", type=int, default=8, help="pixels around the islands of a bake")
    making.set_defaults(run=make_textures)
    converting = commands.add_parser("mesh", help=convert_mesh.__doc__)
    converting.add_argument("source", help="a mesh: glTF or GLB, OBJ, PLY")
    converting.add_argument("-o", dest="output", default="", help="the file to write (.glb, .obj, .ply)")
    converting.add_argument("--up", default="", choices=UPS, help="the axis that is up (default: guessed)")
    converting.add_argument("--unit", default="", choices=list(METRES), help="of its lengths (default: guessed)")
    converting.add_argument("--stack", default="", help="steps saved from the room of meshes (.json), which are baked")
    converting.add_argument("--depth", default="", choices=list(DEPTHS), help="of the colours (default: as they came)")
    converting.set_defaults(run=convert_mesh)
    for command in (compiling, rendering):
        command.add_argument("graph", help="a graph file exported from a graph page")
        command.add_argument("-o", dest="output", required=True, help="where to write")
        command.add_argument("--variant", default="", help="a variant by name (default: the graph's defaults)")
    rendering.add_argument("--size", type=_size, default=(256, 256), metavar="512 or 640x360")
    rendering.add_argument("--time", type=float, default=0.0, help="the moment that is shown, in seconds")
    cli_film.add_options(rendering)
    rendering.add_argument(
        "--form", default="", help=f"{', '.join(FORMS)}; plane:24 of 24 cells (default: the graph's own)"
    )
    rendering.add_argument("--rig", default="", choices=list(RIGS), help="the light (default: the graph's own)")
    rendering.add_argument(
        "--level",
        type=int,
        default=0,
        choices=range(MOST_LEVELS + 1),
        help="of detail of its mesh (default: 0, the full one)",
    )
    rendering.add_argument("--sheet", action="store_true", help="the defaults and every variant, side by side")
    compiling.add_argument(
        "--all-values", action="store_true", help="keep every value outside, not only those that parameters open"
    )
    compiling.set_defaults(run=compile_graph)
    rendering.set_defaults(run=render_graph)
    options = parser.parse_args(arguments)
    try:
        options.run(options)
    except MothError as error:
        print(f"{error.what}\n  where: {error.where}\n  mend:  {error.mend}", file=sys.stderr)
        return 1
    return 0


if __name__ == "__main__":
    sys.exit(main(sys.argv[1:]))
