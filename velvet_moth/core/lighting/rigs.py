"""Light rigs: a main light that moves, and surroundings that turn with it. Each is one function of a direction."""

from collections.abc import Callable
from dataclasses import dataclass

from velvet_moth.core.base.errors import FileRefused
from velvet_moth.core.forms.view import Lamp, Rig, direction
from velvet_moth.core.language.expr import Expr
from velvet_moth.core.language.primitives import (
    absolute,
    combine,
    dot,
    maximum,
    minimum,
    mix,
    saturate,
    sine,
    smoothstep,
)

# Linear light arriving from a unit direction (y up).
Around = Callable[[Expr], Expr]


@dataclass(frozen=True)
class RigKind:
    """A rig as it is first seen, its name for people, and what stands around."""

    key: str
    name: str
    words: str
    rig: Rig
    around: Around


RIGS: dict[str, RigKind] = {}


def declared_rig(name: str, rig: Rig) -> Callable[[Around], Around]:
    """Decorator that enters a rig in the table; its docstring tells what it is for."""

    def decorate(around: Around) -> Around:
        key = around.__name__
        words = " ".join((around.__doc__ or "").split())
        RIGS[key] = RigKind(key, name, words, rig.named(key), around)
        return around

    return decorate


def rig_kind(key: str) -> RigKind:
    """The rig of that key; FileRefused where there is none."""
    if key not in RIGS:
        raise FileRefused(f"There is no light rig {key!r}.", "rig", f"Choose one of {', '.join(RIGS)}.")
    return RIGS[key]


def lamps_of(key: str) -> int:
    """How many lamps a rig has besides its main light."""
    return len(RIGS[key].rig.lamps) if key in RIGS else 0


def _spot(towards: Expr, turn: float, tilt: float, inner: float, outer: float) -> Expr:
    """1 within ``inner`` of a direction (as cosines), 0 beyond ``outer``."""
    x, y, z = direction(turn, tilt)
    return smoothstep(outer, inner, dot(towards, combine(x, y, z)))


def _panel(towards: Expr, turn: float, tilt: float, wide: float, high: float) -> Expr:
    """A soft-edged rectangle of light; half its width and height at a distance of 1."""
    forward = direction(turn, tilt)
    side = direction(turn + 90, 0)
    up = direction(turn, tilt + 90)
    ahead = dot(towards, combine(*forward))
    x, y = (absolute(dot(towards, combine(*axis))) / maximum(ahead, 0.05) for axis in (side, up))
    inside = smoothstep(wide * 1.08, wide * 0.92, x) * smoothstep(high * 1.08, high * 0.92, y)
    return inside * smoothstep(0.0, 0.1, ahead)


def _sky(towards: Expr, horizon: Expr, zenith: Expr, below: Expr, far_below: Expr, height: float = 0.75) -> Expr:
    """Two gradients that meet at the horizon."""
    y = towards.y
    sky = mix(horizon, zenith, smoothstep(0.0, height, y))
    ground = mix(below, far_below, smoothstep(0.0, 0.6, -y))
    return mix(ground, sky, smoothstep(-0.03, 0.03, y))


@declared_rig("Open dock", Rig())
def open_dock(towards: Expr) -> Expr:
    """Hazy sky over a warm horizon, a long bright gap overhead, dark planks below: for judging anything."""
    y = towards.y
    both = _sky(
        towards,
        combine(1.0, 0.88, 0.74),
        combine(0.30, 0.42, 0.62),
        combine(0.30, 0.25, 0.21),
        combine(0.07, 0.06, 0.06),
    )
    gap = smoothstep(0.20, 0.10, absolute(towards.x + 0.35)) * smoothstep(0.25, 0.45, y)
    lamp = smoothstep(0.90, 0.97, towards.x * 0.80 + y * 0.35 + towards.z * -0.49)
    post = smoothstep(0.10, 0.06, absolute(towards.x - 0.1)) * smoothstep(0.55, 0.30, absolute(y - 0.1))
    shaded = both * (1.0 - 0.8 * post * smoothstep(0.0, 0.2, towards.z))
    return shaded + gap * combine(3.2, 3.3, 3.5) + lamp * combine(5.0, 3.6, 2.2)


_LOW = (118.0, 11.0)


@declared_rig(
    "Low sun over water", Rig(turn=_LOW[0], tilt=_LOW[1], strength=3.4, tint=(1.0, 0.62, 0.32), exposure=0.72)
)
def low_sun(towards: Expr) -> Expr:
    """The sun a hand above the lock's far end, its path on the water: long light from one side."""
    y = towards.y
    sky = _sky(
        towards,
        combine(1.25, 0.62, 0.30),
        combine(0.16, 0.22, 0.42),
        combine(0.42, 0.25, 0.17),
        combine(0.03, 0.05, 0.06),
        0.6,
    )
    near = _spot(towards, *_LOW, 0.985, 0.70)
    x, _, z = direction(_LOW[0], 0.0)
    ahead = dot(towards, combine(x, 0.0, z))
    path = smoothstep(0.86, 0.99, ahead) * smoothstep(0.02, -0.04, y) * smoothstep(-0.6, -0.1, y)
    glitter = 0.55 + 0.45 * sine(y * 90.0 + towards.x * 23.0)
    bank = smoothstep(0.16, 0.10, y + 0.05 * sine(towards.x * 9.0)) * smoothstep(0.0, 0.05, y)
    dark = 1.0 - 0.85 * bank * smoothstep(0.5, 0.1, ahead)
    return sky * dark + near * combine(2.6, 1.2, 0.45) + path * glitter * combine(2.4, 1.25, 0.6)


