"""Where each instance of an emitter is at any moment, and what it knows: expressions that every interpreter works out.

Nothing is stepped through: an instance is a number, of which chance and the moment of its birth follow, and its way is solved.
"""

import math
from functools import lru_cache

from velvet_moth.core.emitting.emitter import CHANCE_ROW, CURVE_ROWS, EMITTER_CURVES, EMITTER_SOURCES, SIZE_ROW, Emitter
from velvet_moth.core.language.expr import Expr, constant, sampler
from velvet_moth.core.language.inputs import Instancing, surface
from velvet_moth.core.language.primitives import (
    absolute,
    cell_random,
    clamp,
    combine,
    cosine,
    cross,
    dot,
    exponential,
    floor,
    maximum,
    minimum,
    mix,
    normalise,
    sample,
    saturate,
    sine,
    smoothstep,
    square_root,
    texture_size,
    where_less,
)

_TURN = 2.0 * math.pi
# Below this drag (1/s) the way is that without any; closer to a boundary than this share of a round an instance is the next.
_NO_DRAG, _SOON = 1e-3, 1e-4
# By this share of a strip its direction is taken as a difference.
_STEP = 0.01


def _random(number: Expr, seed: Expr, which: float) -> Expr:
    return cell_random(combine(number, seed, which))


def instancing_of(emitter: Emitter) -> Instancing | None:
    """How a form is drawn by an emitter; None where it is off. Its numbers are inputs, so changing them makes no other shader."""
    return _instancing(emitter.path, emitter.facing) if emitter.is_on else None


class _Instance:
    """All that is the same for an instance, as expressions of ``instance_slot`` and the time."""

    def __init__(self) -> None:
        slots, births = surface("emitter_slots"), surface("emitter_births")
        sources = sampler(EMITTER_SOURCES, ("clamp", "clamp"), -1e6, 1e6, "pixels")
        slot, zero = surface("instance_slot"), constant(0.0)
        source = floor((slot + 0.5) / slots)
        row = (source + 0.5) / texture_size(sources).y
        first, second, third = (sample(sources, combine(at / 6.0, row), zero) for at in (1.0, 3.0, 5.0))
        self.place, self.axis, self.seed = first.xyz, second.xyz, second.w
        strength, since = third.x, surface("time") - first.w
        own = slot - source * slots
        rate, burst, duration = births.x, births.y, births.z
        # The latest of the stream that has this slot: they take turns.
        turns, at = maximum(slots - burst, 1.0), own - burst
        round_ = floor((since * rate - at) / turns + _SOON)
        of_stream = at + turns * round_
        is_burst = own - burst
        self.number = where_less(is_burst, 0.0, own, burst + of_stream)
        birth = where_less(is_burst, 0.0, 0.0, of_stream / maximum(rate, 1e-6))
        self.age = maximum(since - birth, 0.0)
        self.chance = _random(self.number, self.seed, 1.0)
        self.second_chance = _random(self.number, self.seed, 2.0)
        self.third_chance = _random(self.number, self.seed, 3.0)
        lives = surface("emitter_life")
        life = mix(lives.x, lives.y, self.chance.x)
        self.life = life
        self.share = saturate(self.age / maximum(life, 1e-3))
        is_over = where_less(self.age, life, 0.0, 1.0)
        is_unborn = maximum(where_less(since, 0.0, 1.0, 0.0), where_less(self.number, -0.5, 1.0, 0.0))
        is_late = where_less(0.0, duration, where_less(duration, birth, 1.0, 0.0), 0.0)
        self.lives = 1.0 - minimum(is_over + is_unborn + is_late, 1.0)
        start = surface("emitter_start")
        reference = where_less(absolute(self.axis.y), 0.9, combine(0.0, 1.0, 0.0), combine(1.0, 0.0, 0.0))
        self.side = normalise(cross(reference, self.axis))
        self.other = cross(self.axis, self.side)
        cosine_of = mix(cosine(start.z), 1.0, self.chance.y)
        sine_of = square_root(maximum(1.0 - cosine_of * cosine_of, 0.0))
        around = self.chance.z * _TURN
        self.way = self.axis * cosine_of + (self.side * cosine(around) + self.other * sine(around)) * sine_of
        self.speed = mix(start.x, start.y, self.second_chance.x) * strength
        out, about = start.w * square_root(self.second_chance.y), self.second_chance.z * _TURN
        self.start = self.place + (self.side * cosine(about) + self.other * sine(about)) * out
        forces = surface("emitter_forces")
        self.gravity, self.drag = forces.x, forces.y
        spun = mix(forces.z, forces.w, self.third_chance.y)
        self.turned = spun * self.age + self.third_chance.z * _TURN
        curve = _over_life(self.share, SIZE_ROW)
        self.size = mix(lives.z, lives.w, self.third_chance.x) * curve.x * self.lives

    def at(self, age: Expr) -> Expr:
        """Where it is at an age (s): thrown, pulled down, slowed by a drag that grows with the speed.

        Of v' = g - d v: p + v f + g (t - f) / d with f = (1 - exp(-d t)) / d.
        """
        drag = maximum(self.drag, _NO_DRAG)
        slowed = (1.0 - exponential(-drag * age)) / drag
        is_free = self.drag - _NO_DRAG
        along = where_less(is_free, 0.0, age, slowed)
        down = where_less(is_free, 0.0, age * age * 0.5, (age - slowed) / drag)
        return self.start + self.way * (self.speed * along) - combine(0.0, self.gravity * down, 0.0)

    def heads(self, age: Expr) -> Expr:
        """Its unit direction at an age."""
        drag = maximum(self.drag, _NO_DRAG)
        left = exponential(-drag * age)
        is_free = self.drag - _NO_DRAG
        falling = where_less(is_free, 0.0, age, (1.0 - left) / drag)
        keeps = where_less(is_free, 0.0, 1.0, left)
        velocity = self.way * (self.speed * keeps) - combine(0.0, self.gravity * falling, 0.0)
        return normalise(velocity + self.way * 1e-4)


