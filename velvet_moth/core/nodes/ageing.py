"""What time does to matter: each node has an amount of 0 to 1, nothing has happened at 0 and everything at 1."""

from typing import Annotated as A

from velvet_moth.core.catalogue.ports import COLOUR_OUT, Output, colour, from_surface, mask, number, uv, vec2, vec3
from velvet_moth.core.catalogue.registry import node
from velvet_moth.core.catalogue.settings import choice
from velvet_moth.core.language import primitives as p
from velvet_moth.core.language.expr import Expr
from velvet_moth.core.language.types import P_NUMBER, P_VEC3
from velvet_moth.core.nodes.noises import Repeat, Scale, Seed, cell_noise_at, random_of, value_noise_at

GROUP = "Ageing"
_MASK, _FRONT, _CRACKS, _CURL, _PIECE, _WET, _EDGE, _DEPTH = (
    Output(P_NUMBER, name) for name in ("Mask", "Front", "Cracks", "Curl", "Piece", "Wet", "Edge", "Depth")
)
Amount = A[Expr, mask(0.5, "How far it has come: 0 nothing, 1 all of it. Made to be keyed over time.")]
Softness = A[Expr, number(0.15, 0.001, 1.0, words="How wide the front is, as a share of the whole.")]
Break = A[Expr, number(0.5, words="A noise or height that makes the front uneven, 0 to 1.")]


def front(order: Expr, amount: Expr, softness: Expr) -> Expr:
    """How far a place is done, 0..1, whose turn comes at ``order`` (0..1): all 0 at amount 0, all 1 at amount 1."""
    width = p.maximum(softness, 0.001)
    return p.assume(p.smoothstep(order, order + width, amount * (1.0 + width)), 0.0, 1.0)


def _band(done: Expr) -> Expr:
    """1 in the middle of a front, 0 where nothing has happened and where it is over."""
    return p.assume(done * (1.0 - done) * 4.0, 0.0, 1.0)


@node(
    "Age by mask",
    GROUP,
    ("weathering", "wear over time", "reveal", "transition", "blend over time", "fade"),
    ("turn one look into another over time", "wear edges first"),
)
def age_by_mask(
    where: A[Expr, number(0.5, words="A mask or noise, 0 to 1: edges, hollows, height.")],
    amount: Amount,
    softness: Softness,
    first: A[str, choice("white", "black", words="Which parts of the mask change first.")],
) -> tuple[A[Expr, _MASK], A[Expr, _FRONT]]:
    """Ages a surface along a mask: white where it is done, with the front that is passing.

    Formula: white: smoothstep(1 - w, 1 - w + s, amount (1 + s)); black: smoothstep(w, w + s, amount (1 + s)), w =
    clamp(where, 0, 1), s = max(softness, 0.001). Front is 4 Mask (1 - Mask)
    Use: Mix two surfaces by Mask; wire curvature for edges first, occlusion for hollows first; key Amount.
    See: wipe, crackle, dissolve
    """
    kept = p.saturate(where)
    done = front(1.0 - kept if first == "white" else kept, amount, softness)
    return done, _band(done)


@node(
    "Crackle",
    GROUP,
    ("cracks", "craquelure", "dry mud", "flaking paint", "peeling", "glaze"),
    ("crack old paint", "crackle a glaze"),
)
def crackle(
    uv: A[Expr, uv()],
    scale: Scale,
    amount: Amount,
    width: A[Expr, number(0.18, 0.0, 1.0, words="How wide cracks are when they are open, as a share of a piece.")],
    spread: A[Expr, number(0.6, words="0: all open at once; 1: the last begins when the first is open.")],
    curl: A[Expr, number(0.35, 0.0, 1.0, words="How far from a crack its edge curls up, as a share of a piece.")],
    seed: Seed,
    repeat: Repeat,
) -> tuple[A[Expr, _CRACKS], A[Expr, _CURL], A[Expr, _PIECE]]:
    """Cracks between pieces that open one after the other, and the edges that curl up beside them.

    Formula: Cracks = 1 - smoothstep(w / 2, w, d2 - d1), w = width open; open = clamp(amount (1 + spread) - spread
    order, 0, 1); d1, d2 the distances to the nearest points, as Cell noise has them; order a value noise a third as fine
    Use: Undercoat by Cracks; a height by Curl; Piece gives each its own tone. Key Amount.
    See: cell_noise, age_by_mask, bump
    """
    place = uv * scale
    found = cell_noise_at(place, seed, repeat)
    gap = p.continuous(found.y - found.x)
    order = value_noise_at(place * (1.0 / 3.0), seed + 31.0, repeat * (1.0 / 3.0))
    is_open = p.saturate(amount * (1.0 + spread) - spread * order)
    opened = p.maximum(width * is_open, 1e-4)
    cracks = p.assume((1.0 - p.smoothstep(opened * 0.5, opened, gap)) * p.saturate(is_open * 50.0), 0.0, 1.0)
    lifted = p.assume((1.0 - p.smoothstep(0.0, p.maximum(curl, 0.001), gap)) * is_open, 0.0, 1.0)
    return cracks, p.assume(lifted * (1.0 - cracks), 0.0, 1.0), random_of(found.zw, seed).z


