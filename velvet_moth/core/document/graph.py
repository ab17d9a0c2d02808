"""The graph document: immutable records, changed only by the operations in ``operations/``."""

from collections.abc import Iterable, Iterator, Mapping
from dataclasses import dataclass, field, replace
from functools import cached_property
from typing import Annotated, Any, get_type_hints

from pydantic import BeforeValidator, PlainSerializer
from pydantic_core import PydanticCustomError

from velvet_moth.core.base.records import OMITTED, Flag, NoteText, Number, Place, Text
from velvet_moth.core.catalogue.ports import Input
from velvet_moth.core.catalogue.registry import CATALOGUE, NodeType
from velvet_moth.core.document import scene
from velvet_moth.core.document.checks import check_fits
from velvet_moth.core.document.fields import DocumentField, declared_in, described
from velvet_moth.core.document.marks import Mark
from velvet_moth.core.document.outline import Outline, outlined_kind
from velvet_moth.core.document.references import rebound, references
from velvet_moth.core.document.scene import BackdropKey, BackdropMaterial, FormKey, KindKey, RigKey, Timing
from velvet_moth.core.document.tracks.pieces import Pieces, pieces_for
from velvet_moth.core.document.tracks.targets import Target, is_of_scene, scene_takes
from velvet_moth.core.document.tracks.track import Takes, Track
from velvet_moth.core.document.values import (
    GraphKey,
    InputKey,
    MeshId,
    Name,
    NewId,
    NodeId,
    OutputKey,
    ParameterId,
    RefersTo,
    RuleKey,
    SettingKey,
    TextureId,
    Value,
    VariantId,
    split_stops,
)
from velvet_moth.core.emitting.emitter import NO_EMITTER, Emitter
from velvet_moth.core.forms import AS_MADE, Pose
from velvet_moth.core.forms.view import SavedView
from velvet_moth.core.language.types import P_COLOUR, P_SURFACE, P_TEXTURE
from velvet_moth.core.lighting.decals import Decal
from velvet_moth.core.lighting.spread import AT_ONCE, Spread
from velvet_moth.core.nodes.surfaces import DOCK

MOST_NODES = 4000
MOST_PARAMETERS = 1000
MOST_VARIANTS = 256


@dataclass(frozen=True)
class Source:
    """The far end of a wire: an output of a node, and which ``part`` of it the wire takes ("" for all of it)."""

    node: NodeId
    output: OutputKey
    part: Text = ""

    def __post_init__(self) -> None:
        # It is looked up far more often than made.
        object.__setattr__(self, "_hash", hash((self.node, self.output, self.part)))

    def __hash__(self) -> int:
        found: int = self._hash  # type: ignore[attr-defined] # set above
        return found

    @property
    def whole(self) -> "Source":
        """The output itself."""
        return Source(self.node, self.output) if self.part else self


def _wire_in(data: Any) -> Any:
    if not isinstance(data, list):
        return data
    if len(data) not in (2, 3):
        raise PydanticCustomError("wire_end", "A wire has a node and an output, and at most a part.")
    return dict(zip(("node", "output", "part"), data, strict=False))


def _wire_out(source: Source) -> list[str]:
    return [source.node, source.output, *([source.part] if source.part else [])]


# The far end of a wire is written as a list.
WireEnd = Annotated[
    Source,
    BeforeValidator(_wire_in),
    PlainSerializer(_wire_out),
]


