"""What answers about meshes hold; see ``answers``."""

from typing_extensions import TypedDict

from velvet_moth.core.baking.levels import LevelWanted
from velvet_moth.core.meshes.orient import Unit, Up
from velvet_moth.core.stacks.stack import Output
from velvet_moth.core.stacks.stroke import Fill, Mode, Painted
from velvet_moth.web.api.answers import GraphUser, MeshRead
from velvet_moth.web.api.job_answers import JobState
from velvet_moth.web.api.texture_answers import StackStepState


class MeshInfo(MeshRead):
    """A mesh as lists show it; sizes in metres."""

    revision: int
    format: str
    vertices: int
    triangles: int
    size: list[float]


class MeshPart(TypedDict):
    name: str
    triangles: int


class MeshChannel(TypedDict):
    """One number at the vertices, over all of them; ``values`` is how many different ones there are."""

    name: str
    low: float
    high: float
    mean: float
    values: int


class MeshVerdict(TypedDict):
    """A sentence about a mesh, or one channel of it; ``mend`` says what one press does about it, where anything can be done."""

    key: str
    severity: str
    words: str
    channel: str
    mend: str


class MeshReadingState(TypedDict):
    """How its file is read: the axis that is up, the unit, and below which angle (degrees) missing normals are smooth."""

    up: Up
    unit: Unit
    smooth_below: float


class ChannelLoss(TypedDict):
    """How far a channel of a level is off; ``words`` is empty where that is not worth a sentence, ``mend`` where a blur does not halve it."""

    channel: str
    rms: float
    most: float
    words: str
    mend: str


class MeshLevel(TypedDict):
    """A level of detail as it was made: ``error`` in metres, ``screen`` the size below which it is shown."""

    vertices: int
    triangles: int
    share: float
    error: float
    screen: float
    losses: list[ChannelLoss]


class MeshFacts(TypedDict):
    """A mesh with what was found out about it, in words too, and the graphs that stand on it."""

    mesh: MeshInfo
    reading: MeshReadingState
    notes: list[str]
    files: list[str]
    has_uvs: bool
    depth: str
    carried: dict[str, str]
    places: int
    pieces: int
    area: float
    low: list[float]
    high: list[float]
    parts: list[MeshPart]
    channels: list[MeshChannel]
    verdicts: list[MeshVerdict]
    levels: list[MeshLevel]
    users: list[GraphUser]


class Vertex(TypedDict):
    """A vertex with what it holds (metres, y up; four or eight numbers), and the triangle and part that were looked at."""

    index: int
    face: int
    part: str
    place: list[float]
    normal: list[float]
    uv: list[float]
    colours: list[float]


class MeshStack(TypedDict):
    """A stack on a mesh. Its outputs are channels: their ids are places, their names what they mean."""

    name: str
    steps: list[StackStepState]
    outputs: list[Output]
    levels: list[LevelWanted]
    weights: dict[str, float]


class MeshStackState(TypedDict):
    """A stack as it is edited; ``is_made`` says whether the mesh is as it would make it now."""

    id: int
    revision: int
    stack: MeshStack
    is_made: bool
    undo: str
    redo: str


class StrokeState(TypedDict):
    """A stroke as lists show it: so many ``points``, the ``first`` in metres; ``misses``: it meets no surface."""

    mode: Mode
    touches: list[Painted]
    value: float
    fill: Fill
    points: int
    first: list[float]
    misses: bool


class StrokesState(TypedDict):
    """``channels``: which of the four numbers that a brush shows each channel keeps, by the channel's place."""

    channels: dict[str, int]
    strokes: list[StrokeState]


class StrokesOver(TypedDict):
    """The numbers of strokes that go over a place, the last one first."""

    strokes: list[int]


class MeshPreview(TypedDict):
    """A step as it was looked at. ``geometry`` and ``values`` are names to fetch them by; ``values`` is empty for a form.

    Of directions they are three numbers at a vertex: along U, along V, and the speed, which the range is of.

    ``is_rough``: with no more ``rays`` at a vertex, and some step asks for more.
    """

    problems: dict[str, str]
    small: dict[str, str]
    geometry: str
    values: str
    is_directions: bool
    is_rough: bool
    rays: int
    vertices: int
    triangles: int
    low: float
    high: float
    mean: float


class Meshes(TypedDict):
    meshes: list[MeshInfo]


class MeshOnly(TypedDict):
    mesh: MeshInfo


class MeshComing(TypedDict):
    """A mesh that has come in, or the job that reads its files: one of them is there. The job's subject is the mesh in the end."""

    mesh: MeshInfo | None
    job: JobState | None


class WayToWrite(TypedDict):
    """A format that meshes can be saved in, and what of one it keeps."""

    key: str
    name: str
    keeps: str
