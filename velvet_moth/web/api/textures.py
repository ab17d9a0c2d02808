"""Textures: the list, import, how they are read, what is found out about them, and their pixels for the stage."""

from collections.abc import Sequence
from typing import Any

import numpy as np
from flask import Blueprint, Response, request
from numpy.typing import NDArray
from werkzeug.datastructures import FileStorage

from velvet_moth.core.base.errors import FileRefused
from velvet_moth.core.pictures.convert import as_zip, file_names, fitted, one_channel
from velvet_moth.core.pictures.formats import DEPTHS, FORMATS, writable, write_picture, write_png
from velvet_moth.core.pictures.inspection import Channel, guess
from velvet_moth.core.pictures.library import MISSING, MISSING_COLOURS, NamedPicture, missing_pixels
from velvet_moth.core.pictures.reading import Reading, RoleKey
from velvet_moth.core.pictures.small import small_picture
from velvet_moth.store import blobs, listing, projects, recipes, replacing, textures
from velvet_moth.store.models import TextureRow
from velvet_moth.store.replacing import Replaced
from velvet_moth.web.apart import reader
from velvet_moth.web.api.answers import GraphUser, TextId
from velvet_moth.web.api.contract import sends, takes
from velvet_moth.web.api.schemas import (
    LevelsRequest,
    NameRequest,
    ReadingRequest,
    ReplaceRequest,
    RoleRequest,
    SaveAllRequest,
    SaveRequest,
)
from velvet_moth.web.api.texture_answers import (
    ChannelFacts,
    SheetFrames,
    TextureFacts,
    TextureInfo,
    TextureOnly,
    Textures,
)
from velvet_moth.web.database import db
from velvet_moth.web.lanes import LEVELS, READING
from velvet_moth.web.large import Slices, collected, sent

api = Blueprint("textures", __name__, url_prefix="/api/textures")

FOR_EVER = {"Cache-Control": "private, max-age=31536000, immutable"}
SMALL = 256


def described(row: TextureRow) -> TextureInfo:
    return {
        "id": row.id,
        "name": row.name,
        "role": row.role,
        "green": row.green,
        "width": row.width,
        "height": row.height,
        "channels": row.channels,
        "depth": DEPTHS[row.depth],
        "format": FORMATS[row.format].name,
        "revision": row.revision,
        "recipe": row.recipe_id,
        "mesh": (row.baked or {}).get("mesh"),
        "frames": _frames(row),
    }


def _frames(row: TextureRow) -> SheetFrames | None:
    if row.frames is None:
        return None
    return {"columns": row.frames["columns"], "rows": row.frames["rows"], "rate": row.frames["rate"]}


def _channel(channel: Channel) -> ChannelFacts:
    return {
        "name": channel.name,
        "low": channel.low,
        "high": channel.high,
        "mean": channel.mean,
        "low_clip": channel.low_clip,
        "high_clip": channel.high_clip,
        "span": list(channel.span),
        "counts": list(channel.counts),
        "constant": channel.is_constant,
    }


def _upload() -> FileStorage:
    found = request.files.get("file")
    if found is None:
        raise FileRefused("No file came with the request.", "file", "Choose a picture.")
    return found


@api.get("")
@takes()
def listed() -> Textures:
    return dict(textures=[described(r) for r in textures.listed(db(), projects.first(db()).id)])


@api.post("")
@takes(upload=("role", "name"))
def import_texture() -> TextureOnly:
    """Keeps a file. Without a role the picture itself says how it is read, and why is told."""
    upload = _upload()
    file_name, data = upload.filename or "texture", upload.read()
    asked = RoleRequest.model_validate({"role": request.form.get("role", "")})
    name = request.form.get("name") or file_name.rsplit(".", 1)[0]
    with READING.turn():
        picture, format_ = reader().read(data, file_name)
        found = guess(picture, file_name)
        reading = Reading(asked.role) if asked.role else found.reading
        row = textures.add_read(db(), projects.first(db()).id, name, reading, data, (picture, format_))
    why = "" if asked.role else found.reason
    return dict(texture=described(row), note=picture.note, why=why)


@api.get("/<key>")
@takes()
def read(key: str) -> TextureFacts:
    """A texture with what is found out about it, and the graphs that use it."""
    row = textures.load(db(), key)
    found = textures.inspection(db(), row)
    users: list[GraphUser] = [
        {"id": one.id, "title": one.title, "motif": one.motif}
        for one in listing.using_texture(db(), row.project_id, row.id)
    ]
    return dict(
        texture=described(row),
        channels=[_channel(channel) for channel in found.channels],
        guess=found.guess,
        verdicts=list(found.verdicts),
        users=users,
    )


@api.post("/<key>/reading")
@takes(body=ReadingRequest)
def read_as(key: str, asked: ReadingRequest) -> TextureOnly:
    row = textures.read_as(db(), key, Reading(asked.role, asked.green))
    recipes.follow(db(), key)
    return dict(texture=described(row))


