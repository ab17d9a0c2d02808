"""``./moth blocks SOURCE``: files of blocks and meshes as blocks, written as blocks or as a mesh in their palette."""

import argparse
from dataclasses import replace
from pathlib import Path

import numpy as np

from velvet_moth.cli.command import Command
from velvet_moth.cli.files import no_format, read_file, read_json, with_files_beside
from velvet_moth.core.base.errors import FileRefused
from velvet_moth.core.blocks.cells import MOST_ENTRIES, SIDE, Blocks
from velvet_moth.core.blocks.formats import BLOCK_FORMATS, Asked, BlockFormat, Colours, read_blocks
from velvet_moth.core.blocks.model import LARGEST, SMALLEST, BlockModel, Settings
from velvet_moth.core.blocks.of_mesh import BY, blocks_of_mesh, carried_size
from velvet_moth.core.blocks.surface import surface_of
from velvet_moth.core.blocks.tiled import tiled_surface
from velvet_moth.core.making.layer import Layer
from velvet_moth.core.making.palette import Palette, palette_of
from velvet_moth.core.making.palette_material import palette_material, palette_pictures
from velvet_moth.core.making.recipe import MakingContext, evaluate, recipe_from_json
from velvet_moth.core.meshes.bringing import brought
from velvet_moth.core.meshes.formats import FORMATS
from velvet_moth.core.meshes.formats.base import MeshFormat
from velvet_moth.core.meshes.intake import as_source
from velvet_moth.core.meshes.source import SourceMesh

_WRITTEN: dict[str, BlockFormat | MeshFormat] = {
    **{key: one for key, one in BLOCK_FORMATS.items() if one.encode},
    **FORMATS,
}


def _side(text: str) -> float:
    """The side of a block, metres."""
    size = float(text)
    if not SMALLEST <= size <= LARGEST:
        raise argparse.ArgumentTypeError(f"a block is {SMALLEST:g} to {LARGEST:g} metres large")
    return size


def _options(parser: argparse.ArgumentParser) -> None:
    holds = "; ".join(f"{one.name} ({one.holds})" for one in BLOCK_FORMATS.values())
    parser.add_argument("source", help=f"a file of blocks: {holds}; or a mesh")
    parser.add_argument("-o", dest="output", required=True, help="the file to write")
    parser.add_argument("--format", default="", choices=list(_WRITTEN), help="of the output (default: by its name)")
    parser.add_argument("--palette", default="", help="the stack that makes its tiles, saved from the room of textures")
    parser.add_argument("--size", type=_side, default=0.1, metavar="METRES", help="of a block (default: 0.1)")
    parser.add_argument("--by", default="colours", choices=list(BY), help="where the entries of a mesh come from")
    high, entry = range(1, SIDE + 1), range(1, MOST_ENTRIES + 1)
    parser.add_argument(
        "--high", type=int, default=32, choices=high, metavar=f"1..{SIDE}", help="blocks, of a picture of heights"
    )
    parser.add_argument(
        "--entry", type=int, default=1, choices=entry, metavar=f"1..{MOST_ENTRIES}", help="of a picture of heights"
    )


def _tiles(path: str) -> tuple[Palette, dict[str, Layer]]:
    """The palette of a stack, and its maps."""
    recipe = recipe_from_json(read_json(Path(path)), path)
    palette = palette_of(recipe)
    outputs = {o.id: o for o in recipe.outputs}
    wanted = {key: outputs[output] for key, output in palette.outputs.items()}
    made = evaluate(recipe, recipe.canvas, MakingContext(lambda key, canvas: None), {o.step for o in wanted.values()})
    return palette, {key: made[o.step][o.layer] for key, o in wanted.items()}


def convert_blocks(options: argparse.Namespace) -> None:
    """Reads blocks, or makes them of a mesh, and writes them as blocks or as a mesh."""
    source, output = Path(options.source), Path(options.output)
    key = options.format or next((k for k, one in _WRITTEN.items() if output.suffix.lower() in _suffixes(k)), "")
    if not key:
        raise no_format(options.output, ", ".join(dict.fromkeys(s for k in _WRITTEN for s in _suffixes(k))))
    palette, maps = _tiles(options.palette) if options.palette else (None, {})
    colours = palette.mean_colours(maps["base_colour"]) if palette else np.zeros((0, 3))
    blocks, size = _read(options, source, colours)
    model = BlockModel(Settings(source.stem[:80] or "blocks", size), blocks)
    if key in FORMATS:
        output.write_bytes(FORMATS[key].written(_mesh(model, palette, maps)))
    else:
        encode = BLOCK_FORMATS[key].encode
        assert encode is not None, "only what can be written is a choice"
        output.write_bytes(encode(blocks, size, colours))
    print(f"{output}: {_WRITTEN[key].name}, {blocks.count} blocks of {size:g} m, {len(blocks.uses)} entries")


def _suffixes(key: str) -> tuple[str, ...]:
    return tuple(FORMATS[key].suffixes) if key in FORMATS else (BLOCK_FORMATS[key].suffix,)


def _read(options: argparse.Namespace, source: Path, colours: Colours) -> tuple[Blocks, float]:
    """The blocks of a file, and the side of one in metres."""
    data = read_file(source)
    if any(one.is_this(data) for one in BLOCK_FORMATS.values()):
        return read_blocks(data, Asked(source.name, colours, options.high, options.entry)), options.size
    if not any(source.suffix.lower() in one.suffixes for one in FORMATS.values()):
        raise FileRefused("This file holds neither blocks nor a mesh.", str(source), "Choose another file.")
    mesh = brought(with_files_beside(source), source.name).mesh
    return blocks_of_mesh(mesh, options.size, options.by, colours), carried_size(mesh) or options.size


def _mesh(model: BlockModel, palette: Palette | None, maps: dict[str, Layer]) -> SourceMesh:
    """The surface of a model: in its palette where there is one, else as the nodes for blocks read it."""
    if palette is not None:
        return replace(tiled_surface(model, palette.grid), looks=palette_material(model.name, palette_pictures(maps)))
    surface = surface_of(model.blocks, model.settings.size)
    if surface is None:
        raise FileRefused("There are no blocks in the file.", model.name, "Choose another file.")
    return as_source(surface)


BLOCKS = Command("blocks", _options, convert_blocks)
