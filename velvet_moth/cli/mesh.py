"""``./moth mesh SOURCE``: what is worth knowing about a mesh, and the mesh in another format."""

import argparse
from dataclasses import replace
from pathlib import Path

from velvet_moth.cli.command import Command
from velvet_moth.cli.files import no_format, stacked, with_files_beside
from velvet_moth.core.baking.levels import Level, levels_of, words_of
from velvet_moth.core.forms import Mesh
from velvet_moth.core.meshes.bringing import brought
from velvet_moth.core.meshes.formats import FORMATS
from velvet_moth.core.meshes.intake import as_source
from velvet_moth.core.meshes.orient import METRES, UPS
from velvet_moth.core.meshes.source import DEPTHS, SourceMesh


def _options(parser: argparse.ArgumentParser) -> None:
    parser.add_argument("source", help="a mesh: glTF or GLB, OBJ, PLY")
    parser.add_argument("-o", dest="output", default="", help="the file to write (.glb, .obj, .ply)")
    parser.add_argument("--up", default="", choices=UPS, help="the axis that is up (default: guessed)")
    parser.add_argument("--unit", default="", choices=list(METRES), help="of its lengths (default: guessed)")
    parser.add_argument("--stack", default="", help="steps saved from the room of meshes (.json), which are baked")
    parser.add_argument("--depth", default="", choices=list(DEPTHS), help="of the colours (default: as they came)")


def convert_mesh(options: argparse.Namespace) -> None:
    """Reads a mesh, says what is worth knowing about it, and writes it in metres with y up where an output is named."""
    source = Path(options.source)
    files = with_files_beside(source)
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
        mesh, stack = stacked(source, options.stack, mesh)
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
    made = next((f for f in FORMATS.values() if output.suffix.lower() in f.suffixes), None)
    if made is None:
        known = ", ".join(f.suffixes[0] for f in FORMATS.values())
        raise no_format(options.output, known)

    def written(one: Mesh) -> SourceMesh:
        source = replace(as_source(one), depth=options.depth or found.depth or "float")
        return source if has_uvs else replace(source, uvs=None)

    output.write_bytes(made.written(written(mesh), [written(level.mesh) for level in levels]))
    print(f"{output}: {made.name}, keeps {made.keeps}")


MESH = Command("mesh", _options, convert_mesh)
