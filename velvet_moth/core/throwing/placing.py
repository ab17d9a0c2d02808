"""A throw by a rule: where it hits, what stands around, and the decals that come of it."""

import math
from collections.abc import Sequence
from dataclasses import dataclass, field, fields, replace
from typing import Any

import numpy as np

from velvet_moth.core.base.hashing import cell_randoms
from velvet_moth.core.base.records import Four, Number, Three, Whole
from velvet_moth.core.lighting.decals import Decal
from velvet_moth.core.throwing.around import Body, Ground, looked_around, unit
from velvet_moth.core.throwing.reaching import reach_of
from velvet_moth.core.throwing.rule import PlacingRule
from velvet_moth.core.throwing.surroundings import Surroundings, Vectors

_SMALLEST, _LARGEST = 0.03, 20.0
# Rays look around this far above the ground, as a share of the size, and at least so many metres.
_LIFT, _LEAST_LIFT = 0.05, 0.01
# A flat body is a wall where it is at least so wide and high as a share of the size; else it is a post.
_WALL_WIDE, _WALL_HIGH = 0.5, 0.75
# How deep a box is beside half its size: lying flat, and how much more the more it is tilted.
_DEPTH, _TILTED_DEPTH = 0.35, 0.9
# The least sine of the angle between a throw by hand and the surface that it hits.
_GRAZING = 0.12
# What is added to the depth that is needed (m).
_MARGIN = 0.02


@dataclass(frozen=True, kw_only=True)
class Charge:
    """What is thrown, however it is aimed: with a ``strength`` of 0 to 1, at a ``moment`` (seconds).

    ``seed`` (0 to 65535) decides what is left to chance. ``tint`` and the four ``numbers`` go to the decals as they are.
    """

    strength: Number = 0.6
    seed: Whole = 1
    moment: Number = 0.0
    tint: Three = (1.0, 1.0, 1.0)
    numbers: Four = (0.0, 0.0, 0.0, 0.0)


@dataclass(frozen=True)
class Throw(Charge):
    """From ``start`` (metres) in the unit direction ``way``."""

    start: Three
    way: Three


@dataclass(frozen=True)
class Aim(Charge):
    """A throw as a hand makes it: seen from ``eye`` along the unit direction ``towards``, at what is met there.

    It flies along that direction where ``slant`` (degrees, below 90) is 0, and by so much slanted to the unit direction ``aside``.
    """

    eye: Three
    towards: Three
    aside: Three = (0.0, 0.0, 0.0)
    slant: Number = 0.0


def aimed(surroundings: Surroundings, aim: Aim) -> Throw:
    """The throw that a hand aims: from as far away as the eye is, or from where something is in its way."""
    eye, towards = np.array(aim.eye), unit(np.array(aim.towards))
    met = surroundings.meet(eye[None], towards[None])
    slant = math.radians(min(max(aim.slant, 0.0), 85.0))
    way = unit(towards * math.cos(slant) + np.array(aim.aside) * math.sin(slant))
    start = eye
    if met.hit[0]:
        # Whatever the drag, it comes from the side that is seen, and at least so steeply.
        way = unit(way - met.normals[0] * max(float(way @ met.normals[0]) + _GRAZING, 0.0))
        back = surroundings.meet((met.places[0] + met.normals[0] * _LEAST_LIFT)[None], -way[None], float(met.reach[0]))
        start = met.places[0] - way * max(float(back.reach[0]) * 0.98, _LEAST_LIFT)
    charge: dict[str, Any] = {of.name: getattr(aim, of.name) for of in fields(Charge)}
    return Throw(_three(start), _three(way), **charge)


@dataclass(frozen=True)
class Made:
    """What a part of the rule made: ``up`` of ``across``, in the units of its curve."""

    part: str
    across: float
    up: float


@dataclass(frozen=True)
class Seen:
    """A distance that was found: a line from a place to another (metres), and what is at its end."""

    start: Three
    end: Three
    what: str


@dataclass(frozen=True)
class Splash:
    """What comes of a throw: the decals, and how they were found. None where it hits nothing, or where nothing is left of it.

    ``hit`` is the place from which it spreads, a little above the surface it hit (metres).
    """

    throw: Throw
    decals: tuple[Decal, ...]
    hit: Three | None = None
    made: tuple[Made, ...] = ()
    seen: tuple[Seen, ...] = ()
    words: tuple[str, ...] = ()


