"""The fields of a graph that are set as a whole: its title, and the scene it is judged in."""

from collections.abc import Mapping
from dataclasses import dataclass, replace
from typing import Annotated

from velvet_moth.core.base.errors import FileRefused, OperationRefused
from velvet_moth.core.base.records import Number, OneOf, Text
from velvet_moth.core.base.ways import EASINGS, WAY_NAMES
from velvet_moth.core.document.checks import checked_name
from velvet_moth.core.document.fields import DocumentField
from velvet_moth.core.document.values import GraphKey, fresh_id, is_id, is_key
from velvet_moth.core.emitting.emitter import PATHS, Emitter, checked_emitter
from velvet_moth.core.forms import AS_MADE, FORMS, Pose, form_kind, is_form
from velvet_moth.core.forms.view import SavedView
from velvet_moth.core.lighting.decals import REACH_DIRECTIONS, Decal
from velvet_moth.core.lighting.kinds import KINDS
from velvet_moth.core.lighting.rigs import RIGS
from velvet_moth.core.lighting.spread import ENDINGS, Spread
from velvet_moth.core.scenery.backdrops import BACKDROPS, place_of

RIG_NAMES = {key: rig.name for key, rig in RIGS.items()}
BACKDROP_NAMES = {"": "nothing", **{key: behind.name for key, behind in BACKDROPS.items()}}
KIND_NAMES = {key: kind.name for key, kind in KINDS.items()}
PART_NAMES = {place_of(key, part): behind.name for key, behind in BACKDROPS.items() for part in behind.parts()}

FormKey = Annotated[Text, OneOf({key: form.name for key, form in FORMS.items()})]
RigKey = Annotated[Text, OneOf(RIG_NAMES)]
BackdropKey = Annotated[Text, OneOf(BACKDROP_NAMES)]
KindKey = Annotated[Text, OneOf(KIND_NAMES)]

MOST_DECALS = 240
MOST_TAGS = 12
LONGEST_TAG = 24
# How much smaller and larger a form may be than it is made.
SIZES = (0.05, 20.0)
MOST_VIEWS = 40


# Seconds, and frames a second.
SHORTEST, LONGEST, FASTEST = 0.1, 600.0, 120.0


@dataclass(frozen=True)
class Timing:
    """How many seconds the time of a graph is long, after which it begins again, and how many frames a second has."""

    length: Number = 10.0
    rate: Number = 30.0

    @property
    def frames(self) -> int:
        """How many frames the whole time has."""
        return max(round(self.length * self.rate), 1)


@dataclass(frozen=True)
class BackdropMaterial:
    """Another graph of the project as the surface of a part of a backdrop, in one of its variants ("" for its defaults).

    ``part`` is named as ``backdrops.place_of`` has it; ``graph`` is the key it is kept by.
    """

    part: Annotated[Text, OneOf(PART_NAMES)]
    graph: GraphKey
    variant: Text = ""


def _choice(what: str, names: Mapping[str, str], did: str) -> DocumentField:
    """One of some keys, called by their names."""

    def check(value: str, title: str) -> str:
        if value not in names:
            known = ", ".join(key for key in names if key)
            raise OperationRefused(f"There is no {what} {value!r}.", title, f"Choose one of {known}.")
        return value

    def name(value: str) -> str:
        return names.get(value, value).lower()

    return DocumentField(
        check,
        lambda before, after: did.format(name(after)),
        lambda before, after: f"{what} {name(after)}, was {name(before)}",
    )


def _counted(before: tuple[object, ...], after: tuple[object, ...], more: str, fewer: str, same: str) -> str:
    return more if len(after) > len(before) else fewer if len(after) < len(before) else same


def _check_form(form: str, title: str) -> str:
    try:
        form_kind(form)
    except FileRefused as error:
        raise OperationRefused(error.what, title, error.mend) from error
    return form


def _form_name(form: str) -> str:
    return form_kind(form).name.lower() if is_form(form) else "form"


def _check_pose(pose: Pose, title: str) -> Pose:
    low, high = SIZES
    if any(not low <= part <= high for part in pose.size):
        raise OperationRefused(f"A form is {low} to {high} times as large as it is made.", title, "Type other factors.")
    if not abs(pose.turn) <= 360.0:
        raise OperationRefused("A form turns by 360 degrees at most.", title, "Type another angle.")
    return pose


def _check_texture(texture: str, title: str) -> str:
    if not is_key(texture or "none"):
        raise OperationRefused("This is no texture.", title, "Choose one of the project's.")
    return texture


def _check_mesh(mesh: str, title: str) -> str:
    if not is_key(mesh or "none"):
        raise OperationRefused("This is no mesh.", title, "Choose one of the project's.")
    return mesh


def _check_rule(rule: str, title: str) -> str:
    if not is_key(rule or "none"):
        raise OperationRefused("This is no rule of placing.", title, "Choose one of the project's.")
    return rule


