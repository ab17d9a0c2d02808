"""Another texture in the place of one, wherever a graph reads it."""

from dataclasses import dataclass
from typing import Literal

from velvet_moth.core.base.errors import OperationRefused
from velvet_moth.core.document.graph import FIELDS, Graph
from velvet_moth.core.operations import Batch, Operation, SetOverride, SetTrack, SetValue, set_field


@dataclass(frozen=True)
class ReplaceTexture:
    """Chooses the texture ``new`` wherever ``old`` is chosen: on cards, in variants, by keys, and around the stage."""

    old: str
    new: str
    craft: Literal["replace_texture"] = "replace_texture"

    def batch(self, graph: Graph) -> Batch:
        steps: list[Operation] = [
            SetValue(node, key, self.new)
            for (node, key), _ in graph.own_textures()
            if graph.nodes[node].values.get(key) == self.old
        ]
        steps += [
            SetOverride(variant.id, parameter, self.new)
            for variant in graph.variants
            for parameter, value in variant.values.items()
            if value == self.old
        ]
        for variant_id, target, track in graph.every_track():
            other = track.mapped(lambda value: self.new if value == self.old else value)
            if other != track:
                steps.append(SetTrack(target, other, variant_id))
        changed = graph.with_references("texture", {self.old: self.new})
        steps += [
            set_field(name, getattr(changed, name)) for name in FIELDS if getattr(changed, name) != getattr(graph, name)
        ]
        if not steps:
            raise OperationRefused("This texture is chosen nowhere here.", graph.title, "Choose one that is used.")
        return Batch(tuple(steps), "replaced a texture by another")
