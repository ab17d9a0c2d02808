"""What the scripts of a page know of the core, sent with the page; types of the scripts are made from these too."""

from typing_extensions import TypedDict

from velvet_moth.core.forms.mesh import Cells
from velvet_moth.core.forms.view import Camera, Lamp
from velvet_moth.web.api.block_answers import BlockFaces
from velvet_moth.web.api.catalogue_answers import NodeType
from velvet_moth.web.api.rule_answers import RulePartState
from velvet_moth.web.api.texture_answers import StepKind


class WirePart(TypedDict):
    """What a wire can take of a value: of which types, and what comes out."""

    words: str
    given: list[str]
    made: str


class RigState(TypedDict):
    """A light rig as it first stands: angles in degrees, linear light."""

    turn: float
    tilt: float
    colour: list[float]
    exposure: float
    far: list[float]
    lamps: list[Lamp]


class SunPicture(TypedDict):
    """The picture that the sun sees: pixels a side, and what stands in it where nothing is met."""

    size: int
    nothing: float


class WayState(TypedDict):
    """A way from one key to the next, by its name and in words."""

    name: str
    words: str


class SceneTargetState(TypedDict):
    """A part of the scene that takes keys: its name, and those of its numbers with the ends they may have."""

    name: str
    parts: dict[str, tuple[float, float]]


class InstanceSettings(TypedDict):
    """What shaders read of an instance and of its emitter where there is none (``idle``), and the textures that hold what

    instances know, so many ``across``.
    """

    idle: dict[str, list[float]]
    textures: list[str]
    across: int


class StageSettings(TypedDict):
    """What the scripts of the stage know of the core.

    ``views`` and ``backdrops``: from where each form and backdrop is first seen, ``standing`` what somebody sees who
    stands in a backdrop, ``own_backdrops``: those that are the graph's form or mesh; ``cells``: of how many cells along a side forms may be made, where that can be chosen;
    ``looks``: what else can be looked at, by key; ``lamps``: the most a rig has; ``harmonics``: the names of those of the environment's diffuse light; ``decal_buffers``: what those hold where
    there is no decal.
    """

    views: dict[str, Camera]
    cells: dict[str, Cells]
    backdrops: dict[str, Camera]
    own_backdrops: list[str]
    backdrop_parts: dict[str, dict[str, str]]
    standing: dict[str, Camera]
    looks: dict[str, str]
    rigs: dict[str, RigState]
    instances: InstanceSettings
    sun: SunPicture
    lamps: int
    harmonics: list[str]
    decal_buffers: dict[str, tuple[float, ...]]


class PageSettings(StageSettings):
    """What the scripts of the workbench know of the core.

    ``fits``: how well a type flows into another, 3 as it is, 2 widened, 1 a part of it, 0 not at all; ``stops``: how many
    numbers one stop of a gradient or curve has; ``asked_by_kind``: inputs of the dock that a kind of surface wants to be
    shown, though they do nothing yet, ``idle_by_kind`` those that it makes no use of; ``brush_steps``: the steps on
    meshes that a brush draws on; ``ways``: the ways from one key to the next; ``scene_targets`` and ``decal_parts``: what of the
    scene, and of each decal, takes keys; ``rule_parts``: the parts of a rule of placing, ``curve_ways`` how their curves go;
    ``easings`` are the ways by which decals spread, ``decal_endings`` what becomes of them, ``most_decals`` how many a graph keeps;
    ``emitter_paths`` and ``emitter_facings``: how instances run and where they turn, ``most_instance_numbers`` how many each is given.
    """

    nodes: dict[str, NodeType]
    fits: dict[str, dict[str, int]]
    type_words: dict[str, str]
    strands: dict[str, int]
    parts: dict[str, WirePart]
    tints: list[str]
    stops: dict[str, int]
    asked_by_kind: dict[str, list[str]]
    idle_by_kind: dict[str, list[str]]
    brush_steps: list[StepKind]
    ways: dict[str, WayState]
    scene_targets: dict[str, SceneTargetState]
    decal_parts: dict[str, SceneTargetState]
    rule_parts: dict[str, RulePartState]
    curve_ways: dict[str, WayState]
    easings: list[str]
    decal_endings: dict[str, str]
    most_decals: int
    emitter_paths: dict[str, str]
    emitter_facings: dict[str, str]
    most_instance_numbers: int


class ShapeKind(TypedDict):
    """A shape that is drawn: whether it goes from one end to another."""

    name: str
    words: str
    has_ends: bool


class BlockSettings(StageSettings):
    """What the scripts of the blocks know of the core: shapes, ways of drawing, cells along a ``side``, the one at the ``origin``.

    ``block`` are the faces of one of 1 m in that cell.
    ``margin``: so many cells of ground are seen about a model; ``entries_by`` are the ways to find entries of a mesh.
    """

    shapes: dict[str, ShapeKind]
    block_ways: dict[str, str]
    side: int
    origin: tuple[int, int, int]
    margin: int
    block: BlockFaces
    entries_by: dict[str, str]
    formats: dict[str, str]
    reads: dict[str, str]
