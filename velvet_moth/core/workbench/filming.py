"""Films of a graph: which frames there are, what each of them shows, and whether the last goes over into the first."""

import math
from collections.abc import Callable, Iterable, Iterator
from dataclasses import dataclass, field, replace
from typing import Any, BinaryIO

import cv2
import numpy as np
from numpy.typing import NDArray

from velvet_moth.core.base.errors import FileRefused
from velvet_moth.core.document.graph import Graph
from velvet_moth.core.forms.view import BACKGROUND, Camera
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
    many frames of a sheet stand side by side. ``camera`` and ``light`` (turn and tilt, degrees) are where eye and light are, where
    they are not keyed and not where they first stand.
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
    camera: Camera | None = None
    light: tuple[float, float] | None = None

    @property
    def across(self) -> int:
        """How many variants stand side by side."""
        return max(math.ceil(math.sqrt(len(self.variants))), 1)

    @property
    def shape(self) -> FilmShape:
        """What a writer of films needs to know."""
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

    def seen(self, scene: Scene) -> Scene:
        """A scene from where the film sees it."""
        rig = scene.rig if self.light is None else replace(scene.rig, turn=self.light[0], tilt=self.light[1])
        return replace(scene, camera=self.camera or scene.camera, rig=rig)

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
    return int(cv2.absdiff(one, other).max())


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
    first = film.seen(Scene.of(graph.form, graph.rig, graph.backdrop).judging(graph, brought))
    for number in range(film.first, film.last):
        seen = []
        for variant in film.variants:
            scene = replace(first, time=film.time_of(number)).keyed(graph, variant)
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


class Filming:
    """Frames that are written to an open file as they come; ``loop`` looks at them on the way."""

    def __init__(self, film: Film, file: BinaryIO) -> None:
        self.film, self.shape, self.loop = film, film.shape, Loop()
        self.writer = film_writer(film.format, file, self.shape)

    def add(self, frame: Frame) -> None:
        """The next frame, (rows, columns, 4), row 0 at the bottom; FileRefused where it is one too many or of another size."""
        wanted = (self.shape.height, self.shape.width, 4)
        if frame.shape != wanted or self.loop.count >= self.shape.frames:
            raise FileRefused("This frame does not belong to the film.", "film", "Begin the film again.")
        self.writer.add(frame)
        self.loop.add(frame)

    def finish(self) -> None:
        """Ends the film; FileRefused where frames are missing."""
        if self.loop.count < self.shape.frames:
            raise FileRefused(
                f"{self.loop.count} of {self.shape.frames} frames have come.", "film", "Begin the film again."
            )
        self.writer.finish()


def write_film(
    film: Film, file: BinaryIO, pictures: Iterable[Frame], hears: Callable[[float], None] = lambda share: None
) -> Loop:
    """Writes the frames to an open file as they come, and says how much is done."""
    filming = Filming(film, file)
    for number, frame in enumerate(pictures):
        filming.add(frame)
        hears((number + 1) / filming.shape.frames)
    filming.finish()
    return filming.loop


def whole_film(graph: Graph, film: Film) -> Film:
    """The film over the whole time of a graph."""
    return replace(film, first=0, last=graph.timing.frames, rate=int(graph.timing.rate))
