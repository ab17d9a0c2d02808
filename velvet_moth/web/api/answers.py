"""What answers hold. The description at /api is made from these types."""

from typing import Any, NotRequired

from typing_extensions import TypedDict

# An open end of a range, or a number beyond what JSON can hold, is null.
Number = float | None
Json = dict[str, Any]


class Id(TypedDict):
    id: int


class Key(TypedDict):
    key: str


class GraphState(TypedDict):
    """Everything the workbench shows; of each table only what differs from the state the page had."""

    id: int
    revision: int
    seen: str
    stamp: str
    motif: str
    variant: str
    shown: str
    undo: str
    redo: str
    changed: str
    document: Json
    shader: Json
    cost: Json
    nodes: NotRequired[Json]
    types: Json
    input_types: Json
    rates: Json
    kinds: Json
    problems: Json
    swatches: Json
    textures: Json
    gone: dict[str, list[str]] | None
    part_surfaces: list[Json]
    decals: list[Json]
    made: NotRequired[list[str] | int]


class ShaderOnly(TypedDict):
    """A shader with where its values and textures go; its text where the page does not have it."""

    hash: str
    floats: int
    slots: list[list[Any]]
    samplers: list[Json]
    fragment: NotRequired[str]
    vertex: NotRequired[str]


class ShaderWithValues(TypedDict):
    shader: ShaderOnly
    values: list[float]


class BackdropChoice(TypedDict):
    graph: str
    title: str
    variants: list[dict[str, str]]


class BackdropChoices(TypedDict):
    graphs: list[BackdropChoice]


class Step(TypedDict):
    number: int
    words: str
    made: str
    done: bool


class Version(TypedDict):
    id: int
    name: str
    revision: int
    made: str


class History(TypedDict):
    steps: list[Step]
    versions: list[Version]


class ValueHeld(TypedDict):
    value: list[float] | str
    where: str
    made: str


class ValuesHeld(TypedDict):
    values: list[ValueHeld]


class Comparison(TypedDict):
    version: Json
    stamp: str
    added: list[str]
    removed: list[dict[str, str]]
    changed: dict[str, list[str]]
    elsewhere: list[str]


class Cost(TypedDict):
    operations: int
    reads: int
    classes: dict[str, int]


class NodeAnalysis(TypedDict):
    ranges: dict[str, Json]
    cost: Cost
    saved: Cost


class GraphCost(TypedDict):
    vertex: Cost
    pixel: Cost
    channels: dict[str, Cost]
    nodes: list[Json]
    toggles: list[Json]
    bounds: Json | None


class Exposure(TypedDict):
    exposure: Number


class Pin(TypedDict):
    place: list[Number]
    light: list[Number]
    shown: list[Number]
    values: dict[str, list[Number]]


class Use(TypedDict):
    id: int
    title: str


class Uses(TypedDict):
    uses: list[Use]


class Hit(TypedDict):
    key: str
    why: str
    name: NotRequired[str]
    kind: NotRequired[Json]


class Hits(TypedDict):
    hits: list[Hit]


class RecipeState(TypedDict):
    id: int
    revision: int
    recipe: Json
    textures: dict[str, str]


class Preview(TypedDict):
    problems: dict[str, Any]
    small: dict[str, str]
    picture: str
    alpha: str
    role: str
    size: list[int]
    atlas: Json | None


class Texture(TypedDict):
    id: str
    name: str
    role: str
    green: str
    width: int
    height: int
    channels: int
    depth: str
    format: str
    revision: int
    recipe: int | None


class Textures(TypedDict):
    textures: list[Texture]


class TextureOnly(TypedDict):
    texture: Texture
    note: NotRequired[str]
    why: NotRequired[str]


class TextureFacts(TypedDict):
    texture: Texture
    channels: list[Json]
    guess: Json
    verdicts: list[Json]
    users: list[Json]


class Replaced(TypedDict):
    graphs: list[Json]
    recipes: list[Json]


class BackdropShaders(TypedDict):
    light: dict[str, str]
    seen: dict[str, str]


class Error(TypedDict):
    """``code`` is a stable word for programs; the others are sentences for people."""

    code: str
    what: str
    where: str
    mend: str


class Refusal(TypedDict):
    """What every refusal and failure says; a stale revision also tells what happened since."""

    error: Error
    revision: NotRequired[int]
    since: NotRequired[list[Json]]
