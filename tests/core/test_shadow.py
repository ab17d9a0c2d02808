"""The sun's shadows against geometry: a ball's on a floor below it, and that of a sheet cut in half."""

import unittest

import numpy as np

from velvet_moth.core.forms import form
from velvet_moth.core.language.expr import Expr, constant
from velvet_moth.core.language.inputs import Bindings, surface
from velvet_moth.core.language.interpreters.evaluate import evaluate
from velvet_moth.core.lighting.shadow import SUN_DEPTH, sun_arrives
from velvet_moth.core.render.tracing.rays import resting_scene
from velvet_moth.core.render.tracing.scene import Scene, draw_inputs, stage_textures, sun_half
from velvet_moth.core.render.tracing.sunlight import Caster, sun_picture

FLOOR = -2.0
COUNT = 200


def floor_under(key: str, opacity: Expr | None) -> tuple[np.ndarray, np.ndarray, np.ndarray]:
    """Places on a floor, (3, n, n), the sun's direction, and how much of the sun arrives there past a form."""
    scene, mesh = Scene.of(key, "low_sun"), form(key)
    sun = np.array(scene.rig.sun_direction)
    at = np.linspace(-1.6, 1.6, COUNT)
    x, z = np.meshgrid(at, at)
    # Seen along the sun the floor lies behind the form.
    places = (
        np.stack((x, np.full_like(x, FLOOR), z))
        - (sun * (2.0 / sun[1]))[:, None, None] * np.array([1, 0, 1])[:, None, None]
    )
    draw = draw_inputs(scene, mesh, (COUNT, COUNT))
    bare = Bindings(draw, {}, stage_textures())
    caster = Caster(resting_scene(mesh), mesh, mesh.positions, opacity, bare, scene.camera.position)
    seen = sun_picture(caster, scene.rig.sun_direction, sun_half(scene), None)
    here = Bindings({**draw, "moved_position": places.astype(np.float32)}, {}, {SUN_DEPTH: seen})
    (found,) = evaluate([sun_arrives(surface("moved_position"), constant(0.0, 1.0, 0.0))], here)
    return places, sun, found


class Shadows(unittest.TestCase):
    def test_a_ball_keeps_the_sun_off_a_disc_of_the_floor(self) -> None:
        places, sun, found = floor_under("sphere", None)
        radius = float(np.linalg.norm(form("sphere").positions, axis=1).max())
        off = np.linalg.norm(np.cross(places, sun, axis=0), axis=0)
        self.assertGreater((off < radius * 0.97).sum(), 500)
        self.assertLess(found[off < radius * 0.97].max(), 1e-3)
        self.assertGreater(found[off > radius * 1.03].min(), 0.999)

    def test_what_is_cut_away_lets_the_sun_through(self) -> None:
        whole = floor_under("plane", None)[2]
        half = floor_under("plane", surface("uv").x)[2]
        none = floor_under("plane", constant(0.2))[2]
        self.assertGreater((whole < 0.01).sum(), 500)
        self.assertAlmostEqual(float((half < 0.01).sum() / (whole < 0.01).sum()), 0.5, delta=0.05)
        self.assertTrue((half >= whole - 1e-6).all())
        self.assertGreater(none.min(), 0.999)


if __name__ == "__main__":
    unittest.main()
