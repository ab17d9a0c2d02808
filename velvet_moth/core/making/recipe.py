"""A recipe: a stack of steps and the textures it makes; checked as it is read, computed from the first to the last."""

from collections.abc import Callable, Hashable, Mapping
from dataclasses import dataclass, field
from functools import partial
from typing import Any, Union

from velvet_moth.core.errors import OperationRefused
from velvet_moth.core.formats.reader import Reader
from velvet_moth.core.making.exchange import DEPTHS
from velvet_moth.core.making.layer import Canvas, Layer
from velvet_moth.core.making.step import STEPS, Setting, Step, Value, made

MOST_STEPS = 40
MOST_OUTPUTS = 8
SIZES = (64, 128, 256, 512, 1024, 2048, 4096)
Layers = dict[str, Layer]


@dataclass(frozen=True)
class PictureFrom:
    """Where a step takes a picture from: a layer of a step before it, or a texture of the project."""

    step: str = ""
    layer: str = ""
    texture: str = ""


@dataclass(frozen=True)
class Use:
    """One step of a stack, by an id of its own, with the values set on it."""

    id: str
    step: str
    values: Mapping[str, Union[Value, PictureFrom]] = field(default_factory=dict)

    @property
    def kind(self) -> Step:
        return STEPS[self.step]


@dataclass(frozen=True)
class Output:
    """A texture that comes of a stack: which layer of which step, under what name, in what depth."""

    id: str
    name: str
    step: str
    layer: str
    depth: str = "8 bit"


@dataclass(frozen=True)
class Recipe:
    """A stack of steps; ``columns`` and ``rows`` are the size of the textures in pixels."""

    name: str
    columns: int
    rows: int
    steps: tuple[Use, ...]
    outputs: tuple[Output, ...] = ()

    @property
    def canvas(self) -> Canvas:
        return Canvas(self.columns, self.rows)

    def preview(self, most: int) -> Canvas:
        """A canvas of the same shape whose sides are at most ``most``."""
        shrink = max(1.0, max(self.columns, self.rows) / most)
        return Canvas(max(1, round(self.columns / shrink)), max(1, round(self.rows / shrink)))

    def use(self, key: str) -> Use | None:
        return next((u for u in self.steps if u.id == key), None)

    def textures(self) -> set[str]:
        """The ids of the textures its steps read."""
        held = (v for use in self.steps for v in use.values.values())
        return {v.texture for v in held if isinstance(v, PictureFrom) and v.texture}


def sources(recipe: Recipe, at: int) -> dict[str, PictureFrom]:
    """What each picture of a step is taken from; the first one, where nothing is set, from the step just before."""
    use = recipe.steps[at]
    found: dict[str, PictureFrom] = {}
    is_first = True
    for key, setting in use.kind.settings.items():
        if setting.kind != "picture":
            continue
        value = use.values.get(key)
        if isinstance(value, PictureFrom):
            found[key] = value
        elif is_first and at and not setting.optional:
            found[key] = PictureFrom(step=recipe.steps[at - 1].id)
        is_first = False
    return found


def problems(recipe: Recipe) -> dict[str, str]:
    """What keeps each step from being made, as sentences by the step's id."""
    found: dict[str, str] = {}
    for at, use in enumerate(recipe.steps):
        taken = sources(recipe, at)
        before = {u.id for u in recipe.steps[:at]}
        for key, setting in use.kind.settings.items():
            if setting.kind == "picture" and key not in taken and not setting.optional:
                found[use.id] = f"{use.kind.name} needs {setting.name.lower()}: choose a step above it or a texture."
            if key in taken and taken[key].step and taken[key].step not in before:
                found[use.id] = f"{setting.name} of {use.kind.name} comes from a step that is not above it."
    return found


TextureLayer = tuple[Hashable, Callable[[], Layer]]
# Gives what tells the states of a texture apart, and its layer on a canvas; None where it is gone.
Textures = Callable[[str, Canvas], TextureLayer | None]
Remember = Callable[[Hashable, Callable[[], Layers]], Layers]


def _anew(_: Hashable, make: Callable[[], Layers]) -> Layers:
    return make()


@dataclass(frozen=True)
class Kitchen:
    """What computing a recipe needs from outside: textures by id, and a memory of what was made before."""

    textures: Textures
    remember: Remember = _anew


def evaluate(recipe: Recipe, canvas: Canvas, kitchen: Kitchen, wanted: set[str] | None = None) -> dict[str, Layers]:
    """The layers of each step (or of those ``wanted`` and what they need), by the step's id.

    Raises OperationRefused with what is wrong and at which step.
    """
    wrong = problems(recipe)
    needed = _needed(recipe, wanted if wanted is not None else {u.id for u in recipe.steps})
    found: dict[str, Layers] = {}
    marks: dict[str, Hashable] = {}
    for at, use in enumerate(recipe.steps):
        if use.id not in needed:
            continue
        where = f"step {at + 1}, {use.kind.name}"
        if use.id in wrong:
            raise OperationRefused(wrong[use.id], where, "Set it, or remove the step.")
        pictures: dict[str, Callable[[], Layer]] = {}
        came: list[Hashable] = []
        for key, source in sources(recipe, at).items():
            if source.texture:
                given = kitchen.textures(source.texture, canvas)
                if given is None:
                    raise OperationRefused("The texture it reads is gone.", where, "Choose another one.")
                mark, pictures[key] = given
                came.append((key, mark))
            else:
                layers = found[source.step]
                pictures[key] = partial(_chosen, layers, source.layer)
                came.append((key, marks[source.step], source.layer))
        marks[use.id] = (use.step, canvas, tuple(settled(use).items()), tuple(came))
        found[use.id] = kitchen.remember(marks[use.id], partial(_run, use, canvas, pictures))
    return found


