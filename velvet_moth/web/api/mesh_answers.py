"""What answers about meshes hold; see ``answers``."""

from typing_extensions import TypedDict

from velvet_moth.core.forms.view import Camera
from velvet_moth.core.meshes.orient import Unit, Up
from velvet_moth.web.api.answers import GraphUser


class MeshInfo(TypedDict):
    """A mesh as lists show it. ``drawn`` tells its geometry from any other; ``view`` sees it whole; sizes in metres."""

    id: str
    name: str
    revision: int
    format: str
    drawn: str
    vertices: int
    triangles: int
    size: list[float]
    view: Camera


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
    key: str
    severity: str
    words: str


class MeshReadingState(TypedDict):
    """How its file is read: the axis that is up, the unit, and below which angle (degrees) missing normals are smooth."""

    up: Up
    unit: Unit
    smooth_below: float


class MeshFacts(TypedDict):
    """A mesh with what was found out about it, in words too, and the graphs that stand on it."""

    mesh: MeshInfo
    reading: MeshReadingState
    notes: list[str]
    files: list[str]
    has_uvs: bool
    depth: str
    places: int
    pieces: int
    area: float
    low: list[float]
    high: list[float]
    parts: list[MeshPart]
    channels: list[MeshChannel]
    verdicts: list[MeshVerdict]
    users: list[GraphUser]


class Vertex(TypedDict):
    """A vertex with what it holds (metres, y up), and the triangle and part that were looked at."""

    index: int
    face: int
    part: str
    place: list[float]
    normal: list[float]
    uv: list[float]
    colours: list[float]


class Meshes(TypedDict):
    meshes: list[MeshInfo]


class MeshOnly(TypedDict):
    mesh: MeshInfo


class WayToWrite(TypedDict):
    """A format that meshes can be saved in, and what of one it keeps."""

    key: str
    name: str
    keeps: str
