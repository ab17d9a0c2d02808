"""The stream below the weir of Heron Lock: combed by hand around two piers, and the surface that its flow moves."""

from typing import Any

import numpy as np

from velvet_moth.core.document.graph import Graph
from velvet_moth.core.meshes.formats import FORMATS
from velvet_moth.core.meshes.source import SourceMesh
from velvet_moth.demo.graphs import Textures
from velvet_moth.demo.sketch import Sketch
from velvet_moth.demo.strokes import Ground, Numbers

# Metres: the stream runs along x, over the weir and between the piers, which stand at x, z.
WIDE, DEEP, CELLS = 6.0, 3.6, (100, 60)
PIERS = ((0.35, -0.62), (1.1, 0.66))
RADIUS, CLEAR = 0.32, 0.345
_HIGH, _LOW = 0.62, -0.5


def _height(x: Numbers, z: Numbers) -> Numbers:
    """The water: a fall of a third of a metre at the weir, standing waves below it."""
    t = np.clip((x + 1.95) / 0.6, 0, 1)
    fall = 0.34 * (1 - t * t * (3 - 2 * t))
    after = np.clip(x + 1.3, 0, None)
    return np.asarray(
        fall + 0.035 * np.exp(-after / 0.5) * np.sin(after * 9.0) * (after > 0) + 0.006 * np.sin(5 * z + 2 * x)
    )


STREAM = Ground(_height)


def _water() -> tuple[Numbers, np.ndarray]:
    """The sheet with a hole around each pier, whose rim is round."""
    x, z, triangles = STREAM.sheet(WIDE, DEEP, CELLS)
    keep = np.ones(len(x), dtype=bool)
    for middle in PIERS:
        off = np.stack((x, z), axis=1) - middle
        away = np.linalg.norm(off, axis=1)
        # The corners nearest to the rim are moved onto it.
        near = (np.abs(away - CLEAR) < WIDE / CELLS[0] * 0.6) & (away > 1e-6)
        onto = np.array(middle) + off / np.maximum(away, 1e-9)[:, None] * CLEAR
        x, z = np.where(near, onto[:, 0], x), np.where(near, onto[:, 1], z)
        keep &= near | (away > CLEAR)
    kept = triangles[keep[triangles].all(axis=1)]
    used, at = np.unique(kept, return_inverse=True)
    return STREAM.places(x[used], z[used]), at.reshape(-1, 3)


def _pier(middle: tuple[float, float], number: int) -> tuple[Numbers, np.ndarray, Numbers]:
    """A round pier with a top that is worn: places, triangles, UVs beside those of the water."""
    turns, rings = 40, 14
    turn, up = np.meshgrid(np.linspace(0, 2 * np.pi, turns + 1), np.linspace(0, 1, rings + 5))
    # The last rings close the top.
    share = np.clip((up - up[rings, 0]) / (1 - up[rings, 0]), 0, 1)
    radius = RADIUS * np.cos(share * np.pi / 2)
    y = _LOW + (_HIGH - _LOW) * np.minimum(up / up[rings, 0], 1) + 0.05 * np.sin(share * np.pi / 2)
    x, z = middle[0] + radius * np.sin(turn), middle[1] + radius * np.cos(turn)
    at = np.arange(x.size).reshape(x.shape)
    a, b, c, d = at[:-1, :-1], at[:-1, 1:], at[1:, 1:], at[1:, :-1]
    faces = np.stack((a, b, c, a, c, d), axis=-1).reshape(-1, 3)
    places = np.stack((x, y, z), axis=-1).reshape(-1, 3)
    corners = places[faces]
    area = np.linalg.norm(np.cross(corners[:, 1] - corners[:, 0], corners[:, 2] - corners[:, 0]), axis=1)
    uvs = np.stack((0.04 + 0.48 * number + turn / (2 * np.pi) * 0.4, 0.82 + up * 0.16), axis=-1).reshape(-1, 2)
    return places, faces[area > 1e-9], uvs


