"""The parts of a glTF 2.0 document that a mesh needs, checked as they are read. What is not named here is passed over."""

from typing import Annotated, Any

from pydantic import BaseModel, ConfigDict, Field
from pydantic.alias_generators import to_camel

# An attribute of our own, as the standard allows with a leading underscore: four more numbers at each vertex.
SECOND_COLOUR = "_SECOND_COLOUR"

Index = Annotated[int, Field(ge=0)]
Attributes = dict[str, Index]


class _Part(BaseModel):
    model_config = ConfigDict(extra="ignore", alias_generator=to_camel)


class Buffer(_Part):
    """Bytes: in the file itself, in its text, or in a file beside it."""

    byte_length: Index
    uri: str | None = None


class BufferView(_Part):
    """A stretch of a buffer."""

    buffer: Index
    byte_offset: Index = 0
    byte_length: Annotated[int, Field(ge=1)]
    byte_stride: Annotated[int, Field(ge=1, le=252)] | None = None


class SparsePlaces(_Part):
    """Which values of an accessor are others."""

    buffer_view: Index
    byte_offset: Index = 0
    component_type: int


class SparseValues(_Part):
    """What they are."""

    buffer_view: Index
    byte_offset: Index = 0


class Sparse(_Part):
    """Values of an accessor that differ from those of its stretch."""

    count: Index
    indices: SparsePlaces
    values: SparseValues


class Accessor(_Part):
    """How values are kept in a stretch of bytes; without one they are 0."""

    buffer_view: Index | None = None
    byte_offset: Index = 0
    component_type: int
    normalized: bool = False
    count: Annotated[int, Field(ge=1)]
    type: str
    sparse: Sparse | None = None


class Primitive(_Part):
    """Triangles with their vertices; ``mode`` is how indices make triangles."""

    attributes: Attributes
    indices: Index | None = None
    mode: int = 4
    targets: list[Any] = []
    extensions: dict[str, Any] = {}


class MeshPart(_Part):
    """Primitives that belong together."""

    name: str = ""
    primitives: list[Primitive]


class Node(_Part):
    """A mesh at a place, and what moves with it."""

    name: str = ""
    mesh: Index | None = None
    children: list[Index] = []
    matrix: Annotated[list[float], Field(min_length=16, max_length=16)] | None = None
    translation: Annotated[list[float], Field(min_length=3, max_length=3)] = [0.0, 0.0, 0.0]
    rotation: Annotated[list[float], Field(min_length=4, max_length=4)] = [0.0, 0.0, 0.0, 1.0]
    scale: Annotated[list[float], Field(min_length=3, max_length=3)] = [1.0, 1.0, 1.0]


class SceneOfNodes(_Part):
    """What is shown together."""

    nodes: list[Index] = []


class Asset(_Part):
    """Which glTF it is."""

    version: str


class Document(_Part):
    """A whole file."""

    asset: Asset
    scene: Index | None = None
    scenes: list[SceneOfNodes] = []
    nodes: list[Node] = []
    meshes: list[MeshPart] = []
    accessors: list[Accessor] = []
    buffer_views: list[BufferView] = []
    buffers: list[Buffer] = []
    extensions_required: list[str] = []
    materials: list[Any] = []
    skins: list[Any] = []
    animations: list[Any] = []
    cameras: list[Any] = []
