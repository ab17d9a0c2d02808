"""Meshes: the list, bringing in, how they are read, what is found out about them, and what the stage draws."""

from collections.abc import Mapping, Sequence
from dataclasses import replace
from typing import Any

from flask import Blueprint, Response, request

from velvet_moth.core.baking.levels import Loss, length_words, words_of
from velvet_moth.core.baking.mends import MENDS
from velvet_moth.core.base.errors import FileRefused, OperationRefused
from velvet_moth.core.forms import form, form_kind
from velvet_moth.core.forms.mesh import Mesh
from velvet_moth.core.meshes.bringing import brought
from velvet_moth.core.meshes.formats import FORMATS, MOST_BYTES, Files, check_mesh_file
from velvet_moth.core.meshes.intake import MeshReading, as_source, checked_reading
from velvet_moth.core.meshes.source import DEPTHS, SourceMesh
from velvet_moth.store import blobs, listing, mesh_stacks, meshes, projects
from velvet_moth.store.mesh_files import Coming
from velvet_moth.store.meshes import state_of
from velvet_moth.store.models import MeshRow
from velvet_moth.web.apart import mesh_reader
from velvet_moth.web.api.answers import GraphUser, TextId
from velvet_moth.web.api.contract import sends, takes
from velvet_moth.web.api.geometry import geometry_of
from velvet_moth.web.api.job_answers import JobState
from velvet_moth.web.api.jobs import job_state
from velvet_moth.web.api.mesh_answers import MeshComing, Meshes, MeshFacts, MeshInfo, MeshLevel, MeshOnly, MeshVerdict
from velvet_moth.web.api.mesh_read import mesh_read
from velvet_moth.web.api.schemas import (
    FormRequest,
    GeometryRequest,
    MeshReadingRequest,
    MeshSaveRequest,
    MeshTextureRequest,
    NameRequest,
)
from velvet_moth.web.database import db, release
from velvet_moth.web.lanes import MESHES
from velvet_moth.web.large import collected, sent

api = Blueprint("meshes", __name__, url_prefix="/api/meshes")

_MOST_FILES = 12
FOR_EVER = {"Cache-Control": "private, max-age=31536000, immutable"}


def described(row: MeshRow) -> MeshInfo:
    state = state_of(row)
    return {
        **mesh_read(state),
        "revision": row.revision,
        "format": FORMATS[row.format].name,
        "vertices": row.facts["vertices"],
        "triangles": row.facts["triangles"],
        "size": [high - low for low, high in zip(state.low, state.high, strict=True)],
    }


def _uploaded() -> tuple[Files, str]:
    """The files that came together, and the name of the one that is the mesh."""
    came = request.files.getlist("file")
    if not 1 <= len(came) <= _MOST_FILES:
        raise FileRefused(f"A mesh comes in 1 to {_MOST_FILES} files.", "file", "Choose one, with those it refers to.")
    files = {(one.filename or "mesh").replace("\\", "/").rpartition("/")[2]: one.read() for one in came}
    main = next((name for name, data in files.items() if any(f.is_this(data) for f in FORMATS.values())), None)
    return files, main or next(iter(files))


@api.get("")
@takes()
def listed() -> Meshes:
    return dict(meshes=[described(row) for row in meshes.listed(db(), projects.first(db()).id)])


@api.post("")
@takes(upload=("file", "name"), most_bytes=MOST_BYTES)
def bring_in() -> MeshComing:
    """Keeps a mesh, with the files it refers to. Its axis and unit are guessed where the format says nothing."""
    files, main = _uploaded()
    name = request.form.get("name") or main.rsplit(".", 1)[0]
    return _come(Coming(projects.first(db()).id, files, main, name))


