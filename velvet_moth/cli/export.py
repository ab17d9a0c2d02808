"""``./moth export GRAPH``: a graph for an engine or another program, with all that goes with it."""

import argparse
from pathlib import Path

from velvet_moth.cli.command import Command
from velvet_moth.cli.graphs import add_graph_options, meshes_of, read_graph, textures_of, variant_of
from velvet_moth.core.exporting.baked.glb import SIZES, BakeChoices, baked_glb
from velvet_moth.core.exporting.choices import Choices
from velvet_moth.core.exporting.package import NAMES, Beside, packaged, stem
from velvet_moth.core.exporting.shapes import SHAPES
from velvet_moth.core.exporting.ways import WAYS
from velvet_moth.core.files.graph_json import GraphFile
from velvet_moth.core.language.dialects import DIALECTS
from velvet_moth.core.materialx.package import SUFFIX, material_files
from velvet_moth.core.pictures.formats import WRITABLE, read_picture
from velvet_moth.core.pictures.library import NamedPicture


def _options(parser: argparse.ArgumentParser) -> None:
    add_graph_options(parser)
    ways = "; ".join(f"{key}: {one.words}" for key, one in WAYS.items() if key in _WRITTEN)
    languages = "; ".join(f"{key}: {one.name}" for key, one in DIALECTS.items())
    shapes = "; ".join(f"{key}: {one.words}" for key, one in SHAPES.items())
    bake = BakeChoices()
    parser.add_argument("--as", dest="way", default=next(iter(WAYS)), choices=list(_WRITTEN), help=ways)
    parser.add_argument("--language", default=Choices.language, choices=list(DIALECTS), help=languages)
    parser.add_argument("--shape", default=Choices.shape, choices=list(SHAPES), help=shapes)
    parser.add_argument("--prefix", default=Choices.prefix, help="what every name in the text begins with")
    parser.add_argument("--textures", default="png", choices=WRITABLE, help="the format of the textures")
    parser.add_argument("--switches", action="store_true", help="toggles are left to who builds the text")
    parser.add_argument("--entry", action="store_true", help="an entry point for pixels goes along")
    parser.add_argument(
        "--reduced",
        action="store_true",
        help="devices may hold values with fewer bits where ranges prove that it is safe",
    )
    parser.add_argument("--packed", action="store_true", help="textures of single numbers are put together")
    parser.add_argument("--most", type=int, default=0, help="the most pixels a side of a texture (default: any)")
    parser.add_argument("--names", default=NAMES, help="the pattern of the names of textures")
    parser.add_argument("--mesh", action="store_true", help="the form or mesh goes along as a GLB")
    parser.add_argument("--size", type=int, default=bake.size, choices=SIZES, help="pixels a side of baked textures")
    parser.add_argument("--padding", type=int, default=bake.padding, help="pixels between islands of baked textures")
    parser.add_argument("--moment", type=float, help="the moment that is baked, in seconds (default: the first to see)")
    parser.add_argument("--alone", action="store_true", help="bakes the one variant and no others")


def export_graph(options: argparse.Namespace) -> None:
    """Writes a graph for an engine: a text in a language with its parameters and textures, or a GLB with a baked material."""
    file = read_graph(options.graph)
    variant = variant_of(file.graph, options.variant)
    files = _WRITTEN[options.way](file, variant, options)
    folder = Path(options.output)
    for name, data in files.items():
        path = folder / name
        path.parent.mkdir(parents=True, exist_ok=True)
        path.write_bytes(data)
    print(f"{folder}: {', '.join(files)}")


def _text(file: GraphFile, variant: str, options: argparse.Namespace) -> dict[str, bytes]:
    choices = Choices(
        options.language,
        options.shape,
        options.prefix,
        variant,
        switches=options.switches,
        entry=options.entry,
        reduced=options.reduced,
        packed=options.packed,
    )
    brought = meshes_of(file, 0)(file.graph.mesh)
    beside = Beside(_named(file), options.textures, options.most, options.names, brought, options.mesh)
    return packaged(file.graph, choices, beside)


def _baked(file: GraphFile, variant: str, options: argparse.Namespace) -> dict[str, bytes]:
    choices = BakeChoices(options.size, options.padding, options.moment, variant, not options.alone)
    made = baked_glb(file.graph, choices, textures_of(file), meshes_of(file, 0))
    for words in made.words:
        print(words)
    print(f"It differs from the graph by {made.difference.mean:.2f} of 255, the mean of four sides.")
    return {f"{stem(file.graph)}.glb": made.data}


def _material(file: GraphFile, variant: str, options: argparse.Namespace) -> dict[str, bytes]:
    brought = meshes_of(file, 0)(file.graph.mesh)
    made = material_files(file.graph, variant, _named(file), options.textures, brought)
    for words in made.document.words:
        print(words)
    return {f"{stem(file.graph)}{SUFFIX}": made.document.text.encode(), **made.pictures}


def _named(file: GraphFile) -> dict[str, NamedPicture]:
    return {
        key: NamedPicture(one.name, one.reading, read_picture(one.file, one.name)[0])
        for key, one in file.textures.items()
    }


_WRITTEN = {"text": _text, "baked": _baked, "material": _material}
EXPORT = Command("export", _options, export_graph)
