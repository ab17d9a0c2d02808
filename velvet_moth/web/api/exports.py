"""A graph for engines: its text in a language, and the whole package."""

import io
import zipfile
from collections.abc import Mapping

from flask import Blueprint, Response

from velvet_moth.core.base.errors import OperationRefused
from velvet_moth.core.document.graph import Node
from velvet_moth.core.exporting.exported import exported, lowered_for_export
from velvet_moth.core.exporting.package import Beside, left_behind, packaged, stem
from velvet_moth.core.exporting.packing import NO_PACKING, packing_of
from velvet_moth.core.exporting.proof import proofs
from velvet_moth.core.materialx.package import SUFFIX, MaterialFiles, material_files
from velvet_moth.core.pictures.formats import writable
from velvet_moth.core.pictures.library import NamedPicture
from velvet_moth.core.render.binding_list import ReadTexture
from velvet_moth.core.render.shading import drawing
from velvet_moth.core.workbench.problems import beyond_devices
from velvet_moth.store import graphs, textures
from velvet_moth.web.api.contract import sends, takes
from velvet_moth.web.api.export_answers import ExportText, MaterialText
from velvet_moth.web.api.export_requests import ExportRequest, MaterialRequest, PackageRequest
from velvet_moth.web.api.state import sessions
from velvet_moth.web.database import db, release
from velvet_moth.web.lanes import MAKING

api = Blueprint("exports", __name__, url_prefix="/api/graphs")


@api.get("/<int:key>/text")
@takes(query=ExportRequest)
def text(key: int, asked: ExportRequest) -> ExportText:
    """A graph as a text in a language."""
    kept = graphs.load(db(), key)
    graph, choices = kept.graph, asked.choices
    read = {id_: ReadTexture(one.name, one.reading) for id_, one in kept.textures.items()}
    packing = packing_of(graph, _pictures(kept)) if choices.packed else NO_PACKING
    release()
    lowered = lowered_for_export(graph, choices.variant, choices.switches)
    made = exported(graph, choices, read, lowered, packing)
    # A switch is no value of the stage: its shader has toggles settled.
    shown = drawing(lowered_for_export(graph, choices.variant) if choices.switches else lowered)
    ends = (one.offset // 4 + one.type.width for one in made.module.values)
    return {
        "text": made.text,
        "file": f"{stem(graph)}{choices.dialect.suffix}",
        "values": len(made.module.values),
        "switches": len(made.module.switches),
        "textures": len(made.module.samplers),
        "floats": max(ends, default=0),
        "operations": shown.cost.operations,
        "proof": proofs()[choices.language].words,
        "words": [
            *made.words,
            *(one.what for one in beyond_devices(graph, shown.shader)),
            *left_behind(graph, choices),
        ],
        "nodes": {str(line): list(ids) for line, ids in made.nodes.items()},
        "names": {id_: _called(graph.nodes[id_]) for ids in made.nodes.values() for id_ in ids},
    }


def _called(node: Node) -> str:
    return node.label or node.kind.name


@api.get("/<int:key>/material")
@takes(query=MaterialRequest)
def material(key: int, asked: MaterialRequest) -> MaterialText:
    """A graph as a document of MaterialX."""
    kept = graphs.load(db(), key)
    made = _material(kept, asked).document
    return {"text": made.text, "file": f"{stem(kept.graph)}{SUFFIX}", "nodes": made.nodes, "words": list(made.words)}


@api.get("/<int:key>/material.zip")
@sends("application/zip", query=MaterialRequest)
def material_package(key: int, asked: MaterialRequest) -> Response:
    """A document of MaterialX with its pictures beside it, in a ZIP."""
    kept = graphs.load(db(), key)
    made, name = _material(kept, asked), stem(kept.graph)
    return _packed({f"{name}{SUFFIX}": made.document.text.encode(), **made.pictures}, f"{name}_material.zip")


def _material(kept: graphs.StoredGraph, asked: MaterialRequest) -> MaterialFiles:
    writable(asked.textures)
    if asked.variant and asked.variant not in {v.id for v in kept.graph.variants}:
        raise OperationRefused("The graph has no such variant.", "variant", "Choose one of its variants.")
    pictures, meshes = _pictures(kept), sessions().sources.meshes(kept.mesh)
    release()
    with MAKING.turn():
        return material_files(kept.graph, asked.variant, pictures, asked.textures, meshes(kept.graph.mesh))


def _pictures(kept: graphs.StoredGraph) -> dict[str, NamedPicture]:
    return {
        id_: NamedPicture(one.name, one.reading, textures.picture_of(db(), one)) for id_, one in kept.textures.items()
    }


def _packed(files: Mapping[str, bytes], name: str) -> Response:
    packed = io.BytesIO()
    with zipfile.ZipFile(packed, "w", zipfile.ZIP_DEFLATED) as archive:
        for path, data in files.items():
            archive.writestr(path, data)
    headers = {"Content-Disposition": f'attachment; filename="{name}"'}
    return Response(packed.getvalue(), mimetype="application/zip", headers=headers)


@api.get("/<int:key>/package.zip")
@sends("application/zip", query=PackageRequest)
def package(key: int, asked: PackageRequest) -> Response:
    """The files of an export in a ZIP: text, what is bound, its schema, textures, and a page for the engine's side."""
    kept = graphs.load(db(), key)
    writable(asked.textures)
    pictures, meshes = _pictures(kept), sessions().sources.meshes(kept.mesh)
    release()
    with MAKING.turn():
        brought = meshes(kept.graph.mesh)
        beside = Beside(pictures, asked.textures, asked.most, asked.names, brought, bool(asked.mesh))
        files = packaged(kept.graph, asked.choices, beside)
    return _packed(files, f"{stem(kept.graph)}_{asked.language}.zip")
