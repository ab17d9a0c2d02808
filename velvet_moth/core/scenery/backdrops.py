"""Backdrop scenes: what lies behind a see-through surface, as a mesh and the surface it has."""

from collections.abc import Callable, Mapping
from dataclasses import dataclass
from functools import lru_cache

from velvet_moth.core.base.errors import FileRefused
from velvet_moth.core.forms.mesh import Mesh, joined
from velvet_moth.core.forms.view import Camera
from velvet_moth.core.language.expr import Expr
from velvet_moth.core.language.inputs import surface
from velvet_moth.core.language.primitives import combine
from velvet_moth.core.lighting.backdrop import seen_behind
from velvet_moth.core.lighting.channels import Surface
from velvet_moth.core.lighting.decal_buffers import under_decals
from velvet_moth.core.lighting.decals import Decal
from velvet_moth.core.lighting.layers import facing_normal
from velvet_moth.core.lighting.model import radiance
from velvet_moth.core.lighting.shown import encoded, tone_curve


@dataclass(frozen=True)
class Backdrop:
    """A scene behind: its parts (metres, the form stands at the origin), the surface they have, its first view.

    A graph may give each of the ``parts`` the surface of another graph. ``standing`` is what somebody sees who stands in it.
    ``decals`` are where decals lie until others are placed. What ``is_own`` has the graph's form or mesh in the place of its part.
    """

    key: str
    name: str
    words: str
    parts: Callable[[], Mapping[str, Mesh]]
    surface: Callable[[], Surface]
    view: Camera
    standing: Camera
    decals: tuple[Decal, ...] = ()
    is_own: bool = False

    def mesh(self) -> Mesh:
        """All parts as one."""
        return _whole(self.parts)

    def light(self, lamps: int = 0, has_decals: bool = False) -> Expr:
        """``light_behind`` of the surface that is its own."""
        return light_behind(self.surface(), lamps, has_decals)


@lru_cache(maxsize=8)
def _whole(parts: Callable[[], Mapping[str, Mesh]]) -> Mesh:
    return joined(list(parts().values()))


def light_behind(of: Surface, lamps: int = 0, has_decals: bool = False) -> Expr:
    """Linear light towards the eye and, last, the distance from it: what surfaces in front read of one behind.

    What ``has_decals`` is lit as decals leave it.
    """
    return combine(radiance(under_decals(of) if has_decals else of, facing_normal(), lamps), surface("camera_distance"))


def place_of(key: str, part: str) -> str:
    """How a graph names a part of a backdrop."""
    return f"{key}.{part}"


BACKDROPS: dict[str, Backdrop] = {}


def declared_backdrop(
    name: str,
    surface: Callable[[], Surface],
    view: Camera,
    standing: Camera,
    decals: tuple[Decal, ...] = (),
    is_own: bool = False,
) -> Callable[[Callable[[], Mapping[str, Mesh]]], Callable[[], Mapping[str, Mesh]]]:
    """Decorator that enters the parts of a scene in the table of backdrops; they are made once."""

    def decorate(make: Callable[[], Mapping[str, Mesh]]) -> Callable[[], Mapping[str, Mesh]]:
        made = lru_cache(maxsize=1)(make)
        key = make.__name__
        BACKDROPS[key] = Backdrop(
            key,
            name,
            words=" ".join((make.__doc__ or "").split()),
            parts=made,
            surface=surface,
            view=view,
            standing=standing,
            decals=decals,
            is_own=is_own,
        )
        return made

    return decorate


def backdrop(key: str) -> Backdrop:
    """The backdrop of that key; FileRefused where there is none."""
    if key not in BACKDROPS:
        raise FileRefused(f"There is no backdrop {key!r}.", "backdrop", f"Choose one of {', '.join(BACKDROPS)}.")
    return BACKDROPS[key]


def seen_picture() -> Expr:
    """The display colour of what lies behind, at the pixel itself."""
    return encoded(tone_curve(seen_behind(surface("screen_position")).rgb * surface("exposure")))
