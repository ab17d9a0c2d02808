"""Two rows of numbers made one."""

from collections.abc import Callable, Mapping
from typing import Annotated as A

import numpy as np

from velvet_moth.core.baking.step import OnMesh, step
from velvet_moth.core.catalogue.settings import choice, number, values
from velvet_moth.core.forms.mesh import Floats

GROUP = "Together"
_MODES: Mapping[str, Callable[[Floats, Floats], Floats]] = {
    "multiply": np.multiply,
    "add": np.add,
    "subtract": np.subtract,
    "minimum": np.minimum,
    "maximum": np.maximum,
}
One = A[Floats, values("the first numbers")]
Other = A[Floats, values("the others")]


@step("Combine", GROUP)
def combine(
    on: OnMesh,
    one: One,
    other: Other,
    how: A[str, choice(*_MODES)] = "multiply",
    amount: A[float, number(0, 1, "how much of the result; 0 is the first alone")] = 1.0,
) -> Floats:
    """Two steps multiplied, added, subtracted, or the lower or higher of both."""
    return one + (_MODES[how](one, other) - one) * np.float32(amount)


@step("Mix by a mask", GROUP)
def mix_by_mask(on: OnMesh, one: One, other: Other, mask: A[Floats, values("0 the first, 1 the other")]) -> Floats:
    """One step where a mask is 0, the other where it is 1."""
    return one + (other - one) * np.clip(mask, 0, 1)
