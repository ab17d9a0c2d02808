"""Meshes of Heron Lock, made by code as files from elsewhere would come: without UVs, normals or vertex data."""

from collections.abc import Callable, Mapping
from dataclasses import dataclass, field
from typing import Any

import numpy as np
from numpy.typing import NDArray

from velvet_moth.core.baking.over_uvs import flow_over_uvs
from velvet_moth.core.baking.stack import baked, mesh_stack_from_json
from velvet_moth.core.baking.step import MESHES, BakingContext
from velvet_moth.core.forms import Mesh, form
from velvet_moth.core.making.exchange import picture_of
from velvet_moth.core.meshes.bringing import brought
from velvet_moth.core.meshes.formats import FORMATS
from velvet_moth.core.meshes.rows import numbered
from velvet_moth.core.meshes.source import SourceMesh
from velvet_moth.core.pictures.library import NamedPicture
from velvet_moth.core.pictures.reading import Reading
from velvet_moth.demo.keepers_house import HOUSE, LANTERN, mesh_file
from velvet_moth.demo.painted import QUAY_PAINT, quay_sheet
from velvet_moth.demo.sea import SHALLOWS, estuary_sheet
from velvet_moth.demo.streams import FOAM_STROKES, STREAM_STROKES, weir_stream_mesh
from velvet_moth.demo.strokes import through

Places = NDArray[np.float64]
Solid = tuple[Places, NDArray[np.int64]]

# The rudder hangs by its left edge; metres.
WIDTH, THICKNESS = 0.9, 0.11
PLANKS, GAP = 5, 0.006
STRAPS = (0.38, 1.02, 1.66)
# Pixels around the islands of a flow map.
PADDING, FLOW_DEPTH = 8, "16 bit"


def block(half: tuple[float, float, float], radius: float, cells: tuple[int, int, int]) -> Solid:
    """A block with rounded edges about the origin, of so many cells along x, y and z."""
    size, core = np.array(half), np.array(half) - radius
    positions: list[Places] = []
    triangles: list[NDArray[np.int64]] = []
    for axis in range(3):
        # In this order each face is seen from outside.
        first, second = (axis + 1) % 3, (axis + 2) % 3
        a, b = np.meshgrid(*(np.linspace(-1, 1, cells[i] + 1) for i in (first, second)), indexing="ij")
        at = np.arange(a.size).reshape(a.shape)
        corners = (at[:-1, :-1], at[1:, :-1], at[1:, 1:], at[:-1, 1:])
        for side in (1.0, -1.0):
            place = np.empty((a.size, 3))
            place[:, axis], place[:, first], place[:, second] = side, a.ravel(), b.ravel()
            p, q, r, s = corners if side > 0 else corners[::-1]
            triangles.append(np.stack((p, q, r, p, r, s), axis=-1).reshape(-1, 3) + sum(map(len, positions)))
            positions.append(place * size)
    whole = np.concatenate(positions)
    inner = np.clip(whole, -core, core)
    outward = whole - inner
    length = np.linalg.norm(outward, axis=1, keepdims=True)
    return _welded(inner + outward / np.maximum(length, 1e-12) * radius, np.concatenate(triangles))


def _welded(positions: Places, triangles: NDArray[np.int64]) -> Solid:
    """Corners at the same place, to a micrometre, are one."""
    place = numbered(np.round(positions, 6).astype(np.float32))
    _, first = np.unique(place, return_index=True)
    return positions[first], place[triangles]


def _waves(at: Places, seed: int, count: int = 5) -> NDArray[np.float64]:
    """Smooth unevenness about 0: waves of different length along the three axes."""
    random = np.random.default_rng(seed)
    ways, phases = random.normal(size=(count, 3)), random.uniform(0, 2 * np.pi, count)
    return np.asarray(np.sin(at @ ways.T * 6.0 + phases).mean(axis=1))


def _plank(number: int) -> Solid:
    """One of the planks: raised grain along it, ends that rot and fray, the lower ones cut along the rudder's curve."""
    wide = WIDTH / PLANKS
    middle = (number + 0.5) * wide - WIDTH / 2
    high = 2.2 - 0.09 * number
    at, triangles = block(((wide - GAP) / 2, high / 2, THICKNESS / 2), 0.009, (20, 150, 5))
    x, y, z = at.T
    along = y / high + 0.5
    grain = np.sin(x * 190.0 + 3.0 * _waves(at * (1, 0.6, 0), 10 + number)) * 0.0014
    frayed = np.maximum(0.0, 1 - along / 0.16) ** 2
    at[:, 2] += np.sign(z) * (grain - 0.016 * frayed + 0.003 * _waves(at * (3, 1, 0), 30 + number))
    at[:, 0] += 0.002 * _waves(at * (0, 1.2, 0), 50 + number)
    # The heel runs up in a curve towards the right edge.
    heel = 0.34 * ((middle + x + WIDTH / 2) / WIDTH) ** 2
    at[:, 1] += high / 2 + heel * (1 - along) + 0.03 * frayed * _waves(at * (9, 0, 2), 70 + number)
    at[:, 0] += middle
    return at, triangles


