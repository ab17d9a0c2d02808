"""Numbers at the vertices changed: each by itself, or over the surface around it."""

from typing import Annotated as A

import numpy as np

from velvet_moth.core.baking.step import OnMesh, in_range, step
from velvet_moth.core.catalogue.settings import number, values
from velvet_moth.core.forms.mesh import Floats

GROUP = "Change"
Given = A[Floats, values("the numbers that are changed")]
Radius = A[float, number(0, 2, "the reach over the surface, whatever the size of its triangles", "m")]


@step("Levels", GROUP)
def levels(
    on: OnMesh,
    given: Given,
    dark: A[float, number(0, 1, "what becomes 0")] = 0.0,
    bright: A[float, number(0, 1, "what becomes 1")] = 1.0,
    middle: A[float, number(0.1, 10, "above 1 the middle becomes brighter")] = 1.0,
) -> Floats:
    """A part of the range stretched over all of it, and its middle moved."""
    return in_range(given, dark, bright) ** np.float32(1.0 / middle)


@step("Invert", GROUP)
def invert(on: OnMesh, given: Given) -> Floats:
    """Each number taken from 1: dark becomes bright."""
    return np.float32(1.0) - given


@step("Power", GROUP)
def power(on: OnMesh, given: Given, exponent: A[float, number(0.05, 20)] = 2.0) -> Floats:
    """Each number to a power: above 1 only the highest stay, below 1 all rise."""
    return np.maximum(given, np.float32(0.0)) ** np.float32(exponent)


@step("Clamp", GROUP)
def clamp(on: OnMesh, given: Given, low: A[float, number(0, 1)] = 0.0, high: A[float, number(0, 1)] = 1.0) -> Floats:
    """What is below the lowest becomes that, what is above the highest that."""
    return np.clip(given, np.float32(min(low, high)), np.float32(max(low, high)))


@step("Remap", GROUP)
def remap(
    on: OnMesh,
    given: Given,
    from_low: A[float, number(-10, 10)] = 0.0,
    from_high: A[float, number(-10, 10)] = 1.0,
    to_low: A[float, number(-10, 10)] = 0.0,
    to_high: A[float, number(-10, 10)] = 1.0,
) -> Floats:
    """One range as another one, straight on beyond both ends."""
    span = from_high - from_low
    share = (given - np.float32(from_low)) / np.float32(span if abs(span) > 1e-9 else 1e-9)
    return np.float32(to_low) + share * np.float32(to_high - to_low)


@step("Spread", GROUP)
def spread(
    on: OnMesh,
    given: Given,
    cut: A[float, number(0, 0.4, "the share of the surface at either end that is left out")] = 0.0,
) -> Floats:
    """Stretched so that the lowest is 0 and the highest 1."""
    low, high = (float(q) for q in np.quantile(given, (cut, 1.0 - cut)))
    return in_range(given, low, high)


@step("Blur", GROUP)
def blur(on: OnMesh, given: Given, radius: Radius = 0.05) -> Floats:
    """Softened over the surface by distance. Masks that are softer than the mesh is fine survive being simplified."""
    return on.skin.at_vertices(on.skin.blurred(on.skin.at_places(given), radius))


@step("Sharpen", GROUP)
def sharpen(
    on: OnMesh,
    given: Given,
    radius: Radius = 0.05,
    amount: A[float, number(0, 4, "how much of the difference is added")] = 1.0,
) -> Floats:
    """What differs from its surroundings made to differ more."""
    soft = on.skin.at_vertices(on.skin.blurred(on.skin.at_places(given), radius))
    return given + (given - soft) * np.float32(amount)