@declared_rig("Overcast", Rig(turn=20.0, tilt=70.0, strength=0.55, tint=(0.95, 0.98, 1.0), exposure=0.74))
def overcast(towards: Expr) -> Expr:
    """A white sky brightest overhead, hardly a shadow: shows form and colour, flatters nothing."""
    y = towards.y
    sky = mix(combine(0.50, 0.54, 0.58), combine(1.18, 1.22, 1.26), smoothstep(-0.05, 0.95, y))
    ground = mix(combine(0.24, 0.23, 0.21), combine(0.10, 0.10, 0.09), smoothstep(0.0, 0.6, -y))
    trees = smoothstep(0.16, 0.08, y + 0.04 * sine(towards.x * 14.0) + 0.03 * sine(towards.z * 17.0))
    return mix(
        mix(ground, sky, smoothstep(-0.02, 0.02, y)), combine(0.07, 0.09, 0.06), trees * smoothstep(-0.02, 0.02, y)
    )


_LANTERN = (62.0, 26.0)


@declared_rig(
    "Lantern dusk",
    Rig(
        turn=_LANTERN[0],
        tilt=_LANTERN[1],
        strength=1.5,
        tint=(1.0, 0.56, 0.22),
        exposure=0.95,
        lamps=(Lamp((1.5, 0.9, 1.1), (3.4, 1.75, 0.62)),),
    ),
)
def lantern_dusk(towards: Expr) -> Expr:
    """A blue evening with a lantern near by and two far off: warm against cold."""
    sky = _sky(
        towards,
        combine(0.34, 0.26, 0.34),
        combine(0.05, 0.09, 0.22),
        combine(0.07, 0.06, 0.08),
        combine(0.015, 0.015, 0.02),
        0.5,
    )
    near = _spot(towards, *_LANTERN, 0.985, 0.90)
    far = _spot(towards, 228.0, 12.0, 0.994, 0.97) + _spot(towards, 262.0, 9.0, 0.996, 0.98)
    window = _panel(towards, 160.0, 8.0, 0.10, 0.16)
    return sky + near * combine(7.0, 3.4, 1.1) + far * combine(5.0, 2.2, 0.7) + window * combine(3.0, 1.7, 0.7)


@declared_rig("Studio strips", Rig(turn=40.0, tilt=38.0, strength=0.9, tint=(1.0, 0.98, 0.95), exposure=0.62))
def studio_strips(towards: Expr) -> Expr:
    """Long soft panels in a dark room: their edges in the reflection tell every dent and every roughness."""
    room = mix(combine(0.05, 0.05, 0.055), combine(0.11, 0.11, 0.12), smoothstep(-0.4, 0.8, towards.y))
    key = _panel(towards, 52.0, 40.0, 0.22, 1.1)
    fill = _panel(towards, 300.0, 18.0, 0.10, 1.3)
    over = _panel(towards, 180.0, 78.0, 1.2, 0.28)
    rim = _panel(towards, 205.0, 14.0, 0.07, 1.0)
    floor = smoothstep(-0.2, -0.9, towards.y) * 0.16
    return room + key * 6.5 + fill * combine(2.0, 2.4, 3.0) + over * 3.2 + rim * combine(5.0, 4.6, 4.0) + floor


@declared_rig("Open shade", Rig(turn=310.0, tilt=55.0, strength=0.35, tint=(0.8, 0.9, 1.0), exposure=1.1))
def open_shade(towards: Expr) -> Expr:
    """In the shadow of the boathouse under a blue sky, with a sunlit wall across the water."""
    sky = _sky(
        towards,
        combine(0.72, 0.80, 0.92),
        combine(0.28, 0.46, 0.86),
        combine(0.16, 0.17, 0.17),
        combine(0.06, 0.06, 0.06),
    )
    eave = smoothstep(0.05, 0.25, dot(towards, combine(*direction(130.0, 32.0))))
    wall = _panel(towards, 296.0, 4.0, 0.75, 0.20)
    return sky * (1.0 - 0.82 * eave) + wall * combine(2.6, 2.1, 1.5)


@declared_rig(
    "Night, coloured lamps",
    Rig(
        turn=36.0,
        tilt=34.0,
        strength=0.9,
        tint=(0.35, 0.85, 1.0),
        exposure=1.05,
        lamps=(
            Lamp((-1.75, 0.5, -0.7), (8.0, 0.75, 0.5)),
            Lamp((1.1, 1.2, -1.5), (6.0, 2.9, 0.6)),
            Lamp((1.3, -0.4, 1.5), (0.4, 2.4, 3.0)),
        ),
    ),
)
def night_lamps(towards: Expr) -> Expr:
    """Signal lamps in the dark: green-blue from the front, red and amber from behind."""
    sky = _sky(
        towards,
        combine(0.035, 0.04, 0.06),
        combine(0.008, 0.012, 0.03),
        combine(0.02, 0.02, 0.022),
        combine(0.006, 0.006, 0.008),
    )
    front = _spot(towards, 36.0, 34.0, 0.97, 0.88)
    red = _spot(towards, 250.0, 16.0, 0.975, 0.90)
    amber = _spot(towards, 150.0, 30.0, 0.985, 0.93)
    strip = minimum(_panel(towards, 100.0, 4.0, 1.4, 0.03), 1.0)
    return (
        sky
        + front * combine(0.9, 3.2, 4.2)
        + red * combine(7.0, 0.5, 0.35)
        + amber * combine(5.0, 2.4, 0.5)
        + saturate(strip) * combine(0.8, 0.2, 1.2)
    )
