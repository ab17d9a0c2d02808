"""Textures of single numbers put together: up to four of one size as the channels of one picture, which the text reads instead."""

from collections.abc import Hashable, Iterable, Mapping, Sequence
from dataclasses import dataclass, field, replace
from functools import lru_cache

import numpy as np

from velvet_moth.core.document.graph import Graph
from velvet_moth.core.language.expr import (
    Expr,
    Function,
    Primitive,
    Structural,
    apply,
    call,
    constant,
    sampler,
    topological_order,
    with_arguments,
)
from velvet_moth.core.language.primitives import combine
from velvet_moth.core.language.types import TEXTURE
from velvet_moth.core.lighting.channels import Surface
from velvet_moth.core.lowering.lowered import Lowered, LoweredGraph
from velvet_moth.core.pictures.formats import Picture
from velvet_moth.core.pictures.library import NamedPicture
from velvet_moth.core.pictures.reading import Reading

CHANNELS = ("red", "green", "blue", "alpha")
# Roles whose pictures are one number, where their colours are equal.
_NUMBERS = ("data", "height")
Place = tuple[str, str]


@dataclass(frozen=True, eq=False)
class Packing:
    """Which picture and channel holds the texture of a place.

    ``places`` gives by (node, input) the place that stands for a packed picture, and the channel from 0; ``pictures`` are the
    packed ones, and ``members`` the places they are made of, one for each channel, by the id of the first of their textures.
    """

    places: Mapping[Place, tuple[Place, int]] = field(default_factory=dict)
    members: Mapping[str, tuple[Place, ...]] = field(default_factory=dict)
    pictures: Mapping[str, NamedPicture] = field(default_factory=dict)

    def channels_at(self, key: Hashable) -> dict[str, Place]:
        """The places that the channels of a packed picture hold, by their names; none where ``key`` stands for no such picture."""
        members = next((found for found in self.members.values() if found[0] == key), ())
        return dict(zip(CHANNELS, members, strict=False))

    def applied(self, lowered: LoweredGraph) -> LoweredGraph:
        """The graph with its textures read from where they are now; values stay as they are."""
        if not self.places:
            return lowered
        found = [*lowered.outputs.values(), *lowered.inputs.values()]
        exprs = [e for one in found for e in (one.channels.values() if isinstance(one, Surface) else [one])]
        made = _rewritten(exprs, self.places, {})

        def of(value: Lowered) -> Lowered:
            if isinstance(value, Surface):
                return Surface({key: made[e] for key, e in value.channels.items()})
            return made[value]

        return replace(
            lowered,
            outputs={key: of(value) for key, value in lowered.outputs.items()},
            inputs={key: of(value) for key, value in lowered.inputs.items()},
        )


NO_PACKING = Packing()


def put_in_place(graph: Graph) -> set[str]:
    """The ids of textures that variants and keys put in the place of a parameter's own."""
    values = [value for variant in graph.variants for value in variant.values.values()]
    tracks = [graph.tracks, *(variant.tracks for variant in graph.variants)]
    values += [key.value for own in tracks for track in own.values() for key in track.keys]
    return {value for value in values if isinstance(value, str)}


def packing_of(graph: Graph, textures: Mapping[str, NamedPicture]) -> Packing:
    """The textures of a graph that go together: grey ones that are read as numbers, of one size and depth.

    What a parameter opens stays by itself, since an engine may put another in its place; so does what is put there, and what a motif
    reads.
    """
    opened = {(p.node, p.input) for p in graph.parameters}
    apart = {graph.nodes[node].value(key) for node, key in opened if node in graph.nodes}
    apart |= put_in_place(graph)
    apart |= {
        motif.graph.nodes[node].value(key)
        for motif in graph.used_motifs().values()
        for (node, key), _ in motif.graph.own_textures()
    }
    read: dict[str, list[Place]] = {}
    for place, _ in graph.own_textures():
        key = str(graph.nodes[place[0]].value(place[1]))
        if key in textures and key not in apart:
            read.setdefault(key, []).append(place)
    alike: dict[Hashable, list[str]] = {}
    for key in read:
        one = textures[key]
        if one.reading.role in _NUMBERS and _is_grey(one.picture):
            alike.setdefault((one.picture.size, one.picture.depth), []).append(key)
    places: dict[Place, tuple[Place, int]] = {}
    members: dict[str, tuple[Place, ...]] = {}
    pictures: dict[str, NamedPicture] = {}
    for keys in alike.values():
        for at in range(0, len(keys), len(CHANNELS)):
            group = keys[at : at + len(CHANNELS)]
            if len(group) < 2:
                continue
            first = read[group[0]][0]
            places |= {place: (first, n) for n, key in enumerate(group) for place in read[key]}
            members[group[0]] = tuple(read[key][0] for key in group)
            pictures[group[0]] = _together([textures[key] for key in group])
    return Packing(places, members, pictures)


