"""Shipped files under one hash of their whole tree, so that browsers may keep them for ever."""

import base64
import hashlib
import json
from pathlib import Path

from flask import Blueprint, Response, send_from_directory

STATIC = Path(__file__).parent / "static"

assets = Blueprint("assets", __name__)


class Assets:
    """Addresses of shipped files, and the import map that names the script modules."""

    def __init__(self) -> None:
        found = hashlib.sha256()
        for path in sorted(STATIC.rglob("*")):
            if path.is_file():
                found.update(str(path.relative_to(STATIC)).encode() + path.read_bytes())
        self.tree = found.hexdigest()[:16]
        self.import_map = json.dumps(
            {
                "imports": {
                    "three": self.url("vendor/three/three.module.js"),
                    "three/addons/controls/": self.url("vendor/three-addons/"),
                    "three-mesh-bvh": self.url("vendor/three-mesh-bvh/index.module.js"),
                    "dagre": self.url("vendor/dagre/dagre.esm.js"),
                    "moth/": self.url("js/"),
                }
            }
        )
        digest = base64.b64encode(hashlib.sha256(self.import_map.encode()).digest()).decode()
        self.content_policy = "; ".join(
            (
                "default-src 'none'",
                f"script-src 'self' 'sha256-{digest}'",
                "style-src 'self'",
                "img-src 'self' data: blob:",
                "font-src 'self'",
                "connect-src 'self'",
                "worker-src 'self'",
                "form-action 'self'",
                "base-uri 'none'",
                "frame-ancestors 'none'",
            )
        )

    def url(self, name: str) -> str:
        return f"/assets/{self.tree}/{name}"


@assets.get("/assets/<tree>/<path:name>")
def file(tree: str, name: str) -> Response:
    response = send_from_directory(STATIC, name)
    response.headers["Cache-Control"] = "public, max-age=31536000, immutable"
    return response
