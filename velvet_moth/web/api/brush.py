"""A brush on a mesh: what a stroke changes while it is drawn, the strokes there are, and steps as a file."""

from typing import Any

import numpy as np
from flask import Blueprint, Response

from velvet_moth.core.baking.brush import Drawn, channels_shown, drawing_on
from velvet_moth.core.baking.directions import flow_of
from velvet_moth.core.baking.painting.laying import strokes_over
from velvet_moth.core.baking.stack import MeshStack, directions_of, evaluate, mesh_stack_to_json
from velvet_moth.core.baking.streamlines import streamlines
from velvet_moth.core.base.cache import BoundedCache
from velvet_moth.core.base.errors import OperationRefused
from velvet_moth.store import mesh_stacks, meshes
from velvet_moth.store.errors import NotFound
from velvet_moth.web.api.contract import sends, takes
from velvet_moth.web.api.mesh_answers import StrokesOver, StrokesState
from velvet_moth.web.api.schemas import BrushRequest, ChannelsRequest, LinesRequest, StrokesAtRequest
from velvet_moth.web.database import db, release
from velvet_moth.web.lanes import MAKING

api = Blueprint("brush", __name__, url_prefix="/api/meshes/<key>/stack")

# Of so many straight pieces is each line that directions run along.
STEPS = 24
# Strokes under way, by the name that the page has given each.
_drawn: BoundedCache[Drawn] = BoundedCache("strokes under way", 24)


def _stack(key: str) -> MeshStack:
    meshes.load(db(), key)
    return mesh_stacks.stack_in(db(), mesh_stacks.of_mesh(db(), key))


@api.post("/brush")
@sends("application/octet-stream", body=BrushRequest)
def draw(key: str, asked: BrushRequest) -> Response:
    """Draws on along new points: the vertices that this changes (uint32), then what is seen there (float32): four numbers
    each, of which channels keep some.

    The first call of a stroke brings the stack. Without it the server must still know the stroke; else the page sends all of it again.
    """
    name = (key, asked.drawing)
    drawn = _drawn.find(name)
    if asked.stack is not None:
        work = mesh_stacks.work_as_asked(db(), key, asked.stack)
        release()
        with MAKING.turn():
            begun = drawn = drawing_on(work.stack, asked.step, work.came_in, work.base, work.context())
        _drawn.drop(name)
        _drawn.get(name, lambda: begun)
    if drawn is None or len(drawn.drawing.rows) != asked.begun:
        raise NotFound("The stroke is no longer known.", "brush", "Draw it once more.")
    vertices, values = drawn.go_on(asked.stroke)
    body = vertices.astype("<u4").tobytes() + np.ascontiguousarray(values, dtype="<f4").tobytes()
    return Response(body, mimetype="application/octet-stream", headers={"X-Vertices": str(len(vertices))})


@api.get("/strokes/<step>")
@takes()
def listed(key: str, step: str) -> StrokesState:
    """The strokes of a painted step, the first one first, and which of them meet no surface."""
    row, stack = meshes.load(db(), key), _stack(key)
    use = stack.use(step)
    if use is None:
        raise OperationRefused("This step is no longer in the stack.", f"step {step[:40]}", "Undo brings it back.")
    strokes = use.strokes("lines")
    work = mesh_stacks.work_on(db(), row, stack.form(), {})
    release()
    with MAKING.turn():
        _, ground = evaluate(work.stack, work.came_in, work.base, work.context(), set())
        missing = set(ground.surface.misses(strokes))
        # Whoever opens a painted step will draw on it: the first stroke need not wait for this.
        _ = ground.surface.tree
    return {
        "channels": channels_shown(stack, step),
        "strokes": [
            {
                "mode": one.mode,
                "touches": list(one.touches),
                "value": one.value,
                "fill": one.fill,
                "points": len(one.rows),
                "first": [float(part) for part in one.rows[0, :3]],
                "misses": at in missing,
            }
            for at, one in enumerate(strokes)
        ],
    }


@api.get("/strokes/<step>/at")
@takes(query=StrokesAtRequest)
def over(key: str, step: str, asked: StrokesAtRequest) -> StrokesOver:
    """The strokes of a painted step that go over a place, the last one first."""
    use = _stack(key).use(step)
    return {"strokes": strokes_over(use.strokes("lines"), np.array((asked.x, asked.y, asked.z))) if use else []}


@api.post("/lines")
@sends("application/octet-stream", body=LinesRequest)
def lines(key: str, asked: LinesRequest) -> Response:
    """Lines that the directions of a step run along, ``STEPS`` + 1 places each (three float32 numbers, metres)."""
    work = mesh_stacks.work_as_asked(db(), key, asked.stack)
    layer = directions_of(work.stack, asked.step)
    release()
    with MAKING.turn():
        made, ground = evaluate(work.stack, work.came_in, work.base, work.context(), {asked.step})
        found = streamlines(ground.mesh, made[asked.step][layer], asked.count, asked.length, STEPS)
    return Response(found.astype("<f4").tobytes(), mimetype="application/octet-stream")


@api.post("/channels")
@sends("application/octet-stream", body=ChannelsRequest)
def channels(key: str, asked: ChannelsRequest) -> Response:
    """What the channels of a stack would be, without baking it: a row of float32 for each, in the order of its outputs.

    Then the directions of ``step``, where it gives any: along U, along V and the speed of each vertex.
    """
    work = mesh_stacks.work_as_asked(db(), key, asked.stack)
    stack = work.stack
    release()
    with MAKING.turn():
        wanted = {output.step for output in stack.outputs} | ({asked.step} if stack.use(asked.step) else set())
        made, ground = evaluate(stack, work.came_in, work.base, work.context(), wanted)
        rows = [made[output.step][output.layer] for output in stack.outputs]
        directions = made.get(asked.step, {}).get("directions")
        if directions is not None:
            rows.append(flow_of(ground.mesh, directions))
    body = b"".join(np.ascontiguousarray(row, dtype="<f4").tobytes() for row in rows)
    headers = {"X-Vertices": str(ground.count)}
    return Response(body, mimetype="application/octet-stream", headers=headers)


@api.get("/file")
@takes()
def as_file(key: str) -> dict[str, Any]:
    """The stack with its strokes, as ./moth mesh takes it."""
    return mesh_stack_to_json(_stack(key))