@node(
    "Drying",
    GROUP,
    ("wet", "evaporate", "after rain", "damp", "tide mark"),
    ("dry a wet floor", "let rain dry up"),
)
def drying(
    colour: A[Expr, colour(0.3, 0.27, 0.22, "The dry colour.")],
    roughness: A[Expr, number(0.8, words="Roughness when it is dry.")],
    height: A[Expr, number(0.5, words="The ground's height, 0 to 1: hollows dry last.")],
    amount: Amount,
    softness: Softness,
    darkening: A[Expr, number(0.55, words="How much darker it is when wet.")],
) -> tuple[A[Expr, COLOUR_OUT], A[Expr, Output(P_NUMBER, "Roughness")], A[Expr, _WET], A[Expr, _EDGE]]:
    """A wet surface that dries from its heights down: darker and smoother where it still is wet.

    Formula: colour (1 - darkening w); mix(roughness, 0.12, w); w; 4 w (1 - w), w = 1 - smoothstep(o, o + s, amount (1 +
    s)), o = 1 - clamp(height, 0, 1), s = max(softness, 0.001)
    Use: Floors after rain, washed hands of paint; Edge to draw the tide mark. Key Amount.
    See: puddle, age_by_mask
    """
    wet = 1.0 - front(1.0 - p.saturate(height), amount, softness)
    shown = colour * (1.0 - darkening * wet)
    return shown, p.mix(roughness, 0.12, wet), wet, _band(wet)


@node(
    "Creeping rust",
    GROUP,
    ("corrosion", "oxidise", "verdigris", "mould", "lichen", "spread", "decay"),
    ("let rust spread", "grow lichen"),
)
def creeping_rust(
    uv: A[Expr, uv()],
    scale: Scale,
    amount: Amount,
    where: A[Expr, number(0.5, words="0 to 1: white goes first, such as edges or drips; black last.")],
    influence: A[Expr, number(0.4, words="How much that decides beside the spots.")],
    raggedness: A[Expr, number(0.5, words="How uneven the spots are.")],
    softness: Softness,
    young: A[Expr, colour(0.46, 0.17, 0.05, "Where it has just begun.")],
    old: A[Expr, colour(0.11, 0.045, 0.025, "Where it is oldest.")],
    seed: Seed,
    repeat: Repeat,
) -> tuple[A[Expr, _MASK], A[Expr, COLOUR_OUT], A[Expr, _DEPTH]]:
    """Spots that begin at scattered points, grow and meet until all is covered; and how long ago each place was.

    Formula: Mask = smoothstep(o, o + s, amount (1 + s)), o = clamp(mix(d, 1 - where, influence) + (n - 1/2) raggedness, 0,
    1), d the distance to the nearest scattered point, n a value noise four times as fine; Depth = clamp(amount (1 + s) - o,
    0, 1); Colour = mix(young, old, Depth)
    Use: Mix rust over iron by Mask, pit it by Depth; verdigris on bronze, lichen on stone. Key Amount.
    See: edge_wear, age_by_mask, cell_noise
    """
    place = uv * scale
    spot = p.saturate(p.continuous(cell_noise_at(place, seed, repeat).x))
    noise = value_noise_at(place * 4.0, seed + 13.0, repeat * 4.0)
    order = p.saturate(p.mix(spot, 1.0 - p.saturate(where), influence) + (noise - 0.5) * raggedness)
    width = p.maximum(softness, 0.001)
    depth = p.saturate(amount * (1.0 + width) - order)
    return front(order, amount, softness), p.mix(young, old, depth), depth


@node(
    "Wipe",
    GROUP,
    ("transition", "sweep", "fill up", "spread along", "dye", "burn", "reveal"),
    ("cover a form from one end", "let dye creep along hair"),
    form="mooring",
)
def wipe(
    place: A[Expr, from_surface(P_VEC3, "object_position", "Metres; on the form where nothing is wired.")],
    direction: A[Expr, vec3(0.0, 1.0, 0.0, words="Which way the front goes.")],
    ends: A[Expr, vec2(-1.0, 1.0, -4.0, 4.0, words="Where it begins and ends along that way, in metres.")],
    amount: Amount,
    softness: Softness,
    pattern: Break,
    raggedness: A[Expr, number(0.2, words="How uneven the pattern makes it.")],
    flow: A[Expr, vec3(0.0, 0.0, 0.0, words="Directions of a flow: where it goes along, the front runs ahead.")],
    pull: A[Expr, number(0.3, words="How far ahead a flow of 1 carries it, as a share of the way.")],
) -> tuple[A[Expr, _MASK], A[Expr, _FRONT]]:
    """A front that passes over a form one way, uneven by a pattern and carried ahead by a flow.

    Formula: m; 4 m (1 - m), m = smoothstep(o, o + s, amount (1 + s)), o = clamp((dot(place, n) - ends.x) / (ends.y -
    ends.x) + (pattern - 1 / 2) raggedness - dot(flow, n) pull, 0, 1), n = normalise(direction), s = max(softness, 0.001)
    Use: Dye up a braid, water up a wall, scorch over wood; mix two surfaces by Mask. Key Amount.
    See: age_by_mask, decode_flow, dissolve
    """
    along = p.normalise(direction)
    share = (p.dot(place, along) - ends.x) / (ends.y - ends.x)
    order = p.saturate(share + (pattern - 0.5) * raggedness - p.dot(flow, along) * pull)
    done = front(order, amount, softness)
    return done, _band(done)
