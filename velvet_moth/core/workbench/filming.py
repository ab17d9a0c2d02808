"""Films of a graph: which frames there are, what each of them shows, and whether the last goes over into the first."""

import math
from collections.abc import Callable, Iterable, Iterator
from dataclasses import dataclass, field, replace
from pathlib import Path
from typing import Any

import numpy as np
from numpy.typing import NDArray

from velvet_moth.core.base.errors import FileRefused
from velvet_moth.core.document.graph import Graph
from velvet_moth.core.forms.view import BACKGROUND
from velvet_moth.core.language.texture import Pixels
from velvet_moth.core.pictures.films import FilmFormat, FilmShape, Frame, film_format, film_writer
from velvet_moth.core.render.tracing.scene import Scene
from velvet_moth.core.workbench.session import (
    GraphSource,
    MeshSource,
    TextureSource,
    no_graphs,
    no_meshes,
    picture,
    picture_light,
)

# A film is a loop where its last step changes no pixel by more than this beyond what other steps change, of 255.
_SLACK = 2


@dataclass(frozen=True)
class Film:
    """What is filmed: frames ``first`` to ``last`` (left out) at ``rate`` a second, ``width`` x ``height`` for each variant.

    Several variants stand side by side in rows of ``across``. ``is_clear``: nothing stands behind the form. ``columns`` is how
    many frames of a sheet stand side by side.
    """

    format: str = "mp4"
    width: int = 512
    height: int = 512
    first: int = 0
    last: int = 300
    rate: int = 30
    variants: tuple[str, ...] = ("",)
    is_clear: bool = False
    columns: int = 1

    @property
    def across(self) -> int:
        """How many variants stand side by side."""
        return math.ceil(math.sqrt(len(self.variants)))

    @property
    def shape(self) -> FilmShape:
        """What a writer of films is told."""
        rows = math.ceil(len(self.variants) / self.across)
        size = self.width * self.across, self.height * rows
        return FilmShape(*size, self.last - self.first, self.rate, self.columns, BACKGROUND)

    @property
    def made(self) -> FilmFormat:
        """Its format."""
        return film_format(self.format)

    @property
    def weight(self) -> int:
        """How many bytes it will have, roughly."""
        return self.made.weight(self.shape)

    def checked(self, graph: Graph) -> "Film":
        """The film; FileRefused where it cannot be made of a graph."""
        if not self.variants or any(key and graph.variant(key) is None for key in self.variants):
            raise FileRefused("There is no such variant.", graph.title, "Choose one of the graph's.")
        if not 0 <= self.first < self.last:
            raise FileRefused("The film has no frames.", graph.title, "End it after its first frame.")
        self.made.check(self.shape)
        return self

    def time_of(self, frame: int) -> float:
        """When a frame is, in seconds: exactly so many frames after the start."""
        return frame / self.rate


@dataclass
class Loop:
    """How far the step from the last frame to the first differs from the other steps, in steps of 255."""

    first: Pixels | None = None
    before: Pixels | None = None
    largest: int = 0
    count: int = field(default=0, init=False)

    def add(self, frame: Frame) -> None:
        """The next frame, of 8 bits or of light."""
        now = _eight_bits(frame)
        if self.before is not None:
            self.largest = max(self.largest, _difference(self.before, now))
        self.first = now if self.first is None else self.first
        self.before = now
        self.count += 1

    @property
    def seam(self) -> int:
        """The largest change of a pixel from the last frame to the first."""
        return 0 if self.first is None or self.before is None else _difference(self.before, self.first)

    @property
    def words(self) -> str:
        """What is found, as a sentence."""
        if self.count < 2:
            return ""
        step = f"From the last frame to the first a pixel changes by up to {self.seam} of 255"
        if self.seam <= self.largest + _SLACK:
            return f"{step}, no more than between other frames ({self.largest}): it repeats without a seam."
        return f"{step}, between other frames by {self.largest} at most: where it repeats, that is seen."


def _eight_bits(frame: Frame) -> Pixels:
    return frame if frame.dtype == np.uint8 else np.asarray(np.rint(np.clip(frame, 0, 1) * 255), dtype=np.uint8)


def _difference(one: Pixels, other: Pixels) -> int:
    return int(np.abs(one.astype(np.int16) - other).max(initial=0))


def frames(
    film: Film,
    graph: Graph,
    textures: TextureSource,
    graphs: GraphSource = no_graphs,
    meshes: MeshSource = no_meshes,
) -> Iterator[Frame]:
    """The frames one after the other by NumPy, each the reference picture at its time."""
    drawn: Callable[..., NDArray[Any]] = picture_light if film.made.holds_light else picture
    size, brought = (film.width, film.height), meshes(graph.mesh) if graph.mesh else None
    for number in range(film.first, film.last):
        seen = []
        for variant in film.variants:
            scene = Scene.of_graph(graph, brought, variant, film.time_of(number))
            seen.append(drawn(graph, size, textures, variant, scene, graphs, meshes))
        frame = seen[0] if len(seen) == 1 else beside(seen, film.across)
        yield frame if film.is_clear else solid(frame)


def solid(frame: Frame) -> Frame:
    """A frame in which nothing is clear: the stage's own grey is seen there."""
    filled = frame.copy()
    filled[..., 3] = 255 if frame.dtype == np.uint8 else 1.0
    return filled


def beside(pictures: list[Frame], columns: int) -> Frame:
    """Pictures of one size, row 0 at the bottom, in rows from the top; what is left over is clear."""
    rows, wide, parts = pictures[0].shape
    high = math.ceil(len(pictures) / columns)
    whole: Frame = np.zeros((high * rows, columns * wide, parts), dtype=pictures[0].dtype)
    for at, made in enumerate(pictures):
        row, column = high - 1 - at // columns, at % columns
        whole[row * rows : (row + 1) * rows, column * wide : (column + 1) * wide] = made
    return whole


def write_film(
    film: Film, place: Path, pictures: Iterable[Frame], hears: Callable[[float], None] = lambda share: None
) -> Loop:
    """Writes the frames to a file as they come; tells how much is done. Whatever stops it leaves no file behind."""
    loop, shape = Loop(), film.shape
    with film_writer(film.format, place, shape) as writer:
        for number, frame in enumerate(pictures):
            writer.add(frame)
            loop.add(frame)
            hears((number + 1) / shape.frames)
    return loop


def whole_film(graph: Graph, film: Film) -> Film:
    """The film over the whole time of a graph."""
    return replace(film, first=0, last=graph.timing.frames, rate=int(graph.timing.rate))
