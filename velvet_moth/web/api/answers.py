"""What answers hold. The description at /api and the types of the scripts (``static/js/types.d.ts``) are made from these."""

from typing import Any, NotRequired

from typing_extensions import TypedDict

from velvet_moth.core.base.cache import CacheState
from velvet_moth.core.document.graph import Node, Parameter, Variant
from velvet_moth.core.document.marks import Mark
from velvet_moth.core.document.scene import BackdropMaterial, Timing
from velvet_moth.core.document.tracks.pieces import Pieces
from velvet_moth.core.document.tracks.track import Track
from velvet_moth.core.document.values import Value
from velvet_moth.core.editing.joining import Taker
from velvet_moth.core.emitting.emitter import Emitter, EmitterSource
from velvet_moth.core.forms import Pose
from velvet_moth.core.forms.view import Camera, SavedView
from velvet_moth.core.language.texture import Filter, Wrap
from velvet_moth.core.lighting.decals import Decal
from velvet_moth.core.lighting.spread import Spread
from velvet_moth.core.pictures.reading import Green, Reading, RoleKey
from velvet_moth.core.workbench.problems.record import Severity
from velvet_moth.web.api.catalogue_answers import NodeType
from velvet_moth.web.api.emitter_answers import EmitterState, SpurtRead

# An open end of a range, or a number beyond what JSON can hold, is null.
NumberOrNull = float | None


class Id(TypedDict):
    id: int


class TextId(TypedDict):
    id: str


class GraphDocument(TypedDict):
    """The document of a graph as a graph file has it."""

    format: str
    version: int
    title: str
    form: str
    mesh: str
    pose: Pose
    rig: str
    kind: str
    backdrop: str
    environment: str
    decals: list[Decal]
    rule: str
    spread: Spread
    emitter: Emitter
    spurt: str
    backdrop_materials: list[BackdropMaterial]
    views: list[SavedView]
    tags: list[str]
    timing: Timing
    nodes: list[Node]
    parameters: list[Parameter]
    tracks: dict[str, Track]
    variants: list[Variant]
    marks: list[Mark]


class Swatch(TypedDict):
    png: str
    mean: list[float]
    value: list[NumberOrNull]
    low: NumberOrNull
    high: NumberOrNull


# An operation of the core as plain data; ``op`` says which.
Operation = dict[str, Any]


class Mend(TypedDict):
    """An edit of the graph, or another reading of a texture."""

    words: str
    operation: NotRequired[Operation]
    texture: NotRequired[str]
    reading: NotRequired[Reading]


class Problem(TypedDict):
    code: str
    severity: Severity
    node: str
    input: str
    what: str
    where: str
    mends: list[Mend]


class Cost(TypedDict):
    operations: int
    reads: int
    classes: dict[str, int]


class Sampler(TypedDict):
    """``revision`` counts the changes of the texture; ``missing`` is the texture that is read as long as no other is chosen."""

    name: str
    texture: str
    missing: str
    revision: int
    key: list[str]
    wrap: list[Wrap]
    filter: Filter


class ShaderState(TypedDict):
    """A shader with where its values and textures go; its text where the page does not have it.

    ``casts``: whether what it draws keeps the sun off what lies behind; ``adds``: whether every sheet of the form adds to
    the picture, hidden or not; ``projected``: whether it paints onto what lies behind, and ``buffered``
    whether into decal buffers. ``slots`` are node, input, offset and width.
    """

    hash: str
    casts: bool
    adds: bool
    projected: bool
    buffered: bool
    floats: int
    slots: list[tuple[str, str, int, int]]
    samplers: list[Sampler]
    fragment: NotRequired[str]
    vertex: NotRequired[str]


class ShaderWithValues(TypedDict):
    shader: ShaderState
    values: list[float]


class SpurtShader(TypedDict):
    """What the stage draws where something spurts: shader, values, emitter, and the form."""

    shader: ShaderState
    values: list[float]
    emitter: EmitterState
    form: str


class TextureRead(TypedDict):
    """A texture as a graph reads it; ``revision`` counts its changes, ``signed`` ones hold directions."""

    name: str
    revision: int
    role: RoleKey
    green: Green
    signed: bool
    width: int
    height: int


class PartSurface(TypedDict):
    """A part of the backdrop with the surface of another graph: its name, and what tells its states apart."""

    part: str
    graph: str
    variant: str
    title: str
    stamp: str


class TrackState(TypedDict):
    """Keys of a target, of the graph ("") or of a variant, as the polynomial pieces that are played.

    ``parts`` name the numbers of its value; ``in_steps``: there is nothing between two of its values; ``is_colour``: it may go
    around the circle of hues.
    """

    variant: str
    target: str
    name: str
    parts: list[str]
    in_steps: bool
    is_colour: bool
    pieces: Pieces


class Gone(TypedDict):
    """What of each table is no longer there."""

    nodes: list[str]
    types: list[str]
    input_types: list[str]
    rates: list[str]
    kinds: list[str]
    problems: list[str]
    swatches: list[str]
    names: list[str]


class GraphUser(TypedDict):
    id: int
    title: str
    motif: str


class LevelRead(TypedDict):
    """A level of detail: what tells its geometry from any other, and below which size on screen it is shown, 0 to 1."""

    drawn: str
    screen: float
    triangles: int


