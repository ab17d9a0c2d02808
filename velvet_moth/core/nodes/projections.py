"""Textures without UV, against repetition, and in motion: projected from three sides, scattered, flowing."""

import math
from typing import Annotated as A

from velvet_moth.core.catalogue.ports import (
    COLOUR_OUT,
    NORMAL_OUT,
    NUMBER_OUT,
    UV_OUT,
    Output,
    direction,
    number,
    texture,
    uv,
    vec2,
)
from velvet_moth.core.catalogue.registry import node
from velvet_moth.core.catalogue.settings import choice, whole
from velvet_moth.core.language import primitives as p
from velvet_moth.core.language.expr import Expr, constant
from velvet_moth.core.language.inputs import surface
from velvet_moth.core.language.trace import emitted_function
from velvet_moth.core.language.types import P_VEC2
from velvet_moth.core.lighting.axes import world_to_rest, world_to_tangent
from velvet_moth.core.nodes.noises import Seed, eased, random_of
from velvet_moth.core.nodes.textures import Picture, Reading, Time, channels, level_of_detail, read

GROUP = "Textures"
Tiling = A[Expr, number(1.0, 0.0, 16.0, 0.05, "per m", "Repeats each metre, whatever the form's scale.")]
Sharpness = A[Expr, number(4.0, 1.0, 16.0, 0.1, words="How quickly one side gives way to the next.")]
Space = A[str, choice("object", "world", words="Whether it sticks to the form or stays in the world.")]
Flat = A[Expr, texture("flat", "A normal map, green up.")]


def _place_and_normal(space: str) -> tuple[Expr, Expr]:
    """The point in metres and the direction the form faces, in that space."""
    if space == "world":
        return surface("position"), surface("normal")
    return surface("object_position") * surface("form_scale"), surface("object_normal")


@emitted_function("How much each of three sides shows")
def side_weights(normal: Expr, sharpness: Expr) -> Expr:
    """|n|^sharpness, made to sum to 1."""
    weights = p.power(p.absolute(normal), p.splat(p.maximum(sharpness, 0.0), 3))
    # Each weight is at most the sum of the three.
    return p.assume(weights / p.maximum(weights.x + weights.y + weights.z, 1e-6), 0.0, 1.0)


@emitted_function("A texture from three sides")
def three_sides(texture: Expr, place: Expr, weights: Expr) -> Expr:
    """All four channels, read along x, y and z."""
    along_x, along_y, along_z = read(texture, place.zy), read(texture, place.xz), read(texture, place.xy)
    whole = along_x * weights.x + along_y * weights.y + along_z * weights.z
    # The weights sum to at most 1.
    return p.assume(whole, 0.0, 1.0, *((seen, 0.0, 1.0) for seen in (along_x, along_y, along_z)))


@node(
    "Triplanar",
    GROUP,
    ("box projection", "three-sided mapping", "stretching", "seams", "projection mapping"),
    ("texture a form without UV",),
    form="mooring",
)
def triplanar(texture: Picture, tiling: Tiling, sharpness: Sharpness, space: Space) -> Reading:
    """A texture laid on from three sides, so that no UV is needed and no seam shows.

    Formula: sum of w texture(place on that side), w = |n|^sharpness / sum
    Use: Slate bluffs, gravel, anything without good UV.
    See: triplanar_normal, triplanar_two, noise_in_space
    """
    place, normal = _place_and_normal(space)
    return channels(three_sides(texture, place * tiling, side_weights(normal, sharpness)))


