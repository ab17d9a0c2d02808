"""Textures: the list, import, making noise, and their pixels for the stage."""

from typing import Any

from flask import Blueprint, Response, jsonify, request

from velvet_moth.core.errors import FileRefused
from velvet_moth.core.texture.files import read_picture
from velvet_moth.core.texture.generate import (
    NoiseRecipe,
    height_pixels,
    noise_height,
    normal_from_height,
    normal_pixels,
)
from velvet_moth.core.texture.library import MISSING, missing_pixels
from velvet_moth.store import projects, textures
from velvet_moth.store.models import TextureRow
from velvet_moth.web.api.schemas import NoiseRequest
from velvet_moth.web.database import db

api = Blueprint("textures", __name__, url_prefix="/api/textures")

FOR_EVER = {"Cache-Control": "private, max-age=31536000, immutable"}


def described(row: TextureRow) -> dict[str, Any]:
    return {"id": row.id, "name": row.name, "role": row.role, "width": row.width, "height": row.height}


@api.get("")
def listed() -> Any:
    return jsonify(textures=[described(r) for r in textures.listed(db(), projects.first(db()).id)])


@api.post("")
def take_in() -> Any:
    sent = request.files.get("file")
    if sent is None:
        raise FileRefused("No file came with the request.", "file", "Choose a PNG or JPEG picture.")
    name = request.form.get("name") or (sent.filename or "texture").rsplit(".", 1)[0]
    picture = read_picture(sent.read(), sent.filename or "texture")
    row = textures.add(db(), projects.first(db()).id, name, request.form.get("role", "colour"), picture.pixels)
    return jsonify(texture=described(row), note=picture.note)


@api.post("/generate")
def generate() -> Any:
    asked = NoiseRequest.model_validate(request.get_json())
    height = noise_height(NoiseRecipe(asked.pattern, asked.size, asked.cells, asked.layers, asked.seed))
    project = projects.first(db())
    made = [textures.add(db(), project.id, f"{asked.name} height", "data", height_pixels(height))]
    if asked.normal:
        pixels = normal_pixels(normal_from_height(height, asked.strength))
        made.append(textures.add(db(), project.id, f"{asked.name} normal", "normal", pixels))
    return jsonify(textures=[described(r) for r in made])


@api.get("/<key>/picture.png")
def picture(key: str) -> Response:
    _, png = textures.load(db(), key)
    return Response(png, mimetype="image/png", headers=FOR_EVER)


@api.get("/<key>/levels")
def levels(key: str) -> Response:
    """All levels one after the other as RGBA bytes, row 0 at the bottom; the first one's size in the headers."""
    if key in MISSING:
        pixels, role, made = missing_pixels(key), "data", (missing_pixels(key),)
    else:
        row, png = textures.load(db(), key)
        made = textures.levels_of(row, png)
        pixels, role = made[0], row.role
    headers = {
        **FOR_EVER,
        "X-Texture-Size": f"{pixels.shape[1]} {pixels.shape[0]}",
        "X-Texture-Colour": str(int(role == "colour")),
    }
    return Response(b"".join(m.tobytes() for m in made), mimetype="application/octet-stream", headers=headers)