@dataclass(frozen=True)
class Node:
    """One node: its values on unwired inputs, its settings, its incoming wires, and where its card lies.

    ``place`` is None while the card is laid out by itself; a hand-placed card keeps its place.
    ``outline`` tells the ports of a type the catalogue does not hold. A ``muted`` node does nothing: what
    comes in goes out.
    """

    id: NewId
    type: Annotated[Text, RefersTo("type")]
    values: Annotated[Mapping[InputKey, Value], OMITTED] = field(default_factory=dict)
    settings: Annotated[Mapping[SettingKey, Any], OMITTED] = field(default_factory=dict)
    wires: Annotated[Mapping[InputKey, WireEnd], OMITTED] = field(default_factory=dict)
    label: Annotated[Name, OMITTED] = ""
    place: Annotated[Place | None, OMITTED] = None
    outline: Annotated[Outline | None, OMITTED] = None
    muted: Annotated[Flag, OMITTED] = False

    @cached_property
    def kind(self) -> NodeType:
        """Its type: of the catalogue, or as its outline describes it."""
        return outlined_kind(self.type, self.outline) if self.outline else CATALOGUE[self.type]

    @cached_property
    def settled(self) -> tuple[tuple[str, Any], ...]:
        """Every setting with its choice, the node's own or the default."""
        return tuple((k, self.settings.get(k, s.default)) for k, s in self.kind.settings.items())

    @cached_property
    def sources(self) -> dict[str, Source]:
        """Its own outputs as the far ends of wires, by key."""
        return {key: Source(self.id, key) for key in self.kind.outputs}

    @cached_property
    def ends(self) -> tuple[tuple[str, str], ...]:
        """Its inputs as the near ends of wires, (node, input)."""
        return tuple((self.id, key) for key in self.kind.inputs)

    @cached_property
    def unwired(self) -> dict[tuple[str, str], Value]:
        """What its inputs carry by themselves, by (node, input); a list of stops is one value a stop."""
        values: dict[tuple[str, str], Value] = {}
        for key, declared in self.kind.inputs.items():
            values.update(_placed(self.id, declared, self.value(key)))
        return values

    @property
    def name(self) -> str:
        """What it is called: its own label, or the name of its type."""
        return self.label or self.kind.name

    def value(self, key: str) -> Value:
        """The value an unwired input carries."""
        declared = self.kind.inputs[key]
        return self.values.get(key, "" if declared.type is P_TEXTURE else declared.default)


@dataclass(frozen=True)
class Parameter:
    """A value opened for tuning: which input of which node, under what name, range and unit.

    ``group`` is the heading it stands under; ``help`` says what it does, to whoever tunes it.
    """

    id: NewId
    name: Name
    node: NodeId
    input: InputKey
    low: Number = 0.0
    high: Number = 1.0
    step: Number = 0.01
    unit: Text = ""
    group: Text = ""
    help: Text = ""


@dataclass(frozen=True)
class Variant:
    """A named set of parameter values over those of its ``base``, another variant, or ("") the graph's defaults.

    Its ``tracks`` stand over its own values, and over the values and tracks of what it is based on.
    """

    id: NewId
    name: Name
    values: Mapping[ParameterId, Value] = field(default_factory=dict)
    base: VariantId = ""
    note: NoteText = ""
    tracks: Annotated[Mapping[Target, Track], OMITTED] = field(default_factory=dict)