def _come(coming: Coming) -> MeshComing:
    """Reads files and keeps their mesh, or asks for a job that does."""
    check_mesh_file(coming.files, coming.main)
    if coming.is_large:
        return {"mesh": None, "job": job_state(coming.ask(db()))}
    # Nobody reads with a connection of the database in hand.
    release()
    with MESHES.turn():
        found = mesh_reader().read(coming.files, coming.main, coming.reading)
        return {"mesh": described(coming.keep(db(), found)), "job": None}


@api.post("/form")
@takes(body=FormRequest)
def of_form(asked: FormRequest) -> MeshOnly:
    """Keeps a form as a mesh of the project, so that vertex data can be baked and painted on it; the same form is one mesh."""
    name = form_kind(asked.form).name
    source = replace(as_source(form(asked.form)), depth="float")
    files = {f"{name}.glb": FORMATS["gltf"].written(source)}
    with MESHES.turn():
        found = brought(files, f"{name}.glb")
        row = meshes.add(db(), projects.first(db()).id, name, files, f"{name}.glb", found)
    return dict(mesh=described(row))


def _verdict(kept: Mapping[str, str]) -> MeshVerdict:
    mend = MENDS.get(kept["key"])
    channel = kept.get("channel", "")
    return {
        "key": kept["key"],
        "severity": kept["severity"],
        "words": kept["words"],
        "channel": channel,
        "mend": mend.words if mend else "",
    }


def _level(number: int, level: Mapping[str, Any], names: Mapping[str, str]) -> MeshLevel:
    losses = [Loss(**loss) for loss in level["losses"]]
    return {
        "vertices": level["vertices"],
        "triangles": level["triangles"],
        "share": level["share"],
        "error": level["error"],
        "screen": level["screen"],
        "losses": [
            {
                "channel": loss.channel,
                "rms": loss.rms,
                "most": loss.most,
                "words": words_of(number, loss, names.get(loss.channel, "")),
                "mend": f"Soften it by {length_words(loss.soften)}" if loss.soften else "",
            }
            for loss in losses
        ],
    }


@api.get("/<key>")
@takes()
def read(key: str) -> MeshFacts:
    """A mesh with what is found out about it, and the graphs that stand on it."""
    row = meshes.load(db(), key)
    facts = row.facts
    users: list[GraphUser] = [
        {"id": one.id, "title": one.title, "motif": one.motif} for one in listing.using_mesh(db(), row.project_id, key)
    ]
    return {
        "mesh": described(row),
        "reading": {"up": row.up, "unit": row.unit, "smooth_below": row.smooth_below},
        "notes": row.notes,
        "files": [name for name, _ in row.files],
        "has_uvs": row.has_uvs,
        "depth": row.depth,
        "carried": row.channels,
        "places": facts["places"],
        "pieces": facts["pieces"],
        "area": facts["area"],
        "low": facts["low"],
        "high": facts["high"],
        "parts": [{"name": name, "triangles": triangles} for name, triangles in facts["parts"]],
        "channels": facts["channels"],
        "verdicts": [_verdict(verdict) for verdict in facts["verdicts"]],
        "levels": [_level(number, level, row.channels) for number, level in enumerate(row.levels)],
        "users": users,
    }


@api.post("/<key>/reading")
@takes(body=MeshReadingRequest)
def read_as(key: str, asked: MeshReadingRequest) -> MeshComing:
    """Reads the same file another way; everything that stands on it follows."""
    reading = checked_reading(MeshReading(asked.up, asked.unit, asked.smooth_below))
    row = meshes.load(db(), key)
    files, main = meshes.files_of(db(), row)
    return _come(Coming(row.project_id, files, main, mesh=key, reading=reading, kept=row.files))


@api.post("/<key>/file")
@takes(upload=("file",), most_bytes=MOST_BYTES)
def replace_file(key: str) -> MeshComing:
    """A new version of the file in its place, read as the old one was; everything that stands on it follows."""
    files, main = _uploaded()
    row = meshes.load(db(), key)
    reading = MeshReading(row.up, row.unit, row.smooth_below)
    return _come(Coming(row.project_id, files, main, mesh=key, reading=reading))


