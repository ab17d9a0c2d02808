"""Search in the catalogue."""

from typing import Any

from flask import Blueprint, jsonify, request

from velvet_moth.core.catalogue import search

api = Blueprint("nodes", __name__, url_prefix="/api/nodes")


@api.get("/search")
def find() -> Any:
    query = request.args.get("q", "")[:80]
    return jsonify(hits=[{"key": hit.node.key, "why": hit.why} for hit in search(query)])
