"""The stacks of steps on meshes: changed, looked at while they are being changed, and baked."""

import hashlib
from collections.abc import Mapping
from typing import Any

import numpy as np
from flask import Blueprint, Response

from velvet_moth.core.baking.directions import flow_of
from velvet_moth.core.baking.glimpse import glimpse
from velvet_moth.core.baking.levels import loss_at_vertices
from velvet_moth.core.baking.mends import mended, softened
from velvet_moth.core.baking.stack import MeshStack, evaluate
from velvet_moth.core.baking.step import MESHES as FAMILY
from velvet_moth.core.baking.step import Made, OnMesh
from velvet_moth.core.base.cache import BoundedCache
from velvet_moth.core.base.errors import OperationRefused
from velvet_moth.core.forms.mesh import Floats, Mesh
from velvet_moth.core.meshes.facts import Verdict
from velvet_moth.core.stacks.stack import problems
from velvet_moth.store import mesh_stacks, meshes
from velvet_moth.store.errors import NotFound
from velvet_moth.store.models import MeshStackRow
from velvet_moth.web.api.contract import sends, takes
from velvet_moth.web.api.geometry import geometry_of
from velvet_moth.web.api.job_answers import JobState
from velvet_moth.web.api.jobs import job_state
from velvet_moth.web.api.mesh_answers import MeshPreview, MeshStackState
from velvet_moth.web.api.meshes import FOR_EVER
from velvet_moth.web.api.schemas import (
    GeometryRequest,
    MeshMendRequest,
    MeshPreviewRequest,
    SoftenRequest,
    StackEdit,
    StackStep,
)
from velvet_moth.web.api.stacks import described_step, picture_address
from velvet_moth.web.api.texture_answers import StepKind
from velvet_moth.web.database import db, release
from velvet_moth.web.lanes import MAKING

api = Blueprint("mesh_stacks", __name__, url_prefix="/api/meshes/<key>/stack")

# What was looked at last, by a hash that the page asks for it by.
_meshes_seen: BoundedCache[Mesh] = BoundedCache("meshes looked at", 6)
_values_seen: BoundedCache[bytes] = BoundedCache("numbers looked at", 64 << 20, len, "bytes")


def all_steps() -> list[StepKind]:
    return [described_step(step) for step in FAMILY.steps.values()]


def _state(row: MeshStackRow) -> MeshStackState:
    undo, redo = mesh_stacks.HISTORY.newest(db(), row)
    document: Any = row.document
    nothing = not (document["steps"] or document["outputs"] or document.get("levels"))
    return {
        "id": row.id,
        "revision": row.revision,
        "stack": document,
        "is_made": nothing if row.made is None else row.made == row.document,
        "undo": undo.words,
        "redo": redo.words,
    }


def _row(key: str) -> MeshStackRow:
    meshes.load(db(), key)
    return mesh_stacks.of_mesh(db(), key)


@api.get("")
@takes()
def read(key: str) -> MeshStackState:
    return _state(_row(key))


@api.post("/operations")
@takes(body=StackEdit)
def edit(key: str, asked: StackEdit) -> MeshStackState:
    return _state(mesh_stacks.HISTORY.change(db(), _row(key).id, asked.revision, asked.operation))


@api.post("/undo")
@takes(body=StackStep)
def undo(key: str, asked: StackStep) -> MeshStackState:
    return _state(mesh_stacks.HISTORY.undo(db(), _row(key).id, asked.revision))


@api.post("/redo")
@takes(body=StackStep)
def redo(key: str, asked: StackStep) -> MeshStackState:
    return _state(mesh_stacks.HISTORY.redo(db(), _row(key).id, asked.revision))


@api.post("/mend")
@takes(body=MeshMendRequest)
def mend(key: str, asked: MeshMendRequest) -> MeshStackState:
    """Adds the steps that mend what was found wrong."""
    row, stack = meshes.load(db(), key), _row(key)
    facts = row.facts
    verdicts = (Verdict(**verdict) for verdict in facts["verdicts"])
    found = next((one for one in verdicts if (one.key, one.channel) == (asked.verdict, asked.channel)), None)
    if found is None:
        raise OperationRefused("This is no longer wrong with the mesh.", row.name, "Look at the mesh again.")
    size = max(high - low for low, high in zip(facts["low"], facts["high"], strict=True))
    batch = mended(mesh_stacks.stack_in(db(), stack), found, size)
    return _state(mesh_stacks.HISTORY.change(db(), stack.id, asked.revision, batch))


@api.post("/soften")
@takes(body=SoftenRequest)
def soften(key: str, asked: SoftenRequest) -> MeshStackState:
    """Blurs a channel as is suggested where a level of detail loses too much of it."""
    row, stack = meshes.load(db(), key), _row(key)
    losses = row.levels[asked.level]["losses"] if asked.level < len(row.levels) else []
    radius = next((loss["soften"] for loss in losses if loss["channel"] == asked.channel), 0.0)
    if not radius:
        raise OperationRefused("Nothing suggests to soften this.", row.name, "Bake the mesh and look at it again.")
    batch = softened(mesh_stacks.stack_in(db(), stack), asked.channel, radius)
    return _state(mesh_stacks.HISTORY.change(db(), stack.id, asked.revision, batch))