def _is_grey(picture: Picture) -> bool:
    colours = picture.samples if picture.channels == 1 else picture.samples[..., :3]
    alpha = picture.samples[..., -1] if picture.channels in (2, 4) else None
    full = np.iinfo(picture.samples.dtype).max if picture.samples.dtype.kind == "u" else 1
    is_even = picture.channels < 3 or bool((colours == colours[..., :1]).all())
    return is_even and (alpha is None or bool((alpha == full).all()))


def _together(textures: Sequence[NamedPicture]) -> NamedPicture:
    layers = [one.picture.samples[..., :1] for one in textures]
    # No format has pictures of two colours.
    layers += [np.zeros_like(layers[0])] * (3 - len(layers))
    name = " ".join(one.name for one in textures)
    return NamedPicture(name, Reading("data"), Picture(np.ascontiguousarray(np.concatenate(layers, axis=2))))


def _rewritten(
    outputs: Iterable[Expr], places: Mapping[Place, tuple[Place, int]], arguments: Mapping[int, int]
) -> dict[Expr, Expr]:
    """Every expression with its textures read from where they are now; ``arguments`` are channels of those of a function."""
    made: dict[Expr, Expr] = {}
    channels: dict[Expr, int] = {}
    results: dict[Expr, tuple[Expr, ...]] = {}
    for expr in topological_order(outputs):
        args = [made[a] for a in expr.args]
        operator = expr.operator
        if operator is Structural.SAMPLER and expr.attributes[0] in places:
            place, channels[expr] = places[expr.attributes[0]]
            _, wrap_u, wrap_v, filter_, low, high = expr.attributes
            made[expr] = sampler(place, (wrap_u, wrap_v), low, high, filter_)
        elif operator is Structural.ARGUMENT and expr.type is TEXTURE and expr.attributes[0] in arguments:
            channels[expr] = arguments[expr.attributes[0]]
            made[expr] = expr
        elif operator is Structural.CALL:
            packed = tuple((at, channels[a]) for at, a in enumerate(expr.args) if a in channels)
            function = _reading(expr.attributes[0], packed) if packed else expr.attributes[0]
            results[expr] = call(function, args)
            made[expr] = results[expr][0] if len(results[expr]) == 1 else results[expr][0].args[0]
        elif operator is Structural.RESULT:
            made[expr] = results[expr.args[0]][expr.attributes[0]]
        elif isinstance(operator, Primitive):
            made[expr] = apply(operator.name, *args, attributes=expr.attributes)
            if operator.name == "sample" and expr.args[0] in channels:
                number = getattr(made[expr], "xyzw"[channels[expr.args[0]]])
                made[expr] = combine(number, number, number, constant(1.0))
        else:
            made[expr] = with_arguments(expr, args)
    return made


@lru_cache(maxsize=512)
def _reading(function: Function, packed: tuple[tuple[int, int], ...]) -> Function:
    """A function that reads some of the textures it is given, by their positions, in one channel only."""
    made = _rewritten(function.results, {}, dict(packed))
    name = "_".join([function.name, *(f"{CHANNELS[channel]}_{at}" for at, channel in packed)])
    return replace(function, name=name, results=tuple(made[e] for e in function.results))