@dataclass
class _Account:
    """What is noted while a throw is worked out."""

    rule: PlacingRule
    made: list[Made] = field(default_factory=list)
    seen: list[Seen] = field(default_factory=list)
    words: list[str] = field(default_factory=list)

    def at(self, part: str, across: float) -> float:
        """What a part of the rule makes of a number, noted."""
        up = self.rule.at(part, across)
        self.made.append(Made(part, round(across, 4), round(up, 4)))
        return up

    def saw(self, start: Vectors, end: Vectors, what: str) -> None:
        """A line that was looked along."""
        self.seen.append(Seen(_three(start), _three(end), what))


def _three(vector: Vectors) -> Three:
    x, y, z = (round(float(part), 4) for part in vector)
    return x, y, z


def randoms(seed: int) -> tuple[float, float, float]:
    """Three random numbers, 0..1, of a throw of that seed."""
    a, b, c = cell_randoms(np.array([[seed], [31], [7]], dtype=np.int64)).ravel()
    return float(a), float(b), float(c)


def thrown(surroundings: Surroundings, rule: PlacingRule, throw: Throw) -> Splash:
    """The splash of a throw: none, where it hits nothing."""
    start, way = np.array(throw.start), unit(np.array(throw.way))
    met = surroundings.meet(start[None], way[None])
    account = _Account(rule)
    if not met.hit[0]:
        account.words.append("It hits nothing.")
        return Splash(throw, (), words=tuple(account.words))
    place, normal, away = met.places[0], met.normals[0], float(met.reach[0])
    account.saw(start, place, f"thrown {away:.2f} m")
    chance, rolled, numbered = randoms(throw.seed)
    slant = math.degrees(math.acos(min(max(-float(way @ normal), -1.0), 1.0)))
    varied = 1.0 + account.at("variation", throw.strength) * (2.0 * chance - 1.0)
    size = account.at("size", throw.strength) * account.at("distance", away) * varied
    size = min(max(size, _SMALLEST), _LARGEST)
    ground = Ground(place, normal, _along(way, normal), max(_LIFT * size, _LEAST_LIFT))
    stretched = math.sqrt(account.at("stretch", slant))
    roll = account.at("roll", slant) * (2.0 * rolled - 1.0)
    number = math.floor(account.at("number", numbered))
    (begins, _), (gone, _) = rule.curve("fade").points
    first = Decal(
        _three(place),
        size=(size / stretched, size * stretched, 1.0),
        index=float(number),
        tint=throw.tint,
        born=throw.moment,
        seed=float(throw.seed),
        strength=throw.strength,
        numbers=throw.numbers,
        fade=(begins, gone),
    )
    pieces = _pieces(surroundings, ground, first, size, roll, account)
    decals = tuple(replace(piece, thrown=_three(way) if at == 0 else None) for at, piece in enumerate(pieces))
    if not decals:
        account.words.append("Nothing is left of it where it hits.")
    hit = _three(ground.lifted)
    return Splash(throw, decals, hit, tuple(account.made), tuple(account.seen), tuple(account.words))


def _along(way: Vectors, normal: Vectors) -> Vectors:
    """The unit direction along a surface in which a throw goes on; for one that hits straight on, any one."""
    flat = way - normal * float(way @ normal)
    if np.linalg.norm(flat) > 1e-3:
        return unit(flat)
    upright = np.array((0.0, 1.0, 0.0)) if abs(normal[1]) < 0.9 else np.array((0.0, 0.0, -1.0))
    return unit(upright - normal * float(upright @ normal))


