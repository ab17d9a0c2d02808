"""How far a baked material differs from the graph that it was baked of: both as reference pictures, from four sides."""

from collections.abc import Hashable, Mapping
from dataclasses import dataclass, replace
from typing import Any

import numpy as np
from numpy.typing import NDArray

from velvet_moth.core.document.values import Value
from velvet_moth.core.exporting.baked.material import PARTS, WHOLE, Part
from velvet_moth.core.forms import AS_MADE
from velvet_moth.core.forms.mesh import Mesh
from velvet_moth.core.language.expr import Expr, constant, sampler
from velvet_moth.core.language.inputs import surface
from velvet_moth.core.language.primitives import combine, normalise
from velvet_moth.core.language.texture import Pixels, Texture
from velvet_moth.core.lighting.channels import CHANNELS, NORMALS, Surface
from velvet_moth.core.lighting.shown import Appearance, appearance
from velvet_moth.core.meshes.source import Materials
from velvet_moth.core.nodes.textures import read
from velvet_moth.core.pictures.formats import read_picture
from velvet_moth.core.pictures.levels import read_texture
from velvet_moth.core.pictures.reading import Reading
from velvet_moth.core.render.tracing.reference import render
from velvet_moth.core.render.tracing.scene import Scene

# Degrees between two sides.
_TURN = 90.0


@dataclass(frozen=True, eq=False)
class Difference:
    """The mean difference from each side, in steps of 255, where either shows something; and the pictures: for each side

    the graph's and the baked one, (rows, columns, 4).
    """

    sides: tuple[float, ...]
    pictures: tuple[tuple[Pixels, Pixels], ...]

    @property
    def mean(self) -> float:
        """Over all sides."""
        return float(np.mean(self.sides))


def differing(a: Pixels, b: Pixels) -> float:
    """The mean difference of two pictures (rows, columns, 4) in steps of 255, where either shows something."""
    there = (a[..., 3] > 0) | (b[..., 3] > 0)
    if not there.any():
        return 0.0
    return float(np.abs(a[..., :3].astype(np.int64) - b[..., :3])[there].mean())


def difference(
    look: Appearance,
    values: Mapping[tuple[str, str], Value],
    textures: Mapping[Hashable, Texture],
    scene: Scene,
    sent: Mesh,
    looks: Materials,
    kind: str,
    lamps: int,
    side: int,
) -> Difference:
    """A graph in a ``scene``, ``side`` pixels wide and high, beside the form that is ``sent``, whose first material is read as any reader of glTF takes it."""
    baked = appearance(surface_of(looks.materials[0]), None, kind, lamps)
    pictures = textures_of(looks)
    bare = replace(scene, backdrop="", decals=(), part_surfaces=())
    found = []
    for turn in range(4):
        seen = replace(bare, camera=replace(scene.camera, turn=scene.camera.turn + _TURN * turn))
        first = render(look, values, textures, (side, side), seen)
        stood = replace(seen, brought=sent, pose=AS_MADE)
        found.append((first, render(baked, {}, pictures, (side, side), stood)))
    return Difference(tuple(differing(a, b) for a, b in found), tuple(found))


def _at(material: Mapping[str, Any], path: str) -> Any:
    found: Any = material
    for name in path.split("/"):
        found = found.get(name) if isinstance(found, dict) else None
    return found


def _key(part: Part, number: int) -> tuple[str, str]:
    return ("picture", f"{number} {'colour' if part.is_colour or part.picture in _COLOURED else 'data'}")


# Pictures with a colour in them, whose fourth component is a number as it stands.
_COLOURED = frozenset(part.picture for part in PARTS if part.is_colour)


def surface_of(material: Mapping[str, Any]) -> Surface:
    """A material of glTF as the surface model has it; its textures are read over the first UVs."""
    made: dict[str, Expr] = {key: constant(*declared.default) for key, declared in CHANNELS.items()}
    texel: dict[Hashable, Expr] = {}
    for part in PARTS:
        texture, factor = _at(material, part.texture), _at(material, part.factor) if part.factor else None
        value: Expr | None = None
        if factor is not None:
            numbers = factor if isinstance(factor, list) else [factor]
            value = constant(*(float(v) for v in numbers[part.factor_at : part.factor_at + part.width]))
        if texture is not None:
            key = _key(part, texture["index"])
            if key not in texel:
                texel[key] = read(sampler(key, ("clamp", "clamp"), 0.0, 1.0, "smooth"), surface("uv"))
            components = [texel[key].r, texel[key].g, texel[key].b, texel[key].a][part.at : part.at + part.width]
            held = components[0] if part.width == 1 else combine(*components)
            held = held * 2.0 - 1.0 if part.is_signed else held
            value = held if value is None else value * held
        if value is not None:
            made[part.channel] = normalise(value) if part.channel in NORMALS else value
    strength = _at(material, "extensions/KHR_materials_emissive_strength/emissiveStrength")
    if strength is not None:
        made["emissive_strength"] = constant(float(strength))
    for channel, path in WHOLE.items():
        found = _at(material, path)
        if found is not None:
            made[channel] = constant(*(found if isinstance(found, list) else [found]))
    return Surface(made)


def textures_of(looks: Materials) -> dict[Hashable, Texture]:
    """The pictures of materials as ``surface_of`` reads them."""
    found: dict[Hashable, Texture] = {}
    for number, data in enumerate(looks.pictures):
        picture, _ = read_picture(data, f"picture {number}")
        for role in ("colour", "data"):
            found["picture", f"{number} {role}"] = read_texture(picture, Reading(role))
    return found


def beside(pictures: tuple[tuple[Pixels, Pixels], ...]) -> NDArray[np.uint8]:
    """The sides in a row: the graph's above, the baked ones below."""
    above, below = (np.concatenate([pair[i] for pair in pictures], axis=1) for i in (0, 1))
    return np.concatenate((below, above), axis=0)
