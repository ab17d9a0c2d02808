"""What answers about exports hold."""

from typing_extensions import TypedDict


class ExportText(TypedDict):
    """The text of a graph, the name of its file, how much an engine binds, what was run to prove it, and what to know as sentences.

    ``nodes`` are the ids of the nodes that lines hold, by the numbers of the lines from 1; ``names`` what those nodes are called.
    """

    text: str
    file: str
    values: int
    switches: int
    textures: int
    floats: int
    operations: int
    proof: str
    words: list[str]
    nodes: dict[str, list[str]]
    names: dict[str, str]


class MaterialText(TypedDict):
    """A document of MaterialX, the name of its file, how many nodes it has, and what it cannot say."""

    text: str
    file: str
    nodes: int
    words: list[str]


class BakedFileState(TypedDict):
    """A baked graph: pixels a side of its textures, what it cannot say, and the mean difference in steps of 255, from each side."""

    id: str
    made: str
    bytes: int
    side: int
    variant: str
    pictures: int
    words: list[str]
    sides: list[float]
    mean: float


class BakedFiles(TypedDict):
    """What is kept of a graph."""

    files: list[BakedFileState]