def _chosen(layers: Layers, layer: str) -> Layer:
    return layers.get(layer) or next(iter(layers.values()))


def _run(use: Use, canvas: Canvas, pictures: Mapping[str, Callable[[], Layer]]) -> Layers:
    return made(use.kind, canvas, {**settled(use), **{key: take() for key, take in pictures.items()}})


def settled(use: Use) -> dict[str, Any]:
    """Every setting of a step that is no picture, set or by default."""
    found = {}
    for key, setting in use.kind.settings.items():
        if setting.kind != "picture":
            value = use.values.get(key, setting.default)
            found[key] = int(value) if setting.kind == "whole" and isinstance(value, (int, float)) else value
    return found


def _needed(recipe: Recipe, wanted: set[str]) -> set[str]:
    needed = set(wanted)
    for at in range(len(recipe.steps) - 1, -1, -1):
        if recipe.steps[at].id in needed:
            needed |= {s.step for s in sources(recipe, at).values() if s.step}
    return needed


def recipe_to_json(recipe: Recipe) -> dict[str, Any]:
    def out(value: Union[Value, PictureFrom]) -> Any:
        if isinstance(value, PictureFrom):
            held = (("step", value.step), ("layer", value.layer), ("texture", value.texture))
            return {key: text for key, text in held if text}
        return list(value) if isinstance(value, tuple) else value

    return {
        "name": recipe.name,
        "size": [recipe.columns, recipe.rows],
        "steps": [
            {"id": u.id, "step": u.step, "values": {k: out(v) for k, v in sorted(u.values.items())}}
            for u in recipe.steps
        ],
        "outputs": [
            {"id": o.id, "name": o.name, "step": o.step, "layer": o.layer, "depth": o.depth} for o in recipe.outputs
        ],
    }


def recipe_from_json(data: Any, where: str = "recipe") -> Recipe:
    """The recipe in plain data; FileRefused names the first thing that is wrong and its place."""
    file = Reader(data, where)
    columns, rows = (int(side.number()) for side in file.at("size").pair())
    if columns not in SIZES or rows not in SIZES:
        raise file.at("size").refuse("This is no size.", f"A side has {', '.join(map(str, SIZES))} pixels.")
    entries = file.at("steps").items()
    if not 1 <= len(entries) <= MOST_STEPS:
        raise file.at("steps").refuse(f"A stack has 1 to {MOST_STEPS} steps.", "Add or remove some.")
    steps: list[Use] = []
    for entry in entries:
        use = _use_in(entry)
        if any(u.id == use.id for u in steps):
            raise entry.refuse(f"Two steps have the id {use.id!r}.")
        steps.append(use)
    outputs = tuple(_output_in(entry, steps) for entry in file.at("outputs", []).items()[:MOST_OUTPUTS])
    return Recipe(file.at("name").text(80).strip() or "Made", columns, rows, tuple(steps), outputs)


def _use_in(entry: Reader) -> Use:
    key = entry.at("step").text()
    if key not in STEPS:
        raise entry.refuse(f"There is no step {key!r}.", "Remove it, or update the program.")
    values = {name: _value_in(value, STEPS[key], name) for name, value in entry.at("values", {}).fields().items()}
    return Use(entry.at("id").text(32), key, values)


def _value_in(entry: Reader, kind: Step, name: str) -> Union[Value, PictureFrom]:
    setting: Setting | None = kind.settings.get(name)
    if setting is None:
        raise entry.refuse(f"{kind.name} has nothing called {name!r} to set.")
    if setting.kind == "picture":
        return PictureFrom(*(entry.at(part, "").text() for part in ("step", "layer", "texture")))
    value = tuple(c.number() for c in entry.items()) if isinstance(entry.data, list) else entry.data
    wrong = setting.check(value)
    if wrong:
        raise entry.refuse(wrong, "Choose another value.")
    return value


def _output_in(entry: Reader, steps: list[Use]) -> Output:
    step, layer, depth = (entry.at(part).text() for part in ("step", "layer", "depth"))
    use = next((u for u in steps if u.id == step), None)
    if use is None or layer not in use.kind.layers:
        raise entry.refuse("This texture comes from a step or a layer that is not in the stack.", "Choose another.")
    if depth not in DEPTHS:
        raise entry.refuse(f"The depth {depth!r} is not known.", f"Use one of {', '.join(DEPTHS)}.")
    return Output(entry.at("id").text(32), entry.at("name").text(80).strip() or "Made", step, layer, depth)
