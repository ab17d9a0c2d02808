"""Material documents with their pictures: as files that leave, and as files that come in."""

import io
import posixpath
import zipfile
from collections.abc import Hashable, Mapping
from dataclasses import dataclass, replace

from velvet_moth.core.base.errors import FileRefused
from velvet_moth.core.document.graph import Graph
from velvet_moth.core.document.marks import Note
from velvet_moth.core.files.graph_json import GraphFile, TextureFile, write_graph_file
from velvet_moth.core.forms.mesh import Mesh
from velvet_moth.core.lowering.lower import lower
from velvet_moth.core.materialx.reading import MOST_BYTES, ReadDocument, read_document
from velvet_moth.core.materialx.writing import MaterialDocument, Picture, written
from velvet_moth.core.pictures.convert import as_files
from velvet_moth.core.pictures.library import NamedPicture
from velvet_moth.core.pictures.reading import Reading
from velvet_moth.core.render.tracing.scene import Scene, draw_inputs

SUFFIX = ".mtlx"
FOLDER = "textures"
# What a packed document may hold, unpacked.
MOST_FILES, MOST_UNPACKED = 500, 256 << 20
# What changes with every picture is no number of a document.
_OF_THE_EYE = ("camera_", "lens", "time")
_NOTE = "read_note"
_NOTE_AT = (-40.0, -160.0)


@dataclass(frozen=True, eq=False)
class MaterialFiles:
    """A document, and its pictures by their paths beside it."""

    document: MaterialDocument
    pictures: Mapping[str, bytes]


def material_files(
    graph: Graph, variant: str, textures: Mapping[str, NamedPicture], format_: str, brought: Mesh | None = None
) -> MaterialFiles:
    """A graph as a document with the pictures that it reads; ``textures`` are those of the graph by id, ``brought`` its mesh."""
    named = dict(zip(textures, as_files(list(textures.values()), format_, "{name}_{role}"), strict=True))
    values = graph.uniform_values(variant)
    places = {place: str(values[place]) for place, _ in graph.own_textures()}
    pictures: dict[Hashable, Picture] = {
        place: Picture(
            f"{FOLDER}/{named[key][0]}",
            textures[key].picture.size,
            textures[key].reading.is_colour,
            textures[key].reading.turns_green,
        )
        for place, key in places.items()
        if key in named
    }
    scene = Scene.of_graph(graph, brought, variant)
    draw = {key: one for key, one in draw_inputs(scene, scene.mesh, (1, 1)).items() if not key.startswith(_OF_THE_EYE)}
    document = written(lower(graph, variant, folded=True), values, pictures, draw)
    needed = {f"{FOLDER}/{name}": data for name, data in named.values()}
    return MaterialFiles(document, {path: data for path, data in needed.items() if f'"{path}"' in document.text})


def is_material(data: bytes, name: str) -> bool:
    """Whether a file is a document, or one packed with its pictures."""
    return name.lower().endswith((SUFFIX, ".zip")) or b"<materialx" in data[:4096]


def read_material(data: bytes, name: str, beside: Mapping[str, bytes] | None = None) -> GraphFile:
    """The graph of a document, by itself or in a ZIP, with those of its pictures that are ``beside`` it by their paths.

    A note in the graph says what is not as it was. FileRefused where there is no material in it.
    """
    files = dict(beside or {})
    if data[:2] == b"PK":
        files = _unpacked(data, name)
        documents = sorted(
            (path for path in files if path.lower().endswith(SUFFIX)), key=lambda path: (path.count("/"), path)
        )
        if not documents:
            raise FileRefused(
                "There is no material document in the ZIP.", name, f"Pack a {SUFFIX} file with its pictures."
            )
        name = documents[0]
        data = files.pop(name)
    if len(data) > MOST_BYTES:
        raise FileRefused("The document is larger than 16 MB.", name, "Export one material alone.")
    read = read_document(data.decode("utf-8", errors="replace"), name)
    return _with_pictures(read, files, posixpath.dirname(name))


def as_graph_file(data: bytes, name: str) -> bytes:
    """The text of a graph file of a document, which another process can send."""
    return write_graph_file(read_material(data, name)).encode()


def _with_pictures(read: ReadDocument, files: Mapping[str, bytes], folder: str) -> GraphFile:
    by_name = {posixpath.basename(path): path for path in files}
    textures, words = {}, list(read.words)
    for key, (path, is_colour) in read.files.items():
        plain = posixpath.normpath(posixpath.join(folder, path.replace("\\", "/")))
        found = plain if plain in files else by_name.get(posixpath.basename(plain))
        if found is None:
            words.append(f"The picture {path} did not come with the document.")
            continue
        stem = posixpath.basename(found).rpartition(".")[0][:60] or "Picture"
        textures[key] = TextureFile(stem, Reading("colour" if is_colour else "data"), files[found])
    graph = read.graph
    if words:
        graph = replace(graph, marks={_NOTE: Note(_NOTE, "\n".join(words)[:2000], _NOTE_AT)})
    return GraphFile(graph, textures)


def _unpacked(data: bytes, name: str) -> dict[str, bytes]:
    try:
        with zipfile.ZipFile(io.BytesIO(data)) as archive:
            entries = [one for one in archive.infolist() if not one.is_dir()]
            if len(entries) > MOST_FILES or sum(one.file_size for one in entries) > MOST_UNPACKED:
                what = f"The ZIP holds more than {MOST_FILES} files or {MOST_UNPACKED >> 20} MB."
                raise FileRefused(what, name, "Pack one material with its pictures alone.")
            found, room = {}, MOST_UNPACKED
            for one in entries:
                # What a ZIP says of its sizes may be wrong.
                with archive.open(one) as file:
                    found[posixpath.normpath(one.filename)] = file.read(room + 1)
                room -= len(found[posixpath.normpath(one.filename)])
                if room < 0:
                    raise FileRefused("The ZIP is larger than it says.", name, "Pack it again.")
            return found
    except (zipfile.BadZipFile, NotImplementedError, RuntimeError, OSError, EOFError) as error:
        raise FileRefused("The ZIP cannot be unpacked.", name, "Pack it again, without a password.") from error
