"""``./moth texture SOURCE``: textures of a stack or a mesh, and pictures in other formats."""

import argparse
from pathlib import Path

from velvet_moth.cli.command import Command
from velvet_moth.cli.files import no_format, read_file, read_json, with_files_beside
from velvet_moth.core.baking.over_uvs import flow_over_uvs, stack_over_uvs
from velvet_moth.core.baking.stack import EMPTY, mesh_stack_from_json
from velvet_moth.core.baking.step import BakingContext
from velvet_moth.core.making.exchange import picture_of
from velvet_moth.core.making.recipe import MakingContext, evaluate, recipe_from_json
from velvet_moth.core.meshes.bringing import brought
from velvet_moth.core.meshes.formats import FORMATS as MESH_FORMATS
from velvet_moth.core.pictures.convert import as_files, fitted, one_channel
from velvet_moth.core.pictures.formats import FORMATS, WRITABLE, read_picture, write_picture
from velvet_moth.core.pictures.library import NamedPicture
from velvet_moth.core.pictures.reading import Reading


def _options(parser: argparse.ArgumentParser) -> None:
    parser.add_argument("source", help="a stack of steps saved from the room of textures (.json), a mesh, or a picture")
    parser.add_argument("-o", dest="output", required=True, help="the folder to write to, or the picture")
    parser.add_argument("--format", default="png", choices=WRITABLE, help="of the textures of a stack")
    parser.add_argument(
        "--names", default="{name}_{role}", help="pattern of their file names: {name} {role} {width} {height}"
    )
    parser.add_argument(
        "--channel",
        default="",
        help='only this channel of a picture: red, green, blue, alpha or grey; of a mesh up to four, as "red,second green"',
    )
    parser.add_argument(
        "--stack", default="", help="steps on a mesh saved from the room of meshes (.json), baked before"
    )
    parser.add_argument(
        "--flow", default="", metavar="STEP", help="the id of a step on a mesh whose directions are baked"
    )
    parser.add_argument("--size", type=int, default=1024, choices=range(16, 8193), metavar="16..8192", help="of a bake")
    parser.add_argument("--padding", type=int, default=8, help="pixels around the islands of a bake")


def _suffixes() -> str:
    return ", ".join(FORMATS[key].suffixes[0] for key in WRITABLE)


def bake_texture(options: argparse.Namespace, source: Path, output: Path) -> None:
    """Bakes channels of a mesh, or the directions of a step, to a picture over its UVs."""
    mesh = brought(with_files_beside(source), source.name).mesh
    stack = mesh_stack_from_json(read_json(Path(options.stack)), options.stack) if options.stack else EMPTY
    key = next((k for k in WRITABLE if output.suffix.lower() in FORMATS[k].suffixes), "")
    if not key:
        raise no_format(options.output, _suffixes())
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
    data = read_file(source)
    output = Path(options.output)
    if any(source.suffix.lower() in made.suffixes for made in MESH_FORMATS.values()):
        return bake_texture(options, source, output)
    if source.suffix != ".json":
        picture_, _ = read_picture(data, source.name)
        key = next((k for k in WRITABLE if output.suffix.lower() in FORMATS[k].suffixes), "")
        if not key:
            raise no_format(options.output, _suffixes())
        kept = one_channel(picture_, options.channel) if options.channel else picture_
        output.write_bytes(write_picture(fitted(kept, key), key))
        print(f"{output}: {FORMATS[key].name}, {kept.size[0]} x {kept.size[1]}")
        return
    recipe = recipe_from_json(read_json(source), options.source)
    layers = evaluate(recipe, recipe.canvas, MakingContext(lambda key, canvas: None), {o.step for o in recipe.outputs})
    made = [
        NamedPicture(o.name, Reading(layers[o.step][o.layer].role), picture_of(layers[o.step][o.layer], o.depth))
        for o in recipe.outputs
    ]
    output.mkdir(parents=True, exist_ok=True)
    for (name, data), texture in zip(as_files(made, options.format, options.names), made, strict=True):
        (output / name).write_bytes(data)
        print(f"{output / name}: read it as {texture.reading.role}")


TEXTURE = Command("texture", _options, make_textures)