class MeshRead(TypedDict):
    """The mesh that a graph stands on; ``drawn`` is what tells its geometry from any other, ``view`` sees it whole.

    ``diameter`` is that of a ball about it, metres; ``levels`` are simpler ones for larger distances, the nearest first.
    """

    id: str
    name: str
    drawn: str
    view: Camera
    diameter: float
    levels: list[LevelRead]


class GraphState(TypedDict):
    """Everything the workbench shows; of each table only what differs from the state the page had.

    ``inherited`` is what each variant takes from those it is based on, by parameter; ``track_owners`` whose track holds for
    each variant ("" for the defaults), by target, where that is not as for the defaults. ``kinds`` are the node types, by node, of nodes that are not in the catalogue: motifs, and types unknown here.
    ``motif`` is the type of the nodes that use this graph, where it is a motif. ``stamp`` tells every state of the graph
    and of what it uses apart. ``seen`` is the mark of this state, by which the server knows what the page has; ``gone`` is
    null where the state is whole. ``spread_inputs`` is what shaders read of how decals live. ``sources`` are
    where something spurts, once per throw that is kept. ``first_moment``: when there is
    something to see (s). ``made`` are the nodes that the edit brought, or the id of the new motif.
    """

    id: int
    revision: int
    seen: str
    stamp: str
    motif: str
    variant: str
    shown: str
    undo: str
    redo: str
    undo_edit: int
    redo_edit: int
    changed: str
    document: GraphDocument
    inherited: dict[str, dict[str, Value]]
    tracks: list[TrackState]
    track_owners: dict[str, dict[str, str]]
    shader: ShaderState
    cost: Cost
    types: dict[str, str]
    input_types: dict[str, str]
    rates: dict[str, int]
    kinds: dict[str, NodeType]
    problems: dict[str, list[Problem]]
    swatches: dict[str, Swatch]
    names: dict[str, str]
    textures: dict[str, TextureRead]
    gone: Gone | None
    part_surfaces: list[PartSurface]
    decals: list[Decal]
    spread_inputs: dict[str, list[float]]
    emitter: EmitterState | None
    sources: list[EmitterSource]
    spurt: SpurtRead | None
    first_moment: float
    mesh: MeshRead | None
    made: NotRequired[list[str] | int]


class Takers(TypedDict):
    takers: list[Taker]


class NamedVariant(TypedDict):
    id: str
    name: str


class SurfaceChoice(TypedDict):
    graph: str
    title: str
    variants: list[NamedVariant]


class SurfaceChoices(TypedDict):
    graphs: list[SurfaceChoice]


class Step(TypedDict):
    number: int
    words: str
    made: str
    done: bool


class Steps(TypedDict):
    steps: list[Step]


class Version(TypedDict):
    id: int
    name: str
    revision: int
    made: str


class History(TypedDict):
    steps: list[Step]
    versions: list[Version]


class ValueHeld(TypedDict):
    value: Value
    where: str
    made: str


class ValuesHeld(TypedDict):
    values: list[ValueHeld]


class VersionWithStamp(Version):
    stamp: str


class NamedNode(TypedDict):
    node: str
    name: str


class Comparison(TypedDict):
    version: VersionWithStamp
    stamp: str
    added: list[str]
    removed: list[NamedNode]
    changed: dict[str, list[str]]
    elsewhere: list[str]


class Range(TypedDict):
    proved: tuple[NumberOrNull, NumberOrNull]
    seen: tuple[NumberOrNull, NumberOrNull] | None
    rate: str


class Analysis(TypedDict):
    ranges: dict[str, Range]
    cost: Cost
    saved: Cost


class NodeCost(TypedDict):
    node: str
    name: str
    cost: Cost


class ToggleCost(TypedDict):
    node: str
    name: str
    input: str
    saved: Cost


class Bounds(TypedDict):
    """Boxes of the moved form, lowest and highest corner."""

    proved: list[list[float]]
    seen: list[list[float]]


class CostReport(TypedDict):
    vertex: Cost
    pixel: Cost
    channels: dict[str, Cost]
    nodes: list[NodeCost]
    toggles: list[ToggleCost]
    bounds: Bounds | None


class Exposure(TypedDict):
    exposure: NumberOrNull


class Pin(TypedDict):
    place: list[NumberOrNull]
    light: list[NumberOrNull]
    shown: list[NumberOrNull]
    values: dict[str, list[NumberOrNull]]


class Use(TypedDict):
    id: int
    title: str


class Uses(TypedDict):
    uses: list[Use]


class Hit(TypedDict):
    """A node type that was found, and why; a motif of the project brings its name and ports."""

    key: str
    why: str
    name: NotRequired[str]
    kind: NotRequired[NodeType]


class Hits(TypedDict):
    hits: list[Hit]


class ShaderText(TypedDict):
    vertex: str
    fragment: str


class BackdropShaders(TypedDict):
    light: ShaderText
    seen: ShaderText


class Caches(TypedDict):
    caches: list[CacheState]


class Error(TypedDict):
    """``code`` is a stable word for programs; the others are sentences for people."""

    code: str
    what: str
    where: str
    mend: str


class Happened(TypedDict):
    number: int
    words: str
    operation: Operation


class Refusal(TypedDict):
    """What every refusal and failure says; a stale revision also says what happened since."""

    error: Error
    revision: NotRequired[int]
    since: NotRequired[list[Happened]]
