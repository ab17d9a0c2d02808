"""What answers about block models hold."""

from typing_extensions import TypedDict

from velvet_moth.core.blocks.cells import Box
from velvet_moth.core.forms.view import Camera


class BlockModelInfo(TypedDict):
    """A model in the list; ``picture`` tells one state of it from another."""

    id: int
    name: str
    revision: int
    count: int
    picture: str


class BlockModels(TypedDict):
    models: list[BlockModelInfo]


class PaletteInfo(TypedDict):
    """A stack that makes a palette; what is at the address of a swatch changes with its ``stamp``."""

    id: str
    name: str


class Palettes(TypedDict):
    palettes: list[PaletteInfo]


class EntryState(TypedDict):
    """An entry: what it is called, how many blocks have it, whether there ``is_tile`` of it, and what is set on it.

    ``graph`` shows in place of the tile, as its ``variant`` sets it. What is at the address of its picture changes with ``stamp``.
    """

    number: int
    name: str
    uses: int
    is_tile: bool
    see_through: bool
    graph: str
    variant: str
    stamp: str


class BlockModelState(TypedDict):
    """A block model but its surface. ``stamp`` tells the palette's textures from those of another state; ``view`` sees it whole."""

    id: int
    revision: int
    name: str
    size: float
    palette: str
    stamp: str
    problem: str
    entries: list[EntryState]
    merged: bool
    box: Box | None
    view: Camera
    count: int
    mesh: str
    undo: str
    redo: str


class GraphMade(TypedDict):
    id: int


class CellState(TypedDict):
    entry: int


class ChunkState(TypedDict):
    """A chunk of the surface by its place, as many ``faces`` of which follow in the order of the list."""

    at: tuple[int, int, int]
    faces: int


class BlockFaces(TypedDict):
    """Faces of four corners each: three numbers of each place, two of each coordinate, four of each direction."""

    position: list[float]
    uv: list[float]
    normal: list[float]
    tangent: list[float]


class BlockSurface(TypedDict):
    """What comes before the faces in an answer: the model, and the chunks that follow. ``is_whole`` where all others are empty."""

    state: BlockModelState
    is_whole: bool
    chunks: list[ChunkState]
