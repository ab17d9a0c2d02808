"""What requests may hold."""

from typing import Annotated, Any, Literal

from pydantic import AfterValidator, BaseModel, ConfigDict, Field, StringConstraints

from velvet_moth.core.baking.operations import AnyStackOperation
from velvet_moth.core.base.records import LONGEST_TEXT
from velvet_moth.core.document.tracks.track import LAST_TIME, Track
from velvet_moth.core.editing.crafts import Craft
from velvet_moth.core.forms.view import Camera
from velvet_moth.core.language.inputs import MOST_LAMPS
from velvet_moth.core.meshes.normals import SMOOTH_BELOW
from velvet_moth.core.meshes.orient import Unit, Up
from velvet_moth.core.operations import AnyOperation, Batch, Operation, RestoreNodes
from velvet_moth.core.pictures.reading import Green, RoleKey
from velvet_moth.core.stacks.stroke import MOST_POINTS, Stroke
from velvet_moth.core.throwing.operations import AnyRuleOperation
from velvet_moth.core.throwing.placing import Aim, Throw
from velvet_moth.core.workbench.filming import Film

Id = Annotated[int, Field(ge=0, le=2**31 - 1)]
Key = Annotated[str, StringConstraints(pattern=r"^([a-z][a-z0-9_]{0,31})?$")]
NodeKey = Annotated[str, StringConstraints(pattern=r"^[a-z][a-z0-9_]{0,31}$")]
Title = Annotated[str, StringConstraints(min_length=1, max_length=80, strip_whitespace=True)]
Shown = Annotated[str, StringConstraints(pattern=r"^([a-z][a-z0-9_]{0,31}\.[a-z][a-z0-9_]{0,31})?$")]
Mark = Annotated[str, StringConstraints(max_length=20_000)]
Hash = Annotated[str, StringConstraints(max_length=64)]


class Strict(BaseModel):
    model_config = ConfigDict(extra="forbid")


class ViewRequest(Strict):
    """Which variant and which output are looked at, and what the page has already."""

    variant: Key = ""
    shown: Shown = ""
    shader: Hash = ""
    # The mark of the state the page has: where it is the last one known here, only what differs from it is sent.
    seen: Mark = ""
    # What the swatches are drawn on; "form" is the graph's own.
    swatch: Literal["dome", "plane", "sphere", "form"] = "dome"


class ShaderRequest(ViewRequest):
    """The shader of a variant at a time (seconds), while a motif of it is being edited, under its own rig ("") or another."""

    inside: Key = ""
    rig: Key = ""
    folded: bool = False
    time: Annotated[float, Field(ge=0.0, le=LAST_TIME)] = 0.0


class PictureRequest(BaseModel):
    """A picture of a variant; whatever else is asked tells the browser's memory one state from another.

    ``fresh``: painted by this program, however long that takes; otherwise another one may stand in.
    """

    variant: Key = ""
    fresh: bool = False


class CostRequest(Strict):
    """What a variant costs, and the box of the form that it moves."""

    variant: Key = ""
    form: Key = "mooring"


class BehindRequest(Strict):
    """What lies behind, under a rig with so many lamps; ``decals``: as they leave its surface."""

    lamps: Annotated[int, Field(ge=0, le=MOST_LAMPS)] = 0
    decals: bool = False


class GeometryRequest(Strict):
    """What of a form is drawn; ``faces``: with what is the same all over each triangle."""

    faces: bool = False


class BackdropShaderRequest(BehindRequest):
    """A graph as the surface of a part of a backdrop."""

    variant: Key = ""


class SpurtRequest(Strict):
    """In which variant something is thrown."""

    variant: Key = ""


class SearchRequest(Strict):
    """Words that are looked for."""

    q: Annotated[str, Field(max_length=80)] = ""


class SaveRequest(Strict):
    """One channel of a picture, or ("") all of it."""

    channel: Annotated[str, Field(max_length=16)] = ""


class SaveAllRequest(Strict):
    """The format of all textures, and the pattern of their names."""

    format: Annotated[str, Field(max_length=16)] = "png"
    names: Annotated[str, Field(max_length=200)] = "{name}_{role}"


class StepRequest(ViewRequest):
    """Undo or redo, on the revision the page saw."""

    revision: Id


# An edit of more steps would keep others waiting; files bring larger changes.
MOST_STEPS = 3000


def _not_too_long(operation: Operation) -> Operation:
    todo: list[Operation] = [operation]
    steps = 0
    while todo:
        found = todo.pop()
        steps += 1
        if isinstance(found, Batch):
            todo += found.operations
        elif isinstance(found, RestoreNodes):
            steps += len(found.wires) + len(found.nodes)
        if steps > MOST_STEPS:
            raise ValueError(f"an edit has at most {MOST_STEPS} steps")
    return operation


