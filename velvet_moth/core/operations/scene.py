"""Operations on the scene a graph is judged in: its light, what lies behind, and how its surface meets that."""

from collections.abc import Mapping
from dataclasses import dataclass, replace
from typing import Literal

from velvet_moth.core.base.errors import OperationRefused
from velvet_moth.core.document.graph import Graph, Wear
from velvet_moth.core.forms.view import SavedView
from velvet_moth.core.lighting.decals import Decal
from velvet_moth.core.lighting.kinds import KINDS
from velvet_moth.core.lighting.rigs import RIGS
from velvet_moth.core.operations.checks import Applied, checked_name, is_key
from velvet_moth.core.scenery.backdrops import BACKDROPS, place_of

# What can be chosen for each part, with its name for people.
Part = Literal["rig", "backdrop", "kind"]
CHOICES: Mapping[Part, Mapping[str, str]] = {
    "rig": {key: kind.name for key, kind in RIGS.items()},
    "backdrop": {"": "nothing", **{key: behind.name for key, behind in BACKDROPS.items()}},
    "kind": {key: kind.name for key, kind in KINDS.items()},
}
_WORDS: Mapping[Part, str] = {"rig": "lit it by {}", "backdrop": "put {} behind it", "kind": "made it {}"}
MOST_DECALS = 24
MOST_VIEWS = 40


@dataclass(frozen=True)
class SetDecals:
    """Puts decals down in the place of those there were; with none they lie where the backdrop has them."""

    decals: tuple[Decal, ...]
    op: Literal["set_decals"] = "set_decals"

    def apply(self, graph: Graph) -> Applied:
        if len(self.decals) > MOST_DECALS:
            raise OperationRefused(
                f"{len(self.decals)} decals are more than the {MOST_DECALS} a stage holds.", graph.title, "Remove some."
            )
        for number, decal in enumerate(self.decals, 1):
            where = f"decal {number}"
            if any(not 0.01 <= side <= 20.0 for side in decal.size):
                raise OperationRefused(
                    "A decal measures between 1 cm and 20 m.", where, "Type another width, height or depth."
                )
            if any(not 0.0 <= part <= 1.0 for part in decal.tint):
                raise OperationRefused("A tint lies between 0 and 1.", where, "Choose another colour.")
            if not 0.0 <= decal.index <= 4096.0:
                raise OperationRefused("An index lies between 0 and 4096.", where, "Type another one.")
            # Angles past a whole turn are no harm, places past the stage are not seen.
            if any(not abs(part) <= 1e4 for part in (*decal.place, decal.turn, decal.tilt, decal.roll)):
                raise OperationRefused("A decal lies too far away.", where, "Put it down nearer.")
        return replace(graph, decals=self.decals), SetDecals(graph.decals)

    def words(self, graph: Graph) -> str:
        before, after = len(graph.decals), len(self.decals)
        if after > before:
            return "put down a decal"
        return "removed a decal" if after < before else "changed a decal"


@dataclass(frozen=True)
class SetWears:
    """Dresses parts of backdrops in other graphs; a part that is not named wears what is its own."""

    wears: tuple[Wear, ...]
    op: Literal["set_wears"] = "set_wears"

    def apply(self, graph: Graph) -> Applied:
        known = {place_of(key, part): behind.name for key, behind in BACKDROPS.items() for part in behind.parts()}
        kept = {wear.part: wear for wear in self.wears}
        for wear in self.wears:
            if wear.part not in known:
                raise OperationRefused(
                    f"There is no part {wear.part[:40]!r} of a backdrop.", graph.title, f"Dress {', '.join(known)}."
                )
            if not is_key(wear.graph) or not is_key(wear.variant or "none"):
                raise OperationRefused("This is no graph of the project.", wear.part, "Choose one of the library.")
        if len(kept) < len(self.wears):
            raise OperationRefused("A part is dressed twice.", graph.title, "Name each part once.")
        return replace(graph, wears=tuple(kept[part] for part in sorted(kept))), SetWears(graph.wears)

    def words(self, graph: Graph) -> str:
        return "dressed what lies behind" if self.wears else "gave what lies behind its own surface back"


@dataclass(frozen=True)
class SetSurroundings:
    """Chooses a texture of all directions as the surroundings; "" for the rig's own."""

    texture: str
    op: Literal["set_surroundings"] = "set_surroundings"

    def apply(self, graph: Graph) -> Applied:
        if not is_key(self.texture or "none"):
            raise OperationRefused("This is no texture.", graph.title, "Choose one of the project's.")
        return replace(graph, surroundings=self.texture), SetSurroundings(graph.surroundings)

    def words(self, graph: Graph) -> str:
        return "put a picture around it" if self.texture else "took the picture around it away"


@dataclass(frozen=True)
class SetViews:
    """Keeps views of the stage in the place of those there were."""

    views: tuple[SavedView, ...]
    op: Literal["set_views"] = "set_views"

    def apply(self, graph: Graph) -> Applied:
        if len(self.views) > MOST_VIEWS:
            raise OperationRefused(
                f"A graph keeps at most {MOST_VIEWS} views.", graph.title, "Remove one you do not need."
            )
        names = [checked_name(view.name, "view") for view in self.views]
        if len(set(names)) < len(names):
            raise OperationRefused("Another view has this name.", names[-1], "Choose another name.")
        for view in self.views:
            eye = view.camera
            if not (0.1 <= eye.distance <= 100.0 and 1.0 <= eye.field <= 120.0):
                raise OperationRefused(
                    "An eye is 10 cm to 100 m away and sees 1 to 120 degrees.", view.name, "Save the view again."
                )
            if any(
                not abs(part) <= 1e4 for part in (*eye.target, eye.turn, eye.tilt, view.light_turn, view.light_tilt)
            ):
                raise OperationRefused("The view lies too far away.", view.name, "Save the view again.")
        kept = tuple(replace(view, name=name) for view, name in zip(self.views, names, strict=True))
        return replace(graph, views=kept), SetViews(graph.views)

    def words(self, graph: Graph) -> str:
        before, after = len(graph.views), len(self.views)
        if after > before:
            return f"saved the view {self.views[-1].name}"
        return "removed a view" if after < before else "changed a view"


@dataclass(frozen=True)
class SetScene:
    """Chooses one part of the scene: the light ``rig``, the ``backdrop`` (empty for none), or the ``kind`` of surface."""

    part: Part
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