def _over_life(share: Expr, row: int) -> Expr:
    curves = sampler(EMITTER_CURVES, ("clamp", "clamp"), -100.0, 100.0)
    wide = texture_size(curves).x
    along = (share * (wide - 1.0) + 0.5) / wide
    return sample(curves, combine(along, (row + 0.5) / CURVE_ROWS), constant(0.0))


def _upright(ahead: Expr, about: Expr) -> tuple[Expr, Expr, Expr]:
    """Axes whose third is ``ahead`` (unit), turned about it by an angle: right, up, ahead."""
    reference = where_less(absolute(ahead.y), 0.99, combine(0.0, 1.0, 0.0), combine(0.0, 0.0, 1.0))
    right = normalise(cross(reference, ahead))
    up = cross(ahead, right)
    return right * cosine(about) + up * sine(about), up * cosine(about) - right * sine(about), ahead


def _towards_eye(place: Expr, apart_from: Expr) -> Expr:
    """The unit direction to the eye, square to another direction."""
    towards = surface("camera_position") - place
    flat = towards - apart_from * dot(towards, apart_from)
    return normalise(flat + cross(apart_from, combine(0.3, 0.5, 0.8)) * 1e-5)


def _axes(of: _Instance, facing: str, place: Expr) -> tuple[Expr, Expr, Expr]:
    if facing == "eye":
        return _upright(normalise(surface("camera_position") - place), of.turned)
    if facing == "along":
        up = of.heads(of.age)
        ahead = _towards_eye(place, up)
        return cross(up, ahead), up, ahead
    random = _random(of.number, of.seed, 4.0)
    z = random.x * 2.0 - 1.0
    flat, about = square_root(maximum(1.0 - z * z, 0.0)), random.y * _TURN
    return _upright(combine(flat * cosine(about), z, flat * sine(about)), of.turned)


def _strip(of: _Instance, path: str, along: Expr) -> Expr:
    """The middle line of a ribbon, at a share of its length."""
    made = surface("emitter_path")
    if path == "straight":
        return of.start + of.way * (along * made.x)
    if path == "spiral":
        angle = (along * made.z + of.age * made.w + of.third_chance.z) * _TURN
        out = made.y * smoothstep(0.0, 0.3, along)
        return of.start + of.way * (along * made.x) + (of.side * cosine(angle) + of.other * sine(angle)) * out
    if path == "fountain":
        return of.at(along * of.life)
    return of.at(maximum(of.age - along * made.x, 0.0))


def _chanced(of: _Instance, row: int) -> Expr:
    """What chance leaves of four numbers of an instance, as factors."""
    first, second = (_random(of.number, of.seed, 5.0 + 2 * row + at) for at in range(2))
    return 1.0 - _over_life(of.share, CHANCE_ROW + row) * combine(first.x, first.y, first.z, second.x)


@lru_cache(maxsize=64)
def _instancing(path: str, facing: str) -> Instancing:
    of = _Instance()
    form, normal, tangent = surface("position"), surface("normal"), surface("tangent")
    if path == "free":
        middle = of.at(of.age)
        axes, at = _axes(of, facing, middle), form
    else:
        along = surface("uv").y
        middle = _strip(of, path, along)
        ahead, back = (clamp(along + step, 0.0, 1.0) for step in (_STEP, -_STEP))
        up = normalise(_strip(of, path, ahead) - _strip(of, path, back) + of.way * 1e-6)
        front = _towards_eye(middle, up) if facing == "eye" else normalise(cross(of.side, up) + of.other * 1e-4)
        axes, at = (cross(up, front), up, front), combine(form.x, 0.0, form.z)

    def turned(vector: Expr) -> Expr:
        return axes[0] * vector.x + axes[1] * vector.y + axes[2] * vector.z

    numbers = [_over_life(of.share, row) * _chanced(of, row) for row in range(2)]
    return Instancing(
        {
            "position": middle + turned(at) * of.size,
            "normal": normalise(turned(normal)),
            "tangent": combine(normalise(turned(tangent.xyz)), tangent.w),
        },
        {
            "instance_data": numbers[0],
            "second_instance_data": numbers[1],
            "instance_life": combine(of.share, _random(of.number, of.seed, 9.0).x),
            "instance_age": of.age,
        },
        of.lives,
    )
