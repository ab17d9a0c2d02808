"""NumPy and WebGL2 agree: every primitive, every node, the whole surface model. Seeds are in the names."""

import base64
from pathlib import Path
from typing import Annotated, Any

import numpy as np

from tests.support.browser import BrowserCase
from tests.support.cases import Case, node_cases, primitive_cases, random_arrays
from velvet_moth.core.catalogue import CATALOGUE, borrowed_node, node
from velvet_moth.core.expr import (
    Expr,
    Primitive,
    Structural,
    apply,
    call,
    constant,
    in_order,
    sampler,
    uniform,
)
from velvet_moth.core.interpreters.evaluate import evaluate
from velvet_moth.core.interpreters.glsl import emit
from velvet_moth.core.lighting.channels import CHANNELS, Surface
from velvet_moth.core.lighting.environment import ENVIRONMENT, environment_map
from velvet_moth.core.lighting.model import lit_picture
from velvet_moth.core.ports import FLEXIBLE_OUT, flexible, number
from velvet_moth.core.primitives import sample, sine
from velvet_moth.core.reference import rig_inputs
from velvet_moth.core.surroundings import SURFACE_INPUTS, Surroundings, surface
from velvet_moth.core.types import NUMBER, VEC4
from velvet_moth.core.view import INSTANCE, Rig

SIZE = 16
SEED = 20
# One quad, so that varyings are exact over the whole target.
CELLS = 1
HARNESS = Path(__file__).with_name("harness.js").read_text()

# Absolute and relative, after the measured facts: exact arithmetic, native elementary functions, texture reads.
EXACT, ELEMENTARY, NATIVE_TRIGONOMETRY, READ = (0.0, 0.0), (2e-6, 3e-5), (5e-4, 5e-4), (4e-4, 4e-4)
PRIMITIVE_TOLERANCE = {
    **{n: EXACT for n in ("add", "subtract", "minimum", "maximum", "negate", "absolute", "sign", "floor", "ceiling")},
    **{n: EXACT for n in ("less", "select", "cell_random", "combine", "swizzle", "fract", "multiply", "assume")},
    **{n: NATIVE_TRIGONOMETRY for n in ("sine", "cosine", "arccosine", "arctangent")},
    "sample": READ,
}
# A graph that steps (floor, choose) may flip single pixels where an input is a rounding away.
NODE_SHARE, NODE_TOLERANCE = 0.99, (2e-3, 2e-3)


def grid_inputs() -> dict[str, np.ndarray]:
    """What the harness's flat square gives as surface inputs."""
    at = ((np.arange(SIZE) + 0.5) / SIZE).astype(np.float32)
    u, v = np.meshgrid(at, at)
    position = np.stack((u * 2 - 1, v * 2 - 1, np.zeros_like(u)))
    eye = np.array([0.5, 0.7, 3.0], dtype=np.float32).reshape(3, 1, 1)
    view = eye - position

    def filled(*values: float) -> np.ndarray:
        return np.broadcast_to(np.array(values, dtype=np.float32).reshape(-1, 1, 1), (len(values), SIZE, SIZE))

    return {
        "uv": np.stack((u, v)),
        "position": position,
        "object_position": position,
        "normal": filled(0, 0, 1),
        "object_normal": filled(0, 0, 1),
        "tangent": filled(1, 0, 0, 1),
        "view_direction": (view / np.linalg.norm(view, axis=0)).astype(np.float32),
        "second_uv": np.stack((1 - v, u)),
        "moved_position": position,
        "vertex_colour": np.stack((v, u, 1 - v, np.ones_like(v))),
        "camera_distance": np.linalg.norm(view, axis=0).astype(np.float32),
        "is_front": filled(1)[0],
        "screen_position": np.stack((u, v)),
        "screen_pixel": np.floor(np.stack((u, v)) * SIZE),
        **draw_inputs(),
    }


def draw_inputs() -> dict[str, np.ndarray]:
    """Rig and form of the harness's draws."""
    corners = {"form_low": (-1, -1, 0), "form_high": (1, 1, 0), "form_scale": (1, 1, 1), "instance_data": INSTANCE}
    form = {k: np.array(v, dtype=np.float32).reshape(-1, 1, 1) for k, v in corners.items()}
    return {**rig_inputs(Rig(), 2.5), **form}


def substituted(output: Expr, table: dict[Expr, Expr]) -> Expr:
    """The expression with some of its leaves replaced."""
    done: dict[Expr, Any] = {}
    for expr in in_order([output]):
        args = [done[a] for a in expr.args]
        if expr in table:
            done[expr] = table[expr]
        elif isinstance(expr.operator, Primitive):
            done[expr] = apply(expr.operator.name, *args, attributes=expr.attributes)
        elif expr.operator is Structural.CALL:
            results = call(expr.attributes[0], args)
            done[expr] = results[0] if len(results) == 1 else results
        elif expr.operator is Structural.RESULT:
            done[expr] = args[0][expr.attributes[0]]
        else:
            done[expr] = expr
    return done[output]