@api.get("/loss/<int:level>/<channel>")
@sends("application/octet-stream")
def loss(key: str, level: int, channel: str) -> Response:
    """How far a channel of a level is off, one float32 for each vertex of the full mesh."""
    row = meshes.load(db(), key)
    if level >= len(row.levels) or channel not in row.channels:
        raise NotFound("There is no such level or channel.", f"level {level}, {channel}", "Look at the mesh again.")
    full, simple = meshes.mesh_of(db(), row), meshes.packed_mesh(db(), row.levels[level]["packed"])
    release()
    with MAKING.turn():
        off = loss_at_vertices(full, simple, channel)
    return Response(off.tobytes(), mimetype="application/octet-stream")


@api.post("/make")
@takes(body=StackStep)
def make(key: str, asked: StackStep) -> JobState:
    """Has the mesh baked by its stack as it is; everything that uses the mesh follows once that is done."""
    stack, row = mesh_stacks.HISTORY.current(db(), _row(key).id, asked.revision), meshes.load(db(), key)
    return job_state(mesh_stacks.ask(db(), row, stack.document))


@api.post("/preview")
@takes(body=MeshPreviewRequest)
def preview(key: str, asked: MeshPreviewRequest) -> MeshPreview:
    """One step of a stack on the mesh, and a small picture of each, without keeping anything."""
    work = mesh_stacks.work_as_asked(db(), key, asked.stack)
    stack = work.stack
    release()
    with MAKING.turn():
        made, ground, wrong = _each(work, stack, asked.rays)
    layers = made.get(asked.step, {})
    shown = layers.get(asked.layer) if asked.layer in layers else next(iter(layers.values()), None)
    seen = shown if isinstance(shown, Mesh) else ground.mesh
    values = None if shown is None or isinstance(shown, Mesh) else shown
    is_directions = values is not None and values.ndim > 1
    numbers = flow_of(ground.mesh, values) if values is not None and is_directions else values
    span = numbers[:, 2] if numbers is not None and is_directions else numbers
    # A form that a step in the middle has made is another one than that at the end.
    geometry = _remembered_mesh(seen, (ground.mark, None if seen is ground.mesh else asked.step))
    return {
        "problems": dict(wrong),
        "small": {step: _small(layers, ground) for step, layers in made.items()},
        "geometry": geometry,
        "values": _remembered_values(numbers) if numbers is not None else "",
        "is_directions": is_directions,
        "is_rough": bool(asked.rays) and any(_rays_of(stack, step) > asked.rays for step in made),
        "rays": asked.rays,
        "vertices": len(seen.positions),
        "triangles": len(seen.triangles),
        "low": float(span.min()) if span is not None else 0.0,
        "high": float(span.max()) if span is not None else 0.0,
        "mean": float(span.mean()) if span is not None else 0.0,
    }


def _rays_of(stack: MeshStack, step: str) -> int:
    use = stack.use(step)
    return int(use.settled().get("rays", 0)) if use else 0


def _each(work: mesh_stacks.Work, stack: MeshStack, rays: int) -> tuple[dict[str, Made], OnMesh, Mapping[str, str]]:
    """What every step that can be made has made; the mesh at the end; and what is wrong, by step."""
    context = work.context(most_rays=rays or 1 << 16)
    wrong = dict(problems(stack))
    made: dict[str, Made] = {}
    _, ground = evaluate(MeshStack(stack.name), work.came_in, work.base, context)
    for use in stack.steps:
        if use.id in wrong:
            continue
        try:
            found, ground = evaluate(stack, work.came_in, work.base, context, {use.id})
            made[use.id] = found[use.id]
        except OperationRefused as refusal:
            # A step that fails takes those with it that need it, which are not to blame.
            if refusal.what not in wrong.values():
                wrong[use.id] = refusal.what
    return made, ground, wrong


def _small(layers: Made, ground: OnMesh) -> str:
    first = next(iter(layers.values()))
    if isinstance(first, Mesh):
        return picture_address(glimpse(first))
    return picture_address(glimpse(ground.mesh, first if first.ndim == 1 else first * 0.5 + 0.5))


def _remembered_mesh(mesh: Mesh, mark: Any) -> str:
    key = hashlib.sha256(repr(mark).encode()).hexdigest()[:32]
    _meshes_seen.get(key, lambda: mesh)
    return key


def _remembered_values(values: Floats) -> str:
    data = np.ascontiguousarray(values, dtype=np.float32).tobytes()
    key = hashlib.sha256(data).hexdigest()[:32]
    _values_seen.get(key, lambda: data)
    return key


def _gone(what: str) -> NotFound:
    return NotFound(f"{what} are no longer remembered.", "preview", "Look at the step again.")


@api.get("/seen/<seen>")
@sends("application/octet-stream", query=GeometryRequest)
def seen_geometry(key: str, seen: str, asked: GeometryRequest) -> Response:
    """The form that a preview has named, as forms are sent."""
    found = _meshes_seen.find(seen)
    if found is None:
        raise _gone("These forms")
    return geometry_of(found, asked)


@api.get("/values/<seen>")
@sends("application/octet-stream")
def seen_values(key: str, seen: str) -> Response:
    """The numbers that a preview has named, float32: one for each vertex of its form, or three of directions."""
    found = _values_seen.find(seen)
    if found is None:
        raise _gone("These numbers")
    return Response(found, mimetype="application/octet-stream", headers=FOR_EVER)
