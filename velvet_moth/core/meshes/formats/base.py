"""What a file format of meshes declares of itself."""

from collections.abc import Callable, Mapping, Sequence
from dataclasses import dataclass

from velvet_moth.core.meshes.source import SourceMesh

# The files that come together, by their bare names.
Files = Mapping[str, bytes]


class Damaged(Exception):
    """A file that cannot be read; the text is a sentence that says why."""


@dataclass(frozen=True)
class MeshFormat:
    """One open file format: how it is recognised, what its axes and unit are, and how it is read.

    ``up`` and ``unit`` are what the format itself says; empty where it says nothing. ``decode`` reads the file of a name,
    which may refer to others that came with it. ``encode`` writes a mesh that is in metres with y up, with levels of detail
    where it ``holds_levels``; ``keeps`` says for people what of it the file can hold, and ``mimetype`` is its own.
    """

    key: str
    name: str
    suffixes: tuple[str, ...]
    is_this: Callable[[bytes], bool]
    decode: Callable[[Files, str], SourceMesh]
    encode: Callable[..., bytes]
    keeps: str
    mimetype: str
    up: str = ""
    unit: str = ""
    holds_levels: bool = False

    def written(self, mesh: SourceMesh, levels: Sequence[SourceMesh] = ()) -> bytes:
        """A mesh as a file, with its levels of detail where the format holds any."""
        return self.encode(mesh, levels) if self.holds_levels else self.encode(mesh)