class Parity(BrowserCase):
    def setUp(self) -> None:
        super().setUp()
        self.page.evaluate(HARNESS)

    def on_gpu(self, output: Expr, arrays: dict, textures: dict) -> np.ndarray:
        """What WebGL2 paints: the random uniforms arrive as textures read pixel for pixel."""
        leaves = [e for e in in_order([output]) if e.operator is Structural.UNIFORM]
        here = surface("uv")
        table = {}
        for leaf in leaves:
            texel = sample(sampler(("given", leaf.attributes[0]), ("clamp", "clamp")), here, constant(0.0))
            table[leaf] = texel if leaf.type is VEC4 else getattr(texel, "xyzw"[: leaf.type.width])
        shader = emit(substituted(output, table))
        bound = []
        for slot in shader.samplers:
            is_given = isinstance(slot.key, tuple) and slot.key[0] == "given"
            levels = [padded(arrays[slot.key[1]])] if is_given else textures[slot.key].levels
            bound.append(
                {
                    "name": slot.name,
                    "wrap": slot.wrap,
                    "exact": is_given,
                    "levels": [
                        {
                            "width": level.shape[2],
                            "height": level.shape[1],
                            "data": base64.b64encode(
                                np.ascontiguousarray(level.transpose(1, 2, 0), dtype=np.float32).tobytes()
                            ).decode(),
                        }
                        for level in levels
                    ],
                }
            )
        draw = {k: np.ravel(v).tolist() for k, v in draw_inputs().items()}
        task = {
            "vertex": shader.vertex,
            "fragment": shader.fragment,
            "size": SIZE,
            "cells": CELLS,
            "textures": bound,
            "uniforms": {**draw, "camera_position": [0.5, 0.7, 3.0], "screen_size": [SIZE, SIZE]},
        }
        pixels = np.array(self.page.evaluate("task => draw(task)", task), dtype=np.float32)
        return pixels.reshape(SIZE, SIZE, 4).transpose(2, 0, 1)

    def in_numpy(self, output: Expr, arrays: dict, textures: dict) -> np.ndarray:
        value = evaluate([output], Surroundings(grid_inputs(), arrays, textures))[0]
        value = value if value.ndim == 3 else value[None]
        return np.broadcast_to(value, (value.shape[0], SIZE, SIZE))

    def compare(self, case: Case, output: Expr, tolerance: tuple[float, float], share: float) -> None:
        arrays = random_arrays(case, np.random.default_rng(SEED), SIZE)
        expected = self.in_numpy(output, arrays, case.textures)
        found = self.on_gpu(output, arrays, case.textures)[: expected.shape[0]]
        self.assertTrue(np.isfinite(found).all())
        agrees = np.abs(found - expected) <= tolerance[0] + tolerance[1] * np.abs(expected)
        worst = float(np.abs(found - expected).max())
        self.assertGreaterEqual(float(agrees.mean()), share, f"seed {SEED}: off by up to {worst:.2e}")

    def test_primitives(self) -> None:
        for case in primitive_cases():
            name = case.name.split()[0]
            with self.subTest(case.name):
                self.compare(case, case.output, PRIMITIVE_TOLERANCE.get(name, ELEMENTARY), 1.0)

    def test_nodes(self) -> None:
        for case in node_cases():
            for index, output in enumerate(case.outputs):
                if output.type.base == "float":
                    with self.subTest(case.name, output=index):
                        self.compare(case, output, NODE_TOLERANCE, NODE_SHARE)

    def test_whole_surfaces_under_the_rig(self) -> None:
        """Surface, mix of surfaces and dock, lit and tone-mapped, over random channels."""
        for key in ("surface", "mix_surfaces", "dock"):
            kind = CATALOGUE[key]
            case = Case(key, [], {}, {ENVIRONMENT: environment_map()})

            def filled(prefix: str, case: Case = case) -> Surface:
                found = {}
                for name, port in CHANNELS.items():
                    type_ = port.type.value
                    assert type_ is not None
                    low, high = (-0.4, 0.4) if name == "normal" else (0.05, 1.0)
                    found[name] = uniform(prefix + name, type_)
                    case.ranges[prefix + name] = (type_, low, high)
                return Surface(found)

            first, second = filled("a."), filled("b.")
            values: dict[str, Any] = {
                "surface": dict(first.channels),
                "mix_surfaces": {"a": first, "b": second, "amount": uniform("amount", NUMBER)},
                "dock": {"surface": first, "roughness": second["roughness"]},
            }[key]
            case.ranges["amount"] = (NUMBER, 0.0, 1.0)
            made = kind.build(values, ())["surface"]
            with self.subTest(key):
                self.compare(case, lit_picture(made), (4e-3, 4e-3), 0.995)

    def test_surface_inputs(self) -> None:
        """What the stage computes of the point and what NumPy is given are the same."""
        case = Case("inputs", [declared.expr for declared in SURFACE_INPUTS.values()])
        for output in case.outputs:
            with self.subTest(repr(output)):
                self.compare(case, output, ELEMENTARY, 1.0)

    def test_a_node_declared_in_a_test_is_proven_like_all_others(self) -> None:
        with borrowed_node("ember_glow"):

            @node("Ember glow", "Masks", ("coal",), ("make coals breathe",))
            def ember_glow(
                heat: Annotated[Expr, flexible(0.5)], speed: Annotated[Expr, number(1.0, 0.0, 3.0)]
            ) -> Annotated[Expr, FLEXIBLE_OUT]:
                """Heat that rises and falls.

                Formula: heat^2 (1 + 0.2 sin(t speed))
                Use: Emissive of coals.
                """
                return heat * heat * (1.0 + 0.2 * sine(surface("time") * speed))

            cases = [c for c in node_cases() if c.name.startswith("ember_glow")]
            self.assertEqual(len(cases), 2, "on numbers and on three components")
            for case in cases:
                self.compare(case, case.output, NODE_TOLERANCE, 1.0)


def padded(array: np.ndarray) -> np.ndarray:
    """An array of any width as four channels."""
    value = array if array.ndim == 3 else array[None]
    value = np.broadcast_to(value, (value.shape[0], SIZE, SIZE))
    return np.concatenate((value, np.zeros((4 - value.shape[0], SIZE, SIZE), dtype=np.float32)))
