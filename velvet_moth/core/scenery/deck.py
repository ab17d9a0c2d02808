"""The deck of the ferry: a deckhouse and the funnel that steam comes out of."""

from collections.abc import Mapping

from velvet_moth.core.forms.mesh import Mesh, joined
from velvet_moth.core.forms.solids import bend, turned
from velvet_moth.core.forms.view import Camera
from velvet_moth.core.language.expr import constant
from velvet_moth.core.language.inputs import surface
from velvet_moth.core.language.primitives import combine, floor, fract, minimum, mix, smoothstep, splat
from velvet_moth.core.lighting.channels import Surface, default_surface
from velvet_moth.core.nodes.noises import fractal_in_space, random_of
from velvet_moth.core.scenery.backdrops import declared_backdrop
from velvet_moth.core.scenery.shapes import Line, moved, slab

# The deck's height, that of the deckhouse's roof, and the mouth of the funnel, in metres.
DECK, ROOF, MOUTH = -1.25, -0.75, (0.0, -0.1, -0.35)


def _paint() -> Surface:
    """Planks on deck, ochre paint on the house, a madder funnel with a sooty rim."""
    place, normal = surface("position"), surface("normal")
    grain = fractal_in_space(place, constant(6.0), constant(0.55), constant(12.0), constant(0.0), 4)
    board = place.x * 6.5
    joint = minimum(smoothstep(0.0, 0.06, fract(board)), smoothstep(0.0, 0.06, 1.0 - fract(board)))
    each = 0.75 + 0.4 * random_of(combine(floor(board), 0.0), constant(3.0)).x
    planks = mix(combine(0.085, 0.065, 0.05), combine(0.2, 0.16, 0.12), grain) * (each * (0.4 + 0.6 * joint))
    worn = smoothstep(0.58, 0.7, grain)
    house = mix(combine(0.3, 0.27, 0.2), combine(0.16, 0.14, 0.12), worn)
    soot = smoothstep(MOUTH[1] - 0.16, MOUTH[1] - 0.1, place.y + (grain - 0.5) * 0.05)
    funnel = mix(mix(combine(0.17, 0.035, 0.03), combine(0.09, 0.045, 0.035), worn), combine(0.02, 0.019, 0.018), soot)
    on_deck = smoothstep(DECK + 0.01, DECK + 0.004, place.y) * smoothstep(0.5, 0.7, normal.y)
    on_house = smoothstep(ROOF + 0.006, ROOF + 0.003, place.y)
    base = mix(mix(funnel, house, splat(on_house, 3)), planks, splat(on_deck, 3))
    return Surface(
        {
            **default_surface().channels,
            "base_colour": base,
            "roughness": mix(0.38 + 0.4 * worn, constant(0.75), on_deck),
        }
    )


@declared_backdrop(
    "Ferry deck",
    _paint,
    Camera(turn=28.0, tilt=6.0, distance=4.4, target=(0.0, 0.15, -0.3)),
    Camera(20.0, 4.0, 2.4, 50.0, (0.0, 0.0, -0.3)),
)
def ferry_deck() -> Mapping[str, Mesh]:
    """A deckhouse with a funnel of 20 centimetres, on the planks of the ferry."""
    (x, mouth, z), radius = MOUTH, 0.13
    line: list[Line] = [
        [(radius, ROOF), (radius, mouth - 0.12)],
        bend(radius, mouth - 0.1, 0.018, -90, 90, 7),
        [(radius, mouth - 0.082), (radius - 0.012, mouth)],
        [(radius - 0.012, mouth), (radius - 0.03, mouth)],
        [(radius - 0.03, mouth), (radius - 0.03, mouth - 0.25)],
        [(radius - 0.03, mouth - 0.25), (0.0, mouth - 0.25)],
    ]
    return {
        "deck": slab((-1.7, DECK - 0.15, -1.4), (1.7, DECK, 1.0), 17),
        "house": joined(
            [
                slab((-0.75, DECK, -0.95), (0.75, ROOF - 0.04, 0.2), 13),
                slab((-0.8, ROOF - 0.04, -1.0), (0.8, ROOF, 0.25), 13),
            ]
        ),
        "funnel": moved(turned(line, columns=49, around=1.0), x, 0.0, z),
    }