def _check_decals(decals: tuple[Decal, ...], title: str) -> tuple[Decal, ...]:
    if len(decals) > MOST_DECALS:
        raise OperationRefused(
            f"{len(decals)} decals are more than the {MOST_DECALS} a stage holds.", title, "Remove some."
        )
    for number, decal in enumerate(decals, 1):
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
            raise OperationRefused("A decal lies too far away.", where, "Place it nearer.")
        _check_life(decal, where)
    return _with_ids(decals)


def _check_life(decal: Decal, where: str) -> None:
    """What a decal knows of itself besides where it is."""
    if not abs(decal.born) <= LONGEST:
        raise OperationRefused(
            f"A decal begins at most {LONGEST:g} seconds from the beginning.", where, "Type another moment."
        )
    if not (0.0 <= decal.seed <= 65535.0 and decal.seed == int(decal.seed)):
        raise OperationRefused("A seed is a whole number from 0 to 65535.", where, "Type another one.")
    if not 0.0 <= decal.strength <= 1.0:
        raise OperationRefused("A strength is between 0 and 1.", where, "Type another one.")
    if not 0.0 <= decal.fade[0] < decal.fade[1] <= 90.0:
        raise OperationRefused(
            "A decal fades between two angles of 0 to 90 degrees, the first the smaller.", where, "Type other angles."
        )
    if len(decal.reach) not in (0, REACH_DIRECTIONS) or any(not 0.0 <= far <= 1e4 for far in decal.reach):
        raise OperationRefused(
            f"A decal's reach is {REACH_DIRECTIONS} distances in metres, or none.", where, "Throw it again."
        )
    if decal.thrown is not None and not 0.99 <= sum(part * part for part in decal.thrown) <= 1.01:
        raise OperationRefused("The direction of a throw has a length of 1.", where, "Throw it again.")


def _check_spread(spread: Spread, title: str) -> Spread:
    if spread.easing not in EASINGS:
        known = ", ".join(EASINGS)
        raise OperationRefused(f"Decals cannot spread by {spread.easing[:40]!r}.", title, f"Choose one of {known}.")
    if spread.ending not in ENDINGS:
        known = ", ".join(ENDINGS)
        raise OperationRefused(f"Decals cannot end by {spread.ending[:40]!r}.", title, f"Choose one of {known}.")
    if not (0.0 <= spread.smallest <= 20.0 and 0.0 <= spread.speed <= 1000.0):
        raise OperationRefused(
            "Decals begin with 0 to 20 m and spread by 0 to 1000 m a second.", title, "Type other numbers."
        )
    if not (0.0 <= spread.hold <= LONGEST and 0.0 <= spread.over <= LONGEST):
        raise OperationRefused(
            f"Decals stay, and take to go, 0 to {LONGEST:g} seconds each.", title, "Type other numbers."
        )
    return spread


def _lives(spread: Spread) -> str:
    """How decals live, in words."""
    grows = f"from {spread.smallest:g} m by {spread.speed:g} m/s" if spread.speed else "at once"
    ends = "" if spread.ending == "stay" else f", after {spread.hold:g} s {ENDINGS[spread.ending][0].lower()}"
    return f"{grows}, {WAY_NAMES[spread.easing].lower()}{ends}"


def _with_ids(decals: tuple[Decal, ...]) -> tuple[Decal, ...]:
    """Each decal under an id of its own, so that keys find it wherever it is in the list."""
    taken: set[str] = set()
    made = []
    for decal in decals:
        if not is_id(decal.id) or decal.id in taken:
            own = fresh_id("decal", {*taken, *(other.id for other in decals)})
            decal = replace(decal, id=own)
        taken.add(decal.id)
        made.append(decal)
    return tuple(made)


def _check_timing(timing: Timing, title: str) -> Timing:
    if not SHORTEST <= timing.length <= LONGEST:
        raise OperationRefused(
            f"The time of a graph is {SHORTEST:g} to {LONGEST:g} seconds long.", title, "Type another length."
        )
    if not (1.0 <= timing.rate <= FASTEST and timing.rate == int(timing.rate)):
        raise OperationRefused(f"A second has 1 to {FASTEST:g} whole frames.", title, "Type another number.")
    return timing


def _check_materials(materials: tuple[BackdropMaterial, ...], title: str) -> tuple[BackdropMaterial, ...]:
    by_part = {material.part: material for material in materials}
    for material in materials:
        if material.part not in PART_NAMES:
            raise OperationRefused(
                f"There is no part {material.part[:40]!r} of a backdrop.", title, f"Choose {', '.join(PART_NAMES)}."
            )
        if not is_key(material.graph) or not is_key(material.variant or "none"):
            raise OperationRefused("This is no graph of the project.", material.part, "Choose one of the library.")
    if len(by_part) < len(materials):
        raise OperationRefused("A part of the backdrop is named twice.", title, "Name each part once.")
    return tuple(by_part[part] for part in sorted(by_part))


def _check_tags(tags: tuple[str, ...], title: str) -> tuple[str, ...]:
    found = {" ".join(tag.split()).lower() for tag in tags}
    if len(found) > MOST_TAGS:
        raise OperationRefused(f"A graph has at most {MOST_TAGS} tags.", title, "Leave some out.")
    for tag in sorted(found):
        if not tag or len(tag) > LONGEST_TAG or "," in tag or not tag.isprintable():
            raise OperationRefused(
                f"A tag is a word or two of 1 to {LONGEST_TAG} letters, without a comma.", tag[:40], "Write it shorter."
            )
    return tuple(sorted(found))