@node("Triplanar normal", GROUP, ("box projected normal map",), ("lay a normal map on without UV",), form="mooring")
def triplanar_normal(
    texture: Flat,
    tiling: Tiling,
    sharpness: Sharpness,
    strength: A[Expr, number(1.0, 0.0, 2.0, words="0 is flat, 1 as painted.")],
    space: Space,
) -> A[Expr, NORMAL_OUT]:
    """A normal map laid on from three sides, its bumps turned with the form.

    Formula: on each side (t.xy s + n.xy, t.z n.z), w-summed and normalised, then told on the surface's axes
    Use: The bumps that go with Triplanar, to the Normal channel.
    See: triplanar, combine_normals
    """
    place, n = _place_and_normal(space)
    at, w = place * tiling, side_weights(n, sharpness)

    def bumps(coordinates: Expr) -> tuple[Expr, Expr, Expr]:
        t = read(texture, coordinates).rgb * 2.0 - 1.0
        return t.x * strength, t.y * strength, p.maximum(t.z, 0.001)

    ax, ay, az = bumps(at.zy)
    bx, by, bz = bumps(at.xz)
    cx, cy, cz = bumps(at.xy)
    from_x = p.combine(n.x * az, ay + n.y, ax + n.z)
    from_y = p.combine(bx + n.x, n.y * bz, by + n.z)
    from_z = p.combine(cx + n.x, cy + n.y, n.z * cz)
    return world_to_rest(p.normalise(from_x * w.x + from_y * w.y + from_z * w.z))


@node(
    "Triplanar two",
    GROUP,
    ("top and sides", "snow on top", "two tone", "moss", "snow"),
    ("lay moss on top and stone at the sides",),
    form="mooring",
)
def triplanar_two(
    sides: Picture,
    top: Picture,
    tiling: Tiling,
    top_tiling: Tiling,
    sharpness: Sharpness,
    begins: A[Expr, number(0.5, -1.0, 1.0, words="Slope (or metres of height) where the top texture begins.")],
    softness: A[Expr, number(0.15, 0.001, 1.0, words="How wide the change is.")],
    by: A[str, choice("direction", "height", words="What decides: facing up, or height in the world.")],
    space: Space,
) -> tuple[A[Expr, COLOUR_OUT], A[Expr, Output(NUMBER_OUT.type, "Top")]]:
    """Two textures from three sides: one at the sides, another where the form faces up or lies high.

    Formula: mix(sides, top, smoothstep(begins - softness, begins + softness, n.y or position.y))
    Use: Moss on slate, silt on steps, snow.
    See: triplanar, slope, height_mix
    """
    place, normal = _place_and_normal(space)
    w = side_weights(normal, sharpness)
    decider = surface("normal").y if by == "direction" else surface("position").y
    mask = p.smoothstep(begins - softness, begins + softness, decider)
    below, above = three_sides(sides, place * tiling, w), three_sides(top, place * top_tiling, w)
    return p.mix(below.rgb, above.rgb, mask), mask


@node(
    "Decode flow",
    GROUP,
    ("unpack flow", "flow map", "flowmap", "comb map"),
    ("read directions from a texture", "use a colour as a direction"),
)
def decode_flow(
    stored: A[Expr, vec2(0.5, 0.5, words="Red and green of a flow map, 0 to 1; one half is no movement.")],
) -> A[Expr, Output(P_VEC2, "Direction")]:
    """A direction along the surface out of the two colours that store one.

    Formula: 2 stored - 1
    Use: Between a flow map and Flow, Flow texture, or the Strand direction of the dock.
    See: flow, flow_texture, decode_normal
    """
    return stored * 2.0 - 1.0


@node("Flow", GROUP, ("flow map uv", "two-phase flow", "flowmap", "current", "river"), ("let water run along a map",))
def flow(
    uv: A[Expr, uv()],
    direction: A[Expr, direction(0.0, 0.0, words="-1 to 1 along u and v, as Decode flow gives it.")],
    strength: A[Expr, number(0.2, 0.0, 1.0, words="Widths of the texture travelled in one phase.")],
    speed: A[Expr, number(0.5, 0.0, 4.0, 0.01, "per s", "Phases each second.")],
    offset: A[Expr, number(0.0, words="Moves the phase, 0 to 1; a noise hides the pulse.")],
    time: Time,
) -> tuple[A[Expr, Output(P_VEC2, "UV A")], A[Expr, Output(P_VEC2, "UV B")], A[Expr, Output(NUMBER_OUT.type, "Mix")]]:
    """Two moving sets of coordinates that begin again in turn, and how to mix what is read at them.

    Formula: UV A = uv - direction strength (a - 1/2); UV B = uv - direction strength (b - 1/2); Mix = |2 a - 1|, a
    = fract(time speed + offset), b = fract(a + 1/2)
    Use: Read a texture or normal map at both and Mix them; the jump of each is hidden by the other.
    See: flow_texture, scroll
    """
    first = p.fract(time * speed + offset)
    second = p.fract(first + 0.5)
    travelled = direction * strength
    # The phase jumps, but at either jump the other reading stands alone.
    return uv - travelled * (first - 0.5), uv - travelled * (second - 0.5), p.absolute(first * 2.0 - 1.0)


