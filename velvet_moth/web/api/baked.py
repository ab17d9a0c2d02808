"""A graph baked for other programs: asked for as a job, then fetched, with how far it differs."""

from flask import Blueprint, Response

from velvet_moth.core.exporting.baked.glb import checked_bake
from velvet_moth.core.exporting.package import stem
from velvet_moth.store import baked_files, graphs, jobs
from velvet_moth.store.models import BakedFileRow
from velvet_moth.web.api.contract import sends, takes
from velvet_moth.web.api.export_answers import BakedFiles, BakedFileState
from velvet_moth.web.api.export_requests import BakeRequest
from velvet_moth.web.api.job_answers import JobState
from velvet_moth.web.api.jobs import job_state
from velvet_moth.web.database import db

api = Blueprint("baked", __name__, url_prefix="/api")


def _state(row: BakedFileRow) -> BakedFileState:
    choices = baked_files.CHOICES.validate_python(row.found["choices"])
    sides: list[float] = row.found["sides"]
    return {
        "id": row.id,
        "made": row.made.isoformat(),
        "bytes": row.found["size"],
        "side": choices.size,
        "variant": choices.variant,
        "pictures": row.found["pictures"],
        "words": row.found["words"],
        "sides": sides,
        "mean": sum(sides) / len(sides),
    }


@api.get("/graphs/<int:key>/baked")
@takes()
def listed(key: int) -> BakedFiles:
    """What was baked of a graph and is kept, the newest first."""
    graphs.load(db(), key)
    return {"files": [_state(row) for row in baked_files.of_graph(db(), key)]}


@api.post("/graphs/<int:key>/baked")
@takes(body=BakeRequest)
def bake(key: int, asked: BakeRequest) -> JobState:
    """Has a graph baked, as a job; its subject is the file's id in the end."""
    graph = graphs.load(db(), key).graph
    arguments = baked_files.CHOICES.dump_python(checked_bake(graph, asked.choices), mode="json")
    return job_state(jobs.begin(db(), "bake_graph", f"Baking {graph.title}"[:120], str(key), arguments))


@api.get("/baked/<key>/file.glb")
@sends("model/gltf-binary")
def file(key: str) -> Response:
    """The file."""
    row = baked_files.load(db(), key)
    name = f"{stem(graphs.load(db(), row.graph_id).graph)}.glb"
    headers = {"Content-Disposition": f'attachment; filename="{name}"'}
    return Response(row.data, mimetype="model/gltf-binary", headers=headers)


@api.get("/baked/<key>/sides.png")
@sends("image/png")
def sides(key: str) -> Response:
    """The graph from four sides, and below it what was baked."""
    return Response(baked_files.load(db(), key).sides, mimetype="image/png")