@dataclass(frozen=True)
class Graph:
    """A whole graph. The dock is a node like any other, always there under the id ``dock``.

    What the fields of the scene mean is declared in ``scene.py``. ``form`` is the form it is judged on, or ``mesh`` in its place ("" for none), ``pose`` how
    large it is and how it is turned, ``rig`` the light, ``kind`` how its surface meets what lies behind (one of
    ``lighting.kinds``), ``backdrop`` that which lies
    behind ("" for the stage's grey). ``environment`` is a texture of all directions in the place of the rig's own
    surroundings ("" for those). ``decals`` are where one of that kind lies, the last on top; none for the backdrop's own
    places. ``backdrop_materials`` name each part of a backdrop once, in the order of the names. ``views`` are saved ones, ``tags``
    the words it is found by in the library, in small letters and in order.
    ``marks`` are frames, notes and bookmarks by their ids. ``tracks`` are the keys of its parameters and of parts of its scene,
    by target; ``timing`` says how long its time is, ``spread`` how its decals live, ``rule`` (a key of the project; "" for the first one) how those
    that are thrown are placed. ``emitter`` draws its form many times; ``spurt`` is the graph whose emitter starts where this one's
    decals are thrown ("" for none).

    ``motifs`` are those of the project, by the type of node that uses each; ``motif`` is the graph's own type where it is
    a motif itself. ``mended`` says what of the kept document could not be read as it stands. All three come from where
    the graph is kept and are no part of the document.
    """

    title: Name = field(metadata=described(scene.TITLE))
    nodes: Mapping[str, Node]
    form: FormKey = field(default="mooring", metadata=described(scene.FORM))
    mesh: MeshId = field(default="", metadata=described(scene.MESH))
    pose: Pose = field(default=AS_MADE, metadata=described(scene.POSE))
    rig: RigKey = field(default="open_dock", metadata=described(scene.RIG))
    kind: KindKey = field(default="solid", metadata=described(scene.KIND))
    backdrop: BackdropKey = field(default="", metadata=described(scene.BACKDROP))
    environment: TextureId = field(default="", metadata=described(scene.ENVIRONMENT))
    decals: tuple[Decal, ...] = field(default=(), metadata=described(scene.DECALS))
    backdrop_materials: tuple[BackdropMaterial, ...] = field(default=(), metadata=described(scene.BACKDROP_MATERIALS))
    views: tuple[SavedView, ...] = field(default=(), metadata=described(scene.VIEWS))
    tags: tuple[Text, ...] = field(default=(), metadata=described(scene.TAGS))
    rule: RuleKey = field(default="", metadata=described(scene.RULE))
    spread: Spread = field(default=AT_ONCE, metadata=described(scene.SPREAD))
    emitter: Emitter = field(default=NO_EMITTER, metadata=described(scene.EMITTER))
    spurt: GraphKey = field(default="", metadata=described(scene.SPURT))
    timing: Timing = field(default=Timing(), metadata=described(scene.TIMING))
    parameters: tuple[Parameter, ...] = ()
    variants: tuple[Variant, ...] = ()
    tracks: Mapping[str, Track] = field(default_factory=dict)
    marks: Mapping[str, Mark] = field(default_factory=dict)
    motifs: Mapping[str, "Motif"] = field(default_factory=dict, compare=False)
    motif: str = field(default="", compare=False)
    mended: tuple[str, ...] = field(default=(), compare=False)

    def with_node(self, node: Node) -> "Graph":
        """The same graph with this node, in the place of one of its id."""
        return replace(self, nodes={**self.nodes, node.id: node})

    def noted(self, mended: tuple[str, ...]) -> "Graph":
        """The same graph, which says what of its document was mended."""
        return replace(self, mended=mended)

    def parameter(self, key: str) -> Parameter | None:
        """The parameter of that id, if there is one."""
        return next((p for p in self.parameters if p.id == key), None)

    def parameter_at(self, node: str, key: str) -> Parameter | None:
        """The parameter that opens that input of that node, if one does."""
        return next((p for p in self.parameters if (p.node, p.input) == (node, key)), None)

    def variant(self, key: str) -> Variant | None:
        """The variant of that id, if there is one."""
        return next((v for v in self.variants if v.id == key), None)

    def _chosen(self, variant: str) -> dict[tuple[str, str], Value]:
        """What a variant sets, by (node, input)."""
        held = self.set_by(variant)
        return {(p.node, p.input): held[p.id] for p in self.parameters if p.id in held}

    def _line(self, variant: str) -> list[Variant]:
        """What a variant is based on, the last of them first, and the variant itself."""
        by_id = {v.id: v for v in self.variants}
        line: dict[str, Variant] = {}
        key = variant
        while key in by_id and key not in line:
            line[key] = by_id[key]
            key = by_id[key].base
        return [*reversed(line.values())]

    def set_by(self, variant: str) -> dict[str, Value]:
        """What a variant and those it is based on set, by parameter."""
        return {parameter: value for one in self._line(variant) for parameter, value in one.values.items()}

    def tracks_of(self, variant: str = "") -> dict[str, Track]:
        """The tracks that hold for a variant, by target: the graph's, where neither it nor its bases set anything else."""
        tracks = {"": self.tracks, **{v.id: v.tracks for v in self.variants}}
        return {target: tracks[owner][target] for target, owner in self.track_owners(variant).items()}

    def takes(self, target: str) -> Takes | None:
        """What the keys of a target hold; None where it is a parameter that is not there."""
        if is_of_scene(target):
            return scene_takes(target, self.decals)
        parameter = self.parameter(target)
        if parameter is None:
            return None
        node = self.nodes[parameter.node]
        declared = node.kind.inputs[parameter.input]
        return Takes(
            parameter.name,
            lambda value: check_fits(declared, value, f"{node.name}, {declared.name}"),
            _parts_of(declared),
            declared.in_steps,
            declared.type.stop,
            declared.type is P_COLOUR,
        )

    def track_owners(self, variant: str = "") -> dict[str, str]:
        """Whose track holds for a variant, by target: its own, one's that it is based on, or ("") the graph's."""
        found = dict.fromkeys(self.tracks, "")
        for one in self._line(variant):
            found = {target: owner for target, owner in found.items() if target not in one.values}
            found |= dict.fromkeys(one.tracks, one.id)
        return found

    def pieces_of(self, variant: str = "") -> Mapping[str, Pieces]:
        """The tracks that hold for a variant as polynomial pieces, by target."""
        found = self._pieces.get(variant)
        if found is None:
            known = ((target, track, self.takes(target)) for target, track in self.tracks_of(variant).items())
            found = {target: pieces_for(track, takes) for target, track, takes in known if takes is not None}
            self._pieces[variant] = found
        return found

    @cached_property
    def _pieces(self) -> dict[str, Mapping[str, Pieces]]:
        """Those that were asked for, by variant: a film asks for the same at every frame."""
        return {}

    def keyed_values(self, variant: str, time: float) -> dict[str, Value]:
        """What every keyed target of a variant is at a time (seconds)."""
        return {target: pieces.at(time) for target, pieces in self.pieces_of(variant).items()}

    def _at(self, variant: str, time: float) -> dict[tuple[str, str], Value]:
        """What a variant sets, and what is keyed at a time, by (node, input)."""
        keyed = self.keyed_values(variant, time) if self.tracks or self.variants else {}
        opened = ((p, keyed.get(p.id)) for p in self.parameters)
        return self._chosen(variant) | {(p.node, p.input): value for p, value in opened if value is not None}

    def uniform_values(self, variant: str = "", time: float = 0.0) -> dict[tuple[str, str], Value]:
        """Every unwired value by (node, input), with what the variant sets or keys, at a time (seconds), in place of defaults.

        A list of stops gives one value a stop, under ``input#number``; textures inside motifs stand
        under ``motif/node``.
        """
        values: dict[tuple[str, str], Value] = {}
        for n in self.nodes.values():
            values.update(n.unwired)
        for (node, key), value in self._at(variant, time).items():
            declared = self.nodes[node].kind.inputs[key]
            for old in _placed(node, declared, self.nodes[node].value(key)):
                del values[old]
            values.update(_placed(node, declared, value))
        for type_, motif in self.used_motifs().items():
            for (inner, key), _ in motif.graph.own_textures():
                values[f"{type_}/{inner}", key] = motif.graph.nodes[inner].value(key)
        return values

    def used_motifs(self) -> dict[str, "Motif"]:
        """The motifs this graph needs, those inside motifs included, by type."""
        found: dict[str, Motif] = {}
        todo = [self]
        while todo:
            types = {n.type for n in todo.pop().nodes.values() if n.outline is not None}
            for type_ in sorted(types & set(self.motifs) - set(found)):
                found[type_] = self.motifs[type_]
                todo.append(found[type_].graph)
        return found

    def texture_ids(self) -> set[str]:
        """The ids of all textures it reads, whatever the variant."""
        held: list[Mapping[Any, Value]] = [
            self.uniform_values(),
            *(n.values for n in self.nodes.values()),
            *(v.values for v in self.variants),
        ]
        in_nodes = {value for values in held for value in values.values() if isinstance(value, str) and value}
        return in_nodes | self.keyed_textures() | self.referred("texture")

    def every_track(self) -> Iterator[tuple[str, str, Track]]:
        """Every track with the variant it belongs to ("" for the graph) and its target."""
        for variant, tracks in (("", self.tracks), *((v.id, v.tracks) for v in self.variants)):
            for target, track in tracks.items():
                yield variant, target, track

    def keyed_textures(self) -> set[str]:
        """The ids of the textures that keys choose, whatever the variant."""
        held = (key.value for _, _, track in self.every_track() for key in track.keys)
        return {value for value in held if isinstance(value, str) and value}

    def referred(self, what: str) -> set[str]:
        """The ids of such things (a texture, a graph) that its fields refer to; those on nodes are values."""
        return {key for name in FIELDS for key in references(getattr(self, name), FIELD_TYPES[name], what) if key}

    def with_references(self, what: str, ids: Mapping[str, str]) -> "Graph":
        """The same graph, its fields referring to other things of that sort."""
        changed = {name: rebound(getattr(self, name), FIELD_TYPES[name], what, ids) for name in FIELDS}
        return replace(self, **changed)

    def own_textures(self) -> list[tuple[tuple[str, str], Input]]:
        """Every (node, input) of this graph that holds a texture, with what it declares."""
        return [
            ((n.id, key), declared)
            for n in self.nodes.values()
            for key, declared in n.kind.inputs.items()
            if declared.type is P_TEXTURE
        ]

    def outputs_read(self) -> dict[str, set[str]]:
        """Which outputs of each node are wired to anything."""
        found: dict[str, set[str]] = {}
        for node in self.nodes.values():
            for source in node.wires.values():
                found.setdefault(source.node, set()).add(source.output)
        return found

    def settled(self, variant: str) -> "Graph":
        """The graph with a variant's values where they shape the shader: toggles and lists of stops."""
        chosen = self._at(variant, 0.0)
        if not chosen:
            return self
        nodes = dict(self.nodes)
        for (key, name), value in chosen.items():
            if name in nodes[key].kind.inputs and nodes[key].kind.inputs[name].shapes_the_shader:
                nodes[key] = replace(nodes[key], values={**nodes[key].values, name: value})
        return replace(self, nodes=nodes)

    def readers(self, node: str) -> list[tuple[str, str, Source]]:
        """Every (node, input, source) whose wire comes from ``node``."""
        return [
            (other.id, key, source)
            for other in self.nodes.values()
            for key, source in other.wires.items()
            if source.node == node
        ]

    def reaches(self, start: str, goal: str) -> bool:
        """Whether ``goal`` is upstream of ``start``, or the same node."""
        return any(key == goal for key in self.upstream([start]))

    def upstream(self, starts: Iterable[str]) -> Iterator[str]:
        """Every node that some nodes get anything from, and these themselves."""
        seen: set[str] = set()
        todo = list(starts)
        while todo:
            current = todo.pop()
            if current not in seen:
                seen.add(current)
                yield current
                todo.extend(source.node for source in self.nodes[current].wires.values())