def _pieces(
    surroundings: Surroundings, ground: Ground, first: Decal, size: float, roll: float, account: _Account
) -> list[Decal]:
    reach = account.at("reach", first.strength)
    last_tilt = account.rule.curve("tilt").points[-1][0]
    bodies = looked_around(surroundings, ground, 1.5 * max(reach, last_tilt) + 0.2, size)
    walls = [
        body for body in bodies if body.is_flat and body.width >= _WALL_WIDE * size and body.height >= _WALL_HIGH * size
    ]
    posts = [body for body in bodies if body not in walls and body.distance <= reach]
    near = [wall for wall in walls if wall.distance <= reach or account.rule.at("tilt", wall.distance) > 0.0]
    for body in (*near, *posts):
        kind = "wall" if body in near else "post"
        account.saw(ground.lifted, body.place, f"{kind} at {body.distance:.2f} m")
    if not near and not posts:
        account.words.append("Nothing stands near: it lies flat.")
        return _kept(surroundings, ground, [_laid(ground, first, ground.place, ground.normal, ground.along, roll)])
    if len(near) == 1 and not posts:
        return _kept(surroundings, ground, [_tilted(ground, first, near[0], size, roll, account)])
    what = "A post is" if posts else f"{len(near)} walls are"
    account.words.append(f"{what} in reach: it breaks, and each surface gets its own piece.")
    made = [_laid(ground, first, ground.place, ground.normal, ground.along, roll)]
    for body in (*near, *posts):
        if body.distance <= reach:
            share = account.at("pieces", body.distance / reach)
            if share * size >= _SMALLEST:
                made.append(_on_body(ground, first, body, share, roll))
    return _kept(surroundings, ground, made)


def _laid(ground: Ground, first: Decal, place: Vectors, out: Vectors, up: Vectors, roll: float) -> Decal:
    """A decal at a place that faces ``out``, its length along ``up``, turned by ``roll`` (degrees); its depth by its size."""
    tilt = math.degrees(math.asin(min(max(float(out[1]), -1.0), 1.0)))
    turn = 0.0 if abs(tilt) > 89.99 else math.degrees(math.atan2(float(out[0]), float(out[2])))
    plain = replace(first, turn=turn, tilt=tilt, roll=0.0)
    right, upward, _ = plain.axes
    turned = math.degrees(math.atan2(-float(up @ right), float(up @ upward))) + roll
    leaning = math.degrees(math.acos(min(max(float(out @ ground.normal), -1.0), 1.0)))
    half = max(first.size[:2]) / 2
    depth = 2.0 * half * (_DEPTH + _TILTED_DEPTH * abs(math.sin(2.0 * math.radians(leaning))))
    return replace(plain, place=_three(place), roll=turned, size=(*first.size[:2], depth))


def _tilted(ground: Ground, first: Decal, wall: Body, size: float, roll: float, account: _Account) -> Decal:
    """A splash before one wall, tilted up to it: at the hit where it lies flat, standing on the ground where it is upright."""
    tilt = math.radians(account.at("tilt", wall.distance))
    towards = wall.towards(ground)
    out = ground.normal * math.cos(tilt) + towards * math.sin(tilt)
    # The same turn takes its length along with it.
    lean = float(ground.along @ towards)
    turned = towards * math.cos(tilt) - ground.normal * math.sin(tilt)
    up = ground.along + (turned - towards) * lean
    moved = (ground.normal * (size / 2) - towards * wall.distance) * math.sin(tilt)
    account.words.append(f"A wall is {wall.distance:.2f} m away: it is tilted by {math.degrees(tilt):.0f}°.")
    return _laid(ground, first, ground.place + moved, out, up, roll)


def _on_body(ground: Ground, first: Decal, body: Body, share: float, roll: float) -> Decal:
    """The piece that another surface gets: it stands on the ground at the body's nearest place."""
    width, height, depth = (side * share for side in first.size)
    smaller = replace(first, size=(width, height, depth))
    up = unit(ground.normal - body.normal * float(ground.normal @ body.normal))
    place = body.place + up * (math.sqrt(width * height) / 2 - ground.lift)
    return _laid(ground, smaller, place, body.normal, up, roll)


def _kept(surroundings: Surroundings, ground: Ground, pieces: Sequence[Decal]) -> list[Decal]:
    """The decals with their reach and the depth that it needs; those of which nothing is left are left out."""
    kept = []
    for piece in pieces:
        reach, depth = reach_of(surroundings, piece, ground.lifted)
        if max(reach) >= _SMALLEST / 2:
            width, height, _ = piece.size
            angles = {name: round(getattr(piece, name), 3) for name in ("turn", "tilt", "roll")}
            size = (round(width, 4), round(height, 4), round(float(min(depth + _MARGIN, _LARGEST)), 4))
            kept.append(replace(piece, size=size, reach=reach, **angles))
    return kept