def _strap(height: float, number: int) -> Solid:
    """An iron strap around all planks, hammered uneven."""
    at, triangles = block((WIDTH / 2 + 0.014, 0.045, THICKNESS / 2 + 0.013), 0.006, (110, 8, 8))
    at += 0.0016 * _waves(at * (5, 5, 5), 90 + number)[:, None]
    return at + np.array((0.0, height, 0.0)), triangles


def _bolts() -> Solid:
    """Heads of bolts in two rows on both sides of every strap."""
    made: list[Solid] = []
    for height in STRAPS:
        for number in range(PLANKS):
            for side in (1.0, -1.0):
                at, triangles = block((0.017, 0.017, 0.012), 0.0115, (5, 5, 4))
                x = (number + 0.5) * WIDTH / PLANKS - WIDTH / 2
                place = np.array((x, height, side * (THICKNESS / 2 + 0.016)))
                made.append((at + place, triangles))
    return _together(made)


def _together(solids: list[Solid]) -> Solid:
    starts = np.cumsum([0, *(len(positions) for positions, _ in solids)])
    faces = [triangles + start for (_, triangles), start in zip(solids, starts, strict=False)]
    return np.concatenate([positions for positions, _ in solids]), np.concatenate(faces)


def rudder_board() -> bytes:
    """The rudder of the ferry: seasoned planks, iron straps, bolts. A GLB of three parts, some 60,000 vertices."""
    parts = {
        "Planks": _together([_plank(number) for number in range(PLANKS)]),
        "Iron straps": _together([_strap(height, number) for number, height in enumerate(STRAPS)]),
        "Bolts": _bolts(),
    }
    positions, triangles = _together(list(parts.values()))
    sizes = [len(solid[1]) for solid in parts.values()]
    return FORMATS["gltf"].encode(
        SourceMesh(
            positions.astype(np.float32),
            triangles.astype(np.uint32),
            part_of=np.repeat(np.arange(len(parts)), sizes).astype(np.int32),
            part_names=tuple(parts),
        )
    )


# What the rules cannot know: a corner of the second pennant is tied to the stay, and the tip of the third is torn loose.
TIED = [
    through(((1.15, 0.35, 0.0), (1.5, 0.3, 0.0)), 0.4, value=0.1, softness=1.0),
    through(((4.5, 0.0, 0.0), (4.85, 0.0, 0.0)), 0.5, mode="add", value=0.15, softness=1.0),
]
# Hair that is pinned beside the face, and locks at the nape that have come loose.
PINNED = [
    through(((0.42, 0.35, 0.3), (0.46, 0.1, 0.25)), 0.22, mode="take away", value=0.25, softness=1.0),
    through(((-0.1, -0.55, -0.45), (0.15, -0.6, -0.45)), 0.25, mode="add", value=0.3, softness=1.0),
]


def _of_form(key: str, copies: int = 1, apart: float = 0.0) -> bytes:
    """A form as a file from elsewhere would hold it, without vertex data; several of it in a row along x."""
    one = form(key)
    count = len(one.positions)
    places = np.concatenate([one.positions + np.array((apart * at, 0, 0), dtype=np.float32) for at in range(copies)])
    return FORMATS["gltf"].encode(
        SourceMesh(
            places,
            np.concatenate([one.triangles + np.uint32(count * at) for at in range(copies)]),
            normals=np.tile(one.normals, (copies, 1)),
            uvs=np.tile(one.uvs, (copies, 1)),
        )
    )


def _steps(
    *steps: tuple[str, str, Mapping[str, Any]],
    channels: Mapping[str, tuple[str, str] | tuple[str, str, str]],
    levels: tuple[float, ...] = (),
) -> dict[str, Any]:
    """A stack on a mesh: ``steps`` as (id, kind, values), ``channels`` by place as (name, step), and the layer where it is not the first."""
    layers = {key: MESHES.steps[kind].layers[0] for key, kind, _ in steps}
    return {
        "name": "Steps",
        "steps": [{"id": key, "step": kind, "values": dict(values)} for key, kind, values in steps],
        "outputs": [
            {"id": place, "name": name, "step": step, "layer": layer[0] if layer else layers[step]}
            for place, (name, step, *layer) in channels.items()
        ],
        "levels": [{"share": share} for share in levels],
    }


@dataclass(frozen=True)
class DemoMesh:
    """A mesh of the demo: its name, its file, and what is baked on it.

    ``flows`` are flow maps of its directions: by what graphs call each the step, and how many pixels it has a side.
    """

    name: str
    make: Callable[[], bytes]
    stack: Mapping[str, Any]
    flows: Mapping[str, tuple[str, int]] = field(default_factory=dict)

    def came_in(self) -> Mesh:
        """It as its file has it."""
        file = f"{self.name}.glb"
        return brought({file: self.make()}, file).mesh

    def baked(self) -> Mesh:
        """It as its stack makes it."""
        return baked(mesh_stack_from_json(self.stack), self.came_in(), self.name, BakingContext())

    def flow_maps(self) -> dict[str, NamedPicture]:
        """Its flow maps, by what graphs call them."""
        stack, came_in = mesh_stack_from_json(self.stack), self.came_in() if self.flows else None
        found: dict[str, NamedPicture] = {}
        for key, (step, size) in self.flows.items():
            assert came_in is not None, "there are flows"
            layer = flow_over_uvs(stack, came_in, self.name, BakingContext(), step, size, PADDING)
            found[key] = NamedPicture(f"{self.name} flow", Reading(layer.role), picture_of(layer, FLOW_DEPTH))
        return found