def weir_stream_mesh() -> bytes:
    """The water and the piers, two parts, as a GLB."""
    water, triangles = _water()
    parts = [(water, triangles, np.stack((water[:, 0] / WIDE + 0.5, 0.5 - water[:, 2] / WIDE), axis=-1))]
    parts += [_pier(middle, number) for number, middle in enumerate(PIERS)]
    starts = np.cumsum([0, *(len(places) for places, _, _ in parts)])
    part_of = np.repeat([0, 1, 1], [len(faces) for _, faces, _ in parts])
    return FORMATS["gltf"].encode(
        SourceMesh(
            np.concatenate([places for places, _, _ in parts]).astype(np.float32),
            np.concatenate([faces + start for (_, faces, _), start in zip(parts, starts, strict=False)]).astype(
                np.uint32
            ),
            uvs=np.concatenate([uvs for _, _, uvs in parts]).astype(np.float32),
            part_of=part_of.astype(np.int32),
            part_names=("Water", "Piers"),
        )
    )


_ROWS = np.linspace(-1.65, 1.65, 8)


def _beside(middle: tuple[float, float], side: float, speed: float) -> dict[str, Any]:
    """Past a pier on one side of it, in a curve that keeps clear of it."""
    turn = np.linspace(-1.25, 1.25, 9)
    reach = CLEAR + 0.11
    return STREAM.combed(
        [(middle[0] + reach * np.sin(t) * 1.25, middle[1] + side * reach * np.cos(t)) for t in turn], 0.09, speed
    )


# Along the stream where it comes in, over the weir and where it leaves; past the piers; slow eddies behind them.
STREAM_STROKES = [
    *(STREAM.combed(((-3.0, z), (-2.5, z)), 0.3, 0.4) for z in _ROWS),
    *(STREAM.combed(((-2.0, z), (-1.2, z)), 0.3, 1.0) for z in _ROWS),
    *(STREAM.combed(((2.6, z), (3.0, z)), 0.3, 0.45) for z in _ROWS),
    *(_beside(middle, side, 0.85) for middle in PIERS for side in (-1.0, 1.0)),
    *(STREAM.combed(((x + 0.7, z), (x + 0.5, z)), 0.06, 0.15) for x, z in PIERS),
]
# White where the water falls, and in the wakes of the piers.
FOAM_STROKES = [
    STREAM.stroke(((-1.5, -1.8), (-1.45, -0.4), (-1.5, 0.5), (-1.45, 1.8)), 0.34, "red", value=0.95, softness=0.8),
    STREAM.stroke(((-1.1, -1.4), (-0.9, 0.2), (-1.1, 1.3)), 0.4, "red", mode="add", value=0.3, softness=1.0),
    STREAM.stroke(((0.75, -0.62), (1.5, -0.6)), 0.22, "red", value=0.55, softness=1.0),
    STREAM.stroke(((1.5, 0.66), (2.3, 0.68)), 0.22, "red", value=0.55, softness=1.0),
]