@api.post("/<key>/name")
@takes(body=NameRequest)
def rename(key: str, asked: NameRequest) -> MeshOnly:
    return dict(mesh=described(meshes.rename(db(), key, asked.name)))


@api.delete("/<key>")
@takes()
def delete(key: str) -> TextId:
    meshes.delete(db(), key)
    return dict(id=key)


@api.post("/<key>/restore")
@takes()
def restore(key: str) -> MeshOnly:
    return dict(mesh=described(meshes.restore(db(), key)))


@api.get("/<key>/geometry/<drawn>")
@sends("application/octet-stream", query=GeometryRequest)
def geometry(key: str, drawn: str, asked: GeometryRequest) -> Response:
    """What is drawn of it, as forms are sent: a level of detail that ``drawn`` names, or else the full mesh as it is now."""
    row = meshes.load(db(), key)
    is_level = any(level["packed"] == drawn for level in row.levels)
    return geometry_of(meshes.packed_mesh(db(), drawn if is_level else row.packed), asked)


@api.post("/<key>/texture")
@takes(body=MeshTextureRequest)
def to_texture(key: str, asked: MeshTextureRequest) -> JobState:
    """Has channels of the mesh, or the directions of a step of its stack, baked to a texture over its UVs, which follows it."""
    row = meshes.load(db(), key)
    if bool(asked.channels) == bool(asked.step):
        raise OperationRefused(
            "A texture holds channels of the mesh, or the directions of a step.", row.name, "Choose one of the two."
        )
    of = {"mesh": key, **asked.model_dump(exclude={"name"})}
    return job_state(mesh_stacks.bake_texture(db(), row, asked.name or row.name, of))


def _attached(row: MeshRow, suffix: str) -> dict[str, str]:
    plain = "".join(c if c.isascii() and c.isalnum() else "-" for c in row.name.lower()).strip("-") or "mesh"
    return {"Content-Disposition": f'attachment; filename="{plain}{suffix}"'}


@api.get("/<key>/file/<int:number>")
@sends("application/octet-stream")
def file(key: str, number: int) -> Response:
    """One of its files as it came, the main one with number 0."""
    row = meshes.load(db(), key)
    kept: Sequence[Sequence[str]] = row.files
    if number >= len(kept):
        raise FileRefused("The mesh has no such file.", f"file {number}", f"Ask for 0 to {len(kept) - 1}.")
    name, sha256 = kept[number]
    suffix = f".{name.rpartition('.')[2]}" if "." in name else ""
    clean = suffix if suffix[1:].isascii() and suffix[1:].isalnum() else ""
    return sent(*collected(blobs.stream(db(), sha256)), "application/octet-stream", _attached(row, clean))


@api.get("/<key>/as/<format_>")
@sends("application/octet-stream", query=MeshSaveRequest)
def saved_as(key: str, format_: str, asked: MeshSaveRequest) -> Response:
    """The mesh in a format, in metres with y up."""
    if format_ not in FORMATS:
        raise FileRefused(f"{format_[:20]!r} cannot be written.", "format", f"Choose one of {', '.join(FORMATS)}.")
    made, row = FORMATS[format_], meshes.load(db(), key)
    depth = asked.depth or (row.depth if row.depth in DEPTHS else "float")

    def written(mesh: Mesh) -> SourceMesh:
        source = replace(as_source(mesh), depth=depth)
        source = source if row.has_uvs else replace(source, uvs=None)
        return source if asked.colours else replace(source, colours=None, second_colours=None)

    full = meshes.mesh_of(db(), row)
    levels = [meshes.packed_mesh(db(), level["packed"]) for level in row.levels] if asked.levels else []
    release()
    with MESHES.turn():
        data = made.written(written(full), [written(level) for level in levels])
    return sent(*collected([data]), made.mimetype, _attached(row, made.suffixes[0]))
