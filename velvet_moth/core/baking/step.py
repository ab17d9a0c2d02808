"""The steps of meshes: those that change the form, and those that make numbers at its vertices."""

from collections.abc import Callable, Hashable, Mapping
from dataclasses import dataclass, field, replace
from functools import cached_property
from typing import Any, Protocol

import numpy as np
from numpy.typing import NDArray

from velvet_moth.core.baking.painting.surface import AtVertices
from velvet_moth.core.baking.skin import Skin
from velvet_moth.core.base.cache import BoundedCache
from velvet_moth.core.base.errors import OperationRefused
from velvet_moth.core.forms.mesh import VERTEX_CHANNELS, Floats, Mesh
from velvet_moth.core.making.layer import Layer
from velvet_moth.core.stacks.computing import Remember, Supply, each_time
from velvet_moth.core.stacks.stack import Use
from velvet_moth.core.stacks.step import Family

DEPTHS = ("float",)
# What a step gives: numbers (n,) or directions (n, 3) of the vertices by the name of a layer; or another mesh.
Made = dict[str, Any]
# Gives what tells the states of a texture apart, and its picture; None where it is gone.
MeshTextures = Callable[[str], tuple[Hashable, Callable[[], Layer]] | None]

# A function of a step takes an ``OnMesh`` and its settings; one that reshapes gives a Mesh, any other "values" (n,) or
# "directions" (n, 3), float32. Directions are tangent to the surface, and their length is the speed, 1 the fastest.
MESHES = Family(
    "channel",
    groups=(
        *("Form", "UVs", "Light", "Shape", "Along", "Random", "Patterns", "Given", "By hand", "Directions", "Change"),
        "Together",
    ),
    layer="values",
    depths=DEPTHS,
    most_outputs=len(VERTEX_CHANNELS),
    places=VERTEX_CHANNELS,
    fewest=0,
    instead="Add the step Along U and V, which makes numbers of directions.",
)
step = MESHES.step
_surfaces: BoundedCache[AtVertices] = BoundedCache("surfaces for strokes", 4)
_skins: BoundedCache[Skin] = BoundedCache("skins of meshes", 4)


def _no_textures(key: str) -> None:
    return None


def _hears_nothing(share: float) -> None:
    return None


class Laid(Protocol):
    """What many strokes have made, as it is kept from one process to the next."""

    def find(self, most: int, key_of: Callable[[int], str]) -> tuple[int, Floats] | None:
        """What the first of some strokes have made, and how many these are, no more than ``most``; None where nothing is kept.

        ``key_of`` gives the key of the first so many.
        """

    def made(self, count: int, key: str, painted: Floats) -> None:
        """Hears what so many strokes have made."""


class Unkept:
    """Keeps nothing."""

    def find(self, most: int, key_of: Callable[[int], str]) -> None:
        return None

    def made(self, count: int, key: str, painted: Floats) -> None:
        return None


@dataclass(frozen=True)
class BakingContext:
    """What computing a stack needs from outside. With ``most_rays`` a quick look takes no more rays than that at a vertex.

    ``hears`` hears the share of a long step that is done, 0 to 1, and may raise to end it.
    """

    textures: MeshTextures = _no_textures
    remember: Remember = each_time
    most_rays: int = 1 << 16
    hears: Callable[[float], None] = field(default=_hears_nothing, compare=False)
    laid: Laid = field(default=Unkept(), compare=False)


@dataclass(frozen=True, eq=False)
class OnMesh:
    """A mesh that steps work on; ``mark`` tells it apart from every other."""

    mesh: Mesh
    mark: Hashable
    context: BakingContext

    def key_of(self, use: Use) -> Hashable:
        return (self.mark, self.context.most_rays)

    @cached_property
    def skin(self) -> Skin:
        """Its surface with the seams closed."""
        return _skins.get(self.mark, lambda: Skin.of(self.mesh))

    @cached_property
    def surface(self) -> AtVertices:
        """It as strokes meet it."""
        return _surfaces.get(self.mark, lambda: AtVertices(self.mesh, self.skin))

    @property
    def count(self) -> int:
        """How many vertices it has."""
        return len(self.mesh.positions)

    @cached_property
    def size(self) -> float:
        """The diagonal of its bounds in metres."""
        low, high = self.mesh.box
        return float(np.linalg.norm(high - low))

    def part(self, name: str) -> NDArray[np.bool_]:
        """Which triangles belong to a part; OperationRefused where the mesh has none of that name."""
        mesh = self.mesh
        if mesh.part_of is None or name not in mesh.part_names:
            known = ", ".join(mesh.part_names[:8]) or "none"
            raise OperationRefused(f"The mesh has no part called {name[:60]!r}.", "part", f"It has: {known}.")
        named = [at for at, one in enumerate(mesh.part_names) if one == name]
        return np.isin(mesh.part_of, named)

    def at_vertices(self, of_triangles: NDArray[Any]) -> NDArray[np.float64]:
        """Numbers of triangles, (m,), at the vertices: the mean of the triangles that share one, (n,)."""
        corners = self.mesh.triangles.reshape(-1)
        counts = np.maximum(np.bincount(corners, minlength=self.count), 1)
        return np.asarray(np.bincount(corners, np.repeat(of_triangles, 3), self.count) / counts)

    def layer(self, made: Made, layer: str) -> Supply:
        return lambda: made.get(layer) if layer else next(iter(made.values()))

    def texture(self, key: str) -> tuple[Hashable, Supply] | None:
        return self.context.textures(key)

    def run(self, use: Use, taken: Mapping[str, Supply]) -> Made:
        found = use.kind.run(self, **use.settled(), **{key: take() for key, take in taken.items()})
        if use.kind.reshapes:
            return {use.kind.layers[0]: found}
        layers = found if isinstance(found, tuple) else (found,)
        finite = (np.nan_to_num(values, nan=0.0, posinf=1e6, neginf=-1e6) for values in layers)
        return dict(zip(use.kind.layers, (f.astype(np.float32) for f in finite), strict=True))

    def after(self, made: Made, key: Hashable) -> "OnMesh":
        return replace(self, mesh=next(iter(made.values())), mark=key)


def in_range(values: NDArray[Any], low: float, high: float) -> Floats:
    """Values from ``low`` to ``high`` as 0 to 1; 0 all over where both are the same."""
    return np.asarray(np.clip((values - low) / max(high - low, 1e-12), 0.0, 1.0), dtype=np.float32)