def weir_stream(textures: Textures) -> Graph:
    """Water that runs as it was combed: over the weir, around two piers, its foam and ripples carried along by a flow map."""
    s = Sketch("Weir stream", "plane", "open_dock", tags="water, moving, painted", mesh=textures["mesh_weir_stream"])
    s.add("data", "vertex_colour", "Painted here")
    s.add("map", "texture", "Flow map", texture=textures["weir_stream_flow"])
    s.add("stored", "shorten_triple", "Along U and V", vector="@map.colour")
    s.add("way", "decode_flow", "Way of the water", stored="@stored.vector")
    s.add("level", "extend_pair", "Level", vector="@way.direction")
    s.add("speed", "length", "Speed", vector="@level.vector")
    s.add("late", "fractal_noise", "Out of step", {"layers": 2}, scale=7.0, gain=0.5, seed=4)
    s.add("run", "flow", "Run", direction="@way.direction", strength=0.07, speed=0.55, offset="@late.value")
    for side in ("a", "b"):
        s.add(
            f"ripple_{side}",
            "fractal_noise",
            f"Ripples {side.upper()}",
            {"layers": 4},
            uv=f"@run.uv_{side}",
            scale=34.0,
            gain=0.55,
            seed=6,
        )
        s.add(f"bubbles_{side}", "cell_noise", f"Foam {side.upper()}", uv=f"@run.uv_{side}", scale=44.0, seed=2)
    s.add("ripples", "mix", "Ripples", a="@ripple_b.value", b="@ripple_a.value", amount="@turn.result")
    s.add("bubbles", "mix", "Foam", a="@bubbles_b.edge", b="@bubbles_a.edge", amount="@turn.result")
    # The reading whose phase jumps is the one that is not seen.
    s.add("turn", "invert", "Whose turn", value="@run.mix")
    s.add("patchy", "multiply", "In patches", a="@ripples.result", b=1.5)
    s.add("wake", "smooth_step", "At the piers", value="@data.red", low=0.09, high=0.0)
    s.add("white", "maximum", "Where it foams", a="@data.green", b="@wake.result")
    s.add("share", "multiply", "Foam by patches", a="@white.result", b="@patchy.result")
    s.add("lace", "subtract", "Lace", a="@share.result", b="@bubbles.result")
    s.add("foam", "smooth_step", "Foam", value="@lace.result", low=0.02, high=0.32)
    s.add(
        "depth_colour",
        "gradient",
        "Water",
        at="@speed.value",
        stops=(0.0, 0.006, 0.02, 0.018, 0.5, 0.012, 0.045, 0.038, 1.0, 0.05, 0.11, 0.09),
    )
    s.add("colour", "mix", "Water and foam", a="@depth_colour.colour", b=(0.72, 0.76, 0.74), amount="@foam.result")
    s.add("rough", "mix", "Roughness", a=0.07, b=0.75, amount="@foam.result")
    s.add("lively", "remap", "Livelier where it runs", value="@speed.value", to_low=0.004, to_high=0.02)
    s.add("waves", "bump", "Ripples in relief", height="@ripples.result", depth="@lively.result")
    s.add("water", "surface", "Water", base_colour="@colour.result", roughness="@rough.result", normal="@waves.normal")
    s.add("blocks", "brick", "Blocks", tiling=(18.0, 40.0), gap=0.12, softness=0.3, seed=8)
    s.add("grain", "fractal_in_space", "Grain", {"layers": 5}, scale=9.0, gain=0.6, seed=5)
    s.add(
        "stone",
        "gradient",
        "Stone",
        at="@grain.value",
        stops=(0.2, 0.05, 0.05, 0.045, 0.6, 0.16, 0.15, 0.13, 0.9, 0.24, 0.22, 0.18),
    )
    s.add("joints", "mix", "With joints", a=(0.03, 0.03, 0.028), b="@stone.colour", amount="@blocks.brick")
    s.add("place", "position", "Place")
    s.add("high", "split_three", "Height", vector="@place.position")
    s.add("damp", "smooth_step", "Wet below", value="@high.y", low=0.3, high=0.1)
    s.add("wet", "mix", "Damp stone", a="@joints.result", b=(0.012, 0.014, 0.01), amount="@damp_share.result")
    s.add("damp_share", "multiply", "How dark", a="@damp.result", b=0.8)
    s.add("stone_rough", "mix", "Stone roughness", a=0.9, b=0.35, amount="@damp.result")
    s.add("pits", "bump", "Pits", height="@grain.value", depth=0.02)
    s.add("pier", "surface", "Piers", base_colour="@wet.result", roughness="@stone_rough.result", normal="@pits.normal")
    s.add("is_stone", "smooth_step", "Stone or water", value="@data.red", low=0.013, high=0.006)
    s.add("both", "mix_surfaces", "Both", a="@water.surface", b="@pier.surface", amount="@is_stone.result")
    s.dock(surface="@both.surface")
    s.open("Water", "depth_colour", "stops", group="Water")
    s.open("Way in one phase", "run", "strength", 0, 0.3, 0.005, group="Flow")
    s.open("Phases", "run", "speed", 0, 2, 0.01, unit="per s", group="Flow")
    s.open("Foam", "patchy", "b", 0, 3, group="Foam")
    s.variant(
        "Spate", phases=1.1, foam=2.2, water=(0.0, 0.05, 0.035, 0.018, 0.5, 0.09, 0.065, 0.036, 1.0, 0.17, 0.13, 0.08)
    )
    s.variant("Low water", phases=0.3, foam=0.8)
    return s.graph()