@api.post("/<key>/name")
@takes(body=NameRequest)
def rename(key: str, asked: NameRequest) -> TextureOnly:
    return dict(texture=described(textures.rename(db(), key, asked.name)))


@api.post("/<key>/file")
@takes(upload=("file",))
def replace_file(key: str) -> TextureOnly:
    """Another file in its place; every graph that uses the texture follows."""
    upload = _upload()
    data, name = upload.read(), upload.filename or "texture"
    with READING.turn():
        row, note = textures.replace_file(db(), key, data, reader().read(data, name))
        recipes.follow(db(), key)
    return dict(texture=described(row), note=note)


@api.post("/<key>/replace")
@takes(body=ReplaceRequest)
def replace_everywhere(key: str, asked: ReplaceRequest) -> Replaced:
    """Another texture in its place in every graph, motif and stack that reads it."""
    return replacing.replace_everywhere(db(), key, asked.by)


@api.post("/replace/undo")
@takes(body=Replaced)
def take_back(asked: Replaced) -> Replaced:
    replacing.take_back(db(), asked)
    return asked


@api.delete("/<key>")
@takes()
def delete(key: str) -> TextId:
    textures.delete(db(), key)
    return dict(id=key)


@api.post("/<key>/restore")
@takes()
def restore(key: str) -> TextureOnly:
    return dict(texture=described(textures.restore(db(), key)))


def _file_name(row: TextureRow, pattern: str, suffix: str) -> str:
    (name,) = file_names(pattern, [described(row)], suffix)
    return name


def _attached(name: str) -> dict[str, str]:
    return {"Content-Disposition": f'attachment; filename="{name}"'}


@api.get("/<key>/file")
@sends("application/octet-stream")
def file(key: str) -> Response:
    """The file as it came."""
    row = textures.load(db(), key)
    made = FORMATS[row.format]
    headers = _attached(_file_name(row, "{name}", made.suffixes[0]))
    return sent(*collected(blobs.stream(db(), row.sha256)), made.mimetype, headers)


@api.get("/<key>/as/<format_>")
@sends("application/octet-stream", query=SaveRequest)
def saved_as(key: str, format_: str, asked: SaveRequest) -> Response:
    """The picture in another format, or one channel of it."""
    made = writable(format_)
    row = textures.load(db(), key)
    found = textures.picture_of(db(), row)
    channel = asked.channel
    kept = one_channel(found, channel) if channel else found
    headers = _attached(_file_name(row, f"{{name}}-{channel}" if channel else "{name}", made.suffixes[0]))
    return Response(write_picture(fitted(kept, format_), format_), mimetype=made.mimetype, headers=headers)


@api.get("/all.zip")
@sends("application/zip", query=SaveAllRequest)
def all_as_zip(asked: SaveAllRequest) -> Response:
    """Every texture of the project in one format, named by a pattern."""
    format_, pattern = asked.format, asked.names
    writable(format_)
    rows = textures.listed(db(), projects.first(db()).id)
    with READING.turn():
        named = [NamedPicture(r.name, textures.reading_of(r), textures.picture_of(db(), r)) for r in rows]
        whole = as_zip(named, format_, pattern)
    return sent(*collected([whole]), "application/zip", _attached("textures.zip"))


@api.get("/<key>/picture.png")
@sends("image/png")
def picture(key: str) -> Response:
    """A small picture of it as seen on a screen. The address carries the revision, so it never changes."""
    row = textures.load(db(), key)
    seen = small_picture(textures.levels(db(), row), row.role == "colour", SMALL)
    return Response(write_png(seen, 1), mimetype="image/png", headers=FOR_EVER)


@api.get("/<key>/levels")
@sends("application/octet-stream", query=LevelsRequest)
def levels(key: str, asked: LevelsRequest) -> Response:
    """Levels one after the other as RGBA, row 0 at the bottom, from the first one not larger than ``most``.

    The headers tell the size of the first one sent and of the picture, the kind of its numbers, and whether they
    are encoded colours.
    """
    if key in MISSING:
        role: RoleKey = "colour" if key in MISSING_COLOURS else "data"
        made: Sequence[NDArray[Any]] = (missing_pixels(key),)
    else:
        row = textures.load(db(), key)
        with LEVELS.turn():
            role, made = row.role, textures.levels(db(), row)
    kept = [level for level in made if max(level.shape[:2]) <= asked.most] or [made[-1]]
    headers = {
        **FOR_EVER,
        "X-Texture-Size": f"{kept[0].shape[1]} {kept[0].shape[0]}",
        "X-Texture-Whole": f"{made[0].shape[1]} {made[0].shape[0]}",
        "X-Texture-Depth": made[0].dtype.name,
        "X-Texture-Colour": str(int(role == "colour")),
    }
    whole = Slices([np.ascontiguousarray(level).data for level in kept])
    return sent(whole, whole.length, "application/octet-stream", headers)