class EditRequest(StepRequest):
    """One edit on the revision the page saw."""

    operation: Annotated[AnyOperation, AfterValidator(_not_too_long)]


class RuleRequest(Strict):
    """A rule of placing to be kept, as its file has it; without one the first there is."""

    rule: Any = None


class RuleEdit(Strict):
    """One edit of a rule on the revision the page saw."""

    revision: Id
    operation: AnyRuleOperation


# A request of more would keep others waiting; many throws are a job.
MOST_THROWS = 60


class ThrowRequest(Strict):
    """Throws at the scene of a graph: by the rule it names, or by another that is being changed (``rule``, as its file has it)."""

    aims: Annotated[list[Aim], Field(max_length=MOST_THROWS)] = []
    throws: Annotated[list[Throw], Field(max_length=MOST_THROWS)] = []
    rule: Any = None


class JudgeRequest(Strict):
    """How many throws are judged, from which eye, by which rule (as its file has it), and from which seed on."""

    count: Annotated[int, Field(ge=10, le=1000)] = 500
    seed: Annotated[int, Field(ge=0, le=65535)] = 1
    variant: Key = ""
    camera: Camera
    rule: Any = None


class FrameRequest(Strict):
    """What a film is called."""

    name: Title


class FilmRequest(FrameRequest):
    """A film that is asked for."""

    film: Film


class TrackRequest(Strict):
    """Keys of a target, which are not kept yet."""

    target: Annotated[str, Field(max_length=LONGEST_TEXT)]
    track: Track


class CraftRequest(StepRequest):
    """One movement of the hand on the revision the page saw; the core works out the operations."""

    craft: Annotated[Craft, Field(discriminator="craft")]


class JumpRequest(StepRequest):
    """Which step of the history is to be the newest that holds; 0 is before all of them."""

    number: Id


class VersionRequest(Strict):
    """The name a version is kept under."""

    name: Title


class NodeRequest(StepRequest):
    """Something done to one node, on the revision the page saw."""

    node: NodeKey


class TakersRequest(Strict):
    """The nodes whose outputs are to be wired, by their ids with commas between."""

    nodes: Annotated[str, Field(max_length=200_000)]


class MotifRequest(StepRequest):
    """A motif made of some nodes, on the revision the page saw."""

    nodes: Annotated[list[NodeKey], Field(max_length=4000)]
    title: Title


Metres = Annotated[float, Field(ge=-1e5, le=1e5)]
Turn = Annotated[float, Field(ge=-360, le=360)]
Tilt = Annotated[float, Field(ge=-90, le=90)]


class EyeRequest(ViewRequest):
    """A form under a rig, seen from an eye, at a moment; angles in degrees."""

    form: Key = "mooring"
    rig: Key = "open_dock"
    backdrop: Key = ""
    turn: Turn = 32.0
    tilt: Tilt = 24.0
    distance: Annotated[float, Field(ge=1e-4, le=1e5)] = 4.6
    field: Annotated[float, Field(ge=1, le=120)] = 30.0
    target_x: Metres = 0.0
    target_y: Metres = 0.0
    target_z: Metres = 0.0
    light_turn: Turn = 58.0
    light_tilt: Tilt = 42.0
    time: Annotated[float, Field(ge=0, le=3600)] = 0.0
    # 0 for the rig's own.
    exposure: Annotated[float, Field(ge=0, le=1000)] = 0.0
    # The level of detail of a mesh that is drawn; 0 is the full mesh.
    level: Annotated[int, Field(ge=0, le=64)] = 0


class AnalysisRequest(EyeRequest):
    """What one node runs over and costs, seen on a form from an eye."""

    node: NodeKey


Side = Annotated[int, Field(ge=1, le=8192)]


class PinRequest(EyeRequest):
    """A pixel of the stage's picture, by its column and its row from the bottom."""

    width: Side
    height: Side
    column: Annotated[int, Field(ge=0, le=8191)]
    row: Annotated[int, Field(ge=0, le=8191)]

    @property
    def size(self) -> tuple[int, int]:
        return self.width, self.height

    @property
    def pixel(self) -> tuple[int, int]:
        """Inside the picture, wherever was asked for."""
        return min(self.column, self.width - 1), min(self.row, self.height - 1)


class RoleRequest(Strict):
    """How a new texture is to be read; empty where the picture itself is to say."""

    role: RoleKey | Literal[""] = ""


class ReadingRequest(Strict):
    """How a texture is read."""

    role: RoleKey
    green: Green = "up"


class MeshReadingRequest(Strict):
    """How the file of a mesh is read: which axis is up, its unit, and below which angle (degrees) missing normals are smooth."""

    up: Up
    unit: Unit
    smooth_below: Annotated[float, Field(ge=0.0, le=180.0)] = SMOOTH_BELOW