@node(
    "Flow texture", GROUP, ("flow map", "river texture", "flowmap", "current", "river"), ("let water run along a map",)
)
def flow_texture(
    texture: Picture,
    uv: A[Expr, uv()],
    direction: A[Expr, direction(0.2, 0.0, words="-1 to 1 along u and v, as Decode flow gives it.")],
    strength: A[Expr, number(0.2, 0.0, 1.0, words="Widths of the texture travelled in one phase.")],
    speed: A[Expr, number(0.5, 0.0, 4.0, 0.01, "per s", "Phases each second.")],
    offset: A[Expr, number(0.0, words="Moves the phase, 0 to 1; a noise hides the pulse.")],
    time: Time,
) -> Reading:
    """A texture carried along by a direction, without a seam in time.

    Formula: mix of two readings, as Flow gives them; the level of detail is that of the still coordinates
    Use: Foam and silt that drift round steps and posts.
    See: flow, drifting_waves
    """
    first, second, amount = flow(uv, direction, strength, speed, offset, time)
    level = level_of_detail(texture, uv)
    return channels(p.mix(p.sample(texture, first, level), p.sample(texture, second, level), amount))


@node(
    "Drifting waves",
    GROUP,
    ("water normal", "panning normals", "ripple", "scrolling water"),
    ("make waves from one texture",),
)
def drifting_waves(
    texture: Flat,
    uv: A[Expr, uv()],
    tiling: A[Expr, number(2.0, 0.0, 32.0, 0.1, words="Repeats of the widest layer.")],
    speed: A[Expr, number(0.05, 0.0, 1.0, 0.005, "per s", "Widths of the texture each second.")],
    strength: A[Expr, number(0.4, 0.0, 2.0, words="0 is flat.")],
    time: Time,
    layers: A[int, whole(2, 5, "How many readings.", default=3)],
) -> A[Expr, NORMAL_OUT]:
    """One normal map read several times, each turned, scaled and scrolled its own way, so that they never align.

    Formula: layer i turned by i golden angles, tiled 1.37^i, speed 1.21^i; slopes added: normalise(sum xy s, 1)
    Use: Water from a single map; to the Normal channel.
    See: waves, combine_normals, flow_texture
    """
    slope_x, slope_y = constant(0.0), constant(0.0)
    for layer in range(layers):
        turn = layer * math.pi * (3.0 - math.sqrt(5.0))
        c, s = math.cos(turn), math.sin(turn)
        turned = p.combine(uv.x * c - uv.y * s, uv.x * s + uv.y * c) * (tiling * 1.37**layer)
        moved = turned + p.combine(0.31 * layer, 0.17 * layer) + p.combine(time * speed * 1.21**layer, 0.0)
        texel = read(texture, moved).rgb * 2.0 - 1.0
        share = 1.0 / (layers**0.5)
        # A slope read on turned coordinates is turned back.
        slope_x = slope_x + (texel.x * c + texel.y * s) * share
        slope_y = slope_y + (texel.y * c - texel.x * s) * share
    return p.normalise(p.combine(slope_x * strength, slope_y * strength, 1.0))


