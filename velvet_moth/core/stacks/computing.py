"""A stack computed from its first step to its last; the cache key of a step is all that it was made from."""

from collections.abc import Callable, Hashable, Mapping
from functools import partial
from typing import Any, Protocol, Self, TypeVar

from velvet_moth.core.base.errors import OperationRefused
from velvet_moth.core.stacks.stack import Stack, Use, problems, sources

Made = TypeVar("Made")
# Gives what a step takes from elsewhere.
Supply = Callable[..., Any]
Remember = Callable[[Hashable, Callable[[], Any]], Any]


def each_time(_: Hashable, make: Callable[[], Made]) -> Made:
    """Remembers nothing."""
    return make()


class Ground(Protocol[Made]):
    """What the steps of a family work on."""

    def key_of(self, use: Use) -> Hashable:
        """What tells it apart from others, in the cache key of what a step makes on it."""

    def layer(self, made: Made, layer: str) -> Supply:
        """What a step takes of what another one has made."""

    def texture(self, key: str) -> tuple[Hashable, Supply] | None:
        """What tells the states of a texture apart, and what a step takes of it; None where it is gone."""

    def run(self, use: Use, taken: Mapping[str, Supply]) -> Made:
        """What a step makes."""

    def after(self, made: Made, key: Hashable) -> Self:
        """What the steps below work on where a step that reshapes has made something."""


def computed(
    stack: Stack, ground: Ground[Made], wanted: set[str] | None = None, remember: Remember = each_time
) -> tuple[dict[str, Made], Ground[Made]]:
    """What each step has made (or those ``wanted`` and what they need), by the step's id; and what they have worked on at the end.

    Raises OperationRefused with what is wrong and at which step.
    """
    wrong = problems(stack)
    needed = _needed(stack, wanted if wanted is not None else {u.id for u in stack.steps})
    found: dict[str, Made] = {}
    marks: dict[str, Hashable] = {}
    for at, use in enumerate(stack.steps):
        if use.id not in needed:
            continue
        where = f"step {at + 1}, {use.kind.name}"
        if use.id in wrong:
            raise OperationRefused(wrong[use.id], where, "Set it, or remove the step.")
        taken: dict[str, Supply] = {}
        came: list[Hashable] = []
        for key, source in sources(stack, at).items():
            if source.texture:
                given = ground.texture(source.texture)
                if given is None:
                    raise OperationRefused("The texture it reads is gone.", where, "Choose another one.")
                taken[key] = given[1]
                came.append((key, given[0]))
            else:
                taken[key] = ground.layer(found[source.step], source.layer)
                came.append((key, marks[source.step], source.layer))
        plain = (*use.settled().items(), *use.tile_rows().items())
        mark = marks[use.id] = (use.kind.key, ground.key_of(use), plain, tuple(came))
        found[use.id] = remember(mark, partial(ground.run, use, taken))
        if use.kind.reshapes:
            ground = ground.after(found[use.id], mark)
    return found, ground


def only_taken_by(stack: Stack, takers: set[str], wanted: set[str]) -> set[str]:
    """The steps besides those ``wanted`` of which all that is needed is taken by some settings (``step setting``), or by such steps."""
    found: set[str] = set()
    needed = _needed(stack, wanted)
    for at in range(len(stack.steps) - 1, -1, -1):
        use = stack.steps[at]
        readers = [
            (other.id, key.partition("/")[0])
            for place, other in enumerate(stack.steps)
            if other.id in needed
            for key, source in sources(stack, place).items()
            if source.step == use.id
        ]
        is_one = readers and all(step in found or f"{step} {key}" in takers for step, key in readers)
        if is_one and use.id not in wanted and not use.kind.reshapes:
            found.add(use.id)
    return found


def _needed(stack: Stack, wanted: set[str]) -> set[str]:
    """Those wanted, what they take from, and everything that reshapes what they work on."""
    needed = set(wanted)
    for at in range(len(stack.steps) - 1, -1, -1):
        use = stack.steps[at]
        if use.kind.reshapes:
            needed.add(use.id)
        if use.id in needed:
            needed |= {s.step for s in sources(stack, at).values() if s.step}
    return needed