def _check_views(views: tuple[SavedView, ...], title: str) -> tuple[SavedView, ...]:
    if len(views) > MOST_VIEWS:
        raise OperationRefused(f"A graph keeps at most {MOST_VIEWS} views.", title, "Remove one you do not need.")
    names = [checked_name(view.name, "view") for view in views]
    if len(set(names)) < len(names):
        raise OperationRefused("Another view has this name.", names[-1], "Choose another name.")
    for view in views:
        eye = view.camera
        if not (0.1 <= eye.distance <= 100.0 and 1.0 <= eye.field <= 120.0):
            raise OperationRefused(
                "An eye is 10 cm to 100 m away and sees 1 to 120 degrees.", view.name, "Save the view again."
            )
        if any(not abs(part) <= 1e4 for part in (*eye.target, eye.turn, eye.tilt, view.light_turn, view.light_tilt)):
            raise OperationRefused("The view lies too far away.", view.name, "Save the view again.")
    return tuple(replace(view, name=name) for view, name in zip(views, names, strict=True))


TITLE = DocumentField(
    lambda title, before: checked_name(title, "graph"),
    lambda before, after: f"renamed the graph {after}",
    # It names the graph as it is now.
    None,
)
TAGS = DocumentField(
    _check_tags,
    lambda before, after: f"tagged the graph {', '.join(after)}" if after else "took its tags off",
    # They say where it is found in the library, whatever state of it is looked at.
    None,
)
FORM = DocumentField(
    _check_form,
    lambda before, after: f"put it on the {_form_name(after)}",
    lambda before, after: f"seen on the {_form_name(after)}, was on the {_form_name(before)}",
)
MESH = DocumentField(
    _check_mesh,
    lambda before, after: "put it on a mesh" if after else "took the mesh away",
    lambda before, after: "seen on another mesh",
)
RIG = _choice("rig", RIG_NAMES, "lit it by {}")
POSE = DocumentField(
    _check_pose,
    lambda before, after: "scaled or turned the form" if after != AS_MADE else "put the form back as it is made",
    lambda before, after: "the form is scaled or turned otherwise",
)
BACKDROP = _choice("backdrop", BACKDROP_NAMES, "put {} behind it")
KIND = _choice("kind", KIND_NAMES, "made it {}")
ENVIRONMENT = DocumentField(
    _check_texture,
    lambda before, after: "put a picture around it" if after else "took the picture around it away",
    lambda before, after: "another picture stands around it",
)
DECALS = DocumentField(
    _check_decals,
    lambda before, after: _counted(before, after, "placed a decal", "removed a decal", "changed a decal"),
    lambda before, after: "decals were placed otherwise",
)
SPREAD = DocumentField(
    _check_spread,
    lambda before, after: f"let decals spread {_lives(after)}",
    lambda before, after: f"decals spread {_lives(after)}, did {_lives(before)}",
)
RULE = DocumentField(
    _check_rule,
    lambda before, after: "chose another rule of placing" if after else "went back to the first rule of placing",
    lambda before, after: "decals are thrown by another rule",
)


def _emits(emitter: Emitter) -> str:
    """An emitter in words."""
    if not emitter.is_on:
        return "nothing"
    parts = [f"{emitter.rate:g} a second"] if emitter.rate else []
    parts += [f"{emitter.burst:g} at once"] if emitter.burst else []
    return f"{' and '.join(parts)}, {PATHS[emitter.path].lower()}"


def _check_spurt(graph: str, title: str) -> str:
    if not is_key(graph or "none"):
        raise OperationRefused("This is no graph of the project.", title, "Choose one of the library.")
    return graph


EMITTER = DocumentField(
    checked_emitter,
    lambda before, after: f"emits {_emits(after)}",
    lambda before, after: f"emits {_emits(after)}, emitted {_emits(before)}",
)
SPURT = DocumentField(
    _check_spurt,
    lambda before, after: "chose what spurts where something is thrown" if after else "nothing spurts any more",
    lambda before, after: "something else spurts where it is thrown",
)
BACKDROP_MATERIALS = DocumentField(
    _check_materials,
    lambda before, after: (
        "chose other surfaces for what lies behind" if after else "gave what lies behind its own surface back"
    ),
    lambda before, after: "what lies behind has other surfaces",
)
TIMING = DocumentField(
    _check_timing,
    lambda before, after: f"made the time {after.length:g} s long, {after.rate:g} frames a second",
    lambda before, after: (
        f"{after.length:g} s of {after.rate:g} frames a second, were {before.length:g} s of {before.rate:g}"
    ),
)
VIEWS = DocumentField(
    _check_views,
    lambda before, after: _counted(
        before, after, f"saved the view {after[-1].name if after else ''}", "removed a view", "changed a view"
    ),
    lambda before, after: "saved views changed",
)
