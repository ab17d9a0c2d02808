"""What a node says of itself: its Formula line, read as mathematics, gives what the node gives, far beyond its sliders."""

import unittest
from collections.abc import Mapping
from typing import Any

import numpy as np

from tests.core.test_formulas import SIZE, outputs
from tests.support.formula_reader import Line, NotMathematics, read_line
from velvet_moth.core.catalogue.registry import CATALOGUE, NodeType
from velvet_moth.core.language.types import P_BOOL, P_FLEXIBLE
from velvet_moth.core.render.swatches import dome

DRAW = np.random.default_rng(12)
GROUND = {name: values.astype(np.float64) for name, values in dome().items()}
TIME = 2.0437
# What lines call things of the surface point.
AROUND = {
    "pi": np.pi,
    "form normal": GROUND["normal"],
    "view": GROUND["view_direction"],
    "u": GROUND["uv"][0],
    "v": GROUND["uv"][1],
    "front": GROUND["is_front"],
    "e": np.e,
    "time": TIME,
}


def lines() -> dict[str, Line]:
    """The nodes whose line is mathematics throughout, by name."""
    found = {}
    for key, kind in CATALOGUE.items():
        plain = [i for i in kind.inputs.values() if not i.reads]
        if any(i.type.value is None and i.type is not P_FLEXIBLE for i in plain) or any(
            i.type.name == "texture" for i in plain
        ):
            continue
        choices = [str(c) for s in kind.settings.values() for c in getattr(s, "choices", ())]
        try:
            found[key] = read_line(kind.help.formula, [o.name.lower() for o in kind.outputs.values()], choices)
        except NotMathematics:
            continue
    return found


def given(kind: NodeType, beyond: float) -> dict[str, Any]:
    """Random values for every input, ``beyond`` its slider by so many times its length."""
    made: dict[str, Any] = {}
    for key, declared in kind.inputs.items():
        length = declared.high - declared.low
        low, high = declared.low - beyond * length, declared.high + beyond * length
        width = declared.type.value.width if declared.type.value else 1
        shape = (SIZE, SIZE) if width == 1 else (width, SIZE, SIZE)
        if declared.type is P_BOOL:
            made[key] = DRAW.random(shape) < 0.5
        else:
            made[key] = DRAW.uniform(low, high, shape).astype(np.float32).astype(np.float64)
    return made


def names_of(kind: NodeType, values: Mapping[str, Any]) -> dict[str, Any]:
    """Inputs by what a line may call them."""
    found: dict[str, Any] = dict(AROUND)
    for key, declared in kind.inputs.items():
        value = values[key]
        found |= {
            key.replace("_", " "): value,
            declared.name.lower(): value,
            key.upper() if len(key) == 1 else key: value,
        }
    return found


class Lines(unittest.TestCase):
    def test_every_line_that_is_mathematics_is_true(self) -> None:
        """Within the sliders, and four times as far. Seed 12."""
        true: set[str] = set()
        for key, line in lines().items():
            kind = CATALOGUE[key]
            for beyond in (0.0, 4.0):
                values = given(kind, beyond)
                try:
                    with np.errstate(all="ignore"):
                        said = line.worth(names_of(kind, values))
                except NotMathematics:
                    break
                for place, (before, expected) in enumerate(said):
                    settings = {
                        name: before for name, s in kind.settings.items() if before in getattr(s, "choices", ())
                    }
                    found = outputs(key, settings, ground={"time": np.full((1, 1), TIME)}, **values)
                    by_name = {o.name.lower(): k for k, o in kind.outputs.items()}
                    output = by_name.get(before) or list(found)[0 if settings else place]
                    with self.subTest(key, output=output, beyond=beyond):
                        self.agree(found[output], np.asarray(expected, dtype=np.float64))
            else:
                true.add(key)
        self.assertGreater(len(true), 90, "most lines can be read")

    def agree(self, found: np.ndarray, said: np.ndarray) -> None:
        """Wherever the line has a value that a float can hold; single pixels may fall on the other side of a step."""
        said = np.broadcast_to(said, found.shape) if said.ndim <= found.ndim else said
        self.assertEqual(found.shape, said.shape)
        self.assertTrue(np.isfinite(found).all())
        told = np.abs(said) < 1e37
        self.assertGreater(told.mean(), 0.3, "the line has values")
        near = np.isclose(found, said, rtol=2e-3, atol=2e-3 * max(1.0, float(np.median(np.abs(said[told])))))
        self.assertGreater(near[told].mean(), 0.995)