class MeshSaveRequest(Strict):
    """What of a mesh is saved: its colours, in a depth or as they came; its levels of detail."""

    colours: bool = True
    levels: bool = False
    depth: Literal["", "8 bit", "16 bit", "float"] = ""


class NameRequest(Strict):
    """The new name of a texture."""

    name: Title


class ReplaceRequest(Strict):
    """The texture that takes the place of another."""

    by: Key


class LevelsRequest(Strict):
    """``v`` is the texture's revision, which the browser's memory goes by; ``most`` the largest side wanted."""

    v: Id = 0
    most: Annotated[int, Field(ge=1, le=65536)] = 65536


class RecipeRequest(Strict):
    """A stack of steps as plain data; the core checks what is in it."""

    recipe: dict[str, Any]


class StackStep(Strict):
    """Something done to a stack on the revision the page saw."""

    revision: Id


class StackEdit(StackStep):
    """One edit of a stack."""

    operation: AnyStackOperation


class PreviewRequest(RecipeRequest):
    """Which layer of which step is looked at, and how large at most."""

    step: Annotated[str, Field(max_length=32)] = ""
    layer: Annotated[str, Field(max_length=32)] = ""
    most: Annotated[int, Field(ge=16, le=1024)] = 512


class MeshMendRequest(StackStep):
    """The verdict that is mended, and the channel it is about."""

    verdict: Annotated[str, Field(max_length=32)]
    channel: Annotated[str, Field(max_length=32)] = ""


class SoftenRequest(StackStep):
    """The channel that is softened as is suggested at a level of detail, 0 being the nearest."""

    channel: Annotated[str, Field(max_length=32)]
    level: Annotated[int, Field(ge=0, le=16)]


class MeshTextureRequest(Strict):
    """Which channels of a mesh, or the directions of which step of its stack, become which texture."""

    channels: Annotated[list[Annotated[str, Field(max_length=32)]], Field(max_length=4)] = []
    step: Annotated[str, Field(max_length=32)] = ""
    name: Annotated[str, Field(max_length=80)]
    size: Annotated[int, Field(ge=64, le=4096)] = 512
    depth: Literal["8 bit", "16 bit", "half float"] = "8 bit"
    padding: Annotated[int, Field(ge=0, le=64)] = 8


class MeshPreviewRequest(Strict):
    """Which layer of which step of a stack on a mesh is looked at; with ``rays`` in a hurry, with no more at a vertex than that."""

    stack: dict[str, Any]
    step: Annotated[str, Field(max_length=32)] = ""
    layer: Annotated[str, Field(max_length=32)] = ""
    rays: Annotated[int, Field(ge=0, le=1024)] = 0


class ChannelsRequest(Strict):
    """A stack on a mesh as the page has it, and the step whose directions are looked at; empty for none."""

    stack: dict[str, Any]
    step: Annotated[str, Field(max_length=32)] = ""


class LinesRequest(Strict):
    """Which directions of a stack on a mesh are looked at as lines; each is as long as ``length`` metres times its speed."""

    stack: dict[str, Any]
    step: Annotated[str, Field(max_length=32)]
    count: Annotated[int, Field(ge=1, le=4000)] = 1200
    length: Annotated[float, Field(gt=0, le=10000)]


class MovedRequest(Strict):
    """How a texture is moved by directions: how often it is repeated, how far and how fast it goes."""

    texture: Annotated[str, Field(max_length=32)]
    repeat: Annotated[float, Field(ge=0.05, le=64)] = 4.0
    strength: Annotated[float, Field(ge=0, le=1)] = 0.3
    speed: Annotated[float, Field(ge=0, le=4)] = 0.5


class StrokesAtRequest(Strict):
    """A place on a mesh, in its own metres."""

    x: Metres
    y: Metres
    z: Metres


class FormRequest(Strict):
    """A form by its key, such as plane:24."""

    form: Annotated[str, Field(min_length=1, max_length=40)]


class BrushRequest(Strict):
    """New points of a stroke that is being drawn, with its brush; ``begun`` are so many that the server knows already.

    ``stack`` comes with the first of them: the stack as the page has it.
    """

    drawing: Annotated[str, Field(min_length=1, max_length=40)]
    step: Annotated[str, Field(max_length=32)]
    begun: Annotated[int, Field(ge=0, le=MOST_POINTS)]
    stroke: Stroke
    stack: dict[str, Any] | None = None


class TilesRequest(Strict):
    """The tiles of the library from the one numbered ``start`` on, in an order of ``listing.ORDERS``.

    ``q`` is in a title or a tag; ``tags`` are parted by commas, and all of them are on it.
    """

    start: Id = 0
    motifs: bool = False
    q: Annotated[str, Field(max_length=80)] = ""
    tags: Annotated[str, Field(max_length=400)] = ""
    sort: Annotated[str, Field(max_length=20)] = ""


class NewGraph(Strict):
    title: Title = "New graph"
    starter: Key = ""