@node(
    "Scattered texture",
    GROUP,
    ("anti-tiling", "stochastic texture", "repetition", "tiling visible", "repeats", "seams"),
    ("break up the repeats",),
)
def scattered_texture(
    texture: Picture,
    uv: A[Expr, uv()],
    patch: A[Expr, number(1.0, 0.1, 8.0, 0.05, words="Patches for each repeat of the texture.")],
    turning: A[Expr, number(1.0, words="0 leaves the patches upright, 1 turns them any way.")],
    seed: Seed,
) -> Reading:
    """A texture in patches, each turned and moved at random and blended, so that its repeats cannot be seen.

    Formula: sum w_i c_i over four patches, then mean + (sum - mean) / sqrt(sum w_i^2), which keeps the contrast
    (after E. Heitz, F. Neyret, "High-Performance By-Example Noise", 2018)
    Use: Gravel, silt and stone over large places; five reads.
    See: texture, random_per_cell
    """
    place = uv * patch
    cell = p.floor(place)
    t = eased(place - cell)
    level = level_of_detail(texture, uv)
    mean = p.sample(texture, p.combine(0.5, 0.5), constant(16.0))
    total, squares = p.combine(0.0, 0.0, 0.0, 0.0), constant(0.0)
    for x, y in ((0.0, 0.0), (1.0, 0.0), (0.0, 1.0), (1.0, 1.0)):
        weight = (t.x if x else 1.0 - t.x) * (t.y if y else 1.0 - t.y)
        drawn = random_of(cell + p.combine(x, y), seed)
        angle = (drawn.z - 0.5) * turning * (2.0 * math.pi)
        c, s = p.cosine(angle), p.sine(angle)
        turned = p.combine(uv.x * c - uv.y * s, uv.x * s + uv.y * c)
        total = total + p.sample(texture, turned + drawn.xy, level) * weight
        squares = squares + weight * weight
    return channels(p.saturate(mean + (total - mean) / p.square_root(p.maximum(squares, 0.05))))


@node("Parallax by value", GROUP, ("parallax of a computed height", "offset limiting"), ("give depth by a noise",))
def parallax_by_value(
    uv: A[Expr, uv()],
    height: A[Expr, number(1.0, words="Any height, 1 at the top: a noise, bricks, a sum of heights.")],
    depth: A[Expr, number(0.05, 0.0, 0.3, 0.005, words="From 1 down to 0, in widths of the texture.")],
) -> A[Expr, UV_OUT]:
    """Moves coordinates as if the surface had depth, by a height that is computed: one step, without reading a texture.

    Formula: uv - r (1 - height), r = depth v.xy / max(v.z, 0.2), v the view on the surface's axes
    Use: Depth for patterns that no texture holds; read what lies on top at the moved UV.
    See: parallax, bump, brick
    """
    view = world_to_tangent(surface("view_direction"))
    return uv - view.xy * (depth / p.maximum(view.z, 0.2)) * (1.0 - height)


@node(
    "Parallax",
    GROUP,
    ("parallax occlusion", "relief mapping", "bump offset", "depth"),
    ("give depth to a flat surface",),
)
def parallax(
    height: Picture,
    uv: A[Expr, uv()],
    depth: A[Expr, number(0.05, 0.0, 0.3, 0.005, words="From white down to black, in widths of the texture.")],
    way: A[
        str, choice("single step", "stepped", words="One guess, or a walk along the ray until it meets the height.")
    ],
    steps: A[int, whole(4, 32, "How many steps the walk takes; each is one read.", default=12)],
) -> A[Expr, UV_OUT]:
    """Moves coordinates as if the surface had depth, by a height map whose red is 1 at the top.

    Formula: v the view on the surface's axes, r = depth v.xy / v.z; single: uv - r (1 - h(uv));
    stepped: the first step i / n with 1 - h(uv - r i / n) <= i / n, and a straight line back to the step before
    Use: Joints between tiles, cracks, gravel; feed the UV to every texture of the surface.
    See: bump, height_to_normal, brick
    """
    view = world_to_tangent(surface("view_direction"))
    # Seen edge-on the shift is kept within reach of the texture.
    ray = view.xy * (depth / p.maximum(view.z, 0.2))
    level = level_of_detail(height, uv)
    if way == "single step":
        return uv - ray * (1.0 - p.sample(height, uv, level).r)
    found, gap_before = constant(0.0), 1.0 - p.sample(height, uv, level).r
    is_open = constant(1.0)
    for step in range(1, steps + 1):
        at = step / steps
        gap = 1.0 - p.sample(height, uv - ray * at, level).r - at
        # Where the ray goes under between two steps, the straight line between their gaps says how far.
        met = (at - 1.0 / steps) + gap_before / p.maximum(gap_before - gap, 1e-4) * (1.0 / steps)
        is_under = p.less(gap, 1e-6)
        found = found + is_open * p.select(is_under, p.clamp(met, at - 1.0 / steps, at), 0.0)
        is_open = is_open * p.select(is_under, 0.0, 1.0)
        gap_before = gap
    return uv - ray * (found + is_open)
