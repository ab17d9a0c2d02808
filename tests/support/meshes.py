"""Meshes to test with, and what the programs of the standards say of them."""

import base64
import json
import subprocess
from pathlib import Path
from typing import Any

import numpy as np
from numpy.typing import NDArray

from velvet_moth.core.meshes.source import Floats, Indices, SourceMesh

_PROGRAM = Path(__file__).with_name("meshes.js")


def _asked(**what: Any) -> Any:
    made = subprocess.run(["node", _PROGRAM], input=json.dumps(what), capture_output=True, text=True, check=True)
    return json.loads(made.stdout)


def validated(glb: bytes) -> dict[str, Any]:
    """The findings of the validator of glTF about a GLB."""
    found: dict[str, Any] = _asked(glb=base64.b64encode(glb).decode())
    return found


def standard_tangents(positions: Floats, normals: Floats, uvs: Floats, triangles: Indices) -> NDArray[np.float64]:
    """The tangents of every corner, (3 m, 4), by the standard's own code."""
    corners = [
        base64.b64encode(v[triangles.reshape(-1)].astype("<f4").tobytes()).decode() for v in (positions, normals, uvs)
    ]
    return np.array(_asked(corners=corners)).reshape(-1, 4)


def of_another_maker() -> tuple[dict[str, bytes], dict[str, NDArray[np.float32]]]:
    """A mesh that ships in a package, as the writers of that package save it: files by name, and what its corners hold."""
    made = subprocess.run(["node", _PROGRAM.with_name("others.js")], capture_output=True, text=True, check=True)
    found = json.loads(made.stdout)
    files = {name: base64.b64decode(data) for name, data in found["files"].items()}
    return files, {name: np.array(values, dtype=np.float32) for name, values in found["corners"].items()}


def sample_mesh(depth: str = "8 bit", seed: int = 1) -> SourceMesh:
    """A bent sheet of two parts with everything that a mesh can carry; every number of it is a random one."""
    random = np.random.default_rng(seed)
    side = 9
    x, z = np.meshgrid(np.linspace(-1, 1, side), np.linspace(-1, 1, side))
    positions = np.stack((x, 0.3 * np.sin(2 * x) * z, z), axis=-1).reshape(-1, 3).astype(np.float32)
    at = np.arange(side * side).reshape(side, side)
    a, b, c, d = at[:-1, :-1], at[1:, :-1], at[1:, 1:], at[:-1, 1:]
    triangles = np.stack((a, b, c, a, c, d), axis=-1).reshape(-1, 3).astype(np.uint32)
    count = len(positions)

    def unit(width: int) -> NDArray[np.float64]:
        v = random.normal(size=(count, width))
        return v / np.linalg.norm(v, axis=1, keepdims=True)

    most = {"8 bit": 255, "16 bit": 65535}.get(depth)
    colours = random.random((count, 4)) if most is None else random.integers(0, most + 1, (count, 4)) / most
    uvs = 1 - (1 - random.random((2, count, 2), dtype=np.float32))
    return SourceMesh(
        positions,
        triangles,
        normals=unit(3).astype(np.float32),
        tangents=np.concatenate((unit(3), random.choice([-1.0, 1.0], (count, 1))), axis=1).astype(np.float32),
        uvs=uvs[0],
        second_uvs=uvs[1],
        colours=colours.astype(np.float32),
        depth=depth,
        more={"growth": random.normal(size=count).astype(np.float32)},
        part_of=(np.arange(len(triangles)) >= 60).astype(np.int32),
        part_names=("Plank", "Iron strap"),
    )
