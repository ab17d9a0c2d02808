"""What answers about textures and the stacks that make them hold; see ``answers``."""

from typing import Any, Literal, NotRequired

from typing_extensions import TypedDict

from velvet_moth.core.pictures.inspection import Guess, Verdict
from velvet_moth.core.pictures.reading import Green, RoleKey
from velvet_moth.core.stacks.stack import Output
from velvet_moth.web.api.answers import GraphUser, NumberOrNull
from velvet_moth.web.api.catalogue_answers import Setting


class TakenFrom(TypedDict):
    """Where a step takes something from: a layer of a step above, or a texture."""

    step: NotRequired[str]
    layer: NotRequired[str]
    texture: NotRequired[str]


class RecipeTile(TypedDict):
    name: str
    maps: dict[str, list[float] | TakenFrom]


class StackStepState(TypedDict):
    id: str
    step: str
    values: dict[str, Any]


class StepKind(TypedDict):
    key: str
    name: str
    group: str
    help: str
    layers: list[str]
    gives: dict[str, str]
    reshapes: bool
    begins: bool
    settings: list[Setting]


class Recipe(TypedDict):
    name: str
    size: list[int]
    steps: list[StackStepState]
    outputs: list[Output]


class RecipeState(TypedDict):
    """A stack as it is edited. ``textures`` are those it has made, by output; ``is_made`` says whether they are as it is now."""

    id: int
    revision: int
    stack: Recipe
    textures: dict[str, str]
    is_made: bool
    undo: str
    redo: str


class StackInfo(TypedDict):
    """A stack in a list; ``has_textures`` says whether it has made any that are there."""

    id: int
    name: str
    steps: int
    has_textures: bool


class Stacks(TypedDict):
    stacks: list[StackInfo]


class AtlasGrid(TypedDict):
    """The grid of a step's tiles; boxes are least u, least v, most u, most v of each cell's inside."""

    columns: int
    rows: int
    clean: int
    boxes: list[tuple[float, float, float, float]]


class Preview(TypedDict):
    problems: dict[str, str]
    small: dict[str, str]
    picture: str
    alpha: str
    role: RoleKey | Literal[""]
    size: list[int]
    atlas: AtlasGrid | None


class SheetFrames(TypedDict):
    """How many columns and rows of frames a sheet has, and how many are played a second."""

    columns: int
    rows: int
    rate: float


class TextureInfo(TypedDict):
    """``recipe`` is the stack that made it, ``mesh`` the id of the mesh that it was baked of and follows, ``frames`` what a sheet of

    frames holds; null for others.
    """

    id: str
    name: str
    role: RoleKey
    green: Green
    width: int
    height: int
    channels: int
    depth: str
    format: str
    revision: int
    recipe: int | None
    mesh: str | None
    frames: SheetFrames | None


class Textures(TypedDict):
    textures: list[TextureInfo]


class TextureOnly(TypedDict):
    texture: TextureInfo
    note: NotRequired[str]
    why: NotRequired[str]


class ChannelFacts(TypedDict):
    name: str
    low: NumberOrNull
    high: NumberOrNull
    mean: NumberOrNull
    low_clip: float
    high_clip: float
    span: list[float]
    counts: list[int]
    constant: bool


class TextureFacts(TypedDict):
    texture: TextureInfo
    channels: list[ChannelFacts]
    guess: Guess
    verdicts: list[Verdict]
    users: list[GraphUser]