@dataclass(frozen=True, eq=False)
class Motif:
    """A graph kept as one node of others; its motif inputs and outputs are that node's ports."""

    type: str
    graph: Graph


def _parts_of(declared: Input) -> tuple[str, ...]:
    """The names of the numbers of a value."""
    if declared.type is P_COLOUR:
        return "Red", "Green", "Blue"
    return () if declared.in_steps or declared.type.stop else ("x", "y", "z", "w")


def _placed(node: str, declared: Input, value: Value) -> dict[tuple[str, str], Value]:
    """Where the value of one unwired input stands among the values of a graph."""
    if declared.type.stop and not isinstance(value, str):
        return {(node, f"{declared.key}#{i}"): stop for i, stop in enumerate(split_stops(declared, value))}
    return {} if declared.type is P_SURFACE or declared.source else {(node, declared.key): value}


def empty_graph(title: str) -> Graph:
    """A graph with nothing but its dock."""
    return Graph(title, {DOCK: Node(DOCK, DOCK)})


# The fields that are set as a whole, and the type of each.
FIELDS: Mapping[str, DocumentField] = declared_in(Graph)
FIELD_TYPES: Mapping[str, Any] = {
    name: hint for name, hint in get_type_hints(Graph, include_extras=True).items() if name in FIELDS
}