# By the key that graphs of the demo call it by.
DEMO_MESHES: Mapping[str, DemoMesh] = {
    "keepers_house": DemoMesh(
        HOUSE.name,
        lambda: mesh_file(HOUSE),
        _steps(
            ("hidden", "occlusion", {"rays": 32, "reach": 2.5}),
            ("edges", "curvature", {"radius": 0.12}),
            channels={"red": ("Open sky", "hidden"), "green": ("Outer edges", "edges")},
        ),
    ),
    "block_lantern": DemoMesh(LANTERN.name, lambda: mesh_file(LANTERN), _steps(channels={})),
    "rudder_board": DemoMesh(
        "Rudder board",
        rudder_board,
        _steps(
            ("hidden", "occlusion", {"rays": 48}),
            ("bends", "curvature", {"radius": 0.003}),
            ("thick", "thickness", {"rays": 16}),
            ("patches", "fractal_in_space", {"scale": 5.0, "seed": 3.0}),
            ("iron", "part_distance", {"to": "Iron straps", "one_is": 0.5}),
            ("bolts", "part_distance", {"to": "Bolts", "one_is": 0.5}),
            ("metal", "combine", {"one": {"step": "iron"}, "other": {"step": "bolts"}, "how": "minimum"}),
            ("plank", "random", {"each": "island", "seed": 4}),
            channels={
                "red": ("Open sky", "hidden"),
                "green": ("Ridges", "bends"),
                "blue": ("Thickness", "thick"),
                "alpha": ("Patches", "patches"),
                "second red": ("Distance to iron", "metal"),
                "second green": ("Each plank", "plank"),
            },
            levels=(0.4, 0.12, 0.03),
        ),
    ),
    "pennants": DemoMesh(
        "Pennants",
        lambda: _of_form("pennant", 3, 1.9),
        _steps(
            ("hoist", "root_to_tip", {"by": "U", "hold": 0.04}),
            ("each", "random", {"each": "island", "seed": 7}),
            ("tied", "paint", {"name": "Tied down", "red": {"step": "hoist"}, "lines": TIED}),
            channels={"red": ("Hoist to tip", "tied"), "green": ("Each pennant", "each")},
        ),
    ),
    "reeds": DemoMesh(
        "Reed clump",
        lambda: _of_form("reeds"),
        _steps(
            ("along", "root_to_tip", {"hold": 0.05}),
            ("each", "random", {"each": "island", "seed": 2}),
            channels={"red": ("Foot to tip", "along"), "green": ("Each blade", "each")},
        ),
    ),
    "quay_sheet": DemoMesh(
        "Quay sheet",
        quay_sheet,
        _steps(
            *((key, "paint", {"name": key.capitalize(), "lines": lines}) for key, (_, lines) in QUAY_PAINT.items()),
            channels={layer: (key.capitalize(), key, layer) for key, (layer, _) in QUAY_PAINT.items()},
        ),
    ),
    "weir_stream": DemoMesh(
        "Weir stream",
        weir_stream_mesh,
        _steps(
            ("combed", "comb", {"name": "Stream", "lines": STREAM_STROKES}),
            (
                "flow",
                "relaxed_directions",
                {
                    "given": {"step": "combed"},
                    "known": {"step": "combed", "layer": "combed"},
                    "rim": "runs along it",
                },
            ),
            ("piers", "part_distance", {"to": "Piers", "one_is": 1.2}),
            ("foam", "paint", {"name": "Foam", "lines": FOAM_STROKES}),
            channels={"red": ("Distance to the piers", "piers"), "green": ("Foam", "foam")},
        ),
        {"weir_stream_flow": ("flow", 512)},
    ),
    "estuary": DemoMesh(
        "Estuary sheet",
        estuary_sheet,
        _steps(
            ("shallows", "paint", {"name": "Shallows", "lines": SHALLOWS}),
            channels={"red": ("Shallows", "shallows")},
        ),
    ),
    "braid": DemoMesh(
        "Braid cards",
        lambda: _of_form("strand_cards"),
        _steps(
            ("high", "height", {}),
            ("top", "levels", {"dark": 0.97, "bright": 0.98}),
            ("along", "root_to_tip", {"root": {"step": "top"}, "hold": 0.03}),
            ("open", "occlusion", {"rays": 64, "hides": "both sides"}),
            ("inner", "invert", {"given": {"step": "open"}}),
            ("pinned", "paint", {"name": "Pinned and loose", "red": {"step": "along"}, "lines": PINNED}),
            channels={"red": ("Root to tip", "pinned"), "blue": ("Inner cards", "inner")},
        ),
    ),
}
