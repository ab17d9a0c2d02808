"""Whole surfaces, and the dock where a graph ends."""

from collections.abc import Mapping
from typing import Annotated as A

from velvet_moth.core.catalogue import node
from velvet_moth.core.expr import Expr
from velvet_moth.core.lighting.channels import CHANNELS, Surface, mixed, widened
from velvet_moth.core.ports import SURFACE_OUT, number, surface_port

GROUP = "Surfaces"
DOCK = "dock"


def _of(channels: Mapping[str, Expr]) -> Surface:
    return Surface({key: widened(key, value) for key, value in channels.items()})


@node("Surface", GROUP, ("material", "layer"), ("describe one layer of paint",), inputs=CHANNELS)
def surface(**channels: Expr) -> A[Surface, SURFACE_OUT]:
    """All channels of one surface on one wire.

    Formula: glTF 2.0 metallic-roughness with clear coat
    Use: Describe each layer of paint by itself, then mix the layers whole.
    See: mix_surfaces
    """
    return _of(channels)


@node(
    "Mix surfaces",
    GROUP,
    ("layer", "blend materials", "blend surfaces"),
    ("lay one paint over another by a mask",),
)
def mix_surfaces(
    a: A[Surface, surface_port("Where the amount is 0.")],
    b: A[Surface, surface_port("Where the amount is 1.")],
    amount: A[Expr, number(0.5, words="0 gives A, 1 gives B.")],
) -> A[Surface, SURFACE_OUT]:
    """Mixes two whole surfaces, channel by channel, normals included.

    Formula: A + (B - A) * amount for every channel; normals brought back to unit length
    Use: Gloss over flake, moss over stone, by any mask.
    See: surface, mix
    """
    return mixed(a, b, amount)


@node(
    "Dock",
    GROUP,
    inputs={"surface": surface_port("A whole surface; channels wired below replace its own."), **CHANNELS},
    hidden=True,
)
def dock(surface: Surface, **channels: Expr) -> A[Surface, SURFACE_OUT]:
    """The surface the stage shows.

    Formula: the whole surface where one is wired, each wired channel in its place
    Use: Wire a whole surface, or channels one by one.
    """
    return Surface({key: widened(key, channels[key]) if key in channels else surface[key] for key in CHANNELS})
