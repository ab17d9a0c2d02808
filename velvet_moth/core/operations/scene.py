"""The operation on the scene a graph is judged in: its light, what lies behind, and how its surface meets that."""

from collections.abc import Mapping
from dataclasses import dataclass, replace
from typing import Literal

from velvet_moth.core.backdrops import BACKDROPS
from velvet_moth.core.errors import OperationRefused
from velvet_moth.core.graph import KINDS, Graph
from velvet_moth.core.lighting.rigs import RIGS
from velvet_moth.core.operations.checks import Applied

# What can be chosen for each part, with its name for people.
CHOICES: Mapping[str, Mapping[str, str]] = {
    "rig": {key: kind.name for key, kind in RIGS.items()},
    "backdrop": {"": "nothing", **{key: behind.name for key, behind in BACKDROPS.items()}},
    "kind": KINDS,
}
_WORDS = {"rig": "lit it by {}", "backdrop": "put {} behind it", "kind": "made it {}"}


@dataclass(frozen=True)
class SetScene:
    """Chooses one part of the scene: the light ``rig``, the ``backdrop`` (empty for none), or the ``kind`` of surface."""

    part: Literal["rig", "backdrop", "kind"]
    value: str
    op: Literal["set_scene"] = "set_scene"

    def apply(self, graph: Graph) -> Applied:
        choices = CHOICES[self.part]
        if self.value not in choices:
            known = ", ".join(key for key in choices if key)
            raise OperationRefused(f"There is no {self.part} {self.value!r}.", graph.title, f"Choose one of {known}.")
        before: str = getattr(graph, self.part)
        # One of three fields of the graph, all of them texts.
        after: Graph = replace(graph, **{self.part: self.value})  # type: ignore[arg-type]
        return after, SetScene(self.part, before)

    def words(self, graph: Graph) -> str:
        return _WORDS[self.part].format(CHOICES[self.part].get(self.value, self.value).lower())
